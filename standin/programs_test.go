package standin_test

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/standin"
)

// row is one setting as docs/standins.md has it.
type row struct{ group, key, takes, usual string }

// manual reads the tables of docs/standins.md: the files, the shown file and the
// settings of each program.
func manual(t *testing.T) (files map[string][]string, shown map[string]string, rows map[string][]row) {
	b, err := os.ReadFile("../docs/standins.md")
	require.NoError(t, err)
	files, shown, rows = map[string][]string{}, map[string]string{}, map[string][]row{}
	named := regexp.MustCompile("`([^`]+)`")
	for _, section := range strings.Split(string(b), "\n## ")[1:] {
		title := strings.ToLower(strings.FieldsFunc(section, func(r rune) bool { return r == ',' || r == ' ' || r == '\n' })[0])
		for _, line := range strings.Split(section, "\n") {
			if rest, ok := strings.CutPrefix(line, "Files "); ok {
				said, after, _ := strings.Cut(rest, "; shown ")
				for _, m := range named.FindAllStringSubmatch(said, -1) {
					files[title] = append(files[title], m[1])
				}
				shown[title] = named.FindStringSubmatch(after)[1]
			}
			cells := strings.Split(strings.Trim(line, "|"), "|")
			if len(cells) == 4 && strings.HasPrefix(line, "| ") && strings.TrimSpace(cells[0]) != "group" {
				rows[title] = append(rows[title], row{strings.TrimSpace(cells[0]), strings.TrimSpace(cells[1]), strings.TrimSpace(cells[2]), strings.TrimSpace(cells[3])})
			}
		}
	}
	for _, of := range []struct{ id, group string }{{"lantern", "Greeter"}, {"tollgate", "Screen"}} {
		files[of.id], shown[of.id] = []string{"/etc/" + of.id + "/" + of.id + ".conf"}, "/var/lib/"+of.id+"/shown.conf"
		var own []row
		for _, r := range rows["lantern"] {
			r.group = of.group
			if r.key == "session" {
				r.usual = map[string]string{"lantern": "quayside", "tollgate": "withy"}[of.id]
			}
			own = append(own, r)
		}
		rows[of.id] = own
	}
	return files, shown, rows
}

// values are some that a setting takes, and some that it does not, by what the
// manual says it takes.
func values(takes string) (good, bad []string) {
	words := strings.Split(takes, ", ")
	var least, most int
	switch {
	case takes == "name":
		return []string{"Saltpan", "Night Tide", "a=b"}, nil
	case takes == "signed look":
		return []string{"Groyne", "Basalt"}, nil
	case takes == "path":
		return []string{"/usr/share/x.png", "/a b"}, []string{"x.png", "~/x.png", ""}
	case takes == "colour":
		return []string{"#2f7f8c", "#ABCDEF"}, []string{"#123", "teal", "2f7f8c", "#12345g"}
	case takes == "font":
		return []string{"Estuary Sans 11", "Sans 10.5"}, []string{"Sans", "11", "Sans 2", "Sans 80", ""}
	case takes == "pictures":
		return []string{"DP-1=/a b.png", "DP-1=/a.png;eDP-1=/b=c.svg", "none"}, []string{"DP-1=a.png", "/a.png", "DP-1=/a.png;DP-1=/b.png", "=/a.png", "DP-1=/a.png;", ""}
	case takes == "bars":
		return []string{"none", "top 34", "bottom 28 margin 7: menu / clock(form=\"%H:%M\"); left 40"}, []string{"top", "up 34", "top 34: clock(form)", ""}
	case takes == "dock":
		return []string{"none", "bottom 48 grow 150%: a.b c.d"}, []string{"bottom", "bottom 48 grow 20%", "top 30: a / b", ""}
	case takes == "tiles":
		return []string{"hand", "grid outer 30 inner 20", "beside outer 1,2,3,4 share 60% frames no least 200x100"}, []string{"heap", "grid outer 1,2", "grid share 5%", "grid inner", ""}
	case takes == "bars of Samphire":
		return []string{"none", "top 34", "bottom 96 margin 7 long 60%: menu / clock(form=\"%H:%M\"); top 20"}, []string{"left 34", "top 34: title", "top 34 round 3", "top 10", "top 97", "top 20; bottom 20; top 20", "top 34 glow 3", ""}
	case takes == "bars of Ledge":
		return []string{"none", "bottom 40 margin 7 round 12: menu / / tray clock", "bottom 32 at start"}, []string{"top 40", "bottom 31", "bottom 65", "bottom 40: battery", "bottom 40; bottom 40", "bottom 40 hides always", ""}
	case takes == "gaps":
		return []string{"hand", "hand outer 30 inner 20", "hand outer 1,2,3,4"}, []string{"grid", "hand share 60%", "hand frames no", "hand outer", ""}
	case takes == "place":
		return []string{"none", "middle 0 0", "top right 40 -3 size 48 form \"%H:%M\" on DP-2 glow 3", "left top 2 3", "bottom 0 0"}, []string{"top", "top 3", "top bottom 1 1", "3 3", "middle 0 0 size 900", "middle 0 0 size", ""}
	case takes == "names":
		return []string{"none", "Sea;Shore", "Low water"}, []string{"Sea;", ";", "Sea ;Shore", strings.Repeat("x", 65), ""}
	case takes == "effect":
		return []string{"fade 160 ease-out", "fade 0 linear", "fade 2000 ease", "none"}, []string{"fade", "spin 100 ease", "fade 2001 ease", "fade 100 bounce", "fade -1 ease", ""}
	case len(words) > 1:
		return words, []string{"no", strings.ToUpper(words[0]), ""}
	}
	if n, _ := fmt.Sscanf(takes, "number %d–%d", &least, &most); n == 2 {
		return []string{fmt.Sprint(least), fmt.Sprint(most), fmt.Sprint((least + most) / 2)}, []string{fmt.Sprint(most + 1), "-1", "many", "7.5", ""}
	}
	panic("what is " + takes)
}

// everywhere are the surfaces of the stand-ins, whether their programs are there or not.
var everywhere = func() []desk.Surface {
	all := standin.Surfaces()
	for i := range all {
		all[i].Present = nil
	}
	return all
}()

// rig is a desk of one stand-in with nothing set.
type rig struct {
	t *testing.T
	standin.Root
}

func rigOf(t *testing.T) rig {
	at := time.Date(2026, 3, 21, 6, 40, 0, 0, time.UTC)
	r := rig{t, standin.Root{Home: t.TempDir(), System: t.TempDir(), Now: func() time.Time { return at }}}
	for _, session := range []string{"wayland-sessions/quayside", "xsessions/withy"} {
		r.put("/usr/share/"+session+".desktop", "[Desktop Entry]\n")
	}
	r.put("/etc/xdg/autostart/ledge.desktop", "[Desktop Entry]\nType=Application\nName=Ledge\nExec=ledge\n")
	r.put("/etc/xdg/autostart/tidestaff.desktop", "[Desktop Entry]\nType=Application\nName=Tidestaff\nExec=tidestaff\n")
	for _, pack := range []string{"hicolor", "Adwaita"} { // what programs have by default
		r.put("/usr/share/icons/"+pack+"/index.theme", iconIndex)
	}
	return r
}

func (r rig) host(p string) string {
	if rest, ok := strings.CutPrefix(p, "~"); ok {
		return filepath.Join(r.Home, rest)
	}
	return filepath.Join(r.System, p)
}

func (r rig) put(p, text string) {
	require.NoError(r.t, os.MkdirAll(filepath.Dir(r.host(p)), 0o755))
	require.NoError(r.t, os.WriteFile(r.host(p), []byte(text), 0o644))
}

func (r rig) desk() *desk.Desk {
	d, err := desk.Open("d", r.Home, r.System, "/home/mara")
	require.NoError(r.t, err)
	d.SetSurfaces(append(desk.Builtin(), d.Present(append(everywhere, standin.LockedSurfaces()...))...))
	return d
}

// shows is what a key of a program's shown file says.
func (r rig) shows(file, key string) string {
	b, err := os.ReadFile(r.host(file))
	require.NoError(r.t, err, "%q %s", file, key)
	require.Contains(r.t, string(b), "\nat=2026-03-21T06:40:00Z\n")
	for line := range strings.Lines(string(b)) {
		if value, ok := strings.CutPrefix(strings.TrimSuffix(line, "\n"), key+"="); ok {
			return value
		}
	}
	r.t.Fatalf("%s does not say %s:\n%s", file, key, b)
	return ""
}

// TestStandinsKeepToTheManual goes through the tables of docs/standins.md: each
// stand-in takes what they say, passes over what they do not, and has the default
// they name; and what is read of it, through its descriptor, is what it shows.
func TestStandinsKeepToTheManual(t *testing.T) {
	files, shown, rows := manual(t)
	tried, read := 0, 0
	for _, p := range standin.Programs {
		require.NotEmpty(t, rows[p.ID], "the manual has %s", p.ID)
		require.NotEmpty(t, shown[p.ID], p.ID)
		require.Len(t, p.Settings, len(rows[p.ID]), p.ID)
		for i, of := range rows[p.ID] {
			key := of.key
			if i > 0 && rows[p.ID][0].group != of.group && rows[p.ID][0].key == of.key {
				key = strings.ToLower(of.group) + "-" + of.key
			}
			good, bad := values(of.takes)
			usual := of.usual
			if other, as := strings.CutPrefix(usual, "as "); as {
				usual = rows[p.ID][slices.IndexFunc(rows[p.ID], func(r row) bool { return r.key == other && r.group == of.group })].usual
			}
			line := func(value string) string { return fmt.Sprintf("# a\n[%s]\n  %s = %s\n", of.group, of.key, value) }
			hold := func(what, want string, texts ...string) {
				r := rigOf(t)
				if p.ID == "breakwater" || p.ID == "ledge" {
					r.locked("5.2.1", "Groyne")
				}
				for j, text := range texts {
					if text != "" {
						r.put(files[p.ID][j], text)
					}
				}
				err := p.Start(r.Root)
				if err != nil { // it is told of what is not there
					require.Contains(t, []string{"lantern", "tollgate"}, p.ID, "%s: %v", what, err)
					require.Equal(t, "yes", r.shows(shown[p.ID], "dark"))
					return
				}
				tried++
				require.Equal(t, want, r.shows(shown[p.ID], key), "%s %s: %s", p.ID, of.key, what)
				d := r.desk()
				for _, s := range d.Surfaces() {
					for _, f := range s.Facets {
						if f.Loaded == nil || f.Loaded.Key != key || !strings.HasSuffix(f.Loaded.Path, filepath.Base(filepath.Dir(shown[p.ID]))+"/"+filepath.Base(shown[p.ID])) {
							continue
						}
						read++
						got := reading.Told(d, s, f)
						require.Equal(t, want, got.Value, "%s %s is read: %s", p.ID, of.key, what)
						require.Equal(t, want, got.Loaded, what)
						require.Empty(t, got.Pending, what)
					}
				}
			}
			hold("nothing said", usual)
			for _, value := range good {
				hold("says "+value, value, line(value))
				hold("twice", value, line(good[0])+"[Other]\n"+of.key+"=x\n"+line(value))
				hold("a bad line", usual, line(value)+"oops\n")
				hold("before any group", usual, of.key+"="+value+"\n")
				hold("another group", usual, "[Other]\n"+of.key+"="+value+"\n")
				if len(files[p.ID]) > 1 {
					hold("the system's", value, "", line(value))
					hold("the person's goes before", value, line(value), line(good[0]))
					hold("a bad line leaves it to the system's", value, "oops\n", line(value))
				}
			}
			for _, value := range bad {
				if value == "" && of.usual == "" {
					continue
				}
				hold("says "+value, usual, line(value))
				if len(files[p.ID]) > 1 {
					hold("what it does not take is passed over", good[0], line(value), line(good[0]))
				}
			}
		}
	}
	require.Greater(t, tried, 400)
	require.Greater(t, read, 400)
	t.Logf("%d starts kept to the manual, %d readings agreed", tried, read)
}

// TestNoticesGoWithTheTheme unless they are set apart (Quayside, rule 1).
func TestNoticesGoWithTheTheme(t *testing.T) {
	for text, want := range map[string][2]string{
		"[Look]\ntheme=Saltpan\n":                              {"Saltpan", "Saltpan"},
		"[Look]\ntheme=Saltpan\nnotices=Groyne\n":              {"Groyne", "Saltpan"},
		"[Look]\nframes=Reedbed\n":                             {"", "Reedbed"},
		"[Look]\ntheme=Saltpan\nframes=Reedbed\nnotices=Ebb\n": {"Ebb", "Reedbed"},
	} {
		r := rigOf(t)
		r.put("~/.config/quayside/quayside.conf", text)
		require.NoError(t, standin.Quayside.Start(r.Root))
		d := r.desk()
		s, _ := d.Surface("quayside")
		for i, facet := range []string{desk.FacetNotices, desk.FacetFrame} {
			f, _ := s.Facet(facet)
			got := reading.Told(d, s, f)
			require.Equal(t, want[i], got.Value, text)
			require.Empty(t, got.Pending, text)
		}
	}
}

// TestWrongVersionIsABareScreen (Quayside, rule 2): what the stand-in does with a
// theme for another version is what is read of it beforehand. The ranges are those
// of the examples of Semantic Versioning's usual libraries.
func TestWrongVersionIsABareScreen(t *testing.T) {
	for said, fits := range map[string]bool{">= 3, < 4": true, "3": true, "3.2": true, "^3.1": true, "~3.2": true, ">=2 <4 || 7": true, ">= 2, < 3": false, "2": false, "3.1": false, "4": false, "~3.1": false, "": false, "newest": false} {
		for _, key := range []string{"theme", "notices", "frames"} {
			r := rigOf(t)
			r.put("~/.themes/Dune/quayside/shell.css", "panel{}")
			r.put("~/.themes/Dune/quayside/shell.conf", "[Shell]\nVersions="+said+"\n")
			r.put("~/.config/quayside/quayside.conf", "[Look]\n"+key+"=Dune\n")
			d := r.desk()
			s, _ := d.Surface("quayside")
			f, _ := s.Facet(map[string]string{"theme": desk.FacetBar, "notices": desk.FacetNotices, "frames": desk.FacetFrame}[key])
			if said == "" {
				continue // says nothing, by the reading of key files: see below
			}
			err := standin.Quayside.Start(r.Root)
			require.Equal(t, fits, err == nil, "%s: %v", said, err)
			checked := reading.Check(d, s, f, "Dune")
			require.Equal(t, fits, checked == nil, "%s: %v", said, checked)
			if !fits {
				require.ErrorIs(t, checked, reading.ErrVersion)
				require.Equal(t, "yes", r.shows("~/.local/state/quayside/session.conf", "bare"))
			}
		}
	}
	r := rigOf(t)
	r.put("~/.themes/Dune/quayside/shell.css", "panel{}")
	r.put("~/.config/quayside/quayside.conf", "[Look]\ntheme=Dune\n")
	require.NoError(t, standin.Quayside.Start(r.Root), "a theme that does not say is taken")
}

// TestBitternGoesByItsProfile (Bittern, rules 1, 2 and 4).
func TestBitternGoesByItsProfile(t *testing.T) {
	r := rigOf(t)
	r.put("~/.config/bittern/profiles/Shore.conf", "[Look]\npalette=ebb\nopacity=80\n[Start]\nprogram=/usr/bin/tide-log --today\n")
	r.put("/usr/share/bittern/profiles/Shore.conf", "[Look]\npalette=foam\nfont=Estuary Mono 12\nopacity=150\n")
	told := func(facet string) reading.Reading {
		d := r.desk()
		s, _ := d.Surface("bittern")
		f, _ := s.Facet(facet)
		return reading.Told(d, s, f)
	}
	require.NoError(t, standin.Bittern.Start(r.Root))
	require.Empty(t, r.shows("~/.local/state/bittern/shown.conf", "palette"), "a profile that is there is not the one it opens with")
	require.Empty(t, told(desk.FacetPalette).Value)
	r.put("~/.config/bittern/bittern.conf", "[Bittern]\nprofile=Shore\n")
	require.Equal(t, "program", told(desk.FacetPalette).Pending, "it shows what it loaded")
	require.NoError(t, standin.Bittern.Start(r.Root))
	for facet, of := range map[string][2]string{desk.FacetPalette: {"palette", "ebb"}, desk.FacetGround: {"opacity", "80"}, desk.FacetGroundBlur: {"blur", "0"}, desk.FacetFontMono: {"font", "Estuary Mono 12"}, desk.FacetEdges: {"bars", "shown"}, desk.FacetStart: {"program", "/usr/bin/tide-log --today"}} {
		require.Equal(t, of[1], r.shows("~/.local/state/bittern/shown.conf", of[0]))
		require.Equal(t, of[1], told(facet).Value)
		require.Empty(t, told(facet).Pending)
	}
	check := func() error {
		d := r.desk()
		s, _ := d.Surface("bittern")
		f, _ := s.Facet(desk.FacetStart)
		return reading.Check(d, s, f, "/usr/bin/tide-log --today")
	}
	for what, do := range map[string]func(){"not there": func() {}, "cannot be run": func() { r.put("/usr/bin/tide-log", "x") }} {
		do()
		require.ErrorContains(t, standin.Opens(r.Root), "closes at once", what)
		require.ErrorIs(t, check(), reading.ErrProgram, what)
	}
	require.NoError(t, os.Chmod(r.host("/usr/bin/tide-log"), 0o755))
	require.NoError(t, standin.Opens(r.Root))
	require.NoError(t, check())
}
