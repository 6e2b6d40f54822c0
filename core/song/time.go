package song

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"valleyside/core/pitch"
)

// Meter is a time signature.
type Meter struct {
	Count int // beats above the line, 1 to 32
	Unit  int // note value below it: 1, 2, 4, 8, 16 or 32
}

// FourFour is the meter of a song that gives none.
var FourFour = Meter{4, 4}

// ParseMeter reads a time signature such as "6/8".
func ParseMeter(s string) (Meter, error) {
	above, below, ok := strings.Cut(s, "/")
	count, err1 := strconv.Atoi(strings.TrimSpace(above))
	unit, err2 := strconv.Atoi(strings.TrimSpace(below))
	if !ok || err1 != nil || err2 != nil {
		return Meter{}, pitch.Malformedf("write it like 4/4 or 6/8", "%q is not a time signature", s)
	}
	if count < 1 || count > 32 || unit < 1 || unit > 32 || unit&(unit-1) != 0 {
		return Meter{}, pitch.Malformedf("the upper number goes from 1 to 32, the lower is 1, 2, 4, 8, 16 or 32", "%q is not a time signature", s)
	}
	return Meter{count, unit}, nil
}

func (m Meter) String() string { return fmt.Sprintf("%d/%d", m.Count, m.Unit) }

// Bar is the length of a bar in whole notes.
func (m Meter) Bar() pitch.Frac { return pitch.F(int64(m.Count), int64(m.Unit)) }

// Compound tells whether the beat is a dotted quarter: 6/8, 9/8, 12/8.
func (m Meter) Compound() bool {
	return m.Unit == 8 && (m.Count == 6 || m.Count == 9 || m.Count == 12)
}

// Beat is the length of a beat in whole notes.
func (m Meter) Beat() pitch.Frac {
	if m.Compound() {
		return pitch.F(3, 8)
	}
	return pitch.F(1, int64(m.Unit))
}

// Pulse is the length in which the picking hand goes down and up: a beat, but a
// quarter where the beat is shorter, so that seven eighths are not seven
// down-strokes.
func (m Meter) Pulse() pitch.Frac {
	if beat := m.Beat(); !beat.Less(pitch.F(1, 4)) {
		return beat
	}
	return pitch.F(1, 4)
}

// Feel is how a beat is divided in two: the share of it that the first eighth
// takes, in percent. 50 is straight. The zero Feel is straight too.
type Feel struct{ Share float64 }

// Swing is the feel that is meant by the word alone: two thirds and one third.
var Swing = Feel{Share: 200.0 / 3}

// ParseFeel reads "straight", "swing" or "swing 60%".
func ParseFeel(s string) (Feel, error) {
	word, share, given := strings.Cut(strings.ToLower(strings.TrimSpace(s)), " ")
	switch {
	case word == "straight" && !given:
		return Feel{}, nil
	case word == "swing" && !given:
		return Swing, nil
	case word == "swing":
		v, err := strconv.ParseFloat(strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(share), "%")), 64)
		if err == nil && v >= 50 && v <= 80 {
			if v == 50 {
				v = 0
			}
			return Feel{Share: v}, nil
		}
		return Feel{}, pitch.Malformedf("write a percentage from 50 to 80, like swing 60%", "%q is not a share of the beat", share)
	}
	return Feel{}, pitch.Malformedf("write straight, swing or swing 60%", "%q is not a feel", s)
}

func (f Feel) String() string {
	switch f {
	case Feel{}:
		return "straight"
	case Swing:
		return "swing"
	}
	return "swing " + strconv.FormatFloat(f.Share, 'f', -1, 64) + "%"
}

// Clock turns notated times into seconds.
type Clock struct {
	beat    float64 // length of the beat in whole notes
	seconds float64 // per beat
	share   float64 // of the beat that its first half takes, 0 to 1
}

// Clock is the clock of a part at a tempo in beats per minute. Swing bends
// the eighths of quarter-note beats and nothing else.
func (p *Part) Clock(tempo float64) Clock {
	c := Clock{beat: p.Meter.Beat().Float(), seconds: 60 / tempo, share: 0.5}
	if p.Feel.Share != 0 && p.Meter.Unit == 4 {
		c.share = p.Feel.Share / 100
	}
	return c
}

// Seconds is how long so many whole notes last, in bars that are whole.
func (c Clock) Seconds(whole float64) float64 { return whole / c.beat * c.seconds }

// In is the moment of a place in a bar, in seconds from where the bar begins. A
// beat that the bar has only a part of is not swung.
func (c Clock) In(m Measure, at pitch.Frac) float64 {
	return c.at(at.Float(), m.Meter.Bar().Float()) - c.at(m.Lead.Float(), m.Meter.Bar().Float())
}

// Bent is how much longer a bar is than its notes say, in seconds: a pickup of less
// than a beat is swung with the beat that it ends.
func (c Clock) Bent(m Measure) float64 {
	if c.share == 0.5 || m.Lead.Num() == 0 {
		return 0
	}
	return c.In(m, m.Meter.Bar()) - c.Seconds(m.Length().Float())
}

// at is the moment of a place in a bar of a length, from where the whole bar
// begins.
func (c Clock) at(at, length float64) float64 {
	beats := at / c.beat
	whole := math.Floor(beats + 1e-9)
	if in := beats - whole; c.share != 0.5 && whole+1 <= length/c.beat+1e-9 {
		if in < 0.5 {
			beats = whole + in*2*c.share
		} else {
			beats = whole + c.share + (in-0.5)*2*(1-c.share)
		}
	}
	return beats * c.seconds
}

// Counting is the way a studio counts aloud.
type Counting string

// The ways of counting. The zero Counting is ByBeat.
const (
	// ByBeat counts beats: 6/8 is "1 trip let 2 trip let".
	ByBeat Counting = "beat"
	// ByEighth counts the eighths of compound meters: "1 2 3 4 5 6".
	ByEighth Counting = "eighth"
)

// within are the syllables inside a beat, by their place in it.
var within = map[pitch.Frac]string{
	pitch.F(1, 4): "e", pitch.F(1, 2): "&", pitch.F(3, 4): "a",
	pitch.F(1, 3): "trip", pitch.F(2, 3): "let",
}

// Syllable is what is counted at a time in the bar: "1", "&", "e", "a",
// "trip", "let", and in compound time "ta" for the sixteenths between. Times
// that lie between the syllables are a "·".
func (m Meter) Syllable(at pitch.Frac, style Counting) string {
	beat := m.Beat()
	if style == ByEighth && m.Compound() {
		beat = pitch.F(1, 8)
	}
	pos := at.Div(beat)
	n := pos.Floor()
	in := pos.Sub(pitch.Whole(n))
	if in.Num() == 0 {
		return strconv.FormatInt(n+1, 10)
	}
	if m.Compound() && beat != pitch.F(1, 8) && in.Mul(pitch.Whole(6)).Den() == 1 && in.Mul(pitch.Whole(6)).Num()%2 == 1 {
		return "ta"
	}
	if s, ok := within[in]; ok {
		return s
	}
	return "·"
}
