package changes

import (
	"context"
	"encoding/json"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/regular"
	"ivelt/core/say"
	"ivelt/core/script"
	"ivelt/store"
)

// Administrator carries out on a system what people's Ivelts hand over, and keeps a list of
// it that they can read.
type Administrator struct {
	dir     string
	kept    store.Blobs
	applier *Applier
	back    *Back
	history *History
	jobs    *jobs.List
}

// NewAdministrator returns one whose data is in the folder dir.
func NewAdministrator(dir string, kept store.Blobs, ap *Applier, b *Back, h *History, running *jobs.List) *Administrator {
	return &Administrator{dir, kept, ap, b, h, running}
}

// SystemID is the name of the desk that an administrator changes: the system, with nobody's
// home.
const SystemID = "system"

// AdministersIn is the folder of a system, a path of the desk, with what an administrator's
// Ivelt keeps, and the list that everybody can read.
const (
	AdministersIn = "/var/lib/ivelt"
	listName      = "changes.json"
)

// SystemDesk is the system at a folder, without anybody's home: what stands for one has
// nothing in it.
func SystemDesk(system string) (*desk.Desk, error) {
	d, err := desk.Open(SystemID, system, system, AdministersIn+"/home")
	if err != nil {
		return nil, err
	}
	d.Home = filepath.Join(d.System, AdministersIn, "home")
	d.Title, d.Env = "the system", map[string]string{}
	return d, nil
}

// maxList is how long such a list may be.
const maxList = 8 << 20

// Administered is one change of a system that was handed over by a person.
type Administered struct {
	Number  uint       `json:"number"` // in the administrator's history
	Plan    string     `json:"plan"`
	Home    string     `json:"home"` // of the desk that it was planned for
	Title   string     `json:"title"`
	By      string     `json:"by,omitempty"` // who became administrator for it
	At      time.Time  `json:"at"`
	GoneOn  *time.Time `json:"gone_on,omitempty"`
	LetGo   bool       `json:"let_go,omitempty"` // it cannot be gone back on any more
	Changes []Touched  `json:"changes"`
}

// Touched is what a change did at one path.
type Touched struct {
	Kind plan.Kind `json:"kind"`
	Path string    `json:"path"`
	Why  string    `json:"why"`
}

// list is the file that everybody can read. Begun is a change that had not ended when the
// list was written.
type list struct {
	Format int            `json:"format"`
	Begun  string         `json:"begun,omitempty"`
	List   []Administered `json:"changes"`
}

// Look reads a plan that was handed over and checks that it may be carried out on d, and does
// nothing.
func Look(ctx context.Context, d *desk.Desk, file, room string) (script.Handed, error) {
	h, err := script.Read(ctx, file, room)
	if err != nil {
		return h, err
	}
	return h, planning.HandedOver(d, h.Plan)
}

// CarryOut starts carrying out a plan that was handed over as a file. by is who became
// administrator for it, and lose that what cannot be kept is given up.
func (ad *Administrator) CarryOut(ctx context.Context, d *desks.Managed, file, by string, lose bool) (plan.Plan, *jobs.Job, error) {
	room, err := os.MkdirTemp(ad.dir, "handed-")
	if err != nil {
		return plan.Plan{}, nil, err
	}
	defer os.RemoveAll(room)
	h, err := Look(ctx, d.Desk, file, room)
	if err != nil {
		return h.Plan, nil, err
	}
	p, err := h.Carried(ctx, d.Desk, ad.kept)
	if err != nil {
		return p, nil, err
	}
	p.Desk, p.Lose = d.ID, lose
	return p, ad.jobs.Start(p.Title, func(ctx context.Context, j *jobs.Job) error {
		return ad.publishing(d, p.Title, func() error {
			d.Lock()
			defer d.Unlock()
			j.Step("Applying", "files")
			if err := ad.applier.Apply(ctx, d, p, store.Applied{Checkpoint: store.CheckpointRow{AskedBy: by}}, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
				return err
			}
			return desks.RefreshCaches(ctx, d, j, p)
		})
	}), nil
}

// GoBack starts going back on a change, by its number.
func (ad *Administrator) GoBack(d *desks.Managed, number uint, lose bool) (ReviewedBack, *jobs.Job, error) {
	way := Way{Checkpoint: number, Lose: lose}
	r, err := ad.back.Review(d, way, nil)
	if err != nil {
		return r, nil, err
	}
	return r, ad.jobs.Start(r.Whole.Title, func(ctx context.Context, j *jobs.Job) error {
		return ad.publishing(d, r.Whole.Title, func() error {
			d.Lock()
			defer d.Unlock()
			return ad.back.carryOut(ctx, d, j, way, "", store.Applied{})
		})
	}), nil
}

// publishing writes the list before and after a change.
func (ad *Administrator) publishing(d *desks.Managed, title string, do func() error) error {
	if err := ad.publish(d, title); err != nil {
		return err
	}
	err := do()
	return errors.Join(err, ad.publish(d, ""))
}

// Publish writes the list of what was done on a system, for everybody to read.
func (ad *Administrator) Publish(d *desks.Managed) error { return ad.publish(d, "") }

func (ad *Administrator) publish(d *desks.Managed, begun string) error {
	all, err := ad.List(d)
	if err != nil {
		return err
	}
	b, err := json.MarshalIndent(list{1, begun, all}, "", "  ")
	if err != nil {
		return err
	}
	root, err := os.OpenRoot(d.HostPath(AdministersIn))
	if err != nil {
		return err
	}
	defer root.Close()
	temp := "." + listName
	if err := root.Remove(temp); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	f, err := root.OpenFile(temp, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return err
	}
	_, err = f.Write(b)
	if err == nil {
		err = f.Chmod(0o644)
	}
	if err == nil {
		err = f.Sync()
	}
	if err = errors.Join(err, f.Close()); err != nil {
		return errors.Join(err, root.Remove(temp))
	}
	return root.Rename(temp, listName)
}

// List is what was done on a system, the last first, without what went back.
func (ad *Administrator) List(d *desks.Managed) ([]Administered, error) {
	rows, err := ad.history.store.Checkpoints(d.ID)
	if err != nil {
		return nil, err
	}
	out := []Administered{}
	for _, c := range rows {
		p, err := ad.history.plans.Get(d, c.PlanID)
		if err != nil {
			return nil, err
		}
		if c.IsBack {
			continue
		}
		a := Administered{Number: c.ID, Plan: p.ID, Home: p.Home, Title: p.Title, By: c.AskedBy, At: c.At, GoneOn: c.GoneOn, LetGo: c.Purged != nil}
		for _, op := range p.Ops {
			a.Changes = append(a.Changes, Touched{op.Kind, op.Path, op.Why})
		}
		out = append(out, a)
	}
	return out, nil
}

// AdministeredFor reads what an administrator did for a desk, the last first, and the change
// that had not ended when that was written down; none of either where nobody ever did.
func AdministeredFor(d *desk.Desk) (done []Administered, begun string, err error) {
	b, err := regular.Read(d.HostPath(AdministersIn+"/"+listName), maxList)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, "", nil
	}
	if err != nil {
		return nil, "", err
	}
	var all list
	if err := json.Unmarshal(b, &all); err != nil {
		return nil, "", say.Errorf("%s: %w", filepath.Join(AdministersIn, listName), err)
	}
	for _, a := range all.List {
		if a.Home == d.HomePath {
			done = append(done, a)
		}
	}
	return done, all.Begun, nil
}
