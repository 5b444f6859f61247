package web

import (
	"log/slog"
	"net/http"
	"runtime/debug"
)

// Recovered answers a request whose handler panics with an error, and logs where it
// was.
//
//	r.Use(Recovered(log))
func Recovered(log *slog.Logger) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			defer func() {
				p := recover()
				if p == nil {
					return
				}
				if p == http.ErrAbortHandler {
					panic(p)
				}
				log.ErrorContext(r.Context(), "a page panicked", "path", r.URL.Path, "panic", p, "stack", string(debug.Stack()))
				http.Error(w, "This is a fault of Ivelt's own, and this page did nothing. Its log says where it is.", http.StatusInternalServerError)
			}()
			next.ServeHTTP(w, r)
		})
	}
}
