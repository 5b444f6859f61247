// Package xcursor reads Xcursor files: the shapes of a pointer set for the X
// Window System, in one or more sizes, still or moving. The format is that of
// the manual page Xcursor(3), section "File Format".
package xcursor

import (
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"time"
)

const (
	magic       = "Xcur"
	headerSize  = 16
	tocSize     = 12
	imageType   = 0xfffd0002
	imageHeader = 36

	// maxImages and maxSide are libXcursor's own bounds.
	maxImages = 0x10000
	maxSide   = 0x7fff
)

// ErrFormat: the bytes are not an Xcursor file, or a damaged one.
var ErrFormat = errors.New("not an Xcursor file")

// Image is one picture of a shape.
type Image struct {
	Size       int // nominal, in px: what a size asked for is matched with
	Rect       image.Rectangle
	HotX, HotY int
	Delay      time.Duration // until the next picture of a moving shape
	offset     int
}

// File is the directory of an Xcursor file. Pictures are decoded on demand.
type File struct {
	Images []Image // in the order of the file
	data   []byte
}

// IsXcursor reports whether a file that starts so may be an Xcursor file.
func IsXcursor(head []byte) bool { return len(head) >= 4 && string(head[:4]) == magic }

// Parse reads the directory and checks that all pictures are there whole.
func Parse(b []byte) (*File, error) {
	if !IsXcursor(b) || len(b) < headerSize {
		return nil, fmt.Errorf("%w: it does not start with %q", ErrFormat, magic)
	}
	le := binary.LittleEndian
	header, n := int(le.Uint32(b[4:])), int(le.Uint32(b[12:]))
	if header < headerSize || n > maxImages || header+n*tocSize > len(b) {
		return nil, fmt.Errorf("%w: its table of contents does not fit in it", ErrFormat)
	}
	f := &File{data: b}
	for i := range n {
		toc := b[header+i*tocSize:]
		if le.Uint32(toc) != imageType {
			continue
		}
		at := int(le.Uint32(toc[8:]))
		if at < 0 || at+imageHeader > len(b) {
			return nil, fmt.Errorf("%w: picture %d lies outside it", ErrFormat, i+1)
		}
		h := b[at:]
		im := Image{
			Size: int(le.Uint32(toc[4:])), HotX: int(le.Uint32(h[24:])), HotY: int(le.Uint32(h[28:])),
			Delay: time.Duration(le.Uint32(h[32:])) * time.Millisecond, offset: at + int(le.Uint32(h)),
		}
		w, ht := int(le.Uint32(h[16:])), int(le.Uint32(h[20:]))
		switch {
		case le.Uint32(h[4:]) != imageType || int(le.Uint32(h[8:])) != im.Size:
			return nil, fmt.Errorf("%w: picture %d is not the one its table of contents names", ErrFormat, i+1)
		case w < 1 || ht < 1 || w > maxSide || ht > maxSide:
			return nil, fmt.Errorf("%w: picture %d is %d × %d px", ErrFormat, i+1, w, ht)
		case im.HotX > w || im.HotY > ht:
			return nil, fmt.Errorf("%w: the hot spot of picture %d lies outside it", ErrFormat, i+1)
		case im.offset < at+imageHeader || im.offset+4*w*ht > len(b):
			return nil, fmt.Errorf("%w: picture %d is cut off", ErrFormat, i+1)
		}
		im.Rect = image.Rect(0, 0, w, ht)
		f.Images = append(f.Images, im)
	}
	if len(f.Images) == 0 {
		return nil, fmt.Errorf("%w: it has no picture", ErrFormat)
	}
	return f, nil
}

// Sizes returns the nominal sizes there are, each once, in file order.
func (f *File) Sizes() []int {
	var out []int
	seen := map[int]bool{}
	for _, im := range f.Images {
		if !seen[im.Size] {
			seen[im.Size] = true
			out = append(out, im.Size)
		}
	}
	return out
}

// Best returns the nominal size that is shown when size px is asked for: the
// nearest, and of two equally near the one that comes first in the file, as
// libXcursor chooses.
func (f *File) Best(size int) int {
	best := 0
	for _, s := range f.Sizes() {
		if best == 0 || abs(s-size) < abs(best-size) {
			best = s
		}
	}
	return best
}

// Frames returns the pictures of a nominal size in order: more than one if the
// shape moves.
func (f *File) Frames(nominal int) []Image {
	var out []Image
	for _, im := range f.Images {
		if im.Size == nominal {
			out = append(out, im)
		}
	}
	return out
}

// Picture decodes an image of this file. The file's pixels are ARGB with the
// colours multiplied by alpha, which is what image.RGBA holds.
func (f *File) Picture(im Image) *image.RGBA {
	out := image.NewRGBA(im.Rect)
	copy(out.Pix, f.data[im.offset:])
	swap(out.Pix)
	return out
}

// Needed are the shapes every program uses, each with the names it goes by:
// the CSS name first (CSS Basic User Interface Level 4, property cursor), then
// that of the X cursor font.
var Needed = [][]string{
	{"default", "left_ptr"}, {"pointer", "hand2", "hand1", "pointing_hand"}, {"text", "xterm", "ibeam"}, {"wait", "watch"},
	{"progress", "left_ptr_watch"}, {"crosshair", "cross"}, {"move", "fleur"}, {"not-allowed", "crossed_circle", "forbidden"},
	{"ns-resize", "sb_v_double_arrow", "size_ver"}, {"ew-resize", "sb_h_double_arrow", "size_hor"},
	{"nwse-resize", "bottom_right_corner", "size_fdiag"}, {"nesw-resize", "bottom_left_corner", "size_bdiag"},
}

func abs(n int) int { return max(n, -n) }
