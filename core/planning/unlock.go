package planning

import (
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/signed"
	"ivelt/core/unlock"
)

// Errors of plans for a desk under a lock.
var (
	ErrNoLock   = errors.New("nothing on this desk is under a lock")
	ErrNoMethod = errors.New("no way is known to unlock this version")
)

// Defaults plans to take out what the surfaces of a desk under a lock are told otherwise than by
// default.
func Defaults(d *desk.Desk) (plan.Plan, error) {
	s, l := d.Locked()
	if l == nil {
		return plan.Plan{}, ErrNoLock
	}
	out := plan.Plan{Title: "Put " + s.Title + " at its defaults"}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	for _, r := range unlock.Changed(d, l) {
		of, _ := d.Surface(r.Surface)
		f, _ := of.Facet(r.Facet)
		for _, src := range f.Sources {
			if src.Format != "keyfile" || reading.PlaceOf(d, of, src, nil) != r.Source.Path {
				continue
			}
			info, _ := desk.FacetOf(f.Name)
			err := b.edit(r.Source.Path, of, f, say.Of("plan/to-default", info.Title, info.Says(f.Default)), plan.EffectOf(of.Restart), func(old []byte) []byte {
				kf, err := keyfile.Parse(old)
				if err != nil {
					return old
				}
				kf.Remove(src.Group, src.Key)
				return kf.Bytes()
			})
			if err != nil {
				return plan.Plan{}, err
			}
		}
	}
	return out.Seal(d), nil
}

// Unlock plans to have the owner's key taken, by the method that fits the system's version.
// The watchman is told first.
func Unlock(d *desk.Desk) (plan.Plan, error) {
	s, l := d.Locked()
	if l == nil || d.SigningKey == nil {
		return plan.Plan{}, ErrNoLock
	}
	release := reading.Release(d, l)
	u, ok := l.Method(release)
	if !ok {
		return plan.Plan{}, say.Errorf("%w: %s %s", ErrNoMethod, s.Title, release)
	}
	out := plan.Plan{Title: "Unlock " + s.Title + " " + release}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	err := b.edit(u.Key.Path, s, desk.Facet{}, say.Of("plan/unlock", u.Title), plan.MachineRestart, func(old []byte) []byte {
		kf, err := keyfile.Parse(old)
		if err != nil {
			kf = &keyfile.File{}
		}
		beside := reading.Beside(d, u, release)
		for _, key := range sortedKeys(beside) {
			kf.Set(u.Key.Group, key, beside[key])
		}
		kf.Set(u.Key.Group, u.Key.Key, signed.Public(d.SigningKey))
		return kf.Bytes()
	})
	if err != nil {
		return plan.Plan{}, err
	}
	if i := slices.IndexFunc(out.Ops, func(op plan.Op) bool { return op.Kind == plan.Write }); i >= 0 {
		rest := out.Ops
		out.Ops = nil
		if err := b.tellWatchman(s, l, map[string][]byte{u.Key.Path: rest[i].Content}); err != nil {
			return plan.Plan{}, err
		}
		out.Ops = append(out.Ops, rest...)
	}
	return out.Seal(d), nil
}

func sortedKeys(of map[string]string) (out []string) {
	for key := range of {
		out = append(out, key)
	}
	slices.Sort(out)
	return out
}

// wayBack is where the originals of steps are kept that a text console may need.
const wayBack = "{state}/ivelt/way-back"

// ErrNoWayBack: what a plan does cannot be undone on a text console.
var ErrNoWayBack = errors.New("it could not be undone on a text console")

// Way is the way back of several plans, one after the other, for a text console.
type Way struct {
	ID    string   // of them all
	Step  int      // which one of them a plan is
	Lines []string // that undo those before it, the newest change first
	Again string   // what starts the system again
}

// Folder is where what it needs is kept, as a path of the desk.
func (w Way) Folder(d *desk.Desk) string { return path.Join(d.First(wayBack), w.ID) }

// Console is what is typed, all as an administrator.
func (w Way) Console() (out []string) {
	if len(w.Lines) == 0 {
		return nil
	}
	for _, line := range append(slices.Clone(w.Lines), w.Again) {
		out = append(out, "sudo "+line)
	}
	return out
}

// With is a plan that keeps what it changes where a text console gets at it, with the lines that
// undo it and all before it in a file beside, and the way back as it is then. Errors wrap
// [ErrNoWayBack].
func (w Way) With(d *desk.Desk, p plan.Plan) (plan.Plan, Way, error) {
	if len(p.Ops) == 0 {
		return p, w, nil
	}
	b := builder{d: d, plan: &plan.Plan{}, made: map[string]bool{}}
	s, _ := d.Locked()
	folder := w.Folder(d)
	fresh := !d.Exists(folder)
	put := func(name string, content []byte, like plan.State) error {
		at := path.Join(folder, name)
		now, err := plan.Look(d, at)
		if err != nil {
			return err
		}
		after := plan.FileState(content, like.Mode)
		if now.Is(after) {
			return nil
		}
		b.parents(at, "")
		b.add(plan.Op{Kind: plan.Write, Path: at, Before: now, After: after, Content: content, Surface: s.ID, Says: say.Of("plan/keep-for-way-back"), Effect: plan.AtOnce})
		return nil
	}
	var lines []string
	for i, op := range p.Ops {
		at := plan.Quote(op.Path)
		switch {
		case op.Kind == plan.Folder:
			lines = append(lines, "rmdir "+at)
		case op.Kind == plan.Copy && op.Before.Kind == "":
			lines = append(lines, "rm -rf "+at)
		case (op.Kind == plan.Write || op.Kind == plan.Link) && op.Before.Kind == "":
			lines = append(lines, "rm -f "+at)
		case (op.Kind == plan.Write || op.Kind == plan.Remove) && op.Before.Kind == "file":
			old, err := d.Tree().ReadFile(desk.Name(op.Path))
			if err != nil {
				return p, w, err
			}
			name := fmt.Sprintf("%d/%d", w.Step, i)
			if err := put(name, old, op.Before); err != nil {
				return p, w, err
			}
			lines = append(lines, "cp -p "+plan.Quote(path.Join(folder, name))+" "+at)
		default:
			return p, w, say.Errorf("%w: %s", ErrNoWayBack, op.Why)
		}
	}
	slices.Reverse(lines)
	if fresh { // what was not there before goes last
		b.parents(path.Join(folder, "lines.txt"), "")
		lines = append(lines, "rm -rf "+plan.Quote(folder))
		for _, op := range slices.Backward(b.plan.Ops) {
			if op.Kind == plan.Folder && !strings.HasPrefix(op.Path+"/", folder+"/") {
				lines = append(lines, "rmdir "+plan.Quote(op.Path))
			}
		}
	}
	w.Lines = append(lines, w.Lines...)
	w.Step++
	if err := put("lines.txt", []byte(strings.Join(w.Console(), "\n")+"\n"), plan.State{Mode: 0o644}); err != nil {
		return p, w, err
	}
	p.Ops = append(b.plan.Ops, p.Ops...)
	return p.Seal(d), w, nil
}

// TidyWay plans to take away what was kept for a way back on a text console.
func TidyWay(d *desk.Desk, w Way) (plan.Plan, error) {
	out := plan.Plan{Title: "Keep the look: take away what was kept for the way back"}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	if d.Exists(w.Folder(d)) {
		now, err := plan.Look(d, w.Folder(d))
		if err != nil {
			return plan.Plan{}, err
		}
		if err := b.takeAway(w.Folder(d), "", now); err != nil {
			return plan.Plan{}, err
		}
		out.Ops[0].Says = say.Of("plan/way-back-not-needed")
	}
	return out.Seal(d), nil
}
