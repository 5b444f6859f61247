package web

import (
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/say"
	"ivelt/store"
)

type closerPage struct {
	Frame
	markets.Closer
	Tag      findTag
	Variants []variantTag
	With     []nearTag
	Words    []string // how it looks
	Has      map[string]bool
}

// variantTag is a variant with the pictures by which it is compared with the entry: both in
// one form, where they have one in common.
type variantTag struct {
	findTag
	State, Against string // of its picture, and of the entry's
}

type nearTag struct {
	findTag
	Why say.Message
}

// Shown are the pictures that are not for the screens, nor for comparing.
func (p closerPage) Shown() []market.Picture {
	return slices.DeleteFunc(slices.Clone(p.Entry.Pictures), func(m market.Picture) bool {
		return m.State == "light" || m.State == "dark" || strings.HasPrefix(m.State, "whole") || len(p.Closer.Screens) > 0 && m.State == "normal"
	})
}

// screenPlace is where a monitor stands in the picture of the desk's monitors,
// and, from its corner, the backdrop that fills it.
type screenPlace struct {
	markets.Screen
	X, Y, Wide, High     int
	PX, PY, PWide, PHigh int
}

// The picture of the monitors, px.
const screensWidth, maxScreensHeight, screenGap = 716.0, 240.0, 20.0

// Screens lays the monitors side by side, at one scale.
func (p closerPage) Screens() (out struct {
	Height int
	List   []screenPlace
}) {
	var wide, high float64
	for _, s := range p.Closer.Screens {
		wide += float64(s.Width)
		high = max(high, float64(s.Height))
	}
	gaps := screenGap * float64(len(p.Closer.Screens)-1)
	scale := min((screensWidth-gaps)/wide, maxScreensHeight/high)
	out.Height = int(high*scale) + 4
	x := 2 + (screensWidth-wide*scale-gaps)/2
	for _, s := range p.Closer.Screens {
		w, h := float64(s.Width)*scale, float64(s.Height)*scale
		cover := max(w/float64(s.W), h/float64(s.H))
		pw, ph := float64(s.W)*cover, float64(s.H)*cover
		out.List = append(out.List, screenPlace{s, int(x), int(high*scale-h) + 2, int(w), int(h), int((w - pw) / 2), int((h - ph) / 2), int(pw) + 1, int(ph) + 1})
		x += w + screenGap
	}
	return out
}

// Install is the line by which an administrator installs a package of the system's, "" for
// what is none.
func (p closerPage) Install() string {
	if !p.Tag.System {
		return ""
	}
	return desk.Package{Name: p.Tag.Key}.Command()
}

// Missing are the companions that are not on the desk and can be fetched along.
func (p closerPage) Missing() []markets.Companion {
	var out []markets.Companion
	for _, c := range p.Companions {
		if c.Here == "" && c.Entry != "" {
			out = append(out, c)
		}
	}
	return out
}

// closer shows one entry, laid over the wall or as a page of its own.
func (s *Server) closer(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "closer", "find", "")
	if err != nil {
		return err
	}
	id, _ := strconv.ParseUint(chi.URLParam(r, "market"), 10, 32)
	c, err := s.App.Markets.Closer(r.Context(), f.Desk, uint(id), chi.URLParam(r, "entry"))
	if err != nil {
		return missing(err)
	}
	f.Title = say.Words(c.Entry.Name)
	p := closerPage{Frame: f, Closer: c}
	if p.Has, err = s.App.Library.Held(); err != nil {
		return err
	}
	own, err := s.tags(r.Context(), []store.MarketEntryRow{c.Row}, f.Desk.ID)
	if err != nil {
		return err
	}
	if len(own) == 1 {
		p.Tag = own[0]
	}
	variants, err := s.tags(r.Context(), c.Variants, f.Desk.ID)
	if err != nil {
		return err
	}
	for _, v := range variants {
		shade := market.CommonForm(f.Draft.Want(desk.FacetDark), c.Entry, v.Entry)
		p.Variants = append(p.Variants, variantTag{v, v.Pictured(shade), c.Entry.Pictured(shade)})
	}
	var with []store.MarketEntryRow
	why := map[uint]say.Message{}
	for _, n := range c.With {
		with, why[n.Row.ID] = append(with, n.Row), n.Why
	}
	tags, err := s.tags(r.Context(), with, f.Desk.ID)
	if err != nil {
		return err
	}
	for _, t := range tags {
		p.With = append(p.With, nearTag{t, why[t.MarketEntryRow.ID]})
	}
	if l := c.Entry.Looks; l != nil {
		p.Words = l.Words()
	}
	if r.Header.Get("HX-Request") != "" {
		s.part(w, r, "closer", "closer", p)
		return nil
	}
	s.page(w, r, http.StatusOK, "closer", p)
	return nil
}
