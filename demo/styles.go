package demo

import (
	"fmt"
	"slices"
	"strings"
)

// styleColours are what a picture-based style of the demo is drawn in.
type styleColours struct{ face, light, deep, ink, accent, ground string }

var (
	pebbleStyle  = styleColours{"#d9cfbb", "#efe8d8", "#8d7f66", "#4a4234", "#4f7f5f", "#e6dfcf"}
	crackleStyle = styleColours{"#48525a", "#66727b", "#262d33", "#e8ecee", "#d08a4e", "#363f46"}
)

// pictureStyle is a style for Sedge: a drawing with the elements that it asks for,
// but for some, and some under other names, and its settings.
func pictureStyle(name, version, licence string, c styleColours, called map[string]string, without ...string) files {
	var b strings.Builder
	b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 240 120" width="240" height="120">`)
	edges := map[string]string{"button": "8 12", "field": "4", "groove": "0 4", "bar": "0 5"}
	draw := func(id, shape string) {
		kind, _, _ := strings.Cut(id, "-")
		var stated string
		if e := edges[kind]; e != "" {
			stated = fmt.Sprintf(` data-edges="%s"`, e)
		}
		if slices.Contains(without, id) {
			return
		}
		if called[id] != "" {
			id = called[id]
		}
		fmt.Fprintf(&b, `<g id="%s"%s>%s</g>`, id, stated, shape)
	}
	stone := func(x, y int, fill, edge string) string {
		return fmt.Sprintf(`<path d="M%d %dc12 -5 40 -5 52 0c5 4 5 16 0 20c-12 5 -40 5 -52 0c-5 -4 -5 -16 0 -20z" fill="%s" stroke="%s" stroke-width="2"/><path d="M%d %dc12 -4 32 -4 44 0" fill="none" stroke="%s" stroke-width="2"/>`, x, y, fill, edge, x+4, y+3, c.light)
	}
	draw("button", stone(12, 14, c.face, c.deep))
	draw("button-over", stone(92, 14, c.light, c.deep))
	draw("button-pressed", stone(172, 14, c.deep, c.ink))
	draw("button-off", `<g opacity="0.45">`+stone(12, 52, c.face, c.deep)+`</g>`)
	field := func(x int, edge string) string {
		return fmt.Sprintf(`<path d="M%d 50h56v22h-56z" fill="%s" stroke="%s" stroke-width="2"/>`, x, c.light, edge)
	}
	draw("field", field(90, c.deep))
	draw("field-focus", field(170, c.accent))
	tick := fmt.Sprintf(`<circle cx="24" cy="98" r="10" fill="%s" stroke="%s" stroke-width="2"/>`, c.light, c.deep)
	draw("tick", tick)
	draw("tick-on", `<g transform="translate(30 0)">`+tick+fmt.Sprintf(`<circle cx="24" cy="98" r="5" fill="%s"/></g>`, c.accent))
	draw("groove", fmt.Sprintf(`<path d="M90 98h56" stroke="%s" stroke-width="7" stroke-linecap="round"/>`, c.deep))
	draw("knob", fmt.Sprintf(`<circle cx="118" cy="98" r="10" fill="%s" stroke="%s" stroke-width="2"/>`, c.face, c.deep))
	draw("bar", fmt.Sprintf(`<path d="M172 98h50" stroke="%s" stroke-width="10" stroke-linecap="round"/>`, c.accent))
	b.WriteString("</svg>\n")
	return files{
		name + "/" + name + ".svg":  []byte(b.String()),
		name + "/" + name + ".conf": fmt.Appendf(nil, "[Style]\nName=%s\nVersion=%s\nLicence=%s\nInk=%s\nGround=%s\n", name, version, licence, c.ink, c.ground),
		name + "/LICENSE":           []byte(licence + "\n"),
	}
}

// outfitFile is an outfit that a bundle of the demo has in it.
func outfitFile(name, about string, facets ...[2]string) []byte {
	var b strings.Builder
	fmt.Fprintf(&b, "format = 1\nname = %q\nabout = %q\n", name, about)
	for _, f := range facets {
		family, size, font := strings.Cut(f[1], "@")
		switch {
		case font:
			fmt.Fprintf(&b, "\n[facet.%s]\npiece = %q\nsize = %s\n", f[0], family, size)
		case slices.Contains([]string{"widgets", "bar", "icons", "pointer", "frame", "palette", "pictures"}, f[0]):
			fmt.Fprintf(&b, "\n[facet.%s]\npiece = %q\n", f[0], f[1])
		default:
			fmt.Fprintf(&b, "\n[facet.%s]\nvalue = %q\n", f[0], f[1])
		}
	}
	return []byte(b.String())
}

// shoreBundle dresses a desk in Reedbed whole, with a layout of its own; it leaves
// open what is behind everything, the pointer, and what Sedge draws with.
func shoreBundle() (files, error) {
	icons, err := reedmacePack().make()
	if err != nil {
		return nil, err
	}
	letters, err := estuary("Estuary Sans")
	if err != nil {
		return nil, err
	}
	dark := reedDark
	out := files{
		"reedbed-shore/outfit.toml": outfitFile("Reedbed, the whole shore", "Reeds, paper and a bar like still water.",
			[2]string{"widgets", "Reedbed"}, [2]string{"bar", "Reedbed"}, [2]string{"icons", "Reedmace"}, [2]string{"font", "Estuary Sans@11"},
			[2]string{"dark", "dark"}, [2]string{"accent", "#7fb58c"}, [2]string{"opacity", "24"}, [2]string{"blur", "8"},
			[2]string{"bars", "bottom 44: menu pinned / / tray battery clock"}, [2]string{"buttons", "close,minimize,maximize:menu"}, [2]string{"workspaces", "6"}),
		"reedbed-shore/LICENSE": []byte("CC0-1.0\n"),
	}
	out.add(windowTheme("Reedbed", "Reeds and still water", reedLight, 6, &dark, "Reedmace", "Sandpiper").under("reedbed-shore/themes/Reedbed"))
	out.add(icons.under("reedbed-shore/icons/Reedmace"))
	return out.add(letters.under("reedbed-shore/fonts")), nil
}

// undertowBundle names pieces that it does not bring: they have to be had first.
func undertowBundle() (files, error) {
	return files{
		"undertow/outfit.toml": outfitFile("Undertow", "One lamp of amber over wet stone.",
			[2]string{"widgets", "Groyne"}, [2]string{"bar", "Groyne"}, [2]string{"icons", "Wrack"}, [2]string{"pointer", "Limpet"}, [2]string{"dark", "dark"}, [2]string{"accent", "#dd9a45"}, [2]string{"palette", "ebb"}, [2]string{"workspaces", "3"}),
		"undertow/README.md": []byte("Get Groyne, Wrack, Limpet and the palette Ebb first.\n"),
		"undertow/LICENSE":   []byte("GPL-3.0-or-later\n"),
	}, nil
}
