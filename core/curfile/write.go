package curfile

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	"image/png"
)

// Picture is a picture to be written.
type Picture struct {
	*image.NRGBA
	HotX, HotY int
}

// MaxWritten is the longest side of a picture that is written, px: the list has one byte for it,
// in which 0 stands for 256.
const MaxWritten = 256

// Encode writes a .cur, or an .ico, whose hot spots are left out. Pictures of 256 px are written
// as PNG, smaller ones as bitmaps of 32 bits with a mask, which every reader knows.
func Encode(cursor bool, pictures []Picture) ([]byte, error) {
	le := binary.LittleEndian
	kind := uint16(typeIcon)
	if cursor {
		kind = typeCursor
	}
	if len(pictures) == 0 || len(pictures) > maxImages {
		return nil, fmt.Errorf("a list has from 1 to %d pictures, and not %d", maxImages, len(pictures))
	}
	out := le.AppendUint16(le.AppendUint16(le.AppendUint16(nil, 0), kind), uint16(len(pictures)))
	var bodies [][]byte
	at := headerSize + entrySize*len(pictures)
	for _, p := range pictures {
		w, h := p.Rect.Dx(), p.Rect.Dy()
		if w < 1 || h < 1 || w > MaxWritten || h > MaxWritten {
			return nil, fmt.Errorf("a picture of %d × %d px cannot be written; the longest side is %d", w, h, MaxWritten)
		}
		if p.HotX < 0 || p.HotY < 0 || p.HotX > w || p.HotY > h {
			return nil, fmt.Errorf("the hot spot %d, %d lies outside a picture of %d × %d px", p.HotX, p.HotY, w, h)
		}
		body, err := p.body()
		if err != nil {
			return nil, err
		}
		out = append(out, byte(w), byte(h), 0, 0)
		if cursor {
			out = le.AppendUint16(le.AppendUint16(out, uint16(p.HotX)), uint16(p.HotY))
		} else {
			out = le.AppendUint16(le.AppendUint16(out, 1), 32) // planes, bits
		}
		out = le.AppendUint32(le.AppendUint32(out, uint32(len(body))), uint32(at))
		at += len(body)
		bodies = append(bodies, body)
	}
	return append(out, bytes.Join(bodies, nil)...), nil
}

func (p Picture) body() ([]byte, error) {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	if max(w, h) == MaxWritten {
		var b bytes.Buffer
		err := png.Encode(&b, p.NRGBA)
		return b.Bytes(), err
	}
	le := binary.LittleEndian
	pixels, mask := 4*w*h, row(w)*h
	out := make([]byte, bitmapHeader+pixels+mask)
	le.PutUint32(out, bitmapHeader)
	le.PutUint32(out[4:], uint32(w))
	le.PutUint32(out[8:], uint32(2*h))
	le.PutUint16(out[12:], 1) // planes
	le.PutUint16(out[14:], 32)
	le.PutUint32(out[20:], uint32(pixels+mask))
	for y := range h {
		from := p.Pix[p.PixOffset(p.Rect.Min.X, p.Rect.Min.Y+h-1-y):]
		to, m := out[bitmapHeader+4*w*y:], out[bitmapHeader+pixels+row(w)*y:]
		for x := range w {
			c := from[4*x : 4*x+4]
			if c[3] == 0 {
				m[x/8] |= 0x80 >> (x % 8) // a reader that goes by the mask shows nothing
				continue
			}
			to[4*x], to[4*x+1], to[4*x+2], to[4*x+3] = c[2], c[1], c[0], c[3]
		}
	}
	return out, nil
}

// EncodeAnimation writes an .ani of some .cur files, the frames, that are shown in an order.
func EncodeAnimation(frames [][]byte, steps []Step, name, artist string) ([]byte, error) {
	if len(frames) == 0 || len(frames) > maxFrames || len(steps) == 0 || len(steps) > maxSteps {
		return nil, fmt.Errorf("an animation has up to %d pictures and %d steps", maxFrames, maxSteps)
	}
	le := binary.LittleEndian
	var body []byte
	put := func(id string, data []byte) {
		body = append(append(le.AppendUint32(append(body, id...), uint32(len(data))), data...), make([]byte, len(data)%2)...)
	}
	list := func(kind string, of []chunk) {
		size := len(kind)
		for _, c := range of {
			size += 9 + len(c.data)
		}
		data := append(make([]byte, 0, size), kind...)
		for _, c := range of {
			data = append(append(le.AppendUint32(append(data, c.id...), uint32(len(c.data))), c.data...), make([]byte, len(c.data)%2)...)
		}
		put("LIST", data)
	}
	var rates, order, head []byte
	same, straight := true, len(frames) == len(steps)
	for i, s := range steps {
		if s.Frame < 0 || s.Frame >= len(frames) || s.Jiffies < 1 || s.Jiffies > maxJiffies {
			return nil, fmt.Errorf("step %d shows picture %d of %d for %d/60 s", i+1, s.Frame+1, len(frames), s.Jiffies)
		}
		same, straight = same && s.Jiffies == steps[0].Jiffies, straight && s.Frame == i
		rates, order = le.AppendUint32(rates, uint32(s.Jiffies)), le.AppendUint32(order, uint32(s.Frame))
	}
	flags := holdsLists
	if !straight {
		flags |= 2 // it has the part "seq "
	}
	for _, v := range []int{aniHeader, len(frames), len(steps), 0, 0, 0, 0, steps[0].Jiffies, flags} {
		head = le.AppendUint32(head, uint32(v))
	}
	put("anih", head)
	if name != "" || artist != "" { // not before the header: some readers do not know it there
		list("INFO", []chunk{{"INAM", append([]byte(name), 0)}, {"IART", append([]byte(artist), 0)}})
	}
	if !same {
		put("rate", rates)
	}
	if !straight {
		put("seq ", order)
	}
	icons := make([]chunk, len(frames))
	for i, f := range frames {
		icons[i] = chunk{"icon", f}
	}
	list("fram", icons)
	out := le.AppendUint32([]byte("RIFF"), uint32(4+len(body)))
	return append(append(out, "ACON"...), body...), nil
}
