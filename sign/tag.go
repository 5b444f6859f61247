package sign

import (
	"context"
	_ "embed"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/icontheme"
	"ivelt/core/paint"
)

// TagIcons are the names shown of an icon pack, in this order; those the pack
// itself has come first, so that a small pack shows what it is about.
var TagIcons = []string{
	"folder", "system-file-manager", "internet-mail", "utilities-terminal", "folder-pictures", "graphics-painting",
	"user-home", "office-calendar", "multimedia-music", "folder-music", "user-trash", "preferences-desktop",
	"utilities-weather", "folder-download", "web-browser", "computer", "text-x-generic", "image-x-generic",
	"dialog-information", "printer", "audio-x-generic", "accessories-text-editor", "folder-documents", "folder-videos",
}

// Tag draws icons of the first theme of an index on a grid, each at size px. Once ctx has
// ended no more of them are.
func Tag(ctx context.Context, fsys fs.FS, x *icontheme.Index, columns, rows, cell, size int) []byte {
	own := map[string]bool{}
	for _, name := range x.Names(1) {
		own[name] = true
	}
	var names []string
	for _, first := range []bool{true, false} {
		for _, name := range TagIcons {
			if own[name] == first {
				names = append(names, name)
			}
		}
	}
	for _, name := range x.Sample(columns * rows) { // of a pack that has few of those, or names them otherwise
		if !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d">`, columns*cell, rows*cell, columns*cell, rows*cell)
	n := 0
	for _, name := range names {
		if n == columns*rows || ctx.Err() != nil {
			break
		}
		icon, ok := x.Lookup(name, size, 1)
		if !ok {
			continue
		}
		uri, ok := paint.DataURI(fsys, icon.Path)
		if !ok {
			continue
		}
		at := func(i int) int { return i*cell + (cell-size)/2 }
		fmt.Fprintf(&b, `<image x="%d" y="%d" width="%d" height="%d" href="%s"><title>%s</title></image>`, at(n%columns), at(n/columns), size, size, uri, paint.Escape(name+" · "+icon.Theme))
		n++
	}
	b.WriteString("</svg>")
	return []byte(b.String())
}
