package planning_test

import (
	"flag"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"runtime/debug"
	"slices"
	"testing"
	"time"

	"github.com/pelletier/go-toml/v2"
	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/judge"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/script"
	"ivelt/core/within"
	"ivelt/core/worn"
)

var descriptors = flag.Int("descriptors", 80, "how many descriptors are made up")

// descriptorFiles are the descriptors that ship, to make others from.
func descriptorFiles(t testing.TB) [][]byte {
	t.Helper()
	var out [][]byte
	for _, dir := range []string{"../desk/surfaces", "../../standin/surfaces"} {
		names, err := filepath.Glob(dir + "/*.toml")
		require.NoError(t, err)
		for _, name := range names {
			b, err := os.ReadFile(name)
			require.NoError(t, err)
			out = append(out, b)
		}
	}
	require.Greater(t, len(out), 15)
	return out
}

// TestEveryDescriptorThatIsTakenCanBeUsed takes things out of descriptors, puts others
// in, and mixes them: one that is not refused is read, matched, judged, planned,
// applied and gone back on without a fault.
func TestEveryDescriptorThatIsTakenCanBeUsed(t *testing.T) {
	r := rand.New(rand.NewPCG(plantest.Seed(t), 7))
	files, taken, applied := descriptorFiles(t), 0, 0
	for n := range *descriptors {
		var made map[string]any
		require.NoError(t, toml.Unmarshal(files[r.IntN(len(files))], &made))
		for range 1 + r.IntN(4) {
			mutate(r, made)
		}
		b, err := toml.Marshal(made)
		require.NoError(t, err)
		s, err := desk.ParseSurface(b)
		if err != nil {
			require.ErrorIs(t, err, desk.ErrDescriptor)
			continue
		}
		taken++
		if useDescriptor(t, r, s, b, n) {
			applied++
		}
	}
	t.Logf("%d of %d made-up descriptors were taken, and could be used; plans of %d changed something", taken, *descriptors, applied)
	require.Greater(t, taken, *descriptors/4)
	require.Greater(t, applied, *descriptors/20)
}

// TestADescriptorWithoutFolders: a piece lies elsewhere, and there is nowhere to put it.
func TestADescriptorWithoutFolders(t *testing.T) {
	b := plantest.New(t)
	for _, kind := range []string{"font", "theme", "icon-theme", "pointer", "login", "palette", "named-file"} {
		facet := map[string]string{"font": "font", "theme": "widgets", "icon-theme": "icons", "pointer": "pointer", "login": "login", "palette": "palette", "named-file": "profile"}[kind]
		text := fmt.Sprintf("id = \"winkle\"\ntitle = \"Winkle\"\n[[facet]]\nname = %q\nsource = [{ format = \"keyfile\", path = \"{config}/winkle.conf\", group = \"Look\", key = \"x\", write = true }]\n[facet.lookup]\nkind = %q\n", facet, kind)
		s, err := desk.ParseSurface([]byte(text))
		require.NoError(t, err)
		b.D.SetSurfaces(append(plantest.Surfaces(), s))
		want := "New"
		if facet == desk.FacetFont {
			want = "New 10"
		}
		c := match.Compare(b.D, s, facet, want)
		require.Equal(t, match.NotFound, c.State, kind)
		require.NotEmpty(t, c.Remedy.Text)
		_, err = planning.Fix(t.Context(), b.D, c, c.Remedy)
		require.Error(t, err)
	}
}

// mutate changes one thing somewhere in a table.
func mutate(r *rand.Rand, in map[string]any) {
	keys := slices.Sorted(maps.Keys(in))
	if len(keys) == 0 {
		return
	}
	key := keys[r.IntN(len(keys))]
	switch v := in[key].(type) {
	case map[string]any:
		if r.IntN(5) > 0 {
			mutate(r, v)
			return
		}
		delete(in, key)
	case []any:
		switch n := r.IntN(10); {
		case len(v) == 0:
			in[key] = []any{"~/.none"}
		case n == 0:
			delete(in, key)
		case n == 1:
			in[key] = []any{}
		case n == 2:
			in[key] = slices.Delete(v, 0, 1)
		default:
			at := r.IntN(len(v))
			if table, ok := v[at].(map[string]any); ok {
				mutate(r, table)
			} else {
				v[at] = words[r.IntN(len(words))]
			}
		}
	case string:
		if r.IntN(3) == 0 {
			delete(in, key)
			return
		}
		in[key] = words[r.IntN(len(words))]
	case bool:
		in[key] = !v
	case int64:
		in[key] = []int64{0, -1, 1 << 40, v + 1}[r.IntN(4)]
	}
}

// words are values that descriptors may have, and some that nobody should write.
var words = []string{
	"", "/", "~", ".", "..", "*", "[", "{", "{data}", "{data-dirs}/icons", "{config}/x.conf", "{theme}", "{theme}/x", "{profile}", "{palette}", "{icons}/{icons}", "{nothing}",
	"~/.icons", "~/../x", "/etc/x/*", "relative/path", "follows", "env", "keyfile", "css", "gsettings", "fontconfig", "xresources", "xsettings", "gtkrc",
	"icon-theme", "theme", "pointer", "font", "picture", "login", "palette", "named-file", "program", "x11", "before", "after", "gtk3", "quayside", "tried", "Group/Key", "\x00", "a\nb", "ü", "icons", "pointer",
}

// useDescriptor does with a desk of that surface all that can be done, and reports
// whether a plan changed something.
func useDescriptor(t *testing.T, r *rand.Rand, s desk.Surface, text []byte, n int) (changed bool) {
	t.Helper()
	defer func() {
		if p := recover(); p != nil {
			t.Fatalf("descriptor %d: %v\n%s\n%s", n, p, debug.Stack(), text)
		}
	}()
	begun := time.Now()
	b := plantest.New(t)
	b.Write(".icons/Shell/cursors/default", "x", 0o644)
	b.Write(".local/share/themes/New/gtk-3.0/gtk.css", "window { color: red }", 0o644)
	b.D.SetSurfaces([]desk.Surface{s})
	for _, other := range plantest.Surfaces() {
		if other.ID != s.ID {
			b.D.SetSurfaces(append(b.D.Surfaces(), other))
		}
	}
	o := outfit.Outfit{Name: "All"}
	for _, f := range desk.Facets {
		wants := []string{"New", "Shell", "dark", "light", "#112233", "24", "Sans 9", "/usr/share/x.png", "menu:close", "/bin/sh", "true"}
		for range 3 {
			if want := wants[r.IntN(len(wants))]; f.Accepts(want) == nil {
				o = o.With(f.Name, want)
				break
			}
		}
	}
	before := b.Tree()
	for _, rd := range reading.All(b.D) {
		for _, step := range rd.Chain {
			planning.CanSay(b.D, planning.SourceRef{Surface: rd.Surface, Facet: rd.Facet, Path: step.Path, Key: step.Key})
		}
	}
	reading.Fatal(b.D, s)
	worn.Of(b.D, nil)
	planning.ByHand(b.D, o)
	board := match.Of(b.D, o)
	board.Next()
	match.Shortfalls(b.D, o)
	for _, thread := range board.Threads {
		for _, c := range thread.Cells {
			for _, remedy := range c.Fixes() {
				_, _ = planning.Fix(t.Context(), b.D, c, remedy)
			}
		}
	}
	judge.Of(b.D, preview.Draft(t.Context(), b.D, o))
	p, err := planning.Dress(t.Context(), b.D, o)
	if err != nil {
		return false
	}
	_, _ = script.Of(b.D, p)
	if b.Apply(p) != nil {
		require.Equal(t, before, b.Tree(), "%s", text)
		return false
	}
	reading.All(b.D)
	back := b.Back(planning.Aim{}, p)
	require.NoError(t, b.Apply(back.Plan), "%s", text)
	require.Equal(t, before, b.Tree(), "%s", text)
	if took := time.Since(begun); took > 5*time.Second {
		fmt.Printf("descriptor %d took %s:\n%s\n", n, took, text)
	}
	return len(p.Ops) > 0
}

// FuzzDescriptor holds any bytes against the same.
func FuzzDescriptor(f *testing.F) {
	for _, b := range descriptorFiles(f) {
		f.Add(b)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		within.Reason(t, len(b), func() {
			s, err := desk.ParseSurface(b)
			if err != nil {
				require.ErrorIs(t, err, desk.ErrDescriptor)
				return
			}
			useDescriptor(t, rand.New(rand.NewPCG(1, 2)), s, b, 0)
		})
	})
}

// TestAShellOfOnesOwn is the worked example of docs/layout.md: its descriptor, its file before, and its
// file after a look; what it does not take is said, with what comes nearest.
func TestAShellOfOnesOwn(t *testing.T) {
	doc, err := os.ReadFile("../../docs/layout.md")
	require.NoError(t, err)
	parts := regexp.MustCompile("(?s)```toml\n(.*?)```").FindAllSubmatch(doc, -1)
	require.Len(t, parts, 3)
	heron, err := desk.ParseSurface(parts[0][1])
	require.NoError(t, err)
	b := plantest.NewSmall(t)
	b.Write(".config/heron/heron.toml", string(parts[1][1]), 0o644)
	b.D.SetSurfaces([]desk.Surface{heron})
	look := outfit.Outfit{Name: "Wading"}.With(desk.FacetBars, "bottom 42 margin 7: menu windows / / tray clock").With(desk.FacetTiles, "columns outer 30 inner 20").With(desk.FacetWorkspaces, "6").With(desk.FacetMaximised, "gone")
	p, err := planning.Dress(t.Context(), b.D, look)
	require.NoError(t, err)
	require.Empty(t, p.Blocked)
	require.NoError(t, b.Apply(p))
	require.Equal(t, string(parts[2][1]), b.File(".config/heron/heron.toml"))

	// Nothing starts it; then it is started at sign-in, also by an entry that was switched off.
	for _, before := range []string{"", "[Desktop Entry]\nType=Application\nHidden=true\nExec=heron\n"} {
		if before != "" {
			b.Write(".config/autostart/heron.desktop", before, 0o644)
		}
		c := match.Compare(b.D, heron, desk.FacetBars, "")
		i := slices.IndexFunc(c.Asides, func(a match.Aside) bool { return a.Code == match.NotStarted })
		require.GreaterOrEqual(t, i, 0)
		p, err = planning.Fix(t.Context(), b.D, c, c.Asides[i].Remedy)
		require.NoError(t, err)
		require.NoError(t, b.Apply(p))
		require.Contains(t, b.File(".config/autostart/heron.desktop"), "\nExec=heron")
		require.True(t, reading.Started(b.D, heron))
	}

	sly := heron
	sly.ID, sly.Title, sly.Starts = "sly", "Sly\nExec=rm", "sly"
	p, err = planning.Fix(t.Context(), b.D, match.Cell{Surface: sly}, match.Fix{Kind: match.ByStart, Path: b.D.First("{config}/autostart/sly.desktop")})
	require.NoError(t, err)
	require.NoError(t, b.Apply(p))
	require.Equal(t, "[Desktop Entry]\nType=Application\nName=Sly\\nExec=rm\nExec=sly\n", b.File(".config/autostart/sly.desktop"))

	more := look.With(desk.FacetBars, "left 80 round 4: menu title").With(desk.FacetDock, "bottom 48: a").With(desk.FacetTiles, "grid inner 20 frames no")
	var said []string
	for _, s := range match.Shortfalls(b.D, more) {
		said = append(said, s.Why+" → "+s.Nearest)
	}
	require.Equal(t, []string{
		"Heron cannot follow: its bars have no title of the maximised window; it has no bar at the left (it would lie at the top); its bars are not 80 px thick (64 px come nearest); its bars have no round corners. → top 64: menu",
		"Heron has no dock. → top 64: menu",
		"Heron cannot follow: it cannot lay windows in a grid; its windows always have frames. → hand inner 20",
	}, said)
}
