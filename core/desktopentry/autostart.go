package desktopentry

import (
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/keyfile"
)

// Start is a program that is started when a person signs in.
type Start struct {
	Path string   // of the entry, as io/fs wants it
	Line int      // of its Exec, 1-based
	Args []string // the command and its arguments
}

// Autostart lists what is started at sign-in, by file name: an entry in an
// earlier folder takes the place of one of that name in later ones, a hidden one
// too; OnlyShowIn and NotShowIn name desktops (Desktop Application Autostart
// Specification 0.5).
func Autostart(fsys fs.FS, dirs, desktops []string) []Start {
	var out []Start
	seen := map[string]bool{}
	for _, dir := range dirs {
		entries, err := fs.ReadDir(fsys, dir)
		if err != nil {
			continue
		}
		for _, e := range entries {
			if path.Ext(e.Name()) != ".desktop" || seen[e.Name()] {
				continue
			}
			seen[e.Name()] = true
			b, err := fs.ReadFile(fsys, path.Join(dir, e.Name()))
			if err != nil {
				continue
			}
			kf, err := keyfile.Parse(b)
			if err != nil || kf.Get(group, "Hidden") == "true" || kf.Get(group, "Type") != "Application" {
				continue
			}
			in := func(key string) bool {
				return slices.ContainsFunc(kf.List(group, key, ';'), func(name string) bool { return slices.Contains(desktops, name) })
			}
			if _, only := kf.Lookup(group, "OnlyShowIn"); only && !in("OnlyShowIn") || in("NotShowIn") {
				continue
			}
			exec, ok := kf.Lookup(group, "Exec")
			if args := Args(keyfile.Unescape(exec.Value)); ok && len(args) > 0 {
				out = append(out, Start{path.Join(dir, e.Name()), exec.Line, args})
			}
		}
	}
	slices.SortFunc(out, func(a, b Start) int { return strings.Compare(path.Base(a.Path), path.Base(b.Path)) })
	return out
}

// Args takes an Exec apart: arguments are parted by blanks, or stand whole in
// double quotes, in which a backslash takes the next sign as it is; field codes
// are left out (Desktop Entry Specification 1.5, "The Exec key").
func Args(exec string) []string {
	var out []string
	var now strings.Builder
	quoted, has := false, false
	flush := func() {
		if has {
			out = append(out, now.String())
		}
		now.Reset()
		has = false
	}
	for i := 0; i < len(exec); i++ {
		switch c := exec[i]; {
		case c == '"':
			quoted, has = !quoted, true
		case quoted && c == '\\' && i+1 < len(exec):
			i++
			now.WriteByte(exec[i])
		case !quoted && (c == ' ' || c == '\t' || c == '\n'):
			flush()
		case c == '%' && i+1 < len(exec):
			if i++; exec[i] == '%' {
				now.WriteByte('%')
				has = true
			}
		default:
			now.WriteByte(c)
			has = true
		}
	}
	flush()
	return out
}
