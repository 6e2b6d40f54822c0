package main

import (
	"bytes"
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"unicode/utf8"

	"github.com/urfave/cli/v3"

	"valleyside/core/arrange"
	"valleyside/core/play"
	"valleyside/formats"
	"valleyside/formats/take"
)

// names of forms, with commas.
func formNames(list []formats.Form) string {
	names := make([]string, len(list))
	for i, f := range list {
		names[i] = string(f)
	}
	return strings.Join(names, ", ")
}

func (s *streams) exportCommand() *cli.Command {
	return &cli.Command{
		Name: "export", Usage: "write a sheet in an open form", ArgsUsage: "FILE",
		Flags: append(handFlags(), jsonFlag(),
			&cli.StringFlag{Name: "as", Usage: formNames(formats.Out()), Required: true},
			&cli.StringFlag{Name: "out", Aliases: []string{"o"}, Usage: "write to this `FILE`; without it to standard output"},
			&cli.StringSliceFlag{Name: "rung", Usage: "of all parts, or of one as in Verse=two-note; without it as written"},
			&cli.StringFlag{Name: "part", Usage: "only the part of this name, once"},
			&cli.IntFlag{Name: "count-in", Usage: "`BARS` that are counted in, in midi and wav; without it one in wav"},
			&cli.StringFlag{Name: "with", Value: "click,others", Usage: "what a wav has beside the version, with commas: click, bass, others, written, or none"},
		),
		Action: s.export,
	}
}

func (s *streams) export(_ context.Context, c *cli.Command) error {
	form, err := formats.ParseForm(c.String("as"), formats.Out())
	if err != nil {
		return fmt.Errorf("--as: %w", err)
	}
	o, err := readHand(c)
	if err != nil {
		return err
	}
	mix, written, err := readMix(c.String("with"))
	if err != nil {
		return err
	}
	countIn := c.Int("count-in")
	if form == formats.WAV && !c.IsSet("count-in") {
		countIn = 1
	}
	if countIn < 0 || countIn > mostCountIn {
		return fmt.Errorf("--count-in is %d; count 0 to %d bars", countIn, mostCountIn)
	}
	sh, err := s.readSheet(c)
	if err != nil {
		return err
	}
	rungs, err := rungsOf(c, sh.Song)
	if err != nil {
		return err
	}
	parts, err := chosenParts(sh.Song, c.String("part"))
	if err != nil {
		return err
	}
	if len(sh.Song.Parts) == 0 {
		return inputErrorf("the sheet has no parts")
	}
	only := -1
	if c.String("part") != "" {
		only = parts[0]
	}
	p := formats.Of(sh.Song, o, only, func(part int) play.Choice {
		if rungs[part] == "" {
			return play.Choice{Rung: arrange.AsWritten}
		}
		return play.Choice{Rung: rungs[part]}
	})
	p.Sheet, p.CountIn, p.Mix = sh.Format(), countIn, mix
	if written {
		p.Mix.Written = formats.Of(sh.Song, o, only, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} }).Music
	}
	return s.writeOut(c, form, p)
}

// readMix reads what a practice track has beside the version.
func readMix(text string) (mix formats.Mix, written bool, err error) {
	for _, name := range strings.Split(text, ",") {
		switch strings.TrimSpace(name) {
		case "click":
			mix.Click = true
		case "bass":
			mix.Bass = true
		case "others":
			mix.Others = true
		case "written":
			written = true
		case "none", "":
		default:
			return mix, false, fmt.Errorf("--with: %q is nothing that can be heard; write click, bass, others, written or none", name)
		}
	}
	return mix, written, nil
}

// writeOut writes a piece where it is asked for. A file is whole or not there.
func (s *streams) writeOut(c *cli.Command, form formats.Form, p formats.Piece) error {
	out := c.String("out")
	if out == "" && !c.Bool("json") {
		if err := formats.Write(s.out, form, p); err != nil {
			return inputError{err}
		}
		return nil
	}
	if out == "" {
		var b bytes.Buffer
		if err := formats.Write(&b, form, p); err != nil {
			return inputError{err}
		}
		result := map[string]any{"as": form, "bytes": b.Len()}
		if utf8.Valid(b.Bytes()) {
			result["text"] = b.String()
		} else {
			result["base64"] = base64.StdEncoding.EncodeToString(b.Bytes())
		}
		return s.printJSON(result)
	}
	f, err := os.CreateTemp(filepath.Dir(out), ".export-*")
	if err != nil {
		return inputErrorf("cannot write %s: %w", out, err)
	}
	defer os.Remove(f.Name())
	err = errors.Join(formats.Write(f, form, p), f.Close())
	if err == nil {
		err = errors.Join(os.Chmod(f.Name(), 0o644), os.Rename(f.Name(), out))
	}
	if err != nil {
		return inputErrorf("cannot write %s: %w", out, err)
	}
	if c.Bool("json") {
		size := int64(0)
		if info, err := os.Stat(out); err == nil {
			size = info.Size()
		}
		return s.printJSON(map[string]any{"as": form, "out": out, "bytes": size})
	}
	return nil
}

func (s *streams) importCommand() *cli.Command {
	return &cli.Command{
		Name: "import", Usage: "make a sheet of a song in another form", ArgsUsage: "FILE",
		Flags: []cli.Flag{jsonFlag(),
			&cli.StringFlag{Name: "from", Usage: formNames(formats.In()) + "; without it that is found out"},
			&cli.IntFlag{Name: "track", Usage: "the `NUMBER` of the track that becomes the song, from 1"},
			&cli.IntSliceFlag{Name: "beside", Usage: "the `NUMBER` of a track that becomes another player"},
			&cli.IntFlag{Name: "chords-per-bar", Usage: "of words without bar lines; without it that is guessed"},
		},
		Action: s.importSong,
	}
}

type imported struct {
	Sheet    string         `json:"sheet"`
	Problems []take.Problem `json:"problems"`
	Form     formats.Form   `json:"form"`
	Tracks   []track        `json:"tracks"`
}

type track struct {
	Track int    `json:"track"` // from 1
	Name  string `json:"name"`
	Notes int    `json:"notes"`
	Taken string `json:"taken"` // "first", "beside" or nothing
}

func (s *streams) importSong(ctx context.Context, c *cli.Command) error {
	o := formats.Options{PerBar: c.Int("chords-per-bar")}
	if c.IsSet("chords-per-bar") && (o.PerBar < 1 || o.PerBar > 8) {
		return fmt.Errorf("--chords-per-bar is %d; write 1 to 8", o.PerBar)
	}
	if name := c.String("from"); name != "" {
		form, err := formats.ParseForm(name, formats.In())
		if err != nil {
			return fmt.Errorf("--from: %w", err)
		}
		o.From = form
	}
	name, text, err := s.read(c)
	if err != nil {
		return err
	}
	r, err := formats.Read(ctx, []byte(text), o)
	if err != nil {
		return inputErrorf("%s: %w", name, err)
	}
	choice, err := chooseTracks(c, r)
	if err != nil {
		return err
	}
	sheet, problems, err := r.Take(ctx, choice)
	if err != nil {
		return inputErrorf("%s: %w", name, err)
	}
	result := imported{Sheet: sheet, Problems: problems, Form: r.Form, Tracks: tracksOf(r, choice)}
	if result.Problems == nil {
		result.Problems = []take.Problem{}
	}
	if c.Bool("json") {
		return s.printJSON(result)
	}
	for _, p := range problems {
		fmt.Fprintf(s.err, "%s: %s\n", name, p)
	}
	if len(result.Tracks) > 1 {
		for _, t := range result.Tracks {
			what := "it is taken with --track or --beside"
			switch t.Taken {
			case "first":
				what = "the song is made of it"
			case "beside":
				what = "runs beside it"
			}
			fmt.Fprintf(s.err, "%s: track %d, %s, %d notes: %s\n", name, t.Track, t.Name, t.Notes, what)
		}
	}
	_, err = fmt.Fprint(s.out, sheet)
	return err
}

// chooseTracks reads which tracks are taken.
func chooseTracks(c *cli.Command, r *formats.Reading) (take.Choice, error) {
	choice := r.Usual()
	names, _ := r.Players()
	number := func(flag string, n int) (int, error) {
		if n < 1 || n > len(names) {
			return 0, inputErrorf("%s is %d; there are %d tracks", flag, n, len(names))
		}
		return n - 1, nil
	}
	var err error
	if c.IsSet("track") {
		if choice.First, err = number("--track", c.Int("track")); err != nil {
			return choice, err
		}
		choice.Beside = nil
	}
	if c.IsSet("beside") {
		choice.Beside = nil
		for _, n := range c.IntSlice("beside") {
			i, err := number("--beside", n)
			if err != nil {
				return choice, err
			}
			choice.Beside = append(choice.Beside, i)
		}
	}
	return choice, nil
}

// tracksOf lists the tracks of what was read, and what becomes of each.
func tracksOf(r *formats.Reading, choice take.Choice) []track {
	names, notes := r.Players()
	list := make([]track, len(names))
	for i := range names {
		list[i] = track{Track: i + 1, Name: names[i], Notes: notes[i]}
		if i == choice.First {
			list[i].Taken = "first"
		}
		for _, k := range choice.Beside {
			if i == k {
				list[i].Taken = "beside"
			}
		}
	}
	return list
}
