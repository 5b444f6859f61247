package standin

import (
	"image"
	"math"
	"regexp"
	"sort"
	"strconv"
	"strings"
)

// A bar of Quayside, as its settings tell it (docs/standins.md, Quayside, rule 3).
type quayBar struct {
	edge, at, hides, monitor string
	thick, margin            int
	long                     string // "whole", "content", "60%" or "800"
	items                    [3][]quayItem
}

type quayItem struct{ kind, options string }

var (
	quayWord  = `(?:[\pL\pN\-_.%+#@,*~]+|"(?:[^"\\]|\\.)*")`
	quayHead  = regexp.MustCompile(`^\s*(top|bottom|left|right)\s+(-?\d{1,5})((?:\s+` + quayWord + `\s+` + quayWord + `)*)\s*(?::(.*))?$`)
	quayPair  = regexp.MustCompile(`(` + quayWord + `)\s+(` + quayWord + `)`)
	quayThing = regexp.MustCompile(`^\s*(` + quayWord + `)(?:\(((?:\s*` + quayWord + `\s*=\s*` + quayWord + `)*)\s*\))?`)
)

// cutOutside cuts a text at signs that are in no quotation.
func cutOutside(text string, sign byte) (out []string) {
	from, inside := 0, false
	for i := 0; i < len(text); i++ {
		switch {
		case inside && text[i] == '\\':
			i++
		case text[i] == '"':
			inside = !inside
		case !inside && text[i] == sign:
			out, from = append(out, text[from:i]), i+1
		}
	}
	return append(out, text[from:])
}

func unquoted(word string) string {
	if !strings.HasPrefix(word, `"`) {
		return word
	}
	var out strings.Builder
	for i := 1; i < len(word)-1; i++ {
		if word[i] == '\\' {
			if i++; word[i] == 'n' {
				out.WriteByte('\n')
				continue
			}
		}
		out.WriteByte(word[i])
	}
	return out.String()
}

// quayBars reads bars; false if that is none of Quayside's.
func quayBars(text string) (out []quayBar, ok bool) {
	if strings.TrimSpace(text) == "none" {
		return nil, true
	}
	items := 0
	for _, one := range cutOutside(text, ';') {
		m := quayHead.FindStringSubmatch(one)
		if m == nil || len(out) == 16 {
			return nil, false
		}
		b := quayBar{edge: m[1], at: "start", hides: "never", long: "whole"}
		b.thick, _ = strconv.Atoi(m[2])
		if b.thick < -32768 || b.thick > 32768 {
			return nil, false
		}
		for _, pair := range quayPair.FindAllStringSubmatch(m[3], -1) {
			if !b.pair(unquoted(pair[1]), unquoted(pair[2])) {
				return nil, false
			}
		}
		places := cutOutside(m[4], '/')
		if len(places) > 3 {
			return nil, false
		}
		for side, rest := range places {
			for rest = strings.TrimSpace(rest); rest != ""; rest = strings.TrimSpace(rest) {
				thing := quayThing.FindStringSubmatch(rest)
				if thing == nil || items == 400 {
					return nil, false
				}
				items++
				b.items[side] = append(b.items[side], quayItem{unquoted(thing[1]), thing[2]})
				rest = rest[len(thing[0]):]
			}
		}
		out = append(out, b)
	}
	return out, len(out) > 0
}

// pair takes a word and its value; one it does not know it passes over.
func (b *quayBar) pair(word, value string) bool {
	number := func(to *int) bool {
		n, err := strconv.Atoi(value)
		*to = n
		return err == nil && n >= -32768 && n <= 32768
	}
	switch word {
	case "long":
		b.long = value
		share, isShare := strings.CutSuffix(value, "%")
		n, err := strconv.Atoi(share)
		return value == "whole" || value == "content" || err == nil && (isShare && n >= 1 && n <= 100 || !isShare && n >= -32768 && n <= 32768)
	case "at":
		b.at = value
		return value == "start" || value == "middle" || value == "end"
	case "margin":
		return number(&b.margin)
	case "round":
		var n int
		return number(&n)
	case "hides":
		b.hides = value
		return value == "never" || value == "always" || value == "covered"
	case "on":
		b.monitor = value
	}
	return true
}

// QuayPlace is a bar of Quayside on its screen, with the boxes of its items by the order they are told
// in; those that found no room have none.
type QuayPlace struct {
	Bar   int
	At    image.Rectangle
	Items []image.Rectangle
}

// QuayLay is where Quayside has its bars on its only screen, given by how much they are apart and padded
// and how long each item is: as it wants to be, at least, and collapsed. It is a reckoning of its own.
func QuayLay(text string, screen image.Rectangle, padding, gap, more float64, long func(bar int, edge, kind, options string) (wants, least, small float64)) (out []QuayPlace) {
	bars, _ := quayBars(text)
	left := screen
	for n, b := range bars {
		if b.monitor != "" && b.monitor != "all" {
			continue
		}
		upright := b.edge == "left" || b.edge == "right"
		along, across := left.Dx(), left.Dy()
		if upright {
			along, across = across, along
		}
		margin := max(0, min(b.margin, across/4, along/4))
		thick := min(max(b.thick, 1), max(across/2-margin, 0))
		room := max(along-2*margin, 0)
		q := quayLine{upright: upright}
		for side, all := range b.items {
			for _, i := range all {
				w, l, s := long(n, b.edge, i.kind, i.options)
				q.items = append(q.items, quaySized{kind: i.kind, side: side, wants: w, least: min(l, w), small: s, grows: i.kind == "stretch"})
			}
		}
		length := room
		switch {
		case b.long == "content":
			sum := 2 * padding
			for i, it := range q.items {
				if !it.grows {
					sum += it.wants
				}
				if i > 0 {
					sum += gap
				}
			}
			length = int(math.Ceil(sum))
		case strings.HasSuffix(b.long, "%"):
			share, _ := strconv.Atoi(strings.TrimSuffix(b.long, "%"))
			length = int(math.Round(float64(room) * float64(share) / 100))
		case b.long != "whole":
			length, _ = strconv.Atoi(b.long)
			length = max(length, 1)
		}
		length = min(length, room)
		from := margin + map[string]int{"middle": (room - length) / 2, "end": room - length}[b.at]
		p := QuayPlace{Bar: n}
		switch b.edge {
		case "top":
			p.At = image.Rect(left.Min.X+from, left.Min.Y+margin, left.Min.X+from+length, left.Min.Y+margin+thick)
			left.Min.Y = p.At.Max.Y
		case "bottom":
			p.At = image.Rect(left.Min.X+from, left.Max.Y-margin-thick, left.Min.X+from+length, left.Max.Y-margin)
			left.Max.Y = p.At.Min.Y
		case "left":
			p.At = image.Rect(left.Min.X+margin, left.Min.Y+from, left.Min.X+margin+thick, left.Min.Y+from+length)
			left.Min.X = p.At.Max.X
		default:
			p.At = image.Rect(left.Max.X-margin-thick, left.Min.Y+from, left.Max.X-margin, left.Min.Y+from+length)
			left.Max.X = p.At.Min.X
		}
		for _, span := range q.lay(float64(length), padding, gap, more) {
			if span == nil {
				p.Items = append(p.Items, image.Rectangle{})
				continue
			}
			clip := func(v float64) int { return min(int(math.Floor(v+0.5+1e-6)), length) }
			a, z := clip(span[0]), clip(span[1])
			at := image.Rect(p.At.Min.X+a, p.At.Min.Y, p.At.Min.X+z, p.At.Max.Y)
			if upright {
				at = image.Rect(p.At.Min.X, p.At.Min.Y+a, p.At.Max.X, p.At.Min.Y+z)
			}
			p.Items = append(p.Items, at)
		}
		out = append(out, p)
	}
	return out
}

// quayGives is in which turn an item gives way, and whether it collapses first.
var quayGives = map[string]struct {
	turn      int
	collapses bool
}{
	"processor": {1, true}, "show-desktop": {2, false}, "keyboard": {3, false}, "battery": {4, true}, "title": {5, false}, "program-menu": {6, true}, "tray": {7, true},
	"workspaces": {8, true}, "windows": {9, true}, "pinned": {10, false}, "buttons": {11, false}, "clock": {12, true}, "power": {13, false},
	"menu": {}, "space": {}, "stretch": {}, "line": {},
}

type quaySized struct {
	kind                string
	side                int
	wants, least, small float64
	grows, gone         bool
}

type quayLine struct {
	upright bool
	items   []quaySized
}

// lay is where along the bar each item is; nil for one that found no room.
func (q *quayLine) lay(length, padding, gap, more float64) []*[2]float64 {
	inner := max(length-2*padding, 0)
	var turns []int
	for i, it := range q.items {
		if g, known := quayGives[it.kind]; !known || g.turn > 0 {
			turns = append(turns, i)
		}
	}
	sort.SliceStable(turns, func(a, b int) bool { return turn(q.items[turns[a]].kind) < turn(q.items[turns[b]].kind) })
	tight := func() bool {
		sum, n, any := 0.0, 0, false
		for _, it := range q.items {
			if it.gone {
				any = true
				continue
			}
			n++
			if !it.grows {
				sum += it.least
			}
		}
		if any {
			sum, n = sum+more, n+1
		}
		return sum+gap*float64(max(n-1, 0)) > inner
	}
	for _, i := range turns {
		if g, known := quayGives[q.items[i].kind]; tight() && (g.collapses || !known) {
			q.items[i].wants, q.items[i].least = q.items[i].small, q.items[i].small
		}
	}
	anyGone := false
	for _, i := range turns {
		if tight() {
			q.items[i].gone, anyGone = true, true
		}
	}
	// The three places, each a list of items; the button that shows the rest is the last at the end.
	var places [3][]int
	for i, it := range q.items {
		if !it.gone {
			places[it.side] = append(places[it.side], i)
		}
	}
	all := q.items
	if anyGone {
		all = append(all[:len(all):len(all)], quaySized{side: 2, wants: more, least: more})
		places[2] = append(places[2], len(all)-1)
	}
	sum := func(of []int, least bool) (s float64) {
		for n, i := range of {
			if n > 0 {
				s += gap
			}
			if it := all[i]; !it.grows && least {
				s += it.least
			} else if !it.grows {
				s += it.wants
			}
		}
		return s
	}
	grows := func(of []int) bool {
		for _, i := range of {
			if all[i].grows {
				return true
			}
		}
		return false
	}
	var rooms [3]float64
	if len(places[1]) > 0 {
		free := inner - 2*gap
		ls, le, lm := sum(places[0], true), sum(places[2], true), sum(places[1], true)
		mid, also := sum(places[1], false), 0.0
		if grows(places[1]) {
			also = 1
		}
		if ls+mid+le > free {
			rooms = [3]float64{ls, max(free-ls-le, lm), le}
		} else { // what is left is shared out until it is used up
			low, high := 0.0, free
			for range 60 {
				if x := (low + high) / 2; max(ls, x)+mid+also*x+max(le, x) > free {
					high = x
				} else {
					low = x
				}
			}
			rooms = [3]float64{max(ls, low), mid + also*low, max(le, low)}
		}
	} else {
		free, used := inner, []int{}
		for side := range places {
			if len(places[side]) > 0 {
				used = append(used, side)
			}
		}
		free -= gap * float64(max(len(used)-1, 0))
		wants, growers := 0.0, []int{}
		for _, side := range used {
			wants += sum(places[side], false)
			if len(used) == 1 || side == 0 || grows(places[side]) {
				growers = append(growers, side)
			}
		}
		if wants <= free {
			for _, side := range used {
				rooms[side] = sum(places[side], false)
			}
			for _, side := range growers {
				rooms[side] += (free - wants) / float64(len(growers))
			}
		} else {
			by := squeeze(free, len(used), func(n int) (float64, float64) { return sum(places[used[n]], false), sum(places[used[n]], true) })
			for n, side := range used {
				rooms[side] = by[n]
			}
		}
	}
	out := make([]*[2]float64, len(q.items))
	at := padding
	for side, of := range places {
		if len(of) == 0 && (len(places[1]) == 0 || side == 1) {
			continue
		}
		free := rooms[side] - gap*float64(max(len(of)-1, 0))
		sizes, wants, stretches := make([]float64, len(of)), 0.0, 0
		for n, i := range of {
			if all[i].grows {
				stretches++
			} else {
				sizes[n] = all[i].wants
				wants += all[i].wants
			}
		}
		if wants > free {
			sizes = squeeze(free, len(of), func(n int) (float64, float64) {
				if all[of[n]].grows {
					return 0, 0
				}
				return all[of[n]].wants, all[of[n]].least
			})
		} else if stretches > 0 {
			for n, i := range of {
				if all[i].grows {
					sizes[n] = (free - wants) / float64(stretches)
				}
			}
		}
		total := gap * float64(max(len(of)-1, 0))
		for _, s := range sizes {
			total += s
		}
		x := at
		if side == 2 {
			x += max(rooms[side]-total, 0)
		}
		for n, i := range of {
			if i < len(out) {
				out[i] = &[2]float64{x, x + sizes[n]}
			}
			x += sizes[n] + gap
		}
		at += rooms[side] + gap
	}
	return out
}

func turn(kind string) int {
	if g, known := quayGives[kind]; known {
		return g.turn
	}
	return 1
}

// squeeze makes lengths shorter, each by the same part of it but never below its least, until they have
// the room: the part is looked for by halves.
func squeeze(room float64, n int, of func(int) (wants, least float64)) []float64 {
	at := func(part float64) (out []float64, sum float64) {
		for i := range n {
			w, l := of(i)
			v := max(w*(1-part), l)
			out, sum = append(out, v), sum+v
		}
		return out, sum
	}
	low, high := 0.0, 1.0
	for range 60 {
		if _, sum := at((low + high) / 2); sum > room {
			low = (low + high) / 2
		} else {
			high = (low + high) / 2
		}
	}
	out, _ := at(high)
	return out
}
