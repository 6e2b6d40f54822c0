package chord_test

import (
	"fmt"

	"valleyside/core/chord"
	"valleyside/core/pitch"
)

func ExampleParse() {
	c, err := chord.Parse("Am7/G")
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, t := range c.Tones {
		fmt.Print(t.Note, " is its ", t.Degree, "; ")
	}
	fmt.Println("the bass is", c.Lowest())
	_, err = chord.Parse("Cmajr")
	fmt.Println(err)
	// Output:
	// A is its 1; C is its b3; E is its 5; G is its b7; the bass is G
	// chord "Cmajr": "r" at character 5 is not understood; expected a quality such as m, 7, maj7, dim, sus4, add9, 5, b5, #9, no3 or a slash and a bass note
}

// C, E, G and A are one chord or another by what is lowest.
func ExampleNames() {
	notes := pitch.SetOf(0, 4, 7, 9)
	fmt.Println(chord.Names(notes, 0, pitch.Key{})[0].Name, chord.Names(notes, 9, pitch.Key{})[0].Name)
	// Output: C6 Am7
}
