// Package unlock is about desks under their vendor's lock, which take signed looks alone:
// what there is to be said before one is unlocked, and the steps of unlocking it.
package unlock

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"time"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/reading"
	"ivelt/core/regular"
	"ivelt/core/say"
)

// maxMark bounds what is read of a mark to see whether it is whole, and maxMarks how many are
// looked at, the newest ones.
const (
	maxMark  = 4 << 30
	maxMarks = 50
)

// Report is what there is to be said of a desk under a lock. Nothing is changed for it.
type Report struct {
	Surface desk.Surface
	Release string
	Method  desk.Unlock // the one that fits the release
	Has     bool        // whether any does
	Owners  []string    // keys besides the vendor's of which the system is told
	Running Running
	Changed []reading.Reading // what is not at its default
	Marks   []Mark            // the newest first
	Watches bool
	Aside   []string // what the watchman has set aside, by path
	Found   []Finding
}

// Running is how the system came up.
type Running struct {
	Release string
	Accepts []string // keys
	Refused string   // why it did not take its look
	Black   bool
	Why     string
}

// Mark is a checkpoint of the system's own.
type Mark struct {
	Name, Release, Note string
	At                  time.Time // zero if it does not say
	Err                 error     // why it cannot be gone back to
}

// Weight is how much a finding matters.
type Weight string

// The weights of findings.
const (
	Fine Weight = "fine"
	Mind Weight = "mind" // to be known before
	Stop Weight = "stop" // it cannot be unlocked so
)

// Finding is one thing that was looked at.
type Finding struct {
	Weight Weight
	Says   say.Message
	Fix    say.Message // what to do about it
}

// ErrNone: nothing on the desk has a lock.
var ErrNone = errors.New("nothing on this desk is under a lock")

// Look reports on a desk, as it is at a time.
func Look(ctx context.Context, d *desk.Desk, now time.Time) (Report, error) {
	d = d.Snapshot()
	s, l := d.Locked()
	if l == nil {
		return Report{}, ErrNone
	}
	r := Report{Surface: s, Release: reading.Release(d, l), Owners: reading.Owners(d, l), Running: RunningOf(d, l), Changed: Changed(d, l)}
	r.Method, r.Has = l.Method(r.Release)
	marks, err := MarksOf(ctx, d, l)
	if err != nil {
		return Report{}, err
	}
	r.Marks = marks
	if w := l.Watchman; w != nil {
		r.Watches = reading.Key(d, w.On, w.On.Key) != "off"
		r.Aside = reading.KeysOf(d, w.Aside)
	}
	r.find(d, l, now)
	return r, nil
}

func (r *Report) find(d *desk.Desk, l *desk.Lock, now time.Time) {
	add := func(w Weight, says, fix say.Message) { r.Found = append(r.Found, Finding{w, says, fix}) }
	title := r.Surface.Title
	switch {
	case r.Release == "":
		add(Stop, say.Of("unlock/no-release", title), say.Message{})
	case !r.Has:
		add(Stop, say.Of("unlock/no-method", title, r.Release), say.Of("unlock/stay-with-signed"))
	default:
		add(Fine, say.Of("unlock/method", title, r.Release, r.Method.Title, r.Method.Does), say.Message{})
	}
	if why := reading.Black(d); why.Code != "" {
		add(Stop, say.Of("unlock/would-be-black", why), say.Of("unlock/take-that-out-first"))
	}
	if r.Running.Black {
		add(Stop, say.Of("unlock/is-black", r.Running.Why), say.Of("unlock/go-back-first"))
	}
	if len(r.Changed) == 0 {
		add(Fine, say.Of("unlock/all-default"), say.Message{})
	} else {
		add(Mind, say.Of("unlock/not-default", len(r.Changed)), say.Of("unlock/defaults-first"))
	}
	switch i := slices.IndexFunc(r.Marks, func(m Mark) bool { return m.Err == nil }); {
	case l.Marks == nil:
	case len(r.Marks) == 0:
		add(Mind, say.Of("unlock/no-mark", title), say.Of("unlock/mark-first"))
	case i < 0:
		add(Mind, say.Of("unlock/broken-mark", title, r.Marks[0].Name, r.Marks[0].Err), say.Of("unlock/mark-first"))
	case r.Marks[i].Release != r.Release:
		add(Mind, say.Of("unlock/old-mark", r.Marks[i].Name, r.Marks[i].Release, r.Release), say.Of("unlock/mark-first"))
	case r.Marks[i].At.IsZero():
		add(Mind, say.Of("unlock/undated-mark", r.Marks[i].Name), say.Of("unlock/mark-first"))
	default:
		add(Fine, say.Of("unlock/mark", r.Marks[i].Name, age(now.Sub(r.Marks[i].At))), say.Message{})
	}
	if w := l.Watchman; w != nil {
		if r.Watches {
			add(Mind, say.Of("unlock/watches", w.Title), say.Of("unlock/told-to-know", w.Title))
		} else {
			add(Fine, say.Of("unlock/does-not-watch", w.Title), say.Message{})
		}
		if len(r.Aside) > 0 {
			add(Mind, say.Of("unlock/set-aside", w.Title, len(r.Aside), d.Show(r.Aside[0])), say.Message{})
		}
	}
}

// age is how old something is, in words.
func age(old time.Duration) string {
	days := int(old.Hours() / 24)
	switch {
	case old < 0:
		return "dated in the future"
	case old < time.Hour:
		return "less than an hour old"
	case days < 1:
		return "of today or yesterday"
	case days == 1:
		return "a day old"
	}
	return fmt.Sprintf("%d days old", days)
}

// RunningOf is how the system came up, by what it says of it.
func RunningOf(d *desk.Desk, l *desk.Lock) Running {
	say := func(src desk.Source) string { return reading.Key(d, src, src.Key) }
	r := Running{Release: say(l.Shown.Release), Refused: say(l.Shown.Refused), Black: say(l.Shown.Black) == "yes", Why: say(l.Shown.Why)}
	if keys := say(l.Shown.Accepts); keys != "" {
		r.Accepts = splitKeys(keys)
	}
	return r
}

func splitKeys(said string) (out []string) {
	at := 0
	for i := range len(said) + 1 {
		if i == len(said) || said[i] == ';' {
			if said[at:i] != "" {
				out = append(out, said[at:i])
			}
			at = i + 1
		}
	}
	return out
}

// Changed is what the surfaces that have to be at their defaults are told otherwise.
func Changed(d *desk.Desk, l *desk.Lock) (out []reading.Reading) {
	for _, id := range l.Defaults {
		s, _ := d.Surface(id)
		for _, f := range s.Facets {
			if r := reading.Told(d, s, f); r.Source.Kind == "file" && d.Mine(r.Source.Path) {
				out = append(out, r)
			}
		}
	}
	return out
}

// MarksOf are the system's own checkpoints, the newest first.
func MarksOf(ctx context.Context, d *desk.Desk, l *desk.Lock) ([]Mark, error) {
	m := l.Marks
	if m == nil {
		return nil, nil
	}
	all, err := fs.ReadDir(d.Tree(), desk.Name(m.Folder))
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, say.Errorf("%s: %w", m.Folder, err)
	}
	var out []Mark
	for _, e := range all {
		if !e.IsDir() {
			continue
		}
		one := Mark{Name: e.Name()}
		b, err := d.Tree().ReadSettings(desk.Name(path.Join(m.Folder, e.Name(), m.File)))
		var kf *keyfile.File
		if err == nil {
			kf, err = keyfile.Parse(b)
		}
		if one.Err = err; err == nil {
			one.Release, one.Note = kf.Get(m.Group, m.Release), kf.Get(m.Group, "note")
			one.At, _ = time.Parse(time.RFC3339, kf.Get(m.Group, m.At)) // one that cannot be read is told as such
			one.Err = whole(ctx, d, path.Join(m.Folder, e.Name(), m.Archive), kf.Get(m.Group, m.Sum))
		}
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		out = append(out, one)
	}
	slices.SortFunc(out, func(a, b Mark) int { return cmp.Or(b.At.Compare(a.At), cmp.Compare(b.Name, a.Name)) })
	return out[:min(len(out), maxMarks)], nil
}

// whole tells whether a file has a SHA-256.
func whole(ctx context.Context, d *desk.Desk, file, sum string) error {
	name, err := d.Tree().Resolve(desk.Name(file))
	if err != nil {
		return err
	}
	f, err := regular.Open(d.HostPath(desk.Path(name)))
	if err != nil {
		return err
	}
	defer f.Close()
	h := sha256.New()
	for left := int64(maxMark); ; {
		n, err := io.CopyN(h, f, 4<<20)
		if left -= n; left < 0 {
			return errors.New("it is too large to be looked at")
		}
		if errors.Is(err, io.EOF) {
			break
		}
		if err = errors.Join(err, ctx.Err()); err != nil {
			return err
		}
	}
	if hex.EncodeToString(h.Sum(nil)) != sum {
		return errors.New("what is kept in it is not what was put there")
	}
	return nil
}
