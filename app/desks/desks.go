package desks

import (
	"context"
	"errors"
	"slices"
	"sync"

	"golang.org/x/sys/unix"

	"ivelt/core/desk"
	"ivelt/core/market"
)

// AdminHere reports whether this Ivelt may write to the desk's system: never on a person's own
// desk, where an administrator's Ivelt does, with a history of its own.
func (d *Managed) AdminHere() bool { return d.Keep == nil && unix.Access(d.System, unix.W_OK) == nil }

// Managed is a desk with what Ivelt may do to it.
type Managed struct {
	*desk.Desk
	// Restarts start a surface's program again, by surface, where Ivelt can.
	Restarts map[string]func() error
	// Screens draw what a login screen shows now, as SVG, by surface, and Console
	// does what is typed about one on a text console, where that is simulated.
	Screens map[string]func() ([]byte, error)
	Console func(surface, line string) (answer string, err error)
	// Mark has a system under a lock make a checkpoint of its own, and Simulated does what
	// its world does to it by itself, by name, where all that is simulated; nil elsewhere.
	Mark      func(note string) error
	Simulated map[string]func() (said string, err error)
	// Refresh makes the desk's programs look into folders anew, where they
	// keep a cache of what is in them; kind is that of the pieces there. Nil
	// if nothing keeps one.
	Refresh func(ctx context.Context, kind, folder string) error

	// Downloads is the folder that is looked through for parcels, as a full path on the desk; ""
	// for the one in its home.
	Downloads string

	// Keep writes down whether the desk may be changed, where its owner has to say so; nil
	// for a desk of which nobody is asked.
	Keep func(may bool) error

	// Session starts what tells the desk's programs of changes, beside this program; nil where
	// that is not Ivelt's to do.
	Session func() error

	// Turns tells that this program turns the desk when it is time. On a person's own desk
	// another process does, which Tend starts unless it runs.
	Turns bool
	Tend  func() error

	// Offers is the family of the desk's packages, in whose lists pieces are looked for; nil
	// where none are.
	Offers market.System

	// Administer runs Ivelt's command for administrators with some arguments, once the
	// person's system has let them; nil where nobody can be asked.
	Administer func(ctx context.Context, args ...string) error

	mu sync.Mutex // held while a plan is made and applied

	listing  sync.Mutex
	stamp    string // of the package lists that were read
	packaged desk.Packages
	offered  map[string]string // packages that can be had, see [Managed.Offer]
}

// Lock holds the desk while a plan is made and carried out.
func (d *Managed) Lock() { d.mu.Lock() }

// TryLock is the same, unless somebody holds it.
func (d *Managed) TryLock() bool { return d.mu.TryLock() }

// Unlock lets it go.
func (d *Managed) Unlock() { d.mu.Unlock() }

// Packaged are those of the desk's package database; its lists can be long and
// are read again only if they changed.
func (d *Managed) Packaged() desk.Packages {
	d.listing.Lock()
	defer d.listing.Unlock()
	if now := d.PackageStamp(); d.packaged == nil || now != d.stamp {
		d.stamp, d.packaged = now, d.Packages()
		for name, version := range d.offered {
			if _, ok := d.packaged[name]; !ok {
				d.packaged[name] = desk.Package{Name: name, Version: version}
			}
		}
	}
	return d.packaged
}

// Offer tells of packages with pieces that can be had, and in which version.
func (d *Managed) Offer(versions map[string]string) {
	d.listing.Lock()
	defer d.listing.Unlock()
	d.offered, d.packaged = versions, nil
}

// Allow is the owner's word on whether the desk may be changed. It is kept, and holds at
// once.
func (d *Managed) Allow(may bool) error {
	d.Lock() // not while something is being changed
	defer d.Unlock()
	if d.Keep == nil {
		return errors.New("nobody has to allow that this desk is changed")
	}
	if err := d.Keep(may); err != nil {
		return err
	}
	d.SetWritable(may)
	return nil
}

// ErrNone: there is no desk of that name.
var ErrNone = errors.New("no such desk")

// CanRestart reports whether Ivelt can start a surface's program again.
func (d *Managed) CanRestart(surface string) bool { return d.Restarts[surface] != nil }

// Has tells whether some surface of the desk has a facet.
func (d *Managed) Has(facet string) bool {
	return slices.ContainsFunc(d.Surfaces(), func(s desk.Surface) bool { _, ok := s.Facet(facet); return ok })
}
