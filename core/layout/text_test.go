package layout_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

// TestBarsAreReadAndWritten: what is written is read as it was, and what a newer version says is kept.
func TestBarsAreReadAndWritten(t *testing.T) {
	for _, text := range []string{
		"none",
		"top 34: menu pinned / clock / tray power",
		`bottom 28 long 60% at middle margin 7 round 12 hides covered on DP-2: windows(width=180 group=yes) / / clock(form="%H:%M; \"%V\"" places=Lisbon,Oslo)`,
		"left 42 long content at end; right 30 long 800 on all: / stretch",
		"top 34 glow amber: menu tide-table(of=Skerry)",
	} {
		bars, err := layout.ParseBars(text)
		require.NoError(t, err, text)
		require.Equal(t, text, layout.FormatBars(bars))
	}
	bars, err := layout.ParseBars("  top\t34 margin 0 at start : menu\n/clock(form = \"a\\nb\")")
	require.NoError(t, err)
	require.Equal(t, `top 34: menu / clock(form="a\nb")`, layout.FormatBars(bars))
	require.Equal(t, layout.Middle, bars[0].Items[1].Side)
	_, known := layout.KindOf("tide-table")
	require.False(t, known)

	for text, says := range map[string]string{
		"":                                      "an edge is missing",
		"up 34":                                 `at letter 3: an edge is top, bottom, left or right, not "up"`,
		"top":                                   "the thickness is missing",
		"top thick":                             `the thickness is a whole number, not "thick"`,
		"top 99999":                             "whole number",
		"top 34 long 0%":                        "from 1 to 100 percent",
		"top 34 hides often":                    "hides is one of never always covered",
		"top 34 margin":                         "what margin is is missing",
		"top 34: a / b / c / d":                 "three places",
		"top 34: clock(form)":                   "form has no value",
		"top 34: clock(form=":                   "what form is is missing",
		`top 34: clock(form="`:                  "a quotation has no end",
		"top 34: menu )":                        `")" is not expected`,
		"top 34: \xff":                          "no UTF-8",
		strings.Repeat("top 1;", 20) + "top 1":  "16 bars are the most",
		"top 1:" + strings.Repeat(" a", 401):    "400 items are the most",
		"top 1: " + strings.Repeat("a", 17<<10): "longer than",
		"top 1: a(" + strings.Repeat("k=v ", 20) + ")": "16 options",
	} {
		_, err := layout.ParseBars(text)
		require.ErrorIs(t, err, layout.ErrText, text)
		require.ErrorContains(t, err, says, text)
	}
}

func FuzzParseBars(f *testing.F) {
	f.Add(`bottom 28 long 60% at middle: windows(width=180) / / clock(form="%H:%M")`)
	f.Add("top 34 glow amber: menu; left 42")
	f.Fuzz(func(t *testing.T, text string) {
		bars, err := layout.ParseBars(text)
		if err != nil {
			require.ErrorIs(t, err, layout.ErrText)
			return
		}
		again, err := layout.ParseBars(layout.FormatBars(bars))
		require.NoError(t, err, layout.FormatBars(bars))
		require.Equal(t, layout.FormatBars(bars), layout.FormatBars(again))
	})
}
