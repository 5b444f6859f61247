package store

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"modernc.org/sqlite"

	"ivelt/core/say"
)

// Copies of the database are kept beside it: one before each migration, and one a
// day.
const (
	copiesName = "copies"
	daily      = "day-"    // and the date
	before     = "before-" // and the migration that came then
	keptDaily  = 7
	keptBefore = 3
)

// Copy is a copy of the database.
type Copy struct {
	File string    `json:"file"`
	Made time.Time `json:"made"`
}

// Copies lists the copies, the newest first.
func (s *Store) Copies() ([]Copy, error) { return copiesIn(s.Dir) }

func copiesIn(dir string) ([]Copy, error) {
	entries, err := os.ReadDir(filepath.Join(dir, copiesName))
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return nil, err
	}
	var out []Copy
	for _, e := range entries {
		fi, err := e.Info()
		if strings.HasSuffix(e.Name(), ".db") && err == nil {
			out = append(out, Copy{filepath.Join(dir, copiesName, e.Name()), fi.ModTime()})
		}
	}
	slices.SortFunc(out, func(a, b Copy) int { return b.Made.Compare(a.Made) })
	return out, nil
}

// CopyDaily makes a copy of the database unless there is one of today already.
func (s *Store) CopyDaily(ctx context.Context, now time.Time) error {
	return s.copy(ctx, daily+now.Format("2006-01-02"), daily, keptDaily)
}

// copy makes a copy under a name, unless it is there, by SQLite's own backup. Of
// those whose names begin alike so many are kept.
func (s *Store) copy(ctx context.Context, name, alike string, kept int) error {
	folder := filepath.Join(s.Dir, copiesName)
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return err
	}
	at := filepath.Join(folder, name+".db")
	if _, err := os.Stat(at); err == nil {
		return nil
	}
	temp := filepath.Join(folder, ".new-"+name)
	if err := os.RemoveAll(temp); err != nil {
		return err
	}
	defer os.RemoveAll(temp)
	if err := s.backup(ctx, temp); err != nil {
		return say.Errorf("copy the database: %w", s.explained(err))
	}
	f, err := os.Open(temp)
	if err != nil {
		return err
	}
	err = errors.Join(f.Sync(), f.Close(), os.Rename(temp, at))
	if err == nil {
		err = syncFolder(folder)
	}
	if err != nil {
		return err
	}
	old, err := filepath.Glob(filepath.Join(folder, alike+"*.db"))
	if err != nil || len(old) <= kept {
		return err
	}
	slices.SortFunc(old, func(a, b string) int { return madeAt(a).Compare(madeAt(b)) })
	for _, file := range old[:len(old)-kept] {
		if file != at {
			err = errors.Join(err, os.Remove(file))
		}
	}
	return err
}

func madeAt(file string) time.Time {
	fi, err := os.Stat(file)
	if err != nil {
		return time.Time{}
	}
	return fi.ModTime()
}

// backup copies the database as it is at one instant, while it is in use.
func (s *Store) backup(ctx context.Context, to string) error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return conn.Raw(func(of any) error {
		b, err := of.(interface {
			NewBackup(string) (*sqlite.Backup, error)
		}).NewBackup(to)
		if err != nil {
			return err
		}
		_, err = b.Step(-1)
		return errors.Join(err, b.Finish())
	})
}
