// Package schemas has the JSON Schemas (draft 2020-12) of the answers of Ivelt's commands, as they
// are published. Those of a version only ever get more: a new answer, or a new field in one. What
// would break who reads them is a new version beside it.
package schemas

import (
	"embed"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"
)

// Version is the one that this Ivelt answers by.
const Version = "v1"

//go:embed v1/*.json
var published embed.FS

// Names are those of all schemas, in order.
func Names() (out []string) {
	entries, _ := fs.ReadDir(published, Version) // embedded: it is there
	for _, e := range entries {
		out = append(out, strings.TrimSuffix(e.Name(), ".json"))
	}
	slices.Sort(out)
	return out
}

// Of is the schema of a name.
func Of(name string) ([]byte, error) {
	b, err := published.ReadFile(path.Join(Version, name+".json"))
	if err != nil {
		return nil, fmt.Errorf("there is no schema %q; there are %s", name, strings.Join(Names(), ", "))
	}
	return b, nil
}
