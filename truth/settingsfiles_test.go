package truth

import (
	"encoding/json"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"

	"ivelt/core/settingsfile"
)

// noise are letters that mean something in some form.
const noise = "{}[]\"',:=#\n \t-&<>/\\ab1"

// endings are the files that hold each form on a Debian system.
var endings = map[settingsfile.Form][]string{
	settingsfile.JSON: {".json"}, settingsfile.TOML: {".toml"}, settingsfile.YAML: {".yaml", ".yml"},
	settingsfile.XML: {".xml"}, settingsfile.Lines: {".conf", ".cfg", ".ini", ".desktop"},
}

// systemFiles are files of each form that happen to be on this machine, an even choice
// of at most most of them: files that nobody here wrote.
func systemFiles(t *testing.T, most int) map[settingsfile.Form][]string {
	found := map[settingsfile.Form][]string{}
	for _, root := range []string{"/etc", "/usr/share", "/usr/lib"} {
		require.NoError(t, filepath.WalkDir(root, func(p string, d fs.DirEntry, err error) error {
			if err != nil || !d.Type().IsRegular() {
				return nil // what cannot be read is none of them
			}
			for form, all := range endings {
				if slices.Contains(all, filepath.Ext(p)) {
					if info, err := d.Info(); err == nil && info.Size() > 0 && info.Size() < 64<<10 {
						found[form] = append(found[form], p)
					}
				}
			}
			return nil
		}))
	}
	for form, all := range found {
		slices.Sort(all)
		rand.New(rand.NewPCG(1, 2)).Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
		found[form] = all[:min(len(all), most)]
	}
	return found
}

var moment = regexp.MustCompile(`^(\d{4}-\d\d-\d\d|\d\d:\d\d)`)

// said is a value as Python writes it.
func said(form settingsfile.Form, v settingsfile.Value) string {
	if form == settingsfile.TOML && v.Bare {
		plain := strings.ReplaceAll(v.Text, "_", "")
		if n, err := strconv.ParseInt(plain, 0, 64); err == nil {
			return strconv.FormatInt(n, 10)
		}
		if moment.MatchString(v.Text) {
			return "a moment"
		}
		return plain
	}
	return v.Text
}

// TestSettingsFilesAreReadAsPythonReadsThem: every value of files that are on a Debian
// system, of the messy ones of the package, and of both with letters taken out and put
// in, as json, tomllib, PyYAML and expat read it (Debian: python3, python3-yaml).
func TestSettingsFilesAreReadAsPythonReadsThem(t *testing.T) {
	t.Parallel()
	most := 120
	if *all {
		most = 2000
	}
	var names []string
	var forms []settingsfile.Form
	var asked strings.Builder
	r := rand.New(rand.NewPCG(5, 6))
	dir := t.TempDir()
	ask := func(form settingsfile.Form, name string) {
		names, forms = append(names, name), append(forms, form)
		fmt.Fprintln(&asked, form, name)
		b, err := os.ReadFile(name)
		require.NoError(t, err)
		for range 2 { // damaged
			c := slices.Clone(b)
			for range 1 + r.IntN(3) {
				at := r.IntN(len(c))
				if r.IntN(2) == 0 {
					c = slices.Delete(c, at, min(len(c), at+1+r.IntN(3)))
				} else {
					c = slices.Insert(c, at, noise[r.IntN(len(noise))])
				}
				if len(c) == 0 {
					c = []byte(" ")
				}
			}
			damaged := filepath.Join(dir, fmt.Sprint(len(names)))
			require.NoError(t, os.WriteFile(damaged, c, 0o644))
			names, forms = append(names, damaged), append(forms, form)
			fmt.Fprintln(&asked, form, damaged)
		}
	}
	onSystem := systemFiles(t, most)
	for _, form := range settingsfile.Forms() {
		if form == settingsfile.Lines {
			continue // no standard says how they are read
		}
		mine, err := filepath.Glob("../core/settingsfile/testdata/" + string(form) + "/*")
		require.NoError(t, err)
		require.NotEmpty(t, mine)
		for _, name := range slices.Concat(mine, onSystem[form]) {
			ask(form, name)
		}
	}
	c := exec.CommandContext(t.Context(), "/usr/bin/python3", "reference/settings.py") // Debian's, which has its modules
	c.Stdin = strings.NewReader(asked.String())
	answers := lines(output(t, c))
	require.Len(t, answers, len(names))
	type count struct{ files, values, refused, tolerated, letters, apart int }
	counts := map[settingsfile.Form]*count{}
	for i, answer := range answers {
		var theirs [][3]string
		require.NoError(t, json.Unmarshal([]byte(answer), &theirs), names[i])
		n := counts[forms[i]]
		if n == nil {
			n = &count{}
			counts[forms[i]] = n
		}
		n.files++
		b, err := os.ReadFile(names[i])
		require.NoError(t, err)
		values, err := settingsfile.Parse(forms[i], b)
		switch {
		case answer == "null" && err != nil:
			n.refused++
		case answer == "null":
			n.tolerated++ // with comments, or not as strict
		case err != nil && !utf8.Valid(b):
			n.letters++
		case err != nil:
			n.apart++
			t.Logf("%s: Python reads it: %s", names[i], err)
		default:
			var ours [][3]string
			for _, v := range values {
				ours = append(ours, [3]string{v.Group, v.Key, said(forms[i], v)})
			}
			order := func(a, b [3]string) int { return slices.Compare(a[:], b[:]) }
			slices.SortFunc(ours, order)
			slices.SortFunc(theirs, order)
			n.values += len(theirs)
			if !slices.Equal(ours, theirs) {
				n.apart++
				for k := range max(len(ours), len(theirs)) {
					if k >= len(ours) || k >= len(theirs) || ours[k] != theirs[k] {
						t.Logf("%s: ours %.200q, theirs %.200q", names[i], ours[min(k, len(ours)):min(k+1, len(ours))], theirs[min(k, len(theirs)):min(k+1, len(theirs))])
						break
					}
				}
			}
		}
	}
	for _, form := range settingsfile.Forms() {
		if n := counts[form]; n != nil {
			t.Logf("%-5s %5d files: %6d values alike; %d refused by both, %d by Python alone, %d for letters that are not UTF-8; %d otherwise", form, n.files, n.values, n.refused, n.tolerated, n.letters, n.apart)
			require.LessOrEqual(t, n.apart, n.files/100, form) // damaged ones, that one parser takes for whole
			require.Greater(t, n.values, 100)
		}
	}
}

// TestSystemFilesAreEditedLosslessly sets values in settings files that are on the
// system, and sets them back: not a letter is another.
func TestSystemFilesAreEditedLosslessly(t *testing.T) {
	t.Parallel()
	most := 60
	if *all {
		most = 600
	}
	for form, names := range systemFiles(t, most) {
		edits, refused, files := 0, 0, 0
		for _, name := range names {
			b, err := os.ReadFile(name)
			require.NoError(t, err)
			values, err := settingsfile.Parse(form, b)
			if err != nil {
				continue
			}
			files++
			for i := 0; i < len(values); i += 1 + len(values)/6 {
				v := values[i]
				last, _ := settingsfile.Lookup(values, v.Group, v.Key)
				out, err := settingsfile.Set(form, b, v.Group, v.Key, "New", settingsfile.How{})
				if err != nil {
					require.ErrorIs(t, err, settingsfile.ErrEdit, "%s:%d", name, v.Line)
					refused++
					continue
				}
				back, err := settingsfile.Set(form, out, v.Group, v.Key, last.Text, settingsfile.How{Bare: last.Bare})
				if err != nil {
					require.ErrorIs(t, err, settingsfile.ErrEdit, "%s:%d", name, v.Line)
					refused++
					continue
				}
				edits++
				again, err := settingsfile.Parse(form, back)
				require.NoError(t, err)
				require.Len(t, again, len(values), "%s:%d", name, v.Line)
				was, is := strings.Split(string(b), "\n"), strings.Split(string(back), "\n")
				require.Len(t, is, len(was), "%s:%d", name, v.Line)
				for n := range was {
					if n != last.Line-1 {
						require.Equal(t, was[n], is[n], "%s:%d", name, v.Line)
					}
				}
			}
		}
		t.Logf("%-5s %4d files: %5d edits there and back, %4d refused", form, files, edits, refused)
		require.Greater(t, edits, 20, form)
		require.Greater(t, edits, refused, form)
	}
}
