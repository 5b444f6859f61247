package showcase

import (
	"archive/zip"
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/regular"
	"ivelt/core/tomlfile"
)

// Build makes a market in shards of folders of parcels.
type Build struct {
	From        []string // host folders, each with parcels and folders of parcels
	Dir         string   // the market's
	Name, About string
	Parts       []desk.Part // of themes, besides the toolkits' own
	Secret      *market.Secret
	Now         time.Time
}

// Built is what came of it.
type Built struct {
	market.Published
	Looked   int      // parcels that were opened: the others are as they were
	Problems []string // of entries that are left as they were, or out
}

// EntryFile says of a folder of parcels what they do not say themselves.
const EntryFile = "entry.toml"

// told is such a file.
type told struct {
	Name      string             `toml:"name"`
	Kind      string             `toml:"kind"`
	Maker     string             `toml:"maker"`
	Licence   string             `toml:"licence"`
	Summary   string             `toml:"summary"`
	Family    string             `toml:"family"`
	Tags      []string           `toml:"tags"`
	Version   string             `toml:"version"` // of a folder that is the piece itself
	VariantOf string             `toml:"variant_of"`
	Differs   string             `toml:"differs"`
	MadeFor   map[string]string  `toml:"made_for"`
	Stability string             `toml:"stability"`
	Packaged  string             `toml:"packaged"`
	Of        map[string]version `toml:"of"` // by version
}

type version struct {
	Date      string `toml:"date"`
	Note      string `toml:"note"`
	Stability string `toml:"stability"`
	Password  string `toml:"password"`
}

// keptFile is what was found out in earlier builds, beside the index.
const keptFile = ".ivelt-build.json"

// kept is what is known of parcels that did not change.
type kept struct {
	Format int                  `json:"format"`
	Sums   map[string]sum       `json:"sums"`  // by host path
	Drawn  map[string]drawnFrom `json:"drawn"` // by the entry's ID
}

type sum struct {
	Size   int64  `json:"size"`
	When   int64  `json:"when"` // its time of change, ns
	SHA256 string `json:"sha256"`
}

// drawnFrom is what was read off the newest parcel of an entry.
type drawnFrom struct {
	SHA256 string       `json:"sha256"`
	Kind   string       `json:"kind"` // that was asked for
	Entry  market.Entry `json:"entry"`
}

const keptFormat = 1

// source is what one entry is made of.
type source struct {
	id      string
	folder  string   // of its EntryFile, "" for an archive alone
	parcels []string // host paths of archives; none if the folder is the piece
}

// Run builds: each entry's parcels are copied, the newest is looked into and drawn unless it is
// the one of the last time, and the index is published. An entry that cannot be made is told,
// and stays as it was if it was there.
func (b Build) Run(ctx context.Context) (Built, error) {
	var out Built
	for _, sub := range []string{"parcels", "pictures"} {
		if err := os.MkdirAll(filepath.Join(b.Dir, sub), 0o755); err != nil {
			return out, err
		}
	}
	sources, err := b.sources()
	if err != nil {
		return out, err
	}
	before := map[string]market.Entry{}
	for e, err := range market.Entries(ctx, b.Dir) {
		if err != nil {
			return out, fmt.Errorf("the market that is there: %w", err)
		}
		before[e.ID] = e
	}
	k := readKept(filepath.Join(b.Dir, keptFile))
	r := run{Build: b, before: before, kept: k, next: kept{Format: keptFormat, Sums: map[string]sum{}, Drawn: map[string]drawnFrom{}}}
	entries := make([]*market.Entry, len(sources))
	g, gctx := errgroup.WithContext(ctx)
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i, s := range sources {
		g.Go(func() error {
			e, err := r.entry(gctx, s)
			if gctx.Err() != nil {
				return gctx.Err()
			}
			if err != nil {
				r.problem("%s: %v", s.id, err)
				if old, ok := before[s.id]; ok {
					entries[i] = &old
				}
				return nil
			}
			entries[i] = &e
			return nil
		})
	}
	if err := g.Wait(); err != nil {
		return out, err
	}
	slices.Sort(r.problems)
	out.Problems, out.Looked = r.problems, r.looked
	out.Published, err = market.Publish(ctx, b.Dir, b.Name, b.About, func(yield func(market.Entry, error) bool) {
		for _, e := range entries {
			if e != nil && !yield(*e, nil) {
				return
			}
		}
	}, b.Secret, b.Now)
	if err != nil {
		return out, err
	}
	text, err := json.Marshal(r.next)
	if err != nil {
		return out, err
	}
	return out, writeAnew(filepath.Join(b.Dir, keptFile), text)
}

func readKept(at string) (k kept) {
	b, err := os.ReadFile(at)
	if err != nil || json.Unmarshal(b, &k) != nil || k.Format != keptFormat {
		return kept{} // all is looked at again
	}
	return k
}

var (
	// archiveName are the endings of what is taken for a parcel. What it is its bytes tell.
	archiveName = regexp.MustCompile(`(?i)\.(zip|tar|tar\.(gz|xz|bz2|zst)|tgz|txz|tbz2?|7z|deb|ttf|otf|ttc)$`)
	// versionIn is what stands at the end of a file's name for its version: "Shingle-2.1",
	// "shingle_v2.1". Common practice, no source.
	versionIn = regexp.MustCompile(`[-_ ]v?(\d[0-9A-Za-z.+~]*)$`)
	notID     = regexp.MustCompile(`[^a-z0-9._-]+`)
)

// idOf makes an entry's ID of a name.
func idOf(name string) string {
	id := strings.Trim(notID.ReplaceAllString(strings.ToLower(name), "-"), "-._")
	return id[:min(len(id), 100)]
}

// stemOf is a file's name without its ending and its version.
func stemOf(file string) (stem, version string) {
	stem = archiveName.ReplaceAllString(filepath.Base(file), "")
	if m := versionIn.FindStringSubmatch(stem); m != nil {
		return strings.TrimSuffix(stem, m[0]), m[1]
	}
	return stem, ""
}

// sources lists the entries that the folders have.
func (b Build) sources() ([]source, error) {
	var out []source
	at := map[string]int{}
	add := func(s source, where string) error {
		if s.id == "" {
			return fmt.Errorf("%s: there is no id to be made of its name", where)
		}
		i, ok := at[s.id]
		switch {
		case !ok:
			at[s.id] = len(out)
			out = append(out, s)
		case s.folder == "" && out[i].folder == "": // another version, alone
			out[i].parcels = append(out[i].parcels, s.parcels...)
		default:
			return fmt.Errorf("%w: %s, of %s", market.ErrTwice, s.id, where)
		}
		return nil
	}
	for _, from := range b.From {
		list, err := os.ReadDir(from)
		if err != nil {
			return nil, err
		}
		for _, e := range list {
			where := filepath.Join(from, e.Name())
			switch {
			case strings.HasPrefix(e.Name(), "."):
			case e.Type().IsRegular() && archiveName.MatchString(e.Name()):
				stem, _ := stemOf(e.Name())
				err = add(source{id: idOf(stem), parcels: []string{where}}, where)
			case e.IsDir():
				s := source{id: idOf(e.Name()), folder: where}
				inside, e := os.ReadDir(where)
				if e != nil {
					return nil, e
				}
				for _, f := range inside {
					if f.Type().IsRegular() && archiveName.MatchString(f.Name()) {
						s.parcels = append(s.parcels, filepath.Join(where, f.Name()))
					}
				}
				err = add(s, where)
			}
			if err != nil {
				return nil, err
			}
		}
	}
	slices.SortFunc(out, func(a, b source) int { return strings.Compare(a.id, b.id) })
	return out, nil
}

// run is one build.
type run struct {
	Build
	before map[string]market.Entry
	kept   kept

	mu       sync.Mutex
	next     kept
	looked   int
	problems []string
}

func (r *run) problem(format string, args ...any) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.problems = append(r.problems, fmt.Sprintf(format, args...))
}

// entry makes one entry.
func (r *run) entry(ctx context.Context, s source) (market.Entry, error) {
	var t told
	if s.folder != "" {
		b, err := regular.Read(filepath.Join(s.folder, EntryFile), tomlfile.MaxBytes)
		if err == nil {
			err = tomlfile.Strict(b, &t)
		}
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return market.Entry{}, fmt.Errorf("%s: %w", EntryFile, err)
		}
	}
	e := market.Entry{
		ID: s.id, Name: t.Name, Kind: t.Kind, Maker: t.Maker, Licence: t.Licence, Summary: t.Summary, Family: t.Family, Tags: t.Tags,
		VariantOf: t.VariantOf, Differs: t.Differs, MadeFor: t.MadeFor, Stability: t.Stability, Packaged: t.Packaged, Likes: r.before[s.id].Likes,
	}
	var err error
	if len(s.parcels) == 0 {
		e.Versions, err = r.packed(ctx, s, t)
	} else {
		e.Versions, err = r.versions(s, t)
	}
	if err != nil {
		return e, err
	}
	return e, r.look(ctx, &e)
}

// versions copies the parcels of an entry, the newest first.
func (r *run) versions(s source, t told) ([]market.Version, error) {
	var out []market.Version
	for _, at := range s.parcels {
		_, v := stemOf(at)
		of := t.Of[v]
		fi, err := os.Stat(at)
		if err != nil {
			return nil, err
		}
		x := market.Version{
			Version: cmp.Or(v, t.Version, "1"), Date: cmp.Or(of.Date, fi.ModTime().UTC().Format(time.DateOnly)), Size: fi.Size(),
			Stability: of.Stability, Note: of.Note, Password: of.Password, File: "parcels/" + s.id + "/" + filepath.Base(at),
		}
		if x.SHA256, err = r.copy(at, fi, x.File); err != nil {
			return nil, err
		}
		out = append(out, x)
	}
	slices.SortStableFunc(out, func(a, b market.Version) int {
		return cmp.Or(strings.Compare(b.Date, a.Date), compareVersions(b.Version, a.Version))
	})
	return out, nil
}

// compareVersions compares number by number.
func compareVersions(a, b string) int {
	x, y := parted.FindAllString(a, -1), parted.FindAllString(b, -1)
	for i := range min(len(x), len(y)) {
		n, m := strings.TrimLeft(x[i], "0"), strings.TrimLeft(y[i], "0")
		if c := cmp.Or(cmp.Compare(len(n), len(m)), strings.Compare(n, m)); c != 0 {
			return c
		}
	}
	return cmp.Compare(len(x), len(y))
}

var parted = regexp.MustCompile(`\d+|[A-Za-z]+`)

// copy puts a parcel into the market, unless it is there, and returns its checksum.
func (r *run) copy(at string, fi fs.FileInfo, to string) (string, error) {
	known := r.kept.Sums[at]
	target := filepath.Join(r.Dir, filepath.FromSlash(to))
	if there, err := os.Stat(target); err != nil || there.Size() != fi.Size() || known.Size != fi.Size() || known.When != fi.ModTime().UnixNano() {
		from, err := os.Open(at)
		if err != nil {
			return "", err
		}
		defer from.Close()
		if err := os.MkdirAll(filepath.Dir(target), 0o755); err != nil {
			return "", err
		}
		h := sha256.New()
		if err := market.WriteWhole(target, io.TeeReader(from, h)); err != nil {
			return "", err
		}
		known = sum{fi.Size(), fi.ModTime().UnixNano(), hex.EncodeToString(h.Sum(nil))}
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.next.Sums[at] = known
	return known.SHA256, nil
}

// keptVersions are those of a folder that is packed again and again which stay in the market.
const keptVersions = 5

// packed makes a parcel of a folder that is the piece itself, the same of the same files. The
// parcels of before stay as its earlier versions.
func (r *run) packed(ctx context.Context, s source, t told) ([]market.Version, error) {
	b, newest, err := pack(ctx, s.folder, s.id)
	if err != nil {
		return nil, err
	}
	h := sha256.Sum256(b)
	hash := hex.EncodeToString(h[:])
	old := r.before[s.id].Versions
	if len(old) > 0 && old[0].SHA256 == hash && (t.Version == "" || t.Version == old[0].Version) {
		return old, nil
	}
	day := newest.UTC().Format(time.DateOnly)
	v := market.Version{Version: cmp.Or(t.Version, strings.ReplaceAll(day, "-", ".")+"-"+hash[:6]), Date: day, Size: int64(len(b)), SHA256: hash}
	v.Note, v.Stability, v.Date = t.Of[v.Version].Note, t.Of[v.Version].Stability, cmp.Or(t.Of[v.Version].Date, v.Date)
	if len(old) > 0 && v.Date < old[0].Date {
		v.Date = old[0].Date
	}
	if i := slices.IndexFunc(old, func(o market.Version) bool { return o.Version == v.Version }); i >= 0 {
		return nil, fmt.Errorf("version %s is published already, with other contents: give it another in %s", v.Version, EntryFile)
	}
	v.File = "parcels/" + s.id + "/" + s.id + "-" + idOf(v.Version) + ".zip"
	if err := os.MkdirAll(filepath.Join(r.Dir, "parcels", s.id), 0o755); err != nil {
		return nil, err
	}
	if err := writeAnew(filepath.Join(r.Dir, filepath.FromSlash(v.File)), b); err != nil {
		return nil, err
	}
	return append([]market.Version{v}, old[:min(len(old), keptVersions-1)]...), nil
}

// What a folder that is packed may have.
const (
	maxPacked      = 512 << 20
	maxPackedFiles = 100_000
)

// pack makes a zip of a folder, without its EntryFile and what begins with a dot at its top.
func pack(ctx context.Context, dir, name string) (b []byte, newest time.Time, err error) {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return nil, newest, err
	}
	defer root.Close()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	size, files := int64(0), 0
	err = fs.WalkDir(root.FS(), ".", func(at string, e fs.DirEntry, err error) error {
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err != nil:
			return err
		case at == EntryFile || at != "." && strings.HasPrefix(at, "."):
			if e.IsDir() {
				return fs.SkipDir
			}
			return nil
		case !e.Type().IsRegular():
			return nil // folders come by themselves; links and devices do not come along
		}
		f, err := root.Open(at)
		if err != nil {
			return err
		}
		defer f.Close()
		fi, err := f.Stat()
		if err != nil {
			return err
		}
		if size, files = size+fi.Size(), files+1; size > maxPacked || files > maxPackedFiles {
			return fmt.Errorf("it has more than %d MB or %d files", maxPacked>>20, maxPackedFiles)
		}
		if fi.ModTime().After(newest) {
			newest = fi.ModTime()
		}
		h := &zip.FileHeader{Name: path.Join(name, at), Method: zip.Deflate}
		h.SetMode(fi.Mode().Perm() & 0o755)
		w, err := z.CreateHeader(h)
		if err == nil {
			_, err = io.Copy(w, io.LimitReader(f, fi.Size()))
		}
		return err
	})
	if err == nil && files == 0 {
		err = errors.New("there is nothing in it")
	}
	err = errors.Join(err, z.Close())
	return out.Bytes(), newest, err
}

// look reads off the newest parcel what the entry does not say, and draws it, unless that was
// done before.
func (r *run) look(ctx context.Context, e *market.Entry) error {
	v := e.Newest()
	was, ok := r.kept.Drawn[e.ID]
	if ok = ok && was.SHA256 == v.SHA256 && was.Kind == e.Kind; ok {
		for _, p := range was.Entry.Pictures {
			if _, err := os.Stat(filepath.Join(r.Dir, filepath.FromSlash(p.File))); err != nil {
				ok = false
			}
		}
	}
	if !ok {
		was = drawnFrom{SHA256: v.SHA256, Kind: e.Kind, Entry: market.Entry{ID: e.ID, Kind: e.Kind}}
		if err := r.draw(ctx, &was.Entry, v); err != nil {
			return err
		}
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.next.Drawn[e.ID] = was
	if !ok {
		r.looked++
	}
	d := was.Entry
	e.Kind, e.Name, e.Licence, e.Pieces = d.Kind, cmp.Or(e.Name, d.Name), cmp.Or(e.Licence, d.Licence), d.Pieces
	e.Dresses, e.Looks, e.Pictures = d.Dresses, d.Looks, d.Pictures
	return nil
}

func (r *run) draw(ctx context.Context, e *market.Entry, v market.Version) error {
	p, err := parcel.Open(ctx, filepath.Join(r.Dir, filepath.FromSlash(v.File)), archive.Options{Password: v.Password})
	if err != nil {
		return err
	}
	defer p.Close()
	found := p.Recognise(ctx, r.Parts...)
	i := slices.IndexFunc(found.Pieces, func(pc parcel.Piece) bool { return string(pc.Kind) == e.Kind })
	if e.Kind == "" {
		i = slices.IndexFunc(found.Pieces, func(pc parcel.Piece) bool { return pc.Kind == parcel.Bundle })
		if i < 0 && len(found.Pieces) > 0 {
			i = 0
		}
	}
	if i < 0 {
		for _, n := range found.Notes {
			if n.Level == parcel.Error {
				return errors.New(n.Text)
			}
		}
		return fmt.Errorf("there is no piece of the kind %s in %s", cmp.Or(e.Kind, "of any"), v.File)
	}
	e.Kind, e.Name = string(found.Pieces[i].Kind), found.Pieces[i].Name
	return Hang(e, Of(ctx, p, e, r.Parts), func(file string, svg []byte) error {
		return writeAnew(filepath.Join(r.Dir, filepath.FromSlash(file)), svg)
	})
}

func writeAnew(at string, b []byte) error { return market.WriteWhole(at, bytes.NewReader(b)) }
