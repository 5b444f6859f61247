package web_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"ivelt/standin"
)

// turnstone is every file of Turnstone, home and system, with its contents, but for what its
// programs write as they run.
func (s *stage) turnstone() map[string]string {
	s.t.Helper()
	return lockedFiles(s.t, s.world.Turnstone.Home, s.world.Turnstone.System)
}

func lockedFiles(t testing.TB, home, system string) map[string]string {
	out := map[string]string{}
	for top, dir := range map[string]string{"home/": home, "system/": system} {
		for name, line := range treeOf(t, dir, ".local/state", ".breakwater/shown.conf", ".breakwater/pictures.conf", "breakwater/marks", "breakwater/picket/aside") {
			if !strings.HasSuffix(name, "shown.conf") && !strings.HasSuffix(name, "pictures.conf") && !strings.HasSuffix(name, "aside.conf") && line != "" {
				out[top+name] = contents(line)
			}
		}
	}
	return out
}

// TestStoryUnderALock: on the desk that takes signed looks alone a kit is brought in and tried on; the
// page reports and changes nothing; six steps lead to the look, pointers converted from a set for X,
// folders and volumes with pictures, the bar by its helper; an update undoes it, which is noticed and
// put right in four; and back to the vendor's look, byte for byte.
func TestStoryUnderALock(t *testing.T) {
	b := newStage(t).browsePlain()
	d := b.world.Turnstone
	start := b.turnstone()
	twin := standin.Root{Home: filepath.Join(t.TempDir(), "home"), System: filepath.Join(t.TempDir(), "system")} // to which nothing happens but the update
	require.NoError(t, os.CopyFS(twin.Home, os.DirFS(d.Home)))
	require.NoError(t, os.CopyFS(twin.System, os.DirFS(d.System)))
	_, err := standin.Update(twin)
	require.NoError(t, err)
	after := lockedFiles(t, twin.Home, twin.System)
	shown := func(key string) string {
		raw, err := os.ReadFile(filepath.Join(d.Home, ".breakwater/shown.conf"))
		require.NoError(t, err)
		for line := range strings.Lines(string(raw)) {
			if value, ok := strings.CutPrefix(strings.TrimSpace(line), key+"="); ok {
				return value
			}
		}
		return ""
	}
	b.Open("/d/turnstone/lock")
	b.At("Ready to unlock?")
	report := b.Text("#work")
	for _, says := range []string{"An owner's letter", "2 settings are not at their defaults", "has made no mark", "Picket, the watchman, is on", "the desk stays black", "Put a look on the draft first"} {
		require.Contains(t, report, says)
	}
	require.Equal(t, start, b.turnstone(), "looking changes nothing")

	b.Open("/d/turnstone/find")
	b.At("Find")
	b.Do(chromedp.SetUploadFiles(chromedp.CSS("#bring-file"), []string{filepath.Join(d.Home, "Downloads/reedbed-kit-0.4.zip")}))
	b.At("reedbed-kit")
	b.Click("[data-try]")
	b.Until(`location.pathname.endsWith("/compose") && document.readyState === "complete"`)
	b.Idle()
	for facet, want := range map[string]string{"opacity": "82", "bars": "bottom 44 margin 7 round 12: menu pinned / / tray clock"} {
		of, err := b.app.Desk("turnstone")
		require.NoError(t, err)
		_, err = b.app.Drafts.Choose(of, facet, want)
		require.NoError(t, err)
	}
	b.Open("/d/turnstone/lock")
	b.At("Ready to unlock?")
	require.Contains(t, b.Text(".lock-here"), "Reedbed")
	require.True(t, b.Is(`document.querySelectorAll('[data-here="unlocked"]').length === 2`), "the look, once it is unlocked")
	require.True(t, b.Is(`document.querySelectorAll('[data-here="cannot"]').length === 0`))

	b.Click(`[name="do"][value="begin"]`)
	b.At("On the way")
	take := func(step string) {
		b.Click(`[name="step"][value="` + step + `"]`)
		b.Until(`document.querySelector('[data-step="` + step + `"]')?.dataset.state === "done" && document.readyState === "complete"`)
	}
	take("mark")
	take("defaults")
	take("unlock")
	require.Contains(t, b.Text("#way-back"), "sudo rm -f /breakwater/keys/owner.letter")
	require.Contains(t, b.Text("#way-back"), "sudo breakwater start")
	require.Regexp(t, `sudo breakwater return \d{4}-\d\d-\d\d-1 has Breakwater go back`, b.Text("#way-back"))
	require.Empty(t, shown("accepts"), "it is told, and not started again")
	b.keep("lock")
	b.Click(`[name="do"][value="round"]`)
	b.Until(`document.body.innerText.includes("Picket went round, and set nothing aside.") && document.readyState === "complete"`)
	take("restart")
	require.NotEmpty(t, shown("accepts"))
	require.Equal(t, "Cobble", shown("look"))
	take("look")
	take("shown")
	require.Equal(t, "Reedbed", shown("look"))
	require.Equal(t, "Reedbed", shown("programs"))
	require.Equal(t, "Sandpiper", shown("pointers"))
	require.Equal(t, "Ledge", shown("bar"))
	require.FileExists(t, filepath.Join(d.Home, ".breakwater/pointers/Sandpiper/pointers.list"))
	places, err := os.ReadFile(filepath.Join(d.Home, ".breakwater/places.conf"))
	require.NoError(t, err)
	require.Contains(t, string(places), "~/Music=/home/mara/.breakwater/place-pictures/Reedmace/folder-music.png")
	b.Click(`[name="do"][value="keep"]`)
	b.At("Ready to unlock?")
	b.Open("/d/turnstone/match")
	b.At("Match")
	require.Contains(t, b.Text("#next"), "100", "all that can follow does")
	left, err := os.ReadDir(filepath.Join(d.Home, ".local/state/ivelt/way-back"))
	require.NoError(t, err)
	require.Empty(t, left, "what was kept for the console is no longer needed")

	// An update undoes it: that is noticed, and put right in the shortest way.
	b.Open("/d/turnstone/lock")
	b.Click(`[name="do"][value="update"]`)
	b.Until(`document.querySelector("#undone")`)
	require.Equal(t, "Basalt", shown("look"))
	require.NoFileExists(t, filepath.Join(d.Home, ".breakwater/places.conf"))
	b.Open("/d/turnstone/match")
	b.At("Match")
	require.Contains(t, b.Text("#undone"), "updated from 5.1.3 to 5.2.1")
	b.Click("#undone a")
	b.At("Ready to unlock?")
	b.Click(`[name="do"][value="again"]`)
	b.At("On the way")
	for _, step := range []string{"mark", "unlock", "look", "shown"} {
		take(step)
	}
	require.Equal(t, "Reedbed", shown("look"))
	require.Equal(t, "Ledge", shown("bar"))

	b.Click(`[name="do"][value="keep"]`)
	b.At("Ready to unlock?")

	// And back to the vendor's look: all is as if there had been the update alone.
	b.Click(`#kept [name="do"][value="back"]`)
	b.Until(`!document.querySelector("#kept") && document.title.startsWith("Ready") && document.readyState === "complete"`)
	require.Equal(t, "Cobble", shown("look"))
	require.Equal(t, "its own", shown("bar"))
	require.Equal(t, after, b.turnstone())
}
