package desk

import (
	"errors"
	"io/fs"
	"strconv"
	"strings"
	"time"

	"ivelt/core/keyfile"
	"ivelt/core/xresources"
	"ivelt/core/xsettings"
)

// Session is what is known of the session that runs on a desk, besides its
// environment.
type Session struct {
	XSettings xsettings.Settings // what a provider has on the display; nil if there is none
	Own       bool               // the provider is Ivelt's, see [SessionFile]
	Resources []byte             // the X resources that are loaded; nil if that is not known
	Started   time.Time          // zero if that is not known
	Monitors  []Monitor          // as the display says that they stand; nil if that is not known
}

// Program is a running program that the toolkit of a surface draws.
type Program struct {
	PID     int
	Name    string
	Surface string // its ID
	Since   time.Time
}

// Where Ivelt's own provider takes from what it tells the display and its programs: a key
// file, with a group of XSETTINGS and one of X resources, each by its name, and one of the
// pointer set over the background.
const (
	SessionFile       = "{config}/ivelt/session.conf"
	SessionGroup      = "XSettings"
	SessionResources  = "XResources"
	SessionPointer    = "Pointer"
	SessionPointerSet = "Set"
)

// Held is what Ivelt's own provider tells the display and its programs.
type Held struct {
	XSettings xsettings.Settings
	Resources map[string]string // X resources, by name
	Pointer   string            // the pointer set over the background; "" leaves it as it is
}

// numbers are the settings that are whole numbers (the registry of XSETTINGS names,
// freedesktop.org; gdksettings.c of GTK 3.24); all others are text.
var numbers = map[string]bool{
	"Gtk/CursorThemeSize": true, "Xft/Antialias": true, "Xft/Hinting": true, "Xft/DPI": true, "Net/EnableEventSounds": true,
	"Net/DoubleClickTime": true, "Net/CursorBlink": true, "Net/CursorBlinkTime": true, "Gtk/EnableAnimations": true,
}

// XSetting is a text as the value of a setting; nil for one that is to be a number and is
// none.
func XSetting(name, text string) any {
	if !numbers[name] {
		return text
	}
	n, err := strconv.ParseInt(text, 10, 32)
	if err != nil {
		return nil
	}
	return int32(n)
}

// ParseHeld reads such a file. A number that is none is left out, so that programs have
// their own. An error means that it is no key file.
func ParseHeld(b []byte) (Held, error) {
	out := Held{XSettings: xsettings.Settings{}, Resources: map[string]string{}}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return out, err
	}
	for _, e := range kf.Entries(SessionGroup) {
		if v := XSetting(e.Key, keyfile.Unescape(e.Value)); v != nil {
			out.XSettings[e.Key] = v
		}
	}
	for _, e := range kf.Entries(SessionResources) {
		if text := keyfile.Unescape(e.Value); !strings.ContainsAny(e.Key+text, "\n=:") {
			out.Resources[e.Key] = text
		}
	}
	out.Pointer = keyfile.Unescape(kf.Get(SessionPointer, SessionPointerSet))
	return out, nil
}

// Now is what is known of the desk's session, asked once for one go through its readings. A
// desk that is only looked at, see [Desk.Laid] and [Desk.Settled], has what Ivelt's own
// provider would make of its files.
func (d *Desk) Now() Session {
	if d.Running == nil {
		return Session{}
	}
	return Once(d, "session", func() Session {
		now := d.Running()
		if !now.Own || !d.settled && d.Front == "" && len(d.Gone) == 0 {
			return now
		}
		b, err := d.Tree().ReadSettings(Name(d.First(SessionFile)))
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return now
		}
		held, err := ParseHeld(b)
		if err != nil {
			return now
		}
		now.XSettings = held.XSettings
		for name, value := range held.Resources {
			now.Resources = xresources.Set(now.Resources, name, value)
		}
		return now
	})
}

// Settled is the desk once Ivelt's own provider has told programs what its file says, which
// is a moment after that was written: what plans start from.
func (d *Desk) Settled() *Desk {
	out := *d
	out.snapshot, out.settled = nil, true
	return &out
}

// Display is where the desk's programs draw: "wayland", with a compositor, or
// "x11". GDK_BACKEND decides for GTK, else the session has a compositor if it
// says so (GTK reference, "Running GTK applications"; XDG_SESSION_TYPE is
// pam_systemd(8)'s). A desk that says nothing is taken as one on X.
func (d *Desk) Display() string {
	if v, ok := d.Var("GDK_BACKEND"); ok {
		for backend := range strings.SplitSeq(v.Value, ",") {
			if backend == "x11" || backend == "wayland" {
				return backend
			}
		}
	}
	if v, ok := d.Var("WAYLAND_DISPLAY"); ok && v.Value != "" {
		return "wayland"
	}
	if v, ok := d.Var("XDG_SESSION_TYPE"); ok && v.Value == "wayland" {
		return "wayland"
	}
	return "x11"
}
