package given

import (
	"encoding/json"
	"errors"
	"io"
	"reflect"
	"strings"

	"github.com/spf13/cobra"
)

// PrintJSON answers with a value, indented. A list with nothing in it is [], never null.
func PrintJSON(w io.Writer, v any) error {
	if of := reflect.ValueOf(v); of.IsValid() {
		v = listed(of).Interface()
	}
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(v)
}

// listed is a copy of a value in which lists and tables that are nil are empty.
func listed(v reflect.Value) reflect.Value {
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if v.IsNil() {
			return v
		}
		inner := listed(v.Elem())
		if v.Kind() == reflect.Interface {
			return inner
		}
		to := reflect.New(v.Type().Elem())
		to.Elem().Set(inner)
		return to
	case reflect.Struct:
		to := reflect.New(v.Type()).Elem()
		to.Set(v)
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				to.Field(i).Set(listed(v.Field(i)))
			}
		}
		return to
	case reflect.Slice:
		if v.Type().Elem().Kind() == reflect.Uint8 {
			return v // bytes are a text there
		}
		to := reflect.MakeSlice(v.Type(), v.Len(), v.Len())
		for i := range v.Len() {
			to.Index(i).Set(listed(v.Index(i)))
		}
		return to
	case reflect.Map:
		to := reflect.MakeMapWithSize(v.Type(), v.Len())
		for at := v.MapRange(); at.Next(); {
			to.SetMapIndex(at.Key(), listed(at.Value()))
		}
		return to
	default:
		return v
	}
}

// answers marks, in the annotations of a command, which answers it has in JSON.
const answers = "answers"

// shapes are the types of all answers, by the name of their schema.
var shapes = map[string]reflect.Type{}

// Answers lets a command be asked for its answer in JSON. Said again, it is another answer that
// the command may give.
func Answers[T any](c *cobra.Command, asJSON *bool, name string) {
	if c.Flags().Lookup("json") == nil {
		c.Flags().BoolVar(asJSON, "json", false, "machine-readable; see ivelt schema "+name)
	}
	if c.Annotations == nil {
		c.Annotations = map[string]string{}
	}
	c.Annotations[answers] = strings.TrimSpace(c.Annotations[answers] + " " + name)
	shapes[name] = reflect.TypeFor[T]()
}

// AnswersOf are the names of the schemas of a command's answers.
func AnswersOf(c *cobra.Command) []string { return strings.Fields(c.Annotations[answers]) }

// Shapes are the types of the answers of all commands that were made, by the name of their schema.
func Shapes() map[string]reflect.Type { return shapes }

// Completes has shells complete a flag of a command with words.
func Completes(c *cobra.Command, flag string, words ...string) {
	if err := c.RegisterFlagCompletionFunc(flag, cobra.FixedCompletions(words, cobra.ShellCompDirectiveNoFileComp)); err != nil {
		panic(err) // there is no such flag
	}
}

// CodeFindings is the exit status of such a command.
const CodeFindings = 1

// ErrFindings ends a command that did its work and found something amiss.
var ErrFindings = errors.New("findings")
