// Package po reads and writes catalogues of messages in the form of GNU gettext (its manual, "The
// Format of PO Files"): which text is said how in a language, and which of its plural forms goes
// with a number, which the rule in the catalogue's header tells. What is not of the form is an error
// that names the line; entries marked as fuzzy are left out, as gettext does ("Fuzzy Entries").
package po

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/leonelquinteros/gotext/plurals"
)

// Bounds of what is read.
const (
	maxBytes  = 8 << 20
	maxRule   = 500 // letters of a plural rule
	maxDepth  = 30  // of its brackets
	maxPlural = 10  // forms
)

// ErrCatalogue: the bytes are no catalogue.
var ErrCatalogue = errors.New("this is no catalogue of messages")

// Entry is a message and what is said for it.
type Entry struct {
	Note    string   // for who translates it
	Where   []string // it is from, as "file" or "file:line"
	Context string   // tells messages of the same text apart
	ID      string   // the text itself, of one
	Plural  string   // the text of several; "" where no number decides
	Text    []string // what is said for it, one for each plural form; empty where nothing is said yet
}

// Catalogue is what a file says.
type Catalogue struct {
	Language string // as its header says, "pt_BR"
	Entries  []Entry
	texts    map[[2]string][]string // by context and ID
	rule     plurals.Expression     // nil where its header has none
}

// translated are the keywords of what is said.
var translated = append([]string{"msgstr"}, func() (out []string) {
	for i := range maxPlural {
		out = append(out, fmt.Sprintf("msgstr[%d]", i))
	}
	return out
}()...)

// keywords are all of them.
var keywords = func() map[string]bool {
	out := map[string]bool{"msgctxt": true, "msgid": true, "msgid_plural": true}
	for _, name := range translated {
		out[name] = true
	}
	return out
}()

var (
	byNothing = regexp.MustCompile(`%\s*0*(\D|$)`)
	forms     = regexp.MustCompile(`nplurals\s*=\s*(\d+)\s*;\s*plural\s*=\s*([^;]+);?`)
)

// Read reads a catalogue. An error names the line.
func Read(b []byte) (*Catalogue, error) {
	if len(b) > maxBytes {
		return nil, fmt.Errorf("%w: it has more than %d MB", ErrCatalogue, maxBytes>>20)
	}
	r := reader{c: &Catalogue{texts: map[[2]string][]string{}}}
	n := 0
	for line := range strings.Lines(string(b)) {
		n++
		if err := r.line(strings.TrimSpace(line)); err != nil {
			return nil, fmt.Errorf("%w: line %d: %w", ErrCatalogue, n, err)
		}
	}
	if err := r.end(); err != nil {
		return nil, fmt.Errorf("%w: at its end: %w", ErrCatalogue, err)
	}
	if err := r.rule(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrCatalogue, err)
	}
	for line := range strings.Lines(r.header) {
		if name, value, ok := strings.Cut(line, ":"); ok && strings.EqualFold(strings.TrimSpace(name), "Language") {
			r.c.Language = strings.TrimSpace(value)
		}
	}
	return r.c, nil
}

// reader reads one entry after the other.
type reader struct {
	c      *Catalogue
	header string
	// Of the entry that is read: its texts by keyword, which of them goes on, and what stands above it.
	texts map[string]*strings.Builder
	last  string
	notes []string
	where []string
	fuzzy bool
}

func (r *reader) line(line string) error {
	if strings.HasPrefix(line, "msg") {
		if name, text, ok := strings.Cut(line, `"`); ok && keywords[strings.TrimSpace(name)] {
			if err := r.begin(strings.TrimSpace(name)); err != nil {
				return err
			}
			line = `"` + text
		}
	}
	switch {
	case line == "" || line[0] == '#':
		if err := r.end(); err != nil {
			return err
		}
		r.comment(line)
	case line[0] != '"' || r.last == "":
		return errors.New("it is neither a message nor a comment")
	default:
		more, err := strconv.Unquote(line)
		if err != nil {
			return errors.New("the text does not end, or has a sign after \\ that is not known")
		}
		r.texts[r.last].WriteString(more)
	}
	return nil
}

// begin begins a text of an entry, or the next entry.
func (r *reader) begin(name string) error {
	if (name == "msgctxt" || name == "msgid") && strings.HasPrefix(r.last, "msgstr") {
		if err := r.end(); err != nil {
			return err
		}
	}
	if r.texts[name] != nil {
		return fmt.Errorf("%s stands here twice", name)
	}
	if r.texts == nil {
		r.texts = map[string]*strings.Builder{}
	}
	r.last, r.texts[name] = name, &strings.Builder{}
	return nil
}

func (r *reader) comment(line string) {
	switch {
	case strings.HasPrefix(line, "#,"):
		r.fuzzy = r.fuzzy || strings.Contains(line, "fuzzy")
	case strings.HasPrefix(line, "#."):
		r.notes = append(r.notes, strings.TrimSpace(line[2:]))
	case strings.HasPrefix(line, "#:"):
		r.where = append(r.where, strings.Fields(line[2:])...)
	}
}

// end takes in the entry that was read, if one was.
func (r *reader) end() error {
	if len(r.texts) == 0 {
		return nil
	}
	text := func(name string) string {
		if b := r.texts[name]; b != nil {
			return b.String()
		}
		return ""
	}
	if r.texts["msgid"] == nil {
		return errors.New("an entry has no msgid")
	}
	e := Entry{Note: strings.Join(r.notes, " "), Where: r.where, Context: text("msgctxt"), ID: text("msgid"), Plural: text("msgid_plural")}
	for _, name := range translated {
		if r.texts[name] != nil {
			e.Text = append(e.Text, text(name))
		}
	}
	switch {
	case e.ID == "" && e.Context == "":
		r.header = strings.Join(e.Text, "")
	case !r.fuzzy:
		r.c.Entries = append(r.c.Entries, e)
		r.c.texts[[2]string{e.Context, e.ID}] = e.Text
	}
	r.texts, r.last, r.notes, r.where, r.fuzzy = nil, "", nil, nil, false
	return nil
}

// rule takes in the plural rule of the header.
func (r *reader) rule() (err error) {
	rule := forms.FindStringSubmatch(r.header)
	if rule == nil {
		if slices.ContainsFunc(r.c.Entries, func(e Entry) bool { return e.Plural != "" && len(e.Text) > 1 && e.Text[0] != "" }) {
			return errors.New("its header has no Plural-Forms")
		}
		return nil
	}
	n, err := strconv.Atoi(rule[1])
	switch {
	case err != nil || n < 1 || n > maxPlural:
		return fmt.Errorf("it says it has %s plural forms", rule[1])
	case len(rule[2]) > maxRule || strings.Count(rule[2], "(") > maxDepth || strings.Count(rule[2], "(") != strings.Count(rule[2], ")"):
		return errors.New("its plural rule is too long, or its brackets do not match")
	case byNothing.MatchString(rule[2]):
		return errors.New("its plural rule divides by nothing")
	}
	if r.c.rule, err = plurals.Compile(rule[2]); err != nil {
		return fmt.Errorf("its plural rule is not understood: %w", err)
	}
	return nil
}

// Get is what is said for a message, if something is.
func (c *Catalogue) Get(context, id string) (string, bool) { return c.form(context, id, 0) }

// GetN is what is said for a message of so many, if something is.
func (c *Catalogue) GetN(context, id string, n int) (string, bool) {
	if n < 0 {
		n = -n
	}
	form := 0
	if c.rule != nil {
		form = c.rule.Eval(uint32(n % (1 << 31)))
	}
	return c.form(context, id, form)
}

func (c *Catalogue) form(context, id string, form int) (string, bool) {
	texts := c.texts[[2]string{context, id}]
	if form < 0 || form >= len(texts) || texts[form] == "" {
		return "", false
	}
	return texts[form], true
}

// Write writes a catalogue: its header line by line, "Language: pt_BR", then the entries.
func Write(header []string, all []Entry) []byte {
	var b strings.Builder
	b.WriteString("msgid \"\"\nmsgstr \"\"\n")
	for _, line := range header {
		b.WriteString(quoted(line+"\n") + "\n")
	}
	b.WriteString("\n")
	for i, e := range all {
		if i > 0 {
			b.WriteString("\n")
		}
		write(&b, e)
	}
	return []byte(b.String())
}

func write(b *strings.Builder, e Entry) {
	if e.Note != "" {
		b.WriteString("#. " + e.Note + "\n")
	}
	for _, w := range e.Where {
		b.WriteString("#: " + w + "\n")
	}
	if e.Context != "" {
		b.WriteString("msgctxt " + quoted(e.Context) + "\n")
	}
	b.WriteString("msgid " + quoted(e.ID) + "\n")
	text := func(i int) string {
		if i < len(e.Text) {
			return e.Text[i]
		}
		return ""
	}
	if e.Plural == "" {
		b.WriteString("msgstr " + quoted(text(0)) + "\n")
		return
	}
	b.WriteString("msgid_plural " + quoted(e.Plural) + "\n")
	for i := range max(2, len(e.Text)) {
		fmt.Fprintf(b, "msgstr[%d] %s\n", i, quoted(text(i)))
	}
}

// quoted is a text as the form has it, on one line.
var quoting = strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", `\n`, "\t", `\t`, "\r", `\r`)

func quoted(s string) string { return `"` + quoting.Replace(s) + `"` }
