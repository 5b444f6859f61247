package truth

import (
	"bufio"
	"cmp"
	"flag"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
	"ivelt/demo"
)

var seed = flag.Uint64("seed", 7, "of the generated style sheets")

// toolkit is a GTK that prints what it computes.
type toolkit struct {
	generation int
	program    string
	env        []string
	library    string
}

// eachGTK builds the programs (Debian: libgtk-3-dev, libgtk-4-dev, xvfb). No
// theme has a say but the sheet that is given: GTK wears an empty one.
func eachGTK(t *testing.T) []toolkit {
	screen, home := display(t), t.TempDir()
	var out []toolkit
	for _, g := range []struct {
		generation        int
		module, deb, name string
	}{{3, "gtk+-3.0", "libgtk-3-dev", "libgtk-3.so.0"}, {4, "gtk4", "libgtk-4-dev", "libgtk-4.so.1"}} {
		write(t, filepath.Join(home, fmt.Sprintf(".themes/Blank/gtk-%d.0/gtk.css", g.generation)), "")
		libdir := strings.TrimSpace(output(t, tool(t, "pkg-config", "pkg-config", "--variable=libdir", g.module)))
		out = append(out, toolkit{g.generation, build(t, fmt.Sprintf("controls%d", g.generation), g.module, g.deb),
			[]string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + screen, "GDK_BACKEND=x11", "GDK_DEBUG=gl-disable", "LANG=C.UTF-8", "NO_AT_BRIDGE=1",
				"GTK_A11Y=none", "GTK_THEME=Blank", "GTK_DEBUG=interactive", "GSETTINGS_BACKEND=memory"}, filepath.Join(libdir, g.name)})
	}
	return out
}

// node is a node as GTK printed it and what it computed of it.
type node struct {
	*gtkcss.Node
	values map[string]string
	where  map[string]string // the sheet, line and column as GTK counts them
}

// computes asks GTK for all nodes under a sheet.
func (g toolkit) computes(t *testing.T, sheet string) []node {
	c := exec.CommandContext(t.Context(), g.program, sheet)
	c.Env = g.env
	var out []node
	var above []*gtkcss.Node
	in := bufio.NewScanner(strings.NewReader(output(t, c)))
	in.Buffer(nil, 1<<20)
	for in.Scan() {
		text := strings.TrimSpace(in.Text())
		deep := (len(in.Text()) - len(strings.TrimLeft(in.Text(), " "))) / 2
		if name, rest, ok := strings.Cut(text, ": "); ok && strings.HasSuffix(text, "*/") {
			value, where, _ := strings.Cut(rest, "; /*")
			out[len(out)-1].values[name] = value
			out[len(out)-1].where[name] = filepath.Base(strings.TrimSuffix(where, " */"))
			continue
		}
		if text == "" || text == "--" {
			continue
		}
		n := gtkcss.New(strings.Trim(text, "[]"))
		n.Hidden = strings.HasPrefix(text, "[")
		if !strings.Contains(text, ":dir(") {
			n.States = slices.DeleteFunc(n.States, func(s string) bool { return s == "dir(ltr)" })
		}
		above = append(above[:deep], n)
		if deep > 0 {
			above[deep-1].Add(n)
		}
		out = append(out, node{n, map[string]string{}, map[string]string{}})
	}
	return out
}

// tally counts, by property, what agrees.
type tally struct {
	same, all  map[string]int
	won, rules int // values whose winning declaration is of the same file and line, of all that both tell
}

func newTally() *tally { return &tally{same: map[string]int{}, all: map[string]int{}} }

func (c *tally) share() (same, all int) {
	for k, n := range c.all {
		all += n
		same += c.same[k]
	}
	return same, all
}

// hold compares a sheet's values, property by property, where either says that
// something is told.
func (c *tally) hold(t *testing.T, label string, s *gtkcss.Sheet, nodes []node, most int) {
	cascade := gtkcss.NewCascade(s)
	names := gtkcss.Properties(s.Generation)
	said := map[string]bool{}
	for _, n := range nodes {
		st := cascade.Style(n.Node)
		for _, name := range names {
			theirs, has := n.values[name]
			file, line, told := st.Told(name)
			if !has && !told {
				continue
			}
			ours := st.Text(name)
			c.all[name]++
			if has && told {
				c.rules++
				of, at, _ := strings.Cut(strings.TrimSpace(n.where[name]), ":")
				if strings.HasPrefix(at, fmt.Sprintf("%d:", line)) && (file == "" || filepath.Base(file) == of) {
					c.won++
				} else if len(said) < most {
					said[name] = true
					t.Logf("%s: %s: %s is of %s, Ivelt has %s:%d", label, describe(n.Node), name, n.where[name], file, line)
				}
			}
			if has == told && sameValue(theirs, ours) {
				c.same[name]++
				continue
			}
			key := fmt.Sprintf("%s: GTK %q, Ivelt %q", name, theirs, ours)
			if !has {
				key = fmt.Sprintf("%s: GTK has none, Ivelt %q", name, ours)
			}
			if !said[key] && len(said) < most {
				said[key] = true
				t.Logf("%s: %s: %s (GTK from %s, Ivelt line %d)", label, describe(n.Node), key, n.where[name], line)
			}
		}
	}
}

func describe(n *gtkcss.Node) string {
	text := n.Name
	for _, c := range n.Classes {
		text += "." + c
	}
	for _, s := range n.States {
		if !strings.HasPrefix(s, "dir") {
			text += ":" + s
		}
	}
	if n.Parent() != nil {
		return describe(n.Parent()) + " " + text
	}
	return text
}

var (
	numberWord = regexp.MustCompile(`-?(?:\d+\.?\d*|\.\d+)(?:e-?\d+)?`)
	address    = regexp.MustCompile(`url\("?[^")]*"?\)`)
	unprinted  = regexp.MustCompile(`-gtk-scaled\([^()]*\)`) // GTK 4 does not say what it scales
	iconName   = regexp.MustCompile(`-gtk-icontheme\("[^"]*"\)`)
	palette    = regexp.MustCompile(`[a-z]+ rgba?\([^)]*\)`)
	sum        = regexp.MustCompile(`calc\(([^()]*)\)`)
)

// sameValue: the same words, numbers within a thousandth (colours within
// 1/255), whatever the addresses of pictures.
func sameValue(a, b string) bool {
	if a == b {
		return true
	}
	same, known := compared.Load([2]string{a, b})
	if !known {
		same = compareValues(a, b)
		compared.Store([2]string{a, b}, same)
	}
	return same.(bool)
}

var compared sync.Map // of pairs that were, to whether they are the same

func compareValues(a, b string) bool {
	norm := func(s string) (string, []float64) {
		s = strings.ReplaceAll(s, "none /* invalid image */", `url("")`)
		s = address.ReplaceAllString(s, "url")
		s = strings.ReplaceAll(strings.ReplaceAll(s, "-gtk-recolor(url)", "url"), " 0%", " 0")
		s = unprinted.ReplaceAllString(iconName.ReplaceAllString(s, "icon"), "-gtk-scaled()")
		if strings.HasPrefix(s, "error ") || strings.HasPrefix(s, "warning ") || strings.HasPrefix(s, "success ") { // a palette has no order
			entries := palette.FindAllString(s, -1)
			slices.Sort(entries)
			s = strings.Join(entries, ",")
		}
		s = sum.ReplaceAllStringFunc(s, func(calc string) string {
			px := 0.0
			for _, term := range strings.Split(calc[5:len(calc)-1], " + ") {
				f, err := strconv.ParseFloat(strings.TrimSuffix(term, "px"), 64)
				if err != nil {
					return calc
				}
				px += f
			}
			return strconv.FormatFloat(px, 'g', -1, 64) + "px"
		})
		var n []float64
		for _, w := range numberWord.FindAllString(s, -1) {
			f, _ := strconv.ParseFloat(w, 64)
			n = append(n, f)
		}
		return numberWord.ReplaceAllString(s, "0"), n
	}
	wa, na := norm(a)
	wb, nb := norm(b)
	if wa != wb || len(na) != len(nb) {
		return false
	}
	for i := range na {
		within := max(math.Abs(na[i])/1000, 0.005)
		if strings.Contains(wa, "rgb") {
			within = max(within, 1)
			if na[i] < 1 && nb[i] < 1 {
				within = 0.005
			}
		}
		if math.Abs(na[i]-nb[i]) > within {
			return false
		}
	}
	return true
}

func (c *tally) log(t *testing.T, label string) float64 {
	same, all := c.share()
	t.Logf("%s: %d of %d values agree, %.2f %%; %d of %d are of the declaration that GTK names", label, same, all, 100*float64(same)/float64(max(all, 1)), c.won, c.rules)
	assert.GreaterOrEqual(t, 1000*c.won, 995*c.rules, "which rule won, %s", label)
	names := slices.Sorted(maps.Keys(c.all))
	slices.SortStableFunc(names, func(a, b string) int { return cmp.Compare(c.same[a]-c.all[a], c.same[b]-c.all[b]) })
	var line []string
	for _, name := range names {
		line = append(line, fmt.Sprintf("%s %d/%d", name, c.same[name], c.all[name]))
	}
	t.Logf("%s, by property: %s", label, strings.Join(line, ", "))
	return float64(same) / float64(max(all, 1))
}

// TestComputedStylesAgreeWithGTK: all controls, all properties, under GTK's own
// themes, the demo's and generated sheets.
func TestComputedStylesAgreeWithGTK(t *testing.T) {
	t.Parallel()
	themes := t.TempDir()
	require.NoError(t, demo.WriteThemes(themes))
	for _, g := range eachGTK(t) {
		t.Run(fmt.Sprintf("gtk%d", g.generation), func(t *testing.T) {
			total := newTally()
			one := func(label, sheet string, s *gtkcss.Sheet) {
				c := newTally()
				c.hold(t, label, s, g.computes(t, sheet), 12)
				same, all := c.share()
				t.Logf("%s: %d of %d values agree", label, same, all)
				for k, n := range c.all {
					total.all[k] += n
					total.same[k] += c.same[k]
				}
				total.won, total.rules = total.won+c.won, total.rules+c.rules
				assert.Greater(t, float64(same)/float64(all), 0.97, label)
			}
			for name, sheet := range builtIn(t, g.library) {
				s, err := gtkcss.LoadFrom(t.Context(), diskSource(filepath.Dir(sheet)), filepath.Base(sheet), g.generation)
				require.NoError(t, err)
				one(name, "resource://"+name, s)
			}
			sheets, err := filepath.Glob(filepath.Join(themes, fmt.Sprintf("*/gtk-%d.0/gtk*.css", g.generation)))
			require.NoError(t, err)
			require.NotEmpty(t, sheets)
			for i, sheet := range sheets {
				if !*all && i%12 > 0 {
					continue
				}
				s, err := gtkcss.Load(t.Context(), os.DirFS("/"), sheet[1:])
				require.NoError(t, err)
				one(strings.TrimPrefix(sheet, themes), sheet, s)
			}
			empty := filepath.Join(t.TempDir(), "empty.css")
			write(t, empty, "")
			nodes := g.computes(t, empty)
			for n := range *times {
				text := generate(rand.New(rand.NewPCG(*seed, n)), nodes, g.generation)
				sheet := filepath.Join(t.TempDir(), fmt.Sprintf("generated-%d.css", n))
				write(t, sheet, text)
				one(fmt.Sprintf("generated, seed %d/%d", *seed, n), sheet, gtkcss.Parse([]byte(text), g.generation))
			}
			assert.Greater(t, total.log(t, fmt.Sprintf("GTK %d", g.generation)), 0.99)
			_, held := total.share()
			require.Greater(t, held, 5000)
		})
	}
}

// TestRealComputedStyles: all controls, all properties, under real makers' sheets.
func TestRealComputedStyles(t *testing.T) {
	t.Parallel()
	for _, g := range eachGTK(t) {
		label := fmt.Sprint("gtk", g.generation)
		all, won := map[string]*score{"worked": {}, "held out": {}}, map[string]score{}
		for _, theme := range realThemes(t, "index.theme") {
			sheet := theme.sheetOf(g.generation)
			if sheet == "" {
				continue
			}
			s, err := gtkcss.LoadFile(t.Context(), sheet, g.generation)
			require.NoError(t, err)
			c, most := newTally(), 6
			if theme.held {
				most = 0
			}
			c.hold(t, theme.name, s, g.computes(t, sheet), most)
			same, of := c.share()
			scored(label, theme, "styles", same, of)
			sum := all[theme.part()]
			sum.same, sum.all = sum.same+same, sum.all+of
			w := won[theme.part()]
			won[theme.part()] = score{same: w.same + c.won, all: w.all + c.rules}
		}
		for part, sum := range all {
			t.Logf("%s, %s: %s; %s of the declaration that GTK names", label, part, *sum, won[part])
		}
		assert.GreaterOrEqual(t, 1000*all["worked"].same, 995*all["worked"].all, label)
	}
}

type diskSource string

func (d diskSource) Read(name string, resource bool) ([]byte, error) {
	return os.ReadFile(filepath.Join(string(d), filepath.Base(name)))
}

// builtIn takes the style sheets that GTK carries out of its library (Debian:
// libglib2.0-bin) and returns the files by their address.
func builtIn(t *testing.T, library string) map[string]string {
	out := map[string]string{}
	dir := t.TempDir()
	for _, name := range lines(output(t, tool(t, "gresource", "libglib2.0-bin", "list", library))) {
		if !strings.Contains(name, "/theme/") || !strings.HasSuffix(name, ".css") || strings.Contains(name, "win32") {
			continue
		}
		file := filepath.Join(dir, name)
		write(t, file, output(t, tool(t, "gresource", "libglib2.0-bin", "extract", library, name)))
		if info, err := os.Stat(file); err == nil && info.Size() > 2000 {
			out[name] = file
		}
	}
	require.NotEmpty(t, out)
	return out
}

// generate writes a sheet with selectors about nodes that are there, and
// values of every property, some of them wrong.
func generate(r *rand.Rand, nodes []node, generation int) string {
	var b strings.Builder
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	b.WriteString("@define-color paper #f4ecd8;\n@define-color ink mix(@deep, black, 0.3);\n@define-color deep #1d3b4f;\n@define-color lost @nowhere;\n")
	var colour func(deep int) string
	colour = func(deep int) string {
		if deep > 2 {
			return pick("#abc", "@paper", "white")
		}
		switch r.IntN(14) {
		case 0:
			return fmt.Sprintf("#%06x", r.IntN(1<<24))
		case 1:
			return fmt.Sprintf("rgb(%d,%d,%d)", r.IntN(256), r.IntN(256), r.IntN(256))
		case 2:
			return fmt.Sprintf("rgba(%d, %d, %d, %.2f)", r.IntN(256), r.IntN(256), r.IntN(256), r.Float64())
		case 3:
			return fmt.Sprintf("shade(%s, %.2f)", colour(deep+1), 2*r.Float64())
		case 4:
			return fmt.Sprintf("mix(%s,%s,%.2f)", colour(deep+1), colour(deep+1), r.Float64())
		case 5:
			return fmt.Sprintf("alpha(%s, %.2f)", colour(deep+1), r.Float64())
		case 6:
			return pick("lighter", "darker") + "(" + colour(deep+1) + ")"
		case 7:
			return pick("currentColor", "transparent")
		case 8:
			return pick("@paper", "@ink", "@deep")
		case 9:
			return pick("@lost", "@nowhere", "#12", "#1234", "#12345678", "nocolour", "rgb(1,2)", "rgb(10%,20%,30%)")
		default:
			return pick("red", "gray", "green", "purple", "maroon", "rebeccapurple", "tomato", "DarkSlateGrey", "silver", "navy", "black")
		}
	}
	length := func() string {
		switch r.IntN(10) {
		case 0:
			return fmt.Sprintf("%.2fem", 3*r.Float64())
		case 1:
			return fmt.Sprintf("%dpt", r.IntN(12))
		case 2:
			return fmt.Sprintf("calc(%dpx + %.1fem)", r.IntN(9), r.Float64())
		case 3:
			return pick("0", "7", "-3px", "1rem", "2mm", "0.1in", "1ex", "3foo", "50%", "calc(2 * 3px)", "calc(1px - 2px)", "auto")
		default:
			return fmt.Sprintf("%dpx", r.IntN(20))
		}
	}
	lengths := func(n int) string {
		var all []string
		for range 1 + r.IntN(n) {
			all = append(all, length())
		}
		return strings.Join(all, " ")
	}
	stops := func() string {
		var all []string
		for range 2 + r.IntN(3) {
			s := colour(0)
			if r.IntN(2) == 0 {
				s += fmt.Sprintf(" %d%%", r.IntN(101))
			}
			all = append(all, s)
		}
		return strings.Join(all, ", ")
	}
	image := func() string {
		switch r.IntN(8) {
		case 0:
			return "none"
		case 1:
			return fmt.Sprintf("linear-gradient(%s, %s)", pick("to top", "to right", "to bottom left", "to left top", "45deg", "0.25turn", "to bottom"), stops())
		case 2:
			return fmt.Sprintf("radial-gradient(%s%s)", pick("", "circle, ", "circle at center, ", "ellipse closest-side at 20% 30%, ", "10px 20px at left top, ", "circle 5px, "), stops())
		case 3:
			return fmt.Sprintf("repeating-linear-gradient(%s)", stops())
		case 4:
			return "image(" + colour(0) + ")"
		case 5:
			return pick(`-gtk-icontheme("go-up-symbolic")`, `-gtk-scaled(-gtk-icontheme("a"), -gtk-icontheme("b"))`, "cross-fade(30% "+"image(red), image(blue))", "linear-gradient(red)", "no-such(1)")
		default:
			return fmt.Sprintf("linear-gradient(%s)", stops())
		}
	}
	style := func() string { return pick("solid", "dashed", "none", "hidden", "double", "wrong") }
	shadow := func(inset bool) string {
		var all []string
		for range 1 + r.IntN(3) {
			s := fmt.Sprintf("%s %s", length(), length())
			if r.IntN(2) == 0 {
				s += " " + length()
				if inset && r.IntN(2) == 0 {
					s += " " + length()
				}
			}
			if r.IntN(3) > 0 {
				s += " " + colour(0)
			}
			if inset && r.IntN(3) == 0 {
				s = pick("inset "+s, s+" inset")
			}
			all = append(all, s)
		}
		return pick(strings.Join(all, ", "), strings.Join(all, ", "), "none")
	}
	side := func() string { return pick("top", "right", "bottom", "left") }
	told := func() string {
		switch r.IntN(46) {
		case 0, 1, 2, 3:
			return "color: " + colour(0)
		case 4, 5, 6:
			return "background-color: " + colour(0)
		case 7:
			return "background-image: " + image()
		case 8:
			return "background: " + pick(image(), colour(0), image()+", "+image()+" "+colour(0), image()+" no-repeat, "+colour(0), image()+" center / 10px 20px repeat-x content-box", colour(0)+" padding-box border-box")
		case 9, 10:
			return "border: " + pick(length()+" "+style()+" "+colour(0), style()+" "+length(), "none", colour(0), "1px solid")
		case 11:
			return "border-" + side() + ": " + length() + " " + style() + " " + colour(0)
		case 12:
			return "border-color: " + strings.TrimSpace(colour(0)+" "+pick("", colour(0))+" "+pick("", colour(0)))
		case 13:
			return "border-width: " + lengths(4)
		case 14:
			return "border-style: " + style() + " " + style()
		case 15, 16:
			return "border-radius: " + lengths(4) + pick("", "", " / "+lengths(4))
		case 17:
			return "border-" + pick("top-left", "bottom-right") + "-radius: " + lengths(2)
		case 18:
			return "border-" + side() + "-" + pick("width: "+length(), "style: "+style(), "color: "+colour(0))
		case 19, 20:
			return "padding: " + lengths(5)
		case 21:
			return "padding-" + side() + ": " + length()
		case 22, 23:
			return "margin: " + lengths(4)
		case 24:
			return "min-" + pick("width", "height") + ": " + length()
		case 25:
			return fmt.Sprintf("opacity: %s", pick("0.5", "1.5", "-1", "30%", "0"))
		case 26, 27:
			return "box-shadow: " + shadow(true)
		case 28:
			return "text-shadow: " + shadow(false)
		case 29, 30:
			return "font-size: " + pick("larger", "smaller", "large", "x-small", "120%", "1.5em", "12pt", "14px", "xx-large", "2rem", "13")
		case 31:
			return "font-weight: " + pick("bold", "normal", "300", "bolder", "lighter", "550", "heavy")
		case 32:
			return "font-family: " + pick("Sans", `"DejaVu Sans", serif`, "Two Words, mono", "'Quoted'")
		case 33:
			return "font: " + pick("bold 12px Sans", "italic 10pt serif", `14px "DejaVu Sans"`, "Sans 11", "small-caps 300 2em mono")
		case 34:
			return "font-style: " + pick("italic", "oblique", "normal", "slanted")
		case 35:
			return "letter-spacing: " + length()
		case 36:
			return "outline: " + pick("1px dashed red", "none", style()+" "+colour(0))
		case 37:
			return "outline-" + pick("offset: "+length(), "width: "+length(), "color: "+colour(0))
		case 38:
			return "background-" + pick("size: "+pick("cover", "10px auto", "20% 30%", "auto", "5px"), "position: "+pick("center", "left 10px", "right bottom", "20% 30%", "top", "10px"), "repeat: "+pick("no-repeat", "repeat-x", "space round"), "clip: "+pick("padding-box", "content-box, border-box"), "origin: border-box")
		case 39:
			return "border-image: " + pick("linear-gradient(red, blue) 3", "none", "linear-gradient(red, blue) 1 2 3 4 / 5px stretch round", "linear-gradient(red, blue) 10% fill / 1px 2px")
		case 40:
			return "-gtk-icon-" + pick("shadow: "+shadow(false), "style: symbolic", "transform: rotate(1turn)", "source: none", "palette: error "+colour(0)+", warning "+colour(0), "palette: default")
		case 41:
			return pick("caret-color: ", "-gtk-secondary-caret-color: ", "text-decoration-color: ") + colour(0)
		case 42:
			return "border-spacing: " + lengths(2)
		case 43:
			return pick("transition: all 0.2s ease-in", "transition: none", "transition: color 1s, opacity 200ms linear 1s", "text-decoration: underline", "text-decoration-line: line-through", "letter-spacing: normal", "font-stretch: condensed")
		case 44:
			return pick("color", "background-color", "padding", "border", "font-size", "border-radius", "margin", "box-shadow", "background", "font") + ": " + pick("inherit", "initial", "unset")
		default:
			return pick("unknown: 1px", "color: red !important", "padding: 1px,2px", "color red", "margin: {}", "color:", "border: 1px 2px solid")
		}
	}
	for range 260 {
		n := nodes[r.IntN(len(nodes))]
		var words []string
		for at := n.Node; at != nil && len(words) < 1+r.IntN(3); at = at.Parent() {
			w := at.Name
			if len(at.Classes) > 0 && r.IntN(2) == 0 {
				w = pick(w, "") + "." + at.Classes[r.IntN(len(at.Classes))]
			}
			if r.IntN(4) == 0 {
				w += pick(":hover", ":active", ":checked", ":disabled", ":backdrop", ":selected", ":focus", ":not(:hover)", ":not(.flat)", ":not(label)",
					":first-child", ":last-child", ":only-child", ":nth-child(2n+1)", ":nth-child(even)", ":nth-last-child(2)", ":dir(ltr)", ":dir(rtl)")
			}
			words = append(words, pick(w, w, w, w, w, "*"))
		}
		slices.Reverse(words)
		selector := strings.Join(words, pick(" ", " ", " ", " > ", ">", " + ", " ~ "))
		if r.IntN(12) == 0 {
			selector += ", " + pick("button", "label:hover", "entry.flat", "..x", "a:nonsense", "window *")
		}
		fmt.Fprintf(&b, "%s {\n", selector)
		for range 1 + r.IntN(5) {
			fmt.Fprintf(&b, "  %s;\n", told())
		}
		b.WriteString("}\n")
	}
	return b.String()
}
