package truth

import (
	"flag"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"
	"text/tabwriter"
)

// times is how many times as many homes are made as usual; `make truth` asks for
// more.
var times = flag.Uint64("times", 1, "how many times as many generated homes")

// counted is how often readings and real programs agree, by program and facet.
var counted = struct {
	sync.Mutex
	agree, differ map[[2]string]int
}{agree: map[[2]string]int{}, differ: map[[2]string]int{}}

// same counts a comparison, and reports whether both sides are equal.
func same(program, facet, theirs, ours string) bool {
	counted.Lock()
	defer counted.Unlock()
	if theirs == ours {
		counted.agree[[2]string{program, facet}]++
		return true
	}
	counted.differ[[2]string{program, facet}]++
	return false
}

func TestMain(m *testing.M) {
	flag.Parse()
	os.Setenv("LC_ALL", "C.UTF-8") // the tools print in English whatever the machine speaks
	var err error
	if scratch, err = os.MkdirTemp("", "truth"); err != nil {
		panic(err)
	}
	code := m.Run()
	os.RemoveAll(scratch)
	if testing.Verbose() && len(counted.agree)+len(counted.differ) > 0 {
		fmt.Print(table())
	}
	if testing.Verbose() && len(scores.rows) > 0 {
		fmt.Print(scoreTable())
	}
	os.Exit(code)
}

// table is what was counted.
func table() string {
	var b strings.Builder
	w := tabwriter.NewWriter(&b, 0, 0, 2, ' ', tabwriter.AlignRight)
	fmt.Fprintln(w, "program\tfacet\tagree\tdiffer\t")
	keys := map[[2]string]bool{}
	for k := range counted.agree {
		keys[k] = true
	}
	for k := range counted.differ {
		keys[k] = true
	}
	agree, differ := 0, 0
	for _, k := range slices.SortedFunc(maps.Keys(keys), func(a, b [2]string) int { return strings.Compare(a[0]+"\x00"+a[1], b[0]+"\x00"+b[1]) }) {
		fmt.Fprintf(w, "%s\t%s\t%d\t%d\t\n", k[0], k[1], counted.agree[k], counted.differ[k])
		agree, differ = agree+counted.agree[k], differ+counted.differ[k]
	}
	fmt.Fprintf(w, "all\t\t%d\t%d\t\n", agree, differ)
	w.Flush()
	return b.String()
}
