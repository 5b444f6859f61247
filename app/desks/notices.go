package desks

import (
	"fmt"
	"log/slog"

	"ivelt/store"
)

// Notices are what was found and mended by itself, to be told until it is seen.
type Notices struct {
	store noticeStore
	log   *slog.Logger
}

type noticeStore interface {
	Notify(desk, text string) error
	Notices() ([]store.NoticeRow, error)
	Noticed(upTo uint) error
}

// NewNotices keeps notices in a store.
func NewNotices(s noticeStore, log *slog.Logger) *Notices { return &Notices{s, log} }

// Add keeps something to be told until it is seen.
func (n *Notices) Add(d *Managed, format string, args ...any) {
	text := fmt.Sprintf(format, args...)
	n.log.Warn("notice", "desk", d.ID, "text", text)
	if err := n.store.Notify(d.ID, text); err != nil {
		n.log.Error("keep a notice", "error", err)
	}
}

// All are those that were not seen yet.
func (n *Notices) All() []store.NoticeRow {
	all, err := n.store.Notices()
	if err != nil {
		n.log.Error("read the notices", "error", err)
	}
	return all
}

// Seen puts away what was told, up to a number, once it was read.
func (n *Notices) Seen(upTo uint) error { return n.store.Noticed(upTo) }
