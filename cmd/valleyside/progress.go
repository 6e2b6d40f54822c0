package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"valleyside/core/progress"
	"valleyside/core/schedule"
	"valleyside/core/sheet"
	"valleyside/store"
	"valleyside/studio"
)

func nowFlag() cli.Flag {
	return &cli.StringFlag{Name: "now", Usage: "the `TIME` to look from, like 2026-03-05T18:00:00+01:00; else the clock's"}
}

func (s *streams) progressCommand() *cli.Command {
	return &cli.Command{
		Name: "progress", Usage: "say where a student is with each part of a log, and when it is looked at again", ArgsUsage: "FILE",
		Flags: []cli.Flag{jsonFlag(), nowFlag()}, Action: s.progress,
	}
}

func (s *streams) planCommand() *cli.Command {
	return &cli.Command{
		Name: "plan", Usage: "plan a sitting of so many minutes from a log", ArgsUsage: "FILE",
		Flags: []cli.Flag{jsonFlag(), nowFlag(), &cli.IntFlag{Name: "minutes", Usage: "of the sitting", Value: 20}}, Action: s.plan,
	}
}

// practiceLog is a log as it is read.
type practiceLog struct {
	Zone    string      `json:"time_zone"`
	Parts   []logPart   `json:"parts"`
	Entries []logRecord `json:"entries"`
}

type logPart struct {
	Name   string  `json:"name"`
	Target float64 `json:"target"`
}

type logRecord struct {
	Part    string    `json:"part"`
	Tempo   float64   `json:"tempo"`
	Clean   int       `json:"clean"`
	Minutes int       `json:"minutes"`
	At      time.Time `json:"at"`
}

// mostSitting is how many minutes a sitting has at most.
const mostSitting = 24 * 60

// readLog reads a log and looks at its parts.
func (s *streams) readLog(c *cli.Command) (l practiceLog, looks []progress.Look, err error) {
	_, text, err := s.read(c)
	if err != nil {
		return l, nil, err
	}
	d := json.NewDecoder(bytes.NewReader([]byte(text)))
	if err := d.Decode(&l); err != nil {
		return l, nil, inputErrorf("this is no log: %s", jsonFault(err, text))
	}
	zone, err := time.LoadLocation(l.Zone)
	if err != nil {
		return l, nil, inputErrorf("time_zone %q is none; write one like Europe/Berlin", l.Zone)
	}
	now := time.Now()
	if text := c.String("now"); text != "" {
		if now, err = time.Parse(time.RFC3339, text); err != nil {
			return l, nil, fmt.Errorf("--now: %q is no time; write it like 2026-03-05T18:00:00+01:00", text)
		}
	}
	of := map[string][]progress.Entry{}
	for i, p := range l.Parts {
		switch {
		case strings.TrimSpace(p.Name) == "":
			return l, nil, inputErrorf("parts[%d] has no name", i)
		case slices.ContainsFunc(l.Parts[:i], func(o logPart) bool { return o.Name == p.Name }):
			return l, nil, inputErrorf("parts[%d]: %q is there twice", i, p.Name)
		case !(p.Target >= sheet.MinTempo && p.Target <= sheet.MaxTempo):
			return l, nil, inputErrorf("parts[%d]: the target of %q is %g; it is a tempo of %d to %d beats a minute", i, p.Name, p.Target, sheet.MinTempo, sheet.MaxTempo)
		}
		of[p.Name] = nil
	}
	for i, e := range l.Entries {
		if _, known := of[e.Part]; !known {
			return l, nil, inputErrorf("entries[%d]: %q is none of the parts", i, e.Part)
		}
		if e.At.IsZero() {
			return l, nil, inputErrorf("entries[%d] has no time; write at like 2026-03-05T18:00:00+01:00", i)
		}
		entry := store.Entry{Part: e.Part, Tempo: e.Tempo, Clean: e.Clean, Minutes: e.Minutes, PractisedAt: store.At(e.At)}
		if faults := studio.FaultsOfEntry(&entry); len(faults) > 0 {
			return l, nil, inputErrorf("entries[%d]: %s", i, faults[0])
		}
		of[e.Part] = append(of[e.Part], progress.Entry{Tempo: e.Tempo, Clean: e.Clean, At: e.At})
	}
	for _, p := range l.Parts {
		looks = append(looks, progress.LookAt(of[p.Name], p.Target, now.In(zone)))
	}
	return l, looks, nil
}

// jsonFault says where JSON cannot be read.
func jsonFault(err error, text string) string {
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	line := func(offset int64) int { return 1 + strings.Count(text[:min(int(offset), len(text))], "\n") }
	switch {
	case errors.As(err, &syntax):
		return fmt.Sprintf("line %d: %v", line(syntax.Offset), err)
	case errors.As(err, &kind):
		return fmt.Sprintf("line %d: %s is no %s", line(kind.Offset), kind.Field, kind.Type)
	}
	return fmt.Sprintf("line %d: it ends in the middle", line(int64(len(text))))
}

type partLook struct {
	Name   string         `json:"name"`
	State  progress.State `json:"state"`
	Tempo  float64        `json:"tempo"`
	Why    string         `json:"why"`
	Due    string         `json:"due"` // a day; empty where it is not learnt
	Advice progress.Move  `json:"advice"`
}

func (s *streams) progress(_ context.Context, c *cli.Command) error {
	l, looks, err := s.readLog(c)
	if err != nil {
		return err
	}
	parts := []partLook{}
	for i, p := range l.Parts {
		look := looks[i]
		one := partLook{p.Name, look.State, round(look.Tempo, 10), speaker.Look(look), "", look.Move}
		if !look.Due.IsZero() {
			one.Due = look.Due.Format(time.DateOnly)
		}
		parts = append(parts, one)
	}
	if c.Bool("json") {
		return s.printJSON(map[string]any{"parts": parts})
	}
	for _, p := range parts {
		fmt.Fprintf(s.out, "%s · %s · %g · %s\n     %s.\n", p.Name, p.State, p.Tempo, p.Advice, p.Why)
	}
	return nil
}

type sittingItem struct {
	Part    string        `json:"part"`
	Kind    schedule.Kind `json:"kind"`
	Minutes int           `json:"minutes"`
	Why     string        `json:"why"`
}

type sittingOut struct {
	Part string `json:"part"`
	Why  string `json:"why"`
}

func (s *streams) plan(_ context.Context, c *cli.Command) error {
	minutes := c.Int("minutes")
	if minutes < 1 || minutes > mostSitting {
		return fmt.Errorf("--minutes: a sitting has 1 to %d", mostSitting)
	}
	l, looks, err := s.readLog(c)
	if err != nil {
		return err
	}
	list, left := schedule.Sitting(looks, minutes)
	items, out := []sittingItem{}, []sittingOut{}
	for _, one := range list {
		items = append(items, sittingItem{l.Parts[one.Part].Name, one.Kind, one.Minutes, speaker.Stretch(one.Kind, looks[one.Part])})
	}
	for _, one := range left {
		out = append(out, sittingOut{l.Parts[one.Part].Name, speaker.LeftOut(one.Why, looks[one.Part])})
	}
	if c.Bool("json") {
		return s.printJSON(map[string]any{"items": items, "left_out": out})
	}
	for _, i := range items {
		fmt.Fprintf(s.out, "%3d min  %-8s %s\n          %s.\n", i.Minutes, i.Kind, i.Part, i.Why)
	}
	for _, o := range out {
		fmt.Fprintf(s.out, "left out: %s, %s.\n", o.Part, o.Why)
	}
	return nil
}
