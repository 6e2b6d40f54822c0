package main

import (
	"context"
	"fmt"
	"strings"

	"github.com/urfave/cli/v3"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/studio"
)

func (s *streams) lessonCommand() *cli.Command {
	return &cli.Command{
		Name: "lesson", Usage: "make the steps of a lesson, with a sheet for each", ArgsUsage: "FILE",
		Flags: append(studentFlags(),
			&cli.StringSliceFlag{Name: "rung", Usage: "of all parts, or of one as in Verse=two-note; without it those that fit the student"},
		),
		Action: s.lesson,
	}
}

func (s *streams) lesson(_ context.Context, c *cli.Command) error {
	st, o, err := readStudent(c)
	if err != nil {
		return err
	}
	sh, err := s.readSheet(c)
	if err != nil {
		return err
	}
	rungs, err := rungsOf(c, sh.Song)
	if err != nil {
		return err
	}
	if o.Tempo == 0 {
		o.Tempo = sh.Song.Tempo
	}
	t := studio.Teach(sh.Song, chosenVersions(sh.Song, st, o, rungs), lesson.Plan{}, st, o)
	result := newTaught(t.Lesson)
	if c.Bool("json") {
		return s.printJSON(result)
	}
	_, err = fmt.Fprint(s.out, result)
	return err
}

// studentFlags are those of what is made for a student.
func studentFlags() []cli.Flag {
	return append(handFlags(),
		jsonFlag(),
		&cli.IntFlag{Name: "minutes", Value: lesson.UsualMinutes, Usage: "of practice a `DAY`"},
		&cli.StringFlag{Name: "known", Usage: "what the student has, with commas: chords, shapes as in x32010, " + strings.Join(lesson.Families(), ", ") + ", techniques"},
	)
}

func readStudent(c *cli.Command) (st lesson.Student, o arrange.Options, err error) {
	if o, err = readHand(c); err != nil {
		return st, o, err
	}
	st = lesson.Student{Player: o.Player, Minutes: c.Int("minutes")}
	if st.Minutes < 1 || st.Minutes > 600 {
		return st, o, fmt.Errorf("--minutes is %d; write minutes a day from 1 to 600", st.Minutes)
	}
	if st.Known, err = lesson.ParseKnown(c.String("known")); err != nil {
		return st, o, fmt.Errorf("--known: %w", err)
	}
	return st, o, nil
}

// rungsOf reads which rung is wished for each part; empty is none.
func rungsOf(c *cli.Command, g *song.Song) ([]arrange.Rung, error) {
	rungs := make([]arrange.Rung, len(g.Parts))
	for _, text := range c.StringSlice("rung") {
		name, wish, one := strings.Cut(text, "=")
		if !one {
			wish = name
		}
		rung, err := arrange.ParseRung(strings.TrimSpace(wish))
		if err != nil {
			return nil, fmt.Errorf("--rung: %w", err)
		}
		parts, err := chosenParts(g, map[bool]string{true: strings.TrimSpace(name)}[one])
		if err != nil {
			return nil, err
		}
		for _, i := range parts {
			rungs[i] = rung
		}
	}
	return rungs, nil
}

// chosenVersions are the versions that are wished for, and those that are suggested where
// there is no wish.
func chosenVersions(g *song.Song, st lesson.Student, o arrange.Options, rungs []arrange.Rung) []studio.Choice {
	chosen := studio.Fit(g, nil, st, o).Choices()
	for i := range chosen {
		if rungs[i] != "" {
			chosen[i].Rung = rungs[i]
		}
	}
	return chosen
}

type taught struct {
	Title   string       `json:"title"`
	Minutes int          `json:"minutes"`
	Days    int          `json:"days"`
	Steps   []taughtStep `json:"steps"`
}

type taughtStep struct {
	Kind       lesson.Kind   `json:"kind"`
	Title      string        `json:"title"`
	Part       string        `json:"part"` // empty for the whole way
	Into       string        `json:"into,omitempty"`
	Bars       [2]int        `json:"bars"`
	Rung       arrange.Rung  `json:"rung"`
	StartTempo float64       `json:"start_tempo"`
	GoalTempo  float64       `json:"goal_tempo"`
	Tempos     []float64     `json:"tempos"`
	GoalPasses int           `json:"goal_passes"`
	Minutes    int           `json:"minutes"`
	Day        int           `json:"day"`
	Why        string        `json:"why"`
	How        string        `json:"how"`
	Shapes     []taughtShape `json:"shapes,omitempty"`
	Sheet      string        `json:"sheet"`
	Drills     []taughtDrill `json:"drills,omitempty"`
}

type taughtShape struct {
	Name    string                    `json:"name"`
	Frets   neck.Frets                `json:"frets"`
	Fingers [neck.Strings]hand.Finger `json:"fingers"`
	Mutes   []mutedString             `json:"mutes"`
}

type taughtDrill struct {
	For   string `json:"for"`
	How   string `json:"how"`
	Sheet string `json:"sheet"`
}

func newTaught(l *lesson.Lesson) taught {
	out := taught{Title: l.Song.Title, Minutes: l.Minutes, Days: l.Days, Steps: []taughtStep{}}
	for i := range l.Steps {
		s := &l.Steps[i]
		one := taughtStep{Kind: s.Kind, Title: speaker.StepTitle(l.Song, s), Bars: [2]int{s.From, s.To}, Rung: s.Rung, StartTempo: s.Start, GoalTempo: s.Goal,
			Tempos: lesson.Climb(s.Start, s.Goal), GoalPasses: s.Passes, Minutes: s.Minutes, Day: s.Day, Why: strings.Join(speaker.Step(s), ". ") + ".",
			How: speaker.Way(s.Kind), Sheet: sheet.Write(sheet.Shorten(l.Music(s)))}
		if s.Part >= 0 {
			one.Part = l.Song.Parts[s.Part].Name
		}
		if s.Into >= 0 {
			one.Into = l.Song.Parts[s.Into].Name
		}
		for _, h := range s.Shapes {
			one.Shapes = append(one.Shapes, taughtShape{h.Name, h.Frets, h.Fingers, mutedStrings(h.Mutes)})
		}
		for _, d := range s.Drills {
			for j := range d.Exercises {
				e := &d.Exercises[j]
				one.Drills = append(one.Drills, taughtDrill{speaker.Drill(d.Place.For), speaker.Exercise(e.How), sheet.Write(sheet.Shorten(d.Song(e, one.Title, s.Start)))})
			}
		}
		out.Steps = append(out.Steps, one)
	}
	return out
}

// String writes a line for each step, with its reason below.
func (t taught) String() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s: %d minutes in %d days\n", t.Title, t.Minutes, t.Days)
	for i, s := range t.Steps {
		fmt.Fprintf(&b, "%3d. day %-3d %-7s %-34s %3.0f to %3.0f  %2d× %3d min\n       %s\n", i+1, s.Day, s.Kind, s.Title, s.StartTempo, s.GoalTempo, s.GoalPasses, s.Minutes, s.Why)
	}
	return b.String()
}
