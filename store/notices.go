package store

import (
	"errors"
	"time"
)

// NoticeRow is something that happened without the person's doing and that they have
// not seen yet.
type NoticeRow struct {
	ID   uint `gorm:"primaryKey"`
	Desk string
	Text string
	At   time.Time
}

// Notify keeps a notice until it is seen, or until the desk is changed again.
func (s *Store) Notify(desk, text string) error {
	return s.db.Create(&NoticeRow{Desk: desk, Text: text, At: s.Now()}).Error
}

// Notices lists what was not seen yet, the oldest first.
func (s *Store) Notices() ([]NoticeRow, error) {
	var out []NoticeRow
	return out, s.db.Order("id").Find(&out).Error
}

// Noticed forgets notices up to one of them: they were seen.
func (s *Store) Noticed(upTo uint) error {
	return s.db.Where("id <= ?", upTo).Delete(&NoticeRow{}).Error
}

// DayRow counts the days on which a data folder was in use. A clock that is set wrong
// makes one day of many, not many of one.
type DayRow struct {
	ID    uint `gorm:"primaryKey"`
	Date  string
	Count int
}

// Day returns today's number, from 1.
func (s *Store) Day() (int, error) {
	d, err := first[DayRow](s.db)
	if err != nil && !errors.Is(err, ErrNone) {
		return 0, err
	}
	if today := s.Now().UTC().Format("2006-01-02"); d.Date != today {
		d.ID, d.Date, d.Count = 1, today, d.Count+1
		if err := s.db.Save(&d).Error; err != nil {
			return 0, err
		}
	}
	return d.Count, nil
}
