package web

import (
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// TestBodiesGoOnComing: an upload that comes a byte at a time is given up, one that comes
// is not, and a form is no larger than forms are.
func TestBodiesGoOnComing(t *testing.T) {
	of := func(came int64, since time.Duration) error {
		s := &steady{ReadCloser: io.NopCloser(strings.NewReader("x")), rc: http.NewResponseController(httptest.NewRecorder()), since: time.Now().Add(-since), came: came}
		_, err := s.Read(make([]byte, 1))
		return err
	}
	require.ErrorIs(t, of(40, 40*time.Second), errSlow)
	require.NoError(t, of(40, 10*time.Second))
	require.NoError(t, of(1<<20, 40*time.Second))

	var failed error
	h := Bodies(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) { _, failed = io.Copy(io.Discard, r.Body) }))
	h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest(http.MethodPost, "/", strings.NewReader(strings.Repeat("a", maxForm+1))))
	var large *http.MaxBytesError
	require.ErrorAs(t, failed, &large)
	upload := httptest.NewRequest(http.MethodPost, "/", strings.NewReader(strings.Repeat("a", maxForm+1)))
	upload.Header.Set("Content-Type", "multipart/form-data; boundary=x")
	h.ServeHTTP(httptest.NewRecorder(), upload)
	require.NoError(t, failed)

	// One that is waited for can be given up.
	given := make(chan error, 1)
	server := httptest.NewServer(Bodies(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		_, _ = r.Body.Read(make([]byte, 1))
		time.AfterFunc(20*time.Millisecond, r.Body.(*steady).Interrupt)
		_, err := r.Body.Read(make([]byte, 1))
		given <- err
	})))
	defer server.Close()
	from, to := io.Pipe()
	defer to.Close()
	go func() { _, _ = to.Write([]byte("x")) }()
	res, err := http.Post(server.URL, "multipart/form-data; boundary=x", from)
	if err == nil {
		res.Body.Close()
	}
	require.ErrorIs(t, <-given, os.ErrDeadlineExceeded)
}
