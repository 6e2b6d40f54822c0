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

	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
	"valleyside/core/song"
	"valleyside/formats/formtest"
	"valleyside/formats/take"
)

// file is a song as a file, and its timeline.
func file(t require.TestingT, s *song.Song) ([]byte, *play.Timeline) {
	tl := play.Of(s, formtest.AsWritten(s), play.Options{})
	var b bytes.Buffer
	require.NoError(t, Write(&b, s, tl, s.Tempo))
	return b.Bytes(), tl
}

// tone is a key that sounds from a moment to another, in seconds.
type tone struct {
	key      int
	from, to float64
}

// heard is what a file sounds.
func heard(t require.TestingT, data []byte) (list []tone, tracks []string) {
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
					list = append(list, tone{int(key), seconds(f, from), seconds(f, now)})
				}
			}
		}
	}
	return list, tracks
}

func seconds(f *smf.SMF, tick int64) float64 { return float64(f.TimeAt(tick)) / 1e6 }

// Every string that is struck is in the file, at its time to two ticks and at the pitch of
// its fret.
func TestFilesSoundAsTheTimeline(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := sheettest.Song(t)
		data, tl := file(t, s)
		got, tracks := heard(t, data)
		for _, k := range tl.Strikes {
			if k.How == play.Dead {
				continue
			}
			want := tone{int(k.Pitch.Pitch()) - (k.Bend+50)/100, k.At, k.At + k.Length}
			i := slices.IndexFunc(got, want.near)
			require.GreaterOrEqual(t, i, 0, "%v", want)
			got = slices.Delete(got, i, i+1)
		}
		assert.Empty(t, got)
		assert.Equal(t, s.Title, tracks[0])
		assert.Equal(t, "Click", tracks[len(tracks)-1])
	})
}

// near allows for two ticks at the slowest tempo that is drawn.
func (a tone) near(b tone) bool {
	const ticks = 2 * 60.0 / 40 / Resolution
	return a.key == b.key && math.Abs(a.from-b.from) < ticks && math.Abs(a.to-b.to) < ticks
}

// rhythmOf is when what sounds of the first player, by bar and place, with pitches.
func rhythmOf(s *song.Song) (list []string) {
	tl := play.Of(s, formtest.AsWritten(s), play.Options{})
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
			got, err := score.Song(t.Context(), score.Usual(), &problems)
			require.NoError(t, err, name)
			assert.Equal(t, rhythmOf(s), rhythmOf(got), "%s, %v off\n%s", name, off, sheet.Write(got))
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
