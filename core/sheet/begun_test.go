package sheet

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// What Enter has begun and nobody has gone on with is nothing; a part's name typed there is
// a part's name.
func TestLinesThatEnterBegan(t *testing.T) {
	for text, want := range map[string][]string{
		"title: T\nA:\n| 0E 3E |\n| ":                               {"A"},
		"title: T\nA:\n| 0E 3E |\n|\n\nB:\n| C |\n|":                {"A", "B"},
		"title: T\nA:\n| 0E 3E |\n| Verse:\n| C |\n":                {"A", "Verse"},
		"title: T\nA:\n| 0E |\nlead | 3e |\nlead | ":                {"A"},
		"title: T\nA:\n| 0E 3E |\n|   Second verse:\n| C | G |\n| ": {"A", "Second verse"},
	} {
		sh := Parse(text)
		assert.Empty(t, sh.Problems, text)
		var names []string
		for i := range sh.Song.Parts {
			names = append(names, sh.Song.Parts[i].Name)
			assert.Positive(t, sh.Song.Parts[i].Written(), text)
		}
		assert.Equal(t, want, names, text)
		again := Parse(sh.Format())
		assert.Empty(t, again.Problems, sh.Format())
		assert.Len(t, again.Song.Parts, len(want))
	}
	for _, text := range []string{"title: T\nA:\n| key:\n| 0E |\n", "title: T\nA:\n| 0E | Verse:\n", "title: T\nA:\n| 3A:\n"} {
		assert.NotEmpty(t, Parse(text).Problems, text)
	}
}
