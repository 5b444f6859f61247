package desk

import (
	"embed"
	"errors"
	"io/fs"
	"path"
	"slices"
	"sort"
	"strings"
	"sync"

	"ivelt/core/layout"
	"ivelt/core/say"
	"ivelt/core/settingsfile"
	"ivelt/core/tomlfile"
)

// Surface is something on a desk that draws, as its descriptor tells: for each
// facet where it looks, in which order, and what it does with the name found.
type Surface struct {
	ID      string  `toml:"id"`
	Title   string  `toml:"title"`
	Version string  `toml:"version"` // of the program, where pieces are made for one
	Kind    string  `toml:"kind"`    // toolkit, shell …
	Starts  string  `toml:"starts"`  // the command of a program that shows nothing unless it is started at sign-in
	Needs   *Needs  `toml:"needs"`   // which versions of another program it comes up under
	Instead string  `toml:"instead"` // the surface whose bar it draws, once something is wanted of it and it is started
	Restart string  `toml:"restart"` // what has to start again for a change to show: program, shell, session, machine
	Facets  []Facet `toml:"facet"`
	// Present are files, with stars, of which one is there where the program is;
	// without any it is everywhere.
	Present []string `toml:"present"`
	// Sources are the files of facets that give a key only, strongest first, and
	// Loaded is where the running program keeps such keys.
	Sources  []Source          `toml:"source"`
	Loaded   *Source           `toml:"loaded"`
	Cannot   map[string]string `toml:"cannot"`   // why it cannot be told of a facet
	Looks    []Look            `toml:"looks"`    // where it looks for pieces of a kind, besides what its facets say
	Parts    []Part            `toml:"part"`     // what of a theme dresses it
	Bar      *Bar              `toml:"bar"`      // where a shell keeps how its bar is laid out
	Monitors *Monitors         `toml:"monitors"` // where a shell keeps how monitors stand
	Greeter  *Greeter          `toml:"greeter"`  // of a login screen: which session it starts
	Sandbox  *Sandbox          `toml:"sandbox"`  // of a runtime of sandboxed programs: which there are
	Library  *Library          `toml:"library"`  // of a toolkit that carries pieces in itself
	Lock     *Lock             `toml:"lock"`     // of a system that takes signed looks alone
	// Came is of a descriptor that came from others; nil for Ivelt's own and the person's.
	Came *Came `toml:"-"`
}

// Needs says which versions of another program a surface comes up under: what that has is in
// Of, and the range, as semantic versions are compared, in Range.
type Needs struct {
	Of    Source `toml:"of"`
	Range Source `toml:"range"`
}

// Sandbox says which programs a runtime has.
type Sandbox struct {
	Programs []string `toml:"programs"` // folders of ID.desktop, with the place names of [Desk.Expand]
}

// Greeter says which session a login screen starts, and where sessions are
// described.
type Greeter struct {
	Session Source   `toml:"session"`
	Folders []string `toml:"folders"` // of NAME.desktop, with the place names of [Desk.Expand]
	Usual   string   `toml:"usual"`   // the session if none is named
	Again   string   `toml:"again"`   // what starts the login screen again, typed on a text console
}

// Look says in which folders a surface looks for pieces of a kind.
type Look struct {
	Kind    string   `toml:"kind"`
	Folders []string `toml:"folders"` // in order, with the place names of [Desk.Expand]
	// Sealed: it sees these folders alone, so a link that leads out of them
	// leads nowhere for it.
	Sealed bool `toml:"sealed"`
}

// Part is a folder in a theme that dresses a surface, and a file by which it is
// known. A star stands for anything.
type Part struct {
	Folder string `toml:"folder"`
	File   string `toml:"file"`
}

// Parts returns the parts that the desk's surfaces name.
func (d *Desk) Parts() []Part {
	var out []Part
	for _, s := range d.Surfaces() {
		out = append(out, s.Parts...)
	}
	return out
}

// LooksIn returns the folders, in order, in which the surface looks for pieces
// of a kind.
func (s Surface) LooksIn(kind string) []string {
	folders, _ := s.Look(kind)
	return folders
}

// Look returns the same, and whether the surface is sealed in these folders.
func (s Surface) Look(kind string) (folders []string, sealed bool) {
	for _, l := range s.Looks {
		if l.Kind == kind {
			return l.Folders, l.Sealed
		}
	}
	if f, ok := s.Facet(FacetIcons); ok && kind == "icons" {
		return f.Lookup.Folders, false
	}
	return nil, false
}

// Bar says where a shell's bar is described, and under which keys.
type Bar struct {
	Files     []string `toml:"files"` // key files, weakest first, with the place names of [Desk.Expand]
	Group     string   `toml:"group"`
	Edge      string   `toml:"edge"`      // key: top or bottom
	Thickness string   `toml:"thickness"` // key: px
	Pinned    string   `toml:"pinned"`    // key: desktop file IDs, separated by ";"
}

// Facet is what a descriptor says of one facet of a surface.
type Facet struct {
	Name    string   `toml:"name"`
	Default string   `toml:"default"` // the value if no source speaks
	Key     string   `toml:"key"`     // in the surface's own sources; else Sources are given
	Group   string   `toml:"group"`   // the same, if it is not the sources' own
	Before  []Source `toml:"before"`  // what is asked before the surface's own sources
	// Values is how the program writes a value, by Ivelt's word for it: the first
	// of several is written. Without it values are as they are written.
	Values   map[string][]string `toml:"values"`
	Number   *Range              `toml:"number"`   // what is no whole number in it is passed over
	Strict   bool                `toml:"strict"`   // what [FacetInfo.Accepts] does not is passed over
	Fold     bool                `toml:"fold"`     // its values are read whatever their case
	Sizeless bool                `toml:"sizeless"` // of a font: it takes the family alone
	Fixed    bool                `toml:"fixed"`    // it is its default, whatever anybody says
	Acts     bool                `toml:"acts"`     // what it says starts something, or lets people in
	Evidence string              `toml:"evidence"` // what the order of sources was read from
	Sources  []Source            `toml:"source"`   // strongest first
	Lookup   Lookup              `toml:"lookup"`
	Limits   *layout.Limits      `toml:"limits"` // of bars, or of windows side by side: what of them it takes
	// Singles are things that a person sets one by one, each by a key of the
	// source's group: they do not go with the facet until that is taken out.
	Singles *Source `toml:"singles"`
	// Places are folders and volumes that show an icon each, told one by one.
	Places *PlaceIcons `toml:"places"`
	Loaded *Source     `toml:"loaded"` // where the running program says what it has loaded
	// Live: the running program takes it at once, whatever it takes at its start alone.
	Live bool `toml:"live"`
}

// Range is from Least to Most, both in it.
type Range struct {
	Least int64 `toml:"least"`
	Most  int64 `toml:"most"`
}

// Library is a toolkit's own, with the resources in it: styles and icons that no file
// of the desk has.
type Library struct {
	Files   []string `toml:"files"`   // with stars; the first that is there
	Section string   `toml:"section"` // of the ELF file, that holds a resource bundle
	Themes  string   `toml:"themes"`  // the path in it of built-in themes, NAME/FILE
	Icons   string   `toml:"icons"`   // the path in it of icons, SIZE/CONTEXT/FILE
}

// Source is one place a surface reads a value from.
type Source struct {
	Path   string `toml:"path"`   // with the place names of [Desk.Expand]; of one that is followed its ID
	Format string `toml:"format"` // one of formats
	Group  string `toml:"group"`
	Key    string `toml:"key"`
	Write  bool   `toml:"write"` // the source a plan sets
	On     string `toml:"on"`    // it is asked there alone: x11 or wayland, see [Desk.Display]
	// Side takes of a value "name:variant" what is before the colon or after it;
	// "" takes all of it.
	Side   string              `toml:"side"`
	Values map[string][]string `toml:"values"` // in this source, in the facet's stead
	// When of a surface that is followed: one of these has to be so.
	When []Condition `toml:"when"`
	// Clamp: a number outside the facet's range is taken as the nearest in it.
	Clamp bool `toml:"clamp"`
	// Leaves: with one of these, as written, the source leaves it to the next.
	Leaves []string `toml:"leaves"`
	// Rename of the words of a list, "menu:minimize,close", makes the program's
	// words; those that are not named are left out.
	Rename map[string]string `toml:"rename"`
	// Shade: it is asked there alone where the desktop's settings ask for that shade.
	Shade string `toml:"shade"`
	// URI: the value is that of a file, "file:///home/me/a%20b.png".
	URI bool `toml:"uri"`
	// Scale makes the program's number, 0.85, the facet's: 100 for percent.
	Scale float64 `toml:"scale"`
	// Like is a line of the program's, "key = 'value'": how one is written in a file of
	// lines that has none to go by.
	Like string `toml:"like"`
	Type string `toml:"-"` // of GLib's settings: the key's, where a plan sets it
}

// Grants says where a runtime of sandboxed programs has which folders they may look into: a
// key file's list. What is for one program alone is in a group of that file, "GROUP PROGRAM",
// or in a file of its own.
type Grants struct {
	Source
	// Own is the file for one program, with {program} in its path.
	Own string `toml:"own"`
	// Under are files that count before these, the first the least, for all programs or,
	// with {program} in the path, for one: the system's, and what a program brings along.
	Under []string `toml:"under"`
	// Words are folders by the runtime's own names, "home" or, before a slash, "xdg-data".
	Words map[string]string `toml:"words"`
	// Modes are what may stand after a folder, ":ro"; the first is for reading alone.
	Modes []string `toml:"modes"`
	// Not stands before a folder that is no longer granted, "!".
	Not string `toml:"not"`
	// Open are folders of the home that every program may look into.
	Open []string `toml:"open"`
	// Within: what lies in a folder that is not granted is found if it is granted itself.
	Within bool `toml:"within"`
	// Binds are words of folders that the program has as its own, if a folder in them is
	// granted by the word.
	Binds []string `toml:"binds"`
	// Hides are folders of the root that a grant of all of it leaves out.
	Hides []string `toml:"hides"`
}

// FileFor is the file that a plan writes for a program, "" for all: a path with place names.
func (g Grants) FileFor(program string) string {
	if program == "" || g.Own == "" {
		return g.Path
	}
	return strings.ReplaceAll(g.Own, "{program}", program)
}

// GroupFor is the group in it.
func (g Grants) GroupFor(program string) string {
	if program == "" || g.Own != "" {
		return g.Group
	}
	return g.Group + " " + program
}

// Files are the files that count for a program, "" for all, each with its group, the least
// first.
func (g Grants) Files(program string) (out [][2]string) {
	for _, at := range g.Under {
		if of := strings.ReplaceAll(at, "{program}", program); program != "" || of == at {
			out = append(out, [2]string{of, g.Group})
		}
	}
	out = append(out, [2]string{g.Path, g.Group})
	if program != "" {
		out = append(out, [2]string{g.FileFor(program), g.GroupFor(program)})
	}
	return out
}

// Folder is the folder that an entry of the list means, with place names, and whether it is
// taken back; "" for one that is no folder.
func (g Grants) Folder(entry string) (folder string, taken bool) {
	folder = strings.TrimSpace(entry)
	if g.Not != "" {
		folder, taken = strings.CutPrefix(folder, g.Not)
	}
	for _, mode := range g.Modes {
		if rest, ok := strings.CutSuffix(folder, mode); ok {
			folder = rest
			break
		}
	}
	name, rest, _ := strings.Cut(folder, "/")
	if of, ok := g.Words[name]; ok && name != "" {
		return path.Join(of, rest), taken
	}
	if len(g.Words) > 0 && !strings.HasPrefix(folder, "/") && !strings.HasPrefix(folder, "~/") {
		return "", taken
	}
	return folder, taken
}

// Bind reports whether an entry of such a list is one that the program has as a folder of its
// own.
func (g Grants) Bind(entry string) bool {
	name, rest, _ := strings.Cut(strings.TrimPrefix(strings.TrimSpace(entry), g.Not), "/")
	return rest != "" && slices.Contains(g.Binds, name)
}

// Entry is how a folder is written so that it may be read.
func (g Grants) Entry(shown string) string {
	if len(g.Modes) > 0 {
		return shown + g.Modes[0]
	}
	return shown
}

// Condition is a variable of the session that has one of some words in it, which
// colons part, whatever their case.
type Condition struct {
	Key   string   `toml:"key"`
	Words []string `toml:"words"`
	File  string   `toml:"file"` // what has to be there too, with stars
}

// Lookup says how the surface finds the piece a value names.
type Lookup struct {
	Kind    string   `toml:"kind"`     // one of lookups
	Folders []string `toml:"folders"`  // base folders in order, with the place names of [Desk.Expand]
	Also    []string `toml:"also"`     // names the surface adds to the one it was told
	Parts   []string `toml:"parts"`    // of a theme: the folders in it that serve, the best first
	File    string   `toml:"file"`     // of a theme: what such a folder has to hold
	BuiltIn []string `toml:"built-in"` // names that need no folder
	DarkOwn bool     `toml:"dark-own"` // of a theme: in the dark, without a dark form, the program wears its own style
	// Aliases of a theme are names that mean one that is built in, if no folder has them.
	Aliases map[string]string `toml:"aliases"`
	Engines []string          `toml:"engines"` // of a theme of GTK 2: folders of what draws for it, with stars
	// Grants is the list of folders of the home that the program may look into;
	// without one it looks where it likes.
	Grants *Grants `toml:"grants"`
	// Program is the one of a sandbox runtime that is meant, "" for all: what is
	// granted to it alone is granted too.
	Program string `toml:"-"`
	Own     string `toml:"own"` // of a theme: the person's own sheet, which goes over it
	// Extensions of a theme are where a runtime has it as an extension of its own, with
	// {name} and stars: the folder of the sheet.
	Extensions []string `toml:"extensions"`
	// Bound are folders in which a runtime's program finds what was granted by one of the
	// words of [Grants.Binds].
	Bound []string `toml:"bound"`
	// Names of a login theme are the keys of its description, "Group/Key", that
	// name files it cannot do without.
	Names []string `toml:"names"`
	// MadeFor is where a piece says which versions of the program it is made for:
	// a file in its part for the surface, a group and a key, with a range as
	// semantic versions are compared.
	MadeFor *Source `toml:"made-for"`
	Version string  `toml:"-"` // of the program: the surface's
	// Cache is the file in an icon pack that programs go by in the folders' stead.
	Cache string `toml:"cache"`
	// Within are the folders below which a picture has to lie, if the program does
	// not get at others; Formats are the kinds of picture it shows, png, jpeg, svg.
	Within  []string `toml:"within"`
	Formats []string `toml:"formats"`
	// Slides: a folder of pictures will do too, they are shown in turn.
	Slides bool `toml:"slides"`
	// Signed: it takes those alone that are signed, see [Lock].
	Signed bool `toml:"signed"`
	// From are folders of pieces from which what the surface looks for can be made: a look
	// is signed, a pointer set and an icon pack are converted.
	From []string `toml:"from"`
	// Made are folders in a theme, and a file in each, that become what a look has for the
	// surface, the best first.
	Made []Part `toml:"made"`
	// Elements are the names that the drawing of a picture-based style has to have.
	Elements []string `toml:"elements"`
}

// formats are those of sources: key files, GTK 2's resource files, X resources,
// variables of the session's environment, XSETTINGS, GLib's settings, of which
// the group is the schema, fontconfig's rules, of which the group is the family
// that is asked for, colours that a style sheet names, the forms that programs of
// other houses write their settings in, and other surfaces that are followed.
var formats = slices.Concat([]string{"keyfile", "gtkrc", "xresources", "env", "xsettings", "gsettings", "fontconfig", "css"}, forms, []string{"follows"})

// forms are those of package settingsfile.
var forms = func() (out []string) {
	for _, form := range settingsfile.Forms() {
		out = append(out, string(form))
	}
	return out
}()

// lookups are the kinds of lookup: those of pieces; "named-file", something that is
// described in a file of its name, and "palette", one with the colours of a
// terminal; "program", a file that can be run; "pointer-list", a folder of pointers with a list of
// them; "places", pictures made of an icon pack.
var lookups = []string{"", "icon-theme", "theme", "pointer", "font", "picture", "login", "palette", "named-file", "program", "pointer-list", "places"}

// ErrDescriptor: a surface's descriptor is not usable.
var ErrDescriptor = errors.New("surface descriptor")

//go:embed surfaces/*.toml runtimes/surfaces/*.toml
var builtin embed.FS

// Builtin returns the surfaces of the toolkits, which are not to be changed.
func Builtin() []Surface { return slices.Clone(builtins()) }

// Runtimes returns the surfaces of runtimes of sandboxed programs, which are not to be changed.
func Runtimes() []Surface { return slices.Clone(runtimes()) }

// Each is read once: there are long ones among them.
var (
	builtins = sync.OnceValue(func() []Surface { return MustLoad(builtin, "surfaces") })
	runtimes = sync.OnceValue(func() []Surface { return MustLoad(builtin, "runtimes/surfaces") })
)

// MustLoad reads descriptors that are embedded, and tested.
func MustLoad(fsys fs.FS, dir string) []Surface {
	out, err := LoadSurfaces(fsys, dir)
	if err != nil {
		panic(err)
	}
	return out
}

// Named is the title as words: that of a descriptor of Ivelt's own is in its table.
func (s Surface) Named() say.Word { return say.Word(s.Title) }

// Does is the title with a verb, in the form that fits it: "GTK 3 programs look",
// "Quayside looks".
func (s Surface) Does(many, one say.Word) say.Message {
	if strings.Contains(strings.ToLower(s.Title), "programs") || strings.HasSuffix(s.Title, "fonts") {
		one = many
	}
	return say.Join(" ", s.Named().Message(), one.Message())
}

// kindTitles are what programs are whose titles are names alone.
var kindTitles = map[string]say.Word{
	"shell": "bar", "login": "login screen", "terminal": "terminal", "frames": "window frames", "files": "file manager",
	"readout": "system readout", "engine": "style engine",
}

// What says in a word or two what the surface is: "bar", "login screen"; "" where its title
// tells.
func (s Surface) What() say.Word {
	what := kindTitles[s.Kind]
	if strings.Contains(strings.ToLower(s.Title), string(what)) {
		return ""
	}
	return what
}

// Full is the title with what the surface is: "Quayside, the bar".
func (s Surface) Full() say.Message {
	if what := s.What(); what != "" {
		return say.Line("%s, the %s", s.Named(), what)
	}
	return s.Named().Message()
}

// Among is the same within a list: "the bar Quayside".
func (s Surface) Among() say.Message {
	if what := s.What(); what != "" {
		return say.Line("the %s %s", what, s.Named())
	}
	return s.Named().Message()
}

// Present are those of surfaces whose program is on the desk.
func (d *Desk) Present(all []Surface) []Surface {
	return slices.DeleteFunc(slices.Clone(all), func(s Surface) bool {
		return len(s.Present) > 0 && !slices.ContainsFunc(s.Present, func(pattern string) bool {
			return slices.ContainsFunc(d.Expand(pattern), func(p string) bool {
				found, _ := fs.Glob(d.Tree(), Name(p))
				return found != nil
			})
		})
	})
}

// LoadSurfaces reads every descriptor in a folder, by file name.
func LoadSurfaces(fsys fs.FS, dir string) ([]Surface, error) {
	names, err := fs.Glob(fsys, dir+"/*.toml")
	if err != nil {
		return nil, err
	}
	sort.Strings(names)
	var out []Surface
	for _, name := range names {
		b, err := fs.ReadFile(fsys, name)
		if err != nil {
			return nil, err
		}
		s, err := ParseSurface(b)
		if err != nil {
			return nil, say.Errorf("%s: %w", name, err)
		}
		out = append(out, s)
	}
	return out, nil
}

// OwnSurfaces reads the descriptors that a desk's person keeps, by file name, from
// {config}/ivelt/surfaces, and those that came from others and were taken, each in a folder
// of its own there. One that cannot be used is left out and told by its error; one of the
// person's with the ID of another takes its place. It may be called again, when they are
// others.
func (d *Desk) OwnSurfaces() (broken []error) {
	given := d.given()
	all := slices.Clone(given)
	dir := Name(d.First(ownFolder))
	names, err := fs.Glob(d.Tree(), dir+"/*.toml")
	if err != nil {
		return []error{err}
	}
	sort.Strings(names)
	for _, name := range names {
		b, err := fs.ReadFile(d.Tree(), name)
		if err == nil && len(b) > tomlfile.MaxBytes {
			err = say.Errorf("%w: it is larger than %d bytes", ErrDescriptor, tomlfile.MaxBytes)
		}
		var s Surface
		if err == nil {
			s, err = ParseSurface(b)
		}
		if err != nil {
			broken = append(broken, say.Errorf("%s: %w", d.Show(Path(name)), err))
			continue
		}
		if i := slices.IndexFunc(all, func(have Surface) bool { return have.ID == s.ID }); i >= 0 {
			all[i] = s
		} else {
			all = append(all, s)
		}
	}
	came, more := d.cameSurfaces(all)
	broken = append(broken, more...)
	d.SetSurfaces(append(all, d.Present(came)...))
	d.surfaces.given.Store(&given)
	d.surfaces.broken.Store(&broken)
	return broken
}

// Broken are the person's descriptors, and those that came from others, that [Desk.OwnSurfaces]
// could not use.
func (d *Desk) Broken() []error {
	if d.surfaces == nil {
		return nil
	}
	if all := d.surfaces.broken.Load(); all != nil {
		return *all
	}
	return nil
}

// ParseSurface reads one descriptor. Errors wrap [ErrDescriptor].
func ParseSurface(b []byte) (Surface, error) {
	var s Surface
	if err := tomlfile.Strict(b, &s); err != nil {
		var unknown *tomlfile.Unknown
		if errors.As(err, &unknown) {
			return s, say.Errorf("%w: line %d: %s is nothing a descriptor says", ErrDescriptor, unknown.Line, unknown.Key)
		}
		return s, say.Errorf("%w: %w", ErrDescriptor, err)
	}
	switch {
	case s.ID == "" || s.Title == "":
		return s, say.Errorf("%w: id and title must be given", ErrDescriptor)
	case len(s.Facets) == 0 && len(s.Looks) == 0 && len(s.Cannot) == 0:
		return s, say.Errorf("%w: %s has neither a facet nor a folder it looks in", ErrDescriptor, s.ID)
	}
	for i := range s.Facets {
		f := &s.Facets[i]
		if f.Key != "" && len(f.Sources) == 0 {
			f.fill(s)
		}
		f.Lookup.Version = s.Version
		f.Sources = append(slices.Clone(f.Before), f.Sources...)
	}
	if err := s.valid(); err != nil {
		return s, say.Errorf("%w: %s: %w", ErrDescriptor, s.ID, err)
	}
	return s, nil
}

// fill gives a facet the surface's own sources under its key.
func (f *Facet) fill(s Surface) {
	under := func(src Source) Source {
		src.Key = f.Key
		if f.Group != "" {
			src.Group = f.Group
		}
		return src
	}
	for _, src := range s.Sources {
		f.Sources = append(f.Sources, under(src))
	}
	if s.Loaded != nil && f.Loaded == nil && !f.Live {
		loaded := *s.Loaded
		loaded.Key = f.Key
		f.Loaded = &loaded
	}
}

// Nearest is the layout within the facet's limits that comes nearest to one, and what of it is lost; a
// value that is none, or has no limits, is itself.
func (f Facet) Nearest(value string) (nearest string, lost []layout.Loss) {
	info, _ := FacetOf(f.Name)
	switch {
	case f.Limits == nil:
	case info.Takes == TakesBars:
		if bars, err := layout.ParseBars(value); err == nil {
			bars, lost = f.Limits.Nearest(bars)
			return layout.FormatBars(bars), lost
		}
	case info.Takes == TakesTiles:
		if tiles, err := layout.ParseTiles(value); err == nil {
			tiles, lost = f.Limits.NearestTiles(tiles)
			return tiles.String(), lost
		}
	}
	return value, nil
}

// Facet returns what the surface says of a facet.
func (s Surface) Facet(name string) (Facet, bool) {
	for _, f := range s.Facets {
		if f.Name == name {
			return f, true
		}
	}
	return Facet{}, false
}
