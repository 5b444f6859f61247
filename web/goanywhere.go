package web

import (
	"cmp"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/language"
	"ivelt/core/say"
	"ivelt/core/synonym"
)

// destination is somewhere the go-anywhere box leads to.
type destination struct {
	Title say.Message
	Kind  say.Message
	URL   string
	Key   string // that leads there too: "g f"
	words string // that it is found by besides its title
}

// maxDestinations is how many are listed.
const maxDestinations = 9

// places are the pages of a desk, with what one does there.
func places(d *desks.Managed) []destination {
	base := "/d/" + d.ID
	var effects []destination // and what else only some desks have
	if d.Has(desk.FacetOpening) {
		effects = []destination{{say.Line("Effects"), say.Line("page"), base + "/effects", "", "animation motion windows open close minimise slow"}}
	}
	if _, lock := d.Locked(); lock != nil {
		effects = append(effects, destination{say.Line("Ready to unlock?"), say.Line("page"), base + "/lock", "", "signed key vendor mark console update restart"})
	}
	return append([]destination{
		{say.Line("Find"), say.Line("page"), base + "/find", "g f", "search market fetch download add files"},
		{say.Line("Shelf"), say.Line("page"), base + "/shelf", "g s", "installed remove rename update"},
		{say.Line("Compose"), say.Line("page"), base + "/compose", "g c", "try on choose draft change look"},
		{say.Line("Arrange"), say.Line("page"), base + "/arrange", "g a", "bars panel dock taskbar launcher clock tray position"},
		{say.Line("Match"), say.Line("page"), base + "/match", "g m", "fix repair consistent restart"},
		{say.Line("History"), say.Line("page"), base + "/history", "g h", "undo go back checkpoint restore"},
		{say.Line("Review the draft"), say.Line("action"), base + "/review", "r", "apply changes plan try"},
		{say.Line("Judge the look"), say.Line("action"), base + "/judge", "g j", "contrast readable problems slow"},
		{say.Line("Complete the look"), say.Line("action"), base + "/complete", "g w", "propose suggest goes with"},
		{say.Line("Day and night"), say.Line("page"), base + "/halves", "g n", "light dark automatic turn clock sun slide show wallpaper"},
		{say.Line("Backdrop on your monitors"), say.Line("page"), base + "/backdrop", "", "wallpaper cut crop colours tint"},
		{say.Line("Show the look to others"), say.Line("action"), base + "/sheet", "g o", "sheet share print export outfit file"},
		{say.Line("Compare saved looks"), say.Line("action"), base + "/looks", "", "side by side"},
		{say.Line("Compare the shortlist"), say.Line("action"), base + "/compare", "", "pins pinned"},
		{say.Line("Newer versions"), say.Line("action"), base + "/shelf?only=newer", "", "update upgrade"},
		{say.Line("Markets"), say.Line("page"), base + "/markets", "", "add source repository"},
		{say.Line("Language"), say.Line("page"), base + "/language", "", "translate translation letters"},
		{say.Line("%s, what it is and shows", d.Title), say.Line("desk"), base + "/start", "", "start computer this allow changes read-only"},
		{say.Line("A program of your own"), say.Line("action"), base + "/learn", "", "teach add missing"},
	}, effects...)
}

// settings are those that some surface of a desk has, in Compose, and the pages of surfaces.
func settings(d *desks.Managed) (out []destination) {
	base := "/d/" + d.ID
	for _, info := range desk.Facets {
		if d.Has(info.Name) {
			out = append(out, destination{info.Title.Message(), say.Line("setting"), base + "/compose?facet=" + info.Name, "", info.Name})
		}
	}
	for _, surface := range d.Surfaces() {
		if page := surfacePage(d, surface); page != "" {
			out = append(out, destination{say.Words(surface.Title), say.Line("settings of a program"), page, "", surface.Kind})
		}
	}
	return out
}

// meant reports whether a destination has every word, or another word for it, and whether its
// title begins with them.
func (t destination) meant(l *language.Language, words []string) (is, begins bool) {
	text := strings.ToLower(t.Title.In(l) + " " + t.Title.String() + " " + t.words)
	for _, word := range words {
		if !slices.ContainsFunc(append([]string{word}, synonym.Of(word)...), func(w string) bool { return strings.Contains(text, w) }) {
			return false, false
		}
	}
	return true, strings.HasPrefix(text, words[0])
}

func (s *Server) goAnywhere(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	words := strings.Fields(strings.ToLower(r.FormValue("q")))
	if len(words) == 0 {
		s.part(w, r, "find", "destinations", []destination(nil))
		return nil
	}
	base := "/d/" + d.ID
	all := append(places(d), settings(d)...)
	rows, err := s.App.Library.Parcels()
	if err != nil {
		return err
	}
	for _, p := range rows {
		all = append(all, destination{say.Words(p.Title + " " + p.Version), say.Line("parcel"), base + "/parcel/" + p.SHA256, "", ""})
	}
	pieces, in := s.App.Advice.Catalogue(r.Context(), d), s.Languages.Of(r)
	for _, k := range shelfKinds {
		for _, wear := range pieces.Listed(k.facet) {
			if !wear.BuiltIn && k.facet != desk.FacetBar { // that is in the themes
				all = append(all, destination{say.Words(wear.Name), say.Line("%s, installed", k.kind.Title()), base + "/shelf?" + url.Values{"q": {wear.Name}}.Encode(), "", wear.Folder})
			}
		}
	}
	type found struct {
		destination
		begins bool
	}
	var meant []found
	for _, t := range all {
		if is, begins := t.meant(in, words); is {
			meant = append(meant, found{t, begins})
		}
	}
	slices.SortStableFunc(meant, func(a, b found) int { return cmp.Or(first(a.begins, b.begins)) })
	var out []destination
	for _, f := range meant[:min(len(meant), maxDestinations)] {
		out = append(out, f.destination)
	}
	if left := maxDestinations - len(out); left > 0 {
		of, err := s.App.Markets.Search(r.Context(), markets.Query{Words: r.FormValue("q"), Most: left, Exact: true})
		if err != nil {
			return err
		}
		for _, e := range of.Entries {
			out = append(out, destination{say.Words(e.Name), say.Line("in the market"), base + "/find?q=" + url.QueryEscape(e.Name), "", ""})
		}
	}
	s.part(w, r, "find", "destinations", out)
	return nil
}
