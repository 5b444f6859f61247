package parcel

import (
	_ "embed"
	"ivelt/core/say"
	"ivelt/core/table"
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

	Says say.Message `json:"says,omitzero"` // what the text says
}

// Message is what the note says; of one that an older Ivelt wrote down, its text.
func (n Note) Message() say.Message {
	if n.Says.Code == "" {
		return say.Words(n.Text)
	}
	return n.Says
}

//go:embed codes.csv
var codesCSV string

// levels are how much the notes of each code matter; what they say is in package say.
var levels = table.Of(codesCSV)

// note is a note of a code of codes.csv; an unknown code is a programmer's error.
func note(name string, args ...any) Note {
	level, ok := levels[name]
	if !ok {
		panic("unknown note code " + name)
	}
	says := say.Of("parcel/"+name, args...)
	return Note{Level(level), name, says.String(), says}
}

// Warns is the code of what a parcel's market says of its risk.
const Warns = "maker-warns"

// MakerWarns is the note of a parcel whose market says why it may do harm.
func MakerWarns(why string) Note { return note(Warns, why) }

// LicenceDiffers is the note of a piece whose own files tell another licence than its
// market does.
func LicenceDiffers(own, told string) Note { return note("licence-differs", own, told) }
