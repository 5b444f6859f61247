// Package bundles takes in outfits that come with their pieces, writes such, and gets what
// is missing for one.
package bundles

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/app/advice"
	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/taste"
	"ivelt/store"
)

// Bundles are outfits that come and go with their pieces.
type Bundles struct {
	store    bundleStore
	library  *library.Library
	pieces   *library.Pieces
	markets  *markets.Markets
	drafts   *drafts.Drafts
	overlays *drafts.Overlays
	advice   *advice.Advice
	notices  *desks.Notices
	jobs     *jobs.List
}

type bundleStore interface {
	Parcel(sha string) (store.ParcelRow, error)
}

// New returns what opens and writes bundles.
func New(s bundleStore, l *library.Library, p *library.Pieces, m *markets.Markets, d *drafts.Drafts, o *drafts.Overlays, a *advice.Advice, n *desks.Notices, running *jobs.List) *Bundles {
	return &Bundles{s, l, p, m, d, o, a, n, running}
}

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
	Layout bool          // it says where things are
	Acts   bool          // it does something, and is only taken if it is named
	Does   say.Message   // what, in words; none if it does nothing
	Near   []advice.Swap // what surfaces that cannot follow could wear in its stead
	Get    Missing       // of a piece that is nowhere: where it can be had
}

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
	Offer []advice.Suggestion
}

// Open starts laying out what came with an outfit of a parcel, so that it can
// be looked at.
func (bs *Bundles) Open(d *desks.Managed, sha, then string) (*jobs.Job, error) {
	if _, err := bs.store.Parcel(sha); err != nil {
		return nil, err
	}
	return bs.jobs.Start("Open the bundle", func(ctx context.Context, j *jobs.Job) error {
		if _, err := bs.overlays.LaidOut(ctx, j, d, sha); err != nil && !errors.Is(err, drafts.ErrNothingToTry) {
			return err
		}
		j.Then(then)
		return nil
	}), nil
}

// in reads the outfit of a parcel's piece. The backdrop that came with it has
// the place that it would have on the desk.
func (bs *Bundles) in(ctx context.Context, d *desks.Managed, sha, key string) (Bundle, error) {
	row, err := bs.store.Parcel(sha)
	if err != nil {
		return Bundle{}, err
	}
	pc, err := library.PieceOf(row, key)
	if err != nil {
		return Bundle{}, err
	}
	if pc.Kind != parcel.Bundle || len(pc.Only) != 1 {
		return Bundle{}, errors.New("this piece is no outfit")
	}
	p, err := bs.library.Open(ctx, row)
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
	known := bs.overlays.Tryings(d)
	if i := slices.IndexFunc(known, func(t drafts.Tried) bool { return t.SHA == sha }); i >= 0 {
		b.Outfit = withBackdrop(b.Outfit, known[i])
	}
	return b, nil
}

// Outfit is the outfit of a parcel's piece over the draft of a desk.
func (bs *Bundles) Outfit(ctx context.Context, d *desks.Managed, sha, key string) (outfit.Outfit, error) {
	b, err := bs.in(ctx, d, sha, key)
	if err != nil {
		return outfit.Outfit{}, err
	}
	draft, err := bs.drafts.Draft(d)
	return draft.Over(b.Outfit), err
}

// Look looks at the outfit of a parcel's piece from a desk.
func (bs *Bundles) Look(ctx context.Context, d *desks.Managed, sha, key string) (Bundle, error) {
	b, err := bs.in(ctx, d, sha, key)
	if err != nil {
		return b, err
	}
	contents, err := library.Contents(b.Parcel)
	if err != nil {
		return b, err
	}
	if b.Lacks, err = bs.MissingOf(d, b.Outfit); err != nil {
		return b, err
	}
	look := looking{bundle: &b, d: d, contents: contents, in: bs.advice.Catalogue(ctx, d)}
	look.seen = &desks.Managed{Desk: bs.overlays.Trying(d, b.Outfit).Snapshot()}
	look.short = match.Shortfalls(look.seen.Desk, b.Outfit)
	for _, info := range desk.Facets {
		if want := b.Outfit.Want(info.Name); want != "" {
			b.Facets = append(b.Facets, look.facet(bs, info, want))
		}
	}
	b.Open, err = bs.leftOpen(d, look.in, b.Outfit)
	return b, err
}

// looking looks at a bundle from a desk.
type looking struct {
	bundle   *Bundle
	d, seen  *desks.Managed // as it is, and with what came
	contents parcel.Contents
	in       *advice.Catalogue
	short    []match.Shortfall
}

// facet is one choice of the bundle.
func (l looking) facet(bs *Bundles, info desk.FacetInfo, want string) BundleFacet {
	f := BundleFacet{Facet: info.Name, Want: want, Layout: slices.Contains(desk.Layout, info.Name), Acts: l.d.Acts(info.Name), Comes: bs.comes(l.seen, l.contents, info, want)}
	if f.Acts {
		only := l.bundle.Outfit.Only(func(facet string) bool { return facet == info.Name })
		for _, w := range drafts.WhatActs(l.d.Desk, only) {
			f.Does = say.Join("; ", w.Does...)
		}
	}
	for _, m := range l.bundle.Lacks {
		if m.Facet == info.Name {
			f.Comes, f.Get = Nowhere, m
		}
	}
	for _, s := range l.seen.Surfaces() {
		l.surface(&f, info, s)
	}
	for _, s := range l.short {
		if s.Facet == info.Name && !slices.Contains(f.Once, s.Surface.Title) {
			f.Not = append(f.Not, s.Why)
		}
	}
	return f
}

// surface tells whether a surface would show a choice: at once, once its piece is where it
// looks, or something near instead.
func (l looking) surface(f *BundleFacet, info desk.FacetInfo, s desk.Surface) {
	of, has := s.Facet(info.Name)
	asked := l.bundle.Outfit.WantOn(s.ID, info.Name)
	switch {
	case !has || asked == "":
	case of.Fixed, reading.Reachable(l.seen.Desk, s, of, asked), reading.Grantable(l.seen.Desk, of.Lookup, asked) != "": // a plan grants it
		f.On = append(f.On, s.Title)
	default:
		f.Near = append(f.Near, l.in.Instead(s, info, asked)...)
		if f.Comes != NoPiece {
			f.Once = append(f.Once, s.Title)
		}
	}
}

// leftOpen are the facets that neither a bundle nor the draft chooses, with what would go
// with them.
func (bs *Bundles) leftOpen(d *desks.Managed, in *advice.Catalogue, o outfit.Outfit) ([]OpenFacet, error) {
	draft, err := bs.drafts.Draft(d)
	if err != nil {
		return nil, err
	}
	after := draft.Over(o)
	ground := bs.advice.Ground(in, after)
	var out []OpenFacet
	for _, facet := range advice.Suggested {
		if after.Want(facet) != "" || !d.Has(facet) {
			continue
		}
		offer, err := bs.advice.SuggestFrom(in, ground, after, facet, taste.Kin, false)
		if err != nil {
			return nil, err
		}
		if len(offer) > 0 {
			out = append(out, OpenFacet{facet, offer[:min(len(offer), 3)]})
		}
	}
	return out, nil
}

// comes tells where a choice's piece comes from.
func (bs *Bundles) comes(seen *desks.Managed, contents parcel.Contents, info desk.FacetInfo, want string) Comes {
	if shelfOf[info.Name] == "" {
		return NoPiece
	}
	family, _ := desk.SplitFont(want)
	for _, pc := range contents.Pieces {
		if pc.Kind == advice.KindOf(info.Name) && (pc.Folder == want || info.Takes == desk.TakesFont && pc.Name == family || info.Takes == desk.TakesPicture && path.Base(want) != "." && slices.ContainsFunc(pc.Only, func(f string) bool { return path.Base(f) == path.Base(want) })) {
			return WithIt
		}
	}
	if bs.isHere(seen, info.Name, want) {
		return InPlace
	}
	return Nowhere
}

// Take starts putting the outfit in a parcel of the library on the draft,
// over what is there, with the pieces that came with it tried on. only
// are the facets to take, nil for all; near lets surfaces that cannot follow wear
// what comes nearest.
func (bs *Bundles) Take(ctx context.Context, d *desks.Managed, sha, key string, only []string, near bool, then string) (*jobs.Job, error) {
	b, err := bs.in(ctx, d, sha, key)
	if err != nil {
		return nil, err
	}
	return bs.jobs.Start("Take "+b.Outfit.Name, func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		if _, err := bs.overlays.LaidOut(ctx, j, d, sha); err != nil && !errors.Is(err, drafts.ErrNothingToTry) {
			return err
		}
		b, err := bs.Look(ctx, d, sha, key)
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
		old, err := bs.drafts.Draft(d)
		if err != nil {
			return err
		}
		name := b.Outfit.Name
		if _, err = bs.drafts.Redraft(d, "taking "+name, old, old.Over(taken)); err != nil {
			return err
		}
		if unknown := b.Outfit.Unknown(); len(unknown) > 0 {
			bs.notices.Add(d, "“%s” contains something that this version of Ivelt does not know; it is kept: %s.", name, strings.Join(unknown, ", "))
		}
		return nil
	}), nil
}

// GetMissing starts fetching what the draft asks for and nobody here has, as far as
// markets have pieces of those names, and tries it on.
func (bs *Bundles) GetMissing(d *desks.Managed, then string) (*jobs.Job, error) {
	o, err := bs.drafts.Draft(d)
	if err != nil {
		return nil, err
	}
	all, err := bs.MissingOf(d, o)
	if err != nil {
		return nil, err
	}
	all = slices.DeleteFunc(all, func(m Missing) bool { return !m.gettable() })
	if len(all) == 0 {
		return nil, errors.New("no market has what is missing")
	}
	return bs.jobs.Start(fmt.Sprintf("Get what is missing, %d of it", len(all)), func(ctx context.Context, j *jobs.Job) error {
		j.MayPause()
		j.Then(then)
		done := map[string]bool{}
		for _, m := range all {
			if m.Entry != "" && !done[m.Entry] {
				if err := bs.tryOne(ctx, j, d, m); err != nil {
					return err
				}
				done[m.Entry] = true
			}
			if m.Recipe == nil || done[m.Piece] {
				continue
			}
			done[m.Piece] = true
			j.Step("Building "+m.Recipe.Name, "files")
			row, _, _, err := bs.pieces.KeepLayer(ctx, &desks.Managed{Desk: bs.overlays.Overlay(d)}, *m.Recipe, told(j))
			if err != nil {
				return err
			}
			if _, err := bs.overlays.LaidOut(ctx, j, d, row.SHA256); err != nil {
				return err
			}
		}
		return nil
	}), nil
}

// told tells a job of files.
func told(j *jobs.Job) func(done, all int) {
	return func(done, all int) { j.At(int64(done), int64(all)) }
}

// tryOne fetches an entry that has what is missing and lays it out to be tried on.
func (bs *Bundles) tryOne(ctx context.Context, j *jobs.Job, d *desks.Managed, m Missing) error {
	t, err := bs.markets.Transfer(markets.Ref{Market: m.Market, Entry: m.Entry})
	if err != nil {
		return err
	}
	sha, err := t.Run(ctx, j)
	if err != nil {
		return err
	}
	row, err := bs.store.Parcel(sha)
	if err != nil {
		return err
	}
	contents, err := library.Contents(row)
	if err != nil {
		return err
	}
	if _, err := m.in(contents); err != nil {
		return err
	}
	_, err = bs.overlays.LaidOut(ctx, j, d, sha)
	return err
}

// Get fetches from markets what an outfit asks for and the desk has not, and puts it
// in place, each with an entry in the history. It returns what it got, and what no
// market has or could not be fetched, with the reason. Of what packages of the system have it
// takes copies, or leaves it to the package manager.
func (bs *Bundles) Get(ctx context.Context, d *desks.Managed, o outfit.Outfit, copies bool) (got []Missing, left []LeftOut, err error) {
	return bs.each(d, o, copies, func(m Missing) error { return bs.getOne(ctx, d, m) })
}

// WouldGet is what Get would, as far as that is known before.
func (bs *Bundles) WouldGet(_ context.Context, d *desks.Managed, o outfit.Outfit, copies bool) (got []Missing, left []LeftOut, err error) {
	return bs.each(d, o, copies, func(Missing) error { return nil })
}

func (bs *Bundles) each(d *desks.Managed, o outfit.Outfit, copies bool, one func(Missing) error) (got []Missing, left []LeftOut, err error) {
	all, err := bs.MissingOf(d, o)
	if err != nil {
		return nil, nil, err
	}
	done := map[string]error{}
	for _, m := range all {
		if m.Entry == "" && !m.Below {
			why := "no market has it"
			if m.Recipe != nil {
				why = "no market has " + m.wanted() + ", which it is made from"
			}
			left = append(left, LeftOut{m.Facet, m.Piece, why})
			continue
		}
		if m.Package != "" && !copies {
			left = append(left, LeftOut{m.Facet, m.Piece, "the package " + m.Package + " has it"})
			continue
		}
		key := m.Entry
		if m.Recipe != nil {
			key += "\x00" + m.Piece
		}
		err, tried := done[key]
		if !tried {
			err = one(m)
			done[key] = err
		}
		if err != nil {
			left = append(left, LeftOut{m.Facet, m.Piece, err.Error()})
			continue
		}
		got = append(got, m)
	}
	return got, left, nil
}

// getOne puts a missing piece in place: fetched, or built over what is fetched first, if that is
// not there either.
func (bs *Bundles) getOne(ctx context.Context, d *desks.Managed, m Missing) error {
	if m.Recipe == nil {
		return bs.getEntry(d, m)
	}
	if !m.Below {
		if err := bs.getEntry(d, m); err != nil {
			return err
		}
	}
	_, job, err := bs.pieces.Layer(ctx, d, *m.Recipe, false, "")
	if err != nil {
		return err
	}
	return job.Wait()
}

// getEntry fetches one entry and puts its pieces of that kind in place.
func (bs *Bundles) getEntry(d *desks.Managed, m Missing) error {
	sha := ""
	job, err := bs.markets.Fetch(markets.Ref{Market: m.Market, Entry: m.Entry}, func(fetched string) string { sha = fetched; return "" })
	if err == nil {
		err = job.Wait()
	}
	if err != nil {
		return err
	}
	row, err := bs.store.Parcel(sha)
	if err != nil {
		return err
	}
	contents, err := library.Contents(row)
	if err != nil {
		return err
	}
	keys, err := m.in(contents)
	if err != nil {
		return err
	}
	scope := place.Mine
	if m.Facet == desk.FacetLogin {
		scope = place.Everyone
	}
	if job, err = bs.pieces.Install(d, sha, keys, library.How{Scope: scope, Exists: planning.Leave, Second: planning.ByLink}, ""); err != nil {
		return err
	}
	return job.Wait()
}
