// Package table reads the small tables that ship inside the program.
package table

import (
	"encoding/csv"
	"fmt"
	"strings"
)

// Of reads comma-separated lines of two fields, the first of them a heading: what the
// second says, by the first. It panics at a text that is no such table, or that has a key
// twice, as the text is part of the program.
func Of(text string) map[string]string {
	read := csv.NewReader(strings.NewReader(text))
	read.FieldsPerRecord = 2
	rows, err := read.ReadAll()
	if err != nil {
		panic(err)
	}
	out := make(map[string]string, len(rows))
	for _, row := range rows[1:] {
		if _, twice := out[row[0]]; twice {
			panic(fmt.Sprintf("%q stands twice in a table", row[0]))
		}
		out[row[0]] = row[1]
	}
	return out
}

// Rows are the lines of a table of so many fields without the heading. It panics at a text that is
// no such table.
func Rows(text string, fields int) [][]string {
	read := csv.NewReader(strings.NewReader(text))
	read.FieldsPerRecord = fields
	rows, err := read.ReadAll()
	if err != nil {
		panic(err)
	}
	return rows[1:]
}
