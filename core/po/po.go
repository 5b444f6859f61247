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

var (
	keyword   = regexp.MustCompile(`^(msgctxt|msgid|msgid_plural|msgstr|msgstr\[[0-9]\])\s*(".*)$`)
	byNothing = regexp.MustCompile(`%\s*0*(\D|$)`)
	forms     = regexp.MustCompile(`nplurals\s*=\s*(\d+)\s*;\s*plural\s*=\s*([^;]+);?`)
)

// Read reads a catalogue. An error names the line.
func Read(b []byte) (*Catalogue, error) {
	if len(b) > maxBytes {
		return nil, fmt.Errorf("%w: it has more than %d MB", ErrCatalogue, maxBytes>>20)
	}
	c := &Catalogue{texts: map[[2]string][]string{}}
	var e Entry
	var text map[string]string // of the entry, by keyword
	var fuzzy bool
	var last string
	header := ""
	end := func() error {
		if len(text) == 0 {
			return nil
		}
		e.Context, e.ID, e.Plural = text["msgctxt"], text["msgid"], text["msgid_plural"]
		if _, ok := text["msgid"]; !ok {
			return errors.New("an entry has no msgid")
		}
		if one, ok := text["msgstr"]; ok {
			e.Text = []string{one}
		}
		for i := range maxPlural {
			if one, ok := text[fmt.Sprintf("msgstr[%d]", i)]; ok {
				e.Text = append(e.Text, one)
			}
		}
		switch {
		case e.ID == "" && e.Context == "":
			header = strings.Join(e.Text, "")
		case !fuzzy:
			c.Entries = append(c.Entries, e)
			c.texts[[2]string{e.Context, e.ID}] = e.Text
		}
		e, text, fuzzy, last = Entry{}, nil, false, ""
		return nil
	}
	for i, line := range strings.Split(string(b), "\n") {
		line = strings.TrimSpace(line)
		at := func(err error) error { return fmt.Errorf("%w: line %d: %w", ErrCatalogue, i+1, err) }
		if said := keyword.FindStringSubmatch(line); said != nil {
			_, twice := text[said[1]]
			if starts := said[1] == "msgctxt" || said[1] == "msgid"; starts && strings.HasPrefix(last, "msgstr") {
				if err := end(); err != nil {
					return nil, at(err)
				}
			} else if twice {
				return nil, at(fmt.Errorf("%s stands here twice", said[1]))
			}
			if text == nil {
				text = map[string]string{}
			}
			last, line = said[1], said[2]
			text[last] = ""
		}
		switch {
		case line == "" || line[0] == '#':
			if err := end(); err != nil {
				return nil, at(err)
			}
			switch {
			case strings.HasPrefix(line, "#,") && strings.Contains(line, "fuzzy"):
				fuzzy = true
			case strings.HasPrefix(line, "#."):
				e.Note = strings.TrimSpace(e.Note + " " + strings.TrimSpace(line[2:]))
			case strings.HasPrefix(line, "#:"):
				e.Where = append(e.Where, strings.Fields(line[2:])...)
			}
		case line[0] != '"' || last == "":
			return nil, at(errors.New("it is neither a message nor a comment"))
		default:
			more, err := strconv.Unquote(line)
			if err != nil {
				return nil, at(errors.New("the text does not end, or has a sign after \\ that is not known"))
			}
			text[last] += more
		}
	}
	if err := end(); err != nil {
		return nil, fmt.Errorf("%w: at its end: %w", ErrCatalogue, err)
	}
	if rule := forms.FindStringSubmatch(header); rule != nil {
		if n, err := strconv.Atoi(rule[1]); err != nil || n < 1 || n > maxPlural {
			return nil, fmt.Errorf("%w: it says it has %s plural forms", ErrCatalogue, rule[1])
		}
		if len(rule[2]) > maxRule || strings.Count(rule[2], "(") > maxDepth || strings.Count(rule[2], "(") != strings.Count(rule[2], ")") {
			return nil, fmt.Errorf("%w: its plural rule is too long, or its brackets do not match", ErrCatalogue)
		}
		if byNothing.MatchString(rule[2]) {
			return nil, fmt.Errorf("%w: its plural rule divides by nothing", ErrCatalogue)
		}
		var err error
		if c.rule, err = plurals.Compile(rule[2]); err != nil {
			return nil, fmt.Errorf("%w: its plural rule is not understood: %w", ErrCatalogue, err)
		}
	} else if slices.ContainsFunc(c.Entries, func(e Entry) bool { return e.Plural != "" && len(e.Text) > 1 && e.Text[0] != "" }) {
		return nil, fmt.Errorf("%w: its header has no Plural-Forms", ErrCatalogue)
	}
	for line := range strings.Lines(header) {
		if name, value, ok := strings.Cut(line, ":"); ok && strings.EqualFold(strings.TrimSpace(name), "Language") {
			c.Language = strings.TrimSpace(value)
		}
	}
	return c, nil
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
