package iconbench

import (
	"context"
	"io/fs"
	"path"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/keyfile"
	"ivelt/core/say"
)

// LeftKind is what was left over.
type LeftKind string

// What is left over of earlier looks, and keeps a pack from being seen everywhere.
const (
	OwnEntry   LeftKind = "own-entry"   // a copy of a program's entry with another icon than the system's
	FolderIcon LeftKind = "folder-icon" // a folder with an icon of its own, in its file .directory
	StaleCache LeftKind = "stale-cache" // a cache of a pack that was made before its last change
	DeadLink   LeftKind = "dead-link"   // a link in a pack that leads to nothing
)

// Left is one thing that is left over.
type Left struct {
	Kind    LeftKind    `json:"kind"`
	Path    string      `json:"path"`              // of the desk
	Icon    string      `json:"icon,omitempty"`    // that it says
	Instead string      `json:"instead,omitempty"` // that the system's entry says
	Says    say.Message `json:"-"`
	Text    string      `json:"text"`
}

// How far it is looked for things that are left over.
const (
	maxLeft    = 500
	maxEntries = 200_000 // of folders that are gone through
	homeDepth  = 3       // folders below the home in which icons of folders are looked for
)

// leftOvers gathers what is left over.
type leftOvers struct {
	ctx  context.Context
	d    *desk.Desk
	seen int
	out  []Left
}

// LeftOver finds what is left over of earlier looks in the home of a desk: icons that were set one by
// one and do not go with a pack, caches by which GTK does not see what was put into a pack later, and
// links of packs that lead to nothing.
func LeftOver(ctx context.Context, d *desk.Desk) ([]Left, error) {
	l := &leftOvers{ctx: ctx, d: d}
	l.entries()
	l.folders(desk.Name(d.First("~")), 0)
	for _, base := range d.Folders([]string{"~/.icons", "{data}/icons"}) {
		packs, err := fs.ReadDir(d.Tree(), base)
		if err != nil {
			continue
		}
		for _, e := range packs {
			if e.IsDir() { // one that is a link is found where it lies
				l.pack(path.Join(base, e.Name()))
			}
		}
	}
	return l.out, ctx.Err()
}

func (l *leftOvers) tell(left Left) {
	if len(l.out) < maxLeft {
		left.Text = left.Says.String()
		l.out = append(l.out, left)
	}
}

// more reports whether it is gone on.
func (l *leftOvers) more() bool {
	l.seen++
	return l.ctx.Err() == nil && l.seen < maxEntries && len(l.out) < maxLeft
}

// entries finds copies of programs' entries that name another icon than those of the system.
func (l *leftOvers) entries() {
	system := map[string]desktopentry.Program{}
	for _, p := range desktopentry.All(l.d.Tree(), l.d.Folders([]string{"{data-dirs}/applications"})) {
		system[p.ID] = p
	}
	for _, p := range desktopentry.All(l.d.Tree(), l.d.Folders([]string{"{data}/applications"})) {
		theirs, has := system[p.ID]
		if !has || theirs.Icon == p.Icon || !l.d.Mine(desk.Path(p.Path)) {
			continue
		}
		l.tell(Left{Kind: OwnEntry, Path: desk.Path(p.Path), Icon: p.Icon, Instead: theirs.Icon, Says: say.Of("icons/left-own-entry", p.Name, p.Icon, theirs.Icon, l.d.Show(desk.Path(p.Path)))})
	}
}

// folders finds the icons of folders (common practice, no source: a file .directory is written by
// file managers, as the Desktop Entry Specification describes entries of directories).
func (l *leftOvers) folders(at string, depth int) {
	entries, err := fs.ReadDir(l.d.Tree(), at)
	if err != nil || depth > homeDepth {
		return
	}
	for _, e := range entries {
		if !l.more() {
			return
		}
		name := path.Join(at, e.Name())
		switch {
		case e.Name() == ".directory" && e.Type().IsRegular():
			b, err := l.d.Tree().ReadSettings(name)
			if err != nil {
				continue
			}
			kf, err := keyfile.Parse(b)
			if err != nil || kf.Get("Desktop Entry", "Icon") == "" {
				continue
			}
			icon := kf.Get("Desktop Entry", "Icon")
			l.tell(Left{Kind: FolderIcon, Path: desk.Path(name), Icon: icon, Says: say.Of("icons/left-folder-icon", l.d.Show(desk.Path(at)), icon)})
		case e.IsDir() && !strings.HasPrefix(e.Name(), "."):
			l.folders(name, depth+1)
		}
	}
}

// cacheFile is GTK's cache of an icon pack, which it goes by in the folders' stead as long as it is
// not older than the pack's folder itself (GTK 3.24, gtkiconcache.c).
const cacheFile = "icon-theme.cache"

func (l *leftOvers) pack(root string) {
	tree := l.d.Tree()
	cache, err := fs.Stat(tree, path.Join(root, cacheFile))
	cached := err == nil && cache.Mode().IsRegular()
	top, err := fs.Stat(tree, root)
	if err != nil {
		return
	}
	older := cached && cache.ModTime().Before(top.ModTime())
	stale := older
	var walk func(at string, depth int)
	walk = func(at string, depth int) {
		entries, err := fs.ReadDir(tree, at)
		if err != nil || depth > 8 {
			return
		}
		for _, e := range entries {
			if !l.more() {
				return
			}
			name := path.Join(at, e.Name())
			switch {
			case e.IsDir():
				if info, err := e.Info(); err == nil && cached && info.ModTime().After(cache.ModTime()) {
					stale = true
				}
				walk(name, depth+1)
			case e.Type()&fs.ModeSymlink != 0:
				if !l.d.Exists(desk.Path(name)) {
					l.tell(Left{Kind: DeadLink, Path: desk.Path(name), Says: say.Of("icons/left-dead-link", l.d.Show(desk.Path(name)))})
				}
			}
		}
	}
	walk(root, 0)
	if stale && l.d.Mine(desk.Path(root)) {
		l.tell(Left{Kind: StaleCache, Path: desk.Path(path.Join(root, cacheFile)), Says: say.Of("icons/left-stale-cache", l.d.Show(desk.Path(path.Join(root, cacheFile))))})
	}
}
