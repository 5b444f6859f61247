package layer

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"
	"time"

	"ivelt/core/pointerset"
	"ivelt/core/say"
	"ivelt/core/xcursor"
)

// Pointing changes one pointer of a set: it gets the picture of another, or another hot spot, or
// moves otherwise.
type Pointing struct {
	Name string `toml:"name"`           // as programs ask for it
	Like string `toml:"like,omitempty"` // the name whose picture it shows, if it has none of its own
	// Hot is where its hot spot is in what is drawn, in percent from the left and the top: "0 0"
	// for its upper left corner; the same in every size.
	Hot string `toml:"hot,omitempty"`
	// How it moves, see [pointerset.Motion].
	Without  []int `toml:"without,omitempty"`
	Back     bool  `toml:"back_and_forth,omitempty"`
	Pictures int   `toml:"pictures,omitempty"`
	Turn     int   `toml:"turn,omitempty"` // ms
}

// Every changes all pointers of a set.
type Every struct {
	Sizes    []int `toml:"sizes,omitempty"`     // px, made from the nearest where there is none
	LeftHand bool  `toml:"left_hand,omitempty"` // what points is mirrored
}

// pointerKey tells fits of changes to pointers.
const pointerKey = "pointer"

var (
	pointerName = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9._+-]{0,79}$`)
	hotAt       = regexp.MustCompile(`^(\d{1,3}(?:\.\d+)?) (\d{1,3}(?:\.\d+)?)$`)
)

// handed are the roles that are mirrored for the other hand: what points, and hands.
var handed = []string{"default", "help", "progress", "context-menu", "alias", "copy", "pointer", "pencil", "grab", "grabbing", "no-drop"}

func (c Pointing) valid() error {
	switch {
	case !pointerName.MatchString(c.Name):
		return say.Errorf("%q is no name of a pointer", c.Name)
	case (c.Like == "") == (c.Hot == "" && c.motion().None()):
		return say.Errorf("%s: it is like another, or has its hot spot elsewhere, or moves otherwise", c.Name)
	case c.Like != "" && (!pointerName.MatchString(c.Like) || c.Like == c.Name):
		return say.Errorf("%s: %q is no other pointer", c.Name, c.Like)
	}
	if err := c.motion().Valid(); err != nil {
		return say.Errorf("%s: %w", c.Name, err)
	}
	_, err := c.spot()
	return err
}

func (c Pointing) motion() pointerset.Motion {
	return pointerset.Motion{Without: c.Without, Back: c.Back, Pictures: c.Pictures, Turn: time.Duration(c.Turn) * time.Millisecond}
}

// sets is what it does, in words.
func (c Pointing) sets() string {
	if c.Like != "" {
		return "like " + c.Like
	}
	var out []string
	if c.Hot != "" {
		out = append(out, "hot spot at "+c.Hot+" %")
	}
	if len(c.Without) > 0 {
		out = append(out, "without its pictures "+strings.Trim(fmt.Sprint(c.Without), "[]"))
	}
	if c.Back {
		out = append(out, "back and forth")
	}
	if c.Pictures > 0 {
		out = append(out, fmt.Sprintf("%d pictures a turn", c.Pictures))
	}
	if c.Turn > 0 {
		out = append(out, fmt.Sprintf("a turn in %d ms", c.Turn))
	}
	return strings.Join(out, ", ")
}

// spot is where the hot spot goes, nil if it stays.
func (c Pointing) spot() (*pointerset.Spot, error) {
	if c.Hot == "" {
		return nil, nil
	}
	var x, y float64
	if !hotAt.MatchString(c.Hot) {
		return nil, say.Errorf("%s: hot is two numbers, percent of what is drawn, such as \"50 0\"", c.Name)
	}
	if _, err := fmt.Sscan(c.Hot, &x, &y); err != nil || x > 100 || y > 100 {
		return nil, say.Errorf("%s: hot is from 0 to 100 percent", c.Name)
	}
	return &pointerset.Spot{X: x / 100, Y: y / 100}, nil
}

func (c *Every) valid() error {
	if c == nil {
		return nil
	}
	if len(c.Sizes) == 0 && !c.LeftHand {
		return errors.New("every: it changes nothing")
	}
	return (pointerset.Options{Sizes: c.Sizes}).Valid()
}

// pointerFile is the file of a base that a name of a pointer leads to.
func pointerFile(at map[string]Entry, name string) (Entry, bool) {
	e, ok := follow(at, path.Join("cursors", name))
	return e, ok && e.From != ""
}

// ofPointers are the fits of changes to pointers.
func (b *laid) ofPointers(r Recipe) (out []Fit) {
	at := map[string]Entry{}
	for _, e := range b.files {
		at[e.Name] = e
	}
	for _, c := range r.Pointers {
		f := Fit{Change: c.Name, Key: pointerKey, State: Fits, Sets: c.sets()}
		if _, ok := pointerFile(at, cmp.Or(c.Like, c.Name)); !ok {
			f.State = Gone
		} else if c.Like != "" && b.draws(at, c) {
			f.State = Moved // the set draws it itself now
		}
		out = append(out, f)
	}
	return out
}

// draws reports whether the base has a picture of its own for a pointer that is to be like another:
// one that can be read and is not the same, once more.
func (b *laid) draws(at map[string]Entry, c Pointing) bool {
	own, has := pointerFile(at, c.Name)
	if !has {
		return false
	}
	raw, err := b.icon(own)
	if err != nil || !xcursor.IsXcursor(raw) {
		return err != nil // what cannot be looked at is kept
	}
	if _, err := xcursor.Parse(raw); err != nil {
		return false
	}
	like, ok := pointerFile(at, c.Like)
	if !ok || like.Name == own.Name {
		return true
	}
	other, err := b.icon(like)
	return err != nil || !bytes.Equal(raw, other)
}

// pointed makes the changes to pointers: a picture that the base draws itself by now is kept.
func (b *laid) pointed(ctx context.Context, r Recipe, at map[string]Entry, out made) error {
	changed := map[string]pointerset.Change{} // by the file in the base
	for _, c := range r.Pointers {
		e, ok := pointerFile(at, c.Name)
		if !ok || c.Like != "" {
			continue
		}
		one := changed[e.Name]
		if spot, err := c.spot(); err == nil && spot != nil {
			one.Hot = spot
		}
		if m := c.motion(); !m.None() {
			one.Motion = m
		}
		changed[e.Name] = one
	}
	if r.Every != nil {
		for _, e := range b.files {
			if e.From == "" || path.Dir(e.Name) != "cursors" {
				continue
			}
			one := changed[e.Name]
			one.Sizes, one.Mirror = r.Every.Sizes, r.Every.LeftHand && b.isHanded(at, e.Name)
			if !one.None() {
				changed[e.Name] = one
			}
		}
	}
	done := 0
	for _, e := range b.files {
		c, ok := changed[e.Name]
		if !ok {
			continue
		}
		if done++; b.tell != nil {
			b.tell(done, len(changed))
		}
		raw, err := b.icon(e)
		if before, is := out.of[e.Name]; is && before.From == "" && before.Mode.IsRegular() {
			raw, err = before.Text, nil // in another colour already
		}
		if err != nil || !xcursor.IsXcursor(raw) {
			continue
		}
		text, err := pointerset.Changed(ctx, raw, c)
		switch {
		case errors.Is(err, xcursor.ErrFormat):
			continue // it stays the base's, as it is
		case err != nil:
			return say.Errorf("%s: %w", e.Name, err)
		}
		out.of[e.Name] = Entry{Name: e.Name, Mode: 0o644, Text: text}
	}
	return b.alike(r, at, out)
}

// alike gives pointers that the base has not the picture of others.
func (b *laid) alike(r Recipe, at map[string]Entry, out made) error {
	for _, c := range r.Pointers {
		name := path.Join("cursors", c.Name)
		if c.Like == "" || b.draws(at, c) {
			continue
		}
		e, ok := pointerFile(at, c.Like)
		if !ok {
			continue // said by its fit
		}
		if _, made := out.of[e.Name]; !made {
			out.of[e.Name] = e
		}
		out.of[name] = Entry{Name: name, Mode: fs.ModeSymlink, Link: relative("cursors", e.Name)}
	}
	return nil
}

// isHanded reports whether a file is what a pointer that is held shows.
func (b *laid) isHanded(at map[string]Entry, file string) bool {
	if slices.ContainsFunc(handed, func(role string) bool {
		return slices.ContainsFunc(pointerset.RoleOf(role).Names, func(name string) bool {
			e, ok := pointerFile(at, name)
			return ok && e.Name == file
		})
	}) {
		return true
	}
	base := path.Base(file)
	return strings.HasPrefix(base, "dnd-") || strings.HasPrefix(base, "hand")
}
