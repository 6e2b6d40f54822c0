package pitch

import (
	"math/bits"
	"strconv"
	"strings"
)

// Frac is an exact fraction, always in lowest terms with a positive
// denominator, so that equal values are == equal. Musical time is counted in
// fractions of a whole note. The zero Frac is 0.
type Frac struct {
	num  int64
	over int64 // the denominator less one
}

// F is the fraction num/den. It panics where den is 0.
func F(num, den int64) Frac {
	if den == 0 {
		panic("pitch: fraction with denominator 0")
	}
	if den < 0 {
		num, den = -num, -den
	}
	g := GCD(abs(num), den)
	return Frac{num / g, den/g - 1}
}

// Whole is the integer n as a fraction.
func Whole(n int64) Frac { return Frac{num: n} }

// Num and Den are the numerator and the denominator in lowest terms.
func (f Frac) Num() int64 { return f.num }

// Den is the denominator in lowest terms, always positive.
func (f Frac) Den() int64 { return f.over + 1 }

// Add is f + g.
func (f Frac) Add(g Frac) Frac {
	d := GCD(f.Den(), g.Den())
	return F(f.num*(g.Den()/d)+g.num*(f.Den()/d), f.Den()/d*g.Den())
}

// Sub is f − g.
func (f Frac) Sub(g Frac) Frac { return f.Add(Frac{-g.num, g.over}) }

// Mul is f · g.
func (f Frac) Mul(g Frac) Frac {
	a, b := F(f.num, g.Den()), F(g.num, f.Den())
	return F(a.num*b.num, a.Den()*b.Den())
}

// Div is f / g. It panics where g is 0.
func (f Frac) Div(g Frac) Frac { return f.Mul(F(g.Den(), g.num)) }

// Cmp is −1, 0 or 1 as f is less than, equal to or greater than g.
func (f Frac) Cmp(g Frac) int {
	if f == g {
		return 0
	}
	if (f.num < 0) != (g.num < 0) || f.num == 0 || g.num == 0 {
		if f.num < g.num {
			return -1
		}
		return 1
	}
	hi1, lo1 := bits.Mul64(uint64(abs(f.num)), uint64(g.Den()))
	hi2, lo2 := bits.Mul64(uint64(abs(g.num)), uint64(f.Den()))
	less := hi1 < hi2 || (hi1 == hi2 && lo1 < lo2)
	if less != (f.num < 0) {
		return -1
	}
	return 1
}

// Less tells whether f < g.
func (f Frac) Less(g Frac) bool { return f.Cmp(g) < 0 }

// Floor is the greatest integer that is not above f.
func (f Frac) Floor() int64 {
	q := f.num / f.Den()
	if f.num%f.Den() != 0 && f.num < 0 {
		q--
	}
	return q
}

// Float is f as a floating-point number.
func (f Frac) Float() float64 { return float64(f.num) / float64(f.Den()) }

// String writes f as "3/8", or "2" where it is whole.
func (f Frac) String() string {
	if f.Den() == 1 {
		return strconv.FormatInt(f.num, 10)
	}
	return strconv.FormatInt(f.num, 10) + "/" + strconv.FormatInt(f.Den(), 10)
}

// MarshalText writes f as in String, for JSON.
func (f Frac) MarshalText() ([]byte, error) { return []byte(f.String()), nil }

// UnmarshalText reads what MarshalText wrote.
func (f *Frac) UnmarshalText(text []byte) error {
	num, den, slash := strings.Cut(string(text), "/")
	if !slash {
		den = "1"
	}
	n, err1 := strconv.ParseInt(num, 10, 64)
	d, err2 := strconv.ParseInt(den, 10, 64)
	if err1 != nil || err2 != nil || d <= 0 {
		return Malformedf("write it like 3/8", "%q is not a fraction", text)
	}
	*f = F(n, d)
	return nil
}

// GCD is the greatest common divisor of two numbers.
func GCD(a, b int64) int64 {
	for b != 0 {
		a, b = b, a%b
	}
	return max(a, 1)
}

func abs(a int64) int64 {
	if a < 0 {
		return -a
	}
	return a
}

// LCM is the least common multiple of two numbers above 0.
func LCM(a, b int64) int64 { return a / GCD(a, b) * b }
