package demo

import (
	"bytes"
	"fmt"
	"maps"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"ivelt/core/icontheme"
)

// files is a small tree: names to contents; a content that starts with linkTo
// is a link.
type files map[string][]byte

const linkTo = "\x00link:"

func (f files) link(name, to string) { f[name] = []byte(linkTo + to) }

func (f files) under(dir string) files {
	out := files{}
	for name, b := range f {
		out[path.Join(dir, name)] = b
	}
	return out
}

// only keeps the files at the top and those whose names start so.
func (f files) only(starts ...string) files {
	out := files{}
	for name, b := range f {
		if slices.ContainsFunc(starts, func(start string) bool { return strings.HasPrefix(name, start) }) || !strings.Contains(name, "/") {
			out[name] = b
		}
	}
	return out
}

func (f files) add(more files) files {
	for name, b := range more {
		f[name] = b
	}
	return f
}

func (f files) names() []string {
	out := make([]string, 0, len(f))
	for name := range f {
		out = append(out, name)
	}
	slices.Sort(out)
	return out
}

// pack is an icon pack to be made.
type pack struct {
	folder, name, comment string
	inherits              []string
	style                 style
	folderTone            string
	sizes                 []sizes
	byContext             bool // apps/48 instead of 48x48/apps
	only                  func(icon) bool
	links                 map[string]string // further names, as links to the first
	noIndex               bool
	once                  *drawn // nil draws it anew
}

// sizes is one row of directories, one directory a context.
type sizes struct {
	size, scale, min, max int
	typ                   icontheme.Type
	symbolic              bool
}

func fixed(px ...int) []sizes {
	var out []sizes
	for _, n := range px {
		out = append(out, sizes{size: n, scale: 1, typ: icontheme.Fixed})
	}
	return out
}

func threshold(px ...int) []sizes {
	var out []sizes
	for _, n := range px {
		out = append(out, sizes{size: n, scale: 1, typ: icontheme.Threshold})
	}
	return out
}

var (
	vector   = sizes{size: 64, scale: 1, min: 16, max: 512, typ: icontheme.Scalable}
	symbols  = sizes{size: 16, scale: 1, min: 8, max: 512, typ: icontheme.Scalable, symbolic: true}
	standard = map[string]string{ // older names that programs still ask for
		"inode-directory": "folder", "text-plain": "text-x-generic", "application-zip": "application-x-archive",
		"image-png": "image-x-generic", "audio-mpeg": "audio-x-generic", "video-mp4": "video-x-generic",
		"folder-home": "user-home", "user-trash-empty": "user-trash", "help-faq": "help-contents", "gtk-quit": "application-exit",
	}
)

func (s sizes) dir(context string, byContext bool) string {
	size := fmt.Sprintf("%dx%d", s.size, s.size)
	switch {
	case s.symbolic:
		size = "symbolic"
	case s.typ == icontheme.Scalable:
		size = "scalable"
	case byContext:
		size = fmt.Sprint(s.size)
	}
	if s.scale > 1 {
		size += fmt.Sprintf("@%d", s.scale)
	}
	if byContext {
		return context + "/" + size
	}
	return size + "/" + context
}

var contexts = map[string]string{
	"apps": "Applications", "categories": "Categories", "places": "Places", "devices": "Devices", "mimetypes": "MimeTypes",
	"status": "Status", "actions": "Actions", "emblems": "Emblems", "emotes": "Emotes",
}

// make draws the whole pack as the contents of its folder.
func (p pack) make() (files, error) {
	if p.once == nil {
		return p.draw()
	}
	p.once.Do(func() { p.once.files, p.once.err = p.draw() })
	return maps.Clone(p.once.files), p.once.err
}

// drawn is a pack that several desks have, drawn once.
type drawn struct {
	sync.Once
	files files
	err   error
}

var foreshoreDrawn drawn

func (p pack) draw() (files, error) {
	out, mu := files{}, sync.Mutex{}
	put := func(name string, b []byte) {
		mu.Lock()
		defer mu.Unlock()
		out[name] = b
	}
	used := map[string]bool{}
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for _, ic := range icons {
		if p.only != nil && !p.only(ic) {
			continue
		}
		used[ic.context] = true
		for _, s := range p.sizes {
			base := s.dir(ic.context, p.byContext) + "/" + ic.name
			switch {
			case s.symbolic:
				put(base+"-symbolic.svg", symbolic(ic))
			case s.typ == icontheme.Scalable:
				put(base+".svg", p.style.svg(ic, 0, p.folderTone))
			default:
				g.Go(func() error {
					b, err := raster(p.style.svg(ic, s.size, p.folderTone), s.size*s.scale)
					put(base+".png", b)
					return err
				})
			}
		}
		for from, to := range p.links {
			if to != ic.name {
				continue
			}
			for _, s := range p.sizes {
				dir, ext := s.dir(ic.context, p.byContext), ".png"
				if s.typ == icontheme.Scalable {
					ext = ".svg"
				}
				if !s.symbolic {
					mu.Lock()
					out.link(dir+"/"+from+ext, to+ext)
					mu.Unlock()
				}
			}
		}
	}
	if err := g.Wait(); err != nil {
		return nil, err
	}
	if !p.noIndex {
		out["index.theme"] = p.index(used)
	}
	return out, nil
}

func (p pack) index(used map[string]bool) []byte {
	var dirs, scaled []string
	var sections strings.Builder
	ordered := make([]string, 0, len(used))
	for c := range used {
		ordered = append(ordered, c)
	}
	slices.Sort(ordered)
	for _, s := range p.sizes {
		for _, c := range ordered {
			dir := s.dir(c, p.byContext)
			if s.scale > 1 {
				scaled = append(scaled, dir)
			} else {
				dirs = append(dirs, dir)
			}
			fmt.Fprintf(&sections, "\n[%s]\nSize=%d\nContext=%s\nType=%s\n", dir, s.size, contexts[c], s.typ)
			if s.scale > 1 {
				fmt.Fprintf(&sections, "Scale=%d\n", s.scale)
			}
			if s.typ == icontheme.Scalable {
				fmt.Fprintf(&sections, "MinSize=%d\nMaxSize=%d\n", s.min, s.max)
			}
		}
	}
	var b bytes.Buffer
	fmt.Fprintf(&b, "[Icon Theme]\nName=%s\nComment=%s\nX-License=%s\n", p.name, p.comment, licenceOf(p.name))
	if len(p.inherits) > 0 {
		fmt.Fprintf(&b, "Inherits=%s\n", strings.Join(p.inherits, ","))
	}
	fmt.Fprintf(&b, "Example=folder\nDirectories=%s\n", strings.Join(dirs, ","))
	if len(scaled) > 0 {
		fmt.Fprintf(&b, "ScaledDirectories=%s\n", strings.Join(scaled, ","))
	}
	b.WriteString(sections.String())
	return b.Bytes()
}

func inContexts(list ...string) func(icon) bool {
	return func(ic icon) bool { return slices.Contains(list, ic.context) }
}

func onlyFolders(ic icon) bool { return ic.tone == "folder" }

func shinglePack() pack {
	return pack{
		folder: "Shingle", name: "Shingle", comment: "Pebbles and tide lines", inherits: []string{"hicolor"}, style: shingle, folderTone: "sky",
		sizes: append(fixed(16, 24, 32, 48, 64), sizes{size: 24, scale: 2, typ: icontheme.Fixed}, vector, symbols), links: standard,
	}
}

func shingleColour(colour, folderTone string) pack {
	p := shinglePack()
	p.folder, p.name = "Shingle-"+colour, "Shingle "+strings.ToLower(colour)
	p.comment, p.inherits = "Shingle with "+strings.ToLower(colour)+" folders", []string{"Shingle", "hicolor"}
	p.folderTone, p.only, p.links = folderTone, onlyFolders, nil
	return p
}

func wrackPack() pack {
	return pack{
		folder: "Wrack", name: "Wrack", comment: "Dark weed, bright water", inherits: []string{"Shingle", "hicolor"}, style: wrack, folderTone: "sky",
		sizes: append(threshold(16, 22, 32, 48), sizes{size: 48, scale: 2, typ: icontheme.Threshold}, vector), byContext: true,
		only: inContexts("apps", "categories", "places", "devices"),
	}
}

func glasswortPack() pack {
	return pack{
		folder: "Glasswort", name: "Glasswort", comment: "Everything in one red", inherits: []string{"hicolor"}, style: glasswort, folderTone: "sky",
		sizes: []sizes{vector, symbols}, links: standard,
	}
}

func foreshorePack() pack {
	return pack{
		once: &foreshoreDrawn, folder: "Foreshore", name: "Foreshore", comment: "Paper tickets", inherits: []string{"hicolor"}, style: foreshore, folderTone: "sand",
		sizes: append(fixed(16, 24, 48), vector, symbols), links: standard,
	}
}

func marramPack() pack {
	return pack{
		folder: "Marram", name: "Marram", comment: "Dune grass", inherits: []string{"Foreshore", "hicolor"}, style: marram, folderTone: "sky",
		sizes: append(fixed(24, 48), vector), only: inContexts("apps", "categories", "places", "mimetypes", "devices", "status"),
	}
}

func cocklePack() pack {
	return pack{
		folder: "Cockle", name: "Cockle", comment: "Ribbed shells in pinks and greys", inherits: []string{"hicolor"}, style: cockle, folderTone: "heather",
		sizes: append(fixed(32, 48), vector), only: inContexts("apps", "categories", "places", "mimetypes", "devices", "status", "actions"),
	}
}

// WritePacks draws the packs of those folder names into dir, as they are once
// installed.
func WritePacks(dir string, names ...string) error {
	all := []pack{
		shinglePack(), shingleColour("Heather", "heather"), shingleColour("Coral", "coral"), wrackPack(),
		glasswortPack(), foreshorePack(), marramPack(), cocklePack(),
	}
	for _, p := range all {
		if !slices.Contains(names, p.folder) {
			continue
		}
		f, err := p.make()
		if err != nil {
			return err
		}
		for name, b := range f {
			if err := put(filepath.Join(dir, p.folder, name), b); err != nil {
				return err
			}
		}
	}
	return nil
}
