package taste

import (
	"math"

	"ivelt/core/colour"
	"ivelt/core/market"
	"ivelt/core/say"
)

// Mood is a word for looks that can be measured.
type Mood struct {
	Name         string
	Title, Means say.Word
	Looks        market.Looks
}

// Moods are the words one can start from. The values are our own.
var Moods = []Mood{
	{"calm", "calm", "light, hardly any colour, low contrast", market.Looks{Lightness: 0.85, Chroma: 0.03, Contrast: 5, Roundness: 0.6, Density: 0.4}},
	{"dusk", "dusk", "dark, with one warm colour", market.Looks{Lightness: 0.3, Chroma: 0.06, Hue: 55, Contrast: 8, Roundness: 0.5, Density: 0.5}},
	{"deep", "deep", "dark and full of colour", market.Looks{Lightness: 0.35, Chroma: 0.14, Hue: 250, Contrast: 7, Roundness: 0.4, Density: 0.6}},
	{"fresh", "fresh", "light and green, round", market.Looks{Lightness: 0.78, Chroma: 0.1, Hue: 150, Contrast: 7, Roundness: 0.8, Density: 0.5}},
	{"loud", "loud", "bright, much colour, hard contrast", market.Looks{Lightness: 0.65, Chroma: 0.2, Hue: 30, Contrast: 14, Roundness: 0.4, Density: 0.7}},
	{"stark", "stark", "black on white, square", market.Looks{Lightness: 0.9, Chroma: 0, Contrast: 19, Roundness: 0, Density: 0.6}},
}

// FindMood returns a mood by its name.
func FindMood(name string) (Mood, bool) {
	for _, m := range Moods {
		if m.Name == name {
			return m, true
		}
	}
	return Mood{}, false
}

// WithHue turns looks to a hue by its name, with enough chroma to be seen.
func WithHue(l market.Looks, name string) market.Looks {
	for i := range 72 {
		h := float64(i) * 5
		if colour.HueName(0.2, h) != name {
			continue
		}
		last := h
		for colour.HueName(0.2, last+5) == name && last < h+180 {
			last += 5
		}
		l.Hue, l.Chroma = math.Mod((h+last)/2, 360), max(l.Chroma, 0.08)
		if name == "pink" { // its stretch goes over the circle's start
			l.Hue = 350
		}
		return l
	}
	if name == "mixed" {
		l.Hue, l.Chroma = market.Mixed, max(l.Chroma, 0.08)
	}
	if name == "grey" {
		l.Chroma = 0
	}
	return l
}

// Why says in words how near a piece's looks are to those asked for: what is
// alike first, then what is not.
func Why(want, got market.Looks) say.Message {
	apart := want.Apart(got)
	var alike, unlike []say.Message
	told := func(part market.Part, near, far say.Word) {
		switch d := apart[part]; {
		case d < 0.3:
			alike = append(alike, near.Message())
		case d > 0.7:
			unlike = append(unlike, far.Message())
		}
	}
	lighter, shade := say.Word("darker"), say.Word("as light")
	if got.Lightness > want.Lightness {
		lighter = "lighter"
	}
	if want.Dark() {
		shade = "as dark"
	}
	told(market.PartLightness, shade, lighter)
	switch hue := got.HueName(); {
	case hue == "grey" && want.HueName() == "grey":
		alike = append(alike, say.Line("without colour"))
	case hue == "mixed" && want.HueName() == "mixed":
		alike = append(alike, say.Line("of many colours"))
	case hue == "mixed" && apart[market.PartColour] > 0.6:
		unlike = append(unlike, say.Line("of many colours"))
	case hue == want.HueName() && apart[market.PartColour] < 0.6:
		alike = append(alike, say.Line("a similar %s", say.Word(hue)))
	case apart[market.PartColour] > 0.6:
		unlike = append(unlike, say.Word(hue).Message())
	}
	contrast := say.Word("less contrast")
	if got.Contrast > want.Contrast {
		contrast = "more contrast"
	}
	told(market.PartContrast, "similar contrast", contrast)
	rounder := say.Word("more square")
	if got.Roundness > want.Roundness {
		rounder = "rounder"
	}
	if want.Shape() != "" && got.Shape() != "" {
		told(market.PartRoundness, "as round", rounder)
	}
	switch {
	case len(alike) == 0 && len(unlike) == 0:
		return say.Line("similar overall")
	case len(unlike) == 0:
		return say.Join(", ", alike...)
	case len(alike) == 0:
		return say.Line("otherwise similar, but %s", say.Join(", ", unlike...))
	}
	return say.Line("%s; but %s", say.Join(", ", alike...), say.Join(", ", unlike...))
}

// Companion returns what a piece of another kind should look like to go with
// looks: of about the same lightness, its colour standing out from them, a near
// hue or, for what lies on top, the one across the circle.
func Companion(l market.Looks, across bool) market.Looks {
	out := l
	if across && l.OneHue() {
		out.Hue = math.Mod(l.Hue+180, 360)
		out.Chroma = max(l.Chroma, 0.08)
	}
	return out
}
