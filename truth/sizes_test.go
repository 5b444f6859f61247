package truth

import (
	"fmt"
	"math"
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

// TestControlsAreAsLargeAsGTKMakesThem lays out controls under the demo's themes
// and in two fonts, and asks both toolkits for the least size of the same
// (Debian: libgtk-3-dev, libgtk-4-dev, xvfb, fonts-dejavu-core,
// fonts-liberation): within 1 px.
func TestControlsAreAsLargeAsGTKMakesThem(t *testing.T) {
	t.Parallel()
	screen := display(t)
	programs := map[string]string{"gtk3": build(t, "sizes3", "gtk+-3.0", "libgtk-3-dev"), "gtk4": build(t, "sizes4", "gtk4", "libgtk-4-dev")}
	compared := 0
	for _, theme := range []string{"Reedbed", "Saltpan", "Groyne", "Reedbed-Dark-Compact"} {
		for _, font := range []string{"DejaVu Sans 10", "Liberation Sans 12"} {
			home := t.TempDir()
			require.NoError(t, demo.WriteThemes(filepath.Join(home, ".themes")))
			for _, kit := range toolkits {
				write(t, filepath.Join(home, ".config", kit.folder, "settings.ini"), fmt.Sprintf("[Settings]\ngtk-theme-name=%s\ngtk-font-name=%s\n", theme, font))
			}
			d, err := desk.Open("sizes-"+theme+font, home, "/", "")
			require.NoError(t, err)
			d.SetSurfaces(desk.Builtin())
			for _, kit := range toolkits {
				c := exec.CommandContext(t.Context(), programs[kit.surface])
				c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + screen, "GDK_BACKEND=x11", "GDK_DEBUG=gl-disable", "LANG=C.UTF-8", "NO_AT_BRIDGE=1", "GTK_A11Y=none", "GSETTINGS_BACKEND=memory"}
				ours := preview.Sizes(d, preview.Worn(t.Context(), d), kit.surface)
				for _, line := range lines(output(t, c)) {
					var name string
					var w, h float64
					_, err := fmt.Sscan(line, &name, &w, &h)
					require.NoError(t, err)
					got, ok := ours[name]
					require.True(t, ok, name)
					where := fmt.Sprintf("%s, %s, %s, %s: GTK %g × %g, Ivelt %.1f × %.1f", kit.surface, theme, font, name, w, h, got[0], got[1])
					assert.InDelta(t, h, got[1], 1, where)
					if got[0] > 0 { // what has a width of its own
						assert.InDelta(t, w, got[0], 1, where)
					}
					compared++
				}
			}
		}
	}
	t.Logf("%d controls measured", compared)
}

// TestRealControlsAreAsLargeAsGTKMakesThem does so under real makers' themes.
func TestRealControlsAreAsLargeAsGTKMakesThem(t *testing.T) {
	t.Parallel()
	screen := display(t)
	programs := map[string]string{"gtk3": build(t, "sizes3", "gtk+-3.0", "libgtk-3-dev"), "gtk4": build(t, "sizes4", "gtk4", "libgtk-4-dev")}
	parts := map[string]*score{"worked": {}, "held out": {}}
	for i, kit := range toolkits {
		for _, theme := range realThemes(t, "index.theme") {
			if theme.sheetOf(i+3) == "" {
				continue
			}
			home := wear(t, theme)
			write(t, filepath.Join(home, ".config", kit.folder, "settings.ini"), fmt.Sprintf("[Settings]\ngtk-theme-name=%s\ngtk-font-name=DejaVu Sans 10\n", theme.name))
			d, err := desk.Open("sizes-"+theme.name+kit.surface, home, "/", "")
			require.NoError(t, err)
			d.SetSurfaces(desk.Builtin())
			c := exec.CommandContext(t.Context(), programs[kit.surface])
			c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + screen, "GDK_BACKEND=x11", "GDK_DEBUG=gl-disable", "LANG=C.UTF-8", "NO_AT_BRIDGE=1", "GTK_A11Y=none", "GSETTINGS_BACKEND=memory"}
			ours := preview.Sizes(d, preview.Worn(t.Context(), d), kit.surface)
			same, all := 0, 0
			for _, line := range lines(output(t, c)) {
				var name string
				var w, h float64
				_, err := fmt.Sscan(line, &name, &w, &h)
				require.NoError(t, err)
				got := ours[name]
				if all++; math.Abs(h-got[1]) <= 1 && (got[0] == 0 || math.Abs(w-got[0]) <= 1) {
					same++
				} else if !theme.held {
					t.Logf("%s, %s, %s: GTK %g × %g, Ivelt %.1f × %.1f", kit.surface, theme.name, name, w, h, got[0], got[1])
				}
			}
			scored(kit.surface, theme, "sizes", same, all)
			sum := parts[theme.part()]
			sum.same, sum.all = sum.same+same, sum.all+all
		}
	}
	for part, sum := range parts {
		assert.GreaterOrEqual(t, 100*sum.same, 95*sum.all, "%s: %s", part, *sum)
	}
}
