package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"ivelt/core/market"
)

// MarketRow is a market that is looked through.
type MarketRow struct {
	ID      uint   `gorm:"primaryKey"`
	Base    string // address, or a folder
	Name    string
	About   string
	On      bool
	Own     bool      // it came with Ivelt, and where it is may change
	Seen    time.Time // when its index was last read
	Trouble string    // why it could not be read last time, or ""
}

// Address tells whether the market is at an address, not in a folder.
func (m MarketRow) Address() bool { return strings.HasPrefix(m.Base, "http") }

// MarketPageRow is a file of a market's index as it was last read.
type MarketPageRow struct {
	Market uint   `gorm:"primaryKey;autoIncrement:false"`
	File   string `gorm:"primaryKey"`
	ETag   string // for asking whether it has changed (RFC 9110, section 13)
	When   string // the same, its Last-Modified
	Pages  string // for the top: further files, by line
}

// MarketEntryRow is an entry of a market. Its words are searched through the
// table market_words.
type MarketEntryRow struct {
	ID                                uint `gorm:"primaryKey"`
	Market                            uint
	Page                              string
	Key                               string // the entry's id in its market
	Kind, Name, Maker                 string
	Family                            string
	Tags, Summary                     string
	Date                              int // of the newest version, 20261125
	Likes, Rising                     int
	Lightness, Chroma, Hue            float64
	Contrast, Roundness, Density      float64
	Measured, Packaged, Risky, Picced bool
	TwoForms                          bool // light and dark
	Licence, Dresses                  string
	VariantOf                         string
	MadeFor                           string // surface=version, by blanks
	JSON                              []byte
}

// Entry returns what the market says.
func (m MarketEntryRow) Entry() (market.Entry, error) {
	var e market.Entry
	return e, json.Unmarshal(m.JSON, &e)
}

// Markets returns the markets in the order they were added.
func (s *Store) Markets() ([]MarketRow, error) {
	var out []MarketRow
	return out, s.db.Order("id").Find(&out).Error
}

// SaveMarket adds a market, or renews what is known of it.
func (s *Store) SaveMarket(m *MarketRow) error { return s.db.Save(m).Error }

// DropMarket forgets a market and its entries.
func (s *Store) DropMarket(id uint) error {
	return s.db.Transaction(func(tx *gorm.DB) error {
		var pages []MarketPageRow
		if err := tx.Where("market = ?", id).Find(&pages).Error; err != nil {
			return err
		}
		for _, p := range pages {
			if err := dropPage(tx, id, p.File); err != nil {
				return err
			}
		}
		return tx.Delete(&MarketRow{}, id).Error
	})
}

// MarketPages returns the files of a market's index as they were last read.
func (s *Store) MarketPages(id uint) ([]MarketPageRow, error) {
	var out []MarketPageRow
	return out, s.db.Where("market = ?", id).Find(&out).Error
}

// DropMarketPage forgets a page that the index does not name any more.
func (s *Store) DropMarketPage(id uint, file string) error {
	return s.db.Transaction(func(tx *gorm.DB) error { return dropPage(tx, id, file) })
}

func dropPage(tx *gorm.DB, id uint, file string) error {
	for _, sql := range []string{
		"DELETE FROM market_words WHERE rowid IN (SELECT id FROM market_entries WHERE market = ? AND page = ?)",
		"DELETE FROM market_entries WHERE market = ? AND page = ?",
		"DELETE FROM market_pages WHERE market = ? AND file = ?",
	} {
		if err := tx.Exec(sql, id, file).Error; err != nil {
			return err
		}
	}
	return nil
}

const batch = 500

// SaveMarketPage replaces the entries of one page, all or none. progress is
// told how many are written; it may be nil.
func (s *Store) SaveMarketPage(ctx context.Context, p MarketPageRow, entries []market.Entry, progress func(done int)) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := dropPage(tx, p.Market, p.File); err != nil {
			return err
		}
		rows := make([]MarketEntryRow, 0, batch)
		for i, e := range entries {
			row, err := marketRow(p, e)
			if err != nil {
				return err
			}
			rows = append(rows, row)
			if len(rows) < batch && i < len(entries)-1 {
				continue
			}
			if err := tx.CreateInBatches(rows, batch).Error; err != nil {
				return err
			}
			rows = rows[:0]
			if progress != nil {
				progress(i + 1)
			}
		}
		err := tx.Exec(`INSERT INTO market_words(rowid, name, maker, family, tags, summary, kind)
			SELECT id, name, maker, family, tags, summary, kind FROM market_entries WHERE market = ? AND page = ?`, p.Market, p.File).Error
		if err != nil {
			return err
		}
		return tx.Create(&p).Error
	})
}

func marketRow(p MarketPageRow, e market.Entry) (MarketEntryRow, error) {
	b, err := json.Marshal(e)
	if err != nil {
		return MarketEntryRow{}, err
	}
	date, _ := strconv.Atoi(strings.ReplaceAll(e.Newest().Date, "-", ""))
	row := MarketEntryRow{
		Market: p.Market, Page: p.File, Key: e.ID, Kind: e.Kind, Name: e.Name, Maker: e.Maker, Family: e.Family,
		Tags: strings.Join(e.Tags, " "), Summary: e.Summary, Date: date, Likes: e.Liked(), Rising: e.Rising(),
		Packaged: e.Packaged != "", Risky: risky(e.Stability) || risky(e.Newest().Stability), Picced: len(e.Pictures) > 0,
		Licence: e.Licence, Dresses: strings.Join(e.Dresses, " "), VariantOf: e.VariantOf, MadeFor: madeFor(e.MadeFor), JSON: b,
	}
	if l := e.Looks; l != nil {
		row.Measured, row.TwoForms = true, l.TwoForms
		row.Lightness, row.Chroma, row.Hue, row.Contrast, row.Roundness, row.Density = l.Lightness, l.Chroma, l.Hue, l.Contrast, l.Roundness, l.Density
	}
	return row, nil
}

func madeFor(versions map[string]string) string {
	var out []string
	for _, surface := range slices.Sorted(maps.Keys(versions)) {
		out = append(out, surface+"="+versions[surface])
	}
	return strings.Join(out, " ")
}

func risky(stability string) bool { return stability == "crashes" || stability == "nightly" }

// MarketRows calls visit for each entry of the markets that are on, without
// its JSON, its words and its texts.
func (s *Store) MarketRows(ctx context.Context, visit func(MarketEntryRow)) error {
	rows, err := s.db.WithContext(ctx).Model(&MarketEntryRow{}).
		Select("id, market, kind, date, likes, rising, lightness, chroma, hue, contrast, roundness, density, measured, two_forms, packaged, risky, licence, dresses, made_for, variant_of <> ''").
		Where("market IN (SELECT id FROM markets WHERE `on`)").Order("id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var e MarketEntryRow
		var variant bool
		if err := rows.Scan(&e.ID, &e.Market, &e.Kind, &e.Date, &e.Likes, &e.Rising, &e.Lightness, &e.Chroma, &e.Hue, &e.Contrast, &e.Roundness, &e.Density,
			&e.Measured, &e.TwoForms, &e.Packaged, &e.Risky, &e.Licence, &e.Dresses, &e.MadeFor, &variant); err != nil {
			return err
		}
		if variant {
			e.VariantOf = "-"
		}
		visit(e)
	}
	return rows.Err()
}

// MarketEntries returns entries by their row numbers, in that order.
func (s *Store) MarketEntries(ctx context.Context, ids []uint) ([]MarketEntryRow, error) {
	var found []MarketEntryRow
	if err := s.db.WithContext(ctx).Where("id IN ?", ids).Find(&found).Error; err != nil {
		return nil, err
	}
	at := map[uint]MarketEntryRow{}
	for _, e := range found {
		at[e.ID] = e
	}
	var out []MarketEntryRow
	for _, id := range ids {
		if e, ok := at[id]; ok {
			out = append(out, e)
		}
	}
	return out, nil
}

// Offered is a piece in place that a market has, and the parcel it came in.
type Offered struct {
	Piece  PieceRow
	Parcel ParcelRow // its version and checksum alone
	Entry  MarketEntryRow
}

// Offered lists a desk's pieces that came from a market, each with its entry there; a parcel
// of market 0 may be in any that is on.
func (s *Store) Offered(desk string) ([]Offered, error) {
	var pairs []struct {
		Piece, Entry    uint
		Version, Sha256 string
	}
	err := s.db.Raw(`SELECT p.id AS piece, MIN(e.id) AS entry, c.version AS version, c.sha256 AS sha256
		FROM pieces p JOIN parcels c ON c.sha256 = p.parcel AND c.entry <> ''
		JOIN market_entries e ON e.key = c.entry AND (e.market = c.market OR c.market = 0 AND e.market IN (SELECT id FROM markets WHERE `+"`on`"+`))
		WHERE p.desk = ? GROUP BY p.id ORDER BY p.id`, desk).Scan(&pairs).Error
	if err != nil || len(pairs) == 0 {
		return nil, err
	}
	var ids []uint
	for _, p := range pairs {
		ids = append(ids, p.Entry)
	}
	var entries []MarketEntryRow
	pieces, err := s.Pieces(desk)
	if err := errors.Join(err, s.db.Where("id IN ?", ids).Find(&entries).Error); err != nil {
		return nil, err
	}
	var out []Offered
	for _, p := range pairs {
		i := slices.IndexFunc(pieces, func(row PieceRow) bool { return row.ID == p.Piece })
		k := slices.IndexFunc(entries, func(row MarketEntryRow) bool { return row.ID == p.Entry })
		if i >= 0 && k >= 0 {
			out = append(out, Offered{pieces[i], ParcelRow{SHA256: p.Sha256, Version: p.Version}, entries[k]})
		}
	}
	return out, nil
}

// MarketEntryByKey returns an entry by its id in its market; market 0 stands
// for any that is on.
func (s *Store) MarketEntryByKey(id uint, key string) (MarketEntryRow, error) {
	q := s.db.Where("key = ?", key).Order("id")
	if id != 0 {
		q = q.Where("+market = ?", id)
	} else {
		q = q.Where("+market IN (SELECT id FROM markets WHERE `on`)")
	}
	return first[MarketEntryRow](q)
}

// Match returns the row numbers of the entries that match an FTS5 expression
// (sqlite.org/fts5.html, section 3), in order.
func (s *Store) Match(ctx context.Context, expression string) ([]uint, error) {
	// One long text instead of a row each: several times as fast.
	var text *string
	if err := s.db.WithContext(ctx).Raw("SELECT group_concat(rowid) FROM market_words WHERE market_words MATCH ?", expression).Scan(&text).Error; err != nil {
		return nil, fmt.Errorf("search: %w", err)
	}
	if text == nil {
		return nil, nil
	}
	out := make([]uint, 0, len(*text)/6+1)
	n := uint(0)
	for i := range len(*text) {
		if c := (*text)[i]; c == ',' {
			out = append(out, n)
			n = 0
		} else {
			n = n*10 + uint(c-'0')
		}
	}
	return append(out, n), nil
}

// MarketTerms returns the words that entries are found by, sorted.
func (s *Store) MarketTerms(ctx context.Context) ([]string, error) {
	var out []string
	err := s.db.WithContext(ctx).Raw("SELECT term FROM market_terms ORDER BY term").Scan(&out).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		err = nil
	}
	return out, err
}

// MarketVariants returns an entry of a market and those that are variants of
// it, the entry itself first.
func (s *Store) MarketVariants(id uint, key string) ([]MarketEntryRow, error) {
	var out []MarketEntryRow
	for _, where := range []string{"key = ? AND +market = ?", "variant_of = ? AND +market = ?"} { // by the small index, not the market's
		var found []MarketEntryRow
		if err := s.db.Where(where, key, id).Order("id").Find(&found).Error; err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return out, nil
}

// MarketFamily returns the entries of a market that are of one family, most
// liked first.
func (s *Store) MarketFamily(id uint, family string) ([]MarketEntryRow, error) {
	var out []MarketEntryRow
	return out, s.db.Where("family = ? AND (? = 0 OR +market = ?)", family, id, id).Order("likes DESC").Limit(40).Find(&out).Error
}

// PinRow is an entry on the shortlist.
type PinRow struct {
	Market uint   `gorm:"primaryKey;autoIncrement:false"`
	Key    string `gorm:"primaryKey"`
	At     time.Time
}

// Pins returns the shortlist's entries that are still there, oldest first.
func (s *Store) Pins(ctx context.Context) ([]MarketEntryRow, error) {
	var out []MarketEntryRow
	// A cross join begins with the few pins (sqlite.org/optoverview.html, section 8.2).
	return out, s.db.WithContext(ctx).Table("pins").Select("market_entries.*").
		Joins("CROSS JOIN market_entries ON market_entries.key = pins.key AND +market_entries.market = pins.market").
		Order("pins.at").Find(&out).Error
}

// TurnPin puts an entry on the shortlist, or takes it off if it is on it.
func (s *Store) TurnPin(id uint, key string) error {
	return s.db.Transaction(func(tx *gorm.DB) error {
		done := tx.Where("market = ? AND key = ?", id, key).Delete(&PinRow{})
		if done.Error != nil || done.RowsAffected > 0 {
			return done.Error
		}
		return tx.Create(&PinRow{id, key, time.Now()}).Error
	})
}

// EntriesNamed returns the markets' entries of a name, whatever its case.
func (s *Store) EntriesNamed(name string) ([]MarketEntryRow, error) {
	var out []MarketEntryRow
	return out, s.db.Where("lower(name) = lower(?)", name).Order("likes desc").Limit(5).Find(&out).Error
}
