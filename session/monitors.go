package session

import (
	"image"

	"github.com/jezek/xgb/randr"
	"github.com/jezek/xgb/xproto"

	"ivelt/core/desk"
)

// maxMonitors bounds how many monitors a display is asked about.
const maxMonitors = 32

// monitors are those of the display, as they stand (X Resize, Rotate and Reflect Extension, 1.5,
// "RRGetMonitors"); nil if it cannot tell.
func (x *display) monitors() (out []desk.Monitor) {
	if randr.Init(x.Conn) != nil {
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
		m := desk.Monitor{Name: name.Name, Width: int(info.Width), Height: int(info.Height), At: image.Pt(int(info.X), int(info.Y))}
		m.Turned = x.turned(info.Outputs[0], all.Timestamp)
		out = append(out, m)
	}
	return out
}

// turned is by how many quarters what an output shows is turned clockwise: the protocol's turns go the
// other way round (the same, "RRGetCrtcInfo").
func (x *display) turned(of randr.Output, at xproto.Timestamp) int {
	output, err := randr.GetOutputInfo(x.Conn, of, at).Reply()
	if err != nil || output.Crtc == 0 {
		return 0
	}
	crtc, err := randr.GetCrtcInfo(x.Conn, output.Crtc, at).Reply()
	if err != nil {
		return 0
	}
	switch {
	case crtc.Rotation&randr.RotationRotate90 != 0:
		return 3
	case crtc.Rotation&randr.RotationRotate180 != 0:
		return 2
	case crtc.Rotation&randr.RotationRotate270 != 0:
		return 1
	}
	return 0
}
