package layer

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"sync"

	"ivelt/core/colour"
	"ivelt/core/icontheme"
	"ivelt/core/keyfile"
	"ivelt/core/recolour"
)

// dyeKey tells fits of dyes.
const dyeKey = "dye"

var plainHex = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

func (c Dye) valid() error {
	if !plainHex.MatchString(c.To) {
		return fmt.Errorf("to: %q is no colour, such as #a0466b", c.To)
	}
	if c.From != "" && !plainHex.MatchString(c.From) {
		return fmt.Errorf("from: %q is no colour, such as #a0466b", c.From)
	}
	if c.Within < 0 || c.Within > 180 {
		return errors.New("within is a number of degrees, from 0 to 180")
	}
	for _, p := range c.Icons {
		if _, err := path.Match(p, ""); err != nil || p == "" || strings.ContainsAny(p, "/\x00") {
			return fmt.Errorf("icons: %q is no name of icons, nor a pattern such as folder*", p)
		}
	}
	return nil
}

// name is what people read of which icons a dye is for.
func (c Dye) name() string {
	if len(c.Icons) == 0 {
		return "all icons"
	}
	return strings.Join(c.Icons, ", ")
}

// of reports whether a dye is for a file of a pack: one that is an icon, and no symbolic one.
func (c Dye) of(file string) bool {
	name, ok := icontheme.IconName(path.Base(file))
	if strings.HasSuffix(file, ".svgz") { // which the specification does not know; some packs have them
		name, ok = strings.TrimSuffix(path.Base(file), ".svgz"), true
	}
	if !ok || strings.HasSuffix(name, "-symbolic") || strings.Contains(file, "/symbolic/") || !strings.Contains(file, "/") {
		return false
	}
	return len(c.Icons) == 0 || slices.ContainsFunc(c.Icons, func(p string) bool { is, _ := path.Match(p, name); return is })
}

// main is the colour that the icons of a dye have most of: that of the folder if it is one of
// them, else of the first that has a colour; "" for none. some tells whether there are any.
func (b *laid) main(ctx context.Context, c Dye) (main string, some bool, err error) {
	var files []Entry
	for _, e := range b.files {
		if e.From != "" && c.of(e.Name) {
			files = append(files, e)
		}
	}
	first := func(e Entry) int {
		if name, _ := icontheme.IconName(path.Base(e.Name)); name == "folder" {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(files, func(x, y Entry) int {
		if d := first(x) - first(y); d != 0 {
			return d
		}
		return int(y.Size - x.Size)
	})
	for i, e := range files {
		if err := ctx.Err(); err != nil {
			return "", false, err
		}
		if i == maxMain {
			break
		}
		raw, err := b.icon(e)
		if err != nil {
			continue
		}
		if of, ok := recolour.Main(ctx, raw); ok {
			return of.Hex(), true, nil
		}
	}
	return "", len(files) > 0, ctx.Err()
}

// maxMain is how many icons are looked at for their main colour.
const maxMain = 40

func (b *laid) icon(e Entry) ([]byte, error) {
	if e.Size > recolour.MaxBytes {
		return nil, recolour.ErrPicture
	}
	return fs.ReadFile(b.tree, e.From)
}

// ofDye is how a dye fits the pack.
func (b *laid) ofDye(ctx context.Context, c Dye) (Fit, error) {
	main, some, err := b.main(ctx, c)
	f := Fit{Change: c.name(), Key: dyeKey, State: Fits, Was: c.Was, Now: main, Sets: c.To}
	switch {
	case !some:
		f.State = Gone
	case c.Was != "" && c.Was != main:
		f.State = Moved
	}
	return f, err
}

// dyed is what a recipe makes of an icon pack: the icons that it changes, the links to them, and
// a description that has all else from the pack below.
func (b *laid) dyed(ctx context.Context, r Recipe) ([]Entry, error) {
	out := made{of: map[string]Entry{}}
	at := map[string]Entry{} // of the base, by name
	for _, e := range b.files {
		at[e.Name] = e
	}
	for _, c := range r.Dyes {
		if err := b.dye(ctx, c, at, out); err != nil {
			return nil, err
		}
	}
	b.linked(at, out)
	for _, e := range out.sorted() {
		for dir := path.Dir(e.Name); dir != "."; dir = path.Dir(dir) {
			if _, there := out.of[dir]; !there {
				out.of[dir] = Entry{Name: dir, Mode: fs.ModeDir | 0o755}
			}
		}
	}
	if err := b.inherits(out, r); err != nil {
		return nil, err
	}
	out.of[File] = Entry{Name: File, Mode: 0o644, Text: r.Bytes()}
	return out.sorted(), nil
}

// dye adds the icons of one dye to a piece, on all processors. One that cannot be read as a
// picture stays the base's.
func (b *laid) dye(ctx context.Context, c Dye, at map[string]Entry, out made) error {
	from := c.From
	if from == "" {
		main, _, err := b.main(ctx, c)
		if err != nil {
			return err
		}
		from = main
	}
	if from == "" {
		return nil // nothing in it has a colour
	}
	d := recolour.Dye{Within: c.Within}
	var err error
	if d.From, err = colour.Parse(from); err == nil {
		d.To, err = colour.Parse(c.To)
	}
	if err != nil {
		return err
	}
	todo, done := make(chan Entry), make(chan Entry)
	var workers sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		dyer := recolour.New(d)
		workers.Go(func() {
			for e := range todo {
				raw, err := b.icon(e)
				if before, is := out.of[e.Name]; is && before.From == "" {
					raw, err = before.Text, nil // of a dye before this one
				}
				if err != nil {
					continue
				}
				if text, changed, err := dyer.Picture(ctx, raw); err == nil && changed {
					done <- Entry{Name: e.Name, Mode: e.Mode, Text: text}
				}
			}
		})
	}
	go func() {
		defer func() { close(todo); workers.Wait(); close(done) }()
		for _, e := range b.files {
			if e.From == "" {
				to, ok := follow(at, e.Name)
				if e.Link == "" || !ok || !c.of(e.Name) || c.of(to.Name) || to.From == "" {
					continue // a link to what is dyed stays one
				}
				e = Entry{Name: e.Name, Mode: to.Mode, From: to.From, Size: to.Size}
			} else if !c.of(e.Name) {
				continue
			}
			select {
			case todo <- e:
			case <-ctx.Done():
				return
			}
		}
	}()
	fresh := map[string]Entry{}
	for e := range done {
		fresh[e.Name] = e
	}
	for name, e := range fresh {
		out.of[name] = e
	}
	return ctx.Err()
}

// linked adds the links of the base that lead to what a piece has.
func (b *laid) linked(at map[string]Entry, out made) {
	folders := map[string]bool{}
	for name := range out.of {
		for dir := path.Dir(name); dir != "."; dir = path.Dir(dir) {
			folders[dir] = true
		}
	}
	for again := true; again; { // a link may lead to another one
		again = false
		for _, e := range b.files {
			if _, there := out.of[e.Name]; e.Link == "" || there {
				continue
			}
			to := path.Join(path.Dir(e.Name), e.Link)
			if _, has := out.of[to]; has || folders[to] {
				out.of[e.Name], again = e, true
				continue
			}
			if end, ok := follow(at, e.Name); ok {
				if _, has := out.of[end.Name]; has { // by way of links to folders
					link := relative(path.Dir(e.Name), end.Name)
					out.of[e.Name], again = Entry{Name: e.Name, Mode: e.Mode, Link: link}, true
				}
			}
		}
	}
}

// relative is how a link in a folder leads to a name.
func relative(dir, to string) string {
	from, at := strings.Split(dir, "/"), strings.Split(to, "/")
	for len(from) > 0 && len(at) > 1 && from[0] == at[0] {
		from, at = from[1:], at[1:]
	}
	return strings.Repeat("../", len(from)) + strings.Join(at, "/")
}

// follow is the file that a name of the base leads to.
func follow(at map[string]Entry, name string) (Entry, bool) {
	for range maxDepth {
		e, ok := at[name]
		switch {
		case ok && e.Link == "":
			return e, true
		case ok:
			name = path.Join(path.Dir(name), e.Link)
			continue
		}
		// A folder above may be a link.
		dir, rest := path.Dir(name), path.Base(name)
		for ; dir != "."; dir, rest = path.Dir(dir), path.Join(path.Base(dir), rest) {
			if e, ok := at[dir]; ok && e.Link != "" {
				name = path.Join(path.Dir(dir), e.Link, rest)
				break
			}
		}
		if dir == "." {
			return Entry{}, false
		}
	}
	return Entry{}, false
}

// inherits describes an icon pack that has what it does not have itself from the base (Icon
// Theme Specification 0.13: Inherits). Its folders are those of the base that it has.
func (b *laid) inherits(m made, r Recipe) error {
	text, err := fs.ReadFile(b.tree, path.Join(b.root, index))
	if err != nil {
		return fmt.Errorf("%w: %w", ErrBase, err)
	}
	kf, err := keyfile.Parse(text)
	if err != nil {
		return fmt.Errorf("%w: %s: %w", ErrBase, index, err)
	}
	const group = "Icon Theme"
	out, err := keyfile.Parse([]byte("[" + group + "]\n"))
	if err != nil {
		return err
	}
	out.Set(group, "Name", r.Name)
	out.Set(group, "Comment", strings.Join(strings.Fields(r.About), " "))
	out.Set(group, "Inherits", strings.Join(append([]string{r.Base.Folder}, slices.DeleteFunc(kf.List(group, "Inherits", ','), func(of string) bool { return of == r.Base.Folder || of == r.Folder })...), ","))
	for _, key := range []string{"Example", "DesktopDefault", "FollowsColorScheme"} {
		if value := kf.Get(group, key); value != "" {
			out.Set(group, key, value)
		}
	}
	for _, key := range []string{"Directories", "ScaledDirectories"} {
		var has []string
		for _, dir := range kf.List(group, key, ',') {
			if _, ok := follow(m.of, path.Clean(dir)); ok && !slices.Contains(has, dir) {
				has = append(has, dir)
				for _, e := range kf.Entries(dir) {
					out.Set(dir, e.Key, e.Value)
				}
			}
		}
		if len(has) > 0 || key == "Directories" {
			out.Set(group, key, strings.Join(has, ","))
		}
	}
	m.of[index] = Entry{Name: index, Mode: 0o644, Text: out.Bytes()}
	return nil
}
