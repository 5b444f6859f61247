package gtkcss

import (
	"slices"
	"strconv"
	"strings"

	"github.com/tdewolff/parse/v2/css"
)

// shorthand sets several properties at once.
type shorthand struct {
	of   func(gtk int) []string
	read func(*reader) ([]told, bool)
	only int
}

var shorthands map[string]shorthand

func names(of ...string) func(int) []string { return func(int) []string { return of } }

func sidesOf(pattern string) []string {
	var out []string
	for _, s := range sideNames {
		out = append(out, strings.Replace(pattern, "*", s, 1))
	}
	return out
}

func cornersOf(pattern string) []string {
	var out []string
	for _, s := range cornerNames {
		out = append(out, strings.Replace(pattern, "*", s, 1))
	}
	return out
}

var borderImage = []string{"border-image-source", "border-image-repeat", "border-image-slice", "border-image-width"}

func init() {
	shorthands = map[string]shorthand{}
	add := func(name string, of []string, read func(*reader) ([]told, bool), only ...int) {
		s := shorthand{of: names(of...), read: read}
		if len(only) > 0 {
			s.only = only[0]
		}
		shorthands[name] = s
	}
	for name, pattern := range map[string]string{"margin": "margin-*", "padding": "padding-*", "border-width": "border-*-width", "border-style": "border-*-style", "border-color": "border-*-color"} {
		of := sidesOf(pattern)
		add(name, of, fourSides(of))
	}
	add("border-radius", cornersOf("border-*-radius"), fourCorners(cornersOf("border-*-radius")))
	for _, name := range []string{"-gtk-outline-radius", "outline-radius"} {
		add(name, cornersOf("-gtk-outline-*-radius"), fourCorners(cornersOf("-gtk-outline-*-radius")), 3)
	}
	for _, side := range sideNames {
		of := []string{"border-" + side + "-width", "border-" + side + "-style", "border-" + side + "-color"}
		add("border-"+side, of, line(of, nil))
	}
	all := slices.Concat(sidesOf("border-*-width"), sidesOf("border-*-style"), sidesOf("border-*-color"))
	add("border", slices.Concat(all, borderImage), func(r *reader) ([]told, bool) {
		one, ok := line([]string{"w", "s", "c"}, []string{"border-top-width", "border-top-style", "border-top-color"})(r)
		if !ok {
			return nil, false
		}
		var out []told
		for i, part := range one {
			for _, name := range all[i*4 : i*4+4] {
				out = append(out, told{byName[name], part.value})
			}
		}
		for _, name := range borderImage {
			out = append(out, told{byName[name], initial{}})
		}
		return out, true
	})
	outline := []string{"outline-width", "outline-style", "outline-color"}
	add("outline", outline, line(outline, nil))
	add("border-image", borderImage, readBorderImage)
	backgrounds := []string{"background-image", "background-position", "background-size", "background-repeat", "background-clip", "background-origin", "background-color"}
	add("background", backgrounds, readBackground)
	fonts := func(gtk int) []string {
		if gtk == 3 {
			return []string{"font-family", "font-style", "font-variant", "font-weight", "font-stretch", "font-size"}
		}
		return []string{"font-family", "font-style", "font-variant-caps", "font-weight", "font-stretch", "font-size"}
	}
	shorthands["font"] = shorthand{of: fonts, read: readFont}
	add("font-variant", []string{"font-variant-caps"}, func(r *reader) ([]told, bool) {
		v, ok := properties[byName["font-variant-caps"]].read(r)
		return []told{{byName["font-variant-caps"], v}}, ok
	}, 4)
	decoration := []string{"text-decoration-line", "text-decoration-style", "text-decoration-color"}
	add("text-decoration", decoration, anyOrder(decoration))
	for _, of := range []struct {
		name  string
		parts []string
	}{{"transition", []string{"transition-property", "transition-duration", "transition-timing-function", "transition-delay"}},
		{"animation", []string{"animation-iteration-count", "animation-direction", "animation-fill-mode", "animation-duration", "animation-timing-function", "animation-delay", "animation-name"}}} {
		add(of.name, of.parts, movement(of.parts))
	}
	shorthands["all"] = shorthand{of: func(gtk int) []string {
		var out []string
		for _, p := range properties {
			if (p.only == 0 || p.only == gtk) && !p.setting {
				out = append(out, p.name)
			}
		}
		return out
	}, read: func(*reader) ([]told, bool) { return nil, false }}
}

// fourSides reads one to four values, top, right, bottom, left.
func fourSides(of []string) func(*reader) ([]told, bool) {
	return func(r *reader) ([]told, bool) {
		var v []value
		for len(v) < 4 {
			one, ok := try(r, properties[byName[of[0]]].read)
			if !ok {
				break
			}
			v = append(v, one)
		}
		if len(v) == 0 {
			return nil, false
		}
		var out []told
		for i, from := range spread[len(v)-1] {
			out = append(out, told{byName[of[i]], v[from]})
		}
		return out, true
	}
}

// spread hands one to four values to four sides.
var spread = [4][4]int{{0, 0, 0, 0}, {0, 1, 0, 1}, {0, 1, 2, 1}, {0, 1, 2, 3}}

func fourCorners(of []string) func(*reader) ([]told, bool) {
	read := func(r *reader) ([]number, bool) {
		var v []number
		for len(v) < 4 {
			n, ok := readNumber(r, cornerTakes)
			if !ok {
				break
			}
			v = append(v, n)
		}
		return v, len(v) > 0
	}
	return func(r *reader) ([]told, bool) {
		x, ok := read(r)
		if !ok {
			return nil, false
		}
		y := x
		if r.take("/") {
			if y, ok = read(r); !ok {
				return nil, false
			}
		}
		var out []told
		for i := range of {
			out = append(out, told{byName[of[i]], corner{x[spread[len(x)-1][i]], y[spread[len(y)-1][i]]}})
		}
		return out, true
	}
}

// anyOrder reads each of some properties at most once, in any order; those that
// are not told are set to what they are at first.
func anyOrder(of []string) func(*reader) ([]told, bool) { return line(of, nil) }

// line is anyOrder; like names the properties whose readers count, if others.
func line(of, like []string) func(*reader) ([]told, bool) {
	if like == nil {
		like = of
	}
	return func(r *reader) ([]told, bool) {
		found := make([]value, len(of))
		n := 0
		for more := true; more && !r.done(); {
			more = false
			for i := range of {
				if found[i] != nil {
					continue
				}
				if v, ok := try(r, properties[byName[like[i]]].read); ok {
					found[i], more = v, true
					n++
					break
				}
			}
		}
		out := make([]told, len(of))
		for i := range of {
			out[i] = told{byName[of[i]], initial{}}
			if found[i] != nil {
				out[i].value = found[i]
			}
		}
		return out, n > 0
	}
}

func readBorderImage(r *reader) ([]told, bool) {
	var source, repeat, slice, width value
	for !r.done() {
		if v, ok := readImage(r); ok && source == nil {
			source = v
		} else if v, ok := try(r, readBorderRepeat); ok && repeat == nil {
			repeat = v
		} else if v, ok := try(r, readSlice); ok && slice == nil {
			slice = v
			if r.take("/") {
				if width, ok = properties[byName["border-image-width"]].read(r); !ok {
					return nil, false
				}
			}
		} else {
			return nil, false
		}
	}
	var out []told
	for i, v := range []value{source, repeat, slice, width} {
		if v == nil {
			v = initial{}
		}
		out = append(out, told{byName[borderImage[i]], v})
	}
	return out, source != nil || repeat != nil || slice != nil
}

func readBackground(r *reader) ([]told, bool) {
	lists := make([]list, len(backgroundLists))
	var ground value
	for {
		one := backgroundLayer{}
		if !one.read(r) {
			return nil, false
		}
		for i, v := range []value{one.image, one.position, one.size, one.repeat, one.clip, one.origin} {
			if v == nil {
				v = properties[byName[backgroundLists[i]]].initial.(list)[0]
			}
			lists[i] = append(lists[i], v)
		}
		ground = one.ground // only the last one's counts
		if !r.take(",") {
			break
		}
	}
	if ground == nil {
		ground = initial{}
	}
	var out []told
	for i, name := range backgroundLists {
		out = append(out, told{byName[name], lists[i]})
	}
	return append(out, told{byName["background-color"], ground}), true
}

// backgroundLists are the properties of which each layer has one.
var backgroundLists = []string{"background-image", "background-position", "background-size", "background-repeat", "background-clip", "background-origin"}

// backgroundLayer is one layer; what it does not say is nil.
type backgroundLayer struct{ image, position, size, repeat, clip, origin, ground value }

// read reads its parts, in any order; it has at least one.
func (l *backgroundLayer) read(r *reader) bool {
	n := 0
	for !r.done() && !r.peek().is(",") {
		if !l.part(r) {
			return false
		}
		n++
	}
	return n > 0
}

func (l *backgroundLayer) part(r *reader) bool {
	if v, ok := readImage(r); ok && l.image == nil {
		l.image = v
		return true
	}
	if v, ok := readPosition(r); ok && l.position == nil {
		l.position = v
		if r.take("/") {
			l.size, ok = readSize(r)
		}
		return ok
	}
	if v, ok := try(r, readRepeat); ok && l.repeat == nil {
		l.repeat = v
		return true
	}
	box := keywords("border-box", "padding-box", "content-box")
	if v, ok := try(r, box); ok && l.clip == nil {
		l.origin, l.clip = v, v
		if v, ok := try(r, box); ok {
			l.clip = v
		}
		return true
	}
	if c, ok := readColour(r); ok && l.ground == nil {
		l.ground = asWritten{c}
		return true
	}
	return false
}

// readFont reads a font: style, small capitals, weight and width in any order, then
// its size and its families. Where nothing but a family's name comes first, GTK 3
// complains of the missing size, and takes the whole as Pango writes fonts, "Sans
// Bold 12" (gtkcssshorthandpropertyimpl.c, parse_font, of each).
func readFont(r *reader) ([]told, bool) {
	caps := "font-variant"
	if r.gtk == 4 {
		caps = "font-variant-caps"
	}
	is := map[string]value{}
	for more := true; more && !r.done(); {
		more = false
		for _, name := range []string{"font-style", caps, "font-weight", "font-stretch"} {
			if is[name] != nil {
				continue
			}
			if v, ok := try(r, properties[byName[name]].read); ok {
				is[name], more = v, true
			}
		}
	}
	size, ok := try(r, readFontSize)
	if !ok && len(is) == 0 && r.gtk == 3 && !r.done() {
		r.complains = r.after()
		pangoFont(r, is)
	} else if !ok {
		return nil, false
	} else if is["font-size"] = size; !readInto(r, is, "font-family", readFamilies) {
		return nil, false
	}
	var out []told
	for _, name := range shorthands["font"].of(r.gtk) {
		if is[name] == nil {
			is[name] = initial{}
		}
		out = append(out, told{byName[name], is[name]})
	}
	return out, true
}

func readInto(r *reader, is map[string]value, name string, read func(*reader) (value, bool)) (ok bool) {
	is[name], ok = read(r)
	return ok
}

// pangoFont reads "Family Words Style-Words 12", a size that is px whatever stands
// after it (Pango, pango_font_description_from_string).
func pangoFont(r *reader, is map[string]value) {
	var parts []string
	for !r.done() {
		t := r.next()
		if t.kind == css.StringToken {
			t.text = unquote(t.text)
		}
		parts = append(parts, t.text)
	}
	last := func() string {
		if len(parts) == 0 {
			return ""
		}
		return strings.ToLower(parts[len(parts)-1])
	}
	if size, err := strconv.ParseFloat(strings.TrimSuffix(last(), "px"), 64); err == nil && size >= 0 {
		is["font-size"] = px(size)
		parts = parts[:len(parts)-1]
	}
	for {
		name, v := pangoWord(last())
		if name == "" || is[name] != nil {
			break
		}
		is[name] = v
		parts = parts[:len(parts)-1]
	}
	if family := strings.TrimSpace(strings.Trim(strings.Join(parts, " "), ", ")); family != "" {
		is["font-family"] = list{quoted(family)}
	}
}

// pangoWord is what a word says of a font: the property and its value.
func pangoWord(word string) (string, value) {
	weights := map[string]float64{"thin": 100, "ultra-light": 200, "extra-light": 200, "light": 300, "semi-light": 300, "book": 400, "regular": 400, "medium": 500, "semi-bold": 600, "demi-bold": 600, "bold": 700, "ultra-bold": 800, "extra-bold": 800, "heavy": 900, "black": 900}
	if n, ok := weights[word]; ok {
		return "font-weight", number{n: n}
	}
	switch word {
	case "italic", "oblique":
		return "font-style", keyword(word)
	case "small-caps":
		return "font-variant", keyword(word)
	case "ultra-condensed", "extra-condensed", "condensed", "semi-condensed", "semi-expanded", "expanded", "extra-expanded", "ultra-expanded":
		return "font-stretch", keyword(word)
	}
	return "", nil
}

// movement reads transitions or animations; only that they are there shows.
func movement(of []string) func(*reader) ([]told, bool) {
	return func(r *reader) ([]told, bool) {
		if _, ok := r.word("none"); ok {
			return noMovement(of), true
		}
		lists := make([]list, len(of))
		for {
			one, ok := oneMovement(r, of)
			if !ok {
				return nil, false
			}
			for i := range of {
				if one[i] == nil {
					one[i] = properties[byName[of[i]]].initial.(list)[0]
				}
				lists[i] = append(lists[i], one[i])
			}
			if !r.take(",") {
				break
			}
		}
		var out []told
		for i, name := range of {
			out = append(out, told{byName[name], lists[i]})
		}
		return out, true
	}
}

func noMovement(of []string) (out []told) {
	for _, name := range of {
		v := value(initial{})
		if name == "transition-property" || name == "animation-name" {
			v = list{keyword("none")}
		}
		out = append(out, told{byName[name], v})
	}
	return out
}

// oneMovement reads one of the list: its parts in any order, nil for those that are not
// there. It has at least one.
func oneMovement(r *reader, of []string) (one []value, ok bool) {
	one = make([]value, len(of))
	for !r.done() && !r.peek().is(",") {
		i := slices.IndexFunc(readingOrder(of), func(i int) bool {
			if one[i] != nil {
				return false
			}
			v, ok := try(r, func(r *reader) (value, bool) { return readFirst(r, properties[byName[of[i]]].read) })
			if ok {
				one[i] = v
			}
			return ok
		})
		if i < 0 {
			return nil, false
		}
		ok = true
	}
	return one, ok
}

// readFirst reads a list as far as its first comma, which is between movements, and returns
// the one that is in it.
func readFirst(r *reader, read func(*reader) (value, bool)) (value, bool) {
	from := &reader{tokens: r.tokens, at: r.at, gtk: r.gtk}
	for deep, i := 0, from.at; i < len(from.tokens); i++ {
		if t := from.tokens[i]; t.kind == css.FunctionToken {
			deep++
		} else if t.is(")") {
			deep--
		} else if t.is(",") && deep == 0 {
			from.tokens = from.tokens[:i]
		}
	}
	v, ok := read(from)
	r.at = from.at
	if ok {
		v = v.(list)[0]
	}
	return v, ok
}

// readingOrder tries names last: any word may be one.
func readingOrder(of []string) []int {
	var out, last []int
	for i, name := range of {
		if name == "transition-property" || name == "animation-name" {
			last = append(last, i)
		} else {
			out = append(out, i)
		}
	}
	return append(out, last...)
}
