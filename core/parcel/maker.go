package parcel

import (
	"bufio"
	"bytes"
	"io/fs"
	"path"
	"strings"
	"unicode/utf8"
)

// The longest list of authors that is read, in bytes, and the longest name taken from it.
const (
	maxAuthors = 64 << 10
	maxMaker   = 80
)

// Maker is who made a piece in a folder, by its list of authors: the first line of AUTHORS
// that names somebody, without the address behind the name. "" if there is no such file. That
// the file is called so: the Automake manual, Strictness (from memory); what its lines look
// like: common practice, no source.
func Maker(fsys fs.FS, folder string) string {
	for _, name := range []string{"AUTHORS", "AUTHORS.md", "AUTHORS.txt"} {
		at := path.Join(folder, name)
		if fi, err := fs.Stat(fsys, at); err != nil || !fi.Mode().IsRegular() || fi.Size() > maxAuthors {
			continue
		}
		b, err := fs.ReadFile(fsys, at)
		if err != nil || !utf8.Valid(b) {
			continue
		}
		for lines := bufio.NewScanner(bytes.NewReader(b)); lines.Scan(); {
			line := strings.TrimSpace(lines.Text())
			if line == "" || strings.HasPrefix(line, "#") || strings.HasSuffix(line, ":") || strings.Trim(line, "=-*_ ") == "" || strings.EqualFold(line, "authors") {
				continue
			}
			line, _, _ = strings.Cut(strings.TrimLeft(line, "-*• \t"), "<")
			line, _, _ = strings.Cut(line, "(")
			if line = strings.Trim(line, " \t,;"); line != "" && len(line) <= maxMaker {
				return line
			}
			break // a page of text, and no list
		}
	}
	return ""
}
