package markets

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/market"
	"ivelt/core/regular"
	"ivelt/core/say"
	"ivelt/core/shown"
	"ivelt/store"
)

// systemBase begins what stands in place of an address for the market of a desk's own
// packages; the desk's name follows.
const systemBase = "packages:"

// ofSystem is the desk whose packages a market is made of; nil for any other market.
func (m *Markets) ofSystem(base string) *desks.Managed {
	name, ok := strings.CutPrefix(base, systemBase)
	if !ok {
		return nil
	}
	i := slices.IndexFunc(m.systems, func(d *desks.Managed) bool { return d.ID == name })
	if i < 0 {
		return nil
	}
	return m.systems[i]
}

// Systems are the numbers of the markets that are of a desk's own packages.
func (m *Markets) Systems() (map[uint]bool, error) {
	out := map[uint]bool{}
	if len(m.systems) == 0 {
		return out, nil
	}
	rows, err := m.List()
	for _, row := range rows {
		if m.ofSystem(row.Base) != nil {
			out[row.ID] = true
		}
	}
	return out, err
}

// PackageEntry is the entry of the package of a desk that has a piece of that kind and name,
// by how such packages are called.
func (m *Markets) PackageEntry(d *desks.Managed, kind, name string) (store.MarketEntryRow, bool) {
	found, ok := d.Packaged().Find(kind, name, "")
	if !ok || d.Offers == nil {
		return store.MarketEntryRow{}, false
	}
	systems, err := m.Systems()
	if err != nil {
		return store.MarketEntryRow{}, false
	}
	for id := range systems {
		if row, err := m.store.MarketEntryByKey(id, found.Name); err == nil && row.Kind == kind {
			return row, true
		}
	}
	return store.MarketEntryRow{}, false
}

// addSystems makes a market of the packages of each desk that offers them.
func (m *Markets) addSystems(on []*desks.Managed) error {
	rows, err := m.store.Markets()
	if err != nil {
		return err
	}
	for _, d := range on {
		if d.Offers == nil {
			continue
		}
		m.systems = append(m.systems, d)
		base := systemBase + d.ID
		if slices.ContainsFunc(rows, func(r store.MarketRow) bool { return r.Base == base }) {
			continue
		}
		if err := m.store.SaveMarket(&store.MarketRow{Base: base, Name: d.Offers.Name(), About: "What the package manager of this system has in its lists.", On: true, Own: true}); err != nil {
			return err
		}
	}
	return nil
}

// readList is what is kept of a package manager's list: of Stamp, the packages that may have
// pieces; of a list of contents the kind of each package it tells of.
type readList struct {
	Stamp    string            `json:"stamp"`
	Packages []market.Package  `json:"packages,omitempty"`
	Kinds    map[string]string `json:"kinds,omitempty"`
	Trouble  string            `json:"trouble,omitempty"` // the list could not be read to its end
}

func (m *Markets) listFile(base, name string) string {
	sum := sha256.Sum256([]byte(base + "\x00" + name))
	return filepath.Join(m.dir, "packages", hex.EncodeToString(sum[:12])+".json")
}

// known is what was kept of a list, if it is as it was.
func (m *Markets) known(base string, l market.List) (readList, bool) {
	var r readList
	b, err := regular.Read(m.listFile(base, l.Name), 64<<20)
	return r, err == nil && json.Unmarshal(b, &r) == nil && r.Stamp == l.Stamp
}

func (m *Markets) keep(base, name string, r readList) {
	b, err := json.Marshal(r)
	if err == nil {
		err = os.MkdirAll(filepath.Join(m.dir, "packages"), 0o700)
	}
	if err == nil {
		_ = os.WriteFile(m.listFile(base, name), b, 0o600) // only a cache
	}
}

// renewSystem reads those lists of a desk's package manager that have changed.
func (m *Markets) renewSystem(ctx context.Context, j *jobs.Job, row *store.MarketRow, d *desks.Managed) (changed bool, err error) {
	offers, tree := d.Offers, d.Tree()
	j.Step("Reading "+row.Name, "lists")
	kinds, trouble, err := m.certain(ctx, row.Base, offers, tree)
	if err != nil {
		return false, err
	}
	lists, err := offers.Lists(tree)
	if err != nil {
		return false, err
	}
	best := map[string]market.Package{}
	sure := slices.DeleteFunc(slices.Sorted(maps.Keys(kinds)), func(name string) bool { return kinds[name] == "" })
	sum := sha256.Sum256([]byte(strings.Join(sure, " "))) // which of the unlikely ones are read depends on that
	for i, l := range lists {
		j.At(int64(i), int64(len(lists)))
		l.Stamp += " " + hex.EncodeToString(sum[:8])
		r, ok := m.known(row.Base, l)
		if !ok {
			r = readList{Stamp: l.Stamp}
			err := offers.Read(ctx, tree, l.Name, func(p market.Package) error {
				if p.Likely() != "" || kinds[p.Name] != "" {
					r.Packages = append(r.Packages, p)
				}
				return nil
			})
			if ctx.Err() != nil {
				return false, ctx.Err()
			}
			if err != nil {
				r.Trouble = err.Error()
			}
			m.keep(row.Base, l.Name, r)
		}
		trouble = cmp.Or(trouble, r.Trouble)
		for _, p := range r.Packages {
			if have, ok := best[p.Name]; !ok || offers.Newer(p.Version, have.Version) {
				best[p.Name] = p
			}
		}
	}
	var entries []market.Entry
	versions := map[string]string{}
	for _, name := range slices.Sorted(maps.Keys(best)) {
		p := best[name]
		kind, certain := kinds[name]
		if !certain {
			kind = p.Likely()
		}
		if kind != "" && len(p.SHA256) == sha256.Size*2 {
			entries, versions[name] = append(entries, p.Offered(kind, certain)), p.Version
		}
	}
	d.Offer(versions)
	if trouble != "" { // what could be read is there all the same
		err = say.Errorf("%w: some of the package lists could not be read to their end: %s", ErrMarket, trouble)
	}
	did, saving := m.saveSystem(ctx, row, entries)
	row.Seen = time.Now()
	return did, errors.Join(saving, err)
}

// certain are the kinds of the packages of which the files are known, "" for one that is there
// for something else.
func (m *Markets) certain(ctx context.Context, base string, offers market.System, tree fs.FS) (kinds map[string]string, trouble string, err error) {
	contents, err := offers.Contents(tree)
	if err != nil {
		return nil, "", err
	}
	kinds = map[string]string{}
	for _, l := range contents {
		r, ok := m.known(base, l)
		if !ok {
			held := map[string]*market.Held{}
			err := offers.ReadContents(ctx, tree, l.Name, func(name, file string) {
				h := held[name]
				if h == nil {
					h = &market.Held{}
					held[strings.Clone(name)] = h
				}
				h.Add(file)
			})
			if ctx.Err() != nil {
				return nil, "", ctx.Err()
			}
			r = readList{Stamp: l.Stamp, Kinds: map[string]string{}}
			if err != nil {
				r.Trouble = err.Error()
			}
			for name, h := range held {
				r.Kinds[name] = h.Kind()
			}
			m.keep(base, l.Name, r)
		}
		trouble = cmp.Or(trouble, r.Trouble)
		for name, kind := range r.Kinds {
			if kind != "" || r.Trouble == "" { // of a list that ends too soon only what is there is known
				kinds[name] = cmp.Or(kind, kinds[name])
			}
		}
	}
	return kinds, trouble, nil
}

// saveSystem writes down what a system offers, if it is anything else than last time.
func (m *Markets) saveSystem(ctx context.Context, row *store.MarketRow, entries []market.Entry) (changed bool, err error) {
	b, err := json.Marshal(entries)
	if err != nil {
		return false, err
	}
	sum := sha256.Sum256(b)
	p := store.MarketPageRow{Market: row.ID, File: market.IndexFile, ETag: hex.EncodeToString(sum[:])}
	pages, err := m.store.MarketPages(row.ID)
	if err != nil {
		return false, err
	}
	if slices.ContainsFunc(pages, func(old store.MarketPageRow) bool { return old.ETag == p.ETag }) {
		return false, nil
	}
	edit, err := m.store.SaveMarketPage(ctx, p, entries, nil)
	m.edited(edit)
	return true, err
}

// The ways a package manager does not fetch what its lists offer.
var (
	ErrVanished = errors.New("the package manager knows no such package any more: have it renew its lists, then look again")
	ErrManager  = errors.New("the package manager did not fetch it")
)

// longestFetch bounds how long a package manager may be at it.
const longestFetch = time.Hour

// byManager has the package manager fetch a package, as the person, into part.
func (t *Transfer) byManager(ctx context.Context, j *jobs.Job, d *desks.Managed, part string) error {
	room, err := os.MkdirTemp(t.m.dir, ".package-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(room)
	args := d.Offers.Fetch(t.Entry.ID, t.version.Version)
	tool, err := exec.LookPath(args[0])
	if err != nil {
		return say.Errorf("%w: %w", ErrManager, err)
	}
	j.Step("The package manager fetches "+t.Entry.ID, "")
	run, stop := context.WithTimeout(ctx, longestFetch)
	defer stop()
	c := exec.CommandContext(run, tool, args[1:]...)
	c.Dir, c.Env = room, append(os.Environ(), "LC_ALL=C", "DEBIAN_FRONTEND=noninteractive")
	c.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} // what it starts ends with it
	c.Cancel = func() error { return syscall.Kill(-c.Process.Pid, syscall.SIGTERM) }
	c.WaitDelay = 2 * time.Second
	said := &tail{}
	c.Stdout, c.Stderr = said, said
	err = c.Run()
	switch {
	case ctx.Err() != nil:
		return context.Cause(ctx)
	case err != nil && said.has("Unable to locate package", "was not found", "No packages found"):
		return say.Errorf("%s %s: %w", t.Entry.ID, t.version.Version, ErrVanished)
	case err != nil:
		return say.Errorf("%w: it says: %s", ErrManager, cmp.Or(said.line(), err.Error()))
	}
	list, err := os.ReadDir(room)
	if err != nil {
		return err
	}
	if len(list) != 1 || !list[0].Type().IsRegular() {
		return say.Errorf("%w: it left %d files instead of one", ErrManager, len(list))
	}
	file := filepath.Join(room, list[0].Name())
	f, err := regular.Open(file)
	if err != nil {
		return err
	}
	defer f.Close()
	h := sha256.New()
	size, err := io.Copy(h, f)
	if err != nil {
		return err
	}
	if err := t.compare(h, size); err != nil {
		return err
	}
	return os.Rename(file, part)
}

// tail keeps the end of what a program says.
type tail struct{ b []byte }

func (t *tail) Write(b []byte) (int, error) {
	t.b = append(t.b, b...)
	if n := len(t.b) - 8<<10; n > 0 {
		t.b = bytes.Clone(t.b[n:])
	}
	return len(b), nil
}

func (t *tail) has(any ...string) bool {
	return slices.ContainsFunc(any, func(words string) bool { return bytes.Contains(t.b, []byte(words)) })
}

// line is the last line that says something is wrong, else the last.
func (t *tail) line() string {
	lines := strings.Split(strings.TrimSpace(string(t.b)), "\n")
	for _, l := range slices.Backward(lines) {
		if rest, ok := strings.CutPrefix(l, "E: "); ok {
			return shown.Line(rest)
		}
	}
	return shown.Line(lines[len(lines)-1])
}
