package truth

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/session"
)

// listening is how the compositor says on which display it serves programs for X.
var listening = regexp.MustCompile(`xserver listening on display (:\d+)`)

// told is what a program has written so far.
type told struct {
	sync.Mutex
	bytes.Buffer
}

func (s *told) Write(b []byte) (int, error) {
	s.Lock()
	defer s.Unlock()
	return s.Buffer.Write(b)
}

func (s *told) find(re *regexp.Regexp) []string {
	s.Lock()
	defer s.Unlock()
	return re.FindStringSubmatch(s.String())
}

// TestMonitorsStandAsGTKSays: what the display is asked about its monitors agrees with what GTK 3 makes
// of them: two and three monitors of sizes by chance, some turned, and one that is cut in two by hand,
// of which GTK passes over what has no output (Debian: libgtk-3-dev, weston, xwayland,
// x11-xserver-utils).
func TestMonitorsStandAsGTKSays(t *testing.T) {
	t.Parallel()
	gtk := build(t, "monitors", "gtk+-3.0", "libgtk-3-dev")
	host := displayOf(t, "4096x3072")
	held := 0
	same := func(screen string) {
		t.Helper()
		c := tool(t, gtk, "libgtk-3-dev")
		c.Env = append(os.Environ(), "DISPLAY="+screen, "GDK_BACKEND=x11", "HOME="+t.TempDir())
		want := strings.Split(strings.TrimSpace(output(t, c)), "\n")
		now, err := session.Ask(screen)
		require.NoError(t, err)
		var got []string
		for _, m := range now.Monitors {
			got = append(got, fmt.Sprintf("%s %d %d %d %d", m.Name, m.At.X, m.At.Y, m.Width, m.Height))
		}
		slices.Sort(want)
		slices.Sort(got)
		require.Equal(t, want, got)
		held += len(got)
	}
	r := rand.New(rand.NewPCG(31, 1))
	for n := range 2 * *times {
		dir := t.TempDir()
		require.NoError(t, os.Chmod(dir, 0o700))
		file := "[core]\nxwayland=true\n"
		outputs := 2 + n%2
		for i := range outputs {
			file += fmt.Sprintf("[output]\nname=X%d\nmode=%dx%d\ntransform=%s\n", i+1, 320+r.IntN(900), 240+r.IntN(700), []string{"normal", "rotate-90", "rotate-180", "rotate-270"}[r.IntN(4)])
		}
		write(t, filepath.Join(dir, "weston.ini"), file)
		c := tool(t, "weston", "weston", "--backend=x11-backend.so", "--use-pixman", "--socket=w", "--idle-time=0", fmt.Sprintf("--output-count=%d", outputs))
		c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + dir, "XDG_CONFIG_HOME=" + dir, "XDG_RUNTIME_DIR=" + dir, "DISPLAY=" + host}
		log := &told{}
		c.Stdout, c.Stderr = log, log
		require.NoError(t, c.Start())
		stop := func() { _ = c.Process.Kill(); _ = c.Wait() }
		t.Cleanup(stop)
		require.Eventually(t, func() bool { return log.find(listening) != nil }, 20*time.Second, 20*time.Millisecond, "the compositor did not come up")
		same(log.find(listening)[1])
		stop()
	}
	before := held
	c := tool(t, "xrandr", "x11-xserver-utils", "--setmonitor", "half of it", "2048/500x3072/700+0+0", "none")
	c.Env = append(os.Environ(), "DISPLAY="+host)
	output(t, c)
	same(host)
	require.Equal(t, before+1, held)
	t.Logf("%d monitors compared", held)
}
