package imagefile

import (
	"bytes"
	"encoding/base64"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net/url"
	"regexp"
	"strings"
)

// What a drawing may cost whoever shows it. A drawing can name a part of itself many
// times, and that part others: a few hundred bytes are then millions of shapes
// (SVG 2, sections 5.5 and 14.3).
const (
	MaxShapes = 100_000 // shapes drawn, with all that are drawn by reference
	maxDepth  = 256     // elements in elements
	maxInside = 2       // drawings in drawings
)

// ErrCostly is the error of a picture that would cost too much to show.
var ErrCostly = errors.New("it would take too much to draw")

// Check reads a picture as far as it takes to tell that it can be shown: a PNG or JPEG by
// its size, an SVG by what is drawn with all references followed, and the pictures in it.
// An SVG that is not well-formed is refused, as a browser does.
func Check(b []byte) error { return check(func() error { return nil }, b, maxInside) }

func check(ended func() error, b []byte, inside int) error {
	switch MediaType(b) {
	case "":
		return errors.New("it is no picture")
	case "image/svg+xml":
		return checkDrawing(ended, b, inside)
	}
	_, err := affordable(b)
	return err
}

// shape is an element of a drawing, with the elements it has and refers to.
type shape struct {
	parts  []*shape
	refers []string
	cost   int // 0: not counted yet
	asked  bool
}

type drawing struct {
	ended   func() error // once nobody waits for it
	seen    int
	ids     map[string]*shape
	classes map[string][]*shape
	kinds   map[string][]*shape
	sheet   strings.Builder
}

func checkDrawing(ended func() error, b []byte, inside int) error {
	d := xml.NewDecoder(bytes.NewReader(b))
	d.CharsetReader = func(_ string, r io.Reader) (io.Reader, error) { return r, nil }
	d.Entity = map[string]string{}
	dr := drawing{ended: ended, ids: map[string]*shape{}, classes: map[string][]*shape{}, kinds: map[string][]*shape{}}
	root := &shape{}
	open := []*shape{root}
	style := false
	for {
		t, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return err
		}
		switch t := t.(type) {
		case xml.Directive:
			for _, m := range entity.FindAllSubmatch(t, -1) {
				if bytes.ContainsAny(m[2], "&%<") {
					return fmt.Errorf("%w: it defines words by words", ErrCostly)
				}
				d.Entity[string(m[1])] = string(m[2])
			}
		case xml.StartElement:
			if len(open) > maxDepth {
				return fmt.Errorf("%w: it is more than %d elements deep", ErrCostly, maxDepth)
			}
			s, err := dr.shape(t, inside)
			if err != nil {
				return err
			}
			last := open[len(open)-1]
			last.parts = append(last.parts, s)
			open = append(open, s)
			style = t.Name.Local == "style"
		case xml.EndElement:
			if len(open) == 1 {
				return errors.New("it ends what it did not begin")
			}
			open, style = open[:len(open)-1], false
		case xml.CharData:
			if style {
				dr.sheet.Write(t)
			}
		}
	}
	dr.dress()
	if n := dr.count(root, 0); n > MaxShapes {
		return fmt.Errorf("%w: it draws more than %d shapes", ErrCostly, MaxShapes)
	}
	return nil
}

// shape notes what one element refers to, and looks into the pictures it holds.
func (dr *drawing) shape(t xml.StartElement, inside int) (*shape, error) {
	if dr.seen++; dr.seen%1024 == 0 {
		if err := dr.ended(); err != nil {
			return nil, err
		}
	}
	s := &shape{}
	dr.kinds[t.Name.Local] = append(dr.kinds[t.Name.Local], s)
	for _, a := range t.Attr {
		v := strings.TrimSpace(a.Value)
		switch {
		case a.Name.Local == "id":
			if dr.ids[v] == nil {
				dr.ids[v] = s
			}
		case a.Name.Local == "class":
			for _, c := range strings.Fields(v) {
				dr.classes[c] = append(dr.classes[c], s)
			}
		case a.Name.Local == "href" && strings.HasPrefix(v, "#"):
			s.refers = append(s.refers, v[1:])
		case a.Name.Local == "href" && len(v) > 5 && strings.EqualFold(v[:5], "data:"):
			if err := checkData(dr.ended, v[5:], inside); err != nil {
				return nil, err
			}
		default:
			for _, m := range refers.FindAllStringSubmatch(v, -1) {
				s.refers = append(s.refers, m[1])
			}
		}
	}
	return s, nil
}

// checkData checks a picture that is held in an address (RFC 2397).
func checkData(ended func() error, v string, inside int) error {
	head, body, _ := strings.Cut(v, ",")
	var b []byte
	if strings.HasSuffix(strings.TrimSpace(strings.ToLower(head)), ";base64") {
		clean := strings.Map(func(r rune) rune {
			if strings.ContainsRune(" \t\r\n=", r) {
				return -1
			}
			return r
		}, body)
		b = make([]byte, base64.RawStdEncoding.DecodedLen(len(clean)))
		n, _ := base64.RawStdEncoding.Decode(b, []byte(clean)) // what is not, nobody shows
		b = b[:n]
	} else if text, err := url.PathUnescape(body); err == nil {
		b = []byte(text)
	} else {
		b = []byte(body)
	}
	switch MediaType(b) {
	case "":
		return nil // a font, or nothing that is shown
	case "image/svg+xml":
		if inside == 0 {
			return fmt.Errorf("%w: drawings in drawings in drawings", ErrCostly)
		}
	}
	if err := check(ended, b, inside-1); errors.Is(err, ErrCostly) {
		return err
	}
	return nil // one that is damaged is not shown
}

// dress gives elements the references that the drawing's style sheet gives them, or may:
// a rule counts for whatever its selector names.
func (dr *drawing) dress() {
	for _, rule := range strings.Split(dr.sheet.String(), "}") {
		selector, body, _ := strings.Cut(rule, "{")
		for _, m := range refers.FindAllStringSubmatch(body, -1) {
			for _, word := range words.FindAllString(selector, -1) {
				var to []*shape
				switch name := word[1:]; word[0] {
				case '.':
					to = dr.classes[name]
				case '#':
					if s := dr.ids[name]; s != nil {
						to = []*shape{s}
					}
				default:
					to = dr.kinds[word]
				}
				for _, s := range to {
					if len(s.refers) < maxDepth {
						s.refers = append(s.refers, m[1])
					}
				}
			}
		}
	}
}

// count is how many shapes are drawn for one, each reference followed but those that lead
// back to what they are in, which draw nothing.
func (dr *drawing) count(s *shape, depth int) int {
	switch {
	case s.cost > 0:
		return s.cost
	case s.asked:
		return 0
	case depth > 4*maxDepth:
		return MaxShapes + 1
	}
	s.asked = true
	n := 1
	for _, p := range s.parts {
		n = min(n+dr.count(p, depth+1), MaxShapes+1)
	}
	for _, id := range s.refers {
		if to := dr.ids[id]; to != nil {
			n = min(n+dr.count(to, depth+1), MaxShapes+1)
		}
	}
	s.cost = n
	return n
}

var (
	entity = regexp.MustCompile(`<!ENTITY\s+([^\s"'%]+)\s+["']([^"']*)["']`)
	refers = regexp.MustCompile(`url\(\s*["']?#([^"')\s]+)`)
	words  = regexp.MustCompile(`[.#]?[A-Za-z_][\w-]*`)
)
