// Package synonym knows which words people type for the same thing: the trade's, Ivelt's own
// and those of other desks.
package synonym

import (
	_ "embed"
	"encoding/csv"
	"slices"
	"strings"
)

// A line for each thing, its usual name first (common practice, no source).
//
//go:embed english.csv
var english string

var things = func() [][]string {
	r := csv.NewReader(strings.NewReader(english))
	r.FieldsPerRecord = -1
	all, err := r.ReadAll()
	if err != nil {
		panic(err) // it ships with the program
	}
	return all
}()

// enough is how many letters a word has to have to stand for those it begins.
const enough = 4

// Of returns the other words for what a word, or the first letters of one, in lower case,
// stands for.
func Of(word string) (out []string) {
	for _, thing := range things {
		if !slices.ContainsFunc(thing, func(t string) bool { return t == word || len(word) >= enough && strings.HasPrefix(t, word) }) {
			continue
		}
		for _, t := range thing {
			if !strings.HasPrefix(t, word) && !slices.Contains(out, t) {
				out = append(out, t)
			}
		}
	}
	return out
}
