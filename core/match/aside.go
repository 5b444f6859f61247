package match

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// aside adds what is good to know of a reading, whatever is wanted.
func (c *Cell) aside(d *desk.Desk, f desk.Facet) {
	r, s := c.Reading, c.Surface
	add := func(code reading.Code, remedy Fix, says say.Message) {
		c.Asides = append(c.Asides, Aside{Code: code, Says: says, Remedy: remedy})
	}
	if len(r.Copies) > 0 && r.Resolved != "" && reading.Another(d, f.Lookup, r.Resolved, r.Copies[0]) {
		remedy := Fix{Kind: ByRemove, Path: r.Resolved, Says: say.Of("match/take-away-if-other-newer", r.Value, d.Show(path.Dir(r.Resolved)))}
		if !d.Mine(r.Resolved) {
			remedy = Fix{Kind: ByHand, Says: say.Of("match/ask-who-looks-after-this")}
		}
		add(Shadowed, remedy, say.Of("match/there-more-than-one-used", r.Value, d.Show(path.Dir(r.Resolved)), d.Show(path.Dir(r.Copies[0]))))
	}
	if wide := reading.TooWide(d, f.Lookup); len(wide) > 0 {
		add(GrantTooWide, Fix{Kind: ByNarrow, Says: say.Of("match/grant-folders-pieces-their-stead"), Path: d.First(f.Lookup.Grants.Path)}, say.Of("match/may-look-into-all-more", s.Named(), d.Show(wide[0])))
	}
	for _, step := range r.Chain {
		if step.State == reading.SignIn && !reading.Same(f, step.Value, r.Value) {
			add(SetAgain, Fix{Kind: ByHand, Says: say.Of("match/take-out-keep", quoteEmpty(r.Value))}, say.Of("match/at-next-sign-will-be", step.Value, d.Show(step.Path), step.Line))
		}
	}
	if cache := reading.StaleCache(d, f.Lookup, r.Resolved); cache != "" {
		remedy := Fix{Kind: ByRemove, Path: cache, Says: say.Of("match/take-list-away-programs-then")}
		if !d.Mine(cache) {
			remedy = Fix{Kind: ByHand, Says: say.Of("match/make-anew-sudo-gtk-update", path.Dir(cache))}
		}
		add(StaleCache, remedy, say.Of("match/older-than-what-lies-programs", d.Show(cache), d.Show(r.Resolved)))
	}
	if owner, file := reading.Lost(d, f.Lookup, r.Resolved); file != "" {
		remedy := Fix{Kind: ByAdopt, Path: r.Resolved, Says: say.Of("match/put-copy-into-your-own")}
		if f.Lookup.Kind == "login" && len(f.Lookup.Folders) > 0 {
			remedy = Fix{Kind: ByHand, Says: say.Of("match/keep-what-was-changed-under", path.Dir(d.First(f.Lookup.Folders[0])))}
		}
		add(WouldBeLost, remedy, say.Of("match/was-changed-since-package-put", d.Show(file), owner))
	}
	if unfit := reading.Unfit(d, s); f.Name == s.Facets[0].Name && unfit.Code != "" && reading.Started(d, s) {
		remedy := Fix{Kind: ByHand, Says: say.Of("match/no-longer-start", s.Named())}
		if entry := d.First("{config}/autostart/" + s.ID + ".desktop"); d.Exists(entry) {
			remedy.Kind, remedy.Path = ByUnstart, entry
		}
		add(NotUp, remedy, say.Of("match/not-up", unfit))
	}
	if f.Name == s.Facets[0].Name && !reading.Started(d, s) && (s.Instead == "" || c.Want != "") {
		remedy := Fix{Kind: ByStart, Path: d.First("{config}/autostart/" + s.ID + ".desktop"), Says: say.Of("match/have-started")}
		add(NotStarted, remedy, say.Of("match/not-started", s.Named()))
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
	at, says := reading.PlaceOf(d, c.Surface, f.Sources[i], nil), say.Of("match/names-none")
	for _, step := range r.Chain {
		if step.State == reading.Overruled && step.Key == f.Sources[i].Key {
			if reading.Same(f, step.Value, r.Value) {
				return
			}
			says = say.Of("match/is-by", quoteEmpty(step.Value), d.Show(step.Path))
			break
		}
	}
	c.Asides = append(c.Asides, Aside{
		Code:   SecondOne,
		Says:   say.Of("match/set-programs-fall-back-those", says, r.Source.Key),
		Remedy: Fix{Kind: BySaying, Says: say.Of("match/make-fallback-as-well", r.Value), Path: at, Key: f.Sources[i].Key, Want: r.Value},
	})
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
	c.Because = say.Of("match/has-setting-own-line-says", d.Show(c.Reading.Source.Path), c.Reading.Source.Line, quoteEmpty(c.Reading.Value), leader.Named())
	c.Others = append(c.Others, Fix{Kind: ByOut, Says: say.Of("match/take-own-setting-out-then", leader.Named()), Path: c.Reading.Source.Path, Key: c.Reading.Source.Key})
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
			if name == now || !slices.ContainsFunc(reading.Ask(d, c.Surface, f, src), func(step reading.Link) bool {
				return step.State == reading.Wins && reading.Same(f, step.Value, c.Want)
			}) {
				continue
			}
			c.Code = SecondOne
			c.Because = say.Of("match/set-says", c.Want, name, c.Surface.Does("start", "starts"), now, quoteEmpty(c.Reading.Value))
			c.Others = append([]Fix{c.Remedy}, c.Others...)
			c.Remedy = Fix{Kind: ByDraft, Says: say.Of("match/open-from-now", name), Facet: held.Name, Want: name}
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
