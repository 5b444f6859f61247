// Package xsettings reads and writes the settings that a provider keeps on an X
// display for all its programs (XSETTINGS, freedesktop.org, version 0.5: the
// property _XSETTINGS_SETTINGS of the owner of the selection _XSETTINGS_Sn).
package xsettings

import (
	"encoding/binary"
	"errors"
	"fmt"
	"maps"
	"slices"
)

// ErrSettings: the bytes are no settings, or are cut off.
var ErrSettings = errors.New("these are no XSETTINGS, or damaged ones")

// Colour is red, green, blue and opacity, each from 0 to 65535.
type Colour [4]uint16

// Settings are the values by name, "Net/ThemeName": int32, string or [Colour].
type Settings map[string]any

const (
	kindInteger = 0
	kindString  = 1
	kindColour  = 2

	maxSettings = 10_000
)

// Parse reads the bytes of the property.
func Parse(b []byte) (Settings, error) {
	if len(b) < 12 {
		return nil, ErrSettings
	}
	var order binary.ByteOrder = binary.LittleEndian
	switch b[0] {
	case 0:
	case 1:
		order = binary.BigEndian
	default:
		return nil, fmt.Errorf("%w: byte order %d is not known", ErrSettings, b[0])
	}
	n := order.Uint32(b[8:])
	if n > maxSettings {
		return nil, fmt.Errorf("%w: %d of them", ErrSettings, n)
	}
	at := 12
	take := func(size int) []byte {
		if size < 0 || at+size > len(b) {
			return nil
		}
		at += size
		return b[at-size : at]
	}
	padded := func(size int) []byte {
		v := take(size)
		if take(-size&3) == nil {
			return nil
		}
		return v
	}
	out := Settings{}
	for range n {
		head := take(4)
		if head == nil {
			return nil, ErrSettings
		}
		name := padded(int(order.Uint16(head[2:])))
		if name == nil || take(4) == nil { // the serial number of the last change
			return nil, ErrSettings
		}
		switch head[0] {
		case kindInteger:
			v := take(4)
			if v == nil {
				return nil, ErrSettings
			}
			out[string(name)] = int32(order.Uint32(v))
		case kindString:
			size := take(4)
			if size == nil || order.Uint32(size) > uint32(len(b)) {
				return nil, ErrSettings
			}
			v := padded(int(order.Uint32(size)))
			if v == nil {
				return nil, ErrSettings
			}
			out[string(name)] = string(v)
		case kindColour:
			v := take(8)
			if v == nil {
				return nil, ErrSettings
			}
			out[string(name)] = Colour{order.Uint16(v), order.Uint16(v[2:]), order.Uint16(v[4:]), order.Uint16(v[6:])}
		default:
			return nil, fmt.Errorf("%w: kind %d is not known", ErrSettings, head[0])
		}
	}
	return out, nil
}

// Bytes are the settings as the property holds them, little end first, by name.
func (s Settings) Bytes() []byte {
	le := binary.LittleEndian
	out := le.AppendUint32(make([]byte, 8), uint32(len(s)))
	padded := func(text string) {
		out = append(out, text...)
		out = append(out, make([]byte, -len(text)&3)...)
	}
	for _, name := range slices.Sorted(maps.Keys(s)) {
		kind := byte(kindInteger)
		switch s[name].(type) {
		case string:
			kind = kindString
		case Colour:
			kind = kindColour
		}
		out = append(out, kind, 0)
		out = le.AppendUint16(out, uint16(len(name)))
		padded(name)
		out = le.AppendUint32(out, 0)
		switch v := s[name].(type) {
		case int32:
			out = le.AppendUint32(out, uint32(v))
		case string:
			out = le.AppendUint32(out, uint32(len(v)))
			padded(v)
		case Colour:
			for _, c := range v {
				out = le.AppendUint16(out, c)
			}
		}
	}
	return out
}
