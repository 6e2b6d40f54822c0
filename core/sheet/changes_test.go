package sheet

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"valleyside/core/song"
)

// What has become of the parts of a song that was changed, as a teacher would say it.
func TestChanges(t *testing.T) {
	const was = "title: T\n\nRiff:\n| 0A 3A | 5A 7A | 0A 3A | 2A 0A |\n\nChorus:\n| C | G | Am | F |\n"
	for _, c := range []struct {
		name, is string
		want     []string
	}{
		{"nothing", was, []string{"0 Riff [Riff] []", "0 Chorus [Chorus] []"}},
		{"a bar", "title: T\n\nRiff:\n| 0A 3A | 5A 8A | 0A 3A | 2A 0A |\n\nChorus:\n| C | G | Am | F |\n", []string{"0 Riff [Riff] [2]", "0 Chorus [Chorus] []"}},
		{"a name", "title: T\n\nWalk:\n| 0A 3A | 5A 7A | 0A 3A | 2A 0A |\n\nChorus:\n| C | G | Am | F |\n", []string{"1 Riff [Walk] []", "0 Chorus [Chorus] []"}},
		{"a name and a bar", "title: T\n\nChorus:\n| C | G | Am | F |\n\nWalk:\n| 0A 3A | 5A 7A | 1A 3A | 2A 0A |\n", []string{"1 Riff [Walk] [3]", "0 Chorus [Chorus] []"}},
		{"cut in two", "title: T\n\nUp:\n| 0A 3A | 5A 7A |\n\nDown:\n| 0A 3A | 2A 0A |\n\nChorus:\n| C | G | Am | F |\n", []string{"2 Riff [Up Down] []", "0 Chorus [Chorus] []"}},
		{"gone, and something new", "title: T\n\nBridge:\n| E7 | A7 |\n\nChorus:\n| C | G | Am | F |\n", []string{"3 Riff [] []", "0 Chorus [Chorus] []", "4 Bridge [] []"}},
		{"both renamed", "title: T\n\nOne:\n| C | G | Am | F |\n\nTwo:\n| 0A 3A | 5A 7A | 0A 3A | 2A 0A |\n", []string{"1 Riff [Two] []", "1 Chorus [One] []"}},
	} {
		var got []string
		for _, ch := range song.Changes(Parse(was).Song, Parse(c.is).Song) {
			got = append(got, fmt.Sprintf("%d %s %v %v", ch.Fate, ch.Name, ch.Into, ch.Bars))
		}
		assert.Equal(t, c.want, got, c.name)
	}
}
