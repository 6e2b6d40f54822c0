package sheet

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A song is typed as a teacher would type it.
func TestShorten(t *testing.T) {
	for _, c := range []struct{ name, long, short string }{
		{"a phrase that comes again is written once", "| 0A | 3A | 0A | 3A | 0A | 3A |", "| 0A | 3A | x3"},
		{"with its changed last pass on the next line", "| 0A | 3A | 0A | 3A | 0A | 5A |", "| 0A | 3A | x2\n| 0A | 5A |"},
		{"lines that are the same", "| 0A | 3A | 5A | 7A |\n| 0A | 3A | 5A | 7A |\n", "| 0A | 3A | 5A | 7A | x2"},
		{"a bar that comes again within a phrase is the same", "| 0A | 0A | 3A | 5A |", "| 0A | % | 3A | 5A |"},
		{"one bar throughout", "| 0A | 0A |", "| 0A | x2"},
		{"one bar three times on its way", "| 3A | 0A | 0A | 0A | 5A |", "| 3A |\n| 0A | x3\n| 5A |"},
		{"the longer phrase before the shorter", "| 0A | 0A | 3A | 0A | 0A | 3A |", "| 0A | % | 3A | x2"},
		{"what goes on over the bar is left", "| 0A - | - 3A | 0A - | - 3A |", "| 0A | - 3A | x2"},
		{"a phrase that begins with a held sound is left", "| 0A | - 3A | - 3A | - 3A |", "| 0A | - 3A | - 3A | - 3A |"},
		{"nothing alike in lines of four", "| 0A | 1A | 2A | 3A | 4A | 5A |", "| 0A | 1A | 2A | 3A |\n| 4A | 5A |"},
		{"both players have to come again", "| 0A | 0A |\nlead | 5G | 7G |", "| 0A | % |\nlead | 5G | 7G |"},
		{"a line that is repeated stays", "| 0A | 3A | x2\n| 0A | 3A |", "| 0A | 3A | x2\n| 0A | 3A |"},
		{"words stay with their bars", "| 0A | 0A |\nwords | one | two |", "| 0A | % |\nwords | one | two |"},
	} {
		s := Parse("title: T\n\nA:\n" + c.long)
		require.True(t, s.OK(), "%s: %v", c.name, s.Problems)
		_, body, _ := strings.Cut(Write(Shorten(s.Song)), "A:\n")
		assert.Equal(t, squeezed(c.short), squeezed(body), c.name)
	}
}

// squeezed is a text without the spaces that line bars up.
func squeezed(s string) string {
	lines := strings.Split(strings.TrimSpace(s), "\n")
	for i := range lines {
		lines[i] = strings.Join(strings.Fields(lines[i]), " ")
	}
	return strings.Join(lines, "\n")
}
