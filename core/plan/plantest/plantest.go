// Package plantest is a small desk for tests of plans.
package plantest

import (
	"archive/zip"
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"golang.org/x/sys/unix"

	"ivelt/core/apply"
	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/planning"
)

const (
	GTK3 = ".config/gtk-3.0/settings.ini"
	GTK4 = ".config/gtk-4.0/settings.ini"
)

// Bench is a desk with a pack to wear, a parcel with another, and what keeps
// the originals.
type Bench struct {
	T       testing.TB
	D       *desk.Desk
	Dir     string
	Journal string
	Icons   int // in the pack of the parcel
}

// New makes one in a folder of its own.
func New(t testing.TB) *Bench {
	t.Helper()
	b := &Bench{T: t, Dir: t.TempDir(), Icons: 28}
	for _, sub := range []string{"home", "system", "keep"} {
		must(t, os.MkdirAll(filepath.Join(b.Dir, sub), 0o755))
	}
	b.Write(GTK3, "# mine\r\n[Settings]\r\ngtk-icon-theme-name = Old\r\nx-note=keep\r\n", 0o640)
	b.Write(".local/share/icons/New/index.theme", "[Icon Theme]\nName=New\nDirectories=16\n[16]\nSize=16\n", 0o644)
	b.Write("notes.txt", "nobody's business", 0o600)
	b.Open()
	return b
}

// Open looks at the desk anew.
func (b *Bench) Open() {
	b.T.Helper()
	d, err := desk.Open("d", filepath.Join(b.Dir, "home"), filepath.Join(b.Dir, "system"), "/home/me")
	must(b.T, err)
	d.SetWritable(true)
	d.SetSurfaces(Surfaces())
	d.Settings = &Settings{File: filepath.Join(b.Dir, "home", ".settings")}
	b.D, b.Journal = d, filepath.Join(b.Dir, "journal.json")
}

// Write writes a file of the home, of an old date.
func (b *Bench) Write(name, text string, mode fs.FileMode) {
	b.T.Helper()
	file := filepath.Join(b.Dir, "home", name)
	must(b.T, os.MkdirAll(filepath.Dir(file), 0o755))
	must(b.T, os.WriteFile(file, []byte(text), mode))
	must(b.T, os.Chtimes(file, time.Time{}, time.Date(2025, 5, 4, 3, 2, 1, 123, time.UTC)))
}

// File is the text of a file of the home.
func (b *Bench) File(name string) string {
	b.T.Helper()
	text, err := os.ReadFile(filepath.Join(b.Dir, "home", name))
	must(b.T, err)
	return string(text)
}

// Put and Get keep contents in a folder.
func (b *Bench) Put(text []byte) (string, error) {
	f, err := os.CreateTemp(filepath.Join(b.Dir, "keep"), "")
	if err != nil {
		return "", err
	}
	defer f.Close()
	_, err = f.Write(text)
	hash := plan.Digest(text)
	return hash, errors.Join(err, os.Rename(f.Name(), filepath.Join(b.Dir, "keep", hash)))
}

// Get returns what was kept.
func (b *Bench) Get(hash string) ([]byte, error) {
	return os.ReadFile(filepath.Join(b.Dir, "keep", hash))
}

// Config is how plans are carried out on it.
func (b *Bench) Config() apply.Config { return apply.Config{Keep: b, Journal: b.Journal} }

// Apply carries a plan out.
func (b *Bench) Apply(p plan.Plan) error { return apply.Plan(b.T.Context(), b.D, p, b.Config()) }

// Dress plans to wear an icon pack.
func (b *Bench) Dress(pack string) plan.Plan {
	b.T.Helper()
	p, err := planning.Dress(b.T.Context(), b.D, outfit.Outfit{Name: pack}.With(desk.FacetIcons, pack))
	must(b.T, err)
	return p
}

// Install plans to put a pack of 30 files in place, from a zip.
func (b *Bench) Install() plan.Plan { return b.Installing(planning.Refuse) }

func (b *Bench) zip(file string) {
	b.T.Helper()
	f, err := os.Create(file)
	must(b.T, err)
	z := zip.NewWriter(f)
	put := func(name, text string, mode fs.FileMode) {
		h := &zip.FileHeader{Name: "repo/" + name}
		h.SetMode(mode)
		w, err := z.CreateHeader(h)
		must(b.T, err)
		_, err = w.Write([]byte(text))
		must(b.T, err)
	}
	put("README", "about it", 0o644)
	put("Salt/index.theme", "[Icon Theme]\nName=Salt\nDirectories=16\n[16]\nSize=16\n", 0o644)
	put("Salt/draw.sh", "#!/bin/sh\n", 0o755)
	put("Salt/16/linked.png", "0.png", fs.ModeSymlink|0o777)
	put("Salt/16/out.png", "../../README", fs.ModeSymlink|0o777)
	for i := range b.Icons {
		put(fmt.Sprintf("Salt/16/%d.png", i), strings.Repeat("x", i), 0o644)
	}
	must(b.T, z.Close())
	must(b.T, f.Close())
}

// Installing plans the same; exists is what to do if something is there.
func (b *Bench) Installing(exists planning.Exists) plan.Plan {
	b.T.Helper()
	file := filepath.Join(b.Dir, "Salt.zip")
	if _, err := os.Stat(file); err != nil {
		b.zip(file)
	}
	p, err := parcel.Open(b.T.Context(), file, archive.Options{})
	must(b.T, err)
	found := p.Recognise(b.T.Context()).Pieces
	if len(found) != 1 {
		b.T.Fatalf("%d pieces", len(found))
	}
	pl, err := planning.Install(b.T.Context(), b.D, p, []planning.Placing{{Piece: found[0], Target: "/home/me/.data/icons/Salt", Links: []string{"/home/me/.icons/Salt"}, Exists: exists}})
	must(b.T, err)
	return pl
}

// Tree is the whole home: names, modes, times of files, contents.
func (b *Bench) Tree() map[string]string { return b.Look(true) }

// Look is the same as Tree, without the times if so asked.
func (b *Bench) Look(times bool) map[string]string {
	b.T.Helper()
	out := map[string]string{}
	top := filepath.Join(b.Dir, "home")
	must(b.T, filepath.WalkDir(top, func(p string, d fs.DirEntry, err error) error {
		must(b.T, err)
		rel, _ := filepath.Rel(top, p)
		fi, err := d.Info()
		must(b.T, err)
		switch {
		case d.IsDir():
			out[rel] = fi.Mode().String() + ExtendedOf(b.T, p)
		case fi.Mode()&fs.ModeSymlink != 0:
			out[rel], _ = os.Readlink(p)
		default:
			text, err := os.ReadFile(p)
			must(b.T, err)
			out[rel] = fmt.Sprint(fi.Mode(), ExtendedOf(b.T, p), string(text))
			if times {
				out[rel] = fmt.Sprint(fi.ModTime().UTC(), out[rel])
			}
		}
		return nil
	}))
	return out
}

// Surfaces are the toolkits that keep their settings in key files.
func Surfaces() []desk.Surface {
	return slices.DeleteFunc(desk.Builtin(), func(s desk.Surface) bool { return s.ID == "gtk2" || s.ID == "gtk4-own" || s.ID == "qt" })
}

// NewSmall is a bench with a parcel of a few files. It lies in memory where that
// can be: what a disk would lose is lost by the test.
func NewSmall(t testing.TB) *Bench {
	b := New(t)
	if dir, err := os.MkdirTemp("/dev/shm", "ivelt-faults-"); err == nil {
		t.Cleanup(func() { os.RemoveAll(dir) })
		must(t, os.CopyFS(dir, os.DirFS(b.Dir)))
		b.Dir = dir
		b.Open()
	}
	b.Icons = 6
	return b
}

// Undo carries a plan out and plans the way back.
func (b *Bench) Undo(done plan.Plan) plan.Plan {
	b.T.Helper()
	must(b.T, b.Apply(done))
	return b.Back(planning.Aim{}, done).Plan
}

// Back plans a way back on what was done.
func (b *Bench) Back(aim planning.Aim, done ...plan.Plan) planning.Return {
	b.T.Helper()
	r, err := planning.Back(b.D, done, b, aim)
	must(b.T, err)
	return r
}

// Attributes of everything in the home: owner, mode, extended attributes and access
// control lists as getfacl(1) tells them.
func (b *Bench) Attributes() map[string]string {
	b.T.Helper()
	out := map[string]string{}
	top := filepath.Join(b.Dir, "home")
	must(b.T, filepath.WalkDir(top, func(p string, d fs.DirEntry, err error) error {
		must(b.T, err)
		fi, err := d.Info()
		must(b.T, err)
		st := fi.Sys().(*syscall.Stat_t)
		rel, _ := filepath.Rel(top, p)
		says := fmt.Sprint(fi.Mode(), " ", st.Uid, ":", st.Gid)
		if !d.IsDir() && st.Nlink > 1 {
			says += fmt.Sprint(" ", st.Nlink, " names")
		}
		if d.Type()&fs.ModeSymlink == 0 {
			says += ExtendedOf(b.T, p)
		}
		out[rel] = says
		return nil
	}))
	return out
}

// ExtendedOf writes the extended attributes of a file, and its owner if that is not us.
func ExtendedOf(t testing.TB, file string) string {
	t.Helper()
	says, list := "", make([]byte, 1024)
	n, err := unix.Llistxattr(file, list)
	must(t, err)
	names := strings.Split(strings.TrimRight(string(list[:n]), "\x00"), "\x00")
	slices.Sort(names)
	for _, name := range names {
		value := make([]byte, 1024)
		if n, err := unix.Lgetxattr(file, name, value); name != "" && err == nil {
			says += fmt.Sprintf(" %s=%q", name, value[:n])
		}
	}
	fi, err := os.Lstat(file)
	must(t, err)
	if st := fi.Sys().(*syscall.Stat_t); int(st.Uid) != os.Getuid() {
		says += fmt.Sprint(" of ", st.Uid, ":", st.Gid)
	}
	return says
}

// Decorate gives the files of a bench owners, attributes and access control lists.
func Decorate(t testing.TB, b *Bench, names ...string) {
	for i, name := range names {
		must(t, unix.Setxattr(b.Host(name), "user.note", fmt.Appendf(nil, "note %d", i), 0))
		if out, err := exec.Command("setfacl", "-m", "u:3456:rw", b.Host(name)).CombinedOutput(); err != nil {
			t.Fatalf("setfacl: %v: %s", err, out)
		}
		if os.Getuid() == 0 {
			must(t, os.Chown(b.Host(name), 1234, 2345))
		}
	}
}

// Host is the host path of a name in the home.
func (b *Bench) Host(name string) string { return filepath.Join(b.Dir, "home", name) }

func must(t testing.TB, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

var seeded = flag.Uint64("seed", 0, "where the chances start from; 0: by the clock")

// Seed is where chances start from, and says it.
func Seed(t testing.TB) uint64 {
	s := *seeded
	if s == 0 {
		s = uint64(time.Now().UnixNano())
	}
	t.Logf("seed %d; -args -seed %d does the same again", s, s)
	return s
}
