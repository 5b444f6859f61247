package match_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/standin"
)

// TestASandboxIsWeighed: what its programs see of an outfit, the smallest grants that would
// do, those that are more than is needed, and those of one program alone.
func TestASandboxIsWeighed(t *testing.T) {
	d := deskWith(t, map[string]string{
		"~/.config/gtk-3.0/settings.ini":                   "[Settings]\ngtk-theme-name=Salt\ngtk-icon-theme-name=P\n",
		"~/.config/coracle/grants.conf":                    "[Grants]\nread=~;~/Gone\n\n[Grants org.example.One]\nread=~/.icons\n",
		"~/.themes/Salt/gtk-3.0/gtk.css":                   "window { color: red; }",
		"~/.icons/P/index.theme":                           pack,
		"~/Music/a.mp3":                                    "x",
		"var/lib/coracle/programs/org.example.One.desktop": "[Desktop Entry]\nType=Application\nName=One\n",
		"var/lib/coracle/programs/org.example.Two.desktop": "[Desktop Entry]\nType=Application\nName=Two\n",
		"usr/bin/coracle":                                  "x",
	})
	d.SetSurfaces(append(d.Surfaces(), standin.Surfaces()...))
	s, ok := d.Surface("coracle")
	require.True(t, ok)
	wide := match.RuntimeOf(d, s, outfit.Outfit{})
	require.Equal(t, "~/.config/coracle/grants.conf", wide.File)
	require.Equal(t, []match.Piece{{Facet: desk.FacetWidgets, Name: "Salt"}, {Facet: desk.FacetIcons, Name: "P"}}, wide.Wanted)
	require.True(t, wide.Grants[0].Wide)
	require.Contains(t, wide.Grants[0].Holds, "Music")
	require.True(t, wide.Grants[1].Gone)
	require.Empty(t, wide.Missing)
	require.Len(t, wide.Programs, 2)

	d = deskWith(t, map[string]string{
		"~/.config/gtk-3.0/settings.ini":                   "[Settings]\ngtk-theme-name=Salt\ngtk-icon-theme-name=P\n",
		"~/.config/coracle/grants.conf":                    "[Grants]\nread=~/Music\n\n[Grants org.example.One]\nread=~/.icons\n",
		"~/.themes/Salt/gtk-3.0/gtk.css":                   "window { color: red; }",
		"~/.icons/P/index.theme":                           pack,
		"var/lib/coracle/programs/org.example.One.desktop": "[Desktop Entry]\nType=Application\nName=One\n",
		"var/lib/coracle/programs/org.example.Two.desktop": "[Desktop Entry]\nType=Application\nName=Two\n",
		"usr/bin/coracle":                                  "x",
	})
	d.SetSurfaces(append(d.Surfaces(), standin.Surfaces()...))
	narrow := match.RuntimeOf(d, s, outfit.Outfit{})
	require.Equal(t, []match.Lacking{
		{Folder: "/home/me/.themes", For: []match.Piece{{Facet: desk.FacetWidgets, Name: "Salt"}}},
		{Folder: "/home/me/.icons", For: []match.Piece{{Facet: desk.FacetIcons, Name: "P"}}},
	}, narrow.Missing)
	sees := map[string]bool{}
	for _, p := range narrow.Programs {
		for _, s := range p.Sees {
			sees[p.Name+" "+s.Name] = s.OK
		}
	}
	require.Equal(t, map[string]bool{"One Salt": false, "One P": true, "Two Salt": false, "Two P": false}, sees)
	none := match.RuntimeOf(d, desk.Surface{}, outfit.Outfit{})
	require.Empty(t, none.Programs)
}

// TestTheBoardIsArranged: what is asked and what is wrong first, each thing told once, with
// what to do next.
func TestTheBoardIsArranged(t *testing.T) {
	d := deskWith(t, map[string]string{
		"~/.config/gtk-3.0/settings.ini": "[Settings]\ngtk-icon-theme-name=P\ngtk-cursor-theme-size=24\n",
		"~/.config/gtk-4.0/settings.ini": "[Settings]\ngtk-icon-theme-name=Q\ngtk-cursor-theme-size=48\n",
		"usr/share/icons/P/index.theme":  pack,
		"usr/share/icons/Q/index.theme":  pack,
		"~/.icons/P/index.theme":         pack + "Context=Other\n",
		"~/.icons/P/cursors/left_ptr":    "x",
	})
	o := outfit.Outfit{Name: "P"}.With(desk.FacetIcons, "P").With(desk.FacetPointer, "P")
	b := match.Of(d, o)
	asked, still := b.Asked()
	require.Equal(t, desk.FacetIcons, asked[0].Facet)
	for _, s := range still {
		require.Empty(t, s.Want)
	}
	require.False(t, asked[0].Whole())
	require.Positive(t, b.Open())
	troubles := b.Troubles()
	require.True(t, troubles[0].Bad(), "what does not follow comes first")
	told := map[string]int{}
	for _, tr := range troubles {
		for _, a := range tr.Told {
			told[a.Text]++
			require.Equal(t, a.Says.String(), a.Text)
		}
		require.Equal(t, tr.Because.String(), tr.Cause)
	}
	for text, n := range told {
		require.Equal(t, 1, n, text)
	}
	require.NotEmpty(t, told)
	next := b.Next()
	require.NotEmpty(t, next)
	for _, step := range next {
		if step.Kind == match.ByDraft && step.Facet == desk.FacetIcons {
			require.True(t, step.SaidBy(o))
			require.False(t, step.SaidBy(outfit.Outfit{}))
		}
	}
	cell, ok := b.Cell("gtk4", desk.FacetIcons)
	require.True(t, ok)
	require.Equal(t, match.Differs, cell.State)
	require.NotEmpty(t, cell.Fixes())
	_, ok = b.Cell("none", desk.FacetIcons)
	require.False(t, ok)
	sizes := 0
	for _, f := range b.Findings() {
		if f.Facet == desk.FacetPointerSize {
			sizes++
			require.Contains(t, f.Cause, "changes size from window to window")
			require.NotEmpty(t, f.CauseSays.Code)
		}
	}
	require.Positive(t, sizes)
}
