package lesson

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"unicode/utf8"

	"valleyside/core/sheet"
)

// What a plan may hold, wherever it comes from: a form, a file, another studio.
const (
	MostOwn     = 40      // steps of the teacher's own
	MostChanges = 200     // of steps that are built
	MostPlan    = 1 << 20 // bytes of a plan as text
	MostSheet   = 8 << 10 // bytes of the sheet of a step of the teacher's own
	MostPasses  = 50
	MostMinutes = 300 // of a step, and of practice on a day
	MostTitle   = 200 // characters
	MostWords   = 400
	mostSteps   = 4000 // that a plan puts in order
)

// ParsePlan reads a plan as String writes it; nothing is one that changes nothing. What is
// wrong with it is said in the error.
func ParsePlan(text string) (p Plan, err error) {
	if text == "" {
		return Plan{}, nil
	}
	if len(text) > MostPlan {
		return Plan{}, fmt.Errorf("the changes of a lesson have %d KB; %d KB are the most", len(text)>>10, MostPlan>>10)
	}
	if err := json.Unmarshal([]byte(text), &p); err != nil {
		return Plan{}, fmt.Errorf("the changes of a lesson cannot be read: %w", err)
	}
	if faults := p.Faults(); len(faults) > 0 {
		return Plan{}, fmt.Errorf("the changes of a lesson cannot be kept: %s", faults[0])
	}
	return p, nil
}

// String writes a plan as it is kept; one that changes nothing is empty.
func (p Plan) String() string {
	text, err := json.Marshal(p)
	if err != nil || string(text) == "{}" { // it cannot fail: words and finite numbers
		return ""
	}
	return string(text)
}

// Faults lists what a plan cannot be.
func (p Plan) Faults() (list []string) {
	say := func(format string, a ...any) { list = append(list, fmt.Sprintf(format, a...)) }
	if n := len(p.Out) + len(p.Set) + len(p.Split); n > MostChanges {
		say("it changes %d steps; %d are the most", n, MostChanges)
	}
	if len(p.Own) > MostOwn {
		say("it has %d steps of the teacher's own; %d are the most", len(p.Own), MostOwn)
	}
	if len(p.Order) > mostSteps {
		say("it puts %d steps in order; %d are the most", len(p.Order), mostSteps)
	}
	for _, k := range p.Template.Kinds {
		if !isKind(k) {
			say("its order has a kind of step that there is not: %q", string(k))
		}
	}
	title := func(what, s string, most int) {
		if !utf8.ValidString(s) || utf8.RuneCountInString(s) > most {
			say("%s has more than %d characters, or is no text", what, most)
		}
	}
	for _, o := range p.Out {
		title("the name of a step that is left out", o.Title, MostTitle)
	}
	for _, s := range p.Split {
		title("the name of a step that is cut", s.Title, MostTitle)
		if len(s.After) > mostSteps {
			say("%s is cut %d times", s.Title, len(s.After))
		}
	}
	for id, w := range p.Set {
		title("the name of a step that is changed", w.Title, MostTitle)
		title("the words of "+w.Title, w.Words, MostWords)
		for _, f := range w.faults() {
			say("%s (%s): %s", w.Title, id, f)
		}
	}
	ids := map[int]bool{}
	for i := range p.Own {
		o := &p.Own[i]
		if o.ID < 1 || o.ID >= mostNumber || ids[o.ID] {
			say("two steps of the teacher's own have the number %d, or it is none", o.ID)
		}
		ids[o.ID] = true
		for _, f := range o.Faults() {
			say("%s: %s", o.Title, f)
		}
	}
	return list
}

// faults lists what a wish cannot be; what is zero is not wished.
func (w Wish) faults() (list []string) {
	return Numbers{cmp.Or(w.Start, sheet.MinTempo), cmp.Or(w.Goal, sheet.MaxTempo), cmp.Or(w.Passes, 1), cmp.Or(w.Minutes, 1)}.Faults()
}

// Numbers are what a step asks for: tempos in beats per minute, clean passes, minutes.
type Numbers struct {
	Start, Goal     float64
	Passes, Minutes int
}

// Faults lists what they cannot be.
func (n Numbers) Faults() (list []string) {
	between := func(what string, v, low, high float64) {
		if math.IsNaN(v) || v < low || v > high {
			list = append(list, fmt.Sprintf("%s must be a number from %g to %g", what, low, high))
		}
	}
	between("the tempo to begin with", n.Start, sheet.MinTempo, sheet.MaxTempo)
	between("the tempo to reach", n.Goal, sheet.MinTempo, sheet.MaxTempo)
	between("the clean passes", float64(n.Passes), 1, MostPasses)
	between("the minutes", float64(n.Minutes), 1, MostMinutes)
	if n.Start > n.Goal {
		list = append(list, "the tempo to begin with must not be above the one to reach")
	}
	return list
}

// Faults lists what a step of the teacher's own cannot be.
func (o *Own) Faults() (list []string) {
	if strings.TrimSpace(o.Title) == "" {
		list = append(list, "a step needs a name")
	}
	for _, text := range []struct {
		what, text string
		most       int
	}{{"the name", o.Title, MostTitle}, {"the words", o.Words, MostWords}, {"the sheet", o.Sheet, MostSheet}} {
		if !utf8.ValidString(text.text) || utf8.RuneCountInString(text.text) > text.most {
			list = append(list, fmt.Sprintf("%s has more than %d characters, or is no text", text.what, text.most))
		}
	}
	list = append(list, Numbers{o.Start, o.Goal, o.Passes, o.Minutes}.Faults()...)
	if strings.TrimSpace(o.Sheet) == "" || len(list) > 0 {
		return list
	}
	sh := sheet.Parse(o.Sheet)
	for _, p := range sh.Problems {
		if p.Severity == sheet.Error {
			return append(list, fmt.Sprintf("line %d of its sheet: %s; %s", p.Line, p.Message, p.Mend))
		}
	}
	if len(sh.Song.Parts) == 0 {
		list = append(list, "its sheet has no bars")
	}
	return list
}
