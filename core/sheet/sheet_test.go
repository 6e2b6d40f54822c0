package sheet

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
	"pgregory.net/rapid"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

var update = flag.Bool("update", false, "rewrite the golden files")

// Each file holds a sheet and what it becomes: its problems, its canonical
// layout, and its events in words.
func TestGolden(t *testing.T) {
	files, err := filepath.Glob("testdata/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files {
		t.Run(strings.TrimSuffix(filepath.Base(file), ".txt"), func(t *testing.T) {
			archive, err := txtar.ParseFile(file)
			require.NoError(t, err)
			in := string(archive.Files[0].Data)
			s := Parse(in)
			got := map[string]string{"problems": problems(s), "format": s.Format(), "events": events(s.Song)}
			if *update {
				archive.Files = archive.Files[:1]
				for _, name := range []string{"problems", "format", "events"} {
					archive.Files = append(archive.Files, txtar.File{Name: name, Data: []byte(got[name])})
				}
				require.NoError(t, os.WriteFile(file, txtar.Format(archive), 0o644))
			}
			require.Len(t, archive.Files, 4)
			for _, f := range archive.Files[1:] {
				assert.Equal(t, string(f.Data), got[f.Name], f.Name)
			}
			if s.OK() {
				sameAfterFormat(t, s)
			}
		})
	}
}

func problems(s *Sheet) string {
	var b strings.Builder
	for _, p := range s.Problems {
		fmt.Fprintln(&b, p)
	}
	return b.String()
}

func events(s *song.Song) string {
	var b strings.Builder
	for i := range s.Parts {
		p := &s.Parts[i]
		fmt.Fprintf(&b, "%s: %s, %s, %g, %s\n", p.Name, p.Key, p.Meter, p.Tempo, p.Feel)
		for _, l := range p.Lines {
			voices := append([]song.Voice{{Bars: l.Bars, Times: l.Times}}, l.Beside...)
			for _, v := range voices {
				for _, bar := range v.Bars {
					fmt.Fprintf(&b, "  %s×%d", v.Player, v.Times)
					for _, e := range bar.Events {
						fmt.Fprintf(&b, " %s+%s=%s", e.Start, e.Length, FormatEvent(&e))
					}
					b.WriteByte('\n')
				}
			}
			for _, verse := range l.Words {
				b.WriteString("  words")
				for _, w := range verse {
					fmt.Fprintf(&b, " %d:%s=%s", w.Bar+1, w.Start, w.Text)
				}
				b.WriteByte('\n')
			}
		}
	}
	for _, step := range s.Order {
		fmt.Fprintf(&b, "%s x%d, ", s.Parts[step.Part].Name, step.Times)
	}
	return strings.TrimSuffix(b.String(), ", ") + "\n"
}

func sameAfterFormat(t require.TestingT, s *Sheet) {
	text := s.Format()
	again := Parse(text)
	require.True(t, again.OK(), "%s\n%v", text, again.Problems)
	require.Equal(t, placeless(s.Song), placeless(again.Song))
	require.Equal(t, text, again.Format(), "formatting twice changes nothing")
	written := Write(s.Song)
	read := Parse(written)
	require.True(t, read.OK(), "%s\n%v", written, read.Problems)
	require.Equal(t, placeless(s.Song), placeless(read.Song), "%s", written)
	require.Equal(t, written, Write(read.Song), "writing twice changes nothing")
}

// placeless is a copy of a song in which events do not know where they stand
// in the text.
func placeless(s *song.Song) song.Song {
	clear := func(bars []song.Bar) []song.Bar {
		bars = slices.Clone(bars)
		for i := range bars {
			bars[i].Events = slices.Clone(bars[i].Events)
			for j := range bars[i].Events {
				bars[i].Events[j].Line, bars[i].Events[j].Column = 0, 0
			}
		}
		return bars
	}
	c := *s
	c.Parts = slices.Clone(s.Parts)
	for i := range c.Parts {
		lines := slices.Clone(c.Parts[i].Lines)
		for j := range lines {
			lines[j].Bars = clear(lines[j].Bars)
			lines[j].Beside = slices.Clone(lines[j].Beside)
			for k := range lines[j].Beside {
				lines[j].Beside[k].Bars = clear(lines[j].Beside[k].Bars)
			}
		}
		c.Parts[i].Lines = lines
	}
	return c
}

func TestLimits(t *testing.T) {
	bar := "| 0A |\n"
	slots := func(n int) string { return "| " + strings.Repeat("0A ", n) + "|\n" }
	parts := func(n int) string {
		var b strings.Builder
		for i := range n {
			fmt.Fprintf(&b, "P%d:\n%s", i, bar)
		}
		return b.String()
	}
	cases := []struct {
		name, body string
		message    string // empty: no error
	}{
		{"64 slots", "A:\n" + slots(64), ""},
		{"65 slots", "A:\n" + slots(65), "65 slots"},
		{"64 parts", parts(64), ""},
		{"65 parts", parts(65), "more than 64 parts"},
		{"2000 bars", "A:\n" + strings.Repeat(bar, 2000), ""},
		{"2001 bars", "A:\n" + strings.Repeat(bar, 2001), "more than 2000 bars"},
		{"3 deep", "A:\n| (0A (0A (0A 0A))) |", ""},
		{"4 deep", "A:\n| (0A (0A (0A (0A 0A)))) |", "more than 3 deep"},
		{"fret 24", "A:\n| 24e |", ""},
		{"fret 25", "A:\n| 25e |", "fret 25 is off the neck"},
		{"tempo 20", "tempo: 20", ""},
		{"tempo 19", "tempo: 19", "not a tempo"},
		{"tempo 401", "tempo: 401", "not a tempo"},
		{"200 KB", "A:\n" + strings.Repeat("# a comment\n", 18000), "limit is 200 KB"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			s := Parse("title: T\n" + c.body)
			if c.message == "" {
				assert.True(t, s.OK(), "%v", s.Problems)
				return
			}
			assert.False(t, s.OK())
			assert.Contains(t, problems(s), c.message)
			assert.NotEmpty(t, s.Format(), "the text is kept")
		})
	}
}

func TestEveryProblemSaysHowToMendIt(t *testing.T) {
	files, _ := filepath.Glob("testdata/*.txt")
	for _, file := range files {
		archive, err := txtar.ParseFile(file)
		require.NoError(t, err)
		lines := strings.Split(string(archive.Files[0].Data), "\n")
		for _, p := range Parse(string(archive.Files[0].Data)).Problems {
			assert.NotEmpty(t, p.Message, p)
			assert.NotEmpty(t, p.Mend, p)
			require.LessOrEqual(t, p.Line, len(lines))
			assert.LessOrEqual(t, p.Column, len([]rune(lines[p.Line-1]))+1, p)
			assert.Positive(t, p.Column)
		}
	}
}

// A bar's events and the hold before them fill the bar exactly.
func TestEventsFillTheirBars(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := Parse(drawSheet(t))
		require.True(t, s.OK(), "%v", s.Problems)
		for i := range s.Song.Parts {
			p := &s.Song.Parts[i]
			at, end := pitch.Whole(0), pitch.Whole(0)
			for _, bar := range p.Bars() {
				for _, e := range bar.Events {
					require.Equal(t, end, at.Add(e.Start), "an event begins where the last one ends")
					end = at.Add(e.Start).Add(e.Length)
				}
				at = at.Add(p.Meter.Bar())
			}
			require.Equal(t, at, end)
		}
		sameAfterFormat(t, s)
	})
}

// drawSheet draws a sheet without errors.
func drawSheet(t *rapid.T) string {
	slot := rapid.SampledFrom([]string{"0A", "3A+5D", "h7G", "12e", "7Gb2~", "5Ab0.5", "xA", "x", ".", "-", "NC", "Em7", "C/G",
		"D5=x577xx", "F#m7b5", "A5!v", "x^", "7A*!", "12Do", "0E'", "C7(b9)*"})
	var draw func(depth int) string
	draw = func(depth int) string {
		if depth < MaxNesting && rapid.IntRange(0, 7).Draw(t, "kind") == 0 {
			n := rapid.IntRange(1, 3).Draw(t, "n")
			inner := make([]string, n)
			for i := range inner {
				inner[i] = draw(depth + 1)
			}
			return "(" + strings.Join(inner, "  ") + ")"
		}
		return slot.Draw(t, "slot")
	}
	var b strings.Builder
	b.WriteString("title: Drawn\n# a comment\n\nkey: " + rapid.SampledFrom([]string{"Am", "Eb major", "D dorian"}).Draw(t, "key") + "\n")
	meter := rapid.SampledFrom([]string{"4/4", "6/8", "7/8", "3/4"})
	for part := range rapid.IntRange(1, 3).Draw(t, "parts") {
		fmt.Fprintf(&b, "Part %d:\ntime: %s\n", part, meter.Draw(t, "time"))
		for range rapid.IntRange(1, 3).Draw(t, "lines") {
			b.WriteString("| 0A")
			for bar := range rapid.IntRange(1, 4).Draw(t, "bars") {
				if bar > 0 {
					b.WriteString(" | " + rapid.SampledFrom([]string{"%", "", ""}).Draw(t, "same"))
					if strings.HasSuffix(b.String(), "%") {
						continue
					}
				}
				for range rapid.IntRange(1, 6).Draw(t, "slots") {
					b.WriteString(" " + draw(0))
				}
			}
			b.WriteString(" |" + rapid.SampledFrom([]string{"", " x2", " ×3"}).Draw(t, "times") + "\n")
		}
	}
	return b.String()
}

func FuzzParse(f *testing.F) {
	files, _ := filepath.Glob("testdata/*.txt")
	for _, file := range files {
		if archive, err := txtar.ParseFile(file); err == nil {
			f.Add(string(archive.Files[0].Data))
		}
	}
	f.Add("title: x\nA:\n| (((( | % | x3\nlead | 7A+ |")
	f.Fuzz(func(t *testing.T, text string) {
		s := Parse(text)
		formatted := s.Format()
		if s.OK() {
			sameAfterFormat(t, s)
			return
		}
		again := Parse(formatted)
		if utf8.ValidString(text) && len(text) <= MaxBytes && len(formatted) <= MaxBytes && again.OK() {
			t.Fatalf("formatting has lost an error: %v\n%q\n%q", s.Problems, text, formatted)
		}
	})
}

// A part that is like another is what it would be with its bars written out, but for
// the bars that it replaces.
func TestLikeIsAsWrittenOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		bar := func(label string) string {
			var slots []string
			for range rapid.IntRange(1, 4).Draw(t, "slots") {
				slots = append(slots, rapid.SampledFrom([]string{"0A", "3A", "-", ".", "Am", "x", "(5D 7D)", "7Gb2"}).Draw(t, label))
			}
			return rapid.SampledFrom([]string{"", "", "[2/4] "}).Draw(t, "time") + strings.Join(slots, " ")
		}
		settings := "tempo: 90\n" + rapid.SampledFrom([]string{"", "pickup: 1\n", "ring: yes\nmute: palm\n"}).Draw(t, "settings")
		verse, last, replacing := "", "", ""
		written := 0
		for range rapid.IntRange(1, 3).Draw(t, "lines") {
			times := rapid.IntRange(1, 3).Draw(t, "times")
			for range rapid.IntRange(1, 3).Draw(t, "bars") {
				written++
				text := bar("slot")
				verse += "| " + text + " "
				if rapid.Bool().Draw(t, "replaced") {
					text = bar("other slot")
					replacing += fmt.Sprintf("%d | %s |\n", written, text)
				}
				last += "| " + text + " "
			}
			end := fmt.Sprintf("| x%d\n", times)
			verse, last = verse+end, last+end
		}
		head := "title: T\nVerse:\n" + settings + verse + "Last:\n"
		like, out := Parse(head+"like: Verse\n"+replacing), Parse(head+settings+last)
		require.True(t, like.OK(), "%v", like.Problems)
		require.True(t, out.OK(), "%v", out.Problems)
		require.Equal(t, events(out.Song), events(like.Song))
		sameAfterFormat(t, like)
	})
}

// A rhythm is written in the fewest slots, what comes again as it was typed, and a
// part that is nearly another as like it.
func TestWrite(t *testing.T) {
	s := Parse("title: T\ntempo: 96\ncapo: 2\norder: A x2, B\nA:\nfeel: swing\npickup: 1/2\nring: yes\n| 0A | 0A - - - 3A - - - | (0A 3A) (5A -) 7A - - - - - | 0A - - 3A - 5A - - | 0A 3A 5A 7A 0A 3A | x3\n" +
		"words | | one / two | | three | |\nlead | . | 7G - | % | 5G | % | x3\nB:\nlike: A\nfeel: straight\n4 | [2/4] C - G - |\n")
	require.True(t, s.OK(), "%v", s.Problems)
	assert.Equal(t, `title: T
time: 4/4
tempo: 96
tuning: standard
capo: 2
order: A x2, B

A:
feel: swing
pickup: 1/2
ring: yes
      | 0A | 0A 3A     | (0A 3A 5A -) 7A - - | 0A -  - 3A  - 5A  - - | 0A 3A 5A 7A 0A 3A | x3
words |    | one / two |                     | three                 |                   |
lead  | .  | 7G        | %                   | 5G                    | %                 | x3

B:
like: A
feel: straight
4      | [2/4] C G |
4 lead | [2/4] 5G  |
`, Write(s.Song))
	again := Parse(Write(s.Song))
	assert.Equal(t, events(s.Song), events(again.Song))
}

func BenchmarkWrite(b *testing.B) {
	var text strings.Builder
	text.WriteString("title: T\nA:\n")
	for range 25 {
		text.WriteString("| 0A - 3A 5A 2D - (5A 3A) x | 3D+5G - - - Am - - - | C - G - | (0A 2A 3A) 5A - - - - - - |\n")
	}
	s := Parse(text.String())
	b.ReportAllocs()
	for b.Loop() {
		Write(s.Song)
	}
}
