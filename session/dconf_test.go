package session_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/gvariant"
	"ivelt/session"
	"ivelt/session/sessiontest"
)

func setOf(t *testing.T, kind string, v any) desk.Value {
	t.Helper()
	b, err := gvariant.Bytes(kind, v)
	require.NoError(t, err)
	return desk.Value{Type: kind, Data: string(b)}
}

// TestSettingsAreChangedByTheirService, as dconf reads and dumps them (Debian:
// dconf-cli, dconf-gsettings-backend).
func TestSettingsAreChangedByTheirService(t *testing.T) {
	home := t.TempDir()
	runtime := filepath.Join(home, "run")
	require.NoError(t, os.MkdirAll(runtime, 0o700))
	env := []string{"HOME=" + home, "PATH=" + os.Getenv("PATH"), "XDG_RUNTIME_DIR=" + runtime, "XDG_DATA_DIRS=/usr/share"}
	address, stop := sessiontest.Bus(t, env)
	env = append(env, "DBUS_SESSION_BUS_ADDRESS="+address)
	dconf := func(args ...string) string {
		c := exec.CommandContext(t.Context(), "dconf", args...)
		c.Env = env
		out, err := c.Output()
		require.NoError(t, err, args)
		return strings.TrimSuffix(string(out), "\n")
	}
	c := &session.DConf{Address: address, Name: "user", File: filepath.Join(home, ".config/dconf/user")}
	defer c.Close()
	require.NoError(t, c.Answers())
	v, err := c.Value("/org/example/none")
	require.NoError(t, err)
	require.Zero(t, v, "there is no database yet")

	values := map[string]desk.Value{
		"/org/example/name": setOf(t, "s", "Reed's \"bed\"\n–"), "/org/example/on": setOf(t, "b", true), "/org/example/scale": setOf(t, "d", 1.25),
		"/org/example/size": setOf(t, "i", int64(-24)), "/org/example/count": setOf(t, "u", uint64(7)), "/org/example/empty": setOf(t, "s", ""),
	}
	require.NoError(t, c.Change(values))
	for path, text := range map[string]string{"name": `"Reed's \"bed\"\n–"`, "on": "true", "scale": "1.25", "size": "-24", "count": "uint32 7", "empty": "''"} {
		require.Equal(t, text, dconf("read", "/org/example/"+path))
		now, err := c.Value("/org/example/" + path)
		require.NoError(t, err)
		require.Equal(t, values["/org/example/"+path], now)
	}
	require.NoError(t, c.Change(map[string]desk.Value{"/org/example/on": {}, "/org/example/size": setOf(t, "i", int64(32))}))
	require.Empty(t, dconf("read", "/org/example/on"))
	require.Equal(t, "32", dconf("read", "/org/example/size"))
	for _, wrong := range []string{"", "org/example", "/org/example/", "/org//example"} {
		require.Error(t, c.Change(map[string]desk.Value{wrong: {}}), wrong)
	}

	// Batches of every length, so that offsets of each size are in it.
	r := rand.New(rand.NewPCG(2, 3))
	dconf("reset", "-f", "/")
	want := map[string]string{}
	for n := range 40 {
		batch := map[string]desk.Value{}
		for range 1 + r.IntN(60) {
			path, text := fmt.Sprintf("/batch/k%d", r.IntN(200)), strings.Repeat("x", r.IntN(1<<(n/3)))
			batch[path], want[path] = setOf(t, "s", text), gvariant.Text(text)
			if r.IntN(5) == 0 {
				batch[path] = desk.Value{}
				delete(want, path)
			}
		}
		require.NoError(t, c.Change(batch), n)
	}
	var lines []string
	for _, path := range slices.Sorted(maps.Keys(want)) {
		lines = append(lines, strings.TrimPrefix(path, "/batch/")+"="+want[path])
	}
	dump := strings.Split(strings.TrimSpace(strings.TrimPrefix(dconf("dump", "/batch/"), "[/]\n")), "\n")
	slices.Sort(dump)
	slices.Sort(lines)
	require.Equal(t, lines, dump)

	stop()
	require.Error(t, c.Change(map[string]desk.Value{"/org/example/size": {}}))
	require.ErrorIs(t, c.Answers(), session.ErrBus)
	now, err := c.Value("/batch/" + strings.SplitN(lines[0], "=", 2)[0])
	require.NoError(t, err)
	require.NotZero(t, now, "what is written can be read without it")
	require.ErrorIs(t, (&session.DConf{}).Answers(), session.ErrBus)
}

func TestWhereTheBusIs(t *testing.T) {
	require.Equal(t, "unix:path=/x", session.Bus(map[string]string{"DBUS_SESSION_BUS_ADDRESS": "unix:path=/x"}))
	require.Empty(t, session.Bus(map[string]string{"XDG_RUNTIME_DIR": t.TempDir()}))
	require.Empty(t, session.Bus(nil))
}
