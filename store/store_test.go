package store_test

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/store"
)

func TestWhatIsCommittedIsThereAfterARestart(t *testing.T) {
	dir := t.TempDir()
	s, err := store.Open(t.Context(), dir)
	require.NoError(t, err)
	a := &store.Applied{
		Checkpoint: store.CheckpointRow{Desk: "d", PlanID: "p1", Title: "Install Salt", At: time.Now(), Changes: 2, Run: "r1"},
		Plan:       store.PlanRow{ID: "p1", Desk: "d", JSON: []byte(`{"id":"p1"}`)},
		Placed:     []store.PieceRow{{Desk: "d", Name: "Salt", Path: "/p/Salt"}, {Desk: "d", Name: "Sand", Path: "/p/Sand"}},
		Worn:       &store.OutfitRow{Desk: "d", Name: "Salty", Text: []byte("format = 1\n"), PlanID: "p1", Changed: time.Now()},
	}
	require.NoError(t, s.Commit(a))
	require.NoError(t, s.Close())

	s, err = store.Open(t.Context(), dir)
	require.NoError(t, err)
	defer s.Close()
	for _, c := range []struct {
		desk, run string
		came      bool
	}{{"d", "r1", true}, {"d", "r2", false}, {"other", "r1", false}} {
		came, err := s.Committed(c.desk, c.run)
		require.NoError(t, err)
		require.Equal(t, c.came, came)
	}
	pieces, err := s.Pieces("d")
	require.NoError(t, err)
	require.Len(t, pieces, 2)
	worn, err := s.Worn("d")
	require.NoError(t, err)
	require.Equal(t, "Salty", worn[0].Name)
	_, err = s.Draft("d")
	require.ErrorIs(t, err, store.ErrNone)

	past, err := s.Checkpoints("d")
	require.NoError(t, err)
	require.Len(t, past, 1)
	require.NoError(t, s.Commit(&store.Applied{
		Checkpoint: store.CheckpointRow{Desk: "d", PlanID: "p2", IsBack: true, At: time.Now()},
		Plan:       store.PlanRow{ID: "p2", Desk: "d"}, Removed: []string{"/p/Salt"}, GoneOn: []uint{past[0].ID},
	}))
	pieces, err = s.Pieces("d")
	require.NoError(t, err)
	require.Equal(t, "Sand", pieces[0].Name)
	worn, err = s.Worn("d")
	require.NoError(t, err)
	require.Empty(t, worn)
	past, err = s.Checkpoints("d")
	require.NoError(t, err)
	require.Equal(t, []string{"p2", "p1"}, []string{past[0].PlanID, past[1].PlanID}, "newest first")
	require.NotNil(t, past[1].GoneOn)
	require.NoError(t, s.Commit(&store.Applied{
		Checkpoint: store.CheckpointRow{Desk: "d", PlanID: "p3", IsBack: true, At: time.Now()},
		Plan:       store.PlanRow{ID: "p3", Desk: "d"}, GoneOn: []uint{past[0].ID}, Try: time.Minute,
	}))
	worn, err = s.Worn("d")
	require.NoError(t, err)
	require.Len(t, worn, 1, "who goes back on going back wears it again")

	trial, err := s.Trial("d")
	require.NoError(t, err)
	over := &store.Applied{Checkpoint: store.CheckpointRow{Desk: "d", PlanID: "p4", At: time.Now()}, Plan: store.PlanRow{ID: "p4", Desk: "d"}, TrialOf: trial.Checkpoint}
	require.NoError(t, s.Commit(over))
	require.ErrorIs(t, s.Commit(over), store.ErrNone, "a trial ends once")
	require.ErrorIs(t, s.KeepTrial("d", trial.Checkpoint), store.ErrNone)
	past, err = s.Checkpoints("d")
	require.NoError(t, err)
	require.Len(t, past, 4, "what fails leaves nothing")
}

func TestADraftIsOneForEachDesk(t *testing.T) {
	s, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	defer s.Close()
	for _, desk := range []string{"a", "b"} {
		require.NoError(t, s.SaveOutfit(&store.OutfitRow{Desk: desk, Draft: true, Name: desk}))
	}
	row, err := s.Draft("a")
	require.NoError(t, err)
	row.Name = "changed"
	require.NoError(t, s.SaveOutfit(&row))
	require.NoError(t, s.DropDraft("b"))
	row, err = s.Draft("a")
	require.NoError(t, err)
	require.Equal(t, "changed", row.Name)
	_, err = s.Draft("b")
	require.ErrorIs(t, err, store.ErrNone)
}

func TestBlobs(t *testing.T) {
	b := store.Blobs{Dir: t.TempDir()}
	hash, err := b.Put([]byte("abc"))
	require.NoError(t, err)
	// FIPS 180-2, appendix B.1: the hash of "abc".
	require.Equal(t, "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad", hash)
	again, err := b.Put([]byte("abc"))
	require.NoError(t, err)
	require.Equal(t, hash, again)
	text, err := b.Get(hash)
	require.NoError(t, err)
	require.Equal(t, "abc", string(text))
	for _, bad := range []string{strings.Repeat("0", 64), "../x", ""} {
		_, err = b.Get(bad)
		require.ErrorIs(t, err, store.ErrNone)
	}
}

func TestADataFolderThatCannotBeMade(t *testing.T) {
	file := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(file, nil, 0o644))
	_, err := store.Open(t.Context(), filepath.Join(file, "data"))
	require.ErrorContains(t, err, "the data folder")
	var pe *os.PathError
	require.True(t, errors.As(err, &pe))
}
