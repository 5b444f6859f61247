package keeping

import (
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/config"
)

// configCommand tells what the settings of Ivelt itself are, and sets them.
func configCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:   "config [KEY]",
		Short: "The settings of Ivelt itself: what each is, and which place says so",
		Long: "The settings of Ivelt itself: what each is, and which place says so. A flag is stronger than a\n" +
			"variable of the environment, that one than the file ~/.config/ivelt/config.toml. With a key,\n" +
			"that setting alone, for scripts. Exit status 1 if something that is said cannot be used.",
		Args:      cobra.MaximumNArgs(1),
		ValidArgs: config.Keys(),
		RunE: func(c *cobra.Command, args []string) error {
			all, err := given.SettingsOf(c)
			if err != nil {
				return err
			}
			unknown, err := config.Unknown(given.ConfigFile())
			if err != nil {
				return err
			}
			unknown = append(unknown, config.UnknownVariables(os.Environ())...)
			wrong := len(unknown) > 0
			if len(args) == 1 {
				s, err := config.Find(args[0])
				if err != nil {
					return err
				}
				text, err := all.Of(s.Key)
				if err == nil && !asJSON {
					fmt.Fprintln(c.OutOrStdout(), text)
				}
				if err != nil || !asJSON {
					return err
				}
				all, wrong = only(all, s.Key), false
			}
			for _, v := range all {
				wrong = wrong || v.Source.Wrong != ""
			}
			if asJSON {
				err = given.PrintJSON(c.OutOrStdout(), Settings{File: given.ConfigFile(), Settings: all, Unknown: append([]string{}, unknown...)})
			} else {
				err = printSettings(c.OutOrStdout(), all, unknown)
			}
			if err == nil && wrong {
				err = given.ErrFindings
			}
			return err
		},
	}
	given.Answers[Settings](c, &asJSON, "config")
	c.AddCommand(configSetCommand(), configUnsetCommand(), &cobra.Command{
		Use:   "schema",
		Short: "The JSON Schema of the settings file, for editors",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			_, err := c.OutOrStdout().Write(config.Schema())
			return err
		},
	}, &cobra.Command{
		Use:   "file",
		Short: "Where the settings file is, or would be",
		Args:  cobra.NoArgs,
		Run:   func(c *cobra.Command, _ []string) { fmt.Fprintln(c.OutOrStdout(), given.ConfigFile()) },
	})
	for _, of := range append(c.Commands(), c) {
		if of.Annotations == nil {
			of.Annotations = map[string]string{}
		}
		of.Annotations[given.MendsSettings] = "yes"
	}
	return c
}

// Settings is the answer of `config --json`.
type Settings struct {
	File     string        `json:"file"`
	Settings config.Values `json:"settings"`
	Unknown  []string      `json:"unknown"` // lines of the file, and variables, that no setting goes by
}

func only(all config.Values, key string) (out config.Values) {
	for _, v := range all {
		if v.Key == key {
			out = append(out, v)
		}
	}
	return out
}

func printSettings(w io.Writer, all config.Values, unknown []string) error {
	t := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	for _, v := range all {
		fmt.Fprintf(t, "%s\t%s\t%s\n", v.Key, orNothing(v.Value), place(v.Source))
		if v.Source.Wrong != "" {
			fmt.Fprintf(t, "\t! %s\t\n", v.Source.Wrong)
		}
		for _, over := range v.Over {
			if over.Kind != config.FromUsual {
				fmt.Fprintf(t, "\t\tnot %s, %s\n", orNothing(over.Value), place(over))
			}
		}
	}
	if err := t.Flush(); err != nil {
		return err
	}
	for _, text := range unknown {
		fmt.Fprintln(w, "!", text)
	}
	return nil
}

func orNothing(text string) string {
	if text == "" {
		return "–"
	}
	return text
}

// place is where a value is from, in words.
func place(s config.Source) string {
	switch s.Kind {
	case config.FromFlag:
		return "the flag " + s.At
	case config.FromVariable:
		return "the variable " + s.At
	case config.FromFile:
		return s.At + ", line " + strconv.Itoa(s.Line)
	default:
		return "as usual"
	}
}

func configSetCommand() *cobra.Command {
	return &cobra.Command{
		Use:               "set KEY VALUE…",
		Short:             "Write a setting into the file; everything else in it stays as it is",
		Args:              cobra.MinimumNArgs(2),
		ValidArgsFunction: completeSetting,
		RunE: func(c *cobra.Command, args []string) error {
			s, err := config.Find(args[0])
			if err != nil {
				return err
			}
			if len(args) > 2 && s.Kind != config.List {
				return fmt.Errorf("%s takes one value", s.Key)
			}
			if err := config.Set(given.ConfigFile(), s, strings.Join(args[1:], ", ")); err != nil {
				return err
			}
			return tellStronger(c, s)
		},
	}
}

func configUnsetCommand() *cobra.Command {
	return &cobra.Command{
		Use:       "unset KEY",
		Short:     "Take a setting out of the file, so that it is as usual",
		Args:      cobra.ExactArgs(1),
		ValidArgs: config.Keys(),
		RunE: func(c *cobra.Command, args []string) error {
			s, err := config.Find(args[0])
			if err != nil {
				return err
			}
			if err := config.Unset(given.ConfigFile(), s); err != nil {
				return err
			}
			return tellStronger(c, s)
		},
	}
}

// tellStronger says if what the file says of a setting is not what holds.
func tellStronger(c *cobra.Command, s config.Setting) error {
	all, err := given.Settings()
	if err != nil {
		return err
	}
	for _, v := range only(all, s.Key) {
		if v.Source.Kind == config.FromVariable {
			fmt.Fprintf(c.ErrOrStderr(), "ivelt: %s is %s all the same: %s says so.\n", v.Key, v.Value, place(v.Source))
		}
	}
	return nil
}

// completeSetting completes a key, and then what it takes.
func completeSetting(_ *cobra.Command, args []string, _ string) ([]string, cobra.ShellCompDirective) {
	if len(args) == 0 {
		return config.Keys(), cobra.ShellCompDirectiveNoFileComp
	}
	switch s, _ := config.Find(args[0]); s.Kind {
	case config.Switch:
		return []string{"true", "false"}, cobra.ShellCompDirectiveNoFileComp
	case config.Word:
		return s.Words, cobra.ShellCompDirectiveNoFileComp
	case config.Path:
		return nil, cobra.ShellCompDirectiveDefault
	default:
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
}
