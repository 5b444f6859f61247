// Package demo makes the demo world: the shore observatory Tidewatch, its desks
// and the market Strandline. Everything in it is invented and drawn by
// code, and comes out the same each time.
package demo

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/sync/errgroup"

	"ivelt/core/desk"
	"ivelt/standin"
)

// Version changes when a world made before is of no more use.
const Version = 31

// World is the demo world on disk.
type World struct {
	Dir    string
	Market string // folder of Strandline, "" if there is none
	Avocet *desk.Desk
	Dunlin *desk.Desk

	Turnstone *desk.Desk
}

// Desks are the desks of the world.
func (w *World) Desks() []*desk.Desk { return []*desk.Desk{w.Avocet, w.Dunlin, w.Turnstone} }

// Names are those of its desks.
func Names() []string { return []string{"avocet", "dunlin", "turnstone"} }

// Desk returns the desk of that name, nil if there is none.
func (w *World) Desk(id string) *desk.Desk {
	for _, d := range w.Desks() {
		if d.ID == id {
			return d
		}
	}
	return nil
}

// drawnBy are the stand-ins that draw a surface, where that has another name.
var drawnBy = map[string]string{"creel-desk": "creel", "breakwater-programs": "breakwater", "ledge": "breakwater"}

// Outside is where a desk's stand-ins run.
func Outside(d *desk.Desk) standin.Root { return standin.Root{Home: d.Home, System: d.System} }

// Restarts are the programs that can be started again on a desk, by surface.
func Restarts(d *desk.Desk) map[string]func() error {
	out := map[string]func() error{}
	for _, s := range d.Surfaces() {
		id := s.ID
		if other := drawnBy[id]; other != "" {
			id = other
		}
		if p, ok := standin.Named(id); ok {
			out[s.ID] = func() error { return p.Start(Outside(d)) }
		}
	}
	return out
}

// Screens draw what the login screens of a desk show now, by surface.
func Screens(d *desk.Desk) map[string]func() ([]byte, error) {
	out := map[string]func() ([]byte, error){}
	for _, s := range d.Surfaces() {
		if p, ok := standin.Named(s.ID); ok && s.Greeter != nil {
			out[s.ID] = func() ([]byte, error) { return p.Screen(Outside(d)) }
		}
	}
	return out
}

// Console does what is typed on a text console of a desk about a login screen, or a system under
// a lock.
func Console(d *desk.Desk, surface, line string) (string, error) {
	s, _ := d.Surface(surface)
	if s.Lock != nil {
		return standin.TypeAtBreakwater(Outside(d), line)
	}
	p, ok := standin.Named(surface)
	if !ok || s.Greeter == nil {
		return "", errors.New("there is no such login screen")
	}
	return p.Type(Outside(d), s.Greeter.Again, line)
}

// Caches are what programs of a desk remember.
func Caches(d *desk.Desk) standin.Caches { return standin.Caches{Home: d.Home, Host: d.HostPath} }

// ErrForeign: the folder has something else in it.
var ErrForeign = errors.New("not a folder of the demo world")

const stamp = "tidewatch.txt"

// Open returns the demo world in dir, made new if it is not there yet or if
// fresh is set. A folder that holds anything else is refused.
func Open(ctx context.Context, dir string, fresh bool) (*World, error) {
	_, err := os.Stat(filepath.Join(dir, stamp))
	if errors.Is(err, fs.ErrNotExist) {
		if left, e := os.ReadDir(dir); e == nil && len(left) > 0 {
			return nil, fmt.Errorf("%w: %s is not empty; name another folder with --dir", ErrForeign, dir)
		}
	} else if err != nil {
		return nil, err
	}
	made, err := MadeBy(dir)
	if err != nil {
		return nil, err
	}
	if fresh || made != Version {
		if err := remake(ctx, dir, true); err != nil {
			return nil, err
		}
	}
	w, err := open(dir)
	if err == nil {
		w.Market = filepath.Join(dir, "strandline")
	}
	return w, err
}

// Desks makes the desks of the demo world alone, without the market, in a folder that is not there
// yet.
func Desks(ctx context.Context, dir string) (*World, error) {
	if err := remake(ctx, dir, false); err != nil {
		return nil, err
	}
	return open(dir)
}

func open(dir string) (*World, error) {
	w := &World{Dir: dir}
	for id, to := range map[string]**desk.Desk{"avocet": &w.Avocet, "dunlin": &w.Dunlin, "turnstone": &w.Turnstone} {
		d, err := desk.Open(id, filepath.Join(dir, id, "home"), filepath.Join(dir, id, "system"), homePath)
		if err != nil {
			return nil, err
		}
		d.Title = strings.ToUpper(id[:1]) + id[1:]
		d.SetWritable(true)
		all := append(desk.Builtin(), standin.Surfaces()...)
		if id == "turnstone" { // a family of its own, with no programs of the toolkits
			all = append(standin.Surfaces(), standin.LockedSurfaces()...)
		}
		d.SetSurfaces(d.Present(all))
		for _, err := range d.OwnSurfaces() {
			slog.Warn("a surface of the person's own", "desk", id, "error", err)
		}
		*to = d
	}
	return w, nil
}

const (
	stampText = "Ivelt's demo world, version "
	homePath  = "/home/mara"
)

// MadeBy is the version of the world in dir; 0 if there is none that is whole.
func MadeBy(dir string) (int, error) {
	text, err := os.ReadFile(filepath.Join(dir, stamp))
	if errors.Is(err, fs.ErrNotExist) {
		return 0, nil
	}
	if err != nil {
		return 0, err
	}
	number, ok := strings.CutPrefix(strings.TrimSpace(string(text)), stampText)
	if !ok {
		return 0, nil
	}
	made, err := strconv.Atoi(number)
	if err != nil {
		return 0, fmt.Errorf("%s: %w", filepath.Join(dir, stamp), err)
	}
	return made, nil
}

// remake builds everything anew. The stamp is written last, so that a world
// cut short is made again.
// remake makes a world anew, with the market or without.
func remake(ctx context.Context, dir string, market bool) error {
	for _, part := range []string{stamp, "avocet", "dunlin", "turnstone", "strandline", "data"} {
		if err := os.RemoveAll(filepath.Join(dir, part)); err != nil {
			return err
		}
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	// Until the stamp is complete the folder is known as ours, but not whole.
	if err := os.WriteFile(filepath.Join(dir, stamp), []byte("being made\n"), 0o644); err != nil {
		return err
	}
	g, ctx := errgroup.WithContext(ctx)
	if market {
		g.Go(func() error { return WriteMarket(ctx, filepath.Join(dir, "strandline")) })
	}
	g.Go(func() error { return makeAvocet(filepath.Join(dir, "avocet")) })
	g.Go(func() error { return makeDunlin(filepath.Join(dir, "dunlin")) })
	g.Go(func() error { return makeTurnstone(filepath.Join(dir, "turnstone")) })
	if err := g.Wait(); err != nil {
		return fmt.Errorf("make the demo world: %w", err)
	}
	return os.WriteFile(filepath.Join(dir, stamp), []byte(stampText+strconv.Itoa(Version)+"\n"), 0o644)
}

//go:embed programs.csv
var programsCSV string

func makeAvocet(dir string) error {
	home, system := filepath.Join(dir, "home"), filepath.Join(dir, "system")
	tree := files{}
	tree.programs("quayside", "coracle", "bittern", "sedge", "gullcall", "sbin/lantern")
	tree.entries()
	for _, p := range []pack{foreshorePack(), marramPack()} {
		f, err := p.make()
		if err != nil {
			return err
		}
		tree.add(f.under("usr/share/icons/" + p.folder))
	}
	tree.add(windowTheme("Saltpan", "White crust and cold blue", saltLight, 6, &saltDark, "Shingle", "Sandpiper").under("usr/share/themes/Saltpan"))
	letters, err := estuary("Estuary Sans")
	if err != nil {
		return err
	}
	tree.add(letters.under("usr/share/fonts/truetype"))
	tree["etc/fonts/fonts.conf"] = []byte(fontsConf)
	for _, s := range shores {
		tree["usr/share/backgrounds/"+s.name+".svg"] = s.svg()
	}
	hicolor, err := fallback()
	if err != nil {
		return err
	}
	tree.add(hicolor.under("usr/share/icons/hicolor"))
	for _, library := range []string{"libgtk-x11-2.0.so.0", "libgtk-3.so.0", "libgtk-4.so.1", "libQt6Core.so.6", "qt6/plugins/platformthemes/libqgtk3.so"} {
		tree["usr/lib/x86_64-linux-gnu/"+library] = nil // that it is there says that its programs are
	}
	tree["etc/gtk-3.0/settings.ini"] = []byte("[Settings]\ngtk-icon-theme-name=Marram\ngtk-theme-name=Saltpan\n")
	tree["etc/quayside/quayside.conf"] = []byte("# As the station sets its desks up.\n[Look]\nicons=Foreshore\n[Bar]\nbars=top 34: menu pinned / / tray battery clock\n")
	tree["etc/machine-id"] = []byte("7f1c0a9b5d2e4c3fa8b6d1e0c9a7b5f3\n")
	tree["etc/lantern/lantern.conf"] = []byte("# Lantern reads this when it starts.\n[Greeter]\ntheme=Slack-Water\nsession=quayside\n")
	tree["usr/share/wayland-sessions/quayside.desktop"] = []byte("[Desktop Entry]\nType=Application\nName=Quayside\nExec=quayside\n")
	login, err := loginThemes("login.theme")
	if err != nil {
		return err
	}
	tree.add(login.under("usr/share/lantern/themes"))
	faces, err := people()
	if err != nil {
		return err
	}
	tree.add(faces.under("usr/share/lantern/people"))
	tree.add(palette("brine", "CC0-1.0", "#f4f1e8", "#2c3238").under("usr/share/palettes"))
	tree["usr/share/bittern/profiles/Watch.conf"] = []byte("[Look]\npalette=brine\nopacity=90\n")
	for _, p := range []string{"Foreshore", "Marram"} { // as the package database has it
		list := "/.\n/usr\n/usr/share\n/usr/share/icons\n/usr/share/icons/" + p + "\n/usr/share/icons/" + p + "/index.theme\n"
		tree["var/lib/dpkg/info/"+strings.ToLower(p)+"-icons.list"] = []byte(list)
	}
	tree["var/lib/dpkg/status"] = []byte(installedPackages)
	tree["var/lib/apt/lists/packages.tidewatch.example_dists_spring_main_binary-all_Packages"] = []byte(sourcePackages)
	for socket, mode := range map[string]string{"eDP-1": "1920x1200\n1280x800\n", "DP-2": "2560x1080\n1920x1080\n", "HDMI-A-1": ""} {
		status := "connected\n"
		if mode == "" {
			status = "disconnected\n"
		}
		tree["sys/class/drm/card0-"+socket+"/status"], tree["sys/class/drm/card0-"+socket+"/modes"] = []byte(status), []byte(mode)
	}
	tree["etc/quayside/monitors.conf"] = []byte("# the laptop stands under the wide one\n[DP-2]\nplace=0 0\n\n[eDP-1]\nplace=320 1080\nscale=1.25\n")
	for program, folders := range map[string]string{"org.tidewatch.Logbook": "Logbook", "org.tidewatch.Charts": "Charts"} {
		tree["var/lib/coracle/programs/"+program+".desktop"] = fmt.Appendf(nil, "[Desktop Entry]\nType=Application\nName=%s\nExec=coracle run %s\n", folders, program)
	}
	mine := maps.Clone(homeFiles)
	mine[".config/gullcall/gullcall.conf"] = "# A launcher that Ivelt knows nothing of by itself.\n[List]\nicons=Marram\ncolours=day\n"
	for name, b := range windowTheme("Saltpan", "White crust", saltLight, 6, nil, "Shingle", "Sandpiper").only("gtk-3.0/", "assets/") { // as it was before it had a dark form
		mine[".themes/Saltpan/"+name] = string(b)
	}
	if err := settle(home, system, tree, mine); err != nil {
		return err
	}
	b, err := kitArchive()
	if err != nil {
		return err
	}
	if err := write(filepath.Join(home, "Downloads/reedbed-kit-0.4.zip"), b); err != nil {
		return err
	}
	return start(home, system, standin.Quayside, standin.Lantern, standin.Sedge, standin.Bittern)
}

// settle writes a desk's system and home.
func settle(home, system string, tree files, mine map[string]string) error {
	for name, b := range tree {
		if err := put(filepath.Join(system, name), b); err != nil {
			return err
		}
		if program := path.Dir(name); program == "usr/bin" || program == "usr/sbin" {
			if err := os.Chmod(filepath.Join(system, name), 0o755); err != nil {
				return err
			}
		}
	}
	if err := os.MkdirAll(filepath.Join(system, homePath), 0o755); err != nil {
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(mine)) {
		if err := put(filepath.Join(home, name), []byte(mine[name])); err != nil {
			return err
		}
	}
	for _, folder := range []string{"Desktop", "Documents", "Downloads", "Music", "Pictures", "Videos", "Projects", "Public", "Templates"} {
		if err := os.MkdirAll(filepath.Join(home, folder), 0o755); err != nil {
			return err
		}
	}
	return nil
}

// start starts programs of a desk, as signing in does.
func start(home, system string, programs ...standin.Program) error {
	for _, p := range programs {
		if err := p.Start(standin.Root{Home: home, System: system}); err != nil {
			return err
		}
	}
	return nil
}

// programs are files that can be run, in usr/bin unless a folder is named.
func (f files) programs(names ...string) {
	for _, name := range names {
		if !strings.Contains(name, "/") {
			name = "bin/" + name
		}
		f["usr/"+name] = []byte("#!/bin/sh\n# A program of the demo: that it is here says that the desk has it.\n")
	}
}

// icons are the pack Foreshore, and what it falls back on.
func (f files) icons() error {
	pack, err := foreshorePack().make()
	if err != nil {
		return err
	}
	hicolor, err := fallback()
	if err != nil {
		return err
	}
	f.add(pack.under("usr/share/icons/Foreshore")).add(hicolor.under("usr/share/icons/hicolor"))
	return nil
}

// entries are the programs that one starts.
func (f files) entries() {
	for i, line := range strings.Split(strings.TrimSpace(programsCSV), "\n") {
		c := strings.Split(line, ",")
		if i == 0 {
			continue
		}
		f["usr/share/applications/"+c[0]+".desktop"] = fmt.Appendf(nil,
			"[Desktop Entry]\nType=Application\nName=%s\nComment=%s\nExec=%s %%F\nIcon=%s\nCategories=%s;\nTerminal=false\n", c[1], c[4], c[0], c[2], c[3])
	}
}

// loginThemes are those that the desk comes with: one that it shows, one that is
// whole, and one that lacks the picture it names.
func loginThemes(description string) (files, error) {
	out, err := lamplight()
	if err != nil {
		return nil, err
	}
	out = files{"Night-Tide/backdrop.png": out["Lamplight/reeds.png"], "Slack-Water/backdrop.svg": shores[0].svg()}
	for name, says := range map[string]string{
		"Slack-Water": "Licence=CC0-1.0\nBackdrop=backdrop.svg\nInk=#20323a\nPanel=#f3efe2\n",
		"Night-Tide":  "Licence=CC0-1.0\nBackdrop=backdrop.png\nInk=#e9e4d4\nPanel=#16242b\n",
		"Wreckers":    "Licence=CC0-1.0\nBackdrop=backdrop.png\nInk=#f0e0c0\nPanel=#402018\n",
	} {
		out[name+"/"+description] = []byte("[Login Theme]\nName=" + strings.ReplaceAll(name, "-", " ") + "\nVersion=1.0\n" + says)
	}
	return out, nil
}

// people are pictures that a person can have on a login screen.
func people() (files, error) {
	out := files{}
	for _, p := range []struct{ name, glyph, tone string }{{"feather", "feather", "kelp"}, {"sunrise", "sunrise", "sand"}, {"water", "water", "sky"}} {
		b, err := raster(wrack.svg(icon{p.name, "places", p.glyph, p.tone}, 128, p.tone), 128)
		if err != nil {
			return nil, err
		}
		out[p.name+".png"] = b
	}
	return out, nil
}

// fontsConf is the desk's fontconfig configuration.
const fontsConf = `<?xml version="1.0"?>
<!DOCTYPE fontconfig SYSTEM "urn:fontconfig:fonts.dtd">
<fontconfig>
  <dir>/usr/share/fonts</dir>
  <dir prefix="xdg">fonts</dir>
  <alias binding="same"><family>Sans</family><prefer><family>sans-serif</family></prefer></alias>
  <alias><family>sans-serif</family><prefer><family>Estuary Sans</family></prefer></alias>
  <alias><family>monospace</family><prefer><family>Estuary Mono</family></prefer></alias>
  <include ignore_missing="yes" prefix="xdg">fontconfig/fonts.conf</include>
</fontconfig>
`

// What the package database of the desk has and can have.
const (
	installedPackages = `Package: foreshore-icons
Status: install ok installed
Version: 3.2-1
Description: icons as the station sets its desks up

Package: marram-icons
Status: install ok installed
Version: 1.9-2

Package: tide-gauge
Status: deinstall ok config-files
Version: 0.8-1
`
	sourcePackages = `Package: cockle-icons
Version: 1.1-2
Architecture: all
Description: icons like small shells

Package: foreshore-icons
Version: 3.2-1
Architecture: all

Package: saltpan-theme
Version: 1.4-1
Architecture: all

Package: sandpiper-cursor-theme
Version: 2.0-1
Architecture: all
`
)

// put writes a file of a tree, or the link it stands for.
func put(name string, b []byte) error {
	if to, ok := strings.CutPrefix(string(b), linkTo); ok {
		if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
			return err
		}
		return os.Symlink(to, name)
	}
	return write(name, b)
}

// fallback is the theme hicolor as the desk's own programs fill it.
func fallback() (files, error) {
	grey := oneColour("#5d6670", "#9aa4ad")
	out := files{}
	var dirs []string
	var sections strings.Builder
	for _, px := range []int{16, 22, 24, 32, 48, 64, 128} {
		dir := fmt.Sprintf("%dx%d/apps", px, px)
		dirs = append(dirs, dir)
		fmt.Fprintf(&sections, "\n[%s]\nSize=%d\nContext=Applications\nType=Threshold\n", dir, px)
	}
	dirs = append(dirs, "scalable/apps", "symbolic/apps")
	sections.WriteString("\n[scalable/apps]\nSize=128\nMinSize=1\nMaxSize=256\nContext=Applications\nType=Scalable\n")
	sections.WriteString("\n[symbolic/apps]\nSize=16\nMinSize=8\nMaxSize=512\nContext=Applications\nType=Scalable\n")
	for _, ic := range []icon{
		{"tidewatch-buoy", "apps", "life-preserver", "slate"}, {"tidewatch-lamp", "apps", "sun", "slate"},
		{"web-browser", "apps", "globe2", "slate"}, {"utilities-terminal", "apps", "terminal", "slate"},
	} {
		b, err := raster(grey.svg(ic, 48, "sky"), 48)
		if err != nil {
			return nil, err
		}
		out["48x48/apps/"+ic.name+".png"] = b
		out["scalable/apps/"+ic.name+".svg"] = grey.svg(ic, 0, "sky")
	}
	out["index.theme"] = []byte("[Icon Theme]\nName=Hicolor\nComment=Fallback icon theme\nHidden=true\nDirectories=" + strings.Join(dirs, ",") + "\n" + sections.String())
	return out, nil
}

// homeFiles are as a person leaves them: comments, unknown keys, blank lines,
// one file with the line ends of another system.
var homeFiles = map[string]string{
	".config/gtk-3.0/settings.ini": `# mine, do not let the installer touch this
[Settings]
gtk-theme-name=Saltpan
gtk-icon-theme-name = Foreshore
gtk-font-name=Estuary Sans 10.5


# bigger because of the far screen
gtk-cursor-theme-size=32
gtk-application-prefer-dark-theme=0
x-mara-note=ask Tobias about the scroll bars
`,
	".config/gtk-4.0/settings.ini": strings.ReplaceAll(`[Settings]
gtk-theme-name=Saltpan
gtk-icon-theme-name=Marram
# copied over from the old laptop

gtk-font-name=Estuary Sans 11
gtk-hint-font-metrics=1
`, "\n", "\r\n"),
	".config/coracle/grants.conf":   "# what programs in Coracle may look into\n[Grants]\nread=~/.themes;~/.icons\n",
	".config/environment.d/qt.conf": "# one look for all, please\nQT_QPA_PLATFORMTHEME=gtk3\n",
	".profile":                      "# ~/.profile\nexport XCURSOR_SIZE=48 # for the projector in the hall\n",
	".gtkrc-2.0": `# from the very old laptop
gtk-theme-name = "Saltpan"
gtk-icon-theme-name="Foreshore"

gtk-font-name = "Estuary Sans 10.5"
# scroll bars on the left, please
style "mine" { GtkScrolledWindow::scrollbar-spacing = 0 }
`,
	".config/quayside/quayside.conf": `# Quayside reads this when you sign in.

[Look]
# icons=Foreshore
icons=Foreshore
theme=Saltpan
accent=#2f7f8c
font=Estuary Sans 10.5
opacity=88
blur=12
backdrop=/usr/share/backgrounds/low-water.svg

[Bar]
bars=top 36: menu pinned / / tray battery clock
pinned=shore-files;shore-web;shore-mail;shore-terminal;tide-gauge;bird-log;shore-music;tidewatch-lamp

[Wishes]
seconds-in-clock=please
`,
	"Documents/tides-march.csv":   "day,high,low\n1,3.41,0.62\n",
	"Documents/station-rules.txt": "Lamp before supper.\n",
	"Pictures/turnstones.png":     "",
	"Downloads/readme.txt":        "Old things here.\n",
	"Projects/buoy/plan.txt":      "Paint it.\n",
	"letter-to-the-harbour.txt":   "Dear harbour master,\n",
	"gull-count.csv":              "day,gulls\n1,204\n",
	"pier-at-dawn.png":            "",
	"foghorn.mp3":                 "",
	"winter-storm.mp4":            "",
	"tide-tables.pdf":             "",
	"old-charts.zip":              "",
	"Music/swell.mp3":             "",
}
