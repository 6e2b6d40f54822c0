package recent

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A memory holds what a plain list of the latest uses holds.
func TestMemoryIsTheLatest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		most := rapid.IntRange(1, 5).Draw(t, "most")
		m := New[int, int](most)
		var order []int // the latest first
		values := map[int]int{}
		for range rapid.IntRange(0, 40).Draw(t, "uses") {
			key := rapid.IntRange(0, 8).Draw(t, "key")
			known := slices.Contains(order, key)
			if rapid.Bool().Draw(t, "put") {
				values[key] = rapid.Int().Draw(t, "value")
				m.Put(key, values[key])
				order = slices.Insert(slices.DeleteFunc(order, func(k int) bool { return k == key }), 0, key)
				order = order[:min(len(order), most)]
			} else {
				v, ok := m.Get(key)
				require.Equal(t, known, ok)
				if known {
					require.Equal(t, values[key], v)
					order = slices.Insert(slices.DeleteFunc(order, func(k int) bool { return k == key }), 0, key)
				}
			}
			require.Equal(t, len(order), m.Len())
		}
	})
}
