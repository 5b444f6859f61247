// Package jobs runs long work in the background: it can be watched, paused and cancelled,
// and how it ended is remembered for a while.
package jobs

import (
	"context"
	"crypto/rand"
	"errors"
	"log/slog"
	"net/url"
	"runtime/debug"
	"sync"
	"time"

	"ivelt/core/say"
)

// State is how far a job is.
type State string

const (
	Running   State = "running"
	Done      State = "done"
	Failed    State = "failed"
	Cancelled State = "cancelled"
	Paused    State = "paused"
)

// Progress is a snapshot of a job.
type Progress struct {
	ID, Title   string
	State       State
	Step        string // what it is doing now
	Done, Total int64
	Unit        string // bytes or files
	Err         error
	Then        string  // where to go once it is done
	Pauses      bool    // it can be paused
	Rate        float64 // units a second, lately; 0 if that is not known
	Asked       Asked   // the request that began it, if it can be made again
}

// Asked is a request of a page.
type Asked struct {
	URL  string
	Form url.Values
}

// Percent is how far it is, 0 to 100; -1 if that is not known.
func (p Progress) Percent() int {
	if p.Total <= 0 {
		return -1
	}
	return int(100 * p.Done / p.Total)
}

// Job is long work that can be watched and cancelled.
type Job struct {
	mu     sync.Mutex
	now    Progress
	cancel context.CancelCauseFunc
	ended  chan struct{}
	work   func(context.Context, *Job) error
	undo   func() // what a cancel of the paused job has to take away

	forget  *time.Timer // once it has ended
	rated   time.Time   // when the rate was last taken, and at how much
	ratedAt int64
}

// ErrPanic: a job failed by a fault of Ivelt's own.
var ErrPanic = errors.New("this is a fault of Ivelt's own")

var ErrPaused = errors.New("paused")

// MayPause says that the work can be paused: run again, it goes on from where
// it was.
func (j *Job) MayPause() {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.now.Pauses = true
}

// OnCancel says what is to be done if the job is cancelled while it is paused.
func (j *Job) OnCancel(undo func()) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.undo = undo
}

// Step says what is being done from here on, and in what unit it counts.
func (j *Job) Step(text, unit string) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.now.Step, j.now.Unit, j.now.Done, j.now.Total, j.now.Rate = text, unit, 0, 0, 0
	j.rated = time.Time{}
}

// At says how far the step is.
func (j *Job) At(done, total int64) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.now.Done, j.now.Total = done, total
	now := time.Now()
	if j.rated.IsZero() || done < j.ratedAt {
		j.rated, j.ratedAt = now, done
	} else if d := now.Sub(j.rated); d > time.Second/2 {
		j.now.Rate = float64(done-j.ratedAt) / d.Seconds()
		j.rated, j.ratedAt = now, done
	}
}

// Then says where to go once the job is done.
func (j *Job) Then(url string) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.now.Then = url
}

// By notes the request that began the job.
func (j *Job) By(a Asked) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.now.Asked = a
}

// Progress returns how far the job is.
func (j *Job) Progress() Progress {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.now
}

// List runs jobs and remembers how they ended, for an hour.
type List struct {
	ctx     context.Context
	mu      sync.Mutex
	jobs    map[string]*Job
	wg      sync.WaitGroup
	stopped bool
	log     *slog.Logger
}

// New returns an empty list of jobs; how they end is logged. They have the values of
// ctx and do not end with it, but by [List.Stop], which tells them why.
func New(ctx context.Context, log *slog.Logger) *List {
	return &List{ctx: context.WithoutCancel(ctx), jobs: map[string]*Job{}, log: log}
}

var ErrStopping = errors.New("stopped, because Ivelt was")

// Start runs work in the background.
func (js *List) Start(title string, work func(context.Context, *Job) error) *Job {
	j := &Job{work: work, now: Progress{ID: rand.Text()[:12], Title: title}}
	js.mu.Lock()
	defer js.mu.Unlock()
	js.jobs[j.now.ID] = j
	js.run(j)
	return j
}

// run starts the job's work. The lock must be held.
func (js *List) run(j *Job) {
	ctx, cancel := context.WithCancelCause(js.ctx)
	j.mu.Lock()
	j.cancel, j.ended, j.now.State, j.now.Err = cancel, make(chan struct{}), Running, nil
	if j.forget != nil {
		j.forget.Stop()
	}
	j.mu.Unlock()
	if js.stopped {
		cancel(nil)
		j.end(ErrStopping)
		return
	}
	js.wg.Go(func() {
		defer cancel(nil)
		err := js.safely(ctx, j)
		j.end(err)
		p := j.Progress()
		if p.State == Failed {
			js.log.Warn("job failed", "title", p.Title, "step", p.Step, "error", p.Err)
		}
		if p.State != Paused {
			js.forgetLater(j)
		}
	})
}

// safely does the work of a job; a panic in it is the job's failure alone.
// Context is the one that work goes on in which nobody waits for.
func (js *List) Context() context.Context { return js.ctx }

func (js *List) safely(ctx context.Context, j *Job) (err error) {
	defer func() {
		if r := recover(); r != nil {
			js.log.Error("a job panicked", "title", j.Progress().Title, "panic", r, "stack", string(debug.Stack()))
			err = say.Errorf("%w: %v. What it had begun on a desk is undone before anything else is", ErrPanic, r)
		}
	}()
	return j.work(ctx, j)
}

// forgetLater drops a job that has ended, after an hour. One that is paused may go on
// and is kept.
func (js *List) forgetLater(j *Job) {
	j.mu.Lock()
	defer j.mu.Unlock()
	id := j.now.ID
	j.forget = time.AfterFunc(time.Hour, func() {
		if s := j.Progress().State; s != Paused && s != Running {
			js.drop(id)
		}
	})
}

// Resume lets a paused job go on; any other is left alone.
func (js *List) Resume(j *Job) {
	js.mu.Lock()
	defer js.mu.Unlock()
	if j.Progress().State == Paused {
		js.run(j)
	}
}

func (j *Job) end(err error) {
	j.mu.Lock()
	defer j.mu.Unlock()
	switch {
	case errors.Is(err, ErrPaused):
		j.now.State, j.now.Rate = Paused, 0
	case errors.Is(err, context.Canceled):
		j.now.State = Cancelled
	case err != nil:
		j.now.State, j.now.Err = Failed, err
	default:
		j.now.State = Done
	}
	close(j.ended)
}

func (js *List) drop(id string) {
	js.mu.Lock()
	defer js.mu.Unlock()
	delete(js.jobs, id)
}

// Get returns a job by its ID, or nil.
func (js *List) Get(id string) *Job {
	js.mu.Lock()
	defer js.mu.Unlock()
	return js.jobs[id]
}

// Cancel asks a job to stop and waits until it has.
func (js *List) Cancel(j *Job) {
	js.mu.Lock() // so that it is not resumed meanwhile
	j.mu.Lock()
	paused, undo := j.now.State == Paused, j.undo
	if paused {
		j.now.State = Cancelled
	}
	j.mu.Unlock()
	js.mu.Unlock()
	if !paused {
		j.stop(context.Canceled)
		return
	}
	js.forgetLater(j)
	if undo != nil {
		undo()
	}
}

// Pause asks a job that can be paused to stop for now, and waits until it has.
func (j *Job) Pause() {
	if j.Progress().Pauses {
		j.stop(ErrPaused)
	}
}

func (j *Job) stop(why error) {
	j.mu.Lock()
	cancel, ended := j.cancel, j.ended
	j.mu.Unlock()
	cancel(why)
	<-ended
}

// Wait returns when the job has ended, with its error.
func (j *Job) Wait() error {
	j.mu.Lock()
	ended := j.ended
	j.mu.Unlock()
	<-ended
	return j.Progress().Err
}

// StopTimeout is how long [List.Stop] waits for jobs that do not hear that they should
// stop. What such a one had begun on a desk is undone at the next start.
const StopTimeout = 1500 * time.Millisecond

// Stop cancels all jobs and waits for them, but not for ever. It reports whether all
// have ended. A job that is paused ends nothing by being so.
func (js *List) Stop() bool {
	js.mu.Lock()
	js.stopped = true
	for _, j := range js.jobs {
		j.mu.Lock()
		cancel := j.cancel
		j.mu.Unlock()
		cancel(ErrStopping)
	}
	js.mu.Unlock()
	ended := make(chan struct{})
	go func() { js.wg.Wait(); close(ended) }()
	select {
	case <-ended:
		return true
	case <-time.After(StopTimeout):
	}
	js.mu.Lock()
	defer js.mu.Unlock()
	for _, j := range js.jobs {
		if p := j.Progress(); p.State == Running {
			js.log.Error("a job does not stop", "title", p.Title, "step", p.Step)
		}
	}
	return false
}
