package app

import (
	"cmp"
	"errors"
	"fmt"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/reading"
	"ivelt/store"
)

// Choose puts a piece or a value on the desk's draft; "" takes the facet off it.
// Of a font the family or the size alone can be given, " 12": the other stays.
func (a *App) Choose(d *Desk, facet, want string) (outfit.Outfit, error) {
	info, ok := desk.FacetOf(facet)
	if !ok {
		return outfit.Outfit{}, fmt.Errorf("there is no facet %q", facet)
	}
	d.Lock()
	defer d.Unlock()
	o, err := a.Draft(d)
	if err != nil {
		return o, err
	}
	if info.Takes == desk.TakesFont && want != "" {
		family, size := desk.SplitFont(want)
		wasFamily, wasSize := FontOf(d.Desk, o)
		want = cmp.Or(family, wasFamily) + " " + strconv.FormatFloat(cmp.Or(size, wasSize), 'f', -1, 64)
	}
	if want != "" {
		if err := info.Accepts(want); err != nil {
			return o, err
		}
	}
	if o.Want(facet) == want {
		return o, nil
	}
	what := info.Title + ": " + path.Base(want)
	if want == "" {
		what = info.Title + " off"
	}
	return a.redraft(d, what, o, o.With(facet, want))
}

// FontOf is the font on the draft, or what the first surface that has one is
// told: its family, and its size in points.
func FontOf(d *desk.Desk, o outfit.Outfit) (family string, size float64) {
	family, size = desk.SplitFont(o.Want(desk.FacetFont))
	for _, s := range d.Surfaces {
		f, ok := s.Facet(desk.FacetFont)
		if !ok || family != "" && size > 0 {
			continue
		}
		itsFamily, itsSize := desk.SplitFont(reading.Of(d, s, f).Value)
		family, size = cmp.Or(family, itsFamily), cmp.Or(size, itsSize)
	}
	return family, cmp.Or(size, 10)
}

// DropDraft forgets the draft; that can be undone.
func (a *App) DropDraft(d *Desk) error {
	d.Lock()
	defer d.Unlock()
	o, err := a.Draft(d)
	if err != nil || len(o.Choices) == 0 {
		return err
	}
	_, err = a.redraft(d, "dropping the draft", o, outfit.Outfit{})
	return err
}

// redraft makes the draft another one and keeps how to undo that.
func (a *App) redraft(d *Desk, title string, before, after outfit.Outfit) (outfit.Outfit, error) {
	if len(after.Choices) > 0 {
		var pieces []string
		for _, f := range after.Facets() {
			p := path.Base(cmp.Or(after.Choices[f].Piece, after.Want(f)))
			if info, _ := desk.FacetOf(f); info.Takes != desk.TakesPiece && info.Takes != desk.TakesFont && len(after.Choices) > 1 {
				continue
			}
			if !slices.Contains(pieces, p) {
				pieces = append(pieces, p)
			}
		}
		if len(pieces) == 0 {
			pieces = []string{"Settings"}
		}
		after.Name = strings.Join(pieces, ", ") + " on " + d.Title
	}
	if err := a.Store.AddUndoStep(store.UndoStepRow{Desk: d.ID, Title: title, Before: textOf(before), After: textOf(after)}); err != nil {
		return outfit.Outfit{}, err
	}
	return after, a.setDraft(d, textOf(after))
}

func textOf(o outfit.Outfit) []byte {
	if len(o.Choices) == 0 {
		return nil
	}
	return o.Bytes()
}

func (a *App) setDraft(d *Desk, text []byte) error {
	if len(text) == 0 {
		return a.Store.DropDraft(d.ID)
	}
	o, err := outfit.Parse(text)
	if err != nil {
		return err
	}
	row, err := a.Store.Draft(d.ID)
	if err != nil && !errors.Is(err, store.ErrNone) {
		return err
	}
	row.Desk, row.Draft, row.Name, row.Text = d.ID, true, o.Name, text
	return a.Store.SaveOutfit(&row)
}

// Steps names what can be undone and what can be done again, "" for nothing.
func (a *App) Steps(d *Desk) (undo, redo string) {
	if s, err := a.Store.LastUndoStep(d.ID, false); err == nil {
		undo = s.Title
	}
	if s, err := a.Store.LastUndoStep(d.ID, true); err == nil {
		redo = s.Title
	}
	return undo, redo
}

// Undo takes the last change of the draft back; again does it once more.
func (a *App) Undo(d *Desk, again bool) error {
	d.Lock()
	defer d.Unlock()
	s, err := a.Store.LastUndoStep(d.ID, again)
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
	if err := a.setDraft(d, text); err != nil {
		return err
	}
	return a.Store.MarkUndoStep(s.ID, !again)
}

// Kept is a look that was put by.
type Kept struct {
	ID     uint
	Name   string
	Outfit outfit.Outfit
}

// Looks lists the looks that were put by for a desk.
func (a *App) Looks(d *Desk) ([]Kept, error) {
	rows, err := a.Store.Looks(d.ID)
	if err != nil {
		return nil, err
	}
	var out []Kept
	for _, r := range rows {
		o, err := outfit.Parse(r.Text)
		if err != nil {
			return nil, fmt.Errorf("the look %s: %w", r.Name, err)
		}
		out = append(out, Kept{r.ID, r.Name, o})
	}
	return out, nil
}

// Look returns one of them.
func (a *App) Look(d *Desk, id uint) (Kept, error) {
	r, err := a.Store.Look(d.ID, id)
	if err != nil {
		return Kept{}, fmt.Errorf("this look is not kept any more: %w", err)
	}
	o, err := outfit.Parse(r.Text)
	return Kept{r.ID, r.Name, o}, err
}

// KeepLook puts the draft by under a name; "" names it after its pieces.
func (a *App) KeepLook(d *Desk, name string) (Kept, error) {
	o, err := a.Draft(d)
	if err != nil {
		return Kept{}, err
	}
	if len(o.Choices) == 0 {
		return Kept{}, errors.New("the draft is empty: choose something first")
	}
	return a.putBy(d, name, o)
}

func (a *App) putBy(d *Desk, name string, o outfit.Outfit) (Kept, error) {
	if name = strings.TrimSpace(name); name == "" {
		name = strings.TrimSuffix(o.Name, " on "+d.Title)
	}
	if len(name) > 200 {
		return Kept{}, errors.New("this name is longer than 200 letters")
	}
	o.Name = name
	row := store.LookRow{Desk: d.ID, Name: name, Text: o.Bytes()}
	return Kept{row.ID, name, o}, a.Store.SaveLook(&row)
}

// TakeLook makes a look that was put by the draft.
func (a *App) TakeLook(d *Desk, id uint) error {
	k, err := a.Look(d, id)
	if err != nil {
		return err
	}
	d.Lock()
	defer d.Unlock()
	o, err := a.Draft(d)
	if err != nil {
		return err
	}
	_, err = a.redraft(d, "taking "+k.Name, o, k.Outfit)
	return err
}

// RenameLook gives a look another name.
func (a *App) RenameLook(d *Desk, id uint, name string) error {
	row, err := a.Store.Look(d.ID, id)
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
	return a.Store.SaveLook(&row)
}

// CopyLook puts the same look by once more.
func (a *App) CopyLook(d *Desk, id uint) error {
	k, err := a.Look(d, id)
	if err != nil {
		return err
	}
	_, err = a.putBy(d, k.Name+" (2)", k.Outfit)
	return err
}

// DropLook forgets a look.
func (a *App) DropLook(d *Desk, id uint) error { return a.Store.DropLook(d.ID, id) }
