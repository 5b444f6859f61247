package truth

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/session/sessiontest"
)

// cleared waits until nothing is left of what a change put aside: large themes are cleared away
// behind the answer, and a server that is stopped meanwhile leaves that to its next start.
func (s *seat) cleared(t *testing.T) {
	t.Helper()
	require.Eventually(t, func() bool {
		left := false
		err := filepath.WalkDir(s.home, func(_ string, d fs.DirEntry, err error) error {
			if errors.Is(err, fs.ErrNotExist) { // cleared away just now
				return nil
			}
			if err == nil && strings.HasPrefix(d.Name(), ".ivelt-") {
				left = true
				return fs.SkipAll
			}
			return err
		})
		return err == nil && !left
	}, time.Minute, 50*time.Millisecond)
}

// wholeHome is every file of a home and every setting of its database, but Ivelt's own data and
// the database's file, which says the same otherwise each time.
func wholeHome(t *testing.T, s *seat) map[string]string {
	t.Helper()
	out := map[string]string{"dconf dump": s.ask(t, "dconf", "dconf-cli", "dump", "/")}
	require.NoError(t, filepath.WalkDir(s.home, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, _ := filepath.Rel(s.home, p)
		if rel == "data" || rel == ".cache" || d.IsDir() && d.Name() == "dconf" {
			return fs.SkipDir
		}
		if d.IsDir() {
			return nil
		}
		if to, err := os.Readlink(p); err == nil {
			out[rel+", a link"] = to
			if fi, err := os.Stat(p); err != nil || fi.IsDir() {
				return nil
			}
		}
		b, err := os.ReadFile(p)
		out[rel] = fmt.Sprintf("%x", sha256.Sum256(b))
		return err
	}))
	return out
}

// TestKilledWhileItDressesItsOwnDesk kills Ivelt with -9 while it dresses a real session's
// home, files and settings, at instants by chance, and starts it again: everything is as
// before, or as wanted (Debian: dconf-cli, dconf-gsettings-backend, dbus-daemon).
func TestKilledWhileItDressesItsOwnDesk(t *testing.T) {
	t.Parallel()
	ivelt := ivelt(t)
	s := &seat{home: t.TempDir(), env: map[string]string{"XDG_RUNTIME_DIR": t.TempDir(), "GSETTINGS_BACKEND": "dconf", "WAYLAND_DISPLAY": "wayland-9", "XDG_SESSION_TYPE": "wayland"}}
	s.env["XDG_DATA_HOME"] = filepath.Join(s.home, "data")
	s.env["DBUS_SESSION_BUS_ADDRESS"], _ = sessiontest.Bus(t, s.environ())
	s.put(t, ".config/gtk-3.0/settings.ini", "[Settings]\ngtk-font-name=Lato 9\n")
	s.put(t, ".config/gtk-4.0/settings.ini", "# mine\n[Settings]\n")
	s.ask(t, "dconf", "dconf-cli", "write", "/org/example/other", "'stays'")
	looks := map[string]string{}
	for name, text := range map[string]string{
		"one": "[facet.icons]\npiece = \"Tango\"\n[facet.pointer]\npiece = \"DMZ-White\"\n[facet.dark]\nvalue = \"dark\"\n[facet.effects]\nvalue = \"none\"\n",
		"two": "[facet.icons]\npiece = \"hicolor\"\n[facet.pointer]\npiece = \"DMZ-Black\"\n[facet.dark]\nvalue = \"light\"\n[facet.workspaces]\nvalue = \"7\"\n",
	} {
		looks[name] = filepath.Join(t.TempDir(), name+".toml")
		write(t, looks[name], "format = 1\nname = \""+name+"\"\n"+text)
	}
	run := func(args ...string) *exec.Cmd {
		c := exec.CommandContext(t.Context(), ivelt, append(args, "--own")...)
		c.Env = s.environ()
		return c
	}
	after := map[string]map[string]string{}
	for _, name := range []string{"one", "two", "one", "two"} { // what each leaves, whatever was there
		if out, err := run("apply", "--outfit", looks[name]).CombinedOutput(); err != nil {
			require.Contains(t, string(out), "set setting", "blocked in part, which ends with 1")
		}
		after[name] = wholeHome(t, s)
	}
	began := time.Now()
	_, _ = run("apply", "--outfit", looks["one"]).CombinedOutput()
	whole := time.Since(began)
	_, _ = run("apply", "--outfit", looks["two"]).CombinedOutput()

	r := rand.New(rand.NewPCG(23, 1))
	n, before, wanted := int(12**times), 0, 0
	for i := range n {
		name := []string{"one", "two"}[i%2]
		other := []string{"two", "one"}[i%2]
		c := run("apply", "--outfit", looks[name])
		require.NoError(t, c.Start())
		time.Sleep(whole/3 + time.Duration(r.Int64N(int64(whole*3/4)))) // it begins with reading
		_ = c.Process.Kill()
		_ = c.Wait()
		out, err := run("recover").CombinedOutput()
		require.NoError(t, err, string(out))
		switch now := wholeHome(t, s); {
		case maps.Equal(now, after[other]):
			before++
			_, _ = run("apply", "--outfit", looks[name]).CombinedOutput()
		case maps.Equal(now, after[name]):
			wanted++
		default:
			require.Equal(t, after[name], now, "%d: neither as before nor as wanted\n%s", i, out)
		}
		require.True(t, strings.Contains(s.ask(t, "dconf", "dconf-cli", "read", "/org/example/other"), "stays"))
	}
	t.Logf("killed %d times: %d times as before, %d times as wanted", n, before, wanted)
	require.Positive(t, before)
}
