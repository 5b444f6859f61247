package app_test

import (
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"image"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/unlock"
	"ivelt/core/xcursor"
	"ivelt/standin"
)

// locked is a desk under a vendor's lock, in a folder of its own.
type locked struct {
	t     testing.TB
	dir   string
	d     *desks.Managed
	a     *app.App
	call  func() error  // before each system call that changes something
	late  time.Duration // how far its clock is ahead
	store []byte        // a database with nothing in it, made once; nil for one of its own
}

func (l *locked) root() standin.Root {
	return standin.Root{Home: filepath.Join(l.dir, "home"), System: filepath.Join(l.dir, "system")}
}

func (l *locked) put(p, text string) {
	at := filepath.Join(l.dir, "system", p)
	if rest, mine := strings.CutPrefix(p, "~"); mine {
		at = filepath.Join(l.dir, "home", rest)
	}
	require.NoError(l.t, os.MkdirAll(filepath.Dir(at), 0o755))
	require.NoError(l.t, os.WriteFile(at, []byte(text), 0o644))
}

// lockedDesk is one of a release, with a theme in its person's home that could be made a look.
func lockedDesk(t testing.TB, dir, release string) *locked {
	l := &locked{t: t, dir: dir, call: func() error { return nil }}
	key := base64.StdEncoding.EncodeToString(ed25519.NewKeyFromSeed(make([]byte, 32)).Public().(ed25519.PublicKey))
	l.put("/etc/machine-id", "00112233445566778899aabbccddeeff\n")
	l.put("/breakwater/release", "[Release]\nversion="+release+"\n")
	l.put("/breakwater/keys/vendor.key", key+"\n")
	l.put("/breakwater/keys/makers.ring", "[Makers]\nvendor="+key+"\n")
	l.put("/breakwater/picket/picket.conf", "[Picket]\nwatch=on\n")
	l.put("/breakwater/picket/known.conf", "# what else may be here\n[Known]\n")
	l.put("/breakwater/backdrops/low.svg", `<svg xmlns="http://www.w3.org/2000/svg"/>`)
	l.put("~/.breakwater/desk.conf", "# mine\n[Desk]\naccent = #2f7f8c\n\n# and this\nshade=dark\n")
	l.put("~/.themes/Reedbed/quayside/shell.css", "panel { color: @accent; }\n")
	l.put("~/.themes/Reedbed/gtk-4.0/gtk.css", "window { background: url(\"../assets/a.svg\"); }\n")
	l.put("~/.themes/Reedbed/gtk-4.0/gtk-dark.css", "window { color: white; }\n")
	l.put("~/.themes/Reedbed/assets/a.svg", "<svg/>")
	l.put("/usr/bin/ledge", "")
	l.put("/usr/share/ledge/ledge.conf", "[Ledge]\nreleases=>= 4, < 5.3\n")
	l.put("/breakwater/volumes.conf", "[Volumes]\nTIDE=stick\n")
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "home/Music"), 0o755))
	l.put("~/.local/share/icons/Shingle/index.theme", "[Icon Theme]\nName=Shingle\nDirectories=64\n[64]\nSize=64\n")
	for _, name := range []string{"folder", "drive-removable-media"} {
		l.put("~/.local/share/icons/Shingle/64/"+name+".svg", `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><rect width="8" height="8" fill="#c80"/></svg>`)
	}
	l.put("~/.icons/Sandpiper/cursors/left_ptr", string(xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: image.NewNRGBA(image.Rect(0, 0, 24, 24)), HotX: 3}})))
	require.NoError(t, os.Chmod(filepath.Join(dir, "home/.breakwater/desk.conf"), 0o600))
	require.NoError(t, standin.List(l.root()))
	require.NoError(t, standin.Breakwater.Start(l.root()))
	return l
}

// open starts an Ivelt on it, as after each loss of power.
func (l *locked) open() {
	d, err := desk.Open("turnstone", filepath.Join(l.dir, "home"), filepath.Join(l.dir, "system"), "/home/mara")
	require.NoError(l.t, err)
	d.Title = "Turnstone"
	d.SetWritable(true)
	d.SetSurfaces(standin.LockedSurfaces())
	on := l.root()
	l.d = &desks.Managed{
		Desk: d, Restarts: map[string]func() error{"breakwater": func() error { return standin.Breakwater.Start(on) }},
		Mark: func(note string) error { _, err := standin.Mark(on, note); return err },
	}
	if file := filepath.Join(l.dir, "data/ivelt.db"); l.store != nil {
		if _, err := os.Stat(file); errors.Is(err, fs.ErrNotExist) {
			require.NoError(l.t, errors.Join(os.MkdirAll(filepath.Dir(file), 0o700), os.WriteFile(file, l.store, 0o600)))
		}
	}
	l.a, err = app.New(l.t.Context(), app.Config{Dir: filepath.Join(l.dir, "data"), Desks: []*desks.Managed{l.d}, Now: func() time.Time { return time.Now().Add(l.late) }, Before: func(apply.Call) error { return l.call() }})
	require.NoError(l.t, err)
}

// files are all that is on the desk but for what the system itself writes as it runs: each
// with its mode and contents.
func (l *locked) files() map[string]string {
	out := map[string]string{}
	for _, top := range []string{"home", "system"} {
		require.NoError(l.t, filepath.WalkDir(filepath.Join(l.dir, top), func(name string, e fs.DirEntry, err error) error {
			require.NoError(l.t, err)
			rel, err := filepath.Rel(l.dir, name)
			require.NoError(l.t, err)
			if slices.Contains([]string{"home/.breakwater/shown.conf", "home/.breakwater/pictures.conf", "home/.local/state", "home/.local/state/ledge", "home/.local/state/ledge/shown.conf"}, rel) || strings.HasPrefix(rel, "system/breakwater/marks") || strings.HasPrefix(rel, "system/breakwater/picket/aside") {
				return nil
			}
			info, err := e.Info()
			require.NoError(l.t, err)
			out[rel] = info.Mode().String()
			if !e.IsDir() {
				b, err := os.ReadFile(name)
				require.NoError(l.t, err)
				out[rel] += " " + string(b)
			}
			return nil
		}))
	}
	return out
}

// same holds the desk against another: what it has more, less or otherwise.
func (l *locked) same(want map[string]string, what string) {
	l.t.Helper()
	have := l.files()
	var odd []string
	for _, name := range slices.Sorted(maps.Keys(have)) {
		if have[name] != want[name] {
			odd = append(odd, fmt.Sprintf("%s: %q, not %q", name, have[name], want[name]))
		}
	}
	for _, name := range slices.Sorted(maps.Keys(want)) {
		if _, ok := have[name]; !ok {
			odd = append(odd, name+" is gone")
		}
	}
	require.Empty(l.t, odd, what)
}

// typed types the way back that was printed on the text console.
func (l *locked) typed(lines []string) {
	for _, line := range lines {
		_, err := standin.TypeAtBreakwater(l.root(), line)
		if err != nil && !strings.Contains(line, "rmdir") { // of a folder that was not made, or is not empty
			require.NoError(l.t, err, line)
		}
	}
}

func (l *locked) black() bool {
	b, err := os.ReadFile(filepath.Join(l.dir, "home/.breakwater/shown.conf"))
	require.NoError(l.t, err)
	return strings.Contains(string(b), "\nblack=yes\n")
}

var theLook = outfit.Outfit{Name: "Reeds"}.With(desk.FacetWidgets, "Reedbed").With(desk.FacetBar, "Reedbed").
	With(desk.FacetIcons, "Shingle").With(desk.FacetPointer, "Sandpiper").With(desk.FacetOpacity, "70").With(desk.FacetBars, "bottom 44 margin 6 round 10: menu pinned / / tray clock").
	With(desk.FacetAccent, "#4f7f5f").With(desk.FacetDark, "light").With(desk.FacetBackdrop, "/breakwater/backdrops/low.svg")

// TestAJourneyGoesThere: on a release of each method the look is shown at the end, each step
// confirmed; and back from each step, by Ivelt or by what is printed for the console, all is
// as before, byte for byte.
func TestAJourneyGoesThere(t *testing.T) {
	t.Parallel()
	for _, release := range []string{"4.8.0", "5.1.3"} {
		for upTo := range len(unlock.Steps) + 1 {
			for _, console := range []bool{false, true} {
				l := lockedDesk(t, t.TempDir(), release)
				before := l.files()
				l.open()
				require.NoError(t, l.a.Journeys.Begin(t.Context(), l.d, theLook, false))
				require.ErrorIs(t, l.a.Journeys.Begin(t.Context(), l.d, theLook, false), changes.ErrOnTheWay)
				for i, step := range unlock.Steps[:upTo] {
					j, err := l.a.Journeys.Of(l.d)
					require.NoError(t, err)
					require.Equal(t, step, j.Next())
					if i+1 < len(unlock.Steps) {
						_, err = l.a.Journeys.Take(l.d, unlock.Steps[i+1], "")
						require.ErrorIs(t, err, changes.ErrOtherStep)
					}
					require.NoError(t, apptest.Wait(l.a.Journeys.Take(l.d, step, "")), "%s: %s", release, step)
				}
				if upTo == len(unlock.Steps) {
					for _, s := range l.d.Surfaces() {
						for facet, want := range map[string]string{desk.FacetWidgets: "Reedbed", desk.FacetBar: "Reedbed", desk.FacetAccent: "#4f7f5f", desk.FacetDark: "light", desk.FacetPointer: "Sandpiper", desk.FacetOpacity: "70", desk.FacetIcons: "Shingle"} {
							if f, has := s.Facet(facet); has && !f.Fixed {
								r := reading.Of(l.d.Desk, s, f)
								require.Equal(t, want, r.Value)
								require.Empty(t, r.Pending)
								require.Nil(t, r.Problem)
							}
						}
					}
				}
				if console {
					j, err := l.a.Journeys.Of(l.d)
					require.NoError(t, err)
					l.typed(j.Way.Console())
				} else {
					require.NoError(t, apptest.Wait(l.a.Journeys.GoBack(l.d, "")))
					_, err := l.a.Journeys.Of(l.d)
					require.ErrorIs(t, err, changes.ErrNoJourney)
				}
				l.same(before, fmt.Sprintf("%s, %d steps, console %v", release, upTo, console))
				require.False(t, l.black())
				require.NoError(t, l.a.Close())
			}
		}
	}
}

var errPower = errors.New("the power is gone")

// faults are what goes wrong in a journey, each with what of it stays when all is gone back on.
var faults = map[string]struct {
	within  bool // a step, at one of its calls
	happens func(l *locked) error
}{
	"the power is lost":            {true, func(*locked) error { return errPower }},
	"the machine is started again": {true, func(l *locked) error { return ignored(standin.Breakwater.Start(l.root())) }},
	"the watchman strikes": {true, func(l *locked) error { // and knows nothing any more
		return errors.Join(os.WriteFile(filepath.Join(l.dir, "system/breakwater/picket/known.conf"), []byte("# what else may be here\n[Known]\n"), 0o644), standin.Round(l.root()))
	}},
	"an update comes": {false, func(l *locked) error {
		_, err := standin.Update(l.root())
		return errors.Join(err, ignored(standin.Breakwater.Start(l.root())))
	}},
	"the mark is damaged": {false, func(l *locked) error {
		all, err := filepath.Glob(filepath.Join(l.dir, "system/breakwater/marks/*/files.tar"))
		for _, file := range all {
			err = errors.Join(err, os.Truncate(file, 100))
		}
		return err
	}},
	"a letter for another release": {false, func(l *locked) error {
		file := filepath.Join(l.dir, "system/breakwater/keys/owner.letter")
		b, err := os.ReadFile(file)
		if err != nil {
			return nil // there is none yet
		}
		text := strings.Replace(string(b), "release=", "release=9.", 1)
		sum := strings.Fields(sumOf(text))[0]
		known := filepath.Join(l.dir, "system/breakwater/picket/known.conf")
		return errors.Join(os.WriteFile(file, []byte(text), 0o644), os.WriteFile(known, []byte("[Known]\n/breakwater/keys/owner.letter="+sum+"\n"), 0o644),
			ignored(standin.Breakwater.Start(l.root())))
	}},
}

func ignored(error) error { return nil } // a desk that stays black says so in its shown file

// TestJourneysWithFaults: 300 journeys by chance, each with something that goes wrong at some
// point. Whatever that is, the desk is as before, or confirmed at a step with a way back that
// works; it is never black without lines that are printed, which then bring it back.
func TestJourneysWithFaults(t *testing.T) {
	t.Parallel()
	first := lockedDesk(t, t.TempDir(), "5.1.3")
	first.open()
	require.NoError(t, first.a.Close())
	made, err := os.ReadFile(filepath.Join(first.dir, "data/ivelt.db"))
	require.NoError(t, err)
	names := slices.Sorted(maps.Keys(faults))
	seen := map[string]int{}
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 31))
		fault := names[r.IntN(len(names))]
		happens := faults[fault]
		release := []string{"4.8.0", "5.1.3", "5.2.1"}[r.IntN(3)]
		at := r.IntN(len(unlock.Steps))
		dir := t.TempDir()
		l := lockedDesk(t, filepath.Join(dir, "one"), release)
		twin := lockedDesk(t, filepath.Join(dir, "two"), release) // to which nothing happens but what comes from outside
		before := l.files()
		l.store = made
		l.open()
		require.NoError(t, l.a.Journeys.Begin(t.Context(), l.d, theLook, false))
		gone := false
		what := fmt.Sprintf("seed %d: %s, %s at step %d", seed, release, fault, at)
		var failed error
		for i, step := range unlock.Steps {
			if i == at && happens.within {
				left := r.IntN(12)
				l.call = func() error {
					if left--; left >= 0 {
						return nil
					}
					if fault == "the power is lost" {
						gone = true
						return errPower
					}
					l.call = func() error { return nil }
					gone = true
					return happens.happens(l)
				}
			} else if i == at {
				gone = true
				require.NoError(t, happens.happens(l), what)
				if fault == "an update comes" {
					require.NoError(t, happens.happens(twin), what)
				}
			}
			if failed = apptest.Wait(l.a.Journeys.Take(l.d, step, "")); failed != nil {
				break
			}
		}
		if gone {
			seen[fault]++
		}
		// Now the way back: by what lies on the disk, typed on the console, or by Ivelt.
		console := r.IntN(2) == 0
		if l.black() { // there has to be something printed
			console = true
			seen["black"]++
		}
		_ = l.a.Close()
		l.call = func() error { return nil }
		files, err := filepath.Glob(filepath.Join(l.dir, "home/.local/state/ivelt/way-back/*/lines.txt"))
		require.NoError(t, err)
		if console && len(files) > 0 {
			b, err := os.ReadFile(files[0])
			require.NoError(t, err)
			l.typed(strings.Split(strings.TrimSpace(string(b)), "\n"))
			seen["console"]++
		} else {
			require.False(t, l.black(), "%s: black, and nothing is printed", what)
		}
		l.open()
		_, stuck := l.a.Applier.Settle(l.d)
		require.False(t, stuck, what)
		j, err := l.a.Journeys.Of(l.d)
		require.NoError(t, err, what)
		if failed == nil && !console {
			require.Empty(t, j.Next(), what)
		}
		require.NoError(t, apptest.Wait(l.a.Journeys.GoBack(l.d, "")), what)
		want := twin.files()
		if known := "system/breakwater/picket/known.conf"; console && fault == "an update comes" && l.files()[known] == before[known] {
			want[known] = before[known] // a console puts back what was before the journey, whatever came since
		}
		l.same(want, what+fmt.Sprintf(", console %v, %v", console, failed))
		require.False(t, l.black(), what)
		require.NoError(t, l.a.Close())
	}
	t.Log(seen)
	for _, name := range append(names, "console", "black") {
		require.Positive(t, seen[name], name)
	}
}

// TestATryEndsUnderALock: what is tried there, and shown after a restart, is gone back on once its time
// is up, by the next Ivelt that starts, on a console too; the system is started again with it.
func TestATryEndsUnderALock(t *testing.T) {
	l := lockedDesk(t, t.TempDir(), "5.1.3")
	before := l.files()
	l.open()
	shown := func() string {
		s, lock := l.d.Locked()
		require.NotNil(t, lock)
		f, _ := s.Facet(desk.FacetAccent)
		return reading.Told(l.d.Desk, s, f).Loaded
	}
	_, job, err := l.a.Changes.Dress(t.Context(), l.d, outfit.Outfit{Name: "Coral"}.With(desk.FacetAccent, "#b4553d"), time.Hour, planning.Options{})
	require.NoError(t, apptest.Wait(job, err))
	require.NoError(t, l.a.Changes.Restart(l.d, "breakwater", false))
	require.Equal(t, "#b4553d", shown())
	require.NoError(t, l.a.Close())
	l.late = 2 * time.Hour
	l.open()
	require.Equal(t, "#2f7f8c", shown())
	l.same(before, "its time is up")
	require.NoError(t, l.a.Close())
}

// TestTheReportSaysWhatIsSo: each thing that speaks for or against unlocking is said, as heavily as it
// weighs; what stops it keeps a journey from being begun.
func TestTheReportSaysWhatIsSo(t *testing.T) {
	for _, c := range []struct {
		what, release string
		do            func(l *locked)
		weight        unlock.Weight
		says          string
	}{
		{"a way for the fourth", "4.8.0", nil, unlock.Fine, "Your key in the makers' ring"},
		{"one for the fifth", "5.2.1", nil, unlock.Fine, "An owner's letter"},
		{"none for the sixth", "6.0.0", nil, unlock.Stop, "No way is known to unlock Breakwater 6.0.0"},
		{"no version", "5.2.1", func(l *locked) { l.put("/breakwater/release", "[Release]\n") }, unlock.Stop, "cannot be told which version"},
		{"settings", "5.2.1", nil, unlock.Mind, "2 settings are not at their defaults"},
		{"no settings", "5.2.1", func(l *locked) { l.put("~/.breakwater/desk.conf", "# none\n") }, unlock.Fine, "All settings are at their defaults"},
		{"no mark", "5.2.1", nil, unlock.Mind, "has made no mark"},
		{"a mark", "5.2.1", func(l *locked) { _, _ = standin.Mark(l.root(), "x") }, unlock.Fine, "less than an hour old, and whole"},
		{"a mark of another release", "5.1.3", func(l *locked) {
			_, _ = standin.Mark(l.root(), "x")
			l.put("/breakwater/release", "[Release]\nversion=5.2.1\n")
		}, unlock.Mind, "is of version 5.1.3"},
		{"a damaged mark", "5.2.1", func(l *locked) {
			name, _ := standin.Mark(l.root(), "x")
			l.put("/breakwater/marks/"+name+"/files.tar", "x")
		}, unlock.Mind, "cannot be gone back to"},
		{"a mark that is a pipe", "5.2.1", func(l *locked) {
			name, _ := standin.Mark(l.root(), "x")
			at := filepath.Join(l.dir, "system/breakwater/marks", name, "files.tar")
			require.NoError(l.t, errors.Join(os.Remove(at), unix.Mkfifo(at, 0o600)))
		}, unlock.Mind, "cannot be gone back to"},
		{"the watchman", "5.2.1", nil, unlock.Mind, "Picket, the watchman, is on"},
		{"no watchman", "5.2.1", func(l *locked) { l.put("/breakwater/picket/picket.conf", "[Picket]\nwatch=off\n") }, unlock.Fine, "is off"},
		{"what was set aside", "5.2.1", func(l *locked) { l.put("/breakwater/keys/x", "x"); require.NoError(l.t, standin.Round(l.root())) }, unlock.Mind, "has set aside 1 file, /breakwater/keys/x"},
		{"a letter where none is known", "4.8.0", func(l *locked) { l.put("/breakwater/keys/owner.letter", "[Letter]\nkey=x\n") }, unlock.Stop, "would stay black at its next start"},
		{"a black desk", "5.2.1", func(l *locked) {
			l.put("~/.breakwater/shown.conf", "[Loaded]\nblack=yes\nwhy=it was told wrong\n")
		}, unlock.Stop, "The desk is black: it was told wrong"},
	} {
		l := lockedDesk(t, t.TempDir(), c.release)
		if c.do != nil {
			c.do(l)
		}
		l.open()
		r, err := l.a.Journeys.Report(t.Context(), l.d)
		require.NoError(t, err, c.what)
		i := slices.IndexFunc(r.Found, func(f unlock.Finding) bool { return strings.Contains(f.Says.String(), c.says) })
		require.GreaterOrEqual(t, i, 0, "%s: %v", c.what, r.Found)
		require.Equal(t, c.weight, r.Found[i].Weight, c.what)
		if err := l.a.Journeys.Begin(t.Context(), l.d, theLook, false); c.weight == unlock.Stop {
			require.ErrorIs(t, err, changes.ErrCannot, c.what)
		}
		require.NoError(t, l.a.Close())
	}
}

func sumOf(text string) string { return fmt.Sprintf("%x", sha256.Sum256([]byte(text))) }
