package truth

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"text/tabwriter"
)

// score is how much of what was compared agrees, under one real theme.
type score struct{ same, all int }

// scores holds, by part, theme and toolkit, what each comparison says.
var scores = struct {
	sync.Mutex
	rows map[[3]string]map[string]score
	of   map[string]string // a theme's package and version
}{rows: map[[3]string]map[string]score{}, of: map[string]string{}}

// scored counts a comparison under a real theme.
func scored(toolkit string, theme realTheme, what string, same, all int) {
	scores.Lock()
	defer scores.Unlock()
	key := [3]string{theme.part(), theme.name, toolkit}
	if scores.rows[key] == nil {
		scores.rows[key] = map[string]score{}
	}
	before := scores.rows[key][what]
	scores.rows[key][what] = score{before.same + same, before.all + all}
	scores.of[theme.name] = theme.pack.name + " " + theme.version
}

// columns of the table of real themes.
var columns = []string{"styles", "refused", "painted", "sizes"}

// scoreTable is what agrees, theme by theme, worked and held-out part apart.
func scoreTable() string {
	var b strings.Builder
	w := tabwriter.NewWriter(&b, 0, 0, 2, ' ', 0)
	fmt.Fprintf(w, "part\ttheme\ttoolkit\t%s\tpackage\n", strings.Join(columns, "\t"))
	sums := map[[2]string]map[string]score{}
	for _, key := range slices.SortedFunc(maps.Keys(scores.rows), func(a, b [3]string) int {
		return strings.Compare(b[0]+"\x00", a[0]+"\x00")*4 + strings.Compare(a[1]+a[2], b[1]+b[2])
	}) {
		cells := []string{key[0], key[1], key[2]}
		sum := sums[[2]string{key[0], key[2]}]
		if sum == nil {
			sum = map[string]score{}
			sums[[2]string{key[0], key[2]}] = sum
		}
		for _, column := range columns {
			n := scores.rows[key][column]
			cells = append(cells, n.String())
			sum[column] = score{sum[column].same + n.same, sum[column].all + n.all}
		}
		fmt.Fprintln(w, strings.Join(append(cells, scores.of[key[1]]), "\t"))
	}
	for _, key := range slices.SortedFunc(maps.Keys(sums), func(a, b [2]string) int { return strings.Compare(b[0]+a[1], a[0]+b[1]) }) {
		cells := []string{key[0], "together", key[1]}
		for _, column := range columns {
			cells = append(cells, sums[key][column].String())
		}
		fmt.Fprintln(w, strings.Join(cells, "\t"))
	}
	w.Flush()
	return b.String()
}

func (n score) String() string {
	if n.all == 0 {
		return "–"
	}
	return fmt.Sprintf("%d/%d %.1f %%", n.same, n.all, 100*float64(n.same)/float64(n.all))
}
