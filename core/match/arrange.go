package match

import "slices"

// Asked are the threads that something is asked of, or in which something is wrong; the
// others that some surface has are still.
func (b Board) Asked() (asked, still []Thread) {
	for _, t := range b.Threads {
		wrong := slices.ContainsFunc(t.Cells, func(c Cell) bool { return c.Bad() || len(c.Asides) > 0 })
		switch {
		case !slices.ContainsFunc(t.Cells, func(c Cell) bool { return c.State != NotHere }):
		case t.Want == "" && !wrong:
			still = append(still, t)
		default:
			asked = append(asked, t)
		}
	}
	return asked, still
}

// Trouble is a cell that does not follow, or of which something is to be told.
type Trouble struct {
	Cell
	Told []Told
}

// Told is an aside that is told of one cell, with the surfaces that it is true of too.
type Told struct {
	Aside
	Also []string // titles
}

// Troubles are those of the threads that something is asked of, the cells that do not
// follow first, then by surface. What is said of several is told once.
func (b Board) Troubles() []Trouble {
	asked, _ := b.Asked()
	if len(asked) == 0 {
		return nil
	}
	var out []Trouble
	for i := range asked[0].Cells {
		for _, t := range asked {
			v := Trouble{Cell: t.Cells[i]}
			for _, a := range v.Asides {
				if !also(out, a, v.Surface.Title) {
					v.Told = append(v.Told, Told{Aside: a})
				}
			}
			if v.Bad() || len(v.Told) > 0 {
				out = append(out, v)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Trouble) int {
		switch {
		case a.Bad() == b.Bad():
			return 0
		case a.Bad():
			return -1
		}
		return 1
	})
	return out
}

// also adds a surface to an aside that is told already.
func also(told []Trouble, a Aside, surface string) bool {
	for _, t := range told {
		for i := range t.Told {
			if t.Told[i].Text == a.Text {
				t.Told[i].Also = append(t.Told[i].Also, surface)
				return true
			}
		}
	}
	return false
}

// Open is how many cells do not follow, of the threads that something is asked of.
func (b Board) Open() (n int) {
	asked, _ := b.Asked()
	for _, t := range asked {
		for _, c := range t.Cells {
			if c.Bad() {
				n++
			}
		}
	}
	return n
}
