package lesson

import (
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// Asks is what a version asks of a student beyond what they have.
type Asks struct {
	New []New // to be learnt, in the order in which it comes
	// Changes are all that are hard for the student, by their keys, between known shapes
	// and new ones.
	Changes [][2]neck.Frets
	Limits  []Limit // what the student cannot do at its tempo, the first place of each kind
}

// New is something to be learnt: a shape, or where To is one the change between two that
// are known.
type New struct {
	Shape Held
	To    *Held
}

// LimitKind is what a version has that is beyond a student.
type LimitKind uint8

// The limits.
const (
	HandLimit  LimitKind = iota // a shape that the hand cannot hold, or not as it is usual
	SkillLimit                  // a technique that is not learnt
	TouchLimit                  // one that can be added when the notes are there
	PaceLimit                   // more strokes a second than are comfortable
	FirstLimit                  // a shape that moves along the neck, for who has none and not three fingers yet
)

// Limit is something in a version that is beyond a student, and where it comes first.
type Limit struct {
	Kind   LimitKind
	Bar    int         // from 1
	Of     string      // the chord or note, in short
	Skills hand.Skills // of SkillLimit and TouchLimit
	// Asked are strokes a second over a bar, Most those that are comfortable.
	Asked, Most float64
}

// What a student can play faster than is comfortable: a little for a whole bar, and for a
// beat, which a pair of quicker notes may fill.
const (
	barLeeway  = 1.03
	beatLeeway = 2.0
)

// AsksOf looks at what a version of a part of a song asks of a student beyond what they
// have.
func AsksOf(s *song.Song, v *arrange.Version, st Student) (a Asks) {
	chosen := make([]Chosen, len(s.Parts))
	chosen[v.Part].Version = v
	b := newBuilder(s, chosen, st, v.Tempo)
	view := b.view(v.Part)
	for j := range view.holds {
		h := &view.holds[j]
		if key := keyOf(h.Frets); isShape(h.Fingering) && !b.shapes[key] && !b.has(h) {
			b.shapes[key] = true
			b.tellApart(h)
			a.New = append(a.New, New{Shape: h.Held})
		}
	}
	for i, c := range hardOf(b.changesOf(view)) {
		to := c.to.Held
		change := New{c.from.Held, &to}
		a.Changes = append(a.Changes, change.Key())
		if i < mostChanges && b.has(c.from) && b.has(c.to) {
			a.New = append(a.New, change)
		}
	}
	slices.SortStableFunc(a.New, func(x, y New) int { return x.Bar() - y.Bar() })
	a.limits(view, st)
	return a
}

// Bar is where it is first needed, from 1.
func (n New) Bar() int {
	if n.To != nil {
		return n.To.Bar
	}
	return n.Shape.Bar
}

// Key is the same for what is learnt once.
func (n New) Key() [2]neck.Frets {
	if n.To == nil {
		return [2]neck.Frets{neck.Frets(keyOf(n.Shape.Frets)), neck.NoFrets}
	}
	return pairOf(&hold{Held: n.Shape}, &hold{Held: *n.To})
}

// limits adds what is beyond the student.
func (a *Asks) limits(v *view, st Student) {
	once := map[LimitKind]bool{}
	add := func(l Limit) {
		if !once[l.Kind] {
			once[l.Kind] = true
			a.Limits = append(a.Limits, l)
		}
	}
	missing := st.Player.New &^ st.Known.Skills
	first := len(st.Known.shapes) == 0 && missing&hand.ThreeFingers != 0
	var later hand.Skills
	for _, s := range skillOf {
		later |= s
	}
	skills := map[LimitKind]hand.Skills{}
	for i := range v.version.Bars {
		bar := &v.version.Bars[i]
		for j := range bar.Events {
			e := &bar.Events[j]
			here := Limit{Bar: bar.Number, Of: nameIn(e)}
			if unheld(e) {
				here.Kind = HandLimit
				add(here)
			}
			written := e.From
			if !v.version.Rung.Literal() {
				written = nil
			}
			need := (grade.TechniqueSkills(written, e.Muted) | grade.ShapeSkills(e.Fingering)) & missing &^ hand.PalmMuting
			if hard := need &^ later; hard != 0 && len(e.Notes) > 0 {
				skills[SkillLimit] |= hard
				here.Kind = SkillLimit
				add(here)
			}
			if soft := need & later; soft != 0 {
				skills[TouchLimit] |= soft
				here.Kind = TouchLimit
				add(here)
			}
			if first && len(e.Notes) > 1 && e.Fingering.Count() > 1 && e.Fingering.Frets.Open() == 0 {
				here.Kind = FirstLimit
				add(here)
			}
		}
	}
	for i := range a.Limits {
		a.Limits[i].Skills = skills[a.Limits[i].Kind]
	}
	if l, ok := v.pace(st.Player.Pace()); ok {
		add(l)
	}
}

// nameIn is what an event is called in short: its chord, or its lowest note.
func nameIn(e *arrange.Event) string {
	switch {
	case e.From.Kind == song.Chord:
		return e.From.Chord.Symbol
	case len(e.Notes) == 0:
		return ""
	}
	return e.Notes[0].Name.String()
}

// unheld tells whether an event has a shape that the hand cannot hold as it is meant.
func unheld(e *arrange.Event) bool {
	return slices.ContainsFunc(e.Why, func(f arrange.Fact) bool {
		switch f := f.(type) {
		case arrange.BeyondReach, arrange.BeyondSpread:
			return true
		case arrange.Reason:
			return f.Why == arrange.BeyondFour || f.Why == arrange.NeedsLittle || f.Why == arrange.NeedsBarre || f.Why == arrange.SomeShape
		}
		return false
	})
}

// pace finds the bar whose strokes come fastest, where that is beyond a pace.
func (v *view) pace(most float64) (l Limit, beyond bool) {
	worst := 0.0
	for i := range v.version.Bars {
		inBar, inBeat := v.strokes(i)
		over := max(inBar/barLeeway, inBeat/beatLeeway)
		if over > most && over > worst {
			worst, beyond = over, true
			l = Limit{Kind: PaceLimit, Bar: v.version.Bars[i].Number, Asked: inBar, Most: most}
			if inBar <= most*barLeeway {
				l.Asked = inBeat
			}
		}
	}
	return l, beyond
}
