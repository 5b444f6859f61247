package parcel_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/archive/archivetest"
	"ivelt/core/parcel"
	"ivelt/core/within"
)

func open(t testing.TB, name string, b []byte, o archive.Options) (*parcel.Parcel, error) {
	t.Helper()
	file := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(file, b, 0o644))
	return parcel.Open(t.Context(), file, o)
}

// TestParcelIsATree runs the standard library's suite for file trees on every
// kind of archive and on a folder.
func TestParcelIsATree(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "small")
	require.NoError(t, os.MkdirAll(filepath.Join(folder, "Pack/48/apps"), 0o755))
	for _, e := range archivetest.Small[1:] {
		if e.Link != "" {
			require.NoError(t, os.Symlink(e.Link, filepath.Join(folder, e.Name)))
		} else {
			require.NoError(t, os.WriteFile(filepath.Join(folder, e.Name), []byte(e.Text), 0o644))
		}
	}
	opened := map[string]*parcel.Parcel{}
	for name, b := range map[string][]byte{
		"small.tar": archivetest.Tar(t, archivetest.Small), "small.tgz": archivetest.Gz(t, archivetest.Tar(t, archivetest.Small)), "wrong-ending.zip": archivetest.Xz(t, archivetest.Tar(t, archivetest.Small)), "small.zip": archivetest.Zip(t, archivetest.Small),
	} {
		p, err := open(t, name, b, archive.Options{})
		require.NoError(t, err, name)
		opened[p.Format] = p
	}
	var err error
	opened["folder"], err = parcel.Open(t.Context(), folder, archive.Options{})
	require.NoError(t, err)
	require.Len(t, opened, 5, "tar, tar.gz, tar.xz, zip, folder")
	for format, p := range opened {
		require.NoError(t, fstest.TestFS(p, "Pack/index.theme", "Pack/48/apps/leaf.png", "Pack/48/apps/frond.png"), format)
		for _, name := range []string{"leaf", "frond", "far"} {
			b, err := fs.ReadFile(p, "Pack/48/apps/"+name+".png")
			require.NoError(t, err, format)
			require.Equal(t, "leaf", string(b), format)
		}
		found := p.Recognise(t.Context())
		require.Len(t, found.Pieces, 1, format)
		require.Equal(t, 3, found.Pieces[0].Icons, format)
		require.Equal(t, 2, found.Pieces[0].Links, format)
		require.Empty(t, found.Pieces[0].Notes, format)
	}
}

func TestRecognise(t *testing.T) {
	at := func(root string, text string) []archivetest.Entry {
		return []archivetest.Entry{{Name: root + "index.theme", Text: text}, {Name: root + "48/apps/leaf.png", Text: "x"}}
	}
	join := func(lists ...[]archivetest.Entry) (out []archivetest.Entry) {
		for _, l := range lists {
			out = append(out, l...)
		}
		return out
	}
	for _, c := range []struct {
		what, file string
		entries    []archivetest.Entry
		pieces     string // folder@root, …
		codes      string // of all notes, in order: pieces first
	}{
		{"at the top", "Salt-1.2.tar", at("", archivetest.Index("Salt", "", "48/apps")), "Salt@.", ""},
		{"in its folder", "x.tar", at("Salt/", archivetest.Index("Salt crust", "", "48/apps")), "Salt@Salt", ""},
		{"too deep", "x.tar", at("salt-main/dist/Salt/", archivetest.Index("Salt", "", "48/apps")), "Salt@salt-main/dist/Salt", "nested"},
		{"several", "x.tar", join(at("A/", archivetest.Index("A", "", "48/apps")), at("B/", archivetest.Index("B", "A,hicolor", "48/apps"))), "A@A B@B", "icon-partial"},
		{"needs another", "x.tar", at("B/", archivetest.Index("B", "Elsewhere", "48/apps")), "B@B", "icon-partial"},
		{"cycle", "x.tar", join(at("A/", archivetest.Index("A", "B", "48/apps")), at("B/", archivetest.Index("B", "A", "48/apps"))), "A@A B@B", "icon-inherits-cycle icon-partial icon-inherits-cycle icon-partial"},
		{"itself", "x.tar", at("A/", archivetest.Index("A", "A", "48/apps")), "A@A", "icon-inherits-cycle icon-partial"},
		{"no index", "x.tar", at("A/", "")[1:], "", "icon-no-index no-piece"},
		{"index is no key file", "x.tar", at("A/", "hello\n"), "", "icon-bad-index no-piece"},
		{"index of another kind", "x.tar", at("A/", "[Desktop Entry]\nType=X\n"), "", "no-piece"},
		{"nothing in it", "x.tar", at("A/", archivetest.Index("A", "", "16/apps")), "", "icon-empty no-piece"},
		{"folders missing", "x.tar", at("A/", archivetest.Index("A", "", "48/apps", "64/apps")), "A@A", "icon-missing-folders"},
		{"broken link", "x.tar", append(at("A/", archivetest.Index("A", "", "48/apps")), archivetest.Entry{Name: "A/48/apps/gone.png", Link: "nowhere.png"}), "A@A", "links-broken"},
		{"link out of the piece", "x.tar", append(at("A/", archivetest.Index("A", "", "48/apps")), archivetest.Entry{Name: "A/48/apps/out.png", Link: "../../../o.png"}, archivetest.Entry{Name: "o.png", Text: "x"}), "A@A", "link-leaves-piece"},
		{"links out of the parcel", "x.tar", append(at("A/", archivetest.Index("A", "", "48/apps")), archivetest.Entry{Name: "A/48/apps/key.png", Link: "../../../.ssh/key"}, archivetest.Entry{Name: "A/48/apps/all.png", Link: "/etc/passwd"}, archivetest.Entry{Name: "A/48/apps/round.png", Link: "round.png"}), "A@A", "link-out links-broken"},
		{"scripts", "x.tar", append(at("A/", archivetest.Index("A", "", "48/apps")), archivetest.Entry{Name: "install.sh", Text: "rm -rf ~"}), "A@A", "programs"},
		{"text only", "x.tar", []archivetest.Entry{{Name: "a.txt"}}, "", "no-piece"},
	} {
		p, err := open(t, c.file, archivetest.Tar(t, c.entries), archive.Options{})
		require.NoError(t, err, c.what)
		found := p.Recognise(t.Context())
		var pieces, codes []string
		for _, pc := range found.Pieces {
			pieces = append(pieces, pc.Folder+"@"+pc.Root)
			for _, n := range pc.Notes {
				codes = append(codes, n.Code)
			}
		}
		for _, n := range found.Notes {
			codes = append(codes, n.Code)
		}
		require.Equal(t, c.pieces, strings.Join(pieces, " "), c.what)
		require.Equal(t, c.codes, strings.Join(codes, " "), c.what)
	}
	p, err := open(t, "Salt-1.2.tar", archivetest.Tar(t, at("B/", archivetest.Index("B", "Elsewhere,hicolor", "48/apps"))), archive.Options{})
	require.NoError(t, err)
	require.Equal(t, []string{"Elsewhere"}, p.Recognise(t.Context()).Pieces[0].Needs)
	require.Equal(t, "1.2", p.Recognise(t.Context()).Pieces[0].Version)
}

func FuzzOpen(f *testing.F) {
	f.Setenv("PATH", "") // all unpacking is done by Ivelt itself
	f.Add(archivetest.Tar(f, archivetest.Small))
	f.Add(archivetest.Gz(f, archivetest.Tar(f, archivetest.Small)))
	f.Add(archivetest.Xz(f, archivetest.Tar(f, archivetest.Small)))
	f.Add(archivetest.Zip(f, archivetest.Small))
	f.Add(archivetest.Tar(f, []archivetest.Entry{{Name: "../x", Text: "x"}, {Name: "a", Hard: "b"}, {Name: "b", Link: "/"}}))
	f.Add([]byte("PK\x03\x04"))
	f.Add(archivetest.Zip(f, []archivetest.Entry{{Name: "Stra\xe1e/index.theme", Text: "x"}}))
	f.Add(archivetest.Tar(f, []archivetest.Entry{{Name: "Stra\xdfe/index.theme", Text: "x"}}))
	f.Add(hugeFolder(f))
	f.Fuzz(func(t *testing.T, b []byte) {
		within.Reason(t, len(b), func() {
			p, err := open(t, "x", b, archive.Options{Limits: archive.Limits{TotalBytes: 8 << 20, EntryBytes: 4 << 20}})
			if err != nil {
				return
			}
			p.Recognise(t.Context())
			_ = fs.WalkDir(p, ".", func(name string, _ fs.DirEntry, err error) error {
				require.True(t, fs.ValidPath(name))
				if err == nil {
					_, _ = fs.ReadFile(p, name)
				}
				return nil
			})
		})
	})
}

// FuzzNested: archives in archives, of any kinds, cost no more than one of their size.
func FuzzNested(f *testing.F) {
	f.Setenv("PATH", "") // all unpacking is done by Ivelt itself
	f.Add("tz", []byte("x"))
	f.Add("zzgt", archivetest.Tar(f, archivetest.Small))
	f.Add("dzdzdz", archivetest.Zip(f, archivetest.Small))
	f.Add("gg", bytes.Repeat([]byte{0}, 1<<16))
	f.Fuzz(func(t *testing.T, shape string, b []byte) {
		ending, copies := ".zip", 1
		for _, kind := range shape[:min(len(shape), 10)] {
			var in []archivetest.Entry
			for i := range copies {
				in = append(in, archivetest.Entry{Name: fmt.Sprint(i, ending), Text: string(b)})
			}
			copies = 1
			switch kind {
			case 't':
				b, ending = archivetest.Tar(t, in), ".tar"
			case 'g':
				b, ending = archivetest.Gz(t, b), ending+".gz"
			case 'd':
				copies = 5
			default:
				b, ending = archivetest.Zip(t, in), ".zip"
			}
			if len(b) > 4<<20 {
				return
			}
		}
		within.Reason(t, len(b), func() {
			p, err := open(t, "x"+ending, b, archive.Options{Limits: archive.Limits{TotalBytes: 8 << 20, EntryBytes: 4 << 20}})
			if err == nil {
				p.Recognise(t.Context())
				require.NoError(t, p.Close())
			}
		})
	})
}

// hugeFolder is a zip in which a folder says that it is 4 GB large.
func hugeFolder(t testing.TB) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	_, err := z.CreateRaw(&zip.FileHeader{Name: "Pack/", UncompressedSize64: 1<<32 - 2, ExternalAttrs: 0x10})
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}
