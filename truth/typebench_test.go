package truth

import (
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io/fs"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/golang/freetype/truetype"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/fontconf"
	"ivelt/core/fontfile"
	"ivelt/core/reading"
	"ivelt/core/specimen"
	"ivelt/core/typebench"
	"ivelt/core/typeset"
	"ivelt/core/xsettings"
)

// fontFile is a font file of a package.
type fontFile struct {
	path string
	part string
}

// fontFiles are those of Debian's usual fonts and of the packages of the list.
func fontFiles(t *testing.T) (out []fontFile) {
	t.Helper()
	add := func(folder, part string) {
		require.NoError(t, filepath.WalkDir(folder, func(p string, e fs.DirEntry, err error) error {
			if ext := strings.ToLower(filepath.Ext(p)); err == nil && e.Type().IsRegular() && (ext == ".ttf" || ext == ".otf" || ext == ".ttc") {
				out = append(out, fontFile{p, part})
			}
			return err
		}))
	}
	for _, name := range []string{"dejavu", "liberation", "lato"} {
		add("/usr/share/fonts/truetype/"+name, "worked")
	}
	for _, p := range realPacks(t) {
		if folder := filepath.Join(p.root, "usr/share/fonts"); exists(folder) {
			add(folder, p.part())
		}
	}
	return out
}

// some is every so many of the files, of each part.
func some(of []fontFile, every int) (out []fontFile) {
	n := map[string]int{}
	for _, f := range of {
		if n[f.part]%every == 0 || *all {
			out = append(out, f)
		}
		n[f.part]++
	}
	return out
}

// TestLettersAreThoseOfFontconfig: what each language needs is what fontconfig's library says
// (Debian: libfontconfig-dev), and each font has the languages whose letters it has whole, as
// fc-query finds them (Debian: fontconfig). Of Chinese, Japanese and Korean fontconfig takes one
// alone where a font says that it is made for it; that is not followed, and not counted.
func TestLettersAreThoseOfFontconfig(t *testing.T) {
	t.Parallel()
	table := lines(output(t, exec.CommandContext(t.Context(), build(t, "letters", "fontconfig", "libfontconfig-dev"))))
	slices.Sort(table)
	require.Len(t, fontconf.Languages(), len(table))
	for _, line := range table {
		name, ranges, _ := strings.Cut(line, ",")
		n := 0
		for text := range strings.FieldsSeq(ranges) {
			var from, to int
			if k, _ := fmt.Sscanf(text, "%x-%x", &from, &to); k == 1 {
				to = from
			}
			for r := from; r <= to; r++ {
				require.Equal(t, rune(r), fontconf.Letters(name)[n], name)
				n++
			}
		}
		require.Len(t, fontconf.Letters(name), n, name)
	}
	alone := []string{"ja", "ko", "zh-cn", "zh-hk", "zh-mo", "zh-sg", "zh-tw"}
	parts := map[string]*score{"worked": {}, "held out": {}}
	for _, f := range fontFiles(t) {
		raw, err := os.ReadFile(f.path)
		require.NoError(t, err)
		faces := lines(output(t, tool(t, "fc-query", "fontconfig", "--format", "%{index}\t%{variable}\t%{lang}\n", f.path)))
		for _, line := range faces {
			words := strings.Split(line, "\t")
			index, err := strconv.Atoi(words[0])
			require.NoError(t, err)
			if index > 0xffff { // an instance of a variable font, with the same letters
				continue
			}
			face, err := typeset.Load(raw, index)
			require.NoError(t, err, f.path)
			for _, name := range fontconf.Languages() {
				if slices.Contains(alone, name) {
					continue
				}
				ours := !slices.ContainsFunc(fontconf.Letters(name), func(r rune) bool { return !face.Has(r) })
				parts[f.part].all++
				if theirs := slices.Contains(strings.Split(words[2], "|"), name); ours == theirs {
					parts[f.part].same++
				} else if f.part == "worked" {
					t.Errorf("%s, %s: fc-query %v, Ivelt %v", f.path, name, theirs, ours)
				}
			}
		}
	}
	for part, s := range parts {
		t.Logf("%s: %d of %d languages of faces as fc-query has them", part, s.same, s.all)
		require.Greater(t, float64(s.same), 0.999*float64(s.all), part)
	}
}

// TestLettersAreAsWideAndTallAsHarfBuzzHasThem (Debian: libharfbuzz-bin): the widths of letters, and
// what they cover, in each font of the packages, to the unit.
func TestLettersAreAsWideAndTallAsHarfBuzzHasThem(t *testing.T) {
	t.Parallel()
	letters := []rune("xHo0Il1|Omigé")
	parts := map[string]*score{"worked": {}, "held out": {}}
	for _, f := range some(fontFiles(t), 5) {
		raw, err := os.ReadFile(f.path)
		require.NoError(t, err)
		face, err := typeset.Load(raw, 0)
		require.NoError(t, err, f.path)
		var glyphs []struct{ G, AX, XB, YB, W, H float64 }
		out := output(t, tool(t, "hb-shape", "libharfbuzz-bin", "--output-format=json", "--no-glyph-names", "--no-clusters", "--show-extents", "--features=-liga,-kern,-calt,-clig,-ccmp", "--unicodes="+codes(letters), f.path))
		require.NoError(t, json.Unmarshal([]byte(out), &glyphs), out)
		if len(glyphs) != len(letters) {
			continue // letters that it has not, or that become others
		}
		for k, g := range glyphs {
			l, ok := face.Letter(letters[k])
			if !ok || int(g.G) != int(l.ID) {
				continue
			}
			u := face.Upem()
			near := func(a, b float64) bool { return math.Abs(a-b*u) < 1.01 }
			parts[f.part].all++
			if near(g.AX, l.Wide) && near(g.XB, l.Left) && near(g.YB, l.Top) && near(g.XB+g.W, l.Right) && near(g.YB+g.H, l.Bottom) {
				parts[f.part].same++
			} else if f.part == "worked" {
				t.Errorf("%s, %c: HarfBuzz %+v, Ivelt %+v", f.path, letters[k], g, l)
			}
		}
	}
	for part, s := range parts {
		t.Logf("%s: %d of %d letters", part, s.same, s.all)
		require.Greater(t, float64(s.same), 0.99*float64(s.all), part)
	}
}

func codes(letters []rune) string {
	var out []string
	for _, r := range letters {
		out = append(out, fmt.Sprintf("%x", r))
	}
	return strings.Join(out, ",")
}

// TestLettersAreFittedAsFreeTypeFitsThem: points of letters as the fonts' instructions set them,
// held against FreeType with its interpreter of version 35, and with that of version 40, whose
// points are taken up and down alone; and the coverage of what is not fitted, grey and for the three
// parts of a pixel (Debian: libfreetype-dev).
func TestLettersAreFittedAsFreeTypeFitsThem(t *testing.T) {
	t.Parallel()
	reference := build(t, "freetype", "freetype2", "libfreetype-dev")
	ask := func(version, mode string, f fontFile, size float64, first, count int) []string {
		c := exec.CommandContext(t.Context(), reference, f.path, "0", strconv.FormatFloat(size, 'f', -1, 64), mode, strconv.Itoa(first), strconv.Itoa(count))
		c.Env = []string{"FREETYPE_PROPERTIES=truetype:interpreter-version=" + version}
		return lines(output(t, c))
	}
	fitted := map[string]map[string]*[2]score{}
	covered := map[string]*score{"worked": {}, "held out": {}}
	fonts, r := 0, rand.New(rand.NewPCG(28, 3))
	for _, f := range some(fontFiles(t), 7) {
		raw, err := os.ReadFile(f.path)
		require.NoError(t, err)
		font, err := specimen.Load(raw, 0)
		require.NoError(t, err, f.path)
		size := []float64{10, 11, 12, 40.0 / 3, 44.0 / 3, 16, 20, 24}[r.IntN(8)]
		if font.Hints() {
			fonts++
			for version, h := range map[string]specimen.Hinting{"35": specimen.Whole, "40": specimen.UpAndDown} {
				if fitted[version] == nil {
					fitted[version] = map[string]*[2]score{"worked": {}, "held out": {}}
				}
				s := fitted[version][f.part]
				glyph := truetype.GlyphBuf{}
				for _, line := range ask(version, "points", f, size, 3, 120) {
					words := strings.Fields(line)
					id, err := strconv.Atoi(words[0])
					require.NoError(t, err)
					points, _, ok := font.Points(&glyph, uint32(id), size, h)
					if !ok || len(words) > 1 && words[1] == "failed" {
						continue
					}
					require.Len(t, points, len(words)-1, "%s, glyph %d", f.path, id)
					for k, p := range points {
						var x, y int
						_, err := fmt.Sscanf(words[k+1], "%d,%d", &x, &y)
						require.NoError(t, err)
						off := max(int(p.X)-x, x-int(p.X), int(p.Y)-y, y-int(p.Y))
						s[0].all++
						s[1].all++
						if off <= 1 {
							s[0].same++
						}
						if off <= 8 {
							s[1].same++
						}
					}
				}
			}
		}
		for _, order := range []string{"", "rgb"} {
			letter := []rune("aeghmR&8")[r.IntN(8)]
			l, ok := font.Set.Letter(letter)
			if !ok || l.Right <= l.Left {
				continue
			}
			line := font.Draw(string(letter), size, specimen.Rendering{Order: order})
			var id, left, top, w, h int
			var text string
			_, err := fmt.Sscan(ask("40", map[string]string{"": "grey", "rgb": "lcd"}[order], f, size, int(l.ID), 1)[0], &id, &left, &top, &w, &h, &text)
			require.NoError(t, err)
			theirs, err := hex.DecodeString(text)
			require.NoError(t, err)
			off, parts := 0, map[string]int{"": 1, "rgb": 3}[order]
			for y := range h {
				for x := range w {
					for c := range parts {
						a := int(theirs[(y*w+x)*parts+c])
						b := int(line.Cover[3*((line.Base-top+y)*line.Wide+2+left+x)+c])
						off = max(off, a-b, b-a)
					}
				}
			}
			covered[f.part].all++
			if off <= 4 { // of 255: coverage is rounded, and points are in 64ths of a pixel there
				covered[f.part].same++
			} else if f.part == "worked" {
				t.Logf("%s, %c at %g px %q: coverage is up to %d of 255 off", f.path, letter, size, order, off)
			}
		}
	}
	for version, parts := range fitted {
		for part, s := range parts {
			t.Logf("version %s, %s: %d of %d points to a 64th of a pixel, %d to an eighth", version, part, s[0].same, s[0].all, s[1].same)
			require.Greater(t, float64(s[1].same), map[string]float64{"35": 0.95, "40": 0.85}[version]*float64(s[1].all), "%s, %s", version, part)
		}
	}
	for part, s := range covered {
		t.Logf("%s: %d of %d letters covered as FreeType covers them", part, s.same, s.all)
		require.Greater(t, float64(s.same), 0.9*float64(s.all), part)
	}
	t.Logf("in %d fonts with instructions", fonts)
}

// TestPermissionsAreThoseOfFreeType: what files say of being put into documents, FT_Get_FSType_Flags.
func TestPermissionsAreThoseOfFreeType(t *testing.T) {
	t.Parallel()
	reference := build(t, "freetype", "freetype2", "libfreetype-dev")
	n := 0
	for _, f := range some(fontFiles(t), 8) {
		raw, err := os.ReadFile(f.path)
		require.NoError(t, err)
		faces, err := fontfile.Parse(raw)
		require.NoError(t, err, f.path)
		theirs := output(t, exec.CommandContext(t.Context(), reference, f.path, "0", "12", "permission", "0", "0"))
		require.Equal(t, strings.TrimSpace(theirs), strconv.Itoa(faces[0].Embedding), f.path)
		n++
	}
	t.Logf("%d fonts", n)
}

// TestTextIsAsLargeAsToolkitsMakeIt makes sessions in which much says how many pixels an inch has,
// and asks GTK 2, 3 and 4 and Qt 5 (Debian: libgtk2.0-dev, libgtk-3-dev, libgtk-4-dev, qtbase5-dev,
// weston, xvfb). Where nothing says it, GTK 2 and Qt go by the millimetres that a screen says it has,
// which are anything on a display without one: that is not counted.
func TestTextIsAsLargeAsToolkitsMakeIt(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	qt := once(t, "pixels5", "pixels5", func(to string) {
		flags := strings.Fields(output(t, tool(t, "pkg-config", "pkg-config, qtbase5-dev", "--cflags", "--libs", "Qt5Widgets")))
		output(t, tool(t, "c++", "g++", append([]string{"-O1", "-fPIC", "-o", to, "reference/pixels5.cpp"}, flags...)...))
	})
	kits := []struct{ surface, program string }{
		{"gtk2", build(t, "pixels2", "gtk+-2.0", "libgtk2.0-dev")}, {"gtk3", build(t, "pixels3", "gtk+-3.0", "libgtk-3-dev")}, {"gtk4", build(t, "pixels4", "gtk4", "libgtk-4-dev")}, {"qt", qt},
	}
	compared, silent := 0, 0
	for seed := range 9 * *times {
		r := rand.New(rand.NewPCG(seed, 283))
		pick := func(options ...string) string { return options[r.IntN(len(options))] }
		s := &seat{home: t.TempDir(), env: map[string]string{"GSETTINGS_BACKEND": "keyfile"}}
		h.provider.hold(nil)
		if seed%3 == 0 {
			s.env["XDG_RUNTIME_DIR"], s.env["WAYLAND_DISPLAY"], s.env["GDK_BACKEND"] = h.runtime, h.wayland, "wayland"
			s.put(t, ".config/glib-2.0/settings/keyfile", "["+folderOf(desk.FacetFontDocument)+"]\ntext-scaling-factor="+pick("1.0", "1.25", "1.5", "0.8", "7.0")+"\n")
		} else {
			s.env["DISPLAY"], s.env["GDK_BACKEND"], s.env["QT_QPA_PLATFORM"] = h.display, "x11", "xcb"
			if r.IntN(2) == 0 {
				held := xsettings.Settings{"Net/DoubleClickTime": int32(400)}
				for _, name := range []string{"Xft/DPI", "Gdk/WindowScalingFactor", "Gdk/UnscaledDPI"} {
					if r.IntN(2) == 0 {
						held[name] = map[string]int32{"Xft/DPI": int32(1024 * (80 + r.IntN(120))), "Gdk/WindowScalingFactor": int32(1 + r.IntN(2)), "Gdk/UnscaledDPI": int32(1024 * (80 + r.IntN(40)))}[name]
					}
				}
				h.provider.hold(held)
				s.said = append(s.said, fmt.Sprint("XSETTINGS: ", held))
			}
			s.put(t, ".Xresources", pick("", "Xft.dpi: 120\n", "Xft.dpi: 110.5\n", "Xft.dpi:\t 144 \n", "Xft.dpi: many\n", "Xft.dpi: -3\n", "Xft.dpi: 192\n"))
			s.ask(t, "xrdb", "x11-xserver-utils", "-nocpp", "-load", filepath.Join(s.home, ".Xresources"))
		}
		for _, name := range []string{"GDK_SCALE", "GDK_DPI_SCALE", "QT_FONT_DPI", "QT_SCALE_FACTOR"} {
			if r.IntN(3) == 0 {
				s.env[name] = map[string]string{"GDK_SCALE": pick("2", "1", "1.5", "0", "3x"), "GDK_DPI_SCALE": pick("1.5", "0.75", "x", "-1"), "QT_FONT_DPI": pick("120", "96", "0", "x"), "QT_SCALE_FACTOR": pick("1.5", "2", "x")}[name]
			}
		}
		for _, kit := range kits {
			if kit.surface == "gtk2" && s.env["DISPLAY"] == "" || kit.surface == "qt" && s.env["DISPLAY"] == "" {
				continue
			}
			c := exec.CommandContext(t.Context(), kit.program)
			c.Env = s.environ()
			var dpi, display float64
			_, err := fmt.Sscan(output(t, c), &dpi, &display)
			require.NoError(t, err)
			d := s.desk(t)
			ours := typebench.On(d, func(facet, surface string) string {
				if facet == desk.FacetFont {
					return "Sans 10"
				}
				return typebench.Read(d)(facet, surface)
			}, nil).Sizings
			i := slices.IndexFunc(ours, func(z typebench.Sizing) bool { return z.Surface == kit.surface })
			require.GreaterOrEqual(t, i, 0)
			if (kit.surface == "gtk2" || kit.surface == "qt") && ours[i].DPI == 96 && !strings.Contains(strings.ToLower(strings.Join(ours[i].Reasons, " ")), "dpi") {
				silent++
				continue
			}
			compared++
			theirs := fmt.Sprintf("%.1f×%g", dpi, display)
			if surface, _ := d.Surface(kit.surface); s.env["GDK_SCALE"] != "1.5" && s.env["GDK_SCALE"] != "3x" && s.env["QT_SCALE_FACTOR"] != "x" { // those are passed over here
				if f, ok := surface.Facet(desk.FacetDisplayScale); ok {
					require.Equal(t, strconv.FormatFloat(100*display, 'f', -1, 64), reading.Told(d, surface, f).Value, "seed %d, %s", seed, kit.surface)
				}
			}
			if mine := fmt.Sprintf("%.1f×%g", ours[i].DPI, ours[i].Display); !same(kit.surface+" "+d.Display(), "pixels", theirs, mine) {
				t.Errorf("seed %d, %s: the program %s, Ivelt %s\n%v\n%s", seed, kit.surface, theirs, mine, s.env, strings.Join(s.said, "\n"))
			}
		}
	}
	t.Logf("%d compared, %d where nothing says it", compared, silent)
}
