package settingsfile

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"
)

// xmlElement is an element of an XML text, and where it stands.
type xmlElement struct {
	way              string // with its own step
	from, open, shut int    // where it begins, its start tag ends, and its end tag begins
	to               int
	children, mixed  bool // it has elements in it; or other things than letters
	text             string
	seen             map[string]int // how many children of a step there were
	parent           *xmlElement
	first            int // where its first child begins
}

// parseXML reads XML: the text of elements that have no others in them, and attributes,
// whose keys begin with "@". A step of the way is an element's name, with the attribute
// that tells it from its like, "item[@name='x']", or its number among them, "item[2]".
func parseXML(b []byte) ([]Value, error) {
	out, _, err := readXML(b)
	return out, err
}

// white are blanks (XML 1.0, 2.3, production 3).
const white = " \t\r\n"

// telling are the attributes by which elements of one name are told apart: common
// practice, no source.
var telling = []string{"name", "id", "key"}

func readXML(b []byte) (out []Value, all []*xmlElement, err error) {
	d := xml.NewDecoder(bytes.NewReader(b))
	d.CharsetReader = func(name string, r io.Reader) (io.Reader, error) {
		if bytes.ContainsFunc(b, func(c rune) bool { return c >= utf8.RuneSelf }) {
			return nil, fmt.Errorf("its letters are %s, not UTF-8", name)
		}
		return r, nil
	}
	lines := lineOf{b: b}
	top := &xmlElement{seen: map[string]int{}}
	at, depth := top, 0
	for {
		before := int(d.InputOffset())
		t, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, err
		}
		after := int(d.InputOffset())
		if len(out) > maxValues || len(all) > maxValues {
			return nil, nil, fmt.Errorf("%w: more than %d values", ErrTooMuch, maxValues)
		}
		switch t := t.(type) {
		case xml.StartElement:
			if depth++; depth > maxDepth {
				return nil, nil, fmt.Errorf("%w: it is nested more than %d deep", ErrTooMuch, maxDepth)
			}
			if at == top && len(all) > 0 {
				return nil, nil, errors.New("it has two outermost elements")
			}
			at.children = true
			found, ok := attributes(b, before, after)
			if !ok || len(found) != len(t.Attr) {
				return nil, nil, fmt.Errorf("line %d: its attributes cannot be told", lines.of(before))
			}
			for i, a := range t.Attr {
				if raw := b[found[i].from:found[i].to]; !bytes.Contains(raw, []byte("&#")) {
					t.Attr[i].Value = blanks.Replace(a.Value) // XML 1.0, 3.3.3, Attribute-Value Normalization
				}
			}
			e := &xmlElement{from: before, open: after, seen: map[string]int{}, parent: at}
			e.way = join(at.way, at.step(t))
			if at.first == 0 {
				at.first = before
			}
			for i, a := range t.Attr {
				v := Value{Group: e.way, Key: "@" + Step(nameOf(a.Name)), Text: a.Value, Line: lines.of(found[i].from), from: found[i].from, to: found[i].to, cut: found[i].cut}
				v.fixed = bytes.ContainsAny(b[v.from:v.to], "\n") || strings.Contains(lastStep(e.way), "["+v.Key+"=")
				out = append(out, v)
			}
			all, at = append(all, e), e
		case xml.EndElement:
			if at == top || nameOf(t.Name) != elementName(at.way) {
				return nil, nil, fmt.Errorf("line %d: </%s> closes nothing", lines.of(before), nameOf(t.Name))
			}
			depth--
			at.shut, at.to = before, after
			if !at.children {
				v := Value{Group: at.parent.way, Key: lastStep(at.way), Text: at.text, Line: lines.of(at.open), from: at.open, to: before, Bare: true}
				trimmed := strings.Trim(at.text, white)
				if whole := string(b[at.open:before]); trimmed != at.text && trimmed != "" {
					v.Text = trimmed
					v.from += len(whole) - len(strings.TrimLeft(whole, white))
					v.to = v.from + len(strings.Trim(whole, white))
				}
				v.Line = lines.of(v.from)
				v.fixed = at.mixed || at.open == at.shut && b[at.open-2] == '/' || bytes.Contains(b[v.from:v.to], []byte("\n"))
				v.cut = [2]int{at.from, after}
				out = append(out, v)
			}
			at = at.parent
		case xml.CharData:
			at.text += string(t)
			at.mixed = at.mixed || bytes.HasPrefix(b[before:], []byte("<![CDATA["))
			if at == top && len(bytes.TrimSpace(bytes.TrimPrefix(t, []byte("\xef\xbb\xbf")))) > 0 {
				return nil, nil, fmt.Errorf("line %d: a text outside of any element", lines.of(before))
			}
		case xml.Comment, xml.ProcInst:
			at.mixed = true
		}
	}
	if at != top || len(all) == 0 && len(bytes.TrimSpace(b)) > 0 {
		return nil, nil, errors.New("it is not whole")
	}
	slices.SortStableFunc(out, func(a, b Value) int { return a.from - b.from })
	return out, all, nil
}

func nameOf(n xml.Name) string {
	if n.Space != "" {
		return n.Space + ":" + n.Local
	}
	return n.Local
}

func lastStep(way string) string { return way[strings.LastIndexByte(way, '/')+1:] }

// elementName is the element's own name in the last step of a way.
func elementName(way string) string {
	name, _, _ := strings.Cut(lastStep(way), "[")
	return stepUnescaper.Replace(name)
}

// step is that of a child of an element, told from those before it.
func (e *xmlElement) step(t xml.StartElement) string {
	step := Step(nameOf(t.Name))
	for _, name := range telling {
		if i := slices.IndexFunc(t.Attr, func(a xml.Attr) bool { return nameOf(a.Name) == name && a.Value != "" }); i >= 0 {
			step += "[@" + name + "='" + Step(t.Attr[i].Value) + "']"
			break
		}
	}
	if e.seen[step]++; e.seen[step] > 1 {
		step += fmt.Sprintf("[%d]", e.seen[step])
	}
	return step
}

var attribute = regexp.MustCompile(`\s+([^\s=/>"']+)\s*=\s*("[^"]*"|'[^']*')`)

// attributes are where the values of a start tag's attributes stand, without quotes.
func attributes(b []byte, from, to int) (out []Value, ok bool) {
	at := from + 1
	for at < to && !bytes.ContainsRune([]byte(" \t\r\n/>"), rune(b[at])) {
		at++
	}
	for {
		m := attribute.FindSubmatchIndex(b[at:to])
		if m == nil || m[0] != 0 {
			break
		}
		out = append(out, Value{from: at + m[4] + 1, to: at + m[5] - 1, cut: [2]int{at, at + m[1]}})
		at += m[1]
	}
	rest := bytes.TrimSpace(b[at:to])
	return out, string(rest) == ">" || string(rest) == "/>"
}

var blanks = strings.NewReplacer("\r\n", " ", "\n", " ", "\t", " ", "\r", " ")

var xmlEscaper = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&quot;", "'", "&apos;")

func escapeXML(text string) string { return xmlEscaper.Replace(text) }

var oneStep = regexp.MustCompile(`^([^\[\]@]+)(?:\[@([^=\[\]]+)='([^']*)'\])?$`)

// addXML adds an attribute, or an element behind the last of its parent; parents that are
// missing too, but for the outermost.
func addXML(b []byte, group, key, text string) ([]byte, error) {
	_, all, err := readXML(b)
	if err != nil {
		return nil, err
	}
	way := steps(group)
	for size := len(way); size > 0; size-- {
		i := slices.IndexFunc(all, func(e *xmlElement) bool { return e.way == strings.Join(way[:size], "/") })
		if i < 0 {
			continue
		}
		e, rest := all[i], way[size:]
		if name, is := strings.CutPrefix(key, "@"); is && len(rest) == 0 {
			at := e.open - 1
			if b[at-1] == '/' {
				at--
			}
			at = len(bytes.TrimRight(b[:at], " \t\r\n"))
			return splice(b, at, at, " "+stepUnescaper.Replace(name)+`="`+escapeXML(text)+`"`), nil
		}
		if e.open == e.to || b[e.open-2] == '/' || !e.children && strings.TrimSpace(e.text) != "" {
			return nil, fmt.Errorf("%w: %s has no room for %s", ErrEdit, group, key)
		}
		return e.with(b, rest, key, text)
	}
	return nil, fmt.Errorf("%w: there is no %s", ErrEdit, group)
}

// with adds a child to an element, in others that are missing.
func (e *xmlElement) with(b []byte, way []string, key, text string) ([]byte, error) {
	end := lineEnd(b)
	inner := indentOf(b, e.from) + "  "
	if e.first > 0 {
		if own := indentOf(b, e.first); strings.TrimSpace(string(b[lineStart(b, e.first):e.first])) == "" {
			inner = own
		}
	}
	oneLine := e.children && !bytes.Contains(b[e.from:e.to], []byte("\n"))
	attr, isAttr := strings.CutPrefix(key, "@")
	if !isAttr {
		way = append(slices.Clone(way), key)
	}
	pad := "  "
	if strings.Contains(inner, "\t") {
		pad = "\t"
	}
	if oneLine {
		inner, pad, end = "", "", ""
	}
	var open, shut string
	for i, s := range way {
		m := oneStep.FindStringSubmatch(s)
		if m == nil {
			return nil, fmt.Errorf("%w: %s is one of several", ErrEdit, s)
		}
		tag := stepUnescaper.Replace(m[1])
		if m[2] != "" {
			tag += " " + m[2] + `="` + escapeXML(stepUnescaper.Replace(m[3])) + `"`
		}
		indent := inner + strings.Repeat(pad, i)
		last := i == len(way)-1
		switch {
		case last && isAttr:
			open += indent + "<" + tag + " " + stepUnescaper.Replace(attr) + `="` + escapeXML(text) + `"/>` + end
		case last:
			open += indent + "<" + tag + ">" + escapeXML(text) + "</" + stepUnescaper.Replace(m[1]) + ">" + end
		default:
			open += indent + "<" + tag + ">" + end
			shut = indent + "</" + stepUnescaper.Replace(m[1]) + ">" + end + shut
		}
	}
	if oneLine {
		return splice(b, e.shut, e.shut, open+shut), nil
	}
	start := lineStart(b, e.shut)
	if strings.TrimSpace(string(b[start:e.shut])) == "" && start > e.from {
		return splice(b, start, start, open+shut), nil
	}
	return splice(b, e.shut, e.shut, end+open+shut+indentOf(b, e.from)), nil
}
