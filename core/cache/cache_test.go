package cache

import (
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

type byName struct{ name string }
type byFile struct{ name string }

func TestWhatIsKept(t *testing.T) {
	c := New(Bounds{Bytes: 3 * (leastBytes + 100), Age: time.Minute})
	at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	c.now = func() time.Time { return at }
	works := 0
	of := func(key any, bytes int, holds bool) {
		ask := func(string) bool { return holds }
		work := func() Made[string] { works++; return Made[string]{Value: "v", Bytes: bytes} }
		switch k := key.(type) {
		case byName:
			require.Equal(t, "v", Of(c, k, ask, work))
		case byFile:
			require.Equal(t, "v", Of(c, k, ask, work))
		}
	}
	made := func(n int) { t.Helper(); require.Equal(t, n, works); works = 0 }

	of(byName{"a"}, 100, true)
	of(byName{"a"}, 100, true)
	made(1)
	of(byFile{"a"}, 100, true)
	made(1) // another type of key is another key
	of(byName{"a"}, 100, false)
	made(1) // what does not hold is made again
	of(byName{"b"}, 100, true)
	require.Equal(t, Counts{Hits: 1, Misses: 4, Entries: 3, Bytes: 3 * (leastBytes + 100)}, c.Counts())
	of(byName{"c"}, 100, true) // the one asked for longest ago goes
	made(2)
	of(byName{"a"}, 100, true)
	made(0)
	of(byFile{"a"}, 100, true)
	made(1)
	of(byName{"huge"}, 10_000, true) // is not kept, and drives nothing out
	of(byName{"a"}, 100, true)
	made(1)
	at = at.Add(2 * time.Minute)
	of(byName{"d"}, 100, true)
	require.Equal(t, 1, c.Counts().Entries, "the rest is too old")

	brief := func() Made[string] { works++; return Made[string]{Value: "v", Brief: true} }
	works = 0
	Of(c, byName{"brief"}, Always, brief)
	Of(c, byName{"brief"}, Always, brief)
	made(2)
	Of(nil, byName{"a"}, Always, brief)
	made(1)
	require.Zero(t, (*Cache)(nil).Counts())
}

func TestManyAtOnce(t *testing.T) {
	c := New(Bounds{Bytes: 50 * leastBytes, Age: time.Hour})
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			for i := range 2000 {
				require.Equal(t, i%97, Of(c, i%97, Always, func() Made[int] { return Made[int]{Value: i % 97} }))
			}
		})
	}
	all.Wait()
	counts := c.Counts()
	require.Equal(t, 16_000, counts.Hits+counts.Misses)
	require.LessOrEqual(t, counts.Bytes, 50*leastBytes)
	require.Equal(t, 50, counts.Entries)
}
