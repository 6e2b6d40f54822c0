// Package words says facts aloud: it makes the typed reasons of the other
// packages into the sentences of a teacher, for one speaker, who has names of
// their own for the strings and a way of counting. Nothing else in the core
// writes sentences about music; nothing here works anything out.
package words

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Speaker is who speaks. The zero Speaker says E A D G B e and counts by beats.
type Speaker struct {
	Strings  [neck.Strings]string // low to high; empty means the usual name
	Counting song.Counting
}

// String is what the speaker calls a string.
func (sp Speaker) String(s neck.String) string {
	if name := sp.Strings[s.Index()]; name != "" {
		return name
	}
	return s.String()
}

// strings names several strings, with spaces between.
func (sp Speaker) strings(list []neck.String) string {
	names := make([]string, len(list))
	for i, s := range list {
		names[i] = sp.String(s)
	}
	return strings.Join(names, " ")
}

// Place is where something stands in a bar: "1", or "the & of 2".
func (sp Speaker) Place(at pitch.Frac, m song.Meter) string {
	before, beat, _ := sp.counted(at, m)
	return before + beat
}

// counted is how a moment is counted: what stands before its beat, its beat, and how many
// beats there are.
func (sp Speaker) counted(at pitch.Frac, m song.Meter) (before, beat string, beats int) {
	if m == (song.Meter{}) {
		m = song.FourFour
	}
	each := m.Beat()
	if sp.Counting == song.ByEighth && m.Compound() {
		each = pitch.F(1, 8)
	}
	beat, beats = fmt.Sprint(at.Div(each).Floor()+1), int(m.Bar().Div(each).Floor())
	switch syllable := m.Syllable(at, sp.Counting); {
	case syllable[0] >= '0' && syllable[0] <= '9':
		return "", syllable, beats
	case syllable == "·":
		return "just after ", beat, beats
	default:
		return "the " + syllable + " of ", beat, beats
	}
}

// Places are several places in a bar as a pattern, each as it would follow "on": "2 and 4",
// "every &", "the a of 1 and 3".
func (sp Speaker) Places(starts []pitch.Frac, m song.Meter) string {
	var order []string
	of := map[string][]string{}
	all := 0
	for _, at := range starts {
		before, beat, beats := sp.counted(at, m)
		if of[before] == nil {
			order = append(order, before)
		}
		of[before], all = append(of[before], beat), beats
	}
	slices.SortStableFunc(order, func(a, b string) int { return cmp.Compare(len(a), len(b)) })
	var patterns []string
	for _, before := range order {
		syllable, whole := strings.CutPrefix(strings.TrimSuffix(before, " of "), "the ")
		switch beats := of[before]; {
		case whole && len(beats) == all && all > 1:
			patterns = append(patterns, "every "+syllable)
		case before == "" && len(beats) == all && all > 1:
			patterns = append(patterns, "every beat")
		default:
			patterns = append(patterns, before+list(beats))
		}
	}
	return strings.Join(patterns, ", and on ")
}

// sentence begins with a capital letter. Names of strings, notes and chords are
// left as they are.
func sentence(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	if first, _, _ := strings.Cut(s, " "); len(first) == 1 && first != "a" {
		return s
	}
	return string(unicode.ToUpper(r)) + s[n:]
}

var numbers = [...]string{"no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"}

// number writes a small number as a word.
func number(n int) string {
	if n >= 0 && n < len(numbers) {
		return numbers[n]
	}
	return fmt.Sprint(n)
}

// ordinal writes which one: "fifth".
func ordinal(n int) string {
	if n < len(ordinals) {
		return ordinals[n]
	}
	return fmt.Sprintf("%dth", n)
}

var ordinals = [...]string{"no", "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth", "eleventh", "twelfth"}

// count writes how many of something there are: "one string", "two strings".
func count(n int, what string) string {
	if n == 1 {
		return "one " + what
	}
	return number(n) + " " + what + "s"
}

// duration says a short time as one says it.
func duration(seconds float64) string {
	for _, d := range []struct {
		seconds float64
		words   string
	}{{0.1, "a tenth of a second"}, {0.14, "a seventh of a second"}, {0.2, "a fifth of a second"}, {0.25, "a quarter of a second"}, {1.0 / 3, "a third of a second"},
		{0.5, "half a second"}, {2.0 / 3, "two thirds of a second"}, {0.75, "three quarters of a second"}, {1, "a second"}, {1.5, "a second and a half"}, {2, "two seconds"}} {
		if seconds <= d.seconds*1.13 {
			return d.words
		}
	}
	return fmt.Sprintf("%.0f seconds", seconds)
}

// list joins things as one says them: "C, G and D".
func list(items []string) string {
	if len(items) < 2 {
		return strings.Join(items, "")
	}
	return strings.Join(items[:len(items)-1], ", ") + " and " + items[len(items)-1]
}

// octaves counts octaves with their direction.
func octaves(n int) string {
	direction := "up"
	if n < 0 {
		direction, n = "down", -n
	}
	if n == 1 {
		return "an octave " + direction
	}
	return number(n) + " octaves " + direction
}

// interval names a distance in semitones.
func interval(semitones int) string {
	direction := "higher"
	if semitones < 0 {
		direction, semitones = "lower", -semitones
	}
	names := [...]string{"", "a half step", "a whole step", "a minor third", "a major third", "a fourth", "a tritone", "a fifth",
		"a minor sixth", "a major sixth", "a minor seventh", "a major seventh", "an octave"}
	if semitones < len(names) {
		return names[semitones] + " " + direction
	}
	return fmt.Sprintf("%d half steps %s", semitones, direction)
}

// fifth says an altered fifth.
func fifth(d chord.Degree) string {
	if d.Alter > 0 {
		return "sharp fifth"
	}
	return "flat fifth"
}

// Mute says what stops a string.
func (sp Speaker) Mute(m hand.Mute) string {
	switch m.Stop {
	case hand.ByTip:
		return "the tip of the " + m.Finger.Name()
	case hand.ByLeaning:
		return "the " + m.Finger.Name() + " leaning on it"
	case hand.ByUnderside:
		return "the underside of the " + m.Finger.Name()
	case hand.ByThumb:
		return "the thumb over the top"
	case hand.ByPalm:
		return "the edge of the palm"
	case hand.ByHand:
		return "the fretting hand lying lightly on it"
	}
	return "not struck"
}

// Mutes says what stops the strings of a shape; those that the same thing stops
// stand together.
func (sp Speaker) Mutes(mutes []hand.Mute) string {
	var parts []string
	for i := 0; i < len(mutes); {
		by := sp.Mute(mutes[i])
		var strs []neck.String
		for ; i < len(mutes) && sp.Mute(mutes[i]) == by; i++ {
			strs = append(strs, mutes[i].String)
		}
		if mutes[i-1].Stop == hand.NotStruck {
			parts = append(parts, sp.strings(strs)+" "+by)
			continue
		}
		parts = append(parts, sp.strings(strs)+" by "+by)
	}
	return strings.Join(parts, "; ")
}

// trimming names what is played on a note.
func trimming(t grade.Trimming) string {
	switch {
	case t.Bend != 0:
		return "bend of " + bend(t.Bend)
	case t.Harmonic:
		return "harmonic"
	case t.Vibrato:
		return "vibrato"
	case t.In != song.NoGlide:
		return "slide into it"
	case t.Off != song.NoGlide:
		return "slide off it"
	}
	return [...]string{song.Picked: "", song.Hammered: "hammer-on", song.PulledOff: "pull-off", song.Slid: "slide", song.Tapped: "tap", song.Released: "release of the bend"}[t.By]
}

// bend names the size of a bend in cents.
func bend(cents int) string {
	switch cents {
	case 50:
		return "a quarter tone"
	case 100:
		return "a half step"
	case 200:
		return "a whole step"
	}
	return fmt.Sprintf("%g half steps", float64(cents)/100)
}

func mm(v float64) string { return fmt.Sprintf("%.0f mm", math.Round(v)) }
