package say

import (
	"errors"
	"fmt"
	"strings"
)

// Errorf is [fmt.Errorf] for an error that people read: it can be said in another language, with
// what it wraps.
func Errorf(format string, args ...any) error {
	return &fault{fmt.Errorf(format, args...), format, args}
}

// fault is an error with what it was made from.
type fault struct {
	error
	format string
	args   []any
}

func (f *fault) Unwrap() error { return f.error }

// Fault is an error as a message. One that others made is said as it is, unless its text is in the
// table of words.
func Fault(err error) Message {
	switch e := err.(type) {
	case nil:
		return Message{}
	case interface{ Says() Message }:
		return e.Says()
	case *fault:
		args := []any{FaultText(e.format)}
		for _, a := range e.args {
			if inner, ok := a.(error); ok {
				a = Fault(inner)
			} else if w, ok := a.(Word); ok {
				a = w.Message()
			}
			args = append(args, a)
		}
		return Message{"line", args}
	case interface{ Unwrap() []error }:
		if all := e.Unwrap(); err.Error() == errors.Join(all...).Error() {
			args := []any{strings.TrimSuffix(strings.Repeat("%s ", len(all)), " ")}
			for _, inner := range all {
				args = append(args, Fault(inner))
			}
			return Message{"line", args}
		}
	}
	return Word(err.Error()).Message()
}

// FaultText is the format of an error as translators see it.
func FaultText(format string) string { return strings.ReplaceAll(format, "%w", "%s") }
