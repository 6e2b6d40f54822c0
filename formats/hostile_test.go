package formats

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// bomb is an archive of so many megabytes of blanks.
func bomb(t *testing.T, megabytes int) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	f, err := z.Create("score.musicxml")
	require.NoError(t, err)
	blank := bytes.Repeat([]byte(" "), 1<<20)
	for range megabytes {
		_, err = f.Write(blank)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// endless is a MIDI file with a note that begins after a time of ticks.
func endless(delta ...byte) []byte {
	track := append(append(append([]byte{}, delta...), 0x90, 60, 100), 0x60, 0x80, 60, 0, 0, 0xff, 0x2f, 0)
	head := []byte("MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x01MTrk")
	return append(append(head, 0, 0, 0, byte(len(track))), track...)
}

// What was made to do harm ends with a sentence, soon and in little memory.
func TestHostile(t *testing.T) {
	score := func(inside string) string {
		return `<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1"><part-name>G</part-name></score-part></part-list><part id="P1">` + inside + `</part></score-partwise>`
	}
	note := `<note><pitch><step>C</step><octave>4</octave></pitch><duration>1</duration></note>`
	for name, c := range map[string]struct {
		data []byte
		want string
	}{
		"a bomb of an archive":           {bomb(t, 64), "has more than 10 MB"},
		"an archive that names itself":   {[]byte("PK\x03\x04 and nothing"), "the archive is damaged"},
		"entities that grow":             {[]byte(`<?xml version="1.0"?><!DOCTYPE score-partwise [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><score-partwise><work><work-title>&b;</work-title></work></score-partwise>`), "no valid XML"},
		"a file of this machine":         {[]byte(`<?xml version="1.0"?><!DOCTYPE score-partwise [<!ENTITY a SYSTEM "file:///etc/passwd">]><score-partwise><movement-title>&a;</movement-title></score-partwise>`), "no valid XML"},
		"elements inside elements":       {[]byte("<score-partwise>" + strings.Repeat("<work>", 200_000)), ""},
		"a quarter in no pieces":         {[]byte(score(`<measure number="1"><attributes><divisions>0</divisions></attributes>` + note + `</measure>`)), "cannot be divided"},
		"a length beyond all numbers":    {[]byte(score(`<measure number="1"><note><rest/><duration>99999999999999999999</duration></note></measure>`)), "is no duration"},
		"more notes than can be":         {[]byte(score(`<measure number="1">` + strings.Repeat(`<note><unpitched/><duration>1</duration></note>`, 10))), ""},
		"a note in a hundred days":       {endless(0xff, 0xff, 0xff, 0x7f), "too far from its beginning"},
		"a length that is a lie":         {[]byte("MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk\x00\x00\x00\x08\x00\xff\x01\xff\xff\xff\x7fx"), "damaged"},
		"a line without an end":          {[]byte("e|" + strings.Repeat("-", 1<<19) + "\n"), "neither a sheet, nor tab"},
		"words without an end":           {[]byte("C G Am F\n" + strings.Repeat("la ", 1<<18) + "\n"), ""},
		"many lines of chords":           {[]byte(strings.Repeat("C G Am F\n", 20_000)), ""},
		"bars without an end":            {[]byte(score(strings.Repeat(`<measure number="1">`+note+`</measure>`, 5000))), ""},
		"repeats inside repeats":         {[]byte(score(strings.Repeat(`<measure number="1"><barline><repeat direction="forward"/></barline>`+note+`<barline><repeat direction="backward" times="99"/></barline></measure>`, 900))), ""},
		"a song that goes back for good": {[]byte(score(strings.Repeat(`<measure number="1">`+note+`<direction><direction-type><words>D.C.</words></direction-type></direction></measure>`, 50))), ""},
	} {
		r, err := Read(t.Context(), c.data, Options{})
		if err == nil {
			_, _, err = r.Take(t.Context(), r.Usual())
		}
		if c.want != "" {
			assert.ErrorContains(t, err, c.want, name)
		}
	}
	big, err := Read(t.Context(), bytes.Repeat([]byte("x"), MaxBytes+1), Options{})
	assert.Nil(t, big)
	assert.ErrorContains(t, err, "more than 10 MB")
}

// A sheet has so many bars; what is longer is taken so far, and that is said.
func TestLongerThanASheet(t *testing.T) {
	var file bytes.Buffer
	require.NoError(t, Write(&file, MusicXML, piece(20)))
	long := strings.ReplaceAll(file.String(), "<rehearsal>Part ", "<rehearsal>Piece ")
	measures := strings.Count(long, "<measure ")
	require.Equal(t, 2000, measures)
	more := strings.Replace(long, "</part>", strings.Repeat(`<measure number="9"><note><rest/><duration>4</duration></note></measure>`, 50)+"</part>", 1)
	r, err := Read(t.Context(), []byte(more), Options{})
	require.NoError(t, err)
	text, problems, err := r.Take(t.Context(), r.Usual())
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprint(problems), "a sheet has 2000 bars at most")
	again, err := Read(t.Context(), []byte(text), Options{From: Sheet})
	require.NoError(t, err)
	assert.Empty(t, again.problems)
}

// The length of a practice track is limited before it is made.
func TestLongTrack(t *testing.T) {
	p := piece(20)
	assert.ErrorContains(t, Write(io.Discard, WAV, p), "the limit is 30")
}
