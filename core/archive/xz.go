package archive

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"slices"
	"strings"
	"sync"

	"github.com/mikelolasagasti/xz"
)

// xzProgram is where the system's own unpacker is, "" if there is none. It is
// twice as fast as one in Go, and used by tar just so.
var xzProgram = sync.OnceValue(func() string {
	path, err := exec.LookPath("xz")
	if err != nil {
		return ""
	}
	return path
})

// xzMemory bounds what it may take: the largest of its presets needs 65 MiB. It unpacks
// blocks side by side as far as they go into that.
const xzMemory = "128MiB"

// xzOptions are those that the program knows: before 5.4 it unpacks one block after another.
var xzOptions = sync.OnceValue(func() []string {
	one := []string{"--decompress", "--stdout", "--quiet", "--memlimit-decompress=" + xzMemory}
	many := append(slices.Clone(one), "--threads=0", "--memlimit-mt-decompress="+xzMemory)
	if exec.Command(xzProgram(), append(many, "--version")...).Run() == nil {
		return many
	}
	return append(one, "--threads=1")
})

func openXz(r io.Reader) (io.Reader, error) {
	path := xzProgram()
	if path == "" {
		return xz.NewReader(r, xz.DefaultDictMax)
	}
	p := &unpacker{cmd: exec.Command(path, xzOptions()...)}
	p.cmd.Env = []string{"LC_ALL=C"} // no options of the person's own
	p.cmd.Stdin, p.cmd.Stderr = r, &p.says
	var err error
	if p.out, err = p.cmd.StdoutPipe(); err != nil {
		return nil, err
	}
	if err := p.cmd.Start(); err != nil {
		return xz.NewReader(r, xz.DefaultDictMax)
	}
	return p, nil
}

// unpacker is a program that unpacks what it is given.
type unpacker struct {
	cmd  *exec.Cmd
	out  io.ReadCloser
	says bytes.Buffer
	once sync.Once
	err  error
}

func (p *unpacker) Read(b []byte) (int, error) {
	n, err := p.out.Read(b)
	if !errors.Is(err, io.EOF) {
		return n, err
	}
	if err := p.wait(); err != nil {
		return n, err
	}
	return n, io.EOF
}

func (p *unpacker) wait() error {
	p.once.Do(func() {
		if err := p.cmd.Wait(); err != nil {
			said := strings.TrimSpace(p.says.String())
			if _, after, ok := strings.Cut(said, ": "); ok {
				said = strings.TrimPrefix(after, "(stdin): ")
			}
			p.err = fmt.Errorf("xz: %s", strings.ToLower(said))
			if said == "" {
				p.err = fmt.Errorf("xz: %w", err)
			}
		}
	})
	return p.err
}

func (p *unpacker) Close() error {
	_ = p.cmd.Process.Kill()
	_ = p.wait() // it was stopped on purpose
	return nil
}
