package main

import (
	"context"
	"fmt"
	"strings"

	"github.com/urfave/cli/v3"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/skill"
	"valleyside/core/song"
)

func (s *streams) needsCommand() *cli.Command {
	return &cli.Command{
		Name: "needs", Usage: "say what a song asks of a player, as it is written or on a rung, and what is missing", ArgsUsage: "FILE",
		Flags: append(studentFlags(),
			&cli.StringSliceFlag{Name: "rung", Usage: "of all parts, or of one as in 'Riff=one-finger'; without it as it is written"}),
		Action: s.needs,
	}
}

type neededSkill struct {
	Kind  skill.Kind `json:"kind"`
	Name  string     `json:"name"`
	Parts []string   `json:"parts"`
}

func (s *streams) needs(_ context.Context, c *cli.Command) error {
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
	st.Known.Skills |= hand.AllSkills &^ st.Player.New
	has := skill.Has{Student: st}
	needs := skill.Of(sh.Song, versionsOn(sh.Song, rungs, o), o.Player)
	ready, missing := has.Compare(needs)
	skills, first := s.named(sh.Song, needs), s.named(sh.Song, missing)
	if c.Bool("json") {
		return s.printJSON(map[string]any{"skills": skills, "ready": ready, "missing": first})
	}
	for _, n := range skills {
		fmt.Fprintf(s.out, "%-10s %s (%s)\n", n.Kind, n.Name, strings.Join(n.Parts, ", "))
	}
	fmt.Fprintf(s.out, "%s\n", ready)
	for _, n := range first {
		fmt.Fprintf(s.out, "  missing: %s\n", n.Name)
	}
	return nil
}

// named are needs with the parts by name.
func (s *streams) named(g *song.Song, needs []skill.Need) []neededSkill {
	list := []neededSkill{}
	for _, n := range needs {
		one := neededSkill{n.Kind, n.Name, []string{}}
		for _, i := range n.Parts {
			one.Parts = append(one.Parts, g.Parts[i].Name)
		}
		list = append(list, one)
	}
	return list
}

// versionsOn are the versions of the parts of a song on the rungs that are wished for; as they are
// written where none is, or where a part has no such rung.
func versionsOn(g *song.Song, rungs []arrange.Rung, o arrange.Options) (list []*arrange.Version) {
	a := arrange.New(g, o)
	for i := range g.Parts {
		rung := arrange.AsWritten
		if rungs[i] != "" && a.Refused(i, rungs[i]) == nil {
			rung = rungs[i]
		}
		v := a.Version(i, rung, arrange.Way{})
		list = append(list, &v)
	}
	return list
}
