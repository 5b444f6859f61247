package library

import (
	"context"
	"os"
	"sync"
	"time"

	"ivelt/core/archive"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/store"
)

// opened keeps the parcel that was looked at last, so that pages, pictures and
// plans do not read it again each.
type opened struct {
	mu   sync.Mutex
	last *parcel.Parcel
	seen time.Time // when its file was changed last
}

// Open opens a parcel of the library. It stays open, and is not to be closed.
func (l *Library) Open(ctx context.Context, row store.ParcelRow) (*parcel.Parcel, error) {
	return l.opened.open(ctx, row.File, row.Password)
}

func (o *opened) open(ctx context.Context, file, password string) (*parcel.Parcel, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	fi, err := os.Stat(file)
	if err != nil {
		return nil, err
	}
	if o.last != nil && o.last.Path == file && o.last.Password() == password && o.seen.Equal(fi.ModTime()) {
		return o.last, nil
	}
	p, err := parcel.Open(ctx, file, archive.Options{Password: password})
	if err == nil && !fi.IsDir() { // what is in a folder may change at any time
		o.last, o.seen = p, fi.ModTime()
	}
	return p, err
}

// OpenFor opens the parcel that a plan copies from.
func (l *Library) OpenFor(ctx context.Context, src plan.Source) (*parcel.Parcel, error) {
	return l.opened.open(ctx, src.Parcel, src.Secret)
}
