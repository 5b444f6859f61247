package pointerbench_test

import (
	"image"
	"image/color"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/layer"
	"ivelt/core/plan/plantest"
	"ivelt/core/pointerbench"
	"ivelt/core/pointerset"
	"ivelt/core/within"
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

func still(size, hotX, hotY int) xcursor.Frame {
	return xcursor.Frame{Size: size, Picture: triangle(size, color.White, color.Black), HotX: hotX, HotY: hotY}
}

// full is a set in which nothing is wrong.
func full() fstest.MapFS {
	out := fstest.MapFS{}
	middle := func(size int) xcursor.Frame {
		f := still(size, size/2, size/2)
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
			f = func(size int) xcursor.Frame { return still(size, 0, 0) }
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

func codes(r *pointerbench.Report) string {
	var out []string
	for _, f := range r.Findings {
		out = append(out, strings.TrimSpace(f.Code+" "+f.File))
	}
	return strings.Join(out, "; ")
}

// onDisk is a folder as a tree that layers are built in.
type onDisk struct {
	fs.FS
	dir string
}

func (d onDisk) Lstat(name string) (fs.FileInfo, error) { return fs.Lstat(d.FS, name) }

func (d onDisk) Resolve(name string) (string, error) {
	real, err := filepath.EvalSymlinks(filepath.Join(d.dir, name))
	if err != nil {
		return "", err
	}
	return filepath.Rel(d.dir, real)
}

func (d onDisk) ReadLink(name string) (string, error) { return fs.ReadLink(d.FS, name) }

// moving is a pointer whose last picture may be drawn over.
func moving(delay int, last color.Color, sizes ...int) []byte {
	var all []xcursor.Frame
	for i, size := range sizes {
		for k := range 6 - i {
			f := still(size, 0, 0)
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
		f := still(24, 0, 0)
		for y := range 2 * k {
			f.Picture.(*image.RGBA).Set(23, y, color.Black)
			f.Picture.(*image.RGBA).Set(22, y, color.Black)
		}
		f.Delay = 50
		all = append(all, f)
	}
	return xcursor.Encode(all)
}

type fault struct {
	name  string
	spoil func(m fstest.MapFS)
	asked []int
	want  string
}

var faults = []fault{
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
		m["cursors/default"] = &fstest.MapFile{Data: xcursor.Encode([]xcursor.Frame{still(24, 12, 12), still(48, 24, 24)})}
	}, nil, "hot-far default"},
	{"the hot spot elsewhere in one size", func(m fstest.MapFS) {
		m["cursors/text"] = &fstest.MapFile{Data: xcursor.Encode([]xcursor.Frame{still(24, 2, 2), still(48, 24, 24)})}
	}, nil, "hot-moves text"},
	{"the hot spot beside the picture", func(m fstest.MapFS) {
		m["cursors/text"] = &fstest.MapFile{Data: xcursor.Encode([]xcursor.Frame{still(48, 48, 24)})}
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
		f := still(24, 0, 0)
		f.Picture = triangle(24, color.Gray{150}, color.Gray{110})
		m["cursors/default"] = &fstest.MapFile{Data: xcursor.Encode([]xcursor.Frame{f})}
	}, nil, "hard-to-find"},
}

// TestEachFault: a set in which nothing is wrong, and what is said of each fault.
func TestEachFault(t *testing.T) {
	for _, c := range faults {
		t.Run(c.name, func(t *testing.T) {
			m := full()
			c.spoil(m)
			r, err := pointerbench.Measure(t.Context(), m, ".", pointerbench.Options{Asked: c.asked})
			require.NoError(t, err)
			require.Equal(t, c.want, codes(r))
		})
	}
	for _, c := range faults { // what can be mended is
		t.Run("mended: "+c.name, func(t *testing.T) {
			m := full()
			c.spoil(m)
			code, _, _ := strings.Cut(c.want, " ")
			if !slices.Contains(pointerbench.Mends, code) {
				r, err := pointerbench.Measure(t.Context(), m, ".", pointerbench.Options{Asked: c.asked})
				require.NoError(t, err)
				_, some := r.Mend("Salt", "Salt")
				require.False(t, some)
				return
			}
			dir := t.TempDir()
			for name, f := range m {
				at := filepath.Join(dir, "Salt", name)
				require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
				if f.Mode&fs.ModeSymlink != 0 {
					require.NoError(t, os.Symlink(string(f.Data), at))
				} else {
					require.NoError(t, os.WriteFile(at, f.Data, 0o644))
				}
			}
			tree := onDisk{os.DirFS(dir), dir}
			before, err := pointerbench.Measure(t.Context(), tree, "Salt", pointerbench.Options{Asked: c.asked})
			require.NoError(t, err)
			recipe, some := before.Mend("Salt", "Salt")
			require.True(t, some)
			piece, _, err := layer.Build(t.Context(), tree, "Salt", recipe, nil)
			require.NoError(t, err)
			for _, e := range piece {
				at := filepath.Join(dir, recipe.Folder, e.Name)
				switch {
				case e.Mode.IsDir():
					require.NoError(t, os.MkdirAll(at, 0o755))
				case e.Link != "":
					require.NoError(t, os.Symlink(e.Link, at))
				case e.From != "":
					b, err := fs.ReadFile(tree, e.From)
					require.NoError(t, err)
					require.NoError(t, os.WriteFile(at, b, 0o644))
				default:
					require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
					require.NoError(t, os.WriteFile(at, e.Text, 0o644))
				}
			}
			chain := pointerbench.Chain(tree, recipe.Folder, []string{"."})
			require.Equal(t, []string{"Salt"}, chain)
			after, err := pointerbench.Measure(t.Context(), tree, recipe.Folder, pointerbench.Options{Asked: c.asked, Inherited: chain})
			require.NoError(t, err)
			require.Empty(t, codes(after), "%s", recipe.Bytes())
		})
	}
	r, err := pointerbench.Measure(t.Context(), full(), ".", pointerbench.Options{})
	require.NoError(t, err)
	require.Equal(t, 77, r.FontAll)
	require.Equal(t, []int{24, 48}, r.Sizes)
	require.InDelta(t, 21, r.Contrast, 0.1)
	_, err = pointerbench.Measure(t.Context(), fstest.MapFS{"cursors/x": {Data: []byte("no")}}, ".", pointerbench.Options{})
	require.ErrorIs(t, err, pointerbench.ErrNone)
}

// TestHugeSets: what is measured is bounded, whatever a set says of itself.
func TestHugeSets(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(dir, "cursors"), 0o755))
	many := make([]xcursor.Frame, 3000)
	for i := range many {
		many[i] = xcursor.Frame{Size: 24, Picture: image.NewRGBA(image.Rect(0, 0, 24, 24)), Delay: 1}
	}
	at := func(name string) string { return filepath.Join(dir, "cursors", name) }
	require.NoError(t, os.WriteFile(at("x"), xcursor.Encode(many), 0o644))
	for _, r := range pointerset.Roles {
		require.NoError(t, os.Link(at("x"), at(r.Name)))
		require.NoError(t, os.Symlink(r.Name+"-b", at(r.Name+"-a")))
		require.NoError(t, os.Symlink(r.Name+"-a", at(r.Name+"-b")))
	}
	require.NoError(t, syscall.Mkfifo(at("pipe"), 0o644))
	within.Reason(t, 1<<20, func() {
		r, err := pointerbench.Measure(t.Context(), os.DirFS(dir), ".", pointerbench.Options{Asked: []int{24, 1 << 30}})
		require.NoError(t, err)
		require.Contains(t, codes(r), "long-turn")
		require.Contains(t, codes(r), "links-broken")
	})
}

// TestSizesAreThoseOfTheScreen: a surface whose pixels are two of the screen's asks for twice its size.
func TestSizesAreThoseOfTheScreen(t *testing.T) {
	b := plantest.New(t)
	b.Write(plantest.GTK3, "[Settings]\ngtk-cursor-theme-size=32\n", 0o644)
	require.Equal(t, []int{24, 32}, pointerbench.SizesIn(b.D))
	b.D.Env = map[string]string{"GDK_SCALE": "2"}
	require.Equal(t, []int{24, 48, 64}, pointerbench.SizesIn(b.D))
}
