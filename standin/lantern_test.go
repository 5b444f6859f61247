package standin_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
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
