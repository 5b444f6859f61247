// Package fontconf follows fontconfig's configuration: in which folders fonts
// are looked for, which families stand for which, and which face is taken for a
// request (fonts-conf(5); fccfg.c and fcmatch.c of fontconfig 2.14).
//
// Of a request it knows the family, the weight and the slant, and of rendering
// the [Properties]. Rules that test anything else do not apply.
package fontconf

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Config is a configuration with all that it includes.
type Config struct {
	Dirs  []string // where fonts are looked for, as paths
	Files []string // read, in order
	Notes []Note
	rules []rule
	in    Places
	depth int
}

// Note is something that does not count.
type Note struct {
	File string
	Text string
}

// rule changes the families of a request that its tests fit.
type rule struct {
	target string // pattern or font
	file   string
	tests  []test
	edits  []edit
}

type test struct {
	name, qual, compare string
	target              string // pattern, font or default
	values              []string
	ignoreBlanks        bool
}

type edit struct {
	name, mode, binding string
	values              []string
	line                int // 1-based
}

// node is an element of a configuration file.
type node struct {
	XMLName xml.Name
	Attrs   []xml.Attr
	Text    string
	Kids    []node
	Line    int   // 1-based, where its first tag ends
	from    int64 // where its content begins and ends, bytes of the file
	to      int64
}

// UnmarshalXML reads an element with where it stands.
func (n *node) UnmarshalXML(d *xml.Decoder, start xml.StartElement) error {
	n.XMLName, n.Attrs, n.from = start.Name, start.Attr, d.InputOffset()
	n.Line, _ = d.InputPos()
	for {
		n.to = d.InputOffset()
		token, err := d.Token()
		if err != nil {
			return err
		}
		switch t := token.(type) {
		case xml.CharData:
			n.Text += string(t)
		case xml.StartElement:
			var kid node
			if err := kid.UnmarshalXML(d, t); err != nil {
				return err
			}
			n.Kids = append(n.Kids, kid)
		case xml.EndElement:
			return nil
		}
	}
}

func (n node) attr(name, usual string) string {
	for _, a := range n.Attrs {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return usual
}

const (
	maxDepth = 8
	maxFiles = 400
)

// Places are the person's folders that a configuration names, as paths: the home, and what
// XDG_CONFIG_HOME and XDG_DATA_HOME stand for.
type Places struct{ Home, Config, Data string }

// Home are the places in a home where no variable says otherwise.
func Home(home string) Places {
	return Places{home, path.Join(home, ".config"), path.Join(home, ".local/share")}
}

// Load reads a configuration from a tree, and what it includes. A file that is no
// configuration is noted and passed over.
func Load(fsys fs.FS, file string, in Places) (*Config, error) {
	c := &Config{in: in}
	if _, err := fs.Stat(fsys, strings.TrimPrefix(file, "/")); err != nil {
		return nil, err
	}
	c.read(fsys, file)
	return c, nil
}

func (c *Config) read(fsys fs.FS, file string) {
	if c.depth >= maxDepth || len(c.Files) >= maxFiles || slices.Contains(c.Files, file) {
		return
	}
	b, err := fs.ReadFile(fsys, strings.TrimPrefix(file, "/"))
	if err != nil {
		return
	}
	c.Files = append(c.Files, file)
	top, err := parse(b)
	if err != nil {
		c.Notes = append(c.Notes, Note{file, err.Error()})
		return
	}
	c.depth++
	defer func() { c.depth-- }()
	for _, n := range top.Kids {
		switch n.XMLName.Local {
		case "dir":
			c.Dirs = append(c.Dirs, c.place(n, c.in.Data))
		case "include":
			c.include(fsys, c.place(n, c.in.Config))
		case "alias":
			if r, ok := aliasOf(n); ok {
				r.file = file
				c.rules = append(c.rules, r)
			}
		case "match":
			if r, ok := matchOf(n); ok {
				r.file = file
				c.rules = append(c.rules, r)
			}
		}
	}
}

// parse reads a configuration file.
func parse(b []byte) (node, error) {
	var top node
	d := xml.NewDecoder(bytes.NewReader(b))
	if err := d.Decode(&top); err != nil {
		return top, fmt.Errorf("is no configuration: %w", err)
	}
	if top.XMLName.Local != "fontconfig" {
		return top, errors.New("is no configuration: it has to begin with fontconfig")
	}
	return top, nil
}

// place is the path that an element names; a relative one is of the usual folder.
func (c *Config) place(n node, xdg string) string {
	p := strings.TrimSpace(n.Text)
	switch {
	case n.attr("prefix", "") == "xdg":
		return path.Join(xdg, p)
	case strings.HasPrefix(p, "~"):
		return path.Join(c.in.Home, p[1:])
	case path.IsAbs(p):
		return path.Clean(p)
	}
	return path.Join("/etc/fonts", p)
}

// include reads a file, or of a folder those whose names begin with a digit and
// end in .conf, by name.
func (c *Config) include(fsys fs.FS, p string) {
	entries, err := fs.ReadDir(fsys, strings.TrimPrefix(p, "/"))
	if err != nil {
		c.read(fsys, p)
		return
	}
	for _, e := range entries {
		if name := e.Name(); name[0] >= '0' && name[0] <= '9' && strings.HasSuffix(name, ".conf") {
			c.read(fsys, path.Join(p, name))
		}
	}
}

func texts(kids []node, elements ...string) []string {
	var out []string
	for _, k := range kids {
		if slices.Contains(elements, k.XMLName.Local) {
			out = append(out, strings.TrimSpace(k.Text))
		}
	}
	return out
}

func aliasOf(n node) (rule, bool) {
	families := texts(n.Kids, "family")
	if len(families) != 1 {
		return rule{}, false
	}
	r := rule{target: "pattern", tests: []test{{name: "family", qual: "any", compare: "eq", values: families, ignoreBlanks: true}}}
	for _, k := range n.Kids {
		mode := map[string]string{"prefer": "prepend", "accept": "append", "default": "append_last"}[k.XMLName.Local]
		if mode != "" {
			r.edits = append(r.edits, edit{"family", mode, n.attr("binding", "weak"), texts(k.Kids, "family"), k.Line})
		}
		if k.XMLName.Local == "test" {
			t, ok := testOf(k)
			if !ok {
				return r, false
			}
			r.tests = append([]test{t}, r.tests...)
		}
	}
	// In this order they are applied, whatever their order in the file.
	order := []string{"prepend", "append", "append_last"}
	slices.SortStableFunc(r.edits, func(a, b edit) int { return slices.Index(order, a.mode) - slices.Index(order, b.mode) })
	return r, len(r.edits) > 0
}

func testOf(n node) (test, bool) {
	t := test{
		name: n.attr("name", ""), qual: n.attr("qual", "any"), compare: n.attr("compare", "eq"),
		values: texts(n.Kids, "string"), ignoreBlanks: n.attr("ignore-blanks", "false") == "true",
	}
	t.target = n.attr("target", "default")
	return t, (t.name == "family" || t.name == "lang") && len(t.values) > 0
}

func matchOf(n node) (r rule, ok bool) {
	r.target = n.attr("target", "pattern")
	for _, k := range n.Kids {
		switch k.XMLName.Local {
		case "test":
			t, ok := testOf(k)
			if !ok {
				return r, false
			}
			r.tests = append(r.tests, t)
		case "edit":
			if name := k.attr("name", ""); name == "family" || slices.Contains(Properties, name) {
				r.edits = append(r.edits, edit{name, k.attr("mode", "assign"), k.attr("binding", "weak"), texts(k.Kids, "string", "bool", "const", "int"), k.Line})
			}
		}
	}
	return r, len(r.edits) > 0 && (r.target == "pattern" || r.target == "font")
}

// Family is one of those that a request comes to.
type Family struct {
	Name   string
	Strong bool // it comes before the language
	File   string
	Line   int // where it is said, 1-based; 0 of what was asked for
}

// Families returns what a request for a family comes to, the best first.
func (c *Config) Families(family string) []Family {
	list, _ := c.request(family)
	return list
}

// request works out what a request for a family comes to, and what is said of
// rendering on the way: a rule goes by what those before it have made of it.
func (c *Config) request(family string) ([]Family, map[string][]Setting) {
	list, looks := []Family{{Name: family, Strong: true}}, map[string][]Setting{}
	for _, r := range c.rules {
		if r.target == "font" {
			continue
		}
		at, fits := r.fits(list, nil) // where the family is that was met
		if !fits {
			continue
		}
		for _, e := range r.edits {
			if e.name == "family" {
				list, at = e.apply(list, at, r.file)
			} else {
				e.draw(looks, r.file)
			}
		}
	}
	return list, looks
}

// fits reports whether a rule applies to the families of a request, and those of
// the font that was taken for it; at is the place of the family that was met.
func (r rule) fits(list, font []Family) (at int, ok bool) {
	at = -1
	for _, t := range r.tests {
		of := list
		if t.target == "font" || t.target == "default" && r.target == "font" {
			if of = font; font == nil {
				return at, false
			}
		}
		if t.name == "lang" {
			if t.compare == "not_eq" || !slices.Contains(t.values, "en") {
				return at, false
			}
			continue
		}
		met, ok := t.meets(of)
		if !ok {
			return at, false
		}
		at = met
	}
	return at, true
}

// meets returns the first family that a test fits.
func (t test) meets(list []Family) (at int, ok bool) {
	at = -1
	for _, v := range t.values {
		for i, f := range list {
			if t.compares(f.Name, v) {
				if at < 0 {
					at = i
				}
				if t.qual != "all" {
					break
				}
			} else if t.qual == "all" {
				at = -1
				break
			}
		}
	}
	switch t.qual {
	case "first":
		return at, at == 0
	case "not_first":
		return at, at > 0
	}
	return at, at >= 0
}

func (t test) compares(family, value string) bool {
	same := strings.EqualFold(family, value) || t.ignoreBlanks && equalNames(family, value)
	holds := strings.Contains(strings.ToLower(family), strings.ToLower(value))
	switch t.compare {
	case "eq":
		return same
	case "not_eq":
		return !same
	case "contains":
		return holds
	case "not_contains":
		return !holds
	}
	return false
}

// equalNames compares names without blanks and case (FcStrCmpIgnoreBlanksAndCase).
func equalNames(a, b string) bool {
	for {
		x, y := strings.TrimLeft(a, " "), strings.TrimLeft(b, " ")
		if x == "" || y == "" {
			return x == y
		}
		r, n := utf8.DecodeRuneInString(x)
		q, m := utf8.DecodeRuneInString(y)
		if r != q && unicode.ToLower(r) != unicode.ToLower(q) && unicode.ToUpper(r) != unicode.ToUpper(q) {
			return false
		}
		a, b = x[n:], y[m:]
	}
}

func (e edit) apply(list []Family, at int, file string) ([]Family, int) {
	strong := e.binding == "strong"
	if e.binding == "same" {
		near := at >= 0 && e.mode != "append_last" && e.mode != "prepend_first" && e.mode != "assign_replace"
		strong = near && list[at].Strong
	}
	var fresh []Family
	for _, v := range e.values {
		fresh = append(fresh, Family{v, strong, file, e.line})
	}
	mode := e.mode
	if at < 0 { // nothing was met: the whole list
		mode = map[string]string{"assign": "assign_replace", "prepend": "prepend_first", "append": "append_last", "delete": "delete_all"}[mode]
		if mode == "" {
			mode = e.mode
		}
	}
	switch mode {
	case "assign":
		return slices.Concat(list[:at], fresh, list[at+1:]), at
	case "assign_replace":
		return fresh, -1
	case "prepend":
		return slices.Concat(list[:at], fresh, list[at:]), at + len(fresh)
	case "prepend_first":
		if at >= 0 {
			at += len(fresh)
		}
		return slices.Concat(fresh, list), at
	case "append":
		return slices.Concat(list[:at+1], fresh, list[at+1:]), at
	case "append_last":
		return slices.Concat(list, fresh), at
	case "delete":
		return slices.Concat(list[:at], list[at+1:]), -1
	case "delete_all":
		return nil, -1
	}
	return list, at
}
