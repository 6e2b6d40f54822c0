package sheet

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The tree has a line for each line of the text, and says where every slot stands.
func TestTree(t *testing.T) {
	const text = `title: T
# a remark

Verse:
mute: palm
| 0A - (3A 5Av) . | [2/4] Am7 x | x2
lead | 7G - - - | % |
words | one | two |
nonsense here
`
	s := Parse(text)
	lines := strings.Split(strings.TrimSuffix(text, "\n"), "\n")
	require.Len(t, s.Lines, len(lines))
	kinds := []LineKind{Setting, Comment, Blank, PartName, Setting, Music, Music, Music, AsTyped}
	for i, want := range kinds {
		assert.Equal(t, want, s.Lines[i].Kind, lines[i])
	}
	assert.Equal(t, "Verse", s.Lines[3].Text)
	assert.Equal(t, 2, s.Lines[5].Times)
	assert.Equal(t, "2/4", s.Lines[5].Bars[1].Meter.String())
	assert.Equal(t, "lead", s.Lines[6].Player)
	assert.True(t, s.Lines[6].Bars[1].Same)
	assert.Equal(t, []string{"one", "two"}, s.Lines[7].Words)
	var got []string
	s.Lines[5].Each(func(bar int, slot *Slot) {
		word, _, _ := strings.Cut(lines[5][slot.Column-1:], " ")
		got = append(got, fmt.Sprintf("%d %s", bar, strings.TrimSuffix(word, ")")))
	})
	assert.Equal(t, []string{"0 0A", "0 -", "0 3A", "0 5Av", "0 .", "1 Am7", "1 x"}, got)
}

// The bars of a part that is like another are counted once, those that it replaces too.
func TestLikeCountsItsBarsOnce(t *testing.T) {
	full := "title: T\nA:\n" + strings.Repeat("| 0A | 1A | 2A | 3A |\n", MaxBars/8) + "B:\nlike: A\n2 | 5A | 7A |\n"
	s := Parse(full)
	assert.True(t, s.OK(), "%v", s.Problems)
	assert.Equal(t, MaxBars/2, s.Song.Parts[1].Written())
	assert.False(t, Parse(full+"C:\n| 0A |\n").OK(), "one more is too many")
}
