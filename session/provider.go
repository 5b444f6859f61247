package session

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"

	"github.com/jezek/xgb"
	"github.com/jezek/xgb/xproto"

	"ivelt/core/xsettings"
)

// The ways in which a provider ends, or does not begin.
var (
	ErrProvided = errors.New("another provider of XSETTINGS is on the display")
	ErrTaken    = errors.New("another provider has taken over")
)

const (
	selection = "_XSETTINGS_S0"
	property  = "_XSETTINGS_SETTINGS"
	ownMark   = "_IVELT_SESSION" // a property of our window, by which it is known
)

// usual is what programs have where nothing tells them (gtksettings.c of GTK 3.24; default is
// Xcursor's name for the display's own pointers). Toolkits keep what they were told of a
// setting that is not provided any more, until they are started again: they are told this.
var usual = xsettings.Settings{
	"Net/ThemeName": "Adwaita", "Net/IconThemeName": "Adwaita", "Gtk/CursorThemeName": "default", "Gtk/CursorThemeSize": int32(0),
	"Gtk/FontName": "Sans 10", "Gtk/DecorationLayout": "menu:minimize,maximize,close",
}

// Provide keeps settings on the first screen of a display, as its provider of XSETTINGS
// (XSETTINGS 0.5; ICCCM 2.8, "Manager selections"), until ctx ends or another takes over.
// It never takes over from another. read gives the settings; each time changed tells so,
// they are read again, and those that cannot be read leave the old in place.
func Provide(ctx context.Context, display string, read func() (xsettings.Settings, error), changed <-chan struct{}, trouble func(error)) error {
	xgb.Logger.SetOutput(io.Discard)
	x, err := xgb.NewConnDisplay(display)
	if err != nil {
		return fmt.Errorf("%w: %w", ErrDisplay, err)
	}
	defer x.Close()
	p := provider{x: x, root: xproto.Setup(x).Roots[0].Root, atoms: map[string]xproto.Atom{}}
	for _, name := range []string{selection, property, ownMark, "MANAGER"} {
		atom, err := xproto.InternAtom(x, false, uint16(len(name)), name).Reply()
		if err != nil {
			return err
		}
		p.atoms[name] = atom.Atom
	}
	settings, err := read()
	if err != nil {
		return err
	}
	if err := p.begin(settings); err != nil {
		return err
	}
	events := make(chan xgb.Event)
	go func() { // ends with the connection
		defer close(events)
		for {
			e, err := x.WaitForEvent()
			if e == nil && err == nil {
				return
			}
			select {
			case events <- e:
			case <-ctx.Done():
				return
			}
		}
	}()
	for {
		select {
		case <-ctx.Done():
			return nil
		case e, ok := <-events:
			if !ok {
				return fmt.Errorf("%w any more", ErrDisplay)
			}
			if _, lost := e.(xproto.SelectionClearEvent); lost {
				return ErrTaken
			}
		case <-changed:
			now, err := read()
			if err == nil {
				for name := range settings {
					if v, ok := usual[name]; ok && now[name] == nil {
						now[name] = v
					}
				}
				settings = now
				err = p.put(now)
			}
			if err != nil {
				trouble(err)
			}
		}
	}
}

type provider struct {
	x      *xgb.Conn
	root   xproto.Window
	window xproto.Window
	atoms  map[string]xproto.Atom
}

// begin takes the selection, if nobody has it.
func (p *provider) begin(s xsettings.Settings) error {
	var err error
	if p.window, err = xproto.NewWindowId(p.x); err != nil {
		return err
	}
	if err := xproto.CreateWindowChecked(p.x, 0, p.window, p.root, -1, -1, 1, 1, 0, xproto.WindowClassInputOnly, 0, xproto.CwEventMask, []uint32{xproto.EventMaskPropertyChange}).Check(); err != nil {
		return err
	}
	if err := p.put(s); err != nil {
		return err
	}
	if err := xproto.ChangePropertyChecked(p.x, xproto.PropModeReplace, p.window, p.atoms[ownMark], xproto.AtomString, 8, 1, []byte("1")).Check(); err != nil {
		return err
	}
	at, err := p.serverTime()
	if err != nil {
		return err
	}
	// Nobody else comes in between the asking and the taking.
	if err := xproto.GrabServerChecked(p.x).Check(); err != nil {
		return err
	}
	defer xproto.UngrabServer(p.x)
	owner, err := xproto.GetSelectionOwner(p.x, p.atoms[selection]).Reply()
	if err != nil {
		return err
	}
	if owner.Owner != xproto.WindowNone {
		return ErrProvided
	}
	if err := xproto.SetSelectionOwnerChecked(p.x, p.window, p.atoms[selection], at).Check(); err != nil {
		return err
	}
	told := xproto.ClientMessageEvent{
		Format: 32, Window: p.root, Type: p.atoms["MANAGER"],
		Data: xproto.ClientMessageDataUnionData32New([]uint32{uint32(at), uint32(p.atoms[selection]), uint32(p.window), 0, 0}),
	}
	return xproto.SendEventChecked(p.x, false, p.root, xproto.EventMaskStructureNotify, string(told.Bytes())).Check()
}

// put gives the window the settings.
func (p *provider) put(s xsettings.Settings) error {
	b := s.Bytes()
	binary.LittleEndian.PutUint32(b[4:], uint32(len(b))) // a serial number: of no meaning to whom we know
	return xproto.ChangePropertyChecked(p.x, xproto.PropModeReplace, p.window, p.atoms[property], p.atoms[property], 8, uint32(len(b)), b).Check()
}

// serverTime is the display's time, which the event of a change of a property has.
func (p *provider) serverTime() (xproto.Timestamp, error) {
	if err := xproto.ChangePropertyChecked(p.x, xproto.PropModeAppend, p.window, p.atoms[ownMark], xproto.AtomString, 8, 0, nil).Check(); err != nil {
		return 0, err
	}
	for {
		e, err := p.x.WaitForEvent()
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
