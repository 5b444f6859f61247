package web

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"ivelt/app/changes"
)

// maxPast is how many entries a page of the history shows.
const maxPast = 50

type historyPage struct {
	Frame
	Past  []pastView
	Older int                    // entries that are not shown
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
	shown := maxPast
	if r.FormValue("all") != "" {
		shown = 0
	}
	past, older, err := s.App.History.Latest(f.Desk, shown)
	if err != nil {
		return err
	}
	page := historyPage{Frame: f, Older: older}
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

// changeHistory takes a checkpoint, or pins an entry of the history, writes a note beside it or
// deletes its checkpoint.
func (s *Server) changeHistory(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if r.FormValue("do") == "take" {
		if err := s.App.Applier.Checkpoint(d, r.FormValue("note")); err != nil {
			return refused(err)
		}
		to(w, r, "/d/"+d.ID+"/history")
		return nil
	}
	way, err := wayOf(r, r.FormValue("checkpoint"))
	if err == nil {
		switch r.FormValue("do") {
		case "note":
			err = s.App.History.Note(d, way.Checkpoint, r.FormValue("note"))
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
