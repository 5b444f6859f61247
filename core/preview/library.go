package preview

import (
	"io"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/gresource"
	"ivelt/core/gtkcss"
	"ivelt/core/paint"
)

// library is what a toolkit carries in itself.
type library struct {
	stamp  string
	bundle *gresource.Bundle // nil if there is none
	icons  map[string][]string
}

// ofLibrary is the key of a toolkit's library.
type ofLibrary struct{ where, file string }

// libraryOf is that of a surface, read anew only if its file has changed.
func (c *Canvas) libraryOf(surface string) library {
	s, _ := c.D.Surface(surface)
	if s.Library == nil {
		return library{}
	}
	for _, pattern := range s.Library.Files {
		found, _ := fs.Glob(c.tree, desk.Name(pattern))
		for _, name := range found {
			info, err := c.tree.Stat(name)
			if err != nil || info.IsDir() {
				continue
			}
			stamp := strconv.FormatInt(info.Size(), 10) + " " + strconv.FormatInt(info.ModTime().UnixNano(), 10)
			holds := func(known library) bool { return known.stamp == stamp }
			l := cache.Of(c.D.Cache, ofLibrary{c.D.Where(), name}, holds, func() cache.Made[library] {
				l := c.openLibrary(name, *s.Library)
				l.stamp = stamp
				return cache.Made[library]{Value: l, Bytes: 4 << 20}
			})
			if l.bundle != nil {
				return l
			}
		}
	}
	return library{}
}

func (c *Canvas) openLibrary(name string, of desk.Library) library {
	f, err := c.tree.Open(name)
	if err != nil {
		return library{}
	}
	defer f.Close()
	at, ok := f.(io.ReaderAt)
	if !ok {
		return library{}
	}
	l := library{icons: map[string][]string{}}
	if l.bundle, err = gresource.OfLibrary(at, of.Section); err != nil {
		return library{}
	}
	for _, file := range l.bundle.Names() {
		if inside, ok := strings.CutPrefix(file, of.Icons+"/"); ok && of.Icons != "" {
			name, _, _ := strings.Cut(path.Base(inside), ".")
			l.icons[name] = append(l.icons[name], file)
		}
	}
	return l
}

// resources are those of the library, nil if there is none.
func (l library) resources() func(name string) ([]byte, error) {
	if l.bundle == nil {
		return nil
	}
	return l.bundle.Read
}

// ofOwnSheet is the key of a style that a toolkit has in itself.
type ofOwnSheet struct{ where, surface, name string }

// ownSheet is the style of a name that a toolkit has in itself, nil if it has none.
func (c *Canvas) ownSheet(toolkit desk.Surface, name string, dark bool, generation int) *gtkcss.Sheet {
	l := c.libraryOf(toolkit.ID)
	if l.bundle == nil || name == "" || strings.Contains(name, "/") {
		return nil
	}
	at := path.Join(toolkit.Library.Themes, name)
	for _, file := range []string{"gtk-dark.css", "gtk.css"} {
		file = path.Join(at, file)
		if !dark && strings.HasSuffix(file, "-dark.css") || !slices.Contains(l.bundle.Names(), file) {
			continue
		}
		holds := func(known cachedSheet) bool { return known.stamp == l.stamp }
		return cache.Of(c.D.Cache, ofOwnSheet{c.D.Where(), toolkit.ID, file}, holds, func() cache.Made[cachedSheet] {
			s, err := gtkcss.LoadResource(c.look.ctx, l.bundle.Read, file, generation)
			if err != nil {
				return cache.Made[cachedSheet]{Value: cachedSheet{err: err}, Brief: true}
			}
			return cache.Made[cachedSheet]{Value: cachedSheet{stamp: l.stamp, sheet: s}, Bytes: perByte * s.Bytes()}
		}).sheet
	}
	return nil
}

// ownIcon draws an icon that the toolkit has in itself: a drawing, or else the
// picture of the nearest size.
func (c *Canvas) ownIcon(surface, name string, x, y, size float64, tint paint.Tint) bool {
	l := c.libraryOf(surface)
	best, apart := "", 0.0
	for _, file := range l.icons[name] {
		at, err := strconv.ParseFloat(strings.TrimSuffix(strings.Split(path.Base(path.Dir(path.Dir(file))), "x")[0], "@2"), 64)
		off := max(at-size, size-at)
		if err != nil || strings.HasSuffix(file, ".svg") { // scalable
			off = 0
		}
		if best == "" || off < apart {
			best, apart = file, off
		}
	}
	if best == "" {
		return false
	}
	b, err := l.bundle.Read(best)
	if err != nil {
		return false
	}
	f := embedded(best, b, paint.Form{Tint: tint, Tints: true})
	if f.address == "" {
		return false
	}
	c.markIcon(surface, x, y, size, shownIcon{name: name})
	c.Printf(`<image x="%s" y="%s" width="%s" height="%s" href="%s"/>`, paint.Number(x), paint.Number(y), paint.Number(size), paint.Number(size), f.address)
	return true
}
