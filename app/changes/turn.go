package changes

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"path"
	"reflect"
	"slices"
	"strings"
	"time"

	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/jobs"
	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/turning"
	"ivelt/store"
)

// Turner turns what desks wear when it is time: between light and dark, and from one backdrop
// to the next. A turn belongs to the entry of the history that started it, and goes back with
// it.
type Turner struct {
	store   turnStore
	plans   *Plans
	applier *Applier
	drafts  *drafts.Drafts
	notices *desks.Notices
	jobs    *jobs.List
	log     *slog.Logger
	dir     string
	now     func() time.Time
	due     timers
}

type turnStore interface {
	Worn(desk string) ([]store.OutfitRow, error)
	Checkpoints(desk string) ([]store.CheckpointRow, error)
	Trial(desk string) (store.TrialRow, error)
	Turning(desk string, checkpoint uint) (store.TurningRow, error)
	SaveTurning(t store.TurningRow, fields ...string) error
}

// NewTurner returns what turns desks.
func NewTurner(s turnStore, plans *Plans, ap *Applier, d *drafts.Drafts, n *desks.Notices, running *jobs.List) *Turner {
	t := &Turner{store: s, plans: plans, applier: ap, drafts: d, notices: n, jobs: running, log: ap.log, dir: ap.dir, now: ap.now}
	ap.worn = t.follow
	return t
}

// ErrStill: nothing turns on a desk.
var ErrStill = errors.New("nothing turns on this desk")

// ErrStopped: what turned has stopped, as somebody else has changed what it would turn.
var ErrStopped = errors.New("it has stopped")

// Turning is what turns on a desk.
type Turning struct {
	store.TurningRow
	Worn      outfit.Outfit
	Pictures  []string // those of its show that are there
	OnBattery bool     // and the show pauses on battery
	Waits     bool     // for a trial to end
}

// Of is what turns on a desk, or [ErrStill].
func (t *Turner) Of(d *desks.Managed) (Turning, error) {
	rows, err := t.store.Worn(d.ID)
	if err != nil {
		return Turning{}, err
	}
	if len(rows) == 0 {
		return Turning{}, ErrStill
	}
	out := Turning{}
	if out.Worn, err = outfit.Parse(rows[0].Text); err != nil {
		return Turning{}, err
	}
	if len(out.Worn.Turns()) == 0 {
		return Turning{}, ErrStill
	}
	if out.TurningRow, err = t.startedBy(d, rows, out.Worn); err != nil {
		return Turning{}, err
	}
	if s := out.Worn.Show; s != nil {
		out.Pictures = Pictures(d.Desk, *s)
		out.OnBattery = s.Battery == turning.Pause && desk.OnBattery(d.Tree())
	}
	_, err = t.store.Trial(d.ID)
	out.Waits = err == nil
	return out, nil
}

// startedBy is what is known of what turns: of the entry of the history that started it, before
// those that left it as it is.
func (t *Turner) startedBy(d *desks.Managed, rows []store.OutfitRow, worn outfit.Outfit) (store.TurningRow, error) {
	first := rows[0]
	for _, row := range rows {
		o, err := outfit.Parse(row.Text)
		if err != nil || !sameTurns(o, worn) {
			break
		}
		first = row
		if known, err := t.store.Turning(d.ID, row.Checkpoint); !errors.Is(err, store.ErrNone) {
			return known, err
		}
	}
	return store.TurningRow{Desk: d.ID, Checkpoint: first.Checkpoint, Since: t.now()}, nil
}

func sameTurns(a, b outfit.Outfit) bool {
	return reflect.DeepEqual(a.Turn, b.Turn) && reflect.DeepEqual(a.Light, b.Light) && reflect.DeepEqual(a.Dark, b.Dark) && reflect.DeepEqual(a.Show, b.Show)
}

// shown are the kinds of pictures that a show has.
var shown = []string{".png", ".jpg", ".jpeg", ".svg", ".webp"}

// Pictures are those of a show that a desk has, in its order; those of a folder by name.
func Pictures(d *desk.Desk, s turning.Show) []string {
	if names := s.Names(); names != nil {
		return slices.DeleteFunc(slices.Clone(names), func(p string) bool { return !d.Exists(p) })
	}
	entries, err := fs.ReadDir(d.Tree(), desk.Name(s.Folder))
	if err != nil {
		return nil
	}
	var out []string
	for _, e := range entries {
		if slices.Contains(shown, strings.ToLower(path.Ext(e.Name()))) && !e.IsDir() {
			out = append(out, path.Join(s.Folder, e.Name()))
		}
	}
	return out
}

// next is what is worn at a time, and when it is its turn again; zero if no time tells.
func (is Turning) next(d *desk.Desk, now time.Time, asked *bool) (o outfit.Outfit, row store.TurningRow, due time.Time) {
	o, row = is.Worn, is.TurningRow
	soonest := func(at time.Time) {
		if !at.IsZero() && (due.IsZero() || at.Before(due)) {
			due = at
		}
	}
	if s := o.Turn; s != nil {
		dark := o.IsDark()
		if s.By == turning.ByDesk {
			dark = reading.Shade(d) == "dark"
		}
		if asked != nil && s.By == turning.ByHand {
			dark = *asked
		}
		is, until := s.Shade(now, dark)
		soonest(until)
		o = o.In(outfit.HalfOf(is))
	}
	if s := o.Show; s != nil {
		was := turning.Shown{Picture: o.Want(desk.FacetBackdrop), Since: row.Since, Turns: row.Turns}
		then, at := s.Next(now, was, turning.Have{Pictures: is.Pictures, OnBattery: is.OnBattery})
		soonest(at)
		o, row.Since, row.Turns = o.Showing(then.Picture), then.Since, then.Turns
	}
	return o, row, due
}

// Ask is what a turn is asked for by.
type Ask struct {
	Dark *bool // of a look that turns by hand: which half
	Next bool  // the show's next picture, whether it is its turn or not
}

// Turn turns a desk if it is time, or what is asked for, and tells when it is its turn again:
// zero if no time tells.
func (t *Turner) Turn(ctx context.Context, d *desks.Managed, ask Ask) (due time.Time, err error) {
	d.Lock()
	defer d.Unlock()
	is, o, row, due, err := t.look(d, ask)
	if err != nil || slices.Equal(o.Bytes(), is.Worn.Bytes()) {
		return due, err
	}
	return due, t.turn(ctx, d, is, o, row)
}

// patience is how long is waited for another Ivelt that is at work on a desk.
const patience = 10 * time.Second

// look looks what it is the turn of; o is what is worn where nothing is. Meanwhile no other
// program changes the desk: what it writes and what it writes down of that are one.
func (t *Turner) look(d *desks.Managed, ask Ask) (is Turning, o outfit.Outfit, row store.TurningRow, due time.Time, err error) {
	release, err := apply.Hold(d.Desk, patience)
	if err != nil {
		return is, o, row, due, err
	}
	defer release()
	if is, err = t.Of(d); err != nil {
		return is, o, row, due, err
	}
	o = is.Worn
	now := t.now()
	switch {
	case is.Stopped != "":
		return is, o, row, due, say.Errorf("%w: %s", ErrStopped, is.Stopped)
	case is.Paused && ask == Ask{}:
		return is, o, row, due, nil
	case is.Waits:
		trial, err := t.store.Trial(d.ID)
		return is, o, row, trial.Until.Add(time.Second), errors.Join(err, map[bool]error{true: ErrTrying}[ask != Ask{}])
	}
	was := is.TurningRow
	if is.Told == nil { // a program that turned it ended before it could write that down
		if is.Told, err = told(d, is.Worn); err != nil {
			return is, o, row, due, err
		}
	}
	if by := changedBy(d, is); by != "" {
		is.Stopped = by
		t.notices.Add(d, "“%s” turns no more on %s: %s. Say on the page Day and night whether it is to go on.", is.Worn.Name, d.Title, by)
		return is, o, row, due, t.store.SaveTurning(is.TurningRow, "Stopped")
	}
	if ask.Next {
		if is.Worn.Show == nil || len(is.Pictures) < 2 || len(is.Worn.Show.Times) > 0 {
			return is, o, row, due, errors.New("there is no next picture: no slide show runs here, or it has one picture alone")
		}
		is.Since, is.OnBattery = time.Time{}, false
	}
	o, row, due = is.next(d.Desk, now, ask.Dark)
	row.Due = due
	if is.Paused && !ask.Next { // what is asked for by hand is turned; time does not count
		row.Since = is.Since
	}
	if !slices.Equal(o.Bytes(), is.Worn.Bytes()) || row.Due.Equal(was.Due) && row.Since.Equal(was.Since) && slices.Equal(row.Told, was.Told) {
		return is, o, row, due, nil
	}
	return is, o, row, due, t.store.SaveTurning(row, "Since", "Turns", "Due", "Told")
}

// turn makes a desk wear what it is the turn of.
func (t *Turner) turn(ctx context.Context, d *desks.Managed, is Turning, o outfit.Outfit, row store.TurningRow) error {
	p, err := planning.Dress(ctx, d.Desk, o.Only(func(facet string) bool {
		return slices.Contains(o.Turns(), facet) && is.Worn.Want(facet) != o.Want(facet)
	}))
	if err != nil {
		return err
	}
	p = p.Mine(d.Desk)
	p.Title, p.Outfit = titleOf(is.Worn, o), string(o.Bytes())
	row.Told = nil // told once it is done
	done := store.Applied{Turning: &row, Checkpoint: store.CheckpointRow{TurnOf: is.Checkpoint}}
	p.Seal(d.Desk)
	done.Worn = &store.OutfitRow{Desk: d.ID, Name: o.Name, Text: o.Bytes(), PlanID: p.ID, Changed: t.now()}
	replaced, as, err := t.join(d, is, p)
	if err != nil {
		return err
	}
	done.Replaces = replaced
	return t.applier.applyAs(ctx, d, p, as, done, func(int, int) {})
}

// join is the last turn of what turns, and its plan with the next one as one, so that a year
// of turns is one entry.
func (t *Turner) join(d *desks.Managed, is Turning, p plan.Plan) (uint, plan.Plan, error) {
	rows, err := t.store.Checkpoints(d.ID)
	if err != nil || len(rows) == 0 || rows[0].TurnOf != is.Checkpoint || rows[0].GoneOn != nil || rows[0].Purged != nil || is.Checkpoint == 0 {
		return 0, p, err
	}
	was, err := t.plans.Get(d, rows[0].PlanID)
	if err != nil {
		return 0, p, err
	}
	joined, ok := plan.Join(d.Desk, was, p)
	if !ok {
		return 0, p, nil
	}
	return rows[0].ID, joined, nil
}

func titleOf(was, is outfit.Outfit) string {
	switch {
	case was.IsDark() == is.IsDark():
		info, _ := desk.FacetOf(desk.FacetBackdrop)
		return "Next backdrop: " + info.Says(is.Want(desk.FacetBackdrop)).String()
	case is.IsDark():
		return "Turn dark"
	}
	return "Turn light"
}

// told is what surfaces are told of what turns, by "surface facet".
func told(d *desks.Managed, o outfit.Outfit) ([]byte, error) {
	out := map[string]string{}
	on := d.Settled().Snapshot()
	for _, s := range on.Surfaces() {
		for _, f := range s.Facets {
			if slices.Contains(o.Turns(), f.Name) && !(f.Name == desk.FacetDark && o.Turn != nil && o.Turn.By == turning.ByDesk) {
				out[s.ID+" "+f.Name] = reading.Told(on, s, f).Value
			}
		}
	}
	return json.Marshal(out)
}

// changedBy says what somebody else has changed of what turns, "" for nothing.
func changedBy(d *desks.Managed, is Turning) string {
	now, err := told(d, is.Worn)
	if err != nil {
		return ""
	}
	var was, are map[string]string
	if json.Unmarshal(is.Told, &was) != nil || json.Unmarshal(now, &are) != nil {
		return ""
	}
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			key := s.ID + " " + f.Name
			before, knew := was[key]
			after, knows := are[key]
			if halves := is.Worn.Paired(f.Name) && slices.ContainsFunc([]outfit.Half{outfit.Light, outfit.Dark}, func(h outfit.Half) bool { return reading.Same(f, after, is.Worn.WantIn(h, f.Name)) }); halves {
				continue // it is asked in the other shade, or turned by the desk itself
			}
			if knew && knows && !reading.Same(f, before, after) {
				info, _ := desk.FacetOf(f.Name)
				return fmt.Sprintf("%s of %s was changed elsewhere, from %s to %s", info.Title, s.Title, cmp.Or(info.Says(before).String(), "nothing"), cmp.Or(info.Says(after).String(), "nothing"))
			}
		}
	}
	return ""
}

// follow writes down what a desk was left told once it wears something else, and sees to it
// that it turns in time; starts is the entry of the history that has it turn, 0 if that is an
// earlier one. The desk's lock must be held.
func (t *Turner) follow(d *desks.Managed, starts uint) {
	t.due.stop(d.ID)
	is, err := t.Of(d)
	if errors.Is(err, ErrStill) {
		t.mark(d)
		return
	}
	fields := []string{"Due", "Told"}
	if starts != 0 {
		is.TurningRow = store.TurningRow{Desk: d.ID, Checkpoint: starts, Since: t.now()}
		fields = []string{"Since", "Turns", "Due", "Told", "Paused", "Stopped"}
	}
	if err == nil {
		is.Told, err = told(d, is.Worn)
	}
	if err == nil {
		var o outfit.Outfit
		if o, _, is.Due = is.next(d.Desk, t.now(), nil); !slices.Equal(o.Bytes(), is.Worn.Bytes()) {
			is.Due = t.now() // it was composed before it was its turn
		}
		err = t.store.SaveTurning(is.TurningRow, fields...)
	}
	if err != nil {
		t.log.Error("what turns", "desk", d.ID, "error", err)
	}
	t.mark(d)
	t.wait(d, is)
}

// Now is what its clock shows.
func (t *Turner) Now() time.Time { return t.now() }

// Half is an outfit with the half in force that it would be the turn of now.
func (t *Turner) Half(d *desks.Managed, o outfit.Outfit) outfit.Outfit {
	if o.Turn == nil {
		return o
	}
	dark := o.IsDark()
	if o.Turn.By == turning.ByDesk {
		dark = reading.Shade(d.Desk) == "dark"
	}
	is, _ := o.Turn.Shade(t.now(), dark)
	return o.In(outfit.HalfOf(is))
}

// Pause lets what turns on a desk stand still, or go on.
func (t *Turner) Pause(d *desks.Managed, pause bool) error {
	d.Lock()
	defer d.Unlock()
	release, err := apply.Hold(d.Desk, patience)
	if err != nil {
		return err
	}
	defer release()
	is, err := t.Of(d)
	if err != nil {
		return err
	}
	is.Paused = pause
	if !pause { // its picture has its whole time again, and what somebody else has set is taken as it is
		is.Since, is.Stopped = t.now(), ""
		if is.Told, err = told(d, is.Worn); err != nil {
			return err
		}
		_, _, is.Due = is.next(d.Desk, t.now(), nil)
	}
	fields := []string{"Paused"}
	if !pause {
		fields = []string{"Paused", "Since", "Stopped", "Told", "Due"}
	}
	if err := t.store.SaveTurning(is.TurningRow, fields...); err != nil {
		return err
	}
	t.due.stop(d.ID)
	t.mark(d)
	t.wait(d, is)
	return nil
}

// End keeps what is worn now: nothing of it turns any more. Nothing on the desk is changed.
func (t *Turner) End(d *desks.Managed) error {
	d.Lock()
	defer d.Unlock()
	is, err := t.Of(d)
	if err != nil {
		return err
	}
	o := is.Worn
	for _, facet := range o.Turns() {
		o = o.With(facet, o.Want(facet))
	}
	if err := t.drafts.IsWorn(d, o); err != nil {
		return err
	}
	t.follow(d, 0)
	return nil
}
