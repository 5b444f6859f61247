package layer

import (
	"context"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/colour"
	"ivelt/core/keyfile"
	"ivelt/core/picturestyle"
	"ivelt/core/recolour"
	"ivelt/core/say"
	"ivelt/core/spelling"
)

// Element changes an element of a picture-based style: it is given to an element that is called
// otherwise or to a copy, states its edges, or has shapes of it drawn otherwise.
type Element struct {
	Name  string            `toml:"name"`
	From  string            `toml:"from,omitempty"`  // what the drawing calls it
	Like  string            `toml:"like,omitempty"`  // the element that it is a copy of
	Edges string            `toml:"edges,omitempty"` // px that do not stretch, clockwise from above
	Shape int               `toml:"shape,omitempty"` // the shape in it that set is for, from 1; 0 for all
	Set   map[string]string `toml:"set,omitempty"`   // attributes of shapes
	// Was is what the first of these shapes said.
	Was map[string]string `toml:"was,omitempty"`
}

func (c Element) change() picturestyle.Change {
	return picturestyle.Change{Name: c.Name, From: c.From, Like: c.Like, Edges: c.Edges, Shape: c.Shape, Set: c.Set}
}

// Empty reports whether nothing is left of a change.
func (c Element) Empty() bool {
	return c.From == "" && c.Like == "" && c.Edges == "" && len(c.Set) == 0
}

// ParseElement reads changes to an element as they are written on one line: "NAME: from OTHER; like
// OTHER; edges 4 6; fill #d08a4e; 2 stroke-width 3", the number that of a shape.
func ParseElement(text string) (out []Element, err error) {
	name, rest, ok := strings.Cut(text, ":")
	name = strings.TrimSpace(name)
	whole := Element{Name: name}
	of := map[int]*Element{0: &whole}
	order := []int{0}
	for part := range strings.SplitSeq(rest, ";") {
		f := strings.Fields(part)
		shape := 0
		if len(f) > 2 {
			if n, err := strconv.Atoi(f[0]); err == nil {
				shape, f = n, f[1:]
			}
		}
		if len(f) < 2 {
			ok = ok && len(f) == 0
			continue
		}
		switch value := strings.Join(f[1:], " "); f[0] {
		case "from":
			whole.From = value
		case "like":
			whole.Like = value
		case "edges":
			whole.Edges = value
		default:
			if of[shape] == nil {
				of[shape] = &Element{Name: name, Shape: shape}
				order = append(order, shape)
			}
			if of[shape].Set == nil {
				of[shape].Set = map[string]string{}
			}
			of[shape].Set[f[0]] = value
		}
	}
	for _, n := range order {
		if !of[n].Empty() {
			out = append(out, *of[n])
		}
	}
	if !ok || len(out) == 0 {
		return nil, say.Errorf("%q is not written as NAME: from OTHER; like OTHER; edges WIDTHS; SHAPE ATTRIBUTE VALUE", text)
	}
	for _, e := range out {
		if err := e.change().Valid(); err != nil {
			return nil, say.Errorf("%q: %w", text, err)
		}
	}
	return out, nil
}

// elementKey tells fits of elements.
const elementKey = "element"

// drawing is the file of a picture-based style that its engine reads.
func (b *laid) drawing(folder string) (string, error) {
	if name := folder + ".svg"; b.has(name) {
		return name, nil
	}
	return "", say.Errorf("%w: there is no %s.svg in it", ErrBase, folder)
}

// Drawn is a style's drawing with the changes of the recipe that can be made to it.
func (r Recipe) Drawn(ctx context.Context, raw []byte) []byte {
	for _, c := range r.Elements {
		if text, err := picturestyle.Edit(raw, []picturestyle.Change{c.change()}); err == nil {
			raw = text
		}
	}
	for _, c := range r.Dyes {
		if text, _, err := c.onDrawing(ctx, raw); err == nil {
			raw = text
		}
	}
	return raw
}

// onDrawing is a drawing in the colour of a dye, and its main colour before, "" if it has none.
func (c Dye) onDrawing(ctx context.Context, raw []byte) (out []byte, main string, err error) {
	of, ok := recolour.Main(ctx, raw)
	if !ok {
		return raw, "", ctx.Err()
	}
	if p, ok := c.mapped(); ok {
		out, _, err = recolour.New(p).Picture(ctx, raw)
		return out, of.Hex(), err
	}
	d := recolour.Dye{From: of, Within: c.Within}
	if c.From != "" {
		if d.From, err = colour.Parse(c.From); err != nil {
			return raw, "", err
		}
	}
	if d.To, err = colour.Parse(c.To); err != nil {
		return raw, "", err
	}
	out, _, err = recolour.New(d).Picture(ctx, raw)
	return out, of.Hex(), err
}

// says are what the first shape that a change is for says of what the change sets; false if
// there is no such shape.
func (c Element) says(raw []byte) (map[string]string, bool) {
	of, err := picturestyle.Shapes(raw, c.Name)
	if err != nil || len(of) < max(c.Shape, 1) {
		return nil, false
	}
	out := map[string]string{}
	for name := range c.Set {
		if value := of[max(c.Shape, 1)-1].Says[name]; value != "" {
			out[name] = value
		}
	}
	return out, true
}

// ofStyle is how the changes of a recipe fit a picture-based style, one after the other, the
// recipe with what the style says, and the drawing that comes of it.
func (b *laid) ofStyle(ctx context.Context, r Recipe) (fits []Fit, now Recipe, text []byte, err error) {
	name, err := b.drawing(r.Base.Folder)
	if err != nil {
		return nil, r, nil, err
	}
	if text, err = fs.ReadFile(b.tree, path.Join(b.root, name)); err != nil {
		return nil, r, nil, err
	}
	now = r
	now.Elements, now.Dyes = slices.Clone(r.Elements), slices.Clone(r.Dyes)
	for i, c := range r.Elements {
		if err := ctx.Err(); err != nil {
			return nil, r, nil, err
		}
		f, out := c.fit(ctx, text, name)
		said, _ := c.says(out)
		if before, ok := c.says(text); ok {
			said = before // before it is set
		} else if c.From != "" || c.Like != "" {
			bare := c
			bare.Set, bare.Shape, bare.Edges = nil, 0, ""
			if raw, err := picturestyle.Edit(text, []picturestyle.Change{bare.change()}); err == nil {
				said, _ = c.says(raw)
			}
		}
		if now.Elements[i].Was = some(said); f.State == Gone {
			now.Elements[i].Was = c.Was
		}
		fits, text = append(fits, f), out
	}
	for i, c := range r.Dyes {
		out, main, err := c.onDrawing(ctx, text)
		if err != nil {
			return nil, r, nil, err
		}
		f := Fit{Change: "all elements", Key: dyeKey, State: Fits, Was: c.Was, Now: main, Sets: c.sets()}
		if c.Was != "" && c.Was != main {
			f.State = Moved
		}
		now.Dyes[i].Was = main
		fits, text = append(fits, f), out
	}
	return fits, now, text, nil
}

// fit is how a change fits a drawing, and the drawing with it.
func (c Element) fit(ctx context.Context, text []byte, sheet string) (Fit, []byte) {
	f := Fit{Change: c.Name, Key: elementKey, Sheet: sheet, State: Fits, Sets: c.does()}
	names := func(yield func(string) bool) {
		if s, err := picturestyle.Read(ctx, text, nil); err == nil {
			slices.Values(s.Names())(yield)
		}
	}
	there, _ := picturestyle.Shapes(text, c.Name)
	before, ok := c.says(text)
	switch {
	case (c.From != "" || c.Like != "") && len(there) > 0: // the maker's own counts
		f.State, f.Now = Moved, c.Name
	case len(c.Was) > 0 && ok && !maps.Equal(c.Was, before):
		f.State, f.Was, f.Now = Moved, told(c.Was), told(before)
	}
	out, err := picturestyle.Edit(text, []picturestyle.Change{c.change()})
	if err != nil {
		f.State, f.Nearest = Gone, spelling.Nearest(first(c.From, c.Like, c.Name), names)
		return f, text
	}
	return f, out
}

func first(of ...string) string {
	for _, s := range of {
		if s != "" {
			return s
		}
	}
	return ""
}

// told are attributes on one line.
func told(of map[string]string) string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(of)) {
		out = append(out, name+" "+of[name])
	}
	return strings.Join(out, ", ")
}

// does is what a change does, in the words of recipes.
func (c Element) does() string {
	var out []string
	for _, of := range [][2]string{{"from", c.From}, {"like", c.Like}, {"edges", c.Edges}} {
		if of[1] != "" {
			out = append(out, of[0]+" "+of[1])
		}
	}
	if set := told(c.Set); set != "" {
		if c.Shape > 0 {
			set = fmt.Sprintf("shape %d: %s", c.Shape, set)
		}
		out = append(out, set)
	}
	return strings.Join(out, "; ")
}

// styled is what a recipe makes of a picture-based style: a copy of it, its drawing changed, and
// both its files under the new name.
func (b *laid) styled(ctx context.Context, r Recipe) ([]Entry, error) {
	name, err := b.drawing(r.Base.Folder)
	if err != nil {
		return nil, err
	}
	_, _, text, err := b.ofStyle(ctx, r)
	if err != nil {
		return nil, err
	}
	conf := strings.TrimSuffix(name, ".svg") + ".conf"
	about := []byte("[Style]\n")
	out := made{of: map[string]Entry{}}
	for _, e := range b.files {
		switch e.Name {
		case name:
		case conf:
			if about, err = fs.ReadFile(b.tree, path.Join(b.root, conf)); err != nil {
				return nil, err
			}
		default:
			out.of[e.Name] = e
		}
	}
	kf, err := keyfile.Parse(about)
	if err != nil {
		return nil, say.Errorf("%w: %s: %w", ErrBase, conf, err)
	}
	group := "Style"
	if groups := kf.Groups(); len(groups) > 0 && !slices.Contains(groups, group) {
		group = groups[0]
	}
	kf.Set(group, "Name", r.Name)
	out.of[r.Folder+".svg"] = Entry{Name: r.Folder + ".svg", Mode: 0o644, Text: text}
	out.of[r.Folder+".conf"] = Entry{Name: r.Folder + ".conf", Mode: 0o644, Text: kf.Bytes()}
	out.of[File] = Entry{Name: File, Mode: 0o644, Text: r.Bytes()}
	return out.sorted(), nil
}
