package typeset

import "encoding/binary"

// Bounds of how letters are put together from others: the parts of one, all together, and how many
// are in each other. Those that makers draw have a handful.
const (
	maxParts = 512
	maxDeep  = 16
)

// Tables are the tables of a face of a font file, by tag (OpenType 1.9, "Table Directory" and "TTC
// Header"). Those that do not lie in the file are left out.
func Tables(b []byte, index int) map[string][]byte {
	out := map[string][]byte{}
	fonts := fontsIn(b)
	if index < 0 || index >= len(fonts) {
		return out
	}
	at := fonts[index]
	for i := range records(b, at) {
		record := b[at+12+16*i:]
		from, size := uint64(binary.BigEndian.Uint32(record[8:])), uint64(binary.BigEndian.Uint32(record[12:]))
		if from+size <= uint64(len(b)) {
			out[string(record[:4])] = b[from : from+size]
		}
	}
	return out
}

// fontsIn are the offsets of the fonts in a file.
func fontsIn(b []byte) []int {
	if len(b) < 12 || string(b[:4]) != "ttcf" {
		return []int{0}
	}
	var out []int
	for at := 12; at+4 <= len(b) && len(out) < int(binary.BigEndian.Uint32(b[8:])); at += 4 {
		out = append(out, int(binary.BigEndian.Uint32(b[at:])))
	}
	return out
}

// glyphs tells how letters are put together.
type glyphs struct {
	glyf, loca []byte
	long       bool
	weight     []int32 // parts of each letter, 0 for one that was not counted yet
}

// overloaded reports whether some letter of a font is put together from more parts than there is a
// reason for, or from itself: to draw it would take for ever (OpenType 1.9, table glyf).
func overloaded(tables map[string][]byte) bool {
	head, maxp := tables["head"], tables["maxp"]
	if len(tables["glyf"]) == 0 || len(head) < 52 || len(maxp) < 6 {
		return false
	}
	g := &glyphs{glyf: tables["glyf"], loca: tables["loca"], long: binary.BigEndian.Uint16(head[50:]) != 0, weight: make([]int32, binary.BigEndian.Uint16(maxp[4:]))}
	for id := range g.weight {
		if g.weigh(id, 0) > maxParts {
			return true
		}
	}
	return false
}

// data is what the file says of a letter.
func (g *glyphs) data(id int) []byte {
	var from, to uint64
	switch {
	case g.long && 4*id+8 <= len(g.loca):
		from, to = uint64(binary.BigEndian.Uint32(g.loca[4*id:])), uint64(binary.BigEndian.Uint32(g.loca[4*id+4:]))
	case !g.long && 2*id+4 <= len(g.loca):
		from, to = 2*uint64(binary.BigEndian.Uint16(g.loca[2*id:])), 2*uint64(binary.BigEndian.Uint16(g.loca[2*id+2:]))
	}
	if from >= to || to > uint64(len(g.glyf)) {
		return nil
	}
	return g.glyf[from:to]
}

// What flags of a part say of how long it is.
const (
	argumentsAreWords = 1 << 0
	hasScale          = 1 << 3
	moreParts         = 1 << 5
	hasTwoScales      = 1 << 6
	hasMatrix         = 1 << 7
)

// weigh counts the parts of a letter; more than [maxParts] for one that is in itself, or too deep.
func (g *glyphs) weigh(id, deep int) int32 {
	if id >= len(g.weight) {
		return 1
	}
	if deep > maxDeep {
		return maxParts + 1
	}
	if g.weight[id] != 0 {
		return g.weight[id]
	}
	b := g.data(id)
	if len(b) < 10 || int16(binary.BigEndian.Uint16(b)) >= 0 {
		g.weight[id] = 1
		return 1
	}
	g.weight[id] = maxParts + 1 // as long as it is counted: it may be in itself
	sum := int32(1)
	for b = b[10:]; len(b) >= 4 && sum <= maxParts; {
		flags, part := binary.BigEndian.Uint16(b), int(binary.BigEndian.Uint16(b[2:]))
		sum += g.weigh(part, deep+1)
		size := 6
		if flags&argumentsAreWords != 0 {
			size += 2
		}
		switch {
		case flags&hasScale != 0:
			size += 2
		case flags&hasTwoScales != 0:
			size += 4
		case flags&hasMatrix != 0:
			size += 8
		}
		if flags&moreParts == 0 || size > len(b) {
			break
		}
		b = b[size:]
	}
	g.weight[id] = min(sum, maxParts+1)
	return g.weight[id]
}
