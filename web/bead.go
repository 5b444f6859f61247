package web

import (
	"context"
	"net/http"
	"net/url"
	"slices"

	"github.com/go-chi/chi/v5"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/preview"
	"ivelt/sign"
)

// beading draws the beads of one page from one look of its desk, so that a page asks the desk
// once and not for each of them. A nil one draws none.
type beading struct {
	s     *Server
	id    string // of the desk
	d     *desk.Desk
	look  preview.Look
	drawn map[[2]string]string // the address by facet and surface
	by    map[string]string    // the address by what is seen: the same is fetched once
	board *match.Board         // of the desk without what is tried on, where that is more than there is
}

// later reports whether a fix of a cell has a plan only once what is tried on is in place.
func (b *beading) later(c match.Cell, r match.Fix) bool {
	if b == nil || b.board == nil || !r.Planned() {
		return false
	}
	now, _ := b.board.Cell(c.Surface.ID, c.Facet)
	return !slices.ContainsFunc(now.Fixes(), func(n match.Fix) bool { return n.ID() == r.ID() })
}

// beading draws for a page, as long as its request is waited for.
func (s *Server) beading(ctx context.Context, f Frame) *beading {
	return &beading{s: s, id: f.Desk.ID, d: f.Now, look: preview.Worn(ctx, f.Now), drawn: map[[2]string]string{}, by: map[string]string{}}
}

// address is where the bead of a facet of a surface is found, kept for whoever asks soon.
func (b *beading) address(facet, surface string) string {
	if b == nil {
		return ""
	}
	of := [2]string{facet, surface}
	if at, ok := b.drawn[of]; ok {
		return at
	}
	picture := sign.Bead(b.d, b.look, facet, surface)
	tag := etag(picture)
	at, ok := b.by[tag]
	if !ok {
		cache.Of(b.s.beads, tag, cache.Always[[]byte], func() cache.Made[[]byte] { return cache.Made[[]byte]{Value: picture, Bytes: len(picture)} })
		at = "/d/" + b.id + "/bead?" + url.Values{"facet": {facet}, "surface": {surface}, "v": {tag[1 : len(tag)-1]}}.Encode()
		b.by[tag] = at
	}
	b.drawn[of] = at
	return at
}

// bead serves what stands for what a surface shows for a facet: as a page has drawn it, or,
// if that is not kept any more, anew.
func (s *Server) bead(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	surface, ok := d.Surface(r.FormValue("surface"))
	if _, has := surface.Facet(r.FormValue("facet")); !ok || !has {
		return missing(errNotHere)
	}
	tag := `"` + r.FormValue("v") + `"`
	picture := cache.Of(s.beads, tag, cache.Always[[]byte], func() cache.Made[[]byte] {
		picture := sign.Bead(d.Desk, preview.Worn(r.Context(), d.Desk), r.FormValue("facet"), surface.ID)
		return cache.Made[[]byte]{Value: picture, Bytes: len(picture), Brief: true}
	})
	control := "no-cache"
	if etag(picture) == tag { // its address names it
		control = forGood
	}
	serveKept(w, r, "image/svg+xml", picture, control)
	return nil
}
