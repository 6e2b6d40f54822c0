package take

import (
	"slices"
)

// most is how many bars are played out at most.
const most = 20_000

// leg is a section that is played once or several times on end: runs of bars.
type leg struct {
	name   string
	first  int // the bar at which it is named
	times  int
	blocks []block
}

// block is a run of bars that is played so often.
type block struct {
	bars  []int
	times int
	line  bool // the repeat is one of a line
}

// road works out in which order the bars are played: what is between repeat signs so
// often, endings in their passes, and where the signs say so from the segno or the
// beginning, without repeats, to the end or by the coda.
func (s *Score) road(problems *Problems) []leg {
	blocks := s.repeats(0, len(s.Bars), problems)
	if jump := s.jump(); jump >= 0 {
		blocks = s.jumped(jump, problems)
	}
	return s.sections(blocks, problems)
}

// jump is the bar after which the music goes back, −1 where it does not.
func (s *Score) jump() int {
	return slices.IndexFunc(s.Bars, func(b Bar) bool { return b.Jump.Back })
}

// repeats lists the blocks of the bars from a to before z.
func (s *Score) repeats(a, z int, problems *Problems) []block {
	var blocks []block
	open := a // the first bar that is in no block yet
	plain := func(until int) {
		if until > open {
			blocks = append(blocks, block{bars: span(open, until), times: 1})
		}
		open = max(open, until)
	}
	begin := a
	for i := a; i < z; i++ {
		b := &s.Bars[i]
		if b.Repeat {
			plain(i)
			begin = i
		}
		if b.Times == 0 || i < open {
			continue
		}
		last := i
		for len(b.Endings) > 0 && last+1 < z && len(s.Bars[last+1].Endings) > 0 && !s.Bars[last+1].Repeat {
			last++
		}
		plain(max(begin, open))
		from := max(begin, open)
		blocks = append(blocks, s.passes(from, last+1, b.Times)...)
		open, begin = last+1, last+1
	}
	plain(z)
	return blocks
}

// passes are the blocks of a repeat: one where all its passes are alike, else one for
// each pass, those that are alike and follow one another together.
func (s *Score) passes(from, to, times int) []block {
	for i := from; i < to; i++ {
		times = max(times, s.Bars[i].Times)
		for _, e := range s.Bars[i].Endings {
			times = max(times, e)
		}
	}
	var blocks []block
	for pass := 1; pass <= times; pass++ {
		var bars []int
		for i := from; i < to; i++ {
			if e := s.Bars[i].Endings; len(e) == 0 || slices.Contains(e, pass) {
				bars = append(bars, i)
			}
		}
		if n := len(blocks); n > 0 && slices.Equal(blocks[n-1].bars, bars) {
			blocks[n-1].times++
		} else if len(bars) > 0 {
			blocks = append(blocks, block{bars: bars, times: 1})
		}
	}
	line := len(blocks) > 1
	for i := from; i < to; i++ {
		line = line || s.Bars[i].OfLine
	}
	for i := range blocks {
		blocks[i].line = line
	}
	return blocks
}

// jumped lists the blocks of a way that goes back after a bar.
func (s *Score) jumped(jump int, problems *Problems) []block {
	blocks := s.repeats(0, jump+1, problems)
	sign := s.Bars[jump].Jump.Segno
	back := 0
	if sign != "" {
		if back = slices.IndexFunc(s.Bars, func(b Bar) bool { return b.Segno == sign }); back < 0 || back > jump {
			problems.Say("bar "+s.Bars[jump].Name, "set the order by hand", "it goes back to a sign that is not there; the song ends here instead")
			return blocks
		}
	}
	end, coda := len(s.Bars), -1
	if i := slices.IndexFunc(s.Bars[back:], func(b Bar) bool { return b.ToCoda != "" }); i >= 0 {
		coda = slices.IndexFunc(s.Bars, func(b Bar) bool { return b.Coda == s.Bars[back+i].ToCoda })
		if coda > back+i {
			end = back + i + 1
		} else {
			coda = -1
		}
	}
	if i := slices.IndexFunc(s.Bars[back:end], func(b Bar) bool { return b.Fine }); i >= 0 {
		end, coda = back+i+1, -1
	}
	// Repeats are not taken again; of endings the last is played.
	again := func(a, z int) {
		var bars []int
		for i := a; i < z; i++ {
			if s.lastEnding(i) {
				bars = append(bars, i)
			}
		}
		if len(bars) > 0 {
			blocks = append(blocks, block{bars: bars, times: 1})
		}
	}
	again(back, end)
	if coda >= 0 {
		again(coda, len(s.Bars))
	}
	return blocks
}

// lastEnding tells whether a bar is played in the last pass of its repeat.
func (s *Score) lastEnding(i int) bool {
	if len(s.Bars[i].Endings) == 0 {
		return true
	}
	for j := i + 1; j < len(s.Bars) && len(s.Bars[j].Endings) > 0; j++ {
		if !slices.Equal(s.Bars[j].Endings, s.Bars[i].Endings) {
			return false
		}
	}
	return true
}

// sections shares the blocks among the parts that begin at their bars. A repeat in which
// a part begins is written out.
func (s *Score) sections(blocks []block, problems *Problems) []leg {
	var legs []leg
	played, named := 0, false
	for _, b := range s.Bars {
		named = named || b.Section != ""
	}
	starts := func(i int) bool { return s.Bars[i].Section != "" || len(legs) == 0 }
	for _, b := range blocks {
		if played == most {
			break
		}
		if rest := most - played; len(b.bars)*b.times > rest {
			problems.Say("", "set the order by hand", "the song has more than %d bars with its repeats; it is taken so far", most)
			if b.times = rest / len(b.bars); b.times == 0 {
				b.times, b.bars = 1, b.bars[:rest]
			}
			played = most // nothing comes behind what is cut
		} else {
			played += len(b.bars) * b.times
		}
		inside := slices.ContainsFunc(b.bars[1:], func(i int) bool { return s.Bars[i].Section != "" })
		times := b.times
		if inside {
			b.times = 1
		} else {
			times = 1
		}
		for range times {
			rest := b
			for len(rest.bars) > 0 {
				n := 1
				for n < len(rest.bars) && s.Bars[rest.bars[n]].Section == "" {
					n++
				}
				if first := rest.bars[0]; starts(first) || !named && breaks(legs, rest) {
					legs = append(legs, leg{name: s.Bars[first].Section, first: first, times: max(s.Bars[first].Legs, 1)})
				}
				l := &legs[len(legs)-1]
				l.blocks = append(l.blocks, block{bars: rest.bars[:n], times: rest.times, line: rest.line})
				rest.bars = rest.bars[n:]
			}
		}
	}
	for i := range legs {
		// What is repeated as a whole is a part that is played several times.
		if l := &legs[i]; len(l.blocks) == 1 && l.blocks[0].times > 1 && !l.blocks[0].line {
			l.times *= l.blocks[0].times
			l.blocks[0].times = 1
		}
	}
	return legs
}

// breaks tells whether a part begins with a block in a score that names none: where
// something that is repeated begins or has ended.
func breaks(legs []leg, b block) bool {
	last := legs[len(legs)-1].blocks
	before := last[len(last)-1]
	return b.times > 1 && !b.line || before.times > 1 && !before.line
}

func span(a, z int) []int {
	list := make([]int, 0, z-a)
	for i := a; i < z; i++ {
		list = append(list, i)
	}
	return list
}
