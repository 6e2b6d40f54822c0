package main

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/harmony"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/voicing"
)

// one is the single argument of a command.
func one(c *cli.Command, what string) (string, error) {
	if c.Args().Len() != 1 {
		return "", fmt.Errorf("%s takes one %s", c.Name, what)
	}
	return c.Args().First(), nil
}

// symbols reads the chords that a command was given, in one argument or in
// several, with spaces, commas or bar lines between them.
func symbols(c *cli.Command) ([]chord.Chord, error) {
	text := strings.Join(c.Args().Slice(), " ")
	fields := strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(" \t\n|", r) })
	if len(fields) == 0 {
		return nil, fmt.Errorf("%s takes chords, as in %s \"Em C G D\"", c.Name, c.Name)
	}
	var list []chord.Chord
	for i, f := range fields {
		f = strings.Trim(f, ",")
		if f == "" || f == "-" {
			continue
		}
		ch, err := chord.Parse(f)
		if err != nil {
			return nil, inputErrorf("chord %d: %w", i+1, err)
		}
		list = append(list, ch)
	}
	if len(list) == 0 {
		return nil, inputErrorf("there is no chord in %q; write them with spaces, as in \"Em C G D\"", text)
	}
	return list, nil
}

// output writes a result as JSON or as text.
func (s *streams) output(c *cli.Command, v any, text string) error {
	if c.Bool("json") {
		return s.printJSON(v)
	}
	_, err := fmt.Fprint(s.out, text)
	return err
}

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

func tuningFlag() cli.Flag {
	return &cli.StringFlag{Name: "tuning", Value: "standard", Usage: "a name, or six notes low to high"}
}

func reachFlag() cli.Flag {
	return &cli.FloatFlag{Name: "reach", Value: hand.UsualReach, Usage: "widest distance the hand spans, in `MM`"}
}

func schoolFlag() cli.Flag {
	return &cli.StringFlag{Name: "school", Value: string(voicing.All), Usage: "letter, third, drone, few, open or all"}
}

// tuningOf reads --tuning.
func tuningOf(c *cli.Command, name string) (neck.Tuning, error) {
	t, err := neck.Parse(c.String(name))
	if err != nil {
		return t, fmt.Errorf("--%s: %w", name, err)
	}
	return t, nil
}

func (s *streams) nameCommand() *cli.Command {
	return &cli.Command{
		Name: "name", Usage: "name a shape", ArgsUsage: "FRETS",
		Flags: []cli.Flag{jsonFlag(), tuningFlag(),
			&cli.StringFlag{Name: "bass", Usage: "the `NOTE` that somebody else plays below it"},
			&cli.StringFlag{Name: "key", Usage: "the key it stands in"}},
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
			}{Frets: frets}
			classes, bass := neck.Instrument{Tuning: tuning}.Classes(frets)
			if b := c.String("bass"); b != "" {
				n, err := pitch.ParseNote(b)
				if err != nil {
					return fmt.Errorf("--bass: %w", err)
				}
				bass = n.Class()
			}
			v.Names = chord.Names(classes, bass, key)
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
			return s.output(c, v, b.String())
		},
	}
}

// keyOf reads --key; nothing is the zero Key.
func keyOf(c *cli.Command) (pitch.Key, error) {
	text := c.String("key")
	if text == "" {
		return pitch.Key{}, nil
	}
	k, err := pitch.ParseKey(text)
	if err != nil {
		return k, fmt.Errorf("--key: %w", err)
	}
	return k, nil
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
				fmt.Fprintln(s.err, "valleyside: no voicing lies within this reach and these frets; allow more of either, or another school")
			}
			return s.output(c, v, b.String())
		},
	}
}

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

func (s *streams) transposeCommand() *cli.Command {
	return &cli.Command{
		Name: "transpose", Usage: "write a sheet in another key", ArgsUsage: "FILE",
		Flags: []cli.Flag{jsonFlag(), &cli.StringFlag{Name: "to", Usage: "the `KEY`", Required: true},
			&cli.BoolFlag{Name: "by-capo", Usage: "keep the frets and move the capo"}},
		Action: func(_ context.Context, c *cli.Command) error {
			to, err := pitch.ParseKey(c.String("to"))
			if err != nil {
				return fmt.Errorf("--to: %w", err)
			}
			sh, err := s.readSheet(c)
			if err != nil {
				return err
			}
			t, err := sh.Transpose(to, c.Bool("by-capo"))
			if err != nil {
				return inputError{err}
			}
			for _, n := range t.Notes {
				fmt.Fprintln(s.err, "valleyside:", n)
			}
			if t.Notes == nil {
				t.Notes = []string{}
			}
			return s.output(c, map[string]any{"key": to.String(), "sheet": t.Text, "notes": t.Notes}, t.Text)
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

func (s *streams) retuneCommand() *cli.Command {
	return &cli.Command{
		Name: "retune", Usage: "say what each string must do to get to another tuning",
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
