package web_test

import (
	"bytes"
	"encoding/xml"
	"image"
	"image/png"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/store"
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
	require.Contains(t, plain, "Put Groyne (window theme) into ~/.themes.")
	require.Contains(t, plain, "for Samphire:\n     [Bar]\n     theme=Saltpan\n")

	page, at := v.send("/d/avocet/outfit", "outfit", "dunlin.toml", append([]byte("keeper = 'Mara'\n"), text...))
	require.Equal(t, "/d/avocet/compose", at)
	require.Contains(t, page, "does not know; it is kept: keeper")
	d, err := v.app.Desk("avocet")
	require.NoError(t, err)
	draft, err := v.app.Drafts.Draft(d)
	require.NoError(t, err)
	require.Equal(t, []string{"Session: left open, here it is withy."}, worn.Differences(draft), "which is never taken with the rest")
	require.Equal(t, []string{"keeper"}, draft.Unknown())
	again, _ := v.get("/d/avocet/outfit.toml?of=draft")
	require.Contains(t, again, "keeper = 'Mara'")
	sheet, _ := v.get("/d/avocet/sheet?of=draft")
	require.Contains(t, sheet, "Slack-Water")
	v.post("/d/avocet/looks", url.Values{"do": {"undo"}})
	draft, err = v.app.Drafts.Draft(d)
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

// TestThePictureToPost is one PNG of a look, of what is worn and of a draft, with what each
// piece is.
func TestThePictureToPost(t *testing.T) {
	v := newStage(t).visit()
	for _, of := range []string{"worn", "draft"} {
		if of == "draft" {
			body, status := v.get("/d/avocet/sheet.png?of=draft")
			require.Equal(t, http.StatusBadRequest, status)
			require.Contains(t, body, "The draft is empty")
			v.post("/d/avocet/draft", url.Values{"facet": {"icons"}, "piece": {"Foreshore"}})
		}
		body, status := v.get("/d/avocet/sheet.png?of=" + of)
		require.Equal(t, http.StatusOK, status)
		im, err := png.Decode(bytes.NewReader([]byte(body)))
		require.NoError(t, err)
		require.Equal(t, image.Rect(0, 0, preview.PosterWidth, preview.PosterHeight), im.Bounds())
	}
	o, err := v.app.Drafts.AsWorn(v.app.Desks()[0])
	require.NoError(t, err)
	o = o.With(desk.FacetPalette, "brine")
	p := library.PosterOf("Mine", o, []library.Origin{{PieceRow: store.PieceRow{Folder: "brine"}, From: store.ParcelRow{Maker: "Ona Reed"}}}, time.Date(2026, 3, 21, 0, 0, 0, 0, time.UTC))
	require.Equal(t, "21 March 2026", p.Day)
	require.Contains(t, p.Pieces, preview.Credit{For: "Windows, bar, frames, notices", Name: "Saltpan", Details: "MIT"}, "one piece is named once")
	require.Contains(t, p.Pieces, preview.Credit{For: "Terminal palette", Name: "brine", Details: "Ona Reed"})
	require.Contains(t, p.Values, preview.Credit{For: "Accent", Name: "estuary", Swatch: "#2f7f8c"})
	p.Title = strings.Repeat("Very long ", 50) + "<&"
	require.NoError(t, xml.Unmarshal(p.Draw(v.app.Desks()[0].Desk, preview.Worn(t.Context(), v.app.Desks()[0].Desk)), new(struct{})))
}
