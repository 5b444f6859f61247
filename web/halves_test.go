package web_test

import (
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/changes"
	"ivelt/web/browsertest"
)

var dates = regexp.MustCompile(` [0-9T:.-]+Z `)

// undated is a home without the times of its files.
func undated(home map[string]string) map[string]string {
	out := map[string]string{}
	for name, says := range home {
		out[name] = dates.ReplaceAllString(says, " ")
	}
	return out
}

// TestStoryOfDayAndNight: a look is given another half for the night, tried, kept, dark at dusk
// and light in the morning; its slide show is paused and led on; History has one entry of all
// that, and going back on it is back before it.
func TestStoryOfDayAndNight(t *testing.T) {
	b := newStage(t).browsePlain()
	b.until("20:00")
	before := b.snapshot()
	b.Open("/d/avocet/compose")
	b.At("Compose")
	b.Press("g")
	b.Press("n")
	b.At("Day and night")
	choose := func(field, value string) {
		t.Helper()
		b.Is(`(f => (f.value = "` + value + `", f.dispatchEvent(new Event("change", {bubbles: true})), true))(document.querySelector("[name='` + field + `']"))`)
	}
	choose("dark.backdrop", "/usr/share/backgrounds/after-the-lamp.svg")
	b.Until(`document.querySelector("#draft").innerText.includes("low water by day, after the lamp after dark")`)
	choose("dark.accent", "#7ec9d6")
	b.Until(`document.querySelector("#draft").innerText.includes("#7ec9d6 after dark")`)
	require.Equal(t, "light by day, dark after dark", browsertest.Value[string](b.Browser, `[...document.querySelectorAll("#draft dt")].find(e => e.innerText === "Shade").nextElementSibling.innerText`))
	b.Is(`(f => (f.elements["dark-at"].value = "18:30", true))(document.querySelector("#halves"))`)
	b.Press("a")
	b.Until(`document.querySelector("#turns")?.innerText.includes("Quayside")`)
	b.keep("day-and-night")
	turns := b.Text("#turns")
	require.Regexp(t, `(?s)at once\s+Quayside`, turns)
	require.Contains(t, turns, "GTK 2 programs: GTK 2.24 knows no light and dark", "what cannot turn is named, and why")
	b.Press("r")
	b.At("Review")
	require.Contains(t, b.Text("#turning"), "From then on it turns light at 07:00 and dark at 18:30.")
	b.Press("e")
	b.At("Match")
	b.Press("K")
	b.Until(`!document.querySelector(".trial")`)
	conf := func() string {
		text, err := os.ReadFile(b.home(".config/quayside/quayside.conf"))
		require.NoError(t, err)
		return string(text)
	}
	require.Contains(t, conf(), "after-the-lamp", "it is dark by then")

	turn := func(at string) {
		t.Helper()
		b.until(at)
		d, err := b.app.Desk("avocet")
		require.NoError(t, err)
		_, err = b.app.Turner.Turn(t.Context(), d, changes.Ask{})
		require.NoError(t, err)
	}
	turn("07:01")
	require.Contains(t, conf(), "backdrop=/usr/share/backgrounds/low-water.svg")
	turn("18:31")
	require.Contains(t, conf(), "backdrop=/usr/share/backgrounds/after-the-lamp.svg")
	require.Contains(t, conf(), "shade=dark")
	require.Contains(t, conf(), "accent=#7ec9d6")
	b.Open("/d/avocet/halves")
	b.At("Day and night")
	require.Contains(t, b.Text("#turning"), "is dark now, and turns light at 07:00 and dark at 18:30.")
	require.Contains(t, b.Text("#turning"), "at 07:00.")
	turn("07:01")
	require.Contains(t, conf(), "backdrop=/usr/share/backgrounds/low-water.svg")

	// Pictures in turn, over it.
	b.Open("/d/avocet/halves")
	b.Click("#show .place-foot button")
	b.Until(`document.querySelector("#draft").innerText.includes("pictures in turn, now")`)
	b.Press("r")
	b.At("Review")
	require.Contains(t, b.Text("#turning"), "Another backdrop comes every 10 minutes.")
	b.Press("a")
	b.At("Match")
	b.Open("/d/avocet/halves")
	b.At("Day and night")
	require.Contains(t, b.Text("#turning"), "The backdrop is after the lamp, one of 3.")
	b.Press("n")
	b.Until(`document.querySelector("#turning").innerText.includes("The backdrop is low water, one of 3.")`)
	require.Contains(t, conf(), "low-water")
	b.Click("#turning [value=pause]")
	b.Until(`document.querySelector("#turning").innerText.includes("It stands still until you let it go on.")`)
	b.Click("#turning [value=keep]")
	b.Until(`!document.querySelector("#turning")`)
	require.Contains(t, conf(), "low-water")

	b.Open("/d/avocet/history")
	b.At("History")
	require.Equal(t, 2, browsertest.Value[int](b.Browser, `document.querySelectorAll(".past > li").length`))
	b.Click(".past > li:nth-child(2) a[href*=since]")
	b.At("Go back")
	b.Leads("History", "a")
	require.Equal(t, undated(before), undated(b.snapshot()), "a file that was turned there and back has another date")

	v := b.visit()
	for form, says := range map[string]string{
		"by=clock&light-at=07:00&dark-at=07:00&light.dark=light&dark.dark=dark": "same time", "by=sun&light.dark=light&dark.dark=dark": "needs a place", "by=sun&latitude=99&longitude=0&light.dark=light&dark.dark=dark": "from -90 to 90",
		"by=sun&latitude=x&longitude=0": "in degrees", "by=moon": "no way to turn", "by=hand&light.icons=&dark.icons=Marram": "by day too", "by=hand": "different after dark", "by=hand&light.accent=red&dark.accent=%23102030": "#rrggbb",
		"do=dark": "nothing turns", "do=next": "nothing turns", "do=pause": "nothing turns", "do=keep": "nothing turns",
		"do=show&kind=folder&folder=/nowhere&every=10m": "there are 0", "do=show&kind=folder&folder=/usr/share/backgrounds&every=1s": "30s", "do=show&kind=folder&folder=x&every=10m": "full path", "do=show&kind=daily": "two times of day",
		"do=show&kind=daily&from=dawn&picture=/a.svg&from=07:00&picture=/b.svg": "needs a place",
	} {
		values, err := url.ParseQuery(form)
		require.NoError(t, err)
		page, _ := v.post("/d/avocet/halves", values)
		require.Contains(t, strings.ToLower(page), strings.ToLower(says), form)
	}
	page, _ := v.get("/d/dunlin/halves")
	require.Contains(t, page, "Day and night")
}
