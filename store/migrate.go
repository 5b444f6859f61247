package store

import (
	"context"
	"embed"
	"fmt"
	"path"
	"strconv"
	"strings"

	"gorm.io/gorm"

	"ivelt/core/say"
)

// The migrations are run once each, in the order of their numbers. The number of one is the
// version that it leads to, which is the database's user_version then. One that has landed
// never changes: add a file with the next number. (2 and 3 never stood by themselves.)
//
//go:embed migrations/*.sql
var migrationFiles embed.FS

type migration struct {
	to  int
	sql string
}

var migrations = func() (out []migration) {
	list, err := migrationFiles.ReadDir("migrations")
	if err != nil {
		panic(err)
	}
	for _, e := range list {
		number, _, _ := strings.Cut(e.Name(), "-")
		to, err := strconv.Atoi(number)
		if err != nil {
			panic(err)
		}
		text, err := migrationFiles.ReadFile(path.Join("migrations", e.Name()))
		if err != nil {
			panic(err)
		}
		out = append(out, migration{to, string(text)})
	}
	return out
}()

// Version is what a data folder of this Ivelt carries.
var Version = migrations[len(migrations)-1].to

func (s *Store) migrate(ctx context.Context) error {
	var done int
	if err := s.db.Raw("PRAGMA user_version").Scan(&done).Error; err != nil {
		return err
	}
	if done > Version {
		return say.Errorf("the data folder %s has version %d, and this Ivelt knows %d: %w. Start that one, or name another folder; nothing was changed", s.Dir, done, Version, ErrNewer)
	}
	if done > 0 && done < Version {
		if err := s.copy(ctx, fmt.Sprintf("%s%d", before, Version), before, keptBefore); err != nil {
			return err
		}
	}
	for _, m := range migrations {
		if m.to <= done {
			continue
		}
		if err := s.db.Transaction(m.run); err != nil {
			return say.Errorf("bring the data folder %s up to date, from version %d: %w", s.Dir, done, err)
		}
	}
	return nil
}

func (m migration) run(tx *gorm.DB) error {
	if m.to == 10 {
		if err := missing(tx); err != nil {
			return err
		}
	}
	if err := tx.Exec(m.sql).Error; err != nil {
		return err
	}
	return tx.Exec(fmt.Sprintf("PRAGMA user_version = %d", m.to)).Error
}

// missing adds the column that a database has if it was made by version 6 or later, and has
// not if it was brought up to that.
func missing(tx *gorm.DB) error {
	var n int
	if err := tx.Raw("SELECT count(*) FROM pragma_table_info('market_entries') WHERE name = 'made_for'").Scan(&n).Error; err != nil || n > 0 {
		return err
	}
	return tx.Exec("ALTER TABLE market_entries ADD COLUMN made_for text").Error
}
