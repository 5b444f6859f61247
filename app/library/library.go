// Package library keeps parcels, tells what is in them, and puts their pieces in place on
// desks or takes them away again.
package library

import (
	"log/slog"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/store"
)

// Library is the parcels that are kept, in a folder "parcels" of the data folder.
type Library struct {
	store  libraryStore
	dir    string
	desks  []*desks.Managed
	jobs   *jobs.List
	log    *slog.Logger
	opened opened
	coming chan struct{} // a place each for the parcels that are handed over at a time
}

type libraryStore interface {
	Parcels() ([]store.ParcelRow, error)
	Parcel(sha string) (store.ParcelRow, error)
	SaveParcel(p store.ParcelRow) error
}

// New returns the library of a data folder. What is recognised in parcels is what the
// surfaces of some desks have parts for.
func New(s libraryStore, dir string, all []*desks.Managed, running *jobs.List, log *slog.Logger) *Library {
	return &Library{store: s, dir: dir, desks: all, jobs: running, log: log, coming: make(chan struct{}, 4)}
}

// Parcels are all of them, the newest first.
func (l *Library) Parcels() ([]store.ParcelRow, error) { return l.store.Parcels() }

// Parcel returns one by its SHA-256, or [store.ErrNone].
func (l *Library) Parcel(sha string) (store.ParcelRow, error) { return l.store.Parcel(sha) }

// Held are the SHA-256 sums of all.
func (l *Library) Held() (map[string]bool, error) {
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
