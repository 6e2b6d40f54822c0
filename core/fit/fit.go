// Package fit chooses for a song and a student the versions to begin with: one set for the
// whole song, the fullest of which nothing is beyond the student and whose new things fit
// into two weeks.
//
// The parts of a song that are written in one texture (a line, power chords, chords) are
// played in one: where chords are beyond a student in one part, easier ones stand in for
// them there; where none can, all parts with chords go down to power chords, or to one
// finger. What is chosen among are a few sets for each texture, in an order that knows
// nothing of the student: who knows more never gets less.
package fit

import (
	"cmp"
	"math"
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// Set is a version for each part of a song that go together.
type Set struct {
	Parts []Part
	New   []lesson.New // in the order of the parts, each once
	Weeks int          // that the new things take, at least 1
	Grade float64      // of the hardest part
	full  float64      // how full it is
	in    pick
	fault fault
}

// Part is what is begun with of a part.
type Part struct {
	Part    int // index into Song.Parts
	Version *arrange.Version
	New     []lesson.New   // what no part before it has brought
	Limits  []lesson.Limit // what is beyond the student all the same
	Not     []lesson.Limit // what is beyond them of the part as it is written, where that is not it
}

// Choice is the set to begin with, and those beside it.
type Choice struct {
	Set
	Bolder *Set // a fuller one, with what it costs; nil where there is none
	Safer  *Set // one that asks less; nil where there is none
}

// fault is what speaks against a set.
type fault struct {
	limits float64 // that it breaks, a pace for as often as it is the comfortable one
	first  int     // first shapes that move, which any shape that is learnt does away with
	excess float64 // new things beyond those of two weeks
}

func (f fault) none() bool { return f.limits == 0 && f.first == 0 && f.excess <= 0 }

// Weekly is how many new shapes and changes a student learns in a week who practises so
// many minutes a day.
func Weekly(minutes int) float64 {
	if minutes <= 0 {
		minutes = lesson.UsualMinutes
	}
	return min(most, least+float64(minutes)/more)
}

// What is learnt in a week: one shape and one for each ten minutes a day, four at most; in
// how many weeks what is new in a song is to be there; and what its hard changes count for.
const (
	least = 1.0
	more  = 10.0
	most  = 4.0
	weeks = 2

	alike = 0.02 // of paces that are hardly different

	perChange     = 0.25
	mostOfChanges = 1.0
)

// Song fits the versions of a song to a student. The ladders are those of its parts for the
// student's hand, all rungs that are offered; a part without one is left out.
func Song(s *song.Song, ladders [][]arrange.Version, st lesson.Student) Choice {
	return newFitter(s, ladders, st).choose()
}

// With is the set that a teacher has chosen instead: the versions of the rungs that are
// given for parts, by their index, and what fits for the others. A part for which a rung is
// chosen that is none of its own is left out.
func (c *Choice) With(s *song.Song, ladders [][]arrange.Version, st lesson.Student, rungs map[int]arrange.Rung) Set {
	f := newFitter(s, ladders, st)
	versions := make([]*arrange.Version, len(f.parts))
	for i, p := range f.parts {
		at := slices.IndexFunc(c.Parts, func(one Part) bool { return one.Part == p.index })
		versions[i] = c.Parts[at].Version
		if rung, ok := rungs[p.index]; ok {
			versions[i] = nil
			if at := slices.IndexFunc(ladders[p.index], func(v arrange.Version) bool { return v.Rung == rung }); at >= 0 {
				versions[i] = &ladders[p.index][at]
			}
		}
	}
	return f.weigh(versions)
}

func newFitter(s *song.Song, ladders [][]arrange.Version, st lesson.Student) *fitter {
	f := fitter{song: s, student: st, asks: map[*arrange.Version]lesson.Asks{}}
	for i := range ladders {
		if p := f.part(i, ladders[i]); p != nil {
			f.parts = append(f.parts, p)
		}
	}
	f.alike()
	return &f
}

// fitter fits one song to one student.
type fitter struct {
	song    *song.Song
	student lesson.Student
	parts   []*part
	asks    map[*arrange.Version]lesson.Asks
}

// part is a part with what it may be played as, the fullest first.
type part struct {
	index   int
	texture texture
	ways    []way
	bars    float64
	like    int // among the parts, an earlier one that is played in the same way; itself for none
}

// texture is how a part is written, or played.
type texture uint8

const (
	line texture = iota
	power
	chords
)

// way is a version with the texture in which it is.
type way struct {
	version *arrange.Version
	texture texture
}

// Rungs lists those that a part may be fitted on, the fullest first: as it is written, and
// what is easier in its texture and in those below.
func Rungs(p *song.Part) []arrange.Rung { return rungsIn[textureOf(p)] }

var rungsIn = [...][]arrange.Rung{
	line:   {arrange.AsWritten, arrange.OneFinger},
	power:  {arrange.AsWritten, arrange.TwoNote, arrange.OneFinger},
	chords: {arrange.AsWritten, arrange.EasyChords, arrange.TwoNote, arrange.OneFinger},
}

// Fullness tells how near to the sheet a set is: 0 is all of it as it is written, and below
// that how many rungs down, for each bar.
func (s *Set) Fullness() float64 { return s.full }

// part lists what a part may be played as.
func (f *fitter) part(index int, ladder []arrange.Version) *part {
	at := func(r arrange.Rung) *arrange.Version {
		if i := slices.IndexFunc(ladder, func(v arrange.Version) bool { return v.Rung == r }); i >= 0 {
			return &ladder[i]
		}
		return nil
	}
	written := at(arrange.AsWritten)
	if written == nil {
		return nil
	}
	p := &part{index: index, texture: textureOf(&f.song.Parts[index]), bars: float64(len(written.Bars))}
	for _, r := range rungsIn[p.texture] {
		t := p.texture
		switch r {
		case arrange.TwoNote:
			t = power
		case arrange.OneFinger:
			t = line
		}
		if v := at(r); v != nil && (v == written || !v.Harder) {
			p.ways = append(p.ways, way{v, t})
		}
	}
	return p
}

// textureOf is how most of a part is written: in chords where a chord of three different
// notes is, or is spelled by what rings; in power chords where two notes sound together.
func textureOf(p *song.Part) texture {
	count := [chords + 1]int{}
	bars := p.Bars()
	for i := range bars {
		for j := range bars[i].Events {
			e := &bars[i].Events[j]
			switch {
			case !e.Sounds() || e.Dead():
			case e.Kind == song.Chord && len(e.Chord.Tones) > 2:
				count[chords] += 2
			case e.Kind == song.Chord, e.Kind == song.Strum:
				count[power] += 2
			case e.Rings(p) && len(bars[i].Events) > 2:
				count[chords]++
			case len(e.Notes) > 3:
				count[chords]++
			case len(e.Notes) > 1:
				count[power]++
			default:
				count[line]++
			}
		}
	}
	switch {
	case count[chords] > 0 && count[chords] >= count[power]:
		return chords
	case count[power] > 0 && 2*count[power] >= count[line]:
		return power
	}
	return line
}

// alike finds the parts most of whose bars are those of an earlier one: they are played in
// one way.
func (f *fitter) alike() {
	keys := make([]map[string]bool, len(f.parts))
	for i, p := range f.parts {
		p.like = i
		keys[i] = map[string]bool{}
		own := f.song.Parts[p.index].BarKeys()
		for _, k := range own {
			keys[i][k] = true
		}
		for j := range i {
			same := 0
			for _, k := range own {
				if keys[j][k] {
					same++
				}
			}
			if 2*same > len(own) && f.parts[j].texture == p.texture {
				p.like = f.parts[j].like
				break
			}
		}
	}
}

func (f *fitter) of(v *arrange.Version) lesson.Asks {
	a, ok := f.asks[v]
	if !ok {
		a = lesson.AsksOf(f.song, v, f.student)
		f.asks[v] = a
	}
	return a
}

// beyond lists what is beyond the student in a version. Techniques that can be added when
// the notes are there keep nobody from chords, only from a line that is there without them.
func (f *fitter) beyond(p *part, v *arrange.Version) (list []lesson.Limit) {
	for _, l := range f.of(v).Limits {
		if l.Kind != lesson.TouchLimit || p.texture == line {
			list = append(list, l)
		}
	}
	return list
}

// pick is which of its ways each part is played in.
type pick []int

// above tells whether no part of another pick is played nearer to the sheet.
func (p pick) above(other pick) bool {
	for i := range p {
		if p[i] > other[i] {
			return false
		}
	}
	return true
}

// set looks at a pick.
func (f *fitter) set(in pick) Set {
	versions := make([]*arrange.Version, len(f.parts))
	full := 0.0
	for i, p := range f.parts {
		versions[i] = p.ways[in[i]].version
		full -= float64(in[i]) * p.bars
	}
	s := f.weigh(versions)
	s.full, s.in = full, in
	return s
}

// weigh looks at a version for each part, nil for none.
func (f *fitter) weigh(versions []*arrange.Version) Set {
	s := Set{}
	seen, hard := map[[2]neck.Frets]bool{}, map[[2]neck.Frets]bool{}
	shapes := 0
	for i, p := range f.parts {
		v := versions[i]
		if v == nil {
			continue
		}
		one := Part{Part: p.index, Version: v, Limits: f.beyond(p, v)}
		if v != p.ways[0].version {
			one.Not = f.beyond(p, p.ways[0].version)
		}
		for _, n := range f.of(v).New {
			if !seen[n.Key()] {
				seen[n.Key()] = true
				one.New = append(one.New, n)
				if n.To == nil {
					shapes++
				}
			}
		}
		for _, c := range f.of(v).Changes {
			hard[c] = true
		}
		s.New = append(s.New, one.New...)
		for _, l := range one.Limits {
			switch l.Kind {
			case lesson.FirstLimit:
				s.fault.first++
			case lesson.PaceLimit:
				s.fault.limits += l.Asked / l.Most
			default:
				s.fault.limits++
			}
		}
		s.Grade = max(s.Grade, v.Grade)
		s.Parts = append(s.Parts, one)
	}
	// A change goes with its shapes, so that what is known never makes more of it: each counts
	// for a part of a shape.
	weekly := Weekly(f.student.Minutes)
	things := float64(shapes) + min(perChange*float64(len(hard)), mostOfChanges)
	s.fault.excess = things - weeks*weekly - mostOfChanges
	s.Weeks = max(1, int(math.Ceil((things-mostOfChanges)/weekly)))
	return s
}

// choose weighs all picks. Of those with no fault the fullest is chosen. Where each has one
// it is the fullest of those that break the fewest limits and bring no more than is learnt,
// or else the least full of them.
func (f *fitter) choose() Choice {
	var sets []Set
	for _, in := range f.picks() {
		sets = append(sets, f.set(in))
	}
	fuller := func(a, b Set) int { return cmp.Or(cmp.Compare(b.full, a.full), cmp.Compare(a.Grade, b.Grade)) }
	slices.SortStableFunc(sets, fuller)
	best := slices.IndexFunc(sets, func(s Set) bool { return s.fault.none() })
	if best < 0 {
		fewest := slices.MinFunc(sets, func(a, b Set) int { return cmp.Compare(a.fault.limits, b.fault.limits) }).fault.limits
		for i := range sets {
			if f := sets[i].fault; f.limits < fewest+alike {
				if best = i; f.excess <= 0 && f.first == 0 {
					break
				}
			}
		}
	}
	c := Choice{Set: sets[best]}
	for i := best - 1; i >= 0 && c.Bolder == nil; i-- {
		if sets[i].full > c.full && sets[i].in.above(c.in) {
			c.Bolder = &sets[i]
		}
	}
	for i := best + 1; i < len(sets) && c.Safer == nil; i++ {
		if s := &sets[i]; s.full < c.full && c.in.above(s.in) && s.fault.limits <= c.fault.limits && (s.Grade < c.Grade || len(s.New) < len(c.New)) {
			c.Safer = s
		}
	}
	return c
}
