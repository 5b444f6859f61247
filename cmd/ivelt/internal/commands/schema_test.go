package commands_test

import (
	"encoding/json"
	"flag"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"testing"

	"github.com/invopop/jsonschema"
	"github.com/spf13/cobra"
	"github.com/stretchr/testify/require"

	"ivelt/cmd/ivelt/internal/commands"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/docs/schemas"
)

var rewrite = flag.Bool("rewrite", false, "publish the schemas as the answers are now")

// TestSchemasAreThoseOfTheAnswers: each is made from the type of its answer, and what was published
// of a version is not taken back.
func TestSchemasAreThoseOfTheAnswers(t *testing.T) {
	tree := commands.Tree(commands.Build())
	var names []string
	walk(tree, func(c *cobra.Command) {
		if c.Flags().Lookup("json") != nil {
			require.NotEmpty(t, given.AnswersOf(c), "%s answers in JSON, and nothing says how", c.CommandPath())
		}
		names = append(names, given.AnswersOf(c)...)
	})
	slices.Sort(names)
	names = slices.Compact(names)
	require.Equal(t, slices.Sorted(maps.Keys(given.Shapes())), names)

	r := &jsonschema.Reflector{AllowAdditionalProperties: true, ExpandedStruct: true}
	t.Chdir("../../../..")
	for _, room := range []string{"app", "cmd", "core", "store"} {
		require.NoError(t, r.AddGoComments("ivelt", room, jsonschema.WithFullComment()))
	}
	folder := "docs/schemas/" + schemas.Version
	for _, name := range names {
		s := r.ReflectFromType(given.Shapes()[name])
		s.ID = jsonschema.ID("urn:ivelt:schema:" + schemas.Version + ":" + name)
		made, err := json.MarshalIndent(s, "", "  ")
		require.NoError(t, err)
		made = append(made, '\n')
		file := filepath.Join(folder, name+".json")
		old, err := os.ReadFile(file)
		if err == nil {
			var was, is map[string]any
			require.NoError(t, json.Unmarshal(old, &was))
			require.NoError(t, json.Unmarshal(made, &is))
			require.Empty(t, taken(name, was, is), "this breaks who reads %s", schemas.Version)
		}
		if *rewrite {
			require.NoError(t, os.WriteFile(file, made, 0o644))
			continue
		}
		require.NoError(t, err)
		require.Equal(t, string(old), string(made), "go test ./cmd/ivelt/internal/commands -args -rewrite publishes it")
	}
	if !*rewrite {
		require.Equal(t, names, schemas.Names())
	}
}

func walk(c *cobra.Command, each func(*cobra.Command)) {
	each(c)
	for _, of := range c.Commands() {
		walk(of, each)
	}
}

// taken are the places of a schema that a newer one no longer has, or has otherwise.
func taken(at string, was, is any) (out []string) {
	switch w := was.(type) {
	case map[string]any:
		i, ok := is.(map[string]any)
		if !ok {
			return []string{at}
		}
		for key, v := range w {
			if key == "description" || key == "$id" || key == "title" {
				continue
			}
			if _, ok := i[key]; !ok {
				out = append(out, at+"/"+key)
				continue
			}
			out = append(out, taken(at+"/"+key, v, i[key])...)
		}
	case []any: // what is required, or the words of an enumeration
		i, ok := is.([]any)
		for _, v := range w {
			if !ok || !slices.ContainsFunc(i, func(of any) bool { return reflect.DeepEqual(of, v) }) {
				out = append(out, fmt.Sprintf("%s/%v", at, v))
			}
		}
	default:
		if !reflect.DeepEqual(was, is) {
			out = append(out, at)
		}
	}
	return out
}
