package demo

import (
	"maps"

	"ivelt/standin"
)

// makeDunlin makes the desk that is put together from light parts, with the
// troubles that such desks have.
func makeDunlin(dir string) error {
	home, system := dir+"/home", dir+"/system"
	tree := files{}
	tree.programs("withy", "samphire", "creel", "tidestaff", "bittern", "coracle", "tide-log", "sbin/tollgate")
	tree.entries()
	if err := tree.icons(); err != nil {
		return err
	}
	birds, err := sandpiper()
	if err != nil {
		return err
	}
	tree.add(birds.under("usr/share/icons/Sandpiper"))
	for name, theme := range map[string]files{
		"Saltpan": windowTheme("Saltpan", "White crust and cold blue", saltLight, 6, &saltDark, "Shingle", "Sandpiper"),
		"Groyne":  windowTheme("Groyne", "Tarred wood and lamplight", groyneDark, 8, nil, "Wrack", "Sandpiper"),
	} {
		tree.add(theme.under("usr/share/themes/" + name))
		tree.add(theme.only("withy/").under("usr/share/withy/themes/" + name))
	}
	letters, err := estuary("Estuary Sans")
	if err != nil {
		return err
	}
	mono, err := estuary("Estuary Mono")
	if err != nil {
		return err
	}
	tree.add(letters.under("usr/share/fonts/truetype")).add(mono.under("usr/share/fonts/truetype"))
	tree["etc/fonts/fonts.conf"] = []byte(fontsConf)
	for _, s := range shores {
		tree["usr/share/backgrounds/"+s.name+".svg"] = s.svg()
	}
	login, err := loginThemes("gate.theme")
	if err != nil {
		return err
	}
	tree.add(login.under("usr/share/tollgate/themes"))
	faces, err := people()
	if err != nil {
		return err
	}
	tree.add(faces.under("usr/share/tollgate/people"))
	tree["usr/share/backgrounds/reeds.png"] = login["Night-Tide/backdrop.png"]
	for _, library := range []string{"libgtk-x11-2.0.so.0", "libgtk-3.so.0"} {
		tree["usr/lib/x86_64-linux-gnu/"+library] = nil
	}
	for _, name := range []string{"ebb", "foam"} {
		colours := map[string][2]string{"ebb": {"#1d2127", "#d9d4c7"}, "foam": {"#f7f8f8", "#2c3640"}}[name]
		tree.add(palette(name, "CC0-1.0", colours[0], colours[1]).under("usr/share/palettes"))
	}
	tree["usr/share/bittern/profiles/Watch.conf"] = []byte("[Look]\npalette=foam\nfont=Estuary Mono 11\n\n[Start]\nprogram=/usr/bin/tide-log --today\n")
	tree["etc/tollgate/tollgate.conf"] = []byte("# Tollgate reads this when it starts.\n[Screen]\ntheme=Slack-Water\nsession=withy\n")
	tree["usr/share/xsessions/withy.desktop"] = []byte("[Desktop Entry]\nType=Application\nName=Withy\nExec=withy-session\n")
	tree["etc/xdg/autostart/tidestaff.desktop"] = []byte("[Desktop Entry]\nType=Application\nName=Tidestaff\nExec=tidestaff\n")
	tree["etc/samphire/samphire.conf"] = []byte("[Bar]\nbars=bottom 30: menu pinned / / tray battery clock\n")
	tree["etc/machine-id"] = []byte("b2d90e7714c84f0c9a5be1a6f3d2c8e1\n")
	tree["sys/class/drm/card0-LVDS-1/status"], tree["sys/class/drm/card0-LVDS-1/modes"] = []byte("connected\n"), []byte("1366x768\n")
	for program, name := range map[string]string{"org.tidewatch.Logbook": "Logbook", "org.tidewatch.Charts": "Charts"} {
		tree["var/lib/coracle/programs/"+program+".desktop"] = []byte("[Desktop Entry]\nType=Application\nName=" + name + "\nExec=coracle run " + program + "\n")
	}

	mine := maps.Clone(dunlinFiles)
	old := windowTheme("Saltpan", "White crust", themeColours{"#ececec", "#303030", "#ffffff", "#8a9aa6", "#ffffff", "#c8c8c8", "#dddddd", 0}, 4, nil, "Foreshore", "Sandpiper")
	for _, part := range []string{"index.theme", "gtk-2.0/gtkrc", "gtk-3.0/gtk.css", "assets/tick-symbolic.svg", "assets/dot-symbolic.svg", "assets/down-symbolic.svg", "assets/on-symbolic.svg", "samphire/bar.css"} { // as it was two years ago
		mine[".themes/Saltpan/"+part] = string(old[part])
	}
	red, err := glasswortPack().make()
	if err != nil {
		return err
	}
	for name, b := range red.under(".icons/Glasswort") {
		mine[name] = string(b)
	}
	if err := settle(home, system, tree, mine); err != nil {
		return err
	}
	return start(home, system, standin.Withy, standin.Samphire, standin.Creel, standin.Tidestaff, standin.Bittern, standin.Tollgate)
}

// dunlinFiles have the usual troubles: a variable that somebody forgot, an old
// copy of a theme that hides the new one, a grant that is missing, a pointer that
// is set in four of five places, one icon on the desk that was set by hand, a
// title's font and a notices' theme that nobody thought of, a profile that is not
// the default, and a file manager with a mind of its own.
var dunlinFiles = map[string]string{
	".config/environment.d/10-old.conf":   "# from when the screen was broken\nGTK_THEME=Groyne\n",
	".config/environment.d/50-look.conf":  "XCURSOR_THEME=Sandpiper\nXCURSOR_SIZE=24\n",
	".icons/default/index.theme":          "[Icon Theme]\nName=Default\nInherits=Limpet\n",
	".Xresources":                         "! the display\nXcursor.theme: Sandpiper\nXcursor.size: 24\n",
	".gtkrc-2.0":                          "gtk-theme-name=\"Saltpan\"\ngtk-icon-theme-name=\"Foreshore\"\ngtk-cursor-theme-name=\"Sandpiper\"\ngtk-cursor-theme-size=32\ngtk-font-name=\"Estuary Sans 10\"\n",
	".config/gtk-3.0/settings.ini":        "[Settings]\ngtk-theme-name=Saltpan\ngtk-icon-theme-name=Foreshore\ngtk-cursor-theme-name=Sandpiper\ngtk-cursor-theme-size=24\ngtk-font-name=Estuary Sans 10\n",
	".config/withy/withy.conf":            "# mine\n[Frames]\ntheme=Groyne\n",
	".config/samphire/samphire.conf":      "[Bar]\ntheme=Saltpan\nicons=Foreshore\nfont=Estuary Sans 10\npinned=shore-files;shore-web;shore-mail;shore-terminal;bird-log;shore-music\n# the old ones were nicer\n[Notices]\ntheme=Groyne\n",
	".config/creel/creel.conf":            "[View]\nicons=hicolor\n\n[Desk]\nbackdrop=/usr/share/backgrounds/red-buoy.svg\n",
	".config/creel/desk-icons.conf":       "# set by hand\n[Icons]\nTide tables.desktop=/usr/share/icons/hicolor/48x48/apps/tidewatch-buoy.png\n",
	".config/bittern/profiles/Shore.conf": "[Look]\npalette=ebb\nfont=Estuary Mono 11\nopacity=92\n",
	".config/coracle/grants.conf":         "[Grants]\nread=~/.themes\n",
	"Desktop/Tide tables.desktop":         "[Desktop Entry]\nType=Application\nName=Tide tables\nExec=tide-gauge\nIcon=tide-gauge\n",
	"Desktop/gulls.csv":                   "day,gulls\n1,204\n",
	"Documents/tides-march.csv":           "day,high,low\n1,3.41,0.62\n",
	"Downloads/readme.txt":                "Old things here.\n",
}
