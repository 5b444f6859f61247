package truth

import (
	"cmp"
	"crypto/sha256"
	_ "embed"
	"flag"
	"fmt"
	"math/big"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
)

//go:embed packages.txt
var listed string

var (
	all  = flag.Bool("all", false, "the large packages, and every theme of every package, too")
	keep = flag.String("packages", "", "folder that downloaded packages are kept in")
)

// pack is a Debian package with pieces that real makers made.
type pack struct {
	name, version string
	held          bool // counted, and never looked at when something is put right
	root          string
	file          string // the package itself
}

// part is the name of the part that its figures count for.
func (p pack) part() string {
	if p.held {
		return "held out"
	}
	return "worked"
}

// heldOut reports whether a package is held out: one in three, by the hash of
// its name.
func heldOut(name string) bool {
	sum := sha256.Sum256([]byte(name))
	return new(big.Int).Mod(new(big.Int).SetBytes(sum[:]), big.NewInt(3)).Sign() == 0
}

// programOf is the program of the list whose settings are of a form.
func programOf(t testing.TB, form string) string {
	for _, line := range lines(listed) {
		if name, mark, _ := strings.Cut(line, " "); mark == "program "+form {
			return name
		}
	}
	t.Fatal("no program has settings of the form ", form)
	return ""
}

var yard struct {
	sync.Mutex
	packs   []pack
	engines string // the folder that GTK 2 looks for engines in
}

// downloaded are packages in a folder, which is where they are downloaded to.
func downloaded(t testing.TB, wanted []string) (debs string) {
	debs = cmp.Or(*keep, filepath.Join(scratch, "debs"))
	require.NoError(t, os.MkdirAll(debs, 0o755))
	var missing []string
	for _, name := range wanted {
		if found, _ := filepath.Glob(filepath.Join(debs, name+"_*.deb")); len(found) == 0 {
			missing = append(missing, name)
		}
	}
	if len(missing) > 0 {
		c := tool(t, "apt-get", "apt", append([]string{"download", "-q"}, missing...)...)
		c.Dir = debs
		output(t, c)
	}
	return debs
}

// unpacked is a package of that folder, with its files.
func unpacked(t testing.TB, debs, name string) pack {
	found, err := filepath.Glob(filepath.Join(debs, name+"_*.deb"))
	require.NoError(t, err)
	require.NotEmpty(t, found, "%s could not be downloaded", name)
	p := pack{name: name, held: heldOut(name), root: filepath.Join(scratch, "packs", name), file: found[0]}
	p.version = strings.Split(filepath.Base(found[0]), "_")[1]
	p.version = strings.ReplaceAll(p.version, "%3a", ":")
	require.NoError(t, os.MkdirAll(p.root, 0o755))
	output(t, tool(t, "dpkg-deb", "dpkg", "-x", found[0], p.root))
	return p
}

// photographs are the pictures of the packages of backdrops (Debian: apt, dpkg).
func photographs(t testing.TB) map[string]pack {
	yard.Lock()
	defer yard.Unlock()
	var wanted []string
	for _, line := range lines(listed) {
		if name, mark, _ := strings.Cut(line, " "); mark == "backdrop" {
			wanted = append(wanted, name)
		}
	}
	debs, out := downloaded(t, wanted), map[string]pack{}
	for _, name := range wanted {
		p := unpacked(t, debs, name)
		found, err := filepath.Glob(filepath.Join(p.root, "usr/share/backgrounds/*.jpg"))
		require.NoError(t, err)
		require.NotEmpty(t, found, name)
		for _, f := range found {
			out[f] = p
		}
	}
	return out
}

// realPacks downloads and unpacks the packages of the list (Debian: apt, dpkg).
func realPacks(t testing.TB) []pack {
	yard.Lock()
	defer yard.Unlock()
	if yard.packs != nil {
		return yard.packs
	}
	var wanted []string
	engine := map[string]bool{}
	for _, line := range lines(listed) {
		name, mark, _ := strings.Cut(line, " ")
		if strings.HasPrefix(line, "#") || strings.HasSuffix(mark, "large") && !*all || strings.HasPrefix(mark, "program ") || mark == "backdrop" {
			continue
		}
		wanted = append(wanted, name)
		engine[name] = mark == "engine"
	}
	debs := downloaded(t, wanted)
	engines := filepath.Join(scratch, "engines")
	var out []pack
	for _, name := range wanted {
		p := unpacked(t, debs, name)
		libraries, err := filepath.Glob(filepath.Join(p.root, "usr/lib/*/gtk-2.0/*/engines/*.so"))
		require.NoError(t, err)
		for _, library := range libraries {
			version := filepath.Base(filepath.Dir(filepath.Dir(library)))
			require.NoError(t, os.MkdirAll(filepath.Join(engines, version, "engines"), 0o755))
			require.NoError(t, os.Symlink(library, filepath.Join(engines, version, "engines", filepath.Base(library))))
		}
		if !engine[name] {
			out = append(out, p)
		}
	}
	yard.packs, yard.engines = out, engines
	return out
}

// realTheme is one theme of a package.
type realTheme struct {
	pack
	name string
	dir  string
}

// realThemes are the themes that have a file, "gtk-3.0/gtk.css" or another: the
// middle one of each package, or all.
func realThemes(t testing.TB, file string) (out []realTheme) {
	for _, p := range realPacks(t) {
		found, err := filepath.Glob(filepath.Join(p.root, "usr/share/themes/*", file))
		require.NoError(t, err)
		for _, f := range found {
			dir := strings.TrimSuffix(f, "/"+file)
			out = append(out, realTheme{p, filepath.Base(dir), dir})
		}
	}
	slices.SortStableFunc(out, func(a, b realTheme) int { return strings.Compare(a.name, b.name) })
	if *all {
		return out
	}
	seen, of := map[string]int{}, map[string]int{}
	for _, theme := range out {
		of[theme.pack.name]++
	}
	return slices.DeleteFunc(out, func(theme realTheme) bool {
		seen[theme.pack.name]++
		return seen[theme.pack.name] != (of[theme.pack.name]+1)/2
	})
}

// wear makes a home that has the themes of a package, and returns it.
func wear(t *testing.T, theme realTheme) string {
	home := t.TempDir()
	require.NoError(t, os.Symlink(filepath.Dir(theme.dir), filepath.Join(home, ".themes")))
	return home
}

// sheetOf is the style sheet that GTK takes of a theme: of the folders for its
// minor versions the highest, down to that of version 0.
func (theme realTheme) sheetOf(generation int) string {
	for minor := 30; minor >= 0; minor -= 2 {
		if generation == 3 && minor > 24 || generation == 4 && minor > 8 {
			continue // later than Debian's
		}
		file := filepath.Join(theme.dir, fmt.Sprintf("gtk-%d.%d/gtk.css", generation, minor))
		if _, err := os.Stat(file); err == nil {
			return file
		}
	}
	return ""
}
