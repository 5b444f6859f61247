package changes

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/say"
	"ivelt/core/unlock"
	"ivelt/store"
)

// Journeys lead desks under a lock to a look, step by step, each confirmed before the next.
// Where one is stands in the store and on the desk itself, so that it survives restarts.
type Journeys struct {
	store    journeyStore
	plans    *Plans
	changes  *Changes
	applier  *Applier
	back     *Back
	drafts   *drafts.Drafts
	overlays *drafts.Overlays
	jobs     *jobs.List
	now      func() time.Time
}

type journeyStore interface {
	Journey(desk string) (store.JourneyRow, error)
	SaveJourney(j store.JourneyRow) error
	DropJourney(desk string) error
	Checkpoints(desk string) ([]store.CheckpointRow, error)
}

// NewJourneys returns what leads desks under a lock.
func NewJourneys(s journeyStore, plans *Plans, ch *Changes, ap *Applier, b *Back, d *drafts.Drafts, o *drafts.Overlays, running *jobs.List, now func() time.Time) *Journeys {
	return &Journeys{s, plans, ch, ap, b, d, o, running, now}
}

// Errors of journeys.
var (
	ErrNoJourney = errors.New("this desk is on no way to a look: begin one")
	ErrOnTheWay  = errors.New("this desk is on its way to a look already: go on, or go back first")
	ErrCannot    = errors.New("this desk cannot be unlocked as it is")
	ErrNotSo     = errors.New("the step is not confirmed")
	ErrOtherStep = errors.New("another step comes first")
)

// Journey is a desk on its way to a look.
type Journey struct {
	ID     string
	Begun  unlock.Begun
	Outfit outfit.Outfit
	Again  bool
	Done   []unlock.Step
	Ended  bool
	Way    planning.Way // the way back from here
	First  uint         // the entry of the history that its way back leads to before; 0 if it changed nothing yet
	Others int          // entries of the history that came between and would go back too
}

// Steps are all steps of it.
func (j Journey) Steps() []unlock.Step {
	if j.Again {
		return unlock.Again
	}
	return unlock.Steps
}

// Next is the step that comes next, "" if all are confirmed.
func (j Journey) Next() unlock.Step {
	for _, s := range j.Steps() {
		if !slices.Contains(j.Done, s) {
			return s
		}
	}
	return ""
}

// Report says what there is to be said before a desk is unlocked. Nothing is changed.
func (js *Journeys) Report(ctx context.Context, d *desks.Managed) (unlock.Report, error) {
	return unlock.Look(ctx, d.Desk, js.now())
}

// Of is the journey that a desk is on, or [ErrNoJourney].
func (js *Journeys) Of(d *desks.Managed) (Journey, error) {
	row, err := js.store.Journey(d.ID)
	if errors.Is(err, store.ErrNone) {
		return Journey{}, ErrNoJourney
	}
	if err != nil {
		return Journey{}, err
	}
	j, _, err := js.from(d, row)
	return j, err
}

// from reads a journey, and its ways back by plan.
func (js *Journeys) from(d *desks.Managed, row store.JourneyRow) (Journey, map[string]planning.Way, error) {
	j := Journey{ID: row.ID, Again: row.Again, Ended: row.Ended != nil}
	ways := map[string]planning.Way{}
	o, err := outfit.Parse(row.Outfit)
	if err = errors.Join(err, json.Unmarshal(row.Begun, &j.Begun), json.Unmarshal(row.Ways, &ways)); err != nil {
		return Journey{}, nil, err
	}
	j.Outfit = o
	for _, s := range strings.Fields(row.Done) {
		j.Done = append(j.Done, unlock.Step(s))
	}
	rows, err := js.store.Checkpoints(d.ID)
	if err != nil {
		return Journey{}, nil, err
	}
	_, l := d.Locked()
	j.Way = planning.Way{ID: row.ID}
	if l != nil {
		j.Way.Again = l.Again
	}
	latest := true
	for _, c := range rows { // the newest first
		if c.ID <= row.First || c.GoneOn != nil || c.IsBack || c.AsIs {
			continue
		}
		way, ours := ways[c.PlanID]
		if !ours {
			j.Others++
			continue
		}
		if latest && way.ID == row.ID {
			j.Way, latest = way, false
		}
		j.First = c.ID
	}
	return j, ways, nil
}

// Begin starts the journey of a desk to an outfit; again if an update has undone it. Nothing is
// changed yet.
func (js *Journeys) Begin(ctx context.Context, d *desks.Managed, o outfit.Outfit, again bool) error {
	d.Lock()
	defer d.Unlock()
	if now, err := js.Of(d); err == nil && !now.Ended {
		return ErrOnTheWay
	} else if err != nil && !errors.Is(err, ErrNoJourney) {
		return err
	}
	r, err := js.Report(ctx, d)
	if err != nil {
		return err
	}
	for _, f := range r.Found {
		if f.Weight == unlock.Stop {
			return say.Errorf("%w: %s %s", ErrCannot, f.Says, f.Fix)
		}
	}
	if len(o.Choices) == 0 {
		return errors.New("there is no look to go to: put one on the draft first")
	}
	begun, err := unlock.Begin(ctx, d.Desk)
	if err != nil {
		return err
	}
	text, err := json.Marshal(begun)
	if err != nil {
		return err
	}
	rows, err := js.store.Checkpoints(d.ID)
	if err != nil {
		return err
	}
	row := store.JourneyRow{Desk: d.ID, ID: strings.ToLower(rand.Text()[:8]), Begun: text, Outfit: o.Bytes(), Again: again, Ways: []byte("{}")}
	if len(rows) > 0 {
		row.First = rows[0].ID
	}
	if last, err := js.store.Journey(d.ID); err == nil && again { // going back leads to before the first of them
		row.First, row.Ways = last.First, last.Ways
	}
	return js.store.SaveJourney(row)
}

// Plan is the plan of the next step, with what its way back needs; empty if that is none, or
// nothing is left to do for it.
func (js *Journeys) Plan(ctx context.Context, d *desks.Managed) (plan.Plan, error) {
	p, _, err := js.next(ctx, d)
	return p, err
}

func (js *Journeys) next(ctx context.Context, d *desks.Managed) (plan.Plan, planning.Way, error) {
	j, err := js.Of(d)
	if err != nil {
		return plan.Plan{}, planning.Way{}, err
	}
	var p plan.Plan
	switch j.Next() {
	case unlock.StepDefaults:
		p, err = planning.Defaults(d.Desk)
	case unlock.StepUnlock:
		p, err = planning.Unlock(d.Desk)
	case unlock.StepLook:
		p, err = js.overlays.DressPlan(ctx, d, j.Outfit, planning.Options{})
	default:
		return plan.Plan{}, j.Way, nil
	}
	if err != nil {
		return plan.Plan{}, planning.Way{}, err
	}
	return j.Way.With(d.Desk, p)
}

// Take starts taking a step. The job fails if the step is not confirmed then; what it did stays,
// and can be gone back on.
func (js *Journeys) Take(d *desks.Managed, step unlock.Step, then string) (*jobs.Job, error) {
	j, err := js.Of(d)
	if err == nil && j.Next() != step {
		err = say.Errorf("%w: %s", ErrOtherStep, j.Next())
	}
	if err != nil {
		return nil, err
	}
	return js.jobs.Start("Step: "+string(step), func(ctx context.Context, job *jobs.Job) error {
		job.Then(then)
		return js.take(ctx, d, job, step)
	}), nil
}

func (js *Journeys) take(ctx context.Context, d *desks.Managed, job *jobs.Job, step unlock.Step) error {
	j, err := js.Of(d)
	if err != nil {
		return err
	}
	s, _ := d.Locked()
	switch {
	case step == unlock.StepMark:
		if why, err := unlock.Check(ctx, d.Desk, j.Begun, j.Outfit, step); err != nil || why.Code == "" {
			return js.confirm(ctx, d, step, err)
		}
		if d.Mark != nil {
			job.Step("Making a mark", "")
			if err := d.Mark("before " + j.Outfit.Name); err != nil {
				return err
			}
		}
	case step.Restarts():
		if d.CanRestart(s.ID) {
			job.Step("Starting "+s.Title+" again", "")
			if err := js.changes.Restart(d, s.ID, false); err != nil {
				return err
			}
		}
	default:
		p, way, err := js.next(ctx, d)
		if err != nil {
			return err
		}
		if len(p.Ops) > 0 {
			if err := js.remember(d, p, way); err != nil {
				return err
			}
			if p.Outfit != "" {
				err = js.changes.wear(ctx, d, job, p, 0)
			} else {
				err = js.apply(ctx, d, job, p)
			}
			if err != nil {
				return err
			}
		}
	}
	return js.confirm(ctx, d, step, nil)
}

func (js *Journeys) apply(ctx context.Context, d *desks.Managed, job *jobs.Job, p plan.Plan) error {
	d.Lock()
	defer d.Unlock()
	job.Step("Applying", "files")
	return js.applier.Apply(ctx, d, p, store.Applied{}, func(n, total int) { job.At(int64(n), int64(total)) })
}

// remember writes down the way back of a plan before it is carried out.
func (js *Journeys) remember(d *desks.Managed, p plan.Plan, way planning.Way) error {
	row, err := js.store.Journey(d.ID)
	if err != nil {
		return err
	}
	ways := map[string]planning.Way{}
	if err := json.Unmarshal(row.Ways, &ways); err != nil {
		return err
	}
	ways[p.ID] = way
	if row.Ways, err = json.Marshal(ways); err != nil {
		return err
	}
	return js.store.SaveJourney(row)
}

// confirm writes down that a step is confirmed, if it is.
func (js *Journeys) confirm(ctx context.Context, d *desks.Managed, step unlock.Step, err error) error {
	if err != nil {
		return err
	}
	j, err := js.Of(d)
	if err != nil {
		return err
	}
	why, err := unlock.Check(ctx, d.Desk, j.Begun, j.Outfit, step)
	if err != nil {
		return err
	}
	if why.Code != "" {
		return say.Errorf("%w: %s", ErrNotSo, why)
	}
	row, err := js.store.Journey(d.ID)
	if err != nil {
		return err
	}
	row.Done += string(step) + "\n"
	return js.store.SaveJourney(row)
}

// Check tells why the next step is not confirmed yet; nothing if it is, or all are.
func (js *Journeys) Check(ctx context.Context, d *desks.Managed) (say.Message, error) {
	j, err := js.Of(d)
	if err != nil || j.Next() == "" {
		return say.Message{}, err
	}
	return unlock.Check(ctx, d.Desk, j.Begun, j.Outfit, j.Next())
}

// GoBack starts going back to before the journey, and starts the system again if Ivelt can.
func (js *Journeys) GoBack(d *desks.Managed, then string) (*jobs.Job, error) {
	if _, err := js.Of(d); err != nil {
		return nil, err
	}
	return js.jobs.Start("Go back to before it", func(ctx context.Context, job *jobs.Job) error {
		job.Then(then)
		return js.goBack(ctx, d, job)
	}), nil
}

func (js *Journeys) goBack(ctx context.Context, d *desks.Managed, job *jobs.Job) error {
	d.Lock()
	defer d.Unlock()
	j, err := js.Of(d)
	if err != nil {
		return err
	}
	if j.First != 0 {
		way := Way{Checkpoint: j.First, Since: true}
		r, _, err := js.back.plan(d, way)
		if err != nil {
			return err
		}
		way.Takes = map[string]planning.Take{}
		for _, c := range r.Conflicts { // what a watchman has set aside comes back as it was
			if c.IsNone && !c.WasNone && slices.Contains(c.Takes, planning.TakeBefore) {
				way.Takes[c.Path] = planning.TakeBefore
			}
		}
		if err := js.back.carryOut(ctx, d, job, way, "", store.Applied{}); err != nil {
			return err
		}
		if s, _ := d.Locked(); d.CanRestart(s.ID) {
			job.Step("Starting "+s.Title+" again", "")
			if err := d.Restarts[s.ID](); err != nil {
				return err
			}
		}
	}
	return js.store.DropJourney(d.ID)
}

// Keep ends a journey whose steps are all confirmed: the look stays, and what was kept for a
// text console is taken away.
func (js *Journeys) Keep(ctx context.Context, d *desks.Managed) error {
	d.Lock()
	defer d.Unlock()
	j, err := js.Of(d)
	if err != nil {
		return err
	}
	if next := j.Next(); next != "" {
		return say.Errorf("%w: %s", ErrOtherStep, next)
	}
	p, err := planning.TidyWay(d.Desk, j.Way)
	if err != nil {
		return err
	}
	if len(p.Ops) > 0 {
		if err := js.remember(d, p, j.Way); err != nil {
			return err
		}
		if err := js.applier.Apply(ctx, d, p, store.Applied{}, func(int, int) {}); err != nil {
			return err
		}
	}
	row, err := js.store.Journey(d.ID)
	if err != nil {
		return err
	}
	now := js.now()
	row.Ended = &now
	return js.store.SaveJourney(row)
}

// Undone tells what an update of the system has undone of a look that was kept; nothing if it is
// still there.
func (js *Journeys) Undone(d *desks.Managed) (say.Message, Journey) {
	j, err := js.Of(d)
	if err != nil || !j.Ended {
		return say.Message{}, j
	}
	return unlock.Undone(d.Desk, j.Begun), j
}
