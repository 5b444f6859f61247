// Package desk is one computer's desktop: the file tree its programs see, the
// folders they agree on, its programs, and the surfaces that draw on it.
package desk

import (
	"crypto/ed25519"
	"errors"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"sync/atomic"
	"time"

	"ivelt/core/cache"
	"ivelt/core/say"
	"ivelt/core/shown"
)

// Desk is one computer's desktop. Paths handed to its methods and returned by
// them are those of the desk ("/home/mara/.icons"), unless they are said to be
// host paths.
type Desk struct {
	ID       string
	Title    string
	Home     string            // host folder that is the home
	System   string            // host folder that is the root of the system
	HomePath string            // where the home stands on the desk
	Env      map[string]string // what the session's environment sets
	// Layers are host folders that lie under the home: what the home itself does
	// not have is found in them, the first before the others. A desk with layers
	// is looked at, to see how it would be with what is in them; it is not
	// written to.
	Layers []string
	// Front is a host folder laid over the whole tree, and Gone are paths that are
	// taken away: how the desk would be, see Layers.
	Front string
	Gone  []string
	// Running tells of the session that runs on it; nil if nothing is known.
	Running func() Session
	// Programs are the running programs of the person's; nil if nothing is known of them.
	Programs func() []Program
	// Settings keeps the desktop's settings; nil where nothing can be told of them.
	Settings SettingsKeeper
	// SigningKey is the one with which the desk's owner signs looks, where it is under a lock; nil
	// if there is none.
	SigningKey ed25519.PrivateKey
	// Manager manages the desk's packages; nil where nothing does.
	Manager Manager
	// Cache keeps what was read and worked out of its files; nil keeps nothing. It is shared
	// by all forms of the desk, so keys say where files lie, see [Desk.Where].
	Cache    *cache.Cache
	told     map[string]Value // see [Desk.Told]
	settled  bool             // see [Desk.Settled]
	writable *atomic.Bool     // nil: it is not
	surfaces *surfaces
	snapshot *snapshot // nil: nothing is remembered
}

// surfaces are those of a desk, in all its forms: one that is learned joins in while
// others are read.
type surfaces struct {
	list  atomic.Pointer[[]Surface]
	given atomic.Pointer[[]Surface] // without the person's own, once those were read

	broken atomic.Pointer[[]error] // of those that could not be used
}

// Writable reports whether plans may be applied to the desk.
func (d *Desk) Writable() bool { return d.writable != nil && d.writable.Load() }

// SetWritable lets plans be applied to the desk, in all its forms, or no longer. Only the
// first call must not run beside others.
func (d *Desk) SetWritable(may bool) {
	if d.writable == nil {
		d.writable = &atomic.Bool{}
	}
	d.writable.Store(may)
}

// Room is the desk with another folder as its home, and nothing laid over it, to be written
// in whether the desk itself may be or not.
func (d *Desk) Room(home string) *Desk {
	out := *d
	out.Home, out.Layers, out.snapshot, out.writable = home, nil, nil, nil
	out.SetWritable(true)
	return &out
}

// With is a desk that has surfaces, and nothing else.
func With(all []Surface) *Desk {
	d := &Desk{}
	d.SetSurfaces(all)
	return d
}

// Surfaces are what draws on the desk. The list is not to be changed.
func (d *Desk) Surfaces() []Surface {
	if d.surfaces == nil {
		return nil
	}
	if all := d.surfaces.list.Load(); all != nil {
		return *all
	}
	return nil
}

// SetSurfaces gives the desk, in all its forms, other surfaces. A [Desk.Snapshot] keeps
// those that it had. Only the first call must not run beside others.
func (d *Desk) SetSurfaces(all []Surface) {
	if d.surfaces == nil {
		d.surfaces = &surfaces{}
	}
	d.surfaces.list.Store(&all)
	d.surfaces.given.Store(nil)
}

// given are the surfaces without those that [Desk.OwnSurfaces] read.
func (d *Desk) given() []Surface {
	if d.surfaces != nil {
		if all := d.surfaces.given.Load(); all != nil {
			return *all
		}
	}
	return d.Surfaces()
}

// snapshot is what a desk remembers for one go through its readings.
type snapshot struct {
	tree  *Tree
	vars  map[string]Variable // of the files that set variables; nil: not read yet
	known map[string]any      // what was found out, see [Once]
}

// Once finds something out, once for one go through a desk's readings. key names
// it; all that it depends on is in the key or in the desk's tree.
func Once[T any](d *Desk, key string, find func() T) T {
	if d.snapshot == nil {
		return find()
	}
	if v, ok := d.snapshot.known[key]; ok {
		return v.(T)
	}
	v := find()
	d.snapshot.known[key] = v
	return v
}

// Snapshot returns the desk for one go through many readings: it remembers which
// folders are no links, what is in files, and the variables that files set. It
// must not be kept, nor used from several goroutines.
func (d *Desk) Snapshot() *Desk {
	if d.snapshot != nil {
		return d
	}
	brief := *d
	tree := d.Tree().Briefly()
	tree.read, tree.stats, tree.lists = map[string]content{}, map[string]described{}, map[string]listing{}
	brief.surfaces = nil
	brief.SetSurfaces(d.Surfaces())
	brief.snapshot = &snapshot{tree: tree, known: map[string]any{}}
	return &brief
}

// Lasting is the desk without what a snapshot of it remembers: it can be used from several
// goroutines.
func (d *Desk) Lasting() *Desk {
	out := *d
	out.snapshot = nil
	return &out
}

// Laid is the desk with a host folder laid over its tree, and without what is
// gone: how it would be. See Front and Gone.
func (d *Desk) Laid(front string, gone []string) *Desk {
	out := *d
	out.snapshot, out.Front, out.Gone = nil, front, gone
	return &out
}

// ErrFolder: a folder that a desk is made of cannot be used.
var ErrFolder = errors.New("not a usable folder")

// kept is what is kept of a desk's files.
var kept = cache.Bounds{Bytes: 96 << 20, Age: time.Hour}

// Where tells this form of the desk from others that have the same cache: where its files
// lie on this machine.
func (d *Desk) Where() string { return d.HostPath("/") + "\x00" + d.HostPath(d.HomePath) }

// Open describes the desk made of two host folders. An empty system is this
// machine's own root. homePath may be empty; then a home inside the system has
// its place there, and any other stands at /home with its own name.
func Open(id, home, system, homePath string) (*Desk, error) {
	if system == "" {
		system = "/"
	}
	for _, dir := range []*string{&home, &system} {
		abs, err := filepath.Abs(*dir)
		if err != nil {
			return nil, say.Errorf("%w: %s: %w", ErrFolder, *dir, err)
		}
		if fi, err := os.Stat(abs); err != nil || !fi.IsDir() {
			return nil, say.Errorf("%w: %s: name a folder that exists", ErrFolder, *dir)
		}
		*dir = abs
	}
	if homePath == "" {
		rel, err := filepath.Rel(system, home)
		if err == nil && rel != "." && rel != ".." && !strings.HasPrefix(rel, "../") {
			homePath = "/" + filepath.ToSlash(rel)
		} else {
			homePath = "/home/" + filepath.Base(home)
		}
	}
	return &Desk{ID: id, Title: id, Home: home, System: system, HomePath: homePath, Cache: cache.New(kept)}, nil
}

// Tree returns the file tree of the desk.
func (d *Desk) Tree() *Tree {
	if d.snapshot != nil {
		return d.snapshot.tree
	}
	t := &Tree{system: d.System, home: d.Home, homeAt: Name(d.HomePath), layers: d.Layers, front: d.Front}
	if len(d.Gone) > 0 {
		t.gone = map[string]bool{}
		for _, p := range d.Gone {
			t.gone[Name(p)] = true
		}
	}
	return t
}

// Name turns a path of the desk into a name of its [Tree].
func Name(p string) string {
	if p = strings.TrimPrefix(path.Clean("/"+p), "/"); p != "" {
		return p
	}
	return "."
}

// Path turns a name of the desk's [Tree] into a path.
func Path(name string) string { return path.Join("/", name) }

// HostPath returns where a path of the desk lies on this machine; "" stays "".
func (d *Desk) HostPath(p string) string {
	if p == "" {
		return ""
	}
	return d.Tree().host(Name(p))
}

// Show writes a path of the desk as people write it: the home as "~".
func (d *Desk) Show(p string) string {
	if setting, ok := Setting(p); ok {
		return shown.Line("setting " + setting)
	}
	if name, ok := PackageOf(p); ok {
		return shown.Line("package " + name)
	}
	if rest, ok := below(Name(p), Name(d.HomePath)); ok {
		return shown.Line(path.Join("~", rest))
	}
	return shown.Line(p)
}

// Mine reports whether a path of the desk is in the home, or names a setting of the person's.
func (d *Desk) Mine(p string) bool {
	if _, ok := Setting(p); ok {
		return true
	}
	_, ok := below(Name(p), Name(d.HomePath))
	return ok
}

// Surface returns the surface of that name.
func (d *Desk) Surface(id string) (Surface, bool) {
	for _, s := range d.Surfaces() {
		if s.ID == id {
			return s, true
		}
	}
	return Surface{}, false
}

// Expand replaces the place names of a descriptor in s and returns the paths
// it stands for, in order:
//
//	~  {home}       the home
//	{config}        XDG_CONFIG_HOME, else ~/.config
//	{data}          XDG_DATA_HOME, else ~/.local/share
//	{state}         XDG_STATE_HOME, else ~/.local/state
//	{config-dirs}   each of XDG_CONFIG_DIRS, else /etc/xdg
//	{config-dirs-last-first}  the same from the end
//	{data-dirs}     each of XDG_DATA_DIRS, else /usr/local/share and /usr/share
//
// (XDG Base Directory Specification 0.8.) A variable that holds a relative
// path is ignored, as the specification asks.
func (d *Desk) Expand(s string) []string {
	if rest, ok := strings.CutPrefix(s, "~"); ok {
		s = "{home}" + rest
	}
	name, rest, ok := strings.Cut(strings.TrimPrefix(s, "{"), "}")
	if !ok || !strings.HasPrefix(s, "{") {
		return []string{s}
	}
	var out []string
	for _, dir := range d.places(name) {
		out = append(out, path.Join(dir, rest))
	}
	return out
}

func (d *Desk) places(name string) []string {
	one := func(env, fallback string) []string {
		if v := d.Env[env]; path.IsAbs(v) {
			return []string{v}
		}
		return []string{path.Join(d.HomePath, fallback)}
	}
	many := func(env string, fallback ...string) []string {
		var out []string
		for v := range strings.SplitSeq(d.Env[env], ":") {
			if path.IsAbs(v) {
				out = append(out, v)
			}
		}
		if out == nil {
			return fallback
		}
		return out
	}
	switch name {
	case "home":
		return []string{d.HomePath}
	case "config":
		return one("XDG_CONFIG_HOME", ".config")
	case "data":
		return one("XDG_DATA_HOME", ".local/share")
	case "state":
		return one("XDG_STATE_HOME", ".local/state")
	case "data-dirs":
		return many("XDG_DATA_DIRS", "/usr/local/share", "/usr/share")
	case "config-dirs":
		return many("XDG_CONFIG_DIRS", "/etc/xdg")
	case "config-dirs-last-first":
		dirs := many("XDG_CONFIG_DIRS", "/etc/xdg")
		out := make([]string, 0, len(dirs))
		for i := len(dirs) - 1; i >= 0; i-- {
			out = append(out, dirs[i])
		}
		return out
	}
	return nil
}

// First is the first of the paths that [Desk.Expand] tells; of none it is the template
// itself.
func (d *Desk) First(template string) string {
	if all := d.Expand(template); len(all) > 0 {
		return all[0]
	}
	return template
}

// Folders expands each of the templates and returns the tree names of the
// folders, existing or not, each once.
func (d *Desk) Folders(templates []string) []string {
	var out []string
	seen := map[string]bool{}
	for _, t := range templates {
		for _, p := range d.Expand(t) {
			if n := Name(p); !seen[n] {
				seen[n] = true
				out = append(out, n)
			}
		}
	}
	return out
}

// Exists reports whether a path of the desk leads to something.
func (d *Desk) Exists(p string) bool {
	_, err := fs.Stat(d.Tree(), Name(p))
	return err == nil
}
