package svgraster_test

import (
	"bytes"
	"context"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/svgraster"
)

func drawing(body string) []byte {
	return []byte(`<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40" height="40" viewBox="0 0 40 40">` + body + `</svg>`)
}

// TestWhatIsDrawn: colours at places, worked out by hand from SVG 1.1 and the modules
// that change it. Whole icons are held against librsvg in truth.
func TestWhatIsDrawn(t *testing.T) {
	red, blue, green, clear := color.NRGBA{255, 0, 0, 255}, color.NRGBA{0, 0, 255, 255}, color.NRGBA{0, 128, 0, 255}, color.NRGBA{}
	at := image.Pt
	dot := image.NewRGBA(image.Rect(0, 0, 2, 2))
	for i := range 2 {
		dot.Set(0, i, color.RGBA{255, 0, 0, 255})
		dot.Set(1, i, color.RGBA{0, 0, 255, 255})
	}
	var file bytes.Buffer
	require.NoError(t, png.Encode(&file, dot))
	picture := "data:image/png;base64," + base64.StdEncoding.EncodeToString(file.Bytes())
	inside := "data:image/svg+xml;base64," + base64.StdEncoding.EncodeToString(drawing(`<rect width="20" height="40" fill="red"/>`))
	for _, c := range []struct {
		what, body string
		want       map[image.Point]color.NRGBA
	}{
		{"a rectangle", `<rect x="10" y="10" width="20" height="20" fill="red"/>`, map[image.Point]color.NRGBA{at(5, 20): clear, at(20, 20): red, at(31, 20): clear}},
		{"round corners", `<rect width="40" height="40" rx="20" fill="red"/>`, map[image.Point]color.NRGBA{at(1, 1): clear, at(20, 20): red, at(38, 38): clear}},
		{"a path with arcs, relative", `<path d="m20 5a15 15 0 1 1-.01 0z" fill="#f00"/>`, map[image.Point]color.NRGBA{at(20, 20): red, at(20, 33): red, at(3, 20): clear}},
		{"curves that go on", `<path d="M0 40C0 0 20 0 20 20S40 40 40 0L40 40Z" fill="red"/>`, map[image.Point]color.NRGBA{at(38, 38): red, at(38, 2): clear, at(2, 2): clear}},
		{"even and odd", `<path fill-rule="evenodd" d="M0 0h40v40h-40zM10 10h20v20h-20z" fill="red"/>`, map[image.Point]color.NRGBA{at(5, 5): red, at(20, 20): clear}},
		{"not zero", `<path d="M0 0h40v40h-40zM10 10h20v20h-20z" fill="red"/>`, map[image.Point]color.NRGBA{at(20, 20): red}},
		{"a hole", `<path d="M0 0h40v40h-40zM10 10v20h20v-20z" fill="red"/>`, map[image.Point]color.NRGBA{at(20, 20): clear, at(5, 5): red}},
		{"a stroke", `<path d="M0 20h40" stroke="red" stroke-width="10"/>`, map[image.Point]color.NRGBA{at(20, 17): red, at(20, 23): red, at(20, 27): clear}},
		{"a stroke without colour of its own in a group", `<g stroke="red" stroke-width="4" fill="none"><circle cx="20" cy="20" r="10"/></g>`, map[image.Point]color.NRGBA{at(20, 20): clear, at(30, 20): red}},
		{"dashes", `<path d="M0 20h40" stroke="red" stroke-width="10" stroke-dasharray="10 10"/>`, map[image.Point]color.NRGBA{at(5, 20): red, at(15, 20): clear, at(25, 20): red}},
		{"a square end", `<path d="M20 20h5" stroke="red" stroke-width="10" stroke-linecap="square"/>`, map[image.Point]color.NRGBA{at(17, 20): red, at(28, 20): red, at(12, 20): clear}},
		{"moved and turned", `<g transform="translate(20 0) rotate(90)"><rect width="10" height="10" fill="red"/></g>`, map[image.Point]color.NRGBA{at(15, 5): red, at(25, 5): clear}},
		{"a gradient inherited", `<linearGradient id="a"><stop offset=".5" stop-color="red"/><stop offset=".5" stop-color="blue"/></linearGradient><linearGradient id="b" xlink:href="#a" x1="0" y1="0" x2="0" y2="40" gradientUnits="userSpaceOnUse"/><rect width="40" height="40" fill="url(#b)"/>`,
			map[image.Point]color.NRGBA{at(20, 5): red, at(20, 35): blue}},
		{"a round gradient", `<radialGradient id="a" cx="20" cy="20" r="20" gradientUnits="userSpaceOnUse"><stop offset=".5" stop-color="red"/><stop offset=".5" stop-color="blue"/></radialGradient><rect width="40" height="40" fill="url(#a)"/>`,
			map[image.Point]color.NRGBA{at(20, 20): red, at(20, 13): red, at(20, 3): blue, at(1, 1): blue}},
		{"repeated", `<linearGradient id="a" x1="0" x2="10" gradientUnits="userSpaceOnUse" spreadMethod="repeat"><stop offset=".5" stop-color="red"/><stop offset=".5" stop-color="blue"/></linearGradient><rect width="40" height="40" fill="url(#a)"/>`,
			map[image.Point]color.NRGBA{at(2, 20): red, at(7, 20): blue, at(12, 20): red, at(37, 20): blue}},
		{"a pattern", `<pattern id="a" width="20" height="20" patternUnits="userSpaceOnUse"><rect width="10" height="20" fill="red"/></pattern><rect width="40" height="40" fill="url(#a)"/>`,
			map[image.Point]color.NRGBA{at(5, 5): red, at(15, 5): clear, at(25, 30): red}},
		{"a clip", `<clipPath id="a"><rect width="20" height="40"/></clipPath><rect width="40" height="40" fill="red" clip-path="url(#a)"/>`, map[image.Point]color.NRGBA{at(10, 20): red, at(30, 20): clear}},
		{"a clip of a share", `<clipPath id="a" clipPathUnits="objectBoundingBox"><rect width=".5" height="1"/></clipPath><g clip-path="url(#a)"><rect width="40" height="40" fill="red"/></g>`, map[image.Point]color.NRGBA{at(10, 20): red, at(30, 20): clear}},
		{"a mask", `<mask id="a"><rect width="20" height="40" fill="white"/></mask><rect width="40" height="40" fill="red" mask="url(#a)"/>`, map[image.Point]color.NRGBA{at(10, 20): red, at(30, 20): clear}},
		{"how opaque a group is", `<g opacity=".5"><rect width="40" height="40" fill="red"/><rect width="40" height="40" fill="blue"/></g>`, map[image.Point]color.NRGBA{at(20, 20): {0, 0, 255, 128}}},
		{"used twice", `<defs><rect id="a" width="10" height="10" fill="red"/></defs><use href="#a"/><use xlink:href="#a" x="20" y="20"/>`, map[image.Point]color.NRGBA{at(5, 5): red, at(25, 25): red, at(15, 15): clear}},
		{"a symbol", `<symbol id="a" viewBox="0 0 10 10"><rect width="5" height="10" fill="red"/></symbol><use href="#a" width="40" height="40"/>`, map[image.Point]color.NRGBA{at(10, 20): red, at(30, 20): clear}},
		{"a style sheet", `<style>.a{fill:blue}#b{fill:red}rect{fill:green !important} g .c, x{stroke:red}</style><path id="b" class="a" d="M0 0h20v20h-20z"/><path class="a" d="M20 0h20v20h-20z"/><rect class="a" y="20" width="40" height="20"/>`,
			map[image.Point]color.NRGBA{at(5, 5): red, at(25, 5): blue, at(5, 30): green}},
		{"the colour of the text", `<g color="red"><rect width="40" height="40" fill="currentColor"/></g>`, map[image.Point]color.NRGBA{at(20, 20): red}},
		{"a view of its own", `<svg x="20" width="20" height="20" viewBox="0 0 4 4"><rect width="4" height="4" fill="red"/><rect x="-4" width="4" height="4" fill="blue"/></svg>`, map[image.Point]color.NRGBA{at(30, 10): red, at(10, 10): clear}},
		{"a picture", `<image href="` + picture + `" width="40" height="40" preserveAspectRatio="none"/>`, map[image.Point]color.NRGBA{at(3, 20): red, at(37, 20): blue}},
		{"a drawing in it", `<image href="` + inside + `" x="20" width="20" height="20"/>`, map[image.Point]color.NRGBA{at(25, 10): red, at(35, 10): clear}},
		{"a shadow", `<filter id="a" x="-1" y="-1" width="4" height="4" color-interpolation-filters="sRGB"><feOffset dx="20" result="o"/><feFlood flood-color="blue"/><feComposite in2="o" operator="in"/><feMerge><feMergeNode/><feMergeNode in="SourceGraphic"/></feMerge></filter><rect width="10" height="40" fill="red" filter="url(#a)"/>`,
			map[image.Point]color.NRGBA{at(5, 20): red, at(25, 20): blue, at(15, 20): clear}},
		{"multiplied", `<rect width="40" height="40" fill="red"/><rect width="20" height="40" fill="blue" style="mix-blend-mode:multiply"/>`, map[image.Point]color.NRGBA{at(10, 20): {0, 0, 0, 255}, at(30, 20): red}},
		{"what is not shown", `<rect width="40" height="40" fill="red" display="none"/><g visibility="hidden"><rect width="20" height="40" fill="red"/><rect x="20" width="20" height="40" fill="red" visibility="visible"/></g>`, map[image.Point]color.NRGBA{at(10, 20): clear, at(30, 20): red}},
		{"the first that fits", `<switch><rect requiredExtensions="x" width="40" height="40"/><rect width="40" height="40" fill="red"/></switch>`, map[image.Point]color.NRGBA{at(20, 20): red}},
	} {
		im, err := svgraster.Draw(t.Context(), drawing(c.body), 40, 40, svgraster.Options{Decode: func(b []byte) (image.Image, error) { return png.Decode(bytes.NewReader(b)) }})
		require.NoError(t, err, c.what)
		for p, want := range c.want {
			got := color.NRGBAModel.Convert(im.At(p.X, p.Y)).(color.NRGBA)
			require.InDeltaSlice(t, []int{int(want.R), int(want.G), int(want.B), int(want.A)}, []int{int(got.R), int(got.G), int(got.B), int(got.A)}, 2, fmt.Sprint(c.what, " at ", p))
		}
	}
}

// TestABlurIsABell: a step of half a line is half as strong at its edge, and gone three
// deviations away.
func TestABlurIsABell(t *testing.T) {
	for _, dev := range []int{1, 3, 6} {
		im, err := svgraster.Trusted(drawing(fmt.Sprintf(`<filter id="a" color-interpolation-filters="sRGB"><feGaussianBlur stdDeviation="%d"/></filter><rect x="-100" y="-100" width="120" height="240" filter="url(#a)"/>`, dev)), 40, 40)
		require.NoError(t, err)
		alpha := func(x int) int { return int(im.RGBAAt(x, 20).A) }
		require.InDelta(t, 127, (alpha(19)+alpha(20))/2, 3, dev)
		require.InDelta(t, 0, alpha(20+3*dev), 3, dev)
		inside := (float64(dev) - 0.5) / float64(dev)                                    // deviations to the middle of the pixel
		require.InDelta(t, 255*(1+math.Erf(inside/math.Sqrt2))/2, alpha(20-dev), 8, dev) // of boxes, where it is wide
	}
}

// TestWhatIsRefused: what is no drawing, and what would take too much.
func TestWhatIsRefused(t *testing.T) {
	for _, raw := range []string{"", "<html/>", "<svg", "<svg></svg><svg></svg>", "</svg>"} {
		_, err := svgraster.Draw(t.Context(), []byte(raw), 9, 9, svgraster.Options{})
		require.ErrorIs(t, err, svgraster.ErrDrawing, raw)
	}
	bomb := `<g id="a0"><rect width="40" height="40"/></g>`
	for i := range 20 {
		bomb += fmt.Sprintf(`<g id="a%d">%s</g>`, i+1, strings.Repeat(fmt.Sprintf(`<use href="#a%d"/>`, i), 10))
	}
	_, err := svgraster.Draw(t.Context(), drawing(bomb), 40, 40, svgraster.Options{Work: 1 << 22})
	require.ErrorIs(t, err, svgraster.ErrCostly)
	_, err = svgraster.Draw(t.Context(), drawing(strings.Repeat("<g>", 9000)), 40, 40, svgraster.Options{})
	require.ErrorIs(t, err, svgraster.ErrCostly)
	for _, circle := range []string{
		`<g id="a"><use href="#a"/></g>`, `<clipPath id="a" clip-path="url(#a)"><rect width="9" height="9"/></clipPath><rect width="9" height="9" clip-path="url(#a)"/>`,
		`<mask id="a"><rect width="9" height="9" mask="url(#a)"/></mask><rect width="9" height="9" mask="url(#a)"/>`, `<pattern id="a" width="3" height="3"><rect width="9" height="9" fill="url(#a)"/></pattern><rect width="9" height="9" fill="url(#a)"/>`,
		`<linearGradient id="a" href="#a"/><rect width="9" height="9" fill="url(#a)"/>`,
	} {
		_, err := svgraster.Draw(t.Context(), drawing(circle), 40, 40, svgraster.Options{Work: 1 << 24})
		require.NoError(t, err, circle)
	}
}

// TestADrawingHasItsOwnProportions, whatever says them.
func TestADrawingHasItsOwnProportions(t *testing.T) {
	for text, want := range map[string]image.Point{
		`<svg viewBox="0 0 30 20" width="100%"/>`: {90, 60}, `<svg width="1in" height="12pt"/>`: {90, 15},
		`<svg/>`: {90, 90}, `<svg width="NaN" height="Inf"/>`: {90, 90}, `<svg width="1e-300" height="1e300"/>`: {1, 90},
	} {
		im, err := svgraster.Fit(t.Context(), []byte(text), 90, svgraster.Options{})
		require.NoError(t, err, text)
		require.Equal(t, want, im.Rect.Max, text)
	}
}

// TestEveryKindOfWorkCounts: however a pixel is filled, it is counted, and what is in use at once.
func TestEveryKindOfWorkCounts(t *testing.T) {
	const rect = `<rect width="40" height="40" fill-opacity=".5"/>`
	for what, c := range map[string]struct {
		body string
		work int // times the pixels of the drawing, at least
	}{
		"what is seen through": {rect, 3},
		"a gradient":           {`<linearGradient id="a"><stop stop-color="red"/></linearGradient><rect width="40" height="40" fill="url(#a)"/>`, 8},
		"a blend":              {`<g style="mix-blend-mode:multiply">` + rect + `</g>`, 25},
		"a blur":               {`<filter id="a"><feGaussianBlur stdDeviation="3"/></filter><rect width="40" height="40" filter="url(#a)"/>`, 50},
		"what is put together": {`<filter id="a"><feMerge>` + strings.Repeat("<feMergeNode/>", 9) + `</feMerge></filter><rect width="40" height="40" filter="url(#a)"/>`, 180},
		"a mask":               {`<mask id="a">` + rect + `</mask><g mask="url(#a)">` + rect + `</g>`, 12},
	} {
		_, err := svgraster.Draw(t.Context(), drawing(c.body), 400, 400, svgraster.Options{Work: c.work * 400 * 400})
		require.ErrorIs(t, err, svgraster.ErrCostly, what)
		_, err = svgraster.Draw(t.Context(), drawing(c.body), 400, 400, svgraster.Options{Work: 4 * c.work * 400 * 400})
		require.NoError(t, err, what)
	}
	deep := strings.Repeat(`<g opacity=".9">`, 110) + rect + strings.Repeat(`</g>`, 110)
	_, err := svgraster.Draw(t.Context(), drawing(deep), 400, 400, svgraster.Options{Work: 1 << 30})
	require.ErrorIs(t, err, svgraster.ErrCostly, "110 layers of 160,000 pixels")
	_, err = svgraster.Draw(t.Context(), drawing(strings.Repeat(`<g opacity=".9">`+rect+`</g>`, 110)), 400, 400, svgraster.Options{Work: 1 << 30})
	require.NoError(t, err, "one after the other")
}

// TestADrawingEndsWithItsContext, in the middle of its shapes.
func TestADrawingEndsWithItsContext(t *testing.T) {
	text := drawing(strings.Repeat(`<rect width="40" height="40"/>`, 300))
	asked := &counted{Context: t.Context()}
	_, err := svgraster.Draw(asked, text, 400, 400, svgraster.Options{})
	require.NoError(t, err)
	require.Greater(t, asked.n, 100)
	_, err = svgraster.Draw(&counted{Context: t.Context(), most: asked.n / 2}, text, 400, 400, svgraster.Options{})
	require.ErrorIs(t, err, io.ErrClosedPipe)
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

func FuzzParse(f *testing.F) {
	f.Add(drawing(`<style>a.b>c{fill:#123;stroke:rgb(1,2%,3)}</style><g transform="skewX(3)matrix(1 0 0 1 2 3)"><path d="M0 0q1 2 3 4t5 6a1 2 3 0 1 9 9s1 2 3 4z" stroke="red" stroke-dasharray="1,2"/></g>`))
	f.Add(drawing(`<filter id="a"><feGaussianBlur stdDeviation="2 3"/><feColorMatrix type="saturate" values=".5"/><feBlend mode="screen" in2="SourceAlpha"/></filter><radialGradient id="b" fx="0" r="0"/><ellipse rx="9" ry="1e9" filter="url(#a)" fill="url(#b) red"/>`))
	f.Add([]byte(`<!DOCTYPE svg [<!ENTITY a "b">]><svg viewBox="0 0 1 NaN" preserveAspectRatio="xMinYMax slice"><image href="data:image/svg+xml,<svg/>"/>&a;</svg>`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		im, err := svgraster.Draw(t.Context(), raw, 16, 12, svgraster.Options{Work: 1 << 20})
		if err == nil {
			for i := 0; i < len(im.Pix); i += 4 {
				require.LessOrEqual(t, max(im.Pix[i], im.Pix[i+1], im.Pix[i+2]), im.Pix[i+3])
			}
		}
		if im, err = svgraster.Fit(t.Context(), raw, 16, svgraster.Options{Work: 1 << 20}); err == nil {
			require.Equal(t, 16, max(im.Rect.Dx(), im.Rect.Dy()))
		}
	})
}

// TestNumbersThatAreNone: what has no place stands nowhere, and leaves the rest as it is.
func TestNumbersThatAreNone(t *testing.T) {
	const ground = `<rect width="40" height="40" fill="#204060"/>`
	for _, odd := range []string{
		`<path transform="scale(NaN)" d="M0 0l5 5 5-5" fill="#fff" stroke="#fff" stroke-width="0"/>`, `<path transform="translate(Inf 0)" d="M0 0h5v5z" fill="#fff"/>`,
		`<g transform="scale(1e200)"><g transform="scale(1e200)"><path d="M1 1l-5 5 5-5" fill="none" stroke="#fff" stroke-dasharray="1 1"/></g></g>`,
		`<circle cx="NaN" cy="5" r="NaN" fill="#fff"/>`, `<path d="MNaN 0 L1e308 1e308 -1e308z" fill="#fff"/>`, `<rect x="-1e300" width="NaN" height="3" fill="#fff"/>`,
		`<g opacity="NaN"><rect x="90" width="4" height="4"/></g>`,
	} {
		im, err := svgraster.Draw(t.Context(), []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40">`+ground+odd+`</svg>`), 40, 40, svgraster.Options{})
		require.NoError(t, err, odd)
		for _, p := range []image.Point{{1, 30}, {20, 20}, {38, 2}} {
			require.Equal(t, color.RGBA{0x20, 0x40, 0x60, 255}, im.RGBAAt(p.X, p.Y), "%s at %v", odd, p)
		}
	}
}
