package standin_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/standin"
	"ivelt/store"
)

// TestGrantsTooWide: a sandboxed program that sees the whole home follows, and
// the board says that it sees too much.
func TestGrantsTooWide(t *testing.T) {
	for grants, wide := range map[string]string{"~": "~", "~/.icons": "", "~/.icons;~/.local/share": "~/.local/share", "/home/me/": "~", "~/.config/coracle": ""} {
		d, err := desk.Open("d", t.TempDir(), t.TempDir(), "/home/me")
		require.NoError(t, err)
		d.SetSurfaces(append(desk.Builtin(), standin.Surfaces()...))
		file := filepath.Join(d.Home, ".config/coracle/grants.conf")
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte("[Grants]\nread="+grants+"\n"), 0o644))
		s, _ := d.Surface("coracle")
		c := match.Compare(d, s, desk.FacetWidgets, "Adwaita")
		require.Equal(t, match.Follows, c.State, grants)
		if wide == "" {
			require.Empty(t, c.Asides, grants)
			continue
		}
		require.Equal(t, match.GrantTooWide, c.Asides[0].Code, grants)
		require.Contains(t, c.Asides[0].Text, "can read all of "+wide+", ", grants)
	}
}

// TestGrants: a plan lets sandboxed programs look into the folder where the piece
// lies, and into no other, and only if they would not find it without.
func TestGrants(t *testing.T) {
	index := "[Icon Theme]\nName=X\nDirectories=16\n[16]\nSize=16\n"
	for what, c := range map[string]struct {
		files, links map[string]string
		grants, want string
	}{
		"seen already":         {files: map[string]string{".icons/X/index.theme": index}, grants: "# mine\n[Grants]\nread=~/.icons\n", want: "# mine\n[Grants]\nread=~/.icons\n"},
		"a link out":           {files: map[string]string{".data/X/index.theme": index}, links: map[string]string{".icons/X": "../.data/X"}, grants: "[Grants]\nread = ~/.icons\n", want: "[Grants]\nread = ~/.icons;~/.data/X\n"},
		"the folder itself":    {files: map[string]string{".icons/X/index.theme": index}, grants: "[Grants]\nread=~/.themes;\nother=1\n", want: "[Grants]\nread=~/.themes;~/.icons\nother=1\n"},
		"no grants yet":        {files: map[string]string{".icons/X/index.theme": index}, want: "[Grants]\nread=~/.icons\n"},
		"where it never looks": {files: map[string]string{".data/icons/X/index.theme": index}, grants: "[Grants]\nread=~/.icons\n", want: "[Grants]\nread=~/.icons\n"},
	} {
		d, err := desk.Open("d", t.TempDir(), t.TempDir(), "/home/me")
		require.NoError(t, err)
		d.SetWritable(true)
		d.SetSurfaces(append(desk.Builtin(), standin.Surfaces()...))
		put := func(name, text string) {
			require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(d.Home, name)), 0o755))
			require.NoError(t, os.WriteFile(filepath.Join(d.Home, name), []byte(text), 0o644))
		}
		for name, text := range c.files {
			put(name, text)
		}
		for name, to := range c.links {
			require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(d.Home, name)), 0o755))
			require.NoError(t, os.Symlink(to, filepath.Join(d.Home, name)))
		}
		const grants = ".config/coracle/grants.conf"
		if c.grants != "" {
			put(grants, c.grants)
		}
		o := outfit.Outfit{Name: "X"}.With(desk.FacetIcons, "X")
		p, err := planning.Dress(t.Context(), d, o)
		require.NoError(t, err)
		require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: filepath.Join(t.TempDir(), "journal")}))
		now, err := os.ReadFile(filepath.Join(d.Home, grants))
		require.NoError(t, err, what)
		require.Equal(t, c.want, string(now), what)
		s, _ := d.Surface("coracle")
		f, _ := s.Facet(desk.FacetIcons)
		if what == "where it never looks" {
			require.Error(t, reading.Check(d, s, f, "X"))
			continue
		}
		require.NoError(t, reading.Check(d, s, f, "X"), what)
		again, err := planning.Dress(t.Context(), d, o)
		require.NoError(t, err)
		require.Empty(t, again.Ops, what)
	}
}

// TestGrantsForOneProgram (Coracle, rules 1 and 3): what is granted to one is not
// granted to the others, and taking it back leaves the file as it was.
func TestGrantsForOneProgram(t *testing.T) {
	r := rigOf(t)
	r.put("~/.icons/Shingle/index.theme", iconIndex)
	const before = "# mine\n[Grants]\nread=~/.themes\n"
	r.put("~/.config/coracle/grants.conf", before)
	sees := func(program string) bool {
		d := r.desk()
		s, _ := d.Surface("coracle")
		f, _ := s.Facet(desk.FacetIcons)
		f.Lookup.Program = program
		_, err := reading.Find(d, f.Lookup, "Shingle")
		return err == nil
	}
	d := r.desk()
	s, _ := d.Surface("coracle")
	p, err := planning.Grant(d, s, "org.tidewatch.Charts", "/home/mara/.icons")
	r.apply(p, err)
	require.True(t, sees("org.tidewatch.Charts"))
	require.False(t, sees("org.tidewatch.Logbook"))
	require.False(t, sees(""), "nor to all of them")
	p, err = planning.Revoke(r.desk(), s, "org.tidewatch.Charts", "/home/mara/.icons")
	r.apply(p, err)
	require.False(t, sees("org.tidewatch.Charts"))
	b, err := os.ReadFile(r.host("~/.config/coracle/grants.conf"))
	require.NoError(t, err)
	require.NotContains(t, string(b), "~/.icons")
	require.Contains(t, string(b), before)
}

// TestNarrowedGrantsStillShowThePieces: what is too wide is taken out, and what
// the programs are told is still seen.
func TestNarrowedGrantsStillShowThePieces(t *testing.T) {
	for _, wide := range []string{"~", "~/.local/share;~", "/home/mara", "~/.local;~/.themes"} {
		r := rigOf(t)
		r.put("~/.icons/Shingle/index.theme", iconIndex)
		r.put("~/.themes/Dune/gtk-3.0/gtk.css", "label { color: red; }")
		r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Shingle\ngtk-theme-name=Dune\n")
		r.put("~/.config/coracle/grants.conf", "[Grants]\nread="+wide+"\n")
		d := r.desk()
		s, _ := d.Surface("coracle")
		p, err := planning.Narrow(d, s)
		r.apply(p, err)
		d = r.desk()
		for facet, name := range map[string]string{desk.FacetIcons: "Shingle", desk.FacetWidgets: "Dune"} {
			f, _ := s.Facet(facet)
			require.Empty(t, reading.TooWide(d, f.Lookup), wide)
			_, err := reading.Find(d, f.Lookup, name)
			require.NoError(t, err, "%s %s", wide, facet)
		}
	}
}
