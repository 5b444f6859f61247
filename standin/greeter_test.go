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
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/standin"
)

// gates are the login screens with where they keep what.
var gates = []struct {
	standin.Program
	group, description, session string
}{{standin.Lantern, "Greeter", "login.theme", "quayside"}, {standin.Tollgate, "Screen", "gate.theme", "withy"}}

// TestLoginScreensAlwaysComeUp plans a theme, a backdrop and a person's picture in
// all ways in which they can be broken: what is planned, the login screen comes up
// with; what is refused, it would not have come up with; and what is forced stays
// black, and comes back by the steps that were printed.
func TestLoginScreensAlwaysComeUp(t *testing.T) {
	planned, refused := 0, 0
	for _, gate := range gates {
		conf := gate.Files[0]
		settings := map[string]string{"none": "", "usual": "# mine\n[GROUP]\ntheme=Plain\n", "with a session": "[GROUP]\nsession=shore\n", "broken": "[GROUP]\ntheme=Plain\noops\n", "twice": "[GROUP]\ntheme=A\n[GROUP]\ntheme=Plain\n"}
		for of, text := range settings {
			text = strings.ReplaceAll(text, "GROUP", gate.group)
			for what, files := range map[string]map[string]string{
				"whole": {"DESC": "[Login Theme]\nBackdrop=b.png\n", "b.png": "x"}, "without pictures": {"DESC": "[Login Theme]\nName=Dusk\n"},
				"no description": {"b.png": "x"}, "no picture": {"DESC": "[Login Theme]\nBackdrop=b.png\n"}, "empty picture": {"DESC": "[Login Theme]\nBackdrop=b.png\n", "b.png": ""},
				"picture elsewhere": {"DESC": "[Login Theme]\nBackdrop=../b.png\n"}, "second picture gone": {"DESC": "[Login Theme]\nBackdrop=b.png\nPanel-Picture=p.svg\n", "b.png": "x"}, "nothing": nil,
				"own backdrop": {"BACK": "/usr/share/backgrounds/pier.png"}, "own backdrop in the home": {"BACK": "/home/mara/pier.png"}, "own backdrop is no picture": {"BACK": "/usr/share/backgrounds/pier.svg"},
				"own backdrop is cut off": {"BACK": "/usr/share/backgrounds/cut.png"}, "own backdrop is gone": {"BACK": "/usr/share/backgrounds/gone.png"}, "person": {"PERSON": "/var/lib/people/mara.png"}, "person is a link out": {"PERSON": "/etc/mara.png"},
			} {
				for _, session := range []string{gate.session, "shore"} {
					says := fmt.Sprintf("%s: settings %s, %s, session %s", gate.ID, of, what, session)
					r := rigOf(t)
					require.NoError(t, os.RemoveAll(r.host("/usr/share/xsessions")))
					require.NoError(t, os.RemoveAll(r.host("/usr/share/wayland-sessions")))
					r.put("/usr/share/xsessions/"+session+".desktop", "[Desktop Entry]\n")
					for _, p := range []string{"/usr/share/backgrounds/pier.png", "/usr/share/backgrounds/cut.png", "~/pier.png", "/var/lib/people/mara.png", "/etc/mara.png"} {
						r.picture(p)
					}
					require.NoError(t, os.Truncate(r.host("/usr/share/backgrounds/cut.png"), 50))
					r.put("/usr/share/backgrounds/pier.svg", `<svg xmlns="http://www.w3.org/2000/svg"/>`)
					r.put("/usr/share/"+gate.ID+"/themes/b.png", "x")
					if text != "" {
						r.put(conf, text)
					}
					facet, want := desk.FacetLogin, "Dusk"
					for name, content := range files {
						switch name {
						case "BACK":
							facet, want = desk.FacetLoginGround, content
						case "PERSON":
							facet, want = desk.FacetPerson, content
						default:
							r.put("/usr/share/"+gate.ID+"/themes/Dusk/"+strings.ReplaceAll(name, "DESC", gate.description), content)
						}
					}
					d := r.desk()
					other := map[string]string{"lantern": "tollgate", "tollgate": "lantern"}[gate.ID]
					o := outfit.Outfit{Name: "Dusk"}.With(facet, want).Except(other, facet, "")
					p, err := planning.Dress(t.Context(), d, o)
					require.NoError(t, err)
					s, _ := d.Surface(gate.ID)
					f, _ := s.Facet(facet)
					if len(p.Blocked) == 0 {
						planned++
						r.apply(p, nil)
						require.NoError(t, gate.Start(r.Root), says)
						got := reading.Of(r.desk(), s, f)
						require.Equal(t, want, got.Value, says)
						require.Equal(t, want, got.Loaded, says)
						require.NotEmpty(t, p.WayBack(d), says)
						if text != "" {
							kept, err := os.ReadFile(r.host(conf + ".before"))
							require.NoError(t, err)
							require.Equal(t, text, string(kept))
						}
						continue
					}
					refused++
					require.Empty(t, p.Ops, says)
					if of == "broken" { // it passes such a file over, whatever is in it
						continue
					}
					p, err = planning.DressWith(t.Context(), d, d, o, nil, planning.Options{Force: true})
					require.NoError(t, err)
					comesUp := gate.Start(r.Root) == nil
					r.apply(p, nil)
					require.NotNil(t, reading.Fatal(r.desk(), s), "%s: it is known before", says)
					require.ErrorContains(t, gate.Start(r.Root), "the screen stays black", says)
					screen, err := gate.Screen(r.Root)
					require.NoError(t, err)
					require.Contains(t, string(screen), "Text console 3")
					for _, hand := range p.WayBack(d) { // what was printed is typed
						if hand.Type == "" {
							continue
						}
						_, err = gate.Type(r.Root, s.Greeter.Again, hand.Type)
					}
					require.Equal(t, comesUp, err == nil, "%s: it comes up again as it did before: %v", says, err)
				}
			}
		}
	}
	require.Equal(t, 32, planned, "all that could come up")
	require.Greater(t, refused, 100)
	t.Logf("%d planned, and the login screen came up; %d refused, forced, black, and brought back", planned, refused)
}

// TestTextConsole: nothing else than what matters to the login screen is done.
func TestTextConsole(t *testing.T) {
	r := rigOf(t)
	r.put("/etc/tollgate/tollgate.conf", "[Screen]\n")
	outside := filepath.Join(filepath.Dir(r.System), "outside")
	require.NoError(t, os.WriteFile(outside, nil, 0o644))
	defer os.Remove(outside)
	for line, want := range map[string]string{"": "nothing: not found", "ls": "ls: not found", "sudo dance now": "dance: not found", "sudo cp /a /b": "there is no /a", "sudo rm /etc/nothing": "there is no /etc/nothing", "cp /a /b": "cp: not found", "sudo cp ../outside y": "there is no"} {
		_, err := standin.Tollgate.Type(r.Root, "sudo tollgate restart", line)
		require.ErrorContains(t, err, want, line)
	}
	said, err := standin.Tollgate.Type(r.Root, "sudo tollgate restart", " sudo tollgate restart ")
	require.NoError(t, err)
	require.Equal(t, "tollgate is up.", said)
}
