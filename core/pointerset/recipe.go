package pointerset

import (
	"bytes"

	"github.com/pelletier/go-toml/v2"
)

// Origin is what is known of a set that is converted.
type Origin struct {
	Name, Folder     string // of what is made of it
	Version, Licence string // "" if not known
}

// RecipeFile is what the recipe of a layer is called, see package layer.
const RecipeFile = "layer.toml"

// Recipe is the recipe of a layer over the files that a set for X was made from, which lie in it:
// what package layer reads, and builds the same again from.
func (o Origin) Recipe(sizes []int, scales []float64) []byte {
	type base struct {
		Kind    string `toml:"kind"`
		Folder  string `toml:"folder"`
		Within  string `toml:"within"`
		Version string `toml:"version,omitempty"`
		Licence string `toml:"licence,omitempty"`
	}
	type convert struct {
		Sizes  []int     `toml:"sizes,omitempty"`
		Scales []float64 `toml:"scales,omitempty"`
	}
	var b bytes.Buffer
	err := toml.NewEncoder(&b).Encode(struct {
		Format  int     `toml:"format"`
		Name    string  `toml:"name"`
		Folder  string  `toml:"folder"`
		Base    base    `toml:"base"`
		Convert convert `toml:"convert"`
	}{1, o.Name, o.Folder, base{"pointer", o.Folder, Original, o.Version, o.Licence}, convert{sizes, scales}})
	if err != nil {
		panic(err) // strings and numbers always marshal
	}
	return b.Bytes()
}
