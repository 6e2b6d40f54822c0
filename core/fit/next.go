package fit

import (
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/song"
)

// Next is the version to go on with when that of a rung is ready: the next fuller one on the
// way to the part as it is written, in which something more is asked, but not twice as much;
// nil where there is none. It never leads away from the song: a line stays a line, and the
// easier chords of a part lead to its own.
func Next(s *song.Song, index int, ladder []arrange.Version, rung arrange.Rung) *arrange.Version {
	f := fitter{song: s}
	p := f.part(index, ladder)
	now := slices.IndexFunc(ladder, func(v arrange.Version) bool { return v.Rung == rung })
	if p == nil || now < 0 {
		return nil
	}
	at := slices.IndexFunc(p.ways, func(w way) bool { return w.version.Rung == rung })
	if at < 0 { // a taste of its own, which leads to the part as it is written
		at = 1
	}
	for i := at - 1; i >= 0; i-- {
		if v := p.ways[i].version; v.Grade > ladder[now].Grade && v.Grade < 2*ladder[now].Grade {
			return v
		}
	}
	return nil
}
