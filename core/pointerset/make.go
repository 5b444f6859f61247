package pointerset

import (
	"bytes"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/curfile"
	"ivelt/core/keyfile"
	"ivelt/core/licence"
	"ivelt/core/say"
	"ivelt/core/xcursor"
)

// Original is the folder of a set for X in which the files lie that it was made from.
const Original = "original"

// Entries are the files of a set as it is made, with what people and programs call it. A set for
// X has its shapes under all names that programs ask for, a description, and the files that it
// was made from; one of the other family a file for each pointer. Texts that go with a set, such
// as its licence, are copied.
func (s *Set) Entries(name string) ([]Entry, error) {
	var out []Entry
	for _, text := range s.texts() {
		out = append(out, Entry{Name: text, Copy: path.Join(s.root, text)})
	}
	if s.As == Cur {
		for _, p := range s.Pointers {
			ext := ".cur"
			if p.Steps > 1 {
				ext = ".ani"
			}
			out = append(out, Entry{Name: p.Role.File + ext, Make: func() ([]byte, error) { return p.cur(name) }})
		}
		return sorted(out), nil
	}
	index, err := keyfile.Parse([]byte("[Icon Theme]\n"))
	if err != nil {
		return nil, err
	}
	index.Set("Icon Theme", "Name", name)
	index.Set("Icon Theme", "Comment", "Pointers made from .cur and .ani files")
	text := index.Bytes()
	out = append(out, Entry{Name: "index.theme", Size: int64(len(text)), Make: func() ([]byte, error) { return text, nil }})
	have := map[string]bool{}
	for _, p := range s.Pointers {
		have[p.Role.Name] = true
		out = append(out, Entry{Name: shape(p.Role.Names[0]), Size: p.bytes, Make: p.xcursor})
		for _, n := range p.Role.Names[1:] {
			out = append(out, Entry{Name: shape(n), Link: p.Role.Names[0]})
		}
	}
	for _, r := range Roles {
		if lender := RoleOf(r.Lent); !have[r.Name] && lender != nil && have[lender.Name] {
			for _, n := range r.Names {
				out = append(out, Entry{Name: shape(n), Link: lender.Names[0]})
			}
		}
	}
	originals, err := s.originals()
	return sorted(append(out, originals...)), err
}

func shape(name string) string { return path.Join("cursors", name) }

func sorted(out []Entry) []Entry {
	slices.SortFunc(out, func(a, b Entry) int { return strings.Compare(a.Name, b.Name) })
	return out
}

// maxTexts is how many texts go with a set, and how large each may be.
const (
	maxTexts = 20
	maxText  = 1 << 20 // bytes
)

// texts are the files beside the pointers that go with them: who made them, and on what terms.
func (s *Set) texts() (out []string) {
	for _, name := range s.Others {
		info, err := fs.Stat(s.fsys, path.Join(s.root, name))
		if is := licence.IsFile(name) || strings.EqualFold(name, "AUTHORS"); is && err == nil && info.Mode().IsRegular() && info.Size() <= maxText && len(out) < maxTexts {
			out = append(out, name)
		}
	}
	return out
}

// originals are the files that a set for X is made from, with the texts beside them.
func (s *Set) originals() ([]Entry, error) {
	list, err := fs.ReadDir(s.fsys, s.root)
	if err != nil {
		return nil, err
	}
	var out []Entry
	for _, e := range list {
		at := path.Join(s.root, e.Name())
		if info, err := fs.Stat(s.fsys, at); err == nil && info.Mode().IsRegular() && (IsFile(e.Name()) || info.Size() <= maxText) && len(out) < 2*maxShapes {
			out = append(out, Entry{Name: path.Join(Original, e.Name()), Size: info.Size(), Copy: at})
		}
	}
	return out, nil
}

// grid is the pictures of a pointer, by size and step, of no more than some steps.
func (p *Pointer) grid(most int) (*moving, [][]cell, error) {
	m, err := p.open()
	if err != nil {
		return nil, nil, say.Errorf("%s: %w", p.File, err)
	}
	m.steps = m.steps[:min(most, len(m.steps))]
	out := make([][]cell, len(p.sizes))
	for i := range out {
		out[i] = make([]cell, len(m.steps))
	}
	first := map[int]int{} // the step that a picture comes in first
	for step := range m.steps {
		if before, again := first[m.frame[step]]; again {
			for i := range out {
				out[i][step] = out[i][before]
			}
			continue
		}
		first[m.frame[step]] = step
		last, from := cell{}, 0 // the one that others are made from
		for i, size := range slices.Backward(p.sizes) {
			of := size
			if !m.own(size) {
				of = nearest(m.sizes, size)
			}
			if of != from {
				if last, err = m.cell(step, of); err != nil {
					return nil, nil, say.Errorf("%s: %w", p.File, err)
				}
				from = of
			}
			out[i][step] = last
			if of != size {
				out[i][step] = last.scaled(of, size)
			}
		}
	}
	return m, out, nil
}

// xcursor is the pointer as a file for X.
func (p *Pointer) xcursor() ([]byte, error) {
	m, grid, err := p.grid(p.Steps)
	if err != nil {
		return nil, err
	}
	return xcursor.Encode(p.frames(m, grid)), nil
}

func (p *Pointer) frames(m *moving, grid [][]cell) (frames []xcursor.Frame) {
	for i, size := range p.sizes {
		for step, c := range grid[i] {
			f := xcursor.Frame{Size: size, Picture: c.RGBA, HotX: c.hot.X, HotY: c.hot.Y}
			if len(m.steps) > 1 {
				f.Delay = int(m.steps[step].Milliseconds())
			}
			frames = append(frames, f)
		}
	}
	return frames
}

// cur is the pointer as a .cur, or an .ani if it moves. Pictures that come again are written once.
func (p *Pointer) cur(set string) ([]byte, error) {
	m, grid, err := p.grid(p.Steps)
	if err != nil {
		return nil, err
	}
	var files [][]byte
	var steps []curfile.Step
	times := jiffies(m.steps)
	for step := range m.steps {
		var list []curfile.Picture
		for i := range p.sizes {
			c := grid[i][step]
			list = append(list, curfile.Picture{NRGBA: straight(c.RGBA), HotX: c.hot.X, HotY: c.hot.Y})
		}
		b, err := curfile.Encode(true, list)
		if err != nil {
			return nil, say.Errorf("%s: %w", p.File, err)
		}
		at := slices.IndexFunc(files, func(f []byte) bool { return bytes.Equal(f, b) })
		if at < 0 {
			at, files = len(files), append(files, b)
		}
		steps = append(steps, curfile.Step{Frame: at, Jiffies: times[step]})
	}
	if len(m.steps) == 1 {
		return files[0], nil
	}
	return curfile.EncodeAnimation(files, steps, set, "")
}

// Shown are the pictures of a pointer as it is made, in all sizes: of each the first steps, no
// more than some, so that a page can play them.
func (p *Pointer) Shown(most int) ([]xcursor.Frame, error) {
	m, grid, err := p.grid(most)
	if err != nil {
		return nil, err
	}
	return p.frames(m, grid), nil
}
