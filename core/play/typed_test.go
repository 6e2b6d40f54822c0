package play

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
	"valleyside/core/song"
)

// typed is a song with what the versions of its parts play typed in the place of
// what is written.
func typed(s *song.Song, music []Music) *song.Song {
	out := *s
	out.Parts = nil
	for i := range s.Parts {
		out.Parts = append(out.Parts, music[i].Version.Typed(&s.Parts[i]))
		music[i].Beside = nil
	}
	return &out
}

// A version that is typed out, written as a sheet and read again sounds as the
// version does, whichever rung it is of. Two things a sheet cannot say: that what is left
// out at the beginning of a part is held over from the part before, so that the rhythm is
// full here; and the fingers, on which it depends how long strings ring.
func TestTypedVersionsSoundTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := sheettest.Song(t)
		for i := range s.Parts {
			for _, l := range s.Parts[i].Lines {
				for _, b := range l.Bars {
					for j := range b.Events {
						b.Events[j].Ring = false
					}
				}
			}
		}
		rung := rapid.SampledFrom(arrange.Rungs).Draw(t, "rung")
		music := Arrange(s, arrange.Options{}, func(int) Choice { return Choice{rung, arrange.Way{FullRhythm: true}} })
		text := sheet.Write(typed(s, music))
		again := sheet.Parse(text)
		require.True(t, again.OK(), "%v\n%s", again.Problems, text)
		assert.Equal(t, strikes(Of(s, music, Options{})), strikes(written(again.Song, Options{})), text)
	})
}

// A song sounds the same when it is typed in short.
func TestShortSongsSoundTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := sheettest.Song(t)
		pickup := func(p song.Part) bool { return p.Lines[0].Bars[0].Lead.Num() > 0 }
		if !slices.ContainsFunc(s.Parts, pickup) { // one on its way cannot be typed
			s = writtenOut(s)
		}
		short := sheet.Shorten(s)
		text := sheet.Write(short)
		again := sheet.Parse(text)
		require.True(t, again.OK(), "%v\n%s", again.Problems, text)
		for i := range s.Parts {
			require.LessOrEqual(t, short.Parts[i].Written(), s.Parts[i].Written())
			require.Equal(t, s.Parts[i].Played(), short.Parts[i].Played())
		}
		assert.Equal(t, lasting(Of(s, music(s), Options{})), lasting(Of(again.Song, music(again.Song), Options{})), text)
	})
}

func music(s *song.Song) []Music {
	return Arrange(s, arrange.Options{}, func(int) Choice { return Choice{arrange.AsWritten, arrange.Way{FullRhythm: true}} })
}

// lasting is what sounds; how long strings ring depends on the fingers, which are
// chosen anew.
func lasting(tl *Timeline) (list []string) {
	for _, k := range tl.Strikes {
		list = append(list, said(Strike{At: k.At, String: k.String, Fret: k.Fret, How: k.How, Player: k.Player}))
	}
	return list
}

// A version whose passes differ says which bar each of its typed bars is.
func TestTypedBars(t *testing.T) {
	s := read(t, "tempo: 120\nA:\n| 3A - - - | 5A | x2\n| 7A |\n")
	pin, err := arrange.ParsePin("bar 1 pass 2 at 0: string E")
	require.NoError(t, err)
	v := arrange.New(s, arrange.Options{}).Version(0, arrange.OneFinger, arrange.Way{}.Pin(pin))
	assert.Equal(t, [][2]int{{1, 1}, {2, 1}, {1, 2}, {2, 2}, {3, 0}}, v.TypedBars(&s.Parts[0]))
	part := v.Typed(&s.Parts[0])
	assert.Equal(t, 5, part.Written())
}
