package hand

import (
	"valleyside/core/neck"
	"valleyside/core/song"
)

// Pluck gives notes that are plucked at once the fingers of the picking hand. given
// are the notes as the sheet has them, thick strings first; a finger that is typed
// stays.
//
// The thumb plays strings 6 to 4, index, middle and ring finger strings 3, 2 and 1.
// Together the thumb has the thickest of them, where it is one of its own, and the
// others follow in their order where the strings alone would need a finger twice.
func Pluck(strings []neck.String, given []song.Note) []song.Pluck {
	fingers := make([]song.Pluck, len(strings))
	used := map[song.Pluck]bool{}
	twice := false
	for k, s := range strings {
		fingers[k] = plucks(s)
		twice = twice || used[fingers[k]]
		used[fingers[k]] = true
	}
	if twice && len(strings) <= len(song.Plucks) { // two for the thumb
		for k := range fingers {
			fingers[k] = song.PluckP + song.Pluck(k)
		}
	}
	for k, s := range strings {
		for _, n := range given {
			if n.String == s && n.Pluck != song.NoPluck {
				fingers[k] = n.Pluck
			}
		}
	}
	return fingers
}

// plucks is the finger of a string.
func plucks(s neck.String) song.Pluck {
	switch s {
	case 3:
		return song.PluckI
	case 2:
		return song.PluckM
	case 1:
		return song.PluckA
	}
	return song.PluckP
}
