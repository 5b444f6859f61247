package web_test

import (
	_ "embed"
	"flag"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http/httptest"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/demo"
	"ivelt/demo/demotest"
	"ivelt/standin"
	"ivelt/web"
	"ivelt/web/browsertest"
)

// screenshots makes the stories keep a picture of each main view.
// everything has tests go through every page in all languages.
var everything = flag.Bool("everything", false, "go through every page in every made-up language")

var screenshots = flag.String("screenshots", "", "folder to keep a picture of each main view in")

// stage is a running Ivelt on a demo world of its own.
type stage struct {
	server *web.Server
	t      testing.TB
	url    string
	world  *demo.World
	market *standin.Market
	app    *app.App
	dir    string
	ahead  atomic.Int64 // how far its clock is ahead, see [stage.now]
}

func newStage(t testing.TB) *stage {
	t.Helper()
	dir := filepath.Join(t.TempDir(), "world")
	demotest.World(t, dir)
	return stageIn(t, dir)
}

func stageIn(t testing.TB, dir string) *stage {
	t.Helper()
	w, err := demo.Open(t.Context(), dir, false)
	require.NoError(t, err)
	s := &stage{t: t, world: w, market: &standin.Market{Dir: w.Market}, dir: dir}
	market := httptest.NewServer(s.market)
	t.Cleanup(market.Close)
	var on []*desks.Managed
	for _, d := range w.Desks() {
		mark, simulated := demo.Locked(d)
		on = append(on, &desks.Managed{Desk: d, Mark: mark, Simulated: simulated, Restarts: demo.Restarts(d), Refresh: demo.Caches(d).Refresh, Screens: demo.Screens(d),
			Console: func(surface, line string) (string, error) { return demo.Console(d, surface, line) }})
	}
	s.app, err = app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: on, Market: market.URL, Now: s.now, Log: slog.New(slog.NewTextHandler(t.Output(), nil))})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.app.Close() })
	s.app.Markets.Fresh, s.app.Markets.Backoff = 0, 10*time.Millisecond
	server, err := web.New(s.app)
	require.NoError(t, err)
	s.server = server
	pages := httptest.NewServer(server.Handler())
	t.Cleanup(pages.Close)
	s.url = pages.URL
	return s
}

// now is the time of the stage: that of the clock, or ahead of it.
func (s *stage) now() time.Time { return time.Now().Add(time.Duration(s.ahead.Load())) }

// until makes the stage's clock show the next time of a day, "19:01".
func (s *stage) until(at string) {
	s.t.Helper()
	clock, err := time.Parse("15:04", at)
	require.NoError(s.t, err)
	now := s.now()
	then := time.Date(now.Year(), now.Month(), now.Day(), clock.Hour(), clock.Minute(), 0, 0, now.Location())
	if then.Before(now) {
		then = then.AddDate(0, 0, 1)
	}
	s.ahead.Add(int64(then.Sub(now)))
}

func (s *stage) home(name string) string { return filepath.Join(s.world.Avocet.Home, name) }

func (s *stage) file(name string) string {
	s.t.Helper()
	b, err := os.ReadFile(s.home(name))
	require.NoError(s.t, err)
	return string(b)
}

// snapshot is every file, folder and link of the home, but for the session
// state that Quayside itself keeps.
func (s *stage) snapshot() map[string]string {
	s.t.Helper()
	return treeOf(s.t, s.world.Avocet.Home, ".local/state")
}

func treeOf(t testing.TB, top string, without ...string) map[string]string {
	t.Helper()
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(top, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, _ := filepath.Rel(top, p)
		for _, w := range without {
			if rel == w {
				return filepath.SkipDir
			}
		}
		fi, err := d.Info()
		if err != nil {
			return err
		}
		switch {
		case d.IsDir():
			out[rel] = "folder " + fi.Mode().String()
		case d.Type()&fs.ModeSymlink != 0:
			to, err := os.Readlink(p)
			out[rel] = "link " + to
			return err
		default:
			b, err := os.ReadFile(p)
			out[rel] = fmt.Sprintf("%s %s %x", fi.Mode(), fi.ModTime().UTC().Format(time.RFC3339Nano), b)
			return err
		}
		return nil
	}))
	return out
}

// browser is a window in which the stage's pages are.
type browser struct {
	*stage
	*browsertest.Browser
}

// browse opens a window that is not painted, but where pictures are kept.
func (s *stage) browse() *browser {
	s.t.Helper()
	if *screenshots != "" {
		return s.browsePainted()
	}
	return &browser{s, browsertest.Start(s.t, s.url, browsertest.Unpainted)}
}

// browsePainted opens one of which pixels are looked at, or frames waited for.
func (s *stage) browsePainted(options ...chromedp.ExecAllocatorOption) *browser {
	s.t.Helper()
	return &browser{s, browsertest.Start(s.t, s.url, options...)}
}

// browsePlain browses without pictures, but where some are kept.
func (s *stage) browsePlain() *browser {
	s.t.Helper()
	if *screenshots != "" {
		return s.browsePainted()
	}
	return &browser{s, browsertest.Start(s.t, s.url, browsertest.NoPictures, browsertest.Unpainted)}
}

// states returns how each surface stands on the match board for icons.
func (b *browser) states() []string {
	b.t.Helper()
	return browsertest.Value[[]string](b.Browser, `[...document.querySelectorAll(".station[data-facet=icons]")].map(s => s.dataset.surface + " " + s.dataset.state)`)
}

// picture returns the SVG that the frame shows.
func (b *browser) picture() string {
	b.t.Helper()
	b.Until(`document.readyState === "complete" && document.querySelector("[data-picture-img]")`)
	return browsertest.Value[string](b.Browser, `fetch(document.querySelector("[data-picture-img]").src).then(r => r.text())`)
}

// keep takes the picture of a main view for docs/screenshots.
func (b *browser) keep(name string) {
	b.t.Helper()
	if *screenshots == "" {
		return
	}
	b.Is(`document.querySelectorAll("main, aside").forEach(e => e.scrollTop = 0)`)
	b.Is(`document.querySelectorAll("img[loading=lazy]").forEach(e => e.loading = "eager")`)
	b.Until(`[...document.images].every(i => i.complete && (i.naturalWidth || !i.offsetParent))`)
	b.Is(`document.activeElement?.blur()`)
	png, err := chromedp.Run(b.Context, chromedp.CaptureScreenshot())
	require.NoError(b.t, err)
	require.NoError(b.t, os.WriteFile(filepath.Join(*screenshots, name+".png"), png, 0o644))
}
