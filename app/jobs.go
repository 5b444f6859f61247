package app

import (
	"context"
	"crypto/rand"
	"errors"
	"sync"
	"time"
)

// JobState is how far a job is.
type JobState string

const (
	Running   JobState = "running"
	Done      JobState = "done"
	Failed    JobState = "failed"
	Cancelled JobState = "cancelled"
	Paused    JobState = "paused"
)

// Progress is a snapshot of a job.
type Progress struct {
	ID, Title   string
	State       JobState
	Step        string // what it is doing now
	Done, Total int64
	Unit        string // bytes or files
	Err         error
	Then        string  // where to go once it is done
	Pauses      bool    // it can be paused
	Rate        float64 // units a second, lately; 0 if that is not known
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

	rated   time.Time // when the rate was last taken, and at how much
	ratedAt int64
}

var errPaused = errors.New("paused")

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

// Progress returns how far the job is.
func (j *Job) Progress() Progress {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.now
}

// Jobs runs jobs and remembers how they ended, for an hour.
type Jobs struct {
	mu      sync.Mutex
	jobs    map[string]*Job
	wg      sync.WaitGroup
	stopped bool
}

// NewJobs returns an empty list of jobs.
func NewJobs() *Jobs { return &Jobs{jobs: map[string]*Job{}} }

var errStopping = errors.New("stopped, because Ivelt was")

// Start runs work in the background.
func (js *Jobs) Start(title string, work func(context.Context, *Job) error) *Job {
	j := &Job{work: work, now: Progress{ID: rand.Text()[:12], Title: title}}
	js.mu.Lock()
	defer js.mu.Unlock()
	js.jobs[j.now.ID] = j
	js.run(j)
	return j
}

// run starts the job's work. The lock must be held.
func (js *Jobs) run(j *Job) {
	ctx, cancel := context.WithCancelCause(context.Background())
	j.mu.Lock()
	j.cancel, j.ended, j.now.State, j.now.Err = cancel, make(chan struct{}), Running, nil
	j.mu.Unlock()
	if js.stopped {
		cancel(nil)
		j.end(errStopping)
		return
	}
	js.wg.Go(func() {
		defer cancel(nil)
		j.end(j.work(ctx, j))
		time.AfterFunc(time.Hour, func() { js.forget(j.now.ID) })
	})
}

// Resume lets a paused job go on; any other is left alone.
func (js *Jobs) Resume(j *Job) {
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
	case errors.Is(err, errPaused):
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

func (js *Jobs) forget(id string) {
	js.mu.Lock()
	defer js.mu.Unlock()
	delete(js.jobs, id)
}

// Get returns a job by its ID, or nil.
func (js *Jobs) Get(id string) *Job {
	js.mu.Lock()
	defer js.mu.Unlock()
	return js.jobs[id]
}

// Cancel asks the job to stop and waits until it has.
func (j *Job) Cancel() {
	if j.Progress().State == Paused {
		j.mu.Lock()
		j.now.State = Cancelled
		undo := j.undo
		j.mu.Unlock()
		if undo != nil {
			undo()
		}
		return
	}
	j.stop(context.Canceled)
}

// Pause asks a job that can be paused to stop for now, and waits until it has.
func (j *Job) Pause() {
	if j.Progress().Pauses {
		j.stop(errPaused)
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

// Stop cancels all jobs and waits for them.
func (js *Jobs) Stop() {
	js.mu.Lock()
	js.stopped = true
	for _, j := range js.jobs {
		j.cancel(errStopping)
	}
	js.mu.Unlock()
	js.wg.Wait()
}
