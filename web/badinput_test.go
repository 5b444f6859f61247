package web_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/apply"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/demo"
)

// visitor asks for pages as a browser without scripts does.
type visitor struct {
	*stage
	client *http.Client
}

func (s *stage) visit() *visitor {
	jar, err := cookiejar.New(nil)
	require.NoError(s.t, err)
	return &visitor{s, &http.Client{Jar: jar, Timeout: 30 * time.Second}}
}

func (v *visitor) read(res *http.Response, err error) (string, int) {
	v.t.Helper()
	require.NoError(v.t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(v.t, err)
	text := strings.NewReplacer("&#34;", `"`, "&#39;", "'", "&lt;", "<").Replace(string(b))
	if strings.HasPrefix(res.Header.Get("Content-Type"), "text/html") {
		text = strings.Join(strings.Fields(text), " ") // as it shows
	}
	return text, res.StatusCode
}

func (v *visitor) get(path string) (string, int) {
	v.t.Helper()
	return v.read(v.client.Get(v.url + path))
}

// bytes gets a file.
func (v *visitor) bytes(path string) ([]byte, int) {
	v.t.Helper()
	res, err := v.client.Get(v.url + path)
	require.NoError(v.t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(v.t, err)
	return b, res.StatusCode
}

// post follows redirects, and waits for a job if it was led to one.
func (v *visitor) post(path string, form url.Values) (page, at string) {
	v.t.Helper()
	res, err := v.client.PostForm(v.url+path, form)
	require.NoError(v.t, err)
	at = res.Request.URL.Path
	page, _ = v.read(res, nil)
	for strings.HasPrefix(at, "/jobs/") && strings.Contains(page, "job-running") {
		time.Sleep(20 * time.Millisecond)
		res, err := v.client.Get(v.url + at + "?desk=avocet")
		require.NoError(v.t, err)
		at = res.Request.URL.Path
		page, _ = v.read(res, nil)
	}
	return page, at
}

func (v *visitor) fetch(entry string) (page, at string) {
	v.t.Helper()
	return v.post("/d/avocet/fetch", url.Values{"entry": {entry}})
}

// nothingLeft checks that a refused parcel left nothing behind.
func (v *visitor) nothingLeft() {
	v.t.Helper()
	left, err := os.ReadDir(filepath.Join(v.dir, "data/parcels"))
	require.NoError(v.t, err)
	require.Empty(v.t, left)
}

func TestDamagedParcelOffersTheVersionBefore(t *testing.T) {
	v := newStage(t).visit()
	page, at := v.fetch("shingle-next")
	require.True(t, strings.HasPrefix(at, "/jobs/"))
	require.Contains(t, page, "damaged or was cut off")
	require.Contains(t, page, "Fetch version 2.1 instead")
	require.Contains(t, page, `value="shingle-next"`)
	v.nothingLeft()
}

func TestWrongChecksumIsThrownAway(t *testing.T) {
	v := newStage(t).visit()
	v.changeMarket(func(e map[string]any) {
		if e["id"] == "wrack" {
			newest(e)["sha256"] = strings.Repeat("0", 64)
		}
	})
	page, _ := v.fetch("wrack")
	require.Contains(t, page, "The checksum is not the one the market gives")
	require.Contains(t, page, "Tobias Anker")
	v.nothingLeft()
}

func newest(entry map[string]any) map[string]any {
	return entry["versions"].([]any)[0].(map[string]any)
}

// changeMarket edits Strandline's index.
func (s *stage) changeMarket(change func(entry map[string]any)) {
	s.t.Helper()
	file := filepath.Join(s.world.Market, "index.json")
	b, err := os.ReadFile(file)
	require.NoError(s.t, err)
	var index map[string]any
	require.NoError(s.t, json.Unmarshal(b, &index))
	for _, e := range index["entries"].([]any) {
		change(e.(map[string]any))
	}
	b, err = json.Marshal(index)
	require.NoError(s.t, err)
	require.NoError(s.t, os.WriteFile(file, b, 0o644))
}

func TestParcelsThatHoldNothingToWear(t *testing.T) {
	v := newStage(t).visit()
	v.changeMarket(func(e map[string]any) {
		if e["id"] == "eddy" { // what comes is a page, not an archive
			newest(e)["size"], newest(e)["sha256"] = 1, "5feceb66ffc86f38d952786c6d696c79c2dbc239dd4e91b46729d73a27fb57e9"
		}
	})
	require.NoError(t, os.WriteFile(filepath.Join(v.world.Market, "page"), []byte("0"), 0o644))
	v.changeMarket(func(e map[string]any) {
		if e["id"] == "eddy" {
			newest(e)["file"] = "page"
		}
	})
	page, _ := v.fetch("eddy")
	require.Contains(t, page, "not an archive")
	v.nothingLeft()

	page, at := v.fetch("postcards")
	require.Contains(t, at, "/parcel/")
	require.Contains(t, page, "Ivelt found no piece in it")
	require.NotContains(t, page, "Install the marked pieces")
	page, _ = v.fetch("driftwood")
	require.Contains(t, page, "has no index.theme, so no program can use it")
}

func TestCycleIsSaidAndCanBeInstalled(t *testing.T) {
	v := newStage(t).visit()
	page, at := v.fetch("eddy")
	require.Contains(t, page, "loops by way of Eddy-Back")
	page, at = v.post(at+"/install", url.Values{"piece": {"icons Eddy Eddy", "icons Eddy-Back Eddy-Back"}, "scope": {"mine"}})
	require.Equal(t, "/d/avocet/shelf", at)
	require.Contains(t, page, "Eddy, backwards")
	_, at = v.post("/d/avocet/draft", url.Values{"facet": {"icons"}, "piece": {"Eddy"}})
	require.Equal(t, "/d/avocet/compose", at)
	_, status := v.get("/d/avocet/picture.svg?look=draft&scene=desk")
	require.Equal(t, http.StatusOK, status, "the lookup ends")
}

func TestMarketThatIsDown(t *testing.T) {
	v := newStage(t).visit()
	v.market.SetDown(true)
	page, status := v.get("/d/avocet/find")
	require.Equal(t, http.StatusOK, status)
	require.Contains(t, page, "The market cannot be read: it answers \"503 Service Unavailable\"")
	require.Contains(t, page, "Look again")
	v.market.SetDown(false)
	page, _ = v.get("/d/avocet/find")
	require.Contains(t, page, "Found in Strandline")
	v.market.SetDown(true)
	page, _ = v.get("/d/avocet/find")
	require.Contains(t, page, "what it had when it was last seen")
	require.Contains(t, page, "Glasswort")
	page, _ = v.fetch("glasswort")
	require.Contains(t, page, "The market cannot be read")
	v.nothingLeft()
	page, _ = v.get("/d/avocet/shelf")
	require.Contains(t, page, "Foreshore", "the rest goes on working")
}

func TestSettingsFileThatIsNoKeyFile(t *testing.T) {
	v := newStage(t).visit()
	broken := "[Settings]\ngtk-icon-theme-name=Foreshore\nthis line is wrong\n"
	require.NoError(t, os.WriteFile(v.home(gtk3File), []byte(broken), 0o644))
	page, _ := v.get("/d/avocet/why/gtk3/icons")
	require.Contains(t, page, "cannot be read")
	require.Contains(t, page, `data-code="broken-source"`)
	page, _ = v.post("/d/avocet/draft", url.Values{"facet": {"icons"}, "piece": {"Foreshore"}})
	require.Contains(t, page, "1 choice not for every program")
	page, _ = v.get("/d/avocet/review")
	require.Contains(t, page, "~/.config/gtk-3.0/settings.ini is not a settings file that GTK 3 programs can read: line 3")
	require.Contains(t, page, "Fix or remove that line")
	_, at := v.apply(page)
	require.Equal(t, "/d/avocet/match", at, "the others can be dressed all the same")
	require.Equal(t, broken, v.file(gtk3File), "the file is left as it is")
	require.Contains(t, v.file(gtk4File), "gtk-icon-theme-name=Foreshore\r\n")
}

// apply presses the button of a review page.
func (v *visitor) apply(review string) (page, at string) {
	v.t.Helper()
	_, rest, ok := strings.Cut(review, `name="plan" value="`)
	require.True(v.t, ok)
	id, _, _ := strings.Cut(rest, `"`)
	_, rest, ok = strings.Cut(review, `data-desk="`)
	require.True(v.t, ok)
	of, _, _ := strings.Cut(rest, `"`)
	return v.post("/d/"+of+"/apply", url.Values{"plan": {id}})
}

func TestAFileChangedSinceTheReview(t *testing.T) {
	v := newStage(t).visit()
	v.post("/d/avocet/draft", url.Values{"facet": {"icons"}, "piece": {"Marram"}})
	review, _ := v.get("/d/avocet/review")
	require.NoError(t, os.WriteFile(v.home(gtk3File), []byte("[Settings]\ngtk-icon-theme-name=Mine\n"), 0o644))
	before := v.snapshot()
	page, _ := v.apply(review)
	require.Contains(t, page, "Changed since the plan was made: ~/.config/gtk-3.0/settings.ini. Nothing was written; review again.")
	require.Equal(t, before, v.snapshot())
}

func TestAHomeThatCannotBeWritten(t *testing.T) {
	s := newStage(t)
	v := s.visit()
	_, at := v.fetch("glasswort")
	// A file where a folder has to be: not even an administrator can write there.
	require.NoError(t, os.WriteFile(s.home(".local/share"), []byte("in the way"), 0o644))
	before := s.snapshot()
	page, _ := v.post(at+"/install", url.Values{"piece": {"icons Glasswort Glasswort"}, "scope": {"mine"}})
	require.Contains(t, page, "cannot be written")
	require.Contains(t, page, "Everything is as it was before")
	require.Equal(t, before, s.snapshot())
}

func TestOtherPagesCannotReachIvelt(t *testing.T) {
	v := newStage(t).visit()
	req, err := http.NewRequest(http.MethodGet, v.url+"/d/avocet/find", nil)
	require.NoError(t, err)
	req.Host = "elsewhere.example"
	_, status := v.read(v.client.Do(req))
	require.Equal(t, http.StatusMisdirectedRequest, status)

	req, err = http.NewRequest(http.MethodPost, v.url+"/d/avocet/draft", strings.NewReader("facet=icons&piece=Marram"))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Origin", "https://elsewhere.example")
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	_, status = v.read(v.client.Do(req))
	require.Equal(t, http.StatusForbidden, status)

	res, err := v.client.Get(v.url + "/d/avocet/find")
	require.NoError(t, err)
	page, _ := v.read(res, nil)
	require.Contains(t, res.Header.Get("Content-Security-Policy"), "script-src 'self'")
	require.NotRegexp(t, `<script>|style="|onclick=`, page, "no inline script or style")
	res, err = v.client.Get(v.url + "/d/avocet/picture.svg")
	require.NoError(t, err)
	v.read(res, nil)
	require.Contains(t, res.Header.Get("Content-Security-Policy"), "sandbox")
	for _, bad := range []string{"/nowhere", "/d/nobody/find", "/d/avocet/parcel/00", "/d/avocet/parcel/00/tag.svg?piece=x", "/d/avocet/tag.svg?pack=../x", "/d/avocet/bead?surface=none", "/jobs/none?desk=avocet", "/market/1/none/picture"} {
		_, status := v.get(bad)
		require.Equal(t, http.StatusNotFound, status, bad)
	}
	for path, form := range map[string]url.Values{
		"/d/avocet/draft": {"facet": {"hats"}, "piece": {"x"}}, "/d/avocet/apply": {"plan": {"none"}}, "/d/avocet/back": {"checkpoint": {"99"}}, "/d/avocet/restart": {"surface": {"none"}},
	} {
		page, _ := v.post(path, form)
		require.Contains(t, page, "banner-rust", path)
	}
}

// TestInterruptedChangeIsUndoneAtTheNextStart leaves a journal as a crash
// would.
func TestInterruptedChangeIsUndoneAtTheNextStart(t *testing.T) {
	s := newStage(t)
	v := s.visit()
	v.post("/d/avocet/draft", url.Values{"facet": {"icons"}, "piece": {"Marram"}})
	before := s.snapshot()
	d, err := s.app.Desk("avocet")
	require.NoError(t, err)
	reviewed, err := s.app.Review.Draft(t.Context(), d, nil, planning.Options{})
	require.NoError(t, err)
	p := reviewed.Plan
	journal := filepath.Join(s.dir, "data/journal/avocet.json")
	func() {
		defer func() { require.Equal(t, "the power goes", recover()) }()
		_ = apply.Plan(t.Context(), d.Desk, p, apply.Config{Keep: s.app.Kept, Journal: journal, Commit: func() error { panic("the power goes") }})
	}()
	require.FileExists(t, journal)
	require.NotEqual(t, before, s.snapshot())
	require.NoError(t, s.app.Close())

	again := stageIn(t, s.dir)
	require.Equal(t, before, again.snapshot())
	page, _ := again.visit().get("/d/avocet/match")
	require.Contains(t, page, "was interrupted in the middle of “Apply Marram”. Everything is as it was before it.")
	require.Contains(t, page, "Marram", "the draft is still there")
}

func TestInstallRefusesWhatItCannotKnow(t *testing.T) {
	s := newStage(t)
	d, err := s.app.Desk("avocet")
	require.NoError(t, err)
	_, err = s.app.Pieces.Install(d, "none", []string{"x"}, library.How{Scope: place.Mine}, "")
	require.Error(t, err)
	require.NoError(t, s.app.Markets.Look().Wait())
	job, err := s.app.Markets.Fetch(markets.Ref{Entry: "glasswort"}, func(sha string) string { return sha })
	require.NoError(t, err)
	require.NoError(t, job.Wait())
	sha := job.Progress().Then
	for _, roots := range [][]string{nil, {"Nowhere"}} {
		_, err = s.app.Pieces.Install(d, sha, roots, library.How{Scope: place.Mine}, "")
		require.Error(t, err)
	}
	job, err = s.app.Pieces.Install(d, sha, []string{"icons Glasswort Glasswort"}, library.How{Scope: "nobody"}, "")
	require.NoError(t, err)
	require.ErrorContains(t, job.Wait(), "no folder for it")
	_, err = s.app.Desk("none")
	require.ErrorIs(t, err, desks.ErrNone)
}

// upload hands a file over as the button on the page does.
func (v *visitor) upload(name string, b []byte) (page, at string) {
	v.t.Helper()
	page, at = v.send("/d/avocet/bring", "parcel", name, b)
	at, _, _ = strings.Cut(at, "?")
	return page, at
}

// send uploads a file as a field of a form.
func (v *visitor) send(to, field, name string, b []byte) (page, at string) {
	v.t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile(field, name)
	require.NoError(v.t, err)
	_, err = part.Write(b)
	require.NoError(v.t, err)
	require.NoError(v.t, form.Close())
	res, err := v.client.Post(v.url+to, form.FormDataContentType(), &body)
	require.NoError(v.t, err)
	at = res.Request.URL.RequestURI()
	page, _ = v.read(res, nil)
	return page, at
}

func TestALockedParcelAsksForItsPassword(t *testing.T) {
	v := newStage(t).visit()
	dir := t.TempDir()
	require.NoError(t, demo.WritePacks(dir, "Glasswort"))
	c := exec.CommandContext(t.Context(), "zip", "-qr", "-P", "pier", "locked.zip", "Glasswort") // Debian: zip
	c.Dir = dir
	require.NoError(t, c.Run(), "zip is missing: make deps installs it")
	b, err := os.ReadFile(filepath.Join(dir, "locked.zip"))
	require.NoError(t, err)
	page, at := v.upload("locked.zip", b)
	require.True(t, strings.HasPrefix(at, "/jobs/"))
	require.Contains(t, page, "locked.zip is locked with a password")
	_, rest, ok := strings.Cut(page, `name="sha" value="`)
	require.True(t, ok)
	sha, _, _ := strings.Cut(rest, `"`)
	page, _ = v.post("/d/avocet/bring/unlock", url.Values{"sha": {sha}, "name": {"locked.zip"}, "password": {"quay"}})
	require.Contains(t, page, "That password does not open locked.zip", "a wrong one is said to be wrong")
	page, at = v.post("/d/avocet/bring/unlock", url.Values{"sha": {sha}, "name": {"locked.zip"}, "password": {"pier"}})
	require.Equal(t, "/d/avocet/parcel/"+sha, at)
	require.Contains(t, page, "Glasswort")
	_, at = v.post(at+"/install", url.Values{"piece": {"icons Glasswort Glasswort"}, "scope": {"mine"}})
	require.Equal(t, "/d/avocet/shelf", at, "it is opened again with the password it was given")
	require.FileExists(t, v.home(".local/share/icons/Glasswort/index.theme"))
	for _, bad := range []url.Values{{"sha": {"../../x"}, "name": {"x"}}, {"sha": {strings.Repeat("0", 64)}, "name": {"x.zip"}}} {
		page, _ = v.post("/d/avocet/bring/unlock", bad)
		require.Contains(t, page, "banner-rust")
	}
}

func TestWhatIsBroughtInBadly(t *testing.T) {
	v := newStage(t).visit()
	page, _ := v.upload("notes.zip", []byte("just words"))
	require.Contains(t, page, "not an archive")
	page, _ = v.upload("../../climb.zip", []byte("PK\x03\x04 cut off"))
	require.Contains(t, page, "damaged or was cut off")
	v.nothingLeft()
	page, _ = v.post("/d/avocet/bring", url.Values{"x": {"y"}})
	require.Contains(t, page, "No file came with this")
	page, _ = v.post("/d/avocet/bring/here", url.Values{"name": {"../.config/gtk-3.0/settings.ini"}})
	require.Contains(t, page, "There is no parcel")
	page, at := v.post("/d/avocet/bring/here", url.Values{"name": {"reedbed-kit-0.4.zip"}})
	require.Contains(t, at, "/parcel/")
	require.Contains(t, page, "6 pieces inside")
}

func TestRemoveAndRename(t *testing.T) {
	v := newStage(t).visit()
	_, at := v.fetch("glasswort")
	v.post(at+"/install", url.Values{"piece": {"icons Glasswort Glasswort"}, "scope": {"mine"}})
	const home = "/home/mara/.local/share/icons/Glasswort"
	page, _ := v.post("/d/avocet/rename", url.Values{"path": {home}, "name": {"All in red"}})
	require.Contains(t, page, "All in red")
	require.Contains(t, v.file(".local/share/icons/Glasswort/index.theme"), "\nName=All in red\n")
	for _, bad := range []url.Values{{"path": {home}, "name": {" "}}, {"path": {"/usr/share/icons/Foreshore"}, "name": {"X"}}, {"path": {home + "/none"}, "name": {"X"}}} {
		page, _ = v.post("/d/avocet/rename", bad)
		require.Contains(t, page, "banner-rust")
	}
	page, _ = v.post("/d/avocet/remove", url.Values{"path": {"/usr/share/icons/Foreshore"}})
	require.Contains(t, page, "belongs to the package foreshore-icons")
	page, _ = v.post("/d/avocet/remove", url.Values{"path": {"/home/mara/Documents"}})
	require.Contains(t, page, "There is no piece at ~/Documents")

	v.post("/d/avocet/draft", url.Values{"facet": {"icons"}, "piece": {"Glasswort"}})
	page, _ = v.post("/d/avocet/remove", url.Values{"path": {home}})
	require.Contains(t, page, "The draft names it")
	v.post("/d/avocet/draft/drop", nil)
	require.True(t, demo.Caches(v.world.Avocet).Knows("icons", path.Dir(home), "Glasswort"))
	v.post("/d/avocet/remove", url.Values{"path": {home}})
	require.NoDirExists(t, v.home(".local/share/icons/Glasswort"), "renamed since, and kept under its new name")
	require.False(t, demo.Caches(v.world.Avocet).Knows("icons", path.Dir(home), "Glasswort"))
	last, err := v.app.History.Entries(v.app.Desks()[0])
	require.NoError(t, err)
	v.post("/d/avocet/back", url.Values{"checkpoint": {fmt.Sprint(last[0].CheckpointRow.ID)}})
	require.Contains(t, v.file(".local/share/icons/Glasswort/index.theme"), "\nName=All in red\n")
}

// TestSettingsFilesAreShown: those that readings ask, the line that decides
// marked; no other file of the desk, and nothing of it as markup.
func TestSettingsFilesAreShown(t *testing.T) {
	v := newStage(t).visit()
	require.NoError(t, os.WriteFile(v.home(".profile"), []byte("# <b>mine</b>\nexport GTK_THEME=Saltpan:dark\n"), 0o644))
	page, _ := v.get("/d/avocet/why/gtk3/dark")
	require.Contains(t, page, "the variable <b>GTK_THEME</b>")
	require.Contains(t, page, "/d/avocet/source?file=%2Fhome%2Fmara%2F.profile&amp;line=2#line-2")
	page, _ = v.get("/d/avocet/source?file=/home/mara/.profile&line=2")
	require.Contains(t, page, "<b&gt;mine</b&gt;", "no markup: the visitor reads &lt; as a sign")
	require.Contains(t, page, `<tr id="line-2" class="add" aria-current="true">`)
	require.Contains(t, page, "line 2 decides: GTK 3 programs, Shade, dark")
	for _, file := range []string{"/etc/passwd", "/home/mara/Documents/tides-march.csv", "", "../../etc/passwd", "/home/mara/.config/gtk-3.0/../../.profile"} {
		page, _ = v.get("/d/avocet/source?file=" + url.QueryEscape(file))
		require.Contains(t, page, "No setting of this desk is read from that file", file)
	}
}

// TestWhatWouldBeLostIsAskedOnThePage: a piece of which a file has a further name is
// removed only once that is said, with the button that comes with it.
func TestWhatWouldBeLostIsAskedOnThePage(t *testing.T) {
	v := newStage(t).visit()
	_, at := v.fetch("shingle")
	sha := path.Base(at)
	row, err := v.app.Library.Parcel(sha)
	require.NoError(t, err)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	piece := contents.Pieces[0]
	_, at = v.post("/d/avocet/parcel/"+sha+"/install", url.Values{"piece": {library.PieceKey(piece)}, "scope": {"mine"}})
	require.Equal(t, "/d/avocet/shelf", at)
	folder := filepath.Join(v.world.Avocet.Home, ".local/share/icons", piece.Folder)
	require.NoError(t, os.Link(filepath.Join(folder, "index.theme"), filepath.Join(v.world.Avocet.Home, "another-name")))
	d, err := v.app.Desk("avocet")
	require.NoError(t, err)
	form := url.Values{"path": {d.HomePath + "/.local/share/icons/" + piece.Folder}}
	page, _ := v.post("/d/avocet/remove", form)
	require.Contains(t, page, "It is done only if you say that it may be lost")
	require.Contains(t, page, `name="path" value="`+form.Get("path")+`"`)
	require.Contains(t, page, `name="lose" value="1">Do it anyway`)
	require.DirExists(t, folder)
	form.Set("lose", "1")
	_, at = v.post("/d/avocet/remove", form)
	require.Equal(t, "/d/avocet/shelf", at)
	require.NoDirExists(t, folder)
}

// TestFilesThatComeTogether are one parcel, each at its path; paths that lead out are brought
// in, and a file alone needs no archive around it.
func TestFilesThatComeTogether(t *testing.T) {
	v := newStage(t).visit()
	send := func(files ...[2]string) (page, at string) {
		var body bytes.Buffer
		form := multipart.NewWriter(&body)
		require.NoError(t, form.WriteField("together", "Old fonts"))
		for _, f := range files {
			require.NoError(t, form.WriteField("path", f[0]))
			part, err := form.CreateFormFile("file", path.Base(f[0]))
			require.NoError(t, err)
			_, err = part.Write([]byte(f[1]))
			require.NoError(t, err)
		}
		require.NoError(t, form.Close())
		res, err := v.client.Post(v.url+"/d/avocet/bring", form.FormDataContentType(), &body)
		require.NoError(t, err)
		at = res.Request.URL.RequestURI()
		page, _ = v.read(res, nil)
		return page, at
	}
	page, at := send([2]string{"Old fonts/regular.ttf", string(goregular.TTF)}, [2]string{"Old fonts/more/mono.ttf", string(gomono.TTF)}, [2]string{"../../etc/escape.ttf", string(gobold.TTF)})
	require.Contains(t, at, "/parcel/")
	require.Contains(t, page, "Old fonts")
	require.Contains(t, page, "Go Mono")
	sha, _, _ := strings.Cut(strings.TrimPrefix(at, "/d/avocet/parcel/"), "?")
	require.NotEmpty(t, sha)

	page, at = v.upload("Mono of mine.ttf", gomono.TTF)
	require.Contains(t, at, "/parcel/")
	require.Contains(t, page, "Go Mono")
	_, at = send()
	require.NotContains(t, at, "/parcel/", "nothing came")
}

// TestWhatIsAskedInOtherWays: a page's head alone, and the host's name in any case; another
// host's name is refused.
func TestWhatIsAskedInOtherWays(t *testing.T) {
	v := newStage(t).visit()
	for _, c := range []struct {
		method, host, at string
		status           int
	}{
		{http.MethodHead, "", "/d/avocet/find", 200}, {http.MethodHead, "", "/d/avocet/picture.svg?look=worn", 200}, {http.MethodHead, "", "/d/avocet/nowhere", 404},
		{http.MethodGet, "LocalHost:80", "/d/avocet/history", 200}, {http.MethodGet, "localhost.", "/d/avocet/history", 200}, {http.MethodGet, "elsewhere.example", "/d/avocet/history", 421},
	} {
		r, err := http.NewRequestWithContext(t.Context(), c.method, v.url+c.at, nil)
		require.NoError(t, err)
		if c.host != "" {
			r.Host = c.host
		}
		got, err := v.client.Do(r)
		require.NoError(t, err)
		body, err := io.ReadAll(got.Body)
		require.NoError(t, errors.Join(err, got.Body.Close()))
		require.Equal(t, c.status, got.StatusCode, "%v", c)
		require.Equal(t, c.method == http.MethodHead, len(body) == 0, "%v", c)
	}
}
