package musicxml

import (
	"encoding/binary"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/sheet"
	"valleyside/formats/take"
)

const tabStaff = `<attributes><divisions>4</divisions><key><fifths>0</fifths></key><time><beats>4</beats><beat-type>4</beat-type></time><clef><sign>TAB</sign><line>5</line></clef><staff-details><staff-lines>6</staff-lines>
<staff-tuning line="1"><tuning-step>E</tuning-step><tuning-octave>2</tuning-octave></staff-tuning><staff-tuning line="2"><tuning-step>A</tuning-step><tuning-octave>2</tuning-octave></staff-tuning>
<staff-tuning line="3"><tuning-step>D</tuning-step><tuning-octave>3</tuning-octave></staff-tuning><staff-tuning line="4"><tuning-step>G</tuning-step><tuning-octave>3</tuning-octave></staff-tuning>
<staff-tuning line="5"><tuning-step>B</tuning-step><tuning-octave>3</tuning-octave></staff-tuning><staff-tuning line="6"><tuning-step>E</tuning-step><tuning-octave>4</tuning-octave></staff-tuning></staff-details></attributes>`

func partwise(measures ...string) string {
	text := `<?xml version="1.0" encoding="UTF-8"?><score-partwise version="4.0"><work><work-title>T</work-title></work><part-list><score-part id="P1"><part-name>Guitar</part-name></score-part></part-list><part id="P1">`
	for i, m := range measures {
		if i == 0 {
			m = tabStaff + m
		}
		text += `<measure number="1">` + m + `</measure>`
	}
	return text + `</part></score-partwise>`
}

// on is a quarter note on a string and fret with a pitch, and how it is played.
func on(pitch, place, how string) string {
	step, octave := pitch[:1], pitch[len(pitch)-1:]
	alter := ""
	if strings.Contains(pitch, "#") {
		alter = "<alter>1</alter>"
	}
	str, fret, _ := strings.Cut(place, ":")
	return `<note><pitch><step>` + step + `</step>` + alter + `<octave>` + octave + `</octave></pitch><duration>4</duration>` + strings.Replace(how, "{}", `<string>`+str+`</string><fret>`+fret+`</fret>`, 1) + `</note>`
}

func tech(more string) string {
	return `<notations><technical>{}` + more + `</technical></notations>`
}

// silentBar begins a part, so that a short bar behind it is no pickup.
const silentBar = `<note><rest measure="yes"/><duration>16</duration></note>`

// lines are the bars of a sheet that a file becomes.
func lines(t *testing.T, data string) (string, take.Problems) {
	var problems take.Problems
	score, err := Read([]byte(data), &problems)
	require.NoError(t, err)
	s, err := score.Song(t.Context(), score.Usual(), &problems)
	require.NoError(t, err)
	text := sheet.Write(s)
	require.True(t, sheet.Parse(text).OK(), text)
	_, music, _ := strings.Cut(text, "All:\n")
	return strings.TrimSpace(music), problems
}

// What is written about a note, and the sign that a teacher would type for it.
func TestTechniques(t *testing.T) {
	plain := tech("")
	for name, c := range map[string]struct{ music, want string }{
		"frets as they stand":      {on("A2", "5:0", plain) + on("C3", "5:3", plain) + on("E4", "1:0", plain) + on("D3", "5:5", plain), "| 0A 3A 0e 5A |"},
		"hammered on, pulled off":  {on("C3", "5:3", tech(`<hammer-on type="start">H</hammer-on>`)) + on("D3", "5:5", tech(`<hammer-on type="stop"/><pull-off type="start"/>`)) + on("C3", "5:3", tech(`<pull-off type="stop"/>`)) + on("A2", "5:0", plain), "| 3A h5A p3A 0A |"},
		"slid":                     {on("C3", "5:3", `<notations><slide type="start"/><technical>{}</technical></notations>`) + on("D3", "5:5", `<notations><slide type="stop"/><technical>{}</technical></notations>`), "| 3A s5A . - |"},
		"slid from and to nowhere": {on("D3", "5:5", `<notations><technical>{}</technical><articulations><scoop/></articulations></notations>`) + on("D3", "5:5", `<notations><technical>{}</technical><articulations><falloff/></articulations></notations>`), `| /5A 5A\ . - |`},
		"bent a tone, let down":    {on("D4", "3:7", tech(`<bend><bend-alter>2</bend-alter></bend>`)) + on("D4", "3:7", tech(`<bend><bend-alter>-2</bend-alter><release/></bend>`)), "| 7Gb2 r7G . - |"},
		"bent a quarter tone":      {on("D4", "3:7", tech(`<bend><bend-alter>0.5</bend-alter></bend>`)), "| 7Gb0.5 . - - |"},
		"tapped":                   {on("E4", "2:5", tech(`<tap/>`)), "| t5B . - - |"},
		"a harmonic":               {on("E5", "1:12", tech(`<harmonic><natural/></harmonic>`)), "| 12eo . - - |"},
		"dead":                     {on("A2", "5:0", `<notehead>x</notehead>`+plain) + on("A2", "5:0", plain), "| xA 0A . - |"},
		"accents and stops":        {on("A2", "5:0", `<notations><technical>{}</technical><articulations><accent/></articulations></notations>`) + on("C3", "5:3", `<notations><technical>{}</technical><articulations><staccato/></articulations></notations>`), "| 0A! 3A' . - |"},
		"palm muted":               {on("A2", "5:0", plain+`<play><mute>palm</mute></play>`) + on("C3", "5:3", plain), "| 0A* 3A . - |"},
		"vibrato and ringing":      {on("D4", "3:7", `<notations><tied type="let-ring"/><ornaments><wavy-line type="start"/><wavy-line type="stop"/></ornaments><technical>{}</technical></notations>`) + on("A2", "5:0", plain), "| 7G~_ 0A . - |"},
		"together":                 {on("A2", "5:0", plain) + strings.Replace(on("E3", "4:2", plain), "<note>", "<note><chord/>", 1), "| 0A+2D . - - |"},
		"a tie":                    {on("A2", "5:0", `<tie type="start"/>`+plain) + on("A2", "5:0", `<tie type="stop"/>`+plain) + on("C3", "5:3", plain), "| 0A - 3A . |"},
		"a grace note is left out": {`<note><grace/><pitch><step>C</step><octave>3</octave></pitch></note>` + on("A2", "5:0", plain), "| 0A . - - |"},
		"two voices":               {on("A2", "5:0", plain) + on("C3", "5:3", plain) + `<backup><duration>8</duration></backup>` + on("E4", "1:0", plain) + on("E4", "1:0", plain), "| 0A+0e 3A+0e . - |"},
		"a bass that stays below":  {strings.Replace(on("A2", "5:0", plain), "<duration>4", "<duration>16", 1) + `<backup><duration>16</duration></backup>` + on("E4", "1:0", plain) + on("E4", "1:0", plain) + on("E4", "1:0", plain) + on("E4", "1:0", plain), "| 0A+0e_ 0e 0e 0e |"},
		"a shape by its name":      {`<harmony><root><root-step>E</root-step></root><kind>minor</kind></harmony>` + on("E3", "4:2", plain) + strings.Replace(on("G3", "3:0", plain), "<note>", "<note><chord/>", 1) + strings.Replace(on("B3", "2:0", plain), "<note>", "<note><chord/>", 1), "| Em=xx200x . - - |"},
		"silence":                  {`<note><rest/><duration>8</duration></note>` + on("A2", "5:0", plain) + on("A2", "5:0", plain), "| . - 0A 0A |"},
		"moved forward":            {`<forward><duration>8</duration></forward>` + on("A2", "5:0", plain), "| . - 0A . |"},
	} {
		got, _ := lines(t, partwise(silentBar, c.music))
		assert.Equal(t, "| . "+c.want, got, name)
	}
}

// What stands over the bars: parts, tempo, swing, words.
func TestDirections(t *testing.T) {
	direction := func(kind, sound string) string {
		return `<direction><direction-type>` + kind + `</direction-type>` + sound + `</direction>`
	}
	bar := on("A2", "5:0", tech(""))
	var problems take.Problems
	score, err := Read([]byte(partwise(
		direction(`<rehearsal>Verse: one</rehearsal>`, "")+direction(`<metronome><beat-unit>eighth</beat-unit><per-minute>180</per-minute></metronome>`, `<sound><swing><first>3</first><second>2</second></swing></sound>`)+bar,
		direction(`<words>let it ring</words>`, "")+bar,
		direction(`<rehearsal>Verse: one</rehearsal>`, "")+direction(`<words>softly</words>`, "")+bar,
	)), &problems)
	require.NoError(t, err)
	s, err := score.Song(t.Context(), score.Usual(), &problems)
	require.NoError(t, err)
	text := sheet.Write(s)
	assert.Contains(t, text, "tempo: 90\n")
	assert.Contains(t, text, "feel: swing 60%\n")
	assert.Contains(t, text, "\nVerse one 2:\n", "the same name, other music")
	assert.Contains(t, text, "note: softly\n")
}

// Files that other programs write in other encodings, and files that are none.
func TestEncodings(t *testing.T) {
	text := strings.Replace(partwise(on("A2", "5:0", tech(""))), "<work-title>T<", "<work-title>Über Land<", 1)
	wide := []byte{0xff, 0xfe}
	for _, u := range utf16.Encode([]rune(strings.Replace(text, "UTF-8", "UTF-16", 1))) {
		wide = binary.LittleEndian.AppendUint16(wide, u)
	}
	latin := strings.ReplaceAll(strings.Replace(text, "UTF-8", "ISO-8859-1", 1), "Ü", "\xdc")
	for name, data := range map[string]string{"UTF-8": text, "UTF-16": string(wide), "Latin-1": latin} {
		var problems take.Problems
		score, err := Read([]byte(data), &problems)
		require.NoError(t, err, name)
		assert.Equal(t, "Über Land", score.Title, name)
	}
	for data, want := range map[string]string{
		"":                       "there is no score in it",
		"<score-timewise/>":      "save it as a partwise score",
		"<html/>":                "it begins with <html>",
		"<score-partwise><part>": "is no valid XML",
		`<?xml version="1.0" encoding="EBCDIC"?><score-partwise/>`: "is not known; save it as UTF-8",
		"<score-partwise/>": "there is no music in it",
	} {
		_, err := Read([]byte(data), new(take.Problems))
		assert.ErrorContains(t, err, want)
	}
}

// Where frets and notes do not agree, the notes are believed; four strings are a bass.
func TestDisagreement(t *testing.T) {
	got, problems := lines(t, partwise(silentBar, on("C4", "5:3", tech(""))+on("E4", "5:5", tech(""))))
	assert.Contains(t, problems.String(), "frets and its notes do not agree")
	assert.NotContains(t, got, "3A")
	bass := strings.NewReplacer("<staff-lines>6<", "<staff-lines>4<").Replace(partwise(silentBar, on("E1", "4:0", tech(""))+on("A1", "3:0", tech(""))))
	got, problems = lines(t, bass)
	assert.Contains(t, problems.String(), "moved by an octave up")
	assert.Equal(t, "| . | 0E 0A . - |", got)
}
