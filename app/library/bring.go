package library

import (
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
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/regular"
	"ivelt/core/say"
	"ivelt/core/zipdir"
	"ivelt/store"
)

// maxBrought bounds a parcel that a person hands over, in bytes.
const maxBrought = 4 << 30

// ErrTooBig: a parcel handed over is larger than Ivelt keeps.
var ErrTooBig = errors.New("the parcel is larger than Ivelt keeps")

// Bring starts taking a parcel that a person handed over into the library.
// name is the file's own; of an encrypted one password is needed. When done
// the job leads to then(sha256 of the parcel). If from has a method Interrupt, it is called
// when the job is cancelled, and has to end what is being read.
func (l *Library) Bring(name string, from io.ReadCloser, size int64, password string, then func(sha string) string) *jobs.Job {
	return l.jobs.Start("Bring in "+name, func(ctx context.Context, j *jobs.Job) error {
		defer from.Close()
		if in, ok := from.(interface{ Interrupt() }); ok {
			defer context.AfterFunc(ctx, in.Interrupt)()
		}
		sha, err := l.TakeIn(ctx, j, name, from, size, password)
		switch {
		case err == nil:
			j.Then(then(sha))
		case ctx.Err() != nil: // what was being read ends with an error of its own then
			return errors.Join(context.Cause(ctx), err)
		}
		return err
	})
}

// comingName begins the names of folders in which parcels come in, with the number of
// the process that takes them in.
const comingName = ".coming-"

// ClearComing takes away what was coming in when a process ended.
func (l *Library) ClearComing() {
	list, err := filepath.Glob(filepath.Join(l.dir, "parcels", comingName+"*"))
	if err != nil {
		return
	}
	for _, dir := range list {
		number, _, _ := strings.Cut(strings.TrimPrefix(filepath.Base(dir), comingName), "-")
		pid, err := strconv.Atoi(number)
		if err == nil && pid != os.Getpid() && !errors.Is(syscall.Kill(pid, 0), syscall.ESRCH) {
			continue
		}
		if err := os.RemoveAll(dir); err != nil {
			l.log.Warn("clear away what was coming in", "folder", dir, "error", err)
		}
	}
}

// TakeIn is the same within a job that is running, and returns the SHA-256 of the parcel.
func (l *Library) TakeIn(ctx context.Context, j *jobs.Job, name string, from io.Reader, size int64, password string) (string, error) {
	select {
	case l.coming <- struct{}{}:
		defer func() { <-l.coming }()
	case <-ctx.Done():
		return "", context.Cause(ctx)
	}
	dir, err := os.MkdirTemp(filepath.Join(l.dir, "parcels"), fmt.Sprintf("%s%d-*", comingName, os.Getpid()))
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(dir)
	j.Step("Taking it in", "bytes")
	file := filepath.Join(dir, filepath.Base(filepath.Clean("/"+name)))
	f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return "", err
	}
	h := sha256.New()
	var done int64
	_, err = io.Copy(io.MultiWriter(f, h), ReaderFunc(func(b []byte) (int, error) {
		if err := ctx.Err(); err != nil {
			return 0, err
		}
		n, err := from.Read(b)
		if done += int64(n); done > maxBrought {
			return 0, ErrTooBig
		}
		j.At(done, size)
		return n, err
	}))
	if err = errors.Join(err, f.Close()); err != nil {
		return "", err
	}
	sha := hex.EncodeToString(h.Sum(nil))
	j.Step("Looking inside", "bytes")
	row, err := l.Inspect(ctx, file, password, j.At)
	at := filepath.Join(l.dir, "parcels", sha[:16])
	if errors.Is(err, zipdir.ErrPassword) {
		// It is kept so that only the password has to be given.
		if e := move(dir, at); e != nil {
			return "", e
		}
		return "", &LockedError{Err: err, SHA: sha, Name: filepath.Base(file), Wrong: password != ""}
	}
	if err != nil {
		return "", err
	}
	row.SHA256, row.Fetched = sha, time.Now()
	return sha, l.Put(dir, row)
}

// Keep takes a file or folder of this computer into the library and returns
// what is in it. A folder is not copied: the library refers to it.
func (l *Library) Keep(ctx context.Context, file, password string) (store.ParcelRow, error) {
	fi, err := os.Stat(file)
	if err != nil {
		return store.ParcelRow{}, err
	}
	if !fi.IsDir() {
		f, err := os.Open(file)
		if err != nil {
			return store.ParcelRow{}, err
		}
		var sha string
		j := l.Bring(filepath.Base(file), f, fi.Size(), password, func(s string) string { sha = s; return s })
		if err := j.Wait(); err != nil {
			return store.ParcelRow{}, err
		}
		return l.store.Parcel(sha)
	}
	return l.Refer(ctx, file, nil)
}

// Refer takes a folder of this computer into the library, which refers to it.
func (l *Library) Refer(ctx context.Context, folder string, progress func(done, total int64)) (store.ParcelRow, error) {
	row, err := l.Inspect(ctx, folder, "", progress)
	if err != nil {
		return store.ParcelRow{}, err
	}
	sum := sha256.Sum256([]byte("folder " + folder))
	row.SHA256, row.File, row.Fetched = hex.EncodeToString(sum[:]), folder, time.Now()
	return row, l.store.SaveParcel(row)
}

// Put takes a folder with a parcel's file in it into the library; row tells of the parcel.
func (l *Library) Put(dir string, row store.ParcelRow) error {
	at := filepath.Join(l.dir, "parcels", row.SHA256[:16])
	if err := move(dir, at); err != nil {
		return err
	}
	row.File = filepath.Join(at, row.Name)
	return l.store.SaveParcel(row)
}

func move(dir, at string) error {
	if err := os.RemoveAll(at); err != nil {
		return err
	}
	return os.Rename(dir, at)
}

// LockedError is a parcel that is kept but needs a password.
type LockedError struct {
	Err       error
	SHA, Name string
	Wrong     bool // a password was given
}

func (e *LockedError) Error() string {
	if e.Wrong {
		return "that password does not open " + e.Name + ". Try another; it is often printed on the page the parcel came from"
	}
	return e.Name + " is locked with a password. It is often printed on the page the parcel came from"
}

func (e *LockedError) Unwrap() error { return e.Err }

// Unlock tries a password on a parcel that was kept locked.
func (l *Library) Unlock(sha, name, password string, then func(sha string) string) (*jobs.Job, error) {
	if len(sha) != 2*sha256.Size || strings.ContainsAny(sha, "/.\\") {
		return nil, say.Errorf("%q is no parcel", sha)
	}
	f, err := os.Open(filepath.Join(l.dir, "parcels", sha[:16], filepath.Base(filepath.Clean("/"+name))))
	if err != nil {
		return nil, say.Errorf("the parcel is not kept any more; bring it in again (%w)", errors.Unwrap(err))
	}
	fi, err := f.Stat()
	if err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return l.Bring(name, f, fi.Size(), password, then), nil
}

// Here is a parcel in the desk's download folder.
type Here struct {
	Name, Path string // of the desk
	Size       int64
	Folder     bool // one that was unpacked, or the sources of a piece
}

// marks are names by which a folder is known that has a piece in it, or the sources of one
// (common practice, no source).
var marks = regexp.MustCompile(`^(index\.theme|cursors|gtk-[2-4]\.\d+|gtk\.s?css|.+\.(ttf|otf)|.+\.theme)$`)

// maxMarked bounds how many names are looked at for that.
const maxMarked = 400

// marked reports whether a folder or one in it has a name in it by which pieces are known.
func marked(tree fs.FS, folder string) bool {
	left := maxMarked
	var look func(at string, deep int) bool
	look = func(at string, deep int) bool {
		entries, _ := fs.ReadDir(tree, at)
		for _, e := range entries[:min(left, len(entries))] {
			if marks.MatchString(e.Name()) {
				return true
			}
		}
		left -= min(left, len(entries))
		return deep > 0 && slices.ContainsFunc(entries, func(e fs.DirEntry) bool {
			return left > 0 && e.IsDir() && !strings.HasPrefix(e.Name(), ".") && look(path.Join(at, e.Name()), deep-1)
		})
	}
	return look(folder, 2)
}

// Downloads lists the parcels in the desk's download folder, newest first; folders too that
// have a piece in them, or the sources of one.
func (l *Library) Downloads(d *desks.Managed) []Here {
	folder := cmp.Or(d.Downloads, path.Join(d.HomePath, "Downloads"))
	entries, err := fs.ReadDir(d.Tree(), desk.Name(folder))
	if err != nil {
		return nil
	}
	var out []Here
	var when []time.Time
	for _, e := range entries {
		fi, err := e.Info()
		if err != nil {
			continue
		}
		isFolder := e.IsDir() && !strings.HasPrefix(e.Name(), ".") && marked(d.Tree(), path.Join(desk.Name(folder), e.Name()))
		if !isFolder && (!fi.Mode().IsRegular() || !archive.LooksLikeOne(e.Name())) {
			continue
		}
		at := slices.IndexFunc(when, func(t time.Time) bool { return t.Before(fi.ModTime()) })
		if at < 0 {
			at = len(out)
		}
		when = slices.Insert(when, at, fi.ModTime())
		out = slices.Insert(out, at, Here{e.Name(), path.Join(folder, e.Name()), fi.Size(), isFolder})
	}
	return out
}

// BringHere starts taking a parcel of the download folder into the library.
func (l *Library) BringHere(d *desks.Managed, name string, then func(sha string) string) (*jobs.Job, error) {
	for _, h := range l.Downloads(d) {
		if h.Name == name && h.Folder {
			return l.jobs.Start("Look into "+name, func(ctx context.Context, j *jobs.Job) error {
				row, err := l.Refer(ctx, d.HostPath(h.Path), j.At)
				if err == nil {
					j.Then(then(row.SHA256))
				}
				return err
			}), nil
		}
		if h.Name == name {
			f, err := regular.Open(d.HostPath(h.Path))
			if err != nil {
				return nil, err
			}
			return l.Bring(name, f, h.Size, "", then), nil
		}
	}
	return nil, say.Errorf("there is no parcel %q in the download folder any more", name)
}

// ReaderFunc is an [io.Reader].
type ReaderFunc func([]byte) (int, error)

func (f ReaderFunc) Read(b []byte) (int, error) { return f(b) }

// Inspect looks into a parcel that is not in the library, and tells what it would be there;
// its checksum and the file it lies in are left to the caller.
func (l *Library) Inspect(ctx context.Context, file, password string, progress func(done, total int64)) (store.ParcelRow, error) {
	p, err := parcel.Open(ctx, file, archive.Options{Password: password, Progress: progress})
	if err != nil {
		return store.ParcelRow{}, err
	}
	defer p.Close()
	var parts []desk.Part
	for _, d := range l.desks {
		parts = append(parts, d.Parts()...)
	}
	found := p.Recognise(ctx, parts...)
	if err := context.Cause(ctx); err != nil {
		return store.ParcelRow{}, err
	}
	contents, err := json.Marshal(found)
	return store.ParcelRow{
		Password: password, Title: strings.TrimSuffix(strings.TrimSuffix(filepath.Base(file), filepath.Ext(file)), ".tar"),
		Name: filepath.Base(file), Format: p.Format, Bytes: p.Bytes, Entries: len(p.Entries()), Contents: contents,
	}, err
}
