package truth

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/pointerbench"
	"ivelt/core/pointerset"
	"ivelt/core/xcursor"
)

// TestNamesAreThoseOfX: the names of X's own cursor font are those that libXcursor knows by number, and
// all that the header has (Debian: libxcursor-dev, libx11-dev).
func TestNamesAreThoseOfX(t *testing.T) {
	t.Parallel()
	font := pointerbench.FontNames()
	c := exec.CommandContext(t.Context(), build(t, "shapes", "xcursor", "libxcursor-dev"))
	c.Stdin = strings.NewReader(strings.Join(font, "\n") + "\nno_such_pointer\n")
	numbers := map[string]bool{}
	for _, line := range lines(output(t, c)) {
		name, number, _ := strings.Cut(line, " ")
		require.Equal(t, name == "no_such_pointer", number == "-1", line)
		require.False(t, numbers[number] && number != "-1", line)
		numbers[number] = true
	}
	header, err := os.ReadFile("/usr/include/X11/cursorfont.h")
	require.NoError(t, err, "make deps installs libx11-dev")
	var theirs []string
	for _, m := range regexp.MustCompile(`(?m)^#define XC_(\w+) \d+`).FindAllStringSubmatch(string(header), -1) {
		if m[1] != "num_glyphs" {
			theirs = append(theirs, m[1])
		}
	}
	slices.Sort(theirs)
	ours := slices.Clone(font)
	slices.Sort(ours)
	require.Equal(t, theirs, ours)
	t.Logf("%d names", len(ours))
}

// TestMendedPointersAreThoseOfX: a set of Debian's (dmz-cursor-theme) in which files are cut off, names
// lead nowhere, pictures have no pause and others jump. libXcursor then finds what it should, by every
// name, with the pauses and the pictures that the recipe says, and of the rest what it found before
// (Debian: libxcursor-dev).
func TestMendedPointersAreThoseOfX(t *testing.T) {
	t.Parallel()
	home, system := t.TempDir(), t.TempDir()
	set := filepath.Join(home, ".icons/Salt")
	require.NoError(t, os.CopyFS(set, os.DirFS("/usr/share/icons/DMZ-White")), "make deps installs dmz-cursor-theme")
	at := func(set, name string) string { return filepath.Join(home, ".icons", set, "cursors", name) }
	rewrite := func(name string, change func([]byte) []byte) {
		raw, err := os.ReadFile(at("Salt", name))
		require.NoError(t, err)
		require.NoError(t, os.Remove(at("Salt", name)))
		require.NoError(t, os.WriteFile(at("Salt", name), change(raw), 0o644))
	}
	rewrite("xterm", func(b []byte) []byte { return b[:700] })
	rewrite("pirate", func([]byte) []byte { return []byte("arr") })
	require.NoError(t, os.Remove(at("Salt", "fleur")))
	require.NoError(t, os.Symlink("nowhere", at("Salt", "fleur")))
	again := func(delay, most int) func([]byte) []byte {
		return func(raw []byte) []byte {
			f, err := xcursor.Parse(raw)
			require.NoError(t, err)
			var all []xcursor.Frame
			for _, size := range f.Sizes() {
				frames := f.Frames(size)
				for _, im := range frames[:min(most, len(frames))] {
					all = append(all, xcursor.Frame{Size: size, Picture: f.Picture(im), HotX: im.HotX, HotY: im.HotY, Delay: delay})
				}
			}
			return xcursor.Encode(all)
		}
	}
	rewrite("watch", again(0, 1000))
	rewrite("left_ptr_watch", again(4000, 1000))

	seen := build(t, "seen", "gtk+-3.0 xcursor", "libgtk-3-dev, libxcursor-dev")
	found := func(set, name string) string { return inHome(t, home, seen, "pointer", set, name) }
	for _, name := range []string{"xterm", "pirate"} { // for a link to nothing, libXcursor looks in further sets
		require.Equal(t, "-", found("Salt", name), name)
	}
	before := map[string]string{}
	names, err := os.ReadDir(filepath.Join(set, "cursors"))
	require.NoError(t, err)
	for _, e := range names {
		before[e.Name()] = found("Salt", e.Name())
	}

	recipe, data, desk := filepath.Join(t.TempDir(), "salt.toml"), t.TempDir(), []string{"--home", home, "--system", system}
	ask := func(args ...string) string {
		c := exec.CommandContext(t.Context(), ivelt(t), append(args, desk...)...)
		c.Env = append(os.Environ(), "XDG_DATA_HOME="+data)
		out, err := c.CombinedOutput()
		if exit := (*exec.ExitError)(nil); err != nil {
			require.ErrorAs(t, err, &exit, "%s", out)
		}
		return string(out)
	}
	ask("bench", "pointer", "Salt", "--mend", recipe, "--sizes", "24")
	ask("layer", "build", recipe)
	require.NotRegexp(t, "cannot be read|lead nowhere|without a pause|turns in", ask("bench", "pointer", "Salt-Mended", "--sizes", "24"))
	for name, was := range before {
		now := found("Salt-Mended", name)
		if slices.Contains([]string{"xterm", "pirate", "fleur"}, name) || was == "-" {
			require.NotEqual(t, "-", now, name)
		} else if moved := strings.Contains(read(t, recipe), "name = '"+name+"'"); !moved {
			require.Equal(t, was, now, name)
		}
	}
	program := build(t, "xcursors", "xcursor", "libxcursor-dev")
	for _, name := range []string{"watch", "left_ptr_watch"} {
		turns, pictures := map[string]int{}, map[string][]string{}
		for _, line := range lines(output(t, exec.CommandContext(t.Context(), program, at("Salt-Mended", name)))) {
			f := strings.Fields(line)
			delay, err := strconv.Atoi(f[6])
			require.NoError(t, err)
			require.Positive(t, delay)
			turns[f[1]] += delay
			pictures[f[1]] = append(pictures[f[1]], f[7])
		}
		require.NotEmpty(t, turns)
		for size, turn := range turns {
			require.LessOrEqual(t, turn, 10_000, "%s at %s px", name, size)
		}
		for _, line := range lines(output(t, exec.CommandContext(t.Context(), program, at("Salt", name)))) {
			f := strings.Fields(line)
			require.Contains(t, pictures[f[1]], f[7], "each picture is still seen")
		}
	}
}

// asked5 is a program of Qt 5.
func asked5(t *testing.T) string {
	return once(t, "asked5", "asked5 Qt5Widgets", func(to string) {
		flags := strings.Fields(output(t, tool(t, "pkg-config", "pkg-config, qtbase5-dev", "--cflags", "--libs", "Qt5Widgets")))
		output(t, tool(t, "g++", "g++", append([]string{"-fPIC", "-rdynamic", "-o", to, "reference/asked5.cpp"}, flags...)...))
	})
}

// TestToolkitsAskAsTold: what GTK 3, GTK 4 and Qt 5 open, one name after the other, for each pointer of
// CSS and each shape of Qt in a set that has none (Debian: libgtk-3-dev, libgtk-4-dev, qtbase5-dev, g++).
func TestToolkitsAskAsTold(t *testing.T) {
	t.Parallel()
	five := asked5(t)
	home := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(home, "icons/Empty/cursors"), 0o755))
	var css []string
	for _, r := range pointerset.Roles {
		if len(r.Names) > 0 && r.Name != "pencil" && r.Name != "up-arrow" {
			css = append(css, r.Name)
		}
	}
	programs := map[string]string{"GTK 3": build(t, "asked3", "gtk+-3.0", "libgtk-3-dev"), "GTK 4": build(t, "asked4", "gtk4", "libgtk-4-dev"), "Qt 5": five}
	var theirs, ours []string
	for by, program := range programs {
		c := exec.CommandContext(t.Context(), program)
		c.Env = []string{"HOME=" + home, "XCURSOR_PATH=" + filepath.Join(home, "icons"), "XCURSOR_THEME=Empty", "GDK_BACKEND=x11", "DISPLAY=" + display(t), "LANG=C.UTF-8", "XDG_RUNTIME_DIR=" + home}
		c.Stdin = strings.NewReader(strings.Join(css, "\n"))
		for _, line := range lines(output(t, c)) {
			f := strings.Fields(line)
			if f[0] == "-" || f[0] == "BlankCursor" {
				continue
			}
			var names []string
			for _, n := range f[1:] {
				if !slices.Contains(names, n) {
					names = append(names, n)
				}
			}
			theirs = append(theirs, by+" "+f[0]+": "+strings.Join(names, " "))
		}
	}
	for _, a := range pointerset.Asked {
		ours = append(ours, a.By+" "+a.Asks+": "+strings.Join(a.Names, " "))
		require.Contains(t, pointerset.RoleOf(a.Role).Names, a.Names[0])
	}
	require.ElementsMatch(t, theirs, ours)
	t.Logf("%d names are asked for in %d ways", len(css), len(ours))
}
