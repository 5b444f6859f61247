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
	"ivelt/core/paint"
	"ivelt/core/parcel"
	"ivelt/core/preview"
)

// themeTag draws a small window under the theme's own style sheet, its
// controls in several states; light beside dark if the theme has both.
func themeTag(ctx context.Context, b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	sheets := themeSheets(ctx, fsys, pc)
	for i, s := range sheets {
		w := TagWidth / len(sheets)
		styles := gtkcss.NewCascade(s)
		styles.Until(ctx)
		(&window{b: b, paint: &paint.Painter{B: b, ID: fmt.Sprintf("g%d-", i)}, styles: styles, x: float64(i * w), w: float64(w)}).draw(pc.Name)
	}
	return len(sheets) > 0
}

// themeSheets are the style sheets of the theme's newest toolkit part, its dark
// form after the usual one.
func themeSheets(ctx context.Context, fsys fs.FS, pc parcel.Piece) []*gtkcss.Sheet {
	var out []*gtkcss.Sheet
	for _, part := range slices.Backward(slices.Sorted(slices.Values(pc.Parts))) {
		if !strings.HasPrefix(part, "gtk-") {
			continue
		}
		for _, file := range []string{"gtk.css", "gtk-dark.css"} {
			if s, err := gtkcss.Load(ctx, fsys, path.Join(pc.Root, part, file)); err == nil {
				out = append(out, s)
			}
		}
		if len(out) > 0 {
			break
		}
	}
	return out
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
	v.text(18, 122, "a chosen line", row, "")
}

func (v *window) box(x, y, w, h float64, st *gtkcss.Style) { v.paint.Box(v.x+x, y, w, h, st) }

func (v *window) text(x, y float64, text string, st *gtkcss.Style, more string) {
	fmt.Fprintf(v.b, `<text x="%.1f" y="%.1f" font-size="11" fill="%s" %s>%s</text>`, v.x+x, y, st.Colour("color").CSS(), more, paint.Escape(preview.Shorten(text, int(v.w/7))))
}

// Shell is a tag of the bar and a notice of the desk's shell in one of its themes.
func Shell(d *desk.Desk, look preview.Look) []byte {
	return preview.Shell(d, look, TagWidth, TagHeight)
}
