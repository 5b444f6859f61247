package store

import (
	"errors"

	"gorm.io/gorm"

	"ivelt/core/say"
)

// RunRow is one carrying out of a plan, written down before the first change. The same
// plan may be carried out more than once, so it is the run that is asked about when
// one was interrupted: its checkpoint is written with the change, or not at all.
type RunRow struct {
	ID     string `gorm:"primaryKey"` // drawn by chance; it is in the journal too
	Desk   string
	PlanID string
}

// Begin writes down that a plan is going to be carried out, with the plan. Earlier
// runs on the desk are over by then, and are forgotten.
func (s *Store) Begin(r RunRow, p PlanRow) error {
	return s.explained(s.db.Transaction(func(tx *gorm.DB) error {
		return errors.Join(
			tx.Where("desk = ?", r.Desk).Delete(&RunRow{}).Error,
			tx.Save(&p).Error,
			tx.Create(&r).Error,
		)
	}))
}

// LastRun returns the last run on a desk and its plan, or [ErrNone].
func (s *Store) LastRun(desk string) (RunRow, PlanRow, error) {
	r, err := first[RunRow](s.db.Where("desk = ?", desk))
	if err != nil {
		return r, PlanRow{}, err
	}
	p, err := s.Plan(r.PlanID)
	return r, p, err
}

// Committed reports whether a run came through on a desk. An error is no answer.
func (s *Store) Committed(desk, run string) (bool, error) {
	if run == "" {
		return false, say.Errorf("the run has no name: %w", ErrNone)
	}
	var n int64
	err := s.db.Model(&CheckpointRow{}).Where("desk = ? AND run = ?", desk, run).Count(&n).Error
	return n > 0, err
}

// CommittedLast reports whether a plan is the last that came through on a desk: that
// is all there is to ask of one whose journal names no run, as earlier versions wrote
// them. It could not have been begun again since, for what it finds is what it leaves.
func (s *Store) CommittedLast(desk, plan string) (bool, error) {
	c, err := first[CheckpointRow](s.db.Where("desk = ?", desk).Order("id desc"))
	if errors.Is(err, ErrNone) {
		return false, nil
	}
	return c.PlanID == plan, err
}
