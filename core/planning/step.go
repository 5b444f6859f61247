package planning

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gsettings"
	"ivelt/core/keyfile"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/settingsfile"
)

// SourceRef names one source in the chain of a reading, by where it stands.
type SourceRef struct {
	Surface, Facet string
	Path, Key      string // of the step's origin
}

// ErrStep: that source is none that can be edited.
var ErrStep = errors.New("that source cannot be edited here")

// Say plans to make one source of a reading say something, whatever the others
// say; with want empty, to take out what it says.
func Say(d *desk.Desk, at SourceRef, want string) (plan.Plan, error) {
	s, f, src, line, err := sourceOf(d, at)
	if err != nil {
		return plan.Plan{}, err
	}
	file := d.Show(at.Path)
	title, why := fmt.Sprintf("Remove %s from %s", at.Key, file), say.Of("plan/no-longer-tell-here", s.Named())
	if want != "" {
		title, why = fmt.Sprintf("Set %s in %s", want, file), setsTo(d, s, f, want)
		if err := reading.Check(d, s, f, want); err != nil {
			return plan.Plan{}, say.Errorf("%s would not find %s: %w", s.Title, want, err)
		}
	}
	out := plan.Plan{Title: title}
	b := builder{d: d, seen: d, plan: &out, made: map[string]bool{}, told: map[string]bool{}, unsetting: map[string]bool{}}
	p, err := b.resolve(at.Path)
	if err != nil {
		return plan.Plan{}, err
	}
	if !b.mayWrite(s, f.Name, p) {
		return out.Seal(d), nil
	}
	old, err := d.Tree().ReadSettings(desk.Name(p))
	missing := errors.Is(err, fs.ErrNotExist)
	if err != nil && !missing {
		return plan.Plan{}, say.Errorf("%s: %w", file, err)
	}
	content, err := said(old, src, f, want, line)
	if err != nil {
		return plan.Plan{}, say.Errorf("%s: %w", file, err)
	}
	if bytes.Equal(content, old) {
		return out.Seal(d), nil
	}
	before, err := plan.Look(d, p)
	if err != nil {
		return plan.Plan{}, err
	}
	mode := before.Mode
	if missing {
		mode = 0o644
		b.parents(p, f.Name)
	}
	restart := s.Restart
	if f.Live {
		restart = ""
	}
	if src.Format == "env" {
		restart = "session"
	}
	b.add(plan.Op{Kind: plan.Write, Path: p, Before: before, After: plan.FileState(content, mode), Content: content, Surface: s.ID, Facet: f.Name, Says: why, Effect: plan.EffectOf(restart)})
	return out.Seal(d), nil
}

// CanSay reports whether a source is one that [Say] may edit.
func CanSay(d *desk.Desk, at SourceRef) bool {
	_, _, _, _, err := sourceOf(d, at)
	return err == nil
}

// sourceOf finds the source that a step came from, as a plan edits it, with the
// surface that it tells and the line of the step.
func sourceOf(d *desk.Desk, at SourceRef) (s desk.Surface, f desk.Facet, src desk.Source, line int, err error) {
	s, ok := d.Surface(at.Surface)
	if ok {
		f, ok = s.Facet(at.Facet)
	}
	if !ok || at.Path == "" {
		return s, f, src, 0, ErrStep
	}
	for _, src := range f.Sources {
		if src.Format == "follows" {
			if reading.Circles(d, s, f.Name, src) {
				continue
			}
			leader := at
			leader.Surface = src.Path
			if s, f, src, line, err := sourceOf(d, leader); err == nil {
				return s, f, src, line, nil
			}
			continue
		}
		for _, step := range reading.Ask(d, s, f, src) {
			if step.Path != at.Path || step.Key != at.Key || strings.HasPrefix(src.Path, "{theme}") && step.State == reading.Absent {
				continue // a theme is not given settings that it does not bring
			}
			if src.Format == "gsettings" {
				if at.Path != reading.KeyfileOf(d) || step.Locked {
					return s, f, src, 0, say.Errorf("%w: it is no file of the person's", ErrStep)
				}
				key, _, _ := reading.SchemaKey(d, src.Group, src.Key)
				src.Type = key.Type
				src.Group, src.Key = gsettings.GroupOf(key.Path)
			}
			if !d.Mine(at.Path) {
				return s, f, src, 0, say.Errorf("%w: %s is the system's, which an administrator looks after", ErrStep, at.Path)
			}
			return s, f, src, step.Line, nil
		}
	}
	return s, f, src, 0, ErrStep
}

// said is a file in which a source says something, or nothing of a facet.
func said(old []byte, src desk.Source, f desk.Facet, want string, line int) ([]byte, error) {
	if want != "" {
		if src.Format == "env" {
			return withVariable(old, src.Key, reading.Written(f, src, want), true), nil
		}
		return edited(old, src, f, want)
	}
	if form := settingsfile.Form(src.Format); slices.Contains(settingsfile.Forms(), form) {
		content, _, err := settingsfile.Remove(form, old, src.Group, src.Key)
		return content, err
	}
	switch src.Format {
	case "env":
		return withoutVariable(old, src.Key), nil
	case "keyfile", "gsettings":
		kf, err := keyfile.Parse(old)
		if err != nil {
			return nil, err
		}
		kf.Remove(src.Group, src.Key)
		return kf.Bytes(), nil
	case "xresources", "gtkrc":
		lines := bytes.SplitAfter(old, []byte("\n"))
		if line < 1 || line > len(lines) || !bytes.Contains(lines[line-1], []byte(src.Key)) || bytes.HasSuffix(bytes.TrimRight(lines[line-1], "\r\n"), []byte(`\`)) {
			return nil, say.Errorf("%w: it is not in one line", ErrStep)
		}
		return bytes.Join(append(lines[:line-1:line-1], lines[line:]...), nil), nil
	}
	return nil, say.Errorf("%w: a rule may serve more than this; open the file and take it out there", ErrStep)
}
