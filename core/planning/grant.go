package planning

import (
	"errors"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// GrantCode is the message of an operation that lets the programs of a runtime read a folder:
// its arguments are the runtime's title, the folder, and the piece that lies there.
const GrantCode = "plan/let-look-into-where-lies"

// grant adds the operation that lets a sandboxed program look into the folder
// where what is wanted lies: the smallest that does, and for reading only. It
// reports whether the program would then find it.
func (b *builder) grant(s desk.Surface, f desk.Facet, want string) (bool, error) {
	folders := reading.Grantables(b.seen, f.Lookup, want)
	for _, folder := range folders {
		if strings.Contains(folder, ";") {
			return false, nil
		}
		if slices.Contains(b.granted, s.ID+folder) {
			continue
		}
		b.granted = append(b.granted, s.ID+folder)
		why := say.Of("plan/let-look-into-where-lies", s.Named(), b.d.Show(folder), want)
		err := b.regrant(s, f, why, func(list []string) []string { return append(list, f.Lookup.Grants.Entry(b.d.Show(folder))) })
		if errors.Is(err, keyfile.ErrSyntax) {
			return false, nil // it is passed over, and left as it is
		}
		if err != nil {
			return false, err
		}
	}
	return len(folders) > 0, nil
}
