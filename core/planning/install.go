package planning

import (
	"context"
	"fmt"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/say"
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
func Install(ctx context.Context, d *desk.Desk, p *parcel.Parcel, placings []Placing) (plan.Plan, error) {
	var out plan.Plan
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	var names []string
	for _, pl := range placings {
		added, err := b.install(ctx, p, pl)
		if err != nil {
			return plan.Plan{}, err
		}
		if added {
			names = append(names, pl.Piece.Name)
		}
	}
	if len(names) > 0 {
		out.Title = "Install " + strings.Join(names, ", ")
	}
	if len(names) == 0 && len(out.Ops) > 0 {
		out.Title = "Use " + placings[0].Piece.Name
	}
	return out.Seal(d), nil
}

func (b *builder) install(ctx context.Context, p *parcel.Parcel, pl Placing) (added bool, err error) {
	pc := pl.Piece
	to, err := b.resolve(pl.Target)
	if err != nil {
		return false, err
	}
	src := plan.Source{Parcel: p.Path, Root: pc.Root, Only: pc.Only, Secret: p.Password()}
	c, err := plan.ReadTree(p, src)
	if err != nil {
		return false, err
	}
	m, err := c.Manifest(ctx)
	if err != nil {
		return false, err
	}
	after := plan.State{Kind: "tree", Hash: m.Hash()}
	now, err := plan.Look(b.d, to)
	if err != nil {
		return false, err
	}
	if now.Kind != "" && !now.Is(after) {
		switch pl.Exists {
		case Leave:
			return false, nil
		case Both:
			if pc.Kind == parcel.Descriptor {
				return false, say.Errorf("%w: there cannot be two descriptors of %s. Replace the one that is there, or leave it", plan.ErrExists, pc.Name)
			}
			for n := 2; now.Kind != "" && !now.Is(after); n++ {
				to = fmt.Sprintf("%s-%d", strings.TrimSuffix(to, fmt.Sprintf("-%d", n-1)), n)
				if now, err = plan.Look(b.d, to); err != nil {
					return false, err
				}
			}
			pl.Links = nil
		case Replace:
			if err := b.takeAway(to, string(pc.Kind), now); err != nil {
				return false, err
			}
			now = plan.State{}
		default:
			return false, say.Errorf("%w: something else is in %s. Replace it, keep both, or leave it", plan.ErrExists, b.d.Show(to))
		}
	}
	if owner := b.owner(to); owner != "" {
		return false, say.Errorf("%s %w, %s: its next update would write over it. Put it in place for yourself instead", b.d.Show(to), plan.ErrOwned, owner)
	}
	if !now.Is(after) {
		b.parents(to, string(pc.Kind))
		b.add(plan.Op{
			Kind: plan.Copy, Path: to, After: after, Source: &src, Files: c.Count(), Bytes: c.Bytes,
			Facet: string(pc.Kind), Says: say.Of("plan/put-where-programs-look", pc.Kind.Title(), pc.Name), Effect: plan.AtOnce,
		})
		added = true
	}
	if pc.Kind == parcel.Descriptor {
		if err := b.pin(p, pc, to); err != nil {
			return false, err
		}
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
		now, err := plan.Look(b.d, at)
		if err != nil || now.Kind != "" || at == to {
			continue // there already, or one of the folders is a link to the other
		}
		if pl.Second == ByCopy {
			b.parents(at, string(pc.Kind))
			b.add(plan.Op{
				Kind: plan.Copy, Path: at, After: after, Source: &src, Files: c.Count(), Bytes: c.Bytes,
				Facet: string(pc.Kind), Says: say.Of("plan/show-programs-that-follow-no-link"), Effect: plan.AtOnce,
			})
			added = true
			continue
		}
		target, err := filepath.Rel(path.Dir(at), to)
		if err != nil {
			return false, err
		}
		b.parents(at, string(pc.Kind))
		b.add(plan.Op{
			Kind: plan.Link, Path: at, After: plan.State{Kind: "link", Hash: filepath.ToSlash(target)},
			Facet: string(pc.Kind), Says: say.Of("plan/show-programs-look-only-here"), Effect: plan.AtOnce,
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
	now, err := plan.Look(d, to)
	if err != nil || now.Kind == "" {
		return false, false
	}
	c, err := plan.ReadTree(p, plan.Source{Root: pc.Root, Only: pc.Only})
	if err != nil {
		return false, true
	}
	m, err := c.Manifest(ctx)
	same = err == nil && now.Is(plan.State{Kind: "tree", Hash: m.Hash()})
	return same, !same
}

// takeAway adds the operation that removes what is at a path, whoever put it
// there, so that it can come back.
func (b *builder) takeAway(p, facet string, now plan.State) error {
	if now.Kind != "tree" {
		return say.Errorf("%w: %s is no folder; move it away yourself", plan.ErrExists, b.d.Show(p))
	}
	if owner := b.owner(p); owner != "" {
		return say.Errorf("%s %w, %s: remove it with the package manager", b.d.Show(p), plan.ErrOwned, owner)
	}
	kept, lost, err := plan.Pack(b.d.HostPath(p))
	if err != nil {
		return err
	}
	b.add(plan.Op{
		Kind: plan.Remove, Path: p, Before: now, Source: &plan.Source{Root: ".", Kept: plan.Digest(kept)}, Bytes: int64(len(kept)), Facet: facet, Loses: lost,
		Says: say.Of("plan/something-else-be-here-this"), Effect: plan.AtOnce,
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
func TakeAway(d *desk.Desk, p, name, kind string) (plan.Plan, error) {
	out := plan.Plan{Title: "Remove " + name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	to, err := b.resolve(p)
	if err != nil {
		return plan.Plan{}, err
	}
	now, err := plan.Look(d, to)
	if err == nil {
		err = b.takeAway(to, kind, now)
	}
	if err == nil {
		err = b.unpin(to)
	}
	if err != nil {
		return plan.Plan{}, err
	}
	return out.Seal(d), nil
}

// Uninstall plans to take away a piece that a plan put in place: what it copied
// to p, the copies of it in second folders, and the links that lead there. A
// piece that was changed since is kept as it is now.
func Uninstall(d *desk.Desk, done plan.Plan, p, name string) (plan.Plan, error) {
	out := plan.Plan{Title: "Remove " + name}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	of, facet := "", "" // the piece, as the parcel has it
	for _, op := range done.Ops {
		if op.Kind == plan.Copy && op.Path == p && op.Source.Only == nil && op.Source.Root != "." {
			of, facet = op.Source.Root, op.Facet
		}
	}
	for _, op := range slices.Backward(done.Ops) {
		leads := op.Kind == plan.Link && path.Join(path.Dir(op.Path), op.After.Hash) == p
		if !leads && (op.Kind != plan.Copy || op.Path != p && (op.Source.Root != of || op.Facet != facet)) {
			continue
		}
		now, err := plan.Look(d, op.Path)
		switch {
		case err != nil:
			return plan.Plan{}, err
		case now.Kind == "":
			continue
		case !now.Is(op.After) && leads:
			continue // the link leads elsewhere by now
		case !leads && now.Is(op.After):
			odd, err := plan.Unusual(b.d.HostPath(op.Path))
			if err != nil {
				return plan.Plan{}, err
			}
			if odd {
				if err := b.takeAway(op.Path, op.Facet, now); err != nil {
					return plan.Plan{}, err
				}
				continue
			}
		case !now.Is(op.After): // what was done to it since is kept with it
			if err := b.takeAway(op.Path, op.Facet, now); err != nil {
				return plan.Plan{}, err
			}
			continue
		}
		why := say.Of("plan/piece-itself")
		if leads {
			why = say.Of("plan/link-to-piece")
		}
		b.add(plan.Op{Kind: plan.Remove, Path: op.Path, Before: now, Source: op.Source, Files: op.Files, Bytes: op.Bytes, Facet: op.Facet, Says: why, Effect: plan.AtOnce})
	}
	if err := b.unpin(p); err != nil {
		return plan.Plan{}, err
	}
	return out.Seal(d), nil
}
