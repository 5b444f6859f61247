package planning

import (
	"context"
	"errors"
	"io/fs"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/archive"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/match"
	"ivelt/core/palette"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// ErrNoFix: the remedy has no plan of its own.
var ErrNoFix = errors.New("there is no plan for this: do it as it says")

// Fix plans what a remedy of a cell asks for.
func Fix(ctx context.Context, d *desk.Desk, c match.Cell, r match.Fix) (plan.Plan, error) {
	switch r.Kind {
	case match.BySaying, match.ByOut:
		if f, ok := c.Surface.Facet(c.Facet); ok && f.Singles != nil && r.Kind == match.ByOut && slices.ContainsFunc(c.Reading.Singles, func(s reading.Single) bool { return s.Path == r.Path && s.Key == r.Key }) {
			return together(d, c.Surface, f, r)
		}
		return Say(d, SourceRef{Surface: c.Surface.ID, Facet: c.Facet, Path: r.Path, Key: r.Key}, r.Want)
	case match.ByRemove:
		return clear(d, r.Path, c.Facet)
	case match.ByNarrow:
		return Narrow(d, c.Surface)
	case match.ByLink:
		return LinkTo(d, r.Path, r.Want, c)
	case match.ByStart:
		return start(d, c.Surface, r.Path)
	case match.ByUnstart:
		return unstart(d, c.Surface, r.Path)
	case match.ByForget:
		f, _ := c.Surface.Facet(c.Facet)
		return forget(d, c.Surface, f)
	case match.ByAdopt:
		return adopt(ctx, d, r.Path)
	}
	return plan.Plan{}, ErrNoFix
}

// start plans to have a program started at sign-in, by an entry of the person's (Desktop Application
// Autostart Specification 0.5). One that is there and only switched off is switched on again.
func start(d *desk.Desk, s desk.Surface, entry string) (plan.Plan, error) {
	out := plan.Plan{Title: "Start " + s.Title + " at sign-in"}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	err := b.startEntry(s, entry)
	return out.Seal(d), err
}

// unstart plans to have a program started at sign-in no longer.
func unstart(d *desk.Desk, s desk.Surface, entry string) (plan.Plan, error) {
	out := plan.Plan{Title: "No longer start " + s.Title}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	err := b.edit(entry, s, desk.Facet{}, say.Of("plan/start-no-longer", s.Named()), plan.EffectOf(s.Restart), func(old []byte) []byte {
		kf, err := keyfile.Parse(old)
		if err != nil {
			return old
		}
		kf.Set("Desktop Entry", "Hidden", "true")
		return kf.Bytes()
	})
	return out.Seal(d), err
}

// startEntry adds what has a program started at sign-in.
func (b *builder) startEntry(s desk.Surface, entry string) error {
	return b.edit(entry, s, desk.Facet{}, say.Of("plan/start-at-sign-in", s.Named(), s.Starts), plan.SignIn, func(old []byte) []byte {
		const group = "Desktop Entry"
		kf, err := keyfile.Parse(old)
		if err == nil && kf.Get(group, "Exec") != "" {
			kf.Set(group, "Hidden", "false")
			return kf.Bytes()
		}
		kf = &keyfile.File{}
		kf.Set(group, "Type", "Application")
		kf.Set(group, "Name", s.Title) // which may be a stranger's
		kf.Set(group, "Exec", s.Starts)
		return kf.Bytes()
	})
}

// together plans to take out one thing that was set by hand.
func together(d *desk.Desk, s desk.Surface, f desk.Facet, r match.Fix) (plan.Plan, error) {
	out := plan.Plan{Title: "Let " + r.Key + " go with the others"}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	err := b.together(s, f, []reading.Single{{Key: r.Key, Path: r.Path}})
	return out.Seal(d), err
}

// clear plans to remove a piece's folder, or a file that is made anew.
func clear(d *desk.Desk, p, facet string) (plan.Plan, error) {
	to, err := d.Tree().Resolve(desk.Name(p))
	if err != nil {
		return plan.Plan{}, err
	}
	now, err := plan.Look(d, desk.Path(to))
	if err != nil {
		return plan.Plan{}, err
	}
	if now.Kind != "file" {
		return TakeAway(d, p, path.Base(p), facet)
	}
	out := plan.Plan{Title: "Remove " + path.Base(p)}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	b.add(plan.Op{Kind: plan.Remove, Path: desk.Path(to), Before: now, Facet: facet, Says: say.Of("plan/let-programs-look-into-folders"), Effect: plan.ProgramRestart})
	return out.Seal(d), nil
}

// LinkTo plans a link at a path of the desk that leads to a piece which lies where
// a surface does not look.
func LinkTo(d *desk.Desk, at, to string, c match.Cell) (plan.Plan, error) {
	out := plan.Plan{Title: "Show " + path.Base(to) + " to " + c.Surface.Title}
	b := builder{d: d, plan: &out, made: map[string]bool{}}
	if d.Exists(at) {
		return plan.Plan{}, say.Errorf("%w: %s", plan.ErrExists, d.Show(at))
	}
	target, err := filepath.Rel(path.Dir(at), to)
	if err != nil {
		return plan.Plan{}, err
	}
	if !d.Mine(to) { // what is the system's has its place whatever becomes of the home
		target = to
	}
	b.parents(at, c.Facet)
	b.add(plan.Op{Kind: plan.Link, Path: at, After: plan.State{Kind: "link", Hash: filepath.ToSlash(target)}, Facet: c.Facet, Says: say.Of("plan/show-programs-look-only-here"), Effect: plan.AtOnce})
	return out.Seal(d), nil
}

// adopt plans a copy of a piece of the system in the person's own folder of the
// same name.
func adopt(ctx context.Context, d *desk.Desk, folder string) (plan.Plan, error) {
	host := d.HostPath(folder)
	p, err := parcel.Open(ctx, host, archive.Options{})
	if err != nil {
		return plan.Plan{}, err
	}
	defer p.Close()
	kinds := map[string]string{"themes": "~/.themes", "icons": "~/.icons"}
	base, ok := kinds[path.Base(path.Dir(folder))]
	if !ok {
		return plan.Plan{}, ErrNoFix
	}
	kind := map[string]parcel.Kind{"themes": parcel.Theme, "icons": parcel.Icons}[path.Base(path.Dir(folder))]
	piece := parcel.Piece{Kind: kind, Name: path.Base(folder), Folder: path.Base(folder), Root: "."}
	plan, err := Install(ctx, d, p, []Placing{{Piece: piece, Target: path.Join(d.First(base), piece.Folder)}})
	plan.Title = "Keep a copy of " + piece.Name
	return plan, err
}

// Narrow plans to grant a sandbox runtime no more than the folders of the pieces
// that its programs are told, in the stead of what is too wide.
func Narrow(d *desk.Desk, s desk.Surface) (plan.Plan, error) {
	out := plan.Plan{Title: "Grant " + s.Title + " no more than needed"}
	b := builder{d: d, seen: d, plan: &out, made: map[string]bool{}}
	for _, f := range s.Facets {
		wide := reading.TooWide(d, f.Lookup)
		if len(wide) == 0 {
			continue
		}
		if err := b.regrant(s, f, say.Of("plan/grant-no-more-than-needed"), func(list []string) []string {
			return slices.DeleteFunc(list, func(folder string) bool {
				return slices.ContainsFunc(d.Expand(strings.TrimSpace(folder)), func(p string) bool { return slices.Contains(wide, p) })
			})
		}); err != nil {
			return out, err
		}
		done, release, err := plan.Done(d, out, out)
		if err != nil {
			return out, err
		}
		folder := reading.Grantable(done, f.Lookup, reading.Told(d, s, f).Value)
		release()
		if folder == "" {
			continue
		}
		if err := b.regrant(s, f, say.Of("plan/let-look-into", d.Show(folder)), func(list []string) []string { return append(list, d.Show(folder)) }); err != nil {
			return out, err
		}
	}
	return out.Seal(d), nil
}

// Grant plans to let one program of a runtime, or all with program "", look into a
// folder of the home; Revoke plans to take that back.
func Grant(d *desk.Desk, s desk.Surface, program, folder string) (plan.Plan, error) {
	return granting(d, s, program, "Let "+whom(s, program)+" look into "+d.Show(folder), say.Of("plan/let-program-look-into", whom(s, program), d.Show(folder)), func(list []string) []string {
		if slices.ContainsFunc(list, means(d, s, folder)) {
			return list
		}
		return append(list, grantsOf(s).Entry(d.Show(folder)))
	})
}

// grantsOf is where a runtime has what it grants.
func grantsOf(s desk.Surface) desk.Grants {
	for _, f := range s.Facets {
		if f.Lookup.Grants != nil {
			return *f.Lookup.Grants
		}
	}
	return desk.Grants{}
}

// Revoke is [Grant] taken back.
func Revoke(d *desk.Desk, s desk.Surface, program, folder string) (plan.Plan, error) {
	return granting(d, s, program, "No longer let "+whom(s, program)+" look into "+d.Show(folder), say.Of("plan/no-longer-let-look-into", whom(s, program), d.Show(folder)), func(list []string) []string {
		return slices.DeleteFunc(list, means(d, s, folder))
	})
}

// means tells the entries of a list of grants that grant a folder.
func means(d *desk.Desk, s desk.Surface, folder string) func(entry string) bool {
	g := grantsOf(s)
	return func(entry string) bool {
		have, taken := g.Folder(entry)
		return !taken && have != "" && slices.Contains(d.Expand(have), folder)
	}
}

func whom(s desk.Surface, program string) string {
	if program == "" {
		return "all " + strings.ToLower(s.Title[:1]) + s.Title[1:]
	}
	return program
}

func granting(d *desk.Desk, s desk.Surface, program, title string, why say.Message, change func([]string) []string) (plan.Plan, error) {
	out := plan.Plan{Title: title}
	b := builder{d: d, seen: d, plan: &out, made: map[string]bool{}}
	for _, f := range s.Facets {
		if f.Lookup.Grants == nil {
			continue
		}
		f.Lookup.Program = program
		err := b.regrant(s, f, why, change)
		return out.Seal(d), err
	}
	return out, say.Errorf("%s no grants", s.Does("have", "has"))
}

// regrant adds the operation that makes a list of grants another.
func (b *builder) regrant(s desk.Surface, f desk.Facet, why say.Message, change func([]string) []string) error {
	g := *f.Lookup.Grants
	group, at := g.GroupFor(f.Lookup.Program), b.d.First(g.FileFor(f.Lookup.Program))
	old, err := b.d.Tree().ReadSettings(desk.Name(at))
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if _, err := keyfile.Parse(old); err != nil {
		return say.Errorf("%s: %w", b.d.Show(at), err)
	}
	return b.edit(at, s, f, why, plan.EffectOf(s.Restart), func(old []byte) []byte {
		kf, _ := keyfile.Parse(old)
		list := kf.List(group, g.Key, ';')
		was := len(list)
		list = change(list)
		if was > 0 && len(list) == 0 && f.Lookup.Program != "" {
			kf.Remove(group, g.Key)
		} else {
			kf.Set(group, g.Key, strings.Join(list, ";"))
		}
		return kf.Bytes()
	})
}

// Remap plans to make some of a terminal's colours others, in a palette of the
// person's own that it is told to use from then on: the palette itself if that is
// the person's, else a copy of it with "-mine" after its name.
func Remap(d *desk.Desk, s desk.Surface, colours map[int]colour.Colour) (plan.Plan, error) {
	f, ok := s.Facet(desk.FacetPalette)
	if !ok {
		return plan.Plan{}, say.Errorf("%s no palette", s.Does("have", "has"))
	}
	name := reading.Told(d, s, f).Value
	file, err := reading.Find(d, f.Lookup, name)
	if err != nil {
		return plan.Plan{}, say.Errorf("the palette %s cannot be used: %w", reading.Quoted(name), err)
	}
	if file == "" {
		return plan.Plan{}, say.Errorf("%s built-in colours, which cannot be edited: choose a palette first", s.Does("use", "uses"))
	}
	text, err := d.Tree().ReadSettings(desk.Name(file))
	if err != nil {
		return plan.Plan{}, err
	}
	for i, c := range colours {
		text = palette.Set(text, i, c)
	}
	out := plan.Plan{Title: "Make colours of " + name + " readable"}
	b := builder{d: d, seen: d, plan: &out, made: map[string]bool{}, told: map[string]bool{}, unsetting: map[string]bool{}}
	if !d.Mine(file) {
		name += "-mine"
		folder := ""
		for _, base := range f.Lookup.Folders {
			if p := d.First(base); d.Mine(p) {
				folder = p
				break
			}
		}
		if folder == "" {
			return plan.Plan{}, say.Errorf("%s looks for palettes in no folder of your own", s.Title)
		}
		file = path.Join(folder, strings.ReplaceAll(f.Lookup.File, "*", name))
	}
	if err := b.edit(file, s, f, say.Of("plan/have-colours-can-be-read"), plan.EffectOf(s.Restart), func([]byte) []byte { return text }); err != nil {
		return plan.Plan{}, err
	}
	if r := reading.Of(d, s, f); r.Value != name {
		if err := b.write(s, f, name, r); err != nil {
			return plan.Plan{}, err
		}
	}
	return out.Seal(d), nil
}

// OwnSheet plans to put lines at the end of the person's own style sheets that go
// over the themes of surfaces.
func OwnSheet(d *desk.Desk, surfaces []string, facet, lines string) (plan.Plan, error) {
	out := plan.Plan{Title: "Set colours in a sheet of your own"}
	b := builder{d: d, seen: d, plan: &out, made: map[string]bool{}, told: map[string]bool{}, unsetting: map[string]bool{}}
	for _, id := range surfaces {
		s, ok := d.Surface(id)
		f, has := s.Facet(facet)
		if !ok || !has || f.Lookup.Own == "" {
			return plan.Plan{}, say.Errorf("%s no sheet of your own", s.Does("read", "reads"))
		}
		add := func(old []byte) []byte {
			if len(old) > 0 && old[len(old)-1] != '\n' {
				old = append(slices.Clone(old), '\n')
			}
			return append(slices.Clone(old), lines...)
		}
		if err := b.edit(d.First(f.Lookup.Own), s, f, say.Of("plan/have-colours-can-be-told"), plan.EffectOf(s.Restart), add); err != nil {
			return plan.Plan{}, err
		}
	}
	return out.Seal(d), nil
}
