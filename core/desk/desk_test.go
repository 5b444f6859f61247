package desk_test

import (
	"errors"
	"fmt"
	"image"
	"io/fs"
	"math/rand/v2"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
)

func put(t *testing.T, name, text string) {
	t.Helper()
	require.NoError(t, os.MkdirAll(filepath.Dir(name), 0o755))
	require.NoError(t, os.WriteFile(name, []byte(text), 0o644))
}

func link(t *testing.T, to, name string) {
	t.Helper()
	require.NoError(t, os.MkdirAll(filepath.Dir(name), 0o755))
	require.NoError(t, os.Symlink(to, name))
}

func newDesk(t *testing.T) *desk.Desk {
	t.Helper()
	home, system := filepath.Join(t.TempDir(), "h"), filepath.Join(t.TempDir(), "s")
	put(t, filepath.Join(home, ".config/app.conf"), "mine")
	put(t, filepath.Join(system, "usr/share/app.conf"), "the system's")
	require.NoError(t, os.MkdirAll(filepath.Join(system, "home/mara"), 0o755))
	d, err := desk.Open("d", home, system, "/home/mara")
	require.NoError(t, err)
	return d
}

func TestTreeIsATree(t *testing.T) {
	d := newDesk(t)
	link(t, "app.conf", filepath.Join(d.Home, ".config/linked.conf"))
	link(t, "/usr/share", filepath.Join(d.Home, "share"))
	require.NoError(t, fstest.TestFS(d.Tree(), "home/mara/.config/app.conf", "home/mara/.config/linked.conf", "usr/share/app.conf"))
	m := desk.Mounted{FS: d.Tree(), At: "usr/share/more", Inner: fstest.MapFS{"Pack/index.theme": {Data: []byte("x")}}}
	b, err := fs.ReadFile(m, "usr/share/more/Pack/index.theme")
	require.NoError(t, err)
	require.Equal(t, "x", string(b))
	b, err = fs.ReadFile(m, "usr/share/app.conf")
	require.NoError(t, err)
	require.Equal(t, "the system's", string(b))
}

// TestLinksStayInsideTheDesk: no link of a desk shows a file of the machine
// Ivelt runs on.
func TestLinksStayInsideTheDesk(t *testing.T) {
	d := newDesk(t)
	outside := filepath.Join(t.TempDir(), "secret")
	put(t, outside, "secret")
	home := func(name string) string { return filepath.Join(d.Home, name) }
	link(t, "/usr/share/app.conf", home("absolute"))
	link(t, "/home/mara/.config/app.conf", home("to-home"))
	link(t, "../../usr/share/app.conf", home("relative"))
	link(t, "../../../../../../../usr/share/app.conf", home("climbing"))
	link(t, "/usr/share", home("folder"))
	link(t, "folder/app.conf", home("through"))
	link(t, outside, home("out"))
	link(t, filepath.Join("../../../../../../..", outside), home("out-by-climbing"))
	link(t, "two", home("one"))
	link(t, "one", home("two"))
	link(t, "nothing", home("dangling"))
	link(t, "/home/mara/.config", filepath.Join(d.System, "etc/back"))
	for name, want := range map[string]string{
		"home/mara/absolute": "the system's", "home/mara/to-home": "mine", "home/mara/relative": "the system's", "home/mara/climbing": "the system's",
		"home/mara/folder/app.conf": "the system's", "home/mara/through": "the system's", "etc/back/app.conf": "mine",
	} {
		b, err := fs.ReadFile(d.Tree(), name)
		require.NoError(t, err, name)
		require.Equal(t, want, string(b), name)
	}
	for _, name := range []string{"out", "out-by-climbing", "one", "dangling"} {
		_, err := fs.ReadFile(d.Tree(), "home/mara/"+name)
		require.Error(t, err, name)
	}
	at, err := d.Tree().Resolve("home/mara/through")
	require.NoError(t, err)
	require.Equal(t, "usr/share/app.conf", at)
	at, err = d.Tree().Resolve("home/mara/folder/new/file")
	require.NoError(t, err, "what is missing may be made")
	require.Equal(t, "usr/share/new/file", at)
	require.Equal(t, filepath.Join(d.System, "usr/share/app.conf"), d.HostPath("/usr/share/app.conf"))
	require.Equal(t, filepath.Join(d.Home, ".config"), d.HostPath("/home/mara/.config"))
}

// TestExpandFollowsTheBaseDirectorySpecification (freedesktop.org, 0.8).
func TestExpandFollowsTheBaseDirectorySpecification(t *testing.T) {
	d := newDesk(t)
	require.Equal(t, []string{"/home/mara/.local/share/icons"}, d.Expand("{data}/icons"))
	require.Equal(t, []string{"/home/mara/.icons"}, d.Expand("~/.icons"))
	require.Equal(t, []string{"/usr/local/share/icons", "/usr/share/icons"}, d.Expand("{data-dirs}/icons"))
	require.Equal(t, []string{"/etc/xdg/a"}, d.Expand("{config-dirs}/a"))
	require.Equal(t, []string{"/etc/a"}, d.Expand("/etc/a"))
	require.Empty(t, d.Expand("{nowhere}/a"))
	d.Env = map[string]string{"XDG_DATA_HOME": "/data", "XDG_CONFIG_HOME": "relative", "XDG_DATA_DIRS": "/one:two:/three", "XDG_CONFIG_DIRS": "/x:/y"}
	require.Equal(t, []string{"/data/icons"}, d.Expand("{data}/icons"))
	require.Equal(t, []string{"/home/mara/.config/a"}, d.Expand("{config}/a"), "a relative path is ignored")
	require.Equal(t, []string{"/one/icons", "/three/icons"}, d.Expand("{data-dirs}/icons"))
	require.Equal(t, []string{"/y/a", "/x/a"}, d.Expand("{config-dirs-last-first}/a"))
	require.Equal(t, "~/.config/a", d.Show("/home/mara/.config/a"))
	require.Equal(t, "/home/maran", d.Show("/home/maran"))
}

func TestDescriptors(t *testing.T) {
	require.Equal(t, 9, len(desk.Builtin()))
	for text, says := range map[string]string{
		"id = ":                 "surface descriptor",
		"id = 'x'\ntitle = 'X'": "has neither a facet nor a folder",
		"title = 'X'":           "id and title",
		"id='x'\ntitle='X'\n[[facet]]\nname='icons'\nkey='k'":                          "it has a key and no source",
		"id='x'\ntitle='X'\n[[facet]]\nname='bars'\nlimits={edges=['up']}":             "there is no edge \"up\"",
		"id='x'\ntitle='X'\n[[facet]]\nname='bars'\nlimits={items=['hat']}":            "there is no item \"hat\"",
		"id='x'\ntitle='X'\n[[facet]]\nname='tiles'\nlimits={ways=['heap']}":           "windows do not lie by \"heap\"",
		"id='x'\ntitle='X'\n[[facet]]\nname='bars'\nlimits={thinnest=9,thickest=3}":    "no bar is from 9 to 3 px thick",
		"id='x'\ntitle='X'\n[[facet]]\nname='icons'\nlimits={bars=2}":                  "no layout that could have limits",
		"id='x'\ntitle='X'\n[[facet]]\nname='icons'\n[[facet.source]]\nformat='sheet'": "format \"sheet\" is not known",
		"id='x'\ntitle='X'\n[[facet]]\nname='icons'\n[facet.lookup]\nkind='magic'":     "lookup kind \"magic\" is not known",
	} {
		_, err := desk.ParseSurface([]byte(text))
		require.ErrorIs(t, err, desk.ErrDescriptor)
		require.ErrorContains(t, err, says)
	}
}

// TestDescriptorsOfLocks: what one says of a system under a lock names places on the desk and groups of
// key files, versions that can be compared, and lines that are safe to type.
func TestDescriptorsOfLocks(t *testing.T) {
	group := func(key string) string { return "{path='/v/f', format='keyfile', group='G', key='" + key + "'}" }
	whole := "id='x'\ntitle='X'\n[[facet]]\nname='accent'\nsource=[" + group("a") + "]\n[lock]\nrelease=" + group("r") + "\nvendor='/v/key'\nsignature='/v/{look}.sig'\ncard='/v/{look}.card'\nagain='vessel start'\n" +
		"[[lock.unlock]]\nname='ring'\ntitle='Ring'\nversions='>= 4, < 5'\nkey=" + group("k") + "\n[lock.watchman]\ntitle='W'\non=" + group("o") + "\nknown=" + group("") + "\nvendor=" + group("") + "\naside=" + group("") + "\nbelow=['/v']\n" +
		"[lock.marks]\nfolder='/v/marks'\nfile='m.conf'\narchive='m.tar'\nreturn='vessel return {mark}'\n[lock.shown]\n"
	for _, key := range []string{"accepts", "refused", "black", "why", "release"} {
		whole += key + "=" + group(key) + "\n"
	}
	s, err := desk.ParseSurface([]byte(whole))
	require.NoError(t, err)
	for release, ok := range map[string]bool{"4.0.0": true, "4.9.12": true, "5.0.0": false, "3.9.9": false, "4.1": false, "4.1.0-rc.1": false, "": false} {
		_, has := s.Lock.Method(release)
		require.Equal(t, ok, has, release)
	}
	for from, to := range map[string]string{
		"vendor='/v/key'": "vendor='key'", "signature='/v/{look}.sig'": "signature='../{look}'", ">= 4, < 5": "some", "name='ring'": "name=''", "below=['/v']": "below=['v']",
		"again='vessel start'": "again='vessel start; rm -r /'", "return='vessel return {mark}'": "return='vessel $(return) {mark}'", "file='m.conf'": "file='/etc/m.conf'", "archive='m.tar'": "archive='../m.tar'",
		"key=" + group("k"): "key={path='/v/f', format='json', group='G', key='k'}", "known=" + group(""): "known={path='/v/f', format='keyfile'}",
	} {
		require.Contains(t, whole, from)
		_, err := desk.ParseSurface([]byte(strings.Replace(whole, from, to, 1)))
		require.ErrorIs(t, err, desk.ErrDescriptor, to)
	}
	places := "id='x'\ntitle='X'\n[[facet]]\nname='icons'\n[facet.lookup]\nkind='places'\nfolders=['~/m']\nfrom=['~/.icons']\n[facet.places]\nfile='~/p'\nmade='~/m'\nsize=64\n[facet.places.folders]\ngroup='F'\nicons={'~/Music'='folder-music'}\n"
	_, err = desk.ParseSurface([]byte(places))
	require.NoError(t, err)
	for from, to := range map[string]string{"size=64": "size=4", "file='~/p'": "file='p'", "'~/Music'": "'/../x'", "'folder-music'": "'../x'", "kind='places'": "kind='theme'", "group='F'": "group=''", "from=['~/.icons']": "from=['x']"} {
		require.Contains(t, places, from)
		_, err := desk.ParseSurface([]byte(strings.Replace(places, from, to, 1)))
		require.ErrorIs(t, err, desk.ErrDescriptor, to)
	}
	for _, more := range []string{"instead='No such'", "needs={of={path='/v', format='toml', group='a', key='b'}, range=" + group("r") + "}", "needs={of=" + group("r") + ", range=" + group("") + "}"} {
		_, err := desk.ParseSurface([]byte("id='x'\ntitle='X'\n" + more + "\n[[facet]]\nname='accent'\nsource=[" + group("a") + "]\n"))
		require.ErrorIs(t, err, desk.ErrDescriptor, more)
	}
}

func TestOpenNamesTheFolder(t *testing.T) {
	_, err := desk.Open("d", filepath.Join(t.TempDir(), "none"), "", "")
	require.ErrorIs(t, err, desk.ErrFolder)
	require.ErrorContains(t, err, "none")
	system := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(system, "users/ines"), 0o755))
	d, err := desk.Open("d", filepath.Join(system, "users/ines"), system, "")
	require.NoError(t, err)
	require.Equal(t, "/users/ines", d.HomePath)
}

// TestPackagesAndMonitors: plain text as dpkg-query(1), apt's lists and the
// kernel write it; a package that was removed but left its settings does not
// count.
func TestPackagesAndMonitors(t *testing.T) {
	d := newDesk(t)
	require.Empty(t, d.Monitors())
	require.Empty(t, d.Packages())
	put(t, filepath.Join(d.System, "var/lib/dpkg/status"), "Package: oar-cursor-theme\nStatus: install ok installed\nVersion: 1.0\nDescription: oars\n Package: not this\n\nPackage: gone-icon-theme\nStatus: deinstall ok config-files\nVersion: 3\n")
	first := d.PackageStamp()
	put(t, filepath.Join(d.System, "var/lib/apt/lists/a_b_Packages"), "Package: oar-cursor-theme\nVersion: 1.1\n\nPackage: fonts-deep-sea\nVersion: 2\n\nPackage: kelp\nVersion: 7")
	require.NotEqual(t, first, d.PackageStamp())
	p := d.Packages()
	require.Equal(t, desk.Packages{
		"oar-cursor-theme": {Name: "oar-cursor-theme", Version: "1.1", Installed: true, Has: "1.0"},
		"fonts-deep-sea":   {Name: "fonts-deep-sea", Version: "2"},
		"kelp":             {Name: "kelp", Version: "7"},
	}, p)
	for _, c := range []struct{ kind, name, called, want string }{
		{"pointer", "Oar", "", "oar-cursor-theme"}, {"icons", "Oar", "", ""}, {"font", "Deep Sea", "", "fonts-deep-sea"},
		{"theme", "Kelp", "", ""}, {"theme", "Forest", "kelp", "kelp"}, {"icons", "Gone", "", ""}, {"icons", "海", "", ""},
	} {
		got, ok := p.Find(c.kind, c.name, c.called)
		require.Equal(t, c.want, got.Name, c)
		require.Equal(t, c.want != "", ok, c)
	}

	socket := func(name, status, modes string) {
		put(t, filepath.Join(d.System, "sys/devices/pci/drm/card1", name, "status"), status)
		put(t, filepath.Join(d.System, "sys/devices/pci/drm/card1", name, "modes"), modes)
		link(t, "../../devices/pci/drm/card1/"+name, filepath.Join(d.System, "sys/class/drm", name))
	}
	socket("card1-eDP-1", "connected\n", "1920x1200\n1280x800\n")
	socket("card1-HDMI-A-1", "disconnected\n", "")
	socket("card1-DP-1", "connected\n", "")
	socket("card1-DP-2", "connected\n", "3440x1440i\n")
	require.Equal(t, []desk.Monitor{{Name: "DP-2", Width: 3440, Height: 1440}, {Name: "eDP-1", Width: 1920, Height: 1200, At: image.Pt(3440, 0)}}, d.Monitors())
}

// TestMonitorsStandAsTheyAreSaidTo: turned, scaled and placed as a shell's files say, those of whom
// nothing is said to the right of the others; the display of a session on X knows better.
func TestMonitorsStandAsTheyAreSaidTo(t *testing.T) {
	d := newDesk(t)
	for name, mode := range map[string]string{"DP-1": "2560x1440", "DP-2": "1920x1080", "eDP-1": "1366x768"} {
		put(t, filepath.Join(d.System, "sys/class/drm/card0-"+name, "status"), "connected\n")
		put(t, filepath.Join(d.System, "sys/class/drm/card0-"+name, "modes"), mode+"\n")
	}
	shell, err := desk.ParseSurface([]byte("id = \"awning\"\ntitle = \"Awning\"\nkind = \"shell\"\n[[looks]]\nkind = \"theme\"\nfolders = [\"{data}/themes\"]\n[monitors]\nfiles = [\"/etc/awning.conf\", \"{config}/awning.conf\"]\nat = \"at\"\nturned = \"turned\"\nturns = { right = 1, over = 2, left = 3 }\nscale = \"scale\"\n"))
	require.NoError(t, err)
	d.SetSurfaces([]desk.Surface{shell})
	put(t, filepath.Join(d.System, "etc/awning.conf"), "[DP-1]\nat=1080 200\nscale=2\n[DP-2]\nat=9 9\nturned=right\n")
	put(t, filepath.Join(d.Home, ".config/awning.conf"), "[DP-2]\nat=0,-40\nturned=left\nscale=9\n[eDP-1]\nat=many 7\nturned=sideways\nscale=nan\n[HDMI-1]\nat=0 0\n")
	want := []desk.Monitor{
		{Name: "DP-1", Width: 2560, Height: 1440, At: image.Pt(1080, 200), Scale: 200},
		{Name: "DP-2", Width: 1080, Height: 1920, At: image.Pt(0, -40), Turned: 3},
		{Name: "eDP-1", Width: 1366, Height: 768, At: image.Pt(3640, 0)},
	}
	require.Equal(t, want, d.Monitors())
	require.Equal(t, []string{"at 200 %", "turned to the left", ""}, []string{want[0].Says().String(), want[1].Says().String(), want[2].Says().String()})
	require.Equal(t, []int{68, 34}, []int{want[0].Scaled(34), want[1].Scaled(34)})
	told := []desk.Monitor{{Name: "DP-1", Width: 800, Height: 600, Turned: 2}}
	d.Running = func() desk.Session { return desk.Session{Monitors: told} }
	require.Equal(t, told, d.Monitors())
	d.Env = map[string]string{"WAYLAND_DISPLAY": "wayland-0"} // whose display for X may tell of others
	require.Equal(t, want, d.Monitors())
	_, err = desk.ParseSurface([]byte("id = \"awning\"\ntitle = \"Awning\"\nkind = \"shell\"\n[[looks]]\nkind = \"theme\"\nfolders = [\"{data}/themes\"]\n[monitors]\nfiles = [\"awning.conf\"]\n"))
	require.Error(t, err)
}

// TestLayersLieUnderTheHome: what the home has comes first, what it has not is
// found in the layers, and folders of both are listed as one.
func TestLayersLieUnderTheHome(t *testing.T) {
	home, system, one, two := t.TempDir(), t.TempDir(), t.TempDir(), t.TempDir()
	for name, text := range map[string]string{
		home + "/.icons/A/x": "home", one + "/.icons/A/x": "one", one + "/.icons/A/y": "one", one + "/.icons/B/x": "one", two + "/.icons/B/x": "two", two + "/.themes/T/gtk.css": "two",
		system + "/home/me/.icons/C/x": "never seen",
	} {
		require.NoError(t, os.MkdirAll(filepath.Dir(name), 0o755))
		require.NoError(t, os.WriteFile(name, []byte(text), 0o644))
	}
	require.NoError(t, os.Symlink("../.icons/B", filepath.Join(one, "link")))
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	plain := *d
	d.Layers = []string{one, two}
	for name, want := range map[string]string{".icons/A/x": "home", ".icons/A/y": "one", ".icons/B/x": "one", ".themes/T/gtk.css": "two"} {
		b, err := fs.ReadFile(d.Tree(), "home/me/"+name)
		require.NoError(t, err, name)
		require.Equal(t, want, string(b), name)
	}
	list := func(d *desk.Desk, dir string) (names []string) {
		entries, err := fs.ReadDir(d.Tree(), dir)
		require.NoError(t, err)
		for _, e := range entries {
			names = append(names, e.Name())
		}
		return names
	}
	require.Equal(t, []string{"A", "B"}, list(d, "home/me/.icons"))
	require.Equal(t, []string{"x", "y"}, list(d, "home/me/.icons/A"))
	require.Equal(t, []string{".icons", ".themes", "link"}, list(d, "home/me"))
	require.Equal(t, []string{"A"}, list(&plain, "home/me/.icons"))
	require.False(t, plain.Exists("/home/me/.themes"))
}

// TestVariables: environment.d(5) and pam_env(8) as their manuals say; of scripts
// only what is plain.
func TestVariables(t *testing.T) {
	home, system := t.TempDir(), t.TempDir()
	for name, text := range map[string]string{
		system + "/etc/environment": "ONE=etc\nexport TWO=\"with blanks\"\n# ONE=no\n", system + "/usr/lib/environment.d/50-a.conf": "ONE=lib\nTHREE=lib\n",
		home + "/.config/environment.d/50-a.conf": "THREE=mine\n", home + "/.config/environment.d/90-z.conf": "FOUR=z\n",
		home + "/.profile": "export FOUR='p' \nFIVE=$HOME/x\nSIX=`date`\n[ -n \"$X\" ] && SEVEN=1\nEIGHT=8 # said twice\n",
	} {
		require.NoError(t, os.MkdirAll(filepath.Dir(name), 0o755))
		require.NoError(t, os.WriteFile(name, []byte(text), 0o644))
	}
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	for name, want := range map[string]desk.Variable{
		"ONE": {Name: "ONE", Value: "etc", File: "/etc/environment", Line: 1}, "TWO": {Name: "TWO", Value: "with blanks", File: "/etc/environment", Line: 2},
		"THREE": {Name: "THREE", Value: "mine", File: "/home/me/.config/environment.d/50-a.conf", Line: 1}, "FOUR": {Name: "FOUR", Value: "p", File: "/home/me/.profile", Line: 1},
		"EIGHT": {Name: "EIGHT", Value: "8", File: "/home/me/.profile", Line: 5}, "FIVE": {}, "SIX": {}, "SEVEN": {},
	} {
		got, ok := d.Var(name)
		require.Equal(t, want, got, name)
		require.Equal(t, want != desk.Variable{}, ok, name)
	}
	d.Env = map[string]string{"ONE": "live", "FOUR": "p"}
	one, _ := d.Var("ONE")
	require.Equal(t, desk.Variable{Name: "ONE", Value: "live"}, one, "what the session has counts; no file says so")
	four, _ := d.Var("FOUR")
	require.Equal(t, "/home/me/.profile", four.File, "the file that says so is found")
}

// TestAPersonsOwnDescriptors join in, take the place of another of their ID, and
// are told where they cannot be used.
func TestAPersonsOwnDescriptors(t *testing.T) {
	home := t.TempDir()
	dir := filepath.Join(home, ".config/ivelt/surfaces")
	require.NoError(t, os.MkdirAll(dir, 0o755))
	for name, text := range map[string]string{
		"a.toml": "id='pier'\ntitle='Pier'\nkind='shell'\n[[facet]]\nname='icons'\n[[facet.source]]\npath='~/.pier'\nformat='keyfile'\ngroup='G'\nkey='k'\nwrite=true\n",
		"b.toml": "id='gtk3'\ntitle='Mine'\n[cannot]\ndark='it is mine'\n", "c.toml": "id='x'\ntitle='X'\n[[facet]]\nname='icons'\ncolour='red'\n", "d.toml": "id=\n",
		"e.toml": "id='y'\ntitle='Y'\n[[facet]]\nname='hats'\n", "f.txt": "not one",
	} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
	}
	d, err := desk.Open("d", home, t.TempDir(), "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	var said []string
	for _, err := range d.OwnSurfaces() {
		require.ErrorIs(t, err, desk.ErrDescriptor)
		said = append(said, err.Error())
	}
	require.Equal(t, []string{
		"~/.config/ivelt/surfaces/c.toml: surface descriptor: line 5: facet.colour is nothing a descriptor says",
		"~/.config/ivelt/surfaces/d.toml: surface descriptor: line 1: toml: unexpected character U+000A at start of value",
		`~/.config/ivelt/surfaces/e.toml: surface descriptor: y: facet hats: it is not known`,
	}, said)
	pier, ok := d.Surface("pier")
	require.True(t, ok)
	require.Equal(t, "~/.pier", pier.Facets[0].Sources[0].Path)
	mine, _ := d.Surface("gtk3")
	require.Equal(t, "Mine", mine.Title)
	require.Len(t, d.Surfaces(), len(desk.Builtin())+1)
}

// TestAFrontLiesOverTheDesk: what is laid over it is there in its stead, and what is gone is
// not; the desk itself stays as it is.
func TestAFrontLiesOverTheDesk(t *testing.T) {
	d := newDesk(t)
	put(t, filepath.Join(d.System, "usr/share/old/a"), "old")
	put(t, filepath.Join(d.System, "usr/share/both/b"), "behind")
	front := t.TempDir()
	put(t, filepath.Join(front, "usr/share/app.conf"), "laid over")
	put(t, filepath.Join(front, "usr/share/both/c"), "new")
	laid := d.Laid(front, []string{"usr/share/old"})
	for name, want := range map[string]string{"usr/share/app.conf": "laid over", "usr/share/both/b": "behind", "usr/share/both/c": "new", "home/mara/.config/app.conf": "mine"} {
		b, err := fs.ReadFile(laid.Tree(), name)
		require.NoError(t, err, name)
		require.Equal(t, want, string(b), name)
	}
	require.False(t, laid.Exists("/usr/share/old/a"))
	require.True(t, d.Exists("/usr/share/old/a"))
	var names []string
	list, err := fs.ReadDir(laid.Tree(), "usr/share")
	require.NoError(t, err)
	for _, e := range list {
		names = append(names, e.Name())
	}
	require.Equal(t, []string{"app.conf", "both"}, names)
	at, err := laid.Tree().Host("usr/share/app.conf")
	require.NoError(t, err)
	require.Equal(t, filepath.Join(front, "usr/share/app.conf"), at)
}

// TestASnapshotRemembers what it read and found out; the desk reads anew.
func TestASnapshotRemembers(t *testing.T) {
	d := newDesk(t)
	link(t, "app.conf", filepath.Join(d.System, "usr/share/linked.conf"))
	now := d.Snapshot()
	require.Same(t, now, now.Snapshot())
	found := 0
	find := func() int { found++; return found }
	read := func(d *desk.Desk) string {
		b, err := fs.ReadFile(d.Tree(), "usr/share/linked.conf")
		require.NoError(t, err)
		return string(b)
	}
	require.Equal(t, "the system's", read(now))
	require.Equal(t, []int{1, 1}, []int{desk.Once(now, "x", find), desk.Once(now, "x", find)})
	put(t, filepath.Join(d.System, "usr/share/app.conf"), "changed")
	require.Equal(t, "the system's", read(now))
	require.Equal(t, "changed", read(d))
	require.Equal(t, 2, desk.Once(d, "x", find))
	require.Equal(t, 3, desk.Once(d, "x", find))
	to, err := d.Tree().ReadLink("usr/share/linked.conf")
	require.NoError(t, err)
	require.Equal(t, "app.conf", to)
}

// TestWhatFacetsTake, each in its own form, and what the others say.
func TestWhatFacetsTake(t *testing.T) {
	for _, c := range []struct{ facet, good, bad, says string }{
		{desk.FacetDark, "dark", "dim", "one of"}, {desk.FacetAccent, "#2f7f8c", "teal", "#rrggbb"}, {desk.FacetButtons, "menu:close", "close", "before a colon"},
		{desk.FacetPointerSize, "32", "4000", "a number from"}, {desk.FacetBackdrop, "/a.png", "a.png", "full path"}, {desk.FacetFont, "Sans 10", "Sans", "size in points"},
		{desk.FacetStart, "/usr/bin/x -a", "/usr/bin/x; y", "no shell's words"}, {desk.FacetIcons, "Reef", "../Reef", "name of a piece"},
	} {
		info, ok := desk.FacetOf(c.facet)
		require.True(t, ok, c.facet)
		require.NoError(t, info.Accepts(c.good), c.facet)
		require.ErrorContains(t, info.Accepts(c.bad), c.says, c.facet)
	}
	_, ok := desk.FacetOf("tides")
	require.False(t, ok)
	require.EqualValues(t, "tides", desk.FacetTitle("tides"))
	for value, want := range map[string]struct {
		family string
		size   float64
	}{"Estuary Sans Bold 10.5": {"Estuary Sans Bold", 10.5}, "Sans, 9": {"Sans", 9}, "Sans": {"Sans", 0}, "": {}, "Sans 1e9": {"Sans 1e9", 0}} {
		family, size := desk.SplitFont(value)
		require.Equal(t, want.family, family, value)
		require.InDelta(t, want.size, size, 0, value)
	}
}

// TestWhatActs is what a facet does, or what a descriptor says of it, in words.
func TestWhatActs(t *testing.T) {
	d := newDesk(t)
	d.SetSurfaces([]desk.Surface{
		{ID: "shell", Title: "Shell", Present: []string{"/usr/bin/shell*"}, Facets: []desk.Facet{{Name: desk.FacetIcons, Acts: true, Lookup: desk.Lookup{Folders: []string{"{data}/icons"}}}}, Parts: []desk.Part{{Folder: "shell"}}},
		{ID: "gtk", Title: "GTK programs", Looks: []desk.Look{{Kind: "font", Folders: []string{"{data}/fonts", "{data}/fonts", "/usr/share/fonts"}, Sealed: true}}},
	})
	require.True(t, d.Acts(desk.FacetStart))
	require.True(t, d.Acts(desk.FacetIcons))
	require.False(t, d.Acts(desk.FacetFont))
	require.Contains(t, desk.Doing(desk.FacetStart, "/bin/kelp").String(), "starts /bin/kelp")
	require.Contains(t, desk.Doing(desk.FacetSession, "reef").String(), "gets the session reef")
	require.Contains(t, desk.Doing(desk.FacetSignIn, desk.ByItself).String(), "needs no password")
	require.NotContains(t, desk.Doing(desk.FacetSignIn, "asked").String(), "nobody")
	require.Contains(t, desk.Doing(desk.FacetIcons, "Reef").String(), "icons becomes Reef")

	require.Equal(t, []desk.Part{{Folder: "shell"}}, d.Parts())
	shell, gtk := d.Surfaces()[0], d.Surfaces()[1]
	folders, sealed := gtk.Look("font")
	require.True(t, sealed)
	require.Equal(t, []string{"home/mara/.local/share/fonts", "usr/share/fonts"}, d.Folders(folders))
	require.Equal(t, []string{"{data}/icons"}, shell.LooksIn("icons"))
	require.Empty(t, gtk.LooksIn("icons"))
	require.Equal(t, "Shell looks", shell.Does("look", "looks").String())
	require.Equal(t, "GTK programs look", gtk.Does("look", "looks").String())
	require.Len(t, d.Present(d.Surfaces()), 1, "the shell is not on the desk")
	put(t, filepath.Join(d.System, "usr/bin/shell-2"), "")
	require.Len(t, d.Present(d.Surfaces()), 2)
	require.True(t, d.Mine("/home/mara/x"))
	require.False(t, d.Mine("/home/marassa/x"))
	put(t, filepath.Join(d.System, "var/lib/dpkg/info/shell:amd64.list"), "/usr\n/usr/bin/shell-2\n")
	require.Equal(t, "shell", d.Owner("/usr/bin/shell-2"))
	require.Empty(t, d.Owner("/usr/bin/other"))
}

// TestWhereADeskDraws: the toolkit's own variable, then the compositor's, then the session's.
func TestWhereADeskDraws(t *testing.T) {
	d := newDesk(t)
	for _, c := range []struct {
		env  map[string]string
		want string
	}{
		{nil, "x11"}, {map[string]string{"XDG_SESSION_TYPE": "wayland"}, "wayland"}, {map[string]string{"WAYLAND_DISPLAY": "wayland-0"}, "wayland"},
		{map[string]string{"WAYLAND_DISPLAY": "wayland-0", "GDK_BACKEND": "broadway,x11"}, "x11"}, {map[string]string{"GDK_BACKEND": "*", "XDG_SESSION_TYPE": "tty"}, "x11"},
	} {
		d.Env = c.env
		require.Equal(t, c.want, d.Display(), "%v", c.env)
	}
	require.Zero(t, d.Now())
	d.Running = func() desk.Session { return desk.Session{Resources: []byte("x")} }
	require.Equal(t, "x", string(d.Now().Resources))
}

// TestMounted is one tree with another in it.
func TestMounted(t *testing.T) {
	m := desk.Mounted{FS: fstest.MapFS{"a": {Data: []byte("outer")}}, At: "icons/Reef", Inner: fstest.MapFS{"index.theme": {Data: []byte("inner")}}}
	for name, want := range map[string]string{"a": "outer", "icons/Reef/index.theme": "inner"} {
		b, err := fs.ReadFile(m, name)
		require.NoError(t, err)
		require.Equal(t, want, string(b))
		f, err := m.Open(name)
		require.NoError(t, err)
		require.NoError(t, f.Close())
		info, err := fs.Stat(m, name)
		require.NoError(t, err)
		require.EqualValues(t, len(want), info.Size())
	}
	list, err := fs.ReadDir(m, "icons/Reef")
	require.NoError(t, err)
	require.Len(t, list, 1)
}

// TestASnapshotSaysWhatTheDeskSays: whatever was listed before, each name of random trees is
// for a snapshot what it is for the desk: with layers under the home, a front laid over it,
// names that are gone, and links of all kinds.
func TestASnapshotSaysWhatTheDeskSays(t *testing.T) {
	parts := []string{"a", "b", "home", "mara", "f", "l"} // f is a file, l a link, wherever it is
	asked, lacked := 0, 0
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 7))
		name := func(most int) string {
			var p []string
			for range 1 + r.IntN(most) {
				p = append(p, parts[r.IntN(len(parts))])
			}
			return strings.Join(p, "/")
		}
		roots := []string{t.TempDir(), t.TempDir(), t.TempDir(), t.TempDir()}
		for range 60 {
			at := filepath.Join(roots[r.IntN(len(roots))], strings.NewReplacer("f", "a", "l", "b").Replace(name(3)))
			require.NoError(t, os.MkdirAll(at, 0o755))
			if r.IntN(2) == 0 {
				_ = os.Symlink([]string{"/" + name(3), name(2), "../" + name(2), "/home/mara/" + name(2)}[r.IntN(4)], filepath.Join(at, "l"))
			}
			if r.IntN(2) == 0 {
				require.NoError(t, os.WriteFile(filepath.Join(at, "f"), []byte(at), 0o644))
			}
		}
		d, err := desk.Open("d", roots[0], roots[1], "/home/mara")
		require.NoError(t, err)
		d.Layers = []string{roots[2]}
		if seed%2 == 0 {
			gone := []string{name(2), name(3)}
			d = d.Laid(roots[3], slices.DeleteFunc(gone, func(n string) bool { return n == "home" || n == "home/mara" })) // no plan takes the home away
		}
		tree, now := d.Tree(), d.Snapshot().Tree()
		for range 400 {
			asked++
			switch of := name(5); r.IntN(5) {
			case 0:
				want, wanted := fs.ReadDir(tree, of)
				got, err := fs.ReadDir(now, of)
				require.Equal(t, said(want, wanted), said(got, err), "seed %d: %s listed", seed, of)
			case 1:
				want, wanted := tree.Resolve(of)
				got, err := now.Resolve(of)
				require.Equal(t, []any{want, wanted == nil}, []any{got, err == nil}, "seed %d: %s resolved", seed, of)
			case 2:
				require.Equal(t, tree.IsDir(of), now.IsDir(of), "seed %d: is %s a folder", seed, of)
			case 3:
				if now.Lacks(path.Dir(of), path.Base(of)) {
					lacked++
					_, err := tree.Lstat(of)
					require.ErrorIs(t, err, fs.ErrNotExist, "seed %d: %s", seed, of)
				}
			default:
				want, wanted := fs.ReadFile(tree, of)
				got, err := fs.ReadFile(now, of)
				require.Equal(t, []any{string(want), wanted == nil, errors.Is(wanted, fs.ErrNotExist)}, []any{string(got), err == nil, errors.Is(err, fs.ErrNotExist)}, "seed %d: %s read", seed, of)
			}
		}
	}
	require.Greater(t, lacked, asked/20)
}

// said is a list of a folder as text.
func said(list []fs.DirEntry, err error) (out []string) {
	for _, e := range list {
		out = append(out, e.Name()+" "+e.Type().String())
	}
	return append(out, fmt.Sprint(errors.Is(err, fs.ErrNotExist), err == nil))
}
