package main

import (
	"errors"
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

// What the commands that answer questions share.

// one is the single argument of a command.
func one(c *cli.Command, what string) (string, error) {
	if c.Args().Len() != 1 {
		return "", fmt.Errorf("%s takes one %s", c.Name, what)
	}
	return c.Args().First(), nil
}

// symbols reads the chords that a command was given, by name or by number in a key, in
// one argument or in several. The key is the one that is given, or of numbers the one
// that they were read in.
func symbols(c *cli.Command, key pitch.Key, numbering harmony.Numbering) ([]chord.Chord, pitch.Key, error) {
	text := strings.Join(c.Args().Slice(), " ")
	if strings.TrimSpace(text) == "" {
		return nil, key, fmt.Errorf("%s takes chords, as in %s \"Em C G D\"", c.Name, c.Name)
	}
	list, key, err := harmony.Read(text, key, numbering)
	var word *harmony.WordError
	switch {
	case errors.As(err, &word):
		return nil, key, inputErrorf("chord %d: %w", word.At, err)
	case len(list) == 0:
		return nil, key, inputErrorf("there is no chord in %q; write them with spaces, as in \"Em C G D\"", text)
	}
	return list, key, nil
}

// output writes a result as JSON or as text.
func (s *streams) output(c *cli.Command, v any, text string) error {
	if c.Bool("json") {
		return s.printJSON(v)
	}
	_, err := fmt.Fprint(s.out, text)
	return err
}

func tuningFlag() cli.Flag {
	return &cli.StringFlag{Name: "tuning", Value: "standard", Usage: "a name, or six notes low to high"}
}

func reachFlag() cli.Flag {
	return &cli.FloatFlag{Name: "reach", Value: hand.UsualReach, Usage: "widest distance the hand spans, in `MM`"}
}

func schoolFlag() cli.Flag {
	return &cli.StringFlag{Name: "school", Value: string(voicing.All), Usage: "letter, third, drone, few, open, all, shell, rootless or drop2"}
}

// tuningOf reads --tuning.
func tuningOf(c *cli.Command, name string) (neck.Tuning, error) {
	t, err := neck.Parse(c.String(name))
	if err != nil {
		return t, fmt.Errorf("--%s: %w", name, err)
	}
	return t, nil
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
