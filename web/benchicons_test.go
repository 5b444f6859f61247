package web_test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/web/browsertest"
)

// TestStoryOfAChosenIcon: a program is crossed out on the picture; by keyboard alone it gets an icon
// that the pack has under another name. It is worn, read again, taken for a picture of one's own,
// and gone back on.
func TestStoryOfAChosenIcon(t *testing.T) {
	b := newStage(t).browse()
	entry := b.home(".local/share/applications/aa-wader.desktop")
	require.NoError(t, os.MkdirAll(filepath.Dir(entry), 0o755))
	require.NoError(t, os.WriteFile(entry, []byte("[Desktop Entry]\nType=Application\nName=Aaa Counts\nComment=A chart of the birds on the flat\nExec=wader-count\nIcon=wader-count\nCategories=Science;\n"), 0o644))
	before := b.snapshot()
	b.Open("/d/avocet/find?kind=icons")
	b.At("Find")
	b.Click("#entry-glasswort [data-fetch]")
	b.At("Glasswort")
	b.Click("[data-bench]")
	b.At("Icons under the lens")
	require.Contains(t, b.Text("#findings"), "programs show no picture: Aaa Counts")
	b.Click(`[data-icon="programs/aa-wader"]`)
	b.Until(`document.querySelector("#closer")?.innerText.includes("Once the pack is in place")`)
	b.Click(".title-row a")
	b.At("Glasswort")
	b.Leads("Shelf", "a")
	b.Open("/d/avocet/compose?facet=icons")
	b.At("Compose")
	b.Click(`#picks .pick[value="Glasswort"]`)
	b.Until(`document.querySelector("#draft").innerText.includes("Glasswort")`)
	judged, _ := b.visit().get("/d/avocet/judge")
	require.Contains(t, judged, "bench/icons?icon=wader-count&amp;set=Glasswort")
	b.Picture("close")
	require.Contains(t, b.picture(), "wader-count: no icon")

	began, acts := time.Now(), b.Acts
	b.Press("i")
	b.Until(`document.activeElement.matches(".picture-both")`)
	b.Press(kb.ArrowLeft)
	b.Until(`document.querySelector("[data-picture-img]").src.includes("look=draft") && document.querySelector("[data-picture-img]").naturalWidth`)
	place := browsertest.Value[[]float64](b.Browser, `fetch(document.querySelector("[data-picture-img]").src).then(r => r.text()).then(t => {
		const box = document.createElement("div");
		box.innerHTML = t;
		document.body.append(box);
		const none = [...box.querySelectorAll("title")].find((e) => e.textContent.startsWith("wader-count")).parentElement;
		const at = none.getBoundingClientRect(), whole = box.querySelector("svg").getBoundingClientRect();
		const to = [at.x + at.width / 2 - whole.x - whole.width / 2 + 8, at.y + at.height / 2 - whole.y - whole.height / 2];
		box.remove();
		return to;
	})`)
	for i, keys := range [][2]string{{kb.ArrowLeft, kb.ArrowRight}, {kb.ArrowUp, kb.ArrowDown}} {
		key := keys[1]
		if place[i] < 0 {
			key, place[i] = keys[0], -place[i]
		}
		for range int(place[i]/8 + 0.5) {
			b.Press(key)
		}
	}
	b.Until(`document.querySelector("#asked").innerText.includes("no pack has it")`)
	b.Walk("\t", `el.matches("[data-icon-bench]")`)
	b.Press("\r")
	b.At("Icons under the lens")
	require.Contains(t, b.Text("#closer"), "Aaa Counts")
	require.Contains(t, b.Text(".nearest li:nth-child(1)"), "science")
	b.Press("1")
	b.Until(`document.querySelector("h1").innerText === "Glasswort-Mine" && document.querySelector("#closer")`)
	t.Logf("from the crossed-out program to its icon: %d keys, %.1f s", b.Acts-acts, time.Since(began).Seconds())
	require.Less(t, b.Acts-acts, 70, "keys, for somebody who has 20 s")
	require.Contains(t, b.Text("#closer"), "Your choice:")
	b.Click("[data-compare]")
	b.Until(`document.querySelector("#odd").innerText.includes("pictures, the least alike first")`)
	require.NotContains(t, b.picture(), "wader-count: no icon")

	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	require.FileExists(t, b.home(".icons/Glasswort-Mine/layer.toml"))

	// A picture of one's own takes its place, in the pack that is there, with a checkpoint.
	own := filepath.Join(t.TempDir(), "wader.svg")
	require.NoError(t, os.WriteFile(own, []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><circle cx="24" cy="24" r="20" fill="#47665a"/></svg>`), 0o600))
	b.Open("/d/avocet/bench/icons?set=Glasswort-Mine&item=programs%2Faa-wader")
	b.At("Icons under the lens")
	b.keep("bench")
	b.Do(chromedp.SetUploadFiles(chromedp.CSS("#own-picture"), []string{own}))
	b.Click(".own-picture button")
	b.Until(`document.querySelector("#closer")?.innerText.includes("a picture of your own, wader.svg")`)
	require.FileExists(t, b.home(".icons/Glasswort-Mine/own/any/wader-count.svg"))
	for i, n := range []int{1, 3, 5} { // the picture, the pack, and what was installed: going back is a line too
		b.Open("/d/avocet/history")
		b.At("History")
		b.Click(fmt.Sprintf(".past > li:nth-child(%d) a[data-open]", n))
		b.At("Go back")
		b.Leads("History", "a")
		b.Until(fmt.Sprintf(`document.querySelectorAll(".past li.undone").length === %d`, i+1))
	}
	require.Equal(t, before, b.snapshot())

	v := b.visit()
	for address, says := range map[string]string{
		"icons?set=" + url.QueryEscape("../x"): "is no icon pack", "icons?set=Nowhere": "Nowhere", "icon?set=Marram&name=folder&size=x": "numbers, up to 1024 px",
	} {
		page, _ := v.get("/d/avocet/bench/" + address)
		require.Contains(t, page, says, address)
	}
}

// TestLeftOverIsTakenAway: what is left over is listed, some of it is taken away by a plan, and gone
// back on.
func TestLeftOverIsTakenAway(t *testing.T) {
	b := newStage(t).browsePlain()
	mine := b.home(".local/share/applications/shore-web.desktop")
	require.NoError(t, os.MkdirAll(filepath.Dir(mine), 0o755))
	require.NoError(t, os.WriteFile(mine, []byte("[Desktop Entry]\nType=Application\nName=Web\nExec=shore-web\nIcon=old-globe\n"), 0o644))
	require.NoError(t, os.MkdirAll(b.home("Maps"), 0o755))
	require.NoError(t, os.WriteFile(b.home("Maps/.directory"), []byte("[Desktop Entry]\nIcon=old-map\n"), 0o644))
	before := b.snapshot()
	b.Open("/d/avocet/bench/icons?set=Marram")
	b.At("Icons under the lens")
	b.Click("[data-left]")
	b.At("Left over")
	require.Contains(t, b.Text("#work"), "Web shows old-globe, and the system's entry says web-browser")
	b.Click(`input[value$="Maps/.directory"]`)
	b.Press("a")
	b.At("Review")
	b.Press("a")
	b.At("Left over")
	require.Equal(t, "[Desktop Entry]\nType=Application\nName=Web\nExec=shore-web\nIcon=web-browser\n", b.file(".local/share/applications/shore-web.desktop"))
	require.Contains(t, b.Text("#work"), "Maps has an icon of its own, old-map")
	require.NotContains(t, b.Text("#work"), "old-globe")
	b.Open("/d/avocet/history")
	b.At("History")
	b.Click(".past > li:nth-child(1) a[data-open]")
	b.At("Go back")
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.snapshot())
}
