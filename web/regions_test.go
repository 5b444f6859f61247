package web_test

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/demo"
)

// rasters turns pictures into pixels in the browser that shows them.
func (b *browser) rasters(pictures ...[]byte) []*image.RGBA {
	b.t.Helper()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		var n int
		_, err := fmt.Sscanf(r.URL.Path, "/%d", &n)
		if err != nil || n >= len(pictures) {
			http.NotFound(w, r)
			return
		}
		w.Header().Set("Content-Type", "image/svg+xml")
		_, _ = w.Write(pictures[n])
	}))
	defer server.Close()
	var out []*image.RGBA
	for n := range pictures {
		b.Do(chromedp.Navigate(fmt.Sprint(server.URL, "/", n)))
		raw, err := chromedp.Run(b.Context, chromedp.CaptureScreenshot())
		require.NoError(b.t, err)
		im, err := png.Decode(bytes.NewReader(raw))
		require.NoError(b.t, err)
		px := image.NewRGBA(im.Bounds())
		draw.Draw(px, px.Rect, im, im.Bounds().Min, draw.Src)
		out = append(out, px)
	}
	return out
}

// equal reports whether two pictures have a pixel alike.
func equal(a, b *image.RGBA, x, y int) bool {
	at := a.PixOffset(x, y)
	return bytes.Equal(a.Pix[at:at+4], b.Pix[at:at+4])
}

// within reports whether a pixel's middle lies in a mark that is larger by so
// much on each side.
func within(m preview.Mark, x, y int, by float64) bool {
	fx, fy := float64(x)+0.5, float64(y)+0.5
	return fx > m.X-by && fx < m.X+m.W+by && fy > m.Y-by && fy < m.Y+m.H+by
}

// TestEveryChoiceChangesItsPlaceAndNoOther draws the desk before and after each
// choice and compares pixels: there are differences where the facet is seen,
// and none elsewhere.
func TestEveryChoiceChangesItsPlaceAndNoOther(t *testing.T) {
	b := newStage(t).browsePainted()
	home, d := b.world.Avocet.Home, b.world.Avocet
	require.NoError(t, demo.WriteThemes(filepath.Join(home, ".themes")))
	require.NoError(t, os.RemoveAll(filepath.Join(home, ".themes/Saltpan"))) // the system's has a dark form
	require.NoError(t, demo.WritePointers(filepath.Join(home, ".icons")))
	require.NoError(t, os.MkdirAll(filepath.Join(home, ".local/share/fonts"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(home, ".local/share/fonts/Go-Regular.ttf"), goregular.TTF, 0o644))
	// The pointer is there from the start, so that its size can be changed.
	from := outfit.Outfit{}.With(desk.FacetPointer, "Sandpiper").With(desk.FacetPointerSize, "24")

	known := map[string]*image.RGBA{} // the desk before, by scene
	windows := []string{desk.FacetWidgets}
	shell := []string{desk.FacetBar, desk.FacetNotices, desk.FacetFrame} // the others go with the bar
	everywhere := append([]string{desk.FacetWidgets, desk.FacetFont}, shell...)
	for _, c := range []struct {
		facet, value string
		seen         []string // the facets of the marks that it may be seen in
		margin       float64  // of shadows and of what is larger than its mark, px
	}{
		{desk.FacetWidgets, "Groyne", windows, 76},
		{desk.FacetDark, "dark", append(windows, shell...), 76},
		{desk.FacetIcons, "Marram", []string{desk.FacetIcons}, 1},
		{desk.FacetPointer, "Limpet", []string{desk.FacetPointer}, 1},
		{desk.FacetPointerSize, "48", []string{desk.FacetPointer}, 1},
		{desk.FacetFont, "Go 11", everywhere, 76},
		{desk.FacetFont, "Estuary Sans 13", everywhere, 76},
		{desk.FacetButtons, "close:menu", append(windows, desk.FacetButtons), 1},
		{desk.FacetAccent, "#c04080", shell, 1},
		{desk.FacetBar, "Groyne", append(shell, desk.FacetFont), 42},
		{desk.FacetNotices, "Groyne", []string{desk.FacetNotices}, 42},
		{desk.FacetFrame, "Groyne", []string{desk.FacetFrame}, 1},
		{desk.FacetMenuIcon, "/usr/share/icons/hicolor/48x48/apps/web-browser.png", shell, 1},
		{desk.FacetOpacity, "40", shell, 9},
		{desk.FacetBlur, "48", shell, 1},
		{desk.FacetIconSize, "96", []string{desk.FacetIcons, desk.FacetFont}, 8},
	} {
		for _, scene := range []string{"desk", "controls", "older"} {
			worn, draft := preview.Draft(t.Context(), d, from), preview.Draft(t.Context(), d, from.With(c.facet, c.value))
			before, was := preview.DrawMarked(d, worn, scene)
			after, is := preview.DrawMarked(d, draft, scene)
			what := fmt.Sprint(c.facet, " ", c.value, " in ", scene)
			var may []preview.Mark
			for _, m := range append(was, is...) {
				if slices.Contains(c.seen, m.Facet) {
					may = append(may, m)
				}
			}
			if scene != "desk" && (len(may) == 0 || !slices.Contains([]string{desk.FacetWidgets, desk.FacetDark, desk.FacetFont}, c.facet)) {
				continue // of the others all that there is is on the desk
			}
			if known[scene] == nil {
				known[scene] = b.rasters(before)[0]
			}
			then, now := known[scene], known[scene]
			if !bytes.Equal(before, after) {
				now = b.rasters(after)[0]
			}
			places := map[string]int{}
			stray := 0
			for y := range 800 {
				for x := range 1280 {
					if equal(then, now, x, y) {
						continue
					}
					near := false
					for _, m := range may {
						near = near || within(m, x, y, c.margin)
						if within(m, x, y, 0) {
							places[m.Surface]++
						}
					}
					if !near {
						stray++
					}
				}
			}
			require.Zero(t, stray, "%s: pixels changed outside its places", what)
			if scene != "desk" && c.facet == desk.FacetIconSize || scene == "controls" && c.facet == desk.FacetIcons {
				continue // nothing lies on the desk, and the packs share the symbolic icons that are left
			}
			for _, s := range d.Surfaces() { // each surface that follows and is pictured shows it
				if worn.Of(c.facet, s.ID) != draft.Of(c.facet, s.ID) && slices.ContainsFunc(may, func(m preview.Mark) bool { return m.Surface == s.ID }) {
					require.Positive(t, places[s.ID], "%s: nothing changed on %s", what, s.ID)
				}
			}
		}
	}

	// The backdrop is seen where no window stands.
	before, marks := preview.DrawMarked(d, preview.Draft(t.Context(), d, from), "desk")
	px := b.rasters(before, preview.Draw(d, preview.Draft(t.Context(), d, from.With(desk.FacetBackdrop, "/usr/share/backgrounds/red-buoy.svg")), "desk"))
	changed, ground, inside := 0, 0, 0
	for y := range 800 {
		for x := range 1280 {
			same := equal(px[0], px[1], x, y)
			covered := slices.ContainsFunc(marks, func(m preview.Mark) bool {
				return (m.Facet == desk.FacetWidgets || m.Facet == desk.FacetPictures) && within(m, x, y, -8)
			})
			switch {
			case covered && !same:
				inside++
			case !covered:
				ground++
				if !same {
					changed++
				}
			}
		}
	}
	require.Zero(t, inside, "a window is not see-through")
	require.Greater(t, changed, ground*8/10)
}
