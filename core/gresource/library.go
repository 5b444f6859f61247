package gresource

import (
	"debug/elf"
	"fmt"
	"io"
	"io/fs"
)

// maxSection bounds a library's bundle. The largest of real ones has a quarter of that.
const maxSection = 16 << 20

// OfLibrary opens the bundle that an ELF library carries in one of its sections, as
// glib-compile-resources puts it there. fs.ErrNotExist if it has no such section.
func OfLibrary(library io.ReaderAt, section string) (*Bundle, error) {
	f, err := elf.NewFile(library)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBundle, err)
	}
	s := f.Section(section)
	if s == nil {
		return nil, fmt.Errorf("%s: %w", section, fs.ErrNotExist)
	}
	if s.Type == elf.SHT_NOBITS || s.FileSize > maxSection {
		return nil, fmt.Errorf("%w: the section %s is larger than %d MiB", ErrBundle, section, maxSection>>20)
	}
	b, err := s.Data()
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBundle, err)
	}
	return Open(b)
}
