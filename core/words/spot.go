package words

import (
	"fmt"
	"strconv"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// Spot says what stands at a place in a sheet, and in which bar of which part. Both are
// empty where there is nothing to say.
func (sp Speaker) Spot(s *song.Song, at sheet.Spot) (what, where string) {
	if at.Line == nil {
		return "", ""
	}
	if at.Part >= 0 {
		p := &s.Parts[at.Part]
		where = p.Name
		if at.Bar > 0 && at.Line.Words == nil {
			where = fmt.Sprintf("Bar %d of %s", at.Bar, p.Name)
		}
		if at.Line.Player != "" && at.Line.Words == nil {
			where += ", " + at.Line.Player
		}
	}
	switch l := at.Line; {
	case at.Typed != nil && at.Typed.Same:
		what = "The bar before it once more"
	case at.Slot != nil:
		what = sp.slot(s, at)
	case l.Words != nil:
		what = "What is sung to the line above; / goes on to the next chord or accent"
	case l.Kind == sheet.Setting:
		return sp.setting(s, at), where
	case l.Kind == sheet.PartName && at.Part >= 0:
		return sp.part(s, at.Part), ""
	case l.Kind == sheet.Comment:
		return "A remark to yourself; nothing in it is read", ""
	}
	if l := at.Line; what != "" && len(l.Bars) > 0 {
		if m := at.Typed.Meter; m != (song.Meter{}) {
			where += ", in " + m.String()
		}
		if at.Typed.Unsure {
			where += ", not sure"
		}
		if l.Times > 1 {
			where += ", its line is played " + times(l.Times)
		}
	}
	return what, where
}

// times says how often.
func times(n int) string {
	switch n {
	case 1:
		return "once"
	case 2:
		return "twice"
	}
	return number(n) + " times"
}

// slot says what a slot of a bar is, when it comes and how long it lasts.
func (sp Speaker) slot(s *song.Song, at sheet.Spot) string {
	if at.Slot.Kind == sheet.Bracket {
		return "Here one slot is shared by " + count(len(at.Slot.Group), "sign") + triplet(len(at.Slot.Group))
	}
	if at.Slot.Unread {
		return "This is no sign; the problem beside the sheet says how to mend it"
	}
	e := at.Event
	if e == nil {
		return ""
	}
	p := &s.Parts[at.Part]
	what := sp.sign(s, p, e)
	beat := at.Measure.Meter.Beat()
	if at.Measure.Meter == (song.Meter{}) {
		return sentence(what)
	}
	lasts := beats(e.Length.Div(beat))
	if at.Slot.Kind == sheet.Sustain {
		what = "it goes on: " + what + ", " + lasts + " in all"
	} else {
		what += ", " + strings.TrimPrefix("on "+sp.Place(e.Start, at.Measure.Meter), "on just ") + ", for " + lasts
	}
	if at.Group != nil {
		if at.Slot.Kind == sheet.Plays {
			what += "; " + number(len(at.Group.Group)) + " share a slot" + triplet(len(at.Group.Group))
		}
	}
	return sentence(what)
}

func triplet(n int) string {
	if n == 3 {
		return ", as a triplet"
	}
	return ""
}

// beats says how long something lasts.
func beats(n pitch.Frac) string {
	whole, rest := int(n.Floor()), n.Sub(pitch.Whole(n.Floor()))
	part := ""
	switch rest {
	case pitch.Whole(0):
	case pitch.F(1, 2):
		part = "half"
	case pitch.F(1, 3), pitch.F(2, 3):
		part = [...]string{"", "a third", "two thirds"}[rest.Num()]
	case pitch.F(1, 4), pitch.F(3, 4):
		part = [...]string{"", "a quarter", "", "three quarters"}[rest.Num()]
	default:
		part = fmt.Sprintf("%d/%d", rest.Num(), rest.Den())
	}
	switch {
	case part == "" && whole == 1:
		return "a beat"
	case part == "":
		return number(whole) + " beats"
	case whole == 0 && part == "half":
		return "half a beat"
	case whole == 0:
		return part + " of a beat"
	case part == "half":
		part = "a half"
	}
	if whole == 1 {
		return "a beat and " + part
	}
	return number(whole) + " and " + part + " beats"
}

// sign says what is played at an event.
func (sp Speaker) sign(s *song.Song, p *song.Part, e *song.Event) string {
	what := ""
	switch e.Kind {
	case song.Rest:
		return "silence"
	case song.NoChord:
		return "no chord: silence, and the chord before it is over"
	case song.Strum:
		what = "a strum over the damped strings of the last shape"
	case song.Chord:
		what = sp.chord(s, p, e)
	case song.Notes:
		what = sp.notes(s, p, e)
	}
	marks := []string{what}
	add := func(on bool, words string) {
		if on {
			marks = append(marks, words)
		}
	}
	add(e.Stroke == song.Down, "with a down-stroke")
	add(e.Stroke == song.Up, "with an up-stroke")
	add(e.Accent, "accented")
	add(e.Muted(p), "muted by the palm")
	add(e.Short, "stopped short")
	add(e.Vibrato, "with vibrato")
	add(e.Rings(p) && e.Kind == song.Notes, "left ringing")
	for _, n := range e.Notes {
		on := ""
		if len(e.Notes) > 1 {
			on = " on the " + sp.String(n.String) + " string"
		}
		add(n.Finger > 0, "held by "+fretters[n.Finger]+on)
		add(n.Pluck > 0, "plucked by "+pluckers[n.Pluck]+on)
	}
	if fingers := givenTo(e.Fingers); fingers != "" {
		add(true, "with the fingers "+fingers)
	}
	add(e.Optional, "not played by everybody")
	return strings.Join(marks, ", ")
}

// The fingers of the fretting hand and of the picking hand in words.
var (
	fretters = [...]string{"", "the index", "the middle finger", "the ring finger", "the little finger", "the thumb"}
	pluckers = [...]string{"", "the thumb", "the index", "the middle finger", "the ring finger"}
)

// givenTo lists the fingers of a voicing, thick to thin; empty where none are given.
func givenTo(fingers [neck.Strings]song.Finger) string {
	var list []string
	for _, f := range fingers {
		if f > 0 {
			list = append(list, hand.Finger(f).String())
		}
	}
	return strings.Join(list, "-")
}

// chord says of what a chord is made: of one that is named by its shape what sounds.
func (sp Speaker) chord(s *song.Song, p *song.Part, e *song.Event) string {
	lift := s.Lift()
	heard := lift.Sounds(e.Chord, p.Key)
	var tones []string
	for _, t := range heard.Tones {
		tones = append(tones, t.Note.String())
	}
	made := list(tones)
	if heard.Bass.Valid() {
		made += " over " + heard.Bass.String()
	}
	what := "the chord " + e.Chord.Symbol
	switch {
	case lift.Shapes():
		what = "the shape of " + e.Chord.Symbol + ", which sounds " + heard.Symbol + " (" + made + ")"
	case lift.Any():
		what += " (" + made + "), fingered as " + lift.Shape(e.Chord, p.Key).Symbol
	default:
		what += " (" + made + ")"
	}
	if e.Frets == neck.NoFrets {
		return what + " in a shape that is left open"
	}
	var sounds []string
	for i, fret := range e.Frets {
		if fret >= 0 {
			sounds = append(sounds, spelled(s.Open().Pitch(neck.StringAt(i), int(fret)), heard).String())
		}
	}
	return what + " in a shape that sounds " + list(sounds)
}

// spelled names a pitch as a chord does that it belongs to.
func spelled(p pitch.Pitch, c chord.Chord) pitch.Note {
	for _, t := range c.Tones {
		if t.Class() == p.Class() {
			return t.Note
		}
	}
	if c.Bass.Valid() && c.Bass.Class() == p.Class() {
		return c.Bass
	}
	return pitch.Key{}.SpellClass(p.Class())
}

// notes says where notes are and what they are called.
func (sp Speaker) notes(s *song.Song, p *song.Part, e *song.Event) string {
	names := namesOf(s, p, e)
	var parts []string
	for i, n := range e.Notes {
		parts = append(parts, sp.note(n, names[i]))
	}
	what := strings.Join(parts, ", and ")
	if s.Capo > 0 && e.Notes[0].Fret > 0 && !e.Dead() {
		what += ", counted from the capo"
	}
	return what
}

// namesOf names the notes of an event by the key, several together by the interval or
// chord that they are, so that a fifth is spelled as one.
func namesOf(s *song.Song, p *song.Part, e *song.Event) []pitch.Note {
	var set pitch.Set
	low := pitch.Pitch(1000)
	for _, n := range e.Notes {
		if at := n.Pitch(s.Open()); !n.Dead {
			set, low = set.With(at.Class()), min(low, at)
		}
	}
	var tones []pitch.Note
	if set.Len() > 1 {
		best := chord.Names(set, low.Class(), p.Key)[0]
		tones = append(append(append(tones, best.Tones...), best.Bass), best.Extra...)
	}
	names := make([]pitch.Note, len(e.Notes))
	for i, n := range e.Notes {
		class := n.Pitch(s.Open()).Class()
		names[i] = p.Key.SpellClass(class)
		for _, t := range tones {
			if t.Valid() && t.Class() == class {
				names[i] = t
				break
			}
		}
	}
	return names
}

// note says one note: where it is, how it begins and what it is called.
func (sp Speaker) note(n song.Note, name pitch.Note) string {
	on := "the " + sp.String(n.String) + " string"
	if n.Dead {
		return on + ", damped and struck"
	}
	what := fmt.Sprintf("fret %d on %s", n.Fret, on)
	if n.Fret == 0 {
		what = "the open " + sp.String(n.String) + " string"
	}
	switch {
	case n.Harmonic:
		what += ", touched as a harmonic that sounds " + name.String()
	case n.Bend != 0:
		what += ", bent by " + bend(n.Bend) + " to " + name.String()
		if n.Bend%100 != 0 {
			what = strings.TrimSuffix(what, " to "+name.String())
		}
	default:
		what += ", " + article(name)
	}
	how := [...]string{song.Picked: "", song.Hammered: "hammered on", song.PulledOff: "pulled off to", song.Slid: "slid into from the note before",
		song.Tapped: "tapped by the picking hand", song.Released: "let down from the bend and not picked again"}[n.By]
	if how != "" {
		what += ", " + how
	}
	switch n.In {
	case song.Rising:
		what += ", slid into from below"
	case song.Falling:
		what += ", slid into from above"
	}
	switch n.Off {
	case song.Rising:
		what += ", slid off upwards"
	case song.Falling:
		what += ", slid off downwards"
	}
	return what
}

// article is a note with its article: "an E", "a G".
func article(n pitch.Note) string {
	if strings.ContainsRune("AEF", rune(n.Letter)) {
		return "an " + n.String()
	}
	return "a " + n.String()
}

// setting says what a setting does.
func (sp Speaker) setting(s *song.Song, at sheet.Spot) string {
	name, value, _ := strings.Cut(at.Line.Text, ": ")
	of := song.Part{Key: s.Key, Meter: s.Meter, Tempo: s.Tempo, Feel: s.Feel}
	whose := "the song"
	if at.Part >= 0 {
		of, whose = s.Parts[at.Part], "the part"
	}
	switch name {
	case "title":
		return "The name of the song"
	case "by":
		return "Who made the song"
	case "key":
		if !of.Key.Valid() {
			return "" // of a part that could not be taken
		}
		scale := make([]string, 0, 7)
		for _, n := range of.Key.Scale() {
			scale = append(scale, n.String())
		}
		return fmt.Sprintf("The key of %s: %s", whose, strings.Join(scale, " "))
	case "time":
		what := fmt.Sprintf("A bar has %s", beats(of.Meter.Bar().Div(of.Meter.Beat())))
		if of.Meter.Compound() {
			what += ", each a dotted quarter"
		}
		return what
	case "tempo":
		beat := map[bool]string{true: "dotted quarters", false: map[int]string{1: "whole notes", 2: "halves", 4: "quarters", 8: "eighths", 16: "sixteenths"}[of.Meter.Unit]}[of.Meter.Compound()]
		return fmt.Sprintf("%g %s a minute: a bar of %s lasts %.1f seconds", of.Tempo, beat, of.Meter, of.Clock(of.Tempo).Seconds(of.Meter.Bar().Float()))
	case "feel":
		if of.Feel == (song.Feel{}) {
			return "Straight: the two eighths of a beat are as long as one another"
		}
		return fmt.Sprintf("Swing: the first of two eighths takes %.0f %% of the beat", of.Feel.Share)
	case "tuning":
		return "The open strings, from the thickest: " + s.Tuning.Letters()
	case "capo":
		if s.Capo == 0 {
			return "No capo"
		}
		return fmt.Sprintf("Frets are counted from the capo at fret %d; the open strings sound %s", s.Capo, s.Open().Letters())
	case "chords":
		return map[string]string{"shapes": "Chord names are what is fingered, seen from the capo", "sounding": "Chord names are what sounds, whatever is fingered",
			"numbers": "Chords may be typed as degrees of the key: 1 5 6m 4, or I V vi IV"}[value]
	case "order":
		bars := 0
		for _, leg := range s.Order {
			bars += leg.Times * s.Parts[leg.Part].Played()
		}
		return "The way through the song: " + count(len(s.Order), "leg") + ", " + count(bars, "bar")
	case "like":
		return "Has the bars and settings of " + value + "; what changes there changes here"
	case "pickup":
		return "The first bar of the part is that many beats long"
	case "mute":
		return map[string]string{"palm": "Every note of the part is muted by the palm, unless it has an accent", "none": "Nothing is muted but what has a *"}[value]
	case "ring":
		return map[string]string{"yes": "Every note of the part rings on until its string is stopped", "no": "Notes end where the next begin"}[value]
	case "pluck":
		return map[string]string{"yes": "Played with the fingers: p i m a are thumb, index, middle and ring finger, by string where none is typed", "no": "Played with a pick"}[value]
	case "strum":
		what := "The chords of each bar that are only named are struck so"
		if bars := strings.Count(value, "|") + 1; bars > 1 {
			what = "The chords that are only named are struck so, over " + count(bars, "bar") + " that begin anew with each line"
		}
		return what + ": d and u are down- and up-strokes, x is a dead one"
	case "sound":
		return "How the guitar sounds in the part, printed with it"
	case "note":
		return "A word to the student, printed with the part"
	case "cue":
		return "What the student listens for before the part begins"
	}
	return ""
}

// part says how long a part is, and how often it is played.
func (sp Speaker) part(s *song.Song, index int) string {
	p := &s.Parts[index]
	played := 0
	for _, leg := range s.Order {
		if leg.Part == index {
			played += leg.Times
		}
	}
	what := count(p.Written(), "bar")
	if p.Played() != p.Written() {
		what += ", " + strconv.Itoa(p.Played()) + " with its repeats"
	}
	if played == 0 {
		return sentence(what) + "; the order leaves the part out"
	}
	return sentence(what) + ", played " + times(played) + " in the song"
}
