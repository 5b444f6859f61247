package given

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"

	"github.com/adrg/xdg"
	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"ivelt/core/config"
)

// ConfigFile is what the person has told Ivelt itself; see [config.All].
func ConfigFile() string { return filepath.Join(xdg.ConfigHome, "ivelt", "config.toml") }

// LanguagesFolder is where the person has catalogues of further languages.
func LanguagesFolder() string { return filepath.Join(xdg.ConfigHome, "ivelt", "languages") }

// Settings are those of Ivelt itself, as the environment and the person's file say.
func Settings() (config.Values, error) {
	return settings(nil)
}

func settings(flags map[string]string) (config.Values, error) {
	return config.Read(config.From{
		File: ConfigFile(), Lookup: os.LookupEnv, Flags: flags,
		Usual: map[string]string{config.Data: filepath.Join(xdg.DataHome, "ivelt"), config.Downloads: xdg.UserDirs.Download},
	})
}

// SettingsOf are those of a command, with what its flags say.
func SettingsOf(c *cobra.Command) (config.Values, error) {
	flags := map[string]string{}
	c.Flags().Visit(func(f *pflag.Flag) {
		if f.Value.Type() == "stringArray" {
			return // said in full where it is used
		}
		flags[f.Name] = f.Value.String()
	})
	return settings(flags)
}

// MendsSettings marks, in the annotations of a command, one that also runs where the settings cannot
// be used.
const MendsSettings = "mends-settings"

// FromSettings gives the flags of a command that were not given what the environment or the
// person's file says. An error tells that what they say cannot be used.
func FromSettings(c *cobra.Command) error {
	var all config.Values
	for _, s := range config.All {
		if s.Flag == "" || len(s.Of) > 0 && !slices.Contains(s.Of, c.Name()) {
			continue
		}
		f := c.Flags().Lookup(s.Flag)
		if f == nil || f.Changed {
			continue
		}
		if all == nil {
			var err error
			if all, err = Settings(); err != nil {
				return err
			}
		}
		text, said, err := all.Taken(s.Key)
		if err != nil {
			return err
		}
		if !said {
			continue
		}
		each := []string{text}
		if s.Kind == config.List {
			each = config.Listed(text)
		}
		for _, one := range each {
			if err := f.Value.Set(one); err != nil {
				return fmt.Errorf("%s: %w", s.Key, err)
			}
		}
	}
	return nil
}

// ChecksAtSignIn reports whether it is looked after sign-in whether everything follows.
func ChecksAtSignIn() (bool, error) {
	all, err := Settings()
	if err != nil {
		return false, err
	}
	return all.Is(config.CheckAtSignIn)
}

// KeepWriting writes down whether Ivelt may change this computer's desk. Everything else
// in the file stays as it is.
func KeepWriting(may bool) error {
	s, err := config.Find(config.Write)
	if err != nil {
		return err
	}
	return config.Set(ConfigFile(), s, strconv.FormatBool(may))
}
