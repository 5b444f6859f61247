package truth

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/preview"
	"ivelt/demo"
)

// TestControlsLookAsGTKPaintsThem draws controls under the demo's themes where
// both toolkits place them, and compares colours at points of a grid in each
// (Debian: libgtk-3-dev, libgtk-4-dev, xvfb, chromium).
func TestControlsLookAsGTKPaintsThem(t *testing.T) {
	screen := display(t)
	programs := map[string]string{"gtk3": build(t, "paint3", "gtk+-3.0", "libgtk-3-dev"), "gtk4": build(t, "paint4", "gtk4", "libgtk-4-dev")}
	for _, kit := range toolkits {
		for _, theme := range []string{"Reedbed", "Saltpan", "Groyne", "Reedbed-Dark-Compact"} {
			home := t.TempDir()
			require.NoError(t, demo.WriteThemes(filepath.Join(home, ".themes")))
			write(t, filepath.Join(home, ".config", kit.folder, "settings.ini"), fmt.Sprintf("[Settings]\ngtk-theme-name=%s\ngtk-font-name=DejaVu Sans 10\ngtk-enable-animations=0\n", theme))
			file := filepath.Join(t.TempDir(), "theirs.png")
			c := exec.CommandContext(t.Context(), programs[kit.surface], file)
			c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + screen, "GDK_BACKEND=x11", "GSK_RENDERER=cairo", "LANG=C.UTF-8", "NO_AT_BRIDGE=1", "GTK_A11Y=none", "GSETTINGS_BACKEND=memory"}
			var controls []preview.Placed
			for _, line := range lines(output(t, c)) {
				var p preview.Placed
				_, err := fmt.Sscan(line, &p.Name, &p.X, &p.Y, &p.W, &p.H)
				require.NoError(t, err)
				controls = append(controls, p)
			}
			theirs := picture(t, file)
			d, err := desk.Open("paint-"+theme+kit.surface, home, "/", "")
			require.NoError(t, err)
			d.Surfaces = desk.Builtin()
			ours := raster(t, preview.Sheet(d, preview.Worn(t.Context(), d), kit.surface, theirs.Bounds().Dx(), theirs.Bounds().Dy(), controls))
			same, all := 0, 0
			for _, p := range controls {
				mine, of := 0, 0
				for i := range 9 {
					for j := range 9 {
						x, y := int(p.X+(p.W-1)*float64(i)/8), int(p.Y+(p.H-1)*float64(j)/8)
						if side := i == 4 && j%8 == 0 || j == 4 && i%8 == 0; !side && !even(theirs, x, y) {
							continue // where two colours meet, each mixes them its own way
						}
						of++
						if near(theirs.At(x, y), ours.At(x, y), 4) {
							mine++
						}
					}
				}
				same, all = same+mine, all+of
				if mine < of*9/10 {
					t.Logf("%s, %s, %s: %d of %d points", kit.surface, theme, p.Name, mine, of)
				}
			}
			t.Logf("%s, %s: %d of %d points within 4/255 of the toolkit's colour (%.1f %%)", kit.surface, theme, same, all, 100*float64(same)/float64(all))
			// GTK 4's cairo renderer, the one that needs no graphics card, leaves
			// blurs of 3 px and less out.
			least := map[string]int{"gtk3": 99, "gtk4": 97}[kit.surface]
			assert.GreaterOrEqual(t, 100*same, least*all, "%s, %s", kit.surface, theme)
		}
	}
}

// even reports whether a point lies in a place of one colour, or of a slow
// change from one to another.
func even(im image.Image, x, y int) bool {
	for dx := -1; dx <= 1; dx++ {
		for dy := -1; dy <= 1; dy++ {
			if !near(im.At(x, y), im.At(x+dx, y+dy), 24) {
				return false
			}
		}
	}
	return true
}

func near(a, b interface {
	RGBA() (r, g, b, a uint32)
}, by int) bool {
	r1, g1, b1, _ := a.RGBA()
	r2, g2, b2, _ := b.RGBA()
	for _, d := range []int{int(r1>>8) - int(r2>>8), int(g1>>8) - int(g2>>8), int(b1>>8) - int(b2>>8)} {
		if max(d, -d) > by {
			return false
		}
	}
	return true
}

func picture(t *testing.T, file string) image.Image {
	t.Helper()
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	im, err := png.Decode(bytes.NewReader(b))
	require.NoError(t, err)
	return im
}

// raster turns a picture into pixels with Debian's Chromium.
func raster(t *testing.T, svg []byte) image.Image {
	t.Helper()
	w, h, ok := preview.Size(svg)
	require.True(t, ok)
	dir := t.TempDir()
	write(t, filepath.Join(dir, "a.svg"), string(svg))
	c := tool(t, "chromium", "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", fmt.Sprintf("--window-size=%d,%d", w, h),
		"--user-data-dir="+filepath.Join(dir, "profile"), "--screenshot="+filepath.Join(dir, "a.png"), "file://"+filepath.Join(dir, "a.svg"))
	require.NoError(t, c.Run())
	return picture(t, filepath.Join(dir, "a.png"))
}
