package planning

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"

	xdraw "golang.org/x/image/draw"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/keyfile"
	"ivelt/core/plan"
	"ivelt/core/pointerset"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// makePointers converts a pointer set to one of .cur and .ani files with a list of them.
func (b *builder) makePointers(s desk.Surface, f desk.Facet, name string, from reading.MadeFrom) error {
	stamp := b.stampOf(path.Join(from.Folder, "cursors"))
	made := cache.Of(b.seen.Cache, ofPointers{b.seen.Where(), from.Folder, name, f.Lookup.File}, func(known madeFiles) bool { return known.stamp == stamp }, func() cache.Made[madeFiles] {
		files, err := b.converted(f, name, from)
		size := 0
		for _, content := range files {
			size += len(content)
		}
		return cache.Made[madeFiles]{Value: madeFiles{stamp, files, err}, Bytes: size, Brief: err != nil}
	})
	if made.err != nil {
		return made.err
	}
	files := made.files
	folder := path.Join(b.seen.First(f.Lookup.Folders[0]), name)
	why := say.Of("plan/make-pointers", name, b.d.Show(from.Folder))
	for _, at := range slices.Sorted(maps.Keys(files)) {
		if err := b.edit(path.Join(folder, at), s, f, why, plan.EffectOf(s.Restart), func([]byte) []byte { return files[at] }); err != nil {
			return err
		}
	}
	return nil
}

// ofPointers and ofPicture are the keys of what was made before: plans are made anew for each page.
type (
	ofPointers struct{ where, folder, name, list string }
	ofPicture  struct {
		where, file string
		size        int
	}
)

// madeFiles are files that were made of something that had a stamp then.
type madeFiles struct {
	stamp string
	files map[string][]byte
	err   error
}

// stampOf tells a folder's files, or a file, from how they were.
func (b *builder) stampOf(at string) string {
	names := []string{desk.Name(at)}
	if entries, err := fs.ReadDir(b.seen.Tree(), desk.Name(at)); err == nil {
		for _, e := range entries {
			names = append(names, path.Join(desk.Name(at), e.Name()))
		}
	}
	var out strings.Builder
	for _, name := range names {
		if info, err := fs.Stat(b.seen.Tree(), name); err == nil {
			fmt.Fprintln(&out, name, info.Size(), info.ModTime().UnixNano())
		}
	}
	return out.String()
}

// converted are the files of a pointer set for such a system, with the list of them.
func (b *builder) converted(f desk.Facet, name string, from reading.MadeFrom) (map[string][]byte, error) {
	set, err := pointerset.Convert(b.ctx, b.seen.Tree(), desk.Name(from.Folder), pointerset.Options{As: pointerset.Cur})
	if err != nil {
		return nil, err
	}
	entries, err := set.Entries(name)
	if err != nil {
		return nil, err
	}
	files, list := map[string][]byte{}, &keyfile.File{}
	for _, e := range entries {
		if e.Make == nil {
			continue
		}
		if err := b.ctx.Err(); err != nil {
			return nil, err
		}
		if files[e.Name], err = set.Bytes(e); err != nil {
			return nil, err
		}
	}
	for _, p := range set.Pointers {
		for _, ext := range []string{".cur", ".ani"} {
			if at := p.Role.File + ext; files[at] != nil {
				list.Set("Pointers", p.Role.Name, at)
			}
		}
	}
	files[f.Lookup.File] = list.Bytes()
	return files, nil
}

// makePlaces gives each folder and volume the icon that a pack has for it, as a picture, and lets
// the system look at them anew. With the facet's default they have their usual ones.
func (b *builder) makePlaces(s desk.Surface, f desk.Facet, want string) error {
	all := reading.PlacesOf(b.seen, f)
	icons := reading.Icons(b.seen, f.Packs(), want)
	folder := path.Join(b.seen.First(f.Places.Made), want)
	pictures, told := map[string][]byte{}, map[string]string{}
	for _, p := range all {
		if want == f.Default {
			continue
		}
		icon, _, ok := icons.LookupBest(reading.IconNames(p.Icon), f.Places.Size, 1)
		if !ok {
			continue // it keeps its usual one
		}
		at := path.Join(folder, p.Icon+".png")
		if pictures[at] == nil {
			picture, err := b.picture(icon.Path, f.Places.Size)
			if err := b.ctx.Err(); err != nil {
				return err
			}
			if err != nil {
				continue // one that cannot be shown: the place keeps its usual one
			}
			pictures[at] = picture
		}
		told[p.Group+"\x00"+p.Name] = at
	}
	for _, at := range slices.Sorted(maps.Keys(pictures)) {
		if err := b.edit(at, s, f, say.Of("plan/make-place-picture", want), plan.EffectOf(s.Restart), func([]byte) []byte { return pictures[at] }); err != nil {
			return err
		}
	}
	err := b.editKeys(b.seen.First(f.Places.File), s, f, say.Of("plan/tell-places", len(told), want), func(kf *keyfile.File) {
		for _, p := range all {
			if at := told[p.Group+"\x00"+p.Name]; at != "" {
				kf.Set(p.Group, p.Name, at)
			} else if p.Told != "" {
				kf.Remove(p.Group, p.Name)
			}
		}
	})
	if err != nil {
		return err
	}
	return b.forgetKept(s, f, func(p reading.IconPlace) bool { return p.Told != told[p.Group+"\x00"+p.Name] || p.Old() })
}

// setPlaces makes folders and volumes show the icons of a pack.
func (b *builder) setPlaces(s desk.Surface, f desk.Facet, want string) error {
	if want != f.Default {
		if _, err := reading.Makes(b.seen, f, want); err != nil {
			b.block(blocked(s, f.Name, say.Of("plan/would-not-find", s.Named(), want, err), say.Of("plan/install-first-or-choose-another")))
			return nil
		}
	}
	r := reading.Told(b.d, s, f)
	if r.Value == want && len(r.Singles) == 0 && r.Problem == nil {
		return nil
	}
	return b.makePlaces(s, f, want)
}

// forgetKept lets the system look anew at the pictures of some places.
func (b *builder) forgetKept(s desk.Surface, f desk.Facet, of func(p reading.IconPlace) bool) error {
	kept := f.Places.Kept
	if !b.d.Exists(b.d.First(kept.Path)) {
		return nil
	}
	return b.editKeys(b.d.First(kept.Path), s, f, say.Of("plan/forget-kept-pictures", s.Named()), func(kf *keyfile.File) {
		for _, p := range reading.PlacesOf(b.d, f) {
			if p.Kept != "" && of(p) {
				kf.Remove(kept.Group, p.Name)
			}
		}
	})
}

// editKeys edits a key file, if it can be read as one.
func (b *builder) editKeys(at string, s desk.Surface, f desk.Facet, why say.Message, change func(kf *keyfile.File)) error {
	if now, err := b.d.Tree().ReadSettings(desk.Name(at)); err == nil {
		kf, err := keyfile.Parse(now)
		if err != nil {
			return err
		}
		if change(kf); bytes.Equal(kf.Bytes(), now) {
			return nil
		}
	} else {
		kf := &keyfile.File{}
		if change(kf); len(kf.Bytes()) == 0 {
			return nil
		}
	}
	return b.edit(at, s, f, why, plan.EffectOf(s.Restart), func(old []byte) []byte {
		kf, err := keyfile.Parse(old)
		if err != nil {
			return old
		}
		change(kf)
		return kf.Bytes()
	})
}

// picture is an icon of the desk as a PNG of a size, px.
func (b *builder) picture(file string, size int) ([]byte, error) {
	stamp := b.stampOf(file)
	made := cache.Of(b.seen.Cache, ofPicture{b.seen.Where(), file, size}, func(known madeFiles) bool { return known.stamp == stamp }, func() cache.Made[madeFiles] {
		picture, err := b.drawn(file, size)
		return cache.Made[madeFiles]{Value: madeFiles{stamp, map[string][]byte{file: picture}, err}, Bytes: len(picture), Brief: err != nil}
	})
	return made.files[file], made.err
}

func (b *builder) drawn(file string, size int) ([]byte, error) {
	raw, err := b.seen.Tree().ReadFile(desk.Name(file))
	if err != nil {
		return nil, err
	}
	im := imagefile.Raster(b.ctx, raw, size)
	if im == nil {
		if err := b.ctx.Err(); err != nil {
			return nil, err
		}
		return nil, imagefile.Readable(raw)
	}
	out := image.NewNRGBA(image.Rect(0, 0, size, size))
	at := im.Bounds()
	w, h := size, size
	if at.Dx() > at.Dy() {
		h = max(1, size*at.Dy()/at.Dx())
	} else if at.Dy() > at.Dx() {
		w = max(1, size*at.Dx()/at.Dy())
	}
	to := image.Rect((size-w)/2, (size-h)/2, (size-w)/2+w, (size-h)/2+h)
	if at.Size() == to.Size() {
		draw.Draw(out, to, im, at.Min, draw.Src)
	} else {
		xdraw.CatmullRom.Scale(out, to, im, at, draw.Src, nil)
	}
	var buf bytes.Buffer
	err = png.Encode(&buf, out)
	return buf.Bytes(), err
}

// forget plans to let the system look anew at all pictures that it has kept and is told otherwise.
func forget(d *desk.Desk, s desk.Surface, f desk.Facet) (plan.Plan, error) {
	if f.Places == nil {
		return plan.Plan{}, ErrNoFix
	}
	out := plan.Plan{Title: "Let " + s.Title + " be looked at anew"}
	b := builder{d: d, seen: d, plan: &out, made: map[string]bool{}}
	err := b.forgetKept(s, f, func(p reading.IconPlace) bool { return p.Old() })
	return out.Seal(d), err
}
