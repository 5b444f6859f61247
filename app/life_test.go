package app_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/apply"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/store"
)

// life is two desks of one data folder, whose persons, and whose Ivelt, do this and
// that.
type life struct {
	t     *testing.T
	r     *rand.Rand
	dir   string
	a     *app.App
	desks []*lived
	shas  []string
	dies  int  // in so many calls the process is gone, or panics; 0: it is not
	panic bool // it panics
	clock time.Duration
	log   []string
	words int
	did   map[string]int
}

// lived is one of the desks.
type lived struct {
	*desks.Managed
	l       *life
	id      string
	away    bool                // it is unplugged
	entries map[uint]bool       // of the history that are known
	wrote   map[string][]string // what the person wrote, by file
	mayGo   map[string]bool     // the files from which the step that is being done may take that, and folders
	gone    map[string]bool     // the words that were once taken so: they are kept, and come and go with what is gone back on
	lost    map[string]bool     // the words that were kept in what was damaged
	noted   map[string]string   // what the person noted at files, in their attributes
}

var errGone = errors.New("the process is gone")

func newLife(t *testing.T, r *rand.Rand, did map[string]int) *life {
	l := &life{t: t, r: r, dir: t.TempDir(), did: did}
	for _, id := range []string{"d", "e"} {
		w := &lived{l: l, id: id, entries: map[uint]bool{}, wrote: map[string][]string{}, gone: map[string]bool{}, lost: map[string]bool{}, noted: map[string]string{}}
		l.desks = append(l.desks, w)
		for name, text := range map[string]string{
			".config/gtk-3.0/settings.ini":       "# first\r\n[Settings]\r\ngtk-icon-theme-name = Old\r\n",
			".local/share/icons/Own/index.theme": "[Icon Theme]\nName=Own\nDirectories=16\n[16]\nSize=16\n",
			".icons/Own/index.theme":             "[Icon Theme]\nName=Own\nDirectories=16\n[16]\nSize=16\n",
			".gtkrc-2.0":                         "gtk-icon-theme-name = \"Old\"\n",
			"../system/etc/fonts/fonts.conf":     "<?xml version='1.0'?><fontconfig><include ignore_missing='yes' prefix='xdg'>fontconfig/fonts.conf</include></fontconfig>\n",
		} {
			require.NoError(t, os.MkdirAll(filepath.Dir(w.home(name)), 0o755))
			require.NoError(t, os.WriteFile(w.home(name), []byte(text), 0o644))
		}
	}
	l.open()
	for _, pack := range []string{"One", "Two"} {
		l.shas = append(l.shas, l.pack(pack))
	}
	return l
}

func (w *lived) home(name string) string { return filepath.Join(w.l.dir, "home-"+w.id, name) }

// open starts an Ivelt on the desks that are there.
func (l *life) open() {
	var err error
	l.dies, l.panic = 0, false
	l.a, err = l.ivelt()
	require.NoError(l.t, err, l.story())
	for _, w := range l.desks {
		if !w.away {
			w.Managed, err = l.a.Desk(w.id)
			require.NoError(l.t, err)
		}
	}
}

func (l *life) ivelt() (*app.App, error) {
	var on []*desks.Managed
	for _, w := range l.desks {
		if !w.away {
			on = append(on, apptest.DeskIn(l.t, l.dir, w.id))
		}
	}
	return app.New(l.t.Context(), app.Config{Dir: filepath.Join(l.dir, "data"), Desks: on, Now: func() time.Time { return time.Now().Add(l.clock) }, Before: func(apply.Call) error {
		if l.dies == 1 {
			if l.panic {
				l.dies, l.panic = 0, false
				panic("something that nobody thought of")
			}
			return errGone
		}
		l.dies = max(0, l.dies-1)
		return nil
	}})
}

// again lets Ivelt start again, with something done while there is none.
func (l *life) again(meanwhile func()) {
	_ = l.a.Close() // it may be gone already
	if meanwhile != nil {
		meanwhile()
	}
	l.open()
}

func (l *life) story() string { return strings.Join(l.log, "\n") }

// tree is every file of the home with what is in it.
func (w *lived) tree() map[string]string {
	out := map[string]string{}
	require.NoError(w.l.t, filepath.WalkDir(w.home(""), func(p string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, _ := filepath.Rel(w.home(""), p)
		switch {
		case e.IsDir():
			out[rel] = "folder"
		case e.Type()&fs.ModeSymlink != 0:
			to, err := os.Readlink(p)
			out[rel] = "link " + to
			return err
		default:
			b, err := os.ReadFile(p)
			out[rel] = string(b)
			return err
		}
		return nil
	}))
	return out
}

// explained checks that what differs from before is what new entries of the
// history say, and is as they say.
func (w *lived) explained(before map[string]string) {
	t, now := w.l.t, w.tree()
	rows, err := w.l.a.Record.Entries(w.id)
	require.NoError(t, err)
	after := map[string]plan.Op{}
	for _, row := range slices.Backward(rows) {
		if w.entries[row.ID] {
			continue
		}
		w.entries[row.ID] = true
		p, err := w.l.a.Plans.Get(w.Managed, row.PlanID)
		require.NoError(t, err)
		for _, op := range p.Ops {
			after[strings.TrimPrefix(op.Path, "/home/me/")] = op
		}
	}
	require.GreaterOrEqual(t, len(rows), len(w.entries), "an entry of the history is gone:\n%s", w.l.story())
	for name := range maps.Keys(union(before, now)) {
		if before[name] == now[name] {
			continue
		}
		told := false
		for at := name; at != "."; at = filepath.Dir(at) {
			if _, ok := after[at]; ok {
				told = true
				break
			}
		}
		require.True(t, told, "%s: %s changed from %q to %q, and the history does not say so:\n%s", w.id, name, before[name], now[name], w.l.story())
		require.NotContains(t, filepath.Base(name), ".ivelt-", w.l.story())
		require.NotContains(t, now[name], damagedBytes, "%s: what was damaged was put back as good:\n%s", name, w.l.story())
	}
	for name, op := range after {
		switch {
		case op.Kind == plan.Write:
			require.Equal(t, string(op.Content), now[name], "%s\n%s", name, w.l.story())
		case op.Kind == plan.Link:
			require.Equal(t, "link "+op.After.Hash, now[name], "%s\n%s", name, w.l.story())
		case op.Kind == plan.Copy:
			require.Equal(t, "folder", now[name], "%s\n%s", name, w.l.story())
		case op.Kind == plan.Remove && !op.IsFolder():
			require.Empty(t, now[name], "%s\n%s", name, w.l.story())
		}
	}
}

func union(a, b map[string]string) map[string]string {
	out := maps.Clone(a)
	maps.Copy(out, b)
	return out
}

// damagedBytes are what a damaged file begins with.
const damagedBytes = "DAMAGED"

// nothingLost checks that every word the person wrote, and did not take out, is still
// in its file; where they asked for the older version, or that the piece be taken
// away, it is kept where the history can put it back from.
func (w *lived) nothingLost() {
	t, kept := w.l.t, ""
	for name, words := range w.wrote {
		b, _ := os.ReadFile(w.home(name))
		for _, word := range words {
			if strings.Contains(string(b), word) {
				continue
			}
			if !w.gone[word] {
				asked := w.mayGo[name] || slices.ContainsFunc(slices.Collect(maps.Keys(w.mayGo)), func(at string) bool { return strings.HasPrefix(name, at+"/") })
				require.True(t, asked, "%s: %s is gone from %s, and nobody asked for that. It says:\n%s\n%s", w.id, word, name, b, w.l.story())
				w.gone[word] = true
			}
			if kept == "" {
				kept = w.l.blobs()
			}
			if !w.lost[word] {
				require.Contains(t, kept, word, "%s: %s is lost from %s:\n%s", w.id, word, name, w.l.story())
			}
		}
	}
	for name, note := range w.noted {
		b := make([]byte, 64)
		n, err := unix.Lgetxattr(w.home(name), noteAttribute, b)
		if errors.Is(err, fs.ErrNotExist) || errors.Is(err, unix.ENOTDIR) {
			delete(w.noted, name) // what is made there anew is another file
			continue
		}
		require.NoError(t, err, "%s lost what was noted at it:\n%s", name, w.l.story())
		require.Equal(t, note, string(b[:n]), "%s\n%s", name, w.l.story())
	}
}

// noteAttribute is one that every file system has for an administrator.
const noteAttribute = "trusted.note"

func (l *life) blobs() string {
	var kept strings.Builder
	require.NoError(l.t, filepath.WalkDir(filepath.Join(l.dir, "data/blobs"), func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		kept.Write(b)
		return err
	}))
	return kept.String()
}

// forget drops words that stand in no file any more: what kept them was let go.
func (w *lived) forget() {
	for name := range w.wrote {
		b, _ := os.ReadFile(w.home(name))
		w.wrote[name] = slices.DeleteFunc(w.wrote[name], func(word string) bool { return !strings.Contains(string(b), word) })
	}
}

// edit is something the person does to a file.
func (w *lived) edit() string {
	l := w.l
	files := []string{".config/gtk-3.0/settings.ini", ".config/gtk-4.0/settings.ini", ".gtkrc-2.0", "notes.txt", ".local/share/icons/One/mine.txt", ".local/share/icons/Two/index.theme", ".config/fontconfig/fonts.conf", ".icons/default/index.theme"}
	name := files[l.r.IntN(len(files))]
	l.words++
	word := fmt.Sprintf("word%04d", l.words)
	b, err := os.ReadFile(w.home(name))
	switch {
	case err == nil && l.r.IntN(12) == 0:
		require.NoError(l.t, os.Remove(w.home(name)))
		delete(w.wrote, name)
		delete(w.noted, name)
		return "delete " + name
	case err == nil && l.r.IntN(6) == 0:
		return w.note(name)
	case err != nil && strings.HasPrefix(name, ".local/share/icons"):
		if _, err := os.Stat(filepath.Dir(w.home(name))); err != nil {
			return "no piece to edit"
		}
	case strings.HasSuffix(name, ".conf"):
		return "nothing to edit"
	}
	require.NoError(l.t, os.MkdirAll(filepath.Dir(w.home(name)), 0o755))
	lines := strings.SplitAfter(string(b), "\n")
	at := l.r.IntN(len(lines))
	mark := "# " + word + "\n"
	if at > 0 && !strings.HasSuffix(lines[at-1], "\n") {
		mark = "\n" + mark
	}
	lines = slices.Insert(lines, at, mark)
	if i := slices.IndexFunc(lines, func(s string) bool { return strings.Contains(s, "icon-theme-name") }); i >= 0 && l.r.IntN(3) == 0 {
		lines[i] = strings.Replace(lines[i], strings.TrimRight(lines[i][strings.IndexByte(lines[i], '=')+1:], "\r\n"), "Mine", 1)
	}
	require.NoError(l.t, os.WriteFile(w.home(name), []byte(strings.Join(lines, "")), 0o644))
	w.wrote[name] = append(w.wrote[name], word)
	return "write " + word + " into " + name
}

// note is something the person notes at a file, in an attribute of it, with an access
// control list.
func (w *lived) note(name string) string {
	if os.Getuid() != 0 || strings.HasPrefix(name, ".local/share/icons") {
		return "nothing noted"
	}
	w.l.words++
	note := fmt.Sprint("note ", w.l.words)
	require.NoError(w.l.t, unix.Lsetxattr(w.home(name), noteAttribute, []byte(note), 0))
	if out, err := exec.Command("setfacl", "-m", "u:3456:rw", w.home(name)).CombinedOutput(); err != nil {
		w.l.t.Fatalf("setfacl: %v: %s", err, out)
	}
	w.noted[name] = note
	return "attribute noted at " + name
}

// expected are the ways in which something may be refused.
func expected(err error) bool {
	for _, e := range []error{plan.ErrChanged, plan.ErrExists, changes.ErrTrying, changes.ErrPurged, jobs.ErrPanic, apply.ErrBusy, plan.ErrLoses, store.ErrNone, store.ErrDamaged} {
		if errors.Is(err, e) {
			return true
		}
	}
	for _, words := range []string{"undone already", "Choose something else for them first", "is no folder", "there is no piece at", "the draft is empty"} {
		if strings.Contains(err.Error(), words) {
			return true
		}
	}
	return false
}

func (l *life) pack(name string) string {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for file, text := range map[string]string{"index.theme": "[Icon Theme]\nName=" + name + "\nDirectories=16\n[16]\nSize=16\n", "16/a.png": "a " + name, "16/b.png": "b " + name} {
		w, err := z.Create(name + "/" + file)
		require.NoError(l.t, err)
		_, err = w.Write([]byte(text))
		require.NoError(l.t, err)
	}
	require.NoError(l.t, z.Close())
	sha := ""
	require.NoError(l.t, l.a.Library.Bring(name+".zip", io.NopCloser(&b), int64(b.Len()), "", func(s string) string { sha = s; return "" }).Wait())
	row, err := l.a.Library.Parcel(sha)
	require.NoError(l.t, err)
	contents, err := library.Contents(row)
	require.NoError(l.t, err)
	require.Equal(l.t, parcel.Icons, contents.Pieces[0].Kind)
	return sha
}
