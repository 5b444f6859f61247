package app

import (
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
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/plan"
	"ivelt/core/regular"
	"ivelt/core/shown"
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
func (a *App) Bring(name string, from io.ReadCloser, size int64, password string, then func(sha string) string) *jobs.Job {
	return a.Jobs.Start("Bring in "+name, func(ctx context.Context, j *jobs.Job) error {
		defer from.Close()
		if in, ok := from.(interface{ Interrupt() }); ok {
			defer context.AfterFunc(ctx, in.Interrupt)()
		}
		sha, err := a.bring(ctx, j, name, from, size, password)
		if err == nil {
			j.Then(then(sha))
		}
		return err
	})
}

// comingName begins the names of folders in which parcels come in, with the number of
// the process that takes them in.
const comingName = ".coming-"

// clearComing takes away what was coming in when a process ended.
func (a *App) clearComing() {
	list, err := filepath.Glob(filepath.Join(a.Store.Dir, "parcels", comingName+"*"))
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
			a.Log.Warn("clear away what was coming in", "folder", dir, "error", err)
		}
	}
}

func (a *App) bring(ctx context.Context, j *jobs.Job, name string, from io.Reader, size int64, password string) (string, error) {
	select {
	case a.coming <- struct{}{}:
		defer func() { <-a.coming }()
	case <-ctx.Done():
		return "", context.Cause(ctx)
	}
	dir, err := os.MkdirTemp(filepath.Join(a.Store.Dir, "parcels"), fmt.Sprintf("%s%d-*", comingName, os.Getpid()))
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
	_, err = io.Copy(io.MultiWriter(f, h), readerFunc(func(b []byte) (int, error) {
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
	row, err := a.inspect(ctx, file, password, j.At)
	at := filepath.Join(a.Store.Dir, "parcels", sha[:16])
	if errors.Is(err, parcel.ErrPassword) {
		// It is kept so that only the password has to be given.
		if e := move(dir, at); e != nil {
			return "", e
		}
		return "", &LockedError{Err: err, SHA: sha, Name: filepath.Base(file)}
	}
	if err != nil {
		return "", err
	}
	row.SHA256, row.Fetched = sha, time.Now()
	if err := move(dir, at); err != nil {
		return "", err
	}
	row.File = filepath.Join(at, filepath.Base(file))
	return sha, a.Store.SaveParcel(row)
}

// Keep takes a file or folder of this computer into the library and returns
// what is in it. A folder is not copied: the library refers to it.
func (a *App) Keep(ctx context.Context, file, password string) (store.ParcelRow, error) {
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
		j := a.Bring(filepath.Base(file), f, fi.Size(), password, func(s string) string { sha = s; return s })
		if err := j.Wait(); err != nil {
			return store.ParcelRow{}, err
		}
		return a.Store.Parcel(sha)
	}
	row, err := a.inspect(ctx, file, password, nil)
	if err != nil {
		return store.ParcelRow{}, err
	}
	sum := sha256.Sum256([]byte("folder " + file))
	row.SHA256, row.File, row.Fetched = hex.EncodeToString(sum[:]), file, time.Now()
	return row, a.Store.SaveParcel(row)
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
}

func (e *LockedError) Error() string {
	return e.Name + " is locked with a password. It is often printed on the page the parcel came from"
}
func (e *LockedError) Unwrap() error { return e.Err }

// Unlock tries a password on a parcel that was kept locked.
func (a *App) Unlock(sha, name, password string, then func(sha string) string) (*jobs.Job, error) {
	if len(sha) != 2*sha256.Size || strings.ContainsAny(sha, "/.\\") {
		return nil, fmt.Errorf("%q is no parcel", sha)
	}
	f, err := os.Open(filepath.Join(a.Store.Dir, "parcels", sha[:16], filepath.Base(filepath.Clean("/"+name))))
	if err != nil {
		return nil, fmt.Errorf("the parcel is not kept any more; bring it in again (%w)", errors.Unwrap(err))
	}
	fi, err := f.Stat()
	if err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return a.Bring(name, f, fi.Size(), password, then), nil
}

// Here is a parcel in the desk's download folder.
type Here struct {
	Name, Path string // of the desk
	Size       int64
}

// Downloads lists the parcels in the desk's download folder, newest first.
func (a *App) Downloads(d *Desk) []Here {
	folder := path.Join(d.HomePath, "Downloads")
	entries, err := fs.ReadDir(d.Tree(), desk.Name(folder))
	if err != nil {
		return nil
	}
	var out []Here
	var when []time.Time
	for _, e := range entries {
		fi, err := e.Info()
		if err != nil || !fi.Mode().IsRegular() || !parcel.LooksLikeOne(e.Name()) {
			continue
		}
		at := slices.IndexFunc(when, func(t time.Time) bool { return t.Before(fi.ModTime()) })
		if at < 0 {
			at = len(out)
		}
		when = slices.Insert(when, at, fi.ModTime())
		out = slices.Insert(out, at, Here{e.Name(), path.Join(folder, e.Name()), fi.Size()})
	}
	return out
}

// BringHere starts taking a parcel of the download folder into the library.
func (a *App) BringHere(d *Desk, name string, then func(sha string) string) (*jobs.Job, error) {
	for _, h := range a.Downloads(d) {
		if h.Name == name {
			f, err := regular.Open(d.HostPath(h.Path))
			if err != nil {
				return nil, err
			}
			return a.Bring(name, f, h.Size, "", then), nil
		}
	}
	return nil, fmt.Errorf("there is no parcel %q in the download folder any more", name)
}

type readerFunc func([]byte) (int, error)

func (f readerFunc) Read(b []byte) (int, error) { return f(b) }

func (a *App) inspect(ctx context.Context, file, password string, progress func(done, total int64)) (store.ParcelRow, error) {
	p, err := parcel.Open(ctx, file, parcel.Options{Password: password, Progress: progress})
	if err != nil {
		return store.ParcelRow{}, err
	}
	defer p.Close()
	var parts []desk.Part
	for _, d := range a.desks {
		parts = append(parts, d.Parts()...)
	}
	found := p.Recognise(ctx, parts...)
	if err := context.Cause(ctx); err != nil {
		return store.ParcelRow{}, err
	}
	contents, err := json.Marshal(found)
	return store.ParcelRow{
		Password: password, Title: strings.TrimSuffix(filepath.Base(file), filepath.Ext(file)),
		Name: filepath.Base(file), Format: p.Format, Bytes: p.Bytes, Entries: len(p.Entries()), Contents: contents,
	}, err
}

// Contents returns what was recognised in a parcel of the library.
func Contents(p store.ParcelRow) (parcel.Contents, error) {
	var c parcel.Contents
	return c, json.Unmarshal(p.Contents, &c)
}

// PieceKey tells a piece from the others of its parcel.
func PieceKey(p parcel.Piece) string {
	return string(p.Kind) + " " + p.Folder + " " + shown.Line(p.Root) // forms change line ends
}

// PieceOf returns the piece of a parcel with that key.
func PieceOf(row store.ParcelRow, key string) (parcel.Piece, error) {
	contents, err := Contents(row)
	if err != nil {
		return parcel.Piece{}, err
	}
	for _, p := range contents.Pieces {
		if PieceKey(p) == key {
			return p, nil
		}
	}
	return parcel.Piece{}, fmt.Errorf("%s has no such piece", row.Name)
}

// How says in which way pieces are put in place. The zero value but for Scope is
// the usual one.
type How struct {
	Scope  place.Scope
	Exists plan.Exists // if something else is there
	Second plan.Second // what a second folder gets, where one cannot serve all
	Lose   bool        // what cannot be kept of something that is replaced is given up
}

// Install starts putting pieces of a parcel in place. keys says which. When
// done the job leads to then.
func (a *App) Install(d *Desk, sha string, keys []string, how How, then string) (*jobs.Job, error) {
	row, pieces, err := a.piecesOf(sha, keys)
	if err != nil {
		return nil, err
	}
	return a.Jobs.Start("Install "+pieces[0].Name, func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Step("Planning", "")
		pl, err := a.installPlan(ctx, d, row, pieces, how)
		if err != nil {
			return err
		}
		j.Then(then)
		if len(pl.Ops) == 0 {
			return nil
		}
		j.Step("Putting in place", "files")
		done := store.Applied{Placed: placed(d, row, pieces, pl)}
		for _, op := range pl.Ops {
			if op.Kind == plan.Remove { // replaced
				done.Removed = append(done.Removed, op.Path)
			}
		}
		err = a.apply(ctx, d, pl, done, func(done, total int) { j.At(int64(done), int64(total)) })
		if err != nil {
			return err
		}
		return refreshCaches(ctx, d, j, pl)
	}), nil
}

// InstallPlan is the plan by which pieces would be put in place.
func (a *App) InstallPlan(ctx context.Context, d *Desk, sha string, keys []string, how How) (plan.Plan, error) {
	row, pieces, err := a.piecesOf(sha, keys)
	if err != nil {
		return plan.Plan{}, err
	}
	return a.installPlan(ctx, d, row, pieces, how)
}

func (a *App) installPlan(ctx context.Context, d *Desk, row store.ParcelRow, pieces []parcel.Piece, how How) (plan.Plan, error) {
	p, err := a.Open(ctx, row)
	if err != nil {
		return plan.Plan{}, err
	}
	placings, err := place.All(pieces, d.Desk, how.Scope, how.Exists, how.Second)
	if err != nil {
		return plan.Plan{}, err
	}
	pl, err := plan.Install(ctx, d.Desk, p, placings)
	pl.Lose = how.Lose
	return pl, err
}

func (a *App) piecesOf(sha string, keys []string) (store.ParcelRow, []parcel.Piece, error) {
	row, err := a.Store.Parcel(sha)
	if err != nil {
		return row, nil, err
	}
	if len(keys) == 0 {
		return row, nil, errors.New("choose at least one piece to install")
	}
	var pieces []parcel.Piece
	for _, key := range keys {
		p, err := PieceOf(row, key)
		if err != nil {
			return row, nil, err
		}
		pieces = append(pieces, p)
	}
	return row, pieces, nil
}

func placed(d *Desk, row store.ParcelRow, pieces []parcel.Piece, pl plan.Plan) []store.PieceRow {
	var out []store.PieceRow
	for _, op := range pl.Ops {
		for _, pc := range pieces {
			if op.Kind == plan.Copy && op.Source.Parcel == row.File && op.Source.Root == pc.Root && slices.Equal(op.Source.Only, pc.Only) && op.Facet == string(pc.Kind) {
				out = append(out, store.PieceRow{
					Desk: d.ID, Kind: string(pc.Kind), Name: pc.Name, Folder: pc.Folder, Path: op.Path,
					Version: row.Version, Parcel: row.SHA256, PlanID: pl.ID, PlacedAt: time.Now(),
				})
			}
		}
	}
	return out
}
