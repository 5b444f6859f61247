package plan

import (
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/say"
)

// Without is a plan less the operations at some paths, and less what only those
// needed: folders for them, links that lead to them.
func (p Plan) Without(d *desk.Desk, left []string) Plan {
	if len(left) == 0 {
		return p
	}
	out := p
	for _, at := range left { // what is kept beside a file goes with it
		left = append(left, at+KeptBeside)
	}
	out.Ops = slices.DeleteFunc(slices.Clone(p.Ops), func(op Op) bool {
		leads := op.Kind == Link && slices.Contains(left, path.Join(path.Dir(op.Path), op.After.Hash))
		return leads || op.Kind != Folder && slices.Contains(left, op.Path)
	})
	out.Ops = slices.DeleteFunc(out.Ops, func(op Op) bool {
		return op.Kind == Folder && op.Before.Kind == "" && !slices.ContainsFunc(out.Ops, func(in Op) bool {
			return in.Kind != Folder && strings.HasPrefix(in.Path, op.Path+"/")
		})
	})
	return out.Seal(d)
}

// Mine is the part of a plan that needs no administrator, and Theirs the other.
func (p Plan) Mine(d *desk.Desk) Plan { return p.half(d, false) }

// Theirs is the part that does.
func (p Plan) Theirs(d *desk.Desk) Plan { return p.half(d, true) }

func (p Plan) half(d *desk.Desk, admin bool) Plan {
	out := p
	out.Ops = slices.DeleteFunc(slices.Clone(p.Ops), func(op Op) bool { return op.Admin != admin })
	return out.Seal(d)
}

// Done is the desk as it would be once a part of a whole plan has been carried
// out. What the whole plan copies has to be on the desk tried already, see
// [desk.Desk.Layers]. It can be read until release is called.
func Done(tried *desk.Desk, whole, part Plan) (d *desk.Desk, release func(), err error) {
	front, err := os.MkdirTemp("", "ivelt-done-")
	if err != nil {
		return nil, nil, err
	}
	release = func() { os.RemoveAll(front) }
	gone, told := slices.Clone(tried.Gone), map[string]desk.Value{}
	for _, op := range whole.Ops {
		if op.Kind == Copy && !slices.ContainsFunc(part.Ops, func(in Op) bool { return in.Kind == Copy && in.Path == op.Path }) {
			gone = append(gone, op.Path)
		}
	}
	for _, op := range part.Ops {
		if setting, ok := desk.Setting(op.Path); ok {
			if told[setting], err = op.After.Value(); err != nil {
				release()
				return nil, nil, err
			}
			continue
		}
		if op.Kind == Package {
			continue // what it brings is not known before
		}
		if err = lay(front, op); err != nil {
			release()
			return nil, nil, err
		}
		if op.Kind == Remove && !op.IsFolder() && !slices.ContainsFunc(part.Ops, func(in Op) bool { return in.Kind == Copy && in.Path == op.Path }) {
			gone = append(gone, op.Path)
		}
	}
	return tried.Laid(front, gone).Told(told), release, nil
}

// lay puts what an operation leaves into the front.
func lay(front string, op Op) error {
	at := filepath.Join(front, filepath.FromSlash(op.Path))
	switch op.Kind {
	case Folder:
		return os.MkdirAll(at, 0o755)
	case Write:
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		return os.WriteFile(at, op.Content, 0o644)
	case Link:
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		return os.Symlink(op.After.Hash, at)
	case Copy, Remove:
		return nil
	}
	return say.Errorf("unknown operation %q", op.Kind)
}

// Kept are the hashes of the contents that a [Keeper] has to have so that the
// plan can be gone back on.
func (p Plan) Kept() []string {
	var out []string
	for _, op := range p.Ops {
		if op.Before.Kind == "file" {
			out = append(out, op.Before.Hash)
		}
		if op.Source != nil && op.Source.Kept != "" {
			out = append(out, op.Source.Kept)
		}
	}
	return out
}
