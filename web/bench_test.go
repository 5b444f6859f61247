package web_test

import (
	"fmt"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/web/browsertest"
)

// TestStoryOfMendedPointers: a set that lacks pointers is looked at closely, mended by a layer that
// is tried on and worn, and gone back on.
func TestStoryOfMendedPointers(t *testing.T) {
	b := newStage(t).browsePlain()
	before := b.snapshot()
	b.Open("/d/avocet/find?kind=pointer")
	b.At("Find")
	b.Click("#entry-limpet [data-fetch]")
	b.At("Limpet")
	b.Leads("Shelf", "a")
	b.Click("#pointer-Limpet [data-bench]")
	b.At("Pointers under the lens")
	require.Contains(t, b.Text("#findings"), "Missing, so that programs show others instead: up and down; left and right")
	b.Click("#findings [data-main]")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Limpet-Mended")`)
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	require.FileExists(t, b.home(".icons/Limpet-Mended/cursors/ew-resize"))
	b.Open("/d/avocet/bench/pointer?set=Limpet-Mended")
	b.At("Pointers under the lens")
	require.NotContains(t, b.Text("#findings"), "Missing")
	b.Is(`(document.querySelector(".own-set").open = true, document.querySelector("#own-sizes").value = "40", true)`)
	b.Click("[name=own]") // the layer takes it in
	b.Until(`document.title.startsWith("Pointers") && document.querySelector(".facts").innerText.includes("40")`)
	recipe, err := os.ReadFile(b.home(".icons/Limpet-Mended/layer.toml"))
	require.NoError(t, err)
	require.Regexp(t, `(?s)folder = 'Limpet'.*name = 'ew-resize'.*sizes = \[.*40`, string(recipe))
	b.Open("/d/avocet/history")
	b.At("History")
	for i, nth := range []string{"1", "3", "5"} { // what was built anew, what was worn, and what was installed
		b.Click(".past > li:nth-child(" + nth + ") a[data-open]")
		b.At("Go back")
		b.Leads("History", "a")
		b.Until(fmt.Sprintf(`document.querySelectorAll(".past li.undone").length === %d`, i+1))
	}
	require.Equal(t, before, b.snapshot())

	v := b.visit()
	for set, says := range map[string]string{"../x": "is no pointer set", "": "is no pointer set", "Nowhere": "Nowhere"} {
		page, _ := v.get("/d/avocet/bench/pointer?set=" + url.QueryEscape(set))
		require.Contains(t, page, says, set)
	}
	page, _ := v.get("/d/avocet/bench/pointer.svg?set=Limpet&file=..%2Fx")
	require.Contains(t, page, "is no pointer set")
}

// TestStoryOfASetOfOnesOwn: a set is looked at in its parcel; in place, a hot spot is moved by arrow
// keys and by the hand, a missing pointer gets the picture that is chosen, and what points is made for
// the left hand; nothing else is changed.
func TestStoryOfASetOfOnesOwn(t *testing.T) {
	b := newStage(t).browsePlain()
	b.Open("/d/avocet/find?kind=pointer")
	b.At("Find")
	b.Click("#entry-limpet [data-fetch]")
	b.At("Limpet")
	b.Click("[data-bench]")
	b.At("Pointers under the lens")
	require.Contains(t, b.Text(".title-row"), "before it is put in place")
	require.True(t, b.Is(`document.querySelector(".own-set, #findings [data-main]") === null`))
	b.Click(".title-row a")
	b.At("Limpet")
	b.Leads("Shelf", "a")
	b.Open("/d/avocet/bench/pointer?set=Limpet")
	b.At("Pointers under the lens")
	b.Click(".own-set summary")
	b.Is(`(document.querySelector("#own-name").value = "Limpet, mine", document.querySelector("#own-sizes").value = "", document.querySelector("[name=names]").checked = false, document.querySelector("[name=left]").checked = true)`)
	b.Is(`document.querySelectorAll("select[name^='like.']").forEach(s => (s.value = ""))`)
	b.Is(`(document.querySelector("select[name='like.ew-resize']").value = document.querySelector("select[name='like.ew-resize'] option:nth-child(2)").value, true)`)
	b.Is(`document.querySelectorAll("#role-default .hot, #role-text .hot").forEach(d => (d.open = true))`)
	was := browsertest.Value[[]int](b.Browser, `["x", "y"].map(a => Number(document.querySelector("#role-default [name^='" + a + ".']").value))`)
	b.Is(`document.querySelector("#role-default [data-hot]").focus()`)
	b.Press(kb.ArrowRight)
	b.Press(kb.ArrowDown)
	b.Press(kb.ArrowDown)
	now := browsertest.Value[[]int](b.Browser, `["x", "y"].map(a => Number(document.querySelector("#role-default [name^='" + a + ".']").value))`)
	require.Equal(t, []int{was[0] + 1, was[1] + 2}, now)
	b.Is(`document.querySelector("#role-text [data-hot]").scrollIntoView({block: "center"})`)
	place := browsertest.Value[[]float64](b.Browser, `(r => [r.left, r.top])(document.querySelector("#role-text [data-hot] img").getBoundingClientRect())`)
	times := browsertest.Value[float64](b.Browser, `Number(document.querySelector("#role-text [data-hot] img").dataset.times)`)
	b.Do(chromedp.MouseClickXY(place[0]+3.5*times, place[1]+2.5*times))
	require.Equal(t, []int{3, 2}, browsertest.Value[[]int](b.Browser, `["x", "y"].map(a => Number(document.querySelector("#role-text [name^='" + a + ".']").value))`))
	b.Is(`document.querySelectorAll("#role-progress details").forEach(d => (d.open = true))`)
	b.Is(`(document.querySelector("[name^='turn.']").value = "640", document.querySelector("[name^='back.']").checked = true)`)
	b.Click("[name=own]")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Limpet-Mended")`)
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	recipe, err := os.ReadFile(b.home(".icons/Limpet-Mended/layer.toml"))
	require.NoError(t, err)
	require.Contains(t, string(recipe), "Limpet, mine")
	require.Contains(t, string(recipe), "left_hand = true")
	require.Equal(t, 2, strings.Count(string(recipe), "hot = "), string(recipe))
	require.Regexp(t, `back_and_forth = true\nturn = 640`, string(recipe))
	require.NotContains(t, string(recipe), "sizes = ")
	require.NotContains(t, string(recipe), "[[dye]]")
	require.FileExists(t, b.home(".icons/Limpet-Mended/cursors/ew-resize"))

	v := b.visit()
	arrow := benchedFile(t, string(recipe))
	for form, says := range map[string]string{"own=1&sizes=4": "8 to 256", "own=1&sizes=x": "whole numbers", "own=1&like.ew-resize=../x": "no pointer", "own=1&x.FILE=1&y.FILE=z&was.FILE=": "two whole numbers", "own=1&x.FILE=999&y.FILE=0&was.FILE=": "is not in its picture", "own=1": "nothing to be changed", "own=1&turn.FILE=x": "turn is a whole number", "own=1&turn.FILE=&without.FILE=a": "such as 3, 4", "own=1&turn.FILE=70000": "from 1 to 60000 ms", "own=1&turn.FILE=20": "that moves"} {
		values, err := url.ParseQuery("set=Limpet&" + strings.ReplaceAll(form, "FILE", arrow))
		require.NoError(t, err)
		page, _ := v.post("/d/avocet/bench/pointer", values)
		require.Contains(t, page, says, form)
	}
}

// benchedFile is the first pointer whose hot spot a recipe moves.
func benchedFile(t *testing.T, recipe string) string {
	t.Helper()
	m := regexp.MustCompile(`name = ['"]([^'"]+)['"]\nhot`).FindStringSubmatch(recipe)
	require.NotNil(t, m, recipe)
	return m[1]
}
