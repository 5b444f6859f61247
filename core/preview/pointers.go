package preview

import (
	"fmt"

	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/xcursor"
)

// pointerAt draws the shape that a surface's pointer set has, its hot spot at a
// place, at the size that programs are told to use. A display without a set
// draws its own, which no file of the desk holds: then there is none.
func (c *canvas) pointerAt(surface string, x, y float64, names ...string) {
	f := c.shape(surface, names)
	if f == nil {
		return
	}
	im := f.Frames(f.Best(pointerSize(c.look, surface)))[0]
	c.mark(desk.FacetPointer, surface, x-float64(im.HotX), y-float64(im.HotY), float64(im.Rect.Dx()), float64(im.Rect.Dy()))
	c.printf(`<image x="%s" y="%s" width="%d" height="%d" href="%s"/>`, n(x-float64(im.HotX)), n(y-float64(im.HotY)), im.Rect.Dx(), im.Rect.Dy(), pngURI(f.Picture(im)))
}

func (c *canvas) shape(surface string, names []string) *xcursor.File {
	s, _ := c.d.Surface(surface)
	f, ok := s.Facet(desk.FacetPointer)
	if !ok {
		return nil
	}
	folder, err := reading.FindPointer(c.d, f.Lookup, c.look.Of(desk.FacetPointer, surface))
	if err != nil || folder == "" {
		if s.Kind == "display" { // nothing above it to fall back on
			return nil
		}
		return c.shape("display", names)
	}
	return pointer(c.tree, parcel.Piece{Root: desk.Name(folder)}, names)
}

// pointerSize is the size that a surface is told to use, 24 if it is left to the
// display (Xcursor(3)).
func pointerSize(look Look, surface string) int {
	if size := look.number(desk.FacetPointerSize, surface, 0); size >= 8 && size <= 256 {
		return size
	}
	return 24
}

// Arrow draws the arrow that a surface shows.
func Arrow(d *desk.Desk, look Look, surface string) []byte {
	c := newCanvas(d, look, 32, 32)
	c.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 32 32" width="32" height="32">`)
	if f := c.shape(surface, shapes[0]); f != nil {
		im := f.Frames(f.Best(24))[0]
		fmt.Fprintf(c, `<image x="%d" y="%d" width="%d" height="%d" href="%s"/>`, (32-im.Rect.Dx())/2, (32-im.Rect.Dy())/2, im.Rect.Dx(), im.Rect.Dy(), pngURI(f.Picture(im)))
	} else {
		c.WriteString(`<path d="M9 6h14M9 26h14M16 6v20" stroke="#808080" stroke-width="2" stroke-dasharray="2 3" fill="none"/>`)
	}
	c.WriteString(`</svg>`)
	return []byte(c.String())
}
