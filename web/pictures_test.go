package web_test

import (
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// TestPicturesFromFiles: each setting that is a picture takes a file; one that the login
// screen shows is installed for everyone first, since it reads nobody's home.
func TestPicturesFromFiles(t *testing.T) {
	b := newStage(t).browsePlain()
	picture := func(name string, w, h int) []string {
		im := image.NewRGBA(image.Rect(0, 0, w, h))
		for x := range w {
			for y := range h {
				im.Set(x, y, color.RGBA{uint8(x), 90, uint8(y), 255})
			}
		}
		file := filepath.Join(t.TempDir(), name)
		f, err := os.Create(file)
		require.NoError(t, err)
		require.NoError(t, png.Encode(f, im))
		require.NoError(t, f.Close())
		return []string{file}
	}
	b.Open("/d/avocet/compose?facet=bar")
	b.At("Compose")
	b.Do(chromedp.SetUploadFiles(chromedp.CSS("#bring-menu-icon"), picture("limpet-shell.png", 48, 48)))
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft")?.innerText.includes("limpet shell")`)
	require.True(t, b.Is(`document.querySelector("#picks").dataset.group === "bar"`), "it comes back to where it was asked for")
	require.NotContains(t, b.Text("#draft"), "Backdrop")
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	require.Contains(t, b.file(".config/quayside/quayside.conf"), "menu-picture=/home/mara/.local/share/backgrounds/limpet-shell/limpet-shell.png")
	require.FileExists(t, b.home(".local/share/backgrounds/limpet-shell/limpet-shell.png"))

	b.Open("/d/avocet/compose?facet=login")
	b.At("Compose")
	b.Do(chromedp.SetUploadFiles(chromedp.CSS("#bring-person"), picture("mara-at-sea.png", 96, 96)))
	b.At("mara-at-sea")
	require.Contains(t, b.Text("#for-everyone"), "Account picture")
	require.True(t, b.Is(`document.querySelector("[name=scope][value=everyone]").checked && !document.querySelector("[data-try]")`))
	b.Press("a")
	b.At("Shelf") // the demo's administrator is whoever runs it
	b.Open("/d/avocet/compose?facet=login")
	b.At("Compose")
	b.Is(`(() => { const box = document.querySelector("#fine-person"); box.value = "/usr/local/share/backgrounds/mara-at-sea/mara-at-sea.png"; box.dispatchEvent(new Event("change", { bubbles: true })); return true })()`)
	b.Until(`document.querySelector("#draft")?.innerText.includes("mara at sea")`)
	page, _ := b.visit().get("/d/avocet/login/lantern")
	require.Contains(t, page, "With the draft")
}
