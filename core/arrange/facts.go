package arrange

import (
	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/voicing"
)

// Fact is one thing to say of a version, of a bar or of an event: a reason, not yet
// a sentence. The types of this file are all there are. They are values that can be
// compared, and core/words alone makes a sentence of each.
type Fact interface{ fact() }

// spoken is a fact that may name what it is said of.
type spoken interface {
	about() string // the chord or the note that it says is played, in short
	bare() Fact    // the fact without it: what is alike but for that is told together
}

// About is the chord or the note that a fact says is played, in short; empty where it
// names none.
func About(f Fact) string {
	if s, ok := f.(spoken); ok {
		return s.about()
	}
	return ""
}

// Apart takes a fact and what it is said of apart; of is empty where it names nothing.
func Apart(f Fact) (of string, rest Fact) {
	s, ok := f.(spoken)
	if !ok {
		return "", f
	}
	if of = s.about(); of == "" {
		return "", f
	}
	if stands, ok := f.(StandsFor); ok && stands.For != "" {
		of += " for " + stands.For
		if stands.Share == RootAlone {
			of = stands.For
		}
	}
	return of, s.bare()
}

// Why is why an event is played as it is, where no number belongs to it.
type Why uint8

// The reasons.
const (
	TheLine        Why = iota // a note of the line itself
	LowestOfRun               // the lowest note of a tapped run
	Melody                    // the upper of two notes that move together
	LowerOfTwo                // the lower of two notes, which moves
	PowerOn                   // a power chord on a note of the line
	TypedShape                // as the sheet has it: the shape is this rung's already
	TypedNotes                // as written
	TypedVoicing              // in the voicing that is written
	UsualShape                // in its usual shape
	SomeShape                 // in a shape that the hand has, since the usual one is beyond it
	WholeChord                // all of it, in a shape of its school
	HeldShape                 // its fingers stay down while its notes are picked
	WithOctave                // the octave is added
	WithRootBelow             // the root is added below what is written
	Single                    // a passing note stays single
	StaysTwo                  // two notes that are no power chord stay as they are
	OpenRoot                  // its root is an open string
	FlatFinger                // one finger across both strings
	UpsideDown                // the fifth below the root
	KeepsBass                 // and that keeps the bass
	ForReach                  // because the hand does not reach it the other way
	ForOneFinger              // so that one finger does
	OffTheNeck                // left out: no string has it
	ElsewhereFree             // placed where it is least work
	OtherTuning               // placed in the other tuning
	NotTogether               // the notes as written do not lie together: what remains is its power chord
	BeyondFour                // four fingers are not enough for it
	NeedsLittle               // it does not go without the little finger
	NeedsBarre                // it does not go without a barre
	Chosen                    // as the teacher chose
	FingersNotKept            // the hand cannot hold the fingers that are typed
	DeadStrum
	DeadNote
)

// Reason is a reason with what it is said of, which may be empty.
type Reason struct {
	Why Why
	Of  string
}

// Share is what is played of a chord in its place.
type Share uint8

// What is played of a chord.
const (
	RootAlone    Share = iota // its root
	BassAlone                 // the bass that it names
	PowerWithout              // its power chord, without the third that it has
	PowerInstead              // a power chord; it has no third
)

// What is said of an event with a number or a second name.
type (
	// StandsFor tells that Of, a note or a power chord, is played for the chord For.
	StandsFor struct {
		Share   Share
		Of, For string
	}
	// AlteredFor is the power chord Of with another fifth, since a plain one would
	// contradict For.
	AlteredFor struct {
		Of, For string
		Fifth   chord.Degree
	}
	// BassIsLost tells that the bass that Chord names is not played.
	BassIsLost struct{ Bass, Chord string }
	// Colours is a shape of the chord Of without some of its degrees, or with notes that
	// it does not name.
	Colours struct{ Of, Lost, Added string }
	// NoShape tells that no fuller shape lies within a reach of so many mm.
	NoShape struct{ MM int }
	// BeyondReach is a shape of MM mm, more than the Most of the hand.
	BeyondReach struct {
		MM, Most int
		Of       string
	}
	// BeyondSpread is a shape that spreads fingers further than a hand of Most mm lets them.
	BeyondSpread struct {
		Most int
		Of   string
	}
	// Moved is moved so many octaves to lie on this neck, with its phrase or alone.
	Moved struct {
		Octaves int
		Phrase  bool
	}
	// Reduced tells that an ornament becomes something plainer.
	Reduced struct{ Trim grade.Trimming }
	// Below tells that an interval of the key, a third or a sixth, is set below the line:
	// Of is the two notes.
	Below struct {
		Interval int
		Of       string
	}
	// NoneBelow tells that no string has that interval below the note Of.
	NoneBelow struct {
		Interval int
		Of       string
	}
	// RingsBetween tells that nothing keeps a string silent between two open ones, so that
	// the note stays alone.
	RingsBetween struct{ String neck.String }
	// Remarked is what is to be known of a shape.
	Remarked struct{ Remark voicing.Remark }
)

// What is said of a bar.
type (
	// LeftOut tells what was left out of a bar because the pace would be beyond so many
	// tenths of a stroke a second.
	LeftOut struct {
		What   DroppedKind
		Tenths int
	}
	// OnlyOpen is a bar on one open string.
	OnlyOpen struct{ String neck.String }
	// StaysAt is a bar at one fret of a string.
	StaysAt struct {
		String neck.String
		Fret   int
	}
	// OneStringOf is a bar on one string.
	OneStringOf struct {
		String    neck.String
		Low, High int // frets
	}
	// Between is a bar on several strings.
	Between struct{ Low, High int }
	// AnchorStays tells that a finger stays on a string from one shape to the next.
	AnchorStays struct {
		String   neck.String
		From, To string
	}
	// GuideSlides tells that a finger slides along a string.
	GuideSlides struct {
		String   neck.String
		From, To string
	}
	// SameAs is the same as another bar in everything.
	SameAs struct{ Bar int }
	// SameNotesAs has the strings and frets of another bar.
	SameNotesAs struct{ Bar int }
	// ShapeOf is the shape of another bar, so many strings thinner (below 0: thicker).
	ShapeOf struct{ Bar, Strings int }
	// ShapeAlong is the shape of another bar, so many frets higher (below 0: lower).
	ShapeAlong struct{ Bar, Frets int }
	// LineOf is the line of another bar in another place.
	LineOf struct{ Bar int }
	// LineMoved is the line of another bar at another pitch.
	LineMoved struct{ Bar, Semitones int }
)

// What is said of a version.
type (
	// SecondPlayer tells that what Name plays is left to somebody else.
	SecondPlayer struct{ Name string }
	// InTuning tells that it is placed in another tuning than the sheet's.
	InTuning struct{ Tuning string }
	// NamesAreShapes tells by the first chord that names are what is fingered.
	NamesAreShapes struct{ Shape, Sounds string }
	// NamesSound tells by the first chord that names are what sounds.
	NamesSound struct{ Sounds, Shape string }
	// OctavesMoved counts notes that sound in another octave.
	OctavesMoved int
	// ThinnerChords counts chords that have fewer notes.
	ThinnerChords int
	// OpenLost counts open strings that are fretted or lie elsewhere.
	OpenLost int
	// LegatoLost counts legato notes that are picked.
	LegatoLost int
	// NotesOfPart has the notes of an earlier part.
	NotesOfPart struct{ Part string }
	// LineOfPart has the line of an earlier part at another pitch.
	LineOfPart struct {
		Part      string
		Semitones int
	}
	// AllOnString lies on one string.
	AllOnString struct{ String neck.String }
	// AllMoved is moved so many octaves, since no string has its range.
	AllMoved struct{ Octaves int }
	// TooHigh tells why a rung is not offered: its shapes would lie at fret High for notes
	// typed at Low.
	TooHigh struct{ Low, High int }
)

// What an alternative is, and what speaks for it.
type (
	// OnString lies on one string.
	OnString struct{ String neck.String }
	// OnStrings lies on so many.
	OnStrings int
	// InPosition has the index at a fret.
	InPosition int
	// InFrets lies between two frets.
	InFrets struct{ Low, High int }
	// OctaveElsewhere has the same notes so many octaves up, and strings over.
	OctaveElsewhere struct{ Octaves, Strings int }
	// LessReach asks for so many mm less.
	LessReach int
	// LessMoving moves the hand so many mm less.
	LessMoving int
)

// Plain is a fact that its name says whole.
type Plain uint8

// The plain facts.
const (
	GoesOn  Plain = iota // of a bar: the sound of the bar before goes on
	Silence              // of a bar
	Hardest              // of a bar: what asks most of the hands there is the bar's Hardest

	GallopPicked // of a version: gallops are picked down, down-up
	NoOneString  // of a version: its range does not fit one string
	HandStays    // of a version: the hand never moves along the neck

	LeadLine     // why a rung is not offered: a lead line
	ArpeggioHere // why not: an arpeggio becomes the chords that it spells
	NoChordsHere // why not: there is no chord to make easier

	AllOpen     // an alternative: nothing is fretted
	WithOpen    // with open strings where there were none
	WithoutOpen // without any

	NoBarreThere  // for an alternative: no barre
	NoLittleThere // without the little finger
	FewerFingers  //
	MoreStay      // more fingers stay where they are
	MoreOpen      // more open strings
	OneSound      // the same sound throughout, with no open string in it
	Fuller        // more strings sound
)

func (f Reason) about() string       { return f.Of }
func (f StandsFor) about() string    { return f.Of }
func (f AlteredFor) about() string   { return f.Of }
func (f BassIsLost) about() string   { return f.Bass }
func (f Colours) about() string      { return f.Of }
func (f BeyondReach) about() string  { return f.Of }
func (f BeyondSpread) about() string { return f.Of }
func (f Below) about() string        { return f.Of }
func (f NoneBelow) about() string    { return f.Of }

func (f Reason) bare() Fact       { return Reason{Why: f.Why} }
func (f StandsFor) bare() Fact    { return StandsFor{Share: f.Share} }
func (f AlteredFor) bare() Fact   { return AlteredFor{For: f.For, Fifth: f.Fifth} }
func (f BassIsLost) bare() Fact   { return BassIsLost{Chord: f.Chord} }
func (f Colours) bare() Fact      { return Colours{Lost: f.Lost, Added: f.Added} }
func (f BeyondReach) bare() Fact  { return BeyondReach{MM: f.MM, Most: f.Most} }
func (f BeyondSpread) bare() Fact { return BeyondSpread{Most: f.Most} }
func (f Below) bare() Fact        { return Below{Interval: f.Interval} }
func (f NoneBelow) bare() Fact    { return NoneBelow{Interval: f.Interval} }

func (Plain) fact()           {}
func (Reason) fact()          {}
func (StandsFor) fact()       {}
func (AlteredFor) fact()      {}
func (BassIsLost) fact()      {}
func (Colours) fact()         {}
func (NoShape) fact()         {}
func (BeyondReach) fact()     {}
func (BeyondSpread) fact()    {}
func (Moved) fact()           {}
func (Reduced) fact()         {}
func (Below) fact()           {}
func (NoneBelow) fact()       {}
func (RingsBetween) fact()    {}
func (Remarked) fact()        {}
func (LeftOut) fact()         {}
func (OnlyOpen) fact()        {}
func (StaysAt) fact()         {}
func (OneStringOf) fact()     {}
func (Between) fact()         {}
func (AnchorStays) fact()     {}
func (GuideSlides) fact()     {}
func (SameAs) fact()          {}
func (SameNotesAs) fact()     {}
func (ShapeOf) fact()         {}
func (ShapeAlong) fact()      {}
func (LineOf) fact()          {}
func (LineMoved) fact()       {}
func (SecondPlayer) fact()    {}
func (InTuning) fact()        {}
func (NamesAreShapes) fact()  {}
func (NamesSound) fact()      {}
func (OctavesMoved) fact()    {}
func (ThinnerChords) fact()   {}
func (OpenLost) fact()        {}
func (LegatoLost) fact()      {}
func (NotesOfPart) fact()     {}
func (LineOfPart) fact()      {}
func (AllOnString) fact()     {}
func (AllMoved) fact()        {}
func (TooHigh) fact()         {}
func (OnString) fact()        {}
func (OnStrings) fact()       {}
func (InPosition) fact()      {}
func (InFrets) fact()         {}
func (OctaveElsewhere) fact() {}
func (LessReach) fact()       {}
func (LessMoving) fact()      {}

// Hard is what asks most of the hands at an event.
type Hard struct {
	Spot grade.Spot
	// From and To are what is played before and there, in short: a chord's name
	// or a note. From is told where the way is what is hard.
	From, To string
	Over     Over
}

// Over is how a hard place is come to.
type Over uint8

// The ways to a hard place.
const (
	Straight  Over = iota // from what stands before it
	LineAgain             // when its line starts over
	PartAgain             // when the part starts over
)

// DroppedKind is what has been left out.
type DroppedKind uint8

// The kinds of what is left out: by thinning, the first to go first, and before it.
const (
	DeadStroke DroppedKind = iota
	RepeatedNote
	PassingNote
	TurnOfLine
	OptionalNote // not everybody plays it, whatever the tempo
)

// Dropped is an event that is left out of a version.
type Dropped struct {
	Start pitch.Frac
	Beat  string
	What  DroppedKind
}
