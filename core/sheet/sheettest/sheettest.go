// Package sheettest draws songs for tests that hold for any.
package sheettest

import (
	"fmt"
	"strings"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet"
	"valleyside/core/song"
)

// Read reads a sheet that has no title yet.
func Read(t require.TestingT, body string) *song.Song {
	s := sheet.Parse("title: T\n" + body)
	require.True(t, s.OK(), "%v", s.Problems)
	return s.Song
}

// Song draws a song of up to three parts with everything that can be typed: repeats,
// pickups, times of their own, other players, marks.
func Song(t *rapid.T) *song.Song {
	var b strings.Builder
	fmt.Fprintf(&b, "tempo: %d\nfeel: %s\n", rapid.IntRange(40, 200).Draw(t, "tempo"), rapid.SampledFrom([]string{"straight", "swing", "swing 60%"}).Draw(t, "feel"))
	names := []string{"A", "B", "C"}[:rapid.IntRange(1, 3).Draw(t, "parts")]
	var order []string
	for range rapid.IntRange(1, 4).Draw(t, "legs") {
		order = append(order, fmt.Sprintf("%s x%d", rapid.SampledFrom(names).Draw(t, "leg"), rapid.IntRange(1, 3).Draw(t, "times")))
	}
	fmt.Fprintf(&b, "order: %s\n", strings.Join(order, ", "))
	bar := func(what string) string {
		var slots []string
		for range rapid.IntRange(1, 8).Draw(t, what) {
			slots = append(slots, rapid.SampledFrom([]string{"0A", "3A", "5D*", "h7D", "-", "-", ".", "x", "xA", "3D+5G'", "(5A 3A)", "C5=x355xx", "0E_", "7Gb2 r7G", "/5D", "7D\\", "12Go", "7Gb1!", "7A?", "3D+5G?", "xA?", "C5=x355xx?", "5A:3", "0D:i", "3D:2m+5G:4", "C5=x355xx:x134xx", "F=133211:134211!"}).Draw(t, "slot"))
		}
		return "| " + strings.Join(slots, " ") + rapid.SampledFrom([]string{" ", " ", " ", " ? "}).Draw(t, "sure")
	}
	for _, name := range names {
		fmt.Fprintf(&b, "%s:\n%stime: %s\ntempo: %d\n", name, rapid.SampledFrom([]string{"", "sound: clean\n", "pluck: yes\n", "strum: d - d u - u\n", "strum: d - d u | d u x -\n", "pickup: 1\n", "pickup: 1/2\n"}).Draw(t, "pickup"), rapid.SampledFrom([]string{"4/4", "3/4", "6/8", "7/8"}).Draw(t, "time"), rapid.IntRange(40, 200).Draw(t, "own tempo"))
		for range rapid.IntRange(1, 3).Draw(t, "lines") {
			bars, times := rapid.IntRange(1, 3).Draw(t, "bars"), rapid.IntRange(1, 3).Draw(t, "passes")
			for range bars {
				b.WriteString(strings.Replace(bar("slots"), "| ", rapid.SampledFrom([]string{"| ", "| ", "| [2/4] ", "| [5/8] "}).Draw(t, "bar's own time"), 1))
			}
			fmt.Fprintf(&b, "| x%d\n", times)
			if rapid.Bool().Draw(t, "beside") {
				b.WriteString("lead ")
				for range bars {
					b.WriteString(bar("slots beside"))
				}
				fmt.Fprintf(&b, "| x%d\n", times)
			}
		}
	}
	return Read(t, b.String())
}
