package song

import (
	"slices"
	"strconv"
)

// A part and its written bars have names that nobody sees: numbers that stay with them
// when the part is called something else, when bars are put in before them, or when what
// is in them is changed. They are given when a sheet is saved, by matching it with the one
// before (Identify), and what belongs to a part is kept under them.

// PartID is the number of a part within its song, from 1; 0 is none.
type PartID int

// String writes the number.
func (id PartID) String() string { return strconv.Itoa(int(id)) }

// Identity is what one part of a saved song is known by.
type Identity struct {
	ID   PartID
	Bars []int // of its written bars, from 1, each once
	Next int   // a number that no bar of the part has had yet
}

// WithIDs is the song with what its parts are known by, in their order; parts beyond the
// list have none of their own. The song itself stays as it is.
func (s *Song) WithIDs(list []Identity) *Song {
	out := *s
	out.Parts = slices.Clone(s.Parts)
	for i := range out.Parts {
		out.Parts[i].Identity = Identity{}
		if i < len(list) && len(list[i].Bars) == out.Parts[i].Written() {
			out.Parts[i].Identity = list[i]
		}
	}
	return &out
}

// PartID is the number of the part with an index; of a song that was never saved its place.
func (s *Song) PartID(i int) PartID {
	if id := s.Parts[i].Identity.ID; id != 0 {
		return id
	}
	return PartID(i + 1)
}

// PartWith finds the part that has a number.
func (s *Song) PartWith(id PartID) (int, bool) {
	for i := range s.Parts {
		if s.PartID(i) == id {
			return i, true
		}
	}
	return 0, false
}

// BarID is the number of a written bar of the part, itself counted from 1.
func (p *Part) BarID(bar int) int {
	if bar >= 1 && bar <= len(p.Identity.Bars) {
		return p.Identity.Bars[bar-1]
	}
	return bar
}

// BarWith is where the bar with a number is written in the part, from 1; 0 where it is not
// there any more.
func (p *Part) BarWith(id int) int {
	if len(p.Identity.Bars) == 0 {
		if id >= 1 && id <= p.Written() {
			return id
		}
		return 0
	}
	return slices.Index(p.Identity.Bars, id) + 1
}

// Identify gives the parts of a song that is saved what they are known by: what they were
// known by in the song as it was, nil for none, and new numbers from next on for what is
// new. split are the parts that stand beside one of before that was cut, by its number. The
// song as it was has its identities.
func Identify(was, is *Song, next PartID) (list []Identity, split map[PartID][]PartID, after PartID) {
	list = make([]Identity, len(is.Parts))
	split = map[PartID][]PartID{}
	next = max(next, 1)
	if was != nil {
		for i := range was.Parts { // the numbers of one that was never saved are its places
			next = max(next, was.PartID(i)+1)
		}
		for k, c := range Changes(was, is) {
			if k >= len(was.Parts) || len(c.Into) == 0 {
				continue
			}
			of := was.PartID(k)
			for n, name := range c.Into {
				j, _ := is.PartNamed(name)
				if n == 0 {
					list[j] = identified(&was.Parts[k], &is.Parts[j])
					list[j].ID = of
					continue
				}
				list[j] = fresh(next, is.Parts[j].Written())
				split[of] = append(split[of], next)
				next++
			}
		}
	}
	for j := range list {
		if list[j].ID == 0 {
			list[j] = fresh(next, is.Parts[j].Written())
			next++
		}
	}
	return list, split, next
}

func fresh(id PartID, bars int) Identity {
	of := Identity{ID: id, Next: bars + 1, Bars: make([]int, bars)}
	for i := range of.Bars {
		of.Bars[i] = i + 1
	}
	return of
}

// identified gives the bars of a part as it is the numbers that they had: the cheapest way
// from one row of bars to the other, where a bar that was changed costs as much as one that
// was put in or taken out.
func identified(was, is *Part) Identity {
	before, now := was.BarKeys(), is.BarKeys()
	n, m := len(before), len(now)
	begin := 0 // what is the same at both ends needs no search
	for begin < n && begin < m && before[begin] == now[begin] {
		begin++
	}
	end := 0
	for end < n-begin && end < m-begin && before[n-1-end] == now[m-1-end] {
		end++
	}
	rows, cols := n-begin-end, m-begin-end
	cost := make([][]int, rows+1) // from bar i of before and bar j of now to the end
	for i := rows; i >= 0; i-- {
		cost[i] = make([]int, cols+1)
		for j := cols; j >= 0; j-- {
			switch {
			case i == rows:
				cost[i][j] = cols - j
			case j == cols:
				cost[i][j] = rows - i
			default:
				cost[i][j] = min(cost[i+1][j+1]+differs(before[begin+i], now[begin+j]), cost[i+1][j]+1, cost[i][j+1]+1)
			}
		}
	}
	of := Identity{Bars: make([]int, m), Next: max(was.Identity.Next, n+1)}
	for i, j := 0, 0; i < rows && j < cols; {
		switch d := differs(before[begin+i], now[begin+j]); {
		case cost[i][j] == cost[i+1][j+1]+d:
			of.Bars[begin+j] = was.BarID(begin + i + 1)
			i, j = i+1, j+1
		case cost[i][j] == cost[i+1][j]+1:
			i++
		default:
			j++
		}
	}
	for i := range begin {
		of.Bars[i] = was.BarID(i + 1)
	}
	for i := range end {
		of.Bars[m-1-i] = was.BarID(n - i)
	}
	for i, id := range of.Bars {
		if id == 0 {
			of.Bars[i] = of.Next
			of.Next++
		}
	}
	return of
}

func differs(a, b string) int {
	if a == b {
		return 0
	}
	return 1
}
