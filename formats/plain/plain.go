// Package plain reads what stands around the music in plain text, as people share it: a
// title, settings such as "Capo: 2", and the names of parts.
package plain

import (
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/formats/take"
)

// Around is what has been read around the music so far.
type Around struct {
	Score    *take.Score
	Problems *take.Problems
	Tuning   neck.Tuning
	Tuned    bool // a line says how
	Capo     int
	// What holds for the music that comes next.
	Key     pitch.Key
	Meter   song.Meter
	Tempo   float64 // of the meter's beat; 0 where none is given
	Feel    song.Feel
	Section string     // the part that it belongs to; empty before the first
	Times   int        // how often that part is played; 0 where nothing says
	Pickup  pitch.Frac // beats of the first bar of the part; 0 is a whole bar
	song.Advice
	Began bool // music of the part has been read
	Begun int  // how many parts have been named
}

// New begins to read a text.
func New(problems *take.Problems) *Around {
	return &Around{Score: &take.Score{Settings: map[string]string{}}, Problems: problems, Tuning: neck.Standard, Meter: song.FourFour}
}

var (
	settingPattern = regexp.MustCompile(`(?i)^(title|song|artist|by|key|time|tempo|bpm|feel|tuning|capo|chords|order|pickup|note|cue|sound|pluck)\s*[:=]\s*(.+?)$`)
	capoPattern    = regexp.MustCompile(`(?i)^capo\s*:?\s*(?:on|at)?\s*(?:the\s*)?(\d{1,2})(?:st|nd|rd|th)?(?:\s*fret)?$`)
	sectionPattern = regexp.MustCompile(`^\[([^\]|]{1,60})\]\s*(?:[(]?[x×]\s*(\d{1,2})[)]?)?$`)
	headingPattern = regexp.MustCompile(`(?i)^[(]?(` + beside + `*` + named + `(?:[\s-]+(?:` + numbered + `|` + also + `|` + named + `))*)[)]?\s*:?\s*` + times + `$`)
	labelPattern   = regexp.MustCompile(`(?i)^[(]?(` + beside + `*` + named + `\b[\w .'#-]{0,30}?)[)]?\s*:\s*` + times + `$`)
	numberPattern  = regexp.MustCompile(`\d+(?:\.\d+)?`)
)

// What the names of parts are made of. Other words behind them are a heading's where a colon or
// brackets say so: "Close your eyes" is sung.
const (
	named    = `(?:intro|verse|pre-?chorus|chorus|bridge|solo|outro|riff|break|interlude|ending|coda|refrain|part|section|hook|fill|main|opening|close)`
	numbered = `(?:\d{1,2}|[a-h]|i{1,3}|iv|v|one|two|three|four|five|six)`
	also     = `(?:again|repeat|repeated|fade|tag|only|quiet|loud|softly|instrumental|guitar|lead|acoustic|electric|theme|pattern)`
	beside   = `(?:(?:1st|2nd|3rd|\dth|first|second|third|fourth|last|final|double|half|guitar|lead|acoustic|bass|main|opening|closing|instrumental)\s+)`
	times    = `(?:[(]?[x×]\s*(\d{1,2})[)]?)?`
)

// heading is the name of a part that a line is and how often it is played; ok is false where it is
// none.
func heading(line string) (name, times string, ok bool) {
	m := headingPattern.FindStringSubmatch(line)
	if m == nil {
		m = labelPattern.FindStringSubmatch(line)
	}
	if m == nil {
		return "", "", false
	}
	return m[1], m[2], true
}

// IsHeading tells whether a line names a part.
func IsHeading(line string) bool {
	line = strings.TrimSpace(line)
	_, _, ok := heading(line)
	return ok || sectionPattern.MatchString(line)
}

// IsSetting tells whether a line is a setting by its name, not in words of its own.
func IsSetting(line string) bool {
	line = strings.TrimSpace(line)
	return settingPattern.MatchString(line) || capoPattern.MatchString(line)
}

// Line reads a line that is a setting or names a part; ok is false where it is neither.
// Began is false after one that names a part.
func (a *Around) Line(line string) (ok bool) {
	line = strings.TrimSpace(line)
	if m := sectionPattern.FindStringSubmatch(line); m != nil {
		if _, err := song.ParseMeter(m[1]); err != nil { // a time stands over a bar
			a.begin(m[1], m[2])
		}
		return true
	}
	if m := capoPattern.FindStringSubmatch(line); m != nil {
		a.set("capo", m[1])
		return true
	}
	if m := settingPattern.FindStringSubmatch(line); m != nil {
		a.set(strings.ToLower(m[1]), m[2])
		return true
	}
	if name, times, ok := heading(line); ok {
		a.begin(name, times)
		return true
	}
	if name, value := a.loosely(line); name != "" {
		a.set(name, value)
		return true
	}
	return false
}

// loosely reads a setting in words of their own, in texts of others.
func (a *Around) loosely(line string) (name, value string) {
	if a.Score.Own {
		return "", ""
	}
	return loose(line)
}

// Heading cuts a line that names a part and goes on behind the name: "[Intro] G C G D", "Verse: Am
// F". The rest is empty where nothing stands there.
func Heading(line string) (name, rest string, ok bool) {
	line = strings.TrimSpace(line)
	if m := behindBrackets.FindStringSubmatch(line); m != nil {
		return m[1], m[2], true
	}
	if before, after, found := strings.Cut(line, ":"); found && strings.TrimSpace(after) != "" && IsHeading(before) {
		return strings.TrimSpace(before), strings.TrimSpace(after), true
	}
	return "", "", false
}

var behindBrackets = regexp.MustCompile(`^(\[[^\]|]{1,60}\])\s*:?\s*(.+)$`)

// Head reads a line above all music: the title, and below it who wrote it.
func (a *Around) Head(line string) bool {
	line = strings.TrimSpace(line)
	switch by, ok := strings.CutPrefix(line, "by "); {
	case a.Section != "" || line == "":
		return false
	case ok && a.Score.Title != "" && a.Score.By == "":
		a.Score.By = by
	case a.Score.Title == "" && strings.ContainsFunc(line, unicode.IsLetter):
		a.Score.Title = line
	default:
		return false
	}
	return true
}

// begin begins a part.
func (a *Around) begin(name, times string) {
	if name = sheet.NameOfPart(strings.TrimSpace(name)); name == "" {
		name = "Part"
	}
	a.Section, a.Advice, a.Began, a.Pickup = name, song.Advice{}, false, pitch.Frac{}
	a.Times, _ = strconv.Atoi(times)
	a.Begun++
	if a.Score.Own {
		a.whole()
	}
}

// whole makes the settings of the song those of what comes next.
func (a *Around) whole() {
	s := a.Score.Settings
	a.Meter, a.Key, a.Feel, a.Tempo = song.FourFour, pitch.Key{}, song.Feel{}, 0
	if m, err := song.ParseMeter(s["time"]); err == nil {
		a.Meter = m
	}
	if k, err := pitch.ParseKey(s["key"]); err == nil {
		a.Key = k
	}
	if f, err := song.ParseFeel(s["feel"]); err == nil {
		a.Feel = f
	}
	a.Tempo, _ = strconv.ParseFloat(s["tempo"], 64)
}

// set takes a setting over: of the part that has begun, or of the song.
func (a *Around) set(name, value string) {
	value = strings.TrimSpace(value)
	keep := func(name, value string) {
		if a.Section == "" {
			a.Score.Settings[name] = value
		}
	}
	switch name {
	case "title", "song":
		a.Score.Title = value
	case "artist", "by":
		a.Score.By = value
	case "key":
		if k, err := pitch.ParseKey(value); err == nil {
			a.Key = k
			keep("key", value)
		}
	case "time":
		if m, err := song.ParseMeter(value); err == nil {
			a.Meter = m
			keep("time", value)
		}
	case "tempo", "bpm":
		if v, err := strconv.ParseFloat(numberPattern.FindString(value), 64); err == nil && v >= sheet.MinTempo && v <= sheet.MaxTempo {
			a.Tempo = v
			keep("tempo", strconv.FormatFloat(v, 'f', -1, 64))
		}
	case "feel":
		if f, err := song.ParseFeel(value); err == nil {
			a.Feel = f
			keep("feel", value)
		}
	case "tuning":
		if t, err := neck.Parse(value); err == nil {
			a.Tuning, a.Tuned = t, true
		} else if t, err := neck.Parse(tuningOf(value)); err == nil && !a.Score.Own {
			a.Tuning, a.Tuned = t, true
		} else {
			a.Problems.Say("", "set the tuning by hand", "the tuning %q is not understood", value)
		}
	case "capo":
		if n, err := strconv.Atoi(numberPattern.FindString(value)); err == nil && n >= 0 && n <= sheet.MaxCapo {
			a.Capo = n
		}
	case "chords":
		word, _, _ := strings.Cut(value, " (")
		a.Score.Settings["chords"] = word
	case "order":
		a.Score.Settings["order"] = value
	case "pickup":
		var f pitch.Frac
		if err := f.UnmarshalText([]byte(value)); err == nil && f.Num() > 0 && f.Float() < 32 && f.Den() <= 64 {
			a.Pickup = f
		}
	case "note":
		a.Note = value
	case "cue":
		a.Cue = value
	case "sound":
		a.Sound = value
	case "pluck":
		a.Plucked = strings.EqualFold(value, "yes")
	}
}

// Quarters is the tempo in quarter notes a minute; 0 where none is given.
func (a *Around) Quarters() float64 { return a.Tempo * a.Meter.Beat().Float() * 4 }

// Bar is a bar of what comes next: in its time and tempo, and where it is the first of its
// part with the part's name.
func (a *Around) Bar() take.Bar {
	b := take.Bar{Name: strconv.Itoa(len(a.Score.Bars) + 1), Meter: a.Meter, Length: a.Meter.Bar(), Key: a.Key, Tempo: a.Quarters(), Feel: a.Feel}
	if a.Section != "" && !a.Began {
		b.Section, b.Advice, b.Legs = a.Section, a.Advice, min(a.Times, sheet.MaxTimes)
		a.Began = true
		if a.Score.Own {
			a.Score.Parts = append(a.Score.Parts, take.Named{Name: a.Section, Meter: a.Meter})
		}
	}
	return b
}
