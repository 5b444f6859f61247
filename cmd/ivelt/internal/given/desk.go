package given

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

// DeskFlags name a desk: by name, as two folders, or, if none is given, this
// computer's own.
type DeskFlags struct {
	of                 *Program
	world              []*desks.Managed // once it was asked for
	folder             string           // of its data
	Name, Home, System string
	Own                bool
}

// Add lets a command be given a desk.
func (f *DeskFlags) Add(c *cobra.Command) {
	c.Flags().StringVar(&f.Name, "desk", "", "a desk of the demo world, for example avocet")
	c.Flags().StringVar(&f.Home, "home", "", "the folder that is the desk's home")
	c.Flags().StringVar(&f.System, "system", "", "the folder that is the root of the desk's system (default /)")
	Completes(c, "desk", f.of.Names...)
	c.Flags().BoolVar(&f.Own, "own", false, "this computer's own desk, also to change it")
}

// Open is the desk that was named.
func (f *DeskFlags) Open(ctx context.Context) (*desk.Desk, error) {
	switch {
	case f.Own && (f.Name != "" || f.Home != "" || f.System != ""):
		return nil, errors.New("--own is this computer's desk: name no other with it")
	case f.Name != "" && (f.Home != "" || f.System != ""):
		return nil, errors.New("name a desk with --desk or with --home and --system, not both")
	case f.Name != "":
		on, _, err := f.named(ctx)
		if err != nil {
			return nil, err
		}
		return on.Desk, nil
	case f.Home != "":
		d, err := desk.Open("given", f.Home, f.System, "")
		if err != nil {
			return nil, err
		}
		d.SetSurfaces(append(desk.Builtin(), d.Present(append(desk.Runtimes(), f.of.Surfaces...))...))
		tell(d.OwnSurfaces())
		return d, nil
	case f.System != "":
		return nil, errors.New("--system needs --home")
	}
	return OwnDesk()
}

// named is the desk of a name, with the others of its world.
func (f *DeskFlags) named(ctx context.Context) (on *desks.Managed, all []*desks.Managed, err error) {
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
		if d.ID == f.Name {
			return d, f.world, nil
		}
		names = append(names, d.ID)
	}
	return nil, nil, fmt.Errorf("there is no desk %q; the demo world has %s", f.Name, strings.Join(names, " and "))
}

// tell says which of a person's descriptors cannot be used.
func tell(broken []error) {
	for _, err := range broken {
		fmt.Fprintln(shown.Writer(os.Stderr), "ivelt:", err)
	}
}

// OwnID is the name of this computer's desk in its data folder.
const OwnID = "own"

// OwnDesk is this computer's desk, with its session's environment.
func OwnDesk() (*desk.Desk, error) {
	home, err := os.UserHomeDir()
	if err != nil {
		return nil, fmt.Errorf("where is your home? %w. Name it with --home", err)
	}
	d, err := desk.Open(OwnID, home, "/", "")
	if err != nil {
		return nil, err
	}
	d.Title, d.Env = "This computer", map[string]string{}
	for _, kv := range os.Environ() {
		if k, v, ok := strings.Cut(kv, "="); ok {
			d.Env[k] = v
		}
	}
	d.SetSurfaces(d.Present(append(desk.Builtin(), desk.Runtimes()...)))
	d.Running = session.Of(d.Env["DISPLAY"])
	d.Settings, d.Programs = session.SettingsOf(d), session.Programs
	tell(d.OwnSurfaces())
	return d, nil
}
