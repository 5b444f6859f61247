package web_test

import (
	"bytes"
	"image/png"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestStoryOfFontsThatSitAlike: letters of the fixed-width font are taller than those of the
// interface; it is seen on one line, tried, worn, measured again, and gone back on. Another font is
// held beside it, and one of a parcel.
func TestStoryOfFontsThatSitAlike(t *testing.T) {
	b := newStage(t).browsePlain()
	before := b.snapshot()
	b.Open("/d/dunlin/shelf?kind=font")
	b.At("Shelf")
	b.Click("[data-bench]")
	b.At("Type under the lens")
	require.Contains(t, b.Text("#findings"), "Fixed width: an x is 7.8 px tall, and beside it in the interface 7.1 px.")
	require.Contains(t, b.Text(".type-words"), "Monospace 11")
	require.Contains(t, b.Text("#role-font-mono"), "Monospace 11, shown in Estuary Mono")
	b.Press("v")
	require.Contains(t, b.Text(".type-words"), "Monospace 10")
	require.NotContains(t, b.Text(".type-words"), "Monospace 11")
	b.Press("v")
	require.Contains(t, b.Text(".type-words"), "Monospace 11")
	b.keep("type")
	b.Click(`[data-code="sits-apart"] button`)
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Monospace")`)
	b.Open("/d/dunlin/bench/font")
	b.At("Type under the lens")
	require.NotContains(t, b.Text("#findings"), "beside it in the interface", "the draft is what is looked at")
	b.Press("r")
	b.At("Review")
	b.Press("a")
	b.At("Match")
	b.Open("/d/dunlin/bench/font?beside.font-mono=Estuary+Mono")
	b.At("Type under the lens")
	require.NotContains(t, b.Text("#findings"), "beside it in the interface")
	require.Equal(t, "Estuary Sans 10", b.Text("#role-font b"))
	b.Open("/d/dunlin/history")
	b.At("History")
	b.Click(".past > li:nth-child(1) a[data-open]")
	b.At("Go back")
	b.Leads("History", "a")
	b.Until(`document.querySelectorAll(".past li.undone").length === 1`)
	require.Equal(t, before, b.snapshot())

	b.Open("/d/avocet/find?kind=font")
	b.At("Find")
	b.Click("#entry-estuary-mono [data-fetch]")
	b.At("Estuary Mono")
	b.Click("[data-bench]")
	b.At("Type under the lens")
	require.Contains(t, b.Text("#role-font-mono .type-beside"), "Estuary Mono 11 sits as Monospace 11 does")
	b.Click("#role-font-mono .type-beside button")
	b.Until(`document.title.startsWith("Compose") && document.querySelector("#draft").innerText.includes("Estuary Mono")`)
}

// TestLinesOfType: pictures of lines are what was asked for, and bad input gets a sentence.
func TestLinesOfType(t *testing.T) {
	v := newStage(t).visit()
	wide := func(address string) int {
		t.Helper()
		page, status := v.get(address)
		require.Equal(t, http.StatusOK, status, page)
		im, err := png.Decode(bytes.NewReader([]byte(page)))
		require.NoError(t, err)
		return im.Bounds().Dx()
	}
	const line = "/d/dunlin/bench/font.png?facet=font&text=Hagx"
	require.Equal(t, 4*wide(line), wide(line+"&times=4"))
	require.Greater(t, wide(line+"&points=20"), wide(line))
	require.Greater(t, wide(line+"&family=Estuary+Mono"), wide(line))
	for address, says := range map[string]string{
		line + "&times=99": "up to 8 times", line + "&points=NaN": "72 points at most", line + "&points=1e9": "72 points at most", line + "&family=Nowhere": "no font",
		"/d/dunlin/bench/font.png?facet=icons":                                 "",
		"/d/dunlin/bench/font.png?facet=font&text=" + strings.Repeat("x", 300): "200 bytes",
		"/d/dunlin/bench/font?lang=klingon":                                    "are not known",
		"/d/dunlin/bench/font?beside.font=Nowhere":                             "no font",
		"/d/dunlin/bench/font?parcel=" + strings.Repeat("0", 64) + "&piece=x":  "",
		"/d/dunlin/bench/font?beside=%3Cscript%3Ex&lang=de":                    "German",
	} {
		page, status := v.get(address)
		require.Contains(t, page, says, address)
		require.NotContains(t, page, "<script>x", address)
		require.Less(t, status, 500, address)
	}
}
