package preview

import (
	"fmt"
	"strconv"
	"strings"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/paint"
	"ivelt/core/recolour"
	"ivelt/core/svgraster"
)

// pictureFile is a picture that a sheet or a pack names, ready to be embedded.
type pictureFile struct {
	stamp, address string
	w, h           float64
}

// ofForm is the key of a picture in a form.
type ofForm struct {
	file string
	form paint.Form
	dye  string // what the look's layer makes of the theme's accent
}

// picture is one that the theme's sheet names: a file, one in the bundle beside the
// sheet, or one that is written out in the sheet itself.
func (s *Stage) picture(file string, form paint.Form) (address string, w, h float64, ok bool) {
	if !strings.Contains(file, ":") {
		return s.filePicture(file, form)
	}
	key := ofForm{file: file, form: form}
	known, is := s.pictures[key]
	if !is {
		if strings.HasPrefix(file, "data:") {
			if len(file) <= 2*paint.MaxIcon {
				known = embedded("", svgraster.Written(file), form)
			}
		} else if s.files != nil {
			b, _ := s.files(file)
			known = embedded(file, b, form)
		}
		if s.pictures == nil {
			s.pictures = map[ofForm]pictureFile{}
		}
		s.pictures[key] = known
	}
	return known.address, known.w, known.h, known.address != ""
}

// embedded is a picture as an address, nothing for what is none or costs too much.
func embedded(name string, b []byte, form paint.Form) pictureFile {
	if form.Tints {
		colour := paint.Tinted
		if strings.HasSuffix(name, ".symbolic.png") {
			colour = paint.TintedPNG
		}
		if tinted, ok := colour(b, form.Tint); ok {
			b = tinted
		}
	}
	if form.Edged {
		if edged, ok := paint.Edged(b); ok {
			b = edged
		}
	}
	address, ok := paint.Data(b)
	if !ok {
		return pictureFile{}
	}
	w, h := imagefile.Size(b)
	if w <= 0 || h <= 0 {
		w, h = 16, 16
	}
	return pictureFile{address: address, w: w, h: h}
}

// filePicture is a picture of the desk in a form, read anew only if it changed.
func (c *Canvas) filePicture(name string, form paint.Form) (address string, w, h float64, ok bool) {
	info, err := c.tree.Stat(name)
	if err != nil {
		return "", 0, 0, false
	}
	stamp := strconv.FormatInt(info.Size(), 10) + " " + strconv.FormatInt(info.ModTime().UnixNano(), 10)
	key := ofForm{file: c.D.HostPath(desk.Path(name)), form: form}
	dye, dyed := recolour.Dye{}, false
	if l := c.look.Layer; l != nil && strings.Contains(name, "/"+l.Base.Folder+"/") {
		if dye, dyed = l.Accent(); dyed {
			key.dye = fmt.Sprint(dye)
		}
	}
	holds := func(known pictureFile) bool { return known.stamp == stamp }
	p := cache.Of(c.D.Cache, key, holds, func() cache.Made[pictureFile] {
		b, _ := paint.Read(c.tree, name)
		if dyed {
			if made, changed, err := recolour.New(dye).Picture(c.look.ctx, b); err == nil && changed {
				b = made
			}
		}
		f := embedded(name, b, form)
		f.stamp = stamp
		return cache.Made[pictureFile]{Value: f, Bytes: len(name) + len(f.address)}
	})
	return p.address, p.w, p.h, p.address != ""
}

// DataURI is a picture of the desk as an address.
func (c *Canvas) DataURI(name string) (string, bool) {
	address, _, _, ok := c.filePicture(name, paint.Form{})
	return address, ok
}
