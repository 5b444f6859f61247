package gtkrc

import (
	"bytes"
	"strings"
)

// Set returns a resource file in which a setting has a value: where it is set
// last its value is put in the stead of the old one; where it is not set, or a file
// is included after that, a line is added. All else stays byte for byte. A number is written bare if bare is set.
func Set(file []byte, key, value string, bare bool) []byte {
	written := `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", `\n`).Replace(value) + `"`
	if bare {
		written = value
	}
	s := &scanner{text: file, line: 1}
	from, to := -1, -1
	for depth := 0; ; {
		t := s.scan()
		if t.kind == end {
			break
		}
		switch {
		case t.kind == sign && t.text == "{":
			depth++
		case t.kind == sign && t.text == "}":
			depth--
		case t.kind == word && t.text == "include" && depth == 0:
			from = -1 // it may set it too, and would win
		case t.kind == word && canonical(t.text) == key && depth == 0:
			if eq := s.scan(); eq.kind != sign || eq.text != "=" {
				continue
			}
			at := s.skip()
			if v := s.scan(); v.kind == sign && v.text == "-" {
				s.scan()
			}
			from, to = at, s.at
		}
	}
	if from >= 0 {
		return bytes.Join([][]byte{file[:from], []byte(written), file[to:]}, nil)
	}
	line := "\n"
	if bytes.Contains(file, []byte("\r\n")) {
		line = "\r\n"
	}
	var b bytes.Buffer
	read := file[:s.at] // to GTK the file ends with a zero byte
	b.Write(read)
	if len(read) > 0 && read[len(read)-1] != '\n' {
		b.WriteString(line)
	}
	b.WriteString(key + " = " + written + line)
	b.Write(file[s.at:])
	return b.Bytes()
}
