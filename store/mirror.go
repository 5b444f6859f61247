package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"gorm.io/gorm"

	"ivelt/core/say"
)

// historyName is the folder in which each entry of the history is a file too, so
// that it can be gone back on even if the database is lost.
const historyName = "history"

// entry is such a file: what [Store.Commit] was told.
type entry struct {
	Format  int `json:"format"`
	Applied Applied
}

const entryFormat = 1

func (s *Store) entryFile(c CheckpointRow) string {
	return filepath.Join(s.Dir, historyName, url.PathEscape(c.Desk), fmt.Sprintf("%08d.json", c.ID))
}

// mirror renews the files of entries of the history.
func (s *Store) mirror(ids ...uint) error {
	for _, id := range ids {
		c, err := s.Checkpoint(id)
		if err != nil {
			return err
		}
		e, err := readEntry(s.entryFile(c))
		if err != nil { // none, or no more: as the database has it
			if e.Applied, err = s.asApplied(c); err != nil {
				return err
			}
		}
		e.Applied.Checkpoint = c
		if err := s.writeEntry(e.Applied); err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) writeEntry(a Applied) error {
	b, err := json.Marshal(entry{entryFormat, a})
	if err != nil {
		return err
	}
	at := s.entryFile(a.Checkpoint)
	if err := os.MkdirAll(filepath.Dir(at), 0o700); err != nil {
		return err
	}
	return writeFile(at, b, 0o600)
}

// mirrorAll writes the files that are missing: a crash came before them, or an
// earlier version did not know them.
func (s *Store) mirrorAll() error {
	var all []CheckpointRow
	if err := s.db.Select("id", "desk").Find(&all).Error; err != nil {
		return err
	}
	there := map[string]bool{}
	files, err := filepath.Glob(filepath.Join(s.Dir, historyName, "*", "*.json"))
	if err != nil {
		return err
	}
	for _, f := range files {
		there[f] = true
	}
	for _, c := range all {
		if !there[s.entryFile(c)] {
			if err := s.mirror(c.ID); err != nil {
				return err
			}
		}
	}
	return nil
}

// asApplied is what the database still knows of what was committed.
func (s *Store) asApplied(c CheckpointRow) (Applied, error) {
	a := Applied{Checkpoint: c}
	var err error
	if a.Plan, err = s.Plan(c.PlanID); err != nil {
		return a, err
	}
	worn, err := first[OutfitRow](s.db.Where("checkpoint = ?", c.ID).Order("id desc"))
	switch {
	case err == nil:
		a.Worn = &worn
	case !errors.Is(err, ErrNone):
		return a, err
	}
	if err := s.db.Model(&CheckpointRow{}).Where("gone_by = ?", c.ID).Pluck("id", &a.GoneOn).Error; err != nil {
		return a, err
	}
	return a, s.db.Where("desk = ? AND plan_id = ?", c.Desk, c.PlanID).Find(&a.Placed).Error
}

func readEntry(file string) (entry, error) {
	var e entry
	b, err := os.ReadFile(file)
	if err == nil {
		err = json.Unmarshal(b, &e)
	}
	if err == nil && e.Format > entryFormat {
		err = say.Errorf("%s: %w", file, ErrNewer)
	}
	return e, err
}

// entriesIn reads the files of the history in the order in which things came
// through, and names those that cannot be read.
func entriesIn(dir string) (out []entry, broken []string, err error) {
	files, err := filepath.Glob(filepath.Join(dir, historyName, "*", "*.json"))
	if err != nil {
		return nil, nil, err
	}
	for _, f := range files {
		e, err := readEntry(f)
		if errors.Is(err, ErrNewer) {
			return nil, nil, err
		}
		if err != nil || e.Applied.Checkpoint.ID == 0 {
			broken = append(broken, f)
			continue
		}
		out = append(out, e)
	}
	slices.SortFunc(out, func(a, b entry) int { return int(a.Applied.Checkpoint.ID) - int(b.Applied.Checkpoint.ID) })
	return out, broken, nil
}

// fromFiles writes into a database what it does not have of the history's files.
func (s *Store) fromFiles() (added int, broken []string, err error) {
	all, broken, err := entriesIn(s.Dir)
	if err != nil {
		return 0, broken, err
	}
	for _, e := range all {
		c := e.Applied.Checkpoint
		have, err := s.Checkpoint(c.ID)
		switch {
		case err == nil && have.Desk == c.Desk && have.PlanID == c.PlanID:
			continue
		case err == nil:
			return added, broken, say.Errorf("the history's file %s is of another history", s.entryFile(c))
		case !errors.Is(err, ErrNone):
			return added, broken, err
		}
		a := e.Applied
		a.Try, a.TrialOf = 0, 0 // what was tried then has ended, or stays
		for i := range a.Placed {
			a.Placed[i].ID = 0
		}
		if a.Worn != nil {
			a.Worn.ID = 0
		}
		a.Checkpoint.GoneOn, a.Checkpoint.GoneBy = nil, 0
		if err := s.db.Transaction(func(tx *gorm.DB) error { return a.write(tx, s.Now()) }); err != nil {
			return added, broken, err
		}
		added++
	}
	return added, broken, nil
}

// journalsIn lists the journals of interrupted changes.
func journalsIn(dir string) ([]string, error) {
	list, err := os.ReadDir(filepath.Join(dir, "journal"))
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	var out []string
	for _, e := range list {
		if strings.HasSuffix(e.Name(), ".json") && !strings.HasPrefix(e.Name(), ".") {
			out = append(out, filepath.Join(dir, "journal", e.Name()))
		}
	}
	return out, nil
}

// Journals lists the journals of changes that were interrupted, or are being made.
func (s *Store) Journals() ([]string, error) { return journalsIn(s.Dir) }
