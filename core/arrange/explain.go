package arrange

import (
	"fmt"
	"slices"
	"strings"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// reasons says in words what the student gets in one bar, and why.
func (w *work) reasons(b int, bar *Bar, said *grouped, l links) []string {
	if len(bar.Events) == 0 {
		if len(w.bars[b].Events) == 0 {
			return []string{"the sound of the bar before goes on"}
		}
		return []string{"silence"}
	}
	why := said.words()
	for _, s := range []string{thinning(bar.Dropped), where(bar), l.String()} {
		if s != "" {
			why = append(why, s)
		}
	}
	if bar.Demand > worthSaying {
		why = append(why, "hardest "+bar.Hard)
	}
	return why
}

// worthSaying is the demand from which a bar's hardest place is named.
const worthSaying = 0.5

// thinning says what was left out of a bar.
func thinning(dropped []Dropped) string {
	if len(dropped) == 0 {
		return ""
	}
	var parts []string
	for _, d := range dropped {
		parts = append(parts, d.What+" on "+d.Beat)
	}
	return "left out, because the tempo asks for more strokes than are comfortable: " + join(parts)
}

// grouped collects the reasons of a bar, those that are alike together.
type grouped struct {
	because []string
	what    [][]string // by what they are because of
}

func (g *grouped) reset() { g.because, g.what = g.because[:0], g.what[:0] }

func (g *grouped) add(r reason) {
	if r.because == "" {
		return
	}
	i := slices.Index(g.because, r.because)
	if i < 0 {
		i = len(g.because)
		g.because, g.what = append(g.because, r.because), append(g.what, nil)
	}
	if !slices.Contains(g.what[i], r.what) {
		g.what[i] = append(g.what[i], r.what)
	}
}

func (g *grouped) words() []string {
	list := make([]string, 0, len(g.because)+4)
	for i, because := range g.because {
		list = append(list, reason{strings.Join(g.what[i], " "), because}.String())
	}
	return list
}

// where says on which strings and frets a bar lies.
func where(bar *Bar) string {
	var used [neck.Strings + 1]bool
	low, high := neck.MaxFret+1, -1
	for i := range bar.Events {
		for _, n := range bar.Events[i].Notes {
			used[n.String] = true
			low, high = min(low, n.Fret), max(high, n.Fret)
		}
	}
	var names []string
	for s := neck.String(neck.Strings); s >= 1; s-- {
		if used[s] {
			names = append(names, s.String())
		}
	}
	switch {
	case len(names) == 0:
		return ""
	case len(names) == 1 && high == 0:
		return "only the open " + names[0] + " string"
	case len(names) == 1 && low == high:
		return fmt.Sprintf("stays at fret %d of the %s string", low, names[0])
	case len(names) == 1:
		return fmt.Sprintf("all on the %s string, frets %d to %d", names[0], low, high)
	case low == high:
		return fmt.Sprintf("stays at fret %d of the strings %s", low, strings.Join(names, " "))
	}
	return fmt.Sprintf("strings %s, frets %d to %d", strings.Join(names, " "), low, high)
}

// links counts the changes of a bar that a finger makes easy.
type links struct{ anchors, guides int }

// change looks at one change: it counts as anchored where a finger stays, and
// as guided where one slides along its string.
func (l *links) change(from, to hand.Fingering) {
	if from == to {
		return
	}
	switch c := hand.Between(from, to); {
	case c.Kept > 0:
		l.anchors++
	case c.Slid > 0:
		l.guides++
	}
}

func (l links) String() string {
	var parts []string
	if l.anchors > 0 {
		parts = append(parts, "a finger stays where it is in "+changes(l.anchors))
	}
	if l.guides > 0 {
		parts = append(parts, "a finger slides along its string in "+changes(l.guides))
	}
	return join(parts)
}

func changes(n int) string {
	if n == 1 {
		return "1 change"
	}
	return fmt.Sprintf("%d changes", n)
}

// overall says what holds for the whole version.
func (w *work) overall() []string {
	var why []string
	if players := w.part.Players(); len(players) > 0 {
		why = append(why, strings.Join(players, " and ")+" left to the second player")
	}
	if w.options.Tuning != nil {
		why = append(why, "placed in the tuning "+w.options.Tuning.String())
		if lost := w.lost(); lost != "" {
			why = append(why, "lost in it: "+lost)
		}
	}
	if w.gallops > 0 {
		why = append(why, "gallops are picked down, down-up")
	}
	if same := w.likeAnother(); same != "" {
		why = append(why, same)
	}
	if w.version.Travel == 0 {
		return append(why, "the hand never moves along the neck")
	}
	return append(why, fmt.Sprintf("the hand moves %.0f mm along the neck in all", w.version.Travel))
}

// lost lists what the other tuning does not give.
func (w *work) lost() string {
	var open, octave, thinner int
	for i := range w.needs {
		n := &w.needs[i]
		c := w.choiceOf(i)
		if strings.Contains(n.why.because, "moved ") {
			octave++
		}
		if !w.literal() || n.from.Kind != song.Notes {
			continue
		}
		if c.Sounding() < len(w.contents[n.content].harmony.pitches) {
			thinner++
		}
		for _, note := range n.from.Notes {
			if note.Fret == 0 && !note.Dead && c.Frets != neck.NoFrets && c.Frets.On(note.String) != 0 {
				open++
				break
			}
		}
	}
	var parts []string
	for _, l := range []struct {
		n         int
		one, many string
	}{
		{octave, "1 note sounds in another octave", "%d notes sound in another octave"},
		{thinner, "1 chord has fewer notes", "%d chords have fewer notes"},
		{open, "1 open string is fretted or lies elsewhere", "%d open strings are fretted or lie elsewhere"},
	} {
		switch {
		case l.n == 1:
			parts = append(parts, l.one)
		case l.n > 1:
			parts = append(parts, fmt.Sprintf(l.many, l.n))
		}
	}
	return join(parts)
}
