//go:build ignore

// Command world writes the table of the world's icons: of each pack that is named, a folder, sixty
// pictures by chance, as core/iconbench measures them.
package main

import (
	"bufio"
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/iconbench"
	"ivelt/core/icontheme"
)

func main() {
	out := bufio.NewWriter(os.Stdout)
	defer out.Flush()
	for _, folder := range os.Args[1:] {
		for _, l := range iconbenchLooks(folder, 60) {
			fmt.Fprintln(out, l.Row())
		}
	}
}

// iconbenchLooks are some looks of a pack, each picture once, what is drawn in one colour left out.
func iconbenchLooks(folder string, most int) (out []iconbench.Look) {
	base, theme := filepath.Split(folder)
	x := icontheme.NewIndex(icontheme.Config{FS: os.DirFS(base), Bases: []string{"."}, Theme: theme})
	names := slices.Sorted(slices.Values(x.Names(1)))
	rand.New(rand.NewPCG(7, 9)).Shuffle(len(names), func(i, j int) { names[i], names[j] = names[j], names[i] })
	seen := map[string]bool{}
	for _, name := range names {
		icon, ok := x.Lookup(name, 48, 1)
		if !ok || icon.Theme != theme || strings.HasSuffix(name, "-symbolic") || strings.Contains(icon.Path, "symbolic") || strings.Contains(icon.Path, "actions") {
			continue
		}
		file, err := filepath.EvalSymlinks(filepath.Join(base, icon.Path))
		if err != nil || seen[file] {
			continue
		}
		seen[file] = true
		raw, err := os.ReadFile(file)
		if err != nil {
			continue
		}
		if l, ok := iconbench.LookOf(context.Background(), raw); ok {
			if out = append(out, l); len(out) == most {
				break
			}
		}
	}
	return out
}
