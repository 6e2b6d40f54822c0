package chord

import (
	"cmp"
	"slices"
	"strings"

	"valleyside/core/pitch"
)

// Name is what a set of notes can be called.
type Name struct {
	Name    string       `json:"name"`
	Root    pitch.Note   `json:"root"`
	Bass    pitch.Note   `json:"bass"`
	Tones   []pitch.Note `json:"tones"`   // of the chord that is named
	Missing []Degree     `json:"missing"` // degrees of it that do not sound
	Extra   []pitch.Note `json:"extra"`   // what sounds beside it
	// LeadsTo is the root that a diminished seventh leads to.
	LeadsTo pitch.Note `json:"leads_to,omitzero"`
	// Cost is how far the name is fetched: least is a triad on its root.
	Cost float64 `json:"-"`
}

// Exact tells whether the notes are those of the name, no more and no fewer.
func (n Name) Exact() bool { return len(n.Missing) == 0 && len(n.Extra) == 0 }

// What a name costs. An exact plain name, in any inversion, comes before a rare
// and before an incomplete one; of those that are incomplete one without its
// fifth is nearest, a missing third or seventh says another chord, and a note
// too many is worse than one too few. Held by TestNames, TestNamesOfFullChords
// and the names of docs/judgement.md.
const (
	costExtra      = 7.0
	costIncomplete = 3.4
	costRoot       = 5.0
	costThird      = 3.5
	costSeventh    = 3.0
	costAltered    = 3.0
	costTension    = 2.2
	costFifth      = 0.6
	costFifthRich  = 1.2 // of a chord of five tones or more
	costFifthSus   = 1.5 // of a chord without a third
	costRare       = 4.0
	costLoose      = 2.0 // a slash below a chord that is not whole
	costNinth      = 1.0 // below an eleventh or thirteenth
	costInverted   = 2.0 // a tone of the chord in the bass
	costDeep       = 0.9 // and it is neither the third nor the fifth
	costRichTurned = 3.6 // a chord in inversion that is no triad, seventh or added ninth
	costSlash      = 3.2 // another note in the bass
	costSlashed    = 1.7 // the same, below a triad
	costSlashBare  = 4.6 // the same, below two notes
	costTone       = 0.3 // for each tone beyond a triad
	costAccident   = 0.35
	costOutOfKey   = 0.5
	bonusWhole     = 1.0  // the whole chord on its root
	bonusLeads     = 10.0 // a diminished seventh that leads to the tonic
	perGoal        = 3.0  // less for each goal further down the list
	mostNames      = 12
	farther        = 2.4 // than the best is not worth saying of a name that is rare or does not fit exactly
	costFarAtMost  = 16
)

// goals are the steps of a key that a diminished seventh leads to, in
// semitones above the tonic, the likeliest first.
var goals = []int{0, 7, 9, 2, 5, 4, 3, 8, 10, 11}

// intervals names two notes by the semitones between them.
var intervals = [12]string{"", "minor second", "major second", "minor third", "major third", "fourth", "tritone", "fifth",
	"minor sixth", "major sixth", "minor seventh", "major seventh"}

// Names lists what notes can be called, given as their classes and the class
// that sounds lowest, the best name first, one for each root. A single note is
// a note, two are an interval or a power chord. A bass that somebody else plays
// is the lowest note. key spells the names and decides between those that are
// equally good; without one they are spelled alike, all with sharps or all with flats.
func Names(classes pitch.Set, bass pitch.Class, key pitch.Key) []Name {
	return namesOver(classes, bass, pitch.Note{}, key)
}

// NamesOver are the Names of notes over a bass whose spelling is given and kept.
func NamesOver(classes pitch.Set, bass pitch.Note, key pitch.Key) []Name {
	return namesOver(classes, bass.Class(), bass, key)
}

func namesOver(classes pitch.Set, bass pitch.Class, given pitch.Note, key pitch.Key) []Name {
	classes = classes.With(bass)
	found := make([]candidate, 0, 64)
	for root := range pitch.Class(12) {
		found = appendRooted(found, root, classes, bass)
	}
	for i := range found {
		found[i].cost += found[i].inKey(key)
	}
	slices.SortStableFunc(found, func(a, b candidate) int { return cmp.Compare(a.cost, b.cost) })
	names := make([]Name, 0, mostNames)
	if few, ok := fewNotes(classes, bass, key); ok {
		names = append(names, few)
	}
	var named pitch.Set
	kept := found[:0]
	for _, c := range found {
		if len(names)+len(kept) == mostNames {
			break
		}
		plain := c.exact && !qualities[c.quality].rare
		if (plain || c.cost <= found[0].cost+farther) && !named.Has(c.root) {
			named = named.With(c.root)
			kept = append(kept, c)
		}
	}
	in := signsOf(kept, bass, given, key)
	for _, c := range kept {
		names = append(names, c.on(in.root(c.root), classes, bass, key))
	}
	in.oneBass(names, bass)
	return names
}

// signs is how the names of a shape are spelled.
type signs struct {
	key   pitch.Key
	given pitch.Note // the bass, where its spelling is given
	sign  int8       // of notes between the white keys, where there is no key
}

// signsOf decides whether names have sharps or flats: those of a bass that is given,
// else those that the first of them asks for, unless all together need fewer the other
// way.
func signsOf(names []candidate, bass pitch.Class, given pitch.Note, key pitch.Key) signs {
	in := signs{key: key, given: given, sign: 1}
	if key.Valid() || len(names) == 0 {
		return in
	}
	if given.Valid() && given.Accidental != 0 {
		in.sign = given.Accidental
		return in
	}
	first := &names[0]
	sharp, flat := in, in
	flat.sign = -1
	if root := sharp.root(first.root); root.Accidental == 0 && bass != first.root {
		for _, t := range qualities[first.quality].tones { // a bass that is a note of the chord
			if n := t.Degree.Above(root); n.Class() == bass && n.Accidental != 0 {
				in.sign = max(min(n.Accidental, 1), -1)
				return in
			}
		}
	}
	if (pitch.Key{}).SpellClass(first.root).Accidental < 0 {
		sharp, flat = flat, sharp // the usual one first
	}
	usual, other := 0, 0
	for _, c := range names {
		if root := sharp.root(c.root); root.Accidental != 0 {
			usual, other = usual+c.signs(root), other+c.signs(flat.root(c.root))
		}
	}
	if usual <= other+1 {
		return sharp
	}
	return flat
}

// root names a root.
func (in *signs) root(class pitch.Class) pitch.Note {
	if in.key.Valid() {
		return in.key.SpellClass(class)
	}
	for _, sign := range []int8{0, in.sign} {
		for _, letter := range []byte("CDEFGAB") {
			if n := (pitch.Note{Letter: letter, Accidental: sign}); n.Class() == class {
				return n
			}
		}
	}
	return in.key.SpellClass(class)
}

// NameOn is the best name of some notes on a root, as a sheet has it. ok is
// false where none is near enough.
func NameOn(root pitch.Note, classes pitch.Set, bass pitch.Class) (n Name, ok bool) {
	classes = classes.With(bass)
	found := appendRooted(nil, root.Class(), classes, bass)
	if len(found) == 0 {
		return Name{}, false
	}
	best := slices.MinFunc(found, func(a, b candidate) int { return cmp.Compare(a.cost, b.cost) })
	n = best.on(root, classes, bass, pitch.Key{})
	return n, true
}

// appendRooted adds what some notes can be called on a root.
func appendRooted(found []candidate, root pitch.Class, classes pitch.Set, bass pitch.Class) []candidate {
	rooted := classes.From(root)
	low := bass.Above(root)
	for i := range qualities {
		q := &qualities[i]
		if c, ok := q.fit(rooted, low, false); ok {
			found = append(found, candidate{c, root, i, false, rooted == q.mask})
		}
		// The bass may be a note beside the chord.
		if rooted.Has(0) && low != 0 && !q.mask.Has(pitch.Class(low)) && !sevenths[rooted] {
			above := rooted.Without(pitch.Class(low))
			if c, ok := q.fit(above, low, true); ok {
				found = append(found, candidate{c, root, i, true, above == q.mask})
			}
		}
	}
	return found
}

// fewNotes names one note, or two that are no power chord.
func fewNotes(classes pitch.Set, bass pitch.Class, key pitch.Key) (Name, bool) {
	low := key.SpellClass(bass)
	n := Name{Root: low, Bass: low, Tones: []pitch.Note{low}, Missing: []Degree{}, Extra: []pitch.Note{}}
	switch classes.Len() {
	case 1:
		n.Name = low.String()
		return n, true
	case 2:
		for other := range classes.Without(bass).All() {
			up := other.Above(bass)
			if up == 7 || up == 5 {
				return n, false
			}
			high := near(low, other)
			if key.Valid() {
				high = key.SpellClass(other)
			}
			n.Tones = append(n.Tones, high)
			n.Name = low.String() + " " + high.String() + ", a " + intervals[up]
		}
		return n, true
	}
	return n, false
}

// oneBass gives one bass one spelling in all names of a shape: the one that is given,
// that of the key, or the one with the signs of the others.
func (in *signs) oneBass(names []Name, bass pitch.Class) {
	if len(names) == 0 {
		return
	}
	want := in.root(bass)
	if in.given.Valid() {
		want = in.given
	}
	for i := range names {
		n := &names[i]
		if n.Bass != want && n.Bass != n.Root {
			n.Name = strings.TrimSuffix(n.Name, "/"+n.Bass.String()) + "/" + want.String()
			n.Bass = want
		}
	}
}

// candidate is a name that has not been spelled yet.
type candidate struct {
	cost    float64
	root    pitch.Class
	quality int
	slash   bool
	exact   bool
}

// inKey is what a key has to say of a name.
func (c candidate) inKey(key pitch.Key) float64 {
	if !key.Valid() {
		return 0
	}
	if qualities[c.quality].Suffix == "dim7" && c.exact {
		goal := c.root.Up(1).Above(key.Tonic.Class())
		if at := slices.Index(goals, goal); at >= 0 && key.Contains(c.root.Up(1)) {
			return perGoal*float64(at) - bonusLeads
		}
	}
	if !key.Contains(c.root) {
		return costOutOfKey
	}
	return 0
}

// fit is what it costs to call notes by a quality; ok is false where that is
// too far fetched.
func (q *Quality) fit(rooted pitch.Set, low int, slash bool) (cost float64, ok bool) {
	missing, extra := q.mask.Minus(rooted), rooted.Minus(q.mask)
	if extra.Len() > 1 || missing.Len() > 2 {
		return 0, false
	}
	cost = q.cost
	if missing != 0 {
		cost += costIncomplete
		if slash {
			cost += costLoose
		}
	}
	if extra != 0 {
		cost += costExtra
	}
	for m := range missing.All() {
		cost += q.worth[m]
	}
	switch {
	case low == 0 && missing == 0 && extra == 0:
		cost -= bonusWhole
	case slash && q.mask == majorTriad || slash && q.mask == minorTriad:
		cost += costSlashed
	case slash && len(q.tones) == 2:
		cost += costSlashBare
	case slash:
		cost += costSlash
	case low != 0:
		cost += costInverted
		if low != 3 && low != 4 && low != 7 {
			cost += costDeep
		}
		if !q.plain || q.Suffix == "6" || q.Suffix == "m6" { // turned, a sixth is the seventh on its sixth
			cost += costRichTurned
		}
	}
	return cost, cost < costFarAtMost
}

// The triads that a slash is most often written below.
const (
	majorTriad pitch.Set = 1 | 1<<4 | 1<<7
	minorTriad pitch.Set = 1 | 1<<3 | 1<<7
)

// weigh works out what a quality costs by itself, and what each of its tones
// is worth.
func (q *Quality) weigh() {
	q.cost = costTone * float64(max(len(q.tones)-3, 0))
	if q.rare {
		q.cost += costRare
	}
	for _, t := range q.tones {
		if d := t.Degree; d.Alter != 0 && d != (Degree{3, -1}) && d != (Degree{7, -1}) {
			q.cost += costAccident
		}
		q.worth[t.Degree.Semitones()] = t.worth(q)
	}
}

// worth is what is lost with a tone of a chord.
func (t *Tone) worth(q *Quality) float64 {
	switch d := t.Degree; {
	case d.Number == 1:
		return costRoot
	case d.IsThird():
		return costThird
	case d.IsSeventh():
		return costSeventh
	case d.Number == 5 && d.Alter != 0:
		return costAltered
	case d.Number == 5 && len(q.tones) == 2:
		return costThird // all that a power chord has
	case d.Number == 5 && !q.mask.Has(3) && !q.mask.Has(4):
		return costFifthSus
	case d.Number == 5 && (len(q.tones) > 4 || q.rare):
		return costFifthRich
	case d.Number == 5:
		return costFifth
	case d == Degree{9, 0} && q.tones[len(q.tones)-1].Degree != d:
		return costNinth
	}
	return costTension
}

// on is a candidate's name on a root that is spelled.
func (c candidate) on(root pitch.Note, classes pitch.Set, bass pitch.Class, key pitch.Key) Name {
	q := &qualities[c.quality]
	n := Name{Name: root.String() + q.Suffix, Root: root, Bass: root, Cost: c.cost, Missing: []Degree{}, Extra: []pitch.Note{}, Tones: make([]pitch.Note, len(q.tones))}
	sounds := classes
	for i, t := range q.tones {
		n.Tones[i] = t.Degree.Above(root)
		if !sounds.Has(n.Tones[i].Class()) {
			n.Missing = append(n.Missing, t.Degree)
		}
		if n.Tones[i].Class() == bass {
			n.Bass = n.Tones[i]
		}
	}
	if c.slash {
		n.Bass = near(root, bass)
		sounds = sounds.Without(bass)
	}
	if !key.Valid() && n.Bass != root && n.Bass.Awkward() {
		n.Bass = key.SpellClass(bass)
	}
	for class := range sounds.All() {
		if !q.mask.Has(pitch.Class(class.Above(c.root))) {
			n.Extra = append(n.Extra, near(root, class))
		}
	}
	if bass != c.root {
		n.Name += "/" + n.Bass.String()
	}
	if q.Suffix == "dim7" && c.exact {
		n.LeadsTo = goalOf(root, key)
	}
	return n
}

// goalOf is the note a half step above the root of a diminished seventh.
func goalOf(root pitch.Note, key pitch.Key) pitch.Note {
	class := root.Class().Up(1)
	if key.Valid() {
		return key.SpellClass(class)
	}
	if up := root.Up(2, 1); !up.Awkward() {
		return up
	}
	return key.SpellClass(class)
}

// signs counts the sharps and flats of a name on a root.
func (c candidate) signs(root pitch.Note) int {
	n := 0
	for _, t := range qualities[c.quality].tones {
		n += max(int(t.Degree.Above(root).Accidental), -int(t.Degree.Above(root).Accidental))
	}
	return n
}

// near names a note that is no tone of a chord, in the signs of its root.
func near(root pitch.Note, class pitch.Class) pitch.Note {
	n := pitch.Key{Tonic: root, Mode: pitch.Mixolydian}.SpellClass(class)
	if n.Awkward() {
		return pitch.Key{}.SpellClass(class)
	}
	return n
}
