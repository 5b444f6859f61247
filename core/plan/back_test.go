package plan_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
)

// TestNewerEditsStay goes back on a change of a file that somebody has edited
// since: by itself it undoes the change and leaves the edit, and the person can
// choose each of the three versions.
func TestNewerEditsStay(t *testing.T) {
	b := newBench(t)
	p := b.dress("New")
	require.NoError(t, b.apply(p))
	edited := strings.Replace(b.file(gtk3), "x-note=keep", "x-note=more\r\ngtk-cursor-theme-size=48", 1)
	b.put(gtk3, edited, 0o640)
	r := b.back(plan.Aim{}, p)
	require.Len(t, r.Conflicts, 1)
	c := r.Conflicts[0]
	require.Equal(t, "/home/me/"+gtk3, c.Path)
	require.Equal(t, edited, string(c.Now))
	require.Contains(t, string(c.Before), "gtk-icon-theme-name = Old\r\nx-note=keep")
	require.Contains(t, string(c.Left), "gtk-icon-theme-name = New\r\nx-note=keep")
	require.Equal(t, plan.TakeBoth, c.Taken)
	require.NoError(t, b.apply(r.Plan))
	require.Equal(t, "# mine\r\n[Settings]\r\ngtk-icon-theme-name = Old\r\nx-note=more\r\ngtk-cursor-theme-size=48\r\n", b.file(gtk3))
	require.NoFileExists(t, filepath.Join(b.dir, "home", gtk4), "what was not there before is gone again")

	require.NoError(t, b.apply(b.back(plan.Aim{}, r.Plan).Plan))
	require.Equal(t, edited, b.file(gtk3), "and back on that")
	for take, want := range map[plan.Take]string{plan.TakeNow: edited, plan.TakeBefore: string(c.Before)} {
		r := b.back(plan.Aim{Takes: map[string]plan.Take{c.Path: take}}, p)
		require.NoError(t, b.apply(r.Plan))
		require.Equal(t, want, b.file(gtk3), take)
		require.NoError(t, b.apply(b.back(plan.Aim{}, r.Plan).Plan))
		require.Equal(t, edited, b.file(gtk3))
	}
}

// TestEditsThatCannotBeToldApartStay: the same line was edited, or a line that
// the edit needs would go.
func TestEditsThatCannotBeToldApartStay(t *testing.T) {
	for what, edit := range map[string]func(gtk3, gtk4 string) (string, string){
		"the same line":        func(a, b string) (string, string) { return strings.Replace(a, "New", "Mine", 1), b },
		"below a line of ours": func(a, b string) (string, string) { return a, b + "gtk-theme-name=Mine\n" },
	} {
		b := newBench(t)
		p := b.dress("New")
		require.NoError(t, b.apply(p))
		one, two := edit(b.file(gtk3), b.file(gtk4))
		for name, text := range map[string]string{gtk3: one, gtk4: two} {
			if text != b.file(name) {
				b.put(name, text, 0o644)
			}
		}
		r := b.back(plan.Aim{}, p)
		require.Len(t, r.Conflicts, 1, what)
		require.Equal(t, plan.TakeNow, r.Conflicts[0].Taken, what)
		require.NoError(t, b.apply(r.Plan))
		if at := r.Conflicts[0].Path; strings.Contains(at, "gtk-3") {
			require.Equal(t, one, b.file(gtk3), what)
			require.NoFileExists(t, filepath.Join(b.dir, "home", gtk4))
		} else {
			require.Equal(t, two, b.file(gtk4), what)
			require.Contains(t, b.file(gtk3), "= Old")
		}
	}
}

// TestGoBackInPart goes back for one surface, and for one facet, and leaves the
// rest of what was changed.
func TestGoBackInPart(t *testing.T) {
	wear := outfit.Outfit{Name: "Both"}.With(desk.FacetIcons, "New").With(desk.FacetPointerSize, "48").With(desk.FacetFont, "Serif 12")
	dressed := func() (*bench, plan.Plan) {
		b := newBench(t)
		p, err := plan.Dress(b.d, wear)
		require.NoError(t, err)
		require.NoError(t, b.apply(p))
		require.Contains(t, b.file(gtk3), "gtk-cursor-theme-size=48")
		return b, p
	}
	b, p := dressed()
	full, four := b.file(gtk3), b.file(gtk4)
	r := b.back(plan.Aim{Surface: "gtk4"}, p)
	require.Contains(t, r.Plan.Title, "for GTK 4 programs")
	require.NoError(t, b.apply(r.Plan))
	require.Equal(t, full, b.file(gtk3))
	require.NotContains(t, b.file(gtk4), "=New")

	b, p = dressed()
	r = b.back(plan.Aim{Facet: desk.FacetPointerSize}, p)
	require.NoError(t, b.apply(r.Plan))
	require.Equal(t, strings.Replace(full, "gtk-cursor-theme-size=48\r\n", "", 1), b.file(gtk3))
	require.Equal(t, strings.Replace(four, "gtk-cursor-theme-size=48\n", "", 1), b.file(gtk4))
	require.Empty(t, b.back(plan.Aim{Facet: desk.FacetPointerSize}, p).Plan.Ops, "that is done")

	b, p = dressed()
	r = b.back(plan.Aim{Surface: "gtk3", Facet: desk.FacetIcons}, p)
	require.Empty(t, r.Conflicts)
	require.NoError(t, b.apply(r.Plan))
	require.Equal(t, strings.Replace(full, "= New", "= Old", 1), b.file(gtk3))
	require.Equal(t, four, b.file(gtk4))
	require.NoError(t, b.apply(b.back(plan.Aim{}, r.Plan).Plan), "that can be gone back on too")
	require.Equal(t, full, b.file(gtk3))
}

// TestGoBackToAnOlderCheckpoint goes back on three changes at once, one of which
// was a going back.
func TestGoBackToAnOlderCheckpoint(t *testing.T) {
	b := newBench(t)
	b.put(".data/icons/Salt/own.txt", "mine", 0o644)
	before := b.tree()
	var done []plan.Plan
	step := func(p plan.Plan) {
		require.NoError(t, b.apply(p))
		done = append(done, p)
	}
	step(b.dress("New"))
	step(b.installing(plan.Replace))
	step(b.dress("Salt"))
	step(b.back(plan.Aim{}, done[2]).Plan)
	require.NotEqual(t, before, b.tree())
	r := b.back(plan.Aim{}, done...)
	require.Empty(t, r.Conflicts)
	require.NoError(t, b.apply(r.Plan))
	require.Equal(t, before, b.tree())
}

// TestAPieceThatWasChangedStays: what somebody put into a piece is not taken away
// with it, unless they say so; then it is kept.
func TestAPieceThatWasChangedStays(t *testing.T) {
	b := newBench(t)
	p := b.install()
	require.NoError(t, b.apply(p))
	b.put(".data/icons/Salt/16/mine.png", "added by hand", 0o644)
	r := b.back(plan.Aim{}, p)
	require.Len(t, r.Conflicts, 1)
	require.True(t, r.Conflicts[0].Tree)
	require.NoError(t, b.apply(r.Plan))
	require.Equal(t, "added by hand", b.file(".data/icons/Salt/16/mine.png"))

	r = b.back(plan.Aim{Takes: map[string]plan.Take{"/home/me/.data/icons/Salt": plan.TakeBefore}}, p)
	require.NoError(t, b.apply(r.Plan))
	_, err := os.Lstat(filepath.Join(b.dir, "home/.data"))
	require.Error(t, err)
	require.NoError(t, b.apply(b.back(plan.Aim{}, r.Plan).Plan))
	require.Equal(t, "added by hand", b.file(".data/icons/Salt/16/mine.png"))
}
