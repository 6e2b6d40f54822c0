package arrange

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/neck"
)

// A pin for one pass of a repeated line leaves the other passes as they are, and
// that pass stands beside the written bars.
func TestOnePassMayBeOtherwise(t *testing.T) {
	a := New(read(t, "A:\n| 5D 7D 5G 7G | 5D - - - | x3\n| 0E - - - |\n"), Options{})
	plain := a.Version(0, AsWritten, Way{})
	require.Empty(t, plain.Passes)
	var up *Alternative
	for _, alternative := range a.Alternatives(0, AsWritten, Way{}, 1, 2) {
		if octave, ok := alternative.Is[0].(OctaveElsewhere); ok && octave.Octaves == 1 {
			up = &alternative
		}
	}
	require.NotNil(t, up, "an octave up is offered")
	assert.Equal(t, [2]int{1, 2}, [2]int{up.From, up.To}, "the phrase goes on to the end of its line")
	way := Way{}
	for _, p := range up.Pins {
		assert.Equal(t, 2, p.Pass)
		way = way.Pin(p)
	}
	read, err := ParseWay(way.String())
	require.NoError(t, err)
	assert.Equal(t, way, read)
	v := a.Version(0, AsWritten, way)
	require.Empty(t, v.Unmet)
	require.Len(t, v.Bars, 3)
	for b := range v.Bars {
		assert.Equal(t, b+1, v.Bars[b].Number)
		for i := range v.Bars[b].Events {
			assert.Equal(t, plain.Bars[b].Events[i].Fingering.Frets, v.Bars[b].Events[i].Fingering.Frets)
		}
	}
	require.Len(t, v.Passes, 2)
	i := 0
	for _, p := range v.Passes {
		assert.Equal(t, 2, p.Pass)
		for _, e := range p.Events {
			assert.Equal(t, up.Shapes[i], e.Fingering.Frets)
			low := plain.Bars[p.Number-1].Events[len(p.Events)-1].Notes[0].Pitch.Pitch()
			assert.EqualValues(t, 12, e.Notes[0].Pitch.Pitch()-plain.Bars[p.Number-1].Events[at(p.Events, e)].Notes[0].Pitch.Pitch(), "over %v", low)
			i++
		}
	}
}

// at is the place of an event in its bar.
func at(events []Event, e Event) int {
	for i := range events {
		if events[i].Start == e.Start {
			return i
		}
	}
	return -1
}

// A pin whose bar or pass is gone waits, and is reported.
func TestAPinWithoutItsBarIsReported(t *testing.T) {
	a := New(read(t, "A:\n| 5D 7D | x2\n"), Options{})
	shape, err := neck.ParseFrets("x5xxxx")
	require.NoError(t, err)
	way := Way{}.Pin(Pin{Bar: 1, Pass: 3, What: PinShape, Shape: shape}).Pin(Pin{Bar: 4, What: PinShape, Shape: shape})
	v := a.Version(0, OneFinger, way)
	require.Len(t, v.Unmet, 2)
	for _, u := range v.Unmet {
		assert.Equal(t, NoSuchBar, u.Why)
	}
	assert.Len(t, v.Bars, 1)
	assert.Empty(t, v.Passes)
}
