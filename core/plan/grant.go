package plan

import (
	"fmt"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/reading"
)

// grant adds the operation that lets a sandboxed program look into the folder
// where what is wanted lies: the smallest that does, and for reading only. It
// reports whether the program would then find it.
func (b *builder) grant(s desk.Surface, f desk.Facet, want string) (bool, error) {
	folder := reading.Grantable(b.seen, f.Lookup, want)
	if folder == "" || strings.Contains(folder, ";") {
		return false, nil
	}
	if slices.Contains(b.granted, s.ID+folder) {
		return true, nil
	}
	b.granted = append(b.granted, s.ID+folder)
	g := *f.Lookup.Grants
	var failed error
	why := fmt.Sprintf("let %s look into %s, where %s lies", s.Title, b.d.Show(folder), want)
	err := b.edit(b.d.Expand(g.Path)[0], s, f, why, EffectOf(s.Restart), func(old []byte) []byte {
		now, err := withGrant(old, g, b.d.Show(folder))
		if err != nil {
			failed = err
			return old
		}
		return now
	})
	return err == nil && failed == nil, err
}

// withGrant is a list of grants with a folder more in it.
func withGrant(old []byte, g desk.Source, folder string) ([]byte, error) {
	kf, err := keyfile.Parse(old)
	if err != nil {
		return nil, err
	}
	list := kf.List(g.Group, g.Key, ';')
	kf.Set(g.Group, g.Key, strings.Join(append(list, folder), ";"))
	return kf.Bytes(), nil
}
