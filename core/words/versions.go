package words

import (
	"fmt"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/grade"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Version says what holds for a whole version.
func (sp Speaker) Version(v *arrange.Version) []string {
	var list []string
	for _, f := range v.Why {
		list = append(list, sentence(sp.fact(f)))
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
func (sp Speaker) Refusal(f arrange.Fact) string { return sentence(sp.fact(f)) }

// Bar says what the student gets in a bar, and why, a short sentence each. Where
// there is nothing to say it is silent.
func (sp Speaker) Bar(b *arrange.Bar) []string {
	var said []string
	for _, s := range b.Why {
		text := sp.factOf(s.Fact, list(s.What), len(s.What))
		if left, ok := s.Fact.(arrange.LeftOut); ok {
			text = sp.leftOut(b, left)
		} else if s.Fact == arrange.Hardest {
			text = sp.Hard(b.Hardest(), b.Measure.Meter)
		}
		said = append(said, sentence(text))
	}
	return said
}

// Event says why one event is played as it is.
func (sp Speaker) Event(e *arrange.Event) string {
	var parts []string
	for _, f := range e.Why {
		parts = append(parts, sp.fact(f))
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
		return fmt.Sprintf("the %s %s %s the hard thing", list(names), at, either(len(names) > 1, "are", "is"))
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

func (sp Speaker) leftOut(b *arrange.Bar, f arrange.LeftOut) string {
	var places []pitch.Frac
	for _, d := range b.Dropped {
		if d.What == f.What {
			places = append(places, d.Start)
		}
	}
	what := dropped[f.What]
	if len(places) > 1 {
		what = strings.Replace(what+"s", "turn of the lines", "turns of the line", 1)
	}
	at := sp.Places(places, b.Measure.Meter)
	if f.What == arrange.OptionalNote {
		return fmt.Sprintf("left out, since not everybody plays %s: the %s on %s", either(len(places) > 1, "them", "it"), what, at)
	}
	return fmt.Sprintf("left out, to keep within %.1f strokes a second: the %s on %s", float64(f.Tenths)/10, what, at)
}

// Alternative says what an alternative is, and what speaks for it.
func (sp Speaker) Alternative(a arrange.Alternative) (is, buys string) {
	say := func(facts []arrange.Fact, between string) string {
		var list []string
		for _, f := range facts {
			list = append(list, sp.fact(f))
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
