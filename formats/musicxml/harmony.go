package musicxml

import (
	"slices"
	"strconv"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// kinds are the kinds of chords that the format has names for, as suffixes of ours.
var kinds = []struct{ kind, suffix string }{
	{"major", ""}, {"minor", "m"}, {"augmented", "aug"}, {"diminished", "dim"}, {"dominant", "7"}, {"major-seventh", "maj7"},
	{"minor-seventh", "m7"}, {"diminished-seventh", "dim7"}, {"augmented-seventh", "7#5"}, {"half-diminished", "m7b5"},
	{"major-minor", "m(maj7)"}, {"major-sixth", "6"}, {"minor-sixth", "m6"}, {"dominant-ninth", "9"}, {"major-ninth", "maj9"},
	{"minor-ninth", "m9"}, {"dominant-11th", "11"}, {"major-11th", "maj11"}, {"minor-11th", "m11"}, {"dominant-13th", "13"},
	{"major-13th", "maj13"}, {"minor-13th", "m13"}, {"suspended-second", "sus2"}, {"suspended-fourth", "sus4"}, {"power", "5"},
}

// tonesOf are the degrees of each kind.
var tonesOf = func() map[string][]chord.Degree {
	m := map[string][]chord.Degree{}
	for _, k := range kinds {
		c, err := chord.Parse("C" + k.suffix)
		if err != nil {
			panic(err)
		}
		m[k.kind] = degreesOf(c)
	}
	return m
}()

func degreesOf(c chord.Chord) (list []chord.Degree) {
	for _, t := range c.Tones {
		list = append(list, t.Degree)
	}
	return list
}

// writeHarmony is a chord's name, with a diagram where its shape is given.
func writeHarmony(c chord.Chord, f hand.Fingering, known knownKinds) *harmony {
	suffix := strings.TrimPrefix(c.Symbol, c.Root.String())
	if c.Bass.Valid() {
		suffix = strings.TrimSuffix(suffix, "/"+c.Bass.String())
	}
	h := &harmony{Root: &root{Step: rootStep{Step: string(c.Root.Letter)}, Alter: alter(c.Root)}, Kind: kind{Text: &suffix}}
	h.Kind.Kind, h.Degrees = known.of(c, suffix)
	if c.Bass.Valid() {
		h.Bass = &bass{Step: string(c.Bass.Letter), Alter: alter(c.Bass)}
	}
	if f.Frets != neck.NoFrets {
		h.Frame = writeFrame(f)
	}
	return h
}

// knownKinds remembers the kinds of chords by what stands behind their root.
type knownKinds map[string]knownKind

type knownKind struct {
	kind    string
	changes []degree
}

func (k knownKinds) of(c chord.Chord, suffix string) (string, []degree) {
	one, ok := k[suffix]
	if !ok {
		one.kind, one.changes = nearestKind(degreesOf(c))
		k[suffix] = one
	}
	return one.kind, one.changes
}

// explicit is the type of a chord whose shape is given.
const explicit = "explicit"

// noChord is the name of no chord.
func noChord() *harmony {
	none, text := "", "N.C."
	return &harmony{Root: &root{Step: rootStep{Text: &none, Step: "C"}}, Kind: kind{Text: &text, Kind: "none"}}
}

func alter(n pitch.Note) string {
	if n.Accidental == 0 {
		return ""
	}
	return strconv.Itoa(int(n.Accidental))
}

// nearestKind is the kind that has most in common with some degrees, and what to change
// in it.
func nearestKind(want []chord.Degree) (best string, changes []degree) {
	for i, k := range kinds {
		list := changesFrom(tonesOf[k.kind], want)
		if i == 0 || len(list) < len(changes) {
			best, changes = k.kind, list
		}
	}
	return best, changes
}

// changesFrom lists what has to be added, altered and taken out to make one list of
// degrees another.
func changesFrom(has, want []chord.Degree) (list []degree) {
	number := func(list []chord.Degree, n int8) (chord.Degree, bool) {
		i := slices.IndexFunc(list, func(d chord.Degree) bool { return d.Number == n })
		if i < 0 {
			return chord.Degree{}, false
		}
		return list[i], true
	}
	for _, d := range want {
		switch e, ok := number(has, d.Number); {
		case slices.Contains(has, d):
		case ok && !slices.Contains(want, e):
			list = append(list, degree{int(d.Number), strconv.Itoa(int(d.Alter) - int(e.Alter)), "alter"})
		default:
			list = append(list, degree{int(d.Number), strconv.Itoa(int(d.Alter) - dominant(d.Number)), "add"})
		}
	}
	for _, d := range has {
		if _, ok := number(want, d.Number); !ok {
			list = append(list, degree{int(d.Number), "0", "subtract"})
		}
	}
	return list
}

// dominant is how a degree that is added is altered where nothing is said: as in a
// dominant chord, whose seventh is minor.
func dominant(number int8) int {
	if number == 7 {
		return -1
	}
	return 0
}

// readHarmony reads a chord's name; none tells that it says there is no chord.
func readHarmony(h *harmony) (symbol string, none, ok bool) {
	if h.Kind.Kind == "none" {
		return "", true, true
	}
	if h.Root == nil {
		return "", false, false
	}
	rootNote, ok := readNote(h.Root.Step.Step, h.Root.Alter)
	if !ok {
		return "", false, false
	}
	low := ""
	if h.Bass != nil {
		n, ok := readNote(h.Bass.Step, h.Bass.Alter)
		if !ok {
			return "", false, false
		}
		if n != rootNote {
			low = "/" + n.String()
		}
	}
	tones, known := tonesOf[strings.TrimSpace(h.Kind.Kind)]
	if known {
		tones = changed(tones, h.Degrees)
	}
	// What is printed is taken where it means what the kind says.
	if h.Kind.Text != nil {
		if c, err := chord.Parse(rootNote.String() + strings.TrimSpace(*h.Kind.Text) + low); err == nil && (!known || sameDegrees(degreesOf(c), tones)) {
			return c.Symbol, false, true
		}
	}
	if !known {
		return rootNote.String() + low, false, h.Kind.Kind != "other" && h.Kind.Kind != ""
	}
	c := chord.Chord{Root: rootNote}
	for _, d := range tones {
		c.Tones = append(c.Tones, chord.Tone{Degree: d, Note: d.Above(rootNote)})
	}
	symbol = rootNote.String() + c.Suffix() + low
	_, err := chord.Parse(symbol)
	return symbol, false, err == nil
}

// changed are degrees with what is altered in them, added and taken out.
func changed(tones []chord.Degree, changes []degree) []chord.Degree {
	tones = slices.Clone(tones)
	for _, ch := range changes {
		by, _ := strconv.Atoi(strings.TrimSpace(ch.Alter))
		if ch.Value < 1 || ch.Value > 13 || by < -2 || by > 2 {
			continue
		}
		i := slices.IndexFunc(tones, func(d chord.Degree) bool { return int(d.Number) == ch.Value })
		switch ch.Type {
		case "alter":
			if i >= 0 {
				tones[i].Alter += int8(by)
			}
		case "subtract":
			if i >= 0 {
				tones = slices.Delete(tones, i, i+1)
			}
		case "add":
			tones = append(tones, chord.Degree{Number: int8(ch.Value), Alter: int8(by + dominant(int8(ch.Value)))})
		}
	}
	slices.SortFunc(tones, func(a, b chord.Degree) int { return int(a.Number)*8 + int(a.Alter) - int(b.Number)*8 - int(b.Alter) })
	return tones
}

func sameDegrees(a, b []chord.Degree) bool {
	for _, d := range a {
		if !slices.Contains(b, d) {
			return false
		}
	}
	return len(a) == len(b)
}

func readNote(step, alter string) (pitch.Note, bool) {
	step = strings.TrimSpace(step)
	by, _ := strconv.Atoi(strings.TrimSpace(alter))
	if len(step) != 1 || by < -2 || by > 2 {
		return pitch.Note{}, false
	}
	n := pitch.Note{Letter: step[0], Accidental: int8(by)}
	return n, n.Valid()
}

// writeFrame is the diagram of a shape.
func writeFrame(f hand.Fingering) *frame {
	low, high := neck.MaxFret, 0
	for _, fret := range f.Frets {
		if fret > 0 {
			low = min(low, int(fret))
		}
		high = max(high, int(fret))
	}
	out := &frame{Strings: neck.Strings}
	first := 1
	if high > 4 {
		first = low
		out.First = first
	}
	out.Frets = max(high-first+1, 4)
	for s := neck.String(1); s <= neck.Strings; s++ {
		if fret := f.Frets.On(s); fret >= 0 {
			out.Notes = append(out.Notes, frameNote{int(s), fret, f.Fingers[s.Index()].String()})
		}
	}
	return out
}

// readFrame reads a diagram; NoFrets where it is none of six strings.
func readFrame(f *frame) neck.Frets {
	frets := neck.NoFrets
	if f == nil || f.Strings != neck.Strings {
		return frets
	}
	for _, n := range f.Notes {
		if n.String >= 1 && n.String <= neck.Strings && n.Fret >= 0 && n.Fret <= neck.MaxFret {
			frets[neck.String(n.String).Index()] = int8(n.Fret)
		}
	}
	return frets
}
