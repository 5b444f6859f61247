// Package pointerset converts pointer sets between the two families of formats: a folder of
// Xcursor files under the names that programs ask for, and a folder of .cur and .ani files that
// are called whatever their maker liked.
package pointerset

import (
	_ "embed"
	"encoding/csv"
	"path"
	"regexp"
	"slices"
	"strings"
)

// Role is what a pointer stands for.
type Role struct {
	Name   string   // its CSS name (CSS Basic User Interface Level 4, property cursor), or one of our own
	Title  string   // what people read
	Needed []Format // the families in which every set is expected to have it
	Names  []string // that programs for X ask by; none if no program does
	Lent   string   // the role whose picture stands for it where a set has none of its own
	Kin    []string // the roles whose picture comes nearest, where it has to be lent
	File   string   // what its file is called in a set of the other family

	sure, perhaps [][]string // words of file names
}

// The table has a line for each role. The names are those of CSS, of the X cursor font
// (cursorfont.h), and of what both toolkits ask for besides (see [Asked]). What the files of the other family are called is up to
// their makers: the words are common practice, no source. A word with a question mark counts if
// nothing better is there.
//
//go:embed roles.csv
var rolesCSV string

// Roles are all, those that most programs use first.
var Roles = read(rolesCSV)

func read(text string) (out []*Role) {
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil {
		panic(err) // the text is part of the program
	}
	doubtful := map[string]bool{}
	for _, row := range rows[1:] {
		r := &Role{Name: row[0], Title: row[1], Names: strings.Fields(row[3]), Lent: row[4], File: row[5], Kin: strings.Fields(row[7])}
		for f := range strings.FieldsSeq(row[2]) {
			r.Needed = append(r.Needed, Format(f))
		}
		for word := range strings.SplitSeq(row[6], "|") {
			if word, ok := strings.CutSuffix(word, "?"); ok {
				doubtful[word] = true
				r.perhaps = append(r.perhaps, strings.Fields(word))
			} else {
				r.sure = append(r.sure, strings.Fields(word))
			}
		}
		out = append(out, r)
	}
	for _, r := range out {
		for _, name := range append(slices.Clone(r.Names), r.File) {
			if words := wordsOf(name); !doubtful[strings.Join(words, " ")] {
				r.sure = append(r.sure, words)
			}
		}
	}
	return out
}

// RoleOf is the role of a name that programs for X ask by, nil if none has it.
func RoleOf(name string) *Role {
	for _, r := range Roles {
		if r.Name == name || slices.Contains(r.Names, name) {
			return r
		}
	}
	return nil
}

// Between these a file's name is parted into words: ThreeWords, four5, x-y.
var parts = regexp.MustCompile(`[A-Z]+[a-z]*|[a-z]+|[0-9]+`)
var humps = regexp.MustCompile(`([A-Z])([A-Z][a-z])|([a-z])([A-Z])`)

// wordsOf are the words of a file's name, in small letters. A number that it begins with is there
// for the order.
func wordsOf(file string) []string {
	base := strings.TrimSuffix(path.Base(file), path.Ext(file))
	var out []string
	for _, w := range parts.FindAllString(humps.ReplaceAllString(base, "$1$3 $2$4"), -1) {
		if len(out) == 0 && w[0] <= '9' {
			continue
		}
		out = append(out, strings.ToLower(w))
	}
	return out
}

// named is a file that is taken for a role.
type named struct {
	role *Role
	file string
}

// byName takes files for roles by what they are called: each role gets one, and each file one.
// What most of the files have in common says nothing. left are those that were not taken, with
// the role that another file was taken for, if that is why.
func byName(files []string) (taken []named, left []named) {
	words := make([][]string, len(files))
	count := map[string]int{}
	for i, f := range files {
		words[i] = wordsOf(f)
		for _, w := range slices.Compact(slices.Sorted(slices.Values(words[i]))) {
			count[w]++
		}
	}
	own := slices.Clone(words) // less what they have in common
	for i := range own {
		rest := slices.DeleteFunc(slices.Clone(own[i]), func(w string) bool { return len(files) >= 3 && 2*count[w] > len(files) })
		if len(rest) > 0 {
			own[i] = rest
		}
	}
	type match struct {
		role, file  int
		sure        bool
		taken, rest int // words
	}
	var all []match
	best := make([]int, len(files)) // words that a file's best match takes
	for i, of := range own {
		for k, r := range Roles {
			for j, list := range [][][]string{r.sure, r.perhaps} {
				for _, phrase := range list {
					if contains(of, phrase) || len(phrase) > 1 && contains(words[i], phrase) {
						all = append(all, match{k, i, j == 0, len(phrase), max(len(of)-len(phrase), 0)})
						best[i] = max(best[i], len(phrase))
					}
				}
			}
		}
	}
	all = slices.DeleteFunc(all, func(m match) bool { return m.taken < best[m.file] })
	rank := func(m match) []int {
		sure := 1
		if m.sure {
			sure = 0
		}
		return []int{sure, m.rest, -m.taken, m.role, m.file}
	}
	slices.SortStableFunc(all, func(a, b match) int { return slices.Compare(rank(a), rank(b)) })
	ofRole, ofFile := map[int]int{}, map[int]int{}
	for _, m := range all {
		_, has := ofRole[m.role]
		if _, is := ofFile[m.file]; !has && !is {
			ofRole[m.role], ofFile[m.file] = m.file, m.role
		}
	}
	for k, r := range Roles {
		if i, ok := ofRole[k]; ok {
			taken = append(taken, named{r, files[i]})
		}
	}
	for i, f := range files {
		if _, is := ofFile[i]; is {
			continue
		}
		l := named{file: f}
		if at := slices.IndexFunc(all, func(m match) bool { return m.file == i }); at >= 0 {
			l.role = Roles[all[at].role]
		}
		left = append(left, l)
	}
	return taken, left
}

// contains reports whether the words of a phrase stand one after the other among others.
func contains(all, phrase []string) bool {
	for i := 0; i+len(phrase) <= len(all); i++ {
		if slices.Equal(all[i:i+len(phrase)], phrase) {
			return true
		}
	}
	return false
}
