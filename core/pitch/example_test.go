package pitch_test

import (
	"fmt"

	"valleyside/core/pitch"
)

// The letter is the interval's, not only the sound: a third above C is some E, a
// second some D.
func ExampleNote_Up() {
	c, err := pitch.ParseNote("C")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(c.Up(3, 3), c.Up(2, 3))
	// Output: Eb D#
}

func ExampleParseKey() {
	key, err := pitch.ParseKey("F minor")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(key.Scale(), "and in its relative,", key.Relative())
	// Output: [F G Ab Bb C Db Eb] and in its relative, Ab major
}
