package play

import "valleyside/core/song"

// Roadmap is the order in which the parts are played, with what it adds up to.
type Roadmap struct {
	Legs    []Leg
	Bars    int     // played in all
	Seconds float64 // at the tempo that is asked for
}

// Leg is one entry of the roadmap.
type Leg struct {
	Part    string
	Times   int
	Bars    int // played, repeats counted
	From    int // the first of them, counted from 1 over the whole song
	Seconds float64
}

// Plan works out the roadmap of a song at a tempo in beats per minute, without
// playing it out: it costs no more where a roadmap asks for millions of bars.
func Plan(s *song.Song, tempo float64) Roadmap {
	var r Roadmap
	for _, o := range s.Order {
		p := &s.Parts[o.Part]
		leg := Leg{Part: p.Name, Times: o.Times, Bars: p.Played() * o.Times, From: r.Bars + 1,
			Seconds: p.Seconds(Tempo(s, p, tempo)) * float64(o.Times)}
		r.Legs = append(r.Legs, leg)
		r.Bars += leg.Bars
		r.Seconds += leg.Seconds
	}
	return r
}

// Tempo is the tempo of a part when the song is played at one. Parts with a tempo of
// their own keep their relation to the song's.
func Tempo(s *song.Song, p *song.Part, tempo float64) float64 {
	return p.Tempo * tempo / s.Tempo
}
