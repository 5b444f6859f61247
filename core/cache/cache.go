// Package cache keeps what was worked out, for as long as it is asked for: bounded by bytes
// and by age, and counted.
package cache

import (
	"container/list"
	"sync"
	"time"
)

// Bounds are what a cache keeps at most.
type Bounds struct {
	Bytes int           // of all that is kept, as its makers reckon
	Age   time.Duration // since it was last asked for
}

// Cache is safe for concurrent use. A nil one keeps nothing.
type Cache struct {
	bounds Bounds
	now    func() time.Time

	mu      sync.Mutex
	entries map[any]*list.Element // of *entry
	order   *list.List            // what was asked for last comes first
	counts  Counts
}

// Counts tell how a cache is doing.
type Counts struct {
	Hits, Misses, Dropped int
	Entries, Bytes        int
}

type entry struct {
	key   any
	value any
	bytes int
	asked time.Time
}

// New returns an empty cache.
func New(b Bounds) *Cache {
	return &Cache{bounds: b, now: time.Now, entries: map[any]*list.Element{}, order: list.New()}
}

// Counts returns how it is doing.
func (c *Cache) Counts() Counts {
	if c == nil {
		return Counts{}
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.counts
}

// Made is a value that was worked out.
type Made[V any] struct {
	Value V
	Bytes int  // that it takes, about; never less than its key's
	Brief bool // it is not to be kept
}

// Of returns what is kept under a key if it still holds, or else makes it and keeps it. The
// type of the key is part of it: two packages do not meet. Two who ask at once may both
// make it.
func Of[K comparable, V any](c *Cache, key K, holds func(V) bool, work func() Made[V]) V {
	if c == nil {
		return work().Value
	}
	if v, ok := c.get(key); ok && holds(v.(V)) {
		c.count(true)
		return v.(V)
	}
	c.count(false)
	made := work()
	if !made.Brief {
		c.put(key, made.Value, made.Bytes)
	}
	return made.Value
}

// Always is for what holds as long as its key is the same.
func Always[V any](V) bool { return true }

func (c *Cache) count(hit bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if hit {
		c.counts.Hits++
	} else {
		c.counts.Misses++
	}
}

func (c *Cache) get(key any) (any, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	e, ok := c.entries[key]
	if !ok {
		return nil, false
	}
	e.Value.(*entry).asked = c.now()
	c.order.MoveToFront(e)
	return e.Value.(*entry).value, true
}

// leastBytes is what keeping anything takes.
const leastBytes = 200

func (c *Cache) put(key, value any, bytes int) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if e, ok := c.entries[key]; ok {
		c.drop(e)
	}
	if bytes += leastBytes; bytes > c.bounds.Bytes {
		return
	}
	c.entries[key] = c.order.PushFront(&entry{key, value, bytes, c.now()})
	c.counts.Entries++
	c.counts.Bytes += bytes
	for last := c.order.Back(); last != nil; last = c.order.Back() {
		if c.counts.Bytes <= c.bounds.Bytes && c.now().Sub(last.Value.(*entry).asked) <= c.bounds.Age {
			return
		}
		c.drop(last)
		c.counts.Dropped++
	}
}

func (c *Cache) drop(e *list.Element) {
	of := c.order.Remove(e).(*entry)
	delete(c.entries, of.key)
	c.counts.Entries--
	c.counts.Bytes -= of.bytes
}
