package truth

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/store"
)

// sandbox is a program in the sandbox runtime of many distributions, with a runtime of the
// test's own, installed in a home, that tells what it sees (Debian: flatpak).
type sandbox struct {
	*seat
	program string
}

// homeAt is an empty home where homes are: what a sandbox has of the folders for passing files
// is another.
func homeAt(t *testing.T) string {
	t.Helper()
	home, err := os.MkdirTemp("/home", "ivelt-test-")
	if err != nil {
		own, e := os.UserHomeDir()
		require.NoError(t, e)
		home, err = os.MkdirTemp(own, "ivelt-test-")
	}
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, os.RemoveAll(home)) })
	return home
}

// newSandbox builds and installs it.
func newSandbox(t *testing.T, s *seat) *sandbox {
	t.Helper()
	b := &sandbox{s, "org.example.Looker"}
	dir := t.TempDir()
	looks := filepath.Join(dir, "app/files/bin/looks")
	output(t, tool(t, "go", "go", "build", "-o", looks, "reference/looks.go"))
	arch := strings.TrimSpace(b.runtime(t, "--default-arch"))
	of := fmt.Sprintf("runtime=org.example.Platform/%[1]s/1\nsdk=org.example.Sdk/%[1]s/1\n", arch)
	// The usual runtimes have their programs look where the sandbox lays the icons of the
	// machine (from memory).
	write(t, filepath.Join(dir, "runtime/metadata"), "[Runtime]\nname=org.example.Platform\n"+of+"\n[Environment]\nXDG_DATA_DIRS=/app/share:/usr/share:/run/host/user-share:/run/host/share\n\n[Extension org.gtk.Gtk3theme]\nversion=3.22\ndirectory=share/themes\nsubdirectory-suffix=gtk-3.0\nno-autodownload=true\nsubdirectories=true\nmerge-dirs=/\n")
	for _, folder := range []string{"etc", "lib", "bin", "share/themes"} {
		require.NoError(t, os.MkdirAll(filepath.Join(dir, "runtime/usr", folder), 0o755))
	}
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "runtime/files"), 0o755))
	write(t, filepath.Join(dir, "app/metadata"), "[Application]\nname="+b.program+"\n"+of+"command=looks\n")
	write(t, filepath.Join(dir, "app/files/share/applications", b.program+".desktop"), "[Desktop Entry]\nType=Application\nName=Looker\nExec=looks\n")
	repo := filepath.Join(dir, "repo")
	b.runtime(t, "build-finish", "--command=looks", filepath.Join(dir, "app"))
	b.runtime(t, "build-export", "--runtime", repo, filepath.Join(dir, "runtime"), "1")
	b.runtime(t, "build-export", repo, filepath.Join(dir, "app"), "1")
	b.runtime(t, "--user", "remote-add", "--no-gpg-verify", "here", repo)
	b.runtime(t, "--user", "install", "-y", "--noninteractive", "here", "org.example.Platform//1")
	b.runtime(t, "--user", "install", "-y", "--no-deps", "--noninteractive", "here", b.program+"//1")
	return b
}

func (b *sandbox) runtime(t *testing.T, args ...string) string {
	return b.ask(t, "flatpak", "flatpak", args...)
}

// sees runs the program: which of themes and icon packs GTK would find in there, each as
// "theme NAME" or "icons NAME", and its GTK_THEME.
func (b *sandbox) sees(t *testing.T, pieces ...string) (seen []string, variable string) {
	t.Helper()
	for line := range strings.Lines(b.runtime(t, append([]string{"run", b.program}, pieces...)...)) {
		line = strings.TrimSpace(line)
		if value, ok := strings.CutPrefix(line, "GTK_THEME="); ok {
			variable = value
		} else {
			seen = append(seen, line)
		}
	}
	return seen, variable
}

// TestWhatASandboxedProgramSees: pieces in all the places where they may lie, grants set and
// taken back by chance and by plans, theme extensions and variables: what a real program in a
// real sandbox sees is what Ivelt says that it does.
func TestWhatASandboxedProgramSees(t *testing.T) {
	t.Parallel()
	s := &seat{home: homeAt(t), env: map[string]string{"XDG_RUNTIME_DIR": t.TempDir(), "DBUS_SESSION_BUS_ADDRESS": ""}}
	b := newSandbox(t, s)
	const index = "[Icon Theme]\nName=X\nDirectories=16\n[16]\nSize=16\n"
	for _, at := range []string{".themes/Reef", ".local/share/themes/Salt", ".themes/Groyne"} {
		s.put(t, at+"/gtk-3.0/gtk.css", "window { }\n")
	}
	require.NoError(t, os.Symlink(filepath.Join(s.home, ".local/share/themes/Salt"), filepath.Join(s.home, ".themes/Link")))
	for _, at := range []string{".icons/Shingle", ".local/share/icons/Wrack", ".icons/Pebble"} {
		s.put(t, at+"/index.theme", index)
	}
	extension := filepath.Join(t.TempDir(), "coral")
	write(t, filepath.Join(extension, "usr/gtk.css"), "window { }\n")
	write(t, filepath.Join(extension, "metadata"), "[Runtime]\nname=org.gtk.Gtk3theme.Coral\n\n[ExtensionOf]\nref=runtime/org.example.Platform/"+strings.TrimSpace(b.runtime(t, "--default-arch"))+"/1\n")
	require.NoError(t, os.MkdirAll(filepath.Join(extension, "files"), 0o755))
	repo := filepath.Join(t.TempDir(), "repo")
	b.runtime(t, "build-export", "--runtime", repo, extension, "3.22")
	b.runtime(t, "--user", "remote-add", "--no-gpg-verify", "more", repo)
	b.runtime(t, "--user", "install", "-y", "--noninteractive", "more", "org.gtk.Gtk3theme.Coral//3.22")

	d, err := desk.Open("p", s.home, "/", "")
	require.NoError(t, err)
	d.Env = map[string]string{}
	d.SetWritable(true)
	d.SetSurfaces(append(desk.Builtin(), d.Present(desk.Runtimes())...))
	surface, ok := d.Surface("flatpak")
	require.True(t, ok)
	themes, packs := []string{"Reef", "Salt", "Groyne", "Link", "Coral", "Nowhere"}, []string{"Shingle", "Wrack", "Pebble", "Tango", "Nowhere"}
	var pieces []string
	for _, name := range themes {
		pieces = append(pieces, "theme "+name)
	}
	for _, name := range packs {
		pieces = append(pieces, "icons "+name)
	}
	// said is what Ivelt says that the program sees.
	said := func() (out []string) {
		for kind, names := range map[string][]string{"theme": themes, "icons": packs} {
			facet := map[string]string{"theme": desk.FacetWidgets, "icons": desk.FacetIcons}[kind]
			for _, name := range names {
				for _, see := range match.RuntimeOf(d, surface, outfit.Outfit{}.With(facet, name)).Programs[0].Sees {
					if see.Facet == facet && see.OK {
						out = append(out, kind+" "+name)
					}
				}
			}
		}
		slices.Sort(out)
		return out
	}
	r := rand.New(rand.NewPCG(24, 2))
	grants := []string{"~/.themes", "~/.themes/Reef", "~/.themes/Link", "~/.icons", "~/.icons/Shingle:ro", "xdg-data/themes", "xdg-data/icons", "home", "host", "~/.themes/Groyne:ro", "xdg-config/gtk-3.0"}
	n := 0
	for i := range int(14 * *times) {
		require.NoError(t, os.RemoveAll(filepath.Join(s.home, ".local/share/flatpak/overrides")))
		var did []string
		for range r.IntN(4) {
			what := []string{"--filesystem=", "--filesystem=", "--nofilesystem="}[r.IntN(3)] + grants[r.IntN(len(grants))]
			if strings.HasPrefix(what, "--no") {
				what, _, _ = strings.Cut(what, ":")
			}
			args := []string{"--user", "override", what}
			if r.IntN(2) == 0 {
				args = append(args, b.program)
			}
			b.runtime(t, args...)
			did = append(did, strings.Join(args[2:], " "))
		}
		variable := []string{"", "", "Reef", "Groyne:dark"}[r.IntN(4)]
		if variable != "" {
			b.runtime(t, "--user", "override", "--env=GTK_THEME="+variable)
			did = append(did, "GTK_THEME="+variable)
		}
		if all := strings.Join(did, " "); strings.Contains(all, "=~/.themes/Link") && len(did) > 1 {
			continue // bwrap(1) cannot lay a link where it is already
		}
		n++
		seen, told := b.sees(t, pieces...)
		slices.Sort(seen)
		require.Equal(t, seen, said(), "%d: after\n%s", i, strings.Join(did, "\n"))
		require.Equal(t, variable, told)
		f, _ := surface.Facet(desk.FacetWidgets)
		name, _, _ := strings.Cut(variable, ":")
		if got := reading.Of(d, surface, f); variable != "" {
			require.Equal(t, name, got.Value, "%d: %v", i, got.Chain)
		}
	}
	t.Logf("%d sandboxes of %d pieces", n, len(pieces))

	// A plan grants what is wanted, the smallest of it, and the program sees it then.
	require.NoError(t, os.RemoveAll(filepath.Join(s.home, ".local/share/flatpak/overrides")))
	seen, _ := b.sees(t, pieces...)
	require.NotContains(t, seen, "theme Reef")
	p, err := planning.Dress(t.Context(), d, outfit.Outfit{Name: "Reef"}.With(desk.FacetWidgets, "Reef").With(desk.FacetIcons, "Shingle"))
	require.NoError(t, err)
	require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: filepath.Join(t.TempDir(), "j")}))
	after, _ := b.sees(t, pieces...)
	require.Contains(t, after, "theme Reef")
	require.Contains(t, after, "icons Shingle")
}
