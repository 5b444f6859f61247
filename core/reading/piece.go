package reading

import (
	"bytes"
	"crypto/md5"
	"encoding/hex"
	"io/fs"
	"path"
	"strings"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/keyfile"
)

// mainFiles are those of a piece by which one copy is told from another, as names
// in its folder.
func mainFiles(l desk.Lookup) []string {
	out := []string{"index.theme"}
	switch l.Kind {
	case "theme":
		for _, part := range l.Parts {
			out = append(out, path.Join(part, l.File), path.Join(part, DarkForm(l.File)))
		}
	case "login":
		out = []string{l.File}
	case "pointer":
		out = append(out, "cursors/left_ptr", "cursors/default")
	}
	return out
}

// Another reports whether two folders of one name hold different pieces, by their
// main files.
func Another(d *desk.Desk, l desk.Lookup, a, b string) bool {
	for _, name := range mainFiles(l) {
		one, err := fs.ReadFile(d.Tree(), desk.Name(path.Join(a, name)))
		two, err2 := fs.ReadFile(d.Tree(), desk.Name(path.Join(b, name)))
		if (err == nil) != (err2 == nil) || !bytes.Equal(one, two) {
			return true
		}
	}
	return false
}

// StaleCache is the list of a pack's icons that programs go by in the folders'
// stead, if it is older than one of them; "" if it is not, or if programs do not
// trust it: GTK goes by it if it is no older than the pack's own folder
// (gtkiconcache.c, gtk_icon_cache_new_for_path).
func StaleCache(d *desk.Desk, l desk.Lookup, folder string) string {
	if l.Kind != "icon-theme" || l.Cache == "" || folder == "" {
		return ""
	}
	return desk.Once(d, "stale "+l.Cache+"\x00"+folder, func() string { return staleIn(d, l, folder) })
}

func staleIn(d *desk.Desk, l desk.Lookup, folder string) string {
	tree, at := d.Tree(), desk.Name(folder)
	cache, err := fs.Stat(tree, path.Join(at, l.Cache))
	if err != nil {
		return ""
	}
	if top, err := fs.Stat(tree, at); err != nil || top.ModTime().After(cache.ModTime()) {
		return ""
	}
	raw, err := fs.ReadFile(tree, path.Join(at, "index.theme"))
	if err != nil {
		return ""
	}
	kf, err := keyfile.Parse(raw)
	if err != nil {
		return ""
	}
	for _, dir := range kf.List("Icon Theme", "Directories", ',') {
		if info, err := fs.Stat(tree, path.Join(at, strings.TrimSpace(dir))); err == nil && info.ModTime().After(cache.ModTime()) {
			return path.Join(folder, l.Cache)
		}
	}
	return ""
}

// Lost is a main file of a piece that was changed since a package put it there,
// and the package, by the package database's own sums (dpkg-query(1), FILES:
// NAME.md5sums); "" if there is none.
func Lost(d *desk.Desk, l desk.Lookup, folder string) (owner, file string) {
	if !strings.HasPrefix(folder, "/usr/") || strings.HasPrefix(folder, "/usr/local/") || l.Kind == "font" || l.Kind == "picture" {
		return "", ""
	}
	type lost struct{ owner, file string }
	out := desk.Once(d, "lost "+l.Kind+"\x00"+l.File+"\x00"+folder, func() lost {
		owner, file := changedSince(d, l, folder)
		return lost{owner, file}
	})
	return out.owner, out.file
}

func changedSince(d *desk.Desk, l desk.Lookup, folder string) (owner, file string) {
	owner = Owner(d, folder)
	if owner == "" {
		return "", ""
	}
	sums, err := fs.ReadFile(d.Tree(), "var/lib/dpkg/info/"+owner+".md5sums")
	if err != nil {
		return "", ""
	}
	for _, name := range mainFiles(l) {
		at := desk.Name(path.Join(folder, name))
		known := sumOf(sums, at)
		if known == "" {
			continue
		}
		b, err := fs.ReadFile(d.Tree(), at)
		if sum := md5.Sum(b); err == nil && known != hex.EncodeToString(sum[:]) {
			return owner, desk.Path(at)
		}
	}
	return "", ""
}

// sumOf is the sum of a file in a list of them, lines of "SUM  NAME"; "" if it is
// not in it.
func sumOf(sums []byte, name string) string {
	for from := 0; ; {
		i := bytes.Index(sums[from:], []byte("  "+name+"\n"))
		if i < 0 {
			return ""
		}
		line := bytes.LastIndexByte(sums[:from+i], '\n') + 1
		if sum := sums[line : from+i]; len(sum) == 32 {
			return string(sum)
		}
		from += i + 1
	}
}

// Owner is the package that owns the folder of a piece, "" if none does.
func Owner(d *desk.Desk, folder string) string {
	return desk.Once(d, "owners", func() map[string]string { return owners(d) })[folder]
}

// owned is what a package database says of the folders of pieces.
type owned struct {
	stamp string
	by    map[string]string // package, by folder
}

// ofSystem is the key of what a system says.
type ofSystem struct{ folder string }

// owners are the packages that own folders two to four below /usr/share, where
// pieces lie. They are looked up once for as long as the database stays the same.
func owners(d *desk.Desk) map[string]string {
	tree := d.Tree()
	info, err := fs.Stat(tree, "var/lib/dpkg/info")
	if err != nil {
		return nil
	}
	stamp := info.ModTime().String()
	return cache.Of(d.Cache, ofSystem{d.System}, func(o owned) bool { return o.stamp == stamp }, func() cache.Made[owned] {
		o := owned{stamp, ownedIn(tree)}
		return cache.Made[owned]{Value: o, Bytes: 150 * len(o.by)}
	}).by
}

// ownedIn reads the package database of a tree.
func ownedIn(tree fs.FS) map[string]string {
	out := map[string]string{}
	lists, _ := fs.Glob(tree, "var/lib/dpkg/info/*.list")
	for _, list := range lists {
		raw, err := fs.ReadFile(tree, list)
		if err != nil {
			continue
		}
		name := strings.TrimSuffix(path.Base(list), ".list")
		for line := range bytes.Lines(raw) {
			rest, ok := bytes.CutPrefix(line, []byte("/usr/share/"))
			if depth := bytes.Count(rest, []byte("/")); ok && depth >= 1 && depth <= 3 {
				out[string(bytes.TrimSpace(line))] = name
			}
		}
	}
	return out
}
