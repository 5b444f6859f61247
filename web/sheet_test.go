package web_test

import (
	"archive/zip"
	"bytes"
	"io"
	"net/url"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/outfit"
)

// TestAnOutfitGoesFromDeskToDesk: what Dunlin wears is taken as a file, and opened
// on Avocet as its draft, with what no Ivelt knows; what is none is refused.
func TestAnOutfitGoesFromDeskToDesk(t *testing.T) {
	v := newStage(t).visit()
	text, status := v.get("/d/dunlin/outfit.toml")
	require.Equal(t, 200, status)
	worn, err := outfit.Parse([]byte(text))
	require.NoError(t, err)
	require.Equal(t, "Foreshore", worn.Want("icons"))
	require.Equal(t, "hicolor", worn.WantOn("creel", "icons"))
	require.Equal(t, "1.0", worn.Choices["login"].Version)
	plain, _ := v.get("/d/dunlin/outfit.txt")
	require.Contains(t, plain, "Creel: hicolor")

	page, at := v.send("/d/avocet/outfit", "outfit", "dunlin.toml", append([]byte("keeper = 'Mara'\n"), text...))
	require.Equal(t, "/d/avocet/compose", at)
	require.Contains(t, page, "has something that this Ivelt does not know, and keeps: keeper")
	d, err := v.app.Desk("avocet")
	require.NoError(t, err)
	draft, err := v.app.Draft(d)
	require.NoError(t, err)
	require.Empty(t, worn.Differences(draft))
	require.Equal(t, []string{"keeper"}, draft.Unknown())
	again, _ := v.get("/d/avocet/outfit.toml?of=draft")
	require.Contains(t, again, "keeper = 'Mara'")
	sheet, _ := v.get("/d/avocet/sheet?of=draft")
	require.Contains(t, sheet, "Slack-Water")
	v.post("/d/avocet/looks", url.Values{"do": {"undo"}})
	draft, err = v.app.Draft(d)
	require.NoError(t, err)
	require.Empty(t, draft.Choices, "opening it can be undone")

	for name, bad := range map[string]string{"this outfit chooses nothing": "format = 1\nname = 'x'\n", "not an outfit file": "format = 1\nname = ", "format is 9": "format = 9\n", "shade is one of": "format = 1\n[facet.dark]\nvalue = 'dim'\n"} {
		page, _ := v.send("/d/avocet/outfit", "outfit", "x.toml", []byte(bad))
		require.Contains(t, page, name[1:])
	}
	page, _ = v.send("/d/avocet/outfit", "other", "x.toml", []byte("x"))
	require.Contains(t, page, "No file came with this")
	page, _ = v.get("/d/avocet/sheet?of=draft")
	require.Contains(t, page, "The draft is empty")
	_, status = v.get("/d/avocet/outfit.toml?of=hats")
	require.Equal(t, 400, status)
}

// TestJudgedAndMended: bright letters on a see-through bar over a bright backdrop
// are found, and the opacity that is proposed is enough.
func TestJudgedAndMended(t *testing.T) {
	b := newStage(t).browse()
	for facet, piece := range map[string]string{"opacity": "15", "bar": "Saltpan", "dark": "dark", "backdrop": "/usr/share/backgrounds/red-buoy.svg", "palette": "brine"} {
		b.visit().post("/d/avocet/draft", url.Values{"facet": {facet}, "piece": {piece}})
	}
	b.open("/d/avocet/judge")
	b.at("Judge")
	bar := `document.querySelector('[data-code="bar-over"]')`
	require.Contains(t, value[string](b, bar+".innerText"), "over the worst of the backdrop")
	require.Contains(t, value[string](b, `document.querySelector('[data-code="terminal"]').innerText`), "palette brine")
	b.keep("judge")
	b.click(`[data-code="bar-over"] button`)
	b.until(`document.readyState === "complete" && document.title.startsWith("Judge") && document.querySelector("#judged") && !` + bar)
	require.NotContains(t, b.text("#draft"), "15 %")
}

// TestAnOutfitTravelsWithItsPieces: icons of the market are worn on Avocet; the
// look is exported with them, brought to Dunlin, taken there, and worn.
func TestAnOutfitTravelsWithItsPieces(t *testing.T) {
	v := newStage(t).visit()
	v.post("/d/avocet/try", url.Values{"entry": {"wrack"}})
	page, _ := v.get("/d/avocet/review")
	v.apply(page)
	archive, status := v.bytes("/d/avocet/outfit.zip")
	require.Equal(t, 200, status)
	z, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	require.NoError(t, err)
	require.NotEmpty(t, z.File)
	left, err := z.Open("LEFT-OUT.txt")
	require.NoError(t, err)
	says, err := io.ReadAll(left)
	require.NoError(t, err)
	require.Contains(t, string(says), "Windows: Saltpan: its licence is not known")
	require.NotContains(t, string(says), "Wrack")

	page, at := v.send("/d/dunlin/bring", "parcel", "avocet.zip", archive)
	require.Contains(t, at, "/d/dunlin/parcel/")
	require.Contains(t, page, "Take this outfit")
	key := regexp.MustCompile(`name="take" value="([^"]+)"`).FindStringSubmatch(page)[1]
	_, at = v.post(at+"/take", url.Values{"take": {key}})
	require.Equal(t, "/d/dunlin/compose", at)
	d, err := v.app.Desk("dunlin")
	require.NoError(t, err)
	draft, err := v.app.Draft(d)
	require.NoError(t, err)
	require.Equal(t, "Wrack", draft.Want("icons"))
	require.NotEmpty(t, draft.Choices["icons"].Checksum)
	require.NoDirExists(t, filepath.Join(d.Home, ".local/share/icons/Wrack"), "it is tried on only")
	page, _ = v.get("/d/dunlin/review")
	require.Contains(t, page, "~/.local/share/icons/Wrack")
	v.apply(page)
	require.DirExists(t, filepath.Join(d.Home, ".local/share/icons/Wrack"))
	page, _ = v.get("/d/dunlin/match")
	require.Contains(t, page, `data-surface="gtk3" data-facet="icons" data-state="follows"`)
}
