package store

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"golang.org/x/sys/unix"
	"gorm.io/gorm"

	"ivelt/core/say"
)

// Checked is what a look at a data folder found.
type Checked struct {
	Dir      string   `json:"dir"`
	Version  int      `json:"version"`
	Database []string `json:"database"` // what is wrong with it
	Whole    int      `json:"whole"`    // kept contents that are as they were put there
	Damaged  []string `json:"damaged"`  // and files that are not
	Entries  int      `json:"entries"`  // files of the history
	Broken   []string `json:"broken"`   // and those that cannot be read
	Journals []string `json:"journals"` // of changes that were interrupted
	Copies   []Copy   `json:"copies"`   // of the database
}

// Fine reports whether nothing is wrong.
func (c Checked) Fine() bool {
	return len(c.Database)+len(c.Damaged)+len(c.Broken)+len(c.Journals) == 0
}

// Check reads all of a data folder and changes nothing in it.
func Check(dir string) (Checked, error) {
	out := Checked{Dir: dir}
	if _, err := os.Stat(dir); err != nil {
		return out, err
	}
	var err error
	if out.Database, out.Version, err = wrongWith(filepath.Join(dir, databaseName)); err != nil {
		return out, err
	}
	if out.Whole, out.Damaged, err = (Blobs{filepath.Join(dir, "blobs")}).Check(); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return out, err
	}
	entries, broken, err := entriesIn(dir)
	if err != nil {
		return out, err
	}
	out.Entries, out.Broken = len(entries), broken
	if out.Journals, err = journalsIn(dir); err != nil {
		return out, err
	}
	out.Copies, err = copiesIn(dir)
	return out, err
}

// wrongWith is what is wrong with a database, and its version.
func wrongWith(file string) (wrong []string, version int, err error) {
	fi, err := os.Stat(file)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return []string{"it is not there"}, 0, nil
	case err != nil:
		return nil, 0, err
	case fi.Size() == 0:
		return []string{"it is empty"}, 0, nil
	}
	db, err := openDatabase(file)
	if err != nil {
		return []string{err.Error()}, 0, nil
	}
	defer closeDatabase(db)
	if err := db.Raw("PRAGMA integrity_check(20)").Scan(&wrong).Error; err != nil {
		return []string{err.Error()}, 0, nil
	}
	if len(wrong) == 1 && wrong[0] == "ok" {
		wrong = nil
	}
	if err := db.Raw("PRAGMA user_version").Scan(&version).Error; err != nil {
		wrong = append(wrong, err.Error())
	}
	return wrong, version, nil
}

func closeDatabase(db *gorm.DB) {
	if under, err := db.DB(); err == nil {
		_ = under.Close()
	}
}

// Restored is what [Restore] did.
type Restored struct {
	Aside  string   // where the old database lies now; "" if there was none
	From   *Copy    // the copy that took its place; nil if there was none that is whole
	Added  int      // entries of the history that came from its own files
	Broken []string // files of the history that cannot be read
}

// ErrWhole: there is nothing to restore.
var ErrWhole = errors.New("the database is whole")

// Restore brings a database back: the newest copy that is whole, and what the
// history's own files have besides. The old one is put aside. One that is whole is
// only replaced if that is forced.
func Restore(ctx context.Context, dir string, force bool) (Restored, error) {
	var out Restored
	if _, err := os.Stat(dir); err != nil {
		return out, err
	}
	release, err := lock(filepath.Join(dir, lockName), unix.LOCK_EX|unix.LOCK_NB)
	if errors.Is(err, unix.EWOULDBLOCK) {
		return out, say.Errorf("an Ivelt is at work in %s: %w. Stop it first", dir, ErrLocked)
	}
	if err != nil {
		return out, unwritable(dir, err)
	}
	file := filepath.Join(dir, databaseName)
	if wrong, version, err := wrongWith(file); err != nil || len(wrong) == 0 && !force || version > Version {
		release()
		switch {
		case version > Version:
			err = say.Errorf("the data folder %s: %w", dir, ErrNewer)
		case err == nil:
			err = say.Errorf("%s: %w; nothing was changed. To take a copy all the same, say --force", file, ErrWhole)
		}
		return out, err
	}
	err = out.replace(dir, file)
	release()
	if err != nil {
		return out, err
	}
	s, err := Open(ctx, dir)
	if err != nil {
		return out, err
	}
	defer s.Close()
	out.Added, out.Broken, err = s.fromFiles()
	return out, err
}

// replace puts the old database aside and the newest copy that is whole in its
// place.
func (r *Restored) replace(dir, file string) error {
	var from string
	copies, err := copiesIn(dir)
	if err != nil {
		return err
	}
	for _, c := range copies {
		if wrong, version, err := wrongWith(c.File); err == nil && len(wrong) == 0 && version <= Version {
			r.From, from = &c, file+".new"
			if err := copyFile(c.File, from); err != nil {
				return err
			}
			break
		}
	}
	aside := fmt.Sprintf("%s.aside-%s", file, time.Now().Format("20060102-150405"))
	for n := 2; ; n++ {
		if _, err := os.Lstat(aside); err != nil {
			break
		}
		aside = strings.TrimSuffix(aside, fmt.Sprintf("-%d", n-1)) + fmt.Sprintf("-%d", n)
	}
	for _, end := range []string{"-wal", "-shm", ""} {
		switch err := os.Rename(file+end, aside+end); {
		case err == nil:
			r.Aside = aside
		case !errors.Is(err, fs.ErrNotExist):
			return err
		}
	}
	if from != "" {
		if err := os.Rename(from, file); err != nil {
			return err
		}
	}
	return syncFolder(dir)
}

func copyFile(from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Sync(), out.Close())
}
