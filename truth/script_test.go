package truth

import (
	"bytes"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/apply"
	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/script"
	"ivelt/demo"
	"ivelt/store"
)

// TestTheScriptDoesWhatApplyDoes dresses copies of homes by a plan and by its
// script, which dash runs, compares the trees, and lets the script's own way back
// restore them. What is changed in between stops it. (Debian: dash, shellcheck,
// coreutils.)
func TestTheScriptDoesWhatApplyDoes(t *testing.T) {
	t.Parallel()
	scripts, refused := 0, 0
	for seed := range 28 * *times {
		r := rand.New(rand.NewPCG(seed, 67))
		pick := func(options ...string) string { return options[r.IntN(len(options))] }
		home := filepath.Join(t.TempDir(), pick("home", "it's a home"))
		themesIn(t, home, "Reef", "Skerry")
		put := func(name, text string) {
			write(t, filepath.Join(home, name), text)
			require.NoError(t, os.Chmod(filepath.Join(home, name), fs.FileMode(0o600+r.IntN(2)*0o044)))
		}
		for _, folder := range []string{"gtk-3.0", "gtk-4.0"} {
			if r.IntN(3) > 0 {
				put(".config/"+folder+"/settings.ini", messy(r))
			}
		}
		if r.IntN(2) > 0 {
			put(".gtkrc-2.0", messyResource(r))
		}
		if r.IntN(2) > 0 {
			put(".profile", "# mine\nexport GTK_THEME='Reef'\nEND OF FILE\nexport X='a b'\n")
		}
		if r.IntN(2) > 0 {
			put(".Xresources", "! mine\nXcursor.size: 9")
		}
		for _, name := range []string{".config/gtk-3.0/settings.ini", ".gtkrc-2.0"} { // what files have besides
			if exists(filepath.Join(home, name)) && r.IntN(2) == 0 {
				output(t, tool(t, "setfacl", "acl", "-m", "u:3456:rw", filepath.Join(home, name)))
				require.NoError(t, unix.Setxattr(filepath.Join(home, name), "user.note", []byte("mine"), 0))
			}
		}
		if r.IntN(3) == 0 { // a settings file that is a link
			put("dot files/gtk3", "[Settings]\ngtk-theme-name=Reef\n")
			_ = os.Remove(filepath.Join(home, ".config/gtk-3.0/settings.ini"))
			require.NoError(t, os.MkdirAll(filepath.Join(home, ".config/gtk-3.0"), 0o755))
			require.NoError(t, os.Symlink("../../dot files/gtk3", filepath.Join(home, ".config/gtk-3.0/settings.ini")))
		}
		system := t.TempDir()
		d, err := desk.Open("s", home, system, "/home/me")
		require.NoError(t, err)
		d.Env = map[string]string{}
		d.SetWritable(true)
		d.SetSurfaces(desk.Builtin())
		start := filesUnder(t, home)
		p, err := planning.Dress(t.Context(), d, outfit.Outfit{Name: "Skerry\nin the dark"}.With(desk.FacetWidgets, "Skerry").With(desk.FacetDark, "dark").With(desk.FacetPointerSize, pick("40", "64")).With(desk.FacetAntialias, "off").With(desk.FacetStyle, "Windows").With(desk.FacetButtons, "close:menu"))
		require.NoError(t, err)
		script, err := script.Of(d, p)
		require.NoError(t, err)
		file := filepath.Join(t.TempDir(), "by hand.sh")
		require.NoError(t, os.WriteFile(file, []byte(script), 0o644))
		if seed < 5 {
			output(t, tool(t, "shellcheck", "shellcheck", "--shell=sh", "--severity=style", file))
		}

		copied := filepath.Join(t.TempDir(), "a copy")
		output(t, tool(t, "cp", "coreutils", "-a", home, copied))
		run := func(script string) (string, error) {
			c := exec.CommandContext(t.Context(), "dash", script)
			c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + copied, "ROOT=" + system}
			out, err := c.CombinedOutput()
			return string(out), err
		}
		if r.IntN(4) == 0 && len(p.Ops) > 0 { // something changes before it is run
			op := p.Ops[len(p.Ops)-1]
			at := filepath.Join(copied, strings.TrimPrefix(op.Path, "/home/me/"))
			require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
			require.NoError(t, os.WriteFile(at, []byte("somebody else was here\n"), 0o644))
			before := filesUnder(t, copied)
			out, err := run(file)
			require.Error(t, err, "seed %d: %s", seed, out)
			require.Contains(t, out, "Nothing was changed")
			require.Equal(t, before, filesUnder(t, copied), "seed %d", seed)
			refused++
			continue
		}
		out, err := run(file)
		require.NoError(t, err, "seed %d: %s\n%s", seed, out, script)
		require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: filepath.Join(t.TempDir(), "journal")}))
		require.Equal(t, filesUnder(t, home), filesUnder(t, copied), "seed %d", seed)
		scripts++

		_, undo, ok := strings.Cut(strings.TrimSpace(out), "To go back: sh ")
		require.True(t, ok, out)
		if seed < 5 {
			output(t, tool(t, "shellcheck", "shellcheck", "--shell=sh", "--severity=warning", undo))
		}
		out, err = run(undo)
		require.NoError(t, err, "seed %d: %s", seed, out)
		require.Equal(t, start, filesUnder(t, copied), "seed %d", seed)
	}
	t.Logf("%d scripts did what apply does and went back; %d stopped before anything was changed", scripts, refused)
}

// TestTheBundleDoesWhatApplyDoes puts a piece in place of another, and takes one
// away, by a plan and by its bundle. (Debian: dash, shellcheck, tar, findutils.)
func TestTheBundleDoesWhatApplyDoes(t *testing.T) {
	t.Parallel()
	packs := t.TempDir()
	require.NoError(t, demo.WritePacks(packs, "Wrack"))
	p, err := parcel.Open(t.Context(), packs, archive.Options{})
	require.NoError(t, err)
	pieces := p.Recognise(t.Context()).Pieces
	home, system := t.TempDir(), t.TempDir()
	put := func(name, text string) { write(t, filepath.Join(home, name), text) }
	put(".local/share/icons/Wrack/mine/a b.txt", "mine")
	require.NoError(t, os.Symlink("a b.txt", filepath.Join(home, ".local/share/icons/Wrack/mine/link")))
	require.NoError(t, unix.Setxattr(filepath.Join(home, ".local/share/icons/Wrack/mine/a b.txt"), "user.note", []byte("mine"), 0))
	put(".icons/Old/index.theme", "[Icon Theme]\nName=Old\n")
	d, err := desk.Open("s", home, system, "/home/me")
	require.NoError(t, err)
	d.Env = map[string]string{}
	d.SetWritable(true)
	d.SetSurfaces(desk.Builtin())
	keep := store.Blobs{Dir: t.TempDir()}
	placings, err := place.All(pieces, d, place.Mine, planning.Replace, planning.ByLink)
	require.NoError(t, err)
	install, err := planning.Install(t.Context(), d, p, placings)
	require.NoError(t, err)
	remove, err := planning.TakeAway(d, "/home/me/.icons/Old", "Old", "icons")
	require.NoError(t, err)
	start := filesUnder(t, home)
	done := []plan.Plan{}
	copied := filepath.Join(t.TempDir(), "a copy")
	output(t, tool(t, "cp", "coreutils", "-a", home, copied))
	run := func(script string) (string, error) {
		c := exec.CommandContext(t.Context(), "dash", script)
		c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + copied, "ROOT=" + system}
		out, err := c.CombinedOutput()
		return string(out), err
	}
	var undos []string
	step := func(p plan.Plan) string {
		var b bytes.Buffer
		require.NoError(t, script.Bundle(t.Context(), d, p, keep, &b))
		dir := t.TempDir()
		write(t, filepath.Join(dir, "bundle.tar"), b.String())
		output(t, tool(t, "tar", "tar", "-xf", filepath.Join(dir, "bundle.tar"), "-C", dir))
		script := filepath.Join(dir, "by-hand.sh")
		output(t, tool(t, "shellcheck", "shellcheck", "--shell=sh", "--severity=style", script))
		out, err := run(script)
		require.NoError(t, err, out)
		_, undo, ok := strings.Cut(strings.TrimSpace(out), "To go back: sh ")
		require.True(t, ok, out)
		output(t, tool(t, "shellcheck", "shellcheck", "--shell=sh", "--severity=warning", undo))
		require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: keep, Journal: filepath.Join(t.TempDir(), "journal")}))
		require.Equal(t, filesUnder(t, home), filesUnder(t, copied))
		undos, done = append(undos, undo), append(done, p)
		return script
	}
	first := step(install)
	step(remove)
	back, err := planning.Back(d, done, keep, planning.Aim{})
	require.NoError(t, err)
	step(back.Plan)
	require.Equal(t, start, filesUnder(t, copied), "the bundle of a going back goes back")
	for _, undo := range slices.Backward(undos) {
		out, err := run(undo)
		require.NoError(t, err, out)
	}
	require.Equal(t, start, filesUnder(t, copied))

	// Something changes in between.
	require.NoError(t, os.RemoveAll(filepath.Join(copied, ".local/state/ivelt")))
	write(t, filepath.Join(copied, ".local/share/icons/Wrack/mine/a b.txt"), "newer")
	before := filesUnder(t, copied)
	out, err := run(first)
	require.Error(t, err)
	require.Contains(t, out, "Wrack is not as it was. Nothing was changed.")
	require.Equal(t, before, filesUnder(t, copied))
}

// filesUnder is a tree but for what scripts keep: each file with its mode and
// contents, each link with where it leads, each folder.
func filesUnder(t *testing.T, dir string) map[string]string {
	t.Helper()
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(name string, e fs.DirEntry, err error) error {
		require.NoError(t, err)
		rel, err := filepath.Rel(dir, name)
		require.NoError(t, err)
		switch {
		case rel == ".local/state" || rel == ".local" && !exists(filepath.Join(name, "share")):
			return filepath.SkipDir
		case e.Type()&fs.ModeSymlink != 0:
			out[rel], err = os.Readlink(name)
		case e.IsDir():
			out[rel] = "folder"
		default:
			var b []byte
			b, err = os.ReadFile(name)
			fi, e := e.Info()
			require.NoError(t, e)
			names := make([]byte, 256)
			n, e := unix.Llistxattr(name, names)
			require.NoError(t, e)
			has := strings.Split(strings.TrimRight(string(names[:n]), "\x00"), "\x00")
			slices.Sort(has)
			out[rel] = fmt.Sprint(fi.Mode(), has, " ", string(b))
		}
		return err
	}))
	return out
}

func exists(name string) bool {
	_, err := os.Lstat(name)
	return err == nil
}
