package web_test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/app/changes"
	"ivelt/web/browsertest"
)

// TestStoryOfABackdropOfOnesOwn: a picture is chosen and cut for two monitors, by the hand and by the
// arrow keys; accent, palette and the colour of folders are taken out of it; tried, kept, dark at
// dusk, and gone back on.
func TestStoryOfABackdropOfOnesOwn(t *testing.T) {
	b := newStage(t).browse()
	b.until("12:00")
	before := b.snapshot()
	b.Open("/d/avocet/compose?facet=backdrop")
	b.At("Compose")
	b.Click("#fine a[data-bench]")
	b.At("Backdrop")
	require.Equal(t, "DP-2 2560 × 1080", strings.Join(strings.Fields(b.Text(".screens figcaption"))[:4], " "))
	cut := func() []int {
		return browsertest.Value[[]int](b.Browser, `["across", "down"].map(name => Number(document.querySelector("[name=" + name + "]").value))`)
	}
	require.Equal(t, []int{50, 50}, cut())
	b.keep("backdrop")
	b.Is(`document.querySelector("[data-cut]").focus()`)
	b.Press(kb.ArrowDown)
	b.Press(kb.ArrowDown)
	b.Press(kb.ArrowDown)
	require.Equal(t, []int{50, 44}, cut(), "what is drawn goes down: more of its top is seen")
	b.Until(`new URL(document.querySelector("[data-cut] img").src).searchParams.get("down") === "44" && document.activeElement.matches("[data-cut]")`)
	box := browsertest.Value[[]float64](b.Browser, `(r => [r.left, r.top, r.width, r.height])(document.querySelector("[data-cut]").getBoundingClientRect())`)
	x, y := box[0]+box[2]/2, box[1]+box[3]/2
	b.Do(chromedp.MouseEvent("mousePressed", x, y, chromedp.ButtonLeft), chromedp.MouseEvent("mouseMoved", x, y-box[3]/8, chromedp.ButtonLeft), chromedp.MouseEvent("mouseReleased", x, y-box[3]/8, chromedp.ButtonLeft))
	dragged := cut()
	require.Greater(t, dragged[1], 60)
	require.Equal(t, 50, dragged[0], "there is nothing to be seen at its sides")
	b.Until(fmt.Sprintf(`location.search.includes("down=%d")`, dragged[1])) // what was let go is asked for, before something else is
	b.Click(".lies-modes button[value=span]")
	b.Until(`document.querySelector(".lies-modes [aria-checked=true]").value === "span" && location.search.includes("mode=span")`)
	b.Click(".lies-modes button[value=fill]")
	b.Until(`document.querySelector(".lies-modes [aria-checked=true]").value === "fill"`)
	require.Equal(t, dragged, cut(), "the cut stays")
	b.Is(`(f => (f.value = "/usr/share/backgrounds/red-buoy.svg", f.dispatchEvent(new Event("change", {bubbles: true})), true))(document.querySelector("[name='own.eDP-1']"))`)
	b.Until(`new URL(document.querySelectorAll(".screen img")[1].src).searchParams.get("own") === "eDP-1=/usr/share/backgrounds/red-buoy.svg"`)
	b.keep("backdrop-each")
	b.Press("a")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Cut")`)
	require.Contains(t, b.Text("#draft"), "eDP-1: red buoy")
	changed, _, _ := strings.Cut(b.Text("#draft"), "Everything else")
	require.NotRegexp(t, "Placement|Ground colour|left to right|low water", changed, "what was not changed is not chosen")
	b.Open("/d/avocet/backdrop")
	b.At("Backdrop")
	require.Equal(t, dragged, cut(), "as the draft has it")
	b.Is(`(f => (f.elements.toward.value = "#a0466b", f.elements.strength.value = "60", f.elements.strength.dispatchEvent(new Event("input", {bubbles: true})), true))(document.querySelector("[data-tint]"))`)
	b.Until(`(i => i.src.includes("strength=60") && i.complete && i.naturalWidth > 0)(document.querySelector("[data-tint] img"))`)
	b.Click("[data-tint] .act")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("low water a0466b 60")`)
	b.Open("/d/avocet/backdrop")
	b.At("Backdrop")
	require.Contains(t, b.Text(".title-row"), "low water a0466b 60")
	require.Contains(t, b.Text("#made"), "Made from /usr/share/backgrounds/low-water.svg, tinted 60 % towards #a0466b.")
	require.NotContains(t, b.Text("#made"), "has changed")
	accent := browsertest.Value[string](b.Browser, `document.querySelector("[name=accent]:checked").value`)
	b.Until(`document.querySelectorAll("#near [name='near.icons']").length === 4`)
	require.Regexp(t, `Foreshore \d+ % hue \d+° from that of low water a0466b 60`, b.Text("#near"), "scored, and why")
	b.Click("#near [name=folders]")
	folders := browsertest.Value[string](b.Browser, `document.querySelector("#near [name=folders]:checked").value`)
	b.Press("e")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("low-water-a0466b-60-light") && document.querySelector("#draft").innerText.includes("Foreshore-` + strings.ToUpper(folders[1:2]) + folders[2:] + `")`)
	b.Open("/d/avocet/halves")
	b.At("Day and night")
	b.Is(`(f => (f.value = "/usr/share/backgrounds/after-the-lamp.svg", f.dispatchEvent(new Event("change", {bubbles: true})), true))(document.querySelector("[name='dark.backdrop']"))`)
	b.Until(`document.querySelector("#draft").innerText.includes("after the lamp after dark")`)
	b.Press("r")
	b.At("Review")
	b.Press("e")
	b.At("Match")
	b.Press("K")
	b.Until(`!document.querySelector(".trial")`)
	conf, err := os.ReadFile(b.home(".config/quayside/quayside.conf"))
	require.NoError(t, err)
	require.Contains(t, string(conf), "accent="+accent)
	require.Contains(t, string(conf), "backdrop-down=")
	require.Contains(t, string(conf), "low-water-a0466b-60.jpg")
	require.Contains(t, string(conf), "backdrop-each=eDP-1=/usr/share/backgrounds/red-buoy.svg")
	require.Contains(t, string(conf), "icons=Foreshore-")
	b.until("19:01")
	d, err := b.app.Desk("avocet")
	require.NoError(t, err)
	_, err = b.app.Turner.Turn(t.Context(), d, changes.Ask{})
	require.NoError(t, err)
	conf, err = os.ReadFile(b.home(".config/quayside/quayside.conf"))
	require.NoError(t, err)
	require.Contains(t, string(conf), "backdrop=/usr/share/backgrounds/after-the-lamp.svg")
	require.Contains(t, string(conf), "shade=dark")
	made, err := os.ReadFile(b.home(".local/share/palettes/low-water-a0466b-60-light/low-water-a0466b-60-light.Xresources"))
	require.NoError(t, err)
	require.Contains(t, string(made), "*.color15: #")
	tinted, err := filepath.Glob(b.home(".local/share/backgrounds/*/low-water-a0466b-60.jpg"))
	require.NoError(t, err)
	require.Len(t, tinted, 1)
	raw, err := os.ReadFile(tinted[0])
	require.NoError(t, err)
	require.Contains(t, string(raw[:300]), "Made by Ivelt: /usr/share/backgrounds/low-water.svg, tinted 60 % towards #a0466b (sha256:")
	low := filepath.Join(b.world.Avocet.System, "usr/share/backgrounds/low-water.svg")
	drawing, err := os.ReadFile(low)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(low, []byte(strings.ReplaceAll(string(drawing), "#7ba6b8", "#b87b7b")), 0o644))
	b.Open("/d/avocet/backdrop?file=" + url.QueryEscape(strings.Replace(tinted[0], b.world.Avocet.Home, b.world.Avocet.HomePath, 1)))
	b.Click("#made .act")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("low water a0466b 60")`)
	b.Open("/d/avocet/history")
	b.At("History")
	b.Click(".past > li:nth-child(1) a[data-open]")
	b.At("Go back")
	b.Leads("History", "a")
	require.Equal(t, undated(before), undated(b.snapshot()))

	v := b.visit()
	for ask, says := range map[string]string{"file=/nowhere.png": "is no picture that Avocet can show", "file=x": "full path", "mode=wide": "one of fill", "across=101": "0 to 100", "behind=red": "#rrggbb"} {
		page, _ := v.get("/d/avocet/backdrop?" + ask)
		require.Contains(t, page, says, ask)
	}
	for form, says := range map[string]string{"palette=x": "dark or light", "": "does not say what to do", "accent=red": "#rrggbb", "palette=dark&accent=red": "#rrggbb", "do=tint&toward=red&strength=5": "not a colour", "do=tint&toward=%23102030&strength=101": "0 to 100 percent"} {
		values, err := url.ParseQuery(form)
		require.NoError(t, err)
		page, _ := v.post("/d/avocet/backdrop", values)
		require.Contains(t, page, says, form)
	}
	page, _ := v.get("/d/avocet/backdrop?mode=fill&mode=tile") // as a browser without scripts sends it
	require.Contains(t, page, `value="tile" role="radio" aria-checked="true"`)
	page, _ = v.get("/d/avocet/backdrop/screen.svg?monitor=7")
	require.Contains(t, page, "here is no such thing here")
}

// TestABackdropIsSoftenedBehindTheBar, by as little as it takes: what the judge proposes is made,
// tried on, and nothing is wrong with it.
func TestABackdropIsSoftenedBehindTheBar(t *testing.T) {
	b := newStage(t).browsePlain()
	v := b.visit()
	for facet, value := range map[string]string{"opacity": "10", "backdrop": "/usr/share/backgrounds/red-buoy.svg", "dark": "dark"} {
		v.post("/d/avocet/draft", url.Values{"facet": {facet}, "piece": {value}})
	}
	b.Open("/d/avocet/judge")
	b.At("Judge")
	require.Regexp(t, `The backdrop darkened behind the bar, by \d+ %, would do`, b.Text("#work"))
	b.Click("[value=soften]")
	b.Until(`document.title.startsWith("Judge") && document.querySelector("#draft").innerText.includes("red buoy darkened")`)
	require.NotContains(t, b.Text("#work"), "behind the bar")
	b.Open("/d/avocet/backdrop")
	b.At("Backdrop")
	page, _ := v.post("/d/avocet/judge", url.Values{"do": {"soften"}, "code": {"bar-over"}, "surface": {"quayside"}})
	require.Contains(t, page, "not proposed any more")
}
