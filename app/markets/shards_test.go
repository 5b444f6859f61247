package markets_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/store"
)

// strand is a market in shards behind a file server.
type strand struct {
	t      *testing.T
	dir    string
	secret *market.Secret
	day    int
	server *httptest.Server

	mu    sync.Mutex
	asked []string
	spoil map[string]func(b []byte) []byte // by folder or name: what comes instead
}

func newStrand(t *testing.T, secret *market.Secret) *strand {
	s := &strand{t: t, dir: t.TempDir(), secret: secret, spoil: map[string]func([]byte) []byte{}}
	s.server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(r.URL.Path, "/")
		s.mu.Lock()
		s.asked = append(s.asked, name)
		spoil := s.spoil[name]
		if spoil == nil {
			spoil = s.spoil[path.Dir(name)]
		}
		s.mu.Unlock()
		if spoil == nil {
			http.FileServer(http.Dir(s.dir)).ServeHTTP(w, r)
			return
		}
		b, _ := os.ReadFile(filepath.Join(s.dir, name))
		if b = spoil(b); b == nil {
			http.NotFound(w, r)
			return
		}
		_, _ = w.Write(b)
	}))
	t.Cleanup(s.server.Close)
	return s
}

// publish gives out the index of another day: of five thousand entries fifty are others.
func (s *strand) publish() market.Published {
	s.t.Helper()
	s.day++
	p, err := market.Publish(s.t.Context(), s.dir, "Strand", "", func(yield func(market.Entry, error) bool) {
		for i := range 5000 {
			e := market.Entry{ID: fmt.Sprint("e", i), Kind: "icons", Name: fmt.Sprint("Reef ", i), Versions: []market.Version{{Version: "1", Date: "2026-01-01", File: "x", Size: 1, SHA256: strings.Repeat("0", 64)}}}
			for d := 2; d <= s.day; d++ {
				if (i+d)%100 == 0 {
					e.Summary = fmt.Sprint("of day", d)
				}
			}
			if !yield(e, nil) {
				return
			}
		}
	}, s.secret, time.Date(2026, 1, s.day, 0, 0, 0, 0, time.UTC))
	require.NoError(s.t, err)
	return p
}

func (s *strand) spoiled(name string, how func(b []byte) []byte) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.asked = nil; how == nil {
		delete(s.spoil, name)
	} else {
		s.spoil[name] = how
	}
}

// took is how many files of a folder were asked for since.
func (s *strand) took(folder string) (n int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, a := range s.asked {
		if path.Dir(a) == folder {
			n++
		}
	}
	return n
}

// onStrand is an Ivelt that knows the market, in a data folder.
func onStrand(t *testing.T, data string) *app.App {
	t.Helper()
	d, err := desk.Open("d", t.TempDir(), t.TempDir(), "/home/me")
	require.NoError(t, err)
	a, err := app.New(t.Context(), app.Config{Dir: data, Desks: []*desks.Managed{{Desk: d}}})
	require.NoError(t, err)
	a.Markets.Fresh = 0
	return a
}

// look reads the markets again, and returns what is wrong with the last.
func look(t *testing.T, a *app.App) (row store.MarketRow) {
	t.Helper()
	if job := a.Markets.Look(); job != nil {
		require.NoError(t, job.Wait())
	}
	rows, err := a.Markets.List()
	require.NoError(t, err)
	return rows[len(rows)-1]
}

func count(t *testing.T, a *app.App, words string) int {
	t.Helper()
	found, err := a.Markets.Search(t.Context(), markets.Query{Words: words, Exact: true})
	require.NoError(t, err)
	return found.Total
}

// TestAMarketInShardsIsFollowed: read once, then by what changed; what Ivelt kept of it for the
// next start is as if it were made anew, also if it is damaged, gone or older.
func TestAMarketInShardsIsFollowed(t *testing.T) {
	secret, err := market.NewSecret()
	require.NoError(t, err)
	s, data := newStrand(t, &secret), t.TempDir()
	s.publish()
	a := onStrand(t, data)
	require.NoError(t, a.Markets.Add(t.Context(), s.server.URL))
	row := look(t, a)
	require.Empty(t, row.Trouble)
	require.Equal(t, int64(1), row.Serial)
	key, _ := secret.Public()
	require.Equal(t, string(key), row.Key, "pinned")
	require.Equal(t, 5000, count(t, a, ""))
	require.Equal(t, 2, s.took("shards"))
	for day := 2; day <= 5; day++ {
		s.spoiled("", nil)
		s.publish()
		require.Empty(t, look(t, a).Trouble)
		require.Equal(t, 50, count(t, a, fmt.Sprint("day", day)))
		require.Equal(t, 5000, count(t, a, ""))
		require.Equal(t, []int{0, 1}, []int{s.took("shards"), s.took("deltas")})
	}
	s.spoiled("", nil)
	require.Empty(t, look(t, a).Trouble)
	require.Zero(t, s.took("deltas"), "nothing is new")
	s.publish()
	s.publish()
	require.Empty(t, look(t, a).Trouble)
	require.Equal(t, 50, count(t, a, "day7"))
	require.Equal(t, 2, s.took("deltas"), "of two days")
	rows, err := a.Markets.Named("reef 17")
	require.NoError(t, err)
	require.Len(t, rows, 1)
	require.NoError(t, a.Close())

	a = onStrand(t, data)
	require.Equal(t, 50, count(t, a, "day7"), "after a new start")
	require.NoError(t, a.Close())
}

// TestAnIndexThatIsNotRight is refused, with why, and what was read before goes on being found:
// a broken shard, one that is another's, an index that is older, two of one number, one with
// another's signature, a wrong one, or none any more.
func TestAnIndexThatIsNotRight(t *testing.T) {
	secret, err := market.NewSecret()
	require.NoError(t, err)
	foreign, err := market.NewSecret()
	require.NoError(t, err)
	s := newStrand(t, &secret)
	s.publish()
	a := onStrand(t, t.TempDir())
	defer a.Close()
	require.NoError(t, a.Markets.Add(t.Context(), s.server.URL))
	require.Empty(t, look(t, a).Trouble)
	s.publish()
	require.Empty(t, look(t, a).Trouble)
	read := func(name string) []byte {
		b, err := os.ReadFile(filepath.Join(s.dir, name))
		require.NoError(t, err)
		return b
	}
	older, olderSigned := read(market.IndexFile), read(market.SignatureFile)
	s.publish()
	require.Empty(t, look(t, a).Trouble)
	s.publish() // which is on its way
	stays := func(says string) {
		t.Helper()
		row := look(t, a)
		require.Contains(t, row.Trouble, says)
		require.Equal(t, int64(3), row.Serial)
		require.Equal(t, 5000, count(t, a, ""))
		require.Equal(t, 50, count(t, a, "day3"))
		require.Zero(t, count(t, a, "day4"))
	}
	instead := func(b []byte) func([]byte) []byte { return func([]byte) []byte { return b } }

	s.spoiled("deltas", func(b []byte) []byte { b[len(b)/2] ^= 1; return b })
	stays("not the file that the index names")
	s.spoiled("deltas", func(b []byte) []byte { return b[:len(b)/2] })
	stays("not the file that the index names")
	s.spoiled("deltas", func([]byte) []byte { return nil })
	stays("404")
	s.spoiled("deltas", func(b []byte) []byte { return append(b, make([]byte, 4<<20)...) })
	stays("larger than Ivelt reads")
	s.spoiled("deltas", nil)

	s.spoiled(market.IndexFile, instead(older))
	stays("signature does not fit")
	s.spoiled(market.SignatureFile, instead(olderSigned))
	stays("older than the one that was read: 2, and it was 3")
	s.spoiled(market.IndexFile, nil)
	stays("signature does not fit")
	s.spoiled(market.SignatureFile, instead([]byte("nonsense")))
	stays("signature does not fit")
	s.spoiled(market.SignatureFile, func([]byte) []byte { return nil })
	stays("not signed any more")
	s.spoiled(market.SignatureFile, instead(foreign.Sign(read(market.IndexFile), "")))
	key, text := foreign.Public()
	stays("another key, " + key.Short())
	require.Empty(t, look(t, a).OtherKey, "that is not the key that the market shows")
	s.spoiled(market.KeyFile, instead(text))
	stays("another key, " + key.Short())
	require.Equal(t, string(key), look(t, a).OtherKey)
	s.spoiled(market.IndexFile, instead([]byte(`{"format":1,"name":"Strand","entries":[]}`)))
	stays("not signed any more")
	twin := strings.Replace(string(older), `"serial":2`, `"serial":3`, 1)
	s.spoiled(market.IndexFile, instead([]byte(twin)))
	s.spoiled(market.SignatureFile, instead(secret.Sign([]byte(twin), "")))
	stays("its deltas do not lead up to 3")
	m, err := market.ReadManifest(read(market.IndexFile))
	require.NoError(t, err)
	require.Equal(t, int64(4), m.Serial)

	// Taken by the person, and by nobody else, the other key counts; who has it may count anew.
	anew := strings.Replace(string(read(market.IndexFile)), `"serial":4`, `"serial":1`, 1)
	anew = anew[:strings.Index(anew, `,"deltas"`)] + "}"
	s.spoiled(market.IndexFile, nil)
	s.spoiled(market.SignatureFile, instead(foreign.Sign(read(market.IndexFile), "")))
	row := look(t, a)
	require.Error(t, a.Markets.TakeKey(row.ID, "RWQf6LRCGA9i53mlYecO4IzT51TGPpvWucNSCh1CBM0QTaLn73Y7GFO3"))
	require.NoError(t, a.Markets.TakeKey(row.ID, string(key)))
	s.spoiled(market.IndexFile, instead([]byte(anew)))
	s.spoiled(market.SignatureFile, instead(foreign.Sign([]byte(anew), "")))
	row = look(t, a)
	require.Empty(t, row.Trouble)
	require.Equal(t, string(key), row.Key)
	require.Equal(t, 50, count(t, a, "day4"))

	// A shard that is broken, where all of them are to be read: the others are taken, it stays
	// as it was, and is read once it is whole.
	for _, name := range []string{market.IndexFile, market.SignatureFile, market.KeyFile} {
		s.spoiled(name, nil)
	}
	b := onStrand(t, t.TempDir())
	defer b.Close()
	broken := "shards/" + filepath.Base(m.Shards[0].File)
	s.spoiled(broken, func(b []byte) []byte { b[9] ^= 1; return b })
	require.NoError(t, b.Markets.Add(t.Context(), s.server.URL))
	require.Contains(t, look(t, b).Trouble, "not the file that the index names")
	s.spoiled(broken, nil)
	require.Empty(t, look(t, b).Trouble)
	require.Equal(t, 5000, count(t, b, ""))
}

// TestWhatIsKeptOfACatalogue is as good as making it anew, whatever became of the file.
func TestWhatIsKeptOfACatalogue(t *testing.T) {
	s, data := newStrand(t, nil), t.TempDir()
	_, err := market.Publish(t.Context(), s.dir, "Large", "", func(yield func(market.Entry, error) bool) {
		for i := range 21_000 {
			e := market.Entry{ID: fmt.Sprint("e", i), Kind: []string{"icons", "theme"}[i%2], Name: fmt.Sprint("Reef ", i), Likes: []market.Likes{{Count: i % 77}}, MadeFor: map[string]string{"helm": "3"},
				Looks: &market.Looks{Lightness: float64(i%100) / 100}, Versions: []market.Version{{Version: "1", Date: fmt.Sprint(2000+i%20) + "-01-01", File: "x", Size: 1, SHA256: strings.Repeat("0", 64)}}}
			if !yield(e, nil) {
				return
			}
		}
	}, nil, time.Now())
	require.NoError(t, err)
	file := filepath.Join(data, "catalogue")
	a := onStrand(t, data)
	require.NoError(t, a.Markets.Add(t.Context(), s.server.URL))
	require.Empty(t, look(t, a).Trouble)
	answers := func(a *app.App) (out []string) {
		for _, q := range []markets.Query{{}, {Words: "reef 1"}, {Words: "20", Sort: "newest"}, {Kind: "theme", Sort: "rising", From: 100}, {Shade: "dark", Words: "reef"}, {Taste: &market.Looks{Lightness: 0.4}}, {Words: "reff 777"}} {
			found, err := a.Markets.Search(t.Context(), q)
			require.NoError(t, err)
			line := fmt.Sprint(found.Total, found.Kinds, found.Spelling)
			for _, e := range found.Entries {
				line += " " + e.Key
			}
			out = append(out, line)
		}
		return out
	}
	want := answers(a)
	require.NoError(t, a.Close())
	whole, err := os.ReadFile(file)
	require.NoError(t, err)
	for what, text := range map[string][]byte{
		"whole": whole, "gone": nil, "cut off": whole[:len(whole)/2], "a byte more": append(append([]byte{}, whole...), 0), "empty": {},
		"a bit turned": func() []byte { b := append([]byte{}, whole...); b[len(b)/3] ^= 4; return b }(),
		"a length":     []byte(strings.Replace(string(whole), `"cards":21000`, `"cards":91000`, 1)),
		"older":        []byte(strings.Replace(string(whole), `"format":1`, `"format":0`, 1)),
	} {
		if text == nil {
			require.NoError(t, os.Remove(file))
		} else {
			require.NoError(t, os.WriteFile(file, text, 0o600))
		}
		a := onStrand(t, data)
		require.Equal(t, want, answers(a), what)
		require.NoError(t, a.Close())
	}
	// Killed before it was kept: the file is older than what there is.
	a = onStrand(t, data)
	require.Empty(t, look(t, a).Trouble)
	require.NoError(t, a.Close())
	before, err := os.ReadFile(file)
	require.NoError(t, err)
	_, err = market.Publish(t.Context(), s.dir, "Large", "", func(yield func(market.Entry, error) bool) {
		for e, err := range market.Entries(t.Context(), s.dir) {
			if e.ID == "e5" {
				continue
			}
			if e.ID == "e6" {
				e.Name = "Curlew"
			}
			if !yield(e, err) {
				return
			}
		}
	}, nil, time.Now())
	require.NoError(t, err)
	a = onStrand(t, data)
	require.Empty(t, look(t, a).Trouble)
	want = answers(a)
	require.Equal(t, []int{1, 20_999}, []int{count(t, a, "curlew"), count(t, a, "")})
	require.NoError(t, a.Close())
	require.NoError(t, os.WriteFile(file, before, 0o600))
	a = onStrand(t, data)
	require.Equal(t, []int{1, 20_999}, []int{count(t, a, "curlew"), count(t, a, "")})
	require.Equal(t, want, answers(a))
	require.NoError(t, a.Close())
}
