package preview

import (
	"io/fs"
	"path"

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
	facet, ok := s.Facet(desk.FacetPointer)
	if !ok {
		return nil
	}
	var f *xcursor.File
	folder, err := reading.FindPointer(c.d, facet.Lookup, c.look.Of(desk.FacetPointer, surface))
	if err != nil || folder == "" {
		if surface == "display" || s.Kind == "display" { // nothing above it to fall back on
			return nil
		}
		return c.shape("display", names)
	}
	root := desk.Name(folder)
	f = pointer(c.tree, parcel.Piece{Root: root}, names)
	for _, name := range names {
		at := path.Join(root, "cursors", name)
		if raw, err := fs.ReadFile(c.tree, at); err == nil && f == nil {
			if _, err := xcursor.Parse(raw); err != nil {
				c.without(at, "a pointer that cannot be shown: "+err.Error())
			}
		}
	}
	return f
}

// pointerSize is the size that a surface is told to use, 24 if it is left to the
// display (Xcursor(3)).
func pointerSize(look Look, surface string) int {
	if size := look.number(desk.FacetPointerSize, surface, 0); size >= 8 && size <= 256 {
		return size
	}
	return 24
}
