package web_test

import (
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/web/browsertest"
)

// TestTasks does what people come for and counts clicks and keys; a word that is typed counts
// by its letters. Most of each is what it took when this was written.
func TestTasks(t *testing.T) {
	b := newStage(t).browsePlain()
	for i := range 300 {
		dir := b.home(fmt.Sprintf(".themes/Pier-%03d/gtk-3.0", i))
		require.NoError(t, os.MkdirAll(dir, 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "gtk.css"), []byte("window { color: #222222; background-color: #eeeeee; }\n"), 0o644))
	}
	task := func(name string, most int, do func()) {
		begun := b.Acts
		do()
		took := b.Acts - begun
		t.Logf("%-45s %d clicks and keys", name, took)
		require.LessOrEqual(t, took, most, name)
	}
	b.Open("/d/avocet/find")
	b.At("Find")

	task("find and fetch three pieces", 11, func() {
		b.Press("s", "sand")
		b.Until(`document.querySelectorAll("#wall .tag").length < 6 && document.querySelector("#pin-1-sandpiper")`)
		b.Click("#pin-1-sandpiper button")
		b.Until(`document.querySelector("[data-fetch-pins]")`)
		b.Click(".kinds a:first-child") // what the others are is on the first wall
		b.Until(`document.querySelector("#wall")`)
		b.Is(`document.querySelector("[data-page-search]").value = ""`)
		b.Open("/d/avocet/find")
		b.Click("#pin-1-wrack button")
		b.Until(`document.querySelector("#pins").innerText.includes("Wrack")`)
		b.Click("#pin-1-estuary-sans button")
		b.Until(`document.querySelector("#pins").innerText.includes("Estuary Sans")`)
		b.Click("[data-fetch-pins]")
		b.At("Fetched")
		require.Equal(t, 3, browsertest.Value[int](b.Browser, `document.querySelectorAll(".came > li").length`))
	})
	task("choose among 300", 8, func() {
		b.Press("g", "c")
		b.At("Compose")
		b.Press("s", "217")
		b.Until(`document.querySelectorAll(".pick").length === 1`)
		b.Click(`#widgets-Pier-217`)
		b.Until(`document.querySelector("#widgets-Pier-217").ariaChecked === "true"`)
	})
	b.Until(`document.querySelector("#moves").innerText.includes("Change all of Pier-217")`)
	require.True(t, b.Is(`document.querySelector("#picks-search").value === "217"`), "what was searched for stays")
	task("set the terminal's opacity", 6, func() {
		b.Press("7")
		b.Until(`document.querySelector("#fine-ground")`)
		b.Acts++ // a click on the handle
		b.Is(`document.querySelector("#fine-ground").focus()`)
		b.Press(kb.ArrowLeft, kb.ArrowLeft)
		b.Until(`document.querySelector("#draft").innerText.includes("Terminal opacity")`)
	})
	// A swap leaves the focus where it was, and near it once that cannot be pressed any more.
	focused := func() string { return browsertest.Value[string](b.Browser, `document.activeElement.id`) }
	b.Is(`document.querySelector("#undo").focus()`)
	b.Press(kb.Enter)
	b.Until(`!document.querySelector("#draft").innerText.includes("Terminal opacity")`)
	b.Idle()
	require.Equal(t, "undo", focused())
	b.Press(kb.Enter)
	b.Until(`document.querySelector("#undo").disabled`)
	b.Idle()
	require.Equal(t, "steps", focused())
	b.Press("U")
	b.Until(`!document.querySelector("#undo").disabled`)
	b.Idle()
	b.Press("U")
	b.Until(`document.querySelector("#draft").innerText.includes("Terminal opacity")`)
	task("change the backdrop from a dropped file", 5, func() {
		picture := filepath.Join(t.TempDir(), "first-light.png")
		im := image.NewRGBA(image.Rect(0, 0, 1280, 800))
		for x := range 1280 {
			for y := range 800 {
				im.Set(x, y, color.RGBA{uint8(x / 5), uint8(y / 4), 120, 255})
			}
		}
		f, err := os.Create(picture)
		require.NoError(t, err)
		require.NoError(t, png.Encode(f, im))
		require.NoError(t, f.Close())
		b.Acts++
		b.Drop(picture)
		b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft")?.innerText.includes("first light")`)
		require.True(t, b.Is(`document.querySelector("#picks").dataset.group === "backdrop"`), "and it shows what was dropped")
		b.Press("r")
		b.At("Review")
		b.Press("a")
		b.At("Match")
	})
	settings := b.file(gtk3File)
	require.Contains(t, settings, "gtk-theme-name=Pier-217")
	require.NoError(t, os.WriteFile(b.home(gtk3File), []byte(strings.Replace(settings, "Pier-217", "Saltpan", 1)), 0o644))
	b.Open("/d/avocet/match")
	b.At("Match")
	task("repair what does not match", 3, func() {
		b.Press("A")
		b.Until(`document.querySelector("#strip") && !document.querySelector("#strip").hidden && document.title.startsWith("Match")`)
		b.Press("r")
		b.At("Review")
		b.Press("a")
		b.At("Match")
	})
	require.Contains(t, b.file(gtk3File), "gtk-theme-name=Pier-217")
	task("go back", 4, func() {
		b.Press("g", "h")
		b.At("History")
		b.Click(".past li:nth-child(1) [data-open]")
		b.At("Go back")
		b.Press("a")
		b.At("History")
	})
}
