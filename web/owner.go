package web

import (
	"crypto/sha256"
	"crypto/subtle"
	"net"
	"net/http"
	"strings"
	"time"

	"ivelt/core/language"
)

// keyName is what the start secret is called in an address.
const keyName = "key"

// cookieFor is how long a browser is known.
const cookieFor = 400 * 24 * time.Hour // as long as browsers keep one

// Owner lets through only whoever has the start secret: in the address, as Ivelt prints
// it, which is turned into a cookie, or in that cookie. Others of the same computer reach
// the port too, and are shown what to do. The program's own styles and fonts are
// everybody's.
//
//	r.Use(s.Owner(secret))
func (s *Server) Owner(secret string) func(http.Handler) http.Handler {
	want := sha256.Sum256([]byte(secret))
	right := func(given string) bool {
		got := sha256.Sum256([]byte(given))
		return subtle.ConstantTimeCompare(got[:], want[:]) == 1
	}
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			w.Header().Add("Vary", "Cookie, Accept-Language")
			if c, err := r.Cookie(cookieOf(r)); err == nil && right(c.Value) {
				next.ServeHTTP(w, r)
				return
			}
			q := r.URL.Query()
			switch {
			case strings.HasPrefix(r.URL.Path, "/static/"):
				next.ServeHTTP(w, r)
			case r.Method == http.MethodGet && right(q.Get(keyName)):
				http.SetCookie(w, &http.Cookie{Name: cookieOf(r), Value: secret, Path: "/", MaxAge: int(cookieFor / time.Second), HttpOnly: true, SameSite: http.SameSiteStrictMode})
				q.Del(keyName)
				to := *r.URL
				to.RawQuery = q.Encode()
				http.Redirect(w, r, to.RequestURI(), http.StatusSeeOther)
			default:
				s.knock(w, r, q.Has(keyName))
			}
		})
	}
}

// cookieOf is the cookie's name: browsers do not tell ports apart, and there may be an
// Ivelt on each of several.
func cookieOf(r *http.Request) string {
	if _, port, err := net.SplitHostPort(r.Host); err == nil {
		return "ivelt-" + port
	}
	return "ivelt"
}

// knock answers who is not known, with nothing about a desk.
func (s *Server) knock(w http.ResponseWriter, r *http.Request, wrong bool) {
	h := w.Header()
	h.Set("Cache-Control", "no-store")
	if r.Header.Get("HX-Request") != "" { // the page it came from shows it
		h.Set("HX-Refresh", "true")
	}
	h.Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(http.StatusUnauthorized)
	if r.Method != http.MethodHead {
		in := s.Languages.Of(r)
		if pages, err := s.Languages.pages(in); err == nil {
			_ = pages["door"].Execute(w, struct {
				Language *language.Language
				Wrong    bool
			}{in, wrong})
		}
	}
}
