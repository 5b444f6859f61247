package iconbench

import (
	"cmp"
	_ "embed"
	"math"
	"path"
	"slices"
	"strings"
	"unicode"

	"ivelt/core/icontheme"
	"ivelt/core/say"
	"ivelt/core/table"
)

// Proposal is an icon of a pack that would serve for something that is asked.
type Proposal struct {
	Name    string        `json:"name"`
	Path    string        `json:"path"` // of its picture, as io/fs wants it
	Reasons []say.Message `json:"-"`
	Why     []string      `json:"why"` // the reasons, the strongest first
	Score   float64       `json:"score"`
}

// The categories are those of the Desktop Menu Specification 1.1, Appendix A (from memory); which
// icon stands for one is common practice, no source, with the names of the Icon Naming
// Specification where it has one.
//
//go:embed categories.csv
var categoriesCSV string

var ofCategory = listed(categoriesCSV)

// Icons that stand for words with which programs are described (common practice, no source; of the
// Icon Naming Specification 0.8 where it has one).
//
//go:embed concepts.csv
var conceptsCSV string

var ofConcept = listed(conceptsCSV)

// listed are the icons of a table, by what they stand for.
func listed(csv string) map[string][]string {
	out := map[string][]string{}
	for of, icons := range table.Of(csv) {
		out[of] = strings.Fields(icons)
	}
	return out
}

// Search finds icons of a pack by what they are called and how they look.
type Search struct {
	x     *icontheme.Index
	same  func(path string) string
	names []entry
	by    map[string][]int // entries, by word
	keyed map[string][]int // entries, by key
}

type entry struct {
	name  string
	words []string
}

// maxNames bounds how many icons of a pack are searched.
const maxNames = 100_000

// shownAt is the size at which icons are proposed and compared, px.
const shownAt = 48

// NewSearch reads the names of the first pack of an index; symbolic ones are no proposals. same
// tells which file a path leads to, so that no picture is proposed twice.
func NewSearch(x *icontheme.Index, same func(path string) string) *Search {
	s := &Search{x: x, same: same, by: map[string][]int{}, keyed: map[string][]int{}}
	names := x.Names(1)
	slices.Sort(names)
	for _, name := range names[:min(len(names), maxNames)] {
		if strings.HasSuffix(name, "-symbolic") {
			continue
		}
		at := len(s.names)
		e := entry{name: name, words: words(name)}
		s.names = append(s.names, e)
		s.keyed[keyOf(name)] = append(s.keyed[keyOf(name)], at)
		for _, w := range e.words {
			s.by[w] = append(s.by[w], at)
		}
	}
	return s
}

// Len is how many names are searched.
func (s *Search) Len() int { return len(s.names) }

// keyOf is a name without what people write one way or another.
func keyOf(name string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, name)
}

// empty words tell nothing of what a program is.
var empty = map[string]bool{}

func init() {
	for _, w := range strings.Fields("org com net io de fr github gitlab sourceforge freedesktop the a an and or of for to in on with by your from is it as app application applications program software tool tools utility desktop gtk gtk2 gtk3 gtk4 qt qt4 qt5 qt6 x11 linux free simple easy using based client use") {
		empty[w] = true
	}
}

// words are those of a name or a text, in small letters: also where a small letter stands before a
// capital one.
func words(text string) (out []string) {
	var b strings.Builder
	flush := func() {
		if w := single(b.String()); w != "" && !slices.Contains(out, w) {
			out = append(out, w)
		}
		b.Reset()
	}
	small := false
	for _, r := range text {
		switch {
		case unicode.IsUpper(r):
			if small {
				flush()
			}
			b.WriteRune(unicode.ToLower(r))
		case unicode.IsLetter(r), unicode.IsDigit(r):
			b.WriteRune(r)
		default:
			flush()
		}
		small = unicode.IsLower(r)
	}
	flush()
	return out
}

// single is a word as one writes one of it, by its last letters.
func single(word string) string {
	switch {
	case len(word) > 4 && strings.HasSuffix(word, "ies"):
		return word[:len(word)-3] + "y"
	case len(word) > 3 && strings.HasSuffix(word, "s") && !strings.HasSuffix(word, "ss") && !strings.HasSuffix(word, "us") && !strings.HasSuffix(word, "is"):
		return word[:len(word)-1]
	}
	return word
}

// field is one thing that is known of what is searched for.
type field struct {
	text   string
	weight float64 // of its words
	whole  float64 // of the whole of it, 0 for what is no name
	code   func(name string) say.Message
}

// Reasons.
func sameName(of string) say.Message    { return say.Of("icons/same-name", of) }
func sameCommand(of string) say.Message { return say.Of("icons/same-command", of) }
func sameWords(of string) say.Message   { return say.Of("icons/same-words", of) }
func ofKind(of string) say.Message      { return say.Of("icons/of-kind", of) }
func category(of string) say.Message    { return say.Of("icons/of-category", of) }
func likeness() say.Message             { return say.Of("icons/looks-like") }

// fields are what is known of a want, what tells most first.
func (w Want) fields() (out []field) {
	p := w.Program
	for i, name := range w.Names {
		if strings.HasSuffix(name, "-symbolic") {
			continue // said by the name without that
		}
		out = append(out, field{name, 1 / float64(1+i), 100 / float64(1+i), sameName})
	}
	if p.ID != "" {
		last := p.ID[strings.LastIndexByte(p.ID, '.')+1:]
		out = append(out, field{p.ID, 0, 96, sameName}, field{last, 1, 94, sameName}, field{p.Name, 1, 90, sameName},
			field{path.Base(p.Command), 0.9, 92, sameCommand}, field{p.Class, 0.8, 90, sameName},
			field{p.Generic, 0.6, 60, sameWords}, field{strings.Join(p.Keywords, " "), 0.25, 0, sameWords}, field{p.Comment, 0.3, 0, sameWords})
	}
	if w.File != "" {
		name, _ := icontheme.IconName(path.Base(w.File))
		out = append(out, field{name, 0.8, 90, sameName})
	}
	return out
}

// lookalike is how much a picture may count that looks like another, leastLike how alike one has to
// be that nothing else speaks for.
const (
	lookalike = 45.0
	leastLike = 0.35
)

// For proposes up to n icons for something that is asked, the best first, each picture once. like
// tells how alike the picture of an icon and what is shown now are, from 0 to 1; nil if nothing is.
func (s *Search) For(w Want, like func(name string) float64, n int) []Proposal {
	type reason struct {
		says  say.Message
		score float64
	}
	found := map[int][]reason{}
	add := func(at int, score float64, says say.Message) {
		for i, r := range found[at] {
			if r.says.Code == says.Code {
				if score > r.score {
					found[at][i] = reason{says, score}
				}
				return
			}
		}
		found[at] = append(found[at], reason{says, score})
	}
	total := float64(len(s.names))
	rare := func(word string) float64 { return math.Log1p(total / float64(1+len(s.by[word]))) }
	for _, f := range w.fields() {
		if f.text == "" {
			continue
		}
		if f.whole > 0 {
			for _, at := range s.keyed[keyOf(f.text)] {
				add(at, f.whole, f.code(s.names[at].name))
			}
		}
		if f.weight == 0 {
			continue
		}
		of := slices.DeleteFunc(words(f.text), func(w string) bool { return empty[w] || len(w) < 2 })
		var all float64
		for _, word := range of {
			all += rare(word)
		}
		shared := map[int]float64{}
		for _, word := range of {
			for _, at := range s.by[word] {
				shared[at] += rare(word)
			}
		}
		for at, sum := range shared {
			var own float64
			for _, word := range s.names[at].words {
				if empty[word] {
					own += rare(word) / 4
				} else {
					own += rare(word)
				}
			}
			// As much as is shared, of what both have.
			score := 80 * f.weight * sum / math.Sqrt(all*own)
			if f.whole == 0 {
				score = 80 * f.weight * sum / math.Sqrt(min(all, 3*sum)*own)
			}
			add(at, min(score, 80*f.weight), sameWords(s.common(f.text, at)))
		}
	}
	for i, c := range w.Program.Categories {
		for j, icon := range ofCategory[c] {
			for _, at := range s.keyed[keyOf(icon)] {
				add(at, 40-8*float64(j)+2*float64(min(i, 4)), category(c)) // the later ones say more
			}
		}
	}
	for _, text := range []struct {
		of    string
		score float64
	}{{w.Program.Generic, 36}, {w.Program.Name, 36}, {strings.Join(w.Program.Keywords, " "), 30}, {w.Program.Comment, 28}} {
		for _, word := range words(text.of) {
			for j, icon := range ofConcept[word] {
				for _, at := range s.keyed[keyOf(icon)] {
					add(at, text.score-4*float64(j), say.Of("icons/of-word", word))
				}
			}
		}
	}
	for _, icon := range w.kinds {
		for _, at := range s.keyed[keyOf(icon)] {
			add(at, 25, ofKind(icon))
		}
	}
	if like != nil {
		for at := range s.names {
			if much := like(s.names[at].name); much > 0 && (much > leastLike || found[at] != nil) {
				add(at, lookalike*much, likeness())
			}
		}
	}
	type scored struct {
		at    int
		score float64
	}
	var order []scored
	for at, reasons := range found {
		slices.SortFunc(reasons, func(a, b reason) int { return cmp.Compare(b.score, a.score) })
		sum := 0.0
		for i, r := range reasons {
			sum += r.score / float64(int(1)<<(2*i)) // what else speaks for it counts a quarter, and so on
		}
		order = append(order, scored{at, sum})
	}
	slices.SortFunc(order, func(a, b scored) int {
		return cmp.Or(cmp.Compare(b.score, a.score), strings.Compare(s.names[a.at].name, s.names[b.at].name))
	})
	var out []Proposal
	seen := map[string]bool{}
	for _, o := range order {
		e := &s.names[o.at]
		if len(w.Names) > 0 && e.name == w.Names[0] {
			continue // it shows that, or has another in its place
		}
		icon, ok := s.x.Lookup(e.name, shownAt, 1)
		if !ok || seen[s.same(icon.Path)] {
			continue
		}
		seen[s.same(icon.Path)] = true
		p := Proposal{Name: e.name, Path: icon.Path, Score: math.Round(o.score*10) / 10}
		for _, r := range found[o.at] {
			p.Reasons, p.Why = append(p.Reasons, r.says), append(p.Why, r.says.String())
		}
		if out = append(out, p); len(out) == n {
			break
		}
	}
	return out
}

// common are the words that a text and an entry share.
func (s *Search) common(text string, at int) string {
	return strings.Join(slices.DeleteFunc(words(text), func(w string) bool { return empty[w] || !slices.Contains(s.names[at].words, w) }), " ")
}
