package licence

import (
	_ "embed"
	"slices"
	"strings"

	"github.com/github/go-spdx/v2/spdxexp"
)

// Terms are what a licence says of a changed copy. For oneself everything may be changed.
type Terms struct {
	Licence string // as it was given
	Known   bool   // what follows is known; of an unknown licence nothing may be passed on
	PassOn  bool   // a changed copy may be passed on
	Under   string // the licence that it must have then; "" for any, with the maker's notice kept
}

//go:embed changing.csv
var changing string

// The licences of which a changed copy may be passed on under any other, under the same only,
// and not at all. Identifiers: SPDX License List. What each allows: its own text, from memory.
var anyAfter, sameAfter, never = changed()

func changed() (anyOther, same, none []string) {
	for line := range strings.Lines(changing) {
		switch cells := strings.Split(strings.TrimSpace(line), ","); {
		case cells[1] == "no":
			none = append(none, cells[0])
		case cells[2] == "any":
			anyOther = append(anyOther, cells[0])
		case cells[2] == "same":
			same = append(same, cells[0])
		}
	}
	return anyOther, same, none
}

// The longest expression that is worked out: the work grows with the product of its choices.
const (
	maxExpression = 200
	maxOperators  = 8
)

// TermsOf works out what an SPDX expression says of a changed copy: of licences joined by AND
// all must allow it, of those joined by OR one.
func TermsOf(expression string) Terms {
	out := Terms{Licence: expression}
	if expression == "" || len(expression) > maxExpression || len(strings.Fields(expression)) > 2*maxOperators {
		return out
	}
	of, err := spdxexp.ExtractLicenses(expression)
	if err != nil {
		return out
	}
	known := slices.Concat(anyAfter, sameAfter, never)
	out.Known = !slices.ContainsFunc(of, func(id string) bool { return !slices.Contains(known, id) })
	if ok, err := spdxexp.Satisfies(expression, anyAfter); err == nil && ok {
		out.Known, out.PassOn = true, true
		return out
	}
	if ok, err := spdxexp.Satisfies(expression, slices.Concat(anyAfter, sameAfter)); err == nil && ok {
		out.Known, out.PassOn, out.Under = true, true, expression
	}
	return out
}
