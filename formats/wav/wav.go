// Package wav makes practice tracks: a timeline as sound, plucked strings and a click, in
// a WAV file of one channel, 16 bits and 44,100 samples a second.
package wav

import (
	"cmp"
	"io"
	"math"
	"slices"

	"github.com/go-audio/audio"
	gowav "github.com/go-audio/wav"

	"valleyside/core/neck"
	"valleyside/core/play"
)

// Layer is something that is played: strikes, and how loud they are together, 1 being the
// usual.
type Layer struct {
	Strikes []play.Strike // in the order of time
	Gain    float64
}

// Track is what a practice track holds. Its times are those of its timeline.
type Track struct {
	Layers  []Layer
	Beats   []play.Beat // that are clicked
	Seconds float64
	Open    neck.Tuning // with the capo on, for strings that are struck dead
}

// Levels of the mix, so that six strings, a bass and a click stay below full.
const (
	stringLevel = 0.5
	deadLevel   = 0.9
	clickLevel  = 0.35
	tail        = 0.4 // seconds after the end, for what still sounds
)

// The click: a short tone, higher on the first of a bar.
const (
	clickSeconds = 0.03
	clickHz      = 1000.0
	accentHz     = 1500.0
)

// blockSamples is how many samples are worked out at once.
const blockSamples = 4096

// Write writes a track as a WAV file. It takes memory for what sounds at once, not for the
// whole of it.
func Write(w io.WriteSeeker, t Track) error {
	const mono, pcm, bits = 1, 1, 16
	e := gowav.NewEncoder(w, Rate, bits, mono, pcm)
	data := &audio.IntBuffer{Format: &audio.Format{NumChannels: mono, SampleRate: Rate}, SourceBitDepth: bits}
	err := Render(t, func(block []float32) error {
		data.Data = data.Data[:0]
		for _, v := range block {
			data.Data = append(data.Data, int(math.Round(float64(v)*math.MaxInt16)))
		}
		return e.Write(data)
	})
	if err != nil {
		return err
	}
	return e.Close()
}

// start is a string that begins to sound, or a click, at a sample.
type start struct {
	at     int
	strike *play.Strike
	gain   float64
	hz     float64 // of a click
	index  int
}

// Render works out the samples of a track, −1 to 1, block by block.
func Render(t Track, use func(block []float32) error) error {
	starts := t.starts()
	total := int(math.Ceil((t.Seconds + tail) * Rate))
	block := make([]float32, blockSamples)
	scratch := make([]float32, blockSamples)
	var playing []sounding
	next := 0
	for at := 0; at < total; at += blockSamples {
		n := min(blockSamples, total-at)
		clear(block)
		for ; next < len(starts) && starts[next].at < at+n; next++ {
			playing = append(playing, t.sounding(&starts[next]))
		}
		kept := playing[:0]
		for _, s := range playing {
			from := max(s.at-at, 0)
			clear(scratch[:n])
			more := s.sound.add(scratch[from:n])
			for i := from; i < n; i++ {
				block[i] += scratch[i]
			}
			if more {
				kept = append(kept, s)
			}
		}
		playing = kept
		for i := range block[:n] {
			block[i] = limit(block[i])
		}
		if err := use(block[:n]); err != nil {
			return err
		}
	}
	return nil
}

// limit keeps a sample below full, and what is quiet as it is.
func limit(v float32) float32 {
	const knee = 0.7
	switch {
	case v > knee:
		return knee + (1-knee)*float32(math.Tanh(float64((v-knee)/(1-knee))))
	case v < -knee:
		return -knee - (1-knee)*float32(math.Tanh(float64((-v-knee)/(1-knee))))
	}
	return v
}

// sounding is something that sounds.
type sounding struct {
	at    int
	sound interface{ add([]float32) bool }
}

// starts lists everything that begins, in the order of time.
func (t *Track) starts() []start {
	var list []start
	for _, l := range t.Layers {
		for i := range l.Strikes {
			k := &l.Strikes[i]
			list = append(list, start{at: sample(k.At), strike: k, gain: l.Gain, index: i})
		}
	}
	for i, b := range t.Beats {
		hz := clickHz
		if b.Accent {
			hz = accentHz
		}
		list = append(list, start{at: sample(b.At), hz: hz, gain: 1, index: i})
	}
	slices.SortStableFunc(list, func(a, b start) int { return cmp.Compare(a.at, b.at) })
	return list
}

func sample(seconds float64) int { return int(math.Round(seconds * Rate)) }

func (t *Track) sounding(s *start) sounding {
	if s.strike == nil {
		return sounding{s.at, &click{step: 2 * math.Pi * s.hz / Rate, left: int(clickSeconds * Rate)}}
	}
	k := s.strike
	samples := sample(k.At+k.Length) - s.at
	seed := uint64(s.index)*7919 + uint64(k.String)
	if k.How == play.Dead {
		hz := 110.0
		if k.String >= 1 && k.String <= neck.Strings {
			hz = t.Open.Open(k.String).Hz(neck.A4)
		}
		return sounding{s.at, newPluck(hz, hz, k.Loud*deadLevel*s.gain*stringLevel, min(samples, int(0.08*Rate)), ringDead, 0, seed)}
	}
	ring := ringing(k.Hz)
	if k.Muted {
		ring = ringMuted
	}
	from, glide := k.Hz, 0.0
	switch {
	case k.Bend != 0:
		from, glide = k.Hz*math.Exp2(-float64(k.Bend)/1200), math.Min(bendTime, k.Length/2)
	case k.From >= 0 && k.From != k.Fret:
		from, glide = k.Hz*math.Exp2(float64(k.From-k.Fret)/12), math.Min(slideTime, k.Length/3)
	}
	return sounding{s.at, newPluck(k.Hz, from, k.Loud*s.gain*stringLevel, samples, ring, glide, seed)}
}

// click is a short tone that dies away.
type click struct {
	step  float64
	phase float64
	left  int
}

func (c *click) add(block []float32) bool {
	const whole = clickSeconds * Rate
	for i := range block {
		if c.left == 0 {
			return false
		}
		block[i] += float32(math.Sin(c.phase) * clickLevel * float64(c.left) / whole)
		c.phase += c.step
		c.left--
	}
	return c.left > 0
}
