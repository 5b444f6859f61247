package parcel

import (
	_ "embed"
	"encoding/csv"
	"fmt"
	"strings"
)

// Level is how much a note matters.
type Level string

const (
	Info    Level = "info"
	Warning Level = "warning"
	Error   Level = "error"
)

// Note is something to know about a parcel or a piece.
type Note struct {
	Level Level  `json:"level"`
	Code  string `json:"code"`
	Text  string `json:"text"`
}

//go:embed codes.csv
var codesCSV string

var codes = readCodes()

type code struct {
	level Level
	text  string
}

func readCodes() map[string]code {
	rows, err := csv.NewReader(strings.NewReader(codesCSV)).ReadAll()
	if err != nil {
		panic(err)
	}
	out := map[string]code{}
	for _, row := range rows[1:] {
		out[row[0]] = code{Level(row[1]), row[2]}
	}
	return out
}

// note fills in the text of a code of codes.csv; an unknown code is a
// programmer's error.
func note(name string, args ...any) Note {
	c, ok := codes[name]
	if !ok {
		panic("unknown note code " + name)
	}
	return Note{c.level, name, fmt.Sprintf(c.text, args...)}
}

// Warns is the code of what a parcel's market says of its risk.
const Warns = "maker-warns"

// MakerWarns is the note of a parcel whose market says why it may do harm.
func MakerWarns(why string) Note { return note(Warns, why) }
