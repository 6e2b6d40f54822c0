package arrange_test

import (
	"fmt"

	"valleyside/core/arrange"
	"valleyside/core/sheet"
	"valleyside/core/words"
)

// The rungs of a part, the easiest first, and what is said of its first bar.
func ExampleArranger_Ladder() {
	sh := sheet.Parse("Walk:\n| 0A - 3A 5A | 3A+5D - - - |\n")
	for i, version := range arrange.New(sh.Song, arrange.Options{}).Ladder(0, nil) {
		fmt.Printf("%s, grade %.1f\n", version.Rung.Title(), version.Grade)
		if i == 0 {
			fmt.Println(words.Speaker{}.Bar(&version.Bars[0])[0])
		}
	}
	// Output:
	// One finger, grade 2.5
	// All on the A string, frets 3 to 5
	// As written, grade 3.6
	// Two notes, grade 3.8
	// Three notes, grade 4.0
	// Octaves, grade 4.1
}
