package truth

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/demo"
	"ivelt/store"
)

// BenchmarkPlan plans an outfit with an icon pack of about 9,000 files that is in a
// parcel, applies it, held against cp -a of the same tree and sync, and goes back.
func BenchmarkPlan(b *testing.B) {
	dir := bigPack(b)
	file := filepath.Join(b.TempDir(), "Big.tar.xz")
	c := exec.CommandContext(b.Context(), "tar", "-cJf", file, "Big")
	c.Dir = filepath.Dir(dir)
	require.NoError(b, c.Run())
	w, err := demo.Open(b.Context(), filepath.Join(b.TempDir(), "world"), true)
	require.NoError(b, err)
	d := w.Avocet
	keep := store.Blobs{Dir: b.TempDir()}
	config := apply.Config{Keep: keep, Journal: filepath.Join(b.TempDir(), "journal")}
	p, err := parcel.Open(b.Context(), file, archive.Options{})
	config.Open = func(context.Context, plan.Source) (*parcel.Parcel, error) { return p, nil }
	require.NoError(b, err)
	found := p.Recognise(b.Context()).Pieces
	placings, err := place.All(found, d, place.Mine, planning.Refuse, planning.ByLink)
	require.NoError(b, err)
	room := b.TempDir()
	require.NoError(b, os.MkdirAll(filepath.Join(room, ".local/share/icons"), 0o755))
	require.NoError(b, os.Symlink(dir, filepath.Join(room, ".local/share/icons/Big")))
	tried := *d
	tried.Layers = []string{room}
	o := outfit.Outfit{Name: "Big"}.With(desk.FacetIcons, "Big").With(desk.FacetDark, "dark")

	var behind sync.WaitGroup
	config.Background = behind.Go
	var planned, again, applied, copied, back time.Duration
	var most uint64
	since := func(to *time.Duration, begun time.Time) { *to += time.Since(begun) }
	for b.Loop() {
		begun := time.Now()
		fresh, err := parcel.Open(b.Context(), file, archive.Options{})
		require.NoError(b, err)
		_, err = planning.DressWith(b.Context(), d, &tried, o, []planning.ToPlace{{Parcel: fresh, Placings: placings}}, planning.Options{})
		require.NoError(b, err)
		since(&planned, begun)
		begun = time.Now()
		made, err := planning.DressWith(b.Context(), d, &tried, o, []planning.ToPlace{{Parcel: fresh, Placings: placings}}, planning.Options{})
		require.NoError(b, err)
		since(&again, begun)

		begun = time.Now()
		require.NoError(b, exec.CommandContext(b.Context(), "cp", "-a", dir, filepath.Join(d.Home, "copy")).Run())
		require.NoError(b, exec.CommandContext(b.Context(), "sync", "-f", d.Home).Run())
		since(&copied, begun)
		require.NoError(b, os.RemoveAll(filepath.Join(d.Home, "copy")))

		begun = time.Now()
		require.NoError(b, apply.Plan(b.Context(), d, made, config))
		since(&applied, begun)
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		most = max(most, m.HeapInuse)

		begun = time.Now()
		r, err := planning.Back(d, []plan.Plan{made}, keep, planning.Aim{})
		require.NoError(b, err)
		require.NoError(b, apply.Plan(b.Context(), d, r.Plan, config))
		since(&back, begun)
		behind.Wait()
	}
	ms := func(t time.Duration) float64 { return float64(t.Milliseconds()) / float64(b.N) }
	b.ReportMetric(ms(planned), "ms-first-plan")
	b.ReportMetric(ms(again), "ms-plan")
	b.ReportMetric(ms(applied), "ms-apply")
	b.ReportMetric(float64(applied)/float64(copied), "x-cp-a-and-sync")
	b.ReportMetric(ms(back), "ms-back")
	b.ReportMetric(float64(most)/1e6, "MB-heap")
}
