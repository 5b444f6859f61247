package taste

import (
	"math"

	"ivelt/core/colour"
	"ivelt/core/market"
	"ivelt/core/say"
)

// Manner is how the pieces of a look go together.
type Manner string

// The manners there are.
const (
	Kin     Manner = "kin"     // pieces of one family before all others
	Key     Manner = "key"     // all in one hue and one shade
	Against Manner = "against" // what lies on top in the hue across the circle
)

// Wish is what is looked for to go with something.
type Wish struct {
	Looks   market.Looks
	Across  bool // its hue is across the circle
	Apart   bool // it has to be told from its ground before anything else
	With    string
	Manner  Manner
	ofBasis market.Looks
}

// WishFor is what a piece has to look like to go with another: what lies on top of
// windows, icons, takes the hue across the circle, so that it stands out, unless
// all is to be of one hue; a pointer is set off from what it moves over; everything
// else is near. The choice of them is our own (docs/taste.md).
func WishFor(facet string, basis market.Looks, with string, manner Manner) Wish {
	w := Wish{With: with, Manner: manner, ofBasis: basis}
	switch facet {
	case "icons":
		w.Across = manner != Key
	case "pointer":
		w.Apart = true
	case "backdrop", "accent":
		w.Across = manner == Against
	}
	w.Looks = Companion(basis, w.Across)
	if w.Apart {
		w.Looks.Lightness = 0.92
		if !basis.Dark() {
			w.Looks.Lightness = 0.25
		}
	}
	return w
}

// Score is how well a piece meets a wish, 0–1; kin tells that it is of the family
// of something chosen already.
func (w Wish) Score(got market.Looks, kin bool) float64 {
	score := 1 / (1 + w.Looks.Distance(got))
	switch {
	case kin && w.Manner == Kin:
		score = 0.5 + score/2
	case kin:
		score = 0.12 + score*0.88
	case w.Manner == Kin:
		score *= 0.85
	}
	return score
}

// Why says in words why a piece goes with the basis.
func (w Wish) Why(got market.Looks, family string) say.Message {
	why := w.why(got)
	if family != "" {
		return say.Line("of the same family, %s; %s", family, why)
	}
	return why
}

func (w Wish) why(got market.Looks) say.Message {
	switch {
	case w.Apart:
		return say.Line("stands out from %s: lightness %.0f %% against %.0f %%", w.With, 100*got.Lightness, 100*w.ofBasis.Lightness)
	case !got.OneHue() || !w.ofBasis.OneHue():
		return say.Line("compared with %s: %s", w.With, Why(w.Looks, got))
	}
	apart := colour.HueDistance(w.ofBasis.Hue, got.Hue)
	if w.Across && apart > 90 {
		return say.Line("hue opposite that of %s, %.0f° away, so that it stands out", w.With, math.Round(apart))
	}
	return say.Line("hue %.0f° from that of %s; %s", math.Round(apart), w.With, Why(w.Looks, got))
}

// Accent is a colour for what stands out in a look: the most colourful of its own,
// or the one across the circle from it; "" if it has no colour.
func Accent(l market.Looks, across bool) string {
	best, most := "", 0.05
	for _, hex := range l.Colours {
		c, err := colour.Parse(hex)
		if err != nil {
			continue
		}
		if light, ch, h := c.LCH(); ch > most {
			most, best = ch, hex
			if across {
				best = colour.OfLCH(light, ch, math.Mod(h+180, 360)).Hex()
			}
		}
	}
	return best
}
