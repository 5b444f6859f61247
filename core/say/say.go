// Package say holds what Ivelt has to say as data: a code with arguments. The words are made
// in one place, from a table, so that they can be looked over together and said in another
// language.
package say

import (
	"cmp"
	_ "embed"
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"sync"

	"ivelt/core/po"
)

//go:embed english.pot
var english []byte

// words are the words by code, with the verbs of package fmt for arguments. Where they have a
// plural, the first whole number among the arguments decides.
var words = sync.OnceValue(func() map[string]po.Entry {
	read, err := po.Read(english)
	if err != nil {
		panic(err)
	}
	out := make(map[string]po.Entry, len(read.Entries))
	for _, e := range read.Entries {
		if _, twice := out[e.Context]; twice {
			panic(fmt.Sprintf("%q stands twice in the table", e.Context))
		}
		out[e.Context] = e
	}
	return out
})

// Message is something to say. The zero value says nothing.
type Message struct {
	Code string `json:"code"`
	Args []any  `json:"args,omitempty"` // strings, numbers and messages
}

// Of is the message of a code of the table; a code that is not there is a programmer's error.
// Errors and what has a String method are taken as the text they are.
func Of(code string, args ...any) Message {
	if _, ok := words()[code]; !ok {
		panic("no text for the code " + code)
	}
	return Message{code, taken(args)}
}

// taken are arguments as a message keeps them.
func taken(args []any) []any {
	for i, a := range args {
		switch a := a.(type) {
		case nil, string, int, int64, float64, Message:
		case Word:
			args[i] = a.Message()
		case error:
			args[i] = Fault(a)
		case fmt.Stringer:
			args[i] = a.String()
		default:
			args[i] = fmt.Sprint(a)
		}
	}
	return args
}

// ofSeveral are the codes whose words are as true of several as of one, named first.
var ofSeveral = []string{"match/would-not-find", "match/cannot-follow", "plan/would-not-find"}

// Together makes one message of those that say the same of several: of one code of
// [ofSeveral], and alike but for what is named first. A message that is there twice is said
// once.
func Together(all []Message) (out []Message) {
	for _, m := range all {
		i := slices.IndexFunc(out, func(o Message) bool { _, ok := o.and(m); return ok })
		if i < 0 {
			out = append(out, m)
			continue
		}
		out[i], _ = out[i].and(m)
	}
	return out
}

// and is the message that says both, if there is one.
func (m Message) and(other Message) (Message, bool) {
	if m.Code != other.Code || len(m.Args) != len(other.Args) {
		return Message{}, false
	}
	out := Message{m.Code, slices.Clone(m.Args)}
	for i := range m.Args {
		a, nested := m.Args[i].(Message)
		b, both := other.Args[i].(Message)
		switch {
		case reflect.DeepEqual(m.Args[i], other.Args[i]):
		case i == 0 && slices.Contains(ofSeveral, m.Code):
			out.Args[i] = Join(", ", append(listed(m.Args[i]), listed(other.Args[i])...)...)
		case i == 0 && nested && both:
			one, ok := a.and(b)
			if !ok {
				return Message{}, false
			}
			out.Args[i] = one
		default:
			return Message{}, false
		}
	}
	return out, true
}

// listed are the things that an argument names.
func listed(arg any) (out []Message) {
	m, ok := arg.(Message)
	switch {
	case !ok:
		return []Message{Words(fmt.Sprint(arg))}
	case m.Code != "join":
		return []Message{m}
	}
	for _, a := range m.Args[1:] {
		out = append(out, listed(a)...)
	}
	return out
}

// Parts are the messages that one of a code is made of, one within the other; or itself.
func (m Message) Parts(code string) []Message {
	if m.Code != code {
		return []Message{m}
	}
	var out []Message
	for _, a := range m.Args {
		if inner, ok := a.(Message); ok {
			out = append(out, inner.Parts(code)...)
		}
	}
	return out
}

// Words is a message of words that are in no table: those of a descriptor, or of a maker.
func Words(text string) Message {
	if text == "" {
		return Message{}
	}
	return Message{Code: "words", Args: []any{text}}
}

// String is the message in English.
func (m Message) String() string {
	if m.Code == "" {
		return ""
	}
	return m.In(nil)
}

// UnmarshalJSON reads it again; numbers are whole if they can be.
func (m *Message) UnmarshalJSON(b []byte) error {
	var raw struct {
		Code string            `json:"code"`
		Args []json.RawMessage `json:"args"`
	}
	if err := json.Unmarshal(b, &raw); err != nil {
		return err
	}
	m.Code, m.Args = raw.Code, nil
	for _, r := range raw.Args {
		var whole int
		var text string
		var inner Message
		var other any
		switch {
		case json.Unmarshal(r, &whole) == nil:
			m.Args = append(m.Args, whole)
		case json.Unmarshal(r, &text) == nil:
			m.Args = append(m.Args, text)
		case len(r) > 0 && r[0] == '{' && json.Unmarshal(r, &inner) == nil:
			m.Args = append(m.Args, inner)
		default:
			if err := json.Unmarshal(r, &other); err != nil {
				return err
			}
			m.Args = append(m.Args, other)
		}
	}
	return nil
}

// Format is the words of a code, with the verbs of package fmt for arguments; of several, where a
// number decides.
func Format(code string) string { return cmp.Or(words()[code].Plural, words()[code].ID) }

// Entries is the table.
func Entries() []po.Entry {
	return slices.SortedFunc(maps.Values(words()), func(a, b po.Entry) int { return cmp.Compare(a.Context, b.Context) })
}

// Codes are those of the table, in order.
func Codes() []string { return slices.Sorted(maps.Keys(words())) }
