package markets

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/archive"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/say"
	"ivelt/store"
)

// The ways a fetched parcel can be refused.
var (
	ErrChecksum = errors.New("the checksum is not the one the market gives")
	ErrMoved    = errors.New("the market answers with a page instead of the parcel")
)

// Ref is a parcel of a market: an entry, in a version, "" for the newest.
type Ref struct {
	Market  uint // 0 for any that has the entry
	Entry   string
	Version string
}

// OlderError is a parcel that cannot be used, of which the market has the
// version before.
type OlderError struct {
	Err  error
	Take Ref
}

func (e *OlderError) Error() string { return e.Err.Error() }

func (e *OlderError) Unwrap() error { return e.Err }

// MovedError is a page that came in a parcel's stead.
type MovedError struct {
	Page string // its address
}

func (e *MovedError) Error() string {
	return ErrMoved.Error() + ". Open " + e.Page + " yourself, fetch the parcel there and drop it here: it is looked at in the same way"
}

func (e *MovedError) Unwrap() error { return ErrMoved }

// Fetch starts bringing a market entry's parcel into the library, and with it
// those of its companions that are asked for. It can be paused; what has come is
// kept, and a later try goes on from there. then gets the SHA-256 of each parcel once it is
// there; when done the job leads to where the last of its answers says.
func (m *Markets) Fetch(w Ref, then func(sha string) string, also ...Ref) (*jobs.Job, error) {
	var all []*Transfer
	for _, w := range append([]Ref{w}, also...) {
		t, err := m.Transfer(w)
		if err != nil {
			return nil, err
		}
		all = append(all, t)
	}
	title := "Fetch " + all[0].Entry.Name
	if len(all) > 1 {
		title += fmt.Sprintf(" and %d more", len(all)-1)
	}
	return m.jobs.Start(title, func(ctx context.Context, j *jobs.Job) error {
		j.MayPause()
		for _, t := range all {
			sha, err := t.Run(ctx, j)
			if err != nil {
				return err
			}
			j.Then(then(sha))
		}
		return nil
	}), nil
}

// Transfer prepares to bring a version of an entry into the library.
func (m *Markets) Transfer(w Ref) (*Transfer, error) {
	row, e, err := m.Entry(w.Market, w.Entry)
	if err != nil {
		return nil, err
	}
	v, ok := e.Find(w.Version)
	if !ok {
		return nil, say.Errorf("%s has no version %s any more", e.Name, w.Version)
	}
	owner, err := m.market(row.Market)
	if err != nil {
		return nil, err
	}
	return &Transfer{m: m, src: source{owner.Base, m.client.client}, system: m.ofSystem(owner.Base), row: row, Entry: e, version: v}, nil
}

// Transfer is one version of an entry on its way into the library.
type Transfer struct {
	m       *Markets
	src     source
	system  *desks.Managed // whose package manager fetches it; nil for any other market
	row     store.MarketEntryRow
	Entry   market.Entry
	version market.Version
}

// Run fetches it, unless the library has it, and returns the SHA-256 of the parcel.
func (t *Transfer) Run(ctx context.Context, j *jobs.Job) (string, error) {
	sha := t.version.SHA256
	if p, err := t.m.store.Parcel(sha); err == nil {
		if _, err := os.Stat(p.File); err == nil {
			return p.SHA256, nil
		}
	}
	j.Step("Waiting for its turn", "")
	select {
	case t.m.turns <- struct{}{}:
		defer func() { <-t.m.turns }()
	case <-ctx.Done():
		return "", context.Cause(ctx)
	}
	part := t.part()
	j.OnCancel(func() { _ = t.forget(part) })
	var err error
	if t.system != nil {
		err = t.byManager(ctx, j, t.system, part)
	} else {
		err = t.download(ctx, j, part)
	}
	switch {
	case errors.Is(err, jobs.ErrPaused), errors.Is(err, jobs.ErrStopping):
		return "", err
	case errors.Is(err, ErrMarket) && !errors.Is(err, ErrMoved):
		if fi, e := os.Stat(part); e == nil && fi.Size() > 0 {
			return "", say.Errorf("%w. What has come is kept: fetching it again goes on from there", err)
		}
		return "", errors.Join(err, t.forget(part))
	case err != nil:
		return "", errors.Join(t.older(err), t.forget(part))
	}
	dir := strings.TrimSuffix(part, ".part")
	if err := errors.Join(os.RemoveAll(dir), os.MkdirAll(dir, 0o755)); err != nil {
		return "", err
	}
	defer os.RemoveAll(dir)
	file := filepath.Join(dir, path.Base(path.Clean("/"+t.version.File)))
	if err := errors.Join(os.Rename(part, file), t.forget(part)); err != nil {
		return "", err
	}
	j.Step("Looking inside", "bytes")
	row, err := t.m.library.Inspect(ctx, file, t.version.Password, j.At)
	if err != nil {
		return "", t.older(err)
	}
	row.SHA256, row.Entry, row.Market, row.Title, row.Maker = sha, t.Entry.ID, t.row.Market, t.Entry.Name, t.Entry.Maker
	row.Licence, row.Version, row.Fetched = t.Entry.Licence, t.version.Version, time.Now()
	if err := t.warn(&row); err != nil {
		return "", err
	}
	return sha, t.m.library.Put(dir, row)
}

// warn keeps what the market says of the risk with what was fetched.
func (t *Transfer) warn(row *store.ParcelRow) error {
	why := string(t.Entry.Risk(t.version))
	if why == "" {
		return nil
	}
	if t.version.Note != "" {
		why += ": “" + strings.TrimSuffix(t.version.Note, ".") + "”"
	}
	c, err := library.Contents(*row)
	if err != nil {
		return err
	}
	c.Notes = append(c.Notes, parcel.MakerWarns(why))
	row.Contents, err = json.Marshal(c)
	return err
}

// older offers the version before, if there is one and it may help.
func (t *Transfer) older(err error) error {
	before := t.Entry.Before(t.version.Version)
	if before == "" || !errors.Is(err, archive.ErrDamaged) && !errors.Is(err, ErrChecksum) && !errors.Is(err, ErrMoved) && !errors.Is(err, archive.ErrNotArchive) {
		return err
	}
	return &OlderError{Err: err, Take: Ref{t.row.Market, t.Entry.ID, before}}
}

// part is where what has come so far is kept.
func (t *Transfer) part() string {
	return filepath.Join(t.m.dir, "parcels", ".coming-"+t.version.SHA256[:16]+".part")
}

func (t *Transfer) forget(part string) error {
	for _, f := range []string{part, part + ".json"} {
		if err := os.Remove(f); err != nil && !os.IsNotExist(err) {
			return err
		}
	}
	return nil
}

// tries bounds how often a broken transfer is taken up again by itself.
const tries = 5

// download fills part with the version's bytes, from where it stands, and holds
// them against the checksum.
func (t *Transfer) download(ctx context.Context, j *jobs.Job, part string) error {
	var err error
	for n := range tries {
		if n > 0 {
			wait := t.m.Backoff << (n - 1)
			j.Step(fmt.Sprintf("The transfer broke off; trying again in %s (%d of %d)", wait.Round(time.Second/10), n+1, tries), "")
			select {
			case <-time.After(wait):
			case <-ctx.Done():
				return context.Cause(ctx)
			}
		}
		if err = t.attempt(ctx, j, part); err == nil || !passing(err) {
			return err
		}
		if ctx.Err() != nil {
			return context.Cause(ctx)
		}
	}
	return err
}

// attempt is one request for what is missing.
func (t *Transfer) attempt(ctx context.Context, j *jobs.Job, part string) error {
	f, err := os.OpenFile(part, os.O_RDWR|os.O_CREATE, 0o644)
	if err != nil {
		return err
	}
	defer f.Close()
	h := sha256.New()
	have, err := io.Copy(h, f)
	if err != nil {
		return err
	}
	want := asked{from: have}
	if have > 0 {
		var last struct{ ETag, When string }
		if b, err := os.ReadFile(part + ".json"); err == nil && json.Unmarshal(b, &last) == nil {
			want.etag, want.when = last.ETag, last.When
		}
	}
	if have >= t.version.Size {
		return t.compare(h, have)
	}
	j.Step("Fetching "+path.Base(t.version.File), "bytes")
	j.At(have, t.version.Size)
	a, err := t.src.get(ctx, t.version.File, want)
	var s *statusError
	if errors.As(err, &s) && s.status == 416 { // there is no such range of it any more
		return errors.Join(f.Truncate(0), ErrMarket)
	}
	if err != nil {
		return err
	}
	if a, err = t.throughPage(ctx, a); err != nil {
		return err
	}
	defer a.Close()
	if a.from == 0 && have > 0 { // it is another file by now, or its server knows no ranges
		if _, err := f.Seek(0, io.SeekStart); err != nil {
			return err
		}
		if err := f.Truncate(0); err != nil {
			return err
		}
		h.Reset()
		have = 0
	}
	mark, _ := json.Marshal(struct{ ETag, When string }{a.etag, a.when})
	if err := os.WriteFile(part+".json", mark, 0o644); err != nil {
		return err
	}
	stop := context.AfterFunc(ctx, func() { a.Close() })
	defer stop()
	_, err = io.Copy(io.MultiWriter(f, h), library.ReaderFunc(func(b []byte) (int, error) {
		n, err := a.Read(b)
		have += int64(n)
		j.At(have, t.version.Size)
		if have > t.version.Size {
			return n, errTooLong
		}
		return n, err
	}))
	switch {
	case ctx.Err() != nil:
		return context.Cause(ctx)
	case errors.Is(err, errTooLong):
		return say.Errorf("%w: it is longer than the %d bytes the market gives, and thrown away", ErrChecksum, t.version.Size)
	case err == nil && a.size >= 0 && have < t.version.Size && a.size == have:
		return say.Errorf("%w: it is %d bytes long and the market gives %d, and it is thrown away", ErrChecksum, have, t.version.Size)
	case err != nil || have < t.version.Size:
		return say.Errorf("%w: the transfer broke off after %d of %d bytes", ErrMarket, have, t.version.Size)
	}
	return t.compare(h, have)
}

var errTooLong = errors.New("too long")

func (t *Transfer) compare(h hash.Hash, size int64) error {
	if size != t.version.Size || hex.EncodeToString(h.Sum(nil)) != t.version.SHA256 {
		return say.Errorf("%w: it is thrown away. Fetch it again; if that does not help, tell %s", ErrChecksum, maker(t.Entry))
	}
	return nil
}

func maker(e market.Entry) string {
	if e.Maker == "" {
		return "its maker"
	}
	return e.Maker
}

var linkIn = regexp.MustCompile(`(?i)\bhref\s*=\s*["']([^"']+)["']`)

// throughPage follows the one link to the parcel on a page that came in its
// stead. A link that leads to another host is left to the person.
func (t *Transfer) throughPage(ctx context.Context, a answer) (answer, error) {
	if a.kind != "text/html" || strings.HasSuffix(t.version.File, ".html") {
		return a, nil
	}
	page, err := io.ReadAll(io.LimitReader(a, 1<<20))
	a.Close()
	if err != nil {
		return a, say.Errorf("%w: %w", ErrMarket, err)
	}
	at, err := url.Parse(a.url)
	if err != nil {
		return a, &MovedError{a.url}
	}
	name := path.Base(t.version.File)
	for _, m := range linkIn.FindAllStringSubmatch(string(page), -1) {
		to, err := at.Parse(strings.ReplaceAll(m[1], "&amp;", "&"))
		if err != nil || to.Host != at.Host || path.Base(to.Path) != name || to.String() == a.url {
			continue
		}
		b, err := t.src.ask(ctx, to.String(), name, asked{})
		if err != nil {
			return b, err
		}
		if b.kind == "text/html" {
			b.Close()
			break
		}
		return b, nil
	}
	return a, &MovedError{a.url}
}
