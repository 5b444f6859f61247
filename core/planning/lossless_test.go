package planning

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/fontconf"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/keyfile"
	"ivelt/core/xresources"
)

// writers are all that plans write settings with. lines are what generated files
// are made of, and read tells what the file then says.
var writers = []struct {
	name, pattern string
	src           desk.Source
	facet         desk.Facet
	head, tail    string
	lines         []string
	values        []string
	most          int // lines that may be added
	edit          func(old []byte, w desk.Source, f desk.Facet, value string) ([]byte, error)
	read          func(b []byte) string
}{
	{
		name: "key files", pattern: "*.ini", src: desk.Source{Format: "keyfile", Group: "Settings", Key: "gtk-icon-theme-name"}, most: 4,
		lines: []string{
			"[Settings]", "[Other]", "[Settings]  ", "gtk-icon-theme-name=A", " gtk-icon-theme-name = B  ", "gtk-icon-theme-name\t=\tC", "gtk-icon-theme-name=", "#gtk-icon-theme-name=D", "gtk-icon-theme-name[de]=E",
			"gtk-theme-name=x\\ty", "# a comment", "", "   ", "x = y = z", "long=" + strings.Repeat("ü", 3000), "k=#",
		},
		values: []string{"New", "Two Words", "Möwe"}, edit: edited,
		read: func(b []byte) string {
			kf, err := keyfile.Parse(b)
			if err != nil {
				return err.Error()
			}
			return keyfile.Unescape(kf.Get("Settings", "gtk-icon-theme-name"))
		},
	},
	{
		name: "GLib's settings", pattern: "*.keyfile", src: desk.Source{Format: "gsettings", Group: "org/shore/interface", Key: "icon-theme", Type: "s"}, most: 4,
		lines:  []string{"[org/shore/interface]", "[org/shore/frames]", "icon-theme='A'", `icon-theme = "B"`, "icon-theme=Bare", "# icon-theme='C'", "", "cursor-size=24", "list=['a', 'b']"},
		values: []string{"New", "it's", `back\slash`}, edit: edited,
		read: func(b []byte) string {
			kf, err := keyfile.Parse(b)
			if err != nil {
				return err.Error()
			}
			v := kf.Get("org/shore/interface", "icon-theme")
			v = v[1 : len(v)-1]
			return strings.NewReplacer(`\\`, `\`, `\'`, "'").Replace(v)
		},
	},
	{
		name: "GTK 2's resource files", pattern: "*.gtkrc", src: desk.Source{Format: "gtkrc", Key: "gtk-icon-theme-name"}, most: 2,
		lines: []string{
			`gtk-icon-theme-name = "A"`, `gtk-icon-theme-name="B" # mine`, "gtk-icon-theme-name\t=\n\"C\"", `# gtk-icon-theme-name = "D"`, "", `gtk-font-name = "Sans 9"`, "gtk-cursor-theme-size = 0x20",
			"style \"s\" {\n bg[NORMAL] = \"red\"\n engine \"e\" { gtk-icon-theme-name = 1 }\n}", `class "GtkWidget" style "s"`, `gtk-key-theme-name = "E" gtk-menu-images = 1`,
		},
		values: []string{"New", `Quo"ted`, "Two Words"}, edit: edited,
		read: func(b []byte) string {
			out := ""
			for _, s := range gtkrc.Parse(b).Settings {
				if s.Key == "gtk-icon-theme-name" {
					out = s.Value
				}
			}
			return out
		},
	},
	{
		name: "X resources", pattern: "*.Xresources", src: desk.Source{Format: "xresources", Key: "Xcursor.size"}, most: 2,
		lines:  []string{"Xcursor.size: 24", "Xcursor.size:\t48  ", "  Xcursor.size : 32", "! Xcursor.size: 9", "Xcursor.theme: Two\\\n Words", "*.color0: \\043000", "XTerm*x:", "", "#define X y", "junk"},
		values: []string{"56", "7", "128"}, edit: edited,
		read: func(b []byte) string {
			e, _ := xresources.Lookup(b, "Xcursor.size")
			return strings.TrimRight(e.Value, " \t")
		},
	},
	{
		name: "variables", pattern: "*.profile", src: desk.Source{Format: "env", Key: "QT_STYLE_OVERRIDE"}, most: 2,
		lines: []string{
			"QT_STYLE_OVERRIDE=a", "export QT_STYLE_OVERRIDE='b c'", `  export QT_STYLE_OVERRIDE="d"`, "# QT_STYLE_OVERRIDE=e", "PATH=$HOME/bin:$PATH", "if true; then", "fi", "", "QT_STYLE_OVERRIDES=f", "alias x='QT_STYLE_OVERRIDE=g y'",
		},
		values: []string{"fusion", "Two Words", "a$b"},
		edit: func(old []byte, w desk.Source, _ desk.Facet, value string) ([]byte, error) {
			return withVariable(old, w.Key, value, true), nil
		},
		read: func(b []byte) string {
			out := ""
			for line := range strings.Lines(string(b)) {
				if name, value, ok := desk.Assignment(line); ok && name == "QT_STYLE_OVERRIDE" {
					out = value
				}
			}
			return out
		},
	},
	{
		name: "colours of a style sheet", pattern: "*.css", src: desk.Source{Format: "css", Key: "accent_bg_color"}, most: 2,
		lines: []string{
			"@define-color accent_bg_color #010203;", "@define-color  accent_bg_color\t@blue ;", "@define-color blue #0000ff;", "/* @define-color accent_bg_color red; */", "window { background-color: @accent_bg_color; }", "",
			"@define-color accent_bg_color /* mine */ mix(red, blue, 0.5);", "@define-color accent_bg_colors red;", "label { color: red } @define-color accent_bg_color rgb(1,2,3);", "@import \"x.css\";",
		},
		values: []string{"#c0ffee", "#2f7f8c"}, edit: edited,
		read: func(b []byte) string {
			out := ""
			for _, d := range gtkcss.Definitions(b) {
				if d.Name == "accent_bg_color" {
					out = d.Value
				}
			}
			return out
		},
	},
	{
		name: "fontconfig's rules", pattern: "*.conf", src: desk.Source{Format: "fontconfig", Key: "antialias", Group: "sans"}, facet: desk.Facet{Values: map[string][]string{"on": {"true"}, "off": {"false"}}},
		head: "<?xml version='1.0'?>\n<fontconfig>\n", tail: "</fontconfig>\n", most: 4,
		lines: []string{
			"<match target='font'><edit name='antialias' mode='assign'><bool>true</bool></edit></match>", "  <match target='font'>\n    <edit name='antialias'>\n      <bool> true </bool>\n    </edit>\n  </match>",
			"<match target='font'><test name='family'><string>sans</string></test><edit name='antialias'><bool>false</bool></edit></match>", "<match><edit name='antialias' mode='append'><bool>true</bool></edit></match>",
			"<!-- <match target='font'><edit name='antialias'> -->", "<dir>~/.fonts</dir>", "", "<alias><family>a &amp; b</family><prefer><family>c</family></prefer></alias>", "<match target='font'><edit name='hinting'><bool>true</bool></edit></match>",
		},
		values: []string{"off", "on"}, edit: edited,
		read: func(b []byte) string {
			dir, err := os.MkdirTemp("", "rules")
			if err != nil {
				return err.Error()
			}
			defer os.RemoveAll(dir)
			if err := os.WriteFile(filepath.Join(dir, "x.conf"), b, 0o644); err != nil {
				return err.Error()
			}
			c, err := fontconf.Load(os.DirFS(dir), "/x.conf", fontconf.Home("/home/me"))
			if err != nil || len(c.Notes) > 0 {
				return fmt.Sprint(err, c.Notes)
			}
			return map[string]string{"true": "on", "false": "off"}[c.Rendered("sans", []string{"DejaVu Sans"})["antialias"][0].Value]
		},
	},
}

// TestEditsAreLossless edits hand-made and generated files, as messy as people
// leave them: what is wanted is said, one stretch of one line is replaced or a few
// lines are added, every other byte is as it was, and doing it again does nothing.
func TestEditsAreLossless(t *testing.T) {
	for _, w := range writers {
		t.Run(w.name, func(t *testing.T) {
			n := 0
			check := func(what string, old []byte, value string) {
				now, err := w.edit(old, w.src, w.facet, value)
				if err != nil {
					return // it is no such file: nothing is written
				}
				n++
				require.Equal(t, value, w.read(now), "%s\n%q\n%q", what, old, now)
				again, err := w.edit(now, w.src, w.facet, value)
				require.NoError(t, err, what)
				require.Equal(t, string(now), string(again), "%s: done twice", what)
				if bytes.Equal(old, now) || len(bytes.TrimSpace(old)) == 0 && w.head != "" {
					return
				}
				from := 0
				for from < len(old) && from < len(now) && old[from] == now[from] {
					from++
				}
				to := 0
				for to < len(old)-from && to < len(now)-from && old[len(old)-1-to] == now[len(now)-1-to] {
					to++
				}
				gone, added := string(old[from:len(old)-to]), string(now[from:len(now)-to])
				require.NotContains(t, strings.TrimSpace(gone), "\n", "%s: more than a line is gone\n%q\n%q", what, old, now)
				require.LessOrEqual(t, strings.Count(added, "\n"), w.most, "%s: %q is added\n%q", what, added, old)
				if strings.Contains(string(old), "\r\n") && !strings.Contains(strings.ReplaceAll(string(old), "\r\n", ""), "\n") {
					require.Equal(t, strings.Count(string(now), "\n"), strings.Count(string(now), "\r\n"), "%s: its line ends\n%q", what, now)
				}
			}
			files, err := filepath.Glob(filepath.Join("testdata/messy", w.pattern))
			require.NoError(t, err)
			for _, file := range files {
				b, err := os.ReadFile(file)
				require.NoError(t, err)
				for _, value := range w.values {
					check(file, b, value)
				}
			}
			for seed := range uint64(600) {
				r := rand.New(rand.NewPCG(seed, 71))
				text := w.head
				for range r.IntN(14) {
					text += w.lines[r.IntN(len(w.lines))] + "\n"
				}
				text += w.tail
				switch r.IntN(6) {
				case 0:
					text = strings.ReplaceAll(text, "\n", "\r\n")
				case 1:
					text = strings.TrimSuffix(text, "\n")
				case 2:
					text = "\ufeff" + text
				case 3:
					text += strings.Repeat("\n", r.IntN(4))
				case 4:
					if w.head == "" && r.IntN(20) == 0 {
						text = strings.Repeat(text, 2000)
					}
				}
				check(fmt.Sprint("seed ", seed), []byte(text), w.values[r.IntN(len(w.values))])
			}
			require.Greater(t, n, 150)
		})
	}
}
