package plan_test

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

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
)

var errAsk = errors.New("nobody answers")

// TestUndecided: writing down that a change came through fails, and whether it did so
// before or after that is not known. Everything is left as it is, until it is.
func TestUndecided(t *testing.T) {
	for _, came := range []bool{true, false} {
		b := newBench(t)
		before := b.tree()
		answer := func(plan.Run) (bool, error) { return came, errAsk }
		run := ""
		c := b.config()
		c.Run, c.Commit = "this one", func() error { return os.ErrClosed }
		c.Committed = func(r plan.Run) (bool, error) { run = r.ID; return answer(r) }
		err := plan.Apply(t.Context(), b.d, b.dress("New"), c)
		require.ErrorIs(t, err, plan.ErrUndecided)
		require.ErrorIs(t, err, os.ErrClosed)
		require.Equal(t, "this one", run)
		require.Contains(t, b.file(gtk3), "= New")
		left := b.tree()

		_, err = plan.Recover(b.d, c)
		require.ErrorIs(t, err, plan.ErrUndecided)
		require.Equal(t, left, b.tree(), "an error is no answer")
		require.FileExists(t, b.journal)
		require.ErrorIs(t, plan.Apply(t.Context(), b.d, b.dress("New"), c), plan.ErrUnfinished)

		answer = func(plan.Run) (bool, error) { return came, nil }
		found, err := plan.Recover(b.d, c)
		require.NoError(t, err)
		require.Equal(t, !came, found.Undone)
		require.NoFileExists(t, b.journal)
		if came {
			require.Contains(t, b.file(gtk3), "= New")
			continue
		}
		require.Equal(t, before, b.tree())
		answer = func(plan.Run) (bool, error) { return true, nil }
		require.NoError(t, plan.Apply(t.Context(), b.d, b.dress("New"), c), "it had come through after all")
		require.Contains(t, b.file(gtk3), "= New")
	}
}

// interrupt leaves a change that is just not written down, as a crash does.
func interrupt(b *bench, p plan.Plan) {
	c := b.config()
	dead := false
	c.Commit = func() error { dead = true; return errDead }
	c.Before = func(plan.Call) error {
		if dead {
			return errDead
		}
		return nil
	}
	require.Error(b.t, plan.Apply(b.t.Context(), b.d, p, c))
	require.FileExists(b.t, b.journal)
}

// TestADamagedJournal: the run that was begun last is known from elsewhere; if it is
// not, nothing is touched, and the journal can be put aside.
func TestADamagedJournal(t *testing.T) {
	for _, damage := range []string{"", "{", "null", `{"journal":2,"run":"x"}`, "\x00\x00\x00\x00"} {
		b := newBench(t)
		before := b.tree()
		p := b.dress("New")
		interrupt(b, p)
		require.NotEqual(t, before, b.tree())
		require.NoError(t, os.WriteFile(b.journal, []byte(damage), 0o600))
		left := b.tree()
		c := b.config()
		_, err := plan.Recover(b.d, c)
		require.ErrorIs(t, err, plan.ErrJournal, "%q", damage)
		require.Equal(t, left, b.tree())
		over := plan.Leftovers(b.d, p)
		require.NotEmpty(t, over)
		require.FileExists(t, b.d.HostPath(over[0].At))
		require.True(t, over[0].Original)
		require.Equal(t, "/home/me/"+gtk3, over[0].For)

		c.Spare = func() (plan.Run, error) { return plan.Run{ID: "x", Plan: p}, nil }
		_, err = plan.Recover(b.d, c)
		require.NoError(t, err)
		require.Equal(t, before, b.tree())

		interrupt(b, b.dress("New"))
		require.NoError(t, os.WriteFile(b.journal, []byte(damage), 0o600))
		aside, err := plan.SetAside(b.d, b.journal)
		require.NoError(t, err)
		require.FileExists(t, aside)
		_, err = plan.Recover(b.d, b.config())
		require.NoError(t, err)
	}
}

// TestAJournalOfAnEarlierVersion is the plan alone.
func TestAJournalOfAnEarlierVersion(t *testing.T) {
	b := newBench(t)
	before := b.tree()
	p := b.dress("New")
	interrupt(b, p)
	r, err := plan.ReadJournal(b.journal)
	require.NoError(t, err)
	require.NotEmpty(t, r.ID)
	require.Equal(t, p.ID, r.Plan.ID)
	require.NoError(t, os.WriteFile(b.journal, jsonOf(t, p), 0o600))
	c := b.config()
	c.Committed = func(r plan.Run) (bool, error) {
		require.Empty(t, r.ID)
		require.Equal(t, p.ID, r.Plan.ID)
		return false, nil
	}
	_, err = plan.Recover(b.d, c)
	require.NoError(t, err)
	require.Equal(t, before, b.tree())
	require.NoError(t, os.WriteFile(b.journal, []byte(`{"journal":3}`), 0o600))
	_, err = plan.Recover(b.d, c)
	require.ErrorContains(t, err, "newer Ivelt")
}

// TestAFolderThatTurnedReadOnly: what was never made there need not be taken away,
// and in a folder that is for adding to only nothing is begun.
func TestAFolderThatTurnedReadOnly(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("mounting a file system needs an administrator")
	}
	b := newBench(t)
	config := filepath.Join(b.dir, "home/.config/gtk-4.0")
	require.NoError(t, os.Mkdir(config, 0o755))
	if err := unix.Mount("tmpfs", config, "tmpfs", 0, "size=64k"); err != nil {
		t.Skip("no file system can be mounted here: ", err)
	}
	t.Cleanup(func() { _ = unix.Unmount(config, 0) })
	before := b.tree()
	p := b.dress("New")
	require.NoError(t, unix.Mount("", config, "", unix.MS_REMOUNT|unix.MS_RDONLY, ""))
	err := b.apply(p)
	require.ErrorIs(t, err, plan.ErrWrite)
	require.NotContains(t, err.Error(), "rolling back failed")
	require.Equal(t, before, b.tree())
	require.NoFileExists(t, b.journal)
	require.NoError(t, unix.Unmount(config, 0))

	add := filepath.Join(b.dir, "home/.config/gtk-3.0")
	for _, flag := range []string{"a", "i"} {
		before = b.tree()
		if out, err := exec.Command("chattr", "+"+flag, add).CombinedOutput(); err != nil {
			t.Skip("no such attributes on this file system: ", string(out))
		}
		err = b.apply(b.dress("New"))
		require.NoError(t, exec.Command("chattr", "-"+flag, add).Run())
		require.ErrorIs(t, err, plan.ErrWrite)
		require.ErrorContains(t, err, "chattr -"+flag)
		require.Equal(t, before, b.tree())
		require.NoFileExists(t, b.journal)
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
	b := newBench(t)
	b.d.Surfaces = slices.DeleteFunc(desk.Builtin(), func(s desk.Surface) bool { return s.ID != "settings" })
	p, err := plan.Dress(b.d, outfit.Outfit{Name: "Dark"}.With(desk.FacetDark, "dark"))
	require.NoError(t, err)
	require.Empty(t, p.Ops)
	require.Len(t, p.Blocked, 1)
	require.Contains(t, p.Blocked[0].Why, "no schema of that name is installed")
}
