// Package pointertest has pointer sets for tests: one in which nothing is wrong, and every fault.
package pointertest

import (
	"image"
	"image/color"
	"io/fs"
	"slices"
	"strings"
	"testing/fstest"

	"ivelt/core/pointerset"
	"ivelt/core/xcursor"
)

// triangle is an arrow of a size that points to the upper left: inside one colour, outline another.
func triangle(size int, inside, outline color.Color) *image.RGBA {
	p := image.NewRGBA(image.Rect(0, 0, size, size))
	for y := range size {
		for x := range size - y {
			c := inside
			if x < 2 || y < 2 || x+y > size-4 {
				c = outline
			}
			p.Set(x, y, c)
		}
	}
	return p
}

// Still is one picture of an arrow, with its hot spot.
func Still(size, hotX, hotY int) xcursor.Frame {
	return xcursor.Frame{Size: size, Picture: triangle(size, color.White, color.Black), HotX: hotX, HotY: hotY}
}

// Full is a set in which nothing is wrong.
func Full() fstest.MapFS {
	out := fstest.MapFS{}
	middle := func(size int) xcursor.Frame {
		f := Still(size, size/2, size/2)
		p := image.NewRGBA(image.Rect(0, 0, size, size))
		for y := range size {
			for x := range size {
				if x == 0 || y == 0 || x == size-1 || y == size-1 {
					p.Set(x, y, color.Black)
				} else if (x+y)%2 == 0 {
					p.Set(x, y, color.White)
				}
			}
		}
		f.Picture = p
		return f
	}
	for i, r := range pointerset.Roles {
		if len(r.Names) == 0 {
			continue
		}
		f := func(size int) xcursor.Frame { return middle(size) }
		switch r.Name {
		case "default", "help", "progress", "context-menu", "alias", "copy", "pointer", "up-arrow":
			f = func(size int) xcursor.Frame { return Still(size, 0, 0) }
		}
		a, b := f(24), f(48)
		a.Picture.(*image.RGBA).SetRGBA(10, 10, color.RGBA{uint8(i), 0, 0, 255}) // each a picture of its own
		out["cursors/"+r.Names[0]] = &fstest.MapFile{Data: xcursor.Encode([]xcursor.Frame{a, b})}
		for _, n := range r.Names[1:] {
			out["cursors/"+n] = &fstest.MapFile{Data: []byte(r.Names[0]), Mode: fs.ModeSymlink | 0o777}
		}
	}
	return out
}

// moving is a pointer whose last picture may be drawn over.
func moving(delay int, last color.Color, sizes ...int) []byte {
	var all []xcursor.Frame
	for i, size := range sizes {
		for k := range 6 - i {
			f := Still(size, 0, 0)
			p := f.Picture.(*image.RGBA)
			p.Set(size-2, size-2-k, color.Black)
			if k == 5 {
				for at := range size {
					p.Set(size-1, at, last)
					p.Set(size-2, at, last)
				}
			}
			f.Delay = delay
			all = append(all, f)
		}
	}
	return xcursor.Encode(all)
}

// growing is a bar that grows and begins anew.
func growing() []byte {
	var all []xcursor.Frame
	for k := range 12 {
		f := Still(24, 0, 0)
		for y := range 2 * k {
			f.Picture.(*image.RGBA).Set(23, y, color.Black)
			f.Picture.(*image.RGBA).Set(22, y, color.Black)
		}
		f.Delay = 50
		all = append(all, f)
	}
	return xcursor.Encode(all)
}

// Fault is a fault of a set.
type Fault struct {
	Name  string
	Spoil func(m fstest.MapFS)
	Asked []int  // sizes, px
	Want  string // the code of the finding and its file; "" for none
}

// Faults are all, with what is said of each.
var Faults = []Fault{
	{"nothing", func(fstest.MapFS) {}, []int{24, 48}, ""},
	{"a role and its names are missing", func(m fstest.MapFS) {
		for n := range m {
			if strings.HasSuffix(n, "/move") || strings.HasSuffix(n, "/fleur") || strings.HasSuffix(n, "/size_all") || strings.HasSuffix(n, "/dnd-move") {
				delete(m, n)
			}
		}
	}, nil, "roles-missing"},
	{"an older name is missing", func(m fstest.MapFS) { delete(m, "cursors/xterm") }, nil, ""}, // all ask by others first
	{"the name of CSS is missing", func(m fstest.MapFS) {
		m["cursors/watch"] = m["cursors/wait"]
		delete(m, "cursors/wait")
	}, nil, "css-name-lacks watch"},
	{"all that one toolkit asks by is missing", func(m fstest.MapFS) {
		m["cursors/fleur"] = m["cursors/move"]
		for _, n := range []string{"move", "dnd-move", "size_all"} {
			delete(m, "cursors/"+n)
		}
	}, nil, "names-lack fleur"},
	{"what few programs ask for", func(m fstest.MapFS) { delete(m, "cursors/zoom-in") }, nil, "roles-asked-seldom"},
	{"a link to nothing", func(m fstest.MapFS) {
		m["cursors/pirate"] = &fstest.MapFile{Data: []byte("skull"), Mode: fs.ModeSymlink | 0o777}
	}, nil, "links-broken"},
	{"a link to nothing, of what no role is", func(m fstest.MapFS) {
		m["cursors/trek"] = &fstest.MapFile{Data: []byte("skull"), Mode: fs.ModeSymlink | 0o777}
	}, nil, "links-broken"},
	{"a picture twice", func(m fstest.MapFS) { m["cursors/zoom-out"] = m["cursors/zoom-in"] }, nil, "drawn-twice zoom-out"},
	{"cut off", func(m fstest.MapFS) {
		m["cursors/text"] = &fstest.MapFile{Data: m["cursors/text"].Data[:300]}
	}, nil, "damaged text"},
	{"a text in the place of a picture", func(m fstest.MapFS) {
		m["cursors/wait"] = &fstest.MapFile{Data: []byte("soon")}
		m["cursors/README"] = &fstest.MapFile{Data: []byte("not asked for")}
	}, nil, "damaged wait"},
	{"an old name that cannot be read", func(m fstest.MapFS) { m["cursors/gumby"] = &fstest.MapFile{Data: []byte("Xcur")} }, nil, "damaged gumby"},
	{"the hot spot at the arrow's end", func(m fstest.MapFS) {
		m["cursors/default"] = &fstest.MapFile{Data: xcursor.Encode([]xcursor.Frame{Still(24, 12, 12), Still(48, 24, 24)})}
	}, nil, "hot-far default"},
	{"the hot spot elsewhere in one size", func(m fstest.MapFS) {
		m["cursors/text"] = &fstest.MapFile{Data: xcursor.Encode([]xcursor.Frame{Still(24, 2, 2), Still(48, 24, 24)})}
	}, nil, "hot-moves text"},
	{"the hot spot beside the picture", func(m fstest.MapFS) {
		m["cursors/text"] = &fstest.MapFile{Data: xcursor.Encode([]xcursor.Frame{Still(48, 48, 24)})}
	}, nil, "hot-outside text"},
	{"no pause", func(m fstest.MapFS) {
		m["cursors/wait"] = &fstest.MapFile{Data: moving(0, color.Transparent, 24)}
		m["cursors/progress"] = &fstest.MapFile{Data: moving(70, color.RGBA{A: 9}, 24)}
	}, nil, "no-delay wait"},
	{"a long turn", func(m fstest.MapFS) { m["cursors/wait"] = &fstest.MapFile{Data: moving(3000, color.Transparent, 24)} }, nil, "long-turn wait"},
	{"a turn of too many pictures", func(m fstest.MapFS) {
		m["cursors/wait"] = &fstest.MapFile{Data: xcursor.Encode(slices.Repeat([]xcursor.Frame{{Size: 24, Picture: triangle(24, color.White, color.Black), Delay: 20}}, 300))}
	}, nil, "long-turn wait"},
	{"a jump of the last picture alone", func(m fstest.MapFS) { m["cursors/wait"] = &fstest.MapFile{Data: moving(50, color.Black, 24)} }, nil, "jumps wait"},
	{"a jump back to where it began", func(m fstest.MapFS) { m["cursors/wait"] = &fstest.MapFile{Data: growing()} }, nil, "jumps wait"},
	{"sizes that move unlike", func(m fstest.MapFS) { m["cursors/wait"] = &fstest.MapFile{Data: moving(50, color.Transparent, 24, 32)} }, nil, "frames-differ wait"},
	{"one size stands still", func(m fstest.MapFS) {
		m["cursors/wait"] = &fstest.MapFile{Data: moving(50, color.Transparent, 24, 32, 36, 40, 48, 64)}
	}, nil, "frames-differ wait"},
	{"a size in use that is not there", func(fstest.MapFS) {}, []int{24, 96}, "size-missing"},
	{"grey on grey", func(m fstest.MapFS) {
		f := Still(24, 0, 0)
		f.Picture = triangle(24, color.Gray{150}, color.Gray{110})
		m["cursors/default"] = &fstest.MapFile{Data: xcursor.Encode([]xcursor.Frame{f})}
	}, nil, "hard-to-find"},
}

// Files are what lies in a set as files and links, by name.
func Files(m fstest.MapFS) (files map[string][]byte, links map[string]string) {
	files, links = map[string][]byte{}, map[string]string{}
	for name, f := range m {
		if f.Mode&fs.ModeSymlink != 0 {
			links[name] = string(f.Data)
		} else {
			files[name] = f.Data
		}
	}
	return files, links
}
