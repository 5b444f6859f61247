package layout

import (
	"fmt"
	"strings"
)

// Says tells bars in words.
func Says(bars []Bar) string {
	if len(bars) == 0 {
		return "none"
	}
	var out []string
	for _, b := range bars {
		out = append(out, b.Says())
	}
	return strings.Join(out, "; ")
}

// Says tells a bar in words.
func (b Bar) Says() string {
	said := []string{string(b.Edge), fmt.Sprintf("%d px", b.Thick)}
	switch b.Long.Of {
	case Content:
		said = append(said, "as long as its items")
	case Fixed:
		said = append(said, fmt.Sprintf("%d px long", b.Long.N))
	case Share:
		said = append(said, fmt.Sprintf("%d %% long", b.Long.N))
	}
	if b.Margin > 0 {
		said = append(said, fmt.Sprintf("%d px off the edge", b.Margin))
	}
	said = append(said, b.Hides.says()...)
	if b.Monitor == All {
		said = append(said, "on all monitors")
	} else if b.Monitor != "" {
		said = append(said, "on "+b.Monitor)
	}
	var sides []string
	for _, side := range Aligns {
		var items []string
		for _, i := range b.Items {
			if k, _ := KindOf(i.Kind); i.Side == side {
				items = append(items, strings.ToLower(k.Title))
			}
		}
		if items != nil {
			sides = append(sides, map[Align]string{Start: "", Middle: "in the middle ", End: "at the end "}[side]+strings.Join(items, ", "))
		}
	}
	if sides == nil {
		return strings.Join(said, ", ") + ": empty"
	}
	return strings.Join(said, ", ") + ": " + strings.Join(sides, "; ")
}

// Says tells a way in words.
func (t Tiling) Says() string {
	return map[Tiling]string{ByHand: "each where it is put", Columns: "in columns", Beside: "one large, beside the others", Grid: "in a grid"}[t]
}

// Says tells in words how windows lie.
func (t Tiles) Says() string {
	said := []string{t.As.Says()}
	if t.As == Beside {
		said[0] = fmt.Sprintf("one of %d %% beside the others", t.Share)
	}
	if t.Outer != [4]int{} {
		outer := fmt.Sprintf("%d px", t.Outer[0])
		if t.Outer != [4]int{t.Outer[0], t.Outer[0], t.Outer[0], t.Outer[0]} {
			outer = fmt.Sprintf("%d, %d, %d and %d px", t.Outer[0], t.Outer[1], t.Outer[2], t.Outer[3])
		}
		said = append(said, outer+" around them")
	}
	if t.Inner != 0 {
		said = append(said, fmt.Sprintf("%d px between", t.Inner))
	}
	if !t.Frames {
		said = append(said, "no frames")
	}
	return strings.Join(said, ", ")
}

func (h Hiding) says() []string {
	switch h {
	case Always:
		return []string{"hides"}
	case Covered:
		return []string{"hides under windows"}
	}
	return nil
}

// Says tells a dock in words.
func (d *Dock) Says() string {
	if d == nil {
		return "none"
	}
	said := []string{string(d.Edge), fmt.Sprintf("icons of %d px", d.Icon)}
	if d.Grow > 100 {
		said = append(said, fmt.Sprintf("growing to %d %%", d.Grow))
	}
	if d.Margin > 0 {
		said = append(said, fmt.Sprintf("%d px off the edge", d.Margin))
	}
	said = append(said, d.Hides.says()...)
	return strings.Join(said, ", ") + fmt.Sprintf(": %d programs", len(d.Programs))
}
