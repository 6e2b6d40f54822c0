package neck

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"valleyside/core/pitch"
)

// Silent stands in Frets for a string that does not sound.
const Silent = -1

// Frets is a shape on the neck: a fret for each string, low E first, or Silent.
type Frets [Strings]int8

// NoFrets is the shape in which nothing sounds.
var NoFrets = Frets{Silent, Silent, Silent, Silent, Silent, Silent}

// ParseFrets reads six strings low to high: "x32010", or with hyphens or spaces
// where a fret has two digits, "x-10-12-12-x-x".
func ParseFrets(s string) (Frets, error) {
	fields := strings.Split(s, "-")
	switch spaced := strings.Fields(s); {
	case len(spaced) > 1:
		fields = spaced
	case len(fields) == 1:
		fields = strings.Split(s, "")
	}
	if len(fields) != Strings {
		return NoFrets, pitch.Malformedf("write all six, low to high, like x32010 or x-10-12-12-x-x", "shape %q has %d strings", s, len(fields))
	}
	f := NoFrets
	for i, field := range fields {
		if field == "x" || field == "X" {
			continue
		}
		n, err := strconv.Atoi(field)
		if err != nil || field[0] == '+' {
			return NoFrets, pitch.Malformedf("write six strings low to high, like x32010 or x-10-12-12-x-x", "shape %q: %q is neither a fret nor x", s, field)
		}
		if n > MaxFret {
			return NoFrets, pitch.Malformedf(fmt.Sprintf("frets go from 0 to %d", MaxFret), "shape %q: fret %d is off the neck", s, n)
		}
		f[i] = int8(n)
	}
	if f == NoFrets {
		return NoFrets, pitch.Malformedf("give at least one a fret", "shape %q sounds no string", s)
	}
	return f, nil
}

// String writes f so that ParseFrets reads it back.
func (f Frets) String() string {
	fields, wide := make([]string, Strings), false
	for i, n := range f {
		fields[i] = "x"
		if n >= 0 {
			fields[i] = strconv.Itoa(int(n))
			wide = wide || n > 9
		}
	}
	if wide {
		return strings.Join(fields, "-")
	}
	return strings.Join(fields, "")
}

// On is the fret of string s, or Silent.
func (f Frets) On(s String) int { return int(f[s.Index()]) }

// MarshalJSON writes an array of six, null where a string is silent.
func (f Frets) MarshalJSON() ([]byte, error) {
	var list [Strings]*int8
	for i := range f {
		if f[i] >= 0 {
			list[i] = &f[i]
		}
	}
	return json.Marshal(list)
}

// UnmarshalJSON reads what MarshalJSON wrote.
func (f *Frets) UnmarshalJSON(text []byte) error {
	var list [Strings]*int8
	if err := json.NewDecoder(bytes.NewReader(text)).Decode(&list); err != nil {
		return err
	}
	*f = NoFrets
	for i, n := range list {
		if n != nil {
			f[i] = *n
		}
	}
	return nil
}
