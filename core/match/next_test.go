package match_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/reading"
)

// TestWhatToDoNext: what a login screen may stay black without first, each thing once, what shows most first, restarts last and in
// order, and a score that doing them all makes whole.
func TestWhatToDoNext(t *testing.T) {
	shell, gtk, login := desk.Surface{ID: "shell", Title: "Shell", Kind: "shell"}, desk.Surface{ID: "gtk3", Title: "GTK 3", Kind: "toolkit"}, desk.Surface{ID: "gate", Title: "Gate", Kind: "login"}
	cell := func(s desk.Surface, facet string, state match.State, kind match.FixKind, text string) match.Cell {
		c := match.Cell{Surface: s, Facet: facet, Want: "X", State: state, Remedy: match.Fix{Kind: kind, Text: text}}
		if kind == match.ByDraft {
			c.Remedy.Facet, c.Remedy.Want = facet, "X"
		}
		if kind == "restart" {
			c.Reading = reading.Reading{Pending: text}
		}
		return c
	}
	b := match.Board{Threads: []match.Thread{
		{Facet: desk.FacetIcons, Cells: []match.Cell{cell(shell, desk.FacetIcons, match.Pending, "restart", "shell"), cell(gtk, desk.FacetIcons, match.Differs, "draft", ""), cell(login, desk.FacetIcons, match.NotHere, "", "")}},
		{Facet: desk.FacetBackdrop, Cells: []match.Cell{cell(shell, desk.FacetBackdrop, match.Differs, "draft", "")}},
		{Facet: desk.FacetFont, Cells: []match.Cell{cell(shell, desk.FacetFont, match.Pending, "restart", "shell"), cell(gtk, desk.FacetFont, match.NotFound, "install", "Install it."), cell(login, desk.FacetFont, match.Follows, "", "")}},
		{Facet: desk.FacetLogin, Cells: []match.Cell{cell(login, desk.FacetLogin, match.Pending, "restart", "session"), cell(gtk, desk.FacetLogin, match.CannotFollow, "", "")}},
		{Facet: desk.FacetDark, Cells: []match.Cell{cell(gtk, desk.FacetDark, match.Pending, "restart", "program"), cell(shell, desk.FacetDark, match.Unasked, "", "")}},
	}}
	var got []string
	cells := 0
	for _, n := range b.Next() {
		got = append(got, fmt.Sprintf("%s%s%s %s %d", n.Restart, n.Facet, n.Text, n.Titles(), n.Cells))
		cells += n.Cells
	}
	require.Equal(t, []string{"backdrop the bar Shell 1", "icons GTK 3 1", "Install it. GTK 3 1", "program GTK 3 1", "shell the bar Shell 2", "session the login screen Gate 1"}, got)
	s := b.Score()
	require.Equal(t, 1, s.Follow)
	require.Equal(t, s.Asked, s.Follow+cells, "what is to be done is all that is open")
	require.Equal(t, 100*3/(9+9+15+9+9+3+2+12), s.Percent())
	for i := range b.Threads {
		for j := range b.Threads[i].Cells {
			if c := &b.Threads[i].Cells[j]; c.Remedy.Kind != "" {
				c.State, c.Remedy = match.Follows, match.Fix{}
			}
		}
	}
	require.Empty(t, b.Next())
	b.Threads[0].Cells[1] = cell(gtk, desk.FacetIcons, match.Differs, "draft", "")
	b.Threads[3].Cells[0] = cell(login, desk.FacetLogin, match.Broken, "by-hand", "Choose another.")
	require.Equal(t, "Choose another.", b.Next()[0].Text, "though it shows less")
	require.True(t, b.Next()[0].Grave)
	b.Threads[3].Cells[0] = cell(login, desk.FacetLogin, match.Follows, "", "")
	b.Threads[0].Cells[1] = cell(gtk, desk.FacetIcons, match.Follows, "", "")
	require.Equal(t, 100, b.Score().Percent())
}
