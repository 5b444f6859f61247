package iconbench

import "math"

// normal is a normal distribution of looks.
type normal struct {
	mean  []float64
	root  [][]float64 // the lower triangle whose square is the covariance (Cholesky)
	scale float64     // half the logarithm of the covariance's determinant
}

// What a covariance is drawn towards its diagonal by, and what is added to that: measures that do
// not vary in a pack shall not decide alone. With it every covariance has a root.
const (
	shrink = 0.1
	ridge  = 0.05
)

// fit is the distribution of rows; there are at least two.
func fit(rows [][]float64) normal {
	n := normal{mean: make([]float64, measures), root: make([][]float64, measures)}
	for _, row := range rows {
		for j, x := range row {
			n.mean[j] += x / float64(len(rows))
		}
	}
	for j := range n.root {
		n.root[j] = make([]float64, j+1)
	}
	off := make([]float64, measures)
	for _, row := range rows {
		for j, x := range row {
			off[j] = x - n.mean[j]
			for k, y := range off[:j+1] {
				n.root[j][k] += off[j] * y
			}
		}
	}
	for j, line := range n.root {
		for k := range line {
			line[k] /= float64(len(rows) - 1)
			if k < j {
				line[k] *= 1 - shrink
			}
		}
		line[j] += ridge
		for k := range line {
			for m := range k {
				line[k] -= line[m] * n.root[k][m]
			}
			if k < j {
				line[k] /= n.root[k][k]
			}
		}
		line[j] = math.Sqrt(line[j])
		n.scale += math.Log(line[j])
	}
	return n
}

// unlikely is the negative logarithm of how likely a row is, but for a constant.
func (n *normal) unlikely(row []float64) float64 {
	far := make([]float64, len(row))
	square := 0.0
	for j, line := range n.root {
		far[j] = row[j] - n.mean[j]
		for k := range j {
			far[j] -= line[k] * far[k]
		}
		far[j] /= line[j]
		square += far[j] * far[j]
	}
	return square/2 + n.scale
}
