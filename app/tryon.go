package app

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/plan"
	"ivelt/store"
)

// Trying on: pieces of a parcel are put in place in a folder of Ivelt's own that
// is laid under the desk's home when a look is pictured or planned. The desk has
// nothing of them until the plan of a draft that names them is applied.

// tried is a parcel in the fitting room of a desk.
type tried struct {
	SHA    string       `json:"sha256"`
	Pieces []triedPiece `json:"pieces"`
	dir    string
}

// triedPiece is what a facet can be told to wear of it.
type triedPiece struct {
	Facet string `json:"facet"`
	Want  string `json:"want"` // of a font the family
	Key   string `json:"key"`  // of the piece in its parcel
}

// facetsOf are the facets that a piece of a kind can be chosen for.
func facetsOf(pc parcel.Piece) []string {
	switch pc.Kind {
	case parcel.Theme:
		var out []string
		for _, part := range pc.Parts {
			facet := desk.FacetBar
			if strings.HasPrefix(part, "gtk-") {
				facet = desk.FacetWidgets
			}
			if !slices.Contains(out, facet) {
				out = append(out, facet)
			}
		}
		return out
	case parcel.Icons:
		return []string{desk.FacetIcons}
	case parcel.Pointer:
		return []string{desk.FacetPointer}
	case parcel.Font:
		return []string{desk.FacetFont}
	case parcel.Backdrop:
		return []string{desk.FacetBackdrop}
	case parcel.Palette:
		return []string{desk.FacetPalette}
	case parcel.Style:
		return []string{desk.FacetPictures}
	}
	return nil
}

func (a *App) fittingRoom(d *Desk) string { return filepath.Join(a.Store.Dir, "fitting", d.ID) }

// tryings lists what is in the fitting room.
func (a *App) tryings(d *Desk) []tried {
	files, err := filepath.Glob(filepath.Join(a.fittingRoom(d), "*.json"))
	if err != nil {
		return nil
	}
	var out []tried
	for _, file := range files {
		b, err := os.ReadFile(file)
		if err != nil {
			continue // it was just taken away
		}
		t := tried{dir: strings.TrimSuffix(file, ".json")}
		if json.Unmarshal(b, &t) == nil {
			out = append(out, t)
		}
	}
	return out
}

func (t tried) has(o outfit.Outfit) bool {
	return slices.ContainsFunc(t.Pieces, func(p triedPiece) bool { return p.in(o) })
}

func (p triedPiece) in(o outfit.Outfit) bool {
	c := o.Choices[p.Facet]
	return p.Want == cmp.Or(c.Piece, c.Value)
}

// Trying is the desk as it would be with the pieces that an outfit names and
// that are in the fitting room only. It is to be looked at, not written to.
func (a *App) Trying(d *Desk, o outfit.Outfit) *desk.Desk {
	with := *d.Desk
	for _, t := range a.tryings(d) {
		if t.has(o) {
			with.Layers = append(with.Layers, t.dir)
		}
	}
	return &with
}

// Overlay is the desk with all that is in the fitting room.
func (a *App) Overlay(d *Desk) *desk.Desk {
	with := *d.Desk
	for _, t := range a.tryings(d) {
		with.Layers = append(with.Layers, t.dir)
	}
	return &with
}

// TryOn starts bringing a parcel of the library into the fitting room and puts
// its pieces on the draft, of each kind the first. When done the job leads to
// then.
func (a *App) TryOn(d *Desk, sha, then string) (*jobs.Job, error) {
	row, err := a.Store.Parcel(sha)
	if err != nil {
		return nil, err
	}
	return a.Jobs.Start("Try on "+cmp.Or(row.Title, row.Name), func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		return a.tryOn(ctx, j, d, sha)
	}), nil
}

// TryFromMarket starts fetching a market's parcel to try it on.
func (a *App) TryFromMarket(d *Desk, w Wanted, then string) (*jobs.Job, error) {
	t, err := a.transfer(w)
	if err != nil {
		return nil, err
	}
	return a.Jobs.Start("Try on "+t.entry.Name, func(ctx context.Context, j *jobs.Job) error {
		j.MayPause()
		sha, err := t.run(ctx, j)
		if err != nil {
			return err
		}
		j.Then(then)
		return a.tryOn(ctx, j, d, sha)
	}), nil
}

// ErrNothingToTry: a parcel has no piece that a desk could be pictured with.
var ErrNothingToTry = errors.New("there is no window theme, icon pack, pointer set, font or backdrop in it to try on")

func (a *App) tryOn(ctx context.Context, j *jobs.Job, d *Desk, sha string) error {
	row, err := a.Store.Parcel(sha)
	if err != nil {
		return err
	}
	t, err := a.laidOut(ctx, j, d, sha)
	if err != nil {
		return err
	}
	d.Lock()
	defer d.Unlock()
	before, err := a.Draft(d)
	if err != nil {
		return err
	}
	after, done := before, map[string]bool{}
	for _, p := range t.Pieces {
		if done[p.Facet] {
			continue
		}
		done[p.Facet] = true
		want := p.Want
		if p.Facet == desk.FacetFont {
			_, size := FontOf(d.Desk, before)
			want = fmt.Sprintf("%s %g", want, size)
		}
		after = after.With(p.Facet, want)
	}
	_, err = a.redraft(d, "trying on "+cmp.Or(row.Title, row.Name), before, after)
	return err
}

// laidOut is a parcel of the library in the fitting room, brought there if it is
// not yet.
func (a *App) laidOut(ctx context.Context, j *jobs.Job, d *Desk, sha string) (tried, error) {
	known := a.tryings(d)
	if i := slices.IndexFunc(known, func(k tried) bool { return k.SHA == sha }); i >= 0 {
		return known[i], nil
	}
	row, err := a.Store.Parcel(sha)
	if err != nil {
		return tried{}, err
	}
	j.Step("Laying it out", "files")
	t := tried{SHA: sha, dir: filepath.Join(a.fittingRoom(d), sha)}
	err = a.layOut(ctx, j.At, d, row, &t, "")
	return t, err
}

// layOut puts the pieces of a parcel in their places below t.dir: in a home, or in
// the home of a whole tree if it is named.
func (a *App) layOut(ctx context.Context, progress func(done, total int64), d *Desk, row store.ParcelRow, t *tried, home string) error {
	contents, err := Contents(row)
	if err != nil {
		return err
	}
	p, err := a.Open(ctx, row)
	if err != nil {
		return err
	}
	fresh := t.dir + ".new"
	if err := os.RemoveAll(fresh); err != nil {
		return err
	}
	if err := errors.Join(os.MkdirAll(fresh, 0o755), os.RemoveAll(t.dir+".journal")); err != nil {
		return err
	}
	defer os.RemoveAll(fresh)
	room := *d.Desk
	room.Home, room.Layers, room.Writable = filepath.Join(fresh, filepath.FromSlash(home)), nil, true
	if err := os.MkdirAll(room.Home, 0o755); err != nil {
		return err
	}
	var placings []plan.Placing
	for _, pc := range contents.Pieces {
		facets := facetsOf(pc)
		if len(facets) == 0 {
			continue
		}
		one, err := place.All([]parcel.Piece{pc}, &room, place.Mine, plan.Leave, plan.ByLink)
		if err != nil || slices.ContainsFunc(placings, func(pl plan.Placing) bool { return pl.Target == one[0].Target }) {
			continue
		}
		placings = append(placings, one...)
		for _, facet := range facets {
			switch {
			case facet == desk.FacetFont:
				t.Pieces = append(t.Pieces, triedPiece{facet, pc.Name, PieceKey(pc)})
			case facet == desk.FacetBackdrop:
				for _, file := range pc.Only {
					t.Pieces = append(t.Pieces, triedPiece{facet, path.Join(one[0].Target, path.Base(file)), PieceKey(pc)})
				}
			default:
				t.Pieces = append(t.Pieces, triedPiece{facet, pc.Folder, PieceKey(pc)})
			}
		}
	}
	if len(t.Pieces) == 0 {
		return ErrNothingToTry
	}
	pl, err := plan.Install(ctx, &room, p, placings)
	if err != nil {
		return err
	}
	if err := plan.Apply(ctx, &room, pl, plan.Config{Keep: a.Store.Blobs, Journal: t.dir + ".journal", Progress: func(done, total int) { progress(int64(done), int64(total)) }}); err != nil {
		return err
	}
	if err := os.RemoveAll(t.dir); err != nil {
		return err
	}
	if err := os.Rename(fresh, t.dir); err != nil {
		return err
	}
	if home != "" {
		return os.RemoveAll(t.dir + ".journal")
	}
	b, err := json.Marshal(t)
	if err != nil {
		return err
	}
	return os.WriteFile(t.dir+".json", b, 0o600)
}

// Untry takes a parcel out of the fitting room.
func (a *App) Untry(d *Desk, sha string) error {
	if sha == "" || sha != filepath.Base(sha) {
		return fmt.Errorf("there is nothing called %q to try on", sha)
	}
	at := filepath.Join(a.fittingRoom(d), sha)
	return errors.Join(os.RemoveAll(at+".json"), os.RemoveAll(at))
}

// clearRoom takes out of the fitting room what is in place by now.
func (a *App) clearRoom(d *Desk) error {
	for _, t := range a.tryings(d) {
		row, err := a.Store.Parcel(t.SHA)
		if err != nil {
			continue
		}
		waits := slices.ContainsFunc(t.Pieces, func(p triedPiece) bool {
			pc, err := PieceOf(row, p.Key)
			if err != nil {
				return false
			}
			target, err := place.Target(pc, d.Desk, place.Mine)
			return err == nil && !d.Exists(target)
		})
		if waits {
			continue
		}
		if err := a.Untry(d, t.SHA); err != nil {
			return err
		}
	}
	return nil
}

// fitting is a parcel whose pieces a draft names and the desk does not have.
type fitting struct {
	row    store.ParcelRow
	pieces []parcel.Piece
}

// fittings are the parcels that have to be put in place before a draft can be
// worn.
func (a *App) fittings(d *Desk, o outfit.Outfit) ([]fitting, error) {
	var out []fitting
	for _, t := range a.tryings(d) {
		f := fitting{}
		for _, p := range t.Pieces {
			if !p.in(o) {
				continue
			}
			if f.row.SHA256 == "" {
				var err error
				if f.row, err = a.Store.Parcel(t.SHA); err != nil {
					return nil, fmt.Errorf("the parcel of %s is not in the library any more: %w", p.Want, err)
				}
			}
			pc, err := PieceOf(f.row, p.Key)
			if err != nil {
				return nil, err
			}
			target, err := place.Target(pc, d.Desk, place.Mine)
			if err != nil {
				return nil, err
			}
			if !d.Exists(target) && !slices.ContainsFunc(f.pieces, func(have parcel.Piece) bool { return PieceKey(have) == p.Key }) {
				f.pieces = append(f.pieces, pc)
			}
		}
		if len(f.pieces) > 0 {
			out = append(out, f)
		}
	}
	return out, nil
}

// ToPlace names the pieces of a draft that would be put in place first.
func (a *App) ToPlace(d *Desk, o outfit.Outfit) ([]string, error) {
	all, err := a.fittings(d, o)
	var out []string
	for _, f := range all {
		for _, pc := range f.pieces {
			out = append(out, pc.Name)
		}
	}
	return out, err
}

// dressPlan is the plan for a draft, with what it has to put in place.
func (a *App) dressPlan(ctx context.Context, d *Desk, o outfit.Outfit, opt plan.Options) (plan.Plan, []fitting, error) {
	all, err := a.fittings(d, o)
	if err != nil {
		return plan.Plan{}, nil, err
	}
	var first []plan.Fitting
	for _, f := range all {
		p, err := a.Open(ctx, f.row)
		if err != nil {
			return plan.Plan{}, nil, err
		}
		placings, err := place.All(f.pieces, d.Desk, place.Mine, plan.Refuse, plan.ByLink)
		if err != nil {
			return plan.Plan{}, nil, err
		}
		first = append(first, plan.Fitting{Parcel: p, Placings: placings})
	}
	pl, err := plan.DressWith(ctx, d.Desk, a.Trying(d, o), o, first, opt)
	return pl, all, err
}

// placedBy are the rows of what a plan puts in place out of parcels of the library.
func (a *App) placedBy(d *Desk, pl plan.Plan) ([]store.PieceRow, error) {
	copies := func(row store.ParcelRow) bool {
		return slices.ContainsFunc(pl.Ops, func(op plan.Op) bool { return op.Kind == plan.Copy && op.Source.Parcel == row.File })
	}
	if !slices.ContainsFunc(pl.Ops, func(op plan.Op) bool { return op.Kind == plan.Copy }) {
		return nil, nil
	}
	rows, err := a.Store.Parcels()
	if err != nil {
		return nil, err
	}
	var out []store.PieceRow
	for _, row := range rows {
		if !copies(row) {
			continue
		}
		contents, err := Contents(row)
		if err != nil {
			return nil, err
		}
		out = append(out, placed(d, row, contents.Pieces, pl)...)
	}
	return out, nil
}
