package truth

import (
	"encoding/json"
	"errors"
	"fmt"
	"image"
	stdpng "image/png"
	"maps"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"text/tabwriter"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/xsettings"
	"ivelt/session"
	"ivelt/session/sessiontest"
	"ivelt/store"
)

// box is a session with all that is in one, and programs that stay open.
type box struct {
	*seat
	ivelt, x11 string // the program; the display of an X session
	open       map[string]*open
	tools      map[string]string // programs that are started to be asked, by name
	told       *boxTable
}

// shows is what one program shows of a facet, and the surface that tells of it.
type shows struct{ program, surface, facet, value string }

// boxTable is how often programs show what the readings say, by program and facet, and when.
type boxTable struct {
	sync.Mutex
	agree, differ map[[3]string]int
}

// shared is the surface of the settings that desktops share.
const shared = "desktop"

var whens = []string{"before", "after", "back"}

func (b *boxTable) String() string {
	var out strings.Builder
	w := tabwriter.NewWriter(&out, 0, 0, 2, ' ', 0)
	fmt.Fprintln(w, "program\tfacet\tbefore\tafter\tback")
	rows := map[[2]string]bool{}
	for _, m := range []map[[3]string]int{b.agree, b.differ} {
		for k := range m {
			rows[[2]string{k[0], k[1]}] = true
		}
	}
	for _, row := range slices.SortedFunc(maps.Keys(rows), func(a, b [2]string) int { return strings.Compare(a[0]+"\t"+a[1], b[0]+"\t"+b[1]) }) {
		fmt.Fprintf(w, "%s\t%s", row[0], row[1])
		for _, when := range whens {
			k := [3]string{row[0], row[1], when}
			fmt.Fprintf(w, "\t%d/%d", b.agree[k], b.agree[k]+b.differ[k])
		}
		fmt.Fprintln(w)
	}
	w.Flush()
	return out.String()
}

// own runs a command of Ivelt's in the box, on its own desk.
func (b *box) own(t *testing.T, args ...string) string {
	t.Helper()
	c := exec.CommandContext(t.Context(), b.ivelt, append(args, "--own")...)
	c.Env = b.environ()
	out, err := c.Output()
	if exit, is := errors.AsType[*exec.ExitError](err); is && exit.ExitCode() == 1 { // something is amiss, which it says
		err = nil
	}
	require.NoError(t, err, "%v\n%s\n%v", args, out, err)
	return string(out)
}

// readings are Ivelt's of the box, by surface and facet.
func (b *box) readings(t *testing.T) map[[2]string]reading.Reading {
	t.Helper()
	var all []reading.Reading
	require.NoError(t, json.Unmarshal([]byte(b.own(t, "read", "--json")), &all))
	out := map[[2]string]reading.Reading{}
	for _, r := range all {
		out[[2]string{r.Surface, r.Facet}] = r
	}
	return out
}

var (
	gtk2Setting = regexp.MustCompile(`(?m)^(gtk-[a-z-]+): (.*)$`)
	sizeLoaded  = regexp.MustCompile(`(?m)^Xcursor\.size:\s*(.*)$`)
	propBytes   = regexp.MustCompile(`_XSETTINGS_SETTINGS = ([0-9, ]+)`)
)

// ask asks all programs of the box what they show.
func (b *box) ask(t *testing.T) (out []shows) {
	t.Helper()
	add := func(program, surface, facet, value string) { out = append(out, shows{program, surface, facet, value}) }
	for id, p := range b.open {
		now := p.now()
		for facet, name := range properties {
			add(id+", open", id, facet, now[name])
		}
		add(id+", open", id, desk.FacetWidgets, now["gtk-theme-name"])
		if dpi, err := strconv.Atoi(now["gtk-xft-dpi"]); err == nil && b.x11 == "" { // in 1/1024, of 96 usually
			add(id+", open", shared, desk.FacetTextScale, strconv.Itoa((dpi*100+96*512)/(96*1024)))
		}
	}
	words := map[string]string{"'prefer-dark'": "dark", "'prefer-light'": "light", "'default'": "light"}
	for _, s := range desk.Builtin() {
		if s.ID != "settings" && s.ID != shared {
			continue
		}
		for _, f := range s.Facets {
			if f.Name == desk.FacetBackdrop {
				continue // it is asked in full in another test
			}
			schema, key := f.Sources[0].Group, f.Sources[0].Key
			said := strings.TrimSpace(b.seat.ask(t, "gsettings", "libglib2.0-bin", "get", schema, key))
			switch f.Name {
			case desk.FacetLies:
				said = saidToLie[strings.Trim(said, "'")]
			case desk.FacetContrast:
				said = map[string]string{"true": "high", "false": "usual"}[said]
			case desk.FacetDouble, desk.FacetMiddle, desk.FacetRight:
				said = clickWords[strings.Trim(said, "'")]
			case desk.FacetMotion:
				said = map[string]string{"true": "full", "false": "less"}[said]
			case desk.FacetDark:
				said = words[said]
			case desk.FacetClock:
				said = map[string]string{"'24h'": "24-hour", "'12h'": "12-hour"}[said]
			case desk.FacetTextScale:
				n, err := strconv.ParseFloat(said, 64)
				require.NoError(t, err)
				said = strconv.FormatFloat(math.Round(100*n), 'f', -1, 64)
			case desk.FacetButtons:
				said = strings.ReplaceAll(said, "appmenu", "menu") // the older name
			}
			add("GLib's settings", s.ID, f.Name, strings.Trim(said, "'"))
		}
	}
	for facet, value := range rendered(t, b.seat) {
		add("fontconfig", "fonts", facet, value)
	}
	if b.x11 == "" {
		return out
	}
	for _, m := range gtk2Setting.FindAllStringSubmatch(b.run(t, "settings2"), -1) {
		for facet, name := range properties {
			if name == m[1] {
				value, err := strconv.Unquote(m[2]) // printed by g_strescape
				if err != nil {
					value = m[2] // a number
				}
				add("gtk2, started", "gtk2", facet, value)
			}
		}
	}
	for name, debian := range map[string]string{"/usr/lib/qt5/bin/qtdiag": "qttools5-dev-tools", "/usr/lib/qt6/bin/qtdiag6": "qt6-tools-dev-tools"} {
		text, icons := b.seat.ask(t, name, debian), "hicolor"
		if m := qtIcons.FindStringSubmatch(text); m != nil {
			icons = m[1]
		}
		add(filepath.Base(name)+", started", "qt", desk.FacetIcons, icons)
		if m := qtFont.FindStringSubmatch(text); m != nil {
			add(filepath.Base(name)+", started", "qt", desk.FacetFont, m[1]+" "+m[2])
		}
	}
	of := strings.Split(b.run(t, "pointer"), "\n")
	if of[0] != "" { // without a theme it is the folder called default, which the picture tells
		add("libXcursor, started", "display", desk.FacetPointer, of[0])
	}
	add("libXcursor, started", "display", desk.FacetPointerSize, of[1])
	if m := sizeLoaded.FindStringSubmatch(b.seat.ask(t, "xrdb", "x11-xserver-utils", "-query")); m != nil {
		add("X resources, loaded", "display", desk.FacetPointerSize, m[1])
	}
	seen, loads, owner := overBackground(t, b.seat, b.tools["rootpointer"])
	if len(loads) == 1 {
		value := b.reading(t, "display", desk.FacetPointer)
		if seen != loads[0] {
			value = "another than " + value + ": " + seen
		}
		add("the background's pointer", "display", desk.FacetPointer, value)
	}
	const property = "_XSETTINGS_SETTINGS"
	prop := b.seat.ask(t, "xprop", "x11-utils", "-id", owner, "-notype", "-f", property, "8c", property, "_IVELT_SESSION")
	require.Contains(t, prop, `_IVELT_SESSION = "1"`)
	m := propBytes.FindStringSubmatch(prop)
	require.NotNil(t, m, prop)
	var raw []byte
	for _, n := range strings.Split(m[1], ", ") {
		v, err := strconv.Atoi(strings.TrimSpace(n))
		require.NoError(t, err)
		raw = append(raw, byte(v))
	}
	provided, err := xsettings.Parse(raw)
	require.NoError(t, err)
	if v, ok := provided["Net/IconThemeName"].(string); ok {
		add("XSETTINGS, provided", "gtk3", desk.FacetIcons, v)
	}
	return out
}

func (b *box) reading(t *testing.T, surface, facet string) string {
	t.Helper()
	return b.readings(t)[[2]string{surface, facet}].Value
}

// run starts a program of the box's tools.
func (b *box) run(t *testing.T, name string) string {
	t.Helper()
	c := exec.CommandContext(t.Context(), b.tools[name])
	c.Env = b.environ()
	return output(t, c)
}

// compare asks all programs, and holds what they show against the readings, until they
// agree or the time is up: the open ones follow when they get to it.
func (b *box) compare(t *testing.T, when, what string) []shows {
	t.Helper()
	var all []shows
	var bad []string
	for end := time.Now().Add(30 * time.Second); ; {
		all, bad = b.ask(t), nil
		now := b.readings(t)
		for _, s := range all {
			if r := now[[2]string{s.surface, s.facet}]; !b.same(s, r) {
				bad = append(bad, fmt.Sprintf("%s, %s: it shows %q, Ivelt reads %q from %v", s.program, s.facet, s.value, r.Value, r.Source))
			}
		}
		if len(bad) == 0 || time.Now().After(end) {
			break
		}
	}
	now := b.readings(t)
	b.told.Lock()
	defer b.told.Unlock()
	for _, s := range all {
		if k := [3]string{s.program, s.facet, when}; b.same(s, now[[2]string{s.surface, s.facet}]) {
			b.told.agree[k]++
		} else {
			b.told.differ[k]++
		}
	}
	if len(bad) > 0 {
		t.Errorf("%s %s:\n%s\n%v\n%s", what, when, strings.Join(bad, "\n"), b.env, strings.Join(b.said, "\n"))
	}
	return all
}

// same reports whether a program shows what a reading says. A size of 0 is left to the
// screen, and the display's own pointers go by the name default.
func (b *box) same(s shows, r reading.Reading) bool {
	switch {
	case s.facet == desk.FacetPointerSize && r.Value == "0", s.facet == desk.FacetPointer && r.Value == "" && s.value == "default":
		return true
	case s.surface == "qt" && s.facet == desk.FacetFont && !plain.MatchString(r.Value) && r.Value != "Sans Serif 9":
		return true // a setting with words for the style, which Qt takes apart
	case s.surface == "fonts" && s.facet == desk.FacetFontMono && r.Value == "":
		return true // left to fontconfig's rules
	case s.surface == shared && r.Source.Kind == "default":
		return true // the schema's own, which Ivelt reads as whatever the desktop does
	}
	return s.value == r.Value
}

// newBox makes a session in a box and a home in a folder, both by chance.
func newBox(t *testing.T, in string, seed uint64, ivelt string, tools map[string]string, told *boxTable) *box {
	t.Helper()
	r := rand.New(rand.NewPCG(seed, 230))
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	home := filepath.Join(in, pick("home", "hö me", "it's 100 %"))
	require.NoError(t, os.Mkdir(home, 0o755))
	b := &box{seat: &seat{home: home, env: map[string]string{"GSETTINGS_BACKEND": "dconf", "XDG_CACHE_HOME": "/dev/shm/fc-cache"}}, ivelt: ivelt, tools: tools, open: map[string]*open{}, told: told}
	b.env["XDG_DATA_HOME"] = filepath.Join(b.home, "data")
	if r.IntN(3) == 0 { // on another file system than the home, if there is one
		b.env["XDG_DATA_HOME"] = elsewhere(t)
	}
	for _, theme := range []string{"Reef", "Two Words"} {
		for _, f := range []string{"gtk-3.0/gtk.css", "gtk-4.0/gtk.css", "gtk-2.0/gtkrc"} {
			write(t, filepath.Join(b.home, ".themes", theme, f), "")
		}
	}
	f, err := os.Create(filepath.Join(b.home, "a picture.png"))
	require.NoError(t, err)
	require.NoError(t, errors.Join(stdpng.Encode(f, image.NewGray(image.Rect(0, 0, 4, 3))), f.Close()))
	for _, folder := range []string{"gtk-3.0", "gtk-4.0"} {
		if r.IntN(3) > 0 {
			b.put(t, ".config/"+folder+"/settings.ini", messy(r))
		}
	}
	if r.IntN(2) > 0 {
		b.put(t, ".gtkrc-2.0", messyResource(r))
	}
	if r.IntN(2) > 0 {
		b.put(t, ".Xresources", pick("Xcursor.size: 24\n", "*color0: #000\nXcursor.size:\t40\n", "! mine\n"))
	}
	if r.IntN(2) > 0 {
		b.put(t, ".icons/default/index.theme", "[Icon Theme]\nInherits="+pick("DMZ-Black", "redglass")+"\n")
	}
	if r.IntN(2) > 0 {
		b.put(t, ".config/fontconfig/fonts.conf", renderingRules(r))
	}
	if r.IntN(4) == 0 { // folders that lie elsewhere
		b.env["XDG_CONFIG_HOME"] = filepath.Join(b.home, "my settings")
		require.NoError(t, os.MkdirAll(filepath.Join(b.home, ".config"), 0o755))
		require.NoError(t, os.Rename(filepath.Join(b.home, ".config"), b.env["XDG_CONFIG_HOME"]))
		b.said = append(b.said, "~/.config is ~/my settings")
	}
	b.put(t, ".profile", "# mine\n"+pick("", "export EDITOR=vi\n", "umask 022\n"))
	if r.IntN(3) == 0 { // a repository of settings, linked to
		for _, name := range []string{".config/gtk-3.0/settings.ini", ".profile", ".Xresources"} {
			at := filepath.Join(b.home, name)
			if text, err := os.ReadFile(at); err == nil {
				real := filepath.Join(b.home, "dotfiles", name)
				write(t, real, string(text))
				require.NoError(t, os.Remove(at))
				require.NoError(t, os.Symlink(real, at))
				b.said = append(b.said, "~/"+name+" is a link to "+real)
			}
		}
	}
	if seed%2 == 0 {
		b.x11 = displayOf(t, "640x480")
		b.env["DISPLAY"], b.env["GDK_BACKEND"], b.env["XDG_RUNTIME_DIR"], b.env["XDG_SESSION_TYPE"] = b.x11, "x11", t.TempDir(), "x11"
		b.env["QT_QPA_PLATFORMTHEME"] = "gtk3"
		if _, err := os.Stat(filepath.Join(b.home, ".Xresources")); err == nil { // as at sign-in
			b.seat.ask(t, "xrdb", "x11-xserver-utils", "-nocpp", "-merge", filepath.Join(b.home, ".Xresources"))
		}
	} else {
		runtime, wayland := compositor(t)
		b.env["WAYLAND_DISPLAY"], b.env["XDG_RUNTIME_DIR"], b.env["GDK_BACKEND"], b.env["XDG_SESSION_TYPE"] = wayland, runtime, "wayland", "wayland"
	}
	b.env["DBUS_SESSION_BUS_ADDRESS"], _ = sessiontest.Bus(t, b.environ())
	for range r.IntN(5) {
		schema, key := keyOf(pick(desk.FacetIcons, desk.FacetFontDocument, desk.FacetFontMono))
		b.seat.ask(t, "gsettings", "libglib2.0-bin", "set", schema, key, pick("'Tango'", "'Lato 12'", "'hicolor'"))
	}
	b.seat.ask(t, "dconf", "dconf-cli", "write", "/org/example/other", "'stays'")
	return b
}

// elsewhere is a folder on another file system than that of tests, if there is one.
func elsewhere(t *testing.T) string {
	t.Helper()
	for _, base := range []string{"/dev/shm", "/var/tmp"} {
		if strings.HasPrefix(os.TempDir(), base) {
			continue
		}
		if dir, err := os.MkdirTemp(base, "elsewhere"); err == nil {
			t.Cleanup(func() { os.RemoveAll(dir) })
			return dir
		}
	}
	return t.TempDir()
}

// provide has Ivelt's own session run in the box, put there by its plan.
func (b *box) provide(t *testing.T) (withdraw func()) {
	t.Helper()
	d := b.desk(t)
	d.SetWritable(true)
	carry := func(of func() (p plan.Plan, err error)) {
		t.Helper()
		p, err := of()
		require.NoError(t, err)
		require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: filepath.Join(t.TempDir(), "journal")}))
	}
	carry(func() (plan.Plan, error) { return planning.OfferSession(d, b.ivelt) })
	c := exec.Command(b.ivelt, "session", "--check-at", "0") // ends with what is asked below: killed, it would come again
	c.Env, c.Stderr = b.environ(), os.Stderr
	require.NoError(t, c.Start())
	t.Cleanup(func() { _ = c.Process.Signal(os.Interrupt); _ = c.Wait() })
	require.Eventually(t, func() bool { now, err := session.Ask(b.x11); return err == nil && now.Own }, 20*time.Second, 10*time.Millisecond)
	return func() {
		carry(func() (plan.Plan, error) { return planning.WithdrawSession(d) })
	}
}

// aLook is an outfit by chance, as a file.
func (b *box) aLook(t *testing.T, r *rand.Rand) (file string, o outfit.Outfit) {
	t.Helper()
	o = outfit.Outfit{Name: "by chance"}
	for _, of := range [][]string{
		{desk.FacetWidgets, "Reef", "Two Words"}, {desk.FacetIcons, "Tango", "Adwaita", "hicolor"}, {desk.FacetPointer, "DMZ-White", "DMZ-Black", "redglass", "whiteglass"}, {desk.FacetPointerSize, "24", "32", "48"},
		{desk.FacetFont, "Lato 11", "Lato Black 9", "DejaVu Sans 10"}, {desk.FacetFontDocument, "Lato 12", "DejaVu Serif 10"}, {desk.FacetFontMono, "DejaVu Sans Mono 10", "Liberation Mono 9"}, {desk.FacetFontTitle, "Lato 9", "DejaVu Sans 11"},
		{desk.FacetDark, "dark", "light"}, {desk.FacetContrast, "high", "usual"}, {desk.FacetMotion, "full", "less"}, {desk.FacetDouble, "minimise", "taller"}, {desk.FacetMiddle, "lower", "maximise"}, {desk.FacetRight, "none", "roll up"}, {desk.FacetButtons, ":minimize,close", "close:menu"}, {desk.FacetWorkspaces, "1", "7"}, {desk.FacetLies, "fit", "tile", "none", "span"}, {desk.FacetBehind, "#102030", "#fafaf7"}, {desk.FacetTextScale, "100", "125", "90"}, {desk.FacetClock, "12-hour", "24-hour"},
		{desk.FacetHinting, "slight", "full"}, {desk.FacetSubpixel, "rgb", "none"}, {desk.FacetBackdrop, filepath.Join(b.home, "a picture.png")},
	} {
		if r.IntN(3) > 0 {
			o = o.With(of[0], of[1+r.IntN(len(of)-1)])
		}
	}
	file = filepath.Join(t.TempDir(), "look.toml")
	write(t, file, string(o.Bytes()))
	return file, o
}

// TestASessionInABox dresses whole sessions by --own, on X and under a compositor, while
// programs are open in them: what programs show, open or started for it, and what the
// services and the display say is what Ivelt reads, before, after, and after going back; and
// at the end the home is byte for byte as it was, and so is every setting (Debian:
// libgtk-3-dev, libgtk-4-dev, libgtk2.0-dev, qttools5-dev-tools, qt6-tools-dev-tools,
// libglib2.0-bin, dconf-cli, fontconfig, libxcursor-dev, libxfixes-dev, x11-xserver-utils,
// x11-utils, xvfb, weston, dbus-daemon).
func TestASessionInABox(t *testing.T) {
	t.Parallel()
	ivelt := ivelt(t)
	tools := map[string]string{
		"settings2": build(t, "settings2", "gtk+-2.0", "libgtk2.0-dev"), "pointer": build(t, "pointer", "xcursor x11", "libxcursor-dev"),
		"rootpointer": build(t, "rootpointer", "xcursor x11 xfixes", "libxcursor-dev, libxfixes-dev"),
		"gtk3":        build(t, "open", "gtk+-3.0", "libgtk-3-dev"), "gtk4": build(t, "open", "gtk4", "libgtk-4-dev"),
	}
	told := &boxTable{agree: map[[3]string]int{}, differ: map[[3]string]int{}}
	const sessions = 2
	looks := 4
	if *times > 1 {
		looks = 8
	}
	outfits := 0
	for seed := range sessions * *times {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			b := newBox(t, t.TempDir(), seed, ivelt, tools, told)
			first := wholeHome(t, b.seat)
			var withdraw func()
			if b.x11 != "" {
				withdraw = b.provide(t)
			}
			for _, id := range []string{"gtk3", "gtk4"} {
				b.open[id] = leftOpen(t, b.seat, tools[id])
			}
			r := rand.New(rand.NewPCG(seed, 231))
			b.compare(t, "before", fmt.Sprintf("home %d", seed))
			done := 0
			for i := range looks {
				file, o := b.aLook(t, r)
				what := fmt.Sprintf("home %d, look %d", seed, i)
				printed := b.own(t, "apply", "--outfit", file)
				outfits, done = outfits+1, done+1
				b.compare(t, "after", what)
				now := b.readings(t)
				for id := range b.open {
					for facet := range properties {
						if want := o.Want(facet); want != "" {
							require.Equal(t, want, now[[2]string{id, facet}].Value, "%s: %s, %s\n%s\n%s", what, id, facet, printed, strings.Join(b.said, "\n"))
						}
					}
				}
				if r.IntN(2) == 0 {
					b.own(t, "back")
					done--
					b.compare(t, "back", what)
				}
			}
			for range done {
				b.own(t, "back")
			}
			b.compare(t, "back", fmt.Sprintf("home %d, at the end", seed))
			if withdraw != nil {
				withdraw()
			}
			require.Equal(t, first, wholeHome(t, b.seat), "home %d is as it was\n%s", seed, strings.Join(b.said, "\n"))
		})
	}
	t.Logf("%d outfits in %d sessions\n%s", outfits, sessions**times, told)
}
