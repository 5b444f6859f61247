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
)

// Progress is a snapshot of a job.
type Progress struct {
	ID, Title   string
	State       JobState
	Step        string // what it is doing now
	Done, Total int64
	Unit        string // bytes or files
	Err         error
	Then        string // where to go once it is done
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
	cancel context.CancelFunc
	ended  chan struct{}
}

// Step says what is being done from here on, and in what unit it counts.
func (j *Job) Step(text, unit string) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.now.Step, j.now.Unit, j.now.Done, j.now.Total = text, unit, 0, 0
}

// At says how far the step is.
func (j *Job) At(done, total int64) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.now.Done, j.now.Total = done, total
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
	ctx, cancel := context.WithCancel(context.Background())
	j := &Job{cancel: cancel, ended: make(chan struct{}), now: Progress{ID: rand.Text()[:12], Title: title, State: Running}}
	js.mu.Lock()
	defer js.mu.Unlock()
	js.jobs[j.now.ID] = j
	if js.stopped {
		cancel()
		j.end(errStopping)
		return j
	}
	js.wg.Go(func() {
		defer cancel()
		j.end(work(ctx, j))
		time.AfterFunc(time.Hour, func() { js.forget(j.now.ID) })
	})
	return j
}

func (j *Job) end(err error) {
	j.mu.Lock()
	defer j.mu.Unlock()
	switch {
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
	j.cancel()
	<-j.ended
}

// Wait returns when the job has ended, with its error.
func (j *Job) Wait() error {
	<-j.ended
	return j.Progress().Err
}

// Stop cancels all jobs and waits for them.
func (js *Jobs) Stop() {
	js.mu.Lock()
	js.stopped = true
	for _, j := range js.jobs {
		j.cancel()
	}
	js.mu.Unlock()
	js.wg.Wait()
}
