package formats

import (
	"bytes"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/sheet"
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
