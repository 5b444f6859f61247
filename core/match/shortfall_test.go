package match_test

import (
	"image"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/xcursor"
)

// TestShortfalls: each choice says which surfaces cannot follow it, and why.
func TestShortfalls(t *testing.T) {
	arrow := xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: image.NewRGBA(image.Rect(0, 0, 24, 24))}, {Size: 48, Picture: image.NewRGBA(image.Rect(0, 0, 48, 48))}})
	d := deskWith(t, map[string]string{
		"usr/share/themes/Light/gtk-3.0/gtk.css": "", "usr/share/themes/Both/gtk-3.0/gtk.css": "", "usr/share/themes/Both/gtk-3.0/gtk-dark.css": "", "usr/share/themes/Both/gtk-4.0/gtk.css": "",
		"~/.icons/Gull/cursors/default": string(arrow), "~/.config/gtk-3.0/settings.ini": "[Settings]\ngtk-theme-name=Light\n",
	})
	whys := func(o outfit.Outfit) map[string]string {
		out := map[string]string{}
		for _, s := range match.Shortfalls(d, o) {
			out[s.Surface.ID] += s.Why
		}
		return out
	}
	dark := outfit.Outfit{}.With(desk.FacetDark, "dark")
	require.Contains(t, whys(dark)["gtk3"], "Light has no dark form for GTK 3 programs")
	require.Contains(t, whys(dark)["gtk2"], "knows no light and dark")
	require.NotContains(t, whys(dark.With(desk.FacetWidgets, "Both"))["gtk3"], "dark form", "the theme on the draft has one")
	require.Contains(t, whys(dark.With(desk.FacetWidgets, "Both"))["gtk4"], "Both has no dark form for GTK 4 programs")
	require.Contains(t, whys(outfit.Outfit{}.With(desk.FacetDark, "automatic"))["gtk3"], "only dark and light are known")
	require.Contains(t, whys(outfit.Outfit{}.With(desk.FacetWidgets, "Light"))["gtk4"], "would not find Light")
	require.Contains(t, whys(outfit.Outfit{}.With(desk.FacetAccent, "#102030"))["gtk3"], "no accent of its own")
	size := outfit.Outfit{}.With(desk.FacetPointer, "Gull").With(desk.FacetPointerSize, "32")
	require.Contains(t, whys(size)["gtk3"], "Gull has no pointers of 32 px: GTK 3 programs show those of 24")
	require.Empty(t, whys(size.With(desk.FacetPointerSize, "48")))
	require.Contains(t, whys(size.With(desk.FacetPointerSize, "200"))["gtk3"], "only 0 to 128 are known")
}
