package fine

import (
	"slices"

	"ivelt/core/desk"
	"ivelt/core/say"
)

// Group is what is chosen together: a facet that pieces are chosen for, and the fine
// settings of the same thing.
type Group struct {
	Facet  string // its name too
	Title  say.Word
	Settle []string // the facets of its fine settings, in the order they are shown
}

// Groups are all groups, in the order they are chosen in.
var Groups = []Group{
	{desk.FacetWidgets, "Windows", []string{desk.FacetDark, desk.FacetAccent, desk.FacetContrast, desk.FacetFrame, desk.FacetButtons, desk.FacetDouble, desk.FacetMiddle, desk.FacetRight, desk.FacetMaximised, desk.FacetStyle, desk.FacetEffects, desk.FacetMotion, desk.FacetOpening, desk.FacetClosing, desk.FacetHiding, desk.FacetSwitching}},
	{desk.FacetIcons, "Icons", []string{desk.FacetIconSize, desk.FacetLying, desk.FacetLyingAt, desk.FacetLyingApart, desk.FacetLyingNames}},
	{desk.FacetPointer, "Pointer", []string{desk.FacetPointerSize}},
	{desk.FacetFont, "Fonts", []string{desk.FacetFont, desk.FacetTextScale, desk.FacetDisplayScale, desk.FacetFontDocument, desk.FacetFontMono, desk.FacetFontTitle, desk.FacetAntialias, desk.FacetHinting, desk.FacetSubpixel}},
	{desk.FacetBar, "Bar", []string{desk.FacetBars, desk.FacetDock, desk.FacetTiles, desk.FacetBarEdge, desk.FacetBarHeight, desk.FacetOpacity, desk.FacetBlur, desk.FacetSaturation, desk.FacetNotices, desk.FacetMenuIcon, desk.FacetClock, desk.FacetDeskClock, desk.FacetReadout, desk.FacetWorkspaces, desk.FacetNeeded, desk.FacetNames}},
	{desk.FacetBackdrop, "Backdrop", []string{desk.FacetEach, desk.FacetSpaces, desk.FacetLies, desk.FacetAcross, desk.FacetDown, desk.FacetBehind}},
	{desk.FacetPalette, "Terminal", []string{desk.FacetGround, desk.FacetGroundBlur, desk.FacetEdges, desk.FacetColumns, desk.FacetRows, desk.FacetProfile, desk.FacetStart}},
	{desk.FacetPictures, "Picture style", nil},
	{desk.FacetLogin, "Login screen", []string{desk.FacetLoginGround, desk.FacetLoginIcons, desk.FacetLoginPointer, desk.FacetLoginSize, desk.FacetLoginFont, desk.FacetPerson, desk.FacetPane, desk.FacetNumLock, desk.FacetSession, desk.FacetSignIn}},
}

// GroupOf is the group that a facet is chosen in; false if there is no such facet.
func GroupOf(facet string) (Group, bool) {
	i := slices.IndexFunc(Groups, func(g Group) bool { return g.Facet == facet })
	if i < 0 {
		i = slices.IndexFunc(Groups, func(g Group) bool { return slices.Contains(g.Settle, facet) })
	}
	if i < 0 {
		return Group{}, false
	}
	return Groups[i], true
}

// Facets are all the facets of the group, that of its pieces first.
func (g Group) Facets() []string {
	if slices.Contains(g.Settle, g.Facet) {
		return g.Settle
	}
	return append([]string{g.Facet}, g.Settle...)
}
