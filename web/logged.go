package web

import (
	"log/slog"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"
)

// Logged writes a line a request to a log, at debug: no query and no form, for they may
// carry what is nobody's business.
//
//	r.Use(Logged(log))
func Logged(log *slog.Logger) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if !log.Enabled(r.Context(), slog.LevelDebug) {
				next.ServeHTTP(w, r)
				return
			}
			begun, ww := time.Now(), &counted{ResponseWriter: w, status: http.StatusOK}
			next.ServeHTTP(ww, r)
			log.LogAttrs(r.Context(), slog.LevelDebug, "request", slog.String("method", r.Method), slog.String("path", r.URL.Path),
				slog.Int("status", ww.status), slog.Int("bytes", ww.bytes), slog.Duration("took", time.Since(begun)))
		})
	}
}

// counted tells what was answered. The router's package that has one brings a profiler along.
type counted struct {
	http.ResponseWriter
	status, bytes int
}

// WriteHeader notes the status that comes.
func (c *counted) WriteHeader(status int) {
	c.status = status
	c.ResponseWriter.WriteHeader(status)
}

// Write counts what is written.
func (c *counted) Write(b []byte) (int, error) {
	n, err := c.ResponseWriter.Write(b)
	c.bytes += n
	return n, err
}

// Unwrap is the one below, for [http.ResponseController].
func (c *counted) Unwrap() http.ResponseWriter { return c.ResponseWriter }

// HeadAsGet has a question for the head alone answered as one for all: the server leaves the rest
// out.
func HeadAsGet(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if at := chi.RouteContext(r.Context()); r.Method == http.MethodHead && at != nil {
			at.RouteMethod = http.MethodGet
		}
		next.ServeHTTP(w, r)
	})
}
