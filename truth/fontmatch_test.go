package truth

import (
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/fontconf"
	"ivelt/core/fontfile"
)

// facesIn reads every face below folders.
func facesIn(t *testing.T, folders []string) (faces []fontfile.Face) {
	for _, folder := range folders {
		require.NoError(t, filepath.WalkDir(folder, func(name string, e fs.DirEntry, err error) error {
			if ext := strings.ToLower(filepath.Ext(name)); err == nil && e.Type().IsRegular() && (ext == ".ttf" || ext == ".otf" || ext == ".ttc") {
				b, err := os.ReadFile(name)
				if err != nil {
					return err
				}
				found, err := fontfile.Parse(b)
				if err == nil {
					faces = append(faces, found...)
				}
			}
			return err
		}), "%s is missing: make deps installs it", folder)
	}
	return faces
}

// TestFontsAreThoseOfFontconfig asks for families that are there and that are not, plain,
// bold and slanted, and compares the face with fc-match's, under Debian's rules and under
// generated ones. It brings its fonts, three sets of them, by configurations of its own:
// what else is installed does not matter (Debian: fontconfig, fonts-dejavu-core,
// fonts-liberation, fonts-lato, and the font packages of the list).
func TestFontsAreThoseOfFontconfig(t *testing.T) {
	t.Parallel()
	const installed = "/usr/share/fonts/truetype/"
	usual := []string{installed + "dejavu", installed + "lato", installed + "liberation"}
	sets := map[string][]string{"the usual ones": usual, "a printer's": {installed + "dejavu"}, "many": slices.Clone(usual)}
	rules := map[string]string{}
	for _, p := range realPacks(t) {
		folder := filepath.Join(p.root, "usr/share/fonts")
		if found, err := filepath.Glob(folder + "/type1/*"); err == nil && found != nil {
			sets["a printer's"] = append(sets["a printer's"], folder)
			rules["a printer's"] += "<include ignore_missing='yes'>" + filepath.Join(p.root, "usr/share/fontconfig/conf.avail") + "</include>"
		} else if _, err := os.Stat(folder); err == nil {
			sets["many"] = append(sets["many"], folder)
		}
	}
	require.Greater(t, len(sets["a printer's"]), 1)
	require.Greater(t, len(sets["many"]), 12)
	names := []string{"sans", "Sans", "serif", "monospace", "Mono", "sans serif", "system-ui", "Arial", "Helvetica", "Times New Roman", "Courier New", "Verdana", "Georgia", "DejaVu Sans", "dejavusans", "DejaVu Serif", "DejaVu Sans Mono",
		"Liberation Sans", "Liberation Mono", "Liberation Sans Narrow", "Lato", "LATO", "Lato Black", "Noto Sans", "Open Sans", "No Such Font", "Comic Sans MS", "Bitstream Vera Sans", "Consolas", "fantasy", "cursive", "Calibri", "Cambria", "Nimbus Sans L"}
	styles := []struct {
		says    string
		weight  float64
		slanted bool
	}{{"", 400, false}, {":bold", 700, false}, {":italic", 400, true}, {":bold:italic", 700, true}, {":light", 300, false}, {":weight=210", 900, false}}
	n := 0
	hold := func(what, file string, home string, faces []fontfile.Face, names []string) {
		c, err := fontconf.Load(os.DirFS("/"), file, fontconf.Home(home))
		require.NoError(t, err)
		for i, name := range names {
			for j, style := range styles {
				if (i+j)%2 > 0 && !*all {
					continue
				}
				ask := tool(t, "fc-match", "fontconfig", "-f", "%{family[0]}|%{style[0]}", strings.ReplaceAll(name, "-", `\-`)+style.says)
				ask.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "FONTCONFIG_FILE=" + file, "LANG=C.UTF-8", "XDG_CACHE_HOME=/dev/shm/fc-cache"}
				theirs := output(t, ask)
				i := fontconf.Match(faces, c.Families(name), style.weight, style.slanted)
				ours := faces[i].Family() + "|" + faces[i].Style()
				if !same("fontconfig", "face", theirs, ours) {
					t.Errorf("%s: %s%s: fontconfig %s, Ivelt %s (%v)", what, name, style.says, theirs, ours, c.Families(name)[:min(len(c.Families(name)), 6)])
				}
				n++
			}
		}
	}
	configure := func(home string, folders []string, more string) string {
		file := filepath.Join(home, "fonts.conf")
		text := "<?xml version='1.0'?><!DOCTYPE fontconfig SYSTEM 'urn:fontconfig:fonts.dtd'><fontconfig>"
		for _, folder := range folders {
			text += "<dir>" + folder + "</dir>"
		}
		write(t, file, text+more+"</fontconfig>")
		return file
	}
	for what, folders := range sets {
		home := t.TempDir()
		faces := facesIn(t, folders)
		require.Greater(t, len(faces), 20)
		asked := slices.Clone(names)
		for i := range 10 { // of its own
			asked = append(asked, faces[i*len(faces)/10].Family())
		}
		hold(what, configure(home, folders, "<include>/etc/fonts/conf.d</include>"+rules[what]), home, faces, asked)
		t.Logf("%-14s %4d faces in %d folders", what, len(faces), len(folders))
	}
	faces := facesIn(t, usual)
	for seed := range 6 * *times {
		r := rand.New(rand.NewPCG(seed, 55))
		home := t.TempDir()
		file := configure(home, usual, fontRules(r)+"<include ignore_missing='yes'>"+home+"/more</include>")
		for i := range 3 {
			write(t, filepath.Join(home, "more", fmt.Sprintf("%d%d-x.conf", r.IntN(9)+1, i)), "<fontconfig>"+fontRules(r)+"</fontconfig>")
		}
		hold(fmt.Sprint("seed ", seed), file, home, faces, []string{"sans", "Pier", "Gull Sans", "DejaVu Sans", "Lato", "monospace"})
	}
	t.Logf("%d requests end at the face that fontconfig takes", n)
}

func fontRules(r *rand.Rand) string {
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	family := func() string {
		return pick("sans", "Pier", "Gull Sans", "gullsans", "DejaVu Sans", "DejaVu Serif", "Lato", "Liberation Mono", "Liberation Sans", "monospace", "No Such Font", "DejaVu Sans Mono")
	}
	list := func() (s string) {
		for range 1 + r.IntN(2) {
			s += "<family>" + family() + "</family>"
		}
		return s
	}
	var b strings.Builder
	for range 1 + r.IntN(5) {
		if r.IntN(2) == 0 {
			fmt.Fprintf(&b, "<alias%s><family>%s</family>", pick("", "", " binding='same'", " binding='strong'", " binding='weak'"), family())
			for _, kind := range []string{"default", "prefer", "accept"} {
				if r.IntN(2) == 0 {
					fmt.Fprintf(&b, "<%s>%s</%s>", kind, list(), kind)
				}
			}
			b.WriteString("</alias>")
			continue
		}
		fmt.Fprintf(&b, "<match target='pattern'><test name='family' qual='%s' compare='%s'%s><string>%s</string></test><edit name='family' mode='%s' binding='%s'><string>%s</string>%s</edit></match>",
			pick("any", "any", "first", "all", "not_first"), pick("eq", "eq", "not_eq", "contains"), pick("", " ignore-blanks='true'"), family(),
			pick("assign", "assign_replace", "prepend", "prepend_first", "append", "append_last"), pick("weak", "strong", "same"), family(), pick("", "<string>"+family()+"</string>"))
	}
	return b.String()
}
