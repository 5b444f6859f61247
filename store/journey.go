package store

import "time"

// JourneyRow is a desk under a lock on its way to a look, or the last one that it was on.
type JourneyRow struct {
	Desk   string `gorm:"primaryKey"`
	ID     string
	Begun  []byte     // how the desk was, as JSON
	Outfit []byte     // the look, as an outfit file
	Again  bool       // an update had undone it
	Done   string     // the steps that are confirmed, a line each
	Ways   []byte     // the ways back, by the plans that they lead back on, as JSON
	First  uint       // the last entry of the history from before it
	Ended  *time.Time // when its person kept it
}

// Journey returns the journey of a desk, or [ErrNone].
func (s *Store) Journey(desk string) (JourneyRow, error) {
	return first[JourneyRow](s.db.Where("desk = ?", desk))
}

// SaveJourney writes down where a journey is.
func (s *Store) SaveJourney(j JourneyRow) error { return s.explained(s.db.Save(&j).Error) }

// DropJourney forgets the journey of a desk.
func (s *Store) DropJourney(desk string) error {
	return s.explained(s.db.Where("desk = ?", desk).Delete(&JourneyRow{}).Error)
}
