package truth

import (
	"bufio"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/web/browsertest"
)

// mounted is a view of this machine in which what an administrator's Ivelt writes to is a copy
// in memory; commands are run in it behind what it returns (Debian: util-linux).
func mounted(t *testing.T) (behind []string) {
	t.Helper()
	if os.Geteuid() != 0 {
		t.Skip("mounting a file system needs an administrator")
	}
	c := exec.Command("unshare", "--mount", "--propagation", "private", "sh", "-c", "set -e; mkdir -p /var/lib/ivelt; mount -t tmpfs none /var/lib/ivelt; cp -a /usr/share/icons /var/lib/ivelt/; mount -t tmpfs none /usr/share/icons; cp -a /var/lib/ivelt/icons/. /usr/share/icons/; rm -r /var/lib/ivelt/icons; echo ready && exec sleep 1000")
	out, err := c.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, c.Start())
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait(); _ = os.Remove("/var/lib/ivelt") }) // the place it was laid over
	line, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err)
	require.Equal(t, "ready\n", line)
	return []string{"nsenter", fmt.Sprintf("--mount=/proc/%d/ns/mnt", c.Process.Pid), "--"}
}

// TestTheStoryAroundOnesOwnDesk: in a browser a person finds a theme, icons and a pointer among
// the system's packages, looks inside, puts the theme in place as a copy of their own, tries the
// icons on, and has an administrator put the pointer in place for everyone; they dress the
// desk, a program in a real sandbox sees what is worn, and everything goes back to how it was.
// What asks for the password is a stand-in that lets everybody (Debian: chromium, apt,
// flatpak, polkitd's pkexec(1)).
func TestTheStoryAroundOnesOwnDesk(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	ivelt := ivelt(t)
	behind := mounted(t)
	within := filepath.Join(dir, "bin/ivelt")
	write(t, within, "#!/bin/sh\nexec "+strings.Join(behind, " ")+" "+ivelt+" \"$@\"\n")
	write(t, filepath.Join(dir, "bin/pkexec"), "#!/bin/sh\nPKEXEC_UID=0 exec \"$@\"\n")
	for _, script := range []string{within, filepath.Join(dir, "bin/pkexec")} {
		require.NoError(t, os.Chmod(script, 0o755))
	}
	files, choices := newcomers(t)
	everyones := choices[2][1]

	s := newBox(t, homeAt(t), 0, within, nil, nil)
	s.env["PATH"] = filepath.Join(dir, "bin") + ":" + os.Getenv("PATH")
	s.env["TMPDIR"] = filepath.Join(t.TempDir())
	outside := maps.Clone(s.env)
	outside["DBUS_SESSION_BUS_ADDRESS"] = ""
	inside := newSandbox(t, &seat{home: s.home, env: outside})
	pieces := []string{"theme " + choices[0][1], "icons " + choices[1][1]}
	none, _ := inside.sees(t, pieces...)
	require.Empty(t, none)
	permissions := inside.runtime(t, "info", "--show-permissions", inside.program)
	first := wholeHome(t, s.seat)
	system := func() string {
		return output(t, exec.CommandContext(t.Context(), behind[0], append(behind[1:], "find", "/usr/share/icons", "-maxdepth", "2", "-printf", "%P %y\\n")...))
	}
	was := system()

	server := s.serve(t, "--write")
	host := strings.Join(strings.SplitN(server.address, "/", 4)[:3], "/")
	b := browsertest.Start(t, host, browsertest.NoPictures)
	b.Open(strings.TrimPrefix(server.address, host))
	b.At("Start")
	for i, file := range files {
		name, _, _ := strings.Cut(filepath.Base(file), "_")
		b.Open("/d/own/find?q=" + name)
		b.At("Find")
		b.Until(`document.querySelector("#entry-` + name + `")`)
		require.Contains(t, b.Text("#entry-"+name), "(likely)")
		b.Click(`#entry-` + name + ` [data-fetch]`)
		b.Until(`location.pathname.includes("/parcel/") && document.readyState === "complete"`)
		require.Contains(t, b.Text("#work"), choices[i][1])
		require.Contains(t, b.Text("#package"), "for everyone")
		if choices[i][0] == desk.FacetIcons { // only tried on: it comes into place with the look
			b.Click("[data-try]")
			b.At("Compose")
			require.Contains(t, b.Text("#draft"), choices[i][1])
			require.Contains(t, b.Text("#picks"), "tried on")
			continue
		}
		if choices[i][1] != everyones {
			b.Click("[data-main]")
			b.Until(`!location.pathname.includes("/parcel/") && document.readyState !== "loading"`)
			continue
		}
		b.Click(`input[name="scope"][value="everyone"]`)
		b.Click("[data-main]")
		b.At("Review")
		require.Contains(t, b.Text("#hand-over"), "sudo ivelt administer")
		require.Contains(t, b.Text("#work"), "/usr/share/icons/"+everyones)
		require.Equal(t, was, system(), "nothing is written yet")
		b.Click(`#hand-over button[name="plan"]`)
		b.At("History")
		require.Contains(t, b.Text("#administered"), "/usr/share/icons/"+everyones)
		require.Contains(t, system(), everyones+"/cursors d")
	}

	b.Open("/d/own/compose")
	b.At("Compose")
	for _, c := range choices {
		b.Idle()
		b.Group(c[0])
		button := `#picks button[name="piece"][value="` + c[1] + `"]`
		b.Click(button)
		b.Until(`document.querySelector('` + button + `').ariaChecked === "true"`)
	}
	b.Click(`[data-key="r"]`)
	b.At("Review")
	b.Click("[data-main]")
	b.At("Match")
	b.Until(`!document.querySelector(".job-running") && document.readyState === "complete"`)
	seen, _ := inside.sees(t, pieces...)
	require.Equal(t, pieces, seen, "the sandboxed program sees what is worn")
	require.Equal(t, everyones, s.reading(t, "display", desk.FacetPointer))

	// Back: the person's own part, then the administrator's.
	b.Open("/d/own/history")
	b.At("History")
	b.Click(".past:not(#administered *) > li:last-child [data-open]")
	b.At("Go back")
	b.Click("[data-main]")
	b.Until(`!location.pathname.includes("/back") && document.readyState === "complete" && !document.querySelector(".job-running")`)
	b.Open("/d/own/history")
	b.At("History")
	b.Click(`#administered button[name="back"]`)
	b.Until(`document.querySelector("#administered .undone") && document.readyState === "complete"`)
	require.Equal(t, was, system())
	require.Equal(t, permissions, inside.runtime(t, "info", "--show-permissions", inside.program))
	none, _ = inside.sees(t, pieces...)
	require.Empty(t, none)
	s.cleared(t)
	require.NoError(t, server.Process.Signal(os.Interrupt))
	require.NoError(t, server.Wait())
	now := wholeHome(t, s.seat)
	for _, name := range slices.Sorted(maps.Keys(now)) { // where they allowed it
		if name == ".config/ivelt/config.toml" {
			delete(now, name)
		}
	}
	require.Equal(t, first, now, "everything is as it was")
}
