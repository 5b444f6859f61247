package truth

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/gtkrc"
	"ivelt/demo"
)

// styles2 holds the styles of GTK 2 against its own (Debian: libgtk2.0-dev, xvfb).
type styles2 struct {
	program, screen string
	engines         string // the folder that it finds engines in
}

// count says how many values were compared, how many of them are apart, what GTK
// complained of, and the first few differences.
type count2 struct {
	compared, apart int
	complaints      string
	first           []string
	file            *gtkrc.File
}

func (s styles2) hold(t *testing.T, home, theme string) (n count2) {
	write(t, filepath.Join(home, ".gtkrc-2.0"), fmt.Sprintf("gtk-theme-name = %q\n", theme))
	c := exec.CommandContext(t.Context(), s.program)
	c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + s.screen, "LANG=C.UTF-8", "NO_AT_BRIDGE=1", "GTK_PATH=" + s.engines}
	var complaints bytes.Buffer
	c.Stderr = &complaints
	out, err := c.Output()
	require.NoError(t, err, "%s\n%s", theme, complaints.String())
	n.complaints = complaints.String()
	dir, err := filepath.EvalSymlinks(filepath.Join(home, ".themes", theme))
	require.NoError(t, err)
	n.file, err = gtkrc.Load(os.DirFS("/"), filepath.Join(dir, "gtk-2.0/gtkrc")[1:])
	require.NoError(t, err)
	var st gtkrc.Style
	var where string
	for _, line := range lines(string(out)) {
		if rest, ok := strings.CutPrefix(line, "widget "); ok {
			where = rest
			var path []gtkrc.Widget
			for _, part := range strings.Fields(rest) {
				names := strings.Split(part, ",")
				path = append(path, gtkrc.Widget{Name: names[0], Types: names[1:]})
			}
			st = n.file.Style(path)
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
		n.compared++
		for i := range ours {
			if d := ours[i] - theirs[i]; d > 1 || d < -1 {
				if n.apart++; len(n.first) < 6 {
					n.first = append(n.first, fmt.Sprintf("%s of %s: GTK 2 %v, Ivelt %v", key, where[max(len(where)-60, 0):], theirs, ours))
				}
				break
			}
		}
	}
	return n
}

// TestGTK2StylesAgree gives widgets styles by the demo's themes and by generated
// resource files, and compares colours and thickness with what GTK 2 gives them.
func TestGTK2StylesAgree(t *testing.T) {
	t.Parallel()
	s := styles2{build(t, "styles2", "gtk+-2.0", "libgtk2.0-dev"), display(t), ""}
	compared, apart := 0, 0
	check := func(what, home, theme string) {
		n := s.hold(t, home, theme)
		compared, apart = compared+n.compared, apart+n.apart
		if n.apart > 0 && apart < 200 {
			b, _ := os.ReadFile(filepath.Join(home, ".themes", theme, "gtk-2.0/gtkrc"))
			more, _ := os.ReadFile(filepath.Join(home, ".themes", theme, "gtk-2.0/more.rc"))
			t.Errorf("%s: %s\n%s\nmore.rc:\n%s\n%v\n%s", what, strings.Join(n.first, "\n"), b, more, n.file.Notes, n.complaints)
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

// unfound is how GTK 2 complains of an engine that is not installed.
var unfound = regexp.MustCompile(`Unable to locate theme engine in module_path: "([^"]*)"`)

// TestRealGTK2ThemesAgree holds every real theme's styles against GTK 2's own.
func TestRealGTK2ThemesAgree(t *testing.T) {
	t.Parallel()
	themes := realThemes(t, "gtk-2.0/gtkrc")
	s := styles2{build(t, "styles2", "gtk+-2.0", "libgtk2.0-dev"), display(t), yard.engines}
	all := map[string]*[4]int{"worked": {}, "held out": {}} // themes, those that agree wholly, values, values that agree
	for _, theme := range themes {
		n := s.hold(t, wear(t, theme), theme.name)
		var theirs []string
		for _, m := range unfound.FindAllStringSubmatch(n.complaints, -1) {
			theirs = append(theirs, m[1])
		}
		slices.Sort(theirs)
		ours := slices.DeleteFunc(n.file.Engines(), func(engine string) bool {
			found, _ := filepath.Glob(filepath.Join(yard.engines, "*/engines/lib"+engine+".so"))
			return len(found) > 0
		})
		if !same("gtk2", "engine missing", fmt.Sprint(slices.Compact(theirs)), fmt.Sprint(ours)) {
			t.Errorf("%s: GTK misses the engines %v, Ivelt %v", theme.name, theirs, ours)
		}
		sum := all[theme.part()]
		sum[0]++
		if n.apart == 0 {
			sum[1]++
		}
		sum[2], sum[3] = sum[2]+n.compared, sum[3]+n.compared-n.apart
		scored("gtk2", theme, "styles", n.compared-n.apart, n.compared)
		if n.apart > 0 && !theme.held {
			t.Logf("%s: %d of %d apart\n%s\n%v\n%s", theme.name, n.apart, n.compared, strings.Join(n.first, "\n"), n.file.Notes, n.complaints)
		}
	}
	for part, n := range all {
		t.Logf("%s: %d of %d themes agree wholly, %d of %d values", part, n[1], n[0], n[3], n[2])
	}
	assert.GreaterOrEqual(t, 100*all["worked"][3], 99*all["worked"][2], "of the worked part's values 99 % agree")
}

// resource makes a resource file as themes have them.
func resource(r *rand.Rand) string {
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	var b strings.Builder
	line := func(s string) { b.WriteString(s + pick("\n", "\n", "  # note\n", "\n\n")) }
	if r.IntN(8) == 0 {
		line("style \"early\" { bg[NORMAL] = @one }\nclass \"GtkWidget\" style \"early\"")
	}
	line(pick(`gtk-color-scheme = "one:#336699\ntwo:#f0e0c0"`, `gtk-color-scheme="one:red;two:#abc"`, `gtk-color-scheme = "one: #123456 \n two:seagreen\nbroken"`, `gtk_color_scheme = "one:navy\ntwo:#987"`))
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
			switch r.IntN(14) {
			case 12:
				line("  " + pick("GtkWidget::link-color = @one", "GtkTreeView::odd_row_color = shade (0.9, @two)", "GtkMenu::x = { 1, -2, [ @one ] }", "GtkWidget::a = 'b\\'", "/* GtkX::1\n */", "GtkX::y = $ff", "GtkX::y = -.5",
					"GtkX::y = 0b101", "GtkRange::kind = GTK_SHADOW_OUT", "xthickness = 0x3", "xthickness = 011", `stock["gtk-ok"] = { { "a.png", LTR, NORMAL, "gtk-menu" }, { @"icon", *, * } }`, `color["three"] = lighter (@one)`))
			case 13:
				line("  " + pick(`fg[NORMAL] = "\043345"`, `bg[ACTIVE] = shade(1, @one)`, `bg[NORMAL] = mix(-0.5, @one, "white")`, `GtkX::y = @nowhere`, `engine "clearlooks" { style = CLASSIC }`, `engine "unheard" { anything { goes } @here }`,
					`text[SELECTED] = @three`, `GtkX::y = ONE | TWO`, `bg[NORMAL] = {.5, 0.25, 1.}`))
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
