package fit

import (
	"cmp"
	"slices"

	"valleyside/core/lesson"
)

// apart is how many parts of a texture are weighed one by one.
const apart = 4

// picks lists the sets of ways that are weighed: those of each texture with those of all
// others. None of it depends on what the student knows.
func (f *fitter) picks() []pick {
	all := []pick{make(pick, len(f.parts))}
	for t := line; t <= chords; t++ {
		var of []int
		for i, p := range f.parts {
			if p.texture == t {
				of = append(of, i)
			}
		}
		if len(of) == 0 {
			continue
		}
		var next []pick
		for _, steps := range f.steps(of) {
			for _, before := range all {
				one := slices.Clone(before)
				for k, i := range of {
					one[i] = steps[k]
				}
				next = append(next, one)
			}
		}
		all = next
	}
	return all
}

// steps lists how parts of one texture are played together, from the fullest down: as they
// are written; the hardest of them one way down where that is the same texture, then the
// next; then all of them in the next texture.
func (f *fitter) steps(of []int) (list []pick) {
	units := f.units(of)
	for t := f.parts[of[0]].texture; ; t-- {
		top := make(pick, len(of))
		ok := true
		for k, i := range of {
			at := slices.IndexFunc(f.parts[i].ways, func(w way) bool { return w.texture <= t })
			if ok = ok && at >= 0; ok {
				top[k] = at
			}
		}
		if ok {
			list = append(list, f.down(of, units, top, t)...)
		}
		if t == line {
			break
		}
	}
	return slices.CompactFunc(list, func(a, b pick) bool { return slices.Equal(a, b) })
}

// down lists a pick and what becomes of it when one unit after the other goes down as far
// as the texture lets it: first those of which something is beyond the hand.
func (f *fitter) down(of []int, units [][]int, top pick, t texture) []pick {
	list := []pick{slices.Clone(top)}
	lower := func(in pick, unit []int) (pick, bool) {
		one, any := slices.Clone(in), false
		for _, k := range unit {
			ways := f.parts[of[k]].ways
			if next := one[k] + 1; next < len(ways) && ways[next].texture == t {
				one[k], any = next, true
			}
		}
		return one, any
	}
	// Those that the student's hand lets nobody play, together; then all, one by one.
	in, any := slices.Clone(top), false
	for _, unit := range units {
		beyond := slices.ContainsFunc(unit, func(k int) bool {
			p := f.parts[of[k]]
			return slices.ContainsFunc(f.beyond(p, p.ways[in[k]].version), func(l lesson.Limit) bool { return l.Kind != lesson.FirstLimit })
		})
		if beyond {
			if one, ok := lower(in, unit); ok {
				in, any = one, true
			}
		}
	}
	if any {
		list = append(list, slices.Clone(in))
	}
	for n, unit := range units {
		if one, ok := lower(in, unit); ok && in[unit[0]] == top[unit[0]] {
			if in = one; n < apart || n == len(units)-1 {
				list = append(list, slices.Clone(in))
			}
		}
	}
	return append(list, in)
}

// units are the parts that are played in one way, by their place in of, the hardest first.
func (f *fitter) units(of []int) [][]int {
	var list [][]int
	for k, i := range of {
		at := slices.IndexFunc(list, func(u []int) bool { return f.parts[of[u[0]]].like == f.parts[i].like })
		if at < 0 {
			at = len(list)
			list = append(list, nil)
		}
		list[at] = append(list[at], k)
	}
	grade := func(u []int) (most float64) {
		for _, k := range u {
			most = max(most, f.parts[of[k]].ways[0].version.Grade)
		}
		return most
	}
	slices.SortStableFunc(list, func(a, b []int) int { return cmp.Compare(grade(b), grade(a)) })
	return list
}
