package session

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/fsnotify/fsnotify"

	"ivelt/core/desk"
	"ivelt/core/regular"
)

// maxFile bounds what is read of the file, in bytes.
const maxFile = 1 << 20

// FileOf is the file of a person's from which their session tells programs, on this machine.
func FileOf(d *desk.Desk) string { return d.HostPath(d.First(desk.SessionFile)) }

// ReadFile reads such a file. One that is not there holds nothing.
func ReadFile(file string) (desk.Held, error) {
	b, err := regular.Read(file, maxFile)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return desk.Held{}, err
	}
	held, err := desk.ParseHeld(b)
	if err != nil {
		return desk.Held{}, fmt.Errorf("%s: %w", file, err)
	}
	return held, nil
}

// FilesOf are the files from which the provider takes what it tells: its own, and the
// settings of GTK, which have what is told no more.
func FilesOf(d *desk.Desk) []string {
	out := []string{FileOf(d)}
	for _, id := range []string{"gtk3", "gtk4"} {
		s, _ := d.Surface(id)
		for _, f := range s.Facets {
			for _, src := range f.Sources {
				if at := d.HostPath(d.First(src.Path)); src.Format == "keyfile" && src.Write && !slices.Contains(out, at) {
					out = append(out, at)
				}
			}
		}
	}
	return out
}

// Watch tells each time that one of some files may have changed, until ctx ends. It waits
// for the kernel to say so, in the folders that there are, and in those that come.
func Watch(ctx context.Context, files ...string) (<-chan struct{}, error) {
	w, err := fsnotify.NewWatcher()
	if err != nil {
		return nil, err
	}
	v := watcher{w, files, map[string]bool{}}
	if err := v.follow(); err != nil {
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
				if !v.concerns(e) {
					continue
				}
				_ = v.follow()
				select {
				case changed <- struct{}{}:
				default: // it is told already
				}
			}
		}
	}()
	return changed, nil
}

// watcher watches files where they lie, and where they really lie if they are linked.
type watcher struct {
	*fsnotify.Watcher
	files   []string
	watched map[string]bool // folders
}

// places are the paths of the files.
func (v watcher) places() (out []string) {
	for _, file := range v.files {
		out = append(out, file)
		if real, err := filepath.EvalSymlinks(file); err == nil && real != file {
			out = append(out, real)
		}
	}
	return out
}

// follow watches the folders of the files, or the nearest ones above them that are there.
func (v watcher) follow() error {
	for _, at := range v.places() {
		dir := filepath.Dir(at)
		for fi, err := os.Stat(dir); (err != nil || !fi.IsDir()) && dir != filepath.Dir(dir); fi, err = os.Stat(dir) {
			dir = filepath.Dir(dir)
		}
		if v.watched[dir] {
			continue
		}
		if err := v.Add(dir); err != nil {
			return err
		}
		v.watched[dir] = true
	}
	return nil
}

// concerns reports whether an event is about one of the files, or a folder above one.
func (v watcher) concerns(e fsnotify.Event) bool {
	if e.Has(fsnotify.Remove) || e.Has(fsnotify.Rename) {
		delete(v.watched, e.Name) // a folder that is gone is watched no more
	}
	return slices.ContainsFunc(v.places(), func(at string) bool { return at == e.Name || strings.HasPrefix(at, e.Name+"/") })
}
