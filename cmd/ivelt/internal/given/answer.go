package given

import (
	"encoding/json"
	"errors"
	"io"
)

// PrintJSON answers with a value, indented.
func PrintJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(v)
}

// CodeFindings is the exit status of such a command.
const CodeFindings = 1

// ErrFindings ends a command that did its work and found something amiss.
var ErrFindings = errors.New("findings")
