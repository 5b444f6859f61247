package preview_test

import (
	"encoding/xml"
	"errors"
	"image"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/standin"
)

// dressed is a desk with a shell, a terminal, a login screen and a theme for each toolkit.
func dressed(t *testing.T) *desk.Desk {
	t.Helper()
	top := t.TempDir()
	css := "window, .background { background-color: #eeeeee; color: #111111; } button { background-color: #cccccc; border: 1px solid #777777; padding: 4px 8px; } button.suggested-action { background-color: #204060; color: #ffffff; } headerbar { background-color: #d0e8e4; } entry { min-height: 30px; } checkbutton check, check { min-width: 14px; min-height: 14px; } row:selected { background-color: #204060; } .mystery { color: @never_seen; } button:checked { color: @gone_colour; }"
	for name, text := range map[string]string{
		"home/.themes/Salt/gtk-3.0/gtk.css":                  css,
		"home/.themes/Salt/gtk-4.0/gtk.css":                  css,
		"home/.themes/Salt/gtk-2.0/gtkrc":                    "style \"d\" { bg[NORMAL] = \"#d0e8e4\" fg[NORMAL] = \"#223344\" base[SELECTED] = \"#204060\" }\nclass \"GtkWidget\" style \"d\"\n",
		"home/.themes/Salt/quayside/shell.css":               "panel.top { background-color: #203040; color: #fafafa; } notice { background-color: #fafafa; color: #203040; }",
		"home/.config/gtk-3.0/settings.ini":                  "[Settings]\ngtk-theme-name=Salt\ngtk-icon-theme-name=Reef\ngtk-decoration-layout=close:minimize,maximize\n",
		"home/.config/gtk-4.0/settings.ini":                  "[Settings]\ngtk-theme-name=Salt\n",
		"home/.gtkrc-2.0":                                    "gtk-theme-name=\"Salt\"\n",
		"home/.config/quayside/quayside.conf":                "[Look]\ntheme=Salt\nbackdrop=/home/me/.local/share/backgrounds/sea.svg\n[Bar]\nbars=bottom 40: menu pinned / / tray battery clock\npinned=files.desktop\n",
		"home/.local/share/backgrounds/sea.svg":              `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1280 800" width="1280" height="800"><rect width="1280" height="800" fill="#2f7f8c"/></svg>`,
		"home/.local/share/icons/Reef/index.theme":           "[Icon Theme]\nName=Reef\nDirectories=48\n[48]\nSize=48\nType=Scalable\nMinSize=8\nMaxSize=512\n",
		"home/.local/share/icons/Reef/48/folder.svg":         `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><rect width="8" height="8"/></svg>`,
		"home/.local/share/palettes/Foam.Xresources":         "*.background: #101820\n*.foreground: #e8f0f0\n*.color0: #000000\n*.color1: #aa3333\n*.color2: #33aa33\n*.color3: #aaaa33\n*.color4: #3333aa\n*.color5: #aa33aa\n*.color6: #33aaaa\n*.color7: #cccccc\n*.color8: #555555\n*.color9: #ff5555\n*.color10: #55ff55\n*.color11: #ffff55\n*.color12: #5555ff\n*.color13: #ff55ff\n*.color14: #55ffff\n*.color15: #ffffff\n",
		"home/.config/bittern/profiles/Night.conf":           "[Look]\npalette=Foam\nopacity=80\n",
		"home/.config/bittern/bittern.conf":                  "[Bittern]\nprofile=Night\n",
		"system/usr/share/wayland-sessions/quayside.desktop": "[Desktop Entry]\nName=Quayside\nExec=/usr/bin/quayside\n",
		"system/usr/bin/quayside":                            "x",
		"system/etc/lantern/lantern.conf":                    "[Greeter]\ntheme=Tide\n",
		"system/usr/share/lantern/themes/Tide/login.theme":   "[Login Theme]\nName=Tide\nInk=#0a2030\nPanel=#f0e8d8\nBackdrop=sea.svg\n",
		"system/usr/share/lantern/themes/Tide/sea.svg":       `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 40"><rect width="64" height="40" fill="#1d6b52"/></svg>`,
		"system/usr/share/applications/files.desktop":        "[Desktop Entry]\nType=Application\nName=Files\nIcon=folder\n",
		"system/usr/share/applications/more.desktop":         "[Desktop Entry]\nType=Application\nName=More & more\nIcon=gone\n",
	} {
		file := filepath.Join(top, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o755))
	}
	for _, folder := range []string{"Documents", "Music"} {
		require.NoError(t, os.MkdirAll(filepath.Join(top, "home", folder), 0o755))
	}
	d, err := desk.Open("d", filepath.Join(top, "home"), filepath.Join(top, "system"), "/home/me")
	require.NoError(t, err)
	for _, s := range append(desk.Builtin(), standin.Surfaces()...) {
		switch s.ID {
		case "gtk2", "gtk3", "gtk4", "quayside", "bittern", "lantern", "withy":
			d.SetSurfaces(append(d.Surfaces(), s))
		}
	}
	return d
}

func wellFormed(t *testing.T, svg []byte) string {
	t.Helper()
	for x := xml.NewDecoder(strings.NewReader(string(svg))); ; {
		if _, err := x.Token(); errors.Is(err, io.EOF) {
			return string(svg)
		} else if err != nil {
			t.Fatal(err)
		}
	}
}

// TestEverySceneWearsItsPieces: the colours of each surface's own files are in it, and those
// of a draft in their stead.
func TestEverySceneWearsItsPieces(t *testing.T) {
	d := dressed(t)
	worn := preview.Worn(t.Context(), d)
	for scene, want := range map[string][]string{
		"desk": {"rgba(32,48,64,1)", "rgba(208,232,228,1)"}, "close": {"rgba(208,232,228,1)"}, "controls": {"rgba(32,64,96,1)"}, "older": {"#d0e8e4"},
	} {
		svg, marks := preview.DrawMarked(d, worn, scene)
		text := wellFormed(t, svg)
		for _, w := range want {
			require.Contains(t, text, w, scene)
		}
		if scene == "desk" {
			require.NotEmpty(t, marks)
		}
		if scene == "older" {
			continue // GTK 2 has no such theme in itself
		}
		require.NotEqual(t, string(svg), string(preview.Draw(d, preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetWidgets, "Adwaita")), scene)), scene)
	}
	require.Less(t, len(preview.Spots(d, worn, "controls")), 500)
	require.NotEmpty(t, preview.Spots(d, worn, "controls"))
	for _, state := range preview.States {
		look := worn
		look.State = state.Name
		wellFormed(t, preview.Draw(d, look, "controls"))
	}
	arranged := preview.Arrange(d, worn, 1280, 800)
	require.Len(t, arranged.Placed, 1)
	require.Equal(t, image.Rect(0, 760, 1280, 800), arranged.Placed[0].At)
	require.Equal(t, image.Rect(0, 0, 1280, 760), arranged.Work)
	require.NotContains(t, preview.OnBar(d, worn), "More & more", "what is not pinned")
	require.Equal(t, []string{"files"}, preview.Pinned(d, worn), "whose ID is told with the ending of its entry")
	require.Len(t, preview.Ground(d, worn, 1280, 800), 4)
	require.Empty(t, preview.Ground(d, preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetLying, "hidden")), 1280, 800), "nothing lies on the desk, and nothing is judged there")

	// Windows side by side lie as the layout says: 30 px around them, 20 between (common practice, no source).
	tiled := preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetTiles, "columns outer 30 inner 20 float dialog").With(desk.FacetDock, "left 40: files.desktop gone.desktop"))
	left, top := 1280, 800
	for _, s := range preview.Spots(d, tiled, "desk") {
		if s.Node.Name == "window" && s.Surface == "gtk3" && s.W > 420 {
			left, top = min(left, int(s.X)), min(top, int(s.Y))
		}
	}
	require.Equal(t, []int{52 + 30, 30}, []int{left, top}, "beside the dock, under no bar")
	for moving, less := range map[bool]string{true: "full", false: "less"} {
		look := preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetTiles, "columns").With(desk.FacetMotion, less))
		svg := wellFormed(t, preview.InUse(d, look, []desk.Monitor{{Width: 1280, Height: 800}}, 0, preview.Use{Moving: true}))
		require.Equal(t, moving, strings.Contains(svg, "<animateTransform"), less)
	}

	// Icons of a dock grow where the pointer is, those beside it less and less; what runs has a preview.
	docked := preview.Draft(t.Context(), d, outfit.Outfit{}.With(desk.FacetDock, "left 40 grow 200% previews yes: files.desktop files.desktop files.desktop files.desktop"))
	svg, marks := preview.DrawMarked(d, docked, "desk")
	wellFormed(t, svg)
	var sizes []float64
	for _, m := range marks {
		if m.Facet == desk.FacetIcons && m.X < 60 && m.W > 40 && m.Surface == "quayside" {
			sizes = append(sizes, m.W)
		}
	}
	require.Equal(t, []float64{68, 79, 68, 46}, sizes)
	wellFormed(t, preview.Shell(d, worn, 384, 128))
}

// TestOtherSurfacesAreDrawnToo: a terminal in its palette, a login screen in its theme, the
// controls of a toolkit alone with their sizes.
func TestOtherSurfacesAreDrawnToo(t *testing.T) {
	d := dressed(t)
	worn := preview.Worn(t.Context(), d)
	require.Contains(t, wellFormed(t, preview.Terminal(d, worn, "bittern")), "#101820")
	lantern, ok := d.Surface("lantern")
	require.True(t, ok)
	login := wellFormed(t, preview.Login(d, worn, lantern))
	require.Contains(t, login, "#0a2030")
	require.Contains(t, login, "#f0e8d8")
	plain := wellFormed(t, preview.Login(d, preview.Told(t.Context(), d, outfit.Outfit{}.With(desk.FacetLogin, "Plain"), lantern), lantern))
	require.NotContains(t, plain, "#0a2030")
	sizes := preview.Sizes(d, worn, "gtk3")
	require.Greater(t, sizes["entry"][1], 29.0, "its least height")
	require.NotEmpty(t, sizes)
	var placed []preview.Placed
	for name, size := range sizes {
		placed = append(placed, preview.Placed{Name: name, X: 10, Y: 10 + 40*float64(len(placed)), W: size[0], H: size[1]})
	}
	wellFormed(t, preview.Sheet(d, worn, "gtk3", 400, 900, placed))
	high, room, frame := preview.TitleRoom(d, worn, "withy")
	require.Positive(t, high)
	require.Positive(t, room)
	_ = frame
	inks := preview.Older(d, worn)
	require.NotEmpty(t, inks)
	var notes []string
	for _, n := range preview.Broken(d, worn, "gtk3") {
		notes = append(notes, n.String())
	}
	require.Contains(t, strings.Join(notes, "\n"), "gone_colour")
	require.NotContains(t, strings.Join(notes, "\n"), "never_seen", "no usual control asks for it")
	require.NotEmpty(t, preview.Notes(d, worn, "desk"))
	require.NotNil(t, preview.Styles(d, worn, "gtk3"))
	w, h, ok := preview.Size(preview.Draw(d, worn, "close"))
	require.True(t, ok && w > 0 && h > 0)
	require.Equal(t, 25, preview.Cropped(1600, 1200, 1600, 900))
	require.Equal(t, 0, preview.Cropped(1600, 900, 1600, 900))
}
