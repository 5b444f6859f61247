package desk_test

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
)

// lamp is a descriptor that stays within what one from somebody else may.
const lamp = `id = "lamp"
title = "Lamp"
kind = "program"
starts = ""
present = ["/usr/bin/lamp", "~/.local/bin/lamp"]
[[looks]]
kind = "icons"
folders = ["{data}/icons", "~/.icons", "{data-dirs}/icons", "{data}/lamp/icons"]
[[facet]]
name = "dark"
values = { dark = ["Dim 2"], light = ["Bright"] }
[[facet.source]]
path = "{config}/lamp/lamp.conf"
format = "keyfile"
group = "Look"
key = "shade"
write = true
[[facet.source]]
path = "/etc/lamp.conf"
format = "keyfile"
group = "Look"
key = "shade"
[facet.loaded]
path = "{state}/lamp/session"
format = "keyfile"
group = "Loaded"
key = "shade"
`

// TestHowFarADescriptorOfOthersReaches: in the home to what bears its name, and no further;
// each way to reach further is refused by itself.
func TestHowFarADescriptorOfOthersReaches(t *testing.T) {
	d := &desk.Desk{HomePath: "/home/me"}
	s, err := desk.ParseCame([]byte(lamp), d)
	require.NoError(t, err)
	require.Equal(t, "Lamp", s.Title)
	_, err = desk.ParseCame([]byte(lamp), nil)
	require.NoError(t, err)

	const own = `path = "{config}/lamp/lamp.conf"`
	for _, c := range []struct{ from, to, says string }{
		// Files of other programs, of the system, and of Ivelt.
		{own, `path = "{config}/other/lamp.conf"`, "it would write {config}/other/lamp.conf"},
		{own, `path = "{config}/lampion/lamp.conf"`, "lampion"},
		{own, `path = "/etc/lamp.conf"`, "it would write /etc/lamp.conf"},
		{own, `path = "{config-dirs}/lamp/lamp.conf"`, "it would write"},
		{own, `path = "~/lamp.conf"`, "it would write ~/lamp.conf"},
		{own, `path = "~/Documents/lamp/lamp.conf"`, "it would write"},
		{own, `path = "{config}/ivelt/lamp.conf"`, "ivelt"},
		{own, `path = "~/.config/ivelt/surfaces/lamp.toml"`, "ivelt"},
		{own, `path = "~/.local/share/ivelt/lamp"`, "ivelt"},
		{own, `path = "~/.cache/ivelt/lamp"`, "ivelt"},
		{own, `path = "{data}/./ivelt//lamp"`, "ivelt"},
		{own, `path = "{config}/autostart/lamp.desktop"`, "autostart"},
		{own, `path = "{config}/{dark}/lamp.conf"`, "is told"}, // in a circle
		{`path = "/etc/lamp.conf"`, `path = "~/.ssh/id_rsa"`, "it reads ~/.ssh/id_rsa"},
		{`path = "/etc/lamp.conf"`, `path = "{config}/other/token"`, "it reads {config}/other/token"},
		{`path = "/etc/lamp.conf"`, `path = "/home/you/.config/lamp/lamp.conf"`, "/home/you"},
		{`path = "/etc/lamp.conf"`, `path = "/proc/self/environ"`, "/proc/self/environ"},
		{`path = "{state}/lamp/session"`, `path = "{state}/ivelt/lamp"`, "ivelt"},
		{`"/usr/bin/lamp"`, `"~/.ssh/*"`, "whether there is ~/.ssh/*"},
		{`"{data}/lamp/icons"`, `"{config}/ivelt"`, "looks for pieces in {config}/ivelt"},
		{`"{data}/lamp/icons"`, `"~"`, "looks for pieces in ~"},
		{`"{data}/lamp/icons"`, `"/root"`, "looks for pieces in /root"},
		// Names that are none of a program that is dressed.
		{`id = "lamp"`, `id = "ivelt"`, "is no name of a program"},
		{`id = "lamp"`, `id = "bash"`, "is no name of a program"},
		{`id = "lamp"`, `id = "systemd-lamp"`, "is no name of a program"},
		{`id = "lamp"`, `id = "la"`, "is no name of a program"},
		{`id = "lamp"`, `id = "autostart"`, "is no name of a program"},
		// What is set for all programs, and variables that may hold anything.
		{"format = \"keyfile\"\ngroup = \"Look\"\nkey = \"shade\"\nwrite = true", "format = \"xresources\"\nkey = \"Lamp.shade\"\nwrite = true", "set for all programs at once"},
		{"format = \"keyfile\"\ngroup = \"Look\"\nkey = \"shade\"\nwrite = true", "format = \"gsettings\"\ngroup = \"org.other.desk\"\nkey = \"shade\"\nwrite = true", "does not bear its name"},
		{"path = \"/etc/lamp.conf\"\nformat = \"keyfile\"\ngroup = \"Look\"\nkey = \"shade\"", "format = \"env\"\nkey = \"API_TOKEN\"", "the variable API_TOKEN"},
		// Words that a program could take for a command, or a path.
		{`"Dim 2"`, `"!reboot"`, `it would write "!reboot"`},
		{`"Dim 2"`, `"/tmp/x"`, `it would write "/tmp/x"`},
		{`"Dim 2"`, `"a; b"`, `it would write "a; b"`},
		{`"Dim 2"`, `"$(b)"`, `it would write "$(b)"`},
		{`"Dim 2"`, `"a\nExec=b"`, "it would write"},
		{"format = \"keyfile\"\ngroup = \"Look\"\nkey = \"shade\"\nwrite = true", "format = \"lines\"\nkey = \"shade\"\nlike = \"shade `b`\"\nwrite = true", "it would write a line like"},
		// Others' places.
		{`starts = ""`, `instead = "quayside"`, "another's bar"},
		{`starts = ""`, "[greeter]\nfolders = [\"/usr/share/sessions\"]\n[greeter.session]\npath = \"/etc/lamp.conf\"\nformat = \"keyfile\"\ngroup = \"a\"\nkey = \"b\"", "a login screen"},
		{`starts = ""`, "[sandbox]\nprograms = [\"/usr/share/lamp\"]", "a runtime of programs"},
		{`starts = ""`, "[monitors]\nfiles = [\"{config}/other/monitors.conf\"]\nat = \"place\"", "monitors"},
		{"[facet.loaded]", "[facet.lookup]\nkind = \"icon-theme\"\nfolders = [\"{data}/icons\"]\n[facet.lookup.grants]\npath = \"{config}/lamp/lamp.conf\"\nformat = \"keyfile\"\ngroup = \"a\"\nkey = \"b\"\n[facet.loaded]", "access to folders"},
		{"[facet.loaded]", "[facet.lookup]\nkind = \"theme\"\nfolders = [\"{data}/themes\"]\nown = \"{config}/other/sheet.css\"\n[facet.loaded]", "it reads {config}/other/sheet.css"},
	} {
		text := strings.Replace(lamp, c.from, c.to, 1)
		require.NotEqual(t, lamp, text, c.from)
		if strings.HasPrefix(c.to, "[") && c.from == `starts = ""` { // a table goes behind the keys
			text = strings.Replace(lamp, "[[looks]]", c.to+"\n[[looks]]", 1)
		}
		_, err := desk.ParseCame([]byte(text), d)
		require.Error(t, err, c.to)
		require.True(t, errors.Is(err, desk.ErrOverreach) || errors.Is(err, desk.ErrDescriptor), c.to)
		require.ErrorContains(t, err, c.says, c.to)
	}

	// Variables that move the folders of the home do not move what is Ivelt's, nor the rule.
	moved := &desk.Desk{HomePath: "/home/me", Env: map[string]string{"XDG_CONFIG_HOME": "/home/me/cfg"}}
	_, err = desk.ParseCame([]byte(lamp), moved)
	require.NoError(t, err)
	_, err = desk.ParseCame([]byte(strings.Replace(lamp, own, `path = "~/cfg/ivelt/lamp"`, 1)), moved)
	require.ErrorIs(t, err, desk.ErrOverreach)
	_, err = desk.ParseCame([]byte(strings.Replace(lamp, `path = "/etc/lamp.conf"`, `path = "{config}/lamp/{icons}.conf"`, 1)+"[[facet]]\nname = \"icons\"\n[[facet.source]]\npath = \"{config}/lamp/lamp.conf\"\nformat = \"keyfile\"\ngroup = \"a\"\nkey = \"b\"\n"), d)
	require.NoError(t, err, "a facet's value behind its own name")

	// In words.
	var says []string
	for _, m := range s.Reach().Says(d) {
		says = append(says, m.String())
	}
	require.Equal(t, []string{
		"It would read ~/.config/lamp/lamp.conf, /etc/lamp.conf, ~/.local/state/lamp/session, /usr/bin/lamp, ~/.local/bin/lamp.",
		"It would look for pieces in ~/.local/share/icons, ~/.icons, /usr/local/share/icons, /usr/share/icons, ~/.local/share/lamp/icons.",
		"A plan would write into ~/.config/lamp/lamp.conf: shade as “Look shade”.",
	}, says)
}

// TestWhatOneFromOthersStarts is told, and left out until the person allows it: the program
// itself, facets that act, and keys whose names say that they are run.
func TestWhatOneFromOthersStarts(t *testing.T) {
	text := strings.Replace(lamp, `starts = ""`, `starts = "/usr/bin/lamp --quiet"`, 1) + `[[facet]]
name = "menu-icon"
[[facet.source]]
path = "{config}/lamp/lamp.conf"
format = "keyfile"
group = "Look"
key = "onClickCommand"
write = true
[[facet]]
name = "start"
[[facet.source]]
path = "{config}/lamp/lamp.conf"
format = "keyfile"
group = "Look"
key = "first"
write = true
[facet.lookup]
kind = "program"
`
	home := t.TempDir()
	system := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(system, "usr/bin"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(system, "usr/bin/lamp"), nil, 0o755))
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(nil)
	put := func(at, text string) {
		t.Helper()
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(home, at)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(home, at), []byte(text), 0o644))
	}
	folder, pin := ".config/ivelt/surfaces/lamp/lamp.toml", ".config/ivelt/surfaces/lamp.pin"
	told := func() string { return errors.Join(d.OwnSurfaces()...).Error() }

	put(folder, text)
	require.Contains(t, told(), "you have not installed it")
	put(pin, string(desk.PinOf([]byte(lamp), false).Bytes()))
	require.Contains(t, told(), "not the one that you installed")
	put(pin, "sha256 = 5")
	require.Contains(t, told(), "its pin ~/.config/ivelt/surfaces/lamp.pin: line 1")
	put(pin, string(desk.PinOf([]byte(text), false).Bytes()))
	require.Empty(t, d.OwnSurfaces())
	s, ok := d.Surface("lamp")
	require.True(t, ok)
	require.NotNil(t, s.Came)
	require.Empty(t, s.Starts)
	writes := func(s desk.Surface) (out []string) {
		for _, w := range s.Reach().Writes {
			out = append(out, w.Facet)
		}
		return out
	}
	require.Equal(t, []string{"dark"}, writes(s))
	require.Contains(t, s.Cannot["menu-icon"], "ivelt surface allow lamp")
	require.True(t, d.Acts("menu-icon"), "an outfit does not take it along")
	require.True(t, d.MayWrite(s, "/home/me/.config/lamp/x"))
	for _, p := range []string{"/etc/lamp.conf", "/home/me/.config/autostart/lamp.desktop", "/home/me/.config/ivelt/lamp", "/home/me/lamp", desk.OfSetting("/org/other/shade")} {
		require.False(t, d.MayWrite(s, p), p)
	}

	put(pin, string(desk.PinOf([]byte(text), true).Bytes()))
	require.Empty(t, d.OwnSurfaces())
	s, _ = d.Surface("lamp")
	require.Equal(t, "/usr/bin/lamp --quiet", s.Starts)
	require.Equal(t, []string{"dark", "menu-icon", "start"}, writes(s))
	require.True(t, d.MayWrite(s, "/home/me/.config/autostart/lamp.desktop"))
	require.False(t, d.MayWrite(s, "/home/me/.config/autostart/other.desktop"))

	// A name that is taken, another's folder, and one that reaches too far, pinned or not.
	put(".config/ivelt/surfaces/mine.toml", strings.Replace(lamp, "Lamp", "My lamp", 1))
	require.Contains(t, told(), "there is a surface of that name already")
	s, _ = d.Surface("lamp")
	require.Equal(t, "My lamp", s.Title)
	require.NoError(t, os.Remove(filepath.Join(home, ".config/ivelt/surfaces/mine.toml")))
	require.Empty(t, d.OwnSurfaces(), "it may be read again")
	put(".config/ivelt/surfaces/torch/torch.toml", lamp)
	put(".config/ivelt/surfaces/torch.pin", string(desk.PinOf([]byte(lamp), true).Bytes()))
	require.Contains(t, told(), "it is of lamp, and lies in the folder of torch")
	far := strings.Replace(strings.Replace(lamp, `"lamp"`, `"torch"`, 1), "{config}/lamp/lamp.conf", "/etc/torch", 1)
	put(".config/ivelt/surfaces/torch/torch.toml", far)
	put(".config/ivelt/surfaces/torch.pin", string(desk.PinOf([]byte(far), true).Bytes()))
	require.Contains(t, told(), "it reaches too far")
	_, ok = d.Surface("torch")
	require.False(t, ok)
	require.Len(t, d.Broken(), 1)
	require.NoError(t, os.Remove(filepath.Join(system, "usr/bin/lamp")))
	d.OwnSurfaces()
	_, ok = d.Surface("lamp")
	require.False(t, ok, "the program is not here")
	require.NoError(t, os.RemoveAll(filepath.Join(home, ".config/ivelt")))
	require.Empty(t, d.OwnSurfaces())
	require.Empty(t, d.Surfaces(), "what is gone is no surface any more")
}
