// Package app holds Ivelt's use cases: find, bring in, install, compose, apply,
// look again, go back. It ties the rules in core to the store and the market;
// pages and the command line call it.
package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/store"
)

// App is a running Ivelt.
type App struct {
	Store     *store.Store
	Dir       string // the data folder
	Kept      plan.Keeper
	Record    Record
	Library   Library
	Shortlist Shortlist
	Markets   *Markets
	Jobs      *jobs.List
	Log       *slog.Logger

	desks    []*Desk
	turns    chan struct{}     // a place each for the transfers that run at a time
	coming   chan struct{}     // and for the parcels that are handed over
	due      timers            // of trials
	stuck    map[string]*stuck // by desk
	before   func(plan.Call) error
	watchdog func(dir string) error
	now      func() time.Time

	opened     opened
	background sync.WaitGroup // what is cleared away after a change
}

// Desk is a desk with what Ivelt may do to it.
type Desk struct {
	*desk.Desk
	// Restarts start a surface's program again, by surface, where Ivelt can.
	Restarts map[string]func() error
	// Screens draw what a login screen shows now, as SVG, by surface, and Console
	// does what is typed about one on a text console, where that is simulated.
	Screens map[string]func() ([]byte, error)
	Console func(surface, line string) (answer string, err error)
	// Refresh makes the desk's programs look into folders anew, where they
	// keep a cache of what is in them; kind is that of the pieces there. Nil
	// if nothing keeps one.
	Refresh func(ctx context.Context, kind, folder string) error

	mu sync.Mutex // held while a plan is made and applied

	listing  sync.Mutex
	stamp    string // of the package lists that were read
	packaged desk.Packages
}

// Lock holds the desk while a plan is made and carried out.
func (d *Desk) Lock() { d.mu.Lock() }

// TryLock is the same, unless somebody holds it.
func (d *Desk) TryLock() bool { return d.mu.TryLock() }

// Unlock lets it go.
func (d *Desk) Unlock() { d.mu.Unlock() }

// packages are those of the desk's package database; its lists can be long and
// are read again only if they changed.
func (d *Desk) packages() desk.Packages {
	d.listing.Lock()
	defer d.listing.Unlock()
	if now := d.PackageStamp(); d.packaged == nil || now != d.stamp {
		d.stamp, d.packaged = now, d.Packages()
	}
	return d.packaged
}

// Config for [New].
type Config struct {
	Dir    string // the data folder
	Desks  []*Desk
	Market string // address of a market, or ""
	Log    *slog.Logger
	Before func(plan.Call) error // see [plan.Config]; may be nil
	// Watchdog is called when something is tried: what it starts opens the data
	// folder once the time is up, should this program have gone by then. May be
	// nil.
	Watchdog func(dir string) error
	Now      func() time.Time // nil for the clock
}

// ErrNoDesk: there is no desk of that name.
var ErrNoDesk = errors.New("no such desk")

// New opens the store and finishes what a crash may have left half-done. A desk on
// which that cannot be done is stuck, see [App.Settle]; the others are not.
func New(ctx context.Context, c Config) (*App, error) {
	s, err := store.Open(ctx, c.Dir)
	if err != nil {
		return nil, err
	}
	if c.Log == nil {
		c.Log = slog.New(slog.DiscardHandler)
	}
	if c.Now == nil {
		c.Now = time.Now
	}
	s.Log, s.Now = c.Log, c.Now
	a := &App{Store: s, Dir: c.Dir, Kept: s.Blobs, Record: Record{s}, Library: Library{s}, Shortlist: Shortlist{s}, Jobs: jobs.New(ctx, c.Log), Log: c.Log, desks: c.Desks, turns: make(chan struct{}, 2), coming: make(chan struct{}, 4), before: c.Before, watchdog: c.Watchdog, now: c.Now}
	if a.Markets, err = newMarkets(a, c.Market); err != nil {
		s.Close()
		return nil, err
	}
	a.stuck = map[string]*stuck{}
	for _, d := range c.Desks {
		a.stuck[d.ID] = &stuck{}
	}
	for _, d := range c.Desks {
		if err := s.SaveDesk(store.DeskRow{ID: d.ID, Title: d.Title, Home: d.Home, System: d.System, HomePath: d.HomePath, Seen: time.Now()}); err != nil {
			s.Close()
			return nil, err
		}
		if _, ok := a.Settle(d); ok {
			continue
		}
		if err := a.resumeTrial(ctx, d); err != nil {
			a.Log.Error("what is tried", "desk", d.ID, "error", err)
			a.notice(d, "What is tried on %s could not be looked after: %v.", d.Title, err)
		}
	}
	a.clearComing()
	if err := a.Store.PrunePlans(); err != nil {
		a.Log.Warn("forget old plans", "error", err)
	}
	a.copyDaily(context.WithoutCancel(ctx)) // which Close waits for
	return a, nil
}

// copyDaily makes today's copy of the database, behind everything else.
func (a *App) copyDaily(ctx context.Context) {
	a.background.Go(func() {
		if err := a.Store.CopyDaily(ctx, a.now()); err != nil {
			a.Log.Warn("today's copy of the database", "error", err)
		}
	})
}

// Close waits for running jobs to stop and closes the store.
func (a *App) Close() error {
	for _, d := range a.desks {
		a.due.stop(d.ID)
	}
	if a.Jobs.Stop() {
		cleared := make(chan struct{})
		go func() { a.background.Wait(); close(cleared) }()
		select {
		case <-cleared:
		case <-time.After(jobs.Patience): // the next start goes on with it
		}
	}
	return a.Store.Close()
}

func (a *App) journal(d *Desk) string {
	return filepath.Join(a.Store.Dir, "journal", d.ID+".json")
}

// Desks returns the desks in the order they were given.
func (a *App) Desks() []*Desk { return a.desks }

// Desk returns the desk of that name, or [ErrNoDesk].
func (a *App) Desk(id string) (*Desk, error) {
	i := slices.IndexFunc(a.desks, func(d *Desk) bool { return d.ID == id })
	if i < 0 {
		return nil, fmt.Errorf("%w: %s", ErrNoDesk, id)
	}
	return a.desks[i], nil
}

// Draft returns the outfit being composed for a desk; its name is "" if there
// is none.
func (a *App) Draft(d *Desk) (outfit.Outfit, error) {
	return parseOutfit(a.Store.Draft(d.ID))
}

// Worn returns the outfit the desk was last dressed in, as far as Ivelt knows.
func (a *App) Worn(d *Desk) (outfit.Outfit, error) {
	rows, err := a.Store.Worn(d.ID)
	if err != nil || len(rows) == 0 {
		return outfit.Outfit{}, err
	}
	return outfit.Parse(rows[0].Text)
}

func parseOutfit(row store.OutfitRow, err error) (outfit.Outfit, error) {
	if errors.Is(err, store.ErrNone) {
		return outfit.Outfit{}, nil
	}
	if err != nil {
		return outfit.Outfit{}, err
	}
	return outfit.Parse(row.Text)
}

// Wanted is what the match board holds the desk against: what it was last dressed
// in, and the draft over it.
func (a *App) Wanted(d *Desk) (o, draft outfit.Outfit, err error) {
	if draft, err = a.Draft(d); err != nil {
		return o, draft, err
	}
	if o, err = a.Worn(d); err == nil && len(draft.Choices) > 0 {
		o = o.Over(draft)
	}
	return o, draft, err
}

// ReviewStep plans the edit of one source of a reading, see [plan.Say].
func (a *App) ReviewStep(d *Desk, at plan.Step, want string) (plan.Plan, error) {
	p, err := plan.Say(d.Desk, at, want)
	if err != nil {
		return plan.Plan{}, err
	}
	return p, a.keepPlan(p)
}

func (a *App) keepPlan(p plan.Plan) error {
	b, err := json.Marshal(p)
	if err != nil {
		return err
	}
	return a.Store.SavePlan(store.PlanRow{ID: p.ID, Desk: p.Desk, JSON: b, Made: time.Now()})
}

// Plan returns a plan that was reviewed or carried out on a desk.
func (a *App) Plan(d *Desk, id string) (plan.Plan, error) {
	row, err := a.Store.Plan(id)
	if err != nil || row.Desk != d.ID {
		return plan.Plan{}, fmt.Errorf("the plan is not known any more; review again (%w)", errors.Join(err, store.ErrNone))
	}
	var p plan.Plan
	return p, json.Unmarshal(row.JSON, &p)
}
