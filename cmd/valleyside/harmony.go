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
			key, err := keyOf(c)
			if err != nil {
				return err
			}
			chords, _, err := symbols(c, key, harmony.Tonic)
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
					changeJSON{round(ch.Link.Ease, 1000), ch.Link.Anchors, ch.Link.Guides, round(ch.Link.Shift, 10)}}
				if j.Change.Anchors == nil {
					j.Change.Anchors = []neck.String{}
				}
				if j.Change.Guides == nil {
					j.Change.Guides = []neck.String{}
				}
				v.Chords = append(v.Chords, j)
				fmt.Fprintf(&b, "%-8s %s; change %.2f", ch.Chord.Symbol, j.Voicing, j.Change.Ease)
				if len(j.Change.Anchors) > 0 {
					fmt.Fprintf(&b, ", %s", speaker.Change(ch.Link))
				}
				b.WriteByte('\n')
			}
			return s.output(c, v, b.String())
		},
	}
}

// inKey reads the chords of a command and their map of keys: the key that is given, or
// the likeliest, and where they go on in another.
func inKey(c *cli.Command, numbering harmony.Numbering) (chords []chord.Chord, sections []harmony.Section, err error) {
	key, err := keyOf(c)
	if err != nil {
		return nil, nil, err
	}
	given := key.Valid()
	if chords, key, err = symbols(c, key, numbering); err != nil {
		return nil, nil, err
	}
	if given {
		return chords, []harmony.Section{{To: len(chords), Key: key}}, nil
	}
	return chords, harmony.Sections(chords, key), nil
}

// keyChange is where chords go on in a key.
type keyChange struct {
	From int    `json:"from"` // of the chords, from 1
	Key  string `json:"key"`
}

func keyChanges(sections []harmony.Section) (list []keyChange) {
	for _, s := range sections {
		list = append(list, keyChange{s.From + 1, s.Key.String()})
	}
	return list
}

func (s *streams) numbersCommand() *cli.Command {
	return &cli.Command{
		Name: "numbers", Usage: "number chords by scale degree", ArgsUsage: "\"Em C G D\"",
		Flags: []cli.Flag{jsonFlag(), &cli.StringFlag{Name: "key", Usage: "the key; without it the likeliest, and where it changes"},
			&cli.StringFlag{Name: "school", Value: string(harmony.Relative), Usage: "minor songs from the relative major or from the tonic, or roman numerals"}},
		Action: func(_ context.Context, c *cli.Command) error {
			school, err := harmony.ParseNumbering(c.String("school"))
			if err != nil {
				return fmt.Errorf("--school: %w", err)
			}
			chords, sections, err := inKey(c, school)
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
				Keys   []keyChange  `json:"keys"`
				Chords []numberJSON `json:"chords"`
			}{Key: sections[0].Key.String(), Keys: keyChanges(sections)}
			var b strings.Builder
			for i, n := range harmony.InSections(chords, sections, school) {
				for _, section := range sections {
					if section.From == i {
						fmt.Fprintln(&b, section.Key)
					}
				}
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

// areChords tells whether a word or some are rather chords than the name of a file: they
// begin with one.
func areChords(text string) bool {
	words := strings.Fields(text)
	if len(words) < 2 {
		return false
	}
	_, err := chord.Parse(words[0])
	return err == nil
}

func (s *streams) keyCommand() *cli.Command {
	return &cli.Command{
		Name: "key", Usage: "list the likely keys of a sheet or of chords", ArgsUsage: "FILE | \"Em C G D\"", Flags: []cli.Flag{jsonFlag()},
		Action: func(_ context.Context, c *cli.Command) error {
			var guesses []harmony.Guess
			var changes []keyChange
			type partKey struct {
				Part string `json:"part"`
				Bar  int    `json:"bar"`
				Key  string `json:"key"`
			}
			var parts []partKey
			chords, _, err := symbols(c, pitch.Key{}, harmony.Tonic)
			switch {
			case err == nil:
				guesses = harmony.Keys(chords)
				changes = keyChanges(harmony.Sections(chords, guesses[0].Key))
			case c.Args().Len() != 1 || areChords(c.Args().First()):
				return err
			default:
				sh, err := s.readSheet(c)
				if err != nil {
					return err
				}
				guesses = harmony.KeysOfSong(sh.Song)
				for _, k := range harmony.Map(sh.Song) {
					parts = append(parts, partKey{sh.Song.Parts[k.Part].Name, k.Bar, k.Key.String()})
				}
			}
			type keyJSON struct {
				Key   string  `json:"key"`
				Score float64 `json:"score"`
			}
			v := struct {
				Keys    []keyJSON   `json:"keys"`
				Changes []keyChange `json:"changes,omitempty"` // of chords: where they go on in which key
				Parts   []partKey   `json:"parts,omitempty"`   // of a sheet
			}{[]keyJSON{}, changes, parts}
			var b strings.Builder
			for _, g := range guesses[:min(len(guesses), 24)] {
				v.Keys = append(v.Keys, keyJSON{g.Key.String(), g.Score})
				if g.Score > 0.6 {
					fmt.Fprintf(&b, "%-10s %.2f\n", g.Key, g.Score)
				}
			}
			for _, change := range changes[min(len(changes), 1):] {
				fmt.Fprintf(&b, "from chord %d in %s\n", change.From, change.Key)
			}
			for _, change := range parts[min(len(parts), 1):] {
				fmt.Fprintf(&b, "from bar %d of %s in %s\n", change.Bar, change.Part, change.Key)
			}
			return s.output(c, v, b.String())
		},
	}
}

// capoAnswer is what capo says: places for one capo, keys for a voice, or two capos.
type capoAnswer struct {
	Key   string        `json:"key"`
	Capos []capoJSON    `json:"capos,omitempty"`
	Keys  []sungJSON    `json:"keys,omitempty"`
	Pairs [][2]capoJSON `json:"pairs,omitempty"`
}

type capoJSON struct {
	Capo   int          `json:"capo"`
	Shapes []string     `json:"shapes"`
	Frets  []neck.Frets `json:"frets"` // the usual shape of each
	Key    string       `json:"shape_key"`
	Barres int          `json:"barres"`
	Ease   float64      `json:"ease"`
}

type sungJSON struct {
	Semitones int      `json:"semitones"` // from the key that sounds now
	Key       string   `json:"key"`
	Sounds    []string `json:"sounds"`
	Capo      capoJSON `json:"capo"`
}

func newCapoJSON(at *voicing.Capo) capoJSON {
	j := capoJSON{Capo: at.Fret, Key: at.Key, Barres: at.Barres, Ease: round(at.Ease, 1000), Frets: at.Usual}
	for _, shape := range at.Shapes {
		j.Shapes = append(j.Shapes, shape.Symbol)
	}
	return j
}

func (j capoJSON) String() string {
	var shapes []string
	for i, name := range j.Shapes {
		shapes = append(shapes, name+" "+j.Frets[i].String())
	}
	barres := fmt.Sprintf("%d barres", j.Barres)
	if j.Barres == 1 {
		barres = "1 barre"
	}
	return fmt.Sprintf("capo %d: %s, shapes of %s, %s, ease %.2f", j.Capo, strings.Join(shapes, ", "), j.Key, barres, j.Ease)
}

func (s *streams) capoCommand() *cli.Command {
	return &cli.Command{
		Name: "capo", Usage: "weigh all places for a capo, best first", ArgsUsage: "\"Bb Gm Eb F\"",
		Flags: []cli.Flag{jsonFlag(), tuningFlag(), reachFlag(), &cli.StringFlag{Name: "key", Usage: "the key that sounds"},
			&cli.StringFlag{Name: "singer", Usage: "another key for a `VOICE`: \"a third lower\", \"in A\", \"A3 to D5 for C4 to F5\" (the voice, then the tune)"},
			&cli.BoolFlag{Name: "two", Usage: "two guitars with two capos"}},
		Action: func(_ context.Context, c *cli.Command) error {
			tuning, err := tuningOf(c, "tuning")
			if err != nil {
				return err
			}
			chords, sections, err := inKey(c, harmony.Tonic)
			if err != nil {
				return err
			}
			key := sections[0].Key
			v := capoAnswer{Key: key.String()}
			var b strings.Builder
			fmt.Fprintf(&b, "sounding key %s\n", key)
			cfg := voicing.Config{In: neck.Instrument{Tuning: tuning}, Player: hand.Player{Reach: c.Float("reach")}, Key: key}
			book := new(voicing.Book)
			switch {
			case c.String("singer") != "":
				asked, err := voicing.ParseSinger(c.String("singer"), key)
				if err != nil {
					return fmt.Errorf("--singer: %w", err)
				}
				for _, one := range book.ForSinger(chords, asked, cfg) {
					j := sungJSON{Semitones: one.Semitones, Key: one.Key.String(), Capo: newCapoJSON(&one.Capo)}
					for _, sounds := range one.Sounds {
						j.Sounds = append(j.Sounds, sounds.Symbol)
					}
					v.Keys = append(v.Keys, j)
					fmt.Fprintf(&b, "%+d, in %s: %s; %s\n", j.Semitones, j.Key, strings.Join(j.Sounds, " "), j.Capo)
				}
			case c.Bool("two"):
				const most = 5
				pairs := voicing.ForTwo(book.Capos(chords, cfg))
				for _, pair := range pairs[:min(most, len(pairs))] {
					two := [2]capoJSON{newCapoJSON(&pair[0]), newCapoJSON(&pair[1])}
					v.Pairs = append(v.Pairs, two)
					fmt.Fprintf(&b, "%s\n  and %s\n", two[0], two[1])
				}
			default:
				for _, at := range book.Capos(chords, cfg) {
					j := newCapoJSON(&at)
					v.Capos = append(v.Capos, j)
					fmt.Fprintln(&b, j)
				}
			}
			return s.output(c, v, b.String())
		},
	}
}
