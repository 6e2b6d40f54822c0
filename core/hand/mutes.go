package hand

import "valleyside/core/neck"

// Stop is what keeps a string silent.
type Stop uint8

// The ways of keeping a string silent.
const (
	ByTip       Stop = iota // the tip of a finger on the next thinner string touches it
	ByLeaning               // a finger on the next thicker string leans on it
	ByUnderside             // a finger lies flat over it without pressing
	ByThumb                 // the thumb, over the top
	ByPalm                  // the edge of the picking hand's palm
	ByHand                  // the fretting hand lies lightly on it
	NotStruck               // the pick stays off it: no hand can reach it here
)

// Mute is a string that must not sound, and what stops it: for ByTip,
// ByLeaning and ByUnderside with which finger.
type Mute struct {
	String neck.String
	Stop   Stop
	Finger Finger
}

// Mutes lists what stops the strings that f leaves silent, thick strings first.
// Where several strings sound, all others have to be stopped; a single picked
// note needs that only of strings that ring on from before. Nothing is listed
// where no string sounds.
//
// A hand can do this: the tip of the finger on the thickest fretted string
// touches the next thicker one; a finger leans on the next thinner string; the
// finger that frets on the thinnest string, or the index, lies flat over the
// thinner ones as far as the next that sounds open; where nothing is fretted
// the hand lies on the thinner strings; the thumb reaches string 6, that of a
// player who uses it string 5; the palm's edge stops the thickest strings
// together, as long as none of them sounds.
func (f Fingering) Mutes(ringing neck.StringSet, thumb bool) []Mute {
	low, high := f.Lowest(), f.Highest()
	if low == 0 {
		return nil
	}
	single := low == high
	var mutes []Mute
	for i, fret := range f.Frets {
		s := neck.StringAt(i)
		if fret >= 0 || single && !ringing.Has(s) {
			continue
		}
		m := Mute{String: s}
		switch {
		case s > low:
			m.Stop, m.Finger = f.below(s, low, thumb)
		case s < high:
			m.Stop, m.Finger = f.above(s, high)
		default:
			m.Stop, m.Finger = f.inside(i)
		}
		mutes = append(mutes, m)
	}
	return mutes
}

// below is what stops a string thicker than all that sound.
func (f *Fingering) below(s, low neck.String, thumb bool) (Stop, Finger) {
	finger := f.Fingers[low.Index()]
	switch {
	case s == low+1 && finger != None && finger != Thumb:
		return ByTip, finger
	case s == neck.Strings && (low == s-1 || thumb && low == s-2 && !f.Uses(Thumb)):
		return ByThumb, None
	case thumb && s == neck.Strings-1 && low == s-1 && !f.Uses(Thumb):
		return ByThumb, None
	}
	return ByPalm, None
}

// above is what stops a string thinner than all that sound.
func (f *Fingering) above(s, high neck.String) (Stop, Finger) {
	if !f.Fretted() {
		return ByHand, None
	}
	finger := f.Fingers[high.Index()]
	if finger == None || finger == Thumb {
		return NotStruck, None
	}
	for i := high.Index(); i >= 0 && f.Frets[i] != 0; i-- { // not across an open string
		if f.Fingers[i] == Index {
			return ByUnderside, Index
		}
	}
	return ByUnderside, finger
}

// inside is what stops a string between two that sound.
func (f *Fingering) inside(i int) (Stop, Finger) {
	if by := f.Fingers[i-1]; f.Frets[i-1] > 0 && by != Thumb {
		return ByLeaning, by
	}
	if by := f.Fingers[i+1]; f.Frets[i+1] > 0 && by != Thumb {
		return ByTip, by
	}
	return NotStruck, None
}

// Silenceable tells whether a hand can keep every silent string between two
// sounding ones of a shape silent: a finger has to be next to it.
func Silenceable(frets neck.Frets) bool {
	sounding := false
	for i := range neck.Strings - 1 {
		sounding = sounding || frets[i] >= 0
		if !sounding || frets[i] >= 0 || frets[i-1] > 0 || frets[i+1] > 0 {
			continue
		}
		for _, later := range frets[i+1:] {
			if later >= 0 {
				return false
			}
		}
	}
	return true
}
