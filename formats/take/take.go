// Package take turns music that other programs wrote into a song: bars in a row with
// players' notes at exact times become parts and a roadmap, notes without a place are
// put on the neck, and whatever cannot be taken over is said. The readers of the open
// formats end here; nothing in it knows a file.
package take

import (
	"fmt"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Problem is something that could not be taken over as it stood, and what was done
// instead.
type Problem struct {
	Where   string `json:"where"`   // bar, line or player; empty for the whole
	Message string `json:"message"` // what it is, and what was made of it
	Mend    string `json:"mend"`    // what the teacher may do about it; may be empty
}

func (p Problem) String() string {
	s := p.Message
	if p.Where != "" {
		s = p.Where + ": " + s
	}
	if p.Mend != "" {
		s += "; " + p.Mend
	}
	return s
}

// Problems are those of one file, each said once.
type Problems []Problem

// String lists them, a line each.
func (p Problems) String() string {
	var b strings.Builder
	for _, one := range p {
		b.WriteString(one.String() + "\n")
	}
	return b.String()
}

// mostProblems is how many are listed; a file with more is of another kind altogether.
const mostProblems = 200

// Say adds a problem where it has not been said yet.
func (p *Problems) Say(where, mend, format string, args ...any) {
	one := Problem{where, fmt.Sprintf(format, args...), mend}
	if len(*p) >= mostProblems {
		return
	}
	for _, q := range *p {
		if q == one {
			return
		}
	}
	*p = append(*p, one)
}

// Score is music as other programs write it.
type Score struct {
	Title, By string
	// Own tells that it was written by this program, so that its lines, names and chords
	// are as a teacher typed them.
	Own bool
	// Settings are those of a sheet that the format has no other place for, by name.
	Settings map[string]string
	// Parts are the parts in their order, where that is known.
	Parts   []Named
	Bars    []Bar
	Players []Player
}

// Named is a part that is known by its name.
type Named struct {
	Name  string
	Meter song.Meter
}

// Bar is a bar of all players.
type Bar struct {
	Name  string // as the file counts it
	Meter song.Meter
	// Length is how long it lasts, in whole notes; where it differs from that of the meter
	// it is a pickup or has a time of its own.
	Length pitch.Frac
	Pickup bool // it is said to be one
	Key    pitch.Key
	Tempo  float64 // quarter notes per minute
	Feel   song.Feel
	// Section is the name of a part that begins here; empty where none does.
	Section string
	song.Advice
	Line    bool  // a line begins here
	Repeat  bool  // a repeat begins here
	Times   int   // what began is played so often by the end of this bar; 0 is no end of a repeat
	Legs    int   // the part that begins here is played so often; 0 is once
	OfLine  bool  // the repeat that ends here is one of a line, not of a part
	Endings []int // the passes of the repeat in which it is played; nil is all
	Fine    bool  // the song ends here
	Jump    Jump
	Segno   string // places to jump to, and from
	Coda    string
	ToCoda  string
}

// Jump is where the music goes after a bar.
type Jump struct {
	Back  bool   // there is one
	Segno string // to this sign; empty is to the beginning
}

// Player is somebody who plays.
type Player struct {
	Name string
	// Placed tells that the notes have strings and frets.
	Placed bool
	Tuning neck.Tuning
	Capo   int
	Sounds []Sound
	Chords []Chord
	Words  []Word
	// Strums are the bars in which the chords are struck whose names stand there; in the others of a
	// player with sounds they say what those are.
	Strums map[int]bool
	Same   []int // bars that are written as the same as the one before
	Unsure []int // bars of which whoever wrote them is not sure
	// Without are the bars in which the player has no line, where that is known: what rang before
	// rings on in them.
	Without map[int]bool
	// Held are the bars that are said to begin with what rings on, though nothing may the first
	// time through, and until when in them; 0 is to the next sound.
	Held map[int]pitch.Frac
}

// Again plays bars of a player once more from the bar at on.
func (p *Player) Again(from, to, at int) {
	again := func(bar int) (int, bool) { return bar - from + at, bar >= from && bar < to }
	for _, s := range p.Sounds {
		if bar, ok := again(s.Bar); ok {
			s.Bar = bar
			p.Sounds = append(p.Sounds, s)
		}
	}
	for _, c := range p.Chords {
		if bar, ok := again(c.Bar); ok {
			c.Bar = bar
			p.Chords = append(p.Chords, c)
		}
	}
	for _, w := range p.Words {
		if bar, ok := again(w.Bar); ok {
			w.Bar = bar
			p.Words = append(p.Words, w)
		}
	}
	for bar := from; bar < to; bar++ {
		if p.Strums[bar] {
			p.Strums[bar-from+at] = true
		}
	}
	for _, list := range []*[]int{&p.Unsure, &p.Same} {
		for _, one := range *list {
			if bar, ok := again(one); ok {
				*list = append(*list, bar)
			}
		}
	}
}

// At is a moment of a score.
type At struct {
	Bar   int        // index into Score.Bars
	Start pitch.Frac // from the start of what is there of the bar, in whole notes
}

// Sound is a note with its time.
type Sound struct {
	At
	Length pitch.Frac // in whole notes; may reach into the bars that follow
	song.Note
	// Pitch is what it sounds before it is bent; not used of one that is Dead.
	Pitch pitch.Pitch
	Marks song.Marks // of the moment
	// OnWith tells that it goes on with the note before it of the same pitch: a tie.
	OnWith bool
}

// Chord is a chord's name at a moment.
type Chord struct {
	At
	Symbol string
	None   bool       // no chord from here on
	Frets  neck.Frets // of the diagram beside it; NoFrets is none
	Given  bool       // in a file of this program: that shape was typed
}

// Word is what is sung at a moment.
type Word struct {
	At
	Verse int // from 0
	Text  string
}
