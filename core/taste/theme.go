package taste

import (
	"context"
	"io/fs"
	"path"
	"slices"

	"ivelt/core/colour"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/market"
	"ivelt/core/parcel"
)

// inks are the colours of a window: what it and its parts are filled with, and its text.
type inks struct {
	ground, entry, header, selected, text colour.Colour
	roundness, density                    float64 // as in [market.Looks]
}

// ofTheme measures what a theme's newest sheet, or else its resource file of GTK 2, fills
// the parts of a window with, weighted by how much of it they are.
func ofTheme(ctx context.Context, fsys fs.FS, pc parcel.Piece, dark bool) (market.Looks, bool) {
	usual, other := gtkcss.Newest(ctx, fsys, pc.Root, pc.Parts)
	if dark || usual == nil {
		usual, other = other, usual
	}
	if usual == nil {
		usual, other = other, nil
	}
	if usual == nil {
		if !slices.Contains(pc.Parts, "gtk-2.0") {
			return market.Looks{}, false
		}
		f, err := gtkrc.Load(fsys, path.Join(pc.Root, "gtk-2.0", "gtkrc"))
		if err != nil {
			return market.Looks{}, false
		}
		return ofResources(f).looks(), true
	}
	in, ok := ofSheet(ctx, usual)
	if !ok {
		return market.Looks{}, false
	}
	out := in.looks()
	if other != nil {
		if in, ok := ofSheet(ctx, other); ok {
			if there := in.looks(); there.Dark() != out.Dark() {
				out.TwoForms, out.Other = true, &there
			}
		}
	}
	return out, true
}

func (in inks) looks() market.Looks {
	var s sample
	for _, part := range []struct {
		c      colour.Colour
		weight float64
	}{{in.ground, 60}, {in.entry, 30}, {in.header, 12}, {in.selected, 8}, {in.text, 6}} {
		s.pixel(part.c, part.weight)
	}
	out, _ := s.looks()
	if _, ch, h := in.selected.LCH(); ch >= colour.Grey { // the accent is what a theme is known by
		out.Chroma, out.Hue = max(out.Chroma, ch/2, colour.Grey), h
	}
	out.Contrast = colour.Contrast(in.text, in.ground)
	out.Roundness, out.Density = in.roundness, in.density
	return round(out)
}

// What a theme's shape is measured against, px: a corner that is wholly round, and the
// room over a button's label that leaves nothing dense.
const (
	roundCorner = 12
	muchRoom    = 14
)

// ofSheet is what a sheet gives the parts of a window; where no rule fills one, the colour
// that themes name for it counts. ok is false if it says nothing of the window's ground.
func ofSheet(ctx context.Context, sheet *gtkcss.Sheet) (in inks, ok bool) {
	styles := gtkcss.NewCascade(sheet)
	styles.Until(ctx)
	const window = "window.background"
	filled := func(node, name string, on gtkcss.Colour) (gtkcss.Colour, bool) {
		c := styles.Compute(node).Fill()
		if named, known := styles.Colour(name); c.A < 0.02 && known {
			c = named
		}
		return c.Over(on), c.A >= 0.02
	}
	ground, ok := filled(window, "theme_bg_color", gtkcss.Colour{R: 1, G: 1, B: 1, A: 1})
	if !ok {
		return in, false
	}
	entry, _ := filled(window+" box entry", "theme_base_color", ground)
	header, _ := filled(window+" headerbar.titlebar", "header_color", ground)
	selected, _ := filled(window+" list row:selected", "theme_selected_bg_color", entry)
	if _, ch, _ := opaque(selected).LCH(); ch < colour.Grey { // the accent may be in the chosen text alone
		if accent, known := styles.Colour("theme_selected_bg_color"); known {
			selected = accent.Over(entry)
		}
	}
	text := styles.Compute(window + " label").Colour("color")
	if _, _, told := styles.Compute(window).Told("color"); !told {
		if named, known := styles.Colour("theme_fg_color"); known {
			text = named
		}
	}
	button := styles.Compute(window + " box button")
	in = inks{ground: opaque(ground), entry: opaque(entry), header: opaque(header), selected: opaque(selected), text: opaque(text.Over(ground))}
	in.roundness = min(button.Radii(72, 28)[0][0]/roundCorner, 1)
	in.density = 1 - min(button.Padding()[0]/muchRoom, 1)
	return in, !styles.Tired() && ctx.Err() == nil
}

// ofResources is the same of a theme of GTK 2, whose engine draws the shapes.
func ofResources(f *gtkrc.File) inks {
	window, entry := gtkrc.Of("GtkWindow", "GtkWindow"), gtkrc.Of("GtkEntry", "GtkEntry")
	w, e := f.Style([]gtkrc.Widget{window}), f.Style([]gtkrc.Widget{window, entry})
	of := func(c gtkrc.Colour) colour.Colour { return colour.Colour{R: c[0], G: c[1], B: c[2]} }
	ground := of(w.Bg[gtkrc.Normal])
	return inks{ground, of(e.Base[gtkrc.Normal]), ground, of(e.Base[gtkrc.Selected]), of(w.Fg[gtkrc.Normal]), market.Shapeless, 0.5}
}

func opaque(c gtkcss.Colour) colour.Colour { return colour.Colour{R: c.R, G: c.G, B: c.B} }
