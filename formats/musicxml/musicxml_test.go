package musicxml

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
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
	score, err := Read(b.Bytes(), &problems)
	require.NoError(t, err)
	got, err := score.Song(context.Background(), score.Usual(), &problems)
	require.NoError(t, err)
	require.Empty(t, problems)
	text := sheet.Write(got)
	read := sheet.Parse(text)
	require.True(t, read.OK(), "%v\n%s", read.Problems, text)
	return read.Song, text
}

// Any song that is written and read sounds the same, in as many parts.
func TestRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := sheettest.Song(t)
		got, text := again(t, s)
		assert.Equal(t, formtest.Strikes(s), formtest.Strikes(got), "%s\nfrom\n%s", text, sheet.Write(s))
		assert.Len(t, got.Parts, len(s.Parts), text)
	})
}

// The songs of the example studio come back as they were typed, but for the layout of
// their slots, comments and rests in a row.
func TestSongsComeBack(t *testing.T) {
	names, err := filepath.Glob("../../demo/songs/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, names)
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		s := sheet.Parse(string(text)).Song
		got, _ := again(t, s)
		assert.Equal(t, sheet.Write(plain(s)), sheet.Write(plain(got)), name)
	}
}

// plain is a song without the rests that follow a rest.
func plain(s *song.Song) *song.Song {
	out := *s
	out.Parts = nil
	for _, p := range s.Parts {
		lines := p.Lines
		p.Lines = nil
		silent := map[string]bool{}
		bars := func(player string, list []song.Bar) (kept []song.Bar) {
			for _, b := range list {
				events := b.Events
				b.Events = nil
				for _, e := range events {
					if rest := e.Kind == song.Rest; !rest || !silent[player] {
						b.Events = append(b.Events, e)
					}
					silent[player] = e.Kind == song.Rest
				}
				kept = append(kept, b)
			}
			return kept
		}
		for _, l := range lines {
			l.Bars = bars("", l.Bars)
			beside := l.Beside
			l.Beside = nil
			for _, v := range beside {
				v.Bars = bars(v.Player, v.Bars)
				l.Beside = append(l.Beside, v)
			}
			p.Lines = append(p.Lines, l)
		}
		out.Parts = append(out.Parts, p)
	}
	return &out
}

// What not everybody plays, the bars that nobody is sure of and how a part sounds come back.
func TestDoubtsComeBack(t *testing.T) {
	s := sheettest.Read(t, "A:\nsound: clean, neck pickup\n| 7A? h9A - 3D+5G? - xA? 5A 7A? ? | [2/4] 0E /3A? ? | 0A 2D |\nlead | 5A+5D? . ? | [2/4] 12Do? - | 0A? - |\n")
	got, text := again(t, s)
	got.Title = s.Title
	assert.Equal(t, sheet.Write(s), sheet.Write(got), text)
}

// Fingers that are typed come back, those that anybody would be given are not typed for
// it; a part without a pick is one again.
func TestFingersComeBack(t *testing.T) {
	s := sheettest.Read(t, "A:\n| 5A:4 7A 3D+5G 7Gb2 | G=320003:32xxx4 - C - | 3E 2A - 3E |\nB:\npluck: yes\n| 3A 0G 1B 0G |\nC:\n| 3A:p 0G:m 1B:a 0G:m |\n")
	got, text := again(t, s)
	got.Title = s.Title
	assert.Equal(t, sheet.Write(s), sheet.Write(got), text)
}
