package gtkcss

import (
	"context"
	"io/fs"
	"path"
	"slices"
	"strings"
)

// Newest are the style sheets of the newest toolkit part of the theme in a folder, of its
// parts by their names: the usual one, and its dark form if it has one; else the sheets
// programs.css and programs-dark.css that it has for the programs of some other system. Either
// is nil if there is none, or it cannot be read.
func Newest(ctx context.Context, fsys fs.FS, root string, parts []string) (usual, dark *Sheet) {
	for _, toolkit := range []bool{true, false} {
		for _, part := range slices.Backward(slices.Sorted(slices.Values(parts))) {
			name := "gtk"
			if !toolkit {
				name = "programs"
			}
			if strings.HasPrefix(part, "gtk-") != toolkit {
				continue
			}
			usual, _ = Load(ctx, fsys, path.Join(root, part, name+".css"))
			dark, _ = Load(ctx, fsys, path.Join(root, part, name+"-dark.css"))
			if usual != nil || dark != nil {
				return usual, dark
			}
		}
	}
	return nil, nil
}
