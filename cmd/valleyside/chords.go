package main

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/voicing"
	"valleyside/core/words"
)

// Questions about one chord.

func (s *streams) chordCommand() *cli.Command {
	return &cli.Command{
		Name: "chord", Usage: "say what a chord name means", ArgsUsage: "SYMBOL", Flags: []cli.Flag{jsonFlag()},
		Action: func(_ context.Context, c *cli.Command) error {
			symbol, err := one(c, "SYMBOL")
			if err != nil {
				return err
			}
			ch, err := chord.Parse(symbol)
			if err != nil {
				return inputError{err}
			}
			v := struct {
				Symbol    string       `json:"symbol"`
				Canonical string       `json:"canonical"`
				Root      pitch.Note   `json:"root"`
				Bass      pitch.Note   `json:"bass"`
				Tones     []chord.Tone `json:"tones"`
			}{ch.Symbol, ch.Canonical(), ch.Root, ch.Lowest(), ch.Tones}
			var b strings.Builder
			fmt.Fprintf(&b, "%s:", ch.Canonical())
			for _, t := range ch.Tones {
				fmt.Fprintf(&b, " %s (%s)", t.Note, t.Degree)
			}
			if ch.Bass.Valid() {
				fmt.Fprintf(&b, ", bass %s", ch.Bass)
			}
			return s.output(c, v, b.String()+"\n")
		},
	}
}

// alongJSON is a shape at another fret: its name there, and the thickest string that
// sounds its root.
type alongJSON struct {
	Frets neck.Frets `json:"frets"`
	Name  string     `json:"name"`
	Root  string     `json:"root"`
}

func (s *streams) nameCommand() *cli.Command {
	return &cli.Command{
		Name: "name", Usage: "name a shape", ArgsUsage: "FRETS",
		Flags: []cli.Flag{jsonFlag(), tuningFlag(),
			&cli.StringFlag{Name: "bass", Usage: "the `NOTE` that somebody else plays below it"},
			&cli.StringFlag{Name: "key", Usage: "the key it stands in"},
			&cli.BoolFlag{Name: "along", Usage: "what it is at every other fret as well"}},
		Action: func(_ context.Context, c *cli.Command) error {
			text, err := one(c, "FRETS, low to high, as in x32010")
			if err != nil {
				return err
			}
			tuning, err := tuningOf(c, "tuning")
			if err != nil {
				return err
			}
			frets, err := neck.ParseFrets(text)
			if err != nil {
				return inputError{err}
			}
			key, err := keyOf(c)
			if err != nil {
				return err
			}
			v := struct {
				Frets   neck.Frets      `json:"frets"`
				Pitches []pitch.Spelled `json:"pitches"`
				Names   []chord.Name    `json:"names"`
				Along   []alongJSON     `json:"along,omitempty"`
			}{Frets: frets}
			classes, bass := neck.Instrument{Tuning: tuning}.Classes(frets)
			if b := c.String("bass"); b != "" {
				n, err := pitch.ParseNote(b)
				if err != nil {
					return fmt.Errorf("--bass: %w", err)
				}
				v.Names = chord.NamesOver(classes, n, key)
			} else {
				v.Names = chord.Names(classes, bass, key)
			}
			spelled := map[pitch.Class]pitch.Note{}
			if len(v.Names) > 0 {
				for _, n := range append(append([]pitch.Note{v.Names[0].Bass}, v.Names[0].Tones...), v.Names[0].Extra...) {
					spelled[n.Class()] = n
				}
			}
			for i, fret := range frets {
				if fret >= 0 {
					p := tuning.Pitch(neck.StringAt(i), int(fret))
					at := key.Spell(p)
					if n, ok := spelled[p.Class()]; ok {
						at = n.At(p)
					}
					v.Pitches = append(v.Pitches, at)
				}
			}
			var b strings.Builder
			for _, n := range v.Names {
				b.WriteString(n.Name)
				if text := speaker.Name(n); text != "" {
					b.WriteString(" " + text)
				}
				b.WriteByte('\n')
			}
			if c.Bool("along") {
				for _, m := range voicing.Along(frets, neck.Instrument{Tuning: tuning}, key) {
					j := alongJSON{Frets: m.Frets, Name: m.Name.Name}
					if m.Root > 0 {
						j.Root = m.Root.String()
					}
					v.Along = append(v.Along, j)
					fmt.Fprintf(&b, "%-16s %s\n", j.Frets, speaker.Along(m))
				}
			}
			return s.output(c, v, b.String())
		},
	}
}

// voicingJSON is a voicing as the command line writes it.
type voicingJSON struct {
	Frets    neck.Frets     `json:"frets"`
	Fingers  [6]int         `json:"fingers"`
	Barre    *barreJSON     `json:"barre"`
	Kept     []chord.Degree `json:"kept"`
	Lost     []chord.Degree `json:"lost"`
	Doubled  []chord.Degree `json:"doubled"`
	Added    []pitch.Note   `json:"added"`
	Is       string         `json:"is"`
	Bass     pitch.Note     `json:"bass"`
	Reach    float64        `json:"reach"`
	Mutes    []mutedString  `json:"mutes"`
	Ease     float64        `json:"ease"`
	Fidelity float64        `json:"fidelity"`
	School   voicing.School `json:"school"`
	Circle   int            `json:"circle,omitempty"` // the root's string, for letter-only shapes
	Warnings []string       `json:"warnings,omitempty"`
	Role     string         `json:"role,omitempty"`
	Without  []neck.Frets   `json:"also,omitempty"` // the same with strings left out at the edge
}

type barreJSON struct {
	Fret    int `json:"fret"`
	Strings int `json:"strings"`
}

func newVoicingJSON(v *voicing.Voicing, cfg voicing.Config) voicingJSON {
	at := cfg.Player.At(cfg.In.Neck)
	j := voicingJSON{Frets: v.Frets, Kept: v.Kept, Lost: v.Lost, Doubled: v.Doubled, Added: v.Added, Is: speaker.Called(v.Is), Bass: v.Bass,
		Reach: round(v.Reach(at.Neck), 10), Mutes: mutedStrings(v.Mutes(0, at.Thumb)), Ease: round(v.Ease, 1000), Fidelity: round(v.Fidelity, 1000),
		School: v.School, Circle: v.Circle, Warnings: speaker.Remarks(v.Remarks), Role: speaker.Role(v.Role), Without: v.Without}
	for i, f := range v.Fingers {
		j.Fingers[i] = int(f)
	}
	if fret, strings := v.Barre(); strings > 0 {
		j.Barre = &barreJSON{fret, strings}
	}
	return j
}

func (v voicingJSON) String() string {
	fingers := ""
	for i, f := range v.Fingers {
		switch {
		case v.Frets[i] < 0:
			fingers += "x"
		case f == 0:
			fingers += "0"
		default:
			fingers += hand.Finger(f).String()
		}
	}
	text := fmt.Sprintf("%-16s fingers %s  ease %.2f  fidelity %.2f  %s", v.Frets, fingers, v.Ease, v.Fidelity, v.Is)
	if v.Role != "" {
		text += ", " + v.Role
	}
	if len(v.Lost) > 0 {
		text += ", loses " + chord.Degrees(v.Lost)
	}
	for _, n := range v.Added {
		text += ", adds " + n.String()
	}
	if len(v.Warnings) > 0 {
		text += "; " + strings.Join(v.Warnings, "; ")
	}
	return text
}

// voicingConfig reads the options that voicings and progression share.
func voicingConfig(c *cli.Command) (cfg voicing.Config, err error) {
	if cfg.In.Tuning, err = tuningOf(c, "tuning"); err != nil {
		return cfg, err
	}
	cfg.Player.Reach = c.Float("reach")
	if !(cfg.Player.Reach > 0 && cfg.Player.Reach <= 400) {
		return cfg, fmt.Errorf("--reach is %g; write millimetres from 1 to 400", cfg.Player.Reach)
	}
	if cfg.School, err = voicing.ParseSchool(c.String("school")); err != nil {
		return cfg, fmt.Errorf("--school: %w", err)
	}
	if cfg.Key, err = keyOf(c); err != nil {
		return cfg, err
	}
	if capo := c.Int("capo"); capo != 0 {
		if capo < 0 || capo > sheet.MaxCapo {
			return cfg, fmt.Errorf("--capo is %d; write its fret, 0 to %d", capo, sheet.MaxCapo)
		}
		cfg.In.Capo = capo
	}
	if stay := c.String("stay"); stay != "" {
		low, high, ok := strings.Cut(stay, "-")
		a, err1 := strconv.Atoi(low)
		b, err2 := strconv.Atoi(high)
		if !ok || err1 != nil || err2 != nil || a < 0 || b < a || b > neck.MaxFret {
			return cfg, fmt.Errorf("--stay is %q; write two frets, as in 0-4", stay)
		}
		cfg.Low, cfg.High = a, max(b, 1)
	}
	if sung := c.String("sung"); sung != "" {
		if cfg.Sung, err = pitch.ParseNote(sung); err != nil {
			return cfg, fmt.Errorf("--sung: %w", err)
		}
	}
	return cfg, nil
}

func voicingFlags() []cli.Flag {
	return []cli.Flag{jsonFlag(), tuningFlag(), reachFlag(), schoolFlag(),
		&cli.IntFlag{Name: "capo", Usage: "the `FRET` of a capo; frets count from it"},
		&cli.StringFlag{Name: "key", Usage: "the key, which spells what is added"},
		&cli.StringFlag{Name: "sung", Usage: "a `NOTE` that is sung or played by another, and completes the chord"},
		&cli.StringFlag{Name: "stay", Usage: "the frets to stay between, as in 0-4"}}
}

func (s *streams) voicingsCommand() *cli.Command {
	return &cli.Command{
		Name: "voicings", Usage: "list ways to play a chord, best first", ArgsUsage: "SYMBOL",
		Flags: append(voicingFlags(), &cli.IntFlag{Name: "max", Value: 12, Usage: "how many, 0 for all, also those that another one beats"}),
		Action: func(_ context.Context, c *cli.Command) error {
			symbol, err := one(c, "SYMBOL")
			if err != nil {
				return err
			}
			cfg, err := voicingConfig(c)
			if err != nil {
				return err
			}
			if cfg.Max = int(c.Int("max")); cfg.Max < 0 {
				return fmt.Errorf("--max is %d; write how many, or 0 for all", cfg.Max)
			}
			cfg.Dominated = cfg.Max == 0
			ch, err := chord.Parse(symbol)
			if err != nil {
				return inputError{err}
			}
			v := struct {
				Symbol   string        `json:"symbol"`
				Voicings []voicingJSON `json:"voicings"`
			}{ch.Symbol, []voicingJSON{}}
			var b strings.Builder
			for _, one := range voicing.Find(ch, cfg) {
				j := newVoicingJSON(&one, cfg)
				v.Voicings = append(v.Voicings, j)
				fmt.Fprintln(&b, j)
			}
			if len(v.Voicings) == 0 {
				fmt.Fprintln(s.err, "valleyside: "+words.NoVoicing(ch, cfg.School))
			}
			return s.output(c, v, b.String())
		},
	}
}
