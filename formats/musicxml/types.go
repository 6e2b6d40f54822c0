// Package musicxml writes songs as MusicXML 4.0 and reads partwise scores: a staff of
// tablature for each player, with chord names and diagrams, fingers, strokes and
// techniques, repeats, tuning and words. (W3C Music Notation Community Group, MusicXML
// 4.0, the final report of June 2021.)
package musicxml

import (
	"encoding/xml"
)

// The types hold the elements that are written or read, in the order of the schema; what
// is read beside them is passed over.

type scorePartwise struct {
	XMLName        xml.Name        `xml:"score-partwise"`
	Version        string          `xml:"version,attr,omitempty"`
	Work           *work           `xml:"work"`
	MovementTitle  string          `xml:"movement-title,omitempty"`
	Identification *identification `xml:"identification"`
	Credits        []credit        `xml:"credit"`
	PartList       partList        `xml:"part-list"`
	Parts          []part          `xml:"part"`
}

// credit is what is printed on a page.
type credit struct {
	Type  string   `xml:"credit-type"`
	Words []string `xml:"credit-words"`
}

type work struct {
	Title string `xml:"work-title,omitempty"`
}

type identification struct {
	Creators []typedText `xml:"creator"`
	Encoding *encoding   `xml:"encoding"`
	Fields   []field     `xml:"miscellaneous>miscellaneous-field"`
}

type typedText struct {
	Type string `xml:"type,attr,omitempty"`
	Text string `xml:",chardata"`
}

type encoding struct {
	Software []string   `xml:"software"`
	Supports []supports `xml:"supports"`
}

type supports struct {
	Element   string `xml:"element,attr"`
	Type      string `xml:"type,attr"`
	Attribute string `xml:"attribute,attr,omitempty"`
	Value     string `xml:"value,attr,omitempty"`
}

type field struct {
	Name string `xml:"name,attr"`
	Text string `xml:",chardata"`
}

type partList struct {
	Parts []scorePart `xml:"score-part"`
}

type scorePart struct {
	ID         string           `xml:"id,attr"`
	Name       string           `xml:"part-name"`
	Instrument *scoreInstrument `xml:"score-instrument"`
	MIDI       *midiInstrument  `xml:"midi-instrument"`
}

type scoreInstrument struct {
	ID   string `xml:"id,attr"`
	Name string `xml:"instrument-name"`
}

type midiInstrument struct {
	ID      string `xml:"id,attr"`
	Channel int    `xml:"midi-channel,omitempty"`
	Program int    `xml:"midi-program,omitempty"`
}

type part struct {
	ID       string    `xml:"id,attr"`
	Measures []measure `xml:"measure"`
}

// measure holds its elements in their order, each a pointer to one of the types below.
type measure struct {
	Number   string `xml:"number,attr"`
	Implicit string `xml:"implicit,attr,omitempty"`
	Elements []any
}

type printing struct {
	XMLName   xml.Name `xml:"print"`
	NewSystem string   `xml:"new-system,attr,omitempty"`
	NewPage   string   `xml:"new-page,attr,omitempty"`
}

type attributes struct {
	XMLName   xml.Name       `xml:"attributes"`
	Divisions string         `xml:"divisions,omitempty"`
	Keys      []key          `xml:"key"`
	Times     []timeSign     `xml:"time"`
	Staves    int            `xml:"staves,omitempty"`
	Clefs     []clef         `xml:"clef"`
	Staff     []staffDetails `xml:"staff-details"`
	Transpose []transpose    `xml:"transpose"`
	Styles    []measureStyle `xml:"measure-style"`
}

type key struct {
	Fifths *int   `xml:"fifths"`
	Mode   string `xml:"mode,omitempty"`
}

type timeSign struct {
	Beats    []string `xml:"beats"`
	BeatType []string `xml:"beat-type"`
}

type clef struct {
	Number       int    `xml:"number,attr,omitempty"`
	Sign         string `xml:"sign"`
	Line         int    `xml:"line,omitempty"`
	OctaveChange int    `xml:"clef-octave-change,omitempty"`
}

type staffDetails struct {
	Number int           `xml:"number,attr,omitempty"`
	Lines  int           `xml:"staff-lines,omitempty"`
	Tuning []staffTuning `xml:"staff-tuning"`
	Capo   int           `xml:"capo,omitempty"`
}

type staffTuning struct {
	Line   int    `xml:"line,attr"`
	Step   string `xml:"tuning-step"`
	Alter  string `xml:"tuning-alter,omitempty"`
	Octave int    `xml:"tuning-octave"`
}

type transpose struct {
	Chromatic    string `xml:"chromatic"`
	OctaveChange int    `xml:"octave-change,omitempty"`
}

type measureStyle struct {
	Repeat *measureRepeat `xml:"measure-repeat"`
	Slash  *slashStyle    `xml:"slash"`
}

type slashStyle struct {
	Type string `xml:"type,attr"`
}

type measureRepeat struct {
	Type  string `xml:"type,attr"`
	Count string `xml:",chardata"`
}

type direction struct {
	XMLName   xml.Name        `xml:"direction"`
	Placement string          `xml:"placement,attr,omitempty"`
	Types     []directionType `xml:"direction-type"`
	Offset    string          `xml:"offset,omitempty"`
	Staff     int             `xml:"staff,omitempty"`
	Sound     *sound          `xml:"sound"`
}

type directionType struct {
	Rehearsal []string   `xml:"rehearsal"`
	Segno     *empty     `xml:"segno"`
	Coda      *empty     `xml:"coda"`
	Words     []string   `xml:"words"`
	Metronome *metronome `xml:"metronome"`
}

type empty struct{}

type metronome struct {
	Unit   string  `xml:"beat-unit"`
	Dots   []empty `xml:"beat-unit-dot"`
	Minute string  `xml:"per-minute"`
}

type sound struct {
	XMLName  xml.Name `xml:"sound"`
	Tempo    string   `xml:"tempo,attr,omitempty"`
	DaCapo   string   `xml:"dacapo,attr,omitempty"`
	Segno    string   `xml:"segno,attr,omitempty"`
	DalSegno string   `xml:"dalsegno,attr,omitempty"`
	Coda     string   `xml:"coda,attr,omitempty"`
	ToCoda   string   `xml:"tocoda,attr,omitempty"`
	Fine     string   `xml:"fine,attr,omitempty"`
	Swing    *swing   `xml:"swing"`
}

type swing struct {
	Straight *empty `xml:"straight"`
	First    int    `xml:"first,omitempty"`
	Second   int    `xml:"second,omitempty"`
	Type     string `xml:"swing-type,omitempty"`
}

type harmony struct {
	XMLName xml.Name `xml:"harmony"`
	// Type is "explicit" where the teacher gave the shape of the chord, in files of this
	// program.
	Type    string   `xml:"type,attr,omitempty"`
	Root    *root    `xml:"root"`
	Kind    kind     `xml:"kind"`
	Bass    *bass    `xml:"bass"`
	Degrees []degree `xml:"degree"`
	Frame   *frame   `xml:"frame"`
	Offset  string   `xml:"offset,omitempty"`
	Staff   int      `xml:"staff,omitempty"`
}

type root struct {
	Step  rootStep `xml:"root-step"`
	Alter string   `xml:"root-alter,omitempty"`
}

type rootStep struct {
	Text *string `xml:"text,attr"`
	Step string  `xml:",chardata"`
}

type kind struct {
	Text *string `xml:"text,attr"`
	Kind string  `xml:",chardata"`
}

type bass struct {
	Step  string `xml:"bass-step"`
	Alter string `xml:"bass-alter,omitempty"`
}

type degree struct {
	Value int    `xml:"degree-value"`
	Alter string `xml:"degree-alter"`
	Type  string `xml:"degree-type"`
}

type frame struct {
	Strings int         `xml:"frame-strings"`
	Frets   int         `xml:"frame-frets"`
	First   int         `xml:"first-fret,omitempty"`
	Notes   []frameNote `xml:"frame-note"`
}

type frameNote struct {
	String    int    `xml:"string"`
	Fret      int    `xml:"fret"`
	Fingering string `xml:"fingering,omitempty"`
}

type note struct {
	XMLName   xml.Name    `xml:"note"`
	Grace     *empty      `xml:"grace"`
	Cue       *empty      `xml:"cue"`
	Chord     *empty      `xml:"chord"`
	Pitch     *pitched    `xml:"pitch"`
	Unpitched *empty      `xml:"unpitched"`
	Rest      *rest       `xml:"rest"`
	Duration  string      `xml:"duration,omitempty"`
	Ties      []tie       `xml:"tie"`
	Voice     string      `xml:"voice,omitempty"`
	Type      string      `xml:"type,omitempty"`
	Dots      []empty     `xml:"dot"`
	TimeMod   *timeMod    `xml:"time-modification"`
	Notehead  *notehead   `xml:"notehead"`
	Staff     int         `xml:"staff,omitempty"`
	Notations []notations `xml:"notations"`
	Lyrics    []lyric     `xml:"lyric"`
	Play      *playing    `xml:"play"`
}

type rest struct {
	Measure string `xml:"measure,attr,omitempty"`
}

type pitched struct {
	Step   string `xml:"step"`
	Alter  string `xml:"alter,omitempty"`
	Octave int    `xml:"octave"`
}

type tie struct {
	Type string `xml:"type,attr"`
}

type timeMod struct {
	Actual int64 `xml:"actual-notes"`
	Normal int64 `xml:"normal-notes"`
}

type notations struct {
	Tied          []tie          `xml:"tied"`
	Tuplets       []tuplet       `xml:"tuplet"`
	Slides        []slide        `xml:"slide"`
	Glissandos    []slide        `xml:"glissando"`
	Ornaments     *ornaments     `xml:"ornaments"`
	Technical     *technical     `xml:"technical"`
	Articulations *articulations `xml:"articulations"`
}

type tuplet struct {
	Type   string `xml:"type,attr"`
	Number int    `xml:"number,attr,omitempty"`
}

type slide struct {
	Type string `xml:"type,attr"`
	Line string `xml:"line-type,attr,omitempty"`
}

type ornaments struct {
	Wavy []wavy `xml:"wavy-line"`
}

type wavy struct {
	Type   string `xml:"type,attr"`
	Number int    `xml:"number,attr,omitempty"`
}

type technical struct {
	UpBow      *empty     `xml:"up-bow"`
	DownBow    *empty     `xml:"down-bow"`
	Harmonic   *harmonic  `xml:"harmonic"`
	Fingerings []string   `xml:"fingering"`
	Pluck      string     `xml:"pluck,omitempty"`
	Fret       *int       `xml:"fret"`
	String     int        `xml:"string,omitempty"`
	HammerOn   []startEnd `xml:"hammer-on"`
	PullOff    []startEnd `xml:"pull-off"`
	Bends      []bend     `xml:"bend"`
	Tap        *empty     `xml:"tap"`
}

type harmonic struct {
	Natural    *empty `xml:"natural"`
	Artificial *empty `xml:"artificial"`
	Sounding   *empty `xml:"sounding-pitch"`
}

type startEnd struct {
	Type string `xml:"type,attr"`
	Text string `xml:",chardata"`
}

type bend struct {
	Alter   string `xml:"bend-alter"`
	Release *empty `xml:"release"`
}

type articulations struct {
	Accent  *empty `xml:"accent"`
	Strong  *empty `xml:"strong-accent"`
	Short   *empty `xml:"staccato"`
	Shorter *empty `xml:"staccatissimo"`
	Scoop   *empty `xml:"scoop"`
	Plop    *empty `xml:"plop"`
	Doit    *empty `xml:"doit"`
	Falloff *empty `xml:"falloff"`
}

type lyric struct {
	Number   string   `xml:"number,attr,omitempty"`
	Syllabic []string `xml:"syllabic"`
	Text     []string `xml:"text"`
}

type playing struct {
	Mute string `xml:"mute,omitempty"`
}

type backup struct {
	XMLName  xml.Name `xml:"backup"`
	Duration string   `xml:"duration"`
}

type forward struct {
	XMLName  xml.Name `xml:"forward"`
	Duration string   `xml:"duration"`
}

type barline struct {
	XMLName xml.Name `xml:"barline"`
	At      string   `xml:"location,attr,omitempty"`
	Style   string   `xml:"bar-style,omitempty"`
	Segno   *empty   `xml:"segno"`
	Coda    *empty   `xml:"coda"`
	Ending  *ending  `xml:"ending"`
	Repeat  *repeat  `xml:"repeat"`
}

type ending struct {
	Number string `xml:"number,attr"`
	Type   string `xml:"type,attr"`
}

type repeat struct {
	Direction string `xml:"direction,attr"`
	Times     int    `xml:"times,attr,omitempty"`
}

// elements make what stands in a measure, by the element's name.
var elements = map[string]func() any{
	"print":      func() any { return new(printing) },
	"attributes": func() any { return new(attributes) },
	"direction":  func() any { return new(direction) },
	"sound":      func() any { return new(sound) },
	"harmony":    func() any { return new(harmony) },
	"note":       func() any { return new(note) },
	"backup":     func() any { return new(backup) },
	"forward":    func() any { return new(forward) },
	"barline":    func() any { return new(barline) },
}

// UnmarshalXML reads the elements of a measure in their order.
func (m *measure) UnmarshalXML(d *xml.Decoder, start xml.StartElement) error {
	for _, a := range start.Attr {
		switch a.Name.Local {
		case "number":
			m.Number = a.Value
		case "implicit":
			m.Implicit = a.Value
		}
	}
	for {
		t, err := d.Token()
		if err != nil {
			return err
		}
		switch t := t.(type) {
		case xml.EndElement:
			return nil
		case xml.StartElement:
			create, known := elements[t.Name.Local]
			if !known {
				if err := d.Skip(); err != nil {
					return err
				}
				continue
			}
			e := create()
			if err := d.DecodeElement(e, &t); err != nil {
				return err
			}
			m.Elements = append(m.Elements, e)
		}
	}
}

// notehead is how the head of a note looks: an x is dead, one in brackets is played by
// some.
type notehead struct {
	Parentheses string `xml:"parentheses,attr,omitempty"`
	Shape       string `xml:",chardata"`
}
