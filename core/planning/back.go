package planning

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// Take is which version of a file a going back takes.
type Take string

const (
	TakeNow    Take = "now"    // what stands there now stays
	TakeBefore Take = "before" // what stood there before the change comes back
	TakeBoth   Take = "both"   // what the change did is undone, what was done since stays
)

// Aim is what to go back on: everything, or only what one surface is told, or
// what is told of one facet.
type Aim struct {
	Surface, Facet string           // "" for all
	Takes          map[string]Take  // by path of the desk, where somebody else has changed a file since
	Lines          map[string][]int // by path: the clashes in which the older lines are taken
}

// Conflict is a file or a folder that somebody else has changed since the change
// that is gone back on, or between two of them.
type Conflict struct {
	Path              string
	Before, Left, Now []byte  // the contents: before the changes, as the last of them left it, and as it is
	Both              []byte  // with the changes undone as far as newer edits allow
	BothNone          bool    // that is nothing at all
	Clashes           []Clash // of Both: where an edit and the undoing are about the same lines
	Edits             []Edit  // what somebody else did, the earliest first
	Between           bool    // it was edited between two of the changes
	WasNone, IsNone   bool    // there was nothing before, there is nothing now
	Tree              bool    // it is a folder or a link: its contents are not told
	Lost              string  // why what was kept of it cannot be put back, or ""
	Takes             []Take  // what there is to choose from
	Taken             Take
}

// Edit is what somebody else did to a file: after the last change, or between it and
// the next.
type Edit struct {
	From, To []byte
	Since    bool // after the last one
	Gone     bool // they took the file away
}

// Return is a going back: the plan for it, and what was changed since.
type Return struct {
	Plan      plan.Plan
	Conflicts []Conflict
	Kept      []string // paths of folders that a going back in part leaves in place
}

// Back plans to go back on plans that were carried out one after the other, the
// first before the others: every path as it was before them, byte for byte. keep
// has the contents that were kept then. Where somebody has changed a file since,
// what they did stays, unless aim says otherwise.
func Back(d *desk.Desk, done []plan.Plan, keep plan.Keeper, aim Aim) (Return, error) {
	out := plan.Plan{Part: aim.words(d)}
	for _, p := range done {
		out.Undoes = append(out.Undoes, p.ID)
	}
	switch {
	case len(done) == 1:
		out.Title = "Go back on: " + done[0].Title
	case len(done) > 1:
		out.Title = fmt.Sprintf("Go back to before: %s", done[0].Title)
	}
	if out.Part != "" {
		out.Title += ", for " + out.Part
	}
	r := newReturning(d, done, keep, aim, &out)
	for _, t := range slices.Backward(touched(done)) {
		if err := r.restore(t); err != nil {
			return Return{}, say.Errorf("%s: %w", d.Show(t.path), err)
		}
	}
	slices.SortFunc(r.out.Conflicts, func(a, b Conflict) int { return cmp.Compare(a.Path, b.Path) })
	r.out.Plan = out.Seal(d)
	return r.out, nil
}

func (a Aim) words(d *desk.Desk) string {
	var out []string
	if s, ok := d.Surface(a.Surface); ok {
		out = append(out, s.Title)
	}
	if a.Facet != "" {
		out = append(out, string(desk.FacetTitle(a.Facet)))
	}
	return strings.Join(out, ", ")
}

// touch is a path that plans have touched, with what each did to it.
type touch struct {
	path           string
	folder         bool
	found          bool // it was kept as it was found
	steps          []step
	surface, facet string
	effect         plan.Effect
}

// step is what one operation did to a path.
type step struct {
	before, after plan.State
	was, is       held // what is needed to make the one and the other again
}

// held is where a tree can be copied from.
type held struct {
	source *plan.Source
	files  int
	bytes  int64
}

func (t touch) before() plan.State { return t.steps[0].before }

func (t touch) left() plan.State { return t.steps[len(t.steps)-1].after }

// between reports whether somebody else changed the path between two steps.
func (t touch) between() bool {
	for i := range t.steps[1:] {
		if !t.steps[i].after.Is(t.steps[i+1].before) {
			return true
		}
	}
	return false
}

// file reports whether the path was never anything but a file or nothing.
func (t touch) file() bool {
	return !slices.ContainsFunc(t.steps, func(s step) bool {
		return s.before.Kind != "file" && s.before.Kind != "" || s.after.Kind != "file" && s.after.Kind != ""
	})
}

// touched lists the paths in the order they were first touched.
func touched(done []plan.Plan) []touch {
	var out []touch
	at := map[string]int{}
	for _, p := range done {
		for _, op := range p.Ops {
			i, known := at[op.Path]
			if !known {
				i = len(out)
				at[op.Path] = i
				out = append(out, touch{path: op.Path, folder: op.IsFolder(), surface: op.Surface, facet: op.Facet, effect: op.Effect})
			}
			s := step{before: op.Before, after: op.After}
			out[i].found = out[i].found || op.Kind == plan.AsIs
			if op.Kind == plan.Folder {
				s.before = plan.State{}
			}
			switch from := (held{op.Source, op.Files, op.Bytes}); op.Kind {
			case plan.Remove:
				s.was = from
			case plan.Copy:
				s.is = from
			}
			out[i].steps = append(out[i].steps, s)
		}
	}
	return out
}

// returning makes a going back.
type returning struct {
	builder
	keep  plan.Keeper
	aim   Aim
	wrote map[string][]byte // what the plans wrote, by hash
	out   Return
}

func newReturning(d *desk.Desk, done []plan.Plan, keep plan.Keeper, aim Aim, out *plan.Plan) *returning {
	wrote := map[string][]byte{}
	for _, p := range done {
		for _, op := range p.Ops {
			if op.Kind == plan.Write {
				wrote[op.After.Hash] = op.Content
			}
		}
	}
	return &returning{builder: builder{d: d, plan: out, made: map[string]bool{}}, keep: keep, aim: aim, wrote: wrote}
}

func (r *returning) whole() bool { return r.aim.Surface == "" && r.aim.Facet == "" }

func (r *returning) restore(t touch) error {
	if t.folder {
		now, err := plan.LookFolder(r.d, t.path)
		if err != nil {
			return err
		}
		return r.folder(t, now)
	}
	now, err := plan.Look(r.d, t.path)
	if err != nil {
		return err
	}
	_, setting := desk.Setting(t.path)
	_, isPackage := desk.PackageOf(t.path)
	switch {
	case now.Is(t.before()) || t.before().Is(t.left()) && !t.between() && !t.found:
		return nil
	case setting:
		return r.setting(t, now)
	case isPackage:
		return r.packages(t, now)
	case t.file() && (now.Kind == "file" || now.Kind == ""):
		return r.file(t, now)
	}
	return r.tree(t, now)
}

func (r *returning) op(t touch, kind plan.Kind, before, after plan.State, why say.Message) plan.Op {
	return plan.Op{Kind: kind, Path: t.path, Before: before, After: after, Surface: t.surface, Facet: t.facet, Effect: t.effect, Says: why}
}

func (r *returning) folder(t touch, now plan.State) error {
	switch {
	case !r.whole():
	case t.before().Kind == "" && now.Kind == "tree":
		r.add(r.op(t, plan.Remove, plan.EmptyTree, plan.State{}, say.Of("plan/was-made-this-removed-if")))
	case t.before().Kind == "tree" && now.Kind == "" && !r.made[t.path]:
		r.parents(t.path, t.facet)
		r.made[t.path] = true
		r.add(r.op(t, plan.Folder, plan.State{}, plan.EmptyTree, say.Of("plan/was-there-before")))
	}
	return nil
}

// tree goes back on a piece that was copied, taken away or replaced, or on a link.
func (r *returning) tree(t touch, now plan.State) error {
	if !r.whole() {
		r.out.Kept = append(r.out.Kept, t.path)
		return nil
	}
	here := t.steps[len(t.steps)-1].is // what is there now
	want, from := now, here
	if now.Is(t.left()) { // undone step by step, as far as nobody else has changed it
		for i := len(t.steps) - 1; i >= 0; i-- {
			want, from = t.steps[i].before, t.steps[i].was
			if i > 0 && !t.steps[i-1].after.Is(want) {
				break
			}
		}
	}
	if !want.Is(t.before()) || t.between() {
		c := Conflict{Path: t.path, Tree: true, Between: t.between(), WasNone: t.before().Kind == "", IsNone: now.Kind == "", Takes: []Take{TakeNow}, Taken: TakeNow}
		if now.Kind != "file" && now.Kind != "other" || t.file() { // these would have no source to come back from
			c.Takes = append(c.Takes, TakeBefore)
		}
		if !want.Is(now) && !want.Is(t.before()) {
			c.Takes, c.Taken = append([]Take{TakeBoth}, c.Takes...), TakeBoth
		}
		if slices.Contains(c.Takes, r.aim.Takes[t.path]) {
			c.Taken = r.aim.Takes[t.path]
		}
		r.out.Conflicts = append(r.out.Conflicts, c)
		switch c.Taken {
		case TakeNow:
			return nil
		case TakeBefore:
			want, from = t.before(), t.steps[0].was
		}
	}
	var lost []plan.Loss
	if now.Kind == "tree" {
		odd, err := plan.Unusual(r.d.HostPath(t.path))
		if err != nil {
			return err
		}
		if odd || !now.Is(t.left()) { // its parcel would not give it back as it is
			kept, lose, err := plan.Pack(r.d.HostPath(t.path))
			if err != nil {
				return err
			}
			here, lost = held{&plan.Source{Root: ".", Kept: plan.Digest(kept)}, 0, int64(len(kept))}, lose
		}
	}
	return r.instead(t, now, want, here, from, lost)
}

// instead takes away what is at a path, a tree that here can give back, and puts
// there what was.
func (r *returning) instead(t touch, now, want plan.State, here, from held, lost []plan.Loss) error {
	var content []byte
	if want.Kind == "file" {
		var err error
		if content, err = r.keep.Get(want.Hash); err != nil {
			r.lost(Conflict{Path: t.path, Tree: true, IsNone: now.Kind == ""}, err)
			return nil
		}
	}
	if now.Kind != "" {
		op := r.op(t, plan.Remove, now, plan.State{}, say.Of("plan/was-not-there-before"))
		if want.Kind != "" {
			op.Says = say.Of("plan/something-else-was-there-before")
		}
		if now.Kind == "tree" {
			op.Source, op.Files, op.Bytes, op.Loses = here.source, here.files, here.bytes, lost
		}
		r.add(op)
	}
	if want.Kind == "" {
		return nil
	}
	op := r.op(t, plan.Link, plan.State{}, want, say.Of("plan/was-there-before"))
	switch want.Kind {
	case "tree":
		op.Kind, op.Source, op.Files, op.Bytes = plan.Copy, from.source, from.files, from.bytes
	case "file":
		op.Kind, op.Content = plan.Write, content
	}
	if now.Kind == "" {
		r.parents(t.path, t.facet)
	}
	r.add(op)
	return nil
}

// lost leaves a path as it is, because what was kept of it cannot be had.
func (r *returning) lost(c Conflict, err error) {
	c.Lost, c.Takes, c.Taken = err.Error(), []Take{TakeNow}, TakeNow
	r.out.Conflicts = append(r.out.Conflicts, c)
}
