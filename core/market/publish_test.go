package market_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/market"
)

func entry(id, name string) market.Entry {
	return market.Entry{ID: id, Kind: "icons", Name: name, Versions: []market.Version{{Version: "1", Date: "2026-01-01", File: "parcels/" + id + ".zip", Size: 1, SHA256: strings.Repeat("0", 64)}}}
}

func all(entries map[string]market.Entry) func(func(market.Entry, error) bool) {
	return func(yield func(market.Entry, error) bool) {
		for _, id := range slices.Sorted(maps.Keys(entries)) {
			if !yield(entries[id], nil) {
				return
			}
		}
	}
}

// reader follows a published market as a reader does: by deltas where it can.
type reader struct {
	serial  int64
	entries map[string]market.Entry
	whole   int // how often it read all shards
}

func (r *reader) read(t *testing.T, dir string) {
	t.Helper()
	b, err := os.ReadFile(filepath.Join(dir, market.IndexFile))
	require.NoError(t, err)
	require.True(t, market.IsSharded(b))
	m, err := market.ReadManifest(b)
	require.NoError(t, err)
	file := func(l market.Lot) []byte {
		b, err := os.ReadFile(filepath.Join(dir, l.File))
		require.NoError(t, err)
		return b
	}
	if deltas, ok := m.Since(r.serial); ok {
		for _, d := range deltas {
			changes, err := d.Read(t.Context(), file(d.Lot))
			require.NoError(t, err)
			for _, c := range changes {
				if c.Put != nil {
					r.entries[c.Put.ID] = *c.Put
				} else {
					delete(r.entries, c.Gone)
				}
			}
		}
	} else {
		r.whole++
		r.entries = map[string]market.Entry{}
		for i, l := range m.Shards {
			entries, err := l.Read(t.Context(), file(l), i, len(m.Shards))
			require.NoError(t, err)
			require.Len(t, entries, l.Entries)
			for _, e := range entries {
				r.entries[e.ID] = e
			}
		}
	}
	r.serial = m.Serial
}

// TestPublishing a market again and again: whoever reads each index, or only now and then, by
// what changed or all of it, has what was published; what did not change is the same file, and
// files that nobody needs any more go.
func TestPublishing(t *testing.T) {
	dir := t.TempDir()
	now := map[string]market.Entry{}
	for i := range 9000 {
		id := fmt.Sprint("e", i)
		now[id] = entry(id, "Reef "+id)
	}
	publish := func() market.Published {
		t.Helper()
		p, err := market.Publish(t.Context(), dir, "Reef market", "about reefs", all(now), nil, time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC))
		require.NoError(t, err)
		return p
	}
	p := publish()
	require.Len(t, p.Shards, 4, "about four thousand in each")
	require.Equal(t, 9000, p.Entries())
	each, rare := &reader{}, &reader{}
	each.read(t, dir)
	rare.read(t, dir)
	require.Equal(t, now, each.entries)
	same := publish()
	require.True(t, same.Same)
	require.Equal(t, p.Serial, same.Serial)
	for round := range 6 {
		for i := range 40 {
			id := fmt.Sprint("e", (round*41+i*7)%9000)
			now[id] = entry(id, fmt.Sprint("Reef again ", round))
		}
		delete(now, fmt.Sprint("e", 5000+round))
		now[fmt.Sprint("new", round)] = entry(fmt.Sprint("new", round), "New")
		p = publish()
		require.Equal(t, int64(round+2), p.Serial)
		require.Equal(t, 1, p.Gone)
		each.read(t, dir)
		require.Equal(t, now, each.entries)
	}
	rare.read(t, dir)
	require.Equal(t, now, rare.entries, "six indexes later")
	require.Equal(t, []int{1, 1}, []int{each.whole, rare.whole}, "all of it was read once")
	fresh := &reader{}
	fresh.read(t, dir)
	require.Equal(t, now, fresh.entries)
	one := now["e17"]
	one.Summary = "alone"
	now["e17"] = one
	before := p
	p = publish()
	kept := 0
	for i, l := range p.Shards {
		if l.File == before.Shards[i].File {
			kept++
		}
	}
	require.Equal(t, 3, kept, "the other shards stay as they are")
	files, err := os.ReadDir(filepath.Join(dir, "shards"))
	require.NoError(t, err)
	require.Len(t, files, 5, "and one of the index before")

	// Most of it is another: there is no delta, and it is read anew.
	for id := range now {
		now[id] = entry(id, "Other")
	}
	publish()
	each.read(t, dir)
	require.Equal(t, now, each.entries)
	require.Equal(t, 2, each.whole)

	twice := func(yield func(market.Entry, error) bool) {
		_ = yield(entry("a", "A"), nil) && yield(entry("a", "B"), nil)
	}
	_, err = market.Publish(t.Context(), dir, "", "", twice, nil, time.Now())
	require.ErrorIs(t, err, market.ErrTwice)
	nameless := func(yield func(market.Entry, error) bool) { yield(market.Entry{ID: "a"}, nil) }
	_, err = market.Publish(t.Context(), dir, "", "", nameless, nil, time.Now())
	require.ErrorIs(t, err, market.ErrDamaged)
	broken := errors.New("it broke")
	_, err = market.Publish(t.Context(), dir, "", "", func(yield func(market.Entry, error) bool) { yield(market.Entry{}, broken) }, nil, time.Now())
	require.ErrorIs(t, err, broken)
	each.read(t, dir)
	require.Equal(t, now, each.entries, "what was there stays")
}

// TestWhatIsNoManifest is refused, and a file that is not the one it names.
func TestWhatIsNoManifest(t *testing.T) {
	dir := t.TempDir()
	_, err := market.Publish(t.Context(), dir, "R", "", all(map[string]market.Entry{"a": entry("a", "A"), "b": entry("b", "B")}), nil, time.Now())
	require.NoError(t, err)
	good, err := os.ReadFile(filepath.Join(dir, market.IndexFile))
	require.NoError(t, err)
	var m market.Manifest
	require.NoError(t, json.Unmarshal(good, &m))
	for says, spoil := range map[string]func(m *market.Manifest){
		"no serial":              func(m *market.Manifest) { m.Serial = 0 },
		"which is no power":      func(m *market.Manifest) { m.Shards = append(m.Shards, m.Shards[0], m.Shards[0]) },
		"it has 0 shards":        func(m *market.Manifest) { m.Shards = nil },
		`"../x" is no file`:      func(m *market.Manifest) { m.Shards[0].File = "../x" },
		`"http://x/y" is no`:     func(m *market.Manifest) { m.Shards[0].File = "http://x/y" },
		"is no file with":        func(m *market.Manifest) { m.Shards[0].SHA256 = "00" },
		"is no file with entrie": func(m *market.Manifest) { m.Shards[0].Size = market.MaxLot + 1 },
		"do not lead up to":      func(m *market.Manifest) { m.Deltas = []market.Delta{{Serial: 7, Lot: m.Shards[0]}} },
	} {
		bad := m
		bad.Shards = slices.Clone(m.Shards)
		spoil(&bad)
		b, err := json.Marshal(bad)
		require.NoError(t, err)
		_, err = market.ReadManifest(b)
		require.ErrorIs(t, err, market.ErrDamaged, says)
		require.ErrorContains(t, err, says)
	}
	_, err = market.ReadManifest(bytes.Repeat([]byte(" "), market.MaxManifest+1))
	require.ErrorIs(t, err, market.ErrTooLarge)
	_, err = market.ReadManifest([]byte(`{"format":3}`))
	require.ErrorIs(t, err, market.ErrFormat)
	require.False(t, market.IsSharded([]byte(`{"format":1}`)))

	l := m.Shards[0]
	b, err := os.ReadFile(filepath.Join(dir, l.File))
	require.NoError(t, err)
	for _, other := range [][]byte{append(bytes.Clone(b), 0), b[:len(b)-1], append([]byte{b[0] ^ 1}, b[1:]...), nil} {
		_, err := l.Read(t.Context(), other, 0, 1)
		require.ErrorIs(t, err, market.ErrLot)
	}
	entries, err := l.Read(t.Context(), b, 0, 2)
	require.NoError(t, err)
	require.Less(t, len(entries), 2, "what is of another shard is left out")
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = l.Read(ctx, b, 0, 1)
	require.ErrorIs(t, err, context.Canceled)
}

// TestSignatures: of one's own key, of another's, of another text.
func TestSignatures(t *testing.T) {
	mine, err := market.NewSecret()
	require.NoError(t, err)
	yours, err := market.NewSecret()
	require.NoError(t, err)
	text := []byte(`{"format":2}`)
	key, file := mine.Public()
	signature := mine.Sign(text, "serial:1")
	require.NoError(t, key.Verify(text, signature))
	read, err := market.ParseKey(string(file))
	require.NoError(t, err)
	require.Equal(t, key, read)
	require.Len(t, key.Short(), 16)
	require.ErrorIs(t, key.Verify(append(text, ' '), signature), market.ErrForged)
	err = key.Verify(text, yours.Sign(text, ""))
	require.ErrorIs(t, err, market.ErrForeign)
	other, _ := yours.Public()
	require.ErrorContains(t, err, other.Short())
	require.ErrorIs(t, key.Verify(text, []byte("nonsense")), market.ErrForged)
	require.ErrorIs(t, key.Verify(text, bytes.Replace(signature, []byte("serial:1"), []byte("serial:9"), 1)), market.ErrForged, "what is said of it is signed too")
	_, err = market.ParseKey("nonsense")
	require.Error(t, err)
	b, err := mine.File("")
	require.NoError(t, err)
	again, err := market.ParseSecret(b, "") // one that is encrypted takes seconds: see package truth
	require.NoError(t, err)
	require.NoError(t, key.Verify(text, again.Sign(text, "")))
	_, err = market.ParseSecret([]byte("nonsense"), "")
	require.Error(t, err)
}

func FuzzManifest(f *testing.F) {
	f.Add([]byte(`{"format":2,"serial":1,"shards":[{"file":"a","sha256":"x","size":1}]}`))
	f.Fuzz(func(t *testing.T, b []byte) {
		m, err := market.ReadManifest(b)
		if err == nil && len(m.Shards) == 0 {
			t.Fatal("one without shards")
		}
	})
}
