package typebench_test

import (
	"bytes"
	"encoding/binary"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	ot "github.com/go-text/typesetting/font/opentype"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gobolditalic"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/desk"
	"ivelt/core/fontfile/fontwrite"
	"ivelt/core/outfit"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
	"ivelt/core/typebench"
	"ivelt/core/typeset"
)

// change changes a table of a font.
type change func(tag string, table []byte) []byte

// font puts the four styles of a family into the home's fonts, or some of them.
func font(t *testing.T, b *plantest.Bench, family string, of change, styles ...string) {
	t.Helper()
	for style, ttf := range map[string][]byte{"Regular": goregular.TTF, "Bold": gobold.TTF, "Italic": goitalic.TTF, "Bold Italic": gobolditalic.TTF} {
		if strings.Contains(family, "Mono") {
			ttf = gomono.TTF
		}
		if len(styles) > 0 && !slices.Contains(styles, style) {
			continue
		}
		raw, err := fontwrite.Renamed(ttf, map[int]string{1: family, 2: style, 13: "BSD"}, func(tag string, table []byte) []byte {
			if tag == "OS/2" && strings.Contains(style, "Bold") {
				binary.BigEndian.PutUint16(table[4:], 700)
			}
			if of != nil {
				table = of(tag, table)
			}
			return table
		})
		require.NoError(t, err)
		b.Write(".local/share/fonts/"+family+" "+style+".ttf", string(raw), 0o644)
	}
}

// glyph is the number of a letter of Go Mono's or Go's regular face.
func glyph(t *testing.T, ttf []byte, r rune) int {
	f, err := typeset.Load(ttf, 0)
	require.NoError(t, err)
	l, ok := f.Letter(r)
	require.True(t, ok)
	return int(l.ID)
}

// uneven says that all letters are equally wide (OpenType 1.9, post isFixedPitch), whether they are
// or not.
func uneven(tag string, table []byte) []byte {
	if tag == "post" {
		table[15] = 1
	}
	return table
}

// plain takes the letters beyond ASCII out of a font: their segments of the character map begin behind
// their ends (OpenType 1.9, cmap format 4).
func plain(tag string, table []byte) []byte {
	if tag != "cmap" {
		return table
	}
	for i := range int(binary.BigEndian.Uint16(table[2:])) {
		sub := table[binary.BigEndian.Uint32(table[8+8*i:]):]
		if binary.BigEndian.Uint16(sub) != 4 {
			continue
		}
		segments := int(binary.BigEndian.Uint16(sub[6:]))
		for k := 0; k < segments-2; k += 2 {
			if start := sub[16+segments+k:]; binary.BigEndian.Uint16(start) > '~' {
				binary.BigEndian.PutUint16(start, 0xffff)
			}
		}
	}
	return table
}

// permitted sets what the file says of being put into documents.
func permitted(bits uint16) change {
	return func(tag string, table []byte) []byte {
		if tag == "OS/2" {
			binary.BigEndian.PutUint16(table[8:], bits)
		}
		return table
	}
}

// asAnother shows one letter as another whose outline takes no more bytes (OpenType 1.9, glyf, and loca,
// which is long in the Go fonts).
func asAnother(t *testing.T, ttf []byte, shown, as rune) change {
	l, err := ot.NewLoader(bytes.NewReader(ttf))
	require.NoError(t, err)
	loca, err := l.RawTable(ot.MustNewTag("loca"))
	require.NoError(t, err)
	at := func(r rune) (from, to int) {
		id := 4 * glyph(t, ttf, r)
		return int(binary.BigEndian.Uint32(loca[id:])), int(binary.BigEndian.Uint32(loca[id+4:]))
	}
	return func(tag string, table []byte) []byte {
		if tag == "glyf" {
			from, to := at(as)
			into, end := at(shown)
			require.GreaterOrEqual(t, end-into, to-from)
			copy(table[into:end], table[from:to])
		}
		return table
	}
}

// shared is the group of the shared settings in a key file, as the descriptors name it.
func shared() string {
	for _, s := range desk.Builtin() {
		if f, ok := s.Facet(desk.FacetTextScale); ok {
			return strings.ReplaceAll(f.Sources[0].Group, ".", "/")
		}
	}
	return ""
}

// TestEachFaultIsFoundAndCleared: what each check finds on a desk, and the choices that clear it,
// planned, carried out, measured again, and gone back on.
func TestEachFaultIsFoundAndCleared(t *testing.T) {
	const usual = `<fontconfig><match><edit name="family" mode="append_last"><string>Good</string></edit></match><include prefix="xdg">fontconfig/fonts.conf</include></fontconfig>`
	const gtk3 = "[Settings]\ngtk-font-name=%\n"
	cases := []struct {
		code   string
		says   string
		font   string // of the interface
		mono   string
		lang   string
		env    map[string]string
		values string
		fonts  func(t *testing.T, b *plantest.Bench)
		remedy []typebench.Choice
	}{
		{
			code: "family-missing", says: "Interface: Nowhere is not there, and Good is shown instead.", font: "Nowhere 11", remedy: []typebench.Choice{{Facet: "font", Value: "Good 11"}},
		},
		{
			code: "letters-missing", says: "Poor lacks 7 of 59 letters for German: ÄÖÜßäöü.", font: "Poor 11", lang: "de_AT.UTF-8",
			fonts:  func(t *testing.T, b *plantest.Bench) { font(t, b, "Poor", plain) },
			remedy: []typebench.Choice{{Facet: "font", Value: "Good 11"}},
		},
		{
			code: "widths-differ", says: "Ragged says that all its letters are equally wide, and these are not:", font: "Good 11", mono: "Ragged 11",
			fonts:  func(t *testing.T, b *plantest.Bench) { font(t, b, "Ragged", uneven) },
			remedy: []typebench.Choice{{Facet: "font-mono", Value: "Good Mono 11"}},
		},
		{
			code: "not-fixed", says: "Good is not of fixed width: columns do not line up.", font: "Good 11", mono: "Good 11", remedy: []typebench.Choice{{Facet: "font-mono", Value: "Good Mono 11"}},
		},
		{
			code: "letters-alike", says: "Twin Mono: letters that look the same: 0 O.", font: "Good 11", mono: "Twin Mono 11",
			fonts:  func(t *testing.T, b *plantest.Bench) { font(t, b, "Twin Mono", asAnother(t, gomono.TTF, '0', 'O')) },
			remedy: []typebench.Choice{{Facet: "font-mono", Value: "Good Mono 11"}},
		},
		{
			code: "styles-faked", says: "Lone has no bold, italic, bold italic: programs make it up.", font: "Lone 11",
			fonts:  func(t *testing.T, b *plantest.Bench) { font(t, b, "Lone", nil, "Regular") },
			remedy: []typebench.Choice{{Facet: "font", Value: "Good 11"}},
		},
		{
			code: "restricted", says: "without leave of its owner", font: "Kept 11",
			fonts:  func(t *testing.T, b *plantest.Bench) { font(t, b, "Kept", permitted(2)) },
			remedy: []typebench.Choice{{Facet: "font", Value: "Good 11"}},
		},
		{
			code: "preview-only", says: "only into documents that are read and printed", font: "Seen 11",
			fonts:  func(t *testing.T, b *plantest.Bench) { font(t, b, "Seen", permitted(4)) },
			remedy: []typebench.Choice{{Facet: "font", Value: "Good 11"}},
		},
		{
			code: "sits-apart", says: "Fixed width: an x is 9.9 px tall, and beside it in the interface 7.8 px.", font: "Good 11", mono: "Good Mono 14",
			remedy: []typebench.Choice{{Facet: "font-mono", Value: "Good Mono 11"}},
		},
		{
			code: "sizes-disagree", font: "Good 11", env: map[string]string{"XDG_SESSION_TYPE": "wayland"},
			says:   "11 pt are not the same everywhere.",
			values: "text-scaling-factor=1.5",
		},
		{
			code: "sizes-disagree", says: "11 pt are not the same everywhere. GTK 3 programs, GTK 4 programs: 29.3 px; Qt programs: 14.7 px.", font: "Good 11", env: map[string]string{"GDK_SCALE": "2"},
			remedy: []typebench.Choice{{Facet: "display-scale", Value: "200"}},
		},
		{
			code: "drawn-otherwise", says: "Letters are not drawn alike. Hinting:", font: "Good 11", env: map[string]string{"XDG_SESSION_TYPE": "wayland"},
			values: "font-hinting='none'",
		},
	}
	for _, c := range cases {
		t.Run(c.code, func(t *testing.T) {
			b := plantest.New(t)
			font(t, b, "Good", nil)
			font(t, b, "Good Mono", nil)
			if c.fonts != nil {
				c.fonts(t, b)
			}
			b.Write(plantest.GTK3, strings.Replace(gtk3, "%", c.font, 1), 0o644)
			b.Write(plantest.GTK4, strings.Replace(gtk3, "%", c.font, 1), 0o644)
			b.D.SetSurfaces(slices.DeleteFunc(desk.Builtin(), func(s desk.Surface) bool { return s.ID == "gtk2" || s.ID == "gtk4-own" }))
			b.D.Env = c.env
			if b.D.Env == nil {
				b.D.Env = map[string]string{}
			}
			b.D.Env["LANG"], b.D.Env["GSETTINGS_BACKEND"] = c.lang, "keyfile"
			b.D.Env["QT_QPA_PLATFORMTHEME"] = "gtk3"
			values := "[" + shared() + "]\nfont-name='" + c.font + "'\n" + c.values + "\n"
			if c.mono != "" {
				values += "monospace-font-name='" + c.mono + "'\n"
			}
			b.Write(".config/glib-2.0/settings/keyfile", values, 0o644)
			system := filepath.Join(b.Dir, "system")
			require.NoError(t, os.CopyFS(filepath.Join(system, "usr/share/glib-2.0/schemas"), os.DirFS("testdata")))
			for name, text := range map[string]string{"etc/fonts/fonts.conf": usual, "usr/lib/x/qt5/plugins/platformthemes/libqgtk3.so": ""} {
				require.NoError(t, os.MkdirAll(filepath.Join(system, filepath.Dir(name)), 0o755))
				require.NoError(t, os.WriteFile(filepath.Join(system, name), []byte(text), 0o644))
			}
			before := b.Tree()

			of := func(found []typebench.Finding) *typebench.Finding {
				i := slices.IndexFunc(found, func(f typebench.Finding) bool { return f.Code == c.code })
				if i < 0 {
					return nil
				}
				return &found[i]
			}
			bench := typebench.On(b.D, typebench.Read(b.D), nil)
			found := of(bench.Find())
			require.NotNil(t, found, "%+v", bench.Findings)
			require.Contains(t, found.Text, c.says)
			require.NotEmpty(t, found.Remedy)
			if c.remedy != nil {
				require.Equal(t, c.remedy, found.Remedy)
			}
			o := outfit.Outfit{Name: "Mended"}
			for _, choice := range found.Remedy {
				o = o.With(choice.Facet, choice.Value)
			}
			p, err := planning.Dress(t.Context(), b.D, o)
			require.NoError(t, err)
			require.NoError(t, b.Apply(p))
			after := typebench.On(b.D, typebench.Read(b.D), nil)
			require.Nil(t, of(after.Find()), "%+v", after.Sizings)
			require.NoError(t, b.Apply(b.Back(planning.Aim{}, p).Plan))
			require.Equal(t, before, b.Tree())
			require.NotNil(t, of(typebench.On(b.D, typebench.Read(b.D), nil).Find()))
		})
	}
}

// TestBadFontsGiveASentence: what is no font, or a damaged one, is told of, and is none.
func TestBadFontsGiveASentence(t *testing.T) {
	dir := t.TempDir()
	nameless, err := fontwrite.Renamed(goregular.TTF, map[int]string{5: "1"}, nil)
	require.NoError(t, err)
	empty, err := fontwrite.Renamed(goregular.TTF, map[int]string{1: "Empty"}, func(tag string, table []byte) []byte {
		if tag == "glyf" || tag == "cmap" || tag == "hmtx" {
			return nil
		}
		return table
	})
	require.NoError(t, err)
	for name, raw := range map[string][]byte{"nameless.ttf": nameless, "empty.ttf": empty, "cut.ttf": goregular.TTF[:5000], "text.ttf": []byte("no font at all"), "nothing.ttf": nil} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), raw, 0o644))
	}
	families, wrong := typebench.In(os.DirFS(dir), []string{"nameless.ttf", "empty.ttf", "cut.ttf", "text.ttf", "nothing.ttf", "gone.ttf"})
	require.Len(t, families, 1)
	require.Len(t, wrong, 5)
	for _, f := range families {
		if m, err := typebench.Measure(&f, []string{"en"}); err != nil {
			require.ErrorContains(t, err, "empty.ttf")
		} else {
			require.NotEmpty(t, m.Lacks)
		}
	}
}
