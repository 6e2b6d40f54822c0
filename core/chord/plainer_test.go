package chord

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestPlainer(t *testing.T) {
	for symbol, want := range map[string][]string{
		"Dm9": {"Dm7", "Dm"}, "C6/9": {"C6", "C"}, "Cmaj9": {"Cmaj7", "C"}, "G13": {"G7", "G"}, "E7#9": {"E7", "E"}, "Cadd9": {"C"}, "Am11": {"Am7", "Am"},
		"B7": {"B"}, "Bm7b5": {"Bdim"}, "G7sus4": {"Gsus4"}, "Dm9/F": {"Dm7/F", "Dm/F"}, "C": nil, "E5": nil, "F#m6": {"F#m"},
	} {
		c, err := Parse(symbol)
		require.NoError(t, err)
		var got []string
		for _, p := range c.Plainer() {
			got = append(got, p.Symbol)
			again, err := Parse(p.Symbol)
			require.NoError(t, err)
			assert.Equal(t, p.Tones, again.Tones, "%s: %s", symbol, p.Symbol)
		}
		assert.Equal(t, want, got, symbol)
	}
}
