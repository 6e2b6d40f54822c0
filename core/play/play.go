// Package play works out when what sounds: every click, bar and strike of a song,
// in seconds, through its roadmap, with repeats, changed passes, swing, tempo,
// capo, tuning and off-pitch. What is heard, played along to or added up is taken
// from here and from nowhere else.
//
// Times are exact fractions of a whole note within a part and become seconds in
// one step, so that nothing drifts however long the song is.
package play

import (
	"math"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Timeline is a song, or a piece of it, in time. All seconds count from its
// beginning: the first click, or the first beat where none is counted in.
type Timeline struct {
	Seconds float64 // until the last bar is over
	Beats   []Beat
	Bars    []Bar
	Strikes []Strike // in the order of time, of those together the first player's first and the thick strings first
}

// Beat is a click.
type Beat struct {
	At     float64 // seconds
	Bar    int     // index into Bars, −1 while it is counted in
	Beat   int     // of its bar, from 1
	Accent bool    // the first of its bar
}

// Bar is a bar when it is played.
type Bar struct {
	At     float64 // seconds
	Part   int     // index into the song's parts
	Number int     // the written bar of the part, from 1
	Pass   int     // of its line, from 1
}

// How is how a string begins to sound.
type How uint8

// The ways to begin.
const (
	Picked How = iota
	Hammered
	Pulled
	Slid
	Tapped
	Dead // struck without a pitch
)

func (h How) String() string {
	return [...]string{"picked", "hammered", "pulled", "slid", "tapped", "dead"}[h]
}

// MarshalText writes the word.
func (h How) MarshalText() ([]byte, error) { return []byte(h.String()), nil }

// Strike is one string that is struck or begins to sound.
type Strike struct {
	At, Length float64 // seconds; Length until it is stopped or struck again
	String     neck.String
	Fret       int           // from the capo; −1 for a dead one
	Pitch      pitch.Spelled // what it sounds, a bent note at its target; the zero one for a dead one
	Hz         float64       // of that, off-pitch and all; 0 for a dead one
	Loud       float64       // 0 to 1
	Stroke     song.Stroke
	How        How
	Bend       int // cents by which it is bent up to its pitch
	From       int // the fret that it is slid from, or let down from; −1 where it is not
	In, Off    song.Glide
	Muted      bool
	Player     string // "" for the first
	Bar        int    // index into Bars
	Start      pitch.Frac
}

// How loud a strike is, of 1: set by ear, on a phone's loudspeaker.
const (
	loudAccent  = 1.0
	loudPlain   = 0.8
	loudMuted   = 0.7
	loudLegato  = 0.6
	loudDead    = 0.5
	deadSeconds = 0.08 // a dead strike is heard no longer
	shortShare  = 0.5  // of its length that a note sounds which is stopped short
)

// Side is what another player plays of a part: the part as that player has it,
// and the version of it.
type Side struct {
	Player  string
	Part    song.Part
	Version *arrange.Version
}

// Music is what is played of one part.
type Music struct {
	Version *arrange.Version
	Beside  []Side
}

// Options say what of a song is played. The zero Options play all of it from the
// first beat.
type Options struct {
	Tempo   float64 // of the song, beats per minute; 0 is that of the sheet. Parts keep their relation to it
	CountIn int     // bars that are counted in
	Loop    int     // how often it is played; 0 is once
	// Only plays one part, and From to To only these written bars of it, each once;
	// 0 is from its first and to its last.
	Only     bool
	Part     int
	From, To int
	Cents    float64 // by which all of it is off concert pitch, the tuning's own offset
}

// MostBars is how many bars are played out at most: hours of music. A roadmap can ask
// for millions.
const MostBars = 20_000

// Length is how many bars a song is played out in, or the piece of it that is asked
// for.
func Length(s *song.Song, o Options) int {
	b := builder{song: s, options: o}
	once := 0
	if o.Only {
		once = len(choose(passes(&s.Parts[o.Part]), b.piece()))
	} else {
		for _, l := range s.Order {
			once += s.Parts[l.Part].Played() * l.Times
		}
	}
	return once * max(o.Loop, 1)
}

// Of works out when what sounds; a song of more than MostBars is played so far. music has what is played of each part, by its
// index.
func Of(s *song.Song, music []Music, o Options) *Timeline {
	if o.Tempo == 0 {
		o.Tempo = s.Tempo
	}
	t := &Timeline{}
	b := builder{song: s, music: music, options: o, timeline: t}
	for i, leg := range b.legs() {
		if i == 0 {
			b.countIn(leg)
		}
		if len(t.Bars) >= MostBars {
			break
		}
		b.leg(leg)
	}
	t.Seconds = b.now
	t.Strikes = b.strikes()
	return t
}

// builder puts one leg of the way after the other.
type builder struct {
	song     *song.Song
	music    []Music
	options  Options
	timeline *Timeline
	now      float64 // seconds
	voices   []voice
}

// leg is a part that is played once, or some of its bars.
type leg struct {
	part     int
	from, to int // written bars, from 1; 0 is all of them with their repeats
}

// piece is the leg that is asked for alone.
func (b *builder) piece() leg { return leg{b.options.Part, b.options.From, b.options.To} }

func (b *builder) legs() []leg {
	var legs []leg
	for range max(b.options.Loop, 1) {
		if b.options.Only {
			legs = append(legs, b.piece())
			continue
		}
		for _, l := range b.song.Order {
			for range l.Times {
				legs = append(legs, leg{part: l.Part})
			}
		}
	}
	return legs
}

// clock is the clock of a part at the tempo that is played.
func (b *builder) clock(p *song.Part) song.Clock {
	return p.Clock(Tempo(b.song, p, b.options.Tempo))
}

// countIn clicks the bars before the first leg.
func (b *builder) countIn(l leg) {
	p := &b.song.Parts[l.part]
	clock := b.clock(p)
	played := passes(p)
	chosen := choose(played, l)
	if b.options.CountIn == 0 || len(chosen) == 0 {
		return
	}
	m := played[chosen[0]].measure
	for range b.options.CountIn {
		b.clicks(song.Measure{Meter: m.Meter}, clock, b.now, -1, m.Meter.Bar())
		b.now += clock.Seconds(m.Meter.Bar().Float())
	}
	// What a pickup leaves out of its bar is counted as well.
	whole := song.Measure{Meter: m.Meter}
	b.clicks(whole, clock, b.now, -1, m.Lead)
	b.now += clock.In(whole, m.Lead)
}

// clicks clicks the beats of a bar that begins at a moment, as far as until.
func (b *builder) clicks(m song.Measure, clock song.Clock, begin float64, bar int, until pitch.Frac) {
	beat := m.Meter.Beat()
	at := pitch.Whole(0)
	for i := 1; at.Less(until); i++ {
		if !at.Less(m.Lead) {
			b.timeline.Beats = append(b.timeline.Beats, Beat{At: begin + clock.In(m, at), Bar: bar, Beat: i, Accent: i == 1})
		}
		at = at.Add(beat)
	}
}

// leg plays a part once.
func (b *builder) leg(l leg) {
	p := &b.song.Parts[l.part]
	clock := b.clock(p)
	played := passes(p)
	first := len(b.timeline.Bars)
	chosen := choose(played, l)
	chosen = chosen[:min(len(chosen), MostBars-first)]
	whole, bent := pitch.Whole(0), 0.0 // notes since now, and seconds beside them
	for j, k := range chosen {
		m := played[k].measure
		at := b.now + clock.Seconds(whole.Float()) + bent
		b.timeline.Bars = append(b.timeline.Bars, Bar{At: at, Part: l.part, Number: played[k].bar + 1, Pass: played[k].pass})
		b.clicks(m, clock, at, first+j, m.Meter.Bar())
		whole, bent = whole.Add(m.Length()), bent+clock.Bent(m)
	}
	if l.part < len(b.music) {
		m := &b.music[l.part]
		b.play("", p, m.Version, clock, chosen, first)
		for i := range m.Beside {
			b.play(m.Beside[i].Player, &m.Beside[i].Part, m.Beside[i].Version, clock, chosen, first)
		}
	}
	if len(chosen) == p.Played() {
		b.now += p.Seconds(Tempo(b.song, p, b.options.Tempo))
		return
	}
	b.now += clock.Seconds(whole.Float()) + bent
}

// pass is a bar that is played: which of the written bars, from 0, in which pass
// of its line.
type pass struct {
	bar, pass int
	measure   song.Measure
}

// passes lists the bars of a part as they are played, repeats written out.
func passes(p *song.Part) []pass {
	list := make([]pass, 0, min(p.Played(), MostBars))
	bar := 0
	for _, line := range p.Lines {
		for n := 1; n <= line.Times && len(list) < MostBars; n++ {
			for i := range line.Bars {
				list = append(list, pass{bar + i, n, p.Measure(&line.Bars[i])})
			}
		}
		bar += len(line.Bars)
	}
	return list
}

// choose lists which of the bars that are played belong to a leg: all, or the
// first pass of those that are asked for.
func choose(played []pass, l leg) []int {
	chosen := make([]int, 0, len(played))
	for k, p := range played {
		if l.from == 0 && l.to == 0 || p.pass == 1 && p.bar+1 >= l.from && (l.to == 0 || p.bar+1 <= l.to) {
			chosen = append(chosen, k)
		}
	}
	return chosen
}

// hz is what a pitch sounds, off-pitch and all.
func (b *builder) hz(p pitch.Pitch) float64 {
	return p.Hz(neck.A4) * math.Exp2(b.options.Cents/1200)
}
