package gtkcss

import (
	"context"
	"io/fs"
	"path"
	"path/filepath"
	"strings"

	"ivelt/core/gresource"
	"ivelt/core/regular"
)

// Bundle is the name of the resource bundle that lies beside a style sheet
// (gtkcssprovider.c, gtk_css_provider_load_named).
const Bundle = "gtk.gresource"

// LoadFile reads a style sheet from disk, where imports may lead anywhere.
// generation is 3 or 4, or 0 to tell it by the folder's name.
func LoadFile(ctx context.Context, file string, generation int) (*Sheet, error) {
	whole, err := filepath.Abs(file)
	if err != nil {
		return nil, err
	}
	if generation == 0 {
		generation = generationOf(filepath.ToSlash(whole))
	}
	return LoadFrom(ctx, &folder{fsys: disk{}, dir: filepath.Dir(whole), anywhere: true}, filepath.ToSlash(whole), generation)
}

// disk is the whole of it, by absolute paths.
type disk struct{}

func (disk) Open(name string) (fs.File, error) { return regular.Open(name) }

func generationOf(file string) int {
	if strings.Contains(path.Dir(file), "gtk-4") {
		return 4
	}
	return 3
}

// folder is a tree as a source of sheets.
type folder struct {
	fsys     fs.FS
	dir      string                            // of the sheet that is loaded
	anywhere bool                              // names may be absolute
	beyond   func(name string) ([]byte, error) // resources that are not in the bundle
	made     func(name string, resource bool, text []byte) []byte
	opened   bool
	bundle   *gresource.Bundle
	err      error
}

func (f *folder) Read(name string, resource bool) ([]byte, error) {
	if resource {
		return f.inBundle(name)
	}
	if name = path.Clean(name); !f.anywhere && !fs.ValidPath(name) {
		return nil, fs.ErrInvalid
	}
	b, err := fs.ReadFile(f.fsys, name)
	if err == nil && f.made != nil {
		b = f.made(name, false, b)
	}
	return b, err
}

func (f *folder) inBundle(name string) ([]byte, error) {
	if !f.opened {
		f.opened = true
		var data []byte
		if data, f.err = fs.ReadFile(f.fsys, path.Join(f.dir, Bundle)); f.err == nil {
			f.bundle, f.err = gresource.Open(data)
		}
	}
	b, err := []byte(nil), f.err
	if err == nil {
		b, err = f.bundle.Read(name)
	}
	switch {
	case err != nil && f.beyond != nil:
		return f.beyond(name)
	case err == nil && f.made != nil:
		b = f.made(name, true, b)
	}
	return b, err
}

// ReadFile returns a file that a style names: a path in the tree, or
// resource://… from the bundle beside the sheet.
func ReadFile(fsys fs.FS, sheet, name string) ([]byte, error) {
	f := &folder{fsys: fsys, dir: path.Dir(sheet)}
	if inside, ok := cutResource(name); ok {
		return f.Read(inside, true)
	}
	return f.Read(name, false)
}

// Files is a tree as styles name files of it, the bundle beside the sheet read once.
// beyond, if there is one, has the resources that are not in that.
func Files(fsys fs.FS, sheet string, beyond func(name string) ([]byte, error)) func(name string) ([]byte, error) {
	f := &folder{fsys: fsys, dir: path.Dir(sheet), beyond: beyond}
	return func(name string) ([]byte, error) {
		if inside, ok := cutResource(name); ok {
			return f.Read(inside, true)
		}
		return f.Read(name, false)
	}
}

func cutResource(name string) (string, bool) {
	const scheme = "resource://"
	if len(name) > len(scheme) && name[:len(scheme)] == scheme {
		return name[len(scheme):], true
	}
	return name, false
}
