// Package session tells what runs on this computer's own desk: what a provider
// of XSETTINGS and the X resources say on its display, and when the person
// signed in. It only asks.
package session

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/jezek/xgb"
	"github.com/jezek/xgb/xproto"

	"ivelt/core/desk"
	"ivelt/core/xsettings"
)

// Fresh is how long an answer of the display is taken for the present one.
const Fresh = time.Second

// Of returns what tells of the session on a display, ":0"; without one only the
// time of signing in is told. What cannot be learned is left out.
func Of(display string) func() desk.Session {
	var (
		lock sync.Mutex
		last desk.Session
		at   time.Time
	)
	started := Started()
	return func() desk.Session {
		lock.Lock()
		defer lock.Unlock()
		if now := time.Now(); now.Sub(at) > Fresh {
			last, _ = Ask(display)
			last.Started, at = started, now
		}
		return last
	}
}

// ErrDisplay: the display does not answer.
var ErrDisplay = errors.New("the display does not answer")

// maxProperty bounds what is read of a property, in units of four bytes.
const maxProperty = 1 << 20

// Ask asks a display what it has (XSETTINGS, "Locating the settings"; the
// resources are the property RESOURCE_MANAGER of its first screen's root, see
// xrdb(1)). Errors wrap [ErrDisplay].
func Ask(display string) (desk.Session, error) {
	if display == "" {
		return desk.Session{}, ErrDisplay
	}
	xgb.Logger.SetOutput(io.Discard) // what it says goes to nobody who could act on it
	x, err := xgb.NewConnDisplay(display)
	if err != nil {
		return desk.Session{}, fmt.Errorf("%w: %w", ErrDisplay, err)
	}
	defer x.Close()
	var out desk.Session
	setup := xproto.Setup(x)
	root := setup.Roots[0].Root
	property := func(of xproto.Window, name string) []byte {
		atom, err := xproto.InternAtom(x, true, uint16(len(name)), name).Reply()
		if err != nil || atom.Atom == xproto.AtomNone {
			return nil
		}
		p, err := xproto.GetProperty(x, false, of, atom.Atom, xproto.GetPropertyTypeAny, 0, maxProperty).Reply()
		if err != nil || p.Type == xproto.AtomNone {
			return nil
		}
		return p.Value
	}
	if out.Resources = property(root, "RESOURCE_MANAGER"); out.Resources == nil {
		out.Resources = []byte{}
	}
	if atom, err := xproto.InternAtom(x, true, uint16(len(selection)), selection).Reply(); err == nil && atom.Atom != xproto.AtomNone {
		owner, err := xproto.GetSelectionOwner(x, atom.Atom).Reply()
		if err == nil && owner.Owner != xproto.WindowNone {
			out.XSettings, _ = xsettings.Parse(property(owner.Owner, "_XSETTINGS_SETTINGS"))
			out.Own = property(owner.Owner, ownMark) != nil
		}
	}
	return out, nil
}

// Started is when the person signed in: when the first of the processes from
// which this one descends, and which are the person's, was started; zero if
// that cannot be learned (proc(5)).
func Started() time.Time {
	var out time.Time
	uid := uint32(os.Getuid())
	for pid := os.Getpid(); pid > 1; {
		dir := filepath.Join("/proc", strconv.Itoa(pid))
		fi, err := os.Stat(dir)
		if err != nil {
			break
		}
		if st, ok := fi.Sys().(*syscall.Stat_t); !ok || st.Uid != uid {
			break
		}
		parent, ticks, ok := started(dir)
		if !ok {
			break
		}
		if booted := bootTime(); !booted.IsZero() {
			out = booted.Add(time.Duration(ticks) * time.Second / clockTicks)
		}
		pid = parent
	}
	return out
}

// clockTicks of a second; Linux tells times to programs in these.
const clockTicks = 100

func bootTime() time.Time {
	b, err := os.ReadFile("/proc/stat")
	if err != nil {
		return time.Time{}
	}
	for line := range strings.Lines(string(b)) {
		if rest, ok := strings.CutPrefix(line, "btime "); ok {
			if n, err := strconv.ParseInt(strings.TrimSpace(rest), 10, 64); err == nil {
				return time.Unix(n, 0)
			}
		}
	}
	return time.Time{}
}
