package main

import (
	"context"
	"debug/buildinfo"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// release is what is made.
type release struct {
	Source  string // the folder of the sources
	Version string
	Date    time.Time
	Log     []entry // the newest first
	Fast    bool    // pack quickly, and less
}

// entry is one of the change log.
type entry struct {
	Version string
	Date    time.Time
	Text    string // Markdown
}

var entryHead = regexp.MustCompile(`(?m)^## (\d+\.\d+\.\d+), (\d{4}-\d{2}-\d{2})$`)

// releaseOf is the release of some sources.
func releaseOf(source string) (release, error) {
	b, err := os.ReadFile(filepath.Join(source, "CHANGELOG.md"))
	if err != nil {
		return release{}, err
	}
	r := release{Source: source}
	heads := entryHead.FindAllSubmatchIndex(b, -1)
	for i, at := range heads {
		end := len(b)
		if i+1 < len(heads) {
			end = heads[i+1][0]
		}
		date, err := time.Parse(time.DateOnly, string(b[at[4]:at[5]]))
		if err != nil {
			return r, err
		}
		r.Log = append(r.Log, entry{string(b[at[2]:at[3]]), date, strings.TrimSpace(string(b[at[1]:end]))})
	}
	if len(r.Log) == 0 {
		return r, errors.New("CHANGELOG.md has no entry, such as “## 1.0.0, 2026-01-31”")
	}
	r.Version, r.Date = r.Log[0].Version, r.Log[0].Date
	return r, nil
}

// epoch tells tools the date of the release (reproducible-builds.org, SOURCE_DATE_EPOCH).
func (r release) epoch() string { return "SOURCE_DATE_EPOCH=" + strconv.FormatInt(r.Date.Unix(), 10) }

// linked are the linker's flags: no symbols, no time, no path, and the version.
func (r release) linked() string {
	return "-s -w -buildid= -X ivelt/cmd/ivelt/internal/commands.released=" + r.Version
}

// built is the program for an architecture.
type built struct {
	Arch string // as Go names it
	File string
	Info *buildinfo.BuildInfo
	// What goes with it: the notices of what is in it, and the bill of that.
	Parts []part
	Bill  []byte
}

func (r release) build(ctx context.Context, dir, arch string) (built, error) {
	if _, ok := architectures[arch]; !ok {
		return built{}, fmt.Errorf("there are no packages for %q", arch)
	}
	b := built{Arch: arch, File: filepath.Join(dir, "ivelt")}
	full, err := filepath.Abs(b.File)
	if err != nil {
		return b, err
	}
	err = tool(ctx, r.Source, []string{"CGO_ENABLED=0", "GOOS=linux", "GOARCH=" + arch},
		"go", "build", "-trimpath", "-buildvcs=false", "-ldflags", r.linked(), "-o", full, "./cmd/ivelt")
	if err != nil {
		return b, err
	}
	if b.Info, err = buildinfo.ReadFile(b.File); err != nil {
		return b, err
	}
	if b.Parts, err = r.parts(b.Info); err != nil {
		return b, err
	}
	b.Bill, err = r.bill(b)
	return b, err
}

// common is what is the same on all architectures.
type common struct {
	Manual      string // the folder of pages and completions
	Description string
}

func (r release) common(ctx context.Context, dir string) (c common, err error) {
	if c.Manual, err = filepath.Abs(dir); err != nil {
		return c, err
	}
	err = tool(ctx, r.Source, []string{r.epoch(), "CGO_ENABLED=0"},
		"go", "run", "-trimpath", "-buildvcs=false", "-ldflags", r.linked(), "./cmd/ivelt/internal/manual", c.Manual)
	if err != nil {
		return c, err
	}
	text, err := os.ReadFile(filepath.Join(r.Source, "release/description.txt"))
	c.Description = strings.TrimSpace(string(text))
	return c, err
}
