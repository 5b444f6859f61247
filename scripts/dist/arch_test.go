package main

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/go/packages"
)

// TestItCompilesForEveryArchitecture that there are packages for: types of the system's calls are
// not the same everywhere. All is read anew, what is others' without what their functions do, which
// takes a tenth of the time that compiling does.
func TestItCompilesForEveryArchitecture(t *testing.T) {
	for arch := range architectures {
		if arch == runtime.GOARCH {
			continue // compiled for all other tests
		}
		all, err := packages.Load(&packages.Config{
			Mode: packages.NeedName | packages.NeedFiles | packages.NeedSyntax | packages.NeedTypes | packages.NeedTypesInfo | packages.NeedImports | packages.NeedDeps,
			Dir:  "../..", Env: append(os.Environ(), "GOOS=linux", "GOARCH="+arch, "CGO_ENABLED=0"),
			ParseFile: func(set *token.FileSet, name string, text []byte) (*ast.File, error) {
				f, err := parser.ParseFile(set, name, text, parser.SkipObjectResolution)
				if f != nil && (strings.Contains(name, "/pkg/mod/") || strings.Contains(name, "/src/")) {
					for _, d := range f.Decls {
						if fn, ok := d.(*ast.FuncDecl); ok {
							fn.Body = nil
						}
					}
				}
				return f, err
			},
		}, "./cmd/ivelt")
		require.NoError(t, err)
		packages.Visit(all, nil, func(p *packages.Package) {
			if !strings.HasPrefix(p.PkgPath, "ivelt") {
				return // what is not used in it any more is told of the others
			}
			for _, e := range p.Errors {
				t.Errorf("%s: %v", arch, e)
			}
		})
	}
}
