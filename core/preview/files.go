package preview

import (
	"encoding/base64"
	"net/url"
	"strconv"
	"strings"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/paint"
)

// pictureFile is a picture that a sheet or a pack names, ready to be embedded.
type pictureFile struct {
	stamp, address string
	w, h           float64
}

// ofTinted is the key of a picture in a tint.
type ofTinted struct {
	file string
	tint paint.Tint
}

// picture is one that the theme's sheet names: a file, one in the bundle beside the
// sheet, or one that is written out in the sheet itself.
func (s *Stage) picture(file string, tint *paint.Tint) (address string, w, h float64, ok bool) {
	if !strings.Contains(file, ":") {
		return s.filePicture(file, tint)
	}
	key := ofTinted{file: file}
	if tint != nil {
		key.tint = *tint
	}
	known, is := s.pictures[key]
	if !is {
		if data, inside := strings.CutPrefix(file, "data:"); inside {
			known = embedded("", written(data), tint)
		} else if s.files != nil {
			b, _ := s.files(file)
			known = embedded(file, b, tint)
		}
		if s.pictures == nil {
			s.pictures = map[ofTinted]pictureFile{}
		}
		s.pictures[key] = known
	}
	return known.address, known.w, known.h, known.address != ""
}

// written is what stands in an address of the form data:…, nil for what is none.
func written(data string) []byte {
	head, body, ok := strings.Cut(data, ",")
	if !ok || len(body) > 2*paint.MaxIcon {
		return nil
	}
	if strings.HasSuffix(head, ";base64") {
		b, err := base64.StdEncoding.DecodeString(strings.Join(strings.Fields(body), ""))
		if err != nil {
			return nil
		}
		return b
	}
	plain, err := url.PathUnescape(body)
	if err != nil {
		return nil
	}
	return []byte(plain)
}

// embedded is a picture as an address, nothing for what is none or costs too much.
func embedded(name string, b []byte, tint *paint.Tint) pictureFile {
	if tint != nil {
		colour := paint.Tinted
		if strings.HasSuffix(name, ".symbolic.png") {
			colour = paint.TintedPNG
		}
		if tinted, ok := colour(b, *tint); ok {
			b = tinted
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

// filePicture is a picture of the desk in a tint, read anew only if it changed.
func (c *Canvas) filePicture(name string, tint *paint.Tint) (address string, w, h float64, ok bool) {
	info, err := c.tree.Stat(name)
	if err != nil {
		return "", 0, 0, false
	}
	stamp := strconv.FormatInt(info.Size(), 10) + " " + strconv.FormatInt(info.ModTime().UnixNano(), 10)
	key := ofTinted{file: c.D.HostPath(desk.Path(name))}
	if tint != nil {
		key.tint = *tint
	}
	holds := func(known pictureFile) bool { return known.stamp == stamp }
	p := cache.Of(c.D.Cache, key, holds, func() cache.Made[pictureFile] {
		b, _ := paint.Read(c.tree, name)
		f := embedded(name, b, tint)
		f.stamp = stamp
		return cache.Made[pictureFile]{Value: f, Bytes: len(name) + len(f.address)}
	})
	return p.address, p.w, p.h, p.address != ""
}
