package web

import (
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"ivelt/store"
)

type marketsPage struct {
	Frame
	Markets []store.MarketRow
}

func (s *Server) markets(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "markets", "find", "Markets")
	if err != nil {
		return err
	}
	rows, err := s.App.Markets.List()
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "markets", marketsPage{f, rows})
	return nil
}

// changeMarkets adds a market, turns one on or off, or drops one.
func (s *Server) changeMarkets(w http.ResponseWriter, r *http.Request) error {
	id, _ := strconv.ParseUint(r.FormValue("market"), 10, 32)
	var err error
	switch m := s.App.Markets; r.FormValue("do") {
	case "add":
		err = m.Add(r.Context(), r.FormValue("base"))
	case "on", "off":
		err = m.Turn(uint(id), r.FormValue("do") == "on")
	case "drop":
		err = m.Drop(uint(id))
	default:
		err = errNothingToDo
	}
	if err != nil {
		return refused(err)
	}
	to(w, r, "/d/"+chi.URLParam(r, "desk")+"/markets")
	return nil
}
