package planning

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"slices"
	"strings"
	"syscall"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/reading"
)

// The ways a plan that was handed over is refused.
var (
	ErrComputer = errors.New("the plan was made for another computer")
	ErrTampered = errors.New("the plan was altered after it was made")
	ErrPath     = errors.New("a plan may not touch that")
)

// HandedOver checks a plan that came from elsewhere, before it is carried out:
// that it is whole, was made for this computer and home, and touches only what a
// plan may touch. What has to be there is checked as of any plan.
func HandedOver(d *desk.Desk, p plan.Plan) error {
	if p.Computer != plan.Computer(d) || p.Home != d.HomePath {
		return fmt.Errorf("%w, or for another home (%s)", ErrComputer, p.Home)
	}
	as := p
	if as.Seal(&desk.Desk{ID: p.Desk, Home: d.Home, System: d.System, HomePath: d.HomePath}).ID != p.ID {
		return ErrTampered
	}
	for _, op := range p.Ops {
		if err := allowed(d, op); err != nil {
			return fmt.Errorf("%w: %s: %w", ErrPath, op.Path, err)
		}
	}
	return nil
}

func allowed(d *desk.Desk, op plan.Op) error {
	if setting, ok := desk.Setting(op.Path); ok != (op.Kind == plan.Set) {
		return errors.New("it is no setting")
	} else if ok {
		return settable(d, setting)
	}
	if !path.IsAbs(op.Path) || path.Clean(op.Path) != op.Path {
		return errors.New("it is no full path")
	}
	if op.After.Mode&^fs.ModePerm != 0 || op.After.Mode&0o022 != 0 && op.After.Mode != op.Before.Mode && !d.Mine(op.Path) {
		return errors.New("others could write it, or run it as somebody else")
	}
	if op.Kind == plan.Write && plan.Digest(op.Content) != op.After.Hash {
		return errors.New("its contents are not what the plan says")
	}
	if d.Mine(op.Path) {
		if owner, ok := ownerOf(d.Home); op.Path == d.HomePath || ok && owner != os.Geteuid() {
			return errors.New("it is in a home: that part is its owner's to apply")
		}
		return nil
	}
	folders, files := touchable(d)
	if slices.Contains(files, op.Path) || slices.Contains(files, strings.TrimSuffix(op.Path, plan.KeptBeside)) {
		return nil
	}
	for _, f := range folders {
		if strings.HasPrefix(op.Path, f+"/") || op.Kind == plan.Folder && (op.Path == f || strings.HasPrefix(f, op.Path+"/")) ||
			op.Kind == plan.Remove && op.IsFolder() && (op.Path == f || strings.HasPrefix(f, op.Path+"/")) {
			return nil
		}
	}
	return errors.New("no piece goes there, and no program's settings are there")
}

// settable reports why a setting is not one that a surface is told of a facet in.
func settable(d *desk.Desk, setting string) error {
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			for _, src := range f.Sources {
				if src.Format != "gsettings" {
					continue
				}
				if key, _, known := reading.SchemaKey(d, src.Group, src.Key); known && key.Path == setting {
					return nil
				}
			}
		}
	}
	return errors.New("no surface asks for that setting")
}

func ownerOf(host string) (int, bool) {
	fi, err := os.Stat(host)
	if err != nil {
		return 0, false
	}
	st, ok := fi.Sys().(*syscall.Stat_t)
	return int(st.Uid), ok
}

// touchable are what of the system plans may touch: folders in which surfaces look
// for pieces, and files that surfaces are told of a facet in.
func touchable(d *desk.Desk) (folders, files []string) {
	add := func(to *[]string, templates ...string) {
		for _, t := range templates {
			for _, p := range d.Expand(t) {
				if path.IsAbs(p) && !d.Mine(p) && strings.Count(p, "/") > 2 {
					*to = append(*to, p)
				}
			}
		}
	}
	for _, kind := range []string{"themes", "icons", "fonts", "backgrounds"} {
		add(&folders, "/usr/local/share/"+kind, "{data-dirs}/"+kind)
	}
	for _, s := range d.Surfaces() {
		for _, l := range s.Looks {
			add(&folders, l.Folders...)
		}
		for _, f := range s.Facets {
			add(&folders, f.Lookup.Folders...)
			for _, src := range f.Sources {
				if src.Write && src.Path != "" && !strings.Contains(src.Path, "*") {
					add(&files, src.Path)
				}
			}
		}
	}
	return folders, files
}
