package session

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"

	"github.com/jezek/xgb/render"
	"github.com/jezek/xgb/xfixes"
	"github.com/jezek/xgb/xproto"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/core/xcursor"
	"ivelt/core/xresources"
)

// arrowName is the shape that lies over the background (common practice, no source: window
// managers name it there, of the names of cursorfont.h).
const arrowName = "left_ptr"

const (
	maxSide   = 512 // px of a shape
	maxFrames = 256
)

// rootPointer is the pointer over the background of a display.
type rootPointer struct {
	*display
	desk  *desk.Desk
	ready bool // the display's extensions know us
	shown bool // it was set before
}

// show sets it to the arrow of the set that is held, at the size that programs take. A set
// that has none, and a display that cannot, leave it as it is.
func (p *rootPointer) show(held desk.Held) error {
	set := held.Pointer
	if set == "" {
		if !p.shown {
			return nil
		}
		s, _ := p.desk.Surface("display")
		if f, ok := s.Facet(desk.FacetPointer); ok { // what programs come to show that start now
			set = reading.Told(p.desk, s, f).Value
		}
	}
	file, err := p.arrow(set)
	if err != nil {
		return err
	}
	cursor := xproto.Cursor(xproto.CursorNone) // the display's own
	if file != nil {
		if cursor, err = p.upload(file, p.size(held)); err != nil {
			return fmt.Errorf("the pointer over the background: %w", err)
		}
	} else if set != "" && !p.shown {
		return nil
	}
	p.shown = true
	err = xproto.ChangeWindowAttributesChecked(p.Conn, p.root, xproto.CwCursor, []uint32{uint32(cursor)}).Check()
	if cursor != xproto.CursorNone {
		err = errors.Join(err, xproto.FreeCursorChecked(p.Conn, cursor).Check()) // the window keeps it
	}
	return err
}

// arrow is the shape of a set, or of the sets that it inherits; nil if none has it.
func (p *rootPointer) arrow(set string) (*xcursor.File, error) {
	s, _ := p.desk.Surface("display")
	f, ok := s.Facet(desk.FacetPointer)
	if !ok || set == "" {
		return nil, nil
	}
	b, err := reading.FindShape(p.desk, f.Lookup, set, arrowName)
	if errors.Is(err, fs.ErrNotExist) || err == nil && b == nil {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	file, err := xcursor.Parse(b)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path.Join(set, "cursors", arrowName), err)
	}
	return file, nil
}

// size is what libXcursor takes (XcursorGetDefaultSize of display.c of libXcursor 1.2): what
// is told, else by the resolution, else by the screen.
func (p *rootPointer) size(held desk.Held) int {
	text := p.property(p.root, loaded)
	for _, of := range []func() (string, bool){
		func() (string, bool) { v, ok := held.Resources["Xcursor.size"]; return v, ok },
		func() (string, bool) { v, ok := p.desk.Var("XCURSOR_SIZE"); return v.Value, ok },
		func() (string, bool) { e, ok := xresources.Lookup(text, "Xcursor.size"); return e.Value, ok },
	} {
		if v, ok := of(); ok {
			if n, err := strconv.Atoi(v); err == nil && n > 0 {
				return n
			}
		}
	}
	if e, ok := xresources.Lookup(text, "Xft.dpi"); ok {
		if dpi, err := strconv.Atoi(e.Value); err == nil && dpi*16/72 > 0 {
			return dpi * 16 / 72
		}
	}
	screen := xproto.Setup(p.Conn).Roots[0]
	return int(min(screen.WidthInPixels, screen.HeightInPixels)) / 48
}

// upload makes a cursor of a shape on the display, moving if it moves.
func (p *rootPointer) upload(file *xcursor.File, size int) (xproto.Cursor, error) {
	if !p.ready {
		if err := errors.Join(render.Init(p.Conn), xfixes.Init(p.Conn)); err != nil {
			return 0, err
		}
		if _, err := xfixes.QueryVersion(p.Conn, 2, 0).Reply(); err != nil {
			return 0, err
		}
		p.ready = true
	}
	format, err := p.format()
	if err != nil {
		return 0, err
	}
	frames := file.Frames(file.Best(size))
	if len(frames) > maxFrames {
		return 0, fmt.Errorf("it has %d pictures, of at most %d", len(frames), maxFrames)
	}
	var all []render.Animcursorelt
	defer func() {
		for _, of := range all {
			xproto.FreeCursor(p.Conn, of.Cursor)
		}
	}()
	for _, im := range frames {
		one, err := p.frame(file, im, format)
		if err != nil {
			return 0, err
		}
		all = append(all, render.Animcursorelt{Cursor: one, Delay: uint32(im.Delay.Milliseconds())})
	}
	if len(all) == 1 {
		out := all[0].Cursor
		all = nil
		return out, xfixes.SetCursorNameChecked(p.Conn, out, uint16(len(arrowName)), arrowName).Check()
	}
	out, err := xproto.NewCursorId(p.Conn)
	if err != nil {
		return 0, err
	}
	if err := render.CreateAnimCursorChecked(p.Conn, out, all).Check(); err != nil {
		return 0, err
	}
	return out, xfixes.SetCursorNameChecked(p.Conn, out, uint16(len(arrowName)), arrowName).Check()
}

// format is the display's of pictures with alpha, 8 bits each (X Rendering Extension 0.11,
// PictStandardARGB32).
func (p *rootPointer) format() (render.Pictformat, error) {
	all, err := render.QueryPictFormats(p.Conn).Reply()
	if err != nil {
		return 0, err
	}
	i := slices.IndexFunc(all.Formats, func(f render.Pictforminfo) bool {
		d := f.Direct
		return f.Type == render.PictTypeDirect && f.Depth == 32 && d.AlphaMask == 0xff && d.AlphaShift == 24 && d.RedShift == 16 && d.GreenShift == 8 && d.BlueShift == 0
	})
	if i < 0 {
		return 0, errors.New("the display draws no pictures with alpha")
	}
	return all.Formats[i].Id, nil
}

// frame is one picture of a shape, as a cursor.
func (p *rootPointer) frame(file *xcursor.File, im xcursor.Image, format render.Pictformat) (xproto.Cursor, error) {
	w, h := im.Rect.Dx(), im.Rect.Dy()
	if w > maxSide || h > maxSide {
		return 0, fmt.Errorf("it is %d × %d px, of at most %d", w, h, maxSide)
	}
	pixmap, err := xproto.NewPixmapId(p.Conn)
	if err != nil {
		return 0, err
	}
	gc, err := xproto.NewGcontextId(p.Conn)
	if err != nil {
		return 0, err
	}
	picture, err := render.NewPictureId(p.Conn)
	if err != nil {
		return 0, err
	}
	cursor, err := xproto.NewCursorId(p.Conn)
	if err != nil {
		return 0, err
	}
	if err := xproto.CreatePixmapChecked(p.Conn, 32, pixmap, xproto.Drawable(p.root), uint16(w), uint16(h)).Check(); err != nil {
		return 0, err
	}
	defer xproto.FreePixmap(p.Conn, pixmap)
	if err := xproto.CreateGCChecked(p.Conn, gc, xproto.Drawable(pixmap), 0, nil).Check(); err != nil {
		return 0, err
	}
	defer xproto.FreeGC(p.Conn, gc)
	pixels := p.pixels(file, im)
	for y, rows := 0, max(1, 1<<16/(4*w)); y < h; y += rows { // a request holds so much
		n := min(rows, h-y)
		if err := xproto.PutImageChecked(p.Conn, xproto.ImageFormatZPixmap, xproto.Drawable(pixmap), gc, uint16(w), uint16(n), 0, int16(y), 0, 32, pixels[4*w*y:4*w*(y+n)]).Check(); err != nil {
			return 0, err
		}
	}
	if err := render.CreatePictureChecked(p.Conn, picture, xproto.Drawable(pixmap), format, 0, nil).Check(); err != nil {
		return 0, err
	}
	defer render.FreePicture(p.Conn, picture)
	return cursor, render.CreateCursorChecked(p.Conn, cursor, picture, uint16(im.HotX), uint16(im.HotY)).Check()
}

// pixels are those of a picture in the display's order of bytes.
func (p *rootPointer) pixels(file *xcursor.File, im xcursor.Image) []byte {
	out := file.Picture(im).Pix // red, green, blue, alpha, each a byte
	most := xproto.Setup(p.Conn).ImageByteOrder == xproto.ImageOrderMSBFirst
	for i := 0; i+3 < len(out); i += 4 {
		r, g, b, a := out[i], out[i+1], out[i+2], out[i+3]
		if most {
			out[i], out[i+1], out[i+2], out[i+3] = a, r, g, b
		} else {
			out[i], out[i+1], out[i+2], out[i+3] = b, g, r, a
		}
	}
	return out
}
