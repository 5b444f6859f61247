package markets

import (
	"bufio"
	"encoding/binary"
	"encoding/json"
	"errors"
	"hash/crc32"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/say"
	"ivelt/core/wordindex"
)

// A catalogue is kept in a file, so that a million entries need not be gone through at each
// start. It is a cache: a file that is damaged, of another Ivelt, or made from other entries
// is passed over.

func (m *Markets) catalogueFile() string { return filepath.Join(m.dir, "catalogue") }

// catalogueFormat is raised when what is kept of a card changes.
const catalogueFormat = 1

// keptHead is the first line of the file.
type keptHead struct {
	Format   int       `json:"format"`
	Stamp    string    `json:"stamp"`
	On       string    `json:"on"`
	Cards    int       `json:"cards"`
	Live     int       `json:"live"`
	Kinds    []string  `json:"kinds"`
	Made     [][2]any  `json:"made,omitempty"` // id, versions
	Segments []keptSeg `json:"segments"`
}

type keptSeg struct {
	From  int32 `json:"from"`
	To    int32 `json:"to"`
	Terms int   `json:"terms"`
	Bytes int   `json:"bytes"` // of the terms, a line each
	All   int   `json:"all"`
}

// The columns of cards, as they are kept: where in a card each stands.
var (
	smalls = []func(c *card) *uint8{
		func(c *card) *uint8 { return &c.kind }, func(c *card) *uint8 { return &c.shade }, func(c *card) *uint8 { return &c.hue },
		func(c *card) *uint8 { return &c.shape }, func(c *card) *uint8 { return &c.flags }, func(c *card) *uint8 { return &c.dresses },
	}
	whole = []func(c *card) *int32{
		func(c *card) *int32 { return &c.date }, func(c *card) *int32 { return &c.likes }, func(c *card) *int32 { return &c.rising }, func(c *card) *int32 { return &c.name },
	}
)

// keepCatalogue writes the catalogue that there is, if there are many entries.
func (m *Markets) keepCatalogue() error {
	c := m.cards.Load()
	if c == nil || len(c.cards) < 20_000 || c.stamp == "" || c.stamp == m.kept {
		return nil
	}
	f, err := os.CreateTemp(m.dir, "catalogue-*")
	if err != nil {
		return err
	}
	sum := crc32.NewIEEE()
	w := bufio.NewWriterSize(io.MultiWriter(f, sum), 256<<10)
	err = c.write(w)
	if err == nil {
		err = w.Flush()
	}
	if err == nil {
		err = binary.Write(f, binary.LittleEndian, sum.Sum32())
	}
	if err = errors.Join(err, f.Close()); err == nil {
		err = os.Rename(f.Name(), m.catalogueFile())
	}
	if err == nil {
		m.kept = c.stamp
	}
	if err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return nil
}

func (c *catalogue) write(w io.Writer) error {
	head := keptHead{Format: catalogueFormat, Stamp: c.stamp, On: c.on, Cards: len(c.cards), Live: c.live, Kinds: c.kinds}
	for _, m := range c.made {
		head.Made = append(head.Made, [2]any{m.id, m.versions})
	}
	var terms []string
	for _, s := range c.words {
		text := strings.Join(s.Terms, "\n")
		terms = append(terms, text)
		head.Segments = append(head.Segments, keptSeg{s.from, s.to, len(s.Terms), len(text), len(s.All)})
	}
	line, err := json.Marshal(head)
	if err != nil {
		return err
	}
	parts := []any{append(line, '\n'), []uint64(c.gone)}
	ids := make([]uint64, len(c.cards))
	for i := range c.cards {
		ids[i] = uint64(c.cards[i].id)
	}
	parts = append(parts, ids)
	for _, of := range smalls {
		col := make([]uint8, len(c.cards))
		for i := range c.cards {
			col[i] = *of(&c.cards[i])
		}
		parts = append(parts, col)
	}
	for _, of := range whole {
		col := make([]int32, len(c.cards))
		for i := range c.cards {
			col[i] = *of(&c.cards[i])
		}
		parts = append(parts, col)
	}
	for n := range len(card{}.looks) {
		col := make([]float32, len(c.cards))
		for i := range c.cards {
			col[i] = c.cards[i].looks[n]
		}
		parts = append(parts, col)
	}
	for _, name := range orderNames() {
		parts = append(parts, c.orders[name])
	}
	for i, s := range c.words {
		parts = append(parts, []byte(terms[i]), s.Ends, s.All)
	}
	for _, p := range parts {
		if err := binary.Write(w, binary.LittleEndian, p); err != nil {
			return err
		}
	}
	return nil
}

func orderNames() (out []string) {
	for name := range orderings {
		out = append(out, name)
	}
	slices.Sort(out)
	return out
}

// readCatalogue reads the file, if it has the markets that are on.
func readCatalogue(file, on string) (*catalogue, bool) {
	f, err := os.Open(file)
	if err != nil {
		return nil, false
	}
	defer f.Close()
	fi, err := f.Stat()
	if err != nil || fi.Size() < 4 {
		return nil, false
	}
	sum := crc32.NewIEEE()
	r := bufio.NewReaderSize(io.TeeReader(io.LimitReader(f, fi.Size()-4), sum), 256<<10)
	c, err := readKept(r, on, fi.Size())
	if err != nil {
		return nil, false
	}
	var want uint32
	if _, err := r.ReadByte(); err != io.EOF {
		return nil, false // there is more than it should have
	}
	if err := binary.Read(f, binary.LittleEndian, &want); err != nil || want != sum.Sum32() {
		return nil, false
	}
	if !c.sound() {
		return nil, false
	}
	c.sortKinds(0)
	return c, true
}

func readKept(r *bufio.Reader, on string, size int64) (*catalogue, error) {
	line, err := r.ReadBytes('\n')
	if err != nil {
		return nil, err
	}
	var head keptHead
	if err := json.Unmarshal(line, &head); err != nil {
		return nil, err
	}
	if head.Format != catalogueFormat || head.On != on || head.Stamp == "" || head.Cards < 0 || int64(head.Cards) > size || head.Live < 0 || head.Live > head.Cards {
		return nil, errors.New("it was made from something else")
	}
	c := &catalogue{stamp: head.Stamp, on: on, kinds: head.Kinds, live: head.Live, cards: make([]card, head.Cards), gone: wordindex.NewBits(head.Cards), orders: map[string][]int32{}}
	for _, m := range head.Made {
		id, ok := m[0].(float64)
		text, is := m[1].(string)
		if !ok || !is {
			return nil, errors.New("it is damaged")
		}
		c.made = append(c.made, madeFor{uint(id), text})
	}
	read := func(into any) {
		if err == nil {
			err = binary.Read(r, binary.LittleEndian, into)
		}
	}
	read([]uint64(c.gone))
	ids := make([]uint64, head.Cards)
	read(ids)
	for i := range ids {
		c.cards[i].id = uint(ids[i])
	}
	small, number, fraction := make([]uint8, head.Cards), make([]int32, head.Cards), make([]float32, head.Cards)
	for _, of := range smalls {
		read(small)
		for i := range small {
			*of(&c.cards[i]) = small[i]
		}
	}
	for _, of := range whole {
		read(number)
		for i := range number {
			*of(&c.cards[i]) = number[i]
		}
	}
	for n := range len(card{}.looks) {
		read(fraction)
		for i := range fraction {
			c.cards[i].looks[n] = fraction[i]
		}
	}
	for _, name := range orderNames() {
		c.orders[name] = make([]int32, head.Live)
		read(c.orders[name])
	}
	for _, s := range head.Segments {
		if s.Terms < 0 || s.Bytes < 0 || s.All < 0 || int64(s.Terms)+int64(s.Bytes)+4*int64(s.All) > size || s.From < 0 || s.From > s.To || int(s.To) > head.Cards {
			return nil, errors.New("it is damaged")
		}
		text, ends, all := make([]byte, s.Bytes), make([]uint32, s.Terms), make([]int32, s.All)
		read(text)
		read(ends)
		read(all)
		terms := strings.Split(string(text), "\n")
		if s.Terms == 0 {
			terms = nil
		}
		x, ok := wordindex.Of(terms, ends, all)
		if !ok {
			return nil, errors.New("it is damaged")
		}
		c.words = append(c.words, segment{s.From, s.To, x})
	}
	if err != nil {
		return nil, say.Errorf("the catalogue that was kept: %w", err)
	}
	return c, nil
}

// sound reports whether nothing in the catalogue leads out of it.
func (c *catalogue) sound() bool {
	in := func(places []int32) bool {
		most := uint32(0)
		for _, p := range places {
			most = max(most, uint32(p))
		}
		return len(places) == 0 || most < uint32(len(c.cards)) && most <= math.MaxInt32
	}
	for _, order := range c.orders {
		if !in(order) {
			return false
		}
	}
	for _, s := range c.words {
		if !in(s.All) {
			return false
		}
	}
	for i := range c.cards {
		if int(c.cards[i].kind) >= max(1, len(c.kinds)) {
			return false
		}
	}
	return true
}
