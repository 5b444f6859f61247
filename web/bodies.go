package web

import (
	"errors"
	"io"
	"net/http"
	"strings"
	"sync/atomic"
	"time"
)

// What a request's body may take.
const (
	maxForm    = 4 << 20          // bytes of one that is no upload
	formTime   = 30 * time.Second // for it to come
	quietTime  = 30 * time.Second // of an upload: how long nothing may come
	leastSpeed = 1 << 10          // of an upload: bytes a second, over that time
)

var errSlow = errors.New("what was sent came too slowly, so it was given up")

// Bodies bounds how large and how slow the bodies of requests may be. Uploads are as
// large as they are; they have to go on coming.
//
//	r.Use(Bodies)
func Bodies(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		rc := http.NewResponseController(w)
		if strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/form-data") {
			r.Body = &steady{ReadCloser: r.Body, rc: rc, since: time.Now()}
		} else if r.Body != http.NoBody {
			_ = rc.SetReadDeadline(time.Now().Add(formTime)) // what has no deadlines is a test's
			r.Body = http.MaxBytesReader(w, r.Body, maxForm)
		}
		next.ServeHTTP(w, r)
	})
}

// steady is a body that has to go on coming.
type steady struct {
	io.ReadCloser
	rc    *http.ResponseController
	since time.Time // of the stretch that is looked at
	came  int64     // in it
	ended atomic.Bool
}

// Interrupt ends what is being read, and all that would be.
func (s *steady) Interrupt() {
	s.ended.Store(true)
	_ = s.rc.SetReadDeadline(time.Now())
}

func (s *steady) Read(b []byte) (int, error) {
	_ = s.rc.SetReadDeadline(time.Now().Add(quietTime))
	if s.ended.Load() {
		_ = s.rc.SetReadDeadline(time.Now())
	}
	n, err := s.ReadCloser.Read(b)
	s.came += int64(n)
	if took := time.Since(s.since); took > quietTime {
		if s.came < leastSpeed*int64(took/time.Second) {
			return 0, errSlow
		}
		s.since, s.came = time.Now(), 0
	}
	return n, err
}
