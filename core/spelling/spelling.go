// Package spelling finds the name that was probably meant.
package spelling

import (
	"iter"
	"unicode/utf8"
)

// maxCompared is how long a name may be that is compared with others, in letters.
const maxCompared = 120

// Nearest is the name that is written most like another, "" if none is like it: if more than
// half of its letters would have to change. Of equally near ones it is the first in the
// alphabet.
func Nearest(name string, others iter.Seq[string]) string {
	best, least := "", 1+utf8.RuneCountInString(name)/2
	for other := range others {
		if d := Distance(name, other, least); d < least || d == least && best != "" && other < best {
			best, least = other, d
		}
	}
	return best
}

// Distance is how many letters have to be put in, taken out or changed so that one word
// becomes another (V. I. Levenshtein, 1966), or more than most if it is more than that.
func Distance(a, b string, most int) int {
	x, y := []rune(a), []rune(b)
	if len(x) > maxCompared || len(y) > maxCompared || max(len(x)-len(y), len(y)-len(x)) > most {
		return most + 1
	}
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i, r := range x {
		before := row[0]
		row[0] = i + 1
		for j, s := range y {
			change := before
			if r != s {
				change++
			}
			before = row[j+1]
			row[j+1] = min(change, row[j]+1, row[j+1]+1)
		}
	}
	return row[len(y)]
}
