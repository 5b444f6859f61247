package preview

import (
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/gtkcss"
	"ivelt/core/parcel"
)

// themeTag draws a small window under the theme's own style sheet, its
// controls in several states; light beside dark if the theme has both.
func themeTag(b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	sheets := themeSheets(fsys, pc)
	for i, s := range sheets {
		w := tagWidth / len(sheets)
		(&window{b: b, sheet: s, x: float64(i * w), w: float64(w), id: fmt.Sprint("g", i)}).draw(pc.Name)
	}
	return len(sheets) > 0
}

// themeSheets are the style sheets of the theme's newest toolkit part, its dark
// form after the usual one.
func themeSheets(fsys fs.FS, pc parcel.Piece) []*gtkcss.Sheet {
	var out []*gtkcss.Sheet
	for _, part := range slices.Backward(slices.Sorted(slices.Values(pc.Parts))) {
		if !strings.HasPrefix(part, "gtk-") {
			continue
		}
		for _, file := range []string{"gtk.css", "gtk-dark.css"} {
			if s, err := gtkcss.Load(fsys, path.Join(pc.Root, part, file)); err == nil {
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
	b     *strings.Builder
	sheet *gtkcss.Sheet
	x, w  float64
	id    string // of what it defines, unique in the picture
	defs  int
}

const windowNode = "window.background"

func (v *window) style(nodes string) gtkcss.Style { return v.sheet.Compute(windowNode + " " + nodes) }

func (v *window) draw(title string) {
	ground := v.sheet.Compute(windowNode)
	v.box(0, 0, v.w, tagHeight, ground, 0)
	bar := v.style("headerbar.titlebar")
	v.box(0, 0, v.w, 30, bar, 0)
	v.text(v.w/2, 19.5, title, v.style("headerbar.titlebar label.title"), `text-anchor="middle" font-weight="bold"`)
	x, narrow := 10.0, v.w < tagWidth
	for _, c := range []struct{ label, state string }{{"Plain", ""}, {"Over", ":hover"}, {"Pressed", ":active"}, {"Off", ":disabled"}} {
		if narrow && c.state == ":hover" {
			continue
		}
		st := v.style("box button" + c.state)
		w := 24 + 6.2*float64(len(c.label)) + st.Padding[1]/2
		if narrow {
			w = 14 + 6.2*float64(len(c.label))
		}
		h := 20 + min(st.Padding[0]+st.Padding[2], 16)/2
		v.box(x, 53-h/2, w, h, st, -1)
		v.text(x+w/2, 57, c.label, st, `text-anchor="middle"`)
		x += w + 7
	}
	entry, focus := v.style("box entry"), v.style("box entry:focus")
	wide := (v.w - 30) / 2
	if narrow {
		v.box(10, 76, v.w-20, 20, focus, -1)
		v.text(17, 90, "Low water 06:40", focus, "")
	} else {
		v.box(10, 78, wide, 22, entry, -1)
		v.text(18, 93, "Low water 06:40", entry, "")
		v.box(20+wide, 78, wide, 22, focus, -1)
		v.text(28+wide, 93, "being typed", focus, "")
	}
	row := v.style("list row:selected")
	v.box(0, 108, v.w, 20, row, 0)
	v.text(18, 122, "a chosen line", row, "")
}

// box draws what a style fills and borders. radius overrides the style's own
// unless it is negative.
func (v *window) box(x, y, w, h float64, st gtkcss.Style, radius float64) {
	if radius < 0 {
		radius = min(st.Radius, h/2)
	}
	fills := []string{st.Background.CSS()}
	if len(st.Gradient) > 0 {
		v.defs++
		id := fmt.Sprint(v.id, "-", v.defs)
		x2, y2 := 0, 1
		if st.Across {
			x2, y2 = 1, 0
		}
		fmt.Fprintf(v.b, `<linearGradient id="%s" x1="0" y1="0" x2="%d" y2="%d">`, id, x2, y2)
		for _, s := range st.Gradient {
			fmt.Fprintf(v.b, `<stop offset="%.3g" stop-color="%s"/>`, s.At, s.Colour.CSS())
		}
		v.b.WriteString(`</linearGradient>`)
		fills = append(fills, "url(#"+id+")")
	}
	opacity := ""
	if st.Opacity < 1 {
		opacity = fmt.Sprintf(` opacity="%.3g"`, st.Opacity)
	}
	for _, f := range fills {
		if f != (gtkcss.Colour{}).CSS() {
			fmt.Fprintf(v.b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" rx="%.1f" fill="%s"%s/>`, v.x+x, y, w, h, radius, f, opacity)
		}
	}
	all := st.BorderWidth == [4]float64{st.BorderWidth[0], st.BorderWidth[0], st.BorderWidth[0], st.BorderWidth[0]}
	if bw := st.BorderWidth[0]; all && bw > 0 {
		fmt.Fprintf(v.b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" rx="%.1f" fill="none" stroke="%s" stroke-width="%.1f"%s/>`,
			v.x+x+bw/2, y+bw/2, w-bw, h-bw, max(radius-bw/2, 0), st.Border[0].CSS(), bw, opacity)
	} else if bw := st.BorderWidth[2]; bw > 0 {
		fmt.Fprintf(v.b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" fill="%s"/>`, v.x+x, y+h-bw, w, bw, st.Border[2].CSS())
	}
}

func (v *window) text(x, y float64, text string, st gtkcss.Style, more string) {
	fmt.Fprintf(v.b, `<text x="%.1f" y="%.1f" font-size="11" fill="%s" %s>%s</text>`, v.x+x, y, st.Colour.CSS(), more, esc(shorten(text, int(v.w/7))))
}
