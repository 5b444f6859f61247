package iconbench

import (
	_ "embed"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"

	"ivelt/core/say"
)

// Oddness is how little an icon looks like the others of its pack.
type Oddness struct {
	// Score orders icons: the higher, the less it is like the others, and the more like the icons
	// of any other pack.
	Score   float64       `json:"score"`
	Odd     bool          `json:"odd"` // it is more like any other pack's than like this one's
	Reasons []say.Message `json:"-"`
	Why     []string      `json:"why,omitempty"` // the measures that are furthest from the others', in words
}

// LeastLooks is how many icons it takes to tell what is usual among them.
const LeastLooks = 60

// measures are those of a look, and how usual its colours are in its pack.
const measures = features + 1

// The icons of the world are some hundred looks of fifteen packs, sixty of each by chance, as
// reference/world.go of the truth tests writes them: of each its measures in thousandths, then the
// colours that it has most of.
//
//go:embed world.csv
var worldCSV string

var world = sync.OnceValue(func() (out []Look) {
	for line := range strings.Lines(worldCSV) {
		l, err := parseRow(strings.TrimSpace(line))
		if err != nil {
			panic(err) // it is part of the program
		}
		out = append(out, l)
	}
	return out
})

// mostColours is how many colours of a look are written down.
const mostColours = 10

// Row is a look as a line of the table of the world's.
func (l Look) Row() string {
	var b strings.Builder
	for i, x := range l.F {
		if i > 0 {
			b.WriteByte(',')
		}
		fmt.Fprint(&b, math.Round(1000*x))
	}
	keys := make([]uint16, 0, len(l.Hist))
	for key := range l.Hist {
		keys = append(keys, key)
	}
	slices.SortFunc(keys, func(a, b uint16) int {
		if l.Hist[a] != l.Hist[b] {
			return map[bool]int{true: -1, false: 1}[l.Hist[a] > l.Hist[b]]
		}
		return int(a) - int(b)
	})
	for _, key := range keys[:min(len(keys), mostColours)] {
		fmt.Fprintf(&b, ",%d:%.0f", key, 1000*l.Hist[key])
	}
	return b.String()
}

func parseRow(line string) (l Look, err error) {
	l.Hist = map[uint16]float64{}
	for i, text := range strings.Split(line, ",") {
		if i < features {
			n, err := strconv.Atoi(text)
			if err != nil {
				return l, err
			}
			l.F[i] = float64(n) / 1000
			continue
		}
		var key uint16
		var part float64
		if _, err := fmt.Sscanf(text, "%d:%f", &key, &part); err != nil {
			return l, say.Errorf("%q is no part of a colour: %w", text, err)
		}
		l.Hist[key] = part / 1000
	}
	return l, nil
}

// spread is how a measure varies among the icons of a pack.
type spread struct{ middle, low, high, width float64 }

// far is how far a value is from the middle, in widths.
func (s spread) far(x float64) float64 { return (x - s.middle) / s.width }

// Odd tells which of some looks are not like the others. None is, if they are fewer than
// [LeastLooks].
//
// Four answers are put together, the third five times as heavy and the last ten times: how much
// likelier a look is among those of the world than among those of the pack, both taken as normally
// distributed; how a line between pack and world that fits best (logistic regression) parts them; how
// unlikely it is in the pack; and how trees part them, see parts. All are fitted again without what
// they find odd.
func Odd(looks []Look) []Oddness {
	out := make([]Oddness, len(looks))
	if len(looks) < LeastLooks {
		return out
	}
	own, others, surprises, spreads := rows(looks, world())
	likely, alone := likelier(own, others)
	line := parted(own, others)
	a, b, c := inWidths(likely), inWidths(line), inWidths(alone)
	together := func(trees []float64) []float64 {
		sum := make([]float64, len(looks))
		for i := range sum {
			sum[i] = a[i] + b[i] + 5*c[i] + 10*trees[i]
		}
		return sum
	}
	first := together(inWidths(parts(own, others, nil)))
	scores := together(inWidths(parts(own, others, above(first, 20))))
	for i := range out {
		out[i].Score = scores[i]
		if out[i].Score <= leastScore {
			continue
		}
		out[i].Reasons = reasons(looks[i], surprises[i], own[i], spreads)
		for _, r := range out[i].Reasons {
			out[i].Why = append(out[i].Why, r.String())
		}
		out[i].Odd = len(out[i].Reasons) > 0 // nobody sees what cannot be said
	}
	return out
}

// leastWidth is what a measure varies by at least.
const leastWidth = 0.005

// leastScore is how odd an icon is at least that is told of: few of those that are told shall be
// wrong. How many are is measured on real packs, see docs/bench.md.
const leastScore = 45.0

// rows are the measures of a pack's looks and of others in the pack's widths, far ones drawn near,
// and how unusual the colours of the pack's looks are.
func rows(looks, others []Look) (own, rest [][]float64, surprises []float64, spreads []spread) {
	hist := map[uint16]float64{}
	for _, l := range looks {
		for key, part := range l.Hist {
			hist[key] += part
		}
	}
	row := func(l Look, in bool) []float64 {
		surprise := 0.0
		for key, part := range l.Hist {
			has := hist[key]
			if in {
				has -= part
			}
			surprise -= part * math.Log((has+0.02)/float64(len(looks)))
		}
		return append(slices.Clone(l.F[:]), surprise)
	}
	for _, l := range looks {
		of := row(l, true)
		own, surprises = append(own, of), append(surprises, of[features])
	}
	for _, l := range others {
		rest = append(rest, row(l, false))
	}
	centre(looks, own)
	col := make([]float64, len(own))
	for j := range measures {
		for i := range own {
			col[i] = own[i][j]
		}
		slices.Sort(col)
		at := func(part int) float64 { return col[len(col)*part/100] }
		// A normal distribution has half of it within 1.349 and nine tenths within 3.29 of its
		// standard deviations.
		s := spread{at(50), at(25), at(75), max((at(75)-at(25))/1.349, (at(95)-at(5))/3.29/2, leastWidth)}
		spreads = append(spreads, s)
		for _, of := range [][][]float64{own, rest} {
			for i := range of {
				of[i][j] = 4 * math.Tanh(s.far(of[i][j])/4)
			}
		}
	}
	return own, rest, surprises, spreads
}

// leastKind is how many icons of a kind it takes to tell what is usual among them.
const leastKind = 25

// centre takes from the measures of each kind of icon what parts its middle from that of all: that
// folders are broader than programs shall not count against the programs.
func centre(looks []Look, of [][]float64) {
	kinds := map[string][]int{}
	for i, l := range looks {
		kinds[l.Kind] = append(kinds[l.Kind], i)
	}
	for j := range measures {
		all := make([]float64, len(of))
		for i := range of {
			all[i] = of[i][j]
		}
		middle := median(all)
		for _, members := range kinds {
			if len(members) < leastKind {
				continue
			}
			col := make([]float64, len(members))
			for i, at := range members {
				col[i] = of[at][j]
			}
			apart := median(col) - middle
			for _, at := range members {
				of[at][j] -= apart
			}
		}
	}
}

func median(of []float64) float64 {
	slices.Sort(of)
	return of[len(of)/2]
}

// above tells which rows have the highest scores, by the part of them in percent.
func above(scores []float64, percent int) []bool {
	sorted := slices.Sorted(slices.Values(scores))
	most := sorted[min(len(sorted)*(100-percent)/100, len(sorted)-1)]
	out := make([]bool, len(scores))
	for i, score := range scores {
		out[i] = score > most
	}
	return out
}

// without are the rows but for the part of them, in percent, with the highest scores.
func without(rows [][]float64, scores []float64, percent int) (out [][]float64) {
	for i, high := range above(scores, percent) {
		if !high {
			out = append(out, rows[i])
		}
	}
	return out
}

func likelier(pack, others [][]float64) (out, alone []float64) {
	rest := fit(others)
	in := make([]float64, len(pack))
	for i, row := range pack {
		in[i] = rest.unlikely(row)
	}
	out, alone = make([]float64, len(pack)), make([]float64, len(pack))
	of := pack
	for range 4 {
		own := fit(of)
		for i, row := range pack {
			alone[i] = own.unlikely(row)
			out[i] = alone[i] - in[i]
		}
		of = without(pack, out, 10)
	}
	return out, alone
}

// How the line is found: steps down the slope of the loss, with a little weight decay.
const (
	steps = 250
	rate  = 0.3
	decay = 0.002
)

func parted(pack, others [][]float64) []float64 {
	line := make([]float64, measures+1)
	out := make([]float64, len(pack))
	of := pack
	value := func(row []float64) float64 {
		z := line[measures]
		for j, x := range row {
			z += line[j] * x
		}
		return z
	}
	slope := make([]float64, len(line))
	add := func(rows [][]float64, wanted float64) {
		for _, row := range rows {
			e := (1/(1+math.Exp(-value(row))) - wanted) / float64(len(rows))
			for j, x := range row {
				slope[j] += e * x
			}
			slope[measures] += e
		}
	}
	for range 3 {
		for range steps {
			clear(slope)
			add(of, 0)
			add(others, 1)
			for j := range line {
				if j < measures {
					slope[j] += decay * line[j]
				}
				line[j] -= rate * slope[j]
			}
		}
		for i, row := range pack {
			out[i] = value(row)
		}
		of = without(pack, out, 7)
	}
	return out
}

// inWidths are scores by how far they are from their middle.
func inWidths(scores []float64) []float64 {
	sorted := slices.Sorted(slices.Values(scores))
	n := len(sorted)
	s := spread{middle: sorted[n/2], width: max((sorted[n*3/4]-sorted[n/4])/1.349, 1e-6)}
	out := make([]float64, n)
	for i, x := range scores {
		out[i] = s.far(x)
	}
	return out
}
