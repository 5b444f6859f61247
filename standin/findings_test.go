package standin_test

import (
	"crypto/md5"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/standin"
	"ivelt/store"
)

const iconIndex = "[Icon Theme]\nName=X\nDirectories=48\n[48]\nSize=48\n"

// apply carries a plan out on the rig's desk.
func (r rig) apply(p plan.Plan, err error) {
	r.t.Helper()
	require.NoError(r.t, err)
	require.NotEmpty(r.t, p.Ops, "there is something to do")
	d := r.desk()
	d.SetWritable(true)
	require.NoError(r.t, apply.Plan(r.t.Context(), d, p, apply.Config{Keep: store.Blobs{Dir: r.t.TempDir()}, Journal: filepath.Join(r.t.TempDir(), "journal")}))
}

// follow does what a remedy says and returns the outfit that is wanted then.
func (r rig) follow(c match.Cell, m match.Fix, o outfit.Outfit, byHand func()) outfit.Outfit {
	r.t.Helper()
	switch {
	case m.Planned():
		r.apply(planning.Fix(r.t.Context(), r.desk(), c, m))
	case m.Kind == match.ByDraft:
		o = o.With(m.Facet, m.Want)
		p, err := planning.Dress(r.t.Context(), r.desk(), o)
		for _, b := range p.Blocked {
			require.NotEqual(r.t, c.Surface.ID, b.Surface, b.Why)
		}
		r.apply(p, err)
	case m.Kind == match.ByRestart:
		p, ok := standin.Named(c.Surface.ID)
		require.True(r.t, ok)
		require.NoError(r.t, p.Start(r.Root))
	default:
		require.NotNil(r.t, byHand, "%s is to be done by hand", m.Text)
		byHand()
	}
	return o
}

// TestFindings makes each thing that can be wrong, and sees that the board says
// which it is, why, and what to do; and that this, done, is the end of it.
func TestFindings(t *testing.T) {
	themed := func(parts ...string) func(rig, string) {
		return func(r rig, at string) {
			r.put(at+"/index.theme", "[Desktop Entry]\nName=X\n")
			for _, p := range parts {
				r.put(at+"/"+p, "label { color: #102030; }\n")
			}
		}
	}
	const engines = "/usr/lib/x86_64-linux-gnu/gtk-2.0/2.10.0/engines/"
	for _, c := range []struct {
		what           string
		code           reading.Code
		surface, facet string
		want           map[string]string // the outfit
		make           func(r rig)
		cause, remedy  string // part of each
		byHand         func(r rig)
	}{
		{"name not found", reading.NotFound, "quayside", desk.FacetIcons, map[string]string{desk.FacetIcons: "Shingle"}, func(r rig) {},
			`searches has an icon pack named "Shingle"`, "or choose another", func(r rig) { r.put("~/.icons/Shingle/index.theme", iconIndex) }},
		{"written otherwise", reading.NotFound, "quayside", desk.FacetIcons, map[string]string{desk.FacetIcons: "Shingle"}, func(r rig) { r.put("~/.icons/shingle/index.theme", iconIndex) },
			`There is "shingle"`, "Ask for shingle instead", func(r rig) { require.NoError(t, os.Rename(r.host("~/.icons/shingle"), r.host("~/.icons/Shingle"))) }},
		{"not for this surface", reading.NotForThis, "quayside", desk.FacetBar, map[string]string{desk.FacetBar: "Dune"}, func(r rig) { themed("gtk-3.0/gtk.css")(r, "~/.themes/Dune") },
			"has no part for it: it would need shell.css in one of quayside", "Dune does not support this: choose another", func(r rig) { themed("quayside/shell.css")(r, "~/.themes/Dune") }},
		{"a folder it does not look in", reading.OtherFolder, "withy", desk.FacetFrame, map[string]string{desk.FacetFrame: "Dune"}, func(r rig) { themed("withy/frame.css")(r, "/usr/share/themes/Dune") },
			"is in /usr/share/themes, and Withy does not look there", "Put a link to it into ~/.config/withy/themes", nil},
		{"a picture that the login screen does not get at", reading.OtherFolder, "lantern", desk.FacetLoginGround, map[string]string{desk.FacetLoginGround: "/home/mara/pier.png"}, func(r rig) { r.picture("~/pier.png") },
			"does not get at", "a folder that everyone can read", func(r rig) { require.NoError(t, os.Remove(r.host("~/pier.png"))) }},
		{"overruled", match.Overruled, "gtk3", desk.FacetWidgets, map[string]string{desk.FacetWidgets: "Dune"}, func(r rig) {
			themed("gtk-3.0/gtk.css")(r, "~/.themes/Dune")
			r.put("~/.config/environment.d/old.conf", "GTK_THEME=Groyne\n")
			r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-theme-name=Dune\n")
		}, "The variable GTK_THEME, set by ~/.config/environment.d/old.conf in line 1, gives Groyne", "Put Dune on the draft", nil},
		{"hidden by another copy", match.Shadowed, "gtk3", desk.FacetWidgets, map[string]string{desk.FacetWidgets: "Dune"}, func(r rig) {
			themed("gtk-3.0/gtk.css")(r, "~/.themes/Dune")
			r.put("/usr/share/themes/Dune/gtk-3.0/gtk.css", "label { color: red; }\n")
			r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-theme-name=Dune\n")
		}, "the one in ~/.themes is used and hides the one in /usr/share/themes", "Remove the copy of Dune in ~/.themes", nil},
		{"restart pending", match.NeedsRestart, "quayside", desk.FacetEffects, map[string]string{desk.FacetEffects: "none"}, func(r rig) {
			require.NoError(t, standin.Quayside.Start(r.Root))
			r.put("~/.config/quayside/quayside.conf", "[Look]\neffects=none\n")
		}, "Still shows few", "Restart the shell", nil},
		{"restart pending after a change that nothing asks for", match.NeedsRestart, "quayside", desk.FacetEffects, nil, func(r rig) {
			require.NoError(t, standin.Quayside.Start(r.Root))
			r.put("~/.config/quayside/quayside.conf", "[Look]\neffects=all\n")
		}, "Still shows few", "Restart the shell", nil},
		{"engine missing", reading.EngineMissing, "gtk2", desk.FacetWidgets, map[string]string{desk.FacetWidgets: "Dune"}, func(r rig) {
			r.put("~/.themes/Dune/gtk-2.0/gtkrc", "style \"a\" { engine \"kelpdraw\" { } }\nclass \"GtkWidget\" style \"a\"\n")
			r.put("~/.gtkrc-2.0", "gtk-theme-name = \"Dune\"\n")
		}, "needs the engine kelpdraw, which is not installed", "Install the engine kelpdraw", func(r rig) { r.put(engines+"libkelpdraw.so", "x") }},
		{"engine not switched on", match.SwitchedOff, "qt", desk.FacetIcons, map[string]string{desk.FacetIcons: "Shingle"}, func(r rig) {
			r.put("~/.icons/Shingle/index.theme", iconIndex)
			r.put("/usr/lib/x86_64-linux-gnu/qt6/plugins/platformthemes/libqgtk3.so", "x")
		}, "only if the variable QT_QPA_PLATFORMTHEME is gtk3, and nothing sets it", "Put Shingle on the draft", nil},
		{"grant missing", reading.GrantMissing, "coracle", desk.FacetIcons, map[string]string{desk.FacetIcons: "Shingle"}, func(r rig) {
			r.put("~/.icons/Shingle/index.theme", iconIndex)
			r.put("~/.config/coracle/grants.conf", "[Grants]\nread=~/.themes\n")
		}, "cannot read", "Grant ~/.icons", nil},
		{"grant too wide", match.GrantTooWide, "coracle", desk.FacetIcons, map[string]string{desk.FacetIcons: "Shingle"}, func(r rig) {
			r.put("~/.icons/Shingle/index.theme", iconIndex)
			r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Shingle\n")
			r.put("~/.config/coracle/grants.conf", "# mine\n[Grants]\nread=~/.themes;~\n")
		}, "can read all of ~, which is more than it needs", "Grant the pieces' own folders", nil},
		{"version not made for", reading.OtherVersion, "quayside", desk.FacetBar, map[string]string{desk.FacetBar: "Dune"}, func(r rig) {
			themed("quayside/shell.css")(r, "~/.themes/Dune")
			r.put("~/.themes/Dune/quayside/shell.conf", "[Shell]\nVersions=< 3\n")
		}, "for < 3, and this is 3.2", "a version that is made for this one", func(r rig) { r.put("~/.themes/Dune/quayside/shell.conf", "[Shell]\nVersions=^3\n") }},
		{"pointer size forgotten", match.SecondOne, "gtk2", desk.FacetPointerSize, map[string]string{desk.FacetPointer: "Tern"}, func(r rig) {
			r.put("~/.icons/Tern/cursors/left_ptr", "x")
			r.put("~/.gtkrc-2.0", "gtk-cursor-theme-size = 48\n")
			r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-cursor-theme-size=24\n")
			r.put("~/.Xresources", "Xcursor.size: 24\n")
		}, "48 px here, 24 px elsewhere", "Put 24 px on the draft", nil},
		{"title font forgotten", match.SecondOne, "withy", desk.FacetFontTitle, map[string]string{desk.FacetFont: "Serif 11"}, func(r rig) {},
			"says nothing about the window title font", "Put Serif 10 on the draft", nil},
		{"notices forgotten", match.SecondOne, "samphire", desk.FacetNotices, map[string]string{desk.FacetBar: "Dune"}, func(r rig) {
			themed("samphire/bar.css")(r, "~/.themes/Dune")
			themed("samphire/bar.css")(r, "~/.themes/Other")
			r.put("~/.config/samphire/samphire.conf", "[Notices]\ntheme=Other\n")
		}, "says nothing about the notices, and what it says about the bar does not reach that far: it stays Other", "Put Dune on the draft", nil},
		{"default profile forgotten", match.SecondOne, "bittern", desk.FacetPalette, map[string]string{desk.FacetPalette: "ebb"}, func(r rig) {
			r.put("~/.local/share/palettes/ebb.Xresources", sixteen)
			r.put("~/.config/bittern/profiles/Shore.conf", "[Look]\npalette=ebb\n")
		}, `is set in "Shore", but Bittern starts with "Plain"`, "Make Shore the default", nil},
		{"fallback pointer forgotten", match.SecondOne, "display", desk.FacetPointer, map[string]string{desk.FacetPointer: "Tern"}, func(r rig) {
			r.put("~/.icons/Tern/cursors/left_ptr", "x")
			r.put("~/.config/environment.d/look.conf", "XCURSOR_THEME=Tern\n")
			r.put("~/.icons/default/index.theme", "[Icon Theme]\nInherits=Limpet\n")
		}, "The fallback pointer set is Limpet in ~/.icons/default/index.theme", "Make the fallback Tern", nil},
		{"a setting of its own", match.OwnSetting, "creel", desk.FacetIcons, map[string]string{desk.FacetIcons: "Shingle"}, func(r rig) {
			r.put("~/.icons/Shingle/index.theme", iconIndex)
			r.put("~/.config/creel/creel.conf", "[View]\nicons=hicolor\n")
			r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Shingle\n")
		}, "Its own setting in ~/.config/creel/creel.conf, line 2, is hicolor", "Put Shingle on the draft", nil},
		{"one icon set by hand", match.OwnSetting, "creel-desk", desk.FacetIcons, map[string]string{desk.FacetIcons: "Shingle"}, func(r rig) {
			r.put("~/.icons/Shingle/index.theme", iconIndex)
			r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Shingle\n")
			r.put("~/.config/creel/desk-icons.conf", "# mine\n[Icons]\nTides.desktop=/usr/share/x.png\n")
		}, "Tides.desktop is set by hand in ~/.config/creel/desk-icons.conf, and does not follow", "removes that", nil},
		{"broken piece", reading.BrokenPiece, "quayside", desk.FacetIcons, map[string]string{desk.FacetIcons: "Shingle"}, func(r rig) { r.put("~/.icons/Shingle/index.theme", "[Icon Theme]\nName=S\n") },
			"cannot be used", "Reinstall it", func(r rig) { r.put("~/.icons/Shingle/index.theme", iconIndex) }},
		{"broken palette", reading.BrokenPiece, "bittern", desk.FacetPalette, map[string]string{desk.FacetPalette: "ebb"}, func(r rig) { r.put("~/.local/share/palettes/ebb.Xresources", "*.background: #000000\n") },
			"does not set foreground", "Reinstall it", func(r rig) { r.put("~/.local/share/palettes/ebb.Xresources", sixteen) }},
		{"broken settings file", reading.BrokenSource, "quayside", desk.FacetEffects, map[string]string{desk.FacetEffects: "all"}, func(r rig) { r.put("~/.config/quayside/quayside.conf", "[Look]\neffects=all\noops\n") },
			"ignores ~/.config/quayside/quayside.conf", "at line 3", func(r rig) { r.put("~/.config/quayside/quayside.conf", "[Look]\neffects=all\n") }},
		{"stale cache", match.StaleCache, "gtk3", desk.FacetIcons, map[string]string{desk.FacetIcons: "Shingle"}, func(r rig) {
			r.put("~/.icons/Shingle/index.theme", iconIndex)
			r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Shingle\n")
			r.put("~/.icons/Shingle/icon-theme.cache", "x")
			r.put("~/.icons/Shingle/48/new.png", "x")
			then := time.Now().Add(-time.Hour)
			require.NoError(t, os.Chtimes(r.host("~/.icons/Shingle/icon-theme.cache"), then, then))
			require.NoError(t, os.Chtimes(r.host("~/.icons/Shingle"), then, then))
		}, "is older than what is in ~/.icons/Shingle", "Remove the cache", nil},
		{"login screen would fail", reading.LoginFails, "tollgate", desk.FacetLogin, map[string]string{desk.FacetLogin: "Dusk"}, func(r rig) { r.put("/usr/share/tollgate/themes/Dusk/gate.theme", "[Login Theme]\nBackdrop=b.png\n") },
			"names b.png, which is not in it", "Choose another login theme", func(r rig) { r.put("/usr/share/tollgate/themes/Dusk/b.png", "x") }},
		{"an update would write over it", match.WouldBeLost, "gtk3", desk.FacetWidgets, map[string]string{desk.FacetWidgets: "Dune"}, func(r rig) {
			themed("gtk-3.0/gtk.css")(r, "/usr/share/themes/Dune")
			r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-theme-name=Dune\n")
			r.put("/var/lib/dpkg/info/dune-theme.list", "/.\n/usr/share/themes\n/usr/share/themes/Dune\n/usr/share/themes/Dune/gtk-3.0/gtk.css\n")
			r.put("/var/lib/dpkg/info/dune-theme.md5sums", fmt.Sprintf("%x  usr/share/themes/Dune/gtk-3.0/gtk.css\n", md5.Sum([]byte("as it came"))))
		}, "was changed after the package dune-theme installed it", "Put a copy of it into your own folder", nil},
		{"set in a file of the administrator's", match.NeedsAdministrator, "lantern", desk.FacetPane, map[string]string{desk.FacetPane: "hidden"}, func(r rig) {},
			"default gives shown", "Only an administrator can change /etc/lantern/lantern.conf", nil},
	} {
		r := rigOf(t)
		c.make(r)
		o := outfit.Outfit{Name: "Dune"}
		for facet, want := range c.want {
			o = o.With(facet, want)
		}
		// found is the finding, and what is to be done about it.
		found := func() (text string, remedies []match.Fix, cell match.Cell) {
			cell, _ = match.Of(r.desk(), o).Cell(c.surface, c.facet)
			if cell.Code == c.code {
				remedies = append(remedies, cell.Remedy)
				return cell.Cause, append(remedies, cell.Others...), cell
			}
			for _, a := range cell.Asides {
				if a.Code == c.code {
					return a.Text, []match.Fix{a.Remedy}, cell
				}
			}
			return "", nil, cell
		}
		text, remedies, cell := found()
		require.NotEmpty(t, remedies, "%s: it is %s, %s, %s %v", c.what, cell.State, cell.Code, cell.Cause, cell.Asides)
		require.Contains(t, text, c.cause, c.what)
		require.Contains(t, remedies[0].Text, c.remedy, c.what)
		listed := false
		for _, f := range match.Of(r.desk(), o).Findings() {
			listed = listed || f.Surface == c.surface && f.Code == string(c.code) && f.Cause == text && f.Remedy == remedies[0].Text
		}
		require.True(t, listed, "%s: ivelt check lists it", c.what)
		o = r.follow(cell, remedies[0], o, func() { c.byHand(r) })
		text, _, cell = found()
		require.Empty(t, text, "%s: it is still there: %s %s", c.what, cell.State, cell.Cause)
	}
}

// TestOtherRemediesDoAsWell: of what has two remedies the second mends it too.
func TestOtherRemediesDoAsWell(t *testing.T) {
	r := rigOf(t)
	r.put("~/.icons/Shingle/index.theme", iconIndex)
	r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Shingle\n")
	r.put("~/.config/creel/creel.conf", "# mine\n[View]\nicons=hicolor\nlist=yes\n")
	r.put("~/.config/creel/desk-icons.conf", "[Icons]\nA.desktop=/a.png\nB.desktop=/b.png\n")
	o := outfit.Outfit{}.With(desk.FacetIcons, "Shingle")
	cell, _ := match.Of(r.desk(), o).Cell("creel", desk.FacetIcons)
	require.Equal(t, match.ByOut, cell.Others[0].Kind)
	r.follow(cell, cell.Others[0], o, nil)
	b, err := os.ReadFile(r.host("~/.config/creel/creel.conf"))
	require.NoError(t, err)
	require.Equal(t, "# mine\n[View]\nlist=yes\n", string(b))
	cell, _ = match.Of(r.desk(), o).Cell("creel", desk.FacetIcons)
	require.Equal(t, match.Follows, cell.State, "it goes with the others, now and later")

	cell, _ = match.Of(r.desk(), o).Cell("creel-desk", desk.FacetIcons)
	require.Contains(t, cell.Cause, "A.desktop and 1 more are set by hand")
	require.Len(t, cell.Others, 2)
	r.follow(cell, cell.Others[1], o, nil)
	b, err = os.ReadFile(r.host("~/.config/creel/desk-icons.conf"))
	require.NoError(t, err)
	require.Equal(t, "[Icons]\nA.desktop=/a.png\n", string(b), "the one, and not the other")
}

// TestExceptions: one choice reaches every surface that has the facet, but those
// that are left out; they are planned, read and scored so.
func TestExceptions(t *testing.T) {
	r := rigOf(t)
	o := outfit.Outfit{Name: "Blue"}.With(desk.FacetAccent, "#204060").Except("withy", desk.FacetAccent, "").Except("tidestaff", desk.FacetAccent, "#aa3300")
	again, err := outfit.Parse(o.Bytes())
	require.NoError(t, err)
	require.Equal(t, o, again, "they are in the file")
	p, err := planning.Dress(t.Context(), r.desk(), o)
	r.apply(p, err)
	for surface, want := range map[string]string{"samphire": "#204060", "quayside": "#204060", "withy": "#50606c", "tidestaff": "#aa3300"} {
		d := r.desk()
		s, _ := d.Surface(surface)
		f, _ := s.Facet(desk.FacetAccent)
		require.Equal(t, want, reading.Of(d, s, f).Value, surface)
	}
	b := match.Of(r.desk(), o)
	left, _ := b.Cell("withy", desk.FacetAccent)
	require.Equal(t, match.Excepted, left.State)
	own, _ := b.Cell("tidestaff", desk.FacetAccent)
	require.Equal(t, match.Follows, own.State)
	require.True(t, own.Own)
	require.Empty(t, b.Findings())
	require.NoFileExists(t, r.host("~/.config/withy/withy.conf"))
	back := match.Of(r.desk(), o.Rejoin("withy", desk.FacetAccent))
	joined, _ := back.Cell("withy", desk.FacetAccent)
	require.Equal(t, match.Differs, joined.State)

	// What follows another cannot do otherwise than that.
	r.put("~/.icons/Shingle/index.theme", iconIndex)
	o = outfit.Outfit{Name: "Shingle"}.With(desk.FacetIcons, "Shingle").Except("gtk3", desk.FacetIcons, "")
	p, err = planning.Dress(t.Context(), r.desk(), o)
	require.NoError(t, err)
	blocked := map[string]string{}
	for _, b := range p.Blocked {
		blocked[b.Surface] = b.Why
	}
	require.Contains(t, blocked["coracle"], "which the outfit skips")
	require.NotContains(t, blocked, "gtk3")
}
