// Package arrange makes versions of a part that a student can play now: one
// finger, two notes, octaves, three notes, easier chords, and the part as
// written with its fingers. The rhythm, the order and the root of every harmony
// stay; of all versions that keep them it gives the one of least work for the
// player, and every choice carries its reason as a fact.
//
// A version is made in stages, each a function of what it is given: the sheet is
// read into what is played when (score.go, texture.go), thinned where it is too
// fast (thin.go); every event gets the ways in which it can be played
// (choices.go), less what the teacher's pins rule out (pins.go); the best of
// them together are found (solve.go, on core/path); and what comes out is
// written down with its reasons (write.go, alike.go). A rung is a row of the
// table in rungs.go.
package arrange

import (
	"context"
	"slices"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// Options say for whom versions are made. The zero Options make them for a
// usual player at the tempo of the part.
type Options struct {
	Player hand.Player
	// Tempo is that of the song, beats per minute; parts with a tempo of their
	// own keep their relation to it. 0 means that of the sheet.
	Tempo float64
	// Tuning rewrites the part for another tuning, without a capo; nil keeps
	// that of the song.
	Tuning *neck.Tuning
	// Unplaced tells that the strings and frets of the song's notes mean nothing but
	// their pitches, as in music that was not written for a guitar.
	Unplaced bool
	// Book remembers the voicings of chords between arrangers; nil is a new
	// one.
	Book *voicing.Book
	// School is where easier chords come from; empty is Few.
	School voicing.School
}

// Version is a part made easier, or with its fingers, for one player.
type Version struct {
	Part   int // index into Song.Parts
	Rung   Rung
	Tempo  float64
	Lift   song.Lift
	Grade  float64 // 1.0 to 10.0
	Work   float64 // what the search made as small as it can be
	Travel float64 // sum of hand shifts over the written bars, mm
	Why    []Fact
	// Exact tells that no other choice among these shapes takes less work; it is false
	// where a part is such a tangle that some were left out of the search.
	Exact bool
	// Unmet lists the pins that cannot be kept, and what is played instead.
	Unmet []Unmet
	// Even lists the rungs of a ladder that come out at the same grade, Harder
	// tells that it comes out harder than the part as written.
	Even   []Rung
	Same   Rung // the rung before it of a ladder that plays the same notes; empty for none
	Harder bool
	Bars   []Bar // the written bars
	// Passes are the bars that differ where the teacher has decided something for
	// one pass of a repeated line.
	Passes []Pass
}

// Bar is one written bar of a version.
type Bar struct {
	Number  int // from 1 in the part
	Measure song.Measure
	Demand  float64 // from 0
	Why     []Said
	Events  []Event // without rests
	// Dropped lists what thinning has left out.
	Dropped []Dropped
	hardest int // of the events
}

// Hardest is the event of the bar that asks most of the hands, nil where nothing
// sounds.
func (b *Bar) Hardest() *Event {
	if len(b.Events) == 0 {
		return nil
	}
	return &b.Events[b.hardest]
}

// Said is a fact that holds for several things of a bar.
type Said struct {
	Fact
	What []string // chords or notes, each once
}

// Event is something the student plays. What it has in common with others is
// shared and must not be changed.
type Event struct {
	*Grip
	Start  pitch.Frac // in whole notes from the start of the bar
	Length pitch.Frac
	Beat   string  // the count syllable
	Base   int     // fret of the index finger, or where it waits
	Shift  float64 // of the hand since the event before, mm
	Stroke song.Stroke
	Muted  bool // by the palm
	Pinned bool
	Mutes  []hand.Mute
	Demand float64
	Hard   *Hard // what asks most of the hands
	// From is the event of the sheet, the first of those that are written and
	// played alike.
	From *song.Event
}

// Grip is what is held and struck at an event, and why, the same wherever the
// version has it again.
type Grip struct {
	Notes []Note // thick strings first; empty for a dead strum
	// Dead lists the strings that are struck without a pitch.
	Dead      []neck.String
	Fingering hand.Fingering
	Why       []Fact
	Remarks   []voicing.Remark
}

// Plucked are the letters of the fingers that pluck its notes, thick strings first; empty
// where there is a pick.
func (e *Event) Plucked() (letters string) {
	for _, n := range e.Notes {
		letters += n.Pluck.String()
	}
	return letters
}

// Placed is the event of the sheet with its notes where a version that keeps their
// ornaments has them. A note that is picked although it is written as legato is
// picked.
func (e *Event) Placed() *song.Event {
	same := true
	for _, n := range e.From.Notes {
		same = same && (n.Dead || e.Fingering.Frets.On(n.String) == n.Fret)
	}
	if same {
		return e.From
	}
	moved := *e.From
	moved.Notes = nil
	for _, n := range e.Notes {
		note := song.Note{String: n.String, Fret: n.Fret}
		if len(e.Notes) == 1 && len(e.From.Notes) == 1 {
			note = e.From.Notes[0]
			note.String, note.Fret, note.Finger = n.String, n.Fret, 0
			note.Harmonic = false // it sounded there
		}
		moved.Notes = append(moved.Notes, note)
	}
	for _, s := range e.Dead {
		moved.Notes = append(moved.Notes, song.Note{String: s, Dead: true})
	}
	return &moved
}

// In is a written bar of the version, counted from 0, as it is played in a pass of
// its line, counted from 1.
func (v *Version) In(bar, pass int) *Bar {
	for i := range v.Passes {
		if p := &v.Passes[i]; p.Pass == pass && p.Number == v.Bars[bar].Number {
			return &p.Bar
		}
	}
	return &v.Bars[bar]
}

// Note is a note of a version.
type Note struct {
	String neck.String
	Fret   int
	Finger hand.Finger
	Pitch  pitch.Spelled // what sounds
	// Name is what it is called: Pitch's own note, or where chords are named by shapes
	// over a capo the note that the shape has without it.
	Name  pitch.Note
	Pluck song.Pluck // by the picking hand, where there is no pick
}

// Arranger makes the versions of one song. It remembers what they have in
// common and is not safe for use by several goroutines.
type Arranger struct {
	set      setup
	scores   map[int]*score
	melodies map[int]melody
}

// New prepares the versions of a song.
func New(s *song.Song, o Options) *Arranger {
	if o.Book == nil {
		o.Book = new(voicing.Book)
	}
	if o.School == "" {
		o.School = voicing.Few
	}
	a := &Arranger{scores: map[int]*score{}, melodies: map[int]melody{}}
	if o.Tuning != nil {
		s = s.Heard() // what is fingered there is another shape
	}
	named := s.Named()
	a.set = setup{song: named, heard: s, lift: s.Lift(), options: o, written: o.Player.On(named.Tuning, s.Capo), in: o.Player.On(named.Tuning, s.Capo), bench: new(bench)}
	if o.Tuning != nil {
		a.set.in = o.Player.On(*o.Tuning, 0)
	}
	a.set.at = o.Player.At(a.set.in.Neck)
	return a
}

// score reads a part once.
func (a *Arranger) score(part int) *score {
	if a.scores[part] == nil {
		a.scores[part] = readScore(a.set, part)
	}
	return a.scores[part]
}

// Version makes one version of a part the way the teacher wants it.
func (a *Arranger) Version(part int, rung Rung, way Way) Version {
	sol, why := solve(a.set, a.apart(part, way), rung.row(), way)
	return a.write(sol, why)
}

// Refused says why a part is not offered on a rung; nil is none.
func (a *Arranger) Refused(part int, rung Rung) Fact {
	return rung.row().refuses(a.score(part), a.set)
}

// Refusal is a rung that is not offered, and why.
type Refusal struct {
	Rung Rung
	Why  Fact
}

// Offered lists the rungs that make sense for a part, and those that do not. A
// rung for which the teacher has a wish is offered all the same.
func (a *Arranger) Offered(part int, ways map[Rung]Way) (rungs []Rung, not []Refusal) {
	for _, r := range Rungs {
		why := a.Refused(part, r)
		if _, wished := ways[r]; why == nil || wished && why != NoChordsHere {
			rungs = append(rungs, r)
		} else {
			not = append(not, Refusal{r, why})
		}
	}
	return rungs, not
}

// Ladder makes the rungs of a part that are offered, the easiest first, each the
// way that ways has for it.
func (a *Arranger) Ladder(part int, ways map[Rung]Way) []Version {
	versions, _ := a.LadderWhile(context.Background(), part, ways)
	return versions
}

// LadderWhile is Ladder for as long as somebody waits for it: it looks at the
// context between one rung and the next, and ends with its error.
func (a *Arranger) LadderWhile(ctx context.Context, part int, ways map[Rung]Way) ([]Version, error) {
	rungs, _ := a.Offered(part, ways)
	versions := make([]Version, 0, len(rungs))
	for _, r := range rungs {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		versions = append(versions, a.Version(part, r, ways[r]))
	}
	Order(versions)
	return versions, nil
}

// Some makes those of some rungs of a part that are offered, as Ladder does.
func (a *Arranger) Some(part int, rungs []Rung, ways map[Rung]Way) (versions []Version) {
	for _, r := range rungs {
		if a.Refused(part, r) == nil {
			versions = append(versions, a.Version(part, r, ways[r]))
		}
	}
	Order(versions)
	return versions
}

// HasChords tells whether a part has chords by name.
func (a *Arranger) HasChords(part int) bool { return a.score(part).hasChords() }

// Order puts the versions of a part in the order of their grades, and where
// those are equal of their work, with what is harder than the part as written
// after it, and tells each which others it equals and which of those before it plays
// the same notes.
func Order(versions []Version) {
	slices.SortStableFunc(versions, func(a, b Version) int {
		switch {
		case a.Grade < b.Grade, a.Grade == b.Grade && a.Work < b.Work:
			return -1
		case a.Grade > b.Grade, a.Work > b.Work:
			return 1
		}
		return 0
	})
	written := slices.IndexFunc(versions, func(v Version) bool { return v.Rung == AsWritten })
	for i := range versions {
		versions[i].Even, versions[i].Same = nil, ""
		for j := range i {
			if versions[i].Same == "" && versions[j].Same == "" && sameNotes(&versions[i], &versions[j]) {
				versions[i].Same = versions[j].Rung
			}
		}
		versions[i].Harder = written >= 0 && versions[i].Grade > versions[written].Grade
		for j := range versions {
			if i != j && versions[i].Grade == versions[j].Grade {
				versions[i].Even = append(versions[i].Even, versions[j].Rung)
			}
		}
	}
}

// sameNotes tells whether two versions of a part play the same strings at the same frets
// and times.
func sameNotes(a, b *Version) bool {
	if len(a.Passes) > 0 || len(b.Passes) > 0 || len(a.Bars) != len(b.Bars) {
		return false
	}
	sounding := false
	for i := range a.Bars {
		if !slices.EqualFunc(a.Bars[i].Events, b.Bars[i].Events, func(x, y Event) bool {
			sounding = sounding || len(x.Notes) > 0
			return x.Start == y.Start && x.Length == y.Length && x.Fingering.Frets == y.Fingering.Frets && slices.Equal(x.Dead, y.Dead) &&
				(a.Rung.Literal() == b.Rung.Literal() || len(grade.Trimmings(x.From)) == 0)
		}) {
			return false
		}
	}
	return sounding
}
