package words

import (
	"fmt"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/song"
)

// fact says one fact, of what it names itself.
func (sp Speaker) fact(f arrange.Fact) string {
	of, rest := arrange.Apart(f)
	return sp.factOf(rest, of, 1)
}

// factOf says one fact of n things, which are named together; of is empty where
// nothing is.
func (sp Speaker) factOf(f arrange.Fact, of string, n int) string {
	end := func(mark string) string { // what it is said of, behind the sentence
		if of == "" {
			return ""
		}
		return mark + of
	}
	switch f := f.(type) {
	case arrange.Plain:
		return plain[f]
	case arrange.Reason:
		return reasons[f.Why].of(of, n)
	case arrange.StandsFor:
		return shares[f.Share].of(of, n)
	case arrange.AlteredFor:
		return fmt.Sprintf("%s with its %s, since a plain fifth would contradict %s", of, fifth(f.Fifth), f.For)
	case arrange.BassIsLost:
		return fmt.Sprintf("the bass %s of %s is lost", of, f.Chord)
	case arrange.Colours:
		return colours(f, of, n)
	case arrange.NoShape:
		return fmt.Sprintf("no fuller shape lies within a reach of %d mm", f.MM) + end(": ")
	case arrange.BeyondReach:
		return fmt.Sprintf("its reach of %d mm is more than the hand's %d", f.MM, f.Most) + end(": ")
	case arrange.BeyondSpread:
		return fmt.Sprintf("its fingers spread further than a hand of %d mm lets them", f.Most) + end(": ")
	case arrange.Moved:
		if of != "" {
			of += ", "
		}
		return of + "moved " + octaves(f.Octaves) + either(f.Phrase, " with its phrase", "") + " to lie on this neck"
	case arrange.Reduced:
		return reduced(f) + end(": ")
	case arrange.Below:
		return fmt.Sprintf("the %s of the key below the line", below[f.Interval]) + end(": ")
	case arrange.NoneBelow:
		return fmt.Sprintf("no string has the %s below", below[f.Interval]) + end(": ") + ", which stays alone"
	case arrange.RingsBetween:
		return "no finger is there to keep the " + sp.String(f.String) + " string silent, so the root stays alone" + end(": ")
	case arrange.Remarked:
		text := sp.Remark(f.Remark)
		if f.Remark.Chord != "" && !strings.Contains(text, f.Remark.Chord) {
			return f.Remark.Chord + ": " + text
		}
		return text
	case arrange.OnlyOpen:
		return fmt.Sprintf("only the open %s string", sp.String(f.String))
	case arrange.StaysAt:
		return fmt.Sprintf("stays at fret %d of the %s string", f.Fret, sp.String(f.String))
	case arrange.OneStringOf:
		return fmt.Sprintf("all on the %s string, frets %d to %d", sp.String(f.String), f.Low, f.High)
	case arrange.Between:
		if f.Low == f.High {
			return fmt.Sprintf("all at fret %d", f.Low)
		}
		return fmt.Sprintf("frets %d to %d", f.Low, f.High)
	case arrange.AnchorStays:
		return fmt.Sprintf("from %s to %s the finger on the %s string stays", f.From, f.To, sp.String(f.String))
	case arrange.GuideSlides:
		return fmt.Sprintf("from %s to %s a finger slides along the %s string", f.From, f.To, sp.String(f.String))
	case arrange.SameAs:
		return fmt.Sprintf("the same as bar %d", f.Bar)
	case arrange.SameNotesAs:
		return fmt.Sprintf("the notes of bar %d, played differently", f.Bar)
	case arrange.ShapeOf:
		return fmt.Sprintf("the shape of bar %d, %s %s", f.Bar, count(max(f.Strings, -f.Strings), "string"), either(f.Strings > 0, "thinner", "thicker"))
	case arrange.ShapeAlong:
		return fmt.Sprintf("the shape of bar %d, %s %s", f.Bar, count(max(f.Frets, -f.Frets), "fret"), either(f.Frets > 0, "higher", "lower"))
	case arrange.LineOf:
		return fmt.Sprintf("the line of bar %d in another place", f.Bar)
	case arrange.LineMoved:
		return fmt.Sprintf("the line of bar %d, %s", f.Bar, interval(f.Semitones))
	case arrange.SecondPlayer:
		if f.Name == song.FirstPlayer {
			return "the first line is left to the first player"
		}
		return f.Name + " is left to the second player"
	case arrange.InTuning:
		return "placed in the tuning " + f.Tuning
	case arrange.NamesAreShapes:
		return fmt.Sprintf("names are the shapes that are fingered: %s sounds %s", f.Shape, f.Sounds)
	case arrange.NamesSound:
		return fmt.Sprintf("names are what sounds: %s is fingered as %s", f.Sounds, f.Shape)
	case arrange.OctavesMoved:
		return count(int(f), "note") + " " + third("sounds", int(f)) + " in another octave"
	case arrange.ThinnerChords:
		return count(int(f), "chord") + " " + either(f == 1, "has", "have") + " fewer notes"
	case arrange.OpenLost:
		return count(int(f), "open string") + " " + either(f == 1, "is fretted or lies", "are fretted or lie") + " elsewhere"
	case arrange.LegatoLost:
		return count(int(f), "legato note") + " " + either(f == 1, "is", "are") + " picked, since the string changes there"
	case arrange.NotesOfPart:
		return "the same notes as " + f.Part
	case arrange.LineOfPart:
		return "the line of " + f.Part + ", " + interval(f.Semitones)
	case arrange.AllOnString:
		return fmt.Sprintf("all of it lies on the %s string", sp.String(f.String))
	case arrange.AllMoved:
		return "all of it is moved " + octaves(f.Octaves) + ", since no string has its range where it sounds"
	case arrange.TooHigh:
		return fmt.Sprintf("its shapes would lie at fret %d for notes typed at %d", f.High, f.Low)
	case arrange.OnString:
		return fmt.Sprintf("on the %s string", sp.String(f.String))
	case arrange.OnStrings:
		return "on " + count(int(f), "string")
	case arrange.InPosition:
		return "in " + ordinal(int(f)) + " position"
	case arrange.InFrets:
		if f.Low == f.High {
			return fmt.Sprintf("at fret %d", f.Low)
		}
		return fmt.Sprintf("frets %d to %d", f.Low, f.High)
	case arrange.OctaveElsewhere:
		return "the same notes " + octaves(f.Octaves) + over(f.Strings)
	case arrange.LessReach:
		return fmt.Sprintf("%d mm less to stretch", f)
	case arrange.LessMoving:
		return fmt.Sprintf("the hand moves %d mm less", f)
	}
	return ""
}

// plain has the sentences of facts that their name says whole.
var plain = [...]string{
	arrange.GoesOn:        "the sound of the bar before goes on",
	arrange.Silence:       "silence",
	arrange.GallopPicked:  "gallops are picked down, down-up",
	arrange.NoOneString:   "its range does not fit one string, so the nearest places are used",
	arrange.HandStays:     "the hand stays in one place",
	arrange.LeadLine:      "a lead line: power chords on its notes would drown it; learn it as one finger or as written, or ask for thirds or sixths below it",
	arrange.ArpeggioHere:  "an arpeggio: easier chords strums the chords that it spells",
	arrange.NoChordsHere:  "no chord here to make easier",
	arrange.AllOpen:       "open strings alone",
	arrange.WithOpen:      "with open strings",
	arrange.WithoutOpen:   "without open strings",
	arrange.NoBarreThere:  "no barre",
	arrange.NoLittleThere: "without the little finger",
	arrange.FewerFingers:  "fewer fingers",
	arrange.MoreStay:      "more fingers stay where they are",
	arrange.MoreOpen:      "more open strings",
	arrange.OneSound:      "the same sound throughout",
	arrange.Fuller:        "a fuller sound",
}

// phrase is a sentence of nothing in particular, of one thing, which stands where
// its %s is, and of several.
type phrase struct{ alone, one, many string }

func (p phrase) of(of string, n int) string {
	switch {
	case of == "":
		return p.alone
	case n > 1 && p.many != "":
		return fmt.Sprintf(p.many, of)
	case p.one == "":
		return p.alone
	}
	return fmt.Sprintf(p.one, of)
}

// before is a phrase that begins with what it is said of.
func before(text string) phrase { return phrase{alone: strings.TrimSpace(text), one: "%s" + text} }

// after is a phrase that ends with what it is said of, behind a mark.
func after(text, mark string) phrase { return phrase{alone: text, one: text + mark + "%s"} }

// reasons has the sentences why an event is played as it is.
var reasons = [...]phrase{
	arrange.TheLine:        before(", the line itself"),
	arrange.LowestOfRun:    before(", the lowest of the tapped run"),
	arrange.Melody:         before(", the upper voice, which is the tune"),
	arrange.LowerOfTwo:     before(", the lower voice, which is the one that moves"),
	arrange.PowerOn:        before(" on the notes of the line"),
	arrange.TypedShape:     before(" as the sheet has it"),
	arrange.TypedNotes:     {alone: "as written"},
	arrange.TypedVoicing:   before(" in the voicing that is written"),
	arrange.UsualShape:     {"in its usual shape", "%s in its usual shape", "%s in their usual shapes"},
	arrange.SomeShape:      before(" in a shape that this hand can hold, since the usual one is beyond it"),
	arrange.WholeChord:     before(": all of it, on fewer strings"),
	arrange.HeldShape:      {"hold it and let it ring", "hold %s and let it ring", "hold %s and let them ring"},
	arrange.WithOctave:     {alone: "the octave is added"},
	arrange.WithRootBelow:  {alone: "the root is added below"},
	arrange.Single:         {"a passing note stays single", "a passing note stays single: %s", "passing notes stay single: %s"},
	arrange.StaysTwo:       after("two notes as written", ": "),
	arrange.OpenRoot:       before(" with an open root"),
	arrange.FlatFinger:     before(" with one finger across both strings"),
	arrange.UpsideDown:     before(" upside down, the fifth below its root"),
	arrange.KeepsBass:      after("it keeps the bass", " "),
	arrange.ForReach:       {alone: "the hand does not reach it the other way"},
	arrange.ForOneFinger:   {alone: "so that one finger does"},
	arrange.OffTheNeck:     {"is left out: no string has it", "%s is left out: no string has it", "%s are left out: no string has them"},
	arrange.ElsewhereFree:  after("placed where it is least work", ": "),
	arrange.OtherTuning:    after("placed in the other tuning", ": "),
	arrange.NotTogether:    after("the notes as written do not lie together: what is left is their power chord", ", "),
	arrange.BeyondFour:     after("four fingers are not enough for it", ": "),
	arrange.NeedsLittle:    after("it does not go without the little finger", ": "),
	arrange.NeedsBarre:     after("it does not go without a barre", ": "),
	arrange.Chosen:         {alone: "as you chose"},
	arrange.FingersNotKept: after("this hand cannot hold the fingers that are typed", ": "),
	arrange.DeadStrum:      {alone: "dead strum: the hand eases off and lies on the strings"},
	arrange.DeadNote:       {alone: "dead note: the finger touches the string without pressing"},
}

// shares has the sentences for what is played in a chord's place.
var shares = [...]phrase{
	arrange.RootAlone:    after("the root alone of", " "),
	arrange.BassAlone:    after("the bass that is named", ": "),
	arrange.PowerWithout: before(": root and fifth, the third is left to the others"),
	arrange.PowerInstead: before(": root and fifth alone"),
}

// colours says what a shape lacks of its chord, and what it adds.
func colours(f arrange.Colours, of string, n int) string {
	without := fmt.Sprintf("without %s %s", either(n > 1, "their", "its"), degrees(f.Lost))
	switch {
	case f.Lost != "" && f.Added != "":
		return fmt.Sprintf("%s: %s, with%s", of, without, f.Added)
	case f.Lost != "":
		return of + ": " + without
	}
	return fmt.Sprintf("%s: with%s added", of, f.Added)
}

// reduced says what an ornament has become.
func reduced(f arrange.Reduced) string {
	switch t := f.Trim; {
	case t.Bend != 0:
		return "the bend becomes its target"
	case t.Vibrato:
		return "without the vibrato"
	case t.In != song.NoGlide, t.Off != song.NoGlide:
		return "without the " + trimming(t)
	case t.By == song.Slid:
		return "a plain shift instead of the slide"
	}
	return "picked instead of the " + trimming(f.Trim)
}

// over says how many strings on something lies again.
func over(strings int) string {
	switch {
	case strings > 0:
		return ", " + count(strings, "string") + " over"
	case strings < 0:
		return ", " + count(-strings, "string") + " back"
	}
	return ""
}

// below names the intervals that are set below a line.
var below = map[int]string{3: "third", 6: "sixth"}

func either(so bool, yes, no string) string {
	if so {
		return yes
	}
	return no
}
