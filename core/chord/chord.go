// Package chord reads chord symbols and says which notes they mean.
package chord

import (
	"fmt"
	"slices"
	"strings"

	"valleyside/core/pitch"
)

// Tone is one note of a chord: its degree above the root and the note, spelled
// by that degree.
type Tone struct {
	Degree Degree     `json:"degree"`
	Note   pitch.Note `json:"note"`
}

// Class is the pitch class of the tone.
func (t Tone) Class() pitch.Class { return t.Note.Class() }

// Chord is a chord symbol that has been understood. Tones run from the root
// upwards and are never empty.
type Chord struct {
	Symbol string // as it was typed
	Root   pitch.Note
	Bass   pitch.Note // the slash bass; not Valid where there is none
	Tones  []Tone
}

// SyntaxError says where a chord symbol stops making sense.
type SyntaxError struct {
	Symbol string
	Offset int // in bytes, where the unreadable rest starts
	Want   string
}

func (e *SyntaxError) Error() string {
	rest := e.Symbol[e.Offset:]
	if rest == "" {
		return fmt.Sprintf("chord %q ends too early; expected %s", e.Symbol, e.Want)
	}
	return fmt.Sprintf("chord %q: %q at character %d is not understood; expected %s",
		e.Symbol, rest, len([]rune(e.Symbol[:e.Offset]))+1, e.Want)
}

// wantRoot says how to mend what does not begin with a root.
func wantRoot(symbol string) string {
	const want = "a root, A to G"
	switch r, _ := pitch.CutNote(strings.ToUpper(symbol[:min(1, len(symbol))]) + symbol[min(1, len(symbol)):]); {
	case strings.HasPrefix(symbol, "N") || strings.HasPrefix(symbol, "n"):
		return want + "; write NC, without dots, for no chord"
	case r.Valid():
		return want + ", as a capital letter"
	case strings.HasPrefix(symbol, "H"):
		return want + "; H is written B, and the note below it Bb"
	}
	return want
}

// build collects the tones of a chord while its symbol is read: semitones by
// degree number, with an altered tension beside the plain one.
type build struct {
	tones map[int][]int // degree number to alterations in semitones
}

func (b *build) set(degree, alter int) { b.tones[degree] = []int{alter} }

func (b *build) add(degree, alter int) {
	if !slices.Contains(b.tones[degree], alter) {
		b.tones[degree] = append(b.tones[degree], alter)
	}
}

func (b *build) drop(degree int) { delete(b.tones, degree) }

// Parse reads a chord symbol: a root, a quality, alterations in any order and
// a slash bass. Errors are of type *SyntaxError.
func Parse(symbol string) (Chord, error) {
	root, rest := pitch.CutNote(symbol)
	fail := func(rest, want string) (Chord, error) {
		return Chord{}, &SyntaxError{Symbol: symbol, Offset: len(symbol) - len(rest), Want: want}
	}
	if !root.Valid() {
		return fail(symbol, wantRoot(symbol))
	}
	start := len(symbol) - len(rest)
	c := Chord{Symbol: symbol, Root: root}
	// A slash bass ends the symbol; "6/9" is not one.
	if i := strings.LastIndex(rest, "/"); i >= 0 && rest[i+1:] != "9" {
		bass, after := pitch.CutNote(rest[i+1:])
		if !bass.Valid() || after != "" {
			want := "a bass note after the slash"
			if _, err := Parse(root.String() + rest[:i] + rest[i+1:]); err == nil {
				want += fmt.Sprintf(", or no slash: %s%s", root, rest[:i]+rest[i+1:])
			}
			return fail(rest[i+1:], want)
		}
		c.Bass, rest = bass, rest[:i]
	}
	b := build{tones: map[int][]int{1: {0}, 3: {0}, 5: {0}}}
	body := rest
	rest = b.quality(rest)
	for rest != "" {
		next, ok := b.modifier(rest)
		if !ok {
			return Chord{}, &SyntaxError{Symbol: symbol, Offset: start + len(body) - len(rest),
				Want: "a quality such as m, 7, maj7, dim, sus4, add9, 5, b5, #9, no3 or a slash and a bass note"}
		}
		rest = next
	}
	c.Tones = b.list(root)
	if len(c.Tones) == 0 {
		return fail("", "at least one note")
	}
	return c, nil
}

// cut removes the first of the prefixes that s starts with.
func cut(s string, prefixes ...string) (string, bool) {
	for _, p := range prefixes {
		if strings.HasPrefix(s, p) {
			return s[len(p):], true
		}
	}
	return s, false
}

// quality reads the triad and the stack above it from the start of s.
func (b *build) quality(s string) string {
	if rest, ok := cut(s, "5"); ok {
		b.drop(3)
		return rest
	}
	if rest, ok := cut(s, "7alt", "alt"); ok {
		b.tones = map[int][]int{1: {0}, 3: {0}, 7: {-1}, 5: {-1, 1}, 9: {-1, 1}}
		return rest
	}
	if rest, ok := cut(s, "ø7", "ø"); ok {
		b.set(3, -1)
		b.set(5, -1)
		b.set(7, -1)
		return rest
	}
	major7 := false
	// Longer words first: "maj" and "min" also start with m, and so does a
	// minor chord with an added note.
	if rest, ok := cut(s, "maj", "Maj", "M"); ok {
		s, major7 = rest, true
	} else if rest, ok := cut(s, "ma"); ok && !strings.HasPrefix(s, "madd") {
		s, major7 = rest, true
	} else if rest, ok := cut(s, "min", "mi", "m", "-"); ok {
		b.set(3, -1)
		s = rest
	} else if rest, ok := cut(s, "dim", "°", "o"); ok && !strings.HasPrefix(s, "omit") {
		b.set(3, -1)
		b.set(5, -1)
		s = rest
		if rest, ok := cut(s, "7"); ok {
			b.set(7, -2)
			return rest
		}
	} else if rest, ok := cut(s, "aug", "+"); ok {
		b.set(5, 1)
		s = rest
	}
	seventh := -1
	if major7 {
		seventh = 0
	}
	switch {
	case strings.HasPrefix(s, "6/9"), strings.HasPrefix(s, "69"):
		b.set(6, 0)
		b.add(9, 0)
		rest, _ := cut(s, "6/9", "69")
		return rest
	case strings.HasPrefix(s, "6"):
		b.set(6, 0)
		return s[1:]
	case strings.HasPrefix(s, "7"):
		b.set(7, seventh)
		return s[1:]
	case strings.HasPrefix(s, "9"):
		b.set(7, seventh)
		b.add(9, 0)
		return s[1:]
	case strings.HasPrefix(s, "11"):
		b.set(7, seventh)
		b.add(9, 0)
		b.add(11, 0)
		return s[2:]
	case strings.HasPrefix(s, "13"):
		b.set(7, seventh)
		b.add(9, 0)
		b.add(13, 0)
		return s[2:]
	}
	return s
}

// modifier reads one alteration or addition from the start of s.
func (b *build) modifier(s string) (rest string, ok bool) {
	if rest, ok := cut(s, "(", ")", ",", " "); ok {
		return rest, true
	}
	if rest, ok := cut(s, "sus2"); ok {
		b.drop(3)
		b.add(2, 0)
		return rest, true
	}
	if rest, ok := cut(s, "sus4", "sus"); ok {
		b.drop(3)
		b.add(4, 0)
		return rest, true
	}
	if rest, ok := cut(s, "no", "omit"); ok {
		d, rest := cutDegree(rest)
		if !known(d) || d == 1 {
			return s, false
		}
		b.drop(d)
		return rest, true
	}
	if rest, ok := cut(s, "maj", "Maj", "M", "Δ", "△"); ok {
		b.set(7, 0)
		d, after := cutDegree(rest)
		switch d {
		case 9, 11, 13:
			b.add(9, 0)
			b.add(d, 0)
		case 7:
		default:
			return rest, strings.HasPrefix(s, "Δ") || strings.HasPrefix(s, "△")
		}
		return after, true
	}
	if rest, ok := cut(s, "aug", "+"); ok && (rest == "" || rest[0] == ')') {
		b.set(5, 1)
		return rest, true
	}
	rest, added := cut(s, "add")
	alter := 0
	for {
		if r, ok := cut(rest, "#", "♯", "+"); ok && alter >= 0 {
			rest, alter = r, alter+1
		} else if r, ok := cut(rest, "b", "♭", "-"); ok && alter <= 0 {
			rest, alter = r, alter-1
		} else {
			break
		}
	}
	d, rest := cutDegree(rest)
	if !known(d) || alter < -1 || alter > 1 || d == 1 || (alter == 0 && !added) {
		return s, false
	}
	switch {
	case d == 5 && alter != 0 && !added:
		// The first altered fifth replaces the plain one; a second joins it.
		b.tones[5] = slices.DeleteFunc(b.tones[5], func(a int) bool { return a == 0 })
		b.add(5, alter)
	case d == 9 && alter != 0 && !added:
		b.tones[9] = slices.DeleteFunc(b.tones[9], func(a int) bool { return a == 0 })
		b.add(9, alter)
	default:
		b.add(d, alter)
	}
	return rest, true
}

func cutDegree(s string) (int, string) {
	for _, two := range []string{"11", "13"} {
		if strings.HasPrefix(s, two) {
			return int(two[1]-'0') + 10, s[2:]
		}
	}
	if s != "" && s[0] >= '1' && s[0] <= '9' {
		return int(s[0] - '0'), s[1:]
	}
	return 0, s
}

// list orders the tones from the root upwards and spells them.
func (b *build) list(root pitch.Note) []Tone {
	var tones []Tone
	for _, d := range []int{1, 2, 3, 4, 5, 6, 7, 9, 11, 13} {
		alters := b.tones[d]
		slices.Sort(alters)
		for _, alter := range alters {
			degree := Degree{int8(d), int8(alter)}
			tones = append(tones, Tone{Degree: degree, Note: degree.Above(root)})
		}
	}
	return tones
}

// Lowest is the note that sounds below all others: the slash bass or the root.
func (c Chord) Lowest() pitch.Note {
	if c.Bass.Valid() {
		return c.Bass
	}
	return c.Root
}

// Classes is the set of its tones, without the bass.
func (c Chord) Classes() (set pitch.Set) {
	for _, t := range c.Tones {
		set = set.With(t.Class())
	}
	return set
}

// Has tells whether a tone lies so many semitones above the root.
func (c Chord) Has(semitones int) bool { return c.Classes().Has(c.Root.Class().Up(semitones)) }

// Third is what tells major from minor: the third, or what a suspension puts in
// its place. ok is false where there is neither.
func (c Chord) Third() (t Tone, ok bool) {
	for _, t := range c.Tones {
		if t.Degree.IsThird() {
			return t, true
		}
	}
	return Tone{}, false
}

// Fifth is the interval in semitones that a power chord on the root must have
// so as not to contradict the chord: 7, or 6 or 8 where the fifth is altered.
// altered tells which. A tone that is named a sharp eleventh or a flat
// thirteenth does not alter the fifth.
func (c Chord) Fifth() (semitones int, altered bool) {
	first := 0
	for _, t := range c.Tones {
		if t.Degree.Number != 5 {
			continue
		}
		if t.Degree.Alter == 0 {
			return 7, false
		}
		if first == 0 {
			first = t.Degree.Semitones()
		}
	}
	if first == 0 {
		return 7, false
	}
	return first, true
}

func (c Chord) String() string { return c.Symbol }
