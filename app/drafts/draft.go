// Package drafts composes outfits: choosing, undoing, trying pieces on that are not in
// place, and judging what comes of it.
package drafts

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/outfit"
	"ivelt/core/say"
	"ivelt/store"
)

// Drafts are the outfits that desks are to wear and those that they wear, with the looks
// that are put by.
type Drafts struct {
	store   draftStore
	record  library.Record
	notices *desks.Notices
}

type draftStore interface {
	Draft(desk string) (store.OutfitRow, error)
	DropDraft(desk string) error
	SaveOutfit(o *store.OutfitRow) error
	Worn(desk string) ([]store.OutfitRow, error)
	AddUndoStep(step store.UndoStepRow) error
	LastUndoStep(desk string, undone bool) (store.UndoStepRow, error)
	MarkUndoStep(id uint, undone bool) error
	Looks(desk string) ([]store.LookRow, error)
	Look(desk string, id uint) (store.LookRow, error)
	SaveLook(k *store.LookRow) error
	DropLook(desk string, id uint) error
}

// New returns the drafts in a store.
func New(s draftStore, r library.Record, n *desks.Notices) *Drafts { return &Drafts{s, r, n} }

// Draft returns the outfit being composed for a desk; its name is "" if there
// is none.
func (ds *Drafts) Draft(d *desks.Managed) (outfit.Outfit, error) {
	return parseOutfit(ds.store.Draft(d.ID))
}

// Worn returns the outfit the desk was last dressed in, as far as Ivelt knows.
func (ds *Drafts) Worn(d *desks.Managed) (outfit.Outfit, error) {
	rows, err := ds.store.Worn(d.ID)
	if err != nil || len(rows) == 0 {
		return outfit.Outfit{}, err
	}
	return outfit.Parse(rows[0].Text)
}

func parseOutfit(row store.OutfitRow, err error) (outfit.Outfit, error) {
	if errors.Is(err, store.ErrNone) {
		return outfit.Outfit{}, nil
	}
	if err != nil {
		return outfit.Outfit{}, err
	}
	return outfit.Parse(row.Text)
}

// Wanted is what the match board holds the desk against: what it was last dressed
// in, and the draft over it.
func (ds *Drafts) Wanted(d *desks.Managed) (o, draft outfit.Outfit, err error) {
	if draft, err = ds.Draft(d); err != nil {
		return o, draft, err
	}
	if o, err = ds.Worn(d); err == nil && len(draft.Choices) > 0 {
		o = o.Over(draft)
	}
	return o, draft, err
}

// Dressed says in words what the desk wears.
func (ds *Drafts) Dressed(d *desks.Managed) say.Message {
	worn, err := ds.Worn(d)
	if err == nil && worn.Name != "" {
		return say.Words(worn.Name)
	}
	return say.Line("the original look")
}

// Choose puts a piece or a value on the desk's draft, see [Drafts.With].
func (ds *Drafts) Choose(d *desks.Managed, facet, want string) (outfit.Outfit, error) {
	d.Lock()
	defer d.Unlock()
	o, err := ds.Draft(d)
	if err != nil {
		return o, err
	}
	after, err := ds.With(d, o, facet, want)
	if err != nil || o.Want(facet) == after.Want(facet) {
		return o, err
	}
	what := string(desk.FacetTitle(facet)) + ": " + fine.Says(facet, after.Want(facet)).String()
	if want == "" {
		what = string(desk.FacetTitle(facet)) + " off"
	}
	return ds.Redraft(d, what, o, after)
}

// ChooseAll puts several choices on the draft, by facet, in one step that is undone as one.
func (ds *Drafts) ChooseAll(d *desks.Managed, title string, choices map[string]string) (outfit.Outfit, error) {
	d.Lock()
	defer d.Unlock()
	before, err := ds.Draft(d)
	if err != nil {
		return before, err
	}
	after := before
	for _, facet := range slices.Sorted(maps.Keys(choices)) {
		if after, err = ds.With(d, after, facet, choices[facet]); err != nil {
			return before, err
		}
	}
	if !slices.ContainsFunc(slices.Collect(maps.Keys(choices)), func(facet string) bool { return before.Want(facet) != after.Want(facet) }) {
		return before, nil
	}
	return ds.Redraft(d, title, before, after)
}

// With is an outfit with a piece or a value for a facet; "" takes the facet off it. Of a font
// the family or the size alone can be given, " 12": the other stays.
func (ds *Drafts) With(d *desks.Managed, o outfit.Outfit, facet, want string) (outfit.Outfit, error) {
	info, ok := desk.FacetOf(facet)
	if !ok {
		return outfit.Outfit{}, say.Errorf("there is no facet %q", facet)
	}
	if info.Takes == desk.TakesFont && want != "" {
		family, size := desk.SplitFont(want)
		wasFamily, wasSize := fine.FontOf(d.Desk, o, facet)
		if cmp.Or(family, wasFamily) == "" {
			return o, say.Errorf("choose a font first: no size is taken without one")
		}
		want = cmp.Or(family, wasFamily) + " " + strconv.FormatFloat(cmp.Or(size, wasSize), 'f', -1, 64)
	}
	if want != "" {
		if err := info.Accepts(want); err != nil {
			return o, err
		}
	}
	return o.With(facet, want), nil
}

// Drop forgets the draft; that can be undone.
func (ds *Drafts) Drop(d *desks.Managed) error {
	d.Lock()
	defer d.Unlock()
	o, err := ds.Draft(d)
	if err != nil || len(o.Choices) == 0 {
		return err
	}
	_, err = ds.Redraft(d, "dropping the draft", o, outfit.Outfit{})
	return err
}

// Redraft makes the draft another one and keeps how to undo that.
func (ds *Drafts) Redraft(d *desks.Managed, title string, before, after outfit.Outfit) (outfit.Outfit, error) {
	if len(after.Choices) > 0 {
		after.Name = nameOf(after)
	}
	if err := ds.store.AddUndoStep(store.UndoStepRow{Desk: d.ID, Title: title, Before: textOf(before), After: textOf(after)}); err != nil {
		return outfit.Outfit{}, err
	}
	return after, ds.setDraft(d, textOf(after))
}

// named is how many choices an outfit's name names.
const named = 3

// nameOf is what an outfit is called as long as nobody named it: the pieces it has, or, of
// one without, its settings.
func nameOf(o outfit.Outfit) string {
	var pieces, settings []string
	for _, f := range o.Facets() {
		info, _ := desk.FacetOf(f)
		want := cmp.Or(o.Choices[f].Piece, o.Want(f))
		if info.Long() {
			settings = append(settings, string(info.Title))
		} else if info.Takes != desk.TakesPiece && f != desk.FacetFont {
			settings = append(settings, string(info.Title)+" "+info.Says(o.Want(f)).String())
		} else if p := path.Base(want); !slices.Contains(pieces, p) {
			pieces = append(pieces, p)
		}
	}
	if len(pieces) == 0 {
		pieces = settings
	}
	name := strings.Join(pieces[:min(named, len(pieces))], ", ")
	if more := len(pieces) - named; more > 0 {
		name += fmt.Sprintf(" and %d more", more)
	}
	return name
}

func textOf(o outfit.Outfit) []byte {
	if len(o.Choices) == 0 {
		return nil
	}
	return o.Bytes()
}

func (ds *Drafts) setDraft(d *desks.Managed, text []byte) error {
	if len(text) == 0 {
		return ds.store.DropDraft(d.ID)
	}
	o, err := outfit.Parse(text)
	if err != nil {
		return err
	}
	row, err := ds.store.Draft(d.ID)
	if err != nil && !errors.Is(err, store.ErrNone) {
		return err
	}
	row.Desk, row.Draft, row.Name, row.Text = d.ID, true, o.Name, text
	return ds.store.SaveOutfit(&row)
}

// Steps names what can be undone and what can be done again, "" for nothing.
func (ds *Drafts) Steps(d *desks.Managed) (undo, redo string) {
	if s, err := ds.store.LastUndoStep(d.ID, false); err == nil {
		undo = s.Title
	}
	if s, err := ds.store.LastUndoStep(d.ID, true); err == nil {
		redo = s.Title
	}
	return undo, redo
}

// Undo takes the last change of the draft back; again does it once more.
func (ds *Drafts) Undo(d *desks.Managed, again bool) error {
	d.Lock()
	defer d.Unlock()
	s, err := ds.store.LastUndoStep(d.ID, again)
	if errors.Is(err, store.ErrNone) {
		return errors.New("there is nothing to undo")
	}
	if err != nil {
		return err
	}
	text := s.Before
	if again {
		text = s.After
	}
	if err := ds.setDraft(d, text); err != nil {
		return err
	}
	return ds.store.MarkUndoStep(s.ID, !again)
}

// Kept is a look that was put by.
type Kept struct {
	ID     uint
	Name   string
	Outfit outfit.Outfit
}

// Saved are the outfits of the saved looks, by their names.
func (ds *Drafts) Saved(d *desks.Managed) ([]outfit.Outfit, error) {
	looks, err := ds.Looks(d)
	var out []outfit.Outfit
	for _, k := range looks {
		o := k.Outfit
		o.Name = k.Name
		out = append(out, o)
	}
	return out, err
}

// Looks lists the looks that were put by for a desk.
func (ds *Drafts) Looks(d *desks.Managed) ([]Kept, error) {
	rows, err := ds.store.Looks(d.ID)
	if err != nil {
		return nil, err
	}
	var out []Kept
	for _, r := range rows {
		o, err := outfit.Parse(r.Text)
		if err != nil {
			return nil, say.Errorf("the look %s: %w", r.Name, err)
		}
		out = append(out, Kept{r.ID, r.Name, o})
	}
	return out, nil
}

// Look returns one of them.
func (ds *Drafts) Look(d *desks.Managed, id uint) (Kept, error) {
	r, err := ds.store.Look(d.ID, id)
	if err != nil {
		return Kept{}, say.Errorf("this look is not kept any more: %w", err)
	}
	o, err := outfit.Parse(r.Text)
	return Kept{r.ID, r.Name, o}, err
}

// KeepLook puts the draft by under a name; "" names it after its pieces.
func (ds *Drafts) KeepLook(d *desks.Managed, name string) (Kept, error) {
	o, err := ds.Draft(d)
	if err != nil {
		return Kept{}, err
	}
	if len(o.Choices) == 0 {
		return Kept{}, errors.New("the draft is empty: choose something first")
	}
	return ds.putBy(d, name, o)
}

func (ds *Drafts) putBy(d *desks.Managed, name string, o outfit.Outfit) (Kept, error) {
	if name = strings.TrimSpace(name); name == "" {
		name = o.Name
	}
	if len(name) > 200 {
		return Kept{}, errors.New("this name is longer than 200 letters")
	}
	o.Name = name
	row := store.LookRow{Desk: d.ID, Name: name, Text: o.Bytes()}
	return Kept{row.ID, name, o}, ds.store.SaveLook(&row)
}

// TakeLook makes a look that was put by the draft.
func (ds *Drafts) TakeLook(d *desks.Managed, id uint) error {
	k, err := ds.Look(d, id)
	if err != nil {
		return err
	}
	d.Lock()
	defer d.Unlock()
	o, err := ds.Draft(d)
	if err != nil {
		return err
	}
	_, err = ds.Redraft(d, "taking "+k.Name, o, k.Outfit)
	return err
}

// RenameLook gives a look another name.
func (ds *Drafts) RenameLook(d *desks.Managed, id uint, name string) error {
	row, err := ds.store.Look(d.ID, id)
	if err != nil {
		return err
	}
	if name = strings.TrimSpace(name); name == "" || len(name) > 200 {
		return errors.New("a name has 1 to 200 letters")
	}
	o, err := outfit.Parse(row.Text)
	if err != nil {
		return err
	}
	o.Name = name
	row.Name, row.Text = name, o.Bytes()
	return ds.store.SaveLook(&row)
}

// CopyLook puts the same look by once more.
func (ds *Drafts) CopyLook(d *desks.Managed, id uint) error {
	k, err := ds.Look(d, id)
	if err != nil {
		return err
	}
	_, err = ds.putBy(d, k.Name+" (2)", k.Outfit)
	return err
}

// DropLook forgets a look.
func (ds *Drafts) DropLook(d *desks.Managed, id uint) error { return ds.store.DropLook(d.ID, id) }
