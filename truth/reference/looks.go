//go:build ignore

// Command looks tells which of the pieces it is asked for, each as "theme NAME" or "icons
// NAME", GTK would find where it runs: gtkcssprovider.c and gtkicontheme.c of GTK 3.24 look in
// the data folders, and in hidden folders of the home.
package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

func main() {
	home := os.Getenv("HOME")
	folders := append([]string{os.Getenv("XDG_DATA_HOME")}, strings.Split(os.Getenv("XDG_DATA_DIRS"), ":")...)
	for _, piece := range os.Args[1:] {
		kind, name, _ := strings.Cut(piece, " ")
		places := map[string][]string{"theme": {home + "/.themes"}, "icons": {home + "/.icons"}}[kind]
		files := []string{"index.theme"}
		if kind == "theme" {
			files = nil
			for minor := 24; minor >= 0; minor -= 2 { // _gtk_css_find_theme of gtkcssprovider.c
				files = append(files, fmt.Sprintf("gtk-3.%d/gtk.css", minor))
			}
		}
		for _, folder := range folders {
			places = append(places, filepath.Join(folder, map[string]string{"theme": "themes", "icons": "icons"}[kind]))
		}
		if found(places, name, files) {
			fmt.Println(piece)
		}
	}
	fmt.Println("GTK_THEME=" + os.Getenv("GTK_THEME"))
}

func found(places []string, name string, files []string) bool {
	for _, place := range places {
		for _, file := range files {
			if _, err := os.ReadFile(filepath.Join(place, name, file)); err == nil {
				return true
			}
		}
	}
	return false
}
