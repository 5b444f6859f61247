// Package store keeps what Ivelt knows in an SQLite database: the desks, the
// parcels that were fetched, the pieces put in place, outfits, plans and
// checkpoints. File contents lie beside the database, in a [Blobs] folder.
package store

import (
	"context"
	"errors"
	"log/slog"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"golang.org/x/sys/unix"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	_ "modernc.org/sqlite" // the driver "sqlite", without a C compiler

	"ivelt/core/say"
)

// ErrNone: there is no such row.
var ErrNone = errors.New("not in the store")

// Store is an open database. It is safe for concurrent use.
type Store struct {
	db    *gorm.DB
	Blobs Blobs
	Dir   string
	Log   *slog.Logger
	Now   func() time.Time

	release func() // the lock of the data folder
}

// Open opens or makes the database in dir and brings it up to date.
func Open(ctx context.Context, dir string) (*Store, error) {
	for _, sub := range []string{"", "blobs", "parcels", "journal", historyName} {
		if err := os.MkdirAll(filepath.Join(dir, sub), 0o700); err != nil {
			return nil, unwritable(dir, err)
		}
	}
	if fi, err := os.Stat(dir); err == nil && fi.Mode().Perm()&0o077 != 0 { // earlier versions let others look
		if err := os.Chmod(dir, 0o700); err != nil {
			return nil, unwritable(dir, err)
		}
	}
	release, err := lock(filepath.Join(dir, lockName), unix.LOCK_SH|unix.LOCK_NB)
	if errors.Is(err, unix.EWOULDBLOCK) {
		return nil, say.Errorf("the store in %s is just being restored: %w. Try again", dir, ErrLocked)
	}
	if err != nil {
		return nil, unwritable(dir, err)
	}
	s := &Store{Blobs: Blobs{filepath.Join(dir, "blobs")}, Dir: dir, Log: slog.New(slog.DiscardHandler), Now: time.Now, release: release}
	err = s.open()
	if err == nil {
		err = s.migrate(ctx)
	}
	if err == nil {
		err = s.mirrorAll()
	}
	if err != nil {
		s.Close()
		return nil, s.explained(err)
	}
	return s, nil
}

// lockName is the file of a data folder that is locked while its database is open.
const (
	databaseName = "ivelt.db"
	lockName     = ".lock"
)

func (s *Store) open() (err error) {
	s.db, err = openDatabase(filepath.Join(s.Dir, databaseName))
	if err != nil {
		return err
	}
	return s.explainAll()
}

func openDatabase(file string) (*gorm.DB, error) {
	at := url.URL{Scheme: "file", Opaque: (&url.URL{Path: file}).EscapedPath()}
	dsn := at.String() + "?_pragma=journal_mode(WAL)&_pragma=busy_timeout(5000)&_pragma=foreign_keys(1)&_pragma=synchronous(FULL)&_pragma=wal_autocheckpoint(40000)" +
		"&_time_format=sqlite&_timezone=UTC" // the name of a zone may be one that cannot be read again
	return gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{
		Logger: logger.Default.LogMode(logger.Silent),
	})
}

// Tidy lays what was written lately into the database's file (sqlite.org/wal.html, section 3):
// after much was, so that nobody who writes has to wait for it.
func (s *Store) Tidy() error { return s.db.Exec("PRAGMA wal_checkpoint(PASSIVE)").Error }

// Close closes the database.
func (s *Store) Close() error {
	defer s.release()
	if s.db == nil {
		return nil
	}
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.Close()
}

// DeskRow is a desk Ivelt looks after.
type DeskRow struct {
	ID, Title, Home, System, HomePath string
	Seen                              time.Time
}

// ParcelRow is an archive in the library.
type ParcelRow struct {
	SHA256   string `gorm:"primaryKey;column:sha256"`
	Name     string // the file's name
	File     string // host path
	Entry    string // the market entry it came from, or ""
	Market   uint
	Title    string
	Maker    string
	Licence  string
	Version  string
	Format   string
	Bytes    int64
	Entries  int
	Password string // of an encrypted one
	Contents []byte // JSON of what was recognised in it
	Fetched  time.Time
}

// PieceRow is a piece that Ivelt put in place on a desk.
type PieceRow struct {
	ID       uint `gorm:"primaryKey"`
	Desk     string
	Kind     string
	Name     string
	Folder   string
	Path     string // of the desk
	Version  string
	Parcel   string // SHA-256
	PlanID   string
	PlacedAt time.Time
}

// OutfitRow is an outfit file kept by Ivelt; each desk has one draft.
type OutfitRow struct {
	ID         uint `gorm:"primaryKey"`
	Desk       string
	Name       string
	Draft      bool
	Text       []byte
	PlanID     string // the plan that dressed the desk in it
	Checkpoint uint   // the entry of the history that did, or 0
	Changed    time.Time
}

// PlanRow is a plan that was applied or is waiting for review.
type PlanRow struct {
	ID   string `gorm:"primaryKey"`
	Desk string
	JSON []byte
	Made time.Time
}

func first[T any](q *gorm.DB) (T, error) {
	var out T
	err := q.First(&out).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		err = ErrNone
	}
	return out, err
}

// SaveDesk adds a desk or renews what is known of it.
func (s *Store) SaveDesk(d DeskRow) error { return s.db.Save(&d).Error }

// Desks returns the desks that are known.
func (s *Store) Desks() ([]DeskRow, error) {
	var out []DeskRow
	return out, s.db.Find(&out).Error
}

// SaveParcel adds a parcel to the library.
func (s *Store) SaveParcel(p ParcelRow) error { return s.db.Save(&p).Error }

// Parcel returns the parcel with that SHA-256.
func (s *Store) Parcel(sha string) (ParcelRow, error) {
	return first[ParcelRow](s.db.Where("sha256 = ?", sha))
}

// Parcels returns the library, newest first.
func (s *Store) Parcels() ([]ParcelRow, error) {
	var out []ParcelRow
	return out, s.db.Order("rowid desc").Find(&out).Error
}

// Pieces returns what Ivelt put in place on a desk and has not removed.
func (s *Store) Pieces(desk string) ([]PieceRow, error) {
	var out []PieceRow
	return out, s.db.Where("desk = ?", desk).Order("id").Find(&out).Error
}

// Draft returns a desk's draft, or [ErrNone].
func (s *Store) Draft(desk string) (OutfitRow, error) {
	return first[OutfitRow](s.db.Where("desk = ? AND draft", desk))
}

// Worn returns the outfits a desk was dressed in, the last first, but for those
// that were gone back on.
func (s *Store) Worn(desk string) ([]OutfitRow, error) {
	var out []OutfitRow
	return out, s.db.Where("desk = ? AND NOT draft AND NOT EXISTS (SELECT 1 FROM checkpoints WHERE checkpoints.id = outfits.checkpoint AND gone_on IS NOT NULL)", desk).Order("id desc").Find(&out).Error
}

// SaveOutfit adds an outfit, or replaces the one with the same ID.
func (s *Store) SaveOutfit(o *OutfitRow) error {
	o.Changed = s.Now()
	return s.db.Save(o).Error
}

// DropDraft forgets a desk's draft.
func (s *Store) DropDraft(desk string) error {
	return s.db.Where("desk = ? AND draft", desk).Delete(&OutfitRow{}).Error
}

// SavePlan keeps a plan, as the last one.
func (s *Store) SavePlan(p PlanRow) error {
	return s.explained(s.db.Transaction(func(tx *gorm.DB) error {
		return errors.Join(tx.Delete(&PlanRow{}, "id = ?", p.ID).Error, tx.Create(&p).Error)
	}))
}

// Plan returns the plan with that ID.
func (s *Store) Plan(id string) (PlanRow, error) { return first[PlanRow](s.db.Where("id = ?", id)) }

// Used reports whether somebody has done something that a data folder keeps: changed a
// desk, begun a draft, put a look by. It is only looked at.
func Used(dir string) (bool, error) {
	file := filepath.Join(dir, databaseName)
	if _, err := os.Stat(file); errors.Is(err, os.ErrNotExist) {
		list, err := filepath.Glob(filepath.Join(dir, historyName, "*", "*.json"))
		return len(list) > 0, err
	}
	db, err := openDatabase(file)
	if err != nil {
		return false, err
	}
	defer closeDatabase(db)
	for _, table := range []string{"checkpoints", "outfits", "kepts"} {
		if !db.Migrator().HasTable(table) {
			continue
		}
		var n int64
		if err := db.Table(table).Count(&n).Error; err != nil || n > 0 {
			return n > 0, err
		}
	}
	return false, nil
}

// Exists reports whether a data folder has a store.
func Exists(dir string) bool {
	_, err := os.Stat(filepath.Join(dir, databaseName))
	return err == nil
}
