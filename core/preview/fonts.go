package preview

import (
	"cmp"
	_ "embed"
	"fmt"
	"io/fs"
	"sync"

	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	_ "golang.org/x/image/webp"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/gtkcss"
	"ivelt/core/typeset"
)

var (
	fallback = sync.OnceValue(func() [2]*typeset.Face {
		plain, _ := typeset.Load(goregular.TTF, 0)
		bold, _ := typeset.Load(gobold.TTF, 0)
		return [2]*typeset.Face{plain, bold}
	})
)

// Face returns the face that comes nearest to a computed font. The surface's own
// font stands for families that are only names of kinds; what is not there at
// all is set in a face that Ivelt carries.
func (s *Stage) Face(f gtkcss.Font) *typeset.Face {
	families := f.Families
	if len(families) == 0 || len(families) == 1 && families[0] == "Sans" {
		families = []string{cmp.Or(s.family, "sans-serif")}
	}
	key := fmt.Sprint(families, f.Weight, f.Italic)
	if face, ok := s.faces[key]; ok {
		return face
	}
	found, ok := fontbook.Face{}, false
	for _, family := range families {
		if found, ok = s.fonts.Find(family, f.Weight, f.Italic); ok {
			break
		}
	}
	if !ok {
		found, ok = s.fonts.Instead(s.D, families[0], f.Weight, f.Italic)
	}
	if ok {
		if face := loadFace(s.D, found); face != nil {
			s.faces[key] = face
			return face
		}
		s.without(found.File, "a font that cannot be read; another one is shown in its stead")
	}
	face := fallback()[0]
	if f.Weight >= 600 {
		face = fallback()[1]
	}
	s.faces[key] = face
	return face
}

// Lettering is where short texts of a surface are set: in the font of one of its facets, with
// nothing of its theme.
func (c *Canvas) Lettering(surface, facet string) *Stage {
	s, _ := c.D.Surface(surface)
	return &Stage{Canvas: c, surface: surface, family: c.familyOf(c.look.Of(s.Called(facet), surface))}
}

// document is the font that pages of text are set in, and who tells programs so; the usual one
// where nobody does.
func (c *Canvas) document(usual gtkcss.Font) (f gtkcss.Font, surface string) {
	for _, s := range c.D.Surfaces() {
		setting := c.look.Of(desk.FacetFontDocument, s.ID)
		if _, size := desk.SplitFont(setting); setting != "" && size > 0 {
			family := c.familyOf(setting)
			if family == "Sans" { // in a style it is the surface's own font
				family = "sans-serif"
			}
			f = gtkcss.Font{Families: []string{family}, Size: size * 96 / 72, Weight: 400}
			if face, ok := c.fonts.Setting(setting); ok {
				f.Weight, f.Italic = float64(face.Weight), face.Italic
			}
			return f, s.ID
		}
	}
	return usual, ""
}

// familyOf is the family that a font setting names, without its style and size,
// whether it is there or not.
func (c *Canvas) familyOf(setting string) string {
	if face, ok := c.fonts.Setting(setting); ok {
		return face.Family()
	}
	family, _ := desk.SplitFont(setting)
	return family
}

func loadFace(d *desk.Desk, f fontbook.Face) *typeset.Face {
	info, err := fs.Stat(d.Tree(), f.File)
	if err != nil {
		return nil
	}
	key := ofFace{d.Where(), f.File, info.ModTime().String(), f.Index}
	return cache.Of(d.Cache, key, cache.Always[*typeset.Face], func() cache.Made[*typeset.Face] {
		var face *typeset.Face
		data, err := fs.ReadFile(d.Tree(), f.File)
		if err == nil {
			face, _ = typeset.Load(data, f.Index)
		}
		return cache.Made[*typeset.Face]{Value: face, Bytes: 2 * len(data)}
	})
}

// ofFace is the key of a face of a font.
type ofFace struct {
	where, file, date string
	index             int
}
