package web

import (
	"errors"
	"net/http"

	"ivelt/app/library"
	"ivelt/core/parcel"
	"ivelt/store"
)

// maxCame bounds how many parcels are listed, and maxCamePieces how many pieces of each.
const (
	maxCame       = 24
	maxCamePieces = 6
)

// camePage lists parcels that were fetched together.
type camePage struct {
	Frame
	Parcels []cameView
}

type cameView struct {
	store.ParcelRow
	Pieces []camePiece
	More   int           // pieces that are not listed
	Notes  []parcel.Note // warnings and errors of the parcel
}

type camePiece struct {
	parcel.Piece
	Key, Picture string
}

// came serves what several parcels that came together have in them.
func (s *Server) came(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "came", "find", "Fetched")
	if err != nil {
		return err
	}
	p := camePage{Frame: f}
	wanted := r.URL.Query()["of"]
	if len(wanted) == 0 || len(wanted) > maxCame {
		return missing(errNotHere)
	}
	for _, sha := range wanted {
		row, err := s.App.Library.Parcel(sha)
		if errors.Is(err, store.ErrNone) {
			return missing(err)
		}
		if err != nil {
			return err
		}
		contents, err := library.Contents(row)
		if err != nil {
			return err
		}
		v := cameView{ParcelRow: row}
		for _, pc := range contents.Pieces {
			if len(v.Pieces) == maxCamePieces {
				v.More++
				continue
			}
			v.Pieces = append(v.Pieces, camePiece{pc, library.PieceKey(pc), pieceTag(f.Desk.ID, sha, pc)})
		}
		for _, n := range contents.Notes {
			if n.Level == "warning" || n.Level == "error" {
				v.Notes = append(v.Notes, n)
			}
		}
		p.Parcels = append(p.Parcels, v)
	}
	s.page(w, r, http.StatusOK, "came", p)
	return nil
}
