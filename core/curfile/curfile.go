// Package curfile reads and writes pointers and icons in the formats .cur and .ico, a list of
// pictures of one shape in several sizes, and .ani, such lists in a row.
//
// A .cur or .ico is a header of six bytes, an entry of 16 bytes for each picture, and the
// pictures: device-independent bitmaps without their file header, whose height counts a mask of
// one bit below the colours, or whole PNG files (common practice; the bitmap's header is that of
// "Multimedia Programming Interface and Data Specifications 1.0", 1991, chapter 3). An .ani is a
// RIFF file of the form ACON (the same, chapter 2; its chunks: common practice, no source).
package curfile

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/png"
)

// ErrFormat: the bytes are none of the formats, or damaged. Errors wrap it.
var ErrFormat = errors.New("not a pointer file of the other family")

func wrong(format string, args ...any) error {
	return fmt.Errorf("%w: "+format, append([]any{ErrFormat}, args...)...)
}

// What one file may have.
const (
	MaxFile   = 64 << 20 // bytes
	maxImages = 256      // of one list
	maxSide   = 1024     // px
	maxPixels = 64 << 20 // of all pictures of a file, each time it stands there
)

const (
	headerSize = 6
	entrySize  = 16

	typeIcon   = 1
	typeCursor = 2
)

// Image is one picture of a list.
type Image struct {
	Width, Height int // px
	HotX, HotY    int // px from the left and the top; 0 in icons
	Bits          int // of a pixel, as it is kept; 32 for a PNG

	png  bool
	data []byte
}

// File is a list of pictures of one shape: a .cur or an .ico.
type File struct {
	Cursor bool // and not an icon
	Images []Image
}

// IsCursor reports whether a file that starts so may be a .cur.
func IsCursor(head []byte) bool { return isList(head, typeCursor) }

// IsIcon reports whether a file that starts so may be an .ico.
func IsIcon(head []byte) bool { return isList(head, typeIcon) }

func isList(head []byte, of byte) bool {
	return len(head) >= headerSize && head[0] == 0 && head[1] == 0 && head[2] == of && head[3] == 0 && (head[4] != 0 || head[5] != 0)
}

// Parse reads the list of a .cur or an .ico, and checks that all pictures are there whole.
func Parse(b []byte) (*File, error) {
	left := maxPixels
	return parse(b, &left)
}

// parse counts the pixels down from left.
func parse(b []byte, left *int) (*File, error) {
	if !IsCursor(b) && !IsIcon(b) {
		return nil, wrong("it does not start like a .cur or an .ico")
	}
	le := binary.LittleEndian
	n := int(le.Uint16(b[4:]))
	switch {
	case n > maxImages:
		return nil, wrong("it has %d pictures, and more than %d are not read", n, maxImages)
	case headerSize+n*entrySize > len(b):
		return nil, wrong("its list of pictures is cut off")
	}
	f := &File{Cursor: b[2] == typeCursor}
	for i := range n {
		e := b[headerSize+i*entrySize:]
		size, at := int64(le.Uint32(e[8:])), int64(le.Uint32(e[12:]))
		if at+size > int64(len(b)) {
			return nil, wrong("picture %d lies outside it", i+1)
		}
		im, err := header(b[at : at+size])
		if err != nil {
			return nil, fmt.Errorf("%w (picture %d)", err, i+1)
		}
		if *left -= im.Width * im.Height; *left < 0 {
			return nil, wrong("its pictures have more than %d million pixels", maxPixels>>20)
		}
		if f.Cursor {
			im.HotX, im.HotY = int(le.Uint16(e[4:])), int(le.Uint16(e[6:]))
			if im.HotX > im.Width || im.HotY > im.Height {
				return nil, wrong("the hot spot of picture %d lies outside it", i+1)
			}
		}
		f.Images = append(f.Images, im)
	}
	return f, nil
}

var pngMagic = []byte("\x89PNG\r\n\x1a\n")

// header reads what a picture says of itself.
func header(b []byte) (Image, error) {
	im := Image{data: b}
	if bytes.HasPrefix(b, pngMagic) {
		c, err := png.DecodeConfig(bytes.NewReader(b))
		if err != nil {
			return im, wrong("a PNG in it is damaged: %v", err)
		}
		im.png, im.Width, im.Height, im.Bits = true, c.Width, c.Height, 32
		return im, im.sides()
	}
	return bitmap(b)
}

// sides is nil if a picture has a size that is read.
func (im Image) sides() error {
	if im.Width < 1 || im.Height < 1 || im.Width > maxSide || im.Height > maxSide {
		return wrong("a picture of %d × %d px is not read", im.Width, im.Height)
	}
	return nil
}

// Size is the length of the longer side, px: what a size that is asked for is matched with.
func (im Image) Size() int { return max(im.Width, im.Height) }

// Plain reports whether a picture is a bitmap whose pixels say how opaque they are: nothing in it
// can be damaged, and nothing turns what lies below.
func (im Image) Plain() bool { return !im.png && im.Bits == 32 && im.ownAlpha() }

// Picture decodes a picture. tells which pixels are to turn the colour of what
// lies below into its opposite: those are transparent in the picture, and opaque in turned, which
// is nil if there are none.
func (im Image) Picture() (picture *image.NRGBA, turned *image.Alpha, err error) {
	if !im.png {
		return im.decode()
	}
	src, err := png.Decode(bytes.NewReader(im.data))
	if err != nil {
		return nil, nil, wrong("a PNG in it is damaged: %v", err)
	}
	if already, ok := src.(*image.NRGBA); ok && already.Rect.Min == (image.Point{}) {
		return already, nil, nil
	}
	b := src.Bounds()
	out := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	for y := range b.Dy() {
		for x := range b.Dx() {
			out.Set(x, y, src.At(b.Min.X+x, b.Min.Y+y))
		}
	}
	return out, nil, nil
}

// Sizes are the sizes of a list, each once, in the order of the file.
func (f *File) Sizes() []int {
	var out []int
	seen := map[int]bool{}
	for _, im := range f.Images {
		if !seen[im.Size()] {
			seen[im.Size()] = true
			out = append(out, im.Size())
		}
	}
	return out
}

// Of is the picture of a size: of several the one with most bits of colour, and of these the first.
func (f *File) Of(size int) (best Image, ok bool) {
	for _, im := range f.Images {
		if im.Size() == size && (!ok || im.Bits > best.Bits) {
			best, ok = im, true
		}
	}
	return best, ok
}
