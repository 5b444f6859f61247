package web

import (
	"log/slog"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5/middleware"
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
			begun, ww := time.Now(), middleware.NewWrapResponseWriter(w, r.ProtoMajor)
			next.ServeHTTP(ww, r)
			log.LogAttrs(r.Context(), slog.LevelDebug, "request", slog.String("method", r.Method), slog.String("path", r.URL.Path),
				slog.Int("status", ww.Status()), slog.Int("bytes", ww.BytesWritten()), slog.Duration("took", time.Since(begun)))
		})
	}
}
