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
	out := []byte(magic)
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
		for y := b.Min.Y; y < b.Max.Y; y++ {
			for x := b.Min.X; x < b.Max.X; x++ {
				c := color.RGBAModel.Convert(f.Picture.At(x, y)).(color.RGBA)
				out = le.AppendUint32(out, uint32(c.A)<<24|uint32(c.R)<<16|uint32(c.G)<<8|uint32(c.B))
			}
		}
	}
	return out
}
