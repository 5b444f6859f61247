package truth

import (
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
)

// signIn gives a session the variables that its files set, as a shell that reads
// them has them, and loads the X resources.
func (s *seat) signIn(t *testing.T) {
	t.Helper()
	delete(s.env, "GTK_THEME")
	delete(s.env, "QT_QPA_PLATFORMTHEME")
	delete(s.env, "QT_STYLE_OVERRIDE")
	out := s.ask(t, "sh", "dash", "-c", `set -a; for f in "$HOME"/.config/environment.d/*.conf "$HOME/.profile"; do [ -e "$f" ] && . "$f"; done; env`)
	for line := range strings.Lines(out) {
		key, value, _ := strings.Cut(strings.TrimRight(line, "\n"), "=")
		switch key {
		case "GTK_THEME", "QT_QPA_PLATFORMTHEME", "QT_STYLE_OVERRIDE", "XCURSOR_THEME", "XCURSOR_SIZE":
			s.env[key] = value
		}
	}
	if file := filepath.Join(s.home, ".Xresources"); s.env["DISPLAY"] != "" {
		if _, err := os.Stat(file); err == nil {
			s.ask(t, "xrdb", "x11-xserver-utils", "-nocpp", "-load", file)
		}
	}
}

// wishes are what is put on, facet by facet.
var wishes = map[string][]string{
	desk.FacetWidgets: {"Skerry", "Reef"}, desk.FacetIcons: {"Foreshore", "Two Words"}, desk.FacetPointer: {"Tern", "Gull"}, desk.FacetPointerSize: {"40", "96"},
	desk.FacetDark: {"dark", "light"}, desk.FacetMotion: {"less", "full"}, desk.FacetDouble: {"minimise", "menu"}, desk.FacetMiddle: {"lower", "maximise"}, desk.FacetRight: {"none", "menu"}, desk.FacetButtons: {"close:menu", "menu:minimize,maximize,close", ":close"}, desk.FacetFont: {"Lato 13", "DejaVu Sans 9.5"},
	desk.FacetAntialias: {"off", "on"}, desk.FacetHinting: {"none", "full", "slight"}, desk.FacetSubpixel: {"rgb", "none", "vbgr"},
}

// TestWhatIsWrittenIsShown starts from homes of every kind and puts on one facet
// after another by plans of their own. Each time the real program has to show it,
// and everything else as before.
func TestWhatIsWrittenIsShown(t *testing.T) {
	settings2 := build(t, "settings2", "gtk+-2.0", "libgtk2.0-dev")
	for _, kit := range []struct{ surface, program, debian, folder, session string }{
		{"gtk2", settings2, "libgtk2.0-dev", "gtk-2.0", "x11"},
		{"gtk3", "gtk-query-settings", "libgtk-3-bin", "gtk-3.0", "x11"}, {"gtk3", "gtk-query-settings", "libgtk-3-bin", "gtk-3.0", "wayland"},
		{"gtk4", "gtk4-query-settings", "libgtk-4-bin", "gtk-4.0", "x11"}, {"gtk4", "gtk4-query-settings", "libgtk-4-bin", "gtk-4.0", "wayland"},
	} {
		t.Run(kit.surface+" "+kit.session, func(t *testing.T) {
			t.Parallel()
			h := newHouse(t)
			written, homes := map[string]int{}, 0
			enough := func() bool {
				for facet := range wishes {
					s, _ := (desk.With(desk.Builtin())).Surface(kit.surface)
					if _, has := s.Facet(facet); has && written[facet] < 6*int(*times) {
						return false
					}
				}
				return true
			}
			for seed := uint64(0); seed < 60**times && !enough(); seed++ {
				r := rand.New(rand.NewPCG(seed, 64))
				s := h.seat(t, r, kit.folder)
				h.provider.hold(nil)
				if (s.env["WAYLAND_DISPLAY"] == "") != (kit.session == "x11") || s.env["GSETTINGS_BACKEND"] == "dconf" {
					continue
				}
				homes++
				for _, name := range []string{"Foreshore", "Two Words"} {
					write(t, filepath.Join(s.home, ".icons", name, "index.theme"), "[Icon Theme]\nName="+name+"\nDirectories=16\n[16]\nSize=16\n")
				}
				for _, name := range []string{"Tern", "Gull"} {
					write(t, filepath.Join(s.home, ".icons", name, "cursors/default"), "Xcur")
				}
				if v := s.env["GTK_THEME"]; v != "" {
					s.put(t, ".profile", "# mine\nexport GTK_THEME='"+v+"' # for now\nEDITOR=ed\n")
				}
				shows := func() map[string]string {
					s.signIn(t)
					text := s.ask(t, kit.program, kit.debian)
					out := map[string]string{}
					for facet := range wishes {
						if m := printed[facet].FindStringSubmatch(text); m != nil {
							out[facet] = inOurWords(facet, m[1])
						}
					}
					return out
				}
				before := shows()
				for _, info := range desk.Facets {
					if _, has := before[info.Name]; !has {
						continue
					}
					want := wishes[info.Name][r.IntN(len(wishes[info.Name]))]
					d := s.desk(t)
					d.SetWritable(true)
					delete(d.Env, "GTK_THEME") // it comes from a file
					had := s.env["GTK_THEME"]
					blocked := dress(t, d, []string{kit.surface}, outfit.Outfit{Name: "x"}.With(info.Name, want), filepath.Join(t.TempDir(), "journal"))
					now := shows()
					expect := before
					if len(blocked) == 0 {
						expect = map[string]string{}
						for facet, value := range before {
							expect[facet] = value
						}
						expect[info.Name] = want
						written[info.Name]++
					}
					for facet, value := range expect {
						// What another theme, or its dark form, brings along may differ; under a
						// compositor smoothing and sub-pixels are one setting; and of theme and
						// shade the setting is printed, whatever GTK_THEME says.
						other, led := facet != info.Name, had != "" || s.env["GTK_THEME"] != ""
						switch {
						case other && (info.Name == desk.FacetWidgets || info.Name == desk.FacetDark),
							other && s.env["DISPLAY"] == "" && (info.Name == desk.FacetAntialias || info.Name == desk.FacetSubpixel) && (facet == desk.FacetAntialias || facet == desk.FacetSubpixel),
							led && (facet == desk.FacetWidgets || facet == desk.FacetDark):
							continue
						}
						if !same("written: "+kit.surface+" "+kit.session, facet, value, now[facet]) {
							t.Errorf("seed %d, after %s was set to %s: %s is %q, expected %q\n%v\n%s", seed, info.Name, want, facet, now[facet], value, s.env, strings.Join(s.said, "\n"))
						}
					}
					require.Equal(t, want, map[bool]string{true: want, false: reads(t, s.desk(t), kit.surface, info.Name).Value}[len(blocked) > 0])
					before = now
				}
			}
			require.True(t, enough(), "written: %v", written)
			t.Logf("%d homes; writes by facet: %v", homes, written)
		})
	}
}
