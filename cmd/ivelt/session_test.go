package main

import (
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/session/sessiontest"
)

// TestAfterSignInItSaysWhatDoesNotFollow: one notification, which opens Match in the browser,
// of what is not as it should be; none if nothing is, or if it was turned off.
func TestAfterSignInItSaysWhatDoesNotFollow(t *testing.T) {
	home, bin := t.TempDir(), t.TempDir()
	opened := filepath.Join(bin, "opened")
	put := func(file, text string) {
		t.Helper()
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o755))
	}
	put(filepath.Join(bin, "xdg-open"), "#!/bin/sh\necho \"$1\" >>"+opened+"\n")
	for key, value := range map[string]string{
		"HOME": home, "XDG_DATA_HOME": "", "XDG_CONFIG_HOME": "", "PATH": bin + ":" + os.Getenv("PATH"), "DISPLAY": "", "WAYLAND_DISPLAY": "nobody", "XDG_SESSION_TYPE": "wayland", "GSETTINGS_BACKEND": "keyfile",
	} {
		t.Setenv(key, value)
	}
	address, _ := sessiontest.Bus(t, os.Environ())
	t.Setenv("DBUS_SESSION_BUS_ADDRESS", address)
	service := sessiontest.ShowNotices(t, address)
	service.Can, service.Choose = []string{"actions"}, true
	_, at := start(t, "serve", "--addr", "127.0.0.1:0")
	signIn := func() {
		t.Helper()
		out, err := command(t, "session", "--check-at", fmt.Sprint(time.Now().Unix()+4)).CombinedOutput()
		require.NoError(t, err, string(out))
		require.Contains(t, string(out), "compositor")
	}
	signIn()
	require.Empty(t, service.Seen(), "all is well")

	// Somebody else changes it after it was dressed.
	put(filepath.Join(home, "look.toml"), "format = 1\nname = \"mine\"\n[facet.icons]\npiece = \"hicolor\"\n")
	out, err := command(t, "apply", "--own", "--outfit", filepath.Join(home, "look.toml")).CombinedOutput()
	require.NoError(t, err, string(out))
	signIn()
	require.Empty(t, service.Seen(), "it shows what it was dressed in")
	put(filepath.Join(home, ".config/glib-2.0/settings/keyfile"), "")
	signIn()
	seen := service.Seen()
	require.Len(t, seen, 1)
	require.Contains(t, seen[0][1], "as they should be")
	require.Contains(t, seen[0][2], "Icons: ")
	require.Contains(t, seen[0][2], "gives Adwaita")
	b, err := os.ReadFile(opened)
	require.NoError(t, err)
	require.True(t, strings.HasPrefix(string(b), at+"/d/own/match?key="), string(b))
	require.Equal(t, http.StatusOK, status(t, strings.TrimSpace(string(b))))

	put(filepath.Join(home, ".config/ivelt/config.toml"), "check-at-sign-in = false\n")
	signIn()
	require.Len(t, service.Seen(), 1, "it was turned off")
	put(filepath.Join(home, ".config/ivelt/config.toml"), "check-at-sign-in = \"perhaps\"\n")
	out, err = command(t, "session", "--check-at", fmt.Sprint(time.Now().Unix()+4)).CombinedOutput()
	require.Error(t, err)
	require.Contains(t, string(out), "check-at-sign-in is true or false")
}
