package planning

import (
	"bytes"
	"cmp"
	"slices"
	"strings"

	"ivelt/core/plan"
	"ivelt/core/regular"
	"ivelt/core/say"
)

// version is what a file is at one time. The zero value is no file.
type version struct {
	there bool
	text  []byte
}

func (v version) is(w version) bool { return v.there == w.there && bytes.Equal(v.text, w.text) }

// file goes back on a file, or on what of it the aim asks for: the steps are undone
// one by one, the last first, and what somebody else did after each of them stays.
func (r *returning) file(t touch, now plan.State) error {
	is, err := r.read(t.path, now)
	if err != nil {
		return err
	}
	here := version{now.Kind == "file", is}
	before, err := r.kept(t.before())
	if err != nil {
		r.lost(Conflict{Path: t.path, Now: is, IsNone: !here.there}, err)
		return nil
	}
	if now.Is(t.left()) && !t.between() {
		want, state, why, err := r.wholly(t, here, before)
		if err != nil || r.whole() && want.is(here) && now.Is(state) || !r.whole() && want.is(here) {
			return err
		}
		return r.becomes(t, now, want, state, why)
	}
	left, err := r.left(t)
	if err != nil {
		return err
	}
	want, state, why, err := r.wholly(t, left, before)
	if err != nil {
		return err
	}
	both, clashes, err := r.stepwise(t, here)
	if err != nil {
		r.lost(Conflict{Path: t.path, Now: is, IsNone: !here.there}, err)
		return nil
	}
	if !r.whole() && want.is(left) && both.is(here) && len(clashes) == 0 {
		return nil // nothing of it is what the aim asks for
	}
	c := Conflict{
		Path: t.path, Before: want.text, Left: left.text, Now: is, Between: t.between(), Clashes: clashes, Edits: r.edits(t, left, here),
		WasNone: !want.there, IsNone: !here.there, Takes: []Take{TakeNow, TakeBefore}, Taken: TakeNow,
	}
	if !both.is(here) {
		c.Both, c.BothNone = both.text, !both.there
		c.Takes, c.Taken = []Take{TakeBoth, TakeNow, TakeBefore}, TakeBoth
	}
	if slices.Contains(c.Takes, r.aim.Takes[t.path]) {
		c.Taken = r.aim.Takes[t.path]
	}
	r.out.Conflicts = append(r.out.Conflicts, c)
	switch c.Taken {
	case TakeNow:
		return nil
	case TakeBoth:
		want, state, why = both, plan.State{}, say.Of("plan/what-change-did-undone-what")
		if both.there {
			state = plan.FileState(both.text, cmp.Or(now.Mode, t.before().Mode, t.left().Mode, 0o644))
		}
	}
	return r.becomes(t, now, want, state, why)
}

// edits are what somebody else did to a file between the steps and after the last.
func (r *returning) edits(t touch, left, here version) []Edit {
	var out []Edit
	for i, s := range t.steps[1:] {
		from, err := r.kept(t.steps[i].after)
		if err != nil {
			continue // it is not known any more
		}
		to, err := r.kept(s.before)
		if err == nil && !from.is(to) {
			out = append(out, Edit{From: from.text, To: to.text, Gone: !to.there})
		}
	}
	if !left.is(here) {
		out = append(out, Edit{From: left.text, To: here.text, Since: true, Gone: !here.there})
	}
	return out
}

// becomes makes a file another.
func (r *returning) becomes(t touch, now plan.State, want version, state plan.State, why say.Message) error {
	switch {
	case now.Is(state):
	case !want.there:
		r.add(r.op(t, plan.Remove, now, plan.State{}, say.Of("plan/file-was-not-there-before")))
	default:
		if now.Kind == "" {
			r.parents(t.path, t.facet)
		}
		op := r.op(t, plan.Write, now, state, why)
		op.Content = want.text
		r.add(op)
	}
	return nil
}

// wholly undoes all steps at once, whoever else changed the file between them: what
// is wanted for what they left.
func (r *returning) wholly(t touch, left, before version) (want version, state plan.State, why say.Message, err error) {
	if r.whole() {
		return before, t.before(), say.Of("plan/file-as-was-before"), nil
	}
	text, others, err := r.part(t, left.text, before.text)
	if err != nil {
		return version{}, plan.State{}, say.Message{}, err
	}
	why = say.Of("plan/what-said-before", r.aim.words(r.d))
	if len(others) > 0 {
		why = say.Of("plan/same-lines-tell", why, strings.Join(others, ", "))
	}
	return version{true, text}, plan.FileState(text, cmp.Or(t.left().Mode, 0o644)), why, nil
}

// stepwise undoes the steps one after the other, the last first, and leaves in the
// file what somebody else did after each.
func (r *returning) stepwise(t touch, now version) (version, []Clash, error) {
	var clashes []Clash
	for _, s := range slices.Backward(t.steps) {
		before, err := r.kept(s.before)
		if err != nil {
			return now, nil, err
		}
		left, err := r.kept(s.after)
		if err != nil {
			return now, nil, err
		}
		want := before
		if !r.whole() {
			text, _, err := r.part(t, left.text, before.text)
			if err != nil {
				return now, nil, err
			}
			want = version{left.there, text}
		}
		switch {
		case now.is(left):
			now = want
		case !now.there || want.is(left):
			// Somebody took the file away since, or this step did nothing to it.
		default:
			text, more, err := r.undo(t, left.text, now.text, want.text, len(clashes))
			if err != nil {
				return now, nil, err
			}
			clashes = append(clashes, more...)
			now = version{want.there || len(bytes.TrimSpace(text)) > 0, text}
		}
	}
	return now, clashes, nil
}

// kept is what a state of a file was: what a plan wrote is in the plan itself, and
// what was there before is in the Keeper.
func (r *returning) kept(s plan.State) (version, error) {
	if s.Kind != "file" {
		return version{}, nil
	}
	if text, ok := r.wrote[s.Hash]; ok {
		return version{true, text}, nil
	}
	text, err := r.keep.Get(s.Hash)
	return version{true, text}, err
}

func (r *returning) read(p string, now plan.State) ([]byte, error) {
	if now.Kind != "file" {
		return nil, nil
	}
	return regular.Read(r.d.HostPath(p), plan.MaxOriginal)
}

// left is what the last of the steps wrote.
func (r *returning) left(t touch) (version, error) {
	v, err := r.kept(t.left())
	if err != nil {
		err = say.Errorf("what the change wrote is not known any more: %w", err)
	}
	return v, err
}

// maxTold bounds how many lines are undone one by one, each with a look at what
// the surfaces are then told.
const maxTold = 40

// undo takes out of a file, now, what made left out of want, and leaves in it what
// was done to left since. Where that is about the same lines, the newer ones stay,
// unless the aim takes the older. So do lines without which the surfaces would no
// longer be told what the newer edits tell them. from is the number of the first
// clash.
func (r *returning) undo(t touch, left, now, want []byte, from int) ([]byte, []Clash, error) {
	older := func(clash int) bool { return slices.Contains(r.aim.Lines[t.path], clash) }
	m := undoing(linesOf(left), linesOf(now), linesOf(want), from, older)
	if !r.settings(t) {
		return m.without(nil), m.clashes, nil
	}
	fine, err := r.stillTold(t, left, now, want, m)
	if err != nil {
		return nil, nil, err
	}
	text := m.without(nil)
	if ok, err := fine(text); err != nil || ok {
		return text, m.clashes, err
	}
	if len(m.undo) > maxTold || bytes.HasPrefix(bytes.TrimSpace(now), []byte("<")) {
		return now, m.clashes, nil // a tag without its other half would break it
	}
	stays := map[int]bool{}
	for i := range m.undo {
		stays[i] = true
	}
	text = now
	for i := range slices.Backward(m.undo) { // from below, so that a group goes after its lines
		delete(stays, i)
		next := m.without(stays)
		ok, err := fine(next)
		if err != nil {
			return nil, nil, err
		}
		if !ok {
			stays[i] = true
			continue
		}
		text = next
	}
	return text, m.clashes, nil
}

// stillTold returns a check of what a file would tell: what newer edits tell the
// surfaces they are still told, and everything else as before or as now.
func (r *returning) stillTold(t touch, left, now, want []byte, m merging) (func([]byte) (bool, error), error) {
	var told [3]map[Told]string
	for i, text := range [][]byte{left, now, want} {
		var err error
		if told[i], err = r.told(t.path, text); err != nil {
			return nil, err
		}
	}
	return func(text []byte) (bool, error) {
		says, err := r.told(t.path, text)
		if err != nil {
			return false, err
		}
		for f := range told[1] {
			edited := told[1][f] != told[0][f] && !m.older
			if says[f] != told[1][f] && (edited || says[f] != told[2][f]) {
				return false, nil
			}
		}
		return true, nil
	}, nil
}
