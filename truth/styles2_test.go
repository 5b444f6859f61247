package truth

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkrc"
	"ivelt/demo"
)

// TestGTK2StylesAgree gives widgets styles by the demo's themes and by generated
// resource files, and compares colours and thickness with what GTK 2 gives them
// (Debian: libgtk2.0-dev, xvfb).
func TestGTK2StylesAgree(t *testing.T) {
	screen := display(t)
	program := build(t, "styles2", "gtk+-2.0", "libgtk2.0-dev")
	compared, apart := 0, 0
	check := func(what, home, theme string) {
		write(t, filepath.Join(home, ".gtkrc-2.0"), fmt.Sprintf("gtk-theme-name = %q\n", theme))
		c := exec.CommandContext(t.Context(), program)
		c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + screen, "LANG=C.UTF-8", "NO_AT_BRIDGE=1"}
		f, err := gtkrc.Load(os.DirFS(home), ".themes/"+theme+"/gtk-2.0/gtkrc")
		require.NoError(t, err)
		var st gtkrc.Style
		var where string
		for _, line := range lines(output(t, c)) {
			if rest, ok := strings.CutPrefix(line, "widget "); ok {
				where = rest
				var path []gtkrc.Widget
				for _, part := range strings.Fields(rest) {
					names := strings.Split(part, ",")
					path = append(path, gtkrc.Widget{Name: names[0], Types: names[1:]})
				}
				st = f.Style(path)
				continue
			}
			var key string
			var theirs [3]int
			_, err := fmt.Sscan(line, &key, &theirs[0], &theirs[1], &theirs[2])
			require.NoError(t, err)
			ours := [3]int{st.XThickness, st.YThickness, 0}
			if key != "thickness" {
				kind, state, _ := strings.Cut(strings.TrimSuffix(key, "]"), "[")
				i := map[string]gtkrc.State{"NORMAL": gtkrc.Normal, "ACTIVE": gtkrc.Active, "PRELIGHT": gtkrc.Prelight, "SELECTED": gtkrc.Selected, "INSENSITIVE": gtkrc.Insensitive}[state]
				ours = map[string][5]gtkrc.Colour{"fg": st.Fg, "bg": st.Bg, "text": st.Text, "base": st.Base}[kind][i].Bytes()
			}
			compared++
			for i := range ours {
				if d := ours[i] - theirs[i]; d > 1 || d < -1 {
					if apart++; apart < 12 {
						b, _ := os.ReadFile(filepath.Join(home, ".themes", theme, "gtk-2.0/gtkrc"))
						more, _ := os.ReadFile(filepath.Join(home, ".themes", theme, "gtk-2.0/more.rc"))
						t.Errorf("%s: %s of %s: GTK 2 %v, Ivelt %v\n%s\nmore.rc:\n%s\n%v", what, key, where[max(len(where)-60, 0):], theirs, ours, b, more, f.Notes)
					}
					break
				}
			}
		}
	}
	home := t.TempDir()
	require.NoError(t, demo.WriteThemes(filepath.Join(home, ".themes")))
	for _, theme := range []string{"Reedbed", "Saltpan", "Groyne"} {
		check(theme, home, theme)
	}
	for seed := range uint64(120) {
		home := t.TempDir()
		dir := filepath.Join(home, ".themes/Made/gtk-2.0")
		r := rand.New(rand.NewPCG(seed, 22))
		write(t, filepath.Join(dir, "gtkrc"), resource(r))
		write(t, filepath.Join(dir, "more.rc"), resource(r))
		check(fmt.Sprint("seed ", seed), home, "Made")
	}
	t.Logf("%d values of GTK 2 widgets compared (seeds 0 to 119), %d apart", compared, apart)
}

// resource makes a resource file as themes have them.
func resource(r *rand.Rand) string {
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	var b strings.Builder
	line := func(s string) { b.WriteString(s + pick("\n", "\n", "  # note\n", "\n\n")) }
	if r.IntN(8) == 0 {
		line("style \"early\" { bg[NORMAL] = @one }\nclass \"GtkWidget\" style \"early\"")
	}
	line(pick(`gtk-color-scheme = "one:#336699\ntwo:#f0e0c0"`, `gtk-color-scheme="one:red;two:#abc"`, `gtk-color-scheme = "one: #123456 \n two:seagreen\nbroken"`))
	var colour func(depth int) string
	colour = func(depth int) string {
		if depth > 3 {
			return pick("@one", "@two", `"#808040"`)
		}
		switch r.IntN(9) {
		case 0:
			return "@one"
		case 1:
			return "@two"
		case 2:
			return fmt.Sprintf("shade (%.2f, %s)", r.Float64()*2, colour(depth+1))
		case 3:
			return fmt.Sprintf("mix(%.2f,%s,%s)", r.Float64(), colour(depth+1), colour(depth+1))
		case 4:
			return pick("lighter", "darker") + "(" + colour(depth+1) + ")"
		case 5:
			return fmt.Sprintf("{ %.3f, %.3f, %.3f }", r.Float64(), r.Float64(), r.Float64())
		case 6:
			return fmt.Sprintf("{%d, %d, %d}", r.IntN(65536), r.IntN(65536), r.IntN(65536))
		case 7:
			return pick(`"gray"`, `"dark slate blue"`, `"#fff"`, `"#123412341234"`, `"Maroon"`)
		}
		return fmt.Sprintf(`"#%06x"`, r.IntN(1<<24))
	}
	var names []string
	for i := range 2 + r.IntN(5) {
		name := fmt.Sprint("s", i)
		head := fmt.Sprintf("style %q", name)
		if len(names) > 0 && r.IntN(3) == 0 {
			head += fmt.Sprintf(" = %q", names[r.IntN(len(names))])
		}
		line(head + " {")
		for range 1 + r.IntN(6) {
			switch r.IntN(12) {
			case 0:
				line(fmt.Sprintf("  xthickness = %d", r.IntN(6)))
			case 1:
				line(fmt.Sprintf("  ythickness = %d", r.IntN(6)))
			case 2:
				line(`  GtkButton::default-border = { 0, 0, 0, 0 }`)
			case 3:
				line(`  GtkWidget::focus-line-width = 1`)
			case 4:
				line(`  bg_pixmap[NORMAL] = "<none>"`)
			case 5:
				line(`  font_name = "Sans 9"`)
			default:
				line(fmt.Sprintf("  %s[%s] = %s", pick("fg", "bg", "text", "base"), pick("NORMAL", "ACTIVE", "PRELIGHT", "SELECTED", "INSENSITIVE"), colour(0)))
			}
		}
		line("}")
		names = append(names, name)
		for range r.IntN(3) {
			style := fmt.Sprintf("style %s%q", pick("", "", "", ": highest ", ": gtk ", ": application "), names[r.IntN(len(names))])
			switch r.IntN(3) {
			case 0:
				line(fmt.Sprintf("class %q %s", pick("GtkWidget", "GtkButton", "Gtk*Button", "*", "GtkBin", "GtkEntry", "GtkRange", "GtkLab?l"), style))
			case 1:
				line(fmt.Sprintf("widget_class %q %s", pick("*", "*GtkButton*", "*.GtkButton.GtkLabel", "*<GtkButton>*", "*<GtkMenuItem>*", "*<GtkNotebook>.<GtkLabel>", "GtkWindow", "*<GtkContainer>.GtkEntry", "<GtkWindow>.<GtkBox>.<GtkButton>", "*.<GtkWidget>*<GtkLabel>"), style))
			default:
				line(fmt.Sprintf("widget %q %s", pick("*keeper*", "*.keeper", "*", "*.GtkCheckButton.*", "GtkWindow.*.GtkEntry"), style))
			}
		}
	}
	if r.IntN(4) == 0 {
		line(pick(`include "more.rc"`, `include "gone.rc"`, `bg[NORMAL] = "red"`, `style "x" { bg[NORMAL] = @nowhere }`, `class "GtkWidget" style "never"`, `binding "b" { bind "<ctrl>a" { "x" (1) } }`, "style \"y\" { nonsense = 4 }"))
		line(fmt.Sprintf("style \"after\" { bg[NORMAL] = %q\n}\nclass \"GtkWidget\" style \"after\"", "#0a0b0c"))
	}
	return b.String()
}
