package store

import (
	"errors"
	"time"

	"gorm.io/gorm"

	"ivelt/core/say"
)

// CheckpointRow is an entry of a desk's history: an applied plan, and what is kept
// so that it can be gone back on.
type CheckpointRow struct {
	ID      uint `gorm:"primaryKey"`
	Desk    string
	PlanID  string
	Title   string
	At      time.Time
	GoneOn  *time.Time // when it was gone back on
	GoneBy  uint       // the entry that went back on it
	IsBack  bool       // it is itself a going back
	Changes int
	Bytes   int64      // of what is kept for it
	Pinned  bool       // it is never let go by itself
	Purged  *time.Time `gorm:"column:let_go" json:"LetGo"` // when what was kept was deleted: it can no longer be undone
	Run     string     // the [Run] that came through
	Day     int        // of use, see [Store.Day]
	AskedBy string     `json:",omitempty"` // who became administrator for it; "" on a person's desk
	Note    string     `json:",omitempty"` // a sentence of its owner's
	AsIs    bool       `json:",omitempty"` // nothing was changed: the desk was kept as it was
	TurnOf  uint       `json:",omitempty"` // it is a turn of what that entry started, and goes back with it
}

// TrialRow is a change that is tried: unless it is kept, it is gone back on.
type TrialRow struct {
	Desk       string `gorm:"primaryKey"`
	Checkpoint uint
	Until      time.Time
	For        time.Duration // it is tried for no longer than that, whatever the clock says
	Restarted  string        // the surfaces that were started again meanwhile, a line each
}

// Checkpoints returns a desk's history, newest first.
func (s *Store) Checkpoints(desk string) ([]CheckpointRow, error) {
	var out []CheckpointRow
	return out, s.db.Where("desk = ?", desk).Order("id desc").Find(&out).Error
}

// Checkpoint returns one entry of the history.
func (s *Store) Checkpoint(id uint) (CheckpointRow, error) {
	return first[CheckpointRow](s.db.Where("id = ?", id))
}

// PinCheckpoint keeps an entry of the history from being let go, or no longer.
func (s *Store) PinCheckpoint(id uint, pinned bool) error {
	err := s.db.Model(&CheckpointRow{}).Where("id = ?", id).Update("pinned", pinned).Error
	return errors.Join(err, s.mirror(id))
}

// NoteCheckpoint writes a sentence beside an entry of the history; "" takes it away.
func (s *Store) NoteCheckpoint(id uint, note string) error {
	err := s.db.Model(&CheckpointRow{}).Where("id = ?", id).Update("note", note).Error
	return errors.Join(err, s.mirror(id))
}

// Purge marks entries as such that can no longer be gone back on.
func (s *Store) Purge(ids []uint) error {
	err := s.db.Model(&CheckpointRow{}).Where("id IN ?", ids).Updates(map[string]any{"let_go": s.Now(), "pinned": false}).Error
	return errors.Join(err, s.mirror(ids...))
}

// PlansNeeded lists the plans of which what was kept is needed: those of every entry
// of every desk's history that can be gone back on, and those that were not carried
// out.
func (s *Store) PlansNeeded() ([]PlanRow, error) {
	var out []PlanRow
	return out, s.db.Where("id IN (SELECT plan_id FROM checkpoints WHERE let_go IS NULL) OR id NOT IN (SELECT plan_id FROM checkpoints)").Find(&out).Error
}

// maxWaiting bounds how many plans are kept that were reviewed and not carried out.
const maxWaiting = 100

// PrunePlans forgets plans that nothing refers to, but for the last ones.
func (s *Store) PrunePlans() error {
	return s.db.Exec(`DELETE FROM plans WHERE id IN (SELECT id FROM plans
		WHERE id NOT IN (SELECT plan_id FROM checkpoints) AND id NOT IN (SELECT plan_id FROM pieces) AND id NOT IN (SELECT plan_id FROM runs)
		ORDER BY rowid DESC LIMIT -1 OFFSET ?)`, maxWaiting).Error
}

// Trial returns what is tried on a desk, or [ErrNone].
func (s *Store) Trial(desk string) (TrialRow, error) {
	return first[TrialRow](s.db.Where("desk = ?", desk))
}

// SaveTrial changes what is known of a trial.
func (s *Store) SaveTrial(t TrialRow) error { return s.db.Save(&t).Error }

// KeepTrial ends a trial: what was tried stays. It is [ErrNone] if it has ended.
func (s *Store) KeepTrial(desk string, checkpoint uint) error {
	return endTrial(s.db, desk, checkpoint)
}

func endTrial(tx *gorm.DB, desk string, checkpoint uint) error {
	done := tx.Where("desk = ? AND checkpoint = ?", desk, checkpoint).Delete(&TrialRow{})
	if done.Error == nil && done.RowsAffected == 0 {
		return say.Errorf("the trial: %w", ErrNone)
	}
	return done.Error
}

// Applied is what [Store.Commit] writes down of a plan that came through.
type Applied struct {
	Checkpoint CheckpointRow
	Plan       PlanRow
	Placed     []PieceRow    // put in place
	Removed    []string      // paths taken away
	Worn       *OutfitRow    // what the desk wears from now on
	GoneOn     []uint        // the entries that were gone back on
	Try        time.Duration // if above 0, it is gone back on after that time, unless it is kept
	TrialOf    uint          // the entry whose trial ends with this, or 0
	Replaces   uint          // an entry that this one's plan has taken in, see [CheckpointRow.TurnOf]
	Turning    *TurningRow   // how far what turns has come with this
	Noticed    uint          // the last notice from before it, see [Notice]
}

// Commit writes down, all or nothing, that a plan came through. If it fails,
// [Store.Committed] tells whether it did so before or after that.
func (s *Store) Commit(a *Applied) error {
	day, err := s.Day()
	if err != nil {
		return err
	}
	a.Checkpoint.Day = day
	if err := s.db.Transaction(func(tx *gorm.DB) error {
		a.Checkpoint.ID = 0
		return a.write(tx, s.Now())
	}); err != nil {
		return s.explained(err)
	}
	// The files of the history are renewed at the next start if that fails now: the
	// change has come through.
	if err := errors.Join(s.writeEntry(*a), s.mirror(a.GoneOn...), s.unwrite(a.Checkpoint.Desk, a.Replaces)); err != nil {
		s.Log.Error("write the history's file", "desk", a.Checkpoint.Desk, "error", err)
	}
	return nil
}

func (a *Applied) write(tx *gorm.DB, now time.Time) error {
	var errs []error
	do := func(q *gorm.DB) { errs = append(errs, q.Error) }
	do(tx.Save(&a.Plan))
	do(tx.Create(&a.Checkpoint))
	errs = append(errs, a.replace(tx))
	if a.Turning != nil {
		errs = append(errs, a.Turning.save(tx, turned))
	}
	for _, p := range a.Removed {
		do(tx.Where("desk = ? AND path = ?", a.Checkpoint.Desk, p).Delete(&PieceRow{}))
	}
	for i := range a.Placed {
		do(tx.Create(&a.Placed[i]))
	}
	if a.Worn != nil {
		a.Worn.Checkpoint = a.Checkpoint.ID
		do(tx.Create(a.Worn))
	}
	if len(a.GoneOn) > 0 {
		// What these had gone back on is in place again.
		do(tx.Model(&CheckpointRow{}).Where("gone_by IN ?", a.GoneOn).Updates(map[string]any{"gone_on": nil, "gone_by": 0}))
		do(tx.Model(&CheckpointRow{}).Where("id IN ?", a.GoneOn).Updates(map[string]any{"gone_on": a.Checkpoint.At, "gone_by": a.Checkpoint.ID}))
	}
	if a.Try > 0 {
		do(tx.Create(&TrialRow{Desk: a.Checkpoint.Desk, Checkpoint: a.Checkpoint.ID, Until: now.Add(a.Try), For: a.Try}))
	}
	if a.TrialOf != 0 {
		errs = append(errs, endTrial(tx, a.Checkpoint.Desk, a.TrialOf))
	}
	do(tx.Where("desk = ? AND id <= ?", a.Checkpoint.Desk, a.Noticed).Delete(&NoticeRow{})) // they were of before it
	return errors.Join(errs...)
}
