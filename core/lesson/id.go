package lesson

import (
	"fmt"
	"strconv"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/song"
)

// StepID is what a step of a lesson is known by: the same when the lesson is built anew,
// for another tempo, another version or another student, after its parts have got other
// names and bars were put in. Everything that belongs to a step is kept under it: what the
// teacher changed, and what was practised. The zero StepID is no step.
type StepID struct {
	Kind       Kind
	Part, Into song.PartID   // 0 where there is none
	From, To   int           // of a piece: what its first and its last bar are known by
	Shapes     [2]neck.Frets // of a shape the first, of a change both; else zero
	Touch      Touch         // of a finish; NoTouch is the next rung
	Cues       bool          // the whole way by its cues
	Nth        int           // of several that are alike, from 0
	Cut        [2]int        // of a piece of a step that was cut: its bars, as From and To
	Own        int           // of a step of the teacher's, from 1
}

// IsZero tells whether it is no step.
func (id StepID) IsZero() bool { return id == StepID{} }

// OfWhole tells whether practice of the step is practice of its part as a whole; so is
// practice of no step.
func (id StepID) OfWhole() bool { return id.IsZero() || id.Kind == Whole && id.Cut == [2]int{} }

// Whole is the step that this one was cut from; itself where it was not.
func (id StepID) Whole() StepID {
	id.Cut = [2]int{}
	return id
}

// touchMarks are the touches as an id has them.
var touchMarks = [touches]string{PalmMuting: "palm-muting", Stops: "stops", Accents: "accents", HammerOns: "hammer-ons", PullOffs: "pull-offs", Slides: "slides", Vibrato: "vibrato"}

// String writes an id in letters, digits, points and hyphens, as ParseStepID reads it: its
// kind, then p and i for its parts, b for its bars, f for each shape, t for a touch, n, c and o.
// No step is empty.
func (id StepID) String() string {
	if id.IsZero() {
		return ""
	}
	var b strings.Builder
	b.WriteString(string(id.Kind))
	number := func(mark string, n int) {
		if n != 0 {
			fmt.Fprintf(&b, ".%s%d", mark, n)
		}
	}
	bars := func(mark string, from, to int) {
		if from != 0 || to != 0 {
			fmt.Fprintf(&b, ".%s%d-%d", mark, from, to)
		}
	}
	number("p", int(id.Part))
	number("i", int(id.Into))
	bars("b", id.From, id.To)
	if n := shapesOf[id.Kind]; n > 0 {
		for _, f := range id.Shapes[:n] {
			b.WriteString(".f" + f.String())
		}
	}
	if id.Touch != NoTouch {
		b.WriteString(".t" + touchMarks[id.Touch])
	}
	if id.Cues {
		b.WriteString(".cues")
	}
	number("n", id.Nth)
	bars("c", id.Cut[0], id.Cut[1])
	number("o", id.Own)
	return b.String()
}

// shapesOf is how many shapes a kind of step is about.
var shapesOf = map[Kind]int{Shape: 1, Change: 2}

// ParseStepID reads what String writes.
func ParseStepID(text string) (StepID, error) {
	fail := func() (StepID, error) { return StepID{}, fmt.Errorf("%q names no step", text) }
	if text == "" {
		return StepID{}, nil
	}
	kind, rest, more := strings.Cut(text, ".")
	id := StepID{Kind: Kind(kind)}
	if !isKind(id.Kind) {
		return fail()
	}
	shapes := 0
	for more {
		var field string
		field, rest, more = strings.Cut(rest, ".")
		if field == "cues" {
			id.Cues = true
			continue
		}
		if field == "" {
			return fail()
		}
		var ok bool
		switch mark, value := field[0], field[1:]; mark {
		case 'p':
			ok = wholeNumber(value, (*int)(&id.Part))
		case 'i':
			ok = wholeNumber(value, (*int)(&id.Into))
		case 'b':
			ok = range2(value, &id.From, &id.To)
		case 'c':
			ok = range2(value, &id.Cut[0], &id.Cut[1])
		case 'n':
			ok = wholeNumber(value, &id.Nth)
		case 'o':
			ok = wholeNumber(value, &id.Own)
		case 't':
			for touch, name := range touchMarks {
				if name == value && name != "" {
					id.Touch, ok = Touch(touch), true
				}
			}
		case 'f':
			if f, err := neck.ParseFrets(value); err == nil && shapes < shapesOf[id.Kind] {
				id.Shapes[shapes], ok = f, true
				shapes++
			}
		}
		if !ok {
			return fail()
		}
	}
	if shapes != shapesOf[id.Kind] || id.String() != text { // one spelling alone
		return fail()
	}
	return id, nil
}

func isKind(k Kind) bool {
	for _, kind := range Kinds {
		if k == kind {
			return true
		}
	}
	return k == ByTeacher
}

// mostNumber is above every number in an id.
const mostNumber = 1 << 30

func wholeNumber(text string, to *int) bool {
	n, err := strconv.Atoi(text)
	*to = n
	return err == nil && n > 0 && n < mostNumber
}

func range2(text string, from, to *int) bool {
	a, b, _ := strings.Cut(text, "-")
	return wholeNumber(a, from) && wholeNumber(b, to)
}

// MarshalText writes an id as String does.
func (id StepID) MarshalText() ([]byte, error) { return []byte(id.String()), nil }

// UnmarshalText reads it.
func (id *StepID) UnmarshalText(text []byte) (err error) {
	*id, err = ParseStepID(string(text))
	return err
}

// id is what a step of the lesson is known by, but for those that are alike.
func (l *Lesson) id(s *Step) StepID {
	id := StepID{Kind: s.Kind}
	if s.Kind == ByTeacher {
		id.Own = s.Own.ID
		return id
	}
	if s.Part >= 0 {
		id.Part = l.Song.PartID(s.Part)
	}
	if s.Into >= 0 {
		id.Into = l.Song.PartID(s.Into)
	}
	switch s.Kind {
	case Shape:
		id.Part, id.Shapes[0] = 0, s.Shapes[0].Frets
	case Change:
		id.Part, id.Shapes = 0, [2]neck.Frets{s.Shapes[0].Frets, s.Shapes[1].Frets}
	case Piece:
		part := &l.Song.Parts[s.Part]
		id.From, id.To = part.BarID(s.From), part.BarID(s.To)
	case Form:
		id.Cues = s.Why[0].Kind == ByCues
	case Finish:
		id.Touch = s.Touch
	}
	return id
}

// name gives every step its id; those that are alike are numbered.
func (l *Lesson) name() {
	had := map[StepID]int{}
	for i := range l.Steps {
		id := l.id(&l.Steps[i])
		n := had[id]
		had[id]++
		id.Nth = n
		l.Steps[i].ID = id
	}
}

// find is the index of the step with an id, −1 where there is none.
func find(steps []Step, id StepID) int {
	for i := range steps {
		if steps[i].ID == id {
			return i
		}
	}
	return -1
}

// meant is the index of the step that something was said of which was known by an id: the
// one with that id, or where there is none any more the one that is most like it, which
// nothing else is said of (taken): of the same part and kind, and of a piece with some of
// its bars. −1 where there is none.
func (l *Lesson) meant(id StepID, taken map[StepID]bool) int {
	if i := find(l.Steps, id); i >= 0 {
		return i
	}
	best, most := -1, 0.0
	for i := range l.Steps {
		s := &l.Steps[i]
		if taken[s.ID] || s.ID.Cut != [2]int{} {
			continue
		}
		like := 0.0
		switch is := s.ID; {
		case is.Kind != id.Kind || is.Part != id.Part || is.Into != id.Into || is.Touch != id.Touch || is.Cues != id.Cues || id.Own != 0:
		case id.Kind == Shape || id.Kind == Change:
		case id.Kind == Piece:
			like = l.common(s, id)
		default:
			like = 1 / float64(1+max(is.Nth-id.Nth, id.Nth-is.Nth))
		}
		if like > most {
			best, most = i, like
		}
	}
	return best
}

// common is the share of bars that a piece has in common with one that is not there any
// more, 0 to 1.
func (l *Lesson) common(s *Step, id StepID) float64 {
	part := &l.Song.Parts[s.Part]
	from, to := part.BarWith(id.From), part.BarWith(id.To)
	switch {
	case from == 0 && to == 0:
		return 0
	case from == 0:
		from = to
	case to == 0:
		to = from
	}
	both := min(to, s.To) - max(from, s.From) + 1
	all := max(to, s.To) - min(from, s.From) + 1
	return max(float64(both)/float64(all), 0)
}
