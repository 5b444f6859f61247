package plan

import (
	"fmt"
	"io/fs"
	"path"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/outfit"
)

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

type builder struct {
	d    *desk.Desk
	seen *desk.Desk // as it is once the pieces are in place
	plan *Plan
	made map[string]bool
	// Variables that are taken out, and what surfaces are told by the plan, by
	// surface and facet.
	unsetting, told map[string]bool
	outfit          outfit.Outfit
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
