package preview

import (
	"cmp"
	_ "embed"
	"io/fs"
	"path"
	"slices"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/layout"
)

func drawDesk(c *Canvas) {
	c.backdrop()
	top, bottom := c.room()
	c.ground(groundAcross, float64(top+groundBelow))
	c.windows(top, bottom)
	c.drawBars()
	c.notice(float64(c.w), float64(bottom)-170)
}

// windows are those that are open on the desk: side by side, if the shell is told so, those that float
// over them.
func (c *Canvas) windows(top, bottom int) {
	tiles, err := layout.ParseTiles(cmp.Or(c.look.Of(desk.FacetTiles, c.Shell), string(layout.ByHand)))
	if err != nil || tiles.As == layout.ByHand {
		c.grid(520, top+270, 720, bottom-top-270-28)
		c.files(132, top+22, 640, 408)
		c.dialog(800, top+66, 400, 176)
		c.paintStore(140, top+456, 340, min(214, bottom-top-456-16))
		c.openMenu(356, float64(top+196))
		return
	}
	type window struct {
		kind, class string
		draw        func(x, y, w, h int)
		x, y, w, h  int // where it is if it floats
	}
	all := []window{
		{"window", "files", c.files, 132, top + 22, 640, 408},
		{"window", "programs", func(x, y, w, h int) { c.gridIn(x, y, w, h, true) }, 520, top + 270, 720, 400},
		{"dialog", "lamp-watch", c.dialog, c.w/2 - 200, top + (bottom-top)/2 - 88, 400, 176},
	}
	if _, drawn := engine(c.D); drawn {
		all = slices.Insert(all, 2, window{"window", "paint-store", c.paintStore, 140, top + 456, 340, 214})
	}
	var beside, over []window
	for _, w := range all {
		if tiles.FloatsKind(w.kind, w.class, "") {
			over = append(over, w)
		} else {
			beside = append(beside, w)
		}
	}
	places, _ := tiles.Places(len(beside), c.arranged().left)
	for i, w := range beside {
		at := places[i]
		w.draw(at.Min.X, at.Min.Y, at.Dx(), at.Dy())
	}
	for _, w := range over {
		w.draw(w.x, w.y, w.w, w.h)
	}
}

func drawClose(c *Canvas) {
	c.backdrop()
	top, bottom := c.room()
	c.grid(16, top+374, c.w-32, bottom-top-374-14)
	c.files(16, top+14, c.w-32, 346)
	c.drawBars()
}

func (c *Canvas) homeEntries() []fs.DirEntry {
	entries, err := fs.ReadDir(c.tree, desk.Name(c.D.HomePath))
	if err != nil {
		return nil
	}
	entries = slices.DeleteFunc(entries, func(e fs.DirEntry) bool { return strings.HasPrefix(e.Name(), ".") })
	slices.SortStableFunc(entries, func(a, b fs.DirEntry) int {
		if a.IsDir() != b.IsDir() {
			if a.IsDir() {
				return -1
			}
			return 1
		}
		return strings.Compare(strings.ToLower(a.Name()), strings.ToLower(b.Name()))
	})
	return entries
}

// Names of the Icon Naming Specification for folders and kinds of files.
var (
	folderIcons = map[string]string{
		"Desktop": "user-desktop", "Documents": "folder-documents", "Downloads": "folder-download", "Music": "folder-music",
		"Pictures": "folder-pictures", "Videos": "folder-videos", "Public": "folder-publicshare", "Templates": "folder-templates", "Projects": "folder-projects",
	}
	fileIcons = map[string][]string{
		".txt": {"text-plain", "text-x-generic"}, ".csv": {"text-csv", "text-x-generic"}, ".png": {"image-png", "image-x-generic"},
		".jpg": {"image-jpeg", "image-x-generic"}, ".svg": {"image-svg+xml", "image-x-generic"}, ".mp3": {"audio-mpeg", "audio-x-generic"},
		".mp4": {"video-mp4", "video-x-generic"}, ".pdf": {"application-pdf", "x-office-document"}, ".zip": {"application-zip", "package-x-generic"},
		".html": {"text-html", "text-x-generic"}, ".sh": {"text-x-script", "text-x-generic"},
	}
)

func iconsFor(e fs.DirEntry) []string {
	if e.IsDir() {
		if special, ok := folderIcons[e.Name()]; ok {
			return []string{special, "folder", "inode-directory"}
		}
		return []string{"folder", "inode-directory"}
	}
	if names, ok := fileIcons[strings.ToLower(path.Ext(e.Name()))]; ok {
		return append(slices.Clone(names), "text-x-generic")
	}
	return []string{"text-x-generic", "unknown"}
}

// Shorten cuts a text to so many letters, with dots for the rest.
func Shorten(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}
