package plan_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/parcel"
	"ivelt/core/plan"
)

func TestUninstallTakesExactlyWhatWasPlaced(t *testing.T) {
	b := newBench(t)
	b.put(".data/icons/Other/index.theme", "[Icon Theme]\nName=Other\n", 0o644)
	done := b.install()
	require.NoError(t, b.apply(done))
	full := b.tree()
	p, err := plan.Uninstall(b.d, done, "/home/me/.data/icons/Salt", "Salt")
	require.NoError(t, err)
	require.Len(t, p.Ops, 2, "the link, then the piece")
	require.Equal(t, plan.State{Kind: "link", Hash: "../.data/icons/Salt"}, p.Ops[0].Before)
	require.NoError(t, b.apply(p))
	require.NoDirExists(t, filepath.Join(b.dir, "home/.data/icons/Salt"))
	_, err = os.Lstat(filepath.Join(b.dir, "home/.icons/Salt"))
	require.ErrorIs(t, err, os.ErrNotExist)
	require.FileExists(t, filepath.Join(b.dir, "home/.data/icons/Other/index.theme"))
	again, err := plan.Uninstall(b.d, done, "/home/me/.data/icons/Salt", "Salt")
	require.NoError(t, err)
	require.Empty(t, again.Ops)

	require.NoError(t, b.apply(b.back(plan.Aim{}, p).Plan))
	restored := b.tree()
	for name := range full {
		require.Contains(t, restored, name)
	}
	b.put(".data/icons/Salt/mine.png", "added by hand", 0o644)
	changed := b.tree()
	p, err = plan.Uninstall(b.d, done, "/home/me/.data/icons/Salt", "Salt")
	require.NoError(t, err)
	require.NoError(t, b.apply(p))
	require.NoDirExists(t, filepath.Join(b.dir, "home/.data/icons/Salt"))
	require.NoError(t, b.apply(b.back(plan.Aim{}, p).Plan))
	require.Equal(t, changed, b.tree(), "what was done to it since is kept")
}

// TestACopyInTheSecondFolder goes with the first when the piece is removed.
func TestACopyInTheSecondFolder(t *testing.T) {
	b := newBench(t)
	b.install()
	start := b.tree()
	p, err := parcel.Open(t.Context(), filepath.Join(b.dir, "Salt.zip"), archive.Options{})
	require.NoError(t, err)
	placing := plan.Placing{Piece: p.Recognise(t.Context()).Pieces[0], Target: "/home/me/.data/icons/Salt", Links: []string{"/home/me/.icons/Salt"}, Second: plan.ByCopy}
	done, err := plan.Install(t.Context(), b.d, p, []plan.Placing{placing})
	require.NoError(t, err)
	require.NoError(t, b.apply(done))
	require.Equal(t, "xxxx", b.file(".icons/Salt/16/4.png"))
	gone, err := plan.Uninstall(b.d, done, placing.Target, "Salt")
	require.NoError(t, err)
	require.NoError(t, b.apply(gone))
	require.NoDirExists(t, filepath.Join(b.dir, "home/.icons/Salt"))
	for _, x := range []plan.Plan{gone, done} {
		require.NoError(t, b.apply(b.back(plan.Aim{}, x).Plan))
	}
	require.Equal(t, start, b.tree())
	placing.Second = plan.None
	only, err := plan.Install(t.Context(), b.d, p, []plan.Placing{placing})
	require.NoError(t, err)
	require.NoError(t, b.apply(only))
	require.NoDirExists(t, filepath.Join(b.dir, "home/.icons/Salt"))
}

func TestRenameChangesTheNameOnly(t *testing.T) {
	b := newBench(t)
	b.put(".local/share/icons/New/index.theme", "# mine\n[Icon Theme]\nName = New\nInherits=hicolor\nDirectories=16\n[16]\nSize=16\n", 0o644)
	p, err := plan.Rename(b.d, "/home/me/.local/share/icons/New", "Icon Theme", "Brand new")
	require.NoError(t, err)
	require.NoError(t, b.apply(p))
	require.Equal(t, "# mine\n[Icon Theme]\nName = Brand new\nInherits=hicolor\nDirectories=16\n[16]\nSize=16\n", b.file(".local/share/icons/New/index.theme"))
	require.NoError(t, b.apply(b.dress("New")), "settings go on naming the folder")
	same, err := plan.Rename(b.d, "/home/me/.local/share/icons/New", "Icon Theme", "Brand new")
	require.NoError(t, err)
	require.Empty(t, same.Ops)
	_, err = plan.Rename(b.d, "/home/me/.local/share/icons/None", "Icon Theme", "X")
	require.Error(t, err)
}

// TestSomethingElseInPlace installs over another pack of the same name in each
// of the ways a person can choose.
func TestSomethingElseInPlace(t *testing.T) {
	const at = "/home/me/.data/icons/Salt"
	place := func(b *bench, exists plan.Exists) (plan.Plan, error) {
		p, err := parcel.Open(t.Context(), filepath.Join(b.dir, "Salt.zip"), archive.Options{})
		require.NoError(t, err)
		return plan.Install(t.Context(), b.d, p, []plan.Placing{{Piece: p.Recognise(t.Context()).Pieces[0], Target: at, Links: []string{"/home/me/.icons/Salt"}, Exists: exists}})
	}
	start := func() (*bench, map[string]string) {
		b := newBench(t)
		b.install()
		b.put(".data/icons/Salt/index.theme", "[Icon Theme]\nName=My own salt\nDirectories=16\n", 0o644)
		b.put(".data/icons/Salt/16/mine.png", "mine", 0o600)
		require.NoError(t, os.Symlink("mine.png", filepath.Join(b.dir, "home/.data/icons/Salt/16/also.png")))
		return b, b.tree()
	}
	b, _ := start()
	_, err := place(b, plan.Refuse)
	require.ErrorIs(t, err, plan.ErrExists)
	p, err := place(b, plan.Leave)
	require.NoError(t, err)
	require.Empty(t, p.Ops)

	b, _ = start()
	p, err = place(b, plan.Both)
	require.NoError(t, err)
	require.NoError(t, b.apply(p))
	require.Equal(t, "mine", b.file(".data/icons/Salt/16/mine.png"))
	require.Equal(t, "xxxx", b.file(".data/icons/Salt-2/16/4.png"))

	b, before := start()
	p, err = place(b, plan.Replace)
	require.NoError(t, err)
	require.NoError(t, b.apply(p))
	require.Equal(t, "xxxx", b.file(".data/icons/Salt/16/4.png"))
	require.NoFileExists(t, filepath.Join(b.dir, "home/.data/icons/Salt/16/mine.png"))
	require.NoError(t, b.apply(b.back(plan.Aim{}, p).Plan))
	require.Equal(t, before, b.tree(), "what was replaced comes back, modes, times and links too")

	b, before = start()
	p, err = place(b, plan.Replace)
	require.NoError(t, err)
	c := b.config()
	c.Commit = func() error { return os.ErrClosed }
	require.ErrorIs(t, plan.Apply(t.Context(), b.d, p, c), os.ErrClosed)
	require.Equal(t, before, b.tree())

	b, before = start()
	p, err = plan.TakeAway(b.d, at, "my own salt", "icons")
	require.NoError(t, err)
	require.NoError(t, b.apply(p))
	require.NoDirExists(t, filepath.Join(b.dir, "home/.data/icons/Salt"))
	require.NoError(t, b.apply(b.back(plan.Aim{}, p).Plan))
	require.Equal(t, before, b.tree())
}

func TestWhatAPackageOwnsIsLeftAlone(t *testing.T) {
	b := newBench(t)
	b.install()
	list := filepath.Join(b.dir, "system/var/lib/dpkg/info/salt-icons:all.list")
	require.NoError(t, os.MkdirAll(filepath.Dir(list), 0o755))
	require.NoError(t, os.WriteFile(list, []byte("/.\n/usr\n/usr/share/icons/Salt\n"), 0o644))
	require.Equal(t, "salt-icons", b.d.Owner("/usr/share/icons/Salt"))
	require.Empty(t, b.d.Owner("/usr/share/icons/Sal"))
	p, err := parcel.Open(t.Context(), filepath.Join(b.dir, "Salt.zip"), archive.Options{})
	require.NoError(t, err)
	piece := p.Recognise(t.Context()).Pieces[0]
	_, err = plan.Install(t.Context(), b.d, p, []plan.Placing{{Piece: piece, Target: "/usr/share/icons/Salt", Exists: plan.Replace}})
	require.ErrorIs(t, err, plan.ErrOwned)
	require.ErrorContains(t, err, "salt-icons")
	pl, err := plan.Install(t.Context(), b.d, p, []plan.Placing{{Piece: piece, Target: "/usr/local/share/icons/Salt"}})
	require.NoError(t, err)
	require.True(t, pl.Ops[len(pl.Ops)-1].Admin)
}
