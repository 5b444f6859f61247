package main

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"
)

// said is what a program says; an error ends the test.
func said(t *testing.T, name string, args ...string) string {
	t.Helper()
	c := exec.Command(name, args...)
	c.Env = append(os.Environ(), "LC_ALL=C.UTF-8")
	b, err := c.CombinedOutput()
	require.NoError(t, err, "%s %v\n%s", name, args, b)
	return string(b)
}

func unpacked(t *testing.T, b []byte) []byte {
	t.Helper()
	z, err := gzip.NewReader(bytes.NewReader(b))
	require.NoError(t, err)
	b, err = io.ReadAll(z)
	require.NoError(t, err)
	return b
}

// sources are the project's, in a folder of their own.
func sources(t *testing.T) string {
	t.Helper()
	at := filepath.Join(t.TempDir(), "elsewhere")
	require.NoError(t, os.Mkdir(at, 0o700))
	list := said(t, "git", "-C", "../..", "ls-files", "-z", "--cached", "--others", "--exclude-standard")
	c := exec.Command("tar", "-C", "../..", "-c", "--null", "--ignore-failed-read", "-T", "-", "-f", filepath.Join(at, "all.tar"))
	c.Stdin = strings.NewReader(list)
	require.NoError(t, c.Run())
	said(t, "tar", "-C", at, "-xf", filepath.Join(at, "all.tar"))
	return at
}

// TestARelease makes the packages of one twice, in two places, and holds what is in them against
// the programs that read it. Then they are installed, used, brought up to date and removed in a
// root of their own.
func TestARelease(t *testing.T) {
	r, err := releaseOf("../..")
	require.NoError(t, err)
	r.Fast = true
	work := t.TempDir()
	first, second := filepath.Join(work, "first"), filepath.Join(work, "second")
	made, err := r.make(t.Context(), first, runtime.GOARCH)
	require.NoError(t, err)
	require.Len(t, made, 4)
	other := r
	other.Source = sources(t)
	_, err = other.make(t.Context(), second, runtime.GOARCH)
	require.NoError(t, err)
	for _, file := range made {
		a, err := os.ReadFile(file)
		require.NoError(t, err)
		b, err := os.ReadFile(filepath.Join(second, filepath.Base(file)))
		require.NoError(t, err)
		require.True(t, bytes.Equal(a, b), "%s is not the same if it is made elsewhere", filepath.Base(file))
	}
	require.Contains(t, said(t, "sh", "-c", "cd "+first+" && sha256sum -c SHA256SUMS"), ".deb: OK")

	root := filepath.Join(work, "root")
	said(t, "dpkg-deb", "-x", made[0], root)
	at := func(name string) string { return filepath.Join(root, "usr/share", name) }
	t.Run("files", func(t *testing.T) {
		for _, f := range strings.Fields(said(t, "find", root, "-type", "f", "-perm", "/022")) {
			require.Fail(t, "others could write it", f)
		}
		require.Empty(t, said(t, "desktop-file-validate", at("applications/org.ivelt.ivelt.desktop")))
		require.NotContains(t, said(t, "appstreamcli", "validate", "--no-net", "--no-color", "--pedantic", at("metainfo/org.ivelt.ivelt.metainfo.xml")), ":")
		pages, err := filepath.Glob(at("man/man1/*.gz"))
		require.NoError(t, err)
		require.Greater(t, len(pages), 50)
		require.Empty(t, said(t, "sh", append([]string{"-c", `for page; do zcat "$page" | groff -man -ww -z -Tutf8 -K utf8; done`, "sh"}, pages...)...))
		said(t, "bash", "-n", at("bash-completion/completions/ivelt"))
		said(t, "zsh", "-n", at("zsh/vendor-completions/_ivelt"))
		said(t, "fish", "--no-execute", at("fish/vendor_completions.d/ivelt.fish"))
		units := filepath.Join(root, "usr/lib/systemd/user")
		files := said(t, "rpm", "-qlp", made[1])
		for _, name := range strings.Fields(said(t, "sh", "-c", "cd "+root+" && find . -type f")) {
			name = strings.Replace(strings.TrimPrefix(name, "."), "vendor-completions", "site-functions", 1)
			require.Contains(t, files, name+"\n")
		}
		require.Contains(t, said(t, "cat", filepath.Join(units, "ivelt.service")), "ExecStart=/usr/bin/ivelt serve")
	})
	t.Run("notices", func(t *testing.T) {
		b, err := os.ReadFile(at("doc/ivelt/NOTICES.gz"))
		require.NoError(t, err)
		all := string(unpacked(t, b))
		linked := strings.Count(said(t, "go", "version", "-m", filepath.Join(root, "usr/bin/ivelt")), "\tdep\t")
		b, err = os.ReadFile(at("doc/ivelt/ivelt.cdx.json.gz"))
		require.NoError(t, err)
		b = unpacked(t, b)
		var bill struct {
			Components []struct {
				Name, Version string
				Licenses      []struct{ Expression string }
			}
		}
		require.NoError(t, json.Unmarshal(b, &bill))
		require.Len(t, bill.Components, linked+1+5, "every module that is linked, Go's own, and what the pages bring")
		for _, c := range bill.Components {
			require.NotEmpty(t, c.Licenses[0].Expression, c.Name)
			require.Contains(t, all, "\n"+c.Name+" "+c.Version+"\n"+c.Licenses[0].Expression+"\n")
		}
		require.NoError(t, schemaOf(t).Validate(document(t, b)))
		wrong := bytes.Replace(b, []byte(`"type": "application"`), []byte(`"type": "thing"`), 1)
		require.Error(t, schemaOf(t).Validate(document(t, wrong)), "the schema is one that can be broken")
	})
	t.Run("root", func(t *testing.T) { inARoot(t, r, made) })
}

func document(t *testing.T, b []byte) any {
	t.Helper()
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	require.NoError(t, err)
	return doc
}

// schemaOf is the published one of CycloneDX 1.6 (npm: @cyclonedx/cyclonedx-library 10.3.0,
// Apache-2.0), with those that it refers to; the list of licences is cut to the one that is used.
func schemaOf(t *testing.T) *jsonschema.Schema {
	t.Helper()
	c := jsonschema.NewCompiler()
	for _, name := range []string{"bom-1.6", "spdx", "jsf-0.82"} {
		name += ".SNAPSHOT.schema.json"
		b, err := os.ReadFile("testdata/cyclonedx/" + name)
		require.NoError(t, err)
		require.NoError(t, c.AddResource("http://cyclonedx.org/schema/"+name, document(t, b)))
	}
	s, err := c.Compile("http://cyclonedx.org/schema/bom-1.6.SNAPSHOT.schema.json")
	require.NoError(t, err)
	return s
}

// inARoot installs what was made in a root of its own; see testdata/root.sh.
func inARoot(t *testing.T, r release, made []string) {
	if os.Getuid() != 0 {
		t.Skip("a root of its own needs an administrator")
	}
	given := t.TempDir()
	require.NoError(t, os.Chmod(given, 0o755))
	put := func(name, from string) {
		said(t, "install", "-D", "-m", "644", from, filepath.Join(given, name))
	}
	put("after.deb", made[0])
	put("after.rpm", made[1])
	put("archive.tar.gz", made[2])
	older := r
	older.Version = "0.0.9"
	shared, err := older.common(t.Context(), filepath.Join(given, "shared"))
	require.NoError(t, err)
	program, err := older.build(t.Context(), filepath.Join(given, "older"), runtime.GOARCH)
	require.NoError(t, err)
	before, err := older.deb(t.Context(), given, given, program, shared)
	require.NoError(t, err)
	require.NoError(t, os.Rename(before, filepath.Join(given, "before.deb")))
	require.NoError(t, os.WriteFile(filepath.Join(given, "look.toml"), []byte("format = 1\nname = \"Dark\"\n[facet.dark]\nvalue = \"dark\"\n"), 0o644))
	earlier, err := filepath.Glob("../../store/testdata/earlier/*.db.gz")
	require.NoError(t, err)
	var want []string
	for _, from := range earlier {
		b, err := os.ReadFile(from)
		require.NoError(t, err)
		name := strings.TrimSuffix(filepath.Base(from), ".gz")
		require.NoError(t, os.MkdirAll(filepath.Join(given, "earlier"), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(given, "earlier", name), unpacked(t, b), 0o644))
		want = append(want, "data of version "+strings.TrimSuffix(name, ".db")+": the database is whole, version 17")
	}
	got := said(t, "unshare", "-m", "-C", "testdata/root.sh", given)
	v := "ivelt version " + r.Version
	require.Equal(t, strings.Join(slices.Concat([]string{
		"before: ivelt version 0.0.9", "after: " + v, "the history is the same", "what was kept is whole", "log-level: info", "went back", "verified",
	}, want, []string{
		"/usr/share/man/man1/ivelt-apply.1.gz", "completed: --outfit", "/usr/share/icons/hicolor/scalable/apps/org.ivelt.ivelt.svg",
		"enabled: enabled enabled", "the page: 200", "stopped: success, the session: success",
		"removed", "the person's data stays", "rpm: " + v, "rpm: removed", "archive: " + v + ", 1",
	}), "\n"), strings.TrimSpace(got))
}

// TestInstalledBelowAPrefix and removed again: what others put there stays.
func TestInstalledBelowAPrefix(t *testing.T) {
	root := t.TempDir()
	r, err := releaseOf("../..")
	require.NoError(t, err)
	below := filepath.Join(root, "opt/here")
	require.NoError(t, os.MkdirAll(filepath.Join(below, "share/doc/ivelt"), 0o755))
	mine := filepath.Join(below, "share/doc/ivelt/mine")
	require.NoError(t, os.WriteFile(mine, nil, 0o644))
	require.NoError(t, r.install(t.Context(), "/opt/here", root))
	require.Contains(t, said(t, filepath.Join(below, "bin/ivelt"), "--version"), r.Version)
	require.Contains(t, said(t, "cat", filepath.Join(below, "share/systemd/user/ivelt.service")), "ExecStart=/opt/here/bin/ivelt serve")
	require.NoError(t, uninstall(below))
	require.Equal(t, mine, strings.TrimSpace(said(t, "find", below, "-type", "f")))
	require.NoError(t, os.WriteFile(filepath.Join(below, manifest), []byte("../../kept\n"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(root, "kept"), nil, 0o644))
	require.ErrorContains(t, uninstall(below), "not below it")
	require.FileExists(t, filepath.Join(root, "kept"))
}
