package web

import (
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/changes"
	"ivelt/app/markets"
)

type historyPage struct {
	Frame
	Past  []pastView
	Asked []changes.Administered // what an administrator did for the desk
	Begun string                 // by an administrator, and not ended
}

type pastView struct {
	changes.Past
	Ops  []opView
	Last bool // there is nothing newer, so going back on it is all
}

func (s *Server) history(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "history", "history", "History")
	if err != nil {
		return err
	}
	past, err := s.App.History.Entries(f.Desk)
	if err != nil {
		return err
	}
	page := historyPage{Frame: f}
	if page.Asked, page.Begun, err = changes.AdministeredFor(f.Desk.Desk); err != nil {
		return err
	}
	for i, p := range past {
		page.Past = append(page.Past, pastView{p, opViews(f.Desk, p.Plan, false), i == 0})
	}
	s.page(w, r, http.StatusOK, "history", page)
	return nil
}

type lossPage struct {
	Frame
	Loss changes.Loss
	Ops  []opView
}

func (s *Server) reviewPurge(w http.ResponseWriter, r *http.Request) error {
	f, way, err := s.ofCheckpoint(r, "loss", "Delete checkpoint")
	if err != nil {
		return err
	}
	loss, err := s.App.History.LossOf(f.Desk, way.Checkpoint)
	if err != nil {
		return refused(err)
	}
	s.page(w, r, http.StatusOK, "loss", lossPage{f, loss, opViews(f.Desk, loss.Plan, false)})
	return nil
}

// changeHistory pins an entry of the history, or lets one go.
func (s *Server) changeHistory(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	way, err := wayOf(r, r.FormValue("checkpoint"))
	if err == nil {
		switch r.FormValue("do") {
		case "pin", "unpin":
			err = s.App.History.Pin(d, way.Checkpoint, r.FormValue("do") == "pin")
		case "let-go":
			err = s.App.History.Purge(d, way.Checkpoint)
		default:
			err = errNothingToDo
		}
	}
	if err != nil {
		return refused(err)
	}
	to(w, r, "/d/"+d.ID+"/history")
	return nil
}

// destination is somewhere the go-anywhere box leads to.
type destination struct{ Title, Kind, URL string }

func (s *Server) goAnywhere(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	q := strings.ToLower(strings.TrimSpace(r.FormValue("q")))
	base := "/d/" + d.ID
	var all []destination
	for _, st := range []string{"Find", "Shelf", "Compose", "Review", "Match", "History"} {
		all = append(all, destination{st, "stage", base + "/" + strings.ToLower(st)})
	}
	all = append(all, destination{d.Title + ", what it is and shows", "desk", base + "/start"})
	all = append(all, destination{"A program of your own", "teach Ivelt", base + "/learn"})
	rows, err := s.App.Library.Parcels()
	if err != nil {
		return err
	}
	for _, p := range rows {
		all = append(all, destination{p.Title + " " + p.Version, "parcel", base + "/parcel/" + p.SHA256})
	}
	packs, err := s.App.Pieces.Shelf(d)
	if err != nil {
		return err
	}
	for _, p := range packs {
		all = append(all, destination{p.Name, "on the shelf", base + "/shelf#pack-" + p.Folder})
	}
	all = slices.DeleteFunc(all, func(t destination) bool { return q == "" || !strings.Contains(strings.ToLower(t.Title), q) })
	if q != "" {
		found, err := s.App.Markets.Search(r.Context(), markets.Query{Words: q, Most: 9, Exact: true})
		if err != nil {
			return err
		}
		for _, e := range found.Entries {
			all = append(all, destination{e.Name, "in the market", base + "/find?q=" + url.QueryEscape(e.Name)})
		}
	}
	s.part(w, r, "find", "destinations", all[:min(len(all), 9)])
	return nil
}
