package market

import (
	"context"
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg"
	_ "image/png"
	"io"
	"io/fs"
	"path"
	"strings"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// Schema is the format as a JSON Schema (draft 2020-12).
//
//go:embed schema.json
var Schema []byte

// Mistake is something wrong with a market, and where.
type Mistake struct {
	File  string `json:"file"`
	At    string `json:"at,omitempty"` // a JSON pointer into the file (RFC 6901)
	Entry string `json:"entry,omitempty"`
	Text  string `json:"text"`
}

// Check names each mistake in a market's folder: what the schema forbids, and
// what only a look at the files can tell: one that is missing, has another size
// or sum, a picture that is none, an entry named twice or named but not there.
// inspect looks into a parcel; nil skips that.
func Check(ctx context.Context, fsys fs.FS, inspect func(Version) error) ([]Mistake, error) {
	schema, err := compile()
	if err != nil {
		return nil, err
	}
	c := &checker{fsys: fsys, schema: schema, inspect: inspect, ids: map[string]string{}}
	if b, err := fs.ReadFile(fsys, IndexFile); err == nil && IsSharded(b) {
		if err := c.shards(ctx, b); err != nil {
			return nil, err
		}
	} else {
		top := c.index(IndexFile, true)
		for _, p := range top.Pages {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			c.index(p, false)
		}
	}
	for _, e := range c.entries {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		c.entry(e.file, e.at, e.Entry)
	}
	return c.found, nil
}

func compile() (*jsonschema.Schema, error) {
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(Schema)))
	if err != nil {
		return nil, err
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("market.json", doc); err != nil {
		return nil, err
	}
	return c.Compile("market.json")
}

type checker struct {
	fsys    fs.FS
	schema  *jsonschema.Schema
	inspect func(Version) error
	found   []Mistake
	ids     map[string]string // to the file they are in
	entries []located
}

type located struct {
	Entry
	file, at string
}

func (c *checker) say(file, at, entry, format string, args ...any) {
	c.found = append(c.found, Mistake{file, at, entry, fmt.Sprintf(format, args...)})
}

func (c *checker) index(name string, top bool) Index {
	b, err := fs.ReadFile(c.fsys, path.Clean(name))
	if err != nil {
		c.say(name, "", "", "the file is not there; %s", map[bool]string{true: "a market has it at its top", false: "the index names it as a page"}[top])
		return Index{}
	}
	return c.indexOf(name, b, top)
}

// shards looks at the index of a market in shards, its signature, and the files it names.
func (c *checker) shards(ctx context.Context, index []byte) error {
	m, err := ReadManifest(index)
	if err != nil {
		c.say(IndexFile, "", "", "%v", err)
		return nil
	}
	if m.Name == "" {
		c.say(IndexFile, "/name", "", "the market has no name")
	}
	signature, err := fs.ReadFile(c.fsys, SignatureFile)
	if err == nil {
		var key Key
		text, err := fs.ReadFile(c.fsys, KeyFile)
		if err == nil {
			key, err = ParseKey(string(text))
		}
		if err == nil {
			err = key.Verify(index, signature)
		}
		if err != nil {
			c.say(SignatureFile, "", "", "%v", err)
		}
	}
	for i, l := range m.Shards {
		b, err := fs.ReadFile(c.fsys, path.Clean(l.File))
		var entries []Entry
		if err == nil {
			entries, err = l.Read(ctx, b, i, len(m.Shards))
		}
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err != nil:
			c.say(IndexFile, fmt.Sprintf("/shards/%d", i), "", "%v", err)
			continue
		case len(entries) != l.Entries:
			c.say(IndexFile, fmt.Sprintf("/shards/%d/entries", i), "", "%s has %d that can be used", l.File, len(entries))
		}
		page, err := json.Marshal(Index{Format: Format, Entries: entries})
		if err != nil {
			return err
		}
		c.indexOf(l.File, page, false)
	}
	for i, d := range m.Deltas {
		b, err := fs.ReadFile(c.fsys, path.Clean(d.File))
		if err == nil {
			_, err = d.Read(ctx, b)
		}
		if err != nil {
			c.say(IndexFile, fmt.Sprintf("/deltas/%d", i), "", "%v", err)
		}
	}
	return ctx.Err()
}

// indexOf looks at the text of an index, or of a page of one.
func (c *checker) indexOf(name string, b []byte, top bool) Index {
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(b)))
	if err != nil {
		c.say(name, "", "", "it is not JSON: %v", err)
		return Index{}
	}
	if err := c.schema.Validate(doc); err != nil {
		var ve *jsonschema.ValidationError
		if errors.As(err, &ve) {
			c.leaves(name, doc, ve)
		}
	}
	var x Index
	if err := json.Unmarshal(b, &x); err != nil {
		return Index{} // the schema has said so
	}
	if top && x.Name == "" {
		c.say(name, "/name", "", "the market has no name")
	}
	if !top && len(x.Pages) > 0 {
		c.say(name, "/pages", "", "only the index at the top names pages")
	}
	for i, e := range x.Entries {
		at := fmt.Sprintf("/entries/%d", i)
		if first, twice := c.ids[e.ID]; twice && e.ID != "" {
			c.say(name, at+"/id", e.ID, "this id is taken by an entry of %s", first)
		}
		c.ids[e.ID] = name
		c.entries = append(c.entries, located{e, name, at})
	}
	return x
}

// leaves says what the schema found, at the innermost places.
func (c *checker) leaves(file string, doc any, e *jsonschema.ValidationError) {
	if len(e.Causes) > 0 {
		for _, cause := range e.Causes {
			c.leaves(file, doc, cause)
		}
		return
	}
	at := ""
	for _, part := range e.InstanceLocation {
		at += "/" + strings.NewReplacer("~", "~0", "/", "~1").Replace(part)
	}
	c.say(file, at, entryAt(doc, e.InstanceLocation), "%s", e.ErrorKind.LocalizedString(message.NewPrinter(language.English)))
}

// entryAt returns the id of the entry a place lies in.
func entryAt(doc any, place []string) string {
	if len(place) < 2 || place[0] != "entries" {
		return ""
	}
	top, _ := doc.(map[string]any)
	list, _ := top["entries"].([]any)
	var i int
	if _, err := fmt.Sscan(place[1], &i); err != nil || i < 0 || i >= len(list) {
		return ""
	}
	entry, _ := list[i].(map[string]any)
	id, _ := entry["id"].(string)
	return id
}

func (c *checker) entry(file, at string, e Entry) {
	for i, v := range e.Versions {
		c.version(file, fmt.Sprintf("%s/versions/%d", at, i), e.ID, v)
		if i > 0 && v.Date > e.Versions[i-1].Date {
			c.say(file, fmt.Sprintf("%s/versions/%d/date", at, i), e.ID, "versions are listed newest first, and %s is newer than the one before it", v.Version)
		}
	}
	for i, p := range e.Pictures {
		if !Inside(p.File) {
			continue
		}
		f, err := c.fsys.Open(path.Clean(p.File))
		if err != nil {
			c.say(file, fmt.Sprintf("%s/pictures/%d/file", at, i), e.ID, "the picture %s is not there", p.File)
			continue
		}
		if _, _, err := image.DecodeConfig(f); err != nil && path.Ext(p.File) != ".svg" {
			c.say(file, fmt.Sprintf("%s/pictures/%d/file", at, i), e.ID, "%s is not a picture: %v", p.File, err)
		}
		f.Close()
	}
	if e.VariantOf != "" && (c.ids[e.VariantOf] == "" || e.VariantOf == e.ID) {
		c.say(file, at+"/variant_of", e.ID, "there is no other entry %q that it could be a variant of", e.VariantOf)
	}
	for i, m := range e.Companions {
		if m.Entry != "" && c.ids[m.Entry] == "" {
			c.say(file, fmt.Sprintf("%s/companions/%d/entry", at, i), e.ID, "there is no entry %q", m.Entry)
		}
	}
	for i := 1; i < len(e.Likes); i++ {
		if e.Likes[i].Date <= e.Likes[i-1].Date {
			c.say(file, fmt.Sprintf("%s/likes/%d/date", at, i), e.ID, "likes are counted oldest first")
		}
	}
}

func (c *checker) version(file, at, id string, v Version) {
	if !Inside(v.File) {
		return // the schema has said so
	}
	f, err := c.fsys.Open(path.Clean(v.File))
	if err != nil {
		c.say(file, at+"/file", id, "the parcel %s is not there", v.File)
		return
	}
	defer f.Close()
	h := sha256.New()
	n, err := io.Copy(h, f)
	if err != nil {
		c.say(file, at+"/file", id, "the parcel %s cannot be read: %v", v.File, err)
		return
	}
	if n != v.Size {
		c.say(file, at+"/size", id, "%s has %d bytes, not %d", v.File, n, v.Size)
	}
	if sum := hex.EncodeToString(h.Sum(nil)); sum != v.SHA256 {
		c.say(file, at+"/sha256", id, "the SHA-256 of %s is %s", v.File, sum)
		return
	}
	if c.inspect != nil {
		if err := c.inspect(v); err != nil {
			c.say(file, at+"/file", id, "%v", err)
		}
	}
}
