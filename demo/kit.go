package demo

import (
	"bytes"
	"cmp"
	_ "embed"
	"fmt"
	"image"
	"image/png"
	"strings"
	"sync"

	"ivelt/core/xcursor"
)

// The kit Reedbed: a window theme in three variants, an icon pack, pointers and
// a backdrop in one archive, as makers hand them out.

// themeColours are what a demo theme is made from; radius is in px.
// themeSheet is what the demo's window themes share; words in capitals are
// theirs.
//
//go:embed theme.css
var themeSheet string

// resourceFile is the same for GTK 2.
//
//go:embed gtkrc
var resourceFile string

// shellSheet is the same for the shell.
//
//go:embed shell.css
var shellSheet string

type themeColours struct {
	bg, fg, base, selected, onSelected, border, header string
	radius                                             int
}

var (
	reedLight = themeColours{"#f3f0e6", "#31372f", "#fcfaf3", "#4f7f5f", "#fbfaf4", "#cfc9b6", "#e6e1d0", 3}
	reedDark  = themeColours{"#262c28", "#e6e4d8", "#1f2421", "#7fb58c", "#17201a", "#3c4540", "#2e3631", 3}
)

// licences are those of the demo's pieces, by the first word of their names; the
// others are free of all.
var licences = map[string]string{
	"Saltpan": "MIT", "Groyne": "GPL-3.0-or-later", "Limpet": "GPL-3.0-or-later", "Wrack": "GPL-3.0-or-later", "Shingle": "CC-BY-SA-4.0", "Cockle": "MIT", "Whelk": "CC-BY-NC-4.0",
	"Foreshore": "CC-BY-SA-4.0", "Driftwood": "CC-BY-SA-4.0", "Eddy": "CC-BY-4.0",
}

func licenceOf(name string) string {
	first, _, _ := strings.Cut(name, " ")
	return cmp.Or(licences[first], "CC0-1.0")
}

// ofGTK3 is what only GTK 3 knows.
const ofGTK3 = `
popover.background { background-color: @theme_base_color; color: @theme_text_color; border: 1px solid @borders; border-radius: RADIUS; padding: 4px; box-shadow: 0 4px 12px alpha(black, 0.18); }
messagedialog label.title { font-weight: bold; }
checkbutton.text-button check, radiobutton.text-button radio { margin-right: 6px; }
* { -GtkScrollbar-has-backward-stepper: false; -GtkScrollbar-has-forward-stepper: false; }
`

// ofGTK4 is what only GTK 4 knows: there the text in an entry has the keyboard.
const ofGTK4 = `
entry:focus-within { border-color: @theme_selected_bg_color; box-shadow: inset 0 0 0 1px @theme_selected_bg_color; }
popover.background { background-color: transparent; }
popover > contents { background-color: @theme_base_color; color: @theme_text_color; border: 1px solid @borders; border-radius: RADIUS; padding: 4px; box-shadow: 0 4px 12px alpha(black, 0.18); }
window.message label.title { font-weight: bold; }
checkbutton.text-button { border-spacing: 6px; }
entry > text:focus, spinbutton > text:focus { outline-style: none; }
`

// marks are what themes draw on controls.
var marks = map[string]string{
	"tick": `<path d="M2 7.500l1.500-1.500 2.300 2.300 4.700-5 1.500 1.400-6.100 6.600z" fill="#2e3436"/>`,
	"dot":  `<circle cx="7" cy="7" r="3" fill="#2e3436"/>`,
	"down": `<path d="M3 5l4 4.500 4-4.500z" fill="#2e3436"/>`,
	"on":   `<path d="M5 3l4.500 4-4.500 4z" fill="#2e3436"/>`,
}

// windowTheme makes a theme for every toolkit. companions are the icon pack and
// the pointer set it goes with.
func windowTheme(name, about string, c themeColours, pad int, dark *themeColours, companions ...string) files {
	filled := func(sheet string, c themeColours) []byte {
		return []byte(strings.NewReplacer("NAME", name, "ONCHOSEN", c.onSelected, "CHOSEN", c.selected, "BASE", c.base, "BG", c.bg, "FG", c.fg, "LINE", c.border,
			"HEAD", c.header, "RADIUS", fmt.Sprintf("%dpx", c.radius), "PAD", fmt.Sprint(pad)).Replace(sheet))
	}
	sheet := func(c themeColours) []byte { return filled(themeSheet, c) }
	out := files{
		"index.theme":         fmt.Appendf(nil, "[Desktop Entry]\nType=X-Window-Theme\nName=%s\nComment=%s\nX-License=%s\n\n[X-Companions]\nIconTheme=%s\nCursorTheme=%s\n", name, about, licenceOf(name), companions[0], companions[1]),
		"gtk-2.0/gtkrc":       filled(resourceFile, c),
		"gtk-3.0/gtk.css":     append(sheet(c), filled(ofGTK3, c)...),
		"gtk-4.0/gtk.css":     append(sheet(c), filled(ofGTK4, c)...),
		"quayside/shell.css":  filled(shellSheet, c),
		"quayside/shell.conf": []byte("[Shell]\nVersions=>= 3, < 4\n"),
		"samphire/bar.css":    filled(shellSheet, c),
		"withy/frame.css":     filled(shellSheet, c),
	}
	for mark, d := range marks {
		out["assets/"+mark+"-symbolic.svg"] = fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" width="14" height="14" viewBox="0 0 14 14">%s</svg>`, d)
	}
	if dark != nil {
		out["gtk-3.0/gtk-dark.css"] = append(sheet(*dark), filled(ofGTK3, *dark)...)
		out["gtk-4.0/gtk-dark.css"] = append(sheet(*dark), filled(ofGTK4, *dark)...)
		out["quayside/shell-dark.css"] = filled(shellSheet, *dark)
	}
	return out
}

func reedmacePack() pack {
	return pack{
		folder: "Reedmace", name: "Reedmace", comment: "Brown heads over green", inherits: []string{"Foreshore", "hicolor"}, style: marram, folderTone: "kelp",
		sizes: append(fixed(24, 48), vector), only: inContexts("apps", "places", "mimetypes"),
	}
}

// Sandpiper, a pointer set: pale feathers with a dark edge.
const pointerEdge, pointerFill, pointerAccent = "#2b3440", "#fdfcf7", "#c4763c"

// limpet has other colours in the same drawings, and lacks the resizing shapes.
var limpetDyes = strings.NewReplacer(pointerEdge, "#f2e8d8", pointerFill, "#2a2f3a", pointerAccent, "#e0a458")

// pointerShapes are drawings on a square of 32, with their hot spots there.
var pointerShapes = []struct {
	name       string
	hotX, hotY int
	draw       string
	also       []string
}{
	{"default", 5, 3, feather("M5 3L25 14C20 15 17 16 15 18C13 20 12 23 11 28C8 20 5 12 5 3Z"), []string{"left_ptr", "arrow", "top_left_arrow"}},
	{"pointer", 12, 4, feather("M10 5C10 2 14 2 14 5V13L23 15C26 16 26 18 25 21L23 28H13L7 20C6 18 8 17 10 18Z"), []string{"hand1", "hand2", "pointing_hand"}},
	{"text", 16, 16, feather("M11 4H14.500C15.500 4 16 4.500 16 5C16 4.500 16.500 4 17.500 4H21V6H18C17.400 6 17 6.400 17 7V25C17 25.600 17.400 26 18 26H21V28H17.500C16.500 28 16 27.500 16 27C16 27.500 15.500 28 14.500 28H11V26H14C14.600 26 15 25.600 15 25V7C15 6.400 14.600 6 14 6H11Z"), []string{"xterm", "ibeam"}},
	{"crosshair", 16, 16, feather("M15 3H17V15H29V17H17V29H15V17H3V15H15Z"), []string{"cross", "tcross"}},
	{"move", 16, 16, feather("M16 2L21 8H17.500V14.500H24V11L30 16L24 21V17.500H17.500V24H21L16 30L11 24H14.500V17.500H8V21L2 16L8 11V14.500H14.500V8H11Z"), []string{"fleur", "all-scroll", "size_all"}},
	{"not-allowed", 16, 16, feather("M16 4C23 4 28 9 28 16C28 23 23 28 16 28C9 28 4 23 4 16C4 9 9 4 16 4ZM9.500 11.300C8.500 12.700 8 14.300 8 16C8 20.400 11.600 24 16 24C17.700 24 19.300 23.500 20.700 22.500ZM11.300 9.500L22.500 20.700C23.500 19.300 24 17.700 24 16C24 11.600 20.400 8 16 8C14.300 8 12.700 8.500 11.300 9.500Z"), []string{"crossed_circle", "forbidden", "no-drop"}},
	{"ew-resize", 16, 16, feather("M2 16L9 9V14H23V9L30 16L23 23V18H9V23Z"), []string{"sb_h_double_arrow", "size_hor", "col-resize", "e-resize", "w-resize"}},
	{"ns-resize", 16, 16, feather("M16 2L23 9H18V23H23L16 30L9 23H14V9H9Z"), []string{"sb_v_double_arrow", "size_ver", "row-resize", "n-resize", "s-resize"}},
	{"nwse-resize", 16, 16, feather("M5 5H14.500L11 8.500L23.500 21L27 17.500V27H17.500L21 23.500L8.500 11L5 14.500Z"), []string{"bottom_right_corner", "top_left_corner", "size_fdiag", "se-resize", "nw-resize"}},
	{"nesw-resize", 16, 16, feather("M27 5V14.500L23.500 11L11 23.500L14.500 27H5V17.500L8.500 21L21 8.500L17.500 5Z"), []string{"bottom_left_corner", "top_right_corner", "size_bdiag", "sw-resize", "ne-resize"}},
	{"help", 5, 3, feather("M5 3L22 12C16 13 13 16 11 24C8 17 5 10 5 3Z") + fmt.Sprintf(`<path d="M20 18C20 15 27 15 27 18.500C27 21 24.500 21 24.500 23.500H22.500C22.500 20.500 25 20.500 25 18.700C25 17.200 22 17.200 22 18.500ZM22.500 25H24.700V27.200H22.500Z" fill="%s"/>`, pointerAccent), []string{"question_arrow", "left_ptr_help"}},
}

func feather(d string) string {
	return fmt.Sprintf(`<path d="%s" fill="%s" stroke="%s" stroke-width="1.600" stroke-linejoin="round"/>`, d, pointerFill, pointerEdge)
}

func waiting(frame, of int, ring bool) string {
	var b strings.Builder
	if !ring {
		b.WriteString(feather("M5 3L20 11C15 12 12 14 10 21C7 15 5 9 5 3Z"))
	}
	x, y, r := 16.0, 16.0, 10.0
	if !ring {
		x, y, r = 22, 22, 6
	}
	for i := range 8 {
		colour := pointerFill
		if (i+frame*8/of)%8 == 0 {
			colour = pointerAccent
		}
		dx := []float64{0, .707, 1, .707, 0, -.707, -1, -.707}[i]
		dy := []float64{-1, -.707, 0, .707, 1, .707, 0, -.707}[i]
		cx, cy, s := x+r*dx, y+r*dy, r*0.24
		fmt.Fprintf(&b, `<path d="M%.2f %.2fC%.2f %.2f %.2f %.2f %.2f %.2fC%.2f %.2f %.2f %.2f %.2f %.2fZ" fill="%s" stroke="%s" stroke-width="0.900"/>`,
			cx-s, cy, cx-s, cy-1.33*s, cx+s, cy-1.33*s, cx+s, cy, cx+s, cy+1.33*s, cx-s, cy+1.33*s, cx-s, cy, colour, pointerEdge)
	}
	return b.String()
}

func sandpiper() (files, error) {
	return pointerSet("Sandpiper", "Pale feathers with a dark edge", nil, 99)
}

// limpet draws the first shapes of Limpet.
func limpet(shapes int) func() (files, error) {
	return func() (files, error) {
		f, err := pointerSet("Limpet", "Dark shells with a pale rim", limpetDyes, shapes)
		return f.under("Limpet"), err
	}
}

// pointerSet draws the first shapes of the list, in other dyes if there are any.
func pointerSet(name, about string, dyes *strings.Replacer, most int) (files, error) {
	out := files{"index.theme": fmt.Appendf(nil, "[Icon Theme]\nName=%s\nComment=%s\nX-License=%s\nInherits=hicolor\n", name, about, licenceOf(name))}
	add := func(name string, hotX, hotY, frames int, draw func(frame int) string, also []string) error {
		var pictures []xcursor.Frame
		for _, size := range []int{24, 32, 48} {
			for i := range frames {
				drawing := draw(i)
				if dyes != nil {
					drawing = dyes.Replace(drawing)
				}
				im, err := pointerPicture(drawing, size)
				if err != nil {
					return err
				}
				pictures = append(pictures, xcursor.Frame{Size: size, Picture: im, HotX: hotX * size / 32, HotY: hotY * size / 32, Delay: 90 * min(frames-1, 1)})
			}
		}
		out["cursors/"+name] = xcursor.Encode(pictures)
		for _, a := range also {
			out.link("cursors/"+a, name)
		}
		return nil
	}
	for _, s := range pointerShapes[:min(most, len(pointerShapes))] {
		if err := add(s.name, s.hotX, s.hotY, 1, func(int) string { return s.draw }, s.also); err != nil {
			return nil, err
		}
	}
	if err := add("wait", 16, 16, 8, func(i int) string { return waiting(i, 8, true) }, []string{"watch"}); err != nil {
		return nil, err
	}
	return out, add("progress", 5, 3, 8, func(i int) string { return waiting(i, 8, false) }, []string{"left_ptr_watch", "half-busy"})
}

// pointerPicture is a drawing of a pointer in a size, px.
func pointerPicture(drawing string, size int) (image.Image, error) {
	b, err := raster([]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 32 32">`+drawing+`</svg>`), size)
	if err != nil {
		return nil, err
	}
	return png.Decode(bytes.NewReader(b))
}

// reedsAtDawn is the backdrop as several parcels have it.
var reedsAtDawn = sync.OnceValues(func() ([]byte, error) { return backdrop(1920, 1200) })

// backdrop draws reeds at dawn.
func backdrop(w, h int) ([]byte, error) {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1920 1200"><defs><linearGradient id="sky" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#8fb0b4"/><stop offset="0.6" stop-color="#e7d7bd"/><stop offset="1" stop-color="#e9b98a"/></linearGradient><linearGradient id="water" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#d9b48c"/><stop offset="1" stop-color="#47676a"/></linearGradient></defs>`)
	b.WriteString(`<path d="M0 0H1920V760H0Z" fill="url(#sky)"/><path d="M0 740C400 720 900 752 1300 736C1600 724 1800 744 1920 738V1200H0Z" fill="url(#water)"/><path d="M0 742C300 700 600 728 900 716C1250 702 1500 735 1920 712V744C1500 752 700 738 0 752Z" fill="#54706a"/>`)
	// One path for each shade: the rasteriser's cost is by path.
	shades := []string{"#2c4038", "#38503f", "#4a6148", "#5d6f4c"}
	reeds, heads := make([]strings.Builder, len(shades)), strings.Builder{}
	for i := range 70 {
		x := (i*277 + i*i*31) % 1960
		tall := 330 + (i*83)%360
		lean := (i*47)%90 - 45
		fmt.Fprintf(&reeds[i%len(shades)], "M%d 1210C%d %d %d %d %d %dC%d %d %d %d %d 1210Z", x, x+lean/3, 1210-tall/2, x+lean, 1210-tall*3/4, x+lean*2, 1210-tall, x+lean+9, 1210-tall*3/4, x+lean/3+9, 1210-tall/2, x+9)
		if i%3 == 0 {
			hx, hy := x+lean*2, 1210-tall
			fmt.Fprintf(&heads, "M%d %dC%d %d %d %d %d %dC%d %d %d %d %d %dZ", hx-7, hy, hx-7, hy-60, hx+7, hy-60, hx+7, hy, hx+7, hy+16, hx-7, hy+16, hx-7, hy)
		}
	}
	for i, shade := range shades {
		b.WriteString(fill(reeds[i].String(), shade))
	}
	b.WriteString(fill(heads.String(), "#6b4527"))
	b.WriteString(`</svg>`)
	return rasterWide([]byte(b.String()), w, h)
}

func reedbed(name string, c themeColours, pad int, dark *themeColours) files {
	return windowTheme(name, "Reeds and still water", c, pad, dark, "Reedmace", "Sandpiper")
}

// kitArchive is the kit as it is downloaded.
var kitArchive = sync.OnceValues(func() ([]byte, error) {
	reeds, err := kit()
	if err != nil {
		return nil, err
	}
	return archiveOf("reedbed-kit.zip", reeds)
})

func kit() (files, error) {
	const top = "reedbed-kit-0.4/"
	light, dark := reedLight, reedDark
	out := files{
		top + "README.md": []byte("# Reedbed kit\n\nA window theme in three variants, icons, pointers and a picture.\n"),
		top + "LICENSE":   []byte("CC0-1.0\n"),
	}
	out.add(reedbed("Reedbed", light, 6, &dark).under(top + "themes/Reedbed"))
	out.add(reedbed("Reedbed Dark", dark, 6, nil).under(top + "themes/Reedbed-Dark"))
	out.add(reedbed("Reedbed Dark Compact", dark, 3, nil).under(top + "themes/Reedbed-Dark-Compact"))
	icons, err := reedmacePack().make()
	if err != nil {
		return nil, err
	}
	out.add(icons.under(top + "icons/Reedmace"))
	pointers, err := sandpiper()
	if err != nil {
		return nil, err
	}
	out.add(pointers.under(top + "pointers/Sandpiper"))
	out[top+"backdrops/reeds-at-dawn.png"], err = reedsAtDawn()
	return out, err
}
