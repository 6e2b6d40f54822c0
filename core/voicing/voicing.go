// Package voicing finds ways to play a chord that is given by name, says what
// each keeps, loses and adds, and chooses voicings for a progression together.
package voicing

import (
	"cmp"
	"fmt"
	"slices"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// School is an idea of what may stand for a chord.
type School string

// The schools of voicing.
const (
	Letter School = "letter" // the power chord of its letter
	Third  School = "third"  // root and third, no fifth
	Drone  School = "drone"  // a moved power chord below open strings
	Few    School = "few"    // three or four strings
	Open   School = "open"   // open strings and the first four frets
	All    School = "all"    // all of these, and every other voicing
	// Families of their own, for who asks for them.
	Shell   School = "shell"    // root, third and seventh
	NoRoot  School = "rootless" // without the root, which the bass plays
	DropTwo School = "drop2"    // four notes, the second from the top an octave lower
)

// Schools lists the schools.
var Schools = []School{Letter, Third, Drone, Few, Open, All, Shell, NoRoot, DropTwo}

// family tells whether a school is shown whole, however its shapes compare; rising
// whether its shapes stand in their order up the neck.
func (s School) family() bool { return s == Letter || s == Third || s.rising() }

func (s School) rising() bool { return s == Drone || s == Shell || s == NoRoot || s == DropTwo }

// ParseSchool reads the name of a school.
func ParseSchool(s string) (School, error) {
	for _, school := range Schools {
		if string(school) == s {
			return school, nil
		}
	}
	return "", fmt.Errorf("%q is not a school; use letter, third, drone, few, open, all, shell, rootless or drop2", s)
}

// Title is what the school is called on a page.
func (s School) Title() string {
	return map[School]string{Letter: "Letter only", Third: "Keep the third", Drone: "Drone", Few: "Few strings", Open: "Open shapes", All: "All",
		Shell: "Shells", NoRoot: "Without the root", DropTwo: "Drop two"}[s]
}

// Role is what a voicing is among the others of its chord.
type Role uint8

// The roles, in the order in which a teacher looks for them.
const (
	Other     Role = iota
	Shown          // the usual shape
	Easiest        // that keeps the whole chord
	Barreless      // the easiest without a barre
	AlsoUsual      // another form that everybody is shown
)

// Voicing is a way to play a chord, and what it does to it.
type Voicing struct {
	hand.Fingering
	School   School
	Role     Role
	Hold     float64        // the demand of holding it
	Ease     float64        // 0 to 1: 1 is an open string
	Fidelity float64        // 0 to 1: how much of the harmony remains
	Kept     []chord.Degree // degrees that sound
	Lost     []chord.Degree // degrees that do not
	Doubled  []chord.Degree // degrees that sound more than once
	Added    []pitch.Note   // notes that are not the chord's
	Is       Called         // its honest name
	Bass     pitch.Note     // what sounds lowest
	Circle   int            // the root's string, for letter-only shapes
	Remarks  []Remark
	// Without are the shapes of the family: this one with strings left out at
	// the edge, each of which is still the chord.
	Without []neck.Frets
	// Thinned tells that it is a usual shape with its thick strings left out,
	// scrap that it is few strings of a chord whose usual shape asks for no barre.
	Thinned bool
	scrap   bool
	// Dominated tells that another voicing is at least as easy and as full and
	// keeps at least as much.
	Dominated bool
	classes   pitch.Set
	low, high pitch.Pitch
	slash     bool // the chord names a bass
	onBass    bool // what the chord names, or its root, sounds lowest
	inRegion  bool // frets are given to stay between
	above     int  // frets by which it lies above the first usual shape
}

// Called is the honest name of a shape.
type Called struct {
	Name    string
	Missing []chord.Degree // of what the name means
	Extra   []pitch.Note   // what sounds beside it
	Alone   bool           // a single note
}

// RemarkKind is what a remark says.
type RemarkKind uint8

// The kinds of remarks.
const (
	SungTone     RemarkKind = iota // Degree is the Note that is sung
	PlainFifth                     // its plain fifth contradicts the altered one of the chord, Degree
	MajorThird                     // its major third contradicts the chord
	MinorThird                     // its minor third does
	Rootless                       // without its root, which the bass has to play
	BassLost                       // the bass is Note, not the Named one
	BassTurned                     // the bass is Note instead of the root Named
	AlteredFifth                   // a plain fifth would contradict the chord: Degree stands in its place
)

// Remark is something to know of a voicing. Which fields are set depends on its
// kind.
type Remark struct {
	Kind        RemarkKind
	Chord       string
	Degree      chord.Degree
	Note, Named pitch.Note
}

// Config says for whom and how voicings are looked for. The zero Config looks
// for all schools in standard tuning for a usual player.
type Config struct {
	In     neck.Instrument // the zero Tuning is standard
	Player hand.Player
	School School     // empty means All
	Key    pitch.Key  // spells what is added
	Sung   pitch.Note // a note that somebody else sounds; it completes the chord
	// Low and High bound the frets; a High of 0 does not. Strings sound open
	// only in a drone then, or where Low is 0.
	Low, High int
	// Max is how many are described; 0 describes all that are on the front of
	// ease and fidelity. Dominated asks for those as well that another one beats.
	Max       int
	Dominated bool
}

func (c Config) usual() Config {
	if c.In.Tuning == (neck.Tuning{}) {
		c.In.Tuning = neck.Standard
	}
	if c.School == "" {
		c.School = All
	}
	c.Player = c.Player.Usual()
	if c.In.Scale == 0 {
		c.In.Scale = c.Player.Scale
	}
	return c
}

// at is the player at the neck of the instrument.
func (c *Config) at() hand.At { return c.Player.At(c.In.Neck) }

// Find lists the voicings of a chord in the order in which a teacher looks for
// them: the usual shape, the easiest that keeps the whole chord, one without a
// barre, the other usual forms, then the others by ease and by how much of the
// harmony remains, each given its due.
func Find(c chord.Chord, cfg Config) []Voicing { return new(Book).Find(c, cfg) }

// Find is like the function Find, and remembers what it has worked out.
func (b *Book) Find(c chord.Chord, cfg Config) []Voicing {
	cfg = cfg.usual()
	f := finder{chord: c, cfg: cfg, listed: true}
	list := f.candidates(b)
	front(list)
	if !cfg.Dominated {
		list = slices.DeleteFunc(list, func(v Voicing) bool {
			return v.Dominated && v.Role == Other && !v.School.family() && !v.Thinned
		})
	}
	f.order(list)
	if !cfg.Dominated {
		list = f.families(list)
	}
	if cfg.Max > 0 {
		if cfg.School == All {
			list = fewPairs(list)
		}
		list = list[:min(cfg.Max, len(list))]
	}
	for i := range list {
		f.describe(&list[i])
	}
	return list
}

// mostPairs is how many shapes of two strings a short list of all schools has.
const mostPairs = 2

// fewPairs leaves the first few shapes of two strings in a list.
func fewPairs(list []Voicing) []Voicing {
	pairs := 0
	return slices.DeleteFunc(list, func(v Voicing) bool {
		if v.Sounding() != 2 {
			return false
		}
		pairs++
		return pairs > mostPairs
	})
}

// Describe says of any shape what it is for a chord; ok is false where the
// player cannot hold it.
func Describe(c chord.Chord, cfg Config, frets neck.Frets) (v Voicing, ok bool) {
	f := finder{chord: c, cfg: cfg.usual()}
	if v, ok = f.measure(frets, All); ok {
		f.describe(&v)
	}
	return v, ok
}

// fullness is how much of the sound of a chord so many strings have.
var fullness = [neck.Strings + 1]float64{0, 0.3, 0.55, 0.8, 0.92, 1, 1}

// score weighs ease, fidelity and fullness against one another.
func (v *Voicing) score() float64 { return v.Ease * v.Fidelity * fullness[v.Sounding()] }

// order puts voicings in the order in which a teacher looks for them.
func (f *finder) order(list []Voicing) {
	rank := func(v *Voicing) int {
		switch {
		case v.Role != Other:
			return int(v.Role)
		case v.Thinned && f.cfg.School == Few:
			return int(AlsoUsual) + 1
		case v.School == Third && v.Lowest() < 4: // roots belong on the thick strings
			return int(AlsoUsual) + 3
		}
		return int(AlsoUsual) + 2
	}
	slices.SortStableFunc(list, func(a, b Voicing) int {
		if f.cfg.School.rising() {
			return cmp.Or(cmp.Compare(a.Base(), b.Base()), cmp.Compare(b.score(), a.score()))
		}
		return cmp.Or(cmp.Compare(rank(&a), rank(&b)), cmp.Compare(b.score(), a.score()))
	})
	if f.cfg.School != All || f.cfg.Max == 0 {
		return
	}
	// The short list has one of each kind: the three thinnest strings, the
	// letter on string 6 and on string 5, the two notes for high gain.
	at := 0
	for at < len(list) && list[at].Role != Other {
		at++
	}
	for _, kind := range []func(*Voicing) bool{
		func(v *Voicing) bool { return v.School == Few && v.Lowest() == 3 && v.Highest() == 1 },
		func(v *Voicing) bool { return v.School == Letter && v.Circle == 6 },
		func(v *Voicing) bool { return v.School == Letter && v.Circle == 5 },
		func(v *Voicing) bool { return v.School == Third },
	} {
		for i := at; i < len(list); i++ {
			if kind(&list[i]) {
				v := list[i]
				copy(list[at+1:i+1], list[at:i])
				list[at] = v
				at++
				break
			}
		}
	}
}

// families makes one of shapes that differ only by strings left out at the
// edge: the fuller one stays, or the one with a role, and names the others.
func (f *finder) families(list []Voicing) []Voicing {
	var kept []Voicing
	for _, v := range list {
		of := -1
		for i := range kept {
			if kept[i].School == v.School || v.School == Few && kept[i].Role != Other {
				if within(v.Frets, kept[i].Frets) {
					of = i
					break
				}
			}
		}
		if of < 0 || f.cfg.School == Few || v.School == Few && v.Lowest() == 3 {
			kept = append(kept, v)
			continue
		}
		kept[of].Without = append(kept[of].Without, v.Frets)
	}
	return kept
}

// within tells whether one shape is another with strings left out at the edge,
// or with strings added there.
func within(a, b neck.Frets) bool {
	same, differs := 0, false
	for i := range a {
		switch {
		case a[i] == b[i]:
			if a[i] >= 0 {
				same++
			}
		case a[i] >= 0 && b[i] >= 0:
			return false
		default:
			differs = true
		}
	}
	if same < 2 || !differs {
		return false
	}
	small := a
	if (hand.Fingering{Frets: b}).Sounding() < (hand.Fingering{Frets: a}).Sounding() {
		small = b
	}
	g := hand.Fingering{Frets: small}
	for i := range a {
		if s := neck.StringAt(i); a[i] != b[i] && s < g.Lowest() && s > g.Highest() {
			return false // left out inside, not at the edge
		}
	}
	return true
}

// finder looks for the voicings of one chord.
type finder struct {
	chord  chord.Chord
	cfg    Config
	listed bool // for a list that is looked at, and not to play from
}

// candidates lists the voicings of the school that is asked for, not described
// yet, each shape once.
func (f *finder) candidates(b *Book) []Voicing {
	var list []Voicing
	school := f.cfg.School
	switch school {
	case Letter:
		list = f.letter()
	case Third:
		list = f.third()
	case Drone:
		list = f.drone()
	case Shell:
		list = f.shell()
	case NoRoot:
		list = f.rootless()
	case DropTwo:
		list = f.dropTwo()
	case Few:
		if len(f.chord.Tones) < 3 {
			list = f.usualLetter(b) // of a power chord there is no less
			break
		}
		list = f.few(b)
	case Open, All:
		list = f.full(b)
		if school == All {
			list = slices.Concat(list, f.letter(), f.third(), f.drone())
		}
	}
	seen := map[neck.Frets]bool{}
	kept := list[:0]
	for _, v := range list {
		if !seen[v.Frets] && f.inRegion(&v) {
			seen[v.Frets] = true
			kept = append(kept, v)
		}
	}
	return kept
}

// full lists the full voicings with their roles.
func (f *finder) full(b *Book) []Voicing {
	var list []Voicing
	usual := b.Usual(f.chord, f.cfg.In, f.cfg.Player, mostUsual)
	for i, v := range usual {
		v.Role = AlsoUsual
		if i == 0 {
			v.Role = Shown
		}
		v.above = max(v.Base()-usual[0].Base(), 0)
		if v.School = f.schoolOf(v.Fingering); f.cfg.School == All || v.School == Open {
			list = append(list, v)
		}
	}
	easiest, barreless := -1, -1
	list = append(list, f.thinned(usual)...)
	for i := range list {
		if list[i].Thinned && f.inRegion(&list[i]) && (easiest < 0 || list[i].Ease > list[easiest].Ease) {
			easiest = i
		}
	}
	known := list
	all := rooted
	if f.listed && f.cfg.Dominated && f.cfg.Max == 0 {
		all = every
	}
	for _, s := range b.shapes(f.chord, f.cfg.In, f.cfg.Player, all) {
		if slices.ContainsFunc(known, func(u Voicing) bool { return u.Frets == s.Frets }) {
			continue
		}
		of := f.schoolOf(s.Fingering)
		if f.cfg.School == Open && of != Open {
			continue
		}
		v := f.voicing(s.Fingering, of, s.hold)
		list = append(list, v)
		if !f.inRegion(&v) || v.Sounding() < 4 || v.Fidelity < 1 || v.Inside() > 0 || top(v.Frets) > lowPlace {
			continue
		}
		if easiest < 0 || v.Ease > list[easiest].Ease {
			easiest = len(list) - 1
		}
		if v.Build().BarreStrings == 0 && (barreless < 0 || v.score() > list[barreless].score()) {
			barreless = len(list) - 1
		}
	}
	if easiest >= 0 && (len(usual) == 0 || list[easiest].Ease > usual[0].Ease) {
		list[easiest].Role = Easiest
	}
	if barreless >= 0 && barreless != easiest && len(usual) > 0 && HardBarre(usual[0].Fingering) {
		list[barreless].Role = Barreless
	}
	return list
}

// usualLetter lists the letter's power chords at their usual place.
func (f *finder) usualLetter(b *Book) []Voicing {
	list := f.letter()
	usual := b.Usual(f.chord, f.cfg.In, f.cfg.Player, 1)
	if len(usual) == 0 {
		return list
	}
	root := usual[0].Lowest()
	kept := slices.Clone(usual)
	if root == 4 {
		thin := usual[0].Frets // two notes of three
		thin[neck.String(2).Index()] = neck.Silent
		if v, ok := f.measure(thin, Letter); ok {
			kept = append(kept, v)
		}
	}
	for _, v := range list {
		if v.Lowest() == root && v.Frets.On(root) == usual[0].Frets.On(root) {
			kept = append(kept, v)
		}
	}
	return kept
}

// few lists what few strings there are of a chord: its usual shapes with the
// thick strings left out, which all lie in one register; the usual shape itself
// where it asks for no barre; and the other voicings of three or four strings.
func (f *finder) few(b *Book) []Voicing {
	var list []Voicing
	usual := b.Usual(f.chord, f.cfg.In, f.cfg.Player, mostUsual)
	easy := len(usual) > 0 && !HardBarre(usual[0].Fingering)
	if easy && (!f.listed || usual[0].Sounding() <= fewStrings) {
		v := usual[0]
		v.School, v.Role = Few, Shown
		list = append(list, v)
	}
	list = append(list, f.thinned(usual)...)
	for _, s := range b.shapes(f.chord, f.cfg.In, f.cfg.Player, few) {
		if f.isFew(s.Fingering) {
			list = append(list, f.voicing(s.Fingering, Few, s.hold))
		}
	}
	for i := range list {
		list[i].scrap = easy && list[i].Role != Shown
	}
	return list
}

// thinned lists usual shapes with their thick strings left out, where the four
// thin ones are the chord.
func (f *finder) thinned(usual []Voicing) []Voicing {
	var list []Voicing
	if f.chord.Bass.Valid() {
		return nil
	}
	for i, v := range usual {
		thin := v.Frets
		for s := neck.String(neck.Strings); s > fewStrings; s-- {
			thin[s.Index()] = neck.Silent
		}
		if i > 0 && top(thin) > lowPlace || thin == v.Frets || (hand.Fingering{Frets: thin}).Sounding() != fewStrings {
			continue
		}
		if w, ok := f.measure(thin, Few); ok && f.chord.Classes().Minus(w.classes).Without(f.chord.Root.Class().Up(7)) == 0 {
			w.Thinned = true
			list = append(list, w)
		}
	}
	return list
}

// mostUsual is how many usual shapes of a chord are told apart.
const mostUsual = 4

// HardBarre tells whether a fingering is what students call a barre chord: one
// finger across four strings or more.
func HardBarre(g hand.Fingering) bool { return g.Build().BarreStrings >= 4 }

func (f *finder) inRegion(v *Voicing) bool {
	if f.cfg.High == 0 {
		return true
	}
	fretted := false
	for _, fret := range v.Frets {
		fretted = fretted || fret > 0
		switch {
		case fret < 0:
		case fret == 0:
			if f.cfg.Low > 0 && v.School != Drone {
				return false
			}
		case int(fret) < f.cfg.Low || int(fret) > f.cfg.High:
			return false
		}
	}
	return fretted || f.cfg.Low == 0
}

// fewStrings is how many strings few are at most.
const fewStrings = 4

// isFew tells whether a full voicing is one of few strings: three or four, the
// root lowest or an inversion of neighbouring strings, within the first nine
// frets.
func (f *finder) isFew(g hand.Fingering) bool {
	set, low := f.cfg.In.Classes(g.Frets)
	if g.Sounding() > fewStrings || g.Sounding() < min(3, len(f.chord.Tones)) || slices.Max(g.Frets[:]) > 9 {
		return false
	}
	if len(f.chord.Tones) == 3 && (g.Inside() > 0 || f.chord.Classes().Minus(set) != 0) {
		return false // a triad is whole, and its strings lie side by side
	}
	return low == f.chord.Lowest().Class() || g.Inside() == 0 && !f.chord.Bass.Valid()
}

// isOpen tells whether a full voicing is an open shape: on its bass, with an
// open string, no fret above the fourth, none silent between, and at least four
// strings (all that a power chord has).
func (f *finder) isOpen(g hand.Fingering) bool {
	_, low := f.cfg.In.Classes(g.Frets)
	return g.Frets.Open() != 0 && slices.Max(g.Frets[:]) <= 4 && g.Inside() == 0 && low == f.chord.Lowest().Class() &&
		g.Sounding() >= min(4, len(f.chord.Tones)+1)
}

// schoolOf is the school that a full voicing is shown under.
func (f *finder) schoolOf(g hand.Fingering) School {
	switch {
	case f.isOpen(g):
		return Open
	case f.isFew(g):
		return Few
	}
	return All
}

// voicing measures a shape.
func (f *finder) voicing(g hand.Fingering, s School, hold float64) Voicing {
	v := Voicing{Fingering: g, School: s, Hold: hold, Ease: ease(g, hold)}
	var low pitch.Class
	v.classes, low = f.cfg.In.Classes(g.Frets)
	v.low = 1 << 20
	for i, fret := range g.Frets {
		if fret >= 0 {
			p := f.cfg.In.Pitch(neck.StringAt(i), int(fret))
			v.low, v.high = min(v.low, p), max(v.high, p)
		}
	}
	v.Fidelity, v.onBass = f.fidelity(v.classes, low), low == f.chord.Lowest().Class()
	v.slash, v.inRegion = f.chord.Bass.Valid(), f.cfg.High > 0
	return v
}

// ease is 1 for an open string and falls with the demand of holding a shape,
// and a little with its place: high frets on thick strings are far to find.
func ease(g hand.Fingering, hold float64) float64 {
	return 1 / (1 + hold + grade.Place(g.Base()))
}

// measure is voicing for a shape whose fingers have not been found; ok is
// false where the player cannot hold it.
func (f *finder) measure(frets neck.Frets, s School) (v Voicing, ok bool) {
	g, hold, ok := grade.Taught(frets, f.cfg.at())
	if !ok || frets == neck.NoFrets {
		return Voicing{}, false
	}
	return f.voicing(g, s, hold), true
}

// What a lost tone takes from a chord, what another bass does, and what an
// added note does by how it clashes. Held by TestVoicingsAreHonest and
// TestDescribe.
const (
	losesThird    = 0.4
	losesSeventh  = 0.25
	losesAltered  = 0.3
	losesFifth    = 0.1
	losesRoot     = 0.35
	losesTension  = 0.12
	losesOneOfTwo = 0.03 // of two ways in which a degree is altered
	turnsBass     = 0.12
	turnsToFifth  = 0.06
	turnsPower    = 0.25
	losesBass     = 0.3 // that a slash names: it is the point of it
	clashes       = 0.3 // a half step from a tone of the chord
	rubs          = 0.12
	joins         = 0.07
	contradicts   = 0.6 // a third or a fifth that says another chord
)

// fidelity is how much of the harmony remains: 1 where everything does.
func (f *finder) fidelity(classes pitch.Set, bass pitch.Class) float64 {
	root := f.chord.Root.Class()
	if f.cfg.Sung.Valid() {
		classes = classes.With(f.cfg.Sung.Class())
	}
	left := 1.0
	tones := f.chord.Classes()
	for _, t := range f.chord.Tones {
		switch {
		case classes.Has(t.Class()):
		case t.Degree.Alter != 0 && otherWay(f.chord, t.Degree) && classes.Has(root.Up(chord.Degree{Number: t.Degree.Number, Alter: -t.Degree.Alter}.Semitones())):
			left -= losesOneOfTwo
		default:
			left -= lost(t.Degree)
		}
	}
	if named := f.chord.Bass; named.Valid() {
		tones = tones.With(named.Class())
		if bass != named.Class() {
			left -= losesBass
		}
	} else if bass != root && classes.Has(root) {
		switch {
		case len(f.chord.Tones) == 2:
			left -= turnsPower // a fourth is heard from its upper note
		case bass.Above(root) == 7:
			left -= turnsToFifth
		default:
			left -= turnsBass
		}
	}
	_, altered := f.chord.Fifth()
	for class := range classes.Minus(tones).All() {
		above := class.Above(root)
		switch {
		case (above == 3 || above == 4) && (tones.Has(root.Up(3)) || tones.Has(root.Up(4))), above == 7 && altered:
			left -= contradicts
		case tones.Has(class.Up(1)) || tones.Has(class.Up(-1)):
			left -= clashes
		case tones.Has(class.Up(2)) || tones.Has(class.Up(-2)):
			left -= rubs
		default:
			left -= joins
		}
	}
	return max(left, 0)
}

// lost is what a chord loses with a tone.
func lost(d chord.Degree) float64 {
	switch {
	case d.Number == 1:
		return losesRoot
	case d.IsThird():
		return losesThird
	case d.IsSeventh():
		return losesSeventh
	case d.Number == 5 && d.Alter == 0:
		return losesFifth
	case d.Number == 5:
		return losesAltered
	}
	return losesTension
}

// front marks what another voicing dominates: one that is at least as easy, as
// faithful and as full, and one of the three more.
func front(list []Voicing) {
	order := make([]int, len(list))
	full := make([]float64, len(list))
	for i := range list {
		order[i], full[i] = i, fullness[list[i].Sounding()]
	}
	slices.SortStableFunc(order, func(a, b int) int {
		x, y := &list[a], &list[b]
		return cmp.Or(cmp.Compare(y.Ease, x.Ease), cmp.Compare(y.Fidelity, x.Fidelity), cmp.Compare(full[b], full[a]))
	})
	// Going from the easiest on, only what came before can dominate; of that
	// the best fidelity for each fullness is enough.
	type best struct{ full, fidelity, ease float64 }
	var tops []best
	for _, i := range order {
		v := &list[i]
		for _, t := range tops {
			if t.full >= full[i] && t.fidelity >= v.Fidelity && (t.full > full[i] || t.fidelity > v.Fidelity || t.ease > v.Ease) {
				v.Dominated = true
				break
			}
		}
		if !v.Dominated {
			tops = append(tops, best{full[i], v.Fidelity, v.Ease})
		}
	}
}
