package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/shown"
	"ivelt/session"
)

// deskFlags name a desk: by name, as two folders, or, if none is given, this
// computer's own.
type deskFlags struct {
	of                 *Program
	world              []*desks.Managed // once it was asked for
	folder             string           // of its data
	name, home, system string
}

func (f *deskFlags) add(c *cobra.Command) {
	c.Flags().StringVar(&f.name, "desk", "", "a desk of the demo world, for example avocet")
	c.Flags().StringVar(&f.home, "home", "", "the folder that is the desk's home")
	c.Flags().StringVar(&f.system, "system", "", "the folder that is the root of the desk's system (default /)")
}

func (f *deskFlags) open(ctx context.Context) (*desk.Desk, error) {
	switch {
	case f.name != "" && (f.home != "" || f.system != ""):
		return nil, errors.New("name a desk with --desk or with --home and --system, not both")
	case f.name != "":
		on, _, err := f.named(ctx)
		if err != nil {
			return nil, err
		}
		return on.Desk, nil
	case f.home != "":
		d, err := desk.Open("given", f.home, f.system, "")
		if err != nil {
			return nil, err
		}
		d.Surfaces = append(desk.Builtin(), d.Present(f.of.Surfaces)...)
		tell(d.OwnSurfaces())
		return d, nil
	case f.system != "":
		return nil, errors.New("--system needs --home")
	}
	return ownDesk()
}

// named is the desk of a name, with the others of its world.
func (f *deskFlags) named(ctx context.Context) (on *desks.Managed, all []*desks.Managed, err error) {
	if f.of.World == nil {
		return nil, nil, errors.New("this Ivelt comes without desks to name; name two folders with --home and --system")
	}
	if f.world == nil {
		if f.world, f.folder, err = f.of.World(ctx); err != nil {
			return nil, nil, err
		}
	}
	var names []string
	for _, d := range f.world {
		if d.ID == f.name {
			return d, f.world, nil
		}
		names = append(names, d.ID)
	}
	return nil, nil, fmt.Errorf("there is no desk %q; the demo world has %s", f.name, strings.Join(names, " and "))
}

// tell says which of a person's descriptors cannot be used.
func tell(broken []error) {
	for _, err := range broken {
		fmt.Fprintln(shown.Writer(os.Stderr), "ivelt:", err)
	}
}

// ownDesk is this computer's desk, with its session's environment.
func ownDesk() (*desk.Desk, error) {
	home, err := os.UserHomeDir()
	if err != nil {
		return nil, fmt.Errorf("where is your home? %w. Name it with --home", err)
	}
	d, err := desk.Open("own", home, "/", "")
	if err != nil {
		return nil, err
	}
	d.Title, d.Surfaces, d.Env = "This computer", d.Present(desk.Builtin()), map[string]string{}
	for _, kv := range os.Environ() {
		if k, v, ok := strings.Cut(kv, "="); ok {
			d.Env[k] = v
		}
	}
	d.Running = session.Of(d.Env["DISPLAY"])
	tell(d.OwnSurfaces())
	return d, nil
}
