package layout

import (
	"ivelt/core/say"
)

// Says tells bars in words.
func Says(bars []Bar) say.Message {
	if len(bars) == 0 {
		return say.Word("none").Message()
	}
	var out []say.Message
	for _, b := range bars {
		out = append(out, b.Says())
	}
	return say.Join("; ", out...)
}

// Says tells an edge in words.
func (e Edge) Says() say.Word {
	return map[Edge]say.Word{Top: "top", Bottom: "bottom", Left: "left", Right: "right"}[e]
}

// Says tells in a word where things lie along an edge.
func (a Align) Says() say.Word {
	return map[Align]say.Word{Start: "start", Middle: "middle", End: "end"}[a]
}

// Says tells in a word when a bar is out of sight.
func (h Hiding) Says() say.Word {
	return map[Hiding]say.Word{Never: "never", Always: "always", Covered: "covered"}[h]
}

// comma joins what is said of one thing.
func comma(all ...say.Message) say.Message { return say.Join(", ", all...) }

// Says tells a bar in words.
func (b Bar) Says() say.Message {
	said := []say.Message{b.Edge.Says().Message(), say.Line("%d px", b.Thick)}
	switch b.Long.Of {
	case Content:
		said = append(said, say.Word("as long as its items").Message())
	case Fixed:
		said = append(said, say.Line("%d px long", b.Long.N))
	case Share:
		said = append(said, say.Line("%d %% long", b.Long.N))
	}
	if b.Margin > 0 {
		said = append(said, say.Line("%d px off the edge", b.Margin))
	}
	said = append(said, b.Hides.says()...)
	if b.Monitor == All {
		said = append(said, say.Word("on all monitors").Message())
	} else if b.Monitor != "" {
		said = append(said, say.Line("on %s", b.Monitor))
	}
	var sides []say.Message
	for _, side := range Aligns {
		var items []say.Message
		for _, i := range b.Items {
			if k, _ := KindOf(i.Kind); i.Side == side {
				items = append(items, say.Lower(k.Title))
			}
		}
		if items == nil {
			continue
		}
		switch all := comma(items...); side {
		case Middle:
			sides = append(sides, say.Line("in the middle %s", all))
		case End:
			sides = append(sides, say.Line("at the end %s", all))
		default:
			sides = append(sides, all)
		}
	}
	if sides == nil {
		return say.Line("%s: empty", comma(said...))
	}
	return say.Line("%s: %s", comma(said...), say.Join("; ", sides...))
}

// Says tells a way in words.
func (t Tiling) Says() say.Word {
	return map[Tiling]say.Word{ByHand: "each where it is put", Columns: "in columns", Beside: "one large, beside the others", Grid: "in a grid"}[t]
}

// Says tells in words how windows lie.
func (t Tiles) Says() say.Message {
	said := []say.Message{t.As.Says().Message()}
	if t.As == Beside {
		said[0] = say.Line("one of %d %% beside the others", t.Share)
	}
	if t.Outer != [4]int{} {
		outer := say.Line("%d px", t.Outer[0])
		if t.Outer != [4]int{t.Outer[0], t.Outer[0], t.Outer[0], t.Outer[0]} {
			outer = say.Line("%d, %d, %d and %d px", t.Outer[0], t.Outer[1], t.Outer[2], t.Outer[3])
		}
		said = append(said, say.Line("%s around them", outer))
	}
	if t.Inner != 0 {
		said = append(said, say.Line("%d px between", t.Inner))
	}
	if !t.Frames {
		said = append(said, say.Word("no frames").Message())
	}
	return comma(said...)
}

func (h Hiding) says() []say.Message {
	switch h {
	case Always:
		return []say.Message{say.Word("hides").Message()}
	case Covered:
		return []say.Message{say.Word("hides under windows").Message()}
	}
	return nil
}

// Says tells a dock in words.
func (d *Dock) Says() say.Message {
	if d == nil {
		return say.Word("none").Message()
	}
	said := []say.Message{d.Edge.Says().Message(), say.Line("icons of %d px", d.Icon)}
	if d.Grow > 100 {
		said = append(said, say.Line("growing to %d %%", d.Grow))
	}
	if d.Margin > 0 {
		said = append(said, say.Line("%d px off the edge", d.Margin))
	}
	said = append(said, d.Hides.says()...)
	return say.Line("%s: %s", comma(said...), say.Many(len(d.Programs), "program"))
}
