// Package licence tells which licence a text is, or names, by its identifier of
// the SPDX License List.
package licence

import (
	"regexp"
	"strings"

	"ivelt/core/keyfile"
)

var (
	tagged = regexp.MustCompile(`(?m)SPDX-License-Identifier:\s*([A-Za-z0-9.+() -]+?)\s*(\*/|-->)?\s*$`)
	// The machine-readable form of Debian's copyright files ("Machine-readable
	// debian/copyright file", version 1.0).
	stanza = regexp.MustCompile(`(?m)^License:\s*(.+?)\s*$`)
	files  = regexp.MustCompile(`(?m)^Files:\s*(.+?)\s*$`)
	alone  = regexp.MustCompile(`^(GPL|LGPL|AGPL|GFDL|CC0|CC-BY|MIT|BSD|Apache|OFL|MPL|Zlib|ISC|Unlicense|0BSD|Artistic|EUPL|WTFPL|LicenseRef-)[A-Za-z0-9.+-]*$`)
)

// Of returns the identifier, or "" if the text is no licence that is known. Of the
// text of a GNU licence alone it cannot be told whether later versions would do
// too: then they would not.
func Of(text string) string {
	if strings.Contains(text, "SPDX-License-Identifier:") {
		if m := tagged.FindStringSubmatch(text); m != nil {
			return m[1]
		}
	}
	if strings.Contains(text, "\nLicense:") && files.MatchString(text) {
		if of := ofDebian(text); of != "" {
			return of
		}
	}
	first, _, _ := strings.Cut(strings.TrimSpace(text), "\n")
	if first = strings.Trim(strings.TrimSpace(first), "."); alone.MatchString(first) {
		return short(first)
	}
	for word := range strings.FieldsSeq(first) { // "Shingle is by Maud Pell, under CC-BY-SA-4.0."
		if word = strings.Trim(word, ".,;()"); alone.MatchString(word) && (strings.ContainsAny(word, "0123456789") || strings.HasPrefix(word, "LicenseRef-")) {
			return short(word)
		}
	}
	return ofWords(strings.Join(strings.Fields(text), " "))
}

// named are the files that tell a licence. Common practice, no source.
var named = regexp.MustCompile(`(?i)^(licen[cs]e|copying|copyright|ofl)(\.(txt|md))?$`)

// IsFile tells whether a file of that name tells the licence of what lies beside it.
func IsFile(name string) bool { return named.MatchString(name) }

// Stated is what a piece's own description, a key file, gives as its licence, "" if it
// does not. Common practice, no source.
func Stated(kf *keyfile.File) string {
	for _, group := range kf.Groups() {
		for _, key := range []string{"License", "Licence", "X-License"} {
			if v := kf.Get(group, key); v != "" {
				return v
			}
		}
	}
	return ""
}

// maxHead is how much of a file is looked at for a licence in a comment, in bytes.
const maxHead = 4 << 10

// OfHead is the licence that a comment at the head of a text file tells, "" if none does.
func OfHead(text []byte) string { return Of(string(text[:min(len(text), maxHead)])) }

// ofDebian is the licence of most of a package's files: those of "Files: *", else
// of the first that are named.
func ofDebian(text string) string {
	best := ""
	for part := range strings.SplitSeq(text, "\n\n") {
		of, name := files.FindStringSubmatch(part), stanza.FindStringSubmatch(part)
		if of == nil || name == nil {
			continue
		}
		if best == "" || of[1] == "*" {
			best = short(name[1])
		}
	}
	return best
}

// short writes Debian's short names as SPDX does, each of an expression.
func short(name string) string {
	words := strings.Fields(name)
	for i, w := range words {
		if w == "or" || w == "and" || w == "with" {
			words[i] = strings.ToUpper(w)
			continue
		}
		words[i] = one(strings.TrimSuffix(w, ","))
	}
	return strings.Join(words, " ")
}

func one(name string) string {
	switch lower := strings.ToLower(name); lower {
	case "expat", "mit":
		return "MIT"
	case "bsd-2-clause", "bsd-3-clause":
		return "BSD-" + lower[4:5] + "-Clause"
	case "apache-2", "apache-2.0":
		return "Apache-2.0"
	case "artistic":
		return "Artistic-1.0-Perl"
	}
	m := gnu.FindStringSubmatch(name)
	if m == nil {
		return name
	}
	version := m[2]
	if !strings.Contains(version, ".") {
		version += ".0"
	}
	if m[3] == "+" {
		return m[1] + "-" + version + "-or-later"
	}
	return m[1] + "-" + version + "-only"
}

var gnu = regexp.MustCompile(`^(GPL|LGPL|AGPL|GFDL)-(\d(?:\.\d)?)(\+?)$`)

// phrases are what the texts of licences begin with or cannot do without.
var phrases = []struct {
	of  string
	has []string
}{
	{"OFL-1.1", []string{"SIL OPEN FONT LICENSE", "1.1"}},
	{"OFL-1.1", []string{"SIL Open Font License"}},
	{"OFL-1.1", []string{"openfontlicense.org"}},
	{"OFL-1.1", []string{"scripts.sil.org/OFL"}},
	{"CC0-1.0", []string{"CC0 1.0 Universal"}},
	{"CC0-1.0", []string{"creativecommons.org/publicdomain/zero/1.0"}},
	{"CC-BY-NC-SA-4.0", []string{"Attribution-NonCommercial-ShareAlike 4.0"}},
	{"CC-BY-NC-4.0", []string{"Attribution-NonCommercial 4.0"}},
	{"CC-BY-SA-4.0", []string{"Attribution-ShareAlike 4.0"}},
	{"CC-BY-SA-3.0", []string{"Attribution-ShareAlike 3.0"}},
	{"CC-BY-4.0", []string{"Attribution 4.0 International"}},
	{"AGPL-3.0-only", []string{"GNU AFFERO GENERAL PUBLIC LICENSE", "Version 3"}},
	{"LGPL-3.0-only", []string{"GNU LESSER GENERAL PUBLIC LICENSE", "Version 3"}},
	{"LGPL-2.1-only", []string{"GNU LESSER GENERAL PUBLIC LICENSE", "Version 2.1"}},
	{"LGPL-2.0-only", []string{"GNU LIBRARY GENERAL PUBLIC LICENSE", "Version 2"}},
	{"GFDL-1.3-only", []string{"GNU Free Documentation License", "Version 1.3"}},
	{"GFDL-1.2-only", []string{"GNU Free Documentation License", "Version 1.2"}},
	{"GPL-3.0-only", []string{"GNU GENERAL PUBLIC LICENSE", "Version 3"}},
	{"GPL-2.0-only", []string{"GNU GENERAL PUBLIC LICENSE", "Version 2"}},
	{"GPL-1.0-only", []string{"GNU GENERAL PUBLIC LICENSE", "Version 1"}},
	{"Apache-2.0", []string{"Apache License", "Version 2.0"}},
	{"MPL-2.0", []string{"Mozilla Public License Version 2.0"}},
	{"MPL-2.0", []string{"Mozilla Public License, Version 2.0"}},
	{"MPL-1.1", []string{"MOZILLA PUBLIC LICENSE", "Version 1.1"}},
	{"Artistic-1.0-Perl", []string{`The "Artistic License"`}},
	{"BSD-3-Clause", []string{"Redistribution and use in source and binary forms", "either the name of"}},
	{"BSD-2-Clause", []string{"Redistribution and use in source and binary forms"}},
	{"ISC", []string{"Permission to use, copy, modify, and/or distribute this software"}},
	{"MIT", []string{"MIT License"}},
	{"MIT", []string{"Permission is hereby granted, free of charge, to any person obtaining a copy"}},
}

// begins bounds where a licence says what it is, in bytes: others are named further
// down.
const begins = 700

func ofWords(text string) string {
	head := text[:min(len(text), begins)]
	for _, in := range []string{head, text[:min(len(text), 4*begins)]} {
		for _, p := range phrases {
			all := true
			for _, has := range p.has {
				all = all && strings.Contains(strings.ToLower(in), strings.ToLower(has))
			}
			if all {
				return p.of
			}
		}
	}
	return ""
}
