package proof

import (
	"encoding/xml"
	"fmt"
	"io"
	"slices"
	"strings"
)

// The form that runners of tests read, named after the first that wrote it. It has no standard;
// these are the elements and attributes that all readers know (common practice, no source).
type (
	suites struct {
		XMLName  xml.Name `xml:"testsuites"`
		Name     string   `xml:"name,attr"`
		Tests    int      `xml:"tests,attr"`
		Failures int      `xml:"failures,attr"`
		Suites   []suite  `xml:"testsuite"`
	}
	suite struct {
		Name     string `xml:"name,attr"`
		Tests    int    `xml:"tests,attr"`
		Failures int    `xml:"failures,attr"`
		Errors   int    `xml:"errors,attr"`
		Skipped  int    `xml:"skipped,attr"`
		Cases    []test `xml:"testcase"`
	}
	test struct {
		Class   string   `xml:"classname,attr"`
		Name    string   `xml:"name,attr"`
		Time    string   `xml:"time,attr"`
		Failure *failure `xml:"failure"`
		Out     string   `xml:"system-out,omitempty"`
	}
	failure struct {
		Message string `xml:"message,attr"`
		Type    string `xml:"type,attr"`
		Text    string `xml:",chardata"`
	}
)

// JUnit writes a report as runners of tests read it: a suite for the parcel and for each piece of
// it, a test for each case, and a failure for one that failed. What is not grave stands in the
// output of its test; strictly, it is a failure too.
func (r Report) JUnit(w io.Writer, strictly bool) error {
	out := suites{Name: strings.TrimSpace("ivelt " + r.Command + " " + r.Path)}
	for _, c := range r.Cases {
		name := c.Piece
		if name == "" {
			name = "the whole"
		}
		at := slices.IndexFunc(out.Suites, func(s suite) bool { return s.Name == name })
		if at < 0 {
			at = len(out.Suites)
			out.Suites = append(out.Suites, suite{Name: name})
		}
		out.Suites[at].take(c, strictly)
	}
	for _, s := range out.Suites {
		out.Tests += s.Tests
		out.Failures += s.Failures
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	e := xml.NewEncoder(w)
	e.Indent("", "  ")
	if err := e.Encode(out); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}

func (s *suite) take(c Case, strictly bool) {
	t := test{Class: s.Name, Name: c.Check, Time: "0"}
	if c.Desk != "" {
		t.Name += " on " + c.Desk
	}
	var grave, mild []string
	for _, f := range c.Findings {
		if f.Grave || strictly {
			grave = append(grave, f.String())
		} else {
			mild = append(mild, f.String())
		}
	}
	if len(grave) > 0 {
		first := c.Findings[0]
		for _, f := range c.Findings {
			if f.Grave {
				first = f
				break
			}
		}
		t.Failure = &failure{Message: first.String(), Type: first.Code, Text: strings.Join(grave, "\n")}
		s.Failures++
	}
	if c.Says != "" {
		mild = append([]string{c.Says}, mild...)
	}
	t.Out = strings.Join(mild, "\n")
	s.Tests++
	s.Cases = append(s.Cases, t)
}

// String is a finding in a line, with where it is.
func (f Finding) String() string {
	switch {
	case f.File != "" && f.Line > 0:
		return fmt.Sprintf("%s:%d: %s", f.File, f.Line, f.Text)
	case f.File != "" && !strings.Contains(f.Text, f.File):
		return f.File + ": " + f.Text
	default:
		return f.Text
	}
}
