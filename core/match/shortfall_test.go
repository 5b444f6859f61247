package match_test

import (
	"image"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/reading"
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
	require.Contains(t, whys(dark)["gtk3"], "Light has no dark version for GTK 3 programs")
	require.Contains(t, whys(dark)["gtk2"], "knows no light and dark")
	require.NotContains(t, whys(dark.With(desk.FacetWidgets, "Both"))["gtk3"], "dark version", "the theme on the draft has one")
	require.Contains(t, whys(dark.With(desk.FacetWidgets, "Both"))["gtk4"], "Both has no dark version for GTK 4 programs")
	require.Contains(t, whys(outfit.Outfit{}.With(desk.FacetDark, "automatic"))["gtk3"], "only dark and light are known")
	require.Contains(t, whys(outfit.Outfit{}.With(desk.FacetWidgets, "Light"))["gtk4"], "would not find Light")
	require.Contains(t, whys(outfit.Outfit{}.With(desk.FacetAccent, "#102030"))["gtk3"], "no accent of its own")
	size := outfit.Outfit{}.With(desk.FacetPointer, "Gull").With(desk.FacetPointerSize, "32")
	require.Contains(t, whys(size)["gtk3"], "Gull has no pointers of 32 px: GTK 3 programs use 24 px")
	require.Empty(t, whys(size.With(desk.FacetPointerSize, "48")))
	require.Contains(t, whys(size.With(desk.FacetPointerSize, "200"))["gtk3"], "only 0 to 128 are known")
}

// TestAThemeThatAProgramHasInItself: a folder of its name that nobody looks into is no fault
// (Debian: libgtk2.0-common has one).
func TestAThemeThatAProgramHasInItself(t *testing.T) {
	d := deskWith(t, map[string]string{"usr/share/themes/Raleigh/gtk-2.0/gtkrc": "", "~/.gtkrc-2.0": "gtk-theme-name = \"Raleigh\"\n", "~/.config/gtk-3.0/settings.ini": "[Settings]\ngtk-icon-theme-name=Gone\n"})
	for _, f := range match.Of(d, outfit.Outfit{}).Findings() {
		require.False(t, f.Surface == "gtk2" && f.Facet == desk.FacetWidgets, f.Cause)
	}
	require.Empty(t, match.Of(d, outfit.Outfit{}).Strays(outfit.Outfit{}))
	icons := outfit.Outfit{}.With(desk.FacetIcons, "Gone")
	require.NotEmpty(t, match.Of(d, icons).Strays(icons))
}

// TestDarkWithoutDarkForm: a theme without a dark version, and the dark shade: GTK 4 wears its
// own dark style (gtkcssprovider.c of 4.8, gtk_css_provider_load_named; truth asks it), GTK 3
// the theme's usual one. Reading, board and draft say the same of it.
func TestDarkWithoutDarkForm(t *testing.T) {
	settings := "[Settings]\ngtk-theme-name=Night\ngtk-application-prefer-dark-theme=1\n"
	files := map[string]string{
		"~/.themes/Night/gtk-3.0/gtk.css": "", "~/.themes/Night/gtk-4.0/gtk.css": "", "~/.themes/Both/gtk-4.0/gtk.css": "", "~/.themes/Both/gtk-4.0/gtk-dark.css": "",
		"~/.config/gtk-3.0/settings.ini": settings, "~/.config/gtk-4.0/settings.ini": settings,
	}
	d := deskWith(t, files)
	problem := func(d *desk.Desk, surface string) *reading.Problem {
		s, _ := d.Surface(surface)
		f, _ := s.Facet(desk.FacetWidgets)
		return reading.Of(d, s, f).Problem
	}
	require.Nil(t, problem(d, "gtk3"))
	p := problem(d, "gtk4")
	require.NotNil(t, p)
	require.Equal(t, reading.DarkMissing, p.Code)
	require.Contains(t, p.Text, "Night has no dark version")
	cell, ok := match.Of(d, outfit.Outfit{}.With(desk.FacetWidgets, "Night").With(desk.FacetDark, "dark")).Cell("gtk4", desk.FacetWidgets)
	require.True(t, ok)
	require.Equal(t, match.Broken, cell.State)
	short := func(o outfit.Outfit) (out []string) {
		for _, s := range match.Shortfalls(d, o) {
			if s.Surface.ID == "gtk4" {
				out = append(out, s.Why)
			}
		}
		return out
	}
	night := outfit.Outfit{}.With(desk.FacetWidgets, "Night")
	require.Contains(t, short(night), "Night has no dark version for GTK 4 programs: they use the toolkit's own theme.", "the desk is dark")
	require.Len(t, short(night.With(desk.FacetDark, "dark")), 1, "said once")
	require.Empty(t, short(night.With(desk.FacetDark, "light")))
	require.Empty(t, short(outfit.Outfit{}.With(desk.FacetWidgets, "Both")))

	files["~/.config/gtk-4.0/settings.ini"] = "[Settings]\ngtk-theme-name=Night\n"
	require.Nil(t, problem(deskWith(t, files), "gtk4"), "in the light it is worn")
	files["~/.config/gtk-4.0/settings.ini"] = settings
	files["~/.themes/Night/gtk-4.0/gtk-dark.css"] = ""
	delete(files, "~/.themes/Night/gtk-4.0/gtk.css")
	require.Nil(t, problem(deskWith(t, files), "gtk4"), "the dark version is all that is needed in the dark")

	// Names that GTK 4.8 takes for its own style, if no folder has them.
	s, _ := d.Surface("gtk4")
	f, _ := s.Facet(desk.FacetWidgets)
	require.NotEmpty(t, f.Lookup.Aliases)
	for name := range f.Lookup.Aliases {
		files["~/.config/gtk-4.0/settings.ini"] = "[Settings]\ngtk-theme-name=" + name + "\n"
		require.Nil(t, problem(deskWith(t, files), "gtk4"), name)
		files["~/.config/gtk-4.0/settings.ini"] += "gtk-application-prefer-dark-theme=1\n"
		require.Nil(t, problem(deskWith(t, files), "gtk4"), name)
		require.Empty(t, reading.Of(deskWith(t, files), s, f).Resolved, name)
	}
}
