package wav

import (
	"io"
	"math"
	"math/cmplx"
	"os"
	"path/filepath"
	"testing"

	gowav "github.com/go-audio/wav"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
	"valleyside/core/song"
)

func timeline(s *song.Song, o play.Options) *play.Timeline {
	return play.Of(s, play.Arrange(s, arrange.Options{}, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} }), o)
}

// rendered are the samples of a track, read back from its file.
func rendered(t testing.TB, tr Track) []float64 {
	f, err := os.Create(filepath.Join(t.TempDir(), "track.wav"))
	require.NoError(t, err)
	defer f.Close()
	require.NoError(t, Write(f, tr))
	_, err = f.Seek(0, io.SeekStart)
	require.NoError(t, err)
	d := gowav.NewDecoder(f)
	buf, err := d.FullPCMBuffer()
	require.NoError(t, err)
	require.Equal(t, Rate, buf.Format.SampleRate)
	require.Equal(t, 1, buf.Format.NumChannels)
	out := make([]float64, len(buf.Data))
	for i, v := range buf.Data {
		out[i] = float64(v) / math.MaxInt16
	}
	return out
}

// energyAt is how much of a frequency there is in some samples.
func energyAt(samples []float64, hz float64) float64 {
	var sum complex128
	for i, v := range samples {
		window := 0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/float64(len(samples)))
		sum += complex(v*window, 0) * cmplx.Exp(complex(0, -2*math.Pi*hz*float64(i)/Rate))
	}
	return cmplx.Abs(sum)
}

// fundamental is the frequency near one that some samples have most of.
func fundamental(samples []float64, near float64) float64 {
	best, most := near, 0.0
	for cents := -30.0; cents <= 30; cents++ {
		hz := near * math.Exp2(cents/1200)
		if e := energyAt(samples, hz); e > most {
			best, most = hz, e
		}
	}
	return best
}

// Every open string, and the highest fret, sounds at its pitch to five cents.
func TestPitches(t *testing.T) {
	for _, note := range []string{"0E", "0A", "0D", "0G", "0B", "0e", "12e", "24e", "3A", "7G"} {
		s := sheettest.Read(t, "tempo: 60\nA:\n| "+note+" - - - |\n")
		tl := timeline(s, play.Options{})
		out := rendered(t, Track{Layers: []Layer{{tl.Strikes, 1}}, Seconds: tl.Seconds, Open: s.Open()})
		hz := tl.Strikes[0].Hz
		got := fundamental(out[Rate/5:Rate], hz)
		assert.InDelta(t, 0, 1200*math.Log2(got/hz), 5, "%s at %.2f Hz sounds %.2f", note, hz, got)
	}
}

// A bent note reaches its pitch, and what is off concert pitch sounds so.
func TestBentPitches(t *testing.T) {
	s := sheettest.Read(t, "tempo: 60\ntuning: standard -35 cents\nA:\n| 7Gb2 - - - |\n")
	tl := timeline(s, play.Options{Cents: s.Tuning.Cents})
	out := rendered(t, Track{Layers: []Layer{{tl.Strikes, 1}}, Seconds: tl.Seconds, Open: s.Open()})
	want := 440 * math.Exp2((64-69)/12.0-35.0/1200)
	got := fundamental(out[Rate/2:Rate*5/4], want)
	assert.InDelta(t, 0, 1200*math.Log2(got/want), 5)
}

// onsets are the moments at which samples become loud after having been quiet.
func onsets(samples []float64) (list []float64) {
	quiet := Rate
	for i, v := range samples {
		switch {
		case math.Abs(v) < 0.004:
			quiet++
		default:
			if quiet > Rate/50 {
				list = append(list, float64(i)/Rate)
			}
			quiet = 0
		}
	}
	return list
}

// Strikes and clicks begin to the millisecond where the timeline has them, also when it
// is counted in and played at another tempo.
func TestOnsets(t *testing.T) {
	s := sheettest.Read(t, "tempo: 90\nA:\n| 0A' . 3A' . 5A' . (2D' . 3D' .) . |\n")
	tl := timeline(s, play.Options{Tempo: 75, CountIn: 1})
	out := rendered(t, Track{Layers: []Layer{{tl.Strikes, 1}}, Seconds: tl.Seconds, Open: s.Open()})
	got := onsets(out)
	require.Len(t, got, len(tl.Strikes))
	for i, k := range tl.Strikes {
		assert.InDelta(t, k.At, got[i], 0.001, "strike %d", i)
	}
	got = onsets(rendered(t, Track{Beats: tl.Beats, Seconds: tl.Seconds}))
	require.Len(t, got, len(tl.Beats))
	for i, b := range tl.Beats {
		assert.InDelta(t, b.At, got[i], 0.001, "click %d", i)
	}
}

// Nothing is louder than full, also where six strings, a bass and a click meet, and what
// is stopped is silent.
func TestLevels(t *testing.T) {
	s := sheettest.Read(t, "tempo: 120\nA:\n| Em! Em! Em! Em! x! G! . . |\n")
	tl := timeline(s, play.Options{})
	out := rendered(t, Track{Layers: []Layer{{tl.Strikes, 1}, {play.Bass(s, tl, play.Options{}), 1}}, Beats: tl.Beats, Seconds: tl.Seconds, Open: s.Open()})
	loudest := 0.0
	for _, v := range out {
		loudest = max(loudest, math.Abs(v))
	}
	assert.Less(t, loudest, 1.0)
	assert.Greater(t, loudest, 0.2)
	assert.Len(t, out, int(math.Ceil((tl.Seconds+tail)*Rate)))
	quiet := 0.0
	for _, v := range out[len(out)-Rate/20:] {
		quiet = max(quiet, math.Abs(v))
	}
	assert.Less(t, quiet, 0.002)
}

func BenchmarkWrite(b *testing.B) {
	text := "title: T\ntempo: 100\n\nA:\n"
	for range 25 {
		text += "| 0E 3A 2D 0G 3D+5G 2A 0D 3B | Em - G - | C D | 0A 2D 2G 1B 0e 1B 2G 2D |\n"
	}
	s := sheet.Parse(text).Song
	tl := timeline(s, play.Options{CountIn: 1})
	bass := play.Bass(s, tl, play.Options{CountIn: 1})
	b.ReportAllocs()
	for b.Loop() {
		f, _ := os.CreateTemp(b.TempDir(), "track")
		if err := Write(f, Track{Layers: []Layer{{tl.Strikes, 1}, {bass, 1}}, Beats: tl.Beats, Seconds: tl.Seconds, Open: s.Open()}); err != nil {
			b.Fatal(err)
		}
		f.Close()
	}
	b.ReportMetric(tl.Seconds/(b.Elapsed().Seconds()/float64(b.N)), "×real-time")
}
