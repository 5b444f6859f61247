package web

import (
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"ivelt/core/market"
	"ivelt/store"
)

type marketsPage struct {
	Frame
	Markets []marketView
}

// marketView is a market with whom it is signed by, as people tell keys apart.
type marketView struct {
	store.MarketRow
	Signer, Other string // "" for nobody
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
	page := marketsPage{Frame: f}
	for _, row := range rows {
		page.Markets = append(page.Markets, marketView{row, market.Key(row.Key).Short(), market.Key(row.OtherKey).Short()})
	}
	s.page(w, r, http.StatusOK, "markets", page)
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
	case "key":
		err = m.TakeKey(uint(id), r.FormValue("key"))
	default:
		err = errNothingToDo
	}
	if err != nil {
		return refused(err)
	}
	to(w, r, "/d/"+chi.URLParam(r, "desk")+"/markets")
	return nil
}
