package gtkcss

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
	"golang.org/x/image/colornames"
)

// spot is a token and where it is written.
type spot struct {
	kind css.TokenType
	text string
	from int
}

func (s spot) to() int { return s.from + len(s.text) }

// Bounds of what is rewritten: tokens of a text, and blocks in each other.
const (
	maxSpots  = 1_000_000
	maxBlocks = 64
)

// spotted are the tokens of a text, up to one more than is rewritten.
func spotted(text []byte) (out []spot) {
	lexer := css.NewLexer(parse.NewInputBytes(bytes.Clone(text)))
	for at := 0; ; {
		kind, data := lexer.Next()
		if kind == css.ErrorToken || len(out) > maxSpots {
			return out
		}
		out = append(out, spot{kind, string(data), at})
		at += len(data)
	}
}

// Rewrite is a sheet in which values are what of makes of them; everything else stays byte for
// byte. of is given what one block tells, in order, and returns as many values; a named colour
// comes by itself, as a property "@define-color NAME". Of a sheet that is longer than
// [MaxBytes], or has too many words, nothing is changed; nor what stands in too many blocks.
func Rewrite(text []byte, of func(tells []Tell) []string) []byte {
	if len(text) > maxRuleText {
		return text
	}
	w := rewriter{text: text, spots: spotted(text), of: of}
	if len(w.spots) > maxSpots {
		return text
	}
	for w.at < len(w.spots) {
		if k := w.spots[w.at].kind; k == css.WhitespaceToken || k == css.CommentToken {
			w.at++
			continue
		}
		w.statement()
	}
	return append(w.out, text[w.written:]...)
}

type rewriter struct {
	text    []byte
	spots   []spot
	at      int
	deep    int // blocks that are open
	of      func([]Tell) []string
	out     []byte
	written int // up to here
	tells   []Tell
	places  [][2]int
}

// statement goes past one statement of a sheet or of a block of statements.
func (w *rewriter) statement() {
	if s := w.spots[w.at]; s.kind == css.AtKeywordToken && strings.EqualFold(s.text, "@define-color") {
		w.at++
		name := w.word()
		from, to := w.value()
		w.tells, w.places = []Tell{{Property: "@define-color " + name, Value: string(w.text[from:to])}}, [][2]int{{from, to}}
		w.tell()
		return
	}
	for deep := 0; w.at < len(w.spots); {
		s := w.spots[w.at]
		w.at++
		switch s.kind {
		case css.SemicolonToken:
			if deep == 0 {
				return
			}
		case css.LeftBraceToken:
			w.block()
			return
		case css.RightBraceToken:
			return
		default:
			deep = max(0, deep+deeper(word{kind: s.kind}))
		}
	}
}

// block goes past what stands in braces: declarations, statements, or both.
func (w *rewriter) block() {
	if w.deep++; w.deep > maxBlocks {
		w.past()
		return
	}
	defer func() { w.deep-- }()
	var tells []Tell
	var places [][2]int
	for w.at < len(w.spots) && w.spots[w.at].kind != css.RightBraceToken {
		s := w.spots[w.at]
		switch {
		case s.kind == css.WhitespaceToken || s.kind == css.CommentToken || s.kind == css.SemicolonToken:
			w.at++
		case w.declares():
			name := ""
			for w.spots[w.at].kind != css.ColonToken {
				if k := w.spots[w.at].kind; k != css.WhitespaceToken && k != css.CommentToken {
					name += w.spots[w.at].text
				}
				w.at++
			}
			w.at++
			from, to := w.value()
			tells, places = append(tells, Tell{Property: name, Value: string(w.text[from:to])}), append(places, [2]int{from, to})
		default:
			w.tells, w.places = tells, places
			w.tell()
			tells, places = nil, nil
			w.statement()
		}
	}
	w.at++
	w.tells, w.places = tells, places
	w.tell()
}

// past goes past a block and all in it.
func (w *rewriter) past() {
	w.deep--
	for deep := 1; w.at < len(w.spots) && deep > 0; w.at++ {
		switch w.spots[w.at].kind {
		case css.LeftBraceToken:
			deep++
		case css.RightBraceToken:
			deep--
		}
	}
}

// declares reports whether a property with its value comes next: what ends before a brace opens.
func (w *rewriter) declares() bool {
	colon := false
	for _, s := range w.spots[w.at:] {
		switch s.kind {
		case css.ColonToken:
			colon = true
		case css.SemicolonToken, css.RightBraceToken:
			return colon
		case css.LeftBraceToken:
			return false
		}
	}
	return colon
}

func (w *rewriter) word() (text string) {
	for w.at < len(w.spots) {
		s := w.spots[w.at]
		if s.kind == css.SemicolonToken || s.kind == css.RightBraceToken {
			return text
		}
		w.at++
		if s.kind != css.WhitespaceToken && s.kind != css.CommentToken {
			return s.text
		}
	}
	return text
}

// value is where a value is written, without the blanks around it. What ends it is next.
func (w *rewriter) value() (from, to int) {
	from = -1
	for deep := 0; w.at < len(w.spots); w.at++ {
		s := w.spots[w.at]
		if deep == 0 && (s.kind == css.SemicolonToken || s.kind == css.RightBraceToken) || s.kind == css.LeftBraceToken {
			break
		}
		deep = max(0, deep+deeper(word{kind: s.kind}))
		if s.kind == css.WhitespaceToken {
			continue
		}
		if from < 0 {
			from = s.from
		}
		to = s.to()
	}
	if from < 0 {
		return w.written, w.written
	}
	return from, to
}

// tell writes what was made of the values that were come past.
func (w *rewriter) tell() {
	if len(w.tells) == 0 {
		return
	}
	values := w.of(slices.Clone(w.tells))
	for i, place := range w.places {
		if values[i] == w.tells[i].Value || place[0] < w.written {
			continue
		}
		w.out = append(append(w.out, w.text[w.written:place[0]]...), values[i]...)
		w.written = place[1]
	}
	w.tells, w.places = nil, nil
}

// Lengths is a value in which each length is what of makes of its number; percentages and
// numbers without a unit are none.
func Lengths(value string, of func(number float64, unit string) float64) string {
	var b strings.Builder
	for _, s := range spotted([]byte(value)) {
		if s.kind != css.DimensionToken {
			b.WriteString(s.text)
			continue
		}
		n := len(strings.TrimRightFunc(s.text, func(r rune) bool { return (r|0x20) >= 'a' && (r|0x20) <= 'z' }))
		number, err := strconv.ParseFloat(s.text[:n], 64)
		if made := of(number, strings.ToLower(s.text[n:])); err == nil && made != number {
			b.WriteString(strconv.FormatFloat(made, 'f', -1, 64) + s.text[n:])
			continue
		}
		b.WriteString(s.text)
	}
	return b.String()
}

// Colours is a value in which each colour that is written out is what of makes of it, with its
// alpha as it is: #rgb and longer, rgb(), rgba(), and the names of CSS.
func Colours(value string, of func(Colour) Colour) string {
	var b strings.Builder
	spots := spotted([]byte(value))
	for i := 0; i < len(spots); i++ {
		s := spots[i]
		switch {
		case s.kind == css.HashToken:
			b.WriteString(hashed(s.text, of))
		case s.kind == css.FunctionToken && (strings.EqualFold(s.text, "rgb(") || strings.EqualFold(s.text, "rgba(")):
			end := i + 1
			for end < len(spots) && spots[end].kind != css.RightParenthesisToken {
				end++
			}
			if end == len(spots) {
				b.WriteString(value[s.from:])
				return b.String()
			}
			b.WriteString(functional(value[s.from:spots[end].to()], spots[i+1:end], of))
			i = end
		case s.kind == css.IdentToken:
			if c, ok := colornames.Map[strings.ToLower(s.text)]; ok {
				before := Colour{float64(c.R) / 255, float64(c.G) / 255, float64(c.B) / 255, 1}
				if after := of(before); after != before {
					b.WriteString(hexOf(after))
					continue
				}
			}
			b.WriteString(s.text)
		default:
			b.WriteString(s.text)
		}
	}
	return b.String()
}

func hashed(text string, of func(Colour) Colour) string {
	digits, alpha := text[1:], ""
	switch len(digits) {
	case 4:
		digits, alpha = digits[:3], digits[3:]+digits[3:]
	case 8:
		digits, alpha = digits[:6], digits[6:]
	}
	if len(digits) == 3 {
		digits = string([]byte{digits[0], digits[0], digits[1], digits[1], digits[2], digits[2]})
	}
	n, err := strconv.ParseUint(digits, 16, 32)
	if err != nil || len(digits) != 6 {
		return text
	}
	before := Colour{float64(n>>16) / 255, float64(n>>8&255) / 255, float64(n&255) / 255, 1}
	if after := of(before); after != before {
		return hexOf(after) + alpha
	}
	return text
}

// functional is rgb() or rgba() with commas: three numbers or percentages, and an alpha.
func functional(text string, inside []spot, of func(Colour) Colour) string {
	var part [3]float64
	n, alpha := 0, ""
	for _, s := range inside {
		switch s.kind {
		case css.WhitespaceToken, css.CommaToken, css.CommentToken:
			continue
		case css.NumberToken, css.PercentageToken:
			if n < 3 {
				number, whole := strings.TrimSuffix(s.text, "%"), 255.0
				if s.kind == css.PercentageToken {
					whole = 100
				}
				v, err := strconv.ParseFloat(number, 64)
				if err != nil {
					return text
				}
				part[n] = min(max(v/whole, 0), 1)
			} else {
				alpha = ", " + s.text
			}
			n++
		default:
			return text // a colour that is worked out, or another form
		}
	}
	if n != 3 && n != 4 {
		return text
	}
	before := Colour{part[0], part[1], part[2], 1}
	after := of(before)
	if after == before {
		return text
	}
	name := "rgb"
	if alpha != "" {
		name = "rgba"
	}
	return fmt.Sprintf("%s(%d, %d, %d%s)", name, part255(after.R), part255(after.G), part255(after.B), alpha)
}

func hexOf(c Colour) string {
	return fmt.Sprintf("#%02x%02x%02x", part255(c.R), part255(c.G), part255(c.B))
}

// Addresses is a sheet in which the address of each import, and of each file that a value
// names, is what of makes of it.
func Addresses(text []byte, of func(address string, imports bool) string) []byte {
	var out []byte
	imports, calls := false, false
	spots := spotted(text)
	if len(spots) > maxSpots {
		return text
	}
	for _, s := range spots {
		switch s.kind {
		case css.AtKeywordToken:
			imports = strings.EqualFold(s.text, "@import")
		case css.FunctionToken:
			calls = strings.EqualFold(s.text, "url(")
		case css.SemicolonToken, css.LeftBraceToken:
			imports = false
		case css.RightParenthesisToken:
			calls = false
		case css.URLToken, css.StringToken:
			address := s.text
			if s.kind == css.URLToken {
				address = strings.TrimSpace(address[len("url(") : len(address)-1])
			} else if !imports && !calls {
				break
			}
			if strings.HasPrefix(address, `"`) || strings.HasPrefix(address, "'") {
				address = unquote(address)
			}
			if made := of(address, imports); made != address {
				quoted := strconv.Quote(made)
				if s.kind == css.URLToken {
					quoted = "url(" + quoted + ")"
				}
				out = append(out, quoted...)
				continue
			}
		}
		out = append(out, s.text...)
	}
	return out
}

// ColourOf is what a value stands for that is one colour: written out, named by the sheet, or
// worked out from such.
func (s *Sheet) ColourOf(value string) (Colour, bool) {
	in := &reader{tokens: tokens([]byte(value)), gtk: s.Generation}
	c, ok := readColour(in)
	if !ok || !in.done() {
		return Colour{}, false
	}
	return c.resolve(colourContext{named: func(n string) (colour, bool) { c, ok := s.colours[n]; return c, ok }, known: newKnown()})
}
