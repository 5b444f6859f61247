package app

import (
	"ivelt/store"
)

// Library is the parcels that are kept.
type Library struct{ store libraryStore }

type libraryStore interface {
	Parcels() ([]store.ParcelRow, error)
	Parcel(sha string) (store.ParcelRow, error)
}

// Parcels are all of them, the newest first.
func (l Library) Parcels() ([]store.ParcelRow, error) { return l.store.Parcels() }

// Parcel returns one by its SHA-256, or [store.ErrNone].
func (l Library) Parcel(sha string) (store.ParcelRow, error) { return l.store.Parcel(sha) }

// Held are the SHA-256 sums of all.
func (l Library) Held() (map[string]bool, error) {
	rows, err := l.store.Parcels()
	if err != nil {
		return nil, err
	}
	out := map[string]bool{}
	for _, row := range rows {
		out[row.SHA256] = true
	}
	return out, nil
}

// Shortlist is the entries of markets that are to be compared.
type Shortlist struct{ store shortlistStore }

type shortlistStore interface {
	Pins() ([]store.MarketEntryRow, error)
	TurnPin(market uint, key string) error
}

// Entries are those of it that are still there, the oldest first.
func (s Shortlist) Entries() ([]store.MarketEntryRow, error) { return s.store.Pins() }

// Turn puts an entry on it, or takes it off if it is on it.
func (s Shortlist) Turn(e store.MarketEntryRow) error { return s.store.TurnPin(e.Market, e.Key) }

// On are the numbers of the entries on it.
func (s Shortlist) On() (map[uint]bool, error) {
	rows, err := s.store.Pins()
	if err != nil {
		return nil, err
	}
	out := map[uint]bool{}
	for _, row := range rows {
		out[row.ID] = true
	}
	return out, nil
}
