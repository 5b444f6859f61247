package plan

import (
	"bytes"
	"cmp"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/reading"
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
	Surface, Facet string          // "" for all
	Takes          map[string]Take // by path of the desk, where somebody else has changed a file since
}

// Conflict is a file or a folder that somebody else has changed since the change
// that is gone back on.
type Conflict struct {
	Path              string
	Before, Left, Now []byte // the contents: before the change, as the change left it, and as it is
	Both              []byte
	WasNone, IsNone   bool   // there was nothing before, there is nothing now
	Tree              bool   // it is a folder: its contents are not told
	Takes             []Take // what there is to choose from
	Taken             Take
}

// Return is a going back: the plan for it, and what was changed since.
type Return struct {
	Plan      Plan
	Conflicts []Conflict
	Kept      []string // paths of folders that a going back in part leaves in place
}

// Back plans to go back on plans that were carried out one after the other, the
// first before the others: every path as it was before them, byte for byte. keep
// has the contents that were kept then. Where somebody has changed a file since,
// what they did stays, unless aim says otherwise.
func Back(d *desk.Desk, done []Plan, keep Keeper, aim Aim) (Return, error) {
	out := Plan{Part: aim.words(d)}
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
			return Return{}, fmt.Errorf("%s: %w", d.Show(t.path), err)
		}
	}
	slices.SortFunc(r.out.Conflicts, func(a, b Conflict) int { return cmp.Compare(a.Path, b.Path) })
	r.out.Plan = out.seal(d)
	return r.out, nil
}

func (a Aim) words(d *desk.Desk) string {
	var out []string
	if s, ok := d.Surface(a.Surface); ok {
		out = append(out, s.Title)
	}
	if a.Facet != "" {
		out = append(out, desk.FacetTitle(a.Facet))
	}
	return strings.Join(out, ", ")
}

// touch is a path that plans have touched: how it was before them and how they
// left it.
type touch struct {
	path             string
	folder           bool
	before, left     State
	source, leftFrom *Source // of a tree
	files, leftFiles int
	bytes, leftBytes int64
	surface, facet   string
	effect           Effect
}

// touched lists the paths in the order they were first touched.
func touched(done []Plan) []touch {
	var out []touch
	at := map[string]int{}
	for _, p := range done {
		for _, op := range p.Ops {
			i, known := at[op.Path]
			if !known {
				i = len(out)
				at[op.Path] = i
				t := touch{path: op.Path, folder: op.IsFolder(), before: op.Before, surface: op.Surface, facet: op.Facet, effect: op.Effect}
				if op.Kind == Folder {
					t.before = State{}
				}
				if op.Kind == Remove && op.Before.Kind == "tree" {
					t.source, t.files, t.bytes = op.Source, op.Files, op.Bytes
				}
				out = append(out, t)
			}
			out[i].left = op.After
			if op.Kind == Copy {
				out[i].leftFrom, out[i].leftFiles, out[i].leftBytes = op.Source, op.Files, op.Bytes
			}
		}
	}
	return out
}

// returning makes a going back.
type returning struct {
	builder
	keep  Keeper
	aim   Aim
	wrote map[string][]byte // what the plans wrote, by hash
	out   Return
}

func newReturning(d *desk.Desk, done []Plan, keep Keeper, aim Aim, out *Plan) *returning {
	wrote := map[string][]byte{}
	for _, p := range done {
		for _, op := range p.Ops {
			if op.Kind == Write {
				wrote[op.After.Hash] = op.Content
			}
		}
	}
	return &returning{builder: builder{d: d, plan: out, made: map[string]bool{}}, keep: keep, aim: aim, wrote: wrote}
}

func (r *returning) whole() bool { return r.aim.Surface == "" && r.aim.Facet == "" }

func (r *returning) restore(t touch) error {
	if t.folder {
		now, err := lookFolder(r.d, t.path)
		if err != nil {
			return err
		}
		return r.folder(t, now)
	}
	now, err := look(r.d, t.path)
	if err != nil {
		return err
	}
	switch {
	case t.before.Is(t.left) || now.Is(t.before):
		return nil
	case t.before.Kind == "tree" || t.left.Kind == "tree" || t.before.Kind == "link" || t.left.Kind == "link":
		return r.tree(t, now)
	case now.Kind != "file" && now.Kind != "":
		return r.tree(t, now) // a folder or a link by now
	}
	return r.file(t, now)
}

func (r *returning) op(t touch, kind Kind, before, after State, why string) Op {
	return Op{Kind: kind, Path: t.path, Before: before, After: after, Surface: t.surface, Facet: t.facet, Effect: t.effect, Why: why}
}

func (r *returning) folder(t touch, now State) error {
	switch {
	case !r.whole():
	case t.before.Kind == "" && now.Kind == "tree":
		r.add(r.op(t, Remove, emptyTree, State{}, "it was made for this, and is removed if nothing else is in it"))
	case t.before.Kind == "tree" && now.Kind == "" && !r.made[t.path]:
		r.parents(t.path, t.facet)
		r.made[t.path] = true
		r.add(r.op(t, Folder, State{}, emptyTree, "it was there before"))
	}
	return nil
}

// tree goes back on a piece that was copied, taken away or replaced, or on a link.
func (r *returning) tree(t touch, now State) error {
	if !r.whole() {
		r.out.Kept = append(r.out.Kept, t.path)
		return nil
	}
	from, files, size := t.leftFrom, t.leftFiles, t.leftBytes
	if !now.Is(t.left) {
		c := Conflict{Path: t.path, Tree: true, WasNone: t.before.Kind == "", IsNone: now.Kind == "", Takes: []Take{TakeNow, TakeBefore}, Taken: TakeNow}
		if now.Kind == "file" { // it would have no source to come back from
			c.Takes = []Take{TakeNow}
		}
		if slices.Contains(c.Takes, r.aim.Takes[t.path]) {
			c.Taken = r.aim.Takes[t.path]
		}
		r.out.Conflicts = append(r.out.Conflicts, c)
		if c.Taken == TakeNow {
			return nil
		}
		if now.Kind == "tree" {
			kept, err := tarOf(r.d.HostPath(t.path))
			if err != nil {
				return err
			}
			from, files, size = &Source{Root: ".", Kept: Digest(kept)}, 0, int64(len(kept))
		}
	}
	if now.Kind != "" {
		op := r.op(t, Remove, now, State{}, "it was not there before")
		if t.before.Kind != "" {
			op.Why = "something else was there before"
		}
		if now.Kind == "tree" {
			op.Source, op.Files, op.Bytes = from, files, size
		}
		r.add(op)
	}
	if t.before.Kind == "" {
		return nil
	}
	op := r.op(t, Link, State{}, t.before, "it was there before")
	switch t.before.Kind {
	case "tree":
		op.Kind, op.Source, op.Files, op.Bytes = Copy, t.source, t.files, t.bytes
	case "file":
		content, err := r.keep.Get(t.before.Hash)
		if err != nil {
			return err
		}
		op.Kind, op.Content = Write, content
	}
	if now.Kind == "" {
		r.parents(t.path, t.facet)
	}
	r.add(op)
	return nil
}

// content of a state of a file; nothing has none.
func (r *returning) content(s State) ([]byte, error) {
	if s.Kind != "file" {
		return nil, nil
	}
	return r.keep.Get(s.Hash)
}

// file goes back on a file, or on what of it the aim asks for.
func (r *returning) file(t touch, now State) error {
	before, err := r.content(t.before)
	if err != nil {
		return fmt.Errorf("the original: %w", err)
	}
	is, err := r.read(t.path, now)
	if err != nil {
		return err
	}
	left := is
	if !now.Is(t.left) {
		if left, err = r.left(t); err != nil {
			return err
		}
	}
	want, state, why := before, t.before, "the file as it was before"
	if !r.whole() {
		var others []string
		if want, others, err = r.part(t, left, before); err != nil {
			return err
		}
		if bytes.Equal(want, left) {
			return nil // nothing of it is what the aim asks for
		}
		why = "what it said before for " + r.aim.words(r.d)
		if len(others) > 0 {
			why += "; the same lines tell " + strings.Join(others, ", ")
		}
		state = fileState(want, cmp.Or(t.left.Mode, 0o644))
	}
	if !now.Is(t.left) {
		c := Conflict{Path: t.path, Before: want, Left: left, Now: is, WasNone: state.Kind == "", IsNone: now.Kind == "", Takes: []Take{TakeNow, TakeBefore}, Taken: TakeNow}
		if c.Both, err = r.both(t, c); err != nil {
			return err
		}
		if c.Both != nil {
			c.Takes = []Take{TakeBoth, TakeNow, TakeBefore}
			c.Taken = TakeBoth
		}
		if slices.Contains(c.Takes, r.aim.Takes[t.path]) {
			c.Taken = r.aim.Takes[t.path]
		}
		r.out.Conflicts = append(r.out.Conflicts, c)
		switch c.Taken {
		case TakeNow:
			return nil
		case TakeBoth:
			want, state, why = c.Both, fileState(c.Both, now.Mode), "what the change did is undone, what was done since stays"
		}
	}
	switch {
	case now.Is(state):
	case state.Kind == "":
		r.add(r.op(t, Remove, now, State{}, "the file was not there before"))
	default:
		if now.Kind == "" {
			r.parents(t.path, t.facet)
		}
		op := r.op(t, Write, now, state, why)
		op.Content = want
		r.add(op)
	}
	return nil
}

func (r *returning) read(p string, now State) ([]byte, error) {
	if now.Kind != "file" {
		return nil, nil
	}
	return os.ReadFile(r.d.HostPath(p))
}

// left is what the last of the plans wrote: it is in the plan itself.
func (r *returning) left(t touch) ([]byte, error) {
	if t.left.Kind != "file" {
		return nil, nil
	}
	if content, ok := r.wrote[t.left.Hash]; ok {
		return content, nil
	}
	return nil, fmt.Errorf("what the change wrote is not known any more")
}

// both undoes what a change did to a file and leaves what was done since: nil if
// that cannot be told apart, by lines and by what the surfaces are told.
func (r *returning) both(t touch, c Conflict) ([]byte, error) {
	if c.IsNone || c.WasNone {
		return nil, nil
	}
	merged, ok := merge(c.Left, c.Now, c.Before)
	if !ok || bytes.Equal(merged, c.Now) {
		return nil, nil
	}
	if !r.settings(t) {
		return merged, nil
	}
	left, err := r.told(t.path, c.Left)
	if err != nil {
		return nil, err
	}
	now, err := r.told(t.path, c.Now)
	if err != nil {
		return nil, err
	}
	after, err := r.told(t.path, merged)
	if err != nil {
		return nil, err
	}
	for facet, says := range now {
		if says != left[facet] && after[facet] != says {
			return nil, nil // what was said since would be said no more
		}
	}
	return merged, nil
}

// settings reports whether surfaces are told something by a file.
func (r *returning) settings(t touch) bool { return t.surface != "" }

// Told is a facet of a surface that is told something.
type Told struct{ Surface, Facet string }

// Changed are the surfaces and facets that plans which were carried out one after
// the other told something else than before.
func Changed(d *desk.Desk, done []Plan, keep Keeper) ([]Told, error) {
	r := newReturning(d, done, keep, Aim{}, &Plan{})
	var out []Told
	for _, t := range touched(done) {
		if t.folder || !r.settings(t) || t.before.Kind == "tree" || t.left.Kind == "tree" {
			continue
		}
		before, err := r.content(t.before)
		if err != nil {
			return nil, err
		}
		left, err := r.left(t)
		if err != nil {
			return nil, err
		}
		was, err := r.told(t.path, before)
		if err != nil {
			return nil, err
		}
		is, err := r.told(t.path, left)
		if err != nil {
			return nil, err
		}
		for f := range is {
			if is[f] != was[f] && !slices.Contains(out, f) {
				out = append(out, f)
			}
		}
	}
	return out, nil
}

// told is what a file says to each surface of each facet, if it has some content.
func (r *returning) told(p string, content []byte) (map[Told]string, error) {
	front, err := os.MkdirTemp("", "ivelt-told-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(front)
	at := filepath.Join(front, filepath.FromSlash(p))
	if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
		return nil, err
	}
	if err := os.WriteFile(at, content, fs.FileMode(0o644)); err != nil {
		return nil, err
	}
	as := r.d.Laid(front, nil)
	out := map[Told]string{}
	for _, rd := range reading.All(as) {
		var said strings.Builder
		for _, step := range rd.Chain {
			if real, err := as.Tree().Resolve(desk.Name(step.Path)); step.Path != "" && err == nil && desk.Path(real) == p && step.Value != "" {
				fmt.Fprintln(&said, step.Key, step.Value)
			}
		}
		out[Told{rd.Surface, rd.Facet}] = said.String()
	}
	return out, nil
}

// part is a file that a change left, in which only what the aim asks for is as
// it was before; others are what further surfaces and facets are told by the same
// lines.
func (r *returning) part(t touch, left, before []byte) (content []byte, others []string, err error) {
	if !r.settings(t) {
		return left, nil, nil
	}
	lines := linesOf(left)
	wanted, err := r.told(t.path, before)
	if err != nil {
		return nil, nil, err
	}
	was, err := r.told(t.path, left)
	if err != nil {
		return nil, nil, err
	}
	mine := func(f Told) bool {
		return (r.aim.Surface == "" || f.Surface == r.aim.Surface) && (r.aim.Facet == "" || f.Facet == r.aim.Facet)
	}
	asWanted := func(now map[Told]string) bool {
		for f := range was {
			if mine(f) && now[f] != wanted[f] {
				return false
			}
		}
		return true
	}
	if asWanted(was) {
		return left, nil, nil
	}
	var only, shared []hunk
	for _, h := range hunks(lines, linesOf(before)) {
		now, err := r.told(t.path, changed(lines, []hunk{h}))
		if err != nil {
			return nil, nil, err
		}
		some, more := false, false
		for f := range was {
			if now[f] != was[f] {
				some, more = some || mine(f), more || !mine(f)
			}
		}
		switch {
		case some && more:
			shared = append(shared, h)
		case some:
			only = append(only, h)
		}
	}
	content = changed(lines, only)
	now, err := r.told(t.path, content)
	if err != nil || asWanted(now) || len(shared) == 0 {
		return content, nil, err
	}
	all := slices.Concat(only, shared)
	slices.SortFunc(all, func(a, b hunk) int { return a.from - b.from })
	content = changed(lines, all)
	if now, err = r.told(t.path, content); err != nil {
		return nil, nil, err
	}
	for f := range was {
		if s, ok := r.d.Surface(f.Surface); ok && !mine(f) && now[f] != was[f] {
			if words := s.Title + " of " + desk.FacetTitle(f.Facet); !slices.Contains(others, words) {
				others = append(others, words)
			}
		}
	}
	slices.Sort(others)
	return content, others, nil
}
