package preview

import (
	"context"
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/keyfile"
	"ivelt/core/parcel"
	"ivelt/core/reading"
)

var hexColour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

// loginTag draws a login theme: the largest picture that its description names,
// and on it a place to sign in, in the colours that it names for ink and panel.
func loginTag(ctx context.Context, b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	kf := loginDescription(fsys, pc.Root)
	if kf == nil {
		return false
	}
	ink, panel := "#ffffff", "#000000"
	var ground filling
	size := int64(0)
	for _, group := range kf.Groups() {
		for _, e := range kf.Entries(group) {
			switch key := strings.ToLower(e.Key); {
			case hexColour.MatchString(e.Value) && strings.Contains(key, "ink"):
				ink = e.Value
			case hexColour.MatchString(e.Value) && strings.Contains(key, "panel"):
				panel = e.Value
			case fs.ValidPath(e.Value):
				info, err := fs.Stat(fsys, path.Join(pc.Root, e.Value))
				if err != nil || info.IsDir() || info.Size() <= size || info.Size() > maxBackdrop {
					continue
				}
				raw, err := fs.ReadFile(fsys, path.Join(pc.Root, e.Value))
				if f := fitted(ctx, raw, tagWidth, tagHeight); err == nil && f.uri != "" {
					ground, size = f, info.Size()
				}
			}
		}
	}
	if size == 0 {
		return false
	}
	fmt.Fprintf(b, `<svg width="%d" height="%d">%s</svg>`, tagWidth, tagHeight, ground.image("", tagWidth, tagHeight))
	fmt.Fprintf(b, `<g transform="translate(%d 22)"><rect width="132" height="84" rx="6" fill="%s" fill-opacity="0.72"/><circle cx="66" cy="24" r="12" fill="none" stroke="%[3]s" stroke-width="1.500"/><circle cx="66" cy="21" r="4" fill="%[3]s"/><path d="M58 31a8 6 0 0 1 16 0" fill="%[3]s"/><rect x="16" y="50" width="100" height="20" rx="3" fill="none" stroke="%[3]s"/><g fill="%[3]s"><circle cx="28" cy="60" r="2"/><circle cx="36" cy="60" r="2"/><circle cx="44" cy="60" r="2"/></g></g>`, (tagWidth-132)/2, panel, ink)
	return true
}

const loginWidth, loginHeight = 640, 400

// Login draws a login screen as it would come up in the look, from the files that
// it reads: the backdrop that is set, or else the theme's, the theme's colours,
// the person's picture, and what else it is told to have on it.
func Login(d *desk.Desk, look Look, s desk.Surface) []byte {
	c := newCanvas(d, look, loginWidth, loginHeight)
	c.printf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d">`, c.w, c.h, c.w, c.h)
	c.login(look, s)
	c.WriteString("<defs>" + c.defs.String() + "</defs></svg>")
	return []byte(c.String())
}

func (c *canvas) login(look Look, s desk.Surface) {
	d := c.d
	c.printf(`<rect width="%d" height="%d" fill="#1a2129"/>`, loginWidth, loginHeight)
	f, _ := s.Facet(desk.FacetLogin)
	ink, panel, ground := "#e8e8e8", "#303840", ""
	if at, err := reading.Find(d, f.Lookup, look.Of(desk.FacetLogin, s.ID)); err == nil && at != "" {
		if kf := loginDescription(c.tree, desk.Name(at)); kf != nil {
			group := parcel.LoginGroup(kf)
			if v := kf.Get(group, "Ink"); hexColour.MatchString(v) {
				ink = v
			}
			if v := kf.Get(group, "Panel"); hexColour.MatchString(v) {
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
	if fill, ok := c.filling(ground, loginWidth, loginHeight); ground != "" && ok {
		c.printf(`<svg width="%d" height="%d">%s</svg>`, loginWidth, loginHeight, fill.image("", loginWidth, loginHeight))
	}
	const x, y, w, h = 200, 86, 240, 214
	c.printf(`<rect x="%d" y="%d" width="%d" height="%d" rx="8" fill="%s" fill-opacity="0.86"/>`, x, y, w, h, panel)
	if person, ok := c.filling(look.Of(desk.FacetPerson, s.ID), 80, 80); look.Of(desk.FacetPerson, s.ID) != "" && ok {
		c.printf(`<clipPath id="person"><circle cx="%d" cy="%d" r="38"/></clipPath><g clip-path="url(#person)"><svg x="%d" y="%d" width="80" height="80">%s</svg></g>`, x+w/2, y+60, x+w/2-40, y+20, person.image("", 80, 80))
	} else {
		c.printf(`<circle cx="%d" cy="%d" r="38" fill="none" stroke="%[3]s" stroke-width="2"/><circle cx="%[1]d" cy="%[4]d" r="12" fill="%[3]s"/><path d="M%[5]d %[6]da22 18 0 0 1 44 0" fill="%[3]s"/>`, x+w/2, y+60, ink, y+50, x+w/2-22, y+82)
	}
	words := c.stage(s.ID)
	face := words.face(gtkcss.Font{Weight: 400})
	centred := func(text string, size, at float64) {
		line := face.Set(text, size)
		c.glyphs(face, line, size, x+w/2-line.Width/2, at, ink)
	}
	centred(path.Base(d.HomePath), 16, y+122)
	if look.Of(desk.FacetSignIn, s.ID) == desk.ByItself {
		centred("signs in by itself", 13, y+158)
	} else {
		c.printf(`<rect x="%d" y="%d" width="176" height="30" rx="4" fill="none" stroke="%[3]s"/><g fill="%[3]s"><circle cx="%[4]d" cy="%[5]d" r="3"/><circle cx="%[6]d" cy="%[5]d" r="3"/><circle cx="%[7]d" cy="%[5]d" r="3"/></g>`, x+32, y+138, ink, x+48, y+153, x+60, x+72)
	}
	if look.Of(desk.FacetNumLock, s.ID) == "on" {
		centred("number keys are on", 11, y+192)
	}
	if look.Of(desk.FacetPane, s.ID) != "hidden" {
		c.printf(`<rect y="%d" width="%d" height="32" fill="%s" fill-opacity="0.86"/>`, loginHeight-32, loginWidth, panel)
		session := face.Set("Session: "+look.Of(desk.FacetSession, s.ID), 13)
		c.glyphs(face, session, 13, 16, loginHeight-12, ink)
		language := face.Set("Language: English", 13)
		c.glyphs(face, language, 13, loginWidth-16-language.Width, loginHeight-12, ink)
	}
}

// loginDescription is the first key file of a folder that has a group for a login
// screen.
func loginDescription(fsys fs.FS, root string) *keyfile.File {
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
