// Package formtest helps the tests of the forms: what a song sounds like, to be compared
// with what it sounds like after it was written and read.
package formtest

import (
	"fmt"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/song"
)

// AsWritten is what is played of a song as it is written.
func AsWritten(s *song.Song) []play.Music {
	return play.Arrange(s, arrange.Options{}, func(int) play.Choice {
		return play.Choice{Rung: arrange.AsWritten, Way: arrange.Way{FullRhythm: true}}
	})
}

// Strikes is all that is struck in a song, in short. How long what rings does depends on
// fingers, which are chosen anew.
func Strikes(s *song.Song) (list []string) {
	for _, k := range play.Of(s, AsWritten(s), play.Options{}).Strikes {
		list = append(list, fmt.Sprintf("%s %.4f %s %d %s %s bend %d from %d in %d off %d muted %t %.1f", k.Player, k.At, k.String, k.Fret, k.How, k.Stroke, k.Bend, k.From, k.In, k.Off, k.Muted, k.Loud))
	}
	return list
}
