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

// Bars that only name chords are those that somebody would have typed stroke by stroke.
func TestStrokePatterns(t *testing.T) {
	for _, c := range []struct{ pattern, typed, means string }{
		{"d - d u - u d u", "| G |", "| Gv - Gv G^ - G^ Gv G^ |"},
		{"D-DU-UDU", "| G |", "| Gv - Gv G^ - G^ Gv G^ |"},
		{"v v ^", "| Em |", "| Emv Emv Em^ |"},
		{"d - d u - u d u", "| G - C - |", "| Gv - Gv G^ - C^ Cv C^ |"},                       // the change waits for a stroke
		{"d - - -", "| G - C D |", "| Gv - C D |"},                                            // or is struck where no stroke comes
		{"d d d d", "| G | - - C - | - |", "| Gv Gv Gv Gv | Gv Gv Cv Cv | Cv Cv Cv Cv |"},     // what goes on is struck again
		{"d d d d | d u d u", "| G | C | D |", "| Gv Gv Gv Gv | Cv C^ Cv C^ | Dv Dv Dv Dv |"}, // bar by bar
		{"d - | d u d", "| G | C |\n| D | G |", "| Gv - | Cv C^ Cv |\n| Dv - | Gv G^ Gv |"},   // and anew with each line
		{"d d d d | d u d u", "| G | % |", "| Gv Gv Gv Gv | Gv G^ Gv G^ |"},                   // % goes on with the next bar's strokes
		{"d d d d", "| G | % | C % |", ""},
		{"d d d d", "| % |", ""}, // the same as no bar at all
		{"d d d d", "| G | % |", "| Gv Gv Gv Gv | % |"},
		{"d d d d", "| G - . - | NC - G - |", "| Gv Gv . - | NC - Gv Gv |"},
		{"- d - d", "| G | C |", "| . Gv - Gv | - Cv - Cv |"}, // nothing sounds before the first stroke
		{"d x u .", "| G |", "| Gv x G^ . |"},
		{"d u d u", "| G=320003* |", "| G=320003*v G=320003*^ G=320003*v G=320003*^ |"},
		{"d - d u", "| [2/4] G | [6/4] C |", "| [2/4] Gv - | [6/4] Cv - Cv C^ Cv - |"},
		{"d d d d", "| G G C - |", "| G G C - |"},
		{"d d d d", "| Gv - - C |", "| Gv - - C |"},
		{"d d d d", "| G - 3A - |", "| G - 3A - |"},
		{"d d d d", "| G! - C - |", "| G! - C - |"},
		{"d d d d", "| 3A - - - | - - - - |", "| 3A - - - | - - - - |"},
		{"d d d d", "| G |\nlead | C |", "| Gv Gv Gv Gv |\nlead | C |"},
		{"d d d d", "| G - - C | - - C - | % |", "| Gv Gv Gv Cv | Cv Cv Cv Cv | % |"},
		{"d d d d", "| G - - - | - - C - | % |", "| Gv Gv Gv Gv | Gv Gv Cv Cv | Cv Cv Cv Cv |"}, // which goes on with another chord
	} {
		got := sheet.Parse("title: T\nA:\nstrum: " + c.pattern + "\n" + c.typed + "\n")
		if c.means == "" {
			assert.False(t, got.OK(), c.typed)
			continue
		}
		require.True(t, got.OK(), "%s: %v", c.typed, got.Problems)
		want := sheet.Parse("title: T\nA:\n" + c.means + "\n")
		require.True(t, want.OK(), "%s: %v", c.means, want.Problems)
		strokes := func(s *sheet.Sheet) string {
			p := &s.Song.Parts[0]
			p.Strum = ""
			return sheet.Write(s.Song)
		}
		written := sheet.Write(got.Song)
		assert.Equal(t, strokes(want), strokes(got), "%s of %s", c.pattern, c.typed)
		assert.Contains(t, got.Format(), c.typed, "what was typed stays")
		assert.Equal(t, written, sheet.Write(sheet.Parse(written).Song))
	}
}

func TestStrokePatternsThatAreNone(t *testing.T) {
	for _, pattern := range []string{"- - -", "d q u", "D DU UDU", "x . x", strings.Repeat("d ", 65), "d/u", "d|d|d|d|d", "d | - -"} {
		s := sheet.Parse("title: T\nA:\nstrum: " + pattern + "\n| G |\n")
		require.Len(t, s.Problems, 1, pattern)
		assert.Equal(t, sheet.Error, s.Problems[0].Severity)
		assert.NotEmpty(t, s.Problems[0].Mend)
		assert.Len(t, s.Song.Parts[0].Lines[0].Bars[0].Events, 1, "the bars are played as they are typed")
	}
}

// Whatever the pattern, a part lasts as long as without it, every chord that is named is
// struck, and writing the song gives the same again.
func TestStrokePatternsLoseNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		pattern := strings.Join(rapid.SliceOfN(rapid.SampledFrom([]string{"d", "u", "-", "x", "."}), 1, 16).Draw(t, "pattern"), " ") + " d"
		var b strings.Builder
		for range rapid.IntRange(1, 6).Draw(t, "bars") {
			b.WriteString("| " + rapid.SampledFrom([]string{"", "", "[2/4] ", "[5/8] "}).Draw(t, "time"))
			b.WriteString(strings.Join(rapid.SliceOfN(rapid.SampledFrom([]string{"G", "C", "Em", "-", ".", "NC", "3A", "Dv", "(G C)", "x"}), 1, 6).Draw(t, "slots"), " ") + " ")
		}
		body := rapid.SampledFrom([]string{"", "pickup: 1\n"}).Draw(t, "pickup") + b.String() + "|\n"
		plain, with := sheettest.Read(t, "A:\n"+body), sheettest.Read(t, "A:\nstrum: "+pattern+"\n"+body)
		for i := range plain.Parts[0].Lines {
			was, is := plain.Parts[0].Lines[i].Bars, with.Parts[0].Lines[i].Bars
			for j := range is {
				end := with.Parts[0].Measure(&is[j]).Lead
				for k, e := range is[j].Events {
					if k == 0 {
						end = e.Start
					}
					require.Equal(t, end, e.Start, "bar %d follows on without gaps", j)
					require.Positive(t, e.Length.Num(), "bar %d", j)
					end = e.Start.Add(e.Length)
				}
				at := 0
				for _, e := range was[j].Events {
					for at < len(is[j].Events) && (is[j].Events[at].Kind != e.Kind || is[j].Events[at].Chord.Symbol != e.Chord.Symbol) {
						at++
					}
					require.Less(t, at, len(is[j].Events), "bar %d has lost %v of %s", j, e.Chord.Symbol, body)
				}
			}
		}
		text := sheet.Write(with)
		require.Equal(t, text, sheet.Write(sheet.Parse(text).Song), body)
	})
}

func TestStrokePatternsThatDoNotFit(t *testing.T) {
	s := sheet.Parse("title: T\nA:\nstrum: " + strings.Repeat("d ", 17) + "\n| C | [5/8] G | C |\n")
	require.Len(t, s.Problems, 1)
	assert.Equal(t, sheet.Warning, s.Problems[0].Severity)
	assert.Equal(t, [2]int{4, 13}, [2]int{s.Problems[0].Line, s.Problems[0].Column})
	bars := s.Song.Parts[0].Lines[0].Bars
	assert.Equal(t, []int{17, 1, 17}, []int{len(bars[0].Events), len(bars[1].Events), len(bars[2].Events)})
}
