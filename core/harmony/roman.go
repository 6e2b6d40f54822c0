package harmony

import (
	"strings"

	"valleyside/core/chord"
	"valleyside/core/pitch"
)

// roman is the number of a chord in Roman numerals from the tonic: small where its third
// is minor.
func roman(c chord.Chord, key pitch.Key) string {
	d := degree(c.Root, key.Tonic, key)
	sign := map[int8]string{-1: "b", 1: "#"}[d.Alter]
	text := ""
	for _, r := range chord.Romans {
		if r.Degree == int(d.Number) {
			text = r.Text
		}
	}
	quality := c.Suffix()
	switch minor := c.Has(3) && !c.Has(4); {
	case minor && quality == "m7b5":
		text, quality = strings.ToLower(text), "ø7"
	case minor && strings.HasPrefix(quality, "dim"):
		text, quality = strings.ToLower(text), "o"+strings.TrimPrefix(quality, "dim")
	case minor:
		text, quality = strings.ToLower(text), strings.TrimPrefix(quality, "m")
	case strings.HasPrefix(quality, "aug"):
		quality = "+" + strings.TrimPrefix(quality, "aug")
	}
	text = sign + text + quality
	if c.Bass.Valid() {
		text += "/" + degree(c.Bass, key.Tonic, key).String()
	}
	return text
}
