package web

import (
	"cmp"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app/advice"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/icontheme"
	"ivelt/core/layer"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/sign"
	"ivelt/store"
)

// shelfKinds are what the shelf shows: the facet that finds pieces of a kind, and the kind.
var shelfKinds = []struct {
	facet string
	kind  parcel.Kind
}{
	{desk.FacetWidgets, parcel.Theme}, {desk.FacetBar, parcel.Theme}, {desk.FacetIcons, parcel.Icons}, {desk.FacetPointer, parcel.Pointer}, {desk.FacetFont, parcel.Font},
	{desk.FacetBackdrop, parcel.Backdrop}, {desk.FacetPalette, parcel.Palette}, {desk.FacetPictures, parcel.Style}, {desk.FacetLogin, parcel.Login},
}

// maxShelf is how many pieces a page of the shelf shows.
const maxShelf = 60

type shelfPage struct {
	Frame
	Words, Kind, Only string // what is looked for: words, a kind, "mine", "used" or "newer"
	Sort              string // "" is one's own first
	Sorts             []choice
	Kinds             []choice
	Onlys             []choice
	Count, Mine       int
	Pieces            []shelfView
	More              string           // address of the page with the rest
	Newer             []markets.Newer  // versions of what is in place
	Lost              []library.Placed // what Ivelt put in place and no surface finds
	Described         []describedRow   // programs whose descriptors came from others
	Parcels           []store.ParcelRow
}

// describedRow is a descriptor that was put in place, with its newer version if there is one.
type describedRow struct {
	library.Placed
	Newer *markets.Newer
}

// shelfView is a piece that is installed.
type shelfView struct {
	advice.Wear
	Facet       string
	KindTitle   say.Word
	Group       *say.Message // heads the pieces of one kind or maker, with the first of them
	Kind        parcel.Kind
	Path, Shown string // its folder or file; Shown as people write it
	Pack        *library.Pack
	Mine        bool
	Removes     string // what Remove takes away, "" if it cannot be
	Renames     bool
	Named       []string // settings and looks that would miss it
	Newer       *markets.Newer
	OnDraft     bool
	Layer       *library.Layered // what it was built from, of a layer
	placed      time.Time        // by Ivelt
}

// shelfOrders are what the shelf can be sorted by.
var shelfOrders = []struct {
	name  string
	title say.Word
	by    func(a, b shelfView) int
}{
	{"", "yours first", func(a, b shelfView) int {
		return cmp.Or(first(a.Mine, b.Mine), first(len(a.UsedBy) > 0, len(b.UsedBy) > 0))
	}},
	{"name", "by name", func(a, b shelfView) int { return 0 }},
	{"kind", "by kind", func(a, b shelfView) int {
		return cmp.Compare(slices.Index(parcel.Kinds(), a.Kind), slices.Index(parcel.Kinds(), b.Kind))
	}},
	{"maker", "by maker", func(a, b shelfView) int {
		return cmp.Or(first(a.Maker != "", b.Maker != ""), strings.Compare(strings.ToLower(a.Maker), strings.ToLower(b.Maker)))
	}},
	{"latest", "latest first", func(a, b shelfView) int { return b.placed.Compare(a.placed) }},
	{"used", "in use first", func(a, b shelfView) int { return cmp.Compare(len(b.UsedBy), len(a.UsedBy)) }},
}

// Converts reports whether it is a pointer set of one's own, which can be converted.
func (v shelfView) Converts() bool { return v.Kind == parcel.Pointer && v.Mine }

func (s *Server) shelf(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "shelf", "shelf", "Shelf")
	if err != nil {
		return err
	}
	p := shelfPage{Frame: f, Words: strings.TrimSpace(r.FormValue("q")), Kind: r.FormValue("kind"), Only: r.FormValue("only"), Sort: r.FormValue("sort")}
	if p.Newer, err = s.App.Markets.Newer(f.Desk); err != nil {
		return err
	}
	if p.Parcels, err = s.App.Library.Parcels(); err != nil {
		return err
	}
	all, err := s.installed(r, &p)
	if err != nil {
		return err
	}
	counts := map[parcel.Kind]int{}
	for _, v := range all {
		p.Count++
		if v.Mine {
			p.Mine++
		}
		if !v.wanted(p) {
			continue
		}
		counts[v.Kind]++
		if p.Kind == "" || string(v.Kind) == p.Kind {
			p.Pieces = append(p.Pieces, v)
		}
	}
	if len(p.Pieces) > maxShelf && r.FormValue("all") == "" {
		p.Pieces, p.More = p.Pieces[:maxShelf], p.address("all", "1")
	}
	p.group()
	p.choices(counts)
	if r.Header.Get("HX-Target") == "shelved" {
		s.part(w, r, "shelf", "shelved", p)
		return nil
	}
	s.page(w, r, http.StatusOK, "shelf", p)
	return nil
}

// group puts a heading over the pieces of each kind or maker, if they are sorted so.
func (p *shelfPage) group() {
	title := map[string]func(shelfView) say.Message{
		"kind": func(v shelfView) say.Message { return plurals[v.Kind].Message() },
		"maker": func(v shelfView) say.Message {
			if v.Maker == "" {
				return say.Line("Maker not given")
			}
			return say.Words(v.Maker)
		},
	}[p.Sort]
	if title == nil {
		return
	}
	before := ""
	for i := range p.Pieces {
		if now := title(p.Pieces[i]); !strings.EqualFold(now.String(), before) {
			p.Pieces[i].Group, before = &now, now.String()
		}
	}
}

// wanted reports whether a piece is looked for, whatever its kind.
func (v shelfView) wanted(p shelfPage) bool {
	switch {
	case p.Only == "mine" && !v.Mine, p.Only == "used" && len(v.UsedBy) == 0, p.Only == "newer" && v.Newer == nil:
		return false
	}
	return contains(strings.Join([]string{v.Name, v.Folder, v.Comment, v.Shown, string(v.KindTitle), v.Maker}, " "), p.Words)
}

// address is that of the page with one wish changed.
func (p shelfPage) address(name, value string) string {
	q := url.Values{}
	for key, now := range map[string]string{"q": p.Words, "kind": p.Kind, "only": p.Only, "sort": p.Sort, "all": ""} {
		if key == name {
			now = value
		}
		if now != "" {
			q.Set(key, now)
		}
	}
	return "/d/" + p.Desk.ID + "/shelf?" + q.Encode()
}

// choices fills in the kinds and what else the pieces are sifted by.
func (p *shelfPage) choices(counts map[parcel.Kind]int) {
	all := 0
	for _, n := range counts {
		all += n
	}
	p.Kinds = []choice{{"", say.Line("Everything"), all, p.Kind == "", p.address("kind", "")}}
	for _, k := range parcel.Kinds() {
		if counts[k] > 0 || p.Kind == string(k) {
			p.Kinds = append(p.Kinds, choice{string(k), plurals[k].Message(), counts[k], p.Kind == string(k), p.address("kind", string(k))})
		}
	}
	for _, o := range [][2]say.Word{{"", "all"}, {"mine", "only mine"}, {"used", "in use"}, {"newer", "with a newer version"}} {
		p.Onlys = append(p.Onlys, choice{Value: string(o[0]), Title: o[1].Message(), Chosen: p.Only == string(o[0])})
	}
	for _, o := range shelfOrders {
		p.Sorts = append(p.Sorts, choice{Value: o.name, Title: o.title.Message(), Chosen: p.Sort == o.name})
	}
}

// installed are the pieces of all kinds that some surface of a desk finds, in the page's
// order; what Ivelt put in place besides goes to the page's Lost.
func (s *Server) installed(r *http.Request, p *shelfPage) ([]shelfView, error) {
	f := p.Frame
	packs, err := s.App.Pieces.Shelf(f.Desk)
	if err != nil {
		return nil, err
	}
	placed, err := s.App.Pieces.Placed(f.Desk)
	if err != nil {
		return nil, err
	}
	rows, err := s.App.Record.Origins(f.Desk.ID)
	if err != nil {
		return nil, err
	}
	found := map[int]bool{} // of what Ivelt put in place
	in := s.App.Advice.CatalogueOf(r.Context(), f.Desk, f.Now)
	var out []shelfView
	at := map[string]int{} // by path
	add := func(v shelfView) {
		if i, ok := at[v.Path]; ok { // a theme of windows has a bar's part too
			for _, by := range v.UsedBy {
				if !slices.Contains(out[i].UsedBy, by) {
					out[i].UsedBy = append(out[i].UsedBy, by)
				}
			}
			return
		}
		v.Shown, v.Mine, v.KindTitle = f.Desk.Show(v.Path), f.Desk.Mine(v.Path), v.Kind.Title()
		v.OnDraft = onDraft(f.Draft, v.Facet, v.Folder)
		for i, row := range placed {
			if row.Path != v.Path && !strings.HasPrefix(v.Path, row.Path+"/") {
				continue
			}
			found[i], v.Removes, v.Named = true, row.Path, row.Named
		}
		for _, row := range rows {
			if strings.HasPrefix(v.Path+"/", row.Path+"/") {
				v.placed, v.Maker = row.PlacedAt, cmp.Or(row.From.Maker, v.Maker)
			}
		}
		if v.Maker == "" && len(v.Wear.Piece.Only) == 0 {
			v.Maker = parcel.Maker(f.Desk.Tree(), desk.Name(v.Path))
		}
		for i := range p.Newer {
			if strings.HasPrefix(v.Path+"/", p.Newer[i].Piece.Path+"/") {
				v.Newer = &p.Newer[i]
			}
		}
		v.Renames = v.Mine && len(v.Wear.Piece.Only) == 0 && (v.Pack == nil || v.Pack.Problem == "") && f.Desk.Exists(path.Join(v.Path, "index.theme"))
		if slices.Contains(layer.Kinds, v.Kind) && v.Mine {
			if of, ok := s.App.Pieces.LayerAt(r.Context(), f.Desk.Desk, v.Path); ok {
				v.Layer = &of
			}
		}
		at[v.Path] = len(out)
		out = append(out, v)
	}
	for _, k := range shelfKinds {
		if k.kind == parcel.Icons {
			for i := range packs {
				pack := &packs[i]
				v := shelfView{Wear: advice.Wear{Folder: pack.Folder, Name: pack.Name, Comment: pack.Comment, UsedBy: pack.UsedBy}, Facet: k.facet, Kind: k.kind, Path: pack.Path, Pack: pack}
				if pack.Mine && len(pack.UsedBy) == 0 {
					v.Removes = pack.Path
				}
				add(v)
			}
			continue
		}
		for _, wear := range in.Listed(k.facet) {
			if !wear.BuiltIn && wear.Tried == "" {
				add(shelfView{Wear: wear, Facet: k.facet, Kind: k.kind, Path: wear.Path()})
			}
		}
	}
	for i, row := range placed {
		switch {
		case found[i]:
		case row.Kind == string(parcel.Descriptor):
			n := slices.IndexFunc(p.Newer, func(n markets.Newer) bool { return n.Piece.Path == row.Path })
			of := describedRow{Placed: row}
			if n >= 0 {
				of.Newer = &p.Newer[n]
			}
			p.Described = append(p.Described, of)
		default:
			p.Lost = append(p.Lost, row)
		}
	}
	order := shelfOrders[0]
	for _, o := range shelfOrders {
		if o.name == p.Sort {
			order = o
		}
	}
	slices.SortStableFunc(out, func(a, b shelfView) int {
		return cmp.Or(order.by(a, b), strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)))
	})
	return out, nil
}

// first sorts what is so before what is not.
func first(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return -1
	}
	return 1
}

// Picture is the address of the piece's picture.
func (v shelfView) Picture(desk string) string {
	return "/d/" + desk + "/tag.svg?" + url.Values{"facet": {v.Facet}, "piece": {v.Folder}}.Encode()
}

// packTag serves the picture of a piece that is in place or tried on.
func (s *Server) packTag(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	seen := s.App.Overlays.Overlay(d)
	facet, name, columns := r.FormValue("facet"), r.FormValue("piece"), 5
	if facet == "" {
		facet, name, seen, columns = desk.FacetIcons, r.FormValue("pack"), d.Desk, 6
	}
	if facet == desk.FacetIcons {
		if x, ok := iconsNamed(seen, name); ok {
			servePicture(w, r, "image/svg+xml", sign.Tag(r.Context(), seen.Tree(), x, columns, 2, 64, 56))
			return nil
		}
		return missing(errNotHere)
	}
	wear, ok := s.App.Advice.Piece(r.Context(), d, facet, name)
	if !ok {
		return missing(errNotHere)
	}
	if facet == desk.FacetBar {
		servePicture(w, r, "image/svg+xml", sign.Shell(seen, preview.Draft(r.Context(), seen, outfit.Outfit{}.With(facet, wear.Folder))))
		return nil
	}
	servePicture(w, r, "image/svg+xml", sign.Piece(r.Context(), seen.Tree(), wear.Piece))
	return nil
}

// iconsNamed are the icons that some surface finds by the name of a pack.
func iconsNamed(d *desk.Desk, name string) (*icontheme.Index, bool) {
	if strings.Contains(name, "/") {
		return nil, false
	}
	for _, surface := range d.Surfaces() {
		f, ok := surface.Facet(desk.FacetIcons)
		if !ok {
			continue
		}
		x := reading.IconIndex(d, f.Packs(), name)
		if chain := x.Chain(); len(chain) > 0 && chain[0].Folder == name {
			return x, true
		}
	}
	return nil, false
}

func (s *Server) remove(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	job, err := s.App.Pieces.Remove(d, r.FormValue("path"), library.How{Lose: r.FormValue("lose") != ""}, "/d/"+d.ID+"/shelf")
	if err != nil {
		return refused(err)
	}
	job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
	s.showJob(w, r, d.ID, job)
	return nil
}

// rebuildLayer builds a layer anew over the theme below.
func (s *Server) rebuildLayer(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	job, err := s.App.Pieces.Rebuild(r.Context(), d, r.FormValue("path"), r.FormValue("lose") != "", "/d/"+d.ID+"/shelf")
	if err != nil {
		return refused(err)
	}
	job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
	s.showJob(w, r, d.ID, job)
	return nil
}

func (s *Server) rename(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := s.App.Pieces.Rename(r.Context(), d, r.FormValue("path"), r.FormValue("name")); err != nil {
		return refused(err)
	}
	to(w, r, "/d/"+d.ID+"/shelf")
	return nil
}
