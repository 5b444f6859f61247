package truth

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/gvariant"
	"ivelt/core/reading"
	"ivelt/core/xsettings"
	"ivelt/session"
)

// printed is how a toolkit's settings program prints a facet: a text in quotes,
// or a number or TRUE or FALSE as it is.
var printed = map[string]*regexp.Regexp{
	desk.FacetWidgets:     regexp.MustCompile(`(?m)^\s*gtk-theme-name: (.*)$`),
	desk.FacetIcons:       regexp.MustCompile(`(?m)^\s*gtk-icon-theme-name: (.*)$`),
	desk.FacetPointer:     regexp.MustCompile(`(?m)^\s*gtk-cursor-theme-name: (.*)$`),
	desk.FacetPointerSize: regexp.MustCompile(`(?m)^\s*gtk-cursor-theme-size: (.*)$`),
	desk.FacetDark:        regexp.MustCompile(`(?m)^\s*gtk-application-prefer-dark-theme: (.*)$`),
	desk.FacetButtons:     regexp.MustCompile(`(?m)^\s*gtk-decoration-layout: (.*)$`),
	desk.FacetDouble:      regexp.MustCompile(`(?m)^\s*gtk-titlebar-double-click: (.*)$`),
	desk.FacetMiddle:      regexp.MustCompile(`(?m)^\s*gtk-titlebar-middle-click: (.*)$`),
	desk.FacetRight:       regexp.MustCompile(`(?m)^\s*gtk-titlebar-right-click: (.*)$`),
	desk.FacetMotion:      regexp.MustCompile(`(?m)^\s*gtk-enable-animations: (.*)$`),
	desk.FacetFont:        regexp.MustCompile(`(?m)^\s*gtk-font-name: (.*)$`),
	desk.FacetAntialias:   regexp.MustCompile(`(?m)^\s*gtk-xft-antialias: (.*)$`),
	desk.FacetHinting:     regexp.MustCompile(`(?m)^\s*gtk-xft-hintstyle: (.*)$`),
	desk.FacetSubpixel:    regexp.MustCompile(`(?m)^\s*gtk-xft-rgba: (.*)$`),
}

// clickWords are what clicks on a title do, by the toolkits' and the desktops' words.
var clickWords = map[string]string{"toggle-maximize": "maximise", "toggle-maximize-horizontally": "wider", "toggle-maximize-vertically": "taller", "toggle-shade": "roll up", "lower": "lower", "minimize": "minimise", "menu": "menu", "none": "none"}

// inOurWords is what a toolkit prints of a facet, in Ivelt's words.
func inOurWords(facet, text string) string {
	if v, err := strconv.Unquote(text); err == nil {
		text = v // printed by g_strescape
	}
	switch facet {
	case desk.FacetDark:
		return map[string]string{"TRUE": "dark", "FALSE": "light"}[text]
	case desk.FacetAntialias:
		return map[string]string{"1": "on", "0": "off"}[text]
	case desk.FacetDouble, desk.FacetMiddle, desk.FacetRight:
		return clickWords[text]
	case desk.FacetMotion:
		return map[string]string{"TRUE": "full", "FALSE": "less"}[text]
	case desk.FacetHinting:
		return strings.TrimPrefix(text, "hint")
	}
	if text == "NULL" {
		return ""
	}
	return text
}

// seat is a home with the session that runs in it.
type seat struct {
	home string
	env  map[string]string // the session's
	said []string          // what was put into it, to be shown if something differs
}

// ask runs a program in the session.
func (s seat) ask(t *testing.T, program, debian string, args ...string) string {
	t.Helper()
	c := tool(t, program, debian, args...)
	c.Env = s.environ()
	return output(t, c)
}

func (s seat) environ() []string {
	out := []string{"PATH=" + os.Getenv("PATH"), "HOME=" + s.home, "LANG=C.UTF-8", "NO_AT_BRIDGE=1", "GDK_DEBUG=gl-disable"}
	for _, k := range slices.Sorted(maps.Keys(s.env)) {
		out = append(out, k+"="+s.env[k])
	}
	return out
}

// desk is the same as Ivelt sees it.
func (s seat) desk(t *testing.T) *desk.Desk {
	t.Helper()
	d, err := desk.Open("seat", s.home, "/", "")
	require.NoError(t, err)
	d.Env = maps.Clone(s.env)
	d.SetSurfaces(desk.Builtin())
	d.Running = session.Of(s.env["DISPLAY"])
	return d
}

// put writes a file of the home.
func (s *seat) put(t *testing.T, name, text string) {
	t.Helper()
	write(t, filepath.Join(s.home, name), text)
	s.said = append(s.said, "~/"+name+":\n"+text)
}

// house is what sessions run in: a display, a provider on it, a compositor.
type house struct {
	display  string
	provider *provider
	runtime  string
	wayland  string
}

func newHouse(t *testing.T) *house {
	h := &house{display: display(t)}
	h.provider = provide(t, h.display)
	h.runtime, h.wayland = compositor(t)
	return h
}

// seat makes a home and its session, everything that decides in it by chance.
func (h *house) seat(t *testing.T, r *rand.Rand, folder string) *seat {
	t.Helper()
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	s := &seat{home: t.TempDir(), env: map[string]string{}}
	for _, theme := range []string{"Reef", "Skerry", "Two Words"} {
		for _, f := range []string{"gtk-3.0", "gtk-4.0"} {
			write(t, filepath.Join(s.home, ".themes", theme, f, "gtk.css"), "")
		}
		write(t, filepath.Join(s.home, ".themes", theme, "gtk-2.0/gtkrc"), "")
		if r.IntN(4) == 0 {
			s.put(t, ".themes/"+theme+"/"+folder+"/settings.ini", themesOwn(r))
		}
	}
	if folder == "gtk-2.0" {
		s.put(t, ".gtkrc-2.0", messyResource(r))
		s.put(t, "more.rc", messyResource(r))
	} else if r.IntN(4) > 0 {
		s.put(t, ".config/"+folder+"/settings.ini", messy(r))
	}
	if r.IntN(5) == 0 && folder != "gtk-2.0" {
		s.env["GTK_THEME"] = pick("Reef", "Skerry", "Reef:dark", "Two Words")
	}
	h.provider.hold(nil)
	if r.IntN(2) == 0 && folder != "gtk-2.0" {
		s.env["XDG_RUNTIME_DIR"], s.env["WAYLAND_DISPLAY"], s.env["GDK_BACKEND"] = h.runtime, h.wayland, "wayland"
		h.settings(t, r, s)
		return s
	}
	s.env["DISPLAY"], s.env["GDK_BACKEND"], s.env["GSETTINGS_BACKEND"] = h.display, "x11", "memory"
	if r.IntN(3) > 0 {
		held := xsettings.Settings{"Net/DoubleClickTime": int32(400), "X/Colour": xsettings.Colour{1, 2, 3, 4}}
		for _, name := range []string{"Net/ThemeName", "Net/IconThemeName", "Gtk/CursorThemeName", "Gtk/CursorThemeSize", "Gtk/FontName", "Gtk/DecorationLayout", "Gtk/EnableAnimations", "Gtk/TitlebarDoubleClick", "Gtk/TitlebarRightClick", "Xft/Antialias", "Xft/HintStyle", "Xft/RGBA"} {
			if r.IntN(2) > 0 {
				continue
			}
			switch name {
			case "Net/ThemeName":
				held[name] = pick("Reef", "Skerry", "Two Words")
			case "Gtk/CursorThemeSize":
				held[name] = int32(r.IntN(200) - 20)
			case "Gtk/FontName":
				held[name] = pick("Sans 10", "Lato Bold 9.5", "")
			case "Gtk/DecorationLayout":
				held[name] = pick("close:", ":menu,icon", "menu,appmenu:x,close")
			case "Gtk/TitlebarDoubleClick", "Gtk/TitlebarRightClick":
				held[name] = pick("toggle-maximize", "minimize", "lower", "menu", "none")
			case "Xft/Antialias", "Gtk/EnableAnimations":
				held[name] = int32(r.IntN(2))
			case "Xft/HintStyle":
				held[name] = pick("hintnone", "hintslight", "hintmedium", "hintfull")
			case "Xft/RGBA":
				held[name] = pick("none", "rgb", "bgr", "vrgb", "vbgr")
			default:
				held[name] = pick("Gull", "Tern", "", "Two Words", "Möwe")
			}
		}
		h.provider.hold(held)
		s.said = append(s.said, fmt.Sprint("XSETTINGS: ", held))
	}
	resources := ""
	for range r.IntN(5) {
		resources += pick("Xft.antialias: 0", "Xft.antialias: 1", "Xft.hintstyle: hintfull", "Xft.hintstyle:\thintslight", "Xft.rgba: rgb", "Xft.rgba: none", "Xft.dpi: 110", "Xcursor.size: 30", "! Xft.rgba: bgr", "") + "\n"
	}
	s.put(t, ".Xresources", resources)
	s.ask(t, "xrdb", "x11-xserver-utils", "-nocpp", "-load", filepath.Join(s.home, ".Xresources"))
	return s
}

// settings fills GLib's settings, in one of the backends.
func (h *house) settings(t *testing.T, r *rand.Rand, s *seat) {
	t.Helper()
	text := messySettings(r)
	if r.IntN(3) > 0 {
		s.env["GSETTINGS_BACKEND"] = "keyfile"
		s.put(t, ".config/glib-2.0/settings/keyfile", text)
		return
	}
	// The tool that makes administrators' databases makes a person's as well; it
	// takes no text that is no value.
	s.env["GSETTINGS_BACKEND"] = "dconf"
	profile, dir := filepath.Join(s.home, "profile"), filepath.Join(s.home, "databases")
	for _, name := range []string{"one", "two"} {
		fit := ""
		for line := range strings.Lines(messySettings(r)) {
			_, value, is := strings.Cut(strings.TrimSpace(line), "=")
			_, text := gvariant.ParseText("s", value)
			if _, err := gvariant.ParseText("i", value); err == nil && !strings.Contains(value, "9999") || text == nil || !is && strings.HasPrefix(line, "[org") {
				fit += strings.TrimSpace(line) + "\n"
			}
		}
		s.put(t, "databases/"+name+".d/00", fit)
		if name == "two" && r.IntN(2) == 0 {
			s.put(t, "databases/two.d/locks/00", strings.ReplaceAll("/{interface}/icon-theme\n/{interface}/font-name\n", "{interface}", folderOf(desk.FacetIcons)))
		}
		s.ask(t, "dconf", "dconf-cli", "compile", filepath.Join(dir, name), filepath.Join(dir, name+".d"))
	}
	write(t, profile, "# mine first\nuser-db:user\nfile-db:"+dir+"/two # theirs\n")
	require.NoError(t, os.MkdirAll(filepath.Join(s.home, ".config/dconf"), 0o755))
	require.NoError(t, os.Rename(filepath.Join(dir, "one"), filepath.Join(s.home, ".config/dconf/user")))
	s.env["DCONF_PROFILE"] = profile
}

func messySettings(r *rand.Rand) string {
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	var b strings.Builder
	for range r.IntN(3) {
		b.WriteString(pick("# mine", "", "   ") + "\n")
	}
	b.WriteString(pick("", "["+folderOf(desk.FacetContrast)+"]\nhigh-contrast=true\n", "["+folderOf(desk.FacetContrast)+"]\nhigh-contrast=1\n") + "[" + folderOf(desk.FacetIcons) + "]\n")
	for range r.IntN(12) {
		b.WriteString(pick(
			"gtk-theme='Reef'", "gtk-theme='Skerry'", "gtk-theme = 'Two Words'", "gtk-theme=Reef", `icon-theme="Gull"`, "icon-theme='Tern' ", "icon-theme=", "icon-theme=Bare Words", `icon-theme='it\'s'`, "icon-theme='open", "icon-theme=true",
			"icon-theme=5", "cursor-theme='Gull'", "cursor-theme=''", "cursor-size=48", "cursor-size='48'", "cursor-size=int32 32", "cursor-size=uint32 32", "cursor-size=0x20", "cursor-size=-4", "cursor-size=99999999999",
			"font-name='Lato 13'", `font-name="Sans \u0041 9"`, "font-name='Go\\tMono 9'", "color-scheme='prefer-dark'", "font-antialiasing='none'", "font-antialiasing='rgba'", "font-antialiasing='grayscale'", "font-antialiasing='loud'",
			"font-hinting='full'", "font-hinting='none'", "font-hinting='medium'", "font-rgba-order='vbgr'", "font-rgba-order='bgr'", "# icon-theme='Off'", "", "text-scaling-factor=1.25", "enable-animations=false", "enable-animations=true", "enable-animations=0", "document-font-name='Sans 9'", "document-font-name=Lato Black 9", "monospace-font-name='DejaVu Sans Mono 10'", "color-scheme='prefer-light'", "color-scheme='dim'", "color-scheme=prefer-dark",
		) + "\n")
	}
	if r.IntN(2) == 0 {
		b.WriteString("\n[" + folderOf(desk.FacetButtons) + "]\nbutton-layout=" + pick("'close:menu'", "'appmenu:minimize,maximize,close'", "':close'", "'menu,icon:spacer,close'", "'a:b:c'", "''", "close:icon") + "\n")
	}
	return b.String()
}

// keyOf is the schema and the key under which GLib's settings keep a facet, as the
// descriptors say.
func keyOf(facet string) (schema, key string) {
	for _, s := range desk.Builtin() {
		f, ok := s.Facet(facet)
		if !ok {
			continue
		}
		for _, src := range f.Sources {
			if src.Format == "gsettings" {
				return src.Group, src.Key
			}
		}
	}
	return "", ""
}

// folderOf is the same schema as the key file has it.
func folderOf(facet string) string {
	schema, _ := keyOf(facet)
	return strings.ReplaceAll(schema, ".", "/")
}

func themesOwn(r *rand.Rand) string {
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	out := "[Settings]\n"
	for range 1 + r.IntN(3) {
		out += pick("gtk-icon-theme-name=Brought", "gtk-decoration-layout=menu:", "gtk-font-name=Lato 8", "gtk-cursor-theme-name=Brought", "gtk-cursor-theme-size=17", "gtk-xft-antialias=0", "gtk-xft-antialias=1", "gtk-xft-hintstyle=hintfull", "gtk-xft-rgba=bgr", "gtk-cursor-theme-size=wide", "# nothing") + "\n"
	}
	return out
}

// TestReadingsAgreeInAnySession makes homes in sessions of every kind, with all
// that decides in them, and compares what toolkits show with the readings:
// settings files, what themes bring along, GTK_THEME, XSETTINGS, X resources,
// and GLib's settings in a key file and in databases with locks (Debian:
// libgtk2.0-dev, libgtk-3-bin, libgtk-4-bin, weston, dconf-cli,
// gsettings-desktop-schemas).
func TestReadingsAgreeInAnySession(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	settings2 := build(t, "settings2", "gtk+-2.0", "libgtk2.0-dev")
	kits := []struct{ surface, program, debian, folder string }{{"gtk2", settings2, "libgtk2.0-dev", "gtk-2.0"}, {"gtk3", "gtk-query-settings", "libgtk-3-bin", "gtk-3.0"}, {"gtk4", "gtk4-query-settings", "libgtk-4-bin", "gtk-4.0"}}
	n := 40 * *times
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 61))
		kit := kits[seed%3]
		s := h.seat(t, r, kit.folder)
		var text string
		if kit.surface == "gtk2" {
			c := exec.CommandContext(t.Context(), kit.program)
			c.Env = s.environ()
			text = output(t, c)
		} else {
			text = s.ask(t, kit.program, kit.debian)
		}
		d := s.desk(t)
		surface, _ := d.Surface(kit.surface)
		for _, f := range surface.Facets {
			if s.env["GTK_THEME"] != "" && (f.Name == desk.FacetWidgets || f.Name == desk.FacetDark) {
				continue // it overrules the setting, which is printed as it is; see TestTheSheetThatIsWorn
			}
			if f.Name == desk.FacetDisplayScale {
				continue // no setting; see TestTextIsAsLargeAsToolkitsMakeIt
			}
			m := printed[f.Name].FindStringSubmatch(text)
			require.NotNil(t, m, "%s prints no %s", kit.program, f.Name)
			theirs := inOurWords(f.Name, m[1])
			ours := reading.Told(d, surface, f)
			if !same(kit.surface+" "+d.Display(), f.Name, theirs, ours.Value) {
				t.Errorf("seed %d, %s, %s: the program %q, Ivelt %q from %v\n%v\n%s", seed, kit.surface, f.Name, theirs, ours.Value, ours.Source, s.env, strings.Join(s.said, "\n"))
			}
		}
	}
	t.Logf("homes of seeds 0 to %d", n-1)
}
