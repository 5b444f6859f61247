package preview_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/backdrop"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/outfit"
	"ivelt/core/preview"
)

// TestBackdropLiesAsItIsTold: the picture of the desk has the backdrop where it is painted otherwise,
// pixel by pixel, in each mode and cut, over the colour of its ground.
func TestBackdropLiesAsItIsTold(t *testing.T) {
	d := dressed(t)
	pic := image.NewNRGBA(image.Rect(0, 0, 300, 260))
	for y := range 260 {
		for x := range 300 {
			pic.Set(x, y, color.NRGBA{uint8(x * 255 / 300), uint8(y * 255 / 260), 128, 255})
			if x < 30 {
				pic.Set(x, y, color.NRGBA{}) // the ground is seen through it
			}
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, pic))
	const file = "/home/me/.local/share/backgrounds/places.png"
	require.NoError(t, os.WriteFile(d.HostPath(file), b.Bytes(), 0o644))
	const w, h = 640, 400
	ground := color.RGBA{0x80, 0x10, 0x20, 255}
	for _, mode := range backdrop.Modes {
		for _, cut := range []struct {
			across, down string
			backdrop.Cut
		}{{"50", "50", backdrop.Middle}, {"10", "90", backdrop.Cut{X: 0.1, Y: 0.9}}} {
			o := outfit.Outfit{Name: "Lies"}.With(desk.FacetBackdrop, file).With(desk.FacetLies, string(mode)).
				With(desk.FacetAcross, cut.across).With(desk.FacetDown, cut.down).With(desk.FacetBehind, "#801020")
			svg := preview.Shell(d, preview.Draft(t.Context(), d, o), w, h)
			raw, err := imagefile.PNG(t.Context(), svg, w, h)
			require.NoError(t, err)
			drawn, err := png.Decode(bytes.NewReader(raw))
			require.NoError(t, err)
			painted := image.NewRGBA(image.Rect(0, 0, w, h))
			backdrop.Paint(painted, pic, backdrop.Lay(mode, 300, 260, w, h, cut.Cut), ground)
			differ, seen := 0, 0
			for y := 2; y < 330; y += 3 { // the bar is below, the notice on the right
				for x := 2; x < 380; x += 3 {
					seen++
					a, b := color.RGBAModel.Convert(drawn.At(x, y)).(color.RGBA), painted.RGBAAt(x, y)
					for _, off := range []int{int(a.R) - int(b.R), int(a.G) - int(b.G), int(a.B) - int(b.B)} {
						if off > 12 || off < -12 {
							differ++
							break
						}
					}
				}
			}
			require.Less(t, differ, seen/100, "%s, cut at %s, %s: no more than along its edges", mode, cut.across, cut.down)
		}
	}
}
