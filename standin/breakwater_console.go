package standin

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strings"
)

// inFull is where a full path lies; the person's home is /home/mara.
func (d Root) inFull(p string) string {
	if rest, ok := strings.CutPrefix(p, "/home/mara/"); ok {
		return d.host("~/" + rest)
	}
	return d.host(p) // "~" is the home as well
}

// TypeAtBreakwater does what a line does that is typed on the text console, of those that
// matter there.
func TypeAtBreakwater(d Root, line string) (answer string, err error) {
	words := strings.Fields(line)
	for i, w := range words {
		words[i] = strings.Trim(w, `'"`)
	}
	if len(words) > 0 && words[0] == "sudo" {
		words = words[1:]
	}
	at := d.inFull
	switch {
	case len(words) == 4 && words[0] == "cp" && words[1] == "-p":
		raw, err := os.ReadFile(at(words[2]))
		if err != nil {
			return "", fmt.Errorf("cp: there is no %s", words[2])
		}
		info, err := os.Stat(at(words[2]))
		if err != nil {
			return "", err
		}
		if err := os.WriteFile(at(words[3]), raw, info.Mode().Perm()); err != nil {
			return "", fmt.Errorf("cp: %s cannot be written", words[3])
		}
		return "", errors.Join(os.Chmod(at(words[3]), info.Mode().Perm()), os.Chtimes(at(words[3]), info.ModTime(), info.ModTime()))
	case len(words) == 3 && words[0] == "rm" && words[1] == "-f":
		if err := os.Remove(at(words[2])); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return "", fmt.Errorf("rm: %s cannot be taken away", words[2])
		}
		return "", nil
	case len(words) == 3 && words[0] == "rm" && words[1] == "-rf" && strings.Count(words[2], "/") > 2:
		return "", os.RemoveAll(at(words[2]))
	case len(words) == 2 && words[0] == "rmdir":
		if err := os.Remove(at(words[1])); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return "", fmt.Errorf("rmdir: %s is not empty", words[1])
		}
		return "", nil
	case len(words) == 3 && words[0] == "mkdir" && words[1] == "-p":
		return "", os.MkdirAll(at(words[2]), 0o755)
	case len(words) == 2 && words[0] == "sh":
		raw, err := os.ReadFile(at(words[1]))
		if err != nil {
			return "", fmt.Errorf("sh: there is no %s", words[1])
		}
		var said []string
		for line := range strings.Lines(string(raw)) {
			answer, err := "", error(nil)
			if !strings.HasPrefix(line, "sh ") {
				answer, err = TypeAtBreakwater(d, strings.TrimSpace(line))
			}
			if err != nil {
				answer = err.Error()
			}
			if answer != "" {
				said = append(said, answer)
			}
		}
		return strings.Join(said, "\n"), nil
	case len(words) == 2 && words[0] == "breakwater" && words[1] == "start":
		if err := Breakwater.Start(d); err != nil {
			return "", err
		}
		return "The desk is up.", nil
	case len(words) == 3 && words[0] == "breakwater" && words[1] == "open":
		return "", OpenCard(d, words[2])
	case len(words) == 3 && words[0] == "breakwater" && words[1] == "return":
		return "", Return(d, words[2])
	case len(words) == 2 && words[0] == "breakwater" && words[1] == "marks":
		all, err := os.ReadDir(d.host(marks))
		if err != nil {
			return "There is no mark.", nil
		}
		var names []string
		for _, e := range all {
			names = append(names, e.Name())
		}
		return strings.Join(names, "\n"), nil
	}
	return "", fmt.Errorf("%s: not found", firstWord(line))
}
