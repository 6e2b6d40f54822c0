package rhythm

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// Taps are moments at which somebody has tapped a rhythm.
type Taps struct {
	At    []float64 // seconds, rising
	Meter song.Meter
	Feel  song.Feel
	// Tempo is in beats per minute. With a Click, At is counted from the first beat of
	// the bar that the click has counted in; without, the first tap is on the first beat
	// and the tempo only about that.
	Tempo float64
	Click bool
	// Lead is what of a pickup has passed before it begins, in whole notes: the first bar
	// is one. Without a click the first tap is where it begins.
	Lead pitch.Frac
}

// Tapped is what was tapped.
type Tapped struct {
	Bars  []song.Bar // a strum for each tap, that lasts until the next
	Tempo float64    // at which it was tapped
	Late  float64    // how far it was behind the click, seconds
	Off   float64    // how far the middle tap is from where it is written, seconds
}

// Limits of what is tapped.
const (
	MostTaps = 400
	MostBars = 20
)

// How taps are heard.
const (
	early    = 0.1   // of a beat: so much before it a tap belongs to the next
	latest   = 0.16  // seconds that a hand, an ear and a machine together are late at most
	hasty    = 0.08  // seconds that it is early
	unsure   = 0.018 // seconds that a hand is off at any tempo
	twice    = 0.045 // seconds: a key that bounces
	freedom  = 0.9   // octaves that a free tempo is looked for on both sides
	fineness = 0.01  // of them
	farthest = 4000  // beats that are walked, where no bars are so many
)

// Write puts taps on the grid of their meter. It fails where they are none, too many, or
// do not rise.
func (t Taps) Write() (Tapped, error) {
	at, err := t.clean()
	if err != nil {
		return Tapped{}, err
	}
	beat := 60 / t.Tempo
	best := walk{cost: math.Inf(1)}
	if t.Click {
		for late := -hasty; late <= latest; late += 0.004 {
			if math.Abs(late) > 0.3*beat {
				continue
			}
			w := t.walk(at, late, beat, false)
			w.cost += math.Pow(late/0.08, 2)
			if w.cost < best.cost {
				best = w
			}
		}
	} else {
		for x := -freedom; x <= freedom; x += fineness {
			length := beat * math.Pow(2, x)
			w := t.walk(at, at[0]-length*t.Lead.Div(t.Meter.Beat()).Float(), length, true)
			w.cost += 1.2 * float64(len(at)) * x * x
			if w.cost < best.cost {
				best = w
			}
		}
	}
	if len(best.places) == 0 {
		return Tapped{}, fmt.Errorf("that is too long; tap at most %d bars at a time", MostBars)
	}
	return best.write(t)
}

// clean leaves out what bounced.
func (t Taps) clean() ([]float64, error) {
	var at []float64
	for i, s := range t.At {
		switch {
		case math.IsNaN(s) || math.IsInf(s, 0) || math.Abs(s) > 3600 || i > 0 && s < t.At[i-1]:
			return nil, fmt.Errorf("the taps are not in the order of time")
		case len(at) > 0 && s-at[len(at)-1] < twice:
		case t.Click && s < -60/t.Tempo/2: // in the count-in
		default:
			at = append(at, s)
		}
	}
	switch {
	case len(at) == 0:
		return nil, fmt.Errorf("nothing was tapped; tap after the count-in")
	case len(at) > MostTaps:
		return nil, fmt.Errorf("there are %d taps; tap at most %d, a few bars at a time", len(at), MostTaps)
	}
	return at, nil
}

// walk goes through taps from beat to beat.
type walk struct {
	places []placed
	cost   float64
	beats  int     // walked
	late   float64 // where the first beat was taken to be
	length float64 // of a beat, seconds, in the mean
}

// placed is a tap on the grid, and how far it is from there in seconds.
type placed struct {
	at  pitch.Frac // beats from the first
	off float64
}

// walk puts taps on the grid of beats of a length, the first of which begins at a moment.
// A free one follows the hand: each beat corrects where the next begins and how long it
// is.
func (t Taps) walk(at []float64, begin, length float64, free bool) walk {
	w := walk{late: begin}
	share := 0.5
	if t.Meter.Unit == 4 && t.Feel.Share != 0 {
		share = t.Feel.Share / 100
	}
	off := max(OffHand*0.25/t.Meter.Beat().Float(), unsure/length)
	var in []float64
	phase, i := begin, 0
	for beat := int64(0); i < len(at); beat++ {
		if beat == farthest {
			return walk{cost: math.Inf(1)}
		}
		in = in[:0]
		for ; i < len(at) && (at[i]-phase)/length < 1-early; i++ {
			in = append(in, max(Straighten((at[i]-phase)/length, share), -early))
		}
		w.beats++
		w.length += length
		if len(in) == 0 {
			w.cost += 0.3
			phase += length
			continue
		}
		n, cost := Beat{Off: off, Compound: t.Meter.Compound()}.Divide(in)
		w.cost += cost
		var wrong float64
		for _, x := range in {
			slot := math.Round(x * float64(n))
			e := (x - slot/float64(n)) * length
			wrong += e / float64(len(in))
			place := placed{pitch.Whole(beat).Add(pitch.F(int64(slot), n)), e}
			if k := len(w.places) - 1; k < 0 || w.places[k].at.Less(place.at) {
				w.places = append(w.places, place)
			}
		}
		if free {
			phase += 0.5 * wrong
			length += 0.15 * wrong
		}
		phase += length
	}
	w.length /= float64(w.beats)
	return w
}

// write makes bars of what was walked through.
func (w walk) write(t Taps) (Tapped, error) {
	beat := t.Meter.Beat()
	perBar := t.Meter.Bar().Div(beat).Floor()
	last := w.places[len(w.places)-1]
	bars := int(last.at.Floor()/perBar) + 1
	if bars > MostBars {
		return Tapped{}, fmt.Errorf("that is %d bars; tap at most %d at a time", bars, MostBars)
	}
	out := Tapped{Bars: make([]song.Bar, bars), Tempo: 60 / w.length}
	if t.Click {
		out.Tempo, out.Late = t.Tempo, w.late
	}
	offs := make([]float64, len(w.places))
	for i, p := range w.places {
		offs[i] = math.Abs(p.off)
		bar := p.at.Floor() / perBar
		start := p.at.Sub(pitch.Whole(bar * perBar)).Mul(beat)
		b := &out.Bars[bar]
		b.Events = append(b.Events, song.Event{Kind: song.Strum, Start: start})
	}
	slices.Sort(offs)
	out.Off = offs[len(offs)/2]
	first := &out.Bars[0]
	if len(first.Events) == 0 || !first.Events[0].Start.Less(t.Lead) {
		first.Lead = t.Lead // nothing was tapped before it
	}
	if len(first.Events) == 0 || first.Lead.Less(first.Events[0].Start) {
		first.Events = slices.Insert(first.Events, 0, song.Event{Kind: song.Rest, Start: first.Lead})
	}
	var before *song.Event
	left := pitch.Whole(0) // of the bars since
	for i := range out.Bars {
		events := out.Bars[i].Events
		for j := range events {
			if before != nil {
				before.Length = left.Add(events[j].Start).Sub(before.Start)
			}
			before, left = &events[j], pitch.Whole(0)
		}
		left = left.Add(t.Meter.Bar())
	}
	before.Length = left.Sub(before.Start)
	return out, nil
}

// barsInLine is how many bars stand on a line of what is written.
const barsInLine = 4

// Sheet writes what was tapped as the lines of a sheet, with an x for each tap.
func (t Tapped) Sheet(m song.Meter) string {
	p := song.Part{Name: "Tapped", Meter: m, Tempo: sheet.DefaultTempo}
	for bars := range slices.Chunk(t.Bars, barsInLine) {
		p.Lines = append(p.Lines, song.Line{Bars: bars, Times: 1})
	}
	text := sheet.Write(&song.Song{Title: p.Name, Meter: m, Tempo: p.Tempo, Tuning: neck.Standard, Parts: []song.Part{p}, Order: []song.Leg{{Times: 1}}})
	return strings.TrimSpace(text[strings.Index(text, "|"):])
}
