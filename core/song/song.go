// Package song is the model of a song: parts of bars of events, with exact
// times, and the roadmap in which the parts are played. It knows nothing of
// how a song is typed or drawn.
package song

import (
	"slices"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// Song is a whole song as the teacher wrote it down.
type Song struct {
	Title  string
	By     string
	Key    pitch.Key // the zero Key where none is given
	Meter  Meter
	Tempo  float64 // beats per minute; the beat is Meter.Beat
	Feel   Feel
	Tuning neck.Tuning
	Capo   int
	Names  Naming // of chords, as it is said; Naming decides where it is not
	Parts  []Part
	// Order is the roadmap. It names every leg of the way and is only
	// empty where there are no parts.
	Order []Leg
}

// Leg is one entry of the roadmap.
type Leg struct {
	Part  int // index into Song.Parts
	Times int // at least 1
}

// Part is a section of the song: an intro, a riff, a chorus. Its settings are
// those of the song where it has none of its own.
type Part struct {
	Name     string
	Key      pitch.Key
	Meter    Meter
	Tempo    float64
	Feel     Feel
	PalmMute bool   // every event is palm muted unless accented
	Ring     bool   // every note rings on until its string is stopped
	Strum    string // the strokes of a bar that its chords were given, as they are typed
	Advice
	Lines []Line
	// Identity is what a part of a saved song is known by; nothing in one that was not
	// saved.
	Identity Identity
}

// Advice is what a part says to whoever plays it, most of it in words of the teacher's own.
type Advice struct {
	Note    string // to the student
	Cue     string // words or sound to listen for
	Sound   string // of the guitar and the amplifier: clean, neck pickup
	Plucked bool   // with the fingers, without a pick
}

// Line is a run of bars that is written on one line and played Times times
// before the next begins.
type Line struct {
	Bars  []Bar // never empty
	Times int   // at least 1
	// Beside are the lines that other players play at the same time. Each
	// lasts as long as the line itself.
	Beside []Voice
	// Words is what is sung to the line: a verse for each row, in the order of time.
	Words [][]Sung
}

// Sung is what is sung from a moment on.
type Sung struct {
	Bar   int        // of the line, from 0
	Start pitch.Frac // from the start of the whole bar
	Text  string
}

// Voice is the line of another player.
type Voice struct {
	Player string
	Bars   []Bar
	Times  int
}

// Bar is one bar of one player. Its events follow one another without gaps to
// the end of the bar. Before the first event the sound of the bar before goes
// on; a bar without events is held throughout.
type Bar struct {
	Events []Event
	Same   bool  // written as %: the same as the bar before
	Unsure bool  // whoever wrote it is not sure of it
	Meter  Meter // its own; the zero Meter is that of the part
	// Lead is what of a pickup has passed before it begins, in whole notes; 0 in a
	// bar that is whole. Its events begin there.
	Lead pitch.Frac
}

// StruckAgain tells whether an event of the bar is the chord right before it in the bar
// once more.
func (b *Bar) StruckAgain(i int) bool {
	return i > 0 && b.Events[i].Kind == Chord && b.Events[i-1].Kind == Chord && b.Events[i].Chord.Symbol == b.Events[i-1].Chord.Symbol
}

// Measure is the time of a bar: its meter, and where in it the bar begins.
type Measure struct {
	Meter Meter
	Lead  pitch.Frac
}

// Length is how long the bar lasts, in whole notes.
func (m Measure) Length() pitch.Frac { return m.Meter.Bar().Sub(m.Lead) }

// Measure is the time of a bar of the part.
func (p *Part) Measure(b *Bar) Measure {
	m := Measure{p.Meter, b.Lead}
	if b.Meter != (Meter{}) {
		m.Meter = b.Meter
	}
	return m
}

// Kind says what happens at an event.
type Kind uint8

// The kinds of events.
const (
	Notes   Kind = iota // the notes in Event.Notes sound, or are struck dead
	Chord               // a chord by name, with or without its voicing
	Strum               // a dead strum of the last shape
	Rest                // silence
	NoChord             // silence that also ends the harmony
)

// Event is something that happens at a moment in a bar.
type Event struct {
	Start  pitch.Frac // from the start of the whole bar, in whole notes
	Length pitch.Frac // in whole notes; may reach into the bars that follow
	Kind   Kind
	Notes  []Note      // for Notes: thick strings first, each string once
	Chord  chord.Chord // for Chord
	Frets  neck.Frets  // for Chord: the voicing, NoFrets where it is left open
	// Fingers are those of the voicing, low E first, where they are given.
	Fingers [neck.Strings]Finger
	Marks
	// Line and Column say where the event stands in its sheet, from 1; they
	// are 0 in a song that was not read from one.
	Line, Column int
}

// Sounds tells whether the event is one that strikes the strings, dead ones
// included.
func (e *Event) Sounds() bool { return e.Kind <= Strum }

// Strings lists the strings that the event sounds, thick ones first: of its notes, or of
// the voicing of a chord where it is given.
func (e *Event) Strings() (list []neck.String) {
	for _, n := range e.Notes {
		if !n.Dead {
			list = append(list, n.String)
		}
	}
	if e.Kind == Chord {
		for i, fret := range e.Frets {
			if fret >= 0 {
				list = append(list, neck.StringAt(i))
			}
		}
	}
	return list
}

// Dead tells whether the event only makes a percussive sound.
func (e *Event) Dead() bool {
	if e.Kind == Strum {
		return true
	}
	for _, n := range e.Notes {
		if !n.Dead {
			return false
		}
	}
	return e.Kind == Notes
}

// Muted tells whether the palm mutes e in the part p.
func (e *Event) Muted(p *Part) bool { return e.PalmMute || (p.PalmMute && !e.Accent) }

// Rings tells whether e rings on in the part p when the next event begins.
func (e *Event) Rings(p *Part) bool {
	return (e.Ring || p.Ring) && !e.Short && !e.Muted(p) && !e.Dead()
}

// Marks are the marks that belong to a whole event.
type Marks struct {
	Stroke   Stroke
	Accent   bool
	PalmMute bool
	Short    bool // stopped short of its length
	Vibrato  bool
	Ring     bool // rings on until its strings are stopped
	Optional bool // some play it
}

// Stroke is the direction in which the pick moves.
type Stroke uint8

// The strokes. The zero Stroke is none given, or none needed.
const (
	NoStroke Stroke = iota
	Down
	Up
)

func (s Stroke) String() string { return [...]string{"", "down", "up"}[s] }

// MarshalText writes "down", "up" or nothing.
func (s Stroke) MarshalText() ([]byte, error) { return []byte(s.String()), nil }

// Technique is how a note begins when it is not picked.
type Technique uint8

// The techniques.
const (
	Picked Technique = iota
	Hammered
	PulledOff
	Slid
	Tapped
	Released // the bent string is let down
)

// Glide is the direction of a slide that comes from nowhere in particular, or goes
// there.
type Glide uint8

// The directions.
const (
	NoGlide Glide = iota
	Rising
	Falling
)

// Note is a place on the neck that sounds, as it is written.
type Note struct {
	String   neck.String
	Fret     int // counted from the capo
	Dead     bool
	By       Technique
	Bend     int // in cents; 0 is none
	Harmonic bool
	In       Glide // slid into, from nowhere
	Off      Glide // slid off, to nowhere
	Finger   Finger
	Pluck    Pluck
}

// Pitch is what n sounds once it has been bent to its target, rounded to a
// semitone. open is the tuning with the capo already added.
func (n Note) Pitch(open neck.Tuning) pitch.Pitch {
	p := open.Pitch(n.String, n.Fret)
	if n.Harmonic {
		p += pitch.Pitch(harmonic(n.Fret))
	}
	return p + pitch.Pitch((n.Bend+50)/100)
}

// harmonic is how many semitones a natural harmonic at a fret sounds above
// the fretted note there. Frets that have no node sound as fretted.
func harmonic(fret int) int {
	above := map[int]int{12: 12, 7: 19, 19: 19, 5: 24, 24: 24, 4: 28, 9: 28, 16: 28, 3: 31}
	if a, ok := above[fret]; ok {
		return a - fret
	}
	return 0
}

// Open is the tuning as the frets of this song count it: with the capo on.
func (s *Song) Open() neck.Tuning { return s.Tuning.Up(s.Capo) }

// PartNamed finds a part by its name.
func (s *Song) PartNamed(name string) (int, bool) {
	for i := range s.Parts {
		if s.Parts[i].Name == name {
			return i, true
		}
	}
	return 0, false
}

// Bars lists the written bars of the first player in order.
func (p *Part) Bars() []Bar {
	var bars []Bar
	for _, l := range p.Lines {
		bars = append(bars, l.Bars...)
	}
	return bars
}

// Written counts the written bars, Played those that are played.
func (p *Part) Written() (n int) {
	for _, l := range p.Lines {
		n += len(l.Bars)
	}
	return n
}

// Played counts the bars that are played when the part is played once.
func (p *Part) Played() (n int) {
	for _, l := range p.Lines {
		n += len(l.Bars) * l.Times
	}
	return n
}

// Players names the other players of the part, in order of appearance.
func (p *Part) Players() []string {
	var names []string
	seen := map[string]bool{}
	for _, l := range p.Lines {
		for _, v := range l.Beside {
			if !seen[v.Player] {
				seen[v.Player] = true
				names = append(names, v.Player)
			}
		}
	}
	return names
}

// Of is the song as another player has it.
func (s *Song) Of(player string) *Song {
	other := *s
	other.Names = s.Lift().Names
	other.Parts = make([]Part, len(s.Parts))
	for i := range s.Parts {
		other.Parts[i] = s.Parts[i].Of(player)
	}
	return &other
}

// FirstPlayer is what the player is called whose line has no name, where another one's
// stands before it.
const FirstPlayer = "first"

// As is the song for somebody who plays another player's line in some parts: who names
// the player by the index of the part, empty for the first. It is the song itself where
// no other player is named.
func (s *Song) As(who func(part int) string) *Song {
	other := s
	for i := range s.Parts {
		player := who(i)
		if player == "" || !slices.Contains(s.Parts[i].Players(), player) {
			continue
		}
		if other == s {
			copied := *s
			copied.Names, copied.Parts = s.Lift().Names, slices.Clone(s.Parts)
			other = &copied
		}
		other.Parts[i] = s.Parts[i].as(player)
	}
	return other
}

// as is the part with another player's line in the place of the first one's, which
// stands beside it. Bars are known by their places there.
func (p *Part) as(player string) Part {
	other := p.Of(player)
	other.Identity.Bars, other.Identity.Next = nil, 0
	for i := range other.Lines {
		l, from := &other.Lines[i], &p.Lines[i]
		l.Beside = []Voice{{Player: FirstPlayer, Bars: from.Bars, Times: from.Times}}
		for _, v := range from.Beside {
			if v.Player != player {
				l.Beside = append(l.Beside, v)
			}
		}
		if len(l.Bars) == len(from.Bars) && l.Times == from.Times {
			l.Words = from.Words
		}
	}
	return other
}

// Of is the part as another player has it: silent where that player has no line.
func (p *Part) Of(player string) Part {
	other := *p
	other.Lines = make([]Line, len(p.Lines))
	for i, l := range p.Lines {
		line := Line{Bars: make([]Bar, len(l.Bars)), Times: l.Times}
		for j := range l.Bars {
			b := &l.Bars[j]
			line.Bars[j] = Bar{Events: []Event{{Start: b.Lead, Length: p.Measure(b).Length(), Kind: Rest}}, Meter: b.Meter, Lead: b.Lead}
		}
		for _, v := range l.Beside {
			if v.Player == player {
				line.Bars, line.Times = v.Bars, v.Times
			}
		}
		other.Lines[i] = line
	}
	return other
}

// Lasts is how long bars of the part last that are played so often, in whole notes.
func (p *Part) Lasts(bars []Bar, times int) pitch.Frac {
	whole := pitch.Whole(0)
	for i := range bars {
		whole = whole.Add(p.Measure(&bars[i]).Length())
	}
	return whole.Mul(pitch.Whole(int64(times)))
}

// Anchors are the moments of a bar to which words are sung, at least n of them: its
// chords and accents, where those are too few whatever sounds, and where those are too
// few its beats or equal shares of it.
func (p *Part) Anchors(b *Bar, n int) []pitch.Frac {
	m := p.Measure(b)
	pick := func(which func(*Event) bool) (list []pitch.Frac) {
		for i := range b.Events {
			if e := &b.Events[i]; which(e) {
				list = append(list, e.Start)
			}
		}
		return list
	}
	strong := pick(func(e *Event) bool { return e.Sounds() && (e.Kind == Chord || e.Accent) })
	if len(strong) >= n && n > 0 {
		return strong
	}
	if sounding := pick((*Event).Sounds); len(sounding) >= n && n > 0 {
		return sounding
	}
	each := m.Length().Div(pitch.Whole(int64(max(n, 1))))
	if beat := m.Meter.Beat(); !each.Less(beat) {
		each = beat
	}
	var list []pitch.Frac
	for at := m.Lead; at.Less(m.Meter.Bar()); at = at.Add(each) {
		list = append(list, at)
	}
	return list
}

// Seconds is how long the part lasts at a tempo in beats per minute when it
// is played once.
func (p *Part) Seconds(tempo float64) float64 {
	clock := p.Clock(tempo)
	whole, bent := pitch.Whole(0), 0.0
	for _, l := range p.Lines {
		whole = whole.Add(p.Lasts(l.Bars, l.Times))
		for i := range l.Bars {
			bent += clock.Bent(p.Measure(&l.Bars[i])) * float64(l.Times)
		}
	}
	return clock.Seconds(whole.Float()) + bent
}
