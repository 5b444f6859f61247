package main

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/godbus/dbus/v5"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/desk"
	"ivelt/session/sessiontest"
)

// TestAnOwnDeskTurnsWithItsShade: what has two halves turns as soon as the portal of settings
// tells that the shade of the desk has turned, by the process that was started for it, which
// ends with it; and goes back with what started it.
func TestAnOwnDeskTurnsWithItsShade(t *testing.T) {
	home := t.TempDir()
	for key, value := range map[string]string{
		"HOME": home, "XDG_DATA_HOME": "", "XDG_CONFIG_HOME": "", "DISPLAY": "", "WAYLAND_DISPLAY": "nobody", "XDG_SESSION_TYPE": "wayland", "GSETTINGS_BACKEND": "keyfile",
	} {
		t.Setenv(key, value)
	}
	address, _ := sessiontest.Bus(t, os.Environ())
	t.Setenv("DBUS_SESSION_BUS_ADDRESS", address)
	put := func(name, text string) string {
		t.Helper()
		file := filepath.Join(home, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		return file
	}
	for _, name := range []string{"bay.svg", "night.svg"} {
		put("Pictures/"+name, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 4 3"/>`)
	}
	settings := filepath.Join(home, ".config/glib-2.0/settings/keyfile")
	says := func() string {
		b, _ := os.ReadFile(settings)
		return string(b)
	}
	run := func(args ...string) string {
		t.Helper()
		out, err := command(t, args...).CombinedOutput()
		require.NoError(t, err, "%v: %s", args, out)
		return string(out)
	}
	require.Contains(t, run("turn", "--own"), "Nothing turns on This computer.")
	run("turn", "--stay") // ends, as nothing turns
	text := "format = 1\nname = \"Bay\"\n"
	for _, half := range []string{"facet", "light", "dark"} {
		picture, icons := "bay", "Adwaita"
		if half == "dark" {
			picture, icons = "night", "hicolor"
		}
		text += "[" + half + ".backdrop]\nvalue = \"" + home + "/Pictures/" + picture + ".svg\"\n[" + half + ".icons]\npiece = \"" + icons + "\"\n"
	}
	look := put("look.toml", text+"[turn]\nby = \"desk\"\n")
	run("apply", "--own", "--outfit", look)
	t.Cleanup(func() { // whatever came of it, nothing is left running
		c := exec.Command(os.Args[0], "turn", "--own", "--keep")
		c.Env = append(os.Environ(), "IVELT_AS_COMMAND=1")
		_ = c.Run()
		require.Eventually(t, func() bool {
			f, err := os.OpenFile(filepath.Join(home, ".local/share/ivelt/own/turning.lock"), os.O_RDWR, 0)
			if err != nil {
				return true
			}
			defer f.Close()
			return unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB) == nil
		}, 20*time.Second, 50*time.Millisecond, "the process that turns ends once nothing does")
	})
	require.Contains(t, says(), "picture-uri='file://"+home+"/Pictures/bay.svg'")
	require.Contains(t, says(), "picture-uri-dark='file://"+home+"/Pictures/night.svg'", "the desk turns that by itself")

	bus, err := dbus.Connect(address)
	require.NoError(t, err)
	defer bus.Close()
	all := desk.Builtin()
	shade, _ := all[slices.IndexFunc(all, func(s desk.Surface) bool { return s.ID == "settings" })].Facet(desk.FacetDark)
	asked := shade.Sources[slices.IndexFunc(shade.Sources, func(src desk.Source) bool { return src.Format == "gsettings" })]
	turns := func(scheme, wants string) {
		t.Helper()
		put(".config/glib-2.0/settings/keyfile", strings.ReplaceAll(strings.ReplaceAll(says(), "color-scheme='default'\n", ""), "color-scheme='prefer-dark'\n", "")+"\n["+strings.ReplaceAll(asked.Group, ".", "/")+"]\n"+asked.Key+"='"+scheme+"'\n")
		require.Eventually(t, func() bool { // it may not listen yet
			require.NoError(t, bus.Emit("/org/freedesktop/portal/desktop", "org.freedesktop.portal.Settings.SettingChanged", "org.freedesktop.appearance", "color-scheme", dbus.MakeVariant(uint32(1))))
			time.Sleep(300 * time.Millisecond)
			return strings.Contains(says(), wants)
		}, 20*time.Second, 10*time.Millisecond, says())
	}
	turns("prefer-dark", "icon-theme='hicolor'")
	var is struct {
		Half  string
		Turns []string
	}
	require.NoError(t, json.Unmarshal([]byte(run("turn", "--own", "--json")), &is))
	require.Equal(t, "dark", is.Half)
	require.Equal(t, []string{"icons", "backdrop"}, is.Turns)
	require.Contains(t, run("turn", "--own"), "“Bay” is dark now, and turns when the desk's own shade turns.")
	require.Contains(t, says(), "picture-uri='file://"+home+"/Pictures/bay.svg'", "both halves stay told")
	turns("default", "icon-theme='Adwaita'")
	require.Equal(t, 1, strings.Count(run("history", "--own"), "Apply Bay"))
	require.NotContains(t, run("history", "--own"), "Turn dark")

	// Pictures in turn, over it.
	put("show.toml", "format = 1\nname = \"Shores\"\n[facet.backdrop]\nvalue = \""+home+"/Pictures/bay.svg\"\n[show]\nfolder = \""+home+"/Pictures\"\nevery = \"1h\"\n")
	run("apply", "--own", "--outfit", filepath.Join(home, "show.toml"))
	require.Contains(t, run("turn", "--own", "--next"), "The backdrop is night, one of 2.")
	for _, key := range []string{"picture-uri", "picture-uri-dark"} {
		require.Contains(t, says(), key+"='file://"+home+"/Pictures/night.svg'")
	}
	require.Contains(t, run("turn", "--own", "--pause"), "stands still")
	run("turn", "--own", "--go-on")
	run("back", "--own")
	require.Contains(t, says(), "picture-uri='file://"+home+"/Pictures/bay.svg'")
	require.Contains(t, says(), "picture-uri-dark='file://"+home+"/Pictures/night.svg'", "the pair is back")

	run("turn", "--own", "--keep")
	require.Contains(t, run("turn", "--own"), "Nothing turns")
	run("back", "--own")
	require.NotContains(t, says(), "picture-uri")
	out, err := command(t, "turn", "--own", "--next").CombinedOutput()
	require.Error(t, err)
	require.Contains(t, string(out), "nothing turns on this desk")
}
