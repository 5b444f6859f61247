package changes_test

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/judge"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/standin"
)

func settings(t *testing.T, d *desks.Managed) string {
	text, err := os.ReadFile(filepath.Join(d.Home, gtk3Settings))
	if os.IsNotExist(err) {
		return ""
	}
	require.NoError(t, err)
	return string(text)
}

// TestAHistoryIsGoneBackOn as a whole, for a facet, and in parts; what is pinned stays, what
// is deleted cannot be gone back on, and that is said before.
func TestAHistoryIsGoneBackOn(t *testing.T) {
	a, d := apptest.New(t)
	for _, size := range []string{"24", "32", "48"} {
		require.NoError(t, wears(t, a, d, size))
	}
	past, err := a.History.Entries(d)
	require.NoError(t, err)
	require.Len(t, past, 3)
	require.Equal(t, "Apply 48", past[0].Title)
	surfaces, facets, err := a.Back.Touched(d, changes.Way{Checkpoint: past[2].ID, Since: true})
	require.NoError(t, err)
	require.NotEmpty(t, surfaces)
	require.Equal(t, desk.FacetPointerSize, facets[0].Name)

	rv, err := a.Back.Review(d, changes.Way{Checkpoint: past[0].ID}, nil)
	require.NoError(t, err)
	require.Equal(t, rv.Answer.Of(), rv.Answer.Follow+rv.Answer.Later+rv.Answer.Cannot+rv.Answer.Not())
	require.NoError(t, apptest.Wait(a.Back.Start(d, changes.Way{Checkpoint: past[0].ID}, rv.Reviewed.Plan.ID, "")))
	require.Contains(t, settings(t, d), "gtk-cursor-theme-size=32")
	_, err = a.Back.Start(d, changes.Way{Checkpoint: past[0].ID}, "", "")
	require.ErrorContains(t, err, "already")
	way := changes.Way{Checkpoint: past[1].ID}
	way.Facet = desk.FacetPointerSize
	require.NoError(t, apptest.Wait(a.Back.Start(d, way, "", "")))
	require.Contains(t, settings(t, d), "gtk-cursor-theme-size=24")
	worn, err := a.Drafts.Worn(d)
	require.NoError(t, err)
	require.Equal(t, "24", worn.Want(desk.FacetPointerSize))

	past, err = a.History.Entries(d)
	require.NoError(t, err)
	require.Len(t, past, 5)
	require.NoError(t, a.History.Pin(d, past[4].ID, true))
	require.Error(t, a.History.Pin(d, 99, true))
	loss, err := a.History.LossOf(d, past[3].ID)
	require.NoError(t, err)
	require.Len(t, loss.Reach, 1)
	require.NoError(t, a.History.Purge(d, past[3].ID))
	_, err = a.Back.Start(d, changes.Way{Checkpoint: past[3].ID}, "", "")
	require.ErrorIs(t, err, changes.ErrPurged)
}

// TestWhatIsTriedIsKeptOrGoneBackOn, by the person or when its time is up.
func TestWhatIsTriedIsKeptOrGoneBackOn(t *testing.T) {
	a, d := apptest.New(t)
	try := func(size string, how time.Duration) {
		_, err := a.Drafts.Choose(d, desk.FacetPointerSize, size)
		require.NoError(t, err)
		rv, err := a.Review.Draft(t.Context(), d, nil, planning.Options{})
		require.NoError(t, err)
		require.NoError(t, apptest.Wait(a.Changes.Apply(d, rv.Whole.ID, changes.How{Try: how})))
	}
	try("32", time.Hour)
	trial, ok := a.Trials.Of(d)
	require.True(t, ok)
	require.Greater(t, trial.Left, 59*time.Minute)
	require.ErrorIs(t, wears(t, a, d, "64"), changes.ErrTrying)
	require.ErrorIs(t, a.History.Purge(d, trial.Checkpoint), changes.ErrTrying)
	require.NoError(t, apptest.Wait(a.Trials.End(d, trial.Checkpoint, "")))
	require.NotContains(t, settings(t, d), "32")
	_, err := a.Trials.End(d, trial.Checkpoint, "")
	require.ErrorContains(t, err, "has ended already")

	try("32", time.Hour)
	require.NoError(t, a.Trials.Keep(d, 0))
	require.Contains(t, settings(t, d), "=32")
	draft, err := a.Drafts.Draft(d)
	require.NoError(t, err)
	require.Empty(t, draft.Choices, "it is worn")
	require.Error(t, a.Trials.Keep(d, 0))

	try("48", 50*time.Millisecond)
	require.Eventually(t, func() bool { _, ok := a.Trials.Of(d); return !ok }, 10*time.Second, 10*time.Millisecond)
	require.Eventually(t, func() bool { return len(a.Notices.All()) > 0 }, 10*time.Second, 10*time.Millisecond)
	require.Contains(t, settings(t, d), "=32")
	notices := a.Notices.All()
	require.Contains(t, notices[0].Text, "not kept in time")
	require.NoError(t, a.Notices.Seen(notices[0].ID))
	require.Empty(t, a.Notices.All())
}

// TestAPlanIsHandedOver as a file, a script and a bundle. Where nobody can be asked for an
// administrator's password, it says so.
func TestAPlanIsHandedOver(t *testing.T) {
	a, d := apptest.New(t)
	_, err := a.Drafts.Choose(d, desk.FacetPointerSize, "32")
	require.NoError(t, err)
	rv, err := a.Review.Draft(t.Context(), d, nil, planning.Options{})
	require.NoError(t, err)
	forms := map[string]string{}
	for _, form := range []string{"json", "sh", "tar"} {
		var b bytes.Buffer
		require.NoError(t, a.Changes.HandOver(t.Context(), d, rv.Whole.ID, form, &b))
		forms[form] = b.String()
	}
	require.Contains(t, forms["sh"], "gtk-cursor-theme-size=32")
	require.Contains(t, forms["tar"], "plan.json")
	require.ErrorContains(t, a.Changes.HandOver(t.Context(), d, rv.Whole.ID, "doc", &bytes.Buffer{}), "not as .doc")
	_, err = a.Changes.AskAdministrator(d, rv.Whole.ID, "")
	require.ErrorIs(t, err, changes.ErrNobodyToAsk)
	_, err = a.Review.Listing(t.Context(), rv.Whole.Ops[0])
	require.NoError(t, err)
}

// TestTheBoardIsMended: its remedies have plans, one by one or all at once; sources are edited
// one by one, and surfaces started again.
func TestTheBoardIsMended(t *testing.T) {
	dir := t.TempDir()
	d := apptest.DeskIn(t, dir, "d")
	for name, text := range map[string]string{
		gtk3Settings:                          "[Settings]\ngtk-icon-theme-name=Reef\n",
		".local/share/icons/Reef/index.theme": "[Icon Theme]\nName=Reef\nDirectories=16\n[16]\nSize=16\n",
		".local/share/icons/Salt/index.theme": "[Icon Theme]\nName=Salt\nDirectories=16\n[16]\nSize=16\n",
	} {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(d.Home, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(d.Home, name), []byte(text), 0o644))
	}
	started := ""
	d.Restarts = map[string]func() error{"gtk3": func() error { started += "gtk3 "; return nil }}
	a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{d}})
	require.NoError(t, err)
	t.Cleanup(func() { _ = a.Close() })

	p, err := a.Review.Step(d, planning.SourceRef{Surface: "gtk3", Facet: desk.FacetIcons, Path: "/home/me/" + gtk3Settings, Key: "gtk-icon-theme-name"}, "Salt")
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Changes.ApplyStep(d, p.ID, changes.How{})))
	require.Contains(t, settings(t, d), "gtk-icon-theme-name=Salt")

	c, err := a.Review.Cell(d, "gtk2", desk.FacetIcons)
	require.NoError(t, err)
	require.Equal(t, "gtk2", c.Surface.ID)
	_, err = a.Review.Cell(d, "gtk2", "nothing")
	require.Error(t, err)
	_, err = a.Review.Fix(t.Context(), d, "gtk3", desk.FacetIcons, "9")
	require.ErrorContains(t, err, "look again")
	_, err = a.Review.Grant(d, "gtk3", "", "/home/me/.icons", false)
	require.ErrorContains(t, err, "no such runtime")

	done, err := a.Changes.FixAll(t.Context(), d, outfit.Outfit{Name: "Reef"}.With(desk.FacetIcons, "Reef"), false)
	require.NoError(t, err)
	require.NotEmpty(t, done)
	require.Contains(t, settings(t, d), "gtk-icon-theme-name=Reef")
	require.Contains(t, done[len(done)-1].Title, "Reef")

	require.NoError(t, a.Changes.Restart(d, "gtk3", false))
	require.Equal(t, "gtk3", strings.TrimSpace(started))
	require.ErrorContains(t, a.Changes.Restart(d, "gtk4", false), "cannot be restarted from here")
	require.ErrorContains(t, a.Changes.Restart(d, "none", false), "no surface")
}

// TestRuntimesAndTerminals: what a sandbox is granted and taken, and a terminal's colours made
// readable, are plans too.
func TestRuntimesAndTerminals(t *testing.T) {
	dir := t.TempDir()
	d := apptest.DeskIn(t, dir, "d")
	d.SetSurfaces(append(d.Surfaces(), standin.Surfaces()...))
	put := func(at, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	colours := "*background: #101418\n*foreground: #d0d0d0\n"
	for n := range 16 {
		colours += fmt.Sprintf("*color%d: #%02x2020\n", n, 0x20+n*8)
	}
	put(filepath.Join(d.Home, ".local/share/palettes/Dusk.Xresources"), colours)
	put(filepath.Join(d.Home, ".config/bittern/profiles/Plain.conf"), "[Look]\npalette=Dusk\n")
	a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: []*desks.Managed{d}})
	require.NoError(t, err)
	t.Cleanup(func() { _ = a.Close() })

	_, err = a.Review.Grant(d, "coracle", "", "/usr/share/icons", false)
	require.ErrorContains(t, err, "not in your home")
	p, err := a.Review.Grant(d, "coracle", "org.example.One", "/home/me/.icons", false)
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Changes.ApplyStep(d, p.ID, changes.How{})))
	grants := func() string {
		b, err := os.ReadFile(filepath.Join(d.Home, ".config/coracle/grants.conf"))
		require.NoError(t, err)
		return string(b)
	}
	require.Contains(t, grants(), "read=~/.icons")
	p, err = a.Review.Grant(d, "coracle", "org.example.One", "/home/me/.icons", true)
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Changes.ApplyStep(d, p.ID, changes.How{})))
	require.NotContains(t, grants(), "~/.icons")

	bittern, ok := d.Surface("bittern")
	require.True(t, ok)
	dusk, ok := judge.PaletteOf(d.Desk, bittern, "Dusk")
	require.True(t, ok)
	_, err = a.Review.Remap(d, "none", dusk, -1)
	require.ErrorContains(t, err, "no such terminal")
	p, err = a.Review.Remap(d, "bittern", dusk, 4)
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Changes.ApplyStep(d, p.ID, changes.How{})))
	after, ok := judge.PaletteOf(d.Desk, bittern, "Dusk")
	require.True(t, ok)
	require.True(t, after.Contrasts()[4].Legible())
	require.Equal(t, dusk.Colours[1], after.Colours[1], "only that one")
	_, err = a.Review.Remap(d, "bittern", after, 4)
	require.ErrorContains(t, err, "can be read as they are")
}
