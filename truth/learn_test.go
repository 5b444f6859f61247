package truth

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/learning"
	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/learn"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/store"
)

// at is a key that is pressed some time after the one before.
type at struct {
	after time.Duration
	key   string
}

const (
	short, long          = 150 * time.Millisecond, 900 * time.Millisecond
	down, right, f2, f10 = "\033OB", "\033OC", "\033OQ", "\033[21~"
	controlE, controlQ   = "\005", "\021"
)

// onTerminal runs a program on a terminal of its own, and presses keys (Debian:
// bsdutils, script). It returns what was on the screen.
func onTerminal(t *testing.T, home, program string, keys ...at) string {
	c := tool(t, "timeout", "coreutils", "30", "script", "-qfec", "stty rows 40 cols 120; "+program, "/dev/null")
	c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "TERM=xterm-256color", "LANG=C.UTF-8"}
	in, err := c.StdinPipe()
	require.NoError(t, err)
	drawn := &screen{begun: make(chan struct{})}
	c.Stdout, c.Stderr = drawn, drawn
	require.NoError(t, c.Start())
	go func() {
		defer in.Close()
		select { // what is typed before a program listens may be lost
		case <-drawn.begun:
		case <-time.After(15 * time.Second):
		}
		for _, k := range keys {
			time.Sleep(k.after)
			if _, err := io.WriteString(in, k.key); err != nil {
				return
			}
		}
		time.Sleep(long)
	}()
	require.NoError(t, c.Wait(), "%s", drawn.b.String())
	return drawn.b.String()
}

// screen keeps what is drawn, and tells that something is.
type screen struct {
	b     bytes.Buffer
	begun chan struct{}
}

func (s *screen) Write(b []byte) (int, error) {
	if s.b.Len() == 0 && len(b) > 0 {
		close(s.begun)
	}
	return s.b.Write(b)
}

// TestAProgramsSettingsAreLearned: three programs with settings files of different forms.
// A person changes one thing in the program, twice in turn; the descriptor that comes of
// it is read, planned by, and gone back on, and the program takes what the plan wrote.
func TestAProgramsSettingsAreLearned(t *testing.T) {
	for _, c := range []struct {
		form, facet string
		words       map[string]string
		// begin runs the program once; change changes its setting; shows asks the
		// program itself, in a home, what it would show.
		begin, change func(t *testing.T, home, program string)
		shows         func(t *testing.T, home, program string) string
		other         string // another value, in Ivelt's word
	}{
		{
			form: "lines", facet: desk.FacetDark, words: map[string]string{"5": "light", "0": "dark"}, other: "dark",
			begin: func(t *testing.T, home, program string) {
				onTerminal(t, home, program, at{long, f2}, at{short, " "}, at{short, right}, at{short, " "}, at{short, f10}, at{short, "q"})
			},
			change: func(t *testing.T, home, program string) {
				onTerminal(t, home, program, at{long, f2}, at{long, down}, at{short, down}, at{short, down}, at{short, down}, at{short, right}, at{short, down}, at{short, down}, at{short, down}, at{short, down}, at{short, down}, at{short, "\r"}, at{short, f10}, at{short, "q"})
			},
			shows: func(t *testing.T, home, program string) string {
				// On its own page the colours that are chosen are marked.
				out := onTerminal(t, home, program, at{long, f2}, at{long, down}, at{short, down}, at{short, down}, at{short, down}, at{short, right}, at{long, f10}, at{short, "q"})
				return strings.Join(regexp.MustCompile(`\[x\]\s+[A-Z]\w+`).FindAllString(out, -1), ", ")
			},
		},
		{
			form: "json", facet: desk.FacetDark, words: map[string]string{"simple": "light", "zenburn": "dark"}, other: "dark",
			begin: func(t *testing.T, home, program string) {
				onTerminal(t, home, program, at{long, controlE}, at{short, "set tabsize 8\r"}, at{short, controlE}, at{short, "set colorscheme zenburn\r"}, at{long, controlQ})
			},
			change: func(t *testing.T, home, program string) {
				onTerminal(t, home, program, at{long, controlE}, at{short, "set colorscheme simple\r"}, at{long, controlQ})
			},
			shows: func(t *testing.T, home, program string) string {
				out := onTerminal(t, home, program, at{long, controlE}, at{short, "show colorscheme\r"}, at{long, controlQ})
				for _, name := range []string{"simple", "zenburn"} {
					if strings.Contains(out, name) {
						return name
					}
				}
				return ""
			},
		},
		{
			form: "yaml", facet: desk.FacetIcons, other: "fancy",
			begin: func(t *testing.T, home, program string) {
				write(t, filepath.Join(home, ".config", program, "config.yaml"), "# as its manual shows it\nclassic: false\ncolor:\n  when: never\nicons:\n  when: always\n  theme: fancy # or unicode\n  separator: \" \"\ndate: date\n")
			},
			change: func(t *testing.T, home, program string) {
				file := filepath.Join(home, ".config", program, "config.yaml")
				b, err := os.ReadFile(file)
				require.NoError(t, err)
				write(t, file, strings.Replace(string(b), "theme: fancy", "theme: 'unicode'", 1))
			},
			shows: func(t *testing.T, home, program string) string {
				dir := t.TempDir()
				write(t, filepath.Join(dir, "a.zip"), "")
				c := exec.CommandContext(t.Context(), program, "-1", dir)
				c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "LANG=C.UTF-8"}
				return fmt.Sprintf("%+q", output(t, c))
			},
		},
	} {
		t.Run(c.form, func(t *testing.T) {
			t.Parallel() // most of it is waiting
			program := programOf(t, c.form)
			home := t.TempDir()
			write(t, filepath.Join(home, ".config/other/session.ini"), "[window]\nx=1\nlast=1700000000\n")
			c.begin(t, home, program)
			first := c.shows(t, home, program)
			d, err := desk.Open("learned", home, t.TempDir(), "/home/me")
			require.NoError(t, err)
			d.SetWritable(true)
			talk, err := learning.Begin(t.Context(), d, learn.About{ID: "mine", Title: "A program of mine", Kind: "program", Restart: "program"}, []string{"{config}"})
			require.NoError(t, err)

			c.change(t, home, program)
			write(t, filepath.Join(home, ".config/other/session.ini"), "[window]\nx=17\nlast=1700009999\n")
			found, err := talk.Again(t.Context())
			require.NoError(t, err)
			require.Len(t, found.Likely, 1, "%+v", found)
			require.Len(t, found.Noise, 2, "%+v", found)
			change := found.Likely[0]
			require.Equal(t, c.form, change.Format)
			require.NoError(t, talk.Teach(change.Place(), c.facet, c.words))
			file, err := talk.Write()
			require.NoError(t, err)
			b, err := os.ReadFile(d.HostPath(file))
			require.NoError(t, err)
			s, err := desk.ParseSurface(b)
			require.NoError(t, err, "what `surface check` says")
			require.Len(t, s.Facets, 1)

			second := c.shows(t, home, program)
			require.NotEqual(t, first, second, "the program shows what was changed")
			r := reads(t, d, "mine", c.facet)
			require.Nil(t, r.Problem)
			require.Equal(t, change.Path, r.Source.Path)
			require.Equal(t, change.Line, r.Source.Line)
			keep := store.Blobs{Dir: t.TempDir()}
			before := filesUnder(t, home)
			p, err := planning.Dress(t.Context(), d, outfit.Outfit{Name: "Another"}.With(c.facet, c.other))
			require.NoError(t, err)
			require.Empty(t, p.Blocked)
			require.Len(t, p.Ops, 1)
			require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: keep, Journal: filepath.Join(t.TempDir(), "journal")}))
			require.Equal(t, c.other, reads(t, d, "mine", c.facet).Value)
			require.Equal(t, first, c.shows(t, home, program), "the program takes what the plan wrote")
			back, err := planning.Back(d, []plan.Plan{p}, keep, planning.Aim{})
			require.NoError(t, err)
			require.NoError(t, apply.Plan(t.Context(), d, back.Plan, apply.Config{Keep: keep, Journal: filepath.Join(t.TempDir(), "journal")}))
			require.Equal(t, before[d.HostPath(change.Path)], filesUnder(t, home)[d.HostPath(change.Path)])
			require.Equal(t, second, c.shows(t, home, program))
			t.Logf("%-5s  line %2d, %q → %q: learned, read, planned, taken by the program, gone back on", c.form, change.Line, change.From, change.To)
		})
	}
}
