package planning_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/archive"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
)

func TestUninstallTakesExactlyWhatWasPlaced(t *testing.T) {
	b := plantest.New(t)
	b.Write(".data/icons/Other/index.theme", "[Icon Theme]\nName=Other\n", 0o644)
	done := b.Install()
	require.NoError(t, b.Apply(done))
	full := b.Tree()
	p, err := planning.Uninstall(b.D, done, "/home/me/.data/icons/Salt", "Salt")
	require.NoError(t, err)
	require.Len(t, p.Ops, 2, "the link, then the piece")
	require.Equal(t, plan.State{Kind: "link", Hash: "../.data/icons/Salt"}, p.Ops[0].Before)
	require.NoError(t, b.Apply(p))
	require.NoDirExists(t, filepath.Join(b.Dir, "home/.data/icons/Salt"))
	_, err = os.Lstat(filepath.Join(b.Dir, "home/.icons/Salt"))
	require.ErrorIs(t, err, os.ErrNotExist)
	require.FileExists(t, filepath.Join(b.Dir, "home/.data/icons/Other/index.theme"))
	again, err := planning.Uninstall(b.D, done, "/home/me/.data/icons/Salt", "Salt")
	require.NoError(t, err)
	require.Empty(t, again.Ops)

	require.NoError(t, b.Apply(b.Back(planning.Aim{}, p).Plan))
	restored := b.Tree()
	for name := range full {
		require.Contains(t, restored, name)
	}
	b.Write(".data/icons/Salt/mine.png", "added by hand", 0o644)
	changed := b.Tree()
	p, err = planning.Uninstall(b.D, done, "/home/me/.data/icons/Salt", "Salt")
	require.NoError(t, err)
	require.NoError(t, b.Apply(p))
	require.NoDirExists(t, filepath.Join(b.Dir, "home/.data/icons/Salt"))
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, p).Plan))
	require.Equal(t, changed, b.Tree(), "what was done to it since is kept")
}

// TestACopyInTheSecondFolder goes with the first when the piece is removed.
func TestACopyInTheSecondFolder(t *testing.T) {
	b := plantest.New(t)
	b.Install()
	start := b.Tree()
	p, err := parcel.Open(t.Context(), filepath.Join(b.Dir, "Salt.zip"), archive.Options{})
	require.NoError(t, err)
	placing := planning.Placing{Piece: p.Recognise(t.Context()).Pieces[0], Target: "/home/me/.data/icons/Salt", Links: []string{"/home/me/.icons/Salt"}, Second: planning.ByCopy}
	done, err := planning.Install(t.Context(), b.D, p, []planning.Placing{placing})
	require.NoError(t, err)
	require.NoError(t, b.Apply(done))
	require.Equal(t, "xxxx", b.File(".icons/Salt/16/4.png"))
	gone, err := planning.Uninstall(b.D, done, placing.Target, "Salt")
	require.NoError(t, err)
	require.NoError(t, b.Apply(gone))
	require.NoDirExists(t, filepath.Join(b.Dir, "home/.icons/Salt"))
	for _, x := range []plan.Plan{gone, done} {
		require.NoError(t, b.Apply(b.Back(planning.Aim{}, x).Plan))
	}
	require.Equal(t, start, b.Tree())
	placing.Second = planning.None
	only, err := planning.Install(t.Context(), b.D, p, []planning.Placing{placing})
	require.NoError(t, err)
	require.NoError(t, b.Apply(only))
	require.NoDirExists(t, filepath.Join(b.Dir, "home/.icons/Salt"))
}

func TestRenameChangesTheNameOnly(t *testing.T) {
	b := plantest.New(t)
	b.Write(".local/share/icons/New/index.theme", "# mine\n[Icon Theme]\nName = New\nInherits=hicolor\nDirectories=16\n[16]\nSize=16\n", 0o644)
	p, err := planning.Rename(b.D, "/home/me/.local/share/icons/New", "Icon Theme", "Brand new")
	require.NoError(t, err)
	require.NoError(t, b.Apply(p))
	require.Equal(t, "# mine\n[Icon Theme]\nName = Brand new\nInherits=hicolor\nDirectories=16\n[16]\nSize=16\n", b.File(".local/share/icons/New/index.theme"))
	require.NoError(t, b.Apply(b.Dress("New")), "settings go on naming the folder")
	same, err := planning.Rename(b.D, "/home/me/.local/share/icons/New", "Icon Theme", "Brand new")
	require.NoError(t, err)
	require.Empty(t, same.Ops)
	_, err = planning.Rename(b.D, "/home/me/.local/share/icons/None", "Icon Theme", "X")
	require.Error(t, err)
}

// TestSomethingElseInPlace installs over another pack of the same name in each
// of the ways a person can choose.
func TestSomethingElseInPlace(t *testing.T) {
	const at = "/home/me/.data/icons/Salt"
	place := func(b *plantest.Bench, exists planning.Exists) (plan.Plan, error) {
		p, err := parcel.Open(t.Context(), filepath.Join(b.Dir, "Salt.zip"), archive.Options{})
		require.NoError(t, err)
		return planning.Install(t.Context(), b.D, p, []planning.Placing{{Piece: p.Recognise(t.Context()).Pieces[0], Target: at, Links: []string{"/home/me/.icons/Salt"}, Exists: exists}})
	}
	start := func() (*plantest.Bench, map[string]string) {
		b := plantest.New(t)
		b.Install()
		b.Write(".data/icons/Salt/index.theme", "[Icon Theme]\nName=My own salt\nDirectories=16\n", 0o644)
		b.Write(".data/icons/Salt/16/mine.png", "mine", 0o600)
		require.NoError(t, os.Symlink("mine.png", filepath.Join(b.Dir, "home/.data/icons/Salt/16/also.png")))
		return b, b.Tree()
	}
	b, _ := start()
	_, err := place(b, planning.Refuse)
	require.ErrorIs(t, err, plan.ErrExists)
	p, err := place(b, planning.Leave)
	require.NoError(t, err)
	require.Empty(t, p.Ops)

	b, _ = start()
	p, err = place(b, planning.Both)
	require.NoError(t, err)
	require.NoError(t, b.Apply(p))
	require.Equal(t, "mine", b.File(".data/icons/Salt/16/mine.png"))
	require.Equal(t, "xxxx", b.File(".data/icons/Salt-2/16/4.png"))

	b, before := start()
	p, err = place(b, planning.Replace)
	require.NoError(t, err)
	require.NoError(t, b.Apply(p))
	require.Equal(t, "xxxx", b.File(".data/icons/Salt/16/4.png"))
	require.NoFileExists(t, filepath.Join(b.Dir, "home/.data/icons/Salt/16/mine.png"))
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, p).Plan))
	require.Equal(t, before, b.Tree(), "what was replaced comes back, modes, times and links too")

	b, before = start()
	p, err = place(b, planning.Replace)
	require.NoError(t, err)
	c := b.Config()
	c.Commit = func() error { return os.ErrClosed }
	require.ErrorIs(t, apply.Plan(t.Context(), b.D, p, c), os.ErrClosed)
	require.Equal(t, before, b.Tree())

	b, before = start()
	p, err = planning.TakeAway(b.D, at, "my own salt", "icons")
	require.NoError(t, err)
	require.NoError(t, b.Apply(p))
	require.NoDirExists(t, filepath.Join(b.Dir, "home/.data/icons/Salt"))
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, p).Plan))
	require.Equal(t, before, b.Tree())
}

func TestWhatAPackageOwnsIsLeftAlone(t *testing.T) {
	b := plantest.New(t)
	b.Install()
	list := filepath.Join(b.Dir, "system/var/lib/dpkg/info/salt-icons:all.list")
	require.NoError(t, os.MkdirAll(filepath.Dir(list), 0o755))
	require.NoError(t, os.WriteFile(list, []byte("/.\n/usr\n/usr/share/icons/Salt\n"), 0o644))
	require.Equal(t, "salt-icons", b.D.Owner("/usr/share/icons/Salt"))
	require.Empty(t, b.D.Owner("/usr/share/icons/Sal"))
	p, err := parcel.Open(t.Context(), filepath.Join(b.Dir, "Salt.zip"), archive.Options{})
	require.NoError(t, err)
	piece := p.Recognise(t.Context()).Pieces[0]
	_, err = planning.Install(t.Context(), b.D, p, []planning.Placing{{Piece: piece, Target: "/usr/share/icons/Salt", Exists: planning.Replace}})
	require.ErrorIs(t, err, plan.ErrOwned)
	require.ErrorContains(t, err, "salt-icons")
	pl, err := planning.Install(t.Context(), b.D, p, []planning.Placing{{Piece: piece, Target: "/usr/local/share/icons/Salt"}})
	require.NoError(t, err)
	require.True(t, pl.Ops[len(pl.Ops)-1].Admin)
}
