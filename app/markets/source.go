package markets

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"ivelt/core/say"
)

// ErrMarket: a market cannot be reached or does not speak our format.
var ErrMarket = errors.New("the market cannot be read")

// source is where a market's files lie: at an address, or in a folder.
type source struct {
	base   string
	client *http.Client
}

// ErrElsewhere: a market sends to another host.
var ErrElsewhere = errors.New("it sends to another host")

// maxRedirects bounds how often a market may send on.
const maxRedirects = 5

var marketClient = &http.Client{CheckRedirect: withinHost, Transport: &http.Transport{ResponseHeaderTimeout: 8 * time.Second, MaxIdleConnsPerHost: 4}}

// withinHost follows a market where it sends on its own host, and nowhere else: what
// was checked of its address would not hold there.
func withinHost(req *http.Request, via []*http.Request) error {
	if len(via) > maxRedirects {
		return say.Errorf("it sends on more than %d times", maxRedirects)
	}
	if first := via[0].URL; req.URL.Host != first.Host || req.URL.Scheme != first.Scheme && req.URL.Scheme != "https" {
		return say.Errorf("%w, %s", ErrElsewhere, req.URL.Host)
	}
	return nil
}

// isAddress tells an address from a folder.
func isAddress(base string) bool {
	return strings.HasPrefix(base, "http://") || strings.HasPrefix(base, "https://")
}

// asked says what of a file is wanted.
type asked struct {
	etag, when string // as it was last time: it is sent only if it has changed since
	from       int64  // the bytes from here on, if it is still the file that etag names
}

// answer is what came.
type answer struct {
	io.ReadCloser
	unchanged  bool
	from       int64 // where what came starts
	size       int64 // of the whole file, -1 if that is not known
	etag, when string
	kind       string // media type, without parameters
	url        string // where it came from in the end
}

// get asks for a file below the market's top; nothing outside it is asked for,
// whatever an index says.
func (s source) get(ctx context.Context, name string, want asked) (answer, error) {
	clean := path.Clean("/" + name)
	if !isAddress(s.base) {
		return s.open(clean, want)
	}
	ref, err := url.Parse(s.base)
	if err != nil {
		return answer{}, say.Errorf("%w: %w", ErrMarket, err)
	}
	return s.ask(ctx, ref.JoinPath(clean).String(), clean, want)
}

func (s source) ask(ctx context.Context, address, shown string, want asked) (answer, error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return answer{}, say.Errorf("%w: %w", ErrMarket, err)
	}
	switch {
	case want.from > 0:
		req.Header.Set("Range", fmt.Sprintf("bytes=%d-", want.from))
		if want.etag != "" && !strings.HasPrefix(want.etag, "W/") {
			req.Header.Set("If-Range", want.etag) // RFC 9110, section 13.1.5
		} else if want.when != "" {
			req.Header.Set("If-Range", want.when)
		}
	case want.etag != "":
		req.Header.Set("If-None-Match", want.etag)
	case want.when != "":
		req.Header.Set("If-Modified-Since", want.when)
	}
	res, err := s.client.Do(req)
	if err != nil {
		if ctx.Err() != nil && !errors.Is(ctx.Err(), context.DeadlineExceeded) {
			return answer{}, context.Cause(ctx)
		}
		return answer{}, say.Errorf("%w: it does not answer (%w)", ErrMarket, short(err))
	}
	out := answer{ReadCloser: res.Body, size: res.ContentLength, etag: res.Header.Get("ETag"), when: settled(res.Header), url: res.Request.URL.String()}
	out.kind, _, _ = strings.Cut(res.Header.Get("Content-Type"), ";")
	switch res.StatusCode {
	case http.StatusOK:
		return out, nil
	case http.StatusPartialContent:
		out.from = want.from
		if _, total, ok := strings.Cut(res.Header.Get("Content-Range"), "/"); ok {
			if n, err := strconv.ParseInt(total, 10, 64); err == nil {
				out.size = n
			}
		}
		return out, nil
	}
	res.Body.Close()
	if res.StatusCode == http.StatusNotModified {
		out.unchanged = true
		return out, nil
	}
	return answer{}, &statusError{res.StatusCode, say.Errorf("%w: it answers %q for %s", ErrMarket, res.Status, shown)}
}

// settled is when a file was changed last, if that tells it from what it may be yet: it is
// told in seconds, so it has to be older than the answer (RFC 9110, section 8.8.2.2).
func settled(h http.Header) string {
	when, err := http.ParseTime(h.Get("Last-Modified"))
	date, no := http.ParseTime(h.Get("Date"))
	if err == nil && no == nil && date.Sub(when) < 2*time.Second {
		return ""
	}
	return h.Get("Last-Modified")
}

// statusError is an answer that is none.
type statusError struct {
	status int
	error
}

func (e *statusError) Unwrap() error { return e.error }

// passing tells whether asking again later may help.
func passing(err error) bool {
	var s *statusError
	if errors.As(err, &s) {
		return s.status >= 500 || s.status == http.StatusTooManyRequests || s.status == http.StatusRequestTimeout
	}
	return errors.Is(err, ErrMarket)
}

func (s source) open(clean string, want asked) (answer, error) {
	root, err := os.OpenRoot(s.base)
	if err != nil {
		return answer{}, say.Errorf("%w: its folder cannot be opened (%w)", ErrMarket, err)
	}
	defer root.Close()
	f, err := root.Open(filepath.FromSlash(strings.TrimPrefix(clean, "/")))
	if err != nil {
		return answer{}, &statusError{http.StatusNotFound, say.Errorf("%w: %w", ErrMarket, err)}
	}
	fi, err := f.Stat()
	if err != nil || fi.IsDir() {
		f.Close()
		return answer{}, &statusError{http.StatusNotFound, say.Errorf("%w: %s is no file", ErrMarket, clean)}
	}
	when := fi.ModTime().UTC().Format(time.RFC3339Nano) + fmt.Sprintf(" %d", fi.Size())
	if want.from == 0 && want.when == when {
		f.Close()
		return answer{unchanged: true, when: when}, nil
	}
	if want.from > 0 {
		if _, err := f.Seek(want.from, io.SeekStart); err != nil {
			f.Close()
			return answer{}, say.Errorf("%w: %w", ErrMarket, err)
		}
	}
	return answer{ReadCloser: f, from: want.from, size: fi.Size(), when: when}, nil
}

// short takes the address out of an error, which people cannot act on.
func short(err error) error {
	var ue *url.Error
	if errors.As(err, &ue) {
		return ue.Err
	}
	return err
}
