package neck_test

import (
	"fmt"

	"valleyside/core/neck"
	"valleyside/core/pitch"
)

func ExampleParse() {
	tuning, err := neck.Parse("drop D")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(tuning.Letters(), "the third fret of the lowest string sounds", pitch.Key{Tonic: pitch.Note{Letter: 'D'}}.Spell(tuning.Pitch(6, 3)))
	// Output: D A D G B E the third fret of the lowest string sounds F2
}

func ExampleParseFrets() {
	shape, err := neck.ParseFrets("x02010")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(shape, "has fret", shape.On(4), "on the fourth string")
	// Output: x02010 has fret 2 on the fourth string
}
