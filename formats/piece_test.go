package formats

import (
	"bytes"
	"strings"
	"testing"

	"github.com/go-audio/wav"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/core/sheet"
)

func asWritten(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} }

// three has parts with a tempo of their own, another player and a roadmap.
const three = `title: T
tempo: 100
order: A x2, B, C, A

A:
     | 0A 3A 5A 3A | x2
lead | 7G 5G 7G 5G |

B:
tempo: 50
| Em - - - |

C:
tempo: 150
| 0E 0E 0E 0E |
`

// A part alone is played once, as it is in its song.
func TestOnly(t *testing.T) {
	s := sheet.Parse(three).Song
	whole := Of(s, arrange.Options{}, -1, asWritten)
	whole.Mix.Written = whole.Music
	for i, name := range []string{"A", "B", "C"} {
		one := whole.Only(i)
		require.Len(t, one.Song.Parts, 1)
		assert.Equal(t, name, one.Song.Parts[0].Name)
		assert.Len(t, one.Song.Order, 1)
		assert.Len(t, one.Music, 1)
		assert.Len(t, one.Mix.Written, 1)
		assert.Equal(t, one.Song, Of(s, arrange.Options{}, i, asWritten).Song)
		for _, f := range []Form{MusicXML, MIDI, Tab, Words} {
			var b bytes.Buffer
			require.NoError(t, Write(&b, f, one), "%s %s", name, f)
			r, err := Read(t.Context(), b.Bytes(), Options{})
			require.NoError(t, err)
			text, _, err := r.Take(t.Context(), r.Usual())
			require.NoError(t, err)
			assert.Len(t, sheet.Parse(text).Song.Parts, 1, text)
		}
	}
	assert.Len(t, whole.Song.Parts, 3, "the song is what it was")
	assert.Len(t, s.Order, 4)
}

// At another tempo every part keeps its relation to the song, within the limits.
func TestAtTempo(t *testing.T) {
	s := sheet.Parse(three).Song
	tempos := func(tempo float64) (list []float64) {
		other := AtTempo(s, tempo)
		list = append(list, other.Tempo)
		for i := range other.Parts {
			list = append(list, other.Parts[i].Tempo)
		}
		return list
	}
	for tempo, want := range map[float64][]float64{
		0: {100, 100, 50, 150}, 100: {100, 100, 50, 150}, 50: {50, 50, 25, 75}, 200: {200, 200, 100, 300},
		30:  {30, 30, sheet.MinTempo, 45},    // 15 would be too slow for a sheet
		300: {300, 300, 150, sheet.MaxTempo}, // 450 too fast
	} {
		assert.Equal(t, want, tempos(tempo), "%g", tempo)
	}
	assert.Equal(t, []float64{100, 100, 50, 150}, tempos(0), "the song is what it was")
	half := play.Plan(AtTempo(s, 50), 50).Seconds
	assert.InDelta(t, 2*play.Plan(s, 100).Seconds, half, 1e-9)
}

// Forms are known by their names, whichever way they are typed; what is none is told which
// there are.
func TestParseForm(t *testing.T) {
	for _, f := range Out() {
		for _, typed := range []string{string(f), strings.ToUpper(string(f)), " " + string(f) + " "} {
			got, err := ParseForm(typed, Out())
			require.NoError(t, err)
			assert.Equal(t, f, got)
		}
	}
	_, err := ParseForm("doc", Out())
	for _, f := range Out() {
		assert.ErrorContains(t, err, string(f))
	}
	_, err = ParseForm(string(WAV), In())
	assert.ErrorContains(t, err, "is not a form", "a recording is not read")
}

// What would be too long is refused before anything is written.
func TestTooLong(t *testing.T) {
	long := Of(sheet.Parse("title: T\ntempo: 20\norder: A x99, A x99, A x99\n\nA:\n| 0A - - - | x99\n").Song, arrange.Options{}, -1, asWritten)
	for _, f := range []Form{MIDI, WAV} {
		var b bytes.Buffer
		assert.ErrorContains(t, Write(&b, f, long), "choose a part or fewer repeats", f)
		assert.Zero(t, b.Len(), f)
	}
	slow := Of(sheet.Parse("title: T\ntempo: 20\n\nA:\n| 0A - - - | x99\n| 0A - - - | x99\n").Song, arrange.Options{}, -1, asWritten)
	var b bytes.Buffer
	assert.ErrorContains(t, Write(&b, WAV, slow), "minutes")
	assert.NoError(t, Write(&b, MIDI, slow), "a file of notes may last")
}

// loudness is the mean square of the samples of a track between two moments, in seconds.
func loudness(t *testing.T, p Piece, from, to float64) float64 {
	var b bytes.Buffer
	require.NoError(t, Write(&b, WAV, p))
	all, err := wav.NewDecoder(bytes.NewReader(b.Bytes())).FullPCMBuffer()
	require.NoError(t, err)
	perSecond := float64(all.Format.SampleRate * all.Format.NumChannels)
	sum, n := 0.0, 0
	for i := int(from * perSecond); i < min(int(to*perSecond), len(all.Data)); i++ {
		v := float64(all.Data[i]) / (1 << 15)
		sum, n = sum+v*v, n+1
	}
	require.Positive(t, n)
	return sum / float64(n)
}

// Each of what a practice track may have is heard where it belongs, and only there.
func TestMixes(t *testing.T) {
	s := sheet.Parse("title: T\ntempo: 120\n\nA:\n     | . . . . | Em - - - | . . . . | . . . . |\nlead | . . . . | . - - - | 7G - 5G - | . . . . |\n").Song
	piece := func(m Mix, count int) Piece {
		p := Of(s, arrange.Options{}, -1, asWritten)
		p.Mix, p.CountIn = m, count
		return p
	}
	const bar = 2.0 // seconds
	silent := func(p Piece, from, to float64, why string) { assert.Less(t, loudness(t, p, from, to), 1e-9, why) }
	heard := func(p Piece, from, to float64, why string) { assert.Greater(t, loudness(t, p, from, to), 1e-6, why) }

	bare := piece(Mix{}, 0)
	silent(bare, 0, bar, "nobody plays in the first bar")
	heard(bare, bar, 2*bar, "the chord")
	heard(piece(Mix{Click: true}, 0), 0, bar, "the click")
	counted := piece(Mix{}, 1)
	heard(counted, 0, bar, "the bar that is counted in")
	silent(counted, bar+.5, 2*bar, "and no click behind it")
	heard(counted, 2*bar, 3*bar, "everything else comes a bar later")
	others := piece(Mix{Others: true}, 0)
	assert.Greater(t, loudness(t, others, 2*bar, 3*bar), 1.2*loudness(t, bare, 2*bar, 3*bar), "the other player")
	bass := piece(Mix{Bass: true}, 0)
	assert.Greater(t, loudness(t, bass, bar, 2*bar), 1.02*loudness(t, bare, bar, 2*bar), "the bass beneath the chord")
	silent(bass, 0, bar, "no bass without a chord")
}
