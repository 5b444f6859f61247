package plan_test

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/reading"
)

const (
	gtk3 = ".config/gtk-3.0/settings.ini"
	gtk4 = ".config/gtk-4.0/settings.ini"
)

// bench is a desk with a pack to wear, a parcel with another, and what keeps
// the originals.
type bench struct {
	t       testing.TB
	d       *desk.Desk
	dir     string
	journal string
	icons   int // in the pack of the parcel
}

func newBench(t testing.TB) *bench {
	t.Helper()
	b := &bench{t: t, dir: t.TempDir(), icons: 28}
	for _, sub := range []string{"home", "system", "keep"} {
		require.NoError(t, os.MkdirAll(filepath.Join(b.dir, sub), 0o755))
	}
	b.put(gtk3, "# mine\r\n[Settings]\r\ngtk-icon-theme-name = Old\r\nx-note=keep\r\n", 0o640)
	b.put(".local/share/icons/New/index.theme", "[Icon Theme]\nName=New\nDirectories=16\n[16]\nSize=16\n", 0o644)
	b.put("notes.txt", "nobody's business", 0o600)
	b.open()
	return b
}

func (b *bench) open() {
	b.t.Helper()
	d, err := desk.Open("d", filepath.Join(b.dir, "home"), filepath.Join(b.dir, "system"), "/home/me")
	require.NoError(b.t, err)
	d.Surfaces, d.Writable = newer(), true
	b.d, b.journal = d, filepath.Join(b.dir, "journal.json")
}

func (b *bench) put(name, text string, mode fs.FileMode) {
	b.t.Helper()
	file := filepath.Join(b.dir, "home", name)
	require.NoError(b.t, os.MkdirAll(filepath.Dir(file), 0o755))
	require.NoError(b.t, os.WriteFile(file, []byte(text), mode))
	require.NoError(b.t, os.Chtimes(file, time.Time{}, time.Date(2025, 5, 4, 3, 2, 1, 123, time.UTC)))
}

func (b *bench) file(name string) string {
	b.t.Helper()
	text, err := os.ReadFile(filepath.Join(b.dir, "home", name))
	require.NoError(b.t, err)
	return string(text)
}

// Put and Get keep contents in a folder.
func (b *bench) Put(text []byte) (string, error) {
	f, err := os.CreateTemp(filepath.Join(b.dir, "keep"), "")
	if err != nil {
		return "", err
	}
	defer f.Close()
	_, err = f.Write(text)
	hash := plan.Digest(text)
	return hash, errors.Join(err, os.Rename(f.Name(), filepath.Join(b.dir, "keep", hash)))
}

func (b *bench) Get(hash string) ([]byte, error) {
	return os.ReadFile(filepath.Join(b.dir, "keep", hash))
}

func (b *bench) config() plan.Config { return plan.Config{Keep: b, Journal: b.journal} }

func (b *bench) apply(p plan.Plan) error { return plan.Apply(context.Background(), b.d, p, b.config()) }

func (b *bench) dress(pack string) plan.Plan {
	b.t.Helper()
	p, err := plan.Dress(b.d, outfit.Outfit{Name: pack}.With(desk.FacetIcons, pack))
	require.NoError(b.t, err)
	return p
}

// install plans to put a pack of 30 files in place, from a zip.
func (b *bench) install() plan.Plan { return b.installing(plan.Refuse) }

func (b *bench) zip(file string) {
	b.t.Helper()
	f, err := os.Create(file)
	require.NoError(b.t, err)
	z := zip.NewWriter(f)
	put := func(name, text string, mode fs.FileMode) {
		h := &zip.FileHeader{Name: "repo/" + name}
		h.SetMode(mode)
		w, err := z.CreateHeader(h)
		require.NoError(b.t, err)
		_, err = w.Write([]byte(text))
		require.NoError(b.t, err)
	}
	put("README", "about it", 0o644)
	put("Salt/index.theme", "[Icon Theme]\nName=Salt\nDirectories=16\n[16]\nSize=16\n", 0o644)
	put("Salt/draw.sh", "#!/bin/sh\n", 0o755)
	put("Salt/16/linked.png", "0.png", fs.ModeSymlink|0o777)
	put("Salt/16/out.png", "../../README", fs.ModeSymlink|0o777)
	for i := range b.icons {
		put(fmt.Sprintf("Salt/16/%d.png", i), strings.Repeat("x", i), 0o644)
	}
	require.NoError(b.t, z.Close())
	require.NoError(b.t, f.Close())
}

// installing plans the same; exists is what to do if something is there.
func (b *bench) installing(exists plan.Exists) plan.Plan {
	b.t.Helper()
	file := filepath.Join(b.dir, "Salt.zip")
	if _, err := os.Stat(file); err != nil {
		b.zip(file)
	}
	p, err := parcel.Open(b.t.Context(), file, archive.Options{})
	require.NoError(b.t, err)
	found := p.Recognise(b.t.Context()).Pieces
	require.Len(b.t, found, 1)
	pl, err := plan.Install(b.t.Context(), b.d, p, []plan.Placing{{Piece: found[0], Target: "/home/me/.data/icons/Salt", Links: []string{"/home/me/.icons/Salt"}, Exists: exists}})
	require.NoError(b.t, err)
	return pl
}

// tree is the whole home: names, modes, times of files, contents.
func (b *bench) tree() map[string]string { return b.look(true) }

func (b *bench) look(times bool) map[string]string {
	b.t.Helper()
	out := map[string]string{}
	top := filepath.Join(b.dir, "home")
	require.NoError(b.t, filepath.WalkDir(top, func(p string, d fs.DirEntry, err error) error {
		require.NoError(b.t, err)
		rel, _ := filepath.Rel(top, p)
		fi, err := d.Info()
		require.NoError(b.t, err)
		switch {
		case d.IsDir():
			out[rel] = fi.Mode().String() + extendedOf(b.t, p)
		case fi.Mode()&fs.ModeSymlink != 0:
			out[rel], _ = os.Readlink(p)
		default:
			text, err := os.ReadFile(p)
			require.NoError(b.t, err)
			out[rel] = fmt.Sprint(fi.Mode(), extendedOf(b.t, p), string(text))
			if times {
				out[rel] = fmt.Sprint(fi.ModTime().UTC(), out[rel])
			}
		}
		return nil
	}))
	return out
}

// TestTwoLinesOfOneFile: facets that one file sets are one operation on it.
func TestTwoLinesOfOneFile(t *testing.T) {
	b := newBench(t)
	b.put(".icons/Shell/cursors/default", "x", 0o644)
	p, err := plan.Dress(b.d, outfit.Outfit{Name: "Both"}.With(desk.FacetIcons, "New").With(desk.FacetPointer, "Shell"))
	require.NoError(t, err)
	writes := 0
	for _, op := range p.Ops {
		if strings.HasSuffix(op.Path, "/gtk-3.0/settings.ini") {
			writes++
		}
	}
	require.Equal(t, 1, writes)
	require.NoError(t, b.apply(p))
	require.Contains(t, b.file(gtk3), "gtk-icon-theme-name = New")
	require.Contains(t, b.file(gtk3), "gtk-cursor-theme-name=Shell")
	require.Contains(t, b.file(".icons/default/index.theme"), "Inherits=Shell")
	again, err := plan.Dress(b.d, outfit.Outfit{Name: "Both"}.With(desk.FacetIcons, "New").With(desk.FacetPointer, "Shell"))
	require.NoError(t, err)
	require.Empty(t, again.Ops)
}

func TestDressAndGoBack(t *testing.T) {
	b := newBench(t)
	before := b.tree()
	p := b.dress("New")
	require.Equal(t, p, b.dress("New"), "planning twice gives the same plan")
	require.Len(t, p.Ops, 3, "edit one file, make a folder, write the other file")
	require.NoError(t, b.apply(p))
	require.Equal(t, "# mine\r\n[Settings]\r\ngtk-icon-theme-name = New\r\nx-note=keep\r\n", b.file(gtk3))
	require.Equal(t, "[Settings]\ngtk-icon-theme-name=New\n", b.file(gtk4))
	fi, err := os.Stat(filepath.Join(b.dir, "home", gtk3))
	require.NoError(t, err)
	require.Equal(t, fs.FileMode(0o640), fi.Mode().Perm(), "the mode is kept")
	for _, r := range reading.All(b.d) {
		if r.Facet == desk.FacetIcons {
			require.Equal(t, "New", r.Value, r.Surface)
		}
	}
	require.Empty(t, b.dress("New").Ops, "planning after applying gives nothing to do")
	require.NoFileExists(t, b.journal)

	back := b.back(plan.Aim{}, p).Plan
	require.NoError(t, b.apply(back))
	require.Equal(t, before, b.tree())
	require.NoError(t, b.apply(b.back(plan.Aim{}, back).Plan), "going back can be gone back on")
	require.Equal(t, "[Settings]\ngtk-icon-theme-name=New\n", b.file(gtk4))
}

func TestInstallCopiesThePieceOnly(t *testing.T) {
	b := newBench(t)
	before := b.tree()
	p := b.install()
	require.NoError(t, b.apply(p))
	require.Equal(t, "xxxx", b.file(".data/icons/Salt/16/4.png"))
	require.Equal(t, "xxxx", b.file(".icons/Salt/16/4.png"), "through the link")
	to, err := os.Readlink(filepath.Join(b.dir, "home/.data/icons/Salt/16/linked.png"))
	require.NoError(t, err)
	require.Equal(t, "0.png", to, "links stay links")
	_, err = os.Lstat(filepath.Join(b.dir, "home/.data/icons/Salt/16/out.png"))
	require.ErrorIs(t, err, fs.ErrNotExist, "a link out of the piece is left out")
	require.NoFileExists(t, filepath.Join(b.dir, "home/.data/icons/README"))
	fi, err := os.Stat(filepath.Join(b.dir, "home/.data/icons/Salt/draw.sh"))
	require.NoError(t, err)
	require.Equal(t, fs.FileMode(0o755), fi.Mode().Perm())
	require.Empty(t, b.install().Ops, "it is there already")

	back := b.back(plan.Aim{}, p).Plan
	require.NoError(t, b.apply(back))
	require.Equal(t, before, b.tree())
	require.NoError(t, b.apply(b.back(plan.Aim{}, back).Plan))
	require.Equal(t, "xxxx", b.file(".data/icons/Salt/16/4.png"))
}

func TestSomethingElseIsNeverOverwritten(t *testing.T) {
	b := newBench(t)
	b.put(".data/icons/Salt/own.txt", "mine", 0o644)
	p, err := parcel.Open(t.Context(), func() string { b2 := newBench(t); b2.install(); return filepath.Join(b2.dir, "Salt.zip") }(), archive.Options{})
	require.NoError(t, err)
	_, err = plan.Install(t.Context(), b.d, p, []plan.Placing{{Piece: p.Recognise(t.Context()).Pieces[0], Target: "/home/me/.data/icons/Salt"}})
	require.ErrorIs(t, err, plan.ErrExists)
}

func TestAChangedFileStopsThePlanBeforeAnythingIsWritten(t *testing.T) {
	b := newBench(t)
	p := b.dress("New")
	b.put(gtk4, "[Settings]\ngtk-icon-theme-name=Mine\n", 0o644)
	before := b.tree()
	err := b.apply(p)
	require.ErrorIs(t, err, plan.ErrChanged)
	require.ErrorContains(t, err, "~/"+gtk4)
	require.Equal(t, before, b.tree())

}

func TestAParcelChangedSinceTheLookIsRefused(t *testing.T) {
	b := newBench(t)
	p := b.install()
	other := newBench(t)
	other.install()
	text, err := os.ReadFile(filepath.Join(b.dir, "Salt.zip"))
	require.NoError(t, err)
	swapped := strings.Replace(string(text), "Name=Salt", "Name=Sand", 1)
	require.NotEqual(t, string(text), swapped, "the zip stores short files as they are")
	require.NoError(t, os.WriteFile(filepath.Join(b.dir, "Salt.zip"), []byte(swapped), 0o644))
	before := b.tree()
	require.Error(t, b.apply(p))
	require.Equal(t, before, b.tree())
}

func TestLinkedSettingsStayLinked(t *testing.T) {
	b := newBench(t)
	b.put("dotfiles/gtk3.ini", "[Settings]\ngtk-icon-theme-name=Old\n", 0o644)
	at := filepath.Join(b.dir, "home", gtk3)
	require.NoError(t, os.Remove(at))
	require.NoError(t, os.Symlink("/home/me/dotfiles/gtk3.ini", at))
	require.NoError(t, b.apply(b.dress("New")))
	to, err := os.Readlink(at)
	require.NoError(t, err)
	require.Equal(t, "/home/me/dotfiles/gtk3.ini", to)
	require.Equal(t, "[Settings]\ngtk-icon-theme-name=New\n", b.file("dotfiles/gtk3.ini"))
}

func TestBlockedIsSaidAndTheRestIsPlanned(t *testing.T) {
	b := newBench(t)
	b.put(gtk3, "[Settings]\nno key file, this\n", 0o644)
	p := b.dress("New")
	require.Len(t, p.Blocked, 1)
	require.Equal(t, "gtk3", p.Blocked[0].Surface)
	require.Contains(t, p.Blocked[0].Why, "line 2")
	require.Len(t, p.Ops, 2)
	require.NoError(t, b.apply(p))
	require.Equal(t, "[Settings]\nno key file, this\n", b.file(gtk3), "left as it is")
	p = b.dress("Nowhere")
	require.Len(t, p.Blocked, 2)
	require.Empty(t, p.Ops)
}

func TestAHomeThatCannotBeWritten(t *testing.T) {
	b := newBench(t)
	require.NoError(t, os.Chmod(filepath.Dir(b.dir), 0o755))
	require.NoError(t, os.Chmod(filepath.Join(b.dir, "home/.config"), 0o555))
	require.NoError(t, os.Chmod(filepath.Join(b.dir, "home/.config/gtk-3.0"), 0o777))
	require.NoError(t, os.Chmod(filepath.Join(b.dir, "home", gtk3), 0o666))
	require.NoError(t, os.Chmod(filepath.Join(b.dir, "keep"), 0o777))
	require.NoError(t, os.Chmod(b.dir, 0o777))
	p := b.dress("New")
	before := b.tree()
	var err error
	func() {
		if os.Getuid() == 0 { // root is let through anywhere: write as nobody
			runtime.LockOSThread()
			defer runtime.UnlockOSThread()
			require.NoError(t, syscall.Setfsuid(65534))
			defer func() { require.NoError(t, syscall.Setfsuid(0)) }()
		}
		err = b.apply(p)
	}()
	require.ErrorIs(t, err, plan.ErrWrite)
	require.ErrorContains(t, err, "~/.config/gtk-4.0")
	require.Equal(t, before, b.tree(), "what had been written is undone")
	b.d.Writable = false
	require.ErrorIs(t, b.apply(p), plan.ErrReadOnly)
}

func TestCancelAndFailedCommitRollBack(t *testing.T) {
	b := newBench(t)
	before := b.tree()
	p := b.install()
	ctx, cancel := context.WithCancel(t.Context())
	c := b.config()
	c.Progress = func(done, _ int) {
		if done == 12 {
			cancel()
		}
	}
	require.ErrorIs(t, plan.Apply(ctx, b.d, p, c), context.Canceled)
	require.Equal(t, before, b.tree())
	c = b.config()
	c.Commit = func() error { return errors.New("the disk is full") }
	require.ErrorContains(t, plan.Apply(t.Context(), b.d, p, c), "the disk is full")
	require.Equal(t, before, b.tree())
	require.NoFileExists(t, b.journal)
}

func TestDiffShowsTheLine(t *testing.T) {
	before := "a\nb\nc\nd\ne\nf\ng\nh\ni\n"
	var got []string
	for _, l := range plan.Diff([]byte(before), []byte(strings.Replace(before, "e\n", "E\r\nnew\r\n", 1))) {
		got = append(got, fmt.Sprintf("%s%d,%d %s", l.Sign, l.Old, l.New, l.Text))
	}
	require.Equal(t, []string{"…0,0 ", " 2,2 b", " 3,3 c", " 4,4 d", "-5,0 e", `+0,5 E\r`, `+0,6 new\r`, " 6,7 f", " 7,8 g", " 8,9 h", "…0,0 "}, got)
	require.Equal(t, 2, len(plan.Diff(nil, []byte("one\ntwo\n"))))
}

// newer are the toolkits that keep their settings in key files.
func newer() []desk.Surface {
	return slices.DeleteFunc(desk.Builtin(), func(s desk.Surface) bool { return s.ID == "gtk2" || s.ID == "gtk4-own" || s.ID == "qt" })
}
