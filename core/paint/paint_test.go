package paint_test

import (
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
	"ivelt/core/paint"
)

// painted is a box of 60 × 40 px at 20, 20 in a style, on a white ground.
func painted(css string, generation int, id string) string {
	var b strings.Builder
	b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 80" width="100" height="80"><rect width="100" height="80" fill="#ffffff"/>`)
	p := &paint.Painter{B: &b, ID: id}
	p.Box(20, 20, 60, 40, gtkcss.NewCascade(gtkcss.Parse([]byte("box { "+css+" }"), generation)).Compute("box"))
	b.WriteString("</svg>")
	return b.String()
}

// pixels draws pictures of 100 × 80 px one below the other with Chromium.
func pixels(t *testing.T, svgs []string) image.Image {
	t.Helper()
	dir := t.TempDir()
	page := "<!doctype html><style>body { margin: 0 } svg { display: block }</style>" + strings.Join(svgs, "\n")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "page.html"), []byte(page), 0o644))
	cmd := exec.Command("chromium-headless-shell", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", "--force-color-profile=srgb",
		"--user-data-dir="+filepath.Join(dir, "profile"), fmt.Sprintf("--window-size=500,%d", 80*len(svgs)+200), "--screenshot="+filepath.Join(dir, "out.png"), "file://"+filepath.Join(dir, "page.html"))
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	f, err := os.Open(filepath.Join(dir, "out.png"))
	require.NoError(t, err)
	defer f.Close()
	im, err := png.Decode(f)
	require.NoError(t, err)
	return im
}

// TestABoxIsPaintedAsItsStyleSays: colours at places of the box, worked out by hand from CSS
// Backgrounds and Borders 3 and CSS Images 3.
func TestABoxIsPaintedAsItsStyleSays(t *testing.T) {
	at := func(x, y int) image.Point { return image.Pt(x, y) }
	white, red, blue := color.RGBA{255, 255, 255, 255}, color.RGBA{255, 0, 0, 255}, color.RGBA{0, 0, 255, 255}
	type boxCase struct {
		css  string
		want map[image.Point]color.RGBA
	}
	cases := []boxCase{
		{"background-color: red;", map[image.Point]color.RGBA{at(10, 10): white, at(22, 22): red, at(50, 40): red, at(78, 58): red, at(82, 40): white}},
		{"background-color: red; border: 6px solid blue;", map[image.Point]color.RGBA{at(22, 40): blue, at(50, 22): blue, at(77, 40): blue, at(50, 57): blue, at(50, 40): red}},
		{"background-color: red; border-radius: 20px;", map[image.Point]color.RGBA{at(21, 21): white, at(50, 40): red, at(78, 22): white, at(21, 40): red}},
		{"background-color: rgba(255,0,0,0.5);", map[image.Point]color.RGBA{at(50, 40): {255, 128, 128, 255}}},
		{"background-image: linear-gradient(to right, red, blue);", map[image.Point]color.RGBA{at(21, 40): {251, 0, 4, 255}, at(50, 40): {128, 0, 128, 255}, at(78, 40): {4, 0, 251, 255}}},
		{"background-image: linear-gradient(to bottom, red 50%, blue 50%);", map[image.Point]color.RGBA{at(50, 25): red, at(50, 55): blue}},
		{"background-image: linear-gradient(blue, blue); background-size: 20px 20px; background-repeat: no-repeat; background-position: right bottom; background-color: red;", map[image.Point]color.RGBA{at(70, 50): blue, at(50, 30): red}},
		{"background-color: red; background-clip: padding-box; border: 6px solid rgba(0,0,0,0);", map[image.Point]color.RGBA{at(22, 40): white, at(50, 40): red}},
		{"background-color: red; border-left: 10px solid blue;", map[image.Point]color.RGBA{at(24, 40): blue, at(35, 40): red, at(78, 40): red}},
		{"background-color: red; box-shadow: 10px 0 0 0 blue;", map[image.Point]color.RGBA{at(85, 40): blue, at(50, 40): red, at(15, 40): white}},
		{"background-color: red; background-image: linear-gradient(blue, blue); background-size: 10px 40px; background-position: 5px 0; background-repeat: repeat-x;", map[image.Point]color.RGBA{at(50, 30): blue}},
		{"background-color: red; background-image: linear-gradient(blue, blue); background-size: 50% 10px; background-position: 100% 50%; background-repeat: no-repeat;", map[image.Point]color.RGBA{at(70, 40): blue, at(30, 40): red, at(70, 25): red}},
		{"background-image: radial-gradient(circle at center, red 0%, red 40%, blue 40%, blue 100%);", map[image.Point]color.RGBA{at(50, 40): red, at(22, 22): blue}},
		{"background-image: radial-gradient(ellipse farthest-corner at left top, red, red 30%, blue 60%);", map[image.Point]color.RGBA{at(21, 21): red, at(78, 58): blue}},
		{"background-image: repeating-linear-gradient(to right, red 0px, red 10px, blue 10px, blue 20px);", map[image.Point]color.RGBA{at(25, 40): red, at(35, 40): blue, at(45, 40): red, at(55, 40): blue}},
		{"background-image: linear-gradient(45deg, red 50%, blue 50%);", map[image.Point]color.RGBA{at(25, 55): red, at(75, 25): blue}},
		{"background-image: linear-gradient(rgba(0,0,255,0.5), rgba(0,0,255,0.5)), linear-gradient(red, red);", map[image.Point]color.RGBA{at(50, 40): {128, 0, 128, 255}}},
		{"background-color: red; opacity: 0.5;", map[image.Point]color.RGBA{at(50, 40): {255, 128, 128, 255}}},
		{"background-color: red; border: 4px solid; border-color: blue red blue red; border-radius: 12px;", map[image.Point]color.RGBA{at(50, 22): blue, at(22, 40): red, at(50, 57): blue}},
		{"background-color: red; background-clip: content-box; padding: 10px;", map[image.Point]color.RGBA{at(25, 40): white, at(50, 40): red}},
		{"background-color: red; box-shadow: 0 0 0 6px blue;", map[image.Point]color.RGBA{at(16, 40): blue, at(50, 16): blue, at(50, 40): red, at(12, 40): white}},
		{"background-color: red; box-shadow: inset 0 8px blue;", map[image.Point]color.RGBA{at(50, 23): blue, at(50, 40): red}},
	}
	var svgs []string
	for i, c := range cases {
		svgs = append(svgs, painted(c.css, 3, fmt.Sprint("c", i, "-")), painted(c.css, 4, fmt.Sprint("d", i, "-")))
	}
	im := pixels(t, svgs)
	for i, c := range cases {
		for n := range 2 {
			for p, want := range c.want {
				r, g, b, _ := im.At(p.X, p.Y+80*(2*i+n)).RGBA()
				require.InDeltaSlice(t, []int{int(want.R), int(want.G), int(want.B)}, []int{int(r >> 8), int(g >> 8), int(b >> 8)}, 6, fmt.Sprint(c.css, " at ", p, "\n", svgs[2*i+n]))
			}
		}
	}
}

// TestNothingOfAPieceIsPassedOn: what is written comes from numbers and colours.
func TestNothingOfAPieceIsPassedOn(t *testing.T) {
	svg := painted(`background-image: url("x\"><script>alert(1)</script>"); border-style: evil; color: red;`, 3, "x")
	require.NotContains(t, svg, "script")
	require.Equal(t, "&lt;a&gt; &amp; &#34;b&#34;", strings.ReplaceAll(paint.Escape(`<a> & "b"`), "&quot;", "&#34;"))
	require.Equal(t, "1.5", paint.Number(1.5))
	require.Equal(t, "0", paint.Number(-0.0001))
	outer := paint.Rect{X: 10, Y: 10, W: 20, H: 20, Radii: [4][2]float64{{4, 4}, {0, 0}, {4, 4}, {4, 4}}}.Around(2)
	require.Equal(t, 24.0, outer.W)
	require.Equal(t, [2]float64{6, 6}, outer.Radii[0])
	require.Equal(t, [2]float64{}, outer.Radii[1], "what is square stays so")
	require.Contains(t, outer.Path(), "M")
	require.Empty(t, (&paint.Painter{B: &strings.Builder{}}).Blur(paint.Rect{}, 0))
}
