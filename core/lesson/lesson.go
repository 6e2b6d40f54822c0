// Package lesson makes of the versions of a song what can be learnt: what each asks of a
// student, and the steps.
package lesson

import (
	"math"
	"sync"

	"valleyside/core/arrange"
	"valleyside/core/drill"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Kind is what is practised in a step.
type Kind string

// The kinds, in the order in which a teacher has them.
const (
	Rhythm Kind = "rhythm" // on muted strings
	Shape  Kind = "shape"  // one that is new
	Change Kind = "change" // from one shape to another and back
	Piece  Kind = "piece"  // some bars of a part
	Seam   Kind = "seam"   // from the end of a part into the beginning of another, or of itself
	Whole  Kind = "part"   // a part, up to its tempo
	Form   Kind = "form"   // parts joined, and the whole way
	Finish Kind = "finish" // what is added to the notes, and the next rung
)

// Kinds lists them all in that order.
var Kinds = []Kind{Rhythm, Shape, Change, Piece, Seam, Whole, Form, Finish}

// Student is for whom a lesson is made. The zero Student is a usual player who has
// learnt nothing yet.
type Student struct {
	Player  hand.Player
	Known   Known
	Minutes int // a day; 0 is UsualMinutes
}

// lacks tells whether a technique has to be learnt: one that is said to be new, and where
// nothing is, any that is not said to be known.
func (s Student) lacks(skill hand.Skills) bool {
	if s.Player.New != 0 {
		return s.Player.New&skill != 0
	}
	return skill&^s.Known.Skills != 0
}

// begins tells whether somebody has not played yet: nothing is known, and the pace is slow.
func (s Student) begins() bool {
	return len(s.Known.shapes) == 0 && len(s.Known.names) == 0 && s.Player.Pace() < beginsBelow
}

// beginsBelow is a pace in strokes a second that is left behind in the first months.
const beginsBelow = 3

// Chosen is what is learnt of a part.
type Chosen struct {
	Version *arrange.Version // nil where the part is left out
	Next    *arrange.Version // the next rung, for when it is ready; nil where there is none
}

// Lesson is the steps of a song for one student.
type Lesson struct {
	Song    *song.Song
	Tempo   float64 // of the song, at which it is to be played
	Chosen  []Chosen
	Steps   []Step
	Minutes int                // of practice in all
	Days    int                // from the first to the last, with so many minutes on each
	typed   []func() song.Part // by part, as On has it; made once
}

// Step is something that can be succeeded at in one sitting.
type Step struct {
	Kind Kind
	// Part is the index of the part that it is of, −1 for the form. Into is that of the
	// part which a seam or a form leads into, −1 where there is none.
	Part, Into int
	From, To   int // written bars of the part, from 1; of the form, those that are played
	Rung       arrange.Rung
	// Start and Goal are tempos of the part, for the form of the song, in beats per
	// minute.
	Start, Goal float64
	Passes      int // clean ones in a row at each tempo
	Minutes     int
	Day         int // on which it begins, from 1
	Why         []Reason
	// Shapes are the one that a shape is about, or the two of a change.
	Shapes []Held
	Full   bool  // of a rhythm: as it is written, where the version leaves strokes out
	Touch  Touch // that a finish adds; NoTouch for the next rung
	// Without is what the version has and is left for later.
	Without Touches
	Drills  []drill.Drill // for the hard places in it, the hardest first; each exercise once in a lesson
	places  []drill.Place // what they are made of
	ID      StepID        // by which it is found again when the lesson is built anew
	Changed bool          // by the teacher
	Words   string        // of the teacher
	Since   *Wish         // what the teacher decided while something else was played in it; else nil
	Own     *Own          // a step of the teacher's; nil for those that are built
}

// Held is a shape that is held, as it is taught.
type Held struct {
	drill.Shape
	Name  string // as it is called here
	Mutes []hand.Mute
	Bar   int // where it comes first, from 1
	// Another tells that the student has another shape of that name, or meets one before.
	Another bool
}

// Called is its name, told apart from another shape that is called so.
func (h *Held) Called() string {
	if h.Another {
		return h.Name + " (" + h.Frets.String() + ")"
	}
	return h.Name
}

// ReasonKind is why a step is there.
type ReasonKind uint8

// The reasons.
const (
	OffBeat       ReasonKind = iota // N strokes fall off the beat, the first of them at At in Bar
	Galloping                       // an eighth and two sixteenths in a beat
	GallopingBack                   // two sixteenths and an eighth
	Swung                           // the eighths swing
	Tripping                        // triplets among others
	OddTime                         // N beats to a bar
	PicksUp                         // the part begins before its first bar, at At of Bar
	TwoToABeat                      // the first stroke between two beats is at At of Bar
	GoesUpTo                        // with all its strokes up to a tempo of Most, faster with fewer
	PassDiffers                     // the last time round differs, in Bar
	NewShape                        // a shape of N fingers, a barre over Strings strings
	HardChange                      // Hard says what is hard about it
	FingerStays                     // on String
	FingerSlides                    // along String
	HardestBar                      // Bar asks most: Hard
	EndFirst                        // the end first, so that what comes before leads into it
	JoinedTo                        // bars From to To lead into what is known
	NewHere                         // of what is known from another part only bars From to To differ
	LoopsBack                       // the part comes round to its beginning
	LeadsInto                       // the end of a part leads into the other
	SlowStart                       // N of 100 of the tempo: clean at once
	PaceStart                       // N of 100, so that Most strokes a second are comfortable
	GoesOn                          // from where it is clean
	TwoJoined                       // two parts in a row
	AllOfIt                         // the whole way: N bars, Seconds long
	ByCues                          // by the words and sounds, from anywhere
	AddsTouch                       // N strokes have it
	NextRung                        // of grade Grade, for when Hard goes at Most beats a minute, or Limit is none any more, or it is ready
	AsOne                           // the part in one go
)

// Reason is one thing to say of a step, with its numbers. Which are set depends on its
// kind.
type Reason struct {
	Kind     ReasonKind
	N        int
	Bar      int
	From, To int
	At       pitch.Frac
	Meter    song.Meter
	Event    *arrange.Event // of which Hard is said
	Hard     *arrange.Hard
	String   neck.String
	Strings  int
	Most     float64
	Seconds  float64
	Touch    Touch
	Grade    float64
	Limit    *Limit // what the next rung has that is beyond the student as yet
}

// Build makes the lesson of a song at a tempo, of the versions that are chosen for its
// parts, by their index. The same gives the same.
func Build(s *song.Song, chosen []Chosen, st Student, tempo float64) *Lesson {
	b := newBuilder(s, chosen, st, tempo)
	for k, i := range b.order() {
		b.rhythm(i)
		if k == 0 {
			b.shapesAhead()
		}
		b.newShapes(i, math.MaxInt)
		b.hardChanges(i)
		if fresh, ok := b.differs(i); ok {
			b.whatDiffers(i, fresh)
		} else {
			b.pieces(i)
			b.loop(i)
			b.part(i)
		}
		b.seams(i)
	}
	b.form()
	for _, i := range b.order() {
		b.finish(i)
		b.next(i)
	}
	b.setDrills()
	l := On(s, tempo, chosen)
	l.Steps = b.steps
	l.name()
	l.schedule(st.minutes(), false)
	return l
}

// On is a lesson without steps yet: what there is to be learnt.
func On(s *song.Song, tempo float64, chosen []Chosen) *Lesson {
	l := &Lesson{Song: s, Tempo: tempo, Chosen: chosen, typed: make([]func() song.Part, len(chosen))}
	for i := range chosen {
		l.typed[i] = sync.OnceValue(func() song.Part {
			once := *chosen[i].Version
			once.Passes = nil // each written bar once
			return once.Typed(&s.Parts[i])
		})
	}
	return l
}

// builder adds one step after the other, and remembers what has been taught.
type builder struct {
	song    *song.Song
	chosen  []Chosen
	student Student
	tempo   float64
	at      hand.At
	steps   []Step
	views   []*view // by part, made once
	done    []int   // parts whose steps are there

	shapes  map[shapeKey]bool
	changes map[[2]neck.Frets]bool
	changed map[shapeKey]bool // shapes of which a change has been drilled
	bars    map[string]bool
	pairs   map[[2]string]bool
	joined  map[[2]string]bool // the seams that are there
	rhythms map[string]bool
	named   map[string]shapeKey // the first shape of a name

	pickedUp, halved bool // whether a pickup and two strokes in a beat have been met
}

func newBuilder(s *song.Song, chosen []Chosen, st Student, tempo float64) *builder {
	return &builder{song: s, chosen: chosen, student: st, tempo: tempo, at: st.Player.At(st.Player.On(s.Tuning, s.Capo).Neck),
		shapes: map[shapeKey]bool{}, changes: map[[2]neck.Frets]bool{}, changed: map[shapeKey]bool{}, bars: map[string]bool{}, pairs: map[[2]string]bool{}, joined: map[[2]string]bool{}, rhythms: map[string]bool{}, named: map[string]shapeKey{}}
}

// order lists the parts that are learnt in the order in which they come, those that the
// roadmap leaves out at the end.
func (b *builder) order() (list []int) {
	seen := make([]bool, len(b.song.Parts))
	add := func(i int) {
		if !seen[i] && i < len(b.chosen) && b.chosen[i].Version != nil && len(b.chosen[i].Version.Bars) > 0 {
			list = append(list, i)
		}
		seen[i] = true
	}
	for _, leg := range b.song.Order {
		add(leg.Part)
	}
	for i := range b.song.Parts {
		add(i)
	}
	return list
}

// step begins a step of some bars of a part at its tempo while it is new, up to the
// first stage.
func (b *builder) step(kind Kind, v *view, from, to int) Step {
	return Step{Kind: kind, Part: v.index, Into: -1, From: from, To: to, Rung: v.version.Rung, Start: v.stages[0], Goal: v.stages[1],
		Passes: usualPasses, Without: v.later}
}

// leastPasses are enough where more would take longer than a day.
const leastPasses = 2

// add adds a step. What takes longer than the practice of a day is begun nearer to its goal
// where it joins what is known, asks for fewer passes, and goes up less far.
func (b *builder) add(s Step, seconds, tries float64) {
	s.Minutes = minutes(seconds, s.Start, s.Goal, s.Passes, tries)
	for s.Minutes > b.student.minutes() {
		switch {
		case s.Kind == Form && whole(s.Start*climb) < s.Goal:
			s.Start = whole(s.Start * climb)
		case s.Passes > leastPasses:
			s.Passes--
		case s.Kind != Whole && s.Kind != Form && s.Goal > s.Start*climb:
			s.Goal = whole(s.Goal / climb)
		default:
			b.steps = append(b.steps, s)
			return
		}
		s.Minutes = minutes(seconds, s.Start, s.Goal, s.Passes, tries)
	}
	b.steps = append(b.steps, s)
}
