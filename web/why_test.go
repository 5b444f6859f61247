package web_test

import (
	"ivelt/web/browsertest"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// write puts a file into the desk's home.
func (s *stage) write(name, text string) {
	s.t.Helper()
	require.NoError(s.t, os.MkdirAll(filepath.Dir(s.home(name)), 0o755))
	require.NoError(s.t, os.WriteFile(s.home(name), []byte(text), 0o644))
}

const emptyPack = "[Icon Theme]\nName=Empty\nDirectories=16\n[16]\nSize=16\n"

// TestWhyItDidNotFollow brings about each of the causes for which a surface does
// not show what was meant, and reads on its page which one it is, where, and what
// to do about it.
func TestWhyItDidNotFollow(t *testing.T) {
	for _, c := range []struct {
		code, at string
		make     func(b *browser)
		says     []string
	}{
		{"name-not-found", "gtk3/widgets", func(b *browser) { b.write(gtk3File, "[Settings]\ngtk-theme-name=saltpan\n") },
			[]string{`No folder GTK 3 programs search has a theme for it named "saltpan"`, `There is "Saltpan"`, "Ask for Saltpan instead", "~/.config/gtk-3.0/settings.ini:2", "/usr/share/themes not in it"}},
		{"not-for-this", "gtk4/widgets", func(b *browser) {
			b.write(".themes/Old/gtk-3.0/gtk.css", "")
			b.write(gtk4File, "[Settings]\ngtk-theme-name=Old\n")
		}, []string{`"Old" is in ~/.themes, and has no part for it: it would need gtk.css in one of gtk-4.8 … gtk-4.0`, "~/.themes there, with nothing for this surface"}},
		{"other-folder", "gtk2/widgets", func(b *browser) {
			b.write(".local/share/themes/New/gtk-2.0/gtkrc", "")
			b.write(".gtkrc-2.0", `gtk-theme-name = "New"`)
		}, []string{`"New" is in ~/.local/share/themes, and GTK 2 programs do not look there`, "Put it into ~/.themes as well"}},
		{"overruled", "gtk3/widgets", func(b *browser) {
			b.write(".themes/Mine/gtk-3.0/gtk.css", "")
			b.write(".profile", "# mine\nexport GTK_THEME=Mine\n")
			b.draft("widgets", "Saltpan")
		}, []string{"The variable GTK_THEME, set by ~/.profile in line 2, gives Mine", "wanted: Saltpan", "overruled"}},
		{"overruled", "quayside/icons", func(b *browser) { b.draft("icons", "Marram") }, []string{"~/.config/quayside/quayside.conf, line 5, gives Foreshore", "wanted: Marram"}},
		{"overruled", "gtk3/font", func(b *browser) { // what a theme brings along goes before what the person set
			b.write(".themes/Mine/gtk-3.0/gtk.css", "")
			b.write(".themes/Mine/gtk-3.0/settings.ini", "[Settings]\ngtk-font-name=Estuary Sans 20\n")
			b.write(gtk3File, "[Settings]\ngtk-theme-name=Mine\ngtk-font-name=Estuary Sans 10\n")
			b.draft("font", "Estuary Sans 10")
		}, []string{"~/.themes/Mine/gtk-3.0/settings.ini, line 2, gives Estuary Sans 20", "wanted: Estuary Sans 10"}},
		{"shadowed", "gtk3/icons", func(b *browser) { b.write(".icons/Foreshore/index.theme", emptyPack) },
			[]string{"There is more than one Foreshore: the one in ~/.icons is used and hides the one in /usr/share/icons", "/usr/share/icons another, shadowed by the first"}},
		{"needs-restart", "quayside/icons", func(b *browser) {
			b.write(".config/quayside/quayside.conf", "[Look]\nicons=Marram\n")
			b.draft("icons", "Marram")
		}, []string{"shows Foreshore, is set to Marram", "Still shows Foreshore, loaded before the change", "Restart the shell", "Restart Quayside"}},
		{"engine-missing", "gtk2/widgets", func(b *browser) {
			b.write(".themes/Drawn/gtk-2.0/gtkrc", "style \"d\" {\n  engine \"barnacle\" { roundness = 3 }\n}\nclass \"GtkWidget\" style \"d\"\n")
			b.write(".gtkrc-2.0", `gtk-theme-name = "Drawn"`)
		}, []string{`"Drawn" needs the engine barnacle, which is not installed`, "Install the engine barnacle"}},
		{"switched-off", "qt/icons", func(b *browser) {
			require.NoError(t, os.Remove(b.home(".config/environment.d/qt.conf")))
			b.draft("icons", "Marram")
		}, []string{"Qt programs follow GTK 3 programs only if the variable QT_QPA_PLATFORMTHEME is gtk3, and nothing sets it"}},
		{"grant-missing", "coracle/icons", func(b *browser) {
			b.write(".icons/Own/index.theme", emptyPack)
			b.write(gtk3File, "[Settings]\ngtk-icon-theme-name=Own\n")
			b.write(".config/coracle/grants.conf", "[Grants]\nread=~/.themes\n")
		}, []string{`"Own" is in ~/.icons, which Programs in Coracle cannot read`, "Grant ~/.icons: add it to read in ~/.config/coracle/grants.conf", "~/.icons not granted"}},
		{"broken-piece", "gtk3/icons", func(b *browser) {
			b.write(".icons/Bent/index.theme", "[Icon Theme\nName=Bent\n")
			b.write(gtk3File, "[Settings]\ngtk-icon-theme-name=Bent\n")
		}, []string{`"Bent" cannot be used`, "line 1", "Reinstall it"}},
	} {
		t.Run(c.code+" "+filepath.Dir(c.at), func(t *testing.T) {
			b := newStage(t).browsePlain()
			c.make(b)
			b.Open("/d/avocet/why/" + c.at)
			require.Equal(t, c.code, browsertest.Value[string](b.Browser, `(b => b.dataset.code || b.querySelector("[data-code]")?.dataset.code)(document.querySelector(".verdict-box"))`))
			text := b.Text("#work")
			for _, says := range c.says {
				require.Contains(t, text, says)
			}
			require.True(t, b.Is(`document.documentElement.scrollWidth <= innerWidth`))
		})
	}
}

// TestASourceIsEditedFromItsRung opens the file of a step at its line, takes out
// by a plan what overrules, and goes back on it, by mouse and by keyboard.
func TestASourceIsEditedFromItsRung(t *testing.T) {
	b := newStage(t).browsePlain()
	b.write(".themes/Mine/gtk-3.0/gtk.css", "")
	b.write(".profile", "# mine\nexport GTK_THEME=Mine\nexport EDITOR=ed\n")
	b.Open("/d/avocet/match")
	b.Click(`.station[data-surface="gtk3"][data-facet="widgets"] a`)
	b.Until(`document.querySelector(".verdict-box")?.innerText.includes("Mine")`)
	b.Click(`.rung-wins .who a`)
	b.Until(`document.querySelector("#line-2")?.innerText.includes("export GTK_THEME=Mine")`)
	b.Open("/d/avocet/why/gtk3/widgets")
	b.Click(".rung-wins .rung-edit summary")
	b.Click(`.rung-wins [name="do"][value="out"]`)
	b.At("Review")
	require.Contains(t, b.Text("#work"), "Remove GTK_THEME from ~/.profile")
	require.Contains(t, b.Text("#work"), "export GTK_THEME=Mine")
	require.Contains(t, b.file(".profile"), "GTK_THEME", "reviewing changes nothing")
	require.True(t, b.Is(`document.querySelector("#strip").hidden`), "it is no draft")
	b.Press("a")
	b.Until(`document.querySelector(".verdict-box")?.innerText.includes("Saltpan")`)
	require.Equal(t, "# mine\nexport EDITOR=ed\n", b.file(".profile"))

	// What one source says is changed there, by keyboard.
	b.Walk(kb.Tab, `el.matches(".rung-wins summary")`)
	b.Press(kb.Enter)
	b.Walk(kb.Tab, `el.name === "want"`)
	b.Press(kb.End)
	for range "Saltpan" {
		b.Press(kb.Backspace)
	}
	b.Press("Mine")
	b.Walk(kb.Tab, `el.value === "say"`)
	b.Press(kb.Enter)
	b.At("Review")
	require.Contains(t, b.Text("#work"), "Set Mine in ~/.config/gtk-3.0/settings.ini")
	b.Press("a")
	b.Until(`document.querySelector(".verdict-box")?.innerText.includes("Mine")`)
	require.Contains(t, b.file(gtk3File), "gtk-theme-name=Mine\n")
	b.Open("/d/avocet/history")
	b.Click(".past > li:nth-child(1) [data-open]")
	b.At("Go back")
	b.Click("[data-main]")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Contains(t, b.file(gtk3File), "gtk-theme-name=Saltpan\n")
}

// draft chooses something without the page.
func (s *stage) draft(facet, want string) {
	s.t.Helper()
	_, err := s.app.Drafts.Choose(s.app.Desks()[0], facet, want)
	require.NoError(s.t, err)
}
