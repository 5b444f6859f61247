package truth

import (
	"bufio"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/session"
	"ivelt/session/sessiontest"
	"ivelt/store"
)

// open is a program that stays open, with what it said last of each of its settings.
type open struct {
	pid  int
	mu   sync.Mutex
	says map[string]string
}

// leftOpen starts one in a seat, and waits until it is there.
func leftOpen(t *testing.T, s *seat, program string) *open {
	t.Helper()
	c := exec.CommandContext(t.Context(), program)
	c.Env = s.environ()
	out, err := c.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, c.Start())
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	o, there := &open{pid: c.Process.Pid, says: map[string]string{}}, make(chan struct{})
	go func() {
		for lines := bufio.NewScanner(out); lines.Scan(); {
			name, value, ok := strings.Cut(lines.Text(), "=")
			if !ok {
				close(there)
				continue
			}
			o.mu.Lock()
			o.says[name] = value
			o.mu.Unlock()
		}
	}()
	select {
	case <-there:
	case <-time.After(20 * time.Second):
		t.Fatal("the program did not open")
	}
	return o
}

func (o *open) now() map[string]string {
	o.mu.Lock()
	defer o.mu.Unlock()
	return maps.Clone(o.says)
}

// properties are what GTK calls facets.
var properties = map[string]string{desk.FacetIcons: "gtk-icon-theme-name", desk.FacetPointer: "gtk-cursor-theme-name", desk.FacetPointerSize: "gtk-cursor-theme-size", desk.FacetFont: "gtk-font-name"}

// TestOpenProgramsFollow dresses a home of a session while programs of GTK 3 and GTK 4 are
// open in it: on X by Ivelt's own provider of XSETTINGS, under a compositor by the service
// of GLib's settings. They follow without a restart, as the readings say, and go back (Debian:
// libgtk-3-dev, libgtk-4-dev, xvfb, weston, dconf-gsettings-backend, dbus-daemon).
func TestOpenProgramsFollow(t *testing.T) {
	t.Parallel()
	ivelt := ivelt(t)
	three, four := build(t, "open", "gtk+-3.0", "libgtk-3-dev"), build(t, "open", "gtk4", "libgtk-4-dev")
	runtime, wayland := compositor(t)
	for _, where := range []string{"x11", "wayland"} {
		t.Run(where, func(t *testing.T) {
			s := &seat{home: t.TempDir(), env: map[string]string{"GDK_BACKEND": where}}
			var stop func()
			if where == "x11" {
				s.env["DISPLAY"], s.env["XDG_RUNTIME_DIR"], s.env["GSETTINGS_BACKEND"] = display(t), t.TempDir(), "keyfile"
				s.put(t, ".config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Tango\ngtk-font-name=Lato 9\n")
			} else {
				s.env["WAYLAND_DISPLAY"], s.env["XDG_RUNTIME_DIR"], s.env["GSETTINGS_BACKEND"] = wayland, runtime, "dconf"
				s.env["DBUS_SESSION_BUS_ADDRESS"], stop = sessiontest.Bus(t, s.environ())
			}
			d := s.desk(t)
			d.SetSurfaces(slices.DeleteFunc(slices.Clone(d.Surfaces()), func(s desk.Surface) bool { return s.ID != "gtk3" && s.ID != "gtk4" }))
			d.SetWritable(true)
			d.Settings = session.SettingsOf(d)
			keep, journal := store.Blobs{Dir: t.TempDir()}, filepath.Join(t.TempDir(), "journal")
			carry := func(p plan.Plan) {
				t.Helper()
				require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: keep, Journal: journal}))
			}
			var offered plan.Plan
			if where == "x11" {
				var err error
				offered, err = planning.OfferSession(d, ivelt)
				require.NoError(t, err)
				carry(offered)
				entry, err := os.ReadFile(filepath.Join(s.home, ".config/autostart/ivelt-session.desktop"))
				require.NoError(t, err)
				require.Contains(t, string(entry), "\nExec="+ivelt+" session\n")
				output(t, tool(t, "desktop-file-validate", "desktop-file-utils", filepath.Join(s.home, ".config/autostart/ivelt-session.desktop")))
				c := exec.CommandContext(t.Context(), ivelt, "session")
				c.Env, c.Stderr = s.environ(), os.Stderr
				require.NoError(t, c.Start())
				stop = func() { _ = c.Process.Kill(); _ = c.Wait() }
				t.Cleanup(stop)
				require.Eventually(t, func() bool { now, err := session.Ask(s.env["DISPLAY"]); return err == nil && now.Own }, 20*time.Second, 10*time.Millisecond)
				d.Running = func() desk.Session { now, _ := session.Ask(s.env["DISPLAY"]); return now }
			}
			programs := map[string]*open{"gtk3": leftOpen(t, s, three), "gtk4": leftOpen(t, s, four)}
			for id, p := range programs { // each is known by what it has loaded
				require.True(t, slices.ContainsFunc(session.Programs(), func(of desk.Program) bool {
					return of.PID == p.pid && of.Surface == id && of.Name == "open" && time.Since(of.Since) < time.Minute
				}), id)
			}
			first := map[string]map[string]string{}
			for id, p := range programs {
				first[id] = p.now()
			}
			if where == "x11" {
				require.Equal(t, "Tango", first["gtk3"]["gtk-icon-theme-name"], "the provider tells what was read before it came")
			}
			r := rand.New(rand.NewPCG(9, uint64(len(where))))
			pick := func(options ...string) string { return options[r.IntN(len(options))] }
			var took []time.Duration
			var done []plan.Plan
			for n := range 15 {
				o := outfit.Outfit{Name: "x"}.With(desk.FacetIcons, pick("Tango", "Adwaita", "hicolor")).With(desk.FacetPointer, pick("DMZ-White", "DMZ-Black", "redglass")).
					With(desk.FacetPointerSize, pick("24", "32", "48")).With(desk.FacetFont, pick("Lato 11", "Lato Black 9", "DejaVu Sans 10"))
				p, err := planning.Dress(t.Context(), d, o)
				require.NoError(t, err)
				require.Empty(t, p.Blocked)
				began := time.Now()
				carry(p)
				for id, program := range programs {
					require.Eventually(t, func() bool {
						now := program.now()
						return !slices.ContainsFunc(o.Facets(), func(facet string) bool { return now[properties[facet]] != o.Want(facet) })
					}, 5*time.Second, time.Millisecond, "%d: %s was told %v and shows %v", n, id, o, program.now())
				}
				took, done = append(took, time.Since(began)), append(done, p)
				for id := range programs {
					for _, facet := range o.Facets() {
						if now := reads(t, d, id, facet); !same(id+" open on "+where, facet, o.Want(facet), now.Value) {
							t.Errorf("%d: %s: the program shows %q, Ivelt reads %q", n, id, o.Want(facet), now.Value)
						}
					}
				}
			}
			slices.Sort(took)
			t.Logf("%s: from the first write to the last program, median of %d: %v, the longest %v", where, len(took), took[len(took)/2], took[len(took)-1])

			back, err := planning.Back(d, done, keep, planning.Aim{})
			require.NoError(t, err)
			require.Empty(t, back.Conflicts)
			carry(back.Plan)
			for id, program := range programs {
				if was := first[id]; was["gtk-cursor-theme-name"] == "" && where == "x11" {
					was["gtk-cursor-theme-name"] = "default" // the display's own, by its name
				}
				require.Eventually(t, func() bool { return maps.Equal(first[id], program.now()) }, 5*time.Second, time.Millisecond, "%s shows %v, and showed %v", id, program.now(), first[id])
			}
			if where == "wayland" {
				require.Empty(t, s.ask(t, "dconf", "dconf-cli", "dump", "/"))
				stop()
				require.Eventually(t, func() bool { // once the connection hears of it
					p, err := planning.Dress(t.Context(), d, outfit.Outfit{Name: "x"}.With(desk.FacetIcons, "Tango"))
					require.NoError(t, err)
					return len(p.Blocked) > 0
				}, 5*time.Second, 10*time.Millisecond, "nobody answers any more")
				return
			}
			stop() // programs fall back on what their files say
			gone, err := planning.WithdrawSession(d)
			require.NoError(t, err)
			carry(gone)
			require.NoFileExists(t, filepath.Join(s.home, ".config/autostart/ivelt-session.desktop"))
			require.NoFileExists(t, filepath.Join(s.home, ".config/ivelt/session.conf"))
		})
	}
}
