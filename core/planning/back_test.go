package planning_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
)

// TestNewerEditsStay goes back on a change of a file that somebody has edited
// since: by itself it undoes the change and leaves the edit, and the person can
// choose each of the three versions.
func TestNewerEditsStay(t *testing.T) {
	b := plantest.New(t)
	p := b.Dress("New")
	require.NoError(t, b.Apply(p))
	edited := strings.Replace(b.File(plantest.GTK3), "x-note=keep", "x-note=more\r\ngtk-cursor-theme-size=48", 1)
	b.Write(plantest.GTK3, edited, 0o640)
	r := b.Back(planning.Aim{}, p)
	require.Len(t, r.Conflicts, 1)
	c := r.Conflicts[0]
	require.Equal(t, "/home/me/"+plantest.GTK3, c.Path)
	require.Equal(t, edited, string(c.Now))
	require.Contains(t, string(c.Before), "gtk-icon-theme-name = Old\r\nx-note=keep")
	require.Contains(t, string(c.Left), "gtk-icon-theme-name = New\r\nx-note=keep")
	require.Equal(t, planning.TakeBoth, c.Taken)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, "# mine\r\n[Settings]\r\ngtk-icon-theme-name = Old\r\nx-note=more\r\ngtk-cursor-theme-size=48\r\n", b.File(plantest.GTK3))
	require.NoFileExists(t, filepath.Join(b.Dir, "home", plantest.GTK4), "what was not there before is gone again")

	require.NoError(t, b.Apply(b.Back(planning.Aim{}, r.Plan).Plan))
	require.Equal(t, edited, b.File(plantest.GTK3), "and back on that")
	for take, want := range map[planning.Take]string{planning.TakeNow: edited, planning.TakeBefore: string(c.Before)} {
		r := b.Back(planning.Aim{Takes: map[string]planning.Take{c.Path: take}}, p)
		require.NoError(t, b.Apply(r.Plan))
		require.Equal(t, want, b.File(plantest.GTK3), take)
		require.NoError(t, b.Apply(b.Back(planning.Aim{}, r.Plan).Plan))
		require.Equal(t, edited, b.File(plantest.GTK3))
	}
}

// TestNewerLinesStay goes back on a change of which somebody has edited one line, or
// written below one: those lines stay, what they need stays, and all others go back.
func TestNewerLinesStay(t *testing.T) {
	wear := outfit.Outfit{Name: "Both"}.With(desk.FacetIcons, "New").With(desk.FacetPointerSize, "48")
	dressed := func(edit func(gtk3, gtk4 string) (string, string)) (*plantest.Bench, plan.Plan) {
		b := plantest.New(t)
		p, err := planning.Dress(t.Context(), b.D, wear)
		require.NoError(t, err)
		require.NoError(t, b.Apply(p))
		one, two := edit(b.File(plantest.GTK3), b.File(plantest.GTK4))
		b.Write(plantest.GTK3, one, 0o640)
		b.Write(plantest.GTK4, two, 0o644)
		return b, p
	}
	const first = "# mine\r\n[Settings]\r\n"
	sameLine := func(a, b string) (string, string) { return strings.Replace(a, "= New", "= Mine", 1), b }
	b, p := dressed(sameLine)
	r := b.Back(planning.Aim{}, p)
	require.Len(t, r.Conflicts, 1)
	require.Equal(t, planning.TakeBoth, r.Conflicts[0].Taken)
	require.Equal(t, []planning.Clash{{Line: 3, Now: "gtk-icon-theme-name = Mine\r\n", Older: "gtk-icon-theme-name = Old\r\n"}}, r.Conflicts[0].Clashes)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, first+"gtk-icon-theme-name = Mine\r\nx-note=keep\r\n", b.File(plantest.GTK3), "the size goes back, the edited line stays")
	require.NoFileExists(t, filepath.Join(b.Dir, "home", plantest.GTK4))

	b, p = dressed(sameLine)
	r = b.Back(planning.Aim{Lines: map[string][]int{"/home/me/" + plantest.GTK3: {0}}}, p)
	require.True(t, r.Conflicts[0].Clashes[0].Taken)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, first+"gtk-icon-theme-name = Old\r\nx-note=keep\r\n", b.File(plantest.GTK3), "unless the person takes the older one")

	for text, want := range map[string]string{
		"gtk-theme-name=Mine\n":   "[Settings]\ngtk-theme-name=Mine\n", // what a surface is told
		"x-unknown=1\n# a word\n": "[Settings]\nx-unknown=1\n# a word\n",
		"# a word\n":              "# a word\n",
	} {
		b, p = dressed(func(a, b string) (string, string) { return a, b + text })
		r = b.Back(planning.Aim{}, p)
		require.Len(t, r.Conflicts, 1)
		require.NoError(t, b.Apply(r.Plan))
		require.Equal(t, want, b.File(plantest.GTK4), "what was written into a file that was not there before")
		require.Contains(t, b.File(plantest.GTK3), "= Old")
	}
	b, p = dressed(func(a, b string) (string, string) { return a, b })
	require.NoError(t, os.Remove(filepath.Join(b.Dir, "home", plantest.GTK3)))
	r = b.Back(planning.Aim{}, p)
	require.Equal(t, []planning.Take{planning.TakeNow, planning.TakeBefore}, r.Conflicts[0].Takes)
	require.NoError(t, b.Apply(r.Plan))
	require.NoFileExists(t, filepath.Join(b.Dir, "home", plantest.GTK3), "what was taken away since stays away")
}

// TestEditsBetweenChangesStay goes back to before two changes, between which
// somebody has edited what they are about.
func TestEditsBetweenChangesStay(t *testing.T) {
	b := plantest.New(t)
	b.Write(".local/share/icons/Newer/index.theme", "[Icon Theme]\nName=Newer\nDirectories=16\n[16]\nSize=16\n", 0o644)
	first := b.Dress("New")
	require.NoError(t, b.Apply(first))
	b.Write(plantest.GTK3, strings.Replace(b.File(plantest.GTK3), "x-note=keep\r\n", "x-note=keep\r\n# between\r\n", 1), 0o640)
	require.NoError(t, os.Chmod(filepath.Join(b.Dir, "home", plantest.GTK3), 0o600))
	b.Write(plantest.GTK4, b.File(plantest.GTK4)+"x-mine=1\n", 0o644)
	second := b.Dress("Newer")
	require.NoError(t, b.Apply(second))
	b.Write(plantest.GTK3, b.File(plantest.GTK3)+"# since\r\n", 0o600)
	now := b.Tree()

	r := b.Back(planning.Aim{}, first, second)
	require.Len(t, r.Conflicts, 2)
	c := r.Conflicts[0]
	require.True(t, c.Between)
	require.Equal(t, []planning.Take{planning.TakeBoth, planning.TakeNow, planning.TakeBefore}, c.Takes)
	require.NotContains(t, string(c.Before), "between")
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, "# mine\r\n[Settings]\r\ngtk-icon-theme-name = Old\r\nx-note=keep\r\n# between\r\n# since\r\n", b.File(plantest.GTK3))
	require.Equal(t, "[Settings]\nx-mine=1\n", b.File(plantest.GTK4))
	fi, err := os.Stat(filepath.Join(b.Dir, "home", plantest.GTK3))
	require.NoError(t, err)
	require.Equal(t, os.FileMode(0o600), fi.Mode().Perm(), "a newer mode stays too")
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, r.Plan).Plan))
	require.Equal(t, now, b.Tree())

	r = b.Back(planning.Aim{Takes: map[string]planning.Take{c.Path: planning.TakeBefore}}, first, second)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, string(c.Before), b.File(plantest.GTK3))
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, r.Plan).Plan))

	r = b.Back(planning.Aim{Surface: "gtk3"}, first, second)
	require.NoError(t, b.Apply(r.Plan))
	require.Contains(t, b.File(plantest.GTK3), "= Old\r\nx-note=keep\r\n# between\r\n# since")
	require.Contains(t, b.File(plantest.GTK4), "=Newer\nx-mine")
}

// TestAPieceEditedBetweenChangesComesBack: a pack that somebody wrote in, and that
// was replaced then, is as they left it when both changes are gone back on.
func TestAPieceEditedBetweenChangesComesBack(t *testing.T) {
	b := plantest.New(t)
	first := b.Install()
	require.NoError(t, b.Apply(first))
	b.Write(".data/icons/Salt/16/mine.png", "added by hand", 0o644)
	edited := b.Tree()
	second := b.Installing(planning.Replace)
	require.NoError(t, b.Apply(second))
	require.NoFileExists(t, filepath.Join(b.Dir, "home/.data/icons/Salt/16/mine.png"))
	r := b.Back(planning.Aim{}, first, second)
	require.Len(t, r.Conflicts, 1)
	require.Equal(t, []planning.Take{planning.TakeBoth, planning.TakeNow, planning.TakeBefore}, r.Conflicts[0].Takes)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, "added by hand", b.File(".data/icons/Salt/16/mine.png"))
	for name, text := range edited {
		if strings.HasPrefix(name, ".data/icons/Salt/") {
			require.Equal(t, text, b.Tree()[name])
		}
	}
	require.NoError(t, b.Apply(b.Back(planning.Aim{Takes: map[string]planning.Take{"/home/me/.data/icons/Salt": planning.TakeBefore}}, first, second, r.Plan).Plan))
	require.NoDirExists(t, filepath.Join(b.Dir, "home/.data/icons/Salt"))
}

// TestWhatWasKeptIsDamaged: what cannot be put back is said, and everything else
// goes back.
func TestWhatWasKeptIsDamaged(t *testing.T) {
	b := plantest.New(t)
	old := b.File(plantest.GTK3)
	p := b.Dress("New")
	require.NoError(t, b.Apply(p))
	require.NoError(t, os.Remove(filepath.Join(b.Dir, "keep", plan.Digest([]byte(old)))))
	r := b.Back(planning.Aim{}, p)
	require.Len(t, r.Conflicts, 1)
	require.Contains(t, r.Conflicts[0].Lost, "no such file")
	require.NoError(t, b.Apply(r.Plan))
	require.Contains(t, b.File(plantest.GTK3), "= New")
	require.NoFileExists(t, filepath.Join(b.Dir, "home", plantest.GTK4))
}

// TestGoBackInPart goes back for one surface, and for one facet, and leaves the
// rest of what was changed.
func TestGoBackInPart(t *testing.T) {
	wear := outfit.Outfit{Name: "Both"}.With(desk.FacetIcons, "New").With(desk.FacetPointerSize, "48").With(desk.FacetFont, "Serif 12")
	dressed := func() (*plantest.Bench, plan.Plan) {
		b := plantest.New(t)
		p, err := planning.Dress(t.Context(), b.D, wear)
		require.NoError(t, err)
		require.NoError(t, b.Apply(p))
		require.Contains(t, b.File(plantest.GTK3), "gtk-cursor-theme-size=48")
		return b, p
	}
	b, p := dressed()
	full, four := b.File(plantest.GTK3), b.File(plantest.GTK4)
	r := b.Back(planning.Aim{Surface: "gtk4"}, p)
	require.Contains(t, r.Plan.Title, "for GTK 4 programs")
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, full, b.File(plantest.GTK3))
	require.NotContains(t, b.File(plantest.GTK4), "=New")

	b, p = dressed()
	r = b.Back(planning.Aim{Facet: desk.FacetPointerSize}, p)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, strings.Replace(full, "gtk-cursor-theme-size=48\r\n", "", 1), b.File(plantest.GTK3))
	require.Equal(t, strings.Replace(four, "gtk-cursor-theme-size=48\n", "", 1), b.File(plantest.GTK4))
	require.Empty(t, b.Back(planning.Aim{Facet: desk.FacetPointerSize}, p).Plan.Ops, "that is done")

	b, p = dressed()
	r = b.Back(planning.Aim{Surface: "gtk3", Facet: desk.FacetIcons}, p)
	require.Empty(t, r.Conflicts)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, strings.Replace(full, "= New", "= Old", 1), b.File(plantest.GTK3))
	require.Equal(t, four, b.File(plantest.GTK4))
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, r.Plan).Plan), "that can be gone back on too")
	require.Equal(t, full, b.File(plantest.GTK3))
}

// TestGoBackToAnOlderCheckpoint goes back on three changes at once, one of which
// was a going back.
func TestGoBackToAnOlderCheckpoint(t *testing.T) {
	b := plantest.New(t)
	b.Write(".data/icons/Salt/own.txt", "mine", 0o644)
	before := b.Tree()
	var done []plan.Plan
	step := func(p plan.Plan) {
		require.NoError(t, b.Apply(p))
		done = append(done, p)
	}
	step(b.Dress("New"))
	step(b.Installing(planning.Replace))
	step(b.Dress("Salt"))
	step(b.Back(planning.Aim{}, done[2]).Plan)
	require.NotEqual(t, before, b.Tree())
	r := b.Back(planning.Aim{}, done...)
	require.Empty(t, r.Conflicts)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, before, b.Tree())
}

// TestAPieceThatWasChangedStays: what somebody put into a piece is not taken away
// with it, unless they say so; then it is kept.
func TestAPieceThatWasChangedStays(t *testing.T) {
	b := plantest.New(t)
	p := b.Install()
	require.NoError(t, b.Apply(p))
	b.Write(".data/icons/Salt/16/mine.png", "added by hand", 0o644)
	r := b.Back(planning.Aim{}, p)
	require.Len(t, r.Conflicts, 1)
	require.True(t, r.Conflicts[0].Tree)
	require.NoError(t, b.Apply(r.Plan))
	require.Equal(t, "added by hand", b.File(".data/icons/Salt/16/mine.png"))

	r = b.Back(planning.Aim{Takes: map[string]planning.Take{"/home/me/.data/icons/Salt": planning.TakeBefore}}, p)
	require.NoError(t, b.Apply(r.Plan))
	_, err := os.Lstat(filepath.Join(b.Dir, "home/.data"))
	require.Error(t, err)
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, r.Plan).Plan))
	require.Equal(t, "added by hand", b.File(".data/icons/Salt/16/mine.png"))
}
