package main

import (
	"bufio"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestAProgramIsLearnedOnATerminal: answers come line by line, as a person or a script
// gives them; what was learned is read, planned by and checked like any other surface.
func TestAProgramIsLearnedOnATerminal(t *testing.T) {
	home, system := t.TempDir(), t.TempDir()
	file := filepath.Join(home, ".config/saltmarsh/bar.conf")
	settings := func(text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	settings("# of the bar\nopacity 0.9\nicons \"Alpha\"\nday yes\n[window]\nx=10\n")
	c := command(t, "surface", "learn", "saltmarsh", "--title", "Salt marsh", "--kind", "shell", "--home", home, "--system", system, "--", "~/.config/saltmarsh")
	in, err := c.StdinPipe()
	require.NoError(t, err)
	out, err := c.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, c.Start())
	r, said := bufio.NewReader(out), ""
	until := func(what string) {
		t.Helper()
		for said = ""; !strings.HasSuffix(said, what); {
			b, err := r.ReadByte()
			require.NoError(t, err, said)
			said += string(b)
		}
	}
	answer := func(line string) {
		t.Helper()
		_, err := io.WriteString(in, line+"\n")
		require.NoError(t, err)
	}
	until(`or type "done": `)
	answer("")
	until(`or type "done": `)
	require.Contains(t, said, "No setting differs")
	settings("# of the bar\nopacity 0.75\nicons \"Alpha\"\nday yes\n[window]\nx=12\n")
	answer("")
	until("nothing for none) ")
	answer("1")
	until("[opacity] ")
	answer("?")
	until("[opacity] ")
	require.Contains(t, said, "Bar opacity")
	answer("")
	until(`or type "done": `)
	settings("# of the bar\nopacity 0.75\nicons \"Alpha\"\nday no\n[window]\nx=13\n")
	answer("")
	until("nothing for none) ")
	answer("1")
	until("] ")
	answer("dark")
	until("if you do not know) ")
	answer("dark")
	until("if you do not know) ")
	answer("light")
	until(`or type "done": `)
	answer("done")
	rest, err := io.ReadAll(r)
	require.NoError(t, err)
	require.NoError(t, c.Wait())
	require.Contains(t, string(rest), "Written: ~/.config/ivelt/surfaces/saltmarsh.toml")
	require.Contains(t, string(rest), "Salt marsh, opacity: 75")
	require.Contains(t, string(rest), "Salt marsh, dark: dark")

	descriptor := filepath.Join(home, ".config/ivelt/surfaces/saltmarsh.toml")
	checked, err := command(t, "surface", "check", descriptor).Output()
	require.NoError(t, err)
	require.Contains(t, string(checked), "Salt marsh can be used")
	read, _ := command(t, "read", "--home", home, "--system", system).Output()
	require.Contains(t, string(read), "Salt marsh, opacity: 75")

	// A surface that Ivelt knows already is not learned, nor is what lies elsewhere.
	for _, args := range [][]string{{"gtk3", "--", "~/.config"}, {"Not an ID", "--", "~/.config"}, {"new", "--", "~/none"}} {
		c := command(t, append([]string{"surface", "learn", "--home", home, "--system", system}, args...)...)
		require.Error(t, c.Run(), args)
	}
	// A folder that leads out of the home is not written through.
	outside := t.TempDir()
	require.NoError(t, os.RemoveAll(filepath.Join(home, ".config/ivelt")))
	require.NoError(t, os.Symlink(outside, filepath.Join(home, ".config/ivelt")))
	c = command(t, "surface", "learn", "other", "--home", home, "--system", system, "--", "~/.config/saltmarsh")
	if in, err = c.StdinPipe(); err != nil {
		t.Fatal(err)
	}
	out, err = c.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, c.Start())
	r, said = bufio.NewReader(out), ""
	until(`or type "done": `)
	settings("opacity 0.6\n")
	answer("")
	until("nothing for none) ")
	answer("1")
	until("] ")
	answer("opacity")
	until(`or type "done": `)
	answer("done")
	_, err = io.Copy(io.Discard, r)
	require.NoError(t, err)
	require.Error(t, c.Wait())
	left, err := os.ReadDir(outside)
	require.NoError(t, err)
	require.Empty(t, left)
}
