package words

import (
	"fmt"
	"math"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/drill"
	"valleyside/core/grade"
	"valleyside/core/lesson"
	"valleyside/core/song"
)

// Step says why a step of a lesson is there, a short sentence each.
func (sp Speaker) Step(s *lesson.Step) []string {
	var list []string
	for i := range s.Why {
		list = append(list, sentence(sp.reason(s, &s.Why[i])))
	}
	return list
}

func (sp Speaker) reason(s *lesson.Step, r *lesson.Reason) string {
	switch r.Kind {
	case lesson.OffBeat:
		if r.N == 1 {
			return fmt.Sprintf("a stroke stands off the beat, on %s of bar %d: say the count aloud before a note is played", sp.Place(r.At, r.Meter), r.Bar)
		}
		return fmt.Sprintf("strokes stand off the beat, the first on %s of bar %d: say the count aloud before a note is played", sp.Place(r.At, r.Meter), r.Bar)
	case lesson.Galloping:
		return fmt.Sprintf("a gallop in bar %d: down, down-up, from the wrist", r.Bar)
	case lesson.GallopingBack:
		return fmt.Sprintf("a gallop the other way round in bar %d: down-up, down, from the wrist", r.Bar)
	case lesson.Swung:
		return "the eighths swing: long, short, long, short"
	case lesson.Tripping:
		return fmt.Sprintf("triplets in bar %d: three to a beat, all of one length", r.Bar)
	case lesson.OddTime:
		return fmt.Sprintf("%s to a bar: count them aloud until the one comes by itself", count(r.N, "beat"))
	case lesson.PicksUp:
		return fmt.Sprintf("it begins before the bar, on %s: count up to it, then play", sp.Place(r.At, r.Meter))
	case lesson.TwoToABeat:
		return fmt.Sprintf("the first stroke between two beats, on %s of bar %d: say the and aloud", sp.Place(r.At, r.Meter), r.Bar)
	case lesson.GoesUpTo:
		return fmt.Sprintf("as it is written it goes up to %.0f; faster, strokes are left out", r.Most)
	case lesson.PassDiffers:
		return fmt.Sprintf("the last time round is another one in bar %d", r.Bar)
	case lesson.NewShape:
		return sp.newShape(s.Shapes[0], r)
	case lesson.HardChange:
		return fmt.Sprintf("in bar %d, ", r.Bar) + sp.Hard(&arrange.Event{Start: r.Event.Start, Hard: r.Hard}, r.Meter)
	case lesson.FingerStays:
		return fmt.Sprintf("the finger on the %s string stays", sp.String(r.String))
	case lesson.FingerSlides:
		return fmt.Sprintf("a finger slides along the %s string, without letting go", sp.String(r.String))
	case lesson.HardestBar:
		return fmt.Sprintf("bar %d is the hardest: ", r.Bar) + sp.Hard(r.Event, r.Meter)
	case lesson.EndFirst:
		return "the end first: what comes before leads into what is known"
	case lesson.JoinedTo:
		return fmt.Sprintf("%s, into what is known", bars(r.From, r.To))
	case lesson.NewHere:
		if r.From == r.To {
			return fmt.Sprintf("only bar %d differs from what is known", r.From)
		}
		return fmt.Sprintf("only bars %d to %d differ from what is known", r.From, r.To)
	case lesson.AsOne:
		return "nothing in it is new: in one go"
	case lesson.LoopsBack:
		return "the end comes round to the beginning: one bar before, one after"
	case lesson.LeadsInto:
		return "from one part into the next: one bar before, one after"
	case lesson.SlowStart:
		return fmt.Sprintf("from %s of the tempo, where it is clean at once", share(r.N))
	case lesson.PaceStart:
		return fmt.Sprintf("from %s of the tempo, since %.1f strokes a second are comfortable", share(r.N), r.Most)
	case lesson.GoesOn:
		return "on from where it is clean"
	case lesson.TwoJoined:
		return "the two in a row, without a stop between"
	case lesson.AllOfIt:
		return fmt.Sprintf("the whole way, %s: say each part before it comes", count(r.N, "bar"))
	case lesson.ByCues:
		return "begin anywhere, by the words and sounds that lead into each part"
	case lesson.AddsTouch:
		return fmt.Sprintf("the notes are there: now %s, on %s", sp.Touch(r.Touch), count(r.N, "stroke"))
	case lesson.NextRung:
		what := fmt.Sprintf("%s, of grade %.1f", strings.ToLower(s.Rung.Title()), r.Grade)
		switch {
		case r.Hard != nil:
			return fmt.Sprintf("%s, for when %s to %s goes at %.0f", what, r.Hard.From, r.Hard.To, r.Most)
		case r.Limit != nil:
			return what + ", for later: " + sp.Limit(*r.Limit)
		}
		return "for when this is ready: " + what
	}
	return ""
}

// bars names some bars.
func bars(from, to int) string {
	if from == to {
		return fmt.Sprintf("bar %d", from)
	}
	return fmt.Sprintf("bars %d to %d", from, to)
}

// share says how much of a hundred.
func share(percent int) string {
	for _, s := range []struct {
		percent int
		words   string
	}{{25, "a quarter"}, {33, "a third"}, {50, "half"}, {60, "three fifths"}} {
		if percent >= s.percent-1 && percent <= s.percent+1 {
			return s.words
		}
	}
	return fmt.Sprintf("%d %%", percent)
}

// newShape says what is to be learnt of a shape.
func (sp Speaker) newShape(h lesson.Held, r *lesson.Reason) string {
	text := fmt.Sprintf("%s is new: %s", h.Called(), count(r.N, "finger"))
	switch {
	case r.Strings > 1 && r.N == 1:
		text += " across " + count(r.Strings, "string")
	case r.Strings > 1:
		text += fmt.Sprintf(", one of them across %s", count(r.Strings, "string"))
	}
	if m := sp.Mutes(h.Mutes); m != "" {
		text += "; silent are " + m
	}
	return text
}

// touchNames name what is added to the notes.
var touchNames = [...]string{lesson.NoTouch: "", lesson.PalmMuting: "palm muting", lesson.Stops: "stops", lesson.Accents: "accents", lesson.HammerOns: "hammer-ons",
	lesson.PullOffs: "pull-offs", lesson.Slides: "slides", lesson.Vibrato: "vibrato"}

// Touch names what is added to the notes.
func (sp Speaker) Touch(t lesson.Touch) string { return touchNames[t] }

// StepTitle says what a step is, in short, for a song.
func (sp Speaker) StepTitle(s *song.Song, step *lesson.Step) string {
	part := ""
	if step.Part >= 0 {
		part = s.Parts[step.Part].Name
	}
	switch step.Kind {
	case lesson.ByTeacher:
		return step.Own.Title
	case lesson.Rhythm:
		return fmt.Sprintf("Rhythm of %s, %s", part, bars(step.From, step.To))
	case lesson.Shape:
		return "Shape " + step.Shapes[0].Called()
	case lesson.Change:
		return fmt.Sprintf("%s to %s", step.Shapes[0].Called(), step.Shapes[1].Called())
	case lesson.Piece:
		return fmt.Sprintf("%s, %s", part, bars(step.From, step.To))
	case lesson.Seam:
		if step.Part == step.Into {
			return part + ", end into beginning"
		}
		return fmt.Sprintf("%s into %s", part, s.Parts[step.Into].Name)
	case lesson.Form:
		if step.Part >= 0 {
			return fmt.Sprintf("%s and %s", part, s.Parts[step.Into].Name)
		}
		if step.Why[0].Kind == lesson.ByCues {
			return "From anywhere"
		}
		return "The whole way"
	case lesson.Finish:
		if step.Touch == lesson.NoTouch {
			return fmt.Sprintf("%s, %s", part, strings.ToLower(step.Rung.Title()))
		}
		return fmt.Sprintf("%s, %s", part, sp.Touch(step.Touch))
	}
	return part
}

// StepNamed says of what practice was, by what its step is known by, where the lesson itself
// is not at hand; nothing of the part as a whole.
func (sp Speaker) StepNamed(text string) string {
	id, err := lesson.ParseStepID(text)
	if err != nil || id.OfWhole() {
		return ""
	}
	from, to := id.From, id.To
	if id.Cut != [2]int{} {
		from, to = id.Cut[0], id.Cut[1]
	}
	switch id.Kind {
	case lesson.Rhythm:
		return "the rhythm"
	case lesson.Shape:
		return "a shape, " + id.Shapes[0].String()
	case lesson.Change:
		return "a change of shapes"
	case lesson.Piece, lesson.Whole:
		if from > to { // bars that were put in later have higher numbers
			return "some bars"
		}
		return bars(from, to)
	case lesson.Seam:
		return "a seam"
	case lesson.Form:
		return "the form"
	case lesson.Finish:
		return "the finish"
	case lesson.ByTeacher:
		return "your own step"
	}
	return ""
}

// ways say how to go about a step: what a teacher says each time.
var ways = map[lesson.Kind]string{
	lesson.Rhythm: "The fretting hand lies on the strings. Count aloud, strike; then count in the head.",
	lesson.Shape:  "Lay the fingers, sound string by string, let go, take it again. Then: how often in one minute?",
	lesson.Change: "In the air first, then slow strokes, then in time.",
	lesson.Piece:  "In a loop, slowly enough that it is clean.",
	lesson.Seam:   "The last bar into the first one, in a loop.",
	lesson.Whole:  "Counted in, all the way through. Up when it is clean three times in a row.",
	lesson.Form:   "Do not stop at a slip: find the next beat.",
	lesson.Finish: "The notes as they are; only this is added.",
}

// Way says how to go about a step.
func (sp Speaker) Way(k lesson.Kind) string { return ways[k] }

// hows say what is done in an exercise.
var hows = [...]string{
	drill.SlideBack:      "Slide there and back on one string, without letting go; then as it is",
	drill.SlideHalf:      "The same over half the way",
	drill.TakeAndLetGo:   "Take it, let go, take the other, in time; then without a gap",
	drill.TakeSlowly:     "A bar for each",
	drill.BringDown:      "Higher up first, where frets lie closer, then down step by step",
	drill.StayUp:         "Only as far down as it is easy",
	drill.OnOpenStrings:  "The picking hand alone, on open strings",
	drill.TwoStrings:     "Back and forth between the two strings",
	drill.Bursts:         "Two notes at their pace and stop; then four, then eight",
	drill.SlowBursts:     "The same at half the pace",
	drill.MutedFirst:     "On muted strings, then with a ghost stroke on each beat, then the notes",
	drill.Subdivided:     "Keep the hand moving, and only the strokes of the rhythm are loud",
	drill.StringByString: "Hold it and pluck every string: the silent ones must be silent",
	drill.SilentStrings:  "Pluck only those that must be silent",
	drill.OneByOne:       "String by string, then together; let go, take it again",
	drill.FewerStrings:   "The thickest strings alone",
	drill.Alone:          "By itself, again and again",
	drill.Target:         "First the note that it leads to",
}

// Exercise says what is done in an exercise.
func (sp Speaker) Exercise(h drill.How) string { return hows[h] }

// demands name what a drill is for.
var demands = [...]string{grade.Reach: "the stretch", grade.Fingers: "the shape", grade.Force: "the barre", grade.Muting: "the silent strings", grade.Shift: "the shift",
	grade.Change: "the change", grade.Crossing: "the string crossing", grade.Speed: "the pace", grade.Rhythm: "the off-beat", grade.Ornament: "the ornament", grade.Unlearnt: "what is new"}

// Drill says what a drill is for.
func (sp Speaker) Drill(d grade.Demand) string { return "For " + demands[d] }

// Tempos says from which tempo to which a step goes.
func (sp Speaker) Tempos(s *lesson.Step) string {
	if math.Round(s.Start) == math.Round(s.Goal) {
		return fmt.Sprintf("%.0f", s.Goal)
	}
	return fmt.Sprintf("%.0f to %.0f", s.Start, s.Goal)
}

// Wish says what a teacher has decided of a step; empty where nothing is.
func (sp Speaker) Wish(w *lesson.Wish) string {
	var said []string
	switch {
	case w.Start > 0 && w.Goal > 0:
		said = append(said, fmt.Sprintf("%.0f to %.0f", w.Start, w.Goal))
	case w.Start > 0:
		said = append(said, fmt.Sprintf("from %.0f", w.Start))
	case w.Goal > 0:
		said = append(said, fmt.Sprintf("up to %.0f", w.Goal))
	}
	if w.Passes > 0 {
		said = append(said, number(w.Passes)+" clean in a row")
	}
	if w.Minutes > 0 {
		said = append(said, count(w.Minutes, "minute"))
	}
	if w.Words != "" {
		said = append(said, "“"+w.Words+"”")
	}
	return strings.Join(said, ", ")
}

// Since says that something else is played in a step, which is called so now, than when a
// teacher decided something of it.
func (sp Speaker) Since(w *lesson.Wish, title string) string {
	text := "What is played here is something else than when you changed it"
	if w.Title != "" && w.Title != title {
		text = fmt.Sprintf("This was “%s” when you changed it, and something else is played in it now", w.Title)
	}
	if what := sp.Wish(w); what != "" {
		text += ": look whether that still holds, " + what
	}
	return text + "."
}
