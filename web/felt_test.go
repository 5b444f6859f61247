package web_test

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"ivelt/web/browsertest"
)

// painted waits until the picture shows another look and is painted.
const painted = `(was, begun) => new Promise(done => {
	const look = () => {
		const img = document.querySelector("[data-picture-img]");
		if (img.src === was || !img.complete || !img.naturalWidth) return requestAnimationFrame(look);
		img.decode().catch(() => {}).then(() => requestAnimationFrame(() => setTimeout(() => done(performance.now() - begun))));
	};
	look();
})`

// BenchmarkInTheBrowser tells what a person feels, on a desk as it is and with 300 themes more:
// the median and the 95th percentile of 30, in ms from the click or key to the painted page.
func BenchmarkInTheBrowser(b *testing.B) {
	for _, more := range []int{0, 300} {
		b.Run(fmt.Sprintf("%d more", more), func(b *testing.B) {
			s := newStage(b)
			for i := range more {
				dir := s.home(fmt.Sprintf(".themes/Pier-%03d/gtk-3.0", i))
				if err := os.MkdirAll(dir, 0o755); err != nil {
					b.Fatal(err)
				}
				if err := os.WriteFile(filepath.Join(dir, "gtk.css"), []byte("window { color: #222222; background-color: #eeeeee; }\n"), 0o644); err != nil {
					b.Fatal(err)
				}
			}
			p := &browser{s, browsertest.Start(b, s.url)}
			p.Open("/d/avocet/find")
			p.At("Find")
			p.Until(`document.querySelectorAll(".tag").length > 8`)
			for b.Loop() {
				felt(b, p)
			}
		})
	}
}

func felt(b *testing.B, p *browser) {
	report := func(name string, once func(i int) float64) {
		var took []float64
		for i := range 32 {
			if ms := once(i); i > 1 { // the first two warm up
				took = append(took, ms)
			}
		}
		slices.Sort(took)
		b.ReportMetric(took[len(took)/2], name+"-ms")
		b.ReportMetric(took[len(took)*95/100], name+"-p95-ms")
	}
	for _, page := range []string{"find", "compose", "match", "history"} {
		report(page, func(int) float64 {
			p.Open("/d/avocet/" + page)
			return browsertest.Value[float64](p.Browser, `new Promise(done => {
				const look = () => {
					const seen = [...document.images].filter(i => i.offsetParent && i.getBoundingClientRect().top < innerHeight);
					if (document.readyState !== "complete" || !seen.every(i => i.complete)) return setTimeout(look, 2);
					const last = Math.max(performance.getEntriesByType("navigation")[0].domContentLoadedEventEnd, ...performance.getEntriesByType("resource").map(r => r.responseEnd));
					done(last);
				};
				look();
			})`)
		})
	}
	p.Open("/d/avocet/compose")
	p.At("Compose")
	p.Idle()
	report("choice", func(i int) float64 {
		ms := browsertest.Value[float64](p.Browser, fmt.Sprintf(`(async () => {
			const picks = [...document.querySelector(".picks").querySelectorAll(".pick")];
			const was = document.querySelector("[data-picture-img]").src;
			picks[%[1]d].dispatchEvent(new PointerEvent("pointerover", { bubbles: true }));
			await new Promise(done => setTimeout(done, 250)); // as long as a hand takes to it
			const begun = performance.now();
			picks[%[1]d].click();
			return (%[2]s)(was, begun);
		})()`, i%2, painted))
		p.Idle()
		return ms
	})
	p.Open("/d/avocet/find")
	p.At("Find")
	p.Idle()
	report("typing", func(i int) float64 {
		return browsertest.Value[float64](p.Browser, fmt.Sprintf(`new Promise(done => {
			const box = document.querySelector("#sieve [type=search], .find-head [type=search]");
			const begun = performance.now();
			document.addEventListener("htmx:afterSettle", () => requestAnimationFrame(() => setTimeout(() => done(performance.now() - begun))), { once: true });
			box.value = %q;
			box.dispatchEvent(new Event("input", { bubbles: true }));
		})`, []string{"re", "sh", "gro"}[i%3]))
	})
	p.Open("/d/avocet/arrange")
	p.At("Arrange")
	p.Click("#lying [value=desk-clock] ~ [value=there]")
	p.Until(`document.querySelector(".arrange-map [data-lying='desk-clock']")`)
	p.Idle()
	// A thing is taken along: until the picture shows it where the hand is.
	p.Is(`(clock => {
		const r = clock.querySelector(".edge").getBoundingClientRect();
		window.hand = (kind, x) => clock.dispatchEvent(new PointerEvent(kind, { bubbles: true, cancelable: true, button: 0, pointerId: 1, clientX: x, clientY: r.top + r.height / 2 }));
		Element.prototype.setPointerCapture = () => {};
		hand("pointerdown", r.left + r.width / 2);
	})(document.querySelector(".arrange-map [data-lying='desk-clock']"))`)
	report("drag", func(i int) float64 {
		return browsertest.Value[float64](p.Browser, fmt.Sprintf(`new Promise(done => {
			const begun = performance.now();
			const image = document.querySelector(".arrange-map .over") ?? document.querySelector(".arrange-map image");
			new MutationObserver((_, o) => (o.disconnect(), done(performance.now() - begun))).observe(image, { attributeFilter: ["href"] });
			hand("pointermove", 300 + 9 * %d);
		})`, i))
	})
	p.Open("/d/avocet/find")
	p.At("Find")
	p.Idle()
	p.Is(`document.querySelector("#wall .tag").focus()`)
	report("arrow", func(i int) float64 {
		return browsertest.Value[float64](p.Browser, fmt.Sprintf(`new Promise(done => {
			const begun = performance.now();
			document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key: %q, bubbles: true }));
			requestAnimationFrame(() => setTimeout(() => done(performance.now() - begun)));
		})`, []string{"ArrowRight", "ArrowLeft"}[i%2]))
	})
}
