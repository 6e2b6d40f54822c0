// Package midi writes what is played of a song as a Standard MIDI File, a track for each
// player and one for the click, and reads the notes of such files onto the grid that
// fits them. (MIDI Association, Standard MIDI Files 1.0, RP-001.)
package midi

import (
	"cmp"
	"io"
	"math"
	"slices"

	"gitlab.com/gomidi/midi/v2"
	"gitlab.com/gomidi/midi/v2/smf"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/play"
	"valleyside/core/song"
)

// Resolution is how many ticks a quarter note has in the files that are written.
const Resolution = 960

// Sounds of General MIDI, from 0, and keys of its drums.
const (
	steelGuitar = 25
	fingerBass  = 33
	drums       = 9 // the channel
	highBlock   = 76
	lowBlock    = 77
	sideStick   = 37 // for a dead stroke, which has no pitch
)

// bendRange is how many semitones a pitch bend goes at most, either way.
const bendRange = 12

// clickTicks is how long a click is.
const clickTicks = Resolution / 8

// Write writes a timeline that was worked out of a song, played at a tempo in beats per
// minute. A bent note is the note of its fret with a pitch bend; a dead one is a stick on
// the drum channel. Times are exact to a tick, 1/960 of a quarter note.
func Write(w io.Writer, s *song.Song, t *play.Timeline, tempo float64) error {
	c := newClock(s, t, tempo)
	f := smf.NewSMF1()
	f.TimeFormat = smf.MetricTicks(Resolution)
	if err := f.Add(conductor(s, t, c)); err != nil {
		return err
	}
	for i, player := range players(t) {
		if err := f.Add(track(player, i, s, t, c)); err != nil {
			return err
		}
	}
	if err := f.Add(click(t, c)); err != nil {
		return err
	}
	_, err := f.WriteTo(w)
	return err
}

// players names those who play, the first player first, the bass last.
func players(t *play.Timeline) []string {
	names := []string{""}
	for i := range t.Strikes {
		if name := t.Strikes[i].Player; !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	slices.SortStableFunc(names[1:], func(a, b string) int { return bool2int(a == play.BassPlayer) - bool2int(b == play.BassPlayer) })
	return names
}

func bool2int(b bool) int {
	if b {
		return 1
	}
	return 0
}

// stretch is a time of one tempo.
type stretch struct {
	at       float64 // seconds
	tick     int64
	quarters float64 // per minute
	meter    song.Meter
	bar      int // index into the timeline's bars, −1 for what is counted in
}

// clock turns seconds into ticks.
type clock struct {
	stretches []stretch
	end       int64
}

func newClock(s *song.Song, t *play.Timeline, tempo float64) *clock {
	c := &clock{}
	bars := make([][]song.Bar, len(s.Parts))
	add := func(at float64, p *song.Part, m song.Meter, bar int) {
		st := stretch{at: at, quarters: sayable(play.Tempo(s, p, tempo) * p.Meter.Beat().Float() * 4), meter: m, bar: bar}
		if n := len(c.stretches); n > 0 {
			st.tick = c.Tick(at)
		}
		c.stretches = append(c.stretches, st)
	}
	for i, b := range t.Bars {
		p := &s.Parts[b.Part]
		if bars[b.Part] == nil {
			bars[b.Part] = p.Bars()
		}
		m := p.Measure(&bars[b.Part][b.Number-1])
		if i == 0 && b.At > 0 {
			add(0, p, m.Meter, -1)
		}
		meter := m.Meter
		if own, ok := meterOf(m.Length()); ok && m.Lead.Num() > 0 {
			meter = own
		}
		add(b.At, p, meter, i)
	}
	if len(c.stretches) > 0 {
		c.end = c.Tick(t.Seconds)
	}
	return c
}

// meterOf is the time of a pickup of a length.
func meterOf(length pitch.Frac) (song.Meter, bool) {
	for unit := int64(4); unit <= 32; unit *= 2 {
		if n := length.Mul(pitch.Whole(unit)); n.Den() == 1 && n.Num() <= 32 {
			return song.Meter{Count: int(n.Num()), Unit: int(unit)}, true
		}
	}
	return song.Meter{}, false
}

// Tick is the tick of a moment in seconds.
func (c *clock) Tick(at float64) int64 {
	i, _ := slices.BinarySearchFunc(c.stretches, at, func(s stretch, at float64) int { return cmp.Compare(s.at, at+1e-9) })
	s := &c.stretches[max(i-1, 0)]
	return s.tick + int64(math.Round((at-s.at)*s.quarters/60*Resolution))
}

// timed is a message at a tick.
type timed struct {
	tick    int64
	order   int // of those at a tick: what ends first
	message []byte
}

// line makes a track of messages.
func line(list []timed, end int64) (t smf.Track) {
	slices.SortStableFunc(list, func(a, b timed) int { return cmp.Or(cmp.Compare(a.tick, b.tick), cmp.Compare(a.order, b.order)) })
	now := int64(0)
	for _, m := range list {
		t.Add(uint32(m.tick-now), m.message)
		now = m.tick
	}
	t.Close(uint32(max(end-now, 0)))
	return t
}

// conductor is the track of what holds for all: title, tempo, time, key, and the names of
// the parts as markers.
func conductor(s *song.Song, t *play.Timeline, c *clock) smf.Track {
	list := []timed{{0, 0, smf.MetaTrackSequenceName(s.Title)}}
	if s.By != "" {
		list = append(list, timed{0, 0, smf.MetaText(s.By)})
	}
	var before stretch
	var key pitch.Key
	part := -1
	for i, st := range c.stretches {
		if i == 0 || st.quarters != before.quarters {
			list = append(list, timed{st.tick, 0, smf.MetaTempo(st.quarters)})
		}
		if i == 0 || st.meter != before.meter {
			list = append(list, timed{st.tick, 0, smf.MetaMeter(uint8(st.meter.Count), uint8(st.meter.Unit))})
		}
		before = st
		if st.bar < 0 {
			continue
		}
		b := t.Bars[st.bar]
		p := &s.Parts[b.Part]
		if p.Key != key && p.Key.Valid() {
			key = p.Key
			list = append(list, timed{st.tick, 0, writeKey(key)})
		}
		if b.Part != part || b.Number == 1 && b.Pass == 1 {
			part = b.Part
			list = append(list, timed{st.tick, 0, smf.MetaMarker(p.Name)})
		}
	}
	return line(list, c.end)
}

// writeKey is a key signature; modes are those of the third above their tonic.
func writeKey(k pitch.Key) smf.Message {
	n := k.Signature()
	third := k.Tonic.Class().Up(4)
	major := k.Contains(third) && !k.Contains(k.Tonic.Class().Up(3))
	return smf.MetaKey(uint8(k.Tonic.Class()), major, uint8(max(n, -n)), n < 0)
}

// click is the track of the beats.
func click(t *play.Timeline, c *clock) smf.Track {
	list := []timed{{0, 0, smf.MetaTrackSequenceName("Click")}}
	for _, b := range t.Beats {
		key, loud := uint8(lowBlock), uint8(80)
		if b.Accent {
			key, loud = highBlock, 110
		}
		at := c.Tick(b.At)
		list = append(list, timed{at, 2, midi.NoteOn(drums, key, loud)}, timed{at + clickTicks, 1, midi.NoteOff(drums, key)})
	}
	return line(list, c.end)
}

// channels are the channels of a player: one for each string where there are enough, so
// that a bent string leaves the others as they are.
func channels(player int) (list [neck.Strings + 1]uint8) {
	all := []uint8{0, 1, 2, 3, 4, 5, 6, 7, 8, 10, 11, 12, 13, 14, 15}
	for s := range list {
		switch {
		case player < 2:
			list[s] = all[player*neck.Strings+max(s-1, 0)]
		default:
			list[s] = all[2*neck.Strings+(player-2)%3]
		}
	}
	return list
}

// track is what a player plays.
func track(player string, index int, s *song.Song, t *play.Timeline, c *clock) smf.Track {
	name, sound := player, uint8(steelGuitar)
	switch player {
	case "":
		name = "Guitar"
	case play.BassPlayer:
		sound = fingerBass
	}
	list := []timed{{0, 0, smf.MetaTrackSequenceName(name)}}
	on := channels(index)
	for i, ch := range on {
		if slices.Index(on[:], ch) < i {
			continue
		}
		list = append(list, timed{0, 0, midi.ProgramChange(ch, sound)})
		for _, m := range append(parameter(ch, 0, bendRange, 0), fine(ch, s.Tuning.Cents)...) {
			list = append(list, timed{0, 0, m})
		}
	}
	open := s.Open()
	for i := range t.Strikes {
		if k := &t.Strikes[i]; k.Player == player {
			list = strike(list, k, on[k.String], c, open)
		}
	}
	return line(list, c.end)
}

// parameter sets a registered parameter of a channel: 0 is how far it bends, 1 its fine
// tuning.
func parameter(ch, number, coarse, fine uint8) []midi.Message {
	const none = 127
	return []midi.Message{
		midi.ControlChange(ch, midi.RegisteredParameterMSB, 0), midi.ControlChange(ch, midi.RegisteredParameterLSB, number),
		midi.ControlChange(ch, midi.DataEntryMSB, coarse), midi.ControlChange(ch, midi.DataEntryLSB, fine),
		midi.ControlChange(ch, midi.RegisteredParameterMSB, none), midi.ControlChange(ch, midi.RegisteredParameterLSB, none),
	}
}

// fine tunes a channel by cents.
func fine(ch uint8, cents float64) []midi.Message {
	if cents == 0 {
		return nil
	}
	v := int(math.Round(min(max(cents, -99), 99)/100*8192)) + 8192
	return parameter(ch, 1, uint8(v>>7), uint8(v&127))
}

// strike adds a string that is struck.
func strike(list []timed, k *play.Strike, ch uint8, c *clock, open neck.Tuning) []timed {
	from, to := c.Tick(k.At), c.Tick(k.At+k.Length)
	to = max(to, from+1)
	loud := uint8(min(max(k.Loud*110, 1), 127))
	if k.How == play.Dead {
		return append(list, timed{from, 2, midi.NoteOn(drums, sideStick, loud)}, timed{to, 1, midi.NoteOff(drums, sideStick)})
	}
	key := uint8(min(max(int(k.Pitch.Pitch())-(k.Bend+50)/100, 0), 127))
	if k.Bend != 0 {
		// The string is bent within the first half of its length, and back when it ends.
		const steps = 8
		for i := 1; i <= steps; i++ {
			at := from + (to-from)*int64(i-1)/(2*steps)
			list = append(list, timed{at, 3, bend(ch, float64(k.Bend)*float64(i)/steps)})
		}
		list = append(list, timed{to, 1, bend(ch, 0)})
	}
	return append(list, timed{from, 2, midi.NoteOn(ch, key, loud)}, timed{to, 0, midi.NoteOff(ch, key)})
}

// bend is a pitch bend by cents.
func bend(ch uint8, cents float64) []byte {
	return midi.Pitchbend(ch, int16(math.Round(cents/100/bendRange*8191)))
}

// slowest is the slowest tempo that a file can say, in quarter notes per minute; what is
// slower is written in longer notes.
const slowest = 4

// sayable is a tempo as a file can say it: in whole microseconds for a quarter note.
func sayable(quarters float64) float64 {
	return 60e6 / math.Round(60e6/max(quarters, slowest))
}
