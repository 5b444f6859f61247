package preview

import (
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/layer"
	"ivelt/core/reading"
)

// Asked is what a picture has at a place: a part of a program, every rule that decides how it
// looks, and the icon that lies on it; or what no style sheet draws, by the facet that decides it.
type Asked struct {
	Surface    string
	Node       *gtkcss.Node // nil for what no style sheet draws: Facet tells it then,
	Facet      string
	Wears      string // the piece or value that the surface shows for it,
	File       string // where the desk has that, "" for nowhere,
	Element    string // and the element of a picture-based style
	Theme      string // that dresses it, by its folder; "" for a style without a folder
	Sheet      string // of the theme, by its name in it: gtk-3.0/gtk.css
	X, Y, W, H float64
	Rules      []Rule
	Icon       *IconAt // nil for none
	Font       string  // the family of its text, "" if it has none
	FontFile   string  // of the desk, where one has it
}

// Rule is a declaration that decides something of a part, with the named colours behind it.
type Rule struct {
	gtkcss.Explained
	From  string // the node above that it comes from, "" for its own
	Named []gtkcss.Named
}

// IconAt is an icon of a picture: its name, and the pack and file that have it; "" where none
// has it.
type IconAt struct{ Name, Pack, File string }

// Ask tells what a scene has at a place, px, or what is so many nodes above that; false where
// nothing of a program is.
func Ask(d *desk.Desk, look Look, scene string, x, y float64, up int) (Asked, bool) {
	c, s := newScene(d, look, scene)
	var at Spot
	c.seen = func(spot Spot) {
		if x >= spot.X && x < spot.X+spot.W && y >= spot.Y && y < spot.Y+spot.H { // what lies on top comes last
			at = spot
		}
	}
	s.draw(c)
	if at.Node == nil {
		return c.askedMark(x, y)
	}
	for ; up > 0 && at.Node.Parent() != nil; up-- {
		at.Node = at.Node.Parent()
	}
	out := Asked{Surface: at.Surface, Node: at.Node, X: at.X, Y: at.Y, W: at.W, H: at.H}
	if at.stage.file != "" {
		out.Theme, out.Sheet = partsOf(at.stage.file)
	}
	for _, m := range c.marks[at.marks:] {
		if m.icon.name != "" && x >= m.X && x < m.X+m.W && y >= m.Y && y < m.Y+m.H {
			out.Icon = &IconAt{m.icon.name, m.icon.theme, m.icon.path}
		}
	}
	explain := at.stage.Styles.Explain(func(name string) ([]byte, error) {
		if name == layer.File && look.Layer != nil {
			return []byte(look.Layer.Over(out.Sheet)), nil
		}
		b, err := at.stage.files(name)
		if err == nil && at.stage.made != nil {
			inside, resource := strings.CutPrefix(name, "resource://")
			b = at.stage.made(inside, resource, b)
		}
		return b, err
	})
	for _, e := range explain.Node(at.Node) {
		out.Rules = append(out.Rules, Rule{Explained: e, Named: explain.Named(e.Won.Value)})
	}
	for _, name := range []string{"color", "font-size", "font-weight", "font-family"} {
		if r, ok := above(explain, at, name); ok {
			out.Rules = append(out.Rules, r)
		}
	}
	font := at.stage.Styles.Style(at.Node).Font()
	out.Font = at.stage.family
	if len(font.Families) > 0 && font.Families[0] != "Sans" {
		out.Font = font.Families[0]
	}
	if face, ok := c.fonts.Find(out.Font, font.Weight, font.Italic); ok {
		out.FontFile = face.File
	}
	return out, true
}

// askedMark tells what a picture has at a place that no style sheet draws.
func (c *Canvas) askedMark(x, y float64) (Asked, bool) {
	for _, m := range slices.Backward(c.marks) {
		if x < m.X || x >= m.X+m.W || y < m.Y || y >= m.Y+m.H {
			continue
		}
		s, ok := c.D.Surface(m.Surface)
		f, has := s.Facet(m.Facet)
		if !ok || !has {
			continue
		}
		out := Asked{Surface: m.Surface, Facet: m.Facet, Wears: c.look.Of(m.Facet, m.Surface), Element: m.element, X: m.X, Y: m.Y, W: m.W, H: m.H}
		if m.icon.name != "" {
			out.Icon = &IconAt{m.icon.name, m.icon.theme, m.icon.path}
		}
		if at, err := reading.Find(c.D, f.Lookup, out.Wears); err == nil {
			out.File = at
		}
		return out, true
	}
	return Asked{}, false
}

// above is what a node above decides of a property that goes down to a part, unless the part is
// told itself.
func above(explain *gtkcss.Explainer, at Spot, property string) (Rule, bool) {
	for n := at.Node; n != nil; n = n.Parent() {
		if _, _, told := at.stage.Styles.Style(n).Told(property); !told {
			continue
		}
		if n == at.Node {
			return Rule{}, false
		}
		for _, e := range explain.Node(n) {
			if slices.Contains(e.Properties, property) {
				e.Properties, e.Value = []string{property}, at.stage.Styles.Style(n).Text(property)
				return Rule{e, n.String(), explain.Named(e.Won.Value)}, true
			}
		}
	}
	return Rule{}, false
}
