package sheet_test

import (
	"fmt"

	"valleyside/core/pitch"
	"valleyside/core/sheet"
)

const song = `title: Gravel Path
key: A minor
Walk:
| 0A - 3A 5A | Am7 - F - |
`

func ExampleParse() {
	sh := sheet.Parse(song)
	walk := sh.Song.Parts[0]
	fmt.Println(sh.Song.Title, "in", sh.Song.Key, "has", len(walk.Bars()), "bars of", walk.Name)
	for _, p := range sheet.Parse("title: Gravel Path\nWalk:\n| 0A 3A | 99A |").Problems {
		fmt.Println(p)
	}
	// Output:
	// Gravel Path in A minor has 2 bars of Walk
	// 3:11: error: fret 99 is off the neck; frets go from 0 to 24
}

func ExampleSheet_Transpose() {
	key, _ := pitch.ParseKey("B minor")
	moved, err := sheet.Parse(song).Transpose(key, false)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Print(moved.Text)
	// Output:
	// title: Gravel Path
	// key: B minor
	// Walk:
	// | 2A - 5A 7A | Bm7 - G - |
}
