package sheet

import (
	"slices"
	"strings"

	"valleyside/core/song"
)

// A line as a teacher types it: so many bars where nothing is repeated, and a phrase of
// at most so many that is.
const (
	barsOnLine = 4
	phraseBars = 16
)

// Shorten is a song as short as a teacher would type it: a phrase that comes again at
// once is written once, with how often; a bar that is the one before again is the same;
// long lines are broken. It sounds the same, its lines are others.
func Shorten(s *song.Song) *song.Song {
	short := *s
	short.Parts = make([]song.Part, len(s.Parts))
	for i, p := range s.Parts {
		var lines []song.Line
		for _, run := range runs(p.Lines) {
			lines = append(lines, fold(run)...)
		}
		p.Lines = lines
		short.Parts[i] = p
	}
	return &short
}

// runs joins lines that are played once and have the same players and no words; the
// others stay as they are.
func runs(lines []song.Line) []song.Line {
	var joined []song.Line
	for _, l := range lines {
		if n := len(joined); n > 0 && plain(&l) && plain(&joined[n-1]) && slices.EqualFunc(l.Beside, joined[n-1].Beside, func(a, b song.Voice) bool { return a.Player == b.Player }) {
			last := &joined[n-1]
			last.Bars = slices.Concat(last.Bars, l.Bars)
			for i := range last.Beside {
				last.Beside[i].Bars = slices.Concat(last.Beside[i].Bars, l.Beside[i].Bars)
			}
			continue
		}
		l.Beside = slices.Clone(l.Beside)
		joined = append(joined, l)
	}
	return joined
}

// plain tells whether a line is played once by players who each have a bar for each of
// its bars, without words.
func plain(l *song.Line) bool {
	return l.Times == 1 && l.Words == nil && !slices.ContainsFunc(l.Beside, func(v song.Voice) bool { return v.Times != 1 || len(v.Bars) != len(l.Bars) })
}

// fold finds what comes again in a line.
func fold(l song.Line) []song.Line {
	if !plain(&l) {
		return []song.Line{same(l)}
	}
	ids, held := identify(&l)
	var lines []song.Line
	open := 0 // the first bar that is on no line yet
	until := func(end int) {
		for ; open < end; open = min(open+barsOnLine, end) {
			lines = append(lines, same(cut(&l, open, min(open+barsOnLine, end), 1)))
		}
	}
	for at := 0; at < len(ids); {
		period, times := comesAgain(ids, held, at)
		if period == 0 {
			at++
			continue
		}
		until(at)
		lines = append(lines, same(cut(&l, at, at+period, times)))
		at += period * times
		open = at
	}
	until(len(ids))
	return lines
}

// identify gives bars that all players play alike the same number, and tells where a
// bar begins with a sound that goes on: such a bar is not the same after another one.
func identify(l *song.Line) (ids []int, held []bool) {
	known := map[string][]int{}
	ids, held = make([]int, len(l.Bars)), make([]bool, len(l.Bars)+1)
	for i := range l.Bars {
		ids[i] = i
		var key strings.Builder
		for _, bars := range voices(l) {
			b := &bars[i]
			held[i] = held[i] || len(b.Events) == 0 || b.Events[0].Start != b.Lead
			for _, e := range b.Events {
				key.WriteString(e.Start.String() + " ")
			}
		}
		for _, j := range known[key.String()] {
			if !slices.ContainsFunc(voices(l), func(bars []song.Bar) bool { return bars[i].Unsure != bars[j].Unsure || !sameBar(&bars[i], &bars[j]) }) {
				ids[i] = j
				break
			}
		}
		if ids[i] == i {
			known[key.String()] = append(known[key.String()], i)
		}
	}
	return ids, held
}

// voices lists the bars of all players of a line.
func voices(l *song.Line) [][]song.Bar {
	list := [][]song.Bar{l.Bars}
	for _, v := range l.Beside {
		list = append(list, v.Bars)
	}
	return list
}

// comesAgain finds the phrase from a bar on that saves most bars by being repeated; a
// period of 0 is none that is worth it. Two bars alike are left to the sign for the same
// bar, unless they are all there is.
func comesAgain(ids []int, held []bool, at int) (period, times int) {
	saved := 0
	for p := 1; p <= phraseBars && at+2*p <= len(ids); p++ {
		n := 1
		for n < MaxTimes && at+(n+1)*p <= len(ids) && slices.Equal(ids[at:at+p], ids[at+n*p:at+(n+1)*p]) {
			n++
		}
		worth := p*(n-1) >= 2 || p*n == len(ids)
		if n > 1 && worth && p*(n-1) > saved && !held[at] && !held[at+p*n] {
			period, times, saved = p, n, p*(n-1)
		}
	}
	return period, times
}

// cut is a piece of a line that is played so often.
func cut(l *song.Line, from, to, times int) song.Line {
	piece := song.Line{Bars: slices.Clone(l.Bars[from:to]), Times: times}
	for _, v := range l.Beside {
		piece.Beside = append(piece.Beside, song.Voice{Player: v.Player, Bars: slices.Clone(v.Bars[from:to]), Times: times})
	}
	return piece
}

// same marks the bars of a line that are the one before again.
func same(l song.Line) song.Line {
	for _, bars := range voices(&l) {
		for i := 1; i < len(bars); i++ {
			b := &bars[i]
			b.Same = len(b.Events) > 0 && b.Events[0].Start == b.Lead && b.Lead.Num() == 0 && bars[i-1].Lead.Num() == 0 && sameBar(b, &bars[i-1])
		}
	}
	return l
}
