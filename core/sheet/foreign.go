package sheet

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"valleyside/core/song"
)

// longestName is how many characters a part's name has at most.
const longestName = 60

// Typable tells whether the rhythm of a bar can be typed: whether its events lie in slots
// and brackets within the limits of a sheet.
func Typable(m song.Measure, events []song.Event) bool {
	_, ok := divide(m, events)
	return ok
}

// count counts slots as the limit does: those inside brackets, but not the brackets.
func count(slots []Slot) (n int) {
	for i := range slots {
		if slots[i].Kind == Bracket {
			n += count(slots[i].Group)
		} else {
			n++
		}
	}
	return n
}

// NameOfPart makes a name that a part can have of a text from elsewhere; it is empty
// where nothing is left of it.
func NameOfPart(s string) string {
	s = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || strings.ContainsRune(",|:#", r) {
			return ' '
		}
		return r
	}, strings.ToValidUTF8(s, ""))
	s = strings.Join(strings.Fields(s), " ")
	for {
		rest, times := cutTimes(s)
		if times == 0 {
			break
		}
		s = rest
	}
	for utf8.RuneCountInString(s) > longestName-6 { // room for a number behind it
		_, size := utf8.DecodeLastRuneInString(s)
		s = strings.TrimSpace(s[:len(s)-size])
	}
	if _, times := cutTimes(s + " 2"); times != 0 || isSetting(strings.ToLower(s)) { // with a number behind it
		s += " part"
	}
	return s
}

// PlayerName makes a name that another player can have of a text from elsewhere.
func PlayerName(s string) string {
	s = strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || strings.ContainsRune(" -_'.", r) {
			return r
		}
		return ' '
	}, strings.ToValidUTF8(s, ""))
	s = strings.Join(strings.Fields(s), " ")
	for len(s) > 30 {
		_, size := utf8.DecodeLastRuneInString(s)
		s = strings.TrimSpace(s[:len(s)-size])
	}
	if !validPlayer(s) || isWords(s) {
		s = "player " + s
	}
	if s = strings.TrimSpace(s); !validPlayer(s) {
		return "player"
	}
	return s
}
