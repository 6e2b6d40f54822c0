package chord

import "slices"

// Plainer lists what a chord is without its colours, the fullest first: without the sixth, the
// ninth, the eleventh and the thirteenth, and then without the seventh. The third, or what is
// suspended, and the fifth stay as they are; so does the bass. A plain chord has none.
func (c Chord) Plainer() (list []Chord) {
	for _, but := range [][]int8{{9, 11, 13}, {6, 9, 11, 13}, {6, 7, 9, 11, 13}} {
		plain := Chord{Root: c.Root, Bass: c.Bass}
		for _, t := range c.Tones {
			if !slices.Contains(but, t.Degree.Number) {
				plain.Tones = append(plain.Tones, t)
			}
		}
		if n := len(plain.Tones); n < 3 || n == len(c.Tones) || slices.ContainsFunc(list, func(had Chord) bool { return len(had.Tones) == n }) {
			continue
		}
		plain.Symbol = plain.Canonical()
		list = append(list, plain)
	}
	return list
}
