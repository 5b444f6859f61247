package store

import (
	"errors"
	"io/fs"
	"path/filepath"
	"strings"
	"syscall"
	"unicode"

	"gorm.io/gorm"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"ivelt/core/say"
)

// The ways a store is in trouble. The error says where, and what to do.
var (
	ErrNewer    = errors.New("it was made by a newer Ivelt")
	ErrFull     = errors.New("the disk is full")
	ErrReadOnly = errors.New("it cannot be written")
	ErrLocked   = errors.New("another program is using it")
)

// explained says of an error of the database what it means and what to do. Other
// errors are returned as they are.
func (s *Store) explained(err error) error {
	if err == nil || errors.Is(err, ErrDamaged) || errors.Is(err, ErrFull) || errors.Is(err, ErrReadOnly) || errors.Is(err, ErrLocked) {
		return err
	}
	file := filepath.Join(s.Dir, databaseName)
	var of *sqlite.Error
	if !errors.As(err, &of) {
		return err
	}
	switch of.Code() & 0xff {
	case sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB:
		return say.Errorf("the database %s of Ivelt is %w (%w). Nothing on a desk was changed. “ivelt store check --data %s” says how much of it is; “ivelt store restore --data %s” brings back the newest copy, and the history from its own files", file, ErrDamaged, err, quoted(s.Dir), quoted(s.Dir))
	case sqlite3.SQLITE_FULL:
		return say.Errorf("the database %s of Ivelt cannot grow: %w (%w). What was not written down was not done. Make room on that disk and try again", file, ErrFull, err)
	case sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_PERM:
		return say.Errorf("the database %s of Ivelt: %w (%w). Look at who owns it and its folder, and whether the disk is mounted for reading only", file, ErrReadOnly, err)
	case sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED:
		return say.Errorf("the database %s of Ivelt: %w, and has for five seconds (%w). Try again", file, ErrLocked, err)
	case sqlite3.SQLITE_IOERR:
		if errors.Is(err, syscall.ENOSPC) {
			return say.Errorf("the database %s of Ivelt cannot grow: %w (%w). Make room on that disk and try again", file, ErrFull, err)
		}
		return say.Errorf("the disk did not do what was asked of it for the database %s of Ivelt (%w). “ivelt store check --data %s” says whether it is whole", file, err, quoted(s.Dir))
	}
	return err
}

// quoted is a path as a shell takes it.
func quoted(p string) string {
	if strings.IndexFunc(p, func(r rune) bool {
		return !strings.ContainsRune("/._-+,:@%", r) && !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}) < 0 {
		return p
	}
	return "'" + strings.ReplaceAll(p, "'", `'\''`) + "'"
}

// explainAll lets every error of the database be explained.
func (s *Store) explainAll() error {
	explain := func(tx *gorm.DB) {
		if tx.Error != nil && !errors.Is(tx.Error, gorm.ErrRecordNotFound) {
			tx.Error = s.explained(tx.Error)
		}
	}
	on := s.db.Callback()
	return errors.Join(
		on.Query().After("*").Register("ivelt:explain", explain),
		on.Create().After("*").Register("ivelt:explain", explain),
		on.Update().After("*").Register("ivelt:explain", explain),
		on.Delete().After("*").Register("ivelt:explain", explain),
		on.Row().After("*").Register("ivelt:explain", explain),
		on.Raw().After("*").Register("ivelt:explain", explain),
	)
}

// unwritable says what to do about a data folder that cannot be made or written.
func unwritable(dir string, err error) error {
	switch {
	case errors.Is(err, syscall.ENOSPC):
		return say.Errorf("the data folder %s: %w (%w). Make room on that disk and try again", dir, ErrFull, err)
	case errors.Is(err, fs.ErrPermission), errors.Is(err, syscall.EROFS):
		return say.Errorf("the data folder %s: %w (%w). Look at who owns it, or name another with --dir", dir, ErrReadOnly, err)
	}
	return say.Errorf("the data folder: %w", err)
}
