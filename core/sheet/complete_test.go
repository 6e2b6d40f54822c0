package sheet_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
)

// offers lists what may stand where a text has a ‸, with what it would replace.
func offers(t require.TestingT, text string) (word string, list []string) {
	plain, line, column := where(t, text)
	typed := strings.Split(plain, "\n")[line-1]
	o := sheet.Parse(plain).Offers(line, column, typed)
	for _, c := range o.List {
		list = append(list, c.Text)
	}
	if o.From == 0 {
		return "", list
	}
	return string([]rune(typed)[o.From-1 : column-1]), list
}

func TestOffers(t *testing.T) {
	for _, c := range []struct {
		text, word string
		want       []string
	}{
		{"ti‸", "ti", []string{"title: ", "time: "}},
		{"title: T\nti‸", "ti", []string{"time: "}}, // there is a title
		{"title: T\nT‸", "T", []string{"time: ", "tempo: ", "tuning: "}},
		{"title: T\nA:\nt‸", "t", []string{"time: ", "tempo: "}}, // a tuning is the song's
		{"title: T\nA:\ntempo: 90\nt‸", "t", []string{"time: "}},
		{"title: T\nA:\ntempo: 90\n| 0A |\nB:\nt‸", "t", []string{"time: ", "tempo: "}},
		{"title: T\n‸", "", nil}, // nothing is typed
		{"title: T\nte‸mpo: 90", "", nil},
		{"title: T\nte‸ 90", "", nil}, // more stands behind it
		{"title: T\ntempo: ‸", "", nil},
		{"tuning: ‸", "", []string{"standard", "half step down", "whole step down", "drop D", "drop C", "open G", "open D", "open A"}},
		{"tuning: d‸", "d", []string{"drop D", "drop C", "DADGAD"}},
		{"tuning: drop ‸", "drop ", []string{"drop D", "drop C"}},
		{"tuning: drop D‸", "", nil}, // it is whole
		{"TUNING:o‸", "o", []string{"open G", "open D", "open A"}},
		{"key: A‸", "A", []string{"A minor", "Ab minor", "A# minor", "A major", "Ab major", "A dorian", "Ab dorian", "A mixolydian"}},
		{"key: a mi‸", "a mi", []string{"A minor", "A mixolydian"}},
		{"key: F# m‸", "F# m", []string{"F# minor", "F# major", "F# mixolydian"}},
		{"key: ‸", "", []string{"E minor", "A minor", "G major", "C major", "D major", "A major", "E major", "D minor"}},
		{"key: H‸", "", nil},
		{"time: 6‸", "6", []string{"6/8"}},
		{"feel: sw‸", "sw", []string{"swing", "swing 60%"}},
		{"title: T\nA:\nmute: ‸", "", []string{"palm", "none"}},
		{"title: T\nA:\nring: y‸", "y", []string{"yes"}},
		{"order: V‸\nVerse:\n| 0A |\nVamp:\n| 0A |\nEnd:\n| 0A |", "V", []string{"Verse", "Vamp"}},
		{"order: Verse x2, ‸\nVerse:\n| 0A |\nEnd:\n| 0A |", "", []string{"Verse", "End"}},
		{"order: Verse x2, e‸\nVerse:\n| 0A |\nEnd:\n| 0A |", "e", []string{"End"}},
		{"A:\n| 0A |\nB:\nlike: ‸\nC:\n| 0A |", "", []string{"A"}},
		{"order: Verse, Chorus x2\nVerse:\n| 0A |\n\nCh‸", "Ch", []string{"Chorus:"}},
		{"order: Verse, Chorus x2\nVerse:\n| 0A |\n\nVer‸", "", nil},
		{"A:\n| 0A |\nlead | 0A |\n| 0A |\nl‸", "l", []string{"like: ", "lead | "}},
		{"A:\n| 0A |\nw‸", "w", []string{"words | "}},
		{"l‸\nA:\n| 0A |\nlead | 0A |", "", nil}, // no player above the parts
		{"A:\n| Am7 - F - | C/G - Am7 A‸", "A", []string{"Am7"}},
		{"A:\n| Am - Am7 - | Am - A‸ |", "A", []string{"Am", "Am7"}},
		{"A:\n| Am7 - Am - | Am7 - A‸ |", "A", []string{"Am7", "Am"}},
		{"A:\n| C5=x355xx - C‸", "C", []string{"C5=x355xx"}},
		{"A:\n| Am7 - (A‸)", "A", []string{"Am7"}},
		{"A:\n| Am7v Am7^ A‸", "A", []string{"Am7"}},
		{"A:\n| Am7 a‸", "", nil}, // the string a is none; small letters begin no chord
		{"A:\n| Am7 - Am7‸ |", "", nil},
		{"A:\n| Am7 - A‸m |", "", nil}, // within a word
		{"A:\n| Am7 - ‸ |", "", nil},
		{"A:\n| Am7 |\nwords | A‸ |", "", nil},
		{"A:\n| Am |\nB:\n| A‸", "A", []string{"Am"}},
		{"# ti‸", "", nil},
		{"title: T\nnonsense: ‸", "", nil},
	} {
		word, list := offers(t, c.text)
		assert.Equal(t, c.word, word, c.text)
		assert.Equal(t, c.want, list, c.text)
	}
	s := sheet.Parse("title: T")
	for _, at := range [][2]int{{0, 1}, {2, 1}, {1, 0}, {1, 99}, {-1, -1}} {
		assert.Empty(t, s.Offers(at[0], at[1], "title: T").List)
	}
}

// Whatever is offered is read once it stands there: a setting, a value, a name or a chord
// is no mistake.
func TestOffersAreRead(t *testing.T) {
	taken := 0
	rapid.Check(t, func(t *rapid.T) {
		text := sheet.Write(sheettest.Song(t))
		lines := strings.Split(strings.TrimSuffix(text, "\n"), "\n")
		n := rapid.IntRange(1, len(lines)).Draw(t, "line")
		typed := []rune(lines[n-1])
		column := rapid.IntRange(1, len(typed)+1).Draw(t, "column")
		cut := string(typed[:column-1])
		lines[n-1] = cut
		before := sheet.Parse(strings.Join(lines, "\n"))
		o := before.Offers(n, column, cut)
		for _, c := range o.List {
			lines[n-1] = string(typed[:o.From-1]) + c.Text
			after := sheet.Parse(strings.Join(lines, "\n"))
			for _, p := range after.Problems {
				unfinished := p.Line == n && strings.HasSuffix(c.Text, " ") // a value or bars are to follow
				require.False(t, p.Line == n && p.Severity == sheet.Error && !unfinished && before.OK(), "%s: %v", lines[n-1], p)
			}
			taken++
		}
	})
	assert.Positive(t, taken)
}
