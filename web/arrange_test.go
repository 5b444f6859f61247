package web_test

import (
	"fmt"
	"html"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/layout"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/web/browsertest"
)

// TestStoryOfArranging: a dock that floats in the stead of the pinned programs, a clock with the week in the
// middle, titles in the bar, workspaces with names and a clock on the desk, by mouse, by finger and by
// keyboard; reviewed, applied, shown by the shell after it was started again, read again, taken to another
// desk as far as that can follow, and gone back on.
func TestStoryOfArranging(t *testing.T) {
	b := newStage(t).browsePainted()
	before := b.snapshot()
	d, err := b.app.Desk("avocet")
	require.NoError(t, err)
	conf := func() string {
		raw, err := os.ReadFile(b.home(".config/quayside/quayside.conf"))
		require.NoError(t, err)
		return string(raw)
	}
	draft := func() outfit.Outfit {
		o, err := b.app.Drafts.Draft(d)
		require.NoError(t, err)
		return o
	}
	bars := func() string { return draft().Want(desk.FacetBars) }
	becomes := func(want string) {
		t.Helper()
		require.Eventually(t, func() bool { return bars() == want }, 10*time.Second, 10*time.Millisecond, want)
		b.Idle()
	}
	b.Open("/d/avocet/find")
	b.Press("g")
	b.Press("a")
	b.At("Arrange")
	b.Click("[value=add-dock]")
	b.Until(`document.querySelector("#dock .arrange-pins")?.children.length === 8`)
	b.Click("#dock .arrange-pins li:nth-child(3) [value=unpin]")
	b.Until(`document.querySelector("#dock .arrange-pins").children.length === 7`)
	b.Is(`(f => (f.elements.margin.value = "7", f.elements.round.value = "12", f.elements.margin.dispatchEvent(new Event("change", {bubbles: true})), true))(document.querySelector("#dock [name=icon]").form)`)
	b.Until(`document.querySelector("#draft").innerText.includes("7 px off the edge")`)

	// The clock goes to the middle by keyboard, the pinned programs away.
	focus := func(what string) {
		b.Until(`(t => t && (t.focus(), true))(document.querySelector(".arrange-map .thing[aria-label^='` + what + `']"))`)
	}
	focus("Clock")
	for _, want := range []string{"top 36: menu pinned / / tray clock battery", "top 36: menu pinned / / clock tray battery", "top 36: menu pinned / clock / tray battery"} {
		b.Press(kb.ArrowLeft)
		b.Until(`document.querySelector("#arrange") && document.activeElement?.getAttribute("aria-label")?.startsWith("Clock")`)
		becomes(want)
	}
	// The dock and the bar go to the edge that an arrow points to, and back.
	for _, step := range []struct{ what, key, has string }{{"Dock", kb.ArrowLeft, "left 48"}, {"Dock", kb.ArrowDown, "bottom 48"}, {"Bar at the top", kb.ArrowRight, "right 36"}, {"Bar at the right", kb.ArrowUp, "top 36"}} {
		focus(step.what)
		b.Press(step.key)
		require.Eventually(t, func() bool {
			return strings.HasPrefix(draft().Want(desk.FacetDock), step.has) || strings.HasPrefix(bars(), step.has)
		}, 10*time.Second, 10*time.Millisecond, step.has)
		b.Idle()
	}
	focus("Pinned programs")
	b.Press(kb.Delete)
	b.Until(`!document.querySelector(".arrange-map .thing[aria-label^='Pinned programs']")`)
	require.Equal(t, "top 36: menu / clock / tray battery", bars())
	// Its form, in the panel beside; without windows on the bar nothing is lost, as the dock lists them.
	b.Click(".arrange-places a.chip-item[href*='item=1']")
	b.Until(`document.querySelector(".arrange-item h2")?.innerText === "Clock"`)
	b.Is(`(i => (i.value = "%H:%M  week %V", true))(document.querySelector("[name='option.form']"))`)
	b.Click(".arrange-item [value=set]")
	b.Until(`document.querySelector("#draft").innerText.includes("clock")`)
	becomes(`top 36: menu / clock(form="%H:%M  week %V") / tray battery`)
	// The tray is dragged before the clock.
	middle := func(what string) (x, y float64) {
		at := browsertest.Value[[]float64](b.Browser, `(r => [r.left + r.width * 0.7, r.top + r.height / 2])(document.querySelector(".arrange-map .thing[aria-label^='`+what+`'] .edge").getBoundingClientRect())`)
		return at[0], at[1]
	}
	b.Is(`document.querySelector(".arrange-map").scrollIntoView({block: "center"}) || true`)
	x, y := middle("Tray")
	toX, toY := middle("Menu")
	b.Do(chromedp.MouseEvent("mousePressed", x, y, chromedp.ButtonLeft), chromedp.MouseEvent("mouseMoved", (x+toX)/2, y, chromedp.ButtonLeft), chromedp.MouseEvent("mouseMoved", toX, toY, chromedp.ButtonLeft), chromedp.MouseEvent("mouseReleased", toX, toY, chromedp.ButtonLeft))
	becomes(`top 36: menu tray / clock(form="%H:%M  week %V") / battery`)
	// Windows side by side, with a gap of 30 around and 20 between (common practice, no source).
	b.Is(`(f => (f.elements.as.value = "beside", f.elements.outer.value = "30", f.elements.inner.value = "20", f.elements.float.value = "dialog", f.elements.as.dispatchEvent(new Event("change", {bubbles: true})), true))(document.querySelector("#tiles [name=as]").form)`)
	b.Until(`document.querySelector("#draft").innerText.includes("30 px around them, 20 px between")`)
	// The title of a maximised window gives way, its buttons are in the bar; workspaces have names.
	chosen := func(facet, value string) {
		t.Helper()
		require.Eventually(t, func() bool { return draft().Want(facet) == value }, 10*time.Second, 10*time.Millisecond, "%s: %s", facet, value)
		b.Idle()
	}
	set := func(form, field, value string) {
		t.Helper()
		b.Is(`(i => (i.value = "` + value + `", i.dispatchEvent(new Event("change", {bubbles: true})), true))(document.querySelector("` + form + `").form.elements.` + field + `)`)
	}
	set("#tiles [value=title-maximised]", "piece", "gone")
	chosen(desk.FacetMaximised, "gone")
	b.Until(`document.querySelector(".arrange-finding").innerText.includes("nothing there closes it")`)
	set("#bar-0 [aria-label^='Add at the end']", "kind", "buttons")
	becomes(`top 36: menu tray / clock(form="%H:%M  week %V") / battery buttons`)
	b.Until(`document.querySelector(".arrange-finding") === null`)
	b.Click("a[href*='shows=maximised']")
	b.Until(`document.readyState === "complete" && document.querySelector(".arrange-map image").href.baseVal.includes("shows=maximised")`)
	set("#spaces [name=names]", "names", "Sea; Shore, Low water")
	chosen(desk.FacetNames, "Sea;Shore;Low water")
	set("#spaces [name=space][value='2']", "picture", "/usr/share/backgrounds/after-the-lamp.svg")
	chosen(desk.FacetSpaces, "2=/usr/share/backgrounds/after-the-lamp.svg")
	// A clock is put on the desk, by a finger to the other side, and on by keyboard.
	b.Click("#lying [value=desk-clock] ~ [value=there]")
	chosen(desk.FacetDeskClock, "top right 40 30 size 64")
	set("#lying [value=desk-icons-at]", "piece", "bottom")
	chosen(desk.FacetLyingAt, "bottom")
	b.Press("u")
	b.Until(`document.readyState === "complete" && document.querySelector("#redo") && !document.querySelector("#redo").disabled`)
	chosen(desk.FacetLyingAt, "")
	b.Press("U")
	chosen(desk.FacetLyingAt, "bottom")
	b.Until(`document.readyState === "complete" && document.querySelector("#redo")?.disabled`)
	b.Is(`document.querySelector(".arrange-map").scrollIntoView({block: "center"}) || true`)
	x, y = middle("Clock on the desk")
	toX, _ = middle("Menu")
	b.Finger(x, y, toX+60, y+40)
	require.Eventually(t, func() bool { return strings.HasPrefix(draft().Want(desk.FacetDeskClock), "top left ") }, 10*time.Second, 10*time.Millisecond)
	b.Until(`document.activeElement?.getAttribute("aria-label") === "Clock on the desk"`)
	put, err := layout.ParseLying(draft().Want(desk.FacetDeskClock))
	require.NoError(t, err)
	b.Press(kb.ArrowRight)
	put.In[0] += 10
	chosen(desk.FacetDeskClock, layout.FormatLying(put))
	b.Until(`document.activeElement?.getAttribute("aria-label") === "Clock on the desk"`)
	b.Click(".arrange-pick a[href$='monitor=0']")
	b.Until(`location.search === "?monitor=0" && document.readyState === "complete" && document.querySelector(".arrange-map")`)
	b.keep("arrange")
	b.Is(`document.querySelector(".arrange-map").scrollIntoView({block: "center"}) || true`)
	x, y = middle("Battery")
	b.Finger(x, y, x, y)
	b.Until(`document.querySelector(".arrange-item h2")?.innerText === "Battery"`)

	b.Press("r")
	b.At("Review")
	b.Press("e")
	b.At("Match")
	b.Press("K")
	b.Until(`!document.querySelector(".trial")`)
	for _, line := range []string{
		`bars=top 36: menu tray / clock(form="%H:%M  week %V") / battery buttons`, "tiles=beside outer 30 inner 20 float dialog", "dock=bottom 48 margin 7 round 12 space 6: shore-files shore-web", "maximised-title=gone",
		"workspace-names=Sea;Shore;Low water", "workspace-backdrops=2=/usr/share/backgrounds/after-the-lamp.svg", "desk-clock=" + layout.FormatLying(put), "desk-icons-at=bottom",
	} {
		require.Contains(t, conf(), line)
	}
	b.Click(`#next form[action$="/restart"] button`)
	b.Until(`!document.querySelector('#next form[action$="/restart"] button')`)
	shown, err := os.ReadFile(b.home(".local/state/quayside/session.conf"))
	require.NoError(t, err)
	require.Contains(t, string(shown), "week %V", "the shell was started again with it")
	worn, err := b.app.Drafts.Worn(d)
	require.NoError(t, err)
	require.Contains(t, worn.Want(desk.FacetBars), "week %V")

	// The same layout on Dunlin: what cannot follow is said, the nearest is taken, and gone back on.
	b.Open("/d/dunlin/find")
	b.Is(`(async () => {
		const file = new FormData();
		file.append("outfit", await (await fetch("/d/avocet/outfit.toml")).blob(), "outfit.toml");
		await fetch("/d/dunlin/outfit", { method: "POST", body: file });
		location.href = "/d/dunlin/arrange";
	})()`)
	b.At("Arrange")
	for _, says := range []string{
		"Samphire has bars alone, and no dock.", "Samphire cannot follow: its bars have no window buttons.", "Withy cannot follow: it cannot lay windows one large, beside the others; it keeps no windows above the others.",
		"Withy's maximised windows keep their titles.", "Samphire puts nothing on the desk.", "Creel knows of no workspaces",
	} {
		b.Until(`document.querySelector(".arrange-short").innerText.includes("` + says + `")`)
	}
	b.Click(".arrange-short form:has([value=bars]) button")
	b.Until(`document.readyState === "complete" && document.querySelector(".arrange-map [aria-label='Bar at the top']")`)
	b.Click(".arrange-short form:has([value=tiles]) button")
	b.Until(`document.readyState === "complete" && document.querySelector(".arrange-short") && !document.querySelector(".arrange-short form")`)
	dunlin, err := b.app.Desk("dunlin")
	require.NoError(t, err)
	there, err := b.app.Drafts.Draft(dunlin)
	require.NoError(t, err)
	require.Equal(t, worn.Want(desk.FacetBars), there.Want(desk.FacetBars), "the look stays what it is")
	require.Equal(t, `top 36: menu tray / clock(form="%H:%M  week %V") / battery; bottom 60 long content at middle margin 7: pinned(programs=shore-files,shore-web,shore-terminal,tide-gauge,bird-log,shore-music,tidewatch-lamp)`, there.WantOn("samphire", desk.FacetBars))
	require.Equal(t, "hand outer 30 inner 20", there.WantOn("withy", desk.FacetTiles))
	b.Press("r")
	b.At("Review")
	b.Press("e")
	b.At("Match")
	b.Press("K")
	b.Until(`!document.querySelector(".trial")`)
	samphire, err := os.ReadFile(filepath.Join(b.world.Dunlin.Home, ".config/samphire/samphire.conf"))
	require.NoError(t, err)
	require.Contains(t, string(samphire), "bottom 60 long content")
	b.Open("/d/dunlin/history")
	b.Click(".past > li:nth-child(1) a[data-open]")
	b.At("Go back")
	b.Leads("History", "a")

	b.Open("/d/avocet/history")
	b.At("History")
	b.Click(".past > li:nth-child(1) a[data-open]")
	b.At("Go back")
	b.Leads("History", "a")
	require.Equal(t, before, b.snapshot())
}

// TestEveryClauseOfALayout: each thing that bars, dock, windows, workspaces and what lies on the desk can be
// told, by the forms of the page, which are as well for the keyboard; planned, applied, shown after a
// restart, read again and gone back on, byte for byte. Thickness, gaps and margin by the check values of
// the trade (common practice, no source).
func TestEveryClauseOfALayout(t *testing.T) {
	for _, of := range []struct {
		desk     string
		restarts []string
		steps    []string // a form, then what the draft has then
	}{
		{"avocet", []string{"quayside"}, []string{
			"do=bar&bar=0&edge=top&thick=42&long=80%25&at=middle&margin=7&round=12&hides=covered&on=eDP-1", "bars=top 42 long 80% at middle margin 7 round 12 hides covered on eDP-1: menu pinned / / tray battery clock",
			"do=bar&bar=0&edge=left&long=whole&at=start&margin=0&round=0&hides=never&on=", "bars=left 42: menu pinned / / tray battery clock",
			"do=add-bar", "bars=left 42: menu pinned / / tray battery clock; bottom 34",
			"do=add&bar=1&side=start&kind=windows", "bars=left 42: menu pinned / / tray battery clock; bottom 34: windows",
			"do=add&bar=1&side=end&kind=title", "bars=left 42: menu pinned / / tray battery clock; bottom 34: windows / / title",
			"do=add&bar=1&side=end&kind=buttons", "bars=left 42: menu pinned / / tray battery clock; bottom 34: windows / / title buttons",
			"do=add&bar=1&side=start&kind=program-menu", "bars=left 42: menu pinned / / tray battery clock; bottom 34: windows program-menu / / title buttons",
			"do=remove&bar=1&item=1", "bars=left 42: menu pinned / / tray battery clock; bottom 34: windows / / title buttons",
			"do=add&bar=1&side=middle&kind=workspaces", "bars=left 42: menu pinned / / tray battery clock; bottom 34: windows / workspaces / title buttons",
			"do=set&bar=1&item=0&option.width=120&option.group=yes&option.titles=no", "bars=left 42: menu pinned / / tray battery clock; bottom 34: windows(width=120 group=yes titles=no) / workspaces / title buttons",
			"do=set&bar=1&item=0&option.width=&option.group=&option.titles=", "bars=left 42: menu pinned / / tray battery clock; bottom 34: windows / workspaces / title buttons",
			"do=next&bar=0&item=4", "bars=left 42: menu pinned / / tray battery; bottom 34: windows / workspaces / title buttons clock",
			"do=set&bar=1&item=4&option.form=%25H:%25M:%25S%20%25V&option.places=Europe/Lisbon", `bars=left 42: menu pinned / / tray battery; bottom 34: windows / workspaces / title buttons clock(form="%H:%M:%S %V" places="Europe/Lisbon")`,
			"do=earlier&bar=1&item=4", `bars=left 42: menu pinned / / tray battery; bottom 34: windows / workspaces / title clock(form="%H:%M:%S %V" places="Europe/Lisbon") buttons`,
			"do=move&bar=0&item=1&tobar=1&side=middle&at=0", `bars=left 42: menu / / tray battery; bottom 34: windows / pinned workspaces / title clock(form="%H:%M:%S %V" places="Europe/Lisbon") buttons`,
			"do=set&bar=0&item=2&option.percent=yes", `bars=left 42: menu / / tray battery(percent=yes); bottom 34: windows / pinned workspaces / title clock(form="%H:%M:%S %V" places="Europe/Lisbon") buttons`,
			"of=dock&do=add-dock&pin=shore-files&pin=shore-web&pin=shore-mail", "dock=bottom 48 space 6: shore-files shore-web shore-mail",
			"of=dock&do=dock&edge=right&icon=56&grow=150&space=8&margin=7&round=14&hides=always&at=end&previews=on&running=on&on=", `dock=right 56 margin 7 round 14 hides always at end grow 150% space 8 previews yes: shore-files shore-web shore-mail`,
			"of=dock&do=later&program=0", `dock=right 56 margin 7 round 14 hides always at end grow 150% space 8 previews yes: shore-web shore-files shore-mail`,
			"of=dock&do=unpin&program=2", `dock=right 56 margin 7 round 14 hides always at end grow 150% space 8 previews yes: shore-web shore-files`,
			"of=dock&do=pin&id=tide-gauge", `dock=right 56 margin 7 round 14 hides always at end grow 150% space 8 previews yes: shore-web shore-files tide-gauge`,
			"of=tiles&as=beside&outer=30,30,40,30&inner=20&share=60&frames=&float=dialog,class:calc&least=200x120", `tiles=beside outer 30,30,40,30 inner 20 share 60% frames no float "dialog,class:calc" least 200x120`,
			"of=tiles&as=columns&outer=30&inner=25&share=50&frames=on&float=&least=0x0", "tiles=columns outer 30 inner 25",
			"of=setting&facet=title-maximised&piece=gone", "title-maximised=gone", "of=setting&facet=title-double&piece=roll up", "title-double=roll up", "of=setting&facet=title-middle&piece=lower", "title-middle=lower",
			"of=setting&facet=title-right&piece=minimise", "title-right=minimise", "of=setting&facet=buttons&piece=close,minimize,maximize:menu", "buttons=close,minimize,maximize:menu",
			"of=setting&facet=workspaces&piece=6", "workspaces=6", "of=setting&facet=workspaces-as&piece=needed", "workspaces-as=needed", "of=names&names=Sea, Low water%3BShore", "workspace-names=Sea;Low water;Shore",
			"of=space&space=2&picture=/usr/share/backgrounds/red-buoy.svg", "workspace-each=2=/usr/share/backgrounds/red-buoy.svg",
			"of=setting&facet=desk-icons&piece=hidden", "desk-icons=hidden", "of=setting&facet=desk-icons-at&piece=right", "desk-icons-at=right", "of=setting&facet=icon-size&piece=48", "icon-size=48",
			"of=setting&facet=desk-icons-gap&piece=12", "desk-icons-gap=12", "of=setting&facet=desk-icons-name&piece=beside", "desk-icons-name=beside",
			"of=lying&facet=desk-clock&do=there&usual=top right 40 30 size 64", "desk-clock=top right 40 30 size 64", "of=lying&facet=desk-clock&do=by&x=-30&y=10", "desk-clock=top right 70 40 size 64",
			"of=lying&facet=desk-clock&do=set&place=bottom left&across=12&down=24&size=48&form=%25A&on=eDP-1", "desk-clock=bottom left 12 24 size 48 form %A on eDP-1",
		}},
		{"dunlin", []string{"samphire", "withy", "creel-desk", "tidestaff"}, []string{
			"do=bar&bar=0&edge=top&thick=42&long=content&at=end&margin=7&hides=always", "bars=top 42 long content at end margin 7 hides always: menu pinned / / tray battery clock",
			"do=add-bar", "bars=top 42 long content at end margin 7 hides always: menu pinned / / tray battery clock; bottom 34", "do=add&bar=1&side=middle&kind=windows", "bars=top 42 long content at end margin 7 hides always: menu pinned / / tray battery clock; bottom 34: / windows",
			"of=tiles&as=hand&outer=30&inner=20&frames=on", "tiles=hand outer 30 inner 20", "of=names&names=Sea,Shore", "workspace-names=Sea;Shore", "of=setting&facet=workspaces-as&piece=needed", "workspaces-as=needed",
			"of=setting&facet=desk-icons-at&piece=bottom", "desk-icons-at=bottom", "of=lying&facet=readout&do=set&place=middle&across=0&down=0&size=20", "readout=middle 0 0 size 20", "of=lying&facet=readout&do=by&x=5&y=0", "readout=",
		}},
	} {
		v := newStage(t).visit()
		d, err := v.app.Desk(of.desk)
		require.NoError(t, err)
		before := treeOf(t, d.Home, ".local/state")
		for i := 0; i < len(of.steps); i += 2 {
			form, err := url.ParseQuery(of.steps[i])
			require.NoError(t, err)
			page, at := v.post("/d/"+of.desk+"/arrange?monitor=0", form)
			require.Contains(t, at, "/d/"+of.desk+"/arrange", "%s: %s", of.steps[i], page)
			draft, err := v.app.Drafts.Draft(d)
			require.NoError(t, err)
			facet, want, _ := strings.Cut(of.steps[i+1], "=")
			if want == "" { // where it is then depends on its size
				require.Regexp(t, `^right \d+ \d+ size 20$`, draft.Want(facet))
				continue
			}
			require.Equal(t, want, draft.Want(facet), of.steps[i])
		}
		draft, err := v.app.Drafts.Draft(d)
		require.NoError(t, err)
		review, _ := v.get("/d/" + of.desk + "/review")
		_, at := v.apply(review)
		require.Equal(t, "/d/"+of.desk+"/match", at)
		v.post("/d/"+of.desk+"/keep", url.Values{})
		v.post("/d/"+of.desk+"/restart", url.Values{"surface": of.restarts})
		follow := 0
		for _, thread := range match.Of(d.Desk, draft).Threads {
			for _, c := range thread.Cells {
				if slices.Contains(of.restarts, c.Surface.ID) && draft.Want(thread.Facet) != "" && c.State != match.NotHere {
					follow++
					require.Equal(t, match.Follows, c.State, "%s %s: %s", c.Surface.ID, thread.Facet, c.Cause)
				}
			}
		}
		require.GreaterOrEqual(t, follow, len(draft.Choices))
		past, err := v.app.History.Entries(d)
		require.NoError(t, err)
		for _, p := range past {
			v.post("/d/"+of.desk+"/back", url.Values{"checkpoint": {fmt.Sprint(p.CheckpointRow.ID)}})
		}
		require.Equal(t, before, treeOf(t, d.Home, ".local/state"))
	}
}

// TestArrangingElsewhere: a desk whose shell cannot be told says so, bad words end in a sentence, and
// nothing is lost.
func TestArrangingElsewhere(t *testing.T) {
	v := newStage(t).visit()
	page, code := v.get("/d/dunlin/arrange")
	require.Equal(t, http.StatusOK, code)
	require.Contains(t, page, "Samphire has bars alone, and no dock.")
	for form, says := range map[string]string{
		"do=bar&bar=0&edge=left": "Samphire cannot follow: it has no bar at the left", "do=add&bar=0&kind=title": "its bars have no title of the maximised window", "of=dock&do=add-dock": "Nothing on this desk is told of that",
		"of=lying&facet=readout&do=set&place=top&across=a": "whole number", "of=lying&facet=readout&do=dance": "to be done", "of=setting&facet=desk-icons-gap&piece=900": "a number from 0 to 200", "of=names&names=" + strings.Repeat("x", 70): "too long",
	} {
		values, err := url.ParseQuery(form)
		require.NoError(t, err)
		page, _ := v.post("/d/dunlin/arrange", values)
		require.Contains(t, html.UnescapeString(page), says, form)
	}
	for _, c := range []struct {
		form url.Values
		says string
	}{
		{url.Values{"do": {"bar"}, "bar": {"0"}, "thick": {"thick"}}, "the thickness is a whole number"},
		{url.Values{"do": {"bar"}, "bar": {"7"}}, "not on a bar"},
		{url.Values{"do": {"add"}, "bar": {"0"}, "kind": {"tide-table"}}, "no item"},
		{url.Values{"do": {"remove"}, "bar": {"0"}, "item": {"99"}}, "not on a bar"},
		{url.Values{"do": {"juggle"}}, "to be done"},
		{url.Values{"of": {"tiles"}, "as": {"grid"}, "outer": {"1,2"}}, "one number or four"},
		{url.Values{"of": {"dock"}, "do": {"pin"}, "id": {"a"}}, "no dock"},
		{url.Values{"of": {"dock"}, "do": {"add-dock"}, "pin": {`a"b`, strings.Repeat("x", 20000)}}, "no layout"},
	} {
		page, _ := v.post("/d/avocet/arrange", c.form)
		require.Contains(t, html.UnescapeString(page), c.says)
	}
	// A readout that nothing starts says so; by its remedy it is started at sign-in.
	require.NotContains(t, page, "Nothing starts")
	require.NoError(t, os.Remove(filepath.Join(v.world.Dunlin.System, "etc/xdg/autostart/tidestaff.desktop")))
	page, _ = v.get("/d/dunlin/arrange")
	require.Contains(t, page, "Nothing starts Tidestaff when you sign in")
	_, rest, _ := strings.Cut(page, `name="remedy" value="`)
	id, _, _ := strings.Cut(rest, `"`)
	review, _ := v.post("/d/dunlin/mend", url.Values{"surface": {"tidestaff"}, "facet": {"accent"}, "remedy": {id}})
	require.Contains(t, review, "tart Tidestaff at each sign-in")
	_, rest, _ = strings.Cut(review, `name="plan" value="`)
	id, _, _ = strings.Cut(rest, `"`)
	v.post("/d/dunlin/step", url.Values{"plan": {id}})
	entry, err := os.ReadFile(filepath.Join(v.world.Dunlin.Home, ".config/autostart/tidestaff.desktop"))
	require.NoError(t, err)
	require.Contains(t, string(entry), "Exec=tidestaff\n")
	page, _ = v.get("/d/dunlin/arrange")
	require.NotContains(t, page, "Nothing starts")
	page, _ = v.post("/d/avocet/arrange?monitor=1", url.Values{"do": {"later"}, "bar": {"0"}, "item": {"99"}})
	require.Contains(t, page, "not on a bar")
	page, _ = v.get("/d/avocet/arrange?monitor=1")
	require.Contains(t, page, `hx-post="/d/avocet/arrange?monitor=1"`, "a change stays on the monitor that is looked at")
	d, err := v.app.Desk("avocet")
	require.NoError(t, err)
	draft, err := v.app.Drafts.Draft(d)
	require.NoError(t, err)
	require.Empty(t, draft.Facets())
	// What was set by hand and is none is passed over by the shell, and told.
	require.NoError(t, os.WriteFile(v.home(".config/quayside/quayside.conf"), []byte("[Bar]\nbars=up 34\n"), 0o600))
	page, _ = v.get("/d/avocet/arrange")
	require.Contains(t, page, "Bar at the top")
}
