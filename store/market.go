package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
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
	// Of one in shards: whose signature it has to have, "" for nobody's; whose it has by now,
	// if that is another's; and the serial number and the checksum of the index as it was read
	// last.
	Key, OtherKey string
	Serial        int64
	Digest        string
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

// MarketEntryRow is an entry of a market.
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
		for _, text := range []string{"DELETE FROM market_entries WHERE market = ?", "DELETE FROM market_pages WHERE market = ?"} {
			if err := tx.Exec(text, id).Error; err != nil {
				return err
			}
		}
		return errors.Join(tx.Delete(&MarketRow{}, id).Error, counted(tx))
	})
}

// counted notes that the entries of markets have changed.
func counted(tx *gorm.DB) error {
	return tx.Exec("UPDATE market_changes SET count = count + 1 WHERE id = 1").Error
}

// MarketChanges is how often the entries of markets have changed.
func (s *Store) MarketChanges() (count int64, err error) {
	return count, s.db.Raw("SELECT count FROM market_changes WHERE id = 1").Scan(&count).Error
}

// MarketPages returns the files of a market's index as they were last read.
func (s *Store) MarketPages(id uint) ([]MarketPageRow, error) {
	var out []MarketPageRow
	return out, s.db.Where("market = ?", id).Find(&out).Error
}

// DropMarketPage forgets a page that the index does not name any more.
func (s *Store) DropMarketPage(id uint, file string) (out MarketEdit, err error) {
	return out, s.db.Transaction(func(tx *gorm.DB) error {
		out.Gone, err = dropPage(tx, id, file)
		return errors.Join(err, counted(tx))
	})
}

// MarketEdit is what became of entries: rows that are gone, by their numbers, and rows that
// came, which have larger ones.
type MarketEdit struct {
	Gone []uint
	New  []MarketEntryRow
}

func dropPage(tx *gorm.DB, id uint, file string) (gone []uint, err error) {
	if err := tx.Raw("SELECT id FROM market_entries WHERE market = ? AND page = ?", id, file).Scan(&gone).Error; err != nil || len(gone) == 0 {
		return nil, errors.Join(err, tx.Exec("DELETE FROM market_pages WHERE market = ? AND file = ?", id, file).Error)
	}
	for _, text := range []string{
		"DELETE FROM market_entries WHERE market = ? AND page = ?",
		"DELETE FROM market_pages WHERE market = ? AND file = ?",
	} {
		if err := tx.Exec(text, id, file).Error; err != nil {
			return nil, err
		}
	}
	return gone, nil
}

// SaveMarketPage replaces the entries of one page, all or none. progress is
// told how many are written; it may be nil.
func (s *Store) SaveMarketPage(ctx context.Context, p MarketPageRow, entries []market.Entry, progress func(done int)) (out MarketEdit, err error) {
	return out, s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if out.Gone, err = dropPage(tx, p.Market, p.File); err != nil {
			return err
		}
		for _, e := range entries {
			row, err := marketRow(p, e)
			if err != nil {
				return err
			}
			out.New = append(out.New, row)
		}
		if err := addEntries(tx, out.New, progress); err != nil {
			return err
		}
		return errors.Join(tx.Create(&p).Error, counted(tx))
	})
}

// ChangeMarket takes changes of a market, all or none. page says on which page an entry is;
// digest and serial are those of the index that the changes lead to.
func (s *Store) ChangeMarket(ctx context.Context, id uint, changes []market.Change, page func(key string) string) (out MarketEdit, err error) {
	return out, s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var keys []string
		last := map[string]int{} // of two changes of one entry the later counts
		for i, c := range changes {
			key := c.Gone
			if c.Put != nil {
				key = c.Put.ID
			}
			if _, seen := last[key]; !seen {
				keys = append(keys, key)
			}
			last[key] = i
		}
		for some := range slices.Chunk(keys, batch) {
			var gone []uint
			if err := tx.Raw("SELECT id FROM market_entries WHERE key IN ? AND +market = ?", some, id).Scan(&gone).Error; err != nil {
				return err
			}
			if len(gone) > 0 {
				if err := tx.Exec("DELETE FROM market_entries WHERE id IN ?", gone).Error; err != nil {
					return err
				}
				out.Gone = append(out.Gone, gone...)
			}
		}
		for _, key := range keys {
			c := changes[last[key]]
			if c.Put == nil {
				continue
			}
			row, err := marketRow(MarketPageRow{Market: id, File: page(key)}, *c.Put)
			if err != nil {
				return err
			}
			out.New = append(out.New, row)
		}
		slices.Sort(out.Gone)
		return errors.Join(addEntries(tx, out.New, nil), counted(tx))
	})
}

const batch = 500

// columns are those of an entry, in the order of [MarketEntryRow.values].
const columns = "id, market, page, key, kind, name, maker, family, tags, summary, date, likes, rising, lightness, chroma, hue, contrast, roundness, density, measured, packaged, risky, picced, two_forms, licence, dresses, variant_of, made_for, json"

func (m *MarketEntryRow) values() []any {
	return []any{
		m.ID, m.Market, m.Page, m.Key, m.Kind, m.Name, m.Maker, m.Family, m.Tags, m.Summary, m.Date, m.Likes, m.Rising,
		m.Lightness, m.Chroma, m.Hue, m.Contrast, m.Roundness, m.Density, m.Measured, m.Packaged, m.Risky, m.Picced, m.TwoForms,
		m.Licence, m.Dresses, m.VariantOf, m.MadeFor, m.JSON,
	}
}

// rowsAtOnce are written by one statement, which is prepared once: many thousands are written
// in a row.
const rowsAtOnce = 40

// addEntries writes rows, which get the next numbers.
func addEntries(tx *gorm.DB, rows []MarketEntryRow, progress func(done int)) error {
	if len(rows) == 0 {
		return nil
	}
	var last uint
	if err := tx.Raw("SELECT coalesce(max(seq), 0) FROM sqlite_sequence WHERE name = 'market_entries'").Scan(&last).Error; err != nil {
		return err
	}
	one := "(" + strings.TrimSuffix(strings.Repeat("?,", strings.Count(columns, ",")+1), ",") + ")"
	var prepared *sql.Stmt
	defer func() {
		if prepared != nil {
			prepared.Close()
		}
	}()
	done := 0
	for some := range slices.Chunk(rows, rowsAtOnce) {
		args := make([]any, 0, len(some)*30)
		for i := range some {
			last++
			some[i].ID = last
			args = append(args, some[i].values()...)
		}
		text := "INSERT INTO market_entries (" + columns + ") VALUES " + strings.TrimSuffix(strings.Repeat(one+",", len(some)), ",")
		var err error
		if len(some) < rowsAtOnce {
			err = tx.Exec(text, args...).Error
		} else {
			if prepared == nil {
				if prepared, err = tx.Statement.ConnPool.PrepareContext(tx.Statement.Context, text); err != nil {
					return err
				}
			}
			_, err = prepared.ExecContext(tx.Statement.Context, args...)
		}
		if err != nil {
			return err
		}
		for i := range some {
			some[i].JSON = nil // nobody who is told of the rows needs it, and it is most of them
		}
		if done += len(some); progress != nil {
			progress(done)
		}
	}
	return nil
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

// MarketIDs returns the numbers, up to one, of the entries of the markets that are on,
// sorted.
func (s *Store) MarketIDs(ctx context.Context, to uint) ([]uint, error) {
	var out []uint
	return out, s.db.WithContext(ctx).Raw("SELECT id FROM market_entries WHERE id <= ? AND +market IN (SELECT id FROM markets WHERE `on`) ORDER BY id", to).Scan(&out).Error
}

// MarketRows calls visit for each entry of the markets that are on with a number after from,
// without its JSON, by their numbers.
func (s *Store) MarketRows(ctx context.Context, from uint, visit func(MarketEntryRow)) error {
	rows, err := s.db.WithContext(ctx).Model(&MarketEntryRow{}).
		Select("id, market, kind, name, maker, family, tags, summary, date, likes, rising, lightness, chroma, hue, contrast, roundness, density, measured, two_forms, packaged, risky, licence, dresses, made_for, variant_of").
		Where("id > ? AND +market IN (SELECT id FROM markets WHERE `on`)", from).Order("id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var e MarketEntryRow
		if err := rows.Scan(&e.ID, &e.Market, &e.Kind, &e.Name, &e.Maker, &e.Family, &e.Tags, &e.Summary, &e.Date, &e.Likes, &e.Rising,
			&e.Lightness, &e.Chroma, &e.Hue, &e.Contrast, &e.Roundness, &e.Density,
			&e.Measured, &e.TwoForms, &e.Packaged, &e.Risky, &e.Licence, &e.Dresses, &e.MadeFor, &e.VariantOf); err != nil {
			return err
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

// MarketVariants returns an entry of a market and those that are variants of
// it, the entry itself first.
func (s *Store) MarketVariants(id uint, key string) ([]MarketEntryRow, error) {
	var out []MarketEntryRow
	for _, where := range []string{"key = ? AND +market = ?", "variant_of <> '' AND variant_of = ? AND +market = ?"} { // by the small index, not the market's
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
	return out, s.db.Where("family <> '' AND family = ? AND (? = 0 OR +market = ?)", family, id, id).Order("likes DESC").Limit(40).Find(&out).Error
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

// MarketPagesAre notes of pages of a market that they are as an index says by now: what
// changed in them was taken by itself.
func (s *Store) MarketPagesAre(ctx context.Context, id uint, sums map[string]string) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		one, err := tx.Statement.ConnPool.PrepareContext(ctx, "UPDATE market_pages SET e_tag = ? WHERE market = ? AND file = ?")
		if err != nil {
			return err
		}
		defer one.Close()
		for file, sum := range sums {
			if _, err := one.ExecContext(ctx, sum, id, file); err != nil {
				return err
			}
		}
		return nil
	})
}
