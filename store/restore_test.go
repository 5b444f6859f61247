package store_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/store"
)

func commit(t *testing.T, s *store.Store, n int, a store.Applied) uint {
	t.Helper()
	id := fmt.Sprint("p", n)
	a.Checkpoint.Desk, a.Checkpoint.PlanID, a.Checkpoint.Title, a.Checkpoint.Run = "d", id, "Change "+fmt.Sprint(n), fmt.Sprint("run", n)
	a.Plan = store.PlanRow{ID: id, Desk: "d", JSON: fmt.Appendf(nil, `{"id":%q}`, id)}
	require.NoError(t, s.Commit(&a))
	return a.Checkpoint.ID
}

// damage are the ways in which a database is damaged.
var damage = map[string]func(t *testing.T, file string){
	"cut to half": func(t *testing.T, file string) {
		fi, err := os.Stat(file)
		require.NoError(t, err)
		require.NoError(t, os.Truncate(file, fi.Size()/2))
	},
	"emptied": func(t *testing.T, file string) { require.NoError(t, os.Truncate(file, 0)) },
	"gone":    func(t *testing.T, file string) { require.NoError(t, os.Remove(file)) },
	"something else": func(t *testing.T, file string) {
		require.NoError(t, os.WriteFile(file, []byte("not a database at all, by any means"), 0o644))
	},
	"overwritten here and there": func(t *testing.T, file string) {
		b, err := os.ReadFile(file)
		require.NoError(t, err)
		r := rand.New(rand.NewPCG(1, 2))
		for range len(b) / 8 {
			b[100+r.IntN(len(b)-100)] = byte(r.Uint32())
		}
		require.NoError(t, os.WriteFile(file, b, 0o644))
	},
}

// TestADamagedDatabaseIsBroughtBack: from its newest copy, and the history from its
// own files, also those that came after the copy, and where there is none.
func TestADamagedDatabaseIsBroughtBack(t *testing.T) {
	for _, how := range []string{"cut to half", "emptied", "gone", "something else", "overwritten here and there"} {
		for _, copied := range []bool{true, false} {
			dir := t.TempDir()
			s, err := store.Open(t.Context(), dir)
			require.NoError(t, err)
			first := commit(t, s, 1, store.Applied{Placed: []store.PieceRow{{Desk: "d", Name: "Salt", Path: "/p/Salt"}, {Desk: "d", Name: "Sand", Path: "/p/Sand"}}})
			if copied {
				require.NoError(t, s.CopyDaily(context.Background(), time.Now()))
				require.NoError(t, s.CopyDaily(context.Background(), time.Now()), "one a day")
			}
			commit(t, s, 2, store.Applied{Worn: &store.OutfitRow{Desk: "d", Name: "Salty", Text: []byte("x")}})
			commit(t, s, 3, store.Applied{Removed: []string{"/p/Salt"}, GoneOn: []uint{first}})
			require.NoError(t, s.PinCheckpoint(2, true))
			want, err := s.Checkpoints("d")
			require.NoError(t, err)
			require.NoError(t, s.Close())

			db := filepath.Join(dir, "ivelt.db")
			damage[how](t, db)
			r, err := store.Check(dir)
			require.NoError(t, err)
			require.NotEmpty(t, r.Database, how)
			if how != "emptied" && how != "gone" { // these cannot be told from a new one
				s, err = store.Open(t.Context(), dir)
				if err == nil { // it may open, and only then meet what is damaged
					_, err = s.Checkpoints("d")
					if err == nil {
						_, err = s.Plan("p1")
					}
					require.NoError(t, s.Close())
				}
				if how != "overwritten here and there" {
					require.ErrorIs(t, err, store.ErrDamaged, how)
					require.ErrorContains(t, err, "ivelt store restore --data "+dir)
				}
			}
			back, err := store.Restore(t.Context(), dir, false)
			require.NoError(t, err, how)
			require.Equal(t, copied, back.From != nil, how)
			if how != "gone" {
				require.FileExists(t, back.Aside, how)
			}
			s, err = store.Open(t.Context(), dir)
			require.NoError(t, err)
			got, err := s.Checkpoints("d")
			require.NoError(t, err)
			require.Len(t, got, 3, how)
			for i := range want {
				require.Equal(t, want[i].Run, got[i].Run, how)
				require.Equal(t, want[i].GoneBy, got[i].GoneBy, how)
				require.Equal(t, want[i].Pinned, got[i].Pinned, how)
				_, err = s.Plan(want[i].PlanID)
				require.NoError(t, err)
			}
			worn, err := s.Worn("d")
			require.NoError(t, err)
			require.Equal(t, "Salty", worn[0].Name)
			pieces, err := s.Pieces("d")
			require.NoError(t, err)
			require.Len(t, pieces, 1)
			require.Equal(t, "Sand", pieces[0].Name)
			require.NoError(t, s.Close())
			_, err = store.Restore(t.Context(), dir, false)
			require.ErrorIs(t, err, store.ErrWhole)
		}
	}
}

// TestAStoreInUseIsNotRestored: it would go on writing to the old one.
func TestAStoreInUseIsNotRestored(t *testing.T) {
	dir := t.TempDir()
	s, err := store.Open(t.Context(), dir)
	require.NoError(t, err)
	second, err := store.Open(t.Context(), dir)
	require.NoError(t, err, "two may use it")
	require.NoError(t, second.Close())
	_, err = store.Restore(t.Context(), dir, true)
	require.ErrorIs(t, err, store.ErrLocked)
	require.NoError(t, s.Close())
}

// TestAStoreThatCannotBeWritten says where, and what to do.
func TestAStoreThatCannotBeWritten(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("mounting a file system needs an administrator")
	}
	dir := t.TempDir()
	if err := unix.Mount("tmpfs", dir, "tmpfs", 0, "size=600k"); err != nil {
		t.Skip("no file system can be mounted here: ", err)
	}
	t.Cleanup(func() { _ = unix.Unmount(dir, unix.MNT_DETACH) })
	s, err := store.Open(t.Context(), dir)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "filler"), nil, 0o644))
	for { // until the disk is full
		f, err := os.OpenFile(filepath.Join(dir, "filler"), os.O_APPEND|os.O_WRONLY, 0)
		require.NoError(t, err)
		_, err = f.Write(make([]byte, 4096))
		require.NoError(t, f.Close())
		if err != nil {
			require.ErrorIs(t, err, syscall.ENOSPC)
			break
		}
	}
	err = s.SavePlan(store.PlanRow{ID: "p", Desk: "d", JSON: make([]byte, 200<<10)})
	require.ErrorIs(t, err, store.ErrFull)
	require.ErrorContains(t, err, filepath.Join(dir, "ivelt.db"))
	_, err = s.Blobs.Put(make([]byte, 100<<10))
	require.ErrorIs(t, err, syscall.ENOSPC)
	require.NoError(t, os.Remove(filepath.Join(dir, "filler")))
	require.NoError(t, s.SavePlan(store.PlanRow{ID: "p", Desk: "d", JSON: []byte("{}")}), "with room it goes on")
	require.NoError(t, s.Close())

	require.NoError(t, unix.Mount("", dir, "", unix.MS_REMOUNT|unix.MS_RDONLY, ""))
	_, err = store.Open(t.Context(), dir)
	require.ErrorIs(t, err, store.ErrReadOnly)
	require.ErrorContains(t, err, dir)
}

// TestWhatIsKeptAndDamagedIsNotGivenBack, and is mended when it is met again.
func TestWhatIsKeptAndDamagedIsNotGivenBack(t *testing.T) {
	b := store.Blobs{Dir: t.TempDir()}
	text := []byte("the only copy of it")
	hash, err := b.Put(text)
	require.NoError(t, err)
	file := filepath.Join(b.Dir, hash[:2], hash)
	require.NoError(t, os.Truncate(file, int64(len(text)/2)))
	_, err = b.Get(hash)
	require.ErrorIs(t, err, store.ErrDamaged)
	whole, damaged, err := b.Check()
	require.NoError(t, err)
	require.Zero(t, whole)
	require.Equal(t, []string{file}, damaged)
	_, err = b.Put(text)
	require.NoError(t, err)
	got, err := b.Get(hash)
	require.NoError(t, err)
	require.Equal(t, text, got)

	release, err := b.Hold()
	require.NoError(t, err)
	none := func() (map[string]bool, error) { return nil, nil }
	require.NoError(t, b.Sweep(none))
	_, err = b.Get(hash)
	require.NoError(t, err, "nothing is swept while somebody puts something there")
	release()
	require.ErrorIs(t, b.Sweep(func() (map[string]bool, error) { return nil, os.ErrClosed }), os.ErrClosed)
	_, err = b.Get(hash)
	require.NoError(t, err, "nor if it is not known what is needed")
	require.NoError(t, b.Sweep(none))
	_, err = b.Get(hash)
	require.ErrorIs(t, err, store.ErrNone)
}
