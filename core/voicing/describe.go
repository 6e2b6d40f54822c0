package voicing

import (
	"slices"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// describe says what a voicing does to the chord.
func (f *finder) describe(v *Voicing) {
	root := f.chord.Root.Class()
	counts := [12]int{}
	for i, fret := range v.Frets {
		if fret >= 0 {
			counts[f.cfg.In.Pitch(neck.StringAt(i), int(fret)).Class()]++
		}
	}
	v.Kept, v.Lost, v.Doubled, v.Added = []chord.Degree{}, []chord.Degree{}, []chord.Degree{}, []pitch.Note{}
	spelled := map[pitch.Class]pitch.Note{}
	for _, t := range f.chord.Tones {
		spelled[t.Class()] = t.Note
		switch n := counts[t.Class()]; {
		case n == 0 && f.cfg.Sung.Valid() && f.cfg.Sung.Class() == t.Class():
			v.Remarks = append(v.Remarks, Remark{Kind: SungTone, Degree: t.Degree, Note: t.Note, Chord: f.chord.Symbol})
			v.Kept = append(v.Kept, t.Degree)
		case n == 0:
			v.Lost = append(v.Lost, t.Degree)
		default:
			v.Kept = append(v.Kept, t.Degree)
			if n > 1 {
				v.Doubled = append(v.Doubled, t.Degree)
			}
		}
	}
	if b := f.chord.Bass; b.Valid() {
		spelled[b.Class()] = b
	}
	spell := func(class pitch.Class) pitch.Note {
		if n, ok := spelled[class]; ok {
			return n
		}
		if f.cfg.Key.Valid() {
			return f.cfg.Key.SpellClass(class)
		}
		return pitch.Key{Tonic: f.chord.Root, Mode: pitch.Mixolydian}.SpellClass(class)
	}
	for above := range 12 {
		class := root.Up(above)
		if _, known := spelled[class]; !known && counts[class] > 0 {
			v.Added = append(v.Added, spell(class))
		}
	}
	bass := v.low.Class()
	v.Bass = spell(bass)
	v.Is = f.honest(v, bass)
	f.remark(v, bass)
}

// honest is the name of what sounds: the chord's own where it has lost nothing
// that matters, else the name on the chord's own root, and where that is too
// far fetched the best there is.
func (f *finder) honest(v *Voicing, bass pitch.Class) Called {
	plain := len(v.Added) == 0 && bass == f.chord.Lowest().Class()
	for _, d := range v.Lost {
		plain = plain && d == chord.Degree{Number: 5} && len(f.chord.Tones) > 3
	}
	if plain {
		return Called{Name: f.chord.Symbol}
	}
	if len(v.Lost) == 0 && len(v.Added) == 0 { // only the bass is another
		c := f.chord
		c.Bass = v.Bass
		if bass == c.Root.Class() {
			c.Bass = pitch.Note{}
		}
		return Called{Name: c.Canonical()}
	}
	if v.classes.Len() == 1 {
		return Called{Name: v.Bass.String(), Alone: true}
	}
	names := chord.Names(v.classes, bass, f.cfg.Key)
	if own, ok := chord.NameOn(f.chord.Root, v.classes, bass); ok && v.classes.Has(f.chord.Root.Class()) && (len(own.Extra) == 0 || len(names) == 0) {
		return Called{Name: own.Name, Missing: own.Missing}
	}
	if len(names) == 0 {
		return Called{Name: v.Bass.String()}
	}
	best := max(slices.IndexFunc(names, func(n chord.Name) bool { return len(n.Extra) == 0 }), 0)
	return Called{Name: names[best].Name, Missing: names[best].Missing, Extra: names[best].Extra}
}

// remark says where a voicing contradicts its chord, or leans on others.
func (f *finder) remark(v *Voicing, bass pitch.Class) {
	say := func(r Remark) {
		r.Chord = f.chord.Symbol
		v.Remarks = append(v.Remarks, r)
	}
	root := f.chord.Root.Class()
	sounds := func(semitones int) bool { return v.classes.Has(root.Up(semitones)) }
	fifth, altered := f.chord.Fifth()
	flat := chord.Degree{Number: 5, Alter: int8(fifth - 7)}
	switch {
	case altered && sounds(7) && !f.chord.Has(7):
		say(Remark{Kind: PlainFifth, Degree: flat})
	case altered && v.School == Letter && sounds(fifth):
		say(Remark{Kind: AlteredFifth, Degree: flat})
	}
	if f.chord.Has(3) && !f.chord.Has(4) && sounds(4) {
		say(Remark{Kind: MajorThird})
	}
	if f.chord.Has(4) && !f.chord.Has(3) && sounds(3) {
		say(Remark{Kind: MinorThird})
	}
	if !sounds(0) {
		say(Remark{Kind: Rootless, Named: f.chord.Root})
	}
	if named := f.chord.Bass; named.Valid() && bass != named.Class() {
		say(Remark{Kind: BassLost, Note: v.Bass, Named: named})
	} else if !named.Valid() && bass != root && sounds(0) {
		say(Remark{Kind: BassTurned, Note: v.Bass, Named: f.chord.Root})
	}
}
