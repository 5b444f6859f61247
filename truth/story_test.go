package truth

import (
	"bufio"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/web/browsertest"
)

// server is `ivelt serve` of a box.
type server struct {
	*exec.Cmd
	address string // with the key
}

// serve starts one, and waits until it says where it is.
func (b *box) serve(t *testing.T, args ...string) *server {
	t.Helper()
	c := exec.Command(b.ivelt, append([]string{"serve", "--addr", "127.0.0.1:0"}, args...)...)
	c.Env, c.Stderr = b.environ(), os.Stderr
	out, err := c.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, c.Start())
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	for lines := bufio.NewScanner(out); lines.Scan(); {
		if m := regexp.MustCompile(`Open (http://\S+)`).FindStringSubmatch(lines.Text()); m != nil {
			return &server{c, m[1]}
		}
	}
	require.Fail(t, "it did not say where it is")
	return nil
}

// newcomers are three packages that real makers made, and a piece of each to choose: a window
// theme for GTK 3 and 4, an icon pack and a pointer set that are not installed here.
func newcomers(t *testing.T) (files []string, choices [][2]string) {
	t.Helper()
	for _, kind := range []struct{ facet, look string }{{desk.FacetWidgets, "usr/share/themes/*/gtk-4.0/gtk.css"}, {desk.FacetIcons, "usr/share/icons/*/scalable"}, {desk.FacetPointer, "usr/share/icons/*/cursors/left_ptr"}} {
		var best *pack
		var piece string
		for _, p := range realPacks(t) {
			found, err := filepath.Glob(filepath.Join(p.root, kind.look))
			require.NoError(t, err)
			if p.held || len(found) == 0 || slices.Contains(files, p.file) {
				continue
			}
			rel, err := filepath.Rel(p.root, found[0])
			require.NoError(t, err)
			name := strings.Split(rel, "/")[3]
			if _, err := os.Stat("/" + filepath.Join("usr/share", strings.Split(rel, "/")[2], name)); err == nil {
				continue // it is here
			}
			if best == nil || sizeOf(t, p.file) < sizeOf(t, best.file) {
				best, piece = &p, name
			}
		}
		require.NotNil(t, best, kind.facet)
		files, choices = append(files, best.file), append(choices, [2]string{kind.facet, piece})
	}
	return files, choices
}

func sizeOf(t *testing.T, file string) int64 {
	t.Helper()
	fi, err := os.Stat(file)
	require.NoError(t, err)
	return fi.Size()
}

// TestTheStoryOnOnesOwnDesk is how a person dresses their own computer from the pages, in a
// browser, with files that real makers made, while programs of GTK 3, GTK 4 and Qt are open:
// they allow it, have programs told, bring pieces in, try a look on, try it out, keep it, see
// who follows, and go back to how all was found (Debian: chromium, libgtk-3-dev,
// libgtk-4-dev, qtbase5-dev, g++, and the packages of the list).
func TestTheStoryOnOnesOwnDesk(t *testing.T) {
	t.Parallel()
	ivelt := ivelt(t)
	three, four, five := build(t, "open", "gtk+-3.0", "libgtk-3-dev"), build(t, "open", "gtk4", "libgtk-4-dev"), filepath.Join(t.TempDir(), "open5")
	flags := strings.Fields(output(t, tool(t, "pkg-config", "pkg-config, qtbase5-dev", "--cflags", "--libs", "Qt5Widgets")))
	output(t, tool(t, "g++", "g++", append([]string{"-fPIC", "-o", five, "reference/open5.cpp"}, flags...)...))
	files, choices := newcomers(t)

	s := newBox(t, t.TempDir(), 0, ivelt, nil, nil)
	for _, folder := range []string{"gtk-3.0", "gtk-4.0"} {
		s.put(t, ".config/"+folder+"/settings.ini", "# mine\n[Settings]\ngtk-icon-theme-name=Tango\ngtk-font-name=Lato 9\n")
	}
	s.env["TMPDIR"] = filepath.Join(t.TempDir()) // the program does not lie among what is cleared away
	first := wholeHome(t, s.seat)
	programs := map[string]*open{"gtk3": leftOpen(t, s.seat, three), "gtk4": leftOpen(t, s.seat, four), "qt": leftOpen(t, s.seat, five)}
	was := map[string]map[string]string{}
	for id, p := range programs {
		was[id] = p.now()
	}
	server := s.serve(t)
	host := strings.Join(strings.SplitN(server.address, "/", 4)[:3], "/")
	b := browsertest.Start(t, host)

	// The first page: nothing is written before the owner says so.
	b.Open(strings.TrimPrefix(server.address, host))
	b.At("Start")
	require.Contains(t, b.Text("#work"), "Ivelt only looks at this computer")
	require.Contains(t, b.Text("#work"), "an X display")
	b.Click(`button[name="write"]`)
	b.Until(`document.querySelector("#writing").innerText.includes("may change this desk")`)
	b.Click(`#session button[value="on"]`)
	b.At("Review")
	require.Contains(t, b.Text("#work"), "ivelt-session.desktop")
	b.Click("[data-main]")
	b.Until(`document.querySelector('#session button[value="start"]')`)
	b.Click(`#session button[value="start"]`)
	for end := time.Now().Add(20 * time.Second); !b.Is(`document.querySelector("#session")?.innerText.includes("are updated at once.") && !document.querySelector('#session button[value="start"]')`); {
		require.True(t, time.Now().Before(end), "the provider did not come")
		time.Sleep(200 * time.Millisecond)
		b.Open("/d/own/start")
		b.At("Start")
	}

	// Files are dropped on a page, looked into and put in place.
	for i, file := range files {
		b.Open("/d/own/history")
		b.At("History")
		b.Drop(file)
		b.Until(`location.pathname.includes("/parcel/") && document.readyState === "complete"`)
		require.Contains(t, b.Text("#work"), "inside")
		before := b.Text("#work")
		b.Click("[data-main]")
		b.Until(`!location.pathname.includes("/parcel/") && document.readyState !== "loading"`)
		t.Logf("%s: %s, of %s", choices[i][0], choices[i][1], before[:min(len(before), 60)])
	}

	// Chosen, pictured, reviewed, tried out and kept.
	b.Open("/d/own/compose")
	b.At("Compose")
	plain := browsertest.Value[string](b, `fetch(document.querySelector("[data-picture-img]").src).then(r => r.text())`)
	for _, c := range choices {
		b.Group(c[0])
		button := `#picks button[name="piece"][value="` + c[1] + `"]`
		b.Click(button)
		b.Until(`document.querySelector('` + button + `').ariaChecked === "true"`)
	}
	b.Until(`document.querySelector("[data-picture-img]").complete`)
	require.NotEqual(t, plain, browsertest.Value[string](b, `fetch(document.querySelector("[data-picture-img]").src).then(r => r.text())`), "the picture shows it")
	b.Click(`[data-key="r"]`)
	b.At("Review")
	foretold := regexp.MustCompile(`[0-9]+ of [0-9]+ settings match`).FindString(b.Text("#answer"))
	require.NotEmpty(t, foretold)
	settings := wholeHome(t, s.seat)
	b.Click(`button[name="try"][value="20"]`)
	b.At("Match")
	require.Contains(t, b.Text("#trial"), "You are trying")
	require.NotEqual(t, settings, wholeHome(t, s.seat))
	b.Click(`#trial button[value="keep"]`)
	b.Until(`!document.querySelector("#trial") && document.readyState === "complete"`)

	// The open programs show it, but for Qt's, which is named.
	for _, id := range []string{"gtk3", "gtk4"} {
		for facet, name := range map[string]string{desk.FacetWidgets: "gtk-theme-name", desk.FacetIcons: "gtk-icon-theme-name", desk.FacetPointer: "gtk-cursor-theme-name"} {
			want := choices[slices.IndexFunc(choices, func(c [2]string) bool { return c[0] == facet })][1]
			require.Eventually(t, func() bool { return programs[id].now()[name] == want }, 5*time.Second, 10*time.Millisecond, "%s shows %v, not %s", id, programs[id].now(), want)
		}
	}
	b.Open("/d/own/match")
	b.At("Match")
	require.Contains(t, b.Text("#work"), foretold)
	require.Equal(t, "follows", browsertest.Value[string](b, `document.querySelector(".station[data-surface=display][data-facet=pointer]").dataset.state`), "it is over the background")
	require.Contains(t, b.Text("#old"), "open5 Qt programs")
	require.True(t, b.Is(`document.querySelector('#old [data-pid="`+strconv.Itoa(programs["qt"].pid)+`"]')`))
	require.False(t, b.Is(`document.querySelector('#old [data-pid="`+strconv.Itoa(programs["gtk3"].pid)+`"]')`), "it follows")
	again := leftOpen(t, s.seat, five)
	require.NotEqual(t, was["qt"]["icons"], again.now()["icons"], "started again, it shows the new")
	b.Open("/d/own/match")
	b.At("Match")
	require.False(t, b.Is(`document.querySelector('#old [data-pid="`+strconv.Itoa(again.pid)+`"]')`))

	// Back to how it was found, by the oldest entry.
	b.Open("/d/own/history")
	b.At("History")
	require.Contains(t, b.Text(".past > li:last-child"), "As it was found")
	b.Click(".past > li:last-child [data-open]")
	b.At("Go back")
	require.NotContains(t, b.Text("#work"), "would not", "of a look that is gone then")
	b.Click("[data-main]")
	b.Until(`!location.pathname.includes("/back") && document.readyState === "complete" && !document.querySelector(".job-running")`)
	for id := range was {
		require.Eventually(t, func() bool {
			now := programs[id].now()
			for name, value := range was[id] {
				usual := map[string]string{"": "default", "Default": "Adwaita"}[value] // as the display and GTK 3 call GTK 4's own
				if value != now[name] && usual != now[name] {
					return false
				}
			}
			return true
		}, 10*time.Second, 10*time.Millisecond, "%s shows %v, and showed %v", id, programs[id].now(), was[id])
	}
	b.Open("/d/own/match")
	b.At("Match")
	require.False(t, b.Is(`document.querySelector('#old [data-pid="`+strconv.Itoa(programs["qt"].pid)+`"]')`))
	s.cleared(t)
	require.NoError(t, server.Process.Signal(os.Interrupt))
	require.NoError(t, server.Wait())
	now := wholeHome(t, s.seat)
	delete(now, ".config/ivelt/config.toml") // where they allowed it
	require.Equal(t, first, now, "everything is as it was")
}
