package preview

import (
	_ "embed"
	"io/fs"
	"path"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/paint"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/xcursor"
)

// PointerOf reads the shape that goes by one of the names, or returns nil.
func PointerOf(fsys fs.FS, pc parcel.Piece, names []string) *xcursor.File {
	for _, name := range names {
		raw, err := fs.ReadFile(fsys, path.Join(pc.Root, "cursors", name))
		if err != nil {
			continue
		}
		if f, err := xcursor.Parse(raw); err == nil && len(f.Images) > 0 {
			return f
		}
	}
	return nil
}

// shapes are the pointers shown, each by the names it goes by.
var Shapes = [][]string{
	{"default", "left_ptr"}, {"pointer", "hand2", "hand1"}, {"text", "xterm"}, {"wait", "watch"}, {"progress", "left_ptr_watch"}, {"move", "fleur"},
	{"not-allowed", "crossed_circle"}, {"ew-resize", "sb_h_double_arrow"}, {"ns-resize", "sb_v_double_arrow"}, {"nwse-resize", "bottom_right_corner"}, {"crosshair", "cross"}, {"help", "question_arrow"},
}

// pointerAt draws the shape that a surface's pointer set has, its hot spot at a
// place, at the size that programs are told to use. A display without a set
// draws its own, which no file of the desk holds: then there is none.
func (c *Canvas) pointerAt(surface string, x, y float64, names ...string) {
	f := c.Shape(surface, names)
	if f == nil {
		return
	}
	s, _ := c.D.Surface(surface)
	im := f.Frames(f.Best(pointerSize(c.look, s)))[0]
	c.mark(s.Called(desk.FacetPointer), surface, x-float64(im.HotX), y-float64(im.HotY), float64(im.Rect.Dx()), float64(im.Rect.Dy()))
	c.Printf(`<image x="%s" y="%s" width="%d" height="%d" href="%s"/>`, paint.Number(x-float64(im.HotX)), paint.Number(y-float64(im.HotY)), im.Rect.Dx(), im.Rect.Dy(), paint.PNG(f.Picture(im)))
}

// Shape is the shape that a surface shows under one of some names; nil for none.
func (c *Canvas) Shape(surface string, names []string) *xcursor.File {
	s, _ := c.D.Surface(surface)
	facet, ok := s.Facet(s.Called(desk.FacetPointer))
	if !ok {
		return nil
	}
	var f *xcursor.File
	folder, err := reading.FindPointer(c.D, facet.Lookup, c.look.Of(facet.Name, surface))
	if err != nil || folder == "" {
		if surface == "display" || s.Kind == "display" { // nothing above it to fall back on
			return nil
		}
		return c.Shape("display", names)
	}
	root := desk.Name(folder)
	f = PointerOf(c.tree, parcel.Piece{Root: root}, names)
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
func pointerSize(look Look, s desk.Surface) int {
	if size := look.number(s.Called(desk.FacetPointerSize), s.ID, 0); size >= 8 && size <= 256 {
		return size
	}
	return 24
}
