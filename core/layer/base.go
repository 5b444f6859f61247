package layer

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/parcel"
	"ivelt/core/say"
)

// Tree is what a base lies in. A desk's tree is one.
type Tree interface {
	fs.FS
	Lstat(name string) (fs.FileInfo, error)
	Resolve(name string) (string, error) // through all links, to a name of the tree
}

// Bounds of a base.
const (
	maxFiles = 100_000
	maxBytes = 1 << 30
	maxDepth = 40
)

// ErrBase: the base is not what a layer can be laid over.
var ErrBase = errors.New("no layer can be laid over it")

// laid is a base that was gone through.
type laid struct {
	tree  Tree
	root  string
	files []Entry // of the base, in the order of their names
	left  []string
	bytes int64
	texts map[string]map[string][]byte // of the files of a sheet, by sheet
	read  map[string]*gtkcss.Sheet     // sheets, by name
	tell  func(done, all int)          // of pictures that are recoloured; nil for nobody
}

// Entry is a file, folder or link of a piece.
type Entry struct {
	Name string // in the piece
	Mode fs.FileMode
	Link string                 // where a link leads
	Text []byte                 // of a file that is made
	From string                 // the file of the tree that it is a copy of, else
	Make func() ([]byte, error) // makes it, of Size bytes, when it is written; nil for all others
	Size int64
}

// look goes through a base at a name of a tree. Links inside it stay links, others are
// followed; those that lead nowhere are left out.
func look(ctx context.Context, tree Tree, root string) (*laid, error) {
	b := &laid{tree: tree, root: root, texts: map[string]map[string][]byte{}, read: map[string]*gtkcss.Sheet{}}
	real, err := tree.Resolve(root)
	if err != nil {
		return nil, say.Errorf("%w: %w", ErrBase, err)
	}
	b.root = real
	info, err := fs.Stat(tree, real)
	if err != nil {
		return nil, say.Errorf("%w: %w", ErrBase, err)
	}
	if info.IsDir() {
		err = b.walk(ctx, real, "", nil)
	} else {
		b.root, err = path.Dir(real), b.alone(real)
	}
	if err != nil {
		return nil, say.Errorf("%w: %w", ErrBase, err)
	}
	if len(b.files) == 0 {
		return nil, say.Errorf("%w: it is empty", ErrBase)
	}
	return b, nil
}

// alone adds a piece that is one file, with the settings of its name beside it: a picture style
// without a folder of its own.
func (b *laid) alone(file string) error {
	for _, name := range []string{file, strings.TrimSuffix(file, path.Ext(file)) + ".conf"} {
		info, err := fs.Stat(b.tree, name)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			return err
		}
		if !info.Mode().IsRegular() {
			return say.Errorf("%s is no file", path.Base(name))
		}
		b.bytes += info.Size()
		b.files = append(b.files, Entry{Name: path.Base(name), Mode: 0o644, From: name, Size: info.Size()})
	}
	return nil
}

// walk adds what lies in a folder of the tree as what lies in a folder of the piece. within
// are the folders that it was come through.
func (b *laid) walk(ctx context.Context, folder, at string, within []string) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	if len(within) > maxDepth || slices.Contains(within, folder) {
		return say.Errorf("its folders go in circles, or more than %d deep", maxDepth)
	}
	entries, err := fs.ReadDir(b.tree, folder)
	if err != nil {
		return err
	}
	for _, e := range entries {
		from, name := path.Join(folder, e.Name()), path.Join(at, e.Name())
		info, err := b.tree.Lstat(from)
		if err != nil {
			return err
		}
		if info.Mode()&fs.ModeSymlink != 0 {
			to, err := b.tree.Resolve(from)
			if err != nil { // it goes in circles
				b.left = append(b.left, name)
				continue
			}
			if info, err = fs.Stat(b.tree, to); errors.Is(err, fs.ErrNotExist) {
				b.left = append(b.left, name)
				continue
			} else if err != nil {
				return err
			}
			if inside, ok := strings.CutPrefix(to, b.root+"/"); ok && folder == path.Join(b.root, at) {
				link, err := filepath.Rel(path.Dir(name), inside)
				if err != nil {
					return err
				}
				b.files = append(b.files, Entry{Name: name, Mode: fs.ModeSymlink, Link: filepath.ToSlash(link)})
				if len(b.files) > maxFiles {
					return say.Errorf("it has more than %d files", maxFiles)
				}
				continue
			}
			if from = to; from == b.root || strings.HasPrefix(b.root, from+"/") {
				return errors.New("a link in it leads to what it lies in")
			}
		}
		switch {
		case info.IsDir():
			b.files = append(b.files, Entry{Name: name, Mode: fs.ModeDir | 0o755})
			if err := b.walk(ctx, from, name, append(slices.Clone(within), folder)); err != nil {
				return err
			}
		case info.Mode().IsRegular():
			b.bytes += info.Size()
			b.files = append(b.files, Entry{Name: name, Mode: 0o644 | info.Mode()&0o111, From: from, Size: info.Size()})
		default:
			b.left = append(b.left, name)
		}
		if len(b.files) > maxFiles || b.bytes > maxBytes {
			return say.Errorf("it has more than %d files, or %d MB", maxFiles, maxBytes>>20)
		}
	}
	return nil
}

// Sum is the checksum of a piece's tree, "sha256:…": of the names, links and contents of all
// its files.
func Sum(ctx context.Context, tree Tree, root string) (string, error) {
	b, err := look(ctx, tree, root)
	if err != nil {
		return "", err
	}
	return b.sum(ctx)
}

func (b *laid) sum(ctx context.Context) (string, error) {
	whole := sha256.New()
	for _, e := range b.files {
		if err := ctx.Err(); err != nil {
			return "", err
		}
		said := e.Link
		if e.From != "" {
			one := sha256.New()
			f, err := b.tree.Open(e.From)
			if err != nil {
				return "", err
			}
			_, err = io.Copy(one, io.LimitReader(f, maxBytes))
			if err = errors.Join(err, f.Close()); err != nil {
				return "", err
			}
			said = hex.EncodeToString(one.Sum(nil))
		}
		fmt.Fprintf(whole, "%s\x00%s\x00%s\x00", e.Name, e.Mode, said)
	}
	return "sha256:" + hex.EncodeToString(whole.Sum(nil)), nil
}

// has reports whether the base has a file.
func (b *laid) has(name string) bool {
	return slices.ContainsFunc(b.files, func(e Entry) bool { return e.Name == name && !e.Mode.IsDir() })
}

// parts are the base's top folders.
func (b *laid) parts() (out []string) {
	for _, e := range b.files {
		if e.Mode.IsDir() && !strings.Contains(e.Name, "/") {
			out = append(out, e.Name)
		}
	}
	return out
}

// sheets are the style sheets that programs read of a part: those in its own folder, without
// those that another of them takes in.
func (b *laid) sheets(ctx context.Context, part string) ([]string, error) {
	var all []string
	taken := map[string]bool{}
	for _, e := range b.files {
		if path.Dir(e.Name) != part || path.Ext(e.Name) != ".css" || e.Mode.IsDir() {
			continue
		}
		all = append(all, e.Name)
		texts, err := b.texted(ctx, e.Name)
		if err != nil {
			return nil, err
		}
		for name := range texts {
			taken[name] = taken[name] || name != e.Name
		}
	}
	return slices.DeleteFunc(all, func(name string) bool { return taken[name] && path.Base(name) != "gtk.css" && !forDark(name) }), nil
}

// sheet is a sheet of the base with all that it takes in, read once.
func (b *laid) sheet(ctx context.Context, name string) (*gtkcss.Sheet, error) {
	if s, ok := b.read[name]; ok {
		return s, nil
	}
	s, err := gtkcss.Load(ctx, b.tree, path.Join(b.root, name))
	if err == nil {
		b.read[name] = s
	}
	return s, err
}

// texted are the texts of a sheet and of all that it takes in, by their names in the piece;
// resources and what lies elsewhere by what they are asked for as.
func (b *laid) texted(ctx context.Context, sheet string) (map[string][]byte, error) {
	if known, ok := b.texts[sheet]; ok {
		return known, nil
	}
	at := path.Join(b.root, sheet)
	s, err := b.sheet(ctx, sheet)
	if err != nil {
		return nil, err
	}
	out := map[string][]byte{}
	read := gtkcss.Files(b.tree, at, nil)
	for _, name := range s.Files {
		text, err := read(name)
		if err != nil {
			continue // it was noted when the sheet was read
		}
		out[strings.TrimPrefix(name, b.root+"/")] = text
	}
	b.texts[sheet] = out
	return out, nil
}

// resourceFile is GTK 2's file of a theme.
const resourceFile = "gtk-2.0/gtkrc"

// schemed is a value of gtk-color-scheme as it is written in a resource file.
var schemed = regexp.MustCompile(`gtk[-_]color[-_]scheme\s*=\s*"((?:[^"\\]|\\.)*)"`)

// resources are the texts of GTK 2's file and of those that it takes in, by their names in the
// piece, for as far as they lie in it.
func (b *laid) resources() map[string][]byte {
	out := map[string][]byte{}
	if !b.has(resourceFile) {
		return out
	}
	f, err := gtkrc.Load(b.tree, path.Join(b.root, resourceFile))
	if err != nil {
		return out
	}
	for _, name := range f.Files {
		inside, ok := strings.CutPrefix(name, b.root+"/")
		if text, err := fs.ReadFile(b.tree, name); ok && err == nil {
			out[inside] = text
		}
	}
	return out
}

// scheme are the colours that GTK 2's file names.
func (b *laid) scheme() map[string]string {
	out := map[string]string{}
	for _, text := range b.resources() {
		for _, m := range schemed.FindAllSubmatch(text, -1) {
			for line := range strings.FieldsFuncSeq(strings.ReplaceAll(string(m[1]), `\n`, "\n"), func(r rune) bool { return r == '\n' || r == ';' }) {
				if name, value, ok := strings.Cut(line, ":"); ok {
					out[strings.TrimSpace(name)] = strings.TrimSpace(value)
				}
			}
		}
	}
	return out
}

// rescheme gives a colour another value wherever GTK 2's files name it. They have to be
// written themselves: a colour counts in the styles behind it.
func rescheme(text []byte, name, value string) []byte {
	one := regexp.MustCompile(`((?:^|;|\n|\\n)\s*` + regexp.QuoteMeta(name) + `\s*:\s*)([^;\\\n"]*)`)
	var out []byte
	at := 0
	for _, m := range schemed.FindAllSubmatchIndex(text, -1) {
		out = append(out, text[at:m[2]]...)
		out = append(out, one.ReplaceAll(text[m[2]:m[3]], []byte("${1}"+strings.ReplaceAll(value, "$", "$$")))...)
		at = m[3]
	}
	return append(out, text[at:]...)
}

// Find is where the piece lies on a desk that some surface finds by its folder's name, as a
// name of the desk's tree.
func (b Base) Find(d *desk.Desk) (root string, err error) {
	lookup := map[parcel.Kind]string{parcel.Theme: "theme", parcel.Icons: "icon-theme", parcel.Pointer: "pointer", parcel.Style: "named-file"}[b.Kind]
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			if f.Lookup.Kind != lookup || b.Kind == parcel.Style && f.Name != desk.FacetPictures {
				continue
			}
			for _, base := range d.Folders(f.Lookup.Everywhere()) {
				at := path.Join(base, b.Folder, b.Within)
				if fi, err := fs.Stat(d.Tree(), at); err == nil && fi.IsDir() {
					return at, nil
				}
				if alone := at + ".svg"; b.Kind == parcel.Style && d.Exists(desk.Path(alone)) {
					return alone, nil
				}
			}
		}
	}
	kind := b.Kind.Title()
	return "", say.Errorf("%w: no %s %q is where %s looks for them", ErrBase, kind, b.Folder, d.Title)
}
