package library_test

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/apptest"
	"ivelt/app/library"
	"ivelt/core/archive"
	"ivelt/core/archive/archivetest"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
)

func packOf(t *testing.T, name, more string) []byte {
	return archivetest.Zip(t, []archivetest.Entry{
		{Name: name + "/index.theme", Text: archivetest.Index(name, "", "48/apps")},
		{Name: name + "/48/apps/folder.svg", Text: `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><rect width="48" height="48" fill="` + more + `"/></svg>`},
		{Name: name + "/48/apps/" + more + ".svg", Text: `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"/>`},
		{Name: name + "/COPYING", Text: "SPDX-License-Identifier: MIT\n"},
	})
}

// TestAFolderInDownloads: one that has a piece in it, or the sources of one, is offered and
// looked into where it lies; any other is not.
func TestAFolderInDownloads(t *testing.T) {
	a, d := apptest.New(t)
	downloads := filepath.Join(d.Home, "Downloads")
	sources := filepath.Join(downloads, "reef-src")
	require.NoError(t, os.MkdirAll(filepath.Join(sources, "src/gtk-3.0"), 0o755))
	require.NoError(t, os.MkdirAll(filepath.Join(downloads, "holiday"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(sources, "src/gtk-3.0/gtk.scss"), []byte("$ink: red;"), 0o644))
	require.Len(t, a.Library.Downloads(d), 1)
	var in string
	require.NoError(t, apptest.Wait(a.Library.BringHere(d, "reef-src", func(s string) string { in = s; return "" })))
	of, err := a.Library.Parcel(in)
	require.NoError(t, err)
	looked, err := library.Contents(of)
	require.NoError(t, err)
	require.Contains(t, fmt.Sprint(looked.Notes), "sources")
}

// TestAPieceComesStaysAndGoes: a parcel lies in the download folder, is taken in, its piece
// put in place, told of, compared with a newer one, named by a setting, and taken away.
func TestAPieceComesStaysAndGoes(t *testing.T) {
	a, d := apptest.New(t)
	downloads := filepath.Join(d.Home, "Downloads")
	require.NoError(t, os.MkdirAll(downloads, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(downloads, "reef.zip"), packOf(t, "Reef", "teal"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(downloads, "notes.txt"), []byte("no parcel"), 0o644))
	require.Len(t, a.Library.Downloads(d), 1)
	_, err := a.Library.BringHere(d, "notes.txt", nil)
	require.ErrorContains(t, err, "no parcel")
	sha := ""
	require.NoError(t, apptest.Wait(a.Library.BringHere(d, "reef.zip", func(s string) string { sha = s; return "" })))
	held, err := a.Library.Held()
	require.NoError(t, err)
	require.Equal(t, map[string]bool{sha: true}, held)

	row, err := a.Library.Parcel(sha)
	require.NoError(t, err)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	key := library.PieceKey(contents.Pieces[0])
	_, err = a.Pieces.InstallPlan(t.Context(), d, sha, nil, library.How{})
	require.ErrorContains(t, err, "at least one piece")
	pl, err := a.Pieces.InstallPlan(t.Context(), d, sha, []string{key}, library.How{Scope: place.Mine, Second: planning.ByLink})
	require.NoError(t, err)
	require.NotEmpty(t, pl.Ops)
	require.NoError(t, apptest.Wait(a.Pieces.Install(d, sha, []string{key}, library.How{Scope: place.Mine, Second: planning.ByLink}, "")))

	packs, err := a.Pieces.Shelf(d)
	require.NoError(t, err)
	require.Len(t, packs, 2, "there is a link to it where older programs look")
	pack := packs[slices.IndexFunc(packs, func(p library.Pack) bool { return p.ByIvelt })]
	require.Equal(t, "Reef", pack.Name)
	require.True(t, pack.Mine)
	require.NotEmpty(t, pack.HiddenBy)
	require.Equal(t, 2, pack.Icons)
	require.FileExists(t, d.HostPath(pack.Path)+"/48/apps/folder.svg")

	lonely := filepath.Join(d.Home, ".icons/Lonely")
	require.NoError(t, os.MkdirAll(filepath.Join(lonely, "48/apps"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(lonely, "index.theme"), []byte("[Icon Theme]\nName=Lonely\nInherits=Reef,Gone,hicolor\nDirectories=48/apps\n[48/apps]\nSize=48\n"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(lonely, "48/apps/x.svg"), []byte("<svg/>"), 0o644))
	packs, err = a.Pieces.Shelf(d)
	require.NoError(t, err)
	i := slices.IndexFunc(packs, func(p library.Pack) bool { return p.Name == "Lonely" })
	require.Equal(t, []string{"Gone"}, packs[i].Lacks, "what is on the desk is never missing")
	require.NoError(t, os.RemoveAll(lonely))

	origins, err := a.Record.Origins(d.ID)
	require.NoError(t, err)
	require.Len(t, origins, 1)
	about := library.Known(origins)(pack.Path + "/48/apps/folder.svg")
	require.Equal(t, "MIT", about.Licence)
	require.Equal(t, "sha256:"+sha, about.Checksum)

	// A newer one of the same name.
	newer := packOf(t, "Reef", "coral")
	again := ""
	require.NoError(t, a.Library.Bring("reef-2.zip", io.NopCloser(bytes.NewReader(newer)), int64(len(newer)), "", func(s string) string { again = s; return "" }).Wait())
	row, err = a.Library.Parcel(again)
	require.NoError(t, err)
	p, err := a.Library.Open(t.Context(), row)
	require.NoError(t, err)
	pc, err := library.PieceOf(row, key)
	require.NoError(t, err)
	diff, err := a.Pieces.Differences(t.Context(), d, row, p, pc, pack.Path)
	require.NoError(t, err)
	require.Equal(t, []string{"coral"}, diff.Added)
	require.Equal(t, []string{"teal"}, diff.Gone)
	require.Contains(t, diff.Changed, "folder")
	require.False(t, diff.Empty() || diff.Update)

	require.NoError(t, a.Pieces.Rename(t.Context(), d, pack.Path, "Reef of mine"))
	packs, err = a.Pieces.Shelf(d)
	require.NoError(t, err)
	require.Equal(t, "Reef of mine", packs[0].Name)
	require.Equal(t, packs[0].Name, packs[1].Name)
	require.ErrorContains(t, a.Pieces.Rename(t.Context(), d, pack.Path, " "), "one line")
	require.ErrorContains(t, a.Pieces.Rename(t.Context(), d, "/usr/share/icons/X", "X"), "belongs to the system")

	// What is named is not taken away.
	_, job, err := a.Changes.Dress(t.Context(), d, outfit.Outfit{Name: "Reef"}.With(desk.FacetIcons, "Reef"), 0, planning.Options{})
	require.NoError(t, err)
	require.NoError(t, job.Wait())
	pieces, err := a.Record.Pieces(d.ID)
	require.NoError(t, err)
	by, err := a.Pieces.NamedBy(d, pieces[0])
	require.NoError(t, err)
	require.Contains(t, by, "~/.config/gtk-3.0/settings.ini line 2, gtk-icon-theme-name")
	require.Contains(t, by, "the outfit last applied")
	_, err = a.Pieces.Remove(d, pack.Path, library.How{}, "")
	require.ErrorContains(t, err, "Choose something else for them first")
	entries, err := a.Record.Entries(d.ID)
	require.NoError(t, err)
	require.Len(t, entries, 3)
	one, err := a.Record.Entry(entries[0].ID)
	require.NoError(t, err)
	require.Equal(t, entries[0].Title, one.Title)
	worn, err := a.Record.Worn(d.ID)
	require.NoError(t, err)
	require.Equal(t, "Reef", worn.Want(desk.FacetIcons))
	for _, name := range []string{".config/gtk-3.0/settings.ini", ".config/gtk-4.0/settings.ini", ".gtkrc-2.0"} {
		_ = os.Remove(filepath.Join(d.Home, name))
	}
	require.NoError(t, apptest.Wait(a.Pieces.Remove(d, pack.Path, library.How{}, "")))
	require.NoDirExists(t, d.HostPath(pack.Path))
	packs, err = a.Pieces.Shelf(d)
	require.NoError(t, err)
	require.Empty(t, packs)
	_, err = a.Pieces.Remove(d, "/home/me/.icons/Gone", library.How{}, "")
	require.ErrorContains(t, err, "there is no piece")

	left, done, ok, err := library.ReadRecord(t.Context(), a.Dir)
	require.NoError(t, err)
	require.True(t, ok)
	entries, err = left.Entries(d.ID)
	require.NoError(t, err)
	require.Len(t, entries, 4)
	require.NoError(t, done())
	_, _, ok, err = library.ReadRecord(t.Context(), t.TempDir())
	require.NoError(t, err)
	require.False(t, ok, "nothing was ever written down there")
}

// TestPiecesThatAreNoIcons are told of with who sees them; what is gone is said.
func TestPiecesThatAreNoIcons(t *testing.T) {
	a, d := apptest.New(t)
	theme := archivetest.Zip(t, []archivetest.Entry{{Name: "Salt/gtk-3.0/gtk.css", Text: "window { color: red; }\n"}, {Name: "Salt/index.theme", Text: "[Desktop Entry]\nName=Salt\n"}})
	sha := ""
	require.NoError(t, a.Library.Bring("salt.zip", io.NopCloser(bytes.NewReader(theme)), int64(len(theme)), "", func(s string) string { sha = s; return "" }).Wait())
	row, err := a.Library.Parcel(sha)
	require.NoError(t, err)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Pieces.Install(d, sha, []string{library.PieceKey(contents.Pieces[0])}, library.How{Scope: place.Mine, Second: planning.ByLink}, "")))
	placed, err := a.Pieces.Placed(d)
	require.NoError(t, err)
	require.Len(t, placed, 1)
	require.EqualValues(t, "window theme", placed[0].Title())
	require.Contains(t, placed[0].SeenBy, "GTK 3 programs")
	require.False(t, placed[0].Gone)
	require.NoError(t, os.RemoveAll(d.HostPath(placed[0].Path)))
	placed, err = a.Pieces.Placed(d)
	require.NoError(t, err)
	require.True(t, placed[0].Gone)
}

// TestALockedParcelIsKept, so that only its password has to be given; a folder is referred
// to, and what is no parcel is refused.
func TestALockedParcelIsKept(t *testing.T) {
	a, _ := apptest.New(t)
	folder := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(folder, "Salt/gtk-3.0"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "Salt/gtk-3.0/gtk.css"), []byte("window { color: red; }"), 0o644))
	row, err := a.Library.Keep(t.Context(), folder, "")
	require.NoError(t, err)
	require.Equal(t, folder, row.File)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	require.Equal(t, parcel.Theme, contents.Pieces[0].Kind)

	file := filepath.Join(t.TempDir(), "page.zip")
	require.NoError(t, os.WriteFile(file, []byte("<!doctype html>"), 0o644))
	_, err = a.Library.Keep(t.Context(), file, "")
	require.ErrorIs(t, err, archive.ErrNotArchive)
	_, err = a.Library.Keep(t.Context(), filepath.Join(folder, "gone"), "")
	require.ErrorIs(t, err, os.ErrNotExist)

	locked := filepath.Join(t.TempDir(), "locked.zip")
	text, err := os.ReadFile("testdata/locked.zip") // Info-ZIP 3.0, zip -P tide
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(locked, text, 0o644))
	_, err = a.Library.Keep(t.Context(), locked, "")
	var e *library.LockedError
	require.ErrorAs(t, err, &e)
	require.ErrorIs(t, err, archive.ErrPassword)
	require.ErrorContains(t, apptest.Wait(a.Library.Unlock(e.SHA, e.Name, "ebb", func(string) string { return "" })), "locked")
	sha := ""
	require.NoError(t, apptest.Wait(a.Library.Unlock(e.SHA, e.Name, "tide", func(s string) string { sha = s; return "" })))
	require.Equal(t, e.SHA, sha)
	_, err = a.Library.Unlock("../../etc", "passwd", "", nil)
	require.ErrorContains(t, err, "is no parcel")
}
