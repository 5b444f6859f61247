// Package svgraster draws SVG into pixels: what icons, pictures of themes and Ivelt's
// own pictures have of it (SVG 1.1, and what SVG 2, CSS Masking 1, Compositing and
// Blending 1 and Filter Effects 1 changed). There is no text in it and no script, and
// nothing is loaded: a drawing has only what is written in it.
//
// Work, memory and depth are bounded, and it ends once nobody waits for it.
package svgraster

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
)

// ErrDrawing: the bytes are no drawing.
var ErrDrawing = errors.New("this is no SVG")

// ErrCostly: it would take too much to draw.
var ErrCostly = errors.New("it would take too much to draw")

const (
	maxElements = 200_000
	maxDepth    = 256
)

// element is one of a drawing.
type element struct {
	name  string
	attrs map[string]string
	kids  []*element
	above *element
	text  string // of style
	rules map[string]said
}

// document is a drawing that was read.
type document struct {
	root  *element
	ids   map[string]*element
	sheet []cssRule
}

func parse(ended func() error, raw []byte) (*document, error) {
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.CharsetReader = func(_ string, r io.Reader) (io.Reader, error) { return r, nil }
	d.Strict = false
	d.Entity = map[string]string{}
	doc := &document{ids: map[string]*element{}}
	var at *element
	count, depth := 0, 0
	for {
		t, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("%w: %w", ErrDrawing, err)
		}
		switch t := t.(type) {
		case xml.Directive:
			entities(string(t), d.Entity)
		case xml.StartElement:
			if count, depth = count+1, depth+1; count > maxElements || depth > maxDepth {
				return nil, ErrCostly
			}
			if count%1024 == 0 {
				if err := ended(); err != nil {
					return nil, err
				}
			}
			e := &element{name: t.Name.Local, attrs: make(map[string]string, len(t.Attr)), above: at}
			for _, a := range t.Attr {
				e.attrs[a.Name.Local] = a.Value
			}
			if id := e.attrs["id"]; id != "" && doc.ids[id] == nil {
				doc.ids[id] = e
			}
			if at == nil {
				if doc.root != nil {
					return nil, fmt.Errorf("%w: it has two roots", ErrDrawing)
				}
				doc.root = e
			} else {
				at.kids = append(at.kids, e)
			}
			at = e
		case xml.EndElement:
			if at == nil {
				return nil, fmt.Errorf("%w: it ends what it did not begin", ErrDrawing)
			}
			at, depth = at.above, depth-1
		case xml.CharData:
			if at != nil && at.name == "style" {
				at.text += string(t)
			}
		}
	}
	if doc.root == nil || doc.root.name != "svg" {
		return nil, ErrDrawing
	}
	doc.sheets(doc.root)
	return doc, nil
}

// entities takes the words that a drawing defines.
func entities(directive string, into map[string]string) {
	for {
		_, rest, ok := strings.Cut(directive, "<!ENTITY ")
		if !ok {
			return
		}
		f := strings.Fields(rest)
		if len(f) >= 2 {
			_, value, _ := strings.Cut(rest, f[0])
			value = strings.TrimSpace(value)
			if value != "" && (value[0] == '"' || value[0] == '\'') {
				if end := strings.IndexByte(value[1:], value[0]); end >= 0 && !strings.ContainsAny(value[1:1+end], "&%") {
					into[f[0]] = value[1 : 1+end]
				}
			}
		}
		directive = rest
	}
}

// size is the size that a drawing has of itself, px; that of its view if it says none, 0
// if neither.
func (doc *document) size() (w, h float64) {
	_, _, vw, vh, view := viewBox(doc.root.attrs["viewBox"])
	of := func(s string, share float64) float64 {
		if s == "" || strings.HasSuffix(s, "%") {
			return share
		}
		return length(s, 0, 0)
	}
	if !view {
		vw, vh = 0, 0
	}
	return of(doc.root.attrs["width"], vw), of(doc.root.attrs["height"], vh)
}

func viewBox(s string) (x, y, w, h float64, ok bool) {
	n := numbers(s)
	if len(n) != 4 || n[2] <= 0 || n[3] <= 0 {
		return 0, 0, 0, 0, false
	}
	return n[0], n[1], n[2], n[3], true
}

// number reads one, which "NaN" and "Inf" are not.
func number(s string) (float64, error) {
	v, err := strconv.ParseFloat(s, 64)
	if err == nil && (math.IsNaN(v) || math.IsInf(v, 0)) {
		err = strconv.ErrRange
	}
	if err != nil {
		return 0, err
	}
	return v, nil
}

// numbers reads a list of numbers with blanks and commas between them.
func numbers(s string) (out []float64) {
	for _, f := range strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == ',' || r == '\n' || r == '\t' || r == '\r' }) {
		v, err := number(strings.TrimSuffix(f, "px"))
		if err != nil {
			return out
		}
		out = append(out, v)
	}
	return out
}

// perUnit is how many px a unit is (CSS Values 3, section 6.2).
var perUnit = map[string]float64{"": 1, "px": 1, "pt": 96.0 / 72, "pc": 16, "in": 96, "cm": 96 / 2.54, "mm": 96 / 25.4, "em": 16, "rem": 16, "ex": 8}

// length reads one; a share is of a whole.
func length(s string, whole, usual float64) float64 {
	s = strings.TrimSpace(s)
	i := len(s)
	for i > 0 && (s[i-1] == '%' || s[i-1] >= 'a' && s[i-1] <= 'z' || s[i-1] >= 'A' && s[i-1] <= 'Z') {
		i--
	}
	v, err := number(s[:i])
	if err != nil {
		return usual
	}
	if s[i:] == "%" {
		return v / 100 * whole
	}
	k, ok := perUnit[strings.ToLower(s[i:])]
	if !ok {
		return usual
	}
	return v * k
}

// refers is the ID that url(#id) or #id names.
func refers(s string) string {
	s = strings.TrimSpace(s)
	if inside, ok := strings.CutPrefix(s, "url("); ok {
		inside, _, _ = strings.Cut(inside, ")")
		s = strings.Trim(strings.TrimSpace(inside), `"'`)
	}
	id, ok := strings.CutPrefix(s, "#")
	if !ok {
		return ""
	}
	return id
}
