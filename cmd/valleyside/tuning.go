package main

import (
	"context"
	"fmt"

	"github.com/urfave/cli/v3"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
)

// Questions about strings and records.

func (s *streams) retuneCommand() *cli.Command {
	return &cli.Command{
		Name: "retune", Usage: "say what each string must do to get to another tuning, or rewrite a sheet for the tuning now", ArgsUsage: "[FILE]",
		Flags: []cli.Flag{jsonFlag(), &cli.StringFlag{Name: "from", Value: "standard", Usage: "the tuning now"},
			&cli.StringFlag{Name: "to", Usage: "the tuning wanted", Required: true},
			&cli.FloatFlag{Name: "a4", Value: neck.A4, Usage: "concert pitch in `HZ`"}},
		Action: func(_ context.Context, c *cli.Command) error {
			from, err := tuningOf(c, "from")
			if err != nil {
				return err
			}
			to, err := tuningOf(c, "to")
			if err != nil {
				return err
			}
			a4, err := concertPitch(c)
			if err != nil {
				return err
			}
			type stringJSON struct {
				String    neck.String   `json:"string"`
				From      pitch.Spelled `json:"from"`
				To        pitch.Spelled `json:"to"`
				Semitones float64       `json:"semitones"`
				Tension   float64       `json:"tension_percent"`
				Hz        float64       `json:"hz"`
			}
			v := struct {
				Strings  []stringJSON `json:"strings"`
				Warnings []string     `json:"warnings"`
				Sheet    string       `json:"rewritten,omitempty"` // for the tuning now
				Lost     []string     `json:"rewriting,omitempty"`
			}{Warnings: []string{}}
			strings, cautions := neck.Retune(from, to, a4)
			text := ""
			for _, r := range strings {
				v.Strings = append(v.Strings, stringJSON{r.String, r.From, r.To, signed(r.Semitones, 100), signed(r.Tension, 10), round(r.Hz, 100)})
				text += fmt.Sprintf("%s  %s to %s  %+g semitones  %+.0f %% tension  %.2f Hz\n", r.String, r.From, r.To, signed(r.Semitones, 100), r.Tension, r.Hz)
			}
			for _, w := range speaker.Retuning(cautions) {
				v.Warnings = append(v.Warnings, w)
				text += w + "\n"
			}
			if c.Args().Present() {
				sh, err := s.readSheet(c)
				if err != nil {
					return err
				}
				there, versions := arrange.New(sh.Song, arrange.Options{Tuning: &from}).Rewritten()
				v.Sheet = sheet.Write(there)
				for i := range versions {
					for _, why := range speaker.Version(&versions[i]) {
						v.Lost = append(v.Lost, there.Parts[i].Name+": "+why)
					}
				}
				text += "\nOr the guitar stays as it is, with the music rewritten:\n\n" + v.Sheet
				for _, l := range v.Lost {
					text += "# " + l + "\n"
				}
			}
			return s.output(c, v, text)
		},
	}
}

// concertPitch reads --a4.
func concertPitch(c *cli.Command) (float64, error) {
	a4 := c.Float("a4")
	if !(a4 >= 390 && a4 <= 480) {
		return 0, fmt.Errorf("--a4 is %g; write Hz from 390 to 480", a4)
	}
	return a4, nil
}

// signed rounds also what lies below 0.
func signed(v, parts float64) float64 {
	if v < 0 {
		return -round(-v, parts)
	}
	return round(v, parts)
}

func (s *streams) offsetCommand() *cli.Command {
	return &cli.Command{
		Name: "offset", Usage: "say how far a record is off pitch, and what to do",
		Flags: []cli.Flag{jsonFlag(), &cli.FloatFlag{Name: "heard", Usage: "the frequency that is heard, in `HZ`"},
			&cli.StringFlag{Name: "as", Usage: "the note that it should be, as in A4"},
			&cli.FloatFlag{Name: "cents", Usage: "or the offset in cents, below 0 where the record is flat"}, tuningFlag(),
			&cli.FloatFlag{Name: "a4", Value: neck.A4, Usage: "concert pitch in `HZ`"}},
		Action: func(_ context.Context, c *cli.Command) error {
			tuning, err := tuningOf(c, "tuning")
			if err != nil {
				return err
			}
			a4, err := concertPitch(c)
			if err != nil {
				return err
			}
			cents := c.Float("cents")
			switch {
			case c.IsSet("cents") && (c.IsSet("heard") || c.IsSet("as")):
				return fmt.Errorf("offset takes --cents, or --heard and --as")
			case c.IsSet("heard") && c.IsSet("as"):
				note, err := pitch.ParseSpelled(c.String("as"))
				if err != nil {
					return fmt.Errorf("--as: %w", err)
				}
				hz := c.Float("heard")
				if !(hz >= 10 && hz <= 20000) {
					return fmt.Errorf("--heard is %g; write Hz from 10 to 20000", hz)
				}
				cents = neck.Cents(hz, note.Pitch(), a4)
			case !c.IsSet("cents"):
				return fmt.Errorf("offset takes --heard HZ and --as NOTE, or --cents C")
			}
			if !(cents >= -2400 && cents <= 2400) {
				return fmt.Errorf("%.0f cents are more than two octaves; check the note", cents)
			}
			type stringJSON struct {
				String neck.String `json:"string"`
				Hz     float64     `json:"hz"`
			}
			v := struct {
				Cents   float64      `json:"cents"`
				Rate    float64      `json:"rate"`
				Strings []stringJSON `json:"strings"`
				Note    string       `json:"note,omitempty"`
			}{Cents: signed(cents, 100), Rate: round(neck.Rate(cents), 1e6)}
			as, _ := pitch.ParseSpelled(c.String("as"))
			v.Note = speaker.Offset(neck.Odd(cents, as))
			text := speaker.Record(cents) + ":\n"
			if v.Note != "" {
				text = v.Note + "\n" + text
			}
			tuning.Cents += cents
			for i := range neck.Strings {
				at := neck.StringAt(i)
				v.Strings = append(v.Strings, stringJSON{at, round(tuning.Hz(at, a4), 100)})
				text += fmt.Sprintf("%s  %.2f Hz\n", at, tuning.Hz(at, a4))
			}
			return s.output(c, v, text)
		},
	}
}
