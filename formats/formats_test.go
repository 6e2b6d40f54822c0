package formats

import (
	"bytes"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/tools/txtar"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/formats/shared"
	"valleyside/formats/take"
)

// Files of other programs, each with what a teacher would make of it: the sheet or the
// pitches that are played, and what had to be said. The answers were written before the
// program gave them.
func TestForeign(t *testing.T) {
	names, err := filepath.Glob("testdata/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, names)
	for _, name := range names {
		t.Run(filepath.Base(name), func(t *testing.T) {
			a, err := txtar.ParseFile(name)
			require.NoError(t, err)
			in := a.Files[0]
			r, err := Read(t.Context(), in.Data, Options{})
			require.NoError(t, err)
			text, problems, err := r.Take(t.Context(), r.Usual())
			require.NoError(t, err)
			for _, want := range a.Files[1:] {
				switch want.Name {
				case "sheet":
					assert.Equal(t, string(want.Data), text)
				case "pitches":
					assert.Equal(t, strings.TrimSpace(string(want.Data)), pitches(text), text)
				case "problems":
					var said []string
					for _, p := range problems {
						said = append(said, p.String())
					}
					assert.Equal(t, strings.TrimSpace(string(want.Data)), strings.Join(said, "\n"))
				}
			}
			assert.True(t, sheet.Parse(text).OK(), text)
		})
	}
}

// pitches are what is played of a sheet, in the order of time.
func pitches(text string) string {
	s := sheet.Parse(text).Song
	music := play.Arrange(s, arrange.Options{}, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} })
	var list []string
	for _, k := range play.Of(s, music, play.Options{}).Strikes {
		list = append(list, k.Pitch.String())
	}
	return strings.Join(list, " ")
}

// What something is is found out from what is in it.
func TestDetect(t *testing.T) {
	song := sheet.Parse("title: T\n\nA:\n| Em 0A 3A 5A |\n").Song
	p := Of(song, arrange.Options{}, -1, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} })
	p.Sheet = sheet.Write(song)
	for _, f := range Out() {
		var b bytes.Buffer
		require.NoError(t, Write(&b, f, p), f)
		got, err := Detect(b.Bytes())
		if f == WAV {
			assert.ErrorContains(t, err, "recording")
			continue
		}
		require.NoError(t, err, f)
		assert.Equal(t, f, got)
	}
	for text, want := range map[string]string{
		"": "empty", "  \n": "empty", "Dear all,\nthe lesson is at nine.\n": "neither a sheet, nor tab",
		"\x7fELF\x00\x00": "no text",
	} {
		_, err := Detect([]byte(text))
		assert.ErrorContains(t, err, want)
	}
}

// A text is read in whatever letters it was saved.
func TestLetters(t *testing.T) {
	const text = "Café Tür\n\nAm  G\nÜber die Brücke\n"
	latin, err := charmap.Windows1252.NewEncoder().String(text)
	require.NoError(t, err)
	wide := func(e unicode.Endianness, mark unicode.BOMPolicy, text string) string {
		out, err := unicode.UTF16(e, mark).NewEncoder().String(text)
		require.NoError(t, err)
		return out
	}
	crlf := strings.ReplaceAll(text, "\n", "\r\n")
	for name, data := range map[string]string{
		"UTF-8": text, "with a mark": "\ufeff" + text, "of Windows": latin, "lines of Windows": crlf, "lines of old": strings.ReplaceAll(text, "\n", "\r"),
		"UTF-16": wide(unicode.LittleEndian, unicode.UseBOM, crlf), "the other way": wide(unicode.BigEndian, unicode.UseBOM, text),
		"without a mark": wide(unicode.LittleEndian, unicode.IgnoreBOM, "Cafe\n\nAm  G\nUber die Bruck\n"),
	} {
		out, err := readAll(t.Context(), []byte(data), "")
		require.NoError(t, err, name)
		if name != "without a mark" {
			assert.Contains(t, out, "title: Café Tür\n", name)
			assert.Contains(t, out, "words | Über | die Brücke |", name)
		}
		assert.Contains(t, out, "| Am ", name)
	}
	out, err := readAll(t.Context(), []byte("title: Café\r\rA:\r| Am | G |\r"), "")
	require.NoError(t, err)
	assert.Contains(t, out, "A:\n| Am | G |\n", "a sheet as well")
}

// What a line is taken for can be said; then it is read so.
func TestLinesToldOtherwise(t *testing.T) {
	const text = "Low Field\n\nAm G\nwalk on\nstay by me\nC D Q7\nfar\n"
	read := func(as map[int]shared.Kind) (string, []shared.Line) {
		r, err := Read(t.Context(), []byte(text), Options{As: as})
		require.NoError(t, err)
		out, _, err := r.Take(t.Context(), r.Usual())
		require.NoError(t, err)
		return out, r.Lines
	}
	out, lines := read(nil)
	kinds := []shared.Kind{}
	for _, l := range lines {
		kinds = append(kinds, l.As)
	}
	assert.Equal(t, []shared.Kind{shared.Title, shared.Blank, shared.Chords, shared.Words, shared.LeftOut, shared.LeftOut, shared.LeftOut, shared.Blank}, kinds)
	assert.NotContains(t, out, "| C")
	out, lines = read(map[int]shared.Kind{4: shared.Part, 5: shared.Chords, 0: shared.LeftOut})
	assert.Contains(t, out, "stay by me:\n")
	assert.Contains(t, out, "| C   | D |")
	assert.NotContains(t, out, "Low Field")
	assert.Equal(t, shared.Words, lines[6].As)
	assert.True(t, lines[5].Told)
}

// Who stands below the lines of the first player plays beside them, system by system.
func TestBesideTheLinesAbove(t *testing.T) {
	a, err := txtar.ParseFile("testdata/shared-guitar-and-bass.txt")
	require.NoError(t, err)
	r, err := Read(t.Context(), a.Files[0].Data, Options{})
	require.NoError(t, err)
	out, _, err := r.Take(t.Context(), take.Choice{First: 0, Beside: []int{1}})
	require.NoError(t, err)
	var lines []string
	for _, l := range strings.Split(out, "\n") {
		if strings.Contains(l, "|") {
			lines = append(lines, strings.Join(strings.Fields(l), " "))
		}
	}
	assert.Equal(t, []string{"| 2G 2G 4G 4G |", "Bass | 0A |", "| 5G 5G 7G 7G |", "| 9G 9G 9G 9G |", "Bass | 3A |"}, lines, out)
}

// A repeat that is longer than can be played out ends the song there; nothing behind it is taken.
func TestRepeatBeyondAllBars(t *testing.T) {
	note := `<note><pitch><step>C</step><octave>4</octave></pitch><duration>4</duration></note>`
	bar := `<measure number="1">` + note + `</measure>`
	long := `<measure number="1"><barline><repeat direction="forward"/></barline>` + note + `</measure>` + strings.Repeat(bar, 299) + `<measure number="1">` + note + `<barline><repeat direction="backward" times="99"/></barline></measure>`
	last := strings.Replace(bar, "<step>C", "<direction><direction-type><rehearsal>Last</rehearsal></direction-type></direction><note><pitch><step>E", 1)
	last = strings.Replace(last, "<note><pitch><direction>", "<direction>", 1)
	out, err := readAll(t.Context(), []byte(scoreOf(long+last)), "")
	require.NoError(t, err)
	assert.NotContains(t, out, "Last:")
}

// Parts that are only named are those of their names again, however many follow one another.
func TestPartsAgain(t *testing.T) {
	const parts = "Low Barn\nTempo: 90\n\n[Verse]\n| Am | F |\n\n[Chorus]\n| C | G |\n\n"
	for more, want := range map[string]string{
		"[Verse]\n\n[Chorus]\n\n[Chorus]\n":              "order: Verse, Chorus, Verse, Chorus x2\n",
		"[Chorus]\n[Chorus] x2\n[Verse]\n":               "order: Verse, Chorus x4, Verse\n",
		"{chorus}\n{chorus}\n\n[Outro]\n| Am |\n":        "order: Verse, Chorus x3, Outro\n",
		"(repeat chorus)\n\nVerse:\n":                    "order: Verse, Chorus x2, Verse\n",
		"[Verse]\n| Dm | F |\n\n[Chorus]\n\n[Nowhere]\n": "order: Verse, Chorus, Verse 2, Chorus\n",
	} {
		out, err := readAll(t.Context(), []byte(parts+more), "")
		require.NoError(t, err, more)
		assert.Contains(t, out, want, "%s\n%s", more, out)
	}
}
