package plantest

import (
	"encoding/json"
	"errors"
	"io/fs"
	"os"
	"time"

	"ivelt/core/desk"
)

// Settings stands in for the service that keeps the desktop's settings: it has them in a
// file, always of the same date. Gone is why it does not answer.
type Settings struct {
	File string
	Gone error
}

var _ desk.SettingsKeeper = &Settings{}

func (s *Settings) all() (map[string]desk.Value, error) {
	out := map[string]desk.Value{}
	b, err := os.ReadFile(s.File)
	if errors.Is(err, fs.ErrNotExist) {
		return out, nil
	}
	if err != nil {
		return nil, err
	}
	return out, json.Unmarshal(b, &out)
}

// Value is what the file has.
func (s *Settings) Value(path string) (desk.Value, error) {
	all, err := s.all()
	return all[path], err
}

// Answers is Gone.
func (s *Settings) Answers() error { return s.Gone }

// Change writes the file anew, or takes away one that has nothing.
func (s *Settings) Change(values map[string]desk.Value) error {
	all, err := s.all()
	if err = errors.Join(s.Gone, err); err != nil {
		return err
	}
	for path, v := range values {
		if all[path] = v; v.Type == "" {
			delete(all, path)
		}
	}
	if len(all) == 0 {
		return os.Remove(s.File)
	}
	b, err := json.Marshal(all)
	if err != nil {
		return err
	}
	at := time.Date(2025, 5, 4, 3, 2, 1, 0, time.UTC)
	return errors.Join(os.WriteFile(s.File+"~", b, 0o600), os.Rename(s.File+"~", s.File), os.Chtimes(s.File, at, at))
}

// Text is a string as a setting has it.
func Text(s string) desk.Value { return desk.Value{Type: "s", Data: s + "\x00"} }
