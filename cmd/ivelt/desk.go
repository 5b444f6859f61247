package main

import (
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/core/desk"
	"ivelt/core/shown"
	"ivelt/session"
	"ivelt/standin"
)

// deskFlags name a desk: by name, as two folders, or, if none is given, this
// computer's own.
type deskFlags struct{ name, home, system string }

func (f *deskFlags) add(c *cobra.Command) {
	c.Flags().StringVar(&f.name, "desk", "", "a desk of the demo world, for example avocet")
	c.Flags().StringVar(&f.home, "home", "", "the folder that is the desk's home")
	c.Flags().StringVar(&f.system, "system", "", "the folder that is the root of the desk's system (default /)")
}

func (f *deskFlags) open() (*desk.Desk, error) {
	switch {
	case f.name != "" && (f.home != "" || f.system != ""):
		return nil, errors.New("name a desk with --desk or with --home and --system, not both")
	case f.name != "":
		dir, err := demoDir()
		if err != nil {
			return nil, err
		}
		w, err := openWorld(dir, false)
		if err != nil {
			return nil, err
		}
		if d := w.Desk(f.name); d != nil {
			return d, nil
		}
		return nil, fmt.Errorf("there is no desk %q; the demo world has avocet and dunlin", f.name)
	case f.home != "":
		d, err := desk.Open("given", f.home, f.system, "")
		if err != nil {
			return nil, err
		}
		d.Surfaces = append(desk.Builtin(), d.Present(standin.Surfaces())...)
		tell(d.OwnSurfaces())
		return d, nil
	case f.system != "":
		return nil, errors.New("--system needs --home")
	}
	return ownDesk()
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
