// Package recent remembers what was worked out lately, a bounded number of things,
// and lets that go which was asked for longest ago.
package recent

import "container/list"

// Memory remembers values by keys. Make one with New. It is not safe for use by
// several goroutines.
type Memory[K comparable, V any] struct {
	most  int
	order *list.List // the latest first
	at    map[K]*list.Element
}

type entry[K comparable, V any] struct {
	key   K
	value V
}

// New makes a memory of at most so many things, at least one.
func New[K comparable, V any](most int) *Memory[K, V] {
	return &Memory[K, V]{max(most, 1), list.New(), map[K]*list.Element{}}
}

// Get gives what is remembered of a key.
func (m *Memory[K, V]) Get(key K) (value V, ok bool) {
	e, ok := m.at[key]
	if !ok {
		return value, false
	}
	m.order.MoveToFront(e)
	return e.Value.(entry[K, V]).value, true
}

// Put remembers a value.
func (m *Memory[K, V]) Put(key K, value V) {
	if e, ok := m.at[key]; ok {
		e.Value = entry[K, V]{key, value}
		m.order.MoveToFront(e)
		return
	}
	m.at[key] = m.order.PushFront(entry[K, V]{key, value})
	if m.order.Len() > m.most {
		last := m.order.Back()
		m.order.Remove(last)
		delete(m.at, last.Value.(entry[K, V]).key)
	}
}

// Len is how much is remembered.
func (m *Memory[K, V]) Len() int { return m.order.Len() }
