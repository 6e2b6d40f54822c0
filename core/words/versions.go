package words

import (
	"fmt"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/grade"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Version says what holds for a whole version.
func (sp Speaker) Version(v *arrange.Version) []string {
	var list []string
	for _, f := range v.Why {
		list = append(list, sentence(sp.fact(f, nil)))
	}
	if v.Same != "" {
		list = append(list, sentence(SameNotes(v.Same)))
	}
	if v.Harder {
		list = append(list, "This comes out harder than the part as written")
	}
	return list
}

// SameNotes says of a version that it has the notes of another rung.
func SameNotes(r arrange.Rung) string {
	if r == arrange.AsWritten {
		return "the same notes as written"
	}
	return "the same notes as " + strings.ToLower(r.Title())
}

// Refusal says why a rung is not offered.
func (sp Speaker) Refusal(f arrange.Fact) string { return sentence(sp.fact(f, nil)) }

// Bar says what the student gets in a bar, and why, a short sentence each. Where
// there is nothing to say it is silent.
func (sp Speaker) Bar(b *arrange.Bar) []string {
	var list []string
	m := b.Measure.Meter
	for _, s := range b.Why {
		text := ""
		switch s.Kind {
		case arrange.Hardest:
			text = sp.Hard(b.Hardest(), m)
		case arrange.LeftOut:
			text = sp.leftOut(b, s, m)
		case arrange.Remarked:
			text = sp.Remark(s.Remark)
			if s.Remark.Chord != "" && !strings.Contains(text, s.Remark.Chord) {
				text = s.Remark.Chord + ": " + text
			}
		default:
			text = sp.fact(*s.Fact, s.What)
		}
		if text != "" {
			list = append(list, sentence(text))
		}
	}
	return list
}

// Event says why one event is played as it is.
func (sp Speaker) Event(e *arrange.Event) string {
	var parts []string
	for _, f := range e.Why {
		if text := sp.fact(f, nil); text != "" {
			parts = append(parts, text)
		}
	}
	for _, r := range e.Remarks {
		parts = append(parts, sp.Remark(r))
	}
	return sentence(strings.Join(parts, "; "))
}

// Hard says in one sentence what asks most of the hands at an event.
func (sp Speaker) Hard(e *arrange.Event, m song.Meter) string {
	at := "on " + sp.Place(e.Start, m)
	h := e.Hard
	s := h.Spot
	what := h.To
	if what == "" {
		what = "the dead stroke"
	}
	over := map[arrange.Over]string{arrange.LineAgain: ", when the line starts over", arrange.PartAgain: ", when the part starts over"}[h.Over]
	switch s.Demand {
	case grade.Shift:
		return fmt.Sprintf("%s is the hard change, %s: %s in %s, %s%s", fromTo(h), at, count(s.Frets, "fret"), duration(s.Seconds), stays(s), over)
	case grade.Change:
		return fmt.Sprintf("%s is the hard change, %s: %s to place in %s%s", fromTo(h), at, count(s.Count, "finger"), duration(s.Seconds), over)
	case grade.Reach:
		return fmt.Sprintf("%s %s is a stretch of %s, the hand has %s", what, at, mm(s.MM), mm(s.Most))
	case grade.Fingers:
		if s.Count == 0 {
			return fmt.Sprintf("%s %s asks for no finger", what, at)
		}
		return fmt.Sprintf("%s %s asks for %s at once", what, at, count(s.Count, "finger"))
	case grade.Force:
		return fmt.Sprintf("%s %s takes force: one finger over %s at fret %d", what, at, count(s.Count, "string"), s.Frets)
	case grade.Muting:
		if s.Count > 0 {
			return fmt.Sprintf("%s %s has %s inside to keep silent", what, at, count(s.Count, "string"))
		}
		return fmt.Sprintf("%s %s has strings beside it to keep silent", what, at)
	case grade.Crossing:
		return fmt.Sprintf("the pick crosses %s %s, in %s%s", count(s.Count, "string"), at, duration(s.Seconds), over)
	case grade.Speed:
		if s.PerSecond < s.Comfortable {
			return fmt.Sprintf("the pace asks most %s: %.1f strokes a second", at, s.PerSecond)
		}
		return fmt.Sprintf("the strokes come fast %s: %.1f a second, %.1f are comfortable", at, s.PerSecond, s.Comfortable)
	case grade.Rhythm:
		if s.Tied {
			return fmt.Sprintf("the stroke %s is off the beat and rings over the next one", at)
		}
		return fmt.Sprintf("the stroke %s is off the beat", at)
	case grade.Ornament:
		var names []string
		for _, t := range grade.Trimmings(s.Written) {
			names = append(names, trimming(t))
		}
		return fmt.Sprintf("the %s %s %s the hard thing", list(names), at, map[bool]string{true: "are", false: "is"}[len(names) > 1])
	}
	return fmt.Sprintf("new here, %s: %s", at, list(s.Skills.Names()))
}

// Short says the demand of a hard place in a word or two.
func (sp Speaker) Short(s grade.Spot) string {
	return [...]string{"the stretch", "the fingers to hold", "the barre", "a string to keep silent", "the shift", "the change", "the string crossing",
		"the pace", "the rhythm", "the ornament", "something new"}[s.Demand]
}

func fromTo(h *arrange.Hard) string {
	switch {
	case h.From == "" && h.To == "":
		return "the way to the dead stroke"
	case h.From == "" || h.From == h.To:
		return "the way to " + h.To
	case h.To == "":
		return "the way on from " + h.From
	}
	return h.From + " to " + h.To
}

func stays(s grade.Spot) string {
	switch {
	case s.Kept > 0:
		return count(s.Kept, "finger") + " " + third("stays", s.Kept)
	case s.Slid > 0:
		return count(s.Slid, "finger") + " " + third("slides", s.Slid) + " along"
	}
	return "no finger stays"
}

// degrees are those that are lost as one says them: the first is the root.
func degrees(lost string) string {
	words := strings.Fields(lost)
	for i, d := range words {
		if d == "1" {
			words[i] = "root"
		}
	}
	return list(words)
}

// third is a verb in the third person, with its s only where one does it.
func third(verb string, n int) string {
	if n == 1 {
		return verb
	}
	return strings.TrimSuffix(verb, "s")
}

// dropped says what thinning leaves out.
var dropped = [...]string{arrange.DeadStroke: "dead stroke", arrange.RepeatedNote: "repeated note", arrange.PassingNote: "passing note", arrange.TurnOfLine: "turn of the line",
	arrange.OptionalNote: "optional note"}

// Dropped says one thing that is left out.
func (sp Speaker) Dropped(d arrange.Dropped, m song.Meter) string {
	return dropped[d.What] + " on " + sp.Place(d.Start, m)
}

func (sp Speaker) leftOut(b *arrange.Bar, s arrange.Said, m song.Meter) string {
	var places []pitch.Frac
	for _, d := range b.Dropped {
		if int(d.What) == s.N {
			places = append(places, d.Start)
		}
	}
	what := dropped[s.N]
	if len(places) > 1 {
		what = strings.Replace(what+"s", "turn of the lines", "turns of the line", 1)
	}
	if arrange.DroppedKind(s.N) == arrange.OptionalNote {
		return fmt.Sprintf("left out, since not everybody plays %s: the %s on %s", map[bool]string{true: "them", false: "it"}[len(places) > 1], what, sp.Places(places, m))
	}
	return fmt.Sprintf("left out, to keep within %.1f strokes a second: the %s on %s", float64(s.Most)/10, what, sp.Places(places, m))
}

// fact says one fact, of several things where there are several.
func (sp Speaker) fact(f arrange.Fact, what []string) string {
	of := f.Of
	if what != nil {
		of = list(what)
	}
	pair := of // "C5 for C"
	if f.For != "" {
		pair = of + " for " + f.For
	}
	plural := len(what) > 1
	is := map[bool]string{true: "are", false: "is"}[plural]
	trim := trimming(f.Trim)
	switch f.Kind {
	case arrange.TheLine:
		return of + ", the line itself"
	case arrange.RootOf:
		if f.For != "" {
			of = f.For
		}
		return "the root alone of " + of
	case arrange.BassOf:
		return "the bass that is named: " + pair
	case arrange.LowestOfRun:
		return of + ", the lowest of the tapped run"
	case arrange.Melody:
		return of + ", the upper voice, which is the tune"
	case arrange.LowerOfTwo:
		return of + ", the lower voice, which is the one that moves"
	case arrange.PowerInstead:
		return pair + ": root and fifth alone"
	case arrange.PowerFor:
		return pair + ": root and fifth, the third is left to the others"
	case arrange.PowerOn:
		return of + " on the notes of the line"
	case arrange.AlteredFor:
		return fmt.Sprintf("%s with its %s, since a plain fifth would contradict %s", of, fifth(f.Degree), f.For)
	case arrange.TypedShape:
		if of == "" {
			return "as the sheet has it"
		}
		return of + " as the sheet has it"
	case arrange.TypedNotes:
		return "as written"
	case arrange.TypedVoicing:
		return of + " in the voicing that is written"
	case arrange.UsualShape:
		return of + map[bool]string{true: " in their usual shapes", false: " in its usual shape"}[plural]
	case arrange.SomeShape:
		return of + " in a shape that this hand can hold, since the usual one is beyond it"
	case arrange.Stands:
		without := fmt.Sprintf("without %s %s", map[bool]string{true: "their", false: "its"}[plural], degrees(f.Lost))
		switch {
		case f.Lost != "" && f.Added != "":
			return fmt.Sprintf("%s: %s, with%s", of, without, f.Added)
		case f.Lost != "":
			return of + ": " + without
		case f.Added != "":
			return fmt.Sprintf("%s: with%s added", of, f.Added)
		}
		return ""
	case arrange.WholeChord:
		return of + ": all of it, on fewer strings"
	case arrange.HeldShape:
		return fmt.Sprintf("hold %s and let it ring", of)
	case arrange.WithOctave:
		return "the octave is added"
	case arrange.WithRootBelow:
		return "the root is added below"
	case arrange.Single:
		return map[bool]string{true: "passing notes stay single", false: "a passing note stays single"}[plural] + suffix(": ", of)
	case arrange.StaysTwo:
		return "two notes as written" + suffix(": ", of)
	case arrange.OpenRoot:
		return of + " with an open root"
	case arrange.FlatFinger:
		return of + " with one finger across both strings"
	case arrange.UpsideDown:
		return of + " upside down, the fifth below its root"
	case arrange.KeepsBass:
		return "it keeps the bass " + of
	case arrange.ForReach:
		return "the hand does not reach it the other way"
	case arrange.ForOneFinger:
		return "so that one finger does"
	case arrange.NoShape:
		return fmt.Sprintf("no fuller shape lies within a reach of %d mm", f.N) + suffix(": ", of)
	case arrange.BassIsLost:
		return fmt.Sprintf("the bass %s of %s is lost", of, f.For)
	case arrange.MovedPhrase:
		return suffixed(of, ", ") + "moved " + octaves(f.N) + " with its phrase to lie on this neck"
	case arrange.MovedNote:
		return suffixed(of, ", ") + "moved " + octaves(f.N) + " to lie on this neck"
	case arrange.OffTheNeck:
		return suffixed(of, " ") + is + " left out: no string has it"
	case arrange.Reduced:
		switch {
		case f.Trim.Bend != 0:
			return "the bend becomes its target" + suffix(": ", of)
		case f.Trim.Vibrato:
			return "without the vibrato" + suffix(": ", of)
		case f.Trim.In != song.NoGlide, f.Trim.Off != song.NoGlide:
			return "without the " + trim + suffix(": ", of)
		case f.Trim.By == song.Slid:
			return "a plain shift instead of the slide" + suffix(": ", of)
		}
		return "picked instead of the " + trim + suffix(": ", of)
	case arrange.ElsewhereFree:
		return "placed where it is least work" + suffix(": ", of)
	case arrange.OtherTuning:
		return "placed in the other tuning" + suffix(": ", of)
	case arrange.NotTogether:
		return "the notes as written do not lie together: what is left is their power chord" + suffix(", ", of)
	case arrange.BeyondReach:
		return fmt.Sprintf("its reach of %d mm is more than the hand's %d", f.N, f.Most) + suffix(": ", of)
	case arrange.BeyondFour:
		return "four fingers are not enough for it" + suffix(": ", of)
	case arrange.NeedsLittle:
		return "it does not go without the little finger" + suffix(": ", of)
	case arrange.NeedsBarre:
		return "it does not go without a barre" + suffix(": ", of)
	case arrange.BeyondSpread:
		return fmt.Sprintf("its fingers spread further than a hand of %d mm lets them", f.Most) + suffix(": ", of)
	case arrange.Chosen:
		return "as you chose"
	case arrange.HarmonyBelow:
		return fmt.Sprintf("the %s of the key below the line", below[f.N]) + suffix(": ", of)
	case arrange.NoneBelow:
		return fmt.Sprintf("no string has the %s below", below[f.N]) + suffix(": ", of) + ", which stays alone"
	case arrange.FingersNotKept:
		return "this hand cannot hold the fingers that are typed" + suffix(": ", of)
	case arrange.RingsBetween:
		return "no finger is there to keep the " + sp.String(f.String) + " string silent, so the root stays alone" + suffix(": ", of)
	case arrange.DeadStrum:
		return "dead strum: the hand eases off and lies on the strings"
	case arrange.DeadNote:
		return "dead note: the finger touches the string without pressing"
	}
	return sp.more(f, of)
}

// below names the intervals that are set below a line.
var below = map[int]string{3: "third", 6: "sixth"}

// suffix adds something after a mark, where there is anything.
func suffix(mark, of string) string {
	if of == "" {
		return ""
	}
	return mark + of
}

func suffixed(of, mark string) string {
	if of == "" {
		return ""
	}
	return of + mark
}

// more says the facts of bars, of versions and of alternatives.
func (sp Speaker) more(f arrange.Fact, of string) string {
	str := ""
	if f.String >= 1 && f.String <= neck.Strings {
		str = sp.String(f.String)
	}
	switch f.Kind {
	case arrange.GoesOn:
		return "the sound of the bar before goes on"
	case arrange.Silence:
		return "silence"
	case arrange.OnlyOpen:
		return fmt.Sprintf("only the open %s string", str)
	case arrange.StaysAt:
		return fmt.Sprintf("stays at fret %d of the %s string", f.Low, str)
	case arrange.OneStringOf:
		return fmt.Sprintf("all on the %s string, frets %d to %d", str, f.Low, f.High)
	case arrange.Between:
		if f.Low == f.High {
			return fmt.Sprintf("all at fret %d", f.Low)
		}
		return fmt.Sprintf("frets %d to %d", f.Low, f.High)
	case arrange.AnchorStays:
		return fmt.Sprintf("from %s to %s the finger on the %s string stays", of, f.For, str)
	case arrange.GuideSlides:
		return fmt.Sprintf("from %s to %s a finger slides along the %s string", of, f.For, str)
	case arrange.SameAs:
		return fmt.Sprintf("the same as bar %d", f.N)
	case arrange.SameNotesAs:
		return fmt.Sprintf("the notes of bar %d, played differently", f.N)
	case arrange.ShapeOf:
		if f.Strings > 0 {
			return fmt.Sprintf("the shape of bar %d, %s thinner", f.N, count(f.Strings, "string"))
		}
		return fmt.Sprintf("the shape of bar %d, %s thicker", f.N, count(-f.Strings, "string"))
	case arrange.ShapeAlong:
		if f.Frets > 0 {
			return fmt.Sprintf("the shape of bar %d, %s higher", f.N, count(f.Frets, "fret"))
		}
		return fmt.Sprintf("the shape of bar %d, %s lower", f.N, count(-f.Frets, "fret"))
	case arrange.LineOf:
		return fmt.Sprintf("the line of bar %d in another place", f.N)
	case arrange.LineMoved:
		return fmt.Sprintf("the line of bar %d, %s", f.N, interval(f.Semitones))
	case arrange.SecondPlayer:
		if of == song.FirstPlayer {
			return "the first line is left to the first player"
		}
		return of + " is left to the second player"
	case arrange.NamesAreShapes:
		return fmt.Sprintf("names are the shapes that are fingered: %s sounds %s", of, f.For)
	case arrange.NamesSound:
		return fmt.Sprintf("names are what sounds: %s is fingered as %s", of, f.For)
	case arrange.InTuning:
		return "placed in the tuning " + of
	case arrange.OctavesMoved:
		return count(f.N, "note") + " " + third("sounds", f.N) + " in another octave"
	case arrange.ThinnerChords:
		return count(f.N, "chord") + " " + map[bool]string{true: "has", false: "have"}[f.N == 1] + " fewer notes"
	case arrange.OpenLost:
		return count(f.N, "open string") + " " + map[bool]string{true: "is fretted or lies", false: "are fretted or lie"}[f.N == 1] + " elsewhere"
	case arrange.LegatoLost:
		return count(f.N, "legato note") + " " + map[bool]string{true: "is", false: "are"}[f.N == 1] + " picked, since the string changes there"
	case arrange.GallopPicked:
		return "gallops are picked down, down-up"
	case arrange.NotesOfPart:
		return "the same notes as " + of
	case arrange.LineOfPart:
		return "the line of " + of + ", " + interval(f.Semitones)
	case arrange.AllOnString:
		return fmt.Sprintf("all of it lies on the %s string", str)
	case arrange.AllMoved:
		return "all of it is moved " + octaves(f.N) + ", since no string has its range where it sounds"
	case arrange.NoOneString:
		return "its range does not fit one string, so the nearest places are used"
	case arrange.HandStays:
		return "the hand stays in one place"
	case arrange.LeadLine:
		return "a lead line: power chords on its notes would drown it; learn it as one finger or as written, or ask for thirds or sixths below it"
	case arrange.ArpeggioHere:
		return "an arpeggio: easier chords strums the chords that it spells"
	case arrange.TooHigh:
		return fmt.Sprintf("its shapes would lie at fret %d for notes typed at %d", f.High, f.Low)
	case arrange.NoChordsHere:
		return "no chord here to make easier"
	case arrange.NoBarreThere:
		return "no barre"
	case arrange.NoLittleThere:
		return "without the little finger"
	case arrange.NoStretch:
		return fmt.Sprintf("%d mm less to stretch", f.N)
	case arrange.FewerFingers:
		return "fewer fingers"
	case arrange.LessMoving:
		return fmt.Sprintf("the hand moves %d mm less", f.N)
	case arrange.MoreStay:
		return "more fingers stay where they are"
	case arrange.MoreOpen:
		return "more open strings"
	case arrange.OneSound:
		return "the same sound throughout"
	case arrange.Fuller:
		return "a fuller sound"
	case arrange.OctaveElsewhere:
		text := "the same notes " + octaves(f.N)
		switch {
		case f.Strings > 0:
			return text + ", " + count(f.Strings, "string") + " over"
		case f.Strings < 0:
			return text + ", " + count(-f.Strings, "string") + " back"
		}
		return text
	case arrange.IsOnString:
		return fmt.Sprintf("on the %s string", str)
	case arrange.IsOnStrings:
		return "on " + count(f.N, "string")
	case arrange.IsInPosition:
		return "in " + ordinal(f.N) + " position"
	case arrange.IsInFrets:
		if f.Low == f.High {
			return fmt.Sprintf("at fret %d", f.Low)
		}
		return fmt.Sprintf("frets %d to %d", f.Low, f.High)
	case arrange.IsOpen:
		return "open strings alone"
	case arrange.IsWithOpen:
		if f.N == 0 {
			return "without open strings"
		}
		return "with open strings"
	}
	return ""
}

// Alternative says what an alternative is, and what speaks for it.
func (sp Speaker) Alternative(a arrange.Alternative) (is, buys string) {
	say := func(facts []arrange.Fact, between string) string {
		var list []string
		for _, f := range facts {
			list = append(list, sp.fact(f, nil))
		}
		return strings.Join(list, between)
	}
	return say(a.Is, ", "), say(a.Buys, "; ")
}

// Unmet says which pin cannot be kept, where, and what is played instead.
func (sp Speaker) Unmet(u arrange.Unmet, m song.Meter) string {
	if u.Why == arrange.NoSuchBar {
		where := fmt.Sprintf("bar %d", u.Bar)
		if u.Pin.Pass > 0 {
			where += fmt.Sprintf(" in pass %d", u.Pin.Pass)
		}
		return fmt.Sprintf("%s is not in this part: %s waits for it", where, sp.Pin(u.Pin))
	}
	if u.Why == arrange.NoSuchChord {
		return fmt.Sprintf("no chord of this part is written as %s: %s waits for it", u.Of, sp.Pin(u.Pin))
	}
	return fmt.Sprintf("bar %d on %s: %s", u.Bar, sp.Place(u.Start, m), sp.unmet(u))
}

func (sp Speaker) unmet(u arrange.Unmet) string {
	pin := sp.Pin(u.Pin)
	of := u.Of
	if of == "" {
		of = "what is written"
	}
	switch u.Why {
	case arrange.NoSuchHand:
		return fmt.Sprintf("%s is beyond this hand; %s is played", pin, u.Played)
	case arrange.NoFinger:
		return fmt.Sprintf("%s cannot hold %s; %s is played", pin, of, u.Played)
	case arrange.NoStroke:
		return fmt.Sprintf("nothing is struck there in this version: %s waits for it", pin)
	case arrange.OtherNotes:
		return fmt.Sprintf("%s has %s, not in what is written; it is played as you chose", pin, list(strings.Fields(u.Of)))
	}
	var shapes []string
	for _, f := range u.Could {
		shapes = append(shapes, f.String())
	}
	return fmt.Sprintf("%s does not have %s, which lies at %s; %s is played", pin, of, list(shapes), u.Played)
}

// Pin says what a pin decides.
func (sp Speaker) Pin(p arrange.Pin) string {
	switch p.What {
	case arrange.PinShape:
		return "the shape " + p.Shape.String()
	case arrange.PinString:
		return fmt.Sprintf("the %s string", sp.String(p.On))
	case arrange.PinRegion:
		return fmt.Sprintf("the stretch of frets %d to %d", p.Low, p.To)
	}
	if p.On != 0 {
		return fmt.Sprintf("the %s on the %s string", p.Finger.Name(), sp.String(p.On))
	}
	return "the " + p.Finger.Name()
}
