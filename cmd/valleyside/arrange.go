package main

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
	"valleyside/core/words"
)

func (s *streams) arrangeCommand() *cli.Command {
	return &cli.Command{
		Name: "arrange", Usage: "make easier versions of the parts of a sheet", ArgsUsage: "FILE",
		Flags: append(handFlags(),
			jsonFlag(),
			&cli.StringFlag{Name: "rung", Value: "all", Usage: "one-finger, two-note, octave, three-note, easy-chords, as-written or all"},
			&cli.StringFlag{Name: "part", Usage: "only the part of this name"},
			&cli.StringFlag{Name: "player", Usage: "the line of another player, by the `NAME` in the sheet"},
			&cli.StringFlag{Name: "prefer", Value: string(arrange.Nearest), Usage: "one-string or nearest"},
			&cli.StringFlag{Name: "thicken", Value: string(arrange.All), Usage: "all notes, accents only, or thirds or sixths below a line (two-note)"},
			&cli.StringFlag{Name: "school", Value: string(voicing.Few), Usage: "of easier chords: letter, third, drone, few, open, all, shell, rootless or drop2"},
			&cli.StringFlag{Name: "tuning", Usage: "rewrite for another tuning: a name, or six notes low to high"},
			&cli.BoolFlag{Name: "free", Usage: "as written, the notes may lie elsewhere"},
			&cli.BoolFlag{Name: "full-rhythm", Usage: "leave nothing out, however fast"},
			&cli.StringSliceFlag{Name: "pin", Usage: "decide something yourself, as in 'bar 3 at 1/4: shape x57xxx', 'bar 2: string A', 'all: frets 3-8'"},
		),
		Action: s.arrange,
	}
}

// handFlags say for whom versions are made, and at which tempo.
func handFlags() []cli.Flag {
	return []cli.Flag{
		&cli.FloatFlag{Name: "reach", Value: hand.UsualReach, Usage: "widest distance the hand spans, in `MM`"},
		&cli.FloatFlag{Name: "scale", Value: neck.UsualScale, Usage: "scale length in `MM`"},
		&cli.FloatFlag{Name: "tempo", Usage: "beats per minute; without it the tempo of the sheet"},
		&cli.FloatFlag{Name: "nps", Value: hand.UsualNotesPerSecond, Usage: "comfortable strokes a `SECOND`"},
		&cli.StringFlag{Name: "picking", Value: string(hand.Alternate), Usage: "alternate, all-down or economy"},
		&cli.BoolFlag{Name: "acoustic", Usage: "an acoustic guitar"},
		&cli.BoolFlag{Name: "no-barre", Usage: "no finger across several strings"},
		&cli.BoolFlag{Name: "no-little", Usage: "without the little finger"},
		&cli.BoolFlag{Name: "thumb", Usage: "the thumb may stop the thickest string"},
		&cli.StringFlag{Name: "unlearnt", Usage: "what the player has not learnt yet, with commas: " + strings.Join(hand.SkillNames(), ", ")},
	}
}

// readHand reads what handFlags say.
func readHand(c *cli.Command) (o arrange.Options, err error) {
	o.Player = hand.Player{Reach: c.Float("reach"), Scale: c.Float("scale"), NotesPerSecond: c.Float("nps"), Acoustic: c.Bool("acoustic"),
		NoBarre: c.Bool("no-barre"), NoLittle: c.Bool("no-little"), Thumb: c.Bool("thumb")}
	o.Tempo = c.Float("tempo")
	switch {
	case !(o.Player.Reach > 0 && o.Player.Reach <= 400):
		return o, fmt.Errorf("--reach is %g; write millimetres from 1 to 400", o.Player.Reach)
	case !(o.Player.Scale >= 200 && o.Player.Scale <= 1000):
		return o, fmt.Errorf("--scale is %g; write millimetres from 200 to 1000", o.Player.Scale)
	case !(o.Player.NotesPerSecond >= 0.1 && o.Player.NotesPerSecond <= 40):
		return o, fmt.Errorf("--nps is %g; write strokes a second from 0.1 to 40", o.Player.NotesPerSecond)
	case c.IsSet("tempo") && !(o.Tempo >= sheet.MinTempo && o.Tempo <= sheet.MaxTempo):
		return o, fmt.Errorf("--tempo is %g; write beats per minute from %d to %d", o.Tempo, sheet.MinTempo, sheet.MaxTempo)
	}
	if o.Player.Picking, err = hand.ParsePicking(c.String("picking")); err != nil {
		return o, fmt.Errorf("--picking: %w", err)
	}
	if o.Player.New, err = hand.ParseSkills(c.String("unlearnt")); err != nil {
		return o, fmt.Errorf("--unlearnt: %w", err)
	}
	return o, nil
}

// arrangeOptions reads for whom versions are made, and how.
func arrangeOptions(c *cli.Command) (o arrange.Options, way arrange.Way, err error) {
	if o, err = readHand(c); err != nil {
		return o, way, err
	}
	way = arrange.Way{Prefer: arrange.Prefer(c.String("prefer")), Thicken: arrange.Thicken(c.String("thicken")),
		Replace: c.Bool("free"), FullRhythm: c.Bool("full-rhythm")}
	if way.Prefer != arrange.Nearest && way.Prefer != arrange.OneString {
		return o, way, fmt.Errorf("--prefer is %q; use one-string or nearest", way.Prefer)
	}
	if _, err := arrange.ParseThicken(c.String("thicken")); err != nil {
		return o, way, fmt.Errorf("--thicken: %w", err)
	}
	for _, text := range c.StringSlice("pin") {
		pin, err := arrange.ParsePin(text)
		if err != nil {
			return o, way, fmt.Errorf("--pin: %w", err)
		}
		way = way.Pin(pin)
	}
	if way.School, err = voicing.ParseSchool(c.String("school")); err != nil {
		return o, way, fmt.Errorf("--school: %w", err)
	}
	if t := c.String("tuning"); t != "" {
		tuning, err := neck.Parse(t)
		if err != nil {
			return o, way, fmt.Errorf("--tuning: %w", err)
		}
		o.Tuning = &tuning
	}
	return o, way, nil
}

func (s *streams) arrange(_ context.Context, c *cli.Command) error {
	o, way, err := arrangeOptions(c)
	if err != nil {
		return err
	}
	rungs := arrange.Rungs
	every := c.String("rung") == "all"
	if r := c.String("rung"); !every {
		rung, err := arrange.ParseRung(r)
		if err != nil {
			return fmt.Errorf("--rung: %w, or all", err)
		}
		rungs = []arrange.Rung{rung}
	}
	sh, err := s.readSheet(c)
	if err != nil {
		return err
	}
	parts, err := chosenParts(sh.Song, c.String("part"))
	if err != nil {
		return err
	}
	played := sh.Song
	if player := c.String("player"); player != "" {
		if parts, err = partsOf(sh.Song, parts, player); err != nil {
			return err
		}
		played = sh.Song.As(func(int) string { return player })
	}
	a := arrange.New(played, o)
	tuning := sh.Song.Tuning
	if o.Tuning != nil {
		tuning = *o.Tuning
	}
	result := arranged{Title: sh.Song.Title, Tuning: tuning.Spelled(), Parts: []arrangedPart{}}
	for _, note := range doesNotApply(c, rungs) {
		fmt.Fprintln(s.err, "valleyside:", note)
	}
	wished := map[arrange.Rung]arrange.Way{}
	if way.Thicken == arrange.Thirds || way.Thicken == arrange.Sixths {
		wished[arrange.TwoNote] = way
	}
	for _, i := range parts {
		part := &sh.Song.Parts[i]
		p := arrangedPart{Name: part.Name, Rungs: []arrangedRung{}}
		offered, not := a.Offered(i, wished)
		var versions []arrange.Version
		for _, r := range rungs {
			// A rung that is asked for by name is made all the same, but for
			// one that has nothing to make.
			if slices.Contains(offered, r) || !every && a.Refused(i, r) != arrange.NoChordsHere {
				versions = append(versions, a.Version(i, r, way))
			}
		}
		for _, n := range not {
			if slices.Contains(rungs, n.Rung) {
				p.NotOffered = append(p.NotOffered, refusedRung{n.Rung, speaker.Refusal(n.Why)})
			}
		}
		arrange.Order(versions)
		for i := range versions {
			p.Rungs = append(p.Rungs, newArrangedRung(&versions[i], part.Meter))
		}
		result.Parts = append(result.Parts, p)
	}
	if c.Bool("json") {
		return s.printJSON(result)
	}
	_, err = fmt.Fprint(s.out, result)
	return err
}

// chosenParts lists the parts to arrange: all, or the one that is named.
func chosenParts(s *song.Song, name string) ([]int, error) {
	if name != "" {
		i, ok := s.PartNamed(name)
		if !ok {
			var names []string
			for i := range s.Parts {
				names = append(names, s.Parts[i].Name)
			}
			return nil, inputErrorf("there is no part %q; the sheet has %s", name, strings.Join(names, ", "))
		}
		return []int{i}, nil
	}
	all := make([]int, len(s.Parts))
	for i := range all {
		all[i] = i
	}
	return all, nil
}

// partsOf are those of some parts in which another player has a line.
func partsOf(s *song.Song, parts []int, player string) (list []int, err error) {
	for _, i := range parts {
		if slices.Contains(s.Parts[i].Players(), player) {
			list = append(list, i)
		}
	}
	switch players := play.Players(s); {
	case len(list) > 0:
		return list, nil
	case len(players) == 0:
		return nil, inputErrorf("there is no player %q; the sheet has one player alone", player)
	case slices.Contains(players, player):
		return nil, inputErrorf("%s plays nothing there; leave out --part, or name another one", player)
	default:
		return nil, inputErrorf("there is no player %q; the sheet has %s beside the first", player, strings.Join(players, ", "))
	}
}

type arranged struct {
	Title  string                      `json:"title"`
	Tuning [neck.Strings]pitch.Spelled `json:"tuning"`
	Parts  []arrangedPart              `json:"parts"`
}

type arrangedPart struct {
	Name       string         `json:"name"`
	Rungs      []arrangedRung `json:"rungs"`
	NotOffered []refusedRung  `json:"not_offered,omitempty"`
}

// refusedRung is a rung that makes no sense for a part, and why.
type refusedRung struct {
	Rung arrange.Rung `json:"rung"`
	Why  string       `json:"why"`
}

type arrangedRung struct {
	Rung   arrange.Rung   `json:"rung"`
	Tempo  float64        `json:"tempo"`
	Grade  float64        `json:"grade"`
	Work   float64        `json:"work"`
	Travel float64        `json:"travel"`
	Even   []arrange.Rung `json:"even_with,omitempty"`
	Same   arrange.Rung   `json:"same_as,omitempty"`
	Harder bool           `json:"harder_than_written,omitempty"`
	Why    []string       `json:"why"`
	Unmet  []string       `json:"unmet,omitempty"`
	Bars   []arrangedBar  `json:"bars"`
	Passes []arrangedBar  `json:"passes,omitempty"`
}

type arrangedBar struct {
	Bar     int             `json:"bar"`
	Pass    int             `json:"pass,omitempty"` // of a repeated line, where it differs
	Demand  float64         `json:"demand"`
	Why     []string        `json:"why"`
	Dropped []string        `json:"dropped,omitempty"`
	Events  []arrangedEvent `json:"events"`
}

type arrangedEvent struct {
	Start  pitch.Frac     `json:"start"`
	Length pitch.Frac     `json:"length"`
	Beat   string         `json:"beat"`
	Notes  []arrangedNote `json:"notes"`
	Dead   []neck.String  `json:"dead,omitempty"`
	Stroke song.Stroke    `json:"stroke"`
	Muted  bool           `json:"palm_muted,omitempty"`
	Some   bool           `json:"optional,omitempty"` // some play it
	Mutes  []mutedString  `json:"mutes"`
	Why    string         `json:"why"`
}

type arrangedNote struct {
	String neck.String   `json:"string"`
	Fret   int           `json:"fret"`
	Finger hand.Finger   `json:"finger"`
	Pitch  pitch.Spelled `json:"pitch"`
	Pluck  song.Pluck    `json:"pluck,omitzero"` // where there is no pick
}

// mutedString is a string that must not sound, and what stops it.
type mutedString struct {
	String neck.String `json:"string"`
	By     string      `json:"by"`
}

func mutedStrings(mutes []hand.Mute) []mutedString {
	list := make([]mutedString, len(mutes))
	for i, m := range mutes {
		list[i] = mutedString{m.String, speaker.Mute(m)}
	}
	return list
}

// speaker says what the command line says.
var speaker words.Speaker

func newArrangedRung(v *arrange.Version, m song.Meter) arrangedRung {
	r := arrangedRung{Rung: v.Rung, Tempo: v.Tempo, Grade: v.Grade, Work: round(v.Work, 1000), Travel: round(v.Travel, 10),
		Even: v.Even, Same: v.Same, Harder: v.Harder, Why: filled(speaker.Version(v)), Bars: []arrangedBar{}}
	for _, u := range v.Unmet {
		r.Unmet = append(r.Unmet, speaker.Unmet(u, m))
	}
	for i := range v.Bars {
		r.Bars = append(r.Bars, newArrangedBar(&v.Bars[i], 0))
	}
	for i := range v.Passes {
		r.Passes = append(r.Passes, newArrangedBar(&v.Passes[i].Bar, v.Passes[i].Pass))
	}
	return r
}

func newArrangedBar(b *arrange.Bar, pass int) arrangedBar {
	m := b.Measure.Meter
	bar := arrangedBar{Bar: b.Number, Pass: pass, Demand: round(b.Demand, 1000), Why: filled(speaker.Bar(b)), Events: []arrangedEvent{}}
	for _, d := range b.Dropped {
		bar.Dropped = append(bar.Dropped, speaker.Dropped(d, m))
	}
	for j := range b.Events {
		e := &b.Events[j]
		event := arrangedEvent{Start: e.Start, Length: e.Length, Beat: e.Beat, Notes: []arrangedNote{},
			Dead: e.Dead, Stroke: e.Stroke, Muted: e.Muted, Some: e.From.Optional, Mutes: mutedStrings(e.Mutes), Why: speaker.Event(e)}
		for _, n := range e.Notes {
			event.Notes = append(event.Notes, arrangedNote{n.String, n.Fret, n.Finger, n.Pitch, n.Pluck})
		}
		bar.Events = append(bar.Events, event)
	}
	return bar
}

// filled is a list that is written as one, also where it is empty.
func filled(list []string) []string {
	if list == nil {
		return []string{}
	}
	return list
}

// doesNotApply says which options have nothing to say on the rungs that are
// asked for.
func doesNotApply(c *cli.Command, rungs []arrange.Rung) (notes []string) {
	for _, o := range []struct {
		name  string
		rungs []arrange.Rung
	}{
		{"prefer", []arrange.Rung{arrange.OneFinger}},
		{"thicken", []arrange.Rung{arrange.TwoNote, arrange.Octave, arrange.ThreeNote}},
		{"free", []arrange.Rung{arrange.AsWritten, arrange.EasyChords}},
		{"school", []arrange.Rung{arrange.EasyChords}},
		{"full-rhythm", []arrange.Rung{arrange.OneFinger, arrange.TwoNote, arrange.Octave, arrange.ThreeNote}},
	} {
		applies := slices.ContainsFunc(rungs, func(r arrange.Rung) bool { return slices.Contains(o.rungs, r) })
		if c.IsSet(o.name) && !applies {
			var titles []string
			for _, r := range o.rungs {
				titles = append(titles, string(r))
			}
			notes = append(notes, fmt.Sprintf("--%s changes nothing here; it is for %s", o.name, strings.Join(titles, ", ")))
		}
	}
	return notes
}

func round(v float64, parts float64) float64 { return float64(int(v*parts+0.5)) / parts }

// String writes the versions as text: a line for each bar with what is played
// on each count, and the reasons below.
func (a arranged) String() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", a.Title)
	for _, p := range a.Parts {
		for _, r := range p.Rungs {
			fmt.Fprintf(&b, "\n%s · %s · grade %.1f at %g · hand moves %.0f mm\n", p.Name, r.Rung.Title(), r.Grade, r.Tempo, r.Travel)
			if r.Same != "" {
				fmt.Fprintf(&b, "     %s\n", words.SameNotes(r.Same))
			}
			if r.Harder {
				fmt.Fprintf(&b, "     harder than the part as written\n")
			}
			for _, u := range r.Unmet {
				fmt.Fprintf(&b, "     %s\n", u)
			}
			for _, bar := range slices.Concat(r.Bars, r.Passes) {
				fmt.Fprintf(&b, "%3d ", bar.Bar)
				if bar.Pass > 0 {
					fmt.Fprintf(&b, " pass %d", bar.Pass)
				}
				for _, e := range bar.Events {
					fmt.Fprintf(&b, " %s:%s", e.Beat, e.text())
				}
				b.WriteByte('\n')
				for _, why := range bar.Why {
					fmt.Fprintf(&b, "     %s\n", why)
				}
			}
		}
		for _, n := range p.NotOffered {
			fmt.Fprintf(&b, "\n%s · %s is not offered: %s\n", p.Name, n.Rung.Title(), n.Why)
		}
	}
	return b.String()
}

// text writes what is fretted, as in a sheet, with the finger in brackets.
func (e arrangedEvent) text() string {
	var notes []string
	for _, n := range e.Notes {
		text := fmt.Sprintf("%d%s", n.Fret, n.String)
		if n.Finger != hand.None {
			text += "[" + n.Finger.String() + "]"
		}
		notes = append(notes, text)
	}
	if len(notes) == 0 {
		return "x"
	}
	return strings.Join(notes, "+")
}
