package parcel

import (
	_ "embed"
	"ivelt/core/table"
	"regexp"
	"slices"
	"strings"
)

//go:embed variants.csv
var variantsCSV string

// variantWords are the words by which makers tell variants apart. Common
// practice, no source.
var variantWords = table.Of(variantsCSV)

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

// minShared is how many pieces make a word that their names begin with a family's.
const minShared = 3

var camel = regexp.MustCompile(`^\p{Lu}\p{Ll}{3,}`)

// ownWord is the word that a name in one begins with, "Murk" of "MurkAzure" and of
// "Murk-Azure".
func ownWord(folder string) string { return camel.FindString(folder) }

// tellVariants marks the pieces of one kind that are variants of each other.
// What differs is named by the words of the table, or else by what a name has
// that the family's name does not.
func tellVariants(pieces []Piece) {
	byFamily, names, begin := map[string][]int{}, map[string]bool{}, map[string]int{}
	key := func(kind Kind, name string) string { return string(kind) + "\x00" + strings.ToLower(name) }
	for _, p := range pieces {
		names[key(p.Kind, p.Folder)] = true
		begin[key(p.Kind, ownWord(p.Folder))]++
	}
	families, size := make([]string, len(pieces)), map[string]int{}
	for i, p := range pieces {
		family, _ := splitVariant(p.Folder)
		for at, r := range p.Folder { // a longer name is a variant of the one it starts with
			if r == '-' && names[key(p.Kind, p.Folder[:at])] {
				family, _ = splitVariant(p.Folder[:at])
				break
			}
		}
		families[i] = family
		size[key(p.Kind, family)]++
	}
	for i, p := range pieces {
		family := families[i]
		if word := ownWord(p.Folder); word != "" && size[key(p.Kind, family)] == 1 && begin[key(p.Kind, word)] >= minShared {
			family = word // a maker who writes words as one
		}
		byFamily[key(p.Kind, family)] = append(byFamily[key(p.Kind, family)], i)
	}
	for k, list := range byFamily {
		if len(list) < 2 {
			continue
		}
		base := strings.SplitN(k, "\x00", 2)[1]
		for _, i := range list {
			pieces[i].Family, pieces[i].Variant = base, strings.Join(variantOf(pieces[i].Folder, base), ", ")
		}
	}
}

// variantOf are the words by which a name differs from its family's.
func variantOf(folder, base string) []string {
	family, words := splitVariant(folder)
	low := strings.ToLower(family)
	if !strings.HasPrefix(low, base) {
		return slices.Compact(words)
	}
	var extra []string
	for _, w := range together.FindAllString(family[len(base):], -1) {
		if meaning, ok := variantWords[strings.ToLower(w)]; ok {
			w = meaning
		}
		extra = append(extra, strings.ToLower(w))
	}
	return slices.Compact(append(extra, words...))
}

// together are the words of a name that has them in one, and what it has by itself.
var together = regexp.MustCompile(`\p{Lu}+\p{Ll}*|\p{Ll}+|\d+`)
