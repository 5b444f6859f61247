// Package layer keeps changes to a piece as a recipe over it, and builds the recipe into a
// piece of its own. When the piece is updated the recipe is laid over the new one, and says
// where it no longer fits.
//
//	format = 1
//	name = "White crust, large"
//	folder = "Saltpan-Large"
//
//	[base]
//	kind = "theme"
//	folder = "Saltpan"
//
//	[[colour]]
//	name = "accent"
//	value = "#a0466b"
//	dark = "#d77ba0" # in sheets for the dark
//
//	[[rule]]
//	parts = ["quayside"]
//	selector = "panel"
//	set = { font-size = "11pt" }
//
//	[[move]]
//	of = "text"
//	to = "120%" # of what the theme says
//
//	[[element]] # of a picture style
//	name = "tick-on"
//	from = "tickon" # what its drawing calls it
//
//	[[icon]] # of an icon pack
//	name = "tide-gauge"
//	like = "utilities-monitor" # or picture = "…", one's own in base64
//
//	[[pointer]]
//	name = "zoom-in"
//	like = "crosshair" # or hot = "0 0", percent of what is drawn
//
//	[every] # pointer of a set
//	sizes = [64]
//
//	[convert] # of pointers of the other family
//	sizes = [24, 48]
//
//	[[lines]]
//	text = "gtk-icon-sizes = \"gtk-button=16,16\"" # at the end of GTK 2's file
package layer

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"maps"
	"path"
	"regexp"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/parcel"
	"ivelt/core/say"
	"ivelt/core/shown"
	"ivelt/core/tomlfile"
)

// Format is the version of the file format written here.
const Format = 1

// File is what a recipe is called in the piece that is built from it: its note of origin.
const File = "layer.toml"

// MaxChanges is how many changes a recipe may have.
const MaxChanges = 500

var (
	// ErrFormat: the bytes are no recipe.
	ErrFormat = errors.New("not a layer's recipe")
	// ErrKind: there are no layers over pieces of that kind.
	ErrKind = errors.New("only window themes, icon packs, pointer sets and picture styles can have layers so far")
)

// Kinds are the kinds of pieces that layers can be laid over.
var Kinds = []parcel.Kind{parcel.Theme, parcel.Icons, parcel.Pointer, parcel.Style}

// Recipe is what a layer is built from.
type Recipe struct {
	Name    string   `toml:"name"`            // what people see
	Folder  string   `toml:"folder"`          // what programs ask for
	About   string   `toml:"about,omitempty"` // a few words
	Base    Base     `toml:"base"`
	Colours []Colour `toml:"colour,omitempty"`
	Rules   []Rule   `toml:"rule,omitempty"`
	Lines   []Lines  `toml:"lines,omitempty"`
	Dyes    []Dye    `toml:"dye,omitempty"`
	Moves   []Move   `toml:"move,omitempty"`

	Elements []Element `toml:"element,omitempty"`
	Icons    []Icon    `toml:"icon,omitempty"`

	Pointers []Pointing `toml:"pointer,omitempty"`
	Every    *Every     `toml:"every,omitempty"`
	Convert  *Convert   `toml:"convert,omitempty"`
}

// Base is the piece that a layer is laid over.
type Base struct {
	Kind     parcel.Kind `toml:"kind"`
	Folder   string      `toml:"folder"`
	Within   string      `toml:"within,omitempty"` // the folder of the piece itself that it lies in, see [Convert]
	Version  string      `toml:"version,omitempty"`
	Licence  string      `toml:"licence,omitempty"`  // an SPDX expression where it has one
	Source   string      `toml:"source,omitempty"`   // where it can be had
	Checksum string      `toml:"checksum,omitempty"` // of its tree when the recipe was held against it, see [Sum]
}

// Colour gives a colour that the theme names another value.
type Colour struct {
	Name  string   `toml:"name"`
	Value string   `toml:"value"`
	Dark  string   `toml:"dark,omitempty"`  // in sheets for the dark; "" for the same
	Parts []string `toml:"parts,omitempty"` // in these; none for each whose sheets name it
	// Was is what the base said, by sheet, when the recipe was held against it.
	Was map[string]string `toml:"was,omitempty"`
}

// Rule is a rule that is laid over those of the theme.
type Rule struct {
	Parts    []string          `toml:"parts"`
	Selector string            `toml:"selector"`
	Set      map[string]string `toml:"set"` // values by property
	// Was is what the base said by that selector, by sheet and property.
	Was map[string]map[string]string `toml:"was,omitempty"`
}

// Dye gives icons of a pack another colour. Their shading is kept, and what is white, grey or
// black; symbolic icons are left alone. Of a pointer set the inside of pointers gets the colour,
// and their outline keeps its own.
type Dye struct {
	Icons []string `toml:"icons,omitempty"` // names, or patterns of them (path.Match); none for all
	To    string   `toml:"to,omitempty"`    // what the main colour becomes, #rrggbb
	// Palette are colours, #rrggbb, that all are mapped to by their hue, in To's stead.
	Palette []string `toml:"palette,omitempty"`
	From    string   `toml:"from,omitempty"`   // the main colour; "" for what the icons have most of
	Within  float64  `toml:"within,omitempty"` // degrees of hue around it that are changed; 0 for every hue
	// Outline is what the outline of pointers becomes, #rrggbb; "" for what it is.
	Outline string `toml:"outline,omitempty"`
	// Was is the main colour when the recipe was held against the base.
	Was string `toml:"was,omitempty"`
}

// Lines stand at the end of GTK 2's resource file.
type Lines struct {
	Text string `toml:"text"`
}

type file struct {
	Format int `toml:"format"`
	Recipe
}

// Parse reads a recipe; an error says the line, or the change, that is wrong.
func Parse(b []byte) (Recipe, error) {
	var f file
	if err := tomlfile.Strict(b, &f); err != nil {
		return Recipe{}, say.Errorf("%w: %w", ErrFormat, err)
	}
	if f.Format != Format {
		return Recipe{}, say.Errorf("%w: it says format %d, and this Ivelt reads %d", ErrFormat, f.Format, Format)
	}
	if err := f.Recipe.Valid(); err != nil {
		return Recipe{}, say.Errorf("%w: %w", ErrFormat, err)
	}
	return f.Recipe, nil
}

// Bytes is the recipe as a file: the same for the same recipe.
func (r Recipe) Bytes() []byte {
	var b bytes.Buffer
	if err := toml.NewEncoder(&b).Encode(file{Format, r}); err != nil {
		panic(err) // strings, and lists and maps of them, always marshal
	}
	return b.Bytes()
}

var (
	folderName = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9 ._+-]{0,79}$`)
	partName   = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9._-]{0,39}$`)
	colourName = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_-]{0,79}$`)
	property   = regexp.MustCompile(`^-?[a-zA-Z][a-zA-Z0-9-]{0,79}$`)
)

// Size is how many changes a recipe has.
func (r Recipe) Size() int {
	return len(r.Colours) + len(r.Rules) + len(r.Lines) + len(r.Dyes) + len(r.Moves) + len(r.Elements) + len(r.Icons) + len(r.Pointers) + r.wholes()
}

// Valid is nil if the recipe can be built over some base. What it lays over a sheet cannot be
// more than it says: each rule is one rule, each value one value.
func (r Recipe) Valid() error {
	switch {
	case strings.TrimSpace(r.Name) == "" || len(r.Name) > 120 || shown.Line(r.Name) != r.Name:
		return errors.New("name is up to 120 letters, without signs that do not show")
	case !folderName.MatchString(r.Folder):
		return errors.New("folder is up to 80 letters, digits, blanks, dots, dashes, + and _, and begins with a letter or digit")
	case !slices.Contains(Kinds, r.Base.Kind):
		return say.Errorf("base: kind is %q: %w", r.Base.Kind, ErrKind)
	case r.Base.Folder == "" || strings.ContainsAny(r.Base.Folder, "/\x00") || strings.HasPrefix(r.Base.Folder, "."):
		return errors.New("base: folder is the name of one folder")
	case (r.Convert != nil) != (r.Base.Within != ""):
		return errors.New("convert is of a base that lies within the piece itself, and nothing else is")
	case r.Convert != nil:
		return r.convertible()
	case r.Base.Folder == r.Folder:
		return errors.New("folder is another than the base's")
	case r.Base.Kind != parcel.Theme && len(r.Colours)+len(r.Rules)+len(r.Lines)+len(r.Moves) > 0:
		return errors.New("colours, rules, moves and lines are of window themes; icons, pointers and picture styles have dyes")
	case r.Base.Kind != parcel.Pointer && (len(r.Pointers) > 0 || r.Every != nil):
		return errors.New("pointer and every are of pointer sets")
	case r.Base.Kind != parcel.Icons && len(r.Icons) > 0:
		return errors.New("icon is of icon packs")
	case r.Base.Kind != parcel.Style && len(r.Elements) > 0:
		return errors.New("elements are of picture styles")
	case r.Base.Kind == parcel.Theme && len(r.Dyes) > 0:
		return errors.New("dyes are of icon packs, pointer sets and picture styles; window themes have colours, rules, moves and lines")
	case r.Size() > MaxChanges:
		return say.Errorf("there are more than %d changes", MaxChanges)
	}
	for i, c := range r.Colours {
		if err := c.valid(); err != nil {
			return say.Errorf("colour %d: %w", i+1, err)
		}
	}
	for i, c := range r.Rules {
		if err := c.valid(); err != nil {
			return say.Errorf("rule %d: %w", i+1, err)
		}
	}
	for i, c := range r.Dyes {
		if err := c.valid(r.Base.Kind); err != nil {
			return say.Errorf("dye %d: %w", i+1, err)
		}
	}
	for i, c := range r.Elements {
		if err := c.change().Valid(); err != nil {
			return say.Errorf("element %d: %w", i+1, err)
		}
	}
	pictures := 0
	for i, c := range r.Icons {
		if pictures += len(c.Picture); pictures > maxPictures {
			return say.Errorf("icon %d: the pictures of your own have together more than %d MB", i+1, maxPictures>>20)
		}
		if err := c.valid(); err != nil {
			return say.Errorf("icon %d: %w", i+1, err)
		}
		if slices.ContainsFunc(r.Icons[:i], func(other Icon) bool { return other.Name == c.Name }) {
			return say.Errorf("icon %d: there is one for %s already", i+1, c.Name)
		}
	}
	for i, c := range r.Pointers {
		if err := c.valid(); err != nil {
			return say.Errorf("pointer %d: %w", i+1, err)
		}
	}
	if err := r.Every.valid(); err != nil {
		return err
	}
	for i, c := range r.Moves {
		if err := c.valid(); err != nil {
			return say.Errorf("move %d: %w", i+1, err)
		}
		if slices.ContainsFunc(r.Moves[:i], func(m Move) bool { return m.Of == c.Of }) {
			return say.Errorf("move %d: there is one of %s already", i+1, c.Of)
		}
	}
	for i, c := range r.Lines {
		if why := c.wrong(); why != "" {
			return say.Errorf("lines %d: GTK 2 would not read them: %s", i+1, why)
		}
	}
	return nil
}

// schemeName is a colour of the theme's own that lines ask for.
var schemeName = regexp.MustCompile(`@([A-Za-z_][A-Za-z0-9_]*)`)

// wrong is why GTK 2 would not read lines, "" if it would. The colours that they ask for by
// names are the base's, which may have them.
func (c Lines) wrong() string {
	if strings.TrimSpace(c.Text) == "" {
		return "they say nothing"
	}
	var named strings.Builder
	for _, m := range schemeName.FindAllStringSubmatch(c.Text, -1) {
		named.WriteString(m[1] + ":#000000;")
	}
	text := fmt.Sprintf("gtk-color-scheme = \"%s\"\n%s", named.String(), c.Text)
	if notes := gtkrc.Parse([]byte(text)).Notes; len(notes) > 0 {
		return fmt.Sprintf("line %d of it: %s", notes[0].Line-1, notes[0].Text)
	}
	return ""
}

func partsValid(parts []string) error {
	for _, p := range parts {
		if !partName.MatchString(p) {
			return say.Errorf("%q is no part of a theme, such as gtk-3.0", p)
		}
	}
	return nil
}

func (c Colour) valid() error {
	if !colourName.MatchString(c.Name) {
		return say.Errorf("%q is no name of a colour", c.Name)
	}
	for _, value := range []string{c.Value, cmp.Or(c.Dark, c.Value)} {
		of := gtkcss.Definitions([]byte(define(c.Name, value)))
		if len(of) != 1 || of[0].Value != strings.TrimSpace(value) || len(gtkcss.Parse([]byte(define(c.Name, value)), 3).Refused()) > 0 {
			return say.Errorf("%s: %q is no colour", c.Name, value)
		}
	}
	return partsValid(c.Parts)
}

func (c Rule) valid() error {
	if len(c.Parts) == 0 {
		return errors.New("parts says which parts of the theme it is laid over, such as gtk-3.0")
	}
	if err := partsValid(c.Parts); err != nil {
		return err
	}
	if len(c.Set) == 0 {
		return errors.New("set says which properties it gives which values")
	}
	for name := range c.Set {
		if !property.MatchString(name) {
			return say.Errorf("%q is no property", name)
		}
	}
	of := gtkcss.Rules([]byte(c.css()))
	if len(of) != 1 || len(of[0].Tells) != len(c.Set) || strings.Join(of[0].Selectors, ", ") != gtkcss.Selector(strings.Join(of[0].Selectors, ", ")) || strings.TrimSpace(c.Selector) == "" {
		return say.Errorf("%q with what it sets is not one rule", c.Selector)
	}
	for _, tell := range of[0].Tells {
		if tell.Value == "" || tell.Value != gtkcss.Selector(c.Set[tell.Property]) {
			return say.Errorf("%s: %q is not one value", tell.Property, c.Set[tell.Property])
		}
	}
	for _, part := range c.Parts {
		if generation := map[string]int{"gtk-3.0": 3, "gtk-4.0": 4}[part]; generation > 0 {
			if refused := gtkcss.Parse([]byte(c.css()), generation).Refused(); len(refused) > 0 {
				return say.Errorf("%q: GTK %d would not take it: %s", c.Selector, generation, refused[0].Text)
			}
		}
	}
	return nil
}

// css is the rule as a sheet has it, its properties in the order of their names.
func (c Rule) css() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s {\n", strings.TrimSpace(c.Selector))
	for _, name := range slices.Sorted(maps.Keys(c.Set)) {
		fmt.Fprintf(&b, "  %s: %s;\n", name, strings.TrimSpace(c.Set[name]))
	}
	return b.String() + "}\n"
}

func define(name, value string) string {
	return fmt.Sprintf("@define-color %s %s;\n", name, strings.TrimSpace(value))
}

// forDark reports whether a sheet is for the dark, by its name: gtk-dark.css. Common practice,
// no source; GTK looks for that name.
func forDark(sheet string) bool {
	return strings.HasSuffix(strings.TrimSuffix(path.Base(sheet), path.Ext(sheet)), "-dark")
}

// ParseRule reads a rule as it is written on one line: "PART, PART: SELECTOR { PROPERTY:
// VALUE; }".
func ParseRule(text string) (Rule, error) {
	parts, css, ok := strings.Cut(text, ":")
	of := gtkcss.Rules([]byte(css))
	if !ok || len(of) != 1 {
		return Rule{}, say.Errorf("%q is not written as PART: SELECTOR { PROPERTY: VALUE; }", text)
	}
	r := Rule{Selector: strings.Join(of[0].Selectors, ", "), Set: map[string]string{}}
	for part := range strings.SplitSeq(parts, ",") {
		r.Parts = append(r.Parts, strings.TrimSpace(part))
	}
	for _, t := range of[0].Tells {
		r.Set[t.Property] = t.Value
	}
	return r, r.valid()
}
