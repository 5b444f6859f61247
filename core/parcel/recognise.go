// Package parcel recognises the pieces in an archive or a folder as it came.
package parcel

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/archive"
	"ivelt/core/curfile"
	"ivelt/core/desk"
	"ivelt/core/fontfile"
	"ivelt/core/imagefile"
	"ivelt/core/licence"
	"ivelt/core/regular"
	"ivelt/core/say"
	"ivelt/core/shown"
	"ivelt/core/xcursor"
)

// Parcel is an opened parcel, to look for pieces in.
type Parcel struct {
	*archive.Tree

	converted map[string]converted // sets of the other family, by the folder of what they become
	refused   map[string]error     // why others cannot be, by their own

	// Of one look for pieces:
	cat      *catalogue
	licences map[string]string      // by folder
	texts    map[string]string      // licences by their texts, which many fonts have in common
	indexes  map[string]described   // of the first folders that have one
	claimed  map[*archive.Node]bool // what belongs to a piece as a whole
}

// Open reads the list of entries of the archive or folder at a host path. The
// ending of the name does not matter; the contents are sniffed. A font, a picture or a
// palette is a parcel by itself.
func Open(ctx context.Context, file string, o archive.Options) (*Parcel, error) {
	t, err := archive.Open(ctx, file, o)
	if errors.Is(err, archive.ErrNotArchive) && isPiece(file) {
		t, err = archive.OpenFile(ctx, file, o)
	}
	if err != nil {
		return nil, err
	}
	return opened(ctx, t)
}

// opened is the parcel that a tree is.
func opened(ctx context.Context, t *archive.Tree) (*Parcel, error) {
	p := &Parcel{Tree: t}
	if err := p.convert(ctx); err != nil {
		return nil, errors.Join(err, t.Close())
	}
	return p, nil
}

// isPiece tells whether a file is one by itself, by what it holds.
func isPiece(file string) bool {
	f, err := regular.Open(file)
	if err != nil {
		return false
	}
	defer f.Close()
	head := make([]byte, 32<<10)
	n, _ := io.ReadFull(f, head)
	head = head[:n]
	return fontfile.IsFont(head) || imagefile.MediaType(head) != "" || n < 32<<10 && (isPalette(head) || desk.IsDescriptor(head)) || xcursor.IsXcursor(head) || curfile.IsPointer(head) || isSheet(file)
}

func isSheet(name string) bool { return strings.EqualFold(path.Ext(name), ".css") }

// alone says what a single file is that is no piece by itself.
func (p *Parcel) alone() []Note {
	if p.Format != "file" || len(p.Top.Children) != 1 {
		return nil
	}
	n := p.Top.Children[0]
	switch {
	case p.startsWith(n, xcursor.IsXcursor):
		return []Note{note("pointer-alone", path.Base(n.Name))}
	case isSheet(n.Name):
		return []Note{note("sheet-alone", path.Base(n.Name))}
	}
	return nil
}

// OpenBytes opens an archive that is held in memory. name is only shown.
func OpenBytes(ctx context.Context, name string, b []byte, o archive.Options) (*Parcel, error) {
	t, err := archive.OpenBytes(ctx, name, b, o)
	if err != nil {
		return nil, err
	}
	return opened(ctx, t)
}

// Kind is what a piece is.
type Kind string

// The kinds.
const (
	Theme    Kind = "theme" // of windows
	Icons    Kind = "icons"
	Pointer  Kind = "pointer"
	Font     Kind = "font" // a family
	Backdrop Kind = "backdrop"
	Login    Kind = "login" // of a login screen
	Palette  Kind = "palette"
	Style    Kind = "style" // picture-based
	Bundle   Kind = "bundle"
	Sound    Kind = "sound"

	Descriptor Kind = "descriptor" // of a surface
)

var kindOrder = []Kind{Theme, Icons, Pointer, Font, Backdrop, Login, Palette, Style, Bundle, Sound, Descriptor}

// Kinds returns the kinds in the order they are shown.
func Kinds() []Kind { return slices.Clone(kindOrder) }

// Title is what a kind is called on pages.
func (k Kind) Title() say.Word {
	switch k {
	case Theme:
		return "window theme"
	case Icons:
		return "icon pack"
	case Pointer:
		return "pointer set"
	case Font:
		return "font family"
	case Login:
		return "login theme"
	case Style:
		return "picture-based style"
	case Sound:
		return "sound theme"
	case Descriptor:
		return "program descriptor"
	case Backdrop:
		return "backdrop"
	case Palette:
		return "palette"
	case Bundle:
		return "bundle"
	}
	return say.Word(k)
}

// Piece is a thing in a parcel that can be put in place.
type Piece struct {
	Kind     Kind     `json:"kind"`
	Name     string   `json:"name"`   // shown to people
	Folder   string   `json:"folder"` // what programs ask for
	Root     string   `json:"root"`   // where it lies in the parcel
	Parts    []string `json:"parts"`
	Inherits []string `json:"inherits"`
	Needs    []string `json:"needs"` // companions, engines, and what it inherits that is not in the parcel
	Notes    []Note   `json:"notes"`

	Only    []string `json:"only,omitempty"`    // the files it consists of, if it is not all of its root
	Family  string   `json:"family,omitempty"`  // shared with its variants in the parcel
	Variant string   `json:"variant,omitempty"` // what differs from them
	Version string   `json:"version,omitempty"`
	Licence string   `json:"licence,omitempty"`
	Dark    bool     `json:"dark,omitempty"`   // a theme with a dark form in it
	Icons   int      `json:"icons,omitempty"`  // different names
	Shapes  int      `json:"shapes,omitempty"` // of a pointer set
	Sizes   []int    `json:"sizes,omitempty"`  // of a pointer set, px
	Styles  []string `json:"styles,omitempty"` // of a font family; sizes of a backdrop
	Files   int      `json:"files"`            // regular files and links
	Links   int      `json:"links"`            // of them links
	Bytes   int64    `json:"bytes"`            // unpacked, links not counted

	Reach *desk.Reach `json:"reach,omitempty"` // of a descriptor: what it would read, write and start
}

// Asked returns the name programs ask for the piece by, or "" if it is chosen
// by its path.
func (p Piece) Asked() string {
	switch p.Kind {
	case Theme, Icons, Pointer, Login, Sound:
		return p.Folder
	case Font:
		return p.Name
	}
	return ""
}

// Contents is what [Recognise] found in a parcel.
type Contents struct {
	Pieces []Piece `json:"pieces"`
	Notes  []Note  `json:"notes"`
}

// What is told of a parcel at most.
const (
	maxPieces = 2000
	maxNotes  = 500
	maxText   = 1 << 20 // bytes of a description, or a resource file, that is looked into
)

// Recognise finds every piece, wherever it stands in the tree. parts are those
// that surface descriptors name besides the toolkits' own. Once ctx has ended nothing more
// is read, and what was found is not all.
func (p *Parcel) Recognise(ctx context.Context, parts ...desk.Part) Contents {
	look := &Parcel{Tree: p.During(ctx), converted: p.converted, refused: p.refused, licences: map[string]string{}, texts: map[string]string{}, indexes: map[string]described{}, claimed: map[*archive.Node]bool{}}
	return look.recognise(parts)
}

func (p *Parcel) recognise(parts []desk.Part) Contents {
	out := Contents{Pieces: []Piece{}, Notes: []Note{}}
	for _, of := range p.Problems {
		out.Notes = append(out.Notes, note("nested-unreadable", of.Name, of.Err))
	}
	var described []string
	for _, name := range p.with([]string{".theme"}, isIndex) {
		root := path.Dir(name)
		described = append(described, root)
		if len(out.Pieces) > maxPieces || len(out.Notes) >= maxNotes {
			continue
		}
		piece, notes, ok := p.iconPack(root)
		out.Notes = append(out.Notes, notes...)
		if ok {
			out.Pieces = append(out.Pieces, piece)
		}
	}
	out.Notes = append(out.Notes, p.indexless(described)...)
	out.Pieces = append(out.Pieces, p.themes(parts)...)
	out.Pieces = append(out.Pieces, p.pointers()...)
	out.Pieces = append(out.Pieces, p.vendorPointers()...)
	out.Pieces = append(out.Pieces, p.vendorThemes()...)
	out.Pieces = append(out.Pieces, p.logins()...)
	p.claim(out.Pieces)
	fonts, notes := p.fonts()
	out.Notes = append(out.Notes, notes...)
	for _, more := range [][]Piece{fonts, p.backdrops(), p.palettes(), p.styles(), p.bundles(), p.sounds()} {
		out.Pieces = append(out.Pieces, more...)
	}
	more, notes := p.descriptors()
	out.Pieces, out.Notes = append(out.Pieces, more...), append(out.Notes, notes...)
	full := len(out.Pieces) > maxPieces
	out.Pieces = out.Pieces[:min(len(out.Pieces), maxPieces)]
	out.Pieces, notes = preferBuilt(out.Pieces)
	out.Notes = append(out.Notes, notes...)
	slices.SortStableFunc(out.Pieces, func(a, b Piece) int {
		if a.Kind != b.Kind {
			return slices.Index(kindOrder, a.Kind) - slices.Index(kindOrder, b.Kind)
		}
		return strings.Compare(a.Root+"\x00"+a.Folder, b.Root+"\x00"+b.Folder)
	})
	relate(out.Pieces)
	tellVariants(out.Pieces)
	if !slices.ContainsFunc(out.Pieces, func(pc Piece) bool { return pc.Kind == Theme }) && p.sourcesOnly() {
		out.Notes = append(out.Notes, note("sources-only"))
	}
	if engines := p.engineLibraries(); len(engines) > 0 {
		out.Notes = append(out.Notes, note("engines-inside", strings.Join(engines, ", ")))
	}
	out.Notes = append(out.Notes, p.alone()...)
	if len(out.Pieces) == 0 {
		out.Notes = append(out.Notes, note("no-piece"))
	}
	if found := p.programs(); len(found) > 0 {
		out.Notes = append(out.Notes, note("programs", fmt.Sprint(len(found)), found[0]))
	}
	if full || len(out.Notes) >= maxNotes {
		out.Notes = append(out.Notes[:min(len(out.Notes), maxNotes)], note("too-many", fmt.Sprint(maxPieces)))
	}
	return out
}

func isIndex(n *archive.Node) bool { return path.Base(n.Name) == "index.theme" }

// claim marks the files that belong to a piece as a whole, and so are no pieces
// by themselves: what is in the part folders of a theme, in an icon pack's
// directories, or among pointers.
func (p *Parcel) claim(pieces []Piece) {
	for _, pc := range pieces {
		switch pc.Kind {
		case Theme:
			for _, part := range pc.Parts {
				p.claimBelow(path.Join(pc.Root, part))
			}
		case Icons:
			if t, err := p.iconTheme(pc.Root, pc.Folder); err == nil {
				for _, d := range t.Directories {
					p.claimBelow(path.Join(pc.Root, d.Path))
				}
			}
		case Login:
			p.claimBelow(pc.Root)
		case Pointer:
			p.claimBelow(path.Join(pc.Root, "cursors"))
		}
	}
}

func (p *Parcel) claimBelow(folder string) {
	n := p.Folders[folder]
	if n == nil || p.claimed[n] || !n.Mode.IsDir() {
		return
	}
	p.claimed[n] = true
	for _, c := range n.Children {
		if c.Mode.IsDir() {
			p.claimBelow(c.Name)
		}
		p.claimed[c] = true
	}
}

// preferBuilt drops a theme or icon pack that lies in a source folder when the
// same one stands built elsewhere in the parcel.
func preferBuilt(pieces []Piece) ([]Piece, []Note) {
	isSource := func(root string) bool {
		return slices.ContainsFunc(strings.Split(root, "/"), func(s string) bool { return sourceFolder.MatchString(s) })
	}
	built := map[string]bool{}
	for _, pc := range pieces {
		if !isSource(pc.Root) {
			built[string(pc.Kind)+" "+pc.Name] = true
		}
	}
	var out []Piece
	var notes []Note
	for _, pc := range pieces {
		if built[string(pc.Kind)+" "+pc.Name] && isSource(pc.Root) && pc.Kind != Font {
			notes = append(notes, note("source-left-out", pc.Name, pc.Root))
			continue
		}
		out = append(out, pc)
	}
	return out, notes
}

var sourceFolder = regexp.MustCompile(`(?i)^(src|sources?)$`)

// piece starts the description of a piece at root.
func (p *Parcel) piece(kind Kind, root string) Piece {
	folder := path.Base(root)
	if root == "." {
		folder = p.stem()
	}
	return Piece{
		Kind: kind, Name: folder, Folder: folder, Root: root, Version: p.version(),
		Parts: []string{}, Inherits: []string{}, Needs: []string{}, Notes: []Note{},
	}
}

// finish measures a piece and adds what holds for any kind.
func (p *Parcel) finish(pc Piece) Piece {
	root := pc.Root
	if of, ok := p.converted[root]; ok {
		root = of.from
	}
	if depth := strings.Count(root, "/"); depth > 0 && len(pc.Only) == 0 {
		pc.Notes = append(pc.Notes, note("nested", fmt.Sprint(depth+1)))
	}
	pc.Licence = cmp.Or(pc.Licence, p.stated(pc), p.licence(pc.Root))
	p.measure(&pc)
	pc.Name, pc.Folder, pc.Version, pc.Licence = shown.Line(pc.Name), shown.Name(pc.Folder), shown.Line(pc.Version), shown.Line(pc.Licence)
	pc.Inherits, pc.Needs = shown.Lines(pc.Inherits), shown.Lines(pc.Needs)
	return pc
}

// stated is the licence that a piece itself tells: in its description, or, if it is one file
// of text, at the head of that.
func (p *Parcel) stated(pc Piece) string {
	switch pc.Kind {
	case Theme, Icons, Pointer:
		if kf := p.index(pc.Root); kf != nil && len(pc.Only) == 0 {
			return licence.Stated(kf)
		}
	case Palette, Style:
		if len(pc.Only) == 1 {
			if b, err := p.text(pc.Only[0]); err == nil {
				return licence.OfHead(b)
			}
		}
	}
	return ""
}

// named is a licence by its identifier, or else the first line of its text.
func (p *Parcel) named(text string) string {
	says, known := p.texts[text]
	if !known {
		says = cmp.Or(licence.Of(text), firstLine(text))
		p.texts[text] = says
	}
	return says
}

// licence is what the licence file nearest above a folder says, or else the package's.
func (p *Parcel) licence(root string) string {
	if known, ok := p.licences[root]; ok {
		return known
	}
	says := ""
	if n := p.Folders[root]; n != nil {
		for _, c := range n.Children {
			if !c.Mode.IsDir() && c.Size < 256<<10 && licence.IsFile(path.Base(c.Name)) {
				if b, err := p.text(c.Name); err == nil {
					says = p.named(string(b))
					break
				}
			}
		}
	}
	switch {
	case says != "":
	case root != ".":
		says = p.licence(path.Dir(root))
	case p.Folders["usr/share/doc"] != nil:
		for _, of := range p.Folders["usr/share/doc"].Children { // Debian Policy, 12.5
			if b, err := p.text(path.Join(of.Name, "copyright")); err == nil && says == "" {
				says = licence.Of(string(b))
			}
		}
	}
	p.licences[root] = says
	return says
}

// text reads a file of no more than maxText.
func (p *Parcel) text(name string) ([]byte, error) {
	if info, err := p.Stat(name); err == nil && info.Size() > maxText {
		return nil, say.Errorf("%w: it is longer than %d kB", archive.ErrTooLarge, maxText>>10)
	}
	return fs.ReadFile(p, name)
}

// programs lists the programs and scripts in the parcel: by their endings, by the names
// that installers have, and, of files marked as programs, by how they begin.
func (p *Parcel) programs() []string {
	var out []string
	for n := range p.All() {
		if !n.Mode.IsRegular() || n.Size == 0 {
			continue
		}
		base := strings.ToLower(path.Base(n.Name))
		is := programEndings[path.Ext(base)] || installers[base]
		if !is && n.Mode&0o111 != 0 && (n.Held || n.Body != nil) {
			if f, err := p.Open(n.Name); err == nil {
				head := make([]byte, 4)
				k, _ := io.ReadFull(f, head)
				f.Close()
				is = bytes.HasPrefix(head[:k], []byte("#!")) || bytes.HasPrefix(head[:k], []byte("\x7fELF")) || bytes.HasPrefix(head[:k], []byte("MZ"))
			}
		}
		if is {
			out = append(out, n.Name)
		}
	}
	slices.Sort(out)
	return out
}

func set(words ...string) map[string]bool {
	out := map[string]bool{}
	for _, w := range words {
		out[w] = true
	}
	return out
}

// What programs end in and what installers are called: common practice, no source.
var (
	programEndings = set(".sh", ".bash", ".fish", ".py", ".pl", ".rb", ".js", ".lua", ".exe", ".bat", ".cmd", ".ps1", ".vbs", ".msi", ".com", ".scr", ".so", ".dll", ".run", ".appimage")
	installers     = set("install", "uninstall", "setup", "configure", "makefile", "build")
)

func (p *Parcel) measure(piece *Piece) {
	var broken, leaving, out []string
	first, outside := "", ""
	count := func(n *archive.Node) {
		piece.Files++
		if n.Mode&fs.ModeSymlink == 0 {
			piece.Bytes += n.Size
			return
		}
		piece.Links++
		if target, err := p.Follow("stat", n.Name); errors.Is(err, archive.ErrOut) || err != nil && !n.Hard && path.IsAbs(n.Link) {
			if len(out) == 0 || n.Name < first {
				first, outside = n.Name, n.Link
			}
			out = append(out, n.Name)
		} else if err != nil {
			broken = append(broken, n.Name)
		} else if piece.Root != "." && !strings.HasPrefix(target.Name, piece.Root+"/") {
			leaving = append(leaving, n.Name)
		}
	}
	var empty []string
	var below func(*archive.Node)
	below = func(n *archive.Node) {
		if len(n.Children) == 0 {
			empty = append(empty, n.Name)
		}
		for _, c := range n.Children {
			if c.Mode.IsDir() {
				below(c)
			} else {
				count(c)
			}
		}
	}
	if piece.Only == nil {
		below(p.At(piece.Root))
	}
	for _, name := range piece.Only {
		count(p.At(name))
	}
	if len(empty) > 0 {
		piece.Notes = append(piece.Notes, note("folders-empty", fmt.Sprint(len(empty)), slices.Min(empty)))
	}
	if len(broken) > 0 {
		piece.Notes = append(piece.Notes, note("links-broken", fmt.Sprint(len(broken)), slices.Min(broken)))
	}
	if len(leaving) > 0 {
		piece.Notes = append(piece.Notes, note("link-leaves-piece", fmt.Sprint(len(leaving)), slices.Min(leaving)))
	}
	if len(out) > 0 {
		piece.Notes = append(piece.Notes, note("link-out", fmt.Sprint(len(out)), first, outside))
	}
	slices.SortStableFunc(piece.Notes, func(a, b Note) int { return strings.Compare(a.Code, b.Code) })
}

var (
	versionIn = regexp.MustCompile(`[-_ ]v?(\d+(?:\.\d+)+[a-z0-9.]*?)$`)
	archiveIn = regexp.MustCompile(`(?i)(\.tar)?\.(zip|tar|gz|xz|bz2|zst|7z|tgz|txz)$`)
)

func (p *Parcel) bare() string {
	return archiveIn.ReplaceAllString(path.Base(p.Path), "")
}

// stem is the parcel's name without endings and version.
func (p *Parcel) stem() string {
	return versionIn.ReplaceAllString(p.bare(), "")
}

func (p *Parcel) version() string {
	if m := versionIn.FindStringSubmatch(p.bare()); m != nil {
		return m[1]
	}
	return ""
}

func showRoot(root string) string {
	if root == "." {
		return "at the top"
	}
	return root
}

func clipList(list []string) []string {
	if len(list) > 3 {
		return append(slices.Clone(list[:3]), "…")
	}
	return list
}
