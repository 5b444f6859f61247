package web_test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/web/browsertest"
)

// found is what `ivelt check` would list for Dunlin, as surface, facet and code.
func (s *stage) found() []string {
	s.t.Helper()
	d, err := s.app.Desk("dunlin")
	require.NoError(s.t, err)
	o, _, err := s.app.Drafts.Wanted(d)
	require.NoError(s.t, err)
	var out []string
	for _, f := range match.Of(d.Desk, o).Findings() {
		out = append(out, f.Surface+" "+f.Facet+" "+f.Code)
	}
	return out
}

// comeToMatch does what the board proposes until nothing is left to do: what has a
// plan of its own, the draft, and what has to start again. It returns the review of
// the draft.
func (b *browser) comeToMatch() (review string) {
	b.t.Helper()
	planned := `.trouble .remedy[data-remedy="remove"] button, .trouble .remedy[data-remedy="say"] button, .trouble .remedy[data-remedy="link"] button, .trouble .remedy[data-remedy="narrow"] button`
	step := func() {
		for n := 0; b.Is(`document.querySelector('` + planned + `')`); n++ {
			require.Less(b.t, n, 8, "it comes to an end")
			b.Click(planned)
			b.At("Review")
			b.Leads("Match", "a")
		}
	}
	step()
	b.Leads("Review", "r")
	review = b.Text("#work")
	b.Leads("Match", "a")
	step() // what the draft put in place may have to be linked
	for n := 0; b.Is(`document.querySelector('#next form[action$="/restart"] button')`); n++ {
		require.Less(b.t, n, 8, "it comes to an end")
		b.Click(`#next form[action$="/restart"] button`)
		b.Idle()
		b.At("Match")
	}
	return review
}

// TestDunlinByTheBoard brings a desk with all the usual troubles to one look, with
// the match board alone: what is drafted, what has a plan of its own, what starts
// again.
func TestDunlinByTheBoard(t *testing.T) {
	b := newStage(t).browse()
	before := treeOf(t, b.world.Dunlin.Home, ".local/state")
	for _, choice := range []string{"widgets Saltpan", "bar Saltpan", "icons Glasswort", "pointer Sandpiper", "font Estuary Sans 10", "palette ebb", "login Night-Tide", "accent #3d7ea6"} {
		facet, piece, _ := strings.Cut(choice, " ")
		b.visit().post("/d/dunlin/draft", url.Values{"facet": {facet}, "piece": {piece}})
	}
	trouble := b.found()
	for _, want := range []string{
		"gtk3 widgets overruled", "gtk2 widgets shadowed", "coracle icons grant-missing", "creel icons own-setting", "display pointer second-setting", "gtk2 pointer-size second-setting",
		"withy font-title second-setting", "withy frame second-setting", "samphire notices second-setting", "bittern palette second-setting", "tollgate login needs-administrator",
	} {
		require.Contains(t, trouble, want, "the usual troubles are there")
	}

	b.Open("/d/avocet/match")
	b.At("Match")
	b.Press("g", "d")
	b.Until(`document.body.dataset.desk === "dunlin" && document.title.startsWith("Match") && document.readyState === "complete"`)
	require.Contains(t, b.Text("#next"), "of 100")
	b.keep("match")
	b.Open("/d/dunlin/start")
	b.At("Start")
	b.keep("start")
	b.Click(`.start-first a[href="/d/dunlin/match"]`)
	b.At("Match")
	b.Press("A")
	b.Until(`!document.querySelector("[data-take-all]") && document.querySelector("#draft").innerText.includes("Notices")`)

	require.Contains(t, b.comeToMatch(), "Let Tide tables.desktop follow the others")
	b.Until(`document.querySelector("#next").innerText.includes("othing left to do")`)
	require.Contains(t, b.Text("#next"), "100 of 100")
	require.Empty(t, browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll(".weave .station")].filter(s => !["follows", "cannot-follow"].includes(s.dataset.state)).map(s => s.dataset.surface + " " + s.dataset.facet + " " + s.dataset.state)`), "every cell matches or is explained")
	require.Empty(t, b.found())
	require.NoDirExists(t, filepath.Join(b.world.Dunlin.Home, ".themes/Saltpan"), "the old copy is gone")
	b.Open("/d/dunlin/sheet")
	b.At("Sheet")
	b.Until(`document.querySelector(".paper-picture img").complete`)
	b.keep("sheet")

	// And all the way back.
	b.Leads("History", "g", "h")
	d, err := b.app.Desk("dunlin")
	require.NoError(t, err)
	past, err := b.app.History.Entries(d)
	require.NoError(t, err)
	for _, p := range past {
		b.visit().post("/d/dunlin/back", url.Values{"checkpoint": {fmt.Sprint(p.CheckpointRow.ID)}})
	}
	require.Equal(t, before, treeOf(t, b.world.Dunlin.Home, ".local/state"), "byte for byte")
}

// TestALoginScreenThatAsksNobody is warned of on its page.
func TestALoginScreenThatAsksNobody(t *testing.T) {
	v := newStage(t).visit()
	page, _ := v.get("/d/dunlin/login/tollgate")
	require.NotContains(t, page, "open-to-all")
	v.post("/d/dunlin/draft", url.Values{"facet": {desk.FacetSignIn}, "piece": {desk.ByItself}})
	page, _ = v.get("/d/dunlin/login/tollgate")
	require.Contains(t, page, "With the draft, anyone who switches this computer on could use it.")
	page, _ = v.get("/d/dunlin/review")
	require.Contains(t, page, "it needs no password")
}

// TestAWrongLoginScreen is refused, forced, black, and brought back at the console
// by the steps that stand there.
func TestAWrongLoginScreen(t *testing.T) {
	b := newStage(t).browsePlain()
	b.Open("/d/dunlin/login/tollgate")
	b.At("Tollgate")
	require.Contains(t, b.Text("#check"), "It would come up.")
	b.Is(`(s => { s.value = "/usr/share/tollgate/people/feather.png"; s.dispatchEvent(new Event("change", {bubbles: true})) })(document.querySelector("#fine-person"))`)
	b.Until(`document.querySelector("#draft dl").innerText.includes("Account picture")`)
	require.False(t, b.Is(`[...document.querySelector("#fine-login").options].some(o => o.value === "Wreckers")`), "what would not come up is not offered")
	b.visit().post("/d/dunlin/draft", url.Values{"facet": {"login"}, "piece": {"Wreckers"}})
	b.Open("/d/dunlin/login/tollgate")
	b.At("Tollgate")
	require.Contains(t, b.Text("#check"), "With the draft it would not come up. With \"Wreckers\" Tollgate would not come up")
	require.Contains(t, b.Text("#check"), "up: gate.theme names backdrop.png, which is not in it")
	b.keep("login")

	b.Leads("Review", "r")
	require.Contains(t, b.Text("#work"), "Tollgate would not find Wreckers")
	conf := filepath.Join(b.world.Dunlin.System, "etc/tollgate/tollgate.conf")
	read := func() string {
		text, err := os.ReadFile(conf)
		require.NoError(t, err)
		return string(text)
	}
	before := read()
	b.Click(`a[href="?force=1"]`)
	b.Until(`document.querySelector("#forced") && document.querySelector("#way-back")`)
	steps := browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll("#way-back code")].map(c => c.innerText)`)
	require.Equal(t, []string{"sudo cp /etc/tollgate/tollgate.conf.before /etc/tollgate/tollgate.conf", "sudo tollgate restart"}, steps)
	b.Leads("Match", "a")
	require.Contains(t, read(), "theme=Wreckers")

	// A restart is refused still, from the board too.
	page, _ := b.visit().post("/d/dunlin/restart", url.Values{"surface": {"tollgate"}})
	require.Contains(t, page, "Tollgate was not started again: it would not come up.")
	b.Open("/d/dunlin/login/tollgate")
	b.At("Tollgate")
	require.Contains(t, b.Text("#check"), "It would not come up.")
	require.False(t, b.Is(`document.querySelector("[data-restart]")`))
	b.Click("[data-force]")
	b.Until(`document.querySelector("#console")`)
	b.Open("/d/dunlin/login/tollgate")
	b.At("Tollgate")
	require.Contains(t, browsertest.Value[string](b.Browser, `fetch(document.querySelector(".screens img").src).then(r => r.text())`), "Text console 3", "the screen is black")
	for _, step := range steps {
		b.Click("#console-line")
		b.Press(step, kb.Enter)
		b.Until(fmt.Sprintf(`document.querySelector("#answer, #console pre")?.innerText.includes(%q) || document.querySelector("#answer")`, step))
	}
	b.Until(`document.querySelector("#answer")?.innerText.includes("tollgate is up")`)
	require.Equal(t, before, read())
	require.Contains(t, browsertest.Value[string](b.Browser, `fetch(document.querySelector(".screens img").src).then(r => r.text())`), "Session: withy")
}

// TestTheTerminalsColours: what cannot be read is made so, in a palette of one's
// own, and nothing else in it changes.
func TestTheTerminalsColours(t *testing.T) {
	b := newStage(t).browsePlain()
	b.visit().post("/d/dunlin/draft", url.Values{"facet": {"profile"}, "piece": {"Shore"}})
	b.Open("/d/dunlin/terminal/bittern")
	b.At("Bittern")
	require.Contains(t, b.Text("#work"), "4 colours hard to read as text")
	require.Contains(t, b.Text("#through"), "Opacity 92 %.")
	require.False(t, b.Is(`document.querySelector("[data-remap-all]")`), "it is on the draft only")
	b.Leads("Review", "r")
	b.Leads("Match", "a")
	b.Open("/d/dunlin/terminal/bittern")
	b.At("Bittern")
	require.Contains(t, b.Text("#work"), "profile Shore")
	b.Click("[data-remap-all]")
	b.At("Review")
	require.Contains(t, b.Text("#work"), "~/.local/share/palettes/ebb-mine.Xresources")
	b.Leads("Bittern", "a")
	require.Contains(t, b.Text("#work"), "Colours of ebb-mine")
	require.Contains(t, b.Text("#work"), "all readable")
	old, err := os.ReadFile(filepath.Join(b.world.Dunlin.System, "usr/share/palettes/ebb/ebb.Xresources"))
	require.NoError(t, err)
	mine, err := os.ReadFile(filepath.Join(b.world.Dunlin.Home, ".local/share/palettes/ebb-mine.Xresources"))
	require.NoError(t, err)
	is, was, changed := strings.Split(string(mine), "\n"), strings.Split(string(old), "\n"), 0
	require.Len(t, is, len(was))
	for i := range was {
		if was[i] != is[i] {
			changed++
		}
	}
	require.Equal(t, 4, changed)

	// A profile of one's own starts as it is now, and is used.
	b.Open("/d/dunlin/terminal/bittern")
	b.At("Bittern")
	b.Do(chromedp.SetValue(chromedp.CSS("#new-profile-name"), "Harbour"))
	b.Click("#new-profile button")
	b.At("Review")
	b.Leads("Bittern", "a")
	require.Contains(t, b.Text("#work"), "profile Harbour")
	require.Contains(t, b.Text("#work"), "Colours of ebb-mine")

	// A start program that is not there closes the window at once.
	b.visit().post("/d/dunlin/draft", url.Values{"facet": {"start"}, "piece": {"/usr/bin/nothing"}})
	b.Open("/d/dunlin/terminal/bittern")
	b.At("Bittern")
	b.Leads("Review", "r")
	require.Contains(t, b.Text("#work"), "there is no such program")
}

// TestGrantsOnTheirPage: one program, all programs, and back.
func TestGrantsOnTheirPage(t *testing.T) {
	b := newStage(t).browsePlain()
	b.visit().post("/d/dunlin/draft", url.Values{"facet": {"icons"}, "piece": {"Glasswort"}})
	grants := func() string {
		text, err := os.ReadFile(filepath.Join(b.world.Dunlin.Home, ".config/coracle/grants.conf"))
		require.NoError(t, err)
		return string(text)
	}
	before := grants()
	b.Open("/d/dunlin/sandbox/coracle")
	b.At("Programs in Coracle")
	require.Contains(t, b.Text("#missing"), "For Glasswort (icons) the smallest grant is ~/.icons")
	b.Click(`[data-program="org.tidewatch.Charts"] button[value="org.tidewatch.Charts"]`)
	b.At("Review")
	b.Leads("Programs in Coracle", "a")
	require.Contains(t, grants(), "[Grants org.tidewatch.Charts]\nread=~/.icons\n")
	require.Contains(t, b.Text(`[data-program="org.tidewatch.Charts"]`), "can read Glasswort")
	require.Contains(t, b.Text(`[data-program="org.tidewatch.Logbook"]`), "cannot read Glasswort")
	b.Click(`[data-program="org.tidewatch.Charts"] [data-grant="~/.icons"] button`)
	b.At("Review")
	b.Leads("Programs in Coracle", "a")
	require.NotContains(t, grants(), "~/.icons")
	b.Click("[data-grant-all]")
	b.At("Review")
	b.Leads("Programs in Coracle", "a")
	require.Contains(t, grants(), "read=~/.themes;~/.icons\n")
	require.Contains(t, grants(), before[:strings.Index(before, "read=")])
	require.Contains(t, b.Text("#missing"), "Everything is readable")
}

// TestSurfacesPagesRefuse what is not theirs.
func TestSurfacesPagesRefuse(t *testing.T) {
	v := newStage(t).visit()
	for _, page := range []string{"/d/dunlin/login/withy", "/d/dunlin/sandbox/bittern", "/d/dunlin/terminal/none", "/d/avocet/login/tollgate", "/d/none/login/tollgate"} {
		_, status := v.get(page)
		require.Equal(t, 404, status, page)
	}
	for want, form := range map[string]url.Values{
		"is not in your home": {"folder": {"/etc"}, "program": {""}}, "nothing to change": {"folder": {"/home/mara/.themes"}, "program": {""}},
	} {
		page, _ := v.post("/d/dunlin/sandbox/coracle", form)
		require.Contains(t, strings.ToLower(page), want)
	}
	page, _ := v.post("/d/dunlin/terminal/bittern", url.Values{"colour": {"3"}})
	require.Contains(t, page, "Its colours are in no file")
	page, _ = v.post("/d/dunlin/mend", url.Values{"surface": {"creel"}, "facet": {"icons"}, "remedy": {"7"}})
	require.Contains(t, page, "This is fixed already")
	page, _ = v.post("/d/dunlin/except", url.Values{"surface": {"withy"}, "facet": {"accent"}, "do": {"out"}})
	require.Contains(t, strings.ToLower(page), "you have chosen nothing for accent")
	v.post("/d/dunlin/draft", url.Values{"facet": {"accent"}, "piece": {"#112233"}})
	v.post("/d/dunlin/except", url.Values{"surface": {"withy"}, "facet": {"accent"}, "do": {"out"}})
	d, err := v.app.Desk("dunlin")
	require.NoError(t, err)
	draft, err := v.app.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, outfit.Outfit{Name: draft.Name}.With("accent", "#112233").Except("withy", "accent", ""), draft)
	page, _ = v.get("/d/dunlin/why/withy/accent")
	require.Contains(t, page, "Follow the look again")
	page, _ = v.post("/d/dunlin/except", url.Values{"surface": {"withy"}, "facet": {"accent"}, "do": {"own"}, "value": {"teal"}})
	require.Contains(t, page, "a colour written as #rrggbb")
}

// TestFixesOfWhatIsTriedOn: a board that shows pieces which are only tried on offers no fix
// that the desk itself has no use for yet.
func TestFixesOfWhatIsTriedOn(t *testing.T) {
	v := newStage(t).visit()
	v.get("/d/dunlin/find")
	v.post("/d/dunlin/try", url.Values{"entry": {"shingle"}})
	v.post("/d/dunlin/try", url.Values{"entry": {"estuary-mono"}})
	page, _ := v.get("/d/dunlin/match")
	require.Contains(t, page, "Possible once the draft is applied.")
	offered := regexp.MustCompile(`name="surface" value="([^"]+)">\s*<input type="hidden" name="facet" value="([^"]+)">\s*<button class="act" name="remedy" value="([^"]+)"`).FindAllStringSubmatch(page, -1)
	require.NotEmpty(t, offered)
	for _, of := range offered {
		page, at := v.post("/d/dunlin/mend", url.Values{"surface": {of[1]}, "facet": {of[2]}, "remedy": {of[3]}})
		require.Contains(t, page, "<title>Review", "%v at %s", of, at)
	}
}
