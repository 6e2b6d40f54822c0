package tab

import (
	"context"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
	"valleyside/formats/take"
)

// taken is what becomes of a text, and what was said about it.
func taken(t require.TestingT, text string) (string, take.Problems) {
	var problems take.Problems
	score, err := Read(text, &problems)
	require.NoError(t, err, text)
	s, err := score.Song(context.Background(), score.Usual(), &problems)
	require.NoError(t, err, text)
	out := sheet.Write(s)
	require.True(t, sheet.Parse(out).OK(), out)
	problems = slices.DeleteFunc(problems, func(p take.Problem) bool { return strings.HasPrefix(p.Message, "it says no tempo") })
	return out, problems
}

// bar is a bar of tab with something on the D string, filled up to sixteen columns and the
// one before the first beat.
func bar(signs string) string {
	width := max(17, len(signs))
	empty := strings.Repeat("-", width)
	line := signs + strings.Repeat("-", width-len(signs))
	return "e|" + empty + "|\nB|" + empty + "|\nG|" + empty + "|\nD|" + line + "|\nA|" + empty + "|\nE|" + empty + "|\n"
}

// The signs as people write them, on eighths two columns apart.
func TestSigns(t *testing.T) {
	for signs, want := range map[string]string{
		"-5-7-5-7-5-7-5-7-": "| 5D 7D  5D 7D  5D 7D  5D 7D |",
		"-5h7-5-7":          "| 5D h7D  5D 7D  - -  - - |",
		"-7p5-5-7":          "| 7D p5D  5D 7D  - -  - - |",
		"-5/7-5-7":          "| 5D s7D  5D 7D  - -  - - |",
		`-7\5-5-7`:          "| 7D s5D  5D 7D  - -  - - |",
		"-5s7-5-7":          "| 5D s7D  5D 7D  - -  - - |",
		`-7\--5`:            `| 7D\ 5D - - |`,
		"-x-x-5":            "| xD xD  5D -  - -  - - |",
		"-X-5":              "| xD 5D  - -  - -  - - |",
		"-7~--5":            "| 7D~ 5D - - |",
		"-7b--5":            "| 7Db2 5D - - |",
		"-24--5":            "| 24D 5D - - |",
		"-5-5-5-5-7":        "| 5D 5D  5D 5D  7D -  - - |",
	} {
		got, problems := taken(t, bar(signs))
		assert.Contains(t, got, want, signs)
		assert.Empty(t, problems, signs)
	}
	// What stands on a column of its own, whatever the rhythm is taken to be.
	for signs, want := range map[string][]string{
		"-5-/7-5": {"5D", "/7D"}, "-7b9-5": {"7Db2", "5D"}, "-7b8-5": {"7Db1", "5D"}, "-7b(9)-": {"7Db2"}, "-7b7.5-": {"7Db0.5"}, "-7bf-5": {"7Db2"}, "-7b1/2-5": {"7Db1", "5D"},
		"-7b9r7-5": {"7Db2", "r7D"}, "-t7p5-": {"t7D", "p5D"}, "-<12>-5": {"12Do"}, "-12o-": {"12Do"}, "-12-5": {"12D", "5D"}, "-(5)-7": {"5D", "7D"}, "-5h7p5-": {"h7D", "p5D"}, "-27-": {"2D", "7D"}, `-\7-`: {`\7D`},
	} {
		got, _ := taken(t, bar(signs))
		for _, w := range want {
			assert.Contains(t, got, w, signs)
		}
	}
}

// How the strings are named, and which end is up.
func TestStringNames(t *testing.T) {
	body := func(names string) string {
		var b strings.Builder
		for i, name := range strings.Fields(names) {
			line := "--------"
			if i == 4 {
				line = "-0-2-3--"
			}
			b.WriteString(name + "|" + line + "|\n")
		}
		return b.String()
	}
	for names, want := range map[string]string{
		"e B G D A E": "tuning: standard", "E B G D A E": "tuning: standard", "e B G D A D": "tuning: drop D", "eb Bb Gb Db Ab Eb": "tuning: half step down",
		"d A F C G D": "tuning: whole step down", "d B G D G D": "tuning: open G", "1 2 3 4 5 6": "tuning: standard", "e B G D A C": "tuning: C A D G B E",
	} {
		got, _ := taken(t, body(names))
		assert.Contains(t, got, want, names)
		assert.Contains(t, got, "0A 2A 3A", names)
	}
	// The thick string on top: the fifth line from there is the B string.
	for _, names := range []string{"E A D G B e", "6 5 4 3 2 1"} {
		got, _ := taken(t, body(names))
		assert.Contains(t, got, "0B 2B 3B", names)
	}
	_, problems := taken(t, body("e B G D A E")+"\n"+"E|---0---|\nA|---0---|\nE|---0---|\nE|---0---|\n")
	assert.Contains(t, problems.String(), "4 strings tuned like that are no guitar's")
	_, err := Read("just words\n", new(take.Problems))
	assert.ErrorContains(t, err, "six lines under one another")
}

// Bars, repeats and what stands around them.
func TestRepeatsAndParts(t *testing.T) {
	six := func(lines string) string {
		var b strings.Builder
		for _, name := range strings.Fields("e B G D A E") {
			b.WriteString(name + lines + "\n")
		}
		return strings.Replace(b.String(), "A"+lines, "A"+strings.Replace(strings.Replace(lines, "----", "0-2-", 1), "----", "3-2-", 1), 1)
	}
	got, _ := taken(t, six("|:--------|--------:|"))
	assert.Contains(t, got, "| x2")
	got, _ = taken(t, six("|--------|--------| x3"))
	assert.Contains(t, got, "| x3")
	got, _ = taken(t, "Intro x2\n"+six("|--------|")+"\nVerse 1:\n"+six("|--------|")+"\n[Pre-Chorus]\n"+six("|--------|--------|"))
	assert.Contains(t, got, "order: Intro x2, Verse 1, Pre-Chorus")
	got, _ = taken(t, six("||--------||--------||"))
	assert.Equal(t, 2, strings.Count(got, "0A")+strings.Count(got, "3A"), got)
	got, _ = taken(t, "e---------\nB---------\nG---------\nD---------\nA-0-2-3-2-\nE---------\n")
	assert.Contains(t, got, "0A 2A 3A 2A", "without any bar line")
}

// Notes that are as far from each other as they are long come back in their rhythm, however
// wide the spacing is, as far as a teacher would be sure of it.
func TestEvenSpacing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		slots := rapid.SampledFrom([]int{4, 8, 16}).Draw(t, "slots")
		wide := rapid.IntRange(2, 4).Draw(t, "wide")
		line := []byte("-" + strings.Repeat("-", slots*wide))
		var want []string
		struck := 0
		for i := range slots {
			if i == 0 || rapid.Bool().Draw(t, "struck") {
				line[1+i*wide] = '5'
				struck++
				want = append(want, "5D")
			} else {
				want = append(want, "-")
			}
		}
		empty := strings.Repeat("-", len(line))
		got, problems := taken(t, "e|"+empty+"|\nB|"+empty+"|\nG|"+empty+"|\nD|"+string(line)+"|\nA|"+empty+"|\nE|"+empty+"|\n")
		require.Empty(t, problems)
		as := sheet.Write(sheet.Parse("title: Without a title\ntime: 4/4\ntempo: 100\ntuning: standard\n\nAll:\n| " + strings.Join(want, " ") + " |\n").Song)
		assert.Equal(t, as, got, string(line))
	})
}

// The count below the strings is believed more than their spacing.
func TestCounted(t *testing.T) {
	text := strings.Join([]string{
		"e|------------------|", "B|------------------|", "G|------------------|", "D|-5---7-5---7------|", "A|------------------|", "E|------------------|", "   1   & 2   a 3  4 ", ""}, "\n")
	got, problems := taken(t, text)
	assert.Empty(t, problems)
	assert.Contains(t, got, "| (5D - 7D - 5D - - 7D) -", "the seventh fret on the and of one, and on the last sixteenth of two: "+got)
}

// The letters of the fingers that pluck stand over their columns and come back: those
// that any hand would take are left out again, and a chord keeps its name.
func TestPlucks(t *testing.T) {
	for _, bars := range []string{
		"pluck: yes\n| Am C | 0E 2D:i 2G:m 0B:a |",
		"pluck: yes\n| 0E:m 2D 2G 3A+0B | 0E 2D 2G 0B |",
		"| 0E:m 2D:i 2G:m 0B | 3A:p 0G 1B 0G |",
	} {
		s, text := again(t, sheettest.Read(t, "A:\n"+bars+"\n"))
		assert.Contains(t, sheet.Write(s), bars, text)
	}
}
