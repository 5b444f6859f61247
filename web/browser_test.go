package web_test

import (
	"context"
	_ "embed"
	"flag"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/demo"
	"ivelt/standin"
	"ivelt/web"
)

// screenshots makes the stories keep a picture of each main view.
var screenshots = flag.String("screenshots", "", "folder to keep a picture of each main view in")

var (
	scratch   string
	madeWorld = sync.OnceValues(func() (string, error) {
		dir := filepath.Join(scratch, "world")
		_, err := demo.Open(context.Background(), dir, false)
		return dir, err
	})
)

func TestMain(m *testing.M) {
	flag.Parse()
	var err error
	if scratch, err = os.MkdirTemp("", "web"); err != nil {
		panic(err)
	}
	code := m.Run()
	os.RemoveAll(scratch)
	os.Exit(code)
}

// stage is a running Ivelt on a demo world of its own.
type stage struct {
	t      *testing.T
	url    string
	world  *demo.World
	market *standin.Market
	app    *app.App
	dir    string
}

func newStage(t *testing.T) *stage {
	t.Helper()
	made, err := madeWorld()
	require.NoError(t, err)
	dir := filepath.Join(t.TempDir(), "world")
	require.NoError(t, os.CopyFS(dir, os.DirFS(made)))
	return stageIn(t, dir)
}

func stageIn(t *testing.T, dir string) *stage {
	t.Helper()
	w, err := demo.Open(t.Context(), dir, false)
	require.NoError(t, err)
	s := &stage{t: t, world: w, market: &standin.Market{Dir: w.Market}, dir: dir}
	market := httptest.NewServer(s.market)
	t.Cleanup(market.Close)
	var on []*desks.Managed
	for _, d := range w.Desks() {
		on = append(on, &desks.Managed{Desk: d, Restarts: demo.Restarts(d), Refresh: demo.Caches(d).Refresh, Screens: demo.Screens(d),
			Console: func(surface, line string) (string, error) { return demo.Console(d, surface, line) }})
	}
	s.app, err = app.New(t.Context(), app.Config{Dir: filepath.Join(dir, "data"), Desks: on, Market: market.URL, Log: slog.New(slog.NewTextHandler(t.Output(), nil))})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.app.Close() })
	s.app.Markets.Fresh, s.app.Markets.Backoff = 0, 10*time.Millisecond
	server, err := web.New(s.app)
	require.NoError(t, err)
	pages := httptest.NewServer(server.Handler())
	t.Cleanup(pages.Close)
	s.url = pages.URL
	return s
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

func treeOf(t *testing.T, top string, without ...string) map[string]string {
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

// browser drives Debian's Chromium without a screen.
type browser struct {
	*stage
	ctx context.Context
}

func (s *stage) browse() *browser {
	s.t.Helper()
	opts := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath("/usr/bin/chromium"), chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WindowSize(1280, 800),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true), chromedp.UserDataDir(s.t.TempDir()))
	ctx, cancel := chromedp.NewExecAllocator(s.t.Context(), opts...)
	s.t.Cleanup(cancel)
	ctx, cancel = chromedp.NewContext(ctx)
	s.t.Cleanup(cancel)
	ctx, cancel = context.WithTimeout(ctx, 6*time.Minute)
	s.t.Cleanup(cancel)
	b := &browser{s, ctx}
	b.do(chromedp.EmulateViewport(1280, 800))
	return b
}

func (b *browser) do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	if _, err := chromedp.Run(b.ctx, chromedp.Steps(steps...)); err != nil {
		b.stuck(err.Error())
	}
}

// stuck ends the test with what the page shows.
func (b *browser) stuck(why string) {
	b.t.Helper()
	text, _ := evaluate[string](b, `location.href + "\n" + document.querySelector("#work")?.innerText`)
	require.Fail(b.t, why, "the page was:\n%s", text)
}

func evaluate[T any](b *browser, expression string) (T, error) {
	return chromedp.Run(b.ctx, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise, chromedp.EvalAsValue))
}

func value[T any](b *browser, expression string) T {
	b.t.Helper()
	v, err := evaluate[T](b, expression)
	if err != nil {
		b.stuck(err.Error())
	}
	return v
}

func (b *browser) open(path string) { b.t.Helper(); b.do(chromedp.Navigate(b.url + path)) }

// at waits until the page's title starts with what is given.
func (b *browser) at(title string) {
	b.t.Helper()
	b.until(fmt.Sprintf("document.title.startsWith(%q) && document.readyState === 'complete'", title))
}

// until waits until a JavaScript condition holds, also across pages.
func (b *browser) until(condition string) {
	b.t.Helper()
	for end := time.Now().Add(45 * time.Second); time.Now().Before(end); time.Sleep(25 * time.Millisecond) {
		if yes, err := evaluate[bool](b, "!!("+condition+")"); err == nil && yes {
			return
		}
	}
	b.stuck("this never came true: " + condition)
}

func (b *browser) click(selector string) {
	b.t.Helper()
	b.do(chromedp.Click(chromedp.CSS(selector), chromedp.NodeVisible))
}

// idle waits, for a while, until the page listens and no part of it is being
// swapped: what is focused then stays.
func (b *browser) idle() {
	for end := time.Now().Add(3 * time.Second); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		if quiet, err := evaluate[bool](b, `document.readyState === "complete" && !document.querySelector(".htmx-request, .htmx-swapping, .htmx-settling")`); err == nil && quiet {
			return
		}
	}
}

// press sends keys, one after the other, to whatever has the focus.
func (b *browser) press(keys ...string) {
	b.t.Helper()
	b.idle()
	for _, key := range keys {
		for _, r := range key {
			b.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
				events := kb.Encode(r)
				if len(events) == 3 {
					// As a real key does: no text if the page takes the key itself.
					events[0].Type, events[0].Text, events[0].UnmodifiedText = input.DispatchKeyEventTypeKeyDown, events[1].Text, events[1].UnmodifiedText
					events = []*input.DispatchKeyEventParams{events[0], events[2]}
				}
				for _, e := range events {
					if _, err := cdp.Call(ctx, t, input.DispatchKeyEvent, *e); err != nil {
						return err
					}
				}
				return nil
			}))
		}
	}
}

// leads presses keys and waits for the page they lead to. On a machine that is
// busy Chromium may lose a key: it is pressed once more then, and that is said.
func (b *browser) leads(title string, keys ...string) {
	b.t.Helper()
	for range 2 {
		b.press(keys...)
		for end := time.Now().Add(8 * time.Second); time.Now().Before(end); time.Sleep(25 * time.Millisecond) {
			if yes, err := evaluate[bool](b, fmt.Sprintf("document.title.startsWith(%q)", title)); err == nil && yes {
				b.at(title)
				return
			}
		}
		state, _ := evaluate[string](b, `document.hasFocus() + " " + document.activeElement?.id + " " + document.querySelector("#strip")?.outerHTML`)
		if running, _ := evaluate[bool](b, `!!document.querySelector(".job-running")`); running {
			break
		}
		b.t.Logf("pressed %v, and %s did not come: %s", keys, title, state)
	}
	b.at(title)
}

// walk presses a key until a JavaScript condition on "el", the focused
// element, holds.
func (b *browser) walk(key, condition string) {
	b.t.Helper()
	for range 40 {
		if b.is("(el => " + condition + ")(document.activeElement)") {
			return
		}
		b.press(key)
	}
	require.Fail(b.t, "the focus never came there", condition)
}

func (b *browser) is(condition string) bool { b.t.Helper(); return value[bool](b, "!!("+condition+")") }

func (b *browser) text(selector string) string {
	b.t.Helper()
	return strings.Join(strings.Fields(value[string](b, fmt.Sprintf("document.querySelector(%q).innerText", selector))), " ")
}

// states returns how each surface stands on the match board for icons.
func (b *browser) states() []string {
	b.t.Helper()
	return value[[]string](b, `[...document.querySelectorAll(".station[data-facet=icons]")].map(s => s.dataset.surface + " " + s.dataset.state)`)
}

// picture returns the SVG that the frame shows.
func (b *browser) picture() string {
	b.t.Helper()
	b.until(`document.readyState === "complete" && document.querySelector("[data-picture-img]")`)
	return value[string](b, `fetch(document.querySelector("[data-picture-img]").src).then(r => r.text())`)
}

// keep takes the picture of a main view for docs/screenshots.
func (b *browser) keep(name string) {
	b.t.Helper()
	if *screenshots == "" {
		return
	}
	b.is(`document.querySelectorAll("main, aside").forEach(e => e.scrollTop = 0)`)
	b.until(`[...document.images].every(i => i.complete || i.loading === "lazy" && (i.offsetParent === null || i.getBoundingClientRect().top > innerHeight))`)
	b.is(`document.activeElement?.blur()`)
	png, err := chromedp.Run(b.ctx, chromedp.CaptureScreenshot())
	require.NoError(b.t, err)
	require.NoError(b.t, os.WriteFile(filepath.Join(*screenshots, name+".png"), png, 0o644))
}
