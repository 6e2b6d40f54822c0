package voicing_test

import (
	"fmt"

	"valleyside/core/chord"
	"valleyside/core/voicing"
)

// What may stand for a chord: what it keeps, and what that costs.
func ExampleFind() {
	f, err := chord.Parse("F")
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, v := range voicing.Find(f, voicing.Config{School: voicing.Few, Max: 3}) {
		fmt.Println(v.Frets, v.Kept)
	}
	// Output:
	// xx3211 [1 3 5]
	// x0321x [1 3 5]
	// xxx211 [1 3 5]
}
