package curfile

import (
	"encoding/binary"
	"image"
	"image/color"
)

const (
	bitmapHeader = 40 // bytes, of BITMAPINFOHEADER
	uncompressed = 0  // BI_RGB
)

// bitmap reads the header of a device-independent bitmap, and checks that all of it is there.
func bitmap(b []byte) (Image, error) {
	im := Image{data: b}
	if len(b) < bitmapHeader {
		return im, wrong("a picture is cut off")
	}
	le := binary.LittleEndian
	if le.Uint32(b) != bitmapHeader {
		return im, wrong("a picture is neither a bitmap with a header of %d bytes nor a PNG", bitmapHeader)
	}
	width, height := int64(int32(le.Uint32(b[4:]))), int64(int32(le.Uint32(b[8:])))
	if width < 1 || height < 2 || width > maxSide || height > 2*maxSide || height%2 != 0 {
		return im, wrong("a picture of %d × %d px is not read", width, height/2)
	}
	im.Width, im.Height, im.Bits = int(width), int(height/2), int(le.Uint16(b[14:]))
	if how := le.Uint32(b[16:]); how != uncompressed {
		return im, wrong("a picture is compressed in a way (%d) that is not read", how)
	}
	switch im.Bits {
	case 1, 4, 8, 16, 24, 32:
	default:
		return im, wrong("a picture has %d bits a pixel", im.Bits)
	}
	if colours := le.Uint32(b[32:]); im.Bits <= 8 && colours > 1<<im.Bits {
		return im, wrong("a picture has %d colours, of which %d can be told", colours, 1<<im.Bits)
	}
	needed := im.maskAt() + im.maskRow()*im.Height
	if im.Bits == 32 {
		needed = im.maskAt() // its pixels say themselves how opaque they are; some makers leave out the mask
	}
	if needed > len(b) {
		return im, wrong("a picture is cut off")
	}
	return im, im.sides()
}

// row is how many bytes a line of some bits has: whole groups of four.
func row(bits int) int { return (bits + 31) / 32 * 4 }

func (im Image) colourRow() int { return row(im.Width * im.Bits) }
func (im Image) maskRow() int   { return row(im.Width) }

// colours is how many a picture has a table of.
func (im Image) colours() int {
	if im.Bits > 8 {
		return 0
	}
	if n := int(binary.LittleEndian.Uint32(im.data[32:])); n != 0 {
		return n
	}
	return 1 << im.Bits
}

func (im Image) coloursAt() int { return bitmapHeader + 4*im.colours() }
func (im Image) maskAt() int    { return im.coloursAt() + im.colourRow()*im.Height }

// decode reads a bitmap: its lines from the bottom up. Where the mask is set the colour is laid
// over what is below so that black leaves it and white turns it.
func (im Image) decode() (*image.NRGBA, *image.Alpha, error) {
	out := image.NewNRGBA(image.Rect(0, 0, im.Width, im.Height))
	opaque := im.Bits == 32 && im.ownAlpha()
	masked := im.maskAt()+im.maskRow()*im.Height <= len(im.data)
	var turned *image.Alpha
	for y := range im.Height {
		below := im.Height - 1 - y
		line := im.data[im.coloursAt()+below*im.colourRow():]
		if opaque {
			to := out.Pix[y*out.Stride : (y+1)*out.Stride]
			for i := 0; i < len(to); i += 4 {
				to[i], to[i+1], to[i+2], to[i+3] = line[i+2], line[i+1], line[i], line[i+3]
			}
			continue
		}
		var mask []byte
		if masked {
			mask = im.data[im.maskAt()+below*im.maskRow():]
		}
		for x := range im.Width {
			c := im.pixel(line, x)
			switch {
			case mask == nil || mask[x/8]&(0x80>>(x%8)) == 0:
				c.A = 255
			case c.R|c.G|c.B != 0:
				if turned == nil {
					turned = image.NewAlpha(out.Rect)
				}
				turned.SetAlpha(x, y, color.Alpha{A: 255})
				c = color.NRGBA{}
			default:
				c = color.NRGBA{}
			}
			out.SetNRGBA(x, y, c)
		}
	}
	return out, turned, nil
}

// ownAlpha reports whether the pixels of a picture of 32 bits say how opaque they are: before
// some time that byte was left at 0, and the mask counts (common practice, no source).
func (im Image) ownAlpha() bool {
	for at := im.coloursAt() + 3; at < im.maskAt(); at += 4 {
		if im.data[at] != 0 {
			return true
		}
	}
	return false
}

// pixel is one of a line, how opaque it is only at 32 bits.
func (im Image) pixel(line []byte, x int) color.NRGBA {
	switch im.Bits {
	case 32:
		return color.NRGBA{line[4*x+2], line[4*x+1], line[4*x], line[4*x+3]}
	case 24:
		return color.NRGBA{line[3*x+2], line[3*x+1], line[3*x], 0}
	case 16: // five bits each
		v := binary.LittleEndian.Uint16(line[2*x:])
		five := func(v uint16) uint8 { v &= 31; return uint8(v<<3 | v>>2) }
		return color.NRGBA{five(v >> 10), five(v >> 5), five(v), 0}
	}
	each := 8 / im.Bits
	of := int(line[x/each]>>(8-im.Bits-x%each*im.Bits)) & (1<<im.Bits - 1)
	if of >= im.colours() {
		return color.NRGBA{}
	}
	c := im.data[bitmapHeader+4*of:]
	return color.NRGBA{c[2], c[1], c[0], 0}
}
