package musicxml

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/formats/take"
)

// note reads a note or a rest.
func (p *partReader) note(n *note) error {
	where := "bar " + strconv.Itoa(p.bar+1)
	if n.Grace != nil {
		p.problems.Say(where, "type it as a hammer-on or a slide, like h7A or s7A", "a grace note is left out")
		return nil
	}
	length, err := p.time(n.Duration)
	if err != nil {
		return err
	}
	start := p.at
	if n.Chord != nil {
		start = p.before
	} else {
		p.before = start
		p.forward(length)
	}
	if n.Cue != nil {
		return nil
	}
	s := p.staff(n.Staff)
	at := take.At{Bar: p.bar, Start: start}
	p.lyrics(n, at)
	if n.Rest != nil {
		return nil
	}
	if p.notes++; p.notes > maxNotes {
		return errNotes
	}
	if h := n.Notehead; h != nil && strings.TrimSpace(h.Shape) == "slash" {
		p.strum(s, at)
		return nil
	}
	sound := take.Sound{At: at, Length: length}
	if n.Pitch != nil {
		var ok bool
		if sound.Pitch, ok = readPitch(n.Pitch); !ok {
			p.problems.Say(where, "", "a note whose pitch is not understood is left out")
			return nil
		}
		if alter, err := strconv.ParseFloat(n.Pitch.Alter, 64); err == nil && alter != math.Trunc(alter) {
			p.problems.Say(where, "bend it, like 7Gb0.5", "a note between two frets (a quarter tone) is taken as the one below or above")
		}
		sound.Pitch += pitch.Pitch(p.shift)
	} else if !s.tab {
		return nil // unpitched: drums
	}
	if h := n.Notehead; h != nil {
		sound.Dead, sound.Marks.Optional = strings.TrimSpace(h.Shape) == "x", h.Parentheses == "yes"
	}
	p.how(s, n, &sound)
	if t := n.tech(); t.String > 0 && t.Fret != nil && t.String <= neck.Strings && *t.Fret >= 0 && *t.Fret <= neck.MaxFret {
		sound.String, sound.Fret = neck.String(t.String), *t.Fret
	} else {
		s.unplaced++
	}
	s.Sounds = append(s.Sounds, sound)
	return nil
}

// strum strikes the chord that holds at a moment.
func (p *partReader) strum(s *staff, at take.At) {
	if s.Strums == nil {
		s.Strums = map[int]bool{}
	}
	s.Strums[at.Bar] = true
	chords := p.staff(1).Chords
	if n := len(chords); n > 0 && chords[n-1].At != at && !chords[n-1].None {
		p.staff(1).Chords = append(chords, take.Chord{At: at, Symbol: chords[n-1].Symbol, Frets: chords[n-1].Frets})
	}
}

// slashed strikes the chord of each beat of a measure in slash notation in which nothing is written.
func (p *partReader) slashed() {
	s := p.staff(1)
	if len(s.Sounds) > 0 && s.Sounds[len(s.Sounds)-1].Bar == p.bar || s.Strums[p.bar] {
		return
	}
	named := slices.Clone(s.Chords)
	beat := p.meter.Beat()
	for at := pitch.Whole(0); at.Less(p.meter.Bar()); at = at.Add(beat) {
		moment := take.At{Bar: p.bar, Start: at}
		// What is named in the measure so far, or before it.
		k := len(named)
		for k > 0 && named[k-1].Bar == p.bar && at.Less(named[k-1].Start) {
			k--
		}
		if s.Strums == nil {
			s.Strums = map[int]bool{}
		}
		s.Strums[p.bar] = true
		if k > 0 && !named[k-1].None && named[k-1].At != moment {
			s.Chords = append(s.Chords, take.Chord{At: moment, Symbol: named[k-1].Symbol, Frets: named[k-1].Frets})
		}
	}
}

// tech is what is technical about a note; never nil.
func (n *note) tech() *technical {
	for i := range n.Notations {
		if t := n.Notations[i].Technical; t != nil {
			return t
		}
	}
	return &technical{}
}

// how reads how a note is played.
func (p *partReader) how(s *staff, n *note, sound *take.Sound) {
	m := &sound.Marks
	for _, t := range n.Ties {
		sound.OnWith = sound.OnWith || t.Type == "stop"
	}
	for i := range n.Notations {
		o := &n.Notations[i]
		for _, t := range o.Tied {
			sound.OnWith = sound.OnWith || t.Type == "stop"
			m.Ring = m.Ring || t.Type == "let-ring"
		}
		for _, l := range append(o.Slides, o.Glissandos...) {
			if l.Type == "stop" {
				sound.By = song.Slid
			}
		}
		m.Vibrato = m.Vibrato || o.Ornaments != nil && len(o.Ornaments.Wavy) > 0
		if a := o.Articulations; a != nil {
			p.articulation(a, sound)
		}
		if t := o.Technical; t != nil {
			p.technique(t, sound)
		}
	}
	m.PalmMute = n.Play != nil && n.Play.Mute == "palm"
	if sound.Dead {
		sound.Note = song.Note{Dead: true}
	}
}

func (p *partReader) articulation(a *articulations, sound *take.Sound) {
	m := &sound.Marks
	m.Accent = m.Accent || a.Accent != nil || a.Strong != nil
	m.Short = m.Short || a.Short != nil || a.Shorter != nil
	switch {
	case a.Scoop != nil:
		sound.In = song.Rising
	case a.Plop != nil:
		sound.In = song.Falling
	}
	switch {
	case a.Doit != nil:
		sound.Off = song.Rising
	case a.Falloff != nil:
		sound.Off = song.Falling
	}
}

// readFinger reads a finger of the fretting hand; 0 is none that is known.
func readFinger(text string) song.Finger {
	switch text = strings.TrimSpace(text); text {
	case "1", "2", "3", "4":
		return song.Finger(text[0] - '0')
	case "T", "t":
		return song.Finger(hand.Thumb)
	}
	return 0
}

// mostBend is as far as a sheet bends, in cents.
const mostBend = 400

func (p *partReader) technique(t *technical, sound *take.Sound) {
	switch {
	case t.DownBow != nil:
		sound.Marks.Stroke = song.Down
	case t.UpBow != nil:
		sound.Marks.Stroke = song.Up
	}
	switch {
	case len(t.Fingerings) == 0 || sound.Dead:
	case t.Fret == nil:
		p.problems.Say("", "type them behind the notes, like 7A:3", "fingers are left out where no string and fret say what they hold")
	case *t.Fret > 0:
		sound.Finger = readFinger(t.Fingerings[0])
	}
	if at := strings.Index(song.Plucks, strings.ToLower(strings.TrimSpace(t.Pluck))); at >= 0 && len(strings.TrimSpace(t.Pluck)) == 1 {
		sound.Pluck = song.Pluck(at + 1)
	}
	sound.Harmonic = t.Harmonic != nil && t.Harmonic.Artificial == nil
	stops := func(list []startEnd) bool {
		for _, e := range list {
			if e.Type == "stop" {
				return true
			}
		}
		return false
	}
	switch {
	case stops(t.HammerOn):
		sound.By = song.Hammered
	case stops(t.PullOff):
		sound.By = song.PulledOff
	case t.Tap != nil:
		sound.By = song.Tapped
	}
	for _, b := range t.Bends {
		v, _ := strconv.ParseFloat(strings.TrimSpace(b.Alter), 64)
		switch {
		case b.Release != nil && sound.Bend == 0:
			sound.By = song.Released
		case b.Release != nil:
			p.problems.Say("bar "+strconv.Itoa(p.bar+1), "write the release as a note of its own, like r7G", "a bend that is let down within its note stays up")
		case v > 0 && v*100 <= mostBend:
			sound.Bend = int(v*100 + 0.5)
		}
	}
}

// lyrics reads what is sung to a note.
func (p *partReader) lyrics(n *note, at take.At) {
	for _, l := range n.Lyrics {
		verse, err := strconv.Atoi(strings.TrimSpace(l.Number))
		if err != nil || verse < 1 || verse > 20 {
			verse = 1
		}
		text := strings.TrimSpace(strings.Join(l.Text, " "))
		if k := len(l.Syllabic); k > 0 && (l.Syllabic[k-1] == "begin" || l.Syllabic[k-1] == "middle") {
			text += "-"
		}
		if text != "" {
			s := p.staff(n.Staff)
			s.Words = append(s.Words, take.Word{At: at, Verse: verse - 1, Text: text})
		}
	}
}

// players makes players of the staves that have something for a guitar. Where a part has
// both tablature and another staff, they are the same music, and the tablature is taken.
func (p *partReader) players(name string) {
	tab := false
	for _, s := range p.staves {
		tab = tab || s.tab && len(s.Sounds) > 0
	}
	for i, s := range p.staves {
		switch {
		case s.drums:
			p.problems.Say(name, "", "a staff of drums is left out")
			continue
		case tab && !s.tab:
			if i == 0 { // chords and words stand with the first
				for _, other := range p.staves[1:] {
					if other.tab {
						other.Chords, other.Words = append(other.Chords, s.Chords...), append(other.Words, s.Words...)
						break
					}
				}
			}
			continue
		case len(s.Sounds) == 0 && len(s.Chords) == 0 && !p.out.Own:
			continue
		}
		s.Name = name
		if len(p.staves) > 1 && !tab {
			s.Name = fmt.Sprintf("%s, staff %d", name, i+1)
		}
		p.neck(s)
		p.out.Players = append(p.out.Players, s.Player)
	}
}

// neck decides whether the strings and frets of a staff can be taken as they stand.
func (p *partReader) neck(s *staff) {
	s.Tuning = neck.Standard
	s.Placed = s.unplaced == 0 && s.lines == neck.Strings
	if len(s.tuning) == neck.Strings && s.lines == neck.Strings {
		names := make([]string, neck.Strings)
		for line, at := range s.tuning {
			if line > neck.Strings {
				s.Placed = false
				return
			}
			names[line-1] = pitch.Key{}.Spell(at).String()
		}
		t, err := neck.Parse(strings.Join(names, " "))
		if err != nil {
			p.problems.Say(s.Name, "", "its tuning cannot be taken over; the notes are placed anew on a guitar in standard tuning")
			s.Placed = false
			return
		}
		s.Tuning = t
	}
	if s.unplaced > 0 && s.unplaced < len(s.Sounds) {
		p.problems.Say(s.Name, "", "some of its notes have no string and fret; all are placed anew")
	}
	if !s.Placed {
		return
	}
	open := s.Tuning.Up(s.Capo)
	for i := range s.Sounds {
		k := &s.Sounds[i]
		if d := int(k.Pitch - open.Pitch(k.String, k.Fret)); !k.Dead && !k.Harmonic && d%12 != 0 {
			s.wrong++
		}
	}
	if s.wrong*10 > len(s.Sounds) {
		p.problems.Say(s.Name, "check the tuning", "its frets and its notes do not agree; the notes are taken and placed anew")
		s.Placed = false
	}
}
