// Package advice lists what can be chosen on a desk, and suggests what goes together.
package advice

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/app/markets"
	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/market"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/taste"
	"ivelt/store"
)

// Advice tells what goes with a draft.
type Advice struct {
	store    adviceStore
	markets  *markets.Markets
	drafts   *drafts.Drafts
	overlays *drafts.Overlays
	jobs     *jobs.List
}

type adviceStore interface {
	MarketFamily(id uint, family string) ([]store.MarketEntryRow, error)
	Parcel(sha string) (store.ParcelRow, error)
}

// New returns what gives advice.
func New(s adviceStore, m *markets.Markets, d *drafts.Drafts, o *drafts.Overlays, running *jobs.List) *Advice {
	return &Advice{s, m, d, o, running}
}

// Suggestion is a piece that goes with what is chosen, in place or in a market.
type Suggestion struct {
	Facet, Want, Name string // Want is "" for one of a market
	Why               say.Message
	Score             float64               // 0–1
	Entry             *store.MarketEntryRow // of a market, else nil
	Size              int64                 // bytes to fetch
}

// kindOf are the kinds of pieces that a market has for a facet.
var kindOf = map[string]parcel.Kind{
	desk.FacetWidgets: parcel.Theme, desk.FacetIcons: parcel.Icons, desk.FacetPointer: parcel.Pointer, desk.FacetFont: parcel.Font,
	desk.FacetBackdrop: parcel.Backdrop, desk.FacetPalette: parcel.Palette, desk.FacetPictures: parcel.Style, desk.FacetLogin: parcel.Login,
}

// KindOf is the kind of piece that a facet is of, "" if it is of none.
func KindOf(facet string) parcel.Kind {
	if kind, ok := kindOf[facet]; ok {
		return kind
	}
	switch facet {
	case desk.FacetBar, desk.FacetFrame, desk.FacetNotices:
		return parcel.Theme
	case desk.FacetFontMono, desk.FacetFontDocument, desk.FacetFontTitle:
		return parcel.Font
	}
	return ""
}

// Suggested are the facets that pieces are suggested for, those first that others
// go by.
var Suggested = []string{desk.FacetWidgets, desk.FacetBackdrop, desk.FacetIcons, desk.FacetPointer, desk.FacetBar, desk.FacetFont, desk.FacetPalette, desk.FacetPictures, desk.FacetLogin}

// maxSuggested bounds how many are named for one facet.
const maxSuggested = 4

// LooksOf measures a piece in place, as it is worn in one shade, anew only if it
// changed.
func LooksOf(ctx context.Context, d *desk.Desk, w Wear, dark bool) (market.Looks, bool) {
	info, err := fs.Stat(d.Tree(), w.at())
	if err != nil {
		return market.Looks{}, false
	}
	key := measured{dark, w.Piece.Kind, d.HostPath(desk.Path(w.at())), info.ModTime().UnixNano(), info.Size()}
	m := cache.Of(d.Cache, key, cache.Always[measure], func() cache.Made[measure] {
		looks, ok := taste.OfShade(ctx, d.Tree(), w.Piece, dark)
		return cache.Made[measure]{Value: measure{looks, ok}, Bytes: 500, Brief: ctx.Err() != nil}
	})
	return m.looks, m.ok
}

// measured is the key of what a piece looks like.
type measured struct {
	dark       bool
	kind       parcel.Kind
	file       string
	date, size int64
}

type measure struct {
	looks market.Looks
	ok    bool
}

// chosen is a piece that others have to go with.
type chosen struct {
	facet, name string
	looks       market.Looks
	family      string
}

// Ground are the pieces that a look has, with their measures: those of the draft
// first, what is worn then, each by the order of [Suggested].
func (ad *Advice) Ground(in *Catalogue, o outfit.Outfit) []chosen {
	seen := in.seen
	look := preview.Draft(in.ctx, seen, o)
	var onDraft, worn []chosen
	for _, facet := range Suggested {
		for _, s := range seen.Surfaces() {
			name := look.Of(facet, s.ID)
			if _, has := s.Facet(facet); !has || name == "" || s.Kind == "login" {
				continue
			}
			w, ok := in.Wear(facet, name)
			if !ok {
				continue
			}
			looks, ok := LooksOf(in.ctx, seen, w, look.Of(desk.FacetDark, s.ID) == "dark" || o.Want(desk.FacetDark) == "dark")
			if !ok {
				continue
			}
			c := chosen{facet, w.Name, looks, ad.familyOf(w.Folder)}
			if o.Want(facet) != "" {
				onDraft = append(onDraft, c)
			} else {
				worn = append(worn, c)
			}
			break
		}
	}
	return append(onDraft, worn...)
}

// familyOf is the family that a market has a piece of that name in, "" for none.
func (ad *Advice) familyOf(name string) string {
	rows, err := ad.markets.Named(strings.NewReplacer("-", " ", "_", " ").Replace(name))
	if err != nil || len(rows) == 0 {
		return ""
	}
	return rows[0].Family
}

// Suggest names pieces for a facet that go with the draft and what is worn
// besides, the best first, with the reasons.
func (ad *Advice) Suggest(ctx context.Context, d *desks.Managed, o outfit.Outfit, facet string) ([]Suggestion, error) {
	in := ad.Catalogue(ctx, d)
	return ad.SuggestFrom(in, ad.Ground(in, o), o, facet, taste.Kin, false)
}

// monospaced are the names of families of fixed width (common practice, no source).
var monospaced = regexp.MustCompile(`(?i)\b(mono|monospace|code|typewriter|console)`)

// suggesting is what goes into the suggestions for one facet.
type suggesting struct {
	a        *Advice
	in       *Catalogue
	o        outfit.Outfit
	facet    string
	families map[string]bool // of what is chosen
	wish     taste.Wish
	known    map[string]bool // by name in lower case: what is in place
	parcels  map[string]bool // by SHA-256: what is tried on
	measured bool            // nothing else is named
	out      []Suggestion
}

// SuggestFrom names pieces for a facet in a manner. only asks that they go with
// pieces that were chosen, not with those that happen to be worn.
func (ad *Advice) SuggestFrom(in *Catalogue, ground []chosen, o outfit.Outfit, facet string, manner taste.Manner, only bool) ([]Suggestion, error) {
	g := suggesting{a: ad, in: in, o: o, facet: facet, families: map[string]bool{}, known: map[string]bool{}, parcels: map[string]bool{}}
	basis := chosen{name: "everything", looks: taste.Moods[0].Looks}
	if i := slices.IndexFunc(ground, func(c chosen) bool { return c.facet != facet }); i >= 0 {
		basis = ground[i]
	}
	for _, c := range ground {
		if c.family != "" && (o.Want(c.facet) != "" || !only) {
			g.families[c.family] = true
		}
	}
	g.wish = taste.WishFor(facet, basis.looks, basis.name, manner)
	g.inPlace()
	if kind := kindOf[facet]; kind != "" && facet != desk.FacetLogin { // a login screen cannot be tried on
		if err := g.ofMarkets(kind); err != nil {
			return nil, err
		}
	}
	slices.SortStableFunc(g.out, func(a, b Suggestion) int { return cmp.Compare(b.Score, a.Score) })
	return g.out[:min(len(g.out), maxSuggested)], nil
}

// NearestTo names pieces for a facet that are in place, or tried on, in the hue and the lightness
// of something else, the nearest first, with the reasons.
func (ad *Advice) NearestTo(in *Catalogue, o outfit.Outfit, facet, name string, looks market.Looks) []Suggestion {
	g := suggesting{a: ad, in: in, o: o, facet: facet, families: map[string]bool{}, known: map[string]bool{}, parcels: map[string]bool{}, wish: taste.WishFor(facet, looks, name, taste.Key)}
	g.measured = true
	g.inPlace()
	slices.SortStableFunc(g.out, func(a, b Suggestion) int { return cmp.Compare(b.Score, a.Score) })
	return g.out[:min(len(g.out), maxSuggested)]
}

// add scores a piece by its looks, if they were measured, and by its family.
func (g *suggesting) add(s Suggestion, looks market.Looks, measured bool, family string) {
	if g.measured && !measured {
		return
	}
	kin := ""
	if g.families[family] {
		kin = family
	}
	switch {
	case measured:
		s.Score, s.Why = g.wish.Score(looks, kin != ""), g.wish.Why(looks, kin)
	case kin != "":
		s.Score, s.Why = 0.9, say.Line("of the same family, %s", kin)
	case g.facet == desk.FacetFont && monospaced.MatchString(s.Name):
		s.Score, s.Why = 0.1, say.Line("every letter as wide as the next: for terminals")
	case g.facet == desk.FacetFont:
		s.Score, s.Why = 0.4, say.Line("a plain text face goes with anything")
	default:
		s.Score, s.Why = 0.4, say.Line("its look was not measured")
	}
	g.out = append(g.out, s)
}

// inPlace adds what the desk has, or has tried on.
func (g *suggesting) inPlace() {
	for _, w := range g.in.Of(g.facet) {
		g.known[strings.ToLower(w.Name)] = true
		again := w.Tried != "" && g.parcels[w.Tried] // another picture of the same piece
		g.parcels[w.Tried] = true
		if w.Folder == g.o.Want(g.facet) || len(w.Serves) == 0 || again {
			continue
		}
		name, family := w.Name, g.a.familyOf(w.Folder)
		if row, err := g.a.store.Parcel(w.Tried); err == nil && w.Tried != "" && g.facet == desk.FacetBackdrop {
			name, family = cmp.Or(row.Title, name), cmp.Or(family, g.a.familyOf(row.Title))
		}
		looks, ok := LooksOf(g.in.ctx, g.in.seen, w, g.o.Want(desk.FacetDark) == "dark")
		want := w.Folder
		if g.facet == desk.FacetFont {
			_, size := fine.FontOf(g.in.real.Desk, g.o, desk.FacetFont)
			want = fmt.Sprintf("%s %g", want, size)
		}
		g.add(Suggestion{Facet: g.facet, Want: want, Name: name}, looks, ok, family)
	}
}

// ofMarkets adds what could be fetched.
func (g *suggesting) ofMarkets(kind parcel.Kind) error {
	rows, err := g.found(kind)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if g.known[strings.ToLower(row.Name)] {
			continue
		}
		e, err := row.Entry()
		if err != nil {
			return err
		}
		if v := e.Newest(); v.Password == "" && !g.parcels[v.SHA256] {
			looks := markets.LooksOf(row)
			if e.Looks != nil {
				looks = e.Looks.In(g.o.Want(desk.FacetDark) == "dark") // as what is in place
			}
			g.add(Suggestion{Facet: g.facet, Name: row.Name, Entry: &row, Size: v.Size}, looks, row.Measured, row.Family)
		}
	}
	return nil
}

// found are the entries of markets that are nearest to what is wished for, and those of the
// families that are chosen.
func (g *suggesting) found(kind parcel.Kind) ([]store.MarketEntryRow, error) {
	q := markets.Query{Kind: string(kind), Only: true, Fits: g.in.real, Safe: true, Most: 24}
	if g.facet != desk.FacetFont {
		q.Taste = &g.wish.Looks
	}
	g.a.markets.Ready()
	key := fmt.Sprint(kind, g.wish.Looks)
	rows, ok := g.in.markets[key]
	if !ok {
		found, err := g.a.markets.Search(g.in.ctx, q)
		if err != nil {
			return nil, err
		}
		rows, g.in.markets[key] = found.Entries, found.Entries
	}
	rows = slices.Clone(rows)
	for family := range g.families {
		kin, err := g.a.store.MarketFamily(0, family)
		if err != nil {
			return nil, err
		}
		for _, k := range kin {
			if k.Kind == string(kind) && !k.Risky && !slices.ContainsFunc(rows, func(r store.MarketEntryRow) bool { return r.ID == k.ID }) {
				rows = append(rows, k)
			}
		}
	}
	return rows, nil
}

// Proposal is a whole outfit that completes what is chosen.
type Proposal struct {
	Manner taste.Manner
	Title  say.Word
	Score  int // of 100
	Picks  []Suggestion
	Outfit outfit.Outfit // the draft with what is in place of it
	Fetch  int64         // bytes that would have to be fetched
	Lacks  int           // pieces that would have to be
}

// ErrTooFew: there is not enough chosen to complete.
var ErrTooFew = errors.New("choose one or two pieces first: they are what the rest has to go with")

// Complete proposes three outfits that keep what the draft has and choose the rest:
// one family, one hue, and contrasting.
func (ad *Advice) Complete(ctx context.Context, d *desks.Managed) ([]Proposal, error) {
	o, err := ad.drafts.Draft(d)
	if err != nil {
		return nil, err
	}
	fixed := 0
	for _, facet := range Suggested {
		fixed += bit(o.Want(facet) != "")
	}
	if fixed == 0 {
		return nil, ErrTooFew
	}
	in := ad.Catalogue(ctx, d)
	ground := slices.DeleteFunc(ad.Ground(in, o), func(c chosen) bool { return o.Want(c.facet) == "" })
	used := map[string]int{}
	var out []Proposal
	for _, m := range []struct {
		manner taste.Manner
		title  say.Word
	}{{taste.Kin, "One family"}, {taste.Key, "One hue"}, {taste.Against, "Contrasting"}} {
		p := Proposal{Manner: m.manner, Title: m.title, Outfit: o}
		sum := 0.0
		for _, facet := range Suggested {
			if o.Want(facet) != "" || !d.Has(facet) {
				continue
			}
			all, err := ad.SuggestFrom(in, ground, o, facet, m.manner, true)
			if err != nil {
				return nil, err
			}
			if len(all) == 0 {
				continue
			}
			best := slices.MaxFunc(all, func(a, b Suggestion) int { return cmp.Compare(worth(a, used), worth(b, used)) })
			used[facet+" "+best.Name]++
			p.Picks = append(p.Picks, best)
			sum += best.Score
			if best.Entry != nil {
				p.Fetch += best.Size
				p.Lacks++
			} else {
				p.Outfit = p.Outfit.With(facet, best.Want)
			}
		}
		if accent := accentOf(ground, m.manner); accent != "" && o.Want(desk.FacetAccent) == "" && d.Has(desk.FacetAccent) {
			p.Outfit = p.Outfit.With(desk.FacetAccent, accent)
		}
		if len(p.Picks) > 0 {
			p.Score = int(100*sum/float64(len(p.Picks)) + 0.5)
		}
		out = append(out, p)
	}
	return out, nil
}

// ToFetch is how many pieces proposals name that would have to be fetched, each once, and
// their bytes.
func ToFetch(all []Proposal) (pieces int, bytes int64) {
	seen := map[uint]bool{}
	for _, p := range all {
		for _, pick := range p.Picks {
			if pick.Entry != nil && !seen[pick.Entry.ID] {
				seen[pick.Entry.ID] = true
				pieces++
				bytes += pick.Size
			}
		}
	}
	return pieces, bytes
}

// worth is a suggestion's score, less if another proposal has it already: the three
// are to be different.
func worth(s Suggestion, used map[string]int) float64 {
	return s.Score - 0.6*float64(used[s.Facet+" "+s.Name])
}

// accentOf is the colour of what is chosen that has most of it, or the one across
// the circle from it.
func accentOf(ground []chosen, manner taste.Manner) string {
	for _, c := range ground {
		if best := taste.Accent(c.looks, manner == taste.Against); best != "" {
			return best
		}
	}
	return ""
}

func bit(b bool) int {
	if b {
		return 1
	}
	return 0
}

// PictureProposals starts fetching what the proposals name and the desk has not, so
// that they can be pictured; the draft stays as it is.
func (ad *Advice) PictureProposals(ctx context.Context, d *desks.Managed, then string) (*jobs.Job, error) {
	all, err := ad.Complete(ctx, d)
	if err != nil {
		return nil, err
	}
	var picks []Suggestion
	for _, p := range all {
		picks = append(picks, p.Picks...)
	}
	return ad.jobs.Start("Picture three looks", func(ctx context.Context, j *jobs.Job) error {
		j.MayPause()
		_, err := ad.fit(ctx, j, d, picks)
		j.Then(then)
		return err
	}), nil
}

// fit fetches suggestions of markets and lays them out to be tried on. It
// returns for each entry what it can be worn as.
func (ad *Advice) fit(ctx context.Context, j *jobs.Job, d *desks.Managed, picks []Suggestion) (map[uint]drafts.Tried, error) {
	out := map[uint]drafts.Tried{}
	for _, s := range picks {
		if s.Entry == nil || out[s.Entry.ID].SHA != "" {
			continue
		}
		t, err := ad.markets.Transfer(markets.Ref{Market: s.Entry.Market, Entry: s.Entry.Key})
		if err != nil {
			return out, err
		}
		sha, err := t.Run(ctx, j)
		if err != nil {
			return out, err
		}
		if out[s.Entry.ID], err = ad.overlays.LaidOut(ctx, j, d, sha); err != nil {
			return out, err
		}
	}
	return out, nil
}

// TakeProposal starts putting one of the proposals on the draft, with what has to
// be fetched for it tried on.
func (ad *Advice) TakeProposal(ctx context.Context, d *desks.Managed, manner taste.Manner, then string) (*jobs.Job, error) {
	all, err := ad.Complete(ctx, d)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(all, func(p Proposal) bool { return p.Manner == manner })
	if i < 0 {
		return nil, say.Errorf("there is no proposal %q", manner)
	}
	p := all[i]
	return ad.jobs.Start("Complete the outfit", func(ctx context.Context, j *jobs.Job) error {
		j.MayPause()
		got, err := ad.fit(ctx, j, d, p.Picks)
		if err != nil {
			return err
		}
		d.Lock()
		defer d.Unlock()
		before, err := ad.drafts.Draft(d)
		if err != nil {
			return err
		}
		after := p.Outfit
		for _, s := range p.Picks {
			if s.Entry != nil {
				after = ad.wearing(d, after, got[s.Entry.ID], s.Facet)
			}
		}
		j.Then(then)
		_, err = ad.drafts.Redraft(d, "completing it, "+strings.ToLower(string(p.Title)), before, after)
		return err
	}), nil
}

// wearing puts the first piece for a facet of what is tried on an outfit.
func (ad *Advice) wearing(d *desks.Managed, o outfit.Outfit, t drafts.Tried, facet string) outfit.Outfit {
	for _, p := range t.Pieces {
		if p.Facet != facet {
			continue
		}
		want := p.Want
		if facet == desk.FacetFont {
			_, size := fine.FontOf(d.Desk, o, desk.FacetFont)
			want = fmt.Sprintf("%s %g", want, size)
		}
		return o.With(facet, want)
	}
	return o
}

// Nearest is the piece in place that a surface finds for a facet and that looks
// most like another, "" if none can be told.
func (in *Catalogue) Nearest(facet string, looks market.Looks, serves string) string {
	best, least := "", 9.0
	for _, w := range in.Of(facet) {
		if !slices.Contains(w.Serves, serves) {
			continue
		}
		if l, ok := LooksOf(in.ctx, in.seen, w, false); ok && l.Distance(looks) < least {
			best, least = w.Folder, l.Distance(looks)
		}
	}
	return best
}

// Swap is what one surface could wear in the stead of what it cannot.
type Swap struct{ Surface, Title, Want string }

// Nearest tells for each surface that cannot wear a piece of an outfit what of those
// in place comes nearest to it. seen is the desk with what the outfit tries on.
func (ad *Advice) Nearest(in *Catalogue, seen *desk.Desk, o outfit.Outfit) map[string][]Swap {
	out := map[string][]Swap{}
	for _, facet := range o.Facets() {
		info, _ := desk.FacetOf(facet)
		for _, s := range seen.Surfaces() {
			f, has := s.Facet(facet)
			asked := o.WantOn(s.ID, facet)
			if has && asked != "" && !f.Fixed && !reading.Reachable(seen, s, f, asked) && reading.Grantable(seen, f.Lookup, asked) == "" {
				if near := in.Instead(s, info, asked); near != nil {
					out[facet] = append(out[facet], near...)
				}
			}
		}
	}
	return out
}

// Instead is what one surface could wear in the stead of what it cannot: of pieces the
// one in place that looks most alike, of numbers the nearest that it takes.
func (in *Catalogue) Instead(s desk.Surface, info desk.FacetInfo, asked string) []Swap {
	if info.Takes != desk.TakesPiece {
		return nil
	}
	w, ok := in.Wear(info.Name, asked)
	if !ok {
		return nil
	}
	looks, ok := LooksOf(in.ctx, in.seen, w, false)
	if !ok {
		return nil
	}
	if near := in.Nearest(info.Name, looks, s.Title); near != "" && near != asked {
		return []Swap{{s.ID, s.Title, near}}
	}
	return nil
}
