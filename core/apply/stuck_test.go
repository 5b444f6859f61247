package apply_test

import (
	"encoding/json"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
)

var errAsk = errors.New("nobody answers")

// TestUndecided: writing down that a change came through fails, and whether it did so
// before or after that is not known. Everything is left as it is, until it is.
func TestUndecided(t *testing.T) {
	for _, came := range []bool{true, false} {
		b := plantest.New(t)
		before := b.Tree()
		answer := func(apply.Run) (bool, error) { return came, errAsk }
		run := ""
		c := b.Config()
		c.Run, c.Commit = "this one", func() error { return os.ErrClosed }
		c.Committed = func(r apply.Run) (bool, error) { run = r.ID; return answer(r) }
		err := apply.Plan(t.Context(), b.D, b.Dress("New"), c)
		require.ErrorIs(t, err, apply.ErrUndecided)
		require.ErrorIs(t, err, os.ErrClosed)
		require.Equal(t, "this one", run)
		require.Contains(t, b.File(plantest.GTK3), "= New")
		left := b.Tree()

		_, err = apply.Recover(b.D, c)
		require.ErrorIs(t, err, apply.ErrUndecided)
		require.Equal(t, left, b.Tree(), "an error is no answer")
		require.FileExists(t, b.Journal)
		require.ErrorIs(t, apply.Plan(t.Context(), b.D, b.Dress("New"), c), apply.ErrUnfinished)

		answer = func(apply.Run) (bool, error) { return came, nil }
		found, err := apply.Recover(b.D, c)
		require.NoError(t, err)
		require.Equal(t, !came, found.Undone)
		require.NoFileExists(t, b.Journal)
		if came {
			require.Contains(t, b.File(plantest.GTK3), "= New")
			continue
		}
		require.Equal(t, before, b.Tree())
		answer = func(apply.Run) (bool, error) { return true, nil }
		require.NoError(t, apply.Plan(t.Context(), b.D, b.Dress("New"), c), "it had come through after all")
		require.Contains(t, b.File(plantest.GTK3), "= New")
	}
}

// interrupt leaves a change that is just not written down, as a crash does.
func interrupt(b *plantest.Bench, p plan.Plan) {
	c := b.Config()
	dead := false
	c.Commit = func() error { dead = true; return errDead }
	c.Before = func(apply.Call) error {
		if dead {
			return errDead
		}
		return nil
	}
	require.Error(b.T, apply.Plan(b.T.Context(), b.D, p, c))
	require.FileExists(b.T, b.Journal)
}

// TestADamagedJournal: the run that was begun last is known from elsewhere; if it is
// not, nothing is touched, and the journal can be put aside.
func TestADamagedJournal(t *testing.T) {
	for _, damage := range []string{"", "{", "null", `{"journal":2,"run":"x"}`, "\x00\x00\x00\x00"} {
		b := plantest.New(t)
		before := b.Tree()
		p := b.Dress("New")
		interrupt(b, p)
		require.NotEqual(t, before, b.Tree())
		require.NoError(t, os.WriteFile(b.Journal, []byte(damage), 0o600))
		left := b.Tree()
		c := b.Config()
		_, err := apply.Recover(b.D, c)
		require.ErrorIs(t, err, apply.ErrJournal, "%q", damage)
		require.Equal(t, left, b.Tree())
		over := apply.Leftovers(b.D, p)
		require.NotEmpty(t, over)
		require.FileExists(t, b.D.HostPath(over[0].At))
		require.True(t, over[0].Original)
		require.Equal(t, "/home/me/"+plantest.GTK3, over[0].For)

		c.Spare = func() (apply.Run, error) { return apply.Run{ID: "x", Plan: p}, nil }
		_, err = apply.Recover(b.D, c)
		require.NoError(t, err)
		require.Equal(t, before, b.Tree())

		interrupt(b, b.Dress("New"))
		require.NoError(t, os.WriteFile(b.Journal, []byte(damage), 0o600))
		aside, err := apply.SetAside(b.D, b.Journal)
		require.NoError(t, err)
		require.FileExists(t, aside)
		_, err = apply.Recover(b.D, b.Config())
		require.NoError(t, err)
	}
}

// TestAJournalOfAnEarlierVersion is the plan alone.
func TestAJournalOfAnEarlierVersion(t *testing.T) {
	b := plantest.New(t)
	before := b.Tree()
	p := b.Dress("New")
	interrupt(b, p)
	r, err := apply.ReadJournal(b.Journal)
	require.NoError(t, err)
	require.NotEmpty(t, r.ID)
	require.Equal(t, p.ID, r.Plan.ID)
	require.NoError(t, os.WriteFile(b.Journal, jsonOf(t, p), 0o600))
	c := b.Config()
	c.Committed = func(r apply.Run) (bool, error) {
		require.Empty(t, r.ID)
		require.Equal(t, p.ID, r.Plan.ID)
		return false, nil
	}
	_, err = apply.Recover(b.D, c)
	require.NoError(t, err)
	require.Equal(t, before, b.Tree())
	require.NoError(t, os.WriteFile(b.Journal, []byte(`{"journal":3}`), 0o600))
	_, err = apply.Recover(b.D, c)
	require.ErrorContains(t, err, "newer Ivelt")
}

// TestAFolderThatTurnedReadOnly: what was never made there need not be taken away,
// and in a folder that is for adding to only nothing is begun.
func TestAFolderThatTurnedReadOnly(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("mounting a file system needs an administrator")
	}
	b := plantest.New(t)
	config := filepath.Join(b.Dir, "home/.config/gtk-4.0")
	require.NoError(t, os.Mkdir(config, 0o755))
	if err := unix.Mount("tmpfs", config, "tmpfs", 0, "size=64k"); err != nil {
		t.Skip("no file system can be mounted here: ", err)
	}
	t.Cleanup(func() { _ = unix.Unmount(config, 0) })
	before := b.Tree()
	p := b.Dress("New")
	require.NoError(t, unix.Mount("", config, "", unix.MS_REMOUNT|unix.MS_RDONLY, ""))
	err := b.Apply(p)
	require.ErrorIs(t, err, plan.ErrWrite)
	require.NotContains(t, err.Error(), "rolling back failed")
	require.Equal(t, before, b.Tree())
	require.NoFileExists(t, b.Journal)
	require.NoError(t, unix.Unmount(config, 0))

	add := filepath.Join(b.Dir, "home/.config/gtk-3.0")
	for _, flag := range []string{"a", "i"} {
		before = b.Tree()
		if out, err := exec.Command("chattr", "+"+flag, add).CombinedOutput(); err != nil {
			t.Skip("no such attributes on this file system: ", string(out))
		}
		err = b.Apply(b.Dress("New"))
		require.NoError(t, exec.Command("chattr", "-"+flag, add).Run())
		require.ErrorIs(t, err, plan.ErrWrite)
		require.ErrorContains(t, err, "chattr -"+flag)
		require.Equal(t, before, b.Tree())
		require.NoFileExists(t, b.Journal)
	}
}

func jsonOf(t *testing.T, v any) []byte {
	t.Helper()
	text, err := json.Marshal(v)
	require.NoError(t, err)
	return text
}

// TestASettingWithoutItsSchema is told so: there is nothing to set, least of all a file.
func TestASettingWithoutItsSchema(t *testing.T) {
	b := plantest.New(t)
	b.D.SetSurfaces(slices.DeleteFunc(desk.Builtin(), func(s desk.Surface) bool { return s.ID != "settings" }))
	p, err := planning.Dress(t.Context(), b.D, outfit.Outfit{Name: "Dark"}.With(desk.FacetDark, "dark"))
	require.NoError(t, err)
	require.Empty(t, p.Ops)
	require.Len(t, p.Blocked, 1)
	require.Contains(t, p.Blocked[0].Why, "no schema of that name is installed")
}
