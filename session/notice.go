package session

import (
	"context"
	"errors"
	"fmt"
	"html"
	"slices"

	"github.com/godbus/dbus/v5"
)

const (
	notices     = "org.freedesktop.Notifications"
	noticesPath = "/org/freedesktop/Notifications"
)

// ErrNoNotices: nobody on the session's bus shows notifications.
var ErrNoNotices = errors.New("nobody shows notifications")

// Notify shows one notification (Desktop Notifications Specification 1.2) and waits until it
// is gone or ctx ends. It reports whether the person chose what it offers. address is the
// bus's. Without a service for it the error wraps [ErrNoNotices].
func Notify(ctx context.Context, address, title, text, offer string) (chosen bool, err error) {
	if address == "" {
		return false, ErrNoNotices
	}
	bus, err := dbus.Connect(address, dbus.WithContext(ctx))
	if err != nil {
		return false, fmt.Errorf("%w: %w", ErrNoNotices, err)
	}
	defer bus.Close()
	if err := bus.AddMatchSignalContext(ctx, dbus.WithMatchInterface(notices), dbus.WithMatchObjectPath(noticesPath)); err != nil {
		return false, err
	}
	heard := make(chan *dbus.Signal, 16)
	bus.Signal(heard)
	service := bus.Object(notices, noticesPath)
	var can []string
	if err := service.CallWithContext(ctx, notices+".GetCapabilities", 0).Store(&can); err != nil {
		return false, fmt.Errorf("%w: %w", ErrNoNotices, err)
	}
	if slices.Contains(can, "body-markup") {
		text = html.EscapeString(text)
	}
	var actions []string
	if slices.Contains(can, "actions") {
		actions = []string{"default", offer}
	}
	var id uint32
	if err := service.CallWithContext(ctx, notices+".Notify", 0, "Ivelt", uint32(0), "", title, text, actions, map[string]dbus.Variant{"category": dbus.MakeVariant("device")}, int32(-1)).Store(&id); err != nil {
		return false, err
	}
	for {
		select {
		case <-ctx.Done():
			return false, nil
		case s, ok := <-heard:
			if !ok || s == nil {
				return false, nil // the bus is gone, and with it the notification
			}
			if len(s.Body) == 0 || s.Body[0] != id {
				continue
			}
			switch s.Name {
			case notices + ".ActionInvoked":
				return true, nil
			case notices + ".NotificationClosed":
				return false, nil
			}
		}
	}
}
