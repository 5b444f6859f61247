package session

import (
	"context"

	"github.com/godbus/dbus/v5"
)

// The portal that tells programs of the desktop's settings (XDG Desktop Portal,
// org.freedesktop.portal.Settings: SettingChanged(namespace, key, value)).
const (
	settingsPortal = "org.freedesktop.portal.Settings"
	portalPath     = "/org/freedesktop/portal/desktop"
	appearance     = "org.freedesktop.appearance"
	colourScheme   = "color-scheme"
)

// Shades tells each time that the desk's own shade turns, as the portal of settings says,
// until ctx ends. Without a bus nothing is ever told.
func Shades(ctx context.Context, address string) <-chan struct{} {
	turned := make(chan struct{}, 1)
	if address == "" {
		return turned
	}
	bus, err := dbus.Connect(address, dbus.WithContext(ctx))
	if err != nil {
		return turned
	}
	err = bus.AddMatchSignalContext(ctx, dbus.WithMatchInterface(settingsPortal), dbus.WithMatchMember("SettingChanged"),
		dbus.WithMatchObjectPath(portalPath), dbus.WithMatchArg(0, appearance), dbus.WithMatchArg(1, colourScheme))
	if err != nil {
		_ = bus.Close()
		return turned
	}
	heard := make(chan *dbus.Signal, 16)
	bus.Signal(heard)
	go func() {
		defer bus.Close()
		for {
			select {
			case <-ctx.Done():
				return
			case s, ok := <-heard:
				if !ok || s == nil {
					return
				}
				select {
				case turned <- struct{}{}:
				default:
				}
			}
		}
	}()
	return turned
}
