// Package mimeinfo reads the kinds of files that a desk knows and which icons programs ask for
// them, after the Shared MIME-info Database 0.22 of freedesktop.org.
package mimeinfo

import (
	"bufio"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"
)

// Database is what the folders of a desk say together.
type Database struct {
	icons    map[string]string // by kind
	generic  map[string]string
	patterns map[string][]string
	kinds    []string
}

// What is read of one file of a database: the real ones have a hundredth of it.
const (
	maxBytes = 8 << 20
	maxKinds = 100_000
)

// Read reads the databases in some folders, "usr/share/mime" and others: what an earlier one says
// of a kind counts before what later ones say, and patterns are those of all. A folder without a
// database has no kinds.
func Read(fsys fs.FS, dirs []string) *Database {
	d := &Database{icons: map[string]string{}, generic: map[string]string{}, patterns: map[string][]string{}}
	for _, dir := range dirs {
		for file, into := range map[string]map[string]string{"icons": d.icons, "generic-icons": d.generic} {
			lines(fsys, path.Join(dir, file), func(line string) {
				if kind, icon, ok := strings.Cut(line, ":"); ok && into[kind] == "" {
					into[kind] = icon
				}
			})
		}
		lines(fsys, path.Join(dir, "globs2"), func(line string) {
			f := strings.SplitN(line, ":", 4) // weight, kind, pattern, flags
			if len(f) < 3 || slices.Contains(d.patterns[f[1]], f[2]) {
				return
			}
			if len(d.patterns[f[1]]) == 0 && len(d.patterns) < maxKinds {
				d.kinds = append(d.kinds, f[1])
			}
			if f[2] != "__NOGLOBS__" {
				d.patterns[f[1]] = append(d.patterns[f[1]], f[2])
			}
		})
	}
	slices.Sort(d.kinds)
	return d
}

func lines(fsys fs.FS, name string, each func(line string)) {
	if fi, err := fs.Stat(fsys, name); err != nil || !fi.Mode().IsRegular() {
		return
	}
	f, err := fsys.Open(name)
	if err != nil {
		return
	}
	defer f.Close()
	in := bufio.NewScanner(io.LimitReader(f, maxBytes))
	for in.Scan() {
		if line := strings.TrimSpace(in.Text()); line != "" && line[0] != '#' {
			each(line)
		}
	}
}

// Kinds are those that files are known by, "text/plain", in order: each once, not by its aliases.
func (d *Database) Kinds() []string { return d.kinds }

// Patterns are how files of a kind are called, "*.txt".
func (d *Database) Patterns(kind string) []string { return d.patterns[kind] }

// Generic is the icon of the family that a kind is of (specification, section "Generic icons"):
// that which the database names, or else that of its first half. An alias of a kind has none of its
// own: programs do not follow it here.
func (d *Database) Generic(kind string) string {
	if icon := d.generic[kind]; icon != "" {
		return icon
	}
	media, _, _ := strings.Cut(kind, "/")
	return media + "-x-generic"
}

// Icons are the names that programs ask for, the best first and each once, as GLib's
// g_content_type_get_icon does, which ends with the same in one colour (GLib 2.74, gcontenttype.c, and checked against it).
func (d *Database) Icons(kind string) []string {
	var out []string
	if icon := d.icons[kind]; icon != "" {
		out = append(out, icon)
	}
	for _, name := range []string{strings.ReplaceAll(kind, "/", "-"), d.Generic(kind)} {
		if !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	for _, name := range out[:len(out):len(out)] {
		out = append(out, name+"-symbolic")
	}
	return out
}
