// Package layers is where changes to a theme or a picture style are made in the pages: one recipe a desk, kept
// until it is built or discarded.
package layers

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"path"
	"slices"

	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/store"
)

// ErrOther: changes to another theme are being made.
var ErrOther = errors.New("build them or discard them first")

// Layers are the changes that are being made on desks.
type Layers struct {
	store    making
	record   library.Record
	pieces   *library.Pieces
	drafts   *drafts.Drafts
	overlays *drafts.Overlays
	jobs     *jobs.List
}

type making interface {
	Making(desk string) (store.MakingRow, error)
	SaveMaking(m store.MakingRow) error
	DropMaking(desk string) error
}

// New returns the layers of a data folder.
func New(s making, record library.Record, pieces *library.Pieces, d *drafts.Drafts, overlays *drafts.Overlays, running *jobs.List) *Layers {
	return &Layers{s, record, pieces, d, overlays, running}
}

// Making is the recipe that is being made on a desk; false for none.
func (l *Layers) Making(d *desks.Managed) (layer.Recipe, bool, error) {
	row, err := l.store.Making(d.ID)
	if errors.Is(err, store.ErrNone) {
		return layer.Recipe{}, false, nil
	}
	if err != nil {
		return layer.Recipe{}, false, err
	}
	r, err := layer.Parse(row.Text)
	return r, err == nil, err
}

// Change is one change to a theme: a colour that it names, a rule, or a move of the whole; or some
// to elements of a picture style.
type Change struct {
	Colour   *layer.Colour
	Rule     *layer.Rule
	Move     *layer.Move
	Elements []layer.Element
}

func (c Change) kind() parcel.Kind {
	if len(c.Elements) > 0 {
		return parcel.Style
	}
	return parcel.Theme
}

// Make adds a change to those of a piece of a desk, by its folder; one of the same colour, or
// of the same property by the same selector or of the same shape, is replaced.
func (l *Layers) Make(ctx context.Context, d *desks.Managed, theme string, c Change) error {
	d.Lock()
	defer d.Unlock()
	r, err := l.begun(ctx, d, c.kind(), theme)
	if err != nil {
		return err
	}
	switch {
	case len(c.Elements) > 0:
		for _, of := range c.Elements {
			r.Elements = with(r.Elements, of)
		}
	case c.Move != nil:
		if r.Moves, err = l.move(ctx, d, r, *c.Move); err != nil {
			return err
		}
		if r.Size() == 0 {
			return l.store.DropMaking(d.ID)
		}
	case c.Colour != nil:
		i := slices.IndexFunc(r.Colours, func(k layer.Colour) bool {
			return k.Name == c.Colour.Name && slices.Equal(k.Parts, c.Colour.Parts)
		})
		if i < 0 {
			r.Colours = append(r.Colours, *c.Colour)
		} else {
			r.Colours[i].Value, r.Colours[i].Dark = c.Colour.Value, c.Colour.Dark // it was what it was before the first change
		}
	case c.Rule != nil:
		i := slices.IndexFunc(r.Rules, func(k layer.Rule) bool {
			return k.Selector == c.Rule.Selector && slices.Equal(k.Parts, c.Rule.Parts)
		})
		if i < 0 {
			r.Rules = append(r.Rules, *c.Rule)
			break
		}
		of := r.Rules[i]
		of.Set = maps.Clone(of.Set)
		maps.Copy(of.Set, c.Rule.Set)
		for sheet, was := range c.Rule.Was {
			of.Was = maps.Clone(of.Was)
			if of.Was == nil {
				of.Was = map[string]map[string]string{}
			}
			had := maps.Clone(was)
			maps.Copy(had, of.Was[sheet])
			of.Was[sheet] = had
		}
		// What is said last counts where two rules are equally strong.
		r.Rules = append(slices.Delete(slices.Clone(r.Rules), i, i+1), of)
	}
	return l.save(d, r)
}

// with is changes to elements with one more: what sets something of the same shape becomes one.
func with(all []layer.Element, c layer.Element) []layer.Element {
	i := slices.IndexFunc(all, func(k layer.Element) bool { return k.Name == c.Name && k.Shape == c.Shape })
	if i < 0 || c.From != "" || c.Like != "" {
		return append(slices.Clone(all), c)
	}
	out := slices.Clone(all)
	of := &out[i]
	of.Edges = cmp.Or(c.Edges, of.Edges)
	if of.Set = maps.Clone(of.Set); of.Set == nil {
		of.Set = map[string]string{}
	}
	maps.Copy(of.Set, c.Set)
	was := maps.Clone(c.Was)
	if was != nil {
		maps.Copy(was, of.Was) // it was what it was before the first change
		of.Was = was
	}
	return out
}

// ErrNoAccent: a theme's sheets name no colour for what is selected.
var ErrNoAccent = errors.New("the theme names no accent that could be moved")

// move is the moves of a recipe with another one; one by nothing is none.
func (l *Layers) move(ctx context.Context, d *desks.Managed, r layer.Recipe, m layer.Move) ([]layer.Move, error) {
	i := slices.IndexFunc(r.Moves, func(k layer.Move) bool { return k.Of == m.Of })
	var was layer.Move
	rest := slices.Clone(r.Moves)
	if i >= 0 {
		was, rest = rest[i], slices.Delete(rest, i, i+1)
	}
	if m.Of == layer.MoveAccent {
		if m.From, m.Was = was.From, was.Was; m.From == "" {
			root, err := r.Base.Find(d.Desk)
			if err != nil {
				return nil, err
			}
			if m.From, err = layer.Accent(ctx, d.Tree(), root); err != nil {
				return nil, err
			}
			if m.From == "" {
				return nil, ErrNoAccent
			}
		}
	}
	if m.To == "" || m.To == "100%" || m.Of == layer.MoveAccent && m.To == m.From {
		return rest, nil
	}
	rest = append(rest, m)
	order := func(m layer.Move) int {
		return slices.IndexFunc(layer.Moves, func(of layer.MoveInfo) bool { return of.Of == m.Of })
	}
	slices.SortStableFunc(rest, func(a, b layer.Move) int { return cmp.Compare(order(a), order(b)) })
	return rest, nil
}

// begun is the recipe that changes to a theme go into: the one being made, that which the theme
// was built from, or a new one.
func (l *Layers) begun(ctx context.Context, d *desks.Managed, kind parcel.Kind, theme string) (layer.Recipe, error) {
	r, ok, err := l.Making(d)
	if err != nil {
		return r, err
	}
	if ok {
		if kind != r.Base.Kind || theme != r.Base.Folder && theme != r.Folder {
			return r, say.Errorf("changes to %s are being made: %w", r.Base.Folder, ErrOther)
		}
		return r, nil
	}
	root, err := layer.Base{Kind: kind, Folder: theme}.Find(d.Desk)
	if err != nil {
		return r, say.Errorf("%w. Install it first, if it is only tried on", err)
	}
	if of, ok := l.pieces.LayerAt(ctx, d.Desk, desk.Path(root)); ok && of.Wrong == "" && !of.Gone {
		return of.Recipe, nil
	}
	origins, err := l.record.Origins(d.ID)
	if err != nil {
		return r, err
	}
	r = layer.Recipe{Name: theme + ", mine", Folder: l.free(d, kind, theme+"-Mine")}
	r.Base, err = library.DescribeBase(ctx, d.Desk, kind, root, origins)
	return r, err
}

// free is a folder's name that no piece of a kind has on a desk.
func (l *Layers) free(d *desks.Managed, kind parcel.Kind, name string) string {
	for n := 1; n < 100; n++ {
		try := name
		if n > 1 {
			try = fmt.Sprint(name, "-", n)
		}
		if _, err := (layer.Base{Kind: kind, Folder: try}).Find(d.Desk); err != nil {
			return try
		}
	}
	return name
}

func (l *Layers) save(d *desks.Managed, r layer.Recipe) error {
	if err := r.Valid(); err != nil {
		return err
	}
	return l.store.SaveMaking(store.MakingRow{Desk: d.ID, Text: r.Bytes()})
}

// Take takes a change back by its number among [Changes].
func (l *Layers) Take(d *desks.Managed, n int) error {
	d.Lock()
	defer d.Unlock()
	r, ok, err := l.Making(d)
	if err != nil {
		return err
	}
	all := Changes(r)
	if !ok || n < 0 || n >= len(all) {
		return errors.New("that change is not there any more")
	}
	all[n].take(&r)
	if r.Size() == 0 {
		return l.store.DropMaking(d.ID)
	}
	return l.save(d, r)
}

// Said is one change of a recipe as people read it.
type Said struct {
	Where    string // what is moved, the colour's name, or the selector
	Property string // "" for all but rules
	Value    string
	Was      string // what the theme said when it was built last, "" if that is not known
	take     func(r *layer.Recipe)
}

// Changes are the changes of a recipe one by one: moves of the whole, colours, and each property
// of the rules and of elements' shapes.
func Changes(r layer.Recipe) (out []Said) {
	for i, c := range r.Moves {
		of := slices.IndexFunc(layer.Moves, func(of layer.MoveInfo) bool { return of.Of == c.Of })
		s := Said{Where: layer.Moves[of].Title, Value: c.To, Was: c.From}
		s.take = func(r *layer.Recipe) { r.Moves = slices.Delete(r.Moves, i, i+1) }
		out = append(out, s)
	}
	for i, c := range r.Colours {
		s := Said{Where: "@" + c.Name, Value: c.Value}
		for _, sheet := range slices.Sorted(maps.Keys(c.Was)) {
			s.Was = cmp.Or(s.Was, c.Was[sheet])
		}
		s.take = func(r *layer.Recipe) { r.Colours = slices.Delete(r.Colours, i, i+1) }
		out = append(out, s)
	}
	for i := range r.Elements {
		out = append(out, ofElement(r, i)...)
	}
	for i, c := range r.Icons {
		value := cmp.Or(c.Like, "a picture of your own")
		out = append(out, Said{Where: c.Name, Value: value, take: func(r *layer.Recipe) { r.Icons = slices.Delete(r.Icons, i, i+1) }})
	}
	for i, c := range r.Rules {
		for _, name := range slices.Sorted(maps.Keys(c.Set)) {
			s := Said{Where: c.Selector, Property: name, Value: c.Set[name]}
			for _, sheet := range slices.Sorted(maps.Keys(c.Was)) {
				s.Was = cmp.Or(s.Was, c.Was[sheet][name])
			}
			s.take = func(r *layer.Recipe) {
				delete(r.Rules[i].Set, name)
				if len(r.Rules[i].Set) == 0 {
					r.Rules = slices.Delete(r.Rules, i, i+1)
				}
			}
			out = append(out, s)
		}
	}
	return out
}

// ofElement are the changes to an element one by one.
func ofElement(r layer.Recipe, i int) (out []Said) {
	c := r.Elements[i]
	where := c.Name
	if c.Shape > 0 {
		where += fmt.Sprintf(", shape %d", c.Shape)
	}
	say := func(property, value, was string, take func(e *layer.Element)) {
		out = append(out, Said{where, property, value, was, func(r *layer.Recipe) {
			if take(&r.Elements[i]); r.Elements[i].Empty() {
				r.Elements = slices.Delete(r.Elements, i, i+1)
			}
		}})
	}
	if c.From != "" {
		say("", "what was called "+c.From, "", func(e *layer.Element) { e.From = "" })
	}
	if c.Like != "" {
		say("", "drawn like "+c.Like, "", func(e *layer.Element) { e.Like = "" })
	}
	if c.Edges != "" {
		say("edges", c.Edges, "", func(e *layer.Element) { e.Edges = "" })
	}
	for _, name := range slices.Sorted(maps.Keys(c.Set)) {
		say(name, c.Set[name], c.Was[name], func(e *layer.Element) { delete(e.Set, name) })
	}
	return out
}

// Discard forgets what is being made.
func (l *Layers) Discard(d *desks.Managed) error { return l.store.DropMaking(d.ID) }

// Build starts building what is being made, under a name, and trying the result on; one that
// was built before is put in its place at once, with a checkpoint. then is where a page goes on.
func (l *Layers) Build(ctx context.Context, d *desks.Managed, name, then string) (*jobs.Job, error) {
	r, ok, err := l.Making(d)
	if err != nil {
		return nil, err
	}
	if !ok {
		return nil, errors.New("there are no changes to build")
	}
	r.Name = cmp.Or(name, r.Name)
	root, err := r.Base.Find(d.Desk)
	if err != nil {
		return nil, err
	}
	if r, _, err = layer.Rebased(ctx, d.Tree(), root, r); err != nil {
		return nil, err
	}
	if _, err := (layer.Base{Kind: r.Base.Kind, Folder: r.Folder}).Find(d.Desk); err == nil {
		_, job, err := l.pieces.Layer(ctx, d, r, false, then)
		if err != nil {
			return nil, err
		}
		return job, l.Discard(d)
	}
	row, _, _, err := l.pieces.KeepLayer(ctx, d, r, nil)
	if err != nil {
		return nil, err
	}
	return l.jobs.Start("Try on "+r.Name, func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		t, err := l.overlays.LaidOut(ctx, j, d, row.SHA256)
		if err != nil {
			return err
		}
		d.Lock()
		defer d.Unlock()
		before, err := l.drafts.Draft(d)
		if err != nil {
			return err
		}
		if _, err = l.drafts.Redraft(d, "trying on "+r.Name, before, worn(d, before, t, r)); err != nil {
			return err
		}
		return l.Discard(d)
	}), nil
}

// worn is a draft with what a recipe builds in each place of the theme below.
func worn(d *desks.Managed, o outfit.Outfit, t drafts.Tried, r layer.Recipe) outfit.Outfit {
	after, some := o, false
	for _, p := range t.Pieces {
		if below(d, o, p.Facet, r.Base.Folder) {
			after, some = after.With(p.Facet, p.Want), true
		}
	}
	if !some && len(t.Pieces) > 0 {
		after = after.With(t.Pieces[0].Facet, t.Pieces[0].Want)
	}
	return after
}

// below reports whether some surface shows a theme for a facet, with what a draft asks for.
func below(d *desks.Managed, o outfit.Outfit, facet, theme string) bool {
	for _, s := range d.Surfaces() {
		f, has := s.Facet(facet)
		if !has {
			continue
		}
		if path.Base(cmp.Or(o.WantOn(s.ID, facet), reading.Told(d.Desk, s, f).Value)) == theme {
			return true
		}
	}
	return false
}
