package outfit

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/say"
	"ivelt/core/turning"
)

// Turnable are the facets of which one value may be worn in the light and another in the dark.
var Turnable = []string{
	desk.FacetDark, desk.FacetWidgets, desk.FacetPictures, desk.FacetAccent, desk.FacetFrame, desk.FacetBar, desk.FacetNotices,
	desk.FacetIcons, desk.FacetPointer, desk.FacetPalette, desk.FacetBackdrop, desk.FacetBehind,
}

// Half is one of the two that a look turns between.
type Half string

// The halves.
const (
	Light Half = "light"
	Dark  Half = "dark"
)

// HalfOf is the half that is worn by day, or after dark.
func HalfOf(dark bool) Half {
	if dark {
		return Dark
	}
	return Light
}

// Turns are the facets that do not stay as they are: those of which each half has its own,
// and the backdrop of a show, in the order facets are shown.
func (o Outfit) Turns() []string {
	var out []string
	for _, f := range desk.Facets {
		if o.Paired(f.Name) || f.Name == desk.FacetBackdrop && o.Show != nil {
			out = append(out, f.Name)
		}
	}
	return out
}

// TurnsByItself reports whether it turns without the person.
func (o Outfit) TurnsByItself() bool {
	return o.Show != nil || o.Turn != nil && o.Turn.By != turning.ByHand
}

// Paired reports whether each half has its own value of a facet.
func (o Outfit) Paired(facet string) bool { _, ok := o.Dark[facet]; return ok }

// IsDark reports which half is worn now.
func (o Outfit) IsDark() bool {
	for facet, c := range o.Dark {
		if o.Light[facet].text() != c.text() {
			return o.Choices[facet].text() == c.text()
		}
	}
	return o.Want(desk.FacetDark) == "dark"
}

// WantIn is what a half wears of a facet.
func (o Outfit) WantIn(half Half, facet string) string {
	if o.Paired(facet) {
		return o.half(half)[facet].text()
	}
	return o.Want(facet)
}

func (o Outfit) half(of Half) map[string]Choice {
	if of == Dark {
		return o.Dark
	}
	return o.Light
}

// In is the outfit with one of its halves worn; exceptions stay.
func (o Outfit) In(half Half) Outfit {
	choices := maps.Clone(o.Choices)
	for facet, c := range o.half(half) {
		c.Except = choices[facet].Except
		choices[facet] = c
	}
	o.Choices = choices
	return o
}

// Showing is the outfit with a picture as its backdrop, its show as it is.
func (o Outfit) Showing(picture string) Outfit {
	choices := maps.Clone(o.Choices)
	c := choices[desk.FacetBackdrop]
	if c.Value != picture {
		c = Choice{Value: picture, Except: c.Except}
	}
	choices[desk.FacetBackdrop] = c
	o.Choices = choices
	return o
}

// Pair is the outfit with a value of a facet for each half, of which the one that is worn now
// is in force; "" for the dark half has both as the light one. A facet that cannot turn is an
// error.
func (o Outfit) Pair(facet, light, dark string) (Outfit, error) {
	if !slices.Contains(Turnable, facet) {
		return o, say.Errorf("%s cannot be one thing in the light and another in the dark", desk.FacetTitle(facet))
	}
	info, _ := desk.FacetOf(facet)
	for _, value := range []string{light, dark} {
		if err := info.Accepts(value); err != nil && value != "" {
			return o, err
		}
	}
	isDark := o.IsDark()
	if dark == "" || light == "" || facet != desk.FacetDark && dark == light {
		return o.With(facet, light), nil
	}
	half := func(of map[string]Choice, value string) map[string]Choice {
		of = maps.Clone(of)
		if of == nil {
			of = map[string]Choice{}
		}
		if was := o.Choices[facet]; was.text() == value { // with what is known of the piece
			was.Except = nil
			of[facet] = was
		} else if of[facet].text() != value {
			of[facet] = choiceOf(info, value)
		}
		return of
	}
	now := light
	if isDark {
		now = dark
	}
	out := o.With(facet, now)
	out.Light, out.Dark, out.Turn = half(o.Light, light), half(o.Dark, dark), o.Turn
	if out.Turn == nil {
		out.Turn = &turning.Schedule{By: turning.ByHand}
	}
	return out, nil
}

// WithShow is the outfit with a show, that begins with a picture; nil ends the one it has.
func (o Outfit) WithShow(s *turning.Show, picture string) Outfit {
	if s != nil {
		o = o.With(desk.FacetBackdrop, picture)
	}
	o.Show = s
	return o
}

// unturned is the outfit without what turns of some facets.
func (o Outfit) unturned(stays func(facet string) bool) Outfit {
	if o.Show != nil && !stays(desk.FacetBackdrop) {
		o.Show = nil
	}
	less := func(of map[string]Choice) map[string]Choice {
		of = maps.Clone(of)
		maps.DeleteFunc(of, func(facet string, _ Choice) bool { return !stays(facet) })
		if len(of) == 0 {
			return nil
		}
		return of
	}
	if o.Light, o.Dark = less(o.Light), less(o.Dark); o.Dark == nil {
		o.Turn = nil
	}
	return o
}

// turnsAlike reports whether a facet turns as another outfit's does.
func (o Outfit) turnsAlike(other Outfit, facet string) bool {
	schedule := func(o Outfit) turning.Schedule {
		if o.Turn == nil || !o.Paired(facet) {
			return turning.Schedule{}
		}
		return *o.Turn
	}
	show := facet != desk.FacetBackdrop || reflect.DeepEqual(o.Show, other.Show)
	return show && o.pairSays(facet) == other.pairSays(facet) && reflect.DeepEqual(schedule(o), schedule(other))
}

// turns puts what turns of another outfit over this one's.
func (o Outfit) turns(other Outfit) Outfit {
	o = o.unturned(func(facet string) bool { return other.Choices[facet].text() == "" })
	join := func(a, b map[string]Choice) map[string]Choice {
		if len(b) == 0 {
			return a
		}
		a = maps.Clone(a)
		if a == nil {
			a = map[string]Choice{}
		}
		maps.Copy(a, b)
		return a
	}
	o.Light, o.Dark = join(o.Light, other.Light), join(o.Dark, other.Dark)
	if other.Turn != nil {
		o.Turn = other.Turn
	}
	if other.Show != nil {
		o.Show = other.Show
	}
	return o
}

// validTurns tells what is wrong with what turns of a file, and settles what it left open.
func (o *Outfit) validTurns() error {
	if o.Turn != nil {
		if err := o.Turn.Valid(); err != nil {
			return say.Errorf("turn: %w", err)
		}
	}
	if o.Show != nil {
		if err := o.Show.Valid(); err != nil {
			return say.Errorf("show: %w", err)
		}
		if o.Want(desk.FacetBackdrop) == "" {
			return say.Errorf("show: the outfit chooses no backdrop for it to begin with")
		}
		if o.Paired(desk.FacetBackdrop) {
			return say.Errorf("the backdrop is a show, or a pair for light and dark, not both")
		}
	}
	if (len(o.Dark) > 0) != (o.Turn != nil) {
		return say.Errorf("an outfit that turns says when, and what it is in the dark")
	}
	for _, half := range []map[string]Choice{o.Light, o.Dark} {
		if len(half) != len(o.Dark) {
			return say.Errorf("what is worn in the dark has a value for the light, and the other way round")
		}
		for facet, c := range half {
			info, _ := desk.FacetOf(facet)
			switch {
			case !slices.Contains(Turnable, facet):
				return say.Errorf("%q cannot turn", facet)
			case !o.Paired(facet) || o.Want(facet) == "":
				return say.Errorf("%s: it needs a value for the light, one for the dark and one for now", facet)
			case len(c.Recipe) > MaxRecipe || len(c.Except) > 0:
				return say.Errorf("%s: its recipe is too long, or it has exceptions: those are of the choice alone", facet)
			}
			if err := info.Accepts(c.text()); err != nil {
				return err
			}
		}
	}
	return nil
}

// turning tells in words how what turns differs.
func (o Outfit) turning(other Outfit) []string {
	var out []string
	for _, facet := range Turnable {
		a, b := o.pairSays(facet), other.pairSays(facet)
		if a != b {
			out = append(out, fmt.Sprintf("%s by day and after dark: %s instead of %s.", desk.FacetTitle(facet), b, a))
		}
	}
	if a, b := o.showSays(), other.showSays(); a != b {
		out = append(out, fmt.Sprintf("Backdrops in turn: %s instead of %s.", b, a))
	}
	return out
}

func (o Outfit) pairSays(facet string) string {
	if !o.Paired(facet) {
		return "the same"
	}
	return o.Light[facet].text() + " and " + o.Dark[facet].text()
}

func (o Outfit) showSays() string {
	switch s := o.Show; {
	case s == nil:
		return "none"
	case len(s.Times) > 0:
		return fmt.Sprintf("%d for times of day", len(s.Times))
	case s.Folder != "":
		return fmt.Sprintf("all of %s, each for %s", s.Folder, s.Every)
	default:
		return fmt.Sprintf("%s, each for %s", strings.Join(s.Pictures, ", "), s.Every)
	}
}
