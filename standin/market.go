// Package standin is the outside world that ships with Ivelt: small programs
// that behave like the real ones, read a desk's files by themselves and keep
// what they have loaded. They share no code with the parts of Ivelt that write
// those files.
package standin

import (
	"html/template"
	"net/http"
	"path"
	"strings"
	"sync"
	"sync/atomic"
	"time"
)

// Market is Strandline, a market: a folder served over HTTP, with index.json
// at its top, pictures/ and parcels/ below. Its own page, at the top, has
// switches for what can go wrong with a market.
type Market struct {
	Dir string

	mu    sync.Mutex
	on    map[string]bool
	stall atomic.Int64 // bytes of parcels still to be sent before it stalls; 0 is off
	cut   atomic.Int64 // bytes after which a parcel breaks off; 0 is off
}

// Trouble is something that can go wrong with a market.
type Trouble struct{ Name, Title, Says string }

// Troubles are the switches, in the order they are shown.
var Troubles = []Trouble{
	{"down", "Down", "every request is answered 503"},
	{"slow", "Slow", "parcels come at 200 kB a second"},
	{"cut", "Breaks off", "a parcel breaks off after each 100 kB, and can be gone on with"},
	{"whole", "Knows no ranges", "a broken transfer has to start anew"},
	{"wrong", "Wrong contents", "a byte of each parcel is another than the checksum was made of"},
	{"moved", "Moved", "instead of a parcel comes a page with a link to it"},
	{"gone", "Moved for good", "instead of a parcel comes a page that leads elsewhere"},
}

// Switch turns a trouble on or off.
func (m *Market) Switch(name string, on bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.on == nil {
		m.on = map[string]bool{}
	}
	m.on[name] = on
}

// Has tells whether a trouble is on.
func (m *Market) Has(name string) bool {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.on[name]
}

// SetDown makes every request fail, as a market that is out of order does.
func (m *Market) SetDown(down bool) { m.Switch("down", down) }

// StallAfter makes every parcel stop after n bytes until the request is given
// up; 0 lets them through.
func (m *Market) StallAfter(n int64) { m.stall.Store(n) }

// CutAfter makes every answer with a parcel break off after n bytes; 0 lets
// them through.
func (m *Market) CutAfter(n int64) { m.cut.Store(n) }

// ServeHTTP serves the folder.
func (m *Market) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	name := path.Clean(r.URL.Path)
	switch {
	case name == "/" && r.Method == http.MethodGet:
		m.page(w)
		return
	case name == "/switch" && r.Method == http.MethodPost:
		m.Switch(r.FormValue("name"), r.FormValue("on") != "")
		http.Redirect(w, r, "/", http.StatusSeeOther)
		return
	case m.Has("down"):
		http.Error(w, "Strandline is closed for repairs", http.StatusServiceUnavailable)
		return
	case r.Method != http.MethodGet && r.Method != http.MethodHead:
		http.Error(w, "only reading", http.StatusMethodNotAllowed)
		return
	}
	files := http.FileServer(http.Dir(m.Dir))
	if kept, ok := strings.CutPrefix(name, "/elsewhere"); ok {
		r.URL.Path, name = kept, kept
	} else if path.Dir(name) == "/parcels" && (m.Has("moved") || m.Has("gone")) {
		m.between(w, path.Base(name))
		return
	}
	if path.Dir(name) == "/parcels" {
		if m.Has("whole") {
			r.Header.Del("Range")
			w.Header().Set("Accept-Ranges", "none")
		}
		t := &troubled{ResponseWriter: w, done: r.Context().Done(), slow: m.Has("slow"), wrong: m.Has("wrong"), stall: m.stall.Load(), cut: m.cut.Load()}
		if m.Has("cut") {
			t.cut = 100_000
		}
		w = t
	}
	files.ServeHTTP(w, r)
}

// troubled lets an answer go wrong in the ways that were switched on.
type troubled struct {
	http.ResponseWriter
	done        <-chan struct{}
	slow, wrong bool
	stall, cut  int64
	sent        int64
}

func (t *troubled) Write(b []byte) (int, error) {
	if t.wrong && t.sent == 0 && len(b) > 0 {
		b = append([]byte(nil), b...)
		b[len(b)/2] ^= 1
	}
	room := int64(len(b))
	for _, end := range []int64{t.stall, t.cut} {
		if end > 0 {
			room = min(room, end-t.sent)
		}
	}
	n, err := t.ResponseWriter.Write(b[:room])
	t.sent += int64(n)
	if t.slow {
		time.Sleep(time.Duration(n) * time.Second / 200_000)
	}
	if err != nil || room == int64(len(b)) {
		return n, err
	}
	if f, ok := t.ResponseWriter.(http.Flusher); ok {
		f.Flush()
	}
	if t.cut == 0 || t.sent < t.cut {
		<-t.done
	}
	panic(http.ErrAbortHandler)
}

var between = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><title>{{.Name}}</title>
<h1>{{.Name}}</h1>{{if .Gone}}<p>This parcel is now kept by its maker. <a href="http://maker.invalid/about.html">Go there</a>.</p>
{{else}}<p>Thank you for your interest. <a href="/about.html">About us</a>. Your parcel: <a href="/elsewhere/parcels/{{.Name}}">{{.Name}}</a></p>{{end}}`))

func (m *Market) between(w http.ResponseWriter, name string) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_ = between.Execute(w, struct {
		Name string
		Gone bool
	}{name, m.Has("gone")})
}

var front = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>Strandline</title>
<style>body{font:15px/22px sans-serif;max-width:44rem;margin:2rem auto;padding:0 1rem;color:#24303a;background:#f7f5ee}li{display:flex;gap:1rem;align-items:center;padding:.4rem 0;border-top:1px solid #d9d3c4}ul{list-style:none;padding:0}span{flex:1}button{min-width:6rem;padding:.3rem}</style>
<h1>Strandline</h1><p>A market that washes ashore with the demo. Here it can be made to go wrong, to see what Ivelt does about it.</p>
<ul>{{range .}}<li><span><b>{{.Title}}</b>: {{.Says}}</span><form method="post" action="/switch"><input type="hidden" name="name" value="{{.Name}}">{{if .On}}<b>on</b> <button>Turn off</button>{{else}}<button name="on" value="1">Turn on</button>{{end}}</form></li>{{end}}</ul>`))

func (m *Market) page(w http.ResponseWriter) {
	type row struct {
		Trouble
		On bool
	}
	var rows []row
	for _, t := range Troubles {
		rows = append(rows, row{t, m.Has(t.Name)})
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_ = front.Execute(w, rows)
}
