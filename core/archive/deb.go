package archive

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
)

// A Debian package (deb(5), format 2.0) is an ar archive of which the member
// data.tar.* holds the files. Its scripts, in control.tar.*, are not looked at.
var debFormat = Format{
	Name:  "deb",
	Match: func(head []byte) (string, bool) { return "deb", bytes.HasPrefix(head, []byte(arMagic+"debian-binary")) },
	Walk:  walkDeb,
}

const (
	arMagic  = "!<arch>\n"
	arHeader = 60
)

var errDeb = errors.New("no data member in the package")

func walkDeb(ctx context.Context, a *Archive, each func(Member) error) error {
	for at := int64(len(arMagic)); ; {
		var h [arHeader]byte
		if _, err := a.ReadAt(h[:], at); errors.Is(err, io.EOF) {
			return errDeb
		} else if err != nil {
			return err
		}
		size, err := strconv.ParseInt(strings.TrimSpace(string(h[48:58])), 10, 64)
		if err != nil || size < 0 || string(h[58:]) != "`\n" {
			return fmt.Errorf("a damaged member header at byte %d", at)
		}
		at += arHeader
		if strings.HasPrefix(string(h[:]), "data.tar") {
			if at+size > a.Size {
				return io.ErrUnexpectedEOF
			}
			return walkTar(ctx, &Archive{ReaderAt: io.NewSectionReader(a, at, size), Size: size, Most: a.Most}, each)
		}
		at += size + size%2
	}
}
