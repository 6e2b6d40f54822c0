package main

import (
	"context"
	"fmt"
	"strings"

	"github.com/urfave/cli/v3"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/harmony"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/voicing"
)

// Questions about the chords of a song together.

func (s *streams) progressionCommand() *cli.Command {
	return &cli.Command{
		Name: "progression", Usage: "choose voicings for chords together", ArgsUsage: "\"Em C G D\"",
		Flags: append(voicingFlags(), &cli.FloatFlag{Name: "seconds", Value: 1.5, Usage: "the time that each chord has, in `SECONDS`"}),
		Action: func(_ context.Context, c *cli.Command) error {
			cfg, err := voicingConfig(c)
			if err != nil {
				return err
			}
			seconds := c.Float("seconds")
			if !(seconds > 0 && seconds <= 60) {
				return fmt.Errorf("--seconds is %g; write a time above 0, up to 60", seconds)
			}
			chords, err := symbols(c)
			if err != nil {
				return err
			}
			var slots []voicing.Slot
			for _, ch := range chords {
				slots = append(slots, voicing.Slot{Chord: ch, Seconds: seconds, Pin: neck.NoFrets})
			}
			type changeJSON struct {
				Ease    float64       `json:"ease"`
				Anchors []neck.String `json:"anchors"`
				Guides  []neck.String `json:"guides"`
				Shift   float64       `json:"shift"`
			}
			type chosenJSON struct {
				Symbol  string      `json:"symbol"`
				Voicing voicingJSON `json:"voicing"`
				Change  changeJSON  `json:"change"`
			}
			v := struct {
				Chords []chosenJSON `json:"chords"`
			}{}
			var b strings.Builder
			for _, ch := range new(voicing.Book).Progression(slots, cfg) {
				j := chosenJSON{ch.Chord.Symbol, newVoicingJSON(&ch.Voicing, cfg),
					changeJSON{round(ch.Change.Ease, 1000), ch.Change.Anchors, ch.Change.Guides, round(ch.Change.Shift, 10)}}
				if j.Change.Anchors == nil {
					j.Change.Anchors = []neck.String{}
				}
				if j.Change.Guides == nil {
					j.Change.Guides = []neck.String{}
				}
				v.Chords = append(v.Chords, j)
				fmt.Fprintf(&b, "%-8s %s; change %.2f", ch.Chord.Symbol, j.Voicing, j.Change.Ease)
				if len(j.Change.Anchors) > 0 {
					fmt.Fprintf(&b, ", %s", speaker.Change(ch.Change))
				}
				b.WriteByte('\n')
			}
			return s.output(c, v, b.String())
		},
	}
}

// inKey reads the chords of a command and their key: the one that is given, or
// the likeliest.
func inKey(c *cli.Command) (chords []chord.Chord, key pitch.Key, err error) {
	if key, err = keyOf(c); err != nil {
		return nil, key, err
	}
	if chords, err = symbols(c); err != nil {
		return nil, key, err
	}
	if !key.Valid() {
		key = harmony.Keys(chords)[0].Key
	}
	return chords, key, nil
}

func (s *streams) numbersCommand() *cli.Command {
	return &cli.Command{
		Name: "numbers", Usage: "number chords by scale degree", ArgsUsage: "\"Em C G D\"",
		Flags: []cli.Flag{jsonFlag(), &cli.StringFlag{Name: "key", Usage: "the key; without it the likeliest"},
			&cli.StringFlag{Name: "school", Value: string(harmony.Relative), Usage: "minor songs from the relative major or from the tonic"}},
		Action: func(_ context.Context, c *cli.Command) error {
			school, err := harmony.ParseNumbering(c.String("school"))
			if err != nil {
				return fmt.Errorf("--school: %w", err)
			}
			chords, key, err := inKey(c)
			if err != nil {
				return err
			}
			type numberJSON struct {
				Symbol   string `json:"symbol"`
				Number   string `json:"number"`
				Borrowed bool   `json:"borrowed"`
				Why      string `json:"why"`
			}
			v := struct {
				Key    string       `json:"key"`
				Chords []numberJSON `json:"chords"`
			}{Key: key.String()}
			var b strings.Builder
			fmt.Fprintln(&b, key)
			for _, n := range harmony.Numbers(chords, key, school) {
				v.Chords = append(v.Chords, numberJSON{n.Chord.Symbol, n.Number, n.Borrowed.Any(), speaker.Borrowed(n.Borrowed)})
				fmt.Fprintf(&b, "%-8s %s", n.Chord, n.Number)
				if n.Borrowed.Any() {
					fmt.Fprintf(&b, "  borrowed: %s", speaker.Borrowed(n.Borrowed))
				}
				b.WriteByte('\n')
			}
			return s.output(c, v, b.String())
		},
	}
}

func (s *streams) keyCommand() *cli.Command {
	return &cli.Command{
		Name: "key", Usage: "list the likely keys of a sheet or of chords", ArgsUsage: "FILE | \"Em C G D\"", Flags: []cli.Flag{jsonFlag()},
		Action: func(_ context.Context, c *cli.Command) error {
			var guesses []harmony.Guess
			if chords, err := symbols(c); err == nil {
				guesses = harmony.Keys(chords)
			} else if c.Args().Len() != 1 {
				return err
			} else {
				sh, err := s.readSheet(c)
				if err != nil {
					return err
				}
				guesses = harmony.KeysOfSong(sh.Song)
			}
			type keyJSON struct {
				Key   string  `json:"key"`
				Score float64 `json:"score"`
			}
			v := struct {
				Keys []keyJSON `json:"keys"`
			}{[]keyJSON{}}
			var b strings.Builder
			for _, g := range guesses[:min(len(guesses), 24)] {
				v.Keys = append(v.Keys, keyJSON{g.Key.String(), g.Score})
				if g.Score > 0.6 {
					fmt.Fprintf(&b, "%-10s %.2f\n", g.Key, g.Score)
				}
			}
			return s.output(c, v, b.String())
		},
	}
}

func (s *streams) capoCommand() *cli.Command {
	return &cli.Command{
		Name: "capo", Usage: "weigh all places for a capo, best first", ArgsUsage: "\"Bb Gm Eb F\"",
		Flags: []cli.Flag{jsonFlag(), tuningFlag(), reachFlag(), &cli.StringFlag{Name: "key", Usage: "the key that sounds"}},
		Action: func(_ context.Context, c *cli.Command) error {
			tuning, err := tuningOf(c, "tuning")
			if err != nil {
				return err
			}
			chords, key, err := inKey(c)
			if err != nil {
				return err
			}
			type capoJSON struct {
				Capo   int          `json:"capo"`
				Shapes []string     `json:"shapes"`
				Frets  []neck.Frets `json:"frets"` // the usual shape of each
				Key    string       `json:"shape_key"`
				Barres int          `json:"barres"`
				Ease   float64      `json:"ease"`
			}
			v := struct {
				Key   string     `json:"key"`
				Capos []capoJSON `json:"capos"`
			}{Key: key.String()}
			var b strings.Builder
			fmt.Fprintf(&b, "sounding key %s\n", key)
			cfg := voicing.Config{In: neck.Instrument{Tuning: tuning}, Player: hand.Player{Reach: c.Float("reach")}, Key: key}
			for _, at := range new(voicing.Book).Capos(chords, cfg) {
				j := capoJSON{Capo: at.Fret, Key: at.Key, Barres: at.Barres, Ease: round(at.Ease, 1000), Frets: at.Usual}
				for _, shape := range at.Shapes {
					j.Shapes = append(j.Shapes, shape.Symbol)
				}
				v.Capos = append(v.Capos, j)
				var shapes []string
				for i, name := range j.Shapes {
					shapes = append(shapes, name+" "+j.Frets[i].String())
				}
				barres := fmt.Sprintf("%d barres", j.Barres)
				if j.Barres == 1 {
					barres = "1 barre"
				}
				fmt.Fprintf(&b, "capo %d: %s, shapes of %s, %s, ease %.2f\n", j.Capo, strings.Join(shapes, ", "), j.Key, barres, j.Ease)
			}
			return s.output(c, v, b.String())
		},
	}
}
