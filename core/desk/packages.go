package desk

import (
	"bufio"
	"io/fs"
	"path"
	"strings"
)

// packageLists is where the package database keeps, as plain text, which files
// each package owns: one NAME.list a package (dpkg-query(1), section FILES).
const packageLists = "var/lib/dpkg/info"

// Owner returns the package that owns a path of the desk, or "". What a package
// owns is overwritten by its next update.
func (d *Desk) Owner(p string) string {
	tree := d.Tree()
	lists, err := fs.Glob(tree, packageLists+"/*.list")
	if err != nil {
		return ""
	}
	for _, list := range lists {
		f, err := tree.Open(list)
		if err != nil {
			continue
		}
		in := bufio.NewScanner(f)
		for in.Scan() {
			if in.Text() == p {
				f.Close()
				name, _, _ := strings.Cut(strings.TrimSuffix(path.Base(list), ".list"), ":")
				return name
			}
		}
		f.Close()
	}
	return ""
}
