package given

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"

	"github.com/adrg/xdg"

	"ivelt/core/regular"
	"ivelt/core/settingsfile"
)

// ConfigFile is what the person has told Ivelt itself: write = true lets it change this
// computer's own desk, check-at-sign-in = false keeps it from looking after each sign-in
// whether everything follows.
func ConfigFile() string { return filepath.Join(xdg.ConfigHome, "ivelt", "config.toml") }

const maxConfig = 1 << 20 // bytes

// MayWrite reports whether the owner has let Ivelt change this computer's desk.
func MayWrite() (bool, error) { return configured("write", false) }

// ChecksAtSignIn reports whether it is looked after sign-in whether everything follows.
func ChecksAtSignIn() (bool, error) { return configured("check-at-sign-in", true) }

// configured is what the file says of a key, usual if it says nothing.
func configured(key string, usual bool) (bool, error) {
	b, err := regular.Read(ConfigFile(), maxConfig)
	if errors.Is(err, fs.ErrNotExist) {
		return usual, nil
	}
	if err != nil {
		return false, err
	}
	all, err := settingsfile.Parse(settingsfile.TOML, b)
	if err != nil {
		return false, fmt.Errorf("%s: %w", ConfigFile(), err)
	}
	v, ok := settingsfile.Lookup(all, "", key)
	if !ok {
		return usual, nil
	}
	is, err := strconv.ParseBool(v.Text)
	if err != nil {
		return false, fmt.Errorf("%s: %s is true or false, not %s", ConfigFile(), key, v.Text)
	}
	return is, nil
}

// KeepWriting writes down whether Ivelt may change this computer's desk. Everything else
// in the file stays as it is.
func KeepWriting(may bool) error {
	file := ConfigFile()
	old, err := regular.Read(file, maxConfig)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	text, err := settingsfile.Set(settingsfile.TOML, old, "", "write", strconv.FormatBool(may), settingsfile.How{Bare: true})
	if err != nil {
		return fmt.Errorf("%s: %w", file, err)
	}
	if bytes.Equal(old, text) {
		return nil
	}
	if real, err := filepath.EvalSymlinks(file); err == nil {
		file = real // one that is linked to a repository of settings stays linked
	}
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return err
	}
	temp, err := os.CreateTemp(filepath.Dir(file), ".config-*")
	if err != nil {
		return err
	}
	defer os.Remove(temp.Name())
	_, err = temp.Write(text)
	if err = errors.Join(err, temp.Sync(), temp.Close()); err != nil {
		return err
	}
	return os.Rename(temp.Name(), file)
}
