package app_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/plan"
	"ivelt/store"
)

var (
	sequences = flag.Int("sequences", 12, "how many random histories are lived through")
	seeded    = flag.Uint64("seed", 0, "where they start from; 0: by the clock")
)

// life is a desk whose person, and whose Ivelt, do this and that.
type life struct {
	t       *testing.T
	r       *rand.Rand
	dir     string
	a       *app.App
	d       *app.Desk
	shas    []string
	dies    int // in so many calls the process is gone; 0: it is not
	log     []string
	entries map[uint]bool       // of the history that are known
	wrote   map[string][]string // what the person wrote, by file
	words   int
}

var errGone = errors.New("the process is gone")

func (l *life) home(name string) string { return filepath.Join(l.dir, "home", name) }

func (l *life) open() {
	d, err := desk.Open("d", l.home(""), filepath.Join(l.dir, "system"), "/home/me")
	require.NoError(l.t, err)
	d.Surfaces, d.Writable = slices.DeleteFunc(desk.Builtin(), func(s desk.Surface) bool { return s.ID == "qt" }), true
	l.d = &app.Desk{Desk: d}
	l.dies = 0
	l.a, err = app.New(app.Config{Dir: filepath.Join(l.dir, "data"), Desks: []*app.Desk{l.d}, Before: func(plan.Call) error {
		if l.dies == 1 {
			return errGone
		}
		l.dies = max(0, l.dies-1)
		return nil
	}})
	require.NoError(l.t, err, l.story())
}

func (l *life) story() string { return strings.Join(l.log, "\n") }

// tree is every file of the home with what is in it.
func (l *life) tree() map[string]string {
	out := map[string]string{}
	require.NoError(l.t, filepath.WalkDir(l.home(""), func(p string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, _ := filepath.Rel(l.home(""), p)
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
func (l *life) explained(before map[string]string) {
	now := l.tree()
	rows, err := l.a.Store.Checkpoints(l.d.ID)
	require.NoError(l.t, err)
	after := map[string]plan.Op{}
	for _, row := range slices.Backward(rows) {
		if l.entries[row.ID] {
			continue
		}
		l.entries[row.ID] = true
		p, err := l.a.Plan(l.d, row.PlanID)
		require.NoError(l.t, err)
		for _, op := range p.Ops {
			after[strings.TrimPrefix(op.Path, "/home/me/")] = op
		}
	}
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
		require.True(l.t, told, "%s changed from %q to %q, and the history does not say so:\n%s", name, before[name], now[name], l.story())
		require.NotContains(l.t, filepath.Base(name), ".ivelt-", l.story())
	}
	for name, op := range after {
		switch {
		case op.Kind == plan.Write:
			require.Equal(l.t, string(op.Content), now[name], "%s\n%s", name, l.story())
		case op.Kind == plan.Link:
			require.Equal(l.t, "link "+op.After.Hash, now[name], "%s\n%s", name, l.story())
		case op.Kind == plan.Copy:
			require.Equal(l.t, "folder", now[name], "%s\n%s", name, l.story())
		case op.Kind == plan.Remove && !op.IsFolder():
			require.Empty(l.t, now[name], "%s\n%s", name, l.story())
		}
	}
}

func union(a, b map[string]string) map[string]string {
	out := maps.Clone(a)
	maps.Copy(out, b)
	return out
}

// nothingLost checks that every word the person wrote, and did not take out, is
// still in its file, or kept where the history can put it back from.
func (l *life) nothingLost() {
	var kept strings.Builder
	require.NoError(l.t, filepath.WalkDir(filepath.Join(l.dir, "data/blobs"), func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		kept.Write(b)
		return err
	}))
	for name, words := range l.wrote {
		b, _ := os.ReadFile(l.home(name))
		for _, w := range words {
			if !strings.Contains(string(b), w) {
				require.Contains(l.t, kept.String(), w, "%s is lost from %s:\n%s", w, name, l.story())
			}
		}
	}
}

// do does one thing and returns what came of it.
func (l *life) do() (what string, err error) {
	job := func(j *app.Job, err error) error {
		if err != nil {
			return err
		}
		return j.Wait()
	}
	rows, e := l.a.Store.Checkpoints(l.d.ID)
	require.NoError(l.t, e)
	switch n := l.r.IntN(100); {
	case n < 14:
		sha := l.shas[l.r.IntN(len(l.shas))]
		row, err := l.a.Store.Parcel(sha)
		require.NoError(l.t, err)
		contents, err := app.Contents(row)
		require.NoError(l.t, err)
		how := app.How{Scope: place.Mine, Exists: []plan.Exists{plan.Refuse, plan.Leave, plan.Replace, plan.Both}[l.r.IntN(4)]}
		return fmt.Sprint("install ", row.Name, " ", how.Exists), job(l.a.Install(l.d, sha, []string{app.PieceKey(contents.Pieces[0])}, how, ""))
	case n < 18:
		pieces, err := l.a.Store.Pieces(l.d.ID)
		require.NoError(l.t, err)
		if len(pieces) == 0 {
			return "nothing to remove", nil
		}
		p := pieces[l.r.IntN(len(pieces))]
		return "remove " + p.Path, job(l.a.Remove(l.d, p.Path, app.Order{Lose: true}))
	case n < 44:
		o := outfit.Outfit{Name: fmt.Sprint("look ", len(l.log))}
		for facet, values := range map[string][]string{
			desk.FacetIcons: {"One", "Two", "Own"}, desk.FacetPointerSize: {"24", "32", "48"}, desk.FacetFont: {"Sans 9", "Serif 12"}, desk.FacetDark: {"light", "dark"}, desk.FacetAccent: {"#112233", "#c0ffee"},
		} {
			if l.r.IntN(2) == 0 {
				o = o.With(facet, values[l.r.IntN(len(values))])
			}
		}
		try := time.Duration(0)
		if l.r.IntN(4) == 0 {
			try = time.Hour
		}
		_, j, err := l.a.Dress(l.t.Context(), l.d, o, try, plan.Options{})
		return fmt.Sprint("wear ", o.Choices, " try ", try), job(j, err)
	case n < 64:
		return l.edit(), nil
	case n < 84 && len(rows) > 0:
		way := app.Way{Checkpoint: rows[l.r.IntN(min(len(rows), 6))].ID, Since: l.r.IntN(3) == 0, Aim: plan.Aim{Takes: map[string]plan.Take{}}}
		switch l.r.IntN(4) {
		case 0:
			way.Surface = l.d.Surfaces[l.r.IntN(len(l.d.Surfaces))].ID
		case 1:
			way.Facet = desk.Facets[l.r.IntN(len(desk.Facets))].Name
		}
		what := fmt.Sprintf("back %+v", way)
		rv, err := l.a.ReviewBack(l.d, way, nil)
		if err != nil {
			return what, err
		}
		for _, c := range rv.Conflicts {
			if l.r.IntN(2) == 0 {
				way.Takes[c.Path] = c.Takes[l.r.IntN(len(c.Takes))]
			}
		}
		return fmt.Sprintf("back %+v", way), job(l.a.Back(l.d, way, "", ""))
	case n < 88:
		if l.r.IntN(2) == 0 {
			return "keep", l.a.KeepTrial(l.d, 0)
		}
		return "end the trial", job(l.a.EndTrial(l.d, 0, ""))
	case n < 92:
		if t, err := l.a.Store.Trial(l.d.ID); err == nil {
			t.Until = time.Now().Add(-time.Second)
			require.NoError(l.t, l.a.Store.SaveTrial(t))
		}
		require.NoError(l.t, l.a.Close())
		l.open()
		return "start again, later", nil
	case n < 95 && len(rows) > 1:
		c := rows[l.r.IntN(len(rows))]
		if l.r.IntN(2) == 0 {
			return fmt.Sprint("pin ", c.ID), l.a.Pin(l.d, c.ID, !c.Pinned)
		}
		// What is let go was the person's to let go.
		if err := l.a.LetGo(l.d, c.ID); err != nil {
			return "let go", err
		}
		l.forget()
		return fmt.Sprint("let go ", c.ID), nil
	}
	return l.edit(), nil
}

// forget drops words that stand in no file any more: what kept them was let go.
func (l *life) forget() {
	for name := range l.wrote {
		b, _ := os.ReadFile(l.home(name))
		l.wrote[name] = slices.DeleteFunc(l.wrote[name], func(w string) bool { return !strings.Contains(string(b), w) })
	}
}

// edit is something the person does to a file.
func (l *life) edit() string {
	files := []string{".config/gtk-3.0/settings.ini", ".config/gtk-4.0/settings.ini", ".gtkrc-2.0", "notes.txt", ".local/share/icons/One/mine.txt", ".local/share/icons/Two/index.theme", ".config/fontconfig/fonts.conf", ".icons/default/index.theme"}
	name := files[l.r.IntN(len(files))]
	l.words++
	word := fmt.Sprintf("word%04d", l.words)
	b, err := os.ReadFile(l.home(name))
	switch {
	case err == nil && l.r.IntN(8) == 0:
		require.NoError(l.t, os.Remove(l.home(name)))
		delete(l.wrote, name)
		return "delete " + name
	case err != nil && strings.HasPrefix(name, ".local/share/icons"):
		if _, err := os.Stat(filepath.Dir(l.home(name))); err != nil {
			return "no piece to edit"
		}
	case strings.HasSuffix(name, ".conf"):
		return "nothing to edit"
	}
	require.NoError(l.t, os.MkdirAll(filepath.Dir(l.home(name)), 0o755))
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
	require.NoError(l.t, os.WriteFile(l.home(name), []byte(strings.Join(lines, "")), 0o644))
	l.wrote[name] = append(l.wrote[name], word)
	return "write " + word + " into " + name
}

// TestRandomLives lives through random histories of installing, wearing, trying,
// editing by hand, going back wholly and in part, and crashing. After each step
// the home is as the history and the person's own edits explain, and nothing that
// the person wrote is lost.
func TestRandomLives(t *testing.T) {
	start := *seeded
	if start == 0 {
		start = uint64(time.Now().UnixNano())
	}
	t.Logf("seed %d; -args -seed %d -sequences %d does the same again", start, start, *sequences)
	did := map[string]int{}
	for n := range *sequences {
		l := &life{t: t, r: rand.New(rand.NewPCG(start, uint64(n))), dir: t.TempDir(), entries: map[uint]bool{}, wrote: map[string][]string{}}
		for name, text := range map[string]string{
			"home/.config/gtk-3.0/settings.ini":       "# first\r\n[Settings]\r\ngtk-icon-theme-name = Old\r\n",
			"home/.local/share/icons/Own/index.theme": "[Icon Theme]\nName=Own\nDirectories=16\n[16]\nSize=16\n",
			"home/.icons/Own/index.theme":             "[Icon Theme]\nName=Own\nDirectories=16\n[16]\nSize=16\n",
			"home/.gtkrc-2.0":                         "gtk-icon-theme-name = \"Old\"\n",
			"system/etc/fonts/fonts.conf":             "<?xml version='1.0'?><fontconfig><include ignore_missing='yes' prefix='xdg'>fontconfig/fonts.conf</include></fontconfig>\n",
		} {
			require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(l.dir, name)), 0o755))
			require.NoError(t, os.WriteFile(filepath.Join(l.dir, name), []byte(text), 0o644))
		}
		l.open()
		for _, pack := range []string{"One", "Two"} {
			l.shas = append(l.shas, l.pack(pack))
		}
		for range 30 {
			before := l.tree()
			if l.r.IntN(5) == 0 {
				l.dies = 1 + l.r.IntN(60)
			}
			crashes := l.dies
			what, err := l.do()
			if crashes > 0 && l.dies == 1 { // it went in the middle
				_ = l.a.Close()
				l.open()
				what += ", and crashed"
				did["crash"]++
			}
			l.dies = 0
			l.log = append(l.log, fmt.Sprintf("%s: %v", what, err))
			did[strings.Fields(what)[0]]++
			if strings.HasPrefix(what, "write") || strings.HasPrefix(what, "delete") {
				before = l.tree() // that was the person
			}
			if err != nil && !strings.Contains(what, "crashed") {
				did["refused"]++
				require.True(t, expected(err), "%v\n%s", err, l.story())
				if !strings.Contains(err.Error(), "has been made") {
					require.Equal(t, before, l.tree(), l.story())
				}
			}
			l.explained(before)
			l.nothingLost()
		}
		require.NoError(t, l.a.Close())
	}
	t.Logf("what was done: %v", did)
	for _, what := range []string{"install", "wear", "write", "back", "crash", "keep", "remove", "start"} {
		require.Positive(t, did[what], what)
	}
}

// expected are the ways in which something may be refused.
func expected(err error) bool {
	for _, e := range []error{plan.ErrChanged, plan.ErrExists, app.ErrTrying, app.ErrLetGo, store.ErrNone} {
		if errors.Is(err, e) {
			return true
		}
	}
	for _, words := range []string{"gone back on already", "Let them wear something else first", "is no folder", "there is no piece at"} {
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
	require.NoError(l.t, l.a.Bring(name+".zip", io.NopCloser(&b), int64(b.Len()), "", func(s string) string { sha = s; return "" }).Wait())
	row, err := l.a.Store.Parcel(sha)
	require.NoError(l.t, err)
	contents, err := app.Contents(row)
	require.NoError(l.t, err)
	require.Equal(l.t, parcel.Icons, contents.Pieces[0].Kind)
	return sha
}
