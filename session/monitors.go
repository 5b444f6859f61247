package session

import (
	"image"

	"github.com/jezek/xgb/randr"
	"github.com/jezek/xgb/xproto"

	"ivelt/core/desk"
)

// maxMonitors bounds how many monitors a display is asked about.
const maxMonitors = 32

// monitors are those of the display, as they stand, in px as they are turned (X Resize, Rotate and Reflect Extension, 1.5,
// "RRGetMonitors"); nil if it cannot tell.
func (x *display) monitors() (out []desk.Monitor) {
	if !x.hasRandR() {
		return nil
	}
	if v, err := randr.QueryVersion(x.Conn, 1, 5).Reply(); err != nil || v.MajorVersion == 1 && v.MinorVersion < 5 {
		return nil
	}
	all, err := randr.GetMonitors(x.Conn, x.root, true).Reply()
	if err != nil {
		return nil
	}
	for _, info := range all.Monitors[:min(len(all.Monitors), maxMonitors)] {
		name, err := xproto.GetAtomName(x.Conn, info.Name).Reply()
		if err != nil || info.Width == 0 || info.Height == 0 || len(info.Outputs) == 0 {
			continue // toolkits pass over what nothing shows
		}
		out = append(out, desk.Monitor{Name: name.Name, Width: int(info.Width), Height: int(info.Height), At: image.Pt(int(info.X), int(info.Y))})
	}
	return out
}

// hasRandR looks for the extension. The library's own way to do so writes what all connections of the
// process read, without a lock; what it would add is for events, and for errors of requests that are not
// made here.
func (x *display) hasRandR() bool {
	const name = "RANDR"
	reply, err := xproto.QueryExtension(x.Conn, uint16(len(name)), name).Reply()
	if err != nil || !reply.Present {
		return false
	}
	x.ExtLock.Lock()
	x.Extensions[name] = reply.MajorOpcode
	x.ExtLock.Unlock()
	return true
}
