package truth

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/market/debian"
)

// offered are all packages in the lists of this machine.
func offered(t testing.TB, tree fs.FS) []market.Package {
	lists, err := debian.System{}.Lists(tree)
	require.NoError(t, err)
	var out []market.Package
	for _, l := range lists {
		require.NoError(t, debian.System{}.Read(t.Context(), tree, l.Name, func(p market.Package) error {
			out = append(out, p)
			return nil
		}))
	}
	require.NotEmpty(t, out, "this machine has no package lists: apt-get update makes them")
	return out
}

// TestPackageListsAreAsAptReadsThem: name, version, size, checksum and words of every package,
// held against `apt-cache dumpavail` (Debian: apt), and which version is newer against `dpkg
// --compare-versions` (Debian: dpkg).
func TestPackageListsAreAsAptReadsThem(t *testing.T) {
	t.Parallel()
	ours := offered(t, os.DirFS("/"))
	line := func(name, version, size, sum, summary string) string {
		return strings.Join([]string{name, version, size, sum, summary}, "\t")
	}
	have := map[string]bool{}
	for _, p := range ours {
		have[line(p.Name, p.Version, fmt.Sprint(p.Size), p.SHA256, p.Summary)] = true
	}
	out, err := exec.CommandContext(t.Context(), "apt-cache", "dumpavail").Output()
	require.NoError(t, err)
	same, differ := 0, 0
	var f map[string]string
	end := func() {
		if f["Filename"] == "" { // what is installed and in no list
			return
		}
		if have[line(f["Package"], f["Version"], f["Size"], f["SHA256"], strings.TrimSpace(f["Description"]))] {
			same++
			return
		}
		if differ++; differ < 5 {
			t.Logf("not read as apt does: %v", f)
		}
	}
	in := bufio.NewScanner(bytes.NewReader(out))
	in.Buffer(nil, 1<<20)
	f = map[string]string{}
	for in.Scan() {
		if in.Text() == "" {
			end()
			f = map[string]string{}
		}
		if field, value, ok := strings.Cut(in.Text(), ": "); ok && in.Text()[0] != ' ' {
			f[strings.TrimSuffix(field, "-en")] = value
		}
	}
	require.NoError(t, in.Err())
	t.Logf("%d packages read as apt reads them, %d not", same, differ)
	require.Zero(t, differ)
	require.Greater(t, same, 1000)

	chance := rand.New(rand.NewPCG(*seed, 1))
	odd := []string{"1.0~rc1", "1.0", "1.0-1", "1.0-1~bpo1", "1:0.9", "1.0+b1", "1.0a", "1.00", "1.0.1", "2a.1-0", "1.0-1+deb12u1", "0", "1.0.", "1.0~", "1.0~~", "1.0-0"}
	for i := range 600 * int(*times) {
		a, b := ours[chance.IntN(len(ours))].Version, ours[chance.IntN(len(ours))].Version
		if i < len(odd)*len(odd) {
			a, b = odd[i/len(odd)], odd[i%len(odd)]
		}
		c := exec.CommandContext(t.Context(), "dpkg", "--compare-versions", a, "gt", b)
		err := c.Run()
		require.Equal(t, err == nil, debian.System{}.Newer(a, b), "%s after %s", a, b)
	}
}

// kindsHeldOut reports whether a package counts among those that the rules of [market.Package]
// were not made with: one in three, by the hash of its name.
func kindsHeldOut(name string) bool {
	sum := sha256.Sum256([]byte(name))
	return binary.BigEndian.Uint32(sum[:4])%3 == 0
}

// TestWhatPackagesProbablyHave holds the kind that a package probably has, by what its list
// says, against what is in it: by Debian's lists of contents (with -all; else by dpkg's record
// of what is installed here). What is called likely and is not, and what is there and is not
// called likely, is counted and told by name.
func TestWhatPackagesProbablyHave(t *testing.T) {
	t.Parallel()
	root := "/"
	if *all {
		root = t.TempDir()
		lists := filepath.Join(root, "var/lib/apt/lists")
		require.NoError(t, os.MkdirAll(filepath.Join(lists, "partial"), 0o755))
		c := exec.CommandContext(t.Context(), "apt-get", "-o", "Dir::State::lists="+lists, "-o", "APT::Sandbox::User=root", "--quiet=2", "update")
		for _, arch := range []string{"all", "amd64"} { // as apt-file(1) has apt fetch them
			target := "Acquire::IndexTargets::deb::Contents-deb-" + arch + "::"
			c.Args = slices.Insert(c.Args, 1, "-o", target+"MetaKey=$(COMPONENT)/Contents-"+arch, "-o", target+"ShortDescription=Contents-"+arch, "-o", target+"Description=contents")
		}
		out, err := c.CombinedOutput()
		require.NoError(t, err, string(out))
	}
	tree := os.DirFS(root)
	contents, err := debian.System{}.Contents(tree)
	require.NoError(t, err)
	require.NotEmpty(t, contents)
	held := map[string]*market.Held{}
	for _, l := range contents {
		require.NoError(t, debian.System{}.ReadContents(t.Context(), tree, l.Name, func(name, file string) {
			if held[name] == nil {
				held[strings.Clone(name)] = &market.Held{}
			}
			held[name].Add(file)
		}))
	}
	type count struct{ right, wrong, missed int }
	counts := map[string]*count{"worked": {}, "held out": {}}
	seen := map[string]bool{}
	for _, p := range offered(t, tree) {
		in := held[p.Name]
		if in == nil || seen[p.Name] {
			continue
		}
		seen[p.Name] = true
		part := "worked"
		if kindsHeldOut(p.Name) {
			part = "held out"
		}
		likely, certain := p.Likely(), in.Kind()
		c, what := counts[part], ""
		switch {
		case likely != "" && in.Has(likely) > 0:
			c.right++
		case likely != "":
			c.wrong++
			what = "likely " + likely + ", and has none"
		case certain != "":
			c.missed++
			what = "has " + certain + ", and is not likely to"
		}
		if what != "" && part == "worked" {
			t.Logf("%s (%s): %s", p.Name, p.Section, what)
		}
	}
	for _, part := range slices.Sorted(func(yield func(string) bool) {
		for k := range counts {
			if !yield(k) {
				return
			}
		}
	}) {
		c := counts[part]
		t.Logf("%-8s  %d likely and so, %d likely and not so, %d not likely and so", part, c.right, c.wrong, c.missed)
		if *all {
			assert.GreaterOrEqual(t, c.right*100, 90*(c.right+c.wrong), "%s: what is called likely", part)
			assert.GreaterOrEqual(t, c.right*100, 90*(c.right+c.missed), "%s: what is found", part)
		}
	}
	require.NotZero(t, counts["worked"].right)
}

// BenchmarkTheSystemsPackages reads the lists of this machine for the first time, again with
// nothing changed, and searches in what is found.
func BenchmarkTheSystemsPackages(b *testing.B) {
	open := func(dir string) *app.App {
		d, err := desk.Open("own", b.TempDir(), "/", "/home/me")
		require.NoError(b, err)
		a, err := app.New(b.Context(), app.Config{Dir: dir, Desks: []*desks.Managed{{Desk: d, Offers: debian.System{}}}})
		require.NoError(b, err)
		a.Markets.Fresh = 0
		return a
	}
	look := func(a *app.App) { require.NoError(b, a.Markets.Look().Wait()) }
	b.Run("first", func(b *testing.B) {
		for b.Loop() {
			a := open(b.TempDir())
			look(a)
			require.NoError(b, a.Close())
		}
	})
	a := open(b.TempDir())
	defer a.Close()
	look(a)
	b.Run("again", func(b *testing.B) {
		for b.Loop() {
			look(a)
		}
	})
	b.Run("search", func(b *testing.B) {
		for b.Loop() {
			found, err := a.Markets.Search(b.Context(), markets.Query{Words: "icon theme"})
			require.NoError(b, err)
			require.NotEmpty(b, found.Entries)
		}
	})
}
