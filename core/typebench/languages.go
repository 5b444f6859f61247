package typebench

import (
	"cmp"
	_ "embed"
	"strings"
	"sync"
)

// A table of English names is 5 kB; a library that has them has those of all other languages too.
//
//go:embed languages.csv
var languagesCSV string

var titles = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	for line := range strings.Lines(languagesCSV) {
		name, title, _ := strings.Cut(strings.TrimSpace(line), ",")
		out[name] = title
	}
	return out
})

// LanguageTitle is what a language that fontconfig names is called in English.
func LanguageTitle(name string) string { return cmp.Or(titles()[name], name) }
