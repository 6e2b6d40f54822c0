package main

import (
	"context"
	"fmt"
	"strings"

	"github.com/urfave/cli/v3"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/song"
	"valleyside/studio"
)

func (s *streams) fitCommand() *cli.Command {
	return &cli.Command{
		Name: "fit", Usage: "choose the versions that a student begins with, for the whole song", ArgsUsage: "FILE",
		Flags: studentFlags(), Action: s.fit,
	}
}

func (s *streams) fit(_ context.Context, c *cli.Command) error {
	st, o, err := readStudent(c)
	if err != nil {
		return err
	}
	sh, err := s.readSheet(c)
	if err != nil {
		return err
	}
	if o.Tempo == 0 {
		o.Tempo = sh.Song.Tempo
	}
	result := newFitted(sh.Song, studio.Fit(sh.Song, nil, st, o))
	if c.Bool("json") {
		return s.printJSON(result)
	}
	_, err = fmt.Fprint(s.out, result)
	return err
}

type fitted struct {
	Title        string         `json:"title"`
	Parts        []fittedPart   `json:"parts"`
	Why          string         `json:"why"`
	Weeks        int            `json:"weeks"`
	Alternatives []fittedBeside `json:"alternatives"`
}

type fittedPart struct {
	Name  string       `json:"name"`
	Rung  arrange.Rung `json:"rung"`
	Grade float64      `json:"grade"`
	New   []string     `json:"new"`
	Why   string       `json:"why"`
}

type fittedBeside struct {
	Parts []fittedRung `json:"parts"`
	Why   string       `json:"why"`
}

type fittedRung struct {
	Name string       `json:"name"`
	Rung arrange.Rung `json:"rung"`
}

func newFitted(g *song.Song, f *studio.Fitting) fitted {
	c := &f.Choice
	out := fitted{Title: g.Title, Parts: []fittedPart{}, Why: speaker.Fit(g, c) + ".", Weeks: c.Weeks, Alternatives: []fittedBeside{}}
	for i := range c.Parts {
		p := &c.Parts[i]
		out.Parts = append(out.Parts, fittedPart{g.Parts[p.Part].Name, p.Version.Rung, round(p.Version.Grade, 10), append([]string{}, speaker.News(p.New)...), speaker.FitPart(p) + "."})
	}
	for _, other := range []*fit.Set{c.Bolder, c.Safer} {
		if other == nil {
			continue
		}
		one := fittedBeside{Parts: []fittedRung{}, Why: "Or " + speaker.Beside(g, c, other) + "."}
		for i := range other.Parts {
			one.Parts = append(one.Parts, fittedRung{g.Parts[other.Parts[i].Part].Name, other.Parts[i].Version.Rung})
		}
		out.Alternatives = append(out.Alternatives, one)
	}
	if f.Capo > 0 {
		one := fittedBeside{Parts: []fittedRung{}, Why: "Or as written with a " + speaker.WithCapo(f.Capo, f.CapoShapes) + "."}
		for i := range f.Parts {
			one.Parts = append(one.Parts, fittedRung{g.Parts[f.Parts[i].Part].Name, arrange.AsWritten})
		}
		out.Alternatives = append(out.Alternatives, one)
	}
	return out
}

func (f fitted) String() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n%s\n\n", f.Title, f.Why)
	for _, p := range f.Parts {
		fmt.Fprintf(&b, "%s · grade %.1f\n     %s\n", p.Name, p.Grade, p.Why)
	}
	for _, a := range f.Alternatives {
		fmt.Fprintf(&b, "     %s\n", a.Why)
	}
	return b.String()
}
