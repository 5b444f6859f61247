package preview

import (
	"bytes"
	"encoding/base64"
	"io/fs"
	"path"
)

// mostIcon bounds what is embedded of one icon, in bytes.
const mostIcon = 512 << 10

// MediaType returns the media type of a picture by its first bytes, or "" if
// it is none that a browser shows.
func MediaType(b []byte) string {
	switch {
	case bytes.HasPrefix(b, []byte("\x89PNG\r\n\x1a\n")):
		return "image/png"
	case bytes.HasPrefix(b, []byte{0xff, 0xd8, 0xff}):
		return "image/jpeg"
	}
	head := bytes.TrimLeft(b[:min(len(b), 4096)], "\xef\xbb\xbf \t\r\n")
	if bytes.HasPrefix(head, []byte("<")) && bytes.Contains(head, []byte("<svg")) {
		return "image/svg+xml"
	}
	return ""
}

// DataURI returns a picture file as a data: address.
func DataURI(fsys fs.FS, name string) (string, bool) {
	if path.Ext(name) == ".xpm" {
		return "", false
	}
	b, err := fs.ReadFile(fsys, name)
	if err != nil || len(b) > mostIcon {
		return "", false
	}
	t := MediaType(b)
	if t == "" {
		return "", false
	}
	return "data:" + t + ";base64," + base64.StdEncoding.EncodeToString(b), true
}
