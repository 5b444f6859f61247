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
	c.ground()
	c.drawOnDesk()
	c.windows(top, bottom)
	c.drawBars()
	c.notice(float64(c.w), float64(bottom)-170)
}

// windows are those that are open on the desk: side by side, if the shell is told so, those that float
// over them.
func (c *Canvas) windows(top, bottom int) {
	tiles := c.tiles()
	left, right := c.arranged().left.Min.X, c.arranged().left.Max.X
	if tiles.As == layout.ByHand {
		room := func(x, wide int) int { return max(min(wide, right-x-16), 200) } // beside what lies at the right
		c.grid(left+520, top+270, room(left+520, 720), bottom-top-270-28)
		c.files(left+132, top+22, room(left+132, 640), 408)
		c.dialog(left+800, top+66, room(left+800, 400), 176)
		c.paintStore(left+140, top+456, room(left+140, 340), min(214, bottom-top-456-16))
		c.openMenu(float64(left+356), float64(top+196))
		return
	}
	type window struct {
		kind, class string
		draw        func(x, y, w, h int)
		x, y, w, h  int // where it is if it floats
	}
	all := []window{
		{"window", "files", c.files, left + 132, top + 22, 640, 408},
		{"window", "programs", func(x, y, w, h int) { c.gridIn(x, y, w, h, true) }, left + 520, top + 270, 720, 400},
		{"dialog", "lamp-watch", c.dialog, (left+right)/2 - 200, top + (bottom-top)/2 - 88, 400, 176},
	}
	if _, drawn := engine(c.D); drawn {
		all = slices.Insert(all, 2, window{"window", "paint-store", c.paintStore, left + 140, top + 456, 340, 214})
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
		if c.moving && c.look.Of(desk.FacetMotion, c.having(desk.FacetMotion)) != "less" {
			c.Printf(`<g><animateTransform attributeName="transform" type="translate" values="%d %d;0 0" begin="0.3s" dur="0.4s" fill="freeze" calcMode="spline" keyTimes="0;1" keySplines="0.2 0 0 1"/>`, w.x-at.Min.X, w.y-at.Min.Y)
			w.draw(at.Min.X, at.Min.Y, at.Dx(), at.Dy())
			c.WriteString("</g>")
			continue
		}
		w.draw(at.Min.X, at.Min.Y, at.Dx(), at.Dy())
	}
	for _, w := range over {
		w.draw(w.x, w.y, w.w, w.h)
	}
}

// tiles are how windows lie that a shell, or what draws their frames, is told of.
func (c *Canvas) tiles() layout.Tiles {
	tiles, err := layout.ParseTiles(cmp.Or(c.look.Of(desk.FacetTiles, c.having(desk.FacetTiles)), string(layout.ByHand)))
	if err != nil {
		return layout.Tiles{As: layout.ByHand, Frames: true}
	}
	return tiles
}

// logLines are what a window shows that takes the whole screen.
var logLines = []string{
	"Saturday, first of spring", "", "05:10  Fog on the bar, the horn is on.", "06:40  High water, 3.41 m. The gauge and the staff agree.",
	"07:15  Two coasters inward bound, one waits for the pilot.", "08:02  Fog lifting. The horn is off.", "09:30  Mail came with the morning boat, and a box of lamp glasses.",
	"11:20  Painted the gate. It wants another coat.", "12:52  Low water, 0.62 m.", "14:00  Counted the terns: 214, nine more than last week.",
}

// maximised is a window that takes what bars leave, but for the gap around windows: with its title bar, if
// it keeps that, and with its menus, if no bar has them.
func (c *Canvas) maximised() {
	a := c.arranged()
	places, _ := c.tiles().Places(1, a.left)
	at := places[0]
	s := c.Stage("gtk3")
	y := float64(at.Min.Y)
	if c.look.Of(desk.FacetMaximised, c.having(desk.FacetMaximised)) != "gone" {
		y += s.shellFrame(openWindows[0].title, float64(at.Min.X), y, float64(at.Dx()))
	}
	page := s.written(logLines, 5, 7, 18).growing()
	kids := []*part{page}
	if !slices.ContainsFunc(a.placed, func(p layout.Placed) bool {
		return slices.ContainsFunc(a.bars[p.Bar].Items, func(i layout.Item) bool { return i.Kind == "program-menu" })
	}) {
		kids = []*part{s.menuBar(programMenu, -1), page}
	}
	root := node("window.background", kids...).column(0)
	s.measure(root)
	s.put(root, float64(at.Min.X), y, float64(at.Dx()), float64(at.Max.Y)-y)
	c.mark(desk.FacetWidgets, "gtk3", float64(at.Min.X), y, float64(at.Dx()), float64(at.Max.Y)-y)
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
