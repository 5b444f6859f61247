package truth

import (
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
)

// rendered asks fontconfig what a person gets (Debian: fontconfig).
func rendered(t *testing.T, s *seat) map[string]string {
	t.Helper()
	part := func(family, format string) []string {
		return strings.Split(s.ask(t, "fc-match", "fontconfig", "-f", format, family), "|")
	}
	sans := part("sans", "%{antialias[0]}|%{hintstyle[0]}|%{rgba[0]}")
	return map[string]string{
		desk.FacetFontMono:  part("monospace", "%{family[0]}")[0],
		desk.FacetAntialias: map[string]string{"True": "on", "": "on", "False": "off"}[sans[0]],
		desk.FacetHinting:   map[string]string{"0": "none", "1": "slight", "2": "medium", "3": "full", "": "full"}[sans[1]],
		desk.FacetSubpixel:  map[string]string{"": "", "0": "", "1": "rgb", "2": "bgr", "3": "vrgb", "4": "vbgr", "5": "none"}[sans[2]],
	}
}

// TestRenderingIsThatOfFontconfig makes persons' own rules, for all fonts and for
// some, before and after what a plan writes, and compares what is drawn with.
func TestRenderingIsThatOfFontconfig(t *testing.T) {
	t.Parallel()
	n := 30 * *times
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 63))
		pick := func(options ...string) string { return options[r.IntN(len(options))] }
		s := &seat{home: t.TempDir(), env: map[string]string{"XDG_CACHE_HOME": "/dev/shm/fc-cache"}}
		if r.IntN(8) > 0 {
			s.put(t, ".config/fontconfig/fonts.conf", renderingRules(r))
		}
		if r.IntN(2) > 0 {
			s.put(t, ".config/fontconfig/conf.d/10-mine.conf", renderingRules(r))
		}
		d := s.desk(t)
		d.SetWritable(true)
		compare := func(when string) map[string]string {
			theirs := rendered(t, s)
			for facet, value := range theirs {
				if ours := reads(t, d, "fonts", facet); !same("fontconfig", facet, value, ours.Value) {
					t.Errorf("seed %d %s, %s: fontconfig %q, Ivelt %q from %v\n%s", seed, when, facet, value, ours.Value, ours.Source, strings.Join(s.said, "\n"))
				}
			}
			return theirs
		}
		compare("as it is")
		want := map[string]string{desk.FacetFontMono: pick("Liberation Mono", "DejaVu Sans Mono") + " 11", desk.FacetAntialias: pick("on", "off"), desk.FacetHinting: pick("none", "slight", "medium", "full"), desk.FacetSubpixel: pick("none", "rgb", "vbgr")}
		wearAll(t, d, "fonts", want)
		for facet, value := range compare("after a plan") {
			wanted, _, _ := strings.Cut(want[facet], " 11")
			require.Equal(t, wanted, value, "seed %d, %s\n%s", seed, facet, strings.Join(s.said, "\n"))
		}
	}
	t.Logf("homes of seeds 0 to %d", n-1)
}

func renderingRules(r *rand.Rand) string {
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	end := pick("\n", "\n", "\r\n")
	var b strings.Builder
	b.WriteString(pick("<?xml version='1.0'?>"+end, "", "<?xml version='1.0'?><!DOCTYPE fontconfig SYSTEM 'urn:fontconfig:fonts.dtd'>"+end) + "<fontconfig>" + pick(end, "", " <!-- mine, <b>not</b> yours -->"+end))
	for range r.IntN(5) {
		if r.IntN(4) == 0 {
			fmt.Fprintf(&b, "  <alias%s><family>monospace</family><%[2]s><family>%[3]s</family></%[2]s></alias>%[4]s", pick("", " binding='same'", " binding='strong'"), pick("prefer", "accept", "default"), pick("Liberation Mono", "Lato", "Gone Mono"), end)
			continue
		}
		test := pick("", "", "", "<test name='family'><string>DejaVu Sans</string></test>", "<test name='family' compare='contains'><string>sans</string></test>", "<test qual='any' name='family'><string>Lato</string></test>", "<test name='weight' compare='more'><const>medium</const></test>")
		edit := pick(
			"antialias' mode='%s'><bool>false</bool>", "antialias' mode='%s'><bool>true</bool>", "antialias' mode='%s'><bool>no</bool>", "hintstyle' mode='%s'><const>hintfull</const>", "hintstyle' mode='%s'><const>hintnone</const>", "hintstyle' mode='%s'><int>2</int>",
			"rgba' mode='%s'><const>rgb</const>", "rgba' mode='%s'><const>none</const>", "rgba' mode='%s'><const>vbgr</const>", "autohint' mode='%s'><bool>true</bool>")
		fmt.Fprintf(&b, "  <match target='%s'>%s<edit name='"+edit+"</edit></match>%[4]s", pick("font", "font", "pattern"), test, pick("assign", "assign", "append", "prepend", "assign_replace", "append_last"), end)
	}
	return b.String() + pick("", "  ", end) + "</fontconfig>" + pick("", end)
}

// wearAll puts facets of one surface on by a plan.
func wearAll(t *testing.T, d *desk.Desk, surface string, want map[string]string) {
	t.Helper()
	o := outfit.Outfit{Name: "x"}
	for facet, value := range want {
		o = o.With(facet, value)
	}
	dress(t, d, []string{surface}, o, filepath.Join(t.TempDir(), "journal"))
}
