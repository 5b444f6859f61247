package iconbench

import (
	"math"
	"math/rand/v2"
	"slices"
)

// How the trees of a forest grow: how many, how deep, into how many steps a measure is sorted, how
// many measures are tried for a cut, and how few rows a leaf has.
const (
	trees     = 120
	deepest   = 9
	strides   = 24
	tried     = 7
	leastLeaf = 3
)

// forest are the rows of a pack, and behind them those of others.
type forest struct {
	pack   int       // rows of the pack
	steps  [][]uint8 // of each measure the step of each row
	weight [2]float64
	chance *rand.Rand
	sums   []float64 // of what trees say of rows of the pack
	times  []float64
}

// parts tells how trees that part a pack from others (random forests, Breiman 2001) take each row of
// the pack: the logarithm of how much likelier it is one of the others. A row is asked of the trees
// that grew without it, the pack counts as much as the others, and none grows with what is in doubt,
// which is nil for nothing.
func parts(pack, others [][]float64, doubt []bool) []float64 {
	n := len(pack)
	f := &forest{
		pack: n, steps: sorted(append(slices.Clone(pack), others...)), weight: [2]float64{1 / float64(n), 1 / float64(len(others))},
		chance: rand.New(rand.NewPCG(uint64(n), uint64(len(others)))), sums: make([]float64, n), times: make([]float64, n),
	}
	for range trees {
		in := make([]bool, n)
		var grown, asked []int
		for range n {
			if i := f.chance.IntN(n); doubt == nil || !doubt[i] {
				in[i] = true
				grown = append(grown, i)
			}
		}
		for range others {
			grown = append(grown, n+f.chance.IntN(len(others)))
		}
		for i, has := range in {
			if !has {
				asked = append(asked, i)
			}
		}
		f.grow(grown, asked, 0)
	}
	out := make([]float64, n)
	for i := range out {
		p := min(max(f.sums[i]/max(f.times[i], 1), 0.005), 0.995)
		out[i] = math.Log(p / (1 - p))
	}
	return out
}

// sorted sorts each measure of rows into steps with as many rows in each.
func sorted(rows [][]float64) [][]uint8 {
	out := make([][]uint8, measures)
	values := make([]float64, len(rows))
	for j := range out {
		for i, row := range rows {
			values[i] = row[j]
		}
		in := slices.Sorted(slices.Values(values))
		var cuts [strides - 1]float64
		for k := range cuts {
			cuts[k] = in[(k+1)*len(rows)/strides]
		}
		out[j] = make([]uint8, len(rows))
		for i, v := range values {
			k, _ := slices.BinarySearch(cuts[:], v)
			out[j][i] = uint8(k)
		}
	}
	return out
}

// kind is 0 for a row of the pack, and 1 for one of the others.
func (f *forest) kind(row int) int {
	if row >= f.pack {
		return 1
	}
	return 0
}

// grow parts the rows that a tree grows with, and asks for those that are asked, until they are of a
// kind.
func (f *forest) grow(grown, asked []int, deep int) {
	if len(asked) == 0 {
		return
	}
	var weights [2]float64
	for _, i := range grown {
		weights[f.kind(i)] += f.weight[f.kind(i)]
	}
	j, cut := -1, uint8(0)
	if deep < deepest && weights[0] > 0 && weights[1] > 0 {
		j, cut = f.cut(grown, weights)
	}
	if j < 0 {
		p := (weights[1] + 1e-3) / (weights[0] + weights[1] + 2e-3)
		for _, i := range asked {
			f.sums[i], f.times[i] = f.sums[i]+p, f.times[i]+1
		}
		return
	}
	half := func(of []int) (low, high []int) {
		for _, i := range of {
			if f.steps[j][i] <= cut {
				low = append(low, i)
			} else {
				high = append(high, i)
			}
		}
		return low, high
	}
	lowGrown, highGrown := half(grown)
	lowAsked, highAsked := half(asked)
	f.grow(lowGrown, lowAsked, deep+1)
	f.grow(highGrown, highAsked, deep+1)
}

// cut is the cut of some of the measures that parts best, by Gini's measure; -1 if none does.
func (f *forest) cut(grown []int, weights [2]float64) (at int, cut uint8) {
	at = -1
	gini := func(a, b float64) float64 {
		if a+b == 0 {
			return 0
		}
		return 2 * a * b / (a + b)
	}
	least := gini(weights[0], weights[1]) - 1e-9
	for range tried {
		j := f.chance.IntN(len(f.steps))
		var counts [strides][2]float64
		var many [strides]int
		for _, i := range grown {
			k := f.steps[j][i]
			counts[k][f.kind(i)] += f.weight[f.kind(i)]
			many[k]++
		}
		var low [2]float64
		below := 0
		for k := range strides - 1 {
			low[0], low[1], below = low[0]+counts[k][0], low[1]+counts[k][1], below+many[k]
			if below < leastLeaf || len(grown)-below < leastLeaf {
				continue
			}
			if g := gini(low[0], low[1]) + gini(weights[0]-low[0], weights[1]-low[1]); g < least {
				least, at, cut = g, j, uint8(k)
			}
		}
	}
	return at, cut
}
