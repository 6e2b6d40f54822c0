package midi

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"gitlab.com/gomidi/midi/v2"
	"gitlab.com/gomidi/midi/v2/smf"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/formats/take"
)

// Limits of what is read.
const (
	MaxBytes = 10 << 20
	maxNotes = 200_000
	maxBars  = 4_000
	// How many notes of a channel sound at once, and how often the tempo, the time or the key changes.
	maxAtOnce  = 128
	maxChanges = 10_000
)

// Read reads a file: its tracks as players, on the grid that fits them. The error says
// why it cannot be read at all.
func Read(data []byte, problems *take.Problems) (*take.Score, error) {
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("the file has more than %d MB", MaxBytes>>20)
	}
	file, err := parse(data)
	if err != nil {
		return nil, err
	}
	ticks, ok := file.TimeFormat.(smf.MetricTicks)
	if !ok || ticks == 0 {
		return nil, errors.New("its times are those of film (SMPTE), not of beats; save it with a tempo")
	}
	r := reader{file: file, ticks: int64(ticks), problems: problems, lost: map[string]bool{}}
	if err := r.events(); err != nil {
		return nil, err
	}
	if len(r.tracks) == 0 {
		return nil, errors.New("there are no notes in it that a guitar could play")
	}
	return r.score()
}

// parse reads the file; a reader that stumbles over one is an error like any other.
func parse(data []byte) (file *smf.SMF, err error) {
	defer func() {
		if recover() != nil {
			file, err = nil, errors.New("the file is damaged; save it again")
		}
	}()
	if !bytes.HasPrefix(data, []byte("MThd")) {
		return nil, errors.New("it is no MIDI file")
	}
	if err := check(data); err != nil {
		return nil, err
	}
	if file, err = smf.ReadFrom(bytes.NewReader(data)); err != nil {
		return nil, fmt.Errorf("the file is damaged: %w", err)
	}
	return file, nil
}

// sounding is a note as the file has it.
type sounding struct {
	on, off int64 // ticks
	key     int
	loud    uint8
	bend    float64 // semitones, the most to which it is bent while it sounds, or where it stands all the time
	moved   bool    // the bend moves while it sounds
}

// player is what becomes a player: a track, or a part of it that sounds otherwise.
type player struct {
	name    string
	notes   []sounding
	channel int // of its first note
}

// at is something that holds from a tick on.
type at[T any] struct {
	tick int64
	is   T
}

type reader struct {
	file     *smf.SMF
	ticks    int64 // of a quarter note
	problems *take.Problems
	title    string
	tracks   []*player
	meters   []at[song.Meter]
	tempos   []at[float64]
	keys     []at[pitch.Key]
	markers  []at[string]
	end      int64
	count    int
	drums    bool
	loud     uint8           // of the first note
	lost     map[string]bool // kinds of events that are not taken over
}

// ref is a note of a player that still sounds.
type ref struct {
	of    *player
	index int
}

func (r ref) note() *sounding { return &r.of.notes[r.index] }

// wheel is where the pitch bend of a channel stands.
type wheel struct {
	value     int16
	range_    float64 // semitones
	parameter int     // that is being set, −1 for none
	volume    uint8   // to which the channel was turned
	swelled   bool    // it was
}

func (w wheel) semitones() float64 { return float64(w.value) / 8191 * w.range_ }

// listener goes through the messages of a track.
type listener struct {
	*reader
	now      int64
	name     string
	lines    map[int]*player // by what sounds: in a file of one track its channel, else its program, since a guitar may have a channel for each string
	open     [16][]ref       // by channel, in the order in which they began
	wheels   [16]wheel
	programs [16]int // that play the channels
}

// events sorts the messages of all tracks.
func (r *reader) events() error {
	for i, track := range r.file.Tracks {
		l := listener{reader: r, lines: map[int]*player{}}
		for ch := range l.wheels {
			l.wheels[ch] = wheel{range_: 2, parameter: -1}
		}
		for _, e := range track {
			l.now += int64(e.Delta)
			if err := l.hear(e.Message); err != nil {
				return err
			}
			r.end = max(r.end, l.now)
		}
		if i == 0 {
			r.title = l.name
		}
		l.close(i)
	}
	if r.drums {
		r.problems.Say("", "", "drums are left out")
	}
	for _, what := range slices.Sorted(maps.Keys(r.lost)) {
		r.problems.Say("", "", "%s: left out", what)
	}
	return nil
}

// hear takes in one message.
func (l *listener) hear(m smf.Message) error {
	var ch, key, loud uint8
	var text string
	switch {
	case m.GetMetaTrackName(&text):
		l.name = strings.TrimSpace(text)
	case m.GetNoteStart(&ch, &key, &loud):
		if ch == drums {
			l.drums = true
			return nil
		}
		if l.count++; l.count > maxNotes {
			return fmt.Errorf("it has more than %d notes", maxNotes)
		}
		which := l.programs[ch]
		if len(l.file.Tracks) == 1 {
			which = int(ch)
		}
		if l.lines[which] == nil {
			l.lines[which] = &player{channel: int(ch)}
		}
		p := l.lines[which]
		if open := l.open[ch]; len(open) == maxAtOnce { // the oldest ends
			open[0].note().off = l.now
			l.open[ch] = slices.Delete(open, 0, 1)
		}
		l.open[ch] = append(l.open[ch], ref{p, len(p.notes)})
		if r := l.reader; r.loud == 0 {
			r.loud = loud
		} else if loud != r.loud {
			r.lost["how loud notes are"] = true
		}
		p.notes = append(p.notes, sounding{on: l.now, off: -1, key: int(key), loud: loud, bend: l.wheels[ch].semitones()})
	case m.GetNoteEnd(&ch, &key):
		if i := slices.IndexFunc(l.open[ch], func(r ref) bool { return r.note().key == int(key) }); i >= 0 {
			l.open[ch][i].note().off = l.now
			l.open[ch] = slices.Delete(l.open[ch], i, i+1)
		}
	default:
		l.other(m)
	}
	return nil
}

// other takes in what is no note.
func (l *listener) other(m smf.Message) {
	var ch, number, value uint8
	var bent int16
	var absolute uint16
	var text string
	var tempo float64
	switch {
	case m.GetPitchBend(&ch, &bent, &absolute):
		w := &l.wheels[ch]
		w.value = bent
		for _, r := range l.open[ch] {
			note := r.note()
			if !note.moved {
				note.bend = 0 // where it stood was the end of the note before
			}
			note.bend, note.moved = max(note.bend, w.semitones()), true
		}
	case m.GetControlChange(&ch, &number, &value):
		w := &l.wheels[ch]
		switch number {
		case midi.RegisteredParameterMSB:
			w.parameter = int(value)<<7 | max(w.parameter, 0)&127
		case midi.RegisteredParameterLSB:
			w.parameter = max(w.parameter, 0)&^127 | int(value)
		case midi.DataEntryMSB:
			if w.parameter == 0 && value > 0 {
				w.range_ = float64(value)
			}
		case midi.HoldPedalSwitch:
			if value >= 64 {
				l.lost["the pedal that lets notes ring on"] = true
			}
		case midi.ModulationWheelMSB:
			if value > 0 {
				l.lost["the wheel for vibrato"] = true
			}
		case midi.VolumeMSB, midi.ExpressionMSB:
			l.lost["swells and other loudness over time"] = l.lost["swells and other loudness over time"] || w.swelled && value != w.volume
			w.volume, w.swelled = value, true
		}
	case m.GetMetaTempo(&tempo):
		if tempo >= 1 && tempo < 10_000 {
			l.tempos = append(l.tempos, at[float64]{l.now, tempo})
		}
	case m.GetMetaMeter(&number, &value):
		if meter, err := song.ParseMeter(fmt.Sprintf("%d/%d", number, value)); err == nil {
			l.meters = append(l.meters, at[song.Meter]{l.now, meter})
		} else {
			l.problems.Say("", "set the time by hand", "a time signature of %d/%d cannot be taken over", number, value)
		}
	case m.GetProgramChange(&ch, &number):
		l.programs[ch] = int(number)
	case m.GetMetaLyric(&text):
		if strings.TrimSpace(text) != "" {
			l.lost["what is sung"] = true
		}
	case m.GetMetaMarker(&text):
		l.markers = append(l.markers, at[string]{l.now, strings.TrimSpace(text)})
	default:
		var k smf.Key
		if m.GetMetaKey(&k) {
			if key, ok := keyOf(k); ok {
				l.keys = append(l.keys, at[pitch.Key]{l.now, key})
			}
		}
	}
}

// keyOf is the key of a signature.
func keyOf(k smf.Key) (pitch.Key, bool) {
	signs := int(k.Num)
	if k.IsFlat {
		signs = -signs
	}
	mode := "minor"
	if k.IsMajor {
		mode = "major"
	}
	for _, letter := range []byte("CDEFGAB") {
		for sign := int8(-1); sign <= 1; sign++ {
			if key, err := pitch.ParseKey(pitch.Note{Letter: letter, Accidental: sign}.String() + " " + mode); err == nil && key.Signature() == signs {
				return key, true
			}
		}
	}
	return pitch.Key{}, false
}

// close ends what still sounds, and names the players of a track.
func (l *listener) close(track int) {
	for _, which := range slices.Sorted(maps.Keys(l.lines)) {
		p := l.lines[which]
		for k := range p.notes {
			if n := &p.notes[k]; n.off < n.on {
				n.off = l.now
			}
		}
		p.name = l.name
		if len(l.lines) > 1 {
			p.name = strings.TrimSpace(l.name + " channel " + strconv.Itoa(p.channel+1))
		}
		if p.name == "" {
			p.name = "track " + strconv.Itoa(track+1)
		}
		l.tracks = append(l.tracks, p)
	}
}

// score lays the tracks on bars.
func (r *reader) score() (*take.Score, error) {
	for _, list := range []func(){func() { sortAt(r.meters) }, func() { sortAt(r.tempos) }, func() { sortAt(r.keys) }, func() { sortAt(r.markers) }} {
		list()
	}
	bars, err := r.bars()
	if err != nil {
		return nil, err
	}
	if len(r.tempos) == 0 {
		r.problems.Say("", "set the tempo", "it says no tempo; 120 is taken")
	}
	g := newGrid(r, bars)
	out := &take.Score{Title: r.title}
	marked := map[int]bool{}
	for _, m := range r.markers {
		marked[barAt(bars, m.tick)] = m.is != ""
	}
	for i, b := range bars {
		bar := take.Bar{Name: strconv.Itoa(i + 1), Meter: b.meter, Length: pitch.F(b.to-b.from, 4*r.ticks), Tempo: holds(r.tempos, b.from, 120), Key: holds(r.keys, b.from, pitch.Key{}), Feel: g.feel}
		if whole := b.meter.Bar(); !bar.Length.Less(whole) || !g.typable(bar.Length) {
			bar.Length = whole
		}
		// A short bar before one in another time, at the beginning of a part, is its pickup.
		if begins := i == 0 || marked[i]; begins && i+1 < len(bars) && bar.Length.Less(bars[i+1].meter.Bar()) {
			bar.Meter = bars[i+1].meter
		}
		bar.Pickup = i == 0 && bar.Length.Less(bar.Meter.Bar())
		out.Bars = append(out.Bars, bar)
	}
	for _, m := range r.markers {
		if i := barAt(bars, m.tick); m.is != "" && i >= 0 {
			out.Bars[i].Section = m.is
		}
	}
	for _, p := range r.tracks {
		out.Players = append(out.Players, take.Player{Name: p.name, Tuning: neck.Standard, Sounds: g.sounds(p)})
	}
	return out, nil
}

func sortAt[T any](list []at[T]) {
	slices.SortStableFunc(list, func(a, b at[T]) int { return cmp.Compare(a.tick, b.tick) })
}

// holds is what holds at a tick.
func holds[T any](list []at[T], tick int64, otherwise T) T {
	for i := len(list) - 1; i >= 0; i-- {
		if list[i].tick <= tick {
			return list[i].is
		}
	}
	return otherwise
}

// bar is a bar in ticks.
type bar struct {
	from, to int64
	meter    song.Meter
}

// bars lists the bars as far as there are notes; one in which the time changes ends
// there. Empty bars before the first note are left out.
func (r *reader) bars() ([]bar, error) {
	first, last := int64(math.MaxInt64), int64(0)
	for _, p := range r.tracks {
		for _, n := range p.notes {
			first, last = min(first, n.on), max(last, n.off)
		}
	}
	var list []bar
	empty := 0
	for now := int64(0); now < last; {
		m := holds(r.meters, now, song.FourFour)
		length := int64(m.Count) * 4 * r.ticks / int64(m.Unit)
		b := bar{now, now + max(length, 1), m}
		for _, next := range r.meters {
			if next.tick > b.from && next.tick < b.to {
				b.to = next.tick
			}
		}
		now = b.to
		if b.to <= first {
			empty++
			if empty > 100*maxBars {
				return nil, errors.New("its first note is too far from its beginning")
			}
			continue
		}
		if list = append(list, b); len(list) > maxBars {
			return nil, fmt.Errorf("it has more than %d bars", maxBars)
		}
	}
	if empty > 0 {
		r.problems.Say("", "", "the empty bars at the beginning (%d) are left out", empty)
	}
	if len(list) == 0 {
		return nil, errors.New("its notes have no length")
	}
	return list, nil
}

// barAt is the bar that a tick lies in, −1 before the first; what is within a 32nd note of
// the next bar lies there.
func barAt(bars []bar, tick int64) int {
	i, found := slices.BinarySearchFunc(bars, tick, func(b bar, tick int64) int { return cmp.Compare(b.from, tick) })
	if !found {
		i--
	}
	return i
}
