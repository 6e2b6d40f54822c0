package sheet

import (
	"fmt"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/song"
)

// fingerSigns are the fingers of the fretting hand as they are typed, in the order of
// song.Finger.
const fingerSigns = "1234T"

// cutFingers reads a colon and the fingers of a note behind it: one of the fretting
// hand, one of the picking hand, or both, as in :3, :p, :3p.
func cutFingers(s string, n *song.Note) (rest string, err *slotError) {
	rest = s[1:]
	if rest != "" {
		if f := strings.IndexByte(fingerSigns, rest[0]); f >= 0 {
			if n.Dead || n.Fret == 0 {
				return s, &slotError{0, "an open string has no finger", "remove " + s[:2] + " or give the note a fret"}
			}
			n.Finger, rest = song.Finger(f+1), rest[1:]
		}
	}
	if rest != "" {
		if f := strings.IndexByte(song.Plucks, rest[0]); f >= 0 {
			n.Pluck, rest = song.Pluck(f+1), rest[1:]
		}
	}
	if len(rest) == len(s)-1 {
		return s, &slotError{0, fmt.Sprintf("%q is no finger", s), "write :1 to :4 or :T for the fretting hand, :p :i :m :a for the picking hand, or both, like 3A:2p"}
	}
	return rest, nil
}

// parseFingers reads the fingers of a voicing, a sign for each string.
func parseFingers(text string, e *song.Event) *slotError {
	if len(text) != neck.Strings {
		return &slotError{0, fmt.Sprintf("%q is not a finger for each string", text), "write six signs low to high, like C=x32010:x32x1x"}
	}
	for i := range neck.Strings {
		f := strings.IndexByte(fingerSigns, text[i])
		switch {
		case f < 0 && !strings.ContainsRune("x0", rune(text[i])):
			return &slotError{i, fmt.Sprintf("%q is no finger", text[i:i+1]), "fingers are 1 to 4 and T for the thumb, x where there is none"}
		case f >= 0 && e.Frets[i] <= 0:
			return &slotError{i, fmt.Sprintf("the %s string is not fretted", neck.StringAt(i)), "write x for it"}
		case f < 0 && e.Frets[i] > 0:
			return &slotError{i, fmt.Sprintf("the %s string has no finger", neck.StringAt(i)), "give it one, or leave the fingers out"}
		case f >= 0:
			e.Fingers[i] = song.Finger(f + 1)
		}
	}
	return nil
}

// formatFingers writes the fingers of a note behind it.
func formatFingers(b *strings.Builder, n song.Note) {
	if n.Finger == 0 && n.Pluck == song.NoPluck {
		return
	}
	b.WriteByte(':')
	if n.Finger > 0 {
		b.WriteByte(fingerSigns[n.Finger-1])
	}
	b.WriteString(n.Pluck.String())
}

// formatVoicing writes a voicing behind the name of its chord.
func formatVoicing(b *strings.Builder, e *song.Event) {
	b.WriteString("=" + e.Frets.String())
	if e.Fingers == [neck.Strings]song.Finger{} {
		return
	}
	b.WriteByte(':')
	for _, f := range e.Fingers {
		sign := byte('x')
		if f > 0 {
			sign = fingerSigns[f-1]
		}
		b.WriteByte(sign)
	}
}
