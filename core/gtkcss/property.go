package gtkcss

import (
	"slices"
	"strconv"
	"strings"

	"github.com/tdewolff/parse/v2/css"
)

// property is one thing a style has.
type property struct {
	name      string
	inherited bool
	initial   value
	read      func(*reader) (value, bool)
	only      int  // a generation, 0 for both
	setting   bool // of one class of widgets, not of a style
}

var (
	properties []property
	byName     = map[string]int{}
)

// told is what a declaration says of one property.
type told struct {
	property int
	value    value
}

// Those that others are computed from.
var idColour, idFontSize int

func init() {
	define := func(name string, inherited bool, initial value, read func(*reader) (value, bool), only ...int) {
		p := property{name: name, inherited: inherited, initial: initial, read: read}
		if len(only) > 0 {
			p.only = only[0]
		}
		byName[name] = len(properties)
		properties = append(properties, p)
	}
	const (
		length   = takesLength | asPx
		positive = takesLength | asPx | noLess
	)
	zero := px(0)
	define("color", true, Colour{1, 1, 1, 1}, aColour)
	define("-gtk-dpi", true, number{n: 96}, numeric(takesNumber|noLess))
	define("font-size", true, px(usualSize), readFontSize)
	define("background-color", false, Colour{}, aColour)
	define("font-family", true, list{quoted("Sans")}, readFamilies)
	define("font-style", true, keyword("normal"), keywords("normal", "oblique", "italic"))
	define("font-variant", true, keyword("normal"), keywords("normal", "small-caps"), 3)
	define("font-variant-caps", true, keyword("normal"), keywords("normal", "small-caps", "all-small-caps", "petite-caps", "all-petite-caps", "unicase", "titling-caps"), 4)
	for _, name := range []string{"font-variant-ligatures", "font-variant-numeric", "font-variant-east-asian", "font-variant-position", "font-variant-alternates"} {
		define(name, true, keyword("normal"), idents, 4)
	}
	define("font-weight", true, number{n: 400}, readWeight)
	define("font-stretch", true, keyword("normal"), keywords("ultra-condensed", "extra-condensed", "condensed", "semi-condensed", "normal", "semi-expanded", "expanded", "extra-expanded", "ultra-expanded"))
	define("letter-spacing", true, zero, numeric(takesLength))
	define("line-height", true, keyword("normal"), orKeyword(numeric(takesLength|takesPercent|takesNumber|noLess), "normal", keyword("normal")), 4)
	define("text-transform", true, keyword("none"), keywords("none", "lowercase", "uppercase", "capitalize"), 4)
	define("text-decoration-line", false, keyword("none"), textDecoration)
	define("text-decoration-color", false, asWritten{currentColor{}}, aColour)
	define("text-decoration-style", false, keyword("solid"), keywords("solid", "double", "wavy"))
	define("text-shadow", true, keyword("none"), readShadows(false))
	define("box-shadow", false, keyword("none"), readShadows(true))
	for _, side := range sideNames {
		define("margin-"+side, false, zero, numeric(length))
		define("padding-"+side, false, zero, numeric(positive))
		define("border-"+side+"-style", false, keyword("none"), borderStyle)
		define("border-"+side+"-width", false, zero, numeric(positive))
		define("border-"+side+"-color", false, asWritten{currentColor{}}, aColour)
	}
	for _, c := range cornerNames {
		define("border-"+c+"-radius", false, corner{zero, zero}, readCorner)
		define("-gtk-outline-"+c+"-radius", false, corner{zero, zero}, readCorner, 3)
	}
	define("outline-style", false, keyword("none"), borderStyle)
	define("outline-width", false, zero, numeric(positive))
	define("outline-offset", false, zero, numeric(length))
	define("outline-color", false, asWritten{currentColor{}}, aColour)
	areas := []string{"border-box", "padding-box", "content-box"}
	define("background-clip", false, list{keyword("border-box")}, lists(keywords(areas...)))
	define("background-origin", false, list{keyword("padding-box")}, lists(keywords(areas...)))
	define("background-size", false, list{words{keyword("auto")}}, lists(readSize))
	define("background-position", false, list{position{number{sort: aPercent}, number{sort: aPercent}}}, lists(readPosition))
	define("background-repeat", false, list{keyword("repeat")}, lists(readRepeat))
	define("background-image", false, list{keyword("none")}, lists(readImage))
	define("background-blend-mode", false, list{keyword("normal")}, lists(keywords("color", "color-burn", "color-dodge", "darken", "difference", "exclusion", "hard-light", "hue", "lighten", "luminosity", "multiply", "normal", "overlay", "saturation", "screen", "soft-light")))
	define("border-image-source", false, keyword("none"), readImage)
	define("border-image-repeat", false, keyword("stretch"), readBorderRepeat)
	define("border-image-slice", false, words{number{pct: 100, sort: aPercent}}, readSlice)
	define("border-image-width", false, words{number{n: 1}}, fourOf(orKeyword(numeric(takesPercent|takesLength|takesNumber|noLess), "auto", keyword("auto"))))
	define("-gtk-icon-source", false, keyword("builtin"), func(r *reader) (value, bool) {
		if _, ok := r.word("builtin"); ok {
			return keyword("builtin"), true
		}
		return readImage(r)
	})
	define("-gtk-icon-size", true, px(16), numeric(takesLength|takesPercent|noLess), 4)
	define("-gtk-icon-shadow", true, keyword("none"), readShadows(false))
	define("-gtk-icon-style", true, keyword("requested"), keywords("requested", "regular", "symbolic"))
	define("-gtk-icon-theme", true, keyword("initial"), aString, 3)
	define("-gtk-icon-palette", true, usualPalette, readPalette)
	define("-gtk-icon-effect", true, keyword("none"), keywords("none", "highlight", "dim"), 3)
	define("-gtk-icon-transform", false, keyword("none"), readFunctions)
	define("-gtk-icon-filter", false, keyword("none"), readFunctions, 4)
	define("filter", false, keyword("none"), readFunctions, 4)
	define("transform", false, keyword("none"), readFunctions, 4)
	define("transform-origin", false, position{number{pct: 50, sort: aPercent}, number{pct: 50, sort: aPercent}}, readPosition, 4)
	define("border-spacing", false, words{zero, zero}, readSpacing, 4)
	define("min-width", false, zero, numeric(takesLength|noLess))
	define("min-height", false, zero, numeric(takesLength|noLess))
	define("opacity", false, number{n: 1}, numeric(takesNumber))
	define("caret-color", true, asWritten{currentColor{}}, aColour)
	define("-gtk-secondary-caret-color", true, asWritten{currentColor{}}, aColour)
	define("font-feature-settings", true, keyword("normal"), readSettings)
	define("font-variation-settings", true, keyword("normal"), readSettings, 4)
	for _, of := range []string{"transition", "animation"} {
		define(of+"-duration", false, list{number{sort: aTime}}, lists(numeric(takesTime)))
		define(of+"-delay", false, list{number{sort: aTime}}, lists(numeric(takesTime)))
		define(of+"-timing-function", false, list{keyword("ease")}, lists(readEase))
	}
	define("transition-property", false, list{keyword("all")}, lists(anIdent))
	define("animation-name", false, list{keyword("none")}, lists(anIdent))
	define("animation-iteration-count", false, list{number{n: 1}}, lists(orKeyword(numeric(takesNumber|noLess), "infinite", keyword("infinite"))))
	define("animation-direction", false, list{keyword("normal")}, lists(keywords("normal", "reverse", "alternate", "alternate-reverse")))
	define("animation-play-state", false, list{keyword("running")}, lists(keywords("running", "paused")))
	define("animation-fill-mode", false, list{keyword("none")}, lists(keywords("none", "forwards", "backwards", "both")))
	for name, usual := range steppers { // gtkscrollbar.c of GTK 3.24
		define(name, false, usual, readBool, 3)
		properties[byName[name]].setting = true
	}
	for _, of := range append(sidesOf("border-*"), "outline") {
		borderLines = append(borderLines, struct{ style, width int }{byName[of+"-style"], byName[of+"-width"]})
	}
	idColour, idFontSize = byName["color"], byName["font-size"]
}

// steppers are the buttons at the ends of scroll bars that GTK 3 has unless a sheet
// takes them away.
var steppers = map[string]keyword{
	"-GtkScrollbar-has-backward-stepper": "true", "-GtkScrollbar-has-forward-stepper": "true",
	"-GtkScrollbar-has-secondary-backward-stepper": "false", "-GtkScrollbar-has-secondary-forward-stepper": "false",
}

func readBool(r *reader) (value, bool) {
	if t := r.peek(); t.text == "1" || t.text == "0" {
		r.at++
		return keyword(map[string]string{"1": "true", "0": "false"}[t.text]), true
	}
	return keywords("true", "false")(r)
}

// usualSize is the size of text where nothing says another: 10 pt at 96 dpi.
const usualSize = 10 * 96.0 / 72

var (
	sideNames   = [4]string{"top", "right", "bottom", "left"}
	cornerNames = [4]string{"top-left", "top-right", "bottom-right", "bottom-left"}
)

// oldNames are other names of properties (gtkcssstylepropertyimpl.c of GTK 3).
var oldNames = map[string]string{
	"icon-shadow": "-gtk-icon-shadow", "-gtk-image-effect": "-gtk-icon-effect", "outline-radius": "-gtk-outline-radius",
	"outline-top-left-radius": "-gtk-outline-top-left-radius", "outline-top-right-radius": "-gtk-outline-top-right-radius",
	"outline-bottom-right-radius": "-gtk-outline-bottom-right-radius", "outline-bottom-left-radius": "-gtk-outline-bottom-left-radius",
}

// readProperty reads what a declaration says, from its colon on.
func readProperty(name string, r *reader) (set []told, known, ok bool) {
	if now, is := oldNames[name]; is && r.gtk == 3 {
		name = now
	}
	whole, isWhole := shorthands[name]
	isWhole = isWhole && (whole.only == 0 || whole.only == r.gtk)
	id, isOne := byName[name]
	isOne = isOne && (properties[id].only == 0 || properties[id].only == r.gtk)
	if !isOne && !isWhole {
		return nil, false, false
	}
	if !r.take(":") {
		return nil, true, false
	}
	if w, ok := r.word("inherit", "initial", "unset"); ok {
		v := map[string]value{"inherit": inherit{}, "initial": initial{}, "unset": unset{}}[w]
		if isOne {
			return []told{{id, v}}, true, true
		}
		for _, of := range whole.of(r.gtk) {
			set = append(set, told{byName[of], v})
		}
		return set, true, true
	}
	if isOne {
		v, ok := properties[id].read(r)
		return []told{{id, v}}, true, ok
	}
	set, ok = whole.read(r)
	return set, true, ok
}

func aColour(r *reader) (value, bool) {
	c, ok := readColour(r)
	return asWritten{c}, ok
}

func numeric(t takes) func(*reader) (value, bool) {
	return func(r *reader) (value, bool) {
		v, ok := readNumber(r, t)
		return v, ok
	}
}

func keywords(of ...string) func(*reader) (value, bool) {
	return func(r *reader) (value, bool) {
		w, ok := r.word(of...)
		return keyword(w), ok
	}
}

func orKeyword(read func(*reader) (value, bool), word string, v value) func(*reader) (value, bool) {
	return func(r *reader) (value, bool) {
		if _, ok := r.word(word); ok {
			return v, true
		}
		return read(r)
	}
}

func lists(read func(*reader) (value, bool)) func(*reader) (value, bool) {
	return func(r *reader) (value, bool) {
		l, ok := commas(r, read)
		return list(l), ok
	}
}

func aString(r *reader) (value, bool) {
	if r.peek().kind != css.StringToken {
		return nil, false
	}
	s, ok := r.text()
	return quoted(s), ok
}

func anIdent(r *reader) (value, bool) {
	t := r.peek()
	if t.kind != css.IdentToken {
		return nil, false
	}
	r.at++
	return keyword(t.text), true
}

func idents(r *reader) (value, bool) {
	var out words
	for r.peek().kind == css.IdentToken {
		out = append(out, keyword(r.next().text))
	}
	return out, len(out) > 0
}

// sizeWords are the named sizes of text, as factors of the usual one
// (css-fonts-3, section 3.5).
var sizeWords = map[string]float64{"xx-small": 3.0 / 5, "x-small": 3.0 / 4, "small": 8.0 / 9, "medium": 1, "large": 6.0 / 5, "x-large": 3.0 / 2, "xx-large": 2}

// sizeWord is a named size of text.
type sizeWord string

func (s sizeWord) compute(c *against) value {
	switch s {
	case "smaller":
		return px(c.fontSize / 1.2)
	case "larger":
		return px(c.fontSize * 1.2)
	}
	return px(usualSize * sizeWords[string(s)])
}
func (s sizeWord) text() string { return string(s) }

func readFontSize(r *reader) (value, bool) {
	if w, ok := r.word("xx-small", "x-small", "small", "medium", "large", "x-large", "xx-large", "smaller", "larger"); ok {
		return sizeWord(w), true
	}
	v, ok := readNumber(r, takesLength|takesPercent|asPx|noLess)
	if v.sort == aPercent { // of the size above
		v = number{em: v.pct / 100, sort: aLength}
	}
	return v, ok
}

// relativeWeight is bolder or lighter than what is above.
type relativeWeight string

func (w relativeWeight) compute(c *against) value {
	n := 400.0
	if c.parent != nil {
		n = c.parent.values[byName["font-weight"]].(number).n
	}
	switch {
	case w == "bolder" && n < 350:
		return number{n: 400}
	case w == "bolder" && n < 550:
		return number{n: 700}
	case w == "bolder":
		return number{n: max(n, 900)}
	case n > 750:
		return number{n: 700}
	case n > 550:
		return number{n: 400}
	}
	return number{n: min(n, 100)}
}
func (w relativeWeight) text() string { return string(w) }

func readWeight(r *reader) (value, bool) {
	if w, ok := r.word("bolder", "lighter"); ok {
		return relativeWeight(w), true
	}
	named := map[string]float64{"normal": 400, "bold": 700}
	for w, n := range named {
		if _, ok := r.word(w); ok {
			return number{n: n}, true
		}
	}
	v, ok := readNumber(r, takesNumber)
	if r.gtk == 3 {
		return v, ok && v.n >= 100 && v.n <= 900 && v.n == float64(int(v.n/100))*100
	}
	return v, ok && v.n >= 1 && v.n <= 1000
}

func readFamilies(r *reader) (value, bool) {
	l, ok := commas(r, readFamily)
	return list(l), ok
}

func readFamily(r *reader) (value, bool) {
	if r.peek().kind == css.StringToken {
		return aString(r)
	}
	var parts []string
	for r.peek().kind == css.IdentToken {
		parts = append(parts, r.next().text)
	}
	return quoted(strings.Join(parts, " ")), len(parts) > 0
}

var borderStyle = keywords("none", "solid", "inset", "outset", "hidden", "dotted", "dashed", "double", "groove", "ridge")

func textDecoration(r *reader) (value, bool) {
	if r.gtk == 3 {
		return keywords("none", "underline", "line-through")(r)
	}
	if _, ok := r.word("none"); ok {
		return keyword("none"), true
	}
	var out []string
	for {
		w, ok := r.word("underline", "overline", "line-through")
		if !ok {
			break
		}
		out = append(out, w)
	}
	return keyword(strings.Join(out, " ")), len(out) > 0
}

// corner is how far a corner is round, across and down.
type corner struct{ x, y number }

func (c corner) compute(k *against) value {
	return corner{c.x.compute(k).(number), c.y.compute(k).(number)}
}

func (c corner) text() string {
	if c.x == c.y {
		return c.x.text()
	}
	return c.x.text() + " " + c.y.text()
}

const cornerTakes = takesLength | takesPercent | asPx | noLess

func readCorner(r *reader) (value, bool) {
	x, ok := readNumber(r, cornerTakes)
	if !ok {
		return nil, false
	}
	if y, ok := readNumber(r, cornerTakes); ok {
		return corner{x, y}, true
	}
	return corner{x, x}, true
}

func readSize(r *reader) (value, bool) {
	if w, ok := r.word("contain", "cover"); ok {
		return words{keyword(w)}, true
	}
	one := orKeyword(numeric(takesLength|takesPercent|noLess), "auto", keyword("auto"))
	x, ok := one(r)
	if !ok {
		return nil, false
	}
	if y, ok := try(r, one); ok && y != keyword("auto") {
		return words{x, y}, true
	}
	return words{x}, true
}

func readRepeat(r *reader) (value, bool) {
	if w, ok := r.word("repeat-x", "repeat-y"); ok {
		return keyword(w), true
	}
	x, ok := r.word("no-repeat", "repeat", "round", "space")
	if !ok {
		return nil, false
	}
	y, ok := r.word("no-repeat", "repeat", "round", "space")
	switch {
	case !ok || x == y:
		return keyword(x), true
	case x == "repeat" && y == "no-repeat":
		return keyword("repeat-x"), true
	case x == "no-repeat" && y == "repeat":
		return keyword("repeat-y"), true
	}
	return keyword(x + " " + y), true
}

func readBorderRepeat(r *reader) (value, bool) {
	one := []string{"stretch", "repeat", "round", "space"}
	x, ok := r.word(one...)
	if y, two := r.word(one...); ok && two && x != y {
		return keyword(x + " " + y), true
	}
	return keyword(x), ok
}

// fourOf reads one to four values.
func fourOf(read func(*reader) (value, bool)) func(*reader) (value, bool) {
	return func(r *reader) (value, bool) {
		var out words
		for len(out) < 4 {
			v, ok := try(r, read)
			if !ok {
				break
			}
			out = append(out, v)
		}
		return shortest(out), len(out) > 0
	}
}

// shortest leaves out the sides that follow from the others.
func shortest(w words) words {
	if len(w) == 4 && w[3] == w[1] {
		w = w[:3]
	}
	if len(w) == 3 && w[2] == w[0] {
		w = w[:2]
	}
	if len(w) == 2 && w[1] == w[0] {
		w = w[:1]
	}
	return w
}

func readSlice(r *reader) (value, bool) {
	_, fill := r.word("fill")
	v, ok := fourOf(numeric(takesPercent | takesNumber | noLess))(r)
	if !ok {
		return nil, false
	}
	if !fill {
		_, fill = r.word("fill")
	}
	if fill {
		return append(slices.Clone(v.(words)), keyword("fill")), true
	}
	return v, true
}

func readSpacing(r *reader) (value, bool) {
	x, ok := readNumber(r, takesLength|asPx|noLess)
	if !ok {
		return nil, false
	}
	if y, ok := readNumber(r, takesLength|asPx|noLess); ok {
		return words{x, y}, true
	}
	return words{x, x}, true
}

// usualPalette draws what a picture marks as a warning and the like as text.
var usualPalette = list{words{keyword("warning"), asWritten{currentColor{}}}, words{keyword("success"), asWritten{currentColor{}}}, words{keyword("error"), asWritten{currentColor{}}}}

func readPalette(r *reader) (value, bool) {
	if _, ok := r.word("default"); ok {
		return usualPalette, true
	}
	l, ok := commas(r, readPaletteEntry)
	return list(l), ok
}

// readFunctions reads none, or functions whose arguments are kept as written:
// transforms and filters.
func readFunctions(r *reader) (value, bool) {
	if _, ok := r.word("none"); ok {
		return keyword("none"), true
	}
	var b strings.Builder
	for !r.done() {
		name, ok := r.function()
		if !ok || !slices.Contains(functions, name) {
			return nil, false
		}
		if b.Len() > 0 {
			b.WriteByte(' ')
		}
		b.WriteString(name + "(")
		for deep := 1; deep > 0; {
			t := r.next()
			switch {
			case t.kind == css.ErrorToken:
				return nil, false
			case t.kind == css.FunctionToken || t.is("("):
				deep++
			case t.is(")"):
				deep--
			}
			if a, ok := dimension(t.text, takesAngle); ok && t.kind == css.DimensionToken {
				b.WriteString(a.text())
			} else {
				b.WriteString(t.text)
			}
			if t.is(",") {
				b.WriteByte(' ')
			}
		}
	}
	text := strings.NewReplacer("scalex(", "scale(", "scaley(", "scale(1, ").Replace(b.String())
	if r.gtk == 4 {
		text = strings.ReplaceAll(text, "rotate(", "rotate3d(0, 0, 1, ")
	}
	return keyword(text), b.Len() > 0
}

var functions = []string{
	"matrix", "matrix3d", "perspective", "rotate", "rotate3d", "rotatex", "rotatey", "rotatez", "scale", "scale3d", "scalex", "scaley", "scalez",
	"skew", "skewx", "skewy", "translate", "translate3d", "translatex", "translatey", "translatez",
	"blur", "brightness", "contrast", "drop-shadow", "grayscale", "hue-rotate", "invert", "opacity", "saturate", "sepia",
}

func readSettings(r *reader) (value, bool) {
	if _, ok := r.word("normal"); ok {
		return keyword("normal"), true
	}
	all, ok := commas(r, func(r *reader) (value, bool) {
		tag, ok := aString(r)
		if !ok || len(string(tag.(quoted))) != 4 {
			return nil, false
		}
		if w, ok := r.word("on", "off"); ok {
			return words{tag, keyword(map[string]string{"on": "1", "off": "0"}[w])}, true
		}
		if n, ok := try(r, plain); ok {
			return words{tag, keyword(strconv.FormatFloat(n, 'g', -1, 64))}, true
		}
		if r.gtk == 4 {
			return words{tag, keyword("1")}, true
		}
		return words{tag}, true
	})
	return list(all), ok
}

func readEase(r *reader) (value, bool) {
	if w, ok := r.word("ease-in-out", "ease-in", "ease-out", "ease", "linear", "step-start", "step-end"); ok {
		return keyword(w), true
	}
	name, ok := r.function()
	if !ok || name != "cubic-bezier" && name != "steps" {
		return nil, false
	}
	var args []string
	for {
		t := r.next()
		if t.kind != css.NumberToken && t.kind != css.IdentToken {
			return nil, false
		}
		args = append(args, t.text)
		if !r.take(",") {
			break
		}
	}
	return keyword(name + "(" + strings.Join(args, ",") + ")"), r.take(")")
}
