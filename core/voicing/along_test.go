package voicing

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// A barre goes by semitones, with its root on one string; a shape with open strings is
// another chord at each fret, and what is open stays.
func TestAlong(t *testing.T) {
	in := Config{}.usual().In
	along := func(shape string) []Moved {
		f, err := neck.ParseFrets(shape)
		require.NoError(t, err)
		return Along(f, in, pitch.Key{})
	}
	barre := along("133211")
	require.Len(t, barre, 13)
	for i, want := range []string{"F", "F#", "G", "G#", "A", "Bb", "B", "C", "C#", "D", "Eb", "E", "F"} {
		n, err := pitch.ParseNote(want)
		require.NoError(t, err)
		assert.Equal(t, n.Class(), barre[i].Name.Root.Class(), barre[i].Frets)
		assert.Equal(t, neck.String(6), barre[i].Root)
		assert.True(t, barre[i].Only)
	}
	e := along("022100")
	names := map[string]string{}
	for _, m := range e {
		assert.False(t, m.Only)
		assert.EqualValues(t, 0, m.Frets[0])
		names[m.Frets.String()] = m.Name.Name
	}
	assert.Equal(t, "E", names["022100"])
	assert.Equal(t, "Fmaj7#11/E", names["033200"], "F A C with open E and B")
	assert.Empty(t, along("0000xx"))
	assert.Equal(t, neck.String(5), along("x32010")[0].Root)
}
