package licence_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/licence"
)

// TestTermsOf: what may be passed on changed, and under what. That the expressions mean this:
// SPDX Specification, annex on licence expressions; what each licence allows: its own text.
func TestTermsOf(t *testing.T) {
	for expression, want := range map[string]licence.Terms{
		"MIT":                                 {Known: true, PassOn: true},
		"GPL-3.0-or-later":                    {Known: true, PassOn: true, Under: "GPL-3.0-or-later"},
		"CC-BY-ND-4.0":                        {Known: true},
		"CC-BY-ND-4.0 OR MIT":                 {Known: true, PassOn: true},
		"CC-BY-ND-4.0 AND MIT":                {Known: true},
		"GPL-2.0-only AND CC-BY-4.0":          {Known: true, PassOn: true, Under: "GPL-2.0-only AND CC-BY-4.0"},
		"(LGPL-3.0-only OR OFL-1.1) AND MIT":  {Known: true, PassOn: true, Under: "(LGPL-3.0-only OR OFL-1.1) AND MIT"},
		"LicenseRef-mine":                     {},
		"LicenseRef-mine OR MIT":              {Known: true, PassOn: true},
		"All rights reserved":                 {},
		"":                                    {},
		strings.Repeat("MIT OR ", 60) + "MIT": {},
		"MIT OR (":                            {},
	} {
		want.Licence = expression
		require.Equal(t, want, licence.TermsOf(expression), expression)
	}
}
