package layer

import (
	"cmp"
	"context"
	"fmt"
	"io/fs"
	"maps"
	"math"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/colour"
	"ivelt/core/gtkcss"
	"ivelt/core/recolour"
)

// moving is the recipe with the accent that it moves.
func (b *laid) moving(ctx context.Context, r Recipe) (Recipe, error) {
	r.Moves = slices.Clone(r.Moves)
	for i, move := range r.Moves {
		if move.Of == MoveAccent && move.From == "" {
			from, err := b.accent(ctx)
			if err != nil {
				return r, err
			}
			r.Moves[i].From = from
		}
	}
	return r, nil
}

// moveKey tells fits of moves.
const moveKey = "move"

// ofMoves are how the moves of a recipe fit the base: how many values each changes.
func (b *laid) ofMoves(ctx context.Context, r Recipe, told *says) (out []Fit, err error) {
	if len(r.Moves) == 0 {
		return nil, nil
	}
	accent, err := b.accent(ctx)
	if err != nil {
		return nil, err
	}
	if r, err = b.moving(ctx, r); err != nil {
		return nil, err
	}
	pictures := 0
	for _, e := range b.files {
		if pictured[path.Ext(e.Name)] && !e.Mode.IsDir() {
			pictures++
		}
	}
	changed := make([]int, len(r.Moves))
	for _, sheet := range told.ordering {
		if sheet == resourceFile {
			continue
		}
		s, err := b.sheet(ctx, sheet)
		if err != nil {
			return nil, err
		}
		texts, err := b.texted(ctx, sheet)
		if err != nil {
			return nil, err
		}
		m := r.mover(s)
		m.first(sheet)
		for _, text := range texts {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			m.sheet(text)
		}
		for k, n := range m.changed {
			changed[k] += n
		}
	}
	for k, move := range r.Moves {
		of, _ := move.info()
		f := Fit{Change: of.Title, Key: moveKey, State: Fits, Sets: move.To, Now: strconv.Itoa(changed[k])}
		if move.Of == MoveShade {
			f.Was, f.Now = f.Now, strconv.Itoa(pictures)
		}
		if move.Of == MoveAccent {
			f.Was, f.Now = move.Was, accent
		}
		switch {
		case changed[k] == 0:
			f.State = Gone
		case move.Of == MoveAccent && f.Was != "" && f.Was != f.Now:
			f.State = Moved
		}
		out = append(out, f)
	}
	return out, nil
}

// moved gives the sheets, resource files and pictures of a piece what the moves make of them.
func (b *laid) moved(ctx context.Context, r Recipe, told *says, out made) error {
	if len(r.Moves) == 0 {
		return nil
	}
	sheets := slices.DeleteFunc(slices.Clone(told.ordering), func(name string) bool { return name == resourceFile })
	slices.SortStableFunc(sheets, func(a, b string) int { return cmp.Compare(darkLast(a), darkLast(b)) })
	taken := map[string]bool{} // sheets that others take in too
	shade := ""
	for _, sheet := range sheets {
		s, err := b.sheet(ctx, sheet)
		if err != nil {
			return err
		}
		texts, err := b.texted(ctx, sheet)
		if err != nil {
			return err
		}
		shade = cmp.Or(shade, shadeOf(s))
		b.movedSheet(r.mover(s), sheet, texts, taken, out)
	}
	for name := range b.resources() {
		if e, has := out.of[name]; has && e.Mode.IsRegular() {
			text := e.Text
			if e.From != "" {
				var err error
				if text, err = fs.ReadFile(b.tree, e.From); err != nil {
					return err
				}
			}
			out.of[name] = Entry{Name: name, Mode: e.Mode, Text: r.movedResources(shade, text)}
		}
	}
	d, ok := r.Accent()
	if !ok {
		return nil
	}
	var pictures []Entry
	for _, e := range b.files {
		if e.From != "" && pictured[path.Ext(e.Name)] {
			pictures = append(pictures, e)
		}
	}
	fresh, err := b.recoloured(ctx, d, pictures, out)
	maps.Copy(out.of, fresh)
	return err
}

var pictured = map[string]bool{".png": true, ".svg": true, ".xpm": true, ".svgz": true}

// movedSheet writes one sheet anew with all that it takes in. What comes from a bundle of
// resources is written beside it, and taken in from there.
func (b *laid) movedSheet(m *mover, sheet string, texts map[string][]byte, taken map[string]bool, out made) {
	beside := map[string]string{} // the new names of resources
	names := slices.Sorted(maps.Keys(texts))
	for _, name := range names {
		if at, ok := strings.CutPrefix(name, "resource://"); ok && !taken[name] {
			beside[at] = out.free(path.Join(path.Dir(sheet), strings.ReplaceAll(strings.Trim(at, "/"), "/", "-")))
			out.of[beside[at]] = Entry{Name: beside[at]} // it is taken
		}
	}
	for _, name := range names {
		at, resource := strings.CutPrefix(name, "resource://")
		if e, has := out.of[name]; taken[name] || !resource && (!has || !e.Mode.IsRegular()) {
			continue // done with another sheet, or not in the theme
		}
		taken[name] = true
		text := gtkcss.Addresses(m.sheet(texts[name]), func(address string, imports bool) string {
			to := address
			if strings.Contains(address, "://") || !resource {
				to = strings.TrimPrefix(address, "resource://")
			} else {
				to = path.Join(path.Dir(at), address)
			}
			if file, ok := beside[to]; ok && imports && (resource || strings.HasPrefix(address, "resource://")) {
				return path.Base(file)
			}
			if resource && !strings.Contains(address, "://") && !strings.HasPrefix(address, "data:") {
				return "resource://" + to
			}
			return address
		})
		as := name
		if resource {
			as = beside[at]
		}
		if name == sheet {
			text = append([]byte(m.first(sheet)), text...)
		}
		out.of[as] = Entry{Name: as, Mode: 0o644, Text: text}
	}
}

// movedResources is GTK 2's file as the moves make it: sizes of letters, thickness of frames,
// and colours that are written out.
func (r Recipe) movedResources(shade string, text []byte) []byte {
	for _, move := range r.Moves {
		factor, _ := move.factor()
		switch move.Of {
		case MoveText:
			text = letters.ReplaceAllFunc(text, func(of []byte) []byte {
				in := letters.FindSubmatch(of)
				n, err := strconv.ParseFloat(string(in[2]), 64)
				if err != nil {
					return of
				}
				return fmt.Appendf(nil, "%s%g\"", in[1], math.Round(n*factor*100)/100)
			})
		case MoveFamily:
			text = lettered.ReplaceAllFunc(text, func(of []byte) []byte {
				in := lettered.FindSubmatch(of)
				if oneWidth.Match(in[2]) {
					return of
				}
				return fmt.Appendf(nil, "%s%s%s%s", in[1], move.To, styleWords.Find(in[2]), in[3])
			})
		case MoveSpace:
			text = thickness.ReplaceAllFunc(text, func(of []byte) []byte {
				in := thickness.FindSubmatch(of)
				n, err := strconv.ParseFloat(string(in[2]), 64)
				if err != nil {
					return of
				}
				return fmt.Appendf(nil, "%s%g", in[1], scaled(MoveSpace, n, "px", factor))
			})
		case MoveAccent, MoveShade:
			var d recolour.Turn = recolour.Shade{Dark: move.To == "dark"}
			if dye, ok := move.dye(); ok {
				d = dye
			} else if move.Of == MoveAccent || move.To == shade {
				continue
			}
			text = written.ReplaceAllFunc(text, func(of []byte) []byte {
				before, err := colour.Parse(string(of))
				if err != nil {
					return of
				}
				if after := d.Of(before); after != before {
					return []byte(after.Hex())
				}
				return of
			})
		}
	}
	return text
}

var (
	letters  = regexp.MustCompile(`(font_name\s*=\s*"[^"\n]*?)(\d+(?:\.\d+)?)"`)
	lettered = regexp.MustCompile(`(font_name\s*=\s*")([^"\n]*?)( ?\d*(?:\.\d+)?")`)
	// styleWords are those of a font's description that are none of its family (Pango, pango_font_description_from_string).
	styleWords = regexp.MustCompile(`(?i)( (thin|(ultra-|semi-|extra-)?(light|bold|condensed|expanded)|book|medium|heavy|black|italic|oblique|small-caps))+$`)

	thickness = regexp.MustCompile(`\b([xy]thickness\s*=\s*)(\d+)`)
	written   = regexp.MustCompile(`#[0-9a-fA-F]{6}\b`)
)
