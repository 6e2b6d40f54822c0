package skill

import (
	"fmt"
	"slices"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// Riff is a bar of a line that hands remember as a movement. Its key is the same wherever the
// fingers do the same at the same times: on other strings, and along the neck where no string is
// open.
type Riff struct {
	Key  string
	Part int         // index into Song.Parts
	Bar  int         // from 1 in the part
	On   neck.String // the thickest that it is played on
	At   int         // the lowest fret that is held; 0 where none is
}

// A bar is a riff from so many strokes and places on the neck on; strokes of more notes than
// thinChord are chords, which are no riff.
const (
	riffStrokes = 4
	riffPlaces  = 3
	thinChord   = 3
)

// Riffs lists the riffs of a part as it is written, each once, in the order of their bars.
func Riffs(s *song.Song, v *arrange.Version) (riffs []Riff) {
	for i := range v.Bars {
		r, ok := riffOf(&v.Bars[i])
		if ok && !slices.ContainsFunc(riffs, func(is Riff) bool { return is.Key == r.Key }) {
			r.Part = v.Part
			riffs = append(riffs, r)
		}
	}
	return riffs
}

func riffOf(b *arrange.Bar) (r Riff, ok bool) {
	low, base, open, strokes := neck.String(0), 0, false, 0
	places := map[arrange.Note]bool{}
	for i := range b.Events {
		notes := b.Events[i].Notes
		if len(notes) > thinChord {
			return r, false
		}
		if len(notes) > 0 {
			strokes++
		}
		for _, n := range notes {
			places[arrange.Note{String: n.String, Fret: n.Fret}] = true
			low = max(low, n.String) // strings are numbered from the thin ones
			if n.Fret == 0 {
				open = true
			} else if base == 0 || n.Fret < base {
				base = n.Fret
			}
		}
	}
	if strokes < riffStrokes || len(places) < riffPlaces {
		return r, false
	}
	from := base
	if open {
		from = 0
	}
	var key strings.Builder
	for i := range b.Events {
		e := &b.Events[i]
		if len(e.Notes) == 0 {
			continue
		}
		fmt.Fprintf(&key, "%d/%d", e.Start.Num(), e.Start.Den())
		for _, n := range e.Notes {
			fmt.Fprintf(&key, ":%d.%d", low-n.String, n.Fret-from)
		}
		key.WriteByte(' ')
	}
	mark := "n"
	if open {
		mark = "o"
	}
	length := b.Measure.Length()
	return Riff{Key: fmt.Sprintf("%s%d/%d %s", mark, length.Num(), length.Den(), strings.TrimSpace(key.String())), Bar: b.Number, On: low, At: from}, true
}
