package app_test

import (
	"flag"
	"fmt"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/store"
)

var (
	sequences = flag.Int("sequences", 12, "how many random histories are lived through")
	seeded    = flag.Uint64("seed", 0, "where they start from; 0: by the clock")
)

// do does one thing on a desk and returns what came of it.
func (w *lived) do() (what string, err error) {
	l := w.l
	rows, e := l.a.Record.Entries(w.id)
	require.NoError(l.t, e)
	switch n := l.r.IntN(100); {
	case n < 12:
		sha := l.shas[l.r.IntN(len(l.shas))]
		row, err := l.a.Library.Parcel(sha)
		require.NoError(l.t, err)
		contents, err := library.Contents(row)
		require.NoError(l.t, err)
		how := library.How{Scope: place.Mine, Exists: []planning.Exists{planning.Refuse, planning.Leave, planning.Replace, planning.Both}[l.r.IntN(4)]}
		if how.Exists == planning.Replace {
			w.mayGo[".local/share/icons/"+contents.Pieces[0].Folder] = true
		}
		return fmt.Sprint("install ", row.Name, " ", how.Exists), apptest.Wait(l.a.Pieces.Install(w.Managed, sha, []string{library.PieceKey(contents.Pieces[0])}, how, ""))
	case n < 16:
		pieces, err := l.a.Record.Pieces(w.id)
		require.NoError(l.t, err)
		if len(pieces) == 0 {
			return "nothing to remove", nil
		}
		p := pieces[l.r.IntN(len(pieces))]
		w.mayGo[strings.TrimPrefix(p.Path, "/home/me/")] = true
		return "remove " + p.Path, apptest.Wait(l.a.Pieces.Remove(w.Managed, p.Path, library.How{Lose: true}, ""))
	case n < 38:
		try := time.Duration(0)
		if l.r.IntN(4) == 0 {
			try = time.Hour
		}
		o := l.look()
		_, j, err := l.a.Changes.Dress(l.t.Context(), w.Managed, o, try, planning.Options{})
		return fmt.Sprint("wear ", o.Choices, " try ", try), apptest.Wait(j, err)
	case n < 46:
		return w.twoTabs()
	case n < 54:
		return w.twoProcesses()
	case n < 80 && len(rows) > 0:
		return w.back(rows)
	case n < 84:
		if l.r.IntN(2) == 0 {
			return "keep", l.a.Trials.Keep(w.Managed, 0)
		}
		return "end the trial", apptest.Wait(l.a.Trials.End(w.Managed, 0, ""))
	case n < 88:
		s, err := store.Open(l.t.Context(), l.a.Dir)
		require.NoError(l.t, err)
		if t, err := s.Trial(w.id); err == nil {
			t.Until = time.Now().Add(l.clock - time.Second)
			require.NoError(l.t, s.SaveTrial(t))
		}
		require.NoError(l.t, s.Close())
		l.again(nil)
		return "start again, later", nil
	case n < 92 && len(rows) > 1:
		c := rows[l.r.IntN(len(rows))]
		if l.r.IntN(2) == 0 {
			return fmt.Sprint("pin ", c.ID), l.a.History.Pin(w.Managed, c.ID, !c.Pinned)
		}
		// What is let go was the person's to let go.
		if err := l.a.History.Purge(w.Managed, c.ID); err != nil {
			return "let go", err
		}
		w.forget()
		return fmt.Sprint("let go ", c.ID), nil
	}
	return l.mishap(w)
}

// look is a random outfit.
func (l *life) look() outfit.Outfit {
	o := outfit.Outfit{Name: fmt.Sprint("look ", len(l.log))}
	for _, f := range []struct {
		facet  string
		values []string
	}{
		{desk.FacetIcons, []string{"One", "Two", "Own"}}, {desk.FacetPointerSize, []string{"24", "32", "48"}}, {desk.FacetFont, []string{"Sans 9", "Serif 12"}},
		{desk.FacetDark, []string{"light", "dark"}}, {desk.FacetAccent, []string{"#112233", "#c0ffee"}},
	} {
		if l.r.IntN(2) == 0 {
			o = o.With(f.facet, f.values[l.r.IntN(len(f.values))])
		}
	}
	return o
}

func (w *lived) back(rows []store.CheckpointRow) (string, error) {
	l := w.l
	way := changes.Way{Checkpoint: rows[l.r.IntN(min(len(rows), 8))].ID, Since: l.r.IntN(2) == 0, Aim: planning.Aim{Takes: map[string]planning.Take{}, Lines: map[string][]int{}}}
	switch l.r.IntN(4) {
	case 0:
		way.Surface = w.Surfaces()[l.r.IntN(len(w.Surfaces()))].ID
	case 1:
		way.Facet = desk.Facets[l.r.IntN(len(desk.Facets))].Name
	}
	rv, err := l.a.Back.Review(w.Managed, way, nil)
	if err != nil {
		return fmt.Sprintf("back %+v", way), err
	}
	for _, c := range rv.Conflicts {
		if c.Between {
			l.did["edited between"]++
		}
		if c.Lost != "" {
			l.did["kept but damaged"]++
		}
		taken := c.Taken
		switch l.r.IntN(3) {
		case 0:
			taken = c.Takes[l.r.IntN(len(c.Takes))]
			way.Takes[c.Path] = taken
		case 1:
			for _, clash := range c.Clashes {
				l.did["older line taken"]++
				way.Lines[c.Path] = append(way.Lines[c.Path], clash.Number)
				w.mayGo[strings.TrimPrefix(c.Path, "/home/me/")] = true
			}
		}
		if taken == planning.TakeBefore {
			w.mayGo[strings.TrimPrefix(c.Path, "/home/me/")] = true
		}
	}
	return fmt.Sprintf("back %+v", way), apptest.Wait(l.a.Back.Start(w.Managed, way, "", ""))
}

// twoTabs reviews a look in one tab, composes another in a second, and applies the
// first: that is what is worn.
func (w *lived) twoTabs() (string, error) {
	a, l := w.l.a, w.l
	choose := func(o outfit.Outfit) error {
		for _, f := range o.Facets() {
			if _, err := a.Drafts.Choose(w.Managed, f, o.Want(f)); err != nil {
				return err
			}
		}
		return nil
	}
	if err := choose(l.look()); err != nil {
		return "tabs", err
	}
	first, err := a.Drafts.Draft(w.Managed)
	require.NoError(l.t, err)
	rv, err := a.Review.Draft(l.t.Context(), w.Managed, nil, planning.Options{})
	if err != nil {
		return "tabs", err
	}
	if err := choose(l.look()); err != nil {
		return "tabs", err
	}
	second, err := a.Drafts.Draft(w.Managed)
	require.NoError(l.t, err)
	what := fmt.Sprint("tabs ", first.Choices, " and ", second.Choices)
	if err := apptest.Wait(a.Changes.Apply(w.Managed, rv.Plan.ID, changes.How{})); err != nil {
		return what, err
	}
	worn, err := a.Drafts.Worn(w.Managed)
	require.NoError(l.t, err)
	left, err := a.Drafts.Draft(w.Managed)
	require.NoError(l.t, err)
	for _, f := range first.Facets() {
		require.Equal(l.t, first.Want(f), worn.Want(f), l.story())
	}
	for _, f := range second.Facets() {
		if second.Want(f) != first.Want(f) {
			require.Equal(l.t, second.Want(f), left.Want(f), l.story())
		}
	}
	return what, nil
}

// twoProcesses lets two Ivelts change the same desk at once.
func (w *lived) twoProcesses() (string, error) {
	l := w.l
	if l.dies > 0 {
		return "processes, but not now", nil // whose calls are counted would be chance
	}
	other, err := l.ivelt()
	require.NoError(l.t, err)
	theirs, err := other.Desk(w.id)
	require.NoError(l.t, err)
	one, two := l.look(), l.look()
	second := make(chan error, 1)
	go func() {
		_, j, err := other.Changes.Dress(l.t.Context(), theirs, two, 0, planning.Options{})
		second <- apptest.Wait(j, err)
	}()
	_, j, err := l.a.Changes.Dress(l.t.Context(), w.Managed, one, 0, planning.Options{})
	err = apptest.Wait(j, err)
	if e := <-second; e != nil {
		require.True(l.t, expected(e), "%v\n%s", e, l.story())
		l.did["second process was refused"]++
	}
	require.NoError(l.t, other.Close())
	if err != nil {
		require.True(l.t, expected(err), "%v\n%s", err, l.story())
	}
	return fmt.Sprint("processes ", one.Choices, " and ", two.Choices), nil
}

// mishap is something that befalls a computer.
func (l *life) mishap(w *lived) (string, error) {
	if l.dies > 0 {
		return "mishap, but not now", nil
	}
	switch l.r.IntN(5) {
	case 0:
		l.again(func() {
			l.clock = time.Duration(l.r.IntN(20*365)-10*365) * 24 * time.Hour
			time.Local = time.FixedZone("somewhere", (l.r.IntN(27)-12)*3600)
		})
		return fmt.Sprint("clock turned by ", l.clock, ", zone ", time.Local), nil
	case 1:
		return l.damageBlob(), nil
	case 2:
		l.again(func() {
			db := filepath.Join(l.dir, "data", "ivelt.db")
			fi, err := os.Stat(db)
			require.NoError(l.t, err)
			if l.r.IntN(2) == 0 {
				require.NoError(l.t, os.Truncate(db, fi.Size()/2))
			} else {
				require.NoError(l.t, os.WriteFile(db, []byte(damagedBytes+" beyond all help"), 0o644))
			}
			_, err = store.Open(l.t.Context(), filepath.Join(l.dir, "data"))
			require.ErrorIs(l.t, err, store.ErrDamaged, l.story())
			_, err = store.Restore(l.t.Context(), filepath.Join(l.dir, "data"), false)
			require.NoError(l.t, err, l.story())
		})
		for i, name := range []string{"One", "Two"} {
			if _, err := l.a.Library.Parcel(l.shas[i]); err != nil {
				l.shas[i] = l.pack(name) // there was no copy: it is taken into the library again
			}
		}
		return "database damaged", nil
	case 3:
		if slices.ContainsFunc(l.desks, func(w *lived) bool { return w.away }) {
			break
		}
		away := w.home("") + ".away"
		l.again(func() {
			require.NoError(l.t, os.Rename(w.home(""), away))
			w.away = true
		})
		return "unplugged " + w.id, nil
	}
	for _, w := range l.desks {
		if w.away {
			l.again(func() {
				require.NoError(l.t, os.Rename(w.home("")+".away", w.home("")))
				w.away = false
			})
			return "plugged in " + w.id, nil
		}
	}
	return "no mishap", nil
}

// damageBlob damages something that is kept.
func (l *life) damageBlob() string {
	var files []string
	require.NoError(l.t, filepath.WalkDir(filepath.Join(l.dir, "data/blobs"), func(p string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() && len(e.Name()) == 64 {
			files = append(files, p)
		}
		return err
	}))
	if len(files) == 0 {
		return "nothing kept to damage"
	}
	file := files[l.r.IntN(len(files))]
	b, err := os.ReadFile(file)
	require.NoError(l.t, err)
	for _, w := range l.desks {
		for _, words := range w.wrote {
			for _, word := range words {
				if strings.Contains(string(b), word) {
					w.lost[word] = true
				}
			}
		}
	}
	require.NoError(l.t, os.WriteFile(file, []byte(damagedBytes+string(b[len(b)/2:])), 0o600))
	return "blob damaged: " + filepath.Base(file)[:12]
}

// TestRandomLives lives through random histories of two desks in one store: of
// installing, wearing, trying, going back wholly and in part, from two tabs and in two
// processes, with an edit by hand between every two changes, and with crashes, panics,
// turned clocks, damage to what is kept, and desks that are unplugged. After each step
// the homes are as the history and the person's own edits explain, and each word that
// the person wrote is where they wrote it.
func TestRandomLives(t *testing.T) {
	start := *seeded
	if start == 0 {
		start = uint64(time.Now().UnixNano())
	}
	t.Logf("seed %d; -args -seed %d -sequences %d does the same again", start, start, *sequences)
	zone := time.Local
	defer func() { time.Local = zone }()
	did := map[string]int{}
	for n := range *sequences {
		l := newLife(t, rand.New(rand.NewPCG(start, uint64(n))), did)
		for range 30 {
			l.step()
		}
		_ = l.a.Close()
	}
	for _, what := range slices.Sorted(maps.Keys(did)) {
		t.Logf("%6d × %s", did[what], what)
	}
	must := []string{"install", "wear", "write", "back", "crash", "keep", "tabs", "processes", "attribute"}
	if *sequences >= 100 {
		must = append(must, "panic", "remove", "start", "edited between", "clock", "blob", "database", "unplugged", "plugged", "kept but damaged", "older line taken")
	}
	for _, what := range must {
		require.Positive(t, did[what], what)
	}
}

// step lets one thing be done, and the person edit something after it.
func (l *life) step() {
	w := l.desks[l.r.IntN(len(l.desks))]
	if w.away {
		w = l.desks[slices.IndexFunc(l.desks, func(w *lived) bool { return !w.away })]
	}
	before := map[*lived]map[string]string{}
	for _, w := range l.desks {
		w.mayGo = map[string]bool{}
		if !w.away {
			before[w] = w.tree()
		}
	}
	if l.r.IntN(5) == 0 {
		l.dies = 1 + l.r.IntN(60)
		l.panic = l.r.IntN(3) == 0
	}
	crashes, panics := l.dies, l.panic
	what, err := w.do()
	switch {
	case crashes > 0 && panics && !l.panic: // the job is gone, and Ivelt is not
		what += ", and panicked"
		l.did["panic"]++
		l.a.Applier.Settle(w.Managed)
	case crashes > 0 && l.dies == 1: // it went in the middle
		l.again(nil)
		what += ", and crashed"
		l.did["crash"]++
	}
	l.dies, l.panic = 0, false
	l.log = append(l.log, fmt.Sprintf("%s: %s: %v", w.id, what, err))
	l.did[strings.Fields(what)[0]]++
	if err != nil && !strings.Contains(what, "crashed") && !strings.Contains(what, "panicked") {
		l.did["refused"]++
		require.True(l.t, expected(err), "%v\n%s", err, l.story())
		if !strings.Contains(err.Error(), "has been made") {
			require.Equal(l.t, before[w], w.tree(), l.story())
		}
	}
	for _, w := range l.desks {
		if w.away {
			continue
		}
		if before[w] == nil { // it was plugged in
			before[w] = w.tree()
		}
		w.explained(before[w])
		w.nothingLost()
		said := w.edit()
		for range 20 {
			if !strings.HasPrefix(said, "no") {
				break
			}
			said = w.edit()
		}
		l.log = append(l.log, w.id+": "+said)
		l.did[strings.Fields(said)[0]]++
	}
}
