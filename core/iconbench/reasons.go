package iconbench

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"ivelt/core/say"
)

// said is a measure in words: what is said of an icon that has less of it than the others, and of
// one that has more; none for what is told to nobody.
// least is how far from the middle an icon has to be that somebody would see it; common practice, no
// source.
type said struct {
	less, more say.Message
	least      float64
}

// inWords are the words by measure.
var inWords = map[int]said{
	mFill:      {say.Of("icons/odd-covers-less"), say.Of("icons/odd-covers-more"), 0.1},
	mSolid:     {say.Of("icons/odd-less-solid"), say.Of("icons/odd-more-solid"), 0.12},
	mWide:      {say.Of("icons/odd-narrow"), say.Of("icons/odd-wide"), 0.08},
	mTall:      {say.Of("icons/odd-low"), say.Of("icons/odd-tall"), 0.08},
	mCorners:   {say.Of("icons/odd-square"), say.Of("icons/odd-round"), 0.15},
	mBottom:    {say.Of("icons/odd-less-room"), say.Of("icons/odd-more-room"), 0.06},
	mThrough:   {say.Of("icons/odd-less-through"), say.Of("icons/odd-more-through"), 0.08},
	mShadow:    {say.Of("icons/odd-no-shadow"), say.Of("icons/odd-shadow"), 0.05},
	mLight:     {say.Of("icons/odd-dark"), say.Of("icons/odd-light"), 0.08},
	mLightVar:  {say.Of("icons/odd-even-light"), say.Of("icons/odd-uneven-light"), 0.06},
	mChroma:    {say.Of("icons/odd-pale"), say.Of("icons/odd-strong"), 0.04},
	mHues:      {say.Of("icons/odd-few-hues"), say.Of("icons/odd-many-hues"), 1},
	mGrey:      {say.Of("icons/odd-less-grey"), say.Of("icons/odd-grey"), 0.25},
	mFlat:      {say.Of("icons/odd-not-flat"), say.Of("icons/odd-flat"), 0.15},
	mShade:     {say.Of("icons/odd-unshaded"), say.Of("icons/odd-shaded"), 0.12},
	mTones:     {say.Of("icons/odd-few-tones"), say.Of("icons/odd-many-tones"), 0.7},
	mRim:       {say.Of("icons/odd-dark-rim"), say.Of("icons/odd-light-rim"), 0.08},
	mRing:      {say.Of("icons/odd-dark-ring"), say.Of("icons/odd-light-ring"), 0.08},
	mFall:      {say.Of("icons/odd-lit-below"), say.Of("icons/odd-lit-above"), 0.06},
	mBlur:      {say.Message{}, say.Of("icons/odd-soft"), 1},
	mOutline:   {say.Of("icons/odd-compact"), say.Of("icons/odd-lines"), 0.6},
	mWeight:    {say.Of("icons/odd-light-weight"), say.Of("icons/odd-heavy"), 0.04},
	mDots:      {say.Of("icons/odd-coarse"), say.Of("icons/odd-fine"), 0.05},
	mVector:    {say.Of("icons/odd-bitmap"), say.Of("icons/odd-drawing"), 0.5},
	mNative:    {say.Of("icons/odd-small"), say.Of("icons/odd-large"), 0.9},
	mRamps:     {say.Of("icons/odd-no-ramps"), say.Of("icons/odd-ramps"), 0.2},
	mStrokes:   {say.Of("icons/odd-no-strokes"), say.Of("icons/odd-strokes"), 0.2},
	features:   {say.Message{}, say.Of("icons/odd-colours"), 1.5},
	mChromaVar: {say.Message{}, say.Of("icons/odd-uneven-colour"), 0.04},
}

// maxReasons is how many reasons are told.
const maxReasons = 3

// reasons are the measures by which a look differs most from the others for who sees it, in words,
// with where it is and where half of the others are. surprise is how unusual its colours are.
func reasons(l Look, surprise float64, row []float64, spreads []spread) (out []say.Message) {
	value := func(j int) float64 {
		if j == features {
			return surprise
		}
		return l.F[j]
	}
	seen := func(j int) float64 { return math.Abs(value(j)-spreads[j].middle) / inWords[j].least }
	order := make([]int, 0, len(inWords))
	for j := range inWords {
		order = append(order, j)
	}
	slices.SortFunc(order, func(a, b int) int {
		return cmp.Or(cmp.Compare(seen(b), seen(a)), a-b)
	})
	for _, j := range order {
		words := inWords[j].more
		if row[j] < 0 {
			words = inWords[j].less
		}
		if words.Code == "" || math.Abs(row[j]) < 1 || seen(j) < 1 {
			continue
		}
		s := spreads[j]
		if j == features {
			out = append(out, words)
		} else {
			out = append(out, say.Of("icons/odd", words, figure(l.F[j]), figure(s.low), figure(s.high)))
		}
		if len(out) == maxReasons {
			break
		}
	}
	return out
}

// figure is a measure with two digits after the point.
func figure(x float64) string { return fmt.Sprintf("%.2f", x) }
