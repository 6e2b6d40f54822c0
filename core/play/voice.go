package play

import (
	"cmp"
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// voice is what one player does, from the first leg to the last.
type voice struct {
	player string
	onsets []onset
}

// onset is a moment at which something begins, sound or silence.
type onset struct {
	at      float64 // seconds
	bar     int     // index into Timeline.Bars
	event   *arrange.Event
	literal bool // with the ornaments that are written
	rings   bool // on, over what follows
}

// voice finds or makes the voice of a player.
func (b *builder) voice(player string) *voice {
	for i := range b.voices {
		if b.voices[i].player == player {
			return &b.voices[i]
		}
	}
	b.voices = append(b.voices, voice{player: player})
	return &b.voices[len(b.voices)-1]
}

// play adds what a player has in the chosen bars of a part. The first of them is
// the bar of that index of the timeline, and begins now.
func (b *builder) play(player string, p *song.Part, v *arrange.Version, clock song.Clock, chosen []int, first int) {
	if v == nil {
		return
	}
	out := b.voice(player)
	written, played := p.Bars(), passes(p)
	for j, k := range chosen {
		if k >= len(played) {
			return
		}
		bar := v.In(played[k].bar, played[k].pass)
		begin, m := b.timeline.Bars[first+j].At, played[k].measure
		add := func(in pitch.Frac, e *arrange.Event) {
			out.onsets = append(out.onsets, onset{at: begin + clock.In(m, in), bar: first + j, event: e, literal: v.Rung.Literal(), rings: e != nil && e.From.Rings(p)})
		}
		rests := written[played[k].bar].Events
		next := 0
		silence := func(until pitch.Frac) {
			for ; next < len(rests) && rests[next].Start.Less(until); next++ {
				if !rests[next].Sounds() {
					add(rests[next].Start, nil)
				}
			}
		}
		for i := range bar.Events {
			e := &bar.Events[i]
			silence(e.Start)
			add(e.Start, e)
		}
		silence(m.Meter.Bar())
	}
}

// strikes turns what all players do into strikes: each sounds until the player does
// something else.
func (b *builder) strikes() []Strike {
	n := 0
	for _, v := range b.voices {
		n += 2 * len(v.onsets)
	}
	list := make([]Strike, 0, n)
	for _, v := range b.voices {
		var before *onset
		for i := range v.onsets {
			o := &v.onsets[i]
			if o.event == nil {
				before = nil
				continue
			}
			end := b.now
			if i+1 < len(v.onsets) {
				end = v.onsets[i+1].at
			}
			first := len(list)
			list = b.strike(list, v.player, o, before, end-o.at)
			for k := range list[first:] {
				if s := &list[first+k]; o.rings && s.How != Dead {
					s.Length = b.stopped(v.onsets[i:], s.String) - o.at
				}
			}
			before = o
		}
	}
	if len(b.voices) > 1 {
		slices.SortStableFunc(list, func(x, y Strike) int { return cmp.Compare(x.At, y.At) })
	}
	return list
}

// strike adds the strings of an event. before is what sounds until then, nil where
// nothing does.
func (b *builder) strike(list []Strike, player string, o, before *onset, length float64) []Strike {
	e := o.event
	from := e.From
	one := Strike{At: o.at, Length: length, Loud: loudPlain, Stroke: e.Stroke, From: -1, Muted: e.Muted, Player: player, Bar: o.bar, Start: e.Start}
	switch {
	case from.Accent:
		one.Loud = loudAccent
	case e.Muted:
		one.Loud = loudMuted
	}
	if from.Short {
		one.Length *= shortShare
	}
	for _, n := range e.Notes {
		s := one
		s.String, s.Fret, s.Pitch = n.String, n.Fret, n.Pitch
		s.Hz = b.hz(n.Pitch.Pitch())
		if o.literal && from.Kind == song.Notes {
			s.ornament(e.Placed(), before)
		}
		list = append(list, s)
	}
	for _, str := range e.Dead {
		s := one
		s.String, s.Fret, s.How, s.Loud, s.Length = str, -1, Dead, loudDead, min(deadSeconds, one.Length)
		list = append(list, s)
	}
	return list
}

// stopped is when a string stops that rings from the first of some onsets on: where
// it is struck again or dead, where there is silence, where its finger has to leave,
// or where a chord leaves it out.
func (b *builder) stopped(onsets []onset, s neck.String) float64 {
	i := s.Index()
	from := onsets[0].event.Fingering
	for _, o := range onsets[1:] {
		if o.event == nil || len(o.event.Dead) > 0 {
			return o.at
		}
		to := o.event.Fingering
		if to.Frets[i] >= 0 || o.event.From.Kind == song.Chord {
			return o.at
		}
		for j, finger := range to.Fingers {
			if from.Fingers[i] != hand.None && finger == from.Fingers[i] && to.Frets[j] != from.Frets[i] {
				return o.at
			}
		}
	}
	return b.now
}

// ornament makes a strike begin as its note is written.
func (s *Strike) ornament(as *song.Event, before *onset) {
	i := slices.IndexFunc(as.Notes, func(n song.Note) bool { return n.String == s.String && !n.Dead })
	if i < 0 {
		return
	}
	n := &as.Notes[i]
	s.Bend, s.In, s.Off = n.Bend, n.In, n.Off
	fret := sounding(before, s.String)
	if n.By == song.Picked || n.By != song.Tapped && fret < 0 {
		return // there is nothing to be hammered on to, or to be pulled off from
	}
	s.How = [...]How{song.Hammered: Hammered, song.PulledOff: Pulled, song.Slid: Slid, song.Tapped: Tapped, song.Released: Slid}[n.By]
	s.Stroke = song.NoStroke
	s.Loud = min(s.Loud, loudLegato)
	if s.How == Slid {
		s.From = fret
	}
	if n.By == song.Released {
		s.From += before.bend(s.String)
	}
}

// bend is by how many frets a string is bent, to the nearest.
func (o *onset) bend(s neck.String) int {
	for _, n := range o.event.From.Notes {
		if n.String == s {
			return (n.Bend + 50) / 100
		}
	}
	return 0
}

// sounding is the fret at which a string sounds, −1 where it does not.
func sounding(o *onset, s neck.String) int {
	if o == nil {
		return -1
	}
	for _, n := range o.event.Notes {
		if n.String == s {
			return n.Fret
		}
	}
	return -1
}
