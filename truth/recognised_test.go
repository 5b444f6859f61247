package truth

import (
	"bytes"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/parcel"
)

// installed lists the pieces of an unpacked package by where it puts them: a distribution
// keeps each kind in a folder of its own (Filesystem Hierarchy Standard 3.0, 4.11; Icon
// Theme Specification 0.13; Debian Policy 11.8.5, fonts). Families are those that fc-scan
// names (Debian: fontconfig).
func installed(t testing.TB, root string) (pieces []string) {
	add := func(kind, name string) { pieces = append(pieces, kind+" "+name) }
	children := func(pattern string) (dirs []string) {
		found, err := filepath.Glob(filepath.Join(root, pattern))
		require.NoError(t, err)
		for _, dir := range found {
			if info, err := os.Lstat(dir); err == nil && info.IsDir() {
				dirs = append(dirs, dir)
			}
		}
		return dirs
	}
	holds := func(dir string, is func(p string, d fs.DirEntry) bool) (yes bool) {
		require.NoError(t, filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
			if err == nil && !d.IsDir() && is(p, d) {
				yes = true
				return fs.SkipAll
			}
			return err
		}))
		return yes
	}
	for _, dir := range children("usr/share/themes/*") {
		if holds(dir, func(p string, d fs.DirEntry) bool { return filepath.Dir(p) != dir }) { // more than a description
			add("theme", filepath.Base(dir))
		}
	}
	for _, dir := range children("usr/share/icons/*") {
		pointers := filepath.Join(dir, "cursors")
		picture := func(p string, d fs.DirEntry) bool {
			return slices.Contains([]string{".png", ".svg", ".xpm"}, filepath.Ext(p)) && !strings.HasPrefix(p, pointers+"/") && filepath.Dir(p) != dir
		}
		if b, err := os.ReadFile(filepath.Join(dir, "index.theme")); err == nil && bytes.Contains(b, []byte("\nDirectories")) && holds(dir, picture) {
			add("icons", filepath.Base(dir))
		}
		if files, err := filepath.Glob(filepath.Join(pointers, "*")); err == nil && slices.ContainsFunc(files, func(p string) bool {
			b, err := os.ReadFile(p)
			return err == nil && bytes.HasPrefix(b, []byte("Xcur"))
		}) {
			add("pointer", filepath.Base(dir))
		}
	}
	fonts := filepath.Join(root, "usr/share/fonts")
	if _, err := os.Stat(fonts); err == nil {
		var files []string
		require.NoError(t, filepath.WalkDir(fonts, func(p string, d fs.DirEntry, err error) error {
			if err == nil && d.Type().IsRegular() && slices.Contains([]string{".ttf", ".otf", ".ttc"}, strings.ToLower(filepath.Ext(p))) {
				files = append(files, p)
			}
			return err
		}))
		if len(files) > 0 {
			for _, family := range lines(output(t, tool(t, "fc-scan", "fontconfig", append([]string{"--format", "%{family[0]}\n"}, files...)...))) {
				add("font", family)
			}
		}
	}
	for _, folder := range []string{"usr/share/backgrounds", "usr/share/wallpapers", "usr/share/images"} {
		_ = filepath.WalkDir(filepath.Join(root, folder), func(p string, d fs.DirEntry, err error) error {
			if err == nil && d.Type().IsRegular() && slices.Contains([]string{".png", ".jpg", ".jpeg", ".svg", ".webp"}, filepath.Ext(p)) {
				add("backdrop", p[len(root)+1:])
			}
			return nil
		})
	}
	slices.Sort(pieces)
	return slices.Compact(pieces)
}

// TestRealParcelsAreTakenApart: every package of the list, against where it puts what it
// has. None may be missed, none invented.
func TestRealParcelsAreTakenApart(t *testing.T) {
	t.Parallel()
	type count struct {
		packages, theirs, missed, invented int
		slow                               []string // more than one and a half times what dpkg-deb takes
	}
	counts := map[string]*count{"worked": {}, "held out": {}}
	for _, p := range realPacks(t) {
		theirs, n := installed(t, p.root), counts[p.part()]
		var found parcel.Contents
		look := func() {
			opened, err := parcel.Open(t.Context(), p.file, archive.Options{})
			require.NoError(t, err, p.name)
			found = opened.Recognise(t.Context())
			require.NoError(t, opened.Close())
		}
		look()
		times := ""
		if *all { // beside dpkg-deb, which lists it; BenchmarkRealParcels does the same
			us, them := median(look), median(func() { output(t, tool(t, "dpkg-deb", "dpkg", "-c", p.file)) })
			times = fmt.Sprintf(", %4d ms and dpkg-deb %4d ms: %.2f times", us.Milliseconds(), them.Milliseconds(), float64(us)/float64(them))
			if us > them*3/2 {
				n.slow = append(n.slow, p.name)
			}
		}
		var ours []string
		for _, pc := range found.Pieces {
			switch {
			case pc.Kind == parcel.Font:
				ours = append(ours, "font "+pc.Name)
			case pc.Kind == parcel.Backdrop:
				for _, file := range pc.Only {
					ours = append(ours, "backdrop "+file)
				}
			case strings.HasPrefix(pc.Root, "usr/share/"):
				ours = append(ours, string(pc.Kind)+" "+path.Base(pc.Root))
			default:
				ours = append(ours, string(pc.Kind)+" "+pc.Root)
			}
		}
		slices.Sort(ours)
		missed := slices.DeleteFunc(slices.Clone(theirs), func(s string) bool { return slices.Contains(ours, s) })
		invented := slices.DeleteFunc(slices.Clone(ours), func(s string) bool { return slices.Contains(theirs, s) })
		n.packages, n.theirs = n.packages+1, n.theirs+len(theirs)
		n.missed, n.invented = n.missed+len(missed), n.invented+len(invented)
		if !p.held && len(missed)+len(invented) > 0 {
			t.Logf("%s: missed %q; invented %q", p.name, clip(missed), clip(invented))
		}
		t.Logf("%-8s  %-32s %4d pieces, %d missed, %d invented%s", p.part(), p.name, len(theirs), len(missed), len(invented), times)
	}
	for _, part := range []string{"worked", "held out"} {
		n := counts[part]
		t.Logf("%-8s  together: %d packages, %d pieces, %d missed, %d invented; slower than one and a half times: %d %q", part, n.packages, n.theirs, n.missed, n.invented, len(n.slow), n.slow)
		require.Greater(t, n.theirs, 20, part)
		require.Zero(t, n.missed+n.invented, part)
	}
}

func clip(s []string) []string { return s[:min(len(s), 6)] }

// median is the middle of three times that something takes.
func median(do func()) time.Duration {
	var took []time.Duration
	for range 3 {
		begun := time.Now()
		do()
		took = append(took, time.Since(begun))
	}
	slices.Sort(took)
	return took[1]
}
