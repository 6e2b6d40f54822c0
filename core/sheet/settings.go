package sheet

import (
	"errors"
	"math"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// scope is where a setting may stand.
type scope uint8

const (
	ofSong scope = 1 << iota // above the first part
	ofPart                   // below a part's name
)

// setting is a line "name: value": where it may stand, what it is for, and how it is
// read and written.
type setting struct {
	name  string
	scope scope
	means string // what it is for, in a few words
	// read takes the value over and gives it as it is written back.
	read func(p *parser, value string) (string, *pitch.Malformed)
	// write is the value that a song or a part has, empty where the line is left out. Of
	// the song p is nil; of a part as is what it would be without the line.
	write func(w *writer, p, as *song.Part) string
	// take makes a part as one that it is like; nil where the setting is not taken over.
	take func(p, from *song.Part)
	// values are what it can be, offer what else may be typed for it.
	values []Offer
	offer  func(o *offering, word string)
}

// settings has a row for each setting, in the order in which they are written. It is
// filled at the start, since to read one of them may mean to look at others.
var settings []setting

func init() {
	settings = []setting{
		{name: "title", scope: ofSong, means: "the song's name",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				p.sheet.Song.Title, p.titled = value, true
				return value, nil
			},
			write: func(w *writer, _, _ *song.Part) string { return w.song.Title }},
		{name: "by", scope: ofSong, means: "who made it",
			read:  text(func(p *parser) *string { return &p.sheet.Song.By }),
			write: func(w *writer, _, _ *song.Part) string { return w.song.By }},
		{name: "key", scope: ofSong | ofPart, means: "like A minor",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				return set(choose(p, &p.sheet.Song.Key, func(q *song.Part) *pitch.Key { return &q.Key }), value, pitch.ParseKey)
			},
			write: func(w *writer, p, as *song.Part) string {
				return own(p, w.song.Key, func(q *song.Part) pitch.Key { return q.Key }, as, pitch.Key.String)
			},
			take: func(p, from *song.Part) { p.Key = from.Key }, offer: (*offering).keys},
		{name: "time", scope: ofSong | ofPart, means: "like 3/4",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				return set(choose(p, &p.sheet.Song.Meter, func(q *song.Part) *song.Meter { return &q.Meter }), value, song.ParseMeter)
			},
			write: func(w *writer, p, as *song.Part) string {
				return own(p, w.song.Meter, func(q *song.Part) song.Meter { return q.Meter }, as, song.Meter.String)
			},
			take:   func(p, from *song.Part) { p.Meter = from.Meter },
			values: []Offer{{"4/4", ""}, {"3/4", ""}, {"6/8", ""}, {"2/4", ""}, {"12/8", ""}, {"5/4", ""}, {"7/8", ""}, {"9/8", ""}}},
		{name: "tempo", scope: ofSong | ofPart, means: "beats a minute",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				v, err := strconv.ParseFloat(value, 64)
				if err != nil || !(v >= MinTempo && v <= MaxTempo) {
					return value, pitch.Malformedf("write beats per minute from "+strconv.Itoa(MinTempo)+" to "+strconv.Itoa(MaxTempo), "%q is not a tempo", value)
				}
				*choose(p, &p.sheet.Song.Tempo, func(q *song.Part) *float64 { return &q.Tempo }) = v
				return number(v), nil
			},
			write: func(w *writer, p, as *song.Part) string {
				return own(p, w.song.Tempo, func(q *song.Part) float64 { return q.Tempo }, as, number)
			},
			take: func(p, from *song.Part) { p.Tempo = from.Tempo }},
		{name: "feel", scope: ofSong | ofPart, means: "straight or swing",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				return set(choose(p, &p.sheet.Song.Feel, func(q *song.Part) *song.Feel { return &q.Feel }), value, song.ParseFeel)
			},
			write: func(w *writer, p, as *song.Part) string {
				if p == nil && w.song.Feel == (song.Feel{}) {
					return ""
				}
				return own(p, w.song.Feel, func(q *song.Part) song.Feel { return q.Feel }, as, song.Feel.String)
			},
			take:   func(p, from *song.Part) { p.Feel = from.Feel },
			values: []Offer{{"straight", "both eighths of a beat are as long"}, {"swing", "the first takes two thirds"}, {"swing 60%", "or so much of the beat"}}},
		{name: "tuning", scope: ofSong, means: "a name or six notes",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				return set(&p.sheet.Song.Tuning, value, neck.Parse)
			},
			write: func(w *writer, _, _ *song.Part) string { return w.song.Tuning.String() }, offer: (*offering).tunings},
		{name: "capo", scope: ofSong, means: "its fret",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				v, err := strconv.Atoi(value)
				if err != nil || v < 0 || v > MaxCapo {
					return value, pitch.Malformedf("write its fret, 0 to "+strconv.Itoa(MaxCapo), "%q is not a capo", value)
				}
				p.sheet.Song.Capo = v
				return strconv.Itoa(v), nil
			},
			write: func(w *writer, _, _ *song.Part) string {
				if w.song.Capo == 0 {
					return ""
				}
				return strconv.Itoa(w.song.Capo)
			}},
		{name: "chords", scope: ofSong, means: "what their names are: shapes or sounding over a capo, or numbers",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				if p.numbers = strings.EqualFold(value, inNumbers); p.numbers {
					p.sheet.Song.Names = song.Sounding
					return inNumbers, nil
				}
				return set(&p.sheet.Song.Names, value, song.ParseNaming)
			},
			write: func(w *writer, _, _ *song.Part) string { return w.song.Names.String() },
			values: []Offer{{song.Shapes.String(), "what is fingered, seen from the capo"}, {song.Sounding.String(), "what is heard"},
				{inNumbers, "degrees of the key that is heard, like 1 5 6m 4 or I V vi IV"}}},
		{name: "order", scope: ofSong, means: "the way through the parts",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				p.order = orderSetting{text: value, line: p.at.line, column: p.at.column, index: len(p.sheet.Lines)}
				return value, nil
			},
			write: func(w *writer, _, _ *song.Part) string { return w.order() },
			offer: func(o *offering, word string) { o.parts(word, len(o.sheet.Song.Parts)) }},
		{name: "like", scope: ofPart, means: "another part's bars",
			read:  (*parser).beLike,
			write: func(*writer, *song.Part, *song.Part) string { return "" }, // it stands above the others
			offer: func(o *offering, word string) { o.parts(word, o.starts[o.line-1].part) }},
		{name: "pickup", scope: ofPart, means: "beats of the first bar",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				value, err := set(&p.pickup.beats, value, parseBeats)
				if err == nil {
					p.pickup.place = p.at
				}
				return value, err
			},
			write: func(_ *writer, p, as *song.Part) string {
				lead := leadOf(p)
				if lead.Num() == 0 || leadOf(as) == lead {
					return ""
				}
				m := p.Measure(&p.Lines[0].Bars[0])
				return m.Length().Div(m.Meter.Beat()).String()
			}},
		{name: "mute", scope: ofPart, means: "palm, for all of the part",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				return either(&p.part.PalmMute, value, "muting", "palm", "none")
			},
			write: func(_ *writer, p, as *song.Part) string {
				return differs(p.PalmMute, as.PalmMute, map[bool]string{true: "palm", false: "none"})
			},
			take:   func(p, from *song.Part) { p.PalmMute = from.PalmMute },
			values: []Offer{{"palm", "every note but accents"}, {"none", "only what has a *"}}},
		{name: "ring", scope: ofPart, means: "yes, for all of the part",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				return either(&p.part.Ring, value, "ringing", "yes", "no")
			},
			write: func(_ *writer, p, as *song.Part) string {
				return differs(p.Ring, as.Ring, map[bool]string{true: "yes", false: "no"})
			},
			take:   func(p, from *song.Part) { p.Ring = from.Ring },
			values: []Offer{{"yes", "every note rings on"}, {"no", "notes end where the next begin"}}},
		{name: "pluck", scope: ofPart, means: "yes where it is played with the fingers, without a pick",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				return either(&p.part.Plucked, value, "plucking", "yes", "no")
			},
			write: func(_ *writer, p, as *song.Part) string {
				return differs(p.Plucked, as.Plucked, map[bool]string{true: "yes", false: "no"})
			},
			take:   func(p, from *song.Part) { p.Plucked = from.Plucked },
			values: []Offer{{"yes", "p i m a stand in the place of strokes"}, {"no", "with a pick"}}},
		{name: "strum", scope: ofPart, means: "the strokes of a bar, like d - d u - u d u",
			read: func(p *parser, value string) (string, *pitch.Malformed) {
				value, err := strokesOf(value)
				if err == nil {
					p.part.Strum = value
				}
				return value, err
			},
			write: func(_ *writer, p, as *song.Part) string {
				if p.Strum == as.Strum || !isStrummed(p) {
					return ""
				}
				return p.Strum
			},
			take:   func(p, from *song.Part) { p.Strum = from.Strum },
			values: []Offer{{"d - d u - u d u", "over the beats with a gap"}, {"d - d - d u d u", ""}, {"d d d d", "on the beats"}, {"d - u d - u", "in six"}, {"d - d u | d d u d", "over two bars"}}},
		{name: "note", scope: ofPart, means: "a word to the student",
			read:  text(func(p *parser) *string { return &p.part.Note }),
			write: func(_ *writer, p, _ *song.Part) string { return p.Note }},
		{name: "cue", scope: ofPart, means: "what to listen for",
			read:  text(func(p *parser) *string { return &p.part.Cue }),
			write: func(_ *writer, p, _ *song.Part) string { return p.Cue }},
		{name: "sound", scope: ofPart, means: "of the guitar, like clean, neck pickup",
			read: text(func(p *parser) *string { return &p.part.Sound }),
			write: func(_ *writer, p, as *song.Part) string {
				if p.Sound == as.Sound {
					return ""
				}
				return p.Sound
			},
			take: func(p, from *song.Part) { p.Sound = from.Sound }},
	}
}

// inNumbers is what chords are where they are typed as degrees.
const inNumbers = "numbers"

// settingNamed finds a setting by its name; nil is none.
func settingNamed(name string) *setting {
	if i := slices.IndexFunc(settings, func(k setting) bool { return k.name == name }); i >= 0 {
		return &settings[i]
	}
	return nil
}

// settingNames lists the settings that may stand somewhere.
func settingNames(in scope) (names []string) {
	for i := range settings {
		if settings[i].scope&in != 0 {
			names = append(names, settings[i].name)
		}
	}
	return names
}

func isSetting(name string) bool { return settingNamed(name) != nil }

// text reads a value that is any text.
func text(target func(*parser) *string) func(*parser, string) (string, *pitch.Malformed) {
	return func(p *parser, value string) (string, *pitch.Malformed) {
		*target(p) = value
		return value, nil
	}
}

// choose is where a setting goes: into the part that is being read, or the song.
func choose[T any](p *parser, whole *T, of func(*song.Part) *T) *T {
	if p.parts > 0 {
		return of(p.part)
	}
	return whole
}

// own is the value of the song, or of a part where it is not what it would be anyway.
func own[T comparable](p *song.Part, whole T, of func(*song.Part) T, as *song.Part, text func(T) string) string {
	switch {
	case p == nil:
		return text(whole)
	case of(p) == of(as):
		return ""
	}
	return text(of(p))
}

// differs is a word for one of two, where it is the other that it would be anyway.
func differs(is, as bool, words map[bool]string) string {
	if is == as {
		return ""
	}
	return words[is]
}

// set parses a value into target and gives it as it is written back.
func set[T interface {
	comparable
	String() string
}](target *T, value string, parse func(string) (T, error)) (string, *pitch.Malformed) {
	v, err := parse(value)
	if err != nil {
		return value, malformed(err)
	}
	*target = v
	return v.String(), nil
}

// malformed is an error of what was typed with how to mend it.
func malformed(err error) *pitch.Malformed {
	var bad *pitch.Malformed
	if errors.As(err, &bad) {
		return bad
	}
	return &pitch.Malformed{What: err.Error(), Mend: "write it another way"}
}

// either reads one word or the other.
func either(target *bool, value, what, yes, no string) (string, *pitch.Malformed) {
	word := strings.ToLower(value)
	if word != yes && word != no {
		return value, pitch.Malformedf("write "+yes+" or "+no, "%q is not a way of %s", value, what)
	}
	*target = word == yes
	return word, nil
}

// finest is into how many pieces a beat of a pickup is divided at most.
const finest = 24

// NearestPickup is the number of beats that a pickup can have which is nearest to another; less
// than a bar of the meter.
func NearestPickup(beats pitch.Frac, m song.Meter) pitch.Frac {
	if beats.Den() <= finest {
		return beats
	}
	bar := m.Bar().Div(m.Beat())
	nearest := pitch.F(beats.Mul(pitch.Whole(finest)).Add(pitch.F(1, 2)).Floor(), finest)
	if least := pitch.F(1, finest); nearest.Less(least) {
		return least
	}
	if last := bar.Sub(pitch.F(1, finest)); last.Less(nearest) {
		return last
	}
	return nearest
}

// parseBeats reads a number of beats, as 1, 1.5 or 1/2.
func parseBeats(text string) (pitch.Frac, error) {
	bad := pitch.Malformedf("write it like 1, 1.5 or 1/2", "%q is not a number of beats", text)
	beats := pitch.Whole(0)
	if strings.ContainsAny(text, ".,") {
		v, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
		if err != nil || !(v > 0 && v < 100) {
			return beats, bad
		}
		beats = pitch.F(int64(math.Round(v*finest)), finest)
	} else if err := beats.UnmarshalText([]byte(text)); err != nil {
		return beats, bad
	}
	if beats.Num() <= 0 || beats.Den() > finest || beats.Floor() >= 100 {
		return beats, bad
	}
	return beats, nil
}
