package arrange_test

import (
	"fmt"

	"valleyside/core/arrange"
	"valleyside/core/sheet"
	"valleyside/core/words"
)

// The rungs of a part, the easiest first, and why the first is as it is.
func ExampleArranger_Ladder() {
	sh := sheet.Parse("Walk:\n| 0A - 3A 5A | 3A+5D - - - |\n")
	for i, version := range arrange.New(sh.Song, arrange.Options{}).Ladder(0, nil) {
		fmt.Printf("%s, grade %.1f\n", version.Rung.Title(), version.Grade)
		if i == 0 {
			fmt.Println(words.Speaker{}.Version(&version)[0])
		}
	}
	// Output:
	// One finger, grade 1.8
	// The hand stays in one place
	// As written, grade 3.2
	// Two notes, grade 3.7
	// Octaves, grade 3.7
	// Three notes, grade 4.0
}
