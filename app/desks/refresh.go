package desks

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"os/exec"
	"path"

	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/say"
)

// RefreshCaches makes the caches that programs keep of icon and font folders follow
// what a plan changed in them. The change stands even if that fails; the job
// says so.
func RefreshCaches(ctx context.Context, d *Managed, j *jobs.Job, p plan.Plan) error {
	if d.Refresh == nil {
		return nil
	}
	var failed []error
	for _, c := range p.Caches() {
		j.Step("Refreshing the cache of "+d.Show(c.Folder), "")
		if err := d.Refresh(ctx, c.Kind, c.Folder); err != nil {
			failed = append(failed, say.Errorf("%s is in order, but the cache that programs keep of it is not: %w", d.Show(c.Folder), err))
		}
	}
	return errors.Join(failed...)
}

// SystemCaches refreshes the caches of a real desk with its own tools, as far
// as they are installed: fontconfig's with fc-cache(1), and an icon theme's
// with gtk-update-icon-cache(1), where the folder has one. Programs without
// the tool look at the folders themselves.
func SystemCaches(d *desk.Desk) func(ctx context.Context, kind, folder string) error {
	return func(ctx context.Context, kind, folder string) error {
		host := d.HostPath(folder)
		var args []string
		switch kind {
		case string(parcel.Font):
			args = []string{"fc-cache", host}
		case string(parcel.Icons):
			if _, err := fs.Stat(d.Tree(), path.Join(desk.Name(folder), "icon-theme.cache")); err != nil {
				return nil // without a cache programs look themselves
			}
			args = []string{"gtk-update-icon-cache", "-q", "-f", host}
		}
		if len(args) == 0 {
			return nil
		}
		tool, err := exec.LookPath(args[0])
		if err != nil {
			return nil
		}
		c := exec.CommandContext(ctx, tool, args[1:]...)
		c.Env = append(os.Environ(), "HOME="+d.Home)
		if out, err := c.CombinedOutput(); err != nil {
			return say.Errorf("%s: %w: %s", args[0], err, out)
		}
		return nil
	}
}
