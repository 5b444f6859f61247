package app

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/taste"
	"ivelt/store"
)

// Bundle is an outfit that came in a parcel, looked at from a desk.
type Bundle struct {
	Parcel store.ParcelRow
	Key    string // of the piece in it
	Outfit outfit.Outfit
	Facets []BundleFacet
	Open   []OpenFacet // what it leaves as it is
	Lacks  []Missing   // what it needs and nobody here has
}

// BundleFacet is one choice of it.
type BundleFacet struct {
	Facet  string
	Want   string
	On     []string // titles of the surfaces that would show it
	Once   []string // and of those that would once its piece is where they look
	Not    []string // why others would not, sentences
	Comes  Comes
	Layout bool    // it says where things are
	Acts   bool    // it does something, and is only taken if it is named
	Does   string  // what, in words
	Near   []Swap  // what surfaces that cannot follow could wear in its stead
	Get    Missing // of a piece that is nowhere: where it can be had
}

// Swap is what one surface could wear in the stead of what it cannot.
type Swap struct{ Surface, Title, Want string }

// Comes tells where a piece comes from.
type Comes string

// The places a piece can come from.
const (
	WithIt  Comes = "with it" // in the same parcel
	InPlace Comes = "here"    // in place on the desk
	Nowhere Comes = "nowhere"
	NoPiece Comes = "" // it is a setting
)

// OpenFacet is a facet of the desk that an outfit leaves open, with what would go
// with it.
type OpenFacet struct {
	Facet string
	Offer []Suggestion
}

// OpenBundle starts laying out what came with an outfit of a parcel, so that it can
// be looked at.
func (a *App) OpenBundle(d *Desk, sha, then string) (*jobs.Job, error) {
	if _, err := a.Store.Parcel(sha); err != nil {
		return nil, err
	}
	return a.Jobs.Start("Open the bundle", func(ctx context.Context, j *jobs.Job) error {
		if _, err := a.laidOut(ctx, j, d, sha); err != nil && !errors.Is(err, ErrNothingToTry) {
			return err
		}
		j.Then(then)
		return nil
	}), nil
}

// bundleIn reads the outfit of a parcel's piece. The backdrop that came with it has
// the place that it would have on the desk.
func (a *App) bundleIn(ctx context.Context, d *Desk, sha, key string) (Bundle, error) {
	row, err := a.Store.Parcel(sha)
	if err != nil {
		return Bundle{}, err
	}
	pc, err := PieceOf(row, key)
	if err != nil {
		return Bundle{}, err
	}
	if pc.Kind != parcel.Bundle || len(pc.Only) != 1 {
		return Bundle{}, errors.New("this piece is no outfit")
	}
	p, err := a.Open(ctx, row)
	if err != nil {
		return Bundle{}, err
	}
	text, err := fs.ReadFile(p, pc.Only[0])
	if err != nil {
		return Bundle{}, err
	}
	b := Bundle{Parcel: row, Key: key}
	if b.Outfit, err = outfit.Parse(text); err != nil {
		return Bundle{}, err
	}
	known := a.tryings(d)
	if i := slices.IndexFunc(known, func(t tried) bool { return t.SHA == sha }); i >= 0 {
		b.Outfit = withBackdrop(b.Outfit, known[i])
	}
	return b, nil
}

// BundleOutfit is the outfit of a parcel's piece over the draft of a desk.
func (a *App) BundleOutfit(ctx context.Context, d *Desk, sha, key string) (outfit.Outfit, error) {
	b, err := a.bundleIn(ctx, d, sha, key)
	if err != nil {
		return outfit.Outfit{}, err
	}
	draft, err := a.Draft(d)
	return draft.Over(b.Outfit), err
}

// Bundle looks at the outfit of a parcel's piece from a desk.
func (a *App) Bundle(ctx context.Context, d *Desk, sha, key string) (Bundle, error) {
	b, err := a.bundleIn(ctx, d, sha, key)
	if err != nil {
		return b, err
	}
	contents, err := Contents(b.Parcel)
	if err != nil {
		return b, err
	}
	if b.Lacks, err = a.MissingOf(d, b.Outfit); err != nil {
		return b, err
	}
	seen := &Desk{Desk: a.Trying(d, b.Outfit).Snapshot()}
	short := match.Shortfalls(seen.Desk, b.Outfit)
	in := a.Catalogue(ctx, d)
	for _, info := range desk.Facets {
		want := b.Outfit.Want(info.Name)
		if want == "" {
			continue
		}
		f := BundleFacet{Facet: info.Name, Want: want, Layout: slices.Contains(desk.Layout, info.Name), Acts: d.Acts(info.Name), Comes: a.comes(seen, contents, info, want)}
		if f.Acts {
			for _, w := range WhatActs(d.Desk, b.Outfit.Only(func(facet string) bool { return facet == info.Name })) {
				f.Does = strings.Join(w.Does, "; ")
			}
		}
		for _, m := range b.Lacks {
			if m.Facet == info.Name {
				f.Comes, f.Get = Nowhere, m
			}
		}
		for _, s := range seen.Surfaces {
			of, has := s.Facet(info.Name)
			if !has {
				continue
			}
			asked := b.Outfit.WantOn(s.ID, info.Name)
			if asked == "" {
				continue
			}
			if reading.Check(seen.Desk, s, of, asked) != nil && reading.Grantable(seen.Desk, of.Lookup, asked) == "" { // a plan grants it
				f.Near = append(f.Near, in.swap(s, info, asked)...)
				if f.Comes != NoPiece {
					f.Once = append(f.Once, s.Title)
				}
				continue
			}
			f.On = append(f.On, s.Title)
		}
		for _, s := range short {
			if s.Facet == info.Name && !slices.Contains(f.Once, s.Surface.Title) {
				f.Not = append(f.Not, s.Why)
			}
		}
		b.Facets = append(b.Facets, f)
	}
	draft, err := a.Draft(d)
	if err != nil {
		return b, err
	}
	after := draft.Over(b.Outfit)
	ground := a.ground(in, after)
	for _, facet := range Suggested {
		if after.Want(facet) != "" || !d.Has(facet) {
			continue
		}
		offer, err := a.suggest(in, ground, after, facet, taste.Kin, false)
		if err != nil {
			return b, err
		}
		if len(offer) > 0 {
			b.Open = append(b.Open, OpenFacet{facet, offer[:min(len(offer), 3)]})
		}
	}
	return b, nil
}

// comes tells where a choice's piece comes from.
func (a *App) comes(seen *Desk, contents parcel.Contents, info desk.FacetInfo, want string) Comes {
	if shelfOf[info.Name] == "" {
		return NoPiece
	}
	family, _ := desk.SplitFont(want)
	for _, pc := range contents.Pieces {
		if pc.Kind == KindOf(info.Name) && (pc.Folder == want || info.Takes == desk.TakesFont && pc.Name == family || info.Takes == desk.TakesPicture && path.Base(want) != "." && slices.ContainsFunc(pc.Only, func(f string) bool { return path.Base(f) == path.Base(want) })) {
			return WithIt
		}
	}
	if a.isHere(seen, info.Name, want) {
		return InPlace
	}
	return Nowhere
}

// Nearest tells for each surface that cannot wear a piece of an outfit what of those
// in place comes nearest to it.
func (a *App) Nearest(in *Catalogue, o outfit.Outfit) map[string][]Swap {
	seen := a.Trying(in.real, o).Snapshot()
	out := map[string][]Swap{}
	for _, facet := range o.Facets() {
		info, _ := desk.FacetOf(facet)
		for _, s := range seen.Surfaces {
			f, has := s.Facet(facet)
			asked := o.WantOn(s.ID, facet)
			if has && asked != "" && reading.Check(seen, s, f, asked) != nil && reading.Grantable(seen, f.Lookup, asked) == "" {
				if near := in.swap(s, info, asked); near != nil {
					out[facet] = append(out[facet], near...)
				}
			}
		}
	}
	return out
}

// swap is what one surface could wear in the stead of what it cannot: of pieces the
// one in place that looks most alike, of numbers the nearest that it takes.
func (in *Catalogue) swap(s desk.Surface, info desk.FacetInfo, asked string) []Swap {
	if info.Takes != desk.TakesPiece {
		return nil
	}
	w, ok := in.wear(info.Name, asked)
	if !ok {
		return nil
	}
	looks, ok := looksOf(in.ctx, in.seen, w, false)
	if !ok {
		return nil
	}
	if near := in.nearest(info.Name, looks, s.Title); near != "" && near != asked {
		return []Swap{{s.ID, s.Title, near}}
	}
	return nil
}

// TakeBundle starts putting the outfit in a parcel of the library on the draft,
// over what is there, with the pieces that came with it in the fitting room. only
// are the facets to take, nil for all; near lets surfaces that cannot follow wear
// what comes nearest.
func (a *App) TakeBundle(ctx context.Context, d *Desk, sha, key string, only []string, near bool, then string) (*jobs.Job, error) {
	b, err := a.bundleIn(ctx, d, sha, key)
	if err != nil {
		return nil, err
	}
	return a.Jobs.Start("Take "+b.Outfit.Name, func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		if _, err := a.laidOut(ctx, j, d, sha); err != nil && !errors.Is(err, ErrNothingToTry) {
			return err
		}
		b, err := a.Bundle(ctx, d, sha, key)
		if err != nil {
			return err
		}
		taken := b.Outfit
		for _, f := range b.Facets {
			if only != nil && !slices.Contains(only, f.Facet) || only == nil && f.Acts {
				taken = taken.With(f.Facet, "")
				continue
			}
			for _, swap := range f.Near {
				if near {
					taken = taken.Except(swap.Surface, f.Facet, swap.Want)
				}
			}
		}
		if len(taken.Choices) == 0 {
			return errors.New("nothing of it was chosen")
		}
		d.Lock()
		defer d.Unlock()
		old, err := a.Draft(d)
		if err != nil {
			return err
		}
		name := b.Outfit.Name
		if _, err = a.redraft(d, "taking "+name, old, old.Over(taken)); err != nil {
			return err
		}
		if unknown := b.Outfit.Unknown(); len(unknown) > 0 {
			a.notice(d, "“%s” has something that this Ivelt does not know, and keeps: %s.", name, strings.Join(unknown, ", "))
		}
		return nil
	}), nil
}

// GetMissing starts fetching what the draft asks for and nobody here has, as far as
// markets have pieces of those names, and tries it on.
func (a *App) GetMissing(d *Desk, then string) (*jobs.Job, error) {
	o, err := a.Draft(d)
	if err != nil {
		return nil, err
	}
	all, err := a.MissingOf(d, o)
	if err != nil {
		return nil, err
	}
	all = slices.DeleteFunc(all, func(m Missing) bool { return m.Entry == "" || m.Facet == desk.FacetLogin })
	if len(all) == 0 {
		return nil, errors.New("no market has what is missing")
	}
	return a.Jobs.Start(fmt.Sprintf("Get what is missing, %d of it", len(all)), func(ctx context.Context, j *jobs.Job) error {
		j.MayPause()
		j.Then(then)
		done := map[string]bool{}
		for _, m := range all {
			if done[m.Entry] {
				continue
			}
			done[m.Entry] = true
			t, err := a.transfer(Wanted{Market: m.Market, Entry: m.Entry})
			if err != nil {
				return err
			}
			sha, err := t.run(ctx, j)
			if err != nil {
				return err
			}
			if _, err := a.laidOut(ctx, j, d, sha); err != nil {
				return err
			}
		}
		return nil
	}), nil
}

// Get fetches from markets what an outfit asks for and the desk has not, and puts it
// in place, each with an entry in the history. It returns what it got, and what no
// market has or could not be fetched, with the reason.
func (a *App) Get(d *Desk, o outfit.Outfit) (got []Missing, left []LeftOut, err error) {
	all, err := a.MissingOf(d, o)
	if err != nil {
		return nil, nil, err
	}
	done := map[string]error{}
	for _, m := range all {
		if m.Entry == "" {
			left = append(left, LeftOut{m.Facet, m.Piece, "no market has it"})
			continue
		}
		err, tried := done[m.Entry]
		if !tried {
			err = a.getOne(d, m)
			done[m.Entry] = err
		}
		if err != nil {
			left = append(left, LeftOut{m.Facet, m.Piece, err.Error()})
			continue
		}
		got = append(got, m)
	}
	return got, left, nil
}

// getOne fetches one entry and puts its pieces of that kind in place.
func (a *App) getOne(d *Desk, m Missing) error {
	sha := ""
	job, err := a.Fetch(Wanted{Market: m.Market, Entry: m.Entry}, func(fetched string) string { sha = fetched; return "" })
	if err == nil {
		err = job.Wait()
	}
	if err != nil {
		return err
	}
	row, err := a.Store.Parcel(sha)
	if err != nil {
		return err
	}
	contents, err := Contents(row)
	if err != nil {
		return err
	}
	var keys []string
	for _, pc := range contents.Pieces {
		if pc.Kind == KindOf(m.Facet) {
			keys = append(keys, PieceKey(pc))
		}
	}
	scope := place.Mine
	if m.Facet == desk.FacetLogin {
		scope = place.Everyone
	}
	if job, err = a.Install(d, sha, keys, How{Scope: scope, Exists: plan.Leave, Second: plan.ByLink}, ""); err != nil {
		return err
	}
	return job.Wait()
}
