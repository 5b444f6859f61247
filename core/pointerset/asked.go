package pointerset

import (
	_ "embed"
	"encoding/csv"
	"slices"
	"strings"
)

// Asking is how a toolkit looks for a pointer: by one name after the other, until one is there.
type Asking struct {
	By    string   // the toolkit
	Asks  string   // what a program asks it for
	Role  string   // what that stands for
	Names []string // of files
}

// The table is what the toolkits open in a set that has nothing, on a display of X: GTK 3.24, GTK 4.8,
// Qt 5.15.
//
//go:embed asked.csv
var askedCSV string

// Asked are all, by toolkit.
var Asked = readAsked(askedCSV)

func readAsked(text string) (out []Asking) {
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil {
		panic(err) // the text is part of the program
	}
	for _, row := range rows[1:] {
		out = append(out, Asking{row[0], row[1], row[2], strings.Fields(row[3])})
	}
	return out
}

// AskedFor is how toolkits look for a role.
func (r *Role) AskedFor() (out []Asking) {
	for _, a := range Asked {
		if a.Role == r.Name {
			out = append(out, a)
		}
	}
	return out
}

// IsName reports whether programs ask for a pointer by a name: CSS's, X's or a toolkit's.
func IsName(name string) bool {
	return slices.ContainsFunc(Roles, func(r *Role) bool { return slices.Contains(r.Names, name) }) ||
		slices.ContainsFunc(Asked, func(a Asking) bool { return slices.Contains(a.Names, name) })
}
