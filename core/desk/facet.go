package desk

import (
	"cmp"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/effect"
	"ivelt/core/layout"
	"ivelt/core/say"
)

// Facets that Ivelt can set.
const (
	FacetWidgets      = "widgets"         // the window theme a toolkit's programs wear
	FacetDark         = "dark"            // whether it is worn light or dark
	FacetAccent       = "accent"          // the one colour that stands out
	FacetButtons      = "buttons"         // which side of a window its buttons are on, in which order
	FacetIcons        = "icons"           // the icon pack a surface shows
	FacetIconSize     = "icon-size"       // px of what lies on the desk itself
	FacetLying        = "desk-icons"      // whether icons lie on the desk itself
	FacetLyingAt      = "desk-icons-at"   // along which edge they lie
	FacetLyingApart   = "desk-icons-gap"  // how far apart, px
	FacetLyingNames   = "desk-icons-name" // where their names are
	FacetDeskClock    = "desk-clock"      // where on the desk a clock is, see [layout.ParseLying]
	FacetReadout      = "readout"         // where on the desk a system readout is, the same
	FacetPointer      = "pointer"         // the pointer set
	FacetPointerSize  = "pointer-size"    // px
	FacetFont         = "font"            // family and size in points, "Estuary Sans 11"
	FacetFontDocument = "font-document"   // the same, of what one reads
	FacetFontMono     = "font-mono"       // the same, of fixed width
	FacetFontTitle    = "font-title"      // the same, of windows' titles
	FacetAntialias    = "antialias"       // whether the edges of letters are smooth
	FacetHinting      = "hinting"         // how far letters are fitted to the pixels
	FacetSubpixel     = "subpixel"        // the order of a pixel's colours, which smoothing may use
	FacetContrast     = "contrast"        // whether more of it is asked for
	FacetStyle        = "style"           // what draws the controls, where that is a program
	FacetPictures     = "pictures"        // the picture-based style that a drawing engine paints controls with
	FacetBar          = "bar"             // the theme of the shell's bar and notices
	FacetBarEdge      = "bar-edge"        // which edge of the screen the bar lies at
	FacetBarHeight    = "bar-height"      // of the bar, px
	FacetDouble       = "title-double"    // what a double click on a window's title does
	FacetMiddle       = "title-middle"    // what the middle button does there
	FacetRight        = "title-right"     // what the right button does there
	FacetMaximised    = "title-maximised" // whether a maximised window keeps its title bar
	FacetBars         = "bars"            // all bars of a shell, and what is on them
	FacetDock         = "dock"            // the dock of a shell, with its programs
	FacetTiles        = "tiles"           // how windows lie side by side, and the gaps around them
	FacetOpacity      = "opacity"         // of the bar, percent
	FacetBlur         = "blur"            // of what is behind the bar, px
	FacetSaturation   = "saturation"      // of the colours behind the bar, percent
	FacetBackdrop     = "backdrop"        // a picture, by its full path
	FacetEach         = "backdrop-each"   // pictures of single monitors, in the stead of the backdrop, see [Each]
	FacetLies         = "backdrop-mode"   // how it lies on a monitor
	FacetAcross       = "backdrop-across" // which part of it is seen where its sides are cut off, percent from the left
	FacetDown         = "backdrop-down"   // and where its top and bottom are, percent from the top
	FacetBehind       = "backdrop-ground" // the colour of what it leaves bare
	FacetFrame        = "frame"           // the theme of window frames, where they are set apart
	FacetNotices      = "notices"         // the theme of notices, where they are set apart
	FacetMenuIcon     = "menu-icon"       // the picture on the menu's button, by its full path
	FacetEffects      = "effects"         // how much moves when windows open and close
	FacetMotion       = "motion"          // whether the person wishes for less of it
	FacetOpening      = "effect-open"     // how windows open, see package effect
	FacetClosing      = "effect-close"
	FacetHiding       = "effect-minimise"
	FacetSwitching    = "effect-workspace" // how one workspace takes the place of another
	FacetWorkspaces   = "workspaces"       // how many there are
	FacetNeeded       = "workspaces-as"    // whether there are so many, or as many as are needed
	FacetNames        = "workspace-names"  // what they are called, see [layout.ParseNames]
	FacetSpaces       = "workspace-each"   // pictures of single workspaces by their numbers, see [Each]
	FacetTextScale    = "text-scale"       // how much larger text is than its fonts say
	FacetDisplayScale = "display-scale"    // how many pixels of the screen each of a program's is, percent
	FacetClock        = "clock"            // how clocks count the hours
	FacetPalette      = "palette"          // the colours of the terminal
	FacetGround       = "ground"           // of the terminal: how far it hides what is behind it, percent
	FacetGroundBlur   = "terminal-blur"    // of what shows through the terminal, px
	FacetEdges        = "edges"            // whether the terminal has its menu and scroll bars
	FacetColumns      = "columns"          // of the terminal's window, in letters
	FacetRows         = "rows"             // of the terminal's window
	FacetProfile      = "profile"          // the profile that the terminal opens with
	FacetStart        = "start"            // the program that the terminal starts in it, by its full path
	FacetLogin        = "login"            // the theme of the login screen
	FacetLoginGround  = "login-ground"     // its backdrop, by its full path
	FacetLoginIcons   = "login-icons"      // its icon pack, which an administrator chooses as all that is on it
	FacetLoginPointer = "login-pointer"    // its pointer set
	FacetLoginSize    = "login-size"       // of its pointer, px
	FacetLoginFont    = "login-font"       // its font
	FacetPerson       = "person"           // the picture of the person on it, by its full path
	FacetPane         = "pane"             // whether it offers sessions and languages
	FacetNumLock      = "num-lock"         // whether it switches the number keys on
	FacetSession      = "session"          // the session that it starts
	FacetSignIn       = "sign-in"          // whether it asks who it is
)

// Takes is what kind of value a facet takes.
type Takes string

const (
	TakesPiece   Takes = "piece"   // the name of a piece
	TakesFont    Takes = "font"    // a family and a size
	TakesPicture Takes = "picture" // the path of a picture
	TakesShade   Takes = "shade"   // light, dark or automatic
	TakesColour  Takes = "colour"  // #rrggbb
	TakesButtons Takes = "buttons" // "menu:minimize,maximize,close"
	TakesNumber  Takes = "number"  // a whole number
	TakesWord    Takes = "word"    // one of FacetInfo.Words
	TakesName    Takes = "name"    // of something that is described in a file of that name
	TakesProgram Takes = "program" // the path of a program, with what it is given
	TakesEffect  Takes = "effect"  // "fade 160 ease-out", or "none"
	TakesEach    Takes = "each"    // a picture for some monitors, see [Each]
	TakesBars    Takes = "bars"    // see [layout.ParseBars]
	TakesDock    Takes = "dock"    // see [layout.ParseDock]
	TakesTiles   Takes = "tiles"   // see [layout.ParseTiles]
	TakesLying   Takes = "lying"   // see [layout.ParseLying]
	TakesNames   Takes = "names"   // see [layout.ParseNames]
)

// FacetInfo is what a facet is, whatever the surface.
type FacetInfo struct {
	Name        string
	Title       say.Word // what it is called on pages
	Takes       Takes
	Least, Most int    // of a number
	Unit        string // of a number
	Words       []string
}

// Says is how a value of the facet is written for people: with its unit, a picture by its
// name.
func (i FacetInfo) Says(value string) say.Message {
	switch {
	case value == "":
		return say.Message{}
	case i.Takes == TakesPicture:
		name := path.Base(value)
		return say.Words(strings.ReplaceAll(strings.TrimSuffix(name, path.Ext(name)), "-", " "))
	case i.Takes == TakesEach && len(Each(value)) == 0:
		return say.Word("the same picture on all").Message()
	case i.Takes == TakesNames:
		return say.Words(strings.ReplaceAll(value, ";", ", "))
	case i.Takes == TakesEach:
		var out []say.Message
		for _, of := range Each(value) {
			out = append(out, say.Line("%s: %s", of.Monitor, FacetInfo{Takes: TakesPicture}.Says(of.Picture)))
		}
		return say.Join(", ", out...)
	case i.Takes == TakesBars:
		if bars, err := layout.ParseBars(value); err == nil {
			return layout.Says(bars)
		}
	case i.Takes == TakesDock:
		if dock, err := layout.ParseDock(value); err == nil {
			return dock.Says()
		}
	case i.Takes == TakesTiles:
		if tiles, err := layout.ParseTiles(value); err == nil {
			return tiles.Says()
		}
	case i.Takes == TakesLying:
		if lying, err := layout.ParseLying(value); err == nil {
			return lying.Says()
		}
	case i.Takes == TakesEffect:
		if words := strings.Fields(value); len(words) == 3 {
			return say.Line("%s, %s ms, %s", effect.Says(words[0]), words[1], effect.Says(words[2]))
		}
		return effect.Says(value).Message()
	case i.Name == FacetNeeded && value == "needed":
		return say.Word("as many as are needed").Message()
	case i.Name == FacetPointerSize && value == "0":
		return say.Word("the display's own").Message()
	case i.Takes == TakesNumber:
		return say.Words(strings.TrimSpace(value + " " + i.Unit))
	case i.Name == FacetSignIn && value == ByItself:
		return say.Word("on").Message()
	case i.Name == FacetSignIn && value == "asks":
		return say.Word("off").Message()
	case i.Name == FacetContrast && value == "usual":
		return say.Word("normal").Message()
	case i.Name != FacetStyle && slices.Contains(i.Words, value) && slices.Contains(words, say.Word(value)): // styles have names
		return say.Word(value).Message()
	}
	return say.Words(value)
}

// words are what facets take, as pages say them.
var words = []say.Word{
	"light", "dark", "automatic", "usual", "high", "maximise", "wider", "taller", "roll up", "lower", "minimise", "menu", "none", "shown", "hidden", "left", "right", "top", "bottom",
	"below", "beside", "on", "off", "slight", "medium", "full", "kept", "gone", "fill", "fit", "stretch", "centre", "tile", "span", "few", "all", "less", "fixed", "needed",
	"24-hour", "12-hour", "asks", ByItself, "rgb", "bgr", "vrgb", "vbgr",
}

// Long reports whether a value of the facet takes many words: it is named by its title alone where there
// is little room.
func (i FacetInfo) Long() bool {
	return slices.Contains([]Takes{TakesBars, TakesDock, TakesTiles, TakesLying, TakesNames, TakesEach}, i.Takes)
}

// clicks are what a click on a window's title may do: wider and taller make it as wide, or as tall, as
// the screen.
var clicks = []string{"maximise", "wider", "taller", "roll up", "lower", "minimise", "menu", "none"}

// Facets are the facets that Ivelt can set, in the order they are shown.
var Facets = []FacetInfo{
	{FacetWidgets, "Windows", TakesPiece, 0, 0, "", nil},
	{FacetDark, "Shade", TakesShade, 0, 0, "", []string{"light", "dark", "automatic"}},
	{FacetContrast, "Contrast", TakesWord, 0, 0, "", []string{"usual", "high"}},
	{FacetStyle, "Style", TakesWord, 0, 0, "", []string{"Fusion", "Windows"}},
	{FacetPictures, "Picture style", TakesPiece, 0, 0, "", nil},
	{FacetAccent, "Accent", TakesColour, 0, 0, "", nil},
	{FacetButtons, "Window buttons", TakesButtons, 0, 0, "", nil},
	{FacetDouble, "Double click on a title", TakesWord, 0, 0, "", clicks},
	{FacetMiddle, "Middle click on a title", TakesWord, 0, 0, "", clicks},
	{FacetRight, "Right click on a title", TakesWord, 0, 0, "", clicks},
	{FacetIcons, "Icons", TakesPiece, 0, 0, "", nil},
	{FacetIconSize, "Desktop icon size", TakesNumber, 16, 128, "px", nil},
	{FacetLying, "Icons on the desk", TakesWord, 0, 0, "", []string{"shown", "hidden"}},
	{FacetLyingAt, "Desktop icons along", TakesWord, 0, 0, "", []string{"left", "right", "top", "bottom"}},
	{FacetLyingApart, "Desktop icons apart", TakesNumber, 0, 200, "px", nil},
	{FacetLyingNames, "Desktop icon names", TakesWord, 0, 0, "", []string{"below", "beside", "hidden"}},
	{FacetDeskClock, "Clock on the desk", TakesLying, 0, 0, "", nil},
	{FacetReadout, "System readout", TakesLying, 0, 0, "", nil},
	{FacetPointer, "Pointer", TakesPiece, 0, 0, "", nil},
	{FacetPointerSize, "Pointer size", TakesNumber, 8, 256, "px", nil},
	{FacetFont, "Font", TakesFont, 0, 0, "", nil},
	{FacetFontDocument, "Document font", TakesFont, 0, 0, "", nil},
	{FacetFontMono, "Monospace font", TakesFont, 0, 0, "", nil},
	{FacetFontTitle, "Window title font", TakesFont, 0, 0, "", nil},
	{FacetAntialias, "Smooth text", TakesWord, 0, 0, "", []string{"on", "off"}},
	{FacetHinting, "Hinting", TakesWord, 0, 0, "", []string{"none", "slight", "medium", "full"}},
	{FacetSubpixel, "Sub-pixels", TakesWord, 0, 0, "", []string{"none", "rgb", "bgr", "vrgb", "vbgr"}},
	{FacetBar, "Bar", TakesPiece, 0, 0, "", nil},
	{FacetBarEdge, "Bar position", TakesWord, 0, 0, "", []string{"top", "bottom"}},
	{FacetBarHeight, "Bar height", TakesNumber, 20, 96, "px", nil},
	{FacetMaximised, "Title of maximised windows", TakesWord, 0, 0, "", []string{"kept", "gone"}},
	{FacetBars, "Bars", TakesBars, 0, 0, "", nil},
	{FacetDock, "Dock", TakesDock, 0, 0, "", nil},
	{FacetTiles, "Windows side by side", TakesTiles, 0, 0, "", nil},
	{FacetOpacity, "Bar opacity", TakesNumber, 0, 100, "%", nil},
	{FacetBlur, "Bar blur", TakesNumber, 0, 64, "px", nil},
	{FacetSaturation, "Bar saturation", TakesNumber, 0, 300, "%", nil},
	{FacetBackdrop, "Backdrop", TakesPicture, 0, 0, "", nil},
	{FacetEach, "Single monitors", TakesEach, 0, 0, "", nil},
	{FacetLies, "Placement", TakesWord, 0, 0, "", []string{"fill", "fit", "stretch", "centre", "tile", "span", "none"}},
	{FacetAcross, "Cut, left to right", TakesNumber, 0, 100, "%", nil},
	{FacetDown, "Cut, top to bottom", TakesNumber, 0, 100, "%", nil},
	{FacetBehind, "Ground colour", TakesColour, 0, 0, "", nil},
	{FacetFrame, "Frames", TakesPiece, 0, 0, "", nil},
	{FacetNotices, "Notices", TakesPiece, 0, 0, "", nil},
	{FacetMenuIcon, "Menu button image", TakesPicture, 0, 0, "", nil},
	{FacetEffects, "Effects", TakesWord, 0, 0, "", []string{"none", "few", "all"}},
	{FacetMotion, "Motion", TakesWord, 0, 0, "", []string{"full", "less"}},
	{FacetOpening, "Opening", TakesEffect, 0, 0, "", nil},
	{FacetClosing, "Closing", TakesEffect, 0, 0, "", nil},
	{FacetHiding, "Minimising", TakesEffect, 0, 0, "", nil},
	{FacetSwitching, "Switching workspaces", TakesEffect, 0, 0, "", nil},
	{FacetWorkspaces, "Workspaces", TakesNumber, 1, 12, "", nil},
	{FacetNeeded, "Number of workspaces", TakesWord, 0, 0, "", []string{"fixed", "needed"}},
	{FacetNames, "Workspace names", TakesNames, 0, 0, "", nil},
	{FacetSpaces, "Workspace backdrops", TakesEach, 0, 0, "", nil},
	{FacetTextScale, "Text size", TakesNumber, 50, 300, "%", nil},
	{FacetDisplayScale, "Display scale", TakesNumber, 100, 400, "%", nil},
	{FacetClock, "Clock", TakesWord, 0, 0, "", []string{"24-hour", "12-hour"}},
	{FacetPalette, "Terminal palette", TakesPiece, 0, 0, "", nil},
	{FacetGround, "Terminal opacity", TakesNumber, 20, 100, "%", nil},
	{FacetGroundBlur, "Terminal blur", TakesNumber, 0, 64, "px", nil},
	{FacetEdges, "Terminal menu and scroll bar", TakesWord, 0, 0, "", []string{"shown", "hidden"}},
	{FacetColumns, "Terminal columns", TakesNumber, 20, 400, "", nil},
	{FacetRows, "Terminal rows", TakesNumber, 5, 200, "", nil},
	{FacetProfile, "Terminal profile", TakesName, 0, 0, "", nil},
	{FacetStart, "Terminal shell", TakesProgram, 0, 0, "", nil},
	{FacetLogin, "Login screen", TakesPiece, 0, 0, "", nil},
	{FacetLoginGround, "Login backdrop", TakesPicture, 0, 0, "", nil},
	{FacetLoginIcons, "Login icons", TakesPiece, 0, 0, "", nil},
	{FacetLoginPointer, "Login pointer", TakesPiece, 0, 0, "", nil},
	{FacetLoginSize, "Login pointer size", TakesNumber, 8, 256, "px", nil},
	{FacetLoginFont, "Login font", TakesFont, 0, 0, "", nil},
	{FacetPerson, "Account picture", TakesPicture, 0, 0, "", nil},
	{FacetPane, "Login options", TakesWord, 0, 0, "", []string{"shown", "hidden"}},
	{FacetNumLock, "Num lock", TakesWord, 0, 0, "", []string{"on", "off"}},
	{FacetSession, "Session", TakesName, 0, 0, "", nil},
	{FacetSignIn, "Automatic sign-in", TakesWord, 0, 0, "", []string{"asks", ByItself}},
}

// Layout are the facets that say where things are and not how they look: what can
// be left behind when somebody else's outfit is taken.
var Layout = []string{FacetButtons, FacetBarEdge, FacetBarHeight, FacetBars, FacetDock, FacetTiles, FacetLying, FacetLyingAt, FacetLyingApart, FacetLyingNames, FacetDeskClock, FacetReadout, FacetMaximised, FacetNeeded, FacetNames, FacetDouble, FacetMiddle, FacetRight, FacetWorkspaces, FacetEdges, FacetColumns, FacetRows, FacetPane}

// acting are the facets that do something and change more than a look: they start
// programs, or let people in.
var acting = []string{FacetStart, FacetSession, FacetSignIn}

// Acts reports whether a facet does something, by what it is or by what the descriptor
// of a surface says. Such a choice of somebody else's is never taken with the others.
func (d *Desk) Acts(facet string) bool {
	return slices.Contains(acting, facet) || slices.ContainsFunc(d.Surfaces(), func(s Surface) bool {
		f, ok := s.Facet(facet)
		return ok && f.Acts
	})
}

// onLogin are what a login screen has of its own where other surfaces have the same: what is
// on it is the system's, so that choosing for oneself does not choose for everyone.
var onLogin = map[string]string{FacetIcons: FacetLoginIcons, FacetPointer: FacetLoginPointer, FacetPointerSize: FacetLoginSize, FacetFont: FacetLoginFont, FacetBackdrop: FacetLoginGround}

// Called is what the surface calls a facet that surfaces of its kind have under a name of
// their own.
func (s Surface) Called(facet string) string {
	if own := onLogin[facet]; own != "" && s.Kind == "login" {
		return own
	}
	return facet
}

// Vital reports whether a login screen may fail to come up for want of a facet's piece. Of
// icons, pointers and fonts every program has others to show instead.
func Vital(facet string) bool {
	return !slices.Contains([]string{FacetLoginIcons, FacetLoginPointer, FacetLoginFont}, facet)
}

// ByItself is the value of [FacetSignIn] with which nobody is asked who they are.
const ByItself = "by itself"

// Doing says in words what a choice of an acting facet does.
func Doing(facet, want string) say.Message {
	switch facet {
	case FacetStart:
		return say.Line("every terminal that is opened starts %s", want)
	case FacetSession:
		return say.Line("whoever signs in gets the session %s", want)
	case FacetSignIn:
		if want == ByItself {
			return say.Line("anyone who switches this computer on can use it: it needs no password")
		}
		return say.Line("the login screen asks who it is")
	}
	return say.Line("%s becomes %s, which its surface says does something", say.Lower(FacetTitle(facet)), want)
}

// FacetOf returns what is known of a facet.
func FacetOf(name string) (FacetInfo, bool) {
	i := slices.IndexFunc(Facets, func(f FacetInfo) bool { return f.Name == name })
	if i < 0 {
		return FacetInfo{}, false
	}
	return Facets[i], true
}

// Own is the picture of one monitor.
type Own struct{ Monitor, Picture string }

// maxEach bounds how many monitors have a picture of their own.
const maxEach = 16

// Each are the pictures that a text names for single monitors, "DP-1=/bay.png;DP-2=/pier.png";
// what is none is left out.
func Each(text string) (out []Own) {
	for part := range strings.SplitSeq(text, ";") {
		monitor, picture, ok := strings.Cut(part, "=")
		if ok && monitor != "" && strings.HasPrefix(picture, "/") && !strings.ContainsAny(picture, "\n") && len(out) < maxEach &&
			!slices.ContainsFunc(out, func(o Own) bool { return o.Monitor == monitor }) {
			out = append(out, Own{monitor, picture})
		}
	}
	return out
}

// EachOf is the text for pictures of single monitors; "none" if none has one.
func EachOf(all []Own) string {
	if len(all) == 0 {
		return "none"
	}
	var parts []string
	for _, o := range all {
		parts = append(parts, o.Monitor+"="+o.Picture)
	}
	return strings.Join(parts, ";")
}

// EffectOf is the action of which a facet is the effect, "" if it is of none.
func EffectOf(facet string) effect.Action {
	action, _ := strings.CutPrefix(facet, "effect-")
	if action == facet {
		return ""
	}
	return effect.Action(action)
}

// FacetTitle returns what a facet is called on pages.
func FacetTitle(name string) say.Word {
	f, _ := FacetOf(name)
	return cmp.Or(f.Title, say.Word(name))
}

var (
	colourForm  = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)
	buttonsForm = regexp.MustCompile(`^(?:[a-z]+(?:,[a-z]+)*)?:(?:[a-z]+(?:,[a-z]+)*)?$`)
)

// Accepts says why a value is none that the facet takes, nil if it is one.
// Whether a surface can follow it is another matter.
func (f FacetInfo) Accepts(value string) error {
	bad := func(want say.Message) error {
		return say.Errorf("%s is %s, not %q", say.Lower(f.Title), want, value)
	}
	switch f.Takes {
	case TakesShade, TakesWord:
		if !slices.Contains(f.Words, value) {
			return bad(say.Line("one of %s", strings.Join(f.Words, ", ")))
		}
	case TakesColour:
		if !colourForm.MatchString(value) {
			return bad(say.Line("a colour written as #rrggbb"))
		}
	case TakesButtons:
		if !buttonsForm.MatchString(value) {
			return bad(say.Line("names of buttons, those on the left before a colon"))
		}
	case TakesNumber:
		if n, err := strconv.Atoi(value); err != nil || n < f.Least || n > f.Most {
			return bad(say.Line("a number from %d to %d", f.Least, f.Most))
		}
	case TakesPicture:
		if !strings.HasPrefix(value, "/") {
			return bad(say.Line("the full path of a picture"))
		}
	case TakesFont:
		if family, size := SplitFont(value); family == "" || size < 4 || size > 72 {
			return bad(say.Line("a family and a size in points, from 4 to 72"))
		}
	case TakesEach:
		if EachOf(Each(value)) != value {
			return bad(say.Line("monitors with the full paths of their pictures, as DP-1=/bay.png;DP-2=/pier.png"))
		}
	case TakesBars:
		if _, err := layout.ParseBars(value); err != nil {
			return say.Errorf("%s: %w", say.Lower(f.Title), err)
		}
	case TakesDock:
		if _, err := layout.ParseDock(value); err != nil {
			return say.Errorf("%s: %w", say.Lower(f.Title), err)
		}
	case TakesTiles:
		if _, err := layout.ParseTiles(value); err != nil {
			return say.Errorf("%s: %w", say.Lower(f.Title), err)
		}
	case TakesLying:
		if _, err := layout.ParseLying(value); err != nil {
			return say.Errorf("%s: %w", say.Lower(f.Title), err)
		}
	case TakesNames:
		if _, err := layout.ParseNames(value); err != nil {
			return say.Errorf("%s: %w", say.Lower(f.Title), err)
		}
	case TakesEffect:
		if _, err := effect.Parse(EffectOf(f.Name), value); err != nil {
			return err
		}
	case TakesProgram:
		if !strings.HasPrefix(value, "/") || strings.ContainsAny(value, "\n;|&<>`$") {
			return bad(say.Line("the full path of a program and what it is given, and no shell's words"))
		}
	case TakesPiece, TakesName:
		if value == "" || strings.ContainsAny(value, "/\n") {
			if f.Takes == TakesName {
				return bad(say.Line("a name without a slash"))
			}
			return bad(say.Line("the name of a piece"))
		}
	}
	return nil
}

// SplitFont takes a font setting apart, "Estuary Sans Bold 10.5": what comes
// before the size, and the size in points, 0 if none is given (Pango,
// pango_font_description_from_string).
func SplitFont(value string) (family string, size float64) {
	words := strings.Fields(value)
	if n := len(words); n > 0 {
		if f, err := strconv.ParseFloat(words[n-1], 64); err == nil && f >= 0 && f < 1e4 {
			words, size = words[:n-1], f
		}
	}
	return strings.TrimRight(strings.Join(words, " "), ","), size
}
