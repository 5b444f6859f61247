package changes

import (
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/reading"
)

// Stale is a running program that still shows what its surface was told before a change.
type Stale struct {
	desk.Program
	Title  string   // of its surface
	Facets []string // that it shows otherwise
}

// line is a line of a settings file, "key = value", as it was before a change.
type line struct{ facet, file, key, was string }

// Stale are the programs that were started before changes which they do not follow until
// they are started again: something in a file that they read once is not as it was then. Of
// a desk whose programs are not known it is none.
func (h *History) Stale(d *desks.Managed) ([]Stale, error) {
	if d.Programs == nil {
		return nil, nil
	}
	programs := d.Programs()
	if len(programs) == 0 {
		return nil, nil
	}
	rows, err := h.store.Checkpoints(d.ID)
	if err != nil {
		return nil, err
	}
	var out []Stale
	seen, lines := d.Snapshot(), map[uint]map[string][]line{} // by entry and surface
	for _, p := range programs {
		s, ok := seen.Surface(p.Surface)
		if !ok {
			continue
		}
		first := map[string]line{} // of a facet: what the program read, before the first change since
		for _, c := range rows {   // the newest first
			if !c.At.After(p.Since) {
				break
			}
			if lines[c.ID] == nil {
				of, err := h.plans.Get(d, c.PlanID)
				if err != nil {
					return nil, err
				}
				lines[c.ID] = h.unfollowed(seen, of)
			}
			for _, l := range lines[c.ID][p.Surface] {
				first[l.facet] = l
			}
		}
		one := Stale{Program: p, Title: s.Title}
		for _, f := range s.Facets {
			if l, ok := first[f.Name]; ok && l.now(seen) != l.was {
				one.Facets = append(one.Facets, f.Name)
			}
		}
		if len(one.Facets) > 0 {
			out = append(out, one)
		}
	}
	return out, nil
}

// now is what the file says of the key.
func (l line) now(d *desk.Desk) string {
	b, err := d.Tree().ReadSettings(desk.Name(l.file))
	if err != nil {
		return ""
	}
	return valueOf(b, l.key)
}

// valueOf is what the last line of a key says in a file, "" if none does.
func valueOf(text []byte, key string) (value string) {
	for of := range strings.Lines(string(text)) {
		if name, says, ok := strings.Cut(of, "="); ok && strings.TrimSpace(name) == key {
			value = strings.TrimSpace(says)
		}
	}
	return value
}

// unfollowed are the lines, by surface, that a plan changes in files which programs read
// once, with what they said before.
func (h *History) unfollowed(d *desk.Desk, p plan.Plan) map[string][]line {
	out := map[string][]line{}
	for _, op := range p.Ops {
		s, ok := d.Surface(op.Surface)
		if !ok || op.Kind != plan.Write && op.Kind != plan.Remove || op.Effect != plan.ProgramRestart {
			continue
		}
		var before []byte
		if op.Before.Kind == "file" {
			var err error
			if before, err = h.kept.Get(op.Before.Hash); err != nil {
				continue // it was let go: nothing can be told of it any more
			}
		}
		for _, f := range s.Facets {
			if reading.Live(d, s, f) {
				continue
			}
			i := slices.IndexFunc(f.Sources, func(src desk.Source) bool {
				return src.Format != "xsettings" && src.Format != "gsettings" && valueOf(before, src.Key) != valueOf(op.Content, src.Key)
			})
			if i >= 0 {
				key := f.Sources[i].Key
				out[s.ID] = append(out[s.ID], line{f.Name, op.Path, key, valueOf(before, key)})
			}
		}
	}
	return out
}
