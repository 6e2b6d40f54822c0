package midi

import (
	"math"
	"slices"

	"valleyside/core/pitch"
	"valleyside/core/rhythm"
	"valleyside/core/song"
	"valleyside/formats/take"
)

// grid puts ticks on the times of a sheet.
type grid struct {
	*reader
	bars  []bar
	exact bool // the times are those of a machine, not of hands
	feel  song.Feel
	// divided is into how many slots the beats of the player are divided.
	divided map[beatKey]int64
	share   float64 // of a quarter note that its first eighth takes, 0.5 where it is straight
}

// offMachine is how far notes of machines are from where they are meant, by the rounding of
// a tick, as a share of a quarter note.
const offMachine = 0.004

func newGrid(r *reader, bars []bar) *grid {
	g := &grid{reader: r, bars: bars, share: 0.5}
	var off []float64
	for _, p := range r.tracks {
		for _, n := range p.notes {
			off = append(off, nearest(float64(n.on)/float64(r.ticks)))
		}
	}
	slices.Sort(off)
	g.exact = off[len(off)*3/4]*float64(r.ticks) <= 1
	g.swing()
	return g
}

// nearest is how far a time in quarter notes is from the nearest that any plain division
// gives.
func nearest(quarters float64) float64 {
	best := 1.0
	for _, n := range []float64{12, 16, 5, 7} {
		at := quarters * n
		best = min(best, math.Abs(at-math.Round(at))/n)
	}
	return best
}

// swing finds out whether the eighths are swung: off-beats that stand alone in their beat
// lie together at one place after its half, in most beats, and hardly any at the half.
func (g *grid) swing() {
	var places []float64
	straight, triplets := 0, 0
	for _, p := range g.tracks {
		beats := map[int64][]float64{}
		for _, n := range p.notes {
			i := barAt(g.bars, n.on)
			if i < 0 || g.bars[i].meter.Unit != 4 {
				continue
			}
			in := float64(n.on-g.bars[i].from) / float64(g.ticks)
			beat := math.Floor(in + rhythm.OffHand)
			if at := in - beat; at > 2*rhythm.OffHand {
				key := int64(i)*64 + int64(beat)
				if list := beats[key]; len(list) == 0 || at-list[len(list)-1] > 2*rhythm.OffHand {
					beats[key] = append(list, at)
				}
			}
		}
		for _, list := range beats {
			switch {
			case len(list) == 1 && list[0] > 0.53 && list[0] < 0.72:
				places = append(places, list[0])
			case len(list) == 1 && math.Abs(list[0]-0.5) <= 0.03:
				straight++
			case len(list) == 2 && math.Abs(list[0]-1.0/3) < 0.06 && math.Abs(list[1]-2.0/3) < 0.06:
				triplets++
			}
		}
	}
	if len(places) < 4 || straight*4 > len(places) || triplets*3 > len(places) {
		return
	}
	slices.Sort(places)
	middle := places[len(places)/2]
	spread := places[len(places)*9/10] - places[len(places)/10]
	if spread > 0.1 || middle < 0.55 {
		return
	}
	g.share = middle
	g.feel = song.Feel{Share: math.Round(middle * 100)}
	if math.Abs(middle-2.0/3) < 0.02 {
		g.feel = song.Swing
		g.share = 2.0 / 3
	}
}

// straightened is a time in a bar in quarter notes, as it would be without swing.
func (g *grid) straightened(in float64, m song.Meter) float64 {
	if g.share == 0.5 || m.Unit != 4 {
		return in
	}
	return rhythm.Straighten(in, g.share)
}

// typable tells whether a bar may be so long.
func (g *grid) typable(length pitch.Frac) bool { return length.Den() <= 32 && length.Num() > 0 }

// beatKey is a beat of a bar.
type beatKey struct {
	bar  int
	beat int64
}

// place is a note on the grid.
type place struct {
	at       pitch.Frac // whole notes from the start of the bar
	bar      int
	sounding *sounding
}

// sounds are the notes of a player on the grid of each beat.
func (g *grid) sounds(p *player) []take.Sound {
	slices.SortStableFunc(p.notes, func(a, b sounding) int {
		if a.on != b.on {
			return int(min(max(a.on-b.on, -1), 1))
		}
		return a.key - b.key
	})
	beats := map[beatKey][]int{}
	in := make([]float64, len(p.notes)) // quarter notes from the start of the bar, straight
	key := make([]beatKey, len(p.notes))
	early := rhythm.OffHand
	if g.exact {
		early = offMachine
	}
	for i := range p.notes {
		n := &p.notes[i]
		b := max(barAt(g.bars, n.on), 0)
		if b+1 < len(g.bars) && float64(g.bars[b].to-n.on) <= early*float64(g.ticks) {
			b++ // a little early
		}
		m := g.bars[b].meter
		in[i] = g.straightened(float64(n.on-g.bars[b].from)/float64(g.ticks), m)
		key[i] = beatKey{b, int64(math.Floor(in[i]/quarters(m) + early))}
		beats[key[i]] = append(beats[key[i]], i)
	}
	places := make([]place, len(p.notes))
	g.divided = map[beatKey]int64{}
	for k, list := range beats {
		m := g.bars[k.bar].meter
		beat := quarters(m)
		at := make([]float64, len(list))
		for j, i := range list {
			at[j] = in[i]/beat - float64(k.beat)
		}
		n := g.divide(at, m, beat)
		g.divided[k] = n
		for j, i := range list {
			slot := pitch.F(int64(math.Round(at[j]*float64(n))), n)
			places[i] = place{m.Beat().Mul(pitch.Whole(k.beat).Add(slot)), k.bar, &p.notes[i]}
		}
	}
	return g.lengths(places)
}

// quarters is how many quarter notes a beat of a meter has.
func quarters(m song.Meter) float64 { return m.Beat().Float() * 4 }

// divide is into how many slots a beat is divided, given where in it something begins.
func (g *grid) divide(at []float64, m song.Meter, beat float64) int64 {
	off := rhythm.OffHand
	if g.exact {
		off = max(offMachine, 1/float64(g.ticks))
	}
	slots, _ := rhythm.Beat{Off: off / beat, Compound: m.Compound(), Exact: g.exact}.Divide(at)
	return slots
}

// lengths gives notes on the grid their lengths: until the next where the gap is only that
// of a hand, else until they end in the file.
func (g *grid) lengths(places []place) []take.Sound {
	list := make([]take.Sound, len(places))
	for i, p := range places {
		n := p.sounding
		s := &list[i]
		if at := p.at; !at.Less(g.length(p.bar)) && p.bar+1 < len(g.bars) {
			p.bar, p.at = p.bar+1, at.Sub(g.length(p.bar))
		}
		s.At = take.At{Bar: p.bar, Start: p.at}
		s.Pitch = pitch.Pitch(n.key)
		if cents := int(math.Round(n.bend * 100)); cents >= 30 {
			s.Note.Bend = min(cents, 400)
			if r := (s.Note.Bend + 25) / 50 * 50; s.Note.Bend-r <= 3 && r-s.Note.Bend <= 3 {
				s.Note.Bend = r
			}
		}
	}
	next := len(list) // what begins next, of those that begin later
	for i := len(list) - 1; i >= 0; i-- {
		if i+1 < len(list) && list[i+1].At != list[i].At {
			next = i + 1
		}
		n := places[i].sounding
		length := float64(n.off-n.on) / float64(g.ticks) / 4
		if next < len(list) {
			gap := float64(places[next].sounding.on-n.on) / float64(g.ticks) / 4
			exact := g.distance(list[i].At, list[next].At)
			if length >= gap*0.6 && length <= gap+1.0/16 {
				list[i].Length = exact
				continue
			}
		}
		end := g.end(n.off)
		if !g.before(list[i].At, end) {
			list[i].Length = pitch.F(1, 64)
			continue
		}
		list[i].Length = g.distance(list[i].At, end)
	}
	return list
}

// before tells whether a moment is before another.
func (g *grid) before(a, b take.At) bool {
	return a.Bar < b.Bar || a.Bar == b.Bar && a.Start.Less(b.Start)
}

// end is the moment at which a note ends, on the grid of its beat or the nearest sixteenth.
func (g *grid) end(tick int64) take.At {
	b := max(barAt(g.bars, tick), 0)
	m := g.bars[b].meter
	in := g.straightened(float64(tick-g.bars[b].from)/float64(g.ticks), m) / quarters(m)
	beat := int64(math.Floor(in))
	best := pitch.Whole(beat)
	for _, n := range []int64{2, max(g.divided[beatKey{b, beat}], 1), 4} {
		slot := pitch.Whole(beat).Add(pitch.F(int64(math.Round((in-float64(beat))*float64(n))), n))
		if math.Abs(slot.Float()-in) < math.Abs(best.Float()-in)-1e-9 {
			best = slot
		}
	}
	at := take.At{Bar: b, Start: m.Beat().Mul(best)}
	if length := g.length(b); length.Less(at.Start) {
		at.Start = length
	}
	return at
}

// length is how long a bar is that is read.
func (g *grid) length(bar int) pitch.Frac {
	b := g.bars[bar]
	return pitch.F(b.to-b.from, 4*g.ticks)
}

// distance is the time between two moments in whole notes.
func (g *grid) distance(a, b take.At) pitch.Frac {
	d := b.Start.Sub(a.Start)
	for i := a.Bar; i < b.Bar; i++ {
		d = d.Add(g.length(i))
	}
	return d
}
