package truth

import (
	"context"
	"encoding/json"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/parcel"
	"ivelt/core/zipdir"
	"ivelt/demo"
	_ "ivelt/sevenzip"
)

// listing is the tool that lists each kind of archive (Debian: tar, xz-utils,
// unzip).
func listing(t *testing.T, file string) []string {
	t.Helper()
	switch {
	case strings.HasSuffix(file, ".tar.bz2"), strings.HasSuffix(file, ".tar.zst"), strings.HasSuffix(file, ".tar"):
		return lines(output(t, tool(t, "tar", "tar, bzip2, zstd", "-taf", file)))
	case strings.HasSuffix(file, ".deb"):
		return names(output(t, tool(t, "dpkg-deb", "dpkg", "-c", file)))
	case strings.HasSuffix(file, ".7z"):
		return sevenZipNames(output(t, tool(t, "7zz", "7zip", "l", "-slt", "-ba", "-p"+secret, file)))
	case strings.HasSuffix(file, ".tar.xz"):
		return lines(output(t, tool(t, "tar", "tar, xz-utils", "-tJf", file)))
	case strings.HasSuffix(file, ".tar.gz"):
		return lines(output(t, tool(t, "tar", "tar", "-tzf", file)))
	}
	return lines(output(t, tool(t, "unzip", "unzip", "-Z1", file)))
}

func TestEntriesAgreeWithTarAndUnzip(t *testing.T) {
	t.Parallel()
	dir := strandline(t)
	files, err := filepath.Glob(filepath.Join(dir, "parcels", "*"))
	require.NoError(t, err)
	files = append(files, packTango(t))
	total := 0
	for _, file := range files {
		if strings.Contains(file, "Shingle-2.2") {
			continue // cut off on purpose: neither side can list it whole
		}
		p, err := parcel.Open(t.Context(), file, archive.Options{Password: "spiral"}) // one of them is locked
		require.NoError(t, err)
		theirs := listing(t, file)
		require.Equal(t, theirs, p.Entries(), file)
		total += len(theirs)
		t.Logf("%-28s %5d entries, the same in the same order", filepath.Base(file), len(theirs))
	}
	t.Logf("%-28s %5d entries", "together", total)
}

// names takes the names out of a long listing.
func names(listing string) []string {
	var out []string
	for _, l := range lines(listing) {
		f := strings.Fields(l)
		out = append(out, strings.Split(strings.Join(f[5:], " "), " -> ")[0])
	}
	return out
}

// sevenZipNames reads the listing of 7zz, in which a folder has the attribute D.
func sevenZipNames(listing string) []string {
	var out []string
	for _, l := range lines(listing) {
		if name, ok := strings.CutPrefix(l, "Path = "); ok {
			out = append(out, name)
		}
		if attributes, ok := strings.CutPrefix(l, "Attributes = D"); ok && !strings.HasPrefix(attributes, "R") || strings.HasPrefix(l, "Folder = +") {
			if last := &out[len(out)-1]; !strings.HasSuffix(*last, "/") {
				*last += "/"
			}
		}
	}
	return out
}

const secret = "samphire"

// TestEveryKindOfArchive packs one pack with Debian's tools in every way, and
// compares the listings and the contents.
func TestEveryKindOfArchive(t *testing.T) {
	t.Parallel()
	packs := t.TempDir()
	require.NoError(t, demo.WritePacks(packs, "Glasswort"))
	root := filepath.Join(t.TempDir(), "deb")
	require.NoError(t, os.MkdirAll(filepath.Join(root, "usr/share/icons"), 0o755))
	require.NoError(t, os.CopyFS(filepath.Join(root, "usr/share/icons/Glasswort"), os.DirFS(filepath.Join(packs, "Glasswort"))))
	write(t, filepath.Join(root, "DEBIAN/control"), "Package: glasswort\nVersion: 1\nArchitecture: all\nMaintainer: Ines <ines@example.org>\nDescription: icons\n")
	out := t.TempDir()
	at := func(name string) string { return filepath.Join(out, name) }
	make := func(name, debian string, args ...string) {
		c := tool(t, name, debian, args...)
		c.Dir = packs
		output(t, c)
	}
	make("tar", "tar", "-cf", at("a.tar"), "Glasswort")
	make("tar", "tar, bzip2", "-cjf", at("a.tar.bz2"), "Glasswort")
	make("tar", "tar, zstd", "--zstd", "-cf", at("a.tar.zst"), "Glasswort")
	make("7zz", "7zip", "a", "-snl", at("a.7z"), "Glasswort")
	make("7zz", "7zip", "a", "-snl", "-p"+secret, "-mhe=on", at("locked.7z"), "Glasswort")
	make("7zz", "7zip", "a", "-snl", "-p"+secret, at("half-locked.7z"), "Glasswort")
	make("zip", "zip", "-qry", "-P", secret, at("old-lock.zip"), "Glasswort")
	make("7zz", "7zip", "a", "-tzip", "-snl", "-mem=AES256", "-p"+secret, at("aes.zip"), "Glasswort")
	make("dpkg-deb", "dpkg", "-b", "--root-owner-group", root, at("a.deb"))
	make("tar", "tar", "-C", out, "-cf", at("nested.tar"), "a.tar.bz2", "a.7z", "old-lock.zip")

	want := contents(t, os.DirFS(packs), "Glasswort")
	require.Greater(t, len(want), 500)
	total := 0
	for _, name := range []string{"a.tar", "a.tar.bz2", "a.tar.zst", "a.7z", "locked.7z", "half-locked.7z", "old-lock.zip", "aes.zip", "a.deb", "nested.tar"} {
		locked := strings.Contains(name, "lock") || name == "aes.zip"
		if locked {
			for _, wrong := range []string{"", "glasswort"} {
				p, err := parcel.Open(t.Context(), at(name), archive.Options{Password: wrong})
				if err == nil {
					_, err = fs.ReadFile(p, "Glasswort/index.theme")
				}
				require.ErrorIs(t, err, zipdir.ErrPassword, "%s with password %q", name, wrong)
			}
		}
		p, err := parcel.Open(t.Context(), at(name), archive.Options{Password: secret})
		require.NoError(t, err, name)
		theirs, ours := listing(t, at(name)), p.Entries()
		if strings.HasSuffix(name, ".7z") { // 7zz lists folders in an order of its own
			slices.Sort(theirs)
			ours = slices.Sorted(slices.Values(ours))
		}
		require.Equal(t, theirs, ours, name)
		total += len(theirs)
		base := map[string]string{"a.deb": "usr/share/icons/Glasswort", "nested.tar": "a.tar.bz2/Glasswort"}[name]
		if base == "" {
			base = "Glasswort"
		}
		require.Equal(t, want, contents(t, p, base), name)
		found := p.Recognise(t.Context())
		require.Equal(t, "Glasswort", found.Pieces[0].Folder, name)
		if name == "nested.tar" {
			require.Len(t, found.Pieces, 3)
			require.Equal(t, want, contents(t, p, "a.7z/Glasswort"))
			require.Equal(t, want, contents(t, p, "old-lock.zip/Glasswort"))
		}
		require.NoError(t, p.Close())
	}
	t.Logf("ten kinds of archive: %d entries listed as tar, unzip, 7zz and dpkg-deb list them, all contents the same", total)
}

// contents is every file below a folder, links followed.
func contents(t *testing.T, fsys fs.FS, root string) map[string]string {
	t.Helper()
	out := map[string]string{}
	require.NoError(t, fs.WalkDir(fsys, root, func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(fsys, name)
		out[strings.TrimPrefix(name, root+"/")] = string(b)
		return err
	}))
	return out
}

// packTango makes a .tar.xz of a real pack (Debian: tango-icon-theme).
func packTango(t *testing.T) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "Tango.tar.xz")
	output(t, tool(t, "tar", "tar, xz-utils", "-C", "/usr/share/icons", "-cJf", file, "Tango"))
	return file
}

// TestCommandLineContract runs the built binary on the demo's parcels and on a
// real pack.
func TestCommandLineContract(t *testing.T) {
	t.Parallel()
	ivelt := ivelt(t)
	market, home, system := strandline(t), t.TempDir(), t.TempDir()
	run := func(in string, args ...string) (out, complaint string, code int) {
		c := exec.CommandContext(t.Context(), ivelt, args...)
		c.Stdin = strings.NewReader(in)
		var o, e strings.Builder
		c.Stdout, c.Stderr = &o, &e
		if err := c.Run(); err != nil {
			var x *exec.ExitError
			require.ErrorAs(t, err, &x)
		}
		return o.String(), e.String(), c.ProcessState.ExitCode()
	}
	parcelFile := func(name string) string { return filepath.Join(market, "parcels", name) }
	type piece struct {
		Kind, Name, Folder, Root string
		Parts, Inherits, Needs   []string
		Placements               []struct {
			Scope, Path, Reason string
			SeenBy              []string `json:"seen_by"`
		}
		Notes []struct{ Level, Code, Text string }
	}
	var reports []struct {
		Path, Format string
		Entries      int
		Bytes        int64
		Pieces       []piece
		Notes        []struct{ Level, Code, Text string }
	}

	tango := packTango(t)
	out, _, code := run("", "inspect", "--json", parcelFile("Shingle-2.1.tar.xz"), parcelFile("Wrack-1.4.tar.gz"), parcelFile("Glasswort-0.9.zip"), parcelFile("cockle-icons-3.0.tar.gz"), tango)
	require.Equal(t, 0, code)
	require.NoError(t, json.Unmarshal([]byte(out), &reports))
	require.Len(t, reports, 5)
	var folders, roots []string
	for _, r := range reports {
		require.Len(t, listing(t, r.Path), r.Entries)
		for _, p := range r.Pieces {
			require.Equal(t, "icons", p.Kind)
			require.Equal(t, "~/.local/share/icons/"+p.Folder, p.Placements[0].Path)
			require.NotEmpty(t, p.Placements[0].Reason)
			require.Contains(t, p.Placements[0].SeenBy, "GTK 3 programs")
			folders, roots = append(folders, p.Folder), append(roots, p.Root)
		}
	}
	require.Equal(t, []string{"Shingle", "Shingle-Coral", "Shingle-Heather", "Wrack", "Glasswort", "Cockle", "Tango"}, folders)
	require.Equal(t, "cockle-icons-3.0/build/share/icons/Cockle", roots[5])
	require.Equal(t, []string{"tar.xz", "tar.gz", "zip"}, []string{reports[0].Format, reports[1].Format, reports[2].Format})
	require.Equal(t, []string{"Shingle"}, reports[1].Pieces[0].Needs)

	for _, bad := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"inspect", parcelFile("Shingle-2.2.tar.xz")}, 2, "damaged or was cut off"},
		{[]string{"inspect", filepath.Join(market, "index.json")}, 2, "not an archive"},
		{[]string{"inspect", filepath.Join(market, "nowhere.zip")}, 2, "no such file"},
		{[]string{"inspect", parcelFile("postcards.zip")}, 1, "no piece"},
		{[]string{"inspect", parcelFile("Driftwood-0.3.tar.gz")}, 1, "no index.theme"},
		{[]string{"inspect", parcelFile("Eddy-1.0.zip")}, 0, "line loops by way of"},
		{[]string{"inspect"}, 2, "requires at least 1 arg"},
		{[]string{"read", "--home", filepath.Join(home, "none")}, 2, "name a folder that exists"},
		{[]string{"icon", "folder"}, 2, "--theme"},
		{[]string{"icon", "--theme", "Tango", "--size", "0", "folder"}, 2, "--size"},
		{[]string{"fold"}, 2, "unknown command"},
	} {
		out, complaint, code := run("", bad.args...)
		require.Equal(t, bad.code, code, bad.args)
		require.Contains(t, out+complaint, bad.says)
	}

	require.NoError(t, demo.WritePacks(filepath.Join(home, ".local/share/icons"), "Shingle"))
	write(t, filepath.Join(home, ".config/gtk-3.0/settings.ini"), "# mine\n[Settings]\ngtk-icon-theme-name=Shingle\n")
	write(t, filepath.Join(system, "usr/bin/quayside"), "that it is here says that the desk has it")
	write(t, filepath.Join(system, "etc/gtk-4.0/settings.ini"), "[Settings]\ngtk-icon-theme-name=Elsewhere\n")
	out, _, code = run("", "read", "--json", "--home", home, "--system", system)
	require.Equal(t, 1, code, "GTK 4 names a pack that is not there")
	var readings []struct {
		Surface, Facet, Value, Resolved, Pending string
		Source                                   struct {
			Kind, Path, Key string
			Line            int
		}
		Chain []struct{ Kind, Path, State string }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &readings))
	for i := len(readings) - 1; i >= 0; i-- {
		if r := readings[i]; r.Facet != "icons" || r.Surface != "gtk3" && r.Surface != "gtk4" && r.Surface != "quayside" {
			readings = append(readings[:i], readings[i+1:]...)
		}
	}
	require.Equal(t, "Shingle", readings[0].Value)
	require.Equal(t, filepath.Join(home, ".config/gtk-3.0/settings.ini"), readings[0].Source.Path)
	require.Equal(t, 3, readings[0].Source.Line)
	require.Equal(t, filepath.Join(home, ".local/share/icons/Shingle"), readings[0].Resolved)
	require.Equal(t, "Elsewhere", readings[1].Value)
	require.Empty(t, readings[1].Resolved)
	require.Equal(t, "file", readings[1].Source.Kind)
	require.Equal(t, "default", readings[2].Source.Kind)
	require.Equal(t, "default", readings[0].Chain[len(readings[0].Chain)-1].Kind)

	write(t, filepath.Join(home, ".config/gtk-4.0/settings.ini"), "[Settings]\nno key file\n")
	out, _, code = run("", "read", "--home", home, "--system", system)
	require.Equal(t, 1, code)
	require.Contains(t, out, "GTK 4 programs ignore ~/.config/gtk-4.0/settings.ini: line 2")

	out, _, code = run("", "icon", "--theme", "Shingle", "--size", "24", "--home", home, "--system", system, "folder", "no-such-icon")
	require.Equal(t, 1, code)
	require.Equal(t, filepath.Join(home, ".local/share/icons/Shingle/24x24/places/folder.png")+"\n-\n", out)
	out, _, code = run("folder 24 2\nfolder 300 1\n", "icon", "--theme", "Shingle", "--path", filepath.Join(home, ".local/share/icons"))
	require.Equal(t, 0, code)
	require.Equal(t, []string{"24x24@2/places/folder.png", "scalable/places/folder.svg"}, relative(filepath.Join(home, ".local/share/icons/Shingle"), lines(out)))
	_, complaint, code := run("folder large\n", "icon", "--theme", "Shingle", "--home", home)
	require.Equal(t, 2, code)
	require.Contains(t, complaint, "NAME SIZE SCALE")
}

func relative(dir string, files []string) []string {
	out := slices.Clone(files)
	for i := range out {
		out[i], _ = filepath.Rel(dir, out[i])
	}
	return out
}

// strandline is the demo's market, made once for all tests.
func strandline(t *testing.T) string {
	t.Helper()
	dir, err := madeMarket()
	require.NoError(t, err)
	return dir
}

var madeMarket = sync.OnceValues(func() (string, error) {
	dir := filepath.Join(scratch, "market")
	return dir, demo.WriteMarket(context.Background(), dir)
})

var scratch string
