// Command catalogue gathers all that Ivelt says into a catalogue for translators: its messages
// (core/say), the lines of its pages (web/templates) and the words that its source has as
// [say.Word].
//
//	catalogue      tells whether core/language/ivelt.pot is as the source is
//	catalogue -w   writes it
package main

import (
	"bytes"
	"cmp"
	"errors"
	"flag"
	"fmt"
	"go/ast"
	"go/constant"
	"go/types"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"text/template/parse"

	"golang.org/x/tools/go/packages"

	"ivelt/core/desk"
	"ivelt/core/po"
	"ivelt/core/say"
	"ivelt/web/worded"
)

const file = "core/language/ivelt.pot"

func main() {
	write := flag.Bool("w", false, "write the catalogue instead of telling whether it is as it should be")
	flag.Parse()
	if err := run(*write); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(write bool) error {
	all, err := Gather(".")
	if err != nil {
		return err
	}
	is, err := os.ReadFile(file)
	if err != nil || bytes.Equal(is, all) {
		return err
	}
	if !write {
		return errors.New(file + " is not as the source is; write it by: go run ./scripts/catalogue -w")
	}
	return os.WriteFile(file, all, 0o644)
}

// gathering is what was found, by text.
type gathering map[[2]string]po.Entry

func (g gathering) add(e po.Entry, where string) {
	key := [2]string{e.Context, e.ID}
	has, ok := g[key]
	if !ok {
		has = e
	}
	has.Plural = cmp.Or(has.Plural, e.Plural)
	has.Note = cmp.Or(has.Note, e.Note)
	if !slices.Contains(has.Where, where) {
		has.Where = append(has.Where, where)
	}
	g[key] = has
}

// Gather is the catalogue of a source's folder.
func Gather(dir string) ([]byte, error) {
	g := gathering{}
	for _, e := range say.Entries() {
		g.add(e, "core/say/english.pot")
	}
	for _, name := range []string{"core/desk/surfaces", "core/desk/runtimes/surfaces"} {
		all, err := desk.LoadSurfaces(os.DirFS(dir), name)
		if err != nil {
			return nil, err
		}
		for _, s := range all {
			g.add(po.Entry{ID: s.Title, Note: "what draws on a desk"}, path.Join(name, s.ID+".toml"))
		}
	}
	if err := g.pages(dir); err != nil {
		return nil, err
	}
	if err := g.source(dir); err != nil {
		return nil, err
	}
	list := slices.SortedFunc(maps.Values(g), func(a, b po.Entry) int {
		return cmp.Or(cmp.Compare(a.Where[0], b.Where[0]), cmp.Compare(a.Context, b.Context), cmp.Compare(a.ID, b.ID))
	})
	return po.Write([]string{
		"Project-Id-Version: Ivelt", "Content-Type: text/plain; charset=UTF-8", "Content-Transfer-Encoding: 8bit",
		"Language: ", "Plural-Forms: nplurals=2; plural=n != 1;",
	}, list), nil
}

// pages adds the lines of the pages.
func (g gathering) pages(dir string) error {
	files, err := filepath.Glob(filepath.Join(dir, "web/templates/*.html"))
	if err != nil {
		return err
	}
	more, err := filepath.Glob(filepath.Join(dir, "web/templates/*/*.html"))
	if err != nil {
		return err
	}
	for _, name := range append(files, more...) {
		b, err := os.ReadFile(name)
		if err != nil {
			return err
		}
		at, err := filepath.Rel(dir, name)
		if err != nil {
			return err
		}
		set := map[string]*parse.Tree{}
		t := parse.New(at)
		t.Mode = parse.SkipFuncCheck
		if _, err := t.Parse(string(b), "", "", set); err != nil {
			return err
		}
		for _, name := range slices.Sorted(maps.Keys(set)) {
			lines, err := worded.Lines(set[name])
			if err != nil {
				return fmt.Errorf("%s: %w", at, err)
			}
			for _, l := range lines {
				g.add(po.Entry{ID: l.ID, Plural: l.Plural, Note: l.Note}, at)
			}
		}
	}
	return nil
}

// source adds the words of the source: constants that are a [say.Word], and nouns that are counted.
func (g gathering) source(dir string) error {
	all, err := packages.Load(&packages.Config{
		Mode: packages.NeedName | packages.NeedFiles | packages.NeedSyntax | packages.NeedTypes | packages.NeedTypesInfo | packages.NeedImports | packages.NeedExportFile,
		Dir:  dir,
	}, "./core/...", "./app/...", "./web/...", "./store/...")
	if err != nil {
		return err
	}
	full, err := filepath.Abs(dir)
	if err != nil {
		return err
	}
	for _, p := range all {
		for _, e := range p.Errors {
			return e
		}
		for _, f := range p.Syntax {
			at, err := filepath.Rel(full, p.Fset.Position(f.Package).Filename)
			if err != nil || strings.HasPrefix(at, "..") {
				continue
			}
			ast.Inspect(f, func(n ast.Node) bool {
				e, ok := n.(ast.Expr)
				if !ok {
					return true
				}
				if call, ok := e.(*ast.CallExpr); ok && len(call.Args) == 2 {
					if fn, ok := call.Fun.(*ast.SelectorExpr); ok && fn.Sel.Name == "Many" && p.TypesInfo.Uses[fn.Sel] != nil && p.TypesInfo.Uses[fn.Sel].Pkg() != nil && p.TypesInfo.Uses[fn.Sel].Pkg().Path() == "ivelt/core/say" {
						if v := p.TypesInfo.Types[call.Args[1]].Value; v != nil {
							one, several := say.Counted(constant.StringVal(v))
							g.add(po.Entry{ID: one, Plural: several}, at)
						}
					}
				}
				if text, ok := fault(p.TypesInfo, e); ok {
					g.add(po.Entry{ID: text, Note: "an error"}, at)
				}
				v := p.TypesInfo.Types[e]
				if v.Value == nil || v.Value.Kind() != constant.String || v.Type.String() != "ivelt/core/say.Word" {
					return true
				}
				if text := constant.StringVal(v.Value); text != "" {
					g.add(po.Entry{ID: text}, at)
				}
				return false
			})
		}
	}
	return nil
}

// fault is the text of an error that a call makes.
func fault(types *types.Info, e ast.Expr) (string, bool) {
	call, ok := e.(*ast.CallExpr)
	if !ok || len(call.Args) == 0 {
		return "", false
	}
	fn, ok := call.Fun.(*ast.SelectorExpr)
	if !ok || types.Uses[fn.Sel] == nil || types.Uses[fn.Sel].Pkg() == nil {
		return "", false
	}
	name := types.Uses[fn.Sel].Pkg().Path() + "." + fn.Sel.Name
	v := types.Types[call.Args[0]].Value
	if v == nil || name != "errors.New" && name != "ivelt/core/say.Errorf" {
		return "", false
	}
	return say.FaultText(constant.StringVal(v)), true
}
