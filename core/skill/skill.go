// Package skill says what a song needs of a player and what somebody has, both as they are
// measured: shapes and the families they belong to, changes, scales with the place where they
// lie, rhythms, techniques, tunings, pace and reach. What is missing decides whether a song is
// ready now, after one thing, or later.
package skill

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/harmony"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// Kind is what a skill is about.
type Kind string

// The kinds, in the order in which they are listed.
const (
	Family    Kind = "family"    // shapes that go together, such as open chords
	Shape     Kind = "shape"     // one shape
	Change    Kind = "change"    // between two shapes, where it is hard
	Scale     Kind = "scale"     // with the frets between which it lies
	Rhythm    Kind = "rhythm"    // what is not plain about it
	Technique Kind = "technique" // of one hand or the other
	Tuning    Kind = "tuning"    // that is not the usual one, and a capo
	Pace      Kind = "pace"      // strokes a second
	Reach     Kind = "reach"     // of the fretting hand, mm
)

// kinds are all of them in their order.
var kinds = []Kind{Family, Shape, Change, Scale, Rhythm, Technique, Tuning, Pace, Reach}

// ID is what a skill is known by in every song.
type ID struct {
	Kind Kind   `json:"kind"`
	Key  string `json:"key"`
}

// Held is a shape as it is called.
type Held struct {
	Name  string     `json:"name"`
	Frets neck.Frets `json:"frets"`
}

// Need is a skill that a song asks for.
type Need struct {
	ID
	Name  string  `json:"name"`
	Parts []int   `json:"parts"`           // that ask for it, by their index
	Level float64 `json:"level,omitempty"` // of a pace the strokes a second, of a reach the mm; 0 else
	// Held are the shape, or the two of a change.
	Held []Held `json:"held,omitempty"`
	// Skill is the technique, where it is one that a teacher ticks.
	Skill hand.Skills `json:"skill,omitempty"`
}

// rhythms are what is not plain about a rhythm, by name.
var rhythms = map[lesson.ReasonKind]string{lesson.OffBeat: "off-beats", lesson.Galloping: "gallop", lesson.GallopingBack: "gallop the other way round",
	lesson.Swung: "swing", lesson.Tripping: "triplets", lesson.OddTime: "odd metre"}

// Of lists what some versions of the parts of a song ask of a player, in the order of the kinds
// and of the parts. Several versions of one part are taken together.
func Of(s *song.Song, versions []*arrange.Version, p hand.Player) []Need {
	c := collector{at: map[ID]int{}}
	for _, v := range versions {
		c.part = v.Part
		c.version(s, v, p)
	}
	slices.SortStableFunc(c.needs, func(a, b Need) int {
		return cmp.Compare(slices.Index(kinds, a.Kind), slices.Index(kinds, b.Kind))
	})
	c.tellApart()
	return c.needs
}

// collector puts needs together.
type collector struct {
	needs []Need
	at    map[ID]int
	part  int
}

// tellApart gives changes that are called alike the frets of their shapes.
func (c *collector) tellApart() {
	called := map[string]int{}
	for i := range c.needs {
		called[c.needs[i].Name]++
	}
	for i := range c.needs {
		if n := &c.needs[i]; n.Kind == Change && called[n.Name] > 1 {
			n.Name += fmt.Sprintf(" (%s to %s)", n.Held[0].Frets, n.Held[1].Frets)
		}
	}
}

// add takes in a need of the part; of a pace and a reach the most.
func (c *collector) add(n Need) {
	i, there := c.at[n.ID]
	if !there {
		i = len(c.needs)
		c.at[n.ID], c.needs = i, append(c.needs, n)
	}
	is := &c.needs[i]
	if n.Level > is.Level {
		is.Level, is.Name = n.Level, n.Name
	}
	if !slices.Contains(is.Parts, c.part) {
		is.Parts = append(is.Parts, c.part)
	}
}

func (c *collector) version(s *song.Song, v *arrange.Version, p hand.Player) {
	n := lesson.NeedsOf(s, v, p)
	for i := range n.Shapes {
		c.shape(&n.Shapes[i])
	}
	for i := range n.Changes {
		from, to := &n.Changes[i][0], &n.Changes[i][1]
		keys := []string{lesson.ShapeKey(from.Frets).String(), lesson.ShapeKey(to.Frets).String()}
		name := from.Name + " to " + to.Name
		if keys[0] > keys[1] {
			slices.Reverse(keys)
		}
		c.add(Need{ID: ID{Change, strings.Join(keys, " ")}, Name: name, Held: []Held{{from.Name, from.Frets}, {to.Name, to.Frets}}})
	}
	c.scale(s, v)
	for _, r := range n.Rhythm {
		if name, ok := rhythms[r]; ok {
			c.add(Need{ID: ID{Rhythm, name}, Name: name})
		}
	}
	part := &s.Parts[v.Part]
	if m := part.Meter; m.Unit != 4 || m.Count != 4 && m.Count != 2 {
		c.add(Need{ID: ID{Rhythm, m.String()}, Name: m.String() + " time"})
	}
	for i, name := range hand.SkillNames() {
		if one := hand.Skills(1 << i); n.Skills&one != 0 {
			c.add(Need{ID: ID{Technique, name}, Name: name, Skill: one})
		}
	}
	if t := s.Tuning.String(); t != neck.Standard.String() {
		c.add(Need{ID: ID{Tuning, t}, Name: t})
	}
	if s.Capo > 0 {
		c.add(Need{ID: ID{Tuning, "capo"}, Name: "a capo"})
	}
	if n.Pace > 0 {
		pace := math.Round(n.Pace*10) / 10
		c.add(Need{ID: ID{Pace, "pace"}, Name: fmt.Sprintf("%.1f strokes a second", pace), Level: pace})
	}
	if n.Reach > 0 {
		reach := math.Ceil(n.Reach)
		c.add(Need{ID: ID{Reach, "reach"}, Name: fmt.Sprintf("a reach of %.0f mm", reach), Level: reach})
	}
}

// shape takes in a shape, and the family that it belongs to.
func (c *collector) shape(h *lesson.Held) {
	if family := lesson.FamilyOf(h.Frets); family != "" {
		c.add(Need{ID: ID{Family, family}, Name: family})
	}
	name := h.Frets.String()
	if h.Name != "" {
		name = h.Name + " " + name
	}
	c.add(Need{ID: ID{Shape, lesson.ShapeKey(h.Frets).String()}, Name: name, Held: []Held{{h.Name, h.Frets}}})
}

// underHand is how many frets lie under the four fingers: a scale there is one place of it.
const underHand = 4

// scale takes in the scale of a part that is a line as it is written: one of chords has none to
// be learnt.
func (c *collector) scale(s *song.Song, v *arrange.Version) {
	if !v.Rung.Literal() {
		return
	}
	notes, strokes := 0, 0
	for i := range v.Bars {
		for j := range v.Bars[i].Events {
			if n := len(v.Bars[i].Events[j].Notes); n > 0 {
				strokes++
				if n == 1 {
					notes++
				}
			}
		}
	}
	if is, ok := harmony.ScaleOf(s, v.Part); ok && 2*notes > strokes {
		where := "open strings"
		if is.Top > 0 {
			where = fmt.Sprintf("frets %d to %d", is.Low, is.Top)
		}
		c.add(Need{ID: ID{Scale, fmt.Sprintf("%s %d", is.Name, is.Low/underHand)}, Name: is.Name + ", " + where})
	}
}

// Has is what somebody has: what their teacher says of them, and what they have shown.
type Has struct {
	lesson.Student
	Learnt map[ID]bool
	// Pace and Reach are those that they have shown.
	Pace, Reach float64
	known       map[string]bool // of shapes, by what they are called and how they are held
}

// With takes in the needs of something that is learnt.
func (h *Has) With(needs []Need) {
	if h.Learnt == nil {
		h.Learnt = map[ID]bool{}
	}
	for i := range needs {
		n := &needs[i]
		h.Learnt[n.ID] = true
		switch n.Kind {
		case Pace:
			h.Pace = max(h.Pace, n.Level)
		case Reach:
			h.Reach = max(h.Reach, n.Level)
		}
	}
}

// paceLeeway is by how much a pace may be above the comfortable one.
const paceLeeway = 1.1

// Of tells whether somebody has a skill. Scales and rhythms are there once they were played; where
// nothing was, only what a teacher ticks is known.
func (h *Has) Of(n *Need) bool {
	if h.Learnt[n.ID] && n.Level == 0 {
		return true
	}
	switch n.Kind {
	case Family:
		return true // its shapes say so, one by one
	case Shape:
		return h.shape(n)
	case Technique:
		return h.Player.New&n.Skill == 0 || h.Known.Skills&n.Skill != 0
	case Tuning:
		return true // a matter of gear
	case Pace:
		return n.Level <= max(h.Player.Pace()*paceLeeway, h.Pace)
	case Reach:
		return n.Level <= max(h.Player.Usual().Reach, h.Reach)
	}
	return false
}

// Chords tells whether somebody plays full chords: they have an open or a barre chord.
func (h *Has) Chords() bool {
	if h.Known.AnyOf("open chords") || h.Known.AnyOf("barre chords") {
		return true
	}
	for id := range h.Learnt {
		if id.Kind == Family && OfChords(id.Key) {
			return true
		}
	}
	return false
}

// OfChords tells whether a family of shapes is one of full chords.
func OfChords(family string) bool {
	return family == "open chords" || family == "barre chords" || family == "seventh chords"
}

// shape tells whether a shape is known; what was found is kept for the next time.
func (h *Has) shape(n *Need) bool {
	known, ok := h.known[n.Name]
	if !ok {
		if known = h.Known.Holds(n.Held[0].Name, n.Held[0].Frets); h.known == nil {
			h.known = map[string]bool{}
		}
		h.known[n.Name] = known
	}
	return known
}

// Ready is how far away a song is.
type Ready string

// How far.
const (
	Now   Ready = "ready now"
	First Ready = "one thing to learn first"
	Later Ready = "later"
)

// Compare tells how far away a song is for somebody, and what is missing, the one thing to learn
// first at the beginning.
func (h *Has) Compare(needs []Need) (ready Ready, missing []Need) {
	things, missing := h.Things(needs)
	switch things {
	case 0:
		return Now, missing
	case 1:
		return First, missing
	}
	return Later, missing
}

// TooMany is how many things are missing where something is that comes with no practice of the
// song alone: a pace far above what somebody has, or a reach.
const TooMany = 100

// Things counts what a song asks for that somebody lacks, as a teacher counts new things, and
// lists it, what is learnt first at the beginning. Two shapes and their change are one thing; a
// scale and a rhythm are learnt with the song, unless both are new.
func (h *Has) Things(needs []Need) (things int, missing []Need) {
	for i := range needs {
		if !h.Of(&needs[i]) {
			missing = append(missing, needs[i])
		}
	}
	var shapes, changes, techniques, rhythms, scales int
	for i := range missing {
		switch n := &missing[i]; n.Kind {
		case Shape:
			shapes++
		case Change:
			changes++
		case Technique:
			techniques++
		case Rhythm:
			rhythms++
		case Scale:
			scales++
		case Pace:
			things++
			if n.Level > 1.5*max(h.Player.Pace(), h.Pace) {
				things += TooMany
			}
		case Reach:
			things += TooMany
		}
	}
	if techniques > 0 {
		things += techniqueThings(missing, shapes > 0)
	}
	if shapes+changes > 0 {
		things += shapeThings(missing, shapes)
	}
	things += rhythms/2 + scales/2
	if scales > 0 && rhythms > 0 {
		things++
	}
	slices.SortStableFunc(missing, func(a, b Need) int {
		return cmp.Compare(slices.Index(firsts, a.Kind), slices.Index(firsts, b.Kind))
	})
	return things, missing
}

// firsts is in which order what is missing is learnt.
var firsts = []Kind{Technique, Family, Shape, Change, Pace, Rhythm, Scale, Tuning, Reach}

// techniqueThings counts techniques; those of shapes come with the shapes, where there are new ones.
func techniqueThings(missing []Need, shapes bool) (things int) {
	for _, n := range missing {
		if n.Kind == Technique && (!shapes || n.Skill&(hand.TwoFingers|hand.ThreeFingers|hand.OctaveShapes|hand.Barres) == 0) {
			things++
		}
	}
	return things
}

// shapeThings counts new shapes and changes as a teacher does: two shapes and their change are
// one thing; of changes between shapes that are known, which come by playing, four are.
func shapeThings(missing []Need, shapes int) int {
	fresh := func(key string) bool {
		return slices.ContainsFunc(missing, func(n Need) bool { return n.Kind == Shape && n.Key == key })
	}
	alone := 0
	for _, c := range missing {
		if c.Kind != Change {
			continue
		}
		a, b, _ := strings.Cut(c.Key, " ")
		if !fresh(a) && !fresh(b) {
			alone++
		}
	}
	return (shapes+1)/2 + alone/4
}
