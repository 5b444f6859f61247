package web_test

import (
	"net/url"
	"testing"

	"github.com/stretchr/testify/require"
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
	b.Open("/d/avocet/history")
	b.At("History")
	b.Click(".past > li:nth-child(1) a[data-open]") // what was worn
	b.At("Go back")
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	b.Click(".past > li:nth-child(3) a[data-open]") // and what was installed
	b.At("Go back")
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 2`)
	require.Equal(t, before, b.snapshot())

	v := b.visit()
	for set, says := range map[string]string{"../x": "is no pointer set", "": "is no pointer set", "Nowhere": "Nowhere"} {
		page, _ := v.get("/d/avocet/bench/pointer?set=" + url.QueryEscape(set))
		require.Contains(t, page, says, set)
	}
	page, _ := v.get("/d/avocet/bench/pointer.svg?set=Limpet&file=..%2Fx")
	require.Contains(t, page, "is no pointer set")
}
