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
		c.text(66, y+82, c.ink.text, "middle", thing.name)
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
	c.text(right, y+b.thickness/2+5, c.ink.barText, "end", "Sat 21 Mar  06:40")
	right -= 130
	for _, name := range []string{"battery-full", "audio-volume-high", "network-wireless", "mail-unread"} {
		c.symbolic(c.shell, right, y+(b.thickness-16)/2, 16, c.ink.barText, name)
		right -= 26
	}
}

// frame draws a window and says which surface it belongs to.
func (c *canvas) frame(surface, title string, x, y, w, h int) {
	c.rect(x+3, y+5, w, h, 6, c.ink.shade, `opacity="0.14"`)
	c.rect(x, y, w, h, 6, c.ink.window, fmt.Sprintf(`stroke="%s"`, c.ink.line))
	fmt.Fprintf(c, `<path d="M%d %dV%dQ%d %d %d %dH%dQ%d %d %d %dV%dZ" fill="%s"/>`, x, y+34, y+6, x, y, x+6, y, x+w-6, x+w, y, x+w, y+6, y+34, c.ink.header)
	fmt.Fprintf(c, `<path d="M%d %dH%d" stroke="%s"/>`, x, y+34, x+w, c.ink.line)
	c.text(x+14, y+22, c.ink.text, "start", title, `font-weight="600"`)
	s, _ := c.d.Surface(surface)
	c.text(x+w-44, y+22, c.ink.quiet, "end", s.Title+" · "+c.look.Icons[surface], `font-size="11.5"`)
	c.symbolic(surface, x+w-30, y+9, 16, c.ink.text, "window-close")
}

// files is a file manager of GTK 3 that shows the desk's own home.
func (c *canvas) files(x, y, w, h int) {
	const surface, side = "gtk3", 132
	c.frame(surface, "Files", x, y, w, h)
	for i, name := range []string{"go-previous", "go-next", "go-up", "view-refresh", "folder-new", "edit-find"} {
		if bx := x + 12 + i*36; bx < x+w-40 {
			c.icon(surface, bx, y+40, 24, name)
		}
	}
	fmt.Fprintf(c, `<path d="M%d %dH%dM%d %dV%d" stroke="%s"/>`, x, y+70, x+w, x+side, y+70, y+h, c.ink.line)
	for i, place := range []struct{ icon, name string }{{"user-home", "Home"}, {"user-desktop", "Desktop"}, {"folder-documents", "Documents"}, {"folder-download", "Downloads"}, {"folder-music", "Music"}, {"folder-pictures", "Pictures"}, {"folder-videos", "Videos"}, {"network-workgroup", "Station"}, {"user-trash", "Rubbish"}} {
		py := y + 80 + i*27
		if py+20 > y+h {
			break
		}
		c.icon(surface, x+12, py, 16, place.icon)
		c.text(x+36, py+13, c.ink.text, "start", place.name)
	}
	cellW, cellH := 84, 84
	columns := max(1, (w-side-12)/cellW)
	for i, e := range c.homeEntries() {
		cx, cy := x+side+8+i%columns*cellW, y+80+i/columns*cellH
		if cy+cellH-6 > y+h {
			break
		}
		c.icon(surface, cx+18, cy, 48, iconsFor(e)...)
		c.text(cx+42, cy+64, c.ink.text, "middle", shorten(e.Name(), 13), `font-size="11.5"`)
	}
}

func (c *canvas) homeEntries() []fs.DirEntry {
	entries, err := fs.ReadDir(c.d.Tree(), desk.Name(c.d.HomePath))
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

// grid is a program of GTK 4 that shows every installed program.
func (c *canvas) grid(x, y, w, h int) {
	const surface = "gtk4"
	programs := c.programs()
	cellW, cellH := 86, 82
	columns := max(1, (w-16)/cellW)
	rows := min(max(1, (h-44)/cellH), (len(programs)+columns-1)/columns)
	c.frame(surface, "Programs", x, y, w, 50+rows*cellH)
	for i, p := range programs {
		if i >= columns*rows {
			break
		}
		cx, cy := x+8+i%columns*cellW+(w-16-columns*cellW)/2, y+46+i/columns*cellH
		c.icon(surface, cx+19, cy, 48, p.Icon)
		c.text(cx+43, cy+64, c.ink.text, "middle", shorten(p.Name, 13), `font-size="11.5"`)
	}
}

// dialog is a question of a GTK 3 program.
func (c *canvas) dialog(x, y, w, h int) {
	const surface = "gtk3"
	c.frame(surface, "Lamp Watch", x, y, w, h)
	c.icon(surface, x+20, y+50, 48, "dialog-warning")
	c.text(x+84, y+66, c.ink.text, "start", "The harbour lamp is still dark.", `font-weight="600"`)
	c.text(x+84, y+86, c.ink.quiet, "start", "Sunset was 12 minutes ago.")
	for i, button := range []struct{ icon, label string }{{"process-stop", "Leave it"}, {"system-run", "Light it"}} {
		bx := x + w - 250 + i*120
		c.rect(bx, y+h-48, 110, 32, 4, c.ink.header, fmt.Sprintf(`stroke="%s"`, c.ink.line))
		c.icon(surface, bx+10, y+h-40, 16, button.icon)
		c.text(bx+34, y+h-27, c.ink.text, "start", button.label)
	}
}

func shorten(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}
