// Command valleyside serves the web application and answers on the command
// line.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/urfave/cli/v3"
)

// Exit codes: the input is wrong, or the command was used wrongly.
const (
	exitInput = 1
	exitUsage = 2
)

// inputError is a mistake in what the command was given to read. Its message
// has been written already where it is empty.
type inputError struct{ error }

func inputErrorf(format string, args ...any) error {
	return inputError{fmt.Errorf(format, args...)}
}

// errReported ends a command whose messages stand on standard error already.
var errReported = inputError{errors.New("")}

func main() {
	os.Exit(run(context.Background(), os.Args, os.Stdin, os.Stdout, os.Stderr))
}

// run runs the command line and returns the exit code.
func run(ctx context.Context, args []string, in io.Reader, out, errOut io.Writer) int {
	err := root(in, out, errOut).Run(ctx, args)
	var wrong inputError
	switch {
	case err == nil:
		return 0
	case errors.As(err, &wrong):
		if wrong.Error() != "" {
			fmt.Fprintln(errOut, "valleyside:", wrong)
		}
		return exitInput
	}
	fmt.Fprintln(errOut, "valleyside:", err)
	fmt.Fprintln(errOut, "Run 'valleyside help' to see the commands and their options.")
	return exitUsage
}

// usageError passes on what was wrong with the options of a command.
func usageError(_ context.Context, _ *cli.Command, err error, _ bool) error { return err }

func root(in io.Reader, out, errOut io.Writer) *cli.Command {
	s := &streams{in: in, out: out, err: errOut}
	app := &cli.Command{
		Name:  "valleyside",
		Usage: "graded song lessons for guitar students",
		Description: "Sheets are read from FILE, or from standard input where FILE is -.\n" +
			"Exit codes: 0 all is well, 1 the input is wrong, 2 the command was used wrongly.",
		Reader: in, Writer: out, ErrWriter: errOut,
		ExitErrHandler: func(context.Context, *cli.Command, error) {},
		OnUsageError:   usageError,
		Action: func(_ context.Context, c *cli.Command) error {
			if c.Args().Present() {
				return fmt.Errorf("there is no command %q", c.Args().First())
			}
			return cli.ShowRootCommandHelp(c)
		},
		Commands: []*cli.Command{
			s.serveCommand(), s.demoCommand(), s.backupCommand(), s.restoreCommand(), s.passwordCommand(),
			s.checkCommand(), s.formatCommand(), s.importCommand(), s.exportCommand(), s.arrangeCommand(), s.fitCommand(), s.lessonCommand(), s.progressCommand(), s.planCommand(), s.needsCommand(), s.playCommand(),
			s.chordCommand(), s.nameCommand(), s.voicingsCommand(), s.progressionCommand(),
			s.numbersCommand(), s.keyCommand(), s.transposeCommand(),
			s.capoCommand(), s.retuneCommand(), s.offsetCommand(),
		},
	}
	for _, c := range app.Commands {
		c.OnUsageError = usageError
	}
	return app
}

// streams are what a command reads and writes.
type streams struct {
	in       io.Reader
	out, err io.Writer
}

// jsonFlag makes a command write JSON.
func jsonFlag() cli.Flag {
	return &cli.BoolFlag{Name: "json", Usage: "write the result as JSON"}
}

// printJSON writes v as indented JSON.
func (s *streams) printJSON(v any) error {
	e := json.NewEncoder(s.out)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

// read reads the one file that a command takes.
func (s *streams) read(c *cli.Command) (name, text string, err error) {
	if c.Args().Len() != 1 {
		return "", "", fmt.Errorf("%s takes one FILE, or - for standard input", c.Name)
	}
	name = c.Args().First()
	var b []byte
	if name == "-" {
		name = "standard input"
		b, err = io.ReadAll(s.in)
	} else {
		b, err = os.ReadFile(name)
	}
	if err != nil {
		return name, "", inputErrorf("cannot read the sheet: %w", err)
	}
	return name, string(b), nil
}
