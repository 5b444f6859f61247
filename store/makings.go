package store

import "time"

// MakingRow is the recipe of a layer that is being made on a desk.
type MakingRow struct {
	Desk string `gorm:"primaryKey"`
	Text []byte // a recipe's file
	Made time.Time
}

// Making returns what is being made on a desk, or [ErrNone].
func (s *Store) Making(desk string) (MakingRow, error) {
	return first[MakingRow](s.db.Where("desk = ?", desk))
}

// SaveMaking keeps it, in the place of what was kept before.
func (s *Store) SaveMaking(m MakingRow) error {
	m.Made = time.Now()
	return s.db.Save(&m).Error
}

// DropMaking forgets it.
func (s *Store) DropMaking(desk string) error {
	return s.db.Where("desk = ?", desk).Delete(&MakingRow{}).Error
}
