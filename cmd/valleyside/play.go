package main

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/words"
)

// Limits of what is played at once.
const (
	mostCountIn = 8
	mostLoops   = 99
)

func (s *streams) playCommand() *cli.Command {
	return &cli.Command{
		Name: "play", Usage: "say when what sounds, through the roadmap, a part or some of its bars", ArgsUsage: "FILE",
		Flags: []cli.Flag{
			jsonFlag(),
			&cli.StringFlag{Name: "rung", Value: string(arrange.AsWritten), Usage: "one-finger, two-note, octave, three-note, easy-chords or as-written"},
			&cli.StringFlag{Name: "part", Usage: "only the part of this name, once"},
			&cli.StringFlag{Name: "bars", Usage: "only these written bars of the part, as in 3-4 or 3"},
			&cli.FloatFlag{Name: "tempo", Usage: "beats per minute; without it the tempo of the song"},
			&cli.IntFlag{Name: "count-in", Value: 1, Usage: "`BARS` that are counted in"},
			&cli.IntFlag{Name: "loop", Value: 1, Usage: "how often it is played"},
		},
		Action: s.play,
	}
}

func (s *streams) play(_ context.Context, c *cli.Command) error {
	rung, err := arrange.ParseRung(c.String("rung"))
	if err != nil {
		return fmt.Errorf("--rung: %w", err)
	}
	o := play.Options{Tempo: c.Float("tempo"), CountIn: c.Int("count-in"), Loop: c.Int("loop")}
	switch {
	case c.IsSet("tempo") && !(o.Tempo >= sheet.MinTempo && o.Tempo <= sheet.MaxTempo):
		return fmt.Errorf("--tempo is %g; write beats per minute from %d to %d", o.Tempo, sheet.MinTempo, sheet.MaxTempo)
	case o.CountIn < 0 || o.CountIn > mostCountIn:
		return fmt.Errorf("--count-in is %d; count 0 to %d bars", o.CountIn, mostCountIn)
	case o.Loop < 1 || o.Loop > mostLoops:
		return fmt.Errorf("--loop is %d; play it 1 to %d times", o.Loop, mostLoops)
	}
	sh, err := s.readSheet(c)
	if err != nil {
		return err
	}
	if err := chooseBars(c, sh.Song, &o); err != nil {
		return err
	}
	if n := play.Length(sh.Song, o); n > play.MostBars {
		return inputErrorf("that is %d bars played out, the limit is %d; choose a --part, --bars or fewer repeats", n, play.MostBars)
	}
	o.Cents = sh.Song.Tuning.Cents
	music := play.Arrange(sh.Song, arrange.Options{Tempo: o.Tempo}, func(int) play.Choice { return play.Choice{Rung: rung} })
	result := newPlayed(sh.Song, play.Of(sh.Song, music, o))
	if c.Bool("json") {
		return s.printJSON(result)
	}
	_, err = fmt.Fprint(s.out, result)
	return err
}

// chooseBars reads which part is played, and which of its bars.
func chooseBars(c *cli.Command, g *song.Song, o *play.Options) error {
	name, bars := c.String("part"), c.String("bars")
	if name == "" && bars == "" {
		return nil
	}
	if name == "" && len(g.Parts) != 1 {
		return inputErrorf("--bars needs --part: the sheet has several parts")
	}
	parts, err := chosenParts(g, name)
	if err != nil {
		return err
	}
	o.Only, o.Part = true, parts[0]
	if bars == "" {
		return nil
	}
	from, to, ranged := strings.Cut(bars, "-")
	if !ranged {
		to = from
	}
	first, err1 := strconv.Atoi(strings.TrimSpace(from))
	last, err2 := strconv.Atoi(strings.TrimSpace(to))
	if n := g.Parts[o.Part].Written(); err1 != nil || err2 != nil || first < 1 || last < first || last > n {
		return inputErrorf("--bars is %q; write bars from 1 to %d, as in 1-%d", bars, n, n)
	}
	o.From, o.To = first, last
	return nil
}

type played struct {
	Seconds float64        `json:"seconds"`
	Beats   []playedBeat   `json:"beats"`
	Bars    []playedBar    `json:"bars"`
	Strikes []playedStrike `json:"strikes"`
}

type playedBeat struct {
	At     float64 `json:"at"`
	Bar    int     `json:"bar"` // as it is written; 0 while it is counted in
	Beat   int     `json:"beat"`
	Accent bool    `json:"accent"`
}

type playedBar struct {
	At   float64 `json:"at"`
	Part string  `json:"part"`
	Bar  int     `json:"bar"`
	Pass int     `json:"pass"`
}

// playedStrike has no fret, pitch and frequency where it is dead.
type playedStrike struct {
	At     float64        `json:"at"`
	Length float64        `json:"length"`
	String neck.String    `json:"string"`
	Fret   *int           `json:"fret"`
	Pitch  *pitch.Spelled `json:"pitch"`
	Hz     *float64       `json:"hz"`
	Loud   float64        `json:"loud"`
	Stroke song.Stroke    `json:"stroke"`
	How    play.How       `json:"how"`
	Bend   int            `json:"bend,omitempty"`      // cents, up to its pitch
	From   *int           `json:"from,omitempty"`      // the fret that it is slid from
	In     string         `json:"slide_in,omitempty"`  // from below or above
	Off    string         `json:"slide_off,omitempty"` // up or down
	Muted  bool           `json:"palm_muted,omitempty"`
	Player string         `json:"player"`
	Part   string         `json:"part"`
	Bar    int            `json:"bar"`
	Start  pitch.Frac     `json:"start"`
}

func newPlayed(g *song.Song, t *play.Timeline) played {
	const micro = 1e6
	out := played{Seconds: round(t.Seconds, micro), Beats: make([]playedBeat, len(t.Beats)), Bars: make([]playedBar, len(t.Bars)), Strikes: make([]playedStrike, len(t.Strikes))}
	for i, b := range t.Bars {
		out.Bars[i] = playedBar{round(b.At, micro), g.Parts[b.Part].Name, b.Number, b.Pass}
	}
	for i, b := range t.Beats {
		out.Beats[i] = playedBeat{At: round(b.At, micro), Beat: b.Beat, Accent: b.Accent}
		if b.Bar >= 0 {
			out.Beats[i].Bar = t.Bars[b.Bar].Number
		}
	}
	for i := range t.Strikes {
		k := &t.Strikes[i]
		bar := t.Bars[k.Bar]
		one := playedStrike{At: round(k.At, micro), Length: round(k.Length, micro), String: k.String, Loud: k.Loud, Stroke: k.Stroke, How: k.How, Bend: k.Bend,
			In: [...]string{"", "below", "above"}[k.In], Off: [...]string{"", "up", "down"}[k.Off], Muted: k.Muted, Player: k.Player, Part: g.Parts[bar.Part].Name, Bar: bar.Number, Start: k.Start}
		if k.How != play.Dead {
			hz := round(k.Hz, 1000)
			one.Fret, one.Pitch, one.Hz = &k.Fret, &k.Pitch, &hz
		}
		if k.From >= 0 {
			one.From = &k.From
		}
		out.Strikes[i] = one
	}
	return out
}

// String writes a line for each bar: when it begins, and what is struck in it.
func (p played) String() string {
	var b strings.Builder
	next := 0
	for i, bar := range p.Bars {
		fmt.Fprintf(&b, "%8.3f  %s %d", bar.At, bar.Part, bar.Bar)
		if bar.Pass > 1 {
			fmt.Fprintf(&b, ", pass %d", bar.Pass)
		}
		for ; next < len(p.Strikes) && (i+1 == len(p.Bars) || p.Strikes[next].At < p.Bars[i+1].At); next++ {
			k := p.Strikes[next]
			sign := "x"
			if k.Fret != nil {
				sign = strconv.Itoa(*k.Fret)
			}
			fmt.Fprintf(&b, "  %.3f %s%s", k.At, sign, words.Speaker{}.String(k.String))
		}
		b.WriteByte('\n')
	}
	fmt.Fprintf(&b, "%8.3f  end\n", p.Seconds)
	return b.String()
}
