package play

import (
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/song"
)

// Choice is the version that is played of a part.
type Choice struct {
	Rung arrange.Rung
	Way  arrange.Way
}

// Arrange works out what is played of every part: the version that is chosen for
// it, as written where it has none of that kind, and beside it what the other
// players play, as it is written.
func Arrange(s *song.Song, o arrange.Options, chosen func(part int) Choice) []Music {
	music := make([]Music, len(s.Parts))
	a := arrange.New(s, o)
	for i := range s.Parts {
		c := chosen(i)
		if a.Refused(i, c.Rung) == arrange.NoChordsHere {
			c = Choice{Rung: arrange.AsWritten}
		}
		v := a.Version(i, c.Rung, c.Way)
		music[i].Version = &v
	}
	for _, player := range Players(s) {
		other := s.Of(player)
		a := arrange.New(other, arrange.Options{Book: o.Book, Tempo: o.Tempo})
		for i := range s.Parts {
			if slices.Contains(s.Parts[i].Players(), player) {
				v := a.Version(i, arrange.AsWritten, arrange.Way{})
				music[i].Beside = append(music[i].Beside, Side{player, other.Parts[i], &v})
			}
		}
	}
	return music
}

// Players names the other players of a song, in order of appearance.
func Players(s *song.Song) []string {
	var names []string
	for i := range s.Parts {
		for _, name := range s.Parts[i].Players() {
			if !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
	}
	return names
}
