package library_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/core/reading"
)

// TestAMarketSendsNowhereElse: a redirect to another host is not followed, on the same
// host it is.
func TestAMarketSendsNowhereElse(t *testing.T) {
	inside := http.NewServeMux()
	elsewhere := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { t.Error("it was asked") }))
	defer elsewhere.Close()
	to := elsewhere.URL + "/index.json"
	inside.HandleFunc("/index.json", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, to, http.StatusFound) })
	inside.HandleFunc("/moved.json", func(w http.ResponseWriter, _ *http.Request) {
		fmt.Fprintf(w, `{"format": %d, "name": "Moved", "entries": []}`, market.Format)
	})
	s := httptest.NewServer(inside)
	defer s.Close()
	trouble := func() string {
		a, err := app.New(t.Context(), app.Config{Dir: t.TempDir(), Market: s.URL})
		require.NoError(t, err)
		defer a.Close()
		a.Markets.Ready()
		rows, err := a.Markets.List()
		require.NoError(t, err)
		require.Len(t, rows, 1)
		return rows[0].Trouble
	}
	require.Contains(t, trouble(), "sends to another host, "+strings.TrimPrefix(elsewhere.URL, "http://"))
	to = "/moved.json"
	require.Empty(t, trouble())
}

// TestWhatWasComingInIsClearedAway at the start, but not from under another process.
func TestWhatWasComingInIsClearedAway(t *testing.T) {
	dir := t.TempDir()
	parcels := filepath.Join(dir, "parcels")
	mine := fmt.Sprintf(".coming-%d-x", os.Getppid())
	for _, name := range []string{".coming-123", ".coming-4194999-y", mine, "0123456789abcdef"} {
		require.NoError(t, os.MkdirAll(filepath.Join(parcels, name), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(parcels, name, "a.zip"), nil, 0o644))
	}
	a, err := app.New(t.Context(), app.Config{Dir: dir})
	require.NoError(t, err)
	require.NoError(t, a.Close())
	left, err := os.ReadDir(parcels)
	require.NoError(t, err)
	require.Len(t, left, 2)
	require.Equal(t, mine, left[0].Name())
}

// TestAPieceWithAStrangeNameCanBeWorn: what speaks to terminals, ends lines or turns text
// around is not in the name under which a piece is put in place, and it can be chosen by
// that name.
func TestAPieceWithAStrangeNameCanBeWorn(t *testing.T) {
	a, d := apptest.New(t)
	const root = "Ree\nd\x1b[2J\u202ebed"
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{
		"index.theme":         "[Icon Theme]\nName=Ree\u202ed\x1b[1m\nDirectories=48/apps\n[48/apps]\nSize=48\n",
		"48/apps/folder.svg":  `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"/>`,
		"48/apps/st\nart.svg": `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"/>`,
	} {
		w, err := z.Create(root + "/" + name)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	sha := ""
	require.NoError(t, a.Library.Bring("strange.zip", io.NopCloser(&b), int64(b.Len()), "", func(s string) string { sha = s; return "" }).Wait())
	row, err := a.Library.Parcel(sha)
	require.NoError(t, err)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	require.Len(t, contents.Pieces, 1)
	pc := contents.Pieces[0]
	require.Equal(t, "Ree-d-[2J-bed", pc.Folder)
	require.Equal(t, `Ree\u202ed\u001b[1m`, pc.Name)
	require.NotContains(t, library.PieceKey(pc), "\n")
	require.NoError(t, apptest.Wait(a.Pieces.Install(d, sha, []string{library.PieceKey(pc)}, library.How{Scope: place.Mine}, "")))
	_, err = a.Drafts.Choose(d, desk.FacetIcons, pc.Folder)
	require.NoError(t, err)
	rv, err := a.Review.Draft(t.Context(), d, nil, planning.Options{})
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Changes.Apply(d, rv.Whole.ID, changes.How{})))
	surface, ok := d.Surface("gtk3")
	require.True(t, ok)
	facet, ok := surface.Facet(desk.FacetIcons)
	require.True(t, ok)
	require.Equal(t, pc.Folder, reading.Of(d.Desk, surface, facet).Value)
}

// silent is a parcel of which nothing comes, until it is interrupted.
type silent struct{ ended chan struct{} }

func (s silent) Read([]byte) (int, error) { <-s.ended; return 0, io.ErrUnexpectedEOF }
func (s silent) Close() error             { return nil }
func (s silent) Interrupt()               { close(s.ended) }

// TestAnUploadThatIsWaitedForCanBeCancelled, and leaves nothing.
func TestAnUploadThatIsWaitedForCanBeCancelled(t *testing.T) {
	dir := t.TempDir()
	a, err := app.New(t.Context(), app.Config{Dir: dir})
	require.NoError(t, err)
	defer a.Close()
	job := a.Library.Bring("slow.zip", silent{make(chan struct{})}, 0, "", nil)
	a.Jobs.Cancel(job)
	require.Equal(t, jobs.Cancelled, job.Progress().State)
	left, err := os.ReadDir(filepath.Join(dir, "parcels"))
	require.NoError(t, err)
	require.Empty(t, left)
}
