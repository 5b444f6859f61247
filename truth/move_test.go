package truth

import (
	"math"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
	"ivelt/core/layer"
	"ivelt/core/parcel"
)

// TestMovesAreWorn: GTK 3 and 4 compute under moves over the demo's themes and over real makers'
// what Ivelt says; sizes are those under the theme itself, times what they are moved by.
func TestMovesAreWorn(t *testing.T) {
	t.Parallel()
	type count struct{ values, same, sizes, moved, fonts, lettered, bases, accents int }
	counts := map[string]*count{}
	for _, g := range eachGTK(t) {
		for _, of := range layered(t, "index.theme", 32) {
			sheet := realTheme{name: of.name, dir: of.dir}.sheetOf(g.generation)
			if sheet == "" {
				continue
			}
			d, root := of.desk(t)
			r := layer.Recipe{Name: "Mine", Folder: "Mine", Base: layer.Base{Kind: parcel.Theme, Folder: of.name}}
			for _, move := range moved {
				r.Moves = append(r.Moves, layer.Move{Of: move.of, To: strconv.Itoa(int(100*move.by)) + "%"})
			}
			r.Moves = append(r.Moves, layer.Move{Of: layer.MoveFamily, To: "DejaVu Serif"})
			accent, err := layer.Accent(t.Context(), d.Tree(), root)
			require.NoError(t, err)
			n := counts[of.part]
			if n == nil {
				n = &count{}
				counts[of.part] = n
			}
			if n.bases++; accent != "" {
				r.Moves = append(r.Moves, layer.Move{Of: layer.MoveAccent, To: "#a0466b"})
				n.accents++
			}
			within, err := filepath.Rel(of.dir, sheet)
			require.NoError(t, err)
			changed := filepath.Join(laidOut(t, d, root, r, of.dir), within)
			was, now := g.computes(t, sheet), g.computes(t, changed)
			require.Len(t, now, len(was))
			after, err := gtkcss.LoadFile(t.Context(), changed, g.generation)
			require.NoError(t, err)
			cascade := gtkcss.NewCascade(after)
			for i, node := range now {
				ours := cascade.Style(node.Node)
				for _, name := range gtkcss.Properties(g.generation) {
					value, has := node.values[name]
					if !has {
						continue
					}
					if n.values++; sameValue(value, ours.Text(name)) {
						n.same++
					} else if n.values-n.same < 5 {
						t.Logf("%s, GTK %d: %s: %s: %q, Ivelt says %q", of.name, g.generation, describe(node.Node), name, value, ours.Text(name))
					}
					if name == "font-family" {
						n.fonts++
						if strings.Contains(value, "DejaVu Serif") || value == was[i].values[name] && strings.Contains(strings.ToLower(value), "mono") {
							n.lettered++
						} else if n.fonts-n.lettered < 5 {
							t.Logf("%s, GTK %d: %s: %q, was %q", of.name, g.generation, describe(node.Node), value, was[i].values[name])
						}
					}
					for _, move := range moved {
						if was[i].values[name] == "" || !move.properties.MatchString(name) {
							continue
						}
						if n.sizes++; move.makes(was[i].values[name], value) {
							n.moved++
						} else if n.sizes-n.moved < 5 {
							t.Logf("%s, GTK %d: %s: %s: was %q, is %q", of.name, g.generation, describe(node.Node), name, was[i].values[name], value)
						}
					}
				}
			}
		}
	}
	for part, n := range counts {
		t.Logf("%s: %d of %d values are as Ivelt says, %d of %d sizes are moved by what was said; %d of %d fonts; %d of %d themes name their accent", part, n.same, n.values, n.moved, n.sizes, n.lettered, n.fonts, n.accents, n.bases)
		require.Greater(t, n.values, 5000, part)
		require.GreaterOrEqual(t, 1000*n.same, 995*n.values, part)
		require.GreaterOrEqual(t, 1000*n.moved, 990*n.sizes, part)
		require.GreaterOrEqual(t, 1000*n.lettered, 990*n.fonts, part)
	}
}

// sizeMove is a move, and the properties that have to be moved by it.
type sizeMove struct {
	of         string
	by         float64
	properties *regexp.Regexp
}

var moved = []sizeMove{
	{layer.MoveText, 1.2, regexp.MustCompile(`^font-size$`)},
	{layer.MoveSpace, 1.5, regexp.MustCompile(`^(padding-(top|right|bottom|left)|min-height|border-spacing)$`)},
	{layer.MoveRounding, 2, regexp.MustCompile(`^border-(top|bottom)-(left|right)-radius$`)},
	{layer.MoveLines, 2, regexp.MustCompile(`^border-(top|right|bottom|left)-width$`)},
}

var (
	sizeWord = regexp.MustCompile(`[-0-9.]+(px|pt|%)?`)
	unit     = regexp.MustCompile(`[a-z]+$`)
)

// makes reports whether each number of a value is that of another one moved: to whole px where it
// was whole, and times the letters' size where it goes by that.
func (m sizeMove) makes(was, is string) bool {
	before, after := sizeWord.FindAllString(was, -1), sizeWord.FindAllString(is, -1)
	if len(before) != len(after) || sizeWord.ReplaceAllString(was, "") != sizeWord.ReplaceAllString(is, "") {
		return false
	}
	for i := range before {
		if strings.HasSuffix(before[i], "%") { // of the part itself
			if before[i] != after[i] {
				return false
			}
			continue
		}
		a, errA := strconv.ParseFloat(unit.ReplaceAllString(before[i], ""), 64)
		b, errB := strconv.ParseFloat(unit.ReplaceAllString(after[i], ""), 64)
		near := 0.501
		if m.of == layer.MoveText {
			near = 0.02 * max(a, 1)
		}
		if errA != nil || errB != nil || math.Abs(b-a*m.by) > near && math.Abs(b-a*m.by*moved[0].by) > near {
			return false
		}
	}
	return true
}
