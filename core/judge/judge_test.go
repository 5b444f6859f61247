package judge_test

import (
	"bytes"
	"cmp"
	"fmt"
	"image"
	"image/png"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/backdrop"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/judge"
	"ivelt/core/outfit"
	terminal "ivelt/core/palette"
	"ivelt/core/preview"
	"ivelt/demo"
)

const shellSurface = `id = "awning"
title = "Awning"
kind = "shell"
[bar]
files = ["{config}/awning.conf"]
group = "Bar"
edge = "edge"
thickness = "thickness"
pinned = "pinned"
[[facet]]
name = "bar"
default = "Reef"
[facet.lookup]
kind = "theme"
folders = ["~/.themes"]
parts = ["awning"]
file = "bar.css"
[[facet]]
name = "bars"
default = "top 34 on all: menu pinned / / tray battery clock"
[[facet]]
name = "dock"
default = "none"
[[facet]]
name = "title-maximised"
default = "kept"
[[facet]]
name = "desk-clock"
default = "none"
[[facet]]
name = "desk-icons-at"
default = "left"
[[facet]]
name = "accent"
default = "#204060"
[[facet]]
name = "opacity"
default = "100"
[[facet]]
name = "blur"
default = "0"
[[facet]]
name = "effects"
default = "few"
[[facet]]
name = "motion"
default = "full"
[[facet]]
name = "icons"
default = "Pier"
lookup = { kind = "icon-theme", folders = ["~/.icons"] }
[[facet]]
name = "backdrop"
default = ""
lookup = { kind = "picture", folders = ["~/pictures"], built-in = [""], slides = true }
`

const frameSurface = `id = "jetty"
title = "Jetty"
kind = "frames"
[[facet]]
name = "frame"
default = "Reef"
lookup = { kind = "theme", folders = ["~/.themes"], parts = ["jetty"], file = "frame.css" }
[[facet]]
name = "font-title"
default = "Sans 10"
lookup = { kind = "font", folders = ["/usr/share/fonts"], built-in = ["Sans"] }
[[facet]]
name = "effect-open"
default = "fade 100 ease"
[[facet]]
name = "effect-workspace"
default = "none"
`

const engineSurface = `id = "weir"
title = "Weir"
kind = "engine"
[[facet]]
name = "pictures"
default = "plain"
lookup = { kind = "named-file", folders = ["~/styles"], file = "*.svg", built-in = ["plain"], elements = ["button", "field"] }
`

const termSurface = `id = "creek"
title = "Creek"
kind = "terminal"
[[facet]]
name = "palette"
default = "mud"
lookup = { kind = "palette", folders = ["~/p"], file = "*.Xresources" }
[[facet]]
name = "ground"
default = "100"
`

const loginSurface = `id = "sluice"
title = "Sluice"
kind = "login"
[[facet]]
name = "sign-in"
default = "asks"
`

func put(t *testing.T, file, text string) {
	require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
	require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
}

func deskWith(t *testing.T, files map[string]string) *desk.Desk {
	home, system := t.TempDir(), t.TempDir()
	for name, text := range files {
		if strings.HasPrefix(name, "/") {
			put(t, filepath.Join(system, name), text)
		} else {
			put(t, filepath.Join(home, name), text)
		}
	}
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	for _, s := range desk.Builtin() {
		if s.ID == "gtk3" || s.ID == "gtk2" {
			d.SetSurfaces(append(d.Surfaces(), s))
		}
	}
	for _, text := range []string{shellSurface, termSurface, frameSurface, engineSurface, loginSurface} {
		s, err := desk.ParseSurface([]byte(text))
		require.NoError(t, err)
		d.SetSurfaces(append(d.Surfaces(), s))
	}
	return d
}

// theme is a style sheet in which everything can be read.
const theme = `window { background-color: #ffffff; color: #101010; } headerbar { background-color: #e0e0e0; } entry { background-color: #ffffff; color: #101010; border: 1px solid #606060; }
entry:focus { border-color: #003366; } row:selected, selection { background-color: #204060; color: #ffffff; } button { background-color: #f0f0f0; color: #101010; } button:active, button.suggested-action { background-color: #204060; color: #ffffff; }
button.destructive-action { background-color: #f0c000; color: #101010; } label:disabled { color: #707070; } *:link, button.link { color: #104080; } tooltip { background-color: #202020; color: #f0f0f0; } `

const bar = `panel { background-color: #303030; color: #f0f0f0; } notice { background-color: #202020; color: #f0f0f0; } notice button.default { background-color: #e0e0e0; color: #101010; }`

func paint(hex string) string {
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="64" height="64" viewBox="0 0 64 64"><rect width="64" height="64" fill="%s"/></svg>`, hex)
}

// halves is a picture that is bright above and dark below.
const halves = `<svg xmlns="http://www.w3.org/2000/svg" width="640" height="640" viewBox="0 0 640 640"><rect width="640" height="640" fill="#202428"/><rect width="640" height="320" fill="#f8f8f0"/></svg>`

// busy is a picture of stripes, of which a tenth and more is too bright.
var busy = func() string {
	var b strings.Builder
	b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" width="640" height="640" viewBox="0 0 640 640"><rect width="640" height="640" fill="#202428"/>`)
	for x := 0; x < 640; x += 4 {
		fmt.Fprintf(&b, `<rect x="%d" width="1" height="640" fill="#ffffff"/>`, x)
	}
	return b.String() + "</svg>"
}()

// madeOf is a picture that says that it was made of another one with some contents.
func madeOf(file, contents string) string {
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, 64, 64))); err != nil {
		panic(err)
	}
	soft := backdrop.Soft{Edge: "upper", Until: 0.1, Dark: true, Strength: 0.5}
	return string(imagefile.Noted(b.Bytes(), backdrop.MakingOf(file, []byte(contents), nil, &soft).Note()))
}

func palette(colours map[int]string) string {
	var b strings.Builder
	b.WriteString("*.background: #101418\n*.foreground: #e8e8e8\n*.color0: #101418\n")
	for i := 1; i < 16; i++ {
		fmt.Fprintf(&b, "*.color%d: %s\n", i, cmp.Or(colours[i], "#c0c8d0"))
	}
	return b.String()
}

var good = map[string]string{
	".config/gtk-3.0/settings.ini": "[Settings]\ngtk-theme-name=Reef\n", ".themes/Reef/gtk-3.0/gtk.css": theme, ".themes/Reef/gtk-3.0/gtk-dark.css": theme, ".themes/Reef/jetty/frame.css": "frame { min-height: 24px; }",
	".themes/Reef/awning/bar.css": bar, "p/mud.Xresources": palette(nil), "p/silt.Xresources": palette(map[int]string{1: "#d0c8d0"}), "bright.svg": paint("#f8f8f0"),
	"pictures/bright.svg": paint("#f4f4e8"), "pictures/dark.svg": paint("#202428"), "halves.svg": halves, "turn/1.svg": paint("#202428"), "turn/2.svg": paint("#f8f8f0"),
	"waves.svg": strings.Replace(paint("#202428"), "<rect ", "<animateTransform/><rect ", 1), ".themes/Tern/gtk-3.0/gtk.css": theme + "window { color: #111111; }", ".themes/Tern/awning/bar.css": bar,
	"styles/stone.svg": `<svg xmlns="http://www.w3.org/2000/svg"><rect id="button" width="9" height="9"/><rect id="Field" width="9" height="9"/></svg>`, "styles/whole.svg": `<svg xmlns="http://www.w3.org/2000/svg"><rect id="button" width="9" height="9"/><rect id="field" width="9" height="9"/></svg>`, "styles/mud.svg": `<svg`,
	".local/share/applications/a.desktop": "[Desktop Entry]\nType=Application\nName=Log\nExec=log\nIcon=log\n", ".config/awning.conf": "[Bar]\npinned=a\n",
	".icons/Pier/index.theme": "[Icon Theme]\nName=Pier\nDirectories=24\n[24]\nSize=24\nType=Scalable\nMinSize=8\nMaxSize=512\n", ".icons/Pier/24/log.svg": paint("#f6f6f6"),
}

// with are some files that hold next to nothing, each in a folder, under what is good.
func with(good map[string]string, folder, end, names string) map[string]string {
	out := maps.Clone(good)
	for _, name := range strings.Fields(names) {
		out[folder+"/"+name+end] = paint("#f6f6f6")
	}
	return out
}

// Names of the Icon Naming Specification, and of the X cursor font.
const (
	icons = "folder user-home user-trash drive-harddisk computer text-x-generic image-x-generic audio-x-generic video-x-generic package-x-generic x-office-document " +
		"dialog-error dialog-information dialog-warning document-open document-save edit-copy edit-delete go-next-symbolic go-previous"
	shapes = "left_ptr hand2 xterm watch left_ptr_watch cross fleur crossed_circle sb_v_double_arrow sb_h_double_arrow bottom_right_corner bottom_left_corner"
)

// TestJudgements makes each thing that is not well, sees that it is said where,
// with the contrast that WCAG's formula gives, and that the remedy clears it; and
// that a look with nothing wrong is left in peace.
func TestJudgements(t *testing.T) {
	none, covered := outfit.Outfit{}, map[judge.Code]bool{}
	good := with(good, ".icons/Pier/24", ".svg", icons)
	d := deskWith(t, good)
	require.Empty(t, judge.Of(d, preview.Draft(t.Context(), d, none)), "nothing is wrong")

	css, mud := ".themes/Reef/gtk-3.0/gtk.css", "p/mud.Xresources"
	over := none.With(desk.FacetOpacity, "20")
	for _, c := range []struct {
		what           string
		files          map[string]string
		wears          outfit.Outfit
		code           judge.Code
		surface, facet string
		says           []string
		ratio          float64 // by the published formula; 0 is not held
		grave          bool
	}{
		{"grey on white", map[string]string{css: theme + "row label { color: #777777; } row:selected label { color: #ffffff; }"}, none, judge.LowContrast, "gtk3", desk.FacetWidgets, []string{"Text in lists in GTK 3 programs: contrast 4.4:1", "The dark shade works", "Tern is the nearest", "your own style sheet"}, 4.48, false},
		{"a chosen line that cannot be made out", map[string]string{css: theme + "row:selected { background-color: #eeeeee; }"}, none, judge.LowContrast, "gtk3", desk.FacetWidgets, []string{"The selected row"}, 0, true},
		{"selected text", map[string]string{css: theme + "selection { background-color: #eeeeee; }"}, none, judge.LowContrast, "gtk3", desk.FacetWidgets, []string{"Selected text in"}, 0, true},
		{"links", map[string]string{css: theme + "*:link { color: #99bbee; }"}, none, judge.LowContrast, "gtk3", desk.FacetWidgets, []string{"Links in"}, 0, true},
		{"what is off", map[string]string{css: theme + "label:disabled { color: #e8e8e8; }"}, none, judge.LowContrast, "gtk3", desk.FacetWidgets, []string{"in GTK 3 programs: contrast 1.", "2.0:1 is needed to be visible"}, 0, false},
		{"faded as a whole", map[string]string{css: theme + "label:disabled { opacity: 0.1; }"}, none, judge.LowContrast, "gtk3", desk.FacetWidgets, []string{"in GTK 3 programs: contrast 1."}, 0, false},
		{"letters on a picture", map[string]string{css: theme + "button.text-button { background-image: url('b.svg'); background-size: cover; }", ".themes/Reef/gtk-3.0/b.svg": paint("#202428")}, none, judge.LowContrast, "gtk3", desk.FacetWidgets, []string{"Tern is the nearest"}, 0, true},
		{"no telling where the keyboard is", map[string]string{css: theme + "entry:focus { border-color: #dddddd; }"}, none, judge.LowFocus, "gtk3", desk.FacetWidgets, []string{"the keyboard focus"}, 0, true},
		{"nothing tells where the keyboard is", map[string]string{css: theme + "entry:focus { border-color: #606060; }"}, none, judge.LowFocus, "gtk3", desk.FacetWidgets, []string{"Nothing marks the keyboard focus"}, 0, true},
		{"grey on grey in GTK 2", map[string]string{".gtkrc-2.0": "gtk-theme-name = \"Pale\"\n", ".themes/Pale/gtk-2.0/gtkrc": "style \"d\" { fg[NORMAL] = \"#909090\" bg[NORMAL] = \"#a0a0a0\" }\nclass \"GtkWidget\" style \"d\"\n", ".themes/Plain/gtk-2.0/gtkrc": "style \"d\" { fg[NORMAL] = \"#101010\" bg[NORMAL] = \"#a8a8a8\" }\nclass \"GtkWidget\" style \"d\"\n"},
			none, judge.LowContrast, "gtk2", desk.FacetWidgets, []string{"in GTK 2 programs: contrast 1.2:1", "Plain is the nearest"}, 1.22, true},
		{"an accent under bright letters", map[string]string{".themes/Reef/awning/bar.css": bar + "notice button.default { background-color: @accent; color: #ffffff; }"}, none.With(desk.FacetAccent, "#7fb58c"), judge.LowContrast, "awning", desk.FacetBar, []string{"The default button of notices", "nearest accent of the same hue"}, 0, false},
		{"bright letters on a see-through bar over a bright backdrop", nil, over.With(desk.FacetBackdrop, "/home/me/bright.svg"), judge.BarOver, "awning", desk.FacetOpacity, []string{"over the worst tenth of the backdrop", "% opacity is enough", "darkened behind the bar, by", "dark is the nearest"}, 0, true},
		{"a bright icon there", map[string]string{".themes/Reef/awning/bar.css": "panel { background-color: #808080; color: #101010; } " + bar[strings.Index(bar, "notice"):]}, over.With(desk.FacetBackdrop, "/home/me/bright.svg"), judge.BarOver, "awning", desk.FacetOpacity, []string{"the icon of Log has contrast 1.", "% opacity is enough"}, 0, true},
		{"another part of the backdrop would do", nil, over.With(desk.FacetBackdrop, "/home/me/halves.svg"), judge.BarOver, "awning", desk.FacetOpacity, []string{"Part of the backdrop works"}, 0, true},
		{"one of several pictures", nil, over.With(desk.FacetBackdrop, "/home/me/turn"), judge.BarOver, "awning", desk.FacetOpacity, []string{"with 2.svg"}, 0, true},
		{"one of several screens", map[string]string{"/sys/class/drm/card0-A/status": "connected\n", "/sys/class/drm/card0-A/modes": "640x480\n", "/sys/class/drm/card0-B/status": "connected\n", "/sys/class/drm/card0-B/modes": "640x120\n",
			"halves.svg": strings.Replace(halves, `height="320" fill`, `height="100" y="262" fill`, 1)}, over.With(desk.FacetBackdrop, "/home/me/halves.svg"), judge.BarOver, "awning", desk.FacetOpacity, []string{"on B"}, 0, true},
		{"names of icons over a bright backdrop", map[string]string{".themes/Reef/awning/bar.css": bar + " ground label { color: #ffffff; }"}, none.With(desk.FacetBackdrop, "/home/me/bright.svg"), judge.GroundOver, "awning", desk.FacetBackdrop, []string{"Desk of Awning: the names of icons have contrast 1.0", "darkened behind the icons, by", "dark is the nearest"}, 0, true},
		{"an icon that cannot be made out", map[string]string{".themes/Reef/awning/bar.css": bar + " ground label { color: #ffffff; }", ".icons/Pier/24/user-home.svg": paint("#101010"), "dim.svg": paint("#202428")}, none.With(desk.FacetBackdrop, "/home/me/dim.svg"), judge.GroundOver, "awning", desk.FacetBackdrop, []string{"the icon of Home has contrast", "lightened behind the icons, by"}, 0, false},
		{"names over what is too busy", map[string]string{".themes/Reef/awning/bar.css": bar + " ground label { color: #ffffff; }", "busy.svg": busy}, none.With(desk.FacetBackdrop, "/home/me/busy.svg"), judge.GroundOver, "awning", desk.FacetBackdrop, []string{"The backdrop blurred behind the icons would do."}, 0, true},
		{"a shadow sets them off", map[string]string{"mid.svg": paint("#888888"), ".themes/Reef/awning/bar.css": bar + " ground label { color: #ffffff; text-shadow: 0 1px 2px #000000, 0 0 2px #000000; }"}, none.With(desk.FacetBackdrop, "/home/me/mid.svg"), "", "awning", desk.FacetBackdrop, nil, 0, false},
		{"no menu, and a dock where a bar is", nil, none.With(desk.FacetBars, "bottom 30: clock clock tray").With(desk.FacetDock, "bottom 48: a"), judge.Arranged, "awning", desk.FacetDock, []string{"The dock shares the bottom edge with a bar.", "The left edge is free.", "Without that bar"}, 0, false},
		{"no way to the list of programs", nil, none.With(desk.FacetBars, "top 30: pinned tray"), judge.Arranged, "awning", desk.FacetBars, []string{"Awning has no menu on any bar", "With menu on the first bar"}, 0, true},
		{"a maximised window that nothing closes", nil, none.With(desk.FacetMaximised, "gone"), judge.Arranged, "awning", desk.FacetMaximised, []string{"nothing there closes it", "With window buttons on the first bar", "could keep their titles"}, 0, false},
		{"a clock over the icons", nil, none.With(desk.FacetDeskClock, "top left 30 30 size 90"), judge.Arranged, "awning", desk.FacetDeskClock, []string{"Clock on the desk lies over the icons on the desk.", "At the top right it would lie over nothing"}, 0, false},
		{"a bar on a monitor that is gone", nil, none.With(desk.FacetBars, "top 30: menu windows tray; bottom 30 on HDMI-7: clock"), judge.Arranged, "awning", desk.FacetBars, []string{"The monitor of the bar at the bottom, HDMI-7, is not plugged in", "It could be on the first monitor"}, 0, false},
		{"no windows", nil, none.With(desk.FacetBars, "top 30: menu tray"), judge.Arranged, "awning", desk.FacetBars, []string{"lists no windows", "With open windows on the first bar"}, 0, true},
		{"no bar at all", nil, none.With(desk.FacetBars, "none").With(desk.FacetDock, "top 48: a"), judge.Arranged, "awning", desk.FacetBars, []string{"no menu on any bar"}, 0, true},
		{"two clocks", nil, none.With(desk.FacetBars, "top 30: menu pinned tray clock clock"), judge.Arranged, "awning", desk.FacetBars, []string{"Awning has 2 clocks.", "Without the last of them"}, 0, false},
		{"no tray", nil, none.With(desk.FacetBars, "top 30: menu pinned"), judge.Arranged, "awning", desk.FacetBars, []string{"no tray", "With tray on the first bar"}, 0, false},
		{"a bar that cannot be hit", nil, none.With(desk.FacetBars, "top 20: menu pinned tray"), judge.Arranged, "awning", desk.FacetBars, []string{"The bar at the top is 20 px thick: its buttons need 24", "24 px are enough"}, 0, false},
		{"a backdrop made of another", map[string]string{"made.png": madeOf("/home/me/bright.svg", "an older picture")}, none.With(desk.FacetBackdrop, "/home/me/made.png"), judge.MadeOfOther, "awning", desk.FacetBackdrop, []string{"The backdrop made.png was made of /home/me/bright.svg, which has changed since."}, 0, false},
		{"a terminal's red", map[string]string{mud: palette(map[int]string{1: "#802020"})}, none, judge.TermColour, "creek", desk.FacetPalette, []string{"Red of the palette mud is unreadable on its background: contrast 1.8:1", "of the same hue", "silt is the nearest", "Or keep the palette"}, 0, true},
		{"a terminal one sees through", nil, none.With(desk.FacetGround, "20").With(desk.FacetBackdrop, "/home/me/bright.svg"), judge.TermOver, "creek", desk.FacetGround, []string{"shows so much of the backdrop", "% opacity is enough"}, 0, true},
		{"a terminal's red and green that some cannot tell apart", map[string]string{mud: palette(map[int]string{1: "#d07850", 2: "#90a050"})}, none, judge.Alike, "creek", desk.FacetPalette, []string{"red and green look alike to people without", "silt is the nearest", "a little lighter or darker"}, 0, false},
		{"a theme's", map[string]string{css: theme + "@define-color error_color #c07048; @define-color success_color #809048;"}, none, judge.Alike, "gtk3", desk.FacetWidgets, []string{"error and success look alike to people without", "Tern is the nearest", "The dark shade"}, 0, false},
		{"an import that is missing", map[string]string{css: "@import url('common.css');\n" + theme}, none, judge.BrokenSheet, "gtk3", desk.FacetWidgets, []string{"gtk.css:1: import of", "Tern is the nearest that is complete"}, 0, true},
		{"a colour that nobody defines", map[string]string{css: theme + "button { color: @ink_fg; }"}, none, judge.BrokenSheet, "gtk3", desk.FacetWidgets, []string{"the colour @ink_fg is not defined", "set the colours in your own style sheet"}, 0, false},
		{"a shell's colour that nobody defines", map[string]string{".themes/Reef/awning/bar.css": bar + "panel image { color: @gone; }"}, none, judge.BrokenSheet, "awning", desk.FacetBar, []string{"bar.css:1: the colour @gone", "Tern is the nearest"}, 0, false},
		{"elements that have lost their names", nil, none.With(desk.FacetPictures, "stone"), judge.BrokenStyle, "weir", desk.FacetPictures, []string{"The style stone has no field: Weir draws nothing there.", "whole has them all", "Field is probably meant: call it field."}, 0, false},
		{"a style that is no drawing", nil, none.With(desk.FacetPictures, "mud"), judge.BrokenStyle, "weir", desk.FacetPictures, []string{"The style mud cannot be read", "whole has them all"}, 0, true},
		{"a title larger than its frame", nil, none.With(desk.FacetFontTitle, "Sans 18"), judge.TallTitle, "jetty", desk.FacetFontTitle, []string{"the frame of Reef has room for 24", "points they fit"}, 0, false},
		{"blur", nil, none.With(desk.FacetBlur, "24").With(desk.FacetOpacity, "95"), judge.Costly, "awning", desk.FacetBlur, []string{"by 24 px. A slow machine redraws", "Without blur"}, 0, false},
		{"see-through", nil, none.With(desk.FacetOpacity, "95"), judge.Costly, "awning", desk.FacetOpacity, []string{"is see-through"}, 0, false},
		{"effects", nil, none.With(desk.FacetEffects, "all"), judge.Costly, "awning", desk.FacetEffects, []string{"animates every window", "Few effects cost little"}, 0, false},
		{"a workspace that fades as it grows small", nil, none.With(desk.FacetSwitching, "zoom 200 ease"), judge.Costly, "jetty", desk.FacetSwitching, []string{"Switching workspaces of Jetty (zoom, 200 ms, ease) touches 6.0 million pixels", "drops 1 of its 12 frames"}, 0, false},
		{"windows that move where less is wished for", nil, none.With(desk.FacetMotion, "less").With(desk.FacetOpening, "grow 160 ease-out"), judge.Moving, "jetty", desk.FacetOpening, []string{"You wish for less motion, and Opening of Jetty moves all the same: grow, 160 ms, ease-out.", "A fade moves nothing."}, 0, false},
		{"controls of pictures", map[string]string{css: theme + "button { border-image: url('b.png') 3; }", ".themes/Reef/gtk-3.0/b.png": "x"}, none, judge.Costly, "gtk3", desk.FacetWidgets, []string{"from pictures: b.png", "Tern is the nearest that draws them without"}, 0, false},
		{"a theme that moves", map[string]string{css: theme + "@keyframes tide { to { opacity: 0.5; } } headerbar { animation: tide 2s infinite; }"}, none, judge.Costly, "gtk3", desk.FacetWidgets, []string{"endless animation: headerbar.titlebar", "Tern is the nearest that keeps still"}, 0, false},
		{"a picture-based style", nil, none.With(desk.FacetPictures, "whole"), judge.Costly, "weir", desk.FacetPictures, []string{"every control from pictures", "The plain style"}, 0, false},
		{"a backdrop that moves", nil, none.With(desk.FacetBackdrop, "/home/me/waves.svg"), judge.Costly, "awning", desk.FacetBackdrop, []string{"waves.svg moves by itself", "does not move"}, 0, false},
		{"a login screen that asks nobody", nil, none.With(desk.FacetSignIn, "by itself"), judge.OpenToAll, "sluice", desk.FacetSignIn, []string{"anyone who switches this computer on", "Turn automatic sign-in off"}, 0, true},
		{"a program without an icon", map[string]string{".local/share/applications/b.desktop": "[Desktop Entry]\nType=Application\nName=Buoy\nExec=b\nIcon=buoy\n", ".icons/Quay/24/buoy.svg": paint("#f6f6f6"),
			".icons/Quay/index.theme": "[Icon Theme]\nName=Quay\nInherits=Pier\nDirectories=24\n[24]\nSize=24\nType=Scalable\nMinSize=8\nMaxSize=512\n"},
			none, judge.NoIcons, "awning", desk.FacetIcons, []string{"Pier has no icon for buoy: programs (Awning) show a placeholder", "Quay has them"}, 0, false},
		{"a pointer set without shapes", with(with(map[string]string{".config/gtk-3.0/settings.ini": "[Settings]\ngtk-theme-name=Reef\ngtk-cursor-theme-name=Gull\n"}, ".icons/Gull/cursors", "", strings.Replace(shapes, "cross ", "", 1)), ".icons/Skua/cursors", "", shapes),
			none, judge.NoShapes, "gtk3", desk.FacetPointer, []string{"Gull has no shape for crosshair: GTK 3 programs show", "Skua has them"}, 0, false},
		{"a dark theme set to light", map[string]string{css: theme + "window { background-color: #101418; color: #f0f0f0; }", ".themes/Reef/gtk-3.0/gtk-dark.css": theme + "window { background-color: #101418; color: #f0f0f0; }"}, none, judge.OtherShade, "gtk3", desk.FacetDark, []string{"Reef is a dark theme, but the shade is set to light", "Set the shade to dark"}, 0, false},
		{"a light theme set to dark", map[string]string{css: theme}, none.With(desk.FacetDark, "dark"), judge.OtherShade, "gtk3", desk.FacetDark, []string{"Reef stays light, but the shade is set to dark", "Set the shade to light"}, 0, false},
		{"pictures in turn", nil, none.With(desk.FacetBackdrop, "/home/me/turn"), judge.Costly, "awning", desk.FacetBackdrop, []string{"shows 2 pictures in turn", "1.svg does not move"}, 0, false},
	} {
		files := maps.Clone(good)
		maps.Copy(files, c.files)
		d := deskWith(t, files)
		find := func(o outfit.Outfit) (judge.Verdict, bool) {
			for _, v := range judge.Of(d, preview.Draft(t.Context(), d, o)) {
				if v.Code == c.code && v.Surface == c.surface && v.Facet == c.facet {
					return v, true
				}
			}
			return judge.Verdict{}, false
		}
		v, ok := find(c.wears)
		if c.code == "" {
			require.False(t, slices.ContainsFunc(judge.Of(d, preview.Draft(t.Context(), d, c.wears)), func(v judge.Verdict) bool { return v.Code == judge.GroundOver }), c.what)
			continue
		}
		require.True(t, ok, "%s: %v", c.what, judge.Of(d, preview.Draft(t.Context(), d, c.wears)))
		text := v.Text
		for _, r := range v.Remedies {
			text += " " + r.Text
		}
		for _, says := range c.says {
			require.Contains(t, text, says, c.what)
		}
		if c.ratio > 0 {
			require.InDelta(t, c.ratio, v.Ratio, 0.01, c.what)
		}
		require.Equal(t, c.grave, v.Grave, "%s: %v", c.what, v)
		acts := 0
		for _, r := range v.Remedies {
			o := c.wears
			switch {
			case r.Facet != "":
				o = o.With(r.Facet, r.Want)
			case r.Sheet != "":
				put(t, filepath.Join(d.Home, ".config/gtk-3.0/gtk.css"), r.Sheet)
			case r.Crop != nil:
				im := imagefile.Raster(t.Context(), []byte(files[strings.TrimPrefix(r.Crop.Picture, "/home/me/")]), 1280).(*image.RGBA)
				var b bytes.Buffer
				require.NoError(t, png.Encode(&b, im.SubImage(r.Crop.Of(im.Rect))))
				put(t, filepath.Join(d.Home, "cropped.png"), b.String())
				o = o.With(desk.FacetBackdrop, "/home/me/cropped.png")
			case r.Soft != nil:
				im := imagefile.Raster(t.Context(), []byte(files[strings.TrimPrefix(r.Soft.Picture, "/home/me/")]), 1280)
				soft, err := r.Soft.Apply(t.Context(), im)
				require.NoError(t, err)
				var b bytes.Buffer
				require.NoError(t, png.Encode(&b, soft))
				put(t, filepath.Join(d.Home, "softened.png"), b.String())
				o = o.With(desk.FacetBackdrop, "/home/me/softened.png")
			case r.Again != "":
				made, ok := backdrop.MadeOf(imagefile.Note([]byte(files[strings.TrimPrefix(r.Again, "/home/me/")])))
				require.True(t, ok)
				put(t, filepath.Join(d.Home, "again.png"), madeOf(made.File, files[strings.TrimPrefix(made.File, "/home/me/")]))
				o = o.With(desk.FacetBackdrop, "/home/me/again.png")
			case r.Colours != nil:
				file := []byte(files["p/mud.Xresources"])
				for i, hex := range r.Colours {
					to, err := colour.Parse(hex)
					require.NoError(t, err)
					file = terminal.Set(file, i, to)
				}
				put(t, filepath.Join(d.Home, "p/mud.Xresources"), string(file))
			default:
				continue
			}
			acts++
			_, still := find(o)
			if c.code == judge.Arranged { // of which a layout may have several
				still = slices.ContainsFunc(judge.Of(d, preview.Draft(t.Context(), d, o)), func(other judge.Verdict) bool { return other.Says.Code == v.Says.Code })
			}
			require.False(t, still, "%s: %s", c.what, r.Text)
			require.NoError(t, os.RemoveAll(filepath.Join(d.Home, ".config/gtk-3.0/gtk.css")))
			put(t, filepath.Join(d.Home, "p/mud.Xresources"), files["p/mud.Xresources"])
		}
		require.NotZero(t, acts, "%s has a remedy that can be done", c.what)
		covered[v.Code] = true
	}
	for _, code := range judge.Codes {
		require.True(t, covered[code], code)
	}
}

// TestLargeTextNeedsLess: 24 px, and 18.66 px if it is bold.
func TestLargeTextNeedsLess(t *testing.T) {
	for size, needs := range map[string]float64{"font-size: 14px;": 4.5, "font-size: 19px; font-weight: bold;": 0, "font-size: 19px;": 4.5, "font-size: 25px;": 0} {
		d := deskWith(t, map[string]string{".config/gtk-3.0/settings.ini": "[Settings]\ngtk-theme-name=Reef\n", ".themes/Reef/awning/bar.css": bar, "p/mud.Xresources": palette(nil),
			".themes/Reef/gtk-3.0/gtk.css": theme + "label.title { color: #717171; " + size + " }"}) // 3.7 to 1 on #e0e0e0
		found := 0.0
		for _, v := range judge.Of(d, preview.Draft(t.Context(), d, outfit.Outfit{})) {
			if strings.HasPrefix(v.Text, "Titles") {
				found = v.Needs
			}
		}
		require.Equal(t, needs, found, size)
	}
}

// BenchmarkJudge is a look with a see-through bar that blurs what is behind it, on
// two screens.
func BenchmarkJudge(b *testing.B) {
	w, err := demo.Open(b.Context(), b.TempDir(), false)
	require.NoError(b, err)
	o := outfit.Outfit{}.With(desk.FacetOpacity, "15").With(desk.FacetBar, "Saltpan").With(desk.FacetDark, "dark").With(desk.FacetBlur, "12").With(desk.FacetPalette, "brine").With(desk.FacetBackdrop, "/usr/share/backgrounds/red-buoy.svg")
	for b.Loop() {
		require.NotEmpty(b, judge.Of(w.Avocet, preview.Draft(b.Context(), w.Avocet, o)))
	}
}

// TestFocusIsSeen: what shows that an entry has the keyboard, by the states that it really has
// in each toolkit, and by its pixels where they are no plain colours. That these are so is held
// against the toolkits' own pixels in truth.
func TestFocusIsSeen(t *testing.T) {
	white := "window { background-color: #ffffff; color: #101010; } entry { background: #ffffff; border: 1px solid #606060; box-shadow: none; outline: none; } "
	// GTK 3 knows no :focus-within, and passes over a rule that has it.
	twice := func(body string) string { return "entry:focus { " + body + " } entry:focus-within { " + body + " }" }
	for _, c := range []struct {
		what, sheet string
		gtk3, gtk4  float64
	}{
		{"nothing", "", 1, 1},
		{"an entry's own focus, which GTK 4 gives to the text in it", "entry:focus { border-color: #003366; }", 12.6, 1},
		{"a focus within", "entry:focus-within { border-color: #003366; }", 1, 12.6},
		{"the text's", "entry > text:focus { background-color: #003366; }", 1, 12.6},
		{"a border of gradients", twice("border-image: linear-gradient(#003366, #003366) 1;"), 12.6, 12.6},
		{"a ground of gradients", twice("background-image: linear-gradient(to right, #ffffff 50%, #003366 50%);"), 12.6, 12.6},
	} {
		files := map[string]string{}
		for _, n := range []string{"3", "4"} {
			files[".config/gtk-"+n+".0/settings.ini"] = "[Settings]\ngtk-theme-name=Reef\n"
			files[".themes/Reef/gtk-"+n+".0/gtk.css"] = white + c.sheet
		}
		d := deskWith(t, files)
		for _, s := range desk.Builtin() {
			if s.ID == "gtk4" {
				d.SetSurfaces(append(d.Surfaces(), s))
			}
		}
		look := preview.Worn(t.Context(), d)
		require.InDelta(t, c.gtk3, judge.Focus(d, look, "gtk3"), 0.1, "GTK 3: %s", c.what)
		require.InDelta(t, c.gtk4, judge.Focus(d, look, "gtk4"), 0.1, "GTK 4: %s", c.what)
	}
}
