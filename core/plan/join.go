package plan

import (
	"slices"

	"ivelt/core/desk"
)

// Join is two plans as one, the second carried out after the first: what was before the first,
// and what is after the second. ok is false where that cannot be told as one: somebody has
// been at a path between the two, or something else than files and settings was written.
func Join(d *desk.Desk, first, second Plan) (joined Plan, ok bool) {
	out := second
	out.Ops = slices.Clone(first.Ops)
	plain := func(op Op) bool { return op.Kind == Write || op.Kind == Set || op.Kind == Folder }
	if !slices.ContainsFunc(out.Ops, plain) || slices.ContainsFunc(slices.Concat(first.Ops, second.Ops), func(op Op) bool { return !plain(op) }) {
		return Plan{}, false
	}
	for _, op := range second.Ops {
		i := slices.IndexFunc(out.Ops, func(was Op) bool { return was.Path == op.Path })
		if i < 0 {
			out.Ops = append(out.Ops, op)
			continue
		}
		was := &out.Ops[i]
		if was.Kind != op.Kind || !was.After.Is(op.Before) {
			return Plan{}, false
		}
		was.After, was.Content, was.Says, was.Effect = op.After, op.Content, op.Says, op.Effect
	}
	return out.Seal(d), true
}
