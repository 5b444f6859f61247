// Package given is what a command is given: the desk, the outfit, the files and the folders that
// its flags name, and how it answers.
package given

import (
	"context"

	"ivelt/app/desks"
	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/store"
)

// Program is what a build of Ivelt comes with, which all commands share.
type Program struct {
	// Surfaces are those that a desk may have beside the toolkits'.
	Surfaces []desk.Surface
	// Names are those of the desks that can be named with --desk.
	Names []string
	// World returns the desks that can be named with --desk, and the data folder that is
	// theirs; nil if this build has none.
	World func(ctx context.Context) (on []*desks.Managed, data string, err error)
	// Fresh makes the same desks anew in a folder that is not there yet; nil if this build has
	// none.
	Fresh func(ctx context.Context, dir string) ([]*desks.Managed, error)
	// Before is told of every system call by which a plan changes something; see
	// [apply.Config].
	Before func(apply.Call) error
}

// AllSurfaces are those of the toolkits and of this build: a desk given as folders may have
// either.
func (p *Program) AllSurfaces() []desk.Surface { return append(desk.Builtin(), p.Surfaces...) }

// DeskOf opens a desk that a data folder names.
func (p *Program) DeskOf(row store.DeskRow) (*desk.Desk, error) {
	if row.ID == OwnID {
		return OwnDesk()
	}
	d, err := desk.Open(row.ID, row.Home, row.System, row.HomePath)
	if err == nil {
		d.SetSurfaces(p.AllSurfaces())
	}
	return d, err
}

// Desk are the flags that name a desk.
func (p *Program) Desk() DeskFlags { return DeskFlags{of: p} }
