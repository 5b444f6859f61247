package truth

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/xsettings"
	"ivelt/session"
	"ivelt/session/sessiontest"
)

// try runs a command of Ivelt's on the box's own desk that may fail, and returns all it says.
func (b *box) try(t *testing.T, args ...string) (said string, code int) {
	t.Helper()
	c := exec.CommandContext(t.Context(), b.ivelt, append(args, "--own")...)
	c.Env = b.environ()
	out, _ := c.CombinedOutput()
	return string(out), c.ProcessState.ExitCode()
}

// TestFaultsOnOnesOwnDesk: what goes wrong around a real session is said, and nothing is
// lost: no service of settings, keys that are locked, a plan older than the desk, links to
// nothing, no space, another provider (Debian: dconf-cli, dconf-gsettings-backend,
// dbus-daemon, xvfb, libgtk-3-dev).
func TestFaultsOnOnesOwnDesk(t *testing.T) {
	t.Parallel()
	ivelt := ivelt(t)
	look := outfit.Outfit{Name: "x"}.With(desk.FacetIcons, "Tango").With(desk.FacetDark, "dark").With(desk.FacetWorkspaces, "7")
	start := func(t *testing.T, seed uint64) (*box, string) {
		b := newBox(t, t.TempDir(), seed, ivelt, nil, nil)
		file := filepath.Join(t.TempDir(), "look.toml")
		write(t, file, string(look.Bytes()))
		return b, file
	}
	icons, key := keyOf(desk.FacetIcons)

	t.Run("no service of settings", func(t *testing.T) {
		b, file := start(t, 1)
		dump := b.seat.ask(t, "dconf", "dconf-cli", "dump", "/")
		there := b.env["DBUS_SESSION_BUS_ADDRESS"]
		b.env["DBUS_SESSION_BUS_ADDRESS"] = "unix:path=/nowhere"
		said, code := b.try(t, "apply", "--outfit", file)
		require.Equal(t, 1, code, said)
		require.Contains(t, said, "does not answer")
		b.env["DBUS_SESSION_BUS_ADDRESS"] = there
		require.Equal(t, dump, b.seat.ask(t, "dconf", "dconf-cli", "dump", "/"))
		_, code = b.try(t, "apply", "--outfit", file)
		require.LessOrEqual(t, code, 1)
		require.Equal(t, "Tango", b.reading(t, "gtk3", desk.FacetIcons), "it answers again")
	})
	t.Run("locked keys", func(t *testing.T) {
		b, file := start(t, 1)
		dir := t.TempDir()
		write(t, filepath.Join(dir, "two.d/00"), "["+strings.ReplaceAll(icons, ".", "/")+"]\n"+key+"='hicolor'\n")
		write(t, filepath.Join(dir, "two.d/locks/00"), "/"+strings.ReplaceAll(icons, ".", "/")+"/"+key+"\n")
		b.seat.ask(t, "dconf", "dconf-cli", "compile", filepath.Join(dir, "two"), filepath.Join(dir, "two.d"))
		write(t, filepath.Join(dir, "profile"), "user-db:user\nfile-db:"+dir+"/two\n")
		b.env["DCONF_PROFILE"] = filepath.Join(dir, "profile")
		b.env["DBUS_SESSION_BUS_ADDRESS"], _ = sessiontest.Bus(t, b.environ())
		said, code := b.try(t, "apply", "--outfit", file)
		require.Equal(t, 1, code, said)
		require.Contains(t, said, "administrator")
		require.Equal(t, "'hicolor'", strings.TrimSpace(b.seat.ask(t, "gsettings", "libglib2.0-bin", "get", icons, key)))
		require.Equal(t, "hicolor", b.reading(t, "gtk3", desk.FacetIcons))
		require.Equal(t, "7", b.reading(t, "desktop", desk.FacetWorkspaces), "the rest is done")
	})
	t.Run("a plan older than the desk", func(t *testing.T) {
		b, file := start(t, 1)
		plan, _ := b.try(t, "plan", "--outfit", file, "--script")
		at := filepath.Join(t.TempDir(), "by-hand.sh")
		write(t, at, plan[strings.Index(plan, "#!"):])
		b.seat.ask(t, "gsettings", "libglib2.0-bin", "set", icons, key, "'hicolor'")
		before := wholeHome(t, b.seat)
		c := exec.CommandContext(t.Context(), "sh", at)
		c.Env = b.environ()
		said, err := c.CombinedOutput()
		require.Error(t, err, string(said))
		require.Contains(t, string(said), "is not as it was. Nothing was changed.")
		require.Equal(t, before, wholeHome(t, b.seat))
	})
	t.Run("links to nothing", func(t *testing.T) {
		b, file := start(t, 0)
		settings := filepath.Join(b.home, ".config/gtk-3.0/settings.ini")
		require.NoError(t, os.MkdirAll(filepath.Dir(settings), 0o755))
		_ = os.Remove(settings)
		require.NoError(t, os.Symlink("../../gone/settings.ini", settings))
		before := wholeHome(t, b.seat)
		said, code := b.try(t, "apply", "--outfit", file)
		require.LessOrEqual(t, code, 2, said)
		to, err := os.Readlink(settings)
		require.NoError(t, err, "a link stays one")
		require.Equal(t, "../../gone/settings.ini", to)
		if code < 2 {
			_, code = b.try(t, "back")
			require.Zero(t, code)
		} else {
			require.Contains(t, said, "settings.ini")
		}
		require.Equal(t, before, wholeHome(t, b.seat))
	})
	t.Run("no space", func(t *testing.T) {
		b, file := start(t, 1)
		b.put(t, ".config/gtk-3.0/settings.ini", "[Settings]\n"+strings.Repeat("# much\n", 130_000))
		b.own(t, "apply", "--outfit", file) // Ivelt's own data is there
		b.own(t, "back")
		before := wholeHome(t, b.seat)
		for _, blocks := range []string{"0", "4", "1700"} { // of 512 bytes, the largest that a file may be
			c := tool(t, "sh", "dash", "-c", "ulimit -f "+blocks+`; exec "$0" apply --own --outfit "$1"`, ivelt, file)
			c.Env = b.environ()
			out, err := c.CombinedOutput()
			require.Error(t, err, string(out))
			require.Regexp(t, "database|file too large", string(out)) // Ivelt's own, or the plan's journal
			b.own(t, "recover")
			require.Equal(t, before, wholeHome(t, b.seat), "%s", out)
		}
		b.own(t, "apply", "--outfit", file)
		require.Equal(t, "Tango", b.reading(t, "gtk3", desk.FacetIcons), "with space it goes on")
	})
	t.Run("another provider", func(t *testing.T) {
		b, file := start(t, 0)
		b.provide(t)
		b.own(t, "apply", "--outfit", file)
		require.Equal(t, "Tango", b.reading(t, "gtk3", desk.FacetIcons))
		provide(t, b.x11).hold(xsettings.Settings{"Net/IconThemeName": "hicolor"})
		require.Eventually(t, func() bool { return len(b.sessionOf(t)) == 0 }, 10*time.Second, 10*time.Millisecond, "both end")
		now, err := session.Ask(b.x11)
		require.NoError(t, err)
		require.False(t, now.Own)
		require.Equal(t, "hicolor", b.reading(t, "gtk3", desk.FacetIcons), "as programs have it")
		said, code := b.try(t, "apply", "--outfit", file)
		require.Equal(t, 1, code, said)
		require.Contains(t, said, "hicolor")
		c := exec.CommandContext(t.Context(), ivelt, "session")
		c.Env = b.environ()
		out, err := c.CombinedOutput()
		require.NoError(t, err)
		require.Contains(t, string(out), "Nothing to do: another provider")
	})
}
