package web_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/judge"
	"ivelt/core/outfit"
	"ivelt/core/preview"
)

// TestColoursAsSomeSeeThem holds each way of seeing colours against the browser's
// own emulation of it, by pixel.
func TestColoursAsSomeSeeThem(t *testing.T) {
	b := newStage(t).browsePainted()
	r := rand.New(rand.NewPCG(9, 9))
	var svg strings.Builder
	svg.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" width="640" height="160" viewBox="0 0 640 160">`)
	var all []colour.Colour
	for i := range 256 {
		c := colour.Of8(uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)))
		all = append(all, c)
		fmt.Fprintf(&svg, `<rect x="%d" y="%d" width="10" height="40" fill="%s"/>`, i%64*10, i/64*40, c.Hex())
	}
	svg.WriteString(`</svg>`)
	for _, v := range colour.Visions {
		b.Do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
			_, err := cdp.Call(ctx, t, emulation.SetEmulatedVisionDeficiency, emulation.SetEmulatedVisionDeficiencyParams{Type: emulation.SetEmulatedVisionDeficiencyType(v.Name)})
			return err
		}))
		px := b.rasters([]byte(svg.String()))[0]
		for i, c := range all {
			got := px.At(i%64*10+5, i/64*40+20)
			want := v.Of(c)
			r, g, bl, _ := got.RGBA()
			for part, pair := range map[string][2]float64{"red": {float64(r >> 8), want.R * 255}, "green": {float64(g >> 8), want.G * 255}, "blue": {float64(bl >> 8), want.B * 255}} {
				require.InDelta(t, pair[0], pair[1], 2.5, "%s of %s %s", part, c.Hex(), v.Title)
			}
		}
	}
}

// photograph is a picture with fine and coarse parts, made by code.
func photograph(w, h int) *image.RGBA {
	im := image.NewRGBA(image.Rect(0, 0, w, h))
	r := rand.New(rand.NewPCG(4, 2))
	for y := range h {
		for x := range w {
			v := uint8((x*255/w + y*255/h) / 2)
			im.SetRGBA(x, y, color.RGBA{v, uint8(255 - x*255/w), uint8(80 + (x/40+y/40)%2*120), 255})
		}
	}
	for range 60 {
		x, y, s := r.IntN(w), r.IntN(h), 10+r.IntN(60)
		c := color.RGBA{uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)), 255}
		for dy := range s {
			for dx := range s {
				im.Set(x+dx, y+dy, c)
			}
		}
	}
	return im
}

// TestWhatIsUnderTheBar holds the strip that the judge composes, blurred and mixed
// with the bar, against the browser's own raster of the same layers, by pixel: the
// picture's bar, where nothing stands on it.
func TestWhatIsUnderTheBar(t *testing.T) {
	b := newStage(t).browsePainted()
	d := b.world.Avocet
	var file bytes.Buffer
	require.NoError(t, png.Encode(&file, photograph(1280, 800)))
	b.write("Pictures/harbour.png", file.String())
	b.write(".themes/Pane/quayside/shell.css", "panel { background-color: #345678; color: #ffffff; }\n")
	im := imagefile.Raster(t.Context(), file.Bytes(), 0)
	for _, c := range []struct {
		edge, height              string
		opacity, blur, saturation int
	}{
		{"top", "34", 30, 0, 100}, {"top", "34", 0, 24, 100}, {"bottom", "44", 60, 12, 100}, {"bottom", "34", 20, 64, 100}, {"top", "60", 45, 5, 100},
		{"top", "34", 30, 0, 220}, {"top", "34", 0, 24, 180}, {"bottom", "44", 20, 12, 0},
	} {
		o := outfit.Outfit{}.With(desk.FacetBackdrop, "/home/mara/Pictures/harbour.png").With(desk.FacetBar, "Pane").With(desk.FacetBars, c.edge+" "+c.height+": menu pinned / / tray battery clock").
			With(desk.FacetOpacity, fmt.Sprint(c.opacity)).With(desk.FacetBlur, fmt.Sprint(c.blur)).With(desk.FacetSaturation, fmt.Sprint(c.saturation))
		look := preview.Draft(t.Context(), d, o)
		px := b.rasters(preview.Draw(d, look, "desk"))[0]
		arranged := preview.Arrange(d, look, 1280, 800)
		require.Len(t, arranged.Placed, 1)
		at := arranged.Placed[0].At
		behind := judge.Strip(im, im.Bounds(), 1280, 800, at, float64(c.blur), float64(c.saturation)/100)
		sum, n, worst := 0.0, 0, 0.0
		for y := at.Min.Y + 2; y < at.Max.Y-2; y++ {
			for x := 560; x < 960; x++ { // between the programs and the signs
				got := color.NRGBAModel.Convert(px.At(x, y)).(color.NRGBA)
				was := behind.RGBAAt(x, y)
				mixed := func(bar, back uint8) float64 {
					return float64(bar)*float64(c.opacity)/100 + float64(back)*(1-float64(c.opacity)/100)
				}
				for _, pair := range [][2]float64{{mixed(0x34, was.R), float64(got.R)}, {mixed(0x56, was.G), float64(got.G)}, {mixed(0x78, was.B), float64(got.B)}} {
					apart := max(pair[0]-pair[1], pair[1]-pair[0])
					sum, n, worst = sum+apart, n+1, max(worst, apart)
				}
			}
		}
		t.Logf("%s %s px, %d %% opaque, blur %d px: apart by %.2f of 255 on the mean, %.0f at most", c.edge, c.height, c.opacity, c.blur, sum/float64(n), worst)
		require.Less(t, sum/float64(n), 1.5, "%v", c)
		require.Less(t, worst, 10.0, "%v", c)
	}
	require.FileExists(t, filepath.Join(d.Home, "Pictures/harbour.png"))
}
