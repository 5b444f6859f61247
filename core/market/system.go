package market

import (
	"context"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"
)

// System is a family of packages: what a system's package manager offers, as the lists on its
// disk tell it, and the commands that fetch and install it. A desk's tree is where the lists
// lie; commands are only named here, and run elsewhere.
type System interface {
	// Name is what its market is called.
	Name() string
	// Here reports whether a system has packages of the family.
	Here(tree fs.FS) bool
	// Lists are the files that are read, with what changes when one of them does.
	Lists(tree fs.FS) ([]List, error)
	// Read calls each for the packages of one list, until it fails or the context ends. A
	// list that ends in the middle of a package is an error, once those before were told.
	Read(ctx context.Context, tree fs.FS, list string, each func(Package) error) error
	// Contents are the files that tell of packages what is in them, as far as there are any.
	Contents(tree fs.FS) ([]List, error)
	// ReadContents calls each for the files of packages, by their full paths.
	ReadContents(ctx context.Context, tree fs.FS, list string, each func(name, file string)) error
	// Newer reports whether version a comes after b.
	Newer(a, b string) bool
	// Fetch is the command that brings a package's file into the working folder, without an
	// administrator.
	Fetch(name, version string) []string
}

// List is a file of a package manager.
type List struct {
	Name  string // in the desk's tree
	Stamp string
}

// Package is what a list tells of one package.
type Package struct {
	Name       string   `json:"name"`
	Version    string   `json:"version"`
	Section    string   `json:"section,omitempty"`
	Data       bool     `json:"data,omitempty"` // nothing in it is for one kind of processor
	Summary    string   `json:"summary,omitempty"`
	Maintainer string   `json:"maintainer,omitempty"`
	Tags       []string `json:"tags,omitempty"`
	Depends    []string `json:"depends,omitempty"`
	File       string   `json:"file,omitempty"`
	SHA256     string   `json:"sha256,omitempty"`
	Size       int64    `json:"size,omitempty"`
}

// The words that tell the kind of a package are common practice of those who name them, no
// source; what each rule finds and misses is counted against lists of contents (package truth).
var (
	notPieces = regexp.MustCompile(`^(lib|python3?-|ruby-|node-|elpa-|golang-|r-|latex-|texlive|tex-|php-|emacs|haskell-)|-(doc|docs|dev|udeb|dbg|perl|tools?|utils?|scripts?|snippet|bin)$`)
	empty     = regexp.MustCompile(`meta-?\s?package|transitional|dummy|dependency package`)
	fontNames = regexp.MustCompile(`^(fonts|ttf|otf|xfonts|t1)-|^unifont|^gsfonts`)
	builtToo  = regexp.MustCompile(`gtk-theme|themes?$`) // pieces that some build for one kind of processor all the same
	otherKind = regexp.MustCompile(`grub|plymouth|login|shell|sound|greeter|boot`)
	widgets   = regexp.MustCompile(`\bgtk|desktop|modern|flat|widget`)
	pointers  = regexp.MustCompile(`cursor|pointer|mouse theme`)
	iconic    = regexp.MustCompile(`\bicons?\b`)
	scenery   = regexp.MustCompile(`wallpaper|background|artwork|picture`)
	// sections in which packages are for programs and their makers (packages.debian.org).
	elsewhere = strings.Fields("admin cli-mono comm database debug devel doc editors education electronics embedded games gnu-r gnustep golang hamradio haskell httpd interpreters introspection java javascript kernel libdevel libs lisp localization mail math net news ocaml oldlibs otherosfs perl php python ruby rust science shells sound tex text translations vcs video web zope")
)

// Likely is the kind of pieces that a package probably has, by its name, its section, its tags,
// what it depends on and what is said of it; "" if it probably has none.
func (p Package) Likely() string {
	said := strings.ToLower(p.Summary)
	if notPieces.MatchString(p.Name) || empty.MatchString(said) {
		return ""
	}
	tagged := func(tag string) bool { return slices.Contains(p.Tags, tag) }
	section := path.Base(p.Section)
	if fontNames.MatchString(p.Name) || (section == "fonts" && tagged("made-of::font")) {
		return "font"
	}
	if !p.Data && !builtToo.MatchString(p.Name) || slices.Contains(elsewhere, section) {
		return ""
	}
	words := strings.FieldsFunc(p.Name, func(r rune) bool { return strings.ContainsRune("-_.+", r) })
	named := func(any ...string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return slices.Contains(any, w) })
	}
	themed, all := tagged("x11::theme"), said+" "+p.Name
	switch {
	case (named("cursor", "cursors", "xcursor") || themed || strings.HasSuffix(p.Name, "cursors")) && pointers.MatchString(all):
		return "pointer"
	case named("icon", "icons") && iconic.MatchString(said) && (named("theme", "themes") || strings.Contains(said, "set") || strings.Contains(said, "desktop") || strings.Contains(said, "theme") || slices.Contains(p.Depends, "hicolor-icon-theme")):
		return "icons"
	case named("background", "backgrounds", "wallpaper", "wallpapers") && scenery.MatchString(said):
		return "backdrop"
	case themed && iconic.MatchString(said) && !strings.Contains(all, "gtk"):
		return "icons"
	case named("theme", "themes") && (widgets.MatchString(all) || themed) && !otherKind.MatchString(all):
		return "theme"
	case themed && (strings.Contains(all, "gtk") || strings.Contains(said, "theme for")):
		return "theme"
	}
	return ""
}

// pieceFolders are where pieces lie that are there for everyone (the Icon Theme and Base
// Directory specifications, freedesktop.org; GTK's reference manual, "Running GTK
// applications"; fonts.conf(5) as it comes; of backdrops common practice, no source).
var (
	themeFile    = regexp.MustCompile(`^/usr/share/themes/[^/]+/(gtk-[234][^/]*/.|index\.theme$)`)
	pointerFile  = regexp.MustCompile(`^/usr/share/icons/[^/]+/cursors/.`)
	iconFile     = regexp.MustCompile(`^/usr/share/icons/[^/]+/.*\.(png|svgz?|xpm)$`)
	fontFile     = regexp.MustCompile(`(?i)^/usr/share/fonts/.*\.(ttf|otf|ttc|otc|pfb|pcf|pcf\.gz|woff2?)$`)
	backdropFile = regexp.MustCompile(`(?i)^/usr/share/(backgrounds|wallpapers)/.*\.(png|jpe?g|svgz?|webp)$`)
	beside       = regexp.MustCompile(`^/(etc|usr/share/(doc|man|metainfo|lintian|bug|fontconfig|licenses))(/|$)`)
)

// Held counts a package's files: those of pieces, by kind, and all that are neither
// documentation nor settings. The pack that every system has, hicolor, is none of a package's
// own.
type Held struct {
	of  [5]int
	all int
}

// heldKinds are the kinds of [Held]; of as many files of two the first is meant.
var heldKinds = [5]string{"theme", "pointer", "icons", "font", "backdrop"}

// Add counts a file.
func (h *Held) Add(file string) {
	if beside.MatchString(file) {
		return
	}
	h.all++
	if !strings.HasPrefix(file, "/usr/share/") {
		return
	}
	switch {
	case themeFile.MatchString(file):
		h.of[0]++
	case strings.HasPrefix(file, "/usr/share/icons/hicolor/"):
	case pointerFile.MatchString(file):
		h.of[1]++
	case iconFile.MatchString(file):
		h.of[2]++
	case fontFile.MatchString(file):
		h.of[3]++
	case backdropFile.MatchString(file):
		h.of[4]++
	}
}

// Has is how many files of pieces of a kind there are.
func (h Held) Has(kind string) int {
	if i := slices.Index(heldKinds[:], kind); i >= 0 {
		return h.of[i]
	}
	return 0
}

// share of a package's files that pieces have at least, where the package is there for them:
// programs bring an icon or a picture along.
const share = 0.3

// Kind is the one that a package has most files of; "" if it is not there for pieces.
func (h Held) Kind() string {
	kind, most, sum := "", 0, 0
	for i, n := range h.of {
		sum += n
		if n > most {
			kind, most = heldKinds[i], n
		}
	}
	if float64(sum) < share*float64(h.all) {
		return ""
	}
	return kind
}

// Offered is a package as an entry of its system's market.
func (p Package) Offered(kind string, certain bool) Entry {
	e := Entry{ID: p.Name, Kind: kind, Name: p.Name, Maker: p.Maintainer, Summary: p.Summary, Packaged: p.Name, Likely: !certain, Tags: p.Tags}
	e.Versions = []Version{{Version: p.Version, File: path.Base(p.File), Size: p.Size, SHA256: p.SHA256}}
	e.harmless()
	return e
}
