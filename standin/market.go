// Package standin is the outside world that ships with Ivelt: small programs
// that behave like the real ones, read a desk's files by themselves and keep
// what they have loaded. They share no code with the parts of Ivelt that write
// those files.
package standin

import (
	"net/http"
	"path"
	"sync/atomic"
)

// Market is Strandline, a market: a folder served over HTTP, with index.json
// at its top, pictures/ and parcels/ below.
type Market struct {
	Dir  string
	down atomic.Bool
	slow atomic.Int64 // bytes of parcels still to be sent before it stalls; 0 is off
}

// SetDown makes every request fail, as a market that is out of order does.
func (m *Market) SetDown(down bool) { m.down.Store(down) }

// StallAfter makes every parcel stop after n bytes until the request is given
// up; 0 lets them through.
func (m *Market) StallAfter(n int64) { m.slow.Store(n) }

// ServeHTTP serves the folder.
func (m *Market) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if m.down.Load() {
		http.Error(w, "Strandline is closed for repairs", http.StatusServiceUnavailable)
		return
	}
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		http.Error(w, "only reading", http.StatusMethodNotAllowed)
		return
	}
	if n := m.slow.Load(); n > 0 && path.Dir(path.Clean(r.URL.Path)) == "/parcels" {
		w = &stalling{ResponseWriter: w, left: n, done: r.Context().Done()}
	}
	http.FileServer(http.Dir(m.Dir)).ServeHTTP(w, r)
}

type stalling struct {
	http.ResponseWriter
	left int64
	done <-chan struct{}
}

func (s *stalling) Write(b []byte) (int, error) {
	if int64(len(b)) <= s.left {
		s.left -= int64(len(b))
		return s.ResponseWriter.Write(b)
	}
	n, err := s.ResponseWriter.Write(b[:s.left])
	s.left = 0
	if f, ok := s.ResponseWriter.(http.Flusher); ok {
		f.Flush()
	}
	<-s.done
	if err == nil {
		err = http.ErrAbortHandler
	}
	return n, err
}
