package xcursor

import (
	"encoding/binary"
	"image"
	"image/color"
)

// Frame is a picture to be written.
type Frame struct {
	Size       int // nominal, px
	Picture    image.Image
	HotX, HotY int
	Delay      int // ms
}

// Encode writes an Xcursor file of version 1.0.
func Encode(frames []Frame) []byte {
	le := binary.LittleEndian
	sizes := make([]image.Point, len(frames))
	for i, f := range frames {
		sizes[i] = f.Picture.Bounds().Size()
	}
	out := append(make([]byte, 0, EncodedSize(sizes)), magic...)
	out = le.AppendUint32(out, headerSize)
	out = le.AppendUint32(out, 0x10000)
	out = le.AppendUint32(out, uint32(len(frames)))
	at := headerSize + tocSize*len(frames)
	for _, f := range frames {
		out = le.AppendUint32(out, imageType)
		out = le.AppendUint32(out, uint32(f.Size))
		out = le.AppendUint32(out, uint32(at))
		at += imageHeader + 4*f.Picture.Bounds().Dx()*f.Picture.Bounds().Dy()
	}
	for _, f := range frames {
		b := f.Picture.Bounds()
		for _, v := range []int{imageHeader, imageType, f.Size, 1, b.Dx(), b.Dy(), f.HotX, f.HotY, f.Delay} {
			out = le.AppendUint32(out, uint32(v))
		}
		if p, ok := f.Picture.(*image.RGBA); ok {
			out = appendLines(out, p)
			continue
		}
		for y := b.Min.Y; y < b.Max.Y; y++ {
			for x := b.Min.X; x < b.Max.X; x++ {
				c := color.RGBAModel.Convert(f.Picture.At(x, y)).(color.RGBA)
				out = append(out, c.B, c.G, c.R, c.A)
			}
		}
	}
	return out
}

func appendLines(out []byte, p *image.RGBA) []byte {
	for y := range p.Rect.Dy() {
		line := p.Pix[y*p.Stride : y*p.Stride+4*p.Rect.Dx()]
		at := len(out)
		out = append(out, line...)
		swap(out[at:])
	}
	return out
}

// swap turns pixels of red, green, blue and alpha into those of the file, and back.
func swap(line []byte) {
	for i := 0; i+3 < len(line); i += 4 {
		line[i], line[i+2] = line[i+2], line[i]
	}
}

// EncodedSize is how many bytes a file with pictures of some sizes has.
func EncodedSize(pictures []image.Point) int64 {
	n := int64(headerSize)
	for _, p := range pictures {
		n += tocSize + imageHeader + 4*int64(p.X)*int64(p.Y)
	}
	return n
}
