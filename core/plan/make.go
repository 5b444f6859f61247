package plan

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gtkrc"
	"ivelt/core/keyfile"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/xresources"
)

// Placing is a piece and where it is to go.
type Placing struct {
	Piece  parcel.Piece
	Target string   // a folder of the desk that is not there yet
	Links  []string // further paths that programs look in and nowhere else
	Second Second   // what these get
	Exists Exists   // what to do if something else is at Target
}

// Exists is what to do if something else is where a piece is to go.
type Exists string

const (
	Refuse  Exists = ""        // fail with [ErrExists]
	Leave   Exists = "leave"   // leave what is there, and the piece out
	Replace Exists = "replace" // put the piece in its stead; what was there is kept
	Both    Exists = "both"    // put the piece beside it, with a number behind its name
)

// Second is what a further folder gets when one cannot serve every program.
type Second string

const (
	ByLink Second = ""     // a link: takes no room, and leads nowhere for a program that sees that folder alone
	ByCopy Second = "copy" // the piece once more: seen by all, and to be updated with the first
	None   Second = "none" // nothing: programs that look only there go without
)

// Install plans to put pieces of a parcel in place. A piece that is there
// already, byte for byte, needs no operation; something else in its place is
// [ErrExists].
func Install(ctx context.Context, d *desk.Desk, p *parcel.Parcel, placings []Placing) (Plan, error) {
	var out Plan
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	var names []string
	for _, pl := range placings {
		added, err := b.install(ctx, p, pl)
		if err != nil {
			return Plan{}, err
		}
		if added {
			names = append(names, pl.Piece.Name)
		}
	}
	if len(names) > 0 {
		out.Title = "Install " + strings.Join(names, ", ")
	}
	return out.seal(d), nil
}

func (b *builder) install(ctx context.Context, p *parcel.Parcel, pl Placing) (added bool, err error) {
	pc := pl.Piece
	to, err := b.resolve(pl.Target)
	if err != nil {
		return false, err
	}
	src := Source{Parcel: p.Path, Root: pc.Root, Only: pc.Only, Secret: p.Password()}
	c, err := readPiece(p, src)
	if err != nil {
		return false, err
	}
	m, err := c.manifest(ctx)
	if err != nil {
		return false, err
	}
	after := State{Kind: "tree", Hash: m.hash()}
	now, err := look(b.d, to)
	if err != nil {
		return false, err
	}
	if now.Kind != "" && !now.Is(after) {
		switch pl.Exists {
		case Leave:
			return false, nil
		case Both:
			for n := 2; now.Kind != "" && !now.Is(after); n++ {
				to = fmt.Sprintf("%s-%d", strings.TrimSuffix(to, fmt.Sprintf("-%d", n-1)), n)
				if now, err = look(b.d, to); err != nil {
					return false, err
				}
			}
			pl.Links = nil
		case Replace:
			if err := b.takeAway(to, string(pc.Kind), now); err != nil {
				return false, err
			}
			now = State{}
		default:
			return false, fmt.Errorf("%w: something else is in %s. Replace it, keep both, or leave it", ErrExists, b.d.Show(to))
		}
	}
	if owner := b.owner(to); owner != "" {
		return false, fmt.Errorf("%s %w, %s: its next update would write over it. Put it in place for yourself instead", b.d.Show(to), ErrOwned, owner)
	}
	if !now.Is(after) {
		b.parents(to, string(pc.Kind))
		b.add(Op{
			Kind: Copy, Path: to, After: after, Source: &src, Files: c.count(), Bytes: c.bytes,
			Facet: string(pc.Kind), Why: "put the " + pc.Kind.Title() + " " + pc.Name + " where programs look for it", Effect: AtOnce,
		})
		added = true
	}
	if pl.Second == None {
		pl.Links = nil
	}
	for _, link := range pl.Links {
		at, err := b.resolve(path.Dir(link))
		if err != nil {
			return false, err
		}
		at = path.Join(at, path.Base(link))
		now, err := look(b.d, at)
		if err != nil || now.Kind != "" || at == to {
			continue // there already, or one of the folders is a link to the other
		}
		if pl.Second == ByCopy {
			b.parents(at, string(pc.Kind))
			b.add(Op{
				Kind: Copy, Path: at, After: after, Source: &src, Files: c.count(), Bytes: c.bytes,
				Facet: string(pc.Kind), Why: "show it to programs that look only here and follow no link out of it", Effect: AtOnce,
			})
			added = true
			continue
		}
		target, err := filepath.Rel(path.Dir(at), to)
		if err != nil {
			return false, err
		}
		b.parents(at, string(pc.Kind))
		b.add(Op{
			Kind: Link, Path: at, After: State{Kind: "link", Hash: filepath.ToSlash(target)},
			Facet: string(pc.Kind), Why: "show it to programs that look only here", Effect: AtOnce,
		})
		added = true
	}
	return added, nil
}

// Compare tells whether a piece is at a path already, or something else is.
func Compare(ctx context.Context, d *desk.Desk, p *parcel.Parcel, pc parcel.Piece, target string) (same, other bool) {
	b := builder{d: d}
	to, err := b.resolve(target)
	if err != nil {
		return false, false
	}
	now, err := look(d, to)
	if err != nil || now.Kind == "" {
		return false, false
	}
	c, err := readPiece(p, Source{Root: pc.Root, Only: pc.Only})
	if err != nil {
		return false, true
	}
	m, err := c.manifest(ctx)
	same = err == nil && now.Is(State{Kind: "tree", Hash: m.hash()})
	return same, !same
}

// takeAway adds the operation that removes what is at a path, whoever put it
// there, so that it can come back.
func (b *builder) takeAway(p, facet string, now State) error {
	if now.Kind != "tree" {
		return fmt.Errorf("%w: %s is no folder; move it away yourself", ErrExists, b.d.Show(p))
	}
	if owner := b.owner(p); owner != "" {
		return fmt.Errorf("%s %w, %s: remove it with the package manager", b.d.Show(p), ErrOwned, owner)
	}
	kept, err := tarOf(b.d.HostPath(p))
	if err != nil {
		return err
	}
	b.add(Op{
		Kind: Remove, Path: p, Before: now, Source: &Source{Root: ".", Kept: Digest(kept)}, Bytes: int64(len(kept)), Facet: facet,
		Why: "something else is to be here; this is kept, and comes back when this is gone back on", Effect: AtOnce,
	})
	return nil
}

// owner returns the package that owns a path outside the home.
func (b *builder) owner(p string) string {
	if b.d.Mine(p) {
		return ""
	}
	return b.d.Owner(p)
}

// TakeAway plans to remove a piece of a kind that nobody knows the parcel of.
func TakeAway(d *desk.Desk, p, name, kind string) (Plan, error) {
	out := Plan{Title: "Remove " + name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	to, err := b.resolve(p)
	if err != nil {
		return Plan{}, err
	}
	now, err := look(d, to)
	if err == nil {
		err = b.takeAway(to, kind, now)
	}
	if err != nil {
		return Plan{}, err
	}
	return out.seal(d), nil
}

// Uninstall plans to take away a piece that a plan put in place: what it copied
// to p, the copies of it in second folders, and the links that lead there. A
// piece that was changed since is kept as it is now.
func Uninstall(d *desk.Desk, done Plan, p, name string) (Plan, error) {
	out := Plan{Title: "Remove " + name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	of, facet := "", "" // the piece, as the parcel has it
	for _, op := range done.Ops {
		if op.Kind == Copy && op.Path == p && op.Source.Only == nil && op.Source.Root != "." {
			of, facet = op.Source.Root, op.Facet
		}
	}
	for _, op := range slices.Backward(done.Ops) {
		leads := op.Kind == Link && path.Join(path.Dir(op.Path), op.After.Hash) == p
		if !leads && (op.Kind != Copy || op.Path != p && (op.Source.Root != of || op.Facet != facet)) {
			continue
		}
		now, err := look(d, op.Path)
		switch {
		case err != nil:
			return Plan{}, err
		case now.Kind == "":
			continue
		case !now.Is(op.After) && leads:
			continue // the link leads elsewhere by now
		case !now.Is(op.After): // what was done to it since is kept with it
			if err := b.takeAway(op.Path, op.Facet, now); err != nil {
				return Plan{}, err
			}
			continue
		}
		why := "the piece itself"
		if leads {
			why = "a link to it"
		}
		b.add(Op{Kind: Remove, Path: op.Path, Before: now, Source: op.Source, Files: op.Files, Bytes: op.Bytes, Facet: op.Facet, Why: why, Effect: AtOnce})
	}
	return out.seal(d), nil
}

// Rename plans to give a piece another display name: the Name in its
// index.theme. Its folder, which settings, outfits and Inherits refer to, stays.
func Rename(d *desk.Desk, dir, group, name string) (Plan, error) {
	out := Plan{Title: "Call it " + name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	p, err := b.resolve(path.Join(dir, "index.theme"))
	if err != nil {
		return Plan{}, err
	}
	old, err := fs.ReadFile(d.Tree(), desk.Name(p))
	if err != nil {
		return Plan{}, fmt.Errorf("%s: %w", d.Show(p), err)
	}
	kf, err := keyfile.Parse(old)
	if err != nil {
		return Plan{}, fmt.Errorf("%s: %w", d.Show(p), err)
	}
	if kf.Get(group, "Name") == name {
		return out.seal(d), nil
	}
	kf.Set(group, "Name", name)
	before, err := look(d, p)
	if err != nil {
		return Plan{}, err
	}
	content := kf.Bytes()
	b.add(Op{Kind: Write, Path: p, Before: before, After: fileState(content, before.Mode), Content: content, Why: "the name that people see; programs go on asking for " + path.Base(dir), Effect: AtOnce})
	return out.seal(d), nil
}

// Dress plans to make the desk wear the outfit, starting from its readings:
// only what does not read as wanted is touched. What cannot be brought about is
// listed in [Plan.Blocked].
func Dress(d *desk.Desk, o outfit.Outfit) (Plan, error) {
	out := Plan{Title: "Wear " + o.Name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	err := b.dress(d, o)
	return out.seal(d), err
}

// Fitting is what a parcel has that is to be put in place first.
type Fitting struct {
	Parcel   *parcel.Parcel
	Placings []Placing
}

// DressWith plans the same with pieces that are put in place before they are
// named. tried is the desk as it is with them, see [desk.Desk.Layers].
func DressWith(ctx context.Context, d, tried *desk.Desk, o outfit.Outfit, first []Fitting) (Plan, error) {
	out := Plan{Title: "Wear " + o.Name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	for _, f := range first {
		for _, pl := range f.Placings {
			if _, err := b.install(ctx, f.Parcel, pl); err != nil {
				return Plan{}, err
			}
		}
	}
	err := b.dress(tried, o)
	return out.seal(d), err
}

// dress adds what makes the surfaces wear the outfit, as far as they would find
// it on the desk seen.
func (b *builder) dress(seen *desk.Desk, o outfit.Outfit) error {
	b.seen, b.unsetting, b.told = seen, map[string]bool{}, map[string]bool{}
	for _, s := range b.d.Surfaces {
		for _, facet := range o.Facets() {
			f, ok := s.Facet(facet)
			if !ok {
				continue
			}
			if err := b.set(s, f, o.Want(facet)); err != nil {
				return err
			}
		}
	}
	return b.hold()
}

// hold writes into settings files what only the variables said that are taken
// out: what else they decided stays as it is.
func (b *builder) hold() error {
	if len(b.unsetting) == 0 {
		return nil
	}
	for _, s := range b.d.Surfaces {
		for _, f := range s.Facets {
			r := reading.Told(b.d, s, f)
			if r.Source.Kind != "env" || !b.unsetting[r.Source.Key] || b.told[s.ID+" "+f.Name] {
				continue
			}
			if err := b.write(s, f, r.Value, r); err != nil {
				return err
			}
		}
	}
	return nil
}

type builder struct {
	d    *desk.Desk
	seen *desk.Desk // as it is once the pieces are in place
	plan *Plan
	made map[string]bool
	// Variables that are taken out, and what surfaces are told by the plan, by
	// surface and facet.
	unsetting, told map[string]bool
}

func (b *builder) set(s desk.Surface, f desk.Facet, want string) error {
	block := func(why, remedy string) error {
		b.plan.Blocked = append(b.plan.Blocked, Blocked{s.ID, f.Name, why, remedy})
		return nil
	}
	switch err := reading.Check(b.seen, s, f, want); {
	case errors.As(err, new(*reading.ValueError)):
		return block(fmt.Sprintf("%s cannot follow: %v.", s.Title, err), "It stays as it is.")
	case err != nil:
		return block(fmt.Sprintf("%s would not find %s: %v.", s.Title, want, err), "Install it first, or choose another.")
	}
	r := reading.Of(b.d, s, f)
	if reading.Same(f, r.Value, want) && (r.Problem == nil || r.Problem.Code != "broken-source") {
		return nil
	}
	if r.Source.Kind == "env" { // it overrules what files say
		if r.Source.Path == "" {
			return block(fmt.Sprintf("the session's environment sets %s, which overrules the settings of %s.", r.Source.Key, s.Title), "Find what sets it, and take it out there.")
		}
		if err := b.unset(s, f, r.Source); err != nil {
			return err
		}
	}
	return b.write(s, f, want, r)
}

// write puts a facet's value into the file that a plan sets.
func (b *builder) write(s desk.Surface, f desk.Facet, want string, r reading.Reading) error {
	block := func(why, remedy string) error {
		b.plan.Blocked = append(b.plan.Blocked, Blocked{s.ID, f.Name, why, remedy})
		return nil
	}
	b.told[s.ID+" "+f.Name] = true
	target := targetOf(b.d, f, r)
	if target.Path == "" {
		return block(s.Title+" has no file that Ivelt may set.", "")
	}
	shown := b.d.Expand(target.Path)[0]
	p, err := b.resolve(shown)
	if err != nil {
		return err
	}
	why := fmt.Sprintf("tell %s to use %s", s.Title, want)
	for i := range b.plan.Ops { // a file that is written already gets this line too
		if op := &b.plan.Ops[i]; op.Kind == Write && op.Path == p {
			content, err := edited(op.Content, target, f, want)
			if err != nil {
				return err
			}
			op.Content = content
			op.After = fileState(op.Content, op.After.Mode)
			op.Why += ", and " + why
			return nil
		}
	}
	old, err := fs.ReadFile(b.d.Tree(), desk.Name(p))
	missing := errors.Is(err, fs.ErrNotExist)
	if err != nil && !missing {
		return block(fmt.Sprintf("%s cannot be read: %v.", b.d.Show(p), err), "Make it readable, then review again.")
	}
	content, err := edited(old, target, f, want)
	if err != nil {
		return block(fmt.Sprintf("%s is not a settings file that %s can read: %v.", b.d.Show(p), s.Title, err),
			"Mend or remove that line, then review again. Ivelt leaves the file as it is.")
	}
	if !missing && bytes.Equal(content, old) {
		return nil // it says so already, and was overruled
	}
	before, err := look(b.d, p)
	if err != nil {
		return err
	}
	mode := before.Mode
	if missing {
		mode = 0o644
		b.parents(p, f.Name)
	}
	b.add(Op{
		Kind: Write, Path: p, Before: before, After: fileState(content, mode), Content: content,
		Surface: s.ID, Facet: f.Name, Why: why, Effect: EffectOf(s.Restart),
	})
	return nil
}

// targetOf is the source that a plan sets: the one that is meant for it, or one
// that comes before that and speaks, and so would overrule it.
func targetOf(d *desk.Desk, f desk.Facet, r reading.Reading) desk.Source {
	for _, src := range f.Sources {
		if src.Write {
			return src
		}
		if src.Format == "env" {
			continue // it is taken out
		}
		for _, step := range r.Chain {
			if step.Key == src.Key && d.Mine(step.Path) && slices.Contains(d.Expand(src.Path), step.Path) && (step.State == reading.Wins || step.State == reading.Overruled) {
				return src
			}
		}
	}
	return desk.Source{}
}

// unset adds the operation that takes a variable out of the file that sets it:
// its line, and nothing else.
func (b *builder) unset(s desk.Surface, f desk.Facet, of reading.Origin) error {
	b.unsetting[of.Key] = true
	p, err := b.resolve(of.Path)
	if err != nil {
		return err
	}
	for i := range b.plan.Ops {
		if op := &b.plan.Ops[i]; op.Kind == Write && op.Path == p {
			op.Content = withoutVariable(op.Content, of.Key)
			op.After = fileState(op.Content, op.After.Mode)
			return nil
		}
	}
	old, err := fs.ReadFile(b.d.Tree(), desk.Name(p))
	if err != nil {
		return err
	}
	before, err := look(b.d, p)
	if err != nil {
		return err
	}
	content := withoutVariable(old, of.Key)
	b.add(Op{
		Kind: Write, Path: p, Before: before, After: fileState(content, before.Mode), Content: content,
		Surface: s.ID, Facet: f.Name, Why: "take out " + of.Key + ", which overrules what is set in files", Effect: EffectOf("session"),
	})
	return nil
}

// withoutVariable is a file without the lines that set a variable.
func withoutVariable(file []byte, name string) []byte {
	var out []byte
	for line := range bytes.Lines(file) {
		if key, _, ok := desk.Assignment(string(line)); !ok || key != name {
			out = append(out, line...)
		}
	}
	return out
}

// edited is a settings file in which a facet is as wanted, everything else in it
// as it was.
func edited(old []byte, target desk.Source, f desk.Facet, want string) ([]byte, error) {
	switch target.Format {
	case "xresources":
		return xresources.Set(old, target.Key, reading.Written(f, want)), nil
	case "gtkrc":
		if notes := gtkrc.Parse(old).Notes; len(notes) > 0 {
			return nil, fmt.Errorf("line %d: %s", notes[0].Line, notes[0].Text)
		}
		return gtkrc.Set(old, target.Key, reading.Written(f, want), f.Number != nil || f.Values != nil), nil
	}
	kf, err := keyfile.Parse(old)
	if err != nil {
		return nil, err
	}
	kf.Set(target.Group, target.Key, reading.Written(f, want))
	return kf.Bytes(), nil
}

// resolve follows the links of a path, so that a linked settings file is
// edited where it really lies and stays linked.
func (b *builder) resolve(p string) (string, error) {
	name, err := b.d.Tree().Resolve(desk.Name(p))
	if err != nil {
		return "", fmt.Errorf("%s: %w", b.d.Show(p), err)
	}
	return desk.Path(name), nil
}

// parents adds an operation for each folder above p that is missing.
func (b *builder) parents(p, facet string) {
	dir := path.Dir(p)
	if dir == "/" || dir == b.d.HomePath || b.made[dir] || b.d.Exists(dir) {
		return
	}
	b.parents(dir, facet)
	b.made[dir] = true
	b.add(Op{Kind: Folder, Path: dir, After: emptyTree, Facet: facet, Why: "have a folder for it", Effect: AtOnce})
}

func (b *builder) add(op Op) {
	op.Admin = !b.d.Mine(op.Path)
	b.plan.Ops = append(b.plan.Ops, op)
}

// Back plans to undo an applied plan: every path as it was before, byte for
// byte. keep returns the contents kept when the plan was applied, by hash. A
// path that was changed since stops it with [ErrChanged].
func Back(d *desk.Desk, done Plan, keep Keeper) (Plan, error) {
	out := Plan{Title: "Go back on: " + done.Title, Undoes: done.ID}
	after := map[string]State{} // of paths that this plan changes before
	for _, op := range slices.Backward(done.Ops) {
		now, changed := after[op.Path]
		if !changed {
			var err error
			if now, err = look(d, op.Path); err != nil {
				return Plan{}, err
			}
		}
		back := Op{Path: op.Path, Before: now, After: op.Before, Surface: op.Surface, Facet: op.Facet, Admin: op.Admin, Effect: op.Effect}
		switch {
		case op.Kind == Folder:
			if now.Kind != "tree" {
				continue // gone already
			}
			back.Kind, back.Before, back.Why = Remove, emptyTree, "it was made for this, and is removed if nothing else is in it"
		case now.Is(op.Before):
			continue
		case !now.Is(op.After):
			return Plan{}, fmt.Errorf("%w: %s is no longer as the change left it, so going back would lose what was done to it since. Nothing was touched", ErrChanged, d.Show(op.Path))
		case op.Kind == Link:
			back.Kind, back.Why = Remove, "the link was not there before"
		case op.Kind == Remove && op.Before.Kind == "link":
			back.Kind, back.Why = Link, "the link was there before"
		case op.Kind == Copy:
			back.Kind, back.Source, back.Files, back.Bytes, back.Why = Remove, op.Source, op.Files, op.Bytes, "it was not there before"
		case op.Kind == Remove && op.Source != nil:
			back.Kind, back.Source, back.Files, back.Bytes, back.Why = Copy, op.Source, op.Files, op.Bytes, "it was there before"
		case op.Kind == Remove && op.Before.Kind == "tree":
			back.Kind, back.After, back.Why = Folder, emptyTree, "it was there before"
		case op.Before.Kind == "":
			back.Kind, back.Why = Remove, "the file was not there before"
		default:
			content, err := keep.Get(op.Before.Hash)
			if err != nil {
				return Plan{}, fmt.Errorf("the original of %s: %w", d.Show(op.Path), err)
			}
			back.Kind, back.Content, back.Why = Write, content, "the file as it was before"
		}
		after[op.Path] = back.After
		out.Ops = append(out.Ops, back)
	}
	return out.seal(d), nil
}
