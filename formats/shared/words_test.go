package shared_test

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/formats/formtest"
	"valleyside/formats/shared"
	"valleyside/formats/take"
	"valleyside/formats/words"
)

// taken is what becomes of a text, its bars alone, and what was said about it.
func taken(t require.TestingT, text string, o shared.Options) (*song.Song, string, take.Problems) {
	var problems take.Problems
	score, _, err := shared.Read(text, o, &problems)
	require.NoError(t, err, text)
	s, err := score.Song(context.Background(), score.Usual(), &problems)
	require.NoError(t, err, text)
	out := sheet.Write(s)
	again := sheet.Parse(out)
	require.True(t, again.OK(), out)
	return again.Song, out, problems
}

// chordsOf lists the chords of a song with their bars and places.
func chordsOf(s *song.Song) (list []string) {
	for _, p := range s.Parts {
		bar := 0
		for _, l := range p.Lines {
			for _, b := range l.Bars {
				bar++
				for _, e := range b.Events {
					if e.Kind == song.Chord {
						list = append(list, fmt.Sprintf("%s %d %s %s", p.Name, bar, e.Start, e.Chord.Symbol))
					}
				}
			}
		}
	}
	return list
}

// The lines of others, and the bars that a teacher would make of them.
func TestLines(t *testing.T) {
	for text, want := range map[string]string{
		"C G\nla la\n": "| C  | G  |\nwords | la | la |",
		"| C | G |\n":  "| C | G |", "| C G | Am |\n": "| C G | Am |", "| C / / G |\n": "| C - - G |", "C | G | F\n": "| C | G | F |",
		"| C | % |\n": "| C | x2", "| C | N.C. |\n": "| C | NC |", "C  G  x2\n": "| C | G | x2", "| C | G | x3\n": "| C | G | x3",
		"[C]one [G]two\n": "| C   | G   |\nwords | one | two |", "[C]in[G]side\n": "| C   | G    |\nwords | in- | side |",
		"\tC\tG\n\tone\ttwo\n":       "| C   | G   |\nwords | one | two |",
		"  (C)    (G)\nsoft    ly\n": "| C    | G  |\nwords | soft | ly |",
		"C♯m B♭\n":                   "| C#m | Bb |",
	} {
		_, out, _ := taken(t, "T\n\n"+text, shared.Options{})
		squeezed := strings.Join(strings.Fields(out), " ")
		assert.Contains(t, squeezed, strings.Join(strings.Fields(want), " "), "%q", text)
	}
	// How many chords have a bar is asked, or guessed from how many stand on a line.
	for perBar, want := range map[int]string{1: "| C | G | Am | F |", 2: "| C G | Am F |", 4: "| C G Am F |"} {
		_, out, problems := taken(t, "T\nTempo: 100\n\nC  G  Am  F\n", shared.Options{PerBar: perBar})
		assert.Contains(t, out, want)
		assert.Empty(t, problems)
	}
	_, out, problems := taken(t, "T\n\nC G Am F C G Am F\n", shared.Options{})
	assert.Contains(t, out, "| C G | Am F | x2")
	assert.Contains(t, problems.String(), "a bar for every 2 chords is taken")
}

// Headings, settings and what belongs to no chord.
func TestAround(t *testing.T) {
	_, out, problems := taken(t, "My Song\nby Me\n\nKey: G\nCapo 3\nTempo: 92 bpm\nTime: 3/4\n\nIntro:\n| G | D |\n\nVerse 1 (x2)\nG\nla\n\n[Chorus]\nC\nlo\n\nand then\nshe leaves\n", shared.Options{})
	for _, want := range []string{"title: My Song\nby: Me\nkey: G major\ntime: 3/4\ntempo: 92\n", "capo: 3\n", "order: Intro, Verse 1 x2, Chorus\n"} {
		assert.Contains(t, out, want)
	}
	assert.Contains(t, problems.String(), "nothing was read of it: and then")
	_, out, _ = taken(t, "T\n\nC\none\n\nG\ntwo\n\nC\none\n", shared.Options{})
	assert.Contains(t, out, "Verse 2:", "parts are recognised by empty lines: "+out)
	assert.Contains(t, out, "order: Verse, Verse 2, Verse")
	_, _, err := shared.Read("no chords\nat all\n", shared.Options{}, new(take.Problems))
	assert.ErrorContains(t, err, "nor chords, above the words")
}

// The chords of any song that is written come back in their bars and places, with what is
// sung at them.
func TestChordsComeBack(t *testing.T) {
	names := []string{"C", "G", "Am7", "F#m7b5", "Bb/D", "E(add9)", "Dsus4"}
	rapid.Check(t, func(t *rapid.T) {
		text := "title: T\ntime: " + rapid.SampledFrom([]string{"4/4", "3/4", "6/8"}).Draw(t, "time") + "\n\nA:\n"
		for range rapid.IntRange(1, 3).Draw(t, "lines") {
			line, sung := "|", "words |"
			for range rapid.IntRange(1, 4).Draw(t, "bars") {
				n := rapid.SampledFrom([]int{1, 2, 4, 6}).Draw(t, "slots")
				line += " " + rapid.SampledFrom(names).Draw(t, "first")
				for range n - 1 {
					line += " " + rapid.SampledFrom(append([]string{"-", "-"}, names...)).Draw(t, "chord")
				}
				line += " |"
				sung += " " + rapid.SampledFrom([]string{"", "la", "over the hill"}).Draw(t, "words") + " |"
			}
			text += line + "\n"
			if strings.Trim(sung, "words |") != "" && rapid.Bool().Draw(t, "sung") {
				text += sung + "\n"
			}
		}
		read := sheet.Parse(text)
		require.True(t, read.OK(), "%v\n%s", read.Problems, text)
		var b bytes.Buffer
		require.NoError(t, words.Write(&b, read.Song, formtest.AsWritten(read.Song)))
		got, out, problems := taken(t, b.String(), shared.Options{})
		assert.Empty(t, problems, b.String())
		assert.Equal(t, heard(read.Song), heard(got), "%s\n%s\n%s", text, b.String(), out)
		assert.Equal(t, sungOf(read.Song), sungOf(got), "%s\n%s", text, b.String())
	})
}

// heard are the chords as they change, repeats played out.
func heard(s *song.Song) (list []string) {
	bar, last := 0, ""
	for _, p := range s.Parts {
		for _, l := range p.Lines {
			for range l.Times {
				for _, b := range l.Bars {
					bar++
					for _, e := range b.Events {
						if e.Kind == song.Chord && e.Chord.Symbol != last {
							last = e.Chord.Symbol
							list = append(list, fmt.Sprintf("%d %s %s", bar, e.Start, last))
						}
					}
				}
			}
		}
	}
	return list
}

// sungOf is all that is sung, in a row.
func sungOf(s *song.Song) string {
	var list []string
	for _, p := range s.Parts {
		for _, l := range p.Lines {
			for _, verse := range l.Words {
				for _, w := range verse {
					list = append(list, w.Text)
				}
			}
		}
	}
	return strings.Join(list, " ")
}

// The songs of the example studio that are chords come back as they are sung.
func TestSongsComeBack(t *testing.T) {
	for _, name := range []string{"paper-lanterns", "willow-post"} {
		text, err := os.ReadFile(filepath.Join("../../demo/songs", name+".txt"))
		require.NoError(t, err)
		s := sheet.Parse(string(text)).Song
		var b bytes.Buffer
		require.NoError(t, words.Write(&b, s, formtest.AsWritten(s)))
		got, _, _ := taken(t, b.String(), shared.Options{})
		assert.Equal(t, s.Title, got.Title)
		assert.Len(t, got.Parts, len(s.Parts), b.String())
		assert.NotEmpty(t, chordsOf(got))
		assert.Equal(t, sungOf(s), sungOf(got), b.String())
	}
}
