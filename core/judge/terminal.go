package judge

import (
	"image"
	"io/fs"
	"strconv"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/palette"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// PaletteOf reads the palette of a terminal by its name.
func PaletteOf(d *desk.Desk, s desk.Surface, name string) (palette.Palette, bool) {
	f, _ := s.Facet(desk.FacetPalette)
	file, err := reading.Find(d, f.Lookup, name)
	if err != nil || file == "" {
		return palette.Palette{}, false
	}
	raw, err := fs.ReadFile(d.Tree(), desk.Name(file))
	if err != nil {
		return palette.Palette{}, false
	}
	p, err := palette.Parse(raw)
	return p, err == nil
}

// terminal holds a terminal's colours against its ground, against each other as
// some see them, and its ink against what shows through.
func (j *judging) terminal(s desk.Surface) []Verdict {
	name := j.look.Of(desk.FacetPalette, s.ID)
	p, ok := PaletteOf(j.d, s, name)
	if !ok {
		return nil
	}
	f, _ := s.Facet(desk.FacetPalette)
	t := ofTerminal{j: j, s: s, name: name, p: p, worn: reading.Told(j.d, s, f).Value == name}
	var out []Verdict
	if parts := unreadable(p); parts != nil {
		out = append(out, t.notRead(parts))
	}
	if parts, text := confused(pairsOf(p)); parts != nil {
		out = append(out, t.confused(parts, text))
	}
	return append(out, j.through(s, p)...)
}

// ofTerminal judges the palette of one terminal.
type ofTerminal struct {
	j    *judging
	s    desk.Surface
	name string
	p    palette.Palette
	worn bool // it wears it, so that its colours can be changed
}

// notRead is the verdict on colours that cannot be read.
func (t ofTerminal) notRead(parts []Part) Verdict {
	v := Verdict{Surface: t.s.ID, Facet: desk.FacetPalette, Code: TermColour, Ratio: 21, Needs: palette.Legible, Parts: parts}
	worst := ""
	for _, part := range parts {
		if part.Ratio < v.Ratio {
			v.Ratio, worst = part.Ratio, part.What
		}
	}
	v.Grave = v.Ratio < 2
	v.Says = say.Of("judge/palette-cannot-be-read-as", say.Upper(say.Word(worst)), t.name, decimal(v.Ratio))
	if len(parts) > 1 {
		v.Says = say.Of("judge/colours-palette-cannot-be-read", len(parts), t.name, worst, decimal(v.Ratio))
	}
	v.Remedies = t.other(func(o palette.Palette) bool { return unreadable(o) == nil })
	if t.worn {
		to := map[int]string{}
		for _, h := range t.p.Contrasts() {
			if !h.Legible() && !h.Quiet {
				to[h.Index] = t.p.Nearest(h.Colour).Hex()
			}
		}
		v.Remedies = append(v.Remedies, Fix{Colours: to, Says: say.Of("judge/or-keep-palette-nearest-colours")})
	}
	v.Remedies = append(v.Remedies, Fix{Says: say.Of("judge/terminal-page-has-each-be")})
	return v
}

// confused is the verdict on colours that some cannot tell apart.
func (t ofTerminal) confused(parts []Part, text string) Verdict {
	v := Verdict{Surface: t.s.ID, Facet: desk.FacetPalette, Code: Alike, Parts: parts, Says: say.Of("judge/palette-alike", t.name, text)}
	v.Remedies = t.other(func(o palette.Palette) bool { parts, _ := confused(pairsOf(o)); return parts == nil })
	if to := telling(t.p); t.worn && to != nil {
		v.Remedies = append(v.Remedies, Fix{Colours: to, Says: say.Of("judge/or-keep-palette-some-colours")})
	}
	if v.Remedies == nil {
		v.Remedies = []Fix{{Says: say.Of("judge/choose-programs-say-words-or")}}
	}
	return v
}

// other is the nearest of the palettes in place that is well.
func (t ofTerminal) other(well func(palette.Palette) bool) []Fix {
	best, least := "", 9.0
	for _, name := range t.j.others(t.s, desk.FacetPalette) {
		o, ok := PaletteOf(t.j.d, t.s, name)
		if !ok || !well(o) {
			continue
		}
		if apart := colour.Distance(o.Ground, t.p.Ground) + colour.Distance(o.Ink, t.p.Ink); apart < least {
			best, least = name, apart
		}
	}
	if best == "" {
		return nil
	}
	return []Fix{{Facet: desk.FacetPalette, Want: best, Says: say.Of("judge/palettes-place-nearest-well", best)}}
}

// telling are colours with which everybody can tell apart what a palette sets
// against each other, nil if none do.
func telling(p palette.Palette) map[int]string {
	out := map[int]string{}
	for range 4 { // one that is moved may come near another
		parts, _ := confused(pairsOf(p))
		if parts == nil {
			return out
		}
		for _, pair := range pairsOf(p) {
			if one, _ := confused([]two{pair}); one == nil {
				continue
			}
			hex := toldFrom(pair.a, pair.b, p.Ground)
			if hex == "" {
				return nil
			}
			out[pair.of] = hex
			p.Colours[pair.of], _ = colour.Parse(hex)
		}
	}
	return nil
}

func unreadable(p palette.Palette) []Part {
	var out []Part
	for _, h := range p.Contrasts() {
		if !h.Legible() && !h.Quiet {
			out = append(out, Part{What: h.Name, Ratio: h.Contrast, Needs: palette.Legible, Ink: h.Colour.Hex(), Ground: p.Ground.Hex(), Nearest: p.Nearest(h.Colour).Hex()})
		}
	}
	return out
}

// Through tells how a terminal's ink is seen over what shows through its ground:
// the contrast that a tenth of the backdrop does not reach, and the least opacity,
// in percent, at which it can be read; ok is false if nothing shows through.
func Through(d *desk.Desk, look preview.Look, s desk.Surface) (ratio float64, least int, ok bool) {
	j := judging{d: d.Snapshot(), look: look}
	p, has := PaletteOf(j.d, s, look.Of(desk.FacetPalette, s.ID))
	opacity := number(look, desk.FacetGround, s.ID, 0, 100, 100)
	if !has || opacity >= 100 || len(j.scenery()) == 0 {
		return 0, 0, false
	}
	return j.seenThrough(s, p, opacity)
}

func (j *judging) seenThrough(s desk.Surface, p palette.Palette, opacity int) (ratio float64, least int, ok bool) {
	// The window may be anywhere: all of the picture counts, an eighth of its size.
	const k = 8
	var all []where
	blur := float64(number(j.look, desk.FacetGroundBlur, s.ID, 0, 64, 0))
	for _, m := range j.monitors() {
		for _, of := range j.scenery() {
			w, h := max(m.Width/k, 1), max(m.Height/k, 1)
			all = append(all, where{m, of.path, "", sampled(j.screen(of, m, image.Rectangle{}, k, image.Rect(0, 0, w, h), blur/k, 1))})
		}
	}
	of := func(c colour.Colour) gtkcss.Colour { return gtkcss.Colour{R: c.R, G: c.G, B: c.B, A: 1} }
	worst := func(percent int) float64 {
		r, _ := worstOf(thing{inks: []gtkcss.Colour{of(p.Ink)}, fill: of(p.Ground)}, float64(percent)/100, all)
		return r
	}
	ratio, least = worst(opacity), opacity
	for least < 100 && worst(least) < palette.Legible {
		least++
	}
	return ratio, least, true
}

func (j *judging) through(s desk.Surface, p palette.Palette) []Verdict {
	opacity := number(j.look, desk.FacetGround, s.ID, 0, 100, 100)
	if opacity >= 100 || len(j.scenery()) == 0 {
		return nil
	}
	ratio, least, _ := j.seenThrough(s, p, opacity)
	if ratio >= palette.Legible {
		return nil
	}
	return []Verdict{{
		Surface: s.ID, Facet: desk.FacetGround, Code: TermOver, Ratio: ratio, Needs: palette.Legible, Grave: ratio < 2,
		Says:     say.Of("judge/lets-so-much-backdrop-through", s.Named(), decimal(ratio)),
		Remedies: []Fix{{Facet: desk.FacetGround, Want: strconv.Itoa(least), Says: say.Of("judge/opaque-would-do", least)}},
	}}
}
