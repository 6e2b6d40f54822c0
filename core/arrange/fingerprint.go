package arrange

import (
	"crypto/sha256"

	"valleyside/core/song"
)

// Fingerprint is the same for parts, of whatever songs, of which the program makes the
// same version as written, down to the last finger: where a part has it still, nothing of
// what is drawn of it has changed. It is much less work than the version. What is said of
// other parts that are like this one is not in it.
func (a *Arranger) Fingerprint(part int) [sha256.Size]byte {
	set := &a.set
	p := &set.song.Parts[part]
	o := &set.options
	list := []any{*p, set.written, set.in, set.lift, set.heard.Parts[part].Key, o.Player.Usual(), o.Unplaced, o.School, set.tempo(p)}
	in, out := neighbours(set.song.Order, part)
	beside := func(n neighbour, edge *song.Event, seconds float64) {
		list = append(list, n.share, n.part == part, edge != nil)
		if edge != nil {
			list = append(list, *edge, seconds)
		}
	}
	for _, n := range in {
		var last *song.Event
		tail := 0.0
		if n.part >= 0 {
			other := &set.song.Parts[n.part]
			_, last, _, tail = edges(other, other.Clock(set.tempo(other)))
		}
		beside(n, last, tail)
	}
	list = append(list, len(in))
	for _, n := range out {
		other := &set.song.Parts[n.part]
		first, _, lead, _ := edges(other, other.Clock(set.tempo(other)))
		beside(n, first, lead)
	}
	return song.Fingerprint(list...)
}
