package imagefile

import (
	"context"
	"fmt"
	"image"
	"io"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"
	"github.com/stretchr/testify/require"
)

// TestShapesAreFilledInTheirBoxes: drawings of random shapes, some of them far outside, are
// what rasterx's own scanner makes of them over the whole picture.
func TestShapesAreFilledInTheirBoxes(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	differ, all := 0, 0
	for n := range 60 {
		var b strings.Builder
		b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" width="90" height="60" viewBox="0 0 90 60"><linearGradient id="g"><stop offset="0" stop-color="#f00"/><stop offset="1" stop-color="#00f"/></linearGradient>`)
		for range 8 {
			at := func() string { return fmt.Sprintf("%.2f %.2f", r.Float64()*200-60, r.Float64()*160-50) }
			paint := []string{`fill="#2a7"`, `fill="#a27" fill-opacity="0.5"`, `fill="url(#g)"`, `fill="none" stroke="#333" stroke-width="5"`}[r.IntN(4)]
			fmt.Fprintf(&b, `<path d="M%sL%sQ%s %sC%s %s %sz" %s/>`, at(), at(), at(), at(), at(), at(), at(), paint)
		}
		b.WriteString(`</svg>`)
		ours := Raster(t.Context(), []byte(b.String()), 180).(*image.RGBA)
		icon, err := oksvg.ReadIconStream(strings.NewReader(b.String()))
		require.NoError(t, err)
		icon.SetTarget(0, 0, 180, 120)
		theirs := image.NewRGBA(ours.Rect)
		icon.Draw(rasterx.NewDasher(180, 120, rasterx.NewScannerGV(180, 120, theirs, theirs.Rect)), 1)
		for i := range ours.Pix {
			all++
			if d := int(ours.Pix[i]) - int(theirs.Pix[i]); d > 12 || d < -12 {
				differ++
			}
		}
		require.Less(t, differ, all/500+20, n) // at edges that are nearly level
	}
}

// TestADrawingEndsWithItsContext, in the middle of its shapes.
func TestADrawingEndsWithItsContext(t *testing.T) {
	text := []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9">` + strings.Repeat(`<rect width="9" height="9"/>`, 500) + `</svg>`)
	asked := &counted{Context: t.Context()}
	require.NotNil(t, Raster(asked, text, 9))
	require.Greater(t, asked.n, 500)
	require.Nil(t, Raster(&counted{Context: t.Context(), most: asked.n / 2}, text, 9))
	_, err := Decode(&counted{Context: t.Context(), most: 1}, []byte("\x89PNG\r\n\x1a\n"))
	require.Error(t, err)
}

// counted is a context that ends once it was asked so often.
type counted struct {
	context.Context
	n, most int
}

func (c *counted) Err() error {
	if c.n++; c.most > 0 && c.n > c.most {
		return io.ErrClosedPipe
	}
	return nil
}
