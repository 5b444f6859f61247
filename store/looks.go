package store

import "time"

// UndoStepRow is one change of a desk's draft; it can be undone and done again.
type UndoStepRow struct {
	ID            uint `gorm:"primaryKey"`
	Desk          string
	Title         string
	Before, After []byte // outfit files; nil for no draft
	Undone        bool
	Made          time.Time
}

// LookRow is a look that was put by to be compared or taken later.
type LookRow struct {
	ID   uint `gorm:"primaryKey"`
	Desk string
	Name string
	Text []byte // an outfit file
	Made time.Time
}

// maxSteps bounds how far back a draft can be undone.
const maxSteps = 200

// AddUndoStep keeps a change of a draft; what was undone can no longer be done again.
func (s *Store) AddUndoStep(step UndoStepRow) error {
	if err := s.db.Where("desk = ? AND undone", step.Desk).Delete(&UndoStepRow{}).Error; err != nil {
		return err
	}
	step.Made = time.Now()
	if err := s.db.Create(&step).Error; err != nil {
		return err
	}
	return s.db.Where("desk = ? AND id <= ?", step.Desk, int64(step.ID)-maxSteps).Delete(&UndoStepRow{}).Error
}

// LastUndoStep returns the change to undo, or the one to do again, or [ErrNone].
func (s *Store) LastUndoStep(desk string, undone bool) (UndoStepRow, error) {
	order := "id desc"
	if undone {
		order = "id"
	}
	return first[UndoStepRow](s.db.Where("desk = ? AND undone = ?", desk, undone).Order(order))
}

// MarkUndoStep says whether a change is undone.
func (s *Store) MarkUndoStep(id uint, undone bool) error {
	return s.db.Model(&UndoStepRow{}).Where("id = ?", id).Update("undone", undone).Error
}

// PurgeUndoSteps drops the changes of a desk's draft.
func (s *Store) PurgeUndoSteps(desk string) error {
	return s.db.Where("desk = ?", desk).Delete(&UndoStepRow{}).Error
}

// Looks returns the looks that were put by for a desk, the oldest first.
func (s *Store) Looks(desk string) ([]LookRow, error) {
	var out []LookRow
	return out, s.db.Where("desk = ?", desk).Order("id").Find(&out).Error
}

// Look returns one of them, or [ErrNone].
func (s *Store) Look(desk string, id uint) (LookRow, error) {
	return first[LookRow](s.db.Where("desk = ? AND id = ?", desk, id))
}

// SaveLook adds a look, or replaces the one with the same ID.
func (s *Store) SaveLook(k *LookRow) error {
	if k.Made.IsZero() {
		k.Made = time.Now()
	}
	return s.db.Save(k).Error
}

// DropLook forgets a look.
func (s *Store) DropLook(desk string, id uint) error {
	return s.db.Where("desk = ? AND id = ?", desk, id).Delete(&LookRow{}).Error
}
