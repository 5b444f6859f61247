package judge

import (
	"cmp"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/layout"
	"ivelt/core/preview"
	"ivelt/core/say"
)

// leastButton is how thin a bar may be whose buttons are to be hit: WCAG 2.2, 2.5.8, "Target Size".
const leastButton = 24

// arranged judges where things are on a shell's bars and in its dock.
func (j *judging) arranged(s desk.Surface) (out []Verdict) {
	if _, has := s.Facet(desk.FacetBars); !has {
		return nil
	}
	bars, err := layout.ParseBars(j.look.Of(desk.FacetBars, s.ID))
	if err != nil {
		return nil // the shell passes it over, which Match tells
	}
	bars = layout.Sorted(bars)
	dock, _ := layout.ParseDock(cmp.Or(j.look.Of(desk.FacetDock, s.ID), "none"))
	_, hasDock := s.Facet(desk.FacetDock)
	say1 := func(facet string, grave bool, says say.Message, fixes ...Fix) {
		if fixes == nil {
			fixes = []Fix{{Says: say.Of("judge/arrange-it-otherwise")}}
		}
		out = append(out, Verdict{Surface: s.ID, Facet: facet, Code: Arranged, Grave: grave, Says: says, Remedies: fixes})
	}
	with := func(says say.Message, change func([]layout.Bar) ([]layout.Bar, error)) []Fix {
		changed, err := change(bars)
		if err != nil {
			return nil
		}
		return []Fix{{Facet: desk.FacetBars, Want: layout.FormatBars(changed), Says: says}}
	}
	has := func(kind string) (bar, item int, n int) {
		for b := range bars {
			for i := range bars[b].Items {
				if bars[b].Items[i].Kind == kind {
					if n++; n == 1 || kind == "clock" {
						bar, item = b, i
					}
				}
			}
		}
		return bar, item, n
	}
	add := func(kind string, side layout.Align) []Fix {
		k, _ := layout.KindOf(kind)
		return with(say.Of("judge/put-on-the-first-bar", say.Lower(k.Title)), func(bars []layout.Bar) ([]layout.Bar, error) {
			if len(bars) == 0 {
				bars = []layout.Bar{{Edge: layout.Top, Thick: 34, Hides: layout.Never, At: layout.Start}}
			}
			out, _, err := layout.Add(bars, kind, layout.Spot{Side: side})
			return out, err
		})
	}
	if _, _, n := has("menu"); n == 0 {
		say1(desk.FacetBars, true, say.Of("judge/no-menu-anywhere", s.Named()), add("menu", layout.Start)...)
	}
	if _, _, n := has("windows"); n == 0 && dock == nil {
		if _, _, pinned := has("pinned"); pinned == 0 {
			say1(desk.FacetBars, true, say.Of("judge/no-windows-anywhere", s.Named()), add("windows", layout.Start)...)
		}
	}
	if _, _, n := has("tray"); n == 0 {
		say1(desk.FacetBars, false, say.Of("judge/no-tray-anywhere", s.Named()), add("tray", layout.End)...)
	}
	if bar, item, n := has("clock"); n > 1 {
		say1(desk.FacetBars, false, say.Of("judge/several-clocks", s.Named(), n), with(say.Of("judge/take-the-last-away"), func(bars []layout.Bar) ([]layout.Bar, error) { return layout.Remove(bars, bar, item) })...)
	}
	if dock != nil && hasDock {
		if i := slices.IndexFunc(bars, func(b layout.Bar) bool { return b.Edge == dock.Edge && b.Monitor == dock.Monitor }); i >= 0 {
			fixes := with(say.Of("judge/take-that-bar-away"), func(bars []layout.Bar) ([]layout.Bar, error) { return slices.Delete(layout.Sorted(bars), i, i+1), nil })
			for _, e := range []layout.Edge{layout.Bottom, layout.Left, layout.Right, layout.Top} {
				if !slices.ContainsFunc(bars, func(b layout.Bar) bool { return b.Edge == e }) {
					moved := *dock
					moved.Edge = e
					fixes = append([]Fix{{Facet: desk.FacetDock, Want: layout.FormatDock(&moved), Says: say.Of("judge/dock-elsewhere", string(e))}}, fixes...)
					break
				}
			}
			say1(desk.FacetDock, false, say.Of("judge/dock-shares-an-edge", string(dock.Edge)), fixes...)
		}
	}
	for i, b := range bars {
		if len(b.Items) > 0 && b.Thick < leastButton {
			say1(desk.FacetBars, false, say.Of("judge/bar-too-thin", string(b.Edge), b.Thick, leastButton), with(say.Of("judge/so-thick", leastButton), func(bars []layout.Bar) ([]layout.Bar, error) {
				out := layout.Sorted(bars)
				out[i].Thick = leastButton
				return out, nil
			})...)
		}
	}
	if _, _, n := has("buttons"); n == 0 && j.look.Of(desk.FacetMaximised, s.ID) == "gone" {
		say1(desk.FacetMaximised, false, say.Of("judge/no-window-buttons"), append(add("buttons", layout.End),
			Fix{Facet: desk.FacetMaximised, Want: "kept", Says: say.Of("judge/keep-titles")})...)
	}
	return append(out, j.troubled(s, bars)...)
}

// overlaps judges whether a clock or a readout on the desk lies over its icons, or over the other.
func (j *judging) overlaps() (out []Verdict) {
	seen := map[string]bool{}
	for i, m := range j.monitors() {
		over := func(look preview.Look) (on []preview.OnDesk, over []say.Message) {
			on = preview.ArrangeOn(j.d, look, j.monitors(), i).OnDesk
			lying := preview.Ground(j.d, look, int(float64(m.Width)/m.Times()), int(float64(m.Height)/m.Times()))
			for n, o := range on {
				what := say.Message{}
				for _, l := range lying {
					if o.At.Overlaps(l.At) || o.At.Overlaps(l.Caption) {
						what = say.Line("the icons on the desk")
					}
				}
				for _, other := range on[:n] {
					if o.At.Overlaps(other.At) {
						what = say.Lower(desk.FacetTitle(other.Facet))
					}
				}
				over = append(over, what)
			}
			return on, over
		}
		on, what := over(j.look)
		for n, o := range on {
			if what[n].Code == "" || seen[o.Facet] {
				continue
			}
			seen[o.Facet] = true
			v := Verdict{Surface: o.Surface, Facet: o.Facet, Code: Arranged, Says: say.Of("judge/lies-over", desk.FacetTitle(o.Facet), what[n])}
			for _, edge := range [][]layout.Edge{{layout.Top, layout.Left}, {layout.Top, layout.Right}, {layout.Bottom, layout.Right}, {layout.Bottom, layout.Left}} {
				moved := o.Lying
				moved.Edges = edge
				_, then := over(j.look.With(o.Facet, o.Surface, layout.FormatLying(&moved)))
				if !slices.ContainsFunc(then, func(what say.Message) bool { return what.Code != "" }) {
					v.Remedies = append(v.Remedies, Fix{Facet: o.Facet, Want: layout.FormatLying(&moved), Says: say.Of("judge/lie-elsewhere", moved.Where())})
					break
				}
			}
			v.Remedies = append(v.Remedies, Fix{Says: say.Of("judge/arrange-it-otherwise")})
			out = append(out, v)
		}
	}
	return out
}

// troubled tells what of the layout was not done as it was said, on any monitor.
func (j *judging) troubled(s desk.Surface, bars []layout.Bar) (out []Verdict) {
	seen := map[string]bool{}
	for i := range j.monitors() {
		for _, t := range preview.ArrangeOn(j.d, j.look, j.monitors(), i).Trouble {
			facet, what := desk.FacetDock, say.Line("the dock")
			if t.Bar >= 0 && t.Bar < len(bars) {
				facet, what = desk.FacetBars, say.Line("the bar at the %s", bars[t.Bar].Edge.Says())
			}
			k, _ := layout.KindOf(t.What)
			var says say.Message
			switch t.Code {
			case layout.TooThick:
				says = say.Of("judge/bar-too-thick", what)
			case layout.TooLong:
				says = say.Of("judge/bar-too-long", what)
			case layout.Negative:
				says = say.Of("judge/bar-negative", what)
			case layout.NoMonitor:
				says = say.Of("judge/bar-no-monitor", what, t.What)
			case layout.NoRoom:
				says = say.Of("judge/item-no-room", say.Lower(k.Title), what)
			case layout.Cut:
				says = say.Of("judge/bar-cut", what)
			case layout.Unknown:
				says = say.Of("judge/item-unknown", t.What, what)
			}
			if key := facet + says.String(); !seen[key] {
				seen[key] = true
				v := Verdict{Surface: s.ID, Facet: facet, Code: Arranged, Says: says, Remedies: []Fix{{Says: say.Of("judge/arrange-it-otherwise")}}}
				if t.Code == layout.NoMonitor && facet == desk.FacetBars {
					there := layout.Sorted(bars)
					there[t.Bar].Monitor = ""
					v.Remedies = []Fix{{Facet: facet, Want: layout.FormatBars(there), Says: say.Of("judge/on-the-first-monitor")}}
				}
				out = append(out, v)
			}
		}
	}
	return out
}
