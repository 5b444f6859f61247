package config_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/pelletier/go-toml/v2"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"

	"ivelt/core/config"
)

func fileOf(t *testing.T, text string) string {
	t.Helper()
	at := filepath.Join(t.TempDir(), "config.toml")
	require.NoError(t, os.WriteFile(at, []byte(text), 0o640))
	return at
}

func environment(of map[string]string) func(string) (string, bool) {
	return func(name string) (string, bool) { text, ok := of[name]; return text, ok }
}

// TestTheStrongestPlaceIsWhatHolds: every setting, said in every set of places.
func TestTheStrongestPlaceIsWhatHolds(t *testing.T) {
	say := map[config.Kind][3]string{
		config.Switch: {"true", "false", "true"}, config.Text: {"a", "b", "c"}, config.List: {"a, b", "c", "d"}, config.Path: {"/a", "/b", "/c"},
	}
	places := []string{config.FromFlag, config.FromVariable, config.FromFile}
	for _, s := range config.All {
		said := say[s.Kind]
		if s.Kind == config.Word {
			said = [3]string(s.Words[:3])
		}
		for in := range 8 {
			from := config.From{File: filepath.Join(t.TempDir(), "none")}
			var want []string
			for at, place := range places {
				if in>>at&1 == 0 || place == config.FromFlag && s.Flag == "" {
					continue
				}
				want = append(want, place+" "+said[at])
				switch place {
				case config.FromFlag:
					from.Flags = map[string]string{s.Flag: said[at]}
				case config.FromVariable:
					from.Lookup = environment(map[string]string{s.Variable(): said[at]})
				case config.FromFile:
					text := said[at]
					if s.Kind != config.Switch {
						text = `"` + text + `"`
					}
					from.File = fileOf(t, "# mine\n"+s.Key+" = "+text+"\n")
				}
			}
			want = append(want, config.FromUsual+" "+s.Usual)
			all, err := config.Read(from)
			require.NoError(t, err)
			text, taken, err := all.Taken(s.Key)
			require.NoError(t, err)
			require.Equal(t, len(want) > 1, taken)
			var got []string
			for _, v := range all {
				if v.Key != s.Key {
					require.Equal(t, config.FromUsual, v.Source.Kind, "nothing was said of it")
					continue
				}
				require.Equal(t, text, v.Value)
				for _, of := range append([]config.Source{v.Source}, v.Over...) {
					got = append(got, of.Kind+" "+of.Value)
					require.Equal(t, of.Kind == config.FromFile, of.Line == 2)
				}
			}
			require.Equal(t, want, got)
		}
	}
}

// TestWhatCannotBeUsedIsNotUsed: nor is what a weaker place says used for it.
func TestWhatCannotBeUsedIsNotUsed(t *testing.T) {
	file := fileOf(t, "write = 3\nlog-level = \"loud\"\ndata = \"here\"\naddr = \"127.0.0.1:1\"\nadr = 1\n[more]\nwrite = true\n")
	all, err := config.Read(config.From{File: file, Lookup: environment(map[string]string{"IVELT_CHECK_AT_SIGN_IN": "no"})})
	require.NoError(t, err)
	for key, why := range map[string]string{
		config.Write: file + ", line 1: write is true or false, not 3", config.LogLevel: "debug, info", config.Data: "a full path", config.CheckAtSignIn: "IVELT_CHECK_AT_SIGN_IN: ",
	} {
		_, err := all.Of(key)
		require.ErrorContains(t, err, why)
	}
	at, err := all.Of(config.Addr)
	require.NoError(t, err)
	require.Equal(t, "127.0.0.1:1", at)
	unknown, err := config.Unknown(file)
	require.NoError(t, err)
	require.Len(t, unknown, 2)
	require.Contains(t, unknown[0], `line 5: there is no setting "adr"`)
	require.Contains(t, unknown[1], `line 7: there is no setting "more/write"`)
	require.Equal(t, []string{"the variable IVELT_ADRR: there is no such setting"}, config.UnknownVariables([]string{"PATH=/bin", "IVELT_ADRR=x", "IVELT_ADDR=y"}))
	for _, broken := range []string{"write = \n", "\x00", strings.Repeat("# long\n", config.MaxBytes/7+1)} {
		_, err := config.Read(config.From{File: fileOf(t, broken)})
		require.Error(t, err)
	}
}

// TestTheOwnersWordIsKept in a file that may have been written by hand, or be a link.
func TestTheOwnersWordIsKept(t *testing.T) {
	file := filepath.Join(t.TempDir(), "ivelt", "config.toml")
	write, err := config.Find(config.Write)
	require.NoError(t, err)
	require.NoError(t, config.Set(file, write, "true"))
	all, err := config.Read(config.From{File: file})
	require.NoError(t, err)
	may, err := all.Is(config.Write)
	require.NoError(t, err)
	require.True(t, may)

	real := fileOf(t, "# mine\nwrite = true # for now\nother = [1, 2]\n")
	require.NoError(t, os.Remove(file))
	require.NoError(t, os.Symlink(real, file))
	require.NoError(t, config.Set(file, write, "false"))
	says := func() string {
		b, err := os.ReadFile(real)
		require.NoError(t, err)
		return string(b)
	}
	require.Equal(t, "# mine\nwrite = false # for now\nother = [1, 2]\n", says())
	to, err := os.Readlink(file)
	require.NoError(t, err)
	require.Equal(t, real, to, "it stays linked")
	require.Error(t, config.Set(file, write, "often"))
	require.NoError(t, config.Unset(file, write))
	require.NotContains(t, says(), "write")
	require.Contains(t, says(), "other = [1, 2]")
	_, err = config.Find("wrte")
	require.ErrorContains(t, err, "check-at-sign-in")
}

// TestTheSchemaTakesWhatTheProgramTakes, held by a library for JSON Schema.
func TestTheSchemaTakesWhatTheProgramTakes(t *testing.T) {
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(config.Schema())))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("config.json", doc))
	schema, err := c.Compile("config.json")
	require.NoError(t, err)
	for text, fine := range map[string]bool{
		"": true, "write = true\naddr = \"127.0.0.1:9\"": true, "log-level = \"debug\"\ndata = \"/a\"": true,
		"write = 3": false, "write = \"true\"": false, "addr = 8410": false, "log-level = \"loud\"": false, "data = \"here\"": false, "adr = \"x\"": false,
	} {
		var said any
		require.NoError(t, toml.Unmarshal([]byte(text), &said))
		b, err := json.Marshal(said)
		require.NoError(t, err)
		said, err = jsonschema.UnmarshalJSON(strings.NewReader(string(b)))
		require.NoError(t, err)
		require.Equal(t, fine, schema.Validate(said) == nil, text)
		file := fileOf(t, text)
		all, err := config.Read(config.From{File: file})
		require.NoError(t, err)
		unknown, err := config.Unknown(file)
		require.NoError(t, err)
		taken := len(unknown) == 0
		for _, v := range all {
			taken = taken && v.Source.Wrong == ""
		}
		require.Equal(t, fine, taken, text)
	}
}
