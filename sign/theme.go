package sign

import (
	"context"
	_ "embed"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/paint"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/regular"
)

// themeTag draws a small window under the theme's own style sheet, its
// controls in several states; light beside dark if the theme has both. A theme for GTK 2
// alone is drawn in the colours of its resource file.
func themeTag(ctx context.Context, b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	usual, dark := gtkcss.Newest(ctx, fsys, pc.Root, pc.Parts)
	return windows(ctx, b, pc.Name, usual, dark) || slices.Contains(pc.Parts, "gtk-2.0") && olderTag(b, fsys, pc)
}

// windows draws a window under each of some sheets, side by side; there may be none.
func windows(ctx context.Context, b *strings.Builder, title string, sheets ...*gtkcss.Sheet) bool {
	sheets = slices.DeleteFunc(sheets, func(s *gtkcss.Sheet) bool { return s == nil })
	for i, s := range sheets {
		w := TagWidth / len(sheets)
		styles := gtkcss.NewCascade(s)
		styles.Until(ctx)
		(&window{b: b, paint: &paint.Painter{B: b, ID: fmt.Sprintf("g%d-", i)}, styles: styles, x: float64(i * w), w: float64(w)}).draw(title)
	}
	return len(sheets) > 0
}

// Forms are the pictures of a theme in its light and its dark form, each alone, to be
// compared with themes that have but one; none if it has not both.
func Forms(ctx context.Context, fsys fs.FS, pc parcel.Piece) []Picture {
	if pc.Kind != parcel.Theme {
		return nil
	}
	fsys = regular.Until(ctx, fsys)
	usual, dark := gtkcss.Newest(ctx, fsys, pc.Root, pc.Parts)
	if usual == nil || dark == nil {
		return nil
	}
	var out []Picture
	for i, state := range []string{"light", "dark"} {
		var b strings.Builder
		b.WriteString(head)
		windows(ctx, &b, pc.Name, []*gtkcss.Sheet{usual, dark}[i])
		b.WriteString("</svg>")
		out = append(out, Picture{state, []byte(b.String())})
	}
	return out
}

// olderTag draws a small window of GTK 2, which has no title of its own: plain boxes, as
// what the theme's engine would make of them is not known.
func olderTag(b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	f, err := gtkrc.Load(fsys, path.Join(pc.Root, "gtk-2.0", "gtkrc"))
	if err != nil {
		return false
	}
	style := func(types ...string) gtkrc.Style {
		widgets := []gtkrc.Widget{gtkrc.Of("GtkWindow", "GtkWindow")}
		for _, t := range types {
			widgets = append(widgets, gtkrc.Of(t, t))
		}
		return f.Style(widgets)
	}
	box := func(x, y, w, h float64, fill, edge gtkrc.Colour) {
		fmt.Fprintf(b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" fill="%s" stroke="%s"/>`, x+0.5, y+0.5, w-1, h-1, fill.CSS(), edge.CSS())
	}
	text := func(x, y float64, c gtkrc.Colour, more, words string) {
		fmt.Fprintf(b, `<text x="%.1f" y="%.1f" font-size="11" fill="%s" %s>%s</text>`, x, y, c.CSS(), more, paint.Escape(words))
	}
	window, button, entry := style(), style("GtkButton"), style("GtkEntry")
	ground := window.Bg[gtkrc.Normal]
	fmt.Fprintf(b, `<rect width="%d" height="%d" fill="%s"/>`, TagWidth, TagHeight, ground.CSS())
	bar := style("GtkMenuBar")
	fmt.Fprintf(b, `<rect width="%d" height="30" fill="%s"/>`, TagWidth, bar.Bg[gtkrc.Normal].CSS())
	text(12, 19.5, style("GtkMenuBar", "GtkMenuItem", "GtkLabel").Fg[gtkrc.Normal], `font-weight="bold"`, preview.Shorten(pc.Name, 50))
	label, x := style("GtkButton", "GtkLabel"), 10.0
	for _, c := range []struct {
		label string
		state gtkrc.State
	}{{"Plain", gtkrc.Normal}, {"Over", gtkrc.Prelight}, {"Pressed", gtkrc.Active}, {"Off", gtkrc.Insensitive}} {
		w := 24 + 6.2*float64(len(c.label))
		box(x, 42, w, 24, button.Bg[c.state], button.Bg[c.state].Shade(0.7))
		text(x+w/2, 58, label.Fg[c.state], `text-anchor="middle"`, c.label)
		x += w + 7
	}
	for i, words := range []string{"Low water 06:40", "being typed"} {
		at := 10 + float64(i)*187
		box(at, 76, 177, 24, entry.Base[gtkrc.Normal], ground.Shade(0.7))
		text(at+8, 92, entry.Text[gtkrc.Normal], "", words)
	}
	list := style("GtkTreeView")
	fmt.Fprintf(b, `<rect y="108" width="%d" height="20" fill="%s"/>`, TagWidth, list.Base[gtkrc.Selected].CSS())
	text(18, 122, list.Text[gtkrc.Selected], "", "the selected row")
	return true
}

// window draws one small window.
type window struct {
	b      *strings.Builder
	paint  *paint.Painter
	styles *gtkcss.Cascade
	x, w   float64
}

const windowNode = "window.background"

func (v *window) style(nodes string) *gtkcss.Style { return v.styles.Compute(windowNode + " " + nodes) }

func (v *window) draw(title string) {
	ground := v.styles.Compute(windowNode)
	v.box(0, 0, v.w, TagHeight, ground)
	bar := v.style("headerbar.titlebar")
	v.box(0, 0, v.w, 30, bar)
	v.text(v.w/2, 19.5, title, v.style("headerbar.titlebar label.title"), `text-anchor="middle" font-weight="bold"`)
	x, narrow := 10.0, v.w < TagWidth
	for _, c := range []struct{ label, state string }{{"Plain", ""}, {"Over", ":hover"}, {"Pressed", ":active"}, {"Off", ":disabled"}} {
		if narrow && c.state == ":hover" {
			continue
		}
		st := v.style("box button" + c.state)
		w := 24 + 6.2*float64(len(c.label)) + st.Padding()[1]/2
		if narrow {
			w = 14 + 6.2*float64(len(c.label))
		}
		h := 20 + min(st.Padding()[0]+st.Padding()[2], 16)/2
		v.box(x, 53-h/2, w, h, st)
		v.text(x+w/2, 57, c.label, st, `text-anchor="middle"`)
		x += w + 7
	}
	entry, focus := v.style("box entry"), v.style("box entry:focus")
	wide := (v.w - 30) / 2
	if narrow {
		v.box(10, 76, v.w-20, 20, focus)
		v.text(17, 90, "Low water 06:40", focus, "")
	} else {
		v.box(10, 78, wide, 22, entry)
		v.text(18, 93, "Low water 06:40", entry, "")
		v.box(20+wide, 78, wide, 22, focus)
		v.text(28+wide, 93, "being typed", focus, "")
	}
	row := v.style("list row:selected")
	v.box(0, 108, v.w, 20, row)
	v.text(18, 122, "the selected row", row, "")
}

func (v *window) box(x, y, w, h float64, st *gtkcss.Style) { v.paint.Box(v.x+x, y, w, h, st) }

func (v *window) text(x, y float64, text string, st *gtkcss.Style, more string) {
	fmt.Fprintf(v.b, `<text x="%.1f" y="%.1f" font-size="11" fill="%s" %s>%s</text>`, v.x+x, y, st.Colour("color").CSS(), more, paint.Escape(preview.Shorten(text, int(v.w/7))))
}

// Shell is a tag of the bar and a notice of the desk's shell in one of its themes.
func Shell(d *desk.Desk, look preview.Look) []byte {
	return preview.Shell(d, look, TagWidth, TagHeight)
}
