package layout

import (
	"errors"
	"slices"
	"strings"

	"ivelt/core/say"
)

// Errors of changes.
var (
	ErrNotThere = errors.New("it is not on a bar")
	ErrStays    = errors.New("it cannot go further")
)

// Spot is a place for an item: on a bar, at one of its three places, among so many there.
type Spot struct {
	Bar  int
	Side Align
	At   int
}

// copied are bars of which each can be changed alone, their items in the order they are shown in.
func copied(bars []Bar) []Bar {
	out := slices.Clone(bars)
	for i := range out {
		out[i].Items = slices.Clone(out[i].Items)
		slices.SortStableFunc(out[i].Items, func(a, b Item) int { return slices.Index(Aligns, a.Side) - slices.Index(Aligns, b.Side) })
	}
	return out
}

// Sorted are bars with their items in the order they are shown in, as [FormatBars] writes them.
func Sorted(bars []Bar) []Bar { return copied(bars) }

func there(bars []Bar, bar, item int) error {
	if bar < 0 || bar >= len(bars) || item < 0 || item >= len(bars[bar].Items) {
		return ErrNotThere
	}
	return nil
}

// spotOf is where an item is.
func spotOf(b Bar, item int) Spot {
	s := Spot{Side: b.Items[item].Side}
	for _, i := range b.Items[:item] {
		if i.Side == s.Side {
			s.At++
		}
	}
	return s
}

// put puts an item at a spot, the end of its place if there are fewer, and tells which of the bar's
// items it is then.
func put(b *Bar, i Item, to Spot) int {
	i.Side = to.Side
	at, seen := 0, 0
	for n, other := range b.Items {
		if side := slices.Index(Aligns, other.Side) - slices.Index(Aligns, to.Side); side < 0 || side == 0 && seen < to.At {
			at = n + 1
			if side == 0 {
				seen++
			}
		}
	}
	b.Items = slices.Insert(b.Items, at, i)
	return at
}

// Move takes an item of a bar to another spot, counted without it. Which of the items it is then is told.
func Move(bars []Bar, bar, item int, to Spot) ([]Bar, int, error) {
	bars = copied(bars)
	if err := there(bars, bar, item); err != nil {
		return nil, 0, err
	}
	if to.Bar < 0 || to.Bar >= len(bars) || !slices.Contains(Aligns, to.Side) || to.At < 0 {
		return nil, 0, ErrNotThere
	}
	i := bars[bar].Items[item]
	bars[bar].Items = slices.Delete(bars[bar].Items, item, item+1)
	return bars, put(&bars[to.Bar], i, to), nil
}

// Step takes an item on by one: "earlier" and "later" on its bar, through its three places, and "next"
// and "previous" to another bar. It tells which item of which bar it is then.
func Step(bars []Bar, bar, item int, by string) (out []Bar, toBar, toItem int, err error) {
	bars = copied(bars)
	if err := there(bars, bar, item); err != nil {
		return nil, 0, 0, err
	}
	at := spotOf(bars[bar], item)
	at.Bar = bar
	side := slices.Index(Aligns, at.Side)
	count := func(s Align) (n int) {
		for _, i := range bars[bar].Items {
			if i.Side == s {
				n++
			}
		}
		return n
	}
	switch by {
	case "earlier":
		switch {
		case at.At > 0:
			at.At--
		case side > 0:
			at.Side = Aligns[side-1]
			at.At = count(at.Side)
		default:
			return nil, 0, 0, ErrStays
		}
	case "later":
		switch {
		case at.At < count(at.Side)-1:
			at.At++
		case side < len(Aligns)-1:
			at.Side, at.At = Aligns[side+1], 0
		default:
			return nil, 0, 0, ErrStays
		}
	case "next", "previous":
		if at.Bar++; by == "previous" {
			at.Bar -= 2
		}
		if at.Bar < 0 || at.Bar >= len(bars) {
			return nil, 0, 0, ErrStays
		}
		at.At = maxItems
	default:
		return nil, 0, 0, say.Errorf("things go earlier, later, next or previous, not %q", by)
	}
	out, toItem, err = Move(bars, bar, item, at)
	return out, at.Bar, toItem, err
}

// Add puts a new item at a spot.
func Add(bars []Bar, kind string, to Spot) ([]Bar, int, error) {
	if _, known := KindOf(kind); !known {
		return nil, 0, say.Errorf("there is no item %q", kind)
	}
	bars = copied(bars)
	if to.Bar < 0 || to.Bar >= len(bars) || !slices.Contains(Aligns, to.Side) {
		return nil, 0, ErrNotThere
	}
	at := put(&bars[to.Bar], Item{Kind: kind}, to)
	return bars, at, nil
}

// Remove takes an item away.
func Remove(bars []Bar, bar, item int) ([]Bar, error) {
	bars = copied(bars)
	if err := there(bars, bar, item); err != nil {
		return nil, err
	}
	bars[bar].Items = slices.Delete(bars[bar].Items, item, item+1)
	return bars, nil
}

// Set gives an option of an item a value, "" takes it away.
func Set(bars []Bar, bar, item int, key, value string) ([]Bar, error) {
	bars = copied(bars)
	if err := there(bars, bar, item); err != nil {
		return nil, err
	}
	i := &bars[bar].Items[item]
	i.Options = slices.DeleteFunc(slices.Clone(i.Options), func(o Option) bool { return o.Key == key })
	if value = strings.TrimSpace(value); value != "" {
		i.Options = append(i.Options, Option{key, value})
	}
	return bars, nil
}
