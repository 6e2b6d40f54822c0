package musicxml

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet/sheettest"
	"valleyside/formats/formtest"
)

// schema is what MusicXML 4.0 says of the elements that are written: their attributes, and
// their children in their order, each with how often it may stand there (? + *); a list in
// brackets stands in any order. # is text of a type.
var schema = map[string]string{
	"score-partwise":      "@version work? movement-title? identification? part-list part+",
	"work":                "work-title?",
	"work-title":          "#",
	"movement-title":      "#",
	"identification":      "creator* encoding? miscellaneous?",
	"creator":             "@type #",
	"encoding":            "(software supports)*",
	"software":            "#",
	"supports":            "@element @type @attribute @value",
	"miscellaneous":       "miscellaneous-field*",
	"miscellaneous-field": "@name #",
	"part-list":           "score-part+",
	"score-part":          "@id part-name score-instrument* midi-instrument*",
	"part-name":           "#",
	"score-instrument":    "@id instrument-name",
	"instrument-name":     "#",
	"midi-instrument":     "@id midi-channel? midi-program?",
	"midi-channel":        "#midi16",
	"midi-program":        "#midi128",
	"part":                "@id measure+",
	"measure":             "@number @implicit (note harmony direction attributes print barline)*",
	"print":               "@new-system",
	"attributes":          "divisions? key* time* clef* staff-details* measure-style*",
	"divisions":           "#positive",
	"key":                 "fifths mode?",
	"fifths":              "#integer",
	"mode":                "#mode",
	"time":                "beats beat-type",
	"beats":               "#positive",
	"beat-type":           "#positive",
	"clef":                "sign line?",
	"sign":                "#sign",
	"line":                "#positive",
	"staff-details":       "staff-lines? staff-tuning* capo?",
	"staff-lines":         "#positive",
	"staff-tuning":        "@line tuning-step tuning-alter? tuning-octave",
	"tuning-step":         "#step",
	"tuning-alter":        "#integer",
	"tuning-octave":       "#octave",
	"capo":                "#positive",
	"measure-style":       "measure-repeat",
	"measure-repeat":      "@type #positive-or-empty",
	"direction":           "@placement direction-type+ sound?",
	"direction-type":      "(rehearsal words metronome)*",
	"rehearsal":           "#",
	"words":               "#",
	"metronome":           "beat-unit beat-unit-dot* per-minute",
	"beat-unit":           "#type",
	"beat-unit-dot":       "",
	"per-minute":          "#",
	"sound":               "@tempo @fine swing?",
	"swing":               "straight? first? second? swing-type?",
	"straight":            "",
	"first":               "#positive",
	"second":              "#positive",
	"swing-type":          "#swing",
	"harmony":             "@type root kind bass? degree* frame?",
	"root":                "root-step root-alter?",
	"root-step":           "@text #step",
	"root-alter":          "#integer",
	"kind":                "@text #kind",
	"bass":                "bass-step bass-alter?",
	"bass-step":           "#step",
	"bass-alter":          "#integer",
	"degree":              "degree-value degree-alter degree-type",
	"degree-value":        "#positive",
	"degree-alter":        "#integer",
	"degree-type":         "#degree",
	"frame":               "frame-strings frame-frets first-fret? frame-note+",
	"frame-strings":       "#positive",
	"frame-frets":         "#positive",
	"first-fret":          "#positive",
	"frame-note":          "string fret fingering?",
	"note":                "chord? pitch? rest? duration tie* voice? type? dot* time-modification? notehead? notations* lyric* play?",
	"chord":               "",
	"pitch":               "step alter? octave",
	"step":                "#step",
	"alter":               "#integer",
	"octave":              "#octave",
	"rest":                "@measure",
	"duration":            "#positive",
	"tie":                 "@type",
	"voice":               "#",
	"type":                "#type",
	"dot":                 "",
	"time-modification":   "actual-notes normal-notes",
	"actual-notes":        "#positive",
	"normal-notes":        "#positive",
	"notehead":            "@parentheses #notehead",
	"notations":           "(tied tuplet slide ornaments technical articulations)*",
	"tied":                "@type",
	"tuplet":              "@type @number",
	"slide":               "@type @line-type #",
	"ornaments":           "(wavy-line)*",
	"wavy-line":           "@type @number",
	"technical":           "(up-bow down-bow harmonic fingering pluck fret string hammer-on pull-off bend tap)*",
	"up-bow":              "",
	"down-bow":            "",
	"harmonic":            "natural? sounding-pitch?",
	"natural":             "",
	"sounding-pitch":      "",
	"fingering":           "#",
	"pluck":               "#",
	"fret":                "#zero",
	"string":              "#positive",
	"hammer-on":           "@type #",
	"pull-off":            "@type #",
	"bend":                "bend-alter release?",
	"bend-alter":          "#decimal",
	"release":             "",
	"tap":                 "",
	"articulations":       "(accent staccato scoop plop doit falloff)*",
	"accent":              "",
	"staccato":            "",
	"scoop":               "",
	"plop":                "",
	"doit":                "",
	"falloff":             "",
	"lyric":               "@number syllabic text",
	"syllabic":            "#syllabic",
	"text":                "#",
	"play":                "mute",
	"mute":                "#mute",
	"barline":             "@location bar-style? repeat?",
	"bar-style":           "#bar-style",
	"repeat":              "@direction @times",
}

// simple are the types of texts.
var simple = map[string]*regexp.Regexp{
	"#":                  regexp.MustCompile(`(?s)^.*$`),
	"#positive":          regexp.MustCompile(`^[1-9][0-9]*$`),
	"#positive-or-empty": regexp.MustCompile(`^([1-9][0-9]*)?$`),
	"#zero":              regexp.MustCompile(`^[0-9]+$`),
	"#integer":           regexp.MustCompile(`^-?[0-9]+$`),
	"#decimal":           regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?$`),
	"#octave":            regexp.MustCompile(`^[0-9]$`),
	"#step":              regexp.MustCompile(`^[A-G]$`),
	"#midi16":            regexp.MustCompile(`^([1-9]|1[0-6])$`),
	"#midi128":           regexp.MustCompile(`^([1-9]|[1-9][0-9]|1[01][0-9]|12[0-8])$`),
	"#mode":              regexp.MustCompile(`^(major|minor|dorian|phrygian|lydian|mixolydian|aeolian|ionian|locrian|none)$`),
	"#sign":              regexp.MustCompile(`^TAB$`),
	"#type":              regexp.MustCompile(`^(1024th|512th|256th|128th|64th|32nd|16th|eighth|quarter|half|whole|breve)$`),
	"#swing":             regexp.MustCompile(`^(16th|eighth)$`),
	"#degree":            regexp.MustCompile(`^(add|alter|subtract)$`),
	"#notehead":          regexp.MustCompile(`^(x|normal)$`),
	"#syllabic":          regexp.MustCompile(`^single$`),
	"#mute":              regexp.MustCompile(`^palm$`),
	"#bar-style":         regexp.MustCompile(`^(heavy-light|light-heavy)$`),
	"#kind":              regexp.MustCompile(`^(major|minor|augmented|diminished|dominant|major-seventh|minor-seventh|diminished-seventh|augmented-seventh|half-diminished|major-minor|major-sixth|minor-sixth|dominant-ninth|major-ninth|minor-ninth|dominant-11th|major-11th|minor-11th|dominant-13th|major-13th|minor-13th|suspended-second|suspended-fourth|power|other|none)$`),
}

// element is an element with what is in it.
type element struct {
	name     string
	attrs    []string
	children []string
	text     string
}

// checkSchema holds an export against the schema.
func checkSchema(t require.TestingT, data []byte) {
	d := xml.NewDecoder(bytes.NewReader(data))
	var stack []*element
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return
		}
		require.NoError(t, err)
		switch token := token.(type) {
		case xml.StartElement:
			e := &element{name: token.Name.Local}
			for _, a := range token.Attr {
				e.attrs = append(e.attrs, a.Name.Local)
			}
			if n := len(stack); n > 0 {
				stack[n-1].children = append(stack[n-1].children, e.name)
			}
			stack = append(stack, e)
		case xml.CharData:
			if n := len(stack); n > 0 {
				stack[n-1].text += string(token)
			}
		case xml.EndElement:
			checkElement(t, stack[len(stack)-1])
			stack = stack[:len(stack)-1]
		}
	}
}

// model is an entry of the schema, understood.
type model struct {
	attrs    map[string]bool
	children *regexp.Regexp
	text     *regexp.Regexp // nil where there is none
}

var models = func() map[string]model {
	all := map[string]model{}
	for name, entry := range schema {
		m := model{attrs: map[string]bool{}}
		pattern := "^"
		for _, item := range regexp.MustCompile(`\([^)]*\)\*|\S+`).FindAllString(entry, -1) {
			switch {
			case item[0] == '@':
				m.attrs[item[1:]] = true
			case item[0] == '#':
				m.text = simple[item]
			case item[0] == '(':
				pattern += "(" + strings.Join(strings.Fields(item[1:len(item)-2]), " |") + " )*"
			default:
				child := strings.TrimRight(item, "?+*")
				pattern += "(" + child + " )" + item[len(child):]
			}
		}
		m.children = regexp.MustCompile(pattern + "$")
		all[name] = m
	}
	return all
}()

func checkElement(t require.TestingT, e *element) {
	m, known := models[e.name]
	if !known {
		require.Fail(t, "<"+e.name+"> is not in the schema")
	}
	joined := ""
	for _, c := range e.children {
		joined += c + " "
	}
	if !m.children.MatchString(joined) {
		require.Fail(t, "<"+e.name+"> cannot hold "+joined)
	}
	for _, a := range e.attrs {
		if !m.attrs[a] {
			require.Fail(t, "<"+e.name+"> has no "+a)
		}
	}
	switch {
	case m.text == nil && strings.TrimSpace(e.text) != "":
		require.Fail(t, "<"+e.name+"> cannot hold "+e.text)
	case m.text != nil && !m.text.MatchString(e.text):
		require.Fail(t, "<"+e.name+"> cannot hold "+e.text)
	}
}

// Whatever is written is valid by the schema.
func TestSchema(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := sheettest.Song(t)
		var b bytes.Buffer
		require.NoError(t, Write(&b, s, formtest.AsWritten(s)))
		checkSchema(t, b.Bytes())
	})
	s := sheettest.Read(t, "by: B & C\nkey: Eb dorian\nfeel: swing 62.5%\ntuning: standard -35 cents\ncapo: 2\ntempo: 92.5\n\nA:\ntime: 12/8\nring: yes\nnote: <keep> it low\ncue: \"now\"\n| Cm7b5 F7#9 Bbmaj13/D NC | E5=022xxx A(add9)=x02200 - | (0E 1E 2E 3E 4E) 7Gb0.5 |\nwords | one / two | three | |\n")
	var b bytes.Buffer
	require.NoError(t, Write(&b, s, formtest.AsWritten(s)))
	checkSchema(t, b.Bytes())
}
