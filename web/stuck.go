package web

import (
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/changes"
	"ivelt/app/desks"
)

// stuckView is what a page says of a desk on which nothing can be changed until an
// interrupted change is finished or undone.
type stuckView struct {
	changes.Stuck
	Desk string
	Says string
	Lies []lieView
}

type lieView struct {
	At, For  string
	Original bool
}

func stuckOf(d *desks.Managed, s changes.Stuck) *stuckView {
	v := &stuckView{Stuck: s, Desk: d.ID, Says: "What keeps it: " + strings.TrimSuffix(s.Why.Error(), ".") + "."}
	for _, l := range s.Lies {
		v.Lies = append(v.Lies, lieView{d.HostPath(l.At), d.Show(l.For), l.Original})
	}
	return v
}

// unstick tries once more to settle a desk; a journal that cannot be read can be put
// aside.
func (s *Server) unstick(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if _, err := s.App.Applier.Unstick(d, r.FormValue("aside") != ""); err != nil {
		return conflict(err)
	}
	to(w, r, "/d/"+d.ID+"/history")
	return nil
}
