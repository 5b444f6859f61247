// Package tomlfile reads the small TOML files that people hand each other, outfits and
// descriptors. One that has more of anything than such files have is refused before it is
// read: the work of reading a table grows with the square of its keys.
package tomlfile

import (
	"bytes"
	"errors"
	"fmt"
	"strings"

	"github.com/pelletier/go-toml/v2"
)

// What a file may have at most. The largest that ship with Ivelt have a tenth of it.
const (
	MaxBytes = 256 << 10
	maxKeys  = 8000 // and words of dotted ones, and tables
)

// ErrTooMuch: a file has more than such files have.
var ErrTooMuch = errors.New("it is larger than such files are")

// Unknown is a key that what is read into has no place for.
type Unknown struct {
	Line int
	Key  string
}

func (u *Unknown) Error() string { return fmt.Sprintf("line %d: %s is not known", u.Line, u.Key) }

// Decode reads a file into a value. A key that the value has no place for is passed over.
// Errors begin with the line, where one is known.
func Decode(b []byte, into any) error { return decode(b, into, false) }

// Strict is [Decode], but that such a key is an [Unknown].
func Strict(b []byte, into any) error { return decode(b, into, true) }

func decode(b []byte, into any, strict bool) error {
	if len(b) > MaxBytes {
		return fmt.Errorf("%w: more than %d kB", ErrTooMuch, MaxBytes>>10)
	}
	if bytes.Count(b, []byte("="))+bytes.Count(b, []byte("."))+bytes.Count(b, []byte("[")) > maxKeys {
		return fmt.Errorf("%w: more than %d keys and tables", ErrTooMuch, maxKeys)
	}
	in := toml.NewDecoder(bytes.NewReader(b))
	if strict {
		in.DisallowUnknownFields()
	}
	err := in.Decode(into)
	var unknown *toml.StrictMissingError
	if errors.As(err, &unknown) && len(unknown.Errors) > 0 {
		first := unknown.Errors[0]
		line, _ := first.Position()
		return &Unknown{line, strings.Join(first.Key(), ".")}
	}
	var wrong *toml.DecodeError
	if errors.As(err, &wrong) {
		line, _ := wrong.Position()
		return fmt.Errorf("line %d: %w", line, err)
	}
	return err
}
