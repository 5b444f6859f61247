package gtkcss

import (
	"context"
	"io/fs"
	"path"
	"slices"
	"strings"
)

// Newest are the style sheets of the newest toolkit part of the theme in a folder, of its
// parts by their names: the usual one, and its dark form if it has one. Either is nil if
// there is none, or it cannot be read.
func Newest(ctx context.Context, fsys fs.FS, root string, parts []string) (usual, dark *Sheet) {
	for _, part := range slices.Backward(slices.Sorted(slices.Values(parts))) {
		if !strings.HasPrefix(part, "gtk-") {
			continue
		}
		usual, _ = Load(ctx, fsys, path.Join(root, part, "gtk.css"))
		dark, _ = Load(ctx, fsys, path.Join(root, part, "gtk-dark.css"))
		if usual != nil || dark != nil {
			break
		}
	}
	return usual, dark
}
