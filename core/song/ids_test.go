package song_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet"
	"valleyside/core/song"
)

// saved are the sheets of a song, one saved after the other, with what their parts are
// known by.
func saved(texts ...string) (list []*song.Song) {
	var was *song.Song
	next := song.PartID(0)
	for _, text := range texts {
		is := sheet.Parse("title: T\n" + text).Song
		var ids []song.Identity
		ids, _, next = song.Identify(was, is, next)
		was = is.WithIDs(ids)
		list = append(list, was)
	}
	return list
}

// knownBy writes a song as its parts and what they and their bars are known by.
func knownBy(s *song.Song) string {
	var list []string
	for i := range s.Parts {
		list = append(list, fmt.Sprintf("%s %d %v", s.Parts[i].Name, s.PartID(i), s.Parts[i].Identity.Bars))
	}
	return strings.Join(list, ", ")
}

func TestWhatPartsAreKnownBy(t *testing.T) {
	const four = "| 0A | 3A | 5A | 7A |\n"
	for _, c := range []struct {
		name  string
		texts []string
		want  string
	}{
		{"the first save", []string{"A:\n" + four + "B:\n| C |\n"}, "A 1 [1 2 3 4], B 2 [1]"},
		{"a fifth bar", []string{"A:\n" + four, "A:\n| 0A | 3A | 5A | 7A | 8A |\n"}, "A 1 [1 2 3 4 5]"},
		{"a bar before them", []string{"A:\n" + four, "A:\n| 8A | 0A | 3A | 5A | 7A |\n"}, "A 1 [5 1 2 3 4]"},
		{"a bar that is changed", []string{"A:\n" + four, "A:\n| 0A | 3A | 6A | 7A |\n"}, "A 1 [1 2 3 4]"},
		{"a bar out, another in: no number twice", []string{"A:\n" + four, "A:\n| 0A | 3A | 5A |\n", "A:\n| 0A | 3A | 5A | 9A |\n"}, "A 1 [1 2 3 5]"},
		{"another name", []string{"A:\n" + four + "B:\n| C |\n", "Walk:\n" + four + "B:\n| C |\n"}, "Walk 1 [1 2 3 4], B 2 [1]"},
		{"two names one after the other, and other bars", []string{"A:\n" + four, "Walk:\n" + four, "Walk:\n| E | F |\n", "Stroll:\n| E | F |\n"}, "Stroll 1 [1 2]"},
		{"another order", []string{"A:\n" + four + "B:\n| C |\n", "B:\n| C |\nA:\n" + four}, "B 2 [1], A 1 [1 2 3 4]"},
		{"a part out, another in", []string{"A:\n" + four + "B:\n| C |\n", "A:\n" + four, "A:\n" + four + "C:\n| G | D |\n"}, "A 1 [1 2 3 4], C 3 [1 2]"},
		{"cut in two", []string{"A:\n" + four, "Up:\n| 0A | 3A | 5A |\nDown:\n| 7A |\n"}, "Up 1 [1 2 3], Down 2 [1]"},
	} {
		list := saved(c.texts...)
		assert.Equal(t, c.want, knownBy(list[len(list)-1]), c.name)
	}
}

// Whatever is typed from one save to the next: no number stands twice, none comes back for
// something else, and what is left as it was keeps its own.
func TestNumbersStay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		bar := func() string {
			return fmt.Sprintf("%dA %dE", rapid.IntRange(0, 20).Draw(t, "fret"), rapid.IntRange(0, 20).Draw(t, "second"))
		}
		bars := []string{bar(), bar(), bar()}
		text := func() string { return "A:\n| " + strings.Join(bars, " | ") + " |\n" }
		texts := []string{text()}
		for range rapid.IntRange(1, 6).Draw(t, "saves") {
			at := rapid.IntRange(0, len(bars)-1).Draw(t, "at")
			switch {
			case rapid.Bool().Draw(t, "put in"):
				bars = slices.Insert(slices.Clone(bars), at, bar())
			case len(bars) > 1:
				bars = slices.Delete(slices.Clone(bars), at, at+1)
			}
			texts = append(texts, text())
		}
		gone := map[int]bool{}
		var last []int
		for _, s := range saved(texts...) {
			ids := s.Parts[0].Identity.Bars
			require.Equal(t, song.PartID(1), s.PartID(0))
			sorted := slices.Sorted(slices.Values(ids))
			require.Equal(t, slices.Compact(slices.Clone(sorted)), sorted, "each once")
			for _, id := range ids {
				require.False(t, gone[id], "%d is not given again", id)
			}
			for _, id := range last {
				gone[id] = gone[id] || !slices.Contains(ids, id)
			}
			if last != nil {
				kept := slices.DeleteFunc(slices.Clone(last), func(id int) bool { return !slices.Contains(ids, id) })
				require.GreaterOrEqual(t, len(kept), min(len(last), len(ids)), "one bar came or went, the others stay")
			}
			last = ids
		}
	})
}
