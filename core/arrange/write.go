package arrange

import (
	"strings"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// shown is what all events of a choice show. It is made once.
type shown struct {
	notes []Note
	mutes []hand.Mute
	why   string
}

// approach is a way to come to an event: from the event before it, or over a
// seam.
type approach struct {
	from    int // index of the need before, −1 where nothing came before
	seconds float64
	seam    string // in words, empty for the event before
}

// write turns the path that was found into the bars of the version.
func (w *work) write() {
	v := w.version
	v.Bars = make([]Bar, len(w.bars))
	for b := range v.Bars {
		v.Bars[b].Number = b + 1
		v.Bars[b].Dropped = w.dropped[b]
	}
	totals := make([]float64, len(w.needs))
	var said grouped
	var linked links
	for first := 0; first < len(w.needs); {
		end := first
		b := w.needs[first].bar
		for end < len(w.needs) && w.needs[end].bar == b {
			end++
		}
		bar := &v.Bars[b]
		bar.Events = make([]Event, 0, end-first)
		said.reset()
		linked = links{}
		hardest := first
		for i := first; i < end; i++ {
			_, totals[i] = w.hardestWay(i)
			if totals[i] > totals[hardest] {
				hardest = i
			}
			e := w.event(i, totals[i])
			v.Travel += e.Shift
			bar.Events = append(bar.Events, e)
			c := w.choiceOf(i)
			said.add(w.needs[i].why)
			said.add(reason{w.needs[i].why.what, c.why})
			if i > 0 {
				linked.change(w.choiceOf(i-1).Fingering, c.Fingering)
			}
		}
		w.strike(bar, first)
		bar.Demand = grade.Of(totals[first:end])
		bar.Hard = "on " + w.needs[hardest].beat + ": " + w.words(hardest)
		bar.Why = w.reasons(b, bar, &said, linked)
		first = end
	}
	for b := range v.Bars {
		if len(v.Bars[b].Events) == 0 {
			v.Bars[b].Why = w.reasons(b, &v.Bars[b], &grouped{}, links{})
		}
	}
	w.alike()
	v.Grade = grade.Scale(grade.Of(totals))
	v.Why = append(v.Why, w.overall()...)
}

func (w *work) stateOf(i int) state    { return w.needs[i].states[w.path[i]] }
func (w *work) choiceOf(i int) *choice { return &w.needs[i].choices[w.stateOf(i).choice] }

// words explains what asks most of the hands at event i.
func (w *work) words(i int) string {
	a, _ := w.hardestWay(i)
	m := w.momentBy(i, a)
	p := m.Profile(w.options.Player)
	return m.Words(p.Worst(), w.options.Player) + a.seam
}

// momentBy is the moment of event i when it is come to in one of the ways.
func (w *work) momentBy(i int, a approach) grade.Moment {
	m := w.moment(i)
	m.To, m.Seconds, m.From = w.choiceOf(i).Fingering, a.seconds, hand.Silent
	if a.from >= 0 {
		m.From = w.choiceOf(a.from).Fingering
		m.Shift = w.along[w.stateOf(a.from).base][w.stateOf(i).base]
	}
	return m
}

// hardestWay is the hardest of the ways to event i, with its total demand.
func (w *work) hardestWay(i int) (by approach, total float64) {
	total = -1
	for _, a := range w.approaches(i) {
		demand := w.needs[i].fixed + w.choiceOf(i).hold
		if a.from >= 0 {
			e := w.edge(w.needs[a.from].kind, &w.needs[i], a.seconds)
			demand = e.demand(w.stateOf(a.from), w.stateOf(i))
		}
		if demand > total {
			total, by = demand, a
		}
	}
	return by, total
}

// approaches lists the ways to event i within the part.
func (w *work) approaches(i int) []approach {
	list := []approach{{from: i - 1, seconds: w.needs[i].gap}}
	line := w.lines[w.needs[i].line]
	if i != line.start {
		return list
	}
	if line.times > 1 {
		list = append(list, approach{line.end - 1, line.back, ", when the line starts over"})
	}
	if i == 0 && w.ways.loop > 0 {
		list = append(list, approach{len(w.needs) - 1, w.ways.back, ", when the part starts over"})
	}
	return list
}

// event writes one event of the version.
func (w *work) event(i int, demand float64) Event {
	n, s, c := &w.needs[i], w.stateOf(i), w.choiceOf(i)
	if c.shown == nil {
		c.shown = w.show(n, c)
	}
	e := Event{
		Start: n.from.Start, Length: n.length, Beat: n.beat,
		Notes: c.shown.notes, Dead: n.dead, Fingering: c.Fingering, Base: int(s.base),
		Muted: n.from.Muted(w.part), Mutes: c.shown.mutes, Why: c.shown.why, Demand: demand, Pinned: n.pinned, From: n.from,
	}
	if i > 0 {
		e.Shift = w.along[w.stateOf(i-1).base][s.base]
	}
	return e
}

// show works out what the events of a choice show.
func (w *work) show(n *need, c *choice) *shown {
	content := &w.contents[n.content]
	sh := &shown{mutes: c.Mutes(), why: n.why.String()}
	if c.why != "" {
		sh.why += "; " + c.why
	}
	for i, fret := range c.Frets {
		if fret < 0 {
			continue
		}
		s := neck.StringAt(i)
		p := w.tuning.Pitch(s, int(fret))
		if w.literal() {
			p += w.bent(content.from, s)
		}
		sh.notes = append(sh.notes, Note{String: s, Fret: int(fret), Finger: c.Fingers[i], Pitch: content.names.At(p)})
	}
	return sh
}

// bent is how much higher than its fret a written note sounds.
func (w *work) bent(e *song.Event, s neck.String) pitch.Pitch {
	for _, n := range e.Notes {
		if n.String == s && w.options.Tuning == nil {
			return n.Pitch(w.written) - w.written.Pitch(s, n.Fret)
		}
	}
	return 0
}

// strike gives the events of a bar their strokes. Only economy picking looks
// at the strings; otherwise they are the same for all versions of a rhythm.
func (w *work) strike(bar *Bar, first int) {
	known := w.strokes[w.literal()][first:]
	if school := w.options.Player.Picking; school == hand.Economy {
		known = w.strokesOf(bar, first, school)
	}
	for i := range bar.Events {
		bar.Events[i].Stroke = known[i]
	}
}

// strokesOf works out the strokes of a bar.
func (w *work) strokesOf(bar *Bar, first int, school hand.School) []song.Stroke {
	moments := make([]hand.Moment, len(bar.Events))
	for i := range bar.Events {
		e := &bar.Events[i]
		moments[i] = hand.Moment{Beats: w.needs[first+i].beats, Picked: w.picked(e.From), Written: e.From.Stroke,
			Low: e.Fingering.Lowest(), High: e.Fingering.Highest()}
		if len(e.Dead) > 0 && moments[i].Low == 0 {
			moments[i].Low, moments[i].High = e.Dead[0], e.Dead[len(e.Dead)-1]
		}
	}
	return hand.Strokes(moments, school)
}

// detail fills in what only a version that is looked at closely needs: the
// words for every event.
func (w *work) detail() {
	i := 0
	for b := range w.version.Bars {
		for j := range w.version.Bars[b].Events {
			w.version.Bars[b].Events[j].Hard = w.words(i)
			i++
		}
	}
}

func join(list []string) string { return strings.Join(list, ", ") }
