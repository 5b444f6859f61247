package curfile

import (
	"encoding/binary"
	"fmt"
	"strings"
	"time"
)

// Jiffy is what an .ani counts time in: 1/60 s.
const Jiffy = time.Second / 60

// What an animation may have.
const (
	maxFrames = 4096
	maxSteps  = 4096
)

// Step is one step of an animation.
type Step struct {
	Frame   int // its number, from 0
	Jiffies int // for how long, at least 1
}

// Pointer is what any of the files holds: a .cur or .ico has one frame and one step.
type Pointer struct {
	Name, Artist string
	Frames       []*File
	Steps        []Step
}

// IsAnimation reports whether a file that starts so may be an .ani.
func IsAnimation(head []byte) bool {
	return len(head) >= 12 && string(head[:4]) == "RIFF" && string(head[8:12]) == "ACON"
}

// IsPointer reports whether a file that starts so may be a .cur or an .ani.
func IsPointer(head []byte) bool { return IsCursor(head) || IsAnimation(head) }

// Read reads a .cur, an .ico or an .ani, and checks that all pictures are there whole.
func Read(b []byte) (*Pointer, error) {
	switch {
	case len(b) > MaxFile:
		return nil, wrong("it is larger than %d MB", MaxFile>>20)
	case IsAnimation(b):
		return animation(b)
	}
	f, err := Parse(b)
	if err != nil {
		return nil, err
	}
	return &Pointer{Frames: []*File{f}, Steps: []Step{{0, 1}}}, nil
}

// chunk is a part of a RIFF file.
type chunk struct {
	id   string
	data []byte
}

// chunks goes through the chunks of a list: those that a list in it has are not gone into.
func chunks(b []byte, each func(c chunk) error) error {
	for len(b) >= 8 {
		size := int64(binary.LittleEndian.Uint32(b[4:]))
		if size > int64(len(b)-8) {
			return wrong("its part %q is cut off", b[:4])
		}
		if err := each(chunk{string(b[:4]), b[8 : 8+size]}); err != nil {
			return err
		}
		b = b[min(8+size+size%2, int64(len(b))):] // parts begin at even places
	}
	return nil
}

const (
	aniHeader  = 36 // bytes
	holdsLists = 1  // its frames are .cur or .ico files, and not bare bitmaps
)

// animation reads an .ani.
func animation(b []byte) (*Pointer, error) {
	le := binary.LittleEndian
	if size := int64(le.Uint32(b[4:])); size+8 > int64(len(b)) {
		return nil, wrong("it is cut off: of %d bytes there are %d", size+8, len(b))
	} else if size < 4 {
		return nil, wrong("it is empty")
	} else {
		b = b[12 : 8+size]
	}
	p, left := &Pointer{}, maxPixels
	var head, rates, order []byte
	err := chunks(b, func(c chunk) error {
		switch {
		case c.id == "anih":
			head = c.data
		case c.id == "rate":
			rates = c.data
		case c.id == "seq ":
			order = c.data
		case c.id == "LIST" && strings.HasPrefix(string(c.data[:min(4, len(c.data))]), "INFO"):
			return chunks(c.data[4:], func(c chunk) error {
				switch c.id {
				case "INAM":
					p.Name = text(c.data)
				case "IART":
					p.Artist = text(c.data)
				}
				return nil
			})
		case c.id == "LIST" && strings.HasPrefix(string(c.data[:min(4, len(c.data))]), "fram"):
			return chunks(c.data[4:], func(c chunk) error { return p.frame(c, &left) })
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	if len(head) < aniHeader {
		return nil, wrong("it has no header of %d bytes", aniHeader)
	}
	return p, p.timed(head, rates, order)
}

// frame adds a frame.
func (p *Pointer) frame(c chunk, left *int) error {
	if c.id != "icon" {
		return nil
	}
	if len(p.Frames) == maxFrames {
		return wrong("it has more than %d pictures in a row", maxFrames)
	}
	f, err := parse(c.data, left)
	if err != nil {
		return fmt.Errorf("%w (in number %d of the row)", err, len(p.Frames)+1)
	}
	p.Frames = append(p.Frames, f)
	return nil
}

// timed works out the steps by the header and, where they are there, the parts "rate" and "seq ".
func (p *Pointer) timed(head, rates, order []byte) error {
	le := binary.LittleEndian
	steps, rate := int64(le.Uint32(head[8:])), int64(le.Uint32(head[28:]))
	if le.Uint32(head[32:])&holdsLists == 0 {
		return wrong("its frames are bare bitmaps, which are not read")
	}
	if len(p.Frames) == 0 {
		return wrong("it has no picture")
	}
	if order == nil && steps > int64(len(p.Frames)) || steps == 0 {
		steps = int64(len(p.Frames))
	}
	switch {
	case steps > maxSteps:
		return wrong("it has %d steps, and more than %d are not read", steps, maxSteps)
	case order != nil && int64(len(order)) < 4*steps:
		return wrong("the order of its pictures is cut off")
	case rates != nil && int64(len(rates)) < 4*steps:
		return wrong("the list of its delays is cut off")
	}
	for i := range int(steps) {
		s := Step{i, int(min(max(rate, 1), maxJiffies))}
		if order != nil {
			s.Frame = int(le.Uint32(order[4*i:]))
		}
		if rates != nil {
			s.Jiffies = int(min(max(int64(le.Uint32(rates[4*i:])), 1), maxJiffies))
		}
		if s.Frame < 0 || s.Frame >= len(p.Frames) {
			return wrong("step %d shows picture %d of %d", i+1, s.Frame+1, len(p.Frames))
		}
		p.Steps = append(p.Steps, s)
	}
	return nil
}

// maxJiffies bounds how long a step lasts: ten minutes.
const maxJiffies = 600 * 60

// text is what a chunk of text says, up to its first zero.
func text(b []byte) string {
	s, _, _ := strings.Cut(string(b[:min(len(b), 4096)]), "\x00")
	return strings.ToValidUTF8(s, "?")
}
