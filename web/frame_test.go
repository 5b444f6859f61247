package web_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestNoPageHidesItsFrame: the frame around a page is drawn from the page's own struct, so no
// field of a page may have the name of one of the frame's.
func TestNoPageHidesItsFrame(t *testing.T) {
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	frame, pages := map[string]bool{}, map[string][]string{}
	for _, name := range files {
		file, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.SkipObjectResolution)
		require.NoError(t, err)
		ast.Inspect(file, func(n ast.Node) bool {
			of, ok := n.(*ast.TypeSpec)
			if !ok {
				return true
			}
			fields, ok := of.Type.(*ast.StructType)
			if !ok {
				return true
			}
			framed := false
			var names []string
			for _, f := range fields.Fields.List {
				if id, ok := f.Type.(*ast.Ident); ok && len(f.Names) == 0 && id.Name == "Frame" {
					framed = true
				}
				for _, name := range f.Names {
					names = append(names, name.Name)
				}
			}
			for _, name := range names {
				if of.Name.Name == "Frame" {
					frame[name] = true
				}
			}
			if framed {
				pages[of.Name.Name] = names
			}
			return true
		})
	}
	require.NotEmpty(t, frame)
	require.Greater(t, len(pages), 15)
	for page, names := range pages {
		for _, name := range names {
			require.False(t, frame[name], "%s.%s", page, name)
		}
	}
}
