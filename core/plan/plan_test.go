package plan_test

import (
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
	"ivelt/standin"
)

// TestAPlanKnowsWhatComesOfIt: caches to be made anew, what has to start again, what a
// keeper has to have, and the desk as it would be, also with a part left out.
func TestAPlanKnowsWhatComesOfIt(t *testing.T) {
	b := plantest.NewSmall(t)
	b.D.SetSurfaces(desk.Builtin())
	p := b.Install()
	require.Equal(t, []plan.Cache{{Kind: "icons", Folder: "/home/me/.data/icons"}, {Kind: "icons", Folder: "/home/me/.icons"}}, p.Caches())
	copied := slices.IndexFunc(p.Ops, func(op plan.Op) bool { return op.Kind == plan.Copy })
	rest := p.Without(b.D, []string{p.Ops[copied].Path})
	require.Empty(t, rest.Ops, "the link to it and the folders for it go with it")
	require.NotEqual(t, p.ID, rest.ID)

	p, err := planning.Dress(t.Context(), b.D, outfit.Outfit{Name: "Both"}.With(desk.FacetIcons, "New").With(desk.FacetPointerSize, "32"))
	require.NoError(t, err)
	require.Len(t, p.Mine(b.D).Ops, len(p.Ops))
	require.Empty(t, p.Theirs(b.D).Ops)
	later := p.Later(b.D)
	require.Equal(t, plan.ProgramRestart, later[0].Effect)
	require.Contains(t, later[0].Surfaces, "gtk3")
	require.Equal(t, plan.SignIn, plan.EffectOf("session"))
	var before []string
	for _, op := range p.Ops {
		if op.Before.Kind == "file" {
			before = append(before, op.Before.Hash)
		}
		require.Equal(t, op.Says.String(), op.Why)
	}
	require.Equal(t, before, p.Kept())
	done, release, err := plan.Done(b.D, p, p)
	require.NoError(t, err)
	text, err := fs.ReadFile(done.Tree(), "home/me/"+plantest.GTK3)
	require.NoError(t, err)
	require.Contains(t, string(text), "gtk-cursor-theme-size=32")
	release()
	require.NotContains(t, b.File(plantest.GTK3), "cursor", "nothing is touched")
	again, err := planning.Dress(t.Context(), b.D, outfit.Outfit{Name: "Both"}.With(desk.FacetIcons, "New").With(desk.FacetPointerSize, "32"))
	require.NoError(t, err)
	require.Equal(t, p.ID, again.ID, "planned twice it is the same plan")
}

// TestAStateTellsWhatStandsThere: the tree that a parcel's piece would make is the one that
// stands there once it was copied; a changed file, mode or link is another.
func TestAStateTellsWhatStandsThere(t *testing.T) {
	b := plantest.NewSmall(t)
	p := b.Install()
	copied := p.Ops[slices.IndexFunc(p.Ops, func(op plan.Op) bool { return op.Kind == plan.Copy })]
	require.NoError(t, b.Apply(p))
	state, err := plan.Look(b.D, copied.Path)
	require.NoError(t, err)
	require.True(t, state.Is(copied.After))
	parcels, err := parcel.Open(t.Context(), filepath.Join(b.Dir, "Salt.zip"), archive.Options{})
	require.NoError(t, err)
	tree, err := plan.ReadTree(parcels, *copied.Source)
	require.NoError(t, err)
	m, err := tree.Manifest(t.Context())
	require.NoError(t, err)
	require.Equal(t, copied.After.Hash, m.Hash())
	require.Equal(t, copied.Files, tree.Count())
	host := b.D.HostPath(copied.Path)
	stamp, err := plan.StampOf(host)
	require.NoError(t, err)
	odd, err := plan.Unusual(host)
	require.NoError(t, err)
	require.False(t, odd)
	require.NoError(t, os.WriteFile(filepath.Join(host, "16/0.png"), []byte("other"), 0o644))
	require.NoError(t, os.Chmod(filepath.Join(host, "16/0.png"), 0o600))
	state, err = plan.Look(b.D, copied.Path)
	require.NoError(t, err)
	require.False(t, state.Is(copied.After))
	now, err := plan.StampOf(host)
	require.NoError(t, err)
	require.NotEqual(t, stamp, now)
	odd, err = plan.Unusual(host)
	require.NoError(t, err)
	require.True(t, odd, "a mode that no parcel gives back")

	link, err := plan.LookAt(b.Host(".icons/Salt"))
	require.NoError(t, err)
	require.Equal(t, "link", link.Kind)
	none, err := plan.LookAt(b.Host("notes.txt/below"))
	require.NoError(t, err)
	require.Equal(t, plan.State{}, none)
	require.NoError(t, os.Mkdir(b.Host("empty"), 0o755))
	empty, err := plan.LookFolder(b.D, "/home/me/empty")
	require.NoError(t, err)
	require.True(t, empty.Is(plan.EmptyTree))
	b.Write("x.txt", "x", 0o600)
	file, err := plan.LookAt(b.Host("x.txt"))
	require.NoError(t, err)
	require.True(t, plan.FileState([]byte("x"), 0o600).Is(file))
}

// TestWhatIsKeptOfATree is all that tar(1) gives back of it; what cannot be kept is said.
func TestWhatIsKeptOfATree(t *testing.T) {
	top := filepath.Join(t.TempDir(), "top")
	require.NoError(t, os.MkdirAll(filepath.Join(top, "a"), 0o750))
	require.NoError(t, os.WriteFile(filepath.Join(top, "a/x"), []byte("x"), 0o640))
	require.NoError(t, os.Link(filepath.Join(top, "a/x"), filepath.Join(top, "a/y")))
	require.NoError(t, os.Symlink("a/x", filepath.Join(top, "l")))
	require.NoError(t, syscall.Mkfifo(filepath.Join(top, "pipe"), 0o600))
	require.NoError(t, syscall.Mknod(filepath.Join(top, "socket"), syscall.S_IFSOCK|0o600, 0))
	kept, lost, err := plan.Pack(top)
	require.NoError(t, err)
	require.Equal(t, []plan.Loss{{Code: "special", Of: "socket"}}, lost)
	require.Contains(t, lost[0].Says(), "socket is no file, folder, link or pipe")
	again, err := plan.TarOf(top)
	require.NoError(t, err)
	require.Equal(t, kept, again)
	cmd := exec.Command("tar", "-tvf", "-")
	cmd.Stdin = strings.NewReader(string(kept))
	list, err := cmd.CombinedOutput()
	require.NoError(t, err, string(list))
	for _, line := range []string{"drwxr-x---", "-rw-r-----", "link to a/x", "l -> a/x", "prw-------"} {
		require.Contains(t, string(list), line)
	}
	require.Equal(t, "it has 3 names (hard links); the other names would keep the old contents", plan.Loss{Code: "links", Of: "3"}.Says())
}

// TestWhatAWriteLoses is told of the operation, and how a login screen is put back by hand.
func TestWhatAWriteLoses(t *testing.T) {
	b := plantest.NewSmall(t)
	plantest.Decorate(t, b, plantest.GTK3)
	require.NoError(t, os.Link(b.Host(plantest.GTK3), b.Host("another-name")))
	p := b.Dress("New")
	require.Equal(t, []plan.Loss{{Code: "links", Of: "2"}}, p.Losing()[0].Loses)

	b.D.SetSurfaces(standin.Surfaces())
	lantern, ok := b.D.Surface("lantern")
	require.True(t, ok)
	require.Empty(t, plan.HandsOf(b.D, lantern))
	at := filepath.Join(b.Dir, "system/etc/lantern/lantern.conf")
	require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
	require.NoError(t, os.WriteFile(at+plan.KeptBeside, []byte("[Greeter]\n"), 0o644))
	require.NoError(t, os.WriteFile(at, []byte("[Greeter]\ntheme=Gone\n"), 0o644))
	hands := plan.HandsOf(b.D, lantern)
	require.NotEmpty(t, hands)
	require.Contains(t, hands[1].Type, "sudo cp /etc/lantern/lantern.conf.before /etc/lantern/lantern.conf")
	way := plan.Plan{Ops: []plan.Op{{Kind: plan.Write, Path: "/etc/lantern/lantern.conf", Surface: "lantern", Before: plan.State{Kind: "file"}}}}.WayBack(b.D)
	require.Equal(t, hands, way)
}

// TestTextsAreComparedLineByLine, with words marked in lines that took the place of others.
func TestTextsAreComparedLineByLine(t *testing.T) {
	var got []string
	for _, l := range plan.Diff([]byte("a\nb\nc\nd\ne\nsize=24\r\nf\n"), []byte("a\nb\nc\nd\ne\nsize=32\r\nf\ng\n")) {
		line := l.Sign + l.Text
		for _, s := range l.Spans {
			if s.Changed {
				line += " <" + s.Text + ">"
			}
		}
		got = append(got, line)
	}
	require.Equal(t, []string{"…", " c", " d", " e", `-size=24\r <24>`, `+size=32\r <32>`, " f", "+g"}, got)
	require.Equal(t, "…", plan.Diff([]byte("same\n"), []byte("same\n"))[0].Sign, "all of it is left out")
	require.Equal(t, `'it'\''s'`, plan.Quote("it's"))
	out, err := exec.Command("sh", "-c", "printf %s "+plan.Quote("a b$c`d'e\"")).Output()
	require.NoError(t, err)
	require.Equal(t, "a b$c`d'e\"", string(out))
}
