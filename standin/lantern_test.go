package standin_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/standin"
	"ivelt/store"
)

// TestLanternAlwaysComesUp plans a theme for Lantern in all ways in which it can
// be broken: what is planned, Lantern comes up with; what is refused, it would
// not have come up with.
func TestLanternAlwaysComesUp(t *testing.T) {
	planned, refused := 0, 0
	for conf, text := range map[string]string{"none": "", "usual": "# mine\n[Greeter]\ntheme=Plain\n", "with a session": "[Greeter]\nsession=shore\n", "broken": "[Greeter]\ntheme=Plain\noops\n", "twice": "[Greeter]\ntheme=A\n[Greeter]\ntheme=Plain\n"} {
		for theme, files := range map[string]map[string]string{
			"whole": {"login.theme": "[Login Theme]\nBackdrop=b.png\n", "b.png": "x"}, "without pictures": {"login.theme": "[Login Theme]\nName=Dusk\n"},
			"no description": {"b.png": "x"}, "no picture": {"login.theme": "[Login Theme]\nBackdrop=b.png\n"}, "empty picture": {"login.theme": "[Login Theme]\nBackdrop=b.png\n", "b.png": ""},
			"picture elsewhere": {"login.theme": "[Login Theme]\nBackdrop=../b.png\n"}, "second picture gone": {"login.theme": "[Login Theme]\nBackdrop=b.png\nPanel-Picture=p.svg\n", "b.png": "x"}, "nothing": nil,
		} {
			for _, session := range []string{"quayside", "shore", "another"} {
				what := fmt.Sprintf("settings %s, theme %s, session %s", conf, theme, session)
				system := t.TempDir()
				put := func(name, text string) {
					file := filepath.Join(system, name)
					require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
					require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
				}
				if text != "" {
					put("etc/lantern/lantern.conf", text)
				}
				for name, text := range files {
					put("usr/share/lantern/themes/Dusk/"+name, text)
				}
				put("usr/share/lantern/themes/b.png", "x")
				put("usr/share/xsessions/"+session+".desktop", "[Desktop Entry]\n")
				d, err := desk.Open("d", t.TempDir(), system, "/home/me")
				require.NoError(t, err)
				d.Surfaces, d.Writable = standin.Surfaces(), true
				p, err := plan.Dress(d, outfit.Outfit{Name: "Dusk"}.With(desk.FacetLogin, "Dusk"))
				require.NoError(t, err)
				lantern := standin.Lantern{System: system}
				if len(p.Blocked) > 0 {
					refused++
					require.Empty(t, p.Ops, what)
					if conf == "broken" { // Lantern passes such a file over, whatever is in it
						continue
					}
					put("etc/lantern/lantern.conf", strings.ReplaceAll(text, "theme=Plain\n", "")+"[Greeter]\ntheme=Dusk\n")
					require.Error(t, lantern.Start(), "%s: it was refused, %s", what, p.Blocked[0].Why)
					continue
				}
				planned++
				require.NoError(t, plan.Apply(t.Context(), d, p, plan.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: filepath.Join(t.TempDir(), "journal")}))
				require.NoError(t, lantern.Start(), what)
				s, _ := d.Surface("lantern")
				f, _ := s.Facet(desk.FacetLogin)
				r := reading.Of(d, s, f)
				require.Equal(t, "Dusk", r.Value, what)
				require.Equal(t, "Dusk", r.Loaded, what)
				require.NotEmpty(t, p.WayBack(d), what)
				if text != "" {
					kept, err := os.ReadFile(filepath.Join(system, "etc/lantern/lantern.conf.before"))
					require.NoError(t, err)
					require.Equal(t, text, string(kept))
				}
			}
		}
	}
	require.Positive(t, planned)
	t.Logf("%d planned, and Lantern came up; %d refused", planned, refused)
}

// TestGrantsTooWide: a sandboxed program that sees the whole home follows, and
// the board says that it sees too much.
func TestGrantsTooWide(t *testing.T) {
	for grants, wide := range map[string]string{"~": "~", "~/.icons": "", "~/.icons;~/.local/share": "~/.local/share", "/home/me/": "~", "~/.config/coracle": ""} {
		d, err := desk.Open("d", t.TempDir(), t.TempDir(), "/home/me")
		require.NoError(t, err)
		d.Surfaces = append(desk.Builtin(), standin.Surfaces()...)
		file := filepath.Join(d.Home, ".config/coracle/grants.conf")
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte("[Grants]\nread="+grants+"\n"), 0o644))
		s, _ := d.Surface("coracle")
		c := match.Hold(d, s, desk.FacetWidgets, "Adwaita")
		require.Equal(t, match.Follows, c.State, grants)
		if wide == "" {
			require.NotEqual(t, match.GrantTooWide, c.Code, grants)
			continue
		}
		require.Equal(t, match.GrantTooWide, c.Code, grants)
		require.Contains(t, c.Note, "may look into all of "+wide+", ", grants)
	}
}

// TestGrants: a plan lets sandboxed programs look into the folder where the piece
// lies, and into no other, and only if they would not find it without.
func TestGrants(t *testing.T) {
	index := "[Icon Theme]\nName=X\nDirectories=16\n[16]\nSize=16\n"
	for what, c := range map[string]struct {
		files, links map[string]string
		grants, want string
	}{
		"seen already":         {files: map[string]string{".icons/X/index.theme": index}, grants: "# mine\n[Grants]\nread=~/.icons\n", want: "# mine\n[Grants]\nread=~/.icons\n"},
		"a link out":           {files: map[string]string{".data/X/index.theme": index}, links: map[string]string{".icons/X": "../.data/X"}, grants: "[Grants]\nread = ~/.icons\n", want: "[Grants]\nread = ~/.icons;~/.data/X\n"},
		"the folder itself":    {files: map[string]string{".icons/X/index.theme": index}, grants: "[Grants]\nread=~/.themes;\nother=1\n", want: "[Grants]\nread=~/.themes;~/.icons\nother=1\n"},
		"no grants yet":        {files: map[string]string{".icons/X/index.theme": index}, want: "[Grants]\nread=~/.icons\n"},
		"where it never looks": {files: map[string]string{".data/icons/X/index.theme": index}, grants: "[Grants]\nread=~/.icons\n", want: "[Grants]\nread=~/.icons\n"},
	} {
		d, err := desk.Open("d", t.TempDir(), t.TempDir(), "/home/me")
		require.NoError(t, err)
		d.Surfaces, d.Writable = append(desk.Builtin(), standin.Surfaces()...), true
		put := func(name, text string) {
			require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(d.Home, name)), 0o755))
			require.NoError(t, os.WriteFile(filepath.Join(d.Home, name), []byte(text), 0o644))
		}
		for name, text := range c.files {
			put(name, text)
		}
		for name, to := range c.links {
			require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(d.Home, name)), 0o755))
			require.NoError(t, os.Symlink(to, filepath.Join(d.Home, name)))
		}
		const grants = ".config/coracle/grants.conf"
		if c.grants != "" {
			put(grants, c.grants)
		}
		o := outfit.Outfit{Name: "X"}.With(desk.FacetIcons, "X")
		p, err := plan.Dress(d, o)
		require.NoError(t, err)
		require.NoError(t, plan.Apply(t.Context(), d, p, plan.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: filepath.Join(t.TempDir(), "journal")}))
		now, err := os.ReadFile(filepath.Join(d.Home, grants))
		require.NoError(t, err, what)
		require.Equal(t, c.want, string(now), what)
		s, _ := d.Surface("coracle")
		f, _ := s.Facet(desk.FacetIcons)
		if what == "where it never looks" {
			require.Error(t, reading.Check(d, s, f, "X"))
			continue
		}
		require.NoError(t, reading.Check(d, s, f, "X"), what)
		again, err := plan.Dress(d, o)
		require.NoError(t, err)
		require.Empty(t, again.Ops, what)
	}
}
