// Package demoing starts the demo world: its desks, its market, and their stand-ins.
package demoing

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/cmd/ivelt/internal/serving"
	"ivelt/demo"
	"ivelt/standin"
	"ivelt/store"
)

// Commands are those of the group.
func Commands() []*cobra.Command { return []*cobra.Command{demoCommand()} }

func demoCommand() *cobra.Command {
	var at serving.ListenFlags
	var dir string
	var fresh bool
	c := &cobra.Command{
		Use:   "demo",
		Short: "Start with the demo world: the desks Avocet, Dunlin and Turnstone and the market Strandline",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			l, err := at.Listen()
			if err != nil {
				return err
			}
			defer l.Close()
			if dir == "" {
				if dir, err = demoDir(); err != nil {
					return err
				}
			}
			begun := time.Now()
			w, err := openWorld(c.Context(), dir, fresh)
			if err != nil {
				return err
			}
			market, err := net.Listen("tcp", "127.0.0.1:0")
			if err != nil {
				return err
			}
			strandline := &http.Server{Handler: &standin.Market{Dir: w.Market}, ReadHeaderTimeout: 5 * time.Second}
			go func() { _ = strandline.Serve(market) }()
			defer strandline.Close()
			a, err := app.New(c.Context(), app.Config{
				Dir:      filepath.Join(dir, "data"),
				Desks:    demoDesks(w),
				Market:   "http://" + market.Addr().String(),
				Watchdog: given.Watchdog,
				Log:      slog.Default(),
			})
			if err != nil {
				return err
			}
			defer a.Close()
			fmt.Fprintf(c.OutOrStdout(), "The demo world is in %s (ready in %.1f s).\nStrandline, the market, is at http://%s\n",
				dir, time.Since(begun).Seconds(), market.Addr())
			return at.Serve(c, l, a, "Ctrl-C stops it.")
		},
	}
	at.Add(c)
	c.Flags().StringVar(&dir, "dir", "", "folder of the demo world (default: in your data folder)")
	c.Flags().BoolVar(&fresh, "fresh", false, "make the demo world anew")
	return c
}

// openWorld opens the demo world. One that an earlier version made is made anew, unless
// somebody has done something on its desks: then they are asked.
func openWorld(ctx context.Context, dir string, fresh bool) (*demo.World, error) {
	made, err := demo.MadeBy(dir)
	if err != nil || fresh || made == demo.Version || made == 0 {
		if err != nil {
			return nil, err
		}
		return demo.Open(ctx, dir, fresh)
	}
	if made > demo.Version {
		return nil, fmt.Errorf("the demo world in %s has version %d, and this Ivelt knows %d: it was made by a newer one. Start that one, or name another folder with --dir; nothing was changed", dir, made, demo.Version)
	}
	used, err := store.Used(filepath.Join(dir, "data"))
	if err != nil {
		return nil, fmt.Errorf("the demo world in %s was made by an earlier Ivelt, and it cannot be told whether you did something there: %w. Name another folder with --dir, or make it anew with --fresh, which deletes all of it", dir, err)
	}
	if used {
		return nil, fmt.Errorf("the demo world in %s was made by an earlier Ivelt (version %d, this one makes %d), and you did something on its desks. Nothing was changed. Make it anew with “ivelt demo --fresh”, which deletes that, or keep it and name another folder with --dir", dir, made, demo.Version)
	}
	return demo.Open(ctx, dir, true)
}

// demoDesks are the desks of the demo world with what can be done there.
func demoDesks(w *demo.World) []*desks.Managed {
	var out []*desks.Managed
	for _, d := range w.Desks() {
		mark, simulated := demo.Locked(d)
		out = append(out, &desks.Managed{
			Mark: mark, Simulated: simulated,
			Desk: d, Turns: true, Refresh: demo.Caches(d).Refresh, Restarts: demo.Restarts(d), Screens: demo.Screens(d),
			Console: func(surface, line string) (string, error) { return demo.Console(d, surface, line) },
		})
	}
	return out
}

func demoDir() (string, error) {
	dir, err := given.DataDir()
	return filepath.Join(dir, "demo"), err
}

// World are the desks of the demo world in its usual folder, and their data folder.
func World(ctx context.Context) (on []*desks.Managed, data string, err error) {
	dir, err := demoDir()
	if err != nil {
		return nil, "", err
	}
	w, err := openWorld(ctx, dir, false)
	if err != nil {
		return nil, "", err
	}
	return demoDesks(w), filepath.Join(dir, "data"), nil
}

// Fresh are the desks of a demo world that is made in a folder, without its market.
func Fresh(ctx context.Context, dir string) ([]*desks.Managed, error) {
	w, err := demo.Desks(ctx, dir)
	if err != nil {
		return nil, err
	}
	return demoDesks(w), nil
}
