package store

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	"gorm.io/gorm/schema"

	"ivelt/core/market"
)

var models = []any{&DeskRow{}, &ParcelRow{}, &PieceRow{}, &OutfitRow{}, &PlanRow{}, &CheckpointRow{}, &MarketRow{}, &MarketPageRow{}, &MarketEntryRow{}, &PinRow{}, &UndoStepRow{}, &LookRow{}, &TrialRow{}, &RunRow{}, &NoticeRow{}, &DayRow{}, &MakingRow{}, &TurningRow{}, &JourneyRow{}}

// TestEveryFieldHasItsColumn: the migrations make what the code writes.
func TestEveryFieldHasItsColumn(t *testing.T) {
	s, err := Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	defer s.Close()
	for _, m := range models {
		parsed, err := schema.Parse(m, &sync.Map{}, s.db.NamingStrategy)
		require.NoError(t, err)
		for _, f := range parsed.Fields {
			if f.DBName != "" {
				require.True(t, s.db.Migrator().HasColumn(m, f.DBName), "%s.%s", parsed.Table, f.DBName)
			}
		}
	}
}

// heard notes the statements that are run.
type heard struct {
	logger.Interface
	statements map[string]bool
}

func (h *heard) LogMode(logger.LogLevel) logger.Interface { return h }
func (h *heard) Trace(_ context.Context, _ time.Time, of func() (string, int64), _ error) {
	sql, _ := of()
	h.statements[sql] = true
}

// small are the tables that have a few rows, or of which all are asked for.
var small = regexp.MustCompile(`^(markets|desks|parcels|days|trials|pins|plans|notices|market_changes|sqlite_master|pragma_.*|json_each)$`)

// TestNothingIsSearchedThrough: what is asked of the tables that grow is found by an index.
func TestNothingIsSearchedThrough(t *testing.T) {
	s, err := Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	defer s.Close()
	h := &heard{logger.Discard, map[string]bool{}}
	s.db = s.db.Session(&gorm.Session{Logger: h})
	m := MarketRow{Base: "https://example.org"}
	require.NoError(t, s.SaveMarket(&m))
	page := MarketPageRow{Market: m.ID, File: "index.json"}
	_, err = s.SaveMarketPage(t.Context(), page, []market.Entry{{ID: "reef", Name: "Reef", Versions: []market.Version{{File: "a"}}}}, nil)
	require.NoError(t, err)
	require.NoError(t, s.Commit(&Applied{Checkpoint: CheckpointRow{Desk: "d", PlanID: "p", Run: "r"}, Plan: PlanRow{ID: "p", Desk: "d"}, Placed: []PieceRow{{Desk: "d", Path: "/x"}}, Removed: []string{"/y"}}))
	require.NoError(t, s.AddUndoStep(UndoStepRow{Desk: "d"}))
	for _, ask := range []func() error{
		func() error { _, err := s.Pieces("d"); return err },
		func() error { _, err := s.Checkpoints("d"); return err },
		func() error { _, err := s.CommittedLast("d", "p"); return err },
		func() error { _, err := s.Draft("d"); return err },
		func() error { _, err := s.Worn("d"); return err },
		func() error { _, err := s.LastUndoStep("d", true); return err },
		func() error { _, err := s.Looks("d"); return err },
		func() error { _, err := s.Notices(); return err },
		func() error { _, _, err := s.LastRun("d"); return err },
		func() error { _, err := s.Committed("d", "r"); return err },
		func() error { return s.PurgeUndoSteps("d") },
		func() error { return s.Noticed(1) },
		func() error { _, err := s.Trial("d"); return err },
		func() error { _, err := s.MarketEntries(t.Context(), []uint{1}); return err },
		func() error { _, err := s.MarketEntryByKey(m.ID, "reef"); return err },
		func() error { _, err := s.MarketVariants(m.ID, "reef"); return err },
		func() error { _, err := s.MarketFamily(0, "reef"); return err },
		func() error { _, err := s.Pins(t.Context()); return err },
		func() error { return s.TurnPin(m.ID, "reef") },
		func() error {
			_, err := s.ChangeMarket(t.Context(), m.ID, []market.Change{{Gone: "reef"}}, nil)
			return err
		},
		func() error { _, err := s.MarketIDs(t.Context(), 5); return err },
		func() error { _, err := s.MarketChanges(); return err },
		func() error { return s.MarketPagesAre(t.Context(), m.ID, map[string]string{"index.json": "x"}) },
		func() error { _, err := s.DropMarketPage(m.ID, "index.json"); return err },
	} {
		require.NoError(t, none(ask()))
	}
	require.Greater(t, len(h.statements), 25)
	s.db = s.db.Session(&gorm.Session{Logger: logger.Discard})
	for sql := range h.statements {
		if !regexp.MustCompile(`(?i)^\s*(select|delete|update)`).MatchString(sql) {
			continue
		}
		var plan []struct{ Detail string }
		require.NoError(t, s.db.Raw("EXPLAIN QUERY PLAN "+sql).Scan(&plan).Error, sql)
		for _, step := range plan {
			if of, ok := strings.CutPrefix(step.Detail, "SCAN "); ok {
				table, _, _ := strings.Cut(of, " ")
				require.Regexp(t, small, table, fmt.Sprintf("%s\n%v", sql, plan))
			}
		}
	}
}

func none(err error) error {
	if errors.Is(err, ErrNone) {
		return nil
	}
	return err
}
