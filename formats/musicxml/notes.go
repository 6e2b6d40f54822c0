package musicxml

import (
	"slices"
	"strconv"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// fingering is the shape of a chord by name with its fingers.
func (e *event) fingering() hand.Fingering { return hand.Fingering{Frets: e.Frets, Fingers: e.fingers} }

// sounded are the notes that an event strikes.
func (e *event) sounded() []song.Note {
	if e.Kind == song.Notes {
		return e.Notes
	}
	var list []song.Note
	if e.Kind == song.Chord {
		for i, fret := range e.Frets {
			if fret >= 0 {
				list = append(list, song.Note{String: neck.StringAt(i), Fret: int(fret)})
			}
		}
	}
	for _, s := range e.dead {
		if !slices.ContainsFunc(list, func(n song.Note) bool { return n.String == s }) {
			list = append(list, song.Note{String: s, Dead: true})
		}
	}
	slices.SortFunc(list, func(a, b song.Note) int { return int(b.String) - int(a.String) })
	return list
}

// struck makes the notes of an event: where it begins with all its marks, where it goes
// on without.
func (w *writer) struck(e *event, make func() *note, begins bool) (list []*note) {
	open := w.song.Open()
	for _, k := range e.sounded() {
		n := make()
		at := open.Pitch(k.String, k.Fret)
		if k.Harmonic {
			at = song.Note{String: k.String, Fret: k.Fret, Harmonic: true}.Pitch(open)
		}
		if k.Dead {
			at = open.Pitch(k.String, 0)
			n.head().Shape = "x"
		}
		if e.Optional {
			n.head().Parentheses = "yes"
		}
		n.Pitch = writePitch(w.spelled(e, at))
		t := n.technical()
		fret := k.Fret
		t.Fret, t.String = &fret, int(k.String)
		if begins {
			w.marks(n, e, &k)
			w.last[k.String] = n
			if k.Dead {
				delete(w.last, k.String)
			}
		}
		list = append(list, n)
	}
	return list
}

// spelled names a pitch: by its chord, or else by the key.
func (w *writer) spelled(e *event, p pitch.Pitch) pitch.Spelled {
	if e.Kind == song.Chord {
		for _, t := range w.song.Lift().Sounds(e.Chord, w.key).Tones {
			if t.Class() == p.Class() {
				return t.Note.At(p)
			}
		}
	}
	return w.key.Spell(p)
}

func writePitch(s pitch.Spelled) *pitched {
	return &pitched{Step: string(s.Letter), Alter: alter(s.Note), Octave: s.Octave}
}

// marks writes how a note is played.
func (w *writer) marks(n *note, e *event, k *song.Note) {
	t := n.technical()
	switch e.Stroke {
	case song.Down:
		t.DownBow = &empty{}
	case song.Up:
		t.UpBow = &empty{}
	}
	if f := e.fingers[k.String.Index()]; f != hand.None && !k.Dead {
		t.Fingerings = []string{f.String()}
	}
	t.Pluck = e.plucks[k.String.Index()].String()
	w.technique(n, k)
	if k.Harmonic {
		t.Harmonic = &harmonic{Natural: &empty{}, Sounding: &empty{}}
	}
	if k.Bend != 0 {
		t.Bends = append(t.Bends, bend{Alter: number(float64(k.Bend) / 100)})
	}
	glide(n, k)
	if e.Accent {
		n.articulation().Accent = &empty{}
	}
	if e.Short {
		n.articulation().Short = &empty{}
	}
	if e.Vibrato {
		n.notation().Ornaments = &ornaments{Wavy: []wavy{{"start", 1}, {"stop", 1}}}
	}
	if e.Rings(&song.Part{Ring: w.ring}) {
		n.notation().Tied = append(n.notation().Tied, tie{"let-ring"})
	}
	if e.PalmMute {
		n.Play = &playing{Mute: "palm"}
	}
}

// technique writes how a note begins that is not picked, on it and on the note before it
// on its string.
func (w *writer) technique(n *note, k *song.Note) {
	t := n.technical()
	before := w.last[k.String]
	switch k.By {
	case song.Hammered:
		t.HammerOn = append(t.HammerOn, startEnd{Type: "stop"})
		if before != nil {
			b := before.technical()
			b.HammerOn = append(b.HammerOn, startEnd{"start", "H"})
		}
	case song.PulledOff:
		t.PullOff = append(t.PullOff, startEnd{Type: "stop"})
		if before != nil {
			b := before.technical()
			b.PullOff = append(b.PullOff, startEnd{"start", "P"})
		}
	case song.Slid:
		n.notation().Slides = append(n.notation().Slides, slide{"stop", "solid"})
		if before != nil {
			b := before.notation()
			b.Slides = append(b.Slides, slide{"start", "solid"})
		}
	case song.Tapped:
		t.Tap = &empty{}
	case song.Released:
		t.Bends = append(t.Bends, bend{Alter: "0", Release: &empty{}})
	}
}

// glide writes a slide from nowhere or to nowhere.
func glide(n *note, k *song.Note) {
	switch k.In {
	case song.Rising:
		n.articulation().Scoop = &empty{}
	case song.Falling:
		n.articulation().Plop = &empty{}
	}
	switch k.Off {
	case song.Rising:
		n.articulation().Doit = &empty{}
	case song.Falling:
		n.articulation().Falloff = &empty{}
	}
}

// mode is a mode as the format names it, read into ours.
func readKey(k *key) (pitch.Key, bool) {
	if k.Fifths == nil || *k.Fifths < -7 || *k.Fifths > 7 || k.Mode == "none" {
		return pitch.Key{}, false
	}
	mode := k.Mode
	if mode == "" {
		mode = "major"
	}
	for _, letter := range []byte("CDEFGAB") {
		for sign := int8(-1); sign <= 1; sign++ {
			if key, err := pitch.ParseKey(pitch.Note{Letter: letter, Accidental: sign}.String() + " " + mode); err == nil && key.Signature() == *k.Fifths {
				return key, true
			}
		}
	}
	return pitch.Key{}, false
}

func readPitch(p *pitched) (pitch.Pitch, bool) {
	n, ok := readNote(p.Step, fullSteps(p.Alter))
	if !ok || p.Octave < 0 || p.Octave > 9 {
		return 0, false
	}
	return pitch.Spelled{Note: n, Octave: p.Octave}.Pitch(), true
}

// fullSteps rounds the alteration of a quarter tone.
func fullSteps(alter string) string {
	v, err := strconv.ParseFloat(alter, 64)
	if err != nil {
		return ""
	}
	return strconv.Itoa(int(v))
}
