package words

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
)

// under says what stands where a text has a ^ in it.
func under(t require.TestingT, sp Speaker, text string) string {
	before, after, ok := strings.Cut(text, "‸")
	require.True(t, ok, text)
	s := sheet.Parse(before + after)
	line := strings.Count(before, "\n") + 1
	what, where := sp.Spot(s.Song, s.At(line, len([]rune(before[strings.LastIndex(before, "\n")+1:]))+1))
	return strings.TrimSuffix(what+" @ "+where, " @ ")
}

func TestWhatStandsUnderTheCursor(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{"A:\n| ‸0A 3A - 5A |", "The open A string, an A, on 1, for a beat @ Bar 1 of A"},
		{"A:\n| 0A ‸3A - 5A |", "Fret 3 on the A string, a C, on 2, for two beats @ Bar 1 of A"},
		{"A:\n| 0A 3A ‸- 5A |", "It goes on: fret 3 on the A string, a C, two beats in all @ Bar 1 of A"},
		{"A:\n| 0A 3A ‸. 5A |", "Silence, on 3, for a beat @ Bar 1 of A"},
		{"A:\n| 0A 2A 3A 5A ‸6A 5A 3A 2A |", "Fret 6 on the A string, an Eb, on 3, for half a beat @ Bar 1 of A"},
		{"key: E major\nA:\n| ‸6A |", "Fret 6 on the A string, a D#, on 1, for four beats @ Bar 1 of A"},
		{"key: E major\nA:\n| 4E 0E ‸4E+6A 0E |", "Fret 4 on the E string, a G#, and fret 6 on the A string, a D#, on 3, for a beat @ Bar 1 of A"},
		{"A:\n| 1E+3A ‸4E+6A |", "Fret 4 on the E string, a G#, and fret 6 on the A string, a D#, on 3, for two beats @ Bar 1 of A"},
		{"A:\n| 5A ‸h7A |", "Fret 7 on the A string, an E, hammered on, on 3, for two beats @ Bar 1 of A"},
		{"A:\n| 7A ‸p5A |", "Fret 5 on the A string, a D, pulled off to, on 3, for two beats @ Bar 1 of A"},
		{"A:\n| 5A ‸s7A |", "Fret 7 on the A string, an E, slid into from the note before, on 3, for two beats @ Bar 1 of A"},
		{"A:\n| ‸7Gb2 r7G |", "Fret 7 on the G string, bent by a whole step to E, on 1, for two beats @ Bar 1 of A"},
		{"A:\n| ‸7Gb0.5 |", "Fret 7 on the G string, bent by a quarter tone, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| 7Gb2 ‸r7G |", "Fret 7 on the G string, a D, let down from the bend and not picked again, on 3, for two beats @ Bar 1 of A"},
		{"A:\n| ‸/7A\\ |", "Fret 7 on the A string, an E, slid into from below, slid off downwards, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| 5e ‸t12e |", "Fret 12 on the e string, an E, tapped by the picking hand, on 3, for two beats @ Bar 1 of A"},
		{"A:\n| ‸7Eo |", "Fret 7 on the E string, touched as a harmonic that sounds B, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| ‸3A!~ |", "Fret 3 on the A string, a C, accented, with vibrato, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| ‸0E*v |", "The open E string, an E, with a down-stroke, muted by the palm, on 1, for four beats @ Bar 1 of A"},
		{"A:\nmute: palm\n| ‸0E |", "The open E string, an E, muted by the palm, on 1, for four beats @ Bar 1 of A"},
		{"A:\nring: yes\n| ‸0E |", "The open E string, an E, left ringing, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| ‸0E' |", "The open E string, an E, stopped short, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| ‸xA |", "The A string, damped and struck, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| Am ‸x^ |", "A strum over the damped strings of the last shape, with an up-stroke, on 3, for two beats @ Bar 1 of A"},
		{"A:\n| ‸Am7 |", "The chord Am7 (A, C, E and G) in a shape that is left open, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| ‸D/F# |", "The chord D/F# (D, F# and A over F#) in a shape that is left open, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| ‸C5=x355xx |", "The chord C5 (C and G) in a shape that sounds C, G and C, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| ‸NC |", "No chord: silence, and the chord before it is over, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| 0A ‸(3A 5A 7A) |", "Here one slot is shared by three signs, as a triplet @ Bar 1 of A"},
		{"A:\n| 0A 0A 0A (3A ‸5A 7A) |", "Fret 5 on the A string, a D, on the trip of 4, for a third of a beat; three share a slot, as a triplet @ Bar 1 of A"},
		{"A:\n| 0A 0A ‸3A 0A 0A |", "Fret 3 on the A string, a C, after 2, for 4/5 of a beat @ Bar 1 of A"},
		{"A:\n| 0A | ‸% |", "The bar before it once more @ Bar 2 of A"},
		{"A:\n| [2/4] ‸0A | x3", "The open A string, an A, on 1, for two beats @ Bar 1 of A, in 2/4, its line is played three times"},
		{"A:\n| 0A |\nlead | ‸7D |", "Fret 7 on the D string, an A, on 1, for four beats @ Bar 1 of A, lead"},
		{"A:\n| 0A |\nwords | o‸ne |", "What is sung to the line above; / goes on to the next chord or accent @ A"},
		{"capo: 2\nA:\n| ‸3A |", "Fret 3 on the A string, a D, counted from the capo, on 1, for four beats @ Bar 1 of A"},
		{"tuning: drop D\nA:\n| ‸2E |", "Fret 2 on the E string, an E, on 1, for four beats @ Bar 1 of A"},
		{"time: 6/8\nA:\n| 0A - 2A ‸3A - - |", "Fret 3 on the A string, a C, on 2, for a beat @ Bar 1 of A"},
		{"A:\n| 0A ‸99A |", "This is no sign; the problem beside the sheet says how to mend it @ Bar 1 of A"},
		{"A‸:\n| 0A | x3\n| 3A |", "Two bars, 4 with its repeats, played once in the song"},
		{"order: A, A\nA‸:\n| 0A |", "One bar, played twice in the song"},
		{"order: B x3\nA‸:\n| 0A |\nB:\n| 0A |", "One bar; the order leaves the part out"},
		{"ke‸y: A minor", "The key of the song: A B C D E F G"},
		{"A:\nke‸y: D dorian\n| 0A |", "The key of the part: D E F G A B C @ A"},
		{"ti‸me: 6/8", "A bar has two beats, each a dotted quarter"},
		{"ti‸me: 7/8", "A bar has seven beats"},
		{"te‸mpo: 120", "120 quarters a minute: a bar of 4/4 lasts 2.0 seconds"},
		{"time: 6/8\nte‸mpo: 60", "60 dotted quarters a minute: a bar of 6/8 lasts 2.0 seconds"},
		{"fe‸el: swing 60%", "Swing: the first of two eighths takes 60 % of the beat"},
		{"fe‸el: straight", "Straight: the two eighths of a beat are as long as one another"},
		{"tu‸ning: drop D", "The open strings, from the thickest: D A D G B E"},
		{"ca‸po: 3", "Frets are counted from the capo at fret 3; the open strings sound G C F Bb D G"},
		{"ord‸er: A x2, B\nA:\n| 0A | x2\nB:\n| 0A |", "The way through the song: two legs, five bars"},
		{"A:\n| 0A |\nB:\nli‸ke: A", "Has the bars and settings of A; what changes there changes here @ B"},
		{"A:\nmu‸te: palm\n| 0A |", "Every note of the part is muted by the palm, unless it has an accent @ A"},
		{"A:\nplu‸ck: yes\n| 0A |", "Played with the fingers: p i m a are thumb, index, middle and ring finger, by string where none is typed @ A"},
		{"A:\nstr‸um: d d | d u\n| G |", "The chords that are only named are struck so, over two bars that begin anew with each line: d and u are down- and up-strokes, x is a dead one @ A"},
		{"A:\nso‸und: clean\n| G |", "How the guitar sounds in the part, printed with it @ A"},
		{"chor‸ds: numbers", "Chords may be typed as degrees of the key: 1 5 6m 4, or I V vi IV"},
		{"A:\n| ‸3A:2p |", "Fret 3 on the A string, a C, held by the middle finger, plucked by the thumb, on 1, for four beats @ Bar 1 of A"},
		{"A:\n| ‸G=320003:21xxx3 |", "The chord G (G, B and D) in a shape that sounds G, B, D, G, B and G, with the fingers 2-1-3, on 1, for four beats @ Bar 1 of A"},
		{"# a re‸mark", "A remark to yourself; nothing in it is read"},
		{"non‸sense", ""},
		{"te‸mpo: fast", ""},
		{"‸", ""},
	} {
		assert.Equal(t, c.want, under(t, Speaker{}, "title: T\n"+c.text), c.text)
	}
	assert.Equal(t, "The open H string, a B, on 1, for four beats @ Bar 1 of A", under(t, german, "title: T\nA:\n| ‸0B |"))
}

// Whatever stands in a sheet, a bar that could be read says something, with no hole in
// its words, and nothing is said of what is not there.
func TestEverySignIsSaid(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := sheet.Write(sheettest.Song(t))
		s := sheet.Parse(text)
		for i := range s.Lines {
			s.Lines[i].Each(func(_ int, slot *sheet.Slot) {
				what, where := Speaker{}.Spot(s.Song, s.At(i+1, slot.Column))
				require.Regexp(t, `^[A-Z]`, what)
				require.NotRegexp(t, `  |, ,|,$|%!|\b(nil|<)`, what+where)
				require.Regexp(t, `^Bar \d+ of `, where)
			})
		}
	})
}

// What is half typed or broken is told as far as it can be, wherever the cursor stands.
func TestBrokenSheetsAreNoTrouble(t *testing.T) {
	pieces := []string{"title: T\n", "key: E minor\n", "key: ", "A:\n", "B:\n", "like: A\n", "2 | 3A |\n", "| 0A - (3A 5A) . |", "| % |", "| [2/4] ", "lead | 7D |\n", "words | a | b |\n", "x3\n", "(", "99Z ", "\n", "order: A x2\n", "capo: 30\n", "pickup: 1\n", "time: 6/8\n", "Am7 ", "|"}
	rapid.Check(t, func(t *rapid.T) {
		text := strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 1, 14).Draw(t, "pieces"), "")
		s := sheet.Parse(text)
		for i, line := range strings.Split(text, "\n") {
			for column := range len(line) + 3 {
				Speaker{}.Spot(s.Song, s.At(i+1, column))
				s.Offers(i+1, column, line)
			}
		}
	})
}
