package session

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"github.com/jezek/xgb/xproto"

	"ivelt/core/xresources"
)

const (
	loaded = "RESOURCE_MANAGER" // of the root window: the X resources that are loaded (xrdb(1))
	// found is what we set of them, and what each was before. It lies on the display, so that
	// it is known as long as they are, whoever is killed meanwhile.
	found = "_IVELT_RESOURCES"
)

// was is a resource that we set: to what, and what it was before, nil if it was not there.
type was struct {
	Set    string
	Before *string
}

// load sets X resources among the ones that are loaded. Those that were set before, and are
// not wanted any more, are again as they were found, unless somebody changed them since.
func (x *display) load(want map[string]string) error {
	// Nobody else changes them in between.
	if err := xproto.GrabServerChecked(x.Conn).Check(); err != nil {
		return err
	}
	defer xproto.UngrabServer(x.Conn)
	now, ours := x.property(x.root, loaded), map[string]was{}
	if mark := x.property(x.root, found); mark != nil {
		if err := json.Unmarshal(mark, &ours); err != nil {
			return fmt.Errorf("%s on the display: %w", found, err)
		}
	}
	text := bytes.Clone(now)
	for _, name := range slices.Sorted(maps.Keys(ours)) {
		if _, still := want[name]; still {
			continue
		}
		of := ours[name]
		delete(ours, name)
		switch e, there := xresources.Exact(text, name); {
		case !there || e.Value != of.Set:
		case of.Before != nil:
			text = xresources.Set(text, name, *of.Before)
		default:
			text = xresources.Remove(text, name)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(want)) {
		of, known := ours[name]
		if e, there := xresources.Exact(text, name); there && (!known || e.Value != of.Set) {
			of.Before = &e.Value
		}
		of.Set = want[name]
		ours[name] = of
		text = xresources.Set(text, name, want[name])
	}
	if bytes.Equal(text, now) {
		return nil
	}
	mark, err := json.Marshal(ours)
	if err != nil {
		return err
	}
	if err := x.setText(x.root, found, mark); err != nil { // first, so that nothing is set that is not known
		return err
	}
	return x.setText(x.root, loaded, text)
}
