package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strings"
	"sync"
	"time"
)

// Entry is what a market says of one parcel. The format is in docs/market.md.
type Entry struct {
	ID      string   `json:"id"`
	Kind    string   `json:"kind"`
	Name    string   `json:"name"`
	Maker   string   `json:"maker"`
	Licence string   `json:"licence"`
	Version string   `json:"version"`
	Date    string   `json:"date"`
	Summary string   `json:"summary"`
	Tags    []string `json:"tags"`
	Likes   int      `json:"likes"`
	Pieces  int      `json:"pieces"` // how many it holds; 0 if it does not say
	Picture string   `json:"picture"`
	File    string   `json:"file"`
	Size    int64    `json:"size"`
	SHA256  string   `json:"sha256"`
	Older   string   `json:"older"` // the entry of the version before
}

// Market is a catalogue of parcels at an address.
type Market struct {
	Fresh time.Duration // how long the catalogue is taken as it was last seen

	base   string
	client *http.Client

	mu      sync.Mutex
	name    string
	entries []Entry // as last seen
	seen    time.Time
}

// NewMarket returns the market at base.
func NewMarket(base string) *Market {
	return &Market{Fresh: 2 * time.Second, base: strings.TrimSuffix(base, "/"), name: "the market", client: &http.Client{Transport: &http.Transport{
		ResponseHeaderTimeout: 5 * time.Second,
	}}}
}

// ErrMarket: the market cannot be reached or does not speak our format.
var ErrMarket = errors.New("the market cannot be read")

const mostIndex = 64 << 20 // bytes

// Entries returns the catalogue. If the market cannot be reached the error
// says so and the entries are those last seen, perhaps none.
func (m *Market) Entries(ctx context.Context) ([]Entry, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if time.Since(m.seen) < m.Fresh {
		return m.entries, nil
	}
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	body, _, err := m.get(ctx, "index.json")
	if err != nil {
		return m.entries, err
	}
	defer body.Close()
	var index struct {
		Format  int     `json:"format"`
		Name    string  `json:"name"`
		Entries []Entry `json:"entries"`
	}
	if err := json.NewDecoder(io.LimitReader(body, mostIndex)).Decode(&index); err != nil {
		return m.entries, fmt.Errorf("%w: its index.json is damaged (%w)", ErrMarket, err)
	}
	if index.Format != 1 {
		return m.entries, fmt.Errorf("%w: its index has format %d; this Ivelt reads format 1", ErrMarket, index.Format)
	}
	m.name, m.entries, m.seen = index.Name, index.Entries, time.Now()
	return m.entries, nil
}

// Name returns what the market calls itself.
func (m *Market) Name() string {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.name
}

// Entry returns one entry of the catalogue.
func (m *Market) Entry(ctx context.Context, id string) (Entry, error) {
	entries, err := m.Entries(ctx)
	if i := slices.IndexFunc(entries, func(e Entry) bool { return e.ID == id }); i >= 0 {
		return entries[i], nil
	}
	if err == nil {
		err = fmt.Errorf("%s has no entry %q", m.Name(), id)
	}
	return Entry{}, err
}

// get asks for a file below the market's address; nothing outside it is asked
// for, whatever an index says.
func (m *Market) get(ctx context.Context, name string) (io.ReadCloser, int64, error) {
	clean := path.Clean("/" + name)
	ref, err := url.Parse(m.base)
	if err != nil {
		return nil, 0, fmt.Errorf("%w: %w", ErrMarket, err)
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, ref.JoinPath(clean).String(), nil)
	if err != nil {
		return nil, 0, fmt.Errorf("%w: %w", ErrMarket, err)
	}
	res, err := m.client.Do(req)
	if err != nil {
		if ctx.Err() != nil && !errors.Is(ctx.Err(), context.DeadlineExceeded) {
			return nil, 0, ctx.Err()
		}
		return nil, 0, fmt.Errorf("%w: it does not answer (%w)", ErrMarket, short(err))
	}
	if res.StatusCode != http.StatusOK {
		res.Body.Close()
		return nil, 0, fmt.Errorf("%w: it answers %q for %s", ErrMarket, res.Status, clean)
	}
	return res.Body, res.ContentLength, nil
}

// short takes the address out of an error, which people cannot act on.
func short(err error) error {
	var ue *url.Error
	if errors.As(err, &ue) {
		return ue.Err
	}
	return err
}

// Picture returns the picture an entry is shown with.
func (m *Market) Picture(ctx context.Context, id string) ([]byte, error) {
	e, err := m.Entry(ctx, id)
	if err != nil {
		return nil, err
	}
	if e.Picture == "" {
		return nil, fmt.Errorf("%s has no picture", e.Name)
	}
	body, _, err := m.get(ctx, e.Picture)
	if err != nil {
		return nil, err
	}
	defer body.Close()
	return io.ReadAll(io.LimitReader(body, 4<<20))
}

// Find returns the entries whose words start with every word of the query,
// sorted as asked: liked, newest or name.
func Find(entries []Entry, query, order string) []Entry {
	words := strings.Fields(strings.ToLower(query))
	var out []Entry
	for _, e := range entries {
		text := strings.ToLower(strings.Join(append([]string{e.Name, e.Maker, e.Kind, e.Summary, e.Licence}, e.Tags...), " "))
		fields := strings.FieldsFunc(text, func(r rune) bool { return !('a' <= r && r <= 'z' || '0' <= r && r <= '9' || r > 127) })
		hits := 0
		for _, w := range words {
			if slices.ContainsFunc(fields, func(f string) bool { return strings.HasPrefix(f, w) }) {
				hits++
			}
		}
		if hits == len(words) {
			out = append(out, e)
		}
	}
	slices.SortStableFunc(out, func(a, b Entry) int {
		switch order {
		case "newest":
			return strings.Compare(b.Date, a.Date)
		case "name":
			return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name))
		}
		return b.Likes - a.Likes
	})
	return out
}
