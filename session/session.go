// Package session is what Ivelt has to do with the session that runs on this
// computer: what its display, its programs and the service of its settings say,
// and, where nobody else does, telling them.
package session

import (
	"errors"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jezek/xgb/xproto"

	"ivelt/core/desk"
	"ivelt/core/xsettings"
)

// Of returns what tells of the session on a display, ":0", each time anew; without one only
// the time of signing in is told. What cannot be learned is left out.
func Of(display string) func() desk.Session {
	started := Started()
	return func() desk.Session {
		now, _ := Ask(display)
		now.Started = started
		return now
	}
}

// ErrDisplay: the display does not answer.
var ErrDisplay = errors.New("the display does not answer")

// Ask asks a display what it has (XSETTINGS, "Locating the settings"; the
// resources are the property RESOURCE_MANAGER of its first screen's root, see
// xrdb(1)). Errors wrap [ErrDisplay].
func Ask(name string) (desk.Session, error) {
	x, err := open(name)
	if err != nil {
		return desk.Session{}, err
	}
	defer x.Close()
	var out desk.Session
	if out.Resources = x.property(x.root, loaded); out.Resources == nil {
		out.Resources = []byte{}
	}
	out.Monitors = x.monitors()
	atom, err := x.atom(selection)
	if err != nil {
		return out, err
	}
	owner, err := xproto.GetSelectionOwner(x.Conn, atom).Reply()
	if err == nil && owner.Owner != xproto.WindowNone {
		out.XSettings, _ = xsettings.Parse(x.property(owner.Owner, property))
		out.Own = x.property(owner.Owner, ownMark) != nil
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
