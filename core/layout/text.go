package layout

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"ivelt/core/say"
)

// Bounds of a layout that is read.
const (
	maxText    = 16 << 10 // bytes
	maxBars    = 16
	maxItems   = 400 // on all bars
	maxOptions = 16
	most       = 32768 // px, in either direction
)

// ErrText: a text is no layout.
var ErrText = errors.New("that is no layout")

// ParseBars reads bars, one after the other:
//
//	top 34 margin 7: menu pinned / clock(form="%H:%M") / tray power; bottom 28: windows
//
// An edge and a thickness, then pairs of a word and its value ([Bar.String] has all), then after a
// colon the items at the start, in the middle and at the end, parted by strokes. What a newer version
// says, an item or a pair, is kept. "none" are no bars. Errors wrap [ErrText] and tell where.
func ParseBars(text string) ([]Bar, error) {
	p := parser{text: text}
	if err := p.size(); err != nil {
		return nil, err
	}
	if strings.TrimSpace(text) == "none" {
		return nil, nil
	}
	var bars []Bar
	items := 0
	for {
		bar, err := p.bar(&items, Start)
		if err != nil {
			return nil, err
		}
		if bars = append(bars, bar); len(bars) > maxBars {
			return nil, p.bad("%d bars are the most", maxBars)
		}
		if !p.takes(";") {
			break
		}
	}
	if p.more() {
		return nil, p.bad("%q is not expected", p.rest())
	}
	return bars, nil
}

// FormatBars is the text of bars.
func FormatBars(bars []Bar) string {
	if len(bars) == 0 {
		return "none"
	}
	var out []string
	for _, b := range bars {
		out = append(out, b.String())
	}
	return strings.Join(out, "; ")
}

// String is the text of a bar. What is as usual is left out.
func (b Bar) String() string {
	var s strings.Builder
	fmt.Fprintf(&s, "%s %d", b.Edge, b.Thick)
	pair := func(word, value, usual string) {
		if value != usual && value != "" {
			s.WriteString(" " + word + " " + quoted(value))
		}
	}
	pair("long", b.Long.String(), string(Whole))
	pair("at", string(b.At), string(Start))
	pair("margin", strconv.Itoa(b.Margin), "0")
	pair("round", strconv.Itoa(b.Round), "0")
	pair("hides", string(b.Hides), string(Never))
	pair("on", b.Monitor, "")
	for _, o := range b.Other {
		s.WriteString(" " + quoted(o.Key) + " " + quoted(o.Value))
	}
	if len(b.Items) > 0 {
		s.WriteString(":")
	}
	last := 0
	for _, side := range Aligns {
		for _, i := range b.Items {
			if i.Side != side {
				continue
			}
			for ; last < slices.Index(Aligns, side); last++ {
				s.WriteString(" /")
			}
			s.WriteString(" " + i.String())
		}
	}
	return s.String()
}

// String is the text of an item.
func (i Item) String() string {
	if len(i.Options) == 0 {
		return quoted(i.Kind)
	}
	var all []string
	for _, o := range i.Options {
		all = append(all, quoted(o.Key)+"="+quoted(o.Value))
	}
	return quoted(i.Kind) + "(" + strings.Join(all, " ") + ")"
}

// plain reports whether a letter may be in a word that is not quoted.
func plain(r rune) bool {
	return unicode.IsLetter(r) || unicode.IsDigit(r) || strings.ContainsRune("-_.%+#@,*~", r)
}

// quoted is a word as it is written.
func quoted(word string) string {
	if word != "" && !strings.ContainsFunc(word, func(r rune) bool { return !plain(r) }) && utf8.ValidString(word) {
		return word
	}
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", `\n`).Replace(word) + `"`
}

// parser reads words and signs.
type parser struct {
	text string
	at   int
}

func (p *parser) bad(format string, args ...any) error {
	return say.Errorf("%w: at letter %d: %s", ErrText, utf8.RuneCountInString(p.text[:min(p.at, len(p.text))])+1, fmt.Sprintf(format, args...))
}

func (p *parser) size() error {
	if len(p.text) > maxText {
		return say.Errorf("%w: it is longer than %d bytes", ErrText, maxText)
	}
	if !utf8.ValidString(p.text) {
		return say.Errorf("%w: it is no UTF-8", ErrText)
	}
	return nil
}

func (p *parser) skip() {
	for p.at < len(p.text) && strings.ContainsRune(" \t\n\r", rune(p.text[p.at])) {
		p.at++
	}
}

func (p *parser) more() bool { p.skip(); return p.at < len(p.text) }

// rest is the beginning of what is left, for an error.
func (p *parser) rest() string {
	r := []rune(p.text[p.at:])
	return string(r[:min(len(r), 12)])
}

// takes reads a sign, if it is the next.
func (p *parser) takes(sign string) bool {
	if p.more() && strings.HasPrefix(p.text[p.at:], sign) {
		p.at += len(sign)
		return true
	}
	return false
}

// word reads a word, quoted or not; false if none is next.
func (p *parser) word() (string, bool, error) {
	if !p.more() {
		return "", false, nil
	}
	if p.text[p.at] == '"' {
		w, err := p.inQuotes()
		return w, err == nil, err
	}
	from := p.at
	for p.at < len(p.text) {
		r, n := utf8.DecodeRuneInString(p.text[p.at:])
		if !plain(r) {
			break
		}
		p.at += n
	}
	return p.text[from:p.at], p.at > from, nil
}

func (p *parser) inQuotes() (string, error) {
	from := p.at
	var out strings.Builder
	for p.at++; p.at < len(p.text); p.at++ {
		switch c := p.text[p.at]; c {
		case '"':
			p.at++
			return out.String(), nil
		case '\\':
			if p.at++; p.at == len(p.text) {
				break
			}
			if c = p.text[p.at]; c == 'n' {
				c = '\n'
			}
			out.WriteByte(c)
		default:
			out.WriteByte(c)
		}
	}
	p.at = from
	return "", p.bad("a quotation has no end")
}

// needs reads a word that has to be there.
func (p *parser) needs(what string) (string, error) {
	w, ok, err := p.word()
	if err == nil && !ok {
		err = p.bad("%s is missing", what)
	}
	return w, err
}

func (p *parser) number(what string) (int, error) {
	w, err := p.needs(what)
	if err != nil {
		return 0, err
	}
	return p.whole(what, w)
}

func (p *parser) whole(what, w string) (int, error) {
	n, err := strconv.Atoi(w)
	if err != nil || n < -most || n > most {
		return 0, p.bad("%s is a whole number, not %q", what, w)
	}
	return n, nil
}

// bar reads one; at is where it lies if that is not told.
func (p *parser) bar(items *int, at Align) (b Bar, err error) {
	edge, err := p.needs("an edge")
	if err != nil {
		return b, err
	}
	if b.Edge = Edge(edge); !slices.Contains(Edges, b.Edge) {
		return b, p.bad("an edge is top, bottom, left or right, not %q", edge)
	}
	if b.Thick, err = p.number("the thickness"); err != nil {
		return b, err
	}
	b.Long.Of, b.At, b.Hides = Whole, at, Never
	for {
		word, ok, err := p.word()
		if err != nil {
			return b, err
		}
		if !ok {
			break
		}
		value, err := p.needs("what " + word + " is")
		if err != nil {
			return b, err
		}
		if err := p.pair(&b, word, value); err != nil {
			return b, err
		}
	}
	if !p.takes(":") {
		return b, nil
	}
	side := 0
	for {
		if p.takes("/") {
			if side++; side == len(Aligns) {
				return b, p.bad("items have three places: start, middle and end")
			}
			continue
		}
		item, ok, err := p.item()
		if err != nil || !ok {
			return b, err
		}
		item.Side = Aligns[side]
		b.Items = append(b.Items, item)
		if *items++; *items > maxItems {
			return b, p.bad("%d items are the most", maxItems)
		}
	}
}

// pair reads what a word says of a bar.
func (p *parser) pair(b *Bar, word, value string) (err error) {
	among := func(ok bool, all any) error {
		if ok {
			return nil
		}
		return p.bad("%s is one of %s, not %q", word, strings.Trim(fmt.Sprint(all), "[]"), value)
	}
	switch word {
	case "long":
		b.Long, err = p.length(value)
	case "at":
		b.At = Align(value)
		err = among(slices.Contains(Aligns, b.At), Aligns)
	case "margin":
		b.Margin, err = p.whole(word, value)
	case "round":
		b.Round, err = p.whole(word, value)
	case "hides":
		b.Hides = Hiding(value)
		err = among(slices.Contains(Hidings, b.Hides), Hidings)
	case "on":
		b.Monitor = value
	default:
		if b.Other = append(b.Other, Option{word, value}); len(b.Other) > maxOptions {
			err = p.bad("%d words that are not known are the most", maxOptions)
		}
	}
	return err
}

func (p *parser) length(value string) (Length, error) {
	switch n, isShare := strings.CutSuffix(value, "%"); {
	case value == string(Whole), value == string(Content):
		return Length{Of: Measured(value)}, nil
	case isShare:
		share, err := p.whole("a share", n)
		if err == nil && (share < 1 || share > 100) {
			err = p.bad("a share is from 1 to 100 percent, not %d", share)
		}
		return Length{Share, share}, err
	}
	n, err := p.whole("a length", value)
	return Length{Fixed, n}, err
}

// item reads one; false if none is next.
func (p *parser) item() (i Item, ok bool, err error) {
	if i.Kind, ok, err = p.word(); err != nil || !ok {
		return i, false, err
	}
	if !p.takes("(") {
		return i, true, nil
	}
	for !p.takes(")") {
		key, err := p.needs("a word or a closing bracket")
		if err != nil {
			return i, false, err
		}
		if !p.takes("=") {
			return i, false, p.bad("%s has no value", key)
		}
		value, err := p.needs("what " + key + " is")
		if err != nil {
			return i, false, err
		}
		if i.Options = append(i.Options, Option{key, value}); len(i.Options) > maxOptions {
			return i, false, p.bad("%d options of an item are the most", maxOptions)
		}
	}
	return i, true, nil
}
