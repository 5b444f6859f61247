package parcel

import (
	"bufio"
	"fmt"
	"image"
	_ "image/jpeg"
	_ "image/png"
	"io"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"

	_ "golang.org/x/image/webp"

	"ivelt/core/archive"
	"ivelt/core/fontfile"
	"ivelt/core/imagefile"
	"ivelt/core/keyfile"
	"ivelt/core/outfit"
	"ivelt/core/pointerset"
)

// fonts finds font families: all faces of one family, wherever they lie.
func (p *Parcel) fonts() ([]Piece, []Note) {
	type family struct {
		files  []string
		styles []string
		licence,
		sharing string
	}
	families := map[string]*family{}
	var notes []Note
	for _, name := range p.with([]string{".ttf", ".otf", ".ttc", ".otc"}, nil) {
		faces, err := p.faces(p.At(name))
		if err != nil {
			notes = append(notes, note("font-damaged", name, err))
			continue
		}
		for _, f := range faces {
			fam := families[f.Family()]
			if fam == nil {
				fam = &family{licence: f.Licence}
				families[f.Family()] = fam
			}
			if n := len(fam.files); n == 0 || fam.files[n-1] != name {
				fam.files = append(fam.files, name)
			}
			fam.styles = append(fam.styles, f.Style())
			if f.Sharing != "" {
				fam.sharing = f.Sharing
			}
		}
	}
	var out []Piece
	for _, name := range first(families) {
		fam := families[name]
		pc := p.piece(Font, commonFolder(fam.files))
		pc.Name, pc.Folder = name, strings.ReplaceAll(name, " ", "")
		pc.Only, pc.Styles = fam.files, fam.styles
		pc.Licence = p.named(fam.licence)
		if fam.sharing != "" {
			pc.Notes = append(pc.Notes, note("font-restricted"))
		}
		out = append(out, p.finish(pc))
	}
	return out, notes
}

// faces reads a font; of one in a folder only the tables that are needed.
func (p *Parcel) faces(n *archive.Node) ([]fontfile.Face, error) {
	r, err := p.reader(n)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	if src, ok := r.(fontfile.Source); ok {
		return fontfile.Read(src)
	}
	b, err := fs.ReadFile(p, n.Name)
	if err != nil {
		return nil, err
	}
	return fontfile.Parse(b)
}

// maxPicture bounds what is looked at to learn the size of a picture, in bytes.
const maxPicture = 64 << 20

// pictureSize is that of a picture, px, nought for what is none; no more of it is read than
// tells it.
func (p *Parcel) pictureSize(n *archive.Node) image.Point {
	r, err := p.reader(n)
	if err != nil {
		return image.Point{}
	}
	defer r.Close()
	in := bufio.NewReaderSize(r, 4096)
	head, _ := in.Peek(4096)
	if imagefile.MediaType(head) == "image/svg+xml" {
		w, h := imagefile.Size(head)
		return image.Pt(int(w), int(h))
	}
	c, _, err := image.DecodeConfig(in)
	if err != nil {
		return image.Point{}
	}
	return image.Pt(c.Width, c.Height)
}

// reader reads a file from its begin, as far as it is wanted.
func (p *Parcel) reader(n *archive.Node) (io.ReadCloser, error) {
	if err := p.Err(); err != nil {
		return nil, err
	}
	if n.Body != nil && !n.Held {
		return n.Body.Open()
	}
	return p.Open(n.Name)
}

// backdrops finds pictures large enough to fill a display. Those that differ
// only in size or time of day are one set.
func (p *Parcel) backdrops() []Piece {
	sets := map[string][]string{}
	sizes := map[string]image.Point{}
	for _, name := range p.with([]string{".png", ".jpg", ".jpeg", ".webp", ".svg"}, func(n *archive.Node) bool {
		return (p.Format == "file" || n.Size > 4<<10 || path.Ext(n.Name) == ".svg" && n.Size > 256) && n.Size < maxPicture && !p.claimed[n] && (p.Format == "file" || !preview.MatchString(n.Name))
	}) {
		size := p.pictureSize(p.At(name))
		if small := max(size.X, size.Y) < 1024 || min(size.X, size.Y) < 600; size == (image.Point{}) || small && p.Format != "file" {
			continue
		}
		stem := path.Join(path.Dir(name), setPart.ReplaceAllString(strings.TrimSuffix(path.Base(name), path.Ext(name)), ""))
		sets[stem] = append(sets[stem], name)
		sizes[name] = size
	}
	var out []Piece
	for _, stem := range first(sets) {
		files := sets[stem]
		pc := p.piece(Backdrop, path.Dir(files[0]))
		pc.Folder = path.Base(stem)
		if len(files) == 1 {
			pc.Folder = strings.TrimSuffix(path.Base(files[0]), path.Ext(files[0]))
		}
		if pc.Folder == "" || pc.Folder == "." {
			pc.Folder = p.stem()
		}
		pc.Name, pc.Only = strings.NewReplacer("-", " ", "_", " ").Replace(pc.Folder), files
		var all []string
		for _, f := range files {
			all = append(all, fmt.Sprintf("%d × %d", sizes[f].X, sizes[f].Y))
		}
		pc.Styles = slices.Compact(all)
		out = append(out, p.finish(pc))
	}
	return out
}

var (
	preview = regexp.MustCompile(`(?i)(^|/)(screenshots?|previews?|thumbnails?|docs?|\.[^/]*)(/|\.|-|_|$)`)
	setPart = regexp.MustCompile(`(?i)[-_. ]*(\d{3,5}x\d{3,5}|[248]k|day|night|morning|noon|evening|dawn|dusk|sunrise|sunset|light|dark)$`)
)

// isPalette tells whether a text sets the sixteen colours of a terminal.
func isPalette(text []byte) bool {
	colours := map[string]bool{}
	for _, m := range colourLine.FindAllStringSubmatch(string(text), -1) {
		colours[m[1]] = true
	}
	return len(colours) >= 16
}

// palettes finds terminal palettes: X resource files that set color0 to
// color15.
func (p *Parcel) palettes() []Piece {
	var out []Piece
	for _, name := range p.with([]string{".xresources", ".xdefaults", ".ad", ".txt", ""}, func(n *archive.Node) bool {
		return n.Size > 0 && n.Size < 32<<10 && !p.claimed[n] && paletteName.MatchString(n.Name)
	}) {
		b, err := fs.ReadFile(p, name)
		if err != nil {
			continue
		}
		if !isPalette(b) {
			continue
		}
		pc := p.piece(Palette, path.Dir(name))
		pc.Folder = strings.TrimLeft(strings.TrimSuffix(path.Base(name), path.Ext(name)), ".")
		if pc.Folder == "" {
			pc.Folder = p.stem()
		}
		pc.Name, pc.Only = pc.Folder, []string{name}
		out = append(out, p.finish(pc))
	}
	return out
}

var (
	paletteName = regexp.MustCompile(`(?i)(\.(xresources|xdefaults|ad|txt)|(^|/)\.?x(resources|defaults)[^/]*)$`)
	colourLine  = regexp.MustCompile(`(?m)^[^!\n]*[*.]color(\d{1,2})\s*:\s*\S+`)
)

// recipe is what a layer is called in the piece that is built from it (package layer).
const recipe = "layer.toml"

// styles finds picture-based styles: an SVG with a settings file of the same
// name beside it.
func (p *Parcel) styles() []Piece {
	drawings := p.with([]string{".svg"}, func(n *archive.Node) bool { return !p.claimed[n] })
	if len(drawings) == 0 {
		return nil
	}
	beside := map[string][]*archive.Node{} // by the names without their endings
	for n := range p.All() {
		if !n.Mode.IsDir() && path.Ext(n.Name) != ".svg" {
			stem := strings.TrimSuffix(n.Name, path.Ext(n.Name))
			beside[stem] = append(beside[stem], n)
		}
	}
	var out []Piece
	for _, name := range drawings {
		stem := strings.TrimSuffix(name, ".svg")
		for _, c := range beside[stem] {
			b, err := p.text(c.Name)
			if err != nil {
				continue
			}
			kf, err := keyfile.Parse(b)
			if err != nil || len(kf.Groups()) == 0 {
				continue
			}
			pc := p.piece(Style, path.Dir(name))
			pc.Version, pc.Licence = kf.Get("Style", "Version"), kf.Get("Style", "Licence")
			pc.Folder, pc.Name, pc.Only = path.Base(stem), path.Base(stem), []string{name, c.Name}
			if info, err := fs.Stat(p, path.Join(path.Dir(name), recipe)); err == nil && info.Mode().IsRegular() {
				pc.Only = append(pc.Only, path.Join(path.Dir(name), recipe))
			}
			out = append(out, p.finish(pc))
			break
		}
	}
	return out
}

// bundles finds outfit files, which name other pieces.
func (p *Parcel) bundles() []Piece {
	var out []Piece
	for _, name := range p.with([]string{".toml"}, func(n *archive.Node) bool { return n.Size < 256<<10 && path.Base(n.Name) != pointerset.RecipeFile }) {
		b, err := fs.ReadFile(p, name)
		if err != nil {
			continue
		}
		o, err := outfit.Parse(b)
		if err != nil {
			continue
		}
		pc := p.piece(Bundle, path.Dir(name))
		pc.Folder, pc.Name, pc.Only = strings.TrimSuffix(path.Base(name), ".toml"), o.Name, []string{name}
		for _, facet := range o.Facets() {
			pc.Parts = append(pc.Parts, facet)
			if piece := o.Choices[facet].Piece; piece != "" {
				pc.Needs = append(pc.Needs, piece)
			}
		}
		out = append(out, p.finish(pc))
	}
	return out
}

// sounds finds sound themes (Sound Theme Specification 0.8: index.theme with a
// section Sound Theme).
func (p *Parcel) sounds() []Piece {
	var out []Piece
	for _, name := range p.with([]string{".theme"}, isIndex) {
		kf := p.index(path.Dir(name))
		if kf == nil || !slices.Contains(kf.Groups(), "Sound Theme") {
			continue
		}
		pc := p.piece(Sound, path.Dir(name))
		if n := kf.Get("Sound Theme", "Name"); n != "" {
			pc.Name = n
		}
		pc.Inherits = append(pc.Inherits, kf.List("Sound Theme", "Inherits", ',')...)
		out = append(out, p.finish(pc))
	}
	return out
}

// catalogue sorts the parcel's names once, so that each kind is looked for only
// among the files that can be it.
type catalogue struct {
	endings map[string][]*archive.Node // files by the ending of their name, in lower case
	folders []*archive.Node
	names   map[string][]*archive.Node // files by their own names, in lower case; nil: not asked for yet
}

// called are the files of a name in any folder, letters' case ignored, in order.
func (c *catalogue) called(name string) []*archive.Node {
	if c.names == nil {
		c.names = map[string][]*archive.Node{}
		for _, list := range c.endings {
			for _, n := range list {
				low := strings.ToLower(path.Base(n.Name))
				c.names[low] = append(c.names[low], n)
			}
		}
		for _, list := range c.names {
			slices.SortFunc(list, archive.ByName)
		}
	}
	return c.names[strings.ToLower(name)]
}

func (p *Parcel) catalogue() *catalogue {
	if p.cat != nil {
		return p.cat
	}
	c := &catalogue{endings: map[string][]*archive.Node{}}
	lists := map[string]*[]*archive.Node{}
	last, list := "\x00", (*[]*archive.Node)(nil)
	var walk func(*archive.Node)
	walk = func(folder *archive.Node) {
		c.folders = append(c.folders, folder)
		for _, n := range folder.Children {
			if n.Mode.IsDir() {
				if path.Base(n.Name) != example || !p.describes(folder) {
					walk(n)
				}
				continue
			}
			ext := ""
			for i := len(n.Name) - 1; i >= 0 && n.Name[i] != '/'; i-- {
				if n.Name[i] == '.' {
					ext = n.Name[i:]
					break
				}
			}
			if ext != last {
				if last, list = ext, lists[ext]; list == nil {
					list = new([]*archive.Node)
					lists[ext] = list
				}
			}
			*list = append(*list, n)
		}
	}
	walk(p.Top)
	for ext, list := range lists {
		low := strings.ToLower(ext)
		c.endings[low] = append(c.endings[low], *list...)
	}
	slices.SortFunc(c.folders, archive.ByName)
	p.cat = c
	return c
}

// with returns the names of the files that match, of those with the endings
// given, in order.
func (p *Parcel) with(endings []string, match func(*archive.Node) bool) []string {
	var out []string
	for _, ext := range endings {
		for _, n := range p.catalogue().endings[ext] {
			if match == nil || match(n) {
				out = append(out, n.Name)
			}
		}
	}
	slices.Sort(out)
	return out
}

func commonFolder(files []string) string {
	dir := path.Dir(files[0])
	for _, f := range files[1:] {
		for dir != "." && !strings.HasPrefix(f, dir+"/") {
			dir = path.Dir(dir)
		}
	}
	return dir
}

func firstLine(s string) string {
	s, _, _ = strings.Cut(strings.TrimSpace(s), "\n")
	if len(s) > 120 {
		return strings.ToValidUTF8(s[:120], "") + "…"
	}
	return s
}
