package pointerset

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"ivelt/core/say"
)

// lost gathers what is not in the set that is made as it was in the source.
type lost struct {
	smaller, larger []int // sizes that are made from a larger one, and from a smaller
	turned, uneven  int   // pointers
	tooLarge, wider []int // sizes
	unmade          int   // pointers of which only their own sizes are there
	off             time.Duration
}

// pointer adds what is lost of one.
func (l *lost) pointer(as Format, p *Pointer, m *moving) {
	most := slices.Max(p.Sizes)
	for _, size := range p.Made {
		if size > most {
			l.larger = append(l.larger, size)
		} else {
			l.smaller = append(l.smaller, size)
		}
	}
	if m.turns {
		l.turned++
	}
	if m.uneven {
		l.uneven++
	}
	if as == Cur {
		l.wider = append(l.wider, m.wider...)
	}
	if p.Steps > 1 && m.off > 0 {
		l.off = max(l.off, m.off)
	}
}

// said is all of it in words.
func (l lost) said(s *Set) (out []say.Message) {
	if missing := s.Missing(); len(missing) > 0 {
		out = append(out, say.Of("pointers/roles-missing", titles(missing)))
	}
	if len(l.smaller) > 0 {
		out = append(out, say.Of("pointers/sizes-made-smaller", sizes(l.smaller)))
	}
	if len(l.larger) > 0 {
		out = append(out, say.Of("pointers/sizes-made-larger", sizes(l.larger)))
	}
	if len(l.tooLarge) > 0 {
		out = append(out, say.Of("pointers/sizes-too-large", s.As.most(), sizes(l.tooLarge)))
	}
	if len(l.wider) > 0 {
		out = append(out, say.Of("pointers/sizes-wider", sizes(l.wider)))
	}
	if l.off > 0 {
		code := say.Of("pointers/rounded-to-milliseconds", ms(l.off))
		if s.As == Cur {
			code = say.Of("pointers/rounded-to-sixtieths", ms(l.off))
		}
		out = append(out, code)
	}
	if l.uneven > 0 {
		out = append(out, say.Of("pointers/sizes-uneven", l.uneven))
	}
	if l.unmade > 0 {
		out = append(out, say.Of("pointers/sizes-not-made", l.unmade))
	}
	if l.turned > 0 {
		out = append(out, say.Of("pointers/turns-colours", l.turned))
	}
	return out
}

// Missing are the roles that every set of the family is expected to have and this has not.
func (s *Set) Missing() (out []*Role) {
	for _, r := range Roles {
		if slices.Contains(r.Needed, s.As) && !slices.ContainsFunc(s.Pointers, func(p *Pointer) bool { return p.Role == r }) {
			out = append(out, r)
		}
	}
	return out
}

func titles(roles []*Role) string {
	var out []string
	for _, r := range roles {
		out = append(out, r.Title)
	}
	return strings.Join(out, "; ")
}

// sizes are sizes in words, each once.
func sizes(of []int) string {
	of = slices.Compact(slices.Sorted(slices.Values(of)))
	var out []string
	for _, n := range of {
		out = append(out, fmt.Sprint(n))
	}
	if n := len(out); n > 1 {
		return strings.Join(out[:n-1], ", ") + " and " + out[n-1]
	}
	return out[0]
}

func ms(d time.Duration) string { return fmt.Sprintf("%.1f", float64(d)/float64(time.Millisecond)) }
