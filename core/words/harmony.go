package words

import (
	"fmt"
	"slices"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/harmony"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/voicing"
)

// beside says what sounds beside what a name means.
func beside(extra []pitch.Note) string {
	if len(extra) == 0 {
		return ""
	}
	var names []string
	for _, n := range extra {
		names = append(names, n.String())
	}
	return " with " + list(names)
}

// Called says the honest name of a shape.
func (sp Speaker) Called(c voicing.Called) string {
	switch {
	case c.Alone:
		return c.Name + " alone"
	case len(c.Missing) > 0:
		return c.Name + " without its " + chord.Degrees(c.Missing) + beside(c.Extra)
	}
	return c.Name + beside(c.Extra)
}

// Remark says something to know of a voicing.
func (sp Speaker) Remark(r voicing.Remark) string {
	switch r.Kind {
	case voicing.SungTone:
		return fmt.Sprintf("its %s is the %s that is sung", r.Degree, r.Note)
	case voicing.PlainFifth:
		return fmt.Sprintf("its plain fifth contradicts the %s of %s", fifth(r.Degree), r.Chord)
	case voicing.AlteredFifth:
		return fmt.Sprintf("the %s in place of a plain one, which would contradict %s", fifth(r.Degree), r.Chord)
	case voicing.MajorThird:
		return "its major third contradicts " + r.Chord
	case voicing.MinorThird:
		return "its minor third contradicts " + r.Chord
	case voicing.Rootless:
		return fmt.Sprintf("without its root: it is %s only where the bass plays %s", r.Chord, r.Named)
	case voicing.BassLost:
		return fmt.Sprintf("the bass %s of %s is lost, %s sounds lowest", r.Named, r.Chord, r.Note)
	}
	return fmt.Sprintf("the bass is %s instead of %s", r.Note, r.Named)
}

// Remarks says all of them.
func (sp Speaker) Remarks(list []voicing.Remark) []string {
	var words []string
	for _, r := range list {
		words = append(words, sp.Remark(r))
	}
	return words
}

// Voicing says what a voicing keeps, loses and adds.
func (sp Speaker) Voicing(v *voicing.Voicing) string {
	parts := []string{"keeps " + chord.Degrees(v.Kept)}
	if len(v.Lost) > 0 {
		parts = append(parts, "loses "+chord.Degrees(v.Lost))
	}
	if len(v.Added) > 0 {
		var added []string
		for _, n := range v.Added {
			added = append(added, n.String())
		}
		parts = append(parts, "adds "+strings.Join(added, " "))
	}
	if !slices.ContainsFunc(v.Remarks, func(r voicing.Remark) bool { return r.Kind == voicing.BassLost || r.Kind == voicing.BassTurned }) {
		parts = append(parts, fmt.Sprintf("bass %s", v.Bass))
	}
	parts = append(parts, sp.Remarks(v.Remarks)...)
	if n := len(v.Without); n > 0 {
		var shapes []string
		for _, f := range v.Without[:min(n, 3)] {
			shapes = append(shapes, f.String())
		}
		parts = append(parts, "also "+list(shapes))
	}
	return strings.Join(parts, "; ")
}

// Role says what a voicing is among the others.
func (sp Speaker) Role(r voicing.Role) string {
	return map[voicing.Role]string{voicing.Shown: "the usual shape", voicing.Easiest: "the easiest that is all of it", voicing.Barreless: "without a barre",
		voicing.AlsoUsual: "also usual"}[r]
}

// Change says what makes a change easy or hard.
func (sp Speaker) Change(c voicing.Change) string {
	var parts []string
	if n := len(c.Anchors); n > 0 {
		parts = append(parts, fmt.Sprintf("%s on %s", stay(n, "stays", "stay"), sp.strings(c.Anchors)))
	}
	if n := len(c.Guides); n > 0 {
		parts = append(parts, fmt.Sprintf("%s along %s", stay(n, "slides", "slide"), sp.strings(c.Guides)))
	}
	if c.Shift > 0 {
		parts = append(parts, "the hand moves "+mm(c.Shift))
	}
	if len(parts) == 0 {
		return "the hand stays where it is"
	}
	return strings.Join(parts, "; ")
}

func stay(n int, one, many string) string {
	if n == 1 {
		return "a finger " + one
	}
	return "fingers " + many
}

// Borrowed says what a chord has that its key has not, and where it comes from
// or goes to. It is empty for a chord of the key.
func (sp Speaker) Borrowed(b harmony.Borrowed) string {
	if !b.Any() {
		return ""
	}
	var foreign []string
	for _, f := range b.Foreign {
		foreign = append(foreign, fmt.Sprintf("%s where the key has %s", f.Note, f.Own))
	}
	text := strings.Join(foreign, ", ")
	if from := origin(b); from != "" {
		text += ": " + from
	}
	return text
}

func origin(b harmony.Borrowed) string {
	switch b.Origin {
	case harmony.LeadingNote:
		return fmt.Sprintf("the leading note, from the harmonic minor on %s", b.Key.Tonic)
	case harmony.LeadsTo:
		switch {
		case b.Dominant && b.Comes:
			return fmt.Sprintf("the dominant of %s, leads to %s", b.Goal, b.Goal)
		case b.Dominant:
			return fmt.Sprintf("the dominant of %s, which does not come", b.Goal)
		case b.Comes:
			return "leads to " + b.Goal
		}
		return "would lead to " + b.Goal
	case harmony.TwoOf:
		group := fmt.Sprintf("with %s the two and the dominant of %s", b.For, b.Goal)
		if b.Comes {
			return group + ", leads to " + b.Goal
		}
		return group
	case harmony.StandsFor:
		return fmt.Sprintf("stands for %s a tritone away, leads to %s", b.For, b.Goal)
	case harmony.Neapolitan:
		return "the Neapolitan, a half step above the tonic"
	case harmony.DorianFour:
		return fmt.Sprintf("the major 4 of %s: dorian", b.Key)
	case harmony.BluesSeven:
		return "the seventh of the blues"
	case harmony.Parallel:
		return fmt.Sprintf("from %s, the parallel %s", b.Key, b.Key.Mode)
	case harmony.FromMode:
		return "from " + b.Key.String()
	}
	return ""
}

// Outside says the notes that a key does not have.
func (sp Speaker) Outside(list []harmony.Outside) string {
	var notes []string
	for _, o := range list {
		text := o.Note.String()
		if o.FlatFifth {
			text += ", the flat fifth"
		}
		notes = append(notes, text)
	}
	return strings.Join(notes, "; ")
}

// Retuning says what to watch out for on the way to another tuning.
func (sp Speaker) Retuning(list []neck.Caution) []string {
	var words []string
	for _, c := range list {
		words = append(words, sp.caution(c))
	}
	return words
}

func (sp Speaker) caution(c neck.Caution) string {
	switch c.Kind {
	case neck.GoesUp:
		return fmt.Sprintf("the %s string goes up %g semitones, %.0f %% more tension: it can snap, keep the face away", sp.String(c.String), c.Semitones, c.Tension)
	case neck.AllUp:
		return "all strings go up: that bends the neck; lighter strings, or a capo instead, are kinder to it"
	case neck.Slack:
		return fmt.Sprintf("%s: the strings go slack and rattle; thicker ones are needed", semitonesDown(c.Semitones))
	case neck.SlightlyUp:
		return "all strings get a little tighter: tune, let them settle, and tune again"
	case neck.BackToUsual:
		return "this goes back to the usual tension, no further"
	case neck.Floating:
		return "on a floating bridge each string moves the others: go round at least twice"
	case neck.DownFirst:
		return "tune the strings that go down first, so that the neck is never pulled harder than in the end"
	}
	return fmt.Sprintf("the same sound with a capo at fret %d from %s, and no string goes up so far", c.Capo, c.Tuning)
}

func semitonesDown(n float64) string { return fmt.Sprintf("%g semitones down", -n) }

// Name says what a name of some notes leaves out and adds, and where it leads;
// nothing where it is all of them and no more.
func (sp Speaker) Name(n chord.Name) string {
	var parts []string
	if len(n.Missing) > 0 {
		parts = append(parts, "without "+chord.Degrees(n.Missing))
	}
	for _, e := range n.Extra {
		parts = append(parts, "with "+e.String())
	}
	if n.LeadsTo.Valid() {
		parts = append(parts, "leads to "+n.LeadsTo.String())
	}
	return strings.Join(parts, ", ")
}

// Keys says which key is likely, and which comes next.
func (sp Speaker) Keys(guesses []harmony.Guess) string {
	switch len(guesses) {
	case 0:
		return ""
	case 1:
		return fmt.Sprintf("likely %s", guesses[0].Key)
	}
	return fmt.Sprintf("likely %s, or %s", guesses[0].Key, guesses[1].Key)
}

// Record says how a record that is off by some cents is played along with.
func (sp Speaker) Record(cents float64) string {
	return fmt.Sprintf("%+.1f cents: play the record at %.2f %% of its speed (its tempo changes by the same), or tune to it", cents, 100*neck.Rate(cents))
}

// Offset says what is odd about how far a record seems to be off.
func (sp Speaker) Offset(n neck.OffsetNote) string {
	switch n.Kind {
	case neck.HalfSteps:
		switch d := n.Semitones; {
		case d == -1:
			return "that is a half step down: tune all strings down one, or play the shapes a fret lower"
		case d == 1:
			return "that is a half step up: a capo at fret 1 does it"
		case d < 0:
			return fmt.Sprintf("that is %d half steps down: tune all strings down", -d)
		default:
			return fmt.Sprintf("that is %d half steps up: a capo at fret %d does it", d, d)
		}
	case neck.AtPitch:
		return "that is at concert pitch: nothing is to be done"
	case neck.OtherNote:
		return fmt.Sprintf("what is heard is %s, off by %+.0f cents, and not the note that is named: name the one that is heard", n.Heard, n.Cents)
	case neck.OctaveSlip:
		return fmt.Sprintf("that is %s, in another octave: as %s it is off by %.0f cents", n.Heard, n.Heard, n.Cents)
	}
	return ""
}

// NoVoicing says why a school has no voicing of a chord.
func NoVoicing(c chord.Chord, school voicing.School) string {
	const four = 4
	if school == voicing.DropTwo && len(c.Tones) < four {
		return fmt.Sprintf("drop two takes four different notes, and %s has %s; ask for another school", c.Symbol, number(len(c.Tones)))
	}
	return "no voicing lies within this reach and these frets; allow more of either, or another school"
}

// Along says what a shape is at another fret, and where its root lies.
func (sp Speaker) Along(m voicing.Moved) string {
	switch {
	case m.Name.Name == "":
		return "no name"
	case m.Root == 0:
		return m.Name.Name
	}
	return m.Name.Name + ", root on the " + sp.String(m.Root) + " string"
}
