package given

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"ivelt/core/config"
)

// DataDir is Ivelt's folder in the person's data home, or where the person has it.
func DataDir() (string, error) {
	all, err := Settings()
	if err != nil {
		return "", err
	}
	at, said, err := all.Taken(config.Data)
	if err != nil || said {
		return at, err
	}
	if _, err := os.UserHomeDir(); err != nil && !filepath.IsAbs(os.Getenv("XDG_DATA_HOME")) {
		return "", fmt.Errorf("where is your home? %w. Name a folder with --dir", err)
	}
	return at, nil
}

// DataFlags name a data folder: itself, or by the desk it is for.
type DataFlags struct {
	dir string
	DeskFlags
}

// Add lets a command be given a data folder.
func (f *DataFlags) Add(c *cobra.Command) {
	c.Flags().StringVar(&f.dir, "data", "", "the data folder")
	f.DeskFlags.Add(c)
}

// Folder is the data folder: by default the one of this computer's own desk.
func (f *DataFlags) Folder(ctx context.Context) (string, error) {
	switch {
	case f.dir != "":
		return filepath.Abs(f.dir)
	case f.Name == "" && f.Home == "":
		base, err := DataDir()
		return filepath.Join(base, "own"), err
	}
	d, err := f.Open(ctx)
	if err != nil {
		return "", err
	}
	return f.Data(ctx, d)
}
