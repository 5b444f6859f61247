package desk

import (
	"strings"
	"time"

	"ivelt/core/xsettings"
)

// Session is what is known of the session that runs on a desk, besides its
// environment.
type Session struct {
	XSettings xsettings.Settings // what a provider has on the display; nil if there is none
	Own       bool               // the provider is Ivelt's, see [SessionFile]
	Resources []byte             // the X resources that are loaded; nil if that is not known
	Started   time.Time          // zero if that is not known
}

// Program is a running program that the toolkit of a surface draws.
type Program struct {
	PID     int
	Name    string
	Surface string // its ID
	Since   time.Time
}

// Where Ivelt's own provider of XSETTINGS takes them from: a key file and the group in it,
// each setting by its name.
const (
	SessionFile  = "{config}/ivelt/session.conf"
	SessionGroup = "XSettings"
)

// Now is what is known of the desk's session.
func (d *Desk) Now() Session {
	if d.Running == nil {
		return Session{}
	}
	return d.Running()
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
