package web_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestAFolderIsDropped with a picture beside it, on a page that is about something else:
// what is in the folder, and the picture, are pieces of one parcel.
func TestAFolderIsDropped(t *testing.T) {
	b := newStage(t).browsePlain()
	dir := t.TempDir()
	for name, text := range map[string]string{
		"Kelp/gtk-3.0/gtk.css": "window { color: #204060; }\n", "Kelp/index.theme": "[Desktop Entry]\nName=Kelp\n",
	} {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	sea := filepath.Join(dir, "sea.svg")
	require.NoError(t, os.WriteFile(sea, []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="800"><rect width="1280" height="800" fill="#204060"/></svg>`), 0o644))
	b.Open("/d/avocet/history")
	b.At("History")
	b.Drop(filepath.Join(dir, "Kelp"), sea)
	b.Until(`location.pathname.includes("/parcel/") && document.readyState === "complete"`)
	require.Contains(t, b.Text("#work"), "Kelp")
	require.Contains(t, b.Text("#work"), "window theme")

	b.Open("/d/avocet/history")
	b.At("History")
	b.Drop(sea)
	b.Until(`location.pathname.includes("/parcel/") && document.readyState === "complete" && document.querySelector("#work").innerText.includes("backdrop")`)
}
