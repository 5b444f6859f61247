package planning

import (
	"fmt"

	"ivelt/core/desk"
	"ivelt/core/iconbench"
	"ivelt/core/keyfile"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// LetGo plans to take away what is left over of earlier looks, so that icons go with the pack that is
// chosen: copies of entries get the icon that the system's entry says, folders lose their own icons,
// links to nothing and caches that are too old are removed.
func LetGo(d *desk.Desk, left []iconbench.Left) (plan.Plan, error) {
	out := plan.Plan{Title: fmt.Sprintf("Take away %d left over", len(left))}
	if len(left) == 1 {
		out.Title = "Take away what is left over"
	}
	b := builder{d: d, seen: d, plan: &out, made: map[string]bool{}}
	for _, l := range left {
		var err error
		switch l.Kind {
		case iconbench.OwnEntry:
			err = b.icon(l, say.Of("plan/icon-of-system"))
		case iconbench.FolderIcon:
			err = b.icon(l, say.Of("plan/folder-with-others"))
		case iconbench.DeadLink:
			err = b.drop(l.Path, say.Of("plan/leads-nowhere"))
		case iconbench.StaleCache:
			err = b.drop(l.Path, say.Of("plan/cache-too-old"))
		}
		if err != nil {
			return plan.Plan{}, say.Errorf("%s: %w", d.Show(l.Path), err)
		}
	}
	return out.Seal(d), nil
}

// icon edits the Icon of an entry: to what the system's says, or out of it.
func (b *builder) icon(l iconbench.Left, why say.Message) error {
	const group = "Desktop Entry"
	return b.edit(l.Path, desk.Surface{}, desk.Facet{Name: desk.FacetIcons}, why, plan.AtOnce, func(old []byte) []byte {
		kf, err := keyfile.Parse(old)
		if err != nil {
			return old
		}
		if l.Instead != "" {
			kf.Set(group, "Icon", l.Instead)
		} else {
			kf.Remove(group, "Icon")
		}
		return kf.Bytes()
	})
}

// drop removes a file or a link.
func (b *builder) drop(p string, why say.Message) error {
	now, err := plan.Look(b.d, p)
	if err != nil {
		return err
	}
	b.add(plan.Op{Kind: plan.Remove, Path: p, Before: now, Facet: desk.FacetIcons, Says: why, Effect: plan.ProgramRestart})
	return nil
}
