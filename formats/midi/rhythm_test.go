package midi

import (
	"bytes"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	gomidi "gitlab.com/gomidi/midi/v2"
	"gitlab.com/gomidi/midi/v2/smf"

	"valleyside/core/sheet"
	"valleyside/formats/take"
)

// performed is a file of notes at times in quarter notes, each as long as said, at 100 a
// minute, off by up to so many milliseconds.
func performed(t *testing.T, meter [2]uint8, off float64, notes ...[3]float64) []byte {
	f := smf.NewSMF1()
	f.TimeFormat = smf.MetricTicks(480)
	r := rand.New(rand.NewPCG(7, uint64(len(notes))))
	list := []timed{{0, 0, smf.MetaTempo(100)}, {0, 0, smf.MetaMeter(meter[0], meter[1])}, {0, 0, smf.MetaTrackSequenceName("Lead")}}
	for _, n := range notes {
		late := func() float64 { return (r.Float64()*2 - 1) * off / 600 * 480 }
		from := math.Max(n[0]*480+late(), 0)
		to := (n[0]+n[1])*480 + late()
		list = append(list, timed{int64(math.Round(from)), 2, gomidi.NoteOn(0, uint8(n[2]), 90)}, timed{int64(math.Round(to)), 1, gomidi.NoteOff(0, uint8(n[2]))})
	}
	require.NoError(t, f.Add(line(list, 0)))
	var b bytes.Buffer
	_, err := f.WriteTo(&b)
	require.NoError(t, err)
	return b.Bytes()
}

// even are notes one after the other, at these places of each of so many bars.
func even(bars int, bar float64, places ...float64) (notes [][3]float64) {
	for i := range bars {
		for k, at := range places {
			end := bar
			if k+1 < len(places) {
				end = places[k+1]
			}
			notes = append(notes, [3]float64{float64(i)*bar + at, (end - at) * 0.92, 52})
		}
	}
	return notes
}

func sheetOf(t *testing.T, data []byte) string {
	var problems take.Problems
	score, err := Read(data, &problems)
	require.NoError(t, err)
	s, err := score.Song(t.Context(), score.Usual(), &problems)
	require.NoError(t, err)
	text := sheet.Write(s)
	require.True(t, sheet.Parse(text).OK(), text)
	return text
}

// The grid that a musician hears in what machines write and hands play, decided before.
func TestRhythms(t *testing.T) {
	four, six, three := [2]uint8{4, 4}, [2]uint8{6, 8}, [2]uint8{3, 4}
	const third = 1.0 / 3
	for name, c := range map[string]struct {
		meter  [2]uint8
		bar    float64
		places []float64
		want   string // the bar with every note as x
		feel   string
	}{
		"quarters":            {four, 4, []float64{0, 1, 2, 3}, "x x x x", ""},
		"eighths":             {four, 4, []float64{0, .5, 1, 1.5, 2, 2.5, 3, 3.5}, "x x x x x x x x", ""},
		"sixteenths":          {four, 4, []float64{0, .25, .5, .75, 1, 1.25, 1.5, 1.75, 2, 3}, "", ""},
		"a dotted figure":     {four, 4, []float64{0, .75, 1, 1.75, 2, 2.75, 3, 3.75}, "x - - x x - - x x - - x x - - x", ""},
		"triplets":            {four, 4, []float64{0, third, 2 * third, 1, 1 + third, 1 + 2*third, 2, 2 + third, 2 + 2*third, 3, 3 + third, 3 + 2*third}, "x x x x x x x x x x x x", ""},
		"swung eighths":       {four, 4, []float64{0, 2 * third, 1, 1 + 2*third, 2, 2 + 2*third, 3, 3 + 2*third}, "x x x x x x x x", "feel: swing"},
		"a lighter swing":     {four, 4, []float64{0, .6, 1, 1.6, 2, 2.6, 3, 3.6}, "x x x x x x x x", "feel: swing 60%"},
		"off the beat":        {four, 4, []float64{.5, 1.5, 2.5, 3.5}, ". x - x - x - x", ""},
		"eighths of 6/8":      {six, 3, []float64{0, .5, 1, 1.5, 2, 2.5}, "x x x x x x", ""},
		"the beats of 6/8":    {six, 3, []float64{0, 1.5}, "x x", ""},
		"two against the bar": {three, 3, []float64{0, 1.5}, "x x", ""},
	} {
		for _, off := range []float64{0, 14} {
			text := sheetOf(t, performed(t, c.meter, off, even(8, c.bar, c.places...)...))
			if c.feel == "" {
				assert.NotContains(t, text, "feel:", "%s, %g ms off\n%s", name, off, text)
			} else if off == 0 || c.feel == "feel: swing" {
				assert.Contains(t, text, c.feel, "%s, %g ms off\n%s", name, off, text)
			}
			if c.want == "" {
				continue
			}
			bars := strings.Split(strings.Split(text, "All:\n")[1], "|")
			for _, bar := range bars[1:2] {
				var slots []string
				for _, slot := range strings.Fields(bar) {
					if slot != "-" && slot != "." && slot != "(" && slot != ")" {
						slot = "x"
					}
					slots = append(slots, slot)
				}
				assert.Equal(t, c.want, strings.Join(slots, " "), "%s, %g ms off\n%s", name, off, text)
			}
		}
	}
}

// A file with one track has its channels as tracks, drums are left out, a bend is a bend.
func TestChannels(t *testing.T) {
	f := smf.New()
	f.TimeFormat = smf.MetricTicks(480)
	var tr smf.Track
	add := func(delta uint32, messages ...[]byte) {
		for i, m := range messages {
			if i > 0 {
				delta = 0
			}
			tr.Add(delta, m)
		}
	}
	add(0, smf.MetaTrackSequenceName("Tune"), smf.MetaMarker("Verse"), gomidi.NoteOn(0, 62, 90), gomidi.NoteOn(1, 40, 90), gomidi.NoteOn(9, 36, 90))
	add(240, gomidi.Pitchbend(0, 8191)) // a tone, where nothing says how far a bend goes
	add(240, gomidi.NoteOff(0, 62), gomidi.NoteOff(9, 36))
	add(0, gomidi.Pitchbend(0, 0), gomidi.NoteOn(0, 60, 0)) // silence is no note
	add(1440, gomidi.NoteOff(1, 40))
	tr.Close(0)
	require.NoError(t, f.Add(tr))
	var b bytes.Buffer
	_, err := f.WriteTo(&b)
	require.NoError(t, err)
	var problems take.Problems
	score, err := Read(b.Bytes(), &problems)
	require.NoError(t, err)
	assert.Contains(t, problems.String(), "drums are left out")
	require.Len(t, score.Players, 2)
	assert.Equal(t, "Tune channel 1", score.Players[0].Name)
	assert.Equal(t, 200, score.Players[0].Sounds[0].Bend)
	text := sheetOf(t, b.Bytes())
	assert.Contains(t, text, "Verse:")
	assert.Contains(t, text, "b2")
}

// Files that are damaged or of another kind say so.
func TestDamaged(t *testing.T) {
	good := performed(t, [2]uint8{4, 4}, 0, even(2, 4, 0, 1, 2, 3)...)
	for n := range good {
		_, err := Read(good[:n], new(take.Problems)) // never panics, and seldom reads
		if n < 14 {
			assert.Error(t, err, fmt.Sprint(n))
		}
	}
	for name, data := range map[string]string{
		"it is no MIDI file":        "RIFF....",
		"SMPTE":                     "MThd\x00\x00\x00\x06\x00\x00\x00\x01\xe7\x28MTrk\x00\x00\x00\x04\x00\xff\x2f\x00",
		"no notes in it":            "MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk\x00\x00\x00\x04\x00\xff\x2f\x00",
		"ends in the middle":        "MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk\x00\x00\x00\x04\x00\x90\x3c",
		"longer than it is":         "MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk\x00\x00\x00\x06\x00\xf0\xff\xff\xff\x7f",
		"the file is damaged":       "MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk\x00\x00\x00\x02\x00\x3c",
		"that it is longer than it": "MThd\xff\xff\xff\xff",
	} {
		_, err := Read([]byte(data), new(take.Problems))
		assert.Error(t, err, name)
	}
}
