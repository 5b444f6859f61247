package parcel_test

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"
	"github.com/ulikunitz/xz"

	"ivelt/core/parcel"
	"ivelt/core/regular"
	"ivelt/core/within"
)

// entry is one member of an archive to be made: a folder if its name ends in a
// slash, a link if link is set, a hard link if hard is.
type entry struct {
	name, text, link, hard string
	kind                   byte
}

func index(name, inherits string, dirs ...string) string {
	s := "[Icon Theme]\nName=" + name + "\n"
	if inherits != "" {
		s += "Inherits=" + inherits + "\n"
	}
	s += "Directories=" + strings.Join(dirs, ",") + "\n"
	for _, d := range dirs {
		s += "[" + d + "]\nSize=48\n"
	}
	return s
}

func tarOf(t testing.TB, entries []entry) []byte {
	var b bytes.Buffer
	w := tar.NewWriter(&b)
	for _, e := range entries {
		h := &tar.Header{Name: e.name, Mode: 0o644, Size: int64(len(e.text)), Typeflag: tar.TypeReg}
		switch {
		case e.kind != 0:
			h.Typeflag = e.kind
		case e.link != "":
			h.Typeflag, h.Linkname = tar.TypeSymlink, e.link
		case e.hard != "":
			h.Typeflag, h.Linkname = tar.TypeLink, e.hard
		case strings.HasSuffix(e.name, "/"):
			h.Typeflag, h.Mode = tar.TypeDir, 0o755
		}
		require.NoError(t, w.WriteHeader(h))
		_, err := io.WriteString(w, e.text)
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

func zipOf(t testing.TB, entries []entry) []byte {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, e := range entries {
		h := &zip.FileHeader{Name: e.name, Method: zip.Deflate}
		h.SetMode(0o644)
		text := e.text
		if e.link != "" {
			h.SetMode(fs.ModeSymlink | 0o777)
			text = e.link
		}
		f, err := w.CreateHeader(h)
		require.NoError(t, err)
		_, err = io.WriteString(f, text)
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

func gzOf(t testing.TB, b []byte) []byte {
	var out bytes.Buffer
	w := gzip.NewWriter(&out)
	_, err := w.Write(b)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return out.Bytes()
}

func xzOf(t testing.TB, b []byte) []byte {
	var out bytes.Buffer
	w, err := xz.NewWriter(&out)
	require.NoError(t, err)
	_, err = w.Write(b)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return out.Bytes()
}

func open(t testing.TB, name string, b []byte, o parcel.Options) (*parcel.Parcel, error) {
	t.Helper()
	file := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(file, b, 0o644))
	return parcel.Open(t.Context(), file, o)
}

var small = []entry{
	{name: "Pack/"}, {name: "Pack/index.theme", text: index("A Pack", "", "48/apps")},
	{name: "Pack/48/apps/leaf.png", text: "leaf"}, {name: "Pack/48/apps/frond.png", link: "leaf.png"},
	{name: "Pack/48/apps/far.png", link: "../../48/apps/leaf.png"},
}

// TestParcelIsATree runs the standard library's suite for file trees on every
// kind of archive and on a folder.
func TestParcelIsATree(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "small")
	require.NoError(t, os.MkdirAll(filepath.Join(folder, "Pack/48/apps"), 0o755))
	for _, e := range small[1:] {
		if e.link != "" {
			require.NoError(t, os.Symlink(e.link, filepath.Join(folder, e.name)))
		} else {
			require.NoError(t, os.WriteFile(filepath.Join(folder, e.name), []byte(e.text), 0o644))
		}
	}
	opened := map[string]*parcel.Parcel{}
	for name, b := range map[string][]byte{
		"small.tar": tarOf(t, small), "small.tgz": gzOf(t, tarOf(t, small)), "wrong-ending.zip": xzOf(t, tarOf(t, small)), "small.zip": zipOf(t, small),
	} {
		p, err := open(t, name, b, parcel.Options{})
		require.NoError(t, err, name)
		opened[p.Format] = p
	}
	var err error
	opened["folder"], err = parcel.Open(t.Context(), folder, parcel.Options{})
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

func TestHazardsAreRefused(t *testing.T) {
	bad := func(name string) []entry { return append([]entry{{name: name, text: "x"}}, small...) }
	for what, entries := range map[string][]entry{
		"absolute path":     bad("/etc/passwd"),
		"climbs out":        bad("Pack/../../out"),
		"climbs at the end": bad("Pack/.."),
		"backslash":         bad(`Pack\..\..\out`),
		"drive":             bad("C:/out"),
		"both":              append([]entry{{name: "Pack", text: "a file"}}, small...),
		"below a file":      append([]entry{{name: "Pack/48", text: "a file"}}, small[2:]...),
		"below a link":      append([]entry{{name: "Pack/48", link: "/tmp"}}, small[2:]...),
		"hard link out":     append([]entry{{name: "Pack/h", hard: "../../etc/passwd"}}, small...),
	} {
		_, err := open(t, "bad.tar", tarOf(t, entries), parcel.Options{})
		require.ErrorIs(t, err, parcel.ErrUnsafe, what)
	}
	_, err := open(t, "bad.zip", zipOf(t, bad("../out")), parcel.Options{})
	require.ErrorIs(t, err, parcel.ErrUnsafe)

	p, err := open(t, "odd.tar", tarOf(t, append([]entry{{name: "Pack/dev", kind: tar.TypeChar}, {name: "Pack/pipe", kind: tar.TypeFifo}}, small...)), parcel.Options{})
	require.NoError(t, err)
	_, err = p.Lstat("Pack/dev")
	require.ErrorIs(t, err, fs.ErrNotExist, "devices are left out")
	p, err = open(t, "links.tar", tarOf(t, []entry{{name: "a", link: "/etc/passwd"}, {name: "b", link: "../../etc/passwd"}, {name: "c", link: "d"}, {name: "d", link: "c"}}), parcel.Options{})
	require.NoError(t, err)
	for _, name := range []string{"a", "b", "c"} {
		_, err = fs.ReadFile(p, name)
		require.Error(t, err, "a link leads nowhere outside the parcel")
	}

	limits := func(l parcel.Limits) parcel.Options { return parcel.Options{Limits: l} }
	_, err = open(t, "many.tar", tarOf(t, small), limits(parcel.Limits{Entries: 3}))
	require.ErrorIs(t, err, parcel.ErrTooLarge)
	_, err = open(t, "big.tar", tarOf(t, small), limits(parcel.Limits{EntryBytes: 2}))
	require.ErrorIs(t, err, parcel.ErrTooLarge)
	zeros := []entry{{name: "bomb", text: strings.Repeat("\x00", 20<<20)}}
	_, err = open(t, "bomb.tar.gz", gzOf(t, tarOf(t, zeros)), limits(parcel.Limits{Ratio: 100}))
	require.ErrorIs(t, err, parcel.ErrTooLarge)
	_, err = open(t, "total.zip", zipOf(t, zeros), limits(parcel.Limits{TotalBytes: 1 << 20}))
	require.ErrorIs(t, err, parcel.ErrTooLarge)
}

// TestCutArchivesAreNoticed cuts archives at many points: none may pass as
// whole.
func TestCutArchivesAreNoticed(t *testing.T) {
	var entries []entry
	for i := range 40 {
		entries = append(entries, entry{name: fmt.Sprintf("Pack/48/apps/%d.png", i), text: strings.Repeat(fmt.Sprint(i), 700)})
	}
	packed := xzOf(t, tarOf(t, entries))
	for name, whole := range map[string][]byte{"a.tar.gz": gzOf(t, tarOf(t, entries)), "a.tar.xz": packed, "unpacked by itself.tar.xz": packed, "a.zip": zipOf(t, entries)} {
		again := func() {}
		if strings.HasPrefix(name, "unpacked") {
			again = parcel.WithoutPrograms()
		}
		for n := 1; n < 60; n++ {
			cut := whole[:len(whole)*n/60]
			_, err := open(t, name, cut, parcel.Options{})
			require.Error(t, err, "%s cut at %d of %d", name, len(cut), len(whole))
			if len(cut) > 600 {
				require.ErrorIs(t, err, parcel.ErrDamaged, "%s cut at %d of %d", name, len(cut), len(whole))
			}
		}
		_, err := open(t, name, whole[:len(whole)-1], parcel.Options{})
		require.ErrorIs(t, err, parcel.ErrDamaged, name)
		again()
	}
	for name, b := range map[string][]byte{"page.zip": []byte("<!doctype html><p>Moved"), "empty.tar": nil, "one.gz": gzOf(t, []byte("just text"))} {
		_, err := open(t, name, b, parcel.Options{})
		require.ErrorIs(t, err, parcel.ErrNotArchive, name)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	file := filepath.Join(t.TempDir(), "a.tar")
	require.NoError(t, os.WriteFile(file, tarOf(t, entries), 0o644))
	_, err := parcel.Open(ctx, file, parcel.Options{})
	require.ErrorIs(t, err, context.Canceled)
}

// TestAnEntryThatLiesAboutItsSize sets the size in a zip's directory to less
// than what its data unpacks to.
func TestAnEntryThatLiesAboutItsSize(t *testing.T) {
	b := zipOf(t, []entry{{name: "Pack/index.theme", text: index("A", "", "48")}, {name: "Pack/48/big.png", text: strings.Repeat("z", 100_000)}})
	size := []byte{0xa0, 0x86, 0x01, 0x00} // 100,000, little-endian
	at := bytes.LastIndex(b, size)
	copy(b[at:], []byte{10, 0, 0, 0})
	p, err := open(t, "lies.zip", b, parcel.Options{})
	require.NoError(t, err)
	_, err = fs.ReadFile(p, "Pack/48/big.png")
	require.Error(t, err)
	require.Error(t, p.Files(t.Context(), ".", func(_ string, _ fs.FileInfo, r io.Reader) error {
		_, err := io.Copy(io.Discard, r)
		return err
	}))
}

func TestRecognise(t *testing.T) {
	at := func(root string, text string) []entry {
		return []entry{{name: root + "index.theme", text: text}, {name: root + "48/apps/leaf.png", text: "x"}}
	}
	join := func(lists ...[]entry) (out []entry) {
		for _, l := range lists {
			out = append(out, l...)
		}
		return out
	}
	for _, c := range []struct {
		what, file string
		entries    []entry
		pieces     string // folder@root, …
		codes      string // of all notes, in order: pieces first
	}{
		{"at the top", "Salt-1.2.tar", at("", index("Salt", "", "48/apps")), "Salt@.", ""},
		{"in its folder", "x.tar", at("Salt/", index("Salt crust", "", "48/apps")), "Salt@Salt", ""},
		{"too deep", "x.tar", at("salt-main/dist/Salt/", index("Salt", "", "48/apps")), "Salt@salt-main/dist/Salt", "nested"},
		{"several", "x.tar", join(at("A/", index("A", "", "48/apps")), at("B/", index("B", "A,hicolor", "48/apps"))), "A@A B@B", "icon-partial"},
		{"needs another", "x.tar", at("B/", index("B", "Elsewhere", "48/apps")), "B@B", "icon-partial"},
		{"cycle", "x.tar", join(at("A/", index("A", "B", "48/apps")), at("B/", index("B", "A", "48/apps"))), "A@A B@B", "icon-inherits-cycle icon-partial icon-inherits-cycle icon-partial"},
		{"itself", "x.tar", at("A/", index("A", "A", "48/apps")), "A@A", "icon-inherits-cycle icon-partial"},
		{"no index", "x.tar", at("A/", "")[1:], "", "icon-no-index no-piece"},
		{"index is no key file", "x.tar", at("A/", "hello\n"), "", "icon-bad-index no-piece"},
		{"index of another kind", "x.tar", at("A/", "[Desktop Entry]\nType=X\n"), "", "no-piece"},
		{"nothing in it", "x.tar", at("A/", index("A", "", "16/apps")), "", "icon-empty no-piece"},
		{"folders missing", "x.tar", at("A/", index("A", "", "48/apps", "64/apps")), "A@A", "icon-missing-folders"},
		{"broken link", "x.tar", append(at("A/", index("A", "", "48/apps")), entry{name: "A/48/apps/gone.png", link: "nowhere.png"}), "A@A", "links-broken"},
		{"link out of the piece", "x.tar", append(at("A/", index("A", "", "48/apps")), entry{name: "A/48/apps/out.png", link: "../../../o.png"}, entry{name: "o.png", text: "x"}), "A@A", "link-leaves-piece"},
		{"links out of the parcel", "x.tar", append(at("A/", index("A", "", "48/apps")), entry{name: "A/48/apps/key.png", link: "../../../.ssh/key"}, entry{name: "A/48/apps/all.png", link: "/etc/passwd"}, entry{name: "A/48/apps/round.png", link: "round.png"}), "A@A", "link-out links-broken"},
		{"scripts", "x.tar", append(at("A/", index("A", "", "48/apps")), entry{name: "install.sh", text: "rm -rf ~"}), "A@A", "programs"},
		{"text only", "x.tar", []entry{{name: "a.txt"}}, "", "no-piece"},
	} {
		p, err := open(t, c.file, tarOf(t, c.entries), parcel.Options{})
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
	p, err := open(t, "Salt-1.2.tar", tarOf(t, at("B/", index("B", "Elsewhere,hicolor", "48/apps"))), parcel.Options{})
	require.NoError(t, err)
	require.Equal(t, []string{"Elsewhere"}, p.Recognise(t.Context()).Pieces[0].Needs)
	require.Equal(t, "1.2", p.Recognise(t.Context()).Pieces[0].Version)
}

// TestLargeFilesAreReadAgain reads a file that is not held in memory.
func TestLargeFilesAreReadAgain(t *testing.T) {
	big := strings.Repeat("picture ", 40_000)
	for name, b := range map[string][]byte{"a.tar.gz": gzOf(t, tarOf(t, append(small, entry{name: "Pack/big.svg", text: big}))), "a.zip": zipOf(t, append(small, entry{name: "Pack/big.svg", text: big}))} {
		p, err := open(t, name, b, parcel.Options{})
		require.NoError(t, err)
		got, err := fs.ReadFile(p, "Pack/big.svg")
		require.NoError(t, err)
		require.True(t, big == string(got))
		var files []string
		require.NoError(t, p.Files(t.Context(), "Pack", func(name string, _ fs.FileInfo, r io.Reader) error {
			text, err := io.ReadAll(r)
			files = append(files, fmt.Sprint(name, " ", len(text)))
			return err
		}))
		require.ElementsMatch(t, []string{"Pack/index.theme 63", "Pack/48/apps/leaf.png 4", "Pack/big.svg 320000"}, files)
	}
}

func FuzzOpen(f *testing.F) {
	f.Cleanup(parcel.WithoutPrograms())
	f.Add(tarOf(f, small))
	f.Add(gzOf(f, tarOf(f, small)))
	f.Add(xzOf(f, tarOf(f, small)))
	f.Add(zipOf(f, small))
	f.Add(tarOf(f, []entry{{name: "../x", text: "x"}, {name: "a", hard: "b"}, {name: "b", link: "/"}}))
	f.Add([]byte("PK\x03\x04"))
	f.Add(zipOf(f, []entry{{name: "Stra\xe1e/index.theme", text: "x"}}))
	f.Add(tarOf(f, []entry{{name: "Stra\xdfe/index.theme", text: "x"}}))
	f.Add(hugeFolder(f))
	f.Fuzz(func(t *testing.T, b []byte) {
		within.Reason(t, len(b), func() {
			p, err := open(t, "x", b, parcel.Options{Limits: parcel.Limits{TotalBytes: 8 << 20, EntryBytes: 4 << 20}})
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

// TestReadingAFileEndsWithItsContext: it lies behind much else, and nobody waits for it.
func TestReadingAFileEndsWithItsContext(t *testing.T) {
	big := strings.Repeat("picture ", 40_000)
	p, err := open(t, "a.tar.gz", gzOf(t, tarOf(t, append(small, entry{name: "Pack/big.svg", text: big}))), parcel.Options{})
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(t.Context())
	tree := regular.Until(ctx, p)
	got, err := fs.ReadFile(tree, "Pack/big.svg")
	require.NoError(t, err)
	require.Len(t, got, len(big))
	f := p.Until(ctx)
	cancel()
	_, err = fs.ReadFile(f, "Pack/big.svg")
	require.ErrorIs(t, err, context.Canceled)
	_, err = fs.ReadFile(tree, "Pack/big.svg")
	require.ErrorIs(t, err, context.Canceled)
	_, err = fs.ReadFile(p, "Pack/big.svg")
	require.NoError(t, err, "others read on")
}

// FuzzNested: archives in archives, of any kinds, cost no more than one of their size.
func FuzzNested(f *testing.F) {
	f.Cleanup(parcel.WithoutPrograms())
	f.Add("tz", []byte("x"))
	f.Add("zzgt", tarOf(f, small))
	f.Add("dzdzdz", zipOf(f, small))
	f.Add("gg", bytes.Repeat([]byte{0}, 1<<16))
	f.Fuzz(func(t *testing.T, shape string, b []byte) {
		ending, copies := ".zip", 1
		for _, kind := range shape[:min(len(shape), 10)] {
			var in []entry
			for i := range copies {
				in = append(in, entry{name: fmt.Sprint(i, ending), text: string(b)})
			}
			copies = 1
			switch kind {
			case 't':
				b, ending = tarOf(t, in), ".tar"
			case 'g':
				b, ending = gzOf(t, b), ending+".gz"
			case 'd':
				copies = 5
			default:
				b, ending = zipOf(t, in), ".zip"
			}
			if len(b) > 4<<20 {
				return
			}
		}
		within.Reason(t, len(b), func() {
			p, err := open(t, "x"+ending, b, parcel.Options{Limits: parcel.Limits{TotalBytes: 8 << 20, EntryBytes: 4 << 20}})
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

// TestAFolderHasNoSize: whoever reads a file makes as much room as it says.
func TestAFolderHasNoSize(t *testing.T) {
	p, err := open(t, "x.zip", hugeFolder(t), parcel.Options{})
	require.NoError(t, err)
	info, err := fs.Stat(p, "Pack")
	require.NoError(t, err)
	require.True(t, info.IsDir())
	require.Zero(t, info.Size())
}

// TestNamesInOlderAlphabets: a zip without the mark of UTF-8 is in code page
// 437 (APPNOTE 6.3, appendix D.1); a tar does not say.
func TestNamesInOlderAlphabets(t *testing.T) {
	for _, c := range []struct {
		b    []byte
		want string
	}{
		{zipOf(t, []entry{{name: "Stra\xe1e/a", text: "x"}}), "Straße/a"},
		{tarOf(t, []entry{{name: "Stra\xdfe/a", text: "x"}}), "Stra\uFFFDe/a"},
	} {
		p, err := open(t, "x", c.b, parcel.Options{})
		require.NoError(t, err)
		text, err := fs.ReadFile(p, c.want)
		require.NoError(t, err)
		require.Equal(t, "x", string(text))
	}
}
