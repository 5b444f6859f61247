package markets

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net/http"
	"runtime"

	"golang.org/x/sync/errgroup"

	"ivelt/app/jobs"
	"ivelt/core/market"
	"ivelt/core/say"
	"ivelt/store"
)

// The ways in which the index of a market in shards is refused; what was read before goes on
// being searched.
var (
	ErrBack = errors.New("its index is older than the one that was read")
	ErrTwo  = errors.New("it has two indexes of one serial number")
)

// fetch reads a whole file of a market, of at most so many bytes.
func (m *Markets) fetch(ctx context.Context, src source, file string, most int64, want asked) ([]byte, answer, error) {
	ctx, heard, done := listening(ctx)
	defer done()
	a, err := src.get(ctx, file, want)
	if err != nil || a.unchanged {
		return nil, a, err
	}
	defer a.Close()
	b, err := io.ReadAll(io.LimitReader(steady{a, heard}, most+1))
	if why := context.Cause(ctx); errors.Is(why, errSilent) {
		return nil, a, why
	}
	if err != nil {
		return nil, a, say.Errorf("%w: %w", ErrMarket, err)
	}
	if int64(len(b)) > most {
		return nil, a, say.Errorf("%w: %w: %s has more than %d MB", ErrMarket, market.ErrTooLarge, file, most>>20)
	}
	return b, a, nil
}

// signed tells whether an index has the signature that the market is known by. One that was
// never signed is pinned to its key the first time that it is.
func (m *Markets) signed(ctx context.Context, src source, row *store.MarketRow, index []byte) error {
	signature, _, err := m.fetch(ctx, src, market.SignatureFile, market.MaxSignature, asked{})
	var status *statusError
	none := errors.As(err, &status) && (status.status == http.StatusNotFound || status.status == http.StatusGone)
	switch {
	case none && row.Key == "":
		return nil
	case none:
		return say.Errorf("%w: %w any more, and was by %s", ErrMarket, market.ErrUnsigned, market.Key(row.Key).Short())
	case err != nil:
		return err
	}
	if row.Key != "" {
		err := market.Key(row.Key).Verify(index, signature)
		if errors.Is(err, market.ErrForeign) { // whose it is by now is told, and taken only if the person says so
			if other, e := m.keyOf(ctx, src); e == nil && other.Verify(index, signature) == nil {
				row.OtherKey = string(other)
			}
		}
		if err != nil {
			return say.Errorf("%w: %w", ErrMarket, err)
		}
		row.OtherKey = ""
		return nil
	}
	key, err := m.keyOf(ctx, src)
	if err != nil {
		return err
	}
	if err := key.Verify(index, signature); err != nil {
		return say.Errorf("%w: %w", ErrMarket, err)
	}
	row.Key = string(key)
	return nil
}

func (m *Markets) keyOf(ctx context.Context, src source) (market.Key, error) {
	text, _, err := m.fetch(ctx, src, market.KeyFile, market.MaxSignature, asked{})
	if err != nil {
		return "", err
	}
	key, err := market.ParseKey(string(text))
	if err != nil {
		return "", say.Errorf("%w: %w", ErrMarket, err)
	}
	return key, nil
}

// TakeKey lets a market be signed with the key that it is signed with by now.
func (m *Markets) TakeKey(id uint, key string) error {
	row, err := m.market(id)
	if err != nil {
		return err
	}
	if key == "" || row.OtherKey != key {
		return say.Errorf("%s is not signed with that key by now; look again", row.Name)
	}
	row.Key, row.OtherKey = key, ""
	row.Serial, row.Digest = 0, "" // who begins anew counts anew
	defer m.stale()
	return m.store.SaveMarket(&row)
}

// pageOf is what an entry's page is called of a market in shards.
func pageOf(shard, of int) string { return fmt.Sprintf("%x/%x", shard, of) }

// renewShards reads what is new of a market in shards: the changes since the index that was
// read last, or those shards that are others. Each is taken as a whole, so that what there is
// can be searched meanwhile; what is not as the index says is refused, and stays as it was.
func (m *Markets) renewShards(ctx context.Context, j *jobs.Job, row *store.MarketRow, src source, known map[string]store.MarketPageRow, index []byte, top store.MarketPageRow) (changed bool, err error) {
	x, err := market.ReadManifest(index)
	if err != nil {
		return false, say.Errorf("%w: %w", ErrMarket, err)
	}
	sum := sha256.Sum256(index)
	digest := hex.EncodeToString(sum[:])
	switch {
	case x.Serial < row.Serial:
		return false, say.Errorf("%w: %w: %d, and it was %d", ErrMarket, ErrBack, x.Serial, row.Serial)
	case x.Serial == row.Serial && row.Digest != "" && row.Digest != digest:
		return false, say.Errorf("%w: %w, %d", ErrMarket, ErrTwo, x.Serial)
	}
	row.Name, row.About = x.Name, x.About
	if row.Name == "" {
		row.Name = row.Base
	}
	if err := m.store.SaveMarket(row); err != nil { // by whom it is signed, before anything of it is read
		return false, err
	}
	have := make([]store.MarketPageRow, len(x.Shards))
	complete := true
	for i := range x.Shards {
		have[i] = known[pageOf(i, len(x.Shards))]
		complete = complete && have[i].File != ""
	}
	if deltas, ok := x.Since(row.Serial); ok && complete && row.Digest != "" {
		if changed, err = m.takeDeltas(ctx, j, row.ID, src, x, deltas, have); err != nil {
			return changed, err
		}
	} else if changed, err = m.takeShards(ctx, j, row.ID, src, x, have); err != nil {
		return changed, err
	}
	named := shardsOf(x)
	for file := range known { // of an index in other files
		if _, is := named[file]; !is && file != market.IndexFile {
			edit, err := m.store.DropMarketPage(row.ID, file)
			if err != nil {
				return true, err
			}
			m.edited(edit)
			changed = true
		}
	}
	row.Serial, row.Digest = x.Serial, digest
	_, err = m.store.SaveMarketPage(ctx, top, nil, nil)
	return changed, err
}

func (m *Markets) takeDeltas(ctx context.Context, j *jobs.Job, id uint, src source, x market.Manifest, deltas []market.Delta, have []store.MarketPageRow) (changed bool, err error) {
	for _, d := range deltas {
		b, _, err := m.fetch(ctx, src, d.File, d.Size, asked{})
		if err != nil {
			return changed, err
		}
		changes, err := d.Read(ctx, b)
		if err != nil {
			return changed, say.Errorf("%w: %w", ErrMarket, err)
		}
		edit, err := m.store.ChangeMarket(ctx, id, changes, func(key string) string { return pageOf(market.ShardOf(key, len(x.Shards)), len(x.Shards)) })
		if err != nil {
			return changed, err
		}
		m.edited(edit)
		changed = true
	}
	return changed, m.store.MarketPagesAre(ctx, id, shardsOf(x))
}

// shardsOf are the checksums of a market's shards, by their pages.
func shardsOf(x market.Manifest) map[string]string {
	out := map[string]string{}
	for i, l := range x.Shards {
		out[pageOf(i, len(x.Shards))] = l.SHA256
	}
	return out
}

// brought is a shard that was fetched and read.
type brought struct {
	n       int
	entries []market.Entry
}

func (m *Markets) takeShards(ctx context.Context, j *jobs.Job, id uint, src source, x market.Manifest, have []store.MarketPageRow) (changed bool, err error) {
	total := int64(x.Entries())
	done := int64(0)
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	g, ctx := errgroup.WithContext(ctx)
	wanted, ready := make(chan int), make(chan brought, 1)
	g.Go(func() error {
		defer close(wanted)
		for i, l := range x.Shards {
			if have[i].ETag == l.SHA256 {
				continue
			}
			select {
			case wanted <- i:
			case <-ctx.Done():
				return ctx.Err()
			}
		}
		return nil
	})
	readers, rctx := errgroup.WithContext(ctx)
	for range runtime.GOMAXPROCS(0) {
		readers.Go(func() error {
			for i := range wanted {
				l := x.Shards[i]
				b, _, err := m.fetch(rctx, src, l.File, l.Size, asked{})
				if err != nil {
					return err
				}
				entries, err := l.Read(rctx, b, i, len(x.Shards))
				if err != nil {
					return say.Errorf("%w: %w", ErrMarket, err)
				}
				select {
				case ready <- brought{i, entries}:
				case <-rctx.Done():
					return rctx.Err()
				}
			}
			return nil
		})
	}
	g.Go(func() error {
		defer close(ready)
		return readers.Wait()
	})
	for i, l := range x.Shards {
		if have[i].ETag == l.SHA256 {
			done += int64(l.Entries)
		}
	}
	for s := range ready { // one after the other: it is one database
		p := store.MarketPageRow{Market: id, File: pageOf(s.n, len(x.Shards)), ETag: x.Shards[s.n].SHA256}
		edit, e := m.store.SaveMarketPage(ctx, p, s.entries, nil)
		if err = e; err != nil {
			break
		}
		m.edited(edit)
		changed = true
		done += int64(len(s.entries))
		j.At(done, total)
	}
	if err != nil {
		cancel()
		for range ready { // so that nobody waits to hand one on
		}
	}
	if e := g.Wait(); err == nil {
		err = e
	}
	return changed, err
}
