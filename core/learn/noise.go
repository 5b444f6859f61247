package learn

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// What programs keep beside their settings. Common practice, no source.
var (
	// places and times are words of keys; a word that says what a look is made of is
	// stronger.
	places = words("x y left top geometry position pos maximized maximised minimized fullscreen splitter sash pane column columns scroll offset workspace monitor screen output")
	times  = words("time date timestamp last recent recently history session opened used seen visited launch launches count counter run runs uuid guid id nonce hash checksum version revision modified mtime lastrun")
	look   = words("theme font size icon icons cursor pointer colour color style opacity alpha transparency background wallpaper radius border height width margin padding spacing")

	moment = regexp.MustCompile(`^\d{4}-\d\d-\d\d([T ]\d\d:\d\d.*)?$`)
	blob   = regexp.MustCompile(`^(@\w+\(.*|[A-Za-z0-9+/=_-]{44,}|[0-9a-fA-F]{32,})$`)
)

func words(list string) map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq(list) {
		out[w] = true
	}
	return out
}

// wordsOf takes a name apart, "windowPos-x" into window, pos and x.
func wordsOf(name string) []string {
	var out []string
	var word strings.Builder
	end := func() {
		if word.Len() > 0 {
			out = append(out, strings.ToLower(word.String()))
			word.Reset()
		}
	}
	before := ' '
	for _, r := range name {
		switch {
		case !unicode.IsLetter(r):
			end()
		case unicode.IsUpper(r) && unicode.IsLower(before):
			end()
			word.WriteRune(r)
		default:
			word.WriteRune(r)
		}
		before = r
	}
	end()
	return out
}

// noiseOf says why a change is hardly one that somebody made on purpose.
func noiseOf(c Change) string {
	for _, v := range []string{c.From, c.To} {
		if n, err := strconv.ParseInt(v, 10, 64); err == nil && (n > 1e9 && n < 5e9 || n > 1e12 && n < 5e12 || n > 1e15 && n < 5e15) {
			return "it is a time"
		}
		if moment.MatchString(v) {
			return "it is a time"
		}
		if blob.MatchString(v) {
			return "it is nothing that people write"
		}
	}
	var place, time, dress bool
	for _, w := range append(wordsOf(c.Key), wordsOf(c.Group)...) {
		dress = dress || look[w]
	}
	for _, w := range wordsOf(c.Key) {
		place, time = place || places[w], time || times[w]
	}
	_, err := strconv.ParseFloat(c.To, 64)
	inWindow := strings.Contains(strings.ToLower(c.Group+" "+c.Key), "window")
	switch {
	case place && (err == nil || strings.Contains(c.To, ",")) && !(dress && !inWindow):
		return "it is where a window lies"
	case inWindow && err == nil && (strings.HasSuffix(strings.ToLower(c.Key), "width") || strings.HasSuffix(strings.ToLower(c.Key), "height")):
		return "it is where a window lies"
	case time && !dress:
		return "programs note it by themselves"
	}
	return ""
}

// Sort marks the changes that are hardly what the person changed, and puts those that
// may be first. often tells how many times a place has changed in earlier looks, this
// one left out: what changes each time is not a choice.
func Sort(changes []Change, often map[string]int) (likely, noise []Change) {
	for _, c := range changes {
		c.Noise = noiseOf(c)
		if c.Noise == "" && often[c.Place()] > 0 {
			c.Noise = everyTime
		}
		if c.Noise == "" {
			likely = append(likely, c)
		} else {
			noise = append(noise, c)
		}
	}
	if len(likely) == 0 { // it was that one again
		again := func(c Change) bool { return c.Noise == everyTime }
		for _, c := range noise {
			if again(c) {
				c.Noise = ""
				likely = append(likely, c)
			}
		}
		noise = slices.DeleteFunc(noise, again)
	}
	return likely, noise
}

const everyTime = "it changes every time"
