package parcel

import (
	_ "embed"
	"encoding/csv"
	"regexp"
	"slices"
	"strings"
)

//go:embed variants.csv
var variantsCSV string

// variantWords are the words by which makers tell variants apart. Common
// practice, no source.
var variantWords = func() map[string]string {
	rows, err := csv.NewReader(strings.NewReader(variantsCSV)).ReadAll()
	if err != nil {
		panic(err)
	}
	out := map[string]string{}
	for _, r := range rows[1:] {
		out[r[0]] = r[1]
	}
	return out
}()

var wordBreak = regexp.MustCompile(`[-_ .]+|(?:\b|_)(?:v?\d+(?:\.\d+)+)`)

// splitVariant takes the words that name a variant out of a folder's name.
func splitVariant(folder string) (family string, variant []string) {
	var rest []string
	for _, w := range wordBreak.Split(folder, -1) {
		if meaning, ok := variantWords[strings.ToLower(w)]; ok && len(rest) > 0 {
			variant = append(variant, meaning)
		} else if w != "" {
			rest = append(rest, w)
		}
	}
	return strings.Join(rest, "-"), variant
}

// tellVariants marks the pieces of one kind that are variants of each other.
// What differs is named by the words of the table, or else by what a name has
// that the family's name does not.
func tellVariants(pieces []Piece) {
	byFamily, names := map[string][]int{}, map[string]int{}
	for i, p := range pieces {
		names[string(p.Kind)+" "+p.Folder] = i
	}
	for i, p := range pieces {
		family, _ := splitVariant(p.Folder)
		last := -1
		for at, r := range p.Folder { // a longer name is a variant of the one it starts with
			if j, ok := names[string(p.Kind)+" "+p.Folder[:at]]; ok && r == '-' && j > last {
				last = j
				family, _ = splitVariant(p.Folder[:at])
			}
		}
		key := string(p.Kind) + "\x00" + strings.ToLower(family)
		byFamily[key] = append(byFamily[key], i)
	}
	for key, list := range byFamily {
		if len(list) < 2 {
			continue
		}
		base := strings.SplitN(key, "\x00", 2)[1]
		for _, i := range list {
			family, words := splitVariant(pieces[i].Folder)
			if extra := strings.TrimLeft(strings.TrimPrefix(strings.ToLower(family), base), "-"); extra != "" && strings.HasPrefix(strings.ToLower(family), base) {
				words = append([]string{extra}, words...)
			}
			pieces[i].Family, pieces[i].Variant = base, strings.Join(slices.Compact(words), ", ")
		}
	}
}
