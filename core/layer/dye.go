package layer

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"ivelt/core/colour"
	"ivelt/core/icontheme"
	"ivelt/core/keyfile"
	"ivelt/core/parcel"
	"ivelt/core/recolour"
	"ivelt/core/say"
	"ivelt/core/xcursor"
)

// dyeKey tells fits of dyes.
const dyeKey = "dye"

var plainHex = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

// validTurn is nil if one colour can become another.
func validTurn(to, from string, within float64) error {
	switch {
	case !plainHex.MatchString(to):
		return say.Errorf("to: %q is no colour, such as #a0466b", to)
	case from != "" && !plainHex.MatchString(from):
		return say.Errorf("from: %q is no colour, such as #a0466b", from)
	case within < 0 || within > 180:
		return errors.New("within is a number of degrees, from 0 to 180")
	}
	return nil
}

// maxPalette is how many colours a palette may have.
const maxPalette = 64

// sets is what a dye makes of colours, in a few words.
func (c Dye) sets() string {
	if len(c.Palette) == 0 {
		return c.To
	}
	return fmt.Sprintf("the nearest of %d colours", len(c.Palette))
}

func (c Dye) validPalette(kind parcel.Kind) error {
	switch {
	case c.To != "" || c.From != "" || c.Within != 0:
		return errors.New("palette stands alone: to, from and within are of one colour")
	case kind == parcel.Pointer:
		return errors.New("pointers become one colour, not those of a palette")
	case len(c.Palette) > maxPalette:
		return say.Errorf("palette: there are more than %d colours", maxPalette)
	}
	for _, to := range c.Palette {
		if !plainHex.MatchString(to) {
			return say.Errorf("palette: %q is no colour, such as #a0466b", to)
		}
	}
	if _, ok := c.mapped(); !ok {
		return errors.New("palette: none of them has a hue")
	}
	return nil
}

// mapped is what maps to the palette; false if there is none.
func (c Dye) mapped() (recolour.Palette, bool) {
	var all []colour.Colour
	for _, to := range c.Palette {
		if of, err := colour.Parse(to); err == nil {
			all = append(all, of)
		}
	}
	return recolour.NewPalette(all)
}

func (c Dye) valid(kind parcel.Kind) error {
	if len(c.Palette) > 0 {
		if err := c.validPalette(kind); err != nil {
			return err
		}
	} else if err := validTurn(c.To, c.From, c.Within); err != nil {
		return err
	}
	if c.Outline != "" && !plainHex.MatchString(c.Outline) {
		return say.Errorf("outline: %q is no colour, such as #a0466b", c.Outline)
	}
	switch {
	case kind == parcel.Pointer && c.Within != 0:
		return errors.New("within is of icons; pointers have their inside changed")
	case kind != parcel.Pointer && c.Outline != "":
		return errors.New("outline is of pointers")
	}
	for _, p := range c.Icons {
		if _, err := path.Match(p, ""); err != nil || p == "" || strings.ContainsAny(p, "/\x00") {
			return say.Errorf("icons: %q is no name of icons, nor a pattern such as folder*", p)
		}
	}
	return nil
}

// name is what people read of which icons or pointers a dye is for.
func (c Dye) name(kind parcel.Kind) string {
	if len(c.Icons) == 0 && kind == parcel.Pointer {
		return "all pointers"
	}
	if len(c.Icons) == 0 {
		return "all icons"
	}
	return strings.Join(c.Icons, ", ")
}

// of reports whether a dye is for a file of a pack: one that is an icon, and no symbolic one; or
// one that is a pointer.
func (c Dye) of(kind parcel.Kind, file string) bool {
	if kind == parcel.Pointer {
		return path.Dir(file) == "cursors" && c.Means(path.Base(file))
	}
	name, ok := icontheme.IconName(path.Base(file))
	if strings.HasSuffix(file, ".svgz") { // which the specification does not know; some packs have them
		name, ok = strings.TrimSuffix(path.Base(file), ".svgz"), true
	}
	if !ok || strings.HasSuffix(name, "-symbolic") || strings.Contains(file, "/symbolic/") || !strings.Contains(file, "/") {
		return false
	}
	return c.Means(name)
}

// Means reports whether a dye is for icons or pointers of a name.
func (c Dye) Means(name string) bool {
	return len(c.Icons) == 0 || slices.ContainsFunc(c.Icons, func(p string) bool { is, _ := path.Match(p, name); return is })
}

// main is the colour that the icons of a dye have most of: that of the folder if it is one of
// them, else of the first that has a colour; "" for none. some tells whether there are any.
func (b *laid) main(ctx context.Context, kind parcel.Kind, c Dye) (main string, some bool, err error) {
	var files []Entry
	for _, e := range b.files {
		if e.From != "" && c.of(kind, e.Name) {
			files = append(files, e)
		}
	}
	first := func(e Entry) int {
		name, _ := icontheme.IconName(path.Base(e.Name))
		if name == "folder" || kind == parcel.Pointer && slices.Contains(xcursor.Needed[0], path.Base(e.Name)) {
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
		if inside, _, ok := recolour.MainPointer(raw); ok {
			return inside.Hex(), true, nil
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
func (b *laid) ofDye(ctx context.Context, kind parcel.Kind, c Dye) (Fit, error) {
	main, some, err := b.main(ctx, kind, c)
	f := Fit{Change: c.name(kind), Key: dyeKey, State: Fits, Was: c.Was, Now: main, Sets: c.sets()}
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
		if err := b.dye(ctx, r.Base.Kind, c, at, out); err != nil {
			return nil, err
		}
	}
	if err := b.pointed(ctx, r, at, out); err != nil {
		return nil, err
	}
	b.linked(at, out, false)
	if err := b.iconed(r, at, out); err != nil {
		return nil, err
	}
	b.linked(at, out, true)
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
func (b *laid) dye(ctx context.Context, kind parcel.Kind, c Dye, at map[string]Entry, out made) error {
	turn, err := b.turn(ctx, kind, c)
	if turn == nil || err != nil {
		return err // nothing in it has a colour
	}
	var todo []Entry
	for _, e := range b.files {
		if e.From == "" {
			to, ok := follow(at, e.Name)
			if e.Link == "" || !ok || !c.of(kind, e.Name) || c.of(kind, to.Name) || to.From == "" {
				continue // a link to what is dyed stays one
			}
			e = Entry{Name: e.Name, Mode: to.Mode, From: to.From, Size: to.Size}
		} else if !c.of(kind, e.Name) {
			continue
		}
		todo = append(todo, e)
	}
	fresh, err := b.recoloured(ctx, turn, todo, out)
	maps.Copy(out.of, fresh)
	return err
}

// turn is what a dye makes of colours, nil if no picture of the base has any.
func (b *laid) turn(ctx context.Context, kind parcel.Kind, c Dye) (recolour.Turn, error) {
	if p, ok := c.mapped(); ok {
		return p, nil
	}
	from := c.From
	if from == "" {
		main, _, err := b.main(ctx, kind, c)
		if main == "" || err != nil {
			return nil, err
		}
		from = main
	}
	outline := colour.Colour{}
	if kind == parcel.Pointer {
		for _, e := range b.files {
			if raw, err := b.icon(e); e.From != "" && err == nil && path.Dir(e.Name) == "cursors" && slices.Contains(xcursor.Needed[0], path.Base(e.Name)) {
				_, outline, _ = recolour.MainPointer(raw)
				break
			}
		}
	}
	return c.from(kind, from, outline)
}

// from is what a dye makes of colours if the main one is this; of pointers with the colour of their
// outline.
func (c Dye) from(kind parcel.Kind, main string, outline colour.Colour) (recolour.Turn, error) {
	inside, err := colour.Parse(main)
	if err != nil {
		return nil, err
	}
	to, err := colour.Parse(c.To)
	if err != nil {
		return nil, err
	}
	if kind != parcel.Pointer {
		return recolour.Dye{From: inside, To: to, Within: c.Within}, nil
	}
	f := recolour.Fill{Inside: inside, ToInside: to, Outline: outline, ToOutline: outline}
	if c.Outline != "" {
		f.ToOutline, err = colour.Parse(c.Outline)
	}
	return f, err
}

// TurnOf is what a dye makes of colours, by the main colour of one picture; nil if that has none.
func (c Dye) TurnOf(ctx context.Context, kind parcel.Kind, raw []byte) recolour.Turn {
	if p, ok := c.mapped(); ok {
		return p
	}
	main, outline, ok := recolour.MainPointer(raw)
	if kind != parcel.Pointer {
		main, ok = recolour.Main(ctx, raw)
	}
	if !ok {
		return nil
	}
	from := c.From
	if from == "" {
		from = main.Hex()
	}
	turn, err := c.from(kind, from, outline)
	if err != nil {
		return nil
	}
	return turn
}

// recoloured are those of some pictures that a dye changes, by name, as they are in a piece or
// else in the base.
func (b *laid) recoloured(ctx context.Context, d recolour.Turn, pictures []Entry, of made) (map[string]Entry, error) {
	todo, done := make(chan Entry), make(chan Entry)
	var met atomic.Int64
	var workers sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		dyer := recolour.New(d)
		workers.Go(func() {
			for e := range todo {
				if n := int(met.Add(1)); b.tell != nil && (n%100 == 0 || n == len(pictures)) {
					b.tell(n, len(pictures))
				}
				raw, err := b.icon(e)
				if before, is := of.of[e.Name]; is && before.From == "" && before.Mode.IsRegular() {
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
		for _, e := range pictures {
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
	return fresh, ctx.Err()
}

// linked adds the links of the base that lead to what a piece has, or those alone that lead to its
// folders.
func (b *laid) linked(at map[string]Entry, out made, alone bool) {
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
			_, has := out.of[to]
			if alone && !folders[to] {
				continue
			}
			if has || folders[to] {
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
	if r.Base.Kind == parcel.Pointer && errors.Is(err, fs.ErrNotExist) {
		text, err = nil, nil // pointer sets need none
	}
	if err != nil {
		return say.Errorf("%w: %w", ErrBase, err)
	}
	kf, err := keyfile.Parse(text)
	if err != nil {
		return say.Errorf("%w: %s: %w", ErrBase, index, err)
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
		if key == "Directories" {
			has = append(has, ownFolders(m, out)...)
		}
		if len(has) > 0 || key == "Directories" && r.Base.Kind == parcel.Icons {
			out.Set(group, key, strings.Join(has, ","))
		}
	}
	m.of[index] = Entry{Name: index, Mode: 0o644, Text: out.Bytes()}
	return nil
}
