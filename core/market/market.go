// Package market reads the open format of a market: a folder behind any file
// server, or on disk, with index.json at its top and, below it, the pages,
// pictures and parcels that the index names. The format is described in
// docs/market.md and, for machines, in the JSON Schema of this package.
package market

import (
	"encoding/json"
	"errors"
	"io"
	"path"
	"slices"
	"strings"

	"ivelt/core/say"
	"ivelt/core/shown"
)

// Format is the number of the format this package reads.
const Format = 1

// IndexFile is the name of the index at a market's top.
const IndexFile = "index.json"

// The ways an index can be unusable. Errors of [Read] wrap one of them.
var (
	ErrDamaged = errors.New("its index is damaged")
	ErrFormat  = errors.New("its index is of another format")
)

// Index is a market's index.json, or one of the pages it is split into.
type Index struct {
	Format  int      `json:"format"`
	Name    string   `json:"name,omitempty"`
	About   string   `json:"about,omitempty"`
	Pages   []string `json:"pages,omitempty"` // further files with entries
	Entries []Entry  `json:"entries,omitempty"`
}

// Entry is what a market says of one parcel.
type Entry struct {
	ID         string            `json:"id"` // unique in its market
	Kind       string            `json:"kind"`
	Name       string            `json:"name"`
	Maker      string            `json:"maker,omitempty"`
	Licence    string            `json:"licence,omitempty"` // SPDX where it has one
	Summary    string            `json:"summary,omitempty"`
	Family     string            `json:"family,omitempty"` // pieces made to go together
	Tags       []string          `json:"tags,omitempty"`
	VariantOf  string            `json:"variant_of,omitempty"` // the entry this is a variant of
	Differs    string            `json:"differs,omitempty"`    // from it, in words
	Pieces     int               `json:"pieces,omitempty"`     // how many it holds, if more than one
	Dresses    []string          `json:"dresses,omitempty"`    // part folders
	MadeFor    map[string]string `json:"made_for,omitempty"`   // surface to versions
	Companions []Companion       `json:"companions,omitempty"`
	Needs      []string          `json:"needs,omitempty"`     // engines and the like
	Packaged   string            `json:"packaged,omitempty"`  // the system package that has it
	Likely     bool              `json:"likely,omitempty"`    // its kind was worked out from what is said of it, not from its files
	Stability  string            `json:"stability,omitempty"` // stable, testing, nightly, crashes
	Likes      []Likes           `json:"likes,omitempty"`     // oldest first
	Pictures   []Picture         `json:"pictures,omitempty"`
	Looks      *Looks            `json:"looks,omitempty"`
	Versions   []Version         `json:"versions"` // newest first
}

// Companion is another piece an entry is made to go with.
type Companion struct {
	Kind  string `json:"kind"`
	Name  string `json:"name"`
	Entry string `json:"entry,omitempty"` // in the same market
}

// Likes is how many people liked an entry up to a day.
type Likes struct {
	Date  string `json:"date"`
	Count int    `json:"count"`
}

// Picture shows an entry in one state.
type Picture struct {
	State string `json:"state"` // normal, pressed, dark, shapes …
	File  string `json:"file"`
	From  string `json:"from,omitempty"` // pieces, if it was computed from them, or maker
}

// Looks are measures of how a piece looks, computed from it (docs/taste.md).
type Looks struct {
	Colours   []string `json:"colours,omitempty"`   // the strongest first, #rrggbb
	Lightness float64  `json:"lightness"`           // 0–1, OKLab
	Chroma    float64  `json:"chroma"`              // OKLCH
	Hue       float64  `json:"hue"`                 // degrees, OKLCH; of no meaning at low chroma, [Mixed] for several
	Contrast  float64  `json:"contrast"`            // 1–21, WCAG
	Roundness float64  `json:"roundness"`           // 0–1, [Shapeless] where it means nothing
	Density   float64  `json:"density"`             // 0–1
	TwoForms  bool     `json:"two_forms,omitempty"` // another form of it has the other shade
	Other     *Looks   `json:"other,omitempty"`     // what that form looks like
}

// Version is one state of an entry's parcel.
type Version struct {
	Version   string `json:"version"`
	Date      string `json:"date"` // ISO 8601
	File      string `json:"file"` // below the market's top
	Size      int64  `json:"size"` // bytes
	SHA256    string `json:"sha256"`
	Stability string `json:"stability,omitempty"`
	Note      string `json:"note,omitempty"`     // what its maker says of it
	Password  string `json:"password,omitempty"` // as printed on its page
}

// Liked is how many people like the entry now.
func (e Entry) Liked() int {
	if len(e.Likes) == 0 {
		return 0
	}
	return e.Likes[len(e.Likes)-1].Count
}

// Rising is how many came to like it in the last stretch that the market
// counts.
func (e Entry) Rising() int {
	if n := len(e.Likes); n > 1 {
		return e.Likes[n-1].Count - e.Likes[n-2].Count
	}
	return 0
}

// Newest returns the newest version, which every entry has.
func (e Entry) Newest() Version {
	if len(e.Versions) == 0 {
		return Version{}
	}
	return e.Versions[0]
}

// NewestLike returns the newest version of the channel that a version is of, stable, testing or
// nightly: whoever has a stable one does not want a nightly. A version that is no longer
// listed is taken for a stable one.
func (e Entry) NewestLike(version string) (Version, bool) {
	now, _ := e.Find(version)
	if version == "" || now.Version == "" {
		now = Version{}
	}
	i := slices.IndexFunc(e.Versions, func(v Version) bool { return channel(v) == channel(now) })
	if i < 0 {
		return Version{}, false
	}
	return e.Versions[i], true
}

// channel is what a version is one of: one that crashes is of the stable ones.
func channel(v Version) string {
	switch v.Stability {
	case "testing", "nightly":
		return v.Stability
	}
	return "stable"
}

// Find returns a version by its name; "" is the newest.
func (e Entry) Find(version string) (Version, bool) {
	if version == "" && len(e.Versions) > 0 {
		return e.Versions[0], true
	}
	i := slices.IndexFunc(e.Versions, func(v Version) bool { return v.Version == version })
	if i < 0 {
		return Version{}, false
	}
	return e.Versions[i], true
}

// Before returns the version before one, or "".
func (e Entry) Before(version string) string {
	for i, v := range e.Versions {
		if v.Version == version && i+1 < len(e.Versions) {
			return e.Versions[i+1].Version
		}
	}
	return ""
}

// What one file of an index may have, in bytes. A market that is larger has pages.
const (
	MaxIndex = 32 << 20
	maxValue = 1 << 20 // of one entry, or of anything else that it says
	// MaxEntries bounds the entries of one index or page, with those that are left out.
	MaxEntries = 40_000
)

// ErrTooLarge: an index, or an entry of it, is larger than is read.
var ErrTooLarge = errors.New("the index is larger than Ivelt reads")

// Read reads an index or a page of one, an entry at a time. Entries without what every
// entry needs are left out, and counted.
func Read(r io.Reader) (x Index, skipped int, err error) {
	in := &metered{r: r, all: MaxIndex, now: maxValue}
	d := json.NewDecoder(in)
	damaged := func(err error) (Index, int, error) {
		if errors.Is(err, ErrTooLarge) {
			return Index{}, 0, err
		}
		return Index{}, 0, say.Errorf("%w: %w", ErrDamaged, err)
	}
	if err := opens(d, '{'); err != nil {
		return damaged(err)
	}
	rest := map[string]json.RawMessage{}
	for d.More() {
		in.now = maxValue
		key, err := d.Token()
		if err != nil {
			return damaged(err)
		}
		if name, _ := key.(string); !strings.EqualFold(name, "entries") {
			var value json.RawMessage
			if err := d.Decode(&value); err != nil {
				return damaged(err)
			}
			rest[name] = value
			continue
		}
		n, err := x.entries(d, in)
		if skipped += n; err != nil {
			return damaged(err)
		}
	}
	if _, err := d.Token(); err != nil {
		return damaged(err)
	}
	b, err := json.Marshal(rest)
	if err != nil {
		return damaged(err)
	}
	entries := x.Entries
	if err := json.Unmarshal(b, &x); err != nil {
		return damaged(err)
	}
	x.Entries = entries
	if x.Format != Format {
		return Index{}, 0, say.Errorf("%w: %d; this Ivelt reads %d", ErrFormat, x.Format, Format)
	}
	x.Pages = slices.DeleteFunc(x.Pages, func(p string) bool { return !Inside(p) })
	return x, skipped, nil
}

// entries reads the list of entries, or null.
func (x *Index) entries(d *json.Decoder, in *metered) (skipped int, err error) {
	switch t, err := d.Token(); {
	case err != nil || t == nil:
		return 0, err
	case t != json.Delim('['):
		return 0, errors.New("the entries are no list")
	}
	for n := 0; d.More(); n++ {
		if n == MaxEntries {
			return skipped, say.Errorf("%w: more than %d entries; a market that has more gives them in pages", ErrTooLarge, MaxEntries)
		}
		in.now = maxValue
		var e Entry
		if err := d.Decode(&e); err != nil {
			return skipped, err
		}
		if !e.usable() {
			skipped++
			continue
		}
		e.harmless()
		x.Entries = append(x.Entries, e)
	}
	_, err = d.Token()
	return skipped, err
}

// usable reports whether an entry has what every one needs.
func (e *Entry) usable() bool {
	return e.ID != "" && e.Name != "" && slices.ContainsFunc(e.Versions, func(v Version) bool { return Inside(v.File) && len(v.SHA256) == 64 })
}

// Risk says why a version of an entry may do harm, or "".
func (e Entry) Risk(v Version) say.Word {
	for _, s := range []string{v.Stability, e.Stability} {
		switch s {
		case "crashes":
			return "its maker says it may crash programs"
		case "nightly":
			return "built every night, not tested"
		case "testing":
			return "not stable yet"
		}
	}
	return ""
}

// harmless makes what an entry says fit to be shown.
func (e *Entry) harmless() {
	for _, s := range []*string{&e.Kind, &e.Name, &e.Maker, &e.Licence, &e.Summary, &e.Family, &e.Differs, &e.Packaged, &e.Stability} {
		*s = shown.Line(*s)
	}
	shown.Lines(e.Tags)
	shown.Lines(e.Dresses)
	shown.Lines(e.Needs)
	for i := range e.Companions {
		e.Companions[i].Name = shown.Line(e.Companions[i].Name)
	}
	for i := range e.Versions {
		v := &e.Versions[i]
		v.Version, v.Date, v.Stability, v.Note = shown.Line(v.Version), shown.Line(v.Date), shown.Line(v.Stability), shown.Line(v.Note)
	}
}

func opens(d *json.Decoder, with json.Delim) error {
	t, err := d.Token()
	if err == nil && t != with {
		err = say.Errorf("it does not begin with %v", with)
	}
	return err
}

// metered bounds all that is read, and what is read for one value.
type metered struct {
	r        io.Reader
	all, now int64
}

func (m *metered) Read(b []byte) (int, error) {
	n, err := m.r.Read(b[:min(len(b), 64<<10)])
	m.all -= int64(n)
	m.now -= int64(n)
	switch {
	case m.all < 0:
		return 0, say.Errorf("%w: more than %d MB", ErrTooLarge, MaxIndex>>20)
	case m.now < 0:
		return 0, say.Errorf("%w: an entry has more than %d MB", ErrTooLarge, maxValue>>20)
	}
	return n, err
}

// Inside reports whether a name stays below the market's top.
func Inside(name string) bool {
	return name != "" && !strings.HasPrefix(name, "/") && !strings.ContainsAny(name, "\\\x00") && !strings.Contains(name, "://") &&
		path.Clean("/"+name) == "/"+path.Clean(name)
}
