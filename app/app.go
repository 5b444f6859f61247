// Package app puts Ivelt's use cases together: find, bring in, install, compose, apply,
// look again, go back. Each is a small type in a package of its own below this one, which
// ties the rules in core to the store and the markets; pages and the command line call them.
package app

import (
	"context"
	"errors"
	"log/slog"
	"slices"
	"sync"
	"time"

	"ivelt/app/advice"
	"ivelt/app/bundles"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/app/layers"
	"ivelt/app/learning"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/apply"
	"ivelt/core/plan"
	"ivelt/core/say"
	"ivelt/store"
)

// App is a running Ivelt.
type App struct {
	Dir     string // the data folder
	Kept    plan.Keeper
	Log     *slog.Logger
	Jobs    *jobs.List
	Notices *desks.Notices

	Record  library.Record
	Library *library.Library
	Pieces  *library.Pieces

	Markets   *markets.Markets
	Shortlist markets.Shortlist

	Learning *learning.Talks

	Drafts   *drafts.Drafts
	Overlays *drafts.Overlays
	Judge    *drafts.Judge
	Advice   *advice.Advice
	Bundles  *bundles.Bundles
	Layers   *layers.Layers

	Plans   *changes.Plans
	Review  *changes.Review
	Applier *changes.Applier
	Changes *changes.Changes
	History *changes.History
	Back    *changes.Back
	Trials  *changes.Trials
	Turner  *changes.Turner

	Journeys *changes.Journeys

	Administrator *changes.Administrator // of a system; for the desk [changes.SystemID] alone

	desks      []*desks.Managed
	close      func() error
	background sync.WaitGroup // what is cleared away after a change
}

// Config for [New].
type Config struct {
	Dir    string // the data folder
	Desks  []*desks.Managed
	Market string // address of a market, or ""
	Log    *slog.Logger
	Before func(apply.Call) error // see [plan.Config]; may be nil
	// Watchdog is called when something is tried: what it starts opens the data
	// folder once the time is up, should this program have gone by then. May be
	// nil.
	Watchdog func(dir string) error
	Now      func() time.Time // nil for the clock
}

// New opens the store and finishes what a crash may have left half-done. A desk on
// which that cannot be done is stuck, see [changes.Applier.Settle]; the others are not.
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
	a, err := assemble(ctx, s, c)
	if err == nil {
		err = a.begin(ctx, s)
	}
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return a, nil
}

// assemble gives every use case what it needs of the store and of the others.
func assemble(ctx context.Context, s *store.Store, c Config) (a *App, err error) {
	a = &App{Dir: c.Dir, Kept: s.Blobs, Log: c.Log, Jobs: jobs.New(ctx, c.Log), desks: c.Desks, close: s.Close}
	a.Notices, a.Record = desks.NewNotices(s, c.Log), library.NewRecord(s)
	a.Library = library.New(s, c.Dir, c.Desks, a.Jobs, c.Log)
	a.Shortlist, a.Learning = markets.NewShortlist(s), learning.NewTalks()
	if a.Markets, err = markets.New(s, c.Dir, a.Library, a.Jobs, c.Market, c.Desks); err != nil {
		return nil, err
	}
	a.Drafts = drafts.New(s, a.Record, a.Notices)
	a.Overlays = drafts.NewOverlays(s, c.Dir, s.Blobs, a.Library, a.Markets, a.Drafts, a.Jobs)
	a.Judge = drafts.NewJudge(a.Library, a.Drafts, a.Overlays, a.Jobs)
	a.Advice = advice.New(s, a.Markets, a.Drafts, a.Overlays, a.Jobs)

	a.Plans = changes.NewPlans(s)
	a.History = changes.NewHistory(s, s.Blobs, a.Plans)
	m := changes.Machine{Dir: c.Dir, Desks: c.Desks, Kept: s.Blobs, Log: c.Log, Now: c.Now, Before: c.Before, Background: &a.background}
	a.Applier = changes.NewApplier(s, m, a.Library, a.History, a.Notices)
	a.Review = changes.NewReview(s, s.Blobs, a.Plans, a.Drafts, a.Overlays, a.Judge)
	a.Back = changes.NewBack(s, s.Blobs, a.Plans, a.Review, a.Applier, a.Drafts, a.Jobs)
	a.Administrator = changes.NewAdministrator(c.Dir, s.Blobs, a.Applier, a.Back, a.History, a.Jobs)
	a.Trials = changes.NewTrials(s, a.Plans, a.Back, a.Overlays, a.Notices, a.Jobs, c.Log, c.Now)
	a.Turner = changes.NewTurner(s, a.Plans, a.Applier, a.Drafts, a.Notices, a.Jobs)
	a.Changes = changes.New(c.Dir, s.Blobs, a.Plans, a.Applier, a.Trials, a.Drafts, a.Overlays, a.Jobs, c.Log, c.Watchdog)

	a.Journeys = changes.NewJourneys(s, a.Plans, a.Changes, a.Applier, a.Back, a.Drafts, a.Overlays, a.Jobs, c.Now)

	a.Pieces = library.NewPieces(s, a.Library, a.Drafts, a.Plans, a.Applier, a.Jobs)
	a.Layers = layers.New(s, a.Record, a.Pieces, a.Drafts, a.Overlays, a.Jobs)
	a.Bundles = bundles.New(s, a.Library, a.Pieces, a.Markets, a.Drafts, a.Overlays, a.Advice, a.Notices, a.Jobs)
	return a, nil
}

// begin finishes what was interrupted, looks after what is tried, and clears away what was
// left lying.
func (a *App) begin(ctx context.Context, s *store.Store) error {
	for _, d := range a.desks {
		if err := s.SaveDesk(store.DeskRow{ID: d.ID, Title: d.Title, Home: d.Home, System: d.System, HomePath: d.HomePath, Seen: time.Now()}); err != nil {
			return err
		}
		if _, lock := d.Locked(); lock != nil {
			if err := desks.ReadKey(a.Dir, d); err != nil { // then nothing is signed there
				a.Log.Error("a desk's key", "error", err)
				a.Notices.Add(d, "%v.", err)
			}
		}
		if _, ok := a.Applier.Settle(d); ok {
			continue
		}
		if err := a.Trials.Resume(ctx, d); err != nil {
			a.Log.Error("what is tried", "desk", d.ID, "error", err)
			a.Notices.Add(d, "What is tried on %s could not be looked after: %v.", d.Title, err)
		}
		a.Turner.Resume(d)
		if undone, _ := a.Journeys.Undone(d); undone.Code != "" {
			a.Notices.Add(d, "%s Put it right from Match.", undone)
		}
	}
	a.Library.ClearComing()
	if err := s.PrunePlans(); err != nil {
		a.Log.Warn("forget old plans", "error", err)
	}
	a.Applier.CopyDaily(context.WithoutCancel(ctx)) // which Close waits for
	return nil
}

// Close waits for running jobs to stop and closes the store.
func (a *App) Close() error {
	for _, d := range a.desks {
		a.Trials.Stop(d)
		a.Turner.Stop(d)
	}
	if a.Jobs.Stop() {
		cleared := make(chan struct{})
		go func() { a.background.Wait(); close(cleared) }()
		select {
		case <-cleared:
		case <-time.After(jobs.StopTimeout): // the next start goes on with it
		}
	}
	if err := a.Markets.Close(); err != nil { // it is only a cache
		a.Log.Debug("what is made of the markets was not kept", "error", err)
	}
	return a.close()
}

// Desks returns the desks in the order they were given.
func (a *App) Desks() []*desks.Managed { return a.desks }

// Desk returns the desk of that name, or [desks.ErrNone].
func (a *App) Desk(id string) (*desks.Managed, error) {
	i := slices.IndexFunc(a.desks, func(d *desks.Managed) bool { return d.ID == id })
	if i < 0 {
		return nil, say.Errorf("%w: %s", desks.ErrNone, id)
	}
	return a.desks[i], nil
}
