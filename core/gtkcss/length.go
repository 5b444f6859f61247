package gtkcss

import (
	"math"
	"strconv"
	"strings"

	"github.com/tdewolff/parse/v2/css"
)

// number is a number, a length, an angle (degrees) or a time (seconds); calc()
// may add up lengths of several units.
type number struct {
	n, px, pct, em, rem float64
	sort                sort
}

type sort uint8

const (
	plainNumber sort = iota
	aLength
	aPercent
	anAngle
	aTime
)

// What a property takes.
type takes uint8

const (
	takesNumber takes = 1 << iota
	takesPercent
	takesLength
	takesAngle
	takesTime
	noLess // than zero
	asPx   // GTK 3 reads a bare number as pixels
)

func px(f float64) number { return number{px: f, sort: aLength} }

// readNumber reads a number; one below zero where there may be none does not
// count, but a sum in calc() does whatever it comes to.
func readNumber(r *reader, t takes) (number, bool) {
	return try(r, func(r *reader) (number, bool) {
		sum := r.peek().kind == css.FunctionToken
		v, ok := readTerm(r, t)
		if t&noLess != 0 && !sum && min(v.n, v.px, v.pct, v.em, v.rem) < 0 {
			return v, false
		}
		return v, ok
	})
}

// readTerm reads one; of a word that is none, or not of a sort that is taken, it
// takes nothing.
func readTerm(r *reader, t takes) (number, bool) {
	from := r.at
	v, ok := readTermAt(r, t)
	if !ok && r.tokens[min(from, len(r.tokens)-1)].kind != css.FunctionToken {
		r.at = from
	}
	return v, ok
}

func readTermAt(r *reader, t takes) (number, bool) {
	w := r.peek()
	if w.kind != css.NumberToken && w.kind != css.PercentageToken && w.kind != css.DimensionToken && !strings.EqualFold(w.text, "calc(") {
		return number{}, false
	}
	r.at++
	switch w.kind {
	case css.FunctionToken:
		if strings.EqualFold(w.text, "calc(") {
			v, ok := readSum(r, t)
			return v, ok && r.take(")")
		}
	case css.NumberToken:
		f, err := strconv.ParseFloat(w.text, 64)
		switch {
		case err != nil:
		case t&takesNumber != 0:
			return number{n: f}, true
		case t&asPx != 0 && r.gtk == 3:
			return px(f), true
		case f == 0 && t&takesLength != 0:
			return px(0), true
		case f == 0 && t&takesAngle != 0:
			return number{sort: anAngle}, true
		case f == 0 && t&takesTime != 0:
			return number{sort: aTime}, true
		}
	case css.PercentageToken:
		f, err := strconv.ParseFloat(strings.TrimSuffix(w.text, "%"), 64)
		return number{pct: f, sort: aPercent}, err == nil && t&takesPercent != 0
	case css.DimensionToken:
		return dimension(w.text, t)
	}
	return number{}, false
}

// perUnit is how many px, degrees or seconds a unit is (css-values-3, sections
// 5.2 and 6).
var perUnit = map[string]struct {
	k    float64
	sort sort
}{
	"px": {1, aLength}, "pt": {96.0 / 72, aLength}, "pc": {16, aLength}, "in": {96, aLength}, "cm": {96 / 2.54, aLength}, "mm": {96 / 25.4, aLength},
	"em": {0, aLength}, "ex": {0, aLength}, "rem": {0, aLength},
	"deg": {1, anAngle}, "rad": {180 / math.Pi, anAngle}, "grad": {0.9, anAngle}, "turn": {360, anAngle},
	"s": {1, aTime}, "ms": {0.001, aTime},
}

func dimension(text string, t takes) (number, bool) {
	i := strings.LastIndexAny(text, "0123456789.") + 1
	f, err := strconv.ParseFloat(text[:i], 64)
	unit := strings.ToLower(text[i:])
	u, ok := perUnit[unit]
	if err != nil || !ok {
		return number{}, false
	}
	switch u.sort {
	case aLength:
		v := number{px: f * u.k, sort: aLength}
		switch unit {
		case "em":
			v.em = f
		case "ex":
			v.em = f / 2
		case "rem":
			v.rem = f
		}
		return v, t&takesLength != 0
	case anAngle:
		return number{n: f * u.k, sort: anAngle}, t&takesAngle != 0
	default:
		return number{n: f * u.k, sort: aTime}, t&takesTime != 0
	}
}

func (v number) times(k float64) number {
	v.n, v.px, v.pct, v.em, v.rem = v.n*k, v.px*k, v.pct*k, v.em*k, v.rem*k
	return v
}

// readSum reads what stands in calc().
func readSum(r *reader, t takes) (number, bool) {
	if !r.enter() {
		return number{}, false
	}
	defer r.leave()
	sum, ok := readProduct(r, t)
	for ok {
		sign := 1.0
		if r.peek().is("-") {
			sign = -1
		} else if !r.peek().is("+") {
			break
		}
		r.at++
		var v number
		if v, ok = readProduct(r, t); !ok {
			break
		}
		v = v.times(sign)
		if (v.sort == plainNumber) != (sum.sort == plainNumber) {
			return sum, false
		}
		sum = number{sum.n + v.n, sum.px + v.px, sum.pct + v.pct, sum.em + v.em, sum.rem + v.rem, max(sum.sort, v.sort)}
	}
	return sum, ok
}

func readProduct(r *reader, t takes) (number, bool) {
	factor := func() (number, bool) {
		if r.take("(") {
			v, ok := readSum(r, t)
			return v, ok && r.take(")")
		}
		return readTerm(r, t|takesNumber)
	}
	out, ok := factor()
	for ok {
		switch {
		case r.take("*"):
			var v number
			v, ok = factor()
			switch {
			case !ok:
			case v.sort == plainNumber:
				out = out.times(v.n)
			case out.sort == plainNumber:
				out = v.times(out.n)
			default:
				ok = false
			}
		case r.take("/"):
			var v number
			if v, ok = factor(); ok {
				if v.sort != plainNumber || v.n == 0 {
					return out, false
				}
				out = out.times(1 / v.n)
			}
		default:
			return out, true
		}
	}
	return out, ok
}

func (v number) compute(c *against) value {
	v.px += v.em*c.fontSize + v.rem*c.rootSize
	v.em, v.rem = 0, 0
	return v
}

// Px is the length, percent taken of a whole.
func (v number) Px(whole float64) float64 { return v.px + v.pct/100*whole }

func (v number) text() string {
	f := func(x float64) string { return strconv.FormatFloat(x, 'g', -1, 64) }
	var parts []string
	add := func(x float64, unit string) {
		if x != 0 {
			parts = append(parts, f(x)+unit)
		}
	}
	add(v.px, "px")
	add(v.em, "em")
	add(v.rem, "rem")
	add(v.pct, "%")
	switch v.sort {
	case anAngle:
		add(v.n, "deg")
	case aTime:
		add(v.n, "s")
	default:
		add(v.n, "")
	}
	switch len(parts) {
	case 0:
		if v.sort == aPercent {
			return "0%"
		}
		return "0"
	case 1:
		return parts[0]
	}
	return "calc(" + strings.Join(parts, " + ") + ")"
}
