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

	"ivelt/store"
)

var every = flag.Int("every", 12, "the command is killed at one call in so many of an install, in a quarter as many of an apply, in a third of what an administrator does")

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

// parcel is one with a small icon theme.
func (b box) parcel() string {
	file := filepath.Join(b.dir, "Salt.zip")
	f, err := os.Create(file)
	require.NoError(b.t, err)
	z := zip.NewWriter(f)
	for name, text := range map[string]string{"index.theme": "[Icon Theme]\nName=Salt\nDirectories=16\n[16]\nSize=16\n", "16/a.png": "a", "16/b.png": "b", "16/c.png": "c"} {
		w, err := z.Create("Salt/" + name)
		require.NoError(b.t, err)
		_, err = w.Write([]byte(text))
		require.NoError(b.t, err)
	}
	link := &zip.FileHeader{Name: "Salt/16/d.png"}
	link.SetMode(fs.ModeSymlink | 0o777)
	w, err := z.CreateHeader(link)
	require.NoError(b.t, err)
	_, err = w.Write([]byte("a.png"))
	require.NoError(b.t, err)
	require.NoError(b.t, z.Close())
	require.NoError(b.t, f.Close())
	return file
}

// TestKilledCommand kills the command with SIGKILL before each system call by
// which it changes something, and runs another: everything is as before or as
// wanted, and the history tells which.
func TestKilledCommand(t *testing.T) {
	kills := 0
	for what, prepare := range map[string]func(b box) []string{
		"apply":   func(b box) []string { return []string{"apply", "--outfit", filepath.Join(b.dir, "new.toml")} },
		"install": func(b box) []string { return []string{"install", b.parcel()} },
		"back": func(b box) []string {
			b.run(1, "apply", "--outfit", filepath.Join(b.dir, "new.toml"))
			return []string{"back"}
		},
		"remove": func(b box) []string {
			b.run(0, "install", b.parcel())
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
	require.Contains(t, b.run(0, "back"), "Went back on: Apply New")
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
	require.Contains(t, b.run(0, "keep"), "Kept: Apply New")
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
