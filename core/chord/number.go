package chord

import (
	"strings"

	"valleyside/core/pitch"
)

// Numbers go in as well as out: a degree with a quality is a chord in a key, in digits
// (6m, b7, 2m7, 5(7), 1/3) or in Roman numerals (vi, bVII, ii7, V7/vi).

// Romans are the degrees in Roman numerals, longer ones before those that they begin with.
var Romans = []struct {
	Text   string
	Degree int
}{{"VII", 7}, {"III", 3}, {"VI", 6}, {"IV", 4}, {"II", 2}, {"V", 5}, {"I", 1}}

// IsNumber tells whether a word reads like the number of a chord.
func IsNumber(word string) bool {
	rest := strings.TrimLeft(word, "b#♭♯")
	if rest == "" {
		return false
	}
	if rest[0] >= '1' && rest[0] <= '7' {
		return true
	}
	_, _, _, ok := cutRoman(rest)
	return ok
}

// cutRoman takes a Roman degree from the start of a word; minor tells that it is written
// small.
func cutRoman(word string) (degree int, minor bool, rest string, ok bool) {
	for _, r := range Romans {
		for _, text := range []string{r.Text, strings.ToLower(r.Text)} {
			if strings.HasPrefix(word, text) {
				return r.Degree, text != r.Text, word[len(text):], true
			}
		}
	}
	return 0, false, word, false
}

// longestNumber is how long a number may be, in bytes.
const longestNumber = 40

// CutNumber takes the number of a chord from the start of a word that may go on with
// signs: of small Roman numerals the v is theirs. rest is the word where it begins with
// none.
func CutNumber(word, signs string) (number, rest string) {
	at := len(word) - len(strings.TrimLeft(word, "b#♭♯"))
	if at < len(word) && word[at] >= '1' && word[at] <= '7' {
		at++
	} else if _, _, after, ok := cutRoman(word[at:]); ok {
		at = len(word) - len(after)
	} else {
		return "", word
	}
	end := at + len(strings.TrimRight(word[at:], signs))
	return word[:end], word[end:]
}

// ParseNumber reads the number of a chord in a key. Digits of a minor key count from its
// relative major or its tonic, as is asked for; Roman numerals count from the tonic, and
// in a minor key are the steps of its own scale.
func ParseNumber(word string, key pitch.Key, relative bool) (Chord, error) {
	bad := func(mend string) (Chord, error) {
		return Chord{}, pitch.Malformedf(mend, "%q is not the number of a chord", word)
	}
	const like = "write a degree and a quality, like 6m, b7, 2m7, 5(7) or vi, bVII, ii7"
	if !key.Valid() {
		return bad("say which key it is in")
	}
	if !IsNumber(word) || len(word) > longestNumber {
		return bad(like)
	}
	head, over, slash := strings.Cut(word, "/")
	if slash && over == "9" { // 6/9
		head, slash = word, false
	}
	if slash && !isDigit(over) { // the chord of another degree's key
		to, err := ParseNumber(over, key, relative)
		if err != nil {
			return bad(like)
		}
		mode := pitch.Major
		if to.Has(3) && !to.Has(4) {
			mode = pitch.Minor
		}
		return ParseNumber(head, pitch.Key{Tonic: to.Root, Mode: mode}, false)
	}
	root, minor, quality, ok := cutStep(head, key, relative)
	if !ok {
		return bad(like)
	}
	quality = strings.NewReplacer("(", "", ")", "", "°", "dim", "ø7", "m7b5", "ø", "m7b5").Replace(quality)
	switch {
	case minor && strings.HasPrefix(quality, "o"):
		quality = "dim" + quality[1:]
	case minor && !strings.HasPrefix(quality, "m") && !strings.HasPrefix(quality, "dim"):
		quality = "m" + quality
	case minor && strings.HasPrefix(quality, "maj"):
		quality = "m" + quality
	}
	symbol := root.String() + quality
	if slash {
		bass, _, rest, ok := cutStep(over, key, relative)
		if !ok || rest != "" {
			return bad("write the degree of the bass after the slash, like 1/3")
		}
		symbol += "/" + bass.String()
	}
	c, err := Parse(symbol)
	if err != nil {
		return bad(like)
	}
	return c, nil
}

// isDigit tells whether a word is a degree in digits.
func isDigit(word string) bool {
	rest := strings.TrimLeft(word, "b#♭♯")
	return len(rest) == 1 && rest[0] >= '1' && rest[0] <= '7'
}

// cutStep takes a degree from the start of a word and gives the note that it is in a
// key.
func cutStep(word string, key pitch.Key, relative bool) (root pitch.Note, minor bool, rest string, ok bool) {
	alter := 0
	rest = word
	for {
		if after, flat := cutAny(rest, "b", "♭"); flat {
			alter, rest = alter-1, after
		} else if after, sharp := cutAny(rest, "#", "♯"); sharp {
			alter, rest = alter+1, after
		} else {
			break
		}
	}
	if rest == "" || alter < -1 || alter > 1 {
		return root, false, word, false
	}
	major := pitch.Key{Tonic: key.Tonic, Mode: pitch.Major}
	if rest[0] >= '1' && rest[0] <= '7' {
		if relative && key.Mode == pitch.Minor {
			major = key.Relative()
		}
		degree := int(rest[0] - '0')
		return Degree{Number: int8(degree), Alter: int8(alter)}.Above(major.Tonic), false, rest[1:], true
	}
	degree, minor, after, ok := cutRoman(rest)
	if !ok {
		return root, false, word, false
	}
	if alter == 0 && key.Mode == pitch.Minor {
		return key.Scale()[degree-1], minor, after, true
	}
	return Degree{Number: int8(degree), Alter: int8(alter)}.Above(major.Tonic), minor, after, true
}

func cutAny(s string, prefixes ...string) (string, bool) {
	for _, p := range prefixes {
		if after, ok := strings.CutPrefix(s, p); ok {
			return after, true
		}
	}
	return s, false
}
