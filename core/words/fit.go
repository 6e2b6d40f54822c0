package words

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/lesson"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// Fit says in one sentence what is begun with of a song, what keeps it from being as it
// is written, and what is new in it.
func (sp Speaker) Fit(s *song.Song, c *fit.Choice) string {
	text := sp.rungs(s, &c.Set)
	why := sp.limits(c.Parts, func(p *fit.Part) []lesson.Limit { return p.Not })
	switch {
	case len(why) > 0:
		text += ", since " + list(why[:min(len(why), mostReasons)])
	case c.Bolder != nil && text != written && c.Bolder.Weeks > c.Weeks:
		text += fmt.Sprintf(", since %s would bring %s", sp.rungs(s, c.Bolder), sp.things(c.Bolder))
	}
	if why = sp.limits(c.Parts, still); len(why) > 0 {
		return sentence(text + "; the nearest there is, though " + list(why[:min(len(why), mostReasons)]))
	}
	if len(c.New) == 0 {
		return sentence(text + ", with nothing in it that is new")
	}
	but := ", with "
	if text == written {
		but = ", but for "
	}
	names := sp.News(c.New)
	if len(names) > mostNamed {
		names = append(names[:mostNamed:mostNamed], number(len(names)-mostNamed)+" more")
	}
	return sentence(fmt.Sprintf("%s%s%s, %s: %s", text, but, list(names), either(len(c.New) == 1, "which is new", "which are new"), count(c.Weeks, "week")))
}

// How many reasons are said of a set, and how many new things are named.
const (
	mostReasons = 2
	mostNamed   = 4
)

var written = strings.ToLower(arrange.AsWritten.Title())

// rungs says what is played of which part.
func (sp Speaker) rungs(s *song.Song, set *fit.Set) string {
	of := map[arrange.Rung][]string{}
	var order []arrange.Rung
	for i := range set.Parts {
		r := set.Parts[i].Version.Rung
		if of[r] == nil {
			order = append(order, r)
		}
		of[r] = append(of[r], s.Parts[set.Parts[i].Part].Name)
	}
	if len(order) == 1 {
		return strings.ToLower(order[0].Title())
	}
	slices.SortFunc(order, func(a, b arrange.Rung) int { return len(of[a]) - len(of[b]) })
	var parts []string
	for i, r := range order {
		if i == len(order)-1 {
			parts = append(parts, "the rest "+strings.ToLower(r.Title()))
		} else {
			parts = append(parts, strings.ToLower(r.Title())+" in "+list(of[r]))
		}
	}
	return strings.Join(parts, ", ")
}

// Beside says what another set than the one that is chosen costs, or what it spares.
func (sp Speaker) Beside(s *song.Song, c *fit.Choice, other *fit.Set) string {
	text := sp.rungs(s, other)
	why := sp.limits(other.Parts, still)
	cost := sp.things(other)
	if len(why) > 0 {
		cost = list(why[:min(len(why), mostReasons)]) + "; " + cost
	}
	return text + ": " + cost
}

func still(p *fit.Part) []lesson.Limit { return p.Limits }

// limits says what is beyond a student in some parts, of each kind and chord the first.
func (sp Speaker) limits(parts []fit.Part, of func(*fit.Part) []lesson.Limit) (said []string) {
	type what struct {
		kind lesson.LimitKind
		of   string
	}
	once := map[what]bool{}
	for i := range parts {
		for _, l := range of(&parts[i]) {
			key := what{l.Kind, l.Of}
			if l.Kind != lesson.HandLimit {
				key.of = l.Skills.String()
			}
			if !once[key] {
				once[key] = true
				said = append(said, sp.Limit(l))
			}
		}
	}
	return said
}

// things counts what is new in a set.
func (sp Speaker) things(s *fit.Set) string {
	if len(s.New) == 0 {
		return "nothing new"
	}
	return fmt.Sprintf("%s in %s", count(len(s.New), "new thing"), count(s.Weeks, "week"))
}

// FitPart says of one part what is begun with, and why.
func (sp Speaker) FitPart(p *fit.Part) string {
	text := strings.ToLower(p.Version.Rung.Title())
	var why []string
	for _, l := range p.Not {
		why = appendOnce(why, sp.Limit(l))
	}
	for _, l := range p.Limits {
		why = appendOnce(why, sp.Limit(l))
	}
	if len(why) > 0 {
		text += ": " + strings.Join(why, "; ")
	}
	if names := sp.News(p.New); len(names) > 0 {
		text += "; new: " + strings.Join(names, ", ")
	}
	return sentence(text)
}

// News names things that are new, each with the bar where it comes first.
func (sp Speaker) News(list []lesson.New) (names []string) {
	for _, n := range list {
		name := n.Shape.Called()
		if name == "" {
			name = n.Shape.Frets.String()
		}
		if n.To != nil {
			to := n.To.Called()
			if to == "" {
				to = n.To.Frets.String()
			}
			names = appendOnce(names, "the change "+name+" to "+to)
			continue
		}
		names = appendOnce(names, name)
	}
	return names
}

// Limit says what is beyond a student.
func (sp Speaker) Limit(l lesson.Limit) string {
	skills := l.Skills.Names()
	switch l.Kind {
	case lesson.HandLimit:
		return fmt.Sprintf("the %s in bar %d is beyond this hand", l.Of, l.Bar)
	case lesson.PaceLimit:
		return fmt.Sprintf("bar %d asks for %.1f strokes a second, %.1f are comfortable", l.Bar, math.Max(l.Asked, l.Most), l.Most)
	case lesson.FirstLimit:
		return fmt.Sprintf("the shape in bar %d moves along the neck, which is new altogether", l.Bar)
	}
	return list(skills) + " " + either(len(skills) == 1 && !strings.HasSuffix(skills[0], "s"), "is", "are") + " not learnt"
}

func appendOnce(list []string, text string) []string {
	if slices.Contains(list, text) {
		return list
	}
	return append(list, text)
}

// WithCapo says where a capo goes, and what is fingered then.
func (sp Speaker) WithCapo(fret int, shapes []string) string {
	return fmt.Sprintf("capo at fret %d: %s", fret, strings.Join(shapes, " "))
}

// Easing says what a way to make chords easier is, and what it leaves out.
func (sp Speaker) Easing(e *arrange.Easing) string {
	text := "shapes that this hand has"
	switch {
	case e.Capo > 0:
		text = sp.WithCapo(e.Capo, e.Shapes)
	case e.School == voicing.Few:
		text = "fewer strings"
	}
	var without []string
	for _, s := range e.Without {
		without = append(without, fmt.Sprintf("%s without its %s", s.Of, degrees(s.Lost)))
	}
	if len(without) > mostNamed {
		without = append(without[:mostNamed:mostNamed], number(len(without)-mostNamed)+" more")
	}
	if len(without) > 0 {
		text += ", " + list(without)
	}
	return text
}
