package drafts

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

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/say"
	"ivelt/store"
)

// Overlays lay what is tried on over desks, from folders of the data folder.
type Overlays struct {
	store   overlayStore
	dir     string
	kept    plan.Keeper
	library *library.Library
	markets *markets.Markets
	drafts  *Drafts
	jobs    *jobs.List
}

type overlayStore interface {
	Parcel(sha string) (store.ParcelRow, error)
	Parcels() ([]store.ParcelRow, error)
	DropDraft(desk string) error
	PurgeUndoSteps(desk string) error
}

// NewOverlays returns the overlays of a data folder.
func NewOverlays(s overlayStore, dir string, kept plan.Keeper, l *library.Library, m *markets.Markets, drafts *Drafts, running *jobs.List) *Overlays {
	return &Overlays{s, dir, kept, l, m, drafts, running}
}

// Worn takes off the draft what a plan has put on.
func (ov *Overlays) Worn(d *desks.Managed, p plan.Plan) error {
	o, err := outfit.Parse([]byte(p.Outfit))
	if err != nil {
		return err
	}
	draft, err := ov.drafts.Draft(d)
	if err != nil {
		return err
	}
	rest := draft.Less(o)
	if len(rest.Choices) == 0 {
		return ov.draftIsWorn(d)
	}
	return errors.Join(ov.drafts.setDraft(d, rest.Bytes()), ov.store.PurgeUndoSteps(d.ID), ov.clear(d))
}

// draftIsWorn forgets a draft that is in place.
func (ov *Overlays) draftIsWorn(d *desks.Managed) error {
	return errors.Join(ov.clear(d), ov.store.DropDraft(d.ID), ov.store.PurgeUndoSteps(d.ID))
}

// ErrToChange: a draft is not what the desk is told already.
var ErrToChange = errors.New("there is something to change: review it")

// WearDraft writes down that the draft is worn, if the desk is told all of it
// already.
func (ov *Overlays) WearDraft(ctx context.Context, d *desks.Managed) error {
	draft, err := ov.drafts.Draft(d)
	if err != nil {
		return err
	}
	p, err := ov.DressPlan(ctx, d, draft, planning.Options{})
	if err != nil {
		return err
	}
	if len(p.Ops) > 0 || len(draft.Choices) == 0 {
		return ErrToChange
	}
	d.Lock()
	defer d.Unlock()
	worn, err := ov.drafts.Worn(d)
	if err != nil {
		return err
	}
	if err := ov.drafts.IsWorn(d, worn.Over(draft)); err != nil {
		return err
	}
	return ov.draftIsWorn(d)
}

// Trying on: pieces of a parcel are put in place in a folder of Ivelt's own that
// is laid under the desk's home when a look is pictured or planned. The desk has
// nothing of them until the plan of a draft that names them is applied.

// Tried is a parcel that is tried on on a desk.
type Tried struct {
	SHA    string       `json:"sha256"`
	Pieces []TriedPiece `json:"pieces"`
	dir    string
}

// TriedPiece is what a facet can be told to wear of it.
type TriedPiece struct {
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
		return []string{desk.FacetBackdrop, desk.FacetMenuIcon}
	case parcel.Palette:
		return []string{desk.FacetPalette}
	case parcel.Style:
		return []string{desk.FacetPictures}
	}
	return nil
}

func (ov *Overlays) folder(d *desks.Managed) string { return filepath.Join(ov.dir, "fitting", d.ID) }

// Tryings lists what is tried on.
func (ov *Overlays) Tryings(d *desks.Managed) []Tried {
	files, err := filepath.Glob(filepath.Join(ov.folder(d), "*.json"))
	if err != nil {
		return nil
	}
	var out []Tried
	for _, file := range files {
		b, err := os.ReadFile(file)
		if err != nil {
			continue // it was just taken away
		}
		t := Tried{dir: strings.TrimSuffix(file, ".json")}
		if json.Unmarshal(b, &t) == nil {
			out = append(out, t)
		}
	}
	return out
}

func (t Tried) has(o outfit.Outfit) bool {
	return slices.ContainsFunc(t.Pieces, func(p TriedPiece) bool { return p.in(o) })
}

// in reports whether an outfit names the piece, at whatever time it wears it.
func (p TriedPiece) in(o outfit.Outfit) bool {
	return slices.ContainsFunc([]outfit.Choice{o.Choices[p.Facet], o.Light[p.Facet], o.Dark[p.Facet]}, func(c outfit.Choice) bool {
		return p.Want == cmp.Or(c.Piece, c.Value)
	})
}

// Trying is the desk as it would be with the pieces that an outfit names and
// that are only tried on. It is to be looked at, not written to.
func (ov *Overlays) Trying(d *desks.Managed, o outfit.Outfit) *desk.Desk {
	with := *d.Desk
	for _, t := range ov.Tryings(d) {
		if t.has(o) {
			with.Layers = append(with.Layers, t.dir)
		}
	}
	return &with
}

// Overlay is the desk with all that is tried on.
func (ov *Overlays) Overlay(d *desks.Managed) *desk.Desk {
	with := *d.Desk
	for _, t := range ov.Tryings(d) {
		with.Layers = append(with.Layers, t.dir)
	}
	return &with
}

// TryOn starts laying a parcel of the library out to be tried on, and puts
// its pieces on the draft, of each kind the first; for one facet alone, if it is
// named, which a picture can be for the menu's button. When done the job leads to then.
func (ov *Overlays) TryOn(d *desks.Managed, sha, facet, then string) (*jobs.Job, error) {
	row, err := ov.store.Parcel(sha)
	if err != nil {
		return nil, err
	}
	return ov.jobs.Start("Try on "+cmp.Or(row.Title, row.Name), func(ctx context.Context, j *jobs.Job) error {
		return ov.TryWithin(ctx, j, d, sha, facet, then)
	}), nil
}

// TryFromMarket starts fetching a market's parcel to try it on.
func (ov *Overlays) TryFromMarket(d *desks.Managed, w markets.Ref, then string) (*jobs.Job, error) {
	t, err := ov.markets.Transfer(w)
	if err != nil {
		return nil, err
	}
	return ov.jobs.Start("Try on "+t.Entry.Name, func(ctx context.Context, j *jobs.Job) error {
		j.MayPause()
		sha, err := t.Run(ctx, j)
		if err != nil {
			return err
		}
		return ov.TryWithin(ctx, j, d, sha, "", then)
	}), nil
}

// ErrNothingToTry: a parcel has no piece that a desk could be pictured with.
var ErrNothingToTry = errors.New("there is no window theme, icon pack, pointer set, font or backdrop in it to try on")

// TryWithin is [Overlays.TryOn] within a job that is running: the job leads to then,
// which shows the first facet of it.
func (ov *Overlays) TryWithin(ctx context.Context, j *jobs.Job, d *desks.Managed, sha, facet, then string) error {
	row, err := ov.store.Parcel(sha)
	if err != nil {
		return err
	}
	j.Then(then)
	t, err := ov.LaidOut(ctx, j, d, sha)
	if err != nil {
		return err
	}
	d.Lock()
	defer d.Unlock()
	before, err := ov.drafts.Draft(d)
	if err != nil {
		return err
	}
	after, done := before, map[string]bool{}
	for _, p := range t.Pieces {
		if asked := facet == p.Facet || facet == "" && p.Facet != desk.FacetMenuIcon; !asked || done[p.Facet] || !d.Has(p.Facet) {
			continue
		}
		if len(done) == 0 && strings.HasSuffix(then, "/compose") {
			j.Then(then + "?facet=" + p.Facet)
		}
		done[p.Facet] = true
		want := p.Want
		if p.Facet == desk.FacetFont {
			_, size := fine.FontOf(d.Desk, before, desk.FacetFont)
			want = fmt.Sprintf("%s %g", want, size)
		}
		after = after.With(p.Facet, want)
	}
	if len(done) == 0 {
		return say.Errorf("%s has no use for anything in it", d.Title)
	}
	_, err = ov.drafts.Redraft(d, "trying on "+cmp.Or(row.Title, row.Name), before, after)
	return err
}

// LaidOut is a parcel of the library laid out to be tried on, now if it is
// not yet.
func (ov *Overlays) LaidOut(ctx context.Context, j *jobs.Job, d *desks.Managed, sha string) (Tried, error) {
	known := ov.Tryings(d)
	if i := slices.IndexFunc(known, func(k Tried) bool { return k.SHA == sha }); i >= 0 {
		return known[i], nil
	}
	row, err := ov.store.Parcel(sha)
	if err != nil {
		return Tried{}, err
	}
	j.Step("Laying it out", "files")
	t := Tried{SHA: sha, dir: filepath.Join(ov.folder(d), sha)}
	if err = ov.layOut(ctx, j.At, d, row, &t, ""); err != nil {
		return t, err
	}
	for _, k := range known { // one of the same name would be found in its stead
		if slices.ContainsFunc(k.Pieces, func(p TriedPiece) bool {
			return slices.ContainsFunc(t.Pieces, func(own TriedPiece) bool { return own.Facet == p.Facet && own.Want == p.Want })
		}) {
			err = errors.Join(err, ov.Untry(d, k.SHA))
		}
	}
	return t, err
}

// layOut puts the pieces of a parcel in their places below t.dir: in a home, or in
// the home of a whole tree if it is named.
func (ov *Overlays) layOut(ctx context.Context, progress func(done, total int64), d *desks.Managed, row store.ParcelRow, t *Tried, home string) error {
	contents, err := library.Contents(row)
	if err != nil {
		return err
	}
	p, err := ov.library.Open(ctx, row)
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
	room := d.Room(filepath.Join(fresh, filepath.FromSlash(home)))
	if err := os.MkdirAll(room.Home, 0o755); err != nil {
		return err
	}
	var placings []planning.Placing
	for _, pc := range contents.Pieces {
		facets := facetsOf(pc)
		if len(facets) == 0 {
			continue
		}
		one, err := place.All([]parcel.Piece{pc}, room, place.Mine, planning.Leave, planning.ByLink)
		if err != nil || slices.ContainsFunc(placings, func(pl planning.Placing) bool { return pl.Target == one[0].Target }) {
			continue
		}
		placings = append(placings, one...)
		for _, facet := range facets {
			switch {
			case facet == desk.FacetFont:
				t.Pieces = append(t.Pieces, TriedPiece{facet, pc.Name, library.PieceKey(pc)})
			case pc.Kind == parcel.Backdrop:
				for _, file := range pc.Only {
					t.Pieces = append(t.Pieces, TriedPiece{facet, path.Join(one[0].Target, path.Base(file)), library.PieceKey(pc)})
				}
			default:
				t.Pieces = append(t.Pieces, TriedPiece{facet, pc.Folder, library.PieceKey(pc)})
			}
		}
	}
	if len(t.Pieces) == 0 {
		return ErrNothingToTry
	}
	pl, err := planning.Install(ctx, room, p, placings)
	if err != nil {
		return err
	}
	if err := apply.Plan(ctx, room, pl, apply.Config{Keep: ov.kept, Journal: t.dir + ".journal", Progress: func(done, total int) { progress(int64(done), int64(total)) }}); err != nil {
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

// Untry takes a parcel away that is tried on.
func (ov *Overlays) Untry(d *desks.Managed, sha string) error {
	if sha == "" || sha != filepath.Base(sha) {
		return say.Errorf("there is nothing called %q to try on", sha)
	}
	at := filepath.Join(ov.folder(d), sha)
	return errors.Join(os.RemoveAll(at+".json"), os.RemoveAll(at))
}

// clear takes away what is tried on and in place by now.
func (ov *Overlays) clear(d *desks.Managed) error {
	for _, t := range ov.Tryings(d) {
		row, err := ov.store.Parcel(t.SHA)
		if err != nil {
			continue
		}
		waits := slices.ContainsFunc(t.Pieces, func(p TriedPiece) bool {
			pc, err := library.PieceOf(row, p.Key)
			if err != nil {
				return false
			}
			target, err := place.Target(pc, d.Desk, place.Mine)
			return err == nil && !d.Exists(target)
		})
		if waits {
			continue
		}
		if err := ov.Untry(d, t.SHA); err != nil {
			return err
		}
	}
	return nil
}

// lacking is a parcel whose pieces a draft names and the desk does not have.
type lacking struct {
	row    store.ParcelRow
	pieces []parcel.Piece
}

// lacks are the parcels that have to be put in place before a draft can be
// worn.
func (ov *Overlays) lacks(d *desks.Managed, o outfit.Outfit) ([]lacking, error) {
	var out []lacking
	for _, t := range ov.Tryings(d) {
		f := lacking{}
		for _, p := range t.Pieces {
			if !p.in(o) {
				continue
			}
			if f.row.SHA256 == "" {
				var err error
				if f.row, err = ov.store.Parcel(t.SHA); err != nil {
					return nil, say.Errorf("the parcel of %s is not in the library any more: %w", p.Want, err)
				}
			}
			pc, err := library.PieceOf(f.row, p.Key)
			if err != nil {
				return nil, err
			}
			target, err := place.Target(pc, d.Desk, place.Mine)
			if err != nil {
				return nil, err
			}
			if !d.Exists(target) && !slices.ContainsFunc(f.pieces, func(have parcel.Piece) bool { return library.PieceKey(have) == p.Key }) {
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
func (ov *Overlays) ToPlace(d *desks.Managed, o outfit.Outfit) ([]string, error) {
	all, err := ov.lacks(d, o)
	var out []string
	for _, f := range all {
		for _, pc := range f.pieces {
			out = append(out, pc.Name)
		}
	}
	return out, err
}

// DressPlan is the plan for a draft, with what it has to put in place.
func (ov *Overlays) DressPlan(ctx context.Context, d *desks.Managed, o outfit.Outfit, opt planning.Options) (plan.Plan, error) {
	all, err := ov.lacks(d, o)
	if err != nil {
		return plan.Plan{}, err
	}
	var first []planning.ToPlace
	for _, f := range all {
		p, err := ov.library.Open(ctx, f.row)
		if err != nil {
			return plan.Plan{}, err
		}
		placings, err := place.All(f.pieces, d.Desk, place.Mine, planning.Refuse, planning.ByLink)
		if err != nil {
			return plan.Plan{}, err
		}
		first = append(first, planning.ToPlace{Parcel: p, Placings: placings})
	}
	if d.Tend != nil && o.TurnsByItself() {
		if opt.Program, err = desks.Self(); err != nil && !errors.Is(err, desks.ErrPassing) {
			return plan.Plan{}, err
		}
	}
	return planning.DressWith(ctx, d.Desk, ov.Trying(d, o), o, first, opt)
}

// PlacedBy are the rows of what a plan puts in place out of parcels of the library.
func (ov *Overlays) PlacedBy(d *desks.Managed, pl plan.Plan) ([]store.PieceRow, error) {
	copies := func(row store.ParcelRow) bool {
		return slices.ContainsFunc(pl.Ops, func(op plan.Op) bool { return op.Kind == plan.Copy && op.Source.Parcel == row.File })
	}
	if !slices.ContainsFunc(pl.Ops, func(op plan.Op) bool { return op.Kind == plan.Copy }) {
		return nil, nil
	}
	rows, err := ov.store.Parcels()
	if err != nil {
		return nil, err
	}
	var out []store.PieceRow
	for _, row := range rows {
		if !copies(row) {
			continue
		}
		contents, err := library.Contents(row)
		if err != nil {
			return nil, err
		}
		out = append(out, library.PlacedRows(d, row, contents.Pieces, pl)...)
	}
	return out, nil
}
