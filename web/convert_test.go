package web_test

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/curfile"
	"ivelt/core/xcursor"
	"ivelt/web/browsertest"
)

// TestStoryOfPointersThatCrossOver: a zip of pointers that were made for the other family is
// dropped on a page, looked at, made in sizes that were chosen, worn and gone back on; within a
// minute, and the zip of what it came from is what it was.
func TestStoryOfPointersThatCrossOver(t *testing.T) {
	b := newStage(t).browsePlain()
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
	parcel := browsertest.Value[string](b.Browser, "location.pathname")
	b.Click("[data-convert]")
	b.At("Convert")
	b.keep("convert")
	require.Contains(t, b.Text("#lost"), "Made by scaling up, which looks soft: 64 px")
	b.Click(`#conversion [name="size"][value="32"]`)
	b.Click(`#conversion [name="size"][value="64"]`)
	b.Click(`#conversion [name="scale"][value="1"]`)
	b.Click(`#conversion [name="scale"][value="2"]`)
	b.Click("#conversion button:not([data-main])")
	b.Until(`document.readyState === "complete" && document.querySelector('#conversion [value="96"]').checked`)
	b.Click("#conversion [data-main]")
	b.Until(`location.pathname.includes("/parcel/") && !location.pathname.endsWith("/convert") && document.readyState === "complete"`)
	require.Contains(t, b.Text("main"), "sizes 24, 48, 96 px")
	b.Click("[data-try]")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Phalarope")`)
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	require.Less(t, time.Since(begun), time.Minute)
	require.True(t, b.Is(`[...document.querySelectorAll(".station[data-facet=pointer]")].some(s => s.dataset.state === "follows")`))

	raw, err := os.ReadFile(b.home(".icons/Phalarope/cursors/left_ptr_watch"))
	require.NoError(t, err)
	f, err := xcursor.Parse(raw)
	require.NoError(t, err)
	require.Equal(t, []int{24, 48, 96}, f.Sizes())
	require.Len(t, f.Frames(96), 8)
	require.FileExists(t, b.home(".icons/Phalarope/original/Phalarope Busy.ani"))
	require.FileExists(t, b.home(".icons/Phalarope/LICENSE"))

	b.Open("/d/avocet/shelf?kind=pointer")
	b.At("Shelf")
	require.Contains(t, b.Text("#pointer-Phalarope"), "converted from .cur and .ani files")
	b.Click(`#pointer-Phalarope form[action="/d/avocet/convert"] button`)
	b.At("Convert")
	require.True(t, b.Is(`document.querySelector('#conversion [value="xcursor"]').checked && document.querySelector('#conversion [value="96"]').checked`))
	b.Click(`#conversion [value="cur"]`)
	b.Click("#conversion button:not([data-main])")
	b.Until(`document.querySelector("#conversion [data-main]")?.innerText.includes("Phalarope.zip")`)
	zipped := browsertest.Value[string](b.Browser, `fetch(document.querySelector("#conversion [data-main]").formAction + "?" + new URLSearchParams(new FormData(document.querySelector("#conversion")))).then(r => r.arrayBuffer()).then(b => btoa(Array.from(new Uint8Array(b), c => String.fromCharCode(c)).join("")))`)
	raw, err = base64.StdEncoding.DecodeString(zipped)
	require.NoError(t, err)
	archived, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	ani, err := fs.ReadFile(archived, "Phalarope/busy.ani")
	require.NoError(t, err)
	moving, err := curfile.Read(ani)
	require.NoError(t, err)
	require.Len(t, moving.Steps, 8)

	b.Open(parcel)
	require.Contains(t, b.Text("[data-convert]"), "in the sizes of the one that is installed")
	b.Click("[data-convert]")
	b.At("Convert")
	require.True(t, b.Is(`document.querySelector('#conversion [value="96"]').checked && !document.querySelector('#conversion [value="64"]').checked`))

	b.Open("/d/avocet/history")
	b.At("History")
	b.Click(".past li:first-child a[data-open]")
	b.At("Go back")
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.snapshot())
}

// TestWhatCannotBeConvertedIsRefused: with a sentence, and nothing is kept of it.
func TestWhatCannotBeConvertedIsRefused(t *testing.T) {
	s := newStage(t)
	v := s.visit()
	b, err := os.ReadFile(filepath.Join(s.world.Market, "parcels", "Phalarope-1.1.zip"))
	require.NoError(t, err)
	_, at := v.send("/d/avocet/bring", "parcel", "Phalarope-1.1.zip", b)
	page, _ := v.get(at)
	link := regexp.MustCompile(`convert\?piece=([^"&]+)`).FindStringSubmatch(page)
	require.NotNil(t, link)
	key := link[1]
	for query, says := range map[string]string{
		"size=4": "4 px; from 8 to 512", "size=many": "is no size", "as=png": "is no format of pointers", "size=9999": "9999 px", "scale=90": "is no scale",
		strings.Repeat("size=24&", 40): "more than 32 sizes",
	} {
		page, _ := v.get(at + "/convert?piece=" + key + "&" + query)
		require.Contains(t, page, says, query)
	}
	page, _ = v.get(at + "/convert?piece=none")
	require.Contains(t, page, "none")
	for set, says := range map[string]string{"../../etc": "is no pointer set", "": "is no pointer set", "Nowhere": "Nowhere"} {
		page, _ := v.post("/d/avocet/convert", url.Values{"set": {set}})
		require.Contains(t, page, says, set)
	}
	rows, err := s.app.Library.Parcels()
	require.NoError(t, err)
	require.Len(t, rows, 1)
}
