package studio

import (
	"fmt"
	"math"
	"time"
	"unicode/utf8"

	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/sheet"
	"valleyside/store"
)

// Player is a student's hand and instrument. Skills and ways of picking that are not known
// any more are left out.
func Player(st *store.Student) hand.Player {
	unlearnt, _ := hand.ParseSkills(st.Unlearnt)
	picking, _ := hand.ParsePicking(st.Picking)
	return hand.Player{Reach: st.Reach, Scale: st.Scale, NotesPerSecond: st.NotesPerSecond, LeftHanded: st.LeftHanded,
		Acoustic: st.Acoustic, NoBarre: st.NoBarre, NoLittle: st.NoLittle, Thumb: st.Thumb, Picking: picking, New: unlearnt}
}

// Learner is a student as the steps of a lesson are made for. Techniques that are not
// among what they still have to learn are known; what is not understood of the rest any
// more is left out. Nobody in particular knows nothing yet: all of it is there to be chosen
// from.
func Learner(st *store.Student) lesson.Student {
	p := Player(st)
	if st.ID == 0 {
		return lesson.Student{Player: p, Minutes: st.Minutes}
	}
	known, _ := lesson.ParseKnown(st.Known)
	known.Skills |= hand.AllSkills &^ p.New
	return lesson.Student{Player: p, Known: known, Minutes: st.Minutes}
}

// LearnerOrAnybody is a student as versions are fitted to: nobody in particular has what is
// usual.
func LearnerOrAnybody(st *store.Student) lesson.Student {
	learner := Learner(st)
	if st.ID == 0 {
		learner.Known, _ = lesson.ParseKnown("open chords, power chords, seventh chords, octaves")
	}
	return learner
}

// Nobody is who a lesson is made for that is made for nobody in particular.
var Nobody = store.Student{Reach: hand.UsualReach, Scale: neck.UsualScale, NotesPerSecond: hand.UsualNotesPerSecond, Minutes: lesson.UsualMinutes, LessonDay: -1, Picking: string(hand.Alternate)}

// Limits of a student and of what they log, for every way in.
const (
	MinReach, MaxReach   = 30, 250 // mm
	MinScale, MaxScale   = 300, 900
	MinStrokes           = 0.5 // a second
	MaxStrokes           = 20
	MostName             = 80 // characters
	MostAbout            = 300
	MostKnown            = 400
	MostClean            = 50
	MostMinutes          = 600 // of an entry
	MostWord             = 200
	MostTag              = 40 // letters of a tag
	MostTags             = 12 // on one thing
	mostPart, mostTarget = 200, 1000
)

// faults collects what is wrong with something.
type faults []string

func (f *faults) say(format string, a ...any) { *f = append(*f, fmt.Sprintf(format, a...)) }

func (f *faults) text(what, s string, most int) {
	if !utf8.ValidString(s) || utf8.RuneCountInString(s) > most {
		f.say("%s is longer than %d characters, or no text", what, most)
	}
}

func (f *faults) number(what string, v, low, high float64) {
	if math.IsNaN(v) || v < low || v > high {
		f.say("%s must be a number from %g to %g", what, low, high)
	}
}

// FaultsOfStudent lists what a student cannot be, whether typed, in a table or in an export.
func FaultsOfStudent(st *store.Student) []string {
	var f faults
	if st.Name == "" {
		f.say("there is no name")
	}
	f.text("the name", st.Name, MostName)
	f.text("what is noted", st.About, MostAbout)
	f.text("what is known", st.Known, MostKnown)
	f.number("the reach in mm", st.Reach, MinReach, MaxReach)
	f.number("the scale length in mm", st.Scale, MinScale, MaxScale)
	f.number("the notes a second", st.NotesPerSecond, MinStrokes, MaxStrokes)
	if st.Minutes != 0 {
		f.number("the minutes of practice a day", float64(st.Minutes), 1, lesson.MostMinutes)
	}
	f.number("the day of the lesson", float64(st.LessonDay), -1, 6)
	if _, err := time.Parse("15:04", st.LessonTime); err != nil && st.LessonTime != "" {
		f.say("the time of the lesson is %q; write it like 16:30", st.LessonTime)
	}
	if _, err := hand.ParseSkills(st.Unlearnt); err != nil {
		f.say("what is not learnt yet: %v", err)
	}
	if _, err := hand.ParsePicking(st.Picking); err != nil {
		f.say("the picking: %v", err)
	}
	if _, err := lesson.ParseKnown(st.Known); err != nil {
		f.say("shapes that are known: %v", err)
	}
	return f
}

// FaultsOfEntry lists what an entry cannot be.
func FaultsOfEntry(e *store.Entry) []string {
	var f faults
	f.text("the part", e.Part, mostPart)
	f.text("the words", e.Word, MostWord)
	f.number("the tempo", e.Tempo, sheet.MinTempo, sheet.MaxTempo)
	f.number("clean passes", float64(e.Clean), 0, MostClean)
	f.number("the minutes", float64(e.Minutes), 0, MostMinutes)
	if e.PractisedAt <= 0 {
		f.say("there is no day")
	}
	return f
}
