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

// ErrFindings ends a command that did its work and found something amiss.
var ErrFindings = errors.New("findings")
