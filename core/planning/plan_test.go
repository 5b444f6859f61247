package planning_test

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/xsettings"
)

// TestTwoLinesOfOneFile: facets that one file sets are one operation on it.
func TestTwoLinesOfOneFile(t *testing.T) {
	b := plantest.New(t)
	b.Write(".icons/Shell/cursors/default", "x", 0o644)
	p, err := planning.Dress(t.Context(), b.D, outfit.Outfit{Name: "Both"}.With(desk.FacetIcons, "New").With(desk.FacetPointer, "Shell"))
	require.NoError(t, err)
	writes := 0
	for _, op := range p.Ops {
		if strings.HasSuffix(op.Path, "/gtk-3.0/settings.ini") {
			writes++
		}
	}
	require.Equal(t, 1, writes)
	require.NoError(t, b.Apply(p))
	require.Contains(t, b.File(plantest.GTK3), "gtk-icon-theme-name = New")
	require.Contains(t, b.File(plantest.GTK3), "gtk-cursor-theme-name=Shell")
	require.Contains(t, b.File(".icons/default/index.theme"), "Inherits=Shell")
	again, err := planning.Dress(t.Context(), b.D, outfit.Outfit{Name: "Both"}.With(desk.FacetIcons, "New").With(desk.FacetPointer, "Shell"))
	require.NoError(t, err)
	require.Empty(t, again.Ops)
}

// TestAProviderThatTellsWhatWasSaidBefore is a moment behind its file: a plan that is made
// then is the same as a moment later.
func TestAProviderThatTellsWhatWasSaidBefore(t *testing.T) {
	b := plantest.New(t)
	b.D.SetSurfaces(desk.Builtin())
	b.Write(".icons/Old/index.theme", "[Icon Theme]\nName=Old\nDirectories=\n", 0o644)
	b.Write(".gtkrc-2.0", "gtk-icon-theme-name=\"Old\"\n", 0o644)
	b.Write(".config/ivelt/session.conf", "[XSettings]\nNet/IconThemeName=Old\n", 0o644)
	tells := "Old"
	b.D.Running = func() desk.Session {
		return desk.Session{Own: true, XSettings: xsettings.Settings{"Net/IconThemeName": tells}}
	}
	want := b.Dress("New")
	require.True(t, slices.ContainsFunc(want.Ops, func(op plan.Op) bool { return strings.HasSuffix(op.Path, "/.gtkrc-2.0") }))
	tells = "New" // what was said before the last change
	require.Equal(t, want, b.Dress("New"))
	s, _ := b.D.Surface("gtk3")
	f, _ := s.Facet(desk.FacetIcons)
	require.Equal(t, "New", reading.Told(b.D, s, f).Value, "a reading is what programs are told now")
}

func TestDressAndGoBack(t *testing.T) {
	b := plantest.New(t)
	before := b.Tree()
	p := b.Dress("New")
	require.Equal(t, p, b.Dress("New"), "planning twice gives the same plan")
	require.Len(t, p.Ops, 3, "edit one file, make a folder, write the other file")
	require.NoError(t, b.Apply(p))
	require.Equal(t, "# mine\r\n[Settings]\r\ngtk-icon-theme-name = New\r\nx-note=keep\r\n", b.File(plantest.GTK3))
	require.Equal(t, "[Settings]\ngtk-icon-theme-name=New\n", b.File(plantest.GTK4))
	fi, err := os.Stat(filepath.Join(b.Dir, "home", plantest.GTK3))
	require.NoError(t, err)
	require.Equal(t, fs.FileMode(0o640), fi.Mode().Perm(), "the mode is kept")
	for _, r := range reading.All(b.D) {
		if r.Facet == desk.FacetIcons {
			require.Equal(t, "New", r.Value, r.Surface)
		}
	}
	require.Empty(t, b.Dress("New").Ops, "planning after applying gives nothing to do")
	require.NoFileExists(t, b.Journal)

	back := b.Back(planning.Aim{}, p).Plan
	require.NoError(t, b.Apply(back))
	require.Equal(t, before, b.Tree())
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, back).Plan), "going back can be gone back on")
	require.Equal(t, "[Settings]\ngtk-icon-theme-name=New\n", b.File(plantest.GTK4))
}

func TestInstallCopiesThePieceOnly(t *testing.T) {
	b := plantest.New(t)
	before := b.Tree()
	p := b.Install()
	require.NoError(t, b.Apply(p))
	require.Equal(t, "xxxx", b.File(".data/icons/Salt/16/4.png"))
	require.Equal(t, "xxxx", b.File(".icons/Salt/16/4.png"), "through the link")
	to, err := os.Readlink(filepath.Join(b.Dir, "home/.data/icons/Salt/16/linked.png"))
	require.NoError(t, err)
	require.Equal(t, "0.png", to, "links stay links")
	_, err = os.Lstat(filepath.Join(b.Dir, "home/.data/icons/Salt/16/out.png"))
	require.ErrorIs(t, err, fs.ErrNotExist, "a link out of the piece is left out")
	require.NoFileExists(t, filepath.Join(b.Dir, "home/.data/icons/README"))
	fi, err := os.Stat(filepath.Join(b.Dir, "home/.data/icons/Salt/draw.sh"))
	require.NoError(t, err)
	require.Equal(t, fs.FileMode(0o755), fi.Mode().Perm())
	require.Empty(t, b.Install().Ops, "it is there already")

	back := b.Back(planning.Aim{}, p).Plan
	require.NoError(t, b.Apply(back))
	require.Equal(t, before, b.Tree())
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, back).Plan))
	require.Equal(t, "xxxx", b.File(".data/icons/Salt/16/4.png"))
}

func TestSomethingElseIsNeverOverwritten(t *testing.T) {
	b := plantest.New(t)
	b.Write(".data/icons/Salt/own.txt", "mine", 0o644)
	p, err := parcel.Open(t.Context(), func() string { b2 := plantest.New(t); b2.Install(); return filepath.Join(b2.Dir, "Salt.zip") }(), archive.Options{})
	require.NoError(t, err)
	_, err = planning.Install(t.Context(), b.D, p, []planning.Placing{{Piece: p.Recognise(t.Context()).Pieces[0], Target: "/home/me/.data/icons/Salt"}})
	require.ErrorIs(t, err, plan.ErrExists)
}

func TestAChangedFileStopsThePlanBeforeAnythingIsWritten(t *testing.T) {
	b := plantest.New(t)
	p := b.Dress("New")
	b.Write(plantest.GTK4, "[Settings]\ngtk-icon-theme-name=Mine\n", 0o644)
	before := b.Tree()
	err := b.Apply(p)
	require.ErrorIs(t, err, plan.ErrChanged)
	require.ErrorContains(t, err, "~/"+plantest.GTK4)
	require.Equal(t, before, b.Tree())

}

func TestAParcelChangedSinceTheLookIsRefused(t *testing.T) {
	b := plantest.New(t)
	p := b.Install()
	other := plantest.New(t)
	other.Install()
	text, err := os.ReadFile(filepath.Join(b.Dir, "Salt.zip"))
	require.NoError(t, err)
	swapped := strings.Replace(string(text), "Name=Salt", "Name=Sand", 1)
	require.NotEqual(t, string(text), swapped, "the zip stores short files as they are")
	require.NoError(t, os.WriteFile(filepath.Join(b.Dir, "Salt.zip"), []byte(swapped), 0o644))
	before := b.Tree()
	require.Error(t, b.Apply(p))
	require.Equal(t, before, b.Tree())
}

func TestLinkedSettingsStayLinked(t *testing.T) {
	b := plantest.New(t)
	b.Write("dotfiles/plantest.GTK3.ini", "[Settings]\ngtk-icon-theme-name=Old\n", 0o644)
	at := filepath.Join(b.Dir, "home", plantest.GTK3)
	require.NoError(t, os.Remove(at))
	require.NoError(t, os.Symlink("/home/me/dotfiles/plantest.GTK3.ini", at))
	require.NoError(t, b.Apply(b.Dress("New")))
	to, err := os.Readlink(at)
	require.NoError(t, err)
	require.Equal(t, "/home/me/dotfiles/plantest.GTK3.ini", to)
	require.Equal(t, "[Settings]\ngtk-icon-theme-name=New\n", b.File("dotfiles/plantest.GTK3.ini"))
}

func TestBlockedIsSaidAndTheRestIsPlanned(t *testing.T) {
	b := plantest.New(t)
	b.Write(plantest.GTK3, "[Settings]\nno key file, this\n", 0o644)
	p := b.Dress("New")
	require.Len(t, p.Blocked, 1)
	require.Equal(t, "gtk3", p.Blocked[0].Surface)
	require.Contains(t, p.Blocked[0].Why, "line 2")
	require.Len(t, p.Ops, 2)
	require.NoError(t, b.Apply(p))
	require.Equal(t, "[Settings]\nno key file, this\n", b.File(plantest.GTK3), "left as it is")
	p = b.Dress("Nowhere")
	require.Len(t, p.Blocked, 2)
	require.Empty(t, p.Ops)
}

func TestAHomeThatCannotBeWritten(t *testing.T) {
	b := plantest.New(t)
	require.NoError(t, os.Chmod(filepath.Dir(b.Dir), 0o755))
	require.NoError(t, os.Chmod(filepath.Join(b.Dir, "home/.config"), 0o555))
	require.NoError(t, os.Chmod(filepath.Join(b.Dir, "home/.config/gtk-3.0"), 0o777))
	require.NoError(t, os.Chmod(filepath.Join(b.Dir, "home", plantest.GTK3), 0o666))
	require.NoError(t, os.Chmod(filepath.Join(b.Dir, "keep"), 0o777))
	require.NoError(t, os.Chmod(b.Dir, 0o777))
	p := b.Dress("New")
	before := b.Tree()
	var err error
	func() {
		if os.Getuid() == 0 { // root is let through anywhere: write as nobody
			runtime.LockOSThread()
			defer runtime.UnlockOSThread()
			require.NoError(t, syscall.Setfsuid(65534))
			defer func() { require.NoError(t, syscall.Setfsuid(0)) }()
		}
		err = b.Apply(p)
	}()
	require.ErrorIs(t, err, plan.ErrWrite)
	require.ErrorContains(t, err, "~/.config/gtk-4.0")
	require.Equal(t, before, b.Tree(), "what had been written is undone")
	b.D.SetWritable(false)
	require.ErrorIs(t, b.Apply(p), plan.ErrReadOnly)
}

func TestCancelAndFailedCommitRollBack(t *testing.T) {
	b := plantest.New(t)
	before := b.Tree()
	p := b.Install()
	ctx, cancel := context.WithCancel(t.Context())
	c := b.Config()
	c.Progress = func(done, _ int) {
		if done == 12 {
			cancel()
		}
	}
	require.ErrorIs(t, apply.Plan(ctx, b.D, p, c), context.Canceled)
	require.Equal(t, before, b.Tree())
	c = b.Config()
	c.Commit = func() error { return errors.New("the disk is full") }
	require.ErrorContains(t, apply.Plan(t.Context(), b.D, p, c), "the disk is full")
	require.Equal(t, before, b.Tree())
	require.NoFileExists(t, b.Journal)
}

func TestDiffShowsTheLine(t *testing.T) {
	before := "a\nb\nc\nd\ne\nf\ng\nh\ni\n"
	var got []string
	for _, l := range plan.Diff([]byte(before), []byte(strings.Replace(before, "e\n", "E\r\nnew\r\n", 1))) {
		got = append(got, fmt.Sprintf("%s%d,%d %s", l.Sign, l.Old, l.New, l.Text))
	}
	require.Equal(t, []string{"…0,0 ", " 2,2 b", " 3,3 c", " 4,4 d", "-5,0 e", `+0,5 E\r`, `+0,6 new\r`, " 6,7 f", " 7,8 g", " 8,9 h", "…0,0 "}, got)
	require.Equal(t, 2, len(plan.Diff(nil, []byte("one\ntwo\n"))))
}
