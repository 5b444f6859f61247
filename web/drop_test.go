package web_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// drop lets files and folders of this machine fall on the page, as a file manager does.
func (b *browser) drop(files ...string) {
	b.t.Helper()
	b.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		data := &input.DragData{Items: []*input.DragDataItem{}, Files: files, DragOperationsMask: 1}
		for _, kind := range []input.DispatchDragEventType{"dragEnter", "dragOver", "dragOver", "drop"} {
			time.Sleep(100 * time.Millisecond) // the page is asked whether it takes them
			if _, err := cdp.Call(ctx, t, input.DispatchDragEvent, input.DispatchDragEventParams{Type: kind, X: 300, Y: 400, Data: data}); err != nil {
				return err
			}
		}
		return nil
	}))
}

// TestAFolderIsDropped with a picture beside it, on a page that is about something else:
// what is in the folder, and the picture, are pieces of one parcel.
func TestAFolderIsDropped(t *testing.T) {
	b := newStage(t).browse()
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
	b.open("/d/avocet/history")
	b.at("History")
	b.drop(filepath.Join(dir, "Kelp"), sea)
	b.until(`location.pathname.includes("/parcel/") && document.readyState === "complete"`)
	require.Contains(t, b.text("#work"), "Kelp")
	require.Contains(t, b.text("#work"), "window theme")

	b.open("/d/avocet/history")
	b.at("History")
	b.drop(sea)
	b.until(`location.pathname.includes("/parcel/") && document.readyState === "complete" && document.querySelector("#work").innerText.includes("backdrop")`)
}
