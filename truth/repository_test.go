package truth

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io/fs"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/market/debian"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/xcursor"
	"ivelt/store"
)

// repository is a source of packages of the test's own, and a system that takes from it.
type repository struct {
	t            testing.TB
	dir, root    string // of the packages; of the system
	descriptions []string
}

// newRepository makes a system with dpkg's and apt's own folders (Debian: apt, dpkg), which
// knows of no source but one. What apt is told by APT_CONFIG holds for all that is started.
func newRepository(t testing.TB) *repository {
	r := &repository{t: t, dir: t.TempDir(), root: t.TempDir()}
	for _, dir := range []string{"usr/share/doc", "var/lib/dpkg/info", "var/lib/dpkg/updates", "var/lib/apt/lists/partial", "var/cache/apt/archives/partial", "etc/apt/apt.conf.d", "etc/apt/preferences.d", "etc/apt/sources.list.d", "var/log/apt", "usr/share", "tmp", "etc"} {
		require.NoError(t, os.MkdirAll(filepath.Join(r.root, dir), 0o755))
	}
	for name, text := range map[string]string{"var/lib/dpkg/status": "", "var/lib/dpkg/available": "", "etc/machine-id": "0123456789abcdef0123456789abcdef\n", "etc/apt/sources.list": "deb [trusted=yes] copy:" + r.dir + " ./\n"} {
		require.NoError(t, os.WriteFile(filepath.Join(r.root, name), []byte(text), 0o644))
	}
	config := filepath.Join(r.dir, "apt.conf")
	require.NoError(t, os.WriteFile(config, fmt.Appendf(nil, "Dir %q;\nDir::State::status %q;\nDPkg::Options:: \"--root=%s\";\nDPkg::Options:: \"--force-not-root\";\nAPT::Sandbox::User \"root\";\nAPT::Architecture \"amd64\";\nAcquire::Languages \"none\";\n",
		r.root, filepath.Join(r.root, "var/lib/dpkg/status"), r.root), 0o644))
	t.Setenv("APT_CONFIG", config)
	return r
}

// add builds a package with dpkg-deb and puts it into the repository's list, which apt reads
// once it is told to.
func (r *repository) add(name, version, section, summary string, fields []string, files map[string]string) {
	dir := r.t.TempDir()
	control := append([]string{"Package: " + name, "Version: " + version, "Section: " + section, "Architecture: all", "Maintainer: Mara Reed <mara@example.org>", "Priority: optional"}, fields...)
	text := strings.Join(append(control, "Description: "+summary), "\n") + "\n"
	files["DEBIAN/control"] = text
	for at, content := range files {
		require.NoError(r.t, os.MkdirAll(filepath.Dir(filepath.Join(dir, at)), 0o755))
		require.NoError(r.t, os.WriteFile(filepath.Join(dir, at), []byte(content), 0o644))
	}
	file := fmt.Sprintf("%s_%s_all.deb", name, version)
	out, err := exec.CommandContext(r.t.Context(), "dpkg-deb", "--root-owner-group", "--build", dir, filepath.Join(r.dir, file)).CombinedOutput()
	require.NoError(r.t, err, string(out))
	b, err := os.ReadFile(filepath.Join(r.dir, file))
	require.NoError(r.t, err)
	sum := sha256.Sum256(b)
	r.descriptions = append(r.descriptions, fmt.Sprintf("%sFilename: ./%s\nSize: %d\nSHA256: %s\n", text, file, len(b), hex.EncodeToString(sum[:])))
}

// renew has apt read the list.
func (r *repository) renew() {
	require.NoError(r.t, os.WriteFile(filepath.Join(r.dir, "Packages"), []byte(strings.Join(r.descriptions, "\n")), 0o644))
	out, err := exec.CommandContext(r.t.Context(), "apt-get", "-q", "update").CombinedOutput()
	require.NoError(r.t, err, string(out))
}

// installed are the files below /usr/share and dpkg's own word on what is there.
func (r *repository) installed() (files map[string]string, packages string) {
	files = map[string]string{}
	require.NoError(r.t, filepath.WalkDir(filepath.Join(r.root, "usr/share"), func(p string, d fs.DirEntry, err error) error {
		if errors.Is(err, fs.ErrNotExist) { // dpkg takes empty folders away
			return nil
		}
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		files[strings.TrimPrefix(p, r.root)] = string(b)
		return err
	}))
	out, _ := exec.CommandContext(r.t.Context(), "dpkg-query", "--admindir="+filepath.Join(r.root, "var/lib/dpkg"), "--show", "--showformat=${db:Status-Abbrev} ${Package} ${Version}\n").Output()
	return files, string(out)
}

const index = "[Icon Theme]\nName=%s\nDirectories=16\n[16]\nSize=16\nContext=Places\n"

// fill adds four packages of pieces, one of them with a dependency, and one that has none.
func (r *repository) fill() {
	var drawn bytes.Buffer
	require.NoError(r.t, png.Encode(&drawn, image.NewNRGBA(image.Rect(0, 0, 16, 16))))
	picture := drawn.String()
	pointer := string(xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: image.NewNRGBA(image.Rect(0, 0, 24, 24))}}))
	r.add("saltpan-gtk-theme", "1.0-1", "x11", "flat theme for GTK", nil, map[string]string{
		"usr/share/themes/Saltpan/index.theme": "[Desktop Entry]\nName=Saltpan\n", "usr/share/themes/Saltpan/gtk-3.0/gtk.css": "window { background-color: #203040; color: #fff; }\n"})
	r.add("shingle-icon-theme", "2.1-1", "x11", "icon theme with pebbles", []string{"Depends: shingle-common (>= 2)"}, map[string]string{
		"usr/share/icons/Shingle/index.theme": fmt.Sprintf(index, "Shingle"), "usr/share/icons/Shingle/16/folder.png": picture, "usr/share/icons/Shingle/16/user-home.png": picture})
	r.add("shingle-common", "2.1-1", "misc", "what the pebbles have in common", nil, map[string]string{"usr/share/shingle/notes.txt": "notes\n"})
	r.add("limpet-cursor-theme", "0.3", "x11", "mouse cursors that cling", nil, map[string]string{
		"usr/share/icons/Limpet/index.theme": "[Icon Theme]\nName=Limpet\n", "usr/share/icons/Limpet/cursors/left_ptr": pointer})
	r.add("dune-wallpapers", "5", "graphics", "desktop wallpapers of dunes", nil, map[string]string{"usr/share/backgrounds/dunes/one.png": picture, "usr/share/backgrounds/dunes/two.png": picture})
	r.add("tide-table", "1.2", "science", "tells when the tide comes", nil, map[string]string{"usr/share/tide/table.txt": "6:12 18:40\n"})
}

// onSystem is an Ivelt on a home of its own, with the packages of the repository's system.
func (r *repository) onSystem() (*app.App, *desks.Managed) {
	home := r.t.TempDir()
	d, err := desk.Open("own", home, r.root, "/home/me")
	require.NoError(r.t, err)
	d.SetSurfaces(desk.Builtin())
	d.SetWritable(true)
	d.Manager = debian.Manager{Root: r.root}
	on := &desks.Managed{Desk: d, Offers: debian.System{Root: r.root}}
	a, err := app.New(r.t.Context(), app.Config{Dir: r.t.TempDir(), Desks: []*desks.Managed{on}})
	require.NoError(r.t, err)
	r.t.Cleanup(func() { require.NoError(r.t, a.Close()) })
	a.Markets.Fresh = 0
	return a, on
}

// administrator carries out what is handed over, and goes back on it, on the repository's
// system.
func (r *repository) administrator() (carryOut func(file string) error, back func(number uint) error) {
	d, err := changes.SystemDesk(r.root)
	require.NoError(r.t, err)
	require.NoError(r.t, os.MkdirAll(d.Home, 0o755))
	d.SetSurfaces(desk.Builtin())
	d.SetWritable(true)
	d.Manager = debian.Manager{Root: r.root}
	on := &desks.Managed{Desk: d}
	a, err := app.New(r.t.Context(), app.Config{Dir: r.t.TempDir(), Desks: []*desks.Managed{on}})
	require.NoError(r.t, err)
	r.t.Cleanup(func() { require.NoError(r.t, a.Close()) })
	return func(file string) error {
			_, job, err := a.Administrator.CarryOut(r.t.Context(), on, file, "mara", false)
			return apptest.Wait(job, err)
		}, func(number uint) error {
			_, job, err := a.Administrator.GoBack(on, number, false)
			return apptest.Wait(job, err)
		}
}

// looked is what the system's market has, once its lists were read: name and kind, with a
// question mark where that is likely and not certain.
func looked(t testing.TB, a *app.App) map[string]string {
	t.Helper()
	if j := a.Markets.Look(); j != nil {
		require.NoError(t, j.Wait())
	}
	found, err := a.Markets.Search(t.Context(), markets.Query{})
	require.NoError(t, err)
	out := map[string]string{}
	for _, row := range found.Entries {
		e, err := row.Entry()
		require.NoError(t, err)
		out[e.ID] = e.Kind
		if e.Likely {
			out[e.ID] += "?"
		}
	}
	return out
}

func trouble(t testing.TB, a *app.App) string {
	t.Helper()
	rows, err := a.Markets.List()
	require.NoError(t, err)
	require.Len(t, rows, 1)
	return rows[0].Trouble
}

// TestTheSystemsPackagesAreAMarket: what apt's lists offer is found, fetched by apt as the
// person and looked into; what is known of the files makes likely certain; lists that are half
// written, packages that have gone, and a fetch that is cancelled are told.
func TestTheSystemsPackagesAreAMarket(t *testing.T) {
	r := newRepository(t)
	r.fill()
	r.renew()
	a, _ := r.onSystem()
	likely := map[string]string{"saltpan-gtk-theme": "theme?", "shingle-icon-theme": "icons?", "limpet-cursor-theme": "pointer?", "dune-wallpapers": "backdrop?"}
	require.Equal(t, likely, looked(t, a))
	require.Empty(t, trouble(t, a))

	fetched := func(name string) (store.ParcelRow, error) {
		sha := ""
		j, err := a.Markets.Fetch(markets.Ref{Entry: name}, func(is string) string { sha = is; return "" })
		if err := apptest.Wait(j, err); err != nil {
			return store.ParcelRow{}, err
		}
		return a.Library.Parcel(sha)
	}
	for name, piece := range map[string]string{"saltpan-gtk-theme": "Saltpan", "shingle-icon-theme": "Shingle", "limpet-cursor-theme": "Limpet"} {
		row, err := fetched(name)
		require.NoError(t, err)
		contents, err := library.Contents(row)
		require.NoError(t, err)
		require.Equal(t, piece, contents.Pieces[0].Name)
	}

	// A newer version counts, whichever list it is in.
	r.add("saltpan-gtk-theme", "1.0-1+b2", "x11", "flat theme for GTK", nil, map[string]string{"usr/share/themes/Saltpan/gtk-3.0/gtk.css": "window { color: #000; }\n"})
	r.renew()
	looked(t, a)
	_, e, err := a.Markets.Entry(0, "saltpan-gtk-theme")
	require.NoError(t, err)
	require.Equal(t, "1.0-1+b2", e.Newest().Version)

	// A list of contents makes it certain, and shows what its name hides.
	contents := "usr/share/icons/Shingle/16/folder.png x11/shingle-icon-theme\nusr/share/icons/Shingle/index.theme x11/shingle-icon-theme\nusr/share/dunes/one.txt graphics/dune-wallpapers\nusr/share/backgrounds/tide.png science/tide-table\n"
	lists := filepath.Join(r.root, "var/lib/apt/lists")
	require.NoError(t, os.WriteFile(filepath.Join(lists, "a_dists_b_main_Contents-all"), []byte(contents), 0o644))
	certain := map[string]string{"saltpan-gtk-theme": "theme?", "shingle-icon-theme": "icons", "limpet-cursor-theme": "pointer?", "tide-table": "backdrop"}
	require.Equal(t, certain, looked(t, a))

	// A package that has gone from its place, and one that apt knows no more.
	require.NoError(t, os.Rename(filepath.Join(r.dir, "dune-wallpapers_5_all.deb"), filepath.Join(r.dir, "aside")))
	require.NoError(t, os.Remove(filepath.Join(lists, "a_dists_b_main_Contents-all")))
	looked(t, a)
	_, err = fetched("dune-wallpapers")
	require.ErrorIs(t, err, markets.ErrManager)
	require.ErrorContains(t, err, "dune-wallpapers")
	kept := r.descriptions
	r.descriptions = kept[:len(kept)-3] // without the dunes, the tide and the newer theme
	r.renew()
	_, err = fetched("tide-table")
	require.Error(t, err, "it is no market's any more")
	_, err = fetched("dune-wallpapers")
	require.ErrorIs(t, err, markets.ErrVanished)

	// A list that ends in the middle: what stands before that is there.
	list, err := filepath.Glob(lists + "/*_Packages*")
	require.NoError(t, err)
	require.Len(t, list, 1)
	whole, err := os.ReadFile(list[0])
	require.NoError(t, err)
	cut := strings.Index(string(whole), "Package: limpet-cursor-theme")
	require.Positive(t, cut)
	require.NoError(t, os.WriteFile(list[0], whole[:cut+40], 0o644))
	require.Equal(t, map[string]string{"saltpan-gtk-theme": "theme?", "shingle-icon-theme": "icons?"}, looked(t, a))
	require.Contains(t, trouble(t, a), path.Base(list[0]))
	require.NoError(t, os.WriteFile(list[0], whole, 0o644))
	looked(t, a)
	require.Empty(t, trouble(t, a))
}

// TestAPackageComesAndGoes: the package manager installs what was planned, with what it needs,
// and takes that away again; the administrator's Ivelt does it, and dpkg says so. What would
// change more than the plan says, what is there already and what somebody else needs is refused.
func TestAPackageComesAndGoes(t *testing.T) {
	r := newRepository(t)
	r.fill()
	r.renew()
	a, d := r.onSystem()
	files, packages := r.installed()

	p, err := a.Review.Packages(d, []desk.PackageAt{{Name: "shingle-icon-theme", Version: "2.1-1"}})
	require.NoError(t, err)
	require.Len(t, p.Ops, 2)
	for _, op := range p.Ops {
		require.True(t, op.Admin)
	}
	require.Empty(t, p.Mine(d.Desk).Ops)
	_, err = a.Review.Packages(d, []desk.PackageAt{{Name: "no-such-package"}})
	require.ErrorIs(t, err, debian.ErrUnknown)

	handed := func(p plan.Plan) string {
		require.NoError(t, a.Plans.Keep(p))
		file := filepath.Join(t.TempDir(), "plan.tar")
		f, err := os.Create(file)
		require.NoError(t, err)
		require.NoError(t, errors.Join(a.Changes.HandOver(t.Context(), d, p.ID, "tar", f), f.Close()))
		return file
	}
	administer, back := r.administrator()
	require.NoError(t, administer(handed(p)))
	now, said := r.installed()
	require.Contains(t, said, "ii  shingle-icon-theme 2.1-1")
	require.Contains(t, said, "ii  shingle-common 2.1-1")
	require.Contains(t, now, "/usr/share/icons/Shingle/index.theme")
	done, _, err := changes.AdministeredFor(d.Desk)
	require.NoError(t, err)
	require.Len(t, done, 1)
	require.ErrorIs(t, administer(handed(p)), plan.ErrChanged)
	again, err := a.Review.Packages(d, []desk.PackageAt{{Name: "shingle-icon-theme"}})
	require.NoError(t, err)
	require.Empty(t, again.Ops, "it is there")

	// Somebody installs what needs one of them: it is not taken away from under that.
	r.add("pebble-icon-theme", "1", "x11", "icon theme", []string{"Depends: shingle-common"}, map[string]string{"usr/share/icons/Pebble/index.theme": fmt.Sprintf(index, "Pebble")})
	r.renew()
	require.NoError(t, debian.Manager{Root: r.root}.Change([]desk.PackageAt{{Name: "pebble-icon-theme"}}, false))
	require.ErrorContains(t, back(1), "package pebble-icon-theme would change too")
	_, said = r.installed()
	require.Contains(t, said, "ii  shingle-common")
	require.NoError(t, debian.Manager{Root: r.root}.Change([]desk.PackageAt{{Name: "pebble-icon-theme"}}, true))
	require.NoError(t, back(1))
	now, said = r.installed()
	require.Equal(t, files, now)
	require.Equal(t, packages, said)

	// By a plan that says less than the package manager would do.
	less := p
	less.Ops = nil
	for _, op := range p.Ops {
		if op.Path == desk.OfPackage("shingle-icon-theme") {
			less.Ops = append(less.Ops, op)
		}
	}
	less = less.Seal(d.Desk)
	require.ErrorContains(t, administer(handed(less)), "package shingle-common would change too")
	// The package manager is at work for somebody else.
	lock, err := os.OpenFile(filepath.Join(r.root, "var/lib/dpkg/lock-frontend"), os.O_RDWR|os.O_CREATE, 0o640)
	require.NoError(t, err)
	require.NoError(t, unix.FcntlFlock(lock.Fd(), unix.F_SETLK, &unix.Flock_t{Type: unix.F_WRLCK}))
	require.ErrorIs(t, administer(handed(p)), debian.ErrBusy)
	require.NoError(t, lock.Close())
	now, said = r.installed()
	require.Equal(t, files, now)
	require.Equal(t, packages, said)
}

// TestAnOutfitNamesItsPackages: what an outfit asks for and the desk has not is found among the
// system's packages, and left to an administrator, or taken as a copy of one's own.
func TestAnOutfitNamesItsPackages(t *testing.T) {
	r := newRepository(t)
	r.fill()
	r.renew()
	a, d := r.onSystem()
	looked(t, a)
	o := outfit.Outfit{Name: "Shore"}.With(desk.FacetIcons, "Shingle").With(desk.FacetPointer, "Limpet").With(desk.FacetWidgets, "Nowhere")
	all, err := a.Bundles.MissingOf(d, o)
	require.NoError(t, err)
	has := map[string]string{}
	for _, m := range all {
		has[m.Piece] = m.Package
	}
	require.Equal(t, map[string]string{"Shingle": "shingle-icon-theme", "Limpet": "limpet-cursor-theme", "Nowhere": ""}, has)
	got, left, err := a.Bundles.Get(t.Context(), d, o, false)
	require.NoError(t, err)
	require.Empty(t, got)
	require.Len(t, left, 3)
	got, left, err = a.Bundles.Get(t.Context(), d, o, true)
	require.NoError(t, err)
	require.Len(t, got, 2)
	require.Len(t, left, 1)
	all, err = a.Bundles.MissingOf(d, o)
	require.NoError(t, err)
	require.Len(t, all, 1)
}
