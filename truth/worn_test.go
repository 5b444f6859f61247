package truth

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/store"
)

// TestTheSheetThatIsWorn makes homes in which themes have version folders, dark
// forms or neither, tells the toolkits by settings and by GTK_THEME which to
// wear, and compares the colour of a window: it is another in each sheet. Then a
// theme is put on by a plan, and the toolkit asked again.
func TestTheSheetThatIsWorn(t *testing.T) {
	t.Parallel()
	screen := display(t)
	programs := map[string]string{"gtk3": build(t, "worn3", "gtk+-3.0", "libgtk-3-dev"), "gtk4": build(t, "worn4", "gtk4", "libgtk-4-dev")}
	n := 0
	for seed := range 34 * *times {
		r := rand.New(rand.NewPCG(seed, 33))
		home := t.TempDir()
		kit := toolkits[seed%2]
		folders := []string{"gtk-3.0", "gtk-3.18", "gtk-3.20", "gtk-3.24", "gtk-3.90"}
		if kit.surface == "gtk4" {
			folders = []string{"gtk-4.0", "gtk-4.2", "gtk-4.8", "gtk-4.12"}
		}
		bases := []string{".themes", ".local/share/themes"}
		sheet, sheets := 0, ""
		for _, theme := range []string{"Reef", "Skerry"} {
			for _, base := range bases {
				for _, folder := range folders {
					for _, file := range []string{"gtk.css", "gtk-dark.css"} {
						if r.IntN(3) == 0 {
							sheet++
							sheets += fmt.Sprintf("%d: %s/%s/%s/%s\n", sheet, base, theme, folder, file)
							write(t, filepath.Join(home, base, theme, folder, file), fmt.Sprintf("window { background-color: rgb(1,2,%d); color: rgb(1,2,%d); }", sheet, sheet))
						}
					}
				}
			}
		}
		pick := func(options ...string) string { return options[r.IntN(len(options))] }
		settings := "[Settings]\n" + pick("", "gtk-theme-name=Reef\n", "gtk-theme-name=Skerry\n", "gtk-theme-name=Gone\n") + pick("", "gtk-application-prefer-dark-theme=1\n", "gtk-application-prefer-dark-theme=false\n")
		write(t, filepath.Join(home, ".config", kit.folder, "settings.ini"), settings)
		env := map[string]string{}
		variants := []string{"", "", "Reef", "Skerry:dark", "Reef:dark", "Gone", "Gone:dark"}
		variants = append(variants, "Skerry:", "Reef:light")
		if v := pick(variants...); v != "" {
			env["GTK_THEME"] = v
		}
		d, err := desk.Open("w", home, "/", "")
		require.NoError(t, err)
		d.Env = env
		d.SetWritable(true)
		d.SetSurfaces(desk.Builtin())
		asked := func() [3]int {
			c := exec.CommandContext(t.Context(), programs[kit.surface])
			c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + screen, "GDK_BACKEND=x11", "GDK_DEBUG=gl-disable", "LANG=C.UTF-8", "NO_AT_BRIDGE=1", "GTK_A11Y=none", "GSETTINGS_BACKEND=memory"}
			if v, ok := d.Var("GTK_THEME"); ok { // as a session would have it
				c.Env = append(c.Env, "GTK_THEME="+v.Value)
			}
			var rgb [3]int
			_, err := fmt.Sscan(output(t, c), &rgb[0], &rgb[1], &rgb[2])
			require.NoError(t, err)
			return rgb
		}
		ours := func() (rgb [3]int, known bool) {
			s, _ := d.Surface(kit.surface)
			f, _ := s.Facet(desk.FacetWidgets)
			dark := reads(t, d, kit.surface, desk.FacetDark).Value == "dark"
			if worn := reads(t, d, kit.surface, desk.FacetWidgets); worn.Problem != nil && worn.Problem.Code == reading.VariantMissing {
				return rgb, false
			}
			file, _, err := reading.FindSheet(d, f.Lookup, reads(t, d, kit.surface, desk.FacetWidgets).Value, dark)
			if err != nil || file == "" {
				return rgb, false // a theme of GTK's own
			}
			sheet, err := gtkcss.Load(t.Context(), d.Tree(), desk.Name(file))
			require.NoError(t, err)
			property := map[string]string{"gtk3": "background-color", "gtk4": "color"}[kit.surface]
			c := gtkcss.NewCascade(sheet).Compute("window.background").Colour(property)
			return [3]int{int(c.R*255 + 0.5), int(c.G*255 + 0.5), int(c.B*255 + 0.5)}, true
		}
		compare := func(when string) {
			theirs := asked()
			mine, known := ours()
			if known {
				same(kit.surface+" x11", "sheet worn", fmt.Sprint(theirs), fmt.Sprint(mine))
				require.Equal(t, theirs, mine, "seed %d, %s %s, GTK_THEME=%q\n%s", seed, kit.surface, when, env["GTK_THEME"], settings)
			} else {
				require.NotEqual(t, [2]int{1, 2}, [2]int{theirs[0], theirs[1]}, "seed %d, %s %s: GTK finds a theme of the home, GTK_THEME=%q\n%s%s", seed, kit.surface, when, env["GTK_THEME"], settings, sheets)
			}
			n++
		}
		compare("as it is")

		// Set by a file instead, the variable goes and the theme is worn.
		if v := env["GTK_THEME"]; v != "" {
			d.Env = nil
			write(t, filepath.Join(home, ".profile"), "# mine\nexport GTK_THEME='"+v+"'\nexport EDITOR=ed\n")
		}
		d.SetSurfaces(slices.DeleteFunc(d.Surfaces(), func(s desk.Surface) bool { return s.ID != kit.surface }))
		p, err := planning.Dress(t.Context(), d, outfit.Outfit{Name: "x"}.With(desk.FacetWidgets, "Skerry").With(desk.FacetDark, "dark"))
		require.NoError(t, err)
		require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: filepath.Join(t.TempDir(), "j")}))
		compare("after Skerry was put on")
		if v := env["GTK_THEME"]; v != "" && len(p.Blocked) == 0 {
			b, err := os.ReadFile(filepath.Join(home, ".profile"))
			require.NoError(t, err)
			want := "# mine\nexport EDITOR=ed\n"
			if v == "Skerry:dark" {
				want = "# mine\nexport GTK_THEME='Skerry:dark'\nexport EDITOR=ed\n"
			}
			require.Equal(t, want, string(b))
		}
	}
	t.Logf("%d times the sheet that the toolkit wears", n)
}
