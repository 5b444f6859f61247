package fontconf_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/fontconf"
	"ivelt/core/fontfile"
)

// theirs is what fontconfig makes of a request for a family under a configuration.
func theirs(t *testing.T, dir, text, family string) []string {
	file := filepath.Join(dir, "fonts.conf")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	c := exec.CommandContext(t.Context(), "fc-pattern", "-c", "-f", "%{family}", family)
	c.Env = append(os.Environ(), "FONTCONFIG_FILE="+file)
	out, err := c.Output()
	require.NoError(t, err)
	return strings.Split(string(out), ",")
}

func ours(t *testing.T, text, family string) (out []string) {
	c, err := fontconf.Load(fstest.MapFS{"fonts.conf": {Data: []byte(text)}}, "/fonts.conf", fontconf.Home("/home/me"))
	require.NoError(t, err)
	for _, f := range c.Families(family) {
		out = append(out, f.Name)
	}
	return out
}

// TestFamiliesAreWhatFontconfigMakesOfThem, under random configurations: aliases of each
// binding, rules of each mode, tests of several kinds.
func TestFamiliesAreWhatFontconfigMakesOfThem(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	names := []string{"Sans", "Gull", "Tern", "Go", "Salt Mono"}
	name := func() string { return names[r.IntN(len(names))] }
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	dir := t.TempDir()
	for n := range 120 {
		var b strings.Builder
		b.WriteString("<?xml version=\"1.0\"?>\n<!DOCTYPE fontconfig SYSTEM \"fonts.dtd\">\n<fontconfig>\n")
		for range 1 + r.IntN(4) {
			switch r.IntN(3) {
			case 0:
				kind := pick("prefer", "accept", "default")
				fmt.Fprintf(&b, "<alias%s><family>%s</family><%s><family>%s</family><family>%s</family></%s></alias>\n", pick("", ` binding="same"`, ` binding="strong"`), name(), kind, name(), name(), kind)
			case 1:
				fmt.Fprintf(&b, "<match target=\"pattern\"><test name=\"family\"%s%s><string>%s</string></test><edit name=\"family\" mode=\"%s\"%s><string>%s</string></edit></match>\n",
					pick("", ` qual="any"`, ` qual="all"`, ` qual="first"`), pick("", ` compare="eq"`, ` compare="not_eq"`, ` compare="contains"`), name(), pick("assign", "assign_replace", "prepend", "prepend_first", "append", "append_last"), pick("", ` binding="same"`, ` binding="strong"`, ` binding="weak"`), name())
			case 2:
				fmt.Fprintf(&b, "<match><edit name=\"family\" mode=\"%s\"><string>%s</string></edit></match>\n", pick("append_last", "prepend_first"), name())
			}
		}
		b.WriteString("</fontconfig>\n")
		for range 3 {
			family := name()
			require.Equal(t, theirs(t, dir, b.String(), family), ours(t, b.String(), family), "%d: %s of\n%s", n, family, b.String())
		}
	}
}

// TestAFamilyOrAPropertyIsSet so that fontconfig goes by it, and all else stays.
func TestAFamilyOrAPropertyIsSet(t *testing.T) {
	dir := t.TempDir()
	for _, before := range []string{
		"", "<fontconfig>\n  <!-- mine -->\n</fontconfig>\n",
		"<fontconfig><alias><family>monospace</family><prefer><family>Gull</family></prefer></alias></fontconfig>",
		"<fontconfig><match><test name=\"family\"><string>monospace</string></test><edit name=\"family\" mode=\"prepend_first\" binding=\"strong\"><string>Tern</string></edit></match></fontconfig>",
	} {
		after, err := fontconf.SetFamily([]byte(before), "monospace", "Salt & Sand")
		require.NoError(t, err)
		require.Equal(t, "Salt & Sand", theirs(t, dir, string(after), "monospace")[0], before)
		require.Equal(t, []string{"Sans"}, theirs(t, dir, string(after), "Sans"), before)
		if strings.Contains(before, "mine") {
			require.Contains(t, string(after), "<!-- mine -->")
		}
		again, err := fontconf.SetFamily(after, "monospace", "Salt & Sand")
		require.NoError(t, err)
		require.Equal(t, string(after), string(again))

		drawn, err := fontconf.SetProperty([]byte(before), "hintstyle", "hintslight")
		require.NoError(t, err)
		c, err := fontconf.Load(fstest.MapFS{"fonts.conf": {Data: drawn}}, "/fonts.conf", fontconf.Home("/home/me"))
		require.NoError(t, err)
		require.Equal(t, "hintslight", c.Rendered("Sans", []string{"Sans"})["hintstyle"][0].Value)
	}
	_, err := fontconf.SetFamily([]byte("<fontconfig><alias>"), "monospace", "Salt")
	require.Error(t, err)
}

// TestIncludes: a file, a folder of which only those count that begin with a digit and end in
// .conf, by name; what is relative, of the home, or of the person's own folder (fonts-conf(5)).
func TestIncludes(t *testing.T) {
	family := func(name string) string {
		return "<fontconfig><match><edit name=\"family\" mode=\"append_last\"><string>" + name + "</string></edit></match></fontconfig>"
	}
	c, err := fontconf.Load(fstest.MapFS{
		"etc/fonts/fonts.conf": {Data: []byte(`<fontconfig><include>conf.d</include><include>~/one.conf</include><include prefix="xdg">fontconfig/two.conf</include>
			<include>/etc/fonts/./three.conf</include><include ignore_missing="yes">gone.conf</include><dir>~/.fonts</dir><dir prefix="xdg">fonts</dir><dir>/usr/share/fonts</dir></fontconfig>`)},
		"etc/fonts/conf.d/20-b.conf":           {Data: []byte(family("B"))},
		"etc/fonts/conf.d/10-a.conf":           {Data: []byte(family("A"))},
		"etc/fonts/conf.d/x.conf":              {Data: []byte(family("X"))},
		"etc/fonts/conf.d/30-README":           {Data: []byte("not read")},
		"home/me/one.conf":                     {Data: []byte(family("One"))},
		"home/me/settings/fontconfig/two.conf": {Data: []byte(family("Two"))},
		"etc/fonts/three.conf":                 {Data: []byte(family("Three"))},
	}, "/etc/fonts/fonts.conf", fontconf.Places{Home: "/home/me", Config: "/home/me/settings", Data: "/srv/data"})
	require.NoError(t, err)
	require.Equal(t, []string{"/home/me/.fonts", "/srv/data/fonts", "/usr/share/fonts"}, c.Dirs)
	var got []string
	for _, f := range c.Families("Sans") {
		got = append(got, f.Name)
	}
	require.Equal(t, []string{"Sans", "A", "B", "One", "Two", "Three"}, got)
}

// TestTheFaceThatIsTaken: the family counts before the slant, that before the weight, and that
// before the width (fcmatch.c, the order of its matchers).
func TestTheFaceThatIsTaken(t *testing.T) {
	faces := []fontfile.Face{
		{Families: []string{"Gull"}, Weight: 400, Width: 5}, {Families: []string{"Gull"}, Weight: 700, Width: 5}, {Families: []string{"Gull"}, Weight: 400, Width: 5, Italic: true},
		{Families: []string{"Gull", "Gull Narrow"}, Weight: 400, Width: 3}, {Families: []string{"Tern"}, Weight: 300, Width: 5}, {Families: []string{"Tern"}, Weight: 900, Width: 5, Oblique: true},
	}
	for _, c := range []struct {
		families []fontconf.Family
		weight   float64
		slanted  bool
		want     int
	}{
		{[]fontconf.Family{{Name: "Gull", Strong: true}}, 400, false, 0}, {[]fontconf.Family{{Name: "gull", Strong: true}}, 650, false, 1}, {[]fontconf.Family{{Name: "Gull", Strong: true}}, 700, true, 2},
		{[]fontconf.Family{{Name: "Gull Narrow", Strong: true}}, 400, false, 3}, {[]fontconf.Family{{Name: "Tern"}}, 400, true, 5}, {[]fontconf.Family{{Name: "Tern"}}, 1000, false, 4},
		{[]fontconf.Family{{Name: "Gull"}, {Name: "Tern", Strong: true}}, 400, false, 4}, {[]fontconf.Family{{Name: "None"}, {Name: "Tern"}}, 400, false, 4},
	} {
		require.Equal(t, c.want, fontconf.Match(faces, c.families, c.weight, c.slanted), "%+v", c)
	}
	require.Equal(t, -1, fontconf.Match(nil, nil, 400, false))
}
