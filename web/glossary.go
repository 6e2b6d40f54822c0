package web

import "strings"

// A word that only this program uses explains itself where it stands.

type glossaryWord struct{ ID, Name, Meaning string }

var glossary = []glossaryWord{
	{"rung", "A rung", "one version of a part. The rungs of a part are a ladder from what can be played today, one finger on one string, up to the part as it is written. Rhythm, order and changes are the same on all of them, so that everybody can play together."},
	{"grade", "The grade", "how hard a version is at a tempo, from 1 to 10, measured from what it asks of the hands. The hardest places count most."},
	{"hillside", "The hillside", "how hard the music is from stroke to stroke: the higher, the harder. The grey ridge behind is the part as it is written, the green path in front the version that is shown. Point at a peak and it says why."},
	{"pin", "A pin", "something that you have decided: a shape, a string, a stretch of the neck, a finger. Whatever is worked out anew keeps to it, until you let it go."},
	{"school", "A school", "a way of making chords easier: the letter alone as a power chord, root and third, a drone of open strings, three or four strings, or the open shapes."},
	{"ease", "Ease", "how little a shape asks of the hand: all of the bar is no work at all."},
	{"harmony", "Harmony", "how much of the chord is left: all of the bar is every note of it, on its own bass."},
	{"travel", "Hand moves", "how far the hand goes along the neck in all, in millimetres."},
}

// wordNamed finds a word; nil where there is none.
func wordNamed(id string) *glossaryWord {
	for i := range glossary {
		if strings.EqualFold(glossary[i].ID, id) {
			return &glossary[i]
		}
	}
	return nil
}
