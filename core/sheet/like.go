package sheet

import (
	"slices"
	"strings"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// A part that is like another takes over its bars and settings as they are typed, so
// that it follows what is changed there; lines that begin with a bar's number stand
// in the place of some of them.

// like is the part that the one being read is like, and what it has of its own.
type like struct {
	of       string // its name; empty where the part stands for itself
	part     int
	replaced []typedLine
	words    []typedLine // instead of that one's
}

// typedLine is a line of bars and where it stands.
type typedLine struct {
	place
	Line
}

// readPart is what a part that was read hands on to those that are like it.
type readPart struct {
	music  []typedLine
	pickup pickup
}

// beLike takes over the settings of another part, but for those of its own that stand
// above.
func (p *parser) beLike(name string) (canonical string, err *pitch.Malformed) {
	s := p.sheet.Song
	own := len(s.Parts) - 1
	i := slices.IndexFunc(s.Parts[:max(own, 0)], func(q song.Part) bool { return strings.EqualFold(q.Name, name) })
	if exact, ok := s.PartNamed(name); ok && exact < own {
		i = exact
	}
	if i < 0 || p.part == nil || len(p.music) > 0 {
		return name, p.notLike(name, own)
	}
	from := &s.Parts[i]
	p.like = like{of: from.Name, part: i}
	for j := range settings {
		if known := &settings[j]; known.take != nil && !p.own[known.name] {
			known.take(p.part, from)
		}
	}
	if !p.own["pickup"] {
		p.pickup = p.others[i].pickup
	}
	return from.Name, nil
}

// notLike says why a part cannot be like another.
func (p *parser) notLike(name string, own int) *pitch.Malformed {
	if len(p.music) > 0 {
		return pitch.Malformedf("write like: above them", "the part has bars of its own already")
	}
	var names []string
	for _, q := range p.sheet.Song.Parts[:max(own, 0)] {
		names = append(names, q.Name)
	}
	if len(names) == 0 {
		return pitch.Malformedf("write the part that it is like first", "there is no part above that this one could be like")
	}
	if near := nearest(name, names); near != "" {
		return pitch.Malformedf("did you mean "+near+"?", "there is no part %s above this one", name)
	}
	return pitch.Malformedf("the parts above are "+strings.Join(names, ", "), "there is no part %s above this one", name)
}

// takeOver ends a part: one that is like another gets its bars.
func (p *parser) takeOver() {
	if p.part == nil {
		return
	}
	if p.like.of != "" {
		p.music = writtenOut(p.others[p.like.part].music)
		for _, r := range p.like.replaced {
			p.bars -= len(r.Bars) // they stand in the place of others, which are counted
			p.replace(r)
		}
		if len(p.like.words) > 0 {
			p.music = slices.DeleteFunc(p.music, func(l typedLine) bool { return l.Words != nil })
		}
		for _, l := range p.music {
			if l.Words != nil && len(p.part.Lines) > 0 {
				p.sing(l, &p.part.Lines[len(p.part.Lines)-1])
				continue
			}
			if p.bars += len(l.Bars); p.bars > MaxBars {
				if !p.full {
					p.errorf(p.partLineNumber(), 1, "use repeats (x3, %) or split the song", "the sheet has more than %d bars", MaxBars)
				}
				p.full = true
				break
			}
			p.place(l.place.line, l.column, l.Line)
		}
		p.singLike()
	}
	if p.others == nil {
		p.others = map[int]readPart{}
	}
	p.others[len(p.sheet.Song.Parts)-1] = readPart{p.music, p.pickup}
}

// singLike gives the lines of a part that is like another the words of its own, one
// line of them to each line of bars.
func (p *parser) singLike() {
	for i, w := range p.like.words {
		if i == len(p.part.Lines) {
			p.errorf(w.place.line, w.column, "write one line of words for each line of bars of that part", "%s has no more lines of bars", p.like.of)
			return
		}
		p.sing(w, &p.part.Lines[i])
	}
}

// writtenOut is a copy of the lines of a part in which no bar is the same as the one
// before it, so that each can be replaced alone.
func writtenOut(lines []typedLine) []typedLine {
	before := map[string]Bar{} // by player
	out := slices.Clone(lines)
	for i := range out {
		l := &out[i]
		l.Bars = slices.Clone(l.Bars)
		for j, b := range l.Bars {
			if b.Same {
				l.Bars[j] = before[l.Player]
				l.Bars[j].Unsure = b.Unsure
			}
			before[l.Player] = l.Bars[j]
		}
	}
	return out
}

// replace puts the bars of a line in the place of those from its number on.
func (p *parser) replace(r typedLine) {
	number, next := 0, 0
	for i := range p.music {
		l := &p.music[i]
		if l.Player != r.Player {
			continue
		}
		for j := range l.Bars {
			if number++; number >= r.From && next < len(r.Bars) {
				l.Bars[j] = r.Bars[next]
				next++
			}
		}
	}
	switch {
	case number == 0:
		p.errorf(r.place.line, r.column, "remove the player's name, or give that part a line of theirs", "%s plays nothing in %s", r.Player, p.like.of)
	case next < len(r.Bars):
		p.errorf(r.place.line, r.column, "replace bars that it has", "%s has %s", p.like.of, barCount(number))
	}
}
