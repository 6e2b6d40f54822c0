package tab

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet"
	"valleyside/formats/formtest"
)

// Holds and rests in bars of other times: what sounds, and how long, comes back.
func TestHoldsInOtherTimes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var b strings.Builder
		fmt.Fprintf(&b, "title: T\ntime: %s\nA:\n", rapid.SampledFrom([]string{"4/4", "3/4", "6/8", "5/8"}).Draw(t, "time"))
		for range rapid.IntRange(1, 3).Draw(t, "lines") {
			for range rapid.IntRange(1, 3).Draw(t, "bars") {
				b.WriteString("| ")
				if m := rapid.SampledFrom([]string{"", "[2/4] ", "[3/8] ", "[5/8] ", "[7/8] ", "[4/4] ", "[1/4] "}).Draw(t, "own"); m != "" {
					b.WriteString(m)
				}
				b.WriteString(strings.Join(rapid.SliceOfN(rapid.SampledFrom([]string{"-", ".", "0E", "3A", "x", "(. -)", "(- 2D)", "NC"}), 1, 6).Draw(t, "slots"), " ") + " ")
			}
			b.WriteString("|\n")
		}
		sh := sheet.Parse(b.String())
		if !sh.OK() {
			t.Skip(b.String())
		}
		got, text := again(t, sh.Song)
		require.Equal(t, formtest.Strikes(sh.Song), formtest.Strikes(got), "%s\n%s\nread as\n%s", b.String(), text, sheet.Write(got))
	})
}

// A line that is repeated and begins with a hold goes on from its own end, although nothing
// sounds the first time through: the bar before it, of another time, is silent.
func TestHoldsAfterARestGoOnTheSecondTime(t *testing.T) {
	for _, text := range []string{
		"title: T\ntime: 7/8\nA:\n     | 3A 0A | x2\nlead | . h7D | x2\n     | [5/8] 5D |\n     | 0A x | x3\nlead | - h7D x 7D | x3\n",
		"title: T\ntime: 4/4\nA:\n| 0A . |\n| - - 3A | x2\n",
		"title: T\ntime: 4/4\nA:\n| [3/8] 0A . |\n| - 3A | - h5A | x3\n",
	} {
		sh := sheet.Parse(text)
		require.True(t, sh.OK(), "%v", sh.Problems)
		got, written := again(t, sh.Song)
		require.Equal(t, formtest.Strikes(sh.Song), formtest.Strikes(got), "%s\n%s\nread as\n%s", text, written, sheet.Write(got))
	}
}

// So does one whose hold ends in a rest before anything else is played: what comes then
// comes out of silence, the second time as well.
func TestHoldsThatEndBeforeTheNextSound(t *testing.T) {
	for _, bar := range []string{"| - . h7D 5D - - - - | x3", "| - - . - h7D 5D - - | x2", "| - . - - - - - - |\n| - - h7D 5D - - - - | x3"} {
		s := sheet.Parse("title: T\nA:\n| 5A . |\n" + bar + "\n")
		require.Empty(t, s.Problems, bar)
		got, text := again(t, s.Song)
		require.Equal(t, formtest.Strikes(s.Song), formtest.Strikes(got), "%s\nread as\n%s", text, sheet.Write(got))
	}
}

// A second player who says that they fall silent, in a part where they play nothing, is
// silent in what follows, where the first sound is hammered out of nothing; one who has no
// line there rings on.
func TestSilenceOfASecondPlayer(t *testing.T) {
	for _, silence := range []string{"lead | .  |\n", ""} {
		s := sheet.Parse("title: T\nA:\n     | 3A - |\nlead | 5D - |\n\nB:\n     | 0A |\n     | 3A |\n" + silence + "\nC:\n     | 0A -  |\nlead | h7D - |\n")
		require.Empty(t, s.Problems)
		got, text := again(t, s.Song)
		require.Equal(t, formtest.Strikes(s.Song), formtest.Strikes(got), "%s\nread as\n%s", text, sheet.Write(got))
		require.Equal(t, silence == "", strings.Contains(fmt.Sprint(formtest.Strikes(got)), "hammered"))
	}
}
