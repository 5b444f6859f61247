package fontconf

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"io"
	"slices"
	"strings"
)

// Properties of rendering that are followed.
var Properties = []string{"antialias", "hinting", "hintstyle", "autohint", "rgba", "lcdfilter"}

// Setting is what decides a property of rendering.
type Setting struct {
	Value string // as it is written: true, hintslight, rgb …; constants by name
	File  string
	Line  int // 1-based
}

// constants are the names of numbers (fcname.c).
var constants = map[string][]string{
	"hintstyle": {"hintnone", "hintslight", "hintmedium", "hintfull"},
	"rgba":      {"unknown", "rgb", "bgr", "vrgb", "vbgr", "none"},
	"lcdfilter": {"lcdnone", "lcddefault", "lcdlight", "lcdlegacy"},
}

// Rendered returns all that says how a font is drawn that was taken for a
// request, by property, what decides first: what the request comes to, then
// changed by what is said of the font itself. A property that nothing is said of
// is not in it.
func (c *Config) Rendered(family string, font []string) map[string][]Setting {
	families, out := c.request(family)
	var of []Family
	for _, name := range font {
		of = append(of, Family{Name: name, Strong: true})
	}
	for _, r := range c.rules {
		if r.target != "font" {
			continue
		}
		if _, ok := r.fits(families, of); !ok {
			continue
		}
		for _, e := range r.edits {
			if e.name != "family" {
				e.draw(out, r.file)
			}
		}
	}
	return out
}

// draw adds what an edit says of rendering. What an assignment replaces is kept
// behind it, to be told of.
func (e edit) draw(looks map[string][]Setting, file string) {
	var said []Setting
	for _, v := range e.values {
		said = append(said, Setting{e.constant(v), file, e.line})
	}
	switch was := looks[e.name]; e.mode {
	case "append", "append_last":
		looks[e.name] = append(was, said...)
	case "delete", "delete_all":
		looks[e.name] = nil
	default:
		looks[e.name] = append(said, was...)
	}
}

// constant is the name of a number, and of a truth value the word.
func (e edit) constant(v string) string {
	if names := constants[e.name]; len(v) == 1 && v[0] >= '0' && int(v[0]-'0') < len(names) {
		return names[v[0]-'0']
	}
	if names := constants[e.name]; names == nil {
		switch strings.ToLower(v) {
		case "true", "t", "yes", "y", "1", "on":
			return "true"
		case "false", "f", "no", "n", "0", "off":
			return "false"
		}
	}
	return v
}

// element is how a property's value is written.
func element(property, value string) string {
	if constants[property] != nil {
		return "<const>" + value + "</const>"
	}
	return "<bool>" + value + "</bool>"
}

// empty is a configuration that says nothing.
const empty = `<?xml version="1.0"?>
<!DOCTYPE fontconfig SYSTEM "urn:fontconfig:fonts.dtd">
<fontconfig>
</fontconfig>
`

// SetProperty returns a configuration file in which a property of rendering has
// a value for every font: what says so of all fonts already is changed, else a
// rule comes at its end. Everything else in it stays as it is.
func SetProperty(file []byte, property, value string) ([]byte, error) {
	later := false // a rule about some fonts comes behind
	return set(file, func(n node) (node, bool) {
		if n.XMLName.Local != "match" || n.attr("target", "pattern") != "font" || later {
			return node{}, false
		}
		for _, k := range slices.Backward(n.Kids) {
			if k.XMLName.Local == "edit" && k.attr("name", "") == property {
				later = slices.ContainsFunc(n.Kids, func(k node) bool { return k.XMLName.Local == "test" }) || !strings.HasPrefix(k.attr("mode", "assign"), "assign")
				return k, !later
			}
		}
		return node{}, false
	}, element(property, value), func(end string) string {
		return strings.Join([]string{`  <match target="font">`, fmt.Sprintf(`    <edit name="%s" mode="assign">%s</edit>`, property, element(property, value)), `  </match>`, ""}, end)
	})
}

// SetFamily returns a configuration file by which a family comes first for
// another, as "monospace". An alias is not enough for that, if another prefers
// something more strongly: a rule that puts it before them all is changed, or
// comes at the end. Everything else stays as it is.
func SetFamily(file []byte, of, family string) ([]byte, error) {
	var text bytes.Buffer
	_ = xml.EscapeText(&text, []byte(family)) // a buffer takes everything
	said := "<string>" + text.String() + "</string>"
	return set(file, func(n node) (node, bool) {
		if n.XMLName.Local != "match" || len(n.Kids) != 2 || n.attr("target", "pattern") != "pattern" {
			return node{}, false
		}
		t, k := n.Kids[0], n.Kids[1]
		is := t.XMLName.Local == "test" && slices.Equal(texts(t.Kids, "string"), []string{of}) && k.XMLName.Local == "edit" && k.attr("name", "") == "family" && k.attr("mode", "") == "prepend_first"
		return k, is
	}, said, func(end string) string {
		return strings.Join([]string{
			"  <match>", `    <test name="family"><string>` + of + "</string></test>",
			`    <edit name="family" mode="prepend_first" binding="strong">` + said + "</edit>", "  </match>", "",
		}, end)
	})
}

// set writes content into the last element that find finds, or puts a rule
// before the end.
func set(file []byte, find func(node) (node, bool), content string, rule func(end string) string) ([]byte, error) {
	if len(bytes.TrimSpace(file)) == 0 {
		file = []byte(empty)
	}
	top, err := parse(file)
	if err != nil {
		return nil, err
	}
	for _, n := range slices.Backward(top.Kids) {
		if at, ok := find(n); ok && at.from <= at.to {
			if file[at.from-2] == '/' { // <prefer/>
				break
			}
			return slices.Concat(file[:at.from], []byte(content), file[at.to:]), nil
		}
	}
	end := "\n"
	if i := bytes.IndexByte(file, '\n'); i > 0 && file[i-1] == '\r' {
		end = "\r\n"
	}
	to := int(top.to)
	if file[to-1] == '>' && bytes.HasSuffix(file[:to], []byte("/>")) {
		return nil, fmt.Errorf("%w: it has nothing between its beginning and its end", io.ErrUnexpectedEOF)
	}
	for to > 0 && (file[to-1] == ' ' || file[to-1] == '\t') {
		to--
	}
	added := rule(end)
	if to > 0 && file[to-1] != '\n' {
		added = end + added
	}
	return slices.Concat(file[:to], []byte(added), file[to:]), nil
}
