package standin

import (
	"embed"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"sync"

	"github.com/Masterminds/semver/v3"

	"ivelt/core/desk"
)

//go:embed surfaces/*.toml locked/surfaces/*.toml
var descriptors embed.FS

// Surfaces returns the descriptors of the stand-ins that draw, but for Breakwater's.
func Surfaces() []desk.Surface { return slices.Clone(surfaces()) }

// LockedSurfaces are those of Breakwater, which has programs of its own alone.
func LockedSurfaces() []desk.Surface { return slices.Clone(lockedSurfaces()) }

var (
	surfaces       = sync.OnceValue(func() []desk.Surface { return desk.MustLoad(descriptors, "surfaces") })
	lockedSurfaces = sync.OnceValue(func() []desk.Surface { return desk.MustLoad(descriptors, "locked/surfaces") })
)

// Quayside is a shell. With a theme for another Quayside it comes up as a bare
// screen.
var Quayside = Program{
	ID: "quayside", Files: []string{"~/.config/quayside/quayside.conf", "/etc/quayside/quayside.conf"}, Shown: "~/.local/state/quayside/session.conf",
	Settings: []Setting{
		{"Look", "icons", nil, "hicolor"},
		{"Look", "icon-size", number(0, 9999), "64"},
		{"Look", "desk-icons", oneOf("shown", "hidden"), "shown"},
		{"Look", "desk-icons-at", anEdge, "left"},
		{"Look", "desk-icons-gap", number(0, 200), "40"},
		{"Look", "desk-icons-name", oneOf("below", "beside", "hidden"), "below"},
		{"Look", "desk-clock", somePlace, "none"},
		{"Look", "theme", nil, ""},
		{"Look", "notices", nil, "as theme"},
		{"Look", "frames", nil, "as theme"},
		{"Look", "shade", oneOf("light", "dark", "automatic"), "light"},
		{"Look", "accent", aColour, "#1d6b52"},
		{"Look", "font", aFont, "Sans 11"},
		{"Look", "document-font", aFont, ""},
		{"Look", "opacity", number(0, 9999), "100"},
		{"Look", "blur", number(0, 9999), "0"},
		{"Look", "saturation", number(0, 300), "100"},
		{"Look", "backdrop", aPath, ""},
		{"Look", "backdrop-each", pictures, ""},
		{"Look", "backdrop-lies", oneOf("fill", "fit", "stretch", "centre", "tile", "span", "none"), "fill"},
		{"Look", "backdrop-across", number(0, 100), "50"},
		{"Look", "backdrop-down", number(0, 100), "50"},
		{"Look", "backdrop-ground", aColour, "#40484d"},
		{"Look", "menu-picture", aPath, ""},
		{"Look", "effects", oneOf("none", "few", "all"), "few"},
		{"Look", "frame-buttons", nil, "menu:minimize,maximize,close"},
		{"Look", "double-click", titleClick, "maximise"},
		{"Look", "middle-click", titleClick, "none"},
		{"Look", "right-click", titleClick, "menu"},
		{"Look", "motion", oneOf("full", "less"), "full"},
		{"Look", "opening", anEffect("fade", "grow", "rise", "roll"), "grow 160 ease-out"},
		{"Look", "closing", anEffect("fade", "grow", "rise", "roll"), "fade 120 ease-in"},
		{"Look", "minimising", anEffect("fade", "shrink", "sink"), "shrink 220 ease-in-out"},
		{"Look", "switching", anEffect("fade", "slide", "zoom"), "slide 260 ease-in-out"},
		{"Look", "workspaces", number(1, 12), "4"},
		{"Look", "workspaces-as", oneOf("fixed", "needed"), "fixed"},
		{"Look", "workspace-names", someNames, "none"},
		{"Look", "workspace-backdrops", pictures, "none"},
		{"Look", "maximised-title", oneOf("kept", "gone"), "kept"},
		{"Bar", "bars", someBars, "top 34: menu pinned / / tray battery clock"},
		{"Bar", "dock", someDock, "none"},
		{"Windows", "tiles", someTiles, "hand"},
	},
	failing: bare, failed: "bare",
}

// anEdge is one of a screen's.
var anEdge = oneOf("left", "right", "top", "bottom")

// titleClick is what a click on a window's title may do.
var titleClick = oneOf("maximise", "roll up", "lower", "minimise", "menu", "none")

// Version is Quayside's own.
const Version = "3.2"

// bare tells which of Quayside's themes is not made for it.
func bare(d Root, told map[string]string) error {
	for _, key := range []string{"theme", "notices", "frames"} {
		theme := told["Look/"+key]
		if theme == "" {
			continue
		}
		for _, base := range []string{"~/.local/share/themes", "~/.themes", "/usr/local/share/themes", "/usr/share/themes"} {
			at := filepath.Join(base, theme, "quayside")
			if !d.there(filepath.Join(at, "shell.css")) {
				continue
			}
			said, ok, err := setting(d.host(filepath.Join(at, "shell.conf")), "Shell", "Versions")
			if err != nil {
				return err
			}
			if fits, err := semver.NewConstraint(said); ok && (err != nil || !fits.Check(semver.MustParse(Version))) {
				return fmt.Errorf("the shell comes up as a bare screen: %s is made for Quayside %s, and this is %s", theme, said, Version)
			}
			break
		}
	}
	return nil
}

// Withy draws window frames, Samphire a bar and notices, Creel files and what
// lies on the desk, Tidestaff a status readout.
var (
	Withy = Program{
		ID: "withy", Files: []string{"~/.config/withy/withy.conf", "/etc/withy/withy.conf"}, Shown: "~/.local/state/withy/shown.conf",
		Settings: []Setting{
			{"Frames", "theme", nil, ""},
			{"Frames", "title-font", aFont, "Sans 10"},
			{"Frames", "buttons", nil, "menu:minimize,maximize,close"},
			{"Frames", "accent", aColour, "#50606c"},
			{"Frames", "workspaces", number(1, 12), "2"},
			{"Frames", "workspaces-as", oneOf("fixed", "needed"), "fixed"},
			{"Frames", "workspace-names", someNames, "none"},
			{"Frames", "gaps", someGaps, "hand"},
			{"Frames", "double-click", titleClick, "maximise"},
			{"Frames", "middle-click", titleClick, "none"},
			{"Frames", "right-click", titleClick, "menu"},
			{"Frames", "motion", oneOf("full", "less"), "full"},
			{"Frames", "opening", anEffect("fade", "grow", "rise", "roll"), "grow 160 ease-out"},
			{"Frames", "closing", anEffect("fade", "grow", "rise", "roll"), "fade 120 ease-in"},
			{"Frames", "minimising", anEffect("fade", "shrink", "sink"), "shrink 220 ease-in-out"},
			{"Frames", "switching", anEffect("fade", "slide", "zoom"), "slide 260 ease-in-out"},
		},
	}
	Samphire = Program{
		ID: "samphire", Files: []string{"~/.config/samphire/samphire.conf", "/etc/samphire/samphire.conf"}, Shown: "~/.local/state/samphire/shown.conf",
		Settings: []Setting{
			{"Bar", "theme", nil, ""},
			{"Bar", "icons", nil, "hicolor"},
			{"Bar", "font", aFont, "Sans 10"},
			{"Bar", "accent", aColour, "#50606c"},
			{"Bar", "opacity", number(0, 100), "100"},
			{"Bar", "menu-picture", aPath, ""},
			{"Bar", "bars", samphireBars, "bottom 30: menu pinned / / tray clock"},
			{"Notices", "theme", nil, ""},
		},
	}
	Creel = Program{
		ID: "creel", Files: []string{"~/.config/creel/creel.conf", "/etc/creel/creel.conf"}, Shown: "~/.local/state/creel/shown.conf",
		Settings: []Setting{
			{"View", "icons", nil, ""},
			{"View", "document-font", aFont, ""},
			{"Desk", "backdrop", aPath, ""},
			{"Desk", "backdrop-each", pictures, ""},
			{"Desk", "backdrop-lies", oneOf("fill", "fit", "stretch", "centre", "tile", "span", "none"), "fill"},
			{"Desk", "backdrop-across", number(0, 100), "50"},
			{"Desk", "backdrop-down", number(0, 100), "50"},
			{"Desk", "backdrop-ground", aColour, "#40484d"},
			{"Desk", "icon-size", number(16, 128), "48"},
			{"Desk", "desk-icons", oneOf("shown", "hidden"), "shown"},
			{"Desk", "icons-at", anEdge, "left"},
			{"Desk", "icons-gap", number(0, 200), "40"},
			{"Desk", "icons-name", oneOf("below", "beside", "hidden"), "below"},
		},
	}
	Tidestaff = Program{
		ID: "tidestaff", Files: []string{"~/.config/tidestaff/tidestaff.conf"}, Shown: "~/.local/state/tidestaff/shown.conf",
		Settings: []Setting{
			{"Readout", "highlight", aColour, "#b8862b"},
			{"Readout", "font", aFont, "Monospace 10"},
			{"Readout", "place", somePlace, "bottom right 24 24"},
		},
	}
)

// Sedge is a drawing engine: it paints the controls of its programs with the
// elements of a style's drawing.
var Sedge = Program{
	ID: "sedge", Files: []string{"~/.config/sedge/sedge.conf", "/etc/sedge/sedge.conf"}, Shown: "~/.local/state/sedge/shown.conf",
	Settings: []Setting{{"Engine", "style", nil, "plain"}},
}

// Bittern is a terminal: what it shows is in the profile that it opens with.
var Bittern = Program{
	ID: "bittern", Files: []string{"~/.config/bittern/bittern.conf", "/etc/bittern/bittern.conf"}, Shown: "~/.local/state/bittern/shown.conf",
	Settings: []Setting{{"Bittern", "profile", nil, "Plain"}},
	more:     profile,
}

var profileSettings = []Setting{
	{"Look", "palette", nil, ""},
	{"Look", "font", aFont, "Monospace 11"},
	{"Look", "opacity", number(20, 100), "100"},
	{"Look", "blur", number(0, 64), "0"},
	{"Look", "bars", oneOf("shown", "hidden"), "shown"},
	{"Look", "columns", number(20, 400), "80"},
	{"Look", "rows", number(5, 200), "24"},
	{"Start", "program", aPath, ""},
}

func profile(p Program, d Root, told map[string]string) ([]Setting, error) {
	name := told["Bittern/profile"] + ".conf"
	return profileSettings, p.read(d, []string{"~/.config/bittern/profiles/" + name, "/usr/share/bittern/profiles/" + name}, profileSettings, told)
}

// Opens reports why a window of Bittern would close at once, nil if it would not.
func Opens(d Root) error {
	told := map[string]string{}
	if err := Bittern.read(d, Bittern.Files, Bittern.Settings, told); err != nil {
		return err
	}
	if _, err := profile(Bittern, d, told); err != nil {
		return err
	}
	program := told["Start/program"]
	if program == "" {
		return nil
	}
	for i, r := range program {
		if r == ' ' {
			program = program[:i]
			break
		}
	}
	info, err := os.Stat(d.host(program))
	if err != nil || info.IsDir() || info.Mode()&0o111 == 0 {
		return fmt.Errorf("the window closes at once: %s cannot be started", program)
	}
	return nil
}

// Lantern and Tollgate are login screens.
var (
	Lantern  = greeter("lantern", "/etc/lantern/lantern.conf", "Greeter", "login.theme", "quayside")
	Tollgate = greeter("tollgate", "/etc/tollgate/tollgate.conf", "Screen", "gate.theme", "withy")
)

func greeter(id, file, group, description, session string) Program {
	p := Program{
		ID: id, Files: []string{file}, Shown: "/var/lib/" + id + "/shown.conf", failed: "dark",
		Settings: []Setting{
			{group, "theme", nil, "Plain"},
			{group, "backdrop", aPath, ""},
			{group, "icons", nil, "hicolor"},
			{group, "pointer", nil, ""},
			{group, "pointer-size", number(8, 256), "24"},
			{group, "font", aFont, "Sans 12"},
			{group, "person", aPath, ""},
			{group, "pane", oneOf("shown", "hidden"), "shown"},
			{group, "num-lock", oneOf("on", "off"), "off"},
			{group, "session", nil, session},
			{group, "sign-in", oneOf("asks", "by itself"), "asks"},
		},
	}
	p.failing = func(d Root, told map[string]string) error {
		if err := dark(d, id, description, func(key string) string { return told[group+"/"+key] }); err != nil {
			return fmt.Errorf("the screen stays black: %w", err)
		}
		return nil
	}
	return p
}

// Programs are those that can be started again by themselves.
var Programs = []Program{Quayside, Withy, Samphire, Creel, Tidestaff, Sedge, Bittern, Lantern, Tollgate, Breakwater, Ledge}

// Named returns the stand-in of that ID.
func Named(id string) (Program, bool) {
	i := slices.IndexFunc(Programs, func(p Program) bool { return p.ID == id })
	if i < 0 {
		return Program{}, false
	}
	return Programs[i], true
}
