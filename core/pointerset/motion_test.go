package pointerset_test

import (
	"fmt"
	"image"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/pointerset"
	"ivelt/core/xcursor"
)

// TestMotion: pictures, told apart by their hot spots, and how many ms each is seen.
func TestMotion(t *testing.T) {
	of := func(delays ...int) (out []xcursor.Image) {
		for i, ms := range delays {
			out = append(out, xcursor.Image{HotX: i + 1, Delay: time.Duration(ms) * time.Millisecond})
		}
		return out
	}
	for want, c := range map[string]struct {
		from []xcursor.Image
		m    pointerset.Motion
	}{
		"1:10 2:20 3:30":                {of(10, 20, 30), pointerset.Motion{}},
		"1:10 3:30":                     {of(10, 20, 30), pointerset.Motion{Without: []int{2, 9}}},
		"1:10":                          {of(10, 20), pointerset.Motion{Without: []int{1, 2}}},
		"1:7":                           {of(7), pointerset.Motion{Back: true, Pictures: 4, Turn: time.Second}},
		"1:10 2:20 3:30 4:40 3:30 2:20": {of(10, 20, 30, 40), pointerset.Motion{Back: true}},
		"1:20 2:40 3:60":                {of(10, 20, 30), pointerset.Motion{Turn: 120 * time.Millisecond}},
		"1:33 2:34 3:33":                {of(0, 0, 0), pointerset.Motion{Turn: 100 * time.Millisecond}},
		"1:20 3:20":                     {of(10, 10, 10, 10), pointerset.Motion{Pictures: 2}},
		"1:15 1:15 2:15 2:15":           {of(30, 30), pointerset.Motion{Pictures: 4}},
		"1:20 2:20 2:20":                {of(20, 40), pointerset.Motion{Pictures: 3}},
		"1:0 1:0 2:0":                   {of(0, 0), pointerset.Motion{Pictures: 3}},
		"1:60":                          {of(10, 20, 30), pointerset.Motion{Pictures: 1}},
		"1:50 4:50":                     {of(10, 20, 30, 10), pointerset.Motion{Without: []int{2, 3}, Pictures: 2, Turn: 100 * time.Millisecond}},
	} {
		var got []string
		for _, im := range c.m.Of(c.from) {
			got = append(got, fmt.Sprintf("%d:%d", im.HotX, im.Delay.Milliseconds()))
		}
		require.Equal(t, want, strings.Join(got, " "))
		require.NoError(t, c.m.Valid())
	}
	for why, m := range map[string]pointerset.Motion{
		"from 1 to 240 pictures": {Pictures: 241}, "from 1 to 60000 ms": {Turn: time.Hour}, "counted from 1": {Without: []int{0}}, "up to 1000": {Without: make([]int, 1001)},
	} {
		require.ErrorContains(t, m.Valid(), why)
	}
}

// TestStillSizeMoves: a size that stands still where others move is made of these, and the others
// keep their own pictures.
func TestStillSizeMoves(t *testing.T) {
	frame := func(size, mark int) xcursor.Frame {
		p := image.NewRGBA(image.Rect(0, 0, size, size))
		for i := range p.Pix {
			p.Pix[i] = 255
		}
		p.Pix[0] = uint8(mark)
		return xcursor.Frame{Size: size, Picture: p, Delay: 40}
	}
	raw := xcursor.Encode([]xcursor.Frame{frame(24, 1), frame(48, 2), frame(48, 3), frame(64, 4), frame(64, 5), frame(64, 6)})
	raw, err := pointerset.Changed(t.Context(), raw, pointerset.Change{Motion: pointerset.Motion{Pictures: 3, Turn: 90 * time.Millisecond}})
	require.NoError(t, err)
	f, err := xcursor.Parse(raw)
	require.NoError(t, err)
	marks := func(size int) (out []byte) {
		for _, im := range f.Frames(size) {
			require.Equal(t, 30*time.Millisecond, im.Delay)
			out = append(out, f.Picture(im).Pix[0])
		}
		return out
	}
	require.Len(t, marks(24), 3)
	require.Equal(t, []byte{2, 2, 3}, marks(48))
	require.Equal(t, []byte{4, 5, 6}, marks(64))
}
