package pointerset

import (
	"errors"
	"slices"
	"time"

	"ivelt/core/say"
	"ivelt/core/xcursor"
)

// Bounds of a changed motion.
const (
	MaxPictures = 240 // of a turn
	MaxTurn     = time.Minute
	maxWithout  = 1000
)

// Motion is what is changed in how a pointer moves, in this order; the zero value changes nothing.
type Motion struct {
	Without []int // pictures that are left out, from 1, as they are counted in the file
	Back    bool  // played to the end and back again, so that it closes
	// Pictures are how many a turn has, in every size: those that are seen at that part of it. A size
	// that stands still where others move is made from one of these, unless it is 1. 0 for its own.
	Pictures int
	Turn     time.Duration // of all pictures, whose shares stay: even ones where there are none; 0 for its own
}

// None reports whether it changes nothing.
func (m Motion) None() bool {
	return len(m.Without) == 0 && !m.Back && m.Pictures == 0 && m.Turn == 0
}

// Valid tells what is wrong with it.
func (m Motion) Valid() error {
	switch {
	case m.Pictures < 0 || m.Pictures > MaxPictures:
		return say.Errorf("a turn has from 1 to %d pictures", MaxPictures)
	case m.Turn < 0 || m.Turn > MaxTurn || m.Turn%time.Millisecond != 0:
		return say.Errorf("a turn lasts from 1 to %d ms", MaxTurn.Milliseconds())
	case len(m.Without) > maxWithout:
		return say.Errorf("up to %d pictures are left out", maxWithout)
	case slices.ContainsFunc(m.Without, func(n int) bool { return n < 1 || n > 1<<20 }):
		return errors.New("pictures are counted from 1")
	}
	return nil
}

// Of are the pictures of a size as it has them move. One picture at least stays, and one that stands
// still stays as it is.
func (m Motion) Of(frames []xcursor.Image) []xcursor.Image {
	if m.None() || len(frames) < 2 {
		return frames
	}
	var out []xcursor.Image
	for i, im := range frames {
		if !slices.Contains(m.Without, i+1) {
			out = append(out, im)
		}
	}
	if len(out) == 0 {
		out = frames[:1:1]
	}
	if m.Back {
		for i := len(out) - 2; i > 0; i-- {
			out = append(out, out[i])
		}
	}
	if m.Pictures > 0 && m.Pictures != len(out) {
		out = seen(out, m.Pictures)
	}
	if m.Turn > 0 {
		out = within(out, m.Turn)
	}
	return out
}

// turnOf is how long a turn of pictures is.
func turnOf(frames []xcursor.Image) (turn time.Duration) {
	for _, im := range frames {
		turn += im.Delay
	}
	return turn
}

// seen are the pictures that are seen at n even parts of a turn.
func seen(frames []xcursor.Image, n int) []xcursor.Image {
	turn := turnOf(frames)
	out := make([]xcursor.Image, n)
	i, end := 0, frames[0].Delay
	for k := range n {
		if turn == 0 {
			out[k] = frames[k*len(frames)/n]
			continue
		}
		for at := turn * time.Duration(k) / time.Duration(n); at >= end && i < len(frames)-1; {
			i++
			end += frames[i].Delay
		}
		out[k] = frames[i]
		out[k].Delay = part(turn, k+1, n) - part(turn, k, n)
	}
	return out
}

// within gives pictures that move delays that last a turn, in the shares that they have.
func within(frames []xcursor.Image, turn time.Duration) []xcursor.Image {
	if len(frames) < 2 {
		return frames
	}
	out := slices.Clone(frames)
	all, at, before := turnOf(frames), time.Duration(0), time.Duration(0)
	for i := range out {
		at += frames[i].Delay
		end := part(turn, i+1, len(out))
		if all > 0 {
			end = (time.Duration(float64(turn) * float64(at) / float64(all))).Round(time.Millisecond)
		}
		out[i].Delay, before = end-before, end
	}
	return out
}

// part is k/n of a time, in whole ms.
func part(of time.Duration, k, n int) time.Duration {
	return (of * time.Duration(k) / time.Duration(n)).Round(time.Millisecond)
}
