package sign

import (
	"context"
	_ "embed"
	"fmt"
	"io/fs"
	"path"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/parcel"
	"ivelt/core/preview"
)

// loginTag draws a login theme: the largest picture that its description names,
// and on it a place to sign in, in the colours that it names for ink and panel.
func loginTag(ctx context.Context, b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	kf := preview.LoginDescription(fsys, pc.Root)
	if kf == nil {
		return false
	}
	ink, panel := "#ffffff", "#000000"
	var ground preview.Filling
	size := int64(0)
	for _, group := range kf.Groups() {
		for _, e := range kf.Entries(group) {
			switch key := strings.ToLower(e.Key); {
			case preview.HexColour.MatchString(e.Value) && strings.Contains(key, "ink"):
				ink = e.Value
			case preview.HexColour.MatchString(e.Value) && strings.Contains(key, "panel"):
				panel = e.Value
			case fs.ValidPath(e.Value):
				info, err := fs.Stat(fsys, path.Join(pc.Root, e.Value))
				if err != nil || info.IsDir() || info.Size() <= size || info.Size() > preview.MaxBackdrop {
					continue
				}
				raw, err := fs.ReadFile(fsys, path.Join(pc.Root, e.Value))
				if f := preview.Fitted(ctx, raw, TagWidth, TagHeight); err == nil && f.URI != "" {
					ground, size = f, info.Size()
				}
			}
		}
	}
	if size == 0 {
		return false
	}
	fmt.Fprintf(b, `<svg width="%d" height="%d">%s</svg>`, TagWidth, TagHeight, ground.Image("", TagWidth, TagHeight))
	fmt.Fprintf(b, `<g transform="translate(%d 22)"><rect width="132" height="84" rx="6" fill="%s" fill-opacity="0.72"/><circle cx="66" cy="24" r="12" fill="none" stroke="%[3]s" stroke-width="1.500"/><circle cx="66" cy="21" r="4" fill="%[3]s"/><path d="M58 31a8 6 0 0 1 16 0" fill="%[3]s"/><rect x="16" y="50" width="100" height="20" rx="3" fill="none" stroke="%[3]s"/><g fill="%[3]s"><circle cx="28" cy="60" r="2"/><circle cx="36" cy="60" r="2"/><circle cx="44" cy="60" r="2"/></g></g>`, (TagWidth-132)/2, panel, ink)
	return true
}
