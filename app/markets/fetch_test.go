package markets_test

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/jobs"
	"ivelt/app/markets"
	"ivelt/core/archive"
	"ivelt/core/market"
	"ivelt/standin"
)

// shop is a market with one entry in two versions, and an Ivelt that looks
// through it.
type shop struct {
	t       *testing.T
	dir     string
	market  *standin.Market
	app     *app.App
	newest  market.Version
	entries []market.Entry
	written time.Time
}

// archiveOf is a zip that packs badly: about size bytes.
func archiveOf(t *testing.T, size int, seed uint64) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.CreateHeader(&zip.FileHeader{Name: "Pack/index.theme", Method: zip.Store})
	require.NoError(t, err)
	_, err = w.Write([]byte("[Icon Theme]\nName=Pack\nDirectories=48\n[48]\nSize=48\n"))
	require.NoError(t, err)
	w, err = z.CreateHeader(&zip.FileHeader{Name: "Pack/48/folder.png", Method: zip.Store})
	require.NoError(t, err)
	noise := make([]byte, size)
	r := rand.New(rand.NewPCG(seed, 1))
	for i := range noise {
		noise[i] = byte(r.Uint32())
	}
	_, err = w.Write(noise)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}

func newShop(t *testing.T) *shop {
	t.Helper()
	s := &shop{t: t, dir: t.TempDir(), written: time.Now()}
	s.market = &standin.Market{Dir: s.dir}
	e := market.Entry{ID: "pack", Kind: "icons", Name: "Pack", Maker: "Maud Pell"}
	for n, v := range []string{"2.0", "1.0"} {
		b := archiveOf(t, 300_000, uint64(n))
		sum := sha256.Sum256(b)
		e.Versions = append(e.Versions, market.Version{Version: v, Date: "2026-01-01", File: "parcels/Pack-" + v + ".zip", Size: int64(len(b)), SHA256: hex.EncodeToString(sum[:])})
		s.put("parcels/Pack-"+v+".zip", b)
	}
	s.newest = e.Versions[0]
	s.index(e)
	srv := httptest.NewServer(s.market)
	t.Cleanup(srv.Close)
	s.app = apptest.WithMarket(t, srv.URL)
	return s
}

func (s *shop) put(name string, b []byte) {
	s.t.Helper()
	file := filepath.Join(s.dir, name)
	require.NoError(s.t, os.MkdirAll(filepath.Dir(file), 0o755))
	require.NoError(s.t, os.WriteFile(file, b, 0o644))
}

func (s *shop) index(entries ...market.Entry) {
	s.t.Helper()
	s.entries = entries
	b, err := json.Marshal(market.Index{Format: 1, Name: "The shop", Entries: entries})
	require.NoError(s.t, err)
	s.put("index.json", b)
	s.written = s.written.Add(2 * time.Second) // a file server tells seconds apart
	require.NoError(s.t, os.Chtimes(filepath.Join(s.dir, "index.json"), time.Time{}, s.written))
}

func (s *shop) fetch() (string, error) {
	s.t.Helper()
	job, err := s.app.Markets.Fetch(markets.Ref{Entry: "pack"}, func(sha string) string { return sha })
	require.NoError(s.t, err)
	err = job.Wait()
	return job.Progress().Then, err
}

// leftovers are the files of the library but for whole parcels.
func (s *shop) leftovers() []string {
	s.t.Helper()
	found, err := filepath.Glob(filepath.Join(s.app.Dir, "parcels/.*"))
	require.NoError(s.t, err)
	return found
}

// TestATransferGoesOnWhereItBrokeOff cuts it at ten random points; on the way
// no more is sent than was missing.
func TestATransferGoesOnWhereItBrokeOff(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 2))
	for range 10 {
		s := newShop(t)
		s.market.CutAfter(s.newest.Size/4 + r.Int64N(s.newest.Size*3/4))
		sha, err := s.fetch()
		require.NoError(t, err)
		require.Equal(t, s.newest.SHA256, sha)
		require.Empty(t, s.leftovers())
	}
	s := newShop(t)
	s.market.CutAfter(20_000) // so often that it gives up; what came is kept
	_, err := s.fetch()
	require.ErrorContains(t, err, "What has come is kept")
	require.NotEmpty(t, s.leftovers())
	s.market.CutAfter(0)
	_, err = s.fetch()
	require.NoError(t, err)
}

func TestPauseKeepsWhatCameAndCancelDoesNot(t *testing.T) {
	s := newShop(t)
	s.market.StallAfter(120_000)
	job, err := s.app.Markets.Fetch(markets.Ref{Entry: "pack"}, func(sha string) string { return sha })
	require.NoError(t, err)
	for job.Progress().Done < 100_000 {
		time.Sleep(time.Millisecond)
	}
	job.Pause()
	require.Equal(t, jobs.Paused, job.Progress().State)
	require.NotEmpty(t, s.leftovers())
	s.market.StallAfter(0)
	s.app.Jobs.Resume(job)
	require.NoError(t, job.Wait())
	require.Equal(t, s.newest.SHA256, job.Progress().Then)
	require.Empty(t, s.leftovers())

	s = newShop(t)
	s.market.StallAfter(120_000)
	job, err = s.app.Markets.Fetch(markets.Ref{Entry: "pack"}, func(sha string) string { return sha })
	require.NoError(t, err)
	for job.Progress().Done < 100_000 {
		time.Sleep(time.Millisecond)
	}
	job.Pause()
	s.app.Jobs.Cancel(job)
	require.Equal(t, jobs.Cancelled, job.Progress().State)
	require.Empty(t, s.leftovers())
}

// TestNothingBrokenComesIn turns on each of Strandline's troubles: what comes
// in is whole, or nothing does and the message says what to do.
func TestNothingBrokenComesIn(t *testing.T) {
	for _, c := range []struct {
		trouble string
		says    string // "" if it is fetched all the same
		is      error
		older   bool
	}{
		{"cut", "", nil, false},
		{"moved", "", nil, false},
		{"slow", "", nil, false},
		{"whole", "", nil, false},
		{"wrong", "tell Maud Pell", markets.ErrChecksum, true},
		{"gone", "fetch the parcel there and drop it here", markets.ErrMoved, true},
		{"down", "503", markets.ErrMarket, false},
	} {
		t.Run(c.trouble, func(t *testing.T) {
			s := newShop(t)
			require.NoError(t, s.app.Markets.Look().Wait())
			s.market.Switch(c.trouble, true)
			sha, err := s.fetch()
			if c.says == "" {
				require.NoError(t, err)
				require.Equal(t, s.newest.SHA256, sha)
				return
			}
			require.ErrorIs(t, err, c.is)
			require.ErrorContains(t, err, c.says)
			rows, e := s.app.Library.Parcels()
			require.NoError(t, e)
			require.Empty(t, rows)
			require.Empty(t, s.leftovers())
			var older *markets.OlderError
			require.Equal(t, c.older, errorsAs(err, &older))
			if c.older {
				require.Equal(t, "1.0", older.Take.Version)
				s.market.Switch(c.trouble, false)
				job, err := s.app.Markets.Fetch(older.Take, func(sha string) string { return sha })
				require.NoError(t, err)
				require.NoError(t, job.Wait())
			}
		})
	}
}

// TestWhatTheIndexGetsWrong: sizes that are not the file's, a parcel that is
// damaged though its checksum is right, one that is no archive.
func TestWhatTheIndexGetsWrong(t *testing.T) {
	s := newShop(t)
	change := func(do func(v *market.Version)) {
		e := s.entries[0]
		do(&e.Versions[0])
		s.index(e)
		require.NoError(t, s.app.Markets.Look().Wait())
	}
	size := s.newest.Size
	for _, n := range []int64{size - 1, size + 1} {
		change(func(v *market.Version) { v.Size = n })
		_, err := s.fetch()
		require.ErrorIs(t, err, markets.ErrChecksum)
		require.Empty(t, s.leftovers())
	}
	whole, err := os.ReadFile(filepath.Join(s.dir, s.newest.File))
	require.NoError(t, err)
	for text, is := range map[string]error{string(whole[:size/2]): archive.ErrDamaged, "only words": archive.ErrNotArchive} {
		sum := sha256.Sum256([]byte(text))
		s.put(s.newest.File, []byte(text))
		change(func(v *market.Version) { v.Size, v.SHA256 = int64(len(text)), hex.EncodeToString(sum[:]) })
		_, err := s.fetch()
		require.ErrorIs(t, err, is)
		var older *markets.OlderError
		require.True(t, errorsAs(err, &older))
	}
}

// TestMarketsAreReadAgainOnlyIfChanged and are searched while they are down.
func TestMarketsAreReadAgainOnlyIfChanged(t *testing.T) {
	s := newShop(t)
	answers := map[int]int{}
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		rec := &recorder{ResponseWriter: w, status: 200}
		s.market.ServeHTTP(rec, r)
		answers[rec.status]++
	}))
	defer srv.Close()
	a := apptest.WithMarket(t, srv.URL)
	old := time.Now().Add(-time.Minute) // what changed just now may change again within its second
	require.NoError(t, os.Chtimes(filepath.Join(s.dir, market.IndexFile), old, old))
	for range 3 {
		require.NoError(t, a.Markets.Look().Wait())
	}
	require.Equal(t, map[int]int{200: 1, 304: 2}, answers)
	e := s.entries[0]
	e.Name = "Pack of another name"
	s.index(e)
	require.NoError(t, a.Markets.Look().Wait())
	s.market.SetDown(true)
	require.NoError(t, a.Markets.Look().Wait())
	found, err := a.Markets.Search(t.Context(), markets.Query{Words: "another"})
	require.NoError(t, err)
	require.Equal(t, 1, found.Total)
	list, err := a.Markets.List()
	require.NoError(t, err)
	require.Contains(t, list[0].Trouble, "503")
}

type recorder struct {
	http.ResponseWriter
	status int
}

func (r *recorder) WriteHeader(status int) { r.status = status; r.ResponseWriter.WriteHeader(status) }

// TestMarketsInFolders adds one made by hand, turns it off, and drops it.
func TestMarketsInFolders(t *testing.T) {
	s := newShop(t)
	a := apptest.WithMarket(t, "")
	total := func() int {
		t.Helper()
		if j := a.Markets.Look(); j != nil {
			require.NoError(t, j.Wait())
		}
		found, err := a.Markets.Search(t.Context(), markets.Query{})
		require.NoError(t, err)
		return found.Total
	}
	require.Zero(t, total())
	for _, bad := range []string{"", "shop", "/nowhere", "ftp://x", t.TempDir(), "http://127.0.0.1:1"} {
		require.Error(t, a.Markets.Add(t.Context(), bad), bad)
	}
	require.NoError(t, a.Markets.Add(t.Context(), s.dir+"/"))
	require.ErrorContains(t, a.Markets.Add(t.Context(), s.dir), "here already")
	require.Equal(t, 1, total())
	job, err := a.Markets.Fetch(markets.Ref{Entry: "pack", Version: "1.0"}, func(sha string) string { return sha })
	require.NoError(t, err)
	require.NoError(t, job.Wait())
	list, err := a.Markets.List()
	require.NoError(t, err)
	require.NoError(t, a.Markets.Turn(list[0].ID, false))
	require.Zero(t, total())
	require.NoError(t, a.Markets.Turn(list[0].ID, true))
	require.Equal(t, 1, total())
	require.NoError(t, a.Markets.Drop(list[0].ID))
	require.Zero(t, total())
	require.Error(t, a.Markets.Drop(list[0].ID))
}

// TestNothingOutsideTheMarketIsAskedFor: an index may name any file.
func TestNothingOutsideTheMarketIsAskedFor(t *testing.T) {
	s := newShop(t)
	secret := filepath.Join(filepath.Dir(s.dir), "secret.png")
	require.NoError(t, os.WriteFile(secret, []byte("x"), 0o644))
	e := s.entries[0]
	e.Pictures = []market.Picture{{State: "normal", File: "../secret.png"}}
	s.index(e)
	a := apptest.WithMarket(t, "")
	require.NoError(t, a.Markets.Add(t.Context(), s.dir))
	require.NoError(t, a.Markets.Look().Wait())
	_, _, err := a.Markets.Picture(t.Context(), 0, "pack", "")
	require.Error(t, err)
}
