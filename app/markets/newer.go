package markets

import (
	"ivelt/app/desks"
	"ivelt/store"
)

// Newer is a piece in place of which a market has a newer version.
type Newer struct {
	Piece   store.PieceRow
	Shown   string // its path as people write it
	Market  uint
	Entry   string
	Version string
	Note    string
}

// Newer lists the pieces of a desk that came from a market which has a newer
// version of the same channel by now.
func (m *Markets) Newer(d *desks.Managed) ([]Newer, error) {
	offered, err := m.store.Offered(d.ID)
	if err != nil {
		return nil, err
	}
	var out []Newer
	for _, of := range offered {
		e, err := of.Entry.Entry()
		if err != nil {
			return nil, err
		}
		v, ok := e.NewestLike(of.Parcel.Version)
		if ok && v.Version != of.Parcel.Version && v.SHA256 != of.Parcel.SHA256 && d.Exists(of.Piece.Path) {
			out = append(out, Newer{of.Piece, d.Show(of.Piece.Path), of.Entry.Market, of.Entry.Key, v.Version, v.Note})
		}
	}
	return out, nil
}
