package musicxml

import (
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/formats/take"
)

// accountOf is what is said of the elements of a measure.
func accountOf(t *testing.T, attributes, inside string) string {
	var problems take.Problems
	_, err := Read([]byte(`<score-partwise><part-list><score-part id="P1"><part-name>G</part-name></score-part></part-list><part id="P1"><measure number="1"><attributes><divisions>1</divisions>`+
		attributes+`</attributes><direction><sound tempo="100"/></direction>`+inside+`</measure></part></score-partwise>`), &problems)
	require.NoError(t, err)
	return problems.String()
}

const plainNote = `<note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration><type>whole</type>`

// What is not taken over is said by its kind, once, with how often; what only looks is not.
func TestAccount(t *testing.T) {
	for inside, want := range map[string]string{
		plainNote + `<stem>up</stem><beam>begin</beam></note>`:                                                               "",
		plainNote + `<notations><ornaments><tremolo>3</tremolo></ornaments></notations></note>`:                              "bar 1: tremolo: left out",
		plainNote + `<notations><ornaments><trill-mark/></ornaments></notations></note>`:                                     "bar 1: trills and turns: left out",
		strings.Repeat(plainNote+`<notations><arpeggiate/></notations></note>`, 3):                                           "bar 1 and 2 places more: rolled chords, which are struck at once: left out",
		`<direction><direction-type><dynamics><ff/></dynamics></direction-type></direction>` + plainNote + `</note>`:         "bar 1: how loud it is: left out",
		plainNote + `<notations><technical><never-heard-of/></technical></notations></note>`:                                 `what is called "never-heard-of" there: left out`,
		strings.Replace(plainNote, "</step>", "</step><alter>0.5</alter>", 1) + `</note>`:                                    "a note between two frets (a quarter tone)",
		`<direction><direction-type><words>with a bowl of soup</words></direction-type></direction>` + plainNote + `</note>`: "what stands above the staff is left out: with a bowl of soup",
		`<direction><direction-type><words>Medium Swing</words></direction-type></direction>` + plainNote + `</note>`:        "",
	} {
		if said := accountOf(t, "", inside); want == "" {
			assert.Empty(t, said, inside)
		} else {
			assert.Contains(t, said, want, inside)
		}
	}
}

// Every element that is read has its place in the account.
func TestAccountIsWhole(t *testing.T) {
	seen := map[reflect.Type]bool{}
	var look func(reflect.Type)
	look = func(of reflect.Type) {
		for of.Kind() == reflect.Pointer || of.Kind() == reflect.Slice {
			of = of.Elem()
		}
		if of.Kind() != reflect.Struct || seen[of] {
			return
		}
		seen[of] = true
		for i := range of.NumField() {
			f := of.Field(i)
			name, options, _ := strings.Cut(f.Tag.Get("xml"), ",")
			if !strings.Contains(options, "attr") && !strings.Contains(options, "chardata") {
				for _, n := range strings.Split(name, ">") {
					assert.True(t, n == "" || n == "-" || taken[n] || ofPage[n] || lost[n] != "", "%s of %s", n, of)
				}
			}
			look(f.Type)
		}
	}
	look(reflect.TypeFor[scorePartwise]())
	for name, create := range elements {
		assert.True(t, taken[name] || ofPage[name], name)
		look(reflect.TypeOf(create()))
	}
	for name := range lost {
		assert.False(t, taken[name] || ofPage[name], name)
	}
}

// In slash notation the chords are struck by their names, beat by beat or as the slashes stand; a
// part that is written for a player of another key has the key that sounds.
func TestSlashes(t *testing.T) {
	chord := func(step string) string {
		return `<harmony><root><root-step>` + step + `</root-step></root><kind>major</kind></harmony>`
	}
	rest := `<note><rest/><duration>4</duration></note>`
	strikes := func(attributes, inside string) (list []string, score *take.Score) {
		var problems take.Problems
		score, err := Read([]byte(`<score-partwise><part-list><score-part id="P1"><part-name>G</part-name></score-part></part-list><part id="P1"><measure number="1"><attributes><divisions>1</divisions><key><fifths>2</fifths></key>`+
			attributes+`</attributes>`+inside+`</measure></part></score-partwise>`), &problems)
		require.NoError(t, err)
		for _, c := range score.Players[0].Chords {
			list = append(list, c.Start.String()+" "+c.Symbol)
		}
		return list, score
	}
	list, score := strikes(`<measure-style><slash type="start"/></measure-style>`, chord("C")+rest)
	assert.ElementsMatch(t, []string{"0 C", "1/4 C", "1/2 C", "3/4 C"}, list)
	assert.True(t, score.Players[0].Strums[0])
	slash := `<note><unpitched/><duration>2</duration><notehead>slash</notehead></note>`
	list, _ = strikes(`<clef><sign>G</sign></clef>`, chord("G")+slash+strings.Replace(slash, "<unpitched/>", "<pitch><step>B</step><octave>4</octave></pitch>", 1))
	assert.Equal(t, []string{"0 G", "1/2 G"}, list)
	_, score = strikes(`<transpose><chromatic>-2</chromatic></transpose>`, plainNote+"</note>")
	assert.Equal(t, "C major", score.Bars[0].Key.String())
	_, score = strikes(`<transpose><chromatic>0</chromatic><octave-change>-1</octave-change></transpose>`, plainNote+"</note>")
	assert.Equal(t, "D major", score.Bars[0].Key.String())
}

// A title that stands on the page alone is the song's, and who wrote it.
func TestTitleOfThePage(t *testing.T) {
	var problems take.Problems
	score, err := Read([]byte(`<score-partwise><credit page="1"><credit-type>title</credit-type><credit-words>Low</credit-words><credit-words>Barn</credit-words></credit>
		<credit page="1"><credit-type>composer</credit-type><credit-words>Nobody</credit-words></credit><credit page="1"><credit-words>Page 1</credit-words></credit>
		<part-list><score-part id="P1"><part-name>G</part-name></score-part></part-list><part id="P1"><measure number="1">`+plainNote+`</note></measure></part></score-partwise>`), &problems)
	require.NoError(t, err)
	assert.Equal(t, "Low Barn", score.Title)
	assert.Equal(t, "Nobody", score.By)
}

// Fingers that stand at notes without a place on the neck are not taken, and that is said.
func TestFingersWithoutFrets(t *testing.T) {
	said := accountOf(t, "", plainNote+`<notations><technical><fingering>2</fingering></technical></notations></note>`)
	assert.Contains(t, said, "fingers are left out")
}
