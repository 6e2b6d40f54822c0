package tab

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
	"valleyside/core/song"
	"valleyside/formats/formtest"
	"valleyside/formats/take"
)

// again is a song that was written and read.
func again(t require.TestingT, s *song.Song) (*song.Song, string) {
	var b bytes.Buffer
	require.NoError(t, Write(&b, s, formtest.AsWritten(s)))
	var problems take.Problems
	score, err := Read(b.String(), &problems)
	require.NoError(t, err, b.String())
	got, err := score.Song(context.Background(), score.Usual(), &problems)
	require.NoError(t, err)
	require.Empty(t, problems, b.String())
	read := sheet.Parse(sheet.Write(got))
	require.True(t, read.OK(), "%v\n%s", read.Problems, b.String())
	return read.Song, b.String()
}

// Any song that is written as tab and read again sounds the same.
func TestRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := sheettest.Song(t)
		got, text := again(t, s)
		assert.Equal(t, formtest.Strikes(s), formtest.Strikes(got), "%s\nread as\n%s\nfrom\n%s", text, sheet.Write(got), sheet.Write(s))
	})
}

func TestSongsComeBack(t *testing.T) {
	names, err := filepath.Glob("../../demo/songs/*.txt")
	require.NoError(t, err)
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		s := sheet.Parse(string(text)).Song
		got, text2 := again(t, s)
		assert.Equal(t, formtest.Strikes(s), formtest.Strikes(got), "%s\n%s\n%s", name, text2, sheet.Write(got))
		assert.Equal(t, sung(s), sung(got), text2)
	}
}

// sung is what is sung, part by part.
func sung(s *song.Song) (list []string) {
	for _, p := range s.Parts {
		bar := 0
		for _, l := range p.Lines {
			for v, verse := range l.Words {
				for _, w := range verse {
					list = append(list, fmt.Sprintf("%s %02d %d %s %s", p.Name, bar+w.Bar, v, w.Start, w.Text))
				}
			}
			bar += len(l.Bars)
		}
	}
	slices.Sort(list)
	return list
}

// What not everybody plays, the bars that nobody is sure of and how a part sounds come back.
func TestDoubtsComeBack(t *testing.T) {
	s := sheettest.Read(t, "A:\nsound: clean, neck pickup\n| 7A? h9A - 3D+5G? - xA? 5A 7A? ? | [2/4] 0E /3A? ? | 0A 2D |\nlead | 5A+5D? . ? | [2/4] 12Do? - | 0A? - |\n")
	got, text := again(t, s)
	got.Title = s.Title
	assert.Equal(t, sheet.Write(s), sheet.Write(got), text)
}
