package say_test

import (
	"encoding/json"
	"errors"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/say"
)

// TestAMessageIsData: it goes through JSON and says the same after it, nested ones too.
func TestAMessageIsData(t *testing.T) {
	inner := say.Of("match/is-by", "24 px", "~/.profile")
	for _, m := range []say.Message{
		{},
		say.Words("as it was: 100 %"),
		say.Of("plan/and", inner, errors.New("it is full")),
		say.Of("match/where/line", "~/.profile", 12),
	} {
		b, err := json.Marshal(m)
		require.NoError(t, err)
		var again say.Message
		require.NoError(t, json.Unmarshal(b, &again))
		require.Equal(t, m.String(), again.String())
		require.NotContains(t, m.String(), "%!")
	}
	require.Equal(t, "is 24 px in ~/.profile, and it is full", say.Of("plan/and", inner, errors.New("it is full")).String())
	require.Equal(t, "of-a-newer-one", say.Message{Code: "of-a-newer-one"}.String(), "a code of another version stands for itself")
	require.Panics(t, func() { say.Of("no-such-code") })
}

var verb = regexp.MustCompile(`%[-+# 0-9.]*[a-zA-Z]`)

// TestEveryCodeHasItsWords: what the source says is in the table with as many arguments, and
// nothing else is.
func TestEveryCodeHasItsWords(t *testing.T) {
	used := map[string]bool{}
	require.NoError(t, filepath.WalkDir("..", func(file string, e fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(file, ".go") || strings.HasSuffix(file, "_test.go") {
			return err
		}
		f, err := parser.ParseFile(token.NewFileSet(), file, nil, 0)
		require.NoError(t, err)
		ast.Inspect(f, func(n ast.Node) bool {
			call, ok := n.(*ast.CallExpr)
			if !ok || len(call.Args) == 0 {
				return true
			}
			lit, ok := call.Args[0].(*ast.BasicLit)
			name := ""
			switch fn := call.Fun.(type) {
			case *ast.Ident:
				name = fn.Name
			case *ast.SelectorExpr:
				if x, is := fn.X.(*ast.Ident); is {
					name = x.Name + "." + fn.Sel.Name
				}
			}
			if !ok || name != "say.Of" && !(name == "Of" && strings.HasPrefix(file, "../say/")) && !(name == "note" && strings.Contains(file, "parcel")) {
				return true
			}
			code, err := strconv.Unquote(lit.Value)
			require.NoError(t, err)
			if name == "note" {
				code = "parcel/" + code
			}
			used[code] = true
			require.NotEmpty(t, say.Format(code), "%s: %s", file, code)
			if !call.Ellipsis.IsValid() {
				require.Len(t, verb.FindAllString(strings.ReplaceAll(say.Format(code), "%%", ""), -1), len(call.Args)-1, "%s: %s", file, code)
			}
			return true
		})
		return nil
	}))
	for _, code := range say.Codes() {
		require.True(t, used[code] || code == "parcel/maker-warns" || code == "plan/tell-use", "nothing says %s", code)
	}
}

// TestWhatIsTrueOfSeveralIsSaidOnce, also within another message and after a way through JSON.
func TestWhatIsTrueOfSeveralIsSaidOnce(t *testing.T) {
	of := func(title, piece string) say.Message {
		return say.Of("plan/would-not-find", say.Word(title), piece, "it is gone")
	}
	with := func(m say.Message, fix string) say.Message {
		return say.Of("plan/blocked-with-remedy", m, say.Words(fix))
	}
	all := []say.Message{
		of("GTK 3", "Tern"), of("GTK 4", "Tern"), of("GTK 3", "Knot"), say.Words("as it was"), say.Words("as it was"),
		with(of("GTK 3", "Tern"), "Install it."), with(of("Qt", "Tern"), "Install it."), with(of("Qt", "Tern"), "Remove it."),
	}
	b, err := json.Marshal(all)
	require.NoError(t, err)
	var read []say.Message
	require.NoError(t, json.Unmarshal(b, &read))
	for _, list := range [][]say.Message{all, read} {
		var said []string
		for _, m := range say.Together(list) {
			said = append(said, m.String())
		}
		require.Equal(t, []string{
			"GTK 3, GTK 4 would not find Tern: it is gone.", "GTK 3 would not find Knot: it is gone.", "as it was",
			"GTK 3, Qt would not find Tern: it is gone. Install it.", "Qt would not find Tern: it is gone. Remove it.",
		}, said)
	}
	require.Equal(t, say.Word("GTK 3").Message(), all[0].Args[0], "what was joined is as it was")
}
