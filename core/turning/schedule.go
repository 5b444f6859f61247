// Package turning is when a look turns: between light and dark, and from one backdrop to the
// next. It asks no clock and no desk: what is known comes in, what is due comes out.
package turning

import (
	"fmt"
	"math"
	"time"

	"ivelt/core/say"
)

// By is what turns a look between light and dark.
type By string

// The ways.
const (
	ByHand  By = "hand"  // the person alone
	ByClock By = "clock" // at two times of the day
	BySun   By = "sun"   // as it rises and sets at a place
	ByDesk  By = "desk"  // as the desk's own shade turns
)

// Ways are all of them, in the order they are offered in.
var Ways = []By{ByHand, ByClock, BySun, ByDesk}

// Schedule is when a look is light, and when it is dark.
type Schedule struct {
	By    By     `toml:"by"`
	Light string `toml:"light,omitempty"` // by the clock: "07:00"
	Dark  string `toml:"dark,omitempty"`
	At    *Place `toml:"at,omitempty"` // by the sun
}

// Valid tells what is wrong with a schedule.
func (s Schedule) Valid() error {
	switch s.By {
	case ByHand, ByDesk:
		return nil
	case ByClock:
		light, err := minuteOf(s.Light)
		if err != nil {
			return err
		}
		dark, err := minuteOf(s.Dark)
		if err == nil && light == dark {
			err = fmt.Errorf("it cannot turn light and dark at the same time, %s", s.Light)
		}
		return err
	case BySun:
		return s.At.valid()
	}
	return fmt.Errorf("%q is no way to turn: it is hand, clock, sun or desk", s.By)
}

// Says is in words when it turns, after "turns".
func (s Schedule) Says() say.Message {
	switch s.By {
	case ByClock:
		return say.Line("light at %s and dark at %s", s.Light, s.Dark)
	case BySun:
		return say.Line("with the sun at %.2f, %.2f", s.At.Latitude, s.At.Longitude)
	case ByDesk:
		return say.Line("when the desk's own shade turns")
	}
	return say.Line("when you say so")
}

func (p *Place) valid() error {
	switch {
	case p == nil:
		return fmt.Errorf("the sun needs a place: its latitude and longitude in degrees")
	case !(math.Abs(p.Latitude) <= 90):
		return fmt.Errorf("a latitude is from -90 to 90 degrees, not %g", p.Latitude)
	case !(math.Abs(p.Longitude) <= 180):
		return fmt.Errorf("a longitude is from -180 to 180 degrees, not %g", p.Longitude)
	}
	return nil
}

// minuteOf is a time of day, in minutes.
func minuteOf(text string) (int, error) {
	t, err := time.Parse("15:04", text)
	if err != nil || len(text) != len("15:04") {
		return 0, fmt.Errorf("%q is no time of day: write it as 19:30", text)
	}
	return t.Hour()*60 + t.Minute(), nil
}

// around are the last time up to t, and the first after it, at which the clock of t's place
// shows a minute of the day. Where the clock skips it, it is the moment of the skip or what
// [time.Date] makes of it.
func around(t time.Time, minute int) (last, next time.Time) {
	for day := -1; day <= 1; day++ {
		at := time.Date(t.Year(), t.Month(), t.Day()+day, 0, minute, 0, 0, t.Location())
		if !at.After(t) {
			last = at
		} else if next.IsZero() {
			next = at
		}
	}
	return last, next
}

// Shade is whether it is dark by a schedule, and until when; until is zero where no time
// tells. dark is what the desk's own shade, or the person, says.
func (s Schedule) Shade(now time.Time, dark bool) (is bool, until time.Time) {
	switch s.By {
	case ByClock:
		light, _ := minuteOf(s.Light)
		evening, _ := minuteOf(s.Dark)
		wasLight, nextLight := around(now, light)
		wasDark, nextDark := around(now, evening)
		if wasDark.After(wasLight) {
			return true, nextLight
		}
		return false, nextDark
	case BySun:
		is = s.At.Height(now) < Rises
		until, ok := s.At.crossing(now, Rises, is, step)
		if !ok {
			until = now.Add(24 * time.Hour) // it is looked again
		}
		return is, until
	}
	return dark, time.Time{}
}

// Stays reports that the sun neither rises nor sets at a place for a day and more.
func (p Place) Stays(now time.Time) bool {
	_, ok := p.crossing(now, Rises, p.Height(now) < Rises, step)
	return !ok
}
