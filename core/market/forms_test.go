package market_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/market"
)

// TestEntriesAreComparedInOneForm: both in the shade that both have, the wanted one first.
func TestEntriesAreComparedInOneForm(t *testing.T) {
	light, dark := market.Looks{Lightness: 0.9}, market.Looks{Lightness: 0.2}
	two := light
	two.TwoForms, two.Other = true, &dark
	both := market.Entry{Looks: &two, Pictures: []market.Picture{{State: "normal"}, {State: "light"}, {State: "dark"}}}
	night := market.Entry{Looks: &dark, Pictures: []market.Picture{{State: "normal"}}}
	require.Equal(t, []string{"light", "dark"}, both.Forms())
	require.Equal(t, "dark", market.CommonForm("light", both, night))
	require.Equal(t, "light", market.CommonForm("", both, both))
	require.Equal(t, "dark", market.CommonForm("dark", both, both))
	require.Empty(t, market.CommonForm("light", night, market.Entry{Looks: &light}))
	require.Empty(t, market.CommonForm("light", both, market.Entry{}))
	require.Equal(t, "dark", both.Pictured("dark"))
	require.Empty(t, night.Pictured("dark"), "its only picture is that")
	require.Equal(t, dark, two.In(true))
	require.Equal(t, two, two.In(false))
	require.Equal(t, light, light.In(true), "it has no other")
}
