package main

import (
	"context"
	"fmt"

	"github.com/urfave/cli/v3"

	"valleyside/core/pitch"
	"valleyside/core/sheet"
)

func (s *streams) checkCommand() *cli.Command {
	return &cli.Command{
		Name: "check", Usage: "read a sheet and list every problem", ArgsUsage: "FILE",
		Flags: []cli.Flag{jsonFlag()},
		Action: func(_ context.Context, c *cli.Command) error {
			name, text, err := s.read(c)
			if err != nil {
				return err
			}
			sh := sheet.Parse(text)
			if c.Bool("json") {
				err = s.printJSON(checked(sh))
			} else {
				s.printProblems(name, sh)
				if sh.OK() {
					parts := "one part"
					if n := len(sh.Song.Parts); n != 1 {
						parts = fmt.Sprintf("%d parts", n)
					}
					_, err = fmt.Fprintf(s.out, "%s: %s\n", sh.Song.Title, parts)
				}
			}
			if err == nil && !sh.OK() {
				return errReported
			}
			return err
		},
	}
}

type checkedSheet struct {
	OK       bool            `json:"ok"`
	Problems []sheet.Problem `json:"problems"`
	Title    string          `json:"title"`
	Parts    []checkedPart   `json:"parts"`
}

type checkedPart struct {
	Name   string `json:"name"`
	Bars   int    `json:"bars"`   // written
	Played int    `json:"played"` // with repeats
}

func checked(sh *sheet.Sheet) checkedSheet {
	c := checkedSheet{OK: sh.OK(), Problems: sh.Problems, Title: sh.Song.Title, Parts: []checkedPart{}}
	if c.Problems == nil {
		c.Problems = []sheet.Problem{}
	}
	for i := range sh.Song.Parts {
		p := &sh.Song.Parts[i]
		c.Parts = append(c.Parts, checkedPart{Name: p.Name, Bars: p.Written(), Played: p.Played()})
	}
	return c
}

// printProblems writes the problems of a sheet to standard error, a line
// each.
func (s *streams) printProblems(name string, sh *sheet.Sheet) {
	for _, p := range sh.Problems {
		fmt.Fprintf(s.err, "%s:%s\n", name, p)
	}
}

// readSheet reads a sheet that a command wants to work with.
func (s *streams) readSheet(c *cli.Command) (*sheet.Sheet, error) {
	name, text, err := s.read(c)
	if err != nil {
		return nil, err
	}
	sh := sheet.Parse(text)
	s.printProblems(name, sh)
	if !sh.OK() {
		return nil, errReported
	}
	return sh, nil
}

func (s *streams) formatCommand() *cli.Command {
	return &cli.Command{
		Name: "format", Usage: "write a sheet in its canonical layout", ArgsUsage: "FILE",
		Flags: []cli.Flag{jsonFlag()},
		Action: func(_ context.Context, c *cli.Command) error {
			sh, err := s.readSheet(c)
			if err != nil {
				return err
			}
			if c.Bool("json") {
				return s.printJSON(map[string]string{"sheet": sh.Format()})
			}
			_, err = fmt.Fprint(s.out, sh.Format())
			return err
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
