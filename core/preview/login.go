package preview

import (
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"strings"

	"ivelt/core/keyfile"
	"ivelt/core/parcel"
)

var hexColour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

// loginTag draws a login theme: the largest picture that its description names,
// and on it a place to sign in, in the colours that it names for ink and panel.
func loginTag(b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	kf := loginDescription(fsys, pc.Root)
	if kf == nil {
		return false
	}
	ink, panel := "#ffffff", "#000000"
	var ground filling
	size := int64(0)
	for _, group := range kf.Groups() {
		for _, e := range kf.Entries(group) {
			switch key := strings.ToLower(e.Key); {
			case hexColour.MatchString(e.Value) && strings.Contains(key, "ink"):
				ink = e.Value
			case hexColour.MatchString(e.Value) && strings.Contains(key, "panel"):
				panel = e.Value
			case fs.ValidPath(e.Value):
				info, err := fs.Stat(fsys, path.Join(pc.Root, e.Value))
				if err != nil || info.IsDir() || info.Size() <= size || info.Size() > mostBackdrop {
					continue
				}
				raw, err := fs.ReadFile(fsys, path.Join(pc.Root, e.Value))
				if f := fitted(raw, tagWidth, tagHeight); err == nil && f.uri != "" {
					ground, size = f, info.Size()
				}
			}
		}
	}
	if size == 0 {
		return false
	}
	fmt.Fprintf(b, `<svg width="%d" height="%d">%s</svg>`, tagWidth, tagHeight, ground.image("", tagWidth, tagHeight))
	fmt.Fprintf(b, `<g transform="translate(%d 22)"><rect width="132" height="84" rx="6" fill="%s" fill-opacity="0.72"/><circle cx="66" cy="24" r="12" fill="none" stroke="%[3]s" stroke-width="1.500"/><circle cx="66" cy="21" r="4" fill="%[3]s"/><path d="M58 31a8 6 0 0 1 16 0" fill="%[3]s"/><rect x="16" y="50" width="100" height="20" rx="3" fill="none" stroke="%[3]s"/><g fill="%[3]s"><circle cx="28" cy="60" r="2"/><circle cx="36" cy="60" r="2"/><circle cx="44" cy="60" r="2"/></g></g>`, (tagWidth-132)/2, panel, ink)
	return true
}

// loginDescription is the first key file of a folder that has a group for a login
// screen.
func loginDescription(fsys fs.FS, root string) *keyfile.File {
	list, err := fs.ReadDir(fsys, root)
	if err != nil {
		return nil
	}
	for _, e := range list {
		if info, err := e.Info(); err != nil || !info.Mode().IsRegular() || info.Size() > 64<<10 {
			continue
		}
		raw, err := fs.ReadFile(fsys, path.Join(root, e.Name()))
		if err != nil {
			continue
		}
		if kf, err := keyfile.Parse(raw); err == nil && parcel.LoginGroup(kf) != "" {
			return kf
		}
	}
	return nil
}
