package voicing

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/pitch"
)

// mostShift is how far a song is moved for a voice, in semitones.
const mostShift = 12

// Asked are moves of a song that a singer asks for, in semitones.
type Asked []int

// ParseSinger reads what a singer asks of a song: an interval ("a third lower", "two
// frets up", "-3"), the key to sing in ("in A"), or the range of the voice and that of
// the tune ("A3 to D5 for C4 to F5"). key is the one that sounds now. Of an interval with
// two sizes both are tried; of a range every move that brings the tune into it.
func ParseSinger(text string, key pitch.Key) (Asked, error) {
	bad := pitch.Malformedf("write an interval like a third lower, a key like in A, or the voice and the tune like A3 to D5 for C4 to F5", "%q is nothing that a singer asks for", text)
	words := strings.Fields(strings.ToLower(strings.NewReplacer("–", " to ", ",", " ", "−", "-").Replace(text)))
	if len(words) == 0 {
		return nil, bad
	}
	if n, err := strconv.Atoi(words[0]); err == nil && len(words) == 1 {
		return within12(Asked{n}, bad)
	}
	if words[0] == "in" && len(words) > 1 {
		to, err := pitch.ParseKey(strings.Join(strings.Fields(text)[1:], " "))
		if err != nil {
			return nil, err
		}
		up := to.Tonic.Class().Above(key.Tonic.Class())
		if up > 6 {
			up -= 12
		}
		return Asked{up}, nil
	}
	if list, ok := ranges(words); ok {
		return list.moves()
	}
	return interval(words, bad)
}

func within12(a Asked, bad error) (Asked, error) {
	for _, n := range a {
		if n < -mostShift || n > mostShift {
			return nil, bad
		}
	}
	return a, nil
}

// sizes are the intervals by name, in semitones.
var sizes = map[string]Asked{
	"semitone": {1}, "tone": {2}, "fret": {1}, "step": {2}, "second": {2, 1}, "third": {3, 4}, "fourth": {5}, "tritone": {6}, "fifth": {7}, "sixth": {9, 8}, "seventh": {10, 11}, "octave": {12},
}

// interval reads "a minor third lower", "half a step down", "two frets up".
func interval(words []string, bad error) (Asked, error) {
	times, sign := 1, 0
	var size Asked
	for _, w := range words {
		w = strings.TrimSuffix(w, "s")
		switch {
		case w == "a" || w == "an" || w == "one" || w == "whole" || w == "perfect" || w == "by":
		case w == "half":
			size = Asked{1}
		case w == "minor" || w == "major":
			times = map[string]int{"minor": -1, "major": -2}[w] // a size to choose, below
		case w == "lower" || w == "down" || w == "deeper":
			sign = -1
		case w == "higher" || w == "up":
			sign = 1
		case slices.Contains(counts, w):
			times = slices.Index(counts, w)
		case sizes[w] != nil:
			if size == nil {
				size = slices.Clone(sizes[w])
			}
		default:
			n, err := strconv.Atoi(w)
			if err != nil || n < 1 {
				return nil, bad
			}
			times = n
		}
	}
	if size == nil || sign == 0 {
		return nil, bad
	}
	if times < 0 {
		size = Asked{map[int]int{-1: slices.Min(size), -2: slices.Max(size)}[times]}
		times = 1
	}
	for i := range size {
		size[i] *= sign * times
	}
	return within12(size, bad)
}

// counts are numbers in words.
var counts = []string{"", "", "two", "three", "four", "five", "six"}

// voice is the range of a singer and that of a tune.
type voice struct{ low, high, from, to pitch.Pitch }

// ranges reads four notes with their octaves.
func ranges(words []string) (v voice, ok bool) {
	var notes []pitch.Pitch
	for _, w := range words {
		if w == "to" || w == "for" || w == "of" || w == "-" || w == "tune" || w == "voice" {
			continue
		}
		s, err := pitch.ParseSpelled(strings.ToUpper(w[:1]) + w[1:])
		if err != nil {
			return v, false
		}
		notes = append(notes, s.Pitch())
	}
	if len(notes) != 4 {
		return v, false
	}
	return voice{notes[0], notes[1], notes[2], notes[3]}, true
}

// moves brings the tune into the voice, the most in its middle first.
func (v voice) moves() (Asked, error) {
	if v.low >= v.high || v.from >= v.to {
		return nil, pitch.Malformedf("write the low note first, like A3 to D5", "a range goes up")
	}
	if v.to-v.from > v.high-v.low {
		return nil, pitch.Malformedf("sing a part of it an octave away, or another tune", "the tune spans %d semitones and the voice %d", v.to-v.from, v.high-v.low)
	}
	var list Asked
	for n := -2 * mostShift; n <= 2*mostShift; n++ {
		if d := pitch.Pitch(n); v.from+d >= v.low && v.to+d <= v.high {
			list = append(list, n)
		}
	}
	off := func(n int) int { // twice the way from the middle of the voice to that of the tune
		d := int(v.from+v.to-v.low-v.high) + 2*n
		return max(d, -d)
	}
	slices.SortStableFunc(list, func(a, b int) int { return cmp.Compare(off(a), off(b)) })
	return list, nil
}

// SungKey is a key for a voice, and where the capo goes for it.
type SungKey struct {
	Semitones int // from the key that sounds now; a fret's worth each
	Key       pitch.Key
	Sounds    []chord.Chord
	Capo      Capo
}

// notMiddle is what a semitone farther from the middle of a voice costs, in the measure
// of capos.
const notMiddle = 0.15

// ForSinger moves chords as a singer asks and finds the capo for each key: the easiest
// first, of a range with an eye on the middle of the voice.
func (b *Book) ForSinger(chords []chord.Chord, asked Asked, cfg Config) []SungKey {
	var list []SungKey
	costs := map[int]float64{}
	for i, n := range asked {
		key := cfg.Key.Transposed(n)
		one := SungKey{Semitones: n, Key: key}
		for _, c := range chords {
			one.Sounds = append(one.Sounds, c.Transposed(n, key))
		}
		there := cfg
		there.Key = key
		one.Capo = b.Capos(one.Sounds, there)[0]
		costs[n] = one.Capo.Cost + notMiddle*float64(i)
		list = append(list, one)
	}
	slices.SortStableFunc(list, func(a, b SungKey) int { return cmp.Compare(costs[a.Semitones], costs[b.Semitones]) })
	return list
}

// Two guitars sound fuller where they have other shapes, some frets apart.
const (
	leastApart = 3
	mostApart  = 8
)

// ForTwo pairs the places for a capo for two guitars that play the same chords: each with
// easy shapes, and not the same ones in the same register. The list has the pairs with
// the least to do first, the lower capo first in each.
func ForTwo(all []Capo) [][2]Capo {
	var list [][2]Capo
	for i := range all {
		for j := range all {
			if apart := all[j].Fret - all[i].Fret; apart >= leastApart && apart <= mostApart {
				list = append(list, [2]Capo{all[i], all[j]})
			}
		}
	}
	slices.SortStableFunc(list, func(a, b [2]Capo) int { return cmp.Compare(a[0].Cost+a[1].Cost, b[0].Cost+b[1].Cost) })
	return list
}
