// Package browsertest drives the pages in Debian's Chromium, for tests.
package browsertest

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// Browser is a window of Chromium, without a screen.
type Browser struct {
	URL     string // where the pages are, without a last slash
	Context context.Context
	Acts    int // clicks, and keys pressed, so far
	t       testing.TB
}

// NoPictures leaves them out, for what is not about them: they are most of the work of a page,
// here and in Ivelt.
var NoPictures = chromedp.Flag("blink-settings", "imagesEnabled=false")

// Unpainted paints nothing: pages are laid out, and work, but a third of what the browser does is
// left out. It is for what nobody looks at pixels of, nor drags over a canvas.
var Unpainted = chromedp.Flag("enable-begin-frame-control", true)

// Start opens one of 1280 × 800 px; it ends with the test.
func Start(t testing.TB, url string, options ...chromedp.ExecAllocatorOption) *Browser {
	t.Helper()
	opts := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath("/usr/bin/chromium-headless-shell"), chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WindowSize(1280, 800),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true), chromedp.UserDataDir(t.TempDir()))
	opts = append(opts, options...)
	ctx, cancel := chromedp.NewExecAllocator(t.Context(), opts...)
	t.Cleanup(cancel)
	ctx, cancel = chromedp.NewContext(ctx)
	t.Cleanup(cancel)
	ctx, cancel = context.WithTimeout(ctx, 6*time.Minute)
	t.Cleanup(cancel)
	b := &Browser{URL: url, Context: ctx, t: t}
	b.Do(chromedp.EmulateViewport(1280, 800))
	return b
}

// Do runs steps.
func (b *Browser) Do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	if _, err := chromedp.Run(b.Context, chromedp.Steps(steps...)); err != nil {
		b.Stuck(err.Error())
	}
}

// Stuck ends the test with what the page shows.
func (b *Browser) Stuck(why string) {
	b.t.Helper()
	text, _ := Evaluate[string](b, `location.href + "\n" + document.querySelector("#work")?.innerText`)
	require.Fail(b.t, why, "the page was:\n%s", text)
}

// Evaluate is what a JavaScript expression comes to.
func Evaluate[T any](b *Browser, expression string) (T, error) {
	return chromedp.Run(b.Context, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise, chromedp.EvalAsValue))
}

// Value is the same; an error ends the test.
func Value[T any](b *Browser, expression string) T {
	b.t.Helper()
	v, err := Evaluate[T](b, expression)
	if err != nil {
		b.Stuck(err.Error())
	}
	return v
}

// Open goes to a page, "/d/avocet/find", also if the one before goes somewhere meanwhile.
func (b *Browser) Open(path string) {
	b.t.Helper()
	var err error
	for range 3 {
		if _, err = chromedp.Run(b.Context, chromedp.Navigate(b.URL+path)); err == nil || !strings.Contains(err.Error(), "net::ERR_ABORTED") {
			break
		}
	}
	if err != nil {
		b.Stuck(err.Error())
	}
}

// At waits until the page's title starts with what is given.
func (b *Browser) At(title string) {
	b.t.Helper()
	b.Until(fmt.Sprintf("document.title.startsWith(%q) && document.readyState === 'complete'", title))
}

// Until waits until a JavaScript condition holds, also across pages.
func (b *Browser) Until(condition string) {
	b.t.Helper()
	for end := time.Now().Add(45 * time.Second); time.Now().Before(end); time.Sleep(25 * time.Millisecond) {
		if yes, err := Evaluate[bool](b, "!!("+condition+")"); err == nil && yes {
			return
		}
	}
	b.Stuck("this never came true: " + condition)
}

// Click clicks what a selector finds, once it is seen. What was exchanged between being found
// and being clicked is looked for again: nothing was clicked then.
func (b *Browser) Click(selector string) {
	b.t.Helper()
	b.Acts++
	var err error
	for range 5 {
		if _, err = chromedp.Run(b.Context, chromedp.Click(chromedp.CSS(selector), chromedp.NodeVisible)); err == nil || !strings.Contains(err.Error(), "Could not find node with given id") {
			break
		}
	}
	if err != nil {
		b.Stuck(err.Error())
	}
}

// Group opens what Compose has to choose from for a facet.
func (b *Browser) Group(facet string) {
	b.t.Helper()
	b.Click("#group-" + facet)
	b.Until(`document.querySelector("#picks").dataset.group === "` + facet + `"`)
	b.Idle()
}

// Picture chooses which scene is pictured.
func (b *Browser) Picture(scene string) {
	b.t.Helper()
	b.Is(`(s => { s.value = "` + scene + `"; s.dispatchEvent(new Event("change", {bubbles: true})) })(document.querySelector("[data-scene-is]"))`)
}

// Idle waits, for a while, until the page listens and no part of it is being
// swapped: what is focused then stays.
func (b *Browser) Idle() {
	for end := time.Now().Add(3 * time.Second); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		if quiet, err := Evaluate[bool](b, `document.readyState === "complete" && !document.querySelector(".htmx-request, .htmx-swapping, .htmx-settling")`); err == nil && quiet {
			return
		}
	}
}

// Press sends keys, one after the other, to whatever has the focus.
func (b *Browser) Press(keys ...string) {
	b.t.Helper()
	b.Idle()
	for _, key := range keys {
		for _, r := range key {
			b.Acts++
			b.Do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
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

// Finger puts a finger down at a place of the page, px, takes it along to another and lifts it there, as a
// touch screen tells it.
func (b *Browser) Finger(x, y, toX, toY float64) {
	b.t.Helper()
	b.Acts++
	for _, e := range []struct {
		kind input.DispatchTouchEventType
		at   []*input.TouchPoint
	}{
		{input.DispatchTouchEventTypeTouchStart, []*input.TouchPoint{{X: x, Y: y}}}, {input.DispatchTouchEventTypeTouchMove, []*input.TouchPoint{{X: (x + toX) / 2, Y: (y + toY) / 2}}},
		{input.DispatchTouchEventTypeTouchMove, []*input.TouchPoint{{X: toX, Y: toY}}}, {input.DispatchTouchEventTypeTouchEnd, []*input.TouchPoint{}},
	} {
		b.Do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
			_, err := cdp.Call(ctx, t, input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: e.kind, TouchPoints: e.at})
			return err
		}))
	}
}

// Leads presses keys and waits for the page they lead to. On a machine that is
// busy Chromium may lose a key: it is pressed once more then, and that is said.
func (b *Browser) Leads(title string, keys ...string) {
	b.t.Helper()
	for range 2 {
		b.Press(keys...)
		for end := time.Now().Add(8 * time.Second); time.Now().Before(end); time.Sleep(25 * time.Millisecond) {
			if yes, err := Evaluate[bool](b, fmt.Sprintf("document.title.startsWith(%q)", title)); err == nil && yes {
				b.At(title)
				return
			}
		}
		state, _ := Evaluate[string](b, `document.hasFocus() + " " + document.activeElement?.id + " " + document.querySelector("#strip")?.outerHTML`)
		if running, _ := Evaluate[bool](b, `!!document.querySelector(".job-running")`); running {
			break
		}
		b.t.Logf("pressed %v, and %s did not come: %s", keys, title, state)
	}
	b.At(title)
}

// Walk presses a key until a JavaScript condition on "el", the focused
// element, holds.
func (b *Browser) Walk(key, condition string) {
	b.t.Helper()
	for range 40 {
		if b.Is("(el => " + condition + ")(document.activeElement)") {
			return
		}
		b.Press(key)
	}
	require.Fail(b.t, "the focus never came there", condition)
}

// Is reports whether a JavaScript condition holds.
func (b *Browser) Is(condition string) bool { b.t.Helper(); return Value[bool](b, "!!("+condition+")") }

// Text is the text of what a selector finds, in one line.
func (b *Browser) Text(selector string) string {
	b.t.Helper()
	return strings.Join(strings.Fields(Value[string](b, fmt.Sprintf("document.querySelector(%q).innerText", selector))), " ")
}

// Drop lets files and folders of this machine fall on the page, as a file manager does.
func (b *Browser) Drop(files ...string) {
	b.t.Helper()
	b.Do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		data := &input.DragData{Items: []*input.DragDataItem{}, Files: files, DragOperationsMask: 1}
		for _, kind := range []input.DispatchDragEventType{"dragEnter", "dragOver", "dragOver", "drop"} {
			time.Sleep(100 * time.Millisecond) // the page is asked whether it takes them
			if _, err := cdp.Call(ctx, t, input.DispatchDragEvent, input.DispatchDragEventParams{Type: kind, X: 300, Y: 400, Data: data}); err != nil {
				return err
			}
		}
		return nil
	}))
}
