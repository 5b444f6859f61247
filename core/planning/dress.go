// Package planning makes plans: to dress a desk in an outfit, to put pieces in place or take
// them away, to mend what does not follow, and to go back on what was done.
package planning

import (
	"bytes"
	"context"
	"errors"
	"io/fs"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/fontconf"
	"ivelt/core/gsettings"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/gvariant"
	"ivelt/core/keyfile"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/settingsfile"
	"ivelt/core/xresources"
)

// Dress plans to make the desk wear the outfit, starting from its readings:
// only what does not read as wanted is touched. What cannot be brought about is
// listed in [Plan.Blocked].
func Dress(ctx context.Context, d *desk.Desk, o outfit.Outfit) (plan.Plan, error) {
	return dress(ctx, d, o, Options{})
}

// Options of a plan.
type Options struct {
	// Force sets what would keep a login screen or a shell from coming up, which is
	// else refused.
	Force bool
	// Lose gives up what cannot be kept, see [Plan.Lose].
	Lose bool
	// Program is the full path of Ivelt if it is to be started at sign-in, which it is where
	// an outfit turns by itself.
	Program string
}

func dress(ctx context.Context, d *desk.Desk, o outfit.Outfit, opt Options) (plan.Plan, error) {
	out := plan.Plan{Title: "Apply " + o.Name, Outfit: string(o.Bytes()), Lose: opt.Lose}
	b := builder{ctx: ctx, d: d, plan: &out, made: map[string]bool{}, force: opt.Force}
	err := b.dress(d, o)
	return out.Seal(d), err
}

// ToPlace is what a parcel has that is to be put in place first.
type ToPlace struct {
	Parcel   *parcel.Parcel
	Placings []Placing
}

// DressWith plans the same with pieces that are put in place before they are
// named. tried is the desk as it is with them, see [desk.Desk.Layers].
func DressWith(ctx context.Context, d, tried *desk.Desk, o outfit.Outfit, first []ToPlace, opt Options) (plan.Plan, error) {
	out := plan.Plan{Title: "Apply " + o.Name, Outfit: string(o.Bytes()), Lose: opt.Lose}
	b := builder{ctx: ctx, d: d, plan: &out, made: map[string]bool{}, force: opt.Force}
	for _, f := range first {
		for _, pl := range f.Placings {
			if _, err := b.install(ctx, f.Parcel, pl); err != nil {
				return plan.Plan{}, err
			}
		}
	}
	err := b.dress(tried, o)
	if err == nil && opt.Program != "" && !HasSession(d) {
		err = b.startAtSignIn(opt.Program, say.Of("plan/start-turning"))
	}
	return out.Seal(d), err
}

// dress adds what makes the surfaces wear the outfit, as far as they would find
// it on the desk seen.
func (b *builder) dress(seen *desk.Desk, o outfit.Outfit) error {
	// What a plan is worked out from does not change while it is.
	b.d, seen = b.d.Settled().Snapshot(), seen.Settled().Snapshot()
	b.seen, b.outfit, b.unsetting, b.told = seen, o, map[string]bool{}, map[string]bool{}
	for _, s := range b.d.Surfaces() {
		s = reading.Filled(b.d, s, b.wants(s))
		for _, facet := range o.Facets() {
			f, ok := s.Facet(facet)
			want := o.WantOn(s.ID, facet)
			if !ok || want == "" {
				continue
			}
			if err := b.set(s, f, want); err != nil {
				return err
			}
		}
	}
	if err := b.hold(); err != nil {
		return err
	}
	if err := b.putLooks(); err != nil {
		return err
	}
	return b.safeLogin()
}

// hold writes into settings files what only the variables said that are taken
// out: what else they decided stays as it is.
func (b *builder) hold() error {
	if len(b.unsetting) == 0 {
		return nil
	}
	for _, s := range b.d.Surfaces() {
		for _, f := range s.Facets {
			r := reading.Told(b.d, s, f)
			follows := slices.ContainsFunc(f.Sources, func(src desk.Source) bool { return src.Format == "follows" })
			if follows || r.Source.Kind != "env" || !b.unsetting[r.Source.Key] || b.told[s.ID+" "+f.Name] {
				continue
			}
			if err := b.write(s, f, r.Value, r); err != nil {
				return err
			}
		}
	}
	return nil
}

func (b *builder) set(s desk.Surface, f desk.Facet, want string) error {
	block := func(why, remedy say.Message) error {
		b.block(blocked(s, f.Name, why, remedy))
		return nil
	}
	if f.Places != nil {
		return b.setPlaces(s, f, want)
	}
	if s.Instead != "" { // it draws nothing unless it is started
		if unfit := reading.Unfit(b.seen, s); unfit.Code != "" {
			return block(unfit, say.Of("plan/bar-stays-as"))
		}
		if reading.Check(b.seen, s, f, want) == nil && !reading.Started(b.d, s) {
			if err := b.startEntry(s, b.d.First("{config}/autostart/"+s.ID+".desktop")); err != nil {
				return err
			}
		}
	}
	switch err := reading.Check(b.seen, s, f, want); {
	case err != nil && f.Fixed && match.Helped(b.d, s, f.Name):
		return nil
	case errors.As(err, new(*reading.ValueError)):
		return block(say.Of("plan/cannot-follow", s.Named(), err), say.Of("plan/stays-as"))
	case err != nil && b.force && fatal(s, f, err):
	case err != nil:
		made, e := b.makes(s, f, want)
		if made {
			break
		}
		if b.ctx != nil && b.ctx.Err() != nil {
			return b.ctx.Err()
		}
		if errors.Is(e, reading.ErrLocked) {
			return block(say.Of("match/locked", s.Named(), want), say.Of("match/unlock-first", s.Named()))
		}
		if e != nil {
			return block(say.Of("plan/cannot-be-made", want, s.Named(), e), say.Of("plan/stays-as"))
		}
		if granted, e := b.grant(s, f, want); e != nil || !granted {
			return errors.Join(e, block(say.Of("plan/would-not-find", s.Named(), want, err), say.Of("plan/install-first-or-choose-another")))
		}
	}
	r := reading.Of(b.d, s, f)
	if err := b.together(s, f, r.Singles); err != nil {
		return err
	}
	if reading.Same(f, r.Value, want) && !b.otherwise(s, f, want) && (r.Problem == nil || r.Problem.Code != "broken-source") {
		if src, differs := b.fallback(s, f, r, want); differs {
			return b.put(s, f, src, want)
		}
		return nil
	}
	if r.Source.Kind == "env" && !slices.ContainsFunc(f.Sources, func(src desk.Source) bool { return src.Format == "env" && src.Write }) { // it overrules what files say
		if r.Source.Path == "" {
			return block(say.Of("plan/session-environment-sets-overrules-settings", r.Source.Key, s.Named()), say.Of("plan/find-what-sets-take-out"))
		}
		if err := b.unset(s, f, r.Source); err != nil {
			return err
		}
	}
	for _, src := range f.Sources {
		if src.Write && slices.ContainsFunc(reading.Ask(b.d, s, f, src), func(step reading.Link) bool { return step.State == reading.Wins }) {
			break // a setting of its own goes before what it follows
		}
		if src.Format == "follows" {
			return b.follow(s, f, src, want)
		}
	}
	return b.write(s, f, want, r)
}

// fallback is the pointer's weaker source, which programs go by that do not know of the
// variable that says what is wanted already; and whether it says something else.
func (b *builder) fallback(s desk.Surface, f desk.Facet, r reading.Reading, want string) (desk.Source, bool) {
	i := slices.IndexFunc(f.Sources, func(src desk.Source) bool { return src.Write && src.Format == "keyfile" })
	if f.Name != desk.FacetPointer || r.Source.Kind != "env" || i < 0 {
		return desk.Source{}, false
	}
	src := f.Sources[i]
	return src, !slices.ContainsFunc(reading.Ask(b.d, s, f, src), func(step reading.Link) bool { return reading.Same(f, step.Value, want) })
}

// together takes out what a person set by itself, so that it goes with the facet.
func (b *builder) together(s desk.Surface, f desk.Facet, singles []reading.Single) error {
	if len(singles) == 0 {
		return nil
	}
	var names []string
	for _, one := range singles {
		names = append(names, one.Key)
	}
	return b.edit(singles[0].Path, s, f, say.Of("plan/let-go-others", strings.Join(names, ", ")), plan.EffectOf(s.Restart), func(old []byte) []byte {
		kf, err := keyfile.Parse(old)
		if err != nil {
			return old
		}
		for _, name := range names {
			kf.Remove(f.Singles.Group, name)
		}
		return kf.Bytes()
	})
}

// fatal reports whether what is wrong with a choice would keep the surface from
// coming up, and may be forced.
func fatal(s desk.Surface, f desk.Facet, err error) bool {
	return s.Greeter != nil && desk.Vital(f.Name) || errors.Is(err, reading.ErrVersion)
}

// follow makes a surface go with another, which is told what is wanted; there is
// no other way to tell it.
func (b *builder) follow(s desk.Surface, f desk.Facet, src desk.Source, want string) error {
	leader, ok := b.d.Surface(src.Path)
	if of, has := leader.Facet(f.Name); ok && has {
		if other, excepted := b.outfit.Excepted(leader.ID, f.Name); excepted && !reading.Same(of, other, want) {
			b.block(blocked(s, f.Name, say.Of("plan/outfit-leaves-out", s.Does("go", "goes"), leader.Named()), say.Of("plan/leave-out-too-or-take")))
			return nil
		}
		if err := b.set(leader, of, want); err != nil {
			return err
		}
		switch follows, err := reading.Follows(b.d, src); {
		case follows:
			return nil
		case err != nil:
			b.block(blocked(s, f.Name, say.Of("plan/follow-only-part-not-installed", s.Named(), leader.Named(), err), say.Of("plan/install-then-review-again")))
			return nil
		}
		when := src.When[0]
		return b.setVariable(s, f, when.Key, when.Words[0], say.Of("plan/let-follow", s.Named(), leader.Named()))
	}
	b.block(blocked(s, f.Name, say.Of("plan/have-no-settings-their-own", s.Named()), say.Of("plan/stay-as-are")))
	return nil
}

// write puts a facet's value into the file that a plan sets.
func (b *builder) write(s desk.Surface, f desk.Facet, want string, r reading.Reading) error {
	block := func(why, remedy say.Message) error {
		b.block(blocked(s, f.Name, why, remedy))
		return nil
	}
	b.told[s.ID+" "+f.Name] = true
	for _, src := range f.Sources { // what would decide otherwise, and can leave it to the next
		if src.Format != "gsettings" || len(src.Leaves) == 0 || src.On != "" && src.On != b.d.Display() || src.Values[want] != nil {
			continue
		}
		if !slices.ContainsFunc(reading.Ask(b.d, s, f, src), func(step reading.Link) bool { return step.State == reading.Wins }) {
			continue // it does already
		}
		if target, why, _ := b.settingsTarget(s, f, src, want); why.Code == "" {
			target.Values = map[string][]string{want: src.Leaves}
			if err := b.put(s, f, target, want); err != nil {
				return err
			}
		}
	}
	target, why, remedy := b.targetOf(s, f, want)
	if why.Code != "" {
		return block(why, remedy)
	}
	if target.Format == "env" {
		return b.setVariable(s, f, target.Key, reading.Written(f, target, want), setsTo(b.d, s, f, want))
	}
	if err := b.put(s, f, target, want); err != nil {
		return err
	}
	if b.toldBySession() {
		if err := b.tellSession(s, f, want, target.Format == "xresources"); err != nil {
			return err
		}
	}
	for _, src := range b.shaded(f) { // what is asked in the other shade says the same, or its own half
		want := b.inShade(s, f, src, want)
		if target, why, _ := b.settingsTarget(s, f, src, want); why.Code == "" {
			if err := b.put(s, f, target, want); err != nil {
				return err
			}
		}
	}
	return nil
}

// inShade is what a setting for a shade is to say where the outfit has a value for each.
func (b *builder) inShade(s desk.Surface, f desk.Facet, src desk.Source, want string) string {
	if _, excepted := b.outfit.Excepted(s.ID, f.Name); excepted || !b.outfit.Paired(f.Name) {
		return want
	}
	return b.outfit.WantIn(outfit.HalfOf(src.Shade == "dark"), f.Name)
}

// shaded are the settings of a facet that has one for each shade; none if it has but one.
func (b *builder) shaded(f desk.Facet) (out []desk.Source) {
	some := false
	for _, src := range f.Sources {
		if src.Format == "gsettings" && src.Write {
			out, some = append(out, src), some || src.Shade != ""
		}
	}
	if !some {
		return nil
	}
	return out
}

// otherwise reports whether a setting for some shade says something else than is wanted.
func (b *builder) otherwise(s desk.Surface, f desk.Facet, want string) bool {
	return slices.ContainsFunc(b.shaded(f), func(src desk.Source) bool {
		want := b.inShade(s, f, src, want)
		src.Shade = ""
		return !slices.ContainsFunc(reading.Ask(b.d, s, f, src), func(step reading.Link) bool { return step.State == reading.Wins && reading.Same(f, step.Value, want) })
	})
}

// setsTo says which setting of a surface a change sets, from what to what.
func setsTo(d *desk.Desk, s desk.Surface, f desk.Facet, want string) say.Message {
	info, _ := desk.FacetOf(f.Name)
	was := reading.Told(d, s, f).Value
	if strings.Contains(strings.ToLower(s.Title), strings.ToLower(string(info.Title))) { // "The display's pointer"
		if was == "" || was == want {
			return say.Of("plan/set-itself", s.Named(), info.Says(want))
		}
		return say.Of("plan/set-itself-from", s.Named(), info.Says(was), info.Says(want))
	}
	if was == "" || was == want {
		return say.Of("plan/set", info.Title, s.Named(), info.Says(want))
	}
	return say.Of("plan/set-from", info.Title, s.Named(), info.Says(was), info.Says(want))
}

// put edits the file of a source so that it says what is wanted.
func (b *builder) put(s desk.Surface, f desk.Facet, target desk.Source, want string) error {
	block := func(why, remedy say.Message) error {
		b.block(blocked(s, f.Name, why, remedy))
		return nil
	}
	if target.Format == "dconf" {
		return b.putSetting(s, f, target, want)
	}
	shown := reading.PlaceOf(b.d, s, target, nil)
	p, err := b.resolve(shown)
	if err != nil {
		return err
	}
	if !b.mayWrite(s, f.Name, p) {
		return nil
	}
	why := setsTo(b.d, s, f, want)
	for i := range b.plan.Ops { // a file that is written already gets this line too
		if op := &b.plan.Ops[i]; op.Kind == plan.Write && op.Path == p {
			content, err := edited(op.Content, target, f, want)
			if err != nil {
				return err
			}
			op.Content = content
			op.After = plan.FileState(op.Content, op.After.Mode)
			op.Effect = op.Effect.Later(b.effectOf(s, f))
			if !strings.Contains(op.Says.String(), why.String()) {
				op.Says = say.Of("plan/and", op.Says, why)
			}
			return nil
		}
	}
	old, err := b.d.Tree().ReadSettings(desk.Name(p))
	missing := errors.Is(err, fs.ErrNotExist)
	if err != nil && !missing {
		return block(say.Of("plan/cannot-be-read", b.d.Show(p), err), say.Of("plan/make-readable-then-review-again"))
	}
	content, err := edited(old, target, f, want)
	if err != nil {
		return block(say.Of("plan/not-settings-file-can-read", b.d.Show(p), s.Named(), err), say.Of("plan/mend-or-remove-line-then"))
	}
	if !missing && bytes.Equal(content, old) {
		return nil // it says so already, and was overruled
	}
	before, err := plan.Look(b.d, p)
	if err != nil {
		return err
	}
	mode := before.Mode
	if missing {
		mode = 0o644
		b.parents(p, f.Name)
	}
	b.add(plan.Op{
		Kind: plan.Write, Path: p, Before: before, After: plan.FileState(content, mode), Content: content,
		Surface: s.ID, Facet: f.Name, Says: why, Effect: b.effectOf(s, f),
	})
	return nil
}

// targetOf is the source that a plan sets: the one that is meant for it, or one
// that comes before that and would overrule it. If that is none that a plan may
// set, it says why, and what to do.
func (b *builder) targetOf(s desk.Surface, f desk.Facet, want string) (target desk.Source, why, remedy say.Message) {
	speaks := func(src desk.Source) (reading.Link, bool) {
		for _, step := range reading.Ask(b.d, s, f, src) {
			if step.State == reading.Wins {
				return step, true
			}
		}
		return reading.Link{}, false
	}
	for _, src := range f.Sources {
		if src.Format == "env" && !src.Write {
			continue // it is taken out
		}
		step, ok := speaks(src)
		switch {
		case src.On != "" && src.On != b.d.Display():
		case src.Format == "gsettings" && len(src.Leaves) > 0 && src.Values[want] == nil:
		case src.Format == "gsettings" && (ok || src.Write):
			return b.settingsTarget(s, f, src, want)
		case src.Format == "xsettings" && ok && b.d.Now().Own:
			continue // it is told besides
		case src.Format == "xsettings" && ok:
			return src, say.Of("plan/provider-display-tells-all-programs", src.Key, reading.Quoted(step.Value), s.Named()), say.Of("plan/change-where-provider-keeps-settings")
		case strings.HasPrefix(src.Path, "{theme}"):
			at, line, speaks := b.themeSays(s, f, src)
			if speaks {
				return src, say.Of("plan/theme-brings-settings-own-line", b.d.Show(at), line), say.Of("plan/take-line-out-or-wear")
			}
		case src.Write:
			return src, say.Message{}, say.Message{}
		case ok && b.d.Mine(step.Path) && (step.Path == reading.PlaceOf(b.d, s, src, nil) || slices.Contains(b.d.Expand(src.Path), step.Path)):
			return src, say.Message{}, say.Message{}
		}
	}
	return desk.Source{}, say.Of("plan/has-no-file-ivelt-may", s.Named()), say.Message{}
}

// wants tells what a surface is going to be told, as far as it can be; "" stays
// as it is.
func (b *builder) wants(s desk.Surface) func(facet string) string {
	return func(facet string) string {
		f, has := s.Facet(facet)
		if want := b.outfit.WantOn(s.ID, facet); has && want != "" && reading.Possible(b.seen, s, f, want) == nil {
			return want
		}
		return ""
	}
}

// themeSays tells whether the theme that is going to be worn speaks for a facet.
func (b *builder) themeSays(s desk.Surface, f desk.Facet, src desk.Source) (file string, line int, ok bool) {
	wears := func(facet string) string {
		of, has := s.Facet(facet)
		if !has {
			return ""
		}
		if want := b.wants(s)(facet); want != "" {
			return want
		}
		return reading.Told(b.d, s, of).Value
	}
	src.Path = reading.InTheme(b.seen, s, src.Path, wears(desk.FacetWidgets), wears(desk.FacetDark) == "dark")
	if src.Path == "" {
		return "", 0, false
	}
	for _, step := range reading.Ask(b.seen, s, f, src) {
		if step.State == reading.Wins {
			return step.Path, step.Line, true
		}
	}
	return "", 0, false
}

// settingsTarget is where GLib's settings keep a key, as a source of a plan.
func (b *builder) settingsTarget(s desk.Surface, f desk.Facet, src desk.Source, want string) (target desk.Source, why, remedy say.Message) {
	key, _, known := reading.SchemaKey(b.d, src.Group, src.Key)
	if !known {
		return src, say.Of("plan/desktop-setting-no-schema-name", s.Does("read", "reads"), src.Group, src.Key), say.Of("plan/install-what-brings-schema-then")
	}
	if reading.Locked(b.d, s, f, src) {
		return src, say.Of("plan/administrator-has-locked-setting", src.Group, src.Key), say.Of("plan/ask-who-looks-after-this")
	}
	if backend := reading.Backend(b.d); backend == "dconf" && b.d.Settings != nil {
		if err := b.d.Settings.Answers(); err != nil {
			return src, say.Of("plan/settings-service-does-not-answer", s.Does("need", "needs"), err), say.Of("plan/sign-in-then-review-again")
		}
		target = src
		target.Format, target.Path, target.Type = "dconf", desk.OfSetting(key.Path), key.Type
		return target, say.Message{}, say.Message{}
	} else if backend != "keyfile" {
		return src, say.Of("plan/settings-database-keeps-file-own", s.Does("read", "reads"), backend), say.Of("plan/set-gsettings-set", src.Group, src.Key, gsettingsText(key.Type, reading.Written(f, src, want)))
	}
	target = src
	target.Path, target.Format, target.Type = reading.KeyfileOf(b.d), "gsettings", key.Type
	target.Group, target.Key = gsettings.GroupOf(key.Path)
	return target, say.Message{}, say.Message{}
}

// gsettingsText is a value as a key of a schema takes it.
func gsettingsText(kind, said string) string {
	if kind == "s" {
		return gvariant.Text(said)
	}
	return said
}

// edited is a settings file in which a facet is as wanted, everything else in it
// as it was.
func edited(old []byte, target desk.Source, f desk.Facet, want string) ([]byte, error) {
	switch target.Format {
	case "xresources":
		return xresources.Set(old, target.Key, reading.Written(f, target, want)), nil
	case "css":
		return gtkcss.Define(old, target.Key, reading.Written(f, target, want)), nil
	case "fontconfig":
		said := reading.Written(f, target, want)
		if target.Key == "family" {
			return fontconf.SetFamily(old, target.Group, said)
		}
		return fontconf.SetProperty(old, target.Key, said)
	case "gtkrc":
		if notes := gtkrc.Parse(old).Notes; len(notes) > 0 {
			return nil, say.Errorf("line %d: %s", notes[0].Line, notes[0].Text)
		}
		return gtkrc.Set(old, target.Key, reading.Written(f, target, want), f.Number != nil || f.Values != nil), nil
	}
	said := reading.Written(f, target, want)
	if form := settingsfile.Form(target.Format); slices.Contains(settingsfile.Forms(), form) {
		bare := f.Number != nil || f.Values != nil || target.Values != nil
		return settingsfile.Set(form, old, target.Group, target.Key, said, settingsfile.How{Bare: bare, Like: target.Like})
	}
	kf, err := keyfile.Parse(old)
	if err != nil {
		return nil, err
	}
	if target.Format == "gsettings" {
		said = gsettingsText(target.Type, said)
	}
	kf.Set(target.Group, target.Key, said)
	return kf.Bytes(), nil
}
