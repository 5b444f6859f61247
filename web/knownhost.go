package web

import (
	"net"
	"net/http"
	"slices"
	"strings"
)

// KnownHost refuses requests that were not meant for this machine's loopback
// address or one of the given names, so that a page elsewhere cannot reach
// Ivelt by giving its own name this machine's address.
//
//	r.Use(KnownHost(nil))
func KnownHost(more []string) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			host := r.Host
			if h, _, err := net.SplitHostPort(host); err == nil {
				host = h
			}
			host = strings.ToLower(strings.TrimSuffix(host, ".")) // names know no case
			ip := net.ParseIP(host)
			if host == "localhost" || (ip != nil && ip.IsLoopback()) || slices.Contains(more, host) {
				next.ServeHTTP(w, r)
				return
			}
			http.Error(w, "Ivelt answers only on this machine. Open it by the address it printed at its start.", http.StatusMisdirectedRequest)
		})
	}
}
