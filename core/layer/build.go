package layer

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"
	"time"

	"ivelt/core/keyfile"
	"ivelt/core/parcel"
	"ivelt/core/say"
	"ivelt/core/tomlfile"
)

// ErrCycle: the base is itself built from what the layer would be.
var ErrCycle = errors.New("the base is a layer over this one")

// Build is the piece that a recipe makes of a base at a name of a tree: a copy of it in which
// each sheet that is changed takes in the base's own and says what is laid over it, with the
// recipe beside. The same recipe over the same base makes the same piece. tell is told of pictures that
// are recoloured, how many of how many; nil for nobody.
func Build(ctx context.Context, tree Tree, root string, r Recipe, tell func(done, all int)) ([]Entry, Report, error) {
	if err := r.Valid(); err != nil {
		return nil, Report{}, err
	}
	b, err := look(ctx, tree, root)
	if err != nil {
		return nil, Report{}, err
	}
	b.tell = tell
	report, err := b.check(ctx, r)
	if err != nil {
		return nil, Report{}, err
	}
	if b.has(File) {
		if err := b.mayBeBase(r); err != nil {
			return nil, report, err
		}
	}
	if r.Convert != nil {
		piece, err := b.converted(ctx, r)
		return piece, report, err
	}
	if r.Base.Kind == parcel.Style {
		piece, err := b.styled(ctx, r)
		return piece, report, err
	}
	if r.Base.Kind != parcel.Theme {
		piece, err := b.dyed(ctx, r)
		return piece, report, err
	}
	told, err := b.told(ctx)
	if err != nil {
		return nil, report, err
	}
	out := made{of: map[string]Entry{}}
	for _, e := range b.files {
		out.of[e.Name] = e
	}
	for name, text := range b.resources() {
		before := string(text)
		for _, c := range r.Colours {
			if slices.Contains(told.named(c), resourceFile) {
				text = rescheme(text, c.Name, c.in(name))
			}
		}
		if e := out.of[name]; string(text) != before && e.Mode.IsRegular() {
			out.of[name] = Entry{Name: name, Mode: e.Mode, Text: text}
		}
	}
	if r, err = b.moving(ctx, r); err != nil {
		return nil, report, err
	}
	if err := b.moved(ctx, r, told, out); err != nil {
		return nil, report, err
	}
	for sheet, laid := range told.over(r) {
		out.cover(sheet, laid)
	}
	if err := b.describe(out, r); err != nil {
		return nil, report, err
	}
	out.of[File] = Entry{Name: File, Mode: 0o644, Text: r.Bytes()}
	return out.sorted(), report, nil
}

// mayBeBase refuses a base that was built over what the recipe makes.
func (b *laid) mayBeBase(r Recipe) error {
	text, err := fs.ReadFile(b.tree, path.Join(b.root, File))
	if err != nil {
		return err
	}
	var below file
	if err := tomlfile.Decode(text, &below); err == nil && below.Base.Folder == r.Folder {
		return say.Errorf("%w: %s is built over %s", ErrCycle, r.Base.Folder, r.Folder)
	}
	return nil
}

// Over is the text that the recipe lays over a sheet of its base by its name,
// gtk-3.0/gtk.css: to picture it before it is built.
func (r Recipe) Over(sheet string) string {
	in := func(parts []string) bool {
		return slices.ContainsFunc(parts, func(part string) bool { return serves(part, path.Dir(sheet)) })
	}
	var b strings.Builder
	for _, c := range r.Colours {
		if len(c.Parts) == 0 || in(c.Parts) {
			b.WriteString(define(c.Name, c.in(sheet)))
		}
	}
	for _, c := range r.Rules {
		if in(c.Parts) {
			b.WriteString(c.css())
		}
	}
	return b.String()
}

// over is the text that is laid over each sheet, by sheet.
func (s *says) over(r Recipe) map[string]string {
	out := map[string]string{}
	for _, c := range r.Colours {
		for _, sheet := range s.named(c) {
			if sheet != resourceFile {
				out[sheet] += define(c.Name, c.in(sheet))
			}
		}
	}
	for _, c := range r.Rules {
		for _, sheet := range s.of(c.Parts) {
			if sheet != resourceFile {
				out[sheet] += c.css()
			}
		}
	}
	for _, c := range r.Lines {
		if slices.Contains(s.ordering, resourceFile) {
			out[resourceFile] += strings.TrimSpace(c.Text) + "\n"
		}
	}
	return out
}

// made is a piece in the making, by the names of its files.
type made struct{ of map[string]Entry }

// cover lays text over a sheet: the base's own moves to a name beside it, which the new one
// takes in first.
func (m made) cover(sheet, text string) {
	own := m.of[sheet]
	moved := m.free(sheet)
	own.Name = moved
	m.of[moved] = own
	takes := "/* Laid over the base's own sheet. The recipe is in " + strings.Repeat("../", strings.Count(sheet, "/")) + File + ". */\n@import url(\"" + path.Base(moved) + "\");\n"
	if sheet == resourceFile {
		takes = "# Laid over the base's own file. The recipe is in ../" + File + ".\ninclude \"" + path.Base(moved) + "\"\n"
	}
	m.of[sheet] = Entry{Name: sheet, Mode: 0o644, Text: []byte(takes + text)}
}

// free is a name beside a sheet that nothing has.
func (m made) free(sheet string) string {
	ext := path.Ext(sheet)
	for n := 1; ; n++ {
		name := strings.TrimSuffix(sheet, ext) + ".base" + ext
		if n > 1 {
			name = fmt.Sprintf("%s.base%d%s", strings.TrimSuffix(sheet, ext), n, ext)
		}
		if _, taken := m.of[name]; !taken {
			return name
		}
	}
}

// index is the file that describes a theme to people (Desktop Entry Specification in its
// form; what stands in it: common practice, no source).
const index = "index.theme"

// describe gives the piece its name, in the base's description or in one of its own. What the
// description says of other parts of the base by its name, it says of the new piece.
func (b *laid) describe(m made, r Recipe) error {
	text := []byte("[Desktop Entry]\n")
	if b.has(index) {
		var err error
		if text, err = fs.ReadFile(b.tree, path.Join(b.root, index)); err != nil {
			return err
		}
	}
	kf, err := keyfile.Parse(text)
	if err != nil {
		return say.Errorf("%w: %s: %w", ErrBase, index, err)
	}
	group := "Desktop Entry"
	if groups := kf.Groups(); len(groups) > 0 && !slices.Contains(groups, group) {
		group = groups[0]
	}
	for _, of := range kf.Groups() {
		for _, e := range kf.Entries(of) {
			if e.Key != "Name" && e.Value == r.Base.Folder {
				kf.Set(of, e.Key, r.Folder)
			}
			if of == group && strings.HasPrefix(e.Key, "Name[") {
				kf.Remove(of, e.Key)
			}
		}
	}
	kf.Set(group, "Name", r.Name)
	if r.About != "" {
		kf.Set(group, "Comment", strings.Join(strings.Fields(r.About), " "))
	}
	m.of[index] = Entry{Name: index, Mode: 0o644, Text: kf.Bytes()}
	return nil
}

func (m made) sorted() []Entry {
	return slices.SortedFunc(maps.Values(m.of), func(a, b Entry) int { return strings.Compare(a.Name, b.Name) })
}

// made1980 is the time of everything in an archive: the first that every format can hold.
var made1980 = time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)

// Archive writes a piece as a compressed tar, in a folder of the name that programs ask for.
func Archive(ctx context.Context, w io.Writer, tree fs.FS, folder string, piece []Entry) error {
	z := gzip.NewWriter(w)
	t := tar.NewWriter(z)
	for _, e := range append([]Entry{{Mode: fs.ModeDir | 0o755}}, piece...) {
		if err := ctx.Err(); err != nil {
			return err
		}
		h := &tar.Header{Name: path.Join(folder, e.Name), Mode: int64(e.Mode.Perm()), ModTime: made1980, Format: tar.FormatPAX, Typeflag: tar.TypeReg, Size: e.Size}
		switch {
		case e.Mode.IsDir():
			h.Name, h.Typeflag = h.Name+"/", tar.TypeDir
		case e.Mode&fs.ModeSymlink != 0:
			h.Typeflag, h.Linkname, h.Mode = tar.TypeSymlink, e.Link, 0o777
		case e.From == "" && e.Make == nil:
			h.Size = int64(len(e.Text))
		}
		if err := t.WriteHeader(h); err != nil {
			return err
		}
		if err := e.write(t, tree); err != nil {
			return say.Errorf("%s: %w", e.Name, err)
		}
	}
	return errors.Join(t.Close(), z.Close())
}

func (e Entry) write(w io.Writer, tree fs.FS) error {
	if e.From == "" {
		text, err := e.Text, error(nil)
		if e.Make != nil {
			text, err = e.Make()
		}
		if err == nil {
			_, err = w.Write(text)
		}
		return err
	}
	f, err := tree.Open(e.From)
	if err != nil {
		return err
	}
	n, err := io.Copy(w, io.LimitReader(f, e.Size))
	if err == nil && n < e.Size {
		err = io.ErrUnexpectedEOF
	}
	return errors.Join(err, f.Close())
}

// Texts are the files of a piece that are made, by name: what differs from the base.
func Texts(piece []Entry) map[string]string {
	out := map[string]string{}
	for _, e := range piece {
		if e.From == "" && e.Make == nil && e.Mode.IsRegular() {
			out[e.Name] = string(bytes.Clone(e.Text))
		}
	}
	return out
}
