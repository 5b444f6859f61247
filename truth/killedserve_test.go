package truth

import (
	"io"
	"maps"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/session"
)

// pages is a person's browser on a server, without the browser.
type pages struct {
	*http.Client
	forms *http.Client
	host  string
}

// visit opens a server's pages by the address that it printed.
func visit(t *testing.T, s *server) *pages {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	forms := func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse } // where one leads is not looked at
	p := &pages{&http.Client{Jar: jar}, &http.Client{Jar: jar, CheckRedirect: forms}, strings.Join(strings.SplitN(s.address, "/", 4)[:3], "/")}
	p.read(t, strings.TrimPrefix(s.address, p.host))
	return p
}

func (p *pages) read(t *testing.T, path string) string {
	t.Helper()
	res, err := p.Get(p.host + path)
	require.NoError(t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, res.StatusCode, string(b))
	return string(b)
}

var planOf = regexp.MustCompile(`name="plan" value="([^"]+)"`)

// sessionOf are the processes of a box's session, by whether they hold the display.
func (b *box) sessionOf(t *testing.T) map[bool]int {
	t.Helper()
	out, err := exec.CommandContext(t.Context(), "pgrep", "-a", "-f", "^"+regexp.QuoteMeta(b.ivelt)+" session").Output()
	if err != nil {
		return nil
	}
	found := map[bool]int{}
	for line := range strings.Lines(string(out)) {
		pid, err := strconv.Atoi(strings.Fields(line)[0])
		require.NoError(t, err)
		found[strings.Contains(line, " --hold")] = pid
	}
	return found
}

// TestKilledWhileItServes kills, with -9, the server while it dresses its owner's desk from
// the pages, or one of the two processes of the session, at instants by chance: the files and
// settings are as before or as wanted, nothing between, once it is started again; and the
// session is there again by itself and tells programs what the files say (Debian:
// libgtk-3-dev, dconf-cli, dconf-gsettings-backend, xvfb, dbus-daemon, procps).
func TestKilledWhileItServes(t *testing.T) {
	t.Parallel()
	ivelt := ivelt(t)
	b := newBox(t, t.TempDir(), 0, ivelt, nil, nil)
	b.provide(t)
	open := leftOpen(t, b.seat, build(t, "open", "gtk+-3.0", "libgtk-3-dev"))
	looks := map[string]outfit.Outfit{
		"one": outfit.Outfit{Name: "one"}.With(desk.FacetIcons, "Tango").With(desk.FacetPointer, "DMZ-White").With(desk.FacetPointerSize, "32").With(desk.FacetEffects, "none").With(desk.FacetWorkspaces, "3"),
		"two": outfit.Outfit{Name: "two"}.With(desk.FacetIcons, "hicolor").With(desk.FacetPointer, "DMZ-Black").With(desk.FacetPointerSize, "48").With(desk.FacetEffects, "all").With(desk.FacetWorkspaces, "7"),
	}
	after, file := map[string]map[string]string{}, filepath.Join(t.TempDir(), "look.toml")
	dress := func(name string) {
		write(t, file, string(looks[name].Bytes()))
		b.own(t, "apply", "--outfit", file)
	}
	for _, name := range []string{"one", "two", "one", "two"} { // what each leaves, whatever was there
		dress(name)
		after[name] = wholeHome(t, b.seat)
	}
	r := rand.New(rand.NewPCG(23, 3))
	n, killed, before, wanted := int(4**times), map[string]int{}, 0, 0
	var server *server
	var at *pages
	for i := range n {
		name, other := []string{"one", "two"}[i%2], []string{"two", "one"}[i%2]
		if server == nil {
			server = b.serve(t, "--write")
			at = visit(t, server)
		}
		for _, facet := range looks[name].Facets() {
			res, err := at.forms.PostForm(at.host+"/d/own/draft", url.Values{"facet": {facet}, "piece": {looks[name].Want(facet)}})
			require.NoError(t, err)
			res.Body.Close()
			require.Equal(t, http.StatusSeeOther, res.StatusCode)
		}
		m := planOf.FindStringSubmatch(at.read(t, "/d/own/review"))
		require.NotNil(t, m)
		go func() { // nobody waits for the answer of one who is killed
			if res, err := at.PostForm(at.host+"/d/own/apply", url.Values{"plan": {m[1]}}); err == nil {
				_, _ = io.Copy(io.Discard, res.Body)
				res.Body.Close()
			}
		}()
		time.Sleep(time.Duration(r.Int64N(int64(30 * time.Millisecond)))) // it is done in about 15
		victim := []string{"server", "server", "hold", "guard"}[r.IntN(4)]
		killed[victim]++
		if victim == "server" {
			require.NoError(t, server.Process.Kill())
			_ = server.Wait()
			server = nil
			b.own(t, "recover")
		} else {
			require.Eventually(t, func() bool { return len(b.sessionOf(t)) == 2 }, 10*time.Second, 10*time.Millisecond)
			was := b.sessionOf(t)
			require.NoError(t, syscall.Kill(was[victim == "hold"], syscall.SIGKILL))
			require.Eventually(t, func() bool {
				now := b.sessionOf(t)
				return len(now) == 2 && now[victim == "hold"] != was[victim == "hold"] && now[victim != "hold"] == was[victim != "hold"]
			}, 10*time.Second, 5*time.Millisecond, "%s is there again, and the other stayed", victim)
			require.Eventually(t, func() bool { return maps.Equal(after[name], wholeHome(t, b.seat)) }, 10*time.Second, 50*time.Millisecond, "%d: the server went on", i)
		}
		switch now := wholeHome(t, b.seat); {
		case maps.Equal(now, after[other]):
			before++
			name = other
		case maps.Equal(now, after[name]):
			wanted++
		default:
			require.Equal(t, after[name], now, "%d: neither as before nor as wanted, %s killed", i, victim)
		}
		want := looks[name].Want(desk.FacetIcons)
		require.Eventually(t, func() bool {
			now, err := session.Ask(b.x11)
			return err == nil && now.Own && now.XSettings["Net/IconThemeName"] == want
		}, 10*time.Second, 5*time.Millisecond, "%d: the session tells %s, %s killed", i, want, victim)
		require.Eventually(t, func() bool { return open.now()["gtk-icon-theme-name"] == want }, 10*time.Second, 5*time.Millisecond, "%d: the open program shows it", i)
		if server == nil && name == other {
			dress([]string{"one", "two"}[i%2])
		}
	}
	t.Logf("killed %d times, %v: %d times as before, %d times as wanted", n, killed, before, wanted)
}
