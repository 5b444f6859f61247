package session

import (
	"bytes"
	"encoding/binary"
	"maps"
	"slices"
	"strings"

	"github.com/jezek/xgb/xproto"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/core/xsettings"
)

const (
	selection = "_XSETTINGS_S0"
	property  = "_XSETTINGS_SETTINGS"
	ownMark   = "_IVELT_SESSION" // a property of our window, by which it is known
	// wasTold are the names of what programs were told of, a line each. It lies on the
	// display, so that it is known whoever is killed meanwhile.
	wasTold = "_IVELT_TOLD"
)

// usual is what programs have where nothing tells them (gtksettings.c of GTK 3.24; default is
// Xcursor's name for the display's own pointers).
var usual = xsettings.Settings{
	"Net/ThemeName": "Adwaita", "Net/IconThemeName": "Adwaita", "Gtk/CursorThemeName": "default", "Gtk/CursorThemeSize": int32(0),
	"Gtk/FontName": "Sans 10", "Gtk/DecorationLayout": "menu:minimize,maximize,close",
}

// without is what programs would read of a setting if no provider had it: what their files
// say, of GTK 3 before that of GTK 4, else the usual; nil if that is not known. Toolkits keep
// what they were told of a setting that is not provided any more, until they are started
// again: they are told this.
func (p *provider) without(name string) any {
	bare := *p.desk
	bare.Running = nil
	d := bare.Snapshot()
	for _, id := range []string{"gtk3", "gtk4"} {
		s, _ := d.Surface(id)
		for _, f := range s.Facets {
			i := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return src.Format == "xsettings" && src.Key == name })
			if i < 0 {
				continue
			}
			if r := reading.Told(d, s, f); r.Source.Kind == "file" {
				if v := desk.XSetting(name, reading.Written(f, f.Sources[i], r.Value)); v != nil {
					return v
				}
			}
		}
	}
	return usual[name]
}

// provider is a provider of XSETTINGS (XSETTINGS 0.5; ICCCM 2.8, "Manager selections").
type provider struct {
	*display
	desk   *desk.Desk
	told   []byte // last
	window xproto.Window
}

// begin takes the selection, if nobody has it.
func (p *provider) begin(s xsettings.Settings) error {
	of, err := p.atom(selection)
	if err != nil {
		return err
	}
	manager, err := p.atom("MANAGER")
	if err != nil {
		return err
	}
	if p.window, err = xproto.NewWindowId(p.Conn); err != nil {
		return err
	}
	if err := xproto.CreateWindowChecked(p.Conn, 0, p.window, p.root, -1, -1, 1, 1, 0, xproto.WindowClassInputOnly, 0, xproto.CwEventMask, []uint32{xproto.EventMaskPropertyChange}).Check(); err != nil {
		return err
	}
	if err := p.put(s); err != nil {
		return err
	}
	if err := p.setText(p.window, ownMark, []byte("1")); err != nil {
		return err
	}
	at, err := p.serverTime()
	if err != nil {
		return err
	}
	// Nobody else comes in between the asking and the taking.
	if err := xproto.GrabServerChecked(p.Conn).Check(); err != nil {
		return err
	}
	defer xproto.UngrabServer(p.Conn)
	owner, err := xproto.GetSelectionOwner(p.Conn, of).Reply()
	if err != nil {
		return err
	}
	if owner.Owner != xproto.WindowNone {
		return ErrProvided
	}
	if err := xproto.SetSelectionOwnerChecked(p.Conn, p.window, of, at).Check(); err != nil {
		return err
	}
	told := xproto.ClientMessageEvent{
		Format: 32, Window: p.root, Type: manager,
		Data: xproto.ClientMessageDataUnionData32New([]uint32{uint32(at), uint32(of), uint32(p.window), 0, 0}),
	}
	return xproto.SendEventChecked(p.Conn, false, p.root, xproto.EventMaskStructureNotify, string(told.Bytes())).Check()
}

// put gives the window the settings, and of those that programs were told before what they
// would have without.
func (p *provider) put(s xsettings.Settings) error {
	kind, err := p.atom(property)
	if err != nil {
		return err
	}
	s = maps.Clone(s)
	for name := range strings.Lines(string(p.property(p.root, wasTold))) {
		name = strings.TrimSuffix(name, "\n")
		if s[name] != nil {
			continue
		}
		if v := p.without(name); v != nil {
			s[name] = v
		}
	}
	var told []byte
	for _, name := range slices.Sorted(maps.Keys(s)) {
		told = append(told, name+"\n"...)
	}
	if err := p.setText(p.root, wasTold, told); err != nil {
		return err
	}
	b := s.Bytes()
	if bytes.Equal(b, p.told) {
		return nil
	}
	p.told = slices.Clone(b)
	binary.LittleEndian.PutUint32(b[4:], uint32(len(b))) // a serial number: of no meaning to whom we know
	return xproto.ChangePropertyChecked(p.Conn, xproto.PropModeReplace, p.window, kind, kind, 8, uint32(len(b)), b).Check()
}

// serverTime is the display's time, which the event of a change of a property has.
func (p *provider) serverTime() (xproto.Timestamp, error) {
	mark, err := p.atom(ownMark)
	if err != nil {
		return 0, err
	}
	if err := xproto.ChangePropertyChecked(p.Conn, xproto.PropModeAppend, p.window, mark, xproto.AtomString, 8, 0, nil).Check(); err != nil {
		return 0, err
	}
	for {
		e, err := p.WaitForEvent()
		if err != nil {
			return 0, err
		}
		if e == nil {
			return 0, ErrDisplay
		}
		if n, ok := e.(xproto.PropertyNotifyEvent); ok && n.Window == p.window {
			return n.Time, nil
		}
	}
}
