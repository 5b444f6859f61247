package sign

import (
	"bytes"
	"context"
	_ "embed"
	"encoding/base64"
	"fmt"
	"image"
	"image/jpeg"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp"

	"ivelt/core/desk"
	"ivelt/core/fontfile"
	"ivelt/core/icontheme"
	"ivelt/core/imagefile"
	"ivelt/core/outfit"
	"ivelt/core/paint"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/regular"
	"ivelt/core/typeset"
)

// The size of a tag, px, as the icon tags have it.
const TagWidth, TagHeight = 384, 128

// head begins a tag.
var head = fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d" font-family="sans-serif" font-size="12">`, TagWidth, TagHeight, TagWidth, TagHeight)

// Piece draws a piece of a parcel on a tag, from its own files: icons, pointers with
// their motion, type in the font itself, a window under a theme's own
// style sheet, a backdrop made small, a palette's colours. Once ctx has ended nothing more
// is read, and what is drawn is of no use.
func Piece(ctx context.Context, fsys fs.FS, pc parcel.Piece) []byte {
	fsys = regular.Until(ctx, fsys)
	if pc.Kind == parcel.Icons && pc.Root != "." {
		x := icontheme.NewIndex(icontheme.Config{FS: fsys, Bases: []string{path.Dir(pc.Root)}, Theme: path.Base(pc.Root)})
		return Tag(ctx, fsys, x, 6, 2, 64, 48)
	}
	var b strings.Builder
	b.WriteString(head)
	drawn := false
	switch pc.Kind {
	case parcel.Pointer:
		drawn = pointerTag(&b, fsys, pc)
	case parcel.Font:
		drawn = fontTag(&b, fsys, pc)
	case parcel.Backdrop:
		drawn = backdropTag(ctx, &b, fsys, pc)
	case parcel.Theme:
		drawn = themeTag(ctx, &b, fsys, pc)
	case parcel.Login:
		drawn = loginTag(ctx, &b, fsys, pc)
	case parcel.Palette:
		drawn = paletteTag(&b, fsys, pc)
	case parcel.Style:
		drawn = styleTag(&b, fsys, pc)
	case parcel.Bundle:
		drawn = bundleTag(&b, fsys, pc)
	case parcel.Descriptor:
		drawn = descriptorTag(&b, fsys, pc)
	}
	if !drawn {
		fmt.Fprintf(&b, `<text x="%d" y="%d" text-anchor="middle" fill="#77787c">%s, %s</text>`, TagWidth/2, TagHeight/2+4, paint.Escape(string(pc.Kind.Title())), files(pc.Files))
	}
	b.WriteString("</svg>")
	return []byte(b.String())
}

func files(n int) string {
	if n == 1 {
		return "1 file"
	}
	return fmt.Sprint(n, " files")
}

// ground is what tags of words alone are written on: they are seen on light pages and on dark.
var ground = fmt.Sprintf(`<rect width="%d" height="%d" fill="#f4f2ec"/>`, TagWidth, TagHeight)

// bundleTag is the pieces that an outfit names, under its accent.
func bundleTag(b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	raw, err := fs.ReadFile(fsys, pc.Only[0])
	if err != nil {
		return false
	}
	o, err := outfit.Parse(raw)
	if err != nil {
		return false
	}
	accent := o.Want(desk.FacetAccent)
	if accent == "" {
		accent = "#77787c"
	}
	b.WriteString(ground)
	fmt.Fprintf(b, `<path d="M28 22v84" stroke="%s" stroke-width="4"/>`, paint.Escape(accent))
	y := 34
	for _, f := range desk.Facets {
		piece := o.Choices[f.Name].Piece
		if piece == "" || y > 110 {
			continue
		}
		fmt.Fprintf(b, `<circle cx="28" cy="%d" r="6" fill="%s"/><text x="46" y="%d" font-size="14" fill="#3a3d44">%s</text><text x="372" y="%d" text-anchor="end" fill="#77787c">%s</text>`, y-5, paint.Escape(accent), y, paint.Escape(preview.Shorten(piece, 24)), y, paint.Escape(string(f.Title)))
		y += 22
	}
	return y > 34
}

// descriptorTag is the program that is described, with what Ivelt learns of it: a full mark where
// it can be set, an open one where it is read alone.
func descriptorTag(b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	raw, err := fs.ReadFile(fsys, pc.Only[0])
	if err != nil {
		return false
	}
	s, err := desk.ParseSurface(raw)
	if err != nil || len(s.Facets) == 0 {
		return false
	}
	const most = 5
	const wide = 150 // of the name, and then marks and words
	shown, longest := s.Facets[:min(len(s.Facets), most)], 0
	for _, f := range shown {
		longest = max(longest, len(desk.FacetTitle(f.Name)))
	}
	x := max(12, (TagWidth-wide-52-7*min(longest, 22))/2)
	b.WriteString(ground)
	fmt.Fprintf(b, `<g transform="translate(%d 0)"><path d="M0 38h150M0 94h150" stroke="#77787c" stroke-width="1"/><text x="75" y="72" text-anchor="middle" font-size="19" fill="#3a3d44">%s</text>`, x, paint.Escape(preview.Shorten(s.Title, 15)))
	y := TagHeight/2 - 11*(len(shown)-1) + 4
	for i, f := range shown {
		fill := "none"
		if slices.ContainsFunc(f.Sources, func(src desk.Source) bool { return src.Write }) {
			fill = "#3f6b5c"
		}
		title := string(desk.FacetTitle(f.Name))
		if i == most-1 && len(s.Facets) > most {
			title, fill = fmt.Sprintf("and %d more", len(s.Facets)-most+1), "none"
		}
		fmt.Fprintf(b, `<circle cx="186" cy="%d" r="5" fill="%s" stroke="#3f6b5c" stroke-width="1.5"/><text x="202" y="%d" font-size="14" fill="#3a3d44">%s</text>`, y-5, fill, y, paint.Escape(preview.Shorten(title, 22)))
		y += 22
	}
	b.WriteString("</g>")
	return true
}

// Together draws pieces of a parcel side by side on one tag, each its left part.
func Together(ctx context.Context, fsys fs.FS, pieces []parcel.Piece) []byte {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d">`, TagWidth, TagHeight, TagWidth, TagHeight)
	w := TagWidth / len(pieces)
	for i, pc := range pieces {
		fmt.Fprintf(&b, `<svg x="%d" width="%d" height="%d" viewBox="0 0 %d %d"><image width="%d" height="%d" href="data:image/svg+xml;base64,%s"/></svg>`, i*w, w, TagHeight, w, TagHeight, TagWidth, TagHeight, base64.StdEncoding.EncodeToString(Piece(ctx, fsys, pc)))
	}
	b.WriteString("</svg>")
	return []byte(b.String())
}

// Picture is a picture of a piece in one state.
type Picture struct {
	State string // normal, real size, every shape, whole
	SVG   []byte
}

// Pictures draws a piece as one wants to see it before taking it: the tag, then
// pointers at their real size on light and dark ground and in every shape there is, or
// each picture of a backdrop whole, to be cropped to a monitor.
func Pictures(ctx context.Context, fsys fs.FS, pc parcel.Piece) []Picture {
	out := []Picture{{"normal", Piece(ctx, fsys, pc)}}
	switch pc.Kind {
	case parcel.Pointer:
		if svg := pointersAtSize(fsys, pc); svg != nil {
			out = append(out, Picture{"real size", svg})
		}
		if svg := everyPointer(ctx, fsys, pc); svg != nil {
			out = append(out, Picture{"every shape", svg})
		}
	case parcel.Backdrop:
		for i, name := range pc.Only[:min(len(pc.Only), maxWhole)] {
			state := "whole"
			if i > 0 {
				state = fmt.Sprint("whole ", i+1)
			}
			if svg := whole(ctx, fsys, name); svg != nil {
				out = append(out, Picture{state, svg})
			}
		}
	}
	return out
}

const (
	maxWhole   = 4
	wholeWidth = 960 // px
)

// whole draws one picture of a backdrop uncropped, made smaller.
func whole(ctx context.Context, fsys fs.FS, name string) []byte {
	info, err := fs.Stat(fsys, name)
	if err != nil || info.Size() > preview.MaxBackdrop {
		return nil
	}
	raw, err := fs.ReadFile(fsys, name)
	if err != nil {
		return nil
	}
	im, err := imagefile.Decode(ctx, raw)
	if err != nil {
		return nil
	}
	w, h := im.Bounds().Dx(), im.Bounds().Dy()
	if w > wholeWidth {
		w, h = wholeWidth, max(h*wholeWidth/w, 1)
	}
	small := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.ApproxBiLinear.Scale(small, small.Bounds(), im, im.Bounds(), draw.Src, nil)
	var b bytes.Buffer
	if err := jpeg.Encode(&b, small, &jpeg.Options{Quality: 85}); err != nil {
		return nil
	}
	return fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d"><image width="%d" height="%d" href="data:image/jpeg;base64,%s"/></svg>`,
		w, h, w, h, w, h, base64.StdEncoding.EncodeToString(b.Bytes()))
}

// maxFont bounds a font that is read for a tag, in bytes.
const maxFont = 3 << 20

func fontTag(b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	if len(pc.Only) == 0 {
		return false
	}
	pick := pc.Only[0]
	for _, name := range pc.Only {
		raw, err := fs.ReadFile(fsys, name)
		if err != nil {
			continue
		}
		if faces, err := fontfile.Parse(raw); err == nil && faces[0].Weight == 400 && !faces[0].Italic && !faces[0].Oblique {
			pick = name
			break
		}
	}
	raw, err := fs.ReadFile(fsys, pick)
	if err != nil || len(raw) > maxFont {
		return false
	}
	face, err := typeset.Load(raw, 0)
	if err != nil {
		return false
	}
	fmt.Fprintf(b, `<rect width="%d" height="%d" fill="#fbfaf6"/>`, TagWidth, TagHeight)
	drawn := set(b, face, preview.Shorten(pc.Name, 17), 38, 48)
	set(b, face, "Salt wind over the pier, 06:40", 17, 80)
	set(b, face, "abcdefghijklmnopqrstuvwxyz 0123456789 Ilo0O", 13, 106)
	return drawn
}

// set draws a line of a tag in a face, as outlines: with the font itself in each of many tags
// a page would be long in coming. It reports whether the face has any of its glyphs.
func set(b *strings.Builder, face *typeset.Face, text string, size, y float64) (drawn bool) {
	line := face.Set(text, size)
	k := size / face.Upem() * min(1, (TagWidth-32)/max(line.Width, 1))
	b.WriteString(`<g fill="#33363d">`)
	for _, g := range line.Glyphs {
		if d := face.Outline(g.ID); d != "" {
			fmt.Fprintf(b, `<path transform="matrix(%.5g 0 0 %.5g %s %s)" d="%s"/>`, k, -k, paint.Number(16+g.X*k*face.Upem()/size), paint.Number(y+g.Y), d)
			drawn = true
		}
	}
	b.WriteString(`</g>`)
	return drawn
}

func backdropTag(ctx context.Context, b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	n := min(len(pc.Only), 3)
	for i, name := range pc.Only[:n] {
		info, err := fs.Stat(fsys, name)
		if err != nil || info.Size() > preview.MaxBackdrop {
			return false
		}
		raw, err := fs.ReadFile(fsys, name)
		w := TagWidth / n
		f := preview.Fitted(ctx, raw, w, TagHeight)
		if err != nil || f.URI == "" {
			return false
		}
		fmt.Fprintf(b, `<svg x="%d" width="%d" height="%d">%s</svg>`, i*w, w, TagHeight, f.Image("", float64(w), TagHeight))
	}
	return n > 0
}

var paletteLine = regexp.MustCompile(`(?m)^[^!\n]*[*.](color\d{1,2}|background|foreground)\s*:\s*(#[0-9a-fA-F]{3,8})`)

func paletteTag(b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	raw, err := fs.ReadFile(fsys, pc.Only[0])
	if err != nil {
		return false
	}
	colours := map[string]string{"background": "#111111"}
	for _, m := range paletteLine.FindAllStringSubmatch(string(raw), -1) {
		colours[m[1]] = m[2]
	}
	fmt.Fprintf(b, `<rect width="%d" height="%d" fill="%s"/>`, TagWidth, TagHeight, paint.Escape(colours["background"]))
	for i := range 16 {
		if c, ok := colours[fmt.Sprint("color", i)]; ok {
			fmt.Fprintf(b, `<rect x="%d" y="%d" width="36" height="36" rx="3" fill="%s"/>`, 16+i%8*45, 22+i/8*46, paint.Escape(c))
		}
	}
	return true
}

func styleTag(b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	for _, name := range pc.Only {
		if uri, ok := paint.DataURI(fsys, name); ok {
			fmt.Fprintf(b, `<image x="8" y="8" width="%d" height="%d" href="%s"/>`, TagWidth-16, TagHeight-16, uri)
			return true
		}
	}
	return false
}
