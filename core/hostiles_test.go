package core_test

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"context"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"image"
	"image/png"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/klauspost/compress/gzip"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/curfile"
	"ivelt/core/desk"
	"ivelt/core/fontfile"
	"ivelt/core/imagefile"
	"ivelt/core/market"
	"ivelt/core/outfit"
	"ivelt/core/picturestyle"
	"ivelt/core/pointerset"
	"ivelt/core/settingsfile"
	"ivelt/core/xcursor"
)

// hostiles are the inputs, none from outside: each does by itself what was once seen to
// burn or hang a reader of its kind.
var hostiles = []hostile{
	{"zip: folders 32,000 deep", zipOf(put{strings.Repeat("a/", 32_000) + "x", nil}), meetParcel, "folder"},
	{"tar: folders 32,000 deep", tarOf(put{strings.Repeat("a/", 32_000) + "x", nil}), meetParcel, "folder"},
	{"folders that names imply", func(t testing.TB) []byte { return tarOf(implied(4_500, 50)...)(t) }, meetParcel, "larger than allowed"},
	{"1 GB after a tar's end", after(tarOf(put{"Pack/index.theme", []byte("hello")}), zeros, 15), meetParcel, "0 pieces"},
	{"a file of 8 GB that is not all there", func(t testing.TB) []byte {
		var b bytes.Buffer
		w := tar.NewWriter(&b)
		require.NoError(t, w.WriteHeader(&tar.Header{Name: "Pack/huge.svg", Mode: 0o644, Size: 8 << 30, Typeflag: tar.TypeReg}))
		return append(gz(t, b.Bytes()), bytes.Repeat(zeros(t), 13)...)
	}, meetParcel, "larger"},
	{"a bomb of many files", func(t testing.TB) []byte { return tarOf(many(20, "Pack/%d", make([]byte, 4<<20))...)(t) }, meetParcel, "larger"},
	{"one file of 120 MB that is asked for", func(t testing.TB) []byte { return zipOf(put{"Pack/index.theme", make([]byte, 120<<20)})(t) }, meetParcel, "larger"},
	{"nine archives of 20 MB in one", func(t testing.TB) []byte {
		inner := zipOf(put{"x", make([]byte, 8<<20)})(t)
		return zipOf(many(9, "%d.zip", append(inner, make([]byte, 20<<20-len(inner))...))...)(t)
	}, meetParcel, "larger than allowed"},
	{"210,000 entries in seven archives", func(t testing.TB) []byte {
		var entries []put // six of each name: that keeps the whole below the ratio that is refused at once
		for i := range 30_000 {
			entries = append(entries, put{fmt.Sprint(i / 6), nil})
		}
		return zipOf(many(7, "%d.tar", plainTar(t, entries...))...)(t)
	}, meetParcel, "larger than allowed"},
	{"archives in archives in archives", func(t testing.TB) []byte {
		b := zeros(t)
		for range 12 {
			b = zipOf(many(8, "%d.zip", b)...)(t)
		}
		return b
	}, meetParcel, "0 pieces"},

	{"colours made of colours", theme(func() string {
		text := "@define-color c0 #102030;\n"
		for i := range 60 {
			text += fmt.Sprintf("@define-color c%d mix(@c%d, shade(@c%d, 1.01), 0.5);\n", i+1, i, i)
		}
		return text + "window { color: @c60; background-color: @c59; } button { color: currentColor; background-color: @c60; }"
	}), meetTheme, "Link buttons"},
	{"300,000 rules", theme(func() string { return strings.Repeat("button{color:red}\n", 300_000) }), meetTheme, "not read"},
	{"rules held against everything", theme(func() string { return strings.Repeat("* * * * * * .x:not(.y) > * { color: red; }\n", 28_000) }), meetTheme, "not everything is styled"},
	{"one selector, 200,000 times", theme(func() string { return strings.Repeat("button,", 200_000) + "label { color: red }" }), meetTheme, "not read"},
	{"brackets without end", theme(func() string { return "window { color: " + strings.Repeat("shade(", 400_000) + "red; }" }), meetTheme, "not read"},
	{"values in values", theme(func() string { return "window { margin: " + strings.Repeat("calc(", 250_000) + "1px; }" }), meetTheme, "Text"},
	{"images in images", theme(func() string { return "window { background-image: " + strings.Repeat("image(", 250_000) + "red; }" }), meetTheme, "Text"},
	{"not in not", theme(func() string { return strings.Repeat(":not(", 140_000) + "a { color: red }" }), meetTheme, "Text"},
	{"a long chain of colours", theme(func() string {
		var b strings.Builder
		b.WriteString("@define-color k0 red;\n")
		for i := range 40_000 {
			fmt.Fprintf(&b, "@define-color k%d @k%d;\n", i+1, i)
		}
		return b.String() + "window { color: @k40000; }"
	}), meetTheme, "Text"},
	{"sheets that import each the next twice", func(t testing.TB) []byte {
		var all []put
		for i := range 15 {
			all = append(all, put{fmt.Sprintf("Stone/gtk-3.0/%d.css", i), fmt.Appendf(nil, "@import '%d.css'; @import '%d.css';", i+1, i+1)})
		}
		return tarOf(append(all, put{"Stone/gtk-3.0/15.css", []byte("a { color: red }")}, put{"Stone/gtk-3.0/gtk.css", []byte("@import '0.css';")})...)(t)
	}, meetTheme, "sheets are imported"},

	{"a resource file of colours made of colours", func(t testing.TB) []byte {
		text := "gtk-color-scheme = \"c0:#102030"
		for i := range 60 {
			text += fmt.Sprintf("\\nc%d:mix(0.5, @c%d, @c%d)", i+1, i, i)
		}
		text += "\"\nstyle \"s\" { bg[NORMAL] = mix(0.5, @c60, shade(1.1, @c59)) }\nclass \"*\" style \"s\"\n"
		return tarOf(put{"Stone/gtk-2.0/gtkrc", []byte(text)})(t)
	}, meetTheme, "GTK"},
	{"a resource file of 100,000 styles", func(t testing.TB) []byte {
		return tarOf(put{"Stone/gtk-2.0/gtkrc", []byte(strings.Repeat("style \"s\" { bg[NORMAL] = \"#102030\" }\nwidget_class \"*.*.*.*.*x*\" style \"s\"\n", 100_000))})(t)
	}, meetTheme, "GTK"},
	{"resource files that include each other", func(t testing.TB) []byte {
		var all []put
		for i := range 20 {
			all = append(all, put{fmt.Sprintf("Stone/gtk-2.0/%d", i), fmt.Appendf(nil, "include \"%d\"\ninclude \"%d\"\n", (i+1)%20, (i+2)%20)})
		}
		return tarOf(append(all, put{"Stone/gtk-2.0/gtkrc", []byte("include \"0\"\n")})...)(t)
	}, meetTheme, "GTK"},
	{"30,000 packs", func(t testing.TB) []byte {
		return tarOf(many(30_000, "%d/index.theme", []byte("[Icon Theme]\nName=Stone\nDirectories=a\n[a]\nSize=8\n"))...)(t)
	}, meetParcel, "pieces"},
	{"2,500 packs with an icon", func(t testing.TB) []byte {
		return tarOf(append(many(2_500, "%d/index.theme", []byte("[Icon Theme]\nName=Stone\nDirectories=a\n[a]\nSize=8\n")), many(2_500, "%d/a/folder.svg", []byte(svg("<rect/>")))...)...)(t)
	}, meetParcel, "more than 2000 pieces"},
	{"icons in 20,000 folders", folders(20_000), meetParcel, "cannot be used"},
	{"icons in 10,000 folders", folders(10_000), meetParcel, "1 pieces"},
	{"packs that inherit all each other", func(t testing.TB) []byte {
		var all []put
		for i := range 800 {
			text := "[Icon Theme]\nName=Stone\nDirectories=a\nInherits="
			for j := range 800 {
				text += fmt.Sprint((i+j+1)%800, ",")
			}
			all = append(all, put{fmt.Sprintf("%d/index.theme", i), []byte(text + "\n[a]\nSize=8\n")}, put{fmt.Sprintf("%d/a/folder.svg", i), []byte(svg("<rect/>"))})
		}
		return tarOf(all...)(t)
	}, meetParcel, "pieces"},
	{"40,000 drawings in one folder", tarOf(many(40_000, "x/%d.svg", []byte(svg("<rect/>")))...), meetParcel, "0 pieces"},
	{"10,000 names of 4,000 letters", func(t testing.TB) []byte {
		return tarOf(many(10_000, strings.Repeat("abcdefghi/", 40)+strings.Repeat("x", 3600)+"%d", nil)...)(t)
	}, meetParcel, "names have more"},
	{"links that lead on and on", links(10_000, strings.Repeat("a/../", 500)), meetParcel, "1 pieces"},
	{"links that all lead out", links(40_000, "/etc/"), meetParcel, "1 pieces"},
	{"40 pointers of 70 pictures in a row", pointers(func(t testing.TB) []byte { return apart(t, 24, 70) }), meetParcel, "1 pieces"},
	{"40 pointers of 60 large pictures", pointers(func(t testing.TB) []byte { return inMany(t, 60, 1000) }), meetParcel, "1 pieces"},
	{"40,000 pointers", tarOf(many(40_000, "x/arrow %d.cur", []byte("\x00\x00\x02\x00\x01\x00"))...), meetParcel, "1 pieces"},
	{"40,000 fonts that are none", tarOf(many(40_000, "x/%d.ttf", []byte("\x00\x01\x00\x00xxxxxxxx"))...), meetParcel, "more notes than can be shown"},
	{"40,000 descriptions of login screens", tarOf(many(40_000, "x/%d.conf", []byte("[Greeter]\nName=x\n"))...), meetParcel, "1 pieces"},
	{"a description that names 3,000 files", func(t testing.TB) []byte {
		text := "[Theme]\n"
		for i := range 3000 {
			text += fmt.Sprintf("a%d=n%d.cur\n", i, i)
		}
		return tarOf(append(many(40, "x/%d.theme", []byte(text)), many(30_000, "x/%d.cur", nil)...)...)(t)
	}, meetParcel, "pieces"},

	{"a drawing of 10⁹ uses", plainly(func() string {
		var b strings.Builder
		b.WriteString(`<rect id="x0" width="1" height="1"/>`)
		for n := 1; n <= 9; n++ {
			fmt.Fprintf(&b, `<g id="x%d">%s</g>`, n, strings.Repeat(fmt.Sprintf(`<use href="#x%d"/>`, n-1), 10))
		}
		return svg(b.String())
	}), meetDrawing, ""},
	{"drawings in drawings", plainly(func() string {
		text := svg(`<rect/>`)
		for range 20 {
			text = svg(`<image href="data:image/svg+xml;base64,` + base64.StdEncoding.EncodeToString([]byte(text)) + `"/>`)
		}
		return text
	}), meetDrawing, ""},
	{"a picture of 144 million pixels", func(t testing.TB) []byte { return picture(image.NewGray(image.Rect(0, 0, 12_000, 12_000)))(t) }, meetDrawing, "too much"},
	{"a drawing of 20,000 groups in each other", plainly(func() string { return svg(strings.Repeat("<g>", 20_000) + strings.Repeat("</g>", 20_000)) }), meetDrawing, ""},

	{"a drawing of 30,000 large shapes", drawn(`<rect width="48" height="48"/>`, 30_000, ""), meetDrawing, "cannot be drawn"},
	{"an icon of 30,000 large shapes", drawn(`<rect width="48" height="48"/>`, 30_000, ""), meetIcon, "drawn"},
	{"a style of more shapes than are measured", styled(`<rect width="48" height="48"/>`, 30_000), meetStyle, "it would take too much to draw"},
	{"a style of large shapes", styled(`<rect width="48" height="48"/>`, 6_000), meetStyle, "it would take too much to draw"},
	{"a style of blends", styled(`<g style="mix-blend-mode:multiply"><rect width="48" height="48"/></g>`, 500), meetStyle, "it would take too much to draw"},
	{"a drawing that is seen through", drawn(`<rect width="48" height="48" fill-opacity=".5"/>`, 20_000, ""), meetDrawing, "cannot be drawn"},
	{"a drawing of blends", drawn(`<g style="mix-blend-mode:multiply"><rect width="48" height="48"/></g>`, 12_000, ""), meetDrawing, "cannot be drawn"},
	{"a drawing of blurs", drawn(`<rect width="48" height="48" filter="url(#a)"/>`, 18_000, `<filter id="a"><feGaussianBlur stdDeviation="3"/></filter>`), meetDrawing, "cannot be drawn"},
	{"a filter that puts much together", drawn(`<rect width="48" height="48" filter="url(#a)"/>`, 1, `<filter id="a"><feMerge>`+strings.Repeat("<feMergeNode/>", 20_000)+`</feMerge></filter>`), meetDrawing, "cannot be drawn"},
	{"a filter that keeps much", drawn(`<rect width="48" height="48" filter="url(#a)"/>`, 1, `<filter id="a">`+strings.Repeat(`<feFlood result="a"/><feFlood result="b"/><feFlood result="c"/>`, 33)+`</filter>`), meetDrawing, "cannot be drawn"},
	{"layers in layers", drawn(strings.Repeat(`<g opacity=".9">`, 200)+`<rect width="48" height="48"/>`+strings.Repeat(`</g>`, 200), 1, ""), meetDrawing, "cannot be drawn"},
	{"clips in clips", drawn(strings.Repeat(`<g clip-path="url(#a)">`, 200)+`<rect width="48" height="48"/>`+strings.Repeat(`</g>`, 200), 1, `<clipPath id="a"><circle cx="24" cy="24" r="24"/><circle cx="22" cy="24" r="24"/></clipPath>`), meetDrawing, "cannot be drawn"},
	{"a drawing of patterns", drawn(`<rect width="48" height="48" fill="url(#a)"/>`, 20_000, `<pattern id="a" width=".1" height=".1"><rect width="3" height="3"/></pattern>`), meetIcon, "cannot be drawn"},
	{"a drawing of many pictures", func(t testing.TB) []byte {
		inside := "data:image/png;base64," + base64.StdEncoding.EncodeToString(picture(image.NewNRGBA(image.Rect(0, 0, 4000, 4000)))(t))
		return drawn(`<use href="#a"/>`, 5_000, `<image id="a" width="48" height="48" href="`+inside+`"/>`)(t)
	}, meetDrawing, "cannot be drawn"},
	{"a path that goes far out and back", plainly(func() string {
		return svg(`<path d="M0 0` + strings.Repeat("L-9e5 9e5L9e5 -9e5", 30_000) + `z" stroke="red" stroke-width="9"/>`)
	}), meetDrawing, ""},
	{"a line of a thousand million dashes", plainly(func() string { return svg(`<path d="M0 0L48 48L0 48" stroke="red" stroke-dasharray="1e-6"/>`) }), meetDrawing, ""},
	{"as many pixels as are let through", func(t testing.TB) []byte { return picture(image.NewNRGBA(image.Rect(0, 0, 7680, 4320)))(t) }, meetDrawing, "drawn"},
	{"as many deep pixels", func(t testing.TB) []byte { return picture(image.NewNRGBA64(image.Rect(0, 0, 4400, 4200)))(t) }, meetDrawing, "drawn"},
	{"a backdrop of 200 pictures", func(t testing.TB) []byte {
		return zipOf(many(200, "Shore/%d.png", picture(image.NewNRGBA(image.Rect(0, 0, 3840, 2160)))(t))...)(t)
	}, meetParcel, "pieces"},

	{"a pointer of four thousand million pixels", func(testing.TB) []byte {
		words := []uint32{0x72756358, 16, 0x10000, 1, 0xfffd0002, 24, 28, 36, 0xfffd0002, 24, 1, 65535, 65535, 0, 0, 50}
		var b bytes.Buffer
		_ = binary.Write(&b, binary.LittleEndian, words)
		return b.Bytes()
	}, meetBytes(func(b []byte) error { _, err := xcursor.Parse(b); return err }), ""},
	{"a pointer of 60,000 pictures that are one", func(testing.TB) []byte {
		var b bytes.Buffer
		_ = binary.Write(&b, binary.LittleEndian, []uint32{0x72756358, 16, 0x10000, 60_000})
		for range 60_000 {
			_ = binary.Write(&b, binary.LittleEndian, []uint32{0xfffd0002, 24, 16 + 60_000*12})
		}
		_ = binary.Write(&b, binary.LittleEndian, []uint32{36, 0xfffd0002, 24, 1, 96, 96, 0, 0, 50})
		b.Write(make([]byte, 96*96*4))
		return b.Bytes()
	}, meetBytes(func(b []byte) error { _, err := xcursor.Parse(b); return err }), ""},
	{"a collection of 200,000 fonts that are one", func(testing.TB) []byte {
		var b bytes.Buffer
		b.WriteString("ttcf")
		_ = binary.Write(&b, binary.BigEndian, []uint32{0x10000, 200_000})
		for range 200_000 {
			_ = binary.Write(&b, binary.BigEndian, uint32(12+200_000*4))
		}
		_ = binary.Write(&b, binary.BigEndian, []uint32{0x10000, 0xffff0000, 0})
		return b.Bytes()
	}, meetBytes(func(b []byte) error { _, err := fontfile.Parse(b); return err }), ""},
	{"an outfit of 60,000 rules", plainly(func() string {
		var b strings.Builder
		b.WriteString("format = 1\nname = \"All\"\n[facets]\n")
		for i := range 60_000 {
			fmt.Fprintf(&b, "f%d = \"x\"\n", i)
		}
		return b.String()
	}), meetBytes(func(b []byte) error { _, err := outfit.Parse(b); return err }), "larger than such files are"},
	{"a descriptor of 20,000 facets", plainly(func() string {
		return "id = \"a\"\ntitle = \"A\"\nkind = \"shell\"\n" + strings.Repeat("[[facet]]\nname = \"icons\"\n", 20_000)
	}), meetBytes(func(b []byte) error { _, err := desk.ParseSurface(b); return err }), "larger than such files are"},

	{"settings: 9,900 empty elements in one line", plainly(func() string { return "<a>" + strings.Repeat("<b/>", 9_900) + "</a>" }), meetSettings(settingsfile.XML), "read"},
	{"settings: a list of 9,900 in one line of YAML", plainly(func() string { return "a: [" + strings.Repeat("b,", 9_900) + "]" }), meetSettings(settingsfile.YAML), ""},
	{"settings: 9,900 members in one line of JSON", plainly(func() string {
		var b strings.Builder
		for i := range 9_900 {
			fmt.Fprintf(&b, `"k%d":"\\",`, i)
		}
		return "{" + b.String() + `"z": 1}`
	}), meetSettings(settingsfile.JSON), ""},
	{"settings: 100,000 sections", plainly(func() string { return strings.Repeat("[a]\n", 100_000) }), meetSettings(settingsfile.Lines), "more than 10000 sections"},
	{"settings: 40,000 tables of TOML", plainly(func() string { return strings.Repeat("[[a]]\n", 40_000) }), meetSettings(settingsfile.TOML), "larger than settings files are"},

	{"an index of one endless line", nil, meetIndex(`{"format": 1, "entries": [{"id": "a", "name": "`, strings.Repeat("a", 4096)), "larger"},
	{"an index of endless entries", nil, meetIndex(`{"format": 1, "entries": [{}`, strings.Repeat(`,{}`, 1000)), "more than 40000 entries"},
	{"an index of endless entries that can be used", nil, meetIndex(`{"format": 1, "entries": [{}`, `,{"id": "a", "name": "B", "tags": [`+strings.Repeat(`"a b",`, 60)+`"c"], "versions": [{"file": "a", "sha256": "`+strings.Repeat("0", 64)+`"}]}`), "larger"},
	{"an index of endless lists", nil, meetIndex(`{"format": 1, "about": [`, strings.Repeat("[", 4096)), "exceeded max depth"},

	{"a pipe in a settings file's place", nil, meetPlace(func(at string) error { return unix.Mkfifo(at, 0o600) }), "neither a file nor a folder"},
	{"600 MB in a settings file's place", nil, meetPlace(func(at string) error {
		f, err := os.Create(at)
		if err != nil {
			return err
		}
		defer f.Close()
		return f.Truncate(600 << 20)
	}), "larger than such files are"},
}

// meetDrawing draws a picture as a page has it, meetIcon small.
func meetDrawing(ctx context.Context, file string) string { return draw(ctx, file, 1280) }
func meetIcon(ctx context.Context, file string) string    { return draw(ctx, file, 48) }

func draw(ctx context.Context, file string, size int) string {
	b := bytesOf(file)
	if err := imagefile.Check(b); err != nil {
		return err.Error()
	}
	if imagefile.Raster(ctx, b, size) == nil {
		return "it cannot be drawn"
	}
	return "drawn"
}

// styled is a picture style whose twelve elements are each all that is drawn so many times.
func styled(part string, times int) func(testing.TB) []byte {
	return plainly(func() string {
		var uses strings.Builder
		for i := range 12 {
			fmt.Fprintf(&uses, `<use id="e%d" href="#all"/>`, i)
		}
		return svg(`<g id="all">` + strings.Repeat(part, times) + `</g>` + uses.String())
	})
}

// meetStyle reads such a style, and paints each element as a page does.
func meetStyle(ctx context.Context, file string) string {
	var names []string
	for i := range 12 {
		names = append(names, fmt.Sprint("e", i))
	}
	s, err := picturestyle.Read(ctx, bytesOf(file), names)
	if err != nil {
		return err.Error()
	}
	says := "painted"
	for _, name := range names {
		if _, err := s.Paint(ctx, name, 92, 30, 2); err != nil {
			says = err.Error()
		}
	}
	return says
}

func meetBytes(parse func([]byte) error) func(context.Context, string) string {
	return func(_ context.Context, file string) string { return said(parse(bytesOf(file)), "read") }
}

// meetIndex reads a market's index that begins and goes on so, and does not end.
func meetIndex(begins, goesOn string) func(context.Context, string) string {
	return func(ctx context.Context, _ string) string {
		_, _, err := market.Read(until{ctx, &endless{begins: begins, goesOn: goesOn}})
		return said(err, "read")
	}
}

func svg(body string) string {
	return `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48">` + body + `</svg>`
}

// drawn is a drawing of a part, many times, after what it refers to.
func drawn(part string, times int, refers string) func(testing.TB) []byte {
	return plainly(func() string { return svg(refers + strings.Repeat(part, times)) })
}

func picture(im image.Image) func(testing.TB) []byte {
	return func(t testing.TB) []byte {
		var b bytes.Buffer
		require.NoError(t, png.Encode(&b, im))
		return b.Bytes()
	}
}

func plainly(text func() string) func(testing.TB) []byte {
	return func(testing.TB) []byte { return []byte(text()) }
}

// theme is a parcel of a theme Stone whose every sheet has that text.
func theme(text func() string) func(testing.TB) []byte {
	return func(t testing.TB) []byte {
		b := []byte(text())
		return tarOf(put{"Stone/index.theme", []byte("[Desktop Entry]\nName=Stone\n")}, put{"Stone/gtk-3.0/gtk.css", b}, put{"Stone/gtk-4.0/gtk.css", b})(t)
	}
}

// put is a file of an archive.
type put struct {
	name string
	text []byte
}

func many(n int, name string, text []byte) []put {
	var out []put
	for i := range n {
		out = append(out, put{fmt.Sprintf(name, i), text})
	}
	return out
}

// folders is a pack whose icons lie in so many folders.
func folders(n int) func(testing.TB) []byte {
	return func(t testing.TB) []byte {
		var b strings.Builder
		b.WriteString("[Icon Theme]\nName=Stone\nInherits=" + strings.Repeat("Stone,", n) + "Stone\nDirectories=")
		for i := range n {
			fmt.Fprintf(&b, "%d/apps,", i)
		}
		for i := range n {
			fmt.Fprintf(&b, "\n[%d/apps]\nSize=%d\nType=Scalable\nMaxSize=512\n", i, 1+i%200)
		}
		return tarOf(put{"Stone/index.theme", []byte(b.String())}, put{"Stone/7/apps/folder.svg", []byte(svg("<rect/>"))})(t)
	}
}

// links are n links in a pack, of which each leads to the next by way of a detour.
func links(n int, detour string) func(testing.TB) []byte {
	return func(t testing.TB) []byte {
		var b bytes.Buffer
		w := tar.NewWriter(&b)
		put := func(h tar.Header, text string) {
			h.Mode, h.Size, h.Format = 0o644, int64(len(text)), tar.FormatPAX
			require.NoError(t, w.WriteHeader(&h))
			_, err := w.Write([]byte(text))
			require.NoError(t, err)
		}
		put(tar.Header{Name: "Stone/index.theme", Typeflag: tar.TypeReg}, "[Icon Theme]\nName=Stone\nDirectories=a\n[a]\nSize=8\n")
		put(tar.Header{Name: "Stone/a/a/x", Typeflag: tar.TypeReg}, "")
		for i := range n {
			put(tar.Header{Name: fmt.Sprintf("Stone/a/%d.svg", i), Typeflag: tar.TypeSymlink, Linkname: fmt.Sprint(detour, i+1, ".svg")}, "")
		}
		require.NoError(t, w.Close())
		return gz(t, b.Bytes())
	}
}

// implied are n files, each in so many folders of its own.
func implied(n, deep int) []put {
	var out []put
	for i := range n {
		out = append(out, put{strings.Repeat(fmt.Sprint(i, "/"), deep) + "x", nil})
	}
	return out
}

func zipOf(all ...put) func(testing.TB) []byte {
	return func(t testing.TB) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for _, p := range all {
			w, err := z.Create(p.name)
			require.NoError(t, err)
			_, err = w.Write(p.text)
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.Bytes()
	}
}

func plainTar(t testing.TB, all ...put) []byte {
	var b bytes.Buffer
	w := tar.NewWriter(&b)
	for _, p := range all {
		require.NoError(t, w.WriteHeader(&tar.Header{Name: p.name, Mode: 0o644, Size: int64(len(p.text)), Typeflag: tar.TypeReg, Format: tar.FormatPAX}))
		_, err := w.Write(p.text)
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

func tarOf(all ...put) func(testing.TB) []byte {
	return func(t testing.TB) []byte { return gz(t, plainTar(t, all...)) }
}

// gz packs quickly what stays small even so.
func gz(t testing.TB, b []byte) []byte {
	var out bytes.Buffer
	for _, level := range []int{gzip.BestSpeed, gzip.BestCompression} {
		out.Reset()
		z, err := gzip.NewWriterLevel(&out, level)
		require.NoError(t, err)
		_, err = z.Write(b)
		require.NoError(t, err)
		require.NoError(t, z.Close())
		if out.Len() < maxOnDisk/2 {
			break
		}
	}
	return out.Bytes()
}

// zeros is a gzip member of 64 MB of nothing, in 64 kB.
func zeros(testing.TB) []byte { return nothing() }

var nothing = sync.OnceValue(func() []byte {
	var out bytes.Buffer
	z := gzip.NewWriter(&out)
	_, _ = z.Write(make([]byte, 64<<20))
	_ = z.Close()
	return out.Bytes()
})

// after is an archive with n times something behind its end.
func after(archive, more func(testing.TB) []byte, n int) func(testing.TB) []byte {
	return func(t testing.TB) []byte { return append(archive(t), bytes.Repeat(more(t), n)...) }
}

// pointers are a set of the other family in which each pointer is the same.
func pointers(of func(t testing.TB) []byte) func(testing.TB) []byte {
	return func(t testing.TB) []byte {
		var all []put
		for _, r := range pointerset.Roles {
			all = append(all, put{"Tern/" + r.File + ".ani", of(t)})
		}
		return tarOf(all...)(t)
	}
}

// apart is a pointer that moves, each of its pictures another file in it.
func apart(t testing.TB, size, steps int) []byte {
	one, err := curfile.Encode(true, []curfile.Picture{{NRGBA: image.NewNRGBA(image.Rect(0, 0, size, size))}})
	require.NoError(t, err)
	order := make([]curfile.Step, steps)
	for i := range order {
		order[i] = curfile.Step{Frame: i, Jiffies: 1}
	}
	b, err := curfile.EncodeAnimation(slices.Repeat([][]byte{one}, steps), order, "", "")
	require.NoError(t, err)
	return b
}

// inMany is a pointer of many pictures, all of them the same PNG.
func inMany(t testing.TB, n, size int) []byte {
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewNRGBA(image.Rect(0, 0, size, size))))
	le := binary.LittleEndian
	out := le.AppendUint16([]byte{0, 0, 2, 0}, uint16(n))
	for range n {
		out = le.AppendUint32(append(out, make([]byte, 8)...), uint32(picture.Len()))
		out = le.AppendUint32(out, uint32(6+16*n))
	}
	return append(out, picture.Bytes()...)
}
