package main

import (
	"archive/zip"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/plan"
	"ivelt/store"
)

var every = flag.Int("every", 8, "the command is killed at one call in so many of an install, in a quarter as many of an apply")

// box is a home and a system, named by their folders, and what Ivelt keeps.
type box struct {
	t   *testing.T
	dir string
}

const oldSettings = "# mine\n[Settings]\ngtk-icon-theme-name=Old\n"

func newBox(t *testing.T) box {
	b := box{t, t.TempDir()}
	b.put("home/.config/gtk-3.0/settings.ini", oldSettings)
	b.put("home/.icons/New/index.theme", "[Icon Theme]\nName=New\nDirectories=16\n[16]\nSize=16\n")
	b.put("system/etc/machine-id", "0123456789abcdef\n")
	b.put("new.toml", "format = 1\nname = 'New'\n[facet.icons]\npiece = 'New'\n")
	return b
}

func (b box) put(name, text string) string {
	file := filepath.Join(b.dir, name)
	require.NoError(b.t, os.MkdirAll(filepath.Dir(file), 0o755))
	require.NoError(b.t, os.WriteFile(file, []byte(text), 0o644))
	return file
}

func (b box) command(args ...string) *exec.Cmd {
	c := command(b.t, append(args, "--home", filepath.Join(b.dir, "home"), "--system", filepath.Join(b.dir, "system"))...)
	c.Env = append(c.Environ(), "XDG_DATA_HOME="+filepath.Join(b.dir, "data"))
	return c
}

// run runs a command, which ends with a code of those given.
func (b box) run(code int, args ...string) string {
	b.t.Helper()
	out, err := b.command(args...).CombinedOutput()
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		require.Equal(b.t, code, exit.ExitCode(), string(out))
	} else {
		require.NoError(b.t, err)
		require.Equal(b.t, code, 0, string(out))
	}
	return string(out)
}

func (b box) history() []store.CheckpointRow {
	b.t.Helper()
	c := b.command("history", "--json")
	out, err := c.Output()
	require.NoError(b.t, err)
	var rows []store.CheckpointRow
	require.NoError(b.t, json.Unmarshal(out, &rows))
	return rows
}

// tree is the home and the system.
func (b box) tree() map[string]string {
	out := map[string]string{}
	for _, top := range []string{"home", "system"} {
		require.NoError(b.t, filepath.WalkDir(filepath.Join(b.dir, top), func(p string, d fs.DirEntry, err error) error {
			require.NoError(b.t, err)
			fi, err := d.Info()
			require.NoError(b.t, err)
			text := []byte{}
			if fi.Mode().IsRegular() {
				text, err = os.ReadFile(p)
				require.NoError(b.t, err)
			}
			out[p[len(b.dir):]] = fmt.Sprintf("%v %q", fi.Mode(), text)
			return nil
		}))
	}
	return out
}

// TestKilledCommand kills the command with SIGKILL before each system call by
// which it changes something, and runs another: everything is as before or as
// wanted, and the history tells which.
func TestKilledCommand(t *testing.T) {
	parcel := func(b box) string {
		file := filepath.Join(b.dir, "Salt.zip")
		f, err := os.Create(file)
		require.NoError(t, err)
		z := zip.NewWriter(f)
		for name, text := range map[string]string{"index.theme": "[Icon Theme]\nName=Salt\nDirectories=16\n[16]\nSize=16\n", "16/a.png": "a", "16/b.png": "b", "16/c.png": "c"} {
			w, err := z.Create("Salt/" + name)
			require.NoError(t, err)
			_, err = w.Write([]byte(text))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		require.NoError(t, f.Close())
		return file
	}
	kills := 0
	for what, prepare := range map[string]func(b box) []string{
		"apply":   func(b box) []string { return []string{"apply", "--outfit", filepath.Join(b.dir, "new.toml")} },
		"install": func(b box) []string { return []string{"install", parcel(b)} },
		"back": func(b box) []string {
			b.run(1, "apply", "--outfit", filepath.Join(b.dir, "new.toml"))
			return []string{"back"}
		},
		"remove": func(b box) []string {
			b.run(0, "install", parcel(b))
			return []string{"remove", "Salt"}
		},
	} {
		clean := newBox(t)
		args := prepare(clean)
		_ = clean.command(args...).Run()
		after := clean.tree()
		step := *every
		if what == "apply" || what == "back" {
			step = max(1, *every/4)
		}
		for at := 1; ; at += step {
			b := newBox(t)
			args := prepare(b)
			before, past := b.tree(), len(b.history())
			c := b.command(args...)
			c.Env = append(c.Env, fmt.Sprint("IVELT_DIES_AT=", at))
			err := c.Run()
			status, ok := c.ProcessState.Sys().(syscall.WaitStatus)
			require.True(t, ok, err)
			if !status.Signaled() {
				require.Equal(t, after, b.tree(), what)
				break
			}
			kills++
			told := fmt.Sprintf("%s, killed at call %d", what, at)
			if len(b.history()) == past {
				require.Equal(t, before, b.tree(), told)
			} else {
				require.Equal(t, after, b.tree(), told)
			}
		}
	}
	require.Greater(t, kills, 20)
	t.Logf("killed %d times", kills)
}

// TestTryByCommand tries an outfit: it goes back when the time is up, also if
// everything that began it has been killed, and stays if it is kept.
func TestTryByCommand(t *testing.T) {
	b := newBox(t)
	before := b.tree()
	outfit := filepath.Join(b.dir, "new.toml")
	require.Contains(t, b.run(1, "apply", "--outfit", outfit, "--try", "3"), "Gone back.")
	require.Equal(t, before, b.tree())

	kept := b.command("apply", "--outfit", outfit, "--try", "60")
	in, err := kept.StdinPipe()
	require.NoError(t, err)
	require.NoError(t, kept.Start())
	b.until(func() bool { return len(b.history()) == 3 })
	require.Contains(t, b.run(2, "back"), "something is being tried on this desk: keep it or go back first")
	_, err = in.Write([]byte("\n"))
	require.NoError(t, err)
	require.Error(t, kept.Wait(), "Qt could not follow: exit 1")
	require.Contains(t, b.run(0, "back"), "Went back on: Wear New")
	require.Equal(t, before, b.tree())

	gone := b.command("apply", "--outfit", outfit, "--try", "3")
	_, err = gone.StdinPipe()
	require.NoError(t, err)
	require.NoError(t, gone.Start())
	b.until(func() bool { return !b.asBefore() })
	time.Sleep(500 * time.Millisecond)
	require.NoError(t, gone.Process.Kill())
	_ = gone.Wait()
	require.NotEqual(t, before, b.tree())
	b.until(b.asBefore) // nobody asked: what minds it did

	gone = b.command("apply", "--outfit", outfit, "--try", "60")
	_, err = gone.StdinPipe()
	require.NoError(t, err)
	require.NoError(t, gone.Start())
	b.until(func() bool { return !b.asBefore() })
	time.Sleep(500 * time.Millisecond)
	require.NoError(t, gone.Process.Kill())
	_ = gone.Wait()
	require.Contains(t, b.run(0, "keep"), "Kept: Wear New")
	require.Contains(t, b.run(2, "keep"), "it has ended already")
}

// asBefore tells from one file whether the outfit is not worn.
func (b box) asBefore() bool {
	text, err := os.ReadFile(filepath.Join(b.dir, "home/.config/gtk-3.0/settings.ini"))
	require.NoError(b.t, err)
	return string(text) == oldSettings
}

func (b box) until(is func() bool) {
	b.t.Helper()
	require.Eventually(b.t, is, 20*time.Second, 50*time.Millisecond)
}

// TestHandedOver carries out a plan that came as a file, and refuses one that is
// for another computer, was altered, or reaches where no plan may.
func TestHandedOver(t *testing.T) {
	b := newBox(t)
	b.put("system/usr/sbin/lantern", "that it is here says that the desk has it")
	b.put("system/etc/lantern/lantern.conf", "[Greeter]\ntheme=Plain\n")
	b.put("system/usr/share/wayland-sessions/quayside.desktop", "[Desktop Entry]\nType=Application\nName=Q\nExec=q\n")
	b.put("system/usr/share/lantern/themes/Dusk/login.theme", "[Login Theme]\nName=Dusk\nBackdrop=b.png\n")
	b.put("login.toml", "format = 1\nname = 'Dusk'\n[facet.login]\npiece = 'Dusk'\n")
	outfit := filepath.Join(b.dir, "login.toml")
	require.Contains(t, b.run(1, "plan", "--outfit", outfit), "names b.png, which is not in it", "a login screen that could not come up is not planned")
	b.put("system/usr/share/lantern/themes/Dusk/b.png", "picture")
	made := b.run(0, "plan", "--json", "--outfit", outfit)
	file := b.put("plan.json", made)
	before := b.tree()
	var p plan.Plan
	refused := func(words string, change func(p *plan.Plan)) {
		t.Helper()
		p = plan.Plan{}
		require.NoError(t, json.Unmarshal([]byte(made), &p))
		change(&p)
		text, err := json.Marshal(p)
		require.NoError(t, err)
		require.Contains(t, b.run(2, "apply", b.put("altered.json", string(text))), words)
		require.Equal(t, before, b.tree())
	}
	refused("was altered after it was made", func(p *plan.Plan) { p.Ops[0].Content = []byte("[Greeter]\ntheme=Mine\n") })
	refused("was made for another computer", func(p *plan.Plan) { p.Computer = "elsewhere" })
	refused("was made for another computer, or for another home (/root)", func(p *plan.Plan) { p.Home = "/root" })
	for _, at := range []string{"/etc/shadow", "/etc/lantern/../shadow", "/usr/share/icons/../../../etc/shadow", "/usr/bin/sudo", "/usr/share", "etc/shadow"} {
		refused("a plan may not touch that", func(p *plan.Plan) { p.Ops[0].Path = at; b.seal(p) })
	}
	refused("run it as somebody else", func(p *plan.Plan) { p.Ops[1].After.Mode |= fs.ModeSetuid; b.seal(p) })
	refused("its contents are not what the plan says", func(p *plan.Plan) { p.Ops[1].Content = nil; b.seal(p) })
	require.Contains(t, b.run(2, "apply", b.put("none.json", "{")), "it is no plan")

	require.Empty(t, b.run(0, "plan", "--outfit", outfit, "--bundle", filepath.Join(b.dir, "login.tar")))
	list, err := exec.CommandContext(t.Context(), "tar", "-tf", filepath.Join(b.dir, "login.tar")).Output()
	require.NoError(t, err)
	require.Equal(t, "plan.json\nby-hand.sh\n", string(list))

	out := b.run(0, "apply", file)
	require.Contains(t, out, "Press Ctrl, Alt and F3 together")
	require.Contains(t, out, "sudo cp /etc/lantern/lantern.conf.before /etc/lantern/lantern.conf")
	require.Contains(t, b.tree()["/system/etc/lantern/lantern.conf"], "theme=Dusk")
	require.Contains(t, b.tree()["/system/etc/lantern/lantern.conf.before"], "theme=Plain")
	b.put("system/etc/lantern/lantern.conf", "[Greeter]\ntheme=Other\n")
	require.Contains(t, b.run(2, "apply", file), "changed since the plan was made")
}

// seal gives a plan that was altered the ID that it would have: whoever can write
// a plan can do so too.
func (b box) seal(p *plan.Plan) {
	p.ID = ""
	text, err := json.Marshal(p)
	require.NoError(b.t, err)
	p.ID = plan.Digest(text)[:16]
}
