package hand

import "valleyside/core/neck"

// Mute is a string that must not sound, and what stops it.
type Mute struct {
	String neck.String `json:"string"`
	By     string      `json:"by"`
}

// Mutes lists what stops each string that f leaves silent, thick strings
// first. Nothing is listed where no string sounds.
func (f Fingering) Mutes() []Mute {
	low, high := f.Lowest(), f.Highest()
	if low == 0 {
		return nil
	}
	mutes := make([]Mute, 0, neck.Strings)
	for i, fret := range f.Frets {
		if fret >= 0 {
			continue
		}
		s := neck.StringAt(i)
		m := Mute{String: s}
		switch {
		case s < low && s > high:
			m.By = "index leaning on it"
			if by := f.below(i); by > Index && by <= Little {
				m.By = by.Name() + " leaning on it"
			} else if by == None || by == Thumb {
				m.By = "the fretting finger next to it"
			}
		case s == low+1 && f.Frets.On(low) > 0:
			m.By = "tip of the " + f.Fingers[low.Index()].Name()
		case s > low && f.Frets.On(low) == 0:
			m.By = "thumb over the top"
		case s > low:
			m.By = "palm"
		case f.Fretted():
			m.By = "underside of the index"
		default:
			m.By = "fretting hand lying flat"
		}
		mutes = append(mutes, m)
	}
	return mutes
}

// below is the finger on the nearest thicker string that sounds.
func (f Fingering) below(index int) Finger {
	for i := index - 1; i >= 0; i-- {
		if f.Frets[i] >= 0 {
			return f.Fingers[i]
		}
	}
	return None
}
