package preview

import (
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
)

// onGround are the things that lie on the desk itself.
var onGround = []struct{ icon, name string }{{"user-home", "Home"}, {"folder-documents", "Documents"}, {"drive-removable-media", "Field stick"}, {"user-trash", "Rubbish"}}

func drawDesk(c *canvas) {
	c.backdrop()
	b, top, bottom := c.room()
	for i, thing := range onGround {
		if c.shell == "" {
			break
		}
		y := top + 26 + i*104
		c.icon(c.shell, 34, y, 64, thing.icon)
		c.words(66, float64(y+82), c.ink.text, "middle", thing.name, 13, 400)
	}
	c.files(132, top+22, 640, 408)
	c.grid(520, top+270, 720, bottom-top-270-28)
	c.dialog(800, top+52, 424, 176)
	c.drawBar(b, c.w)
}

func drawClose(c *canvas) {
	c.backdrop()
	b, top, bottom := c.room()
	c.files(16, top+14, c.w-32, 346)
	c.grid(16, top+374, c.w-32, bottom-top-374-14)
	c.drawBar(b, c.w)
}

// room returns the bar and what is left between it and the other edge.
func (c *canvas) room() (b bar, top, bottom int) {
	if c.shell == "" {
		return bar{}, 0, c.h
	}
	b = c.bar()
	if b.edge == "bottom" {
		return b, 0, c.h - b.thickness
	}
	return b, b.thickness, c.h
}

// backdrop is a plain shore: no piece dresses the ground yet.
func (c *canvas) backdrop() {
	w, h := c.w, c.h
	c.rect(0, 0, w, h, 0, c.ink.sky)
	fmt.Fprintf(c, `<path d="M0 %dC%d %d %d %d %d %dV%dH0Z" fill="%s"/>`, h*58/100, w/3, h*54/100, w*2/3, h*62/100, w, h*57/100, h, c.ink.sea)
	fmt.Fprintf(c, `<path d="M0 %dC%d %d %d %d %d %dV%dH0Z" fill="%s"/>`, h*78/100, w/4, h*72/100, w*3/5, h*90/100, w, h*80/100, h, c.ink.sand)
}

func (c *canvas) drawBar(b bar, width int) {
	if c.shell == "" {
		return
	}
	y := 0
	if b.edge == "bottom" {
		y = c.h - b.thickness
	}
	size := b.thickness - 10
	c.rect(0, y, width, b.thickness, 0, c.ink.bar)
	x := 10
	c.symbolic(c.shell, x, y+(b.thickness-18)/2, 18, c.ink.barText, "start-here")
	x += 36
	programs := map[string]desktopentry.Program{}
	for _, p := range c.programs() {
		programs[p.ID] = p
	}
	for _, id := range b.pinned {
		p, ok := programs[id]
		if !ok || x > width-200 {
			continue
		}
		c.icon(c.shell, x, y+5, size, p.Icon)
		x += size + 10
	}
	right := width - 14
	c.words(float64(right), float64(y+b.thickness/2+5), c.ink.barText, "end", "Sat 21 Mar  06:40", 13.5, 400)
	right -= 130
	for _, name := range []string{"battery-full", "audio-volume-high", "network-wireless", "mail-unread"} {
		c.symbolic(c.shell, right, y+(b.thickness-16)/2, 16, c.ink.barText, name)
		right -= 26
	}
}

func (c *canvas) homeEntries() []fs.DirEntry {
	entries, err := fs.ReadDir(c.tree, desk.Name(c.d.HomePath))
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

func shorten(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}
