package standin

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// What settings of a layout take, each read by itself (docs/layout.md).

func someBars(value string) bool { _, ok := quayBars(value); return ok && len(value) <= 16<<10 }

// someDock is a dock: a bar whose items are programs, with words of its own.
func someDock(value string) bool {
	if strings.TrimSpace(value) == "none" {
		return true
	}
	all, ok := quayBars(value)
	if !ok || len(all) != 1 || all[0].long != "whole" || len(all[0].items[1])+len(all[0].items[2]) > 0 {
		return false
	}
	for _, i := range all[0].items[0] {
		if i.options != "" {
			return false
		}
	}
	for _, pair := range quayPair.FindAllStringSubmatch(quayHead.FindStringSubmatch(value)[3], -1) {
		word, v := unquoted(pair[1]), unquoted(pair[2])
		n, err := strconv.Atoi(strings.TrimSuffix(v, "%"))
		switch word {
		case "grow":
			if err != nil || n < 100 || n > 300 {
				return false
			}
		case "space":
			if _, err := strconv.Atoi(v); err != nil {
				return false
			}
		case "previews", "running":
			if v != "yes" && v != "no" {
				return false
			}
		}
	}
	return true
}

// someTiles is how windows lie side by side: a way, and pairs of a word and its value.
func someTiles(value string) bool {
	m := regexp.MustCompile(`^\s*(hand|columns|beside|grid)((?:\s+` + quayWord + `\s+` + quayWord + `)*)\s*$`).FindStringSubmatch(value)
	if m == nil {
		return false
	}
	number := func(text string, least, most int) bool {
		n, err := strconv.Atoi(text)
		return err == nil && n >= least && n <= most
	}
	for _, pair := range quayPair.FindAllStringSubmatch(m[2], -1) {
		v, ok := unquoted(pair[2]), true
		switch unquoted(pair[1]) {
		case "outer":
			sides := strings.Split(v, ",")
			ok = len(sides) == 1 || len(sides) == 4
			for _, s := range sides {
				ok = ok && number(s, -32768, 32768)
			}
		case "inner":
			ok = number(v, -32768, 32768)
		case "share":
			ok = number(strings.TrimSuffix(v, "%"), 10, 90)
		case "frames":
			ok = v == "yes" || v == "no"
		case "least":
			w, h, cut := strings.Cut(v, "x")
			ok = cut && number(w, -32768, 32768) && number(h, -32768, 32768)
		}
		if !ok {
			return false
		}
	}
	return true
}

// samphireBars are bars that Samphire has: two at most, at the top and the bottom, from 20 to 96 px thick.
func samphireBars(value string) bool {
	return fewBars(value, barLimits{most: 2, edges: "top bottom", thin: 20, thick: 96,
		items: "menu|pinned|windows|workspaces|tray|clock|battery|keyboard|show-desktop|power|space|stretch|line", told: "long|at|margin|hides"})
}

// ledgeBars are bars that Ledge has: one, at the bottom, from 32 to 64 px thick, with a margin and round corners.
func ledgeBars(value string) bool {
	return fewBars(value, barLimits{most: 1, edges: "bottom", thin: 32, thick: 64, items: "menu|pinned|windows|tray|clock|stretch", told: "margin|round"})
}

type barLimits struct {
	most        int
	edges       string
	thin, thick int
	items, told string // with strokes between
}

// fewBars reports whether a value is of bars within limits.
func fewBars(value string, l barLimits) bool {
	all, ok := quayBars(value)
	if !ok || len(value) > 16<<10 || len(all) > l.most {
		return false
	}
	has, told := regexp.MustCompile(`^(`+l.items+`)$`), regexp.MustCompile(`^(`+l.told+`)$`)
	for n, b := range all {
		if !slices.Contains(strings.Fields(l.edges), b.edge) || b.thick < l.thin || b.thick > l.thick {
			return false
		}
		head := quayHead.FindStringSubmatch(cutOutside(value, ';')[n])
		last := map[string]string{} // of a word that is said twice
		for _, pair := range quayPair.FindAllStringSubmatch(head[3], -1) {
			last[unquoted(pair[1])] = unquoted(pair[2])
		}
		for word, v := range last {
			usual := (word == "round" || word == "margin") && strings.Trim(v, "-0") == "" || map[string]string{"on": "", "long": "whole", "at": "start", "hides": "never"}[word] == v
			if !told.MatchString(word) && !usual {
				return false
			}
		}
		for _, side := range b.items {
			for _, i := range side {
				if !has.MatchString(i.kind) {
					return false
				}
			}
		}
	}
	return true
}

// someGaps is what Withy knows of windows side by side: the gaps around and between those put so by hand.
func someGaps(value string) bool {
	return someTiles(value) && regexp.MustCompile(`^\s*hand(\s+("?outer"?|"?inner"?)\s+\S+)*\s*$`).MatchString(value)
}

// somePlace is a place on the desk: edges, how far in, and pairs of a word and its value.
func somePlace(value string) bool {
	if strings.TrimSpace(value) == "none" {
		return true
	}
	m := regexp.MustCompile(`^\s*(?:middle|(?:top|bottom)(?:\s+(?:left|right))?|(?:left|right)(?:\s+(?:top|bottom))?)\s+(-?\d{1,5})\s+(-?\d{1,5})((?:\s+` + quayWord + `\s+` + quayWord + `)*)\s*$`).FindStringSubmatch(value)
	if m == nil || len(value) > 16<<10 {
		return false
	}
	for _, n := range m[1:3] {
		if far, err := strconv.Atoi(n); err != nil || far < -32768 || far > 32768 {
			return false
		}
	}
	for _, pair := range quayPair.FindAllStringSubmatch(m[3], -1) {
		if n, err := strconv.Atoi(unquoted(pair[2])); unquoted(pair[1]) == "size" && (err != nil || n < 0 || n > 400) {
			return false
		}
	}
	return true
}

// someNames are up to 32 names with semicolons between.
func someNames(value string) bool {
	if value == "none" {
		return true
	}
	names := strings.Split(value, ";")
	for _, n := range names {
		if n == "" || n != strings.TrimSpace(n) || len(n) > 64 || strings.ContainsAny(n, "\n\r\t") {
			return false
		}
	}
	return len(names) <= 32
}
