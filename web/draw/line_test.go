package draw

import (
	"fmt"
	"html/template"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
	"valleyside/core/song"
)

// Lines of the same fingerprint are the same picture, whatever was
// typed between the two.
func TestTheSameFingerprintIsTheSamePicture(t *testing.T) {
	same := 0
	rapid.Check(t, func(t *rapid.T) {
		text := sheet.Write(sheettest.Song(t))
		at := rapid.IntRange(0, len(text)-1).Draw(t, "at")
		edited := text[:at] + rapid.SampledFrom([]string{"3A", " ", "x", "7", "| ", "!", "^", "*"}).Draw(t, "put in") + text[at:]
		st := Style{Width: 624, Places: rapid.Bool().Draw(t, "places")}
		pictures := map[[32]byte]template.HTML{}
		for _, s := range []*song.Song{sheet.Parse(text).Song, sheet.Parse(edited).Song} {
			a := arrange.New(s, arrange.Options{})
			for i := range s.Parts {
				if s.Parts[i].Written() == 0 {
					continue
				}
				v := a.Version(i, arrange.AsWritten, arrange.Way{})
				for _, l := range Lines(WithPath(Written(&s.Parts[i], s.Lift()), &v), st, true) {
					print, svg := l.Fingerprint(), l.SVG()
					if was, ok := pictures[print]; ok {
						assert.Equal(t, was, svg)
						same++
					}
					pictures[print] = svg
				}
			}
		}
	})
	assert.Greater(t, same, 50, "lines that are typed as before have it again")
}

// Bars that are typed in move no others than those of their section: the lines of tab
// after it are the same.
func TestWhatChangesStaysInItsSection(t *testing.T) {
	text := func(first string) string {
		return "A:\n" + strings.Repeat("| "+first+" | 0A 3A 5A 7A |\n", sectionBars/2) + strings.Repeat("| 0E - 3E - | Am7 - F - |\n", sectionBars/2)
	}
	lines := func(first string) (before, after []string) {
		s := read(t, text(first))
		for _, svg := range Tab(Written(&s.Parts[0], s.Lift()), Style{Width: 624}, false) {
			if strings.Contains(string(svg), fmt.Sprintf(">%d<", sectionBars+1)) || len(after) > 0 {
				after = append(after, string(svg))
			} else {
				before = append(before, string(svg))
			}
		}
		return before, after
	}
	short, rest := lines("0A")
	long, same := lines("(10A 12A 10A 12A) (10D 12D 10D 12D) (10G 12G 10G 12G) (10B 12B 10B 12B)")
	assert.Greater(t, len(long), len(short), "the bars of the first section take more lines")
	assert.NotEmpty(t, rest)
	assert.Equal(t, rest, same)
}

// No bar is left alone on a last line, however long a part is.
func TestNoBarIsLeftAlone(t *testing.T) {
	for bars := 2; bars <= 60; bars++ {
		s := read(t, "A:\n"+strings.Repeat("| 0A 3A 5A 7A |\n", bars))
		lines := Lines(Written(&s.Parts[0], s.Lift()), Style{Width: 624}, false)
		total := 0
		for _, l := range lines {
			total += len(l.bars)
		}
		assert.Equal(t, bars, total)
		assert.Greater(t, len(lines[len(lines)-1].bars), 1, "%d bars", bars)
	}
}
