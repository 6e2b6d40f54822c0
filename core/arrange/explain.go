package arrange

import (
	"fmt"
	"slices"
	"strings"

	"valleyside/core/hand"
	"valleyside/core/neck"
)

// reasons says in words what the student gets in one bar, and why.
func (w *work) reasons(b int, bar *Bar, said grouped, l links) []string {
	if len(bar.Events) == 0 {
		if len(w.bars[b].Events) == 0 {
			return []string{"the sound of the bar before goes on"}
		}
		return []string{"silence"}
	}
	why := said.words()
	for _, s := range []string{where(bar), l.String()} {
		if s != "" {
			why = append(why, s)
		}
	}
	if bar.Demand > worthSaying {
		why = append(why, "hardest "+bar.Hard)
	}
	return why
}

// grouped collects the reasons of a bar, those that are alike together.
type grouped struct {
	order []string
	what  map[string][]string // by what they are because of
}

func (g *grouped) add(r reason) {
	if r.because == "" {
		return
	}
	if g.what == nil {
		g.what = map[string][]string{}
	}
	if _, known := g.what[r.because]; !known {
		g.order = append(g.order, r.because)
	}
	if !slices.Contains(g.what[r.because], r.what) {
		g.what[r.because] = append(g.what[r.because], r.what)
	}
}

func (g *grouped) words() []string {
	var list []string
	for _, because := range g.order {
		list = append(list, reason{strings.Join(g.what[because], " "), because}.String())
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
		return fmt.Sprintf("only the open %s string", names[0])
	case len(names) == 1 && low == high:
		return fmt.Sprintf("stays at fret %d of the %s string", low, names[0])
	case len(names) == 1:
		return fmt.Sprintf("all on the %s string, frets %d to %d", names[0], low, high)
	case low == high:
		return fmt.Sprintf("stays at fret %d of the strings %s", low, strings.Join(names, " "))
	}
	return fmt.Sprintf("strings %s, frets %d to %d", strings.Join(names, " "), low, high)
}

// worthSaying is the demand from which a bar's hardest place is named.
const worthSaying = 0.5

// links counts the changes of a bar that a finger makes easy.
type links struct{ anchors, guides int }

// change looks at one change: it counts as anchored where a finger stays, and
// as guided where one slides along its string.
func (l *links) change(from, to hand.Fingering) {
	if from == to {
		return
	}
	stays, slides := false, false
	for i, by := range to.Fingers {
		if by != hand.None && from.Fingers[i] == by {
			stays = stays || from.Frets[i] == to.Frets[i]
			slides = slides || from.Frets[i] != to.Frets[i]
		}
	}
	switch {
	case stays:
		l.anchors++
	case slides:
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
	return strings.Join(parts, ", ")
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
	}
	if w.version.Travel == 0 {
		return append(why, "the hand never moves along the neck")
	}
	return append(why, fmt.Sprintf("the hand moves %.0f mm along the neck in all", w.version.Travel))
}
