package preview

import (
	_ "embed"
	"io/fs"
	"path"
	"regexp"

	_ "golang.org/x/image/webp"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/keyfile"
	"ivelt/core/paint"
	"ivelt/core/parcel"
	"ivelt/core/reading"
)

var HexColour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

const loginWidth, loginHeight = 640, 400

// Login draws a login screen as it would come up in the look, from the files that
// it reads: the backdrop that is set, or else the theme's, the theme's colours,
// the person's picture, and what else it is told to have on it.
func Login(d *desk.Desk, look Look, s desk.Surface) []byte {
	c := NewCanvas(d, look, loginWidth, loginHeight)
	return c.drawn(Scene{draw: func(c *Canvas) { c.Login(look, s) }})
}

func (c *Canvas) Login(look Look, s desk.Surface) {
	d := c.D
	c.Printf(`<rect width="%d" height="%d" fill="#1a2129"/>`, loginWidth, loginHeight)
	c.mark(desk.FacetLogin, s.ID, 0, 0, loginWidth, loginHeight)
	f, _ := s.Facet(desk.FacetLogin)
	ink, panel, ground := "#e8e8e8", "#303840", ""
	if at, err := reading.Find(d, f.Lookup, look.Of(desk.FacetLogin, s.ID)); err == nil && at != "" {
		if kf := LoginDescription(c.tree, desk.Name(at)); kf != nil {
			group := parcel.LoginGroup(kf)
			if v := kf.Get(group, "Ink"); HexColour.MatchString(v) {
				ink = v
			}
			if v := kf.Get(group, "Panel"); HexColour.MatchString(v) {
				panel = v
			}
			if v := kf.Get(group, "Backdrop"); fs.ValidPath(v) {
				ground = path.Join(at, v)
			}
		}
	}
	if own := look.Of(desk.FacetLoginGround, s.ID); own != "" {
		ground = own
	}
	if fill, ok := c.Filling(ground, loginWidth, loginHeight); ground != "" && ok {
		c.Printf(`<svg width="%d" height="%d">%s</svg>`, loginWidth, loginHeight, fill.Image("", loginWidth, loginHeight))
	}
	const x, y, w, h = 200, 86, 240, 214
	c.Printf(`<rect x="%d" y="%d" width="%d" height="%d" rx="8" fill="%s" fill-opacity="0.86"/>`, x, y, w, h, panel)
	if person, ok := c.Filling(look.Of(desk.FacetPerson, s.ID), 80, 80); look.Of(desk.FacetPerson, s.ID) != "" && ok {
		c.Printf(`<clipPath id="person"><circle cx="%d" cy="%d" r="38"/></clipPath><g clip-path="url(#person)"><svg x="%d" y="%d" width="80" height="80">%s</svg></g>`, x+w/2, y+60, x+w/2-40, y+20, person.Image("", 80, 80))
	} else {
		c.Printf(`<circle cx="%d" cy="%d" r="38" fill="none" stroke="%[3]s" stroke-width="2"/><circle cx="%[1]d" cy="%[4]d" r="12" fill="%[3]s"/><path d="M%[5]d %[6]da22 18 0 0 1 44 0" fill="%[3]s"/>`, x+w/2, y+60, ink, y+50, x+w/2-22, y+82)
	}
	face := c.Lettering(s.ID, desk.FacetFont).Face(gtkcss.Font{Weight: 400})
	scale := 1.0 // of what is drawn here in sizes for a font of 12 points
	if _, pt := desk.SplitFont(look.Of(desk.FacetLoginFont, s.ID)); pt >= 6 && pt <= 24 {
		scale = pt / 12
	}
	centred := func(text string, size, at float64) {
		line := face.Set(text, size*scale)
		c.Glyphs(face, line, size*scale, x+w/2-line.Width/2, at, ink)
	}
	centred(path.Base(d.HomePath), 16, y+122)
	if look.Of(desk.FacetSignIn, s.ID) == desk.ByItself {
		centred("signs in by itself", 13, y+158)
	} else {
		c.Printf(`<rect x="%d" y="%d" width="176" height="30" rx="4" fill="none" stroke="%[3]s"/><g fill="%[3]s"><circle cx="%[4]d" cy="%[5]d" r="3"/><circle cx="%[6]d" cy="%[5]d" r="3"/><circle cx="%[7]d" cy="%[5]d" r="3"/></g>`, x+32, y+138, ink, x+48, y+153, x+60, x+72)
	}
	if look.Of(desk.FacetNumLock, s.ID) == "on" {
		centred("number keys are on", 11, y+192)
	}
	if look.Of(desk.FacetPane, s.ID) != "hidden" {
		c.Printf(`<rect y="%d" width="%d" height="32" fill="%s" fill-opacity="0.86"/>`, loginHeight-32, loginWidth, panel)
		size := 13 * scale
		session := face.Set("Session: "+look.Of(desk.FacetSession, s.ID), size)
		c.Glyphs(face, session, size, 16, loginHeight-12, ink)
		language := face.Set("Language: English", size)
		c.Glyphs(face, language, size, loginWidth-16-language.Width, loginHeight-12, ink)
	}
	// Icon Naming Specification 0.8.90, Standard Action Icons; without one there is no sign.
	if _, _, ok := c.Icons(s.ID).LookupBest([]string{"system-shutdown-symbolic", "system-shutdown"}, 24, 1); ok && look.Of(desk.FacetLoginIcons, s.ID) != "" {
		c.Printf(`<rect x="%d" y="12" width="36" height="36" rx="8" fill="%s" fill-opacity="0.86"/>`, loginWidth-48, panel)
		of, _ := colour.Parse(ink)
		c.symbolicAt(s.ID, float64(loginWidth-42), 18, 24, paint.Plain(gtkcss.Colour{R: of.R, G: of.G, B: of.B, A: 1}), "system-shutdown")
	}
	if _, has := s.Facet(desk.FacetLoginPointer); has {
		c.pointerAt(s.ID, 430, 316, "default", "left_ptr")
	}
}

// LoginDescription is the first key file of a folder that has a group for a login
// screen.
func LoginDescription(fsys fs.FS, root string) *keyfile.File {
	list, err := fs.ReadDir(fsys, root)
	if err != nil {
		return nil
	}
	for _, e := range list {
		if info, err := e.Info(); err != nil || !info.Mode().IsRegular() || info.Size() > 64<<10 {
			continue
		}
		raw, err := fs.ReadFile(fsys, path.Join(root, e.Name()))
		if err != nil {
			continue
		}
		if kf, err := keyfile.Parse(raw); err == nil && parcel.LoginGroup(kf) != "" {
			return kf
		}
	}
	return nil
}
