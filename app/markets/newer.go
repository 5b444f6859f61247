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
	rows, err := m.store.Pieces(d.ID)
	if err != nil {
		return nil, err
	}
	var out []Newer
	for _, row := range rows {
		came, err := m.store.Parcel(row.Parcel)
		if err != nil || came.Entry == "" || !d.Exists(row.Path) {
			continue
		}
		e, err := m.store.MarketEntryByKey(came.Market, came.Entry)
		if err != nil {
			continue
		}
		now, err := e.Entry()
		if err != nil {
			return nil, err
		}
		if v, ok := now.NewestLike(came.Version); ok && v.Version != came.Version && v.SHA256 != came.SHA256 {
			out = append(out, Newer{row, d.Show(row.Path), e.Market, e.Key, v.Version, v.Note})
		}
	}
	return out, nil
}
