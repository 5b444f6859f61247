package regular

import (
	"context"
	"io/fs"
)

// Until is a tree of which nothing more is read once ctx has ended: all that is asked of it
// then fails with the context's error. Work that is made of many readings so ends with the
// one who waits for it.
func Until(ctx context.Context, tree fs.FS) fs.FS {
	if of, ok := tree.(interface{ Until(context.Context) fs.FS }); ok { // it ends in the middle of a reading too
		tree = of.Until(ctx)
	}
	return until{ctx, tree}
}

type until struct {
	ctx context.Context
	fs.FS
}

func (u until) ended(op, name string) error {
	if err := u.ctx.Err(); err != nil {
		return &fs.PathError{Op: op, Path: name, Err: err}
	}
	return nil
}

func (u until) Open(name string) (fs.File, error) {
	if err := u.ended("open", name); err != nil {
		return nil, err
	}
	return u.FS.Open(name)
}

func (u until) ReadFile(name string) ([]byte, error) {
	if err := u.ended("read", name); err != nil {
		return nil, err
	}
	return fs.ReadFile(u.FS, name)
}

func (u until) ReadDir(name string) ([]fs.DirEntry, error) {
	if err := u.ended("read", name); err != nil {
		return nil, err
	}
	return fs.ReadDir(u.FS, name)
}

func (u until) Stat(name string) (fs.FileInfo, error) {
	if err := u.ended("stat", name); err != nil {
		return nil, err
	}
	return fs.Stat(u.FS, name)
}

func (u until) Lstat(name string) (fs.FileInfo, error) {
	if err := u.ended("lstat", name); err != nil {
		return nil, err
	}
	return fs.Lstat(u.FS, name)
}

func (u until) ReadLink(name string) (string, error) {
	if err := u.ended("readlink", name); err != nil {
		return "", err
	}
	return fs.ReadLink(u.FS, name)
}
