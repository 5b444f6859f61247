package main

import (
	"bufio"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/core/reading"
)

// maker is somebody who learned a program, made a theme, and publishes both.
type maker struct {
	t          *testing.T
	home, conf string
	src, out   string
	key        string
}

func (m *maker) write(at, text string) {
	m.t.Helper()
	require.NoError(m.t, os.MkdirAll(filepath.Dir(at), 0o755))
	require.NoError(m.t, os.WriteFile(at, []byte(text), 0o644))
}

// run runs a command to its end.
func (m *maker) run(code int, args ...string) string {
	m.t.Helper()
	c := command(m.t, args...)
	out, _ := c.CombinedOutput()
	require.Equal(m.t, code, c.ProcessState.ExitCode(), string(out))
	return string(out)
}

// learn changes a setting in the program while `surface learn` looks.
func (m *maker) learn(system string) {
	m.t.Helper()
	m.write(m.conf, "# of the bar\nopacity 0.9\nday yes\ntoken secret\n")
	c := command(m.t, "surface", "learn", "saltmarsh", "--title", "Salt marsh", "--kind", "shell", "--home", m.home, "--system", system, "--", "~/.config/saltmarsh")
	in, err := c.StdinPipe()
	require.NoError(m.t, err)
	out, err := c.StdoutPipe()
	require.NoError(m.t, err)
	require.NoError(m.t, c.Start())
	r := bufio.NewReader(out)
	until := func(what string) {
		m.t.Helper()
		for said := ""; !strings.HasSuffix(said, what); {
			b, err := r.ReadByte()
			require.NoError(m.t, err, said)
			said += string(b)
		}
	}
	answer := func(line string) {
		_, err := io.WriteString(in, line+"\n")
		require.NoError(m.t, err)
	}
	until(`or type "done": `)
	m.write(m.conf, "# of the bar\nopacity 0.75\nday yes\ntoken secret\n")
	answer("")
	until("[opacity] ")
	answer("")
	until(`or type "done": `)
	answer("done")
	_, err = io.Copy(io.Discard, r)
	require.NoError(m.t, err)
	require.NoError(m.t, c.Wait())
}

func (m *maker) build() string {
	m.t.Helper()
	return m.run(0, "market", "build", m.out, "--from", m.src, "--name", "Salt Strand", "--key", m.key)
}

// TestFromAMakersFolderToAnotherDesk: a program is learned and shared, a theme lies in a
// folder; both are published, signed, by one command, and served as files. Another Ivelt finds
// them, says what the descriptor would read and write, takes and uses both, and takes the
// update; an index of somebody else's it does not take.
func TestFromAMakersFolderToAnotherDesk(t *testing.T) {
	top, system := t.TempDir(), t.TempDir()
	m := &maker{t: t, home: filepath.Join(top, "home"), src: filepath.Join(top, "src"), out: filepath.Join(top, "market"), key: filepath.Join(top, "key")}
	m.conf = filepath.Join(m.home, ".config/saltmarsh/bar.conf")
	m.learn(system)
	require.NoError(t, os.MkdirAll(m.src, 0o755))
	said := m.run(0, "surface", "share", "saltmarsh", filepath.Join(m.src, "saltmarsh"), "--home", m.home, "--system", system)
	require.Contains(t, said, "examples 1, readings 1")
	example, err := os.ReadFile(filepath.Join(m.src, "saltmarsh/examples/first/home/.config/saltmarsh/bar.conf"))
	require.NoError(t, err)
	require.Equal(t, "opacity 0.75\n", string(example), "as the program writes it, and nothing else of the file")
	m.run(0, "surface", "test", m.src)
	m.write(filepath.Join(m.src, "reef/entry.toml"), "name = \"Reef\"\nmaker = \"Ines Hallig\"\nlicence = \"MIT\"\nsummary = \"Pale coral.\"\nversion = \"1.0\"\n")
	m.write(filepath.Join(m.src, "reef/Reef/gtk-3.0/gtk.css"), "@define-color theme_bg_color #f4ece4;\nwindow { background-color: @theme_bg_color; }\n")
	m.run(0, "market", "key", m.key)
	m.run(2, "market", "key", m.key) // it is not written over
	require.Contains(t, m.build(), "entries 2, new or other 2, gone 0, parcels looked into 2; index 1, signed by ")
	require.Contains(t, m.build(), "new or other 0, gone 0, parcels looked into 0; index 1,")
	require.Contains(t, m.run(0, "market", "check", m.out), "nothing is wrong with it")
	packed, err := filepath.Glob(filepath.Join(m.out, "parcels/saltmarsh/*.zip"))
	require.NoError(t, err)
	require.Len(t, packed, 1)
	require.Contains(t, m.run(0, "inspect", packed[0], "--home", m.home, "--system", system), "A plan would write into ~/.config/saltmarsh/bar.conf: bar opacity as “opacity”.")
	server := httptest.NewServer(http.FileServer(http.Dir(m.out)))
	defer server.Close()

	// Another desk, whose person has the program too.
	home := filepath.Join(top, "other")
	conf := filepath.Join(home, ".config/saltmarsh/bar.conf")
	m.write(conf, "day no\nopacity 0.5\n")
	d, err := desk.Open("other", home, system, "/home/you")
	require.NoError(t, err)
	d.SetWritable(true)
	d.SetSurfaces(desk.Builtin())
	require.Empty(t, d.OwnSurfaces())
	on := &desks.Managed{Desk: d}
	a, err := app.New(t.Context(), app.Config{Dir: filepath.Join(top, "data"), Desks: []*desks.Managed{on}})
	require.NoError(t, err)
	defer a.Close()
	a.Markets.Fresh = 0
	require.NoError(t, a.Markets.Add(t.Context(), server.URL))
	look := func() string {
		t.Helper()
		require.NoError(t, a.Markets.Look().Wait())
		rows, err := a.Markets.List()
		require.NoError(t, err)
		require.NotEmpty(t, rows[0].Key, "pinned")
		return rows[0].Trouble
	}
	require.Empty(t, look())
	take := func(words string, how library.How) library.How {
		t.Helper()
		found, err := a.Markets.Search(t.Context(), markets.Query{Words: words})
		require.NoError(t, err)
		require.Len(t, found.Entries, 1, words)
		sha := ""
		job, err := a.Markets.Fetch(markets.Ref{Market: found.Entries[0].Market, Entry: found.Entries[0].Key}, func(is string) string { sha = is; return "" })
		require.NoError(t, err)
		require.NoError(t, job.Wait())
		row, err := a.Library.Parcel(sha)
		require.NoError(t, err)
		contents, err := library.Contents(row)
		require.NoError(t, err)
		require.Len(t, contents.Pieces, 1)
		require.Empty(t, contents.Notes)
		if reach := contents.Pieces[0].Reach; reach != nil {
			var says []string
			for _, line := range reach.Says(d) {
				says = append(says, line.String())
			}
			require.Contains(t, strings.Join(says, "\n"), "It would read ~/.config/saltmarsh/bar.conf.\nA plan would write into ~/.config/saltmarsh/bar.conf: bar opacity as “opacity”")
		}
		job, err = a.Pieces.Install(on, sha, []string{library.PieceKey(contents.Pieces[0])}, how, "")
		require.NoError(t, err)
		require.NoError(t, job.Wait())
		return how
	}
	take("salt marsh", library.How{Scope: place.Mine})
	s, ok := d.Surface("saltmarsh")
	require.True(t, ok)
	first := s.Came.SHA256
	f, _ := s.Facet(desk.FacetOpacity)
	require.Equal(t, "50", reading.Of(d, s, f).Value)
	take("reef", library.How{Scope: place.Mine})
	wear := func(o outfit.Outfit) {
		t.Helper()
		p, job, err := a.Changes.Dress(t.Context(), on, o, 0, planning.Options{})
		require.NoError(t, err)
		require.NotEmpty(t, p.Ops)
		require.NoError(t, job.Wait())
	}
	wear(outfit.Outfit{Name: "o"}.With(desk.FacetOpacity, "80").With(desk.FacetWidgets, "Reef"))
	text, err := os.ReadFile(conf)
	require.NoError(t, err)
	require.Equal(t, "day no\nopacity 0.8\n", string(text))
	text, err = os.ReadFile(filepath.Join(home, ".config/gtk-3.0/settings.ini"))
	require.NoError(t, err)
	require.Contains(t, string(text), "Reef")

	// The maker learns more, and publishes again.
	file := filepath.Join(m.src, "saltmarsh/saltmarsh.toml")
	text, err = os.ReadFile(file)
	require.NoError(t, err)
	m.write(file, string(text)+"\n[[facet]]\nname = \"dark\"\nvalues = { light = [\"yes\"], dark = [\"no\"] }\n[[facet.source]]\npath = \"{config}/saltmarsh/bar.conf\"\nformat = \"lines\"\nkey = \"day\"\nlike = \"day yes\"\nwrite = true\n")
	require.Contains(t, m.build(), "new or other 1, gone 0, parcels looked into 1; index 2,")
	require.Empty(t, look())
	newer, err := a.Markets.Newer(on)
	require.NoError(t, err)
	require.Len(t, newer, 1)
	require.Equal(t, "saltmarsh", newer[0].Entry)
	s, _ = d.Surface("saltmarsh")
	require.Equal(t, first, s.Came.SHA256, "nothing is taken by itself")
	take("salt marsh", library.How{Scope: place.Mine, Exists: planning.Replace})
	s, _ = d.Surface("saltmarsh")
	require.NotEqual(t, first, s.Came.SHA256)
	f, ok = s.Facet(desk.FacetDark)
	require.True(t, ok)
	require.Equal(t, "dark", reading.Of(d, s, f).Value)

	// Somebody else signs the market: it is told, and what was read stays.
	m.key = filepath.Join(top, "other-key")
	m.run(0, "market", "key", m.key)
	m.write(filepath.Join(m.src, "reef/entry.toml"), "name = \"Wreck\"\nversion = \"2.0\"\n")
	m.write(filepath.Join(m.src, "reef/Reef/gtk-3.0/gtk.css"), "window { color: red; }\n")
	m.build()
	require.Contains(t, look(), "signed with another key")
	found, err := a.Markets.Search(t.Context(), markets.Query{Words: "reef"})
	require.NoError(t, err)
	require.Len(t, found.Entries, 1)

	// What cannot be made is told, and stays in the market as it was.
	m.write(filepath.Join(m.src, "reef/entry.toml"), "nome = \"Wreck\"\n")
	said = m.run(1, "market", "build", m.out, "--from", m.src, "--name", "Salt Strand", "--key", m.key)
	require.Contains(t, said, "reef: entry.toml: line 1: nome is not known")
	require.Contains(t, said, "entries 2, new or other 0, gone 0")
	for _, bad := range [][]string{{"market", "build", m.out}, {"market", "build", m.out, "--from", filepath.Join(top, "none")}, {"market", "build", m.out, "--from", m.src, "--key", conf}} {
		m.run(2, bad...)
	}
}
