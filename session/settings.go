package session

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"

	"github.com/fsnotify/fsnotify"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/regular"
	"ivelt/core/xsettings"
)

// maxFile bounds what is read of the file, in bytes.
const maxFile = 1 << 20

// numbers are the settings that are whole numbers (the registry of XSETTINGS names,
// freedesktop.org; gdksettings.c of GTK 3.24); all others are text.
var numbers = map[string]bool{
	"Gtk/CursorThemeSize": true, "Xft/Antialias": true, "Xft/Hinting": true, "Xft/DPI": true, "Net/EnableEventSounds": true,
	"Net/DoubleClickTime": true, "Net/CursorBlink": true, "Net/CursorBlinkTime": true, "Gtk/EnableAnimations": true,
}

// FileOf is the file of a person's from which their session tells programs, on this machine.
func FileOf(d *desk.Desk) string { return d.HostPath(d.First(desk.SessionFile)) }

// ReadFile reads such a file. One that is not there has no settings; a number that is none
// is left out, so that programs have their own.
func ReadFile(file string) (xsettings.Settings, error) {
	b, err := regular.Read(file, maxFile)
	if errors.Is(err, fs.ErrNotExist) {
		return xsettings.Settings{}, nil
	}
	if err != nil {
		return nil, err
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	out := xsettings.Settings{}
	for _, e := range kf.Entries(desk.SessionGroup) {
		text := keyfile.Unescape(e.Value)
		if !numbers[e.Key] {
			out[e.Key] = text
			continue
		}
		if n, err := strconv.ParseInt(text, 10, 32); err == nil {
			out[e.Key] = int32(n)
		}
	}
	return out, nil
}

// Watch tells each time that a file may have changed, until ctx ends. It waits for the
// kernel to say so. The folder of the file is made if it is not there.
func Watch(ctx context.Context, file string) (<-chan struct{}, error) {
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return nil, err
	}
	w, err := fsnotify.NewWatcher()
	if err != nil {
		return nil, err
	}
	watched := map[string]bool{}
	follow := func() error { // where it lies, and where it really lies if it is linked
		for _, at := range []string{file, realOf(file)} {
			if dir := filepath.Dir(at); !watched[dir] {
				if err := w.Add(dir); err != nil {
					return err
				}
				watched[dir] = true
			}
		}
		return nil
	}
	if err := follow(); err != nil {
		return nil, errors.Join(err, w.Close())
	}
	changed := make(chan struct{}, 1)
	go func() {
		defer w.Close()
		for {
			select {
			case <-ctx.Done():
				return
			case <-w.Errors: // what was lost is read with the next
			case e := <-w.Events:
				if e.Name != file && e.Name != realOf(file) {
					continue
				}
				_ = follow()
				select {
				case changed <- struct{}{}:
				default: // it is told already
				}
			}
		}
	}()
	return changed, nil
}

func realOf(file string) string {
	if real, err := filepath.EvalSymlinks(file); err == nil {
		return real
	}
	return file
}
