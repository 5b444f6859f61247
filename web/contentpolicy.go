package web

import "net/http"

const (
	pagePolicy    = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
	picturePolicy = "default-src 'none'; img-src data:; style-src 'unsafe-inline'; sandbox"
)

// ContentPolicy lets pages run only scripts and styles that ship with Ivelt.
//
//	r.Use(ContentPolicy)
func ContentPolicy(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", pagePolicy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		next.ServeHTTP(w, r)
	})
}

// servePicture answers with a picture that may come from a parcel: it can be
// shown, but neither run anything nor load anything.
func servePicture(w http.ResponseWriter, r *http.Request, mediaType string, b []byte) {
	serveKept(w, r, mediaType, b, "no-cache")
}

// forGood lets a browser keep what its address names.
const forGood = "private, max-age=86400, immutable"

// serveKept is [servePicture] for a picture that may be kept as Cache-Control says (RFC 9111).
func serveKept(w http.ResponseWriter, r *http.Request, mediaType string, b []byte, control string) {
	h := w.Header()
	h.Set("Content-Security-Policy", picturePolicy)
	h.Set("Content-Type", mediaType)
	h.Set("Cache-Control", control)
	tag := etag(b)
	h.Set("ETag", tag)
	if r.Header.Get("If-None-Match") == tag {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	_, _ = w.Write(b)
}
