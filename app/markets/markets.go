// Package markets looks through markets: it searches them, tells of an entry before it is
// fetched, and brings parcels into the library.
package markets

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/market"
	"ivelt/core/say"
	"ivelt/store"
)

// Markets are the markets that are looked through. What they have is kept in
// the store, so that it can be searched while one is down.
type Markets struct {
	Fresh   time.Duration // how long an index is taken as it was last seen
	Backoff time.Duration // after which a broken transfer is first taken up again; each time twice as long

	store   marketStore
	dir     string
	library *library.Library
	jobs    *jobs.List
	turns   chan struct{}    // a place each for the transfers that run at a time
	client  source           // with no base
	systems []*desks.Managed // with packages of their own

	mu      sync.Mutex
	reading *jobs.Job // that reads the indexes now
	read    time.Time

	making  sync.Mutex                // of the catalogue, and of what is to come into it
	cards   atomic.Pointer[catalogue] // nil if it is not made yet
	pending store.MarketEdit
	kept    string // the stamp of the one that was written into its file
	tidying sync.WaitGroup
}

type marketStore interface {
	Markets() ([]store.MarketRow, error)
	SaveMarket(m *store.MarketRow) error
	DropMarket(id uint) error
	MarketPages(id uint) ([]store.MarketPageRow, error)
	SaveMarketPage(ctx context.Context, p store.MarketPageRow, entries []market.Entry, progress func(done int)) (store.MarketEdit, error)
	ChangeMarket(ctx context.Context, id uint, changes []market.Change, page func(key string) string) (store.MarketEdit, error)
	DropMarketPage(id uint, file string) (store.MarketEdit, error)
	MarketPagesAre(ctx context.Context, id uint, sums map[string]string) error
	MarketChanges() (int64, error)
	Tidy() error
	MarketRows(ctx context.Context, from uint, visit func(store.MarketEntryRow)) error
	MarketIDs(ctx context.Context, to uint) ([]uint, error)
	MarketEntries(ctx context.Context, ids []uint) ([]store.MarketEntryRow, error)
	MarketEntryByKey(id uint, key string) (store.MarketEntryRow, error)
	MarketVariants(id uint, key string) ([]store.MarketEntryRow, error)
	MarketFamily(id uint, family string) ([]store.MarketEntryRow, error)
	Parcel(sha string) (store.ParcelRow, error)
	Pieces(desk string) ([]store.PieceRow, error)
	Offered(desk string) ([]store.Offered, error)
}

// ErrNoMarket: there is no market to look through.
var ErrNoMarket = errors.New("there is no market here")

// New returns the markets of a data folder; own is the address of the one that Ivelt came
// with, "" for none.
func New(s marketStore, dir string, l *library.Library, running *jobs.List, own string, on []*desks.Managed) (*Markets, error) {
	m := &Markets{Fresh: 30 * time.Second, Backoff: time.Second, store: s, dir: dir, library: l, jobs: running, turns: make(chan struct{}, 2), client: source{client: marketClient}}
	if err := m.addSystems(on); err != nil || own == "" {
		return m, err
	}
	rows, err := s.Markets()
	if err != nil {
		return nil, err
	}
	row := store.MarketRow{On: true, Own: true, Name: "the market"}
	if i := slices.IndexFunc(rows, func(r store.MarketRow) bool { return r.Own && !strings.HasPrefix(r.Base, systemBase) }); i >= 0 {
		row = rows[i]
	}
	row.Base = strings.TrimSuffix(own, "/")
	return m, s.SaveMarket(&row)
}

// List returns the markets in the order they were added.
func (m *Markets) List() ([]store.MarketRow, error) { return m.store.Markets() }

// ErrKnown: a market is here already.
var ErrKnown = errors.New("that market is here already")

// Add adds a market at an address or in a folder, once its index was read.
func (m *Markets) Add(ctx context.Context, base string) error {
	base = strings.TrimSuffix(strings.TrimSpace(base), "/")
	switch {
	case base == "":
		return errors.New("say where the market is: an address that starts with http:// or https://, or a folder")
	case !isAddress(base) && !filepath.IsAbs(base):
		return say.Errorf("%q is neither an address that starts with http:// or https:// nor the full path of a folder", base)
	}
	rows, err := m.List()
	if err != nil {
		return err
	}
	if slices.ContainsFunc(rows, func(r store.MarketRow) bool { return r.Base == base }) {
		return say.Errorf("%w: %s", ErrKnown, base)
	}
	src := source{base, m.client.client}
	b, _, err := m.fetch(ctx, src, market.IndexFile, market.MaxIndex, asked{})
	if err != nil {
		return err
	}
	row := store.MarketRow{Base: base, On: true}
	if market.IsSharded(b) {
		x, err := market.ReadManifest(b)
		if err != nil {
			return say.Errorf("%w: %w", ErrMarket, err)
		}
		if err := m.signed(ctx, src, &row, b); err != nil {
			return err
		}
		row.Name, row.About = x.Name, x.About
	} else {
		x, _, err := market.Read(bytes.NewReader(b))
		if err != nil {
			return say.Errorf("%w: %w", ErrMarket, err)
		}
		row.Name, row.About = x.Name, x.About
	}
	if row.Name == "" {
		row.Name = base
	}
	if err := m.store.SaveMarket(&row); err != nil {
		return err
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	m.read = time.Time{}
	return nil
}

// Turn turns a market on or off: one that is off is kept and not searched.
func (m *Markets) Turn(id uint, on bool) error {
	row, err := m.market(id)
	if err != nil {
		return err
	}
	row.On = on
	defer m.stale()
	return m.store.SaveMarket(&row)
}

// Drop forgets a market. What was fetched from it stays.
func (m *Markets) Drop(id uint) error {
	row, err := m.market(id)
	if err != nil {
		return err
	}
	if row.Own {
		return say.Errorf("%s came with Ivelt; turn it off instead", row.Name)
	}
	defer m.stale()
	return m.store.DropMarket(id)
}

func (m *Markets) market(id uint) (store.MarketRow, error) {
	rows, err := m.List()
	if err != nil {
		return store.MarketRow{}, err
	}
	i := slices.IndexFunc(rows, func(r store.MarketRow) bool { return r.ID == id })
	if i < 0 {
		return store.MarketRow{}, say.Errorf("there is no such market any more (%w)", store.ErrNone)
	}
	return rows[i], nil
}

// stale makes the next look read the indexes and what is kept of them anew.
func (m *Markets) stale() {
	m.mu.Lock()
	m.read = time.Time{}
	m.mu.Unlock()
	m.making.Lock()
	defer m.making.Unlock()
	m.pending = store.MarketEdit{}
	m.cards.Store(nil)
}

// Look makes sure that the indexes have been read lately: it starts reading
// them if not. The job is nil if they are fresh.
func (m *Markets) Look() *jobs.Job {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.reading != nil && m.reading.Progress().State == jobs.Running {
		return m.reading
	}
	if !m.read.IsZero() && time.Since(m.read) < m.Fresh {
		return nil
	}
	m.reading = m.jobs.Start("Read the markets", func(ctx context.Context, j *jobs.Job) error {
		rows, err := m.List()
		if err != nil {
			return err
		}
		changed := false
		for _, row := range rows {
			if !row.On {
				continue
			}
			did, err := m.renew(ctx, j, &row)
			changed = changed || did
			if err := m.settled(); err != nil {
				return err
			}
			if ctx.Err() != nil {
				return ctx.Err()
			}
			row.Trouble = ""
			if err != nil {
				row.Trouble = err.Error()
			}
			if err := m.store.SaveMarket(&row); err != nil {
				return err
			}
		}
		m.mu.Lock()
		m.read = time.Now()
		m.mu.Unlock()
		if changed { // what was written is laid by once it can be searched
			m.tidying.Go(func() { _ = m.store.Tidy() })
		}
		_, err = m.catalogue(ctx) // ready for the first search
		return err
	})
	return m.reading
}

// renew reads a market's index and those of its pages that have changed.
func (m *Markets) renew(ctx context.Context, j *jobs.Job, row *store.MarketRow) (changed bool, err error) {
	if d := m.ofSystem(row.Base); d != nil {
		return m.renewSystem(ctx, j, row, d)
	}
	src := source{row.Base, m.client.client}
	known := map[string]store.MarketPageRow{}
	pages, err := m.store.MarketPages(row.ID)
	if err != nil {
		return false, err
	}
	for _, p := range pages {
		known[p.File] = p
	}
	j.Step("Reading "+row.Name, "entries")
	if _, err := m.catalogue(ctx); err != nil { // what comes is taken into it
		return false, err
	}
	old := known[market.IndexFile]
	index, a, err := m.fetch(ctx, src, market.IndexFile, market.MaxIndex, asked{etag: old.ETag, when: old.When})
	if err != nil {
		return false, err
	}
	top := readPage{MarketPageRow: old}
	if !a.unchanged {
		now := store.MarketPageRow{Market: row.ID, File: market.IndexFile, ETag: a.etag, When: a.when}
		switch {
		case market.IsSharded(index):
			if err = m.signed(ctx, src, row, index); errors.Is(err, market.ErrForged) { // it may have been written between the two
				if index, a, err = m.fetch(ctx, src, market.IndexFile, market.MaxIndex, asked{}); err == nil {
					err = m.signed(ctx, src, row, index)
				}
				now.ETag, now.When = a.etag, a.when
			}
			if err == nil {
				changed, err = m.renewShards(ctx, j, row, src, known, index, now)
			}
			row.Seen = time.Now()
			return changed, err
		case row.Key != "":
			return false, say.Errorf("%w: %w any more, and was by %s", ErrMarket, market.ErrUnsigned, market.Key(row.Key).Short())
		}
		x, _, err := market.Read(bytes.NewReader(index))
		if err != nil {
			return false, say.Errorf("%w: %w", ErrMarket, err)
		}
		if top, err = m.savePage(ctx, j, now, x); err != nil {
			return false, err
		}
	} else if row.Serial > 0 {
		row.Seen = time.Now()
		return false, nil
	}
	changed = top.new
	if top.new {
		row.Name, row.About = top.index.Name, top.index.About
		if row.Name == "" {
			row.Name = row.Base
		}
	}
	named := strings.Fields(top.Pages)
	for _, file := range named {
		p, err := m.page(ctx, j, src, row.ID, known, file)
		if err != nil {
			return changed, err
		}
		changed = changed || p.new
	}
	for file := range known {
		if file != market.IndexFile && !slices.Contains(named, file) {
			changed = true
			edit, err := m.store.DropMarketPage(row.ID, file)
			if err != nil {
				return changed, err
			}
			m.edited(edit)
		}
	}
	row.Seen = time.Now()
	return changed, nil
}

type readPage struct {
	store.MarketPageRow
	index market.Index
	new   bool
}

func (m *Markets) page(ctx context.Context, j *jobs.Job, src source, id uint, known map[string]store.MarketPageRow, file string) (readPage, error) {
	old := known[file]
	x, a, err := m.index(ctx, src, file, asked{etag: old.ETag, when: old.When})
	if err != nil {
		return readPage{}, err
	}
	if a.unchanged {
		return readPage{MarketPageRow: old}, nil
	}
	return m.savePage(ctx, j, store.MarketPageRow{Market: id, File: file, ETag: a.etag, When: a.when}, x)
}

func (m *Markets) savePage(ctx context.Context, j *jobs.Job, p store.MarketPageRow, x market.Index) (readPage, error) {
	p.Pages = strings.Join(x.Pages, "\n")
	total := int64(len(x.Entries))
	edit, err := m.store.SaveMarketPage(ctx, p, x.Entries, func(done int) { j.At(int64(done), total) })
	m.edited(edit)
	return readPage{p, x, true}, err
}

// patience is how long a market may send nothing at all before it is given up: one that sends
// slowly is not.
const patience = 30 * time.Second

// errSilent: a market has sent nothing for a while.
var errSilent = say.Errorf("%w: it has sent nothing for %d seconds", ErrMarket, int(patience.Seconds()))

// steady reads on as long as something comes.
type steady struct {
	io.Reader
	silence *time.Timer
}

func (s steady) Read(b []byte) (int, error) {
	n, err := s.Reader.Read(b)
	if n > 0 {
		s.silence.Reset(patience)
	}
	return n, err
}

// listening is a context that ends once nothing was heard for a while.
func listening(ctx context.Context) (heard context.Context, silence *time.Timer, done func()) {
	heard, cancel := context.WithCancelCause(ctx)
	silence = time.AfterFunc(patience, func() { cancel(errSilent) })
	return heard, silence, func() {
		silence.Stop()
		cancel(nil)
	}
}

func (m *Markets) index(ctx context.Context, src source, file string, want asked) (market.Index, answer, error) {
	ctx, silence, done := listening(ctx)
	defer done()
	a, err := src.get(ctx, file, want)
	if err != nil || a.unchanged {
		return market.Index{}, a, err
	}
	defer a.Close()
	x, _, err := market.Read(steady{a, silence})
	if why := context.Cause(ctx); errors.Is(why, errSilent) {
		return market.Index{}, a, why
	}
	if err != nil {
		return market.Index{}, a, say.Errorf("%w: %w", ErrMarket, err)
	}
	return x, a, nil
}

// Ready reads the indexes if that was never done, and waits for it.
func (m *Markets) Ready() {
	if m.never() {
		if j := m.Look(); j != nil {
			_ = j.Wait() // what is wrong with a market is kept with it
		}
	}
}

// Entry returns an entry by its id, of the market with that number, or of any
// if it is 0.
func (m *Markets) Entry(id uint, key string) (store.MarketEntryRow, market.Entry, error) {
	m.Ready()
	row, err := m.store.MarketEntryByKey(id, key)
	if errors.Is(err, store.ErrNone) {
		if rows, e := m.List(); e == nil {
			if i := slices.IndexFunc(rows, func(r store.MarketRow) bool { return r.On && r.Trouble != "" }); i >= 0 {
				return row, market.Entry{}, errors.New(rows[i].Trouble)
			}
		}
		return row, market.Entry{}, say.Errorf("no market has an entry %q any more", key)
	}
	if err != nil {
		return row, market.Entry{}, err
	}
	e, err := row.Entry()
	return row, e, err
}

// Close keeps what is made of many entries for the next start.
func (m *Markets) Close() error {
	m.tidying.Wait()
	return m.keepCatalogue()
}

// never tells whether no index was read since the start.
func (m *Markets) never() bool {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.read.IsZero()
}

// maxEntryPicture bounds a picture of an entry, in bytes.
const maxEntryPicture = 4 << 20

// Picture returns the picture an entry is shown with in a state, "" for the
// first. It is kept, and so is there while the market is not.
func (m *Markets) Picture(ctx context.Context, id uint, key, state string) (picture []byte, date int64, err error) {
	row, e, err := m.Entry(id, key)
	if err != nil {
		return nil, 0, err
	}
	picture, err = m.picture(ctx, row, e, state)
	return picture, int64(row.Date), err
}

func (m *Markets) picture(ctx context.Context, row store.MarketEntryRow, e market.Entry, state string) ([]byte, error) {
	i := slices.IndexFunc(e.Pictures, func(p market.Picture) bool { return state == "" || p.State == state })
	if i < 0 {
		return nil, say.Errorf("%s has no such picture", e.Name)
	}
	owner, err := m.market(row.Market)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(fmt.Appendf(nil, "%d %s %s %d", row.Market, row.Key, e.Pictures[i].File, row.Date))
	kept := filepath.Join(m.dir, "pictures", hex.EncodeToString(sum[:12]))
	if b, err := os.ReadFile(kept); err == nil {
		return b, nil
	}
	a, err := source{owner.Base, m.client.client}.get(ctx, e.Pictures[i].File, asked{})
	if err != nil {
		return nil, err
	}
	defer a.Close()
	b, err := io.ReadAll(io.LimitReader(a, maxEntryPicture))
	if err != nil {
		return nil, say.Errorf("%w: %w", ErrMarket, err)
	}
	if err := os.MkdirAll(filepath.Dir(kept), 0o755); err == nil {
		_ = os.WriteFile(kept, b, 0o644) // only a cache
	}
	return b, nil
}
