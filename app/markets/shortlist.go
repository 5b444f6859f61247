package markets

import (
	"context"
	"ivelt/store"
)

// Shortlist is the entries of markets that are to be compared.
type Shortlist struct{ store shortlistStore }

type shortlistStore interface {
	Pins(ctx context.Context) ([]store.MarketEntryRow, error)
	TurnPin(market uint, key string) error
}

// NewShortlist returns the one in a store.
func NewShortlist(s shortlistStore) Shortlist { return Shortlist{s} }

// Entries are those of it that are still there, the oldest first.
func (s Shortlist) Entries(ctx context.Context) ([]store.MarketEntryRow, error) {
	return s.store.Pins(ctx)
}

// Turn puts an entry on it, or takes it off if it is on it.
func (s Shortlist) Turn(e store.MarketEntryRow) error { return s.store.TurnPin(e.Market, e.Key) }

// On are the numbers of the entries on it.
func (s Shortlist) On(ctx context.Context) (map[uint]bool, error) {
	rows, err := s.store.Pins(ctx)
	if err != nil {
		return nil, err
	}
	out := map[uint]bool{}
	for _, row := range rows {
		out[row.ID] = true
	}
	return out, nil
}
