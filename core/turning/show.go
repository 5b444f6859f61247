package turning

import (
	"fmt"
	"math/rand/v2"
	"path"
	"slices"
	"time"
)

// Show is more than one backdrop: pictures that come after each other, or one for each time
// of day.
type Show struct {
	Folder   string   `toml:"folder,omitempty"` // all pictures in it, or else those named
	Pictures []string `toml:"pictures,omitempty"`
	Every    string   `toml:"every,omitempty"` // "10m"
	Order    Order    `toml:"order,omitempty"` // by name without it
	Battery  string   `toml:"battery,omitempty"`
	Times    []Timed  `toml:"times,omitempty"` // instead of all of these
	At       *Place   `toml:"at,omitempty"`    // of the times that are the sun's
}

// Order is the order of pictures.
type Order string

// The orders.
const (
	ByName   Order = "name"
	ByChance Order = "chance" // each once before one comes again
)

// Pause is what a show does on battery if it does not go on.
const Pause = "pause"

// Timed is a picture from a time of day on: "07:30", or one of [Moments].
type Timed struct {
	From    string `toml:"from"`
	Picture string `toml:"picture"`
}

// Moments are the times of day that the sun makes, in their order.
var Moments = []string{"dawn", "sunrise", "noon", "sunset", "dusk"}

// The shortest and the longest time that a picture of a show stays.
const (
	Shortest = 30 * time.Second
	Longest  = 31 * 24 * time.Hour
)

// maxPictures bounds what a show may name.
const maxPictures = 2000

// Valid tells what is wrong with a show.
func (s Show) Valid() error {
	for _, p := range slices.Concat(s.Pictures, []string{s.Folder}) {
		if p != "" && !path.IsAbs(p) {
			return fmt.Errorf("%q is no full path", p)
		}
	}
	if len(s.Times) > 0 {
		return s.validTimes()
	}
	every, err := time.ParseDuration(s.Every)
	switch {
	case err != nil:
		return fmt.Errorf("%q is no time that a picture stays: write it as 10m or 1h30m", s.Every)
	case every < Shortest || every > Longest:
		return fmt.Errorf("a picture stays from %v to %d days, not %v", Shortest, Longest/(24*time.Hour), every)
	case s.Order != "" && s.Order != ByName && s.Order != ByChance:
		return fmt.Errorf("%q is no order: it is name or chance", s.Order)
	case s.Battery != "" && s.Battery != Pause:
		return fmt.Errorf("%q is nothing that a show does on battery: it is pause, or nothing", s.Battery)
	case (s.Folder == "") == (len(s.Pictures) == 0):
		return fmt.Errorf("a show has either a folder or pictures")
	case len(s.Pictures) > maxPictures:
		return fmt.Errorf("a show has at most %d pictures, not %d", maxPictures, len(s.Pictures))
	}
	return nil
}

func (s Show) validTimes() error {
	if len(s.Times) > 48 {
		return fmt.Errorf("a day has at most 48 pictures, not %d", len(s.Times))
	}
	seen := map[string]bool{}
	for _, t := range s.Times {
		if seen[t.From] {
			return fmt.Errorf("two pictures begin at %s", t.From)
		}
		seen[t.From] = true
		if !path.IsAbs(t.Picture) {
			return fmt.Errorf("%q is no full path", t.Picture)
		}
		if slices.Contains(Moments, t.From) {
			if err := s.At.valid(); err != nil {
				return err
			}
			continue
		}
		if _, err := minuteOf(t.From); err != nil {
			return err
		}
	}
	return nil
}

// Shown is how far a show has come.
type Shown struct {
	Picture string
	Since   time.Time
	Turns   int // how often it has turned
}

// Have is what a show finds when it is its turn.
type Have struct {
	Pictures  []string // those of it that are there, in its own order or sorted
	OnBattery bool
}

// Next is what a show shows now, and when it is its turn again. A picture that is gone is
// followed by the next; without any it stays what it is. A clock that was set back makes no
// picture stay longer than its time.
func (s Show) Next(now time.Time, is Shown, have Have) (Shown, time.Time) {
	if len(s.Times) > 0 {
		return s.timed(now, is, have)
	}
	every, err := time.ParseDuration(s.Every)
	if err != nil {
		return is, time.Time{}
	}
	if is.Since.After(now) {
		is.Since = now
	}
	due := is.Since.Add(every)
	there := slices.Contains(have.Pictures, is.Picture)
	switch {
	case len(have.Pictures) == 0, s.Battery == Pause && have.OnBattery && there:
		if !due.After(now) {
			due = now.Add(every) // it is looked again
		}
		return is, due
	case there && due.After(now):
		return is, due
	}
	picture, turns := s.after(is, have.Pictures)
	return Shown{picture, now, turns}, now.Add(every)
}

// after is the picture that follows, and how often the show has turned with it.
func (s Show) after(is Shown, pictures []string) (string, int) {
	n := len(pictures)
	if s.Order == ByChance {
		for range 2 { // the picture that stands there already is passed over
			next := round(pictures, is.Turns/n)[is.Turns%n]
			is.Turns++
			if next != is.Picture || n == 1 {
				return next, is.Turns
			}
		}
	}
	if i := slices.Index(pictures, is.Picture); i >= 0 {
		return pictures[(i+1)%n], is.Turns + 1
	}
	i, _ := slices.BinarySearch(pictures, is.Picture) // where it was, of those that are sorted
	return pictures[i%n], is.Turns + 1
}

// round are pictures in the order of a round: by chance, and never with the last of the round
// before it first. Two take turns.
func round(pictures []string, n int) []string {
	if len(pictures) < 3 {
		return pictures
	}
	shuffled := func(n int) []string {
		out := slices.Clone(pictures)
		rand.New(rand.NewPCG(uint64(n), uint64(len(out)))).Shuffle(len(out), func(i, j int) { out[i], out[j] = out[j], out[i] })
		return out
	}
	out := shuffled(n)
	if n > 0 && shuffled(n - 1)[len(out)-1] == out[0] {
		out[0], out[1] = out[1], out[0] // which leaves the last as it is
	}
	return out
}

// timed is the picture of the time of day.
func (s Show) timed(now time.Time, is Shown, have Have) (Shown, time.Time) {
	var latest, next time.Time
	picture := ""
	for _, t := range s.Times {
		last, then := s.moments(now, t.From)
		if !then.IsZero() && (next.IsZero() || then.Before(next)) {
			next = then
		}
		if !slices.Contains(have.Pictures, t.Picture) || last.IsZero() {
			continue
		}
		if picture == "" || last.After(latest) {
			picture, latest = t.Picture, last
		}
	}
	if next.IsZero() {
		next = now.Add(24 * time.Hour)
	}
	if picture == "" || picture == is.Picture {
		return is, next
	}
	return Shown{picture, now, is.Turns + 1}, next
}

// moments are the last time up to now, and the first after it, of a time of day; zero where
// the sun makes none.
func (s Show) moments(now time.Time, from string) (last, next time.Time) {
	if from == "noon" {
		return s.At.noon(now, -step), s.At.noon(now, step)
	}
	at, up := Rises, from == "sunrise" || from == "dawn"
	switch from {
	case "dawn", "dusk":
		at = Dawns
	case "sunrise", "sunset":
	default:
		minute, _ := minuteOf(from)
		return around(now, minute)
	}
	last, _ = s.At.crossing(now, at, up, -step)
	next, _ = s.At.crossing(now, at, up, step)
	return last, next
}

// Names are the pictures that a show names, "" for those of its folder.
func (s Show) Names() []string {
	if len(s.Times) == 0 {
		return s.Pictures
	}
	var out []string
	for _, t := range s.Times {
		if !slices.Contains(out, t.Picture) {
			out = append(out, t.Picture)
		}
	}
	return out
}
