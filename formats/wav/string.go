package wav

import "math"

// Rate is how many samples a second has.
const Rate = 44100

// How a string sounds: for how long it rings down to a thousandth, by its pitch and by
// what the hand does; and how bright its stroke is. Set by ear.
const (
	ringLow    = 6.0 // seconds, of a low E
	ringHigh   = 2.5 // of a high E
	ringMuted  = 0.35
	ringDead   = 0.06
	release    = 0.02 // when it is stopped
	brightSoft = 0.35
	brightLoud = 0.8
	pickAt     = 0.13 // of the string, from the bridge
	bendTime   = 0.12 // seconds, at most half of the note
	slideTime  = 0.06
)

// pluck is a plucked string: a delay line as long as its vibration, fed back through a
// filter that takes the heights first (K. Karplus, A. Strong, Computer Music Journal 7,
// 1983; the tuning by interpolation after D. Jaffe, J. Smith, ibid.).
type pluck struct {
	line  []float32
	at    int
	decay float32 // of each turn
	last  float32 // sample before the filter
	gain  float32
	// The pitch: hz, and where it comes from and goes to with a bend or slide.
	delay float32 // samples of a turn
	from  float32 // the delay at the beginning
	glide int     // samples that it takes to get from there
	age   int
	end   int // sample at which it is stopped
	fade  float32
	level float32
}

// filterDelay is by how many samples the filter of the loop delays: it is the mean of two
// samples.
const filterDelay = 0.5

// newPluck plucks a string. seed makes strokes differ a little, as those of a hand do, and
// the same piece sound the same each time.
func newPluck(hz, fromHz, loud float64, samples int, ring float64, glide float64, seed uint64) *pluck {
	turn := func(hz float64) float64 { return Rate/hz - filterDelay }
	longest := int(math.Max(turn(hz), turn(fromHz))) + 3
	p := &pluck{line: make([]float32, longest), gain: float32(loud), delay: float32(turn(hz)), from: float32(turn(fromHz)), glide: int(glide * Rate), end: samples, level: 1}
	p.decay = float32(math.Pow(0.001, 1/(ring*hz)))
	p.fade = float32(math.Pow(0.001, 1/(release*Rate)))
	// The stroke: noise, darker the softer it is, with a comb for the place of the pick.
	n := int(turn(fromHz) + filterDelay)
	noise := make([]float32, n)
	bright := float32(brightSoft + (brightLoud-brightSoft)*loud)
	state, low, mean := seed*2862933555777941757+3037000493, float32(0), float32(0)
	for i := range noise {
		state = state*6364136223846793005 + 1442695040888963407
		white := float32(int32(state>>32)) / (1 << 31)
		low += bright * (white - low)
		noise[i] = low
	}
	pick := max(int(float64(n)*pickAt), 1)
	for i := range noise {
		v := noise[i] - noise[(i+n-pick)%n]
		p.line[(len(p.line)-n+i)%len(p.line)] = v
		mean += v
	}
	mean /= float32(n)
	power := float32(0)
	for i := range n {
		v := &p.line[(len(p.line)-n+i)%len(p.line)]
		*v -= mean
		power += *v * *v
	}
	if power > 0 {
		scale := float32(0.25) / float32(math.Sqrt(float64(power/float32(n))))
		for i := range p.line {
			p.line[i] *= scale
		}
	}
	return p
}

// add adds the next samples of the string to a block, and tells whether there are more.
func (p *pluck) add(block []float32) bool {
	size := len(p.line)
	for i := range block {
		delay := p.delay
		if p.age < p.glide {
			delay = p.from + (p.delay-p.from)*float32(p.age)/float32(p.glide)
		}
		whole := int(delay)
		part := delay - float32(whole)
		k := p.at - whole
		if k < 0 {
			k += size
		}
		k1 := k - 1
		if k1 < 0 {
			k1 += size
		}
		v := p.line[k] + part*(p.line[k1]-p.line[k])
		out := p.decay * 0.5 * (v + p.last)
		p.last = v
		p.line[p.at] = out
		if p.at++; p.at == size {
			p.at = 0
		}
		if p.age >= p.end {
			if p.level *= p.fade; p.level < 0.001 {
				return false
			}
		}
		block[i] += out * p.gain * p.level
		p.age++
	}
	return true
}

// ringing is for how many seconds a string of a pitch rings.
func ringing(hz float64) float64 {
	at := math.Log2(hz/82.4) / 2 // two octaves from low E to high E
	return ringLow + (ringHigh-ringLow)*math.Min(math.Max(at, 0), 1.5)
}
