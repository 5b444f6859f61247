package layer

import (
	"context"
	"maps"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/gtkcss"
	"ivelt/core/parcel"
	"ivelt/core/say"
	"ivelt/core/spelling"
)

// State is how a change fits the base.
type State string

const (
	Fits  State = "fits"  // the base says what it said when the recipe was held against it
	Adds  State = "adds"  // the base says nothing there, and never did
	Moved State = "moved" // the base says something else now: the change stays as it is
	Gone  State = "gone"  // what the change was made for is not there any more
)

// Fit is how one change fits one sheet of the base.
type Fit struct {
	Change  string      `json:"change"`        // the colour's name, the rule's selector, or "lines"
	Key     string      `json:"key,omitempty"` // the property of a rule
	Sheet   string      `json:"sheet,omitempty"`
	State   State       `json:"state"`
	Was     string      `json:"was,omitempty"`
	Now     string      `json:"now,omitempty"`
	Sets    string      `json:"sets,omitempty"`
	Nearest string      `json:"nearest,omitempty"` // what is most like it of what is there
	Says    say.Message `json:"-"`
}

// Report is how a recipe fits a base.
type Report struct {
	Checksum string // of the base
	Same     bool   // the base is the one that the recipe was held against
	Fits     []Fit
	Left     []string // files of the base that a layer cannot have: links that lead nowhere, pipes
}

// Loose are the changes that the base has moved away from.
func (r Report) Loose() []Fit {
	return slices.DeleteFunc(slices.Clone(r.Fits), func(f Fit) bool { return f.State == Fits || f.State == Adds })
}

// Check holds a recipe against a base at a name of a tree.
func Check(ctx context.Context, tree Tree, root string, r Recipe) (Report, error) {
	b, err := look(ctx, tree, root)
	if err != nil {
		return Report{}, err
	}
	return b.check(ctx, r)
}

func (b *laid) check(ctx context.Context, r Recipe) (out Report, err error) {
	if out.Checksum, err = b.sum(ctx); err != nil {
		return Report{}, err
	}
	out.Same, out.Left = out.Checksum == r.Base.Checksum, b.left
	if r.Convert != nil { // its base comes and goes with it
		out.Same = out.Same || r.Base.Checksum == ""
		return out, nil
	}
	if r.Base.Kind == parcel.Style {
		out.Fits, _, _, err = b.ofStyle(ctx, r)
		for i := range out.Fits {
			out.Fits[i].Says = out.Fits[i].said()
		}
		return out, err
	}
	for _, c := range r.Dyes {
		f, err := b.ofDye(ctx, r.Base.Kind, c)
		if err != nil {
			return Report{}, err
		}
		f.Says = f.said()
		out.Fits = append(out.Fits, f)
	}
	for _, f := range append(b.ofIcons(r), b.ofPointers(r)...) {
		f.Says = f.said()
		out.Fits = append(out.Fits, f)
	}
	if r.Base.Kind != parcel.Theme {
		return out, nil
	}
	told, err := b.told(ctx)
	if err != nil {
		return Report{}, err
	}
	if out.Fits, err = b.ofMoves(ctx, r, told); err != nil {
		return Report{}, err
	}
	for _, c := range r.Colours {
		out.Fits = append(out.Fits, told.ofColour(c)...)
	}
	for _, c := range r.Rules {
		out.Fits = append(out.Fits, told.ofRule(c)...)
	}
	for _, c := range r.Lines {
		f := Fit{Change: "lines", Sheet: resourceFile, State: Adds, Sets: strings.TrimSpace(c.Text)}
		if !b.has(resourceFile) {
			f.State = Gone
		}
		out.Fits = append(out.Fits, f)
	}
	for i := range out.Fits {
		out.Fits[i].Says = out.Fits[i].said()
	}
	return out, nil
}

// said is a fit in words.
func (f Fit) said() say.Message {
	switch {
	case f.Sheet == "" && f.State == Gone && f.Key == dyeKey:
		return say.Of("layer/no-such-icons", f.Change)
	case f.Key == elementKey && f.State == Gone && f.Nearest == "":
		return say.Of("layer/element-gone", f.Change, f.Sets)
	case f.Key == elementKey && f.State == Gone:
		return say.Of("layer/element-gone-nearest", f.Change, f.Sets, f.Nearest)
	case f.Key == elementKey && f.State == Moved && f.Was == "":
		return say.Of("layer/element-drawn-now", f.Change)
	case f.Key == elementKey && f.State == Moved:
		return say.Of("layer/element-changed", f.Change, f.Was, f.Now, f.Sets)
	case f.Key == elementKey:
		return say.Of("layer/element", f.Change, f.Sets)
	case f.Key == iconKey && f.State == Gone:
		return say.Of("layer/icon-gone", f.Change, f.Sets)
	case f.Key == iconKey:
		return say.Of("layer/icon", f.Change, f.Sets)
	case f.Key == pointerKey && f.State == Gone:
		return say.Of("layer/pointer-gone", f.Change, f.Sets)
	case f.Key == pointerKey && f.State == Moved:
		return say.Of("layer/pointer-drawn-now", f.Change)
	case f.Key == pointerKey:
		return say.Of("layer/pointer", f.Change, f.Sets)
	case f.Key == dyeKey && f.State == Moved:
		return say.Of("layer/icons-changed", f.Change, f.Was, f.Now, f.Sets)
	case f.Key == dyeKey:
		return say.Of("layer/icons-dyed", f.Change, f.Now, f.Sets)
	case f.Key == moveKey && f.State == Gone:
		return say.Of("layer/nothing-to-move", f.Change)
	case f.Key == moveKey && f.State == Moved:
		return say.Of("layer/accent-changed", f.Was, f.Now, f.Sets)
	case f.Key == moveKey && (f.Sets == "light" || f.Sets == "dark"):
		return say.Of("layer/moves-shade", f.Sets, f.Was, f.Now)
	case f.Key == moveKey && f.Was == "" && f.Sets != "" && !strings.HasSuffix(f.Sets, "%") && !strings.HasPrefix(f.Sets, "#"):
		return say.Of("layer/moves-font", f.Sets, f.Now)
	case f.Key == moveKey && strings.HasSuffix(f.Sets, "%"):
		return say.Of("layer/moves", f.Change, f.Sets, f.Now)
	case f.Key == moveKey:
		return say.Of("layer/moves-accent", f.Now, f.Sets)
	case f.State == Fits:
		return say.Of("layer/was-now", f.Sheet, f.name(), f.Now, f.Sets)
	case f.State == Moved && f.Now == "":
		return say.Of("layer/base-says-nothing-now", f.Sheet, f.name(), f.Was, f.Sets)
	case f.State == Moved:
		return say.Of("layer/base-changed-it", f.Sheet, f.name(), f.Was, f.Now, f.Sets)
	case f.State == Gone && f.Sheet == "":
		return say.Of("layer/part-gone", f.name())
	case f.State == Gone && f.Nearest == "":
		return say.Of("layer/gone", f.Sheet, f.name())
	case f.State == Gone:
		return say.Of("layer/gone-nearest", f.Sheet, f.name(), f.Nearest)
	}
	return say.Of("layer/adds", f.Sheet, f.name(), f.Sets)
}

func (f Fit) name() string {
	if f.Key == "" {
		return f.Change
	}
	return f.Change + " { " + f.Key + " }"
}

// says is what the sheets of a base say.
type says struct {
	parts    []string                                // that the base has
	sheets   map[string][]string                     // by part
	colours  map[string]map[string]string            // by sheet and name
	rules    map[string]map[string]map[string]string // by sheet, selector and property
	ordering []string                                // the sheets
}

// told reads all sheets of a base.
func (b *laid) told(ctx context.Context) (*says, error) {
	out := &says{parts: b.parts(), sheets: map[string][]string{}, colours: map[string]map[string]string{}, rules: map[string]map[string]map[string]string{}}
	for _, part := range out.parts {
		sheets, err := b.sheets(ctx, part)
		if err != nil {
			return nil, err
		}
		for _, sheet := range sheets {
			if err := out.read(ctx, b, sheet); err != nil {
				return nil, err
			}
		}
		out.sheets[part] = sheets
		if part+"/gtkrc" == resourceFile && b.has(resourceFile) {
			out.sheets[part] = append(out.sheets[part], resourceFile)
			out.colours[resourceFile] = b.scheme()
			out.ordering = append(out.ordering, resourceFile)
		}
	}
	return out, nil
}

func (s *says) read(ctx context.Context, b *laid, sheet string) error {
	texts, err := b.texted(ctx, sheet)
	if err != nil {
		return err
	}
	s.ordering = append(s.ordering, sheet)
	colours, rules := map[string]string{}, map[string]map[string]string{}
	s.colours[sheet], s.rules[sheet] = colours, rules
	// What a sheet says itself counts after all that it takes in.
	names := slices.SortedFunc(maps.Keys(texts), func(a, b string) int {
		if (a == sheet) != (b == sheet) {
			return map[bool]int{true: 1, false: -1}[a == sheet]
		}
		return strings.Compare(a, b)
	})
	for _, name := range names {
		if err := ctx.Err(); err != nil {
			return err
		}
		for _, d := range gtkcss.Definitions(texts[name]) {
			colours[d.Name] = d.Value
		}
		for _, r := range gtkcss.Rules(texts[name]) {
			for _, selector := range r.Selectors {
				if rules[selector] == nil {
					rules[selector] = map[string]string{}
				}
				for _, t := range r.Tells {
					rules[selector][t.Property] = t.Value
				}
			}
		}
	}
	return nil
}

// of are the sheets of parts. gtk-3.0 stands for each version of GTK 3 that the theme has a
// folder for, and gtk-4.0 likewise.
func (s *says) of(parts []string) (out []string) {
	for _, part := range parts {
		for _, own := range s.parts {
			if serves(part, own) {
				for _, sheet := range s.sheets[own] {
					if !slices.Contains(out, sheet) {
						out = append(out, sheet)
					}
				}
			}
		}
	}
	return out
}

// serves reports whether a part that a recipe names stands for a folder of a theme.
func serves(part, folder string) bool {
	return folder == part || (part == "gtk-3.0" || part == "gtk-4.0") && strings.HasPrefix(folder, strings.TrimSuffix(part, "0"))
}

// named are the sheets that a colour is laid over. GTK 2 reads no colours that are worked out
// as style sheets do.
func (s *says) named(c Colour) (out []string) {
	defer func() {
		if !plain.MatchString(c.Value) {
			out = slices.DeleteFunc(out, func(sheet string) bool { return sheet == resourceFile })
		}
	}()
	if len(c.Parts) > 0 {
		return s.of(c.Parts)
	}
	for _, sheet := range s.ordering {
		if _, ok := s.colours[sheet][c.Name]; ok {
			out = append(out, sheet)
		}
	}
	return out
}

// plain is a colour that every toolkit reads.
var plain = regexp.MustCompile(`^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6})$`)

func (s *says) ofColour(c Colour) (out []Fit) {
	on := s.named(c)
	for _, sheet := range on {
		f := Fit{Change: c.Name, Sheet: sheet, Was: c.Was[sheet], Now: s.colours[sheet][c.Name], Sets: c.in(sheet)}
		f.State = stateOf(f.Was, f.Now)
		out = append(out, f)
	}
	for _, sheet := range slices.Sorted(maps.Keys(c.Was)) {
		if !slices.Contains(on, sheet) {
			out = append(out, Fit{Change: c.Name, Sheet: sheet, State: Gone, Was: c.Was[sheet], Sets: c.in(sheet), Nearest: spelling.Nearest(c.Name, maps.Keys(s.colours[sheet]))})
		}
	}
	if len(out) == 0 {
		out = append(out, Fit{Change: c.Name, State: Gone, Sets: c.Value})
	}
	return out
}

// in is the colour's value in a sheet.
func (c Colour) in(sheet string) string {
	if c.Dark != "" && forDark(sheet) {
		return c.Dark
	}
	return c.Value
}

func (s *says) ofRule(c Rule) (out []Fit) {
	on := slices.DeleteFunc(s.of(c.Parts), func(sheet string) bool { return sheet == resourceFile })
	selectors := selectorsOf(c.Selector)
	for _, sheet := range on {
		known := slices.ContainsFunc(selectors, func(one string) bool { return s.rules[sheet][one] != nil })
		for _, key := range slices.Sorted(maps.Keys(c.Set)) {
			f := Fit{Change: c.Selector, Key: key, Sheet: sheet, Was: c.Was[sheet][key], Now: s.tells(sheet, selectors, key), Sets: c.Set[key]}
			f.State = stateOf(f.Was, f.Now)
			if _, held := c.Was[sheet]; held && !known && f.Was != "" {
				f.State, f.Nearest = Gone, spelling.Nearest(c.Selector, maps.Keys(s.rules[sheet]))
			}
			out = append(out, f)
		}
	}
	for _, sheet := range slices.Sorted(maps.Keys(c.Was)) {
		if !slices.Contains(on, sheet) {
			out = append(out, Fit{Change: c.Selector, Sheet: sheet, State: Gone})
		}
	}
	if len(out) == 0 {
		out = append(out, Fit{Change: c.Selector, State: Gone})
	}
	return out
}

// tells is what a sheet says last of a property by one of some selectors.
func (s *says) tells(sheet string, selectors []string, key string) string {
	for _, one := range slices.Backward(selectors) {
		if v, ok := s.rules[sheet][one][key]; ok {
			return v
		}
	}
	return ""
}

func selectorsOf(text string) []string {
	if of := gtkcss.Rules([]byte(text + " {}")); len(of) == 1 {
		return of[0].Selectors
	}
	return []string{gtkcss.Selector(text)}
}

func stateOf(was, now string) State {
	switch {
	case was == "" && now == "":
		return Adds
	case was == "" || was == now:
		return Fits
	}
	return Moved
}

// Rebased is the recipe held against a base: what it says there is written down as what it
// was.
func Rebased(ctx context.Context, tree Tree, root string, r Recipe) (Recipe, Report, error) {
	b, err := look(ctx, tree, root)
	if err != nil {
		return r, Report{}, err
	}
	report, err := b.check(ctx, r)
	if err != nil {
		return r, Report{}, err
	}
	r.Base.Checksum = report.Checksum
	if r.Base.Kind == parcel.Style {
		_, r, _, err = b.ofStyle(ctx, r)
		return r, report, err
	}
	r.Dyes = slices.Clone(r.Dyes)
	for i := range r.Dyes {
		r.Dyes[i].Was = report.Fits[i].Now
	}
	if r.Base.Kind != parcel.Theme {
		return r, report, nil
	}
	told, err := b.told(ctx)
	if err != nil {
		return r, Report{}, err
	}
	if r, err = b.moving(ctx, r); err != nil {
		return r, Report{}, err
	}
	for i := range r.Moves {
		if r.Moves[i].Of == MoveAccent {
			r.Moves[i].Was = report.Fits[i].Now
		}
	}
	r.Colours, r.Rules = slices.Clone(r.Colours), slices.Clone(r.Rules)
	for i, c := range r.Colours {
		was := map[string]string{}
		for _, f := range told.ofColour(c) {
			if f.Now != "" {
				was[f.Sheet] = f.Now
			}
		}
		r.Colours[i].Was = some(was)
	}
	for i, c := range r.Rules {
		was := map[string]map[string]string{}
		for _, f := range told.ofRule(c) {
			if f.Now == "" {
				continue
			}
			if was[f.Sheet] == nil {
				was[f.Sheet] = map[string]string{}
			}
			was[f.Sheet][f.Key] = f.Now
		}
		r.Rules[i].Was = some(was)
	}
	return r, report, nil
}

// some is a map, or none if there is nothing in it.
func some[V any](m map[string]V) map[string]V {
	if len(m) == 0 {
		return nil
	}
	return m
}
