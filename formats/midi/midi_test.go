package midi

import (
	"bytes"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"gitlab.com/gomidi/midi/v2/smf"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
	"valleyside/core/song"
	"valleyside/formats/take"
)

func asWritten(s *song.Song) []play.Music {
	return play.Arrange(s, arrange.Options{}, func(int) play.Choice {
		return play.Choice{Rung: arrange.AsWritten, Way: arrange.Way{FullRhythm: true}}
	})
}

// file is a song as a file, and its timeline.
func file(t require.TestingT, s *song.Song) ([]byte, *play.Timeline) {
	tl := play.Of(s, asWritten(s), play.Options{})
	var b bytes.Buffer
	require.NoError(t, Write(&b, s, tl, s.Tempo))
	return b.Bytes(), tl
}

// heard is what a file sounds: when, for how long in seconds, and which key.
func heard(t require.TestingT, data []byte) (list []string, tracks []string) {
	f, err := smf.ReadFrom(bytes.NewReader(data))
	require.NoError(t, err)
	for _, track := range f.Tracks {
		now := int64(0)
		on := map[[2]uint8]int64{}
		for _, e := range track {
			now += int64(e.Delta)
			var ch, key, loud uint8
			var name string
			switch {
			case e.Message.GetMetaTrackName(&name):
				tracks = append(tracks, name)
			case e.Message.GetNoteStart(&ch, &key, &loud):
				on[[2]uint8{ch, key}] = now
			case e.Message.GetNoteEnd(&ch, &key):
				from := on[[2]uint8{ch, key}]
				if ch != drums {
					list = append(list, fmt.Sprintf("%03d %07.2f %07.2f", key, seconds(f, from), seconds(f, now)))
				}
			}
		}
	}
	slices.Sort(list)
	return list, tracks
}

func seconds(f *smf.SMF, tick int64) float64 { return math.Round(float64(f.TimeAt(tick))/1e4) / 100 }

// Every string that is struck is in the file, at its time to a hundredth of a second and
// at the pitch of its fret.
func TestFilesSoundAsTheTimeline(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := sheettest.Song(t)
		data, tl := file(t, s)
		got, tracks := heard(t, data)
		var want []string
		for _, k := range tl.Strikes {
			if k.How != play.Dead {
				want = append(want, fmt.Sprintf("%03d %07.2f %07.2f", int(k.Pitch.Pitch())-(k.Bend+50)/100, k.At, k.At+k.Length))
			}
		}
		require.Len(t, got, len(want))
		for _, w := range want {
			i := slices.IndexFunc(got, func(g string) bool { return near(w, g) })
			require.GreaterOrEqual(t, i, 0, "%s is not among %v", w, got)
			got = slices.Delete(got, i, i+1)
		}
		assert.Equal(t, s.Title, tracks[0])
		assert.Equal(t, "Click", tracks[len(tracks)-1])
	})
}

// near allows for a hundredth that is rounded the other way.
func near(a, b string) bool {
	var x, y [3]float64
	fmt.Sscanf(a, "%f %f %f", &x[0], &x[1], &x[2])
	fmt.Sscanf(b, "%f %f %f", &y[0], &y[1], &y[2])
	return x[0] == y[0] && math.Abs(x[1]-y[1]) < 0.011 && math.Abs(x[2]-y[2]) < 0.011
}

// rhythm is when what sounds of the first player, by bar and place, with pitches.
func rhythm(s *song.Song) (list []string) {
	tl := play.Of(s, asWritten(s), play.Options{})
	for _, k := range tl.Strikes {
		if k.How != play.Dead && k.Player == "" {
			list = append(list, fmt.Sprintf("%d %s %d", k.Bar, k.Start, int(k.Pitch.Pitch())))
		}
	}
	slices.Sort(list)
	return list
}

// The songs of the example studio come back with every note at its place in its bar, also
// where a hand was up to 15 ms off, and with their feel.
func TestSongsComeBack(t *testing.T) {
	names, err := filepath.Glob("../../demo/songs/*.txt")
	require.NoError(t, err)
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		s := sheet.Parse(string(text)).Song
		data, _ := file(t, s)
		for _, off := range []float64{0, 0.015} {
			var problems take.Problems
			score, err := Read(jitter(t, data, off), &problems)
			require.NoError(t, err, name)
			got, err := score.Song(score.Usual(), &problems)
			require.NoError(t, err, name)
			assert.Equal(t, rhythm(s), rhythm(got), "%s, %v off\n%s", name, off, sheet.Write(got))
			assert.Equal(t, s.Feel, got.Feel, "%s, %v off", name, off)
			assert.InDelta(t, s.Tempo, got.Tempo, 0.01)
		}
	}
}

// jitter moves every note by up to so many seconds.
func jitter(t *testing.T, data []byte, off float64) []byte {
	if off == 0 {
		return data
	}
	f, err := smf.ReadFrom(bytes.NewReader(data))
	require.NoError(t, err)
	r := rand.New(rand.NewPCG(1, 2))
	out := smf.NewSMF1()
	out.TimeFormat = f.TimeFormat
	for _, track := range f.Tracks {
		now := int64(0)
		var list []timed
		for i, e := range track {
			now += int64(e.Delta)
			at := now
			var ch, key, loud uint8
			order := i
			if e.Message.GetNoteStart(&ch, &key, &loud) || e.Message.GetNoteEnd(&ch, &key) {
				at += int64((r.Float64()*2 - 1) * off * float64(Resolution) * 100 / 60)
			}
			if string(e.Message) != string(smf.EOT) {
				list = append(list, timed{max(at, 0), order, e.Message})
			}
		}
		require.NoError(t, out.Add(line(list, now)))
	}
	b, err := out.Bytes()
	require.NoError(t, err)
	return b
}
