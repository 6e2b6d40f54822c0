package musicxml

import (
	"encoding/xml"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"valleyside/formats/take"
)

// Every kind of element of a score is in one of these tables, or is said by its name: that all of it
// could be taken over is a fact.

// taken are the elements that are read: what they say is in the song, or is said where it is not.
var taken = words(`accent actual-notes alter articulations attributes backup bar-style barline bass bass-alter bass-step beat-type beat-unit
	beat-unit-dot beats bend bend-alter capo chord chromatic clef coda creator credit credit-type credit-words degree degree-alter degree-type degree-value diatonic direction direction-type
	divisions doit dot down-bow duration encoding ending falloff fifths fine fingering first first-fret forward frame frame-frets frame-note frame-strings fret glissando grace
	hammer-on harmonic harmony identification instrument-name key kind line lyric measure measure-repeat measure-style metronome midi-channel midi-instrument
	midi-program miscellaneous miscellaneous-field mode movement-title mute natural normal-dot normal-notes normal-type notations note notehead octave octave-change offset
	ornaments part part-list part-name per-minute pitch play plop pluck pull-off rehearsal release repeat rest root root-alter root-step scoop score-instrument score-part
	score-partwise second segno sign slash slash-type slide software sound sounding-pitch base-pitch touching-pitch staccatissimo staccato staff staff-details staff-lines staff-tuning staves step
	straight string strong-accent swing swing-style swing-type syllabic tap technical text tie tied time time-modification transpose tuning-alter tuning-octave tuning-step
	unpitched up-bow wavy-line words work work-title display-step display-octave elision extend`)

// ofPage are the elements that say how a page looks, who holds its rights, or how it was made:
// nothing of the music. What stands in them is not looked at.
var ofPage = words(`accidental beam bookmark concert-score credit-image credit-symbol defaults display-text accidental-text encoding-date encoder encoding-description end-line end-paragraph
	footnote for-part group-abbreviation group-abbreviation-display group-barline group-name group-name-display group-symbol group-time image instrument instrument-abbreviation
	instrument-change instrument-link instrument-sound interchangeable key-octave level link listen listening measure-numbering movement-number notehead-text octave-shift opus part-abbreviation
	part-abbreviation-display part-clef part-group part-link part-name-display part-symbol part-transpose player print relation rights show-frets slur solo
	source staff-divide staff-size staff-type stem string-mute supports symbol tuplet type virtual-instrument voice work-number bracket dashes grouping
	midi-device midi-name midi-bank midi-unpitched volume pan elevation clef-octave-change function numeral ensemble`)

// lost are the elements that are not taken over, by what a player calls them.
var lost = map[string]string{
	"tremolo": "tremolo", "trill-mark": "trills and turns", "turn": "trills and turns", "delayed-turn": "trills and turns", "inverted-turn": "trills and turns",
	"delayed-inverted-turn": "trills and turns", "vertical-turn": "trills and turns", "inverted-vertical-turn": "trills and turns", "shake": "trills and turns",
	"mordent": "trills and turns", "inverted-mordent": "trills and turns", "haydn": "trills and turns", "schleifer": "trills and turns",
	"arpeggiate": "rolled chords, which are struck at once", "non-arpeggiate": "rolled chords, which are struck at once",
	"fermata": "fermatas, which are held as long as they are written", "breath-mark": "breaths and breaks", "caesura": "breaths and breaks",
	"dynamics": "how loud it is", "wedge": "how loud it is", "pedal": "the pedal", "damp": "when strings are damped", "damp-all": "when strings are damped",
	"tenuto": "notes that are held or leant on", "detached-legato": "notes that are held or leant on", "stress": "notes that are held or leant on", "unstress": "notes that are held or leant on",
	"soft-accent": "notes that are held or leant on", "spiccato": "notes that are held or leant on", "open-string": "signs for open strings", "thumb-position": "signs for the thumb", "golpe": "blows on the body",
	"open": "how notes are stopped", "stopped": "how notes are stopped", "snap-pizzicato": "how notes are stopped", "with-bar": "the bar of the bridge", "brass-bend": "bends of other instruments",
	"key-step": "keys of their own kind", "key-alter": "keys of their own kind", "senza-misura": "bars without a time", "scordatura": "a tuning for some bars", "figured-bass": "figured bass",
	"metronome-note": "metric modulations", "feature": "features", "percussion": "percussion", "accordion-registration": "registers", "harp-pedals": "pedals of a harp", "eyeglasses": "signs of an orchestra",
	"artificial": "harmonics that are not over a fret of their own, which are played as plain notes", "pre-bend": "bends before the stroke, which come after it",
	"cue": "small notes that only show what others play", "double": "octaves that double a part", "inversion": "inversions of chords without a bass", "humming": "what is hummed", "laughing": "what is hummed",
	"beat-repeat": "beats that are repeated", "accidental-mark": "accidentals of ornaments",
}

func words(text string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(text) {
		m[w] = true
	}
	return m
}

// accounted hands on the tokens of a file, and counts the elements that are not taken over.
type accounted struct {
	*xml.Decoder
	measure int            // that is read, from 1
	skip    int            // how many elements deep in what is not looked at
	count   map[string]int // by what they are called
	first   map[string]int // the measure of the first
}

// Token is the next token.
func (a *accounted) Token() (xml.Token, error) {
	t, err := a.Decoder.Token()
	switch t := t.(type) {
	case xml.StartElement:
		a.start(t.Name.Local)
	case xml.EndElement:
		a.skip = max(a.skip-1, 0)
	}
	return t, err
}

func (a *accounted) start(name string) {
	if a.skip > 0 {
		a.skip++
		return
	}
	switch {
	case name == "part":
		a.measure = 0
	case name == "measure":
		a.measure++
	}
	if taken[name] {
		return
	}
	a.skip = 1
	if ofPage[name] {
		return
	}
	what, known := lost[name]
	if !known {
		what = "what is called " + strconv.Quote(short(name)) + " there"
	}
	if a.count[what]++; a.first[what] == 0 {
		a.first[what] = a.measure
	}
}

const longestName = 40

func short(name string) string { return name[:min(len(name), longestName)] }

// say lists what was not taken over, each kind once.
func (a *accounted) say(problems *take.Problems) {
	for _, what := range slices.Sorted(maps.Keys(a.count)) {
		where := ""
		if bar := a.first[what]; bar > 0 {
			where = fmt.Sprintf("bar %d", bar)
		}
		if n := a.count[what]; n > 1 {
			where = strings.TrimPrefix(fmt.Sprintf("%s and %s more", where, places(n-1)), " and ")
		}
		problems.Say(where, "", "%s: left out", what)
	}
}

func places(n int) string {
	if n == 1 {
		return "one place"
	}
	return strconv.Itoa(n) + " places"
}
