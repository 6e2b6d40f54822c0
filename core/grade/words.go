package grade

import (
	"fmt"
	"strings"

	"valleyside/core/hand"
	"valleyside/core/song"
)

// Words explains one demand of a moment with its numbers, as in "shift of
// 96 mm in 0.29 s, no finger stays".
func (m *Moment) Words(d Demand, p hand.Player) string {
	change := hand.Between(m.From, m.To)
	switch d {
	case Reach:
		return fmt.Sprintf("reach of %.0f mm, the hand has %.0f", m.To.Reach(p.Neck()), p.Reach)
	case Fingers:
		return count(m.To.Count(), "one finger", "%d fingers") + " to hold"
	case Force:
		fret, strings := m.To.Barre()
		return fmt.Sprintf("one finger over %d strings at fret %d", strings, fret)
	case Muting:
		if n := m.To.Inside(); n > 0 {
			return count(n, "a string", "%d strings") + " inside the shape to keep silent"
		}
		return "the strings beside the shape to keep silent"
	case Shift:
		return fmt.Sprintf("shift of %.0f mm in %.2f s, %s", m.Shift, m.Seconds, stays(change))
	case Change:
		return count(change.Placed+change.Moved+change.Slid, "a finger", "%d fingers") + fmt.Sprintf(" to place in %.2f s", m.Seconds)
	case Crossing:
		return "the pick crosses " + count(change.Crossed, "a string", "%d strings") + fmt.Sprintf(" in %.2f s", m.Seconds)
	case Speed:
		return fmt.Sprintf("%.1f strokes a second, %.1f are comfortable", 1/m.Pace, p.NotesPerSecond)
	case Rhythm:
		if m.Tied {
			return "off the beat and held over the next one"
		}
		return "a stroke off the beat"
	case Ornament:
		return strings.Join(ornaments(m.Written), " and ")
	}
	return strings.Join(((ShapeSkills(m.To)|TechniqueSkills(m.Written, m.Palm))&p.New).Names(), " and ") + " not learnt yet"
}

func stays(c hand.Change) string {
	switch {
	case c.Kept > 0:
		return count(c.Kept, "one finger stays", "%d fingers stay")
	case c.Slid > 0:
		return count(c.Slid, "one finger slides along", "%d fingers slide along")
	}
	return "no finger stays"
}

func count(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return fmt.Sprintf(many, n)
}

// ornaments names what is played on an event beside its notes.
func ornaments(e *song.Event) []string {
	var list []string
	if e == nil {
		return list
	}
	for _, n := range e.Notes {
		if name := [...]string{song.Picked: "", song.Hammered: "a hammer-on", song.PulledOff: "a pull-off", song.Slid: "a slide", song.Tapped: "a tap"}[n.By]; name != "" {
			list = append(list, name)
		}
		if n.Bend != 0 {
			list = append(list, "a bend of "+bend(n.Bend))
		}
		if n.Harmonic {
			list = append(list, "a harmonic")
		}
	}
	if e.Vibrato {
		list = append(list, "vibrato")
	}
	return list
}

// bend names the size of a bend in cents.
func bend(cents int) string {
	switch cents {
	case 50:
		return "a quarter tone"
	case 100:
		return "a half step"
	case 200:
		return "a whole step"
	}
	return fmt.Sprintf("%g half steps", float64(cents)/100)
}
