package session

import (
	"context"
	"errors"
	"fmt"
	"io"
	"reflect"

	"github.com/jezek/xgb"
	"github.com/jezek/xgb/xproto"

	"ivelt/core/desk"
)

// The ways in which [Hold] ends, or does not begin.
var (
	ErrProvided = errors.New("another provider of XSETTINGS is on the display")
	ErrTaken    = errors.New("another provider has taken over")
)

// Hold keeps a display as its owner's file says, until ctx ends or another takes over: as
// the provider of XSETTINGS of its first screen, in its X resources and in the pointer over
// its background. It never takes over from another. Each time changed tells so, the file is
// read again; one that cannot be read leaves the old in place. Troubles are told, and do
// not end it.
func Hold(ctx context.Context, d *desk.Desk, read func() (desk.Held, error), changed <-chan struct{}, trouble func(error)) error {
	x, err := open(d.Env["DISPLAY"])
	if err != nil {
		return err
	}
	defer x.Close()
	held, err := read()
	if err != nil {
		return err
	}
	p := provider{display: x, desk: d}
	if err := p.begin(held.XSettings); err != nil { // which tells the usual too, of what was told before it
		return err
	}
	arrow := rootPointer{display: x, desk: d}
	rest := func() {
		for _, err := range []error{x.load(held.Resources), arrow.show(held)} {
			if err != nil && !errors.Is(err, io.EOF) { // without a display it ends, which the events tell
				trouble(err)
			}
		}
	}
	rest()
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
			if !ok && ctx.Err() != nil {
				return nil
			}
			if !ok {
				return fmt.Errorf("%w any more", ErrDisplay)
			}
			if _, lost := e.(xproto.SelectionClearEvent); lost {
				return ErrTaken
			}
		case <-changed:
			now, err := read()
			if err != nil {
				trouble(err)
				continue
			}
			same := reflect.DeepEqual(held, now)
			if held = now; p.put(held.XSettings) != nil || same {
				continue // the display is gone, which the events tell; or only other files changed
			}
			rest()
		}
	}
}

// display is a connection to an X display.
type display struct {
	*xgb.Conn
	root xproto.Window // of its first screen
}

// open connects to one. Errors wrap [ErrDisplay].
func open(name string) (*display, error) {
	if name == "" {
		return nil, ErrDisplay
	}
	xgb.Logger.SetOutput(io.Discard) // what it says goes to nobody who could act on it
	x, err := xgb.NewConnDisplay(name)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDisplay, err)
	}
	return &display{Conn: x, root: xproto.Setup(x).Roots[0].Root}, nil
}

// atom is the number of a name on the display, which is made if it is not there.
func (x *display) atom(name string) (xproto.Atom, error) {
	a, err := xproto.InternAtom(x.Conn, false, uint16(len(name)), name).Reply()
	if err != nil {
		return 0, fmt.Errorf("%w: %w", ErrDisplay, err)
	}
	return a.Atom, nil
}

// maxProperty bounds what is read of a property, in units of four bytes.
const maxProperty = 1 << 20

// property is what a window says, nil for nothing.
func (x *display) property(of xproto.Window, name string) []byte {
	atom, err := x.atom(name)
	if err != nil {
		return nil
	}
	p, err := xproto.GetProperty(x.Conn, false, of, atom, xproto.GetPropertyTypeAny, 0, maxProperty).Reply()
	if err != nil || p.Type == xproto.AtomNone {
		return nil
	}
	return p.Value
}

// setText sets a property of a window to a text; an empty one takes it away.
func (x *display) setText(of xproto.Window, name string, text []byte) error {
	atom, err := x.atom(name)
	if err != nil {
		return err
	}
	if len(text) == 0 {
		return xproto.DeletePropertyChecked(x.Conn, of, atom).Check()
	}
	return xproto.ChangePropertyChecked(x.Conn, xproto.PropModeReplace, of, atom, xproto.AtomString, 8, uint32(len(text)), text).Check()
}
