package core_test

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/judge"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/settingsfile"
	"ivelt/core/taste"
	"ivelt/sign"
)

// What meeting anything at all may cost, and how soon it hears that nobody waits for it.
const (
	maxProcessor = 2 * time.Second
	maxPeak      = 200 << 20 // bytes resident, with the program itself
	maxDeaf      = 200 * time.Millisecond
	maxOnDisk    = 1 << 20 // bytes of an input
)

// hostile is an input that asks for far more than it is.
type hostile struct {
	what  string
	bytes func(t testing.TB) []byte                     // as it lies on disk; nil for nothing
	meet  func(ctx context.Context, file string) string // what Ivelt does with it; returns what it says
	says  string                                        // a part of that
}

// cost is what meeting an input took.
type cost struct {
	Says      string
	Processor time.Duration
	Peak      int64         // bytes
	Deaf      time.Duration // the longest from a cancel to the end
}

var meetOnly, meetFile = flag.String("meet", "", "the hostile input to meet, for a process of its own"), flag.String("file", "", "and where it lies")

// TestHostileInputs meets each in a process of its own, and what takes longer once more, to cancel it
// on its way.
// -v shows what it cost as a table.
func TestHostileInputs(t *testing.T) {
	if *meetOnly != "" {
		t.Skip("a process of its own meets one")
	}
	dir := t.TempDir()
	t.Setenv("TMPDIR", dir)
	file := filepath.Join(dir, "x")
	for _, h := range hostiles {
		b := []byte(nil)
		if h.bytes != nil {
			b = h.bytes(t)
		}
		require.Less(t, len(b), maxOnDisk, h.what)
		require.NoError(t, os.WriteFile(file, b, 0o600))
		var took cost
		well := false
		for try := 0; try < 3 && !well; try++ { // what the machine does besides only adds
			took = meet(t, h.what, file)
			well = took.within(slowness(t))
		}
		t.Logf("%-40s %5d kB  %5d ms CPU  %4d MB peak  hears a cancel in %3d ms  %s", h.what, len(b)>>10, took.Processor.Milliseconds(), took.Peak>>20, took.Deaf.Milliseconds(), took.Says[:min(len(took.Says), 160)])
		if !well {
			t.Errorf("%s costs too much", h.what)
		}
		if !strings.Contains(took.Says, h.says) || took.Says == "" {
			t.Errorf("%s is not said: %.1000q", h.what, took.Says)
		}
	}
}

// meet has an input met in a process of its own.
func meet(t *testing.T, what, file string) (took cost) {
	c := exec.CommandContext(t.Context(), os.Args[0], "-test.run", "^TestMeetOne$", "-test.v", "-meet", what, "-file", file)
	c.Env = append(os.Environ(), "GOGC=100") // as Ivelt runs, however the tests do
	out, err := c.CombinedOutput()
	require.NoError(t, err, "%s: %s", what, out)
	_, line, ok := bytes.Cut(out, []byte("cost: "))
	require.True(t, ok, "%s: %s", what, out)
	require.NoError(t, json.NewDecoder(bytes.NewReader(line)).Decode(&took), what)
	return took
}

// within tells whether a cost is within the bounds, on a machine that takes so many hundredths
// of the time.
func (c cost) within(slow time.Duration) bool {
	return c.Processor <= slow*maxProcessor/100 && c.Peak <= maxPeak && c.Deaf <= slow*maxDeaf/100
}

// TestMeetOne is the process that meets one.
func TestMeetOne(t *testing.T) {
	for _, h := range hostiles {
		if h.what != *meetOnly {
			continue
		}
		var took cost
		before, begun := processor(t), time.Now()
		took.Says = h.meet(t.Context(), *meetFile)
		lasted := time.Since(begun)
		took.Processor = processor(t) - before
		took.Peak = peak(t)
		// Cancelled after two fifths of its time, it hears of that no later than it ends by itself.
		if took.Deaf = lasted * 3 / 5; took.Deaf >= maxDeaf {
			took.Deaf = deaf(t, h, lasted-took.Deaf)
		}
		text, err := json.Marshal(took)
		require.NoError(t, err)
		fmt.Printf("cost: %s\n", text)
		return
	}
}

// deaf is how long an input is still met after that is cancelled, a while after it began.
func deaf(t *testing.T, h hostile, after time.Duration) time.Duration {
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	ended := make(chan time.Time)
	go func() {
		h.meet(ctx, *meetFile)
		ended <- time.Now()
	}()
	select {
	case <-ended:
		return 0
	case <-time.After(after):
	}
	begun, work := time.Now(), processor(t)
	cancel()
	waited := (<-ended).Sub(begun)
	return min(waited, processor(t)-work) // the machine may be at other work
}

// slowness is how long this machine takes just now for what is known, in hundredths of what
// the machine of the figures takes, but at least 100: to sort a quarter of a million numbers, 22 ms.
func slowness(t *testing.T) time.Duration {
	numbers := make([]uint64, 1<<18)
	chance := rand.New(rand.NewPCG(1, 2))
	for i := range numbers {
		numbers[i] = chance.Uint64()
	}
	before := processor(t)
	slices.Sort(numbers)
	return max(100*(processor(t)-before)/(22*time.Millisecond), 100)
}

// processor is the time that this process has spent, in all its threads.
func processor(t *testing.T) time.Duration {
	var u syscall.Rusage
	require.NoError(t, syscall.Getrusage(syscall.RUSAGE_SELF, &u))
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

// peak is the most memory that this process ever had, in bytes. (What getrusage says of it
// begins with that of the process that started this one.)
func peak(t *testing.T) (kB int64) {
	text, err := os.ReadFile("/proc/self/status")
	require.NoError(t, err)
	_, rest, _ := strings.Cut(string(text), "VmHWM:")
	_, err = fmt.Sscan(rest, &kB)
	require.NoError(t, err)
	return kB << 10
}

// meetParcel opens a parcel, and looks at each piece as the pages do.
func meetParcel(ctx context.Context, file string) string {
	p, err := parcel.Open(ctx, file, archive.Options{})
	if err != nil {
		return err.Error()
	}
	defer p.Close()
	found := p.Recognise(ctx)
	for _, pc := range found.Pieces[:min(len(found.Pieces), 3)] { // each is a request of its own
		sign.Piece(ctx, p, pc)
		taste.Of(ctx, p, pc)
	}
	says := fmt.Sprintf("%d pieces", len(found.Pieces))
	for _, n := range found.Notes {
		says += "; " + n.Text
	}
	return says
}

// meetTheme unpacks a parcel onto a desk that then wears its theme Stone: it is read,
// pictured and judged.
func meetTheme(ctx context.Context, file string) string {
	p, err := parcel.Open(ctx, file, archive.Options{})
	if err != nil {
		return err.Error()
	}
	defer p.Close()
	dir, err := os.MkdirTemp("", "hostile")
	if err != nil {
		return err.Error()
	}
	defer os.RemoveAll(dir)
	home := filepath.Join(dir, "home")
	if err := os.CopyFS(filepath.Join(home, ".themes"), p); err != nil {
		return err.Error()
	}
	return wear(ctx, home, "Stone")
}

// wear pictures and judges a desk with that home which wears a theme.
func wear(ctx context.Context, home, theme string) string {
	system := filepath.Join(filepath.Dir(home), "system")
	if err := os.MkdirAll(system, 0o755); err != nil {
		return err.Error()
	}
	d, err := desk.Open("d", home, system, "/home/me")
	if err != nil {
		return err.Error()
	}
	d.SetSurfaces(desk.Builtin())
	says := []string{}
	for _, r := range reading.All(d) {
		for _, step := range r.Chain {
			if step.State == reading.Broken {
				says = append(says, step.Note)
			}
		}
	}
	look := preview.Draft(ctx, d, outfit.Outfit{}.With(desk.FacetWidgets, theme))
	for _, scene := range preview.Scenes {
		if ctx.Err() != nil {
			return "cancelled"
		}
		preview.Draw(d, look, scene.Name)
	}
	for _, n := range preview.Notes(d, look, "controls") {
		if strings.Contains(n.Text, "not read") || strings.Contains(n.Text, "not everything") {
			says = append(says, n.Text)
		}
	}
	for _, v := range judge.Of(d, look) {
		says = append(says, v.Text)
	}
	return strings.Join(says, "; ")
}

// meetPlace is a desk with something in a settings file's place.
func meetSettings(form settingsfile.Form) func(context.Context, string) string {
	return meetBytes(func(b []byte) error {
		_, err := settingsfile.Set(form, b, "a", "fresh", "x", settingsfile.How{})
		return err
	})
}

func meetPlace(lay func(at string) error) func(context.Context, string) string {
	return func(ctx context.Context, _ string) string {
		dir, err := os.MkdirTemp("", "hostile")
		if err != nil {
			return err.Error()
		}
		defer os.RemoveAll(dir)
		home := filepath.Join(dir, "home")
		for _, at := range []string{".config/gtk-3.0/settings.ini", ".config/gtk-4.0/gtk.css", ".gtkrc-2.0", ".themes/Stone/gtk-3.0/gtk.css", ".config/dconf/user", ".Xresources"} {
			whole := filepath.Join(home, at)
			if err := os.MkdirAll(filepath.Dir(whole), 0o755); err != nil {
				return err.Error()
			}
			if err := lay(whole); err != nil {
				return err.Error()
			}
		}
		return wear(ctx, home, "Stone")
	}
}

// until reads no more once a context has ended, as a request's body does.
type until struct {
	ctx context.Context
	*endless
}

func (u until) Read(b []byte) (int, error) {
	if err := u.ctx.Err(); err != nil {
		return 0, err
	}
	return u.endless.Read(b)
}

// endless gives the same bytes over and over.
type endless struct {
	begins, goesOn string
	at             int
}

func (e *endless) Read(b []byte) (int, error) {
	if e.begins != "" {
		n := copy(b, e.begins)
		e.begins = e.begins[n:]
		return n, nil
	}
	n := copy(b, e.goesOn[e.at:])
	e.at = (e.at + n) % len(e.goesOn)
	return n, nil
}

// said is an error as a sentence, or what else is to be said.
func said(err error, other string) string {
	if err != nil {
		return err.Error()
	}
	return other
}

// bytesOf reads an input.
func bytesOf(file string) []byte {
	b, err := os.ReadFile(file)
	if err != nil {
		panic(err)
	}
	return b
}
