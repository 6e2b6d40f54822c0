package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/urfave/cli/v3"

	"valleyside/account"
	"valleyside/store"
)

// The commands that look after the database file, on the machine that has it.

func (s *streams) backupCommand() *cli.Command {
	return &cli.Command{
		Name: "backup", Usage: "write a consistent copy of the database, also while it is served", ArgsUsage: "FILE",
		Flags: []cli.Flag{jsonFlag(), dbFlag(studioFile, studioVariable)},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return errors.New("backup takes one FILE to write")
			}
			path, err := named(c, studioVariable)
			if err != nil {
				return err
			}
			to := c.Args().First()
			if err := store.Backup(ctx, path, to); err != nil {
				return inputError{err}
			}
			if c.Bool("json") {
				return s.printJSON(map[string]string{"backup": to})
			}
			_, err = fmt.Fprintf(s.out, "Copied %s to %s\n", path, to)
			return err
		},
	}
}

func (s *streams) restoreCommand() *cli.Command {
	return &cli.Command{
		Name: "restore", Usage: "put a copy in the place of the database, with the server stopped", ArgsUsage: "FILE",
		Flags: []cli.Flag{jsonFlag(), dbFlag(studioFile, studioVariable)},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return errors.New("restore takes one FILE to read")
			}
			path, err := named(c, studioVariable)
			if err != nil {
				return err
			}
			kept, err := store.Restore(ctx, c.Args().First(), path, time.Now())
			if errors.Is(err, store.ErrServed) {
				return inputErrorf("%s is being served; stop the server, then restore", path)
			}
			if err != nil {
				return inputError{err}
			}
			if c.Bool("json") {
				return s.printJSON(map[string]string{"restored": path, "kept": kept})
			}
			fmt.Fprintf(s.out, "%s is the copy %s now\n", path, c.Args().First())
			if kept != "" {
				fmt.Fprintf(s.out, "What was there is kept as %s\n", kept)
			}
			return nil
		},
	}
}

func (s *streams) passwordCommand() *cli.Command {
	return &cli.Command{
		Name: "password", Usage: "set a teacher's password, which is read from standard input", ArgsUsage: "EMAIL",
		Description: "For whoever has the machine, where the password is lost. The server may be running; all its sessions of the teacher end.",
		Flags:       []cli.Flag{jsonFlag(), dbFlag(studioFile, studioVariable)},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return errors.New("password takes the EMAIL that the teacher signs in with")
			}
			path, err := named(c, studioVariable)
			if err != nil {
				return err
			}
			st, err := store.OpenExisting(ctx, path)
			if err != nil {
				return inputError{err}
			}
			defer st.Close()
			t, err := st.TeacherByEmail(ctx, c.Args().First())
			if errors.Is(err, store.ErrNotFound) {
				return inputErrorf("nobody signs in to %s as %s", path, c.Args().First())
			}
			if err != nil {
				return err
			}
			fmt.Fprintf(s.err, "The new password, at least %d characters, and Enter: ", account.MinPassword)
			line, _ := bufio.NewReader(s.in).ReadString('\n') // what there is, with or without an end
			password := strings.TrimRight(line, "\r\n")
			if utf8.RuneCountInString(password) < account.MinPassword {
				return inputErrorf("the password has %d characters; it needs %d", utf8.RuneCountInString(password), account.MinPassword)
			}
			if err := st.SetPassword(ctx, t.StudioID, t.ID, account.Hash(password)); err != nil {
				return err
			}
			if c.Bool("json") {
				return s.printJSON(map[string]string{"email": t.Email})
			}
			_, err = fmt.Fprintf(s.out, "%s signs in with the new password now. Every session has ended.\n", t.Email)
			return err
		},
	}
}
