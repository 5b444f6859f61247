package unlock

import (
	"context"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/signed"
)

// Step is one of the way to a look on a desk under a lock.
type Step string

// The steps, in their order. Each is confirmed before the next one is taken.
const (
	StepMark     Step = "mark"     // have the system make a checkpoint of its own
	StepDefaults Step = "defaults" // tell it nothing but its defaults
	StepUnlock   Step = "unlock"   // tell it of the owner's key
	StepRestart  Step = "restart"  // start it again: it takes the key
	StepLook     Step = "look"     // tell it of the look
	StepShown    Step = "shown"    // start it again: it shows the look
)

// Steps are all of them.
var Steps = []Step{StepMark, StepDefaults, StepUnlock, StepRestart, StepLook, StepShown}

// Again are those that lead to the same look once an update has undone it: what the system is
// told otherwise than by default is that look's.
var Again = []Step{StepMark, StepUnlock, StepLook, StepShown}

// Restarts reports whether the system has to be started again for a step.
func (s Step) Restarts() bool { return s == StepRestart || s == StepShown }

// Plans reports whether a step is a plan.
func (s Step) Plans() bool { return s == StepDefaults || s == StepUnlock || s == StepLook }

// Begun is how a desk was when its journey began.
type Begun struct {
	Release string   `json:"release"`
	Marks   []string `json:"marks"` // by name
}

// Begin remembers how a desk is.
func Begin(ctx context.Context, d *desk.Desk) (Begun, error) {
	_, l := d.Locked()
	if l == nil {
		return Begun{}, ErrNone
	}
	marks, err := MarksOf(ctx, d, l)
	if err != nil {
		return Begun{}, err
	}
	b := Begun{Release: reading.Release(d, l), Marks: []string{}}
	for _, m := range marks {
		b.Marks = append(b.Marks, m.Name)
	}
	return b, nil
}

// Check tells why a step is not confirmed on a desk, by what is read there and not by what was
// done; nothing if it is. o is the outfit of the journey.
func Check(ctx context.Context, d *desk.Desk, begun Begun, o outfit.Outfit, step Step) (say.Message, error) {
	d = d.Snapshot()
	s, l := d.Locked()
	if l == nil {
		return say.Message{}, ErrNone
	}
	if now := reading.Release(d, l); now != begun.Release {
		return say.Of("unlock/updated-meanwhile", s.Title, begun.Release, now), nil
	}
	running := RunningOf(d, l)
	switch step {
	case StepMark:
		marks, err := MarksOf(ctx, d, l)
		if err != nil {
			return say.Message{}, err
		}
		i := slices.IndexFunc(marks, func(m Mark) bool { return !slices.Contains(begun.Marks, m.Name) })
		switch {
		case l.Marks == nil:
		case i < 0:
			return say.Of("unlock/check/no-mark", s.Title), nil
		case marks[i].Err != nil:
			return say.Of("unlock/check/bad-mark", marks[i].Name, marks[i].Err), nil
		case marks[i].Release != begun.Release:
			return say.Of("unlock/check/other-mark", marks[i].Name, marks[i].Release), nil
		}
	case StepDefaults:
		if left := Changed(d, l); len(left) > 0 {
			return say.Of("unlock/check/not-default", len(left), d.Show(left[0].Source.Path)), nil
		}
	case StepUnlock, StepLook:
		if d.SigningKey == nil || !slices.Contains(reading.Owners(d, l), signed.Public(d.SigningKey)) {
			return say.Of("unlock/check/not-told", s.Title), nil
		}
		if why := reading.Black(d); why.Code != "" {
			return say.Of("unlock/would-be-black", why), nil
		}
		if step == StepLook {
			return untold(d, o, false), nil
		}
	case StepRestart, StepShown:
		if running.Black {
			return say.Of("unlock/check/black", s.Title, running.Why), nil
		}
		if d.SigningKey == nil || !slices.Contains(running.Accepts, signed.Public(d.SigningKey)) {
			return say.Of("unlock/check/not-taken", s.Title), nil
		}
		if step == StepShown {
			return untold(d, o, true), nil
		}
	}
	return say.Message{}, nil
}

// untold tells what of an outfit a surface that can follow is not told, or does not show.
func untold(d *desk.Desk, o outfit.Outfit, shown bool) say.Message {
	for _, t := range match.Of(d, o).Threads {
		for _, c := range t.Cells {
			if c.Want == "" || !c.Bad() || !shown && c.State == match.Pending {
				continue
			}
			if f, _ := c.Surface.Facet(c.Facet); c.State == match.NotFound && !reading.Same(f, c.Reading.Value, c.Want) {
				continue // it was said before that it cannot be had here
			}
			return say.Of("unlock/check/not-shown", c.Surface.Title, t.Title, c.Because)
		}
	}
	return say.Message{}
}

// Undone tells that a system no longer takes the owner's key, which it took in the journey that
// began so, and what an update has undone with that; nothing if it takes it.
func Undone(d *desk.Desk, begun Begun) say.Message {
	s, l := d.Locked()
	if l == nil || d.SigningKey == nil || slices.Contains(reading.Owners(d, l), signed.Public(d.SigningKey)) {
		return say.Message{}
	}
	if now := reading.Release(d, l); now != begun.Release {
		return say.Of("unlock/undone-by-update", s.Title, begun.Release, now, strings.Join(l.Undone, ", "))
	}
	return say.Of("unlock/undone", s.Title)
}
