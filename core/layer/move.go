package layer

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"math"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/colour"
	"ivelt/core/gtkcss"
	"ivelt/core/recolour"
	"ivelt/core/say"
)

// Move changes one thing of a whole theme, wherever the theme says it.
type Move struct {
	Of     string  `toml:"of"`               // one of [Moves]
	To     string  `toml:"to"`               // "120%" of what the theme says; "light" or "dark"; the accent's colour, #rrggbb
	From   string  `toml:"from,omitempty"`   // the theme's accent; "" for what it has for it, see [Accent]
	Within float64 `toml:"within,omitempty"` // degrees of hue around the accent that go with it; 0 for 30
	// Was is the theme's accent when the recipe was held against it.
	Was string `toml:"was,omitempty"`
}

// What a move is of.
const (
	MoveText     = "text"     // sizes of letters
	MoveFamily   = "family"   // of letters; what is set in letters of one width stays
	MoveSpace    = "space"    // room around what is inside, and smallest heights
	MoveRounding = "rounding" // of corners
	MoveLines    = "lines"    // widths of borders and outlines
	MoveShade    = "shade"    // light or dark, by the lightness of its colours
	MoveAccent   = "accent"   // a colour and those that are like it, also in pictures
)

// MoveInfo describes what moves can be of.
type MoveInfo struct {
	Of, Title   string
	Least, Most int // in percent
}

// Moves are what moves can be of, in the order they are made.
var Moves = []MoveInfo{
	{MoveText, "Text size", 50, 200}, {MoveSpace, "Spacing", 0, 300}, {MoveRounding, "Rounding", 0, 400},
	{MoveLines, "Line width", 0, 400}, {MoveFamily, "Font", 0, 0}, {MoveShade, "Light or dark", 0, 0}, {MoveAccent, "Accent", 0, 0},
}

// accentWithin is how far, in degrees of hue, a colour may be from the accent to go with it.
// Common practice, no source: lighter and darker tones of one colour are drawn within that.
const accentWithin = 30

func (m Move) info() (MoveInfo, bool) {
	i := slices.IndexFunc(Moves, func(of MoveInfo) bool { return of.Of == m.Of })
	if i < 0 {
		return MoveInfo{}, false
	}
	return Moves[i], true
}

// factor is what a move multiplies by.
func (m Move) factor() (float64, bool) {
	number, ok := strings.CutSuffix(m.To, "%")
	n, err := strconv.ParseFloat(number, 64)
	return n / 100, ok && err == nil
}

func (m Move) valid() error {
	of, ok := m.info()
	if !ok {
		return say.Errorf("of: %q is none of text, family, space, rounding, lines, shade and accent", m.Of)
	}
	switch of.Of {
	case MoveFamily:
		if !familyName.MatchString(m.To) || m.From != "" || m.Within != 0 {
			return say.Errorf("to: %q is no name of a font; from and within are of the accent", m.To)
		}
		return nil
	case MoveShade:
		if m.To != "light" && m.To != "dark" || m.From != "" || m.Within != 0 {
			return say.Errorf("to: %q is neither light nor dark; from and within are of the accent", m.To)
		}
		return nil
	case MoveAccent:
		return validTurn(m.To, m.From, m.Within)
	}
	if n, ok := m.factor(); !ok || !(n*100 >= float64(of.Least) && n*100 <= float64(of.Most)) {
		return say.Errorf("to: %q is not between %d%% and %d%%", m.To, of.Least, of.Most)
	}
	if m.From != "" || m.Within != 0 {
		return errors.New("from and within are of the accent")
	}
	return nil
}

// familyName is a name of a family of fonts that needs no escapes in any toolkit's files.
var familyName = regexp.MustCompile(`^[\p{L}0-9][\p{L}0-9 .+_-]{0,79}$`)

// oneWidth are families whose letters are all as wide, by their names. Common practice, no source.
var oneWidth = regexp.MustCompile(`(?i)mono|courier|consol|typewriter|fixed`)

// accentNames are the colours that themes name for what is selected, those first that toolkits
// use themselves (GTK's and libadwaita's named colours; "accent" is the stand-in shells').
var accentNames = []string{"accent_bg_color", "theme_selected_bg_color", "selected_bg_color", "accent_color", "accent"}

// minChroma is what a colour has at least that can be told from grey.
const minChroma = 0.03

// AccentOf is the accent of a sheet, or of a cascade of sheets; false if it names none.
func AccentOf(s interface {
	Colour(name string) (gtkcss.Colour, bool)
}) (colour.Colour, bool) {
	for _, name := range accentNames {
		if c, ok := s.Colour(name); ok {
			out := colour.Colour{R: c.R, G: c.G, B: c.B}
			if _, chroma, _ := out.LCH(); chroma >= minChroma {
				return out, true
			}
		}
	}
	return colour.Colour{}, false
}

// Accent is the colour that a theme shows selections in, #rrggbb; "" if its sheets name none.
func Accent(ctx context.Context, tree Tree, root string) (string, error) {
	b, err := look(ctx, tree, root)
	if err != nil {
		return "", err
	}
	return b.accent(ctx)
}

func (b *laid) accent(ctx context.Context) (string, error) {
	for _, part := range b.parts() {
		sheets, err := b.sheets(ctx, part)
		if err != nil {
			return "", err
		}
		slices.SortStableFunc(sheets, func(a, b string) int { return cmp.Compare(darkLast(a), darkLast(b)) })
		for _, sheet := range sheets {
			s, err := b.sheet(ctx, sheet)
			if err != nil {
				return "", err
			}
			if c, ok := AccentOf(s); ok {
				return c.Hex(), nil
			}
		}
	}
	return "", nil
}

func darkLast(sheet string) int {
	if forDark(sheet) {
		return 1
	}
	return 0
}

// mover makes the moves of a recipe in sheets.
type mover struct {
	moves   []Move
	turns   []recolour.Turn // of each move; nil for those of sizes, and for what is so already
	changed []int           // values that each has changed
	base    *gtkcss.Sheet   // that the values are of
	known   map[string]meaning
}

// meaning is what a value stands for, if that is a colour.
type meaning struct {
	colour gtkcss.Colour
	ok     bool
}

// maxMeanings is how many values of a sheet are worked out to keep text readable.
const maxMeanings = 10_000

// means is what a value of the base stands for, if that is a colour.
func (m *mover) means(value string) (gtkcss.Colour, bool) {
	of, known := m.known[value]
	if !known && len(m.known) < maxMeanings {
		of.colour, of.ok = m.base.ColourOf(value)
		m.known[value] = of
	}
	return of.colour, of.ok
}

func (r Recipe) mover(base *gtkcss.Sheet) *mover {
	m := &mover{moves: r.Moves, turns: make([]recolour.Turn, len(r.Moves)), changed: make([]int, len(r.Moves)), base: base, known: map[string]meaning{}}
	for i, move := range r.Moves {
		if d, ok := move.dye(); ok {
			m.turns[i] = d
		} else if move.Of == MoveShade && shadeOf(base) != move.To {
			m.turns[i] = recolour.Shade{Dark: move.To == "dark"}
		}
	}
	return m
}

// groundNames are the colours that themes name for what windows are filled with.
var groundNames = []string{"window_bg_color", "theme_bg_color", "bg_color", "theme_base_color", "base_color"}

// shadeOf tells whether a sheet is "light" or "dark" by what it fills windows with, "" if it
// names no colour for that.
func shadeOf(s *gtkcss.Sheet) string {
	for _, name := range groundNames {
		c, ok := s.Colour(name)
		if !ok || c.A == 0 {
			continue
		}
		if l, _, _ := (colour.Colour{R: c.R, G: c.G, B: c.B}).LCH(); l < 0.5 {
			return "dark"
		}
		return "light"
	}
	return ""
}

// dye is what an accent becomes; false if it is not known what it is, or the move is another.
func (m Move) dye() (recolour.Dye, bool) {
	if m.Of != MoveAccent || m.From == "" {
		return recolour.Dye{}, false
	}
	from, err := colour.Parse(m.From)
	if err != nil {
		return recolour.Dye{}, false
	}
	to, err := colour.Parse(m.To)
	return recolour.Dye{From: from, To: to, Within: cmp.Or(m.Within, accentWithin)}, err == nil
}

// sheet is the text of a sheet as the moves make it.
func (m *mover) sheet(text []byte) []byte { return gtkcss.Rewrite(text, m.tells) }

func (m *mover) tells(of []gtkcss.Tell) []string {
	out := make([]string, len(of))
	for i, t := range of {
		out[i] = t.Value
		for k := range m.moves {
			made := m.value(k, t.Property, out[i])
			if made != out[i] {
				m.changed[k]++
			}
			out[i] = made
		}
	}
	if slices.ContainsFunc(m.turns, func(t recolour.Turn) bool { return t != nil }) {
		m.readable(of, out)
	}
	return out
}

// value is what one move makes of a property's value.
func (m *mover) value(k int, property, value string) string {
	move := m.moves[k]
	if made, ok := move.anew(property, value); ok {
		return made
	}
	if move.Of == MoveFamily {
		if property != "font-family" || oneWidth.MatchString(value) || generic[strings.TrimSpace(value)] {
			return value
		}
		return `"` + move.To + `"`
	}
	if move.Of == MoveAccent || move.Of == MoveShade {
		named := strings.HasPrefix(property, "@define-color ")
		if m.turns[k] == nil || !named && !coloured.MatchString(property) || move.Of == MoveShade && strings.Contains(property, "shadow") {
			return value // a shadow is dark in either
		}
		return gtkcss.Colours(value, func(c gtkcss.Colour) gtkcss.Colour { return turned(m.turns[k], c) })
	}
	if !sized[move.Of].MatchString(property) {
		return value
	}
	factor, _ := move.factor()
	return gtkcss.Lengths(value, func(number float64, unit string) float64 { return scaled(move.Of, number, unit, factor) })
}

// anew is what a move of letters makes of a value that lets a part of a window go by the desk's
// own font again ("initial", CSS Cascade 4, section 7.1), so that this part is moved too.
func (m Move) anew(property, value string) (string, bool) {
	factor, _ := m.factor()
	size, family := fmt.Sprintf("%grem", math.Round(factor*10000)/10000), `"`+m.To+`"`
	first, _, _ := strings.Cut(value, ";") // another move may have said more
	switch whole := strings.TrimSpace(first) == "initial"; {
	case !whole || m.Of == MoveText && factor == 1:
	case m.Of == MoveText && property == "font":
		return value + "; font-size: " + size, true
	case m.Of == MoveText && property == "font-size":
		return size, true
	case m.Of == MoveFamily && property == "font":
		return value + "; font-family: " + family, true
	case m.Of == MoveFamily && property == "font-family":
		return family, true
	}
	return "", false
}

// generic are values that go by something else (CSS Fonts 4, section 2.1; CSS Cascade 4, section 7).
var generic = map[string]bool{"inherit": true, "unset": true}

// The properties that a move of sizes is of.
var sized = map[string]*regexp.Regexp{
	MoveText:     regexp.MustCompile(`^font(-size)?$`),
	MoveSpace:    regexp.MustCompile(`^(padding(-(top|right|bottom|left))?|min-height|border-spacing)$`),
	MoveRounding: regexp.MustCompile(`^(border(-(top|bottom)-(left|right))?-radius|(-gtk-)?outline(-(top|bottom)-(left|right))?-radius)$`),
	MoveLines:    regexp.MustCompile(`^((border(-(top|right|bottom|left))?|outline)(-width)?)$`),
}

// coloured are the properties whose values have colours.
var coloured = regexp.MustCompile(`^(-gtk-.*(color|palette|shadow|source)|color|background(-color|-image)?|border.*|outline.*|box-shadow|text-shadow|text-decoration.*|caret-color|.*-color)$`)

// scaled is a length times a factor. What is a whole number of px stays one, and a line that is
// there does not vanish.
func scaled(of string, number float64, unit string, factor float64) float64 {
	if of == MoveText && !absolute[unit] {
		return number // it goes by letters that are scaled themselves
	}
	made := math.Round(number*factor*100) / 100
	if unit != "px" || of == MoveText || number != math.Trunc(number) {
		return made
	}
	made = math.Round(number * factor)
	if made == 0 && factor > 0 && number != 0 {
		made = math.Copysign(1, number)
	}
	return made
}

// absolute are the units that go by nothing else (CSS Values and Units 3, section 6.2).
var absolute = map[string]bool{"px": true, "pt": true, "pc": true, "in": true, "cm": true, "mm": true, "q": true}

func turned(by recolour.Turn, c gtkcss.Colour) gtkcss.Colour {
	before := colour.Colour{R: c.R, G: c.G, B: c.B}
	if after := by.Of(before); after != before {
		return gtkcss.Colour{R: after.R, G: after.G, B: after.B, A: c.A}
	}
	return c
}

// all is what all moves make of a colour.
func (m *mover) all(c gtkcss.Colour) gtkcss.Colour {
	for _, t := range m.turns {
		if t != nil {
			c = turned(t, c)
		}
	}
	return c
}

// readableFrom is the contrast that text needs (WCAG 2.2, success criterion 1.4.3).
const readableFrom = 4.5

// readable keeps text readable that stands on what was given another colour: as well as before,
// or well enough.
func (m *mover) readable(of []gtkcss.Tell, values []string) {
	text, ground := -1, -1
	var before [2]gtkcss.Colour
	for i, t := range of {
		if name, ok := strings.CutPrefix(t.Property, "@define-color "); ok {
			on, ok := strings.CutSuffix(name, "_fg_color")
			if !ok {
				return
			}
			fg, hasText := m.means(t.Value)
			bg, hasGround := m.means("@" + on + "_bg_color")
			if made, ok := m.legible(fg, bg); hasText && hasGround && ok {
				values[i] = made
			}
			return
		}
		switch t.Property {
		case "color":
			if c, ok := m.means(t.Value); ok {
				text, before[0] = i, c
			}
		case "background", "background-color":
			if c, ok := m.means(t.Value); ok {
				ground, before[1] = i, c
			}
		}
	}
	if text < 0 || ground < 0 {
		return
	}
	if made, ok := m.legible(before[0], before[1]); ok {
		values[text] = made
	}
}

// legible is the text's colour if it has to be another than what the moves make of it.
func (m *mover) legible(text, ground gtkcss.Colour) (string, bool) {
	if text.A < 1 || ground.A < 1 {
		return "", false // what is behind shows through
	}
	plain := func(c gtkcss.Colour) colour.Colour { return colour.Colour{R: c.R, G: c.G, B: c.B} }
	newText, newGround := plain(m.all(text)), plain(m.all(ground))
	needed := min(readableFrom, colour.Contrast(plain(text), plain(ground)))
	if newGround == plain(ground) && newText == plain(text) || colour.Contrast(newText, newGround) >= needed {
		return "", false
	}
	made, ok := colour.Nearest(newText, newGround, needed)
	return made.Hex(), ok
}

// roots are the nodes that windows are, in both toolkits; letters of all that has no size of its
// own go by theirs (GTK 3.24 and 4: the names that gtk_widget_class_set_css_name gives them).
const roots = "window, dialog, messagedialog, assistant, tooltip"

// first is what is said before a sheet of a theme.
func (m *mover) first(sheet string) string {
	if !strings.HasPrefix(sheet, "gtk-") {
		return ""
	}
	var b strings.Builder
	for k, move := range m.moves {
		switch factor, _ := move.factor(); {
		case move.Of == MoveText && factor != 1:
			fmt.Fprintf(&b, "%s { font-size: %g%%; }\n", roots, math.Round(factor*10000)/100)
		case move.Of == MoveFamily:
			fmt.Fprintf(&b, "%s { font-family: \"%s\"; }\n", roots, move.To)
		default:
			continue
		}
		m.changed[k]++
	}
	return b.String()
}

// Made is what is read in the stead of a text of a sheet, by its name; resource tells that it is
// one of a bundle.
type Made func(name string, resource bool, text []byte) []byte

// Made tells what is read in the stead of each text of a sheet of the theme, see
// [gtkcss.LoadMade]; nil if nothing is moved. file is the sheet's name in its tree, and s what it
// says without.
func (r Recipe) Made(file string, s *gtkcss.Sheet) Made {
	if len(r.Moves) == 0 {
		return nil
	}
	m := r.mover(s)
	root, sheet := path.Dir(path.Dir(file)), path.Join(path.Base(path.Dir(file)), path.Base(file))
	return func(name string, resource bool, text []byte) []byte {
		if !resource && !strings.HasPrefix(name, root+"/") {
			return text
		}
		made := m.sheet(text)
		if name == file {
			made = append([]byte(m.first(sheet)), made...)
		}
		return made
	}
}

// Accent is what the recipe makes of the theme's accent, also in pictures; false if it leaves it.
func (r Recipe) Accent() (recolour.Dye, bool) {
	for _, move := range r.Moves {
		if d, ok := move.dye(); ok {
			return d, true
		}
	}
	return recolour.Dye{}, false
}
