package plan

import (
	"encoding/base64"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gvariant"
	"ivelt/core/say"
)

// settingKind is the [State.Kind] of a setting that is set. Its hash is the value's type and,
// after a blank, its bytes in base64.
const settingKind = "setting"

// SettingState is the state of a setting that has a value.
func SettingState(v desk.Value) State {
	if v.Type == "" {
		return State{}
	}
	return State{Kind: settingKind, Hash: v.Type + " " + base64.StdEncoding.EncodeToString([]byte(v.Data))}
}

// Value is the value that a setting has in a state.
func (s State) Value() (desk.Value, error) {
	if s.Kind == "" {
		return desk.Value{}, nil
	}
	kind, text, ok := strings.Cut(s.Hash, " ")
	data, err := base64.StdEncoding.DecodeString(text)
	if err != nil || !ok || s.Kind != settingKind {
		return desk.Value{}, say.Errorf("%q is no state of a setting", s.Hash)
	}
	return desk.Value{Type: kind, Data: string(data)}, nil
}

// Says is the value of a setting in a state as people write it, "" for none.
func (s State) Says() string {
	v, err := s.Value()
	if err != nil || v.Type == "" {
		return ""
	}
	of, err := gvariant.Parse(v.Type, []byte(v.Data))
	if err != nil {
		return s.Hash
	}
	return gvariant.Text(of)
}

// Line is the value of a setting in a state as a line of text, nothing for none.
func (s State) Line() []byte {
	if s.Kind == "" {
		return nil
	}
	return []byte(s.Says() + "\n")
}

// lookSetting is what a setting has now.
func lookSetting(d *desk.Desk, path string) (State, error) {
	if d.Settings == nil {
		return State{}, say.Errorf("%s: %w: nothing here keeps such settings", d.Show(desk.OfSetting(path)), ErrWrite)
	}
	v, err := d.Settings.Value(path)
	return SettingState(v), err
}
