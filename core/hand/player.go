package hand

import (
	"fmt"
	"strings"

	"valleyside/core/neck"
)

// Player is a student's hand and instrument, as far as a version is made for
// them. Zero fields mean the usual: a grown hand on a usual electric guitar,
// alternate picking, nothing left to learn. It is comparable.
type Player struct {
	Reach          float64 // widest distance between two fretted notes, mm
	Scale          float64 // scale length, mm
	NotesPerSecond float64 // comfortable picking speed
	LeftHanded     bool
	Acoustic       bool // stiffer strings: barres and bends ask for more
	NoBarre        bool // no finger across several strings
	NoLittle       bool // the little finger stays out of it
	Thumb          bool // the thumb may stop the thickest string over the top
	Picking        Picking
	New            Skills // what has not been learnt yet
}

// What a player has where nothing else is said.
const (
	UsualReach          = 120.0
	UsualNotesPerSecond = 6.0
)

// Usual fills the zero fields of p.
func (p Player) Usual() Player {
	if p.Reach <= 0 {
		p.Reach = UsualReach
	}
	if p.Scale <= 0 {
		p.Scale = neck.UsualScale
	}
	if p.NotesPerSecond <= 0 {
		p.NotesPerSecond = UsualNotesPerSecond
	}
	if p.Picking == "" {
		p.Picking = Alternate
	}
	return p
}

// On is the player's instrument in a tuning and with a capo.
func (p Player) On(t neck.Tuning, capo int) neck.Instrument {
	return neck.Instrument{Tuning: t, Neck: neck.Neck{Scale: p.Usual().Scale, Capo: capo}}
}

// At is a player at a neck: what shapes are measured for.
type At struct {
	Player
	Neck neck.Neck
}

// At is p at the neck of an instrument, with what is not said as usual.
func (p Player) At(n neck.Neck) At {
	p = p.Usual()
	if n.Scale == 0 {
		n.Scale = p.Scale
	}
	return At{p, n}
}

// Picking is a way of using the pick.
type Picking string

// The ways of picking. The zero Picking is Alternate.
const (
	Alternate Picking = "alternate" // down on the beat, up between
	AllDown   Picking = "all-down"  // every stroke down, but for the last of a gallop
	Economy   Picking = "economy"   // each stroke goes towards the next string
)

// Pickings lists the ways of picking.
var Pickings = []Picking{Alternate, AllDown, Economy}

// ParsePicking reads the name of a way of picking; nothing is Alternate.
func ParsePicking(s string) (Picking, error) {
	if s == "" {
		return Alternate, nil
	}
	for _, way := range Pickings {
		if string(way) == s {
			return way, nil
		}
	}
	return "", fmt.Errorf("%q is not a way of picking; use alternate, all-down or economy", s)
}

// allDownShare is the share of their strokes that players reach who play down
// strokes only: each has its way back.
const allDownShare = 0.75

// Pace is how many strokes a second are comfortable in the player's way of
// picking.
func (p Player) Pace() float64 {
	p = p.Usual()
	if p.Picking == AllDown {
		return p.NotesPerSecond * allDownShare
	}
	return p.NotesPerSecond
}

// Skills is a set of things that a player has to learn once.
type Skills uint16

// The skills.
const (
	TwoFingers Skills = 1 << iota // power chords and other shapes of two fingers
	ThreeFingers
	OctaveShapes
	Barres
	PalmMuting
	HammerOns
	PullOffs
	Slides
	Bends
	Vibrato
	Harmonics
	Tapping
)

// AllSkills is the set of all of them.
const AllSkills = Tapping<<1 - 1

var skillNames = []string{"two fingers", "three fingers", "octaves", "barres", "palm muting", "hammer-ons", "pull-offs",
	"slides", "bends", "vibrato", "harmonics", "tapping"}

// SkillNames lists the names of all skills, in the order in which they are
// usually learnt.
func SkillNames() []string { return append([]string(nil), skillNames...) }

// Names lists the skills of the set.
func (s Skills) Names() []string {
	var names []string
	for i, name := range skillNames {
		if s&(1<<i) != 0 {
			names = append(names, name)
		}
	}
	return names
}

// String writes the names with commas.
func (s Skills) String() string { return strings.Join(s.Names(), ", ") }

// ParseSkills reads names with commas between them.
func ParseSkills(text string) (Skills, error) {
	var set Skills
	for _, name := range strings.Split(text, ",") {
		name = strings.TrimSpace(name)
		if name == "" {
			continue
		}
		found := false
		for i, known := range skillNames {
			if known == name {
				set, found = set|1<<i, true
			}
		}
		if !found {
			return 0, fmt.Errorf("%q is not a skill; use some of: %s", name, strings.Join(skillNames, ", "))
		}
	}
	return set, nil
}
