package match

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/reading"
)

// aside adds what is good to know of a reading, whatever is wanted.
func (c *Cell) aside(d *desk.Desk, f desk.Facet) {
	r, s := c.Reading, c.Surface
	add := func(code reading.Code, remedy Remedy, format string, args ...any) {
		c.Asides = append(c.Asides, Aside{code, fmt.Sprintf(format, args...), remedy})
	}
	if len(r.Copies) > 0 && reading.Another(d, f.Lookup, r.Resolved, r.Copies[0]) {
		remedy := Remedy{Kind: ByRemove, Path: r.Resolved, Text: fmt.Sprintf("Take away the %s in %s, if the other is the newer one.", r.Value, d.Show(path.Dir(r.Resolved)))}
		if !d.Mine(r.Resolved) {
			remedy = Remedy{Kind: ByHand, Text: "Ask who looks after this computer to take one of them away."}
		}
		add(Shadowed, remedy, "There is more than one %s: that in %s is used, and hides that in %s, which is another.", r.Value, d.Show(path.Dir(r.Resolved)), d.Show(path.Dir(r.Copies[0])))
	}
	if wide := reading.TooWide(d, f.Lookup); len(wide) > 0 {
		add(GrantTooWide, Remedy{Kind: ByNarrow, Text: "Grant the folders of the pieces in their stead.", Path: d.First(f.Lookup.Grants.Path)},
			"%s may look into all of %s, which is more than it needs: a program that goes wrong could read everything there.", s.Title, d.Show(wide[0]))
	}
	for _, step := range r.Chain {
		if step.State == reading.SignIn && !reading.Same(f, step.Value, r.Value) {
			add(SetAgain, Remedy{Kind: ByHand, Text: fmt.Sprintf("Take that out to keep %s.", quoteEmpty(r.Value))},
				"At the next sign-in it will be %s: %s, line %d, sets it then.", step.Value, d.Show(step.Path), step.Line)
		}
	}
	if cache := reading.StaleCache(d, f.Lookup, r.Resolved); cache != "" {
		remedy := Remedy{Kind: ByRemove, Path: cache, Text: "Take the list away: programs then look into the folders themselves."}
		if !d.Mine(cache) {
			remedy = Remedy{Kind: ByHand, Text: "Make it anew: sudo gtk-update-icon-cache -f " + path.Dir(cache)}
		}
		add(StaleCache, remedy, "%s is older than what lies in %s: programs go by that list, and do not see the newer icons.", d.Show(cache), d.Show(r.Resolved))
	}
	if owner, file := reading.Lost(d, f.Lookup, r.Resolved); file != "" {
		remedy := Remedy{Kind: ByAdopt, Path: r.Resolved, Text: "Put a copy of it into your own folder, which goes before the system's."}
		if f.Lookup.Kind == "login" && len(f.Lookup.Folders) > 0 {
			remedy = Remedy{Kind: ByHand, Text: "Keep what was changed under another name in " + path.Dir(d.First(f.Lookup.Folders[0])) + ", and choose that."}
		}
		add(WouldBeLost, remedy, "%s was changed since the package %s put it there: the package's next update writes over it.", d.Show(file), owner)
	}
	c.fallback(d, f)
}

// fallback tells of a weaker source that other programs go by, and that says
// otherwise: the pointer of programs that do not know of a variable.
func (c *Cell) fallback(d *desk.Desk, f desk.Facet) {
	r := c.Reading
	if f.Name != desk.FacetPointer || r.Source.Kind != "env" {
		return
	}
	i := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return src.Write && src.Format == "keyfile" })
	if i < 0 {
		return
	}
	at, says := reading.PlaceOf(d, c.Surface, f.Sources[i], nil), "names none"
	for _, step := range r.Chain {
		if step.State == reading.Overruled && step.Key == f.Sources[i].Key {
			if reading.Same(f, step.Value, r.Value) {
				return
			}
			says = "is " + quoteEmpty(step.Value) + ", by " + d.Show(step.Path)
			break
		}
	}
	c.Asides = append(c.Asides, Aside{SecondOne,
		fmt.Sprintf("The set that programs fall back on %s: those that do not go by the variable %s show that.", says, r.Source.Key),
		Remedy{Kind: BySaying, Text: "Make the fallback " + r.Value + " as well.", Path: at, Key: f.Sources[i].Key, Want: r.Value}})
}

// own tells of a program's own setting that goes before what it would follow.
func (c *Cell) own(d *desk.Desk, f desk.Facet) {
	i := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return src.Format == "follows" && len(src.When) == 0 })
	if i < 0 || c.Reading.Source.Kind != "file" || c.Reading.Source.Path == "" {
		return
	}
	leader, ok := d.Surface(f.Sources[i].Path)
	mine := slices.ContainsFunc(f.Sources[:i], func(src desk.Source) bool {
		return slices.Contains(reading.Places(d, c.Surface, src), c.Reading.Source.Path)
	})
	if !ok || !mine {
		return
	}
	c.Code = OwnSetting
	c.Cause = fmt.Sprintf("It has a setting of its own, %s, line %d, which says %s and goes before what %s are told.", d.Show(c.Reading.Source.Path), c.Reading.Source.Line, quoteEmpty(c.Reading.Value), leader.Title)
	c.Others = append(c.Others, Remedy{Kind: ByOut, Text: "Take its own setting out: then it goes with " + leader.Title + ", now and later.", Path: c.Reading.Source.Path, Key: c.Reading.Source.Key})
}

// profile tells of another profile that has what is wanted, and is not the one
// the program opens with.
func (c *Cell) profile(d *desk.Desk, f desk.Facet) {
	for _, held := range c.Surface.Facets {
		hole := "{" + held.Name + "}"
		i := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return strings.Contains(src.Path, hole) })
		if i < 0 {
			continue
		}
		now := reading.Told(d, c.Surface, held).Value
		for _, name := range reading.Named(d, held.Lookup) {
			src := f.Sources[i]
			src.Path = strings.ReplaceAll(src.Path, hole, name)
			if name == now || !slices.ContainsFunc(reading.Ask(d, c.Surface, f, src), func(step reading.Step) bool {
				return step.State == reading.Wins && reading.Same(f, step.Value, c.Want)
			}) {
				continue
			}
			c.Code = SecondOne
			c.Cause = fmt.Sprintf("%s is set in %q, and %s with %q, which says %s.", c.Want, name, c.Surface.Does("open", "opens"), now, quoteEmpty(c.Reading.Value))
			c.Others = append([]Remedy{c.Remedy}, c.Others...)
			c.Remedy = Remedy{Kind: ByDraft, Text: "Open with " + name + " from now on.", Facet: held.Name, Want: name}
			return
		}
	}
}

func named(singles []reading.Single) string {
	if len(singles) == 1 {
		return singles[0].Key + " is"
	}
	return fmt.Sprintf("%s and %d more are", singles[0].Key, len(singles)-1)
}

func do(singles []reading.Single) string {
	if len(singles) == 1 {
		return "does"
	}
	return "do"
}
