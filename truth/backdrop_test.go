package truth

import (
	"bytes"
	"encoding/base64"
	"errors"
	"fmt"
	"html"
	"image"
	"image/color"
	"image/png"
	"maps"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/backdrop"
	"ivelt/core/colour"
	"ivelt/core/imagefile"
)

// placed is a picture whose colours tell their place, on a monitor of a browser's.
type placed struct {
	mode   backdrop.Mode
	w, h   int // of the picture
	ww, hh int // of the monitor
	cut    backdrop.Cut
	at     image.Point // on the page
}

// css is how a browser is told: object-fit and object-position of an image, background-repeat of a tile.
func (p placed) css(uri string) string {
	box := fmt.Sprintf("position:absolute;left:%dpx;top:%dpx;width:%dpx;height:%dpx;", p.at.X, p.at.Y, p.ww, p.hh)
	if p.mode == backdrop.Tile {
		return fmt.Sprintf(`<div style="%simage-rendering:pixelated;background:#000 url(%s) 0 0 repeat"></div>`, box, uri)
	}
	fit := map[backdrop.Mode]string{backdrop.Fill: "cover", backdrop.Span: "cover", backdrop.Fit: "contain", backdrop.Stretch: "fill", backdrop.Centre: "none"}[p.mode]
	cut := p.cut
	if p.mode == backdrop.Fit {
		cut = backdrop.Middle
	}
	return fmt.Sprintf(`<img src="%s" style="%simage-rendering:pixelated;background:#000;object-fit:%s;object-position:%s%% %s%%">`,
		uri, box, fit, html.EscapeString(fmt.Sprint(100*cut.X)), html.EscapeString(fmt.Sprint(100*cut.Y)))
}

// TestBackdropsLieAsInTheBrowser: 500 pictures on monitors by chance, each of whose pixels tells its
// place by its colour, as Chromium places them by object-fit, object-position and background-repeat.
// Where the picture begins and ends, and what of it is under each pixel, is at most a pixel apart
// (Debian: chromium).
func TestBackdropsLieAsInTheBrowser(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(29, 1))
	const cell, columns, all = 130, 25, 500
	var page strings.Builder
	var cases []placed
	page.WriteString(`<!doctype html><body style="margin:0;background:#fff">`)
	for n := range all {
		p := placed{mode: backdrop.Modes[n%6], w: 4 + r.IntN(200), h: 4 + r.IntN(200), ww: 4 + r.IntN(cell-6), hh: 4 + r.IntN(cell-6),
			cut: backdrop.Cut{X: float64(r.IntN(101)) / 100, Y: float64(r.IntN(101)) / 100}, at: image.Pt(n%columns*cell, n/columns*cell)}
		pic := image.NewRGBA(image.Rect(0, 0, p.w, p.h))
		for y := range p.h {
			for x := range p.w {
				pic.Set(x, y, color.RGBA{uint8(x), uint8(y), 200, 255})
			}
		}
		var b bytes.Buffer
		require.NoError(t, png.Encode(&b, pic))
		page.WriteString(p.css("data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())))
		cases = append(cases, p)
	}
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.html"), []byte(page.String()), 0o600))
	output(t, tool(t, "chromium-headless-shell", "chromium-headless-shell", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", "--force-color-profile=srgb",
		fmt.Sprintf("--window-size=%d,%d", columns*cell, all/columns*cell), "--user-data-dir="+filepath.Join(dir, "profile"), "--screenshot="+filepath.Join(dir, "a.png"), "file://"+filepath.Join(dir, "a.html")))
	f, err := os.Open(filepath.Join(dir, "a.png"))
	require.NoError(t, err)
	defer f.Close()
	shot, err := png.Decode(f)
	require.NoError(t, err)
	pixels := 0
	for n, p := range cases {
		l := backdrop.Lay(p.mode, float64(p.w), float64(p.h), float64(p.ww), float64(p.hh), p.cut)
		bare := 0
		for y := range p.hh {
			for x := range p.ww {
				c := color.NRGBAModel.Convert(shot.At(p.at.X+x, p.at.Y+y)).(color.NRGBA)
				// The place of this pixel's middle in the picture, by our reckoning.
				u, v := (float64(x)+0.5-l.Drawn.X)/l.ScaleX, (float64(y)+0.5-l.Drawn.Y)/l.ScaleY
				if p.mode == backdrop.Tile {
					u, v = math.Mod(u, float64(p.w)), math.Mod(v, float64(p.h))
				}
				outX, outY := beside(u, float64(p.w))*l.ScaleX, beside(v, float64(p.h))*l.ScaleY // px of the monitor
				apart := func(how string, off float64) {
					if off > 1 {
						require.Fail(t, how, "case %d, %s %d × %d on %d × %d at %v: pixel %d, %d by %.2f px", n, p.mode, p.w, p.h, p.ww, p.hh, p.cut, x, y, off)
					}
				}
				if c.B == 0 {
					bare++
					apart("bare", min(-outX, -outY))
					continue
				}
				pixels++
				apart("not bare", max(outX, outY))
				// A pixel of the picture is half of its size from its middle.
				apart("along", math.Abs(float64(c.R)+0.5-u)*l.ScaleX-0.5*l.ScaleX)
				apart("down", math.Abs(float64(c.G)+0.5-v)*l.ScaleY-0.5*l.ScaleY)
			}
		}
		edge := float64(2*(p.ww+p.hh)) / float64(p.ww*p.hh)
		require.InDelta(t, l.Bare, float64(bare)/float64(p.ww*p.hh), edge)
	}
	t.Logf("%d backdrops, %d pixels of pictures", len(cases), pixels)
}

// beside is how far a place is outside 0 to long; less than 0 inside.
func beside(at, long float64) float64 { return max(-at, at-long) }

// TestLeadingColoursAreThoseOfImageMagick: photographs of Debian's packages, a third held out, with their
// colours reduced by ImageMagick, which splits a tree of them (Debian: imagemagick). Each of its colours
// has one of ours near it, by how much of the picture it is, and the other way round.
func TestLeadingColoursAreThoseOfImageMagick(t *testing.T) {
	t.Parallel()
	type figures struct {
		pictures, refused        int
		theirs, ours, worst, far float64
	}
	parts := map[string]*figures{"worked": {}, "held out": {}}
	found := photographs(t)
	for i, file := range slices.Sorted(maps.Keys(found)) {
		p := found[file]
		if !*all && i%3 > 0 {
			continue
		}
		raw, err := os.ReadFile(file)
		require.NoError(t, err)
		im, err := imagefile.Decode(t.Context(), raw)
		if errors.Is(err, imagefile.ErrCostly) { // a progressive one takes four bytes for each part of a pixel
			parts[p.part()].refused++
			continue
		}
		require.NoError(t, err, file)
		ours, err := backdrop.LeadingColours(t.Context(), im, 12)
		require.NoError(t, err)
		again, err := backdrop.LeadingColours(t.Context(), im, 12)
		require.NoError(t, err)
		require.Equal(t, ours, again, "always the same")
		out := output(t, tool(t, "convert-im6.q16", "imagemagick", file, "-auto-orient", "-resize", "160x160", "+dither", "-colors", "12", "-depth", "8", "-format", "%c", "histogram:info:"))
		type one struct {
			c colour.Colour
			w float64
		}
		var theirs []one
		pixels := 0.0
		for _, m := range regexp.MustCompile(`(?m)^\s*(\d+):.*(#[0-9A-F]{6})`).FindAllStringSubmatch(out, -1) {
			n, err := strconv.ParseFloat(m[1], 64)
			require.NoError(t, err)
			c, err := colour.Parse(m[2])
			require.NoError(t, err)
			theirs, pixels = append(theirs, one{c, n}), pixels+n
		}
		require.NotEmpty(t, theirs, out)
		f := parts[p.part()]
		f.pictures++
		sum := 0.0
		for _, c := range theirs {
			near := 1.0
			for _, o := range ours {
				near = min(near, colour.Distance(c.c, o.Colour))
			}
			sum += near * c.w / pixels
			if c.w > pixels/20 {
				f.worst = max(f.worst, near)
			}
		}
		f.theirs += sum
		mine, weight := 0.0, 0.0
		for _, o := range ours {
			near := 1.0
			for _, c := range theirs {
				near = min(near, colour.Distance(c.c, o.Colour))
			}
			mine, weight = mine+near*o.Share, weight+o.Share
			if o.Share > 0.05 {
				f.far = max(f.far, near)
			}
		}
		f.ours += mine / weight
	}
	for part, f := range parts {
		n := float64(f.pictures)
		t.Logf("%s: %d pictures, %d refused; theirs are %.3f from ours, ours %.3f from theirs; of those with a twentieth of a picture at most %.3f and %.3f", part, f.pictures, f.refused, f.theirs/n, f.ours/n, f.worst, f.far)
		require.Less(t, f.theirs/n, 0.06, part)
		require.Less(t, f.ours/n, 0.06, part)
	}
}
