package web_test

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/xcursor"
)

// TestStoryOfPointersThatCrossOver: a zip of pointers that were made for the other family is
// dropped on a page, looked at, made in sizes that were chosen, worn and gone back on; within a
// minute, and the zip of what it came from is what it was.
func TestStoryOfPointersThatCrossOver(t *testing.T) {
	b := newStage(t).browse()
	before := b.snapshot()
	begun := time.Now()
	b.Open("/d/avocet/find")
	b.At("Find")
	b.Drop(filepath.Join(b.world.Market, "parcels", "Phalarope-1.1.zip"))
	b.Until(`location.pathname.includes("/parcel/") && document.readyState === "complete"`)
	said := b.Text("main")
	for _, want := range []string{"Installing it converts them (pointers: 12)", "Missing, so that programs show others instead: cross", "Phalarope, the old one.cur", "CC0-1.0"} {
		require.Contains(t, said, want)
	}
	b.keep("zz-parcel")
	b.Click("[data-convert]")
	b.At("Convert")
	b.keep("convert")
	require.Contains(t, b.Text("#lost"), "Made by scaling up, which looks soft: 64 px")
	b.Click(`#conversion [value="64"]`)
	b.Click(`#conversion [value="96"]`)
	b.Click("#conversion [data-main]")
	b.Until(`location.pathname.includes("/parcel/") && !location.pathname.endsWith("/convert") && document.readyState === "complete"`)
	require.Contains(t, b.Text("main"), "sizes 24, 32, 48, 96 px")
	b.Click("[data-try]")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Phalarope")`)
	b.keep("zz-compose")
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	require.Less(t, time.Since(begun), time.Minute)
	require.True(t, b.Is(`[...document.querySelectorAll(".station[data-facet=pointer]")].some(s => s.dataset.state === "follows")`))
	b.keep("zz-match")

	raw, err := os.ReadFile(b.home(".icons/Phalarope/cursors/left_ptr_watch"))
	require.NoError(t, err)
	f, err := xcursor.Parse(raw)
	require.NoError(t, err)
	require.Equal(t, []int{24, 32, 48, 96}, f.Sizes())
	require.Len(t, f.Frames(96), 8)
	require.FileExists(t, b.home(".icons/Phalarope/original/Phalarope Busy.ani"))
	require.FileExists(t, b.home(".icons/Phalarope/LICENSE"))

	b.Open("/d/avocet/shelf?kind=pointer")
	b.At("Shelf")
	require.Contains(t, b.Text("#pointer-Phalarope"), "converted from .cur and .ani files")
	b.keep("zz-shelf")
	b.Click(`#pointer-Phalarope form[action="/d/avocet/convert"] button`)
	b.At("Convert")
	b.keep("zz-convert-shelf")

	b.Open("/d/avocet/history")
	b.At("History")
	b.Click(".past li:first-child a[data-open]")
	b.At("Go back")
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.snapshot())
}
