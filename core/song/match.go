package song

import (
	"fmt"
	"strings"
)

// Fate is what has become of a part of a song that was changed.
type Fate uint8

// The fates.
const (
	Kept    Fate = iota // with its name; Bars lists those that differ
	Renamed             // it is called something else
	Parted              // its bars stand in several parts
	Gone                // nothing is left of it
	Fresh               // it was not there before
)

// Outcome is what has become of one part.
type Outcome struct {
	Fate Fate
	Name string   // as it was; of a fresh part as it is
	Into []string // the parts in which its bars stand now, the one with most of them first
	Bars []int    // written bars of the part as it is now that differ, from 1
}

// half is the share of the bars of a part that must be found elsewhere for it to have
// been renamed.
const half = 0.5

// Changes says what has become of the parts of a song: by what they are known by where
// both are saved, else by their names, and where those are gone by what is in them: who was
// learning one goes on with what it is now. The parts of the song as it was come first, in
// their order, then those that are new.
func Changes(was, is *Song) []Outcome {
	var list []Outcome
	taken := map[string]bool{} // parts of the new song that are an old one
	for i := range was.Parts {
		if j, ok := sameAs(&was.Parts[i], is); ok {
			taken[is.Parts[j].Name] = true
		}
	}
	for i := range was.Parts {
		p := &was.Parts[i]
		c := Outcome{Name: p.Name}
		if j, ok := sameAs(p, is); ok {
			c.Into, c.Bars = []string{is.Parts[j].Name}, differing(p, &is.Parts[j])
			if c.Into[0] != p.Name {
				c.Fate = Renamed
				delete(taken, c.Into[0])
				if into := found(p, is, taken); len(into) > 1 {
					c.Fate, c.Into, c.Bars = Parted, into, nil
				}
				for _, name := range c.Into {
					taken[name] = true
				}
			}
		} else {
			c.Into = found(p, is, taken)
			switch len(c.Into) {
			case 0:
				c.Fate = Gone
			case 1:
				c.Fate = Renamed
				j, _ := is.PartNamed(c.Into[0])
				c.Bars = differing(p, &is.Parts[j])
			default:
				c.Fate = Parted
			}
			for _, name := range c.Into {
				taken[name] = true
			}
		}
		list = append(list, c)
	}
	for i := range is.Parts {
		if name := is.Parts[i].Name; !taken[name] {
			list = append(list, Outcome{Fate: Fresh, Name: name})
		}
	}
	return list
}

// sameAs finds the part of a song that is a part of before: the one with its number where
// both have one, else the one with its name.
func sameAs(p *Part, is *Song) (int, bool) {
	if p.Identity.ID != 0 {
		for j := range is.Parts {
			if is.Parts[j].Identity.ID == p.Identity.ID {
				return j, true
			}
		}
	}
	if j, ok := is.PartNamed(p.Name); ok && (p.Identity.ID == 0 || is.Parts[j].Identity.ID == 0) {
		return j, true
	}
	return 0, false
}

// found lists the parts that nobody has taken in which the bars of a part stand, the one
// with most of them first: one where it has half of them, several where they have half
// together.
func found(p *Part, is *Song, taken map[string]bool) []string {
	left := map[string]int{}
	for _, key := range p.BarKeys() {
		left[key]++
	}
	total := p.Written()
	var names []string
	got := 0
	for total > 0 {
		best, most := -1, 0
		for j := range is.Parts {
			q := &is.Parts[j]
			if taken[q.Name] || has(names, q.Name) {
				continue
			}
			if n := common(left, q.BarKeys()); n > most {
				best, most = j, n
			}
		}
		if best < 0 {
			break
		}
		names, got = append(names, is.Parts[best].Name), got+most
		for _, key := range is.Parts[best].BarKeys() {
			if left[key] > 0 {
				left[key]--
			}
		}
	}
	if total == 0 || float64(got) < half*float64(total) {
		return nil
	}
	return names
}

func has(names []string, name string) bool {
	for _, n := range names {
		if n == name {
			return true
		}
	}
	return false
}

// common counts the bars that are among others, each as often as it is there.
func common(left map[string]int, keys []string) (n int) {
	used := map[string]int{}
	for _, key := range keys {
		if used[key] < left[key] {
			used[key]++
			n++
		}
	}
	return n
}

// differing lists the bars of a part as it is now that were others, or none.
func differing(was, is *Part) (list []int) {
	before, now := was.BarKeys(), is.BarKeys()
	for i := range now {
		if i >= len(before) || before[i] != now[i] {
			list = append(list, i+1)
		}
	}
	return list
}

// BarKeys has a text for each written bar of a part, the same for those that are played alike.
func (p *Part) BarKeys() []string {
	bars := p.Bars()
	keys := make([]string, len(bars))
	for i := range bars {
		var b strings.Builder
		m := p.Measure(&bars[i])
		fmt.Fprintf(&b, "%v %v", m.Meter, m.Lead)
		for _, e := range bars[i].Events {
			fmt.Fprintf(&b, "|%v %d %s %v %v %v", e.Start, e.Kind, e.Chord.Symbol, e.Frets, e.Marks, e.Notes)
		}
		keys[i] = b.String()
	}
	return keys
}
