package draw

import (
	"encoding/xml"
	"html/template"
	"io"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/words"
)

func read(t require.TestingT, body string) *song.Song {
	s := sheet.Parse("title: T\n" + body)
	require.True(t, s.OK(), "%v", s.Problems)
	return s.Song
}

// picture reads a drawing: it must be well-formed, and everything in it must
// lie inside its frame.
func picture(t require.TestingT, svg template.HTML) (texts []string) {
	text := string(svg)
	frame := regexp.MustCompile(`viewBox="0 0 ([\d.]+) ([\d.]+)"`).FindStringSubmatch(text)
	require.Len(t, frame, 3, text)
	width, _ := strconv.ParseFloat(frame[1], 64)
	d := xml.NewDecoder(strings.NewReader(text))
	d.Strict = true
	inText := false
	for {
		token, err := d.Token()
		if err == io.EOF {
			return texts
		}
		require.NoError(t, err)
		switch e := token.(type) {
		case xml.StartElement:
			inText = e.Name.Local == "text"
			for _, a := range e.Attr {
				if a.Name.Local == "x" || a.Name.Local == "cx" {
					x, err := strconv.ParseFloat(a.Value, 64)
					require.NoError(t, err)
					require.GreaterOrEqual(t, x, -1.0, text)
					require.LessOrEqual(t, x, width+1, text)
				}
				require.NotContains(t, a.Value, "NaN")
				require.NotContains(t, a.Value, "Inf")
			}
		case xml.EndElement:
			inText = false
		case xml.CharData:
			if inText {
				texts = append(texts, string(e))
			}
		}
	}
}

func TestTab(t *testing.T) {
	p := &read(t, "A:\n| 7Gb2~ - h9G! (0E x) | Em7 . C=x32010 - | x3\n").Parts[0]
	lines := Tab(Written(p, song.Lift{}), Style{Speaker: words.Speaker{Strings: [6]string{"mi", "la", "re", "sol", "si", "mi'"}}}, true)
	require.Len(t, lines, 1)
	texts := picture(t, lines[0])
	for _, want := range []string{"7b2~", "h9", "0", "Em7", "C", "×3", "sol", "1", "2", "3", "4", "&", "x"} {
		assert.Contains(t, texts, want)
	}
	assert.Contains(t, string(lines[0]), "Bar 1: 1: 7b2~ on sol, 3: h9 on sol, 4: 0 on mi", "and in words")
	assert.Contains(t, string(lines[0]), "; its line is played 3 times")
	own := Tab(Written(&read(t, "A:\npickup: 1\n| 0A | [2/4] 3A 5A |\n").Parts[0], song.Lift{}), Style{}, false)[0]
	assert.Subset(t, picture(t, own), []string{"4", "2"}, "the pickup is counted as the fourth beat")
	assert.Contains(t, string(own), `class="time"`)
	assert.Contains(t, string(own), "Bar 2, in 2/4: 1: 3 on A, 2: 5 on A.")
	sung := Tab(Written(&read(t, "A:\n| C - G - | Am |\nwords | Paper / lanterns on a string | home |\nwords | Rain | |\n").Parts[0], song.Lift{}), Style{}, false)[0]
	assert.Subset(t, picture(t, sung), []string{"Paper", "lanterns on a string", "home", "Rain"})
	assert.Contains(t, string(sung), "Bar 1, sung “Paper lanterns on a string / Rain”: ")
	plain := Tab(Written(p, song.Lift{}), Style{NoCount: true}, false)
	assert.NotContains(t, picture(t, plain[0]), "&")
}

// Whatever is written, every bar is drawn once, in order, on lines that fit.
func TestLinesHoldEveryBar(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var b strings.Builder
		b.WriteString("A:\n")
		bars := rapid.IntRange(1, 20).Draw(t, "bars")
		for range bars {
			b.WriteString("|" + strings.Repeat(rapid.SampledFrom([]string{" 0A", " Ebmaj7", " 12Bb1+13e", " -", " ."}).Draw(t, "slot"), rapid.IntRange(1, 16).Draw(t, "slots")) + " |\n")
		}
		p := &read(t, b.String()).Parts[0]
		width := rapid.Float64Range(300, 1300).Draw(t, "width")
		next := 1
		for _, line := range Tab(Written(p, song.Lift{}), Style{Width: width, Strokes: true}, rapid.Bool().Draw(t, "hills")) {
			picture(t, line)
			for _, m := range regexp.MustCompile(`class="number"[^>]*>(\d+)<`).FindAllStringSubmatch(string(line), -1) {
				require.Equal(t, strconv.Itoa(next), m[1])
				next++
			}
		}
		require.Equal(t, bars+1, next)
	})
}

// Two versions that are put beside one another share their time axis.
func TestStack(t *testing.T) {
	s := read(t, "A:\n| 0A 3A 5A 12D | Em7 - G 3E+5A |\n")
	a := arrange.New(s, arrange.Options{})
	one, written := a.Version(0, arrange.OneFinger, arrange.Way{}), a.Version(0, arrange.AsWritten, arrange.Way{})
	counts := regexp.MustCompile(`class="count[^"]*" x="([\d.]+)"`)
	for _, pair := range Stack(Version(&s.Parts[0], &one, &written), Version(&s.Parts[0], &written, nil), Style{Width: 900, Fingers: true}) {
		assert.Equal(t, counts.FindAllStringSubmatch(string(pair[0]), -1), counts.FindAllStringSubmatch(string(pair[1]), -1))
		assert.NotEqual(t, pair[0], pair[1])
	}
}

// A version is drawn with its own frets, what it leaves out is not counted
// aloud, and its events can be chosen.
func TestVersion(t *testing.T) {
	s := read(t, "tempo: 120\nA:\n| (0E 0E) 3A+5D . xA |\n")
	v := arrange.New(s, arrange.Options{Player: hand.Player{NotesPerSecond: 3}}).Version(0, arrange.TwoNote, arrange.Way{})
	bars := Version(&s.Parts[0], &v, nil)
	bars[0].Columns[0].Link, bars[0].Columns[0].Chosen = "?bar=1&at=0", true
	line := string(Tab(bars, Style{Fingers: true, Strokes: true}, true)[0])
	picture(t, template.HTML(line))
	assert.Contains(t, line, "Bar 1: 1 down: 0 on thick E, 2 down: 3 on A index and 5 on D ring, 4 down: x on A.")
	assert.Contains(t, line, `role="group"`, "a drawing with links in it is no image")
	assert.Contains(t, line, `href="?bar=1&amp;at=0"`)
	assert.Contains(t, line, `aria-current="true"`)
	assert.Equal(t, 3, strings.Count(line, `class="count on"`))
}

func TestHill(t *testing.T) {
	assert.Empty(t, Hill{}.SVG())
	svg := Hill{Bars: 3, Ridge: []arrange.Foot{{At: 0}, {At: 1, Demand: 1}, {At: 2.5, Demand: 9}}, Path: []arrange.Foot{{At: 0.5, Demand: 0.5}}, Walked: 2, Width: 100, Height: 30, Label: `a "hill"`}.SVG()
	picture(t, svg)
	assert.Contains(t, string(svg), "a &#34;hill&#34;")
	assert.Contains(t, string(svg), `"M0 28.5H100"`, "nobody walks further than the end")
	assert.Less(t, height(0.1, 0), height(1, 0))
	assert.Less(t, height(1, 8), height(1, 2), "on one scale for all versions")
	assert.LessOrEqual(t, height(100, 0), 1.0)
}

func TestChart(t *testing.T) {
	now := time.Date(2026, 3, 17, 12, 0, 0, 0, time.UTC)
	for _, points := range [][]Point{nil, {{At: now, Tempo: 60}}, {{At: now.AddDate(0, 0, -20), Tempo: 60, Clean: true}, {At: now, Tempo: 90, Clean: true, Label: "<b>"}}} {
		svg := Chart{Points: points, Target: 100, Until: now, Width: 400, Height: 120, Label: "tempo"}.SVG()
		if len(points) > 0 {
			picture(t, svg)
			assert.Equal(t, len(points), strings.Count(string(svg), `class="entry`))
		}
		assert.NotContains(t, string(svg), "<b>")
	}
}

// Frets stand at their true distances; the neck is mirrored for left hands.
func TestNeck(t *testing.T) {
	f := hand.Lifted
	f.Frets, f.Fingers = neck.Frets{-1, 3, -1, 5, -1, -1}, [6]hand.Finger{0, 1, 0, 3}
	shape := Shape{Fingering: f, Mutes: f.Mutes(0, false)}
	svg := string(shape.SVG())
	texts := picture(t, template.HTML(svg))
	assert.Contains(t, texts, "reach 61 of 120 mm")
	assert.Contains(t, svg, "index on fret 3 of the A string")
	wires := regexp.MustCompile(`class="wire[^"]*" d="M([\d.]+) `).FindAllStringSubmatch(svg, -1)
	require.Len(t, wires, shownFrets+1)
	x := func(i int) float64 {
		v, err := strconv.ParseFloat(wires[i][1], 64)
		require.NoError(t, err)
		return v
	}
	var n neck.Neck
	assert.InDelta(t, n.Position(5)/n.Position(12), (x(5)-x(0))/(x(12)-x(0)), 0.001, "to scale")
	shape.Player.LeftHanded = true
	mirrored := string(shape.SVG())
	picture(t, template.HTML(mirrored))
	assert.NotEqual(t, svg, mirrored)
	assert.Equal(t, strings.Count(svg, "<circle"), strings.Count(mirrored, "<circle"))
	rapid.Check(t, func(t *rapid.T) {
		frets := neck.NoFrets
		for i := range frets {
			frets[i] = int8(rapid.IntRange(-1, 12).Draw(t, "fret"))
		}
		for _, f := range hand.Fingerings(frets) {
			s := Shape{Fingering: f, Mutes: f.Mutes(0, false), Waits: 3, Player: hand.Player{LeftHanded: rapid.Bool().Draw(t, "left")}, Neck: neck.Neck{Capo: rapid.IntRange(0, 7).Draw(t, "capo")}}
			picture(t, s.SVG())
		}
	})
}

// What some play stands in brackets, a bar that nobody is sure of has a question mark.
func TestDoubts(t *testing.T) {
	s := read(t, "A:\n| 7A? 3D+5G? xA? 5A | C5=x355xx? - 0A - ? | 0E |\n")
	line := string(Tab(Written(&s.Parts[0], s.Lift()), Style{}, true)[0])
	for _, sign := range []string{">(7)<", ">(3)<", ">(5)<", ">(x)<", ">5<", `class="number" x="`, ">2 ?<", "Bar 2, not sure:", ">3<"} {
		assert.Contains(t, line, sign)
	}
	v := arrange.New(s, arrange.Options{}).Version(0, arrange.AsWritten, arrange.Way{})
	line = string(Tab(Version(&s.Parts[0], &v, nil), Style{}, true)[0])
	for _, sign := range []string{">(7)<", ">(3)<", ">(5)<", ">(x)<", ">2 ?<"} {
		assert.Contains(t, line, sign)
	}
}
