package fontconf

import (
	_ "embed"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"
)

// What each language needs to be written, after fontconfig's own orthographies (fontconfig 2.14.1,
// fc-lang, licence MIT; what FcLangGetCharSet tells): a language a line, and ranges of letters.
//
//go:embed letters.csv
var lettersCSV string

var letters = sync.OnceValue(func() map[string][]rune {
	out := map[string][]rune{}
	for line := range strings.Lines(lettersCSV) {
		name, ranges, _ := strings.Cut(strings.TrimSpace(line), ",")
		for text := range strings.FieldsSeq(ranges) {
			first, last, several := strings.Cut(text, "-")
			from, err := strconv.ParseInt(first, 16, 32)
			to := from
			if err == nil && several {
				to, err = strconv.ParseInt(last, 16, 32)
			}
			if err != nil {
				panic(fmt.Sprintf("%s: %v", name, err)) // it is a part of the program
			}
			for r := from; r <= to; r++ {
				out[name] = append(out[name], rune(r))
			}
		}
	}
	return out
})

var languages = sync.OnceValue(func() []string { return slices.Sorted(maps.Keys(letters())) })

// Languages are those whose letters are known, by their names as fontconfig has them, sorted.
func Languages() []string { return languages() }

// Letters are those that a language needs, in order; none for a language that is not known.
func Letters(language string) []rune { return letters()[language] }

// LanguageOf is the language of a locale, "de_AT.UTF-8", as [Letters] names it; "" if it is none,
// or not known.
func LanguageOf(locale string) string {
	locale, _, _ = strings.Cut(locale, ".")
	locale, variant, _ := strings.Cut(locale, "@")
	name := strings.ToLower(strings.ReplaceAll(locale, "_", "-"))
	if name == "c" || name == "posix" {
		return "en"
	}
	plain, _, _ := strings.Cut(name, "-")
	for _, try := range []string{name, plain + "-" + strings.ToLower(variant), plain} {
		if _, ok := letters()[try]; ok {
			return try
		}
	}
	return ""
}
