package planning_test

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/desk/desktest"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/standin"
)

// TestCases plans on small desks, each a file of testdata/cases with what is planned and what
// is to come of that: every operation with what it changes, line by line, and what is left
// alone. That real programs show what was planned is asserted in package truth.
func TestCases(t *testing.T) { desktest.Cases(t, "testdata/cases", standin.Surfaces(), planned) }

// planned is a plan as it is written down.
func planned(t *testing.T, d *desk.Desk, words []string) string {
	var b strings.Builder
	p, err := planOf(t, d, words, &b)
	if err != nil {
		fmt.Fprintln(&b, "error:", err)
		return b.String()
	}
	fmt.Fprintln(&b, p.Title)
	for _, op := range p.Ops {
		who := ""
		if op.Admin {
			who = " as administrator"
		}
		fmt.Fprintf(&b, "%s %s%s (%s): %s\n", op.Kind, d.Show(op.Path), who, op.Effect, op.Says)
		switch op.Kind {
		case plan.Link:
			fmt.Fprintln(&b, "  ->", op.After.Hash)
		case plan.Write:
			old, _ := d.Tree().ReadFile(desk.Name(op.Path))
			for _, l := range plan.Diff(old, op.Content) {
				if l.Sign == "+" || l.Sign == "-" {
					fmt.Fprintf(&b, "  %s%s\n", l.Sign, l.Text)
				}
			}
		}
	}
	for _, left := range p.Blocked {
		fmt.Fprintf(&b, "not %s of %s: %s %s\n", left.Facet, left.Surface, left.Says, left.Fix)
	}
	return desktest.Short(b.String())
}

// choices reads facet=value and facet@surface=value.
func choices(words []string) outfit.Outfit {
	o := outfit.Outfit{Name: "It"}
	for _, w := range words {
		name, value, _ := strings.Cut(w, "=")
		value = strings.ReplaceAll(value, "_", " ")
		if facet, surface, ok := strings.Cut(name, "@"); ok {
			o = o.Except(surface, facet, value)
			continue
		}
		o = o.With(name, value)
	}
	return o
}

func planOf(t *testing.T, d *desk.Desk, words []string, told *strings.Builder) (plan.Plan, error) {
	arg := func(i int) string { return strings.ReplaceAll(words[i], "_", " ") }
	surface := func() desk.Surface {
		s, ok := d.Surface(words[1])
		require.True(t, ok, words)
		return s
	}
	switch words[0] {
	case "dress":
		return planning.Dress(t.Context(), d, choices(words[1:]))
	case "force":
		o := choices(words[1:])
		return planning.DressWith(t.Context(), d, d, o, nil, planning.Options{Force: true})
	case "shortfalls":
		o := choices(words[1:])
		p, err := planning.Dress(t.Context(), d, o)
		for _, s := range planning.Shortfalls(d, o, p) {
			fmt.Fprintf(told, "%s of %s: %s\n", s.Facet, s.Surface.ID, s.Says)
		}
		fmt.Fprintln(told, "forceable:", planning.Forceable(d, o, p))
		return plan.Plan{Title: p.Title}, err
	case "say": // surface facet key value|-
		f, ok := surface().Facet(words[2])
		require.True(t, ok, words)
		for _, step := range reading.Told(d, surface(), f).Chain {
			if at := (planning.SourceRef{Surface: words[1], Facet: words[2], Path: step.Path, Key: step.Key}); desktest.Short(step.Key) == words[3] && (len(words) < 6 || strings.HasSuffix(step.Path, words[5])) {
				require.Equal(t, planning.CanSay(d, at), func() bool { _, err := planning.Say(d, at, ""); return err == nil || words[4] != "-" }() && planning.CanSay(d, at))
				return planning.Say(d, at, strings.TrimPrefix(arg(4), "-"))
			}
		}
		return planning.Say(d, planning.SourceRef{Surface: words[1], Facet: words[2], Path: "/nowhere", Key: words[3]}, arg(4))
	case "fix": // surface facet n choices
		f, ok := surface().Facet(words[2])
		require.True(t, ok, words)
		c := match.CompareTo(d, surface(), f.Name, choices(words[4:]))
		n, err := strconv.Atoi(words[3])
		require.NoError(t, err)
		for i, r := range c.Fixes() {
			fmt.Fprintf(told, "%d %s: %s\n", i, r.Kind, r.Text)
		}
		if n >= len(c.Fixes()) {
			return plan.Plan{}, planning.ErrNoFix
		}
		return planning.Fix(t.Context(), d, c, c.Fixes()[n])
	case "grant":
		return planning.Grant(d, surface(), strings.TrimPrefix(words[2], "all"), words[3])
	case "revoke":
		return planning.Revoke(d, surface(), strings.TrimPrefix(words[2], "all"), words[3])
	case "narrow":
		return planning.Narrow(d, surface())
	case "remap": // surface n=#rrggbb
		colours := map[int]colour.Colour{}
		for _, w := range words[2:] {
			n, hex, _ := strings.Cut(w, "=")
			i, err := strconv.Atoi(n)
			require.NoError(t, err)
			colours[i], err = colour.Parse(hex)
			require.NoError(t, err)
		}
		return planning.Remap(d, surface(), colours)
	case "profile": // surface and name
		return planning.NewProfile(d, surface(), strings.Join(words[2:], " "))
	case "sheet": // surfaces, by commas, and a line
		return planning.OwnSheet(d, strings.Split(words[1], ","), desk.FacetWidgets, strings.Join(words[2:], " ")+"\n")
	case "link": // surface facet at to
		f, ok := surface().Facet(words[2])
		require.True(t, ok, words)
		return planning.LinkTo(d, words[3], words[4], match.Compare(d, surface(), f.Name, ""))
	}
	require.True(t, slices.Contains(words, "none"), "%v is no question", words)
	return plan.Plan{}, nil
}
