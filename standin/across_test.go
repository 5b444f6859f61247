package standin_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
)

// TestALookCrossesFamilies: of a whole look of another desk each choice follows, comes near or cannot,
// and that is said before anything is done; the other way round too.
func TestALookCrossesFamilies(t *testing.T) {
	look := outfit.Outfit{Name: "Shore"}.With(desk.FacetAccent, "#2f7f8c").With(desk.FacetBackdrop, "/breakwater/backdrops/low.svg").With(desk.FacetDark, "dark").
		With(desk.FacetBars, "top 34 margin 7 round 12: menu pinned / clock / tray battery").With(desk.FacetDock, "left 48: a.b").With(desk.FacetOpacity, "88").
		With(desk.FacetWidgets, "Reed").With(desk.FacetBar, "Reed").With(desk.FacetIcons, "Shingle").With(desk.FacetPointer, "Tern").
		With(desk.FacetEffects, "all").With(desk.FacetPalette, "brine").With(desk.FacetFont, "Nowhere Sans 11")
	locked := rigOf(t)
	locked.locked("5.1.3", "Cobble")
	locked.put("/breakwater/backdrops/low.svg", `<svg xmlns="http://www.w3.org/2000/svg"/>`)
	locked.put("~/.themes/Reed/quayside/shell.css", "panel {}")
	locked.put("~/.themes/Reed/gtk-4.0/gtk.css", "window {}")
	locked.put("~/.icons/Tern/cursors/left_ptr", "x")
	locked.put("~/.local/share/icons/Shingle/index.theme", "[Icon Theme]\nName=Shingle\nDirectories=64\n[64]\nSize=64\n")
	locked.put("~/.local/share/icons/Shingle/64/folder.svg", `<svg xmlns="http://www.w3.org/2000/svg"/>`)
	locked.put("~/Music/x", "")
	d := locked.desk()
	var alone []desk.Surface
	for _, s := range d.Surfaces() {
		if s.ID == "ledge" || s.Lock != nil || s.ID == "breakwater-programs" || s.ID == "breakwater-places" {
			alone = append(alone, s)
		}
	}
	require.Len(t, alone, 4)
	d.SetSurfaces(alone)
	fates := map[string]match.Fated{}
	for _, f := range match.Fates(d, look) {
		fates[f.Facet] = f
	}
	for facet, want := range map[string]match.Fate{
		desk.FacetAccent: match.Goes, desk.FacetBackdrop: match.Goes, desk.FacetDark: match.Goes, desk.FacetOpacity: match.Goes, desk.FacetIcons: match.Goes, desk.FacetPointer: match.Goes,
		desk.FacetWidgets: match.Unlocked, desk.FacetBar: match.Unlocked, desk.FacetBars: match.Nearest, desk.FacetDock: match.Nearest,
		desk.FacetEffects: match.Cannot, desk.FacetPalette: match.Cannot, desk.FacetFont: match.Cannot,
	} {
		require.Equal(t, want, fates[facet].Fate, "%s: %s", facet, fates[facet].Why)
	}
	require.Equal(t, "bottom 34 margin 7 round 12: menu pinned / clock / tray", fates[desk.FacetBars].Near[:len("bottom 34 margin 7 round 12: menu pinned / clock / tray")])
	require.Contains(t, fates[desk.FacetEffects].Why, "effects are its own")
	require.Contains(t, fates[desk.FacetFont].Why, "Nowhere Sans")
	require.Empty(t, fates[desk.FacetPalette].Why, "nothing there has such a setting")

	// What that desk shows then is a look for another one.
	back := match.Fates(furnished(t).desk(), outfit.Outfit{Name: "Back"}.With(desk.FacetAccent, "#2f7f8c").With(desk.FacetBars, "bottom 44 margin 6 round 10: menu / / tray(show=hover) clock").With(desk.FacetWidgets, "Reef").With(desk.FacetIcons, "Dune"))
	for _, f := range back {
		require.Equal(t, match.Goes, f.Fate, f.Facet)
	}
}
