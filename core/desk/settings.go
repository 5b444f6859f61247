package desk

import "strings"

// SettingsKeeper is the service that keeps the settings which programs ask the desktop
// for, in a database of its own that nobody else writes.
type SettingsKeeper interface {
	// Value is what the person's own database has for a path such as
	// "/org/example/icon-theme", whatever others would answer; the zero Value if it has
	// nothing.
	Value(path string) (Value, error)
	// Answers tells why nothing can be changed now, nil if it can.
	Answers() error
	// Change gives paths values, all of them or none; the zero Value takes one out again. It
	// returns once programs read them so.
	Change(values map[string]Value) error
}

// Value is a value of a setting: its GVariant type and its bytes, little end first. The zero
// value is that of a setting that is not set.
type Value struct {
	Type string
	Data string
}

// settingScheme begins what is said in the stead of a file's path where a setting is meant.
const settingScheme = "dconf:"

// OfSetting names a setting where else a path of the desk stands.
func OfSetting(path string) string { return settingScheme + path }

// Setting is the path of the setting that is named so; ok is false for a path of the desk.
func Setting(name string) (path string, ok bool) { return strings.CutPrefix(name, settingScheme) }

// Told is the desk as it would be with other values of settings, besides those it is laid
// with already.
func (d *Desk) Told(values map[string]Value) *Desk {
	out := *d
	out.snapshot, out.told = nil, map[string]Value{}
	for _, of := range []map[string]Value{d.told, values} {
		for path, v := range of {
			out.told[path] = v
		}
	}
	return &out
}

// WouldBe is the value that a setting has on a desk that is only looked at, see [Desk.Told];
// ok is false if it is as it is.
func (d *Desk) WouldBe(path string) (v Value, ok bool) {
	v, ok = d.told[path]
	return v, ok
}
