package web

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/advice"
	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/core/say"
	"ivelt/core/taste"
)

// maxLooks is how many looks stand side by side; of more than manyLooks some are offered to
// choose from, and the others found by their names.
const (
	maxLooks  = 4
	manyLooks = 16
)

// lookView is one look to hold against others.
type lookView struct {
	Key     string // "worn", "draft" or the number of one that was put by
	Name    say.Message
	Picture string
	Kept    bool
	pieces  map[string]string
	Unalike map[string]bool
}

// Piece is what the look has for a facet.
func (v lookView) Piece(facet string) string { return v.pieces[facet] }

type looksPage struct {
	Frame
	All    []namedLook // to choose from
	Words  string      // that they are searched for
	Many   bool        // there are more than are offered at once
	More   int         // that are not offered
	Chosen []lookView
	Scenes []preview.Scene
	Shown  preview.Scene
	Shade  string
	State  string // of the controls
	Actual bool   // pictures are not made smaller to fit
	Wipe   bool
}

// namedLook is a look that can be chosen for comparing.
type namedLook struct {
	Key    string
	Name   say.Message
	outfit outfit.Outfit
}

// Picked tells whether a look is among those shown.
func (p looksPage) Picked(key string) bool {
	for _, v := range p.Chosen {
		if v.Key == key {
			return true
		}
	}
	return false
}

// Rows are the facets in which the looks shown differ.
func (p looksPage) Rows() []desk.FacetInfo {
	return slices.DeleteFunc(slices.Clone(desk.Facets), func(f desk.FacetInfo) bool { return p.alike(f.Name) })
}

// Alike names those in which they do not.
func (p looksPage) Alike() *say.Message {
	var out []say.Message
	for _, f := range desk.Facets {
		if p.alike(f.Name) {
			out = append(out, say.Lower(f.Title))
		}
	}
	if out == nil {
		return nil
	}
	return ref(say.Join(", ", out...))
}

func (p looksPage) alike(facet string) bool {
	return !slices.ContainsFunc(p.Chosen, func(v lookView) bool { return v.Unalike[facet] })
}

// Differences tells in words what sets the others apart from the first.
func (p looksPage) Differences() []say.Message {
	var out []say.Message
	for i, v := range p.Chosen {
		for _, f := range desk.Facets {
			if i > 0 && v.pieces[f.Name] != p.Chosen[0].pieces[f.Name] {
				out = append(out, say.Line("%s has %s for its %s, %s has %s", v.Name, v.pieces[f.Name], say.Lower(f.Title), p.Chosen[0].Name, p.Chosen[0].pieces[f.Name]))
			}
		}
	}
	return out
}

// looks shows two to four looks side by side, or two wiped over each other, in
// step in scene and shade.
func (s *Server) looks(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "looks", "compose", "Compare looks")
	if err != nil {
		return err
	}
	p := looksPage{Frame: f, Scenes: preview.ScenesOf(f.Now), Shown: preview.Scenes[0], Shade: r.FormValue("shade")}
	p.State, p.Actual = r.FormValue("state"), r.FormValue("size") == "actual"
	for _, scene := range preview.Scenes {
		if scene.Name == r.FormValue("scene") {
			p.Shown = scene
		}
	}
	kept, err := s.App.Drafts.Looks(f.Desk)
	if err != nil {
		return err
	}
	all := []namedLook{{"worn", say.Line("Now"), outfit.Outfit{}}}
	if len(f.Draft.Choices) > 0 {
		all = append(all, namedLook{"draft", say.Line("The draft"), f.Draft})
	}
	for _, k := range kept {
		all = append(all, namedLook{strconv.Itoa(int(k.ID)), say.Words(k.Name), k.Outfit})
	}
	wanted := r.Form["of"]
	p.Words, p.Many = strings.TrimSpace(r.FormValue("q")), len(all) > manyLooks
	for _, v := range all {
		picked := len(p.Chosen) < maxLooks && (len(wanted) == 0 || slices.Contains(wanted, v.Key))
		if picked {
			p.Chosen = append(p.Chosen, s.lookView(r.Context(), f.Desk, p, v.Key, v.Name, v.outfit))
		}
		if !picked && (len(p.All) >= manyLooks || !contains(v.Name.String(), p.Words)) {
			p.More++
			continue
		}
		p.All = append(p.All, v)
	}
	for _, f := range desk.Facets {
		for i := range p.Chosen {
			p.Chosen[i].Unalike[f.Name] = p.Chosen[i].pieces[f.Name] != p.Chosen[0].pieces[f.Name]
		}
	}
	p.Wipe = r.FormValue("wipe") != "" && len(p.Chosen) == 2
	s.page(w, r, http.StatusOK, "looks", p)
	return nil
}

func (s *Server) lookView(ctx context.Context, d *desks.Managed, p looksPage, key string, name say.Message, o outfit.Outfit) lookView {
	v := lookView{Key: key, Name: name, Kept: key != "worn" && key != "draft", pieces: map[string]string{}, Unalike: map[string]bool{}}
	v.Picture = fmt.Sprintf("/d/%s/picture.svg?look=%s&%s", d.ID, key, url.Values{"scene": {p.Shown.Name}, "shade": {p.Shade}, "state": {p.State}, "v": {etag(o.Bytes())}}.Encode())
	trying := s.App.Overlays.Trying(d, o)
	look := preview.Draft(ctx, trying, o)
	for _, f := range desk.Facets {
		var shown []string
		for _, surface := range d.Surfaces() {
			if piece := fine.Says(f.Name, look.Of(f.Name, surface.ID)).String(); piece != "" && !slices.Contains(shown, piece) {
				shown = append(shown, piece)
			}
		}
		v.pieces[f.Name] = strings.Join(shown, " and ")
		if v.pieces[f.Name] == "" {
			v.pieces[f.Name] = "none of its own"
		}
	}
	return v
}

// lookOf is what a picture is asked to show, worn, draft or one that was put by,
// and the desk as it would be in it.
func (s *Server) lookOf(ctx context.Context, d *desks.Managed, key string) (*desk.Desk, preview.Look, error) {
	var o outfit.Outfit
	switch key {
	case "", "worn":
		return d.Desk, preview.Worn(ctx, d.Desk), nil
	case "draft":
		var err error
		if o, err = s.App.Drafts.Draft(d); err != nil {
			return nil, preview.Look{}, err
		}
	case string(taste.Kin), string(taste.Key), string(taste.Against):
		p, ok := s.proposed(ctx, d, key)
		if !ok {
			return nil, preview.Look{}, advice.ErrTooFew
		}
		o = p.Outfit
	default:
		if when, sha, ok := strings.Cut(key, " "); ok && (when == "before" || when == "after") {
			pieces, err := s.App.Overlays.Wearing(d, sha)
			seen := d.Desk
			if err == nil && when == "after" {
				seen, err = s.App.Overlays.After(ctx, d, sha)
			}
			if err != nil {
				return nil, preview.Look{}, err
			}
			return seen, preview.Draft(ctx, seen, pieces), nil
		}
		if half, ok := strings.CutPrefix(key, "half "); ok {
			var err error
			if o, err = s.App.Drafts.Halved(d); err != nil {
				return nil, preview.Look{}, err
			}
			o = o.In(outfit.Half(half))
			break
		}
		if sha, piece, ok := strings.Cut(strings.TrimPrefix(key, "bundle "), " "); ok && strings.HasPrefix(key, "bundle ") {
			var err error
			if o, err = s.App.Bundles.Outfit(ctx, d, sha, piece); err != nil {
				return nil, preview.Look{}, err
			}
			break
		}
		if choice, ok := strings.CutPrefix(key, "with "); ok { // the draft, once that is chosen too
			facet, piece, _ := strings.Cut(choice, " ")
			draft, err := s.App.Drafts.Draft(d)
			if err == nil {
				o, err = s.App.Drafts.With(d, draft, facet, piece)
			}
			if err != nil {
				return nil, preview.Look{}, err
			}
			break
		}
		id, err := strconv.ParseUint(key, 10, 32)
		if err != nil {
			return nil, preview.Look{}, err
		}
		k, err := s.App.Drafts.Look(d, uint(id))
		if err != nil {
			return nil, preview.Look{}, err
		}
		o = k.Outfit
	}
	trying := s.App.Overlays.Trying(d, o)
	return trying, preview.Draft(ctx, trying, o), nil
}

// changeLook does what a form asks of a look or of the draft.
func (s *Server) changeLook(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	id64, _ := strconv.ParseUint(r.FormValue("look"), 10, 32)
	id := uint(id64)
	switch r.FormValue("do") {
	case "undo":
		err = s.App.Drafts.Undo(d, false)
	case "redo":
		err = s.App.Drafts.Undo(d, true)
	case "keep":
		_, err = s.App.Drafts.KeepLook(d, r.FormValue("name"))
	case "take":
		err = s.App.Drafts.TakeLook(d, id)
	case "rename":
		err = s.App.Drafts.RenameLook(d, id, r.FormValue("name"))
	case "copy":
		err = s.App.Drafts.CopyLook(d, id)
	case "drop":
		err = s.App.Drafts.DropLook(d, id)
	default:
		err = say.Errorf("there is nothing called %q to do with a look", r.FormValue("do"))
	}
	if err != nil {
		return refused(err)
	}
	return s.draftChanged(w, r)
}
