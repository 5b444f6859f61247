// Package wordindex says which of very many texts have a word, by the word's beginning. It is
// held in memory: a million texts of a dozen words take some 50 MB.
package wordindex

import (
	"math/bits"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Words are the words of a text: runs of letters and digits, in small letters and without
// marks over them, as SQLite's tokenizer "unicode61" with remove_diacritics 2 takes them
// (sqlite.org/fts5.html, section 4.3.1). Where that takes marks off Latin letters alone, and
// has other marks part words, here they come off Greek, Cyrillic, Hebrew and Arabic too, and
// those of other scripts, which are letters there, stay in the word.
func Words(text string) []string {
	for i := range len(text) {
		if text[i] >= 0x80 {
			text = unmarked(norm.NFD.String(text))
			break
		}
	}
	return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsNumber(r) && !unicode.Is(unicode.Co, r) && !unicode.IsMark(r)
	})
}

// unmarked is a decomposed text without marks that people leave out.
func unmarked(text string) string {
	bare := true // the letter before has marks that do not count
	return strings.Map(func(r rune) rune {
		if !unicode.IsMark(r) {
			bare = !unicode.IsLetter(r) || unicode.In(r, unicode.Latin, unicode.Greek, unicode.Cyrillic, unicode.Hebrew, unicode.Arabic)
		} else if bare {
			return -1
		}
		return r
	}, text)
}

// Bits are places of texts, a bit each.
type Bits []uint64

// NewBits has room for n places.
func NewBits(n int) Bits { return make(Bits, (n+63)/64) }

// Set marks a place.
func (b Bits) Set(i int32) { b[i>>6] |= 1 << (i & 63) }

// Has reports whether a place is marked; one there is no room for is not.
func (b Bits) Has(i int32) bool { return int(i>>6) < len(b) && b[i>>6]&(1<<(i&63)) != 0 }

// And keeps what both have.
func (b Bits) And(o Bits) {
	for i := range b {
		b[i] &= o[i]
	}
}

// Not takes out what the other has.
func (b Bits) Not(o Bits) {
	for i := range min(len(b), len(o)) {
		b[i] &^= o[i]
	}
}

// Count is how many are marked.
func (b Bits) Count() (n int) {
	for _, w := range b {
		n += bits.OnesCount64(w)
	}
	return n
}

// All are the places that are marked, in order.
func (b Bits) All(yield func(int32) bool) {
	for i, w := range b {
		for ; w != 0; w &= w - 1 {
			if !yield(int32(i<<6 + bits.TrailingZeros64(w))) {
				return
			}
		}
	}
}

// Builder takes texts, in the order of their places.
type Builder struct {
	at    map[string]int32 // of a term in lists
	terms []string
	lists [][]int32
}

// NewBuilder has none.
func NewBuilder() *Builder { return &Builder{at: map[string]int32{}} }

// Add takes the words of the text at a place.
func (b *Builder) Add(place int32, texts ...string) {
	for _, text := range texts {
		for _, w := range Words(text) {
			i, ok := b.at[w]
			if !ok {
				i = int32(len(b.terms))
				w = strings.Clone(w)
				b.at[w], b.terms, b.lists = i, append(b.terms, w), append(b.lists, nil)
			}
			if l := b.lists[i]; len(l) == 0 || l[len(l)-1] != place {
				b.lists[i] = append(l, place)
			}
		}
	}
}

// Index is what was built. It does not change.
type Index struct {
	Terms []string // sorted
	Ends  []uint32 // where the places of each term end
	All   []int32  // places, those of each term in order
	masks []uint32 // which letters each has
}

// Index is the index of the texts taken so far.
func (b *Builder) Index() *Index {
	order := make([]int32, len(b.terms))
	total := 0
	for i := range order {
		order[i] = int32(i)
		total += len(b.lists[i])
	}
	slices.SortFunc(order, func(x, y int32) int { return strings.Compare(b.terms[x], b.terms[y]) })
	out := &Index{Terms: make([]string, 0, len(order)), Ends: make([]uint32, 0, len(order)), All: make([]int32, 0, total)}
	for _, i := range order {
		out.Terms = append(out.Terms, b.terms[i])
		out.All = append(out.All, b.lists[i]...)
		out.Ends = append(out.Ends, uint32(len(out.All)))
	}
	return out.done()
}

// done fills in what is worked out of the terms.
func (x *Index) done() *Index {
	x.masks = make([]uint32, len(x.Terms))
	for i, t := range x.Terms {
		x.masks[i] = maskOf(t)
	}
	return x
}

// Of is an index of these parts, which were one's. ok is false if they cannot be.
func Of(terms []string, ends []uint32, all []int32) (x *Index, ok bool) {
	if len(terms) != len(ends) || len(ends) == 0 && len(all) > 0 || len(ends) > 0 && int(ends[len(ends)-1]) != len(all) || !slices.IsSorted(ends) {
		return nil, false
	}
	return (&Index{Terms: terms, Ends: ends, All: all}).done(), true
}

// Join is one index of two; those of b lie behind those of a.
func Join(a, b *Index) *Index {
	out := &Index{Terms: make([]string, 0, max(len(a.Terms), len(b.Terms))), All: make([]int32, 0, len(a.All)+len(b.All))}
	out.Ends = make([]uint32, 0, cap(out.Terms))
	i, j := 0, 0
	for i < len(a.Terms) || j < len(b.Terms) {
		c := 0
		switch {
		case i == len(a.Terms):
			c = 1
		case j == len(b.Terms):
			c = -1
		default:
			c = strings.Compare(a.Terms[i], b.Terms[j])
		}
		term := ""
		if c <= 0 {
			term = a.Terms[i]
			out.All = append(out.All, a.places(i)...)
			i++
		}
		if c >= 0 {
			term = b.Terms[j]
			out.All = append(out.All, b.places(j)...)
			j++
		}
		out.Terms, out.Ends = append(out.Terms, term), append(out.Ends, uint32(len(out.All)))
	}
	return out.done()
}

// places are those of the term at a number.
func (x *Index) places(i int) []int32 {
	begin := uint32(0)
	if i > 0 {
		begin = x.Ends[i-1]
	}
	return x.All[begin:x.Ends[i]]
}

// span are the terms that begin with a word.
func (x *Index) span(prefix string) (from, to int) {
	from, _ = slices.BinarySearch(x.Terms, prefix)
	to = from
	if to < len(x.Terms) && strings.HasPrefix(x.Terms[to], prefix) {
		n, _ := slices.BinarySearchFunc(x.Terms[from:], prefix, func(t, p string) int {
			if strings.HasPrefix(t, p) {
				return -1
			}
			return strings.Compare(t, p)
		})
		to = from + n
	}
	return from, to
}

// Begins reports whether some word begins so.
func (x *Index) Begins(prefix string) bool {
	from, to := x.span(prefix)
	return from < to
}

// Mark marks the places of texts with a word that begins so, or, if whole, that is it.
func (x *Index) Mark(word string, whole bool, in Bits) {
	from, to := x.span(word)
	if whole && from < to {
		if x.Terms[from] != word {
			return
		}
		to = from + 1
	}
	if from == to {
		return
	}
	begin := uint32(0)
	if from > 0 {
		begin = x.Ends[from-1]
	}
	for _, p := range x.All[begin:x.Ends[to-1]] {
		in.Set(p)
	}
}

// maskOf says which letters a word has, a bit each of the first, and one for digits, and one for others.
func maskOf(word string) (m uint32) {
	for _, r := range word {
		switch {
		case r >= 'a' && r <= 'z':
			m |= 1 << (r - 'a')
		case r >= '0' && r <= '9':
			m |= 1 << 26
		default:
			m |= 1 << 27
		}
	}
	return m
}

// Near hands on the terms that are at most so many letters off from a word.
func (x *Index) Near(word string, most int, each func(term string, off int)) {
	m, size := maskOf(word), len(word)
	for i, t := range x.Terms {
		if d := len(t) - size; d > 2*most || -d > 2*most || bits.OnesCount32(x.masks[i]^m) > 2*most {
			continue
		}
		if off := Misspelt(word, t, most); off <= most {
			each(t, off)
		}
	}
}

// Misspelt is how many letters have to be put in, left out, changed or swapped
// with their neighbour to make one word of the other (optimal string
// alignment), or more than most if it is more.
func Misspelt(a, b string, most int) int {
	x, y := []rune(a), []rune(b)
	if d := len(x) - len(y); d > most || -d > most {
		return most + 1
	}
	before, last, now := make([]int, len(y)+1), make([]int, len(y)+1), make([]int, len(y)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(x); i++ {
		now[0] = i
		least := i
		for j := 1; j <= len(y); j++ {
			cost := 1
			if x[i-1] == y[j-1] {
				cost = 0
			}
			now[j] = min(last[j]+1, now[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] {
				now[j] = min(now[j], before[j-2]+1)
			}
			least = min(least, now[j])
		}
		if least > most {
			return most + 1
		}
		before, last, now = last, now, before
	}
	return last[len(y)]
}
