package store

import (
	"errors"
	"io/fs"
	"os"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// TurningRow is what turns on a desk, between light and dark or from one backdrop to the
// next, and how far it has come.
type TurningRow struct {
	Desk       string `gorm:"primaryKey"`
	Checkpoint uint   `gorm:"primaryKey;autoIncrement:false"` // the entry of the history that started it
	Since      time.Time
	Turns      int       // of its show
	Due        time.Time // zero if no time tells
	Paused     bool      // by the person
	Stopped    string    // why it has stopped for good; "" if it has not
	Told       []byte    // what it left surfaces told, as JSON
}

// Turning returns what an entry of the history started on a desk, or [ErrNone].
func (s *Store) Turning(desk string, checkpoint uint) (TurningRow, error) {
	return first[TurningRow](s.db.Where("desk = ? AND checkpoint = ?", desk, checkpoint))
}

// SaveTurning changes some of what is known of what turns, by the names of the fields, and
// leaves the rest, which another program may have changed meanwhile; all where nothing is known.
func (s *Store) SaveTurning(t TurningRow, fields ...string) error {
	return s.explained(s.db.Transaction(func(tx *gorm.DB) error { return t.save(tx, fields) }))
}

func (t *TurningRow) save(tx *gorm.DB, fields []string) error {
	made := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(t)
	if made.Error != nil || made.RowsAffected > 0 {
		return made.Error
	}
	return tx.Model(&TurningRow{}).Where("desk = ? AND checkpoint = ?", t.Desk, t.Checkpoint).Select(fields).Updates(*t).Error
}

// turned are the fields that a turn changes.
var turned = []string{"Since", "Turns", "Due", "Told"}

// Started are the entries of a history but for turns, which go back with what started them.
func Started(rows []CheckpointRow) []CheckpointRow {
	return slices.DeleteFunc(rows, func(c CheckpointRow) bool { return c.TurnOf > 0 })
}

// replace takes away an entry of the history that another one has taken in.
func (a *Applied) replace(tx *gorm.DB) error {
	if a.Replaces == 0 {
		return nil
	}
	return errors.Join(
		tx.Where("checkpoint = ?", a.Replaces).Delete(&OutfitRow{}).Error,
		tx.Where("id = ? AND turn_of > 0", a.Replaces).Delete(&CheckpointRow{}).Error,
	)
}

// unwrite takes the file of such an entry away.
func (s *Store) unwrite(desk string, id uint) error {
	if id == 0 {
		return nil
	}
	if err := os.Remove(s.entryFile(CheckpointRow{Desk: desk, ID: id})); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}
