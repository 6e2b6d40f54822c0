package arrange

import (
	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/voicing"
)

// FactKind is what a fact says.
type FactKind uint8

// What is said of an event: what is played, and for what it stands.
const (
	NoFact        FactKind = iota
	TheLine                // Of is a note of the line itself
	RootOf                 // Of is the root of the chord For
	BassOf                 // Of is the bass that For names
	LowestOfRun            // Of is the lowest note of a tapped run
	Melody                 // Of is the upper of two notes that move together
	LowerOfTwo             // Of is the lower of two notes, which moves
	PowerFor               // Of is the power chord of For, which has a third
	PowerInstead           // Of is played instead of For, which has none
	PowerOn                // Of is a power chord on a note of the line
	AlteredFor             // Of with the fifth Degree stands for For, which a plain fifth would contradict
	TypedShape             // as the sheet has it: the shape is this rung's already
	TypedNotes             // as written
	TypedVoicing           // Of in the voicing that is written
	UsualShape             // Of in its usual shape
	SomeShape              // Of in a shape that the hand has, since the usual one is beyond it
	Stands                 // Of, a shape of its school, stands for For
	WholeChord             // Of, all of it, in a shape of its school
	Spelled                // the chord Of, which the picked notes For spell
	HeldShape              // the fingers of Of, which stay down while its notes are picked
	WithOctave             // the octave is added
	WithRootBelow          // the root is added below what is written
	Single                 // a passing note stays single
	StaysTwo               // two notes that are no power chord stay as they are
	OpenRoot               // its root is an open string
	FlatFinger             // one finger across both strings
	UpsideDown             // the fifth below the root
	KeepsBass              // and that keeps the bass Of
	ForReach               // because the hand does not reach it the other way
	ForOneFinger           // so that one finger does
	NoShape                // no shape of the kind lies within a reach of N mm: the note alone
	BassIsLost             // the bass Of that For names is lost
	MovedPhrase            // moved N octaves with its phrase to lie on this neck
	MovedNote              // moved N octaves to lie on this neck
	OffTheNeck             // left out: no string has it
	Reduced                // the ornament Trim becomes something plainer
	PickedInstead          // a legato note that does not lie on one string in this tuning is picked
	KeepsString            // on the string String where it is written, over what recurs
	ElsewhereFree          // placed where it is least work
	OtherTuning            // placed in the other tuning
	NotTogether            // the notes as written do not lie together: what remains is its power chord
	BeyondReach            // its reach of N mm is more than the hand's Most
	BeyondFour             // four fingers are not enough for it
	NeedsLittle            // it does not go without the little finger
	NeedsBarre             // it does not go without a barre
	BeyondSpread           // its fingers spread further than a hand of Most mm lets them
	Chosen                 // as the teacher chose
	Remarked               // what is to be known of a shape: Remark
	DeadStrum
	DeadNote
	HarmonyBelow   // Of: the interval N of the key is set below the line
	NoneBelow      // no string below the line has the interval N: the note alone
	FingersNotKept // the hand cannot hold the fingers that are typed
	RingsBetween   // nothing keeps String silent between two open ones: the note alone
)

// What is said of a bar.
const (
	GoesOn      FactKind = 64 + iota // the sound of the bar before goes on
	Silence                          //
	LeftOut                          // What was left out, because the pace of N strokes a second is beyond Most
	OnlyOpen                         // only the open String
	StaysAt                          // stays at fret Low of String
	OneStringOf                      // all on String, frets Low to High
	Between                          // frets Low to High, on several strings
	AnchorStays                      // a finger stays on String from one shape to the next
	GuideSlides                      // a finger slides along String
	SameAs                           // the same as bar N in everything
	SameNotesAs                      // the same strings and frets as bar N
	ShapeOf                          // the shape of bar N, Strings thinner (below 0: thicker)
	ShapeAlong                       // the shape of bar N, Frets higher (below 0: lower)
	LineOf                           // the line of bar N in another place
	LineMoved                        // the line of bar N, Semitones higher
	Hardest                          // Spot is the hardest there: at Start, from From to Of
)

// What is said of a whole version, and why a rung is not offered.
const (
	SecondPlayer   FactKind = 96 + iota // what Of plays is left to the second player
	InTuning                            // placed in the tuning Of
	OctavesMoved                        // N notes sound in another octave
	ThinnerChords                       // N chords have fewer notes
	OpenLost                            // N open strings are fretted or lie elsewhere
	LegatoLost                          // N legato notes are picked
	GallopPicked                        // gallops are picked down, down-up
	NotesOfPart                         // the same notes as the part Of
	LineOfPart                          // the line of the part Of, Semitones higher
	AllOnString                         // all of it lies on String
	AllMoved                            // all of it is moved N octaves, since no string has its range
	NoOneString                         // its range does not fit one string
	HandStays                           // the hand never moves along the neck
	HarderThan                          // it comes out harder than the part as written
	NamesAreShapes                      // names are what is fingered: Of sounds For
	NamesSound                          // names are what sounds: Of is fingered as For

	LeadLine     // not offered: a lead line
	ArpeggioHere // not offered: an arpeggio becomes the chords it spells
	TooHigh      // not offered: its shapes would lie at fret High for notes typed at Low
	NoChordsHere // not offered: there is no chord to make easier
)

// What speaks for an alternative.
const (
	NoBarreThere  FactKind = 144 + iota
	NoLittleThere          // without the little finger
	NoStretch              // N mm less to reach
	FewerFingers           //
	LessMoving             // the hand moves N mm less
	MoreStay               // more fingers stay where they are
	MoreOpen               // more open strings
	OneSound               // the same sound throughout, with no open string in it
	Fuller                 // more strings sound
)

// What an alternative is.
const (
	IsOnString      FactKind = 176 + iota // all on String
	IsOnStrings                           // on N strings
	IsInPosition                          // the index stays at fret N
	IsInFrets                             // frets Low to High
	IsOpen                                // nothing is fretted
	IsWithOpen                            // with open strings where there were none; with N 0 without any
	OctaveElsewhere                       // the same notes N octaves up, Strings over
)

// Fact is one thing to say of a version, with its numbers: a reason, not yet a
// sentence. Which fields are set depends on its kind. It is made into words by
// core/words alone.
type Fact struct {
	Kind           FactKind
	Of, For        string
	Degree         chord.Degree
	Lost           string // degrees that a shape has lost
	Added          string // notes that it adds
	String         neck.String
	Low, High      int // frets
	N              int
	Most           int
	Strings, Frets int
	Semitones      int
	Trim           grade.Trimming
	Remark         voicing.Remark // of Remarked
}

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
