package words

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// wholeWay is all that the program makes of a song for a hand: versions, the lesson, what is
// played in each of its steps, and every sentence about it.
func wholeWay(g *song.Song, o arrange.Options, st lesson.Student) (steps int) {
	sp := Speaker{}
	a := arrange.New(g, o)
	chosen := make([]lesson.Chosen, len(g.Parts))
	ladders := make([][]arrange.Version, len(g.Parts))
	for i := range g.Parts {
		ladder := a.Ladder(i, nil)
		if len(ladder) == 0 {
			continue
		}
		for j := range ladder {
			sp.Version(&ladder[j])
			for k := range ladder[j].Bars {
				sp.Bar(&ladder[j].Bars[k])
			}
		}
		for _, r := range arrange.Rungs {
			sp.Refusal(a.Refused(i, r))
			a.Version(i, r, arrange.Way{})
		}
		ladders[i] = ladder
	}
	fitted := fit.Song(g, ladders, st)
	sp.Fit(g, &fitted)
	for _, beside := range []*fit.Set{fitted.Bolder, fitted.Safer} {
		if beside != nil {
			sp.Beside(g, &fitted, beside)
		}
	}
	for i := range fitted.Parts {
		p := &fitted.Parts[i]
		sp.FitPart(p)
		v := a.Version(p.Part, p.Version.Rung, arrange.Way{})
		chosen[p.Part] = lesson.Chosen{Version: &v, Next: fit.Next(g, p.Part, ladders[p.Part], v.Rung)}
	}
	tempo := o.Tempo
	if tempo == 0 {
		tempo = g.Tempo
	}
	l := lesson.Build(g, chosen, st, tempo)
	for i := range l.Steps {
		s := &l.Steps[i]
		sp.StepTitle(g, s)
		sp.Step(s)
		l.Music(s)
		for _, d := range s.Drills {
			for j := range d.Exercises {
				d.Song(&d.Exercises[j], "drill", s.Start)
			}
		}
	}
	if len(g.Parts) > 0 {
		play.Of(g, play.Arrange(g, o, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} }), play.Options{})
	}
	return len(l.Steps)
}

// worstHands are hands that teachers have in front of them and no usual shape fits.
var worstHands = []hand.Player{
	{Reach: 80, NoBarre: true, NoLittle: true},
	{Reach: 46},
	{Reach: 30, Scale: 900},
	{Reach: 30, NoBarre: true, NoLittle: true, Scale: 648},
	{Reach: 250, Thumb: true, Scale: 300},
	{Reach: 60, Scale: 578, NotesPerSecond: 0.5, Picking: hand.AllDown, New: hand.AllSkills},
}

// One hand with a plain power chord must not take anything down.
func TestSmallHandsHaveEverything(t *testing.T) {
	chords := []string{"B5", "A5", "B5/B", "F#5", "Bb5", "C5/G", "G#5", "E5", "D5", "Fmaj7", "Bbdim7", "C13", "F#m7b5", "G7#9", "B", "Abadd9/C", "Eaug"}
	for _, tuning := range append(neck.Known(), "E2 A2 D3 G3 B3 E4", "A1 D2 G2 C3 E3 A3", "C2 C2 C3 C3 C4 C4") {
		for _, p := range worstHands {
			for _, capo := range []int{0, 3, 12} {
				text := fmt.Sprintf("title: T\ntuning: %s\ncapo: %d\nA:\n| %s |\n", tuning, capo, strings.Join(chords, " "))
				sh := sheet.Parse(text)
				require.True(t, sh.OK(), "%s: %v", tuning, sh.Problems)
				require.NotPanics(t, func() { wholeWay(sh.Song, arrange.Options{Player: p}, lesson.Student{Player: p}) }, "%s, capo %d, %+v", tuning, capo, p)
			}
		}
	}
}

// A step of any lesson can be done: its tempos are those of a metronome, its minutes those
// of a day.
func TestWhateverTheHand(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := anySheet(t)
		p := anyHand(t)
		o := arrange.Options{Player: p, School: rapid.SampledFrom(append([]voicing.School{""}, voicing.Schools...)).Draw(t, "school"),
			Tempo: rapid.SampledFrom([]float64{0, 20, 97, 400}).Draw(t, "tempo")}
		if name := rapid.SampledFrom(append([]string{""}, neck.Known()...)).Draw(t, "played in"); name != "" {
			tuning, err := neck.Parse(name)
			require.NoError(t, err)
			o.Tuning = &tuning
		}
		known, err := lesson.ParseKnown(rapid.SampledFrom([]string{"", "open chords", "power chords, Fmaj7, x3201x"}).Draw(t, "known"))
		require.NoError(t, err)
		wholeWay(sheet.Parse(text).Song, o, lesson.Student{Player: p, Known: known, Minutes: rapid.IntRange(1, 300).Draw(t, "minutes")})
	})
}

func anyHand(t *rapid.T) hand.Player {
	return hand.Player{Reach: rapid.Float64Range(30, 250).Draw(t, "reach"), Scale: rapid.Float64Range(300, 900).Draw(t, "scale"),
		NotesPerSecond: rapid.Float64Range(0.5, 20).Draw(t, "strokes a second"), NoBarre: rapid.Bool().Draw(t, "no barre"), NoLittle: rapid.Bool().Draw(t, "no little"),
		Thumb: rapid.Bool().Draw(t, "thumb"), LeftHanded: rapid.Bool().Draw(t, "left"), Acoustic: rapid.Bool().Draw(t, "acoustic"),
		Picking: rapid.SampledFrom(hand.Pickings).Draw(t, "picking"), New: hand.Skills(rapid.Uint16().Draw(t, "new")) & hand.AllSkills}
}

// anySheet draws a short sheet of everything that may be typed.
func anySheet(t *rapid.T) string {
	slots := []string{"0E", "3A", "7A", "12B", "22e", "0D+2G", "5A+7D", "3A+5D+5G", "B5", "A5", "F", "Bm7b5", "C/G", "D/F#", "E7#9", "x", "xA", "-", ".", "NC", "h5A", "p3A", "s7D", "t12G",
		"7Gb2", "r7G", "5A*", "5A!", "5A'", "12Go", "(0E 0E)", "(3A 5A 7A)", "G5=355xxx", "C=x32010", "A7=5x565x", "5A~", "/7A", "7A\\", "7A?", "x?", "5A:3", "3D:2m", "G=320003:21xxx3"}
	var b strings.Builder
	fmt.Fprintf(&b, "title: T\ntuning: %s\ncapo: %d\ntempo: %d\ntime: %s\nfeel: %s\n", rapid.SampledFrom(neck.Known()).Draw(t, "tuning"), rapid.IntRange(0, 12).Draw(t, "capo"),
		rapid.IntRange(20, 400).Draw(t, "sheet's tempo"), rapid.SampledFrom([]string{"4/4", "3/4", "6/8", "7/8", "12/8", "2/2"}).Draw(t, "time"), rapid.SampledFrom([]string{"straight", "swing"}).Draw(t, "feel"))
	for part := range rapid.IntRange(1, 3).Draw(t, "parts") {
		fmt.Fprintf(&b, "\nPart %d:\n", part+1)
		if rapid.IntRange(0, 4).Draw(t, "muted") == 0 {
			b.WriteString("mute: palm\n")
		}
		for range rapid.IntRange(1, 3).Draw(t, "lines") {
			for range rapid.IntRange(1, 3).Draw(t, "bars") {
				b.WriteString("| " + strings.Join(rapid.SliceOfN(rapid.SampledFrom(slots), 1, 8).Draw(t, "bar"), " ") + " ")
			}
			fmt.Fprintf(&b, "| x%d\n", rapid.IntRange(1, 3).Draw(t, "times"))
		}
	}
	return b.String()
}

// FuzzWhatever runs the same for as long as one likes.
func FuzzWhatever(f *testing.F) {
	f.Fuzz(rapid.MakeFuzz(func(t *rapid.T) {
		p := anyHand(t)
		wholeWay(sheet.Parse(anySheet(t)).Song, arrange.Options{Player: p}, lesson.Student{Player: p})
	}))
}
