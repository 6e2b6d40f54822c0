package harmony

import (
	"slices"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Read reads a row of chords by name or by number, with spaces, commas, bar lines or
// strokes alone between them. Numbers are those of the key, of C major where none is
// given; the key that they are in comes back with them.
func Read(text string, key pitch.Key, numbering Numbering) ([]chord.Chord, pitch.Key, error) {
	var list []chord.Chord
	at := 0
	for _, word := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(" \t\n,|", r) }) {
		at++
		if word == "-" || word == "/" || word == "%" {
			continue
		}
		c, err := chord.Parse(word)
		if err != nil && chord.IsNumber(word) {
			if !key.Valid() {
				key = pitch.Key{Tonic: pitch.Note{Letter: 'C'}, Mode: pitch.Major}
			}
			c, err = chord.ParseNumber(word, key, numbering == Relative)
		}
		if err != nil {
			return nil, key, &WordError{at, err}
		}
		list = append(list, c)
	}
	return list, key, nil
}

// WordError is a word among chords that is none.
type WordError struct {
	At    int // which word, from 1
	cause error
}

func (e *WordError) Error() string { return e.cause.Error() }

// Unwrap is what is wrong with it.
func (e *WordError) Unwrap() error { return e.cause }

// Section is a stretch of chords in one key.
type Section struct {
	From, To int // of the chords, the last one not counted
	Key      pitch.Key
}

// What speaks against another key, and for one, in the measure of one foreign note.
const (
	switchKey     = 3.5 // to go on in another key
	notHome       = 0.3 // for each chord in another key than the one that is given
	tonicSounds   = 0.4 // for a chord that is the tonic
	leadsToTonic  = 0.8 // for a dominant that goes to it
	onTheWay      = 0.5 // a seventh that goes down a fifth, at most
	borrowedThere = 0.6 // the share of what is foreign in a chord of the parallel key
)

// Sections is the map of keys of some chords: the key that is given, or the likeliest, and
// where the chords go on in another one for long enough that it is one. A dominant on its
// way to another step is none.
func Sections(chords []chord.Chord, home pitch.Key) []Section {
	if len(chords) == 0 {
		return nil
	}
	if !home.Valid() {
		home = Keys(chords)[0].Key
		list := sections(chords, home, 0, 0)
		if len(list) == 1 {
			list[0].Key = home // which all of them together say
		}
		return list
	}
	return sections(chords, home, notHome, switchKey)
}

// sections weighs the ways through the keys: away is against each chord that is not at
// home, first against beginning elsewhere.
func sections(chords []chord.Chord, home pitch.Key, away, first float64) []Section {
	keys := []pitch.Key{home}
	for class := range pitch.Class(12) {
		for _, mode := range []pitch.Mode{pitch.Major, pitch.Minor} {
			if k := (pitch.Key{Tonic: pitch.Note{Letter: 'C'}, Mode: mode}).Transposed(int(class)); k.Tonic.Class() != home.Tonic.Class() || mode != home.Mode {
				keys = append(keys, k)
			}
		}
	}
	best := make([]float64, len(keys)) // of the ways that end in each key
	for k := range best[1:] {
		best[k+1] = first
	}
	from := make([][]int, len(chords))
	for i, c := range chords {
		least := slices.Index(best, slices.Min(best))
		next := make([]float64, len(keys))
		from[i] = make([]int, len(keys))
		for k, key := range keys {
			next[k], from[i][k] = best[k], k
			if i > 0 && best[least]+switchKey <= best[k] { // as late as may be
				next[k], from[i][k] = best[least]+switchKey, least
			}
			next[k] += against(chords, i, c, key)
			if k > 0 {
				next[k] += away
			}
		}
		best = next
	}
	k := slices.Index(best, slices.Min(best))
	var list []Section
	for i := len(chords) - 1; i >= 0; i-- {
		if len(list) == 0 || list[len(list)-1].Key != keys[k] {
			list = append(list, Section{To: i + 1, Key: keys[k]})
		}
		list[len(list)-1].From = i
		k = from[i][k]
	}
	slices.Reverse(list)
	spellSections(list, chords)
	return list
}

// against is what speaks against a key at a chord.
func against(chords []chord.Chord, i int, c chord.Chord, key pitch.Key) float64 {
	cost := foreignIn(c, key)
	other := pitch.Key{Tonic: key.Tonic, Mode: pitch.Minor}
	if !key.Contains(key.Tonic.Class().Up(4)) {
		other.Mode = pitch.Major
	}
	switch next, _ := (&around{chords: chords}).next(i); {
	case next.Root.Valid() && next.Root.Class() == c.Root.Class().Up(5) && c.Has(4) && c.Has(10):
		cost = min(cost, onTheWay)
	case c.Classes().In(harmonic(other)):
		cost *= borrowedThere
	}
	if isTonic(c, key) {
		cost -= tonicSounds
		if i > 0 && isDominant(chords[i-1], key) {
			cost -= leadsToTonic
		}
	}
	return cost
}

// spellSections spells keys as the chords on their tonics are spelled.
func spellSections(list []Section, chords []chord.Chord) {
	for i := range list {
		s := &list[i]
		for _, c := range chords[s.From:s.To] {
			if c.Root.Class() == s.Key.Tonic.Class() && c.Root.Accidental >= -1 && c.Root.Accidental <= 1 {
				s.Key.Tonic = c.Root
				break
			}
		}
	}
}

// InSections numbers chords in the keys of their sections.
func InSections(chords []chord.Chord, sections []Section, numbering Numbering) []Number {
	list := make([]Number, 0, len(chords))
	for _, s := range sections {
		// What follows a section's last chord may still say where that one goes.
		end := min(s.To+2, len(chords))
		list = append(list, Numbers(chords[s.From:end], s.Key, numbering)[:s.To-s.From]...)
	}
	return list
}

// PartKey is a part of a song, or its bars from one on, and their key.
type PartKey struct {
	Part, Bar int // the part by its index, the bar from 1
	Key       pitch.Key
}

// Map is the map of keys of a song: where it begins and where it changes, by what the
// parts say and what their chords do, in the order in which they are written. It is
// empty where no key is known.
func Map(s *song.Song) (list []PartKey) {
	home := s.Key
	if guesses := KeysOfSong(s); !home.Valid() && len(guesses) > 0 {
		home = guesses[0].Key
	}
	if !home.Valid() {
		return nil
	}
	add := func(k PartKey) {
		if n := len(list); n == 0 || list[n-1].Key != k.Key {
			list = append(list, k)
		}
	}
	lift := s.Lift()
	for i := range s.Parts {
		p := &s.Parts[i]
		key := home
		if p.Key.Valid() {
			key = p.Key
		}
		var chords []chord.Chord
		var bars []int
		for b, bar := range p.Bars() {
			for j := range bar.Events {
				if e := &bar.Events[j]; e.Kind == song.Chord && !bar.StruckAgain(j) {
					chords, bars = append(chords, lift.Sounds(e.Chord, key)), append(bars, b+1)
				}
			}
		}
		if len(chords) == 0 {
			add(PartKey{i, 1, key})
			continue
		}
		for n, section := range sections(chords, key, notHome/2, switchKey/2) { // a part is where a song changes
			bar := bars[section.From]
			if n == 0 {
				bar = 1
			}
			add(PartKey{i, bar, section.Key})
		}
	}
	return list
}
